using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>What the bench says of findings: a risk that never shows is advice, one that was taken for advice and shows is a
/// risk.</summary>
public static class BenchSays
{
    // Risks of what the bench moves, reads and times. Wiring, what must never be, what stops, and what speaks of the text are not the
    // bench's to make less.
    private static readonly HashSet<string> Shown =
    [
        "zone-weak",
        "zone-gap",
        "zone-overlap",
        "zone-lookalike",
        "marker-missed",
        "marker-rest",
        "marker-twice",
        "guess-used",
        "sweep-fast",
        "stop-late",
        "react-late",
        "edge-blind",
        "clicks-missed",
        "turn-clearance",
        "path-wide",
        "line-lost",
        "past-stop",
        "start-assumed",
        "load-loose",
        "late-check",
        "runs-on",
        "jam",
        "done-guessed",
        "wrong-way",
    ];

    // What is told as advice because only the bench can say how often it does harm.
    private static readonly HashSet<string> Raised = ["edge-blind", "line-lost", "sweep-fast"];

    // Of the runs that come to a state so many fail there before a risk that was only advice is one.
    private const double Harm = 0.05;

    /// <summary>True for a code of which the bench can tell how often it does harm.</summary>
    public static bool CanTell(string code) => Shown.Contains(code) || code == "interlock";

    /// <summary>A finding with what the bench says of it.</summary>
    internal static Finding Judge(CheckInput input, Finding finding)
    {
        if (input.Ran is not { } ran || finding.Severity == Severity.Holds || finding.Tried is not null)
            return finding;
        SceneRuns[] asked = [.. ran.Where(r => r.Asks && r.Runs > 0)];
        if (asked.Length == 0)
            return finding;
        if (finding.Code == "interlock")
            return Interlocked(input, finding, asked);
        if (!Shown.Contains(finding.Code))
            return finding;
        // What stands in the head, or at a line of no state, is everywhere.
        var line = input.Node.AllStates.FirstOrDefault(s => s.Name == finding.Owner)?.Span.Line ?? 0;
        (int Runs, int Failed) In(SceneRuns scene) =>
            line == 0 ? (scene.Runs, scene.Runs - scene.Passes)
            : scene.Programs.Count > input.ExploredAs ? scene.Programs[input.ExploredAs].Entered.GetValueOrDefault(line)
            : default;
        var came = asked.Sum(s => In(s).Runs);
        var failed = asked.Sum(s => In(s).Failed);
        if (came == 0)
            // What no run comes to, none can show.
            return finding;
        if (failed == 0)
        {
            var settled = ran.All(r => r.Cannot is null && r.Runs >= SceneRuns.Settles) && asked.Length == ran.Count;
            return finding with
            {
                Severity = settled && finding.Severity == Severity.Risky ? Severity.Advice : finding.Severity,
                ByFigures = settled && finding.Severity == Severity.Risky ? finding.Severity : null,
                Tried = $"Tried in the bench: none of {Count(came, "run")} that came here failed.",
            };
        }
        // Where they fail last they fail because of what is there: here, or having come from here.
        var here = asked.Where(s => s.Counts).Sum(s => Ends(input, s, finding.Owner));
        var counted = asked.Where(s => s.Counts).Sum(s => In(s).Runs);
        var raised = finding.Severity == Severity.Advice && Raised.Contains(finding.Code) && counted > 0 && here > Harm * counted;
        return finding with
        {
            Severity = raised ? Severity.Risky : finding.Severity,
            ByFigures = raised ? finding.Severity : null,
            Tried =
                $"Tried in the bench: {failed} of {Count(came, "run")} that came here failed{(here > 0 ? $", {here} of them here" : "")}.",
            Run = finding.Run ?? asked.SelectMany(s => s.Failures).FirstOrDefault(f => IsHere(input, f, finding.Owner))?.Run,
        };
    }

    private static int Ends(CheckInput input, SceneRuns scene, string owner) =>
        scene.Failures.Where(f => IsHere(input, f, owner)).Sum(f => f.Count);

    // The last sentence stands in the state, or led into it.
    private static bool IsHere(CheckInput input, FailedRuns failed, string owner)
    {
        if (failed.Program != input.ExploredAs)
            return false;
        if (owner == "")
            return true;
        return input.Walk.Lines.FirstOrDefault(l => l.Number == failed.Line) is { } at
            && (at.State.Name == owner || at.Line is Programs.Language.TransitionNode { Target: { } target } && target == owner);
    }

    private static Finding Interlocked(CheckInput input, Finding finding, SceneRuns[] asked)
    {
        var rule = input.Node.Head.FirstOrDefault(h => h.Span.Line == finding.Line) is { } head
            ? Programs.Language.Printer.Plain(Programs.Language.Printer.Pieces(head))
            : "";
        FailedRuns[] seen = [.. asked.SelectMany(s => s.Failures).Where(f => f.IsNever && f.Rule == rule)];
        var runs = asked.Sum(s => s.Runs);
        return finding with
        {
            Tried =
                seen.Length > 0
                    ? $"Seen in the bench: {seen.Sum(s => s.Count)} of {Count(runs, "run")}."
                    : $"Possible in theory: in none of {Count(runs, "run")} of the bench it came about.",
            Run = seen.FirstOrDefault()?.Run,
        };
    }
}
