using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Simulation;

/// <summary>Any number of a scene may vary, and any line of what lies there may be so in some runs only: held against shares worked out
/// by hand.</summary>
public class VaryingTests
{
    private const string Idle = "  state Idle, initial\n    after 50 s: go Idle\n";
    private const string Floor = "floor 1200 by 900 mm\n";
    private const string Here = "start Drive at (300, 300) facing 0 robot deg\n";
    private const string On = "goal: Drive on spot\nends after 0.2 s\n";

    // 1 600 runs: three standard errors of a share are at most 0.0375.
    private const int Runs = 1_600;

    private static void Passes(double share, string scene, string main = Idle)
    {
        var rate = FloorBench.Rate(FloorBench.Plan(FloorBench.Rig(main), scene), Runs);
        var error = 3.3 * Math.Sqrt(Math.Max(0.003, share * (1 - share)) / Runs);
        Assert.InRange(rate, share - error, share + error);
    }

    [Theory]
    // One and two standard deviations of a bell, cut at three: 0.6836 and 0.9570.
    [InlineData(0.6836, "place spot 40 by 400 mm at (300 give or take 20, 300)\n")]
    [InlineData(0.6836, "place spot 400 by 40 mm at (300, 300 give or take 2 cm)\n")]
    [InlineData(0.9570, "strip spot of sand 40 mm wide from (300 give or take 20, 0) to (300, 600)\n")]
    // A size stays one, however far it is drawn: else a third of these would lie nowhere.
    [InlineData(1, "place spot 20 mm give or take 40 mm by 400 mm at (300, 300)\n")]
    // In two directions: 1 − e^(−½).
    [InlineData(0.3945, "round place spot 40 mm across at (300, 300) give or take 20 mm\n")]
    [InlineData(0.7625, "place spot between 1 mm and 81 mm by 400 mm at (310, 300)\n")]
    [InlineData(0.75, "patch spot of sand 400 by 400 mm at (between 0 and 400, 300), measured\n")]
    // 50 mm from its middle, 10 mm from its edge: up to asin 0.2.
    [InlineData(0.1282, "patch spot of sand 20 by 400 mm at (300, 350), turned between 0 robot deg and 90 robot deg\n")]
    [InlineData(0.4, "place spot 400 by 400 mm at (300, 300), in 40 of 100 runs\n")]
    [InlineData(0.4, "round patch spot of sand 400 mm across at (300, 300), in 2 of 5 runs\n")]
    [InlineData(0.4, "strip spot of sand 40 mm wide from (300, 0) to (300, 600), in 40 of 100 runs\n")]
    public void A_place_lies_where_its_numbers_say_in_each_run(double share, string place) => Passes(share, Floor + place + Here + On);

    [Theory]
    [InlineData(0.75, "floor between 400 mm and 800 mm by 900 mm\n", "start Drive at (500, 300) facing 0 robot deg\n")]
    [InlineData(0.75, "deck 900 by between 400 mm and 800 mm\n", "start Drive at (300, 500) facing 0 robot deg\n")]
    public void The_ground_is_as_large_as_it_is_in_each_run(double share, string ground, string start) =>
        Passes(share, ground + start + $"goal: Drive on the {ground[..ground.IndexOf(' ')]}\nends after 0.2 s\n");

    [Theory]
    [InlineData(0.6836, "start Drive at (300 give or take 20, 300) facing 0 robot deg\n")]
    [InlineData(0.6836, "start Drive at (300, 300) facing 0 robot deg give or take 20 mm and 3 robot deg\n")]
    [InlineData(0.8, "start Drive at (300, 300) facing 0 robot deg\nstart Drive at (600, 300) facing 0 robot deg, in 20 of 100 runs\n")]
    [InlineData(
        0.6836,
        "start Drive at (600, 300) facing 0 robot deg\nperson puts Drive at (300 give or take 20, 300) facing 0 robot deg at 50 ms\n"
    )]
    [InlineData(
        0.6836,
        "start Drive at (600, 300) facing 0 robot deg\n"
            + "person puts Drive at (300, 300) facing 0 robot deg give or take 20 mm and 3 robot deg at 50 ms\n"
    )]
    // Unsaid, it is put down as well as at the start.
    [InlineData(
        0.6836,
        "start Drive at (600, 300) facing 0 robot deg give or take 20 mm and 3 robot deg\n"
            + "person puts Drive at (300, 300) facing 0 robot deg at 50 ms\n"
    )]
    public void A_robot_is_put_down_as_well_as_its_line_says(double share, string start) =>
        Passes(share, Floor + "place spot 40 by 800 mm at (300, 400)\n" + start + On);

    [Theory]
    // Of a body 120 mm long and 140 mm wide about (300, 300): its middle, any part of it, all of it.
    [InlineData("place spot 100 by 100 mm at (300, 300)", true, true, false)]
    [InlineData("place spot 20 by 20 mm at (340, 330)", false, true, false)]
    [InlineData("strip spot of sand 10 mm wide from (0, 340) to (900, 340)", false, true, false)]
    [InlineData("strip spot of sand 10 mm wide from (340, 0) to (340, 900)", false, true, false)]
    [InlineData("place spot 160 by 140 mm at (300, 300)", true, true, true)]
    [InlineData("place spot 160 by 140 mm at (315, 300)", true, true, false)]
    [InlineData("round place spot 60 mm across at (300, 400)", false, false, false)]
    [InlineData("round place spot 90 mm across at (300, 400)", false, true, false)]
    public void On_is_its_middle_touching_any_part_and_wholly_all_of_it(string place, bool on, bool touching, bool wholly)
    {
        foreach (var (words, holds) in new[] { ("on", on), ("touching", touching), ("wholly on", wholly) })
            Passes(holds ? 1 : 0, Floor + place + "\n" + Here + $"goal: Drive {words} spot\nends after 0.2 s\n");
    }

    [Fact]
    public void It_faces_where_its_heading_says()
    {
        // 100 mm ahead between up and to the right: half of them more than 71 mm to the right.
        const string main =
            "  state Go, initial\n    on entry: drive straight 100 mm at 20 %\n    when Drive is done: go Over\n  state Over, final\n";
        Passes(
            0.5,
            Floor
                + "place spot 400 by 800 mm at (570.7, 400)\nstart Drive at (300, 300) facing between 0 robot deg and 90 robot deg\n"
                + "goal: Drive on spot at the end\nends after 4 s\n",
            main
        );
    }

    [Theory]
    [InlineData(0.6836, "thing crate round 20 mm at (700 give or take 20, 300)\n")]
    [InlineData(0.6836, "thing crate 20 by 30 mm at (700, 300) give or take 20 mm\n")]
    [InlineData(0.6836, "thing crate round 20 mm at (900, 300)\nperson puts crate at (700, 300) give or take 20 mm at 50 ms\n")]
    [InlineData(0.3, "thing crate round 20 mm at (700, 300), in 30 of 100 runs\n")]
    public void Things_lie_where_their_lines_say(double share, string thing) =>
        Passes(
            share,
            Floor + "place spot 40 by 800 mm at (700, 400)\n" + thing + Here + "goal: crate on spot at the end\nends after 0.2 s\n"
        );

    [Fact]
    public void A_wall_that_stands_there_in_some_runs_stops_a_robot_in_those()
    {
        const string main =
            "  state Go, initial\n    on entry: drive straight 300 mm at 30 %\n    when Drive is done: go Over\n  state Over, final\n";
        const string goal = "place spot 400 by 100 mm at (300, 600)\ngoal: Drive on spot\nends after 5 s\n";
        Passes(0.7, Floor + Here + "wall from (0, 500) to (600, 500), in 30 of 100 runs\n" + goal, main);
        Passes(0.7, Floor + Here + "thing block 400 by 40 mm at (300, 500), fixed, in 30 of 100 runs\n" + goal, main);
        // It reaches 60 mm ahead of its axle: what begins beyond 610 mm lets the axle come to 550.
        Passes(0.4, Floor + Here + "thing block 400 by 40 mm at (300, between 570 and 670), fixed\n" + goal, main);
    }

    [Fact]
    public void What_one_line_draws_does_not_reshuffle_another()
    {
        var plain = FloorBench.Plan(FloorBench.Rig(Idle), Floor + Here + "place spot 40 by 400 mm at (300 give or take 20, 300)\n" + On);
        var more = FloorBench.Plan(
            FloorBench.Rig(Idle),
            Floor
                + "wall from (10 give or take 2, 10) to (10, 200), in 30 of 100 runs\n"
                + Here
                + "place spot 40 by 400 mm at (300 give or take 20, 300)\n"
                + On
        );
        for (var seed = 1; seed <= 60; seed++)
            Assert.Equal(new Bench(plain).Go(seed).Passed, new Bench(more).Go(seed).Passed);
    }

    [Fact]
    public void A_number_of_the_ground_can_be_held_and_the_picture_is_that_of_the_run()
    {
        var plan = FloorBench.Plan(FloorBench.Rig(Idle), Floor + Here + "place spot 40 by 400 mm at (300 give or take 20, 300)\n" + On);
        var name = Assert.Single(plan.Draws, d => d.Name.StartsWith("spot", StringComparison.Ordinal)).Name;
        var far = BenchReport.Watch(plan, 1, held: new Dictionary<string, double> { [name] = 360 });
        Assert.False(far.Passed);
        Assert.Equal(360, far.Scene!.First("place")!.Point("at")!.Value.X, 9);
        Assert.True(BenchReport.Watch(plan, 1, held: new Dictionary<string, double> { [name] = 305 }).Passed);
        var gone = FloorBench.Plan(FloorBench.Rig(Idle), Floor + Here + "place spot 40 by 400 mm at (300, 300), in 0 of 100 runs\n" + On);
        Assert.Empty(
            ScenePlan
                .Of(
                    BenchReport.Watch(gone, 1).Scene!,
                    gone.Rigs[0],
                    new Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>>()
                )
                .Shapes
        );
    }

    [Theory]
    [InlineData("marker extra of bed tag 60 mm at 2900 mm give or take 5 mm\n", 2900, 5)]
    [InlineData("marker extra of bed tag 60 mm at between 2900 mm and 2920 mm\n", 2910, 5.7735)]
    [InlineData("siding spur leaves at 3000 mm give or take 4 mm, 600 mm long, end stop\n", 3000, 4)]
    public void What_lies_along_a_rail_lies_where_its_line_says(string line, double mean, double sd)
    {
        var bench = new Bench(FarmBench.Setup(FarmBench.StopAtSecond, more: line));
        double Where(ulong seed)
        {
            bench.Start(seed, seed);
            return line[0] == 'm' ? bench.Layout.Markers[^1].AtMm : bench.Layout.Lines[^1].LeavesAt;
        }
        var at = Enumerable.Range(1, 900).Select(seed => Where((ulong)seed)).ToArray();
        var middle = at.Average();
        Assert.InRange(middle, mean - sd / 8, mean + sd / 8);
        Assert.InRange(Math.Sqrt(at.Average(x => (x - middle) * (x - middle))), sd * 0.9, sd * 1.08);
    }

    [Fact]
    public void A_marker_that_fell_off_in_some_runs_is_not_stopped_over_in_those()
    {
        var fine = new Bench(FarmBench.Setup(FarmBench.StopAtSecond));
        var torn = new Bench(
            FarmBench.Setup(
                FarmBench.StopAtSecond,
                more: "marker extra of bed tag 60 mm at 1600 mm, in 60 of 100 runs\ngoal: stopped over extra within 20 s\n"
            )
        );
        Assert.All(Enumerable.Range(1, 20), seed => Assert.True(fine.Go(seed).Passed));
        Assert.InRange(Enumerable.Range(1, 900).Count(seed => torn.Go(seed).Passed) / 900.0, 0.55, 0.65);
    }

    [Theory]
    [InlineData("floor 1200 by 900 mm, in 30 of 100 runs", "so in every run")]
    [InlineData("place spot 40 by 40 mm at (300, 200000)", "At most 100000 mm")]
    [InlineData("place spot 40 by 40 mm at (300, 200 give or take -4)", "not below 0")]
    [InlineData("wall from (0, 0) to (between 9 and 3, 0)", "must be the greater")]
    [InlineData("ends after 20 s give or take 2 s", "After “ends after 20 s” I cannot read “give”")]
    public void What_cannot_vary_so_is_said_at_its_line(string line, string says)
    {
        var said = SceneParser.Parse("scene Test\n" + line + "\n", FloorBench.Rig(Idle)).Diagnostics;
        Assert.Contains(said, d => d.Line == 2 && d.Message.Contains(says, StringComparison.Ordinal));
    }
}
