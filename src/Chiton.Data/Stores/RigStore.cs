using System.Collections.Concurrent;
using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A copy in the list of rigs.</summary>
/// <param name="Number">Copy number.</param>
/// <param name="Team">Team that works on it.</param>
/// <param name="Inputs">Hash of everything a run's outcome depends on but its seed.</param>
/// <param name="Gauge">The best proof of exactly these inputs in the counting scene in which it passes least; null until all of them were
/// counted.</param>
/// <param name="Run">How the latest watched run ended; null when there was none.</param>
/// <param name="Proved">True when there is a full proof, of whatever inputs.</param>
/// <param name="Stamp">The same as long as everything is the same that plates speak of, but for ages.</param>
public sealed record ListedCopy(
    int Number,
    string Team,
    string Inputs,
    GaugeRow? Gauge,
    (bool Passed, double EndS)? Run,
    bool Proved,
    string Stamp
);

/// <summary>A proof, as short as headers show it.</summary>
/// <param name="Scene">Name of the scene.</param>
/// <param name="Runs">Runs done.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Low">Lower end of the copy's range, 0 to 1.</param>
/// <param name="High">Upper end of it.</param>
public sealed record GaugeRow(string Scene, int Runs, int Passes, double Low, double High)
{
    /// <summary>The one in which it passes least; null where one is missing.</summary>
    public static GaugeRow? Worst(IEnumerable<GaugeRow?> rows)
    {
        var all = rows.ToArray();
        return all.Contains(null) ? null : all.MinBy(r => (double)r!.Passes / r.Runs);
    }
}

/// <summary>A rig in the list.</summary>
public sealed record ListedRig(RigRow Rig, KnownDesign Design, IReadOnlyList<ListedCopy> Copies);

/// <summary>Reads rigs whole, and holds the stores that change what they are made of.</summary>
public sealed class RigStore(ChitonDb db, TimeProvider clock, Sight? sight = null) : Store(db, clock)
{
    private readonly Sight sight = sight ?? new();

    /// <summary>Designs, their revisions and programs.</summary>
    public DesignStore Designs { get; } = new(db, clock);

    /// <summary>Readings of sensors and their calibrations.</summary>
    public ReadingStore Readings { get; } = new(db, clock);

    /// <summary>Trials and the numbers accepted from them, and positions found by hand.</summary>
    public MotionStore Motions { get; } = new(db, clock);

    /// <summary>Copies, their controllers and their preflight.</summary>
    public CopyStore Copies { get; } = new(db, clock);

    /// <summary>Undo and redo.</summary>
    public HistoryStore History { get; } = new(db, clock);

    /// <summary>Proofs and watched runs.</summary>
    public RunStore Runs { get; } = new(db, clock);

    /// <summary>Findings that were set aside.</summary>
    public SilenceStore Silences { get; } = new(db, clock);

    /// <summary>Runs on a table.</summary>
    public LogStore Log { get; } = new(db, clock);

    /// <summary>Where real copies are joined to, and what was seen there.</summary>
    public LineStore Lines { get; } = new(db, clock);

    /// <summary>The workshop's library of routines.</summary>
    public RoutineStore Library { get; } = new(db, clock);

    /// <summary>Rigs as files, in and out.</summary>
    public FileStore Files { get; } = new(db, clock);

    // What was read of a calibration stays as it is: a version is never changed.
    private static readonly ConcurrentDictionary<
        (string Db, long Row),
        (Sensor Reader, string Where, SensorCalibration Read, CalibrationTaken Taken)
    > Known = new();

    private sealed record CalibrationTaken(DateTime? LatestUtc, IReadOnlyList<string> Modes, IReadOnlyList<double> SupplyV);

    /// <summary>The rigs of whoever asks with their copies, by name of address, and how often the current design works on each: a
    /// team's own, or the desk's.</summary>
    public Task<IReadOnlyList<ListedRig>> List(CancellationToken cancel)
    {
        var team = sight.Team;
        return List(Db.Rigs.Where(r => r.TeamId == team), cancel);
    }

    /// <summary>The rigs of all teams of a class.</summary>
    public Task<IReadOnlyList<ListedRig>> ListOf(long room, CancellationToken cancel) =>
        List(Db.Rigs.Where(r => r.TeamId != null && Db.Teams.Any(t => t.Id == r.TeamId && t.ClassId == room)), cancel);

    /// <summary>Rigs by their addresses.</summary>
    public Task<IReadOnlyList<ListedRig>> ListSome(IReadOnlyCollection<string> ids, CancellationToken cancel) =>
        List(Db.Rigs.Where(r => ids.Contains(r.Id)), cancel);

    /// <summary>The team that a rig belongs to; null for the desk's, or where there is no such rig.</summary>
    public Task<long?> Owner(string rig, CancellationToken cancel) =>
        Db.Rigs.AsNoTracking().Where(r => r.Id == rig).Select(r => r.TeamId).FirstOrDefaultAsync(cancel);

    /// <inheritdoc cref="Owner"/>
    public long? OwnerNow(string rig) => Db.Rigs.AsNoTracking().Where(r => r.Id == rig).Select(r => r.TeamId).FirstOrDefault();

    private async Task<IReadOnlyList<ListedRig>> List(IQueryable<RigRow> which, CancellationToken cancel)
    {
        var rigs = await which.AsNoTracking().OrderBy(r => r.Id).ToListAsync(cancel);
        var hashes = await Db
            .Rigs.AsNoTracking()
            .Join(
                Db.Revisions,
                r => new { RigId = r.Id, Number = r.HeadRevision },
                v => new { v.RigId, v.Number },
                (r, v) => new { r.Id, v.Hash }
            )
            .ToDictionaryAsync(r => r.Id, r => r.Hash, cancel);
        var copies = (
            await Db
                .Copies.AsNoTracking()
                .OrderBy(c => c.Number)
                .Select(c => new
                {
                    c.RigId,
                    c.Number,
                    c.Team,
                    c.Motion,
                })
                .ToListAsync(cancel)
        ).ToLookup(c => c.RigId);
        var newest = Db
            .Calibrations.GroupBy(c => new
            {
                c.RigId,
                c.Copy,
                c.Sensor,
            })
            .Select(g => g.Max(c => c.Id));
        var calibrations = (await Db.Calibrations.AsNoTracking().Where(c => newest.Contains(c.Id)).ToListAsync(cancel)).ToLookup(c =>
            (c.RigId, c.Copy)
        );
        var latest = Db
            .Motions.GroupBy(m => new
            {
                m.RigId,
                m.Copy,
                m.Motion,
            })
            .Select(g => g.Max(m => m.Id));
        var motions = (await Db.Motions.AsNoTracking().Where(m => latest.Contains(m.Id)).ToListAsync(cancel)).ToLookup(m =>
            (m.RigId, m.Copy)
        );
        var placed = Db
            .Positions.GroupBy(p => new
            {
                p.RigId,
                p.Copy,
                p.Mechanism,
            })
            .Select(g => g.Max(p => p.Id));
        var positions = (await Db.Positions.AsNoTracking().Where(p => placed.Contains(p.Id)).ToListAsync(cancel)).ToLookup(p =>
            (p.RigId, p.Copy)
        );
        var proofs = (
            await Db
                .Proofs.AsNoTracking()
                .Where(p => p.Passed != "")
                .Select(p => new
                {
                    p.RigId,
                    p.Copy,
                    p.Inputs,
                    p.Id,
                    Row = new GaugeRow(p.Scene, p.Runs, p.Passes, p.Low, p.High),
                })
                .ToListAsync(cancel)
        ).GroupBy(p => (p.RigId, p.Copy, p.Inputs)).ToDictionary(g => g.Key, g => g.MaxBy(p => (p.Row.Runs, p.Id))!.Row);
        var proved = (
            await Db.Proofs.AsNoTracking().Where(p => !p.Light).Select(p => new { p.RigId, p.Copy }).Distinct().ToListAsync(cancel)
        )
            .Select(p => (p.RigId, p.Copy))
            .ToHashSet();
        var last = Db.Runs.GroupBy(r => new { r.RigId, r.Copy }).Select(g => g.Max(r => r.Id));
        var runs = (
            await Db
                .Runs.AsNoTracking()
                .Where(r => last.Contains(r.Id))
                .Select(r => new
                {
                    r.RigId,
                    r.Copy,
                    r.Passed,
                    r.EndS,
                })
                .ToListAsync(cancel)
        ).ToDictionary(r => (r.RigId, r.Copy));
        var folder = Db.Database.GetConnectionString();
        var result = new List<ListedRig>();
        foreach (var rig in rigs)
        {
            var design = await Design(rig.Id, rig.HeadRevision, hashes[rig.Id], cancel);
            result.Add(
                new(
                    rig,
                    design,
                    [
                        .. copies[rig.Id]
                            .Select(c =>
                            {
                                var inputs = Inputs(
                                    design.Hash,
                                    c.Motion,
                                    calibrations[(rig.Id, c.Number)],
                                    motions[(rig.Id, c.Number)],
                                    positions[(rig.Id, c.Number)]
                                );
                                var gauges = design.Counting.Select(s =>
                                    proofs.GetValueOrDefault((rig.Id, c.Number, design.InputsIn(inputs, s)))
                                );
                                var run = runs.GetValueOrDefault((rig.Id, c.Number));
                                var versions = string.Join(',', motions[(rig.Id, c.Number)].Select(m => $"{m.Motion} {m.Version}"));
                                return new ListedCopy(
                                    c.Number,
                                    c.Team,
                                    inputs,
                                    GaugeRow.Worst(gauges),
                                    run is null ? null : (run.Passed, run.EndS),
                                    proved.Contains((rig.Id, c.Number)),
                                    $"{folder}|{rig.Id}|{c.Number}|{inputs}|{versions}"
                                );
                            }),
                    ]
                )
            );
        }
        return result;
    }

    /// <summary>Addresses of all rigs.</summary>
    public async Task<HashSet<string>> Ids(CancellationToken cancel) =>
        [.. await Db.Rigs.AsNoTracking().Select(r => r.Id).ToListAsync(cancel)];

    /// <summary>A rig with one of its copies.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number; null for the first.</param>
    /// <param name="revision">Revision number; null for the current one.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="NotStored">When there is no such rig, copy or revision.</exception>
    /// <exception cref="NotYours">When a team asks for what is not its own, there or not.</exception>
    public async Task<RigState> Load(string id, int? copy, int? revision, CancellationToken cancel)
    {
        var rig = await Db.Rigs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id, cancel);
        if (sight.Team is { } team && rig?.TeamId != team)
            throw new NotYours();
        return await Load(rig ?? throw new NotStored($"There is no rig “{id}”."), copy, revision, cancel);
    }

    /// <summary>The guest of a scene by its name or address: of the rigs of the same team first, then of the desk's; never another
    /// team's.</summary>
    /// <param name="owner">The team that the scene's rig belongs to; null for the desk's.</param>
    /// <param name="name">The guest's name or address.</param>
    /// <param name="copy">Its copy.</param>
    /// <param name="cancel">Gives up.</param>
    /// <returns>The guest; null when there is none.</returns>
    public async Task<RigState?> Guest(long? owner, string name, int copy, CancellationToken cancel)
    {
        var rigs = await Db
            .Rigs.AsNoTracking()
            .Where(r => r.TeamId == null || r.TeamId == owner)
            .OrderBy(r => r.TeamId == null)
            .ThenBy(r => r.Id)
            .ToListAsync(cancel);
        foreach (var rig in rigs)
        {
            var hash = await Db
                .Revisions.AsNoTracking()
                .Where(r => r.RigId == rig.Id && r.Number == rig.HeadRevision)
                .Select(r => r.Hash)
                .FirstAsync(cancel);
            if (rig.Id != name && (await Design(rig.Id, rig.HeadRevision, hash, cancel)).Design.Name != name)
                continue;
            try
            {
                return await Load(rig, copy, null, cancel);
            }
            catch (NotStored)
            {
                // The plan says which line asks for a copy that is not there.
                return null;
            }
        }
        return null;
    }

    private async Task<RigState> Load(RigRow rig, int? copy, int? revision, CancellationToken cancel)
    {
        var id = rig.Id;
        var number = revision ?? rig.HeadRevision;
        var hash =
            await Db
                .Revisions.AsNoTracking()
                .Where(r => r.RigId == id && r.Number == number)
                .Select(r => r.Hash)
                .FirstOrDefaultAsync(cancel)
            ?? throw new NotStored($"{id} has no revision {number}.");
        var known = await Design(id, number, hash, cancel);
        var design = known.Design;
        var copyRow =
            await Db
                .Copies.AsNoTracking()
                .Where(c => c.RigId == id && (copy == null || c.Number == copy))
                .OrderBy(c => c.Number)
                .FirstOrDefaultAsync(cancel)
            ?? throw new NotStored($"{id} has no copy {copy}.");
        var at = copyRow.Number;
        var unit = await Db.Units.AsNoTracking().FirstAsync(u => u.Id == copyRow.UnitId, cancel);
        var where = Units.Where(unit.Kind);
        var newest = Db.Calibrations.Where(c => c.RigId == id && c.Copy == at).GroupBy(c => c.Sensor).Select(g => g.Max(c => c.Id));
        var current = await Db.Calibrations.AsNoTracking().Where(c => newest.Contains(c.Id)).ToListAsync(cancel);
        var latest = Db.Motions.Where(m => m.RigId == id && m.Copy == at).GroupBy(m => m.Motion).Select(g => g.Max(m => m.Id));
        var motions = await Db.Motions.AsNoTracking().Where(m => latest.Contains(m.Id)).ToListAsync(cancel);
        var rows = new Dictionary<string, CalibrationRow>();
        var read = new Dictionary<string, SensorCalibration>();
        var ages = new Dictionary<string, CalibrationAge>();
        foreach (var sensor in design.Sensors)
        {
            if (current.FirstOrDefault(c => c.Sensor == sensor.Name) is not { } found)
                continue;
            rows[sensor.Name] = found;
            (read[sensor.Name], ages[sensor.Name]) = await Read(found, sensor, where, cancel);
        }
        var delivered = copyRow.Motion == "" ? RailMotion.Usual(design) : Documents.Read<RailMotion>(copyRow.Motion);
        var (tried, accepted) = await Motions.Of(motions, cancel);
        var moves = new CopyMoves(design, delivered, tried, accepted, where, unit.Kind == UnitKind.Real);
        foreach (var eye in design.Eyes.Where(e => read.ContainsKey(e.Name)))
            read[eye.Name] = read[eye.Name].At(SenseRolling.Of(design, moves, eye, known.FastestPower));
        var placed = Db.Positions.Where(p => p.RigId == id && p.Copy == at).GroupBy(p => p.Mechanism).Select(g => g.Max(p => p.Id));
        var positions = await Db.Positions.AsNoTracking().Where(p => placed.Contains(p.Id)).ToListAsync(cancel);
        var inputs = Inputs(hash, copyRow.Motion, current, motions, positions);
        return new(id, number, hash, design, at, copyRow.Team, unit, moves.Motion, read, rows)
        {
            AsksKind = copyRow.AsksKind,
            Owner = rig.TeamId,
            Hidden = copyRow.Hidden.Split('/') is [var lent, var which] ? (lent, which) : (id, $"{at}"),
            Known = known,
            Ages = ages,
            Moves = moves,
            Delivered = delivered,
            MotionVersions = motions.ToDictionary(m => m.Motion, m => m.Version),
            Positions = await Motions.Positions(id, at, cancel),
            Silences = await Silences.Of(id, at, cancel),
            Inputs = inputs,
            Stamp =
                $"{Db.Database.GetConnectionString()}|{id}|{at}|{unit.Kind}|{inputs}|"
                + $"{string.Join(',', motions.Select(m => $"{m.Motion} {m.Version}"))}|"
                + string.Join(',', ages.Values.Select(a => a.AgeDays is { } d ? Math.Floor(d) : -1)),
        };
    }

    // A design that is known is not read again, whoever asks.
    private async Task<KnownDesign> Design(string id, int number, string hash, CancellationToken cancel) =>
        KnownDesign.Of(hash)
        ?? KnownDesign.Keep(
            hash,
            (await Db.Revisions.AsNoTracking().Where(r => r.RigId == id && r.Number == number).Select(r => r.Document).FirstAsync(cancel))
        );

    private static string Inputs(
        string hash,
        string delivered,
        IEnumerable<CalibrationRow> calibrations,
        IEnumerable<MotionRow> motions,
        IEnumerable<PositionsRow> positions
    ) =>
        Documents.Hash(
            string.Join(
                '\n',
                [
                    hash,
                    delivered,
                    .. calibrations
                        .OrderBy(c => c.Sensor, StringComparer.Ordinal)
                        .Select(c => $"{c.Sensor} {c.School} {c.CostRatio} {c.MaxFalsePerHour} {c.Recordings} {c.SetAside}"),
                    .. motions.OrderBy(m => m.Motion, StringComparer.Ordinal).Select(m => $"{m.Motion} {m.Accepted}"),
                    .. positions.OrderBy(p => p.Mechanism, StringComparer.Ordinal).Select(p => $"{p.Mechanism} {p.Found}"),
                ]
            )
        );

    private async Task<(SensorCalibration, CalibrationAge)> Read(CalibrationRow row, Sensor reader, string where, CancellationToken cancel)
    {
        var key = (Db.Database.GetConnectionString()!, row.Id);
        if (!Known.TryGetValue(key, out var known) || known.Reader != reader || known.Where != where)
        {
            var ids = Ids(row.Recordings);
            var recordings = await Db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).ToDictionaryAsync(r => r.Id, cancel);
            var used = ids.Select(i => recordings[i]).Where(r => reader.Zones.Contains(r.Zone)).ToArray();
            var facts = reader.Facts;
            int Taken(IEnumerable<RecordingRow> rows) => rows.Sum(r => r.Values.Length) / sizeof(double) / facts.Width;
            var made = new SensorCalibration(
                reader.Name,
                reader.SamplePeriodMs,
                reader.Resolution,
                row.MaxFalsePerHour,
                row.School,
                row.CostRatio,
                [
                    .. reader.Zones.Select(zone => new ZoneReadings(
                        zone,
                        [.. used.Where(r => r.Zone == zone).SelectMany(r => Documents.Unpack(r.Values))]
                    )
                    {
                        Timed = used.Where(r => r.Zone == zone)
                            .All(r => r.Origin is ReadingOrigin.Recorded or ReadingOrigin.Line or ReadingOrigin.Box),
                    }),
                ]
            )
            {
                SetAside = Documents.Read<List<SetAsideReading>>(row.SetAside),
                Unit = facts.Unit,
                Low = facts.From,
                High = facts.To,
                Where = Units.Where(where, Taken(used.Where(r => r.Origin == ReadingOrigin.Box)), Taken(used)),
            };
            if (Known.Count > 1000)
                Known.Clear();
            known = Known[key] = (
                reader,
                where,
                made,
                new(
                    used.Length == 0 ? null : used.Max(r => r.TimeUtc),
                    [.. used.Select(r => r.Mode).Where(m => m != "").Distinct()],
                    [.. used.Select(r => r.SupplyV).OfType<double>().Distinct()]
                )
            );
        }
        return (known.Read, new(known.Taken.LatestUtc is { } when ? (Now - when).TotalDays : null, known.Taken.Modes, known.Taken.SupplyV));
    }

    /// <summary>One version of a calibration.</summary>
    /// <exception cref="NotStored">When there is no such version.</exception>
    public async Task<SensorCalibration> Calibration(RigState state, string sensor, int version, CancellationToken cancel)
    {
        var row =
            await Db
                .Calibrations.AsNoTracking()
                .FirstOrDefaultAsync(c => c.RigId == state.Id && c.Copy == state.Copy && c.Sensor == sensor && c.Version == version, cancel)
            ?? throw new NotStored($"{sensor} has no version {version} on copy {state.Copy}.");
        // Compared with today's, it is judged as today's is: at rest, or rolling.
        return (await Read(row, state.Design.Sensors.First(e => e.Name == sensor), Units.Where(state.Unit.Kind), cancel)).Item1.At(
            state.Calibrations.GetValueOrDefault(sensor)?.Rolling
        );
    }
}
