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
                $"{name} is {(fixedly ? "said here" : "set")} and no sentence asks for it. Use it where it was meant to decide, or take "
                    + "it out."
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
