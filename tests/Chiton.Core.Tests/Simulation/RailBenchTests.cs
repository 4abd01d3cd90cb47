namespace Chiton.Core.Tests.Simulation;

/// <summary>A vehicle on a rail, on the bench of every rig.</summary>
public class RailBenchTests
{
    [Fact]
    public void The_same_seed_gives_the_same_run_bit_for_bit_on_any_number_of_threads()
    {
        var setup = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(2000, 200, 15));
        var one = Prover.Run(setup, 300, 7, threads: 1).Proof;
        var many = Prover.Run(setup, 300, 7, threads: 8).Proof;
        Assert.Equal(one.Strokes, many.Strokes);
        Assert.NotEqual(one.Strokes.Select(s => s.EndS), Prover.Run(setup, 300, 8).Proof.Strokes.Select(s => s.EndS));
        BenchReport Again() => BenchReport.Watch(setup, one.Strokes[5].Seed, copySeed: one.Strokes[5].CopySeed);
        Assert.Equal(one.Strokes[5].EndS, Again().DecidedS);
        Assert.Equal(FarmBench.Way(Again()), FarmBench.Way(Again()));
    }

    [Fact]
    public void A_run_does_not_depend_on_the_runs_before_it()
    {
        var setup = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(2000, 200, 15));
        var run = new Bench(setup);
        var first = run.Go(11);
        run.Go(12);
        Assert.Equal(first, run.Go(11));
    }

    [Fact]
    public void Braking_takes_v_squared_over_2a()
    {
        var script =
            "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 60 %\n    after 3 s: go Stop\n\n  state "
            + "Stop, final\n    on entry: stop Trolley and brake\n";
        var report = BenchReport.Watch(FarmBench.Setup(script, FarmBench.Motion(1000), endsS: 6), 1, 500);
        var (v, last) = WhereItSlows(report);
        var travelled = FarmBench.Way(report)[^1] - FarmBench.Way(report)[last];
        Assert.Equal(v * v / 2000, travelled, 0.02 * v * v / 2000);
    }

    [Fact]
    public void Coasting_takes_v_times_the_time_constant()
    {
        var script =
            "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 60 %\n    after 3 s: go Stop\n\n  state "
            + "Stop, final\n    on entry: stop Trolley and coast\n";
        var report = BenchReport.Watch(FarmBench.Setup(script, endsS: 9), 1, 500);
        var (v, last) = WhereItSlows(report);
        Assert.Equal(v * 0.4, FarmBench.Way(report)[^1] - FarmBench.Way(report)[last], 0.02 * v);
    }

    // The speed and sample at which it begins to lose more than the battery ever takes.
    private static (double Speed, int Index) WhereItSlows(BenchReport report)
    {
        var speeds = FarmBench.Speed(report);
        var index = Enumerable.Range(0, speeds.Count - 1).First(i => report.TimeS[i] > 2.9 && speeds[i + 1] < speeds[i] - 0.5);
        return (speeds[index], index);
    }

    [Fact]
    public void Steady_speed_is_the_speed_it_settles_at()
    {
        var script = "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 45 %\n";
        var motion = FarmBench.Motion();
        var report = BenchReport.Watch(FarmBench.Setup(script, motion, endsS: 4), 1, 50);
        Assert.Equal(motion.SteadySpeed(45), FarmBench.Speed(report)[^1], 0.01 * motion.SteadySpeed(45));
        Assert.Equal(45, motion.PowerForSpeed(motion.SteadySpeed(45)), 6);
    }

    [Fact]
    public void Below_the_least_power_nothing_moves_and_the_battery_sags_under_load()
    {
        var still = BenchReport.Watch(
            FarmBench.Setup("program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 9 %\n", endsS: 2),
            1
        );
        Assert.All(FarmBench.Way(still), p => Assert.Equal(FarmBench.Way(still)[0], p));
        var hard = BenchReport.Watch(
            FarmBench.Setup("program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 100 %\n", endsS: 2),
            1
        );
        Assert.True(hard.BatteryV.Min() < 6 - 0.2);
        Assert.True(hard.BatteryV[^1] > hard.BatteryV.Min());
    }

    [Theory]
    [InlineData(-1, 0)]
    [InlineData(1, 1)]
    [InlineData(0, 0.5)]
    // Half a radius from the middle: (1/2·√(3/4) + asin ½)/π + ½.
    [InlineData(0.5, 0.804498892)]
    public void The_share_of_a_round_spot_left_of_an_edge(double z, double share) =>
        Assert.Equal(share, Core.Simulation.Ground.Shape.SpotShare(z), 8);

    [Fact]
    public void An_edge_reads_in_between()
    {
        var quiet = FarmBench.Calibrations([22, 22, 22, 22], [60, 60, 60, 60]);
        var script =
            "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 20 %\n    when Tag eye is bed tag: stay\n";
        var report = BenchReport.Watch(FarmBench.Setup(script, null, quiet, endsS: 14), 1);
        var seen = report.Sensors[0].Readings.OfType<double>().ToArray();
        // The readings never varied, so their spread is that of the sensor's step alone: a third of a per cent.
        Assert.InRange(seen.Min(), 21, 22);
        Assert.InRange(seen.Max(), 60, 61);
        Assert.Contains(seen, r => r is > 30 and < 52);
    }

    [Fact]
    public void Noise_has_the_spread_that_was_measured()
    {
        double[] wide = [10, 14, 18, 22, 26, 30, 34];
        var script = "program T\n\nregion Main\n  state Wait, initial\n    when Tag eye is bed tag: stay\n";
        var calibrations = FarmBench.Calibrations(wide, [70, 75, 80, 85, 90]);
        var seen = BenchReport
            .Watch(FarmBench.Setup(script, null, calibrations, endsS: 60), 3, copySeed: Draws.BestCopy)
            .Sensors[0]
            .Readings.OfType<double>()
            .ToArray();
        var mean = seen.Average();
        Assert.Equal(
            calibrations["Tag eye"].Reads("sleepers")!.MoveSd,
            Math.Sqrt(seen.Sum(r => (r - mean) * (r - mean)) / (seen.Length - 1)),
            0.25
        );
        Assert.All(seen, r => Assert.Equal(Math.Round(r), r));
    }

    [Fact]
    public void Only_physical_numbers_are_drawn_and_guesses_widely()
    {
        var chosen = FarmBench.Sure(100);
        Assert.Equal(100, chosen.DrawForRun(2.5));
        var guessed = new Quantity(100, "mm", Provenance.Guessed, "typed in", 0, 0, 60, 0, 115);
        Assert.Equal(110, guessed.DrawForRun(1));
        Assert.Equal(115, guessed.DrawForRun(2));
        Assert.Equal(70, guessed.DrawForRun(-9));
        Assert.Equal(102, new Quantity(100, "mm", Provenance.Measured, "5 trials", 2).DrawForRun(1));
    }

    [Fact]
    public void It_counts_stops_and_passes()
    {
        var report = BenchReport.Watch(FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(4000), endsS: 20), 1);
        Assert.True(report.Passed, report.Say);
        Assert.Equal(["Rolling", "Stopping"], report.States[0].Stretches.Select(s => s.State));
        var stop = report.Events.Single(e => e.To == "Stopping");
        Assert.Equal("over bed 2", stop.Place);
        Assert.Equal("beds = 2 holds: beds is 2.", stop.Say);
        var first = report.Events.First(e => e.Sentence.Contains("becomes"));
        Assert.Matches(@"^Tag eye read \d+ %, above 35\.7 \+ 5\.2 %; one reading is enough\.$", first.Say);
    }

    [Fact]
    public void Too_weak_a_brake_rolls_past_and_says_by_how_much()
    {
        var report = BenchReport.Watch(FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(600), endsS: 20), 1);
        Assert.False(report.Passed);
        Assert.Equal("standing past bed 2", report.Failure!.Where);
        Assert.Equal("goal: stopped over bed 2 within 20 s", report.Failure.Rule);
        Assert.Matches(@"standing past bed 2 by \d+", report.Failure.Say);
    }

    [Fact]
    public void A_never_is_broken_and_a_goal_runs_out_of_time()
    {
        var never = BenchReport.Watch(
            FarmBench.Setup(
                FarmBench.StopAtSecond.Replace("goal: stopped over bed 2 within 20 s", "never: stopped over bed 2"),
                FarmBench.Motion(4000),
                endsS: 20
            ),
            1
        );
        Assert.Equal("never: stopped over bed 2", never.Failure!.Rule);
        var late = BenchReport.Watch(FarmBench.Setup(FarmBench.StopAtSecond.Replace("within 20 s", "within 1 s"), endsS: 20), 1);
        Assert.Equal("still moving", late.Failure!.Where);
        Assert.InRange(late.EndS, 1, 1.01);
    }

    [Fact]
    public void A_loop_in_the_machine_stops_the_run()
    {
        var script =
            "program T\n\nvar n = 0\n\nregion Main\n  state A, initial\n    when n >= 0: go B\n\n  state B\n    when n >= 0: go A\n";
        var report = BenchReport.Watch(FarmBench.Setup(script, endsS: 20), 1);
        Assert.False(report.Passed);
        Assert.Contains("round in a loop", report.Failure!.Say);
    }

    [Fact]
    public void An_unplugged_eye_reads_nothing_and_counts_nothing()
    {
        BenchPlan With(string more) => FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(4000), endsS: 20, more: more);
        var report = BenchReport.Watch(With("unplug Tag eye at 0 s\n"), 1);
        Assert.False(report.Passed);
        Assert.All(report.Sensors[0].Readings, Assert.Null);
        var flat = BenchReport.Watch(With("battery at 4 V at 0 s\n"), 1);
        Assert.True(FarmBench.Speed(flat).Max() < 0.75 * FarmBench.Speed(BenchReport.Watch(With(""), 1)).Max());
    }

    [Fact]
    public void A_run_allocates_nothing()
    {
        var setup = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(2000, 100, 10));
        var run = new Bench(setup);
        run.Go(1, untilDecided: false);
        var least = Allocation.Least(() =>
        {
            for (var i = 0; i < 20; i++)
                run.Go(i, untilDecided: false);
        });
        Assert.Equal(0, least);
    }

    [Fact]
    public void Random_numbers_are_what_they_claim()
    {
        var stream = new RandomStream(42, 1);
        const int n = 400_000;
        double sum = 0,
            squares = 0,
            beyond = 0;
        for (var i = 0; i < n; i++)
        {
            var z = stream.Normal();
            sum += z;
            squares += z * z;
            if (z > 1.6448536269514722)
                beyond++;
        }
        Assert.Equal(0, sum / n, 4.0 / Math.Sqrt(n));
        Assert.Equal(1, squares / n, 4.0 * Math.Sqrt(2.0 / n));
        Assert.Equal(0.05, beyond / n, 4.0 * Math.Sqrt(0.05 * 0.95 / n));
        Assert.Equal(10_000, Enumerable.Range(0, 10_000).Select(i => RandomStream.SeedOfRun(1, i)).Distinct().Count());
        Assert.All(Enumerable.Range(0, 1000).Select(i => RandomStream.SeedOfRun(i, i)), s => Assert.InRange(s, 0, 1L << 53));
    }

    [Fact]
    public void Nested_states_regions_routines_and_chains_run_on_the_rail()
    {
        const string script = """
            program T

            var lit = 0
            goal: Main is in Over within 12 s

            region Main
              state Rolling, initial
                while here: run Trolley forward at 40 %
                after 2.5 s: go Over

                state Slow, initial
                  after 1 s: go Fast

                state Fast
                  while here: run Trolley at 70 %
                  after 1 s: go Slow

              state Over
                on entry: do Wave (2)

            region Light
              state Dark, initial
                when Main is in Rolling: set lit to lit + 1; go Lit

              state Lit
                while here: turn Lamp on

            routine Wave (often)
              state Waving, initial
                on entry: repeat often times: tone 400 Hz for 0.1 s
                when all done: go Waved

              state Waved, final

            """;
        var report = BenchReport.Watch(FarmBench.Setup(script, endsS: 12), 1);
        Assert.True(report.Passed);
        Assert.Equal(["Slow", "Fast", "Slow", "Over"], report.States[0].Stretches.Select(s => s.State));
        // The outer command comes back when the inner state has gone.
        Assert.Equal(
            ["run at 40 %", "run at 70 %", "run at 40 %", "stop and brake"],
            report.Outputs.Where(o => o.Device == "Trolley").Select(o => o.Say)
        );
        Assert.Contains(report.Events, e => e.Sentence.StartsWith("when Main is in Rolling"));
    }

    [Fact]
    public void What_a_rail_cannot_show_is_told_and_does_not_count()
    {
        var plan = FarmBench.Setup("program T\n\nnever: robot over the edge\n\nregion Main\n  state A, initial\n");
        Assert.Contains("no deck with an edge", plan.Rules[0].Unjudged);
    }

    // ---- sidings ----

    private const string On = "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 50 %\n";

    private static (double At, int Line, IReadOnlyList<double?> Lines) Siding(string more, double endsS = 12)
    {
        var report = BenchReport.Watch(FarmBench.Setup(On, endsS: endsS, more: more), 1, 50);
        var body = report.Bodies.First(b => b.Kind == "vehicle");
        return (body.X[^1]!.Value, (int)body.Heading[^1]!.Value, body.Heading);
    }

    [Fact]
    public void Points_that_are_set_aside_lead_into_the_siding_and_its_end_stop_holds()
    {
        const string siding = "siding shed leaves at 1000 mm, 600 mm long, end stop\n";
        var aside = Siding(siding + "points shed set aside\n");
        Assert.Equal(1, aside.Line);
        Assert.Equal(600, aside.At, 0.1);
        var straight = Siding(siding + "points shed set straight\n", 5);
        Assert.All(straight.Lines, l => Assert.Equal(0, l));
        Assert.InRange(straight.At, 1001, 3999);
    }

    [Fact]
    public void A_siding_that_is_left_from_the_other_side_is_passed_freely()
    {
        // It diverges only for what comes the other way: running out of the legs of a fork is free.
        var passed = Siding("siding shed leaves at 1000 mm backwards, 600 mm long, end stop\npoints shed set aside\n", 5);
        Assert.All(passed.Lines, l => Assert.Equal(0, l));
        Assert.InRange(passed.At, 1001, 3999);
    }

    [Fact]
    public void A_loop_leads_back_to_the_line_as_far_on_as_it_says()
    {
        var report = BenchReport.Watch(
            FarmBench.Setup(On, endsS: 9, more: "siding loop leaves at 1000 mm, 700 mm long, rejoins at 1900 mm\npoints loop set aside\n"),
            1,
            200
        );
        var body = report.Bodies.First(b => b.Kind == "vehicle");
        var enters = body.Heading.ToList().FindIndex(l => l == 1);
        var leaves = body.Heading.ToList().FindLastIndex(l => l == 1) + 1;
        Assert.InRange(enters, 1, leaves - 1);
        Assert.InRange(body.X[enters]!.Value, 0, 4);
        Assert.InRange(body.X[leaves - 1]!.Value, 696, 700);
        // Nothing of its way is lost where it goes over.
        Assert.InRange(body.X[leaves]!.Value, 1900, 1904);
        var speed = body.Speed[leaves];
        Assert.Equal(700, speed * (leaves - enters) / 200, 12.0);
    }

    [Fact]
    public void A_marker_of_a_siding_is_seen_there_and_nowhere_else()
    {
        const string script =
            "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 40 %\n"
            + "    when Tag eye becomes bed tag: go Found\n  state Found, final\n    on entry: stop Trolley and brake\n";
        const string siding =
            "siding shed leaves at 400 mm, 900 mm long, end stop\npoints shed set aside\n"
            + "marker buffer of bed tag 60 mm at 300 mm of siding shed\n";
        var report = BenchReport.Watch(FarmBench.Setup(script, endsS: 12, more: siding), 1, 50);
        var found = Assert.Single(report.Events, e => e.To == "Found");
        Assert.Contains("buffer", found.Place);
        // Straight on it is the first bed of the main line.
        var straight = BenchReport.Watch(FarmBench.Setup(script, endsS: 12, more: siding.Replace("set aside", "set straight")), 1, 50);
        Assert.Contains("bed 1", Assert.Single(straight.Events, e => e.To == "Found").Place);
    }
}
