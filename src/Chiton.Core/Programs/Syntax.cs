using System.Globalization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs;

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
public sealed record ProgramNode(string Name, Sequence<string> Comments, Sequence<HeadNode> Head, Sequence<RegionNode> Regions, Sequence<string> Trailing)
{
    /// <summary>Where the program line stands.</summary>
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

/// <summary><c>goal: …</c> or <c>never: …</c>.</summary>
public sealed record RuleNode(Sequence<string> Comments, bool IsGoal, ConditionKind Condition, string? Place, ExprNode? Time) : HeadNode(Comments);

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
}

/// <summary>A region: states of which one is active.</summary>
public sealed record RegionNode(string Name, Sequence<string> Comments, Sequence<StateNode> States)
{
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
    /// <summary>Where the line stands.</summary>
    public Span Span { get; init; }
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
public sealed record TransitionNode(Sequence<string> Comments, TriggerNode Trigger, ExprNode? Guard, Sequence<ActionNode> Actions, string? Target) : LineNode(Comments)
{
    /// <summary>Where the target stands.</summary>
    public Span TargetSpan { get; init; }
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
}

/// <summary><c>when EXPRESSION</c>.</summary>
public sealed record ConditionTriggerNode(ExprNode Condition) : TriggerNode;

/// <summary><c>after TIME</c>, counted from entry.</summary>
public sealed record AfterTriggerNode(ExprNode Time) : TriggerNode;

/// <summary>Something a line does.</summary>
public abstract record ActionNode
{
    /// <summary>Where it stands.</summary>
    public Span Span { get; init; }
}

/// <summary><c>set VARIABLE to EXPRESSION</c>.</summary>
public sealed record SetNode(string Variable, ExprNode Value) : ActionNode;

/// <summary><c>run MOTOR at SPEED</c>.</summary>
public sealed record RunNode(string Motor, ExprNode Speed) : ActionNode;

/// <summary>How a motor is stopped.</summary>
public enum StopMode
{
    /// <summary>Not said: as its mechanism says.</summary>
    Default,
    /// <summary>Shorted, so that it stops soon.</summary>
    Brake,
    /// <summary>Left to run out.</summary>
    Coast,
}

/// <summary><c>stop MOTOR [and brake|coast]</c>.</summary>
public sealed record StopNode(string Motor, StopMode Mode) : ActionNode;

/// <summary><c>turn LAMP on|off</c>.</summary>
public sealed record LampNode(string Lamp, bool On) : ActionNode;

/// <summary><c>tone FREQUENCY for TIME</c>.</summary>
public sealed record ToneNode(ExprNode Frequency, ExprNode Time) : ActionNode;

/// <summary><c>show "…"</c>.</summary>
public sealed record ShowNode(string Text) : ActionNode;

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

/// <summary>A variable.</summary>
public sealed record VariableNode(string Name) : ExprNode;

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
public sealed record Diagnostic(int Line, int Column, int Length, string Found, string Expected, string Message, string? Suggestion);
