using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>edge-guard</c>. Ahead of the foremost wheel contact is positive; right is positive.</summary>
/// <param name="SensorAheadMm">How far the sensors lie ahead of the foremost wheel contact, mm.</param>
/// <param name="SensorOffsetsMm">How far right of the middle each sensor lies, mm; one or more.</param>
/// <param name="HalfTrackMm">From the middle to a wheel, mm.</param>
/// <param name="ApproachAngleMaxDeg">Steepest angle to the edge's normal, 0 to 90°.</param>
/// <param name="SpeedMmPerS">Speed, mm/s.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count, 1 or more.</param>
/// <param name="ActuatorDelayMs">From the decision to the motor obeying, ms.</param>
/// <param name="DecelMmPerS2">Deceleration when braked, mm/s².</param>
/// <param name="SpotDiameterMm">Spot that must lie beyond the edge as a whole, mm; 0 when left out.</param>
/// <param name="DecelSdPercent">How much braking varies from stop to stop (SD), %; 0 when left out.</param>
public sealed record EdgeGuardInput(
    double? SensorAheadMm,
    IReadOnlyList<double>? SensorOffsetsMm,
    double? HalfTrackMm,
    double? ApproachAngleMaxDeg,
    double? SpeedMmPerS,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? ActuatorDelayMs,
    double? DecelMmPerS2,
    double? SpotDiameterMm = null,
    double? DecelSdPercent = null
);

/// <summary>Result of the sum <c>edge-guard</c>.</summary>
/// <param name="StopDistanceMm">Way from the sensor crossing the edge to rest, mm.</param>
/// <param name="HeadOnMarginMm">What is left before the wheel when the edge is met head on, mm.</param>
/// <param name="WorstMarginMm">The least margin at any angle, mm; negative when a wheel leaves.</param>
/// <param name="WorstAngleDeg">The angle of that, magnitude, deg.</param>
/// <param name="MaxSafeSpeedMmPerS">Greatest speed with no negative margin; null when there is none.</param>
public sealed record EdgeGuardResult(
    double StopDistanceMm,
    double HeadOnMarginMm,
    double WorstMarginMm,
    double WorstAngleDeg,
    double? MaxSafeSpeedMmPerS
)
{
    /// <summary>The margin at angles from one side to the other, for the picture.</summary>
    public IReadOnlyList<EdgeMargin> Margins { get; init; } = [];
}

/// <summary>The margin at one angle of approach.</summary>
/// <param name="AngleDeg">Angle to the edge's normal, deg, right positive.</param>
/// <param name="MarginMm">What is left before the nearest wheel, mm.</param>
public sealed record EdgeMargin(double AngleDeg, double MarginMm);

/// <summary>Working on a table and never falling.</summary>
public static class EdgeGuard
{
    /// <summary>
    /// The margin at an angle of approach: the foremost sensor's way to the edge along its normal, less the stopping way
    /// and the reach of the wheel on the near side. Source: geometry.
    /// </summary>
    /// <param name="aheadMm">Sensors ahead of the foremost wheel contact, mm.</param>
    /// <param name="offsetsMm">Each sensor's place to the right, mm.</param>
    /// <param name="halfTrackMm">From the middle to a wheel, mm.</param>
    /// <param name="stopMm">Stopping way, mm.</param>
    /// <param name="angleDeg">Angle to the edge's normal, deg, right positive.</param>
    public static double Margin(double aheadMm, IReadOnlyList<double> offsetsMm, double halfTrackMm, double stopMm, double angleDeg)
    {
        var (sin, cos) = Math.SinCos(angleDeg * Math.PI / 180);
        var foremost = double.NegativeInfinity;
        foreach (var y in offsetsMm)
            foremost = Math.Max(foremost, aheadMm * cos + y * sin);
        return foremost - stopMm * cos - halfTrackMm * Math.Abs(sin);
    }

    /// <summary>The least margin over all angles up to a steepest one, and where it is.</summary>
    private static (double Margin, double AngleDeg) Worst(
        double ahead,
        IReadOnlyList<double> offsets,
        double half,
        double stop,
        double maxDeg
    )
    {
        var worst = (Margin: Margin(ahead, offsets, half, stop, 0), Angle: 0.0);
        foreach (var side in new[] { 1, -1 })
        {
            // On one side one sensor leads throughout, so the margin is A·cos φ + B·sin φ: least at an end, or at its own trough.
            var a = ahead - stop;
            var b = offsets.Max(y => side * y) - half;
            var trough = Math.Atan2(-b, -a) * 180 / Math.PI;
            foreach (var angle in new[] { maxDeg, trough })
            {
                if (angle < 0 || angle > maxDeg)
                    continue;
                var margin = Margin(ahead, offsets, half, stop, side * angle);
                if (margin < worst.Margin)
                    worst = (margin, angle);
            }
        }
        return worst;
    }

    /// <summary>Computes the sum. The eye must see the drop with its whole spot, which costs half of it, and braking is taken two SDs
    /// worse than usual. Source: geometry; braking by v²/2a.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<EdgeGuardResult> Compute(EdgeGuardInput input)
    {
        var need = new Require();
        var ahead = need.Number(input.SensorAheadMm, "sensorAheadMm", -1e5, 1e5);
        var offsets = input.SensorOffsetsMm ?? [];
        need.That(offsets.Count is >= 1 and <= 100, "sensorOffsetsMm", "Give one to 100 sensors.");
        for (var i = 0; i < Math.Min(100, offsets.Count); i++)
            need.Number(offsets[i], $"sensorOffsetsMm[{i}]", -1e5, 1e5);
        var half = need.Number(input.HalfTrackMm, "halfTrackMm", 0, 1e5);
        var maxAngle = need.Number(input.ApproachAngleMaxDeg, "approachAngleMaxDeg", 0, 90);
        var v = need.Number(input.SpeedMmPerS, "speedMmPerS", 0, 1e6, aboveMin: true);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var d = need.Number(input.ActuatorDelayMs, "actuatorDelayMs", 0, 1e7) / 1000;
        var decel = need.Number(input.DecelMmPerS2, "decelMmPerS2", 0, 1e9, aboveMin: true);
        var spot = need.Number(input.SpotDiameterMm ?? 0, "spotDiameterMm", 0, 1e5);
        var vary = need.Number(input.DecelSdPercent ?? 0, "decelSdPercent", 0, 1000);
        need.Done();
        var mounted = ahead;
        ahead -= spot / 2;
        var worse = 1 + 2 * vary / 100;
        double Stop(double speed) => speed * (n * t + d) + speed * speed / (2 * decel) * worse;
        var stop = Stop(v);
        var headOn = ahead - stop;
        var (worst, angle) = Worst(ahead, offsets, half, stop, maxAngle);
        double? safe = null;
        if (Worst(ahead, offsets, half, 0, maxAngle).Margin >= 0 && ahead > 0)
        {
            // The margin falls as the stopping way grows, and head on it is gone once that way reaches the sensors: halve in between.
            double low = 0,
                high = Math.Sqrt(2 * decel * ahead / worse);
            for (var i = 0; i < 100; i++)
            {
                var middle = (low + high) / 2;
                if (Worst(ahead, offsets, half, Stop(middle), maxAngle).Margin >= 0)
                    low = middle;
                else
                    high = middle;
            }
            if (low > 1e-9)
                safe = low;
        }
        var steps = new List<Step>();
        if (spot > 0)
            steps.Add(new("Ahead, once the whole spot sees the drop", $"{Show(mounted)} − {Show(spot)} / 2", ahead, "mm"));
        steps.AddRange([
            new(
                "Way from noticing to rest",
                $"{Show(v)} × ({n} × {Show(t)} + {Show(d)}) + {Show(v)}² / (2 × {Show(decel)})"
                    + (vary > 0 ? $" × (1 + 2 × {Show(vary / 100)})" : ""),
                stop,
                "mm"
            ),
            new("Left before the wheel, head on", $"{Show(ahead)} − {Show(stop)}", headOn, "mm"),
            new(
                $"Left before the wheel, at {Show(angle)}°",
                $"foremost sensor − {Show(stop)} × cos {Show(angle)}° − {Show(half)} × sin {Show(angle)}°",
                worst,
                "mm"
            ),
        ]);
        if (safe is { } s)
            steps.Add(new("Fastest speed at which no wheel leaves", "where the least margin is 0", s, "mm/s"));
        var (grade, say) =
            worst < 0
                ? (
                    Grade.Unusable,
                    safe is { } ok
                        ? $"A wheel leaves the table at {Show(angle)}°. Stay below {Show(ok, 3)} mm/s."
                        : $"A wheel leaves the table at {Show(angle)}° before any sensor sees the edge, at every speed. Mount sensors "
                            + "farther out, in front of the wheels."
                )
            : worst < 5 ? (Grade.Fragile, $"Only {Show(worst, 2)} mm are left at {Show(angle)}°.")
            : (Grade.Solid, $"At least {Show(worst, 3)} mm are left at every angle.");
        EdgeMargin[] margins =
        [
            .. Enumerable.Range(-6, 13).Select(i => new EdgeMargin(i * maxAngle / 6, Margin(ahead, offsets, half, stop, i * maxAngle / 6))),
        ];
        return new(
            new(stop, headOn, worst, angle, safe) { Margins = margins },
            steps,
            ["A robot that falls from a table hits feet: keep a hand near and the edge away from people."],
            new(grade, say)
        );
    }
}

/// <summary>Input of the sum <c>push-over</c>, all ahead of the foremost wheel contact, mm.</summary>
/// <param name="SensorAheadMm">The edge sensor.</param>
/// <param name="BumperAheadMm">The bumper that pushes.</param>
/// <param name="ObjectRadiusMm">Radius of what is pushed.</param>
/// <param name="StopDistanceMm">Way from noticing the edge to rest.</param>
/// <param name="StopSpreadMm">How much that way varies to each side; 0 when left out.</param>
/// <param name="MarginMm">What should be left to each side; 5 when left out.</param>
public sealed record PushOverInput(
    double? SensorAheadMm,
    double? BumperAheadMm,
    double? ObjectRadiusMm,
    double? StopDistanceMm,
    double? StopSpreadMm = null,
    double? MarginMm = null
);

/// <summary>Result of the sum <c>push-over</c>.</summary>
/// <param name="ExtraForwardMinMm">Least way to go on so that the object tips, mm.</param>
/// <param name="ExtraForwardMaxMm">Greatest way to go on so that no wheel leaves, mm.</param>
public sealed record PushOverResult(double ExtraForwardMinMm, double ExtraForwardMaxMm);

/// <summary>Pushing something over an edge without following it.</summary>
public static class PushOver
{
    /// <summary>Computes the sum. Source: geometry.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<PushOverResult> Compute(PushOverInput input)
    {
        var need = new Require();
        var sensor = need.Number(input.SensorAheadMm, "sensorAheadMm", -1e5, 1e5);
        var bumper = need.Number(input.BumperAheadMm, "bumperAheadMm", -1e5, 1e5);
        var radius = need.Number(input.ObjectRadiusMm, "objectRadiusMm", 0, 1e5, aboveMin: true);
        var stop = need.Number(input.StopDistanceMm, "stopDistanceMm", 0, 1e6);
        var spread = need.Number(input.StopSpreadMm ?? 0, "stopSpreadMm", 0, 1e6);
        var margin = need.Number(input.MarginMm ?? 5, "marginMm", 0, 1e5);
        need.Done();
        var least = Math.Max(0, sensor - bumper - radius - (stop - spread));
        var most = sensor - (stop + spread);
        var (shortest, longest) =
            spread > 0 ? ($"({Show(stop)} − {Show(spread)})", $"({Show(stop)} + {Show(spread)})") : (Show(stop), Show(stop));
        var steps = new List<Step>
        {
            new("So that it tips", $"max(0, {Show(sensor)} − {Show(bumper)} − {Show(radius)} − {shortest})", least, "mm"),
            new("So that no wheel leaves", $"{Show(sensor)} − {longest}", most, "mm"),
            new("The middle", $"({Show(least)} + {Show(most)}) / 2", (least + most) / 2, "mm"),
        };
        var verdict =
            most < 0
                ? new Verdict(
                    Grade.Unusable,
                    "A wheel leaves the table before the robot stands. Go slower or mount the sensor farther ahead."
                )
            : most < least ? new(Grade.Unusable, "A wheel leaves before the object tips. Mount the bumper farther ahead.")
            : most - least < 2 * margin
                ? new(
                    Grade.Fragile,
                    $"Go on by {Show((least + most) / 2, 3)} mm after the stop; "
                        + $"only {Show((most - least) / 2, 2)} mm are left to each side."
                )
            : new(
                Grade.Solid,
                $"Go on by {Show((least + most) / 2, 3)} mm after the stop: anything from {Show(least, 3)} to {Show(most, 3)} mm does."
            );
        return new(new(least, most), steps, [], verdict);
    }
}
