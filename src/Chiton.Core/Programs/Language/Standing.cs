namespace Chiton.Core.Programs.Language;

/// <summary>A part of a program as it stands in the text: a line, and whatever stands in it.</summary>
internal sealed class StandingItem(object node, int line, StandingItem? parent)
{
    /// <summary>The head line, region, routine, state, line or history.</summary>
    public object Node { get; } = node;

    /// <summary>Its line, from 1; 0 of a region without a line of its own.</summary>
    public int Line { get; } = line;

    /// <summary>What it stands in; null at the margin.</summary>
    public StandingItem? Parent { get; } = parent;

    /// <summary>What stands in it directly, in the order of the tree.</summary>
    public List<StandingItem> Inner { get; } = [];

    /// <summary>The last line of it and of all that stands in it.</summary>
    public int Last { get; set; } = line;
}

/// <summary>Where everything of a program stands in its text: what the sheet and edits of whole states go by.</summary>
internal sealed class Standing
{
    private readonly Dictionary<int, StandingItem> byLine = [];
    private readonly string[] texts;

    public Standing(ProgramNode program, string[] texts)
    {
        this.texts = texts;
        Program = program;
        foreach (var head in program.Head)
            Add(head, head.Span.Line, null);
        foreach (var region in program.Regions)
            Region(region, null);
        foreach (var routine in program.Routines)
        {
            var item = Add(routine, routine.Span.Line, null);
            foreach (var region in routine.Regions)
                if (region.Span.Line == 0)
                    foreach (var state in region.States)
                        State(state, item);
                else
                    Region(region, item);
        }
        // What stands in a part counts as its own; later parts were added later, so that inner ones are done first.
        for (var i = All.Count - 1; i >= 0; i--)
            if (All[i].Parent is { } parent && parent.Last < All[i].Last)
                parent.Last = All[i].Last;
    }

    public ProgramNode Program { get; }

    /// <summary>Every part, in the order of the tree.</summary>
    public List<StandingItem> All { get; } = [];

    /// <summary>The part whose line that is; null for blank lines, comments, the program line and what was taken up nowhere.</summary>
    public StandingItem? At(int line) => byLine.GetValueOrDefault(line);

    /// <summary>The line where a part begins: that of the first comment above it, or its own.</summary>
    public int First(StandingItem item)
    {
        var first = item.Line;
        for (var i = item.Line - 1; i >= 1 && texts[i - 1].Trim() is var text && (text == "" || text[0] == '#'); i--)
            if (text != "")
                first = i;
        return first;
    }

    /// <summary>The parts of its kind that stand beside it, itself among them, in order.</summary>
    public IReadOnlyList<StandingItem> Beside(StandingItem item) =>
        [.. (item.Parent?.Inner ?? All.Where(i => i.Parent is null)).Where(i => Kind(i) == Kind(item))];

    /// <summary>The part of its kind before it (−1) or after it (1); null when it is the first or the last.</summary>
    public StandingItem? Neighbour(StandingItem item, int by)
    {
        var all = Beside(item);
        var at = -1;
        for (var i = 0; i < all.Count; i++)
            if (ReferenceEquals(all[i], item))
                at = i + by;
        return at >= 0 && at < all.Count ? all[at] : null;
    }

    /// <summary>What can be done to a state where it stands.</summary>
    public IReadOnlyList<OutlineAct> Can(StandingItem item)
    {
        if (item.Node is not StateNode state)
            return [];
        var can = new List<OutlineAct>();
        var above = Neighbour(item, -1);
        if (above is not null)
            can.Add(OutlineAct.Up);
        if (Neighbour(item, 1) is not null)
            can.Add(OutlineAct.Down);
        if (above?.Node is StateNode { Final: false, Regions.Count: 0 })
            can.Add(OutlineAct.In);
        if (item.Parent?.Node is StateNode)
            can.Add(OutlineAct.Out);
        if (state is { Final: false, Regions.Count: 0 })
            can.Add(OutlineAct.AddInside);
        if (state is { Final: false, States.Count: 0 })
            can.Add(OutlineAct.RegionInside);
        return can;
    }

    private static char Kind(StandingItem item) =>
        item.Node switch
        {
            HeadNode => 'h',
            RegionNode => 'r',
            RoutineNode => 'u',
            StateNode => 's',
            HistoryNode => 'y',
            _ => 'l',
        };

    private StandingItem Add(object node, int line, StandingItem? parent)
    {
        var item = new StandingItem(node, line, parent);
        All.Add(item);
        parent?.Inner.Add(item);
        if (line > 0)
            byLine.TryAdd(line, item);
        return item;
    }

    private void Region(RegionNode region, StandingItem? parent)
    {
        var item = Add(region, region.Span.Line, parent);
        foreach (var state in region.States)
            State(state, item);
    }

    private void State(StateNode state, StandingItem parent)
    {
        var item = Add(state, state.Span.Line, parent);
        foreach (var line in state.Lines)
            Add(line, line.Span.Line, item);
        foreach (var history in state.Histories)
            Add(history, history.Span.Line, item);
        foreach (var inner in state.States)
            State(inner, item);
        foreach (var region in state.Regions)
            Region(region, item);
    }
}
