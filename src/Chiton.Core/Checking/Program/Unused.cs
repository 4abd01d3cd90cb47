using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A variable that is set and that nothing ever reads.</summary>
internal sealed class ValueUnused : Check
{
    /// <inheritdoc/>
    public override string Code => "value-unused";

    /// <inheritdoc/>
    public override string Title => "A value nobody reads";

    /// <inheritdoc/>
    public override string Says => "A variable or constant is set and never read: whatever it was meant to decide is decided without it.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string Example =>
        "var beds = 0\n\nregion Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n"
        + "    when Tag eye becomes bed tag: set beds to 1; go Rolling\n";

    /// <inheritdoc/>
    public override string Mended =>
        "var beds = 0\n\nregion Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n"
        + "    when Tag eye becomes bed tag: set beds to 1; go Rolling\n    when beds = 1: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var names = new Read();
        names.Map(input.Node);
        foreach (var head in input.Node.Head)
        {
            var (name, fixedly) = head switch
            {
                VarNode v => (v.Name, false),
                ConstNode c => (c.Name, true),
                _ => (null, false),
            };
            if (name is null || names.Reads.Contains(name))
                continue;
            yield return At(
                head.Span.Line,
                Severity.Advice,
                $"Nothing reads {name}",
                $"{name} is {(fixedly ? "said here" : "set")} and no sentence asks for it. Use it where it was meant to decide, or take it out."
            );
        }
    }

    // Which names are read: all that stand anywhere but where they are given a value.
    private sealed class Read : NameMap
    {
        private readonly Dictionary<string, int> written = [];

        public HashSet<string> Reads { get; } = [];

        protected override string Variable(string name)
        {
            // What only gives it a value is taken off again below.
            written[name] = written.GetValueOrDefault(name) + 1;
            return name;
        }

        private void Gives(string name) => written[name] = written.GetValueOrDefault(name) - 1;

        private void Settle()
        {
            foreach (var (name, count) in written)
                if (count > 0)
                    Reads.Add(name);
            written.Clear();
        }

        protected override HeadNode Said(HeadNode head)
        {
            if (head is VarNode v)
                Gives(v.Name);
            else if (head is ConstNode c)
                Gives(c.Name);
            Settle();
            return head;
        }

        protected override ActionNode Command(ActionNode before, ActionNode after)
        {
            if (before is SetNode s)
                Gives(s.Variable);
            else if (before is TakeNode t)
                Gives(t.Variable);
            return after;
        }

        protected override LineNode Line(LineNode line)
        {
            if (line is TransitionNode { Trigger: ToldTriggerNode told })
                foreach (var name in told.Into)
                    Gives(name);
            Settle();
            return line;
        }
    }
}

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
        "region Main\n  state Resting, initial, final\n\nroutine Greet\n  state Bow, initial\n    after 1 s: go Over\n\n  state Over, final\n";

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
