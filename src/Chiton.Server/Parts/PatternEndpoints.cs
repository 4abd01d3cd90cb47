using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Quantities;
using Chiton.Core.Sensing;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A hole of a pattern with what fits it on this rig.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Label">What is asked for.</param>
/// <param name="Kind">What fills it.</param>
/// <param name="Of">The hole it belongs to; null when to none.</param>
/// <param name="Unit">Unit of a number.</param>
/// <param name="Only">The school under which it is asked, as “choice=school”; null when always.</param>
/// <param name="Options">What fits.</param>
/// <param name="Value">What is taken to begin with.</param>
/// <param name="Source">Where that comes from.</param>
/// <param name="Missing">What the rig lacks; null when something fits.</param>
public sealed record HoleView(
    string Id,
    string Label,
    HoleKind Kind,
    string? Of,
    string Unit,
    string? Only,
    IReadOnlyList<HoleOption> Options,
    string Value,
    string Source,
    string? Missing
);

/// <summary>A pattern held against this rig.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Number">Its number in the library.</param>
/// <param name="Name">What it does.</param>
/// <param name="When">When to use it.</param>
/// <param name="Trap">What goes wrong with it.</param>
/// <param name="Choices">Where schools differ, the default first.</param>
/// <param name="Holes">Its holes.</param>
/// <param name="Routine">True for a routine of the workshop's library, which stands beside the regions.</param>
public sealed record PatternView(
    string Id,
    int Number,
    string Name,
    string When,
    string Trap,
    IReadOnlyList<PatternChoice> Choices,
    IReadOnlyList<HoleView> Holes,
    bool Routine
);

/// <summary>Fills a pattern.</summary>
/// <param name="Program">The program it is for, by its place; the one that runs when left out.</param>
/// <param name="Values">What fills the holes, by their short names.</param>
/// <param name="Schools">The school of each choice; the default where none is given.</param>
/// <param name="Into">A region that takes up its states; left out for a region of its own.</param>
public sealed record FillPatternRequest(
    int? Program,
    IReadOnlyDictionary<string, string>? Values,
    IReadOnlyDictionary<string, string>? Schools,
    string? Into
);

/// <summary>Keeps a routine of a program in the workshop's library.</summary>
/// <param name="Program">The program, by its place; the one that runs when left out.</param>
/// <param name="Routine">Name of the routine.</param>
/// <param name="Note">What it is good for.</param>
/// <param name="Replace">True to take the place of one of that name.</param>
public sealed record KeepRoutineRequest(int? Program, string? Routine, string? Note, bool Replace);

/// <summary>A routine of the library.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Note">What it is good for.</param>
/// <param name="From">The rig it came from.</param>
/// <param name="KeptUtc">When it was kept.</param>
/// <param name="Needs">The names it asks of a rig.</param>
public sealed record LibraryRoutine(string Name, string Note, string From, DateTime KeptUtc, IReadOnlyList<string> Needs);

/// <summary>The library of patterns.</summary>
public static class PatternEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var patterns = api.MapGroup("/rigs/{id}/patterns").WithTags("Program");
        patterns
            .MapGet(
                "",
                async Task<IReadOnlyList<PatternView>> (
                    string id,
                    int? copy,
                    int? program,
                    RigStore store,
                    LessonStore lessons,
                    CancellationToken cancel
                ) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    var offered = await ProgramEndpoints.Offers(id, lessons, cancel);
                    var (name, readings) = (ProgramEndpoints.Read(state, program).Name, Readings(state));
                    var figures = PatternFigures.For(state.Design, state.Moves, state.Calibrations, readings);
                    var leasts = PatternFigures.LeastPowers(state.Design, state.Moves);
                    return
                    [
                        .. (await Kept(store, cancel))
                            .Concat(PatternLibrary.All)
                            .Select(p => PatternFitting.Fit(p, state.Design, name, readings, figures, leasts))
                            .Where(f => offered.Proposes(f, state.Design))
                            .Select(f => new PatternView(
                                f.Pattern.Id,
                                f.Pattern.Number,
                                f.Pattern.Name,
                                f.Pattern.When,
                                f.Pattern.Trap,
                                f.Pattern.Choices,
                                [
                                    .. f.Holes.Select(h => new HoleView(
                                        h.Hole.Id,
                                        h.Hole.Label,
                                        h.Hole.Kind,
                                        h.Hole.Of,
                                        h.Hole.Unit,
                                        h.Hole.Only,
                                        h.Options,
                                        h.Value,
                                        h.Source,
                                        h.Missing
                                    )),
                                ],
                                f.Pattern.Region == ""
                            )),
                    ];
                }
            )
            .WithName("listPatterns")
            .ProducesProblem(404);
        patterns
            .MapPost(
                "/{pattern}",
                async Task<PatternResult> (
                    string id,
                    string pattern,
                    FillPatternRequest request,
                    RigStore store,
                    CancellationToken cancel
                ) =>
                {
                    var state = await store.Load(id, null, null, cancel);
                    var found =
                        (await Kept(store, cancel)).Concat(PatternLibrary.All).FirstOrDefault(p => p.Id == pattern)
                        ?? throw new NotStored($"There is no pattern “{pattern}”.");
                    var read = ProgramEndpoints.Read(state, request.Program);
                    return PatternFitting.Insert(
                        found,
                        state.Design,
                        state.Design.ProgramAt(read.Index).Script,
                        request.Values ?? new Dictionary<string, string>(),
                        request.Schools ?? new Dictionary<string, string>(),
                        string.IsNullOrEmpty(request.Into) ? null : request.Into
                    );
                }
            )
            .WithName("fillPattern")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        api.MapPost(
                "/rigs/{id}/routines",
                async Task<LibraryRoutine> (string id, KeepRoutineRequest request, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, null, null, cancel);
                    var read = ProgramEndpoints.Read(state, request.Program);
                    if (read.Parsed.Diagnostics.Count > 0)
                        throw new InputProblem(
                            "routine",
                            $"Mend the program first: line {read.Parsed.Diagnostics[0].Line}: {read.Parsed.Diagnostics[0].Message}"
                        );
                    var kept = RoutineLibrary.Keep(
                        read.Parsed.Program,
                        request.Routine ?? "",
                        Vocabulary.Of(state.Design),
                        state.Design.Name,
                        request.Note ?? ""
                    );
                    await store.Library.KeepRoutine(kept, request.Replace, cancel);
                    return View((await store.Library.Routines(cancel)).Single(r => r.Routine.Name == kept.Name));
                }
            )
            .WithTags("Program")
            .WithName("keepRoutine")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        var routines = api.MapGroup("/routines").WithTags("Program");
        routines
            .MapGet(
                "",
                async Task<IReadOnlyList<LibraryRoutine>> (RigStore store, CancellationToken cancel) =>
                    [.. (await store.Library.Routines(cancel)).Select(View)]
            )
            .WithName("listRoutines");
        routines
            .MapDelete(
                "/{name}",
                async (string name, RigStore store, CancellationToken cancel) =>
                {
                    await store.Library.ForgetRoutine(name, cancel);
                    return Results.NoContent();
                }
            )
            .WithName("forgetRoutine")
            .Produces(204)
            .ProducesProblem(404);
    }

    private static LibraryRoutine View((long Id, DateTime TimeUtc, KeptRoutine Routine) r) =>
        new(r.Routine.Name, r.Routine.Note, r.Routine.From, r.TimeUtc, [.. r.Routine.Holes.Select(h => h.Was)]);

    private static async Task<IEnumerable<Pattern>> Kept(RigStore store, CancellationToken cancel) =>
        (await store.Library.Routines(cancel)).Select(r => RoutineLibrary.AsPattern(r.Routine, $"kept-{r.Id}"));

    /// <summary>Routines that came in a file are what this program could have kept.</summary>
    /// <exception cref="InputProblem">When one is not, naming the field.</exception>
    internal static void Check(IReadOnlyList<KeptRoutine> routines)
    {
        var need = new Require();
        need.That(routines.Count <= RoutineStore.MostRoutines, "routines", $"At most {RoutineStore.MostRoutines} routines.");
        for (var i = 0; i < Math.Min(routines.Count, RoutineStore.MostRoutines); i++)
        {
            var (r, at) = (routines[i], $"routines[{i}]");
            if (r is null)
            {
                need.That(false, at, "Give a routine.");
                continue;
            }
            need.That(
                r.Name is not null && ScriptParser.IsName(r.Name),
                $"{at}.name",
                "Letters, digits and single spaces, beginning with a letter."
            );
            need.That(
                r.Note is { Length: <= RoutineLibrary.LongestNote } && r.From is { Length: <= 60 },
                $"{at}.note",
                $"A note has at most {RoutineLibrary.LongestNote} characters, and the rig's name 60."
            );
            need.That(
                r.Body is { Length: > 0 and <= 50_000 }
                    && r.Head is { Length: <= 10_000 }
                    && r.Body.Contains("routine ", StringComparison.Ordinal),
                $"{at}.body",
                "The lines of a routine, in at most 50000 characters."
            );
            need.That(
                r.Holes.Count <= 200
                    && r.Holes.All(h =>
                        h?.Id is { Length: > 0 and <= 20 }
                        && h.Was is { Length: <= 60 }
                        && h.Like is { Length: <= 60 }
                        && Enum.IsDefined(h.Kind)
                        && (h.Of is null || r.Holes.Any(o => o?.Id == h.Of))
                    ),
                $"{at}.holes",
                "At most 200 holes, each with an id and what it was called."
            );
        }
        need.Done();
    }

    // Readings in a row that each sensor's zones need on this copy.
    private static IReadOnlyDictionary<string, int> Readings(RigState state) =>
        PatternFigures.ReadingsNeeded(state.Design, state.Calibrations);
}
