namespace Chiton.Core.Checking;

/// <summary>What is known of a scene before anything runs in it.</summary>
/// <param name="Scene">Its name.</param>
/// <param name="Counts">True when the header and Prove count it.</param>
/// <param name="Code">goal-unjudged, surface-unknown or another; others are not told here.</param>
/// <param name="Say">What it is, and what cures it.</param>
public sealed record SceneNote(string Scene, bool Counts, string Code, string Say)
{
    /// <summary>The code of a scene that could not be looked at.</summary>
    public const string Unlooked = "unlooked";
}

/// <summary>A check that asks what is known of the rig's scenes. They are the rig's: its first program tells of them.</summary>
internal abstract class SceneCheck : Check
{
    /// <summary>What will happen, in a scene.</summary>
    protected abstract string Headline(string scene);

    /// <inheritdoc/>
    public override string? Unsettled(CheckInput input) =>
        input.Scenes is not { } scenes ? "The scenes were not looked at."
        : scenes.FirstOrDefault(s => s.Code == SceneNote.Unlooked) is { } one ? $"“{one.Scene}” could not be looked at: {one.Say}"
        : null;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        if (input.ExploredAs > 0 || input.Scenes is not { } scenes)
            yield break;
        foreach (var scene in scenes.Where(s => s.Code == Code).GroupBy(s => s.Scene))
            yield return At(
                0,
                // A scene that nobody counts spoils no figure.
                scene.Any(s => s.Counts)
                    ? Worst
                    : Severity.Advice,
                Headline(scene.Key),
                string.Join(' ', scene.Select(s => s.Say.TrimEnd('.')).Distinct().Select(s => s + "."))
            ) with
            {
                Device = scene.Key,
            };
    }
}

/// <summary>A scene in which a goal cannot be judged.</summary>
internal sealed class GoalUnjudged : SceneCheck
{
    /// <inheritdoc/>
    public override string Code => "goal-unjudged";

    /// <inheritdoc/>
    public override string Title => "A goal that cannot be judged";

    /// <inheritdoc/>
    public override string Says => "A goal names a place or a thing that a scene does not have: runs there are judged without it.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    protected override string Headline(string scene) => $"Not every goal counts in “{scene}”";
}

/// <summary>A surface that an eye looks at and of which this copy knows nothing.</summary>
internal sealed class SurfaceUnknown : SceneCheck
{
    /// <inheritdoc/>
    public override string Code => "surface-unknown";

    /// <inheritdoc/>
    public override string Title => "A surface no eye knows";

    /// <inheritdoc/>
    public override string Says => "An eye looks at a surface of which this copy has no readings: nothing can be run in that scene.";

    /// <inheritdoc/>
    public override string Part => "sense";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    protected override string Headline(string scene) => $"“{scene}” has a surface nobody knows";
}
