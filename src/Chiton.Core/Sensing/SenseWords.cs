using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>The threshold between two zones, for the picture and in words.</summary>
/// <param name="Lower">Zone below.</param>
/// <param name="Upper">Zone above.</param>
/// <param name="Sum">The whole sum.</param>
/// <param name="Fallback">Why another school stands in; null when none does.</param>
/// <param name="Headline">The verdict in a few words.</param>
/// <param name="Say">The verdict in one or two sentences with the figures.</param>
public sealed record PairView(string Lower, string Upper, Answer<ThresholdResult> Sum, string? Fallback, string Headline, string Say);

/// <summary>A school that can be chosen.</summary>
/// <param name="School">API name.</param>
/// <param name="Name">As people call it.</param>
/// <param name="Why">When to use it.</param>
/// <param name="Threshold">Where it puts the first threshold; null when it cannot.</param>
public sealed record SchoolView(string School, string Name, string Why, double? Threshold);

/// <summary>What readings and thresholds say, in words and in the figures that stand beside them.</summary>
public static class SenseWords
{
    /// <summary>A calibration in which nothing was recorded yet.</summary>
    /// <param name="sensor">The sensor.</param>
    public static SensorCalibration Unread(Sensor sensor) =>
        new(
            sensor.Name,
            sensor.SamplePeriodMs,
            sensor.Resolution,
            1,
            School.EqualRisk,
            1,
            [.. sensor.Zones.Select(z => new ZoneReadings(z, []))]
        )
        {
            Unit = sensor.Facts.Unit,
            Low = sensor.Facts.From,
            High = sensor.Facts.To,
        };

    /// <summary>True when the zones of a sensor are told apart by thresholds; its thresholds are then shown.</summary>
    /// <param name="sensor">The sensor.</param>
    public static bool HasThresholds(Sensor sensor) =>
        sensor.Facts.View == "scalar" || sensor.Facts.View == "bands" && sensor.Bands.Count == 0;

    /// <summary>What the readings of a zone that count look like; null with fewer than 3, and where a mean says nothing.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration.</param>
    /// <param name="zone">Zone with all its readings.</param>
    public static ListFigures? Figures(Sensor sensor, SensorCalibration calibration, ZoneReadings zone)
    {
        var kept = calibration.Kept(zone.Zone);
        var heard = sensor.SilentReading is { } silent && sensor.Facts.View == "bands" ? [.. kept.Where(r => r != silent)] : kept;
        return heard.Count < 3 || sensor.Facts.Width > 1 || sensor.Facts.View is "names" or "switch"
            ? null
            : ThresholdSum.Describe(
                zone.Zone,
                [.. heard],
                sensor.SamplePeriodMs,
                sensor.Resolution / Math.Sqrt(12),
                zone.Readings.Count - kept.Count
            );
    }

    /// <summary>The schools that can be chosen, each with where it would put the first threshold.</summary>
    /// <param name="first">The sum of the first pair; null while there is none.</param>
    public static IReadOnlyList<SchoolView> Schools(ThresholdResult? first) =>
        [
            new("equalRisk", "equal risk", "Both errors equally likely. The default.", first?.EqualRisk),
            new("midpoint", "midpoint of means", "Halfway between the means, whatever their spread.", first?.Midpoint),
            new("midGap", "middle of the gap", "Halfway between the nearest readings. Hangs on two readings alone.", first?.MidGap),
            new("cost", "cost of each error", "When a false rise and a false fall do not harm equally.", first?.Cost),
        ];

    /// <summary>A threshold in words: how far it lies off, how often one reading errs, and what readings in a row buy and cost.</summary>
    /// <param name="pair">Two neighbouring zones.</param>
    /// <param name="sensor">The sensor.</param>
    /// <param name="rolling">How its readings will be taken; null at rest.</param>
    public static PairView Pair(ZonePair pair, Sensor sensor, Rolling? rolling = null)
    {
        var periodMs = sensor.SamplePeriodMs;
        var r = pair.Sum.Result;
        var verdict = pair.Sum.Verdict!;
        var word = verdict.Grade.ToString().ToLowerInvariant();
        var headline = r.ReadingsNeededSafe is > 1 and { } n ? $"{word}, {n} readings in a row" : word;
        var say = r.Separation is { } separation
            ? $"The threshold lies {Show(separation, 2)} times the usual wobble from the nearer zone. One reading alone errs "
                + $"{PerHour(r.FalsePerHour[0])} by a bell curve."
                + (r.ReadingsNeededSafe is > 1 and { } k ? $" Waiting for {k} costs {Show((k - 1) * periodMs)} ms." : "")
            : "";
        if (rolling is not null)
            say =
                $"Judged while it rolls {(rolling.UsualSpeed ? "a usual " : "")}{Show(rolling.SpeedMmPerS, 3)} mm/s, "
                + $"where readings scatter {Show(rolling.Tremble.Value, 2)} % of "
                + $"the reading more for each m/s ({rolling.Tremble.Kind.ToString().ToLowerInvariant()}); at rest "
                + (
                    pair.Still.Result.ReadingsNeededSafe is { } still
                        ? $"{(still == 1 ? "one would do" : $"{still} in a row would do")}. "
                        : "no number would do. "
                )
                + say;
        return new(pair.Lower, pair.Upper, pair.Sum, pair.Fallback, headline, (say + " " + Fitting(verdict.Say, sensor)).Trim());
    }

    // What does not see light is not helped by shade.
    private static string Fitting(string say, Sensor sensor) =>
        sensor.Facts.SeesLight
            ? say
            : say.Replace("move it, shade it, or use another", "move it, or use another", StringComparison.Ordinal);

    /// <summary>How often an hour, in words.</summary>
    /// <param name="rate">Times an hour.</param>
    public static string PerHour(double rate) =>
        rate switch
        {
            >= 0.95 => $"about {About(rate)} times an hour",
            >= 1e-4 => $"once in {About(1 / rate)} hours",
            _ => "practically never",
        };

    /// <summary>What to beware of: zones with too few readings, and what is odd about those there are.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration.</param>
    /// <param name="notes">What is odd, from <see cref="SenseWatch"/>.</param>
    public static IReadOnlyList<string> Cautions(Sensor sensor, SensorCalibration calibration, IReadOnlyList<SenseNote> notes)
    {
        var cautions = new List<string>();
        var (least, width) = sensor.Facts.View switch
        {
            "colours" => (2, sensor.Facts.Width),
            "names" or "switch" => (1, 1),
            _ => (3, 1),
        };
        foreach (var zone in calibration.Zones)
        {
            var kept = calibration.Kept(zone.Zone).Count / width;
            if (kept < least)
                cautions.Add(
                    $"{zone.Zone} has {Count(kept, sensor.Facts.View == "colours" ? "sample" : "reading")}; it takes {least} or "
                        + $"more{(sensor.Facts.View == "scalar" ? " to place a threshold" : "")}."
                );
        }
        cautions.AddRange(notes.Select(n => n.Say));
        return cautions;
    }

    /// <summary>Most numbers that a zone of a sensor holds.</summary>
    // Leave-one-out takes each sample of a colour once more, so a colour zone holds fewer.
    public static int MostNumbers(Sensor sensor) => sensor.Facts.Width == 3 ? Colours.MostSamples * 3 : ThresholdSum.MostPerList;

    /// <summary>Refuses readings for which a zone has no room: one that no sum takes any more could not even be looked at.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">What it holds; null while nothing was recorded.</param>
    /// <param name="more">What would be added.</param>
    /// <param name="field">The field that the error names.</param>
    /// <exception cref="InputProblem">When a zone would hold too many.</exception>
    public static void HasRoom(Sensor sensor, SensorCalibration? calibration, IEnumerable<ZoneReadings> more, string field)
    {
        var (width, most) = (sensor.Facts.Width, MostNumbers(sensor));
        foreach (var zone in more)
        {
            var held = calibration?.Zones.FirstOrDefault(z => z.Zone == zone.Zone)?.Readings.Count ?? 0;
            if (held + zone.Readings.Count > most)
                throw new InputProblem(
                    field,
                    $"A zone holds at most {most / width} readings; {zone.Zone} has {held / width} and would get "
                        + $"{zone.Readings.Count / width} more."
                );
        }
    }

    /// <summary>Refuses a school that these readings do not allow.</summary>
    /// <param name="school">The school.</param>
    /// <param name="calibration">The readings; null while there are none.</param>
    /// <exception cref="InputProblem">When there is no gap to take the middle of.</exception>
    public static void CanPlace(School school, SensorCalibration? calibration)
    {
        if (school == School.MidGap && calibration is not null && calibration.Pairs().Any(p => p.Sum.Result.MidGap is null))
            throw new InputProblem("school", "There is no gap between these readings: they touch or overlap. Choose another school.");
    }
}
