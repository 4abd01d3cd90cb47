using System.Diagnostics;
using Chiton.Core.Sensing;

namespace Chiton.Server.Tests.Lines;

/// <summary>A real copy on its line, by the page's own calls: readings, trials, preflight and runs, and a plug that comes out.</summary>
[Collection("Behind everything else")]
public class LineTests
{
    private const string Rig = "seed-trolley";

    private static async Task<(Bench Bench, BoxOnTable Box, int Copy)> Table(string rig = Rig)
    {
        var bench = new Bench();
        var box = new BoxOnTable(rig);
        var copy = await BoxOnTable.Real(bench, rig);
        await BoxOnTable.Join(bench, rig, copy, box.To);
        return (bench, box, copy);
    }

    [Fact]
    public async Task A_box_is_joined_and_says_what_it_is()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("volts").ValueKind == JsonValueKind.Number);
        Assert.Equal("Seed trolley", line.GetProperty("name").GetString());
        Assert.True(line.GetProperty("standIn").GetBoolean());
        Assert.Contains("a box that stands in", line.GetProperty("say").GetString());
        Assert.Equal("Tag eye", line.GetProperty("sensors")[0].GetProperty("name").GetString());
        Assert.Equal(10, line.GetProperty("sensors")[0].GetProperty("periodMs").GetDouble());
        Assert.Equal(0, line.GetProperty("missing").GetArrayLength());
        Assert.Equal(0, line.GetProperty("complaints").GetArrayLength());
        // Two ways say who is joined: it is let go, and answers no more.
        var response = await bench.Http.DeleteAsync($"/api/rigs/{Rig}/line?copy={copy}");
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        Assert.Equal("none", (await bench.Get($"/api/rigs/{Rig}/line?copy={copy}")).GetProperty("standing").GetString());
    }

    [Fact]
    public async Task Readings_are_recorded_with_the_clock_of_the_box_and_say_that_they_come_from_one()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        var zone = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("zone").GetString();
        var taken = await BoxOnTable.Record(bench, Rig, copy, zone, 1.5);
        var count = taken.GetProperty("count").GetInt32();
        Assert.InRange(count, 50, 250);
        Assert.Contains("from a box: one every 10 ms by the clock of the board", taken.GetProperty("say").GetString());
        var history = await bench.Get($"/api/rigs/{Rig}/sense/history?copy={copy}&sensor=Tag eye");
        var last = history.GetProperty("recordings").EnumerateArray().Last();
        Assert.Equal("over the line, from a box", last.GetProperty("origin").GetString());
        Assert.Contains("10 ms", last.GetProperty("clock").GetString());
        // In words wherever the number is: of those that came before, nothing else is said than it was.
        var board = await bench.Get($"/api/rigs/{Rig}/program/board?language=cpp&copy={copy}");
        Assert.Contains($"{count} of them over the line, from a box", board.GetProperty("numbers").ToString());
        // What goes out has the times, and comes in with them.
        var times = BoxOnTable.Times(await BoxOnTable.Own(bench, Rig, copy));
        Assert.Equal(count, times.Length);
        Assert.All(times.Zip(times.Skip(1)), p => Assert.Equal(10_000, p.Second - p.First));
        var response = await bench.Http.PostAsJsonAsync("/api/rigs", await bench.Get($"/api/rigs/{Rig}/export"));
        Assert.True(response.IsSuccessStatusCode, await response.Content.ReadAsStringAsync());
        var again = (await response.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("id").GetString();
        Assert.Equal(times, BoxOnTable.Times(await BoxOnTable.Own(bench, again!, copy)));
    }

    [Fact]
    public async Task A_trial_is_told_measured_and_kept_with_what_was_told()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        var key = await BoxOnTable.Timed(bench, Rig, copy);
        var told = (await BoxOnTable.Tell(bench, Rig, copy, key)).Body;
        Assert.Contains("for 1.2 s", told.GetProperty("told").GetString());
        Assert.Contains("Measure what it did", told.GetProperty("say").GetString());
        var seen = box.Seen.First(s => s.Contains("has gone", StringComparison.Ordinal));
        var measured = double.Parse(seen.Split(' ')[^2], System.Globalization.CultureInfo.InvariantCulture);
        await BoxOnTable.Measured(bench, Rig, copy, key, measured);
        var trial = BoxOnTable.LastTrial(await BoxOnTable.Own(bench, Rig, copy), key);
        Assert.Equal(measured, trial.GetProperty("measured").GetDouble());
        Assert.Contains("for 1.2 s, by a box", trial.GetProperty("told").GetString());
        // In words wherever the number is: what a box did was not done on the table.
        var move = await bench.Get($"/api/rigs/{Rig}/move?copy={copy}");
        var made = move.GetProperty("mechanisms")[0]
            .GetProperty("motions")
            .EnumerateArray()
            .First(m => m.GetProperty("plan").GetProperty("key").GetString() == key);
        Assert.Equal("over the line, from a box", made.GetProperty("plan").GetProperty("where").GetString());
        Assert.Contains("for 1.2 s, by a box", made.GetProperty("trials")[0].GetProperty("told").GetString());
        // Typed without having told anything: nothing was told.
        await BoxOnTable.Measured(bench, Rig, copy, key, measured);
        trial = BoxOnTable.LastTrial(await BoxOnTable.Own(bench, Rig, copy), key);
        Assert.False(trial.TryGetProperty("told", out var nothing) && nothing.ValueKind == JsonValueKind.String);
    }

    [Fact]
    public async Task Preflight_reads_moves_and_measures_the_pack_over_the_line()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        async Task<JsonElement> Try(string device, string action) =>
            await bench.Post(
                $"/api/rigs/{Rig}/preflight/try",
                new
                {
                    copy,
                    device,
                    action,
                }
            );
        var view = await Try("", "battery");
        Assert.Matches(@"^\d[\d.]* V at rest, \d[\d.]* V with everything on\.$", view.GetProperty("pack").GetString());
        Assert.Contains(
            "on its line: Seed trolley",
            view.GetProperty("checklist")
                .EnumerateArray()
                .First(c => c.GetProperty("key").GetString() == "link")
                .GetProperty("say")
                .GetString()
        );
        // Held still it does not change; covered while it is looked at, it does.
        view = await Try("Tag eye", "read");
        Assert.Contains("stays as it is", view.GetProperty("last").GetString());
        var looking = Try("Tag eye", "read");
        await Task.Delay(1500);
        box.Server.Command("hold Tag eye over white card");
        view = await looking;
        Assert.Contains("The reading of Tag eye changes.", view.GetProperty("last").GetString());
        // What moves somebody has to see.
        await Try("Trolley", "move");
        Assert.Contains(box.Seen, s => s.StartsWith("Trolley", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_run_begins_and_ends_by_itself_and_waits_for_a_word()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        // The copy has other numbers than the one that the box was made of: it runs something else, and that is said.
        var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("holdsThis").ValueKind != JsonValueKind.Null);
        Assert.Contains("revision", line.GetProperty("holding").GetString());
        await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
        await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("running").GetBoolean());
        await BoxOnTable.Until(bench, Rig, copy, l => !l.GetProperty("running").GetBoolean(), 60);
        JsonElement[] waiting = [];
        for (var i = 0; i < 100 && waiting.Length == 0; i++, await Task.Delay(50))
            waiting = [.. (await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("waiting").EnumerateArray()];
        var run = Assert.Single(waiting);
        Assert.True(run.GetProperty("whole").GetBoolean());
        Assert.InRange(run.GetProperty("timeS").GetDouble(), 1, 60);
        Assert.StartsWith("It ended in Main.", run.GetProperty("say").GetString());
        Assert.Contains("by the clock of a box", run.GetProperty("say").GetString());
        var key = run.GetProperty("key").GetString();
        await bench.Post(
            $"/api/rigs/{Rig}/log/lines",
            new
            {
                copy,
                lines = new[]
                {
                    new
                    {
                        key,
                        revision = run.GetProperty("revision").GetInt32(),
                        passed = true,
                        timeUtc = run.GetProperty("timeUtc").GetDateTime(),
                        timeS = run.GetProperty("timeS").GetDouble(),
                    },
                },
            }
        );
        var log = await bench.Get($"/api/rigs/{Rig}/log?copy={copy}");
        Assert.Equal(0, log.GetProperty("waiting").GetArrayLength());
        Assert.Contains(
            log.GetProperty("spreads").EnumerateArray().SelectMany(s => s.GetProperty("lines").EnumerateArray()),
            l => l.GetProperty("key").GetString() == key
        );
        // Stopped in the middle it has ended too; what was no run is dropped.
        await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
        await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("running").GetBoolean());
        // What ends as it begins is no run.
        await Task.Delay(400);
        await bench.Post($"/api/rigs/{Rig}/line/stop", new { copy });
        waiting = [];
        for (var i = 0; i < 200 && waiting.Length == 0; i++, await Task.Delay(50))
            waiting = [.. (await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("waiting").EnumerateArray()];
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await bench.TryPost($"/api/rigs/{Rig}/line/drop", new { key = waiting[0].GetProperty("key").GetString() })).Status
        );
        Assert.Equal(0, (await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("waiting").GetArrayLength());
    }

    [Fact]
    public async Task A_plug_that_comes_out_is_said_within_two_seconds_and_what_was_recorded_is_kept()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        var sense = await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}");
        var zone = sense.GetProperty("zones")[0].GetProperty("zone").GetString();
        var (came, soonest) = (0, new Dictionary<string, double>());
        foreach (var how in new[] { "pull", "fault silent", "fault silent" })
        {
            var recording = BoxOnTable.Record(bench, Rig, copy, zone, 30);
            await Task.Delay(1000);
            box.Server.Command(how);
            var watch = Stopwatch.StartNew();
            var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("standing").GetString() == "out");
            soonest[how] = Math.Min(watch.Elapsed.TotalSeconds, soonest.GetValueOrDefault(how, double.MaxValue));
            Assert.Contains("joins by itself", line.GetProperty("say").GetString());
            var taken = await recording;
            came += taken.GetProperty("count").GetInt32();
            Assert.True(taken.GetProperty("stopped").GetBoolean());
            Assert.Contains("The line broke.", taken.GetProperty("say").GetString());
            // While it is out nothing can be recorded, and that is said.
            var (status, body) = await BoxOnTable.TryRecord(bench, Rig, copy, zone, 1);
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Contains("is out", body.ToString());
            box.Server.Command("plug");
            box.Server.Command("fault none");
            await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("standing").GetString() == "joined");
        }
        // All of it is there: what came before each time the plug came out.
        var kept = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("readings").GetArrayLength();
        Assert.Equal(came, kept - sense.GetProperty("zones")[0].GetProperty("readings").GetArrayLength());
        Assert.InRange(came, 60, 1000);
        // A machine that is busy may be late once.
        Assert.All(soonest, s => Assert.True(s.Value < 2, $"{s.Key}: {s.Value} s"));
    }

    [Fact]
    public async Task A_name_with_a_line_feed_tells_nothing_else()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        var zone = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("zone").GetString();
        var (status, body) = await bench.TryPost(
            $"/api/rigs/{Rig}/recordings",
            new
            {
                copy,
                sensor = "Tag eye",
                zone,
                seconds = 0.5,
                over = "x\ndo Trolley run 100 %",
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("no signs that cannot be seen", body.ToString());
        Assert.DoesNotContain(box.Seen, s => s.StartsWith("Trolley", StringComparison.Ordinal));
        // What it cannot be put before is said with what was recorded.
        var taken = await bench.Post(
            $"/api/rigs/{Rig}/recordings",
            new
            {
                copy,
                sensor = "Tag eye",
                zone,
                seconds = 0.5,
                over = "the moon",
            }
        );
        Assert.Contains($"It was not put before {zone}: Tag eye can be held over", taken.GetProperty("say").GetString());
    }

    [Fact]
    public async Task It_joins_again_by_itself_after_a_restart()
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        bench.Restart();
        await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("standing").GetString() == "joined");
    }

    [Theory]
    [InlineData("back", "went back, from")]
    [InlineData("names", "It speaks of “Other Tag eye”, which this rig has not. Its sensors are Tag eye.")]
    [InlineData("range", "Tag eye read 207 %; it can give 0 to 100. Such readings do not count.")]
    public async Task A_box_that_lies_is_called_out_in_words(string fault, string said)
    {
        var (bench, box, copy) = await Table();
        using var _ = bench;
        using var __ = box;
        box.Server.Command($"fault {fault}");
        var zone = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("zone").GetString();
        var taken = await BoxOnTable.Record(bench, Rig, copy, zone, 1.5);
        var line = await bench.Get($"/api/rigs/{Rig}/line?copy={copy}");
        Assert.Contains(
            line.GetProperty("complaints").EnumerateArray(),
            c => c.GetProperty("say").GetString()!.Contains(said, StringComparison.Ordinal)
        );
        // Lies are no readings.
        Assert.InRange(taken.GetProperty("count").GetInt32(), 20, 300);
        var readings = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("readings");
        Assert.All(readings.EnumerateArray(), r => Assert.InRange(r.GetDouble(), 0, 100));
    }

    [Fact]
    public async Task A_box_with_another_revision_is_called_out_and_mutilated_lines_are_counted_and_shown()
    {
        using var bench = new Bench();
        using var box = new BoxOnTable(Rig);
        box.Server.Command("fault revision");
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, box.To);
        var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("holdsThis").ValueKind != JsonValueKind.Null);
        Assert.False(line.GetProperty("holdsThis").GetBoolean());
        Assert.Contains("here are only", line.GetProperty("holding").GetString());
        box.Server.Command("fault garbled");
        await bench.Post($"/api/rigs/{Rig}/line/say", new { copy, line = "tell Tag eye" });
        line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("strange").GetInt64() > 30);
        Assert.Equal(20, line.GetProperty("unread").GetArrayLength());
        Assert.NotEqual("", line.GetProperty("unread")[0].GetProperty("why").GetString());
    }
}
