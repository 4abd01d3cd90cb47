using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A lesson that was handed out to a team.</summary>
/// <param name="Row">Its row.</param>
/// <param name="Lesson">The lesson as the team has it.</param>
public sealed record Assignment(AssignmentRow Row, Lesson Lesson);

/// <summary>What was known of a rig when it was handed in.</summary>
/// <param name="Rig">Name of the rig.</param>
/// <param name="Kind">Whether the copy was real or a stand-in.</param>
/// <param name="Calibrations">Its calibrations with their versions, as "Tag eye 3".</param>
/// <param name="Proof">Number of the proof; null where nothing was counted.</param>
/// <param name="Scene">The scene that was counted.</param>
/// <param name="Runs">Runs counted.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Low">Lower end of the copy's range, 0 to 1.</param>
/// <param name="High">Upper end of it.</param>
/// <param name="TableRuns">Runs logged on a table.</param>
/// <param name="TablePasses">Of them passed.</param>
/// <param name="LastLine">The last line of the log, in words; empty where there is none.</param>
/// <param name="Hints">Hints that were open.</param>
/// <param name="Different">Sentences that differ from what was handed out.</param>
/// <param name="Met">Whether what counts as done was met; null where only the educator can say.</param>
public sealed record HandedIn(
    string Rig,
    string Kind,
    IReadOnlyList<string> Calibrations,
    long? Proof,
    string Scene,
    int Runs,
    int Passes,
    double Low,
    double High,
    int TableRuns,
    int TablePasses,
    string LastLine,
    int Hints,
    int Different,
    bool? Met
);

/// <summary>Lessons that were handed out, what is offered of their changes, and what was handed in.</summary>
public sealed class LessonStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most rows that a team hands in of one lesson.</summary>
    public const int MostHandIns = 100;

    /// <summary>What addresses name by keys: a lesson that was handed out, an offer, something that was handed in, an
    /// exercise.</summary>
    public static IReadOnlyList<string> Keys { get; } = ["assignment", "offer", "handIn", "exercise"];

    /// <summary>The team that one of them belongs to; null where there is none of that key.</summary>
    /// <param name="of">Which of <see cref="Keys"/>.</param>
    /// <param name="key">Its key.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<long?> OwnerOf(string of, long key, CancellationToken cancel) =>
        (
            of switch
            {
                "assignment" => Db.Assignments.Where(a => a.Id == key).Select(a => (long?)a.TeamId),
                "offer" => Db.Offers.Where(o => o.Id == key).Select(o => (long?)o.TeamId),
                "exercise" => Db.Exercises.Where(e => e.Id == key).Select(e => e.TeamId),
                _ => Db.HandIns.Where(h => h.Id == key).Select(h => (long?)h.TeamId),
            }
        ).FirstOrDefaultAsync(cancel);

    private static Assignment Read(AssignmentRow row) => new(row, Documents.Read<Lesson>(row.Document));

    /// <summary>What was handed out to a team, the latest first.</summary>
    public async Task<IReadOnlyList<Assignment>> Of(long team, CancellationToken cancel) =>
        [
            .. (await Db.Assignments.AsNoTracking().Where(a => a.TeamId == team).OrderByDescending(a => a.Id).ToListAsync(cancel)).Select(
                Read
            ),
        ];

    /// <summary>What was handed out to the teams of a class, in the order it was.</summary>
    public async Task<IReadOnlyList<Assignment>> OfClass(long room, CancellationToken cancel) =>
        [
            .. (
                await Db
                    .Assignments.AsNoTracking()
                    .Where(a => Db.Teams.Any(t => t.Id == a.TeamId && t.ClassId == room))
                    .OrderBy(a => a.Id)
                    .ToListAsync(cancel)
            ).Select(Read),
        ];

    /// <summary>One of them.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<Assignment> One(long id, CancellationToken cancel) =>
        await Db.Assignments.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id, cancel) is { } row
            ? Read(row)
            : throw new NotStored("There is no such lesson.");

    /// <summary>The lesson that a rig is of; null where it is of none.</summary>
    public async Task<Lesson?> ForRig(string rig, CancellationToken cancel) =>
        await Db.Assignments.AsNoTracking().Where(a => a.RigId == rig).OrderByDescending(a => a.Id).FirstOrDefaultAsync(cancel) is { } row
            ? Documents.Read<Lesson>(row.Document)
            : null;

    /// <summary>Hands a lesson out to a team: with a rig of its own, made from the rig of the lesson as it is now.</summary>
    /// <param name="course">Address of the course.</param>
    /// <param name="version">The version of it.</param>
    /// <param name="lesson">The lesson.</param>
    /// <param name="team">The team.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="revision">The revision of the rig; the current one when left out.</param>
    /// <exception cref="InputProblem">When the team has it already.</exception>
    public Task<AssignmentRow> HandOut(
        string course,
        int version,
        Lesson lesson,
        long team,
        CancellationToken cancel,
        int? revision = null
    ) =>
        Write(
            async () =>
            {
                var classes = new ClassStore(Db, Clock);
                var to = await classes.Team(team, cancel);
                if (await Db.Assignments.AnyAsync(a => a.TeamId == team && a.CourseId == course && a.Lesson == lesson.Name, cancel))
                    throw new InputProblem("teams", $"{to.Name} has this lesson already. Offer it what has changed instead.");
                var rig =
                    lesson.Rig == "" ? null : await classes.HandOut(lesson.Rig, team, cancel, revision, d => LessonStart.Of(d, lesson));
                var row = new AssignmentRow
                {
                    TeamId = team,
                    CourseId = course,
                    Version = version,
                    Lesson = lesson.Name,
                    Document = Documents.Write(lesson),
                    RigId = rig,
                    TimeUtc = Now,
                };
                Db.Assignments.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row;
            },
            cancel
        );

    private Task<AssignmentRow> Change(long id, Action<AssignmentRow, Lesson> change, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Assignments.FirstOrDefaultAsync(a => a.Id == id, cancel) ?? throw new NotStored("There is no such lesson.");
                change(row, Documents.Read<Lesson>(row.Document));
                return row;
            },
            cancel
        );

    /// <summary>Opens the next hint.</summary>
    /// <param name="id">What was handed out.</param>
    /// <param name="number">Which, from 1: the same asked for twice opens one.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<AssignmentRow> OpenHint(long id, int number, CancellationToken cancel) =>
        Change(
            id,
            (row, lesson) =>
            {
                if (number < 1 || number > lesson.Hints.Count || number > row.Hints + 1)
                    throw new InputProblem("number", "Hints open one by one, the first first.");
                row.Hints = Math.Max(row.Hints, number);
            },
            cancel
        );

    /// <summary>A team that brings its own rig says which.</summary>
    public Task<AssignmentRow> Choose(long id, string rig, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var at = await One(id, cancel);
                if (at.Lesson.Rig != "")
                    throw new InputProblem("rig", "This lesson brings its own rig.");
                if (!await Db.Rigs.AnyAsync(r => r.Id == rig && r.TeamId == at.Row.TeamId, cancel))
                    throw new InputProblem("rig", "Choose a rig of your own.");
                return await Change(id, (row, _) => row.RigId = rig, cancel);
            },
            cancel
        );

    /// <summary>Offers a change to teams; an open offer of the same is taken back.</summary>
    public Task<int> Offer(IReadOnlyList<OfferRow> offers, CancellationToken cancel) =>
        Write(
            async () =>
            {
                foreach (var offer in offers)
                {
                    await Db
                        .Offers.Where(o =>
                            o.TeamId == offer.TeamId
                            && o.State == OfferState.Open
                            && (
                                o.Document == offer.Document && o.RigId == offer.RigId
                                || o.AssignmentId != null && o.AssignmentId == offer.AssignmentId
                            )
                        )
                        .ExecuteDeleteAsync(cancel);
                    offer.TimeUtc = Now;
                    Db.Offers.Add(offer);
                }
                return offers.Count;
            },
            cancel
        );

    /// <summary>What is offered to a team and what became of it, the earliest first.</summary>
    public Task<List<OfferRow>> Offers(long team, CancellationToken cancel) =>
        Db.Offers.AsNoTracking().Where(o => o.TeamId == team).OrderBy(o => o.Id).ToListAsync(cancel);

    /// <summary>What is offered to the teams of a class.</summary>
    public Task<List<OfferRow>> OffersOf(long room, CancellationToken cancel) =>
        Db
            .Offers.AsNoTracking()
            .Where(o => Db.Teams.Any(t => t.Id == o.TeamId && t.ClassId == room))
            .OrderBy(o => o.Id)
            .ToListAsync(cancel);

    /// <summary>An offer.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<OfferRow> OfferOf(long id, CancellationToken cancel) =>
        await Db.Offers.AsNoTracking().FirstOrDefaultAsync(o => o.Id == id, cancel)
        ?? throw new NotStored("There is no such offer any more.");

    /// <summary>A team takes an offer, or leaves it.</summary>
    /// <param name="id">The offer.</param>
    /// <param name="take">True to take it.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>The offer, and the rig's current revision; null where no program changed.</returns>
    /// <exception cref="InputProblem">When it does not fit the program any more, or was decided already.</exception>
    public Task<(OfferRow Offer, int? Revision)> Decide(long id, bool take, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var offer =
                    await Db.Offers.FirstOrDefaultAsync(o => o.Id == id, cancel) ?? throw new NotStored("There is no such offer any more.");
                if (offer.State != OfferState.Open)
                    throw new InputProblem("offer", $"This was {(offer.State == OfferState.Taken ? "taken" : "left")} already.");
                int? revision = null;
                if (take && offer.AssignmentId is { } at)
                {
                    var row = await Db.Assignments.FirstAsync(a => a.Id == at, cancel);
                    // The hints that are open stay so, as far as there still are as many.
                    var lesson = Documents.Read<Lesson>(offer.Document);
                    (row.Document, row.Version, row.Lesson) = (offer.Document, offer.Version, lesson.Name);
                    row.Hints = Math.Min(row.Hints, lesson.Hints.Count);
                }
                else if (take && offer.RigId is { } rig)
                {
                    var (head, now) = await Head(rig, cancel);
                    var design = Designs.Read(now.Document);
                    var main = design.MainProgram;
                    var text = design.ProgramAt(main);
                    var (program, _) = LineOffers.Take(text, Vocabulary.For(design, text), Documents.Read<LineOffer>(offer.Document));
                    revision = await Revise(head, design.WithProgram(main, program), $"took over: {offer.Say}", cancel);
                }
                offer.State = take ? OfferState.Taken : OfferState.Left;
                return (offer, revision);
            },
            cancel
        );

    /// <summary>Keeps what was handed in.</summary>
    /// <exception cref="InputProblem">When it was handed in too often.</exception>
    public Task<HandInRow> HandIn(HandInRow row, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var count = await Db.HandIns.CountAsync(h => h.AssignmentId == row.AssignmentId, cancel);
                if (count >= MostHandIns)
                    throw new InputProblem("says", $"This was handed in {MostHandIns} times; that is enough.");
                (row.Number, row.TimeUtc) = (count + 1, Now);
                Db.HandIns.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row;
            },
            cancel
        );

    /// <summary>What a team handed in, the latest first.</summary>
    public Task<List<HandInRow>> HandIns(long team, CancellationToken cancel) =>
        Db.HandIns.AsNoTracking().Where(h => h.TeamId == team).OrderByDescending(h => h.Id).ToListAsync(cancel);

    /// <summary>What the teams of a class handed in, the latest first.</summary>
    public Task<List<HandInRow>> HandInsOf(long room, CancellationToken cancel) =>
        Db
            .HandIns.AsNoTracking()
            .Where(h => Db.Teams.Any(t => t.Id == h.TeamId && t.ClassId == room))
            .OrderByDescending(h => h.Id)
            .ToListAsync(cancel);

    /// <summary>One of them.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<HandInRow> HandInOf(long id, CancellationToken cancel) =>
        await Db.HandIns.AsNoTracking().FirstOrDefaultAsync(h => h.Id == id, cancel)
        ?? throw new NotStored("Nothing of that was handed in.");

    /// <summary>Keeps marks.</summary>
    /// <param name="id">What was handed in.</param>
    /// <param name="levels">A level for each row of the rubric; null where it is not marked.</param>
    /// <param name="educator">True for the educator's, false for the team's own.</param>
    /// <param name="note">What the educator says to it; as it is when null.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<HandInRow> Mark(long id, IReadOnlyList<int?> levels, bool educator, string? note, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.HandIns.FirstOrDefaultAsync(h => h.Id == id, cancel) ?? throw new NotStored("Nothing of that was handed in.");
                if (educator)
                    row.EducatorMarks = Documents.Write(levels);
                else
                    row.TeamMarks = Documents.Write(levels);
                row.Note = note ?? row.Note;
                return row;
            },
            cancel
        );
}
