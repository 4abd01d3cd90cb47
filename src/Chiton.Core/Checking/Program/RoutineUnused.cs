using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A routine that nobody does.</summary>
internal sealed class RoutineUnused : Check
{
    /// <inheritdoc/>
    public override string Code => "routine-unused";

    /// <inheritdoc/>
    public override string Title => "A routine nobody does";

    /// <inheritdoc/>
    public override string Says => "A routine stands in the program and no sentence that can be reached does it.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Resting, initial, final\n\nroutine Greet\n  state Bow, initial\n    after 1 s: go Over\n\n"
        + "  state Over, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Resting, initial\n    on entry: do Greet\n    when all done: go Over\n\n  state Over, final\n\n"
        + "routine Greet\n  state Bow, initial\n    after 1 s: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var homes = input
            .Node.Routines.SelectMany(r => r.Regions.SelectMany(g => g.AllStates).Select(s => (State: s, Routine: r.Name)))
            .ToDictionary(x => x.State, x => x.Routine, (IEqualityComparer<StateNode>)ReferenceEqualityComparer.Instance);
        var calls = input
            .Walk.Commands.Where(c => c.Action is DoNode)
            .ToLookup(c => homes.GetValueOrDefault(c.At.State) ?? "", c => ((DoNode)c.Action).Routine);
        // From the regions on, and from what is done there.
        HashSet<string> done = [];
        var open = new Queue<string>(calls[""]);
        while (open.TryDequeue(out var name))
            if (done.Add(name))
                foreach (var next in calls[name])
                    open.Enqueue(next);
        foreach (var routine in input.Node.Routines.Where(r => !done.Contains(r.Name)))
            yield return At(
                routine.Span.Line,
                Severity.Advice,
                $"Nobody does {routine.Name}",
                $"No sentence that is ever reached does {routine.Name}. Do it where it was meant, or take it out."
            );
    }
}
