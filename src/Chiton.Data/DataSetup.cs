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
    public static async Task AddDemo(RigStore store, TimeProvider clock, CancellationToken cancel)
    {
        var there = (await store.List(cancel)).Select(r => r.Rig.Id).ToHashSet();
        foreach (var rig in Farm.All(clock.GetUtcNow().UtcDateTime).Where(r => !there.Contains(r.Id)))
            await store.Create(rig.Id, rig.Design, rig.Copies.Select(c => (new CopyRow
            {
                RigId = rig.Id, Number = c.Number, Team = c.Team, ControllerRevision = c.Sent ? 1 : null, Motion = c.Motion is null ? "" : Documents.Write(c.Motion), Truth = Documents.Write(c.Truth),
            }, c.Calibrations)), "made", cancel);
    }
}
