using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>Moves that are begun together and do not end together.</summary>
internal sealed class UnevenBranches : Check
{
    // Apart by more than a tenth, somebody sees it.
    private const double Apart = 0.1;

    /// <inheritdoc/>
    public override string Code => "uneven-branches";

    /// <inheritdoc/>
    public override string Title => "Ends that do not come together";

    /// <inheritdoc/>
    public override string Says =>
        "Two motors of the same kind are begun together for a way each, and by their speeds one is over well before the other: one "
        + "stands while "
        + "the other still pulls.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var line in input.Walk.Lines)
        foreach (var together in Togethers(line.Line))
        {
            var parts = together.Parts.OfType<RunNode>().Select(r => (Run: r, Takes: Takes(input, r))).Where(r => r.Takes is > 0).ToArray();
            if (parts.Length < 2 || parts.Length != together.Parts.Count)
                continue;
            var (first, last) = (parts.MinBy(p => p.Takes), parts.MaxBy(p => p.Takes));
            if (last.Takes <= first.Takes * (1 + Apart))
                continue;
            // The two wheels of a drive turn it when one is over; elsewhere it may be meant.
            var pair = input.Rig.Mechanisms.Any(m =>
                m.Facts.Going == Rigs.Going.Steered && m.Motors.Contains(first.Run.Motor) && m.Motors.Contains(last.Run.Motor)
            );
            yield return At(
                line,
                pair ? Severity.Risky : Severity.Advice,
                $"{first.Run.Motor} is over before {last.Run.Motor}",
                $"By their speeds {first.Run.Motor} takes {Ratio(first.Takes!.Value, last.Takes!.Value)} of the time of {last.Run.Motor}. "
                    + (pair ? "Then one wheel stands and the other turns the robot. " : "")
                    + "Give both ways in the proportion of their speeds.",
                first.Run.Motor
            );
        }
    }

    private static string Ratio(double a, double b) => $"{Quantities.Figures.Show(100 * a / b, 2)} %";

    // A way over a speed: a number only to be held against another of the same units.
    private static double? Takes(CheckInput input, RunNode run)
    {
        if (run.Time is { } time)
            return Analysis.Constant(time);
        if (run.Amount is not { } amount)
            return null;
        var (ways, speeds) = (input.Walk.Values(amount), input.Walk.Values(run.Speed));
        return ways.Count == 1 && speeds.Count == 1 && speeds[0].Value != 0 && speeds[0].Unit == "%"
            ? Math.Abs(ways[0].Value / speeds[0].Value)
            : null;
    }

    private static IEnumerable<TogetherNode> Togethers(LineNode line) =>
        (
            line switch
            {
                ActivityNode a => a.Actions,
                TransitionNode t => t.Actions,
                _ => [],
            }
        ).SelectMany(Within);

    private static IEnumerable<TogetherNode> Within(ActionNode action) =>
        action is TogetherNode t ? action.Inner.SelectMany(Within).Prepend(t) : action.Inner.SelectMany(Within);
}
