using Poisson = MathNet.Numerics.Distributions.Poisson;

namespace Chiton.Core.Tests.Sensing;

public class PromiseTests
{
    public static TheoryData<int> Seeds => [.. Enumerable.Range(1, 20)];

    /// <summary>The rule "N in a row beyond the far side of the band" switches falsely as often as the sum promises.</summary>
    [Theory]
    [MemberData(nameof(Seeds))]
    public void False_switches_in_simulation_lie_in_the_99_percent_interval_of_the_promise(int seed)
    {
        var noise = new RandomStream((ulong)seed, 500);
        double m1 = 15 + 15 * noise.Uniform(),
            s1 = 1.5 + 1.5 * noise.Uniform(),
            s2 = 1.5 + 1.5 * noise.Uniform();
        var m2 = m1 + (1.5 + 0.7 * noise.Uniform()) * (s1 + s2);
        var sum = ThresholdSum
            .Compute(new([new("low", DistanceBandsTests.Exactly(m1, s1)), new("high", DistanceBandsTests.Exactly(m2, s2))], 0, 10, 1))
            .Result;
        var n = 2 + seed % 2;
        var p = sum.FalsePerReading;
        var scale = new ZoneScale(["low", "high"], [new(sum.Threshold, sum.Hysteresis)]);
        // Stand in the zone that errs more often: the promise is made for the worse of the two.
        var low = Normal.Q((sum.Threshold + sum.Hysteresis - m1) / s1) >= Normal.Q((m2 - sum.Threshold + sum.Hysteresis) / s2);
        var (mean, sd, home) = low ? (m1, s1, 0) : (m2, s2, 1);
        var expected = 200.0;
        var readings = (long)Math.Min(30_000_000, expected / Math.Pow(p, n));
        expected = readings * Math.Pow(p, n);
        var tracker = ZoneTracker.Unread;
        tracker.Take(scale, mean, 1);
        Assert.Equal(home, tracker.Held);
        long false_ = 0;
        for (var i = 0L; i < readings; i++)
            if (tracker.Take(scale, mean + sd * noise.Normal(), n) && tracker.Held != home)
                false_++;
        // Exact Poisson limits of a count with this expectation, by the chi-square; a run that has just ended cannot end
        // again at once, which takes a share p off the promise, and coming back takes time: hence the room below.
        var lowest = Quantile(expected * (1 - p - 4 * Math.Pow(p, n)), 0.005);
        var highest = Quantile(expected, 0.995);
        Assert.InRange(false_, lowest, highest);
    }

    private static double Quantile(double mean, double share)
    {
        var k = 0;
        while (Poisson.CDF(mean, k) < share)
            k++;
        return k;
    }
}
