using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs.Statecharts;

/// <summary>
/// The interpretation algorithm as the recommendation of 2015 prints it in appendix D, name by name, on lists and sets,
/// with nothing made fast. It shares no code with the table engine: only what a chart is made of.
/// </summary>
internal sealed class ReferenceInterpreter
{
    public sealed class State
    {
        public required int Id;
        public required NodeKind Kind;
        public State? Parent;
        public readonly List<State> Children = [];
        public readonly List<Transition> Transitions = [];
        public Transition? Initial;
        public Transition? HistoryDefault;
        public bool IsHistory => Kind is NodeKind.ShallowHistory or NodeKind.DeepHistory;
        public bool IsCompound => Kind == NodeKind.Compound;
        public bool IsAtomic => Kind is NodeKind.Atomic or NodeKind.Final;
    }

    public sealed class Transition
    {
        public required int Id;
        public required State Source;
        public List<State> Targets = [];
        public bool Internal;
        public bool Eventless;

        /// <summary>An eventless one that each event looks at too, in its place among the others.</summary>
        public bool Level;
    }

    private readonly List<State> states;
    private readonly State root;
    private readonly IChartHost host;
    private HashSet<State> configuration = [];
    private readonly Dictionary<State, List<State>> historyValue = [];
    private bool running;

    /// <summary>True once a conflict was decided: then the chart tells something about preemption.</summary>
    public bool HadConflict { get; private set; }

    /// <summary>For showing that the comparison notices: no conflict is ever decided.</summary>
    public bool WithoutPreemption { get; init; }

    /// <summary>For showing that the comparison notices: states are looked at last first.</summary>
    public bool AgainstDocumentOrder { get; init; }

    public ReferenceInterpreter(IReadOnlyList<ChartNode> nodes, IReadOnlyList<ChartTransition> transitions, IChartHost host)
    {
        (this.host, states) = (host, []);
        for (var i = 0; i < nodes.Count; i++)
        {
            var s = new State
            {
                Id = i,
                Kind = nodes[i].Kind,
                Parent = nodes[i].Parent < 0 ? null : states[nodes[i].Parent],
            };
            s.Parent?.Children.Add(s);
            states.Add(s);
        }
        root = states[0];
        for (var t = 0; t < transitions.Count; t++)
        {
            var made = new Transition
            {
                Id = t,
                Source = states[transitions[t].Source],
                Internal = transitions[t].Internal,
                Eventless = transitions[t].Eventless,
                Level = transitions[t].Level,
                Targets = [.. transitions[t].Targets.Select(x => states[x])],
            };
            var owner = Enumerable.Range(0, nodes.Count).Where(i => nodes[i].Default == t).Select(i => states[i]).FirstOrDefault();
            if (owner is null)
                made.Source.Transitions.Add(made);
            else if (owner.IsHistory)
                owner.HistoryDefault = made;
            else
                owner.Initial = made;
        }
    }

    public bool Running => running;

    public List<int> Configuration => [.. configuration.Select(s => s.Id).Order()];

    public bool IsActive(int state) => configuration.Contains(states[state]);

    /// <summary>The same chart where it stands now, for another host.</summary>
    public ReferenceInterpreter(ReferenceInterpreter other, IChartHost host)
    {
        (this.host, states, root) = (host, other.states, other.root);
        (configuration, running) = ([.. other.configuration], other.running);
        foreach (var (history, remembered) in other.historyValue)
            historyValue[history] = [.. remembered];
    }

    // procedure interpret(doc)
    public void Start()
    {
        configuration = [];
        historyValue.Clear();
        running = true;
        EnterStates([
            root.Initial
                ?? new Transition
                {
                    Id = -1,
                    Source = root,
                    Targets = [root.Children.First(c => !c.IsHistory)],
                },
        ]);
        MainEventLoop(false);
    }

    public void Fire() => MainEventLoop(true);

    // procedure mainEventLoop(): one external event, already the host's event of now
    private void MainEventLoop(bool external)
    {
        if (external && running)
        {
            var enabledTransitions = SelectTransitions();
            if (enabledTransitions.Count > 0)
                Microstep(enabledTransitions);
        }
        var macrostepDone = false;
        while (running && !macrostepDone)
        {
            var enabledTransitions = SelectEventlessTransitions();
            if (enabledTransitions.Count == 0)
            {
                if (!host.NextInternal())
                    macrostepDone = true;
                else
                    enabledTransitions = SelectTransitions();
            }
            if (enabledTransitions.Count > 0)
                Microstep(enabledTransitions);
        }
    }

    private List<State> DocumentOrder(IEnumerable<State> of) =>
        AgainstDocumentOrder ? [.. of.OrderByDescending(s => s.Id)] : [.. of.OrderBy(s => s.Id)];

    // function selectEventlessTransitions()
    private List<Transition> SelectEventlessTransitions()
    {
        var enabledTransitions = new List<Transition>();
        foreach (var state in DocumentOrder(configuration.Where(s => s.IsAtomic)))
        foreach (var s in new[] { state }.Concat(GetProperAncestors(state, null)))
        {
            var t = s.Transitions.FirstOrDefault(x => x.Eventless && host.EnabledNow(x.Id));
            if (t is null)
                continue;
            if (!enabledTransitions.Contains(t))
                enabledTransitions.Add(t);
            break;
        }
        return RemoveConflictingTransitions(enabledTransitions);
    }

    // function selectTransitions(event)
    private List<Transition> SelectTransitions()
    {
        var enabledTransitions = new List<Transition>();
        foreach (var state in DocumentOrder(configuration.Where(s => s.IsAtomic)))
        foreach (var s in new[] { state }.Concat(GetProperAncestors(state, null)))
        {
            var t = s.Transitions.FirstOrDefault(x => (!x.Eventless || x.Level) && host.Enabled(x.Id));
            if (t is null)
                continue;
            if (!enabledTransitions.Contains(t))
                enabledTransitions.Add(t);
            break;
        }
        return RemoveConflictingTransitions(enabledTransitions);
    }

    // function removeConflictingTransitions(enabledTransitions)
    private List<Transition> RemoveConflictingTransitions(List<Transition> enabledTransitions)
    {
        if (WithoutPreemption)
            return enabledTransitions;
        var filteredTransitions = new List<Transition>();
        foreach (var t1 in enabledTransitions)
        {
            var t1Preempted = false;
            var transitionsToRemove = new List<Transition>();
            foreach (var t2 in filteredTransitions)
                if (ComputeExitSet([t1]).Overlaps(ComputeExitSet([t2])))
                {
                    HadConflict = true;
                    if (IsDescendant(t1.Source, t2.Source))
                        transitionsToRemove.Add(t2);
                    else
                    {
                        t1Preempted = true;
                        break;
                    }
                }
            if (t1Preempted)
                continue;
            foreach (var t3 in transitionsToRemove)
                filteredTransitions.Remove(t3);
            filteredTransitions.Add(t1);
        }
        return filteredTransitions;
    }

    // procedure microstep(enabledTransitions)
    private void Microstep(List<Transition> enabledTransitions)
    {
        ExitStates(enabledTransitions);
        foreach (var t in enabledTransitions)
            host.Taken(t.Id);
        EnterStates(enabledTransitions);
    }

    // procedure exitStates(enabledTransitions)
    private void ExitStates(List<Transition> enabledTransitions)
    {
        var statesToExit = ComputeExitSet(enabledTransitions).OrderByDescending(s => s.Id).ToList();
        foreach (var s in statesToExit)
        foreach (var h in s.Children.Where(c => c.IsHistory))
            historyValue[h] =
                h.Kind == NodeKind.DeepHistory
                    ? [.. configuration.Where(s0 => s0.IsAtomic && IsDescendant(s0, s)).OrderBy(x => x.Id)]
                    : [.. configuration.Where(s0 => s0.Parent == s).OrderBy(x => x.Id)];
        foreach (var s in statesToExit)
        {
            host.Exited(s.Id);
            configuration.Remove(s);
        }
    }

    // function computeExitSet(transitions)
    private HashSet<State> ComputeExitSet(List<Transition> transitions)
    {
        var statesToExit = new HashSet<State>();
        foreach (var t in transitions)
            if (t.Targets.Count > 0)
            {
                var domain = GetTransitionDomain(t)!;
                foreach (var s in configuration)
                    if (IsDescendant(s, domain))
                        statesToExit.Add(s);
            }
        return statesToExit;
    }

    // procedure enterStates(enabledTransitions)
    private void EnterStates(List<Transition> enabledTransitions)
    {
        var statesToEnter = new HashSet<State>();
        var statesForDefaultEntry = new HashSet<State>();
        var defaultHistoryContent = new Dictionary<State, Transition>();
        foreach (var t in enabledTransitions)
        {
            foreach (var s in t.Targets)
                AddDescendantStatesToEnter(s, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
            var ancestor = t.Source == root ? root : GetTransitionDomain(t);
            foreach (var s in GetEffectiveTargetStates(t))
                AddAncestorStatesToEnter(s, ancestor, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
        }
        // The content of the document's own initial transition comes before its states.
        if (enabledTransitions is [{ } first] && first.Source == root && first == root.Initial)
            host.Taken(first.Id);
        foreach (var s in statesToEnter.OrderBy(x => x.Id))
        {
            configuration.Add(s);
            host.Entered(s.Id);
            if (statesForDefaultEntry.Contains(s) && s.Initial is not null)
                host.Taken(s.Initial.Id);
            if (defaultHistoryContent.TryGetValue(s, out var content))
                host.Taken(content.Id);
            if (s.Kind != NodeKind.Final)
                continue;
            if (s.Parent == root)
            {
                running = false;
                host.Done(root.Id, s.Id);
            }
            else
            {
                var parent = s.Parent!;
                var grandparent = parent.Parent!;
                host.Done(parent.Id, s.Id);
                if (grandparent.Kind == NodeKind.Parallel && grandparent.Children.Where(c => !c.IsHistory).All(IsInFinalState))
                    host.Done(grandparent.Id, s.Id);
            }
        }
    }

    // procedure addDescendantStatesToEnter(state, …)
    private void AddDescendantStatesToEnter(
        State state,
        HashSet<State> statesToEnter,
        HashSet<State> statesForDefaultEntry,
        Dictionary<State, Transition> defaultHistoryContent
    )
    {
        if (state.IsHistory)
        {
            if (historyValue.TryGetValue(state, out var remembered))
            {
                foreach (var s in remembered)
                    AddDescendantStatesToEnter(s, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
                foreach (var s in remembered)
                    AddAncestorStatesToEnter(s, state.Parent, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
            }
            else
            {
                defaultHistoryContent[state.Parent!] = state.HistoryDefault!;
                foreach (var s in state.HistoryDefault!.Targets)
                    AddDescendantStatesToEnter(s, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
                foreach (var s in state.HistoryDefault!.Targets)
                    AddAncestorStatesToEnter(s, state.Parent, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
            }
            return;
        }
        statesToEnter.Add(state);
        if (state.IsCompound)
        {
            statesForDefaultEntry.Add(state);
            List<State> targets = state.Initial?.Targets ?? [state.Children.First(c => !c.IsHistory)];
            foreach (var s in targets)
                AddDescendantStatesToEnter(s, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
            foreach (var s in targets)
                AddAncestorStatesToEnter(s, state, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
        }
        else if (state.Kind == NodeKind.Parallel)
            foreach (var child in state.Children.Where(c => !c.IsHistory))
                if (!statesToEnter.Any(s => IsDescendant(s, child)))
                    AddDescendantStatesToEnter(child, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
    }

    // procedure addAncestorStatesToEnter(state, ancestor, …)
    private void AddAncestorStatesToEnter(
        State state,
        State? ancestor,
        HashSet<State> statesToEnter,
        HashSet<State> statesForDefaultEntry,
        Dictionary<State, Transition> defaultHistoryContent
    )
    {
        foreach (var anc in GetProperAncestors(state, ancestor))
        {
            if (anc == root)
                continue;
            statesToEnter.Add(anc);
            if (anc.Kind == NodeKind.Parallel)
                foreach (var child in anc.Children.Where(c => !c.IsHistory))
                    if (!statesToEnter.Any(s => IsDescendant(s, child)))
                        AddDescendantStatesToEnter(child, statesToEnter, statesForDefaultEntry, defaultHistoryContent);
        }
    }

    // procedure isInFinalState(s)
    private bool IsInFinalState(State s) =>
        s.IsCompound
            ? s.Children.Any(c => c.Kind == NodeKind.Final && configuration.Contains(c))
            : s.Kind == NodeKind.Parallel && s.Children.Where(c => !c.IsHistory).All(IsInFinalState);

    // function getTransitionDomain(transition)
    private State? GetTransitionDomain(Transition t)
    {
        var tstates = GetEffectiveTargetStates(t);
        if (tstates.Count == 0)
            return null;
        if (t.Internal && t.Source.IsCompound && tstates.All(s => IsDescendant(s, t.Source)))
            return t.Source;
        return FindLCCA([t.Source, .. tstates]);
    }

    // function findLCCA(stateList)
    private State FindLCCA(List<State> stateList)
    {
        foreach (var anc in GetProperAncestors(stateList[0], null).Where(s => s.IsCompound))
            if (stateList.Skip(1).All(s => IsDescendant(s, anc)))
                return anc;
        throw new InvalidOperationException("No ancestor.");
    }

    // function getEffectiveTargetStates(transition)
    private List<State> GetEffectiveTargetStates(Transition transition)
    {
        var targets = new List<State>();
        foreach (var s in transition.Targets)
            if (s.IsHistory)
            {
                foreach (
                    var x in historyValue.TryGetValue(s, out var remembered) ? remembered : GetEffectiveTargetStates(s.HistoryDefault!)
                )
                    if (!targets.Contains(x))
                        targets.Add(x);
            }
            else if (!targets.Contains(s))
                targets.Add(s);
        return targets;
    }

    // function getProperAncestors(state1, state2)
    private static List<State> GetProperAncestors(State state1, State? state2)
    {
        var list = new List<State>();
        if (state2 == state1)
            return list;
        for (var s = state1.Parent; s is not null && s != state2; s = s.Parent)
            list.Add(s);
        return list;
    }

    private static bool IsDescendant(State state1, State state2)
    {
        for (var s = state1.Parent; s is not null; s = s.Parent)
            if (s == state2)
                return true;
        return false;
    }
}
