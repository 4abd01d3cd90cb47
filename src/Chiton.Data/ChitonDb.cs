using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>The database: one SQLite file in the data folder.</summary>
public sealed class ChitonDb(DbContextOptions<ChitonDb> options) : DbContext(options)
{
    /// <summary>Rigs.</summary>
    public DbSet<RigRow> Rigs => Set<RigRow>();

    /// <summary>Revisions of designs.</summary>
    public DbSet<RevisionRow> Revisions => Set<RevisionRow>();

    /// <summary>Copies.</summary>
    public DbSet<CopyRow> Copies => Set<CopyRow>();

    /// <summary>Units.</summary>
    public DbSet<UnitRow> Units => Set<UnitRow>();

    /// <summary>Recordings.</summary>
    public DbSet<RecordingRow> Recordings => Set<RecordingRow>();

    /// <summary>Calibrations.</summary>
    public DbSet<CalibrationRow> Calibrations => Set<CalibrationRow>();

    /// <summary>Changes, for undo and redo.</summary>
    public DbSet<ChangeRow> Changes => Set<ChangeRow>();

    /// <summary>Proofs.</summary>
    public DbSet<ProofRow> Proofs => Set<ProofRow>();

    /// <summary>Runs.</summary>
    public DbSet<RunRow> Runs => Set<RunRow>();

    /// <summary>Trials.</summary>
    public DbSet<TrialRow> Trials => Set<TrialRow>();

    /// <summary>Numbers accepted from trials.</summary>
    public DbSet<AcceptedRow> Accepted => Set<AcceptedRow>();

    /// <summary>What is known of motions, version by version.</summary>
    public DbSet<MotionRow> Motions => Set<MotionRow>();

    /// <summary>Positions found by hand.</summary>
    public DbSet<PositionRow> Found => Set<PositionRow>();

    /// <summary>What is known of positions, version by version.</summary>
    public DbSet<PositionsRow> Positions => Set<PositionsRow>();

    /// <summary>Findings that were set aside.</summary>
    public DbSet<SilenceRow> Silences => Set<SilenceRow>();

    /// <summary>What was sent to controllers.</summary>
    public DbSet<SendRow> Sends => Set<SendRow>();

    /// <summary>Series of runs on a table.</summary>
    public DbSet<SeriesRow> Series => Set<SeriesRow>();

    /// <summary>Runs on a table.</summary>
    public DbSet<LogRow> Log => Set<LogRow>();

    /// <summary>Where real copies are joined to.</summary>
    public DbSet<LineRow> Lines => Set<LineRow>();

    /// <summary>Runs that were seen over lines.</summary>
    public DbSet<LineRunRow> LineRuns => Set<LineRunRow>();

    /// <summary>How logs that were kept elsewhere were read.</summary>
    public DbSet<LogMappingRow> LogMappings => Set<LogMappingRow>();

    /// <summary>Routines of the workshop's library.</summary>
    public DbSet<RoutineRow> Routines => Set<RoutineRow>();

    /// <summary>Classes.</summary>
    public DbSet<ClassRow> Classes => Set<ClassRow>();

    /// <summary>Teams.</summary>
    public DbSet<TeamRow> Teams => Set<TeamRow>();

    /// <summary>Openings of rooms.</summary>
    public DbSet<RoomRow> Rooms => Set<RoomRow>();

    /// <summary>Devices in rooms.</summary>
    public DbSet<SessionRow> Sessions => Set<SessionRow>();

    /// <summary>Courses.</summary>
    public DbSet<CourseRow> Courses => Set<CourseRow>();

    /// <summary>Versions of courses.</summary>
    public DbSet<CourseVersionRow> CourseVersions => Set<CourseVersionRow>();

    /// <summary>Lessons that were handed out.</summary>
    public DbSet<AssignmentRow> Assignments => Set<AssignmentRow>();

    /// <summary>Changes that are offered to teams.</summary>
    public DbSet<OfferRow> Offers => Set<OfferRow>();

    /// <summary>What teams handed in.</summary>
    public DbSet<HandInRow> HandIns => Set<HandInRow>();

    /// <summary>Exercises that were asked.</summary>
    public DbSet<ExerciseRow> Exercises => Set<ExerciseRow>();

    /// <summary>Challenges.</summary>
    public DbSet<ChallengeRow> Challenges => Set<ChallengeRow>();

    /// <summary>Heats of classes.</summary>
    public DbSet<HeatsRow> Heats => Set<HeatsRow>();

    /// <summary>What happened in heats.</summary>
    public DbSet<HeatEventRow> HeatEvents => Set<HeatEventRow>();

    /// <summary>The connection string of a database file; every connection waits for a writer and syncs each commit to disk.</summary>
    public static string Connection(string file) =>
        new Microsoft.Data.Sqlite.SqliteConnectionStringBuilder
        {
            DataSource = file,
            DefaultTimeout = 30,
            Pooling = true,
            ForeignKeys = true,
        }.ToString();

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder model)
    {
        model.Entity<RigRow>().HasKey(r => r.Id);
        model.Entity<CourseRow>().HasKey(c => c.Id);
        model.Entity<CourseVersionRow>().HasKey(c => new { c.CourseId, c.Number });
        model.Entity<AssignmentRow>().HasIndex(a => a.TeamId);
        model.Entity<AssignmentRow>().HasIndex(a => a.RigId);
        model.Entity<OfferRow>().HasIndex(o => o.TeamId);
        model.Entity<HandInRow>().HasIndex(h => h.TeamId);
        model.Entity<ExerciseRow>().HasIndex(e => e.TeamId);
        model.Entity<ChallengeRow>().HasKey(c => c.Id);
        model.Entity<HeatsRow>().HasIndex(h => h.ClassId);
        model.Entity<HeatEventRow>().HasIndex(e => e.HeatsId);
        model.Entity<RevisionRow>().HasKey(r => new { r.RigId, r.Number });
        model.Entity<CopyRow>().HasKey(c => new { c.RigId, c.Number });
        model.Entity<CopyRow>().HasIndex(c => c.UnitId);
        model
            .Entity<RecordingRow>()
            .HasIndex(r => new
            {
                r.RigId,
                r.Copy,
                r.Sensor,
            });
        model
            .Entity<CalibrationRow>()
            .HasIndex(c => new
            {
                c.RigId,
                c.Copy,
                c.Sensor,
                c.Version,
            })
            .IsUnique();
        model.Entity<ChangeRow>().HasIndex(c => c.RigId);
        model
            .Entity<ProofRow>()
            .HasIndex(p => new
            {
                p.RigId,
                p.Copy,
                p.Inputs,
            });
        model.Entity<RunRow>().HasIndex(r => new { r.RigId, r.Copy });
        model.Entity<TrialRow>().HasIndex(t => new { t.RigId, t.Copy });
        model.Entity<AcceptedRow>().HasIndex(a => new { a.RigId, a.Copy });
        model
            .Entity<MotionRow>()
            .HasIndex(m => new
            {
                m.RigId,
                m.Copy,
                m.Motion,
                m.Version,
            })
            .IsUnique();
        model.Entity<PositionRow>().HasIndex(p => new { p.RigId, p.Copy });
        model
            .Entity<PositionsRow>()
            .HasIndex(p => new
            {
                p.RigId,
                p.Copy,
                p.Mechanism,
                p.Version,
            })
            .IsUnique();
        model
            .Entity<SilenceRow>()
            .HasIndex(s => new
            {
                s.RigId,
                s.Copy,
                s.Finding,
            })
            .IsUnique();
        model.Entity<SendRow>().HasIndex(s => new { s.RigId, s.Copy });
        model.Entity<SeriesRow>().HasIndex(s => new { s.RigId, s.Key }).IsUnique();
        model.Entity<LogRow>().HasIndex(l => new { l.RigId, l.Key }).IsUnique();
        model.Entity<LogRow>().HasIndex(l => new { l.RigId, l.Copy });
        model.Entity<LineRow>().HasKey(l => new { l.RigId, l.Copy });
        model.Entity<LineRunRow>().HasIndex(l => new { l.RigId, l.Key }).IsUnique();
        model.Entity<LineRunRow>().HasIndex(l => new { l.RigId, l.Copy });
        model.Entity<LogMappingRow>().HasIndex(m => m.Columns).IsUnique();
        model.Entity<RoutineRow>().HasIndex(r => r.Name).IsUnique();
        model.Entity<RigRow>().HasIndex(r => r.TeamId);
        model.Entity<TeamRow>().HasIndex(t => new { t.ClassId, t.Name }).IsUnique();
        model.Entity<TeamRow>().HasIndex(t => t.Code).IsUnique();
        model.Entity<SessionRow>().HasIndex(s => s.Hash).IsUnique();
        foreach (var entity in new[] { typeof(TeamRow), typeof(RoomRow), typeof(SessionRow) })
            model.Entity(entity).HasOne(typeof(ClassRow)).WithMany().HasForeignKey("ClassId").OnDelete(DeleteBehavior.Restrict);
        model.Entity<RigRow>().HasOne<TeamRow>().WithMany().HasForeignKey(r => r.TeamId).OnDelete(DeleteBehavior.Restrict);
        model.Entity<SessionRow>().HasOne<TeamRow>().WithMany().HasForeignKey(s => s.TeamId).OnDelete(DeleteBehavior.Restrict);
        foreach (
            var entity in new[]
            {
                typeof(RevisionRow),
                typeof(CopyRow),
                typeof(RecordingRow),
                typeof(CalibrationRow),
                typeof(ChangeRow),
                typeof(ProofRow),
                typeof(RunRow),
                typeof(TrialRow),
                typeof(AcceptedRow),
                typeof(MotionRow),
                typeof(PositionRow),
                typeof(PositionsRow),
                typeof(SilenceRow),
                typeof(SendRow),
                typeof(SeriesRow),
                typeof(LogRow),
                typeof(LineRow),
                typeof(LineRunRow),
            }
        )
            model.Entity(entity).HasOne(typeof(RigRow)).WithMany().HasForeignKey("RigId").OnDelete(DeleteBehavior.Restrict);
    }
}

/// <summary>Makes a context for the migration tool.</summary>
public sealed class DesignTimeFactory : Microsoft.EntityFrameworkCore.Design.IDesignTimeDbContextFactory<ChitonDb>
{
    /// <inheritdoc/>
    public ChitonDb CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<ChitonDb>().UseSqlite(ChitonDb.Connection("design.db")).Options);
}
