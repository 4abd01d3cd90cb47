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

    /// <summary>Degrees of freedom with which its spreads were found; 0 where they are claimed. Few readings know their own spread badly:
    /// a copy draws it with χ², and its mean with what was drawn, which makes the mean Student's t.</summary>
    public double Dof { get; init; }

    /// <summary>How many times wider than <see cref="EachSd"/> it varies within a run, where that is not drawn: 1 but for a truth that is
    /// known and held against what was read of it.</summary>
    public double Width { get; init; } = 1;

    /// <summary>How it could be measured, or measured better; null where nothing measures it.</summary>
    public Measuring? Measured { get; init; }

    /// <summary>True when it is the same in every run.</summary>
    public bool IsFixed => DoubtSd == 0 && ChanceSd == 0 && To is null;

    /// <summary>True when its value is not known well.</summary>
    public bool IsDoubted => DoubtSd > 0;

    /// <summary>True when how much it varies is not known well.</summary>
    public bool SpreadIsDoubted => Dof > 0 && EachSd > 0;

    /// <summary>The seed of its stream.</summary>
    internal ulong Stream { get; } = Draws.Hash(Name);

    /// <summary>A number of a copy: how well it is known is doubt, what varies from move to move is drawn anew at each.</summary>
    public static DrawSpec Of(string name, Quantity q) =>
        new(name, q.Unit, q.Kind, q.Source, q.Value, q.BetweenRunsSd, 0, q.Min, q.Max)
        {
            EachSd = q.MoveSd,
            Dof = q.Kind is Provenance.Chosen or Provenance.Guessed ? 0 : q.Dof ?? 0,
        };
}

/// <summary>How a number of a copy could be measured, or measured better.</summary>
/// <param name="Part">Which part does it: move, sense or rig.</param>
/// <param name="Name">Key of the motion that finds it, sensor that is read, or device whose number is typed.</param>
/// <param name="Sd">How well it would be known then (SD), in the unit of the number.</param>
/// <param name="Say">What is done, in words: "Five trials of braking".</param>
/// <param name="Minutes">How long that takes.</param>
/// <param name="Zone">Of readings, the zone; else null.</param>
public sealed record Measuring(string Part, string Name, double Sd, string Say, double Minutes, string? Zone = null)
{
    /// <summary>Degrees of freedom with which it would be known then; 0 where its spread would be claimed.</summary>
    public double Dof { get; init; }

    /// <summary>How many times the number of the motion it is; of one that goes the other way round, their product.</summary>
    public double By { get; init; } = 1;

    /// <summary>True where it is the smaller the larger the number of the motion is: a speed by the time of a swing.</summary>
    public bool Inverse { get; init; }

    /// <summary>The number of the motion for a value of this one.</summary>
    public double Motion(double value) => Inverse ? By / value : value / By;

    /// <summary>How well the number of the motion is known for a value of this one.</summary>
    public double MotionSd(double value, double sd) => Math.Abs(Inverse ? By / (value * value) * sd : sd / By);

    /// <summary>SD of what a copy would draw then: of few trials Student's t is wider than their error.</summary>
    public double DrawnSd => Dof > 2 ? Sd * Math.Sqrt(Dof / (Dof - 2)) : Sd;
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

    /// <summary>Seed of the copy that has every number at its best value: nothing is drawn of what is not known well.</summary>
    public const long BestCopy = -1;

    /// <summary>How many times wider than it was found a spread is on a made-up copy: √(ν/χ²ν).</summary>
    /// <param name="spec">The number.</param>
    /// <param name="copy">Seed of the copy.</param>
    private static double Wide(DrawSpec spec, ulong copy) =>
        Math.Sqrt(spec.Dof / Stream(copy, spec.Stream ^ 0x2c1b3c6d).ChiSquared(spec.Dof));

    /// <summary>Draws all numbers of a run.</summary>
    /// <param name="specs">The numbers.</param>
    /// <param name="seed">Seed of the run: what varies from run to run.</param>
    /// <param name="copy">Seed of the copy: what is not known well; <see cref="BestCopy"/> for best values.</param>
    /// <param name="into">Where they go.</param>
    /// <param name="wide">Where it goes how many times wider than found their spreads within a run are.</param>
    public static void All(ReadOnlySpan<DrawSpec> specs, ulong seed, ulong copy, Span<double> into, Span<double> wide)
    {
        var best = (long)copy == BestCopy;
        for (var i = 0; i < specs.Length; i++)
        {
            var s = specs[i];
            wide[i] = s.Dof > 0 && !best ? Wide(s, copy) : s.Width;
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
            if (s.DoubtSd > 0 && !best)
                value += s.DoubtSd * wide[i] * Math.Clamp(Stream(copy, s.Stream ^ 0x5bd1e995).Normal(), -3, 3);
            if (s.ChanceSd > 0)
                value += s.ChanceSd * Math.Clamp(Stream(seed, s.Stream).Normal(), -3, 3);
            into[i] = Math.Clamp(value, s.Min, s.Max);
        }
    }
}
