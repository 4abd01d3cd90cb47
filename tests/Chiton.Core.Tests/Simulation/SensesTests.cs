using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Tests.Simulation;

/// <summary>Eyes, switches and distances in runs: what they see, and that runs and readings that are taken follow one model.</summary>
public class SensesTests
{
    private static Quantity Sure(double value, string unit = "") => FarmBench.Sure(value, unit);

    private static RigDesign Rig(string main, params Sensor[] more)
    {
        var rig = FloorBench.Rig(main);
        return rig with
        {
            Sensors = [.. rig.Sensors, .. more],
            Actuators = [.. rig.Actuators, new("Jaw motor", ActuatorKind.RegulatedMotor)],
            Mechanisms = [.. rig.Mechanisms, FloorBench.Jaws("Jaw motor")],
        };
    }

    private static Mount Mount(Facing facing, double height = 20) => new(Sure(62, "mm"), Sure(0, "mm"), Sure(height, "mm"), facing);

    private static Sensor Eye(SensorKind kind, Facing facing, params string[] zones) =>
        new("Card eye", kind, 20, 1, [.. zones]) { Mount = Mount(facing), SpotDiameterMm = Sure(10, "mm") };

    private const string Wait = "  state Still, initial\n    after 1 s: go Later\n  state Later\n";
    private const string Start = "start Drive at (500, 500) facing 0 robot deg\n";

    private static SensorTrace Trace(RigDesign rig, string scene, params SensorCalibration[] calibrations) =>
        BenchReport
            .Watch(FloorBench.Plan(rig, scene, true, null, calibrations), 3, 50)
            .Sensors.First(s => s.Sensor is "Card eye" or "Range" or "Feeler");

    // Every reading of a sensor as the bench gives it: of a colour its red, of a colour word its number.
    private sealed class Listener(int sense) : IBenchWatcher
    {
        public List<double> Heard { get; } = [];

        public void Read(long micros, int of, double reading, int zone)
        {
            if (of == sense)
                Heard.Add(reading);
        }

        public void Starting(Bench bench) { }

        public void Taken(long micros, int program, int step) { }

        public void Commanded(long micros, int program, ScriptCommand command) { }

        public void Happened(long micros, int happening, bool began) { }

        public void Noted(long micros, string say, double x, double y) { }

        public void Stepped(long micros) { }
    }

    private static IReadOnlyList<double> Heard(RigDesign rig, string scene, params SensorCalibration[] calibrations)
    {
        var plan = FloorBench.Plan(rig, scene, true, null, calibrations);
        var ears = new Listener(plan.Senses.ToList().FindIndex(s => s.Name == "Card eye"));
        new Bench(plan).Go(3, false, ears);
        return ears.Heard;
    }

    [Fact]
    public void A_colour_eye_over_the_edge_of_a_patch_sees_as_much_of_both_as_its_spot_covers()
    {
        var rig = Rig(Wait, Eye(SensorKind.Colour, Facing.Down, "sand", "red"));
        var card = FloorBench.Readings(rig, "Card eye", ("sand", [120, 110, 90], 2), ("red", [180, 40, 45], 2));
        // Its middle stands at y 562; a patch whose edge lies 2.5 mm above it covers 19.6 % of a disc of 10 mm: by hand, the segment.
        var scene = $"floor 1 m by 1 m of sand\npatch mark of red 200 by 200 mm at (500, 664.5)\n{Start}ends after 20 s\n";
        var red = Heard(rig, scene, card);
        var share = (Math.Acos(0.5) - 0.5 * Math.Sqrt(0.75)) / Math.PI;
        Assert.Equal(0.1955, share, 0.0001);
        // 1 000 readings of SD 2 know a mean to 0.07; a rounded reading adds no more.
        Assert.Equal(120 + share * 60, red.Average(), 1.3);
        Assert.True(red.Count > 900);
    }

    [Theory]
    [InlineData(90, "red")]
    [InlineData(130, "sand")]
    public void An_eye_that_looks_ahead_sees_what_stands_close_before_it(double ahead, string zone)
    {
        foreach (var kind in new[] { SensorKind.Colour, SensorKind.ReflectedLight })
        {
            var rig = Rig(Wait, Eye(kind, Facing.Ahead, "sand", "red"));
            var card =
                kind == SensorKind.Colour
                    ? FloorBench.Readings(rig, "Card eye", ("sand", [120, 110, 90], 2), ("red", [180, 40, 45], 2))
                    : FloorBench.Readings(rig, "Card eye", ("sand", [30], 1), ("red", [60], 1));
            var trace = Trace(
                rig,
                $"floor 1 m by 1 m\nthing post round 20 mm of red at (500, {500 + ahead + 10})\n{Start}ends after 3 s\n",
                card
            );
            Assert.All(trace.Zones.Skip(8), z => Assert.Equal(zone, z));
        }
    }

    [Fact]
    public void A_sensor_of_colour_words_says_over_a_surface_what_it_said_when_it_was_taken()
    {
        var rig = Rig(Wait, Eye(SensorKind.ColourName, Facing.Down, "sand", "tag"));
        int Word(string w) => SenseJudge.ColourWords.ToList().IndexOf(w);
        double[] Said(params (string Word, int Times)[] words) =>
            [.. words.SelectMany(w => Enumerable.Repeat((double)Word(w.Word), w.Times))];
        var taken = new SensorCalibration(
            "Card eye",
            20,
            1,
            1,
            School.EqualRisk,
            1,
            [new("sand", Said(("yellow", 18), ("white", 2))), new("tag", Said(("red", 16), ("brown", 4)))]
        );
        var scene = $"floor 1 m by 1 m of sand\npatch mark of tag 200 by 200 mm at (500, 600)\n{Start}ends after 40 s\n";
        var words = Heard(rig, scene, taken);
        var brown = words.Count(r => r == Word("brown")) / (double)words.Count;
        // 2 000 readings: a share of 0.2 to 0.009.
        Assert.Equal(0.2, brown, 0.04);
        Assert.Equal(words.Count, words.Count(r => r == Word("brown") || r == Word("red")));
        Assert.All(Trace(rig, scene, taken).Zones.Skip(1), z => Assert.Equal("tag", z));
    }

    [Fact]
    public void A_touch_in_the_jaws_is_down_while_they_hold_something()
    {
        var rig = Rig(
            "  state Closing, initial\n    while here: run Jaws close at 40 %\n"
                + "    when Feeler is down: go Holding\n    after 4 s: go Empty\n"
                + "  state Holding\n  state Empty\n",
            new Sensor("Feeler", SensorKind.Touch, 10, 1, ["up", "down"]) { On = "Jaws" }
        );
        string Ends(string scene) =>
            BenchReport.Watch(FloorBench.Plan(rig, scene + Start + "ends after 6 s\n", false), 1, 50).Events[^1].To;
        Assert.Equal("Holding", Ends("floor 1 m by 1 m\nthing buoy round 30 mm at (500, 600)\n"));
        Assert.Equal("Empty", Ends("floor 1 m by 1 m\nthing buoy round 30 mm at (600, 600)\n"));
    }

    [Fact]
    public void A_contact_flickers_for_a_moment_when_it_closes_and_never_while_it_rests()
    {
        var rig = Rig(Wait, new Sensor("Feeler", SensorKind.Touch, 5, 1, ["up", "down"]));
        var flickers = 0;
        for (var seed = 0; seed < 60; seed++)
        {
            var report = BenchReport.Watch(
                FloorBench.Plan(rig, $"floor 1 m by 1 m\n{Start}person holds Feeler for 10 s at 1 s\nends after 3 s\n"),
                seed,
                50
            );
            var trace = report.Sensors.First(s => s.Sensor == "Feeler");
            var changes = Enumerable.Range(0, trace.TimeS.Count).Where(k => k == 0 || trace.Readings[k] != trace.Readings[k - 1]).ToArray();
            Assert.All(changes.Where(k => trace.TimeS[k] > 0.5), k => Assert.InRange(trace.TimeS[k], 0.9, 1.4));
            Assert.Equal(1, trace.Readings[^1]);
            if (changes.Count(k => trace.TimeS[k] > 0.5) > 1)
                flickers++;
        }
        // One to five of them at 35 of 100: most presses flicker.
        Assert.InRange(flickers, 20, 55);
    }

    [Fact]
    public void In_its_blind_zone_a_range_sensor_answers_alike_in_runs_and_when_readings_are_taken()
    {
        var range = new Sensor("Range", SensorKind.Distance, 20, 1, ["near", "far"])
        {
            Mount = Mount(Facing.Ahead),
            BlindMm = Sure(40, "mm"),
            ReachMm = Sure(900, "mm"),
            SilentReading = 0,
            Bands = [new("near", 40, 100), new("far", 100, 900)],
        };
        var rig = Rig(Wait, range);
        var run = Trace(rig, $"floor 1 m by 1 m\nhand 20 mm before Range\n{Start}ends after 20 s\n")
            .Readings.Select(r => r!.Value)
            .ToArray();
        var taken = new double[run.Length];
        var held = new SimulatedSensor(range, new("board", 0, 2, PerAmount: 1), 20, BenchCare.AsItIs, new(4, 4));
        for (var k = 0; k < taken.Length; k++)
            held.Read(taken.AsSpan(k, 1));
        // Anything from one to two blind distances: a mean of 60, an SD of 40 / √12.
        foreach (var readings in new[] { run, taken })
        {
            Assert.Equal(60, readings.Average(), 1.5);
            Assert.Equal(40 / Math.Sqrt(12), Math.Sqrt(readings.Sum(r => (r - 60) * (r - 60)) / readings.Length), 1.0);
        }
    }

    [Fact]
    public void Shade_and_lamps_change_a_colour_as_they_change_light()
    {
        var rig = Rig(Wait, Eye(SensorKind.Colour, Facing.Down, "sand", "red"));
        var card = FloorBench.Readings(rig, "Card eye", ("sand", [120, 110, 90], 2), ("red", [180, 40, 45], 2));
        double Red(string more) => Heard(rig, $"floor 1 m by 1 m of sand\n{more}{Start}ends after 10 s\n", card).Average();
        Assert.Equal(120, Red(""), 0.5);
        Assert.Equal(108, Red("shade 400 by 400 mm at (500, 500): Card eye falls by 10 %\n"), 0.5);
        Assert.Equal(132, Red("light rises by 10 % on Card eye at 0 s\n"), 0.7);
    }

    [Fact]
    public void What_an_eye_knows_nothing_of_is_looked_past_and_the_run_says_so()
    {
        var rig = Rig(Wait, Eye(SensorKind.ReflectedLight, Facing.Ahead, "sand", "red"));
        var plan = FloorBench.Plan(
            rig,
            $"floor 1 m by 1 m\nthing post round 20 mm of weed at (500, 600)\n{Start}ends after 2 s\n",
            true,
            null,
            [FloorBench.Readings(rig, "Card eye", ("sand", [30], 1), ("red", [60], 1))]
        );
        const string Weed = "Card eye knows nothing of “weed”";
        Assert.Contains(plan.Findings, n => n.Line == 3 && n.Say.StartsWith(Weed, StringComparison.Ordinal));
    }
}
