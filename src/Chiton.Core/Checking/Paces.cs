using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>How fast something goes.</summary>
/// <param name="Value">The speed, above 0.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">The same in words.</param>
internal sealed record Pace(double Value, Provenance Kind, string Source)
{
    /// <summary>Where it comes from, as it is told.</summary>
    public string From => Kind == Provenance.Guessed ? "a guess: " + Source : Kind.ToString().ToLowerInvariant() + ": " + Source;
}

/// <summary>How fast commands make things go, from what is known of the copy. Of several values a number may have, the fastest
/// counts.</summary>
internal static class Paces
{
    /// <summary>How fast a motor, or what it moves, turns: motor deg/s, of a servo its own deg/s; null where its speed cannot be known
    /// without running.</summary>
    public static Pace? Turning(CheckInput input, string name, ExprNode speed)
    {
        var m = Places.Mechanism(input, name);
        if (input.Rig.Actuators.FirstOrDefault(a => a.Name == (m?.Motor ?? name)) is not { } motor)
            return null;
        return Fastest(
            input,
            speed,
            v =>
                v.Unit switch
                {
                    "%" => Share(
                        motor.Kind == ActuatorKind.Servo ? input.Moves.TopOfServo(m?.Name ?? name, m) : input.Moves.TopSpeed(motor, m),
                        input.Moves.At(m?.Name ?? name).Share(v.Value)
                    ),
                    "mm/s" when input.Moves.MmPerMotorDeg(m) is > 0 and var mm => new(v.Value / mm, Provenance.Calculated, "from its drum"),
                    "mm/s" or "" => null,
                    _ => new(v.Value, Provenance.Chosen, "as written"),
                }
        );
    }

    /// <summary>How fast something slides, or runs on like a belt: mm/s; null where that cannot be known.</summary>
    public static Pace? Sliding(CheckInput input, string name, ExprNode speed) =>
        input.Moves.MmPerMotorDeg(Places.Mechanism(input, name)) is > 0 and var mm && Turning(input, name, speed) is { } turns
            ? turns with
            {
                Value = turns.Value * mm,
            }
            : null;

    /// <summary>How fast the wheels of a drive go over the ground, mm/s; null where that cannot be known.</summary>
    public static Pace? Rolling(CheckInput input, Mechanism drive, ExprNode speed)
    {
        if (input.Rig.Actuators.FirstOrDefault(a => a.Name == drive.Motor) is not { } motor)
            return null;
        var wheel = (input.Moves.InUse(drive.Name, TrialKind.Straight) ?? drive.WheelDiameterMm)?.Value ?? 0;
        return Fastest(
            input,
            speed,
            v =>
                v.Unit switch
                {
                    "mm/s" => new(v.Value, Provenance.Chosen, "as written"),
                    "%" when wheel > 0 => Share(input.Moves.TopAtGround(motor, drive, wheel), input.Moves.At(drive.Name).Share(v.Value)),
                    "deg/s" when wheel > 0 => new(
                        v.Value * Math.PI * wheel / 360 / (drive.MotorTurnsPerTurn?.Value is > 0 and var t ? t : 1),
                        Provenance.Calculated,
                        "from its wheel"
                    ),
                    _ => null,
                }
        );
    }

    /// <summary>How fast a robot turns, robot deg/s; null where that cannot be known.</summary>
    /// <param name="input">What is looked at.</param>
    /// <param name="drive">Its drive.</param>
    /// <param name="turn">The command.</param>
    public static Pace? TurningRobot(CheckInput input, Mechanism drive, TurnRobotNode turn)
    {
        if (Fastest(input, turn.Speed, v => v.Unit == "robot deg/s" ? new(v.Value, Provenance.Chosen, "as written") : null) is { } said)
            return said;
        var track = (input.Moves.InUse(drive.Name, TrialKind.Turn) ?? drive.TrackWidthMm)?.Value ?? 0;
        // About the middle both wheels go round, about one wheel the other alone.
        return track > 0 && Rolling(input, drive, turn.Speed) is { } wheel
            ? wheel with
            {
                Value = wheel.Value * (turn.Pivoting == true ? 1 : 2) / track * 180 / Math.PI,
            }
            : null;
    }

    private static Pace Share(Quantity top, double share) => new(top.Value * share, top.Kind, top.Source);

    private static Pace? Fastest(CheckInput input, ExprNode speed, Func<WalkedValue, Pace?> of)
    {
        Pace? fastest = null;
        foreach (var value in input.Walk.Values(speed))
            if (of(value) is { } pace && Math.Abs(pace.Value) is > 0 and var size && size > (fastest?.Value ?? 0))
                fastest = pace with { Value = size };
        return fastest;
    }
}
