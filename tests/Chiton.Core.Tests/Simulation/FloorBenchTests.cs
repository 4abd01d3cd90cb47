namespace Chiton.Core.Tests.Simulation;

/// <summary>Robots on floors: held against plain models that share nothing with the bench, and against what physics never allows.</summary>
public class FloorBenchTests
{
    private const string Zigzag = """
          state A, initial
            on entry: drive straight 260 mm at 30 %
            when Drive is done: go B
          state B
            on entry: turn robot {0} 90 robot deg spinning at 20 %
            when Drive is done: go C
          state C
            on entry: drive straight 220 mm at 30 %
            when Drive is done: go D
          state D
            on entry: turn robot {1} 60 robot deg spinning at 20 %
            when Drive is done: go E
          state E
            on entry: drive straight 200 mm at 30 %
            when Drive is done: go F
          state F, final
            on entry: stop Drive and brake
        """;

    // ---- a mirror ----

    [Fact]
    public void The_mirror_of_a_scene_is_the_mirror_of_its_run()
    {
        // One thing is pushed, a ball rolls on, a wall is met; nothing is drawn.
        const string scene = "floor 1200 by 900 mm, walls round it\n{0}\nends after 20 s\n";
        var left = FloorBench.Plan(
            FloorBench.Rig(string.Format(Zigzag, "right", "left")),
            string.Format(
                scene,
                "thing crate round 50 mm at (330, 480)\nthing ball round 40 mm at (470, 455), rolls\n"
                    + "wall from (560, 700) to (700, 700)\nstart Drive at (300, 200) facing 10 robot deg"
            ),
            false
        );
        var right = FloorBench.Plan(
            FloorBench.Rig(string.Format(Zigzag, "left", "right")),
            string.Format(
                scene,
                "thing crate round 50 mm at (870, 480)\nthing ball round 40 mm at (730, 455), rolls\n"
                    + "wall from (640, 700) to (500, 700)\nstart Drive at (900, 200) facing -10 robot deg"
            ),
            false
        );
        var (a, b) = (BenchReport.Watch(left, 1), BenchReport.Watch(right, 1));
        Assert.Equal(a.EndS, b.EndS, 6);
        Assert.True(a.Events.Count > 4, "the way was not driven");
        foreach (var body in a.Bodies.Where(x => x.Kind is "drive" or "thing"))
        {
            var other = b.Bodies.First(x => x.Name == body.Name);
            for (var i = 0; i < body.X.Count; i++)
            {
                Assert.Equal(1200 - body.X[i]!.Value, other.X[i]!.Value, 0.1);
                Assert.Equal(body.Y[i]!.Value, other.Y[i]!.Value, 0.1);
                if (body.Kind == "drive")
                    Assert.Equal(0, Math.IEEERemainder(body.Heading[i]!.Value + other.Heading[i]!.Value, 360), 0.11);
            }
        }
        // Both were moved, else nothing is shown of them.
        Assert.All(
            a.Bodies.Where(x => x.Kind == "thing"),
            t => Assert.True(Math.Abs(t.X[^1]!.Value - t.X[0]!.Value) + Math.Abs(t.Y[^1]!.Value - t.Y[0]!.Value) > 5)
        );
    }

    // ---- a second, plain model of a floor scene ----

    [Fact]
    public void A_chain_of_moves_ends_where_a_plain_model_says_as_often()
    {
        // Uncertain: the track, the veer, each move, each turn, and how well it is put down.
        var track = new Quantity(120, "mm", Provenance.Measured, "by turns", 2.5, 0) { MoveSd = 1.8 };
        var plan = FloorBench.Plan(
            FloorBench.Rig(string.Format(Zigzag, "right", "left"), track),
            "floor 1500 by 1200 mm\nplace target 36 by 36 mm at (620, 633)\n"
                + "start Drive at (300, 200) facing 0 robot deg give or take 6 mm and 1.5 robot deg\nends after 20 s\n"
                + "goal: Drive on target at the end\n"
        );
        var spec = plan.Drives[0];
        var veer = plan.DrawRow[spec.Veer];
        var veerSd = veer.DoubtSd;
        var luck = new Random(5);
        double Normal()
        {
            double u = 1 - luck.NextDouble(),
                v = luck.NextDouble();
            return Math.Sqrt(-2 * Math.Log(u)) * Math.Cos(2 * Math.PI * v);
        }
        double Within(double sd) => sd * Math.Clamp(Normal(), -3, 3);
        bool Once()
        {
            double x = 300 + Within(6),
                y = 200 + Within(6),
                h = Within(1.5) * Math.PI / 180,
                real = 120 + Within(2.5),
                bends = veer.Usual + Within(veerSd);
            void Straight(double mm)
            {
                var way = mm + Within(plan.Movers[spec.Left].MoveSd);
                // In small steps, as one who knows no arcs would.
                for (var i = 0; i < 200; i++)
                {
                    h += bends * way / 200 / 1000 * Math.PI / 180;
                    (x, y) = (x + way / 200 * Math.Sin(h), y + way / 200 * Math.Cos(h));
                }
            }
            void Turn(double degrees) => h += degrees * Math.PI / 180 * 120 / real * (1 + Within(spec.TurnShareSd));
            Straight(260);
            Turn(90);
            Straight(220);
            Turn(-60);
            Straight(200);
            return Math.Abs(x - 620) <= 18 && Math.Abs(y - 633) <= 18;
        }
        const int runs = 4000;
        var passed = Enumerable.Range(0, runs).Count(_ => Once()) / (double)runs;
        var bench = FloorBench.Rate(plan, runs);
        // Neither hopeless nor certain, else nothing is compared.
        Assert.InRange(passed, 0.2, 0.9);
        Assert.Equal(passed, bench, 3 * Math.Sqrt(2 * 0.25 / runs));
    }

    // ---- a second, plain model of an axis scene ----

    [Fact]
    public void A_lift_that_starts_crooked_reaches_its_shelf_as_often_as_a_plain_model_says()
    {
        // It counts from where it stood, and its move has an error of its own.
        var plan = FloorBench.Plan(
            FloorBench.Rig(
                "  state Up, initial\n    on entry: run Mast 600 motor deg at 40 %\n    when Mast is done: go There\n  state There\n"
                    + "    after 0.5 s: go Done\n  state Done, final\n    on entry: stop Mast and hold\n"
            ),
            "start Mast at 300 motor deg give or take 12 motor deg\nload tray 80 g on Mast\n"
                + "place shelf is Mast from 892 to 912 motor deg\nends after 12 s\ngoal: finished within 11 s\n"
        );
        var mover = plan.Movers[plan.Axes[0].Mover];
        double[] ends =
        [
            .. Enumerable
                .Range(0, 600)
                .Select(i => BenchReport.Watch(plan, RandomStream.SeedOfRun(3, i), 2))
                .Select(r => r.Bodies.First(b => b.Name == "Mast").X[^1]!.Value),
        ];
        var sd = Math.Sqrt(144 + mover.MoveSd * mover.MoveSd);
        Assert.Equal(900, ends.Average(), 3.5 * sd / Math.Sqrt(600));
        Assert.Equal(sd, Math.Sqrt(ends.Sum(e => (e - ends.Average()) * (e - ends.Average())) / 599), 0.1 * sd);
        var share = ends.Count(e => e is >= 892 and <= 912) / 600.0;
        var expected = Phi((912 - 900) / sd) - Phi((892 - 900) / sd);
        Assert.Equal(expected, share, 3.2 * Math.Sqrt(expected * (1 - expected) / 600));
    }

    // Abramowitz and Stegun 26.2.17, right to 1e-7.
    private static double Phi(double z)
    {
        var t = 1 / (1 + 0.2316419 * Math.Abs(z));
        var tail =
            Math.Exp(-z * z / 2)
            / Math.Sqrt(2 * Math.PI)
            * t
            * (0.319381530 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
        return z >= 0 ? 1 - tail : tail;
    }

    // ---- what physics never allows ----

    [Theory]
    [InlineData(0)]
    [InlineData(23)]
    [InlineData(45)]
    [InlineData(78)]
    [InlineData(-61)]
    public void Nothing_passes_through_a_wall(double heading)
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig("  state Go, initial\n    while here: run Drive at 90 %\n"),
            "floor 800 by 800 mm, walls round it\nthing crate round 60 mm at (400, 640)\n"
                + $"start Drive at (400, 400) facing {heading} robot deg\nends after 12 s\n"
        );
        for (var seed = 1; seed <= 20; seed++)
        {
            var report = BenchReport.Watch(plan, seed, 50);
            var drive = report.Bodies.First(b => b.Kind == "drive");
            for (var i = 0; i < drive.X.Count; i++)
            {
                var (sin, cos) = Math.SinCos(drive.Heading[i]!.Value * Math.PI / 180);
                foreach (var corner in FloorBench.Rig("").Outline)
                {
                    // Rounded to tenths as it is told, and 1 mm of give.
                    Assert.InRange(drive.X[i]!.Value + corner.AheadMm * sin + corner.RightMm * cos, -1.3, 801.3);
                    Assert.InRange(drive.Y[i]!.Value + corner.AheadMm * cos - corner.RightMm * sin, -1.3, 801.3);
                }
            }
            var crate = report.Bodies.First(b => b.Name == "crate");
            Assert.All(crate.X.Zip(crate.Y), at => Assert.InRange(at.First!.Value, 29, 771));
            Assert.All(crate.X.Zip(crate.Y), at => Assert.InRange(at.Second!.Value, 29, 771));
        }
    }

    [Fact]
    public void Without_a_motor_nothing_gets_faster_and_what_is_pushed_stays_there()
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig(
                "  state Go, initial\n    while here: run Drive at 60 %\n    after 2 s: go Off\n  state Off\n    on "
                    + "entry: stop Drive and coast\n"
            ),
            "floor 3 m by 2 m\nthing ball round 40 mm at (400, 560), rolls\nthing crate round 50 mm at (460, 900)\n"
                + "start Drive at (400, 300) facing 0 robot deg\nends after 8 s\n"
        );
        for (var seed = 1; seed <= 15; seed++)
        {
            var report = BenchReport.Watch(plan, seed, 100);
            var drive = report.Bodies.First(b => b.Kind == "drive");
            var ball = report.Bodies.First(b => b.Name == "ball");
            // Its last order comes late by its delay.
            var from = report.TimeS.ToList().FindIndex(t => t > 2.15);
            Assert.True(Math.Abs(drive.Speed[from]) > 20, "it was not driving");
            for (var i = from + 1; i < drive.Speed.Count; i++)
                Assert.True(Math.Abs(drive.Speed[i]) <= Math.Abs(drive.Speed[i - 1]) + 0.11, $"faster at {report.TimeS[i]} s");
            double Moved(BenchBody b, int i) =>
                Math.Sqrt(Math.Pow(b.X[i]!.Value - b.X[i - 1]!.Value, 2) + Math.Pow(b.Y[i]!.Value - b.Y[i - 1]!.Value, 2));
            // Once nothing pushes it any more a ball only loses speed: told in tenths of a mm, ten times a second.
            var rolled = Enumerable.Range(1, ball.X.Count - 1).Select(i => Moved(ball, i)).ToArray();
            var touched = Array.FindIndex(rolled, r => r > 0.2);
            Assert.True(touched > 0, "the ball was never pushed");
            for (var i = from + 30; i < rolled.Length - 10; i += 10)
                Assert.True(
                    rolled.Skip(i).Take(10).Sum() <= rolled.Skip(i - 10).Take(10).Sum() + 0.4,
                    $"the ball gains speed at {report.TimeS[i]} s of seed {seed}"
                );
        }
    }

    [Fact]
    public void Things_are_conserved()
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig("  state Go, initial\n    while here: run Drive at 50 %\n"),
            "deck 900 by 700 mm\n20 things crumb round 18 mm at random on the deck, 30 mm apart\n"
                + "start Drive at (450, 250) facing 30 robot deg give or take 20 mm and 60 robot deg\nends after 6 s\n"
                + "goal: at least 1 crumb on the deck at the end\n"
        );
        for (var seed = 1; seed <= 25; seed++)
        {
            var report = BenchReport.Watch(plan, seed, 20);
            var crumbs = report.Bodies.Where(b => b.Name == "crumb").ToArray();
            Assert.Equal(20, crumbs.Length);
            var fell = report.Notes.Count(n => n.Say.StartsWith("crumb falls", StringComparison.Ordinal));
            Assert.Equal(20, fell + crumbs.Count(c => c.X[^1] is not null));
            // What fell stays gone, and nobody comes back.
            Assert.All(crumbs, c => Assert.Equal(c.X.Count(x => x is not null), c.X.TakeWhile(x => x is not null).Count()));
        }
    }

    // ---- sums, and the bench ----

    [Theory]
    [InlineData(30)]
    [InlineData(60)]
    [InlineData(90)]
    public void It_stops_after_the_way_of_its_delay_and_its_braking(double percent)
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig(
                $"  state Go, initial\n    while here: run Drive at {percent} %\n    after 3 s: go Stop\n  state "
                    + $"Stop, final\n    on entry: stop Drive and brake\n"
            ),
            "floor 5 m by 5 m\nstart Drive at (2500, 500) facing 0 robot deg\nends after 7 s\n",
            false
        );
        var report = BenchReport.Watch(plan, 1, 500);
        var drive = report.Bodies.First(b => b.Kind == "drive");
        var spec = plan.Movers[plan.Drives[0].Left];
        var (delay, brake) = (plan.DrawRow[spec.Delay].Usual / 1000, plan.DrawRow[spec.Brake].Usual);
        var told = report.TimeS.ToList().FindIndex(t => t >= 3);
        var speed = drive.Speed[told - 2];
        var way = drive.Y[^1]!.Value - drive.Y[told]!.Value;
        // Braking differs from stop to stop; without draws by nothing but that.
        Assert.Equal(speed * delay + speed * speed / (2 * brake), way, 0.25 * speed * speed / (2 * brake) + 0.5);
    }

    [Fact]
    public void The_ellipse_of_path_error_holds_the_ends_of_the_bench()
    {
        var track = new Quantity(120, "mm", Provenance.Measured, "by turns", 0, 0) { MoveSd = 2.4 };
        var plan = FloorBench.Plan(
            FloorBench.Rig(string.Format(Zigzag, "right", "left"), track),
            "floor 2 m by 2 m\nstart Drive at (300, 200) facing 0 robot deg\nends after 20 s\n"
        );
        var (sumX, sumXX, sumY, sumYY, n) = (0.0, 0.0, 0.0, 0.0, 500);
        for (var i = 0; i < n; i++)
        {
            var (x, y, _) = FloorBench.End(BenchReport.Watch(plan, RandomStream.SeedOfRun(9, i), 2));
            (sumX, sumXX, sumY, sumYY) = (sumX + x, sumXX + x * x, sumY + y, sumYY + y * y);
        }
        // By hand: two turns of 2 % each turn what follows, a move errs by its own SD along its heading; the veer, a guess, bends all.
        var spec = plan.Drives[0];
        var (move, turn, veer) = (plan.Movers[spec.Left].MoveSd, spec.TurnShareSd, plan.DrawRow[spec.Veer].DoubtSd * Math.PI / 180 / 1000);
        double[] lengths = [260, 220, 200];
        double[] headings = [0, Math.PI / 2, Math.PI / 6];
        double varX = 0,
            varY = 0;
        for (var k = 0; k < 3; k++)
        {
            varX += Math.Pow(move * Math.Sin(headings[k]), 2);
            varY += Math.Pow(move * Math.Cos(headings[k]), 2);
        }
        // A turn of a moves the rest of the way sideways by a · share.
        void Turned(double angle, int after)
        {
            double dx = 0,
                dy = 0;
            for (var k = after; k < 3; k++)
            {
                dx += lengths[k] * Math.Cos(headings[k]);
                dy += -lengths[k] * Math.Sin(headings[k]);
            }
            varX += Math.Pow(angle * turn * dx, 2);
            varY += Math.Pow(angle * turn * dy, 2);
        }
        Turned(Math.PI / 2, 1);
        Turned(Math.PI / 3, 2);
        double bx = 0,
            by = 0,
            gone = 0;
        for (var k = 0; k < 3; k++)
        {
            var mean = gone + lengths[k] / 2;
            bx += mean * lengths[k] * Math.Cos(headings[k]);
            by += -mean * lengths[k] * Math.Sin(headings[k]);
            gone += lengths[k];
        }
        (varX, varY) = (varX + veer * veer * bx * bx, varY + veer * veer * by * by);
        var (sdX, sdY) = (Math.Sqrt((sumXX - sumX * sumX / n) / (n - 1)), Math.Sqrt((sumYY - sumY * sumY / n) / (n - 1)));
        // 500 runs know an SD to 3.2 %; wheels that are not sure add little.
        Assert.InRange(sdX / Math.Sqrt(varX), 0.88, 1.15);
        Assert.InRange(sdY / Math.Sqrt(varY), 0.88, 1.15);
    }

    // ---- others in the same place ----

    [Fact]
    public void Guests_meet_and_that_is_a_crash()
    {
        const string go = "  state Go, initial\n    while here: run Drive at 40 %\n";
        var guest = FloorBench.Copy(FloorBench.Rig(go, name: "Other"));
        var plan = FloorBench.Plan(
            FloorBench.Rig(go),
            "floor 2 m by 1 m\nstart Drive at (300, 500) facing 90 robot deg\n"
                + "guest Bess is Other copy 1, starts at (1500, 500) facing 270 robot deg\nends after 15 s\nnever: a crash\n",
            true,
            (name, copy) => name == "Other" && copy == 1 ? guest : null
        );
        for (var seed = 1; seed <= 10; seed++)
        {
            var report = BenchReport.Watch(plan, seed, 100);
            Assert.False(report.Passed);
            Assert.Contains("meets", report.Failure!.Say);
            var own = report.Bodies.First(b => b.Name == "Drive");
            var other = report.Bodies.First(b => b.Name.StartsWith("Bess", StringComparison.Ordinal) && b.Kind == "drive");
            // Two bodies of 60 mm ahead of their axles never come nearer than these.
            Assert.All(own.X.Zip(other.X), at => Assert.True(at.Second - at.First >= 119, $"{at.First} and {at.Second}"));
        }
    }

    [Fact]
    public void A_body_that_is_lifted_turns_its_wheels_and_stays()
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig("  state Go, initial\n    while here: run Drive at 40 %\n"),
            "floor 2 m by 2 m\nstart Drive at (500, 300) facing 0 robot deg\nlift the rig at 2 s for 2 s\nends after 5 s\n",
            false
        );
        var report = BenchReport.Watch(plan, 1, 100);
        var drive = report.Bodies.First(b => b.Kind == "drive");
        double At(double t) => drive.Y[report.TimeS.ToList().FindIndex(x => x >= t)]!.Value;
        Assert.Equal(At(2.02), At(3.98), 0.11);
        Assert.True(At(2) - At(1) > 50 && At(4.9) - At(4.1) > 40);
        Assert.True(drive.Speed[report.TimeS.ToList().FindIndex(x => x >= 3)] > 50, "its wheels stood");
    }
}
