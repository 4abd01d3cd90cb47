namespace Chiton.Core.Tests.Simulation;

public class DrawsTests
{
    [Theory]
    [InlineData(0.5)]
    [InlineData(2)]
    [InlineData(9)]
    [InlineData(300)]
    public void Chi_squared_numbers_have_their_mean_and_variance(double dof)
    {
        var luck = new RandomStream(8, 8);
        const int n = 200_000;
        double sum = 0,
            squares = 0;
        for (var i = 0; i < n; i++)
        {
            var x = luck.ChiSquared(dof);
            (sum, squares) = (sum + x, squares + x * x);
        }
        var mean = sum / n;
        // Mean ν, variance 2ν; four standard errors each, that of the variance with its kurtosis 12/ν.
        Assert.Equal(dof, mean, 4 * Math.Sqrt(2 * dof / n));
        Assert.Equal(2 * dof, squares / n - mean * mean, 4 * 2 * dof * Math.Sqrt((2 + 12 / dof) / n));
    }

    [Fact]
    public void A_mean_of_few_readings_is_drawn_with_Students_t()
    {
        // 5 readings: ν = 4. Beyond 2.776 standard errors lie 5 of 100, beyond 1.96 of a normal number's only 5.
        var spec = DrawSpec.Of("x", new(10, "%", Provenance.Measured, "", 1, Math.Sqrt(5), 0, -1e9) { Dof = 4 });
        double[] into = new double[1],
            wide = new double[1];
        var beyond = 0;
        var spread = new List<double>();
        const int n = 100_000;
        for (var i = 0; i < n; i++)
        {
            Draws.All([spec], 1, (ulong)i, into, wide);
            beyond += Math.Abs(into[0] - 10) > 2.776445 ? 1 : 0;
            spread.Add(wide[0]);
        }
        Assert.Equal(0.05, beyond / (double)n, 0.0035);
        // Median of χ²₄ is 3.35669: half of the spreads are more than √(4/3.35669) times wider.
        spread.Sort();
        Assert.Equal(Math.Sqrt(4 / 3.356694), spread[n / 2], 0.01);
    }

    [Fact]
    public void A_claim_is_no_reading()
    {
        Assert.Equal(0, DrawSpec.Of("x", new(1, "mm", Provenance.Guessed, "", 0, 1, 6) { Dof = 4 }).Dof);
        Assert.Equal(0, DrawSpec.Of("x", new(1, "mm", Provenance.Chosen, "") { Dof = 4 }).Dof);
        var fixedSpread = DrawSpec.Of("x", new(1, "mm", Provenance.Measured, "", 1, 1));
        double[] into = new double[1],
            wide = new double[1];
        Draws.All([fixedSpread], 1, 2, into, wide);
        Assert.Equal(1, wide[0]);
    }

    [Fact]
    public void A_truth_that_is_known_takes_the_place_of_what_is_doubted_and_leaves_the_rest()
    {
        var plan = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(1100, 250, 20));
        var braking = plan.Draws.Single(d => d.Name == "braking");
        var truth = plan.WithNumbers(d => d == braking ? d with { Usual = 1234, DoubtSd = 0, Dof = 0, Width = 1.5 } : d);
        var (before, after) = (new Bench(plan), new Bench(truth));
        var at = plan.Draws.ToList().IndexOf(braking);
        for (var run = 0; run < 20; run++)
        {
            before.Go(run, copySeed: 5 + run);
            after.Go(run, copySeed: 5 + run);
            Assert.NotEqual(1234, before.Drawn[at]);
            Assert.Equal((1234, 1.5), (after.Drawn[at], after.Wide[at]));
            for (var i = 0; i < plan.Draws.Count; i++)
                if (i != at)
                    Assert.Equal((before.Drawn[i], before.Wide[i]), (after.Drawn[i], after.Wide[i]));
        }
        // The plan it came from is as it was.
        Assert.Same(braking, plan.Draws[at]);
    }
}
