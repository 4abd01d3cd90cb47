using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>The boundary between two neighbouring bands of distance.</summary>
/// <param name="Nearer">Zone on the near side.</param>
/// <param name="Farther">Zone on the far side.</param>
/// <param name="ThresholdMm">Where the zone changes, mm.</param>
/// <param name="HysteresisMm">Half-width of the band around it, mm.</param>
/// <param name="ReadingsNeeded">Readings in a row needed; null when 8 do not do.</param>
/// <param name="Grade">How sound it is.</param>
/// <param name="Say">In words, with the figures.</param>
public sealed record BandBoundary(
    string Nearer,
    string Farther,
    double ThresholdMm,
    double HysteresisMm,
    int? ReadingsNeeded,
    Grade Grade,
    string Say
);

/// <summary>A stretch that belongs to no band, or to two.</summary>
/// <param name="FromMm">Where it begins, mm.</param>
/// <param name="ToMm">Where it ends, mm.</param>
/// <param name="Kind">gap, overlap, blind or beyond.</param>
/// <param name="Say">In words.</param>
public sealed record BandStretch(double FromMm, double ToMm, string Kind, string Say);

/// <summary>Bands of distance, judged.</summary>
/// <param name="Bands">Bands by rising distance.</param>
/// <param name="Boundaries">Between each two neighbours.</param>
/// <param name="Stretches">Gaps, overlaps, and what lies in the blind zone or beyond reach.</param>
/// <param name="NoiseSdMm">SD between readings that was used, mm.</param>
/// <param name="SilentShare">Share of the readings that heard nothing although something was there, 0 to 1.</param>
/// <param name="Verdict">The whole.</param>
public sealed record DistanceBands(
    IReadOnlyList<Band> Bands,
    IReadOnlyList<BandBoundary> Boundaries,
    IReadOnlyList<BandStretch> Stretches,
    double NoiseSdMm,
    double SilentShare,
    Verdict Verdict
)
{
    /// <summary>Nearer than this the sensor answers wrongly, and no band holds, mm.</summary>
    public double BlindMm { get; init; }

    /// <summary>
    /// Judges bands. The worst an object can do is to stand still exactly where a zone changes: beyond the far side of
    /// the hysteresis then lie Q(h/s) of the readings, and N in a row err with the N-th power of that. Hysteresis is as
    /// wide as makes one reading enough, but at most a quarter of the narrower band. Source: normal tails, as in
    /// <see cref="ThresholdSum"/>.
    /// </summary>
    /// <param name="bands">Bands in any order.</param>
    /// <param name="readings">Readings by zone; those equal to <paramref name="silent"/> are "nothing heard".</param>
    /// <param name="samplePeriodMs">Time between readings, ms.</param>
    /// <param name="resolution">Smallest difference, mm.</param>
    /// <param name="maxFalsePerHour">False switches an hour that are bearable.</param>
    /// <param name="blindMm">Nearer than this the sensor answers wrongly, mm.</param>
    /// <param name="reachMm">Farther than this it hears nothing, mm; null when not known.</param>
    /// <param name="silent">What it answers when it hears nothing; null when it answers nothing.</param>
    /// <param name="silenceIs">Zone that its silence counts as; null for none.</param>
    public static DistanceBands Judge(
        IReadOnlyList<Band> bands,
        IReadOnlyList<ZoneReadings> readings,
        double samplePeriodMs,
        double resolution,
        double maxFalsePerHour,
        double blindMm,
        double? reachMm,
        double? silent,
        string? silenceIs = null
    )
    {
        var floor = Math.Max(resolution, 1e-6) / Math.Sqrt(12);
        var ordered = bands.OrderBy(b => b.FromMm + b.ToMm).ToArray();
        var heard = readings.Select(z => (z.Zone, Kept: z.Readings.Where(r => r != silent).ToArray(), All: z.Readings.Count)).ToArray();
        var known = heard.Where(h => h.Kept.Length >= 3).ToArray();
        var sd = known.Length == 0 ? 0 : Math.Max(floor, known.Max(h => Noise(h.Kept)));
        // Silence is a fault only where something that can be heard was before it.
        var within = heard
            .Where(h =>
                h.Kept.Length > 0
                && h.Zone != silenceIs
                && !(reachMm is { } far && ordered.FirstOrDefault(b => b.Zone == h.Zone) is { } b && b.ToMm > far)
            )
            .ToArray();
        var silentShare = within.Length == 0 ? 0 : within.Sum(h => h.All - h.Kept.Length) / (double)within.Sum(h => h.All);

        // So many SDs of hysteresis let one reading in a row keep the promise, with a hair to spare for rounding.
        var wide = Normal.InverseQ(Math.Clamp(maxFalsePerHour * samplePeriodMs / 3_600_000, 1e-12, 0.4)) + 1e-6;
        var boundaries = new List<BandBoundary>();
        var stretches = new List<BandStretch>();
        for (var i = 0; i + 1 < ordered.Length; i++)
        {
            var (near, far) = (ordered[i], ordered[i + 1]);
            var t = (near.ToMm + far.FromMm) / 2;
            if (far.FromMm > near.ToMm)
                stretches.Add(
                    new(
                        near.ToMm,
                        far.FromMm,
                        "gap",
                        $"{Show(near.ToMm)} to {Show(far.FromMm)} mm is in no band: there neither {near.Zone} nor {far.Zone} holds."
                    )
                );
            if (far.FromMm < near.ToMm)
                stretches.Add(
                    new(
                        far.FromMm,
                        Math.Min(near.ToMm, far.ToMm),
                        "overlap",
                        $"{Show(far.FromMm)} to {Show(Math.Min(near.ToMm, far.ToMm))} mm is both {near.Zone} and {far.Zone}; up to "
                            + $"{Show(t)} mm it counts as {near.Zone}."
                    )
                );
            var h = Math.Min(wide * sd, Math.Min(near.ToMm - near.FromMm, far.ToMm - far.FromMm) / 4);
            int? needed = null;
            if (sd > 0)
                for (var n = 1; n <= ThresholdSum.MostReadings && needed is null; n++)
                    if (3_600_000 / samplePeriodMs * Math.Pow(Normal.Q(h / sd), n) <= maxFalsePerHour)
                        needed = n;
            var grade =
                sd == 0 ? Grade.Unusable
                : needed is null ? Grade.Unusable
                : needed == 1 ? Grade.Solid
                : needed <= 3 ? Grade.Workable
                : Grade.Fragile;
            boundaries.Add(
                new(
                    near.Zone,
                    far.Zone,
                    t,
                    h,
                    needed,
                    grade,
                    sd == 0 ? $"Take readings of {near.Zone} or {far.Zone}: without them nobody knows how much this distance trembles."
                        : needed is null
                            ? $"Readings tremble by {Show(sd, 2)} mm (SD), too much for bands this narrow: make them wider, or ask "
                                + "for a steadier target."
                        : $"Readings tremble by {Show(sd, 2)} mm (SD). With ± {Show(h, 2)} mm of hysteresis and "
                            + $"{Count(needed.Value, "reading")} in a row, an object standing right on {Show(t)} mm switches falsely "
                            + $"at most {(maxFalsePerHour == 1 ? "once" : $"{Show(maxFalsePerHour)} times")} an hour."
                )
            );
        }
        foreach (var band in ordered)
        {
            if (band.FromMm < blindMm)
                stretches.Add(
                    new(
                        band.FromMm,
                        Math.Min(blindMm, band.ToMm),
                        "blind",
                        band.ToMm <= blindMm
                            ? $"All of {band.Zone} lies in the blind zone: nearer than {Show(blindMm)} mm the sensor answers wrongly. "
                                + "Move the sensor back or the band out."
                            : $"Nearer than {Show(blindMm)} mm the sensor answers wrongly, so part of {band.Zone} cannot be trusted: "
                                + "never let it come that near."
                    )
                );
            if (reachMm is { } reach && band.ToMm > reach)
                stretches.Add(
                    new(
                        Math.Max(band.FromMm, reach),
                        band.ToMm,
                        "beyond",
                        $"Beyond {Show(reach)} mm it hears nothing, so part of {band.Zone} is never seen. Nothing heard never "
                            + "counts as near."
                    )
                );
        }
        foreach (var (zone, _, _) in heard)
            if (bands.Count > 0 && zone != silenceIs && ordered.All(b => b.Zone != zone))
                stretches.Add(new(0, 0, "no band", $"{zone} has no band, so it never holds: say from where to where it reaches."));
        foreach (var (zone, kept, _) in known)
            if (ordered.FirstOrDefault(b => b.Zone == zone) is { } b && kept.Average() is var mean && (mean < b.FromMm || mean > b.ToMm))
                stretches.Add(
                    new(
                        mean,
                        mean,
                        "misplaced",
                        $"The readings of {zone} lie at {Show(mean, 3)} mm, outside its band of {Show(b.FromMm)} to {Show(b.ToMm)} mm."
                    )
                );
        var worst =
            boundaries.Count == 0
                ? sd > 0
                    ? Grade.Solid
                    : Grade.Unusable
                : boundaries.Max(b => b.Grade);
        if (ordered.Any(b => b.ToMm <= blindMm))
            worst = Grade.Unusable;
        else if (silentShare > 0.1 && worst < Grade.Fragile)
            worst = Grade.Fragile;
        var say =
            bands.Count == 0 ? "No bands yet: say from where to where each zone reaches."
            : worst == Grade.Unusable
                ? boundaries.FirstOrDefault(b => b.Grade == Grade.Unusable)?.Say
                    ?? stretches.FirstOrDefault(s => s.Kind == "blind")?.Say
                    ?? "Take readings first."
            : silentShare > 0.1
                ? $"About {Show(100 * silentShare, 2)} in 100 readings hear nothing although something is there: face the target "
                    + "squarely, or give it a harder surface."
            : boundaries.Count > 0 ? boundaries.MaxBy(b => b.Grade)!.Say
            : "One band: nothing to tell apart.";
        return new(ordered, boundaries, stretches, sd, silentShare, new(worst, say)) { BlindMm = blindMm };
    }

    /// <summary>Bands that follow from readings: each boundary in the middle between the zones' nearest readings, the outer ends at blind
    /// zone and reach.</summary>
    /// <param name="readings">Readings by zone.</param>
    /// <param name="blindMm">Blind zone, mm.</param>
    /// <param name="reachMm">Reach, mm.</param>
    /// <param name="silent">What it answers when it hears nothing.</param>
    public static IReadOnlyList<Band> FromReadings(IReadOnlyList<ZoneReadings> readings, double blindMm, double reachMm, double? silent)
    {
        var zones = readings
            .Select(z => (z.Zone, Kept: z.Readings.Where(r => r != silent).Order().ToArray()))
            .Where(z => z.Kept.Length >= 3)
            .OrderBy(z => z.Kept.Average())
            .ToArray();
        var bands = new List<Band>();
        for (var i = 0; i < zones.Length; i++)
        {
            var from = i == 0 ? Math.Min(blindMm, zones[0].Kept[0]) : bands[^1].ToMm;
            var to =
                i + 1 < zones.Length ? Math.Round((zones[i].Kept[^1] + zones[i + 1].Kept[0]) / 2) : Math.Max(reachMm, zones[i].Kept[^1]);
            if (to > from)
                bands.Add(new(zones[i].Zone, from, to));
        }
        return bands;
    }

    /// <summary>The zone of a reading: of bands that overlap the nearer boundary decides. Below, between and beyond the bands, in the blind
    /// zone and when nothing was heard none holds: null.</summary>
    /// <param name="reading">The reading, mm.</param>
    /// <param name="silent">What the sensor answers when it hears nothing.</param>
    public string? Classify(double reading, double? silent)
    {
        if (double.IsNaN(reading) || reading == silent || reading < BlindMm || Bands.Count == 0)
            return null;
        var i = 0;
        while (i < Boundaries.Count && reading > Boundaries[i].ThresholdMm)
            i++;
        return reading >= Bands[i].FromMm && reading <= Bands[i].ToMm ? Bands[i].Zone : null;
    }

    // The trembling between one reading and the next (von Neumann's mean square successive difference): a hand that is moved through a
    // band is no noise. Never more than the plain spread.
    private static double Noise(double[] values)
    {
        var squares = 0.0;
        for (var i = 1; i < values.Length; i++)
            squares += (values[i] - values[i - 1]) * (values[i] - values[i - 1]);
        return Math.Min(Sd(values), Math.Sqrt(squares / (2 * (values.Length - 1))));
    }

    private static double Sd(double[] values)
    {
        var mean = values.Average();
        return Math.Sqrt(values.Sum(v => (v - mean) * (v - mean)) / (values.Length - 1));
    }
}
