namespace Chiton.Core.Simulation.People;

/// <summary>What a timed line does.</summary>
internal enum Deed : byte
{
    Hand,
    Comes,
    Reads,
    ReadsZone,
    Silent,
    Tap,
    Press,
    Hold,
    LetGo,
    PutDrive,
    PutThing,
    TakeThing,
    Turn,
    Steer,
    Ask,
    Light,
    LostReadings,
    LostMessages,
    Unplug,
    Block,
    Lift,
    Battery,
    Gives,
    RunsDry,
}

/// <summary>A number of a line: the same in every run, drawn once, or drawn each time it happens.</summary>
/// <param name="Usual">Its value.</param>
/// <param name="Sd">SD; 0 for none.</param>
/// <param name="To">Upper end where it is drawn evenly; NaN otherwise.</param>
internal readonly record struct Amount(double Usual, double Sd, double To)
{
    public static readonly Amount None = new(double.NaN, 0, double.NaN);

    public bool Is => !double.IsNaN(Usual);

    public double Draw(ref RandomStream stream) =>
        !double.IsNaN(To) ? Usual + (To - Usual) * stream.Uniform()
        : Sd > 0 ? Usual + Sd * Math.Clamp(stream.Normal(), -3, 3)
        : Usual;
}

/// <summary>A timed line, bound once.</summary>
internal sealed class HappeningSpec
{
    public required Deed Deed { get; init; }

    /// <summary>True for what waits until a person at a playing bench does it.</summary>
    public bool Waits { get; init; }

    /// <summary>Line of the scene, from 1.</summary>
    public int Line { get; init; }

    /// <summary>The line in words.</summary>
    public required string Say { get; init; }

    // When.
    public Amount At { get; init; } = Amount.None;
    public Amount Every { get; init; } = Amount.None;
    public Amount Later { get; init; } = Amount.None;
    public Amount For { get; init; } = Amount.None;
    public Amount UntilLater { get; init; } = Amount.None;
    public Cond? Starts { get; init; }
    public Cond? Until { get; init; }
    public bool EachTime { get; init; }
    public double Share { get; init; } = 1;

    // What.
    public int Sense { get; init; } = -1;
    public int Axis { get; init; } = -1;
    public int Drive { get; init; } = -1;
    public int Mover { get; init; } = -1;
    public int MoverTo { get; init; } = -1;
    public int Thing { get; init; } = -1;
    public int Place { get; init; } = -1;
    public int Zone { get; init; } = -1;
    public string Position { get; init; } = "";
    public Amount A { get; init; } = Amount.None;
    public Amount B { get; init; } = Amount.None;
    public Amount C { get; init; } = Amount.None;
    public Amount D { get; init; } = Amount.None;
    public Amount E { get; init; } = Amount.None;
    public Amount X { get; init; } = Amount.None;
    public Amount Y { get; init; } = Amount.None;

    /// <summary>True for a drive that is put down as well as at the start.</summary>
    public bool AsAtStart { get; init; }
    public int[] Places { get; init; } = [];
    public bool Flag { get; init; }
    public bool IsInstant => Deed is Deed.LetGo or Deed.PutDrive or Deed.PutThing or Deed.TakeThing;
    public ulong Stream { get; init; }
}

/// <summary>A timed line's state in a run.</summary>
internal struct HappeningState
{
    public bool Absent,
        Active,
        Was,
        Spent,
        Passed;
    public long Next,
        Since,
        Ends,
        UntilAt;
    public double A,
        B,
        C,
        D,
        E,
        From;
    public int Stage,
        Times;
    public long StageAt;
    public RandomStream Stream;
}
