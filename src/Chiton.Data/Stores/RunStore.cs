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

/// <summary>Proofs and watched runs.</summary>
public sealed class RunStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Keeps a proof.</summary>
    /// <param name="state">What ran.</param>
    /// <param name="proof">What came of it.</param>
    /// <param name="runs">How its runs came out.</param>
    /// <param name="cancel">Gives up.</param>
    /// <returns>Its number.</returns>
    public Task<long> KeepProof(RigState state, Proof proof, RunsDone runs, CancellationToken cancel) =>
        Keep(state, proof.Scene!, runs, proof.Copy ?? new(proof.Low, proof.High), proof.Rests, proof, cancel);

    /// <summary>Keeps a gauge: how its runs came out, and no more.</summary>
    public Task<long> KeepGauge(RigState state, string scene, RunsDone runs, RateRange range, CancellationToken cancel) =>
        Keep(state, scene, runs, range, Prover.Rests(runs.Columns.Select(c => c.Spec)), null, cancel);

    private Task<long> Keep(
        RigState state,
        string scene,
        RunsDone runs,
        RateRange range,
        Provenance? rests,
        Proof? proof,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var row = new ProofRow
                {
                    RigId = state.Id,
                    Copy = state.Copy,
                    Revision = state.Revision,
                    Inputs = state.InputsIn(scene),
                    Runs = runs.Results.Count,
                    Seed = runs.Layout.Seed,
                    Passes = runs.Passes,
                    Light = proof is null,
                    TimeUtc = Now,
                    Result = proof is null ? "" : Documents.Write(proof),
                    Scene = scene,
                    Low = range.Low,
                    High = range.High,
                    Rests = rests,
                    Passed = runs.Layout.Kind == RunLayout.Kinds.Copies ? runs.Outcomes : "",
                    Drawn = proof is null ? null : Documents.PackJson(runs.Values),
                };
                Db.Proofs.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row.Id;
            },
            cancel
        );

    /// <summary>The proof with the most runs of exactly these inputs in a scene, or null.</summary>
    /// <param name="state">What would run.</param>
    /// <param name="scene">Name of the scene; null for the first that counts.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<ProofRow?> BestProof(RigState state, string? scene, CancellationToken cancel)
    {
        var inputs = state.InputsIn(scene);
        return Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == state.Id && p.Copy == state.Copy && p.Inputs == inputs && p.Passed != "")
            .OrderByDescending(p => p.Runs)
            .ThenByDescending(p => p.Id)
            .Select(WithoutRuns)
            .FirstOrDefaultAsync(cancel);
    }

    // Drawn numbers and whole results are long, and seldom asked for.
    private static readonly System.Linq.Expressions.Expression<Func<ProofRow, ProofRow>> WithoutRuns = p =>
        new()
        {
            Id = p.Id,
            RigId = p.RigId,
            Copy = p.Copy,
            Revision = p.Revision,
            Inputs = p.Inputs,
            Runs = p.Runs,
            Seed = p.Seed,
            Passes = p.Passes,
            Light = p.Light,
            TimeUtc = p.TimeUtc,
            Result = "",
            Scene = p.Scene,
            Low = p.Low,
            High = p.High,
            Rests = p.Rests,
            Passed = p.Passed,
        };

    /// <summary>The counting scene in which a copy passes least; null until all of them were counted.</summary>
    public async Task<ProofRow?> Gauge(RigState state, CancellationToken cancel)
    {
        ProofRow? worst = null;
        foreach (var scene in state.Known.Counting)
        {
            if (await BestProof(state, scene, cancel) is not { } row)
                return null;
            if (worst is null || (double)row.Passes / row.Runs < (double)worst.Passes / worst.Runs)
                worst = row;
        }
        return worst;
    }

    /// <summary>The latest proof of a copy in a scene of anything but these inputs, or null: what a change is held against.</summary>
    public Task<ProofRow?> Before(ProofRow row, CancellationToken cancel) =>
        Db
            .Proofs.AsNoTracking()
            .Where(p =>
                p.RigId == row.RigId
                && p.Copy == row.Copy
                && p.Scene == row.Scene
                && p.Seed == row.Seed
                && p.Inputs != row.Inputs
                && p.Passed != ""
                && p.Id < row.Id
            )
            .OrderByDescending(p => p.Id)
            .Select(WithoutRuns)
            .FirstOrDefaultAsync(cancel);

    /// <summary>The latest full proof of a copy, whatever its inputs were.</summary>
    public Task<ProofRow?> LatestProof(string id, int copy, CancellationToken cancel) =>
        Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == id && p.Copy == copy && !p.Light)
            .OrderByDescending(p => p.Id)
            .FirstOrDefaultAsync(cancel);

    /// <summary>Full proofs of a copy, latest first, without what is long of them.</summary>
    public Task<List<ProofRow>> ProofsOf(string id, int copy, CancellationToken cancel) =>
        Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == id && p.Copy == copy && !p.Light)
            .OrderByDescending(p => p.Id)
            .Take(200)
            .Select(WithoutRuns)
            .ToListAsync(cancel);

    /// <summary>A full proof of a rig by its number.</summary>
    /// <exception cref="NotStored">When there is none of that number.</exception>
    public async Task<ProofRow> ProofOf(string id, long number, CancellationToken cancel) =>
        await Db.Proofs.AsNoTracking().FirstOrDefaultAsync(p => p.RigId == id && p.Id == number && !p.Light, cancel)
        ?? throw new NotStored($"There is no proof {number} of this rig.");

    /// <summary>So many runs of a copy are kept with all that was seen of them.</summary>
    public const int KeptRuns = 10;

    /// <summary>Keeps a watched run and gives it a number.</summary>
    public Task<long> KeepRun(
        RigState state,
        BenchReport report,
        double durationS,
        IReadOnlyList<Fault> faults,
        byte[] packed,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var row = new RunRow
                {
                    RigId = state.Id,
                    Copy = state.Copy,
                    Revision = state.Revision,
                    Seed = report.Seed,
                    DurationS = durationS,
                    Faults = Documents.Write(faults),
                    Passed = report.Passed,
                    EndS = report.EndS,
                    TimeUtc = Now,
                    Inputs = state.Inputs,
                    Report = packed,
                };
                Db.Runs.Add(row);
                await Db.SaveChangesAsync(cancel);
                var old = await Db
                    .Runs.AsNoTracking()
                    .Where(r => r.RigId == state.Id && r.Copy == state.Copy && r.Report != null)
                    .OrderByDescending(r => r.Id)
                    .Skip(KeptRuns)
                    .Select(r => (long?)r.Id)
                    .FirstOrDefaultAsync(cancel);
                if (old is not null)
                    await Db
                        .Runs.Where(r => r.RigId == state.Id && r.Copy == state.Copy && r.Id <= old && r.Report != null)
                        .ExecuteUpdateAsync(u => u.SetProperty(r => r.Report, (byte[]?)null), cancel);
                return row.Id;
            },
            cancel
        );

    /// <summary>A run of a rig by its number, or null.</summary>
    public Task<RunRow?> RunOf(string id, long number, CancellationToken cancel) =>
        Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.RigId == id && r.Id == number, cancel);

    /// <summary>The latest watched run of a copy, or null.</summary>
    public Task<RunRow?> LatestRun(string id, int copy, CancellationToken cancel) =>
        Db.Runs.AsNoTracking().Where(r => r.RigId == id && r.Copy == copy).OrderByDescending(r => r.Id).FirstOrDefaultAsync(cancel);
}
