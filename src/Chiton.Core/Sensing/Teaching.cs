namespace Chiton.Core.Sensing;

/// <summary>
/// Zones that are shown to a sensor while it runs: what it reads then is that zone. The other zones keep their relative
/// place between those that were shown, and thresholds follow.
/// </summary>
public static class Teaching
{
    /// <summary>Where nothing tells how much the readings spread, the band is this part of the way between two zones.</summary>
    private const double BandPart = 1 / 8.0;

    /// <summary>The zones after some of them were shown.</summary>
    /// <param name="known">The zones as they were calibrated; null where they were not.</param>
    /// <param name="taught">What was shown: zone names and readings, each name once.</param>
    /// <returns>The zones now; null where they cannot be told apart: fewer than two, two at one place, nearer than their bands, or shown in
    /// another order than they were calibrated in while others keep their places between them.</returns>
    public static ZoneScale? Scale(ZoneScale? known, IReadOnlyList<(string Zone, double Reading)> taught)
    {
        if (taught.Any(t => !double.IsFinite(t.Reading)))
            return null;
        var anchors = known is null
            ? []
            : taught
                .Select(t => (At: known.IndexOf(t.Zone), t.Reading))
                .Where(t => t.At >= 0)
                .OrderBy(t => t.At)
                .Select(t => (Before: known.Means[t.At], Now: t.Reading))
                .ToArray();
        for (var i = 1; i < anchors.Length; i++)
            if (!(anchors[i].Now > anchors[i - 1].Now))
                return anchors.Length == known!.Names.Count ? Anew(known, taught) : null;
        if (known is null || taught.Count > anchors.Length)
            return Anew(known, taught, anchors);
        Boundary[] moved = [.. known.Boundaries.Select(b => b with { Threshold = Follow(anchors, b.Threshold) })];
        return Told(known.Names, [.. known.Means.Select(m => Follow(anchors, m))], moved);
    }

    // Between two zones that were shown what lay there keeps its relative place; beyond them it keeps its distance.
    private static double Follow((double Before, double Now)[] anchors, double at)
    {
        if (anchors.Length == 0)
            return at;
        if (at <= anchors[0].Before)
            return at + anchors[0].Now - anchors[0].Before;
        for (var i = 1; i < anchors.Length; i++)
            if (at <= anchors[i].Before)
                return anchors[i - 1].Now
                    + (at - anchors[i - 1].Before) / (anchors[i].Before - anchors[i - 1].Before) * (anchors[i].Now - anchors[i - 1].Now);
        return at + anchors[^1].Now - anchors[^1].Before;
    }

    // All zones by where they are now, with the thresholds half way.
    private static ZoneScale? Anew(
        ZoneScale? known,
        IReadOnlyList<(string Zone, double Reading)> taught,
        (double Before, double Now)[]? anchors = null
    )
    {
        var all = taught.ToList();
        if (anchors is not null && known is not null)
            all.AddRange(
                known
                    .Names.Select((n, i) => (Zone: n, Reading: Follow(anchors, known.Means[i])))
                    .Where(k => taught.All(t => t.Zone != k.Zone))
            );
        (string Zone, double Reading)[] order = [.. all.OrderBy(z => z.Reading)];
        var band = known is null || known.Boundaries.Count == 0 ? (double?)null : known.Boundaries.Max(b => b.Hysteresis);
        Boundary[] between =
        [
            .. order
                .Zip(order.Skip(1))
                .Select(p => new Boundary(
                    (p.First.Reading + p.Second.Reading) / 2,
                    band ?? (p.Second.Reading - p.First.Reading) * BandPart
                )),
        ];
        return Told([.. order.Select(z => z.Zone)], [.. order.Select(z => z.Reading)], between);
    }

    // Zones are told apart while each lies beyond the bands around it.
    private static ZoneScale? Told(IReadOnlyList<string> names, double[] at, Boundary[] between)
    {
        if (names.Count < 2)
            return null;
        for (var i = 0; i < between.Length; i++)
        {
            var (low, high) = (between[i].Threshold - between[i].Hysteresis, between[i].Threshold + between[i].Hysteresis);
            if (!(at[i] < at[i + 1]) || low < at[i] || high > at[i + 1] || i > 0 && !(between[i].Threshold > between[i - 1].Threshold))
                return null;
        }
        return new(names, between, at);
    }
}
