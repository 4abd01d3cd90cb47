using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation;

/// <summary>Finds the angle of a position by hand on the simulated bench.</summary>
public static class PositionBench
{
    /// <summary>SD with which a hand holds a part and gears give it back, motor degrees.</summary>
    public const double HandSdDeg = 1.8;

    /// <summary>The angle that was read on a table and typed: of a servo deg, of others motor deg.</summary>
    /// <exception cref="InputProblem">When its motor does not know its angle, or the angle cannot be one of it.</exception>
    public static double Typed(Mechanism m, Actuator? motor, double? angleDeg)
    {
        var need = new Require();
        need.That(
            motor?.Kind is ActuatorKind.Servo or ActuatorKind.RegulatedMotor or ActuatorKind.Stepper,
            "mechanism",
            $"{m.Name} is moved by a motor that does not know its angle, so no position can be read."
        );
        var angle =
            motor?.Kind == ActuatorKind.Servo ? need.Number(angleDeg, "angleDeg", 0, 180) : need.Number(angleDeg, "angleDeg", -1e6, 1e6);
        need.Done();
        return angle;
    }

    /// <summary>The angle read: of a servo the one that it is set to, deg; of others where the hand holds the part, motor deg.</summary>
    /// <param name="m">The mechanism.</param>
    /// <param name="motor">What moves it; null when nothing does.</param>
    /// <param name="angleDeg">For a servo: the angle, 0 to 180.</param>
    /// <param name="handPercent">For others: where the hand holds it, 0 to 100 % of its travel.</param>
    /// <param name="seed">Luck of the hand.</param>
    /// <exception cref="InputProblem">When its motor does not know its angle, or a field is out of its range.</exception>
    public static double Angle(Mechanism m, Actuator? motor, double? angleDeg, double? handPercent, ulong seed)
    {
        var need = new Require();
        if (motor?.Kind == ActuatorKind.Servo)
        {
            var set = need.Number(angleDeg, "angleDeg", 0, 180);
            need.Done();
            return set;
        }
        need.That(
            motor?.Kind is ActuatorKind.RegulatedMotor or ActuatorKind.Stepper,
            "mechanism",
            $"{m.Name} is moved by a motor that does not know its angle, so no position can be read."
        );
        need.That(m.Travel is not null, "mechanism", $"Say first how far {m.Name} goes.");
        var hand = need.Number(handPercent, "handPercent", 0, 100);
        need.Done();
        var (from, to) = (m.Travel!.From.Value, m.Travel.To.Value);
        return Math.Round(from + hand / 100 * (to - from) + HandSdDeg * new RandomStream(seed, 3).Normal());
    }
}
