namespace Chiton.Core.Tests.Simulation;

/// <summary>Points of a scene, and how far a goal that counts things had come.</summary>
public class PointsTests
{
    private const string Blinks =
        "  state Idle, initial\n    after 0.3 s: go Lit\n\n  state Lit\n    while here: turn Lamp on\n    after 0.3 s: go Dark\n\n"
        + "  state Dark, final\n    on entry: turn Lamp off\n";
    private const string Off = "  state Go, initial\n    while here: run Drive at 50 %\n    after 9 s: go Over\n\n  state Over, final\n";
    private const string Crumbs =
        "place bay 200 by 200 mm at (800, 600)\nthing crumb round 20 mm at (800, 600)\nthing crust round 20 mm at (760, 620)\n"
        + "thing husk round 20 mm at (900, 200)\nstart Drive at (200, 200) facing 0 robot deg\n";

    private static double Score(string main, string scene) => new Bench(FloorBench.Plan(FloorBench.Rig(main), scene, false)).Go(1).Score;

    [Theory]
    [InlineData(10, "score 10 for each crumb on bay\n")]
    [InlineData(0, "score 10 for each crumb off bay\n")]
    [InlineData(13, "score 10 for each crumb on bay\nscore 3 for each crust in bay\n")]
    [InlineData(4, "score 4 for each husk off bay\n")]
    // It was on for a while only: that counts, once.
    [InlineData(5, "score 5 when Lamp is on\n")]
    [InlineData(0, "score 5 when Lamp is on and Main is in Idle\n")]
    [InlineData(7, "score 5 when Lamp is on\nscore 2 when Main is in Dark\n")]
    public void Things_and_what_happened_count(double points, string lines) =>
        Assert.Equal(points, Score(Blinks, "floor 1200 by 900 mm\n" + Crumbs + "ends after 4 s\n" + lines));

    [Fact]
    public void A_fall_costs_and_wins_no_time()
    {
        const string deck = "deck 1200 by 900 mm\nstart Drive at (600, 700) facing 0 robot deg\nends after 20 s\n";
        Assert.Equal(-20, Score(Off, deck + "score -20 when Drive over the edge\n"));
        Assert.Equal(0, Score(Off, deck + "score 1 for each second left\nnever: Drive over the edge\n"));
    }

    [Fact]
    public void Seconds_are_left_once_all_is_done()
    {
        const string scene =
            "floor 1200 by 900 mm\nstart Drive at (600, 400) facing 0 robot deg\nends after 20 s\nscore 2 for each second left\n";
        // Lit at 0.3 s: 19 whole seconds are left.
        Assert.Equal(38, Score(Blinks, scene + "goal: Lamp is on\n"));
        // Without a goal it is done when its program is, at 0.6 s.
        Assert.Equal(38, Score(Blinks, scene));
        Assert.Equal(0, Score(Blinks, scene + "goal: Lamp is on for 5 s\n"));
    }

    [Theory]
    // Its program ends at 0.6 s and nothing can change any more: it is dark for the rest of 5 s.
    [InlineData("goal: Main is in Dark for 4 s", true)]
    [InlineData("goal: Main is in Dark for 4.6 s", false)]
    [InlineData("goal: Lamp is on\nnever: Main is in Dark for more than 4 s", false)]
    [InlineData("goal: Lamp is on\nnever: Main is in Dark for more than 4.6 s", true)]
    public void What_never_changes_again_lasts_to_the_end(string rules, bool passes) =>
        Assert.Equal(
            passes,
            BenchReport
                .Watch(
                    FloorBench.Plan(
                        FloorBench.Rig(Blinks),
                        $"floor 1200 by 900 mm\nstart Drive at (600, 400) facing 0 robot deg\nends after 5 s\n{rules}\n",
                        false
                    ),
                    1
                )
                .Passed
        );

    [Fact]
    public void A_goal_that_counts_says_how_far_it_had_come()
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig(Blinks),
            "floor 1200 by 900 mm\nplace bay 200 by 200 mm at (800, 600)\n3 things crumb round 20 mm at random on bay\n"
                + "2 things husk round 20 mm at random on the floor\nperson puts crumb at (200, 800) at 1 s\n"
                + "start Drive at (200, 200) facing 0 robot deg\nends after 3 s\ngoal: every crumb off bay within 2 s\n",
            false
        );
        Assert.Contains("the goal was not reached: so far 1 of 3;", BenchReport.Watch(plan, 1).Failure!.Say);
    }
}
