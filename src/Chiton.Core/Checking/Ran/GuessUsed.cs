using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Numbers that were never tried on this copy, and which of them decides most in the bench.</summary>
internal sealed class GuessUsed : RanCheck
{
    // So many runs in a hundred may fail before it is more than advice.
    private const double Bearable = 0.05;

    /// <inheritdoc/>
    public override string Code => "guess-used";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override string Title => "A guess that decides";

    /// <inheritdoc/>
    public override string Says =>
        "A number that decides success is a guess that nobody ever tried. Where runs of the bench fail, the guess is named that most "
        + "hangs on, with what to measure.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) => input.Motion is not null ? null : base.Cannot(input);

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var finding in input.OfRail.Where(f => f.Code == Code))
            yield return finding;
        // It is of the whole rig: told once.
        if (input.ExploredAs > 0)
            yield break;
        foreach (var scene in Counting(input))
        {
            if (scene.Guess is not { } guess)
                continue;
            var failed = scene.Runs - scene.Passes;
            var worst = Math.Round(100 * guess.Worst);
            yield return At(
                0,
                GoalMissed.Least(failed, scene.Runs) > Bearable ? Severity.Risky : Severity.Advice,
                $"{char.ToUpperInvariant(guess.Name[0])}{guess.Name[1..]} decides, and is a guess",
                $"Of all numbers that are drawn most hangs on {guess.Name}, "
                    + $"{Show(guess.Value, 3)} {guess.Unit}".TrimEnd()
                    + $" ({guess.Source}): where it is at its worst, {worst} of 100 runs pass. "
                    + (guess.Measure is { } how ? $"To be sure, measure it: {how}." : "Nothing here measures it: leave more room for it.")
            ) with
            {
                Tried = $"Tried in the bench: “{scene.Scene}”, {Of(failed, scene.Runs)} fail.",
            };
        }
    }
}
