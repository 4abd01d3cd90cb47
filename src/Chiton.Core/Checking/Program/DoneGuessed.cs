using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>The next step waits for an end that nothing measures.</summary>
internal sealed class DoneGuessed : Check
{
    /// <inheritdoc/>
    public override string Code => "done-guessed";

    /// <inheritdoc/>
    public override string Title => "An end that is only estimated";

    /// <inheritdoc/>
    public override string Says =>
        "What comes next waits until a servo is at its angle, or a plain motor has come its way: neither can tell, so the end is a time "
        + "that was worked out.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<(StateNode, string)>();
        foreach (var command in input.Walk.Commands)
        {
            if (Guessed(input, command.Action) is not { } device || !told.Add((command.At.State, device)))
                continue;
            var waits = Places
                .Ways(input.Node, command.At.State)
                .Any(t =>
                    t.Trigger is ConditionTriggerNode { Condition: DoneNode done }
                    && (done.Device is null || input.Walk.Moved(done.Device).Intersect(input.Walk.Moved(device)).Any())
                );
            var chained = command.At.Line is ActivityNode a && a.Actions.Any(x => Chained(x, command.Action));
            if (!waits && !chained)
                continue;
            yield return At(
                command.At,
                Severity.Advice,
                $"{device} cannot tell when it is there",
                $"{(chained ? "The next step" : $"{command.At.State.Name}")} goes on when {device} is done, and that is a time that "
                    + $"was worked out, not "
                    + "measured. Under load it may still be on its way. A trial in Move says how long it takes, or a sensor at its end.",
                device
            );
        }
    }

    private static string? Guessed(CheckInput input, ActionNode action) =>
        action switch
        {
            SetServoNode s => s.Device,
            SendNode s when Places.AreAll(input, s.Device, a => a.Kind == ActuatorKind.Servo) => s.Device,
            RunNode { Amount: not null } r when Places.AreAll(input, r.Motor, a => a.Kind == ActuatorKind.PlainMotor) => r.Motor,
            _ => null,
        };

    // True when it stands in a chain with something after it.
    private static bool Chained(ActionNode outer, ActionNode action) =>
        outer is ThenNode then
            && then.Steps.Count > 1
            && !ReferenceEquals(then.Steps[^1], action)
            && then.Steps.Any(s => ReferenceEquals(s, action))
        || outer.Inner.Any(i => Chained(i, action));
}
