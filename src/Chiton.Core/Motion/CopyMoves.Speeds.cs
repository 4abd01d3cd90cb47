using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Motion;

public sealed partial class CopyMoves
{
    /// <summary>A usual full speed of a regulated motor, motor deg/s.</summary>
    public static Quantity UsualTop { get; } =
        new(900, "motor deg/s", Provenance.Guessed, "usual for a regulated motor, never tried", 0, 0, 300, 50);

    /// <summary>How far something that slides goes for one degree of its motor, mm; 0 where that is not known, or it turns.</summary>
    /// <param name="m">The mechanism; null for a motor alone.</param>
    public double MmPerMotorDeg(Mechanism? m) =>
        m is null ? 0
        : m.Facts.Moves == PartMoves.Slides && InUse(m.Name, TrialKind.Travel) is { } travelled ? travelled.Value / 360
        : m.WheelDiameterMm?.Value is > 0 and var drum ? Math.PI * drum / 360 / Turns(m)
        : 0;

    private static double Turns(Mechanism m) => m.MotorTurnsPerTurn?.Value is > 0 and var turns ? turns : 1;

    /// <summary>The full speed of a motor that is no servo, motor deg/s.</summary>
    /// <param name="motor">The motor.</param>
    /// <param name="m">What it moves; null for a motor alone.</param>
    /// <param name="tried">The speed of its trials where it was found apart from its least power; null for the number in use.</param>
    public Quantity TopSpeed(Actuator motor, Mechanism? m, Quantity? tried = null)
    {
        tried ??= m is null ? null : InUse(m.Name, TrialKind.Speed);
        if (motor.Kind != ActuatorKind.PlainMotor)
            return tried is { Unit: "motor deg/s" } ? tried : UsualTop;
        var mmPerDeg = MmPerMotorDeg(m);
        return tried is null ? new(600, "motor deg/s", Provenance.Guessed, "usual, never tried", 0, 0, 400, 20)
            : tried.Unit == "mm/s" ? tried.Times(1 / Math.Max(1e-6, mmPerDeg > 0 ? mmPerDeg : 0.24), "motor deg/s")
            : tried.Times(Turns(m!), "motor deg/s");
    }

    /// <summary>The full speed of a driven wheel at the ground, mm/s.</summary>
    /// <param name="motor">The motor of the wheel.</param>
    /// <param name="m">The mechanism that it drives.</param>
    /// <param name="wheelMm">Diameter of the wheel, mm.</param>
    /// <param name="tried">The speed of its trials where it was found apart from its least power; null for the number in use.</param>
    public Quantity TopAtGround(Actuator motor, Mechanism m, double wheelMm, Quantity? tried = null)
    {
        tried ??= InUse(m.Name, TrialKind.Speed);
        return motor.Kind == ActuatorKind.PlainMotor
            ? tried ?? new Quantity(500, "mm/s", Provenance.Guessed, "usual, never tried", 0, 0, 600, 20)
            : (tried is { Unit: "motor deg/s" } ? tried : UsualTop).Times(Math.PI * wheelMm / 360 / Turns(m), "mm/s");
    }

    /// <summary>The full speed of a servo, deg/s.</summary>
    /// <param name="name">Name of the servo, or of what it moves.</param>
    /// <param name="m">What it moves; null for a servo alone.</param>
    public Quantity TopOfServo(string name, Mechanism? m)
    {
        var whole = m?.Travel is { } t ? Math.Abs(t.To.Value - t.From.Value) : 180;
        return m is not null && InUse(name, TrialKind.Swing) is { Value: > 0 } timed
            ? timed.Times(whole / timed.Value / timed.Value, "deg/s") with
            {
                MoveSd = 0,
            }
            : new(
                Math.Max(whole, 60) / Math.Max(0.05, Timings.SwingS(name)) * 1.15,
                "deg/s",
                Provenance.Guessed,
                "usual for a servo, never tried",
                0,
                0,
                150,
                30
            );
    }
}
