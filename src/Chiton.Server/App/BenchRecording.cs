using System.Diagnostics;
using Chiton.Core.Simulation;

namespace Chiton.Server.App;

/// <summary>What a recording brought in.</summary>
/// <param name="Readings">Readings in the order taken; several numbers each where the sensor gives several.</param>
/// <param name="Silent">Times at which it gave nothing at all.</param>
/// <param name="Stopped">True when it was stopped before its time.</param>
public sealed record RecordingMade(IReadOnlyList<double> Readings, int Silent, bool Stopped);

/// <summary>Records from the simulated controller in real time.</summary>
public static class BenchRecording
{
    private const int TellEveryMs = 50;

    /// <summary>Readings come in as time goes by, as from a controller on the bench; a stop keeps what came until then.</summary>
    /// <param name="held">The sensor with what is before it.</param>
    /// <param name="periodMs">Time between readings, ms.</param>
    /// <param name="count">How many readings.</param>
    /// <param name="tell">Is told how far it has come, with the readings that are new.</param>
    /// <param name="stop">Stops it.</param>
    public static async Task<RecordingMade> Make(
        SimulatedSensor held,
        double periodMs,
        int count,
        Func<JobProgress, Task> tell,
        CancellationToken stop
    )
    {
        var watch = Stopwatch.StartNew();
        var readings = new List<double>(count * held.Width);
        var one = new double[held.Width];
        var (taken, silent) = (0, 0);
        while (taken < count && !stop.IsCancellationRequested)
        {
            var fresh = new List<double>();
            for (var due = Math.Min(count, (int)(watch.Elapsed.TotalMilliseconds / periodMs)); taken < due; taken++)
            {
                held.Read(one);
                // It gave nothing at all: the time passes without a reading.
                if (double.IsNaN(one[0]))
                    silent++;
                else
                    fresh.AddRange(one);
            }
            readings.AddRange(fresh);
            if (fresh.Count > 0)
                await tell(new("", taken, count, 0, (count - taken) * periodMs / 1000, fresh));
            try
            {
                await Task.Delay(TellEveryMs, stop);
            }
            catch (OperationCanceledException)
            {
                // What was recorded until the stop is kept.
            }
        }
        return new(readings, silent, taken < count);
    }
}
