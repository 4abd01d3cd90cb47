using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>What became of one zone from one calibration to another.</summary>
/// <param name="Zone">Zone name.</param>
/// <param name="MeanBefore">Mean before, unit of the readings.</param>
/// <param name="MeanAfter">Mean after.</param>
/// <param name="Shift">After less before.</param>
/// <param name="ShiftSds">The shift in SDs of the readings (both, pooled); null where neither varies.</param>
/// <param name="Moved">True when the shift is more than chance explains: over 3 of its standard errors.</param>
/// <param name="WrongSide">Chance that a reading of now lies beyond the far side of a band of then.</param>
/// <param name="ReadingsNeeded">Readings in a row that the old thresholds need now; null when up to 8 do not do.</param>
/// <param name="Holds">True when the old thresholds need no more readings in a row than they did.</param>
/// <param name="Say">All of that in a sentence or two.</param>
public sealed record ZoneShift(
    string Zone,
    double MeanBefore,
    double MeanAfter,
    double Shift,
    double? ShiftSds,
    bool Moved,
    double WrongSide,
    int? ReadingsNeeded,
    bool Holds,
    string Say
);

/// <summary>One calibration held against another: another day's or another copy's.</summary>
/// <param name="Zones">Zones that both have, by rising mean before.</param>
/// <param name="OnlyBefore">Zones that only the first has.</param>
/// <param name="OnlyAfter">Zones that only the second has.</param>
/// <param name="Say">The whole in a sentence.</param>
public sealed record CalibrationComparison(
    IReadOnlyList<ZoneShift> Zones,
    IReadOnlyList<string> OnlyBefore,
    IReadOnlyList<string> OnlyAfter,
    string Say
)
{
    /// <summary>
    /// Compares calibrations of any kind of sensor. Where one threshold between neighbours is not the whole story (bands,
    /// colours, words, switches), a zone holds when the old calibration still takes as good as all new readings of it for
    /// it: the share it mistakes needs no more readings in a row than the share it mistook of its own.
    /// </summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="before">The calibration in question.</param>
    /// <param name="after">The readings of now.</param>
    public static CalibrationComparison Of(Sensor sensor, SensorCalibration before, SensorCalibration after)
    {
        var facts = sensor.Facts;
        if (facts.View == "scalar" || facts.View == "none" || facts.View == "bands" && sensor.Bands.Count == 0)
            return Of(before, after);
        var reader = ZoneReader.Of(sensor, before);
        double[][] Samples(SensorCalibration c, string zone) =>
            [
                .. c.Kept(zone)
                    .Where(r => facts.View != "bands" || r != sensor.SilentReading)
                    .Chunk(facts.Width)
                    .Where(s => s.Length == facts.Width),
            ];
        double Wrong(double[][] samples, string zone) =>
            samples.Length == 0 ? 0 : samples.Count(s => reader.Zone(s) != zone) / (double)samples.Length;
        var shifts = new List<ZoneShift>();
        foreach (var zone in before.Zones.Select(z => z.Zone))
        {
            var (was, now) = (Samples(before, zone), Samples(after, zone));
            if (was.Length < 3 || now.Length < 3)
                continue;
            // How far the middle of the zone went, in SDs of its readings, over all numbers of a reading.
            double squared = 0,
                meanWas = 0,
                meanNow = 0;
            var varies = false;
            for (var k = 0; k < facts.Width; k++)
            {
                double m1 = was.Average(s => s[k]),
                    m2 = now.Average(s => s[k]);
                var spread =
                    (was.Sum(s => (s[k] - m1) * (s[k] - m1)) + now.Sum(s => (s[k] - m2) * (s[k] - m2))) / (was.Length + now.Length - 2);
                meanWas += m1 / facts.Width;
                meanNow += m2 / facts.Width;
                varies |= spread > 0;
                squared +=
                    spread > 0 ? (m2 - m1) * (m2 - m1) / spread
                    : m1 == m2 ? 0
                    : 100;
            }
            var sds = Math.Sqrt(squared / facts.Width);
            var moved = sds * Math.Sqrt(was.Length * now.Length / (double)(was.Length + now.Length)) > 3;
            var wrong = Wrong(now, zone);
            // A share of none in so few readings may still be one in as many.
            int? Rows(double share, int n)
            {
                var likely = Math.Max(share, 1.0 / (n + 2));
                for (var rows = 1; rows <= ThresholdSum.MostReadings; rows++)
                    if (3_600_000 / before.SamplePeriodMs * Math.Pow(likely, rows) <= before.MaxFalsePerHour)
                        return rows;
                return null;
            }
            var needed = Rows(wrong, now.Length);
            var holds = wrong <= Wrong(was, zone) + 1.0 / now.Length || needed is { } n && n <= (Rows(Wrong(was, zone), was.Length) ?? 0);
            var say =
                (moved ? $"{zone} moved by {Show(sds, 2)} SDs." : $"{zone} has not moved more than chance explains.")
                + (
                    holds
                        ? " The old calibration still takes it for what it is."
                        : $" The old calibration mistakes {Show(100 * wrong, 2)} in 100 readings of it."
                );
            shifts.Add(new(zone, meanWas, meanNow, meanNow - meanWas, varies ? sds : null, moved, wrong, needed, holds, say));
        }
        return Whole(before, after, shifts);
    }

    /// <summary>
    /// Compares. The shift is judged by Welch's t (mean difference over the standard errors in quadrature); whether a
    /// zone still holds by the tails of the new readings beyond the old bands, as in <see cref="ThresholdSum"/>.
    /// </summary>
    /// <param name="before">The calibration whose thresholds are in question.</param>
    /// <param name="after">The readings of now.</param>
    public static CalibrationComparison Of(SensorCalibration before, SensorCalibration after)
    {
        var pairs = before.Pairs();
        var shifts = new List<ZoneShift>();
        foreach (var zone in before.Zones.Select(z => z.Zone).Where(z => before.Kept(z).Count >= 3 && after.Kept(z).Count >= 3))
        {
            var floor = before.Resolution / Math.Sqrt(12);
            var was = ThresholdSum.Describe(zone, [.. before.Kept(zone)], before.SamplePeriodMs, floor, 0);
            var now = ThresholdSum.Describe(zone, [.. after.Kept(zone)], after.SamplePeriodMs, floor, 0);
            double s1 = Math.Max(was.Sd, floor),
                s2 = Math.Max(now.Sd, floor);
            var shift = now.Mean - was.Mean;
            var pooled = Math.Sqrt((s1 * s1 * (was.Count - 1) + s2 * s2 * (now.Count - 1)) / (was.Count + now.Count - 2));
            var error = Math.Sqrt(s1 * s1 / was.Count + s2 * s2 / now.Count);
            var moved = error > 0 ? Math.Abs(shift) > 3 * error : shift != 0;

            var wrong = 0.0;
            var neededThen = 1;
            foreach (var pair in pairs.Where(p => p.Lower == zone || p.Upper == zone))
            {
                var r = pair.Sum.Result;
                var way = pair.Lower == zone ? r.Threshold + r.Hysteresis - now.Mean : now.Mean - (r.Threshold - r.Hysteresis);
                wrong = Math.Max(
                    wrong,
                    s2 > 0 ? Normal.Q(way / s2)
                        : way > 0 ? 0
                        : 1
                );
                neededThen = Math.Max(neededThen, r.ReadingsNeededSafe ?? ThresholdSum.MostReadings);
            }
            int? needed = null;
            for (var n = 1; n <= ThresholdSum.MostReadings && needed is null; n++)
                if (3_600_000 / before.SamplePeriodMs * Math.Pow(wrong, n) <= before.MaxFalsePerHour)
                    needed = n;
            var holds = pairs.Count == 0 || needed <= neededThen;
            double? sds = pooled > 0 ? shift / pooled : null;
            var say = moved
                ? $"{zone} moved {(shift > 0 ? "up" : "down")} by "
                    + $"{Show(Math.Abs(shift), 3)}{(sds is { } k ? $", {Show(Math.Abs(k), 2)} SDs" : "")}."
                : $"{zone} has not moved more than chance explains.";
            say +=
                pairs.Count == 0 ? ""
                : holds ? " The old thresholds still hold."
                : needed is { } n2 ? $" The old thresholds would need {n2} readings in a row now, instead of {neededThen}."
                : $" The old thresholds no longer hold: about one reading in {Show(1 / wrong, 2)} lies on the wrong side.";
            shifts.Add(new(zone, was.Mean, now.Mean, shift, sds, moved, wrong, needed, holds, say));
        }
        return Whole(before, after, shifts);
    }

    private static CalibrationComparison Whole(SensorCalibration before, SensorCalibration after, List<ZoneShift> shifts)
    {
        shifts.Sort((a, b) => a.MeanBefore.CompareTo(b.MeanBefore));
        bool Known(SensorCalibration c, string zone) => c.Kept(zone).Count >= 3;
        var all = before.Zones.Concat(after.Zones).Select(z => z.Zone).Distinct().ToArray();
        var lost = shifts.Where(s => !s.Holds).Select(s => s.Zone).ToArray();
        var movedZones = shifts.Count(s => s.Moved);
        return new(
            shifts,
            [.. all.Where(z => Known(before, z) && !Known(after, z))],
            [.. all.Where(z => !Known(before, z) && Known(after, z))],
            shifts.Count == 0 ? "There is no zone that both have readings of."
                : lost.Length > 0
                    ? $"{string.Join(" and ", lost)} no longer {(lost.Length == 1 ? "holds" : "hold")} with the old thresholds."
                : movedZones > 0 ? $"{Count(movedZones, "zone")} moved, but the old thresholds still hold."
                : "Nothing moved."
        );
    }
}
