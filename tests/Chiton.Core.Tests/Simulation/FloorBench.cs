using Chiton.Core.Motion;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Simulation;

/// <summary>A small robot with two wheels and a mast for tests of the bench alone; every number is sure unless a test makes it
/// not.</summary>
internal static class FloorBench
{
    public static Quantity Sure(double value, string unit = "") => FarmBench.Sure(value, unit);

    public static RigDesign Rig(string main, Quantity? track = null, string name = "Robot") =>
        new(
            name,
            "Saltmarsh Oyster Farm",
            [ControllerTemplates.Make("six sockets", "Deck box")],
            [
                new("Bumper", SensorKind.Touch, 10, 1, ["up", "down"]) { Mount = new(Sure(60, "mm")) },
                new("Start button", SensorKind.Button, 10, 1, ["up", "down"]),
            ],
            [
                new("Left wheel", ActuatorKind.RegulatedMotor),
                new("Right wheel", ActuatorKind.RegulatedMotor),
                new("Mast motor", ActuatorKind.RegulatedMotor),
                new("Lamp", ActuatorKind.Lamp),
            ]
        )
        {
            Mechanisms =
            [
                new("Drive", MechanismKind.TwoWheelDrive, ["Left wheel", "Right wheel"])
                {
                    WheelDiameterMm = Sure(56, "mm"),
                    TrackWidthMm = track ?? Sure(120, "mm"),
                },
                new("Mast", MechanismKind.Lift, ["Mast motor"])
                {
                    WheelDiameterMm = Sure(24, "mm"),
                    Travel = new(Sure(0, "motor deg"), Sure(1500, "motor deg")),
                },
            ],
            Outline = [new(60, -70), new(60, 70), new(-60, 70), new(-60, -70)],
            Programs = [new("program Test\n\nregion Main\n" + main, [])],
        };

    /// <summary>Jaws in front of the robot, by the name of their motor.</summary>
    public static Mechanism Jaws(string motor) =>
        new("Jaws", MechanismKind.Gripper, [motor])
        {
            Travel = new(Sure(0, "motor deg"), Sure(180, "motor deg")),
            Directions = [new("close", true), new("open", false)],
            TipAheadMm = Sure(120, "mm"),
        };

    private static readonly Dictionary<string, IReadOnlyList<Trial>> Untried = [];
    private static readonly Dictionary<string, AcceptedNumber> Unaccepted = [];

    public static BenchCopy Copy(RigDesign rig, IEnumerable<SensorCalibration>? calibrations = null) =>
        new(
            rig,
            new(rig, null, Untried, Unaccepted),
            (calibrations ?? []).ToDictionary(c => c.Sensor),
            new Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>>()
        );

    /// <summary>Readings of a sensor by zone: so many about a mean, evenly spread, so that mean and SD are just those.</summary>
    public static SensorCalibration Readings(RigDesign rig, string sensor, params (string Zone, double[] Mean, double Sd)[] zones)
    {
        var s = rig.Sensors.First(x => x.Name == sensor);
        // The last channel is taken in another order: no two of them rise together.
        double At(int k, int c) => Math.Sqrt(2) * Math.Cos(Math.PI * ((k * (c + 1) * 2 + 1) % 40) / 40);
        return new(
            sensor,
            s.SamplePeriodMs,
            s.Resolution,
            1,
            School.EqualRisk,
            1,
            [
                .. zones.Select(z => new ZoneReadings(
                    z.Zone,
                    [.. Enumerable.Range(0, 20).SelectMany(k => z.Mean.Select((m, c) => m + z.Sd * At(k, c)))]
                )),
            ]
        )
        {
            Unit = s.Facts.Unit,
            Low = s.Facts.From,
            High = s.Facts.To,
        };
    }

    public static BenchPlan Plan(
        RigDesign rig,
        string scene,
        bool draws = true,
        GuestFinder? guests = null,
        IEnumerable<SensorCalibration>? calibrations = null
    )
    {
        var parsed = RigPrograms.Of(rig)[0].Parsed;
        Assert.Empty(parsed.Diagnostics);
        var read = SceneParser.Parse("scene Test\n" + scene, rig);
        Assert.Empty(read.Diagnostics);
        return BenchPlan.Build(Copy(rig, calibrations), read.Scene, guests, new() { Draws = draws });
    }

    /// <summary>Share of runs that pass.</summary>
    public static double Rate(BenchPlan plan, int runs)
    {
        var passed = 0;
        Parallel.For(
            0,
            runs,
            () => new Bench(plan),
            (i, _, bench) =>
            {
                if (bench.Go(RandomStream.SeedOfRun(1, i)).Passed)
                    Interlocked.Increment(ref passed);
                return bench;
            },
            _ => { }
        );
        return (double)passed / runs;
    }

    public static (double X, double Y, double Heading) End(BenchReport report, string name = "Drive")
    {
        var b = report.Bodies.First(b => b.Name == name);
        return (b.X[^1]!.Value, b.Y[^1]!.Value, b.Heading[^1]!.Value);
    }
}
