using System.Numerics;
using System.Runtime.InteropServices;

namespace Chiton.Core.Logbook;

/// <summary>The most points that are still to come, in the mean, in every case and at every time left.</summary>
internal sealed class MissionWorth
{
    private readonly MissionGraph graph;
    private readonly Mission[] missions;
    private readonly double[] success;
    private readonly int most;

    private readonly double[][] rows,
        others;

    /// <summary>A table, not yet filled.</summary>
    /// <param name="graph">The cases.</param>
    /// <param name="missions">The missions.</param>
    /// <param name="penalty">What a failure costs.</param>
    /// <param name="most">Longest time left, s.</param>
    public MissionWorth(MissionGraph graph, Mission[] missions, double penalty, int most)
    {
        (this.graph, this.missions, Penalty, this.most) = (graph, missions, penalty, most);
        success = [.. missions.Select(m => m.Success)];
        rows = new double[graph.Count][];
        others = new double[graph.Count][];
        for (var at = 0; at < rows.Length; at++)
            rows[at] = new double[most + 1];
    }

    /// <summary>What a failure costs.</summary>
    public double Penalty { get; }

    /// <summary>Fills it.</summary>
    public void Solve()
    {
        for (var at = 0; at < rows.Length; at++)
            Fill(rows, at);
    }

    /// <summary>The most points to come.</summary>
    /// <param name="at">The case.</param>
    /// <param name="leftS">Time left, s; less than 0 is none.</param>
    public double At(int at, int leftS) => leftS <= 0 ? 0 : rows[at][leftS];

    /// <summary>What a try is worth, and what follows it.</summary>
    public double Try(MissionTry action, int leftS)
    {
        var (m, p) = (missions[action.Mission], success[action.Mission]);
        var then = leftS - m.TotalS;
        return p * (m.Points + At(action.Done, then)) + (1 - p) * (At(action.Failed, then) - Penalty);
    }

    /// <summary>The most points from the start if one mission succeeded otherwise. Only cases in which it can still be tried are worked out
    /// anew.</summary>
    /// <param name="mission">The mission.</param>
    /// <param name="share">Share of its tries that succeed.</param>
    /// <param name="limitS">Time, s.</param>
    public double With(int mission, double share, int limitS)
    {
        var was = success[mission];
        success[mission] = share;
        var mine = new double[rows.Length][];
        for (var at = 0; at < rows.Length; at++)
        {
            var changed = false;
            foreach (var action in graph.Of(at))
                changed |=
                    action.Mission == mission
                    || !ReferenceEquals(mine[action.Done], rows[action.Done])
                    || (action.Failed != at && !ReferenceEquals(mine[action.Failed], rows[action.Failed]));
            mine[at] = changed ? others[at] ??= new double[most + 1] : rows[at];
            if (changed)
                Fill(mine, at);
        }
        success[mission] = was;
        return mine[graph.Start][limitS];
    }

    private void Fill(double[][] table, int at)
    {
        var row = table[at];
        Array.Clear(row);
        var tries = graph.Of(at);
        // A failure that leads to the same case looks back this far at least: so many seconds can be worked out side by side.
        var block = most;
        foreach (var action in tries)
            if (action.Failed == at)
                block = Math.Min(block, missions[action.Mission].TotalS);
        for (var from = 1; from <= most; from += block)
        {
            var to = Math.Min(most, from + block - 1);
            foreach (var action in tries)
            {
                var m = missions[action.Mission];
                var begin = Math.Max(from, m.RunS);
                if (begin > to)
                    continue;
                var p = success[action.Mission];
                var earned = p * m.Points - (1 - p) * Penalty;
                // Where no time is left after it, nothing more comes.
                var clear = Math.Min(to, m.TotalS - 1);
                if (clear >= begin)
                {
                    Raise(row.AsSpan(begin, clear - begin + 1), earned);
                    begin = clear + 1;
                }
                if (begin > to)
                    continue;
                var n = to - begin + 1;
                Raise(
                    row.AsSpan(begin, n),
                    table[action.Done].AsSpan(begin - m.TotalS, n),
                    table[action.Failed].AsSpan(begin - m.TotalS, n),
                    earned,
                    p
                );
            }
        }
    }

    private static void Raise(Span<double> row, double worth)
    {
        foreach (ref var v in row)
            v = Math.Max(v, worth);
    }

    private static void Raise(Span<double> row, ReadOnlySpan<double> done, ReadOnlySpan<double> failed, double earned, double p)
    {
        var i = 0;
        var (plus, yes, no) = (new Vector<double>(earned), new Vector<double>(p), new Vector<double>(1 - p));
        ref var to = ref MemoryMarshal.GetReference(row);
        ref var won = ref MemoryMarshal.GetReference(done);
        ref var lost = ref MemoryMarshal.GetReference(failed);
        // All three are as long as the row.
        for (; i <= row.Length - Vector<double>.Count; i += Vector<double>.Count)
        {
            var at = (nuint)i;
            var worth = plus + yes * Vector.LoadUnsafe(ref won, at) + no * Vector.LoadUnsafe(ref lost, at);
            Vector.MaxNative(Vector.LoadUnsafe(ref to, at), worth).StoreUnsafe(ref to, at);
        }
        for (; i < row.Length; i++)
            row[i] = Math.Max(row[i], earned + p * done[i] + (1 - p) * failed[i]);
    }
}
