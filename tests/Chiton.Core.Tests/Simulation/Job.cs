using Chiton.Core.Motion;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Simulation;

/// <summary>A rig with its programs, readings and found positions, to be tried in scenes: jobs that people give such machines.</summary>
internal sealed class Job
{
    private readonly List<Sensor> sensors = [];
    private readonly List<Actuator> actuators = [];
    private readonly List<Mechanism> mechanisms = [];
    private readonly List<ProgramText> programs = [];
    private readonly List<SensorCalibration> readings = [];
    private readonly Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> positions = [];
    private readonly List<string> controllers = ["Box"];

    private static readonly Dictionary<string, IReadOnlyList<Trial>> Untried = [];
    private static readonly Dictionary<string, AcceptedNumber> Unaccepted = [];

    public static Quantity Mm(double value) => FloorBench.Sure(value, "mm");

    public Job Button(string name) => With(new Sensor(name, SensorKind.Button, 10, 1, ["up", "down"]));

    public Job Touch(string name, double aheadMm) =>
        With(new Sensor(name, SensorKind.Touch, 10, 1, ["up", "down"]) { Mount = new(Mm(aheadMm)), On = "Drive" });

    public Job With(Sensor sensor)
    {
        sensors.Add(sensor);
        return this;
    }

    /// <summary>An eye that reads light, with readings of its zones evenly about a mean.</summary>
    public Job Eye(string name, double ahead, double right, Facing facing, params (string Zone, double Mean)[] zones) =>
        EyeOn(null, name, ahead, right, facing, zones);

    /// <summary>The same, on one of several vehicles.</summary>
    public Job EyeOn(string? on, string name, double ahead, double right, Facing facing, params (string Zone, double Mean)[] zones)
    {
        With(
            new Sensor(name, SensorKind.ReflectedLight, 10, 1, [.. zones.Select(z => z.Zone)])
            {
                Mount = new(Mm(ahead), Mm(right), Mm(8), facing),
                SpotDiameterMm = Mm(6),
                On = on,
            }
        );
        return Reads(name, 1, zones);
    }

    public Job Reads(string name, double sd, params (string Zone, double Mean)[] zones)
    {
        readings.Add(FloorBench.Readings(Rig(), name, [.. zones.Select(z => (z.Zone, new[] { z.Mean }, sd))]));
        return this;
    }

    /// <summary>A range sensor, by its bands.</summary>
    public Job Range(string name, double ahead, params (string Zone, double From, double To)[] bands) =>
        With(
            new Sensor(name, SensorKind.Distance, 30, 1, [.. bands.Select(b => b.Zone)])
            {
                Principle = RangePrinciple.Optical,
                Mount = new(Mm(ahead), Mm(0), Mm(40), Facing.Ahead),
                BeamHalfAngleDeg = FloorBench.Sure(3, "°"),
                BlindMm = Mm(0),
                ReachMm = Mm(2000),
                SilentReading = 0,
                Bands = [.. bands.Select(b => new Band(b.Zone, b.From, b.To))],
            }
        );

    public Job Motor(string name, ActuatorKind kind = ActuatorKind.RegulatedMotor)
    {
        actuators.Add(new(name, kind));
        return this;
    }

    public Job Drive()
    {
        Motor("Left wheel").Motor("Right wheel");
        mechanisms.Add(
            new("Drive", MechanismKind.TwoWheelDrive, ["Left wheel", "Right wheel"]) { WheelDiameterMm = Mm(56), TrackWidthMm = Mm(120) }
        );
        return this;
    }

    public Job Rail(string name, string motor)
    {
        Motor(motor, ActuatorKind.PlainMotor);
        mechanisms.Add(new(name, MechanismKind.RailVehicle, [motor]) { LengthMm = Mm(120) });
        return this;
    }

    /// <summary>A part that moves between two ends, with positions that were found there.</summary>
    public Job Part(
        string name,
        MechanismKind kind,
        ActuatorKind motor,
        double from,
        double to,
        params (string Position, double At)[] found
    )
    {
        Motor($"{name} motor", motor);
        var unit = motor == ActuatorKind.Servo ? "deg" : "motor deg";
        mechanisms.Add(
            new(name, kind, [$"{name} motor"])
            {
                Travel = new(FloorBench.Sure(from, unit), FloorBench.Sure(to, unit)),
                Positions = [.. found.Select(f => f.Position)],
                Directions = [new("out", true), new("back", false)],
                WheelDiameterMm = kind == MechanismKind.Lift ? Mm(24) : null,
            }
        );
        positions[name] = found.ToDictionary(f => f.Position, IReadOnlyList<double> (f) => [f.At, f.At]);
        return this;
    }

    public Job Program(string text)
    {
        programs.Add(new(text, []));
        return this;
    }

    /// <summary>A program on a controller of its own.</summary>
    public Job ProgramOn(string controller, string text)
    {
        if (!controllers.Contains(controller))
            controllers.Add(controller);
        programs.Add(new(text, []) { RunsOn = controller });
        return this;
    }

    private RigDesign Rig() =>
        new(
            "Job",
            "Saltmarsh Oyster Farm",
            [.. controllers.Select(c => ControllerTemplates.Make("six sockets", c))],
            [.. sensors],
            [.. actuators]
        )
        {
            Mechanisms = [.. mechanisms],
            Outline = [new(60, -70), new(60, 70), new(-60, 70), new(-60, -70)],
            Programs = [.. programs],
        };

    private BenchCopy Copy() => new(Rig(), new(Rig(), null, Untried, Unaccepted), readings.ToDictionary(r => r.Sensor), positions);

    private readonly Dictionary<string, Job> guests = [];

    /// <summary>Another rig that a scene may bring in by this name.</summary>
    public Job Meets(string rig, Job other)
    {
        guests[rig] = other;
        return this;
    }

    /// <summary>The plan of a scene; every line of it and of the programs must be readable.</summary>
    public BenchPlan Plan(string scene, bool draws = true)
    {
        var rig = Rig();
        foreach (var program in RigPrograms.Of(rig))
            Assert.Empty(program.Parsed.Diagnostics);
        var read = SceneParser.Parse("scene Job\n" + scene, rig);
        Assert.Empty(read.Diagnostics);
        var plan = BenchPlan.Build(Copy(), read.Scene, (name, _) => guests.GetValueOrDefault(name)?.Copy(), new() { Draws = draws });
        Assert.All(plan.Rules, r => Assert.Null(r.Unjudged));
        return plan;
    }

    /// <summary>Share of runs that pass.</summary>
    public double Rate(string scene, int runs = 60) => FloorBench.Rate(Plan(scene), runs);
}
