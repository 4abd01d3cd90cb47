using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Proving;

/// <summary>Input of the sum <c>success-rate</c>.</summary>
/// <param name="Passes">Runs that passed, 0 or more.</param>
/// <param name="Runs">All runs, 1 or more.</param>
/// <param name="Confidence">How sure the interval is to be, between 0 and 1.</param>
public sealed record SuccessRateInput(double? Passes, double? Runs, double? Confidence = null);

/// <summary>Result of the sum <c>success-rate</c>: shares from 0 to 1.</summary>
/// <param name="Rate">Share that passed.</param>
/// <param name="Low">Lower end of the interval.</param>
/// <param name="High">Upper end of the interval.</param>
public sealed record SuccessRateResult(double Rate, double Low, double High);

/// <summary>A success rate with the interval it can honestly claim.</summary>
public static class SuccessRate
{
    /// <summary>Most runs that are counted.</summary>
    public const int MostRuns = 1_000_000_000;

    /// <summary>Computes the sum. Source: Wilson, "Probable inference, the law of succession, and statistical inference", 1927.</summary>
    /// <exception cref="InputProblem">When a field is missing, not whole, out of range or contradictory.</exception>
    public static Answer<SuccessRateResult> Compute(SuccessRateInput input)
    {
        var need = new Require();
        var runs = need.Whole(input.Runs, "runs", 1, MostRuns);
        var passes = need.Whole(input.Passes, "passes", 0, MostRuns);
        var confidence = input.Confidence ?? 0.95;
        need.That(
            double.IsFinite(confidence) && confidence is > 0 and < 1,
            "confidence",
            "Must be a number greater than 0 and less than 1."
        );
        if (need.Holds)
            need.That(passes <= runs, "passes", $"Cannot be more than the {runs} runs.");
        need.Done();
        var (low, high) = Wilson(passes, runs, confidence);
        var p = (double)passes / runs;
        var z = Deviate(confidence);
        var middle = $"({Show(p)} + {Show(z)}² / (2 × {runs})) / (1 + {Show(z)}² / {runs})";
        return new(
            new(p, low, high),
            [
                new("Share that passed", $"{passes} / {runs}", p, ""),
                new($"Normal deviate for {Show(confidence * 100)} % confidence", $"z({Show((1 + confidence) / 2)})", z, ""),
                new("Middle of the interval", middle, (low + high) / 2, ""),
                new("Lower end", "middle − half width", low, ""),
                new("Upper end", "middle + half width", high, ""),
            ],
            runs < 10 ? ["Few runs: the interval is wide. Try more often before you trust it."] : [],
            null
        );
    }

    /// <summary>Wilson's score interval.</summary>
    /// <param name="passes">Runs that passed.</param>
    /// <param name="runs">All runs, 1 or more.</param>
    /// <param name="confidence">Between 0 and 1.</param>
    public static (double Low, double High) Wilson(int passes, int runs, double confidence = 0.95) =>
        Wilson((double)passes, runs, Deviate(confidence));

    // With counts that need not be whole, for asking what so many more runs at the same rate would show.
    internal static (double Low, double High) Wilson(double passes, double runs, double z)
    {
        double n = runs,
            p = passes / n,
            z2 = z * z;
        var middle = (p + z2 / (2 * n)) / (1 + z2 / n);
        var half = z / (1 + z2 / n) * Math.Sqrt(p * (1 - p) / n + z2 / (4 * n * n));
        // At no or all passes the end is exactly 0 or 1; rounding must not say otherwise.
        return (passes == 0 ? 0 : Math.Max(0, middle - half), passes == runs ? 1 : Math.Min(1, middle + half));
    }

    internal static double Deviate(double confidence) => MathNet.Numerics.Distributions.Normal.InvCDF(0, 1, (1 + confidence) / 2);
}
