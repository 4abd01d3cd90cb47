using System.Text.Json;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Readings of sensors and their calibrations, version by version.</summary>
public sealed class ReadingStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most numbers of readings that a rig keeps, all copies and earlier versions together, so that what is exported can be taken
    /// in: written out a number takes at most 20 characters.</summary>
    public const long MostOfARig = 2_500_000;

    /// <summary>Adds readings to zones of a sensor on a copy; a new version of its calibration.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="sensor">Sensor name.</param>
    /// <param name="readings">Readings by zone.</param>
    /// <param name="origin">How they came in.</param>
    /// <param name="who">Who took them; may be empty.</param>
    /// <param name="conditions">Where and in which light; may be empty.</param>
    /// <param name="mode">Mode of the sensor, in words; may be empty.</param>
    /// <param name="supplyV">Supply voltage, V; null when not known.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="what">What was done, in words; null to say it by how they came in.</param>
    /// <param name="timesMicros">When each reading was taken by the clock of its board, µs; null where no clock came with them. For
    /// readings of one zone.</param>
    public Task<int> AddReadings(
        string id,
        int copy,
        string sensor,
        IReadOnlyList<ZoneReadings> readings,
        ReadingOrigin origin,
        string who,
        string conditions,
        string mode,
        double? supplyV,
        CancellationToken cancel,
        string? what = null,
        IReadOnlyList<double>? timesMicros = null
    ) =>
        Write(
            async () =>
            {
                var added = readings
                    .Select(z => new RecordingRow
                    {
                        RigId = id,
                        Copy = copy,
                        Sensor = sensor,
                        Zone = z.Zone,
                        Origin = origin,
                        TimeUtc = Now,
                        Who = who,
                        Conditions = conditions,
                        Mode = mode,
                        SupplyV = supplyV,
                        Values = Documents.Pack(z.Readings),
                        Times = timesMicros is null ? null : Documents.Pack(timesMicros),
                    })
                    .ToArray();
                var kept = await Db.Recordings.Where(r => r.RigId == id).SumAsync(r => (long)r.Values.Length, cancel) / sizeof(double);
                if (kept + readings.Sum(r => (long)r.Readings.Count) > MostOfARig)
                    throw new InputProblem(
                        "text",
                        $"A rig keeps at most {MostOfARig} numbers of readings, those that were replaced included; it has {kept}. "
                            + "Export it and take it in again: the copy has the current ones alone."
                    );
                Db.Recordings.AddRange(added);
                await Db.SaveChangesAsync(cancel);
                var count = readings.Sum(r => r.Readings.Count);
                var verb = origin switch
                {
                    ReadingOrigin.Recorded or ReadingOrigin.Line or ReadingOrigin.Box => "recorded",
                    ReadingOrigin.Csv => "read in",
                    _ => "pasted",
                };
                return await NextCalibration(
                    id,
                    copy,
                    sensor,
                    null,
                    what ?? $"{verb} {Figures.Count(count, "reading")} of {string.Join(" and ", readings.Select(r => r.Zone))}",
                    c => c.Recordings = string.Join(',', [.. Ids(c.Recordings), .. added.Select(a => a.Id)]),
                    cancel
                );
            },
            cancel
        );

    /// <summary>Starts a zone anew: its readings no longer count. They stay in earlier versions.</summary>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> ClearZone(string id, int copy, string sensor, int baseVersion, string zone, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var ofZone = await Db
                    .Recordings.AsNoTracking()
                    .Where(r => r.RigId == id && r.Copy == copy && r.Sensor == sensor && r.Zone == zone)
                    .Select(r => r.Id)
                    .ToListAsync(cancel);
                return await NextCalibration(
                    id,
                    copy,
                    sensor,
                    baseVersion,
                    $"started {zone} anew",
                    c =>
                    {
                        c.Recordings = string.Join(',', Ids(c.Recordings).Where(i => !ofZone.Contains(i)));
                        c.SetAside = Documents.Write(Documents.Read<List<SetAsideReading>>(c.SetAside).Where(a => a.Zone != zone).ToList());
                    },
                    cancel
                );
            },
            cancel
        );

    /// <summary>Chooses where thresholds are put.</summary>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> ChooseSchool(
        string id,
        int copy,
        string sensor,
        int baseVersion,
        School school,
        double costRatio,
        CancellationToken cancel
    ) =>
        Write(
            () =>
                NextCalibration(
                    id,
                    copy,
                    sensor,
                    baseVersion,
                    $"threshold of {sensor} placed by {Words(school)}",
                    c =>
                    {
                        c.School = school;
                        c.CostRatio = costRatio;
                    },
                    cancel
                ),
            cancel
        );

    /// <summary>Leaves the readings of one value out of a zone, with a reason, or takes them back.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="sensor">Sensor name.</param>
    /// <param name="baseVersion">The calibration version that was looked at.</param>
    /// <param name="zone">Zone name.</param>
    /// <param name="value">The value.</param>
    /// <param name="reason">Why; null to take them back.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> SetAside(
        string id,
        int copy,
        string sensor,
        int baseVersion,
        string zone,
        double value,
        string? reason,
        CancellationToken cancel
    ) =>
        Write(
            () =>
                NextCalibration(
                    id,
                    copy,
                    sensor,
                    baseVersion,
                    reason is null ? $"took {Figures.Show(value)} of {zone} back" : $"set {Figures.Show(value)} of {zone} aside: {reason}",
                    c =>
                    {
                        var rest = Documents.Read<List<SetAsideReading>>(c.SetAside).Where(s => s.Zone != zone || s.Value != value);
                        c.SetAside = Documents.Write(reason is null ? rest.ToList() : [.. rest, new SetAsideReading(zone, value, reason)]);
                    },
                    cancel
                ),
            cancel
        );

    /// <summary>Makes an earlier version of a calibration the current one again; a new version, like any edit.</summary>
    /// <exception cref="NotStored">When there is no such version.</exception>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> Restore(string id, int copy, string sensor, int baseVersion, int version, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var old =
                    await Db
                        .Calibrations.AsNoTracking()
                        .FirstOrDefaultAsync(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor && c.Version == version, cancel)
                    ?? throw new NotStored($"{sensor} has no version {version} on copy {copy}.");
                return await NextCalibration(
                    id,
                    copy,
                    sensor,
                    baseVersion,
                    $"restored version {version} of {sensor}",
                    c =>
                        (c.School, c.CostRatio, c.MaxFalsePerHour, c.Recordings, c.SetAside) = (
                            old.School,
                            old.CostRatio,
                            old.MaxFalsePerHour,
                            old.Recordings,
                            old.SetAside
                        ),
                    cancel
                );
            },
            cancel
        );

    /// <summary>All versions of a calibration, newest first.</summary>
    public async Task<IReadOnlyList<CalibrationRow>> CalibrationHistory(string id, int copy, string sensor, CancellationToken cancel) =>
        await Db
            .Calibrations.AsNoTracking()
            .Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor)
            .OrderByDescending(c => c.Version)
            .Take(500)
            .ToListAsync(cancel);

    /// <summary>The recordings of a calibration, without their readings, in order.</summary>
    public async Task<
        IReadOnlyList<(
            string Zone,
            ReadingOrigin Origin,
            DateTime TimeUtc,
            string Who,
            string Conditions,
            string Mode,
            double? SupplyV,
            int Count,
            ReadingClock? Clock
        )>
    > RecordingsOf(CalibrationRow row, CancellationToken cancel)
    {
        var ids = Ids(row.Recordings);
        var rows = await Db
            .Recordings.AsNoTracking()
            .Where(r => ids.Contains(r.Id))
            .OrderBy(r => r.Id)
            .Select(r => new
            {
                r.Zone,
                r.Origin,
                r.TimeUtc,
                r.Who,
                r.Conditions,
                r.Mode,
                r.SupplyV,
                Bytes = r.Values.Length,
                r.Times,
            })
            .ToListAsync(cancel);
        return
        [
            .. rows.Select(r =>
                (
                    r.Zone,
                    r.Origin,
                    r.TimeUtc,
                    r.Who,
                    r.Conditions,
                    r.Mode,
                    r.SupplyV,
                    r.Bytes / sizeof(double),
                    r.Times is null ? null : ReadingClock.Of(Documents.Unpack(r.Times))
                )
            ),
        ];
    }

    /// <summary>How a school is called in a sentence.</summary>
    public static string Words(School school) =>
        school switch
        {
            School.EqualRisk => "equal risk",
            School.Midpoint => "midpoint of means",
            School.MidGap => "middle of the gap",
            _ => "cost of each error",
        };

    private async Task<int> NextCalibration(
        string id,
        int copy,
        string sensor,
        int? baseVersion,
        string what,
        Action<CalibrationRow> change,
        CancellationToken cancel
    )
    {
        var current = await Db
            .Calibrations.AsNoTracking()
            .Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor)
            .OrderByDescending(c => c.Version)
            .FirstOrDefaultAsync(cancel);
        if (baseVersion is { } based && based != (current?.Version ?? 0))
            throw new StaleEdit(current?.Version ?? 0, current?.What ?? "");
        var next = Copy(current, id, copy, sensor, what, Now);
        change(next);
        Db.Calibrations.Add(next);
        await Db.SaveChangesAsync(cancel);
        await AddEdit(id, what, $"{copy}/{sensor}", current?.Id ?? 0, next.Id, cancel);
        return next.Version;
    }

    internal static CalibrationRow Copy(CalibrationRow? from, string id, int copy, string sensor, string what, DateTime now) =>
        new()
        {
            RigId = id,
            Copy = copy,
            Sensor = sensor,
            Version = (from?.Version ?? 0) + 1,
            TimeUtc = now,
            What = what,
            School = from?.School ?? School.EqualRisk,
            CostRatio = from?.CostRatio ?? 1,
            MaxFalsePerHour = from?.MaxFalsePerHour ?? 1,
            Recordings = from?.Recordings ?? "",
            SetAside = from?.SetAside ?? "[]",
        };

    private Task<CalibrationRow?> Latest(string id, int copy, string sensor, CancellationToken cancel) =>
        Db
            .Calibrations.AsNoTracking()
            .Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor)
            .OrderByDescending(c => c.Version)
            .FirstOrDefaultAsync(cancel);

    /// <summary>Follows a sensor to its new name: what is known goes along, and stays under the old one for undo.</summary>
    internal async Task RenameSensor(string id, int copy, string from, string to, string what, CancellationToken cancel)
    {
        if (await Latest(id, copy, from, cancel) is not { } current)
            return;
        var ids = Ids(current.Recordings);
        // Recordings are never changed: those of the new name are written anew, so that undo finds the old ones as they were.
        var renamed = await Db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).OrderBy(r => r.Id).ToListAsync(cancel);
        foreach (var r in renamed)
            (r.Id, r.Sensor) = (0, to);
        Db.Recordings.AddRange(renamed);
        await Db.SaveChangesAsync(cancel);
        var row = Copy(current, id, copy, to, what, Now);
        row.Version = ((await Latest(id, copy, to, cancel))?.Version ?? 0) + 1;
        row.Recordings = List(renamed.Select(r => r.Id));
        Db.Calibrations.Add(row);
    }

    /// <summary>Follows a zone to its new name; its old readings sleep until undo brings the old name back. Does nothing where the new name
    /// has readings already.</summary>
    internal async Task RenameZone(string id, int copy, string sensor, string from, string to, string what, CancellationToken cancel)
    {
        if (await Latest(id, copy, sensor, cancel) is not { } current)
            return;
        var ids = Ids(current.Recordings);
        var all = await Db
            .Recordings.AsNoTracking()
            .Where(r => ids.Contains(r.Id) && (r.Zone == from || r.Zone == to))
            .OrderBy(r => r.Id)
            .ToListAsync(cancel);
        if (all.Any(r => r.Zone == to))
            return;
        foreach (var r in all)
            (r.Id, r.Zone) = (0, to);
        Db.Recordings.AddRange(all);
        await Db.SaveChangesAsync(cancel);
        var row = Copy(current, id, copy, sensor, what, Now);
        row.Recordings = List([.. ids, .. all.Select(r => r.Id)]);
        row.SetAside = Documents.Write(
            Documents
                .Read<List<SetAsideReading>>(row.SetAside)
                .SelectMany(a => a.Zone == from ? [a, a with { Zone = to }] : new[] { a })
                .ToList()
        );
        Db.Calibrations.Add(row);
    }
}
