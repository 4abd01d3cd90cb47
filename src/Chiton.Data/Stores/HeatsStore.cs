using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A team of heats.</summary>
/// <param name="Team">Its key; 0 once the team is deleted.</param>
/// <param name="Name">Its name.</param>
/// <param name="Rig">Address of the rig that it enters; null for none.</param>
public sealed record HeatEntry(long Team, string Name, string? Rig);

/// <summary>Something that happened in heats, with when and by whom.</summary>
/// <param name="Event">What.</param>
/// <param name="TimeUtc">When.</param>
/// <param name="Who">Who wrote it down.</param>
public sealed record WrittenEvent(HeatEvent Event, DateTime TimeUtc, string Who);

/// <summary>Heats as they stand.</summary>
/// <param name="Row">Their row.</param>
/// <param name="Challenge">The challenge as it was when they began.</param>
/// <param name="Entries">The teams in their order.</param>
/// <param name="Events">What happened, the first first.</param>
/// <param name="Standing">What follows from it.</param>
public sealed record KeptHeats(
    HeatsRow Row,
    Challenge Challenge,
    IReadOnlyList<HeatEntry> Entries,
    IReadOnlyList<WrittenEvent> Events,
    HeatsNow Standing
)
{
    /// <summary>What the bench said of the machines; null until it was asked.</summary>
    public ContestRuns? Runs => Row.Runs == "" ? null : Documents.Read<ContestRuns>(Row.Runs);
}

/// <summary>Heats of classes. What happened in them is written down and never changed.</summary>
public sealed class HeatsStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most heats of a class.</summary>
    public const int MostOfClass = 50;

    /// <summary>Most that is written down in heats of one challenge.</summary>
    public const int MostEvents = 1000;

    /// <summary>What a team that was deleted is called.</summary>
    public const string Gone = "a team that is gone";

    /// <summary>The heats of a class, the latest first.</summary>
    public async Task<IReadOnlyList<KeptHeats>> OfClass(long id, CancellationToken cancel)
    {
        var rows = await Db.Heats.AsNoTracking().Where(h => h.ClassId == id).OrderByDescending(h => h.Id).ToListAsync(cancel);
        var keys = rows.Select(r => r.Id).ToArray();
        var events = (
            await Db.HeatEvents.AsNoTracking().Where(e => keys.Contains(e.HeatsId)).OrderBy(e => e.Id).ToListAsync(cancel)
        ).ToLookup(e => e.HeatsId);
        return [.. rows.Select(r => Of(r, events[r.Id]))];
    }

    /// <summary>True once heats of a class have begun.</summary>
    public Task<bool> Any(long id, CancellationToken cancel) => Db.Heats.AnyAsync(h => h.ClassId == id, cancel);

    /// <summary>Heats as they stand.</summary>
    /// <exception cref="NotStored">When there are none.</exception>
    public async Task<KeptHeats> Heats(long id, CancellationToken cancel)
    {
        var row =
            await Db.Heats.AsNoTracking().FirstOrDefaultAsync(h => h.Id == id, cancel) ?? throw new NotStored("There are no such heats.");
        return Of(row, await Db.HeatEvents.AsNoTracking().Where(e => e.HeatsId == id).OrderBy(e => e.Id).ToListAsync(cancel));
    }

    /// <summary>The class that heats belong to; null where there are none.</summary>
    public Task<long?> ClassOf(long id, CancellationToken cancel) =>
        Db.Heats.AsNoTracking().Where(h => h.Id == id).Select(h => (long?)h.ClassId).FirstOrDefaultAsync(cancel);

    private static KeptHeats Of(HeatsRow row, IEnumerable<HeatEventRow> rows)
    {
        var challenge = Documents.Read<Challenge>(row.Document);
        var entries = Documents.Read<List<HeatEntry>>(row.Entries);
        WrittenEvent[] events =
        [
            .. rows.Select(e => new WrittenEvent(Documents.Read<HeatEvent>(e.Document) with { Id = e.Id }, Utc(e.TimeUtc), e.Who)),
        ];
        return new(row, challenge, entries, events, Tournament.Of(challenge, row.LimitS, entries.Count, [.. events.Select(e => e.Event)]));
    }

    /// <summary>Begins heats: every pair of teams once.</summary>
    /// <param name="id">The class.</param>
    /// <param name="challenge">The challenge.</param>
    /// <param name="limitS">How long a run of it lasts at most, s.</param>
    /// <param name="teams">Keys of the teams, in the order in which they are drawn.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Their key.</returns>
    /// <exception cref="InputProblem">When there are too few or too many teams, or one is of no such class.</exception>
    public Task<long> Begin(long id, Challenge challenge, double limitS, IReadOnlyList<long> teams, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var classes = new ClassStore(Db, Clock);
                await classes.Class(id, cancel);
                if (teams.Count is < Core.Classroom.Heats.Least or > Core.Classroom.Heats.Most)
                    throw new InputProblem(
                        "teams",
                        $"{Core.Classroom.Heats.Least} to {Core.Classroom.Heats.Most} teams meet; here are {teams.Count}."
                    );
                if (teams.Distinct().Count() != teams.Count)
                    throw new InputProblem("teams", "Each team once.");
                if (await Db.Heats.CountAsync(h => h.ClassId == id, cancel) >= MostOfClass)
                    throw new InputProblem("challenge", $"A class holds heats of at most {MostOfClass} challenges. Take some out first.");
                var there = (await classes.Teams(id, cancel)).ToDictionary(t => t.Id);
                var rigs = (await classes.Rigs(id, cancel)).ToLookup(r => r.Team);
                var changed = await classes.Changed(id, cancel);
                var entries = teams
                    .Select(t =>
                        there.TryGetValue(t, out var team)
                            ? new HeatEntry(
                                t,
                                team.Name,
                                // The rig that the scene was written for, else what it worked on last.
                                rigs[t]
                                    .OrderByDescending(r => r.OriginRig == challenge.Rig)
                                    .ThenByDescending(r => changed.GetValueOrDefault(r.Id))
                                    .FirstOrDefault()
                                    ?.Id
                            )
                            : throw new InputProblem("teams", "A team is not of this class.")
                    )
                    .ToList();
                var row = new HeatsRow
                {
                    ClassId = id,
                    Document = Documents.Write(challenge),
                    LimitS = limitS,
                    Entries = Documents.Write(entries),
                    CreatedUtc = Now,
                };
                Db.Heats.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row.Id;
            },
            cancel
        );

    /// <summary>Writes down what happened.</summary>
    /// <param name="id">The heats.</param>
    /// <param name="happened">What; its number is given here.</param>
    /// <param name="who">Who writes it down.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When it cannot have happened as things stand.</exception>
    public Task Add(long id, HeatEvent happened, string who, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var now = await Heats(id, cancel);
                if (now.Events.Count >= MostEvents)
                    throw new InputProblem("heat", $"At most {MostEvents} things are written down of one tournament.");
                Tournament.Check(
                    now.Challenge,
                    now.Row.LimitS,
                    [.. now.Entries.Select(e => e.Name)],
                    [.. now.Events.Select(e => e.Event)],
                    happened
                );
                Db.HeatEvents.Add(
                    new()
                    {
                        HeatsId = id,
                        Document = Documents.Write(happened with { Id = 0 }),
                        Who = who,
                        TimeUtc = Now,
                    }
                );
                return 0;
            },
            cancel
        );

    /// <summary>Enters another rig for a team; what the bench said counts no more.</summary>
    /// <param name="id">The heats.</param>
    /// <param name="team">The team, by its place in the list.</param>
    /// <param name="rig">Address of the rig; null for none.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When it is not that team's.</exception>
    public Task Enter(long id, int team, string? rig, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Row(id, cancel);
                var entries = Documents.Read<List<HeatEntry>>(row.Entries);
                if (team < 0 || team >= entries.Count)
                    throw new InputProblem("team", "There is no such team in it.");
                var key = entries[team].Team;
                if (rig is not null && !await Db.Rigs.AnyAsync(r => r.Id == rig && r.TeamId == key, cancel))
                    throw new InputProblem("rig", $"{entries[team].Name} has no such rig.");
                entries[team] = entries[team] with { Rig = rig };
                (row.Entries, row.Runs, row.RunsUtc) = (Documents.Write(entries), "", null);
                return 0;
            },
            cancel
        );

    /// <summary>Keeps what the bench said of the machines.</summary>
    /// <param name="id">The heats.</param>
    /// <param name="entries">The teams and rigs that were asked about; where they are others by now, nothing is kept.</param>
    /// <param name="runs">What it said.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>True where it was kept.</returns>
    public Task<bool> Keep(long id, IReadOnlyList<HeatEntry> entries, ContestRuns runs, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Row(id, cancel);
                if (row.Entries != Documents.Write(entries))
                    return false;
                (row.Runs, row.RunsUtc) = (Documents.Write(runs), Now);
                return true;
            },
            cancel
        );

    /// <summary>Takes heats out in which nothing has happened yet.</summary>
    /// <exception cref="InputProblem">When something has.</exception>
    public Task Drop(long id, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Row(id, cancel);
                if (await Db.HeatEvents.AnyAsync(e => e.HeatsId == id, cancel))
                    throw new InputProblem("heats", "Something was written down of them: they stay with the class.");
                Db.Heats.Remove(row);
                return 0;
            },
            cancel
        );

    private async Task<HeatsRow> Row(long id, CancellationToken cancel) =>
        await Db.Heats.FirstOrDefaultAsync(h => h.Id == id, cancel) ?? throw new NotStored("There are no such heats.");

    /// <summary>Takes teams out of heats: their names and rigs go, their places stay as of teams that withdrew.</summary>
    /// <param name="teams">Keys of the teams.</param>
    /// <param name="cancel">Gives up.</param>
    internal async Task Forget(IReadOnlyCollection<long> teams, CancellationToken cancel)
    {
        var classes = await Db.Teams.Where(t => teams.Contains(t.Id)).Select(t => t.ClassId).Distinct().ToListAsync(cancel);
        foreach (var row in await Db.Heats.Where(h => classes.Contains(h.ClassId)).ToListAsync(cancel))
        {
            var entries = Documents.Read<List<HeatEntry>>(row.Entries);
            if (!entries.Any(e => teams.Contains(e.Team)))
                continue;
            var now = await Heats(row.Id, cancel);
            for (var i = 0; i < entries.Count; i++)
            {
                if (!teams.Contains(entries[i].Team))
                    continue;
                entries[i] = new(0, Gone, null);
                if (!now.Standing.Withdrawn.Contains(i))
                    Db.HeatEvents.Add(
                        new()
                        {
                            HeatsId = row.Id,
                            Document = Documents.Write(new HeatEvent(0, HeatEventKind.Withdrew, Team: i)),
                            Who = "desk",
                            TimeUtc = Now,
                        }
                    );
            }
            (row.Entries, row.Runs, row.RunsUtc) = (Documents.Write(entries), "", null);
        }
        await Db.SaveChangesAsync(cancel);
    }
}

/// <summary>Heats in the file of a class.</summary>
/// <param name="Challenge">The challenge as it was when they began.</param>
/// <param name="BeganUtc">When they began.</param>
/// <param name="Teams">Names of the teams, in their order.</param>
/// <param name="Events">What happened, the first first; numbers of teams are places in the list, from 0.</param>
/// <param name="Table">The table.</param>
public sealed record FileHeats(
    Challenge Challenge,
    DateTime BeganUtc,
    IReadOnlyList<string> Teams,
    IReadOnlyList<WrittenEvent> Events,
    IReadOnlyList<HeatLine> Table
)
{
    internal static FileHeats Of(KeptHeats h) =>
        new(
            h.Challenge,
            DateTime.SpecifyKind(h.Row.CreatedUtc, DateTimeKind.Utc),
            [.. h.Entries.Select(e => e.Name)],
            h.Events,
            h.Standing.Table(h.Challenge)
        );
}
