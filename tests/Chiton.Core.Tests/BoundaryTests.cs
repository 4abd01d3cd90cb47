using Chiton.Core.Checking;
using Chiton.Core.Motion;

namespace Chiton.Core.Tests;

/// <summary>
/// Formulas and boundaries that could once be changed without any test noticing. Each figure here is worked out beside the
/// code, and each was seen to fail with the change that its name tells of.
/// </summary>
public class BoundaryTests
{
    private static double Q(double z) => 1 - MathNet.Numerics.Distributions.Normal.CDF(0, 1, z);

    [Theory]
    [InlineData(1, 6)]
    [InlineData(6, 1)]
    public void A_reading_is_missed_by_the_larger_of_both_tails(double lower, double upper)
    {
        // Two lists of which once the lower and once the upper one is wide: the wide one is what is missed.
        double[] Around(double mean, double step) => [.. Enumerable.Range(-4, 9).Select(i => mean + step * i)];
        var r = ThresholdSum.Compute(new([new("low", Around(30, lower)), new("high", Around(70, upper))], 1, 10, 1, "midpoint")).Result;
        var (low, high) = (r.Lists[0], r.Lists[1]);
        var floor = 1 / Math.Sqrt(12);
        var fromHigh = Q((high.Mean - r.Threshold - r.Hysteresis) / Math.Max(high.Sd, floor));
        var fromLow = Q((r.Threshold - r.Hysteresis - low.Mean) / Math.Max(low.Sd, floor));
        Assert.Equal(Math.Max(fromHigh, fromLow), r.MissPerReading, 9);
        // Which of the two it is, is not the same in both cases.
        Assert.Equal(lower > upper, fromLow > fromHigh);
        Assert.True(Math.Max(fromHigh, fromLow) > 10 * Math.Min(fromHigh, fromLow));
    }

    [Fact]
    public void A_motor_draws_by_its_duty_twice()
    {
        // Half power, full battery, a fifth of its speed, 0.9 A stalled: 0.9 · (0.5 − 0.2) · 0.5.
        Assert.Equal(0.135, RailMotion.MotorCurrent(0.5, 1, 0.2, 0.9), 12);
        Assert.Equal(0.135, RailMotion.MotorCurrent(-0.5, 1, -0.2, 0.9), 12);
        Assert.Equal(0.9, RailMotion.MotorCurrent(1, 1, 0, 0.9), 12);
        Assert.Equal(0, RailMotion.MotorCurrent(0.5, 1, 0.9, 0.9));
    }

    [Theory]
    [InlineData(4.99, false)]
    [InlineData(5.01, true)]
    public void A_heading_that_spreads_by_more_than_five_degrees_is_warned_of(double sd, bool warned) =>
        Assert.Equal(warned, PathError.Compute(new([new("turn", TurnDeg: 90, TurnSdDeg: sd)], 0, 0)).Cautions.Count > 0);

    [Theory]
    [InlineData(9.0, 100, 0)]
    [InlineData(8.999, 100, 1)]
    public void A_voltage_that_a_device_just_stands_is_no_issue(double stands, double working, int issues)
    {
        // Six cells of 1.5 V are 9 V.
        var r = PowerBudget
            .Compute(new(6, 1.5, 2000, null, 0, 1000, 5, [new("lamp", 1, 3, stands, 0, working, working, 1, "pack")]))
            .Result;
        Assert.Equal(issues, r.Issues.Count);
    }

    [Theory]
    [InlineData(400, 0)]
    [InlineData(399, 1)]
    public void A_controller_that_just_gives_the_peak_suffices(double gives, int issues) =>
        Assert.Equal(
            issues,
            PowerBudget
                .Compute(new(4, 1.5, 2000, null, 0, gives, 5, [new("horn", 1, 3, 9, 0, 150, 400, 0.1, "controller")]))
                .Result.Issues.Count
        );

    [Theory]
    [InlineData(480, 0)]
    [InlineData(479, 1)]
    public void A_pack_that_just_gives_the_peak_suffices(double gives, int issues) =>
        Assert.Equal(
            issues,
            PowerBudget.Compute(new(4, 1.5, 2000, gives, 80, 1000, 5, [new("pump", 1, 3, 9, 0, 150, 400, 0.1, "pack")])).Result.Issues.Count
        );

    private const string Roll = "program T\n\nregion Main\n  state Go, initial\n    while here: run Trolley at 60 %\n";

    [Fact]
    public void A_pack_drains_while_it_rolls_and_the_trolley_slows()
    {
        // 0.02 Ah give some 0.4 A for three minutes: by the end of one a good part of its fifth is gone.
        var tired = FarmBench.Motion() with
        {
            CapacityAh = FarmBench.Sure(0.02, "Ah"),
        };
        var report = BenchReport.Watch(FarmBench.Setup(Roll, tired, endsS: 60), 1, 50);
        var (volts, speed) = (report.BatteryV, FarmBench.Speed(report));
        var (early, late) = (volts[100], volts[^1]);
        Assert.InRange(early - late, 0.1, 1.3);
        Assert.True(speed[^1] < 0.98 * speed[100], $"{speed[100]} {speed[^1]}");
        // What it lost is a fifth of its voltage by the share of its charge that was drawn.
        var drawn = 0.0;
        for (var i = 1; i < volts.Count; i++)
        {
            var current = 0.1 + Core.Simulation.Bodies.Mover.Current(0.6, volts[i - 1] / 6, speed[i - 1] / 700, 0.1, 0.8);
            drawn += current * (report.TimeS[i] - report.TimeS[i - 1]);
        }
        var last = 0.1 + Core.Simulation.Bodies.Mover.Current(0.6, late / 6, speed[^1] / 700, 0.1, 0.8);
        Assert.Equal(6 * (1 - 0.2 * drawn / (0.02 * 3600)) - 0.4 * last, late, 0.03);
    }

    [Fact]
    public void A_position_is_the_mean_of_speed_before_and_after_each_step()
    {
        var report = BenchReport.Watch(FarmBench.Setup(Roll, endsS: 1.5), 1, 500);
        var (time, position, speed) = (report.TimeS, FarmBench.Way(report), FarmBench.Speed(report));
        var way = position[0];
        for (var i = 1; i < time.Count; i++)
        {
            way += (speed[i - 1] + speed[i]) / 2 * (time[i] - time[i - 1]);
            // What is told is told to a tenth of a millimetre a second.
            Assert.Equal(way, position[i], 0.1);
        }
        Assert.True(way > 300);
    }

    [Fact]
    public void In_its_blind_zone_a_distance_sensor_answers_anything_up_to_twice_as_far()
    {
        var sensor = new Sensor("Range", SensorKind.Distance, 20, 0, ["near", "far"])
        {
            BlindMm = FarmBench.Sure(50, "mm"),
            ReachMm = FarmBench.Sure(2000, "mm"),
        };
        var held = new SimulatedSensor(sensor, new("hand", 20, 0), 0, BenchCare.AsItIs, new(4, 5));
        var reading = new double[1];
        var seen = new List<double>();
        for (var i = 0; i < 400; i++)
        {
            held.Read(reading);
            seen.Add(reading[0]);
        }
        Assert.All(seen, r => Assert.InRange(r, 50, 100));
        Assert.InRange(seen.Average(), 72, 78);
        Assert.True(seen.Min() < 55 && seen.Max() > 95);
        // Just beyond it, it reads what is there.
        var beyond = new SimulatedSensor(sensor, new("hand", 51, 0), 0, BenchCare.AsItIs, new(4, 5));
        beyond.Read(reading);
        Assert.Equal(51, reading[0]);
    }

    [Fact]
    public void Where_it_comes_to_rest_is_told_with_two_standard_deviations_either_side()
    {
        var motion = FarmBench.Motion(brake: 2000, brakeSd: 180, speedSd: 14);
        var rig = FarmBench.Rig();
        var (marker, eye) = (rig.Rail!.Markers[0], rig.Eyes.First());
        var (low, high) = RailChecks.RestRange(motion, marker, eye, 1, false, 50);
        var speed = motion.SteadySpeed(50);
        var sure = MarkerPass.Compute(new(60, 8, 10, 1, speed, 30, 2000)).Result;
        // Braking way v²/2a; its share from braking, and twice the share of speed.
        var braking = speed * speed / 4000;
        var sd = braking * Math.Sqrt(Math.Pow(2 * motion.RelativeSpeedSd, 2) + Math.Pow(180.0 / 2000, 2));
        Assert.Equal(2 * sd, high - sure.RestHighMm!.Value, 6);
        Assert.Equal(2 * sd, sure.RestLowMm!.Value - 8 - low, 6);
        Assert.True(sd > 0.5);
    }
}
