using Chiton.Core.Quantities;

namespace Chiton.Core.Simulation;

/// <summary>How a line's edge is followed.</summary>
public enum Following
{
    /// <summary>Two levels: turn one way over dark, the other over bright.</summary>
    TwoLevel,

    /// <summary>Three bands: straight on in the middle one.</summary>
    ThreeBand,

    /// <summary>Wheel speeds in proportion to the reading.</summary>
    Proportional,
}

/// <summary>What a trace needs to know.</summary>
/// <param name="SpeedMmPerS">Speed along the line, mm/s, more than 0.</param>
/// <param name="TurnMmPerS">By how much the wheels differ from it while switching, mm/s, more than 0.</param>
/// <param name="Kp">Proportional gain: % of wheel speed for each % of reading.</param>
/// <param name="MaxWheelMmPerS">Wheel speed at 100 %, mm/s.</param>
/// <param name="TrackMm">Track width, mm.</param>
/// <param name="AheadMm">Sensor ahead of the axle, mm.</param>
/// <param name="SpotMm">Diameter of the spot it sees, mm.</param>
/// <param name="Dark">Reading over the line, %.</param>
/// <param name="Bright">Reading over the ground, %.</param>
/// <param name="NoiseSd">SD of a reading, %.</param>
/// <param name="PeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count when switching, 1 or more.</param>
/// <param name="DelayMs">From the decision to the motors obeying, ms.</param>
/// <param name="LineWidthMm">Width of the line, mm.</param>
/// <param name="BendMm">Radius of its bends, mm.</param>
public sealed record LineTraceInput(
    double SpeedMmPerS,
    double TurnMmPerS,
    double Kp,
    double MaxWheelMmPerS,
    double TrackMm,
    double AheadMm,
    double SpotMm,
    double Dark,
    double Bright,
    double NoiseSd,
    double PeriodMs,
    int ReadingsNeeded,
    double DelayMs,
    double LineWidthMm,
    double BendMm
);

/// <summary>A simulated drive along a line.</summary>
/// <param name="Kind">How it followed.</param>
/// <param name="AlongMm">Way along the line, mm.</param>
/// <param name="OffMm">Sensor right of the line's right edge, mm, at each of these.</param>
/// <param name="RmsMm">Root mean square of that, mm.</param>
/// <param name="MostMm">Greatest, mm.</param>
/// <param name="SwingDegPerS">How much it swings: root mean square of its turn rate beyond what the bend asks, degrees a second.</param>
/// <param name="LostAtMm">Where it lost the line; null when it kept it to the end.</param>
/// <param name="TookS">How long it took to the end, or until lost, s.</param>
public sealed record LineTrace(
    Following Kind,
    IReadOnlyList<double> AlongMm,
    IReadOnlyList<double> OffMm,
    double RmsMm,
    double MostMm,
    double SwingDegPerS,
    double? LostAtMm,
    double TookS
);

/// <summary>
/// A small simulation of a two-wheel drive that follows the right edge of a line: straight, a bend to the right, one to
/// the left, and straight again. Rolling without slip; the spot sees the area-weighted mix of line and ground.
/// </summary>
public static class LineTracer
{
    /// <summary>Length of each of its four pieces, mm.</summary>
    public const double Piece = 350;

    private const double Step = 0.001;

    /// <summary>Drives once.</summary>
    /// <param name="kind">How it follows.</param>
    /// <param name="input">What it needs to know.</param>
    /// <param name="seed">Same seed, same drive.</param>
    public static LineTrace Run(Following kind, LineTraceInput input, ulong seed)
    {
        var noise = new RandomStream(seed, 80);
        var (lineX, lineY, lineH) = Line(input.BendMm);
        var at = 0;
        // It begins with the sensor on the edge, pointing along it.
        double x = -input.AheadMm,
            y = 0,
            heading = 0,
            t = 0,
            nextSample = 0;
        double left = input.SpeedMmPerS,
            right = input.SpeedMmPerS;
        var pending = new Queue<(double Due, double Left, double Right)>();
        double threshold = (input.Dark + input.Bright) / 2,
            low = input.Dark + (input.Bright - input.Dark) / 3,
            high = input.Bright - (input.Bright - input.Dark) / 3;
        int zone = 1,
            candidate = 1,
            row = 0;
        double sum = 0,
            most = 0,
            swing = 0,
            lastKept = -10;
        var count = 0;
        List<double> along = [],
            off = [];
        double? lost = null;
        var limit = 6 * 4 * Piece / input.SpeedMmPerS;
        while (at < lineX.Length - 1)
        {
            var (sx, sy) = (x + input.AheadMm * Math.Cos(heading), y + input.AheadMm * Math.Sin(heading));
            while (at < lineX.Length - 1 && Near(at + 1, sx, sy) <= Near(at, sx, sy))
                at++;
            // Right of the edge is positive: y grows to the right.
            var e = -(sx - lineX[at]) * Math.Sin(lineH[at]) + (sy - lineY[at]) * Math.Cos(lineH[at]);
            sum += e * e;
            count++;
            most = Math.Max(most, Math.Abs(e));
            if (at - lastKept >= 4)
            {
                along.Add(at);
                off.Add(e);
                lastKept = at;
            }
            if (Math.Abs(e) > 2.5 * Math.Max(input.LineWidthMm, input.SpotMm) || t > limit)
            {
                lost = at;
                break;
            }
            if (t >= nextSample)
            {
                nextSample += input.PeriodMs / 1000;
                // Bright right of the edge, dark on the line, and bright again beyond its left edge.
                var dark = Share(-e / input.SpotMm) - Share((-e - input.LineWidthMm) / input.SpotMm);
                var reading = input.Bright + (input.Dark - input.Bright) * dark + input.NoiseSd * noise.Normal();
                double steer;
                if (kind == Following.Proportional)
                    steer = -input.Kp / 100 * input.MaxWheelMmPerS * (reading - threshold);
                else
                {
                    var seen =
                        kind == Following.TwoLevel ? ((reading < threshold) == (input.Dark < input.Bright) ? 0 : 2)
                        : (reading < low) == (input.Dark < input.Bright) ? 0
                        : (reading < high) == (input.Dark < input.Bright) ? 1
                        : 2;
                    row = seen == candidate ? row + 1 : 1;
                    candidate = seen;
                    if (row >= input.ReadingsNeeded)
                        zone = seen;
                    steer = zone switch
                    {
                        0 => input.TurnMmPerS,
                        2 => -input.TurnMmPerS,
                        _ => 0,
                    };
                }
                var most_ = input.MaxWheelMmPerS;
                pending.Enqueue(
                    (
                        t + input.DelayMs / 1000,
                        Math.Clamp(input.SpeedMmPerS + steer, -most_, most_),
                        Math.Clamp(input.SpeedMmPerS - steer, -most_, most_)
                    )
                );
            }
            while (pending.Count > 0 && pending.Peek().Due <= t + 1e-9)
                (_, left, right) = pending.Dequeue();
            var v = (left + right) / 2;
            var w = (left - right) / input.TrackMm;
            var asked = v * Curve(at, input.BendMm);
            swing += (w - asked) * (w - asked);
            x += v * Math.Cos(heading + w * Step / 2) * Step;
            y += v * Math.Sin(heading + w * Step / 2) * Step;
            heading += w * Step;
            t += Step;
        }
        return new(
            kind,
            along,
            off,
            Math.Sqrt(sum / Math.Max(1, count)),
            most,
            Math.Sqrt(swing / Math.Max(1, count)) * 180 / Math.PI,
            lost,
            t
        );

        double Near(int i, double px, double py) => (px - lineX[i]) * (px - lineX[i]) + (py - lineY[i]) * (py - lineY[i]);
    }

    /// <summary>Share of a round spot of diameter 1 that lies beyond a straight edge, by how far its middle is beyond it.</summary>
    public static double Share(double d)
    {
        if (d <= -0.5)
            return 0;
        if (d >= 0.5)
            return 1;
        return 0.5 + (2 * d * Math.Sqrt(1 - 4 * d * d) + Math.Asin(2 * d)) / Math.PI;
    }

    private static double Curve(int at, double bend) =>
        (int)(at / Piece) switch
        {
            1 => 1 / bend,
            2 => -1 / bend,
            _ => 0,
        };

    // A point each millimetre: place and direction.
    private static (double[] X, double[] Y, double[] H) Line(double bend)
    {
        var n = (int)(4 * Piece);
        double[] xs = new double[n],
            ys = new double[n],
            hs = new double[n];
        double x = 0,
            y = 0,
            h = 0;
        for (var i = 0; i < n; i++)
        {
            (xs[i], ys[i], hs[i]) = (x, y, h);
            var curve = Curve(i, bend);
            x += Math.Cos(h + curve / 2);
            y += Math.Sin(h + curve / 2);
            h += curve;
        }
        return (xs, ys, hs);
    }
}
