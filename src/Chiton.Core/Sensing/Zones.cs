using Chiton.Core.Quantities;

namespace Chiton.Core.Sensing;

/// <summary>The boundary between two neighbouring zones, in the units of the readings.</summary>
/// <param name="Threshold">The threshold.</param>
/// <param name="Hysteresis">Half-width of the band around it, 0 or more.</param>
public readonly record struct Boundary(double Threshold, double Hysteresis);

/// <summary>
/// The zones of one sensor on one copy, ready for use: names in order of rising readings and the boundaries between them.
/// </summary>
public sealed class ZoneScale
{
    private readonly double[] thresholds;
    private readonly double[] bands;

    /// <summary>Makes a scale.</summary>
    /// <param name="names">Zone names by rising mean.</param>
    /// <param name="boundaries">One fewer than names, by rising threshold.</param>
    /// <param name="means">What each zone reads on average; worked out from the thresholds where nobody says.</param>
    /// <exception cref="ArgumentException">When the counts do not fit or the thresholds do not rise.</exception>
    public ZoneScale(IReadOnlyList<string> names, IReadOnlyList<Boundary> boundaries, IReadOnlyList<double>? means = null)
    {
        if (names.Count == 0 || boundaries.Count != names.Count - 1)
            throw new ArgumentException("One boundary between each two zones.");
        for (var i = 1; i < boundaries.Count; i++)
            if (!(boundaries[i].Threshold > boundaries[i - 1].Threshold))
                throw new ArgumentException("Thresholds must rise.");
        Names = names;
        Boundaries = boundaries;
        thresholds = boundaries.Select(b => b.Threshold).ToArray();
        bands = boundaries.Select(b => b.Hysteresis).ToArray();
        Means = means ?? Between();
    }

    // A zone reads about half way between its thresholds; one at an end as far beyond its only one as its neighbour before it.
    private double[] Between()
    {
        var n = thresholds.Length;
        double Half(int i) => n > 1 ? (thresholds[Math.Min(i + 1, n - 1)] - thresholds[Math.Min(i, n - 2)]) / 2 : Math.Max(1, 4 * bands[0]);
        return
        [
            .. Names.Select(
                (_, i) =>
                    n == 0 ? 0
                    : i == 0 ? thresholds[0] - Half(0)
                    : i == n ? thresholds[n - 1] + Half(n - 1)
                    : (thresholds[i - 1] + thresholds[i]) / 2
            ),
        ];
    }

    /// <summary>What each zone reads on average.</summary>
    public IReadOnlyList<double> Means { get; }

    /// <summary>Zone names by rising mean.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>Boundaries by rising threshold.</summary>
    public IReadOnlyList<Boundary> Boundaries { get; }

    /// <summary>Index of the zone of that name, or −1.</summary>
    public int IndexOf(string name)
    {
        for (var i = 0; i < Names.Count; i++)
            if (Names[i] == name)
                return i;
        return -1;
    }

    /// <summary>Half-width of the band around the boundary that lies nearest; 0 where there is none.</summary>
    /// <param name="value">A number in the units of the readings.</param>
    public double BandNear(double value)
    {
        var best = 0;
        for (var i = 1; i < thresholds.Length; i++)
            if (Math.Abs(thresholds[i] - value) < Math.Abs(thresholds[best] - value))
                best = i;
        return thresholds.Length == 0 ? 0 : bands[best];
    }

    /// <summary>The zone of a first reading: plain comparison with the thresholds.</summary>
    public int First(double reading)
    {
        var zone = 0;
        while (zone < thresholds.Length && reading > thresholds[zone])
            zone++;
        return zone;
    }

    /// <summary>
    /// The zone a reading points to, seen from the zone held so far: a zone is left only beyond the far side of the band.
    /// </summary>
    /// <param name="held">Index of the zone held.</param>
    /// <param name="reading">The reading.</param>
    public int From(int held, double reading)
    {
        var zone = held;
        while (zone < thresholds.Length && reading > thresholds[zone] + bands[zone])
            zone++;
        if (zone != held)
            return zone;
        while (zone > 0 && reading < thresholds[zone - 1] - bands[zone - 1])
            zone--;
        return zone;
    }
}

/// <summary>
/// The zone one trigger holds: it changes when enough successive readings point to the same other zone. Any other
/// reading, or a dropout, restarts the count.
/// </summary>
public struct ZoneTracker
{
    private int candidate;
    private int count;

    /// <summary>Index of the zone held; −1 before the first reading.</summary>
    public int Held { get; private set; }

    /// <summary>A tracker that has seen nothing.</summary>
    public static ZoneTracker Unread => new() { Held = -1, candidate = -1 };

    /// <summary>A tracker that holds a zone and has counted nothing towards another.</summary>
    /// <param name="zone">Index of the zone; −1 for none.</param>
    public static ZoneTracker At(int zone) => new() { Held = zone, candidate = -1 };

    /// <summary>A tracker that holds the same zone and has counted nothing towards another.</summary>
    public readonly ZoneTracker Restarted => new() { Held = Held, candidate = -1 };

    /// <summary>The same for an edge: from no zone at all into a zone is a change, once enough readings in a row say so.</summary>
    /// <param name="scale">The sensor's zones.</param>
    /// <param name="reading">The reading, or NaN for a dropout.</param>
    /// <param name="needed">Readings in a row needed, 1 or more.</param>
    public bool TakeEdge(ZoneScale scale, double reading, int needed)
    {
        if (Held >= 0 || double.IsNaN(reading))
            return Take(scale, reading, needed);
        return TakeZone(scale.First(reading), needed);
    }

    /// <summary>Takes in which zone a reading fell into; true when the zone held changed by it.</summary>
    /// <param name="zone">The zone; −1 for none, which only restarts the count.</param>
    /// <param name="needed">Readings in a row needed, 1 or more.</param>
    public bool TakeZone(int zone, int needed)
    {
        if (zone < 0 || zone == Held)
        {
            (count, candidate) = (0, -1);
            return false;
        }
        count = zone == candidate ? count + 1 : 1;
        candidate = zone;
        if (count < needed)
            return false;
        (Held, count, candidate) = (zone, 0, -1);
        return true;
    }

    /// <summary>Takes a reading in; true when the zone held changed by it. The first reading is no change.</summary>
    /// <param name="scale">The sensor's zones.</param>
    /// <param name="reading">The reading, or NaN for a dropout.</param>
    /// <param name="needed">Readings in a row needed, 1 or more.</param>
    public bool Take(ZoneScale scale, double reading, int needed)
    {
        if (double.IsNaN(reading))
        {
            count = 0;
            candidate = -1;
            return false;
        }
        if (Held < 0)
        {
            Held = scale.First(reading);
            return false;
        }
        var zone = scale.From(Held, reading);
        if (zone == Held)
        {
            count = 0;
            candidate = -1;
            return false;
        }
        count = zone == candidate ? count + 1 : 1;
        candidate = zone;
        if (count < needed)
            return false;
        Held = zone;
        count = 0;
        candidate = -1;
        return true;
    }
}
