using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Something that was measured of a run.</summary>
/// <param name="What">What it is, in words.</param>
/// <param name="Value">Its value.</param>
/// <param name="Unit">Its unit; may be empty.</param>
public sealed record MeasuredValue(string What, double Value, string Unit);

/// <summary>
/// Runs on a table. A page that could not reach the server sends its lines again until it hears that they are kept: each line and each
/// series has a key of its own, and what is known by it already is kept once.
/// </summary>
public sealed class LogStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Which database this is: keys are its own.</summary>
    public string Place => Db.Database.GetConnectionString() ?? "";

    /// <summary>Keeps lines that are not kept yet.</summary>
    /// <param name="lines">The lines, all of one rig.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>How many were new.</returns>
    public Task<int> Keep(IReadOnlyList<LogRow> lines, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var known = await Known(lines, cancel);
                var added = 0;
                foreach (var line in lines.Where(l => known.Add(l.Key)))
                {
                    line.KeptUtc = Now;
                    Db.Log.Add(line);
                    added++;
                }
                await Db.SaveChangesAsync(cancel);
                return added;
            },
            cancel
        );

    private async Task<HashSet<string>> Known(IReadOnlyList<LogRow> lines, CancellationToken cancel)
    {
        if (lines.Count == 0)
            return [];
        var (rig, keys) = (lines[0].RigId, lines.Select(l => l.Key).ToArray());
        return [.. await Db.Log.Where(l => l.RigId == rig && keys.Contains(l.Key)).Select(l => l.Key).ToListAsync(cancel)];
    }

    /// <summary>Keeps a series, or what was said of it since; which copy it is on never changes.</summary>
    /// <param name="series">The series.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<long> Keep(SeriesRow series, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Db.Series.FirstOrDefaultAsync(s => s.RigId == series.RigId && s.Key == series.Key, cancel);
                if (row is null)
                    Db.Series.Add(row = series);
                else
                    (row.Planned, row.Scene, row.Light, row.Pack, row.Floor, row.Who) = (
                        series.Planned,
                        series.Scene,
                        series.Light,
                        series.Pack,
                        series.Floor,
                        series.Who
                    );
                await Db.SaveChangesAsync(cancel);
                return row.Id;
            },
            cancel
        );

    /// <summary>Takes a line back, or gives it back.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="key">Key of the line.</param>
    /// <param name="back">True to take it back.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="NotStored">When there is no such line.</exception>
    public Task<bool> TakeBack(string rig, string key, bool back, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Log.FirstOrDefaultAsync(l => l.RigId == rig && l.Key == key, cancel)
                    ?? throw new NotStored($"There is no line “{key}” in the log of {rig}.");
                row.TakenBack = back;
                return true;
            },
            cancel
        );

    /// <summary>All lines of a rig that stand, in the order in which they were run.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number; null for all copies.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<IReadOnlyList<LogRow>> Lines(string rig, int? copy, CancellationToken cancel) =>
        await Db
            .Log.AsNoTracking()
            .Where(l => l.RigId == rig && !l.TakenBack && (copy == null || l.Copy == copy))
            .OrderBy(l => l.TimeUtc)
            .ThenBy(l => l.Id)
            .ToListAsync(cancel);

    /// <summary>The same as long as no line of a copy was added, taken back or given back.</summary>
    public async Task<string> Stamp(string rig, int copy, CancellationToken cancel)
    {
        var own = Db.Log.Where(l => l.RigId == rig && l.Copy == copy && !l.TakenBack);
        return $"{await own.CountAsync(cancel)} {await own.SumAsync(l => l.Id, cancel)}";
    }

    /// <summary>All series of a copy, the first one first.</summary>
    public async Task<IReadOnlyList<SeriesRow>> SeriesOf(string rig, int? copy, CancellationToken cancel) =>
        await Db
            .Series.AsNoTracking()
            .Where(s => s.RigId == rig && (copy == null || s.Copy == copy))
            .OrderBy(s => s.TimeUtc)
            .ThenBy(s => s.Id)
            .ToListAsync(cancel);

    /// <summary>What was sent to the controller of a copy, the first one first.</summary>
    public async Task<IReadOnlyList<SendRow>> Sends(string rig, int copy, CancellationToken cancel) =>
        await Db.Sends.AsNoTracking().Where(s => s.RigId == rig && s.Copy == copy).OrderBy(s => s.Id).ToListAsync(cancel);

    /// <summary>What was promised of a copy at a revision: the latest proof that told copies apart, one that was asked for before a
    /// light one, and of those that were made before the first run if there are any; null where there is none.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="revision">Revision number.</param>
    /// <param name="scene">Name of the scene; empty for the one in which the copy passes least.</param>
    /// <param name="first">When the first run was made, UTC.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<ProofRow?> Promise(string rig, int copy, int revision, string scene, DateTime first, CancellationToken cancel)
    {
        var proofs = Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == rig && p.Copy == copy && p.Revision == revision && p.Passed != "" && (scene == "" || p.Scene == scene));
        // Without the long parts: which one it is comes first.
        var all = await proofs
            .Select(p => new
            {
                p.Id,
                p.Light,
                p.Scene,
                p.Passes,
                p.Runs,
                p.TimeUtc,
            })
            .ToListAsync(cancel);
        var latest = all.GroupBy(p => p.Scene)
            .Select(g => g.OrderBy(p => p.TimeUtc > first).ThenBy(p => p.Light).ThenByDescending(p => p.Id).First())
            .OrderBy(p => (double)p.Passes / p.Runs)
            .FirstOrDefault();
        return latest is null ? null : await Db.Proofs.AsNoTracking().FirstAsync(p => p.Id == latest.Id, cancel);
    }
}
