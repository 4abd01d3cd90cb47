using Chiton.Core.Motion;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Simulation;

/// <summary>Numbers that were worked out through one another are drawn together: what the trials saw stays as they saw it.</summary>
public class LinkedNumbersTests
{
    private static BenchPlan Plan(RigDesign rig, params (string Key, AcceptedNumber Number)[] accepted) =>
        BenchPlan.Build(
            new(
                rig,
                new(rig, null, new Dictionary<string, IReadOnlyList<Trial>>(), accepted.ToDictionary(a => a.Key, a => a.Number)),
                new Dictionary<string, SensorCalibration>(),
                new Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>>()
            ),
            SceneParser.Parse("scene Test\nfloor 4 m by 4 m\nstart Drive at (2000, 2000) facing 0 robot deg\nends after 12 s\n", rig).Scene
        );

    private static RigDesign Doing(string action) =>
        FloorBench.Rig($"  state Go, initial\n    on entry: {action}\n    after 11 s: go Over\n  state Over, final\n");

    private static readonly (string, AcceptedNumber) Wheel = ("Drive: straight", new(56, 0.6, 0, 5, 800, null, 0, 0));

    private static AcceptedNumber Found(double value, double? against) => new(value, 1e-6, 0, 5, 360, null, 0, 0, against);

    // Where it ends with the wheel at a value and every other number at its usual one.
    private static (double X, double Y, double Heading) End(BenchPlan plan, double wheel)
    {
        var held = plan.Draws.ToDictionary(d => d.Name, d => d.Usual);
        held["wheel of Drive"] = wheel;
        var averaged = Enumerable
            .Range(0, 40)
            .Select(i => FloorBench.End(BenchReport.Watch(plan, i, 5, default, Draws.BestCopy, held)))
            .ToArray();
        return (averaged.Average(e => e.X), averaged.Average(e => e.Y), averaged.Average(e => e.Heading));
    }

    [Theory]
    [InlineData(56.0, 90)]
    [InlineData(null, 90 * 57 / 56.0)]
    public void A_turn_about_one_wheel_follows_the_wheel_it_was_found_through(double? against, double degrees)
    {
        var plan = Plan(Doing("turn robot right 90 robot deg pivoting at 20 %"), Wheel, ("Drive: pivot", Found(110, against)));
        Assert.Equal(90, End(plan, 56).Heading, 0.5);
        Assert.Equal(degrees, End(plan, 57).Heading, 0.5);
    }

    [Fact]
    public void A_pivot_that_was_found_apart_is_not_moved_by_a_turn_that_was_not()
    {
        var plan = Plan(
            Doing("turn robot right 90 robot deg pivoting at 20 %"),
            Wheel,
            ("Drive: turn", Found(120, 56)),
            ("Drive: pivot", Found(110, null))
        );
        Assert.Equal(90 * 57 / 56.0, End(plan, 57).Heading, 0.5);
    }

    [Fact]
    public void A_veer_is_what_was_seen_at_the_side_whatever_the_wheel()
    {
        BenchPlan Veering(double? against) => Plan(Doing("drive straight 1000 mm at 200 mm/s"), Wheel, ("Drive: veer", Found(4, against)));
        double Aside(BenchPlan plan, double wheel) => End(plan, wheel).X - 2000;
        var seen = Aside(Veering(56), 56);
        // 4 deg/m over a metre: 35 mm aside.
        Assert.Equal(4 * Math.PI / 180 * 1000 / 2, seen, 1.5);
        Assert.Equal(seen, Aside(Veering(56), 59), 0.5);
        Assert.True(Aside(Veering(null), 59) > seen + 2);
    }

    [Fact]
    public void A_full_speed_that_was_found_through_the_least_power_is_drawn_with_it()
    {
        var rig = Doing("run Drive forward at 50 %");
        rig = rig with
        {
            Actuators = rig
                .Actuators.Select(a => a.Name.EndsWith("wheel", StringComparison.Ordinal) ? a with { Kind = ActuatorKind.PlainMotor } : a)
                .ToSequence(),
        };
        // Half of 700 mm/s was seen, through a least power of 18 %: at 18 + 0.5 · 82 = 59 %.
        var plan = Plan(
            rig,
            ("Drive: speed", new(700, 1e-6, 0, 5, 350, null, 0, 0, 18)),
            ("Drive: least power", new(18, 3, 0, 6, 0, null, 0, 0))
        );
        var full = Enumerable.Range(0, plan.Draws.Count).Single(i => plan.Draws[i].Name == "top speed of Drive");
        var least = Enumerable.Range(0, plan.Draws.Count).Single(i => plan.Draws[i].Name == "least power of Drive");
        var bench = new Bench(plan);
        var seen = new List<double>();
        for (var copy = 0; copy < 50; copy++)
        {
            bench.Start(1, (ulong)copy);
            seen.Add(bench.Drawn[least]);
            Assert.Equal(350, bench.Drawn[full] * (0.59 - bench.Drawn[least] / 100) / (1 - bench.Drawn[least] / 100), 0.1);
        }
        Assert.True(seen.Max() - seen.Min() > 4);
    }
}
