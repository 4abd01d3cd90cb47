using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>States that no sentence leads to.</summary>
internal sealed class NeverReached : ExploredCheck
{
    /// <inheritdoc/>
    public override string Code => "never-reached";

    /// <inheritdoc/>
    public override string Title => "A state nothing leads to";

    /// <inheritdoc/>
    public override string Says =>
        "No sentence goes to a state and it is not where its region begins, or none of those that do is ever taken, whatever "
        + "happens: it is "
        + "never entered.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    after 20 s: go Over\n\n  state Over, final\n\n"
        + "  state Lost, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Over\n"
        + "    after 20 s: go Lost\n\n  state Over, final\n\n  state Lost, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var plain = ProgramChecks.Find(input.Node);
        foreach (var finding in plain)
            yield return finding;
        if (!Settled(input))
            yield break;
        // What holds it is never entered either: then that is told.
        var never = input
            .Explored!.NeverEntered(input.ExploredAs)
            .Select(s => Read(input, s))
            .OfType<StateNode>()
            .ToHashSet((IEqualityComparer<StateNode>)ReferenceEqualityComparer.Instance);
        foreach (var state in never)
        {
            if (never.Any(o => !ReferenceEquals(o, state) && o.WithInner.Any(i => ReferenceEquals(i, state))))
                continue;
            if (plain.Any(f => input.Node.AllStates.Any(s => s.Span.Line == f.Line && s.WithInner.Any(i => ReferenceEquals(i, state)))))
                continue;
            // A final state that is never entered is one whose sentence never comes to its turn.
            var from = input.Walk.Transitions.Where(t => t.Transition.Target == state.Name).Select(t => t.At.Number).ToArray();
            yield return At(
                state,
                Severity.Risky,
                $"{state.Name} is never entered",
                $"Whatever happens, {(from.Length == 1 ? $"line {from[0]}, which leads to" : "no sentence that leads to")} "
                    + $"{state.Name}{(from.Length == 1 ? "," : "")} is "
                    + $"{(from.Length == 1 ? "never" : "ever")} taken. See what it waits for, or take the state out."
            );
        }
    }
}
