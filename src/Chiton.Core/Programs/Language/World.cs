namespace Chiton.Core.Programs.Language;

/// <summary>What a goal, a never or a line of a scene can ask of the world. No program can see it.</summary>
public enum WorldFact
{
    /// <summary><c>[VEHICLE] stopped over PLACE</c>: at rest there after its first movement.</summary>
    StoppedOver,

    /// <summary><c>THING on PLACE</c>: its middle lies there.</summary>
    On,

    /// <summary><c>THING off PLACE</c>: its middle does not lie there.</summary>
    Off,

    /// <summary><c>THING in PLACE</c>.</summary>
    In,

    /// <summary><c>THING wholly on PLACE</c>: all of its outline.</summary>
    WhollyOn,

    /// <summary><c>THING touching PLACE</c>: any part of it.</summary>
    Touching,

    /// <summary><c>THING within LENGTH of PLACE</c>.</summary>
    Near,

    /// <summary><c>THING before SENSOR nearer than LENGTH</c>.</summary>
    Before,

    /// <summary><c>THING through MECHANISM</c>: somebody who asked has passed.</summary>
    Through,

    /// <summary><c>robot over the edge</c>: the contact of a wheel has left the deck.</summary>
    OverEdge,

    /// <summary><c>MECHANISM at POSITION</c>.</summary>
    AtPosition,

    /// <summary><c>MECHANISM past its [WHICH] stop</c>.</summary>
    PastStop,

    /// <summary><c>MECHANISM turned AMOUNT</c>.</summary>
    Turned,

    /// <summary><c>LAMP is on|off|COLOUR</c>.</summary>
    Lamp,

    /// <summary><c>SOUNDER sounds</c>.</summary>
    Sounds,

    /// <summary><c>DISPLAY shows "…"</c>.</summary>
    Shows,

    /// <summary><c>level of TANK above LENGTH</c>.</summary>
    LevelAbove,

    /// <summary><c>level of TANK below LENGTH</c>.</summary>
    LevelBelow,

    /// <summary><c>a crash</c>: bodies have met.</summary>
    Crash,

    /// <summary><c>moving after TIME</c>: any drive or vehicle.</summary>
    MovingAfter,

    /// <summary><c>finished</c>: every program has ended.</summary>
    Finished,
}

/// <summary>How many of several like things it must hold for.</summary>
public enum HowMany
{
    /// <summary>The one that is named.</summary>
    One,

    /// <summary>every</summary>
    Every,

    /// <summary>no</summary>
    No,

    /// <summary>at least N</summary>
    AtLeast,

    /// <summary>at most N</summary>
    AtMost,

    /// <summary>exactly N</summary>
    Exactly,
}

/// <summary>When a goal or a never counts.</summary>
public enum RuleClock
{
    /// <summary>Where a time stands: within it.</summary>
    Within,

    /// <summary><c>before TIME</c>: the same, said of the clock of the run.</summary>
    Before,

    /// <summary><c>for TIME</c>: it must hold so long in one go.</summary>
    For,

    /// <summary><c>for more than TIME</c>: only longer than this it counts.</summary>
    MoreThan,

    /// <summary><c>at the end</c>: asked when the run ends.</summary>
    AtEnd,
}

/// <summary>Something asked of the world.</summary>
/// <param name="Fact">What.</param>
public sealed record WorldNode(WorldFact Fact) : ExprNode
{
    /// <summary>Of whom or what; null where that need not be said.</summary>
    public string? Subject { get; init; }

    /// <summary>Where: a place, a position, which stop, or before which sensor.</summary>
    public string? Place { get; init; }

    /// <summary>How many of the things called so.</summary>
    public HowMany Many { get; init; }

    /// <summary>Their number as typed, for at least, at most and exactly.</summary>
    public string? Count { get; init; }

    /// <summary>How far, how high or when.</summary>
    public ExprNode? Amount { get; init; }

    /// <summary>What is shown, or how a lamp is.</summary>
    public string? Text { get; init; }
}
