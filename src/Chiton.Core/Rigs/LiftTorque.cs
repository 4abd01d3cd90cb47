using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Rigs;

/// <summary>A weight on an arm.</summary>
/// <param name="MassG">Mass, g.</param>
/// <param name="ArmMm">From the joint to its middle along the level arm, mm; negative for a counterweight.</param>
public sealed record LiftPart(double? MassG, double? ArmMm);

/// <summary>Input of the sum <c>lift-torque</c>.</summary>
/// <param name="Parts">What the arm carries, itself included.</param>
/// <param name="MotorTorqueNmm">What one motor or servo can do, N·mm.</param>
/// <param name="Motors">How many act together; 1 when left out.</param>
/// <param name="MotorTurnsPerTurn">Motor turns for one turn of the joint; 1 when left out.</param>
/// <param name="EfficiencyPercent">What the gears pass on, %; 100 when left out.</param>
/// <param name="Share">Share of its torque that a motor should need at most, above 0 to 1; 0.5 when left out.</param>
public sealed record LiftTorqueInput(
    IReadOnlyList<LiftPart>? Parts,
    double? MotorTorqueNmm,
    double? Motors = null,
    double? MotorTurnsPerTurn = null,
    double? EfficiencyPercent = null,
    double? Share = null
);

/// <summary>Result of the sum <c>lift-torque</c>, with the arm level, where it is hardest.</summary>
/// <param name="NeededNmm">Torque at the joint, N·mm.</param>
/// <param name="AtMotorNmm">The same at the motors together, N·mm.</param>
/// <param name="LoadShare">Share of what the motors can do.</param>
/// <param name="MotorsNeeded">Motors so that each needs at most the share asked for.</param>
public sealed record LiftTorqueResult(double NeededNmm, double AtMotorNmm, double LoadShare, int MotorsNeeded);

/// <summary>Whether a motor can lift and hold.</summary>
public static class LiftTorque
{
    /// <summary>Most parts on one arm.</summary>
    public const int MostParts = 100;

    // Standard gravity, m/s².
    private const double Gravity = 9.80665;

    /// <summary>Computes the sum. Source: statics, the sum of m·g·arm about the joint.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range, or nothing has to be lifted.</exception>
    public static Answer<LiftTorqueResult> Compute(LiftTorqueInput input)
    {
        var need = new Require();
        var given = input.Parts ?? [];
        need.That(given.Count is >= 1 and <= MostParts, "parts", $"Give 1 to {MostParts} parts.");
        double torque = 0;
        var terms = new List<string>();
        for (var i = 0; i < Math.Min(given.Count, MostParts); i++)
        {
            var at = $"parts[{i}]";
            if (given[i] is not { } part)
            {
                need.That(false, at, "Give a part.");
                continue;
            }
            var mass = need.Number(part.MassG, $"{at}.massG", 0, 1e6);
            var arm = need.Number(part.ArmMm, $"{at}.armMm", -1e5, 1e5);
            torque += mass / 1000 * Gravity * arm;
            terms.Add($"{Show(mass / 1000)} × {Gravity} × {Show(arm)}");
        }
        var motor = need.Number(input.MotorTorqueNmm, "motorTorqueNmm", 0, 1e9, aboveMin: true);
        var motors = need.Whole(input.Motors ?? 1, "motors", 1, 100);
        var gear = need.Number(input.MotorTurnsPerTurn ?? 1, "motorTurnsPerTurn", 0, 1e5, aboveMin: true);
        var efficiency = need.Number(input.EfficiencyPercent ?? 100, "efficiencyPercent", 0, 100, aboveMin: true);
        var share = need.Number(input.Share ?? 0.5, "share", 0, 1, aboveMin: true);
        if (need.Holds)
            need.That(torque > 0, "parts", "Nothing is left to lift: the counterweights weigh as much or more. Turn the arm round.");
        need.Done();
        var atMotor = torque / (gear * efficiency / 100);
        var load = atMotor / (motors * motor);
        // The last bit of a division must not ask for one motor more.
        var needed = Math.Ceiling(atMotor / (share * motor) - 1e-9);
        if (!double.IsFinite(atMotor) || needed > 1e6)
            throw new InputProblem("motorTorqueNmm", "No reasonable number of these motors lifts that.");
        var (grade, say) =
            load <= 1.0 / 3 ? (Grade.Solid, "It lifts with ease")
            : load <= 0.5 ? (Grade.Workable, "It lifts")
            : load <= 0.8 ? (Grade.Fragile, "It lifts slowly, and a flat battery stops it")
            : (Grade.Unusable, "It stalls, or sinks while it should hold");
        var shown = string.Join(" + ", terms.Take(6)) + (terms.Count > 6 ? " + …" : "");
        return new(
            new(torque, atMotor, load, (int)needed),
            [
                new("Torque at the joint, arm level", shown, torque, "N·mm"),
                new("At the motor", $"{Show(torque)} / ({Show(gear)} × {Show(efficiency / 100)})", atMotor, "N·mm"),
                new("Share of what it can do", $"{Show(atMotor)} / ({motors} × {Show(motor)})", load, ""),
                new("Motors needed", $"{Show(atMotor)} / ({Show(share)} × {Show(motor)}), rounded up", needed, "motors"),
            ],
            [
                "If it must stay up without power, no torque does that: use a worm gear, a stop or a counterweight.",
                .. motors > 1 || needed > 1
                    ? ["Motors on one part are commanded as one, or they fight each other."]
                    : Array.Empty<string>(),
            ],
            new(grade, $"{say}: {Show(100 * load, 2)} % of the torque there is.")
        );
    }
}
