using Chiton.Core.Logbook;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Something that happened to a copy.</summary>
/// <param name="TimeUtc">When, UTC.</param>
/// <param name="What">What kind of thing: send, series, runs, trial, readings or proof.</param>
/// <param name="Say">In words.</param>
public sealed record Happened(DateTime TimeUtc, string What, string Say);

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

    /// <summary>A run as it is kept.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="run">The run.</param>
    /// <param name="revision">Its revision.</param>
    /// <param name="now">The time, UTC.</param>
    public static LogRow Row(string rig, LogEntry run, int revision, DateTime now) =>
        new()
        {
            Key = run.Key,
            RigId = rig,
            Copy = run.Copy,
            Revision = revision,
            Series = LogTable.SeriesKey(run),
            Passed = run.Passed,
            TimeUtc = run.TimeUtc.ToUniversalTime(),
            KeptUtc = now,
            TimeS = run.TimeS,
            Goal = run.Goal ?? "",
            Cause = run.Cause ?? "",
            CauseExpected = run.CauseExpected,
            Note = run.Note ?? "",
            Measured = Documents.Write(run.Measured ?? []),
            Imported = true,
        };

    /// <summary>Runs as they go out, with what was the same in their series.</summary>
    /// <param name="lines">The runs.</param>
    /// <param name="series">All series of the rig.</param>
    public static IReadOnlyList<LogEntry> Entries(IReadOnlyList<LogRow> lines, IReadOnlyList<SeriesRow> series)
    {
        var known = series.ToDictionary(s => s.Key);
        return
        [
            .. lines.Select(l =>
            {
                var s = known.GetValueOrDefault(l.Series);
                return new LogEntry(
                    l.Key,
                    l.Copy,
                    l.Revision,
                    l.Passed,
                    DateTime.SpecifyKind(l.TimeUtc, DateTimeKind.Utc),
                    l.TimeS,
                    l.Goal,
                    l.Cause,
                    l.CauseExpected,
                    l.Note,
                    Documents.Read<List<MeasuredValue>>(l.Measured),
                    l.Series,
                    s?.Light ?? "",
                    s?.Pack ?? "",
                    s?.Floor ?? "",
                    s?.Who ?? ""
                );
            }),
        ];
    }

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

    /// <summary>How runs came out, by rig and in their order; those that were taken back left out.</summary>
    public async Task<ILookup<string, bool>> Outcomes(IReadOnlyCollection<string> rigs, CancellationToken cancel) =>
        (
            await Db
                .Log.AsNoTracking()
                .Where(l => rigs.Contains(l.RigId) && !l.TakenBack)
                .OrderBy(l => l.TimeUtc)
                .ThenBy(l => l.Id)
                .Select(l => new { l.RigId, l.Passed })
                .ToListAsync(cancel)
        ).ToLookup(l => l.RigId, l => l.Passed);

    /// <summary>What happened to a copy besides its runs: what was sent, tried, read and proved.</summary>
    public async Task<IReadOnlyList<Happened>> Told(string rig, int copy, CancellationToken cancel)
    {
        var sends = await Sends(rig, copy, cancel);
        var motions = await Db.Motions.AsNoTracking().Where(m => m.RigId == rig && m.Copy == copy).ToListAsync(cancel);
        var read = await Db.Calibrations.AsNoTracking().Where(c => c.RigId == rig && c.Copy == copy).ToListAsync(cancel);
        var proofs = await Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == rig && p.Copy == copy && !p.Light)
            .Select(p => new
            {
                p.TimeUtc,
                p.Revision,
                p.Passes,
                p.Runs,
                p.Scene,
            })
            .ToListAsync(cancel);
        return
        [
            .. sends.Select(s => new Happened(s.TimeUtc, "send", $"revision {s.Revision} was sent to the controller")),
            .. motions.Select(m => new Happened(m.TimeUtc, "trial", $"{m.Motion}: {m.What}")),
            .. read.Select(c => new Happened(c.TimeUtc, "readings", $"{c.Sensor}: {c.What}")),
            .. proofs.Select(p => new Happened(
                p.TimeUtc,
                "proof",
                $"revision {p.Revision} was proved in “{p.Scene}”: {p.Passes} of {p.Runs} pass"
            )),
        ];
    }

    /// <summary>Keys of all runs of a rig, also of those that were taken back.</summary>
    public async Task<IReadOnlyList<string>> Keys(string rig, CancellationToken cancel) =>
        await Db.Log.AsNoTracking().Where(l => l.RigId == rig).Select(l => l.Key).ToListAsync(cancel);

    /// <summary>How a table with these columns was read last; null when none was.</summary>
    /// <param name="columns">The table's <see cref="LogTable.Hash"/>.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<LogMapping?> Mapping(string columns, CancellationToken cancel) =>
        await Db.LogMappings.AsNoTracking().FirstOrDefaultAsync(m => m.Columns == columns, cancel) is { } row
            ? Documents.Read<LogMapping>(row.Document)
            : null;

    /// <summary>Keeps how a table with these columns is read, and runs from it that are not kept yet, with their series.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="columns">The table's <see cref="LogTable.Hash"/>.</param>
    /// <param name="mapping">What its columns are.</param>
    /// <param name="lines">The runs.</param>
    /// <param name="series">Their series.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>How many runs were new.</returns>
    public Task<int> Import(
        string rig,
        string columns,
        LogMapping mapping,
        IReadOnlyList<LogRow> lines,
        IReadOnlyList<SeriesRow> series,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var row = await Db.LogMappings.FirstOrDefaultAsync(m => m.Columns == columns, cancel);
                if (row is null)
                    Db.LogMappings.Add(row = new() { Columns = columns, Document = "" });
                (row.Document, row.TimeUtc) = (Documents.Write(mapping), Now);
                var known = (await Keys(rig, cancel)).ToHashSet();
                var there = (await Db.Series.Where(s => s.RigId == rig).Select(s => s.Key).ToListAsync(cancel)).ToHashSet();
                var added = 0;
                foreach (var line in lines.Where(l => known.Add(l.Key)))
                {
                    line.KeptUtc = Now;
                    Db.Log.Add(line);
                    added++;
                }
                Db.Series.AddRange(series.Where(s => there.Add(s.Key)));
                await Db.SaveChangesAsync(cancel);
                return added;
            },
            cancel
        );

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

    /// <summary>What was promised of a copy at a revision: of the proofs that told copies apart the latest that was made before the first
    /// run, one that was asked for before a light one. Where there is none, the first that was made after it: a later one may rest on
    /// numbers that these very runs narrowed. Null where there is no proof.</summary>
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
        var before = all.Where(p => p.TimeUtc <= first).ToArray();
        var latest = (before.Length > 0 ? before : [.. all])
            .GroupBy(p => p.Scene)
            .Select(g => g.OrderBy(p => p.Light).ThenBy(p => before.Length > 0 ? -p.Id : p.Id).First())
            .OrderBy(p => (double)p.Passes / p.Runs)
            .FirstOrDefault();
        return latest is null ? null : await Db.Proofs.AsNoTracking().FirstAsync(p => p.Id == latest.Id, cancel);
    }
}
