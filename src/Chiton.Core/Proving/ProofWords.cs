using Chiton.Core.Quantities;

namespace Chiton.Core.Proving;

/// <summary>A proof in words, before any figure.</summary>
public static class ProofWords
{
    /// <summary>A range no wider than this is said not to matter.</summary>
    public const double Narrow = 0.15;

    /// <summary>The sentence that stands above the axis.</summary>
    /// <param name="proof">A proof with at least one run.</param>
    public static string Say(Proof proof)
    {
        var rate = (double)proof.Passes / proof.Runs;
        if (proof.Copy is not { } copy)
            return $"{proof.Passes} of {proof.Runs} runs pass.";
        if (proof.Copies == 0)
            return $"{Often(rate)}. Nothing of this copy is in doubt: what varies is luck.";
        if (copy.High - copy.Low <= Narrow)
            return $"{Often(rate)}, and what is not known of this copy hardly matters.";
        var middle = proof.Marks.Count > 0 ? proof.Marks[proof.Marks.Count / 2] : rate;
        var most = $"Most copies like this pass {Tenths(middle)}.";
        if (proof.Doubts?.Doubts.Count > 0 && proof.Doubts.Doubts[0] is var first && Tenths(first.Worst) != Tenths(middle))
            return $"{most} Yours may not: {first.Name} is {Known(first.Kind)}, and with the worst of it {Tenths(first.Worst)}.";
        return $"{most} Yours may lie anywhere from {Math.Round(100 * copy.Low)} to {Math.Round(100 * copy.High)} in 100"
            + (
                proof.Runs < RunLayout.Many ? $": {RunLayout.Many} runs would tell it more sharply."
                : proof.Doubts is { Named: true } ? ", and no single number makes that."
                : "."
            );
    }

    private static string Often(double rate) =>
        rate >= 1 ? "Every run passes"
        : rate <= 0 ? "No run passes"
        : $"It passes {Tenths(rate)}";

    /// <summary>A rate in tenths, or finer near its ends: "9 times in 10".</summary>
    /// <param name="rate">The rate, 0 to 1.</param>
    public static string Tenths(double rate) =>
        rate >= 0.995 ? "nearly always"
        : rate <= 0.005 ? "hardly ever"
        : rate is >= 0.95 or < 0.05 ? (Math.Round(100 * rate) is 1 ? "once in 100" : $"{Math.Round(100 * rate):0} times in 100")
        : Math.Round(10 * rate) is 1 ? "once in 10"
        : $"{Math.Round(10 * rate):0} times in 10";

    /// <summary>How a number is known, as part of a sentence.</summary>
    public static string Known(Provenance kind) =>
        kind switch
        {
            Provenance.Guessed => "a guess",
            Provenance.Measured => "not known exactly",
            Provenance.Calculated => "worked out from others",
            _ => "chosen",
        };

    /// <summary>What measuring a number would bring, in words; null where nothing measures it.</summary>
    public static string? Buys(Doubt doubt) =>
        doubt is { Measured: { } m, WidthThen: { } then }
            ? $"{m.Say} ({Figures.Count((int)Math.Round(m.Minutes), "minute")}) would narrow a range of "
                + $"{Math.Round(100 * doubt.WidthNow)} in 100 to about {Math.Round(100 * then)}."
            : null;
}

/// <summary>What tuning found, in words.</summary>
public static class TuneWords
{
    /// <summary>The sentence that stands above the points.</summary>
    /// <param name="found">What was found.</param>
    /// <param name="ranges">The numbers.</param>
    public static string Say(TuneResult found, IReadOnlyList<TunedRange> ranges)
    {
        if (found.Best < 0)
            return found.Stopped
                ? "It was stopped before the best could be run again: nothing here is settled."
                : "Nothing that was tried is better than what stands, and not by luck.";
        var best = found.Points[found.Best];
        var values = Figures.List(
            ranges.Select((r, d) => $"{Figures.Show(best.Values[d])}{(r.Number.Unit.Length > 0 ? " " + r.Number.Unit : "")}")
        );
        var edge =
            best.AtEdge.Count == 0
                ? ""
                : $" {Figures.List(best.AtEdge)} sits at the edge of its range: a wider range may hold better ones.";
        return $"{char.ToUpperInvariant(values[0])}{values[1..]} passes {best.Passes} of {best.Runs}, "
            + $"this copy {Math.Round(100 * best.Copy.Low)} to {Math.Round(100 * best.Copy.High)} in 100. "
            + $"{best.Against!.Say}{edge}";
    }
}
