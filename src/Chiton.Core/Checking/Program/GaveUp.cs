using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A move that may give up, and a state that only waits for its end.</summary>
internal sealed class GaveUp : Check
{
    /// <inheritdoc/>
    public override string Code => "gave-up";

    /// <inheritdoc/>
    public override string Title => "Gives up, and nobody asks";

    /// <inheritdoc/>
    public override string Says =>
        "A move has a limit of time and the state waits only for its end. Once the limit runs out the motor gives up and is not done: the "
        + "machine waits for ever.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Opening, initial\n    on entry: run Hopper flap 90 motor deg at 30 % up to 2 s\n"
        + "    when Hopper flap is done: go Open\n\n  state Open, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Opening, initial\n    on entry: run Hopper flap 90 motor deg at 30 % up to 2 s\n"
        + "    when Hopper flap is done: go Open\n    when Hopper flap gives up: go Stuck\n\n  state Open, final\n\n  state Stuck, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not RunNode { UpTo: not null } run || command.At.Line is not ActivityNode)
                continue;
            StateNode[] home =
            [
                command.At.State,
                .. input.Node.AllStates.Where(s =>
                    !ReferenceEquals(s, command.At.State) && s.WithInner.Any(i => ReferenceEquals(i, command.At.State))
                ),
            ];
            var ways = home.SelectMany(s => s.Lines).OfType<TransitionNode>().ToArray();
            bool Same(string name) => name == run.Motor || input.Walk.Moved(name).Intersect(input.Walk.Moved(run.Motor)).Any();
            // “All done” holds once it has given up too.
            var waits = ways.FirstOrDefault(t => t.Trigger is ConditionTriggerNode { Condition: DoneNode { Device: { } of } } && Same(of));
            // Anything else that leads on in time is a way out: a time, a stall, a button, a reading.
            var leads = ways.Any(t =>
                !ReferenceEquals(t, waits)
                && t.Trigger
                    is GiveUpTriggerNode
                        or StallTriggerNode
                        or AfterTriggerNode
                        or EveryTriggerNode
                        or PressTriggerNode
                        or ZoneTriggerNode
                        or ToldTriggerNode
                        or SilenceTriggerNode
                        or AlwaysTriggerNode
                        or ConditionTriggerNode
            );
            if (waits is null || leads)
                continue;
            yield return At(
                command.At,
                // Only where something holds it back does it come to that.
                Severity.Advice,
                $"Nothing leads on once {run.Motor} gives up",
                $"{run.Motor} gives up when its time is over, and then it is not done: {command.At.State.Name} waits for its end for ever. "
                    + $"Say what is to happen “when {run.Motor} gives up”.",
                run.Motor
            );
        }
    }
}
