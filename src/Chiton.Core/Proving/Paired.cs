using Chiton.Core.Quantities;
using MathNet.Numerics.Distributions;

namespace Chiton.Core.Proving;

/// <summary>What came of holding two machines against each other on the same luck.</summary>
public enum Compared
{
    /// <summary>The later one passes more often, and not by luck.</summary>
    Better,

    /// <summary>It passes less often, and not by luck.</summary>
    Worse,

    /// <summary>They differ by at most 5 in 100.</summary>
    Same,

    /// <summary>Too few runs to say.</summary>
    Open,
}

/// <summary>Two machines, run by run on the same luck.</summary>
/// <param name="Runs">Runs of each.</param>
/// <param name="Gained">Runs that only the later one passed.</param>
/// <param name="Lost">Runs that only the earlier one passed.</param>
/// <param name="Difference">Rate of the later one less that of the earlier, −1 to 1.</param>
/// <param name="Low">Lower end of its 95 % interval.</param>
/// <param name="High">Upper end.</param>
/// <param name="Chance">Chance of runs parting as one-sidedly where both are equal: the exact test of McNemar, two-sided.</param>
/// <param name="Verdict">What follows.</param>
public sealed record PairedRates(
    int Runs,
    int Gained,
    int Lost,
    double Difference,
    double Low,
    double High,
    double Chance,
    Compared Verdict
)
{
    /// <summary>In words.</summary>
    public string Say
    {
        get
        {
            var parted =
                Gained + Lost == 0
                    ? $"all {Runs} runs came out the same on the same luck"
                    : $"on the same luck {Figures.Count(Gained, "run")} gained and {Lost} lost";
            int Points(double d) => (int)Math.Round(100 * d);
            string Ends(double low, double high) => $"{Math.Max(0, Points(low))} to {Points(high)} in 100";
            return Verdict switch
            {
                Compared.Better => $"Better: {parted} ({Ends(Low, High)} more).",
                Compared.Worse => $"Worse: {parted} ({Ends(-High, -Low)} fewer).",
                Compared.Same => $"No difference worth naming: {parted} (within 5 in 100).",
                _ => $"Not settled: {parted}. More runs would tell.",
            };
        }
    }
}

/// <summary>Two machines on the same luck.</summary>
public static class Paired
{
    /// <summary>A difference of at most this is none.</summary>
    public const double Little = 0.05;

    /// <summary>
    /// From runs with a made-up copy each. Interval: Agresti and Min, "Simple improved confidence intervals for comparing matched
    /// proportions" (2005), a half added to each of the four counts. Test: McNemar, "Note on the sampling error of the difference between
    /// correlated proportions or percentages" (1947), exact.
    /// </summary>
    /// <param name="runs">Pairs of runs, 1 or more.</param>
    /// <param name="gained">Only the later one passed.</param>
    /// <param name="lost">Only the earlier one passed.</param>
    public static PairedRates Of(int runs, int gained, int lost)
    {
        var (difference, half) = (Middle(runs, gained, lost), SuccessRate.Deviate(0.95) * Error(runs, gained, lost));
        return Judged(runs, gained, lost, (double)(gained - lost) / runs, difference - half, difference + half);
    }

    /// <summary>
    /// From proofs with several runs a copy: Student's t of the differences copy by copy, and no narrower than single runs would make it,
    /// so that few copies that all agree do not promise too much.
    /// </summary>
    /// <param name="pairs">By copy: runs that only the later one passed, that only the earlier one passed, and all pairs.</param>
    /// <param name="confidence">Of the interval.</param>
    public static PairedRates Of(IReadOnlyList<(int Gained, int Lost, int Runs)> pairs, double confidence = 0.95)
    {
        var (runs, gained, lost) = (pairs.Sum(p => p.Runs), pairs.Sum(p => p.Gained), pairs.Sum(p => p.Lost));
        if (pairs.Count < 2)
            return Of(runs, gained, lost);
        double[] each = [.. pairs.Select(p => (double)(p.Gained - p.Lost) / p.Runs)];
        var mean = each.Average();
        var sd = Math.Sqrt(each.Sum(d => (d - mean) * (d - mean)) / (each.Length - 1));
        var half = Math.Max(
            StudentT.InvCDF(0, 1, each.Length - 1, (1 + confidence) / 2) * sd / Math.Sqrt(each.Length),
            SuccessRate.Deviate(confidence) * Error(runs, gained, lost)
        );
        return Judged(runs, gained, lost, mean, mean - half, mean + half);
    }

    /// <summary>From the runs of two proofs: those that are the same run of the same made-up copy in both; null where none is.</summary>
    /// <param name="earlier">1 or 0 a run, whether it passed.</param>
    /// <param name="later">The same of the later one, of the same seed.</param>
    /// <param name="confidence">Of the interval.</param>
    public static PairedRates? Of(string earlier, string later, double confidence = 0.95)
    {
        RunLayout first = new(0, RunLayout.Kinds.Copies, earlier.Length),
            second = new(0, RunLayout.Kinds.Copies, later.Length);
        var pairs = new (int Gained, int Lost, int Runs)[Math.Min(first.Copies, second.Copies)];
        for (var i = 0; i < Math.Min(earlier.Length, later.Length); i++)
        {
            var copy = first.Copy(i);
            if (copy != second.Copy(i))
                continue;
            pairs[copy].Runs++;
            pairs[copy].Gained += later[i] > earlier[i] ? 1 : 0;
            pairs[copy].Lost += later[i] < earlier[i] ? 1 : 0;
        }
        pairs = [.. pairs.Where(p => p.Runs > 0)];
        return pairs.Length == 0 ? null : Of(pairs, confidence);
    }

    private static double Middle(int runs, int gained, int lost) => (double)(gained - lost) / (runs + 2);

    private static double Error(int runs, int gained, int lost)
    {
        double up = (gained + 0.5) / (runs + 2),
            down = (lost + 0.5) / (runs + 2);
        return Math.Sqrt((up + down - (up - down) * (up - down)) / (runs + 2));
    }

    private static PairedRates Judged(int runs, int gained, int lost, double difference, double low, double high)
    {
        (low, high) = (Math.Max(-1, low), Math.Min(1, high));
        var parted = gained + lost;
        var chance = parted == 0 ? 1 : Math.Min(1, 2 * Binomial.CDF(0.5, parted, Math.Min(gained, lost)));
        return new(
            runs,
            gained,
            lost,
            difference,
            low,
            high,
            chance,
            low > 0 ? Compared.Better
                : high < 0 ? Compared.Worse
                : low >= -Little && high <= Little ? Compared.Same
                : Compared.Open
        );
    }
}
