using System.Diagnostics;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Server.App.Lines;

/// <summary>What a recording over a line brought in.</summary>
/// <param name="Readings">Readings in the order they came; several numbers each where the sensor gives several.</param>
/// <param name="Times">When each was taken, by the clock of the board, µs.</param>
/// <param name="Silent">Times at which the sensor heard nothing.</param>
/// <param name="Stopped">True when it ended before its time.</param>
/// <param name="Broke">Why it ended before its time, where the line broke; empty otherwise.</param>
/// <param name="FromBox">True when a stand-in box said it.</param>
public sealed record LineRecorded(
    IReadOnlyList<double> Readings,
    IReadOnlyList<double> Times,
    int Silent,
    bool Stopped,
    string Broke,
    bool FromBox
);

/// <summary>Records from a real thing over its line.</summary>
public static class LineRecording
{
    private const int TellEveryMs = 50;

    /// <summary>A reading of a sensor as numbers; null where it says nothing that its sensor could.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="reading">The reading; one that counts.</param>
    /// <returns>Empty for nothing heard.</returns>
    public static IReadOnlyList<double>? Numbers(Sensor sensor, BoxReading reading)
    {
        if (reading.Zone is { } word)
        {
            var at = SenseJudge.ColourWords.ToList().IndexOf(word);
            return sensor.Facts.View == "names" && at >= 0 ? [at] : null;
        }
        return reading.Values.Count > 0 ? reading.Values
            : sensor.SilentReading is { } silent ? [silent]
            : [];
    }

    /// <summary>Readings come in as the board tells them; a stop, or a line that breaks, keeps what came until then.</summary>
    /// <param name="line">The line.</param>
    /// <param name="sensor">The sensor.</param>
    /// <param name="seconds">How long, s.</param>
    /// <param name="most">Most numbers that there is room for.</param>
    /// <param name="tell">Is told how far it has come, with the readings that are new.</param>
    /// <param name="stop">Stops it.</param>
    /// <exception cref="InputProblem">When the board has no such sensor.</exception>
    /// <exception cref="LineBroke">When the plug is out before it begins.</exception>
    public static async Task<LineRecorded> Make(
        Line line,
        Sensor sensor,
        double seconds,
        int most,
        Func<JobProgress, Task> tell,
        CancellationToken stop
    )
    {
        var readings = new List<double>();
        var times = new List<double>();
        var fresh = new List<double>();
        var gate = new Lock();
        var (silent, full, anew) = (0, false, false);
        var (box, end) = (line.Look((w, _) => w.Hello?.StandIn == true), line.End);
        void Came(BoxMessage message)
        {
            if (end.Came || anew || message is not BoxReading r || r.Name != sensor.Name || Numbers(sensor, r) is not { } numbers)
                return;
            lock (gate)
            {
                if (times.Count > 0 && r.Micros < times[^1])
                    anew = true;
                else if (numbers.Count == 0)
                    silent++;
                else if (readings.Count + numbers.Count > most)
                    full = true;
                else
                {
                    readings.AddRange(numbers);
                    fresh.AddRange(numbers);
                    times.Add(r.Micros);
                }
            }
        }
        var watch = Stopwatch.StartNew();
        using (line.Listen(Came))
        await using (await line.Want(sensor.Name, stop))
        {
            watch.Restart();
            while (watch.Elapsed.TotalSeconds < seconds && !stop.IsCancellationRequested && !end.Came && !full && !anew)
            {
                try
                {
                    await Task.Delay(TellEveryMs, stop);
                }
                catch (OperationCanceledException)
                {
                    // What was recorded until the stop is kept.
                }
                double[] now;
                int count;
                lock (gate)
                {
                    (now, count) = ([.. fresh], times.Count);
                    fresh.Clear();
                }
                var left = Math.Max(0, seconds - watch.Elapsed.TotalSeconds);
                if (now.Length > 0)
                    await tell(new("", count, count + (int)(left * 1000 / sensor.SamplePeriodMs), 0, left, now));
            }
        }
        lock (gate)
        {
            var why =
                end.Came ? end.Why
                : anew ? "Its clock began anew."
                : full ? "There is no room for more."
                : "";
            return new(
                [.. readings],
                [.. times],
                silent,
                stop.IsCancellationRequested || why != "",
                why == "" ? "" : $"{why} {Figures.Count(times.Count, "reading")} until then {(times.Count == 1 ? "is" : "are")} kept.",
                box
            );
        }
    }
}
