using MathNet.Numerics.Distributions;

namespace Chiton.Core.Tests.Proving;

public class PairedTests(ITestOutputHelper output)
{
    [Fact]
    public void It_agrees_with_the_sum_done_by_hand()
    {
        // 23 gained, 4 lost of 200: (23 − 4)/202 = 0.094059; SD √((23.5 + 4.5)/202 − 0.094059²)/√202 = 0.025529.
        var p = Paired.Of(200, 23, 4);
        Assert.Equal(0.095, p.Difference, 12);
        Assert.Equal(0.094059 - 1.959964 * 0.025311, p.Low, 3);
        Assert.Equal(0.094059 + 1.959964 * 0.025311, p.High, 3);
        // 2 · Σₖ₌₀⁴ C(27, k) / 2²⁷ = 2 · 20 854 / 134 217 728.
        Assert.Equal(2 * 20854 / 134217728.0, p.Chance, 9);
        Assert.Equal(Compared.Better, p.Verdict);
        Assert.Equal("Better: on the same luck 23 runs gained and 4 lost (4 to 14 in 100 more).", p.Say);
        Assert.Equal(Compared.Worse, Paired.Of(200, 4, 23).Verdict);
        Assert.Equal(Compared.Same, Paired.Of(200, 2, 1).Verdict);
        Assert.Equal(Compared.Open, Paired.Of(20, 1, 1).Verdict);
        Assert.Equal(1, Paired.Of(20, 0, 0).Chance);
    }

    // How often the interval of new copies holds the true difference, added up over all counts and not tried out.
    [Theory]
    [InlineData(100, 0.10, 0.10)]
    [InlineData(100, 0.30, 0.05)]
    [InlineData(40, 0.20, 0.20)]
    [InlineData(200, 0.02, 0.02)]
    public void The_interval_holds_by_exact_computation(int runs, double gain, double lose)
    {
        double holds = 0,
            alarms = 0;
        for (var g = 0; g <= runs; g++)
        for (var l = 0; l <= runs - g; l++)
        {
            var chance = Multinomial(runs, g, l, gain, lose);
            if (chance < 1e-12)
                continue;
            var p = Paired.Of(runs, g, l);
            if (gain - lose >= p.Low && gain - lose <= p.High)
                holds += chance;
            if (p.Verdict is Compared.Better or Compared.Worse)
                alarms += chance;
        }
        output.WriteLine($"holds {holds:0.0000}, alarms {alarms:0.0000}");
        Assert.InRange(holds, 0.94, 1);
        if (gain == lose)
            Assert.InRange(alarms, 0, 0.06);
    }

    private static double Multinomial(int n, int g, int l, double gain, double lose) =>
        new Multinomial([gain, lose, 1 - gain - lose], n).Probability([g, l, n - g - l]);

    [Theory]
    [InlineData(100)]
    [InlineData(200)]
    [InlineData(2000)]
    public void Where_half_the_copies_gain_and_half_lose_it_seldom_takes_sides(int runs)
    {
        // On half the copies the later machine passes 0.9 and the earlier 0.4 of runs, on the other half the other way round.
        var alarms = 0;
        const int times = 2000;
        for (var t = 0; t < times; t++)
        {
            var luck = new RandomStream((ulong)t, 11);
            var layout = new RunLayout(t, RunLayout.Kinds.Copies, runs);
            var pairs = new (int Gained, int Lost, int Runs)[layout.Copies];
            var gains = new bool[layout.Copies];
            for (var c = 0; c < gains.Length; c++)
                gains[c] = luck.Uniform() < 0.5;
            for (var i = 0; i < runs; i++)
            {
                var c = layout.Copy(i);
                var (earlier, later) = (luck.Uniform() < (gains[c] ? 0.4 : 0.9), luck.Uniform() < (gains[c] ? 0.9 : 0.4));
                pairs[c].Runs++;
                pairs[c].Gained += later && !earlier ? 1 : 0;
                pairs[c].Lost += earlier && !later ? 1 : 0;
            }
            alarms += Paired.Of(pairs).Verdict is Compared.Better or Compared.Worse ? 1 : 0;
        }
        output.WriteLine($"{runs} runs: {100.0 * alarms / times:0.0} false alarms in 100");
        Assert.InRange(alarms, 0, 0.06 * times);
    }

    [Fact]
    public void A_few_copies_that_agree_do_not_promise_too_much()
    {
        var pairs = Enumerable.Repeat((0, 0, 2), 10).ToArray();
        Assert.Equal(Compared.Open, Paired.Of(pairs).Verdict);
        Assert.Equal(Compared.Same, Paired.Of(Enumerable.Repeat((0, 0, 2), 100).ToArray()).Verdict);
    }
}

public class SequentialTests(ITestOutputHelper output)
{
    [Theory]
    [InlineData(0.5)]
    [InlineData(0.9)]
    [InlineData(0.98)]
    [InlineData(0.1)]
    public void It_errs_seldom(double target)
    {
        var delta = Sequential.Delta(target);
        var (wrongAbove, wrongBelow, runs) = (0, 0, 0L);
        for (var seed = 0; seed < 2000; seed++)
        {
            Sequential Test(double rate, uint lane)
            {
                var luck = new RandomStream((ulong)seed, lane);
                var test = new Sequential(target);
                while (!test.Add(luck.Uniform() < rate)) { }
                runs += test.Runs;
                return test;
            }
            wrongBelow += Test(target - delta, 1).Verdict == TargetVerdict.Reached ? 1 : 0;
            wrongAbove += Test(target + delta, 2).Verdict == TargetVerdict.Missed ? 1 : 0;
        }
        output.WriteLine($"{target}: {wrongBelow}, {wrongAbove} of 2000; {runs / 4000.0:0} runs");
        Assert.InRange(wrongBelow, 0, 0.065 * 2000);
        Assert.InRange(wrongAbove, 0, 0.065 * 2000);
    }

    [Fact]
    public void It_says_what_it_has_come_to()
    {
        var test = new Sequential(0.9);
        Assert.Equal("Whether it reaches 90 in 100 is not settled after 0 runs, 0 of which passed: it is close to it.", test.Say);
        // ln(0.95/0.85) = 0.111226 a pass: 26.47 of them make ln 19.
        for (var i = 0; i < 26; i++)
            Assert.False(test.Add(true));
        Assert.True(test.Add(true));
        Assert.Equal((TargetVerdict.Reached, 27), (test.Verdict, test.Passes));
        Assert.True(test.Add(false));
        Assert.Equal(27, test.Runs);
    }
}
