using System.Collections.Concurrent;
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

/// <summary>Nothing of that name is stored.</summary>
public sealed class NotStored(string what) : Exception(what);

/// <summary>Someone else changed the same thing first. Nothing was written.</summary>
/// <param name="current">Number of the revision, or version of the calibration, that is current.</param>
/// <param name="what">What the other change was.</param>
public sealed class StaleEdit(int current, string what) : Exception($"This was changed meanwhile: {what}")
{
    /// <summary>What is current now.</summary>
    public int Current { get; } = current;
    /// <summary>What the other change was.</summary>
    public string What { get; } = what;
}

/// <summary>A rig as it stands, with one of its copies.</summary>
public sealed record RigState(
    string Id, int Revision, string Hash, RigDesign Design, int Copy, string Team, int? ControllerRevision, RailMotion? Motion,
    IReadOnlyDictionary<string, SensorCalibration> Calibrations, IReadOnlyDictionary<string, CalibrationRow> CalibrationRows)
{
    private ParseResult? parsed;

    /// <summary>The running program, parsed.</summary>
    public ParseResult Parsed => parsed ??= ScriptParser.Parse(Design.Program.Script, Vocabulary.Of(Design));

    /// <summary>SHA-256 of everything a run's outcome depends on but its seed.</summary>
    public string Inputs => Documents.Hash(string.Join('\n', [Hash, Documents.Write(Motion), .. CalibrationRows.Values.OrderBy(c => c.Sensor).Select(c => $"{c.Sensor} {c.School} {c.CostRatio} {c.MaxFalsePerHour} {c.Recordings} {c.SetAside}")]));

    /// <summary>The setup of a run.</summary>
    /// <exception cref="InputProblem">When the program has faults or the copy lacks zones.</exception>
    public RailSetup Setup() => Parsed.Diagnostics.Count > 0
        ? throw new InputProblem("program", $"The program has {Figures.Count(Parsed.Diagnostics.Count, "fault")}: line {Parsed.Diagnostics[0].Line}: {Parsed.Diagnostics[0].Message}")
        : RailSetup.Build(Design, Motion ?? throw new InputProblem("copy", "Nothing is known yet of how this copy moves. What you describe and measure here is kept."), Calibrations, Parsed.Program);

    /// <summary>What is known of when and how a sensor's calibration was taken.</summary>
    public required IReadOnlyDictionary<string, CalibrationAge> Ages { get; init; }

    /// <summary>How this copy moves, as far as its trials tell.</summary>
    public required CopyMoves Moves { get; init; }

    /// <summary>How the copy was said to move when it was delivered, before any trial; null where nothing was said.</summary>
    public RailMotion? Delivered { get; init; }

    /// <summary>The rows that keep trials, by the key of the motion.</summary>
    public required IReadOnlyDictionary<string, CalibrationRow> TrialRows { get; init; }
}

/// <summary>What undo and redo would do.</summary>
public sealed record UndoState(string? Undo, string? Redo);

/// <summary>Reads and writes rigs. Every write is one transaction that is on disk before the call returns.</summary>
public sealed class RigStore(ChitonDb db, TimeProvider clock)
{
    // One writer at a time for a rig, so that reading the head and writing the next revision cannot interleave.
    private static readonly ConcurrentDictionary<string, SemaphoreSlim> Gates = new();

    private DateTime Now => clock.GetUtcNow().UtcDateTime;

    private async Task<T> Write<T>(string rig, Func<Task<T>> work, CancellationToken cancel)
    {
        var gate = Gates.GetOrAdd(db.Database.GetConnectionString() + "|" + rig, _ => new(1, 1));
        await gate.WaitAsync(cancel);
        try
        {
            await using var transaction = await db.Database.BeginTransactionAsync(System.Data.IsolationLevel.Serializable, cancel);
            var result = await work();
            await db.SaveChangesAsync(cancel);
            // Once the commit is under way it is not given up: the answer must say what is on disk.
            await transaction.CommitAsync(CancellationToken.None);
            return result;
        }
        finally
        {
            db.ChangeTracker.Clear();
            gate.Release();
        }
    }

    /// <summary>All rigs with their copies, by name of address.</summary>
    public async Task<IReadOnlyList<(RigRow Rig, RigDesign Design, IReadOnlyList<CopyRow> Copies)>> List(CancellationToken cancel)
    {
        var rigs = await db.Rigs.AsNoTracking().OrderBy(r => r.Id).ToListAsync(cancel);
        var copies = await db.Copies.AsNoTracking().OrderBy(c => c.Number).ToListAsync(cancel);
        var result = new List<(RigRow, RigDesign, IReadOnlyList<CopyRow>)>();
        foreach (var rig in rigs)
        {
            var revision = await db.Revisions.AsNoTracking().FirstAsync(r => r.RigId == rig.Id && r.Number == rig.HeadRevision, cancel);
            result.Add((rig, Designs.Read(revision.Document), copies.Where(c => c.RigId == rig.Id).ToArray()));
        }
        return result;
    }

    /// <summary>The copies of a rig.</summary>
    public async Task<IReadOnlyList<CopyRow>> Copies(string rig, CancellationToken cancel) =>
        await db.Copies.AsNoTracking().Where(c => c.RigId == rig).OrderBy(c => c.Number).ToListAsync(cancel);

    /// <summary>A rig with one of its copies.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number; null for the first.</param>
    /// <param name="revision">Revision number; null for the current one.</param>
    /// <param name="calibrations">Keys of the calibrations to use; null for the current ones.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="NotStored">When there is no such rig, copy or revision.</exception>
    public async Task<RigState> Load(string id, int? copy, int? revision, IReadOnlyList<long>? calibrations, CancellationToken cancel)
    {
        var rig = await db.Rigs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id, cancel) ?? throw new NotStored($"There is no rig “{id}”.");
        var number = revision ?? rig.HeadRevision;
        var row = await db.Revisions.AsNoTracking().FirstOrDefaultAsync(r => r.RigId == id && r.Number == number, cancel)
            ?? throw new NotStored($"{id} has no revision {number}.");
        var copyRow = await db.Copies.AsNoTracking().Where(c => c.RigId == id && (copy == null || c.Number == copy)).OrderBy(c => c.Number).FirstOrDefaultAsync(cancel)
            ?? throw new NotStored($"{id} has no copy {copy}.");
        var design = Designs.Read(row.Document);
        var rows = new Dictionary<string, CalibrationRow>();
        var read = new Dictionary<string, SensorCalibration>();
        var ages = new Dictionary<string, CalibrationAge>();
        var tried = new Dictionary<string, IReadOnlyList<Trial>>();
        var accepted = new Dictionary<string, AcceptedNumber>();
        var trialRows = new Dictionary<string, CalibrationRow>();
        var versions = db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Copy == copyRow.Number);
        if (calibrations is not null) versions = versions.Where(c => calibrations.Contains(c.Id));
        var newest = versions.GroupBy(c => c.Sensor).Select(g => g.Max(c => c.Id));
        var current = await db.Calibrations.AsNoTracking().Where(c => newest.Contains(c.Id)).ToListAsync(cancel);
        var delivered = copyRow.Motion == "" ? null : Documents.Read<RailMotion>(copyRow.Motion);
        foreach (var reader in Readers(design, delivered))
        {
            if (current.FirstOrDefault(c => c.Sensor == reader.Name) is not { } found) continue;
            var (calibration, age) = await Read(found, reader, cancel);
            // Trials are no zones: they are kept apart from the calibrations of sensors.
            if (reader.Zones.Contains(TrialZone))
            {
                trialRows[reader.Name] = found;
                tried[reader.Name] = [.. Held(TrialZone).Chunk(3).Where(c => c.Length == 3).Select(c => new Trial(c[0], c[1], c[2]))];
                if (Held(AcceptedZone).Chunk(AcceptedNumber.Width).LastOrDefault(c => c.Length == AcceptedNumber.Width) is { } packed) accepted[reader.Name] = AcceptedNumber.Of(packed);
                continue;
                IEnumerable<double> Held(string zone) => calibration.Zones.FirstOrDefault(z => z.Zone == zone)?.Readings ?? [];
            }
            rows[reader.Name] = found;
            (read[reader.Name], ages[reader.Name]) = (calibration, age);
        }
        var moves = new CopyMoves(design, delivered, tried, accepted);
        return new(id, number, row.Hash, design, copyRow.Number, copyRow.Team, copyRow.ControllerRevision, moves.Motion, read, rows) { Ages = ages, Moves = moves, Delivered = delivered, TrialRows = trialRows };
    }

    /// <summary>
    /// Everything of a copy that readings are kept of: its sensors, its mechanisms with positions, whose readings are
    /// angles, and its motions, whose readings are trials.
    /// </summary>
    public static IEnumerable<Sensor> Readers(RigDesign design, RailMotion? delivered) =>
        design.Sensors.Concat(design.Mechanisms.Where(m => m.Positions.Count > 0).Select(m => new Sensor(m.Name, SensorKind.Encoder, 10, 1, m.Positions)))
            .Concat(TrialPlans.For(design, delivered).Select(p => new Sensor(p.Key, SensorKind.Encoder, 10, 0, [TrialZone, AcceptedZone])));

    /// <summary>Under this name the trials of a motion are kept: asked, commanded and measured.</summary>
    public const string TrialZone = "trials";

    /// <summary>Under this name the number that was accepted from them: see <see cref="AcceptedNumber"/>.</summary>
    public const string AcceptedZone = "accepted";

    private async Task<(SensorCalibration, CalibrationAge)> Read(CalibrationRow row, Sensor reader, CancellationToken cancel)
    {
        var ids = Ids(row.Recordings);
        var recordings = await db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).ToDictionaryAsync(r => r.Id, cancel);
        var used = ids.Select(i => recordings[i]).Where(r => reader.Zones.Contains(r.Zone)).ToArray();
        var facts = reader.Facts;
        return (new(reader.Name, reader.SamplePeriodMs, reader.Resolution, row.MaxFalsePerHour, row.School, row.CostRatio,
            [.. reader.Zones.Select(zone => new ZoneReadings(zone, [.. used.Where(r => r.Zone == zone).SelectMany(r => Documents.Unpack(r.Values))]))])
        {
            SetAside = Documents.Read<List<SetAsideReading>>(row.SetAside), Unit = facts.Unit, Low = facts.From, High = facts.To,
        }, new(used.Length == 0 ? null : (Now - used.Max(r => r.TimeUtc)).TotalDays, [.. used.Select(r => r.Mode).Where(m => m != "").Distinct()], [.. used.Select(r => r.SupplyV).OfType<double>().Distinct()]));
    }

    private static long[] Ids(string list) => list == "" ? [] : [.. list.Split(',').Select(long.Parse)];

    /// <summary>Makes a rig with its copies and their readings.</summary>
    /// <param name="id">Its address; taken as it is.</param>
    /// <param name="design">The design, already checked.</param>
    /// <param name="copies">Its copies; the row's rig and number are filled in.</param>
    /// <param name="what">How it came to be, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task Create(string id, RigDesign design, IEnumerable<(CopyRow Copy, IReadOnlyList<FileCalibration> Calibrations)> copies, string what, CancellationToken cancel) => Write(id, async () =>
    {
        var document = Documents.Write(design);
        db.Rigs.Add(new() { Id = id, HeadRevision = 1, CreatedUtc = Now });
        db.Revisions.Add(new() { RigId = id, Number = 1, Parent = 0, Hash = Documents.Hash(document), TimeUtc = Now, What = what, Document = document });
        foreach (var (copy, calibrations) in copies)
        {
            copy.RigId = id;
            db.Copies.Add(copy);
            foreach (var calibration in calibrations)
            {
                var recordings = calibration.Recordings.Where(z => z.Readings.Count > 0).Select(z => new RecordingRow
                {
                    RigId = id, Copy = copy.Number, Sensor = calibration.Sensor, Zone = z.Zone, Origin = ReadingOrigin.Recorded, TimeUtc = z.TimeUtc ?? Now,
                    Who = z.Who ?? "", Conditions = z.Conditions ?? "", Mode = z.Mode ?? "", SupplyV = z.SupplyV, Values = Documents.Pack(z.Readings),
                }).ToArray();
                db.Recordings.AddRange(recordings);
                await db.SaveChangesAsync(cancel);
                db.Calibrations.Add(new()
                {
                    RigId = id, Copy = copy.Number, Sensor = calibration.Sensor, Version = 1, TimeUtc = recordings.Length == 0 ? Now : recordings.Max(r => r.TimeUtc), What = "recorded before the lesson", School = calibration.School,
                    CostRatio = calibration.CostRatio, MaxFalsePerHour = calibration.MaxFalsePerHour, Recordings = string.Join(',', recordings.Select(r => r.Id)), SetAside = Documents.Write(calibration.SetAside ?? []),
                });
            }
        }
        return true;
    }, cancel);

    /// <summary>A free address for a rig of that name: lower-case words with hyphens, numbered when taken.</summary>
    public async Task<string> FreeId(string name, CancellationToken cancel)
    {
        const string accented = "àáâãäåçèéêëìíîïñòóôõöøùúûüýÿ", plain = "aaaaaaceeeeiiiinoooooouuuuyy";
        var words = string.Concat(name.ToLowerInvariant().Select(c => accented.IndexOf(c) is >= 0 and var at ? plain[at] : char.IsAsciiLetterOrDigit(c) ? c : '-'));
        var stem = string.Join('-', words.Split('-', StringSplitOptions.RemoveEmptyEntries));
        if (stem == "") stem = "rig";
        var taken = await db.Rigs.AsNoTracking().Select(r => r.Id).ToListAsync(cancel);
        for (var n = 1; ; n++)
            if ((n == 1 ? stem : $"{stem}-{n}") is var id && !taken.Contains(id) && id is not "schema" and not "templates") return id;
    }

    /// <summary>Puts a rig away, or takes it back out.</summary>
    public Task<bool> Archive(string id, bool archived, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, _) = await Head(id, cancel);
        rig.Archived = archived;
        return true;
    }, cancel);

    /// <summary>A rig as a file: the design of now and what every copy knows.</summary>
    public async Task<RigFile> Export(string id, CancellationToken cancel)
    {
        var copies = new List<FileCopy>();
        RigDesign? design = null;
        foreach (var row in await Copies(id, cancel))
        {
            var state = await Load(id, row.Number, null, null, cancel);
            design = state.Design;
            var calibrations = new List<FileCalibration>();
            foreach (var c in state.CalibrationRows.Values.Concat(state.TrialRows.Values).OrderBy(c => c.Sensor, StringComparer.Ordinal))
            {
                var ids = Ids(c.Recordings);
                var recordings = await db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).OrderBy(r => r.Id).ToListAsync(cancel);
                calibrations.Add(new(c.Sensor, c.School, c.CostRatio, c.MaxFalsePerHour,
                    [.. recordings.Select(r => new FileRecording(r.Zone, Documents.Unpack(r.Values), DateTime.SpecifyKind(r.TimeUtc, DateTimeKind.Utc), r.Who, r.Conditions, r.Mode, r.SupplyV))], Documents.Read<List<SetAsideReading>>(c.SetAside)));
            }
            copies.Add(new(row.Number, row.Team, state.Delivered, calibrations));
        }
        if (design is null) throw new NotStored($"There is no rig “{id}”.");
        // Of the library what its programs have goes along.
        var used = RigPrograms.Of(design).SelectMany(p => p.Parsed.Program.Routines).Select(r => r.Name).ToHashSet();
        var routines = (await Routines(cancel)).Select(r => r.Routine).Where(r => used.Contains(r.Name)).ToArray();
        return new(RigFile.FormatName, RigFile.CurrentVersion, design, copies, routines.Length == 0 ? null : routines);
    }

    /// <summary>Most routines in the library.</summary>
    public const int MostRoutines = 500;

    /// <summary>The workshop's library of routines, by name.</summary>
    public async Task<IReadOnlyList<(long Id, DateTime TimeUtc, KeptRoutine Routine)>> Routines(CancellationToken cancel) =>
        [.. (await db.Routines.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel)).Select(r => (r.Id, DateTime.SpecifyKind(r.TimeUtc, DateTimeKind.Utc), Documents.Read<KeptRoutine>(r.Document)))];

    /// <summary>Keeps a routine in the library.</summary>
    /// <param name="routine">The routine.</param>
    /// <param name="replace">What becomes of one of that name: true to take its place, false to be refused, null to let it stay.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When there is one of that name already, or the library is full.</exception>
    public Task<bool> KeepRoutine(KeptRoutine routine, bool? replace, CancellationToken cancel) => Write("\0library", async () =>
    {
        var there = await db.Routines.FirstOrDefaultAsync(r => r.Name == routine.Name, cancel);
        if (there is null)
        {
            if (await db.Routines.CountAsync(cancel) >= MostRoutines) throw new InputProblem("routine", $"The library holds at most {MostRoutines} routines. Take one out first.");
            db.Routines.Add(new() { Name = routine.Name, TimeUtc = Now, Document = Documents.Write(routine) });
            return true;
        }
        if (replace is null) return false;
        if (replace is false) throw new InputProblem("replace", $"The library already has a routine “{routine.Name}”, kept from {Documents.Read<KeptRoutine>(there.Document).From}. Say that this one takes its place, or give it another name.");
        (there.TimeUtc, there.Document) = (Now, Documents.Write(routine));
        return true;
    }, cancel);

    /// <summary>Takes a routine out of the library. Programs that have it keep it.</summary>
    /// <exception cref="NotStored">When there is none of that name.</exception>
    public Task<bool> ForgetRoutine(string name, CancellationToken cancel) => Write("\0library", async () =>
    {
        db.Routines.Remove(await db.Routines.FirstOrDefaultAsync(r => r.Name == name, cancel) ?? throw new NotStored($"The library has no routine “{name}”."));
        return true;
    }, cancel);

    // Designs by their hash: what is asked with every keystroke is not read anew each time.
    private static readonly ConcurrentDictionary<string, RigDesign> Recent = new();

    /// <summary>The current design alone, without any copy.</summary>
    /// <exception cref="NotStored">When there is no such rig.</exception>
    public async Task<RigDesign> DesignNow(string id, CancellationToken cancel)
    {
        var head = db.Rigs.AsNoTracking().Where(r => r.Id == id).Join(db.Revisions, r => new { RigId = r.Id, Number = r.HeadRevision }, v => new { v.RigId, v.Number }, (r, v) => v);
        var hash = await head.Select(v => v.Hash).FirstOrDefaultAsync(cancel) ?? throw new NotStored($"There is no rig “{id}”.");
        if (Recent.TryGetValue(hash, out var known)) return known;
        if (Recent.Count > 32) Recent.Clear();
        // It may have moved on between the two questions: what is kept is what the hash says.
        var row = await head.FirstAsync(cancel);
        return Recent[row.Hash] = Designs.Read(row.Document);
    }

    /// <summary>The design of a revision.</summary>
    /// <exception cref="NotStored">When there is no such revision.</exception>
    public async Task<RigDesign> DesignOf(string id, int revision, CancellationToken cancel) =>
        Designs.Read((await db.Revisions.AsNoTracking().FirstOrDefaultAsync(r => r.RigId == id && r.Number == revision, cancel) ?? throw new NotStored($"{id} has no revision {revision}.")).Document);

    /// <summary>Brings the program of an earlier revision back; a new revision, and undo takes it back.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> RestoreProgram(string id, int baseRevision, int revision, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        var (now, then) = (Designs.Read(head.Document), await DesignOf(id, revision, cancel));
        var next = RigPrograms.Follow(now with { Programs = then.Programs }, now);
        return next == now ? rig.HeadRevision : await Revise(rig, next, $"brought back the program of revision {revision}", cancel);
    }, cancel);

    /// <summary>Writes the whole design anew; a new revision. It must have been checked.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> SaveDesign(string id, int baseRevision, RigDesign next, string what, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        return next == Designs.Read(head.Document) ? rig.HeadRevision : await Revise(rig, next, what, cancel);
    }, cancel);

    /// <summary>Gives a device, mechanism or zone another name everywhere: the design as given, and the readings of every copy.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="baseRevision">The revision that was edited.</param>
    /// <param name="next">The design with the new name in it.</param>
    /// <param name="sensor">Name under which readings are kept, before.</param>
    /// <param name="newSensor">The same after.</param>
    /// <param name="zone">Zone that is renamed; null when the sensor is.</param>
    /// <param name="newZone">Its new name.</param>
    /// <param name="what">What changed, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<int> Rename(string id, int baseRevision, RigDesign next, string sensor, string newSensor, string? zone, string? newZone, string what, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        // Recordings are never changed: the renamed ones are written anew, so that undo finds the old ones as they were.
        var names = new List<(string Old, string New)> { (sensor, newSensor) };
        // Trials are kept under the mechanism's name and the motion.
        if (zone is null)
            names.AddRange((await db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Sensor.StartsWith(sensor + ": ")).Select(c => c.Sensor).Distinct().ToListAsync(cancel)).Select(n => (n, newSensor + n[sensor.Length..])));
        foreach (var copy in await db.Copies.AsNoTracking().Where(c => c.RigId == id).Select(c => c.Number).ToListAsync(cancel))
        foreach (var (oldName, newName) in names)
        {
            var current = await db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Copy == copy && c.Sensor == oldName).OrderByDescending(c => c.Version).FirstOrDefaultAsync(cancel);
            if (current is null) continue;
            var ids = Ids(current.Recordings);
            var renamed = await db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id) && (zone == null || r.Zone == zone)).OrderBy(r => r.Id).ToListAsync(cancel);
            foreach (var r in renamed)
            {
                r.Id = 0;
                r.Sensor = newName;
                if (zone is not null) r.Zone = newZone!;
            }
            db.Recordings.AddRange(renamed);
            await db.SaveChangesAsync(cancel);
            var under = await db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Copy == copy && c.Sensor == newName).MaxAsync(c => (int?)c.Version, cancel) ?? 0;
            var row = Copy(current, id, copy, newName, what);
            row.Version = under + 1;
            // A renamed zone keeps its old readings too: they sleep until undo brings the old name back.
            row.Recordings = string.Join(',', (zone is null ? [] : ids).Concat(renamed.Select(r => r.Id)));
            if (zone is not null) row.SetAside = Documents.Write(Documents.Read<List<SetAsideReading>>(row.SetAside).SelectMany(a => a.Zone == zone ? [a, a with { Zone = newZone! }] : new[] { a }).ToList());
            db.Calibrations.Add(row);
        }
        return await Revise(rig, next, what, cancel);
    }, cancel);

    /// <summary>Starts a zone anew: its readings no longer count. They stay in earlier versions.</summary>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> ClearZone(string id, int copy, string sensor, int baseVersion, string zone, CancellationToken cancel) => Write(id, async () =>
    {
        var ofZone = await db.Recordings.AsNoTracking().Where(r => r.RigId == id && r.Copy == copy && r.Sensor == sensor && r.Zone == zone).Select(r => r.Id).ToListAsync(cancel);
        return await NextCalibration(id, copy, sensor, baseVersion, $"started {zone} anew", c =>
        {
            c.Recordings = string.Join(',', Ids(c.Recordings).Where(i => !ofZone.Contains(i)));
            c.SetAside = Documents.Write(Documents.Read<List<SetAsideReading>>(c.SetAside).Where(a => a.Zone != zone).ToList());
        }, cancel);
    }, cancel);

    /// <summary>Preflight of a copy so far.</summary>
    public async Task<PreflightState> Preflight(string id, int copy, CancellationToken cancel) =>
        Documents.Read<PreflightState>((await db.Copies.AsNoTracking().FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel) ?? throw new NotStored($"{id} has no copy {copy}.")).Preflight);

    /// <summary>Changes the preflight of a copy.</summary>
    public Task<PreflightState> SavePreflight(string id, int copy, Func<PreflightState, PreflightState> change, CancellationToken cancel) => Write(id, async () =>
    {
        var row = await db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel) ?? throw new NotStored($"{id} has no copy {copy}.");
        var next = change(Documents.Read<PreflightState>(row.Preflight));
        row.Preflight = Documents.Write(next);
        return next;
    }, cancel);

    /// <summary>
    /// Writes the program anew. A script without faults is kept in its canonical form; one with faults is kept as typed,
    /// so that nothing is lost.
    /// </summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="baseRevision">The revision that was edited.</param>
    /// <param name="program">Which program, by its place; null for the one that runs.</param>
    /// <param name="script">The new text.</param>
    /// <param name="mark">Gives the marks of numbers that this edit calculated, from the canonical program; null for none.</param>
    /// <param name="what">What changed, in words; null to say it from the difference.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>The number of the current revision; the same as before when nothing changed.</returns>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    /// <exception cref="InputProblem">When the script is too long.</exception>
    public Task<int> SaveProgram(string id, int baseRevision, int? program, string script, Func<ProgramNode, IEnumerable<NumberMark>>? mark, string? what, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        var design = Designs.Read(head.Document);
        if (script.Length > 200_000) throw new InputProblem("script", "A script has at most 200000 characters.");
        var parse = ScriptParser.Parse(script, Vocabulary.Of(design));
        var text = parse.Diagnostics.Count == 0 ? Printer.Print(parse.Program) : script.ReplaceLineEndings("\n");
        if (parse.Diagnostics.Count == 0) parse = ScriptParser.Parse(text, Vocabulary.Of(design));
        var index = program ?? design.MainProgram;
        if (index < 0 || index >= Math.Max(1, design.Programs.Count)) throw new NotStored($"The rig has no program {index}.");
        var old = design.ProgramAt(index);
        var marks = Sheet.Keep(old.Marks.ToArray(), parse.Program);
        if (mark is not null)
        {
            var added = mark(parse.Program).ToArray();
            marks = marks.Where(m => !added.Any(a => a.Owner == m.Owner && a.Line == m.Line && a.Index == m.Index)).Concat(added).ToSequence();
        }
        var next = RigPrograms.Renamed(design.WithProgram(index, old with { Script = text, Marks = marks }), index, ScriptParser.NameOf(old.Script) ?? "", ScriptParser.NameOf(text) ?? "");
        if (next == design) return rig.HeadRevision;
        return await Revise(rig, next, what ?? Difference(old.Script, text), cancel);
    }, cancel);

    /// <summary>Runs leads to ports anew; a new revision of the design. Faulty wiring is kept as it is: it is what the rig has.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> SaveWires(string id, int baseRevision, IReadOnlyList<Wire> wires, string what, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        var design = Designs.Read(head.Document);
        var next = design with { Wires = wires.ToSequence() };
        return next == design ? rig.HeadRevision : await Revise(rig, next, what, cancel);
    }, cancel);

    /// <summary>Says anew what feeds the rig; a new revision of the design.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> SavePower(string id, int baseRevision, RigPower power, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        var design = Designs.Read(head.Document);
        var next = design with { Power = power };
        return next == design ? rig.HeadRevision : await Revise(rig, next, "changed what feeds the rig", cancel);
    }, cancel);

    /// <summary>Gives a sensor one more zone; a new revision of the design.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> AddZone(string id, int baseRevision, string sensor, string zone, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, head) = await Head(id, cancel);
        if (rig.HeadRevision != baseRevision) throw new StaleEdit(rig.HeadRevision, head.What);
        var design = Designs.Read(head.Document);
        return await Revise(rig, design with { Sensors = design.Sensors.Select(e => e.Name == sensor ? e with { Zones = e.Zones.Append(zone).ToSequence() } : e).ToSequence() },
            $"added the zone {zone} to {sensor}", cancel);
    }, cancel);

    private static string Difference(string before, string after)
    {
        string[] a = Lines(before), b = Lines(after);
        var gone = a.Except(b).ToArray();
        var come = b.Except(a).ToArray();
        return (gone.Length, come.Length) switch
        {
            (0, 0) => "moved lines",
            (0, 1) => $"added “{Clip(come[0])}”",
            (1, 0) => $"took out “{Clip(gone[0])}”",
            (_, 1) => $"changed to “{Clip(come[0])}”",
            (0, var n) => $"added {n} lines",
            (var n, 0) => $"took out {n} lines",
            (_, var n) => $"changed {n} lines",
        };
        static string[] Lines(string s) => [.. s.Split('\n').Select(l => l.Trim()).Where(l => l != "")];
        static string Clip(string s) => s.Length <= 70 ? s : s[..70] + "…";
    }

    private async Task<(RigRow, RevisionRow)> Head(string id, CancellationToken cancel)
    {
        var rig = await db.Rigs.FirstOrDefaultAsync(r => r.Id == id, cancel) ?? throw new NotStored($"There is no rig “{id}”.");
        return (rig, await db.Revisions.FirstAsync(r => r.RigId == id && r.Number == rig.HeadRevision, cancel));
    }

    private async Task<int> Revise(RigRow rig, RigDesign next, string what, CancellationToken cancel)
    {
        var before = rig.HeadRevision;
        AddRevision(rig, Documents.Write(next), what);
        await AddEdit(rig.Id, what, "design", before, rig.HeadRevision, cancel);
        return rig.HeadRevision;
    }

    private void AddRevision(RigRow rig, string document, string what)
    {
        db.Revisions.Add(new() { RigId = rig.Id, Number = rig.HeadRevision + 1, Parent = rig.HeadRevision, Hash = Documents.Hash(document), TimeUtc = Now, What = what, Document = document });
        rig.HeadRevision++;
    }

    private Task<ChangeRow?> LastChange(string id, CancellationToken cancel) =>
        db.Changes.AsNoTracking().Where(c => c.RigId == id).OrderByDescending(c => c.Id).FirstOrDefaultAsync(cancel);

    private async Task AddEdit(string id, string what, string target, long before, long after, CancellationToken cancel)
    {
        var last = await LastChange(id, cancel);
        var row = new ChangeRow { RigId = id, TimeUtc = Now, What = what, Target = target, Before = before, After = after, Below = last?.UndoNext ?? 0, RedoStack = "" };
        db.Changes.Add(row);
        await db.SaveChangesAsync(cancel);
        row.Edit = row.UndoNext = row.Id;
    }

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
    public Task<int> AddReadings(string id, int copy, string sensor, IReadOnlyList<ZoneReadings> readings, ReadingOrigin origin, string who, string conditions, string mode, double? supplyV, CancellationToken cancel, string? what = null) => Write(id, async () =>
    {
        var added = readings.Select(z => new RecordingRow
        {
            RigId = id, Copy = copy, Sensor = sensor, Zone = z.Zone, Origin = origin, TimeUtc = Now, Who = who, Conditions = conditions, Mode = mode, SupplyV = supplyV, Values = Documents.Pack(z.Readings),
        }).ToArray();
        db.Recordings.AddRange(added);
        await db.SaveChangesAsync(cancel);
        var count = readings.Sum(r => r.Readings.Count);
        var verb = origin switch { ReadingOrigin.Recorded => "recorded", ReadingOrigin.Csv => "read in", _ => "pasted" };
        return await NextCalibration(id, copy, sensor, null, what ?? $"{verb} {Figures.Count(count, "reading")} of {string.Join(" and ", readings.Select(r => r.Zone))}",
            c => c.Recordings = string.Join(',', [.. Ids(c.Recordings), .. added.Select(a => a.Id)]), cancel);
    }, cancel);

    /// <summary>Keeps these trials of a motion and no others; the earlier ones stay in earlier versions. What was accepted stays.</summary>
    /// <exception cref="StaleEdit">When the trials were changed meanwhile.</exception>
    public Task<int> KeepTrials(string id, int copy, string key, int baseVersion, IReadOnlyList<Trial> trials, string what, CancellationToken cancel) => Write(id, async () =>
    {
        var before = await db.Recordings.AsNoTracking().Where(r => r.RigId == id && r.Copy == copy && r.Sensor == key && r.Zone == TrialZone).Select(r => r.Id).ToListAsync(cancel);
        var row = new RecordingRow { RigId = id, Copy = copy, Sensor = key, Zone = TrialZone, Origin = ReadingOrigin.Pasted, TimeUtc = Now, Who = "", Conditions = "", Mode = "", Values = Documents.Pack(trials.SelectMany(t => new[] { t.Asked, t.Commanded, t.Measured }).ToArray()) };
        if (trials.Count > 0)
        {
            db.Recordings.Add(row);
            await db.SaveChangesAsync(cancel);
        }
        return await NextCalibration(id, copy, key, baseVersion, what, c => c.Recordings = string.Join(',', Ids(c.Recordings).Where(i => !before.Contains(i)).Concat(trials.Count > 0 ? [row.Id] : [])), cancel);
    }, cancel);

    /// <summary>Chooses where thresholds are put.</summary>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> ChooseSchool(string id, int copy, string sensor, int baseVersion, School school, double costRatio, CancellationToken cancel) => Write(id, () =>
        NextCalibration(id, copy, sensor, baseVersion, $"threshold of {sensor} placed by {Words(school)}", c =>
        {
            c.School = school;
            c.CostRatio = costRatio;
        }, cancel), cancel);

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
    public Task<int> SetAside(string id, int copy, string sensor, int baseVersion, string zone, double value, string? reason, CancellationToken cancel) => Write(id, () =>
        NextCalibration(id, copy, sensor, baseVersion, reason is null ? $"took {Figures.Show(value)} of {zone} back" : $"set {Figures.Show(value)} of {zone} aside: {reason}", c =>
        {
            var rest = Documents.Read<List<SetAsideReading>>(c.SetAside).Where(s => s.Zone != zone || s.Value != value);
            c.SetAside = Documents.Write(reason is null ? rest.ToList() : [.. rest, new SetAsideReading(zone, value, reason)]);
        }, cancel), cancel);

    /// <summary>Makes an earlier version of a calibration the current one again; a new version, like any edit.</summary>
    /// <exception cref="NotStored">When there is no such version.</exception>
    /// <exception cref="StaleEdit">When the calibration was changed meanwhile.</exception>
    public Task<int> Restore(string id, int copy, string sensor, int baseVersion, int version, CancellationToken cancel) => Write(id, async () =>
    {
        var old = await db.Calibrations.AsNoTracking().FirstOrDefaultAsync(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor && c.Version == version, cancel)
            ?? throw new NotStored($"{sensor} has no version {version} on copy {copy}.");
        return await NextCalibration(id, copy, sensor, baseVersion, $"restored version {version} of {sensor}", c =>
            (c.School, c.CostRatio, c.MaxFalsePerHour, c.Recordings, c.SetAside) = (old.School, old.CostRatio, old.MaxFalsePerHour, old.Recordings, old.SetAside), cancel);
    }, cancel);

    /// <summary>All versions of a calibration, newest first.</summary>
    public async Task<IReadOnlyList<CalibrationRow>> CalibrationHistory(string id, int copy, string sensor, CancellationToken cancel) =>
        await db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor).OrderByDescending(c => c.Version).Take(500).ToListAsync(cancel);

    /// <summary>One version of a calibration.</summary>
    /// <exception cref="NotStored">When there is no such version.</exception>
    public async Task<SensorCalibration> Calibration(RigState state, string sensor, int version, CancellationToken cancel)
    {
        var row = await db.Calibrations.AsNoTracking().FirstOrDefaultAsync(c => c.RigId == state.Id && c.Copy == state.Copy && c.Sensor == sensor && c.Version == version, cancel)
            ?? throw new NotStored($"{sensor} has no version {version} on copy {state.Copy}.");
        return (await Read(row, Readers(state.Design, state.Delivered).First(e => e.Name == sensor), cancel)).Item1;
    }

    /// <summary>The recordings of a calibration, without their readings, in order.</summary>
    public async Task<IReadOnlyList<(string Zone, ReadingOrigin Origin, DateTime TimeUtc, string Who, string Conditions, string Mode, double? SupplyV, int Count)>> RecordingsOf(CalibrationRow row, CancellationToken cancel)
    {
        var ids = Ids(row.Recordings);
        var rows = await db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).OrderBy(r => r.Id)
            .Select(r => new { r.Zone, r.Origin, r.TimeUtc, r.Who, r.Conditions, r.Mode, r.SupplyV, Bytes = r.Values.Length }).ToListAsync(cancel);
        return [.. rows.Select(r => (r.Zone, r.Origin, r.TimeUtc, r.Who, r.Conditions, r.Mode, r.SupplyV, r.Bytes / sizeof(double)))];
    }

    /// <summary>How a school is called in a sentence.</summary>
    public static string Words(School school) => school switch
    {
        School.EqualRisk => "equal risk",
        School.Midpoint => "midpoint of means",
        School.MidGap => "middle of the gap",
        _ => "cost of each error",
    };

    private async Task<int> NextCalibration(string id, int copy, string sensor, int? baseVersion, string what, Action<CalibrationRow> change, CancellationToken cancel)
    {
        var current = await db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor).OrderByDescending(c => c.Version).FirstOrDefaultAsync(cancel);
        if (baseVersion is { } based && based != (current?.Version ?? 0)) throw new StaleEdit(current?.Version ?? 0, current?.What ?? "");
        var next = Copy(current, id, copy, sensor, what);
        change(next);
        db.Calibrations.Add(next);
        await db.SaveChangesAsync(cancel);
        await AddEdit(id, what, $"{copy}/{sensor}", current?.Id ?? 0, next.Id, cancel);
        return next.Version;
    }

    private CalibrationRow Copy(CalibrationRow? from, string id, int copy, string sensor, string what) => new()
    {
        RigId = id, Copy = copy, Sensor = sensor, Version = (from?.Version ?? 0) + 1, TimeUtc = Now, What = what, School = from?.School ?? School.EqualRisk,
        CostRatio = from?.CostRatio ?? 1, MaxFalsePerHour = from?.MaxFalsePerHour ?? 1, Recordings = from?.Recordings ?? "", SetAside = from?.SetAside ?? "[]",
    };

    /// <summary>What undo and redo would do now.</summary>
    public async Task<UndoState> UndoState(string id, CancellationToken cancel)
    {
        if (await LastChange(id, cancel) is not { } last) return new(null, null);
        var redo = Ids(last.RedoStack);
        var undoWhat = last.UndoNext == 0 ? null : (await db.Changes.AsNoTracking().FirstAsync(c => c.Id == last.UndoNext, cancel)).What;
        var redoId = redo.Length == 0 ? 0 : redo[0];
        return new(undoWhat, redoId == 0 ? null : (await db.Changes.AsNoTracking().FirstAsync(c => c.Id == redoId, cancel)).What);
    }

    /// <summary>Takes the latest edit back, or does the latest undone one again. Both write a new revision or version; nothing is overwritten.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="redo">True to do again, false to take back.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>What was taken back or done again and its target; null when there is nothing.</returns>
    public Task<(string What, string Target)?> Undo(string id, bool redo, CancellationToken cancel) => Write<(string, string)?>(id, async () =>
    {
        if (await LastChange(id, cancel) is not { } last) return null;
        var stack = Ids(last.RedoStack);
        var key = redo ? (stack.Length > 0 ? stack[0] : 0) : last.UndoNext;
        if (key == 0) return null;
        var edit = await db.Changes.AsNoTracking().FirstAsync(c => c.Id == key, cancel);
        var wanted = redo ? edit.After : edit.Before;
        var what = $"{(redo ? "redid" : "undid")}: {edit.What}";
        if (edit.Target == "design")
        {
            var (rig, _) = await Head(id, cancel);
            var document = (await db.Revisions.AsNoTracking().FirstAsync(r => r.RigId == id && r.Number == wanted, cancel)).Document;
            AddRevision(rig, document, what);
        }
        else
        {
            var slash = edit.Target.IndexOf('/');
            var copy = int.Parse(edit.Target[..slash]);
            var sensor = edit.Target[(slash + 1)..];
            var current = await db.Calibrations.AsNoTracking().Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor).OrderByDescending(c => c.Version).FirstAsync(cancel);
            var from = wanted == 0 ? null : await db.Calibrations.AsNoTracking().FirstAsync(c => c.Id == wanted, cancel);
            var next = Copy(from, id, copy, sensor, what);
            next.Version = current.Version + 1;
            db.Calibrations.Add(next);
        }
        db.Changes.Add(new()
        {
            RigId = id, TimeUtc = Now, What = what, Edit = edit.Id, Target = edit.Target, Before = edit.Before, After = edit.After,
            UndoNext = redo ? edit.Id : edit.Below, Below = edit.Below,
            RedoStack = string.Join(',', redo ? stack.Skip(1) : stack.Prepend(edit.Id)),
        });
        return (edit.What, edit.Target);
    }, cancel);

    /// <summary>Revisions, newest first.</summary>
    public async Task<IReadOnlyList<(int Number, DateTime TimeUtc, string What)>> Revisions(string id, int most, CancellationToken cancel) =>
        [.. (await db.Revisions.AsNoTracking().Where(r => r.RigId == id).OrderByDescending(r => r.Number).Take(most)
            .Select(r => new { r.Number, r.TimeUtc, r.What }).ToListAsync(cancel)).Select(r => (r.Number, r.TimeUtc, r.What))];

    /// <summary>Adds a copy: its numbers are guesses taken over from the first, and it has no readings yet.</summary>
    /// <returns>Its number.</returns>
    public Task<int> AddCopy(string id, string team, CancellationToken cancel) => Write(id, async () =>
    {
        var copies = await db.Copies.AsNoTracking().Where(c => c.RigId == id).OrderBy(c => c.Number).ToListAsync(cancel);
        if (copies.Count == 0) throw new NotStored($"There is no rig “{id}”.");
        if (copies.Count >= MostCopies) throw new InputProblem("team", $"A rig has at most {MostCopies} copies.");
        var number = copies[^1].Number + 1;
        // The simulated controller of a new copy sees the world a little differently, as a real one would; nobody is told how.
        var noise = new RandomStream((ulong)number, 77);
        var truth = Documents.Read<Dictionary<string, SeenSurface>>(copies[0].Truth).ToDictionary(t => t.Key, t =>
        {
            var gain = 1 + 0.06 * noise.Normal();
            return t.Value with { Mean = t.Value.Mean is 0 or 1 ? t.Value.Mean : t.Value.Mean * gain, Sd = t.Value.Sd * Math.Exp(0.12 * noise.Normal()), Rgb = t.Value.Rgb is null ? null : [.. t.Value.Rgb.Select(c => c * gain)] };
        });
        db.Copies.Add(new()
        {
            RigId = id, Number = number, Team = team, Truth = Documents.Write(truth),
            Motion = copies[0].Motion == "" ? "" : Documents.Write(Documents.Read<RailMotion>(copies[0].Motion).AsGuesses($"taken over from copy {copies[0].Number}, never tried here")),
        });
        return number;
    }, cancel);

    /// <summary>Most copies of a rig.</summary>
    public const int MostCopies = 60;

    /// <summary>Says which team works on a copy.</summary>
    public Task<bool> NameTeam(string id, int copy, string team, CancellationToken cancel) => Write(id, async () =>
    {
        var row = await db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel) ?? throw new NotStored($"{id} has no copy {copy}.");
        row.Team = team;
        return true;
    }, cancel);

    /// <summary>Puts the current revision on a copy's simulated controller.</summary>
    public Task<int> Send(string id, int copy, CancellationToken cancel) => Write(id, async () =>
    {
        var (rig, _) = await Head(id, cancel);
        var row = await db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel) ?? throw new NotStored($"{id} has no copy {copy}.");
        row.ControllerRevision = rig.HeadRevision;
        return rig.HeadRevision;
    }, cancel);

    /// <summary>What can be put before a sensor of the simulated controller of a copy, and a number for its next recording's noise.</summary>
    /// <param name="state">The rig and copy.</param>
    /// <param name="sensor">The sensor.</param>
    /// <param name="next">True to count one more recording.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public async Task<(IReadOnlyDictionary<string, BenchThing> Things, int Recording)> Bench(RigState state, Sensor sensor, bool next, CancellationToken cancel)
    {
        Task<CopyRow?> Find(IQueryable<CopyRow> copies) => copies.FirstOrDefaultAsync(c => c.RigId == state.Id && c.Number == state.Copy, cancel);
        var row = next
            ? await Write(state.Id, async () =>
            {
                var own = await Find(db.Copies) ?? throw new NotStored($"{state.Id} has no copy {state.Copy}.");
                own.Recordings++;
                return own;
            }, cancel)
            : await Find(db.Copies.AsNoTracking()) ?? throw new NotStored($"{state.Id} has no copy {state.Copy}.");
        var things = new Dictionary<string, BenchThing>();
        // What the demo knows of this copy first; a key without a sensor is of the first eye, as it was stored at first.
        foreach (var (key, seen) in Documents.Read<Dictionary<string, SeenSurface>>(row.Truth))
        {
            var slash = key.IndexOf('/');
            if (slash < 0 ? sensor == state.Design.Eyes.FirstOrDefault() : key[..slash] == sensor.Name)
                things[key[(slash + 1)..]] = new(key[(slash + 1)..], seen.Mean, seen.Sd, seen.Rgb, seen.PerAmount, seen.Lag1, seen.Silent, seen.DriftPerMinute, seen.Taps);
        }
        foreach (var thing in SampleBench.Things(sensor.Kind))
            things.TryAdd(thing.Name, SampleBench.Seen(thing, SampleBench.Seed(state.Id, state.Copy.ToString(), sensor.Name)));
        return (things, row.Recordings);
    }

    /// <summary>Keeps a proof.</summary>
    public Task KeepProof(RigState state, Proof proof, long seed, bool light, CancellationToken cancel) => Write(state.Id, () =>
    {
        db.Proofs.Add(new()
        {
            RigId = state.Id, Copy = state.Copy, Revision = state.Revision, Inputs = state.Inputs, Runs = proof.Runs, Seed = seed, Passes = proof.Passes, Light = light, TimeUtc = Now,
            Result = light ? "" : Documents.Write(proof),
        });
        return Task.FromResult(true);
    }, cancel);

    /// <summary>The proof with the most runs of exactly these inputs, or null.</summary>
    public Task<ProofRow?> BestProof(RigState state, CancellationToken cancel)
    {
        var inputs = state.Inputs;
        return db.Proofs.AsNoTracking().Where(p => p.RigId == state.Id && p.Copy == state.Copy && p.Inputs == inputs && p.Runs > 0)
            .OrderByDescending(p => p.Runs).ThenByDescending(p => p.Id).FirstOrDefaultAsync(cancel);
    }

    /// <summary>The latest full proof of a copy, whatever its inputs were.</summary>
    public Task<ProofRow?> LatestProof(string id, int copy, CancellationToken cancel) =>
        db.Proofs.AsNoTracking().Where(p => p.RigId == id && p.Copy == copy && !p.Light).OrderByDescending(p => p.Id).FirstOrDefaultAsync(cancel);

    /// <summary>Keeps a watched run and gives it a number.</summary>
    public Task<long> KeepRun(RigState state, RunReport report, double durationS, IReadOnlyList<Fault> faults, CancellationToken cancel) => Write(state.Id, async () =>
    {
        var row = new RunRow
        {
            RigId = state.Id, Copy = state.Copy, Revision = state.Revision, Calibrations = string.Join(',', state.CalibrationRows.Values.Concat(state.TrialRows.Values).Select(c => c.Id)), Seed = report.Seed,
            DurationS = durationS, Faults = Documents.Write(faults), Passed = report.Passed, EndS = report.EndS, TimeUtc = Now,
        };
        db.Runs.Add(row);
        await db.SaveChangesAsync(cancel);
        return row.Id;
    }, cancel);

    /// <summary>The latest watched run of a copy, or null.</summary>
    public Task<RunRow?> LatestRun(string id, int copy, CancellationToken cancel) =>
        db.Runs.AsNoTracking().Where(r => r.RigId == id && r.Copy == copy).OrderByDescending(r => r.Id).FirstOrDefaultAsync(cancel);
}

/// <summary>What a simulated sensor of a copy sees over something, as stored.</summary>
public sealed record SeenSurface(double Mean, double Sd, double[]? Rgb = null, double PerAmount = 0, double Lag1 = 0, double Silent = 0, double DriftPerMinute = 0, bool Taps = false);

/// <summary>Preflight of a copy so far.</summary>
/// <param name="Checked">Keys of the checklist that are ticked.</param>
/// <param name="Seen">What was tried and seen.</param>
/// <param name="Planted">Faults the simulated controller was given.</param>
/// <param name="Shown">True once the planted faults were shown.</param>
public sealed record PreflightState(IReadOnlyList<string>? Checked = null, IReadOnlyList<Seen>? Seen = null, IReadOnlyList<BenchFault>? Planted = null, bool Shown = false);
