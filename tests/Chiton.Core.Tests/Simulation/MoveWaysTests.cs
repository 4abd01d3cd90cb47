using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Simulation;

/// <summary>Two ways to the same truth, of moves: wheels and what they turn, clicks, and where a move ends by time or by a
/// sensor.</summary>
public class MoveWaysTests
{
    private const string Floor = "floor 4 m by 4 m\nstart Drive at (2000, 2000) facing 0 robot deg\nends after 12 s\n";

    // How far each wheel turned, wheel deg, and where the robot stands: nothing is drawn.
    private static (double Left, double Right, double Way, double Turn, double Seconds) Driven(string main, double track = 120)
    {
        var plan = FloorBench.Plan(FloorBench.Rig(main, FarmBench.Sure(track, "mm")), Floor, false);
        var bench = new Bench(plan);
        bench.Start(1, 1);
        var stopped = 0L;
        while (bench.NowMicros < 12_000_000)
        {
            bench.Step(12_000_000);
            if (bench.MoverStates[plan.Drives[0].Left].Speed != 0 || bench.MoverStates[plan.Drives[0].Right].Speed != 0)
                stopped = bench.NowMicros;
        }
        double Wheel(int mover) => bench.MoverStates[mover].At / (Math.PI * 56) * 360;
        var d = bench.DriveStates[0];
        return (Wheel(plan.Drives[0].Left), Wheel(plan.Drives[0].Right), d.Travel, d.Heading * 180 / Math.PI, stopped * 1e-6);
    }

    private static string Once(string action) =>
        $"  state Go, initial\n    on entry: {action}\n    after 11 s: go Over\n  state Over, final\n";

    [Theory]
    [InlineData(850)]
    [InlineData(-240)]
    public void A_way_takes_the_wheels_as_many_degrees_as_wheel_travel_says(double mm)
    {
        var sum = WheelTravel.Compute(new(56, mm, null, 400)).Result;
        var (left, right, way, turn, seconds) = Driven(Once($"drive straight {mm} mm at {400.0 / 360 * Math.PI * 56:0.00} mm/s"));
        // A counted move errs by about 1 mm from one to the next.
        Assert.Equal(sum.WheelDeg, left, 2.5);
        Assert.Equal(sum.WheelDeg, right, 2.5);
        Assert.Equal(mm, way, 1.2);
        Assert.Equal(0, turn, 0.01);
        // Beside the way itself: the delay, the lag, and the ramp at the end.
        Assert.InRange(seconds, Math.Abs(sum.DurationS!.Value), Math.Abs(sum.DurationS.Value) + 0.35);
    }

    [Theory]
    [InlineData("spin", 135, "turn robot right 135 robot deg spinning at 20 %")]
    [InlineData("spin", -60, "turn robot left 60 robot deg spinning at 20 %")]
    [InlineData("pivot", -90, "turn robot left 90 robot deg pivoting at 20 %")]
    [InlineData("pivot", 90, "turn robot right 90 robot deg pivoting at 20 %")]
    public void A_turn_takes_each_wheel_as_far_as_turn_says(string style, double degrees, string action)
    {
        var sum = Turn.Compute(new(56, 118, degrees, style)).Result;
        var (left, right, _, turn, _) = Driven(Once(action), 118);
        Assert.Equal(degrees, turn, 0.9);
        // To a degree of the motor, and what it rolls on while it is told to stop.
        Assert.Equal(sum.LeftWheelDeg, left, 2.0);
        Assert.Equal(sum.RightWheelDeg, right, 2.0);
    }

    [Theory]
    [InlineData(300, -300)]
    [InlineData(300, 150)]
    [InlineData(-200, 0)]
    public void Two_wheels_turn_and_move_the_robot_as_wheel_way_says(double left, double right)
    {
        static string Run(string wheel, double deg) => deg == 0 ? "" : $"run {wheel} {deg} motor deg at {Math.Abs(deg) / 10:0} %";
        var (l, r, way, turn, _) = Driven(
            Once(string.Join("; ", new[] { Run("Left wheel", left), Run("Right wheel", right) }.Where(a => a != ""))),
            118
        );
        // Told so far, the wheels turned so far, and from that the sum says where the robot is.
        Assert.Equal(left, l, 2.5);
        Assert.Equal(right, r, 2.5);
        var sum = WheelWay.Compute(new(56, 118, l, r)).Result;
        Assert.Equal(sum.DistanceMm, way, 0.05);
        Assert.Equal(sum.TurnDeg, turn, 0.05);
    }

    // ---- clicks ----

    [Theory]
    [InlineData(54, true)]
    [InlineData(90, false)]
    public void Clicks_are_all_counted_below_the_speed_of_click_encoder_and_missed_above_it(int percent, bool all)
    {
        const string count =
            "  state Going, initial\n    while here: run Mast at {0} %\n    when Clicks is pressed: set clicks to clicks + 1; stay\n"
            + "    after 1.4 s: go Over\n\n  state Over, final\n    on entry: stop Mast and brake\n";
        var rig = FloorBench.Rig(string.Format(count, percent).Replace("{0}", $"{percent}")) with
        {
            Programs = [new("program Test\n\nvar clicks = 0\n\nregion Main\n" + string.Format(count, percent), [])],
        };
        rig = rig with
        {
            Sensors = [.. rig.Sensors, new("Clicks", SensorKind.ClickEncoder, 5, 1, ["up", "down"]) { ClicksPerTurn = 60, On = "Mast" }],
        };
        // Each level must last one reading of 5 ms: at most 1.67 turns a second, which is 600 motor deg/s; it runs at 486 and 810.
        var sum = ClickEncoder.Compute(new(60, 1, 56, 120, 5, 1)).Result;
        Assert.Equal(all, percent * 9.0 < sum.MaxWheelTurnsPerS * 360);
        var plan = FloorBench.Plan(rig, Floor, false);
        var report = BenchReport.Watch(plan, 1, 500);
        var turned = report.Bodies.First(b => b.Name == "Mast").X;
        var before = report.Events.Last(e => e.From == "Going" && e.To == "Over").TimeS;
        var went = turned[report.TimeS.ToList().FindIndex(t => t >= before)]!.Value - turned[0]!.Value;
        var counted = report.Events.Count(e => e.Sentence.Contains("Clicks is pressed", StringComparison.Ordinal));
        if (all)
            Assert.Equal(went / 360 * sum.ClicksPerWheelTurn, counted, 1.5);
        else
            Assert.True(counted < went / 360 * sum.ClicksPerWheelTurn * 0.9, $"{counted} of {went / 6:0} clicks");
    }

    // ---- where a move ends ----

    private static double Sd(IReadOnlyList<double> all) =>
        Math.Sqrt(all.Sum(x => (x - all.Average()) * (x - all.Average())) / (all.Count - 1));

    [Fact]
    public void A_timed_move_and_a_sensed_one_end_as_far_apart_as_move_end_says()
    {
        // Speed of the copy ± 3 %, braking ± 20 % of 2 000 mm/s².
        var motion = FarmBench.Motion(2000, 400, 21);
        double[] Ends(string main, int runs, Func<BenchReport, double> of)
        {
            var plan = FarmBench.Setup("program T\n\nregion Main\n" + main, motion, endsS: 8);
            // All but speed and braking as they usually are.
            var held = plan
                .Draws.Where(d => !d.Name.Contains("speed", StringComparison.Ordinal))
                .DistinctBy(d => d.Name)
                .ToDictionary(d => d.Name, d => d.Usual);
            return [.. Enumerable.Range(0, runs).Select(i => of(BenchReport.Watch(plan, RandomStream.SeedOfRun(5, i), 100, held: held)))];
        }
        const string timed =
            "  state Go, initial\n    while here: run Trolley at 50 %\n    after 2.4 s: go Stop\n\n  state Stop, final\n"
            + "    on entry: stop Trolley and brake\n";
        const string sensed =
            "  state Go, initial\n    while here: run Trolley at 50 %\n    when Tag eye becomes bed tag: go Stop\n\n  state Stop, final\n"
            + "    on entry: stop Trolley and brake\n";
        var plan = FarmBench.Setup("program T\n\nregion Main\n" + timed, motion, endsS: 8);
        var usual = plan.Draws.DistinctBy(d => d.Name).ToDictionary(d => d.Name, d => d.Usual);
        var run = BenchReport.Watch(plan, 1, 100, held: usual);
        var (speed, way) = (FarmBench.Speed(run).Max(), FarmBench.Way(run)[^1] - 100);
        // Braking differs by a fifth, and so does its way; a copy that is 3 % faster brakes over 6 % more.
        var brakes = speed * speed / 2 / 2000;
        var brakeSd = brakes * 0.2 * 1.05;
        const int runs = 500;
        var end = MoveEnd
            .Compute(new(way, speed, 3, 1, 0, brakeSd, 10, 0, Math.Sqrt(brakeSd * brakeSd + brakes * 0.06 * (brakes * 0.06))))
            .Result;
        // An SD of 500 ends is known to 1/√1000, 3.2 %; the timed way has a start of its own.
        Assert.InRange(Sd(Ends(timed, runs, r => FarmBench.Way(r)[^1])) / end.TimedSdMm, 0.86, 1.14);
        Assert.InRange(Sd(Ends(sensed, runs, r => r.Bodies.First(b => b.Kind == "vehicle").X[^1]!.Value)) / end.SensedSdMm, 0.84, 1.16);
    }
}
