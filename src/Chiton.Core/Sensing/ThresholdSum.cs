using Chiton.Core.Quantities;
using MathNet.Numerics.Distributions;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Where people put a threshold between two zones.</summary>
public enum School
{
    /// <summary>Both errors equally likely. The default.</summary>
    EqualRisk,

    /// <summary>Halfway between the means.</summary>
    Midpoint,

    /// <summary>Halfway between the highest low reading and the lowest high reading.</summary>
    MidGap,

    /// <summary>Weighed by the harm of each error.</summary>
    Cost,
}

/// <summary>A named list of readings of one zone.</summary>
/// <param name="Name">Zone name, may be left out.</param>
/// <param name="Readings">Readings in the order they were taken, finite.</param>
public sealed record ReadingList(string? Name, IReadOnlyList<double>? Readings)
{
    /// <summary>True when they were taken one after the other in the sample period; false where nobody knows when: then they have no drift
    /// a minute.</summary>
    public bool Timed { get; init; } = true;
}

/// <summary>Input of the sum <c>threshold</c>.</summary>
/// <param name="Lists">Two lists in either order, 3 readings or more each.</param>
/// <param name="Resolution">Smallest difference the sensor reports, same unit as the readings, 0 or more.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="MaxFalsePerHour">False switches an hour that are bearable, more than 0.</param>
/// <param name="School">Where to put the threshold.</param>
/// <param name="CostRatio">Harm of a false rise over harm of a false fall, more than 0.</param>
/// <param name="SetAside">Values to leave out wherever they occur.</param>
public sealed record ThresholdInput(
    IReadOnlyList<ReadingList>? Lists,
    double? Resolution,
    double? SamplePeriodMs,
    double? MaxFalsePerHour = null,
    string? School = null,
    double? CostRatio = null,
    IReadOnlyList<double>? SetAside = null
);

/// <summary>What one list of readings looks like.</summary>
/// <param name="Name">Zone name, if given.</param>
/// <param name="Count">Readings used.</param>
/// <param name="Mean">Mean, unit of the readings.</param>
/// <param name="Sd">Standard deviation (n − 1), unit of the readings.</param>
/// <param name="Median">Median.</param>
/// <param name="Min">Least reading.</param>
/// <param name="Max">Greatest reading.</param>
/// <param name="Outliers">Readings farther than 3.5 robust SDs from the median.</param>
/// <param name="DriftPerMinute">Slope of a straight line through the readings, unit per minute; 0 where nobody knows when they were
/// taken.</param>
/// <param name="Lag1">Correlation of each reading with the next; null where the readings do not vary.</param>
/// <param name="SetAside">Readings left out.</param>
public sealed record ListFigures(
    string? Name,
    int Count,
    double Mean,
    double Sd,
    double Median,
    double Min,
    double Max,
    IReadOnlyList<double> Outliers,
    double DriftPerMinute,
    double? Lag1,
    int SetAside
);

/// <summary>Result of the sum <c>threshold</c>. Units are those of the readings unless a name says otherwise.</summary>
/// <param name="Threshold">The threshold of the chosen school.</param>
/// <param name="School">The chosen school.</param>
/// <param name="EqualRisk">Threshold with both errors equally likely.</param>
/// <param name="Midpoint">Halfway between the means.</param>
/// <param name="MidGap">Middle of the gap between the lists; null when they touch or overlap.</param>
/// <param name="Cost">Threshold weighed by cost.</param>
/// <param name="Separation">Distance from the threshold to the nearer mean in SDs of that list; null when neither list varies.</param>
/// <param name="Hysteresis">Half-width of the band around the threshold.</param>
/// <param name="FalsePerReading">Chance that one reading lies beyond the far side of the band without cause.</param>
/// <param name="MissPerReading">Chance that one reading of the other zone does not reach the far side.</param>
/// <param name="ReadingsNeeded">Readings in a row that keep false switches bearable; null when up to 8 do not.</param>
/// <param name="ReadingsNeededSafe">The same as real readings need it: ragged and lopsided ones, those that come wrong together, and few
/// that know their own spread badly.</param>
/// <param name="FalsePerHour">False switches per hour with 1, 2 and 3 readings in a row.</param>
/// <param name="AddedDelayMs">What the readings needed cost in time, ms; null when there is no such number.</param>
/// <param name="Lists">The two lists, lower mean first.</param>
public record ThresholdResult(
    double Threshold,
    string School,
    double EqualRisk,
    double Midpoint,
    double? MidGap,
    double Cost,
    double? Separation,
    double Hysteresis,
    double FalsePerReading,
    double MissPerReading,
    int? ReadingsNeeded,
    int? ReadingsNeededSafe,
    IReadOnlyList<double> FalsePerHour,
    double? AddedDelayMs,
    IReadOnlyList<ListFigures> Lists
);

/// <summary>Readings of two lists that count, and how readings will be taken.</summary>
/// <param name="Lower">Those of the lower list.</param>
/// <param name="Upper">Those of the upper list.</param>
/// <param name="ShakeLower">What rolling adds to the lower list's spread, SD in the unit of the readings; 0 at rest.</param>
/// <param name="ShakeUpper">The same of the upper list.</param>
/// <param name="Resolution">Smallest difference the sensor reports.</param>
/// <param name="PeriodMs">Time between readings, ms.</param>
/// <param name="MaxFalsePerHour">False switches an hour that are bearable.</param>
public readonly record struct TakenReadings(
    IReadOnlyList<double> Lower,
    IReadOnlyList<double> Upper,
    double ShakeLower,
    double ShakeUpper,
    double Resolution,
    double PeriodMs,
    double MaxFalsePerHour
);

/// <summary>The threshold between two zones, and how far it can be relied on.</summary>
public static class ThresholdSum
{
    /// <summary>Most readings in a row that are considered.</summary>
    public const int MostReadings = 8;

    /// <summary>Most readings one list may hold.</summary>
    public const int MostPerList = 200_000;

    /// <summary>School names as the API writes them.</summary>
    public static string NameOf(School school) =>
        school switch
        {
            School.EqualRisk => "equalRisk",
            School.Midpoint => "midpoint",
            School.MidGap => "midGap",
            _ => "cost",
        };

    /// <summary>Finds a school by its API name; null when there is none.</summary>
    public static School? Parse(string? name) =>
        name switch
        {
            null or "equalRisk" => School.EqualRisk,
            "midpoint" => School.Midpoint,
            "midGap" => School.MidGap,
            "cost" => School.Cost,
            _ => null,
        };

    /// <summary>
    /// Computes the sum. Source: two-class decision threshold of normal populations (Duda, Hart and Stork, Pattern
    /// Classification, chapter 2); the upper limit of an SD from n readings by the χ² distribution.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<ThresholdResult> Compute(ThresholdInput input)
    {
        var need = new Require();
        var period = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true);
        var resolution = need.Number(input.Resolution ?? 0, "resolution", 0, 1e9);
        var maxFalse = need.Number(input.MaxFalsePerHour ?? 1, "maxFalsePerHour", 0, 1e9, aboveMin: true);
        var costRatio = need.Number(input.CostRatio ?? 1, "costRatio", 0, 1e6, aboveMin: true);
        var school = Parse(input.School);
        need.That(school is not null, "school", "Must be equalRisk, midpoint, midGap or cost.");
        need.That(input.SetAside is null || input.SetAside.All(double.IsFinite), "setAside", "Must hold finite numbers only.");
        need.That(input.Lists?.Count == 2, "lists", "Give two lists of readings.");
        need.Done();

        var aside = input.SetAside?.ToHashSet() ?? [];
        var kept = new double[2][];
        for (var i = 0; i < 2; i++)
        {
            var readings = input.Lists![i]?.Readings;
            var field = $"lists[{i}].readings";
            if (readings is null)
            {
                need.That(false, field, "Give a list of at least 3 readings.");
                continue;
            }
            var bad = Enumerable
                .Range(0, readings.Count)
                .FirstOrDefault(k => !double.IsFinite(readings[k]) || Math.Abs(readings[k]) > 1e12, -1);
            need.That(bad < 0, $"{field}[{bad}]", "Must be a finite number.");
            need.That(readings.Count <= MostPerList, field, $"At most {MostPerList} readings.");
            kept[i] = readings.Where(r => !aside.Contains(r)).ToArray();
            need.That(
                kept[i].Length >= 3,
                field,
                aside.Count == 0
                    ? $"Give at least 3 readings; there {(kept[i].Length == 1 ? "is" : "are")} {kept[i].Length}."
                    : $"Give at least 3 readings besides those set aside; there {(kept[i].Length == 1 ? "is" : "are")} {kept[i].Length}."
            );
        }
        need.Done();

        var smallestStep = SmallestStep(kept[0], kept[1]);
        var floor = Math.Max(resolution, smallestStep) / Math.Sqrt(12);
        ListFigures Described(int i) =>
            Describe(input.Lists![i].Name, kept[i], period, floor, input.Lists[i].Readings!.Count - kept[i].Length) is var figures
            && input.Lists[i].Timed
                ? figures
                : figures with
                {
                    DriftPerMinute = 0,
                };
        var (low, high) = (Described(0), Described(1));
        if (low.Mean > high.Mean)
            ((low, high), (kept[0], kept[1])) = ((high, low), (kept[1], kept[0]));
        ListFigures[] lists = [low, high];
        var (m1, m2) = (low.Mean, high.Mean);
        double s1 = Math.Max(low.Sd, floor),
            s2 = Math.Max(high.Sd, floor);
        var noSpread = low.Min == low.Max && high.Min == high.Max;
        var midpoint = (m1 + m2) / 2;
        double? midGap = low.Max < high.Min ? (low.Max + high.Min) / 2 : null;
        if (midGap is null && school == School.MidGap)
            throw new InputProblem("school", "There is no gap between these lists: they touch or overlap. Choose another school.");

        double equalRisk,
            cost,
            threshold,
            hysteresis,
            falsePerReading,
            missPerReading;
        double? separation;
        int? needed,
            safe;
        if (noSpread)
        {
            equalRisk = cost = threshold = midpoint;
            if (school == School.MidGap)
                threshold = midGap!.Value;
            var same = m1 == m2;
            hysteresis = (m2 - m1) / 4;
            separation = null;
            falsePerReading = missPerReading = same ? 0.5 : 0;
            (needed, safe) = same ? ((int?)null, (int?)null) : (1, 3);
        }
        else
        {
            equalRisk = (m1 * s2 + m2 * s1) / (s1 + s2);
            cost = CostThreshold(m1, s1, m2, s2, costRatio);
            threshold = school switch
            {
                School.Midpoint => midpoint,
                School.MidGap => midGap!.Value,
                School.Cost => cost,
                _ => equalRisk,
            };
            separation = Math.Min((threshold - m1) / s1, (m2 - threshold) / s2);
            hysteresis = Math.Max(0, Math.Min(2 * Math.Max(s1, s2), Math.Min(threshold - m1 - 2 * s1, m2 - threshold - 2 * s2)));
            falsePerReading = FalseRate(threshold, hysteresis, m1, s1, m2, s2);
            missPerReading = Math.Max(Normal.Q((m2 - threshold - hysteresis) / s2), Normal.Q((threshold - hysteresis - m1) / s1));
            needed = LeastReadings(falsePerReading, separation.Value, period, maxFalse);
            Tail lower = Tail.Of(low, kept[0], s1, 1, threshold, hysteresis),
                upper = Tail.Of(high, kept[1], s2, -1, threshold, hysteresis);
            safe = SafeReadings(lower, upper, period, maxFalse);
        }

        var perHour = 3_600_000 / period;
        var result = new ThresholdResult(
            threshold,
            NameOf(school!.Value),
            equalRisk,
            midpoint,
            midGap,
            cost,
            separation,
            hysteresis,
            falsePerReading,
            missPerReading,
            needed,
            safe,
            [.. Enumerable.Range(1, 3).Select(n => perHour * Math.Pow(falsePerReading, n))],
            needed is { } k ? (k - 1) * period : null,
            lists
        );
        return new(
            result,
            Steps(result, s1, s2, period, maxFalse, noSpread),
            Cautions(result, noSpread, s1, s2, period),
            Judge(result, noSpread, s1, s2, period)
        );
    }

    /// <summary>The factor by which an SD from n readings may be too small: √((n−1)/χ²₀.₀₅,ₙ₋₁).</summary>
    /// <param name="n">Number of readings, 2 or more.</param>
    public static double SafetyFactor(int n) => Math.Sqrt((n - 1) / ChiSquared.InvCDF(n - 1, 0.05));

    // How one list reaches for the far side of the band.
    private readonly record struct Tail(double Separation, double Error, double Together)
    {
        // An exponential tail from the median on: raggedness and lopsidedness as far as the readings show them.
        // The threshold lies above the lower list (side 1) and below the upper one (−1).
        // What shakes the sensor comes on top, each reading by itself: it widens both tails and thins out what correlates.
        public static Tail Of(
            ListFigures list,
            IReadOnlyList<double> readings,
            double sd,
            int side,
            double threshold,
            double hysteresis,
            double shake = 0
        )
        {
            var far = threshold + side * hysteresis;
            var rolling = Math.Sqrt(sd * sd + shake * shake);
            var wider = rolling * SafetyFactor(list.Count);
            double ways = 0;
            var beyond = 0;
            foreach (var r in readings)
                if (side * (r - list.Median) > 0)
                {
                    ways += side * (r - list.Median);
                    beyond++;
                }
            var way = Math.Max(beyond == 0 ? 0 : ways / beyond, HalfNormal * sd);
            var mean = Math.Sqrt(way * way + HalfNormal * shake * HalfNormal * shake) * SafetyFactor(list.Count);
            return new(
                side * (threshold - list.Mean) / wider,
                Math.Max(Normal.Q(side * (far - list.Mean) / wider), 0.5 * Math.Exp(-side * (far - list.Median) / mean)),
                Math.Max(0, list.Lag1 ?? 0) * (rolling > 0 ? sd * sd / (rolling * rolling) : 1)
            );
        }
    }

    /// <summary>
    /// The same threshold for readings that are taken while rolling: each trembles by so much more, by itself. Threshold, band and the
    /// figures of the lists stay those of the readings; how often they err, how many it takes and the verdict are of the rolling ones.
    /// </summary>
    /// <param name="still">The sum by the readings as they were taken.</param>
    /// <param name="taken">The readings, and how they will be taken.</param>
    public static Answer<ThresholdResult> Rolling(Answer<ThresholdResult> still, TakenReadings taken)
    {
        var r = still.Result;
        var (low, high) = (r.Lists[0], r.Lists[1]);
        if (low.Mean == high.Mean)
            return still;
        var floor = taken.Resolution / Math.Sqrt(12);
        double s1 = Math.Max(low.Sd, floor),
            s2 = Math.Max(high.Sd, floor);
        double w1 = Math.Sqrt(s1 * s1 + taken.ShakeLower * taken.ShakeLower),
            w2 = Math.Sqrt(s2 * s2 + taken.ShakeUpper * taken.ShakeUpper);
        if (w1 == 0 || w2 == 0)
            return still;
        var separation = Math.Min((r.Threshold - low.Mean) / w1, (high.Mean - r.Threshold) / w2);
        var wrong = FalseRate(r.Threshold, r.Hysteresis, low.Mean, w1, high.Mean, w2);
        var needed = LeastReadings(wrong, separation, taken.PeriodMs, taken.MaxFalsePerHour);
        var safe = SafeReadings(
            Tail.Of(low, taken.Lower, s1, 1, r.Threshold, r.Hysteresis, taken.ShakeLower),
            Tail.Of(high, taken.Upper, s2, -1, r.Threshold, r.Hysteresis, taken.ShakeUpper),
            taken.PeriodMs,
            taken.MaxFalsePerHour
        );
        var rolling = r with
        {
            Separation = separation,
            FalsePerReading = wrong,
            MissPerReading = Math.Max(
                Normal.Q((high.Mean - r.Threshold - r.Hysteresis) / w2),
                Normal.Q((r.Threshold - r.Hysteresis - low.Mean) / w1)
            ),
            ReadingsNeeded = needed,
            ReadingsNeededSafe = safe,
            FalsePerHour = [.. Enumerable.Range(1, 3).Select(n => 3_600_000 / taken.PeriodMs * Math.Pow(wrong, n))],
            AddedDelayMs = needed is { } k ? (k - 1) * taken.PeriodMs : null,
        };
        return new(
            rolling,
            [
                .. still.Steps,
                new(
                    "Spread of both while rolling",
                    $"√({Show(s1)}² + {Show(taken.ShakeLower)}²) and √({Show(s2)}² + {Show(taken.ShakeUpper)}²)",
                    Math.Max(w1, w2),
                    ""
                ),
                new("Readings in a row while rolling", "by the same rules, with these spreads", safe, "readings"),
            ],
            still.Cautions,
            // Rolling, even readings that never moved at rest do move.
            Judge(rolling, false, s1, s2, taken.PeriodMs)
        );
    }

    // The mean way from the middle of one half of a normal distribution, in its SDs: √(2/π).
    private const double HalfNormal = 0.7979;

    /// <summary>How many readings in a row each way takes by itself: what comes into the upper list's zone errs over the lower one alone,
    /// and the other way round.</summary>
    /// <param name="r">The threshold.</param>
    /// <param name="taken">The readings, and how they will be taken.</param>
    /// <returns>Null where no number up to 8 can be promised.</returns>
    public static (int? IntoLower, int? IntoUpper) OneWay(ThresholdResult r, TakenReadings taken)
    {
        var floor = taken.Resolution / Math.Sqrt(12);
        double s1 = Math.Max(r.Lists[0].Sd, floor),
            s2 = Math.Max(r.Lists[1].Sd, floor);
        if (s1 == 0 || s2 == 0)
            return (r.ReadingsNeededSafe, r.ReadingsNeededSafe);
        Tail low = Tail.Of(r.Lists[0], taken.Lower, s1, 1, r.Threshold, r.Hysteresis, taken.ShakeLower),
            high = Tail.Of(r.Lists[1], taken.Upper, s2, -1, r.Threshold, r.Hysteresis, taken.ShakeUpper);
        return (
            SafeReadings(high, high, taken.PeriodMs, taken.MaxFalsePerHour),
            SafeReadings(low, low, taken.PeriodMs, taken.MaxFalsePerHour)
        );
    }

    private static int? SafeReadings(Tail lower, Tail upper, double periodMs, double maxFalse)
    {
        if (Math.Min(lower.Separation, upper.Separation) < 1)
            return null;
        // Correlated readings come wrong together, so each further one counts for less.
        bool Holds(Tail tail, int n) => 3_600_000 / periodMs * Math.Pow(tail.Error, 1 + (n - 1) * (1 - tail.Together)) <= maxFalse;
        for (var n = 1; n <= MostReadings; n++)
            if (Holds(lower, n) && Holds(upper, n))
                return n;
        return null;
    }

    private static double FalseRate(double t, double h, double m1, double s1, double m2, double s2) =>
        Math.Max(Normal.Q((t + h - m1) / s1), Normal.Q((m2 - t + h) / s2));

    private static int? LeastReadings(double falsePerReading, double separation, double periodMs, double maxFalse)
    {
        if (separation < 1)
            return null;
        var rate = 3_600_000 / periodMs;
        for (var n = 1; n <= MostReadings; n++)
        {
            rate *= falsePerReading;
            if (rate <= maxFalse)
                return n;
        }
        return null;
    }

    /// <summary>Solves costRatio·Q((t−m₁)/s₁) = Q((m₂−t)/s₂); the left falls and the right rises with t, so halving finds the
    /// one t.</summary>
    private static double CostThreshold(double m1, double s1, double m2, double s2, double costRatio)
    {
        double low = Math.Min(m1, m2) - 40 * Math.Max(s1, s2),
            high = Math.Max(m1, m2) + 40 * Math.Max(s1, s2);
        var weight = Math.Log(costRatio);
        for (var i = 0; i < 200; i++)
        {
            var t = (low + high) / 2;
            if (weight + Normal.LogQ((t - m1) / s1) > Normal.LogQ((m2 - t) / s2))
                low = t;
            else
                high = t;
        }
        return (low + high) / 2;
    }

    private static double SmallestStep(double[] a, double[] b)
    {
        var all = a.Concat(b).ToArray();
        Array.Sort(all);
        var least = double.PositiveInfinity;
        for (var i = 1; i < all.Length; i++)
            if (all[i] > all[i - 1])
                least = Math.Min(least, all[i] - all[i - 1]);
        return double.IsPositiveInfinity(least) ? 0 : least;
    }

    /// <summary>Describes a list of readings by itself.</summary>
    /// <param name="name">Zone name, if any.</param>
    /// <param name="readings">At least one reading, in the order taken.</param>
    /// <param name="periodMs">Time between readings, ms.</param>
    /// <param name="floor">Least SD to assume when looking for outliers.</param>
    /// <param name="setAside">How many were left out before.</param>
    public static ListFigures Describe(string? name, double[] readings, double periodMs, double floor, int setAside)
    {
        var n = readings.Length;
        var sorted = (double[])readings.Clone();
        Array.Sort(sorted);
        var constant = sorted[0] == sorted[^1];
        // The mean of equal numbers is that number; summing them may miss it by a rounding.
        var mean = constant ? sorted[0] : readings.Sum() / n;
        double squares = 0,
            neighbours = 0,
            slopeTop = 0,
            slopeBottom = 0;
        for (var i = 0; i < n; i++)
        {
            var d = readings[i] - mean;
            squares += d * d;
            if (i + 1 < n)
                neighbours += d * (readings[i + 1] - mean);
            var t = i - (n - 1) / 2.0;
            slopeTop += t * d;
            slopeBottom += t * t;
        }
        var median = Middle(sorted);
        var deviations = sorted.Select(r => Math.Abs(r - median)).Order().ToArray();
        var robust = Math.Max(1.4826 * Middle(deviations), floor);
        return new(
            name,
            n,
            mean,
            n < 2 || constant ? 0 : Math.Sqrt(squares / (n - 1)),
            median,
            sorted[0],
            sorted[^1],
            robust == 0 ? [] : [.. readings.Where(r => Math.Abs(r - median) > 3.5 * robust)],
            slopeBottom == 0 || constant ? 0 : slopeTop / slopeBottom * 60_000 / periodMs,
            constant || squares == 0 ? null : neighbours / squares,
            setAside
        );
    }

    private static double Middle(double[] sorted) =>
        sorted.Length % 2 == 1 ? sorted[sorted.Length / 2] : (sorted[sorted.Length / 2 - 1] + sorted[sorted.Length / 2]) / 2;

    private static double StrongestLag(ThresholdResult r) => r.Lists.Max(l => l.Lag1 ?? 0);

    /// <summary>Readings below this number earn one grade less.</summary>
    public const int Few = 10;

    private static Verdict Judge(ThresholdResult r, bool noSpread, double s1, double s2, double period)
    {
        if (noSpread)
            return r.Lists[0].Mean == r.Lists[1].Mean
                ? new(
                    Grade.Unusable,
                    "Both lists hold one and the same reading: this sensor cannot tell these apart. Move it, shade it, or use another."
                )
                : new(Grade.Workable, "No spread was seen, so this is a guess: 3 readings in a row. Take more, at several places.");
        var grade = r.ReadingsNeededSafe switch
        {
            1 or 2 => Grade.Solid,
            3 or 4 => Grade.Workable,
            null => Grade.Unusable,
            _ => Grade.Fragile,
        };
        var odd = r.Lists.Sum(l => l.Outliers.Count);
        var fewest = r.Lists.Min(l => l.Count);
        if ((odd > 0 || fewest < Few) && grade < Grade.Unusable)
            grade++;
        var say = r.ReadingsNeededSafe switch
        {
            1 => "One reading decides.",
            { } n => $"It takes {n} readings in a row to be sure"
                + (r.ReadingsNeeded == n ? "." : $": a bell curve would ask for {r.ReadingsNeeded}, these readings ask for {n}."),
            null when r.ReadingsNeeded is { } k => $"A bell curve would ask for {k} in a row, but no number up to {MostReadings} can be "
                + (fewest < 2 * Few ? "promised on so few readings. Record more." : "promised: these readings are too ragged."),
            null => "This sensor cannot tell these apart: move it, shade it, or use another.",
        };
        if (odd > 0)
            say +=
                $" {Count(odd, "reading")} far off {(odd == 1 ? "costs" : "cost")} a grade: set {(odd == 1 ? "it" : "them")} aside if "
                + $"{(odd == 1 ? "it was a slip" : "they were slips")}.";
        if (fewest < Few && r.ReadingsNeededSafe is not null)
            say += $" Only {Count(fewest, "reading")}: {Few} or more earn a better word.";
        if (StrongestLag(r) > 0.3 && r.ReadingsNeededSafe is > 1 and { } wait)
            say += $" Its noise comes in runs, which the {wait} readings allow for; {Show(wait * period)} ms say the same as a time.";
        if (Drifts(r, s1, s2, period) is { Count: > 0 } drifting)
            say +=
                $" {List(drifting)} {(drifting.Count == 1 ? "drifts" : "drift")}, and no number of readings in a row helps against that: "
                + "record at another time of day, or teach the zones at the start.";
        else if (r.ReadingsNeededSafe is not null && r.Lists.Max(l => l.Count) * period is < 60_000 and var ms)
            say += $" Taken within {Show(Math.Ceiling(ms / 1000), 2)} s, so drift over an hour or a day is not in it.";
        return new(grade, say);
    }

    /// <summary>True when one of the lists drifts by more than chance.</summary>
    /// <param name="sum">A threshold.</param>
    /// <param name="periodMs">Time between readings, ms.</param>
    public static bool Drifting(Answer<ThresholdResult> sum, double periodMs) => sum.Result.Lists.Any(l => Drifts(l, l.Sd, periodMs));

    private static List<string> Drifts(ThresholdResult r, double s1, double s2, double period) =>
        [.. r.Lists.Zip([s1, s2]).Where(l => Drifts(l.First, l.Second, period)).Select(l => NameOf(r, l.First))];

    private static string NameOf(ThresholdResult r, ListFigures list) =>
        list.Name ?? (list == r.Lists[0] ? "the lower list" : "the upper list");

    private static List<string> Cautions(ThresholdResult r, bool noSpread, double s1, double s2, double period)
    {
        var say = new List<string>();
        if (noSpread)
            say.Add("No spread seen: every reading of a list is the same, so the risk cannot be known. Record some while the rig works.");
        if (!noSpread && r.Lists[0].Max >= r.Lists[1].Min)
            say.Add("The lists overlap: some readings could belong to either zone.");
        foreach (var (list, sd) in r.Lists.Zip([s1, s2]))
        {
            var name = NameOf(r, list);
            if (list.Outliers.Count > 0)
                say.Add(
                    $"{Count(list.Outliers.Count, "reading")} of {name} {(list.Outliers.Count == 1 ? "lies" : "lie")} far from the "
                        + $"rest ({string.Join(", ", list.Outliers.Take(3).Select(o => Show(o)))})."
                );
            if (list.Lag1 > 0.3)
                say.Add(
                    $"Noise in {name} repeats itself (correlation {Show(list.Lag1.Value, 2)}): readings in a row tell less than they seem."
                );
            var drift = Math.Abs(list.DriftPerMinute);
            if (Drifts(list, sd, period))
                say.Add($"{name} drifts by {Show(drift, 2)} a minute.");
        }
        return say;
    }

    // A slope is worth a word when it is larger than its own uncertainty by far: 3.5 of its standard errors.
    private static bool Drifts(ListFigures list, double sd, double periodMs)
    {
        if (list.Count < 10 || sd <= 0)
            return false;
        double n = list.Count;
        var standardError = sd / Math.Sqrt(n * (n * n - 1) / 12);
        return Math.Abs(list.DriftPerMinute * periodMs / 60_000) > 3.5 * standardError;
    }

    private static List<Step> Steps(ThresholdResult r, double s1, double s2, double period, double maxFalse, bool noSpread)
    {
        var (l, h) = (r.Lists[0], r.Lists[1]);
        var steps = new List<Step>
        {
            new("Mean and spread of the lower list", $"{l.Count} readings, SD {Show(s1)}", l.Mean, ""),
            new("Mean and spread of the upper list", $"{h.Count} readings, SD {Show(s2)}", h.Mean, ""),
        };
        if (noSpread)
        {
            steps.Add(new("No spread: halfway between", $"({Show(l.Mean)} + {Show(h.Mean)}) / 2", r.Threshold, ""));
            return steps;
        }
        steps.Add(
            r.School switch
            {
                "midpoint" => new("Halfway between the means", $"({Show(l.Mean)} + {Show(h.Mean)}) / 2", r.Threshold, ""),
                "midGap" => new("Middle of the gap", $"({Show(l.Max)} + {Show(h.Min)}) / 2", r.Threshold, ""),
                "cost" => new("Where the weighed risks are equal", $"between {Show(l.Mean)} and {Show(h.Mean)}", r.Threshold, ""),
                _ => new(
                    "Where both risks are equal",
                    $"({Show(l.Mean)} × {Show(s2)} + {Show(h.Mean)} × {Show(s1)}) / ({Show(s1)} + {Show(s2)})",
                    r.Threshold,
                    ""
                ),
            }
        );
        steps.Add(
            new(
                "Distance to the nearer mean, in its SDs",
                $"min(({Show(r.Threshold)} − {Show(l.Mean)}) / {Show(s1)}, ({Show(h.Mean)} − {Show(r.Threshold)}) / {Show(s2)})",
                r.Separation,
                "SD"
            )
        );
        steps.Add(
            new("Hysteresis, half the band", $"between 0 and 2 × {Show(Math.Max(s1, s2))}, leaving 2 SDs to each mean", r.Hysteresis, "")
        );
        var tail = $"the larger tail beyond {Show(r.Threshold)} ± {Show(r.Hysteresis)}";
        steps.Add(new("Chance that one reading errs", tail, r.FalsePerReading, ""));
        steps.Add(
            new(
                "False switches per hour with one reading",
                $"{Show(3_600_000 / period, 6)} × {Show(r.FalsePerReading)}",
                r.FalsePerHour[0],
                "per hour"
            )
        );
        steps.Add(
            new(
                $"Readings in a row for at most {Show(maxFalse)} per hour",
                r.ReadingsNeeded is { } n
                    ? $"{Show(3_600_000 / period, 6)} × {Show(r.FalsePerReading)}^{n}"
                    : $"more than {MostReadings}, or the lists lie too close",
                r.ReadingsNeeded,
                "readings"
            )
        );
        steps.Add(
            new(
                "The same, as ragged and as few as these readings are",
                "the wider of a bell curve and an exponential tail, each allowing for so few; correlated readings count for less",
                r.ReadingsNeededSafe,
                "readings"
            )
        );
        return steps;
    }
}
