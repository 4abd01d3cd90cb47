using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>What a parsed program must satisfy before it can run: names said once, states that can be reached, units that fit.</summary>
public static class Analysis
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

    private sealed class Checker(ProgramNode program, Vocabulary rig)
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
                                && (action is ThenNode or RepeatNode || Leaves(action).Any(l => l is DoNode))
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

        private static IEnumerable<string> Sensors(ExprNode node) =>
            node switch
            {
                ReadingNode r => [r.Sensor],
                PropertyNode { Kind: PropertyKind.Zone } z => [z.Of],
                BinaryNode b => Sensors(b.Left).Concat(Sensors(b.Right)),
                UnaryNode u => Sensors(u.Operand),
                CallNode c => c.Arguments.SelectMany(Sensors),
                HoldsNode h => Sensors(h.Value),
                _ => [],
            };

        // ---- actions ----

        private static IEnumerable<ActionNode> Leaves(ActionNode action) =>
            action switch
            {
                ThenNode t => t.Steps.SelectMany(Leaves),
                TogetherNode t => t.Parts.SelectMany(Leaves),
                GroupNode g => g.Actions.SelectMany(Leaves),
                RepeatNode r => r.Actions.SelectMany(Leaves),
                _ => [action],
            };

        // Something that never ends by itself.
        private static bool Endless(ActionNode a) =>
            a
                is RunNode { Amount: null, UpTo: null }
                    or DriveNode { Distance: null, Time: null }
                    or SteerNode
                    or FollowNode
                    or BlinkNode { Times: null };

        private void Lasting(ActionNode action)
        {
            if (action is SetNode or StopNode or StopAllNode or PushNode or TakeNode or ZeroNode or TellNode)
                Say(
                    action.Span,
                    "while here",
                    "“while here” is for something that goes on: run, turn on, tone, show. Put this in “on entry”."
                );
        }

        private void Action(ActionNode action)
        {
            switch (action)
            {
                case ThenNode t:
                    foreach (var step in t.Steps)
                        Action(step);
                    foreach (var step in t.Steps.Take(t.Steps.Count - 1))
                        if (Leaves(step).FirstOrDefault(Endless) is { } endless)
                            Say(
                                endless.Span,
                                "then",
                                $"“{Printer.Plain(Printer.Sentence(endless))}” never ends by itself, so what follows never begins. "
                                    + "Say how far or how long."
                            );
                    break;
                case TogetherNode t:
                    foreach (var part in t.Parts)
                        Action(part);
                    break;
                case GroupNode g:
                    foreach (var part in g.Actions)
                        Action(part);
                    break;
                case RepeatNode r:
                    Expect(r.Times, Dimension.None, "a count");
                    if (Analysis.Constant(r.Times) is { } count && (count < 0 || count != Math.Floor(count)))
                        Say(r.Times.Span, Printer.Print(r.Times), "Repeat a whole number of times.");
                    foreach (var part in r.Actions)
                        Action(part);
                    if (r.Actions.SelectMany(Leaves).FirstOrDefault(Endless) is { } going)
                        Say(
                            going.Span,
                            "repeat",
                            $"“{Printer.Plain(Printer.Sentence(going))}” never ends by itself, so it is never repeated. Say how far "
                                + "or how long."
                        );
                    break;
                case SetNode s:
                    Set(s);
                    break;
                case RunNode r:
                    Run(r);
                    break;
                case ToneNode t:
                    Expect(t.Frequency, Dimension.Frequency, "a frequency in Hz");
                    Expect(t.Time, Dimension.Time, "a time");
                    break;
                case BlinkNode b:
                    Expect(b.On, Dimension.Time, "a time");
                    Expect(b.Off, Dimension.Time, "a time");
                    if (b.Times is not null)
                        Expect(b.Times, Dimension.None, "a count");
                    break;
                case ShowValueNode s:
                    TypeOf(s.Value);
                    break;
                case DriveNode d:
                    Drive(d.Span, "drive");
                    if (d.Distance is not null)
                        Expect(d.Distance, Dimension.Length, "a length");
                    if (d.Time is not null)
                        Expect(d.Time, Dimension.Time, "a time");
                    DriveSpeed(d.Speed);
                    break;
                case TurnRobotNode t:
                    Drive(t.Span, "turn robot");
                    ExpectAngle(t.Angle, Dimension.RobotAngle, "robot degrees");
                    DriveSpeed(t.Speed);
                    break;
                case SteerNode s:
                    Drive(s.Span, "steer");
                    DriveSpeed(s.Left);
                    DriveSpeed(s.Right);
                    break;
                case FollowNode f:
                    Drive(f.Span, "follow");
                    DriveSpeed(f.Speed);
                    Expect(f.Gain, Dimension.None, "a plain number");
                    break;
                case SendNode s:
                    if (rig.MotorOf(s.Device) == ActuatorKind.PlainMotor)
                        Say(
                            s.Span,
                            s.Device,
                            $"{s.Device} has a plain motor, which cannot measure where it is: it cannot be sent anywhere. Run it "
                                + "until a sensor says stop."
                        );
                    break;
                case SetServoNode { Angle: { } angle }:
                    var turned = TypeOf(angle);
                    if (
                        turned.Known
                        && !(turned.IsNumber && (turned.Dimension == Dimension.Angle || turned.Dimension == Dimension.MotorAngle))
                    )
                        Say(angle.Span, Printer.Print(angle), $"A servo is set to an angle in deg; this is {turned.Say}.");
                    else if (Analysis.Constant(angle) is { } at && at is < 0 or > 180)
                        Say(angle.Span, Printer.Print(angle), "A servo goes from 0 to 180 deg.");
                    break;
                case StepNode s:
                    Expect(s.Count, Dimension.None, "a count of steps");
                    Expect(s.Rate, Dimension.Frequency, "a rate in Hz");
                    break;
                case TellNode t:
                    foreach (var value in t.With)
                        if (TypeOf(value).Kind == Kind.Queue)
                            Say(value.Span, Printer.Print(value), "A whole queue cannot be told; tell its values one by one.");
                    break;
                case PushNode q:
                    Queue(q.Queue, q.Span);
                    if (TypeOf(q.Value).Kind == Kind.Queue)
                        Say(q.Value.Span, Printer.Print(q.Value), "A queue cannot be put into a queue.");
                    break;
                case TakeNode q:
                    Queue(q.Queue, q.Span);
                    Changeable(q.Variable, q.Span);
                    break;
                case DoNode d:
                    if (
                        program.Routines.FirstOrDefault(r => r.Name == d.Routine) is { } routine
                        && routine.Parameters.Count != d.Arguments.Count
                    )
                        Say(
                            d.Span,
                            d.Routine,
                            $"“{d.Routine}” takes "
                                + $"{(routine.Parameters.Count == 0 ? "nothing" : string.Join(" and ", routine.Parameters))}; "
                                + $"here {(d.Arguments.Count == 1 ? "is one value" : $"are {d.Arguments.Count} values")}."
                        );
                    foreach (var argument in d.Arguments)
                        TypeOf(argument);
                    break;
                case ZeroNode z:
                    if (rig.MotorOf(z.Device) == ActuatorKind.PlainMotor)
                        Say(z.Span, z.Device, $"{z.Device} is a plain motor and knows no angle that could be 0.");
                    break;
                case StopNode { Mode: StopMode.Hold } h:
                    if (rig.MotorOf(h.Motor) == ActuatorKind.PlainMotor)
                        Say(
                            h.Span,
                            h.Motor,
                            $"{h.Motor} is a plain motor and cannot hold its place: brake it, or stop it against something."
                        );
                    break;
            }
        }

        private void Changeable(string variable, Span span)
        {
            if (constants.Contains(variable))
                Say(span, variable, $"“{variable}” is a constant and cannot be changed. Write var instead of const.");
            else if (inside is { } routine && !types.ContainsKey(variable) && routine.Parameters.Contains(variable))
                Say(span, variable, $"“{variable}” is a parameter: it is given by who calls the routine.");
        }

        private void Set(SetNode s)
        {
            Changeable(s.Variable, s.Span);
            var wanted = types.GetValueOrDefault(s.Variable);
            var given = TypeOf(s.Value);
            if (given.Known && wanted.Known && !wanted.Fits(given))
                Say(s.Value.Span, Printer.Print(s.Value), $"“{s.Variable}” holds {wanted.Say}, but this is {given.Say}.");
            if (given.Kind == Kind.Queue && s.Value is not QueueNode)
                Say(s.Value.Span, Printer.Print(s.Value), "A queue cannot be copied; push onto it and take from it.");
        }

        private void Queue(string name, Span span)
        {
            if (types.TryGetValue(name, out var type) && type.Known && type.Kind != Kind.Queue)
                Say(span, name, $"“{name}” is no queue; it holds {type.Say}. Write “var {name} = queue”.");
        }

        private void Drive(Span span, string what)
        {
            if (rig.Mechanisms.All(m => m.Going != Going.Steered))
                Say(span, what, $"“{what}” needs a two-wheel drive, and this rig has none. Describe it in Rig.");
        }

        private void DriveSpeed(ExprNode speed)
        {
            var plain = rig.Mechanisms.FirstOrDefault(m => m.Going == Going.Steered)?.Motor == ActuatorKind.PlainMotor;
            var type = TypeOf(speed);
            if (!type.Known)
                return;
            if (type.IsNumber && (type.Dimension == Dimension.Percent || !plain && type.Dimension == Dimension.Speed))
                Power(speed, type);
            else
                Say(
                    speed.Span,
                    Printer.Print(speed),
                    plain
                        ? $"This drive has plain motors and takes power in % only; this is {type.Say}."
                        : $"A drive goes at a speed in % or mm/s; this is {type.Say}."
                );
        }

        private void Power(ExprNode node, Type type)
        {
            if (type.Dimension == Dimension.Percent && Analysis.Constant(node) is { } power && Math.Abs(power) > 100)
                Say(node.Span, Printer.Print(node), "Power goes from -100 % to 100 %.");
        }

        private void Run(RunNode r)
        {
            var kind = rig.MotorOf(r.Motor);
            var speed = TypeOf(r.Speed);
            if (kind == ActuatorKind.PlainMotor)
            {
                Expect(
                    r.Speed,
                    Dimension.Percent,
                    "power in %",
                    type =>
                        type.IsNumber && (type.Dimension is Dimension.Speed or Dimension.AngularSpeed || IsAngle(type.Dimension))
                            ? $"{r.Motor} is a plain motor and takes power in % only: it cannot measure speed or angle."
                            : null
                );
                if (r.Amount is not null && TypeOf(r.Amount) is { Known: true } far && !(far.IsNumber && far.Dimension == Dimension.Time))
                    Say(
                        r.Amount.Span,
                        Printer.Print(r.Amount),
                        $"{r.Motor} is a plain motor and cannot measure how far it went: say how long with “up to”, or stop it by "
                            + "a sensor."
                    );
            }
            else
            {
                if (speed.Known && !(speed.IsNumber && speed.Dimension is Dimension.Percent or Dimension.AngularSpeed or Dimension.Speed))
                    Say(r.Speed.Span, Printer.Print(r.Speed), $"A motor runs at a speed in % or deg/s; this is {speed.Say}.");
                if (r.Amount is not null)
                    ExpectAngle(r.Amount, Dimension.MotorAngle, "motor degrees");
            }
            if (speed.Known)
                Power(r.Speed, speed);
            if (r.UpTo is not null)
                Expect(r.UpTo, Dimension.Time, "a time");
        }

        private void ExpectAngle(ExprNode node, Dimension wanted, string words)
        {
            var type = TypeOf(node);
            if (!type.Known)
                return;
            if (!type.IsNumber || !IsAngle(type.Dimension) || type.Dimension != Dimension.Angle && type.Dimension != wanted)
            {
                Say(
                    node.Span,
                    Printer.Print(node),
                    $"This must be {words}; it is "
                        + $"{type.Say}."
                        + $"{(type.IsNumber && IsAngle(type.Dimension) ? " Degrees of the motor, of the wheel and of the robot are three different things." : "")}"
                );
                return;
            }
            // A constant in bare degrees means one kind only, wherever it is used.
            foreach (var v in Variables(node).Where(v => types.GetValueOrDefault(v.Name).Dimension == Dimension.Angle))
            {
                if (degrees.TryGetValue(v.Name, out var before) && before != wanted)
                    Say(
                        v.Span,
                        v.Name,
                        $"“{v.Name}” is used as {Unit.Say(before)} elsewhere and as {words} here. Give it its kind: motor deg, wheel "
                            + "deg or robot deg."
                    );
                else
                    degrees[v.Name] = wanted;
            }
        }

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

        private void Expect(ExprNode node, Dimension dimension, string what, Func<Type, string?>? better = null)
        {
            var type = TypeOf(node);
            if (!type.Known || type.IsNumber && type.Dimension == dimension)
            {
                if (type.Known && dimension == Dimension.Time && Analysis.Constant(node) is { } t && t < 0)
                    Say(node.Span, Printer.Print(node), "A time cannot be negative.");
                return;
            }
            Say(node.Span, Printer.Print(node), better?.Invoke(type) ?? $"This must be {what}; it is {type.Say}.");
        }

        private void ExpectTruth(ExprNode node)
        {
            var type = TypeOf(node);
            if (type.Known && type.Kind != Kind.Truth)
                Say(node.Span, Printer.Print(node), $"A condition must be true or false, such as “beds = 3”; this is {type.Say}.");
        }

        // A fault is told once, however often a type is asked for.
        private readonly HashSet<ExprNode> looked = new(ReferenceEqualityComparer.Instance);

        private Type TypeOf(ExprNode node)
        {
            var first = looked.Add(node);
            void Once(Span span, string text, string message)
            {
                if (first)
                    Say(span, text, message);
            }
            switch (node)
            {
                case LiteralNode l:
                    return Type.Number(Unit.Find(l.Unit)?.Dimension ?? Dimension.None);
                case VariableNode v:
                    if (types.TryGetValue(v.Name, out var known))
                        return known;
                    if (inside?.Parameters.Contains(v.Name) != true && program.Routines.Any(r => r.Parameters.Contains(v.Name)))
                        Once(v.Span, v.Name, $"“{v.Name}” is a parameter of a routine and means nothing outside it.");
                    return default;
                case TextNode:
                    return new(Kind.Text);
                case TruthNode or DoneNode or InStateNode:
                    if (
                        node is InStateNode s
                        && program
                            .Regions.Concat(program.Routines.SelectMany(r => r.Regions))
                            .SelectMany(r => r.AllStates.SelectMany(x => x.Regions).Prepend(r))
                            .Where(r => r.Name == s.Region)
                            .All(r => r.AllStates.All(x => x.Name != s.State))
                    )
                        Once(s.Span, s.State, $"“{s.State}” does not stand in {s.Region}.");
                    return Type.Truth;
                case ZoneNode:
                    return new(Kind.Zone);
                case QueueNode:
                    return new(Kind.Queue);
                case ReadingNode r:
                    return Type.Number(rig.Sensors.FirstOrDefault(x => x.Name == r.Sensor)?.Reads ?? Dimension.None);
                case PropertyNode p:
                    if (p.Kind == PropertyKind.Length && types.TryGetValue(p.Of, out var queue) && queue.Known && queue.Kind != Kind.Queue)
                        Once(p.Span, p.Of, $"“{p.Of}” is no queue; it holds {queue.Say}.");
                    if (p.Kind == PropertyKind.Angle && rig.MotorOf(p.Of) == ActuatorKind.PlainMotor)
                        Once(p.Span, p.Of, $"{p.Of} is a plain motor and cannot measure its angle.");
                    return p.Kind switch
                    {
                        PropertyKind.Travel => Type.Number(Dimension.Length),
                        PropertyKind.Angle => Type.Number(rig.MotorOf(p.Of) == ActuatorKind.Servo ? Dimension.Angle : Dimension.MotorAngle),
                        PropertyKind.Zone => new(Kind.Zone),
                        _ => Type.Number(Dimension.None),
                    };
                case HoldsNode h:
                    if (types.TryGetValue(h.Queue, out var held) && held.Known && held.Kind != Kind.Queue)
                        Once(h.Span, h.Queue, $"“{h.Queue}” is no queue; it holds {held.Say}.");
                    TypeOf(h.Value);
                    return Type.Truth;
                case RandomNode r:
                    if (r.From is null || r.To is null)
                        return Type.Number(Dimension.None);
                    var (low, high) = (TypeOf(r.From), TypeOf(r.To));
                    if (low.Known && high.Known && (!low.IsNumber || !low.Fits(high)))
                        Once(
                            r.Span,
                            Printer.Print(r),
                            $"A random number lies between two numbers of one kind; these are {low.Say} and {high.Say}."
                        );
                    return low;
                case UnaryNode u:
                    var inner = TypeOf(u.Operand);
                    if (inner.Known && (inner.Kind == Kind.Truth) != u.IsNot)
                        Once(
                            u.Span,
                            Printer.Print(u),
                            u.IsNot
                                ? "“not” turns a yes into a no; this is " + inner.Say + "."
                                : $"A minus sign needs a number; this is {inner.Say}."
                        );
                    return u.IsNot ? Type.Truth : inner;
                case CallNode c:
                    var one = TypeOf(c.Arguments[0]);
                    foreach (var argument in c.Arguments)
                    {
                        var type = ReferenceEquals(argument, c.Arguments[0]) ? one : TypeOf(argument);
                        if (type.Known && (!type.IsNumber || one.Known && !one.Fits(type)))
                            Once(argument.Span, Printer.Print(argument), $"“{c.Function}” needs numbers of one kind; this is {type.Say}.");
                    }
                    return one;
                case BinaryNode b:
                    return Binary(b, Once);
                default:
                    return default;
            }
        }

        private Type Binary(BinaryNode b, Action<Span, string, string> once)
        {
            var left = TypeOf(b.Left);
            var right = TypeOf(b.Right);
            // A zone may be compared with the zone of an eye that does not know it.
            if (b.Operator is Operator.Equal or Operator.NotEqual)
                foreach (var (eye, zone) in new[] { (b.Left, b.Right), (b.Right, b.Left) })
                    if (
                        eye is PropertyNode { Kind: PropertyKind.Zone } of
                        && zone is ZoneNode { Zone: { } name }
                        && rig.Sensors.FirstOrDefault(s => s.Name == of.Of) is { } sensor
                        && !sensor.Zones.Contains(name)
                    )
                        once(
                            zone.Span,
                            name,
                            $"No zone “{name}” "
                                + $"on {of.Of}{(NearMiss.Find(name, sensor.Zones) is { } near ? $"; did you mean “{near}”?" : ".")}"
                        );
            if (!left.Known || !right.Known)
                return b.Operator < Operator.Add ? Type.Truth : default;
            var text = Printer.Print(b);
            switch (b.Operator)
            {
                case Operator.And or Operator.Or:
                    if (left.Kind != Kind.Truth || right.Kind != Kind.Truth)
                        once(
                            b.Span,
                            text,
                            $"“{(b.Operator == Operator.And ? "and" : "or")}” joins two conditions; "
                                + $"{(left.Kind == Kind.Truth ? "the right side is " + right.Say : "the left side is " + left.Say)}."
                        );
                    return Type.Truth;
                case Operator.Add or Operator.Subtract:
                    if (left.IsNumber && left.Fits(right))
                        return left.With(right);
                    once(
                        b.Span,
                        text,
                        $"Cannot {(b.Operator == Operator.Add ? "add" : "take away")} {right.Say} "
                            + $"{(b.Operator == Operator.Add ? "to" : "from")} {left.Say}."
                    );
                    return default;
                case Operator.Multiply:
                    if (left.IsNumber && right.IsNumber && (left.Dimension == Dimension.None || right.Dimension == Dimension.None))
                        return left.Dimension == Dimension.None ? right : left;
                    once(b.Span, text, $"Cannot multiply {left.Say} by {right.Say}: one of them must be a plain number.");
                    return default;
                case Operator.Divide:
                    if (Analysis.Constant(b.Right) == 0)
                        once(b.Right.Span, text, "Dividing by zero gives no number.");
                    if (left.IsNumber && right.IsNumber && (right.Dimension == Dimension.None || left.Fits(right)))
                        return right.Dimension == Dimension.None ? left : Type.Number(Dimension.None);
                    once(b.Span, text, $"Cannot divide {left.Say} by {right.Say}.");
                    return default;
                default:
                    if (!left.Fits(right))
                        once(b.Span, text, $"Cannot compare {left.Say} with {right.Say}.");
                    else if (!left.IsNumber && b.Operator is not (Operator.Equal or Operator.NotEqual))
                        once(
                            b.Span,
                            text,
                            $"{(left.Kind == Kind.Truth ? "Yes and no have" : left.Kind == Kind.Text ? "Texts have" : left.Kind == Kind.Zone ? "Zones have" : "Queues have")} no "
                                + "order; compare "
                                + "them with = or !=."
                        );
                    else if (left.Kind == Kind.Queue)
                        once(b.Span, text, "Queues cannot be compared; ask for their length, or what they hold.");
                    return Type.Truth;
            }
        }
    }
}
