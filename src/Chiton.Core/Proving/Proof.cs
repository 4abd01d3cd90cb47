using Chiton.Core.Programs.Language;
using Chiton.Core.Simulation;

namespace Chiton.Core.Proving;

/// <summary>Failures that are alike.</summary>
/// <param name="Goal">The goal or never that was broken, as written.</param>
/// <param name="LastTransition">The sentence of the last transition taken.</param>
/// <param name="Ended">Where the vehicle was, in words.</param>
/// <param name="Count">How many runs.</param>
/// <param name="Seed">Seed of one of them, to replay.</param>
/// <param name="Run">Its number, from 1.</param>
/// <param name="Say">What happened in that one.</param>
public sealed record FailureGroup(string Goal, string LastTransition, string Ended, int Count, long Seed, int Run, string Say);

/// <summary>One run of a proof.</summary>
/// <param name="Run">Its number, from 1.</param>
/// <param name="Seed">Its seed.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="EndS">When that was decided, s.</param>
/// <param name="Group">Index of its failure group; −1 when it passed.</param>
public sealed record RunStroke(int Run, long Seed, bool Passed, double EndS, int Group);

/// <summary>Many runs, counted.</summary>
/// <param name="Asked">Runs asked for.</param>
/// <param name="Runs">Runs done; fewer than asked when it was stopped.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Low">Lower end of the 95 % interval, 0 when no run was done.</param>
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
}

/// <summary>Counts many runs over all cores.</summary>
public static class Prover
{
    /// <summary>Most runs at once.</summary>
    public const int MostRuns = 10_000;

    /// <summary>Most groups of failures of which one is told in words.</summary>
    public const int MostToldGroups = 20;

    /// <summary>Longest simulated time of a run, s.</summary>
    public const double MostSeconds = 600;

    /// <summary>
    /// Runs many times. Each run has its own seed that depends on the proof's seed and its number alone, so the outcome
    /// is the same on any number of threads. When cancelled, the runs done without a gap from the first are counted.
    /// </summary>
    /// <param name="plan">What runs.</param>
    /// <param name="runs">How often, 1 to <see cref="MostRuns"/>.</param>
    /// <param name="seed">Seed of the whole.</param>
    /// <param name="progress">Told now and then how many are done and passed; may be null.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it early.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    /// <param name="enough">Told how many are done; true when they are enough. Null to do all.</param>
    public static Proof Run(
        BenchPlan plan,
        int runs,
        long seed,
        Action<int, int>? progress = null,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null,
        Func<int, bool>? enough = null
    )
    {
        var results = new BenchResult[runs];
        var ready = new bool[runs];
        int done = 0,
            passed = 0;
        var options = new ParallelOptions
        {
            MaxDegreeOfParallelism = threads > 0 ? threads : Environment.ProcessorCount,
            TaskScheduler = scheduler ?? TaskScheduler.Default,
        };
        Parallel.For(
            0,
            runs,
            options,
            () => new Bench(plan),
            (i, loop, bench) =>
            {
                if (cancel.IsCancellationRequested || enough is not null && enough(Volatile.Read(ref done)))
                {
                    loop.Stop();
                    return bench;
                }
                try
                {
                    results[i] = bench.Go(RandomStream.SeedOfRun(seed, i), cancel: cancel);
                }
                catch (OperationCanceledException)
                {
                    // A run that was cut short counts neither way.
                    loop.Stop();
                    return bench;
                }
                Volatile.Write(ref ready[i], true);
                var p = results[i].Passed ? Interlocked.Increment(ref passed) : Volatile.Read(ref passed);
                progress?.Invoke(Interlocked.Increment(ref done), p);
                return bench;
            },
            _ => { }
        );
        var count = Array.IndexOf(ready, false) is var gap and >= 0 ? gap : runs;
        return Count(plan, results.AsSpan(0, count).ToArray(), runs, seed);
    }

    private static Proof Count(BenchPlan plan, BenchResult[] results, int asked, long seed)
    {
        var passes = results.Count(r => r.Passed);
        var (low, high) = results.Length == 0 ? (0, 1) : SuccessRate.Wilson(passes, results.Length);
        var keyOf = new Dictionary<int, (string, string, string)>();
        for (var i = 0; i < results.Length; i++)
            if (!results[i].Passed)
                keyOf[i] = Key(plan, results[i]);
        var groups = keyOf.GroupBy(k => k.Value).OrderByDescending(g => g.Count()).ThenBy(g => g.Min(k => k.Key)).ToArray();
        var failures = new List<FailureGroup>();
        var groupOf = new Dictionary<int, int>();
        foreach (var group in groups)
        {
            var first = group.Min(k => k.Key);
            var runSeed = RandomStream.SeedOfRun(seed, first);
            // The largest groups are told in words; a proof whose failures are all different would be told for minutes.
            var report = failures.Count < MostToldGroups ? BenchReport.Watch(plan, runSeed, 1) : null;
            foreach (var member in group)
                groupOf[member.Key] = failures.Count;
            failures.Add(
                new(group.Key.Item1, group.Key.Item2, group.Key.Item3, group.Count(), runSeed, first + 1, report?.Failure?.Say ?? "")
            );
        }
        return new(
            asked,
            results.Length,
            passes,
            low,
            high,
            failures,
            [
                .. results.Select(
                    (r, i) =>
                        new RunStroke(
                            i + 1,
                            RandomStream.SeedOfRun(seed, i),
                            r.Passed,
                            r.TimeMicros * 1e-6,
                            groupOf.GetValueOrDefault(i, -1)
                        )
                ),
            ]
        )
        {
            Scene = plan.Scene.Name,
        };
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
