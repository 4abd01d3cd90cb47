using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>A piece of a sheet line, with where a number comes from.</summary>
/// <param name="Text">As printed.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Provenance">Where a number comes from; null for other pieces.</param>
/// <param name="Source">In words, for people and screen readers; null for other pieces.</param>
public sealed record SheetPiece(string Text, PieceKind Kind, Provenance? Provenance, string? Source);

/// <summary>A comment of the sheet.</summary>
/// <param name="Line">Line of the script, from 1.</param>
/// <param name="Text">What it says, without the sign that begins it.</param>
public sealed record SheetComment(int Line, string Text);

/// <summary>One line of the sheet: the same sentence as in the script.</summary>
/// <param name="Line">Line of the script, from 1.</param>
/// <param name="Owner">Name of the state it belongs to; empty for the head.</param>
/// <param name="Part">program, const, var, goal, never, region, routine, state, history, entry, while, exit, when, after, every, always or
/// broken.</param>
/// <param name="Text">The whole sentence without indentation, as it is edited.</param>
/// <param name="Comments">Comments above it.</param>
/// <param name="Pieces">The sentence in pieces.</param>
/// <param name="Depth">How deep it stands: 0 at the margin, one more for every two blanks.</param>
/// <param name="Key">The words it begins with that say what kind of sentence it is, such as "on entry"; shown before the sentence.</param>
/// <param name="Name">The name that a region, routine or state gives; null for others.</param>
public sealed record SheetLine(
    int Line,
    string Owner,
    string Part,
    string Text,
    IReadOnlyList<SheetComment> Comments,
    IReadOnlyList<SheetPiece> Pieces,
    int Depth,
    string Key,
    string? Name
);

/// <summary>A state of the sheet with its lines, or the head.</summary>
/// <param name="Owner">Name of the state; empty for the head.</param>
/// <param name="Depth">How deep it stands.</param>
/// <param name="Head">Its own line; null where states are missing yet.</param>
/// <param name="Regions">Lines of regions and routines that begin before it.</param>
/// <param name="Lines">Its sentences.</param>
/// <param name="Can">What can be done to it where it stands.</param>
public sealed record SheetBlock(
    string Owner,
    int Depth,
    SheetLine? Head,
    IReadOnlyList<SheetLine> Regions,
    IReadOnlyList<SheetLine> Lines,
    IReadOnlyList<OutlineAct> Can
);

/// <summary>The sheet: a script line by line, with its marks.</summary>
public static class Sheet
{
    /// <summary>A sentence of the tree as printed.</summary>
    internal static string Sentence(object node) => Printer.Plain(PiecesOf(node));

    private static IReadOnlyList<Piece> PiecesOf(object node) =>
        node switch
        {
            HeadNode h => Printer.Pieces(h),
            RegionNode r => [new("region ", PieceKind.Word), new(r.Name, PieceKind.Name)],
            RoutineNode r => Printer.Pieces(r),
            StateNode s => Printer.Pieces(s),
            LineNode l => Printer.Pieces(l),
            HistoryNode h => Printer.Pieces(h),
            _ => throw new InvalidOperationException($"Nothing prints {node.GetType().Name}."),
        };

    // What a sentence is, and the words it begins with.
    private static readonly string[] Keys =
    [
        "var",
        "const",
        "goal",
        "never",
        "on entry",
        "while here",
        "on exit",
        "after",
        "every",
        "always",
        "when",
    ];

    private static (string Part, string Key) PartOf(object node) =>
        node switch
        {
            VarNode => ("var", "var"),
            ConstNode => ("const", "const"),
            RuleNode { IsGoal: true } => ("goal", "goal"),
            RuleNode => ("never", "never"),
            RegionNode => ("region", "region"),
            RoutineNode => ("routine", "routine"),
            StateNode => ("state", "state"),
            HistoryNode { Deep: true } => ("history", "deep history"),
            HistoryNode => ("history", "history"),
            ActivityNode { Moment: ActivityMoment.Entry } => ("entry", "on entry"),
            ActivityNode { Moment: ActivityMoment.While } => ("while", "while here"),
            ActivityNode => ("exit", "on exit"),
            TransitionNode { Trigger: AfterTriggerNode } => ("after", "after"),
            TransitionNode { Trigger: EveryTriggerNode } => ("every", "every"),
            TransitionNode { Trigger: AlwaysTriggerNode } => ("always", "always"),
            TransitionNode => ("when", "when"),
            BrokenHeadNode or BrokenLineNode => ("broken", ""),
            _ => throw new InvalidOperationException($"The sheet has no place for {node.GetType().Name}."),
        };

    /// <summary>The sheet's blocks, in order: the head first, then one for each state.</summary>
    /// <param name="script">The text.</param>
    /// <param name="program">What it parsed to.</param>
    /// <param name="marks">Numbers that are not simply chosen.</param>
    public static IReadOnlyList<SheetBlock> Blocks(string script, ProgramNode program, IReadOnlyList<NumberMark> marks)
    {
        var standing = new Standing(program, ScriptParser.Split(script));
        var blocks = new List<SheetBlock>();
        var (head, lines, regions) = ((SheetLine?)null, new List<SheetLine>(), new List<SheetLine>());
        var (owner, depth) = ("", 0);
        IReadOnlyList<SheetLine> before = [];
        void Close() =>
            blocks.Add(
                new(owner, depth, head, before, lines, head is not null && standing.At(head.Line) is { } item ? standing.Can(item) : [])
            );
        foreach (var line in Lines(script, program, marks))
            switch (line.Part)
            {
                case "region" or "routine":
                    regions.Add(line);
                    break;
                case "state":
                    Close();
                    (owner, depth, head, lines, before) = (line.Owner, line.Depth, line, [], regions);
                    regions = [];
                    break;
                case "program":
                    head = line;
                    break;
                default:
                    lines.Add(line);
                    break;
            }
        Close();
        // A region without a state yet still has its line.
        if (regions.Count > 0)
            blocks.Add(new("", 1, null, regions, [], []));
        return blocks;
    }

    /// <summary>The lines of a script, in order, blank lines and comments left out.</summary>
    /// <param name="script">The text.</param>
    /// <param name="program">What it parsed to.</param>
    /// <param name="marks">Numbers that are not simply chosen.</param>
    public static IReadOnlyList<SheetLine> Lines(string script, ProgramNode program, IReadOnlyList<NumberMark> marks)
    {
        var standing = new Standing(program, []);
        var byLine = marks.ToLookup(m => (m.Owner, m.Line));
        var result = new List<SheetLine>();
        var comments = new List<SheetComment>();
        var owner = "";
        var texts = ScriptParser.Split(script);
        for (var i = 0; i < texts.Length; i++)
        {
            var text = texts[i].Trim();
            if (text == "")
                continue;
            if (text[0] == '#')
            {
                comments.Add(new(i + 1, text[1..].TrimStart()));
                continue;
            }
            var depth = (texts[i].Length - texts[i].TrimStart().Length) / 2;
            var node = standing.At(i + 1)?.Node;
            var (part, key) =
                i + 1 == program.Span.Line ? ("program", "program")
                : node is null ? ("broken", "")
                : PartOf(node);
            if (part != "broken")
            {
                var pieces = node is null ? Printer.HeadPieces(program) : PiecesOf(node);
                owner = node switch
                {
                    StateNode s => s.Name,
                    LineNode or HistoryNode or RegionNode when standing.At(i + 1)?.Parent?.Node is StateNode s => s.Name,
                    _ => "",
                };
                var said = Printer.Plain(pieces);
                var name = node switch
                {
                    StateNode s => s.Name,
                    RegionNode r => r.Name,
                    RoutineNode r => r.Name,
                    null => program.Name,
                    _ => null,
                };
                result.Add(new(i + 1, owner, part, said, [.. comments], Mark(pieces, byLine[(owner, said)]), depth, key, name));
            }
            else
                result.Add(
                    new(
                        i + 1,
                        texts[i].StartsWith(' ') ? owner : "",
                        "broken",
                        text,
                        [.. comments],
                        [new(text, PieceKind.Word, null, null)],
                        depth,
                        // What kind of line it was meant to be is seen in it all the same.
                        Keys.FirstOrDefault(k =>
                            text.Length > k.Length && text.StartsWith(k, StringComparison.Ordinal) && (text[k.Length] is ' ' or ':')
                        ) ?? "",
                        null
                    )
                );
            comments.Clear();
        }
        return result;
    }

    private static List<SheetPiece> Mark(IReadOnlyList<Piece> pieces, IEnumerable<NumberMark> marks)
    {
        var index = 0;
        var result = new List<SheetPiece>();
        foreach (var piece in pieces)
        {
            if (piece.Kind != PieceKind.Number)
            {
                result.Add(new(piece.Text, piece.Kind, null, null));
                continue;
            }
            var mark = marks.FirstOrDefault(m => m.Index == index);
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
