using System.Globalization;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Chiton.Server.App.Lines;

namespace Chiton.Server.Tests.Lines;

/// <summary>What the page of the line says of boards that answer in their own ways.</summary>
[Collection("Behind everything else")]
public class LineWordsTests
{
    private const string Rig = "seed-trolley";

    private static async Task<(HttpStatusCode Status, JsonElement Body)> Says(Bench bench, int copy, string line) =>
        await bench.TryPost($"/api/rigs/{Rig}/line/say", new { copy, line });

    [Fact]
    public async Task A_real_board_is_no_box_and_what_it_lacks_says_and_refuses_stands_there()
    {
        using var bench = new Bench();
        using var board = OnPort.Board(
            "chiton 1 Cart of Cockles\nhave Nose distance 50\n"
                + "state 5 Seed trolley Main.Rolling\nstate 9 Lighthouse Dark\nbattery 6.25\nok\n",
            line => line.StartsWith("do ", StringComparison.Ordinal) ? "no My motors are locked.\n" : "ok\n"
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("volts").ValueKind == JsonValueKind.Number);
        Assert.Equal($"Cart of Cockles answers at {board.To}.", line.GetProperty("say").GetString());
        Assert.False(line.GetProperty("standIn").GetBoolean());
        Assert.Equal(6.25, line.GetProperty("volts").GetDouble());
        // It does not say what it runs: nobody knows, and that is no “something else”.
        Assert.Equal(JsonValueKind.Null, line.GetProperty("holdsThis").ValueKind);
        Assert.Equal("It does not say which program it runs.", line.GetProperty("holding").GetString());
        var complaints = line.GetProperty("complaints").ToString();
        // What the rig has and it has not; what it has and the rig has not.
        Assert.Equal("Tag eye", Assert.Single(line.GetProperty("missing").EnumerateArray()).GetString());
        Assert.Contains("It speaks of “Nose”, which this rig has not. Its sensors are Tag eye.", complaints);
        // A program that the rig has not is called out; one of its own stands with its state.
        Assert.Contains("“Lighthouse”, which this rig has not", complaints);
        Assert.Equal(
            [("Seed trolley", "Main.Rolling")],
            line.GetProperty("programs")
                .EnumerateArray()
                .Select(p => (p.GetProperty("program").GetString(), p.GetProperty("state").GetString()))
        );
        // A question and an order as they are typed.
        var (status, body) = await Says(bench, copy, "  quiet Tag eye ");
        Assert.Equal((HttpStatusCode.OK, "“quiet Tag eye”: ok."), (status, body.GetProperty("say").GetString()));
        (status, body) = await Says(bench, copy, "do Seed trolley run 60 %");
        Assert.Equal((HttpStatusCode.OK, "It answers no. My motors are locked."), (status, body.GetProperty("say").GetString()));
        Assert.Equal("My motors are locked.", body.GetProperty("line").GetProperty("refused").GetString());
        // What is for a board to say is not said by the desk, and each says so at its field.
        foreach (
            var own in new[]
            {
                "chiton 1 Me",
                "have Tag eye light 10",
                "r 5 Tag eye 4",
                "done Seed trolley",
                "stalls Seed trolley",
                "state 5 Main Rolling",
                "holds 1-000000000000",
                "battery 7.4",
                "ok",
                "no thanks",
            }
        )
        {
            (status, body) = await Says(bench, copy, own);
            Assert.Equal((own, HttpStatusCode.BadRequest), (own, status));
            Assert.Equal(
                "That is for a board to say. From here go: ?, tell, quiet and do.",
                body.GetProperty("errors").GetProperty("line")[0].GetString()
            );
        }
    }

    [Fact]
    public async Task Nobody_there_is_no_plug_that_came_out_and_a_stand_in_has_none()
    {
        using var bench = new Bench();
        var copy = await BoxOnTable.Real(bench, Rig);
        async Task<JsonElement> Look(int of) => await bench.Get($"/api/rigs/{Rig}/line?copy={of}");
        Assert.Equal("This copy is on no line.", (await Look(copy)).GetProperty("say").GetString());
        Assert.StartsWith("This copy is a stand-in in here", (await Look(1)).GetProperty("say").GetString());
        // Whatever is asked of a line that is not there names what to do.
        foreach (
            var (call, asked) in new (string, object)[]
            {
                ("start", new { copy }),
                ("stop", new { copy }),
                ("say", new { copy, line = "?" }),
            }
        )
        {
            var (status, body) = await bench.TryPost($"/api/rigs/{Rig}/line/{call}", asked);
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Equal(
                $"Copy {copy} is on no line. Join it at the desk: Rig, Line.",
                body.GetProperty("errors").GetProperty("copy")[0].GetString()
            );
        }
        // A port behind which nobody ever said hello: it never was joined, so nothing came out.
        string to;
        using (var gone = OnPort.Board("", _ => ""))
            to = gone.To;
        await bench.Send(HttpMethod.Put, $"/api/rigs/{Rig}/line", new { copy, to });
        var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("say").GetString() != $"Nobody has answered at {to} yet.");
        Assert.Equal("joining", line.GetProperty("standing").GetString());
        Assert.DoesNotContain("plug is out", line.ToString());
        Assert.Equal(("", 0), (line.GetProperty("holding").GetString(), line.GetProperty("joins").GetInt32()));
        var (refused, said) = await bench.TryPost($"/api/rigs/{Rig}/line/start", new { copy });
        Assert.Equal(HttpStatusCode.BadRequest, refused);
        Assert.Contains($"The line of copy {copy} is out", said.ToString());
        // A run that nobody saw cannot be none.
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost($"/api/rigs/{Rig}/line/drop", new { key = "never" })).Status);
    }

    [Fact]
    public async Task What_a_board_tells_of_its_runs_stands_in_the_log_in_words_and_what_ends_as_it_begins_is_none()
    {
        using var bench = new Bench();
        using var board = OnPort.Board(
            "chiton 1 Seed trolley\nhave Tag eye light 10\nholds 1-0123456789ab\nok\n",
            line =>
                line switch
                {
                    "? start" => "state 1000000 Seed trolley Main.Rolling\nstate 1099000 Seed trolley -\nok\n",
                    "? stop" => "state 2000000 Seed trolley Main.Rolling\nstate 2500000 Seed trolley Main.Seeding\n"
                        + "stalls Seed trolley\nstate 5500000 Seed trolley -\nok\n",
                    _ => "ok\n",
                }
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
        await bench.Post($"/api/rigs/{Rig}/line/stop", new { copy });
        JsonElement[] waiting = [];
        for (var i = 0; i < 200 && waiting.Length == 0; i++, await Task.Delay(50))
            waiting = [.. (await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("waiting").EnumerateArray()];
        var run = Assert.Single(waiting);
        Assert.Equal(
            "It ended in Main.Seeding after 3.5 s by its own clock: Seed trolley stalled. It runs revision 1; here is revision 2. "
                + "Take the program out again and put it on the board.",
            run.GetProperty("say").GetString()
        );
        Assert.Equal(
            (1, 3.5, true),
            (run.GetProperty("revision").GetInt32(), run.GetProperty("timeS").GetDouble(), run.GetProperty("whole").GetBoolean())
        );
    }

    // A line of its own to a board that, told to read, says sixty readings at once, 10 ms apart, by a clock that goes on.
    private static async Task Sixty(long from, Func<Line, Func<int, Task<LineRecorded>>, Task> with)
    {
        var at = from;
        using var board = OnPort.Board(
            "chiton 1 Seed trolley\nhave Tag eye light 10\nok\n",
            line =>
                line.StartsWith("tell", StringComparison.Ordinal)
                    ? "ok\n"
                        + string.Concat(
                            Enumerable
                                .Range(1, 60)
                                .Select(i =>
                                    string.Create(
                                        CultureInfo.InvariantCulture,
                                        $"r {(at += 10_000) % BoxClock.Over} Tag eye {20 + i % 9}\n"
                                    )
                                )
                        )
                    : "ok\n"
        );
        var rig = (await BoxOnTable.Make(Rig)).Rig;
        await using var line = await BoxOnTable.Line(board.To, rig);
        await with(
            line,
            most => LineRecording.Make(line, (Sensor)rig.Find("Tag eye")!, 1, most, _ => Task.CompletedTask, CancellationToken.None)
        );
    }

    [Fact]
    public async Task A_recording_ends_where_there_is_room_for_no_more_and_says_so() =>
        await Sixty(
            0,
            async (_, record) =>
            {
                var all = await record(60);
                Assert.Equal((60, 60, false, ""), (all.Readings.Count, all.Times.Count, all.Stopped, all.Broke));
                Assert.Equal(Enumerable.Range(1, 60).Select(i => i * 10_000d), all.Times);
                var some = await record(59);
                Assert.Equal(
                    (59, 59, true, "There is no room for more. 59 readings until then are kept."),
                    (some.Readings.Count, some.Times.Count, some.Stopped, some.Broke)
                );
                Assert.Equal(all.Readings.Take(59), some.Readings);
            }
        );

    [Fact]
    public async Task A_clock_of_thirty_two_bits_that_runs_over_in_a_recording_loses_no_reading() =>
        await Sixty(
            BoxClock.Over - 315_000,
            async (line, record) =>
            {
                var all = await record(1000);
                Assert.Equal(Enumerable.Range(1, 60).Select(i => BoxClock.Over - 315_000 + i * 10_000d), all.Times);
                Assert.Empty(line.Look((w, _) => w.Complaints));
            }
        );

    [Fact]
    public async Task A_wrong_digit_in_a_time_costs_one_reading_of_a_recording_and_is_shown()
    {
        using var board = OnPort.Board(
            "chiton 1 Seed trolley\nhave Tag eye light 10\nok\n",
            line =>
                line.StartsWith("tell", StringComparison.Ordinal)
                    ? "ok\nr 10000 Tag eye 21\nr 9020000 Tag eye 22\nr 30000 Tag eye 23\nr 40000 Tag eye 24\n"
                    : "ok\n"
        );
        var rig = (await BoxOnTable.Make(Rig)).Rig;
        await using var line = await BoxOnTable.Line(board.To, rig);
        var eye = (Sensor)rig.Find("Tag eye")!;
        var made = await LineRecording.Make(line, eye, 0.5, 100, _ => Task.CompletedTask, CancellationToken.None);
        Assert.Equal([21, 23, 24], made.Readings);
        Assert.Equal([10_000, 30_000, 40_000], made.Times);
        var unread = Assert.Single(line.Look((w, _) => w.Unread));
        Assert.Equal("r 9020000 Tag eye 22", unread.Line);
        Assert.StartsWith("Its time, 9.02 s, is far ahead of the line before, 0.01 s", unread.Why);
        Assert.Empty(line.Look((w, _) => w.Complaints));
    }
}
