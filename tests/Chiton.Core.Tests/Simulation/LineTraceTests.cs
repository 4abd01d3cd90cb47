using Chiton.Core.Motion;
using Chiton.Core.Simulation;

namespace Chiton.Core.Tests.Simulation;

public class LineTraceTests
{
    private static readonly LineTraceInput Usual = new(150, 40, 0.22, 520, 118, 55, 10, 12, 58, 0, 10, 2, 40, 20, 300);

    private static double Gain(LineTraceInput i) =>
        LineGain
            .Compute(new(i.SpeedMmPerS, i.TrackMm, i.AheadMm, (i.Bright - i.Dark) / i.SpotMm, i.MaxWheelMmPerS, i.PeriodMs, i.DelayMs))
            .Result.Kp;

    [Fact]
    public void Proportional_with_the_gain_of_the_sum_is_the_steadiest_and_all_three_keep_a_wide_bend()
    {
        var input = Usual with { BendMm = 600, Kp = Gain(Usual) };
        var traces = Enum.GetValues<Following>().Select(f => LineTracer.Run(f, input, 3)).ToArray();
        Assert.All(traces, t => Assert.Null(t.LostAtMm));
        Assert.Equal(Following.Proportional, traces.MinBy(t => t.SwingDegPerS)!.Kind);
    }

    [Fact]
    public void Two_levels_lose_a_bend_tighter_than_they_can_turn_and_keep_a_wider_one()
    {
        var tightest = LineSwitch.Compute(new(190, 110, 118, 55, 10, 2, 40)).Result.TightestRadiusMm;
        Assert.NotNull(LineTracer.Run(Following.TwoLevel, Usual with { BendMm = tightest * 0.6 }, 1).LostAtMm);
        Assert.Null(LineTracer.Run(Following.TwoLevel, Usual with { BendMm = tightest * 1.4 }, 1).LostAtMm);
    }

    [Fact]
    public void A_line_whose_ground_is_dark_is_followed_as_well()
    {
        var input = Usual with { Dark = 58, Bright = 12, BendMm = 500 };
        Assert.Null(LineTracer.Run(Following.TwoLevel, input, 1).LostAtMm);
        Assert.Null(LineTracer.Run(Following.ThreeBand, input, 1).LostAtMm);
    }

    [Fact]
    public void Too_much_gain_swings_and_too_little_loses_the_bend()
    {
        var right = LineTracer.Run(Following.Proportional, Usual with { Kp = Gain(Usual) }, 1);
        Assert.True(LineTracer.Run(Following.Proportional, Usual with { Kp = 8 * Gain(Usual) }, 1).SwingDegPerS > 3 * right.SwingDegPerS);
        Assert.NotNull(LineTracer.Run(Following.Proportional, Usual with { Kp = 0.02 * Gain(Usual) }, 1).LostAtMm);
    }

    [Fact]
    public void The_weave_of_two_levels_grows_with_the_delay()
    {
        double Most(double delay) => LineTracer.Run(Following.TwoLevel, Usual with { DelayMs = delay, BendMm = 1e4 }, 1).RmsMm;
        Assert.True(Most(10) < Most(40) && Most(40) < Most(90));
    }

    [Fact]
    public void The_same_seed_gives_the_same_drive()
    {
        var a = LineTracer.Run(Following.ThreeBand, Usual with { NoiseSd = 3 }, 7);
        var b = LineTracer.Run(Following.ThreeBand, Usual with { NoiseSd = 3 }, 7);
        Assert.Equal(a.OffMm, b.OffMm);
        Assert.NotEqual(a.OffMm, LineTracer.Run(Following.ThreeBand, Usual with { NoiseSd = 3 }, 8).OffMm);
    }

    [Theory]
    [InlineData(-0.5, 0)]
    [InlineData(0, 0.5)]
    [InlineData(0.5, 1)]
    // A chord at a quarter of the diameter from the middle cuts off 19.55 % of a circle.
    [InlineData(0.25, 0.80450)]
    [InlineData(-0.25, 0.19550)]
    public void The_share_of_a_spot_beyond_an_edge(double d, double share) => Assert.Equal(share, LineTracer.Share(d), 4);
}
