using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Tests.Simulation;

/// <summary>A motor alone, as trials try it: against the closed forms of its motion, and against a run of the bench.</summary>
public class MotorAloneTests
{
    [Theory]
    [InlineData(120, 1.5)]
    [InlineData(-300, 0.2)]
    [InlineData(50, 0.03)]
    public void From_rest_it_comes_as_far_as_a_first_order_lag(double speed, double seconds)
    {
        var t = Math.Max(0, seconds - MotorAlone.UsualDelayS);
        var far = speed * (t - MotorAlone.UsualLagS * (1 - Math.Exp(-t / MotorAlone.UsualLagS)));
        Assert.Equal(far, new MotorAlone(ActuatorKind.RegulatedMotor, 0).Way(speed, seconds), Math.Abs(speed) * 1e-4);
    }

    [Theory]
    [InlineData(180, 900)]
    [InlineData(420, 2400)]
    public void It_brakes_in_v_squared_over_2a_after_its_delay(double speed, double brake) =>
        Assert.Equal(
            speed * 0.03 + speed * speed / (2 * brake),
            new MotorAlone(ActuatorKind.PlainMotor, 0).BrakingWay(speed, 0.03, brake),
            0.01
        );

    [Fact]
    public void It_coasts_its_speed_times_its_time_constant() =>
        // Below half a unit a second it stands: that much is left of the way.
        Assert.Equal(200 * 0.04 + 199.5 * 0.35, new MotorAlone(ActuatorKind.PlainMotor, 0).CoastingWay(200, 0.04, 0.35), 0.2);

    [Fact]
    public void A_servo_turns_at_its_rate_and_power_is_a_share_or_a_law()
    {
        Assert.Equal(0.45, new MotorAlone(ActuatorKind.Servo, 200).Seconds(-90), 1e-6);
        Assert.Equal(-360, new MotorAlone(ActuatorKind.RegulatedMotor, 900).Steady(-40), 1e-6);
        // A plain motor: what is left over the least power, of what is left at full power.
        Assert.Equal(700 * (0.6 - 0.1) / (1 - 0.1), new MotorAlone(ActuatorKind.PlainMotor, 700) { LeastPercent = 10 }.Steady(60), 1e-6);
        Assert.Equal(0, new MotorAlone(ActuatorKind.PlainMotor, 700) { LeastPercent = 10 }.Steady(8), 1e-6);
    }

    [Theory]
    [InlineData(60)]
    [InlineData(120)]
    public void A_trial_goes_as_far_as_a_run_of_the_bench_with_the_same_numbers(double speed)
    {
        var plan = FloorBench.Plan(
            FloorBench.Rig($"  state Go, initial\n    while here: drive straight at {speed} mm/s\n"),
            "floor 3 m by 3 m\nstart Drive at (500, 500) facing 0 robot deg\nends after 2 s\n",
            false
        );
        var spec = plan.Movers[plan.Drives[0].Left];
        // The same delay and lag: what a trial takes as usual is what the bench guesses.
        Assert.Equal(MotorAlone.UsualDelayS * 1000, plan.DrawRow[spec.Delay].Usual);
        Assert.Equal(MotorAlone.UsualLagS * 1000, plan.DrawRow[spec.Lag].Usual);
        var (_, y, _) = FloorBench.End(BenchReport.Watch(plan, 1, 50));
        Assert.Equal(new MotorAlone(ActuatorKind.RegulatedMotor, 0).Way(speed, 2), y - 500, 0.5);
    }
}
