using Chiton.Core.Checking;
using Chiton.Core.Programs.Drawing;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;

namespace Chiton.Server.Parts;

/// <summary>Writes the program anew.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Script">The new text.</param>
/// <param name="Copy">Which copy's rate to count.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Program">Which program, by its place; the one that runs when left out.</param>
public sealed record SaveRequest(int BaseRevision, string? Script, int? Copy, string? By, int? Program = null);

/// <summary>Edits a line, a state, a region or a routine.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Act">What is done.</param>
/// <param name="Line">The line it is done to, from 1; 0 or left out where it is done to the program.</param>
/// <param name="Text">What the line says, where it is typed.</param>
/// <param name="Copy">Which copy's rate to count.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Program">Which program, by its place; the one that runs when left out.</param>
/// <param name="Instead">True to do it to the text of the base revision, whatever another window kept since.</param>
public sealed record EditRequest(
    int BaseRevision,
    OutlineAct? Act,
    int? Line,
    string? Text,
    int? Copy,
    string? By,
    int? Program = null,
    bool? Instead = null
);

/// <summary>A program after an edit.</summary>
/// <param name="Revision">The revision that is current now.</param>
/// <param name="Line">Where the cursor belongs.</param>
/// <param name="Program">The program as it stands.</param>
public sealed record EditedProgram(int Revision, int Line, ProgramView Program);

/// <summary>A line as it is being typed, in a program that is kept.</summary>
/// <param name="BaseRevision">The revision it is typed on.</param>
/// <param name="Act">What keeping it would do: set, add, addState or addInside.</param>
/// <param name="Line">The line it is done to, from 1; 0 or left out where it is done to the program.</param>
/// <param name="Text">What stands on the line so far, blanks and all.</param>
/// <param name="Program">Which program, by its place; the one that runs when left out.</param>
public sealed record Typing(int BaseRevision, OutlineAct? Act, int? Line, string? Text, int? Program = null);

/// <summary>Looks at a text that is not kept yet.</summary>
/// <param name="Script">The whole text as it would be; null where a line is typed.</param>
/// <param name="Line">Line of the caret, from 1; null for no completion.</param>
/// <param name="Column">Caret from the start of the line, or of what is typed, from 0.</param>
/// <param name="Typing">The line that is typed, instead of a whole text.</param>
/// <param name="Program">Which program the text is of, by its place; the one that runs when left out.</param>
/// <param name="Offers">True, once typing rests, to be offered what was probably meant.</param>
public sealed record DiagnoseRequest(
    string? Script,
    int? Line,
    int? Column,
    Typing? Typing = null,
    int? Program = null,
    bool? Offers = null
);

/// <summary>Something that can be typed next.</summary>
/// <param name="Text">The text.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Start">Column from 0 where it begins.</param>
public sealed record Completion(string Text, string Kind, int Start);

/// <summary>What the text says.</summary>
/// <param name="Diagnostics">What cannot be read; of a line that is typed, what is wrong with that line, in columns of what is
/// typed.</param>
/// <param name="Completions">What can be typed next; columns count as the caret does.</param>
public sealed record DiagnoseView(IReadOnlyList<Diagnostic> Diagnostics, IReadOnlyList<Completion> Completions)
{
    /// <summary>Of a line that is typed: whole sentences that would fit instead, the likeliest first; of an empty one examples.</summary>
    public IReadOnlyList<string> Offers { get; init; } = [];

    /// <summary>Of a line that is typed: what it names and nobody has made yet.</summary>
    public MakeOffer? Make { get; init; }

    /// <summary>Of a line that is typed: what the lesson does not offer of it, kindly.</summary>
    public IReadOnlyList<string> Kindly { get; init; } = [];
}

/// <summary>Something that a line names and that can be made at once.</summary>
/// <param name="Name">The name.</param>
/// <param name="Label">What is offered, in words.</param>
public sealed record MakeOffer(MissingName Name, string Label);

/// <summary>Makes what a line names: a state, a variable, a zone or a position.</summary>
/// <param name="BaseRevision">The revision that the line is typed on.</param>
/// <param name="Name">What is made.</param>
/// <param name="Line">The line that is typed, or that a new line stands below.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Program">Which program, by its place; the one that runs when left out.</param>
public sealed record MakeRequest(int BaseRevision, MissingName? Name, int? Line, int? Copy, string? By, int? Program = null);

/// <summary>Applies a cure.</summary>
/// <param name="BaseRevision">The revision the finding was made on.</param>
/// <param name="Code">Code of the finding.</param>
/// <param name="Line">Line of the finding.</param>
/// <param name="Copy">The copy it was made for.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Program">Which program the finding speaks of; null for the first that runs.</param>
public sealed record CureRequest(int BaseRevision, string? Code, int Line, int? Copy, string? By, int? Program = null);

/// <summary>Two revisions held against each other.</summary>
/// <param name="Before">The earlier one.</param>
/// <param name="After">The later one.</param>
/// <param name="Changes">What differs in the program.</param>
/// <param name="Other">True when the rig itself differs too.</param>
public sealed record DifferenceView(int Before, int After, IReadOnlyList<ProgramChange> Changes, bool Other);

/// <summary>Brings the program of a revision back.</summary>
public sealed record BringBackRequest(int BaseRevision, int Revision, int? Copy, string? By);

/// <summary>The state machine as sentences.</summary>
public static class ProgramEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var program = api.MapGroup("/rigs/{id}/program").WithTags("Program");
        program.MapGet("", View).WithName("getProgram").ProducesProblem(404);
        program.MapPut("", Save).WithName("saveProgram").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        program.MapPost("/edit", Edit).WithName("editProgram").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        program.MapPost("/make", Make).WithName("makeName").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        program.MapPost("/diagnose", Diagnose).WithName("diagnose").ProducesValidationProblem().ProducesProblem(404);
        program
            .MapGet(
                "/chart",
                async Task<ChartDrawing> (string id, int? program, RigStore store, CancellationToken cancel) =>
                    ChartDrawing.Of(Read(await store.Load(id, null, null, cancel), program).Parsed.Program)
            )
            .WithName("getChart")
            .ProducesProblem(404);
        program
            .MapGet(
                "/table",
                async Task<IReadOnlyList<TablePart>> (string id, int? program, RigStore store, CancellationToken cancel) =>
                    MachineTable.Of(Read(await store.Load(id, null, null, cancel), program).Parsed.Program)
            )
            .WithName("getTable")
            .ProducesProblem(404);
        program
            .MapGet(
                "/chart.dot",
                async (string id, int? program, RigStore store, CancellationToken cancel) =>
                {
                    var parsed = Read(await store.Load(id, null, null, cancel), program).Parsed.Program;
                    return Results.Text(ChartDrawing.Of(parsed).ToDot(parsed.Name), "text/vnd.graphviz");
                }
            )
            .WithName("getChartDot")
            .ProducesProblem(404);
        program
            .MapGet(
                "/scxml",
                async (string id, int? program, RigStore store, CancellationToken cancel) =>
                {
                    var read = Read(await store.Load(id, null, null, cancel), program);
                    if (read.Parsed.Diagnostics.Count > 0)
                        throw new InputProblem(
                            "program",
                            $"Only a program without faults is written as SCXML. Line {read.Parsed.Diagnostics[0].Line}: "
                                + $"{read.Parsed.Diagnostics[0].Message}"
                        );
                    return Results.Text(Chiton.Core.Programs.Scxml.ScxmlWriter.Write(read.Parsed.Program), "application/scxml+xml");
                }
            )
            .WithName("getScxml")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        program
            .MapGet(
                "/chart.mmd",
                async (string id, int? program, RigStore store, CancellationToken cancel) =>
                    Results.Text(
                        ChartDrawing.Of(Read(await store.Load(id, null, null, cancel), program).Parsed.Program).ToMermaid(),
                        "text/plain"
                    )
            )
            .WithName("getChartMermaid")
            .ProducesProblem(404);
        program
            .MapGet(
                "/difference",
                async Task<DifferenceView> (string id, int before, int after, RigStore store, CancellationToken cancel) =>
                {
                    var (a, b) = (await store.Designs.DesignOf(id, before, cancel), await store.Designs.DesignOf(id, after, cancel));
                    return new(
                        before,
                        after,
                        ProgramDifference.Between(a, b),
                        a with
                        {
                            Programs = [],
                            Walks = [],
                            MessageDelay = null,
                        } != b with { Programs = [], Walks = [], MessageDelay = null }
                    );
                }
            )
            .WithName("getDifference")
            .ProducesProblem(404);
        program
            .MapPost(
                "/restore",
                async Task<Edited> (string id, BringBackRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                {
                    var revision = await store.Designs.RestoreProgram(id, request.BaseRevision, request.Revision, cancel);
                    var what = $"brought back the program of revision {request.Revision}";
                    await announce.Changed(id, request.Copy ?? 1, revision, what, request.By);
                    return new(revision, what);
                }
            )
            .WithName("restoreProgram")
            .ProducesProblem(404)
            .ProducesProblem(409);
        program.MapPost("/cure", Cure).WithName("cure").ProducesProblem(404).ProducesProblem(409);
        BoardEndpoints.Map(program);
    }

    /// <summary>One of the programs of a rig, by its place; the one that runs when none is named.</summary>
    internal static RigProgram Read(RigState state, int? program)
    {
        var index = program ?? state.Design.MainProgram;
        if (index == 0 && state.Design.Programs.Count == 0)
            return new(0, state.Design.Name, null, false, true, state.Parsed);
        return state.Known.Programs.ElementAtOrDefault(index) ?? throw new NotStored($"The rig has no program {index}.");
    }

    private static async Task<ProgramView> View(
        string id,
        int? copy,
        int? program,
        RigStore store,
        LessonStore lessons,
        CancellationToken cancel
    ) => ProgramView.Of(await store.Load(id, copy, null, cancel), program, await Offers(id, lessons, cancel));

    /// <summary>Which sentences the lesson offers that a rig is of; all of them for a rig of none.</summary>
    internal static async Task<Core.Classroom.Offered> Offers(string id, LessonStore lessons, CancellationToken cancel) =>
        (await lessons.ForRig(id, cancel))?.Offered ?? Core.Classroom.Offered.All;

    private static async Task<Edited> Save(string id, SaveRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        if (request.Script is null)
            throw new InputProblem("script", "Give the text of the program.");
        var revision = await store.Designs.SaveProgram(id, request.BaseRevision, request.Program, request.Script, null, null, cancel);
        await announce.Changed(id, request.Copy ?? 1, revision, "the program was edited", request.By);
        return new(revision, null);
    }

    private static async Task<EditedProgram> Edit(
        string id,
        EditRequest request,
        RigStore store,
        LessonStore lessons,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var (revision, line) = await store.Designs.EditProgram(
            id,
            request.BaseRevision,
            request.Program,
            Asked(request.Act, request.Line, request.Text),
            request.Instead ?? false,
            cancel
        );
        await announce.Changed(id, request.Copy ?? 1, revision, "the program was edited", request.By);
        return new(
            revision,
            line,
            ProgramView.Of(await store.Load(id, request.Copy, null, cancel), request.Program, await Offers(id, lessons, cancel))
        );
    }

    private static async Task<Edited> Make(string id, MakeRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        if (request.Name is not { Name: not null } name || !Making.Can(name))
            throw new InputProblem("name", "A state, a variable, a zone of a sensor or a position of a mechanism can be made here.");
        var known = await store.Designs.KnownOf(id, request.BaseRevision, cancel);
        var index = request.Program ?? known.Design.MainProgram;
        var text = known.Design.ProgramAt(index);
        var parsed =
            known.Programs.ElementAtOrDefault(index)?.Parsed ?? ScriptParser.Parse(text.Script, Vocabulary.For(known.Design, text));
        int revision;
        if (Making.InProgram(name, text.Script, parsed.Program, request.Line ?? 0) is { } edit)
            (revision, _) = await store.Designs.EditProgram(id, request.BaseRevision, request.Program, edit, false, cancel);
        else
        {
            var next = Making.InRig(known.Design, name);
            RigRules.Check(next, "");
            revision = await store.Designs.SaveDesign(id, request.BaseRevision, next, Made(name), cancel);
        }
        await announce.Changed(id, request.Copy ?? 1, revision, Made(name), request.By);
        return new(revision, Made(name));
    }

    private static string Made(MissingName name) => $"made the {name.Kind} {name.Name}{(name.Of is { } of ? $" of {of}" : "")}";

    private static OutlineEdit Asked(OutlineAct? act, int? line, string? text) =>
        act is not { } what
            ? throw new InputProblem(
                "act",
                "Say what is done: "
                    + $"{Figures.List(Enum.GetNames<OutlineAct>().Select(System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName))} can be."
            )
            : new(what, line ?? 0, text);

    private static async Task<DiagnoseView> Diagnose(
        string id,
        DiagnoseRequest request,
        RigStore store,
        LessonStore lessons,
        CancellationToken cancel
    )
    {
        var offered = await Offers(id, lessons, cancel);
        if (request.Typing is { } typing)
            return await Typed(id, typing, request.Column, request.Offers == true, offered, store, cancel);
        if (request.Script is null)
            throw new InputProblem("script", "Give the text of the program.");
        var design = await store.Designs.DesignNow(id, cancel);
        var words = Vocabulary.For(design, design.ProgramAt(request.Program ?? design.MainProgram));
        return new(
            ScriptParser.Parse(request.Script, words).Diagnostics,
            request.Line is { } line && request.Column is { } column ? Completions(request.Script, line, column, 0, words, offered) : []
        );
    }

    private static async Task<DiagnoseView> Typed(
        string id,
        Typing typing,
        int? column,
        bool offers,
        Core.Classroom.Offered offered,
        RigStore store,
        CancellationToken cancel
    )
    {
        var known = await store.Designs.KnownOf(id, typing.BaseRevision, cancel);
        var index = typing.Program ?? known.Design.MainProgram;
        var text = known.Design.ProgramAt(index);
        var words = Vocabulary.For(known.Design, text);
        var before = known.Programs.ElementAtOrDefault(index)?.Parsed ?? ScriptParser.Parse(text.Script, words);
        var (script, line, indent) = Outline.Typed(text.Script, Asked(typing.Act, typing.Line, typing.Text ?? ""), before.Program);
        var now = ScriptParser.Parse(script, words, before);
        Diagnostic[] said =
        [
            .. now
                .Diagnostics.Where(d => d.Line == line)
                .Select(d => Mending.Plain(d with { Column = Math.Max(1, d.Column - indent) }, typing.Text ?? "")),
        ];
        var typed = typing.Text?.Trim() ?? "";
        return new(said, column is { } at ? Completions(script, line, indent + at, indent, words, offered) : [])
        {
            Kindly = [.. offered.In(now.Program).Where(n => n.Line == line).Select(n => n.Say)],
            Offers =
                !offers ? []
                : typed == ""
                    ? indent > 0 ? [.. Mending.Examples(text.Script, words).Where(e => offered.Proposes(e, words))]
                        : []
                : said.Length > 0 ? [.. Mending.Offers(typed, text.Script, words, indent > 0).Where(e => offered.Proposes(e, words))]
                : [],
            Make =
                offers && said.FirstOrDefault()?.Missing is { } missing && Making.Can(missing) ? new(missing, Making.Label(missing)) : null,
        };
    }

    private static Completion[] Completions(
        string script,
        int line,
        int column,
        int indent,
        Vocabulary words,
        Core.Classroom.Offered offered
    ) =>
        [
            .. ScriptParser
                .Complete(script, line, column, words)
                .Where(c => offered.Proposes(script.Split('\n')[line - 1][..c.Start], c.Candidate.Text, c.Candidate.Kind))
                .Take(100)
                .Select(c => new Completion(c.Candidate.Text, c.Candidate.Kind, c.Start - indent)),
        ];

    private static async Task<Edited> Cure(string id, CureRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        if (state.Revision != request.BaseRevision)
            throw new StaleEdit(state.Revision, "another revision");
        var which = request.Program ?? state.Design.MainProgram;
        var finding =
            (state.Report().Findings ?? []).FirstOrDefault(f =>
                f.Program == which && f.Code == request.Code && f.Line == request.Line && f.Cure is not null
            ) ?? throw new NotStored("This finding is settled already.");
        var cured = finding.Cure!.On(state.Design.ProgramAt(which).Script);
        var edits = finding.Cure.Edits;
        IEnumerable<NumberMark> Marks(ProgramNode program)
        {
            foreach (var edit in edits)
            {
                // Where no number was worked out, none carries that it was.
                if (edit.Index < 0)
                    continue;
                if (program.Head.Any(h => h.Span.Line == edit.Line))
                    yield return new("", edit.Text, edit.Index, Provenance.Calculated, edit.Source);
                foreach (var owner in program.AllStates.Where(s => s.Lines.Any(l => l.Span.Line == edit.Line)))
                    yield return new(owner.Name, edit.Text, edit.Index, Provenance.Calculated, edit.Source);
            }
        }
        var what = char.ToLowerInvariant(finding.Cure.Label[0]) + finding.Cure.Label[1..] + $" against “{finding.Headline}”";
        var revision = await store.Designs.SaveProgram(id, request.BaseRevision, request.Program, cured, Marks, what, cancel);
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }
}
