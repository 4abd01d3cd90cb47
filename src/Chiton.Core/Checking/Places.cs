using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>What stands where in a program: what checks ask of states again and again.</summary>
internal static class Places
{
    /// <summary>A state and those that hold it, the innermost first.</summary>
    public static IReadOnlyList<StateNode> Around(ProgramNode program, StateNode state) =>
        [state, .. program.AllStates.Where(s => !ReferenceEquals(s, state) && s.WithInner.Any(i => ReferenceEquals(i, state))).Reverse()];

    /// <summary>Every sentence that is looked at while a state is active: its own and those of the states that hold it.</summary>
    public static IEnumerable<TransitionNode> Ways(ProgramNode program, StateNode state) =>
        Around(program, state).SelectMany(s => s.Lines).OfType<TransitionNode>();

    /// <summary>States of the region that a state stands in, at every depth.</summary>
    public static IEnumerable<StateNode> Region(ProgramNode program, StateNode state) =>
        program
            .Regions.Concat(program.Routines.SelectMany(r => r.Regions))
            .FirstOrDefault(r => r.AllStates.Any(s => ReferenceEquals(s, state)))
            ?.AllStates
        ?? [];

    /// <summary>The state that a sentence of another leads to; null when it stays.</summary>
    public static StateNode? Target(ProgramNode program, StateNode from, TransitionNode sentence) =>
        sentence.Target is { } name ? Region(program, from).FirstOrDefault(s => s.Name == name) : null;

    /// <summary>Every state that may come after one is entered, itself among them.</summary>
    public static IReadOnlySet<StateNode> From(ProgramNode program, StateNode state)
    {
        // Who holds whom and who is called what is read once: a large program is gone through in no time.
        var holder = new Dictionary<StateNode, StateNode>(ReferenceEqualityComparer.Instance);
        var named = new Dictionary<string, StateNode>();
        foreach (var one in Region(program, state))
        {
            named.TryAdd(one.Name, one);
            foreach (var inner in Held(one))
                holder[inner] = one;
        }
        var found = new HashSet<StateNode>(ReferenceEqualityComparer.Instance);
        var open = new Stack<StateNode>([state]);
        while (open.TryPop(out var at))
        {
            if (!found.Add(at))
                continue;
            for (var around = at; around is not null; around = holder.GetValueOrDefault(around))
                foreach (var sentence in around.Lines.OfType<TransitionNode>())
                    if (sentence.Target is { } name && named.TryGetValue(name, out var to))
                        open.Push(to);
            foreach (var inner in Held(at))
                open.Push(inner);
        }
        return found;
    }

    private static IEnumerable<StateNode> Held(StateNode state) => state.States.Concat(state.Regions.SelectMany(r => r.States));

    /// <summary>True for a command that goes on until something stops it.</summary>
    public static bool RunsOn(ActionNode action) =>
        action
            is RunNode { Amount: null, Time: null }
                or DriveNode { Distance: null, Time: null }
                or TurnRobotNode { Angle: null, Time: null }
                or SteerNode { Distance: null, Time: null }
                or SteerByNode
                or FollowNode;

    /// <summary>True for a command that moves something.</summary>
    public static bool Moves(ActionNode action) =>
        action is RunNode or DriveNode or TurnRobotNode or SteerNode or SteerByNode or FollowNode or SendNode or SetServoNode or StepNode;

    /// <summary>The commands of a state's own lines, those in its sentences left out.</summary>
    public static IEnumerable<WalkedCommand> Does(CheckInput input, StateNode state) =>
        input.Walk.Commands.Where(c => ReferenceEquals(c.At.State, state) && c.At.Line is ActivityNode);

    /// <summary>The commands that go on while a state is active: its own and those of the states that hold it.</summary>
    public static IEnumerable<WalkedCommand> DoesAround(CheckInput input, StateNode state) =>
        Around(input.Node, state).SelectMany(s => Does(input, s));

    /// <summary>The actuators of a name that are of one kind, all of them.</summary>
    public static bool AreAll(CheckInput input, string name, Func<Actuator, bool> that)
    {
        var moved = input.Walk.Moved(name).ToArray();
        Actuator[] found = [.. input.Rig.Actuators.Where(a => moved.Contains(a.Name))];
        return found.Length > 0 && found.All(that);
    }

    /// <summary>The mechanism that a name means; null where it means none.</summary>
    public static Mechanism? Mechanism(CheckInput input, string name) =>
        input.Rig.Mechanisms.FirstOrDefault(m => ProgramWalk.Means(m, name));

    /// <summary>A line with another trigger, as a sentence.</summary>
    public static string With(TransitionNode sentence, TriggerNode trigger) =>
        Printer.Plain(Printer.Pieces(sentence with { Trigger = trigger }));
}
