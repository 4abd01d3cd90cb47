using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Motion;

/// <summary>Rigs that move, for tests.</summary>
internal static class MoveRigs
{
    private static Quantity Measured(double value, string unit, double sd, double move = 0, double min = 0) =>
        new(value, unit, Provenance.Measured, "by hand", sd, move, 0, min);

    private static Actuator Motor(string name) => new(name, ActuatorKind.RegulatedMotor);

    public static RigDesign Scrubber { get; } =
        new("Scrubber", "Farm", [], [], [Motor("Left"), Motor("Right")])
        {
            Mechanisms =
            [
                new("Drive", MechanismKind.TwoWheelDrive, ["Left", "Right"])
                {
                    WheelDiameterMm = Measured(56.4, "mm", 0.15),
                    TrackWidthMm = new(118, "mm", Provenance.Guessed, "typed in", 0, 0, 14, 1),
                    MotorTurnsPerTurn = new(1, "", Provenance.Chosen, ""),
                },
            ],
        };

    public static RigDesign Trolley { get; } =
        new("Trolley", "Farm", [], [], [new("Roller", ActuatorKind.PlainMotor)])
        {
            Mechanisms = [new("Trolley", MechanismKind.RailVehicle, ["Roller"])],
            Rail = new(5000, "sleepers", [], [new("bed 1", "tag", 900, Measured(60, "mm", 0.3))]),
        };

    public static RailMotion Rolls(bool brakeMeasured = true)
    {
        Quantity Q(double value, string unit, double sd = 0, double min = 0) => Measured(value, unit, sd, 0, min);
        return new(
            Q(785, "mm/s", 9),
            Q(14, "%", 0.5, 1),
            Q(120, "ms", 8),
            Q(2500, "mm/s²", 120),
            brakeMeasured ? Q(2200, "mm/s²", 77, 100) : new(2200, "mm/s²", Provenance.Guessed, "typed in", 0, 0, 900, 100),
            Q(420, "ms"),
            Q(30, "ms"),
            Q(5.9, "V", 0.12),
            Q(6, "V"),
            Q(0.6, "Ω", 0.05),
            Q(0.9, "A"),
            Q(0.12, "A"),
            Q(1.8, "Ah"),
            Q(26, "% per m/s")
        );
    }

    public static RigDesign Picker { get; } =
        new("Picker", "Farm", [], [], [Motor("Jaw motor"), Motor("Mast motor"), new("Arm servo", ActuatorKind.Servo)])
        {
            Mechanisms =
            [
                new("Jaws", MechanismKind.Gripper, ["Jaw motor"])
                {
                    Travel = new(
                        Measured(0, "motor deg", 3, 4, -1e6),
                        Measured(185, "motor deg", 3, 4),
                        PastEnd: PastEnd.OverCentre,
                        OverCentre: Measured(162, "motor deg", 3)
                    ),
                },
                new("Mast", MechanismKind.Lift, ["Mast motor"])
                {
                    Travel = new(
                        Measured(0, "motor deg", 2, 3, -1e6),
                        Measured(1640, "motor deg", 6, 8),
                        HomeEnd.From,
                        "Foot switch",
                        PastEnd.ComesApart
                    ),
                    WheelDiameterMm = Measured(24, "mm", 0.1),
                    MotorTurnsPerTurn = new(3, "", Provenance.Chosen, ""),
                },
                new("Arm", MechanismKind.Lid, ["Arm servo"])
                {
                    Travel = new(new(0, "deg", Provenance.Chosen, ""), new(180, "deg", Provenance.Chosen, "")),
                },
            ],
        };
}
