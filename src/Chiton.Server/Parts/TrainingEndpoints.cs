using Chiton.Core.Classroom.Training;
using Chiton.Core.Quantities;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>A skill as it is shown.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Name">Its name.</param>
/// <param name="Say">How it stands, in a few words.</param>
/// <param name="Sure">How sure it is that it is there, 0 to 1.</param>
/// <param name="Asked">How many answers were given.</param>
public sealed record SkillView(ExerciseKind Kind, string Name, string Say, double Sure, int Asked)
{
    internal static SkillView Of(Skill s) => new(s.Kind, Mastery.Name(s.Kind), s.Say, Math.Round(s.Sure, 3), s.Asked);
}

/// <summary>What whoever asks has practised.</summary>
/// <param name="Skills">The seven skills.</param>
/// <param name="Rigs">Rigs that exercises are made of.</param>
/// <param name="Forecasts">How good each forecast was, the earliest first, 0 to 1: one less the Brier score.</param>
public sealed record TrainingView(IReadOnlyList<SkillView> Skills, IReadOnlyList<RigName> Rigs, IReadOnlyList<double> Forecasts);

/// <summary>Asks for an exercise.</summary>
/// <param name="Kind">Which kind, as next or trace; chosen by what is due when left out.</param>
/// <param name="Rig">Address of the rig; any at hand when left out.</param>
public sealed record ExerciseRequest(string? Kind = null, string? Rig = null);

/// <summary>An exercise without its answer.</summary>
/// <param name="Id">Key, for the answer.</param>
/// <param name="Kind">Its kind.</param>
/// <param name="Name">What the kind is called.</param>
/// <param name="Why">Why this kind comes now; empty where it was asked for.</param>
/// <param name="Rig">The rig that it is made of.</param>
/// <param name="Ask">The question.</param>
/// <param name="Program">Lines of the program that are shown.</param>
/// <param name="Facts">What else is known.</param>
/// <param name="Options">What can be chosen; empty for other kinds.</param>
/// <param name="Events">Of a trace: what happens.</param>
/// <param name="States">Of a trace: the states there are.</param>
/// <param name="Unit">Of a number: its unit; null for other kinds.</param>
/// <param name="Dots">Of a threshold: the readings; null for other kinds.</param>
/// <param name="Percent">True where a share of 100 is asked for.</param>
public sealed record ExerciseView(
    long Id,
    ExerciseKind Kind,
    string Name,
    string Why,
    string Rig,
    string Ask,
    IReadOnlyList<string> Program,
    IReadOnlyList<string> Facts,
    IReadOnlyList<string> Options,
    IReadOnlyList<string> Events,
    IReadOnlyList<string> States,
    string? Unit,
    DotsView? Dots,
    bool Percent
)
{
    internal static ExerciseView Of(long id, Exercise e, string why) =>
        new(
            id,
            e.Kind,
            Mastery.Name(e.Kind),
            why,
            e.Rig,
            e.Ask,
            e.Program,
            e.Facts,
            [.. e.Options.Select(o => o.Text)],
            e.Trace?.Events ?? [],
            e.Trace?.States ?? [],
            e.Number?.Unit,
            e.Dots is { } d ? new(d.Sensor, d.Unit, d.Lower, d.Upper, d.LowerReadings, d.UpperReadings) : null,
            e.Rate is not null
        );
}

/// <summary>Readings of two zones.</summary>
/// <param name="Sensor">The sensor.</param>
/// <param name="Unit">Unit of its readings.</param>
/// <param name="Lower">The zone that reads lower.</param>
/// <param name="Upper">The zone that reads higher.</param>
/// <param name="LowerReadings">Its readings.</param>
/// <param name="UpperReadings">The other's.</param>
public sealed record DotsView(
    string Sensor,
    string Unit,
    string Lower,
    string Upper,
    IReadOnlyList<double> LowerReadings,
    IReadOnlyList<double> UpperReadings
);

/// <summary>Answers an exercise.</summary>
/// <param name="Choice">The option, from 0.</param>
/// <param name="Steps">Of a trace: the state after each event, by its place.</param>
/// <param name="Number">The number, the threshold, or how many of 100.</param>
public sealed record AnswerRequest(int? Choice = null, IReadOnlyList<int>? Steps = null, double? Number = null);

/// <summary>What an answer was worth, with the answer and the reason.</summary>
/// <param name="Right">True where it was right.</param>
/// <param name="Score">How good it was, 0 to 1.</param>
/// <param name="Say">So, in a sentence.</param>
/// <param name="Reason">The reason.</param>
/// <param name="Choice">The right option; −1 for other kinds.</param>
/// <param name="Why">Of each option why it is right or not.</param>
/// <param name="Steps">Of a trace: the right states.</param>
/// <param name="StepsWhy">Of a trace: what happened at each event.</param>
/// <param name="FirstSlip">Of a trace: the first event that went wrong; −1 for none.</param>
/// <param name="Best">Of a threshold: the best one; null for other kinds.</param>
/// <param name="Skill">How the skill stands now.</param>
public sealed record AnswerView(
    bool Right,
    double Score,
    string Say,
    string Reason,
    int Choice,
    IReadOnlyList<string> Why,
    IReadOnlyList<int> Steps,
    IReadOnlyList<string> StepsWhy,
    int FirstSlip,
    double? Best,
    SkillView Skill
);

/// <summary>Skills of the teams of a class.</summary>
/// <param name="Skills">The skills, in the order of the columns.</param>
/// <param name="Teams">A line a team.</param>
public sealed record SkillTable(IReadOnlyList<string> Skills, IReadOnlyList<TeamSkills> Teams);

/// <summary>A team's skills.</summary>
/// <param name="Team">Key.</param>
/// <param name="Name">Its name.</param>
/// <param name="Table">Its table.</param>
/// <param name="Skills">The seven.</param>
public sealed record TeamSkills(long Team, string Name, int Table, IReadOnlyList<SkillView> Skills);

/// <summary>A sheet of exercises to print, with the answers for its back.</summary>
/// <param name="Exercises">The exercises.</param>
/// <param name="Answers">An answer each.</param>
public sealed record ExerciseSheet(IReadOnlyList<ExerciseView> Exercises, IReadOnlyList<string> Answers);

/// <summary>The trainer: one exercise after the other.</summary>
public static class TrainingEndpoints
{
    /// <summary>Most exercises of a sheet.</summary>
    public const int MostOfSheet = 12;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var training = api.MapGroup("/training").WithTags("Class");
        training.MapGet("", View).WithName("getTraining");
        training.MapPost("/next", Next).WithName("nextExercise").ProducesValidationProblem().ProducesProblem(404);
        training.MapPost("/{exercise:long}", Answer).WithName("answerExercise").ProducesValidationProblem().ProducesProblem(404);
        training.MapPost("/sheet", Sheet).WithName("makeExerciseSheet").ProducesValidationProblem().ProducesProblem(404);
        api.MapGet("/classes/{id:long}/skills", Table).WithTags("Class").WithName("getClassSkills").ProducesProblem(404);
    }

    private static ExerciseKind? Kind(string? said) =>
        said is null or ""
            ? null
            : Enum.GetValues<ExerciseKind>()
                .Cast<ExerciseKind?>()
                .FirstOrDefault(k => k.ToString()!.Equals(said, StringComparison.OrdinalIgnoreCase))
                ?? throw new InputProblem(
                    "kind",
                    $"Must be one of {Figures.List(Enum.GetNames<ExerciseKind>().Select(n => n.ToLowerInvariant()))}."
                );

    private static async Task<TrainingView> View(Caller caller, TrainingStore store, RigStore rigs, CancellationToken cancel) =>
        new(
            [.. (await Skills(caller, store, cancel)).Select(SkillView.Of)],
            [.. (await rigs.List(cancel)).Where(r => !r.Rig.Archived).Select(r => new RigName(r.Rig.Id, r.Design.Design.Name))],
            await store.Forecasts(caller.Team, cancel)
        );

    private static async Task<IReadOnlyList<Skill>> Skills(Caller caller, TrainingStore store, CancellationToken cancel) =>
        (await store.Skills(caller.Team is { } team ? [team] : null, cancel))[caller.Team ?? 0];

    private static async Task<ExerciseView> Next(
        ExerciseRequest request,
        Caller caller,
        TrainingStore store,
        Exercises exercises,
        CancellationToken cancel
    )
    {
        var wanted = Kind(request.Kind);
        var rig = string.IsNullOrEmpty(request.Rig) ? null : request.Rig;
        var last = await store.Last(caller.Team, cancel);
        var open = (await Skills(caller, store, cancel)).ToList();
        while (open.Count > 0)
        {
            var (kind, why) = wanted is { } one ? (one, "") : Mastery.Next(open, last?.Kind);
            if (await exercises.Make(kind, rig, last?.Same, cancel) is { } made)
                return ExerciseView.Of(await store.Ask(caller.Team, made, cancel), made, why);
            if (wanted is not null)
                break;
            // No rig at hand gives one of these: the next best.
            open.RemoveAll(s => s.Kind == kind);
        }
        throw new NotStored(
            wanted is { } asked
                ? $"None of the rigs at hand gives an exercise of “{Mastery.Name(asked)}”. Choose another kind or another rig."
                : "No rig at hand gives an exercise: one with a program that can be read is needed."
        );
    }

    private static async Task<AnswerView> Answer(
        long exercise,
        AnswerRequest request,
        Caller caller,
        TrainingStore store,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var (asked, judged) = await store.Answer(exercise, new(request.Choice, request.Steps, request.Number), cancel);
        tell.Board();
        return new(
            judged.Right,
            Math.Round(judged.Score, 4),
            judged.Say,
            asked.Reason,
            asked.Right,
            [.. asked.Options.Select(o => o.Why)],
            asked.Trace?.Right ?? [],
            asked.Trace?.Why ?? [],
            judged.FirstSlip ?? -1,
            asked.Dots?.Best,
            SkillView.Of((await Skills(caller, store, cancel)).First(s => s.Kind == asked.Kind))
        );
    }

    // A sheet counts for no skill: nobody knows who filled it in.
    private static async Task<ExerciseSheet> Sheet(
        SheetRequest request,
        Caller caller,
        TrainingStore store,
        Exercises exercises,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var count = need.Whole(request.Count ?? 6, "count", 1, MostOfSheet);
        need.Done();
        var wanted = Kind(request.Kind);
        var rig = string.IsNullOrEmpty(request.Rig) ? null : request.Rig;
        var kinds = wanted is { } one ? [one] : Enum.GetValues<ExerciseKind>();
        var made = new List<Exercise>();
        for (var i = 0; i < 3 * count && made.Count < count; i++)
            if (
                await exercises.Make(kinds[i % kinds.Length], rig, made.Count > 0 ? TrainingStore.Same(made[^1]) : null, cancel) is { } next
                && made.All(m => m.Key != next.Key)
            )
                made.Add(next);
        if (made.Count == 0)
            throw new NotStored("No rig at hand gives an exercise: one with a program that can be read is needed.");
        return new([.. made.Select((m, i) => ExerciseView.Of(i + 1, m, ""))], [.. made.Select(ExerciseWords.Answer)]);
    }

    private static async Task<SkillTable> Table(long id, ClassStore classes, TrainingStore store, CancellationToken cancel)
    {
        await classes.Class(id, cancel);
        var teams = await classes.Teams(id, cancel);
        var skills = await store.Skills([.. teams.Select(t => t.Id)], cancel);
        return new(
            [.. Enum.GetValues<ExerciseKind>().Select(Mastery.Name)],
            [.. teams.Select(t => new TeamSkills(t.Id, t.Name, t.Table, [.. skills[t.Id].Select(SkillView.Of)]))]
        );
    }
}

/// <summary>Asks for a sheet of exercises.</summary>
/// <param name="Count">How many, 1 to 12; 6 when left out.</param>
/// <param name="Kind">Of which kind; of all in turn when left out.</param>
/// <param name="Rig">Address of the rig; any at hand when left out.</param>
public sealed record SheetRequest(double? Count = null, string? Kind = null, string? Rig = null);
