using Chiton.Core.Quantities;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs;

/// <summary>An instruction of an expression, on a small stack of numbers. Yes is 1 and no is 0.</summary>
internal enum OpCode : byte { Push, Load, Add, Subtract, Multiply, Divide, Equal, NotEqual, Less, LessOrEqual, Greater, GreaterOrEqual, And, Or, Not, Negate, Min, Max, Abs, Round }

internal readonly record struct Op(OpCode Code, double Value = 0, int Slot = 0);

/// <summary>A stretch of a table.</summary>
internal readonly record struct Range(int Start, int Count)
{
    public int End => Start + Count;
}

/// <summary>What sets off a transition, in the tables.</summary>
public enum TriggerKind : byte
{
    /// <summary>A zone edge.</summary>
    Edge,
    /// <summary>A zone level.</summary>
    Level,
    /// <summary>An expression.</summary>
    Condition,
    /// <summary>A time since entry.</summary>
    After,
}

/// <summary>A transition of the tables.</summary>
/// <param name="Source">State index.</param>
/// <param name="Target">State index, or −1 to stay.</param>
/// <param name="Kind">What sets it off.</param>
/// <param name="Line">Line of the script.</param>
/// <param name="Node">The sentence it came from.</param>
public sealed record CompiledTransition(int Source, int Target, TriggerKind Kind, int Line, TransitionNode Node)
{
    internal int Tracker { get; init; } = -1;
    internal int EdgeTracker { get; init; } = -1;
    internal int Sensor { get; init; } = -1;
    internal int Zone { get; init; } = -1;
    internal bool Leaves { get; init; }
    internal Range Code { get; init; }
    internal Range Guard { get; init; }
    internal Range Actions { get; init; }
}

/// <summary>A state of the tables.</summary>
/// <param name="Name">State name.</param>
/// <param name="Final">Ends its region.</param>
/// <param name="Node">The sentence it came from.</param>
public sealed record CompiledState(string Name, bool Final, StateNode Node)
{
    internal Range Transitions { get; init; }
    internal Range Entry { get; init; }
    internal Range While { get; init; }
    internal Range Exit { get; init; }
    internal bool WhileVaries { get; init; }
}

/// <summary>What a command tells an actuator.</summary>
public enum CommandKind : byte
{
    /// <summary>Run a motor at a power in %.</summary>
    Run,
    /// <summary>Stop a motor by braking.</summary>
    Brake,
    /// <summary>Stop a motor by letting it run out.</summary>
    Coast,
    /// <summary>Stop a motor as its mechanism says.</summary>
    StopDefault,
    /// <summary>Turn a lamp on.</summary>
    LampOn,
    /// <summary>Turn a lamp off.</summary>
    LampOff,
    /// <summary>Sound a tone; the value is its frequency in Hz, the extra its length in s.</summary>
    Tone,
    /// <summary>Show a text; the value is its index.</summary>
    Show,
    /// <summary>Set a variable; handled inside the engine.</summary>
    Set,
}

internal readonly record struct CompiledAction(CommandKind Kind, int Device, Range Code, Range Extra, int Slot, bool Varies);

internal readonly record struct TrackerSpec(int Sensor, int Needed);

/// <summary>
/// A program as tables, bound to the zones of one copy. Made once and shared by any number of engines on any number of
/// threads.
/// </summary>
public sealed class CompiledProgram
{
    internal CompiledState[] StateTable { get; init; } = [];
    internal CompiledTransition[] TransitionTable { get; init; } = [];
    internal CompiledAction[] Actions { get; init; } = [];
    internal Op[] Code { get; init; } = [];
    internal TrackerSpec[] Trackers { get; init; } = [];
    internal TrackerSpec[] EdgeTrackers { get; init; } = [];
    internal int[] InitialStates { get; init; } = [];
    internal Range[] InitialValues { get; init; } = [];
    internal ZoneScale?[] Scales { get; init; } = [];
    internal int StackDepth { get; init; }

    /// <summary>The program these tables came from.</summary>
    public required ProgramNode Program { get; init; }

    /// <summary>States in document order.</summary>
    public IReadOnlyList<CompiledState> States => StateTable;

    /// <summary>Transitions in document order.</summary>
    public IReadOnlyList<CompiledTransition> Transitions => TransitionTable;

    /// <summary>Sensor names by index.</summary>
    public required IReadOnlyList<string> Sensors { get; init; }

    /// <summary>Actuator names by index.</summary>
    public required IReadOnlyList<string> Actuators { get; init; }

    /// <summary>Variable names by index.</summary>
    public required IReadOnlyList<string> Variables { get; init; }

    /// <summary>Texts that <c>show</c> shows.</summary>
    public required IReadOnlyList<string> Texts { get; init; }

    /// <summary>The zones of a sensor, null where the program does not use them.</summary>
    public ZoneScale? ScaleOf(int sensor) => Scales[sensor];
}

/// <summary>Turns a faultless program into tables.</summary>
public static class Compiler
{
    /// <summary>Compiles.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="rig">The rig's names.</param>
    /// <param name="scales">Zones of each sensor of the copy, by sensor name.</param>
    /// <exception cref="InputProblem">When a sensor that the program uses has no zones on this copy, or lacks one of them.</exception>
    public static CompiledProgram Compile(ProgramNode program, Vocabulary rig, IReadOnlyDictionary<string, ZoneScale> scales) =>
        new Builder(program, rig, scales).Build();

    private sealed class Builder(ProgramNode program, Vocabulary rig, IReadOnlyDictionary<string, ZoneScale> scales)
    {
        private readonly List<Op> code = [];
        private readonly List<CompiledAction> actions = [];
        private readonly List<CompiledTransition> transitions = [];
        private readonly List<TrackerSpec> trackers = [];
        private readonly List<TrackerSpec> edges = [];
        private readonly List<string> texts = [];
        private readonly List<string> variables = [.. program.Head.OfType<VarNode>().Select(v => v.Name)];
        private readonly List<string> sensors = [.. rig.Sensors.Select(s => s.Name)];
        private readonly List<string> actuators = [.. rig.Actuators.Select(a => a.Name)];
        private int depth, deepest;

        public CompiledProgram Build()
        {
            var nodes = program.Regions.SelectMany(r => r.States).ToArray();
            var states = new List<CompiledState>();
            var initialValues = program.Head.OfType<VarNode>().Select(v => Code(v.Value)).ToArray();
            var offset = 0;
            var initial = new List<int>();
            foreach (var region in program.Regions)
            {
                var index = region.States.ToList().FindIndex(s => s.Initial);
                if (index < 0) throw new InputProblem("program", $"No state of {region.Name} is initial.");
                initial.Add(offset + index);
                offset += region.States.Count;
            }
            foreach (var (state, i) in nodes.Select((s, i) => (s, i)))
            {
                var first = transitions.Count;
                foreach (var line in state.Lines.OfType<TransitionNode>()) Transition(line, i, nodes);
                var count = transitions.Count - first;
                var whiles = Activities(state, ActivityMoment.While);
                states.Add(new(state.Name, state.Final, state)
                {
                    Transitions = new(first, count),
                    Entry = Activities(state, ActivityMoment.Entry),
                    While = whiles,
                    Exit = Activities(state, ActivityMoment.Exit),
                    WhileVaries = Enumerable.Range(whiles.Start, whiles.Count).Any(a => actions[a].Varies),
                });
            }
            return new()
            {
                Program = program,
                StateTable = [.. states],
                TransitionTable = [.. transitions],
                Actions = [.. actions],
                Code = [.. code],
                Trackers = [.. trackers],
                EdgeTrackers = [.. edges],
                InitialStates = [.. initial],
                InitialValues = initialValues,
                Scales = [.. sensors.Select(s => scales.GetValueOrDefault(s))],
                StackDepth = Math.Max(1, deepest),
                Sensors = sensors,
                Actuators = actuators,
                Variables = variables,
                Texts = texts,
            };
        }

        private void Transition(TransitionNode t, int source, StateNode[] nodes)
        {
            var target = t.Target is null ? -1 : Array.FindIndex(nodes, n => n.Name == t.Target);
            var guard = t.Guard is null ? default : Code(t.Guard);
            var what = List(t.Actions);
            var made = new CompiledTransition(source, target, t.Trigger switch
            {
                AfterTriggerNode => TriggerKind.After,
                ConditionTriggerNode => TriggerKind.Condition,
                ZoneTriggerNode { Relation: ZoneRelation.Is } => TriggerKind.Level,
                _ => TriggerKind.Edge,
            }, t.Span.Line, t) { Guard = guard, Actions = what };
            switch (t.Trigger)
            {
                case AfterTriggerNode a:
                    made = made with { Code = Code(a.Time) };
                    break;
                case ConditionTriggerNode c:
                    made = made with { Code = Code(c.Condition) };
                    break;
                case ZoneTriggerNode z:
                    var sensor = sensors.IndexOf(z.Sensor);
                    if (!scales.TryGetValue(z.Sensor, out var scale))
                        throw new InputProblem("copy", $"{z.Sensor} has no thresholds on this copy yet. Take at least 3 readings of two zones in Sense.");
                    var zone = scale.IndexOf(z.Zone);
                    if (zone < 0) throw new InputProblem("copy", $"{z.Sensor} has no readings of “{z.Zone}” on this copy yet. Take at least 3 in Sense.");
                    var spec = new TrackerSpec(sensor, z.Needed);
                    var tracker = trackers.IndexOf(spec);
                    if (tracker < 0)
                    {
                        tracker = trackers.Count;
                        trackers.Add(spec);
                    }
                    made = made with { Sensor = sensor, Zone = zone, Tracker = tracker, Leaves = z.Relation == ZoneRelation.Leaves };
                    if (z.Relation != ZoneRelation.Is)
                    {
                        made = made with { EdgeTracker = edges.Count };
                        edges.Add(spec);
                    }
                    break;
            }
            transitions.Add(made);
        }

        private Range Activities(StateNode state, ActivityMoment moment)
        {
            var start = actions.Count;
            var all = state.Lines.OfType<ActivityNode>().Where(a => a.Moment == moment).SelectMany(a => a.Actions).ToArray();
            foreach (var action in all) actions.Add(Action(action));
            return new(start, actions.Count - start);
        }

        private Range List(Sequence<ActionNode> list)
        {
            var start = actions.Count;
            foreach (var action in list) actions.Add(Action(action));
            return new(start, actions.Count - start);
        }

        private CompiledAction Action(ActionNode action)
        {
            switch (action)
            {
                case SetNode s:
                    return new(CommandKind.Set, -1, Code(s.Value), default, variables.IndexOf(s.Variable), false);
                case RunNode r:
                    return new(CommandKind.Run, actuators.IndexOf(r.Motor), Code(r.Speed), default, 0, Analysis.Variables(r.Speed).Any());
                case StopNode s:
                    return new(s.Mode switch { StopMode.Brake => CommandKind.Brake, StopMode.Coast => CommandKind.Coast, _ => CommandKind.StopDefault },
                        actuators.IndexOf(s.Motor), default, default, 0, false);
                case LampNode l:
                    return new(l.On ? CommandKind.LampOn : CommandKind.LampOff, actuators.IndexOf(l.Lamp), default, default, 0, false);
                case ToneNode t:
                    return new(CommandKind.Tone, -1, Code(t.Frequency), Code(t.Time), 0, false);
                case ShowNode s:
                    texts.Add(s.Text);
                    return new(CommandKind.Show, -1, default, default, texts.Count - 1, false);
                default:
                    throw new InvalidOperationException($"No table form for {action.GetType().Name}.");
            }
        }

        private Range Code(ExprNode node)
        {
            var start = code.Count;
            depth = 0;
            Emit(node);
            return new(start, code.Count - start);
        }

        private void Push(Op op)
        {
            code.Add(op);
            depth += op.Code switch
            {
                OpCode.Push or OpCode.Load => 1,
                OpCode.Not or OpCode.Negate or OpCode.Abs or OpCode.Round => 0,
                _ => -1,
            };
            deepest = Math.Max(deepest, depth);
        }

        private void Emit(ExprNode node)
        {
            switch (node)
            {
                case LiteralNode l:
                    Push(new(OpCode.Push, l.BaseValue));
                    break;
                case VariableNode v:
                    Push(new(OpCode.Load, 0, variables.IndexOf(v.Name)));
                    break;
                case UnaryNode u:
                    Emit(u.Operand);
                    Push(new(u.IsNot ? OpCode.Not : OpCode.Negate));
                    break;
                case BinaryNode b:
                    Emit(b.Left);
                    Emit(b.Right);
                    Push(new(b.Operator switch
                    {
                        Operator.Or => OpCode.Or, Operator.And => OpCode.And, Operator.Equal => OpCode.Equal, Operator.NotEqual => OpCode.NotEqual,
                        Operator.Less => OpCode.Less, Operator.LessOrEqual => OpCode.LessOrEqual, Operator.Greater => OpCode.Greater,
                        Operator.GreaterOrEqual => OpCode.GreaterOrEqual, Operator.Add => OpCode.Add, Operator.Subtract => OpCode.Subtract,
                        Operator.Multiply => OpCode.Multiply, _ => OpCode.Divide,
                    }));
                    break;
                case CallNode c:
                    Emit(c.Arguments[0]);
                    if (c.Function is "abs" or "round") Push(new(c.Function == "abs" ? OpCode.Abs : OpCode.Round));
                    foreach (var argument in c.Arguments.Skip(1))
                    {
                        Emit(argument);
                        Push(new(c.Function == "min" ? OpCode.Min : OpCode.Max));
                    }
                    break;
            }
        }
    }
}
