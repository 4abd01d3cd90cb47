using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>What a new copy comes with besides its file: only the demo knows what its simulated bench really sees.</summary>
/// <param name="Truth">What its sensors really see.</param>
/// <param name="Sent">True when its controller holds the first revision.</param>
public sealed record NewCopy(IReadOnlyDictionary<string, SeenSurface> Truth, bool Sent);

/// <summary>Rigs as files, in and out: whole, in one transaction.</summary>
public sealed class FileStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Adds a rig with its copies, what they know, and the routines that its programs use.</summary>
    /// <param name="file">The file, already checked.</param>
    /// <param name="what">How it came to be, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="id">Its address; null for a free one after its name.</param>
    /// <param name="copies">What its copies come with besides; null for nothing.</param>
    /// <returns>Its address.</returns>
    public Task<string> Add(RigFile file, string what, CancellationToken cancel, string? id = null, Func<int, NewCopy>? copies = null) =>
        Write(
            async () =>
            {
                var design = file.Design!;
                id ??= await FreeId(design.Name, cancel);
                FileRevision[] earlier = [.. (file.Log?.Earlier ?? []).OrderBy(e => e.Number)];
                var head = earlier.Length + 1;
                Db.Rigs.Add(
                    new()
                    {
                        Id = id,
                        HeadRevision = head,
                        CreatedUtc = Now,
                    }
                );
                // Revisions are numbered from 1 here, whatever they were called there.
                var numbers = new Dictionary<int, int> { [file.Log?.Revision ?? 1] = head };
                foreach (var (number, made) in earlier.Append(new(head, design, null, what)).Index())
                {
                    if (number < earlier.Length)
                        numbers[made.Number] = number + 1;
                    var document = Documents.Write(made.Design!);
                    Db.Revisions.Add(
                        new()
                        {
                            RigId = id,
                            Number = number + 1,
                            Parent = number,
                            Hash = Documents.Hash(document),
                            TimeUtc = made.TimeUtc?.ToUniversalTime() ?? Now,
                            What = made.What ?? what,
                            Document = document,
                        }
                    );
                }
                foreach (var copy in file.Copies ?? [])
                {
                    var with = copies?.Invoke(copy.Number);
                    // A file from before does not say what it was measured on, and its marks do not tell either.
                    var rows =
                        (copy.Calibrations ?? []).Sum(c => c.Recordings.Sum(r => r.Readings.Count))
                        + (copy.Motions ?? []).Sum(m => m.Trials?.Count ?? 0)
                        + (copy.Positions ?? []).Sum(p => p.Angles?.Count ?? 0);
                    var (kind, asks) = copy.Kind is { } said ? (said, false) : Units.Judge(new(0, 0, rows));
                    var unit = new UnitRow { Kind = kind, Label = copy.Unit?.Trim() ?? "" };
                    if (with?.Sent == true)
                        (unit.HeldRig, unit.HeldRevision) = (id, head);
                    FileSend[] sends = [.. (file.Log?.Sends ?? []).Where(s => s.Copy == copy.Number)];
                    if (sends.Length > 0 && kind == UnitKind.Real)
                        (unit.HeldRig, unit.HeldRevision) = (id, numbers[sends[^1].Revision]);
                    Db.Units.Add(unit);
                    await Db.SaveChangesAsync(cancel);
                    Db.Sends.AddRange(
                        sends.Select(s => new SendRow
                        {
                            RigId = id,
                            Copy = copy.Number,
                            UnitId = unit.Id,
                            Revision = numbers[s.Revision],
                            Hash = "",
                            TimeUtc = s.TimeUtc.ToUniversalTime(),
                        })
                    );
                    Db.Copies.Add(
                        new()
                        {
                            RigId = id,
                            Number = copy.Number,
                            Team = copy.Team?.Trim() ?? "",
                            UnitId = unit.Id,
                            AsksKind = asks,
                            Motion = copy.Motion is null ? "" : Documents.Write(copy.Motion),
                            Truth = Documents.Write(with?.Truth ?? new Dictionary<string, SeenSurface>()),
                        }
                    );
                    foreach (var calibration in copy.Calibrations ?? [])
                        await Add(id, copy.Number, calibration, cancel);
                    foreach (var motion in copy.Motions ?? [])
                        await Add(id, copy.Number, motion, cancel);
                    foreach (var found in (copy.Positions ?? []).GroupBy(p => p.Mechanism))
                        await Add(id, copy.Number, found.Key, [.. found], cancel);
                }
                Add(id, file.Log, numbers);
                await Db.SaveChangesAsync(cancel);
                var library = new RoutineStore(Db, Clock);
                foreach (var routine in file.Routines ?? [])
                    await library.KeepRoutine(routine, null, cancel);
                return id;
            },
            cancel
        );

    private void Add(string id, FileLog? log, Dictionary<int, int> numbers)
    {
        Db.Series.AddRange(
            (log?.Series ?? []).Select(s => new SeriesRow
            {
                Key = s.Key!,
                RigId = id,
                Copy = s.Copy,
                Planned = s.Planned,
                Scene = s.Scene ?? "",
                Light = s.Light ?? "",
                Pack = s.Pack ?? "",
                Floor = s.Floor ?? "",
                Who = s.Who ?? "",
                TimeUtc = s.TimeUtc.ToUniversalTime(),
            })
        );
        Db.Log.AddRange((log?.Runs ?? []).Select(r => LogStore.Row(id, r, numbers[r.Revision], Now)));
    }

    private async Task<FileLog?> Log(string id, IReadOnlyList<SendRow> sends, RigStore rigs, CancellationToken cancel)
    {
        var lines = await rigs.Log.Lines(id, null, cancel);
        if (lines.Count == 0 && sends.Count == 0)
            return null;
        var series = await rigs.Log.SeriesOf(id, null, cancel);
        var head = (await Db.Rigs.AsNoTracking().FirstAsync(r => r.Id == id, cancel)).HeadRevision;
        var ran = lines.Select(l => l.Revision).Concat(sends.Select(s => s.Revision)).Where(r => r != head).Distinct().ToArray();
        var rows = await Db
            .Revisions.AsNoTracking()
            .Where(r => r.RigId == id && ran.Contains(r.Number))
            .OrderBy(r => r.Number)
            .ToListAsync(cancel);
        return new(
            head,
            [.. rows.Select(r => new FileRevision(r.Number, Designs.Read(r.Document), Utc(r.TimeUtc), r.What))],
            [.. series.Select(s => new FileSeries(s.Key, s.Copy, Utc(s.TimeUtc), s.Planned, s.Scene, s.Light, s.Pack, s.Floor, s.Who))],
            LogStore.Entries(lines, series),
            [.. sends.Select(s => new FileSend(s.Copy, s.Revision, Utc(s.TimeUtc)))]
        );
    }

    private async Task Add(string id, int copy, FileCalibration calibration, CancellationToken cancel)
    {
        var recordings = calibration
            .Recordings.Where(z => z.Readings.Count > 0)
            .Select(z => new RecordingRow
            {
                RigId = id,
                Copy = copy,
                Sensor = calibration.Sensor,
                Zone = z.Zone,
                Origin = z.Origin ?? ReadingOrigin.Recorded,
                TimeUtc = z.TimeUtc ?? Now,
                Who = z.Who ?? "",
                Conditions = z.Conditions ?? "",
                Mode = z.Mode ?? "",
                SupplyV = z.SupplyV,
                Values = Documents.Pack(z.Readings),
                Times = z.TimesMicros is null ? null : Documents.Pack(z.TimesMicros),
            })
            .ToArray();
        Db.Recordings.AddRange(recordings);
        await Db.SaveChangesAsync(cancel);
        Db.Calibrations.Add(
            new()
            {
                RigId = id,
                Copy = copy,
                Sensor = calibration.Sensor,
                Version = 1,
                TimeUtc = recordings.Length == 0 ? Now : recordings.Max(r => r.TimeUtc),
                What = OldCopies.CameIn,
                School = calibration.School,
                CostRatio = calibration.CostRatio,
                MaxFalsePerHour = calibration.MaxFalsePerHour,
                Recordings = List(recordings.Select(r => r.Id)),
                SetAside = Documents.Write(calibration.SetAside ?? []),
            }
        );
    }

    private async Task Add(string id, int copy, FileMotion motion, CancellationToken cancel)
    {
        var trials = (motion.Trials ?? [])
            .Select(t => new TrialRow
            {
                RigId = id,
                Copy = copy,
                Motion = motion.Motion,
                Asked = t.Asked,
                Commanded = t.Commanded,
                Measured = t.Measured,
                Origin = t.Origin ?? ReadingOrigin.Pasted,
                TimeUtc = t.TimeUtc ?? Now,
                Who = t.Who ?? "",
                Told = t.Told ?? "",
            })
            .ToArray();
        Db.Trials.AddRange(trials);
        var accepted = motion.Accepted is { } number ? MotionStore.Row(id, copy, motion.Motion, Now, number) : null;
        if (accepted is not null)
            Db.Accepted.Add(accepted);
        await Db.SaveChangesAsync(cancel);
        Db.Motions.Add(
            new()
            {
                RigId = id,
                Copy = copy,
                Motion = motion.Motion,
                Version = 1,
                TimeUtc = trials.Length == 0 ? Now : trials.Max(t => t.TimeUtc),
                What = OldCopies.TriedBefore,
                Trials = List(trials.Select(t => t.Id)),
                Accepted = accepted?.Id,
            }
        );
    }

    private async Task Add(string id, int copy, string mechanism, IReadOnlyList<FilePosition> positions, CancellationToken cancel)
    {
        var found = positions
            .SelectMany(p =>
                (p.Angles ?? []).Select(a => new PositionRow
                {
                    RigId = id,
                    Copy = copy,
                    Mechanism = mechanism,
                    Position = p.Position,
                    Angle = a,
                    Origin = ReadingOrigin.Recorded,
                    TimeUtc = p.TimeUtc ?? Now,
                    Who = p.Who ?? "",
                    Conditions = p.Conditions ?? "",
                })
            )
            .ToArray();
        Db.Found.AddRange(found);
        await Db.SaveChangesAsync(cancel);
        Db.Positions.Add(
            new()
            {
                RigId = id,
                Copy = copy,
                Mechanism = mechanism,
                Version = 1,
                TimeUtc = found.Length == 0 ? Now : found.Max(f => f.TimeUtc),
                What = "found before the lesson",
                Found = List(found.Select(f => f.Id)),
            }
        );
    }

    // A free address for a rig of that name: lower-case words with hyphens, numbered when taken.
    internal async Task<string> FreeId(string name, CancellationToken cancel) =>
        Free(name, "rig", await Db.Rigs.AsNoTracking().Select(r => r.Id).ToListAsync(cancel));

    /// <summary>A free address for something of a name.</summary>
    /// <param name="name">The name.</param>
    /// <param name="other">What it is called where nothing of the name can stand in an address.</param>
    /// <param name="taken">Addresses that are taken.</param>
    internal static string Free(string name, string other, IReadOnlyCollection<string> taken)
    {
        const string accented = "àáâãäåçèéêëìíîïñòóôõöøùúûüýÿ",
            plain = "aaaaaaceeeeiiiinoooooouuuuyy";
        var words = string.Concat(
            name.ToLowerInvariant()
                .Select(c =>
                    accented.IndexOf(c) is >= 0 and var at ? plain[at]
                    : char.IsAsciiLetterOrDigit(c) ? c
                    : '-'
                )
        );
        var stem = string.Join('-', words.Split('-', StringSplitOptions.RemoveEmptyEntries));
        if (stem == "")
            stem = other;
        for (var n = 1; ; n++)
            if ((n == 1 ? stem : $"{stem}-{n}") is var id && !taken.Contains(id) && id is not "schema" and not "templates")
                return id;
    }

    /// <summary>A rig as a file: the design of now and what every copy knows.</summary>
    /// <exception cref="NotStored">When there is no such rig.</exception>
    public async Task<RigFile> Export(string id, CancellationToken cancel)
    {
        var rigs = new RigStore(Db, Clock);
        var copies = new List<FileCopy>();
        RigDesign? design = null;
        foreach (var row in await rigs.Copies.Copies(id, cancel))
        {
            var state = await rigs.Load(id, row.Number, null, cancel);
            design = state.Design;
            var calibrations = new List<FileCalibration>();
            foreach (var c in state.CalibrationRows.Values.OrderBy(c => c.Sensor, StringComparer.Ordinal))
            {
                var ids = Ids(c.Recordings);
                var recordings = await Db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).OrderBy(r => r.Id).ToListAsync(cancel);
                calibrations.Add(
                    new(
                        c.Sensor,
                        c.School,
                        c.CostRatio,
                        c.MaxFalsePerHour,
                        [
                            .. recordings.Select(r => new FileRecording(
                                r.Zone,
                                Documents.Unpack(r.Values),
                                Utc(r.TimeUtc),
                                r.Who,
                                r.Conditions,
                                r.Mode,
                                r.SupplyV
                            )
                            {
                                Origin = r.Origin,
                                TimesMicros = r.Times is null ? null : Documents.Unpack(r.Times),
                            }),
                        ],
                        Documents.Read<List<SetAsideReading>>(c.SetAside)
                    )
                );
            }
            copies.Add(
                new(row.Number, row.Team, state.Delivered, calibrations, await Motions(state, cancel), await Positions(state, cancel))
                {
                    // One that nobody has said it of yet is asked about again where it is read in.
                    Kind = row.AsksKind ? null : state.Unit.Kind,
                    Unit = state.Unit.Label == "" ? null : state.Unit.Label,
                }
            );
        }
        if (design is null)
            throw new NotStored($"There is no rig “{id}”.");
        // Of the library what its programs have goes along.
        var used = RigPrograms.Of(design).SelectMany(p => p.Parsed.Program.Routines).Select(r => r.Name).ToHashSet();
        var routines = (await rigs.Library.Routines(cancel)).Select(r => r.Routine).Where(r => used.Contains(r.Name)).ToArray();
        var sends = await Db.Sends.AsNoTracking().Where(s => s.RigId == id).OrderBy(s => s.TimeUtc).ThenBy(s => s.Id).ToListAsync(cancel);
        return new(RigFile.FormatName, RigFile.CurrentVersion, design, copies, routines.Length == 0 ? null : routines)
        {
            Log = await Log(id, sends, rigs, cancel),
        };
    }

    private async Task<IReadOnlyList<FileMotion>?> Motions(RigState state, CancellationToken cancel)
    {
        var made = new List<FileMotion>();
        foreach (var plan in state.Moves.Plans)
        {
            if (!state.MotionVersions.TryGetValue(plan.Key, out var version))
                continue;
            var row = await Db
                .Motions.AsNoTracking()
                .FirstAsync(m => m.RigId == state.Id && m.Copy == state.Copy && m.Motion == plan.Key && m.Version == version, cancel);
            var ids = Ids(row.Trials);
            var trials = await Db.Trials.AsNoTracking().Where(t => ids.Contains(t.Id)).ToDictionaryAsync(t => t.Id, cancel);
            made.Add(
                new(
                    plan.Key,
                    [
                        .. ids.Select(i => trials[i])
                            .Select(t => new FileTrial(t.Asked, t.Commanded, t.Measured, Utc(t.TimeUtc), t.Who, t.Origin)
                            {
                                Told = t.Told == "" ? null : t.Told,
                            }),
                    ],
                    state.Moves.Accepted(plan)
                )
            );
        }
        return made.Count == 0 ? null : made;
    }

    private async Task<IReadOnlyList<FilePosition>?> Positions(RigState state, CancellationToken cancel)
    {
        var made = new List<FilePosition>();
        foreach (var mechanism in state.Design.Mechanisms)
        {
            if (!state.Positions.TryGetValue(mechanism.Name, out var found))
                continue;
            var row = await Db
                .Positions.AsNoTracking()
                .FirstAsync(
                    p => p.RigId == state.Id && p.Copy == state.Copy && p.Mechanism == mechanism.Name && p.Version == found.Version,
                    cancel
                );
            var ids = Ids(row.Found);
            var rows = await Db.Found.AsNoTracking().Where(f => ids.Contains(f.Id)).OrderBy(f => f.Id).ToListAsync(cancel);
            // One entry for what was found at one sitting.
            made.AddRange(
                rows.GroupBy(f => (f.Position, f.TimeUtc, f.Who, f.Conditions))
                    .Select(g => new FilePosition(
                        mechanism.Name,
                        g.Key.Position,
                        [.. g.Select(f => f.Angle)],
                        Utc(g.Key.TimeUtc),
                        g.Key.Who,
                        g.Key.Conditions
                    ))
            );
        }
        return made.Count == 0 ? null : made;
    }
}
