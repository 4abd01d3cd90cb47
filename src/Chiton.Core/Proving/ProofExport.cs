using System.Text;
using static Chiton.Core.Simulation.RunExport;

namespace Chiton.Core.Proving;

/// <summary>A proof as a table for a spreadsheet.</summary>
public static class ProofExport
{
    /// <summary>One row a run: outcome, score, time, cause, and every number that was drawn.</summary>
    /// <param name="proof">The proof.</param>
    /// <param name="values">The numbers drawn, by number and run.</param>
    public static string Csv(Proof proof, IReadOnlyList<float[]> values)
    {
        var csv = new StringBuilder("run,seed,copy,copy seed,outcome,score,time in s,cause");
        foreach (var number in proof.Numbers)
            csv.Append(',').Append(Text(number.Unit.Length > 0 ? $"{number.Name} in {number.Unit}" : number.Name));
        csv.Append('\n');
        for (var i = 0; i < proof.Strokes.Count; i++)
        {
            var s = proof.Strokes[i];
            string[] cells =
            [
                Number(s.Run),
                Number(s.Seed),
                s.Copy == 0 ? "" : Number(s.Copy),
                s.CopySeed is { } copy ? Number(copy) : "",
                s.Passed ? "pass" : "fail",
                Number(s.Score),
                Number(s.EndS),
                s.Group < 0 ? "" : Text(Cause(proof.Failures[s.Group])),
                .. values.Where(v => i < v.Length).Select(v => Number(v[i])),
            ];
            csv.AppendJoin(',', cells).Append('\n');
        }
        return csv.ToString();
    }

    private static string Cause(FailureGroup group) => $"{group.Goal}; {group.Ended}; last: {group.LastTransition}";
}
