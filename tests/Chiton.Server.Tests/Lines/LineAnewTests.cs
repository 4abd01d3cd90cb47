using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Chiton.Server.App.Lines;

namespace Chiton.Server.Tests.Lines;

/// <summary>Boards that are started anew while something goes on, with their plug in, and those that only say again who they
/// are.</summary>
[Collection("Behind everything else")]
public class LineAnewTests
{
    private const string Rig = "seed-trolley";
    private const string Who = "chiton 1 Seed trolley\nhave Tag eye light 10\n";

    private static Task<JsonElement> Look(Bench bench, int copy) => bench.Get($"/api/rigs/{Rig}/line?copy={copy}");

    private static int Anew(JsonElement line) =>
        line.GetProperty("complaints")
            .EnumerateArray()
            .Where(c => c.GetProperty("say").GetString()!.StartsWith("It was started anew by itself", StringComparison.Ordinal))
            .Sum(c => c.GetProperty("times").GetInt32());

    [Fact]
    public async Task A_box_with_a_weak_pack_ends_what_goes_on_keeps_what_came_and_is_called_out()
    {
        using var bench = new Bench();
        using var box = new BoxOnTable(Rig);
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, box.To);
        box.Server.Command("fault anew");
        var zone = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("zone").GetString();
        async Task<JsonElement> Record(double seconds) => await BoxOnTable.Record(bench, Rig, copy, zone, seconds);
        var taken = await Record(20);
        var count = taken.GetProperty("count").GetInt32();
        Assert.InRange(count, 10, 400);
        Assert.True(taken.GetProperty("stopped").GetBoolean());
        Assert.Equal($"The board was started anew. {count} readings until then are kept.", taken.GetProperty("say").GetString());
        var times = BoxOnTable.Times(await BoxOnTable.Own(bench, Rig, copy));
        Assert.Equal(count, times.Length);
        Assert.Equal(times.Order(), times);
        var line = await Look(bench, copy);
        Assert.Equal(("joined", 2, 1), (line.GetProperty("standing").GetString(), line.GetProperty("joins").GetInt32(), Anew(line)));
        Assert.Contains("It was started anew by itself.", box.Seen);
        static double Ago(JsonElement line) => line.GetProperty("complaints")[0].GetProperty("agoS").GetDouble();
        Assert.InRange(Ago(line), 0, 5);
        await Task.Delay(1000);
        Assert.InRange(Ago(await Look(bench, copy)) - Ago(line), 0.9, 10);
        // A trial is not waited for until its time is up, and says what became of it.
        var key = await BoxOnTable.Timed(bench, Rig, copy);
        var (status, body) = await BoxOnTable.Tell(bench, Rig, copy, key);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("The board was started anew after it was told “do Seed trolley run", body.ToString());
        // Nor is a sensor of preflight.
        (status, body) = await BoxOnTable.TryPreflight(bench, Rig, copy, "Tag eye", "read");
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("The board was started anew.", body.ToString());
        Assert.Equal(3, Anew(await Look(bench, copy)));
        // With a better pack all goes on, by its new clock, and nothing of it goes back.
        box.Server.Command("fault none");
        taken = await Record(1);
        Assert.InRange(taken.GetProperty("count").GetInt32(), 10, 200);
        Assert.False(taken.GetProperty("stopped").GetBoolean());
        Assert.DoesNotContain("went back", (await Look(bench, copy)).GetProperty("complaints").ToString());
    }

    [Fact]
    public async Task A_motor_that_starts_the_board_anew_leaves_no_pack_measured_and_no_move_seen()
    {
        using var bench = new Bench();
        // Whatever is told to run takes the board down: it never answers that, and says hello.
        using var board = OnPort.Board(
            Who + "ok\n",
            line =>
                line switch
                {
                    "? battery" => "battery 6.4\nok\n",
                    _ when line.Contains(" run ", StringComparison.Ordinal) => Who,
                    _ => "ok\n",
                }
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        var before = (await bench.Get($"/api/rigs/{Rig}/preflight?copy={copy}")).GetProperty("pack").ToString();
        foreach (var (device, action) in new[] { ("", "battery"), ("Trolley", "move") })
        {
            var (status, body) = await BoxOnTable.TryPreflight(bench, Rig, copy, device, action);
            Assert.Equal((action, HttpStatusCode.BadRequest), (action, status));
            Assert.Contains("The board was started anew. What it did is for you to see.", body.ToString());
        }
        Assert.Equal(before, (await bench.Get($"/api/rigs/{Rig}/preflight?copy={copy}")).GetProperty("pack").ToString());
    }

    [Fact]
    public async Task Asked_who_it_is_in_the_middle_of_a_run_a_board_goes_on_and_by_itself_its_run_is_broken_off()
    {
        using var bench = new Bench();
        using var board = OnPort.Board(
            Who + "ok\n",
            line =>
                line switch
                {
                    "? start" => "state 1000000 Seed trolley Main.Rolling\nok\n",
                    "? stop" => "state 4000000 Seed trolley Main.Seeding\nstate 4500000 Seed trolley -\nok\n",
                    "quiet Tag eye" => Who + "ok\n",
                    _ => "ok\n",
                }
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        async Task<JsonElement[]> Waiting(int count)
        {
            JsonElement[] waiting = [];
            for (var i = 0; i < 200 && waiting.Length < count; i++, await Task.Delay(50))
                waiting = [.. (await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("waiting").EnumerateArray()];
            Assert.Equal(count, waiting.Length);
            return waiting;
        }
        async Task Say(string line) => await bench.Post($"/api/rigs/{Rig}/line/say", new { copy, line });
        await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
        await Say("?");
        var now = await Look(bench, copy);
        Assert.True(now.GetProperty("running").GetBoolean());
        Assert.Equal("Main.Rolling", now.GetProperty("programs")[0].GetProperty("state").GetString());
        Assert.Equal((1, 0), (now.GetProperty("joins").GetInt32(), Anew(now)));
        await bench.Post($"/api/rigs/{Rig}/line/stop", new { copy });
        var run = Assert.Single(await Waiting(1));
        Assert.Equal((3.5, true), (run.GetProperty("timeS").GetDouble(), run.GetProperty("whole").GetBoolean()));
        // The same hello that nobody asked for.
        await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
        await Say("? stop");
        await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
        await Say("quiet Tag eye");
        now = await Look(bench, copy);
        Assert.False(now.GetProperty("running").GetBoolean());
        Assert.Equal((2, 1), (now.GetProperty("joins").GetInt32(), Anew(now)));
    }

    [Fact]
    public async Task A_board_that_was_still_starting_answers_all_that_waited_and_was_not_started_anew()
    {
        var (asked, all) = (0, 0);
        using var board = OnPort.Answering(
            async (line, say) =>
            {
                if (line != "?")
                    await say("ok\n");
                else if (++asked == 4)
                {
                    // Each with its answer, as they stood in its port.
                    await say(string.Concat(Enumerable.Repeat(Who + "ok\n", 4)));
                    all++;
                }
                return true;
            }
        );
        var rig = (await BoxOnTable.Make(Rig)).Rig;
        await using var line = await BoxOnTable.Line(board.To, rig);
        await Task.Delay(300);
        Assert.Equal((4, 1, 1), (asked, all, line.Now.Joins));
        Assert.Empty(line.Look((w, _) => w.Complaints));
        Assert.False(line.End.Came);
    }

    [Fact]
    public async Task A_first_time_that_was_misheard_costs_no_more_than_a_few_readings()
    {
        var (at, first, asked) = (0, true, 0);
        using var board = OnPort.Answering(
            async (line, say) =>
            {
                if (line == "?")
                {
                    asked++;
                    await say(Who + "ok\n");
                }
                else if (line.StartsWith("tell", StringComparison.Ordinal))
                {
                    await say(first ? "ok\nr 9000000000 Tag eye 20\n" : "ok\n");
                    first = false;
                    _ = Task.Run(async () =>
                    {
                        for (var i = 0; i < 300; i++, await Task.Delay(10))
                            await say($"r {at += 10_000} Tag eye {20 + i % 9}\n");
                    });
                }
                else
                    await say("ok\n");
                return true;
            }
        );
        var rig = (await BoxOnTable.Make(Rig)).Rig;
        await using var line = await BoxOnTable.Line(board.To, rig);
        var eye = (Sensor)rig.Find("Tag eye")!;
        Task<LineRecorded> Record(double seconds) =>
            LineRecording.Make(line, eye, seconds, 1000, _ => Task.CompletedTask, CancellationToken.None);
        // The one that was misheard is the first of this recording, which ends where the clock is set right.
        var made = await Record(20);
        Assert.Equal([9_000_000_000], made.Times);
        Assert.Equal("Its clock began anew. 1 reading until then is kept.", made.Broke);
        Assert.Equal(2, asked);
        Assert.Contains("went back, from 9000 to", Assert.Single(line.Look((w, _) => w.Complaints)).Say);
        Assert.Equal(1, line.Now.Joins);
        made = await Record(1);
        Assert.InRange(made.Readings.Count, 5, 300);
        Assert.Equal("", made.Broke);
        Assert.Equal(2, asked);
    }
}
