using System.Globalization;
using Chiton.Core.Programs.Outside;

namespace Chiton.Core.Simulation;

/// <summary>A run of the bench as a stand-in box tells it on the line.</summary>
public static class BoxPlay
{
    /// <summary>Runs once.</summary>
    /// <param name="copy">The copy whose programs run.</param>
    /// <param name="plan">The bound scene.</param>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="copySeed">Seed of the box's hidden numbers.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>What is said and seen, by time. Its last beats say of each program that it runs no more.</returns>
    public static IReadOnlyList<BoxBeat> Of(BoardCopy copy, BenchPlan plan, long seed, long copySeed, CancellationToken cancel = default)
    {
        var trace = BenchTrace.Of(plan, seed, null, cancel, copySeed);
        var names = new BoxNames(
            [.. copy.Rig.Sensors.Select(s => s.Name)],
            [.. copy.Rig.Actuators.Select(a => a.Name), .. copy.Rig.Mechanisms.Select(m => m.Name)],
            [.. plan.Programs.Select(p => p.Name)]
        );
        var beats = new List<BoxBeat>();
        long now = 0;
        // Of what the programs were given, what a box tells: readings, and what devices came to by themselves.
        foreach (var line in trace.SelectMany(l => l.Split('\n')))
        {
            if ((At(line, "at ") ?? At(line, "pass ")) is { } at)
            {
                now = at;
                continue;
            }
            BoxMessage said = BoxLine.Read(line, names);
            // What a sensor lost is not told.
            if (said is BoxReading { Zone: not "lost" } or BoxDone or BoxStalls or BoxGivesUp)
                beats.Add(new((said as BoxReading)?.Micros ?? now, said));
        }
        var end = Math.Max(now, beats.Count == 0 ? 0 : beats.Max(b => b.Micros));
        var last = new Dictionary<string, string>();
        foreach (var line in BoardTrace.Run(copy, null, trace))
            if (At(line, "at ") is { } at)
                now = at;
            else if (BoxLine.Read(line, names) is BoxState state)
            {
                last[state.Program] = state.State;
                beats.Add(new(state.Micros, state));
            }
            else if (line.StartsWith("do ", StringComparison.Ordinal))
                beats.Add(new(now, null, line[3..]));
        end = Math.Max(end, beats.Count == 0 ? 0 : beats.Max(b => b.Micros));
        foreach (var program in last.Keys)
            beats.Add(new(end, new BoxState(end, program, "-")));
        // Sorting keeps the order of what happens at one moment.
        return [.. beats.OrderBy(b => b.Micros)];
    }

    private static long? At(string line, string word) =>
        line.StartsWith(word, StringComparison.Ordinal)
        && long.TryParse(line[word.Length..], NumberStyles.None, CultureInfo.InvariantCulture, out var at)
            ? at
            : null;
}
