using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;

namespace Chiton.Data.Demo;

/// <summary>
/// The Seed trolley of the Saltmarsh Oyster Farm: a rail trolley that counts bed tags and stops over the ordered bed. As
/// shipped it fails often, for two reasons that can be found: it is too fast for its tag, and it can count one tag twice.
/// </summary>
public static class SeedTrolley
{
    /// <summary>The rig's address.</summary>
    public const string Id = "seed-trolley";

    /// <summary>The program as shipped.</summary>
    public const string Script = """
        program Seed trolley

        # How fast it rolls.
        var cruise = 60 %
        # Bed tags passed so far.
        var beds = 0
        goal: stopped over bed 3 within 40 s

        region Main
          state Rolling, initial
            while here: run Trolley at cruise
            when Tag eye becomes bed tag: set beds to beds + 1; go Over tag
            after 30 s: go Lost

          state Over tag
            on entry: turn Lamp on
            while here: run Trolley at cruise
            when beds = 3: go Stopping
            # The tag is behind it once the eye is back on the sleepers.
            when Tag eye becomes sleepers: go Rolling
            on exit: turn Lamp off

          state Stopping
            on entry: stop Trolley and brake
            after 1.5 s: go Seeding

          state Seeding, final
            on entry: turn Lamp on; show "Bed 3"; tone 520 Hz for 0.4 s

          state Lost, final
            on entry: stop Trolley and coast; show "No bed found"

        """;

    /// <summary>The design.</summary>
    public static RigDesign Design { get; } =
        new(
            "Seed trolley",
            "Saltmarsh Oyster Farm",
            [ControllerTemplates.Make("six sockets", "Deck box")],
            [
                new("Tag eye", SensorKind.ReflectedLight, 10, 1, ["sleepers", "bed tag"])
                {
                    Lamp = OwnLamp.On,
                    SpotDiameterMm = new(8, "mm", Provenance.Measured, "seen on paper at mounting height", 0.2, 0, 0, 1),
                    Mount = new(
                        new(40, "mm", Provenance.Measured, "ruler", 0.5),
                        new(0, "mm", Provenance.Measured, "ruler", 0.5),
                        new(9, "mm", Provenance.Measured, "ruler", 0.3)
                    ),
                },
            ],
            [
                new("Trolley", ActuatorKind.PlainMotor),
                new("Lamp", ActuatorKind.Lamp),
                new("Horn", ActuatorKind.Sounder),
                new("Hopper", ActuatorKind.Servo),
            ]
        )
        {
            Wires =
            [
                new("Tag eye", "signal", "Deck box", "front 1"),
                new("Trolley", "drive", "Deck box", "back 1"),
                new("Lamp", "light", "Deck box", "front 2"),
                new("Horn", "sound", "Deck box", "side 1"),
                new("Hopper", "pulse", "Deck box", "side 2"),
            ],
            Mechanisms =
            [
                new("Seed trolley", MechanismKind.RailVehicle, ["Trolley"])
                {
                    LengthMm = new(120, "mm", Provenance.Measured, "ruler", 0.5, 0, 0, 1),
                    Directions = [new("on", true), new("back", false)],
                },
                new("Hopper flap", MechanismKind.Lid, ["Hopper"])
                {
                    Travel = new(Chosen(0, "deg"), Chosen(110, "deg"), PastEnd: PastEnd.Stalls),
                    Positions = ["level", "tipped"],
                },
            ],
            Outline = [new(0, -40), new(0, 40), new(-120, 40), new(-120, -40)],
            Rail = new(
                5200,
                "sleepers",
                [new("depot tag", new(9, "%", Provenance.Guessed, "typed in, never read", 0, 1.5, 12, 0, 100))],
                [
                    new("depot", "depot tag", 0, TagLength),
                    new("bed 1", "bed tag", 900, TagLength),
                    new("bed 2", "bed tag", 1600, TagLength),
                    new("bed 3", "bed tag", 2300, TagLength),
                    new("bed 4", "bed tag", 3400, TagLength),
                    new("bed 5", "bed tag", 4300, TagLength),
                ]
            ),
            Starts =
            [
                new("Seed trolley", new(80, "mm", Provenance.Measured, "10 placements by hand", 2, 6), Side: "just past the depot tag"),
            ],
            Programs = [new(Script, []) { Meaning = ProgramText.MeaningNow }],
            Walks = Scripts.WalksOf("Seed trolley"),
            Power = new(
                4,
                1.5,
                1800,
                2000,
                120,
                500,
                5,
                [
                    new("Tag eye", 1, 4, 6, 8, 22, 22, 1, "controller"),
                    new("Trolley", 1, 4, 9, 0, 350, 900, 0.7, "pack"),
                    new("Lamp", 1, 3, 6, 0, 60, 60, 0.2, "controller"),
                    new("Horn", 1, 3, 6, 0, 40, 40, 0.05, "controller"),
                    new("Hopper", 1, 4.8, 6.5, 6, 150, 280, 0.05, "controller"),
                ]
            ),
        };

    private static Quantity Chosen(double value, string unit) => new(value, unit, Provenance.Chosen, "chosen");

    private static Quantity TagLength => new(60, "mm", Provenance.Measured, "ruler", 0.3, 0, 0, 5);

    /// <summary>How a copy moves.</summary>
    /// <param name="fullSpeed">Speed at full power, mm/s.</param>
    /// <param name="brake">Braking, mm/s².</param>
    /// <param name="measured">False for a copy on which braking was never tried.</param>
    public static RailMotion Motion(double fullSpeed, double brake, bool measured) =>
        new(
            new(fullSpeed, "mm/s", Provenance.Measured, "6 timed rolls on this copy", 0.012 * fullSpeed, 0.012 * fullSpeed),
            new(14, "%", Provenance.Measured, "4 trials on this copy", 0.5, 0, 0, 1, 60),
            new(120, "ms", Provenance.Measured, "3 trials on this copy", 8, 0, 0, 5),
            new(2500, "mm/s²", Provenance.Measured, "3 trials on this copy", 120, 0, 0, 100),
            measured
                ? new(brake, "mm/s²", Provenance.Measured, "8 stops on this copy", 0.035 * brake, 0.09 * brake, 0, 100)
                : new(brake, "mm/s²", Provenance.Guessed, "taken over from copy 1, never tried here", 0, 0.09 * brake, 900, 100),
            new(420, "ms", Provenance.Guessed, "typed in, never tested", 0, 0, 400, 50),
            new(30, "ms", Provenance.Measured, "filmed, 5 stops", 2, 0, 0, 0),
            new(5.9, "V", Provenance.Measured, "read before 6 lessons", 0.12, 0, 0, 3),
            new(6, "V", Provenance.Chosen, "chosen by you"),
            new(0.6, "Ω", Provenance.Measured, "2 loads", 0.05, 0, 0, 0),
            new(0.9, "A", Provenance.Measured, "held still, 3 times", 0.03, 0, 0, 0.05),
            new(0.12, "A", Provenance.Measured, "meter", 0.005, 0, 0, 0),
            new(1.8, "Ah", Provenance.Guessed, "printed on the cells", 0, 0, 0.6, 0.2),
            new(26, "% per m/s", Provenance.Measured, "readings at rest and at two speeds", 1.5, 0, 0, 0)
        );

    /// <summary>What the simulated eye of a copy really sees: mean and SD over each surface. Nobody is told.</summary>
    /// <param name="copy">Copy number.</param>
    public static IReadOnlyDictionary<string, (double Mean, double Sd)> Truth(int copy) =>
        copy == 1
            ? new Dictionary<string, (double, double)>
            {
                ["sleepers"] = (22.2, 1.7),
                ["bed tag"] = (54.5, 7.6),
                ["depot tag"] = (9.2, 1.4),
            }
            : new Dictionary<string, (double, double)>
            {
                ["sleepers"] = (25.1, 1.9),
                ["bed tag"] = (58.0, 6.4),
                ["depot tag"] = (10.1, 1.5),
            };

    /// <summary>Readings as recorded before the lesson.</summary>
    /// <param name="copy">Copy number.</param>
    /// <param name="zone">Zone name.</param>
    public static double[] Recorded(int copy, string zone)
    {
        var (mean, sd) = Truth(copy)[zone];
        var noise = new RandomStream(zone == "sleepers" ? 71UL : 72UL, (uint)copy);
        return [.. Enumerable.Range(0, 40).Select(_ => Math.Clamp(Math.Round(mean + sd * noise.Normal()), 0, 100))];
    }

    /// <summary>The calibration a copy ships with.</summary>
    public static SensorCalibration Calibration(int copy) =>
        new(
            "Tag eye",
            10,
            1,
            1,
            copy == 1 ? School.Midpoint : School.EqualRisk,
            1,
            [new("sleepers", Recorded(copy, "sleepers")), new("bed tag", Recorded(copy, "bed tag"))]
        );
}
