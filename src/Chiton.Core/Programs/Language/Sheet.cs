using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>A piece of a sheet line, with where a number comes from.</summary>
/// <param name="Text">As printed.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Provenance">Where a number comes from; null for other pieces.</param>
/// <param name="Source">In words, for people and screen readers; null for other pieces.</param>
public sealed record SheetPiece(string Text, PieceKind Kind, Provenance? Provenance, string? Source);

/// <summary>One line of the sheet: the same sentence as in the script.</summary>
/// <param name="Line">Line of the script, from 1.</param>
/// <param name="Owner">Name of the state it belongs to; empty for the head.</param>
/// <param name="Part">program, const, var, goal, never, region, routine, state, history, entry, while, exit, when, after, every, always or
/// broken.</param>
/// <param name="Text">The whole sentence without indentation, as it is edited.</param>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Pieces">The sentence after its first words, in pieces.</param>
/// <param name="Depth">How deep it stands: 0 at the margin, one more for every two blanks.</param>
public sealed record SheetLine(
    int Line,
    string Owner,
    string Part,
    string Text,
    IReadOnlyList<string> Comments,
    IReadOnlyList<SheetPiece> Pieces,
    int Depth
);

/// <summary>The sheet: a script line by line, with its marks.</summary>
public static class Sheet
{
    /// <summary>The lines of a script, in order, blank lines and comments left out.</summary>
    /// <param name="script">The text.</param>
    /// <param name="program">What it parsed to.</param>
    /// <param name="marks">Numbers that are not simply chosen.</param>
    public static IReadOnlyList<SheetLine> Lines(string script, ProgramNode program, IReadOnlyList<NumberMark> marks)
    {
        var known = new Dictionary<int, (string Owner, string Part, IReadOnlyList<Piece> Pieces, Sequence<string> Comments)>();
        if (program.Span.Line > 0)
            known[program.Span.Line] = (
                "",
                "program",
                [new("program ", PieceKind.Word), new(program.Name, PieceKind.Name)],
                program.Comments
            );
        foreach (var node in program.Head)
            known[node.Span.Line] = (
                "",
                node switch
                {
                    VarNode => "var",
                    ConstNode => "const",
                    RuleNode { IsGoal: true } => "goal",
                    RuleNode => "never",
                    _ => "broken",
                },
                Printer.Pieces(node),
                node.Comments
            );
        void Region(RegionNode region, string owner)
        {
            if (region.Span.Line > 0)
                known[region.Span.Line] = (
                    owner,
                    "region",
                    [new("region ", PieceKind.Word), new(region.Name, PieceKind.Name)],
                    region.Comments
                );
            foreach (var state in region.States)
                State(state);
        }
        void State(StateNode state)
        {
            known[state.Span.Line] = (state.Name, "state", Printer.Pieces(state), state.Comments);
            foreach (var line in state.Lines)
                known[line.Span.Line] = (
                    state.Name,
                    line switch
                    {
                        ActivityNode { Moment: ActivityMoment.Entry } => "entry",
                        ActivityNode { Moment: ActivityMoment.While } => "while",
                        ActivityNode => "exit",
                        TransitionNode { Trigger: AfterTriggerNode } => "after",
                        TransitionNode { Trigger: EveryTriggerNode } => "every",
                        TransitionNode { Trigger: AlwaysTriggerNode } => "always",
                        TransitionNode => "when",
                        _ => "broken",
                    },
                    Printer.Pieces(line),
                    line.Comments
                );
            foreach (var history in state.Histories)
                known[history.Span.Line] = (state.Name, "history", Printer.Pieces(history), history.Comments);
            foreach (var inner in state.States)
                State(inner);
            foreach (var region in state.Regions)
                Region(region, state.Name);
        }
        foreach (var region in program.Regions)
            Region(region, "");
        foreach (var routine in program.Routines)
        {
            known[routine.Span.Line] = ("", "routine", Printer.Pieces(routine), routine.Comments);
            foreach (var region in routine.Regions)
                Region(region, "");
        }
        var result = new List<SheetLine>();
        var owner = "";
        var texts = ScriptParser.Split(script);
        for (var i = 0; i < texts.Length; i++)
        {
            var text = texts[i].Trim();
            if (text == "" || text[0] == '#')
                continue;
            var depth = (texts[i].Length - texts[i].TrimStart().Length) / 2;
            if (known.TryGetValue(i + 1, out var line) && line.Part != "broken")
            {
                owner = line.Owner;
                result.Add(
                    new(
                        i + 1,
                        owner,
                        line.Part,
                        Printer.Plain(line.Pieces),
                        line.Comments.ToArray(),
                        Mark(owner, line.Pieces, marks),
                        depth
                    )
                );
            }
            else
                result.Add(
                    new(
                        i + 1,
                        texts[i].StartsWith(' ') ? owner : "",
                        "broken",
                        text,
                        known.TryGetValue(i + 1, out line) ? line.Comments.ToArray() : [],
                        [new(text, PieceKind.Word, null, null)],
                        depth
                    )
                );
        }
        return result;
    }

    private static List<SheetPiece> Mark(string owner, IReadOnlyList<Piece> pieces, IReadOnlyList<NumberMark> marks)
    {
        var text = Printer.Plain(pieces);
        var index = 0;
        var result = new List<SheetPiece>();
        foreach (var piece in pieces)
        {
            if (piece.Kind != PieceKind.Number)
            {
                result.Add(new(piece.Text, piece.Kind, null, null));
                continue;
            }
            var mark = marks.FirstOrDefault(m => m.Owner == owner && m.Line == text && m.Index == index);
            index++;
            result.Add(new(piece.Text, piece.Kind, mark?.Kind ?? Provenance.Chosen, mark is null ? "chosen by you" : mark.Source));
        }
        return result;
    }

    /// <summary>
    /// The marks that still hold after an edit: those whose line stands unchanged in the same state, or in a renamed
    /// one.
    /// </summary>
    public static Sequence<NumberMark> Keep(IReadOnlyList<NumberMark> marks, ProgramNode program)
    {
        var lines = new HashSet<(string, string)>();
        foreach (var node in program.Head)
            lines.Add(("", Printer.Plain(Printer.Pieces(node))));
        foreach (var state in program.AllStates)
        foreach (var line in state.Lines)
            lines.Add((state.Name, Printer.Plain(Printer.Pieces(line))));
        var owners = program.AllStates.Select(s => s.Name).ToHashSet();
        return marks
            .Select(m =>
            {
                if (lines.Contains((m.Owner, m.Line)))
                    return m;
                if (m.Owner == "" || owners.Contains(m.Owner))
                    return null;
                var moved = lines.Where(l => l.Item2 == m.Line && l.Item1 != "").Select(l => l.Item1).ToArray();
                return moved.Length == 1 ? m with { Owner = moved[0] } : null;
            })
            .OfType<NumberMark>()
            .ToSequence();
    }
}
