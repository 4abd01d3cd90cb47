using Chiton.Core.Proving;
using Chiton.Core.Quantities;

namespace Chiton.Core.Logbook;

/// <summary>Runs on the table against what was promised, in words.</summary>
public static class SpreadWords
{
    /// <summary>How the runs of a revision came out: "5 of 7, as promised."</summary>
    /// <param name="passes">Runs that passed.</param>
    /// <param name="runs">All runs.</param>
    /// <param name="promised">Of as many, so many were promised; null where nothing was.</param>
    /// <param name="called">Where the bench does not know something.</param>
    /// <param name="afterwards">True where that was worked out after the first run: nobody had promised it.</param>
    public static string Say(int passes, int runs, NextRuns? promised, CalledOut? called, bool afterwards = false)
    {
        var were = afterwards ? "were to be expected" : "were promised";
        var count = $"{passes} of {runs}";
        if (runs == 0)
            return "No run yet.";
        if (promised is null)
            return $"{count}. Nothing was promised: it was not proved on this copy.";
        if (called is not null)
            return $"{count}. After {Figures.Count(called.Trials, "run")} {called.Passes} had passed, and "
                + $"{Between(called.Low, called.High)} {were}: the bench does not know something.";
        return passes >= promised.Low && passes <= promised.High
            ? $"{count}, {(afterwards ? "as was to be expected" : "as promised")}."
            : $"{count}; {Between(promised.Low, promised.High)} {were}.";
    }

    private static string Between(int low, int high) => low == high ? $"{low}" : $"{low} to {high}";

    /// <summary>Whether one revision is better than another, by its runs on the table; null where either has none.</summary>
    /// <param name="before">Passes and runs of the earlier one.</param>
    /// <param name="after">Of the later one.</param>
    public static string? Settled((int Passes, int Runs) before, (int Passes, int Runs) after)
    {
        if (before.Runs == 0 || after.Runs == 0)
            return null;
        var found = CompareRates.Compute(new(new(before.Passes, before.Runs), new(after.Passes, after.Runs))).Result;
        int low = (int)Math.Round(100 * found.Low),
            high = (int)Math.Round(100 * found.High);
        if (found.Low > 0)
            return $"Better by {Between(low, high)} in 100: settled.";
        if (found.High < 0)
            return $"Worse by {Between(-high, -low)} in 100: settled.";
        return $"Better by {high} in 100 or worse by {-low}: not settled"
            + (
                found.MoreRunsForDecision is { } more ? $", about {Figures.Count(more, "more run", "more runs")} of each would tell."
                : found.Difference == 0 ? ", and both pass as often."
                : "."
            );
    }

    /// <summary>What runs teach of the copy, in a sentence or two.</summary>
    public static string Learnt(Learnt learnt)
    {
        if (learnt.Called is { } called)
            return $"{(called.Worse ? "Fewer" : "More")} pass than any copy of the bench would explain: it does not know something, "
                + "and learns nothing from these runs until that is found."
                + (learnt.Explaining.Count == 0 ? " No number in doubt would explain it." : "");
        var whole = $"{Math.Round(100 * learnt.After.Low)} to {Math.Round(100 * learnt.After.High)} in 100";
        var range =
            learnt.After.High - learnt.After.Low < learnt.Before.High - learnt.Before.Low
                ? $"With these the range narrows to {whole}."
                : $"The range stays at {whole}.";
        return learnt.Numbers.Count > 0 ? $"{range} {char.ToUpperInvariant(learnt.Numbers[0].Say[0])}{learnt.Numbers[0].Say[1..]}"
            : learnt.Enough ? range
            : $"{range} Too few made-up copies are like this one to speak of single numbers.";
    }
}
