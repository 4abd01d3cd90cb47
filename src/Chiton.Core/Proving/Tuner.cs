using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Proving;

/// <summary>A number that is tuned, and from where to where.</summary>
/// <param name="Number">The number.</param>
/// <param name="From">Lower end of its range, in its unit.</param>
/// <param name="To">Upper end.</param>
public sealed record TunedRange(Tunable Number, double From, double To);

/// <summary>A set of values that was tried.</summary>
/// <param name="Values">The values, in the order of the numbers.</param>
/// <param name="Runs">Runs made with it.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Copy">Where the rate of this copy lies then.</param>
/// <param name="CycleS">Middle time of the runs that passed, s; null where none did.</param>
/// <param name="Score">Mean score.</param>
/// <param name="Fresh">True where it was run again on luck that it was not chosen by.</param>
/// <param name="Against">Held against the values as they stand; null for those themselves, and where it was not run again.</param>
/// <param name="OnFront">True where no other is better in rate, time and score at once.</param>
/// <param name="AtEdge">Numbers that sit at the edge of their range.</param>
public sealed record TunedPoint(
    IReadOnlyList<double> Values,
    int Runs,
    int Passes,
    RateRange Copy,
    double? CycleS,
    double Score,
    bool Fresh,
    PairedRates? Against,
    bool OnFront,
    IReadOnlyList<string> AtEdge
)
{
    /// <summary>True for the values as they stand.</summary>
    public bool IsNow { get; init; }
}

/// <summary>Where a number may lie without being worse than the best by more than luck.</summary>
/// <param name="From">From here.</param>
/// <param name="To">To here.</param>
public sealed record GoodValues(double From, double To);

/// <summary>What tuning found.</summary>
/// <param name="Points">Points that were tried, those that were run again first, the best of them first.</param>
/// <param name="Best">The best point that is better than what stands, and not by luck; −1 where none is.</param>
/// <param name="Good">By number, where it may lie.</param>
/// <param name="Runs">Runs made in all.</param>
/// <param name="Stopped">True when it was stopped early.</param>
public sealed record TuneResult(IReadOnlyList<TunedPoint> Points, int Best, IReadOnlyList<GoodValues> Good, int Runs, bool Stopped);

/// <summary>
/// Looks for better values of up to four numbers: many points with few runs each on the same luck, then the better half with twice the
/// runs, and so on; the last are run again on fresh luck, because those that were chosen were lucky too. What counts is the lower end of
/// what the copy may turn out to be. Source: Jamieson and Talwalkar, "Non-stochastic best arm identification" (2016), successive halving.
/// </summary>
public static class Tuner
{
    /// <summary>Most numbers at once.</summary>
    public const int MostNumbers = Sobol.Most;

    private const int FirstRuns = 40,
        Finalists = 4,
        FreshRuns = 400;

    private static readonly int[] PointsOf = [0, 16, 32, 48, 64];

    /// <summary>About how many runs it will make.</summary>
    /// <param name="numbers">How many numbers.</param>
    public static int About(int numbers)
    {
        var (points, runs, all, before) = (PointsOf[numbers] + 1, FirstRuns, 0, 0);
        while (true)
        {
            all += points * (runs - before);
            if (points <= Finalists)
                break;
            (points, before, runs) = (Math.Max(Finalists, points / 2), runs, 2 * runs);
        }
        return all + (Finalists + 1) * FreshRuns;
    }

    private sealed class Tried(double[] values)
    {
        public double[] Values => values;
        public RunsDone? Done { get; set; }
        public CopyRange? Range { get; set; }
        public RateRange Interval { get; set; } = new(0, 1);
        public bool IsNow { get; init; }
        public IProvable? Bench { get; set; }

        public double Rate => (double)Done!.Passes / Done.Results.Count;

        public double? CycleS
        {
            get
            {
                double[] times = [.. Done!.Results.Where(r => r.Passed).Select(r => r.TimeMicros * 1e-6).Order()];
                return times.Length == 0 ? null : times[times.Length / 2];
            }
        }

        public double Score => Done!.Results.Average(r => r.Score);
    }

    /// <summary>Tunes.</summary>
    /// <param name="ranges">The numbers and their ranges, 1 to <see cref="MostNumbers"/>.</param>
    /// <param name="bench">The bench with the numbers at other values; null where those cannot be run.</param>
    /// <param name="seed">Seed of the whole.</param>
    /// <param name="progress">Told how many runs were made, and of how many; may be null.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it early: what is known by then is told.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    public static TuneResult Run(
        IReadOnlyList<TunedRange> ranges,
        Func<IReadOnlyList<double>, IProvable?> bench,
        long seed,
        Action<int, int>? progress = null,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null
    )
    {
        var made = 0;
        var about = About(ranges.Count);
        var now = new Tried([.. ranges.Select(r => r.Number.Value)]) { IsNow = true };
        var points = new List<Tried> { now };
        var grid = Sobol.Points(PointsOf[ranges.Count], ranges.Count);
        // Spread so that the ends of each range are tried too.
        var ends = ranges.Select((_, d) => (Low: grid.Min(x => x[d]), High: grid.Max(x => x[d]))).ToArray();
        foreach (var x in grid)
        {
            double At(TunedRange r, int d) => r.From + (x[d] - ends[d].Low) / (ends[d].High - ends[d].Low) * (r.To - r.From);
            double[] values = [.. ranges.Select((r, d) => Math.Clamp(Tunables.Rounded(r.Number, At(r, d)), r.From, r.To))];
            if (points.All(p => !p.Values.SequenceEqual(values)))
                points.Add(new(values));
        }
        foreach (var p in points)
            p.Bench = bench(p.Values);
        points = [.. points.Where(p => p.Bench is not null)];
        // More runs of a point begin with those that it has: only the new ones are made.
        bool Go(Tried p, int runs, long with)
        {
            var before = p.Done?.Layout.Seed == with ? p.Done.Results.Count : 0;
            var done = ManyRuns.Run(
                p.Bench!,
                new(with, RunLayout.Kinds.Copies, runs),
                (n, _) => progress?.Invoke(Math.Min(about, made + n), about),
                threads,
                cancel,
                scheduler,
                from: p.Done?.Layout.Seed == with ? p.Done : null
            );
            made += done.Results.Count - before;
            if (done.Results.Count == 0)
                return false;
            p.Done = done;
            if (Prover.Doubted(p.Bench!))
            {
                p.Range = CopyRange.Of(RunsDone.Merged(done.ByCopy()));
                p.Interval = new(p.Range.Whole.Low, p.Range.Whole.High);
            }
            else
                p.Interval = Prover.RangeOf(null, done.Passes, done.Results.Count);
            return done.Results.Count == runs;
        }
        double Worth(Tried p) => p.Range?.Interval.Low ?? p.Interval.Low;
        IEnumerable<Tried> Ranked(IEnumerable<Tried> some) =>
            some.OrderByDescending(Worth).ThenByDescending(p => p.Rate).ThenBy(p => p.CycleS ?? double.MaxValue);
        var (runs, stopped) = (FirstRuns, false);
        var left = points;
        while (!stopped)
        {
            foreach (var p in left)
                if (!Go(p, runs, seed))
                {
                    stopped = true;
                    break;
                }
            if (stopped || left.Count <= Finalists)
                break;
            left = [.. Ranked(left).Take(Math.Max(Finalists, left.Count / 2))];
            runs *= 2;
        }
        // Where it may lie is asked of the runs that all had alike.
        var known = points.Where(p => p.Done is not null).ToArray();
        var good = ranges.Select((_, d) => Good(known, d, Worth)).ToArray();
        // Values as they stand and finalists, on luck that nothing was chosen by.
        var finalists = stopped ? [] : Ranked(left.Where(p => !p.IsNow)).Take(Finalists).ToArray();
        var chosen = known.Select(p => (Point: p, p.Done, p.Interval)).ToDictionary(p => p.Point);
        var fresh = new HashSet<Tried>();
        if (finalists.Length > 0 && now.Bench is not null && Go(now, FreshRuns, Fresh(seed)))
        {
            fresh.Add(now);
            foreach (var p in finalists)
            {
                if (!Go(p, FreshRuns, Fresh(seed)))
                {
                    stopped = true;
                    (p.Done, p.Interval) = (chosen[p].Done, chosen[p].Interval);
                    break;
                }
                fresh.Add(p);
            }
        }
        // Several are asked at once: that one of them is better by luck is no likelier than for one.
        PairedRates? Against(Tried p) =>
            fresh.Contains(p) && !p.IsNow ? Paired.Of(now.Done!.Outcomes, p.Done!.Outcomes, 1 - 0.05 / finalists.Length) : null;
        var ordered = Ranked(known.Where(fresh.Contains)).Concat(Ranked(known.Where(p => !fresh.Contains(p)))).ToArray();
        var front = Front([.. ordered.Where(p => fresh.Count == 0 || fresh.Contains(p))]);
        TunedPoint[] told =
        [
            .. ordered.Select(p => new TunedPoint(
                p.Values,
                p.Done!.Results.Count,
                p.Done.Passes,
                p.Interval,
                p.CycleS,
                p.Score,
                fresh.Contains(p),
                Against(p),
                front.Contains(p),
                [.. ranges.Where((r, d) => AtEdge(r, p.Values[d])).Select(r => Say(r.Number))]
            )
            {
                IsNow = p.IsNow,
            }),
        ];
        return new(told, Array.FindIndex(told, t => t.Against?.Verdict == Compared.Better), good, made, stopped);
    }

    private static long Fresh(long seed) => RandomStream.SeedOfRun(seed, 77_777);

    // Of values of one number the range in which some point is not clearly worse than the best.
    private static GoodValues Good(Tried[] known, int number, Func<Tried, double> worth)
    {
        var alike = known.Select(p => (Value: p.Values[number], Low: worth(p), p.Interval.High)).ToArray();
        var most = alike.Max(p => p.Low);
        double[] good = [.. alike.Where(p => p.High >= most).Select(p => p.Value)];
        return new(good.Min(), good.Max());
    }

    private static HashSet<Tried> Front(Tried[] points) =>
        [
            .. points.Where(p =>
                !points.Any(o =>
                    o != p
                    && o.Rate >= p.Rate
                    && (o.CycleS ?? 1e9) <= (p.CycleS ?? 1e9)
                    && o.Score >= p.Score
                    && (o.Rate > p.Rate || (o.CycleS ?? 1e9) < (p.CycleS ?? 1e9) || o.Score > p.Score)
                )
            ),
        ];

    // A value in the last twentieth of its range, or at its end where it counts.
    private static bool AtEdge(TunedRange range, double value)
    {
        var near = range.Number.Whole ? 0 : 0.05 * (range.To - range.From);
        return value <= range.From + near || value >= range.To - near;
    }

    private static string Say(Tunable t) => $"{Figures.Show(t.Value)} {t.Unit} in “{t.Sentence}”".Replace("  ", " ");
}
