namespace Chiton.Core.Rigs;

/// <summary>Whether a sensor's reading changes while it is touched, covered or approached: what preflight asks of it.</summary>
public static class ReadingChange
{
    /// <summary>For how long nothing should be done first, so that it is known how much the readings wander by themselves, s.</summary>
    public const double StillS = 0.6;

    /// <summary>Share of a sensor's range that a change must come to: less is what wanders.</summary>
    public const double Share = 0.08;

    /// <summary>Looks whether readings change.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="readings">Readings in the order they were taken; several numbers each where the sensor gives several.</param>
    /// <param name="still">How many of the readings were taken before anything was to be done; at least one is taken as such.</param>
    /// <returns>True when it changed; of a switch, when it was down and up.</returns>
    public static bool Found(Sensor sensor, IReadOnlyList<double> readings, int still)
    {
        var width = sensor.Facts.Width;
        var count = readings.Count / width;
        if (count < 2)
            return false;
        if (sensor.Facts.View is "switch" or "names")
            return readings.Any(r => r != readings[0]);
        for (var channel = 0; channel < width; channel++)
        {
            double[] one = [.. Enumerable.Range(0, count).Select(i => readings[i * width + channel])];
            var first = one[..Math.Clamp(still, 1, count - 1)];
            var mean = first.Average();
            var sd = Math.Sqrt(first.Sum(r => (r - mean) * (r - mean)) / first.Length);
            // Of three in a row the middle one: a single odd reading is no change.
            var least = Math.Max(Share * (sensor.Facts.To - sensor.Facts.From), 4 * sd);
            for (var i = first.Length; i < count; i++)
            {
                double[] three = [one[Math.Max(0, i - 2)], one[Math.Max(0, i - 1)], one[i]];
                Array.Sort(three);
                if (Math.Abs(three[1] - mean) > least)
                    return true;
            }
        }
        return false;
    }
}
