using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A state that waits for a marker and can begin on that marker.</summary>
internal sealed class MarkerTwice : Check
{
    /// <inheritdoc/>
    public override string Code => "marker-twice";

    /// <inheritdoc/>
    public override string Title => "A marker counted twice";

    /// <inheritdoc/>
    public override string Says =>
        "A state takes a marker as soon as its sensor is over it, and the machine can come back to that state before it has left the "
        + "marker: the same one counts again.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "var beds = 0\n\nregion Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n"
        + "    when Tag eye is bed tag: set beds to beds + 1; go Seeding\n\n  state Seeding\n"
        + "    after 2 s if beds = 3: go Over\n    after 2 s: go Rolling\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "var beds = 0\n\nregion Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n"
        + "    when Tag eye becomes bed tag: set beds to beds + 1; go Seeding\n\n  state Seeding\n"
        + "    after 2 s if beds = 3: go Over\n    after 2 s: go Rolling\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var (transition, at) in input.Walk.Transitions)
        {
            // Only where it goes on over the marker does the same one come again; and only what is counted or done anew matters.
            if (
                transition.Trigger is not ZoneTriggerNode { Relation: ZoneRelation.Is, For: null } wanted
                || transition.Target is null
                || Places.Target(input.Node, at.State, transition) is not { } next
                || !Places.DoesAround(input, at.State).Any(c => c.Action is RunNode or DriveNode or FollowNode && Places.RunsOn(c.Action))
                || !transition.Actions.Any(a => a is SetNode or PushNode)
            )
                continue;
            if (Back(input, next, at.State, wanted) is not { } way)
                continue;
            yield return At(
                at,
                Severity.Risky,
                $"One {wanted.Zone} can be counted twice",
                $"After {next.Name} the machine comes back to {at.State.Name} by “{Printer.Trigger(way)}” while {wanted.Sensor} may "
                    + $"still be over the "
                    + $"same {wanted.Zone}, and “is” takes it again at once. Write “becomes”: then it must have left it.",
                wanted.Sensor,
                new(
                    "Write “becomes”",
                    [
                        new(
                            at.Number,
                            Places.With(transition, wanted with { Relation = ZoneRelation.Becomes }),
                            -1,
                            "the marker must have been left"
                        ),
                    ]
                )
            );
        }
    }

    // The last sentence of a way back on which nothing waits until the sensor has left the marker and nothing drives over it.
    private static TransitionNode? Back(CheckInput input, StateNode from, StateNode to, ZoneTriggerNode marker)
    {
        var seen = new HashSet<StateNode>(ReferenceEqualityComparer.Instance) { from };
        var open = new Queue<StateNode>([from]);
        while (open.TryDequeue(out var at))
        {
            // A move on the way carries it off the marker, as far as anybody can tell here.
            if (
                Places
                    .DoesAround(input, at)
                    .Any(c => c.Action is RunNode or DriveNode or TurnRobotNode or FollowNode or SteerNode && IsVehicle(input, c.Action))
            )
                continue;
            foreach (var sentence in Places.Ways(input.Node, at))
            {
                if (Leaves(sentence.Trigger, marker) || Places.Target(input.Node, at, sentence) is not { } next)
                    continue;
                if (ReferenceEquals(next, to))
                    return sentence;
                if (seen.Add(next))
                    open.Enqueue(next);
            }
        }
        return null;
    }

    private static bool IsVehicle(CheckInput input, ActionNode action) =>
        action is not RunNode run || Places.Mechanism(input, run.Motor)?.Facts.Going is not Rigs.Going.Nowhere;

    private static bool Leaves(TriggerNode trigger, ZoneTriggerNode marker) =>
        trigger switch
        {
            ZoneTriggerNode z when z.Sensor == marker.Sensor => z.Relation == ZoneRelation.Leaves || z.Zone != marker.Zone,
            ConditionTriggerNode { Condition: ZoneIsNode c } when c.Sensor == marker.Sensor => c.Not || c.Zone != marker.Zone,
            _ => false,
        };
}
