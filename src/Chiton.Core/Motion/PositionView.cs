using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Motion;

/// <summary>A position of a mechanism on a copy.</summary>
/// <param name="Mechanism">Mechanism name.</param>
/// <param name="Position">Position name.</param>
/// <param name="Unit">motor deg, or deg for a servo.</param>
/// <param name="Angle">Its angle; null while nobody found it.</param>
/// <param name="Count">How often it was found.</param>
public sealed record PositionView(string Mechanism, string Position, string Unit, Quantity? Angle, int Count)
{
    /// <summary>A position as it was found by hand.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="position">Name of the position.</param>
    /// <param name="angles">The angles found.</param>
    /// <param name="where">Where it was found, in words: on the table or on the stand-in.</param>
    public static PositionView Of(RigDesign rig, Mechanism m, string position, IReadOnlyList<double> angles, string where)
    {
        var servo = rig.Actuators.FirstOrDefault(a => a.Name == m.Motor) is { Kind: ActuatorKind.Servo };
        var unit = UnitOf(servo);
        if (AxisMark.Of(position, angles) is not { } mark)
            return new(m.Name, position, unit, null, 0);
        // Fewer than two findings say nothing of their spread: 2° stands for what a hand and an eye can do.
        var sd = angles.Count < 2 ? 2 : Math.Max(0.3, mark.Sd);
        var angle = new Quantity(
            mark.At,
            unit,
            Provenance.Measured,
            $"{(servo ? "set" : "moved there")} by hand {Figures.Count(angles.Count, "time")} {where}",
            sd / Math.Sqrt(angles.Count),
            sd,
            0,
            double.MinValue
        );
        return new(m.Name, position, unit, angle, angles.Count);
    }

    /// <summary>Unit of the angles of a mechanism's positions.</summary>
    /// <param name="servo">True when a servo moves it.</param>
    public static string UnitOf(bool servo) => servo ? "deg" : "motor deg";
}
