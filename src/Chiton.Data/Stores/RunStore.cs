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
    public Task KeepProof(RigState state, Proof proof, long seed, bool light, CancellationToken cancel) =>
        Write(
            () =>
            {
                Db.Proofs.Add(
                    new()
                    {
                        RigId = state.Id,
                        Copy = state.Copy,
                        Revision = state.Revision,
                        Inputs = state.InputsIn(proof.Scene),
                        Runs = proof.Runs,
                        Seed = seed,
                        Passes = proof.Passes,
                        Light = light,
                        TimeUtc = Now,
                        Result = light ? "" : Documents.Write(proof),
                    }
                );
                return Task.FromResult(true);
            },
            cancel
        );

    /// <summary>The proof with the most runs of exactly these inputs, or null.</summary>
    public Task<ProofRow?> BestProof(RigState state, CancellationToken cancel)
    {
        var inputs = state.Inputs;
        return Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == state.Id && p.Copy == state.Copy && p.Inputs == inputs && p.Runs > 0)
            .OrderByDescending(p => p.Runs)
            .ThenByDescending(p => p.Id)
            .FirstOrDefaultAsync(cancel);
    }

    /// <summary>The latest full proof of a copy, whatever its inputs were.</summary>
    public Task<ProofRow?> LatestProof(string id, int copy, CancellationToken cancel) =>
        Db
            .Proofs.AsNoTracking()
            .Where(p => p.RigId == id && p.Copy == copy && !p.Light)
            .OrderByDescending(p => p.Id)
            .FirstOrDefaultAsync(cancel);

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
