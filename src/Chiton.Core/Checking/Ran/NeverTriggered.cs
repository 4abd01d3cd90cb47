using Chiton.Core.Programs.Language;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A sentence of a sensor or a message that no run of a scene that counts ever takes.</summary>
internal sealed class NeverTriggered : RanCheck
{
    /// <inheritdoc/>
    public override string Code => "never-triggered";

    /// <inheritdoc/>
    public override string Title => "A sentence that no scene triggers";

    /// <inheritdoc/>
    public override string Says =>
        "In no run of a scene that counts what this sentence waits for comes about while its state is active: whether it is right, nothing "
        + "here shows. Times, stalls and giving up are left out: they are for when something is wrong.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Scenes.Count == 0 ? "This rig has no scene of its own yet." : base.Cannot(input);

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        SceneRuns[] scenes = [.. Counting(input)];
        if (scenes.Length == 0 || scenes.Any(s => s.Runs < SceneRuns.First))
            yield break;
        var runs = scenes.Sum(s => s.Runs);
        foreach (var (sentence, at) in input.Walk.Transitions)
        {
            if (sentence.Trigger is not (ZoneTriggerNode or PressTriggerNode or ToldTriggerNode) && !Waited.Of(input, sentence).Any())
                continue;
            bool Came(SceneRuns scene) =>
                scene.Programs[input.ExploredAs].Entered.ContainsKey(at.State.Span.Line)
                || Places.Around(input.Node, at.State).Any(s => scene.Programs[input.ExploredAs].Entered.ContainsKey(s.Span.Line));
            // A state that is never entered is the matter of what should lead there.
            if (!scenes.Any(Came) || scenes.Any(s => s.Programs[input.ExploredAs].Taken.ContainsKey(at.Number)))
                continue;
            yield return At(
                at,
                Severity.Advice,
                "No scene ever triggers this",
                $"In none of {Count(runs, "run")} of {List([.. scenes.Select(s => $"“{s.Scene}”")])} this sentence was taken, "
                    + $"though {at.State.Name} was "
                    + "active. If it matters, write a scene in which it comes about."
            );
        }
    }
}
