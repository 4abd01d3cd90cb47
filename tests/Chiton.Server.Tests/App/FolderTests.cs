using Chiton.Data;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.App;

/// <summary>A start that was killed starts again; a folder that cannot be used says why.</summary>
public sealed class FolderTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("chiton-folder-").FullName;

    private string Database => Path.Combine(folder, "chiton.db");

    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(folder, true);
    }

    private void Execute(string sql)
    {
        using var connection = new SqliteConnection($"Data Source={Database};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    private long Count(string table)
    {
        using var connection = new SqliteConnection($"Data Source={Database};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT COUNT(*) FROM {table}";
        return (long)command.ExecuteScalar()!;
    }

    private async Task<string?> Prepare(bool demo = false, List<string>? said = null, TimeSpan? patience = null)
    {
        using var open = DataFolder.Open(folder);
        return await DataSetup.Prepare(open, TimeProvider.System, demo, s => said?.Add(s), CancellationToken.None, patience);
    }

    private async Task<string> Trouble(TimeSpan? patience = null) =>
        (await Assert.ThrowsAsync<FolderTrouble>(() => Prepare(patience: patience))).Message;

    private static readonly string[] Migrations = Names();

    private static string[] Names()
    {
        using var db = new ChitonDb(new DbContextOptionsBuilder<ChitonDb>().UseSqlite("Data Source=:memory:").Options);
        return [.. db.Database.GetMigrations()];
    }

    public static TheoryData<string> Earlier => [.. Migrations[..^1]];

    // A database as an earlier version left it, with a rig in it.
    private async Task MakeEarlier(string migration)
    {
        await using var db = new ChitonDb(
            new DbContextOptionsBuilder<ChitonDb>().UseSqlite($"Data Source={Database};Pooling=False").Options
        );
        await ((IInfrastructure<IServiceProvider>)db).Instance.GetRequiredService<IMigrator>().MigrateAsync(migration);
        await db.Database.ExecuteSqlRawAsync(
            Column("Rigs", "Archived")
                ? "INSERT INTO Rigs (Id, HeadRevision, CreatedUtc, Archived) VALUES ('old-rig', 1, '2026-01-02 03:04:05', 0)"
                : "INSERT INTO Rigs (Id, HeadRevision, CreatedUtc) VALUES ('old-rig', 1, '2026-01-02 03:04:05')"
        );
        await db.Database.ExecuteSqlRawAsync(
            "INSERT INTO Revisions (RigId, Number, Parent, Hash, TimeUtc, What, Document) VALUES ('old-rig', 1, 0, 'x', '2026-01-02 "
                + "03:04:05', 'made', {0})",
            "{\"name\":\"Old rig\"}"
        );
    }

    private bool Column(string table, string column)
    {
        using var connection = new SqliteConnection($"Data Source={Database};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT COUNT(*) FROM pragma_table_info('{table}') WHERE name = '{column}'";
        return (long)command.ExecuteScalar()! > 0;
    }

    [Fact]
    public async Task A_lock_that_a_killed_start_left_behind_holds_nobody_up()
    {
        Execute(
            "CREATE TABLE __EFMigrationsLock (Id INTEGER PRIMARY KEY, Timestamp TEXT NOT NULL); INSERT INTO __EFMigrationsLock VALUES "
                + "(1, '2026-01-01')"
        );
        await Prepare(true);
        Assert.Equal(9, Count("Rigs"));
        Execute("INSERT INTO __EFMigrationsLock VALUES (1, '2026-01-01')");
        await Prepare(true);
        Assert.Equal(9, Count("Rigs"));
    }

    [Theory]
    [MemberData(nameof(Earlier))]
    public async Task An_earlier_database_is_brought_up_to_date_in_one_piece_with_a_backup(string migration)
    {
        await MakeEarlier(migration);
        Execute("INSERT INTO __EFMigrationsLock VALUES (1, '2026-01-01')");
        // What a killed upgrade left half made is thrown away.
        File.WriteAllText(Database + ".making", "half");
        var said = new List<string>();
        var backup = await Prepare(said: said);
        Assert.Contains("up to date", Assert.Single(said));
        Assert.Equal(
            [Path.GetFileName(Database)],
            Directory.GetFiles(folder).Select(Path.GetFileName).Where(f => f != "chiton.lock" && !f!.EndsWith(".backup"))
        );
        Assert.Equal(1, Count("Rigs"));
        using (var kept = new SqliteConnection($"Data Source={backup};Pooling=False"))
        {
            kept.Open();
            using var command = kept.CreateCommand();
            command.CommandText = "SELECT COUNT(*) FROM __EFMigrationsHistory";
            Assert.Equal((long)Array.IndexOf(Migrations, migration) + 1, command.ExecuteScalar());
        }
        Assert.Null(await Prepare());
    }

    [Fact]
    public async Task Starts_that_are_killed_at_any_moment_start_again_and_hold_all_they_held()
    {
        var chance = new Random(20261126);
        // How long a whole first start takes here.
        var whole = System.Diagnostics.Stopwatch.StartNew();
        using (new LiveServer())
            whole.Stop();
        for (var i = 0; i < Campaign.Of(4, 30); i++)
        {
            foreach (var file in Directory.GetFiles(folder))
                File.Delete(file);
            var earlier = i % 4 == 0 ? null : Migrations[i % (Migrations.Length - 1)];
            if (earlier is not null)
                await MakeEarlier(earlier);
            using (var process = LiveServer.Launch(folder))
            {
                await Task.Delay(TimeSpan.FromMilliseconds(chance.NextDouble() * whole.ElapsedMilliseconds));
                process.Kill();
                await process.WaitForExitAsync();
            }
            await Prepare(true);
            Assert.Equal(earlier is null ? 9 : 10, Count("Rigs"));
        }
    }

    [Fact]
    public async Task A_second_server_on_a_folder_says_so_and_does_not_start()
    {
        using var first = DataFolder.Open(folder);
        using var process = LiveServer.Launch(folder, read: true);
        var said = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.Equal(1, process.ExitCode);
        Assert.Equal(
            $"Chiton cannot start. Another Chiton already runs on the folder {folder}. Use that one, or stop it first; or set "
                + "CHITON_DATA to another folder.",
            said.Trim()
        );
    }

    [Theory]
    [InlineData("foreign", "is a database of another program. Move it away")]
    [InlineData("text", "is no database of Chiton, or its beginning is damaged")]
    [InlineData("newer", "was written by a newer Chiton (29990101000000_Later)")]
    [InlineData("damaged", "is damaged. Stop Chiton, put a backup")]
    public async Task A_file_that_is_not_ours_or_damaged_is_named_with_what_to_do_and_left_as_it_is(string kind, string says)
    {
        if (kind == "foreign")
            Execute("CREATE TABLE Fish (Name TEXT)");
        if (kind == "text")
            File.WriteAllText(Database, string.Concat(Enumerable.Repeat("this is no database ", 1000)));
        if (kind is "newer" or "damaged")
            await Prepare(true);
        if (kind == "newer")
            Execute("INSERT INTO __EFMigrationsHistory VALUES ('29990101000000_Later', '99.0.0')");
        if (kind == "damaged")
        {
            var bytes = File.ReadAllBytes(Database);
            for (var i = 8192; i < 60_000; i++)
                bytes[i] = (byte)(i * 7);
            File.WriteAllBytes(Database, bytes);
        }
        var before = File.ReadAllBytes(Database);
        var trouble = await Trouble();
        Assert.StartsWith(Database, trouble);
        Assert.Contains(says, trouble);
        Assert.Equal(before.Length, File.ReadAllBytes(Database).Length);
        using var process = LiveServer.Launch(folder, read: true);
        var said = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.Contains(says, said);
        Assert.DoesNotContain("   at ", said);
    }

    [Fact]
    public async Task A_start_that_waits_for_another_program_says_so_and_ends_with_words()
    {
        await Prepare();
        using var other = new SqliteConnection($"Data Source={Database};Pooling=False");
        other.Open();
        using var hold = other.CreateCommand();
        hold.CommandText = "BEGIN EXCLUSIVE";
        hold.ExecuteNonQuery();
        var said = new List<string>();
        var waiting = Prepare(said: said, patience: TimeSpan.FromSeconds(60));
        for (var i = 0; i < 600 && said.Count == 0; i++)
            await Task.Delay(50);
        Assert.Contains("Another program holds", Assert.Single(said));
        hold.CommandText = "ROLLBACK";
        hold.ExecuteNonQuery();
        await waiting;
        hold.CommandText = "BEGIN EXCLUSIVE";
        hold.ExecuteNonQuery();
        Assert.Contains("did not let go of it", await Trouble(TimeSpan.FromSeconds(1)));
    }

    [Theory]
    [InlineData("/proc/chiton")]
    [InlineData("/dev/null/chiton")]
    public void A_folder_that_cannot_be_made_or_written_is_named(string path)
    {
        if (!OperatingSystem.IsLinux())
            path = Path.Combine(Path.GetTempFileName(), "chiton");
        Assert.Matches(
            $"^The folder {System.Text.RegularExpressions.Regex.Escape(path)} cannot be written to: .*set CHITON_DATA to another folder.$",
            Assert.Throws<FolderTrouble>(() => DataFolder.Open(path)).Message
        );
    }

    // Lets the database grow no more, as a full disk would.
    private sealed class FullDisk : DbConnectionInterceptor
    {
        public bool Full { get; set; }

        public override void ConnectionOpened(System.Data.Common.DbConnection connection, ConnectionEndEventData eventData) =>
            Limit(connection);

        public override Task ConnectionOpenedAsync(
            System.Data.Common.DbConnection connection,
            ConnectionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            Limit(connection);
            return Task.CompletedTask;
        }

        private void Limit(System.Data.Common.DbConnection connection)
        {
            using var command = connection.CreateCommand();
            command.CommandText = Full ? "PRAGMA max_page_count = 1" : "PRAGMA max_page_count = 1000000";
            command.ExecuteNonQuery();
        }
    }

    [Fact]
    public async Task A_disk_that_is_full_is_said_and_what_was_kept_stays()
    {
        using var bench = new Bench();
        var disk = new FullDisk();
        using var server = bench.Server.WithWebHostBuilder(b =>
            b.ConfigureServices(s =>
                    s.AddDbContextPool<ChitonDb>(o =>
                        o.UseSqlite(ChitonDb.Connection(Path.Combine(bench.Folder, "chiton.db"))).AddInterceptors(disk)
                    )
                )
                .UseSetting("CHITON_DATA", bench.Folder + "-two")
        );
        using var http = server.CreateClient();
        var program = await http.GetFromJsonAsync<JsonElement>(Bench.Rig + "/program");
        var script = program.GetProperty("script").GetString()!;
        disk.Full = true;
        var answer = await http.PutAsJsonAsync(
            Bench.Rig + "/program",
            new
            {
                baseRevision = program.GetProperty("revision").GetInt32(),
                script = script + string.Concat(Enumerable.Repeat("# a comment that needs room\n", 3000)),
            }
        );
        Assert.Equal(507, (int)answer.StatusCode);
        var problem = await answer.Content.ReadFromJsonAsync<JsonElement>();
        Assert.Contains("The disk is full", problem.GetProperty("title").GetString());
        Assert.Contains("chiton.db", problem.GetProperty("title").GetString());
        disk.Full = false;
        var after = await http.GetFromJsonAsync<JsonElement>(Bench.Rig + "/program");
        Assert.Equal(script, after.GetProperty("script").GetString());
        Directory.Delete(bench.Folder + "-two", true);
    }

    [Fact]
    public async Task Health_tells_when_the_file_is_gone_or_write_protected()
    {
        using var bench = new Bench();
        Assert.Equal("healthy", (await bench.Get("/api/health")).GetProperty("status").GetString());
        var file = Path.Combine(bench.Folder, "chiton.db");
        File.Move(file, file + ".away");
        var answer = await bench.Http.GetAsync("/api/health");
        Assert.Equal(HttpStatusCode.ServiceUnavailable, answer.StatusCode);
        Assert.Contains("chiton.db is gone", (await answer.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("say").GetString());
        File.Move(file + ".away", file);
        Assert.Equal(HttpStatusCode.OK, (await bench.Http.GetAsync("/api/health")).StatusCode);
    }
}
