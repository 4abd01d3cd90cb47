using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Simulation;

/// <summary>A drive with jaws, and one with a fork: seek, grip, carry, set down; and what is lost on the way.</summary>
public class CarryingTests
{
    private static Quantity Sure(double value, string unit = "") => FarmBench.Sure(value, unit);

    private static RigDesign Rig(string main)
    {
        var rig = FloorBench.Rig(main);
        return rig with
        {
            Sensors =
            [
                .. rig.Sensors,
                new("Range", SensorKind.Distance, 20, 1, ["near", "far"])
                {
                    Principle = RangePrinciple.Optical,
                    Mount = new(Sure(62, "mm"), Sure(0, "mm"), Sure(30, "mm"), Facing.Ahead),
                    BeamHalfAngleDeg = Sure(4, "°"),
                    BlindMm = Sure(10, "mm"),
                    ReachMm = Sure(900, "mm"),
                    SilentReading = 2000,
                    SilenceIs = "far",
                    Bands = [new("near", 10, 45), new("far", 45, 900)],
                },
            ],
            Actuators = [.. rig.Actuators, new("Jaw motor", ActuatorKind.RegulatedMotor), new("Fork motor", ActuatorKind.RegulatedMotor)],
            Mechanisms =
            [
                .. rig.Mechanisms,
                FloorBench.Jaws("Jaw motor"),
                new("Fork", MechanismKind.Lift, ["Fork motor"])
                {
                    Travel = new(Sure(0, "motor deg"), Sure(900, "motor deg")),
                    Directions = [new("up", true), new("down", false)],
                    WheelDiameterMm = Sure(24, "mm"),
                    TipAheadMm = Sure(140, "mm"),
                },
            ],
        };
    }

    private const string Seek = """
          state Looking, initial
            while here: turn robot right spinning at 20 robot deg/s
            when Range < 400 mm: go Facing
            after 20 s: go Lost
          state Facing
            on entry: stop Drive and brake; turn robot right 4 robot deg spinning at 10 %
            when all done: go Coming
          state Coming
            while here: drive straight at 100 mm/s
            when Range is near: go Gripping
            after 8 s: go Lost
          state Gripping
            on entry: stop Drive and brake
            while here: run Jaws close at 40 %
            when Jaws stalls: go Turning
            after 3 s: go Lost
          state Turning
            on entry: stop Jaws and hold, then turn robot right 90 robot deg spinning at 20 %, then drive straight 300 mm at 150 mm/s
            when all done: go Letting go
          state Letting go
            on entry: run Jaws open 90 motor deg at 40 %
            when Jaws is done: go Leaving
          state Leaving
            on entry: drive back 100 mm at 100 mm/s
            when all done: go Home
          state Home, final
          state Lost, final

        """;

    private static BenchReport Run(string main, string scene) => BenchReport.Watch(FloorBench.Plan(Rig(main), scene, false), 1, 50);

    private static (double X, double Y) Where(BenchReport report, string name, int at = -1)
    {
        var b = report.Bodies.First(b => b.Name == name);
        var k = at < 0 ? b.X.Count + at : at;
        return (b.X[k]!.Value, b.Y[k]!.Value);
    }

    [Fact]
    public void It_looks_for_a_buoy_grips_it_turns_away_and_lets_it_go_in_its_bay()
    {
        var report = Run(
            Seek,
            "floor 3 m by 3 m\nthing buoy round 30 mm 40 g at (1500, 1850)\nplace bay 200 by 200 mm at (1920, 1740)\n"
                + "start Drive at (1500, 1500) facing -40 robot deg\nends after 40 s\ngoal: buoy on bay\ngoal: Main is in Home\n"
        );
        Assert.True(report.Passed, report.Say + string.Join("; ", report.Events.Select(e => $" {e.TimeS:0.0} {e.To} {e.Place}")));
        // Carried, it goes with the robot: 90 to 120 mm from its axle all the way.
        var turning = report.Events.First(e => e.To == "Turning").TimeS;
        var letGo = report.Events.First(e => e.To == "Letting go").TimeS;
        for (var i = 0; i < report.TimeS.Count; i++)
        {
            if (report.TimeS[i] <= turning || report.TimeS[i] >= letGo)
                continue;
            var (bx, by) = Where(report, "buoy", i);
            var (dx, dy) = Where(report, "Drive", i);
            Assert.InRange(Math.Sqrt((bx - dx) * (bx - dx) + (by - dy) * (by - dy)), 60, 121);
        }
    }

    [Fact]
    public void Jaws_that_close_beside_it_hold_nothing()
    {
        var report = Run(
            "  state Gripping, initial\n    while here: run Jaws close at 40 %\n    when Jaws stalls: go Away\n    after 3 s: go Away\n"
                + "  state Away\n    on entry: drive back 200 mm at 100 mm/s\n",
            "floor 3 m by 3 m\nthing buoy round 30 mm at (1540, 1600)\nstart Drive at (1500, 1500) facing 0 robot deg\nends after 8 s\n"
        );
        Assert.Equal((1540, 1600), Where(report, "buoy"));
    }

    [Theory]
    [InlineData("", true)]
    [InlineData(", slips below 40 N", false)]
    public void A_grip_that_is_too_weak_loses_it_as_soon_as_it_moves(string slips, bool held)
    {
        var report = Run(
            "  state Gripping, initial\n    while here: run Jaws close at 40 %\n    when Jaws stalls: go Away\n"
                + "  state Away\n    on entry: stop Jaws and hold, then drive back 200 mm at 100 mm/s\n",
            $"floor 3 m by 3 m\nthing buoy round 30 mm at (1500, 1600){slips}\nstart Drive at (1500, 1500) facing 0 robot deg\n"
                + "ends after 8 s\n"
        );
        Assert.Equal(held ? 1400 : 1600, Where(report, "buoy").Y, 6.0);
    }

    [Fact]
    public void What_a_person_takes_out_of_the_jaws_is_gone_and_what_is_put_elsewhere_stays_there()
    {
        const string main =
            "  state Gripping, initial\n    while here: run Jaws close at 40 %\n    when Jaws stalls: go Away\n"
            + "  state Away\n    on entry: stop Jaws and hold, then drive back 200 mm at 100 mm/s\n";
        const string scene =
            "floor 3 m by 3 m\nthing buoy round 30 mm at (1500, 1600)\nstart Drive at (1500, 1500) facing 0 robot deg\nends after 8 s\n";
        var taken = Run(main, scene + "person takes buoy at 2 s\n").Bodies.First(b => b.Name == "buoy");
        Assert.NotNull(taken.X[50]);
        Assert.Null(taken.X[^1]);
        Assert.Equal((2000, 500), Where(Run(main, scene + "person puts buoy at (2000, 500) at 2 s\n"), "buoy"));
    }

    [Theory]
    [InlineData(400, true)]
    [InlineData(100, false)]
    public void A_fork_takes_up_what_it_stands_under_once_it_is_high_enough(double motorDeg, bool taken)
    {
        // 24 mm of drum: 0.209 mm a motor degree; 400 are 84 mm, 100 are 21.
        var report = Run(
            $"  state Lifting, initial\n    on entry: run Fork up {motorDeg} motor deg at 30 %, then drive back 200 mm at 100 mm/s, "
                + $"then run Fork down {motorDeg} motor deg at 30 %, then drive back 200 mm at 100 mm/s\n",
            "floor 3 m by 3 m\nthing crate 60 by 60 mm 80 g at (1500, 1620), forked from 40 mm up\n"
                + "start Drive at (1500, 1500) facing 0 robot deg\nends after 20 s\n"
        );
        // Set down where the fork went down, and left there.
        Assert.Equal(taken ? 1420 : 1620, Where(report, "crate").Y, 6.0);
    }

    [Fact]
    public void A_fork_that_goes_up_backwards_takes_it_up_as_well()
    {
        var rig = Rig("  state Lifting, initial\n    on entry: run Fork up 400 motor deg at 30 %, then drive back 200 mm at 100 mm/s\n");
        rig = rig with
        {
            Mechanisms =
            [
                .. rig.Mechanisms.Select(m =>
                    m.Name == "Fork"
                        ? m with
                        {
                            Travel = new(Sure(-900, "motor deg"), Sure(0, "motor deg")),
                            Directions = [new("up", false), new("down", true)],
                        }
                        : m
                ),
            ],
        };
        var plan = FloorBench.Plan(
            rig,
            "floor 3 m by 3 m\nthing crate 60 by 60 mm 80 g at (1500, 1620), forked from 40 mm up\nstart Fork at 0 motor deg\n"
                + "start Drive at (1500, 1500) facing 0 robot deg\nends after 8 s\n",
            false
        );
        Assert.Equal(1420, Where(BenchReport.Watch(plan, 1, 50), "crate").Y, 6.0);
    }

    [Fact]
    public void A_fork_that_comes_in_above_its_seat_takes_nothing_up()
    {
        var report = Run(
            "  state Lifting, initial\n    on entry: run Fork up 300 motor deg at 30 %, then drive straight 60 mm at 100 mm/s, "
                + "then run Fork up 200 motor deg at 30 %, then drive back 200 mm at 100 mm/s\n",
            "floor 3 m by 3 m\nthing crate 60 by 60 mm 80 g at (1500, 1680), forked from 40 mm up\n"
                + "start Drive at (1500, 1500) facing 0 robot deg\nends after 20 s\n"
        );
        Assert.Equal(1680, Where(report, "crate").Y, 6.0);
    }

    // ---- carriage, and the sum that says what holds ----

    [Theory]
    [InlineData(0.35)]
    [InlineData(0.12)]
    public void A_load_stays_below_the_turn_rate_of_load_seat_and_slides_off_above_it(double friction)
    {
        // 60 ahead of the axle: a fork of 90 whose heel stands at 30, a gap of 10 and a load 40 deep.
        var most = LoadSeat.Compute(new(90, 10, 40, 30, friction)).Result.MaxTurnRateDegPerS;
        Assert.Equal(most, Math.Sqrt(friction * 9.81 / 0.06) * 180 / Math.PI, 0.01);
        foreach (var share in new[] { 0.9, 1.12 })
        {
            // Brought to speed in small steps: the sum is of the turn alone.
            var steps = string.Concat(
                Enumerable
                    .Range(1, 20)
                    .Select(k =>
                        $"  state Step {k}{(k == 1 ? ", initial" : "")}\n    while here: turn robot right spinning at "
                        + $"{most * share * k / 20:0.0} robot deg/s\n"
                        + (k < 20 ? $"    after 0.2 s: go Step {k + 1}\n" : "")
                    )
            );
            var report = Run(
                steps,
                $"floor 3 m by 3 m\nthing crate 40 by 40 mm 80 g at (1500, 1500), friction {friction}, on Drive at (0, 60)\n"
                    + "start Drive at (1500, 1500) facing 0 robot deg\nends after 7 s\n"
            );
            var fell = report.Notes.Any(n => n.Say.StartsWith("crate slides off", StringComparison.Ordinal));
            Assert.True(fell == share > 1, $"{share}: {string.Join("; ", report.Notes.Select(n => n.Say))}");
        }
    }

    [Fact]
    public void A_tall_load_tips_before_it_slides()
    {
        string Fate(string high) =>
            string.Join(
                " ",
                Run(
                    "  state Going, initial\n    while here: turn robot right spinning at 300 robot deg/s\n",
                    $"floor 3 m by 3 m\nthing crate 40 by 40 mm 80 g at (1500, 1500), {high}friction 2, on Drive at (0, 60)\n"
                        + "start Drive at (1500, 1500) facing 0 robot deg\nends after 3 s\n"
                )
                    .Notes.Select(n => n.Say)
            );
        Assert.Equal("", Fate(""));
        Assert.Contains("crate tips off Drive", Fate("600 mm high, "));
    }

    [Theory]
    [InlineData("", true)]
    [InlineData(", 20 mm high", false)]
    [InlineData(", 40 mm high", true)]
    public void A_range_sensor_looks_over_what_is_lower_than_it(string high, bool seen)
    {
        var report = Run(
            "  state Looking, initial\n    when Range is near: go Near\n    on entry: drive straight 300 mm at 100 mm/s\n  state Near\n"
                + "    on entry: stop Drive and brake\n",
            $"floor 3 m by 3 m\nthing buoy round 30 mm at (1500, 1700){high}\nstart Drive at (1500, 1500) facing 0 robot deg\n"
                + "ends after 6 s\n"
        );
        Assert.Equal(seen, report.Events.Any(e => e.To == "Near"));
    }

    [Fact]
    public void A_person_puts_the_rig_down_facing_the_way_the_line_says()
    {
        var report = Run(
            "  state Still, initial\n    after 3 s: go Going\n  state Going\n    on entry: drive straight 200 mm at 100 mm/s\n",
            "floor 3 m by 3 m\nstart Drive at (1500, 1500) facing 0 robot deg\n"
                + "person puts Drive at (1000, 800) facing 90 robot deg at 1 s\nends after 8 s\n"
        );
        var (x, y, heading) = FloorBench.End(report);
        Assert.Equal((1200, 800, 90), (Math.Round(x / 5) * 5, Math.Round(y / 5) * 5, Math.Round(heading)));
    }

    // ---- weight ----

    // Up 600 motor deg at 40 % of 900: so long without a load, s.
    private const double Free = 600 / 360.0;

    [Theory]
    [InlineData(100, 1)]
    // A drum of 24 on its own motor: 12 N mm for every newton. 10 N take 120 of 180 N mm: a third of 900 is left, which is less than 360.
    [InlineData(1020, 1.2)]
    [InlineData(1600, 0)]
    public void A_load_takes_its_share_of_the_torque_on_the_way_up(double grams, double slower)
    {
        var report = Run(
            "  state Lifting, initial\n    on entry: run Fork up 600 motor deg at 40 %\n    when Fork is done: go Done\n"
                + "    when Fork stalls: go Stuck\n  state Done\n  state Stuck\n",
            $"floor 3 m by 3 m\nload crate {grams} g on Fork\nstart Drive at (1500, 1500) facing 0 robot deg\nends after 8 s\n"
        );
        var last = report.Events[^1];
        Assert.Equal(slower > 0 ? "Done" : "Stuck", last.To);
        if (slower > 0)
            Assert.Equal(Free * slower, last.TimeS, 0.25);
    }

    [Theory]
    [InlineData(200, "", true)]
    [InlineData(3000, "", false)]
    [InlineData(3000, ", friction 0.1", true)]
    public void What_is_too_heavy_to_be_pushed_stands_like_a_wall(double grams, string more, bool moved)
    {
        var report = Run(
            "  state Going, initial\n    while here: drive straight at 100 mm/s\n",
            $"floor 3 m by 3 m\nthing crate round 60 mm {grams} g at (1500, 1700){more}\n"
                + "start Drive at (1500, 1500) facing 0 robot deg\nends after 4 s\n"
        );
        Assert.Equal(moved, Where(report, "crate").Y > 1750);
        Assert.Equal(moved, Where(report, "Drive").Y > 1700);
    }
}
