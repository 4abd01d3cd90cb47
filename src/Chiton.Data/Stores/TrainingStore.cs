using Chiton.Core.Classroom.Training;
using Chiton.Core.Quantities;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Exercises that were asked, and what their answers say of skills.</summary>
public sealed class TrainingStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most exercises that are asked and not answered, of one who practises: the earliest are forgotten.</summary>
    public const int MostOpen = 50;

    /// <summary>The exercise that was asked last; null when none was.</summary>
    /// <param name="team">The team; null for the desk.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<(ExerciseKind Kind, string Same)?> Last(long? team, CancellationToken cancel) =>
        await Db
            .Exercises.AsNoTracking()
            .Where(e => e.TeamId == team)
            .OrderByDescending(e => e.Id)
            .Select(e => new { e.Kind, e.Same })
            .FirstOrDefaultAsync(cancel)
            is { } last
            ? (last.Kind, last.Same)
            : null;

    /// <summary>What tells an exercise from another.</summary>
    public static string Same(Exercise exercise) => Documents.Hash(exercise.Key);

    /// <summary>Notes that an exercise is asked.</summary>
    /// <param name="team">The team; null for the desk.</param>
    /// <param name="exercise">The exercise.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Its key.</returns>
    public Task<long> Ask(long? team, Exercise exercise, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var open = await Db
                    .Exercises.Where(e => e.TeamId == team && e.AnsweredUtc == null)
                    .OrderByDescending(e => e.Id)
                    .Skip(MostOpen - 1)
                    .Select(e => e.Id)
                    .ToListAsync(cancel);
                await Db.Exercises.Where(e => open.Contains(e.Id)).ExecuteDeleteAsync(cancel);
                var row = new ExerciseRow
                {
                    TeamId = team,
                    Kind = exercise.Kind,
                    Same = Same(exercise),
                    Document = Documents.Write(exercise),
                    AskedUtc = Now,
                };
                Db.Exercises.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row.Id;
            },
            cancel
        );

    /// <summary>An answer: judged, and counted once.</summary>
    /// <param name="id">The exercise.</param>
    /// <param name="answer">The answer.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="NotStored">When there is no such exercise any more.</exception>
    /// <exception cref="InputProblem">When it was answered already, or this is no answer to it.</exception>
    public Task<(Exercise Exercise, Judged Judged)> Answer(long id, ExerciseAnswer answer, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Exercises.FirstOrDefaultAsync(e => e.Id == id, cancel)
                    ?? throw new NotStored("This exercise is gone. Take the next one.");
                if (row.AnsweredUtc is not null)
                    throw new InputProblem("exercise", "This was answered already. Take the next one.");
                var exercise = Documents.Read<Exercise>(row.Document);
                var judged = ExerciseJudge.Judge(exercise, answer);
                (row.AnsweredUtc, row.Right, row.Score) = (Now, judged.Right, judged.Score);
                // What was asked is needed no more; that it was, and how it went, is.
                row.Document = "";
                return (exercise, judged);
            },
            cancel
        );

    /// <summary>What is known of skills, of several who practise.</summary>
    /// <param name="teams">The teams; null for the desk alone.</param>
    /// <param name="cancel">Gives up.</param>
    /// <returns>Every kind, by the team; 0 for the desk.</returns>
    public async Task<IReadOnlyDictionary<long, IReadOnlyList<Skill>>> Skills(IReadOnlyCollection<long>? teams, CancellationToken cancel)
    {
        var rows = await Db
            .Exercises.AsNoTracking()
            .Where(e => e.AnsweredUtc != null && (teams == null ? e.TeamId == null : e.TeamId != null && teams.Contains(e.TeamId.Value)))
            .OrderBy(e => e.AnsweredUtc)
            .ThenBy(e => e.Id)
            .Select(e => new
            {
                e.TeamId,
                e.Kind,
                e.Right,
                e.AnsweredUtc,
            })
            .ToListAsync(cancel);
        var of = rows.ToLookup(r => (r.TeamId ?? 0, r.Kind));
        return (teams ?? [0]).ToDictionary(
            t => t,
            t =>
                (IReadOnlyList<Skill>)
                    [
                        .. Enum.GetValues<ExerciseKind>()
                            .Select(k => Mastery.Of(k, of[(t, k)].Select(r => new Practice(r.Right, Utc(r.AnsweredUtc!.Value))), Now)),
                    ]
        );
    }

    /// <summary>How good forecasts were, the earliest first.</summary>
    /// <param name="team">The team; null for the desk.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<List<double>> Forecasts(long? team, CancellationToken cancel) =>
        Db
            .Exercises.AsNoTracking()
            .Where(e => e.TeamId == team && e.Kind == ExerciseKind.Rate && e.AnsweredUtc != null)
            .OrderBy(e => e.Id)
            .Select(e => e.Score)
            .ToListAsync(cancel);
}
