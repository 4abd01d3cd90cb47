using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A press that falls into a state that does not listen.</summary>
internal sealed class LateCheck : Check
{
    // A wait that somebody at the button notices, s.
    private const double Long = 5;

    /// <inheritdoc/>
    public override string Code => "late-check";

    /// <inheritdoc/>
    public override string Title => "Looked at too late";

    /// <inheritdoc/>
    public override string Says =>
        "A press counts only in one state, the machine comes back there again and again, and in between it waits for long in states "
        + "that do not listen: whoever presses then is not heard.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<string>();
        // States that are deaf to a sensor, and a region's states, are the same for every sentence that asks.
        var deafTo = new Dictionary<(string Sensor, int FirstLine), StateNode[]>();
        foreach (var (transition, at) in input.Walk.Transitions)
        {
            if (
                transition.Trigger is not PressTriggerNode { Kind: PressKind.Pressed or PressKind.Tapped } press
                || Places.Target(input.Node, at.State, transition) is not { } next
                || ReferenceEquals(next, at.State)
                || told.Contains(press.Sensor)
            )
                continue;
            var states = Places.Region(input.Node, at.State).ToArray();
            if (!deafTo.TryGetValue((press.Sensor, states[0].Span.Line), out var deafs))
                deafTo[(press.Sensor, states[0].Span.Line)] = deafs = Deafs(input, states, press.Sensor);
            if (deafs.All(d => ReferenceEquals(d, at.State)))
                continue;
            var after = Places.From(input.Node, next);
            if (!after.Contains(at.State) || deafs.FirstOrDefault(d => !ReferenceEquals(d, at.State) && after.Contains(d)) is not { } deaf)
                continue;
            told.Add(press.Sensor);
            yield return At(
                at,
                Severity.Advice,
                $"A press of {press.Sensor} while {deaf.Name} is lost",
                $"{press.Sensor} counts in {at.State.Name} alone. {deaf.Name} waits for long and does not listen: a press then is not "
                    + "remembered. Let a region of its own listen, and keep what was asked for in a variable.",
                press.Sensor
            );
        }
    }

    // States that wait for long and do not listen to a sensor; none where another region listens, which remembers it.
    private static StateNode[] Deafs(CheckInput input, StateNode[] states, string sensor)
    {
        var region = states.ToHashSet((IEqualityComparer<StateNode>)ReferenceEqualityComparer.Instance);
        return input.Walk.Transitions.Any(t => !region.Contains(t.At.State) && Listens(t.Transition, sensor))
            ? []
            : [.. states.Where(s => Waits(input, s) && !Places.Ways(input.Node, s).Any(t => Listens(t, sensor)))];
    }

    private static bool Listens(TransitionNode sentence, string sensor) =>
        sentence.Trigger switch
        {
            PressTriggerNode p => p.Sensor == sensor,
            ZoneTriggerNode z => z.Sensor == sensor,
            ConditionTriggerNode { Condition: ZoneIsNode z } => z.Sensor == sensor,
            _ => false,
        };

    // It waits for another program, or for a time that is long.
    private static bool Waits(CheckInput input, StateNode state)
    {
        var ways = state.Lines.OfType<TransitionNode>().Where(t => t.Target is not null).ToArray();
        return ways.Length > 0
            && ways.All(t =>
                t.Trigger is ToldTriggerNode
                || t.Trigger is AfterTriggerNode after && input.Walk.Values(after.Time).Any(v => v.Value >= Long)
            );
    }
}
