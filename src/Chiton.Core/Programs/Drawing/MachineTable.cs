using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Drawing;

/// <summary>What a state answers to a trigger.</summary>
/// <param name="Line">Its line in the script.</param>
/// <param name="Says">What it says after the trigger: a guard, what it does and where it goes.</param>
/// <param name="Target">Where it goes; null when it stays.</param>
public sealed record TableAnswer(int Line, string Says, string? Target);

/// <summary>A state with a trigger.</summary>
/// <param name="Answers">Its own sentences for it, in order; none where nothing is said.</param>
/// <param name="Outer">Where nothing is said: the nearest state around it that answers; null when none does.</param>
public sealed record TableCell(IReadOnlyList<TableAnswer> Answers, string? Outer);

/// <summary>A state of the table.</summary>
/// <param name="State">Its name.</param>
/// <param name="Line">Its line in the script.</param>
/// <param name="After">The line below which a new sentence of it goes.</param>
/// <param name="Depth">How many states it stands in.</param>
/// <param name="Initial">True where its region or state begins.</param>
/// <param name="Final">True where nothing follows.</param>
/// <param name="Cells">One a trigger.</param>
public sealed record TableRow(string State, int Line, int After, int Depth, bool Initial, bool Final, IReadOnlyList<TableCell> Cells);

/// <summary>A trigger of the table.</summary>
/// <param name="Says">As sentences begin with it, or that something happens by itself.</param>
/// <param name="Begins">What a new sentence for it begins with.</param>
public sealed record TableColumn(string Says, string Begins);

/// <summary>A region, or a routine, as a table of states and triggers.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Routine">True for a routine.</param>
/// <param name="Triggers">Its triggers as sentences begin with them, each once, in the order in which they come.</param>
/// <param name="Rows">Its states, each before what stands in it.</param>
public sealed record TablePart(string Name, bool Routine, IReadOnlyList<TableColumn> Triggers, IReadOnlyList<TableRow> Rows);

/// <summary>The machine as tables: states as rows, triggers as columns, and what is not answered left open.</summary>
public static class MachineTable
{
    /// <summary>Times and what is taken at once belong to one state alone: all of them stand in one column.</summary>
    public const string Itself = "by itself";

    /// <summary>The tables of a program, region by region and then its routines.</summary>
    public static IReadOnlyList<TablePart> Of(ProgramNode program) =>
        [
            .. program.Regions.Select(r => Part(r.Name, false, r.States)),
            .. program.Routines.SelectMany(u => u.Regions.Select(r => Part(r.Name == "" ? u.Name : $"{u.Name}, {r.Name}", true, r.States))),
        ];

    private static TablePart Part(string name, bool routine, IReadOnlyList<StateNode> states)
    {
        var triggers = new List<string>();
        var rows = new List<(StateNode State, StateNode? Outer, int Depth)>();
        void Take(StateNode state, StateNode? outer, int depth)
        {
            rows.Add((state, outer, depth));
            foreach (var t in state.Lines.OfType<TransitionNode>())
                if (Said(t) is var said && !triggers.Contains(said))
                    triggers.Add(said);
            foreach (var inner in state.States.Concat(state.Regions.SelectMany(r => r.States)))
                Take(inner, state, depth + 1);
        }
        foreach (var state in states)
            Take(state, null, 0);
        // What happens from outside comes first.
        if (triggers.Remove(Itself))
            triggers.Add(Itself);
        var outers = new Dictionary<StateNode, StateNode?>(ReferenceEqualityComparer.Instance);
        foreach (var (state, outer, _) in rows)
            outers[state] = outer;
        TableCell Cell(StateNode state, string trigger)
        {
            TableAnswer[] own =
            [
                .. state
                    .Lines.OfType<TransitionNode>()
                    .Where(t => Said(t) == trigger)
                    .Select(t => new TableAnswer(
                        t.Span.Line,
                        trigger == Itself
                            ? Printer.Plain(Printer.Pieces(t))
                            : Printer.Plain(Printer.Pieces(t))[trigger.Length..].TrimStart(' ', ':'),
                        t.Target
                    )),
            ];
            if (own.Length > 0)
                return new(own, null);
            for (var outer = outers[state]; outer is { } o; outer = outers[o])
                if (o.Lines.OfType<TransitionNode>().Any(t => Said(t) == trigger))
                    return new([], o.Name);
            return new([], null);
        }
        return new(
            name,
            routine,
            [.. triggers.Select(t => new TableColumn(t, t == Itself ? "after " : t + ": "))],
            [
                .. rows.Select(r => new TableRow(
                    r.State.Name,
                    r.State.Span.Line,
                    r.State.Lines.Select(l => l.Span.Line).Append(r.State.Span.Line).Max(),
                    r.Depth,
                    r.State.Initial,
                    r.State.Final,
                    [.. triggers.Select(t => Cell(r.State, t))]
                )),
            ]
        );
    }

    private static string Said(TransitionNode t) =>
        t.Trigger is AfterTriggerNode or EveryTriggerNode or AlwaysTriggerNode ? Itself : Printer.Trigger(t);
}
