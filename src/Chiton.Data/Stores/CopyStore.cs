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

/// <summary>Copies: who works on them, what their controllers hold, their preflight and their simulated bench.</summary>
public sealed class CopyStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>The copies of a rig.</summary>
    public async Task<IReadOnlyList<CopyRow>> Copies(string rig, CancellationToken cancel) =>
        await Db.Copies.AsNoTracking().Where(c => c.RigId == rig).OrderBy(c => c.Number).ToListAsync(cancel);

    /// <summary>Changes whenever anything that is known of any copy of a rig does.</summary>
    public async Task<string> Stamp(string id, CancellationToken cancel)
    {
        var revision = await Db.Rigs.Where(r => r.Id == id).Select(r => r.HeadRevision).FirstOrDefaultAsync(cancel);
        var calibration = await Db.Calibrations.Where(c => c.RigId == id).MaxAsync(c => (long?)c.Id, cancel) ?? 0;
        var motion = await Db.Motions.Where(m => m.RigId == id).MaxAsync(m => (long?)m.Id, cancel) ?? 0;
        return $"{Db.Database.GetConnectionString()}|{id}|{revision}|{calibration}|{motion}|"
            + $"{await Db.Copies.CountAsync(c => c.RigId == id, cancel)}";
    }

    /// <summary>The same as long as the controller of a copy holds the same, and the same findings are set aside.</summary>
    public async Task<string> SettledStamp(string id, int copy, CancellationToken cancel)
    {
        var unit = await Db
            .Copies.Where(c => c.RigId == id && c.Number == copy)
            .Join(
                Db.Units,
                c => c.UnitId,
                u => u.Id,
                (c, u) =>
                    new
                    {
                        u.Kind,
                        u.HeldRig,
                        u.HeldRevision,
                        u.HeldHash,
                    }
            )
            .FirstOrDefaultAsync(cancel);
        var silences = await Db.Silences.Where(s => s.RigId == id && s.Copy == copy).Select(s => s.Id).ToListAsync(cancel);
        return $"{unit} {string.Join(',', silences)}";
    }

    /// <summary>The units of a rig's copies, by key.</summary>
    public async Task<IReadOnlyDictionary<long, UnitRow>> UnitsOf(string rig, CancellationToken cancel)
    {
        var ids = Db.Copies.Where(c => c.RigId == rig).Select(c => c.UnitId);
        return await Db.Units.AsNoTracking().Where(u => ids.Contains(u.Id)).ToDictionaryAsync(u => u.Id, cancel);
    }

    /// <summary>Adds a copy on a unit of its own: its numbers are guesses taken over from the first, and it has no readings yet.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="team">Team that works on it.</param>
    /// <param name="kind">Real or a stand-in.</param>
    /// <param name="label">What the unit is called; may be empty.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Its number.</returns>
    public Task<int> AddCopy(string id, string team, UnitKind kind, string label, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var copies = await Db.Copies.AsNoTracking().Where(c => c.RigId == id).OrderBy(c => c.Number).ToListAsync(cancel);
                if (copies.Count == 0)
                    throw new NotStored($"There is no rig “{id}”.");
                if (copies.Count >= MostCopies)
                    throw new InputProblem("team", $"A rig has at most {MostCopies} copies.");
                var number = copies[^1].Number + 1;
                var unit = new UnitRow { Kind = kind, Label = label };
                Db.Units.Add(unit);
                await Db.SaveChangesAsync(cancel);
                // The simulated controller of a new copy sees the world a little differently, as a real one would; nobody is told how.
                var noise = new RandomStream((ulong)number, 77);
                var truth = Documents
                    .Read<Dictionary<string, SeenSurface>>(copies[0].Truth)
                    .ToDictionary(
                        t => t.Key,
                        t =>
                        {
                            var gain = 1 + 0.06 * noise.Normal();
                            return t.Value with
                            {
                                Mean = t.Value.Mean is 0 or 1 ? t.Value.Mean : t.Value.Mean * gain,
                                Sd = t.Value.Sd * Math.Exp(0.12 * noise.Normal()),
                                Rgb = t.Value.Rgb is null ? null : [.. t.Value.Rgb.Select(c => c * gain)],
                            };
                        }
                    );
                Db.Copies.Add(
                    new()
                    {
                        RigId = id,
                        Number = number,
                        Team = team,
                        UnitId = unit.Id,
                        Truth = Documents.Write(truth),
                        Motion =
                            copies[0].Motion == ""
                                ? ""
                                : Documents.Write(
                                    Documents
                                        .Read<RailMotion>(copies[0].Motion)
                                        .AsGuesses($"taken over from copy {copies[0].Number}, never tried here")
                                ),
                    }
                );
                return number;
            },
            cancel
        );

    /// <summary>Most copies of a rig.</summary>
    public const int MostCopies = 60;

    /// <summary>Says which team works on a copy, and what its unit is called; null leaves that as it is.</summary>
    public Task<bool> NameTeam(string id, int copy, string team, string? unit, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel)
                    ?? throw new NotStored($"{id} has no copy {copy}.");
                row.Team = team;
                if (unit is not null)
                    (await Db.Units.FirstAsync(u => u.Id == row.UnitId, cancel)).Label = unit;
                return true;
            },
            cancel
        );

    /// <summary>Puts what a copy has now on the controller of its unit; of a real one a team says that it did.</summary>
    /// <param name="state">The rig and copy as they are now.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<int> Send(RigState state, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Copies.FirstOrDefaultAsync(c => c.RigId == state.Id && c.Number == state.Copy, cancel)
                    ?? throw new NotStored($"{state.Id} has no copy {state.Copy}.");
                var unit = await Db.Units.FirstAsync(u => u.Id == row.UnitId, cancel);
                (unit.HeldRig, unit.HeldRevision, unit.HeldHash, unit.HeldUtc) = (state.Id, state.Revision, state.ToSend, Now);
                unit.HeldCalibrations = string.Join(
                    ", ",
                    state.CalibrationRows.OrderBy(c => c.Key, StringComparer.Ordinal).Select(c => $"{c.Key} {c.Value.Version}")
                );
                Db.Sends.Add(
                    new()
                    {
                        RigId = state.Id,
                        Copy = state.Copy,
                        UnitId = unit.Id,
                        Revision = state.Revision,
                        Hash = state.ToSend,
                        TimeUtc = Now,
                    }
                );
                return state.Revision;
            },
            cancel
        );

    /// <summary>Says what a copy from before is. To split it puts what was surely recorded from the simulated controller on a stand-in
    /// of its own, under the next number; everything else, the controller and the team stay with the real one.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="kind">Real or a stand-in; null to split.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Number of the new stand-in; null when the copy was not split.</returns>
    /// <exception cref="InputProblem">When the copy is not asked about.</exception>
    public Task<int?> SayKind(string id, int copy, UnitKind? kind, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel)
                    ?? throw new NotStored($"{id} has no copy {copy}.");
                if (!row.AsksKind)
                    throw new InputProblem("kind", $"What copy {copy} is was said already. Add another copy instead.");
                var unit = await Db.Units.FirstAsync(u => u.Id == row.UnitId, cancel);
                row.AsksKind = false;
                unit.Kind = kind ?? UnitKind.Real;
                if (kind is not null)
                    return (int?)null;
                var copies = await Db.Copies.AsNoTracking().Where(c => c.RigId == id).Select(c => c.Number).ToListAsync(cancel);
                if (copies.Count >= MostCopies)
                    throw new InputProblem("kind", $"A rig has at most {MostCopies} copies.");
                var number = copies.Max() + 1;
                var standIn = new UnitRow { Kind = UnitKind.StandIn };
                Db.Units.Add(standIn);
                await Db.SaveChangesAsync(cancel);
                Db.Copies.Add(
                    new()
                    {
                        RigId = id,
                        Number = number,
                        Team = "",
                        UnitId = standIn.Id,
                        Truth = row.Truth,
                        Motion = row.Motion,
                        Recordings = row.Recordings,
                    }
                );
                await Db.SaveChangesAsync(cancel);
                await SplitReadings(id, copy, number, cancel);
                await SplitTrials(id, copy, number, cancel);
                // What was edited before mixed both: undo ends here, or it would bring the mixture back.
                Db.Changes.Add(
                    new()
                    {
                        RigId = id,
                        TimeUtc = Now,
                        What = $"split copy {copy}",
                        Target = "split",
                        RedoStack = "",
                    }
                );
                return number;
            },
            cancel
        );

    // Rows never change: both copies get versions that hold their own.
    private async Task SplitReadings(string id, int copy, int to, CancellationToken cancel)
    {
        const string what = "split: what was recorded from the simulated controller is on a stand-in";
        var doubtful = await OldCopies.DoubtfulRecordings(Db, id, copy, cancel);
        var newest = Db.Calibrations.Where(c => c.RigId == id && c.Copy == copy).GroupBy(c => c.Sensor).Select(g => g.Max(c => c.Id));
        foreach (var c in await Db.Calibrations.AsNoTracking().Where(c => newest.Contains(c.Id)).ToListAsync(cancel))
        {
            var ids = Ids(c.Recordings);
            var rows = await Db.Recordings.AsNoTracking().Where(r => ids.Contains(r.Id)).ToDictionaryAsync(r => r.Id, cancel);
            RecordingRow[] moved =
            [
                .. ids.Where(i => rows[i].Origin == ReadingOrigin.Recorded && !doubtful.Contains(i)).Select(i => rows[i]),
            ];
            if (moved.Length == 0)
                continue;
            var gone = moved.Select(r => r.Id).ToHashSet();
            foreach (var r in moved)
                (r.Id, r.Copy) = (0, to);
            Db.Recordings.AddRange(moved);
            await Db.SaveChangesAsync(cancel);
            CalibrationRow Version(int of, int version, IEnumerable<long> held) =>
                new()
                {
                    RigId = id,
                    Copy = of,
                    Sensor = c.Sensor,
                    Version = version,
                    TimeUtc = Now,
                    What = what,
                    School = c.School,
                    CostRatio = c.CostRatio,
                    MaxFalsePerHour = c.MaxFalsePerHour,
                    Recordings = List(held),
                    SetAside = c.SetAside,
                };
            Db.Calibrations.AddRange(
                Version(copy, c.Version + 1, ids.Where(i => !gone.Contains(i))),
                Version(to, 1, moved.Select(r => r.Id))
            );
            await Db.SaveChangesAsync(cancel);
        }
    }

    private async Task SplitTrials(string id, int copy, int to, CancellationToken cancel)
    {
        const string what = "split: what was tried on the simulated controller is on a stand-in";
        var sure = await OldCopies.SureTrials(Db, id, copy, cancel);
        var newest = Db.Motions.Where(m => m.RigId == id && m.Copy == copy).GroupBy(m => m.Motion).Select(g => g.Max(m => m.Id));
        foreach (var m in await Db.Motions.AsNoTracking().Where(m => newest.Contains(m.Id)).ToListAsync(cancel))
        {
            var ids = Ids(m.Trials);
            var rows = await Db.Trials.AsNoTracking().Where(t => ids.Contains(t.Id)).ToDictionaryAsync(t => t.Id, cancel);
            TrialRow[] moved = [.. ids.Where(i => rows[i].Origin == ReadingOrigin.Recorded && sure.Contains(i)).Select(i => rows[i])];
            if (moved.Length == 0)
                continue;
            var gone = moved.Select(t => t.Id).ToHashSet();
            foreach (var t in moved)
                (t.Id, t.Copy) = (0, to);
            Db.Trials.AddRange(moved);
            await Db.SaveChangesAsync(cancel);
            MotionRow Version(int of, int version, IEnumerable<long> held, long? accepted) =>
                new()
                {
                    RigId = id,
                    Copy = of,
                    Motion = m.Motion,
                    Version = version,
                    TimeUtc = Now,
                    What = what,
                    Trials = List(held),
                    Accepted = accepted,
                };
            // What was accepted rested on both: it stays with the real one, and the stand-in accepts its own.
            Db.Motions.AddRange(
                Version(copy, m.Version + 1, ids.Where(i => !gone.Contains(i)), m.Accepted),
                Version(to, 1, moved.Select(t => t.Id), null)
            );
            await Db.SaveChangesAsync(cancel);
        }
    }

    /// <summary>What can be put before a sensor of the simulated controller of a copy, and a number for its next recording's
    /// noise.</summary>
    /// <param name="state">The rig and copy.</param>
    /// <param name="sensor">The sensor.</param>
    /// <param name="next">True to count one more recording.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public async Task<(IReadOnlyDictionary<string, BenchThing> Things, int Recording)> Bench(
        RigState state,
        Sensor sensor,
        bool next,
        CancellationToken cancel
    )
    {
        Task<CopyRow?> Find(IQueryable<CopyRow> copies) =>
            copies.FirstOrDefaultAsync(c => c.RigId == state.Id && c.Number == state.Copy, cancel);
        var row = next
            ? await Write(
                async () =>
                {
                    var own = await Find(Db.Copies) ?? throw new NotStored($"{state.Id} has no copy {state.Copy}.");
                    own.Recordings++;
                    return own;
                },
                cancel
            )
            : await Find(Db.Copies.AsNoTracking()) ?? throw new NotStored($"{state.Id} has no copy {state.Copy}.");
        var things = new Dictionary<string, BenchThing>();
        // What the demo knows of this copy first; a key without a sensor is of the first eye, as it was stored at first.
        foreach (var (key, seen) in Documents.Read<Dictionary<string, SeenSurface>>(row.Truth))
        {
            var slash = key.IndexOf('/');
            if (slash < 0 ? sensor == state.Design.Eyes.FirstOrDefault() : key[..slash] == sensor.Name)
                things[key[(slash + 1)..]] = new(
                    key[(slash + 1)..],
                    seen.Mean,
                    seen.Sd,
                    seen.Rgb,
                    seen.PerAmount,
                    seen.Lag1,
                    seen.Silent,
                    seen.DriftPerMinute,
                    seen.Taps
                );
        }
        var own = state.Design.Rail is { } rail ? rail.Markers.Select(m => m.Surface).Prepend(rail.Ground).Distinct() : [];
        foreach (
            var thing in own.Select(s => SampleBench.Surface(sensor.Kind, s)).OfType<BenchThing>().Concat(SampleBench.Things(sensor.Kind))
        )
            things.TryAdd(thing.Name, SampleBench.Seen(thing, SampleBench.Seed(state.Hidden.Rig, state.Hidden.Copy, sensor.Name)));
        return (things, row.Recordings);
    }

    /// <summary>Preflight of a copy so far.</summary>
    public async Task<PreflightState> Preflight(string id, int copy, CancellationToken cancel) =>
        Documents.Read<PreflightState>(
            (
                await Db.Copies.AsNoTracking().FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel)
                ?? throw new NotStored($"{id} has no copy {copy}.")
            ).Preflight
        );

    /// <summary>Changes the preflight of a copy.</summary>
    public Task<PreflightState> SavePreflight(string id, int copy, Func<PreflightState, PreflightState> change, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel)
                    ?? throw new NotStored($"{id} has no copy {copy}.");
                var next = change(Documents.Read<PreflightState>(row.Preflight));
                row.Preflight = Documents.Write(next);
                return next;
            },
            cancel
        );
}

/// <summary>What a simulated sensor of a copy sees over something, as stored.</summary>
public sealed record SeenSurface(
    double Mean,
    double Sd,
    double[]? Rgb = null,
    double PerAmount = 0,
    double Lag1 = 0,
    double Silent = 0,
    double DriftPerMinute = 0,
    bool Taps = false
);

/// <summary>Preflight of a copy so far.</summary>
/// <param name="Checked">Keys of the checklist that are ticked.</param>
/// <param name="Seen">What was tried and seen.</param>
/// <param name="Planted">Faults the simulated controller was given.</param>
/// <param name="Shown">True once the planted faults were shown.</param>
public sealed record PreflightState(
    IReadOnlyList<string>? Checked = null,
    IReadOnlyList<Seen>? Seen = null,
    IReadOnlyList<BenchFault>? Planted = null,
    bool Shown = false
);
