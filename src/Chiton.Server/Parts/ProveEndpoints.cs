using System.Diagnostics;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Data;
using Chiton.Server.App;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>Runs many times.</summary>
/// <param name="Runs">How often, 1 to 10 000.</param>
/// <param name="Seed">Seed of the whole, a whole number from 0.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="Revision">Revision number; null for the current one.</param>
/// <param name="Job">A name by which progress is told and the proof can be stopped.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Scene">Name of the scene; null for the one that counts.</param>
public sealed record ProofRequest(double? Runs, double? Seed, int? Copy, int? Revision, string? Job, string? By, string? Scene = null);

/// <summary>Many runs, counted.</summary>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Runs">Runs done.</param>
/// <param name="Asked">Runs asked for.</param>
/// <param name="Stopped">True when it was stopped early.</param>
/// <param name="Low">Lower end of the 95 % interval.</param>
/// <param name="High">Upper end.</param>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Revision">Revision that ran.</param>
/// <param name="Copy">Copy it ran on.</param>
/// <param name="Current">Whether that is still what would run now.</param>
/// <param name="Say">The rate in words.</param>
/// <param name="Failures">Failures, largest group first.</param>
/// <param name="Strokes">Every run in order.</param>
/// <param name="Scene">Name of the scene; null in proofs from before there were scenes.</param>
public sealed record ProofView(
    int Passes,
    int Runs,
    int Asked,
    bool Stopped,
    double Low,
    double High,
    long Seed,
    int Revision,
    int Copy,
    bool Current,
    string Say,
    IReadOnlyList<FailureGroup> Failures,
    IReadOnlyList<RunStroke> Strokes,
    string? Scene
);

/// <summary>The latest proof, if there was one.</summary>
public sealed record LatestProof(ProofView? Proof);

/// <summary>Many runs, counted.</summary>
public static class ProveEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var proofs = api.MapGroup("/rigs/{id}/proofs").WithTags("Prove");
        proofs
            .MapPost("", Prove)
            .WithName("prove")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(503);
        proofs
            .MapGet(
                "/latest",
                async Task<LatestProof> (string id, int? copy, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    var row = await store.Runs.LatestProof(id, state.Copy, cancel);
                    if (row is null)
                        return new(null);
                    var proof = Documents.Read<Proof>(row.Result);
                    return new(View(proof, row.Seed, row.Revision, row.Copy, row.Inputs == state.InputsIn(proof.Scene)));
                }
            )
            .WithName("getLatestProof")
            .ProducesProblem(404);
    }

    private static async Task<ProofView> Prove(
        string id,
        ProofRequest request,
        RigStore store,
        Jobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var seed = RunInput.Seed(need, request.Seed);
        var runs = need.Whole(request.Runs, "runs", 1, Prover.MostRuns);
        need.Done();
        var state = await store.Load(id, request.Copy, request.Revision, cancel);
        var scene = state.Scene(request.Scene);
        var plan = state.Plan(scene, await RunInput.Guests(store, scene, cancel));
        if (plan.Unproved is { } nothing)
            throw new InputProblem("scene", nothing);
        var watch = Stopwatch.StartNew();
        long nextTold = 0;
        void Tell(int done, int passed)
        {
            // Ten messages a second are enough for an eye, whatever the speed of the runs.
            var now = watch.ElapsedMilliseconds;
            var due = Interlocked.Read(ref nextTold);
            if (request.Job is null || (now < due && done < runs) || Interlocked.CompareExchange(ref nextTold, now + 100, due) != due)
                return;
            _ = hub
                .Clients.Group("rig:" + id)
                .Progress(new(request.Job, done, runs, passed, done == 0 ? null : watch.Elapsed.TotalSeconds / done * (runs - done), null));
        }
        var proof = await jobs.Run(
            WorkKind.Long,
            request.Job,
            null,
            stop =>
            {
                watch.Restart();
                return Prover.Run(plan, runs, seed, Tell, 0, stop, TaskScheduler.Current);
            },
            cancel,
            true
        );
        cancel.ThrowIfCancellationRequested();
        if (proof.Runs > 0)
        {
            await store.Runs.KeepProof(state, proof, seed, false, CancellationToken.None);
            await hub.Clients.Group("rig:" + id).Rate(id, state.Copy);
        }
        return View(proof, seed, state.Revision, state.Copy, request.Revision is null || request.Revision == state.Revision);
    }

    private static ProofView View(Proof proof, long seed, int revision, int copy, bool current)
    {
        var rate =
            proof.Runs == 0
                ? "No run was finished."
                : $"{proof.Passes} of {proof.Runs} runs pass, likely {Math.Round(proof.Low * 100)} to "
                    + $"{Math.Round(proof.High * 100)} in 100.";
        if (proof.Runs < proof.Asked)
            rate += $" Stopped after {Figures.Count(proof.Runs, "run")} of {proof.Asked}.";
        return new(
            proof.Passes,
            proof.Runs,
            proof.Asked,
            proof.Runs < proof.Asked,
            proof.Low,
            proof.High,
            seed,
            revision,
            copy,
            current,
            rate,
            proof.Failures,
            proof.Strokes,
            proof.Scene
        );
    }
}
