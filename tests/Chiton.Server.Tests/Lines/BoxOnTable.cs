using System.Collections.Concurrent;
using System.Diagnostics;
using Chiton.Box;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Server.App.Lines;

namespace Chiton.Server.Tests.Lines;

/// <summary>A stand-in box of a demo rig, on a loopback port of its own, and a server with a real copy to join to it.</summary>
public sealed class BoxOnTable : IDisposable
{
    private static readonly ConcurrentDictionary<string, Task<BoxMake>> Made = new();
    private readonly CancellationTokenSource stop = new();
    private readonly Thread thread;

    /// <summary>Puts it on the table.</summary>
    /// <param name="rig">Address of the rig.</param>
    public BoxOnTable(string rig)
    {
        Server = new(Make(rig).GetAwaiter().GetResult(), 0, Seen.Enqueue);
        Server.Ready();
        thread = new(() => Server.Run(stop.Token)) { IsBackground = true };
        thread.Start();
    }

    /// <summary>The demo's rig as a box knows it.</summary>
    public static Task<BoxMake> Make(string rig) => Made.GetOrAdd(rig, r => BoxSource.Make(null, r, null, 1, CancellationToken.None));

    /// <summary>The box.</summary>
    public BoxServer Server { get; }

    /// <summary>Its address.</summary>
    public string To => $"127.0.0.1:{Server.Port}";

    /// <summary>What somebody who looks on has seen.</summary>
    public ConcurrentQueue<string> Seen { get; } = new();

    /// <summary>The number of a real copy of a rig: the first there is, or a new one.</summary>
    public static async Task<int> Real(Bench bench, string rig)
    {
        var copies = (await bench.Get($"/api/rigs/{rig}/copies")).GetProperty("copies").EnumerateArray().ToArray();
        return
            copies.FirstOrDefault(c => c.GetProperty("item").GetProperty("kind").GetString() == "real")
                is { ValueKind: JsonValueKind.Object } there
            ? there.GetProperty("number").GetInt32()
            : (await bench.Post($"/api/rigs/{rig}/copies", new { team = "", kind = "real" })).GetProperty("number").GetInt32();
    }

    /// <summary>A line by itself, without a server, once somebody answers on it.</summary>
    public static async Task<Line> Line(string to, RigDesign rig)
    {
        var ports = new SerialPorts();
        var line = new Line(LineWay.Read(to, ports), ports, rig, 1, _ => { }, (_, _) => { });
        for (var i = 0; i < 1500 && !line.IsJoined; i++)
            await Task.Delay(10);
        Assert.True(line.IsJoined, line.Now.Say);
        return line;
    }

    /// <summary>Joins a copy and waits until somebody answers.</summary>
    public static async Task<JsonElement> Join(Bench bench, string rig, int copy, string to)
    {
        var (status, body) = await bench.Send(HttpMethod.Put, $"/api/rigs/{rig}/line", new { copy, to });
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        return await Until(bench, rig, copy, l => l.GetProperty("standing").GetString() == "joined");
    }

    /// <summary>The line of a copy, once it is as wanted.</summary>
    public static async Task<JsonElement> Until(Bench bench, string rig, int copy, Func<JsonElement, bool> wanted, double seconds = 15)
    {
        var watch = Stopwatch.StartNew();
        while (true)
        {
            var line = await bench.Get($"/api/rigs/{rig}/line?copy={copy}");
            if (wanted(line))
                return line;
            Assert.True(watch.Elapsed.TotalSeconds < seconds, $"Not within {seconds} s: {line}");
            await Task.Delay(40);
        }
    }

    /// <summary>A copy as it goes out in the rig's file.</summary>
    public static async Task<JsonElement> Own(Bench bench, string rig, int copy) =>
        (await bench.Get($"/api/rigs/{rig}/export"))
            .GetProperty("copies")
            .EnumerateArray()
            .First(c => c.GetProperty("number").GetInt32() == copy);

    /// <summary>The times of the last recording of its first sensor, µs.</summary>
    public static double[] Times(JsonElement own) =>
        [
            .. own.GetProperty("calibrations")[0]
                .GetProperty("recordings")
                .EnumerateArray()
                .Last()
                .GetProperty("timesMicros")
                .EnumerateArray()
                .Select(t => t.GetDouble()),
        ];

    /// <summary>The last trial of a motion.</summary>
    public static JsonElement LastTrial(JsonElement own, string key) =>
        own.GetProperty("motions")
            .EnumerateArray()
            .First(m => m.GetProperty("motion").GetString() == key)
            .GetProperty("trials")
            .EnumerateArray()
            .Last();

    /// <summary>Records its first sensor over the line, which must be understood.</summary>
    public static async Task<JsonElement> Record(Bench bench, string rig, int copy, string? zone, double seconds)
    {
        var (status, taken) = await TryRecord(bench, rig, copy, zone, seconds);
        Assert.True(status == HttpStatusCode.OK, taken.ToString());
        return taken;
    }

    /// <summary>Records its first sensor over the line.</summary>
    public static Task<(HttpStatusCode Status, JsonElement Body)> TryRecord(
        Bench bench,
        string rig,
        int copy,
        string? zone,
        double seconds
    ) =>
        bench.TryPost(
            $"/api/rigs/{rig}/recordings",
            new
            {
                copy,
                sensor = "Tag eye",
                zone,
                seconds,
            }
        );

    /// <summary>Does something of preflight over the line.</summary>
    public static Task<(HttpStatusCode Status, JsonElement Body)> TryPreflight(
        Bench bench,
        string rig,
        int copy,
        string device,
        string action
    ) =>
        bench.TryPost(
            $"/api/rigs/{rig}/preflight/try",
            new
            {
                copy,
                device,
                action,
            }
        );

    /// <summary>Tells the robot a trial: 400 mm are asked for with 1.2 s.</summary>
    public static async Task<(HttpStatusCode Status, JsonElement Body)> Tell(Bench bench, string rig, int copy, string key) =>
        await bench.TryPost(
            $"/api/rigs/{rig}/trials/tell",
            new
            {
                copy,
                key,
                asked = 400,
                commanded = 1.2,
            }
        );

    /// <summary>Keeps what was measured of that trial, mm.</summary>
    public static async Task Measured(Bench bench, string rig, int copy, string key, double measured) =>
        await bench.Post(
            $"/api/rigs/{rig}/trials",
            new
            {
                copy,
                key,
                asked = 400,
                commanded = 1.2,
                measured,
                sure = true,
            }
        );

    /// <summary>The key of the motion that runs for a time.</summary>
    public static async Task<string> Timed(Bench bench, string rig, int copy) =>
        (await bench.Get($"/api/rigs/{rig}/move?copy={copy}"))
            .GetProperty("mechanisms")[0]
            .GetProperty("motions")
            .EnumerateArray()
            .Select(m => m.GetProperty("plan"))
            .First(p => p.GetProperty("kind").GetString() == "timedWay")
            .GetProperty("key")
            .GetString()!;

    /// <inheritdoc/>
    public void Dispose()
    {
        stop.Cancel();
        thread.Join();
        Server.Dispose();
        stop.Dispose();
    }
}
