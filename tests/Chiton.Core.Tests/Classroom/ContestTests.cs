using Chiton.Core.Classroom;
using Chiton.Core.Tests.Simulation;

namespace Chiton.Core.Tests.Classroom;

/// <summary>Machines against each other in the bench.</summary>
public class ContestTests
{
    private static string Runs(int percent, string more = "") => $"  state Go, initial\n    while here: run Drive at {percent} %\n{more}";

    private const string Stands = "  state Idle, initial\n    while here: turn Lamp on\n";

    private static BenchCopy Machine(string main, string name = "Robot") => FloorBench.Copy(FloorBench.Rig(main, name: name));

    private static (double? First, double? Second) Once(Challenge challenge, BenchPlan plan, int seed = 1) =>
        Contest.Run(challenge, new Bench(plan), seed, seed);

    [Fact]
    public void Who_is_out_first_has_fallen_when_the_bench_says_so()
    {
        var challenge = ChallengeTests.Made(HeatScore.Stays);
        var plan = Contest.Alone(challenge, Machine(Runs(40)));
        var (fell, none) = Once(challenge, plan);
        Assert.Null(none);
        // 640 mm to the edge, less what of its body is ahead: it falls between where its front and its axle get there.
        var report = BenchReport.Watch(plan, 1, 20);
        var drive = report.Bodies.First(b => b.Kind == "drive");
        var speed = (drive.Y[60]!.Value - drive.Y[40]!.Value) / (report.TimeS[60] - report.TimeS[40]);
        Assert.InRange(fell!.Value, (900 - 200 - 75) / speed, (900 - 200) / speed + 0.3);
        // Who stands stays to the end.
        Assert.Equal(20, Once(challenge, Contest.Alone(challenge, Machine(Stands))).First);
    }

    [Fact]
    public void Distance_is_as_the_crow_flies_and_a_fall_ends_it()
    {
        var scene = "scene Way\nends after 5 s\nfloor 5 m by 5 m\nstart Drive at (500, 500) facing 30 robot deg\n";
        var challenge = ChallengeTests.Made(HeatScore.Distance, scene);
        var plan = Contest.Alone(challenge, Machine(Runs(40)));
        var drive = BenchReport.Watch(plan, 3, 10).Bodies.First(b => b.Kind == "drive");
        var (x, y) = (drive.X[^1]!.Value - drive.X[0]!.Value, drive.Y[^1]!.Value - drive.Y[0]!.Value);
        Assert.Equal(Math.Sqrt(x * x + y * y), Once(challenge, plan, 3).First!.Value, 2.0);
        // There and back again: the farthest counts.
        var back = "    after 2 s: go Back\n  state Back\n    while here: run Drive at -40 %\n";
        var turned = Once(challenge, Contest.Alone(challenge, Machine(Runs(40, back))), 3).First!.Value;
        Assert.InRange(turned, 0.3 * Math.Sqrt(x * x + y * y), 0.5 * Math.Sqrt(x * x + y * y));
        Assert.Equal(0, Once(challenge, Contest.Alone(challenge, Machine(Stands))).First);
    }

    [Fact]
    public void Time_counts_the_goals_of_the_challenge_and_none_of_the_program()
    {
        const string lit = "  state Idle, initial\n    after 1.5 s: go Lit\n  state Lit, final\n    on entry: turn Lamp on\n";
        var challenge = ChallengeTests.Made(HeatScore.Time, ChallengeTests.Deck + "goal: Lamp is on\n");
        var rig = FloorBench.Rig(lit);
        // Its own goal is never met; the challenge does not ask for it.
        var own = rig with
        {
            Programs =
            [
                rig.Programs[0] with
                {
                    Script = rig.Programs[0].Script.Replace("\n\nregion", "\nnever: Lamp is on\n\nregion", StringComparison.Ordinal),
                },
            ],
        };
        Assert.Equal(1.5, Once(challenge, Contest.Alone(challenge, FloorBench.Copy(own))).First!.Value, 0.02);
        Assert.False(
            new Bench(FloorBench.Plan(own, ChallengeTests.Deck["scene Deck\n".Length..] + "goal: Lamp is on\n", false)).Go(1).Passed
        );
        // Who is not done has no time.
        Assert.Null(Once(challenge, Contest.Alone(challenge, Machine(Runs(0)))).First);
    }

    [Fact]
    public void In_one_place_the_faster_falls_first_in_either_lane()
    {
        // Both 640 mm from an edge ahead.
        var challenge = ChallengeTests.Made(
            HeatScore.Stays,
            "scene Deck\nends after 20 s\ndeck 2000 by 900 mm\nstart Drive at (400, 200) facing 0 robot deg\n",
            new(1600, 700, 180)
        );
        var (slow, fast) = (Machine(Runs(30), "Slow"), Machine(Runs(60), "Fast"));
        var (first, second) = Once(challenge, Contest.Both(challenge, slow, fast));
        Assert.Equal(20, first);
        Assert.InRange(second!.Value, 0.5, 10);
        // With the lanes changed as well; the step of the clock in which it is noticed is another.
        var changed = Once(challenge, Contest.Both(challenge, fast, slow));
        Assert.Equal(20, changed.Second);
        Assert.Equal(second.Value, changed.First!.Value, 0.05);
    }

    [Fact]
    public void A_load_is_knocked_off_by_the_other_and_who_lost_it_has_lost()
    {
        const string deck =
            "scene Joust\nends after 20 s\ndeck 2000 by 900 mm\n"
            + "thing buoy round 30 mm 20 g, on Drive at (0, 80), knocked off by a touch\n"
            + "start Drive at (400, 450) facing 90 robot deg\n";
        // The other stands across: its buoy is out of the way of the one that comes, whose own comes first against its side.
        var challenge = ChallengeTests.Made(HeatScore.Stays, deck, new(1000, 450, 0));
        var (comes, stands) = Once(challenge, Contest.Both(challenge, Machine(Runs(40)), Machine(Stands)));
        Assert.Equal(20, stands);
        Assert.InRange(comes!.Value, 0.5, 10);
        // Each has one: the same with lanes changed. Where nobody moves both stay.
        var other = ChallengeTests.Made(
            HeatScore.Stays,
            deck.Replace("facing 90", "facing 0", StringComparison.Ordinal),
            new(1000, 450, 270)
        );
        var (idle, rams) = Once(other, Contest.Both(other, Machine(Stands), Machine(Runs(40))));
        Assert.Equal(20, idle);
        Assert.InRange(rams!.Value, 0.5, 10);
        Assert.Equal((20.0, 20.0), Once(other, Contest.Both(other, Machine(Stands), Machine(Stands))));
        // What drives may have a name of its own, in either lane, and carries its load all the same.
        var design = FloorBench.Rig(Runs(40).Replace("Drive", "Barrow", StringComparison.Ordinal));
        var barrow = FloorBench.Copy(
            design with
            {
                Mechanisms = [design.Mechanisms[0] with { Name = "Barrow" }, .. design.Mechanisms.Skip(1)],
            }
        );
        var (comesToo, standsToo) = Once(challenge, Contest.Both(challenge, barrow, Machine(Stands)));
        var (idleToo, ramsToo) = Once(other, Contest.Both(other, Machine(Stands), barrow));
        Assert.Equal((20, 20), (standsToo, idleToo));
        // Its numbers are drawn under its own name.
        Assert.Equal(comes.Value, comesToo!.Value, 0.3);
        Assert.Equal(rams.Value, ramsToo!.Value, 0.3);
    }

    [Fact]
    public void A_tournament_is_run_whole_and_a_machine_that_cannot_run_is_told_and_loses()
    {
        var broken = FloorBench.Copy(FloorBench.Rig("  state Go, initial\n    nonsense\n"));
        foreach (var together in new[] { false, true })
        {
            var challenge = ChallengeTests.Made(
                HeatScore.Stays,
                "scene Deck\nends after 8 s\ndeck 2000 by 900 mm\nstart Drive at (400, 200) facing 0 robot deg\n",
                together ? new(1600, 700, 180) : null
            );
            var told = 0;
            var runs = Contest.Run(
                challenge,
                [Machine(Runs(30)), Machine(Stands), broken, null, Machine(Runs(60))],
                1,
                (done, all) => told = Math.Max(told, done == all ? all : 0)
            );
            Assert.Equal(["", "", ""], [runs.Missing[0], runs.Missing[1], runs.Missing[4]]);
            Assert.Contains("fault", runs.Missing[2]);
            Assert.Equal("It has no rig.", runs.Missing[3]);
            Assert.Equal(together ? 3 * Contest.MetRunsEach(5) : 3 * Contest.AloneRuns, told);
            var places = Heats.Chances(5, [], HeatScore.Stays, runs.Draw, 200, 1);
            // Who stands is first, the slow one second, the fast one third; the two that cannot run share the rest.
            Assert.Equal([1, 0, 0, 0, 0], places[1]);
            Assert.Equal([0, 1, 0, 0, 0], places[0]);
            Assert.Equal([0, 0, 1, 0, 0], places[4]);
            Assert.Equal([0, 0, 0, 0.5, 0.5], places[2].Select(p => Math.Round(p, 9)));
            // The same again is the same.
            Assert.Equal(
                places,
                Heats.Chances(
                    5,
                    [],
                    HeatScore.Stays,
                    Contest.Run(challenge, [Machine(Runs(30)), Machine(Stands), broken, null, Machine(Runs(60))], 1, workers: 2).Draw,
                    200,
                    1
                )
            );
        }
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.ThrowsAny<OperationCanceledException>(() =>
            Contest.Run(ChallengeTests.Made(HeatScore.Stays), [Machine(Stands), Machine(Stands)], 1, cancel: stop.Token)
        );
    }

    [Fact]
    public void What_a_scene_asks_of_a_machine_that_has_it_not_is_said()
    {
        var rig = FloorBench.Rig(Stands) with { Mechanisms = [] };
        var problem = Assert.Throws<InputProblem>(() =>
            Contest.Alone(ChallengeTests.Made(HeatScore.Distance, "scene A\nends after 5 s\nfloor 1 m by 1 m\n"), FloorBench.Copy(rig))
        );
        Assert.Contains("Nothing drives", string.Join(" ", problem.Errors.Values));
        var eye = ChallengeTests.Deck.Replace("\n\nstart", "\nlight rises by 8 % on No eye at 5 s\nstart", StringComparison.Ordinal);
        var said = Assert.Throws<InputProblem>(() => Contest.Alone(ChallengeTests.Made(HeatScore.Stays, eye), Machine(Stands)));
        Assert.StartsWith("Line 5 of the scene: ", said.Errors["scene"]);
    }
}
