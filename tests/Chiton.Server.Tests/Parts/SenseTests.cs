using System.Text;

namespace Chiton.Server.Tests.Parts;

public class SenseTests
{
    private static object Text(string text, bool csv = false, string zone = "bed tag") =>
        new
        {
            copy = 1,
            sensor = "Tag eye",
            zone,
            text,
            csv,
        };

    private static async Task<int> Count(Bench bench, int zone = 1, int copy = 1) =>
        (await bench.Get(Bench.Rig + $"/sense?copy={copy}")).GetProperty("zones")[zone].GetProperty("readings").GetArrayLength();

    [Fact]
    public async Task Sense_shows_dots_thresholds_schools_and_the_marker_sum()
    {
        using var bench = new Bench();
        var sense = await bench.Get(Bench.Rig + "/sense");
        Assert.Equal(["sleepers", "bed tag"], sense.GetProperty("zones").EnumerateArray().Select(z => z.GetProperty("zone").GetString()));
        Assert.Equal(4, sense.GetProperty("schools").GetArrayLength());
        Assert.All(
            sense.GetProperty("schools").EnumerateArray(),
            s => Assert.Equal(JsonValueKind.Number, s.GetProperty("threshold").ValueKind)
        );
        var pair = sense.GetProperty("pairs")[0];
        Assert.Equal("midpoint", pair.GetProperty("sum").GetProperty("result").GetProperty("school").GetString());
        Assert.Equal(3, pair.GetProperty("sum").GetProperty("result").GetProperty("falsePerHour").GetArrayLength());
        var marker = sense.GetProperty("marker");
        Assert.StartsWith("Roll at", marker.GetProperty("headline").GetString());
        Assert.True(marker.GetProperty("fastestMmPerS").GetDouble() > 500);
        Assert.DoesNotContain("truth", sense.ToString(), StringComparison.OrdinalIgnoreCase);
    }

    [Theory]
    [InlineData("12\nmud\n14", "text.line2", "“mud” is not a number")]
    [InlineData("12\nNaN", "text.line2", "“NaN” is not a number")]
    [InlineData("12\n400", "text.line2", "outside 0 to 100")]
    [InlineData("", "text", "no reading")]
    public async Task Bad_text_names_the_line_and_keeps_what_was_kept(string text, string field, string says)
    {
        var bench = Bench.Shared;
        var (status, problem) = await bench.TryPost(Bench.Rig + "/readings", Text(text));
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains(says, problem.GetProperty("errors").GetProperty(field)[0].GetString());
        Assert.Equal(40, await Count(bench));
    }

    [Fact]
    public async Task One_reading_is_kept_and_said_to_be_too_few()
    {
        using var bench = new Bench();
        Assert.Equal(1, (await bench.Post(Bench.Rig + "/readings", Text("55"))).GetProperty("count").GetInt32());
        Assert.Equal(41, await Count(bench));
        var alone = await bench.Post(
            "/api/sums/threshold",
            new { lists = new[] { new { readings = new[] { 1.0, 2, 3 } }, new { readings = new[] { 5.0, 6, 7 } } }, samplePeriodMs = 10 }
        );
        Assert.Equal(4, alone.GetProperty("result").GetProperty("threshold").GetDouble());
    }

    [Fact]
    public async Task Overlapping_zones_lose_the_middle_of_the_gap_and_say_why()
    {
        using var bench = new Bench();
        await bench.Post(Bench.Rig + "/readings", Text("60\n61", zone: "sleepers"));
        var (status, problem) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/calibration",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                baseVersion = 2,
                school = "midGap",
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("touch or overlap", problem.GetProperty("errors").GetProperty("school")[0].GetString());
        var sense = await bench.Get(Bench.Rig + "/sense");
        Assert.Contains(
            sense.GetProperty("pairs")[0].GetProperty("sum").GetProperty("cautions").EnumerateArray(),
            c => c.GetString()!.Contains("overlap")
        );
    }

    [Fact]
    public async Task A_csv_fills_both_zones()
    {
        using var bench = new Bench();
        await bench.Post(Bench.Rig + "/readings", Text("zone,reading\nsleepers,21\nbed tag,56\nsleepers,22\n", csv: true));
        Assert.Equal(42, await Count(bench, 0));
        Assert.Equal(41, await Count(bench, 1));
        Assert.Equal(40, await Count(bench, 1, 2));
    }

    [Fact]
    public async Task More_than_4_MB_is_refused_with_a_sentence()
    {
        // Only a real server limits the body: the test host reads it from memory.
        using var live = new LiveServer();
        var response = await live.Http.PostAsync(
            Bench.Rig + "/readings",
            new StringContent(
                $$"""{"copy":1,"sensor":"Tag eye","zone":"bed tag","csv":false,"text":"{{new string('5', 5_000_000)}}"}""",
                Encoding.UTF8,
                "application/json"
            )
        );
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, response.StatusCode);
        Assert.Contains("At most 4 MB", await response.Content.ReadAsStringAsync());
        Assert.Contains("\"count\":40", await live.Http.GetStringAsync(Bench.Rig + "/sense"));
    }

    [Fact]
    public async Task Recording_takes_the_time_it_says_and_comes_from_this_copys_controller()
    {
        using var bench = new Bench();
        var taken = await bench.Post(
            Bench.Rig + "/recordings",
            new
            {
                copy = 2,
                sensor = "Tag eye",
                zone = "sleepers",
                seconds = 0.5,
            }
        );
        Assert.Equal(50, taken.GetProperty("count").GetInt32());
        Assert.Equal(90, await Count(bench, 0, 2));
        Assert.Equal(40, await Count(bench, 0, 1));
        var readings = (await bench.Get(Bench.Rig + "/sense?copy=2"))
            .GetProperty("zones")[0]
            .GetProperty("readings")
            .EnumerateArray()
            .Skip(40)
            .Select(r => r.GetDouble())
            .ToArray();
        // Copy 2 sees its sleepers at 25.1 ± 1.9: the mean of 50 lies within 5 standard errors.
        Assert.InRange(readings.Average(), 25.1 - 5 * 1.9 / Math.Sqrt(50), 25.1 + 5 * 1.9 / Math.Sqrt(50));
    }

    [Fact]
    public async Task Stopping_a_recording_keeps_the_readings_until_then()
    {
        using var bench = new Bench();
        var recording = bench.Post(
            Bench.Rig + "/recordings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "bed tag",
                seconds = 30,
                job = "long",
            }
        );
        HttpResponseMessage stopped;
        do
        {
            // Long enough that readings have come in by the time the first stop finds the job.
            await Task.Delay(1500);
            stopped = await bench.Http.DeleteAsync("/api/jobs/long");
        } while (stopped.StatusCode == HttpStatusCode.NotFound);
        var taken = await recording;
        Assert.True(taken.GetProperty("stopped").GetBoolean());
        Assert.InRange(taken.GetProperty("count").GetInt32(), 1, 2999);
        Assert.Equal(40 + taken.GetProperty("count").GetInt32(), await Count(bench));
    }

    [Theory]
    [InlineData("seconds", 0.1, "sleepers")]
    [InlineData("seconds", 61, "sleepers")]
    [InlineData("zone", 1, "weed")]
    public async Task A_recording_that_cannot_be_is_refused(string field, double seconds, string zone)
    {
        var bench = Bench.Shared;
        var (status, problem) = await bench.TryPost(
            Bench.Rig + "/recordings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone,
                seconds,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty(field, out _));
    }

    [Fact]
    public async Task Choosing_a_school_moves_the_zones_and_a_stale_choice_is_refused()
    {
        using var bench = new Bench();
        var before = await bench.Get(Bench.Rig + "/sense");
        var (ok, _) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/calibration",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                baseVersion = 1,
                school = "cost",
                costRatio = 20,
            }
        );
        Assert.Equal(HttpStatusCode.OK, ok);
        var after = await bench.Get(Bench.Rig + "/sense");
        static double Threshold(JsonElement s) =>
            s.GetProperty("pairs")[0].GetProperty("sum").GetProperty("result").GetProperty("threshold").GetDouble();
        Assert.NotEqual(Threshold(before), Threshold(after));
        var (stale, _) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/calibration",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                baseVersion = 1,
                school = "equalRisk",
            }
        );
        Assert.Equal(HttpStatusCode.Conflict, stale);
    }

    [Fact]
    public async Task Who_and_where_are_kept_with_the_readings()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "bed tag",
                text = "55\n56\n57",
                csv = false,
                who = "Limpets",
                conditions = "hall, blinds down",
            }
        );
        var history = await bench.Get(Bench.Rig + "/sense/history?copy=1");
        Assert.Equal([2, 1], history.GetProperty("versions").EnumerateArray().Select(v => v.GetProperty("version").GetInt32()));
        var last = history.GetProperty("recordings").EnumerateArray().Last();
        Assert.Equal(
            ("Limpets", "hall, blinds down", 3, "pasted, on the stand-in"),
            (
                last.GetProperty("who").GetString(),
                last.GetProperty("conditions").GetString(),
                last.GetProperty("count").GetInt32(),
                last.GetProperty("origin").GetString()
            )
        );
        var (status, _) = await bench.TryPost(
            Bench.Rig + "/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "bed tag",
                text = "55",
                csv = false,
                who = new string('x', 81),
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
    }

    [Fact]
    public async Task Setting_aside_needs_a_reason_changes_the_rate_and_can_be_undone()
    {
        using var bench = new Bench();
        await bench.Post(Bench.Rig + "/readings", Text("49", zone: "sleepers"));
        object Aside(double value, string? reason, int version = 2) =>
            new
            {
                copy = 1,
                sensor = "Tag eye",
                baseVersion = version,
                zone = "sleepers",
                value,
                reason,
            };
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost(Bench.Rig + "/sense/set-aside", Aside(49, " "))).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost(Bench.Rig + "/sense/set-aside", Aside(77, "not there"))).Status);
        Assert.Equal(HttpStatusCode.Conflict, (await bench.TryPost(Bench.Rig + "/sense/set-aside", Aside(49, "a hand", 1))).Status);
        async Task<(int Count, int Readings)> Look()
        {
            var zone = (await bench.Get(Bench.Rig + "/sense")).GetProperty("zones")[0];
            return (zone.GetProperty("figures").GetProperty("count").GetInt32(), zone.GetProperty("readings").GetArrayLength());
        }
        await bench.Post(Bench.Rig + "/sense/set-aside", Aside(49, "a hand"));
        Assert.Equal((40, 41), await Look());
        var undone = await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal("set 49 of sleepers aside: a hand", undone.GetProperty("what").GetString());
        Assert.Equal((41, 41), await Look());
    }

    [Fact]
    public async Task An_earlier_calibration_is_compared_and_restored()
    {
        using var bench = new Bench();
        await bench.Post(Bench.Rig + "/readings", Text(string.Join('\n', Enumerable.Repeat("44\n46\n45", 40)), zone: "sleepers"));
        var against = await bench.Get(Bench.Rig + "/sense/compare?copy=1&version=1&withCopy=1");
        var sleepers = against.GetProperty("zones")[0];
        Assert.True(sleepers.GetProperty("moved").GetBoolean());
        Assert.False(sleepers.GetProperty("holds").GetBoolean());
        var copies = await bench.Get(Bench.Rig + "/sense/compare?copy=1&version=1&withCopy=2");
        Assert.Contains("moved up", copies.GetProperty("zones")[0].GetProperty("say").GetString());
        await bench.Post(
            Bench.Rig + "/sense/restore",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                baseVersion = 2,
                version = 1,
            }
        );
        Assert.Equal(40, await Count(bench, 0));
        Assert.Equal(3, (await bench.Get(Bench.Rig + "/sense")).GetProperty("version").GetInt32());
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await bench.TryPost(
                    Bench.Rig + "/sense/restore",
                    new
                    {
                        copy = 1,
                        sensor = "Tag eye",
                        baseVersion = 3,
                        version = 9,
                    }
                )
            ).Status
        );
    }

    [Theory]
    [InlineData("bed tag")]
    [InlineData("Sleepers")]
    [InlineData("3 tags")]
    [InlineData("")]
    [InlineData("mud, wet")]
    public async Task A_zone_needs_a_good_name_of_its_own(string name)
    {
        var bench = Bench.Shared;
        var (status, problem) = await bench.TryPost(
            Bench.Rig + "/zones",
            new
            {
                baseRevision = 2,
                sensor = "Tag eye",
                name,
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty("name", out _));
    }

    [Fact]
    public async Task A_new_zone_is_a_revision_of_the_design_and_can_be_used_at_once()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/zones",
            new
            {
                baseRevision = 2,
                sensor = "Tag eye",
                name = "depot tag",
                copy = 1,
            }
        );
        Assert.Equal(3, await bench.Revision());
        await bench.Save((await bench.Script()).Replace("after 30 s: go Lost", "when Tag eye becomes depot tag for 3 readings: go Lost"));
        Assert.Empty((await bench.Get(Bench.Rig + "/program")).GetProperty("diagnostics").EnumerateArray());
        var (status, problem) = await bench.TryPost(Bench.Rig + "/runs", new { seed = 1 });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("no readings of “depot tag”", problem.GetProperty("title").GetString());
        await bench.Post(
            Bench.Rig + "/recordings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "depot tag",
                seconds = 0.5,
            }
        );
        await bench.Post(Bench.Rig + "/runs", new { seed = 1 });
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(2, (await bench.Get(Bench.Rig + "/sense")).GetProperty("zones").GetArrayLength());
    }

    [Fact]
    public async Task A_hundred_thousand_readings_are_taken_in_and_a_zone_never_grows_past_what_can_be_judged()
    {
        using var bench = new Bench();
        var many = string.Join('\n', Enumerable.Range(0, 100_000).Select(i => 20 + i % 5));
        await bench.Post(Bench.Rig + "/readings", Text(many, zone: "sleepers"));
        Assert.Equal(100_040, await Count(bench, 0));
        var (status, problem) = await bench.TryPost(Bench.Rig + "/readings", Text(many, zone: "sleepers"));
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("at most 200000 readings", problem.GetProperty("errors").GetProperty("text")[0].GetString());
        Assert.Equal(100_040, await Count(bench, 0));
        await bench.Post(Bench.Rig + "/runs", new { seed = 1 });
    }
}
