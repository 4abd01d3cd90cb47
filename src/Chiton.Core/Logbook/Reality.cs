using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Logbook;

/// <summary>A run on the table, as it counts.</summary>
/// <param name="Passed">Whether it passed.</param>
/// <param name="TimeS">How long it took by a stopwatch, s; null when nobody took the time.</param>
public sealed record RealRun(bool Passed, double? TimeS = null);

/// <summary>A number in doubt, as the trials leave it.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Kind">Where it came from before.</param>
/// <param name="Measured">How it could be measured; null where nothing measures it.</param>
/// <param name="Was">Its mean before the trials.</param>
/// <param name="WasSd">How well it was known (SD).</param>
/// <param name="Value">Its mean with them.</param>
/// <param name="Sd">How well it is known with them (SD).</param>
/// <param name="Say">In words: "braking is likelier near 760 mm/s²: guessed, then narrowed by 7 trials".</param>
public sealed record NarrowedNumber(
    string Name,
    string Unit,
    Provenance Kind,
    Measuring? Measured,
    double Was,
    double WasSd,
    double Value,
    double Sd,
    string Say
);

/// <summary>The bench does not know something: so many passes were hardly to be expected.</summary>
/// <param name="Trials">After so many trials.</param>
/// <param name="Passes">So many of them passed.</param>
/// <param name="Low">Of as many, at least so many were promised.</param>
/// <param name="High">At most so many.</param>
/// <param name="Chance">How likely so few, or so many, were: at most 0.01.</param>
public sealed record CalledOut(int Trials, int Passes, int Low, int High, double Chance)
{
    /// <summary>True when fewer passed than promised.</summary>
    public bool Worse => Passes < Low;
}

/// <summary>What trials on a copy teach.</summary>
/// <param name="Passes">Trials that passed.</param>
/// <param name="Trials">All trials.</param>
/// <param name="Before">Where the rate of the copy lay before them, 90 %.</param>
/// <param name="After">Where it lies with them.</param>
/// <param name="Promised">Of as many runs, so many were promised to pass.</param>
/// <param name="Called">Where the bench does not know something; else null.</param>
/// <param name="Effective">How many made-up copies still count: (Σw)² / Σw².</param>
/// <param name="Enough">True where that is enough to speak of single numbers.</param>
/// <param name="Numbers">Numbers that the trials narrowed, the most first; none where there is not enough, or it was called out.</param>
/// <param name="Explaining">Where it was called out, numbers in doubt that would explain it, and where they would have to lie.</param>
/// <param name="Next">What to measure next, with what the trials taught; null where too few copies were made up, or it was not
/// asked.</param>
/// <param name="Times">What the stopwatch says against the bench; null where nothing was timed or both agree.</param>
public sealed record Learnt(
    int Passes,
    int Trials,
    RateRange Before,
    RateRange After,
    NextRuns Promised,
    CalledOut? Called,
    double Effective,
    bool Enough,
    IReadOnlyList<NarrowedNumber> Numbers,
    IReadOnlyList<NarrowedNumber> Explaining,
    IReadOnlyList<Doubt>? Next,
    string? Times
)
{
    /// <summary>True when as many passed as were promised.</summary>
    public bool AsPromised => Passes >= Promised.Low && Passes <= Promised.High;
}

/// <summary>
/// What runs on the table teach of a copy. Each made-up copy of the proof is weighed by how well it explains the trials: with a and b of
/// the likeliest Beta distribution, one that passed x of n runs weighs B(a + x + s, b + n − x + f) / B(a + x, b + n − x) once s trials
/// passed and f failed (Bayes, with a beta-binomial chance), and times by their own spread; the copy's range is the mixture, updated in the
/// same way.
/// </summary>
public static class Reality
{
    /// <summary>So many made-up copies must still count before a single number is spoken of.</summary>
    public const double LeastEffective = 40;

    /// <summary>So many must count before a number is named that would explain a surprise: that is a hint, not a figure.</summary>
    public const double LeastExplaining = 5;

    /// <summary>From so many trials on the bench can be called out.</summary>
    public const int FirstCall = 5;

    /// <summary>Up to so many trials.</summary>
    public const int LastCall = 20;

    /// <summary>How likely so few, or so many, passes may be at most where it is called out.</summary>
    public const double CallTail = 0.01;

    /// <summary>How well a hand stops a watch (SD), s. Chosen: the usual reaction of a person, begin and end.</summary>
    public const double HandSd = 0.25;

    // A number is spoken of once its spread is so much smaller, or its mean has moved by so many of the spreads it had.
    private const double Narrower = 0.9,
        Moved = 0.4,
        Explains = 0.8,
        FarTimes = 4;

    /// <summary>Holds trials against the runs that promised them.</summary>
    /// <param name="draws">Every number that the bench draws.</param>
    /// <param name="proof">The runs of the proof, at least one.</param>
    /// <param name="more">Runs of further made-up copies; null for none.</param>
    /// <param name="trials">The trials in order.</param>
    /// <param name="next">True to work out what to measure next, which takes a while.</param>
    /// <param name="cancel">Stops it.</param>
    public static Learnt Learn(
        IReadOnlyList<DrawSpec> draws,
        RunsDone proof,
        RunsDone? more,
        IReadOnlyList<RealRun> trials,
        bool next = true,
        CancellationToken cancel = default
    )
    {
        var passes = trials.Count(t => t.Passed);
        if (!draws.Any(d => d.IsDoubted || d.SpreadIsDoubted))
        {
            var wilson = Prover.RangeOf(null, proof.Passes, proof.Results.Count);
            double[] Of(int n) => CopyRange.PredictedCertain(proof.Passes, proof.Results.Count, n);
            return new(
                passes,
                trials.Count,
                wilson,
                wilson,
                trials.Count == 0 ? new(0, 0, 0) : CopyRange.Certain(proof.Passes, proof.Results.Count, trials.Count),
                Call(trials, Of),
                0,
                false,
                [],
                [],
                null,
                null
            );
        }
        var made = MadeCopies.Of(proof, more);
        // The proof's own range is what was promised: further copies are made to speak of numbers, not to promise anew.
        var before = CopyRange.Of(RunsDone.Merged(proof.ByCopy()));
        var after = before.After(passes, trials.Count - passes);
        var called = Call(trials, before.Predicted);
        var times = Times(proof, more, trials, out var far);
        // How copies differ is told by all that were made.
        var all = more is null ? before : CopyRange.Of(RunsDone.Merged(made.Counts));
        var weights = Weights(made, all, passes, trials.Count - passes, far is null ? times : null);
        var effective = 1 / weights.Sum(w => w * w);
        var enough = made.Count >= Doubts.LeastCopies && effective >= LeastEffective;
        var numbers =
            trials.Count > 0 && made.Count >= Doubts.LeastCopies && effective >= (called is null ? LeastEffective : LeastExplaining)
                ? Numbers(made, weights, trials.Count, called is not null)
                : [];
        var (low, high) = after.Whole;
        var (lowBefore, highBefore) = before.Whole;
        return new(
            passes,
            trials.Count,
            new(lowBefore, highBefore),
            new(low, high),
            trials.Count == 0 ? new(0, 0, 0) : before.Next(trials.Count),
            called,
            effective,
            enough,
            called is null ? [.. numbers.Where(n => n.Sd <= Narrower * n.WasSd || Math.Abs(n.Value - n.Was) >= Moved * n.WasSd)] : [],
            called is null ? [] : [.. numbers.Where(n => Math.Abs(n.Value - n.Was) >= Explains * n.WasSd)],
            next && enough && called is null ? Doubts.Find(made.Weighed(weights), after, cancel) : null,
            far
        );
    }

    private static CalledOut? Call(IReadOnlyList<RealRun> trials, Func<int, double[]> predicted)
    {
        var passed = trials.Take(FirstCall - 1).Count(t => t.Passed);
        for (var n = FirstCall; n <= Math.Min(LastCall, trials.Count); n++)
        {
            passed += trials[n - 1].Passed ? 1 : 0;
            var share = predicted(n);
            var (few, many) = (share[..(passed + 1)].Sum(), share[passed..].Sum());
            if (Math.Min(few, many) > CallTail)
                continue;
            var (low, high) = (0, n);
            for (var below = share[0]; low < n && below <= 0.05; below += share[low])
                low++;
            for (var above = share[n]; high > 0 && above <= 0.05; above += share[high])
                high--;
            return new(n, passed, low, high, Math.Min(few, many));
        }
        return null;
    }

    // By made-up copy how well it explains the trials; together 1.
    private static double[] Weights(MadeCopies made, CopyRange range, int passes, int failures, double[]? times)
    {
        var weights = new double[made.Count];
        for (var i = 0; i < weights.Length; i++)
        {
            var (x, n) = (made.Counts[i].Passes, made.Counts[i].Runs);
            weights[i] = CopyRange.Chance(range.BestA + x, range.BestB + n - x, passes, failures) + (times?[i] ?? 0);
        }
        var most = weights.Max();
        var sum = 0.0;
        for (var i = 0; i < weights.Length; i++)
            sum += weights[i] = Math.Exp(weights[i] - most);
        for (var i = 0; i < weights.Length; i++)
            weights[i] /= sum;
        return weights;
    }

    // How well each made-up copy explains what the stopwatch said of trials that passed, as a logarithm; null where nothing was timed.
    // Where no copy explains it, that is said and nothing is weighed by it.
    private static double[]? Times(RunsDone proof, RunsDone? more, IReadOnlyList<RealRun> trials, out string? far)
    {
        far = null;
        double[] taken = [.. trials.Where(t => t is { Passed: true, TimeS: not null }).Select(t => t.TimeS!.Value)];
        if (taken.Length == 0)
            return null;
        var own = proof.ByCopy().Length;
        var copies = own + (more?.ByCopy().Length ?? 0);
        var (sums, squares, counts) = (new double[copies], new double[copies], new int[copies]);
        void Add(RunsDone runs, int from)
        {
            for (var i = 0; i < runs.Results.Count; i++)
                // Of a gauge it was not kept how long its runs took.
                if (runs.Results[i] is { Passed: true, TimeMicros: > 0 and var micros })
                {
                    var at = from + runs.Layout.Copy(i) - runs.Layout.First;
                    var s = micros * 1e-6;
                    sums[at] += s;
                    squares[at] += s * s;
                    counts[at]++;
                }
        }
        Add(proof, 0);
        if (more is not null)
            Add(more, own);
        var all = counts.Sum();
        if (all < 10)
            return null;
        var mean = sums.Sum() / all;
        var spread = Math.Max(0, squares.Sum() / all - mean * mean);
        var (within, free) = (0.0, 0);
        for (var c = 0; c < copies; c++)
            if (counts[c] > 1)
                (within, free) = (within + squares[c] - sums[c] * sums[c] / counts[c], free + counts[c] - 1);
        // With one run a copy nobody can tell luck from doubt: all of it is taken for luck, which weighs least.
        var luck = free > 0 ? Math.Max(0, within / free) : spread;
        var k = taken.Length;
        var found = taken.Average();
        var hand = HandSd * HandSd;
        if (Math.Abs(found - mean) > FarTimes * Math.Sqrt(spread + hand))
        {
            far =
                $"Runs that pass take {Show(found, 3)} s here and {Show(mean, 3)} s in the bench: a start or an end that is timed "
                + "otherwise, or a speed that the bench does not know.";
            return null;
        }
        var logs = new double[copies];
        for (var c = 0; c < copies; c++)
        {
            // A copy that never passed says nothing of how long passing takes: it is as likely as all of them together.
            var (at, variance) =
                counts[c] == 0 ? (mean, spread + (luck + hand) / k) : (sums[c] / counts[c], luck / counts[c] + (luck + hand) / k);
            logs[c] = -0.5 * ((found - at) * (found - at) / variance + Math.Log(variance));
        }
        return logs;
    }

    private static List<NarrowedNumber> Numbers(MadeCopies made, double[] weights, int trials, bool surprise)
    {
        var found = new List<NarrowedNumber>();
        for (var c = 0; c < made.Columns.Count; c++)
        {
            var (column, values) = (made.Columns[c], made.Values[c]);
            // What varies from run to run is no number of the copy.
            if (column.IsSpread || !column.Spec.IsDoubted || column.Spec.ChanceSd > 0)
                continue;
            var was = values.Average();
            var wasSd = Math.Sqrt(values.Sum(v => (v - was) * (v - was)) / values.Length);
            var value = 0.0;
            for (var i = 0; i < values.Length; i++)
                value += weights[i] * values[i];
            var variance = 0.0;
            for (var i = 0; i < values.Length; i++)
                variance += weights[i] * (values[i] - value) * (values[i] - value);
            if (wasSd <= 0)
                continue;
            var unit = column.Unit.Length > 0 ? " " + column.Unit : "";
            found.Add(
                new(
                    column.Name,
                    column.Unit,
                    column.Spec.Kind,
                    column.Spec.Measured,
                    was,
                    wasSd,
                    value,
                    Math.Sqrt(variance),
                    surprise
                        ? $"{column.Name} would have to lie near {About(value, 3)}{unit}; it is {ProofWords.Known(column.Spec.Kind)}."
                        : $"{column.Name} is likelier near {About(value, 3)}{unit}: {Came(column.Spec.Kind)}, then narrowed by "
                            + $"{Count(trials, "trial")}."
                )
            );
        }
        return [.. found.OrderByDescending(n => Math.Max(1 - n.Sd / n.WasSd, Math.Abs(n.Value - n.Was) / n.WasSd / 2))];
    }

    private static string Came(Provenance kind) =>
        kind switch
        {
            Provenance.Guessed => "guessed",
            Provenance.Measured => "measured",
            Provenance.Calculated => "calculated",
            _ => "chosen",
        };
}
