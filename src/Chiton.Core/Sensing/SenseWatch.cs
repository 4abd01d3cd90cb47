using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Something odd about readings.</summary>
/// <param name="Kind">silent, drift, repeats, outliers or extremes.</param>
/// <param name="Zone">The zone it speaks of.</param>
/// <param name="Other">Of extremes the other zone; null otherwise.</param>
/// <param name="Short">In a word or two, for the picture.</param>
/// <param name="Say">In a sentence or two.</param>
public sealed record SenseNote(string Kind, string Zone, string? Other, string Short, string Say);

/// <summary>What is odd about readings: drift, repeated noise, dropouts, and zones taken only at the extremes.</summary>
public static class SenseWatch
{
    /// <summary>
    /// Points out, zone by zone: a drift of more than one SD within the recording, a lag-1 correlation over 0.3, readings
    /// far from the rest, answers of "nothing heard", and neighbouring zones whose readings leave more than three quarters
    /// of the way between them unseen although both are very quiet — a calibration taken only at the extremes.
    /// </summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration.</param>
    public static IReadOnlyList<SenseNote> Notes(Sensor sensor, SensorCalibration calibration)
    {
        var notes = new List<SenseNote>();
        var figures = new List<ListFigures>();
        foreach (var zone in calibration.Zones)
        {
            var kept = calibration.Kept(zone.Zone);
            double[] heard = [.. kept.Where(r => r != sensor.SilentReading || sensor.Kind != SensorKind.Distance)];
            if (kept.Count > 0 && heard.Length < kept.Count)
                notes.Add(
                    new(
                        "silent",
                        zone.Zone,
                        null,
                        $"{kept.Count - heard.Length} heard nothing",
                        $"{zone.Zone}: {Count(kept.Count - heard.Length, "reading")} of {kept.Count} heard nothing. "
                            + $"{(heard.Length == 0 ? "Nothing was there to hear." : "They never count as near.")}"
                    )
                );
            if (heard.Length < 3)
                continue;
            var f = ThresholdSum.Describe(zone.Zone, heard, sensor.SamplePeriodMs, sensor.Resolution / Math.Sqrt(12), 0);
            figures.Add(f);
            var minutes = heard.Length * sensor.SamplePeriodMs / 60_000;
            // Five readings can slope by chance; a drift is named once it moves the readings by more than their own tremble.
            if (
                heard.Length >= 10
                && zone.Timed
                && Math.Abs(f.DriftPerMinute) * minutes > 1.5 * Math.Max(Residual(heard), sensor.Resolution / Math.Sqrt(12))
            )
                notes.Add(
                    new(
                        "drift",
                        zone.Zone,
                        null,
                        $"drifts by {Show(f.DriftPerMinute * minutes, 2)}",
                        $"{zone.Zone} drifts by {Show(f.DriftPerMinute * minutes, 2)} {sensor.Facts.Unit} within its "
                            + $"{Show(minutes * 60, 2)} s: something changes while you record. Wait until it is steady, or "
                            + "record longer.".Replace("  ", " ")
                    )
                );
            else if (f.Lag1 is > 0.3 and var lag && heard.Length >= 10)
                notes.Add(
                    new(
                        "repeats",
                        zone.Zone,
                        null,
                        "repeats its noise",
                        $"{zone.Zone} repeats its noise (each reading follows the one before by {Show(lag, 2)}): several in a row say "
                            + "less than they seem to. Count only every "
                            + $"{Ordinal((int)Math.Ceiling(Math.Log(0.1) / Math.Log(Math.Min(lag, 0.95))))} reading."
                    )
                );
            if (f.Outliers.Count > 0 && f.Outliers.Count <= Math.Max(3, heard.Length / 20))
                notes.Add(
                    new(
                        "outliers",
                        zone.Zone,
                        null,
                        Count(f.Outliers.Count, "outlier"),
                        $"{zone.Zone} has {Count(f.Outliers.Count, "reading")} far from the rest: look at the picture, and set aside "
                            + "what has nothing to do with the zone."
                    )
                );
        }
        var ordered = figures.OrderBy(f => f.Mean).ToArray();
        for (var i = 0; i + 1 < ordered.Length; i++)
        {
            var (a, b) = (ordered[i], ordered[i + 1]);
            var gap = b.Min - a.Max;
            if (
                gap > 0.75 * (b.Mean - a.Mean)
                && a.Max - a.Min <= 3 * Math.Max(sensor.Resolution, 1e-9)
                && b.Max - b.Min <= 3 * Math.Max(sensor.Resolution, 1e-9)
                && sensor.Kind is SensorKind.ReflectedLight or SensorKind.AmbientLight or SensorKind.Probe or SensorKind.Sound
            )
                notes.Add(
                    new(
                        "extremes",
                        a.Name!,
                        b.Name,
                        "nothing seen between",
                        $"{a.Name} and {b.Name} look taken at one spot each, at the extremes: nothing between was seen. Record each "
                            + "zone where it is hardest to tell, too."
                    )
                );
        }
        return notes;
    }

    private static double Residual(double[] values)
    {
        // Spread about the straight line through the readings.
        var n = values.Length;
        double mx = (n - 1) / 2.0,
            my = values.Average(),
            sxx = 0,
            sxy = 0;
        for (var i = 0; i < n; i++)
        {
            sxx += (i - mx) * (i - mx);
            sxy += (i - mx) * (values[i] - my);
        }
        var slope = sxy / sxx;
        var sum = 0.0;
        for (var i = 0; i < n; i++)
            sum += Math.Pow(values[i] - my - slope * (i - mx), 2);
        return Math.Sqrt(sum / Math.Max(1, n - 2));
    }
}
