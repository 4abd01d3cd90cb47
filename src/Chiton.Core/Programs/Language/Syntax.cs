using System.Globalization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>
/// Where something stands in the text, from line 1 and column 1. All spans are equal to each other, so that two
/// programs compare by what they say and not by where they say it.
/// </summary>
/// <param name="line">Line, from 1.</param>
/// <param name="column">Column, from 1.</param>
/// <param name="length">Length in characters.</param>
public readonly struct Span(int line, int column, int length) : IEquatable<Span>
{
    /// <summary>Line, from 1; 0 when the node was not parsed.</summary>
    public int Line { get; } = line;

    /// <summary>Column, from 1.</summary>
    public int Column { get; } = column;

    /// <summary>Length in characters.</summary>
    public int Length { get; } = length;

    /// <inheritdoc/>
    public bool Equals(Span other) => true;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => obj is Span;

    /// <inheritdoc/>
    public override int GetHashCode() => 0;
}

/// <summary>A program: a head of declarations and regions that run side by side.</summary>
/// <param name="Name">Program name.</param>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Head">Variables, goals and nevers.</param>
/// <param name="Regions">Regions in document order.</param>
/// <param name="Trailing">Comment lines after everything else.</param>
public sealed record ProgramNode(
    string Name,
    Sequence<string> Comments,
    Sequence<HeadNode> Head,
    Sequence<RegionNode> Regions,
    Sequence<string> Trailing
)
{
    /// <summary>Where the program line stands.</summary>
    public Span Span { get; init; }

    /// <summary>Named pieces with parameters and states of their own.</summary>
    public Sequence<RoutineNode> Routines { get; init; }

    /// <summary>Values that the place of the program gives, by name: one text serves several like stations.</summary>
    public Sequence<string> Parameters { get; init; }

    /// <summary>What its place gives, and what the devices are called outside; <see cref="Placing"/> puts both in.</summary>
    public Sequence<GivenNode> Given { get; init; }

    /// <summary>Devices that are called otherwise outside of the program.</summary>
    public Sequence<OwnName> OwnNames { get; init; }

    /// <summary>Every state, the ones inside others and in routines too, each before what stands in it.</summary>
    public IEnumerable<StateNode> AllStates => Regions.Concat(Routines.SelectMany(r => r.Regions)).SelectMany(r => r.AllStates);
}

/// <summary>A value that the place of a program gives.</summary>
/// <param name="Name">Name of the value in the program.</param>
/// <param name="Value">A number with its unit, yes or no, or a text.</param>
public sealed record GivenNode(string Name, ExprNode Value);

/// <summary>A device of the program's own controller.</summary>
/// <param name="Name">What the program calls it.</param>
/// <param name="Outside">What the rig calls it, as in “Post 3's Button”.</param>
public sealed record OwnName(string Name, string Outside);

/// <summary>A routine: a named, reusable piece with parameters. Calling it is an activity that ends with done.</summary>
/// <param name="Name">Routine name.</param>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Parameters">Names of its parameters.</param>
/// <param name="Regions">Its regions; one without a name when its states stand in it directly.</param>
public sealed record RoutineNode(string Name, Sequence<string> Comments, Sequence<string> Parameters, Sequence<RegionNode> Regions)
{
    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }
}

/// <summary>A line of the head.</summary>
/// <param name="Comments">Comment lines above it.</param>
public abstract record HeadNode(Sequence<string> Comments)
{
    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }
}

/// <summary><c>var NAME = EXPRESSION</c>.</summary>
public sealed record VarNode(Sequence<string> Comments, string Name, ExprNode Value) : HeadNode(Comments);

/// <summary><c>const NAME = EXPRESSION</c>.</summary>
public sealed record ConstNode(Sequence<string> Comments, string Name, ExprNode Value) : HeadNode(Comments);

/// <summary><c>goal: …</c> or <c>never: …</c>.</summary>
public sealed record RuleNode(Sequence<string> Comments, bool IsGoal, ConditionKind Condition, string? Place, ExprNode? Time)
    : HeadNode(Comments)
{
    /// <summary>What the condition speaks of: a mechanism that may pass its stop, or a load that is to come somewhere.</summary>
    public string? Subject { get; init; }

    /// <summary>An expression that is to hold, or never to.</summary>
    public ExprNode? Holds { get; init; }

    /// <summary>When it counts; what <see cref="Time"/> means.</summary>
    public RuleClock Clock { get; init; }

    /// <summary>Things for each of which it may come true once: <c>at most once for each shell</c>; null when not said.</summary>
    public string? OnceFor { get; init; }
}

/// <summary>A head line that could not be read; kept as typed.</summary>
public sealed record BrokenHeadNode(Sequence<string> Comments, string Raw) : HeadNode(Comments);

/// <summary>What a goal or a never speaks of.</summary>
public enum ConditionKind
{
    /// <summary><c>stopped over PLACE [within TIME]</c>: at rest with the spot inside the marker.</summary>
    StoppedOver,

    /// <summary><c>finished [within TIME]</c>: every region final.</summary>
    Finished,

    /// <summary><c>moving after TIME</c>: not at rest later than this.</summary>
    MovingAfter,

    /// <summary><c>EXPRESSION [within TIME]</c>.</summary>
    Holds,

    /// <summary><c>MECHANISM past its [top|bottom] stop</c>.</summary>
    PastStop,

    /// <summary><c>robot over the edge</c>.</summary>
    OverEdge,

    /// <summary><c>LOAD on PLACE [within TIME]</c>.</summary>
    LoadOn,
}

/// <summary>A region: states of which one is active.</summary>
public sealed record RegionNode(string Name, Sequence<string> Comments, Sequence<StateNode> States)
{
    /// <summary>Its states and all that stand in them, each before what stands in it.</summary>
    public IEnumerable<StateNode> AllStates => States.SelectMany(s => s.WithInner);

    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }
}

/// <summary>A state with its lines.</summary>
/// <param name="Name">State name, unique in its region.</param>
/// <param name="Initial">Entered when the region starts.</param>
/// <param name="Final">Ends the region.</param>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Lines">Activities and transitions in document order.</param>
public sealed record StateNode(string Name, bool Initial, bool Final, Sequence<string> Comments, Sequence<LineNode> Lines)
{
    /// <summary>Points that remember which of its states was active.</summary>
    public Sequence<HistoryNode> Histories { get; init; }

    /// <summary>States inside it, of which one is active.</summary>
    public Sequence<StateNode> States { get; init; }

    /// <summary>Regions inside it, which are all active.</summary>
    public Sequence<RegionNode> Regions { get; init; }

    /// <summary>The state and all that stand in it.</summary>
    public IEnumerable<StateNode> WithInner =>
        new[] { this }.Concat(States.SelectMany(s => s.WithInner)).Concat(Regions.SelectMany(r => r.AllStates));

    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }
}

/// <summary><c>[deep] history NAME: go STATE</c>: a point to come back to; the state is where it goes while it remembers nothing.</summary>
public sealed record HistoryNode(string Name, Sequence<string> Comments, bool Deep, string Target)
{
    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }

    /// <summary>Where the target stands.</summary>
    public Span TargetSpan { get; init; }
}

/// <summary>A line of a state.</summary>
/// <param name="Comments">Comment lines above it.</param>
public abstract record LineNode(Sequence<string> Comments)
{
    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }
}

/// <summary>When the actions of an activity line happen.</summary>
public enum ActivityMoment
{
    /// <summary><c>on entry:</c></summary>
    Entry,

    /// <summary><c>while here:</c> stops when the state is left.</summary>
    While,

    /// <summary><c>on exit:</c></summary>
    Exit,
}

/// <summary><c>on entry:</c>, <c>while here:</c> or <c>on exit:</c> with what to do.</summary>
public sealed record ActivityNode(Sequence<string> Comments, ActivityMoment Moment, Sequence<ActionNode> Actions) : LineNode(Comments);

/// <summary>A transition.</summary>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Trigger">What sets it off.</param>
/// <param name="Guard">Must hold as well; null when there is none.</param>
/// <param name="Actions">What it does.</param>
/// <param name="Target">The state it goes to; null to stay.</param>
public sealed record TransitionNode(
    Sequence<string> Comments,
    TriggerNode Trigger,
    ExprNode? Guard,
    Sequence<ActionNode> Actions,
    string? Target
) : LineNode(Comments)
{
    /// <summary>Where the target stands.</summary>
    public Span TargetSpan { get; init; }

    /// <summary>True for <c>go X inside</c>: the state that holds both is not left.</summary>
    public bool Inside { get; init; }
}

/// <summary>A line that could not be read; kept as typed.</summary>
public sealed record BrokenLineNode(Sequence<string> Comments, string Raw) : LineNode(Comments);

/// <summary>What sets a transition off.</summary>
public abstract record TriggerNode
{
    /// <summary>Where it stands.</summary>
    public Span Span { get; init; }
}

/// <summary>How a sensor trigger looks at a zone.</summary>
public enum ZoneRelation
{
    /// <summary>A level, judged on entry and at each new reading.</summary>
    Is,

    /// <summary>An edge into the zone, counted since entry.</summary>
    Becomes,

    /// <summary>An edge out of the zone, counted since entry.</summary>
    Leaves,
}

/// <summary><c>SENSOR is|becomes|leaves ZONE [for N readings]</c>.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Relation">Level or edge.</param>
/// <param name="Zone">Zone name.</param>
/// <param name="Readings">Readings in a row as typed; null when not said, which means 1.</param>
public sealed record ZoneTriggerNode(string Sensor, ZoneRelation Relation, string Zone, string? Readings) : TriggerNode
{
    /// <summary>Readings in a row, 1 or more.</summary>
    public int Needed => Readings is null ? 1 : int.Parse(Readings, CultureInfo.InvariantCulture);

    /// <summary>A time instead of readings: <c>for 200 ms</c>.</summary>
    public ExprNode? For { get; init; }
}

/// <summary><c>when EXPRESSION [for N readings | for TIME]</c>.</summary>
public sealed record ConditionTriggerNode(ExprNode Condition) : TriggerNode
{
    /// <summary>Readings in a row as typed; null when not said.</summary>
    public string? Readings { get; init; }

    /// <summary>A time instead of readings.</summary>
    public ExprNode? For { get; init; }
}

/// <summary>What a button or switch does.</summary>
public enum PressKind
{
    /// <summary>Goes down.</summary>
    Pressed,

    /// <summary>Comes up.</summary>
    Released,

    /// <summary>Down and soon up again.</summary>
    Tapped,

    /// <summary>Two taps soon one after the other.</summary>
    TappedTwice,

    /// <summary>Down for some time.</summary>
    Held,
}

/// <summary><c>BUTTON is pressed|released|tapped|tapped twice|held for TIME</c>: an edge, counted since entry.</summary>
public sealed record PressTriggerNode(string Sensor, PressKind Kind, ExprNode? Time) : TriggerNode;

/// <summary><c>ACTUATOR stalls</c>.</summary>
public sealed record StallTriggerNode(string Device) : TriggerNode;

/// <summary>A command's limit of time ran out before it reached its end: <c>Mast gives up</c>.</summary>
/// <param name="Device">Device name.</param>
public sealed record GiveUpTriggerNode(string Device) : TriggerNode;

/// <summary><c>told "…" [from PROGRAM] [into V, V]</c>.</summary>
public sealed record ToldTriggerNode(string Text, string? From, Sequence<string> Into) : TriggerNode;

/// <summary><c>not told for TIME</c>.</summary>
public sealed record SilenceTriggerNode(ExprNode Time) : TriggerNode
{
    /// <summary>The text that was not told; null for anything.</summary>
    public string? Text { get; init; }
}

/// <summary><c>every TIME</c>, counted from entry.</summary>
public sealed record EveryTriggerNode(ExprNode Time) : TriggerNode;

/// <summary><c>always</c>: as soon as the state is entered.</summary>
public sealed record AlwaysTriggerNode : TriggerNode;

/// <summary><c>after TIME</c>, counted from entry.</summary>
public sealed record AfterTriggerNode(ExprNode Time) : TriggerNode;

/// <summary>Something a line does.</summary>
public abstract record ActionNode
{
    /// <summary>The actions that stand in this one, in the order written; empty for a single command.</summary>
    public virtual IEnumerable<ActionNode> Inner => [];

    /// <summary>Where it stands.</summary>
    public Span Span { get; init; }
}

/// <summary><c>set VARIABLE to EXPRESSION</c>.</summary>
public sealed record SetNode(string Variable, ExprNode Value) : ActionNode;

/// <summary><c>run MOTOR [DIRECTION] [AMOUNT] at SPEED [up to TIME]</c>.</summary>
public sealed record RunNode(string Motor, ExprNode Speed) : ActionNode
{
    /// <summary>A named direction of the mechanism, or forward or back; null when not said.</summary>
    public string? Direction { get; init; }

    /// <summary>How far; null when it runs on.</summary>
    public ExprNode? Amount { get; init; }

    /// <summary>When it gives up; null when never.</summary>
    public ExprNode? UpTo { get; init; }

    /// <summary>For how long it runs; null when that is not said.</summary>
    public ExprNode? Time { get; init; }
}

/// <summary>How a motor is stopped.</summary>
public enum StopMode
{
    /// <summary>Not said: as its mechanism says.</summary>
    Default,

    /// <summary>Shorted, so that it stops soon.</summary>
    Brake,

    /// <summary>Left to run out.</summary>
    Coast,

    /// <summary>Stopped and kept where it is.</summary>
    Hold,
}

/// <summary><c>stop MOTOR [and brake|coast|hold]</c>.</summary>
public sealed record StopNode(string Motor, StopMode Mode) : ActionNode;

/// <summary><c>turn LAMP on|off</c>.</summary>
public sealed record LampNode(string Lamp, bool On) : ActionNode
{
    /// <summary>Its colour, one of <see cref="Words.Colours"/>; null for plainly on or off.</summary>
    public string? Colour { get; init; }
}

/// <summary><c>turn lamp of EYE on</c>: the sensor's own lamp.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="On">True for on.</param>
public sealed record EyeLampNode(string Sensor, bool On) : ActionNode;

/// <summary><c>tone FREQUENCY for TIME</c>.</summary>
public sealed record ToneNode(ExprNode Frequency, ExprNode Time) : ActionNode;

/// <summary><c>tone HZ TIME on TIME off [N times]</c>: beeps.</summary>
/// <param name="Frequency">Frequency.</param>
/// <param name="On">How long it sounds.</param>
/// <param name="Off">How long it is silent.</param>
/// <param name="Times">How often; null for without end.</param>
public sealed record BeepNode(ExprNode Frequency, ExprNode On, ExprNode Off, ExprNode? Times) : ActionNode;

/// <summary><c>wait TIME</c>.</summary>
/// <param name="Time">How long.</param>
public sealed record WaitNode(ExprNode Time) : ActionNode;

/// <summary><c>ACTION if CONDITION, otherwise ACTION</c>.</summary>
/// <param name="Action">What is done when the condition is true.</param>
/// <param name="Condition">The condition.</param>
/// <param name="Otherwise">What is done unless it is; null for nothing.</param>
public sealed record IfNode(ActionNode Action, ExprNode Condition, ActionNode? Otherwise) : ActionNode
{
    /// <inheritdoc/>
    public override IEnumerable<ActionNode> Inner => Otherwise is null ? [Action] : [Action, Otherwise];
}

/// <summary><c>repeat until CONDITION: …</c>: looked at before each round.</summary>
/// <param name="Until">When it is over.</param>
/// <param name="Actions">What is done each round.</param>
public sealed record RepeatUntilNode(ExprNode Until, Sequence<ActionNode> Actions) : ActionNode
{
    /// <inheritdoc/>
    public override IEnumerable<ActionNode> Inner => Actions;
}

/// <summary><c>show "…"</c>.</summary>
public sealed record ShowNode(string Text) : ActionNode;

/// <summary><c>show EXPRESSION</c>.</summary>
public sealed record ShowValueNode(ExprNode Value) : ActionNode;

/// <summary><c>play "…"</c>.</summary>
public sealed record PlayNode(string Text) : ActionNode
{
    /// <summary>For how long; null for as long as it lasts.</summary>
    public ExprNode? Time { get; init; }
}

/// <summary><c>drive straight|back [DISTANCE | for TIME] at SPEED</c>.</summary>
public sealed record DriveNode(bool Back, ExprNode? Distance, ExprNode? Time, ExprNode Speed) : ActionNode;

/// <summary><c>turn robot left|right ANGLE [spinning|pivoting] at SPEED</c>.</summary>
/// <param name="Left">True for left.</param>
/// <param name="Angle">How far, robot degrees.</param>
/// <param name="Pivoting">True about one wheel, false about the middle; null when not said.</param>
/// <param name="Speed">How fast.</param>
public sealed record TurnRobotNode(bool Left, ExprNode? Angle, bool? Pivoting, ExprNode Speed) : ActionNode
{
    /// <summary>For how long; null when that is not said. Without angle and time it goes on.</summary>
    public ExprNode? Time { get; init; }
}

/// <summary><c>steer LEFT and RIGHT</c>.</summary>
public sealed record SteerNode(ExprNode Left, ExprNode Right) : ActionNode
{
    /// <summary>For how long; null when that is not said.</summary>
    public ExprNode? Time { get; init; }

    /// <summary>How far; null when that is not said.</summary>
    public ExprNode? Distance { get; init; }
}

/// <summary><c>steer by STICK and STICK, dead band 15 deg</c>: the first ahead and back, the second to the sides.</summary>
/// <param name="Ahead">Motor whose angle says how fast, or sensor.</param>
/// <param name="Turn">The same for how much to the side.</param>
/// <param name="DeadBand">Angle within which a stick counts as let go; null for none.</param>
public sealed record SteerByNode(string Ahead, string Turn, ExprNode? DeadBand) : ActionNode;

/// <summary><c>follow EYE at SPEED gain K [to the left|right edge of ZONE]</c>.</summary>
public sealed record FollowNode(string Eye, ExprNode Speed, ExprNode Gain) : ActionNode
{
    /// <summary>True for the left edge, false for the right; null when not said.</summary>
    public bool? LeftEdge { get; init; }

    /// <summary>The zone whose edge it is.</summary>
    public string? Zone { get; init; }
}

/// <summary>Which way round something turns to a position.</summary>
public enum TurnWay
{
    /// <summary>Not said.</summary>
    Default,

    /// <summary>by the shortest way</summary>
    Shortest,

    /// <summary>clockwise</summary>
    Clockwise,

    /// <summary>counter-clockwise</summary>
    CounterClockwise,
}

/// <summary><c>send M to POSITION [by the shortest way|clockwise|counter-clockwise]</c>, or <c>send M home</c> where the position is
/// null.</summary>
public sealed record SendNode(string Device, string? Position, TurnWay Way) : ActionNode
{
    /// <summary>How fast; null for its usual speed.</summary>
    public ExprNode? Speed { get; init; }
}

/// <summary><c>zero M</c>: where it stands is 0 from now on.</summary>
public sealed record ZeroNode(string Device) : ActionNode;

/// <summary><c>teach EYE ZONE [for TIME]</c>: what it reads now is that zone from here on.</summary>
/// <param name="Sensor">The sensor.</param>
/// <param name="Zone">One of its zones.</param>
/// <param name="Time">How long it looks; null for its latest reading.</param>
public sealed record TeachNode(string Sensor, string Zone, ExprNode? Time) : ActionNode;

/// <summary><c>set SERVO to ANGLE|POSITION</c>; one of the two.</summary>
public sealed record SetServoNode(string Device, ExprNode? Angle, string? Position) : ActionNode
{
    /// <summary>How fast; null for as fast as it can.</summary>
    public ExprNode? Speed { get; init; }
}

/// <summary><c>step STEPPER COUNT at RATE</c>.</summary>
public sealed record StepNode(string Device, ExprNode Count, ExprNode Rate) : ActionNode;

/// <summary><c>blink LAMP TIME on TIME off [N times]</c>.</summary>
public sealed record BlinkNode(string Lamp, ExprNode On, ExprNode Off, ExprNode? Times) : ActionNode;

/// <summary><c>tell PROGRAM "…" [with V, V]</c>.</summary>
public sealed record TellNode(string Program, string Text, Sequence<ExprNode> With) : ActionNode;

/// <summary><c>push EXPRESSION onto QUEUE</c>.</summary>
public sealed record PushNode(ExprNode Value, string Queue) : ActionNode;

/// <summary><c>take from QUEUE into VARIABLE</c>.</summary>
public sealed record TakeNode(string Queue, string Variable) : ActionNode;

/// <summary><c>do ROUTINE (A, B)</c>.</summary>
public sealed record DoNode(string Routine, Sequence<ExprNode> Arguments) : ActionNode;

/// <summary><c>stop everything</c>.</summary>
public sealed record StopAllNode : ActionNode;

/// <summary><c>repeat N times: …</c> to the end of the line.</summary>
public sealed record RepeatNode(ExprNode Times, Sequence<ActionNode> Actions) : ActionNode
{
    /// <inheritdoc/>
    public override IEnumerable<ActionNode> Inner => Actions;
}

/// <summary><c>A, then B</c>: each begins when the one before is done.</summary>
public sealed record ThenNode(Sequence<ActionNode> Steps) : ActionNode
{
    /// <inheritdoc/>
    public override IEnumerable<ActionNode> Inner => Steps;
}

/// <summary><c>A and B</c>: begun together, done when all are.</summary>
public sealed record TogetherNode(Sequence<ActionNode> Parts) : ActionNode
{
    /// <inheritdoc/>
    public override IEnumerable<ActionNode> Inner => Parts;
}

/// <summary><c>(A; B)</c>: begun one after the other without waiting, done when all are.</summary>
public sealed record GroupNode(Sequence<ActionNode> Actions) : ActionNode
{
    /// <inheritdoc/>
    public override IEnumerable<ActionNode> Inner => Actions;
}

/// <summary>An expression.</summary>
public abstract record ExprNode
{
    /// <summary>Where it stands.</summary>
    public Span Span { get; init; }
}

/// <summary>A number in the digits and unit typed.</summary>
/// <param name="Digits">Digits as typed, without a sign.</param>
/// <param name="Unit">Unit text, empty for a count.</param>
public sealed record LiteralNode(string Digits, string Unit) : ExprNode
{
    /// <summary>Value in base units of its dimension.</summary>
    public double BaseValue => double.Parse(Digits, CultureInfo.InvariantCulture) * (Quantities.Unit.Find(Unit)?.Factor ?? 1);
}

/// <summary>A variable, a constant or a parameter.</summary>
public sealed record VariableNode(string Name) : ExprNode;

/// <summary>A text in quotes.</summary>
public sealed record TextNode(string Text) : ExprNode;

/// <summary><c>yes</c> or <c>no</c>.</summary>
public sealed record TruthNode(bool Yes) : ExprNode;

/// <summary>A zone by its name, or <c>no zone</c> where the name is null.</summary>
public sealed record ZoneNode(string? Zone) : ExprNode;

/// <summary><c>queue</c>: an empty one, to begin with.</summary>
public sealed record QueueNode : ExprNode;

/// <summary>The latest reading of a sensor.</summary>
public sealed record ReadingNode(string Sensor) : ExprNode;

/// <summary>What is asked of a device or a queue.</summary>
public enum PropertyKind
{
    /// <summary>travel of DRIVE</summary>
    Travel,

    /// <summary>angle of M</summary>
    Angle,

    /// <summary>zone of EYE</summary>
    Zone,

    /// <summary>length of QUEUE</summary>
    Length,
}

/// <summary><c>travel of DRIVE</c>, <c>angle of M</c>, <c>zone of EYE</c>, <c>length of QUEUE</c>.</summary>
public sealed record PropertyNode(PropertyKind Kind, string Of) : ExprNode;

/// <summary><c>REGION is in STATE</c>.</summary>
public sealed record InStateNode(string Region, string State) : ExprNode;

/// <summary><c>ACTUATOR is done</c>, or <c>all done</c> where it is null.</summary>
public sealed record DoneNode(string? Device) : ExprNode;

/// <summary>What a sensor sees: <c>Tag eye is bed tag</c>, <c>Left bumper is not down</c>.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Zone">Zone name.</param>
/// <param name="Not">True for “is not”.</param>
public sealed record ZoneIsNode(string Sensor, string Zone, bool Not) : ExprNode;

/// <summary>True while a sensor's latest answer is that nothing is there to hear: <c>Range hears nothing</c>.</summary>
/// <param name="Sensor">Sensor name.</param>
public sealed record SilentNode(string Sensor) : ExprNode;

/// <summary>True while the zones that a sensor was taught cannot be told apart: <c>Tag eye cannot tell</c>.</summary>
/// <param name="Sensor">Sensor name.</param>
public sealed record CannotTellNode(string Sensor) : ExprNode;

/// <summary>True while the latest command of a device ended by its limit of time: <c>Mast has given up</c>.</summary>
/// <param name="Device">Device name.</param>
public sealed record GivenUpNode(string Device) : ExprNode;

/// <summary><c>QUEUE holds EXPRESSION</c>.</summary>
public sealed record HoldsNode(string Queue, ExprNode Value) : ExprNode;

/// <summary><c>random</c> from 0 to 1, or <c>random (between A and B)</c>.</summary>
public sealed record RandomNode(ExprNode? From, ExprNode? To) : ExprNode;

/// <summary>Operators, weakest binding first.</summary>
public enum Operator
{
    /// <summary>or</summary>
    Or,

    /// <summary>and</summary>
    And,

    /// <summary>=</summary>
    Equal,

    /// <summary>!=</summary>
    NotEqual,

    /// <summary>&lt;</summary>
    Less,

    /// <summary>&lt;=</summary>
    LessOrEqual,

    /// <summary>&gt;</summary>
    Greater,

    /// <summary>&gt;=</summary>
    GreaterOrEqual,

    /// <summary>+</summary>
    Add,

    /// <summary>−</summary>
    Subtract,

    /// <summary>*</summary>
    Multiply,

    /// <summary>/</summary>
    Divide,
}

/// <summary>Two operands.</summary>
public sealed record BinaryNode(Operator Operator, ExprNode Left, ExprNode Right) : ExprNode;

/// <summary><c>not</c> or a minus sign.</summary>
public sealed record UnaryNode(bool IsNot, ExprNode Operand) : ExprNode;

/// <summary><c>min max abs round</c>.</summary>
public sealed record CallNode(string Function, Sequence<ExprNode> Arguments) : ExprNode;

/// <summary>A fault in a script.</summary>
/// <param name="Line">Line, from 1.</param>
/// <param name="Column">Column, from 1.</param>
/// <param name="Length">Length of what is marked, at least 1.</param>
/// <param name="Found">What stands there.</param>
/// <param name="Expected">What would fit there, in words; empty when nothing particular would.</param>
/// <param name="Message">The whole sentence for people.</param>
/// <param name="Suggestion">A near miss to put in its place, or null.</param>
public sealed record Diagnostic(int Line, int Column, int Length, string Found, string Expected, string Message, string? Suggestion)
{
    /// <summary>A name that stands for nothing yet and could be made; null when that is not what is wrong.</summary>
    public MissingName? Missing { get; init; }
}

/// <summary>A name that a line uses and nobody has made.</summary>
/// <param name="Kind">What it would be: state, variable, zone, position, region, routine or another word of the grammar.</param>
/// <param name="Name">The name as typed.</param>
/// <param name="Of">Of a zone the sensor, of a position the mechanism; null otherwise.</param>
public sealed record MissingName(string Kind, string Name, string? Of);
