using Chiton.Core.Motion;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Data.Demo;

/// <summary>The demo rigs on the bench without a database, for tests and benchmarks.</summary>
public static class DemoBench
{
    private static readonly Dictionary<string, IReadOnlyList<Trial>> Untried = [];
    private static readonly Dictionary<string, AcceptedNumber> Unaccepted = [];

    /// <summary>What is known of a copy as it ships.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="number">Copy number.</param>
    /// <param name="design">The design where it is another one than the rig's; null for that.</param>
    /// <param name="accepted">What trials found, by the key of their motion; null for nothing.</param>
    public static BenchCopy Copy(
        DemoRig rig,
        int number,
        RigDesign? design = null,
        IReadOnlyDictionary<string, AcceptedNumber>? accepted = null
    )
    {
        var own = design ?? rig.Design;
        var copy = rig.Copies.First(c => c.Number == number);
        var calibrations = new Dictionary<string, SensorCalibration>();
        var positions = new Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>>();
        foreach (var file in copy.Calibrations)
            if (own.Sensors.FirstOrDefault(s => s.Name == file.Sensor) is { } sensor)
                calibrations[sensor.Name] = new SensorCalibration(
                    sensor.Name,
                    sensor.SamplePeriodMs,
                    sensor.Resolution,
                    file.MaxFalsePerHour,
                    file.School,
                    file.CostRatio,
                    [
                        .. sensor.Zones.Select(z => new ZoneReadings(
                            z,
                            [.. file.Recordings.Where(r => r.Zone == z).SelectMany(r => r.Readings)]
                        )),
                    ]
                )
                {
                    Unit = sensor.Facts.Unit,
                    Low = sensor.Facts.From,
                    High = sensor.Facts.To,
                };
            else
                positions[file.Sensor] = file
                    .Recordings.GroupBy(r => r.Zone)
                    .ToDictionary(g => g.Key, IReadOnlyList<double> (g) => [.. g.SelectMany(r => r.Readings)]);
        var moves = new CopyMoves(own, copy.Motion ?? RailMotion.Usual(own), Untried, accepted ?? Unaccepted);
        return new(own, moves, calibrations, positions);
    }

    /// <summary>A demo rig in one of its scenes.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="scene">Which of its scenes, from 0.</param>
    /// <param name="number">Copy number.</param>
    /// <param name="script">Another text for its first program; null for its own.</param>
    /// <param name="model">Changes of the model; null for none.</param>
    /// <param name="plays">True for one to play with.</param>
    public static BenchPlan Plan(
        string id,
        int scene = 0,
        int number = 1,
        string? script = null,
        BenchModel? model = null,
        bool plays = false
    )
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var design = script is null ? rig.Design : rig.Design.WithProgram(0, rig.Design.Programs[0] with { Script = script });
        return BenchPlan.Build(Copy(rig, number, design), SceneParser.Parse(design.Scenes[scene].Text, design).Scene, null, model, plays);
    }

    /// <summary>The first copy of a demo rig with cures applied, in one of its scenes.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="cures">What is applied, in this order.</param>
    /// <param name="scene">Which of its scenes, from 0.</param>
    public static BenchPlan Mended(string id, IEnumerable<Cure> cures, int scene = 0)
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var design = rig.Design;
        var accepted = new Dictionary<string, AcceptedNumber>();
        foreach (var cure in cures)
        {
            design = cure.On(design);
            foreach (var (key, number) in cure.Trials)
                accepted[key] = number;
        }
        return BenchPlan.Build(Copy(rig, 1, design, accepted), SceneParser.Parse(design.Scenes[scene].Text, design).Scene);
    }
}
