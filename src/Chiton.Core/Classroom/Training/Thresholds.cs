using Chiton.Core.Quantities;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Dist = MathNet.Numerics.Distributions.Normal;

namespace Chiton.Core.Classroom.Training;

/// <summary>Exercises: where a threshold belongs.</summary>
public static class Thresholds
{
    /// <summary>Fewest readings of a zone that an exercise is made of.</summary>
    public const int Least = 8;

    /// <summary>What a threshold costs: how many readings of each zone, as normal lists of these readings' mean and spread, are taken for
    /// the other, together; 0 to 2.</summary>
    /// <param name="dots">The readings.</param>
    /// <param name="at">The threshold.</param>
    public static double Cost(DotsShown dots, double at)
    {
        var (low, high) = (Figure(dots.LowerReadings), Figure(dots.UpperReadings));
        return Dist.CDF(-low.Mean, low.Sd, -at) + Dist.CDF(high.Mean, high.Sd, at);
    }

    private static (double Mean, double Sd) Figure(IReadOnlyList<double> readings)
    {
        var mean = readings.Average();
        var sd = Math.Sqrt(readings.Sum(r => (r - mean) * (r - mean)) / (readings.Count - 1));
        return (mean, Math.Max(sd, 1e-6 * Math.Max(1, Math.Abs(mean))));
    }

    /// <summary>Makes one; null where no sensor has two zones with enough readings that can be told apart at all.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="seed">Seed of what is drawn.</param>
    public static Exercise? Make(TrainingRig rig, ulong seed)
    {
        var luck = new RandomStream(seed, 4);
        (SensorCalibration Of, ZonePair Pair)[] pairs =
        [
            .. rig
                .Copy.Calibrations.Values.Where(c => rig.Copy.Rig.Sensors.Any(s => s.Name == c.Sensor && s.Facts.View == "scalar"))
                .OrderBy(c => c.Sensor, StringComparer.Ordinal)
                .SelectMany(c => c.Pairs().Select(p => (c, p)))
                .Where(x => x.c.Kept(x.p.Lower).Count >= Least && x.c.Kept(x.p.Upper).Count >= Least)
                .Where(x => x.c.Kept(x.p.Lower).Average() < x.c.Kept(x.p.Upper).Average()),
        ];
        if (pairs.Length == 0)
            return null;
        var (calibration, pair) = pairs[luck.Below(pairs.Length)];
        var (lower, upper) = (Drawn(calibration.Kept(pair.Lower), ref luck), Drawn(calibration.Kept(pair.Upper), ref luck));
        if (lower.Average() >= upper.Average())
            return null;
        var dots = new DotsShown(calibration.Sensor, calibration.Unit, pair.Lower, pair.Upper, lower, upper, 0);
        dots = dots with { Best = Best(dots) };
        return new(
            ExerciseKind.Threshold,
            $"threshold {rig.Id} {calibration.Sensor} {pair.Lower} {string.Join(' ', lower)} {string.Join(' ', upper)}",
            rig.Name,
            $"Between {pair.Lower} and {pair.Upper} of {calibration.Sensor}: where does the threshold belong, so that as "
                + "few readings as can be are taken for the other zone?",
            [],
            []
        )
        {
            Dots = dots,
            Reason =
                "A threshold belongs nearer to the list that lies closer together: what counts is not the way to its mean, but how many "
                + "of its spreads that way is.",
        };
    }

    // As many as a class takes, and not always the same ones.
    private static double[] Drawn(IReadOnlyList<double> kept, ref RandomStream luck)
    {
        var all = kept.ToArray();
        var count = Math.Min(all.Length, Least + luck.Below(13));
        for (var i = 0; i < count; i++)
        {
            var at = i + luck.Below(all.Length - i);
            (all[i], all[at]) = (all[at], all[i]);
        }
        return all[..count];
    }

    /// <summary>The threshold of least cost between the two means: looked for step by step, then by the golden section.</summary>
    public static double Best(DotsShown dots)
    {
        var (a, b) = (dots.LowerReadings.Average(), dots.UpperReadings.Average());
        const int Steps = 200;
        var at = Enumerable.Range(0, Steps + 1).MinBy(i => Cost(dots, a + (b - a) * i / Steps));
        var (low, high) = (a + (b - a) * Math.Max(0, at - 1) / Steps, a + (b - a) * Math.Min(Steps, at + 1) / Steps);
        var golden = (Math.Sqrt(5) - 1) / 2;
        for (var i = 0; i < 60; i++)
        {
            var (left, right) = (high - golden * (high - low), low + golden * (high - low));
            if (Cost(dots, left) <= Cost(dots, right))
                high = right;
            else
                low = left;
        }
        return (low + high) / 2;
    }
}
