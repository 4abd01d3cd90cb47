using System.Security.Cryptography;
using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A class in the list.</summary>
/// <param name="Class">The class.</param>
/// <param name="Teams">How many teams it has.</param>
public sealed record ListedClass(ClassRow Class, int Teams);

/// <summary>A rig that belongs to a team.</summary>
/// <param name="Id">Address of the rig.</param>
/// <param name="Team">The team.</param>
/// <param name="OriginRig">Address of the rig it was handed out from; null where it was not.</param>
/// <param name="OriginRevision">The revision of that rig.</param>
/// <param name="Revision">Its own current revision.</param>
public sealed record TeamRig(string Id, long Team, string? OriginRig, int? OriginRevision, int Revision);

/// <summary>Classes, their teams, and the rigs that are handed out to them.</summary>
public sealed class ClassStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>All classes, the latest first.</summary>
    public async Task<IReadOnlyList<ListedClass>> List(CancellationToken cancel)
    {
        var counts = await Db
            .Teams.GroupBy(t => t.ClassId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        return
        [
            .. (await Db.Classes.AsNoTracking().OrderByDescending(c => c.Id).ToListAsync(cancel)).Select(c => new ListedClass(
                c,
                counts.GetValueOrDefault(c.Id)
            )),
        ];
    }

    /// <summary>A class.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<ClassRow> Class(long id, CancellationToken cancel) =>
        await Db.Classes.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id, cancel) ?? throw new NotStored("There is no such class.");

    /// <summary>The teams of a class by their tables.</summary>
    public async Task<IReadOnlyList<TeamRow>> Teams(long id, CancellationToken cancel) =>
        await Db.Teams.AsNoTracking().Where(t => t.ClassId == id).OrderBy(t => t.Table).ThenBy(t => t.Id).ToListAsync(cancel);

    /// <summary>A team.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<TeamRow> Team(long id, CancellationToken cancel) =>
        await Db.Teams.AsNoTracking().FirstOrDefaultAsync(t => t.Id == id, cancel) ?? throw new NotStored("There is no such team.");

    /// <summary>The rigs of the teams of a class, in the order they were given.</summary>
    public async Task<IReadOnlyList<TeamRig>> Rigs(long id, CancellationToken cancel) =>
        await Db
            .Rigs.AsNoTracking()
            .Join(Db.Teams.Where(t => t.ClassId == id), r => r.TeamId, t => t.Id, (r, t) => r)
            .OrderBy(r => r.CreatedUtc)
            .ThenBy(r => r.Id)
            .Select(r => new TeamRig(r.Id, r.TeamId!.Value, r.OriginRig, r.OriginRevision, r.HeadRevision))
            .ToListAsync(cancel);

    /// <summary>The rigs of the teams of a class with their names.</summary>
    public async Task<IReadOnlyList<(long Team, string Id, string Name)>> RigNames(long id, CancellationToken cancel)
    {
        var rigs = await Rigs(id, cancel);
        var ids = rigs.Select(r => r.Id).ToArray();
        var names = (
            await Db
                .Rigs.AsNoTracking()
                .Where(r => ids.Contains(r.Id))
                .Join(
                    Db.Revisions,
                    r => new { RigId = r.Id, Number = r.HeadRevision },
                    v => new { v.RigId, v.Number },
                    (r, v) => new { r.Id, v.Document }
                )
                .ToListAsync(cancel)
        ).ToDictionary(r => r.Id, r => Designs.Read(r.Document).Name);
        return [.. rigs.Select(r => (r.Team, r.Id, names[r.Id]))];
    }

    /// <summary>When the rigs of a class's teams were changed last, UTC, by address.</summary>
    public Task<Dictionary<string, DateTime>> Changed(long id, CancellationToken cancel)
    {
        var rigs = Db.Rigs.Where(r => r.TeamId != null && Db.Teams.Any(t => t.Id == r.TeamId && t.ClassId == id)).Select(r => r.Id);
        return Db
            .Changes.AsNoTracking()
            .Where(c => rigs.Contains(c.RigId))
            .GroupBy(c => c.RigId)
            .Select(g => new { g.Key, At = g.Max(c => c.TimeUtc) })
            .ToDictionaryAsync(g => g.Key, g => g.At, cancel);
    }

    /// <summary>Makes a class.</summary>
    /// <exception cref="InputProblem">When there are too many.</exception>
    public Task<ClassRow> Make(string name, CancellationToken cancel) =>
        Write(
            async () =>
            {
                if (await Db.Classes.CountAsync(cancel) >= ClassNames.MostClasses)
                    throw new InputProblem("name", $"At most {ClassNames.MostClasses} classes. Delete one first.");
                var row = new ClassRow { Name = name, CreatedUtc = Now };
                Db.Classes.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row;
            },
            cancel
        );

    /// <summary>Names a class anew.</summary>
    public Task<ClassRow> Rename(long id, string name, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Db.Classes.FirstOrDefaultAsync(c => c.Id == id, cancel) ?? throw new NotStored("There is no such class.");
                row.Name = name;
                return row;
            },
            cancel
        );

    /// <summary>Adds a team.</summary>
    /// <param name="id">The class.</param>
    /// <param name="name">Its name; numbered where another team has it.</param>
    /// <param name="table">Its table; null for the first where nobody sits.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When the class has too many.</exception>
    public Task<TeamRow> AddTeam(long id, string name, int? table, CancellationToken cancel) =>
        Write(
            async () =>
            {
                await Class(id, cancel);
                var others = await Teams(id, cancel);
                if (others.Count >= ClassNames.MostTeams)
                    throw new InputProblem("team", $"A class has at most {ClassNames.MostTeams} teams.");
                var row = new TeamRow
                {
                    ClassId = id,
                    Name = Board.FreeName(name, others.Select(t => t.Name)),
                    Table = table ?? Board.FreeTable(others.Select(t => t.Table)),
                    Code = await FreeCode(cancel),
                    CreatedUtc = Now,
                };
                Db.Teams.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row;
            },
            cancel
        );

    /// <summary>A code that nobody has.</summary>
    internal async Task<string> FreeCode(CancellationToken cancel) =>
        JoinCode.Make(
            JoinCode.Usual,
            RandomNumberGenerator.GetInt32,
            (await Db.Teams.AsNoTracking().Select(t => t.Code).ToListAsync(cancel))
                .Concat(await Db.Rooms.AsNoTracking().Where(r => r.ClosedUtc == null).Select(r => r.JoinCode).ToListAsync(cancel))
                .Concat(await Db.Rooms.AsNoTracking().Where(r => r.ClosedUtc == null).Select(r => r.JudgeCode).ToListAsync(cancel))
                .ToHashSet()
        );

    /// <summary>Changes a team.</summary>
    /// <param name="id">The team.</param>
    /// <param name="change">Makes the change.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When another team of the class has that name.</exception>
    public Task<TeamRow> ChangeTeam(long id, Action<TeamRow> change, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Db.Teams.FirstOrDefaultAsync(t => t.Id == id, cancel) ?? throw new NotStored("There is no such team.");
                change(row);
                var others = await Db.Teams.AsNoTracking().Where(t => t.ClassId == row.ClassId && t.Id != id).ToListAsync(cancel);
                if (others.Any(t => t.Name.Equals(row.Name, StringComparison.OrdinalIgnoreCase)))
                    throw new InputProblem("name", $"Another team of this class is called {row.Name}.");
                return row;
            },
            cancel
        );

    /// <summary>Gives a team a new code of its own; its devices must join again.</summary>
    public Task<TeamRow> NewCode(long id, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var code = await FreeCode(cancel);
                await Db.Sessions.Where(s => s.TeamId == id).ExecuteDeleteAsync(cancel);
                return await ChangeTeam(id, t => t.Code = code, cancel);
            },
            cancel
        );

    /// <summary>Hands a rig out to a team: a rig of its own, made from a revision, with a stand-in that has the hidden numbers and the
    /// calibrations of the first stand-in there.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="team">The team.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="revision">The revision; the current one when left out.</param>
    /// <param name="start">Makes what the team begins with of the design; null for the design itself.</param>
    /// <returns>Address of the team's rig.</returns>
    /// <exception cref="NotStored">When there is no such rig, no such revision, or no such team.</exception>
    public Task<string> HandOut(
        string id,
        long team,
        CancellationToken cancel,
        int? revision = null,
        Func<RigDesign, RigDesign>? start = null
    ) =>
        Write(
            async () =>
            {
                var to = await Team(team, cancel);
                var from = await Db.Rigs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id, cancel);
                if (from is null || from.TeamId is not null)
                    throw new NotStored($"The desk has no rig “{id}”.");
                var files = new FileStore(Db, Clock);
                var file = await files.Export(id, cancel);
                var begun = revision ?? from.HeadRevision;
                if (begun != from.HeadRevision)
                    file = file with { Design = await new DesignStore(Db, Clock).DesignOf(id, begun, cancel) };
                if (start is not null)
                    file = file with { Design = start(file.Design!) };
                var copies = await Db.Copies.AsNoTracking().Where(c => c.RigId == id).OrderBy(c => c.Number).ToListAsync(cancel);
                var standIns = (file.Copies ?? []).Where(c => c.Kind == UnitKind.StandIn).Select(c => c.Number).ToHashSet();
                var source = copies.FirstOrDefault(c => standIns.Contains(c.Number));
                var given = file.Copies!.FirstOrDefault(c => c.Number == source?.Number);
                var address = await files.FreeId($"{file.Design!.Name} {to.Name}", cancel);
                await files.Add(
                    new(
                        RigFile.FormatName,
                        RigFile.CurrentVersion,
                        file.Design,
                        [
                            (given ?? new FileCopy(1, to.Name, null, null)) with
                            {
                                Number = 1,
                                Team = to.Name,
                                Kind = UnitKind.StandIn,
                                Unit = null,
                            },
                        ]
                    ),
                    $"handed out from {file.Design.Name}, revision {begun}",
                    cancel,
                    address,
                    _ =>
                        new(
                            source is null
                                ? new Dictionary<string, SeenSurface>()
                                : Documents.Read<Dictionary<string, SeenSurface>>(source.Truth),
                            false
                        )
                );
                var made = await Db.Rigs.FirstAsync(r => r.Id == address, cancel);
                (made.TeamId, made.OriginRig, made.OriginRevision) = (team, id, begun);
                var copy = await Db.Copies.FirstAsync(c => c.RigId == address, cancel);
                copy.Hidden =
                    source is null ? ""
                    : source.Hidden is { Length: > 0 } further ? further
                    : $"{id}/{source.Number}";
                return address;
            },
            cancel
        );

    /// <summary>Gives a team that came late the same start as the others: of each lesson and each rig that was handed out to them and
    /// that it has not, the version and the revision that most of them began with.</summary>
    /// <param name="team">The team.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Addresses of the rigs that were made, and how many lessons were handed out.</returns>
    public Task<(IReadOnlyList<string> Rigs, int Lessons)> SameStart(long team, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var to = await Team(team, cancel);
                var all = await Rigs(to.ClassId, cancel);
                var made = new List<string>();
                // Of several the one that most have, and of as many the latest.
                T Most<T>(IEnumerable<T> began) =>
                    began.GroupBy(b => b).OrderByDescending(g => g.Count()).ThenByDescending(g => g.Key).First().Key;
                var lessons = new LessonStore(Db, Clock);
                var handed = 0;
                var given = await lessons.OfClass(to.ClassId, cancel);
                var ofLessons = given.Select(a => a.Row.RigId).ToHashSet();
                var known = given.Where(a => a.Row.TeamId == team).Select(a => (a.Row.CourseId, a.Row.Lesson)).ToHashSet();
                foreach (var lesson in given.GroupBy(a => (a.Row.CourseId, a.Row.Lesson)).Where(g => !known.Contains(g.Key)))
                {
                    var version = Most(lesson.Select(a => a.Row.Version));
                    var those = lesson.Where(a => a.Row.Version == version).ToArray();
                    var revisions = all.Where(r => those.Any(a => a.Row.RigId == r.Id)).Select(r => r.OriginRevision).ToArray();
                    var row = await lessons.HandOut(
                        lesson.Key.CourseId,
                        version,
                        those[0].Lesson,
                        team,
                        cancel,
                        those[0].Lesson.Rig == "" || revisions.Length == 0 ? null : Most(revisions)
                    );
                    if (row.RigId is { } rig)
                        made.Add(rig);
                    handed++;
                }
                var plain = all.Where(r => r.OriginRig is not null && !ofLessons.Contains(r.Id)).ToArray();
                var has = plain.Where(r => r.Team == team).Select(r => r.OriginRig).ToHashSet();
                foreach (var start in plain.Where(r => !has.Contains(r.OriginRig)).GroupBy(r => r.OriginRig!))
                    made.Add(await HandOut(start.Key, team, cancel, Most(start.Select(r => r.OriginRevision))));
                return ((IReadOnlyList<string>)made, handed);
            },
            cancel
        );

    /// <summary>Most rigs that a team makes for itself.</summary>
    public const int MostOwnRigs = 10;

    /// <summary>Lets a team make a rig: made and given to it in one, so that it never stands at the desk.</summary>
    /// <param name="make">Makes it.</param>
    /// <param name="id">Address of what was made.</param>
    /// <param name="team">The team.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When it has enough already.</exception>
    public Task<T> Own<T>(Func<Task<T>> make, Func<T, string> id, long team, CancellationToken cancel) =>
        Write(
            async () =>
            {
                if (await Db.Rigs.CountAsync(r => r.TeamId == team && r.OriginRig == null, cancel) >= MostOwnRigs)
                    throw new InputProblem("name", $"A team makes at most {MostOwnRigs} rigs of its own.");
                var made = await make();
                var row = await Db.Rigs.FirstAsync(r => r.Id == id(made), cancel);
                row.TeamId = team;
                return made;
            },
            cancel
        );

    /// <summary>What there is of a class, as a file: its teams and their rigs.</summary>
    public async Task<ClassFile> Export(long id, CancellationToken cancel)
    {
        var row = await Class(id, cancel);
        var files = new FileStore(Db, Clock);
        var rigs = (await Rigs(id, cancel)).ToLookup(r => r.Team);
        var lessons = new LessonStore(Db, Clock);
        var given = (await lessons.OfClass(id, cancel)).ToLookup(a => a.Row.TeamId);
        var handed = (await lessons.HandInsOf(id, cancel)).ToLookup(h => h.AssignmentId);
        var teams = new List<FileTeam>();
        foreach (var team in await Teams(id, cancel))
        {
            var own = new List<RigFile>();
            foreach (var rig in rigs[team.Id])
                own.Add(await files.Export(rig.Id, cancel));
            teams.Add(
                new(
                    team.Name,
                    team.Table,
                    own,
                    [
                        .. given[team.Id]
                            .Select(a => new FileLesson(
                                a.Lesson,
                                a.Row.RigId,
                                a.Row.Hints,
                                Utc(a.Row.TimeUtc),
                                [.. handed[a.Row.Id].OrderBy(h => h.Number).Select(FileHandIn.Of)]
                            )),
                    ]
                )
            );
        }
        var heats = await new HeatsStore(Db, Clock).OfClass(id, cancel);
        return new(ClassFile.FormatName, 1, row.Name, teams, [.. heats.Reverse().Select(FileHeats.Of)]);
    }

    /// <summary>Takes a team out, with all that is its own. There is no way back.</summary>
    public Task DeleteTeam(long id, CancellationToken cancel) =>
        Cleared(
            async () =>
            {
                await Team(id, cancel);
                await Clear([id], cancel);
            },
            cancel
        );

    /// <summary>Deletes a class with its teams, their rigs, copies and logs. There is no way back.</summary>
    public Task Delete(long id, CancellationToken cancel) =>
        Cleared(
            async () =>
            {
                await Class(id, cancel);
                await Db.HeatEvents.Where(e => Db.Heats.Any(h => h.Id == e.HeatsId && h.ClassId == id)).ExecuteDeleteAsync(cancel);
                await Db.Heats.Where(h => h.ClassId == id).ExecuteDeleteAsync(cancel);
                await Clear(await Db.Teams.Where(t => t.ClassId == id).Select(t => t.Id).ToListAsync(cancel), cancel);
                await Db.Sessions.Where(s => s.ClassId == id).ExecuteDeleteAsync(cancel);
                await Db.Rooms.Where(r => r.ClassId == id).ExecuteDeleteAsync(cancel);
                await Db.Classes.Where(c => c.Id == id).ExecuteDeleteAsync(cancel);
            },
            cancel
        );

    private async Task Clear(List<long> teams, CancellationToken cancel)
    {
        var rigs = await Db.Rigs.Where(r => r.TeamId != null && teams.Contains(r.TeamId.Value)).Select(r => r.Id).ToListAsync(cancel);
        var units = await Db.Copies.Where(c => rigs.Contains(c.RigId)).Select(c => c.UnitId).ToListAsync(cancel);
        await new HeatsStore(Db, Clock).Forget(teams, cancel);
        await Db.Offers.Where(x => teams.Contains(x.TeamId)).ExecuteDeleteAsync(cancel);
        await Db.HandIns.Where(x => teams.Contains(x.TeamId)).ExecuteDeleteAsync(cancel);
        await Db.Exercises.Where(x => x.TeamId != null && teams.Contains(x.TeamId.Value)).ExecuteDeleteAsync(cancel);
        await Db.Assignments.Where(x => teams.Contains(x.TeamId)).ExecuteDeleteAsync(cancel);
        await Db.Log.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Lines.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.LineRuns.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Series.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Sends.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Silences.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Positions.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Found.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Motions.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Accepted.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Trials.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Runs.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Proofs.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Changes.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Calibrations.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Recordings.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Copies.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Revisions.Where(x => rigs.Contains(x.RigId)).ExecuteDeleteAsync(cancel);
        await Db.Rigs.Where(x => rigs.Contains(x.Id)).ExecuteDeleteAsync(cancel);
        await Db.Units.Where(u => units.Contains(u.Id) && !Db.Copies.Any(c => c.UnitId == u.Id)).ExecuteDeleteAsync(cancel);
        await Db.Sessions.Where(s => s.TeamId != null && teams.Contains(s.TeamId.Value)).ExecuteDeleteAsync(cancel);
        await Db.Teams.Where(t => teams.Contains(t.Id)).ExecuteDeleteAsync(cancel);
    }

    // What is deleted is overwritten, and the file shrinks by it: nothing of it can be read from the disk afterwards.
    private async Task Cleared(Func<Task> work, CancellationToken cancel)
    {
        await Db.Database.OpenConnectionAsync(cancel);
        try
        {
            await Db.Database.ExecuteSqlRawAsync("PRAGMA secure_delete = ON", cancel);
            await Write(
                async () =>
                {
                    await work();
                    return 0;
                },
                cancel
            );
            // What is deleted is deleted: the rest is tidying, and is not given up half way.
            await Alone(async () =>
            {
                await Db.Database.ExecuteSqlRawAsync("VACUUM", CancellationToken.None);
                await Db.Database.ExecuteSqlRawAsync("PRAGMA wal_checkpoint(TRUNCATE)", CancellationToken.None);
                await Db.Database.ExecuteSqlRawAsync("PRAGMA secure_delete = OFF", CancellationToken.None);
            });
        }
        finally
        {
            await Db.Database.CloseConnectionAsync();
        }
    }

    /// <summary>Backups beside the database that still hold a class.</summary>
    /// <param name="folder">The data folder.</param>
    /// <param name="row">The class.</param>
    /// <returns>Their names.</returns>
    public static IReadOnlyList<string> Backups(string folder, ClassRow row)
    {
        var holding = new List<string>();
        foreach (var file in Directory.EnumerateFiles(folder, "*.backup").Order(StringComparer.Ordinal))
        {
            try
            {
                using var connection = new Microsoft.Data.Sqlite.SqliteConnection(
                    new Microsoft.Data.Sqlite.SqliteConnectionStringBuilder
                    {
                        DataSource = file,
                        Mode = Microsoft.Data.Sqlite.SqliteOpenMode.ReadOnly,
                        Pooling = false,
                    }.ToString()
                );
                connection.Open();
                using var command = connection.CreateCommand();
                command.CommandText = "SELECT count(*) FROM sqlite_master WHERE type = 'table' AND name = 'Classes'";
                if ((long)command.ExecuteScalar()! == 0)
                    continue;
                command.CommandText = "SELECT count(*) FROM Classes WHERE Id = $id";
                command.Parameters.AddWithValue("$id", row.Id);
                if ((long)command.ExecuteScalar()! > 0)
                    holding.Add(Path.GetFileName(file));
            }
            catch (Microsoft.Data.Sqlite.SqliteException)
            {
                // It cannot be read, so nobody can say that it does not.
                holding.Add(Path.GetFileName(file));
            }
        }
        return holding;
    }
}

/// <summary>A class as a file.</summary>
/// <param name="Format">What it is.</param>
/// <param name="Version">Version of the format, from 1.</param>
/// <param name="Name">Name of the class.</param>
/// <param name="Teams">Its teams.</param>
/// <param name="Heats">Its heats, the first first.</param>
public sealed record ClassFile(string Format, int Version, string Name, IReadOnlyList<FileTeam> Teams, IReadOnlyList<FileHeats> Heats)
{
    /// <summary>What <see cref="Format"/> says.</summary>
    public const string FormatName = "chiton-class";
}

/// <summary>A team in a file.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Table">Its table.</param>
/// <param name="Rigs">Its rigs, whole.</param>
/// <param name="Lessons">The lessons that it was handed, with what it handed in.</param>
public sealed record FileTeam(string Name, int Table, IReadOnlyList<RigFile> Rigs, IReadOnlyList<FileLesson> Lessons);

/// <summary>A lesson of a team in a file.</summary>
/// <param name="Lesson">The lesson.</param>
/// <param name="Rig">Address of its rig; null where it has none.</param>
/// <param name="Hints">How many hints were opened.</param>
/// <param name="TimeUtc">When it was handed out.</param>
/// <param name="HandedIn">What was handed in, the first first.</param>
public sealed record FileLesson(Lesson Lesson, string? Rig, int Hints, DateTime TimeUtc, IReadOnlyList<FileHandIn> HandedIn);

/// <summary>Something that was handed in, in a file.</summary>
/// <param name="Number">Its number.</param>
/// <param name="TimeUtc">When.</param>
/// <param name="Revision">The revision of the rig.</param>
/// <param name="Copy">The copy.</param>
/// <param name="Known">What was known of it then.</param>
/// <param name="Says">What the team says.</param>
/// <param name="TeamMarks">The team's own marks; none until it has marked.</param>
/// <param name="EducatorMarks">The educator's marks.</param>
/// <param name="Note">What the educator says to it.</param>
public sealed record FileHandIn(
    int Number,
    DateTime TimeUtc,
    int Revision,
    int Copy,
    HandedIn Known,
    string Says,
    IReadOnlyList<int?> TeamMarks,
    IReadOnlyList<int?> EducatorMarks,
    string Note
)
{
    /// <summary>Marks as they are kept.</summary>
    public static IReadOnlyList<int?> Marks(string kept) => kept == "" ? [] : Documents.Read<List<int?>>(kept);

    internal static FileHandIn Of(HandInRow h) =>
        new(
            h.Number,
            DateTime.SpecifyKind(h.TimeUtc, DateTimeKind.Utc),
            h.Revision,
            h.Copy,
            Documents.Read<HandedIn>(h.Document),
            h.Says,
            Marks(h.TeamMarks),
            Marks(h.EducatorMarks),
            h.Note
        );
}
