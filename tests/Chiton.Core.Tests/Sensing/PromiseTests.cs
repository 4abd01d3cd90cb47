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

    private static readonly string[] Noises = ["normal", "skewed", "heavy", "correlated", "drifting", "spiked", "rounded", "lumpy", "flat"];

    // Noise about 0 with an SD near 1, of a kind that real sensors have.
    private static Func<double> Noise(string kind, RandomStream luck)
    {
        double state = 0,
            t = 0;
        return kind switch
        {
            "normal" => luck.Normal,
            "skewed" => () => -Math.Log(1 - luck.Uniform()) - 1,
            // Student's t of four degrees.
            "heavy" => () =>
            {
                var chi = 0.0;
                for (var i = 0; i < 4; i++)
                    chi += Math.Pow(luck.Normal(), 2);
                return luck.Normal() / Math.Sqrt(chi / 4) / Math.Sqrt(2);
            },
            "correlated" => () => state = 0.6 * state + 0.8 * luck.Normal(),
            // Light that goes up and down by 3 SDs within hours.
            "drifting" => () => luck.Normal() + 3 * Math.Sin(2 * Math.PI * t++ / 400_000),
            "spiked" => () => luck.Uniform() < 0.01 ? 5 * luck.Normal() : 0.9 * luck.Normal(),
            "rounded" => () => Math.Round(luck.Normal()),
            "lumpy" => () => (luck.Uniform() < 0.5 ? -0.8 : 0.8) + 0.6 * luck.Normal(),
            _ => () => Math.Sqrt(12) * (luck.Uniform() - 0.5),
        };
    }

    /// <summary>Of the promises made on 54 kinds of hidden streams, at least 9 in 10 are kept for 10 hours; of the others all but one
    /// drift, of which the verdict has warned. What a bell curve would have promised is broken in a third of them.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void Promises_on_ragged_readings_are_kept(int seed)
    {
        const double periodMs = 50;
        int promised = 0,
            drifted = 0;
        var broken = new List<string>();
        var bell = 0;
        foreach (var (kind, number) in Noises.Select((k, i) => (k, i)))
        foreach (var apart in new[] { 4, 7, 12 })
        foreach (var count in new[] { 15, 60 })
        {
            var luck = new RandomStream((ulong)seed * 1000, (uint)(number * 100 + apart * 3 + count));
            double[] Take(double mean)
            {
                var noise = Noise(kind, luck);
                return [.. Enumerable.Range(0, count).Select(_ => Math.Round(mean + noise(), 2))];
            }
            var answer = ThresholdSum.Compute(new([new("low", Take(30)), new("high", Take(30 + apart))], 0.01, periodMs));
            var (sum, home) = (answer.Result, 0);
            int Switches(double mean, int needed)
            {
                var noise = Noise(kind, luck);
                var scale = new ZoneScale(["low", "high"], [new(sum.Threshold, sum.Hysteresis)]);
                var tracker = ZoneTracker.Unread;
                tracker.Take(scale, mean, 1);
                home = tracker.Held;
                var switches = 0;
                for (var i = 0; i < 10 * 3_600_000 / periodMs; i++)
                    if (tracker.Take(scale, mean + noise(), needed) && tracker.Held != home)
                        switches++;
                return switches;
            }
            bool Breaks(int needed) => Switches(30, needed) > 10 || Switches(30 + apart, needed) > 10;
            if (seed == 1 && sum.ReadingsNeeded is { } plain && Breaks(plain))
                bell++;
            if (sum.ReadingsNeededSafe is not { } safe)
                continue;
            promised++;
            if (!Breaks(safe))
                continue;
            broken.Add($"{kind}, {apart} apart, {count} readings: {safe} in a row");
            if (kind == "drifting")
            {
                Assert.Contains("drift", answer.Verdict!.Say);
                drifted++;
            }
        }
        Assert.InRange(promised, 48, 54);
        Assert.True(broken.Count * 10 <= promised, string.Join("\n", broken));
        Assert.InRange(broken.Count - drifted, 0, 1);
        if (seed == 1)
            Assert.InRange(bell, 15, 30);
    }

    private static double Quantile(double mean, double share)
    {
        var k = 0;
        while (Poisson.CDF(mean, k) < share)
            k++;
        return k;
    }
}
