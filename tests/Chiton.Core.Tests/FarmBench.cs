using Chiton.Core.Motion;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests;

/// <summary>A small trolley of the farm for tests of the core alone: quiet numbers unless a test makes them noisy.</summary>
internal static class FarmBench
{
    public static Quantity Sure(double value, string unit = "") => new(value, unit, Provenance.Chosen, "chosen for the test");

    public static RigDesign Rig(string script = "program Test\n", double startMm = 100) =>
        new(
            "Test trolley",
            "Saltmarsh Oyster Farm",
            [ControllerTemplates.Make("six sockets", "Deck box")],
            [
                new("Tag eye", SensorKind.ReflectedLight, 10, 1, ["sleepers", "bed tag"])
                {
                    SpotDiameterMm = Sure(8, "mm"),
                    Mount = new(Sure(0, "mm")),
                },
            ],
            [new("Trolley", ActuatorKind.PlainMotor), new("Lamp", ActuatorKind.Lamp)]
        )
        {
            Mechanisms = [new("Test trolley", MechanismKind.RailVehicle, ["Trolley"]) { LengthMm = Sure(120, "mm") }],
            Rail = new(4000, "sleepers", [], [new("bed 1", "bed tag", 800, Sure(60, "mm")), new("bed 2", "bed tag", 1600, Sure(60, "mm"))]),
            Starts = [new("Test trolley", Sure(startMm, "mm"))],
            Programs = [new(script, [])],
        };

    public static RailMotion Motion(double brake = 2000, double brakeSd = 0, double speedSd = 0) =>
        new(
            Sure(700) with
            {
                Kind = Provenance.Measured,
                MeanSd = speedSd,
            },
            Sure(10),
            Sure(100),
            Sure(3000),
            Sure(brake) with
            {
                Kind = Provenance.Measured,
                MoveSd = brakeSd,
            },
            Sure(400),
            Sure(30),
            Sure(6),
            Sure(6),
            Sure(0.4),
            Sure(0.8),
            Sure(0.1),
            Sure(2),
            Sure(0)
        );

    public static readonly double[] Sleepers = [21, 23, 22, 24, 20, 22, 23, 21, 25, 22];
    public static readonly double[] Tag = [58, 61, 55, 63, 60, 57, 59, 62, 56, 60];

    public static Dictionary<string, SensorCalibration> Calibrations(double[]? sleepers = null, double[]? tag = null) =>
        new()
        {
            ["Tag eye"] = new(
                "Tag eye",
                10,
                1,
                1,
                School.EqualRisk,
                1,
                [new("sleepers", sleepers ?? Sleepers), new("bed tag", tag ?? Tag)]
            ),
        };

    public static readonly Vocabulary Words = Vocabulary.Of(Rig());

    public static ProgramNode Parse(string script)
    {
        var parsed = ScriptParser.Parse(script, Words);
        Assert.Empty(parsed.Diagnostics);
        return parsed.Program;
    }

    private static readonly Dictionary<string, IReadOnlyList<Trial>> Untried = [];
    private static readonly Dictionary<string, AcceptedNumber> Unaccepted = [];
    private static readonly Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> Unfound = [];

    /// <summary>The trolley on its rail with a program, ready to run.</summary>
    public static BenchPlan Setup(
        string script,
        RailMotion? motion = null,
        Dictionary<string, SensorCalibration>? calibrations = null,
        double startMm = 100,
        double endsS = 60,
        string more = "",
        BenchModel? model = null,
        CopyMoves? moves = null
    )
    {
        Parse(script);
        var rig = Rig(script, startMm);
        var scene = SceneParser.Parse(
            SceneStarts.Usual(rig).Text.Replace("scene The rail\n", $"scene The rail\nends after {Math.Max(0.001, endsS)} s\n") + more,
            rig
        );
        Assert.Empty(scene.Diagnostics);
        return BenchPlan.Build(
            new(rig, moves ?? new(rig, motion ?? Motion(), Untried, Unaccepted), calibrations ?? Calibrations(), Unfound),
            scene.Scene,
            null,
            model
        );
    }

    /// <summary>How far the vehicle has come at each sample, mm, from where it was put down; not wrapped.</summary>
    public static IReadOnlyList<double> Way(BenchReport report)
    {
        var at = report.Bodies.First(b => b.Kind == "vehicle").X;
        var way = new List<double> { at[0]!.Value };
        for (var i = 1; i < at.Count; i++)
        {
            var step = at[i]!.Value - at[i - 1]!.Value;
            way.Add(way[^1] + step - Math.Round(step / 4000) * 4000);
        }
        return way;
    }

    public static IReadOnlyList<double> Speed(BenchReport report) => report.Bodies.First(b => b.Kind == "vehicle").Speed;

    public const string StopAtSecond = """
        program Stop at the second

        var beds = 0
        goal: stopped over bed 2 within 20 s

        region Main
          state Rolling, initial
            while here: run Trolley at 50 %
            when Tag eye becomes bed tag: set beds to beds + 1; stay
            when beds = 2: go Stopping

          state Stopping, final
            on entry: stop Trolley and brake

        """;
}
