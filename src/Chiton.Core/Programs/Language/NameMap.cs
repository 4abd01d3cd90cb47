using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>
/// Goes through a program and hands every name that stands in it to a method of its kind, together with what it is said
/// of; what the method gives back stands there in the new program. To look only, give the name back as it is. This is the
/// one place that knows where names stand in sentences.
/// </summary>
public abstract class NameMap
{
    /// <summary>The state line that is gone through now; null at the head.</summary>
    protected StateNode? Within { get; private set; }

    /// <summary>A sensor.</summary>
    protected virtual string Sensor(string name) => name;

    /// <summary>A motor, lamp, mechanism or anything else that is commanded.</summary>
    protected virtual string Device(string name) => name;

    /// <summary>A zone of a sensor; the sensor is null where the sentence does not say whose it is.</summary>
    protected virtual string Zone(string? sensor, string name) => name;

    /// <summary>A position of a mechanism.</summary>
    protected virtual string Position(string device, string name) => name;

    /// <summary>A direction of a mechanism.</summary>
    protected virtual string Direction(string device, string name) => name;

    /// <summary>A variable, constant, parameter or queue.</summary>
    protected virtual string Variable(string name) => name;

    /// <summary>A routine.</summary>
    protected virtual string Routine(string name) => name;

    /// <summary>Another program.</summary>
    protected virtual string Program(string name) => name;

    /// <summary>The state that a sentence goes to.</summary>
    protected virtual string Target(string name) => name;

    /// <summary>A region and a state that may be active in it.</summary>
    protected virtual (string Region, string State) Place(string region, string state) => (region, state);

    /// <summary>A line of the head, after the names in it.</summary>
    protected virtual HeadNode Said(HeadNode head) => head;

    /// <summary>A line of a state, after the names in it.</summary>
    protected virtual LineNode Line(LineNode line) => line;

    /// <summary>A line that could not be read, as typed.</summary>
    protected virtual string Raw(string text) => text;

    /// <summary>A state, after everything in it.</summary>
    protected virtual StateNode State(StateNode before, StateNode after) => after;

    /// <summary>An action, after the names in it and before what holds it.</summary>
    protected virtual ActionNode Command(ActionNode before, ActionNode after) => after;

    /// <summary>The program with every name mapped.</summary>
    public ProgramNode Map(ProgramNode program) =>
        program with
        {
            Parameters = program.Parameters.Select(Variable).ToSequence(),
            Head = program.Head.Select(h => Said(Head(h))).ToSequence(),
            Regions = program.Regions.Select(Region).ToSequence(),
            Routines = program
                .Routines.Select(r =>
                    r with
                    {
                        Parameters = r.Parameters.Select(Variable).ToSequence(),
                        Regions = r.Regions.Select(Region).ToSequence(),
                    }
                )
                .ToSequence(),
        };

    /// <summary>A state with every name in it mapped, as if it stood alone.</summary>
    protected StateNode Map(StateNode state) => Whole(state);

    private RegionNode Region(RegionNode region) => region with { States = region.States.Select(Whole).ToSequence() };

    private StateNode Whole(StateNode state)
    {
        var outer = Within;
        Within = state;
        var after = state with
        {
            Lines = state.Lines.Select(l => Line(Map(l))).ToSequence(),
            Histories = state.Histories.Select(h => h with { Target = Target(h.Target) }).ToSequence(),
            States = state.States.Select(Whole).ToSequence(),
            Regions = state.Regions.Select(Region).ToSequence(),
        };
        Within = outer;
        return State(state, after);
    }

    private HeadNode Head(HeadNode head) =>
        head switch
        {
            VarNode v => v with { Name = Variable(v.Name), Value = Map(v.Value) },
            ConstNode c => c with { Name = Variable(c.Name), Value = Map(c.Value) },
            RuleNode r => r with
            {
                Subject =
                    r.Subject is null ? null
                    : r.Condition == ConditionKind.PastStop ? Device(r.Subject)
                    : r.Subject,
                Holds = r.Holds is null ? null : Map(r.Holds),
                Time = r.Time is null ? null : Map(r.Time),
            },
            BrokenHeadNode b => b with { Raw = Raw(b.Raw) },
            _ => throw new InvalidOperationException($"Nothing knows where names stand in {head.GetType().Name}."),
        };

    private LineNode Map(LineNode line) =>
        line switch
        {
            ActivityNode a => a with { Actions = Map(a.Actions) },
            TransitionNode t => t with
            {
                Trigger = Map(t.Trigger),
                Guard = t.Guard is null ? null : Map(t.Guard),
                Actions = Map(t.Actions),
                Target = t.Target is null ? null : Target(t.Target),
            },
            BrokenLineNode b => b with { Raw = Raw(b.Raw) },
            _ => throw new InvalidOperationException($"Nothing knows where names stand in {line.GetType().Name}."),
        };

    // A stick is a motor that is turned by hand, or a sensor: names are unique on a rig.
    private string Stick(string name) => Device(name) is var device && device != name ? device : Sensor(name);

    private TriggerNode Map(TriggerNode trigger) =>
        trigger switch
        {
            ZoneTriggerNode z => z with
            {
                Sensor = Sensor(z.Sensor),
                Zone = Zone(z.Sensor, z.Zone),
                For = z.For is null ? null : Map(z.For),
            },
            ConditionTriggerNode c => c with { Condition = Map(c.Condition), For = c.For is null ? null : Map(c.For) },
            PressTriggerNode p => p with { Sensor = Sensor(p.Sensor), Time = p.Time is null ? null : Map(p.Time) },
            StallTriggerNode s => s with { Device = Device(s.Device) },
            GiveUpTriggerNode g => g with { Device = Device(g.Device) },
            ToldTriggerNode m => m with { From = m.From is null ? null : Program(m.From), Into = m.Into.Select(Variable).ToSequence() },
            SilenceTriggerNode n => n with { Time = Map(n.Time) },
            EveryTriggerNode e => e with { Time = Map(e.Time) },
            AfterTriggerNode a => a with { Time = Map(a.Time) },
            AlwaysTriggerNode => trigger,
            _ => throw new InvalidOperationException($"Nothing knows where names stand in {trigger.GetType().Name}."),
        };

    private Sequence<ActionNode> Map(Sequence<ActionNode> actions) => actions.Select(Map).ToSequence();

    private ActionNode Map(ActionNode action) =>
        Command(
            action,
            action switch
            {
                SetNode s => s with { Variable = Variable(s.Variable), Value = Map(s.Value) },
                RunNode r => r with
                {
                    Motor = Device(r.Motor),
                    Speed = Map(r.Speed),
                    Direction = r.Direction is null ? null : Direction(r.Motor, r.Direction),
                    Amount = r.Amount is null ? null : Map(r.Amount),
                    UpTo = r.UpTo is null ? null : Map(r.UpTo),
                    Time = r.Time is null ? null : Map(r.Time),
                },
                StopNode s => s with { Motor = Device(s.Motor) },
                LampNode l => l with { Lamp = Device(l.Lamp) },
                EyeLampNode l => l with { Sensor = Sensor(l.Sensor) },
                WaitNode w => w with { Time = Map(w.Time) },
                BeepNode b => b with
                {
                    Frequency = Map(b.Frequency),
                    On = Map(b.On),
                    Off = Map(b.Off),
                    Times = b.Times is null ? null : Map(b.Times),
                },
                PlayNode { Time: { } lasts } p => p with { Time = Map(lasts) },
                IfNode i => i with
                {
                    Action = Map(i.Action),
                    Condition = Map(i.Condition),
                    Otherwise = i.Otherwise is null ? null : Map(i.Otherwise),
                },
                RepeatUntilNode r => r with { Until = Map(r.Until), Actions = Map(r.Actions) },
                SteerByNode s => s with
                {
                    Ahead = Stick(s.Ahead),
                    Turn = Stick(s.Turn),
                    DeadBand = s.DeadBand is null ? null : Map(s.DeadBand),
                },
                ToneNode t => t with { Frequency = Map(t.Frequency), Time = Map(t.Time) },
                ShowValueNode s => s with { Value = Map(s.Value) },
                DriveNode d => d with
                {
                    Distance = d.Distance is null ? null : Map(d.Distance),
                    Time = d.Time is null ? null : Map(d.Time),
                    Speed = Map(d.Speed),
                },
                TurnRobotNode t => t with
                {
                    Angle = t.Angle is null ? null : Map(t.Angle),
                    Time = t.Time is null ? null : Map(t.Time),
                    Speed = Map(t.Speed),
                },
                SteerNode s => s with
                {
                    Left = Map(s.Left),
                    Right = Map(s.Right),
                    Time = s.Time is null ? null : Map(s.Time),
                    Distance = s.Distance is null ? null : Map(s.Distance),
                },
                FollowNode f => f with
                {
                    Eye = Sensor(f.Eye),
                    Speed = Map(f.Speed),
                    Gain = Map(f.Gain),
                    Zone = f.Zone is null ? null : Zone(f.Eye, f.Zone),
                },
                SendNode s => s with
                {
                    Device = Device(s.Device),
                    Position = s.Position is null ? null : Position(s.Device, s.Position),
                    Speed = s.Speed is null ? null : Map(s.Speed),
                },
                TeachNode t => t with
                {
                    Sensor = Sensor(t.Sensor),
                    Zone = Zone(t.Sensor, t.Zone),
                    Time = t.Time is null ? null : Map(t.Time),
                },
                ZeroNode z => z with { Device = Device(z.Device) },
                SetServoNode s => s with
                {
                    Device = Device(s.Device),
                    Angle = s.Angle is null ? null : Map(s.Angle),
                    Position = s.Position is null ? null : Position(s.Device, s.Position),
                    Speed = s.Speed is null ? null : Map(s.Speed),
                },
                StepNode s => s with { Device = Device(s.Device), Count = Map(s.Count), Rate = Map(s.Rate) },
                BlinkNode b => b with
                {
                    Lamp = Device(b.Lamp),
                    On = Map(b.On),
                    Off = Map(b.Off),
                    Times = b.Times is null ? null : Map(b.Times),
                },
                TellNode t => t with { Program = Program(t.Program), With = t.With.Select(Map).ToSequence() },
                PushNode p => p with { Value = Map(p.Value), Queue = Variable(p.Queue) },
                TakeNode t => t with { Queue = Variable(t.Queue), Variable = Variable(t.Variable) },
                DoNode d => d with { Routine = Routine(d.Routine), Arguments = d.Arguments.Select(Map).ToSequence() },
                RepeatNode r => r with { Times = Map(r.Times), Actions = Map(r.Actions) },
                ThenNode t => t with { Steps = Map(t.Steps) },
                TogetherNode t => t with { Parts = Map(t.Parts) },
                GroupNode g => g with { Actions = Map(g.Actions) },
                StopAllNode or ShowNode or PlayNode => action,
                _ => throw new InvalidOperationException($"Nothing knows where names stand in {action.GetType().Name}."),
            }
        );

    /// <summary>An expression with every name mapped.</summary>
    protected ExprNode Map(ExprNode node) =>
        node switch
        {
            VariableNode v => v with { Name = Variable(v.Name) },
            ZoneNode { Zone: { } zone } z => z with { Zone = Zone(null, zone) },
            ReadingNode r => r with { Sensor = Sensor(r.Sensor) },
            PropertyNode { Kind: PropertyKind.Zone } p => p with { Of = Sensor(p.Of) },
            PropertyNode { Kind: PropertyKind.Length } p => p with { Of = Variable(p.Of) },
            PropertyNode p => p with { Of = Device(p.Of) },
            InStateNode s => Place(s.Region, s.State) is var (region, state) ? s with { Region = region, State = state } : s,
            DoneNode { Device: { } device } d => d with { Device = Device(device) },
            GivenUpNode g => g with { Device = Device(g.Device) },
            ZoneIsNode z => z with { Sensor = Sensor(z.Sensor), Zone = Zone(z.Sensor, z.Zone) },
            CannotTellNode c => c with { Sensor = Sensor(c.Sensor) },
            SilentNode s => s with { Sensor = Sensor(s.Sensor) },
            HoldsNode h => h with { Queue = Variable(h.Queue), Value = Map(h.Value) },
            RandomNode r => r with { From = r.From is null ? null : Map(r.From), To = r.To is null ? null : Map(r.To) },
            // “zone of EYE = V” says whose zone V is.
            BinaryNode { Left: PropertyNode { Kind: PropertyKind.Zone } of, Right: ZoneNode { Zone: { } zone } z } b => b with
            {
                Left = Map(b.Left),
                Right = z with { Zone = Zone(of.Of, zone) },
            },
            BinaryNode { Right: PropertyNode { Kind: PropertyKind.Zone } of, Left: ZoneNode { Zone: { } zone } z } b => b with
            {
                Left = z with { Zone = Zone(of.Of, zone) },
                Right = Map(b.Right),
            },
            BinaryNode b => b with { Left = Map(b.Left), Right = Map(b.Right) },
            UnaryNode u => u with { Operand = Map(u.Operand) },
            CallNode c => c with { Arguments = c.Arguments.Select(Map).ToSequence() },
            WorldNode w => w with
            {
                Subject = w.Subject is null ? null : Device(w.Subject),
                Place =
                    w is { Fact: WorldFact.Before, Place: { } before } ? Sensor(before)
                    : w is { Fact: WorldFact.AtPosition, Subject: { } of, Place: { } position } ? Position(of, position)
                    : w.Place,
                Amount = w.Amount is null ? null : Map(w.Amount),
            },
            LiteralNode or TextNode or TruthNode or ZoneNode or QueueNode or DoneNode => node,
            _ => throw new InvalidOperationException($"Nothing knows where names stand in {node.GetType().Name}."),
        };
}
