using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A never of a program that can come true.</summary>
internal sealed class Interlock : ExploredCheck
{
    /// <inheritdoc/>
    public override string Code => "interlock";

    /// <inheritdoc/>
    public override string Title => "What must never be at once";

    /// <inheritdoc/>
    public override string Says =>
        "A “never” of a program can come true: all that may happen was gone through, and the shortest way there is told. A never about "
        + "places, levels or times is counted by Prove instead.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string Example =>
        "never: Flap is in Open and Cart is in Rolling\n\nregion Cart\n  state Standing, initial\n    when Tag eye becomes bed tag: "
        + "go Rolling\n\n"
        + "  state Rolling\n    while here: run Trolley at 40 %\n    when Tag eye becomes sleepers: go Standing\n\n"
        + "region Flap\n  state Shut, initial\n    after 2 s: go Open\n\n  state Open\n    after 1 s: go Shut\n";

    /// <inheritdoc/>
    public override string Mended =>
        "never: Flap is in Open and Cart is in Rolling\n\nregion Cart\n  state Standing, initial\n"
        + "    when Tag eye becomes bed tag if Flap is in Shut: go Rolling\n\n"
        + "  state Rolling\n    while here: run Trolley at 40 %\n    when Tag eye becomes sleepers: go Standing\n\n"
        + "region Flap\n  state Shut, initial\n    after 2 s if Cart is in Standing: go Open\n\n  state Open\n    after 1 s: go Shut\n";

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input)
    {
        var nevers = input.Node.Head.OfType<RuleNode>().Where(r => !r.IsGoal).ToArray();
        return nevers.Length > 0 && !nevers.Any(Explorer.IsExplorable)
            ? "A never about places, levels or times cannot be looked at here; Prove counts it."
            : null;
    }

    /// <inheritdoc/>
    public override string? Unsettled(CheckInput input)
    {
        var nevers = input.Node.Head.OfType<RuleNode>().Where(r => !r.IsGoal).ToArray();
        if (nevers.Length == 0)
            return null;
        // What the engine could not be taken to is no finding, and not ruled out either.
        if (input.Explored?.Broken().FirstOrDefault(b => b.Program == input.ExploredAs && !b.Way.Replayed) is { } open)
            return $"Not ruled out, and no way there was found that fits its times: {Printer.Plain(Printer.Pieces(open.Rule))}.";
        return base.Unsettled(input)
            ?? (nevers.All(Explorer.IsExplorable) ? null : "A never about places, levels or times is not looked at here; Prove counts it.");
    }

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        if (input.Explored is not { } explored)
            yield break;
        foreach (var broken in explored.Broken().Where(b => b.Program == input.ExploredAs && b.Way.Replayed))
        {
            var rule = Printer.Plain(Printer.Pieces(broken.Rule));
            var what = rule[(rule.IndexOf(':', StringComparison.Ordinal) + 1)..].Trim();
            yield return At(
                broken.Rule.Span.Line,
                Severity.Stops,
                $"It can be that {what}",
                $"{After(broken.Way.Events)}, this is so, which must never be. It was gone through all that the programs may do, with any "
                    + "reading at any moment: whether the bench ever comes there, its runs tell. Let one wait until the other is over."
            ) with
            {
                Walk = broken.Way.Events,
            };
        }
    }
}
