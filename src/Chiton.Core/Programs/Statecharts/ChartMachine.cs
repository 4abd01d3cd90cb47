using System.Numerics;
using System.Runtime.CompilerServices;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Statecharts;

/// <summary>What a chart means to its machine: which transitions are enabled, and what entering, leaving and taking does.</summary>
public interface IChartHost
{
    /// <summary>True when the transition is set off by the event of now and its guard holds.</summary>
    bool Enabled(int transition);

    /// <summary>True when an eventless transition's condition holds.</summary>
    bool EnabledNow(int transition);

    /// <summary>A node was entered: do what it does on entry.</summary>
    void Entered(int node);

    /// <summary>A node is being left: do what it does on exit.</summary>
    void Exited(int node);

    /// <summary>A transition is taken, a default too: do what it does.</summary>
    void Taken(int transition);

    /// <summary>A node came to its end: a final state in it was entered, or all its regions ended.</summary>
    void Done(int node, int byFinal);

    /// <summary>Makes the next internal event the event of now; false when there is none.</summary>
    bool NextInternal();
}

/// <summary>A chart goes round and round without an event from outside.</summary>
/// <param name="nodes">The nodes entered in the last rounds, in order.</param>
public sealed class EndlessLoop(IReadOnlyList<int> nodes) : Exception("The machine goes round and round without an event.")
{
    /// <summary>The nodes that are entered over and over, in order.</summary>
    public IReadOnlyList<int> Nodes { get; } = nodes;
}

/// <summary>
/// Steps a chart by the algorithm of the W3C recommendation "State Chart XML (SCXML): State Machine Notation for Control
/// Abstraction" (2015), appendix D: document order, inner transitions before outer, conflicts preempted, entry and exit
/// sets, internal before external events, run to completion. Allocates nothing once made.
/// </summary>
public sealed class ChartMachine
{
    /// <summary>Steps without an event from outside after which a machine is stopped.</summary>
    public const int MostSteps = 1000;

    /// <summary>Internal events without an event from outside after which a machine is stopped.</summary>
    public const int MostEvents = 10_000;

    private readonly Chart chart;
    private readonly IChartHost host;
    private readonly int words;
    private readonly ulong[] active,
        entering,
        defaulted,
        leaving;
    private readonly ulong[][] remembered;
    private readonly bool[] hasMemory;
    private readonly int[] enabled,
        filtered,
        historyContent,
        effective,
        recent;
    private int enabledCount,
        filteredCount,
        recentCount;
    private int transientSteps;

    /// <summary>Makes a machine of a chart.</summary>
    public ChartMachine(Chart chart, IChartHost host)
    {
        (this.chart, this.host, words) = (chart, host, chart.Words);
        (active, entering, defaulted, leaving) = (new ulong[words], new ulong[words], new ulong[words], new ulong[words]);
        (remembered, hasMemory) = (new ulong[chart.Count][], new bool[chart.Count]);
        for (var i = 0; i < chart.Count; i++)
            if (chart.Kind[i] is NodeKind.ShallowHistory or NodeKind.DeepHistory)
                remembered[i] = new ulong[words];
        (enabled, filtered) = (new int[chart.Count + 1], new int[chart.Count + 1]);
        historyContent = new int[chart.Count];
        effective = new int[chart.Count];
        recent = new int[64];
    }

    /// <summary>False before the start and once the machine came to its end.</summary>
    public bool Running { get; private set; }

    /// <summary>True when a node is active.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool IsActive(int node) => (active[node >> 6] >> (node & 63) & 1) != 0;

    /// <summary>Copies the active nodes, in document order.</summary>
    /// <returns>How many there are.</returns>
    public int Active(Span<int> into)
    {
        var n = 0;
        for (var w = 0; w < words; w++)
        for (var bits = active[w]; bits != 0; bits &= bits - 1)
            into[n++] = (w << 6) + BitOperations.TrailingZeroCount(bits);
        return n;
    }

    /// <summary>Keeps the whole state of the machine, to go back to.</summary>
    public ulong[] Save()
    {
        var saved = new List<ulong>(active) { Running ? 1UL : 0 };
        for (var i = 0; i < chart.Count; i++)
            if (remembered[i] is { } r)
            {
                saved.Add(hasMemory[i] ? 1UL : 0);
                saved.AddRange(r);
            }
        return [.. saved];
    }

    /// <summary>Goes back to what was kept.</summary>
    public void Restore(ReadOnlySpan<ulong> saved)
    {
        saved[..words].CopyTo(active);
        Running = saved[words] != 0;
        var at = words + 1;
        for (var i = 0; i < chart.Count; i++)
            if (remembered[i] is { } r)
            {
                hasMemory[i] = saved[at++] != 0;
                saved.Slice(at, words).CopyTo(r);
                at += words;
            }
    }

    /// <summary>Writes what is active and remembered, as few bytes as it takes.</summary>
    internal void Keep(Engine.Pack to)
    {
        foreach (var word in active)
            to.Bits(word);
        to.Put(Running ? 1 : 0);
        for (var i = 0; i < chart.Count; i++)
            if (remembered[i] is { } r)
            {
                to.Put(hasMemory[i] ? 1 : 0);
                if (hasMemory[i])
                    foreach (var word in r)
                        to.Bits(word);
            }
    }

    /// <summary>Reads it.</summary>
    internal void Bring(Engine.Pack from)
    {
        for (var w = 0; w < words; w++)
            active[w] = from.NextBits();
        Running = from.Next() == 1;
        for (var i = 0; i < chart.Count; i++)
            if (remembered[i] is { } r)
            {
                hasMemory[i] = from.Next() == 1;
                if (hasMemory[i])
                    for (var w = 0; w < words; w++)
                        r[w] = from.NextBits();
            }
    }

    /// <summary>Nothing is active any more.</summary>
    internal void Forget()
    {
        Array.Clear(active);
        Array.Clear(hasMemory);
        Running = false;
    }

    /// <summary>Enters the chart and runs until nothing more happens by itself.</summary>
    /// <exception cref="EndlessLoop">When that never is.</exception>
    public void Start()
    {
        Array.Clear(active);
        Array.Clear(hasMemory);
        Running = true;
        BeginEntry();
        // The chart itself is no state: what stands in it is entered.
        if (chart.Default[0] >= 0)
            AddTargets(chart.Targets[chart.Default[0]], 0);
        else
            AddFirst(0);
        if (chart.Default[0] >= 0)
            host.Taken(chart.Default[0]);
        Enter();
        transientSteps = 0;
        RunOn();
    }

    /// <summary>
    /// The host has an event from outside: takes what it enables, then runs until nothing more happens by itself.
    /// </summary>
    /// <returns>True when a transition was taken.</returns>
    /// <exception cref="EndlessLoop">When it never comes to rest.</exception>
    public bool Fire()
    {
        if (!Running)
            return false;
        transientSteps = 0;
        recentCount = 0;
        Select(false);
        var any = enabledCount > 0;
        if (any)
            Step();
        RunOn();
        return any;
    }

    /// <summary>Leaves every active state, innermost and last first, without going anywhere: something outside ends the machine.</summary>
    public void Stop()
    {
        for (var node = chart.Count - 1; node > 0; node--)
        {
            if (!IsActive(node))
                continue;
            host.Exited(node);
            active[node >> 6] &= ~(1UL << (node & 63));
        }
        Running = false;
    }

    /// <summary>Looks at the eventless transitions again, without an event: something they depend on may have changed.</summary>
    /// <exception cref="EndlessLoop">When it never comes to rest.</exception>
    public void Look()
    {
        if (!Running)
            return;
        transientSteps = 0;
        recentCount = 0;
        RunOn();
    }

    private void RunOn()
    {
        var events = 0;
        while (Running)
        {
            Select(true);
            if (enabledCount == 0)
            {
                if (!host.NextInternal())
                    return;
                if (++events > MostEvents)
                    throw new EndlessLoop([]);
                Select(false);
                if (enabledCount == 0)
                    continue;
            }
            if (++transientSteps > MostSteps)
                throw new EndlessLoop(Loop());
            Step();
        }
    }

    // The shortest round that the last entries repeat.
    private int[] Loop()
    {
        var n = Math.Min(recentCount, recent.Length);
        var last = Enumerable.Range(0, n).Select(i => recent[(recentCount - n + i) % recent.Length]).ToArray();
        for (var length = 1; length <= n / 2; length++)
        {
            var repeats = true;
            for (var i = 0; i < length && repeats; i++)
                repeats = last[n - 1 - i] == last[n - 1 - i - length];
            if (!repeats)
                continue;
            // The round is told from its first node in the document on.
            var round = last[(n - length)..];
            var first = Array.IndexOf(round, round.Min());
            return [.. round[first..], .. round[..first]];
        }
        return last;
    }

    private void Select(bool eventless)
    {
        enabledCount = 0;
        for (var w = 0; w < words; w++)
        for (var bits = active[w] & chart.AtomicMask[w]; bits != 0; bits &= bits - 1)
        {
            var atomic = (w << 6) + BitOperations.TrailingZeroCount(bits);
            if (eventless ? !chart.EventlessAbove[atomic] : !chart.HasTransitions[atomic])
                continue;
            for (var node = atomic; node >= 0; node = chart.Parent[node])
            {
                var found = false;
                for (var i = chart.FirstTransition[node]; i < chart.FirstTransition[node + 1]; i++)
                {
                    var t = chart.TransitionList[i];
                    if (eventless ? !chart.Eventless[t] || !host.EnabledNow(t) : chart.Eventless[t] && !chart.Level[t] || !host.Enabled(t))
                        continue;
                    Add(t);
                    found = true;
                    break;
                }
                if (found)
                    break;
            }
        }
        if (enabledCount > 1)
            RemoveConflicting();
    }

    private void Add(int t)
    {
        for (var i = 0; i < enabledCount; i++)
            if (enabled[i] == t)
                return;
        enabled[enabledCount++] = t;
    }

    // Of two transitions that would leave the same state the inner one wins, else the one first in the document.
    private void RemoveConflicting()
    {
        filteredCount = 0;
        for (var i = 0; i < enabledCount; i++)
        {
            var t1 = enabled[i];
            var domain1 = DomainOf(t1);
            var preempted = false;
            var removed = 0;
            for (var k = 0; k < filteredCount && !preempted; k++)
            {
                var t2 = filtered[k];
                if (!Meet(domain1, DomainOf(t2)))
                    continue;
                if (chart.IsIn(chart.Source[t1], chart.Source[t2]))
                {
                    // Marked, and taken out only if nothing else preempts t1.
                    filtered[k] = ~t2;
                    removed++;
                }
                else
                    preempted = true;
            }
            if (preempted)
            {
                if (removed > 0)
                    for (var k = 0; k < filteredCount; k++)
                        if (filtered[k] < 0)
                            filtered[k] = ~filtered[k];
                continue;
            }
            if (removed > 0)
            {
                var kept = 0;
                for (var k = 0; k < filteredCount; k++)
                    if (filtered[k] >= 0)
                        filtered[kept++] = filtered[k];
                filteredCount = kept;
            }
            filtered[filteredCount++] = t1;
        }
        Array.Copy(filtered, enabled, filteredCount);
        enabledCount = filteredCount;
    }

    // True when both would leave some active state.
    private bool Meet(int domain1, int domain2)
    {
        if (domain1 < 0 || domain2 < 0)
            return false;
        // What stands in a node is a stretch: two of them are one inside the other, or apart.
        var inner =
            domain1 == domain2 || chart.IsIn(domain1, domain2) ? domain1
            : chart.IsIn(domain2, domain1) ? domain2
            : -1;
        return inner >= 0 && AnyActive(inner + 1, chart.End[inner]);
    }

    private bool AnyActive(int from, int to)
    {
        for (var i = from; i < to; )
        {
            var w = i >> 6;
            var bits = active[w] >> (i & 63);
            var room = Math.Min(64 - (i & 63), to - i);
            if (room < 64)
                bits &= (1UL << room) - 1;
            if (bits != 0)
                return true;
            i += room;
        }
        return false;
    }

    // −1 when it leaves nothing.
    private int DomainOf(int t)
    {
        if (chart.Targets[t].Length == 0)
            return -1;
        if (!chart.HasHistoryTarget[t])
            return chart.FixedDomain[t];
        var n = 0;
        Effective(chart.Targets[t], ref n);
        return chart.Domain(t, effective.AsSpan(0, n));
    }

    private void Effective(int[] targets, ref int n)
    {
        foreach (var s in targets)
        {
            if (chart.Kind[s] is not (NodeKind.ShallowHistory or NodeKind.DeepHistory))
            {
                Put(s, ref n);
                continue;
            }
            if (hasMemory[s])
            {
                for (var w = 0; w < words; w++)
                for (var bits = remembered[s][w]; bits != 0; bits &= bits - 1)
                    Put((w << 6) + BitOperations.TrailingZeroCount(bits), ref n);
            }
            else if (chart.Default[s] >= 0)
                Effective(chart.Targets[chart.Default[s]], ref n);
        }
    }

    private void Put(int node, ref int n)
    {
        for (var i = 0; i < n; i++)
            if (effective[i] == node)
                return;
        effective[n++] = node;
    }

    private void Step()
    {
        // What is left, innermost and last first.
        Array.Clear(leaving);
        var any = false;
        for (var i = 0; i < enabledCount; i++)
        {
            var domain = DomainOf(enabled[i]);
            if (domain < 0)
                continue;
            any = true;
            for (var k = domain + 1; k < chart.End[domain]; )
            {
                var w = k >> 6;
                var room = Math.Min(64 - (k & 63), chart.End[domain] - k);
                var mask = (room < 64 ? (1UL << room) - 1 : ulong.MaxValue) << (k & 63);
                leaving[w] |= active[w] & mask;
                k += room;
            }
        }
        if (any)
        {
            // Histories first: they remember what was active before anything is left.
            for (var w = 0; w < words; w++)
            for (var bits = leaving[w]; bits != 0; bits &= bits - 1)
                Remember((w << 6) + BitOperations.TrailingZeroCount(bits));
            for (var w = words - 1; w >= 0; w--)
            for (var bits = leaving[w]; bits != 0; )
            {
                var node = (w << 6) + 63 - BitOperations.LeadingZeroCount(bits);
                bits &= ~(1UL << (node & 63));
                host.Exited(node);
                active[w] &= ~(1UL << (node & 63));
            }
        }
        for (var i = 0; i < enabledCount; i++)
            host.Taken(enabled[i]);
        if (!any)
            return;
        BeginEntry();
        for (var i = 0; i < enabledCount; i++)
        {
            var t = enabled[i];
            if (chart.Targets[t].Length == 0)
                continue;
            foreach (var target in chart.Targets[t])
                AddDown(target);
            var domain = DomainOf(t);
            var n = 0;
            Effective(chart.Targets[t], ref n);
            for (var k = 0; k < n; k++)
                AddUp(effective[k], domain);
        }
        Enter();
    }

    private void Remember(int node)
    {
        for (var i = chart.FirstHistory[node]; i < chart.FirstHistory[node + 1]; i++)
        {
            var history = chart.HistoryList[i];
            hasMemory[history] = true;
            var deep = chart.Kind[history] == NodeKind.DeepHistory;
            var memory = remembered[history];
            Array.Clear(memory);
            for (var k = node + 1; k < chart.End[node]; k++)
                if (IsActive(k) && (deep ? chart.Kind[k] is NodeKind.Atomic or NodeKind.Final : chart.Parent[k] == node))
                    memory[k >> 6] |= 1UL << (k & 63);
        }
    }

    private void BeginEntry()
    {
        Array.Clear(entering);
        Array.Clear(defaulted);
        Array.Fill(historyContent, -1);
    }

    private void AddTargets(int[] targets, int domain)
    {
        foreach (var target in targets)
            AddDown(target);
        var n = 0;
        Effective(targets, ref n);
        for (var k = 0; k < n; k++)
            AddUp(effective[k], domain);
    }

    private void AddFirst(int node)
    {
        if (chart.FirstChild[node] == chart.FirstChild[node + 1])
            return;
        var first = chart.ChildList[chart.FirstChild[node]];
        AddDown(first);
        AddUp(first, node);
    }

    private void AddRegions(int node)
    {
        for (var i = chart.FirstChild[node]; i < chart.FirstChild[node + 1]; i++)
        {
            var child = chart.ChildList[i];
            if (!AnyEntering(child))
                AddDown(child);
        }
    }

    // True when the node or something in it is to be entered.
    private bool AnyEntering(int node)
    {
        for (var k = node; k < chart.End[node]; k++)
            if ((entering[k >> 6] >> (k & 63) & 1) != 0)
                return true;
        return false;
    }

    private void AddDown(int node)
    {
        if (chart.Kind[node] is NodeKind.ShallowHistory or NodeKind.DeepHistory)
        {
            if (hasMemory[node])
            {
                var memory = remembered[node];
                for (var w = 0; w < words; w++)
                for (var bits = memory[w]; bits != 0; bits &= bits - 1)
                    AddDown((w << 6) + BitOperations.TrailingZeroCount(bits));
                for (var w = 0; w < words; w++)
                for (var bits = memory[w]; bits != 0; bits &= bits - 1)
                    AddUp((w << 6) + BitOperations.TrailingZeroCount(bits), chart.Parent[node]);
            }
            else if (chart.Default[node] >= 0)
            {
                historyContent[chart.Parent[node]] = chart.Default[node];
                foreach (var target in chart.Targets[chart.Default[node]])
                    AddDown(target);
                foreach (var target in chart.Targets[chart.Default[node]])
                    AddUp(target, chart.Parent[node]);
            }
            return;
        }
        entering[node >> 6] |= 1UL << (node & 63);
        if (chart.Kind[node] == NodeKind.Compound)
        {
            defaulted[node >> 6] |= 1UL << (node & 63);
            if (chart.Default[node] >= 0)
            {
                foreach (var target in chart.Targets[chart.Default[node]])
                    AddDown(target);
                foreach (var target in chart.Targets[chart.Default[node]])
                    AddUp(target, node);
            }
            else
                AddFirst(node);
        }
        else if (chart.Kind[node] == NodeKind.Parallel)
            AddRegions(node);
    }

    private void AddUp(int node, int domain)
    {
        for (var above = chart.Parent[node]; above > domain && above > 0; above = chart.Parent[above])
        {
            entering[above >> 6] |= 1UL << (above & 63);
            if (chart.Kind[above] == NodeKind.Parallel)
                AddRegions(above);
        }
    }

    private void Enter()
    {
        for (var w = 0; w < words; w++)
        for (var bits = entering[w]; bits != 0; bits &= bits - 1)
        {
            var node = (w << 6) + BitOperations.TrailingZeroCount(bits);
            active[w] |= 1UL << (node & 63);
            recent[recentCount++ % recent.Length] = node;
            host.Entered(node);
            if ((defaulted[w] >> (node & 63) & 1) != 0 && chart.Default[node] >= 0)
                host.Taken(chart.Default[node]);
            if (historyContent[node] >= 0)
                host.Taken(historyContent[node]);
            if (chart.Kind[node] != NodeKind.Final)
                continue;
            var parent = chart.Parent[node];
            if (parent == 0)
            {
                Running = false;
                host.Done(0, node);
                continue;
            }
            host.Done(parent, node);
            var above = chart.Parent[parent];
            if (above >= 0 && chart.Kind[above] == NodeKind.Parallel && AllEnded(above))
                host.Done(above, node);
        }
    }

    private bool AllEnded(int node)
    {
        for (var i = chart.FirstChild[node]; i < chart.FirstChild[node + 1]; i++)
            if (!Ended(chart.ChildList[i]))
                return false;
        return true;
    }

    /// <summary>True when a node is in a final state: one of its states is, or all of its regions are.</summary>
    public bool Ended(int node)
    {
        if (chart.Kind[node] == NodeKind.Final)
            return IsActive(node);
        if (chart.Kind[node] == NodeKind.Parallel)
            return AllEnded(node);
        if (chart.Kind[node] != NodeKind.Compound)
            return false;
        for (var i = chart.FirstChild[node]; i < chart.FirstChild[node + 1]; i++)
            if (chart.Kind[chart.ChildList[i]] == NodeKind.Final && IsActive(chart.ChildList[i]))
                return true;
        return false;
    }
}
