using System.Text.Json.Serialization;
using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>The program as sheet and script.</summary>
/// <param name="Revision">Revision of the rig.</param>
/// <param name="Script">The text.</param>
/// <param name="Blocks">Its lines, for the sheet: the head first, then one for each state.</param>
/// <param name="Kinds">What pieces of lines are; a piece names its kind by its place in this list.</param>
/// <param name="Keys">The words that sentences of a part begin with, where they are others than the part.</param>
/// <param name="Abilities">What can be done to states; a state names its list by its place here.</param>
/// <param name="Diagnostics">What cannot be read.</param>
/// <param name="Findings">What the checks say of it and nobody set aside; nothing of a program that is stored.</param>
/// <param name="Index">Which of the rig's programs it is.</param>
/// <param name="Programs">All of them.</param>
/// <param name="Problems">What is odd about them together, in sentences.</param>
/// <param name="Places">Controllers that programs can be on.</param>
/// <param name="MessageDelay">How long a message takes, ms; null while nothing was said.</param>
/// <param name="Changed">Lines of a program from before that do otherwise now.</param>
public sealed record ProgramView(
    int Revision,
    string Script,
    IReadOnlyList<BlockView> Blocks,
    IReadOnlyList<KindOfPiece> Kinds,
    IReadOnlyDictionary<string, string> Keys,
    IReadOnlyList<IReadOnlyList<OutlineAct>> Abilities,
    IReadOnlyList<Diagnostic> Diagnostics,
    IReadOnlyList<Finding> Findings,
    int Index,
    IReadOnlyList<ProgramItem> Programs,
    IReadOnlyList<string> Problems,
    IReadOnlyList<string> Places,
    Quantity? MessageDelay,
    IReadOnlyList<MeaningChange> Changed
)
{
    private static IReadOnlyList<PlaceValue> ValueFields(RigProgram program, ProgramText text) =>
        [
            .. program
                .Parsed.Program.Parameters.Distinct()
                .Select(n => new PlaceValue(n, text.Values.FirstOrDefault(v => v.Name == n)?.Value ?? "")),
        ];

    /// <summary>What the lesson that the rig is of does not offer, line by line; nothing for a rig of none.</summary>
    public IReadOnlyList<Core.Classroom.NotOffered> NotOffered { get; init; } = [];

    /// <summary>One of the programs of a rig as a page shows it.</summary>
    /// <param name="state">The rig.</param>
    /// <param name="program">Which program, by its place; the one that runs when null.</param>
    /// <param name="offered">Which sentences the lesson offers that the rig is of.</param>
    /// <exception cref="NotStored">When the rig has no such program.</exception>
    public static ProgramView Of(RigState state, int? program, Core.Classroom.Offered offered)
    {
        var read = ProgramEndpoints.Read(state, program);
        var text = state.Design.ProgramAt(read.Index);
        var made = new Tables(text.Script.Split('\n'));
        BlockView[] blocks = [.. Sheet.Blocks(text.Script, read.Parsed.Program, text.Marks.ToArray()).Select(b => BlockView.Of(b, made))];
        return new(
            state.Revision,
            text.Script,
            blocks,
            made.Kinds,
            made.Keys,
            made.Abilities,
            read.Parsed.Diagnostics,
            [.. (state.Open ?? []).Where(f => f.Program == read.Index)],
            read.Index,
            [
                .. state.Known.Programs.Select(p => new ProgramItem(
                    p.Index,
                    p.Name,
                    p.Place,
                    p.OnHost,
                    p.Runs,
                    p.Parsed.Diagnostics.Count,
                    p.Parsed.Program.Name,
                    ValueFields(p, state.Design.ProgramAt(p.Index)),
                    Placing.Alike(state.Design, p.Index).Count()
                )),
            ],
            RigPrograms.Problems(state.Design),
            [.. state.Design.Controllers.Where(c => c.Role == NodeRole.Controller).Select(c => c.Name)],
            state.Design.MessageDelay,
            MeaningChanges.Of(text, read.Parsed.Program)
        )
        {
            NotOffered = offered.In(read.Parsed.Program),
        };
    }
}

/// <summary>A value that the place of a program gives to its text.</summary>
/// <param name="Name">What the text calls it.</param>
/// <param name="Value">As typed: a number, an amount with its unit, yes, no or a text; empty while nobody has given it.</param>
public sealed record PlaceValue(string Name, string Value);

/// <summary>What a program says again and again, said once.</summary>
/// <param name="Script">Lines of the script.</param>
public sealed record Tables(string[] Script)
{
    private readonly Dictionary<KindOfPiece, int> kinds = [];
    private readonly Dictionary<string, int> abilities = [];

    /// <summary>Kinds of pieces.</summary>
    public List<KindOfPiece> Kinds { get; } = [];

    /// <summary>Words that sentences begin with, by part.</summary>
    public Dictionary<string, string> Keys { get; } = [];

    /// <summary>What can be done to states.</summary>
    public List<IReadOnlyList<OutlineAct>> Abilities { get; } = [];

    /// <summary>The place of a kind.</summary>
    public int Of(KindOfPiece kind)
    {
        if (kinds.TryGetValue(kind, out var at))
            return at;
        Kinds.Add(kind);
        return kinds[kind] = Kinds.Count - 1;
    }

    /// <summary>The place of a list of acts.</summary>
    public int Of(IReadOnlyList<OutlineAct> acts)
    {
        var key = string.Join(' ', acts);
        if (abilities.TryGetValue(key, out var at))
            return at;
        Abilities.Add(acts);
        return abilities[key] = Abilities.Count - 1;
    }
}

/// <summary>What a piece of a line is. Words between pieces are plain.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Provenance">Where a number comes from; null for other pieces.</param>
/// <param name="Source">In words, for people and screen readers; null for other pieces.</param>
public sealed record KindOfPiece(PieceKind Kind, Provenance? Provenance, string? Source);

/// <summary>A state of the sheet with its lines, or the head.</summary>
/// <param name="Owner">Name of the state; empty for the head.</param>
/// <param name="Depth">How deep it stands.</param>
/// <param name="Head">Its own line; left out where states are missing yet.</param>
/// <param name="Regions">Lines of regions and routines that begin before it; left out when there are none.</param>
/// <param name="Lines">Its sentences.</param>
/// <param name="Can">What can be done to it where it stands, by its place in the list of abilities.</param>
public sealed record BlockView(
    string Owner,
    int Depth,
    IReadOnlyList<LineView> Lines,
    int Can,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] LineView? Head = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<LineView>? Regions = null
)
{
    /// <summary>A block as it goes to a page.</summary>
    /// <param name="block">The block.</param>
    /// <param name="made">What is said once; new entries are added.</param>
    public static BlockView Of(SheetBlock block, Tables made) =>
        new(
            block.Owner,
            block.Depth,
            [.. block.Lines.Select(l => LineView.Of(l, made))],
            made.Of(block.Can),
            block.Head is null ? null : LineView.Of(block.Head, made),
            block.Regions.Count == 0 ? null : [.. block.Regions.Select(r => LineView.Of(r, made))]
        );
}

/// <summary>A line of the sheet. What is left out can be said from the rest, so that a long program is soon there.</summary>
/// <param name="Line">Line of the script, from 1.</param>
/// <param name="Part">program, const, var, goal, never, region, routine, state, history, entry, while, exit, when, after, every, always or
/// broken.</param>
/// <param name="Pieces">Three numbers a piece: where it begins in the text, from 0, how long it is, and its kind by its place in the
/// list of kinds.</param>
/// <param name="Text">The whole sentence; left out when it is the line of the script without the blanks around it.</param>
/// <param name="Comments">Comments above it; left out when there are none.</param>
/// <param name="Depth">How deep a region or routine stands; left out for others.</param>
/// <param name="Key">The words it begins with, shown before the sentence; left out when they are those of the part.</param>
/// <param name="Name">The name that a region, routine or program gives; left out for others.</param>
public sealed record LineView(
    int Line,
    string Part,
    IReadOnlyList<int> Pieces,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Text = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<SheetComment>? Comments = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] int? Depth = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Key = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Name = null
)
{
    /// <summary>A line as it goes to a page.</summary>
    public static LineView Of(SheetLine line, Tables made)
    {
        var pieces = new List<int>();
        var at = 0;
        foreach (var piece in line.Pieces)
        {
            if (piece.Kind is not (PieceKind.Word or PieceKind.Name) && piece.Text != "")
                pieces.AddRange([at, piece.Text.Length, made.Of(new KindOfPiece(piece.Kind, piece.Provenance, piece.Source))]);
            at += piece.Text.Length;
        }
        // A deep history begins otherwise than a plain one: its words are its own.
        if (line.Key != line.Part && line.Part != "history")
            made.Keys[line.Part] = line.Key;
        return new(
            line.Line,
            line.Part,
            pieces,
            made.Script[line.Line - 1].Trim() == line.Text ? null : line.Text,
            line.Comments.Count == 0 ? null : line.Comments,
            line.Part is "region" or "routine" ? line.Depth : null,
            line.Part == "history" && line.Key != line.Part ? line.Key : null,
            line.Part == "state" ? null : line.Name
        );
    }
}

/// <summary>One of the programs of a rig.</summary>
/// <param name="Index">Its place among them.</param>
/// <param name="Name">Its name.</param>
/// <param name="Place">The controller it is on; null on a host or when the rig has none.</param>
/// <param name="OnHost">True on a host.</param>
/// <param name="Runs">True when it runs, false when it is only stored.</param>
/// <param name="Faults">How many faults it has.</param>
/// <param name="Text">The name in its text; it is called otherwise where the text stands in more than one place.</param>
/// <param name="Values">The values that its text asks for.</param>
/// <param name="Alike">In how many places its text stands.</param>
public sealed record ProgramItem(
    int Index,
    string Name,
    string? Place,
    bool OnHost,
    bool Runs,
    int Faults,
    string Text,
    IReadOnlyList<PlaceValue> Values,
    int Alike
);
