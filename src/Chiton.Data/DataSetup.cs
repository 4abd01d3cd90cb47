using Chiton.Core.Sensing;
using Chiton.Data.Demo;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Brings the database up to date and fills it with the demo.</summary>
public static class DataSetup
{
    /// <summary>Applies migrations; an existing file is backed up beside itself first.</summary>
    /// <param name="db">The database.</param>
    /// <param name="file">Its file.</param>
    /// <param name="clock">For the backup's name.</param>
    /// <param name="cancel">Gives up between steps.</param>
    /// <returns>Path of the backup, or null when none was needed.</returns>
    public static async Task<string?> Migrate(ChitonDb db, string file, TimeProvider clock, CancellationToken cancel)
    {
        string? backup = null;
        if (File.Exists(file) && (await db.Database.GetPendingMigrationsAsync(cancel)).Any() && (await db.Database.GetAppliedMigrationsAsync(cancel)).Any())
        {
            backup = $"{file}.{clock.GetUtcNow():yyyyMMdd-HHmmss}.backup";
            await db.Database.ExecuteSqlAsync($"VACUUM INTO {backup}", cancel);
        }
        await db.Database.MigrateAsync(cancel);
        await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;", cancel);
        return backup;
    }

    /// <summary>Adds the demo rigs that are missing.</summary>
    public static async Task AddDemo(RigStore store, CancellationToken cancel)
    {
        if ((await store.List(cancel)).Any(r => r.Rig.Id == SeedTrolley.Id)) return;
        CopyRow Row(int number, string team, string motion) => new()
        {
            RigId = SeedTrolley.Id, Number = number, Team = team, ControllerRevision = number == 1 ? 1 : null, Motion = motion,
            Truth = Documents.Write(SeedTrolley.Truth(number).ToDictionary(t => t.Key, t => new SeenSurface(t.Value.Mean, t.Value.Sd))),
        };
        IReadOnlyList<SensorCalibration> Of(int number) => [SeedTrolley.Calibration(number)];
        await store.Create(SeedTrolley.Id, SeedTrolley.Design,
        [
            (Row(1, "Limpets", Documents.Write(SeedTrolley.Motion(785, 2200, true))), Of(1)),
            (Row(2, "Winkles", Documents.Write(SeedTrolley.Motion(742, 2200, false))), Of(2)),
        ], "boat shed, grey morning", cancel);
    }
}
