using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>How often one colour word was reported in one zone.</summary>
public sealed record WordCount(string Word, int Count, bool Taken);

/// <summary>A zone and the words the sensor reported over it.</summary>
/// <param name="Zone">Zone name.</param>
/// <param name="Words">Words by falling count.</param>
/// <param name="WrongShare">Share of its readings that would be taken for another zone or for none, 0 to 1.</param>
public sealed record NamedZone(string Zone, IReadOnlyList<WordCount> Words, double WrongShare);

/// <summary>Zones of a sensor that reports colour words.</summary>
/// <param name="Zones">In the order they were made.</param>
/// <param name="ByWord">Which zone each word is taken for.</param>
/// <param name="ReadingsNeeded">Readings in a row needed; null when 8 do not do.</param>
/// <param name="Verdict">The whole.</param>
public sealed record NamedColours(
    IReadOnlyList<NamedZone> Zones,
    IReadOnlyDictionary<string, string> ByWord,
    int? ReadingsNeeded,
    Verdict Verdict
)
{
    /// <summary>
    /// Takes each word for the zone in which it makes up the largest share, and counts what goes wrong then. Few readings
    /// may have missed a rare word: the wrong share is judged by the upper end of its 90 % Wilson interval.
    /// </summary>
    /// <param name="zones">Readings by zone: numbers of words.</param>
    /// <param name="words">The words by number.</param>
    /// <param name="samplePeriodMs">Time between readings, ms.</param>
    /// <param name="maxFalsePerHour">False switches an hour that are bearable.</param>
    public static NamedColours Judge(
        IReadOnlyList<ZoneReadings> zones,
        IReadOnlyList<string> words,
        double samplePeriodMs,
        double maxFalsePerHour
    )
    {
        string Word(double r) => r >= 0 && r < words.Count ? words[(int)Math.Round(r)] : "nothing";
        var counts = zones
            .Where(z => z.Readings.Count > 0)
            .Select(z => (z.Zone, z.Readings.Count, Of: z.Readings.CountBy(Word).ToDictionary()))
            .ToArray();
        var byWord = counts
            .SelectMany(c => c.Of.Keys)
            .Distinct()
            .ToDictionary(w => w, w => counts.MaxBy(c => c.Of.GetValueOrDefault(w) / (double)c.Count).Zone);
        var named = counts
            .Select(c => new NamedZone(
                c.Zone,
                [.. c.Of.OrderByDescending(o => o.Value).Select(o => new WordCount(o.Key, o.Value, byWord[o.Key] == c.Zone))],
                c.Of.Where(o => byWord[o.Key] != c.Zone).Sum(o => o.Value) / (double)c.Count
            ))
            .ToArray();
        if (named.Length < 2)
            return new(named, byWord, null, new(Grade.Unusable, "Record at least two zones."));
        var worst = named.MaxBy(n => n.WrongShare)!;
        var upper = counts.Max(c => Upper(named.First(n => n.Zone == c.Zone).WrongShare * c.Count, c.Count));
        int? needed = null;
        for (var n = 1; n <= ThresholdSum.MostReadings && needed is null; n++)
            if (3_600_000 / samplePeriodMs * Math.Pow(upper, n) <= maxFalsePerHour)
                needed = n;
        var never = named.FirstOrDefault(n => n.Words.All(w => !w.Taken));
        var grade =
            never is not null || worst.WrongShare >= 0.5 || needed is null ? Grade.Unusable
            : needed == 1 ? Grade.Solid
            : needed <= 3 ? Grade.Workable
            : Grade.Fragile;
        var say =
            never is not null
                ? $"{never.Zone} is always taken for another zone: the sensor has no word of its own for it. Read red, green and "
                    + "blue instead."
            : worst.WrongShare == 0
                ? $"No word was wrong in {Count(counts.Sum(c => c.Count), "reading")}; so few cannot rule out {Show(100 * upper, 2)} "
                    + $"in 100. {(needed is { } m ? $"Ask for {Count(m, "reading")} in a row." : "Take more readings.")}"
            : $"{worst.Zone} is taken for something else in {Show(100 * worst.WrongShare, 2)} of 100 readings. "
                + $"{(needed is { } k ? $"Ask for {Count(k, "reading")} in a row." : "Read red, green and blue instead.")}";
        return new(named, byWord, needed, new(grade, say));
    }

    // Upper end of the 90 % Wilson interval of a share.
    private static double Upper(double hits, int n)
    {
        const double z = 1.6449;
        var p = hits / n;
        return (p + z * z / (2 * n) + z * Math.Sqrt(p * (1 - p) / n + z * z / (4.0 * n * n))) / (1 + z * z / n);
    }
}
