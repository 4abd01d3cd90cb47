namespace Chiton.Core.Simulation.Scenes;

/// <summary>What is worth knowing of a scene before it is run on a copy.</summary>
/// <param name="Line">The line that it speaks of, from 1; 0 for the whole scene.</param>
/// <param name="Code">surface-unknown, goal-unjudged, wired-wrong or note.</param>
/// <param name="Say">What it is, and what cures it.</param>
public sealed record SceneFinding(int Line, string Code, string Say);

/// <summary>A scene that cannot be run on a copy, with everything that hinders it.</summary>
/// <param name="findings">What hinders it, one or more.</param>
public sealed class SceneProblem(IReadOnlyList<SceneFinding> findings)
    : Quantities.InputProblem("copy", string.Join(" ", findings.Select(f => f.Say).Distinct()))
{
    /// <summary>What hinders it, by line.</summary>
    public IReadOnlyList<SceneFinding> Findings { get; } = findings;
}
