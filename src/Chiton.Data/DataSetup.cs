using Chiton.Core.Rigs;
using Chiton.Data.Demo;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>
/// Makes the database ready at a start: a new one, with the demo where it is wanted, or an older one brought up to date. Both
/// are made beside the file and take its place only when they are whole, so that a start that was killed begins anew and
/// nothing is ever half done.
/// </summary>
public static class DataSetup
{
    // Migrations keep a lock in the database that a killed start leaves behind. The folder is ours alone, so it is nobody's.
    private const string LockTable = "__EFMigrationsLock",
        HistoryTable = "__EFMigrationsHistory";

    /// <summary>How long a start waits for another program that holds the file.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <summary>Makes the database of a folder ready.</summary>
    /// <param name="folder">The folder, open.</param>
    /// <param name="clock">For times in the database and the backup's name.</param>
    /// <param name="demo">True to add the demo rigs that are missing.</param>
    /// <param name="say">Told in a sentence what takes long, or is waited for.</param>
    /// <param name="cancel">Gives up between steps; what is there stays as it was.</param>
    /// <param name="patience">How long to wait for another program that holds the file; null for <see cref="Patience"/>.</param>
    /// <returns>Path of the backup that was made before a migration, or null when none was needed.</returns>
    /// <exception cref="FolderTrouble">When it cannot be done, saying why and what to do.</exception>
    public static async Task<string?> Prepare(
        DataFolder folder,
        TimeProvider clock,
        bool demo,
        Action<string> say,
        CancellationToken cancel,
        TimeSpan? patience = null
    )
    {
        var file = folder.Database;
        try
        {
            foreach (
                var left in Directory
                    .EnumerateFiles(folder.Path, "chiton.db.making*")
                    .Concat(Directory.EnumerateFiles(folder.Path, "chiton.db*.part"))
                    .ToArray()
            )
                File.Delete(left);
            if (File.Exists(file) && new FileInfo(file).Length > 0)
                await WaitFor(file, say, patience ?? Patience, cancel);
            if (IsNew(file))
            {
                await using (var made = Context(folder.Making))
                {
                    await made.Database.MigrateAsync(cancel);
                    if (demo)
                        await AddDemo(made, clock, cancel);
                    await Close(made, cancel);
                }
                Replace(folder);
                await Open(file, cancel);
                return null;
            }
            var backup = await BringUpToDate(folder, clock, say, cancel);
            await Open(file, cancel);
            if (demo)
            {
                await using var db = Context(file);
                await AddDemo(db, clock, cancel);
            }
            return backup;
        }
        catch (Exception e) when (e is SqliteException or DbUpdateException or IOException or UnauthorizedAccessException)
        {
            throw new FolderTrouble(
                DataFolder.Words(e, file)
                    ?? $"{file} cannot be made ready: {e.Message} Look whether the disk has room and this account may write to the folder.",
                e
            );
        }
    }

    /// <summary>Adds the demo rigs that are missing, the demo's course and its challenges.</summary>
    public static async Task AddDemo(ChitonDb db, TimeProvider clock, CancellationToken cancel)
    {
        var store = new RigStore(db, clock);
        var there = await store.Ids(cancel);
        foreach (var rig in Farm.Missing(clock.GetUtcNow().UtcDateTime, there))
            await store.Files.Add(
                new(
                    RigFile.FormatName,
                    RigFile.CurrentVersion,
                    rig.Design,
                    [
                        .. rig.Copies.Select(c =>
                            new FileCopy(c.Number, c.Team, c.Motion, c.Calibrations).Today(rig.Design) with
                            {
                                Kind = c.Kind,
                                Unit = c.Unit,
                            }
                        ),
                    ]
                )
                {
                    Log = rig.Log,
                },
                "made",
                cancel,
                rig.Id,
                number => rig.Copies.First(c => c.Number == number).With
            );
        foreach (var (id, challenge) in FarmChallenges.All)
            if (!await db.Challenges.AnyAsync(c => c.Id == id || c.Document.Contains("\"name\":\"" + challenge.Name + "\""), cancel))
                await new ChallengeStore(db, clock).Make(challenge, cancel, id);
        if (await db.Courses.AnyAsync(c => c.Id == FarmCourse.Address, cancel))
            return;
        // The course is about the farm as it ships, whatever became of its rigs here.
        var farm = Farm.Missing(clock.GetUtcNow().UtcDateTime, new HashSet<string>()).ToDictionary(r => r.Id, r => r.Design);
        await new CourseStore(db, clock).Make(FarmCourse.Make(id => farm[id]), "came with the demo", cancel, FarmCourse.Address);
    }

    // Connections of their own, closed at once: the file they speak of is moved.
    private static ChitonDb Context(string file) => new(new DbContextOptionsBuilder<ChitonDb>().UseSqlite(Connection(file)).Options);

    private static string Connection(string file) =>
        new SqliteConnectionStringBuilder(ChitonDb.Connection(file)) { Pooling = false }.ToString();

    private static SqliteConnection Raw(string file, bool write = true)
    {
        var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = file,
                Pooling = false,
                DefaultTimeout = 30,
                Mode = write ? SqliteOpenMode.ReadWrite : SqliteOpenMode.ReadOnly,
            }.ToString()
        );
        connection.Open();
        return connection;
    }

    private static List<string> Ask(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        using var reader = command.ExecuteReader();
        var rows = new List<string>();
        while (reader.Read())
            rows.Add(reader.GetString(0));
        return rows;
    }

    // No file, an empty one, or one that a killed start left with nothing in it but its own lock.
    private static bool IsNew(string file)
    {
        if (!File.Exists(file) || new FileInfo(file).Length == 0)
            return true;
        using var connection = Raw(file);
        if (Ask(connection, "PRAGMA quick_check(1)") is [var sound, ..] && sound != "ok")
            throw new FolderTrouble(DataFolder.Words(new SqliteException("", 11), file)!);
        var tables = Ask(connection, "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'");
        if (tables.Count == 0 || tables is [LockTable])
            return true;
        var history = tables.Contains(HistoryTable) ? Ask(connection, $"SELECT MigrationId FROM {HistoryTable}") : [];
        if (history.Count == 0 && tables.All(t => t is LockTable or HistoryTable))
            return true;
        using var db = Context(file);
        var known = db.Database.GetMigrations().ToArray();
        if (!history.Intersect(known).Any())
            throw new FolderTrouble($"{file} is a database of another program. Move it away, or set CHITON_DATA to another folder.");
        if (history.Except(known).FirstOrDefault() is { } newer)
            throw new FolderTrouble(
                $"{file} was written by a newer Chiton ({newer}). Start that one, or set CHITON_DATA to another folder."
            );
        return false;
    }

    private static async Task WaitFor(string file, Action<string> say, TimeSpan patience, CancellationToken cancel)
    {
        var waited = TimeSpan.Zero;
        for (var step = TimeSpan.FromMilliseconds(200); ; waited += step)
        {
            using var connection = Raw(file);
            try
            {
                connection.DefaultTimeout = 1;
                using var command = connection.CreateCommand();
                command.CommandTimeout = 1;
                command.CommandText = "BEGIN IMMEDIATE; ROLLBACK;";
                command.ExecuteNonQuery();
                return;
            }
            catch (SqliteException e) when (e.SqliteErrorCode is 5 or 6)
            {
                if (waited >= patience)
                    throw new FolderTrouble(
                        $"Another program holds {file} and did not let go of it within {patience.TotalSeconds:0} seconds. Close it "
                            + "and start again.",
                        e
                    );
                if (waited == TimeSpan.Zero)
                    say($"Another program holds {file}. Waiting until it lets go of it, at most {patience.TotalSeconds:0} seconds.");
            }
            waited += TimeSpan.FromSeconds(1);
            await Task.Delay(step, cancel);
        }
    }

    private static async Task<string?> BringUpToDate(DataFolder folder, TimeProvider clock, Action<string> say, CancellationToken cancel)
    {
        var file = folder.Database;
        string[] pending;
        await using (var db = Context(file))
            pending = [.. await db.Database.GetPendingMigrationsAsync(cancel)];
        using (var connection = Raw(file))
        {
            if (Ask(connection, $"SELECT name FROM sqlite_master WHERE name = '{LockTable}'").Count > 0)
                Ask(connection, $"DELETE FROM {LockTable}");
            if (pending.Length == 0)
                return null;
            say($"Bringing {file} up to date. A backup is kept beside it.");
            var backup = $"{file}.{clock.GetUtcNow():yyyyMMdd-HHmmss}.backup";
            Copy(connection, backup + ".part");
            File.Move(backup + ".part", backup, true);
            Copy(connection, folder.Making);
            await using (var next = Context(folder.Making))
            {
                await next.Database.MigrateAsync(cancel);
                if (pending.Any(p => p.EndsWith("_OwnRows", StringComparison.Ordinal)))
                    await OwnRows.Move(next, cancel);
                if (pending.Any(p => p.EndsWith("_Units", StringComparison.Ordinal)))
                    await OldCopies.Judge(next, cancel);
                await Close(next, cancel);
            }
            // What is still in the old one's log goes into it, so that no log is left lying beside the new one.
            Ask(connection, "PRAGMA journal_mode = DELETE");
            connection.Close();
            if (File.Exists(file + "-wal"))
                throw new FolderTrouble($"Another program has {file} open. Close it and start again.");
            Replace(folder);
            return backup;
        }
    }

    private static void Copy(SqliteConnection from, string to)
    {
        using var command = from.CreateCommand();
        command.CommandText = "VACUUM INTO $to";
        command.Parameters.AddWithValue("$to", to);
        command.ExecuteNonQuery();
    }

    // Everything is in the one file and on disk before it is moved.
    private static async Task Close(ChitonDb db, CancellationToken cancel)
    {
        await db.Database.ExecuteSqlRawAsync(
            "PRAGMA synchronous = FULL; PRAGMA wal_checkpoint(TRUNCATE); PRAGMA journal_mode = DELETE;",
            cancel
        );
        await db.Database.CloseConnectionAsync();
    }

    private static void Replace(DataFolder folder)
    {
        foreach (var log in new[] { "-wal", "-shm", "-journal" })
            File.Delete(folder.Database + log);
        File.Move(folder.Making, folder.Database, true);
    }

    private static async Task Open(string file, CancellationToken cancel)
    {
        await using var db = Context(file);
        await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;", cancel);
    }
}
