using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using Chiton.Server.App.Lines;

namespace Chiton.Server.Tests.Lines;

/// <summary>Cables that are cut anywhere, boards of one's own, and what is never opened.</summary>
[Collection("Behind everything else")]
public class LineCutTests
{
    private const string Rig = "seed-trolley";
    private const string Hello = "chiton 1 Seed trolley\nhave Tag eye light 10\nholds 1-000000000000\nok\n";

    private static async Task<JsonElement> Sense(Bench bench, int copy) => await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}");

    private static int Kept(JsonElement sense, string zone) =>
        sense
            .GetProperty("zones")
            .EnumerateArray()
            .First(z => z.GetProperty("zone").GetString() == zone)
            .GetProperty("readings")
            .GetArrayLength();

    // The board hangs up after so many signs of what it says in a recording of 12 readings.
    private static OnPort CutsAfter(Func<int> signs) =>
        OnPort.Answering(
            async (line, say) =>
            {
                if (line == "?")
                    await say(Hello);
                else if (line.StartsWith("tell", StringComparison.Ordinal))
                {
                    var all =
                        "ok\n"
                        + string.Concat(
                            Enumerable
                                .Range(1, 12)
                                .Select(i => string.Create(CultureInfo.InvariantCulture, $"r {i * 10_000} Tag eye {20 + i}\n"))
                        );
                    await say(all[..Math.Min(signs(), all.Length)]);
                    await Task.Delay(30);
                    return false;
                }
                else
                    await say("ok\n");
                return true;
            }
        );

    [Fact]
    public async Task A_recording_that_is_cut_at_any_sign_keeps_each_reading_that_came_whole()
    {
        using var bench = new Bench();
        var signs = 0;
        // Volatile enough: it is changed only while nobody records.
        using var board = CutsAfter(() => signs);
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        var zone = (await Sense(bench, copy)).GetProperty("zones")[0].GetProperty("zone").GetString()!;
        var kept = Kept(await Sense(bench, copy), zone);
        // Each reading is 19 signs and more; every place in the first three, and then some; in the campaign every place.
        for (signs = 0; signs < 300; signs += Campaign.Whole || signs < 75 ? 1 : 23)
        {
            await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("standing").GetString() == "joined");
            var all =
                "ok\n"
                + string.Concat(
                    Enumerable.Range(1, 12).Select(i => string.Create(CultureInfo.InvariantCulture, $"r {i * 10_000} Tag eye {20 + i}\n"))
                );
            var whole = all[..Math.Min(signs, all.Length)].Count(c => c == '\n') - 1;
            var (status, taken) = await BoxOnTable.TryRecord(bench, Rig, copy, zone, 5);
            // Cut before the answer nothing was begun, and that is said; afterwards what came whole is kept, and as much is said.
            var said = status == HttpStatusCode.OK ? taken.GetProperty("count").GetInt32() : 0;
            Assert.True(said == Math.Max(0, whole), $"{signs} signs: {whole} came whole, {status} {taken}");
            Assert.True(
                status == HttpStatusCode.OK
                    ? taken.GetProperty("stopped").GetBoolean()
                    : taken.ToString().Contains("line", StringComparison.Ordinal),
                taken.ToString()
            );
            kept += said;
        }
        Assert.Equal(kept, Kept(await Sense(bench, copy), zone));
        // What was acknowledged outlives the server too.
        bench.Restart();
        Assert.Equal(kept, Kept(await Sense(bench, copy), zone));
    }

    [Theory]
    [InlineData(0, "")]
    [InlineData(1, "")]
    [InlineData(2, "")]
    [InlineData(3, "")]
    [InlineData(9, "stalls Seed trolley\n")]
    public async Task A_trial_that_is_cut_at_any_point_says_so_and_keeps_nothing_that_was_not_measured(int lines, string ends)
    {
        using var bench = new Bench();
        // It hangs up after so many of the lines that belong to the trial.
        var said = 0;
        using var board = OnPort.Answering(
            async (line, say) =>
            {
                if (line == "?")
                    await say(Hello);
                else if (line.StartsWith("do ", StringComparison.Ordinal))
                {
                    foreach (var answer in new[] { "ok\n", "r 10000 Tag eye 30\n", ends == "" ? "battery 6\n" : ends })
                    {
                        if (said++ == lines)
                            return false;
                        await say(answer);
                    }
                    if (lines == 3)
                        return false;
                }
                else
                    await say("ok\n");
                return true;
            }
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        var key = await BoxOnTable.Timed(bench, Rig, copy);
        var before = (await BoxOnTable.Own(bench, Rig, copy)).ToString();
        var (status, body) = await BoxOnTable.Tell(bench, Rig, copy, key);
        if (ends == "")
        {
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Contains("line", body.ToString());
        }
        else
        {
            Assert.Equal(HttpStatusCode.OK, status);
            Assert.Contains("Seed trolley stalled.", body.GetProperty("say").GetString());
        }
        var after = (await BoxOnTable.Own(bench, Rig, copy)).ToString();
        Assert.Equal(before, after);
        // What was measured is typed and kept, whether the line is there or not.
        await BoxOnTable.Measured(bench, Rig, copy, key, 380);
    }

    [Theory]
    [InlineData("")]
    [InlineData("/etc/passwd")]
    [InlineData("/dev/null")]
    [InlineData("/dev/../etc/passwd")]
    [InlineData("/dev/serial/../../etc/passwd")]
    [InlineData("/dev/serial/by-id/none")]
    [InlineData("COM7")]
    [InlineData("127.0.0.1")]
    [InlineData("127.0.0.1:0")]
    [InlineData("127.0.0.1:99999")]
    [InlineData("http://127.0.0.1:80/")]
    [InlineData("127.0.0.1:5190 9600")]
    [InlineData("a b:1")]
    [InlineData(":5190")]
    public async Task What_is_no_line_is_not_opened_and_says_what_is(string to)
    {
        using var bench = new Bench();
        var copy = await BoxOnTable.Real(bench, Rig);
        var (status, body) = await bench.Send(HttpMethod.Put, $"/api/rigs/{Rig}/line", new { copy, to });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal("to", body.GetProperty("errors").EnumerateObject().Single().Name);
        Assert.Equal("none", (await bench.Get($"/api/rigs/{Rig}/line?copy={copy}")).GetProperty("standing").GetString());
    }

    [Fact]
    public async Task Only_the_desk_joins_and_only_a_copy_on_a_table_and_each_line_once()
    {
        using var bench = new Bench();
        using var board = OnPort.Answering(
            async (line, say) =>
            {
                await say(line == "?" ? Hello : "ok\n");
                return true;
            }
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        foreach (
            var (method, path, body) in new (HttpMethod, string, object)[]
            {
                (HttpMethod.Put, $"/api/rigs/{Rig}/line", new { copy, to = board.To }),
                (HttpMethod.Delete, $"/api/rigs/{Rig}/line?copy={copy}", new { }),
                (HttpMethod.Post, $"/api/rigs/{Rig}/line/say", new { copy, line = "?" }),
                (HttpMethod.Get, "/api/ports", new { }),
            }
        )
        {
            using var request = new HttpRequestMessage(method, path)
            {
                Content = method == HttpMethod.Get ? null : JsonContent.Create(body),
            };
            request.Headers.Add(Bench.CameInAt, Bench.RoomAddress);
            var response = await bench.Http.SendAsync(request);
            Assert.True(
                response.StatusCode is HttpStatusCode.Forbidden or HttpStatusCode.Unauthorized or HttpStatusCode.NotFound,
                $"{path}: {response.StatusCode}"
            );
        }
        Assert.Equal(0, board.Calls);
        var standIn = (await bench.Get($"/api/rigs/{Rig}/copies"))
            .GetProperty("copies")
            .EnumerateArray()
            .First(c => c.GetProperty("item").GetProperty("kind").GetString() == "standIn")
            .GetProperty("number")
            .GetInt32();
        var (status, said) = await bench.Send(HttpMethod.Put, $"/api/rigs/{Rig}/line", new { copy = standIn, to = board.To });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("has no plug", said.ToString());
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        var other = (await bench.Post("/api/rigs/rack-hoist/copies", new { team = "", kind = "real" })).GetProperty("number").GetInt32();
        (status, said) = await bench.Send(HttpMethod.Put, "/api/rigs/rack-hoist/line", new { copy = other, to = board.To });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains($"is joined to copy {copy} of {Rig} already", said.ToString());
        // From the desk go questions and orders, and nothing that is for a board to say.
        foreach (var (line, field) in new[] { ("r 1 Tag eye 3", "line"), ("hokus", "line"), ("", "line"), (new string('x', 300), "line") })
        {
            (status, said) = await bench.TryPost($"/api/rigs/{Rig}/line/say", new { copy, line });
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Equal(field, said.GetProperty("errors").EnumerateObject().Single().Name);
        }
    }

    [Fact]
    public async Task What_is_said_before_the_hello_is_answered_whole_gets_an_answer_of_its_own()
    {
        using var board = OnPort.Answering(
            async (line, say) =>
            {
                if (line == "?")
                {
                    // Its hello is there, and the ok to it comes late.
                    await say("chiton 1 Seed trolley\n");
                    await Task.Delay(400);
                    await say("ok\n");
                }
                else
                    await say(line.StartsWith("tell Nose", StringComparison.Ordinal) ? "no I have no Nose.\n" : "ok\n");
                return true;
            }
        );
        var rig = (await BoxOnTable.Make(Rig)).Rig;
        await using var line = await BoxOnTable.Line(board.To, rig);
        Assert.Equal("I have no Nose.", await line.Say(new Chiton.Core.Programs.Outside.BoxTell("Nose"), CancellationToken.None));
        Assert.Null(await line.Say(new Chiton.Core.Programs.Outside.BoxTell("Tag eye"), CancellationToken.None));
    }

    private sealed class OnePort(string name) : SerialPorts
    {
        public override IReadOnlyList<string> Names() => [name];
    }

    [Fact]
    public async Task A_serial_port_is_joined_by_its_name_and_its_plug_comes_out()
    {
        using var bench = new Bench();
        // A pair of ends that the system makes: one is the port, behind the other sits a board.
        const string ends = """
            import os, pty, sys, tty
            board, port = pty.openpty()
            tty.setraw(port)
            print(os.ttyname(port), flush=True)
            heard = b""
            said = 0
            while True:
                try:
                    heard += os.read(board, 1000)
                except OSError:
                    continue
                while b"\n" in heard:
                    line, _, heard = heard.partition(b"\n")
                    os.write(board, b"chiton 1 Seed trolley\nhave Tag eye light 10\nok\n" if line == b"?" else b"ok\n")
                    said += 1
                    if line == b"? battery":
                        sys.exit()
            """;
        using var python = Process.Start(new ProcessStartInfo("python3", ["-c", ends]) { RedirectStandardOutput = true })!;
        try
        {
            var name = await python.StandardOutput.ReadLineAsync();
            var way = LineWay.Read($"{name} 9600", new OnePort(name!));
            Assert.Equal($"{name} 9600", way.ToString());
            var states = new List<LineStanding>();
            var rig = (await BoxOnTable.Make(Rig)).Rig;
            await using var line = new Line(way, new OnePort(name!), rig, 1, l => states.Add(l.Now.Standing), (_, _) => { });
            var watch = Stopwatch.StartNew();
            while (!line.IsJoined)
            {
                Assert.True(watch.Elapsed.TotalSeconds < 10, line.Now.ToString());
                await Task.Delay(20);
            }
            Assert.Null(await line.Say(new Chiton.Core.Programs.Outside.BoxTell("Tag eye"), CancellationToken.None));
            await Assert.ThrowsAsync<LineBroke>(() =>
                line.Say(new Chiton.Core.Programs.Outside.BoxAsk("battery"), CancellationToken.None)
                    .ContinueWith(t =>
                    {
                        // The plug comes out with the answer or just before it.
                        if (t.IsFaulted)
                            throw t.Exception!.InnerException!;
                        watch.Restart();
                        while (line.IsJoined && watch.Elapsed.TotalSeconds < 2)
                            Thread.Sleep(10);
                        throw line.IsJoined ? new InvalidOperationException("It is still joined.") : new LineBroke("out");
                    })
            );
            Assert.False(line.IsJoined);
        }
        finally
        {
            if (!python.HasExited)
                python.Kill();
        }
    }

    [Fact]
    public async Task The_example_box_of_the_page_is_short_and_records()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
            folder = folder.Parent!;
        var file = Path.Combine(folder.FullName, "docs", "box.py");
        Assert.True(File.ReadLines(file).Count() < 100);
        using var bench = new Bench();
        using var python = Process.Start(new ProcessStartInfo("python3", [file, "0"]) { RedirectStandardOutput = true })!;
        try
        {
            var to = (await python.StandardOutput.ReadLineAsync())!.Split(' ')[^1];
            var copy = await BoxOnTable.Real(bench, Rig);
            await BoxOnTable.Join(bench, Rig, copy, to);
            var zone = (await Sense(bench, copy)).GetProperty("zones")[0].GetProperty("zone").GetString();
            var taken = await BoxOnTable.Record(bench, Rig, copy, zone, 1);
            // A machine that is busy lets it read less often: that is said beside the readings, and wrong in nothing.
            Assert.InRange(taken.GetProperty("count").GetInt32(), 5, 200);
            var answer = await bench.Post($"/api/rigs/{Rig}/line/say", new { copy, line = "do Trolley run 60 % for 0.2 s" });
            Assert.Contains("ok", answer.GetProperty("say").GetString());
            answer = await bench.Post($"/api/rigs/{Rig}/line/say", new { copy, line = "? start" });
            Assert.Contains("I do not know that.", answer.GetProperty("say").GetString());
            var line = await bench.Get($"/api/rigs/{Rig}/line?copy={copy}");
            Assert.Equal(0, line.GetProperty("strange").GetInt64());
            Assert.Equal(0, line.GetProperty("complaints").GetArrayLength());
        }
        finally
        {
            python.Kill();
        }
    }

    [Theory]
    [InlineData("cpp", "./line")]
    [InlineData("python", "python3 -u line_main.py")]
    public async Task Code_that_was_taken_out_speaks_the_line_and_says_what_it_holds(string language, string command)
    {
        using var bench = new Bench();
        var copy = await BoxOnTable.Real(bench, Rig);
        var folder = Directory.CreateTempSubdirectory("chiton-line-");
        try
        {
            await using (var stream = await bench.Http.GetStreamAsync($"/api/rigs/{Rig}/program/board.zip?language={language}&copy={copy}"))
                ZipFile.ExtractToDirectory(stream, folder.FullName);
            var at = Path.Combine(folder.FullName, "seed_trolley");
            if (language == "cpp")
            {
                var build = File.ReadLines(Path.Combine(at, "README.txt"))
                    .First(l => l.Contains("-o line ", StringComparison.Ordinal))
                    .Trim();
                using var made = Process.Start(new ProcessStartInfo("sh", ["-c", build + " -Werror"]) { WorkingDirectory = at })!;
                made.WaitForExit();
                Assert.Equal(0, made.ExitCode);
            }
            using var board = OnPort.Program(at, command);
            await BoxOnTable.Join(bench, Rig, copy, board.To);
            // What it holds comes after its hello, a line of its own.
            var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("holdsThis").ValueKind != JsonValueKind.Null);
            Assert.True(line.GetProperty("holdsThis").GetBoolean(), line.ToString());
            Assert.True(line.GetProperty("standIn").GetBoolean());
            Assert.Equal("Seed trolley", line.GetProperty("name").GetString());
            // What it holds is noted: nothing is left to send.
            Assert.True((await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("held").GetProperty("same").GetBoolean());
            var zone = (await Sense(bench, copy)).GetProperty("zones")[0].GetProperty("zone").GetString();
            var taken = await BoxOnTable.Record(bench, Rig, copy, zone, 1);
            Assert.InRange(taken.GetProperty("count").GetInt32(), 5, 200);
            async Task<string> Say(string words) =>
                (await bench.Post($"/api/rigs/{Rig}/line/say", new { copy, line = words })).GetProperty("say").GetString()!;
            Assert.Contains("ok", await Say("do Seed trolley run 60 % for 0.1 s"));
            Assert.Contains("I have no such sensor", await Say("tell Nose"));
            Assert.Contains("I know: there", await Say("? weather"));
            // Its programs run: a state is told, and stopped they say so.
            await bench.Post($"/api/rigs/{Rig}/line/start", new { copy });
            line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("running").GetBoolean());
            Assert.Equal("Main.Rolling", line.GetProperty("programs")[0].GetProperty("state").GetString());
            await bench.Post($"/api/rigs/{Rig}/line/stop", new { copy });
            line = await BoxOnTable.Until(bench, Rig, copy, l => !l.GetProperty("running").GetBoolean());
            Assert.Equal(0, line.GetProperty("strange").GetInt64());
            Assert.Equal("[]", line.GetProperty("complaints").ToString());
        }
        finally
        {
            folder.Delete(true);
        }
    }
}
