using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Statecharts;

/// <summary>What a node of a chart is.</summary>
public enum NodeKind : byte
{
    /// <summary>A state without states in it.</summary>
    Atomic,

    /// <summary>A state of whose states one is active. The whole chart is one.</summary>
    Compound,

    /// <summary>A state of whose states all are active.</summary>
    Parallel,

    /// <summary>A state that ends what it stands in.</summary>
    Final,

    /// <summary>Remembers which of its neighbours was active.</summary>
    ShallowHistory,

    /// <summary>Remembers which of all states in its parent were active.</summary>
    DeepHistory,
}

/// <summary>A node of a chart while it is built.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Parent">The node it stands in; −1 for the whole chart.</param>
/// <param name="Default">
/// Of the chart and a compound state the transition taken when it is entered without saying where; of a history the one
/// taken while it remembers nothing; −1 when there is none: then the first state is entered.
/// </param>
public readonly record struct ChartNode(NodeKind Kind, int Parent, int Default = -1);

/// <summary>A transition of a chart while it is built.</summary>
/// <param name="Source">The node it leaves; of a default the node it belongs to.</param>
/// <param name="Targets">Where it goes; empty to stay.</param>
/// <param name="Internal">True when it does not leave its source for targets inside it.</param>
/// <param name="Eventless">True when it is taken without an event.</param>
/// <param name="Level">True when an eventless one is looked at by each event too, in its place among the others.</param>
public readonly record struct ChartTransition(int Source, int[] Targets, bool Internal = false, bool Eventless = false, bool Level = false);

/// <summary>
/// A statechart as tables: nodes in document order (each before what stands in it), so that what stands in a node is a
/// stretch of numbers. Made once and shared by any number of machines.
/// </summary>
public sealed class Chart
{
    internal readonly NodeKind[] Kind;
    internal readonly int[] Parent,
        End,
        Depth,
        Default;
    internal readonly int[] FirstTransition,
        TransitionList,
        FirstHistory,
        HistoryList,
        FirstChild,
        ChildList;
    internal readonly int[] Source;
    internal readonly int[][] Targets;
    internal readonly bool[] Internal,
        Eventless,
        Level,
        HasHistoryTarget,
        HasTransitions,
        EventlessAbove;
    internal readonly int[] FixedDomain;
    internal readonly ulong[] AtomicMask;

    /// <summary>Number of nodes; 0 is the whole chart.</summary>
    public int Count => Kind.Length;

    /// <summary>Number of transitions, defaults too.</summary>
    public int TransitionCount => Source.Length;

    /// <summary>Words that hold a set of nodes.</summary>
    internal int Words { get; }

    /// <summary>Builds the tables.</summary>
    /// <param name="nodes">Nodes in document order; the first is the whole chart.</param>
    /// <param name="transitions">Transitions in document order; those that are some node's default are never selected by
    /// themselves.</param>
    /// <exception cref="ArgumentException">When the order is no document order.</exception>
    public Chart(IReadOnlyList<ChartNode> nodes, IReadOnlyList<ChartTransition> transitions)
    {
        var n = nodes.Count;
        if (n == 0 || nodes[0].Parent != -1 || nodes[0].Kind != NodeKind.Compound)
            throw new ArgumentException("The first node is the whole chart, of whose states one is active.", nameof(nodes));
        (Kind, Parent, End, Depth, Default) = (new NodeKind[n], new int[n], new int[n], new int[n], new int[n]);
        Words = (n + 63) / 64;
        AtomicMask = new ulong[Words];
        for (var i = 0; i < n; i++)
        {
            (Kind[i], Parent[i], Default[i], End[i]) = (nodes[i].Kind, nodes[i].Parent, nodes[i].Default, i + 1);
            if (i > 0)
            {
                if (Parent[i] < 0 || Parent[i] >= i)
                    throw new ArgumentException("A node stands after the one it stands in.", nameof(nodes));
                Depth[i] = Depth[Parent[i]] + 1;
            }
            if (Kind[i] is NodeKind.Atomic or NodeKind.Final)
                AtomicMask[i >> 6] |= 1UL << (i & 63);
        }
        for (var i = n - 1; i > 0; i--)
            End[Parent[i]] = Math.Max(End[Parent[i]], End[i]);
        for (var i = 1; i < n; i++)
            if (Parent[i] != i - 1 && !(i - 1 > Parent[i] && End[i - 1] <= i))
                throw new ArgumentException("Nodes must stand in document order.", nameof(nodes));

        (FirstChild, ChildList) = Group(
            n,
            Enumerable.Range(1, n - 1).Where(i => Kind[i] is not (NodeKind.ShallowHistory or NodeKind.DeepHistory)),
            i => Parent[i]
        );
        (FirstHistory, HistoryList) = Group(
            n,
            Enumerable.Range(1, n - 1).Where(i => Kind[i] is NodeKind.ShallowHistory or NodeKind.DeepHistory),
            i => Parent[i]
        );
        var m = transitions.Count;
        (Source, Targets, Internal, Eventless, Level, HasHistoryTarget, FixedDomain) = (
            new int[m],
            new int[m][],
            new bool[m],
            new bool[m],
            new bool[m],
            new bool[m],
            new int[m]
        );
        var defaults = nodes.Select(x => x.Default).Where(d => d >= 0).ToHashSet();
        for (var t = 0; t < m; t++)
        {
            (Source[t], Targets[t], Internal[t], Eventless[t], Level[t]) = (
                transitions[t].Source,
                transitions[t].Targets,
                transitions[t].Internal,
                transitions[t].Eventless,
                transitions[t].Level
            );
            HasHistoryTarget[t] = Targets[t].Any(x => Kind[x] is NodeKind.ShallowHistory or NodeKind.DeepHistory);
            FixedDomain[t] = Targets[t].Length == 0 || HasHistoryTarget[t] ? -1 : Domain(t, Targets[t]);
        }
        (FirstTransition, TransitionList) = Group(n, Enumerable.Range(0, m).Where(t => !defaults.Contains(t)), t => Source[t]);
        HasTransitions = new bool[n];
        EventlessAbove = new bool[n];
        for (var i = 0; i < n; i++)
        {
            var own = TransitionList.AsSpan(FirstTransition[i], FirstTransition[i + 1] - FirstTransition[i]);
            HasTransitions[i] = own.Length > 0 || i > 0 && HasTransitions[Parent[i]];
            EventlessAbove[i] = i > 0 && EventlessAbove[Parent[i]];
            foreach (var t in own)
                EventlessAbove[i] |= Eventless[t];
        }
    }

    private static (int[] First, int[] List) Group(int n, IEnumerable<int> items, Func<int, int> of)
    {
        var by = items.GroupBy(of).ToDictionary(g => g.Key, g => g.ToArray());
        var first = new int[n + 1];
        var list = new List<int>();
        for (var i = 0; i < n; i++)
        {
            first[i] = list.Count;
            if (by.TryGetValue(i, out var own))
                list.AddRange(own);
        }
        first[n] = list.Count;
        return (first, [.. list]);
    }

    /// <summary>True when a stands in b, at any depth, and is not b.</summary>
    public bool IsIn(int a, int b) => a > b && a < End[b];

    /// <summary>The kind of a node.</summary>
    public NodeKind KindOf(int node) => Kind[node];

    /// <summary>The node that a node stands in; −1 for the chart.</summary>
    public int ParentOf(int node) => Parent[node];

    /// <summary>The node that a transition leaves.</summary>
    public int SourceOf(int transition) => Source[transition];

    /// <summary>The domain of a transition: the innermost compound node that all of source and targets stand in, which is not
    /// left.</summary>
    internal int Domain(int t, ReadOnlySpan<int> effective)
    {
        var source = Source[t];
        if (Internal[t] && Kind[source] == NodeKind.Compound)
        {
            var inside = true;
            foreach (var target in effective)
                inside &= IsIn(target, source);
            if (inside)
                return source;
        }
        for (var node = Parent[source]; node >= 0; node = Parent[node])
        {
            if (node != 0 && Kind[node] != NodeKind.Compound)
                continue;
            var all = true;
            foreach (var target in effective)
                all &= IsIn(target, node);
            if (all)
                return node;
        }
        return 0;
    }
}
