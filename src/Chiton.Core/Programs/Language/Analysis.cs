using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>What a parsed program must satisfy before it can run: names said once, states that can be reached, units that fit.</summary>
public static partial class Analysis
{
    /// <summary>Every fault found.</summary>
    public static IEnumerable<Diagnostic> Check(ProgramNode program, Vocabulary rig) => new Checker(program, rig).Run();

    /// <summary>Every variable an expression reads.</summary>
    public static IEnumerable<VariableNode> Variables(ExprNode node) =>
        node switch
        {
            VariableNode v => [v],
            BinaryNode b => Variables(b.Left).Concat(Variables(b.Right)),
            UnaryNode u => Variables(u.Operand),
            CallNode c => c.Arguments.SelectMany(Variables),
            HoldsNode h => Variables(h.Value).Prepend(new(h.Queue) { Span = h.Span }),
            PropertyNode { Kind: PropertyKind.Length } l => [new(l.Of) { Span = l.Span }],
            WorldNode { Amount: { } amount } => Variables(amount),
            RandomNode { From: { } from, To: { } to } => Variables(from).Concat(Variables(to)),
            _ => [],
        };

    /// <summary>The value of an expression without variables, in base units; null when it has any.</summary>
    public static double? Constant(ExprNode node) =>
        node switch
        {
            LiteralNode l => l.BaseValue,
            UnaryNode { IsNot: false } u => -Constant(u.Operand),
            BinaryNode { Operator: Operator.Add } b => Constant(b.Left) + Constant(b.Right),
            BinaryNode { Operator: Operator.Subtract } b => Constant(b.Left) - Constant(b.Right),
            BinaryNode { Operator: Operator.Multiply } b => Constant(b.Left) * Constant(b.Right),
            BinaryNode { Operator: Operator.Divide } b => Constant(b.Left) / Constant(b.Right),
            _ => null,
        };

    private static Diagnostic Fault(Span span, string text, string message, string? suggestion = null) =>
        new(Math.Max(1, span.Line), Math.Max(1, span.Column), Math.Max(1, span.Length), text, "", message, suggestion);

    /// <summary>What a value is.</summary>
    private enum Kind
    {
        Unknown,
        Number,
        Truth,
        Text,
        Zone,
        Queue,
    }

    private readonly record struct Type(Kind Kind, Dimension Dimension = Dimension.None)
    {
        public static Type Number(Dimension d) => new(Kind.Number, d);

        public static readonly Type Truth = new(Kind.Truth);
        public bool Known => Kind != Kind.Unknown;
        public bool IsNumber => Kind == Kind.Number;

        // Bare degrees take the kind that their place asks for.
        public bool Fits(Type other) =>
            Kind == other.Kind
            && (
                Dimension == other.Dimension
                || IsAngle(Dimension) && IsAngle(other.Dimension) && (Dimension == Dimension.Angle || other.Dimension == Dimension.Angle)
            );

        public Type With(Type other) => Dimension == Dimension.Angle && IsAngle(other.Dimension) ? other : this;

        public string Say =>
            Kind switch
            {
                Kind.Truth => "yes or no",
                Kind.Text => "a text",
                Kind.Zone => "a zone",
                Kind.Queue => "a queue",
                _ => Unit.Say(Dimension),
            };
    }

    private static bool IsAngle(Dimension d) =>
        d is Dimension.MotorAngle or Dimension.WheelAngle or Dimension.RobotAngle or Dimension.Angle;

    private sealed partial class Checker(ProgramNode program, Vocabulary rig)
    {
        private readonly List<Diagnostic> found = [];
        private readonly Dictionary<string, Type> types = [];
        private readonly Dictionary<string, Dimension> degrees = [];
        private readonly HashSet<string> constants = [];
        private readonly Dictionary<RegionNode, HashSet<string>> reach = new(ReferenceEqualityComparer.Instance);
        private RoutineNode? inside;

        private void Say(Span span, string text, string message, string? suggestion = null) =>
            found.Add(Fault(span, text, message, suggestion));

        public List<Diagnostic> Run()
        {
            Head();
            if (program.Regions.Count == 0 || program.Regions.All(r => r.States.Count == 0))
                Say(program.Span, "no state", "A program needs at least one state. Begin with “state Start, initial”.");
            Unique(program.Regions.Select(r => (r.Name, r.Span)), "regions");
            Unique(program.Routines.Select(r => (r.Name, r.Span)), "routines");
            foreach (var region in program.Regions)
                Region(region, region, null);
            foreach (var routine in program.Routines)
            {
                inside = routine;
                foreach (var twice in routine.Parameters.GroupBy(x => x).Where(g => g.Count() > 1))
                    Say(routine.Span, twice.Key, $"“{routine.Name}” has two parameters called “{twice.Key}”.");
                if (routine.Regions.All(r => r.States.Count == 0))
                    Say(routine.Span, routine.Name, "A routine needs at least one state.");
                else if (routine.Regions.All(r => r.AllStates.All(s => !s.Final)))
                    Say(
                        routine.Span,
                        routine.Name,
                        $"No state of “{routine.Name}” is final, so calling it is never done. Write “, final” behind the state "
                            + "that ends it."
                    );
                foreach (var region in routine.Regions)
                    Region(region, region, null);
                inside = null;
            }
            Recursion();
            return found;
        }

        private void Unique(IEnumerable<(string Name, Span Span)> names, string what)
        {
            foreach (var group in names.GroupBy(n => n.Name).Where(g => g.Count() > 1))
            foreach (var extra in group.Skip(1))
                Say(extra.Span, extra.Name, $"There are two {what} called “{extra.Name}”.");
        }

        private void Head()
        {
            var names = new Dictionary<string, string>();
            foreach (
                var name in rig
                    .Sensors.Select(s => s.Name)
                    .Concat(rig.Actuators.Select(a => a.Name))
                    .Concat(rig.Mechanisms.Select(m => m.Name))
            )
                names[name] = "a device of the rig";
            foreach (var twice in program.Parameters.GroupBy(x => x).Where(g => g.Count() > 1))
                Say(program.Span, twice.Key, $"“{program.Name}” has two values called “{twice.Key}”.");
            foreach (var value in program.Parameters.Distinct())
            {
                if (!names.TryAdd(value, "a value of its place"))
                    Say(program.Span, value, $"“{value}” is already the name of {names[value]}.");
                constants.Add(value);
                if (program.Given.FirstOrDefault(g => g.Name == value) is { } given)
                    types.TryAdd(value, TypeOf(given.Value));
                else
                    Say(
                        program.Span,
                        value,
                        $"Nobody says what “{value}” is here. Give it a value where the program is placed: under Where it runs."
                    );
            }
            foreach (var node in program.Head)
                switch (node)
                {
                    case VarNode or ConstNode:
                        var (name, value) = node is VarNode v ? (v.Name, v.Value) : (((ConstNode)node).Name, ((ConstNode)node).Value);
                        if (!names.TryAdd(name, node is VarNode ? "a variable" : "a constant"))
                            Say(node.Span, name, $"“{name}” is already the name of {names[name]}.");
                        if (
                            node is ConstNode
                            && Analysis.Constant(value) is null
                            && value is not (TruthNode or TextNode or ZoneNode)
                            && !Variables(value).All(x => constants.Contains(x.Name))
                        )
                            Say(
                                value.Span,
                                Printer.Print(value),
                                "A constant is a value that is known from the start: a number, a text, yes or no, a zone, or what "
                                    + "follows from other constants."
                            );
                        foreach (var later in Variables(value).Where(n => !types.ContainsKey(n.Name) || n.Name == name))
                            Say(later.Span, later.Name, $"“{later.Name}” has no value yet here. Move its line above this one.");
                        var type = TypeOf(value);
                        if (node is ConstNode)
                            constants.Add(name);
                        types.TryAdd(name, type);
                        break;
                }
            foreach (var rule in program.Head.OfType<RuleNode>())
            {
                if (rule.Time is { } time)
                    Expect(time, Dimension.Time, "a time");
                if (rule.Holds is { } holds)
                    ExpectTruth(holds);
            }
        }

        // ---- states ----

        private void Region(RegionNode region, RegionNode top, StateNode? parent)
        {
            Children(region.States, region.Name == "" ? inside?.Name ?? "the routine" : region.Name, region.Span);
            foreach (var state in region.States)
                State(state, region.States, top, parent is null ? [] : [parent]);
        }

        private void Children(Sequence<StateNode> states, string of, Span span)
        {
            foreach (var group in states.GroupBy(s => s.Name).Where(g => g.Count() > 1))
            foreach (var extra in group.Skip(1))
                Say(extra.Span, extra.Name, $"There are two states called “{extra.Name}”.");
            var initial = states.Where(s => s.Initial).ToArray();
            if (states.Count > 0 && initial.Length == 0)
                Say(
                    states[0].Span,
                    states[0].Name,
                    $"No state is initial, so {of} does not know where to begin. Write “state {states[0].Name}, initial”."
                );
            foreach (var extra in initial.Skip(1))
                Say(extra.Span, extra.Name, $"Only one state can be initial; “{initial[0].Name}” already is.");
        }

        private void State(StateNode state, Sequence<StateNode> siblings, RegionNode top, IReadOnlyList<StateNode> above)
        {
            if (
                state.Final
                && (state.Lines.FirstOrDefault(l => l is TransitionNode or ActivityNode { Moment: ActivityMoment.While }) is { } line)
            )
                Say(line.Span, state.Name, $"“{state.Name}” is final: nothing follows it, so it can only have “on entry” lines.");
            if (state.Final && (state.States.Count > 0 || state.Regions.Count > 0 || state.Histories.Count > 0))
                Say(state.Span, state.Name, $"“{state.Name}” is final, so no states stand in it.");
            if (state.States.Count > 0 && state.Regions.Count > 0)
                Say(
                    state.Regions[0].Span,
                    state.Regions[0].Name,
                    $"“{state.Name}” has states and regions in it. Put those states into a region of their own."
                );
            foreach (var node in state.Lines)
                switch (node)
                {
                    case ActivityNode a:
                        foreach (var action in a.Actions)
                        {
                            Action(action);
                            if (a.Moment == ActivityMoment.While)
                                Lasting(action);
                            if (
                                a.Moment == ActivityMoment.Exit
                                && (
                                    action is ThenNode or RepeatNode or RepeatUntilNode or WaitNode or TeachNode { Time: not null }
                                    || Leaves(action).Any(l => l is DoNode)
                                )
                            )
                                Say(
                                    action.Span,
                                    "on exit",
                                    "“on exit” is for what is begun at once: what comes after it would never begin, for the state is "
                                        + "gone by then."
                                );
                        }
                        break;
                    case TransitionNode t:
                        Trigger(t.Trigger);
                        if (t.Guard is not null)
                            ExpectTruth(t.Guard);
                        foreach (var action in t.Actions)
                            Action(action);
                        if (t.Target is { } target)
                            Target(target, t.TargetSpan, state, top, t.Inside);
                        else if (t.Trigger is AlwaysTriggerNode && t.Guard is null && t.Actions.Count == 0)
                            Say(t.Span, "always", "This line does nothing: say what to do, or where to go.");
                        break;
                }
            foreach (var history in state.Histories)
            {
                if (state.States.Count == 0 && state.Regions.Count == 0)
                    Say(history.Span, history.Name, $"“{state.Name}” has no states in it, so there is nothing to remember.");
                else if (
                    !(
                        history.Deep ? state.WithInner.Skip(1)
                        : state.States.Count > 0 ? state.States
                        : state.Regions.SelectMany(r => r.States)
                    ).Any(s => s.Name == history.Target)
                )
                    Say(
                        history.TargetSpan,
                        history.Target,
                        $"“{history.Target}” does not stand in “{state.Name}”, so “{history.Name}” cannot begin there."
                    );
                if (state.WithInner.Any(s => s.Name == history.Name))
                    Say(history.Span, history.Name, $"“{history.Name}” is already the name of a state.");
            }
            if (state.States.Count > 0)
                Children(state.States, $"“{state.Name}”", state.Span);
            Unique(state.Regions.Select(r => (r.Name, r.Span)), "regions");
            foreach (var inner in state.States)
                State(inner, state.States, top, [.. above, state]);
            foreach (var region in state.Regions)
                Region(region, top, state);
        }

        // Where a go leads must stand in the same region of the program.
        private void Target(string name, Span span, StateNode from, RegionNode top, bool inside)
        {
            if (!reach.TryGetValue(top, out var names))
                reach[top] = names = [.. top.AllStates.SelectMany(s => s.Histories.Select(h => h.Name).Prepend(s.Name))];
            if (!names.Contains(name))
            {
                Say(
                    span,
                    name,
                    $"“{name}” stands in another {(this.inside is null ? "region" : "routine")}. A region cannot send another one "
                        + $"somewhere: let that one watch this with “when {(top.Name == "" ? "…" : top.Name)} is in …”."
                );
                return;
            }
            if (inside && !from.WithInner.Skip(1).Any(s => s.Name == name) && !from.Histories.Any(h => h.Name == name))
                Say(span, name, $"“inside” is for a state that stands in “{from.Name}”; “{name}” does not.");
        }

        // ---- triggers ----

        private void Trigger(TriggerNode trigger)
        {
            switch (trigger)
            {
                case ZoneTriggerNode { For: { } time }:
                    Expect(time, Dimension.Time, "a time");
                    break;
                case ConditionTriggerNode c:
                    ExpectTruth(c.Condition);
                    if (c.For is { } lasting)
                        Expect(lasting, Dimension.Time, "a time");
                    if ((c.For is not null || c.Readings is not null) && !Sensors(c.Condition).Any())
                        Say(c.Span, Printer.Print(c.Condition), "“for” counts readings, and no sensor is read here.");
                    break;
                case StallTriggerNode s when !rig.NoticesStall(s.Device):
                    Say(
                        s.Span,
                        s.Device,
                        $"Nothing notices that {s.Device} stalls: {Kinds(s.Device)}. Give it a time (after 2 s), a force, or an end switch."
                    );
                    break;
                case PressTriggerNode { Time: { } held }:
                    Expect(held, Dimension.Time, "a time");
                    break;
                case AfterTriggerNode a:
                    Expect(a.Time, Dimension.Time, "a time");
                    break;
                case EveryTriggerNode e:
                    Expect(e.Time, Dimension.Time, "a time");
                    if (Analysis.Constant(e.Time) is { } period and < 0.001)
                        Say(e.Time.Span, Printer.Print(e.Time), period < 0 ? "A time cannot be negative." : "Repeat every 1 ms at most.");
                    break;
                case SilenceTriggerNode n:
                    Expect(n.Time, Dimension.Time, "a time");
                    break;
                case ToldTriggerNode t:
                    foreach (var variable in t.Into)
                        if (constants.Contains(variable))
                            Say(t.Span, variable, $"“{variable}” is a constant and cannot be changed.");
                    break;
            }
        }

        private string Kinds(string device) =>
            rig.MotorOf(device) switch
            {
                ActuatorKind.Servo => "a servo is told an angle and never answers",
                ActuatorKind.Stepper => "a stepper loses steps and never says so",
                ActuatorKind.PlainMotor => "a plain motor does not know whether it turns",
                ActuatorKind.RegulatedMotor => "in Rig it is said not to",
                _ => "it does not turn",
            };

        private static IEnumerable<string> Sensors(ExprNode node) =>
            node switch
            {
                ReadingNode r => [r.Sensor],
                ZoneIsNode z => [z.Sensor],
                SilentNode s => [s.Sensor],
                CannotTellNode c => [c.Sensor],
                PropertyNode { Kind: PropertyKind.Zone } z => [z.Of],
                BinaryNode b => Sensors(b.Left).Concat(Sensors(b.Right)),
                UnaryNode u => Sensors(u.Operand),
                CallNode c => c.Arguments.SelectMany(Sensors),
                HoldsNode h => Sensors(h.Value),
                _ => [],
            };

        // ---- actions ----

        private void Recursion()
        {
            var calls = program.Routines.ToDictionary(
                r => r,
                r =>
                    r.Regions.SelectMany(x => x.AllStates)
                        .SelectMany(s => s.Lines)
                        .SelectMany(l =>
                            l switch
                            {
                                ActivityNode a => a.Actions,
                                TransitionNode t => t.Actions,
                                _ => [],
                            }
                        )
                        .SelectMany(Leaves)
                        .OfType<DoNode>()
                        .Select(d => d.Routine)
                        .ToHashSet()
            );
            var told = new HashSet<string>();
            foreach (var routine in program.Routines)
            {
                // The way from it back to itself, if there is one.
                var way = new List<string>();
                bool Back(string at)
                {
                    foreach (var next in program.Routines.Where(r => r.Name == at).SelectMany(r => calls[r]))
                    {
                        if (next == routine.Name)
                        {
                            way.Add(at);
                            return true;
                        }
                        if (way.Contains(next))
                            continue;
                        way.Add(at);
                        if (Back(next))
                            return true;
                        way.RemoveAt(way.Count - 1);
                    }
                    return false;
                }
                if (told.Contains(routine.Name) || !Back(routine.Name))
                    continue;
                foreach (var name in way)
                    told.Add(name);
                Say(
                    routine.Span,
                    routine.Name,
                    way.Distinct().Count() == 1
                        ? $"“{routine.Name}” does itself, which would never end."
                        : $"Routines go round in a loop: {string.Join(" does ", way.Distinct())} does {routine.Name}."
                );
            }
        }

        // ---- values ----
    }
}
