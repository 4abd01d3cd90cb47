using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>Checks of a program by itself, whatever rig it is for.</summary>
public static class ProgramChecks
{
    /// <summary>States that no sentence leads to, whatever happens.</summary>
    /// <param name="program">A program without diagnostics.</param>
    public static IReadOnlyList<Finding> Find(ProgramNode program)
    {
        var homes = new Dictionary<StateNode, (StateNode? Parent, int Top, int[] Path)>(ReferenceEqualityComparer.Instance);
        // By the number of the region: comparing regions would compare everything in them.
        var named = new Dictionary<(int, string), List<(StateNode State, HistoryNode? History)>>();
        var number = 0;
        var tops = program.Regions.Concat(program.Routines.SelectMany(r => r.Regions)).ToArray();
        for (var top = 0; top < tops.Length; top++)
            foreach (var s in tops[top].States)
                Home(s, null, top, [number++]);

        var reached = new HashSet<StateNode>(ReferenceEqualityComparer.Instance);
        var open = new Stack<StateNode>();
        foreach (var top in tops)
            Begin(top.States);
        while (open.TryPop(out var state))
        {
            foreach (var t in state.Lines.OfType<TransitionNode>())
                if (t.Target is not null && Nearest(state, t.Target) is { } to)
                {
                    Enter(to.State);
                    // A history leads into the state that it stands in, first of all to where it says.
                    if (to.History is { } h && Nearest(to.State, h.Target) is { } first)
                        Enter(first.State);
                }
        }
        return
        [
            .. program
                .AllStates.Where(s => !reached.Contains(s) && (homes[s].Parent is not { } outer || reached.Contains(outer)))
                .Select(s => new Finding(
                    "never-reached",
                    Severity.Risky,
                    s.Name,
                    s.Span.Line,
                    0,
                    $"Nothing leads to {s.Name}",
                    $"No sentence goes to {s.Name}, and it is not where its region begins: it is never entered. Let a sentence go "
                        + "there, or take it out.",
                    null
                )),
        ];

        void Home(StateNode s, StateNode? parent, int top, int[] path)
        {
            homes[s] = (parent, top, path);
            Note(s.Name, s, null);
            foreach (var h in s.Histories)
                Note(h.Name, s, h);
            foreach (var inner in s.States)
                Home(inner, s, top, [.. path, number++]);
            foreach (var r in s.Regions)
            foreach (var inner in r.States)
                Home(inner, s, top, [.. path, number++, number++]);
            void Note(string name, StateNode at, HistoryNode? history)
            {
                if (!named.TryGetValue((top, name), out var list))
                    named[(top, name)] = list = [];
                list.Add((at, history));
            }
        }
        (StateNode State, HistoryNode? History)? Nearest(StateNode from, string target)
        {
            if (!named.TryGetValue((homes[from].Top, target), out var all))
                return null;
            var own = homes[from].Path;
            return all.Count == 1 ? all[0] : all.MaxBy(c => homes[c.State].Path.Zip(own).TakeWhile(p => p.First == p.Second).Count());
        }
        void Begin(IReadOnlyList<StateNode> states)
        {
            if ((states.FirstOrDefault(s => s.Initial) ?? states.FirstOrDefault()) is { } first)
                Enter(first);
        }
        void Enter(StateNode state)
        {
            // What holds it is entered with it, and what stands in it begins.
            for (var s = state; s is not null; s = homes[s].Parent)
            {
                if (!reached.Add(s))
                    continue;
                open.Push(s);
                if (s.States.Count > 0 && (ReferenceEquals(s, state) || !s.States.Any(reached.Contains)))
                    Begin(s.States.ToArray());
                foreach (var r in s.Regions)
                    Begin(r.States.ToArray());
            }
        }
    }
}
