using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs.Statecharts;

/// <summary>A chart made at random with everything the recommendation knows, and what its parts do.</summary>
internal sealed class GeneratedChart
{
    public const int Events = 4;
    public List<ChartNode> Nodes { get; } = [];
    public List<ChartTransition> Transitions { get; } = [];

    /// <summary>Per transition: which events set it off (bits), a state that must be active (−1 none, ~s must not be), what it raises
    /// (−1 nothing).</summary>
    public List<(int Events, int Guard, int Raises)> Meaning { get; } = [];

    /// <summary>Per node: event raised on entry or exit; −1 for none.</summary>
    public List<(int Entry, int Exit)> Raises { get; } = [];

    public int[] Stimuli { get; }
    public bool Parallel => Nodes.Any(n => n.Kind == NodeKind.Parallel);
    public bool History => Nodes.Any(n => n.Kind is NodeKind.ShallowHistory or NodeKind.DeepHistory);

    private readonly Random random;

    public GeneratedChart(int seed)
    {
        random = new(seed);
        var wantParallel = random.Next(100) < 62;
        var wantHistory = random.Next(100) < 52;
        Nodes.Add(new(NodeKind.Compound, -1));
        Fill(0, 9 + random.Next(12), 0, wantParallel, wantHistory);
        while (Raises.Count < Nodes.Count)
            Raises.Add((random.Next(30) == 0 ? random.Next(Events) : -1, random.Next(30) == 0 ? random.Next(Events) : -1));
        Defaults();
        Arrows();
        Stimuli = [.. Enumerable.Range(0, 20 + random.Next(10)).Select(_ => random.Next(Events))];
    }

    // Adds about `size` nodes inside one.
    private void Fill(int parent, int size, int depth, bool parallel, bool history)
    {
        var kind = Nodes[parent].Kind;
        var children = kind == NodeKind.Parallel ? 2 + random.Next(2) : 2 + random.Next(3);
        var left = size;
        for (var i = 0; i < children && (left > 0 || i < (kind == NodeKind.Parallel ? 2 : 1)); i++)
        {
            var share = i == children - 1 ? left : Math.Max(1, left / (children - i) + random.Next(-1, 2));
            left -= share;
            var deeper = share >= 3 && depth < 5;
            if (deeper)
            {
                var made =
                    parallel && kind != NodeKind.Parallel && random.Next(10) < 7 || depth == 0 && parallel && i == 0
                        ? NodeKind.Parallel
                        : NodeKind.Compound;
                Nodes.Add(new(made, parent));
                Fill(Nodes.Count - 1, share - 1, depth + 1, parallel, history);
            }
            else
                Nodes.Add(new(kind == NodeKind.Compound && i > 0 && random.Next(8) == 0 ? NodeKind.Final : NodeKind.Atomic, parent));
        }
        if (history && parent != 0 && random.Next(10) < 7)
            Nodes.Add(new(random.Next(2) == 0 ? NodeKind.ShallowHistory : NodeKind.DeepHistory, parent));
    }

    private int End(int node)
    {
        var end = node + 1;
        while (end < Nodes.Count && IsIn(end, node))
            end++;
        return end;
    }

    private bool IsIn(int a, int b)
    {
        for (var n = Nodes[a].Parent; n >= 0; n = Nodes[n].Parent)
            if (n == b)
                return true;
        return false;
    }

    private bool IsHistory(int n) => Nodes[n].Kind is NodeKind.ShallowHistory or NodeKind.DeepHistory;

    private int[] Children(int node) => [.. Enumerable.Range(0, Nodes.Count).Where(i => Nodes[i].Parent == node && !IsHistory(i))];

    private int Add(int source, int[] targets, bool isInternal = false, bool eventless = false, (int, int, int)? meaning = null)
    {
        Transitions.Add(new(source, targets, isInternal, eventless));
        Meaning.Add(meaning ?? (0, int.MinValue, random.Next(12) == 0 ? random.Next(Events) : -1));
        return Transitions.Count - 1;
    }

    private void Defaults()
    {
        for (var i = 0; i < Nodes.Count; i++)
        {
            if (Nodes[i].Kind == NodeKind.Compound && random.Next(3) == 0)
            {
                var inside = Enumerable
                    .Range(i + 1, End(i) - i - 1)
                    .Where(k => Nodes[k].Kind != NodeKind.Final && !(IsHistory(k) && Nodes[k].Parent == i))
                    .ToArray();
                if (inside.Length > 0)
                    Nodes[i] = Nodes[i] with { Default = Add(i, [inside[random.Next(inside.Length)]]) };
            }
            if (!IsHistory(i))
                continue;
            var parent = Nodes[i].Parent;
            int[] choice =
                Nodes[i].Kind == NodeKind.ShallowHistory
                    ? Children(parent)
                    : [.. Enumerable.Range(parent + 1, End(parent) - parent - 1).Where(k => !IsHistory(k))];
            Nodes[i] = Nodes[i] with { Default = Add(i, [choice[random.Next(choice.Length)]]) };
        }
    }

    private void Arrows()
    {
        for (var i = 1; i < Nodes.Count; i++)
        {
            if (Nodes[i].Kind == NodeKind.Final || IsHistory(i))
                continue;
            var count = random.Next(Nodes[i].Kind == NodeKind.Atomic ? 4 : 3);
            for (var k = 0; k < count; k++)
            {
                var eventless = random.Next(9) == 0;
                var events = 1 << random.Next(Events) | (random.Next(4) == 0 ? 1 << random.Next(Events) : 0);
                var guard =
                    random.Next(4) == 0 || eventless && random.Next(2) == 0
                        ? random.Next(2) == 0
                            ? 1 + random.Next(Nodes.Count - 1)
                            : ~(1 + random.Next(Nodes.Count - 1))
                        : int.MinValue;
                if (guard != int.MinValue && IsHistory(guard < 0 ? ~guard : guard))
                    guard = int.MinValue;
                var targets = Targets(i);
                Add(
                    i,
                    targets,
                    random.Next(3) == 0,
                    eventless,
                    (eventless ? 0 : events, guard, random.Next(10) == 0 ? random.Next(Events) : -1)
                );
            }
        }
    }

    private int[] Targets(int source)
    {
        if (random.Next(9) == 0)
            return [];
        // Sometimes one target in each of two regions.
        var parallels = Enumerable.Range(1, Nodes.Count - 1).Where(k => Nodes[k].Kind == NodeKind.Parallel).ToArray();
        if (parallels.Length > 0 && random.Next(5) == 0)
        {
            var regions = Children(parallels[random.Next(parallels.Length)]).OrderBy(_ => random.Next()).Take(2).ToArray();
            return
            [
                .. regions.Select(r =>
                {
                    var all = Enumerable.Range(r, End(r) - r).ToArray();
                    return all[random.Next(all.Length)];
                }),
            ];
        }
        if (random.Next(3) == 0 && Nodes[source].Kind != NodeKind.Atomic)
        {
            var inside = Enumerable.Range(source + 1, End(source) - source - 1).ToArray();
            return [inside[random.Next(inside.Length)]];
        }
        return [1 + random.Next(Nodes.Count - 1)];
    }

    /// <summary>What the chart means, the same for both interpreters: guards, raised events, and a written trace of all that
    /// happens.</summary>
    public sealed class Host(GeneratedChart chart) : IChartHost
    {
        public Func<int, bool> IsActive { get; set; } = _ => false;
        public List<int> Trace { get; } = [];
        private readonly Queue<int> inside = new();
        private readonly int[] fuel = new int[chart.Transitions.Count];
        private int now = -1,
            raised;

        public void Begin(int e)
        {
            now = e;
            raised = 0;
            // Each eventless transition may be taken twice an event, so that every chart comes to rest.
            Array.Fill(fuel, 2);
        }

        private bool Guard(int t) => chart.Meaning[t].Guard is var g && (g == int.MinValue || (g < 0 ? !IsActive(~g) : IsActive(g)));

        public bool Enabled(int t) => now >= 0 && (chart.Meaning[t].Events >> now & 1) != 0 && Guard(t);

        public bool EnabledNow(int t) => fuel[t] > 0 && Guard(t);

        private void Raise(int e)
        {
            if (e >= 0 && raised++ < 12)
                inside.Enqueue(e);
        }

        public void Entered(int node)
        {
            Trace.Add(node);
            Raise(chart.Raises[node].Entry);
        }

        public void Exited(int node)
        {
            Trace.Add(-node);
            Raise(chart.Raises[node].Exit);
        }

        public void Taken(int t)
        {
            Trace.Add(1000 + t);
            if (chart.Transitions[t].Eventless)
                fuel[t]--;
            Raise(chart.Meaning[t].Raises);
        }

        public void Done(int node, int byFinal)
        {
            Trace.Add(100_000 + node);
            Raise(node % Events);
        }

        public bool NextInternal()
        {
            if (inside.Count == 0)
                return false;
            now = inside.Dequeue();
            return true;
        }
    }
}
