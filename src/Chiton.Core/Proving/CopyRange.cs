using MathNet.Numerics;

namespace Chiton.Core.Proving;

/// <summary>Of so many runs to come, so many will likely pass.</summary>
/// <param name="Runs">How many runs.</param>
/// <param name="Low">At least so many pass: fewer do so in at most 5 of 100 cases.</param>
/// <param name="High">At most so many pass: more do so in at most 5 of 100 cases.</param>
public sealed record NextRuns(int Runs, int Low, int High);

/// <summary>How often made-up copies of one kind passed: so many copies passed so many of their runs.</summary>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Runs">Runs of the copy.</param>
/// <param name="Weight">How many such copies, or how much they count.</param>
public readonly record struct CopyCount(int Passes, int Runs, double Weight);

/// <summary>
/// What the rate of one copy may turn out to be, from the passes of made-up copies that differ by what is not known: a mixture of Beta
/// distributions over a grid of means and of likenesses ρ between runs of one copy, weighted by the beta-binomial likelihood. Source:
/// Skellam, "A probability distribution derived from the binomial distribution" (1948); the mixture in place of one fitted point, because a
/// point holds too few copies where little is in doubt.
/// </summary>
public sealed class CopyRange
{
    private const int Means = 40,
        Likenesses = 24,
        Points = Means * Likenesses;

    private static readonly double[] A = new double[Points],
        B = new double[Points];

    // By grid point the share of copies whose rate is below each whole percent.
    private static readonly Lazy<double[]> Below = new(Tabulate);

    private readonly double[] weights;
    private readonly double[] cdf = new double[101];

    static CopyRange()
    {
        for (var i = 0; i < Means; i++)
        for (var j = 0; j < Likenesses; j++)
        {
            var (mean, rho) = (Mean(i), Rho(j));
            (A[i * Likenesses + j], B[i * Likenesses + j]) = (mean * (1 - rho) / rho, (1 - mean) * (1 - rho) / rho);
        }
    }

    private static double Mean(int i) => Math.Pow(Math.Sin(Math.PI * (i + 0.5) / 80), 2);

    private static double Rho(int j) => Math.Pow((j + 0.5) / 24, 2);

    private static double[] Tabulate()
    {
        var table = new double[Points * 101];
        for (var g = 0; g < Points; g++)
        {
            for (var p = 1; p < 100; p++)
                table[g * 101 + p] = SpecialFunctions.BetaRegularized(A[g], B[g], p / 100.0);
            table[g * 101 + 100] = 1;
        }
        return table;
    }

    // Trials of the very copy that were learnt from.
    private readonly int passed,
        failed;

    private CopyRange(double[] weights, int best, int passed = 0, int failed = 0)
    {
        (this.weights, this.passed, this.failed) = (weights, passed, failed);
        (BestA, BestB) = (A[best], B[best]);
        (LikeliestMean, LikeliestRho) = (Mean(best / Likenesses), Rho(best % Likenesses));
        // What weighs next to nothing does not move a whole percent, and after trials every point costs a hundred beta functions.
        var least = passed + failed == 0 ? 1e-12 : 1e-7;
        for (var g = 0; g < Points; g++)
        {
            if (weights[g] <= least)
                continue;
            for (var p = 1; p <= 100; p++)
                cdf[p] +=
                    weights[g]
                    * (
                        passed + failed == 0 ? Below.Value[g * 101 + p]
                        : p == 100 ? 1
                        : SpecialFunctions.BetaRegularized(A[g] + passed, B[g] + failed, p / 100.0)
                    );
        }
        // What was left out is shared by the rest.
        if (passed + failed > 0)
            for (var p = 1; p <= 100; p++)
                cdf[p] = Math.Min(1, cdf[p] / cdf[100]);
    }

    /// <summary>What the rate of the copy may be once trials were made on it: each distribution of the mixture as Bayes has it, and
    /// weighed by how likely it made the trials.</summary>
    /// <param name="passes">Trials that passed.</param>
    /// <param name="failures">Trials that failed.</param>
    public CopyRange After(int passes, int failures)
    {
        var more = new double[Points];
        for (var g = 0; g < Points; g++)
            more[g] = Math.Log(Math.Max(1e-300, weights[g])) + Chance(A[g] + passed, B[g] + failed, passes, failures);
        var best = Array.IndexOf(more, more.Max());
        var most = more[best];
        var sum = 0.0;
        for (var g = 0; g < Points; g++)
            sum += more[g] = Math.Exp(more[g] - most);
        for (var g = 0; g < Points; g++)
            more[g] /= sum;
        return new(more, best, passed + passes, failed + failures);
    }

    /// <summary>The logarithm of B(a + s, b + f) / B(a, b): how likely such a copy passes s times and then fails
    /// f times.</summary>
    internal static double Chance(double a, double b, int passes, int failures)
    {
        var sum = 0.0;
        for (var k = 0; k < passes; k++)
            sum += Math.Log(a + k);
        for (var k = 0; k < failures; k++)
            sum += Math.Log(b + k);
        for (var k = 0; k < passes + failures; k++)
            sum -= Math.Log(a + b + k);
        return sum;
    }

    /// <summary>The mean rate, 0 to 1.</summary>
    public double Mean()
    {
        var sum = 0.0;
        for (var g = 0; g < Points; g++)
            sum += weights[g] * (A[g] + passed) / (A[g] + B[g] + passed + failed);
        return sum;
    }

    /// <summary>The first number of the Beta distribution at the likeliest point of the grid.</summary>
    public double BestA { get; }

    /// <summary>The second.</summary>
    public double BestB { get; }

    /// <summary>Mean rate at the likeliest point of the grid, 0 to 1.</summary>
    public double LikeliestMean { get; }

    /// <summary>How alike runs of one copy are there: the share of the variance of a run that lies between copies, 0 to 1.</summary>
    public double LikeliestRho { get; }

    /// <summary>From the passes of made-up copies.</summary>
    /// <param name="counts">How often they passed.</param>
    public static CopyRange Of(IReadOnlyList<CopyCount> counts) => Of(counts, Likelihoods(counts));

    /// <summary>The logarithm of the likelihood of each count at each point of the grid, to be weighed many times.</summary>
    internal static double[][] Likelihoods(IReadOnlyList<CopyCount> counts)
    {
        var all = new double[counts.Count][];
        for (var c = 0; c < counts.Count; c++)
        {
            var row = all[c] = new double[Points];
            var (x, n) = (counts[c].Passes, counts[c].Runs);
            for (var g = 0; g < Points; g++)
                row[g] = Chance(A[g], B[g], x, n - x);
        }
        return all;
    }

    internal static CopyRange Of(IReadOnlyList<CopyCount> counts, double[][] likelihoods)
    {
        var weights = new double[Points];
        for (var c = 0; c < counts.Count; c++)
        {
            var (weight, row) = (counts[c].Weight, likelihoods[c]);
            if (weight > 0)
                for (var g = 0; g < Points; g++)
                    weights[g] += weight * row[g];
        }
        var best = 0;
        for (var g = 1; g < Points; g++)
            if (weights[g] > weights[best])
                best = g;
        var (most, sum) = (weights[best], 0.0);
        for (var g = 0; g < Points; g++)
            sum += weights[g] = Math.Exp(weights[g] - most);
        for (var g = 0; g < Points; g++)
            weights[g] /= sum;
        return new(weights, best);
    }

    /// <summary>The rate below which a share of such copies lies, straight between whole percents.</summary>
    /// <param name="share">The share, 0 to 1.</param>
    public double Quantile(double share)
    {
        var p = 0;
        while (p < 99 && cdf[p + 1] < share)
            p++;
        var step = cdf[p + 1] - cdf[p];
        return (p + (step > 0 ? Math.Clamp((share - cdf[p]) / step, 0, 1) : 0)) / 100;
    }

    /// <summary>Where the rate of this copy lies in 90 of 100 cases: the 5 and 95 % quantiles, 0 to 1.</summary>
    public (double Low, double High) Interval => (Quantile(0.05), Quantile(0.95));

    /// <summary>The same, rounded outwards to whole percent.</summary>
    public (double Low, double High) Whole
    {
        get
        {
            int low = 0,
                high = 100;
            while (low < 99 && cdf[low + 1] <= 0.05)
                low++;
            while (high > 1 && cdf[high - 1] >= 0.95)
                high--;
            return (low / 100.0, high / 100.0);
        }
    }

    /// <summary>How many of so many runs to come will pass: at most 5 of 100 cases lie in each tail.</summary>
    /// <param name="runs">How many runs, 1 to 1000.</param>
    public NextRuns Next(int runs) => Central(Predicted(runs));

    /// <summary>How likely each count of passes is, from 0 to all of them.</summary>
    /// <param name="runs">How many runs to come, 1 to 1000.</param>
    public double[] Predicted(int runs)
    {
        var share = new double[runs + 1];
        var own = new double[runs + 1];
        for (var g = 0; g < Points; g++)
        {
            if (weights[g] <= 1e-12)
                continue;
            Predict(A[g] + passed, B[g] + failed, own);
            for (var k = 0; k <= runs; k++)
                share[k] += weights[g] * own[k];
        }
        return share;
    }

    /// <summary>The same where nothing is in doubt: after so many passes of so many runs of the very copy. Jeffreys' prior.</summary>
    /// <param name="passes">Runs that passed.</param>
    /// <param name="runs">Runs done.</param>
    /// <param name="next">Runs to come.</param>
    public static NextRuns Certain(int passes, int runs, int next) => Central(PredictedCertain(passes, runs, next));

    /// <summary>How likely each count of passes is where nothing is in doubt.</summary>
    public static double[] PredictedCertain(int passes, int runs, int next)
    {
        var share = new double[next + 1];
        Predict(passes + 0.5, runs - passes + 0.5, share);
        return share;
    }

    // The beta-binomial distribution, in logarithms: its first term may be too small for a number.
    private static void Predict(double a, double b, Span<double> share)
    {
        var n = share.Length - 1;
        var log = 0.0;
        for (var k = 0; k < n; k++)
            log += Math.Log((b + k) / (a + b + k));
        for (var k = 0; k <= n; k++)
        {
            share[k] = Math.Exp(log);
            if (k < n)
                log += Math.Log((double)(n - k) / (k + 1) * (a + k) / (b + n - k - 1));
        }
    }

    private static NextRuns Central(double[] share)
    {
        var n = share.Length - 1;
        var (low, high) = (0, n);
        for (var below = share[0]; low < n && below <= 0.05; below += share[low])
            low++;
        for (var above = share[n]; high > 0 && above <= 0.05; above += share[high])
            high--;
        return new(n, low, high);
    }
}
