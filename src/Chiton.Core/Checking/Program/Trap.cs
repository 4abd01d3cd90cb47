using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
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
        + "place again and again. Where there are other ways out it is told when failed runs of the bench go round three times and more.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered) ? null : "Nothing of this rig is steered.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<StateNode>(ReferenceEqualityComparer.Instance);
        foreach (var seen in Seen(input))
        {
            foreach (var step in seen.Round)
                told.Add(step.State);
            yield return At(
                seen.Round[0].State,
                Severity.Risky,
                $"{seen.Round[0].State.Name} comes to the same place again and again",
                $"“{seen.Scene.Scene}”: {seen.Seen.Count} of {seen.Scene.Runs} runs fail going round "
                    + $"{Figures.List(seen.Round.Select(s => s.State.Name))}, three times and more, forward and back on one "
                    + "line. None of the ways out hangs on what the round changes. Let it turn on the way, or count the rounds and stop."
            ) with
            {
                Run = seen.Seen.Run,
            };
        }
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
                if (round.Any(s => told.Contains(s.State)))
                    break;
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
                    $"{Figures.List(round.Select(s => s.State.Name))} lead to each other, forward and back on one line, "
                        + $"and nothing else leads "
                        + "out. Let it turn on the way, or count the rounds and stop."
                );
                break;
            }
        }
    }

    // Rounds that failed runs were going at their end: forward and back, never turning, and nothing they change is asked for.
    private static IEnumerable<(SceneRuns Scene, RoundSeen Seen, (StateNode State, TransitionNode Sentence)[] Round)> Seen(CheckInput input)
    {
        var said = new HashSet<string>();
        foreach (var scene in input.Ran ?? [])
        foreach (
            var alike in scene
                .Rounds.Where(r => r.Program == input.ExploredAs)
                .Select(r => (Seen: r, Lines: r.Lines.Select(l => input.Walk.Lines.FirstOrDefault(w => w.Number == l)).ToArray()))
                .Where(r => r.Lines.All(l => l?.Line is TransitionNode))
                // By whichever sentence of a state: the round is the same.
                .GroupBy(r => string.Join('\n', r.Lines.Select(l => l!.State.Name).Order(StringComparer.Ordinal)))
        )
        {
            var (first, lines) = alike.First();
            if (!said.Add(alike.Key))
                continue;
            var seen = first with { Count = alike.Sum(r => r.Seen.Count) };
            (StateNode State, TransitionNode Sentence)[] round = [.. lines.Select(l => (l!.State, (TransitionNode)l.Line))];
            if (
                !round.Any(s => Straight(input, s.State, false) || Straight(input, s.Sentence, false))
                || !round.Any(s => Straight(input, s.State, true) || Straight(input, s.Sentence, true))
                || round.Any(s => Turns(input, s.State) || s.Sentence.Actions.Any(Turning))
            )
                continue;
            var changed = round
                .SelectMany(s => s.Sentence.Actions.Concat(Places.DoesAround(input, s.State).Select(c => c.Action)))
                .SelectMany(Set)
                .ToHashSet();
            if (changed.Count > 0 && Asks(input, round, changed))
                continue;
            yield return (scene, seen, round);
        }
    }

    // True when a trigger or guard of these sentences asks for one of the names.
    private static bool Asks(CheckInput input, IEnumerable<(StateNode State, TransitionNode Sentence)> round, HashSet<string> names)
    {
        var asked = new Asked(names);
        var ways = round.SelectMany(s => Places.Ways(input.Node, s.State)).Select(t => (LineNode)(t with { Actions = [] }));
        var alone = input.Node.Regions[0].States[0] with { Lines = ways.ToSequence(), States = [], Regions = [] };
        asked.Map(input.Node with { Head = [], Routines = [], Regions = [input.Node.Regions[0] with { States = [alone] }] });
        return asked.Found;
    }

    private sealed class Asked(HashSet<string> names) : NameMap
    {
        public bool Found { get; private set; }

        protected override string Variable(string name)
        {
            Found |= names.Contains(name);
            return name;
        }
    }

    private static bool Straight(CheckInput input, TransitionNode sentence, bool back) =>
        input.Walk.Commands.Any(c => ReferenceEquals(c.At.Line, sentence) && c.Action is DriveNode d && d.Back == back);

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
