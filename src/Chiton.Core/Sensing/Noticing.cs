using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>sweep</c>.</summary>
/// <param name="TargetWidthMm">Width of the target, mm.</param>
/// <param name="RangeMm">Distance to it, mm.</param>
/// <param name="BeamHalfAngleDeg">Half the beam's angle, 0 up to but not including 90°.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count, 1 or more.</param>
/// <param name="TurnRateDegPerS">How fast the robot turns, deg/s; may be left out.</param>
/// <param name="SensorAheadMm">Sensor ahead of the turning axis, mm; 0 when left out.</param>
/// <param name="ActuatorDelayMs">From the decision to the motors obeying, ms; 0 when left out.</param>
/// <param name="BrakingDeg">How far the robot turns while it brakes, deg; 0 when left out.</param>
public sealed record SweepInput(
    double? TargetWidthMm,
    double? RangeMm,
    double? BeamHalfAngleDeg,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? TurnRateDegPerS = null,
    double? SensorAheadMm = null,
    double? ActuatorDelayMs = null,
    double? BrakingDeg = null
);

/// <summary>Result of the sum <c>sweep</c>.</summary>
/// <param name="VisibleArcDeg">Arc of headings from which the target is seen, robot deg.</param>
/// <param name="MaxTurnRateDegPerS">Fastest turn that gives the readings needed.</param>
/// <param name="ReadingsGuaranteed">Readings on the target whatever the phase; null without a turn rate.</param>
/// <param name="ExtraTurnDeg">How far before facing the target it stands once it has noticed it, on average; negative when it is past it;
/// null without a turn rate.</param>
public sealed record SweepResult(double VisibleArcDeg, double MaxTurnRateDegPerS, int? ReadingsGuaranteed, double? ExtraTurnDeg);

/// <summary>Turning and still noticing.</summary>
public static class Sweep
{
    /// <summary>Computes the sum. Source: geometry of a beam and a flat target.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<SweepResult> Compute(SweepInput input)
    {
        var need = new Require();
        var width = need.Number(input.TargetWidthMm, "targetWidthMm", 0, 1e6, aboveMin: true);
        var range = need.Number(input.RangeMm, "rangeMm", 0, 1e6, aboveMin: true);
        var half = need.Number(input.BeamHalfAngleDeg, "beamHalfAngleDeg", 0, 90);
        need.That(!(half >= 90), "beamHalfAngleDeg", "Must be a number 0 or more and below 90.");
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var rate = need.Optional(input.TurnRateDegPerS, "turnRateDegPerS", 0, 1e6, aboveMin: true);
        var ahead = need.Number(input.SensorAheadMm ?? 0, "sensorAheadMm", 0, 1e5);
        var delay = need.Number(input.ActuatorDelayMs ?? 0, "actuatorDelayMs", 0, 1e7) / 1000;
        var braking = need.Number(input.BrakingDeg ?? 0, "brakingDeg", 0, 1e5);
        need.Done();
        var side = Math.Atan(width / (2 * range)) * 180 / Math.PI;
        // A sensor ahead of the axis goes sideways as it turns, and so sweeps more than the robot turns.
        var arc = 2 * (half + side) * range / (range + ahead);
        var most = arc / (n * t);
        var steps = new List<Step>
        {
            new("Half the target as an angle", $"atan({Show(width)} / (2 × {Show(range)}))", side, "robot deg"),
            new(
                "Arc from which it is seen",
                $"2 × ({Show(half)} + {Show(side)})" + (ahead > 0 ? $" × {Show(range)} / ({Show(range)} + {Show(ahead)})" : ""),
                arc,
                "robot deg"
            ),
            new($"Fastest turn for {Count(n, "reading")}", $"{Show(arc)} / ({n} × {Show(t)} s)", most, "deg/s"),
        };
        if (rate is not { } r)
            return new(new(arc, most, null, null), steps, [], null);
        var readings = (int)Math.Min(int.MaxValue, Math.Floor(arc / (r * t) + 1e-9));
        var extra = arc / 2 - r * ((n - 0.5) * t + delay) - braking;
        steps.Add(new("Readings on the target", $"⌊{Show(arc)} / ({Show(r)} × {Show(t)})⌋", readings, "readings"));
        steps.Add(
            new(
                "Noticed, and stood, this far before facing it",
                delay > 0 || braking > 0
                    ? $"{Show(arc)} / 2 − {Show(r)} × ({Show(n - 0.5)} × {Show(t)} + {Show(delay)}) − {Show(braking)}"
                    : $"{Show(arc)} / 2 − {Show(r)} × {Show(n - 0.5)} × {Show(t)}",
                extra,
                "robot deg"
            )
        );
        var grade =
            readings < n ? Grade.Unusable
            : readings < 2 * n ? Grade.Fragile
            : readings < 3 * n ? Grade.Workable
            : Grade.Solid;
        var say =
            grade == Grade.Unusable
                ? $"Too fast: {Count(readings, "reading")} of {n} needed. Turn below {Show(most, 3)} deg/s."
                : $"{Count(readings, "reading")} on the target, {n} needed.";
        return new(
            new(arc, most, readings, extra),
            steps,
            extra > 0
                    ?
                    [
                        $"It is noticed {Show(extra, 3)} robot deg before the robot faces it: turn on that far, or driving off at "
                            + "once misses it.",
                    ]
                : extra < 0 ? [$"By then it is {Show(-extra, 3)} robot deg past the target: turn back that far, or turn slower."]
                : [],
            new(grade, say)
        );
    }
}

/// <summary>Input of the sum <c>stop-distance</c>.</summary>
/// <param name="ApproachSpeedMmPerS">Speed of approach, mm/s.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count, 1 or more.</param>
/// <param name="ActuatorDelayMs">From the decision to the motor obeying, ms.</param>
/// <param name="SensorDelayMs">From the fact to the reading, ms.</param>
/// <param name="TargetGapMm">Gap to be left, mm.</param>
/// <param name="DecelMmPerS2">Deceleration when braked, mm/s²; or else</param>
/// <param name="CoastTimeConstantMs">the time constant of coasting, ms.</param>
/// <param name="NoiseSdMm">SD of one distance reading, mm.</param>
/// <param name="BlindZoneMm">Nearer than this the sensor tells nothing, mm.</param>
/// <param name="DecelSdPercent">How much braking varies from stop to stop (SD), %; 0 when left out.</param>
public sealed record StopDistanceInput(
    double? ApproachSpeedMmPerS,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? ActuatorDelayMs,
    double? TargetGapMm,
    double? SensorDelayMs = null,
    double? DecelMmPerS2 = null,
    double? CoastTimeConstantMs = null,
    double? NoiseSdMm = null,
    double? BlindZoneMm = null,
    double? DecelSdPercent = null
);

/// <summary>Result of the sum <c>stop-distance</c>, all in mm.</summary>
/// <param name="ReactionMinMm">Least way until it begins to stop.</param>
/// <param name="ReactionMaxMm">Greatest way until it begins to stop.</param>
/// <param name="BrakingMm">Way from then to rest.</param>
/// <param name="TriggerDistanceMm">Distance at which to trigger.</param>
/// <param name="GapLowMm">Least gap left.</param>
/// <param name="GapHighMm">Greatest gap left.</param>
public sealed record StopDistanceResult(
    double ReactionMinMm,
    double ReactionMaxMm,
    double BrakingMm,
    double TriggerDistanceMm,
    double GapLowMm,
    double GapHighMm
);

/// <summary>Stopping short of something.</summary>
public static class StopDistance
{
    /// <summary>Computes the sum. Source: uniform motion during reaction, braking by v²/2a or v·τ.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<StopDistanceResult> Compute(StopDistanceInput input)
    {
        var need = new Require();
        var v = need.Number(input.ApproachSpeedMmPerS, "approachSpeedMmPerS", 0, 1e6, aboveMin: true);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var d =
            (need.Number(input.ActuatorDelayMs, "actuatorDelayMs", 0, 1e7) + need.Number(input.SensorDelayMs ?? 0, "sensorDelayMs", 0, 1e7))
            / 1000;
        var gap = need.Number(input.TargetGapMm, "targetGapMm", 0, 1e6, aboveMin: true);
        var decel = need.Optional(input.DecelMmPerS2, "decelMmPerS2", 0, 1e9, aboveMin: true);
        var coast = need.Optional(input.CoastTimeConstantMs, "coastTimeConstantMs", 0, 1e7, aboveMin: true);
        var noise = need.Number(input.NoiseSdMm ?? 0, "noiseSdMm", 0, 1e6);
        var blind = need.Number(input.BlindZoneMm ?? 0, "blindZoneMm", 0, 1e6);
        var vary = need.Number(input.DecelSdPercent ?? 0, "decelSdPercent", 0, 1000) / 100;
        need.That(
            input.DecelMmPerS2 is not null ^ input.CoastTimeConstantMs is not null,
            "decelMmPerS2",
            "Give exactly one of decelMmPerS2 and coastTimeConstantMs."
        );
        need.Done();
        var low = v * ((n - 1) * t + d);
        var high = v * (n * t + d);
        var braking = decel is { } a ? v * v / (2 * a) : v * coast!.Value / 1000;
        var trigger = gap + braking + (low + high) / 2;
        var spread = (high - low) / 2 + 2 * Math.Sqrt(noise * noise + braking * vary * (braking * vary));
        var wobble = vary > 0 ? $"√({Show(noise)}² + ({Show(braking)} × {Show(vary)})²)" : Show(noise);
        double gapLow = gap - spread,
            gapHigh = gap + spread;
        var steps = new List<Step>
        {
            new("Least way before it reacts", $"{Show(v)} × ({n - 1} × {Show(t)} + {Show(d)})", low, "mm"),
            new("Greatest way before it reacts", $"{Show(v)} × ({n} × {Show(t)} + {Show(d)})", high, "mm"),
            decel is { } a2
                ? new("Braking", $"{Show(v)}² / (2 × {Show(a2)})", braking, "mm")
                : new("Coasting", $"{Show(v)} × {Show(coast!.Value / 1000)} s", braking, "mm"),
            new("Trigger at", $"{Show(gap)} + {Show(braking)} + {Show((low + high) / 2)}", trigger, "mm"),
            new("Gap left, at least", $"{Show(gap)} − {Show((high - low) / 2)} − 2 × {wobble}", gapLow, "mm"),
            new("Gap left, at most", $"{Show(gap)} + {Show((high - low) / 2)} + 2 × {wobble}", gapHigh, "mm"),
        };
        var (grade, say) =
            trigger - v * n * t < blind
                ? (
                    Grade.Unusable,
                    $"By the time {Count(n, "reading")} {(n == 1 ? "is" : "are")} in, it is within the blind zone of {Show(blind)} mm "
                        + "and sees nothing."
                )
            : gapLow <= 0 ? (Grade.Unusable, "It can run into what it should stop before. Go slower or leave a wider gap.")
            : gapLow < blind
                ? (Grade.Fragile, $"It can come to rest within the blind zone of {Show(blind)} mm, where the sensor tells nothing.")
            : gapHigh - gapLow > gap / 2
                ? (Grade.Workable, $"The gap varies by {Show(gapHigh - gapLow, 3)} mm, more than half of what is wanted.")
            : (Grade.Solid, $"It stops {Show(gapLow, 3)} to {Show(gapHigh, 3)} mm before it.");
        return new(new(low, high, braking, trigger, gapLow, gapHigh), steps, [], new(grade, say));
    }
}

/// <summary>Input of the sum <c>reaction</c>.</summary>
/// <param name="ObjectSpeedMmPerS">Speed of what comes, mm/s.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count, 1 or more.</param>
/// <param name="ActuatorDelayMs">From the decision to the actuator obeying, ms.</param>
/// <param name="ActuatorTravelDeg">How far it must move, deg.</param>
/// <param name="ActuatorDegPerS">How fast it moves, deg/s.</param>
/// <param name="SensorDelayMs">From the fact to the reading, ms; 0 when left out.</param>
public sealed record ReactionInput(
    double? ObjectSpeedMmPerS,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? ActuatorDelayMs,
    double? ActuatorTravelDeg,
    double? ActuatorDegPerS,
    double? SensorDelayMs = null
);

/// <summary>Result of the sum <c>reaction</c>.</summary>
/// <param name="ResponseS">From arrival in view to the move done, s.</param>
/// <param name="MustNoticeAtMm">How far off it must be noticed, mm.</param>
public sealed record ReactionResult(double ResponseS, double MustNoticeAtMm);

/// <summary>How early a lid must notice.</summary>
public static class Reaction
{
    /// <summary>Computes the sum. Source: times in a row.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<ReactionResult> Compute(ReactionInput input)
    {
        var need = new Require();
        var v = need.Number(input.ObjectSpeedMmPerS, "objectSpeedMmPerS", 0, 1e6, aboveMin: true);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var d =
            (need.Number(input.ActuatorDelayMs, "actuatorDelayMs", 0, 1e7) + need.Number(input.SensorDelayMs ?? 0, "sensorDelayMs", 0, 1e7))
            / 1000;
        var travel = need.Number(input.ActuatorTravelDeg, "actuatorTravelDeg", 0, 1e6);
        var speed = need.Number(input.ActuatorDegPerS, "actuatorDegPerS", 0, 1e6, aboveMin: true);
        need.Done();
        var response = n * t + d + travel / speed;
        return new(
            new(response, v * response),
            [
                new("Time to respond", $"{n} × {Show(t)} + {Show(d)} + {Show(travel)} / {Show(speed)}", response, "s"),
                new("It must be noticed at", $"{Show(v)} × {Show(response)}", v * response, "mm"),
            ],
            [],
            null
        );
    }
}

/// <summary>Input of the sum <c>echo</c>: exactly one of the first two.</summary>
/// <param name="EchoMicros">Time from sound to echo, µs; or else</param>
/// <param name="DistanceMm">the distance, mm.</param>
/// <param name="AirTempC">Temperature of the air, °C.</param>
public sealed record EchoInput(double? EchoMicros = null, double? DistanceMm = null, double? AirTempC = null);

/// <summary>Result of the sum <c>echo</c>.</summary>
/// <param name="SoundMPerS">Speed of sound, m/s.</param>
/// <param name="DistanceMm">Distance, mm.</param>
/// <param name="EchoMicros">Time from sound to echo, µs.</param>
public sealed record EchoResult(double SoundMPerS, double DistanceMm, double EchoMicros);

/// <summary>From an echo's time to a distance, and back.</summary>
public static class Echo
{
    /// <summary>Computes the sum. Source: speed of sound in dry air as an ideal gas, 331.3 m/s at 0 °C.</summary>
    /// <exception cref="InputProblem">When a field is not finite, out of range, or not exactly one of the two is given.</exception>
    public static Answer<EchoResult> Compute(EchoInput input)
    {
        var need = new Require();
        var echo = need.Optional(input.EchoMicros, "echoMicros", 0, 1e9);
        var distance = need.Optional(input.DistanceMm, "distanceMm", 0, 1e9);
        var air = need.Number(input.AirTempC ?? 20, "airTempC", -100, 100);
        need.That(
            input.EchoMicros is not null ^ input.DistanceMm is not null,
            "echoMicros",
            "Give the time of the echo or the distance, not both."
        );
        need.Done();
        var sound = 331.3 * Math.Sqrt(1 + air / 273.15);
        var mm = distance ?? sound * echo!.Value / 2000;
        var micros = echo ?? 2000 * mm / sound;
        var steps = new List<Step> { new("Speed of sound", $"331.3 × √(1 + {Show(air)} / 273.15)", sound, "m/s") };
        steps.Add(
            echo is { } e
                ? new("There and back, so half the way", $"{Show(sound)} × {Show(e)} µs / 2", mm, "mm")
                : new("There and back, so twice the way", $"2 × {Show(mm)} mm / {Show(sound)}", micros, "µs")
        );
        return new(new(sound, mm, micros), steps, [], null);
    }
}
