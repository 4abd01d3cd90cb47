using Chiton.Core.Quantities;

namespace Chiton.Core.Sensing;

/// <summary>What the clock of a board says of readings that it took.</summary>
/// <param name="FromMicros">When the first was taken, µs since the board was started.</param>
/// <param name="Seconds">From the first to the last, s.</param>
/// <param name="EveryMs">The middle of the times between readings, ms; null with fewer than two.</param>
/// <param name="LongestMs">The longest time between two, ms; null with fewer than two.</param>
public sealed record ReadingClock(double FromMicros, double Seconds, double? EveryMs, double? LongestMs)
{
    /// <summary>Of the times of readings; null where there are none.</summary>
    /// <param name="micros">When each was taken, µs, none earlier than the one before.</param>
    public static ReadingClock? Of(IReadOnlyList<double> micros)
    {
        if (micros.Count == 0)
            return null;
        double[] between = [.. micros.Zip(micros.Skip(1), (a, b) => (b - a) / 1000).Order()];
        return new(
            micros[0],
            (micros[^1] - micros[0]) * 1e-6,
            between.Length == 0 ? null
                : between.Length % 2 == 1 ? between[between.Length / 2]
                : (between[between.Length / 2 - 1] + between[between.Length / 2]) / 2,
            between.Length == 0 ? null : between[^1]
        );
    }

    /// <summary>In a sentence: how fast they came, and the longest gap where it is long.</summary>
    /// <param name="periodMs">Time between readings as the rig says it, ms.</param>
    public string Say(double periodMs)
    {
        if (EveryMs is not { } every || LongestMs is not { } longest)
            return "by the clock of the board";
        var said = $"one every {Figures.Show(every, 3)} ms by the clock of the board";
        if (longest > 3 * Math.Max(every, 1))
            said += $", once {Figures.Show(longest, 3)} ms apart";
        return Math.Abs(every - periodMs) > 0.2 * periodMs ? $"{said}; the rig says {Figures.Show(periodMs)} ms" : said;
    }
}
