using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A goal that leaves less time than the fastest run takes.</summary>
internal sealed class GoalTooShort : RanCheck
{
    /// <inheritdoc/>
    public override string Code => "goal-too-short";

    /// <inheritdoc/>
    public override string Title => "A limit shorter than the fastest run";

    /// <inheritdoc/>
    public override string Says => "A goal is to be reached within a time in which no run reaches it; given more, runs do.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var scene in (input.Ran ?? []).Where(r => r.Runs > 0))
        {
            // A goal of a scene is the rig's: its first program tells of it.
            if (scene.Short is not { } tooShort || tooShort.FromScene && input.ExploredAs > 0)
                continue;
            if (!tooShort.FromScene && input.Node.Head.All(h => h.Span.Line != tooShort.Line))
                continue;
            yield return At(
                tooShort.FromScene ? 0 : tooShort.Line,
                scene.Counts ? Severity.Stops : Severity.Advice,
                $"{Show(tooShort.LimitS)} s are too short",
                $"“{scene.Scene}”: none of {Count(scene.Runs, "run")} reaches “{tooShort.Rule}”. Of {tooShort.Runs} with all the "
                    + $"time they want the fastest "
                    + $"takes {Show(tooShort.FastestS, 3)} s. Leave more time, or make it faster."
            ) with
            {
                Device = scene.Scene,
            };
        }
    }
}
