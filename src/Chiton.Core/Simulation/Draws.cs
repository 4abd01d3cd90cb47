using Chiton.Core.Quantities;

namespace Chiton.Core.Simulation;

/// <summary>A number that is drawn once a run.</summary>
/// <param name="Name">What it is, in words; its stream hangs on it, so that a change elsewhere does not reshuffle it.</param>
/// <param name="Unit">Unit of its value.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">In words.</param>
/// <param name="Usual">Its value where nothing varies.</param>
/// <param name="DoubtSd">How little is known of it: SD from copy to copy that would look the same.</param>
/// <param name="ChanceSd">How much it varies from run to run (SD).</param>
/// <param name="Min">Physical lower limit.</param>
/// <param name="Max">Physical upper limit.</param>
/// <param name="To">Where it is drawn evenly, the upper end; the usual value is the lower one.</param>
public sealed record DrawSpec(
    string Name,
    string Unit,
    Provenance Kind,
    string Source,
    double Usual,
    double DoubtSd,
    double ChanceSd,
    double Min,
    double Max,
    double? To = null
)
{
    /// <summary>SD from move to move, or from reading to reading, within a run.</summary>
    public double EachSd { get; init; }

    /// <summary>True when it is the same in every run.</summary>
    public bool IsFixed => DoubtSd == 0 && ChanceSd == 0 && To is null;

    /// <summary>The seed of its stream.</summary>
    internal ulong Stream { get; } = Draws.Hash(Name);

    /// <summary>A number of a copy: how well it is known is doubt, what varies from move to move is drawn anew at each.</summary>
    public static DrawSpec Of(string name, Quantity q) =>
        new(name, q.Unit, q.Kind, q.Source, q.Value, q.BetweenRunsSd, 0, q.Min, q.Max) { EachSd = q.MoveSd };
}

/// <summary>The one place that draws numbers: a stream for each number by its name, so that two programs are held against each other on
/// the same luck.</summary>
public static class Draws
{
    /// <summary>A stream for a purpose.</summary>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="name">Which number or purpose, as <see cref="Hash"/> of its name.</param>
    public static RandomStream Stream(ulong seed, ulong name) => new(seed ^ name, (uint)(name >> 32));

    /// <summary>A number from a text that is the same on every machine (FNV-1a, 64 bits).</summary>
    public static ulong Hash(string name)
    {
        var hash = 14695981039346656037UL;
        foreach (var c in name)
            hash = (hash ^ c) * 1099511628211UL;
        return hash;
    }

    /// <summary>Draws all numbers of a run.</summary>
    /// <param name="specs">The numbers.</param>
    /// <param name="seed">Seed of the run: what varies from run to run.</param>
    /// <param name="copy">Seed of the copy: what is not known well.</param>
    /// <param name="into">Where they go.</param>
    public static void All(ReadOnlySpan<DrawSpec> specs, ulong seed, ulong copy, Span<double> into)
    {
        for (var i = 0; i < specs.Length; i++)
        {
            var s = specs[i];
            if (s.IsFixed)
            {
                into[i] = s.Usual;
                continue;
            }
            if (s.To is { } to)
            {
                into[i] = s.Usual + (to - s.Usual) * Stream(seed, s.Stream).Uniform();
                continue;
            }
            var value = s.Usual;
            if (s.DoubtSd > 0)
                value += s.DoubtSd * Math.Clamp(Stream(copy, s.Stream ^ 0x5bd1e995).Normal(), -3, 3);
            if (s.ChanceSd > 0)
                value += s.ChanceSd * Math.Clamp(Stream(seed, s.Stream).Normal(), -3, 3);
            into[i] = Math.Clamp(value, s.Min, s.Max);
        }
    }
}
