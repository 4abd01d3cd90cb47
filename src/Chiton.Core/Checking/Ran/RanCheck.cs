using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A check that asks runs of the bench.</summary>
internal abstract class RanCheck : Check
{
    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Ran is { } ran && ran.Where(r => r.Counts).ToArray() is var counting && counting.All(r => r.Cannot is not null)
            ? counting.FirstOrDefault()?.Cannot ?? "No scene of this rig counts."
            : null;

    /// <inheritdoc/>
    public override string? Unsettled(CheckInput input) =>
        input.Ran is not { } ran || ran.Where(r => r.Counts).All(r => r.Runs == 0) ? "Not tried yet: the bench runs once edits pause."
        : ran.FirstOrDefault(r => r.Counts && r.Cannot is not null) is { } one ? $"“{one.Scene}” could not be run: {one.Cannot}"
        : null;

    /// <summary>The scenes that count and were run.</summary>
    protected static IEnumerable<SceneRuns> Counting(CheckInput input) => (input.Ran ?? []).Where(r => r.Counts && r.Asks && r.Runs > 0);

    /// <summary>How many of how many, as it is told.</summary>
    protected static string Of(int some, int all) => $"{some} of {Count(all, "run")}";
}
