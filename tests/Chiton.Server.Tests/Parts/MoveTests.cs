namespace Chiton.Server.Tests.Parts;

public class MoveTests
{
    private const string Scrubber = "/api/rigs/deck-scrubber";

    private static JsonElement Mechanism(JsonElement view, string name = "Drive") =>
        view.GetProperty("mechanisms").EnumerateArray().Single(m => m.GetProperty("name").GetString() == name);

    private static JsonElement Motion(JsonElement view, string key) =>
        view.GetProperty("mechanisms")
            .EnumerateArray()
            .SelectMany(m => m.GetProperty("motions").EnumerateArray())
            .Single(m => m.GetProperty("plan").GetProperty("key").GetString() == key);

    private static double In(JsonElement e, params string[] path) => path.Aggregate(e, (x, p) => x.GetProperty(p)).GetDouble();

    [Fact]
    public async Task Trials_find_the_hidden_wheel_the_track_width_after_it_and_accepting_makes_them_measured()
    {
        using var bench = new Bench();
        var before = await bench.Get(Scrubber + "/move?copy=1");
        Assert.Equal("guessed", Motion(before, "Drive: turn").GetProperty("inUse").GetProperty("kind").GetString());
        Assert.Contains("wheel diameter first", Motion(before, "Drive: turn").GetProperty("first").GetString());
        JsonElement view = default;
        for (var i = 0; i < 6; i++)
            view = await bench.Post(
                Scrubber + "/trials",
                new
                {
                    copy = 1,
                    key = "Drive: straight",
                    asked = 800,
                }
            );
        var straight = Motion(view, "Drive: straight");
        Assert.Equal(6, straight.GetProperty("trials").GetArrayLength());
        var found = In(straight, "fit", "number", "value");
        // The bench hides a wheel at least 3 % off the 56.4 mm of the design.
        Assert.InRange(Math.Abs(found / 56.4 - 1), 0.025, 0.08);
        view = await bench.Post(
            Scrubber + "/trials/accept",
            new
            {
                copy = 1,
                key = "Drive: straight",
                target = 800,
            }
        );
        Assert.Equal(found, In(Motion(view, "Drive: straight"), "inUse", "value"), 9);
        Assert.Equal("measured", Motion(view, "Drive: straight").GetProperty("inUse").GetProperty("kind").GetString());
        Assert.Equal(JsonValueKind.Null, Motion(view, "Drive: turn").GetProperty("first").ValueKind);
        for (var i = 0; i < 6; i++)
            view = await bench.Post(
                Scrubber + "/trials",
                new
                {
                    copy = 1,
                    key = "Drive: turn",
                    asked = 360,
                }
            );
        await bench.Post(Scrubber + "/trials/accept", new { copy = 1, key = "Drive: turn" });

        // A square on the bench both ways round agrees with it.
        for (var i = 0; i < 6; i++)
            view = await bench.Post(
                Scrubber + "/trials",
                new
                {
                    copy = 1,
                    key = "Drive: square",
                    asked = i % 2 == 0 ? 400 : -400,
                }
            );
        var square = Motion(view, "Drive: square").GetProperty("fit");
        Assert.Equal(1, In(square, "number", "value") / In(Motion(view, "Drive: turn"), "inUse", "value"), 0.02);
        Assert.Equal("deg/m", square.GetProperty("second").GetProperty("unit").GetString());

        // The copy's row of the comparison, its plate, the export and another copy.
        Assert.Contains(
            (await bench.Get(Scrubber + "/copies")).GetProperty("lines").EnumerateArray(),
            l => l.ToString().Contains("effective wheel diameter")
        );
        Assert.Equal("all known", (await bench.Get(Scrubber + "?copy=1")).GetProperty("plates")[2].GetProperty("line").GetString());
        Assert.Equal("1 guess", (await bench.Get(Scrubber + "?copy=2")).GetProperty("plates")[2].GetProperty("line").GetString());
        Assert.Equal(0, Motion(await bench.Get(Scrubber + "/move?copy=2"), "Drive: straight").GetProperty("trials").GetArrayLength());

        // Export and import keep the trials; undo takes them back one by one, also after a restart.
        var file = await bench.Get(Scrubber + "/export");
        var imported = (await bench.Post("/api/rigs", file)).GetProperty("id").GetString();
        Assert.Equal(found, In(Motion(await bench.Get($"/api/rigs/{imported}/move?copy=1"), "Drive: straight"), "inUse", "value"), 9);
        bench.Restart();
        await bench.Post(Scrubber + "/undo", new { copy = 1 });
        Assert.Equal(5, Motion(await bench.Get(Scrubber + "/move?copy=1"), "Drive: square").GetProperty("trials").GetArrayLength());
        Assert.Equal(6, Motion(await bench.Get(Scrubber + "/move?copy=1"), "Drive: straight").GetProperty("trials").GetArrayLength());
    }

    [Fact]
    public async Task Four_trials_find_the_seconds_for_a_half_turn()
    {
        using var bench = new Bench();
        JsonElement view = default;
        for (var i = 0; i < 4; i++)
            view = await bench.Post(
                Scrubber + "/trials",
                new
                {
                    copy = 1,
                    key = "Drive: timed turn, on the spot, 50 %",
                    asked = 180,
                    commanded = i == 0 ? 1.2
                    : i == 1 ? 1.7
                    : (double?)null,
                }
            );
        var fit = Motion(view, "Drive: timed turn, on the spot, 50 %").GetProperty("fit");
        // The last two were sent by the fit, and came near.
        Assert.All(
            Motion(view, "Drive: timed turn, on the spot, 50 %").GetProperty("trials").EnumerateArray().Skip(2),
            t => Assert.Equal(180, In(t, "measured"), 12.0)
        );
        Assert.InRange(180, In(fit, "measuredLow"), In(fit, "measuredHigh"));
        view = await bench.Post(
            Scrubber + "/trials/accept",
            new
            {
                copy = 1,
                key = "Drive: timed turn, on the spot, 50 %",
                target = 180,
            }
        );
        Assert.Contains(
            "for 180 robot deg",
            Motion(view, "Drive: timed turn, on the spot, 50 %").GetProperty("inUse").GetProperty("source").GetString()
        );
        // Another target asks for other seconds.
        Assert.True(
            In(
                Motion(
                    await bench.Get(Scrubber + "/move?copy=1&key=Drive: timed turn, on the spot, 50 %&target=90"),
                    "Drive: timed turn, on the spot, 50 %"
                ),
                "command"
            )
                < 0.7 * In(fit, "nextCommand")
        );
    }

    [Fact]
    public async Task What_the_real_rig_did_is_typed_questioned_and_kept()
    {
        using var bench = new Bench();
        var command = In(Motion(await bench.Get(Scrubber + "/move?copy=1&key=Drive: turn&target=90"), "Drive: turn"), "command");
        var wheel = Math.Round(command);
        var (status, body) = await bench.TryPost(
            Scrubber + "/trials",
            new
            {
                copy = 1,
                key = "Drive: turn",
                asked = 90,
                measured = wheel,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("what the wheels turned", body.GetProperty("errors").GetProperty("measured")[0].GetString());
        var view = await bench.Post(
            Scrubber + "/trials",
            new
            {
                copy = 1,
                key = "Drive: turn",
                asked = 90,
                measured = wheel,
                sure = true,
            }
        );
        Assert.Equal(wheel, In(Motion(view, "Drive: turn").GetProperty("trials")[0], "measured"));
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (
                await bench.TryPost(
                    Scrubber + "/trials",
                    new
                    {
                        copy = 1,
                        key = "Drive: turn",
                        asked = 1080,
                    }
                )
            ).Status
        );
    }

    [Fact]
    public async Task A_trial_is_left_out_and_all_are_started_anew()
    {
        using var bench = new Bench();
        for (var i = 0; i < 3; i++)
            await bench.Post(
                Scrubber + "/trials",
                new
                {
                    copy = 1,
                    key = "Drive: straight",
                    asked = 800,
                    measured = 780 + i,
                }
            );
        var view = await bench.Get(Scrubber + "/move?copy=1");
        var version = Motion(view, "Drive: straight").GetProperty("version").GetInt32();
        view = await bench.Post(
            Scrubber + "/trials/leave-out",
            new
            {
                copy = 1,
                key = "Drive: straight",
                baseVersion = version,
                leaveOut = 1,
            }
        );
        Assert.Equal([780, 782], Motion(view, "Drive: straight").GetProperty("trials").EnumerateArray().Select(t => In(t, "measured")));
        // Somebody who looked at the older list is told so.
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await bench.TryPost(
                    Scrubber + "/trials/leave-out",
                    new
                    {
                        copy = 1,
                        key = "Drive: straight",
                        baseVersion = version,
                    }
                )
            ).Status
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (
                await bench.TryPost(
                    Scrubber + "/trials/leave-out",
                    new
                    {
                        copy = 1,
                        key = "Drive: straight",
                        baseVersion = version + 1,
                        leaveOut = 2,
                    }
                )
            ).Status
        );
        view = await bench.Post(
            Scrubber + "/trials/leave-out",
            new
            {
                copy = 1,
                key = "Drive: straight",
                baseVersion = version + 1,
            }
        );
        Assert.Equal(0, Motion(view, "Drive: straight").GetProperty("trials").GetArrayLength());
        await bench.Post(Scrubber + "/undo", new { copy = 1 });
        Assert.Equal(2, Motion(await bench.Get(Scrubber + "/move?copy=1"), "Drive: straight").GetProperty("trials").GetArrayLength());
    }

    [Fact]
    public async Task An_accepted_speed_is_what_runs_of_the_trolley_use()
    {
        using var bench = new Bench();
        for (var i = 0; i < 5; i++)
            await bench.Post(
                Bench.Rig + "/trials",
                new
                {
                    copy = 1,
                    key = "Seed trolley: speed",
                    asked = 200 + 40 * i,
                }
            );
        var was = (await bench.Get(Bench.Rig + "/program?copy=1")).ToString();
        var rate = (await bench.Get(Bench.Rig + "?copy=1")).GetProperty("rate").ToString();
        var view = await bench.Post(Bench.Rig + "/trials/accept", new { copy = 1, key = "Seed trolley: speed" });
        Assert.InRange(Math.Abs(In(Motion(view, "Seed trolley: speed"), "inUse", "value") / 785 - 1), 0.02, 0.08);
        // What is said of this copy follows from the new number.
        Assert.NotEqual(was, (await bench.Get(Bench.Rig + "/program?copy=1")).ToString());
        Assert.Contains("counting", (await bench.Get(Bench.Rig + "?copy=1")).GetProperty("rate").ToString());
        Assert.NotEmpty(rate);
    }

    [Fact]
    public async Task Renaming_the_mechanism_takes_its_trials_along()
    {
        using var bench = new Bench();
        await bench.Post(
            Scrubber + "/trials",
            new
            {
                copy = 2,
                key = "Drive: straight",
                asked = 800,
            }
        );
        await bench.Post(
            Scrubber + "/rename",
            new
            {
                baseRevision = (await bench.Get(Scrubber)).GetProperty("revision").GetInt32(),
                what = "mechanism",
                of = (string?)null,
                from = "Drive",
                to = "Wheels",
                copy = 2,
            }
        );
        Assert.Equal(1, Motion(await bench.Get(Scrubber + "/move?copy=2"), "Wheels: straight").GetProperty("trials").GetArrayLength());
    }

    [Fact]
    public async Task Ways_to_turn_and_stop_paths_ends_and_lines_answer_from_the_copy()
    {
        using var bench = new Bench();
        var turns = await bench.Post(
            Scrubber + "/move/turns",
            new
            {
                copy = 1,
                mechanism = "Drive",
                turnDeg = 90,
                radiusMm = 200,
                motorSpeedDegPerS = 300,
            }
        );
        // Spinning: 90 · 118 / 56.4 each; pivoting: twice that on one wheel.
        Assert.Equal(90 * 118 / 56.4, In(turns[0].GetProperty("answer").GetProperty("result"), "leftWheelDeg"), 6);
        Assert.Equal(2 * 90 * 118 / 56.4, In(turns[1].GetProperty("answer").GetProperty("result"), "leftWheelDeg"), 6);
        Assert.Equal(3, turns.GetArrayLength());

        var stops = await bench.Post(
            Scrubber + "/move/stops",
            new
            {
                copy = 1,
                mechanism = "Drive",
                speedMmPerS = 150,
            }
        );
        Assert.True(In(stops[2], "wayMm") > In(stops[0], "wayMm"));
        Assert.Equal("guessed", stops[0].GetProperty("kind").GetString());

        var path = await bench.Post(
            Scrubber + "/move/path",
            new
            {
                copy = 1,
                mechanism = "Drive",
                moves = new object[]
                {
                    new { kind = "straight", amount = 800 },
                    new { kind = "turn", amount = 90 },
                    new
                    {
                        kind = "straight",
                        amount = 500,
                        byHand = true,
                    },
                },
                target = new { radiusMm = 30 },
            }
        );
        Assert.Equal("Turn", path.GetProperty("gains")[0].GetProperty("trial").GetString(), ignoreCase: true);
        Assert.Equal(
            (800, 500),
            (In(path, "targetXMm"), In(path, "targetYMm")),
            (a, b) => Math.Abs(a.Item1 - b.Item1) < 0.01 && Math.Abs(a.Item2 - b.Item2) < 0.01
        );

        var axis = await bench.Post(
            "/api/rigs/buoy-picker/move/axis",
            new
            {
                copy = 1,
                mechanism = "Jaws",
                to = 170,
            }
        );
        Assert.Contains("past the centre", axis.GetProperty("verdict").GetProperty("say").GetString());

        var follow = await bench.Post("/api/rigs/buoy-line-rover/move/follow", new { copy = 1, mechanism = "Drive" });
        Assert.Equal(3, follow.GetProperty("traces").GetArrayLength());
        Assert.NotEmpty(follow.GetProperty("say").GetString()!);
        // The contrast comes from the zones of the copy: line 12 and sand 58 over a spot of 10 mm.
        Assert.Equal(
            4.6,
            In(
                (await bench.Get("/api/rigs/buoy-line-rover/move?copy=1")).GetProperty("mechanisms")[0].GetProperty("sight"),
                "contrastPercentPerMm"
            ),
            0.25
        );
    }

    [Theory]
    [InlineData("/trials", """{"key":"Drive: hop","asked":1}""", "key")]
    [InlineData("/trials", """{"key":"Drive: straight"}""", "asked")]
    [InlineData("/trials", """{"key":"Drive: straight","asked":0}""", "asked")]
    [InlineData("/trials", """{"key":"Drive: straight","asked":1e9}""", "asked")]
    [InlineData("/trials", """{"key":"Drive: brake","asked":-5}""", "asked")]
    [InlineData("/trials", """{"key":"Drive: straight","asked":"far"}""", "asked")]
    [InlineData("/trials", """{"key":"Drive: straight","asked":800,"measured":1e300}""", "measured")]
    [InlineData("/trials/accept", """{"key":"Drive: straight"}""", "key")]
    [InlineData("/trials/accept", """{"key":"Drive: straight","target":0}""", "target")]
    [InlineData("/trials/leave-out", """{"key":"Drive: straight","baseVersion":0,"leaveOut":0}""", "leaveOut")]
    [InlineData("/move/turns", """{"mechanism":"Nothing","turnDeg":90}""", "mechanism")]
    [InlineData("/move/turns", """{"mechanism":"Drive","turnDeg":90}""", "radiusMm")]
    [InlineData("/move/stops", """{"mechanism":"Drive","speedMmPerS":0}""", "speedMmPerS")]
    [InlineData("/move/axis", """{"mechanism":"Drive","to":1}""", "mechanism")]
    [InlineData("/move/path", """{"mechanism":"Drive","moves":[]}""", "moves")]
    [InlineData("/move/path", """{"mechanism":"Scrubbing brush","moves":[{"kind":"turn","amount":1}]}""", "mechanism")]
    [InlineData("/move/follow", """{"mechanism":"Drive","bendMm":0}""", "bendMm")]
    public async Task Nonsense_is_answered_with_the_field_and_what_is_allowed(string path, string json, string field)
    {
        var bench = Bench.Shared;
        var (status, body) = await bench.TryPost(Scrubber + path, JsonDocument.Parse(json).RootElement);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains(field, body.GetProperty("errors").EnumerateObject().Select(e => e.Name));
    }

    [Fact]
    public async Task A_rig_without_mechanisms_has_an_empty_page_and_says_what_belongs_there()
    {
        using var bench = new Bench();
        var id = (await bench.Post("/api/rigs", new { name = "Bare", template = "nothing yet" })).GetProperty("id").GetString();
        Assert.Equal(0, (await bench.Get($"/api/rigs/{id}/move")).GetProperty("mechanisms").GetArrayLength());
        var (_, body) = await bench.TryPost($"/api/rigs/{id}/trials", new { key = "x", asked = 1 });
        Assert.Contains("Nothing on this rig can be tried", body.ToString());
    }
}
