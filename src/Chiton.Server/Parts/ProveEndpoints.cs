using System.Diagnostics;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>Runs many times.</summary>
/// <param name="Runs">How often, 1 to 10 000; against a target at most so often.</param>
/// <param name="Seed">Seed of the whole, a whole number from 0.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="Revision">Revision number; null for the current one.</param>
/// <param name="Job">A name by which progress is told and the proof can be stopped.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Scene">Name of the scene; null for the first that counts.</param>
/// <param name="Target">Stop as soon as it is settled whether this share passes, 0.1 to 0.98; null to make all runs.</param>
public sealed record ProofRequest(
    double? Runs,
    double? Seed,
    int? Copy,
    int? Revision,
    string? Job,
    string? By,
    string? Scene = null,
    double? Target = null
);

/// <summary>Runs many times in several scenes.</summary>
/// <param name="Runs">How often in each, 1 to 10 000.</param>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="Job">A name by which progress is told and the proofs can be stopped.</param>
/// <param name="Scenes">Names of the scenes; null for all that count.</param>
public sealed record ProofsRequest(double? Runs, double? Seed, int? Copy, string? Job, IReadOnlyList<string>? Scenes);

/// <summary>A number that is not known well, as it is shown.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Unit of its value.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">In words.</param>
/// <param name="Value">Its best value.</param>
/// <param name="Share">How much of what copies differ by it makes, 0 to 1.</param>
/// <param name="Say">What measuring it would bring, or why nothing measures it.</param>
/// <param name="Minutes">How long measuring takes; null where nothing measures it.</param>
/// <param name="Part">Which part does it: move, sense or rig; null where none does.</param>
/// <param name="On">Key of the motion, or name of the sensor or device.</param>
/// <param name="Zone">Zone of a sensor; null for others.</param>
/// <param name="WidthNow">How wide the copy's range is.</param>
/// <param name="WidthThen">How wide it would be.</param>
public sealed record DoubtView(
    string Name,
    string Unit,
    Provenance Kind,
    string Source,
    double Value,
    double Share,
    string Say,
    double? Minutes,
    string? Part,
    string? On,
    string? Zone,
    double WidthNow,
    double? WidthThen
);

/// <summary>Failures that are alike, as they are shown.</summary>
/// <param name="Goal">The goal or never that was broken.</param>
/// <param name="LastTransition">The sentence of the last transition taken.</param>
/// <param name="Ended">Where things stood.</param>
/// <param name="Count">How many runs.</param>
/// <param name="Seed">Seed of one of them.</param>
/// <param name="CopySeed">Seed of its copy; null in proofs that made up a copy a run.</param>
/// <param name="Run">Its number.</param>
/// <param name="Say">What happened in that one.</param>
/// <param name="Common">What their drawn numbers have in common, in words; null where nothing sets them apart.</param>
public sealed record FailureView(
    string Goal,
    string LastTransition,
    string Ended,
    int Count,
    long Seed,
    long? CopySeed,
    int Run,
    string Say,
    string? Common
);

/// <summary>Many runs, counted.</summary>
/// <param name="Number">The proof's number; 0 when it was not kept.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Runs">Runs done.</param>
/// <param name="Asked">Runs asked for.</param>
/// <param name="Stopped">True when it was stopped early.</param>
/// <param name="Low">Lower end of the 95 % interval of the pooled count: counting error only.</param>
/// <param name="High">Upper end.</param>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Revision">Revision that ran.</param>
/// <param name="OnCopy">Copy it ran on.</param>
/// <param name="Current">Whether that is still what would run now.</param>
/// <param name="Say">What it means, in words before figures.</param>
/// <param name="Counted">The count in words.</param>
/// <param name="Copies">Made-up copies that were run; 0 where nothing is in doubt.</param>
/// <param name="Chance">Where the rate lies by luck alone; null where that was not asked.</param>
/// <param name="Copy">Where the rate of this copy lies; null where that was not asked.</param>
/// <param name="Next">Of so many runs to come, so many will pass.</param>
/// <param name="Marks">Rates of copies that this may be.</param>
/// <param name="Doubts">What to measure next, the most worth first.</param>
/// <param name="Named">False where there were too few copies to name any number.</param>
/// <param name="Lucks">What varies from run to run and matters most, by name.</param>
/// <param name="Rests">Where the ends of the range come from: guessed, measured, or null where nothing is in doubt.</param>
/// <param name="Target">What it came to against a target.</param>
/// <param name="Against">Held against the proof before it of something else; null where there is none.</param>
/// <param name="Failures">Failures, largest group first.</param>
/// <param name="Strokes">Every run in order.</param>
/// <param name="Numbers">The numbers that varied.</param>
/// <param name="Scene">Name of the scene; null in proofs from before there were scenes.</param>
/// <param name="TimeUtc">When it was made, UTC.</param>
public sealed record ProofView(
    long Number,
    int Passes,
    int Runs,
    int Asked,
    bool Stopped,
    double Low,
    double High,
    long Seed,
    int Revision,
    int OnCopy,
    bool Current,
    string Say,
    string Counted,
    int Copies,
    RateRange? Chance,
    RateRange? Copy,
    IReadOnlyList<NextRuns> Next,
    IReadOnlyList<double> Marks,
    IReadOnlyList<DoubtView> Doubts,
    bool Named,
    IReadOnlyList<string> Lucks,
    string? Rests,
    TargetResult? Target,
    AgainstBefore? Against,
    IReadOnlyList<FailureView> Failures,
    IReadOnlyList<RunStroke> Strokes,
    IReadOnlyList<VariedNumber> Numbers,
    string? Scene,
    DateTime TimeUtc
);

/// <summary>The latest proof, if there was one.</summary>
public sealed record LatestProof(ProofView? Proof);

/// <summary>Proofs that were made, the worst first.</summary>
public sealed record ProofsMade(IReadOnlyList<ProofView> Proofs);

/// <summary>A proof that was kept, in short.</summary>
public sealed record ProofItem(
    long Number,
    int Revision,
    string Scene,
    int Runs,
    int Passes,
    double Low,
    double High,
    bool Current,
    DateTime TimeUtc
);

/// <summary>A scene of the rig and what was proved in it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Counts">Whether the header counts it.</param>
/// <param name="Proof">The best proof of what would run now; null where there is none.</param>
/// <param name="Passed">1 or 0 a run of it, in order; empty where there is none.</param>
public sealed record SceneProof(string Name, bool Counts, ProofItem? Proof, string Passed);

/// <summary>The values of a number in the runs of a proof.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Values">Its values, run by run.</param>
public sealed record DrawnValues(string Name, string Unit, IReadOnlyList<float> Values);

/// <summary>One side of a comparison.</summary>
/// <param name="Revision">Revision number; null for the current one.</param>
/// <param name="Copy">Copy number; null for the first.</param>
public sealed record ComparedSide(int? Revision, int? Copy);

/// <summary>Holds two revisions, or two copies, against each other.</summary>
/// <param name="Earlier">The one.</param>
/// <param name="Later">The other.</param>
/// <param name="Scene">Name of the scene; null for the first that counts.</param>
/// <param name="Runs">How many runs of each, 1 to 10 000.</param>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Job">A name by which progress is told and the comparison can be stopped.</param>
public sealed record CompareProofsRequest(
    ComparedSide? Earlier,
    ComparedSide? Later,
    string? Scene,
    double? Runs,
    double? Seed,
    string? Job
);

/// <summary>A run that came out differently.</summary>
/// <param name="Run">Its number, from 1.</param>
/// <param name="Seed">Its seed.</param>
/// <param name="CopySeed">Seed of its copy.</param>
/// <param name="Gained">True when only the later one passed.</param>
/// <param name="Cause">How the other one failed.</param>
public sealed record PartedRun(int Run, long Seed, long CopySeed, bool Gained, string Cause);

/// <summary>Two revisions, or two copies, on the same luck.</summary>
/// <param name="Earlier">Which one, in words.</param>
/// <param name="Later">Which other one.</param>
/// <param name="EarlierPasses">Runs that the one passed.</param>
/// <param name="LaterPasses">Runs that the other passed.</param>
/// <param name="Scene">Name of the scene.</param>
/// <param name="Rates">What came of it.</param>
/// <param name="Say">The same in words.</param>
/// <param name="Parted">The runs in which they part, at most 200.</param>
public sealed record ComparedProofs(
    string Earlier,
    string Later,
    int EarlierPasses,
    int LaterPasses,
    string Scene,
    PairedRates Rates,
    string Say,
    IReadOnlyList<PartedRun> Parted
);

/// <summary>Many runs, counted.</summary>
public static class ProveEndpoints
{
    private const int MostParted = 200;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var proofs = api.MapGroup("/rigs/{id}/proofs").WithTags("Prove");
        Works(proofs.MapPost("", Prove).WithName("prove"));
        Works(proofs.MapPost("/all", ProveAll).WithName("proveAll"));
        Works(proofs.MapPost("/compare", Compare).WithName("compareProofs"));
        proofs.MapGet("/latest", Latest).WithName("getLatestProof").ProducesProblem(404);
        proofs.MapGet("", Listed).WithName("listProofs").ProducesProblem(404);
        proofs.MapGet("/scenes", ByScene).WithName("getSceneProofs").ProducesProblem(404);
        proofs.MapGet("/{number:long}", Kept).WithName("getProof").ProducesProblem(404);
        proofs.MapGet("/{number:long}/drawn", Drawn).WithName("getDrawnNumber").ProducesValidationProblem().ProducesProblem(404);
        proofs.MapGet("/{number:long}/export", Export).WithName("exportProof").Produces(200, contentType: "text/csv").ProducesProblem(404);
    }

    private static void Works(RouteHandlerBuilder call) =>
        call.ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);

    private static async Task<LatestProof> Latest(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        return new(await store.Runs.LatestProof(id, state.Copy, cancel) is { } row ? await View(row, state, store, cancel) : null);
    }

    private static async Task<ProofView> Kept(string id, long number, RigStore store, CancellationToken cancel)
    {
        var row = await store.Runs.ProofOf(id, number, cancel);
        return await View(row, await store.Load(id, row.Copy, null, cancel), store, cancel);
    }

    private static ProofItem Item(ProofRow row, RigState state) =>
        new(
            row.Id,
            row.Revision,
            row.Scene,
            row.Runs,
            row.Passes,
            row.Low,
            row.High,
            row.Inputs == state.InputsIn(row.Scene == "" ? null : row.Scene),
            row.TimeUtc
        );

    private static async Task<IReadOnlyList<ProofItem>> Listed(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        return [.. (await store.Runs.ProofsOf(id, state.Copy, cancel)).Select(r => Item(r, state))];
    }

    private static async Task<IReadOnlyList<SceneProof>> ByScene(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        var rows = new List<SceneProof>();
        foreach (var scene in state.Scenes)
        {
            var row = await store.Runs.BestProof(state, scene.Scene.Name, cancel);
            rows.Add(
                new(
                    scene.Scene.Name,
                    state.Known.Counting.Contains(scene.Scene.Name),
                    row is null ? null : Item(row, state),
                    row?.Passed ?? ""
                )
            );
        }
        // Worst first; those that were not counted yet last.
        return [.. rows.OrderBy(r => r.Proof is { } p ? (double)p.Passes / p.Runs : 2)];
    }

    private static async Task<DrawnValues> Drawn(string id, long number, string? name, RigStore store, CancellationToken cancel)
    {
        var row = await store.Runs.ProofOf(id, number, cancel);
        var proof = Documents.Read<Proof>(row.Result);
        var at = proof.Numbers.ToList().FindIndex(n => n.Name == name);
        if (at < 0 || row.Drawn is null)
            throw new InputProblem("name", $"Nothing called “{name}” varied in proof {number}: it was the same in every run.");
        return new(proof.Numbers[at].Name, proof.Numbers[at].Unit, Documents.UnpackJson<float[][]>(row.Drawn)[at]);
    }

    private static async Task<IResult> Export(string id, long number, RigStore store, CancellationToken cancel)
    {
        var row = await store.Runs.ProofOf(id, number, cancel);
        var proof = Documents.Read<Proof>(row.Result);
        var text = ProofExport.Csv(proof, row.Drawn is null ? [] : Documents.UnpackJson<float[][]>(row.Drawn));
        return Results.File(System.Text.Encoding.UTF8.GetBytes("\uFEFF" + text), "text/csv", $"{id}-proof-{number}.csv");
    }

    private static async Task<ProofView> Prove(
        string id,
        ProofRequest request,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var seed = RunInput.Seed(need, request.Seed);
        var runs = need.Whole(request.Runs, "runs", 1, Prover.MostRuns);
        need.That(
            request.Target is not { } t || double.IsFinite(t) && t is >= Sequential.Least and <= Sequential.Most,
            "target",
            "Must be from 10 to 98 in 100 (0.1 to 0.98): no number of runs settles that it never fails."
        );
        need.Done();
        var state = await store.Load(id, request.Copy, request.Revision, cancel);
        var plan = await PlanOf(state, request.Scene, store, cancel);
        var beside = request.Target is null ? Prover.Beside(new PlanProved(plan), runs) : 0;
        var tell = Teller(id, request.Job, runs + beside, hub);
        var proved = await jobs.Run(
            WorkKind.Long,
            request.Job,
            null,
            stop =>
            {
                tell.Restart();
                return request.Target is { } target
                    ? Prover.Against(plan, target, runs, seed, tell.Tell, 0, stop, TaskScheduler.Current)
                    : Prover.Run(plan, runs, seed, tell.Tell, 0, stop, TaskScheduler.Current);
            },
            cancel,
            true
        );
        cancel.ThrowIfCancellationRequested();
        return await Keep(state, proved, store, hub, request.Revision is null);
    }

    private static async Task<ProofsMade> ProveAll(
        string id,
        ProofsRequest request,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var seed = RunInput.Seed(need, request.Seed);
        var runs = need.Whole(request.Runs, "runs", 1, Prover.MostRuns);
        need.That(request.Scenes is not { Count: 0 or > 50 }, "scenes", "Give from 1 to 50 scenes, or leave it out for all that count.");
        need.Done();
        var state = await store.Load(id, request.Copy, null, cancel);
        var plans = new List<BenchPlan>();
        foreach (var scene in request.Scenes ?? state.Known.Counting)
            plans.Add(await PlanOf(state, scene, store, cancel));
        int[] each = [.. plans.Select(p => runs + Prover.Beside(new PlanProved(p), runs))];
        var tell = Teller(id, request.Job, each.Sum(), hub);
        var proved = await jobs.Run(
            WorkKind.Long,
            request.Job,
            null,
            stop =>
            {
                tell.Restart();
                var made = new List<Proved>();
                var (before, passed) = (0, 0);
                for (var i = 0; i < plans.Count && !stop.IsCancellationRequested; i++)
                {
                    made.Add(Prover.Run(plans[i], runs, seed, (n, p) => tell.Tell(before + n, passed + p), 0, stop, TaskScheduler.Current));
                    (before, passed) = (before + each[i], passed + made[^1].Proof.Passes);
                }
                return made;
            },
            cancel,
            true
        );
        cancel.ThrowIfCancellationRequested();
        var views = new List<ProofView>();
        foreach (var one in proved)
            views.Add(await Keep(state, one, store, hub, true));
        return new([.. views.OrderBy(v => v.Runs == 0 ? 2 : (double)v.Passes / v.Runs)]);
    }

    private static async Task<ComparedProofs> Compare(
        string id,
        CompareProofsRequest request,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var seed = RunInput.Seed(need, request.Seed);
        var runs = need.Whole(request.Runs, "runs", 1, Prover.MostRuns);
        need.That(request.Earlier is not null, "earlier", "Say which revision, or which copy.");
        need.That(request.Later is not null, "later", "Say which revision, or which copy.");
        need.Done();
        var earlier = await store.Load(id, request.Earlier!.Copy, request.Earlier.Revision, cancel);
        var later = await store.Load(id, request.Later!.Copy, request.Later.Revision, cancel);
        need.That(
            earlier.Inputs != later.Inputs,
            "later",
            "Both are the same: choose another revision, or another copy, or change something first."
        );
        need.Done();
        // Both are run in the scene as it is in the later one: a machine is compared, not its place.
        var scene = later.Scene(request.Scene);
        var guests = await RunInput.Guests(store, later, scene, cancel);
        BenchPlan[] plans = [earlier.Plan(scene, guests), later.Plan(scene, guests)];
        foreach (var plan in plans)
            if (plan.Unproved is { } nothing)
                throw new InputProblem("scene", nothing);
        var tell = Teller(id, request.Job, 2 * runs, hub);
        var both = await jobs.Run(
            WorkKind.Long,
            request.Job,
            null,
            stop =>
            {
                tell.Restart();
                var layout = new RunLayout(seed, RunLayout.Kinds.Single, runs);
                var first = ManyRuns.Run(new PlanProved(plans[0]), layout, tell.Tell, 0, stop, TaskScheduler.Current);
                var passed = first.Passes;
                var second = ManyRuns.Run(
                    new PlanProved(plans[1]),
                    layout,
                    (n, p) => tell.Tell(runs + n, passed + p),
                    0,
                    stop,
                    TaskScheduler.Current
                );
                return (first, second);
            },
            cancel,
            true
        );
        cancel.ThrowIfCancellationRequested();
        var pairs = Math.Min(both.first.Results.Count, both.second.Results.Count);
        if (pairs == 0)
            throw new WasStopped();
        var parted = Enumerable.Range(0, pairs).Where(i => both.first.Results[i].Passed != both.second.Results[i].Passed).ToArray();
        var gained = parted.Count(i => both.second.Results[i].Passed);
        var rates = Paired.Of(pairs, gained, parted.Length - gained);
        string Side(RigState state, RigState other) =>
            state.Revision == other.Revision ? $"copy {state.Copy}"
            : state.Copy == other.Copy ? $"revision {state.Revision}"
            : $"revision {state.Revision} on copy {state.Copy}";
        return new(
            Side(earlier, later),
            Side(later, earlier),
            both.first.Results.Take(pairs).Count(r => r.Passed),
            both.second.Results.Take(pairs).Count(r => r.Passed),
            scene.Name,
            rates,
            rates.Say,
            [
                .. parted
                    .Take(MostParted)
                    .Select(i =>
                    {
                        var won = both.second.Results[i].Passed;
                        return new PartedRun(
                            i + 1,
                            both.first.Layout.RunSeed(i),
                            both.first.Layout.CopySeed(i),
                            won,
                            Prover.Cause(plans[won ? 0 : 1], (won ? both.first : both.second).Results[i])
                        );
                    }),
            ]
        );
    }

    private static async Task<BenchPlan> PlanOf(RigState state, string? name, RigStore store, CancellationToken cancel)
    {
        var scene = state.Scene(name);
        var plan = state.Plan(scene, await RunInput.Guests(store, state, scene, cancel));
        return plan.Unproved is { } nothing ? throw new InputProblem("scene", nothing) : plan;
    }

    // Tells a page how far it has come: ten messages a second are enough for an eye, whatever the speed of the runs.
    internal sealed class Telling(string id, string? job, int all, IHubContext<BenchHub, IBenchPage> hub)
    {
        private readonly Stopwatch watch = Stopwatch.StartNew();
        private long next;

        public void Restart() => watch.Restart();

        public void Tell(int done, int passed)
        {
            var now = watch.ElapsedMilliseconds;
            var due = Interlocked.Read(ref next);
            if (job is null || (now < due && done < all) || Interlocked.CompareExchange(ref next, now + 100, due) != due)
                return;
            _ = hub
                .Clients.Group("rig:" + id)
                .Progress(new(job, done, all, passed, done == 0 ? null : watch.Elapsed.TotalSeconds / done * (all - done), null));
        }
    }

    internal static Telling Teller(string id, string? job, int all, IHubContext<BenchHub, IBenchPage> hub) => new(id, job, all, hub);

    private static async Task<ProofView> Keep(
        RigState state,
        Proved proved,
        RigStore store,
        IHubContext<BenchHub, IBenchPage> hub,
        bool current
    )
    {
        if (proved.Proof.Runs == 0)
            return View(
                proved.Proof,
                new()
                {
                    Inputs = "",
                    Result = "",
                    RigId = state.Id,
                    Copy = state.Copy,
                },
                current,
                null
            ) with
            {
                Seed = proved.Runs.Layout.Seed,
                Revision = state.Revision,
            };
        var number = await store.Runs.KeepProof(state, proved.Proof, proved.Runs, CancellationToken.None);
        await hub.Clients.Group("rig:" + state.Id).Rate(state.Id, state.Copy);
        var row = await store.Runs.ProofOf(state.Id, number, CancellationToken.None);
        return View(proved.Proof, row, current, await Rates.Against(row, store, CancellationToken.None));
    }

    private static async Task<ProofView> View(ProofRow row, RigState state, RigStore store, CancellationToken cancel) =>
        View(
            Documents.Read<Proof>(row.Result),
            row,
            row.Inputs == state.InputsIn(row.Scene == "" ? null : row.Scene),
            await Rates.Against(row, store, cancel)
        );

    private static ProofView View(Proof proof, ProofRow row, bool current, AgainstBefore? against)
    {
        var counted =
            proof.Runs == 0
                ? $"Stopped before one of {Figures.Count(proof.Asked, "run")} was finished."
                : $"{proof.Passes} of {proof.Runs} runs pass."
                    + (proof.Runs < proof.Asked ? $" Stopped after {Figures.Count(proof.Runs, "run")} of {proof.Asked}." : "");
        return new(
            row.Id,
            proof.Passes,
            proof.Runs,
            proof.Asked,
            proof.Runs < proof.Asked,
            proof.Low,
            proof.High,
            row.Seed,
            row.Revision,
            row.Copy,
            current,
            proof.Say ?? counted,
            counted,
            proof.Copies,
            proof.Chance,
            proof.Copy,
            proof.Next ?? [],
            proof.Marks ?? [],
            [.. (proof.Doubts?.Doubts ?? []).Select(Doubted)],
            proof.Doubts?.Named ?? false,
            [.. (proof.Doubts?.Lucks ?? []).Select(l => l.Name)],
            Rates.Word(proof.Rests),
            proof.Target,
            against,
            [
                .. proof.Failures.Select(f => new FailureView(
                    f.Goal,
                    f.LastTransition,
                    f.Ended,
                    f.Count,
                    f.Seed,
                    f.CopySeed,
                    f.Run,
                    f.Say,
                    f.Common?.Say
                )),
            ],
            proof.Strokes,
            proof.Numbers ?? [],
            proof.Scene,
            row.TimeUtc
        );
    }

    private static DoubtView Doubted(Doubt d) =>
        new(
            d.Name,
            d.Unit,
            d.Kind,
            d.Source,
            d.Value,
            d.Share,
            ProofWords.Buys(d)
                ?? (
                    d.Kind == Provenance.Guessed
                        ? "A usual figure of its kind: no trial finds it yet."
                        : "Nothing that can be tried here makes it better known."
                ),
            d.Measured?.Minutes,
            d.Measured?.Part,
            d.Measured?.Name,
            d.Measured?.Zone,
            d.WidthNow,
            d.WidthThen
        );
}
