using Chiton.Core.Sensing;

namespace Chiton.Core.Simulation.Senses;

/// <summary>
/// What a sensor answers to what is before it: one model, for readings that are taken and for readings in runs. What is before it,
/// each bench knows for itself.
/// </summary>
internal static class Response
{
    /// <summary>Noise of one reading, in SDs: each follows the one before as far as it was measured to.</summary>
    /// <param name="lag1">Correlation of one reading with the next, −1 to 1.</param>
    /// <param name="last">That of the reading before; becomes this one's.</param>
    /// <param name="noise">Where luck comes from.</param>
    public static double Wander(double lag1, ref double last, ref RandomStream noise)
    {
        if (lag1 == 0)
            return last = noise.Normal();
        return last = lag1 * last + Math.Sqrt(1 - lag1 * lag1) * noise.Normal();
    }

    /// <summary>A reading as it is shown: in steps of its resolution, within what the sensor can tell.</summary>
    public static double Shown(double value, double resolution, double from, double to) => Stepped(Math.Clamp(value, from, to), resolution);

    private static double Stepped(double value, double resolution) => resolution > 0 ? Math.Round(value / resolution) * resolution : value;

    /// <summary>
    /// What a distance sensor takes for the distance: not a number where nothing is heard, since it is beyond its reach or the echo is
    /// lost; in its blind zone, where the echo overlaps the call, anything up to twice the blind distance.
    /// </summary>
    /// <param name="there">What is there, mm.</param>
    /// <param name="reach">Farthest that is heard, mm.</param>
    /// <param name="blind">Nearest that is told, mm.</param>
    /// <param name="silent">Share of readings that hear nothing, 0 to 1.</param>
    /// <param name="noise">Where luck comes from.</param>
    public static double Heard(double there, double reach, double blind, double silent, ref RandomStream noise)
    {
        if (there > reach || noise.Uniform() < silent)
            return double.NaN;
        return there < blind ? blind * (1 + noise.Uniform()) : there;
    }

    /// <summary>Red, green and blue: light changes all three together, the sensor's own noise each alone.</summary>
    /// <param name="mean">What the surface gives.</param>
    /// <param name="sd">SD of each.</param>
    /// <param name="resolution">Step of a reading.</param>
    /// <param name="from">Least that can be told.</param>
    /// <param name="to">Most that can be told.</param>
    /// <param name="noise">Where luck comes from.</param>
    /// <param name="into">Room for three.</param>
    public static void Colour(
        ReadOnlySpan<double> mean,
        ReadOnlySpan<double> sd,
        double resolution,
        double from,
        double to,
        ref RandomStream noise,
        Span<double> into
    )
    {
        var common = noise.Normal();
        for (var c = 0; c < 3; c++)
            into[c] = Shown(mean[c] + sd[c] * (0.6 * common + 0.8 * noise.Normal()), resolution, from, to);
    }

    private static readonly int Black = Of("black"),
        White = Of("white"),
        Grey = Of("grey"),
        Yellow = Of("yellow"),
        Brown = Of("brown"),
        Violet = Of("violet"),
        Red = Of("red"),
        Green = Of("green"),
        Blue = Of("blue");

    private static int Of(string word) => SenseJudge.ColourWords.ToList().IndexOf(word);

    /// <summary>The word, by its number, that a sensor of colour words has for a colour.</summary>
    public static int Word(double r, double g, double b)
    {
        double high = Math.Max(r, Math.Max(g, b)),
            low = Math.Min(r, Math.Min(g, b));
        if (high < 58)
            return Black;
        if (high - low < 0.16 * high)
            return high > 170 ? White : Grey;
        if (high == r)
            return g > 0.8 * r ? Yellow
                : high < 115 && g > b ? Brown
                : b > 0.9 * r ? Violet
                : Red;
        return high == g ? Green
            : r > 0.8 * b ? Violet
            : Blue;
    }

    /// <summary>How many readings a contact may flicker after it closed or opened: for up to 20 ms.</summary>
    public static int Bounces(double periodMs, ref RandomStream noise) => 1 + (int)(noise.Uniform() * 20 / periodMs);

    /// <summary>One reading of a contact that flickers.</summary>
    public static bool Flickers(ref int bounces, ref RandomStream noise)
    {
        if (bounces <= 0)
            return false;
        bounces--;
        return noise.Uniform() < 0.35;
    }
}
