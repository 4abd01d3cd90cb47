using Chiton.Core.Proving;
using Chiton.Core.Simulation;

namespace Chiton.Data;

/// <summary>The runs of a proof that was kept, as they were.</summary>
public static class Promised
{
    /// <summary>Reads them.</summary>
    /// <param name="row">The proof; one that told copies apart.</param>
    /// <param name="draws">The numbers that its bench draws now. Where others varied then, the runs come without their numbers.</param>
    public static RunsDone Runs(ProofRow row, IReadOnlyList<DrawSpec> draws)
    {
        var proof = row.Light ? null : Documents.Read<Proof>(row.Result);
        var layout = new RunLayout(row.Seed, RunLayout.Kinds.Copies, proof?.Asked ?? Gauge.Runs);
        var results = new BenchResult[row.Passed.Length];
        for (var i = 0; i < results.Length; i++)
            results[i] = new(
                row.Passed[i] == '1' ? RunEnding.Passed : RunEnding.GoalMissed,
                -1,
                0,
                -1,
                i < proof?.Strokes.Count ? (long)Math.Round(proof.Strokes[i].EndS * 1e6) : 0,
                0,
                ""
            );
        var columns = ManyRuns.Columns(draws);
        var known =
            proof is not null
            && row.Drawn is not null
            && proof.Numbers.Select(n => (n.Name, n.Unit)).SequenceEqual(columns.Select(c => (c.Name, c.Unit)));
        return known ? new(layout, results, columns, Documents.UnpackJson<float[][]>(row.Drawn!)) : new(layout, results, [], []);
    }
}
