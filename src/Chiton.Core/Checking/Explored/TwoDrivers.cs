using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>Two regions that command one device at the same time.</summary>
internal sealed class TwoDriversCheck : ExploredCheck
{
    /// <inheritdoc/>
    public override string Code => "two-drivers";

    /// <inheritdoc/>
    public override string Title => "Two regions drive one motor";

    /// <inheritdoc/>
    public override string Says =>
        "Two regions can command one device at the same time: the latest command wins, and the other region knows nothing of it. The "
        + "shortest way there is told.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Cart\n  state Standing, initial\n    when Tag eye becomes bed tag: go Rolling\n\n"
        + "  state Rolling\n    while here: run Trolley at 40 %\n    when Tag eye becomes sleepers: go Standing\n\n"
        + "region Timer\n  state Waiting, initial\n    after 5 s: go Backing\n\n"
        + "  state Backing\n    while here: run Trolley back at 20 %\n    after 1 s: go Waiting\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Cart\n  state Standing, initial\n    when Tag eye becomes bed tag if Timer is in Waiting: go Rolling\n\n"
        + "  state Rolling\n    while here: run Trolley at 40 %\n    when Tag eye becomes sleepers: go Standing\n\n"
        + "region Timer\n  state Waiting, initial\n    after 5 s if Cart is in Standing: go Backing\n\n"
        + "  state Backing\n    while here: run Trolley back at 20 %\n    after 1 s: go Waiting\n";

    /// <inheritdoc/>
    public override string? Unsettled(CheckInput input) =>
        input.Node.Regions.Count <= 1 ? null
        : input.Explored?.DrivenTwice().FirstOrDefault(d => d.Program == input.ExploredAs && !d.Way.Replayed) is { } open
            ? $"Not ruled out for {open.Device}, and no way there was found that fits its times."
        : base.Unsettled(input);

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        if (input.Explored is not { } explored)
            yield break;
        // One of several commands that meet is enough: the same two states and device are one thing.
        var said = new HashSet<(StateNode, StateNode, string)>();
        foreach (var twice in explored.DrivenTwice().Where(d => d.Program == input.ExploredAs && d.Way.Replayed))
        {
            if (LineOf(input, twice.First) is not { } first || LineOf(input, twice.Second) is not { } second)
                continue;
            if (said.Contains((second.State, first.State, twice.Device)) || !said.Add((first.State, second.State, twice.Device)))
                continue;
            yield return At(
                second,
                Severity.Risky,
                $"{first.State.Name} and {second.State.Name} both command {twice.Device}",
                $"{After(twice.Way.Events)}, both go on at the same time: “{Printer.Plain(Printer.Sentence(twice.Second))}” takes "
                    + $"over from "
                    + $"“{Printer.Plain(Printer.Sentence(twice.First))}”. Let one wait for the other, or command {twice.Device} in one "
                    + "region only.",
                twice.Device
            ) with
            {
                Walk = twice.Way.Events,
            };
        }
    }
}
