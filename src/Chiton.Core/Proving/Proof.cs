using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Proving;

/// <summary>Failures that are alike.</summary>
/// <param name="Goal">The goal or never that was broken, as written.</param>
/// <param name="LastTransition">The sentence of the last transition taken.</param>
/// <param name="Ended">Where things stood, in words.</param>
/// <param name="Count">How many runs.</param>
/// <param name="Seed">Seed of one of them, to replay.</param>
/// <param name="Run">Its number, from 1.</param>
/// <param name="Say">What happened in that one.</param>
public sealed record FailureGroup(string Goal, string LastTransition, string Ended, int Count, long Seed, int Run, string Say)
{
    /// <summary>Seed of the copy that one was made on; null in proofs that made up a copy a run.</summary>
    public long? CopySeed { get; init; }

    /// <summary>What their drawn numbers have in common; null where nothing sets them apart.</summary>
    public InCommon? Common { get; init; }
}

/// <summary>One run of a proof.</summary>
/// <param name="Run">Its number, from 1.</param>
/// <param name="Seed">Its seed.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="EndS">When that was decided, s.</param>
/// <param name="Group">Index of its failure group; −1 when it passed.</param>
public sealed record RunStroke(int Run, long Seed, bool Passed, double EndS, int Group)
{
    /// <summary>The made-up copy it was made on, from 1; 0 in proofs that made up a copy a run.</summary>
    public int Copy { get; init; }

    /// <summary>Seed of that copy.</summary>
    public long? CopySeed { get; init; }

    /// <summary>Its score.</summary>
    public double Score { get; init; }
}

/// <summary>A rate that lies between two others.</summary>
/// <param name="Low">Lower end, 0 to 1.</param>
/// <param name="High">Upper end, 0 to 1.</param>
public sealed record RateRange(double Low, double High);

/// <summary>A number that varied from run to run, or from copy to copy.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit.</param>
public sealed record VariedNumber(string Name, string Unit);

/// <summary>Many runs, counted.</summary>
/// <param name="Asked">Runs asked for.</param>
/// <param name="Runs">Runs done; fewer than asked when it was stopped.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Low">Lower end of the 95 % interval of the pooled count, 0 when no run was done: counting error only.</param>
/// <param name="High">Upper end of the interval, 1 when no run was done.</param>
/// <param name="Failures">Failures, largest group first.</param>
/// <param name="Strokes">Every run in order.</param>
public sealed record Proof(
    int Asked,
    int Runs,
    int Passes,
    double Low,
    double High,
    IReadOnlyList<FailureGroup> Failures,
    IReadOnlyList<RunStroke> Strokes
)
{
    /// <summary>Name of the scene; null in proofs from before there were scenes.</summary>
    public string? Scene { get; init; }

    /// <summary>Made-up copies that were run; 0 where nothing is in doubt, or in proofs from before copies were told apart.</summary>
    public int Copies { get; init; }

    /// <summary>Where the rate lies by luck alone, had every number its best value: 90 %; null where that was not asked.</summary>
    public RateRange? Chance { get; init; }

    /// <summary>Where the rate of this copy lies: 90 %; null in proofs from before copies were told apart.</summary>
    public RateRange? Copy { get; init; }

    /// <summary>What the ends of that range rest on: the kind of the number that makes most of it, or else guessed where any number in
    /// doubt is a guess; null where nothing is in doubt.</summary>
    public Provenance? Rests { get; init; }

    /// <summary>Of so many runs to come, so many will pass.</summary>
    public IReadOnlyList<NextRuns> Next { get; init; } = [];

    /// <summary>Rates of copies that this may be, as many as were made up, each as likely as the next.</summary>
    public IReadOnlyList<double> Marks { get; init; } = [];

    /// <summary>What of it is doubt and what is luck, by name; null where that was not asked.</summary>
    public DoubtsFound? Doubts { get; init; }

    /// <summary>What the runs came to against a target; null where there was none.</summary>
    public TargetResult? Target { get; init; }

    /// <summary>The numbers that varied.</summary>
    public IReadOnlyList<VariedNumber> Numbers { get; init; } = [];

    /// <summary>The whole in a sentence or two; null in proofs from before copies were told apart.</summary>
    public string? Say { get; init; }
}

/// <summary>What runs came to against a target.</summary>
/// <param name="Target">The target, 0 to 1.</param>
/// <param name="Verdict">Reached, missed, or not settled.</param>
/// <param name="Say">In words.</param>
public sealed record TargetResult(double Target, TargetVerdict Verdict, string Say);

/// <summary>Many runs, counted, with what was drawn for each.</summary>
/// <param name="Proof">What came of them.</param>
/// <param name="Runs">How each came out.</param>
public sealed record Proved(Proof Proof, RunsDone Runs);

/// <summary>Counts many runs and says what they mean.</summary>
public static class Prover
{
    /// <summary>Most runs at once.</summary>
    public const int MostRuns = 10_000;

    /// <summary>Most groups of failures of which one is told in words.</summary>
    public const int MostToldGroups = 20;

    /// <summary>Longest simulated time of a run, s.</summary>
    public const double MostSeconds = 600;

    /// <summary>Runs at best values, to tell luck from doubt.</summary>
    public const int BestRuns = 100;

    /// <summary>Confidence of a copy's range and of luck alone.</summary>
    public const double Confidence = 0.9;

    /// <summary>How many runs a proof makes beside those asked for.</summary>
    /// <param name="bench">What runs.</param>
    /// <param name="runs">Runs asked for.</param>
    public static int Beside(IProvable bench, int runs) => Doubted(bench) ? BestRuns + More(runs) : 0;

    private static int More(int runs) => Math.Max(0, Proving.Doubts.LeastCopies - new RunLayout(0, RunLayout.Kinds.Copies, runs).Copies);

    /// <summary>True where something of the copy is not known well.</summary>
    /// <param name="bench">What runs.</param>
    public static bool Doubted(IProvable bench) => bench.Draws.Any(d => d.IsDoubted || d.SpreadIsDoubted);

    /// <summary>Runs a plan many times and says what they mean.</summary>
    /// <param name="plan">What runs.</param>
    /// <param name="runs">How often, 1 to <see cref="MostRuns"/>.</param>
    /// <param name="seed">Seed of the whole.</param>
    /// <param name="progress">Told now and then how many are done and passed, of all that are made; may be null.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it early: what was done without a gap is told.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    public static Proved Run(
        BenchPlan plan,
        int runs,
        long seed,
        Action<int, int>? progress = null,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null
    )
    {
        var bench = new PlanProved(plan);
        var done = ManyRuns.Run(bench, new(seed, RunLayout.Kinds.Copies, runs), progress, threads, cancel, scheduler);
        RunsDone? best = null,
            more = null;
        if (Doubted(bench) && done.Results.Count == runs)
        {
            var passed = done.Passes;
            void Beside(int before, int n) => progress?.Invoke(before + n, passed);
            best = ManyRuns.Run(bench, new(seed, RunLayout.Kinds.Best, BestRuns), (n, _) => Beside(runs, n), threads, cancel, scheduler);
            if (More(runs) is > 0 and var extra)
                more = ManyRuns.Run(
                    bench,
                    new(seed, RunLayout.Kinds.Single, extra) { First = done.Layout.Copies },
                    (n, _) => Beside(runs + BestRuns, n),
                    threads,
                    cancel,
                    scheduler
                );
        }
        // Too few of them tell nothing.
        return new(
            Count(plan, done, runs, best?.Results.Count == BestRuns ? best : null, more?.Results.Count == More(runs) ? more : null),
            done
        );
    }

    /// <summary>Runs a plan until it is settled whether it reaches a target, with a new made-up copy in every run: what is judged is the
    /// mean over copies.</summary>
    /// <param name="plan">What runs.</param>
    /// <param name="target">The target, 0.1 to 0.98.</param>
    /// <param name="most">How often at most, 1 to <see cref="MostRuns"/>.</param>
    /// <param name="seed">Seed of the whole.</param>
    /// <param name="progress">Told now and then how many are done and passed; may be null.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it early.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    public static Proved Against(
        BenchPlan plan,
        double target,
        int most,
        long seed,
        Action<int, int>? progress = null,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null
    )
    {
        var bench = new PlanProved(plan);
        var test = new Sequential(target);
        RunsDone? all = null;
        while (test.Runs < most && test.Verdict == TargetVerdict.Open)
        {
            var from = test.Runs;
            var layout = new RunLayout(seed, RunLayout.Kinds.Single, Math.Min(AtOnce, most - from)) { First = from };
            var passed = test.Passes;
            var part = ManyRuns.Run(bench, layout, (n, p) => progress?.Invoke(from + n, passed + p), threads, cancel, scheduler);
            var counted = 0;
            while (counted < part.Results.Count && test.Verdict == TargetVerdict.Open)
                test.Add(part.Results[counted++].Passed);
            all = RunsDone.Joined(all, part, counted);
            if (part.Results.Count < layout.Runs)
                break;
        }
        all ??= new(new(seed, RunLayout.Kinds.Single, 0), [], ManyRuns.Columns(bench.Draws), []);
        var proof = Count(plan, all, most, null, null);
        return new(
            proof with
            {
                // Settled is not stopped.
                Asked = test.Verdict == TargetVerdict.Open ? most : all.Results.Count,
                Target = new(target, test.Verdict, test.Say),
                Say = test.Say,
            },
            all
        );
    }

    // Runs that are made side by side before they are counted in order.
    private const int AtOnce = 64;

    /// <summary>What a range rests on where no number is named: guessed where any number in doubt is a guess, measured where none is; null
    /// where nothing is in doubt.</summary>
    /// <param name="draws">Every number.</param>
    public static Provenance? Rests(IEnumerable<DrawSpec> draws)
    {
        DrawSpec[] doubted = [.. draws.Where(d => d.IsDoubted || d.SpreadIsDoubted)];
        return doubted.Length == 0 ? null
            : doubted.Any(d => d.Kind == Provenance.Guessed) ? Provenance.Guessed
            : Provenance.Measured;
    }

    /// <summary>The range of a copy by its runs alone.</summary>
    /// <param name="bench">What ran.</param>
    /// <param name="runs">How it came out; at least one run.</param>
    public static RateRange RangeOf(IProvable bench, RunsDone runs) =>
        RangeOf(Doubted(bench) ? runs.ByCopy() : null, runs.Passes, runs.Results.Count);

    /// <summary>The range of a copy.</summary>
    /// <param name="copies">How often made-up copies passed; null where nothing is in doubt.</param>
    /// <param name="passes">Runs that passed.</param>
    /// <param name="runs">All runs, at least one.</param>
    public static RateRange RangeOf(IReadOnlyList<CopyCount>? copies, int passes, int runs)
    {
        var (low, high) = copies is null ? SuccessRate.Wilson(passes, runs, Confidence) : CopyRange.Of(RunsDone.Merged(copies)).Whole;
        return new(low, high);
    }

    private static Proof Count(BenchPlan plan, RunsDone done, int asked, RunsDone? best, RunsDone? more)
    {
        var (runs, passes) = (done.Results.Count, done.Passes);
        var (low, high) = runs == 0 ? (0, 1) : SuccessRate.Wilson(passes, runs);
        var (failures, groupOf) = Groups(plan, done);
        var doubted = done.Columns.Any(c => c.IsSpread || c.Spec.IsDoubted);
        var proof = new Proof(
            asked,
            runs,
            passes,
            low,
            high,
            failures,
            [
                .. done.Results.Select(
                    (r, i) =>
                        new RunStroke(i + 1, done.Layout.RunSeed(i), r.Passed, r.TimeMicros * 1e-6, groupOf.GetValueOrDefault(i, -1))
                        {
                            Copy = doubted ? done.Layout.Copy(i) + 1 : 0,
                            CopySeed = done.Layout.CopySeed(done.Layout.Copy(i)),
                            Score = r.Score,
                        }
                ),
            ]
        )
        {
            Scene = plan.Scene.Name,
            Numbers = [.. done.Columns.Select(c => new VariedNumber(c.Name, c.Unit))],
        };
        if (runs == 0)
            return proof;
        // One run a copy tells nothing of how copies differ.
        if (done.Layout.Kind == RunLayout.Kinds.Single)
            return proof with { Copies = doubted ? runs : 0 };
        proof = doubted ? Doubting(proof, done, best, more) : Certain(proof);
        return proof with { Say = ProofWords.Say(proof) };
    }

    private static readonly int[] NextAsked = [10, 20];

    private static Proof Certain(Proof proof)
    {
        var range = RangeOf(null, proof.Passes, proof.Runs);
        return proof with
        {
            Copy = range,
            Chance = range,
            Next = [.. NextAsked.Select(n => CopyRange.Certain(proof.Passes, proof.Runs, n))],
        };
    }

    private static Proof Doubting(Proof proof, RunsDone done, RunsDone? best, RunsDone? more)
    {
        var copies = done.ByCopy();
        var range = CopyRange.Of(RunsDone.Merged(copies));
        var (low, high) = range.Whole;
        RateRange? chance = null;
        if (best is not null && SuccessRate.Wilson(best.Passes, best.Results.Count, Confidence) is var c)
            chance = new(c.Low, c.High);
        var doubts = copies.Length >= Proving.Doubts.LeastCopies || more is not null ? Proving.Doubts.Find(done, more, range) : null;
        return proof with
        {
            Copies = copies.Length,
            Copy = new(low, high),
            Rests = doubts?.Doubts is [{ Kind: var most }, ..] ? most : Rests(done.Columns.Select(c => c.Spec)),
            Chance = chance,
            Next = [.. NextAsked.Select(range.Next)],
            Marks = [.. Enumerable.Range(0, copies.Length).Select(i => Math.Round(range.Quantile((i + 0.5) / copies.Length), 4))],
            Doubts = doubts,
        };
    }

    private static (IReadOnlyList<FailureGroup> Failures, Dictionary<int, int> GroupOf) Groups(BenchPlan plan, RunsDone done)
    {
        var keyOf = new Dictionary<int, (string, string, string)>();
        for (var i = 0; i < done.Results.Count; i++)
            if (!done.Results[i].Passed)
                keyOf[i] = Key(plan, done.Results[i]);
        var groups = keyOf.GroupBy(k => k.Value).OrderByDescending(g => g.Count()).ThenBy(g => g.Min(k => k.Key)).ToArray();
        var failures = new List<FailureGroup>();
        var groupOf = new Dictionary<int, int>();
        foreach (var group in groups)
        {
            var first = group.Min(k => k.Key);
            var (seed, copy) = (done.Layout.RunSeed(first), done.Layout.CopySeed(done.Layout.Copy(first)));
            // The largest groups are told in words; a proof whose failures are all different would be told for minutes.
            var told = failures.Count < MostToldGroups;
            var report = told ? BenchReport.Watch(plan, seed, 1, default, copy) : null;
            foreach (var member in group)
                groupOf[member.Key] = failures.Count;
            var own = new bool[done.Results.Count];
            foreach (var member in group)
                own[member.Key] = true;
            failures.Add(
                new(group.Key.Item1, group.Key.Item2, group.Key.Item3, group.Count(), seed, first + 1, report?.Failure?.Say ?? "")
                {
                    CopySeed = copy,
                    Common = told ? Commons.Of(done, own) : null,
                }
            );
        }
        return (failures, groupOf);
    }

    /// <summary>How a run failed, in words; empty for one that passed.</summary>
    /// <param name="plan">What ran.</param>
    /// <param name="result">How it came out.</param>
    public static string Cause(BenchPlan plan, BenchResult result)
    {
        if (result.Passed)
            return "";
        var (goal, last, ended) = Key(plan, result);
        return $"{goal}; {ended}; last: {last}";
    }

    private static (string Goal, string Last, string Ended) Key(BenchPlan plan, BenchResult result)
    {
        var goal =
            result.Ending == RunEnding.MachineFault ? "the machine had to be stopped"
            : result.Rule >= 0 ? plan.Rules[result.Rule].Text
            : "";
        var last =
            result.LastTransition >= 0 && plan.Programs[result.Program].Script.Steps[result.LastTransition].Node is { } sentence
                ? Printer.Plain(Printer.Pieces(sentence))
                : "none";
        return (goal, last, result.Ended);
    }
}
