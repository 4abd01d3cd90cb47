using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;
using Chiton.Server.App;

namespace Chiton.Server.Parts;

/// <summary>A challenge in the list.</summary>
/// <param name="Id">Address.</param>
/// <param name="Name">Its name.</param>
/// <param name="Task">What is to be done.</param>
/// <param name="By">What a heat is scored by.</param>
/// <param name="Together">True where both teams of a heat are in one place.</param>
/// <param name="Archived">True when it is put away.</param>
public sealed record ChallengeItem(string Id, string Name, string Task, HeatScore By, bool Together, bool Archived);

/// <summary>What a challenge comes to: its field, and the rules that its numbers say.</summary>
/// <param name="RigName">Name of the rig that its scene speaks of; empty where there is none.</param>
/// <param name="Sentences">Rules that its numbers say.</param>
/// <param name="Unit">Unit of its scores.</param>
/// <param name="LimitS">How long a run lasts at most, s.</param>
/// <param name="Counts">What the scene gives points for, and asks for, line by line.</param>
/// <param name="Plan">Its field, to draw it to scale; null where the scene cannot be read.</param>
/// <param name="Parts">What the field is built from.</param>
/// <param name="Trouble">What is wrong with it, by field.</param>
public sealed record ChallengeField(
    string RigName,
    IReadOnlyList<string> Sentences,
    string Unit,
    double LimitS,
    IReadOnlyList<string> Counts,
    ScenePlan? Plan,
    IReadOnlyList<FieldPart> Parts,
    IReadOnlyDictionary<string, string> Trouble
);

/// <summary>A challenge.</summary>
/// <param name="Id">Address.</param>
/// <param name="Version">Number of the version that is changed.</param>
/// <param name="Archived">True when it is put away.</param>
/// <param name="Challenge">The challenge.</param>
/// <param name="Field">What it comes to.</param>
public sealed record ChallengeView(string Id, int Version, bool Archived, Challenge Challenge, ChallengeField Field);

/// <summary>Makes a challenge of a rig's scene.</summary>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Scene">Name of the scene; the one that counts when left out.</param>
public sealed record NewChallenge(string? Rig, string? Scene = null);

/// <summary>Changes a challenge.</summary>
/// <param name="BaseVersion">The version that was changed.</param>
/// <param name="Challenge">The challenge.</param>
public sealed record SaveChallenge(int BaseVersion, Challenge? Challenge);

/// <summary>A challenge that was kept.</summary>
/// <param name="Id">Address.</param>
/// <param name="Version">Number of its version.</param>
public sealed record ChallengeKept(string Id, int Version);

/// <summary>A challenge that came in.</summary>
/// <param name="Id">Address.</param>
/// <param name="Say">What was done, in words.</param>
public sealed record ChallengeCame(string Id, string Say);

/// <summary>Challenges: scenes with scores and rules.</summary>
public static class ChallengeEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var challenges = api.MapGroup("/challenges").WithTags("Class");
        challenges.MapGet("", List).WithName("listChallenges");
        challenges.MapPost("", Make).WithName("makeChallenge").ProducesValidationProblem();
        challenges
            .MapGet("/schema", () => Results.Json(RigSchema.OfChallenge, Documents.Options))
            .WithName("getChallengeSchema")
            .ExcludeFromDescription();
        challenges.MapPost("/import", Import).WithName("importChallenge").ProducesValidationProblem().ProducesProblem(413);
        challenges.MapPost("/look", Look).WithName("lookAtChallenge").ProducesValidationProblem();
        challenges.MapGet("/{challenge}", View).WithName("getChallenge").ProducesProblem(404);
        challenges
            .MapPut("/{challenge}", Save)
            .WithName("saveChallenge")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        challenges
            .MapPut(
                "/{challenge}/archived",
                async Task<ArchiveRequest> (string challenge, ArchiveRequest request, ChallengeStore store, CancellationToken cancel) =>
                    new(await store.Archive(challenge, request.Archived, cancel))
            )
            .WithName("archiveChallenge")
            .ProducesProblem(404);
        challenges.MapGet("/{challenge}/export", Export).WithName("exportChallenge").Produces<ChallengeFile>().ProducesProblem(404);
    }

    private static async Task<IReadOnlyList<ChallengeItem>> List(ChallengeStore store, CancellationToken cancel) =>
        [
            .. (await store.List(cancel)).Select(c => new ChallengeItem(
                c.Row.Id,
                c.Challenge.Name,
                c.Challenge.Task,
                c.Challenge.By,
                c.Challenge.Together,
                c.Row.Archived
            )),
        ];

    private static Challenge Given(Challenge? given) =>
        given is null ? throw new InputProblem("challenge", "Give the challenge.") : given.Clean();

    private static Challenge Checked(Challenge? given, RigDesign? rig)
    {
        var challenge = Given(given);
        var need = new Require();
        ChallengeRules.Check(need, challenge, rig);
        need.Done();
        return challenge;
    }

    private static async Task<RigDesign?> Rig(string? id, CourseStore courses, CancellationToken cancel) =>
        (await courses.Rigs(cancel)).GetValueOrDefault(id ?? "");

    private static async Task<ChallengeKept> Make(NewChallenge request, ChallengeStore store, CourseStore courses, CancellationToken cancel)
    {
        var rig = await Rig(request.Rig, courses, cancel) ?? throw new InputProblem("rig", $"There is no rig “{request.Rig}”.");
        var scenes = SceneStarts.Of(rig).Select(s => (s.Text, Read: SceneParser.Parse(s.Text, rig))).ToArray();
        var (text, read) =
            request.Scene is not { Length: > 0 } name ? scenes.OrderByDescending(s => s.Read.Scene.Counts).First()
            : scenes.FirstOrDefault(s => s.Read.Scene.Name == name) is { Text: not null } found ? found
            : throw new InputProblem("scene", $"There is no scene “{name}” on {rig.Name}.");
        var names = (await store.List(cancel)).Select(c => c.Challenge.Name);
        var challenge = ChallengeRules.About(request.Rig!, rig, text, read.Scene, [.. names]);
        return new(await store.Make(Checked(challenge, rig), cancel), 1);
    }

    private static ChallengeField Field(Challenge challenge, RigDesign? rig)
    {
        var need = new Require();
        ChallengeRules.Check(need, challenge, rig);
        var trouble = new Dictionary<string, string>();
        try
        {
            need.Done();
        }
        catch (InputProblem p)
        {
            foreach (var (field, say) in p.Errors)
                trouble[field] = say;
        }
        var scene = rig is null || challenge.Scene.Length > SceneParser.MostCharacters ? null : SceneParser.Parse(challenge.Scene, rig);
        var sound = scene is { Diagnostics.Count: 0 } ? scene.Scene : null;
        return new(
            rig?.Name ?? "",
            challenge.Sentences(),
            challenge.Unit(),
            sound?.EndsS ?? 0,
            sound is null
                ? []
                :
                [
                    .. sound
                        .Lines.Where(l => l.Key is "goal" or "never" || l.Key.StartsWith("score", StringComparison.Ordinal))
                        .Select(ScenePrinter.Print),
                ],
            sound is null ? null : Plan(challenge, sound, rig!),
            sound is null ? [] : FieldParts.Of(sound, challenge.Together),
            trouble
        );
    }

    // The place of the scene, with the second machine where both are in it.
    private static ScenePlan Plan(Challenge challenge, SceneNode scene, RigDesign rig)
    {
        var plan = ScenePlan.Of(scene, rig, new Dictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>>());
        return challenge is { Together: true, Second: { } second } && plan.Bodies.Count > 0
            ? plan with
            {
                Bodies =
                [
                    .. plan.Bodies,
                    plan.Bodies[0] with
                    {
                        Line = 0,
                        Name = "second lane",
                        X = second.X,
                        Y = second.Y,
                        Heading = second.Facing,
                    },
                ],
            }
            : plan;
    }

    private static async Task<ChallengeField> Look(Challenge challenge, CourseStore courses, CancellationToken cancel)
    {
        var given = Given(challenge);
        return Field(given, await Rig(given.Rig, courses, cancel));
    }

    private static async Task<ChallengeView> View(string challenge, ChallengeStore store, CourseStore courses, CancellationToken cancel)
    {
        var kept = await store.Challenge(challenge, cancel);
        return new(
            challenge,
            kept.Row.Version,
            kept.Row.Archived,
            kept.Challenge,
            Field(kept.Challenge, await Rig(kept.Challenge.Rig, courses, cancel))
        );
    }

    private static async Task<ChallengeKept> Save(
        string challenge,
        SaveChallenge request,
        ChallengeStore store,
        CourseStore courses,
        CancellationToken cancel
    )
    {
        var next = Checked(request.Challenge, await Rig(request.Challenge?.Rig, courses, cancel));
        return new(challenge, await store.Save(challenge, request.BaseVersion, next, cancel));
    }

    private static async Task<IResult> Export(string challenge, ChallengeStore store, CancellationToken cancel) =>
        Results.File(
            System.Text.Encoding.UTF8.GetBytes(Documents.Write(await store.Export(challenge, cancel))),
            "application/json",
            $"{challenge}.challenge.json"
        );

    private static async Task<ChallengeCame> Import(ChallengeFile file, ChallengeStore store, CourseStore courses, CancellationToken cancel)
    {
        var need = new Require();
        need.That(file.Format == ChallengeFile.FormatName, "format", $"Must be “{ChallengeFile.FormatName}”.");
        need.That(
            file.Version is >= 1 and <= ChallengeFile.CurrentVersion,
            "version",
            $"This program reads versions 1 to {ChallengeFile.CurrentVersion}."
        );
        need.Done();
        RigFile? rig = null;
        if (file.Rig is not null)
            try
            {
                rig = DesignEndpoints.Checked(
                    file.Rig.Design is null ? throw new InputProblem("design", "Give the rig's design.") : file.Rig
                );
            }
            catch (InputProblem p)
            {
                throw new InputProblem(p.Errors.ToDictionary(e => $"rig.{e.Key}", e => e.Value));
            }
        var challenge = Checked(file.Challenge, rig?.Design ?? await Rig(file.Challenge?.Rig, courses, cancel));
        var (id, made) = await store.Import(challenge, rig, cancel);
        return new(id, $"{challenge.Name} came in{(made is null ? "." : " with its rig.")}");
    }
}
