using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Proving;

/// <summary>A number that is not known well, and what measuring it would bring.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Unit of its value.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">In words.</param>
/// <param name="Value">Its best value.</param>
/// <param name="Share">How much of what copies differ by it makes, 0 to 1.</param>
/// <param name="Explains">R²: how much of the draws' passes hangs on it.</param>
/// <param name="Worst">Share of runs that pass at the worse end of it: among the fifth of the copies there.</param>
/// <param name="Measured">How it could be measured, or measured better; null where nothing measures it.</param>
/// <param name="WidthNow">How wide the copy's range is, 0 to 1.</param>
/// <param name="WidthThen">How wide it would be once this was measured; null where nothing measures it.</param>
public sealed record Doubt(
    string Name,
    string Unit,
    Provenance Kind,
    string Source,
    double Value,
    double Share,
    double Explains,
    double Worst,
    Measuring? Measured,
    double WidthNow,
    double? WidthThen
);

/// <summary>Something that varies from run to run, and that no measuring removes.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Explains">R²: how much of the runs' passes hangs on it.</param>
public sealed record Luck(string Name, double Explains);

/// <summary>What of a proof is doubt and what is luck, by name.</summary>
/// <param name="Doubts">Numbers worth measuring, the one that makes most first; empty where none stands out.</param>
/// <param name="Lucks">What varies from run to run and matters most; empty where nothing stands out.</param>
/// <param name="Named">False where there were too few copies to name any.</param>
public sealed record DoubtsFound(IReadOnlyList<Doubt> Doubts, IReadOnlyList<Luck> Lucks, bool Named);

/// <summary>Made-up copies: how often each passed, and what was drawn for it.</summary>
/// <param name="Columns">The numbers that varied.</param>
/// <param name="Counts">How often each copy passed.</param>
/// <param name="Values">Their values, by number and copy.</param>
public sealed record MadeCopies(IReadOnlyList<DrawnColumn> Columns, CopyCount[] Counts, IReadOnlyList<double[]> Values)
{
    /// <summary>How many copies there are.</summary>
    public int Count => Counts.Length;

    /// <summary>The copies of a proof, and further ones.</summary>
    /// <param name="proof">Its runs, at least one.</param>
    /// <param name="more">Runs of further copies, one each; null for none.</param>
    public static MadeCopies Of(RunsDone proof, RunsDone? more = null)
    {
        var counts = proof.ByCopy();
        // What is not known is the same in every run of a copy: the first of each tells.
        var first = new int[counts.Length];
        for (var i = proof.Results.Count - 1; i >= 0; i--)
            first[proof.Layout.Copy(i) - proof.Layout.First] = i;
        return new(
            proof.Columns,
            [.. counts, .. more?.ByCopy() ?? []],
            [
                .. proof.Values.Select(
                    (own, c) =>
                        (double[])[.. first.Select(i => (double)own[i]), .. more is null ? [] : more.Values[c].Select(v => (double)v)]
                ),
            ]
        );
    }

    /// <summary>As many copies, each as often as its weight has it: every so many of the summed weights, from the middle of the
    /// first step (systematic resampling; Kitagawa, 1996).</summary>
    /// <param name="weights">A weight a copy; together 1.</param>
    public MadeCopies Weighed(IReadOnlyList<double> weights)
    {
        var taken = new int[Count];
        var (sum, at) = (0.0, -1);
        for (var i = 0; i < Count; i++)
        {
            while (at < Count - 1 && sum <= (i + 0.5) / Count)
                sum += weights[++at];
            taken[i] = at;
        }
        return new(Columns, [.. taken.Select(t => Counts[t])], [.. Values.Select(v => taken.Select(t => v[t]).ToArray())]);
    }
}

/// <summary>
/// Which number makes the copy's range, and what measuring it would bring. Source: R² of a regression on the first two Legendre
/// polynomials of the number's rank; what R² could be by accident by permutation (Westfall and Young, "Resampling-based multiple testing",
/// 1993: the largest over all numbers).
/// </summary>
public static class Doubts
{
    /// <summary>So many made-up copies are needed before a number is named.</summary>
    public const int LeastCopies = 200;

    /// <summary>Most numbers where all of them are asked for.</summary>
    public const int MostOfAll = 12;

    private const int Shuffles = 199,
        Beyond = 190,
        MostNamed = 3;

    // Numbers that one measuring finds together count as one.
    private sealed record Item(string Name, DrawnColumn First, int[] Columns, double[][] Ranks)
    {
        public double Explains { get; set; }
        public int Most { get; set; }
    }

    /// <summary>Finds them.</summary>
    /// <param name="proof">The runs of a proof.</param>
    /// <param name="more">Runs of further copies, one each; null where the proof has enough.</param>
    /// <param name="range">The copy's range.</param>
    /// <param name="cancel">Stops it.</param>
    public static DoubtsFound Find(RunsDone proof, RunsDone? more, CopyRange range, CancellationToken cancel = default)
    {
        var made = MadeCopies.Of(proof, more);
        return made.Count < LeastCopies ? new([], [], false) : new(Find(made, range, cancel), Lucks(proof, cancel), true);
    }

    /// <summary>Numbers of made-up copies that are worth measuring, the one that makes most first.</summary>
    /// <param name="made">The copies, at least <see cref="LeastCopies"/>.</param>
    /// <param name="range">The range that they make.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="all">True for every number in doubt that can be measured, also those that hardly matter; they are the first
    /// <see cref="MostOfAll"/>.</param>
    public static IReadOnlyList<Doubt> Find(MadeCopies made, CopyRange range, CancellationToken cancel = default, bool all = false)
    {
        var copies = made.Counts;
        double[] passed = [.. copies.Select(c => (double)c.Passes / c.Runs)];
        var items = made
            .Columns.Select((column, at) => (Column: column, At: at))
            .Where(c => c.Column.IsSpread || c.Column.Spec.IsDoubted)
            .GroupBy(c => Key(c.Column.Spec))
            .Select(g =>
            {
                int[] at = [.. g.Select(c => c.At)];
                return new Item(g.Key, g.First().Column, at, [.. at.Select(c => Ranks(made.Values[c]))]);
            })
            .Where(i => i.Ranks.Any(r => r.Length > 0))
            .ToArray();
        var doubts = new List<Doubt>();
        var named = Name(items, passed, cancel);
        if (all)
            named =
            [
                .. items
                    .Where(i => made.Columns[i.Columns[i.Most]].Spec.Measured is not null)
                    .OrderByDescending(i => i.Explains)
                    .Take(MostOfAll),
            ];
        if (named.Count > 0)
        {
            var merged = RunsDone.Merged(copies);
            var likelihoods = CopyRange.Likelihoods(merged);
            var kind = copies.Select(c => Array.FindIndex(merged, m => m.Passes == c.Passes && m.Runs == c.Runs)).ToArray();
            var (low, high) = range.Interval;
            var rho = range.LikeliestRho;
            var runs = copies.Average(c => c.Runs);
            foreach (var item in named)
            {
                var column = made.Columns[item.Columns[item.Most]];
                var spec = column.Spec;
                // Of the variance of shares that pass, the part between copies is what doubt makes.
                var free = item.Explains - 2.0 / (copies.Length - 1) * (1 - item.Explains);
                var share = rho <= 0 ? 0 : Math.Clamp(free * (1 + (runs - 1) * rho) / (runs * rho), 0, 1);
                doubts.Add(
                    new(
                        column.Name,
                        column.Unit,
                        spec.Kind,
                        spec.Source,
                        column.IsSpread ? 1 : spec.Usual,
                        share,
                        item.Explains,
                        WorstFifth(item.Ranks[item.Most], copies),
                        spec.Measured,
                        high - low,
                        spec.Measured is null
                            ? null
                            : Then(
                                [.. item.Columns.Select(c => (made.Columns[c], made.Values[c]))],
                                merged,
                                likelihoods,
                                kind,
                                copies.Length,
                                high - low,
                                cancel
                            )
                    )
                );
            }
        }
        return doubts;
    }

    private static string Key(DrawSpec spec) => spec.Measured is { } m ? $"{m.Part}/{m.Name}/{m.Zone}" : spec.Name;

    // Those beyond what the largest of all would be by accident, largest first.
    private static List<T> Beyonds<T>(IReadOnlyList<(T Item, double Explains)> found, double limit) =>
        [.. found.Where(f => f.Explains > limit).OrderByDescending(f => f.Explains).Select(f => f.Item).Take(MostNamed)];

    private static List<Item> Name(Item[] items, double[] passed, CancellationToken cancel)
    {
        foreach (var item in items)
            for (var c = 0; c < item.Ranks.Length; c++)
                if (Explained(item.Ranks[c], passed) is var e && e > item.Explains)
                    (item.Explains, item.Most) = (e, c);
        var limit = ByAccident([.. items.SelectMany(i => i.Ranks)], passed, cancel);
        return Beyonds([.. items.Select(i => (i, i.Explains))], limit);
    }

    // Chance is asked of single runs: what was drawn for a run, and whether that one passed.
    private static List<Luck> Lucks(RunsDone proof, CancellationToken cancel)
    {
        var runs = Math.Min(proof.Results.Count, 2000);
        double[] passed = [.. proof.Results.Take(runs).Select(r => r.Passed ? 1.0 : 0)];
        var chance = proof
            .Columns.Select((column, at) => (Column: column, At: at))
            .Where(c => !c.Column.IsSpread && (c.Column.Spec.ChanceSd > 0 || c.Column.Spec.To is not null))
            .Select(c => (c.Column.Name, Ranks: Ranks([.. proof.Values[c.At].Take(runs).Select(v => (double)v)])))
            .Where(c => c.Ranks.Length > 0)
            .ToArray();
        if (chance.Length == 0)
            return [];
        var limit = ByAccident([.. chance.Select(c => c.Ranks)], passed, cancel);
        return Beyonds([.. chance.Select(c => (new Luck(c.Name, Explained(c.Ranks, passed)), Explained(c.Ranks, passed)))], limit);
    }

    // Places of values from −1 to 1, equal ones in the middle of theirs; empty where all are equal.
    internal static double[] Ranks(double[] values)
    {
        var n = values.Length;
        var order = Enumerable.Range(0, n).OrderBy(i => values[i]).ToArray();
        if (n < 3 || values[order[0]] == values[order[^1]])
            return [];
        var ranks = new double[n];
        for (var i = 0; i < n; )
        {
            var j = i;
            while (j < n && values[order[j]] == values[order[i]])
                j++;
            for (var k = i; k < j; k++)
                ranks[order[k]] = (i + j) / (double)n - 1;
            i = j;
        }
        return ranks;
    }

    // R² on a straight line and a bow of the rank. Both are free of each other where no ranks are equal, nearly so else.
    internal static double Explained(double[] ranks, double[] y)
    {
        if (ranks.Length == 0)
            return 0;
        var n = y.Length;
        double mean = 0,
            bow = 0;
        for (var i = 0; i < n; i++)
        {
            mean += y[i];
            bow += ranks[i] * ranks[i];
        }
        (mean, bow) = (mean / n, bow / n);
        double yy = 0,
            ll = 0,
            bb = 0,
            ly = 0,
            by = 0,
            lb = 0;
        for (var i = 0; i < n; i++)
        {
            var (v, l, b) = (y[i] - mean, ranks[i], ranks[i] * ranks[i] - bow);
            yy += v * v;
            ll += l * l;
            bb += b * b;
            ly += l * v;
            by += b * v;
            lb += l * b;
        }
        if (yy <= 0 || ll <= 0)
            return 0;
        by -= lb / ll * ly;
        bb -= lb * lb / ll;
        return Math.Min(1, (ly * ly / ll + (bb > 1e-9 * n ? by * by / bb : 0)) / yy);
    }

    private static double ByAccident(double[][] ranks, double[] passed, CancellationToken cancel)
    {
        var most = new double[Shuffles];
        var luck = new RandomStream(0x5eed, 7);
        var y = (double[])passed.Clone();
        for (var s = 0; s < Shuffles; s++)
        {
            cancel.ThrowIfCancellationRequested();
            for (var i = y.Length - 1; i > 0; i--)
            {
                var j = (int)(luck.Uniform() * (i + 1));
                (y[i], y[j]) = (y[j], y[i]);
            }
            foreach (var r in ranks)
                most[s] = Math.Max(most[s], Explained(r, y));
        }
        Array.Sort(most);
        return most[Beyond - 1];
    }

    private static double WorstFifth(double[] ranks, CopyCount[] copies)
    {
        double Share(Func<double, bool> there)
        {
            int passes = 0,
                runs = 0;
            for (var i = 0; i < copies.Length; i++)
                if (there(ranks[i]))
                    (passes, runs) = (passes + copies[i].Passes, runs + copies[i].Runs);
            return runs == 0 ? 1 : (double)passes / runs;
        }
        return Math.Min(Share(r => r < -0.6), Share(r => r > 0.6));
    }

    /// <summary>
    /// The mean width of the range over every draw taken for what the measuring finds: the others count as much as they would be drawn
    /// then, as Student's t has it (√2 times the error of five trials). Together they count as many as there are, because the proof that
    /// follows will have as many.
    /// </summary>
    private static double Then(
        (DrawnColumn Column, double[] Values)[] found,
        CopyCount[] merged,
        double[][] likelihoods,
        int[] kind,
        int copies,
        double now,
        CancellationToken cancel
    )
    {
        var counts = (CopyCount[])merged.Clone();
        var weights = new double[copies];
        // In units of √2 SDs that remain.
        var scaled = found
            .Select(f =>
            {
                var (spec, m) = (f.Column.Spec, f.Column.Spec.Measured!);
                // A spread that was found with so many more readings is known to a share of itself.
                var sd = f.Column.IsSpread ? 1 / Math.Sqrt(2 * Math.Max(1, m.Dof)) : m.DrawnSd;
                return f.Values.Select(v => (f.Column.IsSpread ? Math.Log(v) : v) / (Math.Sqrt(2) * Math.Max(1e-12, sd))).ToArray();
            })
            .ToArray();
        var sum = 0.0;
        for (var truth = 0; truth < copies; truth++)
        {
            cancel.ThrowIfCancellationRequested();
            var all = 0.0;
            for (var i = 0; i < copies; i++)
            {
                var far = 0.0;
                foreach (var v in scaled)
                    far += (v[i] - v[truth]) * (v[i] - v[truth]);
                all += weights[i] = Math.Exp(-far);
            }
            for (var c = 0; c < counts.Length; c++)
                counts[c] = counts[c] with { Weight = 0 };
            for (var i = 0; i < copies; i++)
                counts[kind[i]] = counts[kind[i]] with { Weight = counts[kind[i]].Weight + weights[i] / all * copies };
            var (low, high) = CopyRange.Of(counts, likelihoods).Interval;
            sum += high - low;
        }
        return Math.Min(now, sum / copies);
    }
}
