using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Simulation;

/// <summary>
/// Two ways to the same truth: each sum that says how something moves or is noticed, against runs of the bench that know nothing of it.
/// Numbers of the copy are held at what they usually are; phases, noise and what differs from move to move are drawn.
/// </summary>
public class TwoWaysTests
{
    private static Quantity Sure(double value, string unit = "") => FarmBench.Sure(value, unit);

    private static Dictionary<string, double> Usual(BenchPlan plan) =>
        plan.Draws.DistinctBy(d => d.Name).ToDictionary(d => d.Name, d => d.Usual);

    private static IEnumerable<BenchReport> Runs(BenchPlan plan, int runs, double rateHz = 5)
    {
        var held = Usual(plan);
        // Where it is put down and what comes differs from run to run all the same.
        foreach (var d in plan.Draws.Where(d => d.To is not null || d.Name.Contains("put down", StringComparison.Ordinal)))
            held.Remove(d.Name);
        return Enumerable
            .Range(0, runs)
            .Select(i => BenchReport.Watch(plan, RandomStream.SeedOfRun(21, i), rateHz, default, Draws.BestCopy, held));
    }

    private static double Usual(BenchPlan plan, string name) => plan.Draws.First(d => d.Name == name).Usual;

    // ---- markers ----

    [Theory]
    [InlineData(40, 2)]
    [InlineData(60, 3)]
    public void After_a_marker_it_comes_to_rest_where_marker_pass_says(double percent, int readings)
    {
        var script =
            "program T\n\nregion Main\n  state Rolling, initial\n    while here: run Trolley at "
            + $"{percent} %\n    when Tag eye becomes bed tag for {readings} readings: go Stopping\n\n  state Stopping, final\n"
            + "    on entry: stop Trolley and brake\n";
        var motion = FarmBench.Motion();
        var plan = FarmBench.Setup(script, motion, endsS: 8);
        double[] rest = [.. Runs(plan, 150).Select(r => r.Bodies.First(b => b.Kind == "vehicle").X[^1]!.Value - 800)];
        var speed = FarmBench.Speed(BenchReport.Watch(plan, 1, 200, held: Usual(plan))).Max();
        // The two zones are as wide as each other nearly, so the eye turns when the middle of its spot crosses the edge: a spot of none.
        var sum = MarkerPass.Compute(new(60, 0, 10, readings, speed, motion.ActuatorDelayMs.Value, motion.BrakeDecelMmPerS2.Value)).Result;
        Assert.All(rest, r => Assert.InRange(r, sum.RestLowMm!.Value - 1, sum.RestHighMm!.Value + 1));
        // Wherever in a sample the edge falls, all of the range is met; noise at the edge and the stop itself add little.
        Assert.InRange(rest.Max() - rest.Min(), 0.85 * speed * 0.01, speed * 0.01 + 2);
    }

    // ---- a robot with a range sensor, or with two eyes over a drop ----

    private static RigDesign Robot(string main, params Sensor[] more)
    {
        var rig = FloorBench.Rig(main);
        return rig with { Sensors = [.. rig.Sensors, .. more] };
    }

    private static Sensor Range(double ahead, double halfDeg, double near, int period = 30) =>
        new("Range", SensorKind.Distance, period, 0, ["near", "far"])
        {
            Principle = RangePrinciple.Optical,
            Mount = new(Sure(ahead, "mm"), Sure(0, "mm"), Sure(40, "mm"), Facing.Ahead),
            BeamHalfAngleDeg = Sure(halfDeg, "°"),
            BlindMm = Sure(0, "mm"),
            ReachMm = Sure(2000, "mm"),
            SilentReading = 0,
            Bands = [new("near", 1, near), new("far", near, 2000)],
        };

    [Theory]
    [InlineData(45, 2)]
    [InlineData(90, 1)]
    public void A_search_notices_its_target_as_far_before_facing_it_as_sweep_says(double rate, int readings)
    {
        var rig = Robot(
            $"  state Looking, initial\n    while here: turn robot right spinning at {rate} robot deg/s\n"
                + $"    when Range < 500 mm for {readings} readings: go Found\n\n  state Found, final\n"
                + "    on entry: stop Drive and brake\n",
            Range(0, 12, 500)
        ) with
        {
            // Nothing of itself stands before the sensor that sits over its axle.
            Outline = [new(-1, -70), new(-1, 70), new(-60, 70), new(-60, -70)],
        };
        var plan = FloorBench.Plan(
            rig,
            "floor 4 m by 4 m\nthing target round 70 mm at (1000, 1315), fixed\n"
                + "start Drive at (1000, 1000) facing -75 robot deg give or take 0 mm and 8 robot deg\nends after 6 s\n"
        );
        double[] before = [.. Runs(plan, 200).Select(r => -FloorBench.End(r).Heading)];
        var delay = Usual(plan, "delay of Drive");
        // By the wheels: so fast, and so quickly to rest; all as turns of a track of 120.
        var wheel = rate * Math.PI / 180 * 60;
        var braking = wheel * wheel / (2 * Usual(plan, "braking of Drive")) / 60 * 180 / Math.PI;
        // Of a post the beam meets the edge where a tangent touches it: it looks 2 r tan(asin(R / d)) wide.
        var width = 2 * 315 * Math.Tan(Math.Asin(35.0 / 315));
        var sum = Sweep.Compute(new(width, 315, 12, 30, readings, rate, 0, delay, braking)).Result;
        var se = rate * 0.03 / Math.Sqrt(12) / Math.Sqrt(before.Length);
        Assert.Equal(sum.ExtraTurnDeg!.Value, before.Average(), 4 * se + 0.4);
    }

    [Theory]
    [InlineData(120, 30, 2)]
    [InlineData(250, 30, 1)]
    public void Before_a_wall_it_comes_to_rest_as_stop_gap_says(double speed, int period, int readings)
    {
        var rig = Robot(
            $"  state Coming, initial\n    while here: drive straight at {speed} mm/s\n"
                + $"    when Range < 200 mm for {readings} readings: go Stop\n\n  state Stop, final\n    on entry: stop Drive and brake\n",
            Range(60, 1, 200, period)
        );
        var plan = FloorBench.Plan(
            rig,
            "floor 4 m by 4 m\nwall from (0, 2500) to (4000, 2500)\n"
                + "start Drive at (2000, 1000) facing 0 robot deg give or take 30 mm and 0 robot deg\nends after 16 s\n"
        );
        double[] gaps = [.. Runs(plan, 150).Select(r => 2500 - FloorBench.End(r).Y - 60)];
        var sum = StopGap
            .Compute(new(speed, period, readings, Usual(plan, "delay of Drive"), 200, 0, Usual(plan, "braking of Drive"), null, 2))
            .Result;
        // A robot that comes at a wall squarely: the beam is 1° wide, so the edge of it is 0.02 % longer.
        Assert.Equal(sum.GapMm, gaps.Average(), 4 * speed * period / 1000 / Math.Sqrt(12 * 150) + 1.2);
        // The ends hold 2 SDs of a noise of 2 and of braking; what differs from stop to stop in the bench is 150 mm/s² of it.
        Assert.True(gaps.Count(g => g < sum.GapLowMm - 3 || g > sum.GapHighMm + 3) <= 8, $"{sum} {gaps.Min()} to {gaps.Max()}");
    }

    // ---- edges ----

    private static RigDesign Guarded(string main, double ahead = 90) =>
        Robot(main, Eye("Left eye", ahead, -66), Eye("Right eye", ahead, 66)) with
        {
            Outline = [new(100, -72), new(100, 72), new(-60, 72), new(-60, -72)],
            Mechanisms = [.. FloorBench.Rig(main).Mechanisms.Select(m => m.Name == "Drive" ? m with { TipAheadMm = Sure(30, "mm") } : m)],
        };

    private static Sensor Eye(string name, double ahead, double right) =>
        new(name, SensorKind.ReflectedLight, 10, 1, ["deck", "drop"])
        {
            Mount = new(Sure(ahead, "mm"), Sure(right, "mm"), Sure(8, "mm"), Facing.Down),
            SpotDiameterMm = Sure(6, "mm"),
        };

    private static SensorCalibration[] Deck(RigDesign rig) =>
        [.. new[] { "Left eye", "Right eye" }.Select(e => FloorBench.Readings(rig, e, ("deck", [46], 1.5), ("drop", [5], 1)))];

    private static string Guard(double speed) =>
        $"  state Sweeping, initial\n    while here: drive straight at {speed:0.0} mm/s\n    when Left eye becomes drop: go Stop\n"
        + "    when Right eye becomes drop: go Stop\n\n  state Stop, final\n    on entry: stop Drive and brake\n";

    private static EdgeGuardResult Margins(BenchPlan plan, double speed, double ahead = 90) =>
        EdgeGuard
            .Compute(
                // Ahead of the support, which is the foremost it stands on.
                new(
                    ahead - 30,
                    [-66, 66],
                    60,
                    60,
                    speed,
                    10,
                    1,
                    Usual(plan, "delay of Drive"),
                    Usual(plan, "braking of Drive"),
                    6,
                    // What differs from stop to stop; the copy itself is known here.
                    100 * plan.Movers[plan.Drives[0].Left].BrakeSd / Usual(plan, "braking of Drive")
                )
            )
            .Result;

    private static BenchPlan AtTheEdge(double speed, string heading)
    {
        var rig = Guarded(Guard(speed));
        return FloorBench.Plan(
            rig,
            $"deck 3 m by 900 mm of deck, drop beyond\nstart Drive at (1500, 500) facing {heading}\nends after 14 s\n"
                + "never: robot over the edge\n",
            true,
            null,
            Deck(rig)
        );
    }

    [Fact]
    public void At_the_safe_speed_of_edge_guard_nothing_falls_and_a_third_faster_some_do()
    {
        var any = AtTheEdge(100, "0 robot deg");
        var safe = Margins(any, 100).MaxSafeSpeedMmPerS!.Value;
        Assert.InRange(safe, 60, 400);
        double[] angles = [-60, -48, -36, -24, -12, 0, 12, 24, 36, 48, 60];
        double Stays(double speed, double angle)
        {
            var plan = AtTheEdge(speed, $"{angle} robot deg");
            var held = Enumerable.Range(0, plan.Draws.Count).ToDictionary(k => k, k => plan.Draws[k].Usual);
            var bench = new Bench(plan);
            return Enumerable.Range(0, 182).Count(i => bench.Go(RandomStream.SeedOfRun(5, i), true, null, default, null, held).Passed)
                / 182.0;
        }
        Assert.All(angles, a => Assert.Equal(1, Stays(safe, a)));
        Assert.InRange(angles.Average(a => Stays(1.3 * safe, a)), 0.5, 0.9995);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(-25)]
    [InlineData(45)]
    [InlineData(60)]
    public void At_every_angle_as_much_is_left_as_the_margin_of_edge_guard_says(double angle)
    {
        const double speed = 150;
        var plan = AtTheEdge(speed, $"{angle} robot deg");
        var left = Runs(plan, 60)
            .Select(r =>
            {
                var (x, y, h) = FloorBench.End(r);
                var (sin, cos) = Math.SinCos(h * Math.PI / 180);
                // The foremost of its two wheels and its support.
                return new[] { y + 30 * cos, y + 60 * sin, y - 60 * sin }.Select(c => 900 - c).Min();
            })
            .ToArray();
        // The sum puts both wheels as far ahead as the support: where a wheel leads, the bench has 30 cos φ more.
        var stop = speed * (0.5 * 0.01 + Usual(plan, "delay of Drive") / 1000) + speed * speed / (2 * Usual(plan, "braking of Drive"));
        var (s, c) = Math.SinCos(Math.Abs(angle) * Math.PI / 180);
        var foremost = 90 * c + 66 * s;
        var expected = Math.Min(foremost - 30 * c, foremost - 60 * s) - stop * c;
        Assert.Equal(expected, left.Average(), 2.0);
        // And the sum, which takes the worst phase and two SDs of braking, is below all of them.
        Assert.True(left.Min() >= EdgeGuard.Margin(60 - 3, [-66, 66], 60, Margins(plan, speed).StopDistanceMm, angle) - 0.5);
    }

    [Fact]
    public void Between_the_two_ways_of_push_over_the_crumb_falls_and_the_robot_does_not()
    {
        // At an edge head on: it stops, then goes on by an amount. It pushes with its outline, 60 ahead of the axle and behind its eyes.
        const double speed = 80;
        var probe = AtTheEdge(speed, "0 robot deg");
        var stop = speed * (0.5 * 0.01 + Usual(probe, "delay of Drive") / 1000) + speed * speed / (2 * Usual(probe, "braking of Drive"));
        var spread = speed * 0.01 / 2 + 1.5;
        var sum = PushOver.Compute(new(90 - 30, 60 - 30, 18, stop, spread)).Result;
        (double Fell, double Over) Tried(double extra)
        {
            var rig = Guarded(
                Guard(speed)
                    .Replace(
                        "  state Stop, final\n    on entry: stop Drive and brake\n",
                        "  state Stop\n    on entry: stop Drive and brake\n    after 0.5 s: go On\n\n  state On\n"
                            + $"    on entry: drive straight {extra:0.0} mm at 40 mm/s\n",
                        StringComparison.Ordinal
                    )
            ) with
            {
                Outline = [new(60, -72), new(60, 72), new(-60, 72), new(-60, -72)],
            };
            var plan = FloorBench.Plan(
                rig,
                "deck 3 m by 900 mm of deck, drop beyond\nthing crumb round 36 mm at (1500, 700)\n"
                    + "start Drive at (1500, 500) facing 0 robot deg\nends after 12 s\n",
                true,
                null,
                Deck(rig)
            );
            BenchReport[] runs = [.. Runs(plan, 40)];
            return (
                runs.Count(r => r.Notes.Any(n => n.Say.StartsWith("crumb falls", StringComparison.Ordinal))) / 40.0,
                runs.Count(r => r.Notes.Any(n => n.Say.Contains("is off the deck", StringComparison.Ordinal))) / 40.0
            );
        }
        Assert.InRange(sum.ExtraForwardMinMm, 5, 40);
        var middle = (sum.ExtraForwardMinMm + sum.ExtraForwardMaxMm) / 2;
        Assert.Equal((1.0, 0.0), Tried(middle));
        Assert.Equal((1.0, 0.0), Tried(sum.ExtraForwardMinMm + 1));
        Assert.Equal((1.0, 0.0), Tried(sum.ExtraForwardMaxMm - 3));
        Assert.InRange(Tried(sum.ExtraForwardMinMm - 2 * spread - 3).Fell, 0, 0.2);
        Assert.InRange(Tried(sum.ExtraForwardMaxMm + 2 * spread + 3).Over, 0.8, 1);
    }

    // ---- lids, lines, beams and water ----

    [Theory]
    [InlineData(2, 90)]
    [InlineData(1, 40)]
    public void A_lid_stands_open_when_reaction_says(int readings, double opens)
    {
        const int period = 40;
        var robot = Robot(
            $"  state Shut, initial\n    when Range < 150 mm for {readings} readings: set Lid to {opens} deg; go Open\n\n  state Open\n",
            Range(61, 4, 150, period)
        );
        var rig = robot with
        {
            Actuators = [.. robot.Actuators, new("Lid servo", ActuatorKind.Servo)],
            Mechanisms =
            [
                .. robot.Mechanisms,
                new("Lid", MechanismKind.Lid, ["Lid servo"]) { Travel = new(Sure(0, "deg"), Sure(120, "deg")) },
            ],
        };
        var plan = FloorBench.Plan(
            rig,
            "floor 3 m by 3 m\nstart Drive at (1500, 1500) facing 0 robot deg\n"
                + "boat comes before Range from 600 mm to 20 mm at 200 mm/s at 1 s\nends after 6 s\n"
        );
        var sum = Reaction.Compute(new(200, period, readings, Usual(plan, "delay of Lid"), opens, Usual(plan, "top speed of Lid"))).Result;
        double[] took =
        [
            .. Runs(plan, 80, 500)
                .Select(r =>
                {
                    var lid = r.Bodies.First(b => b.Name == "Lid");
                    // Where a servo stands differs by its own error from time to time.
                    var there = Enumerable.Range(0, r.TimeS.Count).First(k => lid.X[k] >= Math.Max(5, lid.X[^1]!.Value - 0.05));
                    return r.TimeS[there] - (1 + 450 / 200.0);
                }),
        ];
        // At the latest so long after it came near; a reading sooner where the phase is kind. Noise of 2 mm is 10 ms of the way.
        Assert.InRange(took.Max(), sum.ResponseS - 0.03, sum.ResponseS + 0.03);
        Assert.InRange(took.Min(), sum.ResponseS - period / 1000.0 - 0.04, sum.ResponseS - 0.01);
        Assert.Equal(200 * sum.ResponseS, sum.MustNoticeAtMm, 1e-6);
    }

    private static BenchPlan Line(string follows)
    {
        var rig = Robot(
            follows,
            new Sensor("Line eye", SensorKind.ReflectedLight, 10, 1, ["line", "sand"])
            {
                Mount = new(Sure(60, "mm"), Sure(0, "mm"), Sure(8, "mm"), Facing.Down),
                SpotDiameterMm = Sure(10, "mm"),
            }
        );
        return FloorBench.Plan(
            rig,
            "floor 9 m by 1 m of sand\nstrip track of line 40 mm wide from (100, 500) to (8900, 500)\n"
                + "start Drive at (200, 478) facing 90 robot deg\nends after 40 s\n",
            true,
            null,
            [FloorBench.Readings(rig, "Line eye", ("line", [12], 0.8), ("sand", [58], 0.8))]
        );
    }

    // How far its eye swings about the right edge of the line, once it has gone a metre, mm.
    private static double Swing(BenchPlan plan)
    {
        var report = BenchReport.Watch(plan, 1, 100, held: Usual(plan));
        var b = report.Bodies.First(x => x.Kind == "drive");
        double[] off =
        [
            .. Enumerable
                .Range(0, report.TimeS.Count)
                .Where(k => b.X[k] is > 1200 and < 8000)
                .Select(k => b.Y[k]!.Value + 60 * Math.Cos(b.Heading[k]!.Value * Math.PI / 180) - 480),
        ];
        return off.Length < 50 ? double.PositiveInfinity : Math.Sqrt(off.Sum(o => o * o) / off.Length);
    }

    [Fact]
    public void A_line_is_settled_on_below_the_speed_of_line_gain_and_swung_about_above_it()
    {
        LineGainResult Sum(double speed, BenchPlan plan) =>
            LineGain
                .Compute(
                    new(
                        speed,
                        120,
                        60,
                        // Over the edge a disc of 10 mm changes by 4 / (π · 10) of the contrast a mm.
                        46 * 4 / (Math.PI * 10),
                        Usual(plan, "top speed of Drive"),
                        10,
                        Usual(plan, "delay of Drive"),
                        Usual(plan, "lag of Drive")
                    )
                )
                .Result;
        BenchPlan At(double speed, double gain) =>
            Line(
                $"  state Going, initial\n    while here: follow Line eye at {speed:0.0} mm/s "
                    + $"gain {gain:0.0000} to the right edge of line\n"
            );
        var any = At(100, 0.2);
        var most = Sum(100, any).MaxSpeedMmPerS;
        Assert.InRange(most, 100, 200);
        var slow = 0.7 * most;
        Assert.InRange(Swing(At(slow, Sum(slow, any).Kp)), 0, 1.5);
        // Above where the delay leaves no damping at all: with the gain that damping asks for it swings to its limits, or loses it.
        var fast = 2.8 * most;
        var gain = 1.96 * fast / 3600 * 120 / (2 * (Usual(any, "top speed of Drive") / 100) * (46 * 4 / (Math.PI * 10)));
        Assert.InRange(Swing(At(fast, gain)), 4, double.PositiveInfinity);
    }

    [Fact]
    public void Switching_between_two_turns_it_weaves_as_line_switch_says()
    {
        var plan = Line(
            "  state Out, initial\n    while here: steer 110 mm/s and 150 mm/s\n    when Line eye is line for 2 readings: go In\n\n"
                + "  state In\n    while here: steer 150 mm/s and 110 mm/s\n    when Line eye is sand for 2 readings: go Out\n"
        );
        // The motors follow with their lag: on the way of a ramp that is as much delay.
        var sum = LineSwitch.Compute(new(150, 110, 120, 60, 10, 2, Usual(plan, "delay of Drive") + Usual(plan, "lag of Drive"))).Result;
        Assert.True(sum.KeepsLine);
        // The sum is how far to each side; of a swing to and fro the root mean square is between that over √3 and over √2.
        Assert.InRange(Swing(plan), 0.7 * sum.WeaveMm!.Value / Math.Sqrt(3), 1.3 * sum.WeaveMm.Value / Math.Sqrt(2));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(-3)]
    public void Something_that_crosses_a_beam_is_noticed_as_often_as_beam_cross_says(int fewer)
    {
        // A tag of 60 mm under a spot that turns at its middle: 60 mm of way, and so many readings of 10 ms.
        var speed = FarmBench.Speed(BenchReport.Watch(FarmBench.Setup(Script(2), endsS: 8), 1, 200)).Max();
        var most = (int)Math.Ceiling(60 / (speed * 0.01));
        var n = most + (fewer > 0 ? 0 : fewer);
        var sum = BeamCross.Compute(new(speed, 60, 0, 10, n)).Result;
        Assert.True(fewer > 0 ? sum.Chance is > 0.1 and < 0.9 : sum.Chance == 1, $"{sum}");
        var plan = FarmBench.Setup(
            Script(n),
            // Readings that noise can hardly carry over a threshold.
            calibrations: FarmBench.Calibrations([20, 20.5, 19.5, 20, 20.2, 19.8], [60, 60.5, 59.5, 60, 60.2, 59.8]),
            endsS: 3.5
        );
        const int runs = 300;
        var noticed = Runs(plan, runs).Count(r => r.Events.Any(e => e.To == "Seen")) / (double)runs;
        Assert.Equal(sum.Chance, noticed, 3 * Math.Sqrt(0.25 / runs) + 0.02);

        static string Script(int n) =>
            "program T\n\nregion Main\n  state Rolling, initial\n    while here: run Trolley at 60 %\n"
            + $"    when Tag eye becomes bed tag for {n} readings: go Seen\n\n  state Seen, final\n";
    }

    [Fact]
    public void A_tank_that_is_filled_and_used_swings_as_on_off_says()
    {
        Sensor Probe(string name, double height) =>
            new(name, SensorKind.Probe, 500, 1, ["dry", "wet"])
            {
                Mount = new(Sure(0, "mm"), Sure(0, "mm"), Sure(height, "mm"), Facing.Down),
            };
        var rig = new RigDesign(
            "Tank",
            "Saltmarsh Oyster Farm",
            [ControllerTemplates.Make("six sockets", "Deck box")],
            [Probe("Low probe", 40), Probe("High probe", 110)],
            [new("Pump", ActuatorKind.PlainMotor)]
        )
        {
            Programs =
            [
                new(
                    "program Test\n\nregion Main\n  state Waiting, initial\n    when Low probe is dry: go Filling\n\n  state Filling\n"
                        + "    while here: run Pump at 80 %\n    when High probe is wet: go Waiting\n",
                    []
                ),
            ],
        };
        var plan = FloorBench.Plan(
            rig,
            "tank basin 2 l high 200 mm, starts at 40 %\nPump brings 0.15 l/s at 80 %\nbasin gives 0.05 l/s\nends after 180 s\n",
            true,
            null,
            [.. new[] { "Low probe", "High probe" }.Select(p => FloorBench.Readings(rig, p, ("dry", [150], 5), ("wet", [600], 10)))]
        );
        // 2 l are 200 mm: 0.1 l/s net are 10 mm/s up, 0.05 are 5 down. The pump obeys after 40 ms.
        var sum = OnOff.Compute(new(10, 5, 40, 110, 0.04, 0.5)).Result;
        foreach (var report in Runs(plan, 8, 50))
        {
            var level = report.Bodies.First(b => b.Kind == "water").X.Select(x => x!.Value).ToArray();
            var after = level.Skip(level.Length / 4).ToArray();
            // The sum takes a whole sample of lag; the phase takes off up to all of it.
            Assert.InRange(after.Max(), sum.High - 10 * 0.5 - 0.5, sum.High + 1);
            Assert.InRange(after.Min(), sum.Low - 1, sum.Low + 5 * 0.5 + 0.5);
            double[] begins = [.. report.Events.Where(e => e.To == "Filling").Select(e => e.TimeS)];
            for (var k = 2; k < begins.Length; k++)
                Assert.Equal(sum.CycleS, begins[k] - begins[k - 1], 1.6);
            Assert.True(begins.Length > 4);
        }
    }

    [Fact]
    public void A_meter_charges_for_the_way_that_was_gone()
    {
        // 1 000 wheel degrees of 56 mm: a wheel that is sure, and a veer held at none.
        var plan = FloorBench.Plan(
            FloorBench.Rig("  state Going, initial\n    on entry: drive straight 1000 wheel deg at 120 mm/s\n"),
            "floor 3 m by 3 m\nstart Drive at (500, 500) facing 0 robot deg\nends after 9 s\n"
        );
        var sum = Meter.Compute(new(1000, 56, 0.5)).Result;
        // Counted moves err by 1 mm from one to the next.
        Assert.Equal(sum.DistanceMm, Runs(plan, 40).Average(r => FloorBench.End(r).Y - 500), 0.6);
        Assert.Equal(Math.Round(0.5 * 488.69 / 100 / 0.05) * 0.05, sum.Charge, 1e-9);
    }

    [Fact]
    public void A_lift_takes_as_many_degrees_and_as_long_as_axis_travel_says()
    {
        var sum = AxisTravel.Compute(new("drum", 24, null, 1, 150, null, 360)).Result;
        var plan = FloorBench.Plan(
            FloorBench.Rig(
                $"  state Up, initial\n    on entry: run Mast {sum.MotorDeg:0.0} motor deg at 40 %\n    when Mast is done: go There\n\n"
                    + "  state There, final\n"
            ),
            "floor 1 m by 1 m\nstart Drive at (500, 500) facing 0 robot deg\nends after 6 s\n"
        );
        foreach (var report in Runs(plan, 10, 50))
        {
            Assert.Equal(sum.MotorDeg, report.Bodies.First(b => b.Name == "Mast").X[^1]!.Value, 6.0);
            // Beside the way itself: the delay, the lag, and the ramp at the end.
            Assert.InRange(report.Events[^1].TimeS, sum.DurationS, sum.DurationS + 0.25);
            Assert.True(report.Events[^1].TimeS < sum.GiveUpAfterS);
        }
    }
}
