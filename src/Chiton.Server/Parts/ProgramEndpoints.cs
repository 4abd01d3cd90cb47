using Chiton.Core.Checking;
using Chiton.Core.Programs;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;

namespace Chiton.Server.Parts;

/// <summary>The program as sheet and script.</summary>
public sealed record ProgramView(int Revision, string Script, IReadOnlyList<SheetLine> Lines, IReadOnlyList<Diagnostic> Diagnostics, IReadOnlyList<Finding> Findings);

/// <summary>Writes the program anew.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Script">The new text.</param>
/// <param name="Copy">Which copy's rate to count.</param>
/// <param name="By">The page that asks.</param>
public sealed record SaveRequest(int BaseRevision, string? Script, int? Copy, string? By);

/// <summary>Looks at a text that is not kept yet.</summary>
/// <param name="Script">The whole text as it would be.</param>
/// <param name="Line">Line of the caret, from 1; null for no completion.</param>
/// <param name="Column">Caret from the start of the line, from 0.</param>
public sealed record DiagnoseRequest(string? Script, int? Line, int? Column);

/// <summary>Something that can be typed next.</summary>
/// <param name="Text">The text.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Start">Column from 0 where it begins.</param>
public sealed record Completion(string Text, string Kind, int Start);

/// <summary>What the text says.</summary>
public sealed record DiagnoseView(IReadOnlyList<Diagnostic> Diagnostics, IReadOnlyList<Completion> Completions);

/// <summary>Applies a cure.</summary>
/// <param name="BaseRevision">The revision the finding was made on.</param>
/// <param name="Code">Code of the finding.</param>
/// <param name="Line">Line of the finding.</param>
/// <param name="Copy">The copy it was made for.</param>
/// <param name="By">The page that asks.</param>
public sealed record CureRequest(int BaseRevision, string? Code, int Line, int? Copy, string? By);

/// <summary>The fastest power a program asks of the vehicle.</summary>
public static class ProgramPower
{
    /// <summary>In %, from literals and variables' first values; null when none is named.</summary>
    public static double? Fastest(RigState state)
    {
        var first = state.Parsed.Program.Head.OfType<VarNode>().ToDictionary(v => v.Name, v => Analysis.Constant(v.Value));
        var powers = state.Parsed.Program.Regions.SelectMany(r => r.States).SelectMany(s => s.Lines).OfType<ActivityNode>().SelectMany(a => a.Actions).OfType<RunNode>()
            .Where(r => r.Motor == state.Design.Vehicle.Motor)
            .Select(r => r.Speed is VariableNode v ? first.GetValueOrDefault(v.Name) : Analysis.Constant(r.Speed)).OfType<double>().ToArray();
        return powers.Length == 0 ? null : powers.Max();
    }
}

/// <summary>The state machine as sentences.</summary>
public static class ProgramEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var program = api.MapGroup("/rigs/{id}/program").WithTags("Program");
        program.MapGet("", View).WithName("getProgram").ProducesProblem(404);
        program.MapPut("", Save).WithName("saveProgram").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        program.MapPost("/diagnose", Diagnose).WithName("diagnose").ProducesValidationProblem().ProducesProblem(404);
        program.MapPost("/cure", Cure).WithName("cure").ProducesProblem(404).ProducesProblem(409);
    }

    private static async Task<ProgramView> View(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, null, cancel);
        var program = state.Design.Program;
        var findings = state.Parsed.Diagnostics.Count > 0 ? [] : RigEndpoints.Findings(state);
        return new(state.Revision, program.Script, Sheet.Lines(program.Script, state.Parsed.Program, program.Marks.ToArray()), state.Parsed.Diagnostics, findings);
    }

    private static async Task<Edited> Save(string id, SaveRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        if (request.Script is null) throw new InputProblem("script", "Give the text of the program.");
        var revision = await store.SaveProgram(id, request.BaseRevision, request.Script, null, null, cancel);
        await announce.Changed(id, request.Copy ?? 1, revision, "the program was edited", request.By);
        return new(revision, null);
    }

    private static async Task<DiagnoseView> Diagnose(string id, DiagnoseRequest request, RigStore store, CancellationToken cancel)
    {
        if (request.Script is null) throw new InputProblem("script", "Give the text of the program.");
        var words = Vocabulary.Of((await store.Load(id, null, null, null, cancel)).Design);
        var completions = request.Line is { } line && request.Column is { } column
            ? ScriptParser.Complete(request.Script, line, column, words).Select(c => new Completion(c.Candidate.Text, c.Candidate.Kind, c.Start)).ToArray()
            : [];
        return new(ScriptParser.Parse(request.Script, words).Diagnostics, completions);
    }

    private static async Task<Edited> Cure(string id, CureRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, null, cancel);
        if (state.Revision != request.BaseRevision) throw new StaleEdit(state.Revision, "another revision");
        var finding = RigEndpoints.Findings(state).FirstOrDefault(f => f.Code == request.Code && f.Line == request.Line && f.Cure is not null)
            ?? throw new NotStored("This finding is settled already.");
        var lines = state.Design.Program.Script.Split('\n');
        foreach (var edit in finding.Cure!.Edits)
        {
            var old = lines[edit.Line - 1];
            lines[edit.Line - 1] = old[..(old.Length - old.TrimStart().Length)] + edit.Text;
        }
        var edits = finding.Cure.Edits;
        IEnumerable<NumberMark> Marks(ProgramNode program)
        {
            foreach (var edit in edits)
            {
                if (program.Head.Any(h => h.Span.Line == edit.Line)) yield return new("", edit.Text, edit.Index, Provenance.Calculated, edit.Source);
                foreach (var owner in program.Regions.SelectMany(r => r.States).Where(s => s.Lines.Any(l => l.Span.Line == edit.Line)))
                    yield return new(owner.Name, edit.Text, edit.Index, Provenance.Calculated, edit.Source);
            }
        }
        var what = char.ToLowerInvariant(finding.Cure.Label[0]) + finding.Cure.Label[1..] + $" against “{finding.Headline}”";
        var revision = await store.SaveProgram(id, request.BaseRevision, string.Join('\n', lines), Marks, what, cancel);
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }
}
