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

    /// <summary>Adds a copy: its numbers are guesses taken over from the first, and it has no readings yet.</summary>
    /// <returns>Its number.</returns>
    public Task<int> AddCopy(string id, string team, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var copies = await Db.Copies.AsNoTracking().Where(c => c.RigId == id).OrderBy(c => c.Number).ToListAsync(cancel);
                if (copies.Count == 0)
                    throw new NotStored($"There is no rig “{id}”.");
                if (copies.Count >= MostCopies)
                    throw new InputProblem("team", $"A rig has at most {MostCopies} copies.");
                var number = copies[^1].Number + 1;
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

    /// <summary>Says which team works on a copy.</summary>
    public Task<bool> NameTeam(string id, int copy, string team, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel)
                    ?? throw new NotStored($"{id} has no copy {copy}.");
                row.Team = team;
                return true;
            },
            cancel
        );

    /// <summary>Puts the current revision on a copy's simulated controller.</summary>
    public Task<int> Send(string id, int copy, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var (rig, _) = await Head(id, cancel);
                var row =
                    await Db.Copies.FirstOrDefaultAsync(c => c.RigId == id && c.Number == copy, cancel)
                    ?? throw new NotStored($"{id} has no copy {copy}.");
                row.ControllerRevision = rig.HeadRevision;
                return rig.HeadRevision;
            },
            cancel
        );

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
        foreach (var thing in SampleBench.Things(sensor.Kind))
            things.TryAdd(thing.Name, SampleBench.Seen(thing, SampleBench.Seed(state.Id, state.Copy.ToString(), sensor.Name)));
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
