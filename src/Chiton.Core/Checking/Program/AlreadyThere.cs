using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A state that waits for a sensor to come into a zone in which it is when the state begins.</summary>
internal sealed class AlreadyThere : Check
{
    /// <inheritdoc/>
    public override string Code => "already-there";

    /// <inheritdoc/>
    public override string Title => "It lies there already";

    /// <inheritdoc/>
    public override string Says =>
        "A state waits until a sensor comes into a zone, and every way into the state is taken while it is in that zone; nothing in the "
        + "state moves. What is there already does not come.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Standing\n\n"
        + "  state Standing\n    on entry: turn Lamp on\n    when Tag eye becomes bed tag: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Standing\n\n"
        + "  state Standing\n    on entry: turn Lamp on\n    when Tag eye is bed tag: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var (transition, at) in input.Walk.Transitions)
        {
            if (transition.Trigger is not ZoneTriggerNode { Relation: ZoneRelation.Becomes } wanted || at.State.Initial)
                continue;
            var into = input
                .Walk.Transitions.Where(t =>
                    t.Transition.Target == at.State.Name
                    && !ReferenceEquals(t.At.State, at.State)
                    && Places.Region(input.Node, t.At.State).Any(s => ReferenceEquals(s, at.State))
                )
                .ToArray();
            var there =
                into.Length > 0
                && into.All(t =>
                    t.Transition.Trigger is ZoneTriggerNode { Relation: not ZoneRelation.Leaves } z
                        && z.Sensor == wanted.Sensor
                        && z.Zone == wanted.Zone
                    || t.Transition.Trigger is ConditionTriggerNode { Condition: ZoneIsNode { Not: false } c }
                        && c.Sensor == wanted.Sensor
                        && c.Zone == wanted.Zone
                );
            // Whatever moves may move what the sensor sees, and somebody may take it away where another way leads on.
            if (
                !there
                || Places.DoesAround(input, at.State).Any(c => Places.Moves(c.Action))
                || into.Any(t => t.Transition.Actions.Any(Moving))
            )
                continue;
            if (
                Places
                    .Ways(input.Node, at.State)
                    .Any(t => t.Trigger is ZoneTriggerNode { Relation: ZoneRelation.Leaves } l && l.Sensor == wanted.Sensor)
            )
                continue;
            yield return At(
                at,
                Severity.Risky,
                $"{wanted.Sensor} is over {wanted.Zone} already",
                $"{at.State.Name} begins while {wanted.Sensor} is in {wanted.Zone}, and nothing moves there: it cannot come into "
                    + $"{wanted.Zone} "
                    + "without leaving it first. Write “is” instead of “becomes”, and it counts at once.",
                wanted.Sensor,
                new(
                    "Write “is”",
                    [
                        new(
                            at.Number,
                            Places.With(transition, wanted with { Relation = ZoneRelation.Is }),
                            -1,
                            "what is there already counts"
                        ),
                    ]
                )
            );
        }
    }

    private static bool Moving(ActionNode action) => Places.Moves(action) || action.Inner.Any(Moving);
}
