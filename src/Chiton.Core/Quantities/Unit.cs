using System.Collections.Frozen;

namespace Chiton.Core.Quantities;

/// <summary>What a unit measures. Two numbers can be added or compared only when this is the same.</summary>
public enum Dimension
{
    /// <summary>A bare count.</summary>
    None,

    /// <summary>Length, base unit mm.</summary>
    Length,

    /// <summary>Time, base unit s.</summary>
    Time,

    /// <summary>Share of full scale or full power, base unit %.</summary>
    Percent,

    /// <summary>Frequency, base unit Hz.</summary>
    Frequency,

    /// <summary>Speed along the ground, base unit mm/s.</summary>
    Speed,

    /// <summary>Rate of turn, base unit deg/s.</summary>
    AngularSpeed,

    /// <summary>Angle of the motor's shaft, base unit motor deg.</summary>
    MotorAngle,

    /// <summary>Angle of the wheel, base unit wheel deg.</summary>
    WheelAngle,

    /// <summary>Heading of the robot, base unit robot deg.</summary>
    RobotAngle,

    /// <summary>An angle whose kind is settled by its place, base unit deg.</summary>
    Angle,

    /// <summary>Force, base unit N.</summary>
    Force,

    /// <summary>Mass, base unit g.</summary>
    Mass,

    /// <summary>Volume, base unit l.</summary>
    Volume,

    /// <summary>Flow, base unit l/s.</summary>
    Flow,
}

/// <summary>A unit of the script language: its text, what it measures, and its size in base units.</summary>
/// <param name="Text">As written, for example <c>mm</c> or <c>motor deg</c>.</param>
/// <param name="Dimension">What it measures.</param>
/// <param name="Factor">How many base units one of these is. Finite and positive.</param>
public sealed record Unit(string Text, Dimension Dimension, double Factor)
{
    /// <summary>No unit: a count.</summary>
    public static readonly Unit None = new("", Dimension.None, 1);

    /// <summary>Millimetre.</summary>
    public static readonly Unit Mm = new("mm", Dimension.Length, 1);

    /// <summary>Second.</summary>
    public static readonly Unit S = new("s", Dimension.Time, 1);

    /// <summary>Per cent.</summary>
    public static readonly Unit Percent = new("%", Dimension.Percent, 1);

    /// <summary>Hertz.</summary>
    public static readonly Unit Hz = new("Hz", Dimension.Frequency, 1);

    /// <summary>Millimetres per second.</summary>
    public static readonly Unit MmPerS = new("mm/s", Dimension.Speed, 1);

    /// <summary>All units a script may use, longest text first so that <c>mm/s</c> is tried before <c>mm</c>.</summary>
    public static readonly IReadOnlyList<Unit> All =
    [
        new("wheel turns", Dimension.WheelAngle, 360),
        new("robot deg/s", Dimension.AngularSpeed, 1),
        new("motor deg", Dimension.MotorAngle, 1),
        new("wheel deg", Dimension.WheelAngle, 1),
        new("robot deg", Dimension.RobotAngle, 1),
        new("deg/s", Dimension.AngularSpeed, 1),
        MmPerS,
        new("deg", Dimension.Angle, 1),
        Mm,
        new("cm", Dimension.Length, 10),
        new("ms", Dimension.Time, 0.001),
        Hz,
        new("in", Dimension.Length, 25.4),
        new("m", Dimension.Length, 1000),
        S,
        Percent,
        new("l/s", Dimension.Flow, 1),
        new("N", Dimension.Force, 1),
        new("g", Dimension.Mass, 1),
        new("l", Dimension.Volume, 1),
    ];

    private static readonly FrozenDictionary<string, Unit> ByText = All.ToFrozenDictionary(u => u.Text);

    /// <summary>Finds a unit by its text; null when there is none of that name.</summary>
    public static Unit? Find(string text) => ByText.GetValueOrDefault(text);

    /// <summary>How a dimension is called in a message, for example "a length".</summary>
    public static string Say(Dimension dimension) =>
        dimension switch
        {
            Dimension.None => "a plain number",
            Dimension.Length => "a length",
            Dimension.Time => "a time",
            Dimension.Percent => "a percentage",
            Dimension.Frequency => "a frequency",
            Dimension.Speed => "a speed",
            Dimension.AngularSpeed => "a rate of turn",
            Dimension.MotorAngle => "motor degrees",
            Dimension.WheelAngle => "wheel degrees",
            Dimension.RobotAngle => "robot degrees",
            Dimension.Force => "a force",
            Dimension.Mass => "a mass",
            Dimension.Volume => "a volume",
            Dimension.Flow => "a flow",
            _ => "an angle",
        };
}
