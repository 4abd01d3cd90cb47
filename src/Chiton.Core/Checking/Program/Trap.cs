using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A round of states that drives forward and back and never turns.</summary>
internal sealed class Trap : Check
{
    /// <inheritdoc/>
    public override string Code => "trap";

    /// <inheritdoc/>
    public override string Title => "Round and round without progress";

    /// <inheritdoc/>
    public override string Says =>
        "A round of states drives forward and back, never turns, and nothing that ends it hangs on what it changes: it comes to the same "
        + "place again and again.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered) ? null : "Nothing of this rig is steered.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<StateNode>(ReferenceEqualityComparer.Instance);
        foreach (var start in input.Node.AllStates)
        {
            if (!Straight(input, start, false) || told.Contains(start))
                continue;
            foreach (var round in Rounds(input, start))
            {
                if (
                    !round.Any(s => Straight(input, s.State, true))
                    || round.Any(s => Turns(input, s.State) || s.Sentence.Actions.Any(Turning))
                )
                    continue;
                // A way out that hangs on something the round counts, or on a time of a state around it, comes to its turn.
                var counted = round
                    .SelectMany(s => s.Sentence.Actions.Concat(Places.Does(input, s.State).Select(c => c.Action)))
                    .SelectMany(Set)
                    .ToHashSet();
                var outs = round
                    .SelectMany(s => Places.Ways(input.Node, s.State).Where(t => !ReferenceEquals(t, s.Sentence)))
                    .Where(t => t.Target is not null)
                    .ToArray();
                if (outs.Length > 0 || round.Any(s => s.Sentence.Guard is not null) || counted.Count > 0)
                    continue;
                foreach (var s in round)
                    told.Add(s.State);
                yield return At(
                    start,
                    Severity.Risky,
                    $"{start.Name} comes to the same place again and again",
                    $"{Quantities.Figures.List(round.Select(s => s.State.Name))} lead to each other, forward and back on one line, "
                        + $"and nothing else leads "
                        + "out. Let it turn on the way, or count the rounds and stop."
                );
                break;
            }
        }
    }

    private static bool Straight(CheckInput input, StateNode state, bool back) =>
        Places.Does(input, state).Any(c => c.Action is DriveNode d && d.Back == back);

    private static bool Turns(CheckInput input, StateNode state) => Places.DoesAround(input, state).Any(c => Turning(c.Action));

    private static bool Turning(ActionNode action) =>
        action is TurnRobotNode or SteerNode or SteerByNode or FollowNode or RunNode or DoNode || action.Inner.Any(Turning);

    private static IEnumerable<string> Set(ActionNode action) =>
        action is SetNode s ? [s.Variable]
        : action is PushNode p ? [p.Queue]
        : action.Inner.SelectMany(Set);

    // Rounds of up to four states that lead back to the first.
    private static IEnumerable<IReadOnlyList<(StateNode State, TransitionNode Sentence)>> Rounds(CheckInput input, StateNode start)
    {
        var open = new Stack<(StateNode At, (StateNode, TransitionNode)[] Way)>([(start, [])]);
        while (open.TryPop(out var now))
            foreach (var sentence in now.At.Lines.OfType<TransitionNode>())
            {
                if (Places.Target(input.Node, now.At, sentence) is not { } next)
                    continue;
                (StateNode, TransitionNode)[] way = [.. now.Way, (now.At, sentence)];
                if (ReferenceEquals(next, start))
                    yield return way;
                else if (way.Length < 4 && !way.Any(w => ReferenceEquals(w.Item1, next)))
                    open.Push((next, way));
            }
    }
}
