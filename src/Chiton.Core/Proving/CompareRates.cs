using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Proving;

/// <summary>Runs that were counted.</summary>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Runs">All runs.</param>
public sealed record RunCount(double? Passes, double? Runs);

/// <summary>Input of the sum <c>compare-rates</c>.</summary>
/// <param name="Before">Before the change.</param>
/// <param name="After">After it.</param>
/// <param name="Confidence">How sure the interval is to be, between 0 and 1; 0.95 when left out.</param>
public sealed record CompareRatesInput(RunCount? Before, RunCount? After, double? Confidence = null);

/// <summary>Result of the sum <c>compare-rates</c>.</summary>
/// <param name="Difference">Rate after less rate before.</param>
/// <param name="Low">Lower end of its interval.</param>
/// <param name="High">Upper end.</param>
/// <param name="LikelyBetter">True when the whole interval lies above 0.</param>
/// <param name="MoreRunsForDecision">Least number of further runs on each side, at the same rates, that makes the interval exclude 0; null
/// over 10 000.</param>
public sealed record CompareRatesResult(double Difference, double Low, double High, bool LikelyBetter, int? MoreRunsForDecision);

/// <summary>Is it better, or was it luck?</summary>
public static class CompareRates
{
    /// <summary>Most further runs that are tried.</summary>
    public const int MostMore = 10_000;

    /// <summary>Computes the sum. Source: Newcombe, "Interval estimation for the difference between independent proportions", 1998, method
    /// 10 (hybrid of two Wilson intervals).</summary>
    /// <exception cref="InputProblem">When a field is missing, not whole, out of range or contradictory.</exception>
    public static Answer<CompareRatesResult> Compute(CompareRatesInput input)
    {
        var need = new Require();
        (int Passes, int Runs) Side(RunCount? c, string at)
        {
            var runs = need.Whole(c?.Runs, $"{at}.runs", 1, SuccessRate.MostRuns);
            var passes = need.Whole(c?.Passes, $"{at}.passes", 0, SuccessRate.MostRuns);
            if (need.Holds)
                need.That(passes <= runs, $"{at}.passes", $"Cannot be more than the {runs} runs.");
            return (passes, runs);
        }
        need.That(input.Before is not null, "before", "Give passes and runs before.");
        need.That(input.After is not null, "after", "Give passes and runs after.");
        var before = Side(input.Before, "before");
        var after = Side(input.After, "after");
        var confidence = input.Confidence ?? 0.95;
        need.That(
            double.IsFinite(confidence) && confidence is > 0 and < 1,
            "confidence",
            "Must be a number greater than 0 and less than 1."
        );
        need.Done();
        var z = SuccessRate.Deviate(confidence);
        double p1 = (double)before.Passes / before.Runs,
            p2 = (double)after.Passes / after.Runs;
        (double Low, double High) Interval(int more)
        {
            var (l1, u1) = SuccessRate.Wilson(p1 * (before.Runs + more), before.Runs + more, z);
            var (l2, u2) = SuccessRate.Wilson(p2 * (after.Runs + more), after.Runs + more, z);
            var d = p2 - p1;
            return (
                d - Math.Sqrt((p2 - l2) * (p2 - l2) + (u1 - p1) * (u1 - p1)),
                d + Math.Sqrt((u2 - p2) * (u2 - p2) + (p1 - l1) * (p1 - l1))
            );
        }
        var (low, high) = Interval(0);
        int? needed = null;
        for (var more = 0; more <= MostMore && needed is null && p1 != p2; more++)
            if (Interval(more) is var i && (i.Low > 0 || i.High < 0))
                needed = more;
        var (lb, ub) = SuccessRate.Wilson(before.Passes, before.Runs, confidence);
        var (la, ua) = SuccessRate.Wilson(after.Passes, after.Runs, confidence);
        var verdict =
            low > 0 ? new Verdict(Grade.Solid, "It is better, and not by luck.")
            : high < 0 ? new Verdict(Grade.Unusable, "It is worse, and not by luck.")
            : needed is { } n
                ? new Verdict(Grade.Fragile, $"Not settled: {Count(n, "more run")} on each side at these rates would settle it.")
            : new Verdict(Grade.Fragile, "Not settled, and 10 000 more runs at these rates would not settle it.");
        return new(
            new(p2 - p1, low, high, low > 0, needed),
            [
                new("Before", $"{before.Passes} / {before.Runs}, likely {Show(lb, 3)} to {Show(ub, 3)}", p1, ""),
                new("After", $"{after.Passes} / {after.Runs}, likely {Show(la, 3)} to {Show(ua, 3)}", p2, ""),
                new("Difference", $"{Show(p2)} − {Show(p1)}", p2 - p1, ""),
                new("At least", $"difference − √(({Show(p2)} − {Show(la)})² + ({Show(ub)} − {Show(p1)})²)", low, ""),
                new("At most", $"difference + √(({Show(ua)} − {Show(p2)})² + ({Show(p1)} − {Show(lb)})²)", high, ""),
            ],
            [],
            verdict
        );
    }
}
