using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>A line of a state, wherever the state stands.</summary>
/// <param name="State">The state that it belongs to.</param>
/// <param name="Line">The line.</param>
/// <param name="Number">Its line in the script, from 1.</param>
/// <param name="OfOwner">Its number among the lines of its state, from 1.</param>
public sealed record WalkedLine(StateNode State, LineNode Line, int Number, int OfOwner);

/// <summary>A command, wherever in a chain, repeat or group it stands.</summary>
/// <param name="Action">The command.</param>
/// <param name="At">The line that it stands in.</param>
public sealed record WalkedCommand(ActionNode Action, WalkedLine At)
{
    /// <summary>The whole line as a sentence, with another command in the place of this one.</summary>
    public string With(ActionNode other) => Printer.Plain(Printer.Pieces(ProgramWalk.Replace(At.Line, Action, other)));

    /// <summary>Which of the numbers of its line a number is, from 0.</summary>
    /// <param name="marked">This command with that number made another.</param>
    public int NumberIndex(ActionNode marked)
    {
        var before = Printer.Pieces(At.Line).Where(p => p.Kind == PieceKind.Number).Select(p => p.Text).ToArray();
        var after = Printer
            .Pieces(ProgramWalk.Replace(At.Line, Action, marked))
            .Where(p => p.Kind == PieceKind.Number)
            .Select(p => p.Text)
            .ToArray();
        for (var i = 0; i < Math.Min(before.Length, after.Length); i++)
            if (before[i] != after[i])
                return i;
        return 0;
    }
}

/// <summary>A value that a number may have, and where it is written.</summary>
/// <param name="Value">The value, base units.</param>
/// <param name="Unit">Its unit as written; empty for a count.</param>
/// <param name="Head">The head line that says it; null when the command itself, or one that sets a variable, does.</param>
/// <param name="Set">The command that sets the variable to it; null otherwise.</param>
public sealed record WalkedValue(double Value, string Unit, HeadNode? Head, WalkedCommand? Set);

/// <summary>
/// The one reader of programs: checks, power, ports, patterns and the bench see a program through it. It comes to every
/// state at every depth, in regions and routines, and to every command in every chain; constants and variables are
/// followed to what they may be; and a mechanism and its motors are the same thing.
/// </summary>
public sealed class ProgramWalk
{
    private readonly RigDesign rig;
    private readonly ILookup<string, WalkedCommand> sets;
    private readonly Dictionary<string, HeadNode> heads;

    /// <summary>Reads a program.</summary>
    /// <param name="program">The program; it may have faults.</param>
    /// <param name="rig">The rig that it is for.</param>
    public ProgramWalk(ProgramNode program, RigDesign rig)
    {
        (Program, this.rig) = (program, rig);
        Lines = [.. program.AllStates.SelectMany(s => s.Lines.Select((l, i) => new WalkedLine(s, l, l.Span.Line, i + 1)))];
        Commands =
        [
            .. Lines.SelectMany(l =>
                Flat(
                        l.Line switch
                        {
                            ActivityNode a => a.Actions,
                            TransitionNode t => t.Actions,
                            _ => [],
                        }
                    )
                    .Select(a => new WalkedCommand(a, l))
            ),
        ];
        heads = program
            .Head.Where(h => h is VarNode or ConstNode)
            .GroupBy(h => h is VarNode v ? v.Name : ((ConstNode)h).Name)
            .ToDictionary(g => g.Key, g => g.First());
        sets = Commands.Where(c => c.Action is SetNode).ToLookup(c => ((SetNode)c.Action).Variable);
    }

    /// <summary>The program.</summary>
    public ProgramNode Program { get; }

    /// <summary>Every line of every state, in document order.</summary>
    public IReadOnlyList<WalkedLine> Lines { get; }

    /// <summary>Every command, in document order; chains, groups and repeats are gone into.</summary>
    public IReadOnlyList<WalkedCommand> Commands { get; }

    /// <summary>Every transition with its line.</summary>
    public IEnumerable<(TransitionNode Transition, WalkedLine At)> Transitions =>
        Lines.Where(l => l.Line is TransitionNode).Select(l => ((TransitionNode)l.Line, l));

    private static IEnumerable<ActionNode> Flat(IEnumerable<ActionNode> actions) =>
        actions.SelectMany(a => a.Inner.Any() ? Flat(a.Inner) : [a]);

    /// <summary>A line with one command, wherever in it, made another.</summary>
    internal static LineNode Replace(LineNode line, ActionNode old, ActionNode other)
    {
        Sequence<ActionNode> All(Sequence<ActionNode> list) => list.Select(One).ToSequence();
        ActionNode One(ActionNode a) =>
            ReferenceEquals(a, old)
                ? other
                : a switch
                {
                    ThenNode t => t with { Steps = All(t.Steps) },
                    TogetherNode t => t with { Parts = All(t.Parts) },
                    GroupNode g => g with { Actions = All(g.Actions) },
                    RepeatNode r => r with { Actions = All(r.Actions) },
                    RepeatUntilNode r => r with { Actions = All(r.Actions) },
                    IfNode i => i with { Action = One(i.Action), Otherwise = i.Otherwise is null ? null : One(i.Otherwise) },
                    _ => a,
                };
        return line switch
        {
            ActivityNode a => a with { Actions = All(a.Actions) },
            TransitionNode t => t with { Actions = All(t.Actions) },
            _ => line,
        };
    }

    /// <summary>True when a program plays a sound without saying for how long.</summary>
    public static bool Plays(ProgramNode program) =>
        program
            .AllStates.SelectMany(s => s.Lines)
            .SelectMany(l =>
                l switch
                {
                    ActivityNode a => Flat(a.Actions),
                    TransitionNode t => Flat(t.Actions),
                    _ => [],
                }
            )
            .Any(a => a is PlayNode { Time: null });

    /// <summary>True when a name means a mechanism: its own, or that of a motor of it.</summary>
    public static bool Means(Mechanism mechanism, string name) => mechanism.Name == name || mechanism.Motors.Contains(name);

    /// <summary>What a name that is commanded moves: an actuator is itself, a mechanism is all its motors.</summary>
    public IEnumerable<string> Moved(string name) => rig.Mechanisms.FirstOrDefault(m => m.Name == name) is { } m ? m.Motors : [name];

    /// <summary>What a command moves, lights or sounds: names of actuators.</summary>
    public IEnumerable<string> Moved(ActionNode action) =>
        action switch
        {
            RunNode r => Moved(r.Motor),
            StopNode s => Moved(s.Motor),
            LampNode l => [l.Lamp],
            SendNode s => Moved(s.Device),
            ZeroNode z => Moved(z.Device),
            SetServoNode s => Moved(s.Device),
            StepNode s => Moved(s.Device),
            BlinkNode b => [b.Lamp],
            DriveNode or TurnRobotNode or SteerNode or SteerByNode or FollowNode => rig.Mechanisms.FirstOrDefault(m =>
                m.Facts.Going == Going.Steered
            )
                is { } d
                ? d.Motors
                : [],
            ToneNode or BeepNode or PlayNode => rig.Actuators.Where(a => a.Kind == ActuatorKind.Sounder).Select(a => a.Name).Take(1),
            _ => [],
        };

    /// <summary>
    /// The values that a number may have: itself, or of a constant or variable what it begins with and everything it is set
    /// to; sums of constants are worked out. Empty when it cannot be known without running.
    /// </summary>
    public IReadOnlyList<WalkedValue> Values(ExprNode number) => Values(number, [], null, null);

    private List<WalkedValue> Values(ExprNode number, HashSet<string> seen, HeadNode? head, WalkedCommand? set)
    {
        switch (number)
        {
            case LiteralNode l:
                return [new(l.BaseValue, l.Unit, head, set)];
            case UnaryNode { IsNot: false } u:
                return [.. Values(u.Operand, seen, head, set).Select(v => v with { Value = -v.Value })];
            case VariableNode v when seen.Add(v.Name):
                var found = new List<WalkedValue>();
                if (heads.TryGetValue(v.Name, out var node))
                    found.AddRange(Values(node is VarNode var ? var.Value : ((ConstNode)node).Value, seen, node, null));
                foreach (var command in sets[v.Name])
                    found.AddRange(Values(((SetNode)command.Action).Value, seen, null, command));
                seen.Remove(v.Name);
                return found;
            default:
                return Analysis.Constant(number) is { } constant ? [new(constant, UnitIn(number), head, set)] : [];
        }
    }

    private static string UnitIn(ExprNode node) =>
        node switch
        {
            LiteralNode l => l.Unit,
            BinaryNode b => UnitIn(b.Left) is { Length: > 0 } u ? u : UnitIn(b.Right),
            UnaryNode n => UnitIn(n.Operand),
            _ => "",
        };

    /// <summary>The first line of the script that speaks of a device, by its own name or that of a mechanism it belongs to; null when none
    /// does.</summary>
    /// <param name="device">Sensor or actuator.</param>
    public (int Line, string Owner, int OfOwner)? FirstLineOf(string device)
    {
        var reader = new Names(rig);
        reader.Map(Program);
        string[] names = [device, .. rig.Mechanisms.Where(m => m.Motors.Contains(device)).Select(m => m.Name)];
        var lines = reader.Lines.Where(l => names.Contains(l.Name)).Select(l => l.Line);
        // A sentence that drives speaks of the motors without naming them.
        var moved = Commands.Where(c => Moved(c.Action).Contains(device)).Select(c => c.At.Number);
        if (lines.Concat(moved).Where(l => l > 0).Order().Select(l => (int?)l).FirstOrDefault() is not { } first)
            return null;
        return Lines.FirstOrDefault(l => l.Number == first) is { } at ? (first, at.State.Name, at.OfOwner) : (first, "", 0);
    }

    // Which names stand in which line.
    private sealed class Names(RigDesign rig) : NameMap
    {
        private readonly List<string> here = [];

        public List<(string Name, int Line)> Lines { get; } = [];

        protected override string Sensor(string name) => Note(name);

        protected override string Device(string name) => Note(name);

        private string Note(string name)
        {
            here.Add(name);
            return name;
        }

        protected override string Raw(string text)
        {
            // A line that could not be read names what stands in it word by word.
            foreach (var d in rig.Devices.Select(d => d.Name).Concat(rig.Mechanisms.Select(m => m.Name)))
                if (LineParser.Holds(text, d))
                    here.Add(d);
            return text;
        }

        protected override HeadNode Said(HeadNode head)
        {
            Stands(head.Span.Line);
            return head;
        }

        protected override LineNode Line(LineNode line)
        {
            Stands(line.Span.Line);
            return line;
        }

        private void Stands(int line)
        {
            foreach (var name in here)
                Lines.Add((name, line));
            here.Clear();
        }
    }
}
