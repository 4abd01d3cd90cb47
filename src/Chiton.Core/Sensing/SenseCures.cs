using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>
/// What would make a pair of zones sounder. A cure that says what the pair would be then has been tried out on its very numbers: the
/// readings as they would be with it, judged anew. One that changes nothing is not listed.
/// </summary>
internal static class SenseCures
{
    // So many readings of a zone are enough to try a cure on; more would only take time.
    private const int Most = 5000;

    /// <summary>Cures of a pair, the cheapest first.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration.</param>
    /// <param name="pair">The pair.</param>
    public static IReadOnlyList<SenseCure> Of(Sensor sensor, SensorCalibration calibration, ZonePair pair)
    {
        var grade = pair.Sum.Verdict!.Grade;
        var r = pair.Sum.Result;
        var cures = new List<SenseCure>();
        if (grade == Grade.Solid)
            return cures;
        var now = new Try(sensor, calibration, pair);
        void Offer(string where, Func<Grade, string> say, Try with, Grade atLeast)
        {
            if (with.Grade is { } then && then <= atLeast)
                cures.Add(new(where, say(then)) { Then = then, Applied = with.Calibration });
        }
        var better = grade - 1;

        // Where the threshold stands costs nothing to change.
        if (calibration.School != School.EqualRisk && pair.Fallback is null)
            Offer(
                "in the threshold",
                then => $"Put it at equal risk, {Show(r.EqualRisk, 3)} {sensor.Facts.Unit}: then it is {Word(then)}.",
                now with
                {
                    EqualRisk = true,
                },
                better
            );
        // What is wrong with the readings themselves comes next: it costs nothing but a look.
        double[] odd = [.. r.Lists.SelectMany(l => l.Outliers).Distinct()];
        if (odd.Length > 0)
            Offer(
                "in the readings",
                then =>
                    (
                        odd.Length == 1
                            ? $"If {Show(odd[0])} was a slip, set it "
                            : $"If {List(odd.Take(3).Select(o => Show(o)))} were slips, set them "
                    ) + $"aside: then it is {Word(then)}.",
                now with
                {
                    SetAside = odd,
                },
                better
            );
        var fewest = r.Lists.Min(l => l.Count);
        if (fewest < ThresholdSum.Few)
            Offer(
                "in the readings",
                then => $"Take {ThresholdSum.Few} readings or more of each zone: if they look alike, it is {Word(then)}.",
                now with
                {
                    AtLeast = ThresholdSum.Few,
                },
                better
            );
        if (ThresholdSum.Drifting(pair.Sum, sensor.SamplePeriodMs))
            Offer(
                "in the readings",
                then => $"Record at another time of day, or teach the zones at the start: without its drift it is {Word(then)}.",
                now with
                {
                    Level = true,
                },
                better
            );
        if (r.ReadingsNeededSafe is { } n and > 1)
        {
            var ms = (n - 1) * sensor.SamplePeriodMs;
            cures.Add(
                new(
                    "in the program",
                    r.Lists.Max(l => l.Lag1 ?? 0) > 0.3
                        ? $"Its noise comes in runs: ask for {n} readings in a row of {pair.Lower} and {pair.Upper}, "
                            + $"or for {Show(n * sensor.SamplePeriodMs)} ms. "
                            + $"Each change is then noticed {Show(ms)} ms later."
                        : $"Ask for {n} readings in a row of {pair.Lower} and {pair.Upper}; "
                            + $"each change is then noticed {Show(ms)} ms later."
                )
            );
        }
        if (sensor.Kind is SensorKind.ReflectedLight or SensorKind.AmbientLight)
            cures.Add(
                new(
                    "in the mechanics",
                    "Try the other mode: record both zones as "
                        + $"{(sensor.Kind == SensorKind.ReflectedLight ? "ambient" : "reflected")} light, "
                        + "and keep whichever separates them better."
                )
            );
        // The least quiet, and the least way apart, that make it solid once the readings themselves are in order.
        var whole = now with
        {
            SetAside = odd,
            AtLeast = ThresholdSum.Few,
        };
        if (Least(100, k => (whole with { Shrink = 1 - k / 100.0 }).Grade == Grade.Solid) is { } less and > 0 and < 96)
            Offer(
                "in the mechanics",
                then => $"{Quieter(sensor)}: once its readings tremble {less} % less, it is {Word(then)}{InOrder(odd.Length, fewest)}.",
                whole with
                {
                    Shrink = 1 - less / 100.0,
                },
                better
            );
        var (low, high) = (r.Lists[0], r.Lists[1]);
        var step = Math.Max(sensor.Resolution, Round((high.Mean - low.Mean) / 50));
        if (step > 0 && Least(400, k => (whole with { Apart = k * step }).Grade == Grade.Solid) is { } steps and > 0)
        {
            var up = high.Mean + steps * step <= sensor.Facts.To;
            var (zone, reads) = up ? (pair.Upper, high.Mean + steps * step) : (pair.Lower, low.Mean - steps * step);
            // A tenth of a step, so that what is asked for never reads like what is there.
            var fine = Math.Min(0.1, Round(step) / 10);
            var there = Math.Round((up ? high.Mean : low.Mean) / fine) * fine;
            double Told(double v) => (up ? Math.Ceiling(v / fine - 1e-9) : Math.Floor(v / fine + 1e-9)) * fine;
            if (up || reads >= sensor.Facts.From)
                Offer(
                    "in the mechanics",
                    then =>
                        $"{Another(sensor, zone)}: reading {Show(Told(reads), 4)} {sensor.Facts.Unit} or {(up ? "more" : "less")} "
                        + $"instead of {Show(there, 4)} on average, it is {Word(then)}{InOrder(odd.Length, fewest)}.",
                    whole with
                    {
                        Apart = steps * step,
                        Down = !up,
                    },
                    better
                );
        }
        cures.Add(new("in the mechanics", "Use another sensor that tells these apart by something else."));
        return cures;
    }

    // The cure in the mechanics is told for readings that are in order, and says so.
    private static string InOrder(int odd, int fewest) =>
        odd > 0 ? ", slips set aside"
        : fewest < ThresholdSum.Few ? $", with {ThresholdSum.Few} readings each"
        : "";

    private static string Word(Grade grade) => grade.ToString().ToLowerInvariant();

    // Something to do in the words of its kind: nothing has a surface but what sees one.
    private static string Quieter(Sensor sensor) =>
        sensor.Kind switch
        {
            SensorKind.ReflectedLight or SensorKind.AmbientLight => "Shade it or mount it closer",
            SensorKind.Force => "Hold it steadier, or pad where it presses",
            SensorKind.Probe => "Keep it still and its leads short",
            SensorKind.Sound => "Move it away from the motors",
            _ => "Hold it steadier",
        };

    private static string Another(Sensor sensor, string zone) =>
        sensor.Kind switch
        {
            SensorKind.ReflectedLight => $"Take another surface for {zone}",
            SensorKind.AmbientLight => $"Make {zone} another brightness",
            SensorKind.Force => $"Let {zone} press otherwise",
            SensorKind.Probe => $"Mount it where {zone} differs more",
            SensorKind.Sound => $"Make {zone} another loudness",
            _ => $"Choose {zone} farther off",
        };

    private static double Round(double v) => v <= 0 ? 0 : Math.Pow(10, Math.Floor(Math.Log10(v)));

    // The least whole number from 0 on that does; null when not even the greatest does. What is more of it does as well.
    private static int? Least(int most, Func<int, bool> does)
    {
        if (!does(most - 1))
            return null;
        int low = -1,
            high = most - 1;
        while (high - low > 1)
        {
            var middle = (low + high) / 2;
            if (does(middle))
                high = middle;
            else
                low = middle;
        }
        return high;
    }

    // The pair's readings as they would be with a cure.
    private sealed record Try(Sensor Sensor, SensorCalibration From, ZonePair Pair)
    {
        public double[] SetAside { get; init; } = [];
        public int AtLeast { get; init; }
        public bool Level { get; init; }
        public double Shrink { get; init; } = 1;
        public double Apart { get; init; }
        public bool Down { get; init; }
        public bool EqualRisk { get; init; }

        public SensorCalibration Calibration =>
            From with
            {
                School = EqualRisk ? School.EqualRisk : From.School,
                Zones =
                [
                    .. From
                        .Zones.Where(z => z.Zone == Pair.Lower || z.Zone == Pair.Upper)
                        .Select(z => new ZoneReadings(z.Zone, Readings(z.Zone))),
                ],
                SetAside = [],
            };

        public Grade? Grade
        {
            get
            {
                var pairs = Calibration.Pairs();
                return pairs.Count == 1 && pairs[0].Lower == Pair.Lower ? pairs[0].Sum.Verdict!.Grade : null;
            }
        }

        private double[] Readings(string zone)
        {
            var aside = SetAside.ToHashSet();
            double[] kept = [.. From.Kept(zone).Where(v => !aside.Contains(v)).Take(Most)];
            if (kept.Length == 0)
                return kept;
            // As if as many alike had been taken again.
            var all = new double[Math.Max(AtLeast, kept.Length)];
            for (var i = 0; i < all.Length; i++)
                all[i] = kept[i % kept.Length];
            var mean = all.Average();
            var slope = Level ? Slope(all, mean) : 0;
            var moved =
                Apart == 0 || (zone == Pair.Upper) == Down ? 0
                : Down ? -Apart
                : Apart;
            for (var i = 0; i < all.Length; i++)
                all[i] = mean + (all[i] - slope * (i - (all.Length - 1) / 2.0) - mean) * Shrink + moved;
            return all;
        }

        private static double Slope(double[] readings, double mean)
        {
            double top = 0,
                bottom = 0;
            for (var i = 0; i < readings.Length; i++)
            {
                var t = i - (readings.Length - 1) / 2.0;
                top += t * (readings[i] - mean);
                bottom += t * t;
            }
            return bottom == 0 ? 0 : top / bottom;
        }
    }
}
