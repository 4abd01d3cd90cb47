using Chiton.Core.Rigs;
using Chiton.Data;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Server.Tests.Parts;

/// <summary>Real copies and stand-ins, over the API: what may come from where, and how it is said.</summary>
public class UnitTests
{
    private static async Task<string> NewRig(Bench bench) =>
        (await bench.Post("/api/rigs", new { template = "rail vehicle", name = "Cart" })).GetProperty("id").GetString()!;

    private static async Task<System.Text.Json.JsonElement> Refused(Bench bench, string path, object body)
    {
        var (status, answer) = await bench.TryPost(path, body);
        Assert.Equal(System.Net.HttpStatusCode.BadRequest, status);
        return answer;
    }

    private static async Task<System.Text.Json.JsonElement> Get400(Bench bench, string path)
    {
        var response = await bench.Http.GetAsync(path);
        Assert.Equal(System.Net.HttpStatusCode.BadRequest, response.StatusCode);
        return System.Text.Json.JsonDocument.Parse(await response.Content.ReadAsStringAsync()).RootElement;
    }

    private static async Task Put(Bench bench, string path, object body)
    {
        var (status, answer) = await bench.Send(HttpMethod.Put, path, body);
        Assert.True(status == System.Net.HttpStatusCode.OK, answer.ToString());
    }

    private static ChitonDb Db(Bench bench) =>
        new(
            new DbContextOptionsBuilder<ChitonDb>()
                .UseSqlite($"Data Source={Path.Combine(bench.Folder, "chiton.db")};Pooling=False")
                .Options
        );

    private static string Errors(System.Text.Json.JsonElement problem) => problem.GetProperty("errors").ToString();

    [Fact]
    public async Task A_rig_starts_with_a_stand_in_and_one_call_adds_the_real_one()
    {
        using var bench = new Bench();
        var id = await NewRig(bench);
        var rig = await bench.Get($"/api/rigs/{id}");
        Assert.Equal("standIn", rig.GetProperty("kind").GetString());
        var real = await bench.Post(
            $"/api/rigs/{id}/copies",
            new
            {
                team = "Crabs",
                kind = "real",
                unit = "Table 3",
            }
        );
        Assert.Equal(
            (2, "real", "Table 3"),
            (real.GetProperty("number").GetInt32(), real.GetProperty("kind").GetString(), real.GetProperty("unit").GetString())
        );
        rig = await bench.Get($"/api/rigs/{id}?copy=2");
        Assert.Equal(["standIn", "real"], rig.GetProperty("copies").EnumerateArray().Select(c => c.GetProperty("kind").GetString()));
        // Nothing comes from the simulated controller there: readings, trials, positions.
        var sensor = (await bench.Get($"/api/rigs/{id}/sense?copy=2")).GetProperty("sensor").GetString();
        var zone = (await bench.Get($"/api/rigs/{id}/sense?copy=2")).GetProperty("zones")[0].GetProperty("zone").GetString();
        foreach (
            var (path, body) in new (string, object)[]
            {
                (
                    "recordings",
                    new
                    {
                        copy = 2,
                        sensor,
                        zone,
                        seconds = 1,
                    }
                ),
                (
                    "trials",
                    new
                    {
                        copy = 2,
                        key = "Vehicle: speed",
                        asked = 50,
                    }
                ),
            }
        )
        {
            var refused = await Refused(bench, $"/api/rigs/{id}/{path}", body);
            if (path == "recordings")
                Assert.Contains("is on a table", Errors(refused));
        }
        // What is pasted says where it was read.
        await bench.Post(
            $"/api/rigs/{id}/readings",
            new
            {
                copy = 2,
                sensor,
                zone,
                text = "21\n22\n23",
            }
        );
        await bench.Post(
            $"/api/rigs/{id}/readings",
            new
            {
                copy = 1,
                sensor,
                zone,
                text = "31\n32\n33",
            }
        );
        async Task<string> Origin(int copy) =>
            (await bench.Get($"/api/rigs/{id}/sense/history?copy={copy}&sensor={sensor}"))
                .GetProperty("recordings")[0]
                .GetProperty("origin")
                .GetString()!;
        Assert.Equal("pasted, on the table", await Origin(2));
        Assert.Equal("pasted, on the stand-in", await Origin(1));
        var beside = await bench.Get($"/api/rigs/{id}/copies/beside");
        Assert.Equal((2, 1), (beside.GetProperty("real").GetInt32(), beside.GetProperty("standIn").GetInt32()));
        var line = beside.GetProperty("lines").EnumerateArray().Single(l => l.GetProperty("name").GetString() == $"{sensor}, {zone}");
        Assert.Equal("3 readings on the table", line.GetProperty("real").GetProperty("source").GetString());
        Assert.Equal("3 readings on the stand-in", line.GetProperty("standIn").GetProperty("source").GetString());
        Assert.True(line.GetProperty("differs").GetBoolean());
        Assert.Contains("10 points less on the table", line.GetProperty("say").GetString());
        Assert.Contains("Copy 1 is stand-in", Errors(await Get400(bench, $"/api/rigs/{id}/copies/beside?real=1")));
    }

    [Fact]
    public async Task Only_what_goes_there_is_a_reason_to_send()
    {
        using var bench = new Bench();
        var id = await NewRig(bench);
        async Task<bool> Holds() => (await bench.Get($"/api/rigs/{id}")).GetProperty("holdsThis").GetBoolean();
        Assert.False(await Holds());
        await bench.Post($"/api/rigs/{id}/send", new { copy = 1 });
        Assert.True(await Holds());
        var design = System.Text.Json.Nodes.JsonNode.Parse((await bench.Get($"/api/rigs/{id}/design")).GetProperty("design").ToString())!;
        design["place"] = "Another shed";
        await Put(bench, $"/api/rigs/{id}/design", new { baseRevision = 1, design });
        Assert.True(await Holds());
        await Put(
            bench,
            $"/api/rigs/{id}/program",
            new { baseRevision = 2, script = "program Cart\n\nregion Main\n  state Idle, initial\n" }
        );
        Assert.False(await Holds());
        await bench.Post($"/api/rigs/{id}/send", new { copy = 1 });
        Assert.True(await Holds());
        var sense = await bench.Get($"/api/rigs/{id}/sense");
        await bench.Post(
            $"/api/rigs/{id}/readings",
            new
            {
                copy = 1,
                sensor = sense.GetProperty("sensor").GetString(),
                zone = sense.GetProperty("zones")[0].GetProperty("zone").GetString(),
                text = "1\n2\n3",
            }
        );
        Assert.False(await Holds());
    }

    [Fact]
    public async Task A_file_from_before_is_asked_about_and_split_once()
    {
        using var bench = new Bench();
        var file = System.Text.Json.Nodes.JsonNode.Parse(await bench.Http.GetStringAsync("/api/rigs/seed-trolley/export"))!;
        foreach (var copy in file["copies"]!.AsArray())
            copy!.AsObject().Remove("kind");
        var id = (await bench.Post("/api/rigs", file)).GetProperty("id").GetString();
        var copies = (await bench.Get($"/api/rigs/{id}")).GetProperty("copies").EnumerateArray().ToArray();
        Assert.All(copies, c => Assert.Equal(("real", true), (c.GetProperty("kind").GetString(), c.GetProperty("asksKind").GetBoolean())));
        object record = new
        {
            copy = 1,
            sensor = "Tag eye",
            zone = "bed tag",
            seconds = 1,
        };
        Assert.Contains("until it is said", Errors(await Refused(bench, $"/api/rigs/{id}/recordings", record)));
        Assert.Contains("kind", Errors(await Refused(bench, $"/api/rigs/{id}/copies/1/kind", new { kind = "both" })));
        await bench.Post($"/api/rigs/{id}/copies/1/kind", new { kind = "standIn" });
        await bench.Post($"/api/rigs/{id}/recordings", record);
        Assert.Contains("said already", Errors(await Refused(bench, $"/api/rigs/{id}/copies/1/kind", new { kind = "real" })));
        // What came with the file does not tell: split, all of it stays with the real one, and the stand-in is empty.
        var split = await bench.Post($"/api/rigs/{id}/copies/2/kind", new { kind = "split" });
        Assert.Equal(4, split.GetProperty("standIn").GetInt32());
        Assert.NotEqual(
            0,
            (await bench.Get($"/api/rigs/{id}/sense?copy=2&sensor=Tag eye"))
                .GetProperty("zones")[0]
                .GetProperty("readings")
                .GetArrayLength()
        );
        Assert.Equal(
            0,
            (await bench.Get($"/api/rigs/{id}/sense?copy=4&sensor=Tag eye"))
                .GetProperty("zones")[0]
                .GetProperty("readings")
                .GetArrayLength()
        );
        // A file from now says it, and is not asked about.
        var again = (
            await bench.Post("/api/rigs", System.Text.Json.Nodes.JsonNode.Parse(await bench.Http.GetStringAsync($"/api/rigs/{id}/export"))!)
        )
            .GetProperty("id")
            .GetString();
        Assert.Equal(
            ["standIn False", "real False", "real True", "standIn False"],
            (await bench.Get($"/api/rigs/{again}"))
                .GetProperty("copies")
                .EnumerateArray()
                .Select(c => $"{c.GetProperty("kind").GetString()} {c.GetProperty("asksKind").GetBoolean()}")
        );
    }

    [Fact]
    public async Task Split_puts_what_was_surely_recorded_on_the_stand_in_and_leaves_the_rest()
    {
        using var bench = new Bench();
        var id = await NewRig(bench);
        var sense = await bench.Get($"/api/rigs/{id}/sense");
        var (sensor, zones) = (sense.GetProperty("sensor").GetString(), sense.GetProperty("zones"));
        string? zone = zones[0].GetProperty("zone").GetString();
        await bench.Post(
            $"/api/rigs/{id}/readings",
            new
            {
                copy = 1,
                sensor,
                zone,
                text = "11\n12\n13",
            }
        );
        var things = (await bench.Get($"/api/rigs/{id}/sense"))
            .GetProperty("things")
            .EnumerateArray()
            .Select(t => t.GetProperty("name").GetString())
            .ToArray();
        await bench.Post(
            $"/api/rigs/{id}/recordings",
            new
            {
                copy = 1,
                sensor,
                zone,
                over = things[0],
                seconds = 1,
            }
        );
        await bench.Post($"/api/rigs/{id}/send", new { copy = 1 });
        // As a copy from before: nobody has said what it is.
        await using (var db = Db(bench))
        {
            var row = await db.Copies.FirstAsync(c => c.RigId == id);
            row.AsksKind = true;
            (await db.Units.FirstAsync(u => u.Id == row.UnitId)).Kind = UnitKind.Real;
            await db.SaveChangesAsync();
        }
        await bench.Post($"/api/rigs/{id}/copies/1/kind", new { kind = "split" });
        async Task<double[]> Readings(int copy) =>
            [
                .. (await bench.Get($"/api/rigs/{id}/sense?copy={copy}&sensor={sensor}"))
                    .GetProperty("zones")[0]
                    .GetProperty("readings")
                    .EnumerateArray()
                    .Select(r => r.GetDouble()),
            ];
        var kept = await Readings(1);
        Assert.Equal([11, 12, 13], kept);
        Assert.True((await Readings(2)).Length > 10);
        Assert.True(
            (await bench.Get($"/api/rigs/{id}?copy=1")).GetProperty("controllerRevision").ValueKind == System.Text.Json.JsonValueKind.Number
        );
        Assert.True(
            (await bench.Get($"/api/rigs/{id}?copy=2")).GetProperty("controllerRevision").ValueKind == System.Text.Json.JsonValueKind.Null
        );
        // Undo ends at the split, or it would bring the mixture back.
        Assert.Equal(System.Text.Json.JsonValueKind.Null, (await bench.Get($"/api/rigs/{id}?copy=1")).GetProperty("undo").ValueKind);
        await bench.TryPost($"/api/rigs/{id}/undo", new { copy = 1 });
        Assert.Equal(kept, await Readings(1));
        // What is done after it can be taken back.
        await bench.Post(
            $"/api/rigs/{id}/readings",
            new
            {
                copy = 1,
                sensor,
                zone,
                text = "14",
            }
        );
        await bench.Post($"/api/rigs/{id}/undo", new { copy = 1 });
        Assert.Equal(kept, await Readings(1));
    }

    [Fact]
    public async Task On_a_real_copy_preflight_is_what_a_person_saw_and_nothing_is_tried_for_them()
    {
        using var bench = new Bench();
        const string rig = "/api/rigs/deck-scrubber";
        var copy = (await bench.Post(rig + "/copies", new { team = "", kind = "real" })).GetProperty("number").GetInt32();
        var refused = await Refused(
            bench,
            rig + "/preflight/try",
            new
            {
                copy,
                device = "Bumper",
                action = "read",
            }
        );
        Assert.Contains("nothing is tried from the simulated controller", Errors(refused));
        Assert.Contains("nothing is planted", Errors(await Refused(bench, rig + "/preflight/plant", new { copy })));
        Task<System.Text.Json.JsonElement> Saw(object seen) => bench.Post(rig + "/preflight/seen", new { copy, seen });
        Assert.Contains(
            "There is no device",
            Errors(await Refused(bench, rig + "/preflight/seen", new { copy, seen = new { device = "Keel", action = "move" } }))
        );
        Assert.Contains(
            "no more than at rest",
            Errors(
                await Refused(
                    bench,
                    rig + "/preflight/seen",
                    new
                    {
                        copy,
                        seen = new
                        {
                            action = "battery",
                            restV = 7.1,
                            loadV = 7.4,
                        },
                    }
                )
            )
        );
        await Saw(
            new
            {
                action = "battery",
                restV = 7.4,
                loadV = 7.1,
            }
        );
        // A motor that turns the other way, three times, is named.
        System.Text.Json.JsonElement view = default;
        for (var i = 0; i < 3; i++)
            view = await Saw(
                new
                {
                    device = "Left wheel",
                    action = "move",
                    moved = new[] { "Left wheel" },
                    way = "backward",
                }
            );
        Assert.Equal("7.4 V at rest, 7.1 V with everything on.", view.GetProperty("pack").GetString());
        Assert.Contains("reversed-motor", view.GetProperty("faults").ToString());
        Assert.Equal(0, view.GetProperty("canPlant").GetArrayLength());
        for (var i = 0; i < 3; i++)
            view = await Saw(
                new
                {
                    device = "Bumper",
                    action = "read",
                    moved = new[] { "Bumper" },
                }
            );
        Assert.Equal(
            "works",
            view.GetProperty("devices")
                .EnumerateArray()
                .First(d => d.GetProperty("device").GetString() == "Bumper")
                .GetProperty("state")
                .GetString()
        );
    }

    [Fact]
    public async Task A_rail_vehicle_of_ones_own_can_be_tried_from_the_first_minute()
    {
        using var bench = new Bench();
        var id = await NewRig(bench);
        var motions = (await bench.Get($"/api/rigs/{id}/move"))
            .GetProperty("mechanisms")[0]
            .GetProperty("motions")
            .EnumerateArray()
            .ToArray();
        string[] keys = [.. motions.Select(m => m.GetProperty("plan").GetProperty("key").GetString()!)];
        Assert.Superset(new HashSet<string> { "speed", "least power", "brake", "coast" }, keys.Select(k => k.Split(": ")[1]).ToHashSet());
        // What nobody tried is a guess, with a span of its kind.
        Assert.All(
            motions.Where(m => m.GetProperty("inUse").ValueKind == System.Text.Json.JsonValueKind.Object),
            m => Assert.Equal("guessed", m.GetProperty("inUse").GetProperty("kind").GetString())
        );
        var speed = keys.First(k => k.EndsWith(": speed"));
        for (var i = 0; i < 5; i++)
            await bench.Post(
                $"/api/rigs/{id}/trials",
                new
                {
                    copy = 1,
                    key = speed,
                    asked = 250,
                }
            );
        var after = await bench.Post(
            $"/api/rigs/{id}/trials/accept",
            new
            {
                copy = 1,
                key = speed,
                target = 250,
            }
        );
        Assert.Contains("5 trials on the stand-in", after.ToString());
    }

    [Theory]
    [InlineData(0, 0, 0, UnitKind.StandIn, false)]
    [InlineData(3, 0, 0, UnitKind.StandIn, false)]
    [InlineData(3, 0, 9, UnitKind.StandIn, false)]
    [InlineData(0, 2, 0, UnitKind.Real, false)]
    [InlineData(0, 2, 9, UnitKind.Real, false)]
    [InlineData(0, 0, 9, UnitKind.Real, true)]
    [InlineData(1, 1, 0, UnitKind.Real, true)]
    public void A_copy_from_before_is_judged_by_the_rows_that_tell(int recorded, int typed, int unsure, UnitKind kind, bool asks) =>
        Assert.Equal((kind, asks), Units.Judge(new(recorded, typed, unsure)));
}
