using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;
using Chiton.Server.App;

namespace Chiton.Server.Parts;

/// <summary>A line of a scene, in pieces.</summary>
/// <param name="Line">Its line, from 1.</param>
/// <param name="Key">What it says; empty for one that cannot be read.</param>
/// <param name="Group">What it is about.</param>
/// <param name="Pieces">Its pieces.</param>
/// <param name="Moves">Whether its place can be moved.</param>
/// <param name="Kind">Where its numbers come from: chosen, or measured where the line says so.</param>
public sealed record SceneLineView(
    int Line,
    string Key,
    string Group,
    IReadOnlyList<ScenePiece> Pieces,
    bool Moves,
    Provenance Kind = Provenance.Chosen
);

/// <summary>A scene as read.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Text">The text.</param>
/// <param name="Counts">Whether the header and Prove count it: it says so, or it is the first and none does.</param>
/// <param name="EndsS">How long a run of it lasts at most, s.</param>
/// <param name="Lines">Its lines.</param>
/// <param name="Diagnostics">Faults by line.</param>
/// <param name="Notes">What is worth knowing: what does nothing here, which goal cannot be judged, what is not known yet.</param>
/// <param name="Plan">Its place, to draw it.</param>
public sealed record SceneView(
    string Name,
    string Text,
    bool Counts,
    double EndsS,
    IReadOnlyList<SceneLineView> Lines,
    IReadOnlyList<Diagnostic> Diagnostics,
    IReadOnlyList<SceneFinding> Notes,
    ScenePlan Plan
);

/// <summary>What the bench leaves out.</summary>
/// <param name="What">What.</param>
/// <param name="Matters">When it matters.</param>
public sealed record LeftOut(string What, string Matters);

/// <summary>The scenes of a rig.</summary>
/// <param name="Revision">The revision they are of.</param>
/// <param name="Own">False while the rig has none of its own, and one stands for them.</param>
/// <param name="Scenes">The scenes.</param>
/// <param name="Starts">Scenes to begin with.</param>
/// <param name="LeftOut">What the bench leaves out.</param>
public sealed record ScenesView(
    int Revision,
    bool Own,
    IReadOnlyList<SceneView> Scenes,
    IReadOnlyList<SceneStart> Starts,
    IReadOnlyList<LeftOut> LeftOut
);

/// <summary>Writes the scenes of a rig anew.</summary>
/// <param name="BaseRevision">The revision that was looked at.</param>
/// <param name="Scenes">The texts.</param>
/// <param name="What">What was done, in a few words; null for a usual word.</param>
/// <param name="Copy">Copy number.</param>
/// <param name="By">The page that asks.</param>
public sealed record ScenesRequest(int BaseRevision, IReadOnlyList<string>? Scenes, string? What, int? Copy, string? By);

/// <summary>Reads a scene that is being written.</summary>
/// <param name="Text">The text.</param>
/// <param name="Copy">Copy number.</param>
public sealed record SceneReadRequest(string? Text, int? Copy);

/// <summary>Asks what may follow in a line.</summary>
/// <param name="Typed">The line up to the cursor.</param>
/// <param name="Text">The scene it stands in.</param>
public sealed record SceneNextRequest(string? Typed, string? Text);

/// <summary>What may follow.</summary>
public sealed record SceneHints(IReadOnlyList<SceneHint> Hints);

/// <summary>Moves what a line speaks of.</summary>
/// <param name="Text">The scene.</param>
/// <param name="Line">The line, from 1.</param>
/// <param name="Dx">To the right, mm.</param>
/// <param name="Dy">Up, mm.</param>
/// <param name="Copy">Copy number.</param>
public sealed record SceneMoveRequest(string? Text, int Line, double? Dx, double? Dy, int? Copy);

/// <summary>A sentence of the language of scenes.</summary>
public sealed record SceneSentence(string Group, string Form, string Says, string Example);

/// <summary>The language of scenes.</summary>
public sealed record SceneLanguage(IReadOnlyList<SceneSentence> Sentences);

/// <summary>Where a rig is tried.</summary>
public static class SceneEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var scenes = api.MapGroup("/rigs/{id}/scenes").WithTags("Simulate");
        scenes
            .MapGet(
                "",
                async Task<ScenesView> (string id, int? copy, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    return new(
                        state.Revision,
                        state.Design.Scenes.Count > 0,
                        [.. SceneStarts.Of(state.Design).Select((s, i) => View(state, s.Text, state.Scenes[i]))],
                        SceneStarts.For(state.Design),
                        Leaves
                    );
                }
            )
            .WithName("getScenes")
            .ProducesProblem(404);
        scenes.MapPut("", Save).WithName("saveScenes").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        scenes
            .MapPost(
                "/read",
                async Task<SceneView> (string id, SceneReadRequest request, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, request.Copy, null, cancel);
                    var text = Text(request.Text);
                    return View(state, text, SceneParser.Parse(text, state.Design));
                }
            )
            .WithName("readScene")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        scenes
            .MapPost(
                "/next",
                async Task<SceneHints> (string id, SceneNextRequest request, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, null, null, cancel);
                    if (request.Typed is not { Length: <= 1000 } typed)
                        throw new InputProblem("typed", "Give the line up to the cursor, at most 1000 characters.");
                    var scene = request.Text is { Length: > 0 and <= SceneParser.MostCharacters } text
                        ? SceneParser.Parse(text, state.Design).Scene
                        : null;
                    return new(SceneWords.Next(typed, scene, state.Design));
                }
            )
            .WithName("nextInScene")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        scenes
            .MapPost(
                "/move",
                async Task<SceneView> (string id, SceneMoveRequest request, RigStore store, CancellationToken cancel) =>
                {
                    var need = new Require();
                    var dx = need.Number(request.Dx ?? 0, "dx", -100_000, 100_000);
                    var dy = need.Number(request.Dy ?? 0, "dy", -100_000, 100_000);
                    need.Done();
                    var state = await store.Load(id, request.Copy, null, cancel);
                    var read = SceneParser.Parse(Text(request.Text), state.Design).Scene;
                    var at = read.Lines.ToList().FindIndex(l => l.Line == request.Line);
                    if (at < 0 || ScenePlan.Moved(read.Lines[at], dx, dy) is not { } moved)
                        throw new InputProblem("line", "Nothing that this line speaks of can be moved.");
                    var text = ScenePrinter.Print(read with { Lines = [.. read.Lines.Select((l, i) => i == at ? moved : l)] });
                    return View(state, text, SceneParser.Parse(text, state.Design));
                }
            )
            .WithName("moveInScene")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        api.MapGet(
                "/scenes/language",
                SceneLanguage () => new([.. SceneForms.All.Select(f => new SceneSentence(f.Group, f.Pattern, f.About, f.Example))])
            )
            .WithTags("Simulate")
            .WithName("getSceneLanguage");
    }

    private static string Text(string? text) =>
        text is { Length: > 0 and <= SceneParser.MostCharacters }
            ? text
            : throw new InputProblem("text", $"Give the text of the scene, at most {SceneParser.MostCharacters} characters.");

    private static SceneView View(RigState state, string text, SceneResult read)
    {
        var notes = new List<SceneFinding>();
        if (read.Diagnostics.Count == 0 && state.Parsed.Diagnostics.Count == 0 && !Rates.Empty(state.Parsed))
            try
            {
                var plan = state.Plan(read.Scene);
                notes.AddRange(plan.Findings);
                if (plan.Unproved is { } why)
                    notes.Add(new(0, "goal-unjudged", why));
            }
            catch (SceneProblem p)
            {
                notes.AddRange(p.Findings);
            }
            catch (InputProblem p)
            {
                notes.Add(Placed(p.Errors.Values.First()));
            }
        return new(
            read.Scene.Name,
            text,
            // Of those of the rig one counts, whoever says so; one that is only read says it itself.
            state.Scenes.Contains(read)
                ? ReferenceEquals(read, state.Counting)
                : read.Scene.Counts,
            read.Scene.EndsS,
            [
                .. read.Scene.Lines.Select(l => new SceneLineView(
                    l.Line,
                    l.Key,
                    SceneForms.Of(l.Key)?.Group ?? "",
                    ScenePrinter.Pieces(l),
                    ScenePlan.Moved(l, 0, 0) is not null,
                    l.Kind
                )),
            ],
            read.Diagnostics,
            notes,
            ScenePlan.Of(read.Scene, state.Design, state.Positions.ToDictionary(p => p.Key, p => p.Value.Angles))
        );
    }

    // “Line 7: …” is said at that line.
    private static SceneFinding Placed(string say) =>
        say.StartsWith("Line ", StringComparison.Ordinal)
        && say.IndexOf(':', StringComparison.Ordinal) is > 5 and var end
        && int.TryParse(
            say[5..end].Replace(" of the scene", "", StringComparison.Ordinal),
            NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var line
        )
            ? new(line, "note", say[(end + 2)..])
            : new(0, "note", say);

    private static Task<Edited> Save(string id, ScenesRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
        ProgramListEndpoints.Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
                (
                    SceneEdits.With(design, request.Scenes ?? throw new InputProblem("scenes", "Give the scenes.")),
                    request.What is { Length: > 0 and <= 80 } what ? what : "changed its scenes"
                )
        );

    // One honest list: the design's own words stand on the page.
    private static readonly LeftOut[] Leaves =
    [
        new("Nothing bends, and nothing breaks but what comes apart at its end.", "Long arms and thin rails under load."),
        new(
            "Nothing slides sideways: a drive that meets a wall at a slant stands there instead of being turned along it.",
            "Robots that feel their way along walls."
        ),
        new(
            "What is pushed costs no power and does not turn; what is too heavy for the motors stands like a wall.",
            "Long things, several at once, and slopes."
        ),
        new("Things with corners are pushed as discs that cover as much.", "Bricks that are lined up."),
        new("The floor is flat, and grips alike everywhere.", "Mats, gaps and cables."),
        new("A load slows its lift or arm on the way up, and never hurries it on the way down.", "Plain motors with heavy loads."),
        new("What jaws or a fork hold passes through walls and other things.", "Narrow ways with a wide load."),
        new("Water is level at once.", "Waves at a probe, and wide tanks."),
        new("Light is the same everywhere but where a line of the scene says otherwise.", "Windows, shadows of people."),
        new(
            "Distance is looked at along five lines of its beam, and an echo comes back from nothing softer than a wall.",
            "Cloth and corners."
        ),
    ];
}
