using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Senses;

namespace Chiton.Core.Simulation;

/// <summary>Something that can be put before a sensor on the simulated bench.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Mean">Mean reading over it; of an amount, the reading at amount 0.</param>
/// <param name="Sd">SD between readings.</param>
/// <param name="Rgb">Mean red, green and blue, for sensors of colour.</param>
/// <param name="PerAmount">What one unit of the amount adds to the reading; 0 when it has no amount.</param>
/// <param name="Lag1">How much a reading hangs on the one before, 0 to 1.</param>
/// <param name="Silent">Share of readings that hear nothing, 0 to 1.</param>
/// <param name="DriftPerMinute">How the mean moves, a minute.</param>
/// <param name="Taps">True when it is touched and let go now and then.</param>
public sealed record BenchThing(
    string Name,
    double Mean,
    double Sd,
    double[]? Rgb = null,
    double PerAmount = 0,
    double Lag1 = 0,
    double Silent = 0,
    double DriftPerMinute = 0,
    bool Taps = false
);

/// <summary>The light and quiet of the bench: what can be done about noise without another sensor.</summary>
public enum BenchCare
{
    /// <summary>As it is.</summary>
    AsItIs,

    /// <summary>Shaded, or mounted closer: about half the spread.</summary>
    Shaded,

    /// <summary>Under a flickering lamp, or shaken: half as much again.</summary>
    Flickering,
}

/// <summary>
/// The simulated bench on which readings are taken: what a sensor of each kind sees over everyday things. It stands in
/// for a real controller; the figures are invented and plausible.
/// </summary>
public static class SampleBench
{
    /// <summary>The words of a sensor that names colours, by the number it reports.</summary>
    public static IReadOnlyList<string> ColourWords => Sensing.SenseJudge.ColourWords;

    private static readonly BenchThing[] Light =
    [
        new("black card", 6, 1.2),
        new("wet slate", 14, 1.6),
        new("weathered wood", 29, 2.4),
        new("floor", 35, 3),
        new("grey card", 40, 2.2),
        new("dry sand", 47, 2.4),
        new("hand", 53, 3.5),
        new("limewash", 71, 2.2),
        new("white card", 88, 1.6),
        new("passing sun on sand", 50, 2.5, DriftPerMinute: 60),
    ];

    private static readonly BenchThing[] Room =
    [
        new("covered", 2, 0.6),
        new("hand over it", 12, 2),
        new("grey day", 44, 2.5),
        new("window light", 61, 3),
        new("lamp above", 79, 2),
        new("dusk falling", 40, 2, DriftPerMinute: -40),
    ];

    private static readonly BenchThing[] Colours =
    [
        new("table top", 0, 6, [168, 150, 122]),
        new("air, past the edge", 0, 3, [6, 6, 8]),
        new("black line", 0, 4, [26, 26, 30]),
        new("white line", 0, 6, [214, 212, 206]),
        new("red tag", 0, 7, [178, 44, 46]),
        new("yellow tag", 0, 7, [206, 178, 48]),
        new("green tag", 0, 6, [58, 138, 84]),
        new("blue tag", 0, 6, [44, 74, 156]),
        new("hand", 0, 9, [176, 128, 106]),
        new("floor", 0, 8, [120, 105, 88]),
    ];

    private static readonly BenchThing[] Distances =
    [
        new("board", 0, 1.6, PerAmount: 1),
        new("hand", 2, 4, PerAmount: 1, Silent: 0.03),
        new("slanted board", 4, 5, PerAmount: 1, Silent: 0.18),
        new("soft net", 3, 9, PerAmount: 1, Silent: 0.4),
        new("nothing in front", 0, 0, Silent: 1),
    ];

    private static readonly BenchThing[] Switches =
    [
        new("free", 0, 0),
        new("pressed", 1, 0),
        new("tapped now and then", 0, 0, Taps: true),
        new("worn contact, pressed", 1, 0, Silent: 0.06),
    ];

    private static readonly BenchThing[] Forces = [new("free", 0, 0.08), new("pressed with", 0, 0.16, PerAmount: 1)];

    private static readonly BenchThing[] Levels =
    [
        new("still water at", 140, 5, PerAmount: 7.4),
        new("splashing water at", 140, 26, PerAmount: 7.4, Lag1: 0.75),
        new("dry air", 120, 4),
        new("damp soil at", 210, 11, PerAmount: 5.1),
    ];

    private static readonly BenchThing[] Sounds =
    [
        new("quiet room", 11, 2.4),
        new("talking class", 38, 7, Lag1: 0.5),
        new("clap", 82, 5),
        new("horn", 93, 2),
    ];

    /// <summary>A surface that the rig itself names, such as the ground of its rail or a tag on it: what it looks like nobody is
    /// told.</summary>
    /// <param name="kind">Kind of the sensor that looks at it.</param>
    /// <param name="name">Name of the surface.</param>
    /// <returns>Null for a sensor that sees no surfaces.</returns>
    public static BenchThing? Surface(SensorKind kind, string name)
    {
        var look = new RandomStream(Seed("surface", name), 5);
        return SensorFacts.Of(kind).Shelf switch
        {
            BenchShelf.Surfaces => new(name, 8 + 80 * look.Uniform(), 2),
            BenchShelf.Colours => new(name, 0, 6, [30 + 190 * look.Uniform(), 30 + 190 * look.Uniform(), 30 + 190 * look.Uniform()]),
            _ => null,
        };
    }

    /// <summary>What can be put before a sensor.</summary>
    public static IReadOnlyList<BenchThing> Things(SensorKind kind) =>
        SensorFacts.Of(kind).Shelf switch
        {
            BenchShelf.None => [],
            BenchShelf.Surfaces => Light,
            BenchShelf.Room => Room,
            BenchShelf.Colours => Colours,
            BenchShelf.Distances => Distances,
            BenchShelf.Forces => Forces,
            BenchShelf.Levels => Levels,
            BenchShelf.Sounds => Sounds,
            BenchShelf.Presses => Switches,
            var shelf => throw new InvalidOperationException($"Nothing stands on the shelf {shelf}."),
        };

    /// <summary>The same thing as one copy of a sensor sees it: a little brighter or darker, a little noisier or quieter.</summary>
    /// <param name="thing">The thing.</param>
    /// <param name="seed">Same seed, same sensor.</param>
    public static BenchThing Seen(BenchThing thing, ulong seed)
    {
        var noise = new RandomStream(seed, 41);
        var gain = 1 + 0.035 * noise.Normal();
        var spread = Math.Exp(0.1 * noise.Normal());
        return thing with
        {
            Mean = thing.PerAmount > 0 || thing.Taps || thing.Mean is 0 or 1 ? thing.Mean : thing.Mean * gain,
            Sd = thing.Sd * spread,
            Rgb = thing.Rgb is null ? null : [.. thing.Rgb.Select(c => c * gain)],
        };
    }

    /// <summary>A seed from words, the same on every machine.</summary>
    public static ulong Seed(params string[] words)
    {
        var hash = 14695981039346656037UL;
        foreach (var c in string.Join('|', words))
            hash = (hash ^ c) * 1099511628211UL;
        return hash;
    }
}

/// <summary>A sensor of the simulated controller that is held over one thing. Keeps what its next reading hangs on.</summary>
public sealed class SimulatedSensor
{
    private readonly Sensor sensor;
    private readonly BenchThing seen;
    private readonly double amount;
    private readonly double spread;
    private RandomStream noise;
    private double wander;
    private int readings;
    private int left;
    private int bounce;
    private bool down;

    /// <summary>Holds a sensor over a thing.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="seen">The thing as this copy sees it.</param>
    /// <param name="amount">Its amount; ignored when it has none.</param>
    /// <param name="care">What is done about noise.</param>
    /// <param name="noise">Where its noise comes from.</param>
    public SimulatedSensor(Sensor sensor, BenchThing seen, double amount, BenchCare care, RandomStream noise)
    {
        (this.sensor, this.seen, this.amount, this.noise) = (sensor, seen, amount, noise);
        spread = care switch
        {
            BenchCare.Shaded => 0.5,
            BenchCare.Flickering => 1.5,
            _ => 1,
        };
        left = 20;
        Light = care switch
        {
            BenchCare.Shaded => "shaded",
            BenchCare.Flickering => "under a flickering lamp",
            _ => "",
        };
    }

    /// <summary>The light it is held in, in words; empty when nothing is done about it.</summary>
    public string Light { get; }

    /// <summary>Whether its readings are three numbers.</summary>
    public int Width => sensor.Facts.Width;

    /// <summary>The next reading: <see cref="Width"/> numbers into the span; NaN when it gives nothing.</summary>
    /// <param name="into">Room for them.</param>
    public void Read(Span<double> into)
    {
        var minutes = readings++ * sensor.SamplePeriodMs / 60_000;
        var facts = sensor.Facts;
        if (facts.View == "switch")
        {
            into[0] = Switch();
            return;
        }
        if (sensor.Kind == SensorKind.Colour)
        {
            ReadOnlySpan<double> means = seen.Rgb ?? [seen.Mean, seen.Mean, seen.Mean];
            var each = seen.Sd * spread;
            Response.Colour(means, [each, each, each], sensor.Resolution, facts.From, facts.To, ref noise, into);
            return;
        }
        if (sensor.Kind == SensorKind.ColourName)
        {
            var (rgb, sd) = (seen.Rgb ?? [seen.Mean, seen.Mean, seen.Mean], seen.Sd * spread);
            into[0] = Response.Word(rgb[0] + sd * noise.Normal(), rgb[1] + sd * noise.Normal(), rgb[2] + sd * noise.Normal());
            return;
        }
        var z = Response.Wander(seen.Lag1, ref wander, ref noise);
        var there =
            seen.Mean
            + seen.PerAmount * amount * (sensor.Kind == SensorKind.Probe ? (sensor.ProbeSupplyV ?? 5) / 5 : 1)
            + seen.DriftPerMinute * minutes;
        if (sensor.Kind == SensorKind.Distance)
        {
            there = Response.Heard(there, sensor.ReachMm?.Value ?? double.MaxValue, sensor.BlindMm?.Value ?? 0, seen.Silent, ref noise);
            if (double.IsNaN(there))
            {
                into[0] = sensor.SilentReading ?? double.NaN;
                return;
            }
        }
        into[0] = Response.Shown(there + seen.Sd * spread * z, sensor.Resolution, facts.From, facts.To);
    }

    // A switch closes and opens with a few flickers; a worn one lets go now and then.
    private double Switch()
    {
        if (seen.Taps && --left <= 0)
        {
            down = !down;
            bounce = Response.Bounces(sensor.SamplePeriodMs, ref noise);
            var ms = down ? 120 + 260 * noise.Uniform() : 350 + 700 * noise.Uniform();
            left = Math.Max(bounce + 2, (int)(ms / sensor.SamplePeriodMs));
        }
        var level = seen.Taps ? down : seen.Mean > 0.5;
        if (Response.Flickers(ref bounce, ref noise))
            level = !level;
        if (seen.Silent > 0 && noise.Uniform() < seen.Silent)
            level = false;
        return level ? 1 : 0;
    }
}
