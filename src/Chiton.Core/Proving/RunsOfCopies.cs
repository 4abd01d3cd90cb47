using Chiton.Core.Simulation;

namespace Chiton.Core.Proving;

/// <summary>Something whose runs can be counted: the bench, or in tests a formula that stands in for it.</summary>
public interface IProvable
{
    /// <summary>Every number that is drawn.</summary>
    IReadOnlyList<DrawSpec> Draws { get; }

    /// <summary>A runner, for one thread.</summary>
    IProvableRun Begin();
}

/// <summary>Runs one run after the other.</summary>
public interface IProvableRun
{
    /// <summary>Runs once.</summary>
    /// <param name="seed">Seed of what varies from run to run.</param>
    /// <param name="copy">Seed of the copy; <see cref="Simulation.Draws.BestCopy"/> for best values.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    BenchResult Go(long seed, long copy, CancellationToken cancel);

    /// <summary>The numbers drawn for the last run.</summary>
    ReadOnlySpan<double> Drawn { get; }

    /// <summary>How many times wider than found their spreads were in it.</summary>
    ReadOnlySpan<double> Wide { get; }
}

/// <summary>A plan of the bench, to be proved.</summary>
/// <param name="plan">The plan.</param>
public sealed class PlanProved(BenchPlan plan) : IProvable
{
    /// <summary>The plan.</summary>
    public BenchPlan Plan => plan;

    /// <inheritdoc/>
    public IReadOnlyList<DrawSpec> Draws => plan.Draws;

    /// <inheritdoc/>
    public IProvableRun Begin() => new Runner(new(plan));

    private sealed class Runner(Bench bench) : IProvableRun
    {
        public BenchResult Go(long seed, long copy, CancellationToken cancel) => bench.Go(seed, cancel: cancel, copySeed: copy);

        public ReadOnlySpan<double> Drawn => bench.Drawn;

        public ReadOnlySpan<double> Wide => bench.Wide;
    }
}

/// <summary>Which made-up copy each of many runs is made on.</summary>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Kind">How copies and runs go together.</param>
/// <param name="Runs">How many runs.</param>
public readonly record struct RunLayout(long Seed, RunLayout.Kinds Kind, int Runs)
{
    /// <summary>From so many runs on there are as many copies as are ever made, with more runs each.</summary>
    public const int Many = 2000;

    /// <summary>Most made-up copies of a proof.</summary>
    public const int MostCopies = 200;

    /// <summary>How copies and runs go together.</summary>
    public enum Kinds : byte
    {
        /// <summary>Below 2 000 runs two a copy; from there on 200 copies that share the runs.</summary>
        Copies,

        /// <summary>A new copy in every run.</summary>
        Single,

        /// <summary>The copy that has every number at its best value.</summary>
        Best,
    }

    /// <summary>Of single runs the copy of the first one, so that they go on after those of a proof.</summary>
    public int First { get; init; }

    /// <summary>How many copies there are; 0 where none is made up.</summary>
    public int Copies =>
        Kind switch
        {
            Kinds.Single => Runs,
            Kinds.Best => 0,
            _ => Runs < Many ? (Runs + 1) / 2 : MostCopies,
        };

    /// <summary>The copy of a run, from 0; −1 for the one with best values.</summary>
    /// <param name="run">The run, from 0.</param>
    public int Copy(int run) =>
        Kind switch
        {
            Kinds.Single => First + run,
            Kinds.Best => -1,
            // Few runs: one copy after the other, so that fewer runs of the same seed are the same copies. Many: all from the first on.
            _ => Runs < Many ? run / 2 : run % MostCopies,
        };

    /// <summary>Seed of a copy.</summary>
    /// <param name="copy">The copy, from 0; −1 for the one with best values.</param>
    public long CopySeed(int copy) => copy < 0 ? Draws.BestCopy : RandomStream.SeedOfRun(Seed ^ 0x436f7079, copy);

    /// <summary>Seed of a run. Runs at best values have luck of their own, as have single ones.</summary>
    /// <param name="run">The run, from 0.</param>
    public long RunSeed(int run) => RandomStream.SeedOfRun(Seed, First + run + (int)Kind * 100_000_000);
}

/// <summary>A number that varied in many runs.</summary>
/// <param name="Spec">The number.</param>
/// <param name="IsSpread">True where it is how many times wider than found its spread was.</param>
public sealed record DrawnColumn(DrawSpec Spec, bool IsSpread)
{
    /// <summary>What it is, in words.</summary>
    public string Name => IsSpread ? $"how much {Spec.Name} varies" : Spec.Name;

    /// <summary>Its unit.</summary>
    public string Unit => IsSpread ? "times" : Spec.Unit;
}

/// <summary>Many runs as they came out, with what was drawn for them.</summary>
/// <param name="Layout">Which copy each was made on.</param>
/// <param name="Results">How they came out; those done without a gap from the first.</param>
/// <param name="Columns">The numbers that varied.</param>
/// <param name="Values">Their values, by number and run.</param>
public sealed record RunsDone(
    RunLayout Layout,
    IReadOnlyList<BenchResult> Results,
    IReadOnlyList<DrawnColumn> Columns,
    IReadOnlyList<float[]> Values
)
{
    /// <summary>The runs of single copies, and more of them.</summary>
    /// <param name="first">The first; null where there are none yet.</param>
    /// <param name="more">What follows.</param>
    /// <param name="count">How many of those.</param>
    public static RunsDone Joined(RunsDone? first, RunsDone more, int count) =>
        new(
            more.Layout with
            {
                Runs = (first?.Results.Count ?? 0) + count,
                First = first?.Layout.First ?? more.Layout.First,
            },
            [.. first?.Results ?? [], .. more.Results.Take(count)],
            more.Columns,
            [.. more.Values.Select((v, c) => (float[])[.. first?.Values[c] ?? [], .. v[..count]])]
        );

    /// <summary>Runs that passed.</summary>
    public int Passes => Results.Count(r => r.Passed);

    /// <summary>1 or 0 a run, in order, whether it passed.</summary>
    public string Outcomes =>
        string.Create(
            Results.Count,
            Results,
            (to, results) =>
            {
                for (var i = 0; i < to.Length; i++)
                    to[i] = results[i].Passed ? '1' : '0';
            }
        );

    /// <summary>How often each copy passed, in order of the copies.</summary>
    public CopyCount[] ByCopy()
    {
        var counts = new CopyCount[Results.Count == 0 ? 0 : Enumerable.Range(0, Results.Count).Max(Layout.Copy) + 1 - Layout.First];
        for (var i = 0; i < Results.Count; i++)
        {
            ref var c = ref counts[Layout.Copy(i) - Layout.First];
            c = new(c.Passes + (Results[i].Passed ? 1 : 0), c.Runs + 1, 1);
        }
        return counts;
    }

    /// <summary>The same, counted: copies that passed as many of as many runs are one row.</summary>
    public static CopyCount[] Merged(IEnumerable<CopyCount> copies) =>
        [.. copies.GroupBy(c => (c.Passes, c.Runs)).Select(g => new CopyCount(g.Key.Passes, g.Key.Runs, g.Sum(c => c.Weight)))];
}

/// <summary>Runs many times over all cores.</summary>
public static class ManyRuns
{
    /// <summary>The numbers that vary among runs of a kind.</summary>
    /// <param name="draws">Every number.</param>
    public static DrawnColumn[] Columns(IReadOnlyList<DrawSpec> draws) =>
        [
            .. draws.Where(d => !d.IsFixed).Select(d => new DrawnColumn(d, false)),
            .. draws.Where(d => d.SpreadIsDoubted).Select(d => new DrawnColumn(d, true)),
        ];

    /// <summary>
    /// Runs many times. Each run has its own seed that depends on the seed of the whole and its number alone, so the outcome is the same
    /// on any number of threads. When cancelled, the runs done without a gap from the first are given.
    /// </summary>
    /// <param name="bench">What runs.</param>
    /// <param name="layout">How often, and on which copies.</param>
    /// <param name="progress">Told now and then how many are done and passed; may be null.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it early.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    /// <param name="enough">Told how many are done; true when they are enough. Null to do all.</param>
    /// <param name="from">Runs of the same seed that were made already; null for none.</param>
    public static RunsDone Run(
        IProvable bench,
        RunLayout layout,
        Action<int, int>? progress = null,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null,
        Func<int, bool>? enough = null,
        RunsDone? from = null
    )
    {
        var runs = layout.Runs;
        var columns = Columns(bench.Draws);
        var at = new int[columns.Length];
        for (int c = 0, i = -1; c < columns.Length; c++)
        {
            do i = (i + 1) % bench.Draws.Count;
            while (!ReferenceEquals(bench.Draws[i], columns[c].Spec));
            at[c] = i;
        }
        var results = new BenchResult[runs];
        var values = columns.Select(_ => new float[runs]).ToArray();
        var ready = new bool[runs];
        int done = 0,
            passed = 0;
        for (var i = 0; i < Math.Min(runs, from?.Results.Count ?? 0) && from!.Layout.Copy(i) == layout.Copy(i); i++)
        {
            (results[i], ready[i]) = (from.Results[i], true);
            for (var c = 0; c < at.Length; c++)
                values[c][i] = from.Values[c][i];
            (done, passed) = (done + 1, passed + (results[i].Passed ? 1 : 0));
        }
        // Each thread takes the next run that nobody has taken, and makes what it took: stopped when there are enough, none is left out.
        var next = done - 1;
        var stopped = false;
        bool Another(out int i)
        {
            i = runs;
            if (Volatile.Read(ref stopped) || cancel.IsCancellationRequested || enough?.Invoke(Volatile.Read(ref done)) == true)
                return false;
            i = Interlocked.Increment(ref next);
            return i < runs;
        }
        void Work()
        {
            if (!Another(out var i))
                return;
            var run = bench.Begin();
            do
            {
                results[i] = run.Go(layout.RunSeed(i), layout.CopySeed(layout.Copy(i)), cancel);
                for (var c = 0; c < at.Length; c++)
                    values[c][i] = (float)(columns[c].IsSpread ? run.Wide[at[c]] : run.Drawn[at[c]]);
                Volatile.Write(ref ready[i], true);
                var p = results[i].Passed ? Interlocked.Increment(ref passed) : Volatile.Read(ref passed);
                // Counted whether anybody is told or not.
                var n = Interlocked.Increment(ref done);
                progress?.Invoke(n, p);
            } while (Another(out i));
        }
        var workers = threads > 0 ? threads : Environment.ProcessorCount;
        Parallel.For(
            0,
            workers,
            new ParallelOptions { MaxDegreeOfParallelism = workers, TaskScheduler = scheduler ?? TaskScheduler.Default },
            _ =>
            {
                var whole = false;
                try
                {
                    Work();
                    whole = true;
                }
                catch (OperationCanceledException) when (cancel.IsCancellationRequested)
                {
                    // A run that was cut short counts neither way.
                }
                finally
                {
                    if (!whole)
                        Volatile.Write(ref stopped, true);
                }
            }
        );
        var count = Array.IndexOf(ready, false) is var gap and >= 0 ? gap : runs;
        if (count < runs)
        {
            Array.Resize(ref results, count);
            for (var c = 0; c < values.Length; c++)
                Array.Resize(ref values[c], count);
        }
        return new(layout, results, columns, values);
    }
}

/// <summary>The light count after every edit: what fits a short time, wide and honest.</summary>
public static class Gauge
{
    /// <summary>Most runs.</summary>
    public const int Runs = 100;

    /// <summary>Fewest runs, however long they take.</summary>
    public const int Least = 24;

    /// <summary>After this time no more runs are to be begun, ms; the clock is the caller's.</summary>
    public const int Ms = 400;

    /// <summary>Counts.</summary>
    /// <param name="bench">What runs.</param>
    /// <param name="over">True once no more runs are to be begun; asked from <see cref="Least"/> runs on.</param>
    /// <param name="cancel">Stops it early; what is done by then is given.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    public static RunsDone Count(IProvable bench, Func<bool> over, CancellationToken cancel = default, TaskScheduler? scheduler = null) =>
        ManyRuns.Run(bench, new(1, RunLayout.Kinds.Copies, Runs), cancel: cancel, scheduler: scheduler, enough: n => n >= Least && over());
}
