using System.Text.Json.Serialization;
using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>Input of the sum <c>line-switch</c>.</summary>
/// <param name="FastMmPerS">The faster wheel, mm/s.</param>
/// <param name="SlowMmPerS">The slower wheel, mm/s.</param>
/// <param name="TrackWidthMm">Track width, mm.</param>
/// <param name="SensorAheadMm">Sensor ahead of the axle, mm.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count.</param>
/// <param name="ActuatorDelayMs">From the decision to the motors obeying, ms.</param>
public sealed record LineSwitchInput(
    double? FastMmPerS,
    double? SlowMmPerS,
    double? TrackWidthMm,
    double? SensorAheadMm,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? ActuatorDelayMs
);

/// <summary>Result of the sum <c>line-switch</c>.</summary>
/// <param name="SpeedMmPerS">Speed along the line, mm/s.</param>
/// <param name="TurnRateDegPerS">How fast it turns, degrees a second.</param>
/// <param name="TightestRadiusMm">The tightest curve it can follow, mm.</param>
/// <param name="WeaveMm">How far it weaves to each side, mm; null when it loses the line.</param>
/// <param name="KeepsLine">True when the sensor is far enough ahead for the delay.</param>
public sealed record LineSwitchResult(double SpeedMmPerS, double TurnRateDegPerS, double TightestRadiusMm, double? WeaveMm, bool KeepsLine);

/// <summary>Following the edge of a line by switching between two turns.</summary>
public static class LineSwitch
{
    /// <summary>Computes the sum. Source: geometry of a two-wheel drive; the delay lets it run on.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<LineSwitchResult> Compute(LineSwitchInput input)
    {
        var need = new Require();
        var fast = need.Number(input.FastMmPerS, "fastMmPerS", 0, 1e6, aboveMin: true);
        var slow = need.Number(input.SlowMmPerS, "slowMmPerS", -1e6, 1e6);
        var track = need.Number(input.TrackWidthMm, "trackWidthMm", 0, 1e5, aboveMin: true);
        var ahead = need.Number(input.SensorAheadMm, "sensorAheadMm", 0, 1e5, aboveMin: true);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var d = need.Number(input.ActuatorDelayMs, "actuatorDelayMs", 0, 1e7) / 1000;
        if (need.Holds)
        {
            need.That(slow < fast, "slowMmPerS", "Must be slower than the fast wheel.");
            need.That(fast + slow > 0, "slowMmPerS", "So far backward that it no longer goes forward.");
        }
        need.Done();
        var v = (fast + slow) / 2;
        var w = (fast - slow) / track;
        var delay = n * t + d;
        var keeps = ahead > v * delay;
        // While it is late it also drives on, so that what it has to turn back grows with what is left of the way to its sensor.
        double? weave = keeps ? ahead * w * delay * (1 + v * delay / (2 * (ahead - v * delay))) : null;
        if (weave is { } w0 && !double.IsFinite(w0))
            throw new InputProblem("sensorAheadMm", "These numbers are too far apart to give a weave.");
        return new(
            new(v, w * 180 / Math.PI, v / w, weave, keeps),
            [
                new("Speed along the line", $"({Show(fast)} + {Show(slow)}) / 2", v, "mm/s"),
                new("It turns", $"({Show(fast)} − {Show(slow)}) / {Show(track)}, in degrees", w * 180 / Math.PI, "deg/s"),
                new("Tightest curve", $"{Show(v)} / {Show(w)}", v / w, "mm"),
                new("Late by", $"{n} × {Show(t)} + {Show(d)}", delay, "s"),
                .. keeps
                    ?
                    [
                        new Step(
                            "Weave to each side",
                            $"{Show(ahead)} × {Show(w)} × {Show(delay)} × "
                                + $"(1 + {Show(v * delay)} / (2 × ({Show(ahead)} − {Show(v * delay)})))",
                            weave,
                            "mm"
                        ),
                    ]
                    : Array.Empty<Step>(),
            ],
            [],
            keeps
                ? new(Grade.Solid, $"It keeps the line and weaves {Show(weave!.Value, 2)} mm to each side.")
                : new(
                    Grade.Unusable,
                    "In the time it takes to notice, it has driven past its own sensor: slow down, or mount the sensor farther ahead."
                )
        );
    }
}

/// <summary>Input of the sum <c>line-gain</c>.</summary>
/// <param name="SpeedMmPerS">Speed along the line, mm/s.</param>
/// <param name="TrackWidthMm">Track width, mm.</param>
/// <param name="SensorAheadMm">Sensor ahead of the axle, mm.</param>
/// <param name="ContrastPercentPerMm">How the reading changes across the edge, % a mm.</param>
/// <param name="MaxWheelSpeedMmPerS">Wheel speed at 100 %, mm/s.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ActuatorDelayMs">From the decision to the motors obeying, ms.</param>
/// <param name="MotorLagMs">How long the motors take to come to speed, ms; 0 when left out.</param>
public sealed record LineGainInput(
    double? SpeedMmPerS,
    double? TrackWidthMm,
    double? SensorAheadMm,
    double? ContrastPercentPerMm,
    double? MaxWheelSpeedMmPerS,
    double? SamplePeriodMs,
    double? ActuatorDelayMs,
    double? MotorLagMs = null
);

/// <summary>Result of the sum <c>line-gain</c>.</summary>
/// <param name="K">Heading gain: turn rate for each mm off the line, rad/s a mm.</param>
/// <param name="LimitedBy">damping or delay.</param>
/// <param name="Damping">Damping of the swing about the line; about 0.7 settles fastest.</param>
/// <param name="MaxSpeedMmPerS">Above this the delay leaves too little damping, mm/s.</param>
/// <param name="Kp">Gain for the program: % of wheel speed for each % of reading.</param>
public sealed record LineGainResult(
    [property: JsonPropertyName("K")] double K,
    string LimitedBy,
    double Damping,
    double MaxSpeedMmPerS,
    double Kp
);

/// <summary>Following a line in proportion to the reading.</summary>
public static class LineGain
{
    /// <summary>Computes the sum. Source: the linearised bicycle of a sensor ahead of the axle, second order; a delay of Td allows a loop
    /// gain of about half of 1/Td.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<LineGainResult> Compute(LineGainInput input)
    {
        var need = new Require();
        var v = need.Number(input.SpeedMmPerS, "speedMmPerS", 0, 1e6, aboveMin: true);
        var track = need.Number(input.TrackWidthMm, "trackWidthMm", 0, 1e5, aboveMin: true);
        var l = need.Number(input.SensorAheadMm, "sensorAheadMm", 0, 1e5, aboveMin: true);
        var contrast = need.Number(input.ContrastPercentPerMm, "contrastPercentPerMm", 0, 1e4, aboveMin: true);
        var most = need.Number(input.MaxWheelSpeedMmPerS, "maxWheelSpeedMmPerS", 0, 1e6, aboveMin: true);
        var td =
            (
                need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true)
                + need.Number(input.ActuatorDelayMs, "actuatorDelayMs", 0, 1e7)
                + need.Number(input.MotorLagMs ?? 0, "motorLagMs", 0, 1e7)
            ) / 1000;
        need.Done();
        double damped = 1.96 * v / (l * l),
            late = 0.5 / (l * td);
        var k = Math.Min(damped, late);
        var limit = damped <= late ? "damping" : "delay";
        var damping = 0.5 * l * Math.Sqrt(k / v);
        var fastest = 0.2551 * l / td;
        var kp = k * track / (2 * (most / 100) * contrast);
        if (
            !double.IsFinite(damped)
            || !double.IsFinite(late)
            || !double.IsFinite(damping)
            || !double.IsFinite(kp)
            || !double.IsFinite(fastest)
        )
            throw new InputProblem("sensorAheadMm", "These numbers are too far apart to give a gain.");
        var verdict =
            v > 0.5 * l / td
                ? new Verdict(
                    Grade.Unusable,
                    $"Too fast for this delay: slow down below {Show(fastest, 3)} mm/s, or mount the sensor farther ahead."
                )
            : v > fastest
                ? new Verdict(Grade.Fragile, $"The delay leaves too little damping: it swings. Below {Show(fastest, 3)} mm/s it settles.")
            : v > most ? new Verdict(Grade.Unusable, $"The wheels turn at most {Show(most)} mm/s.")
            : new Verdict(Grade.Solid, $"It settles on the line; up to {Show(fastest, 3)} mm/s.");
        return new(
            new(k, limit, damping, fastest, kp),
            [
                new("Gain for a damping of 0.7", $"1.96 × {Show(v)} / {Show(l)}²", damped, "rad/s a mm"),
                new("Gain that the delay allows", $"0.5 / ({Show(l)} × {Show(td)})", late, "rad/s a mm"),
                new("The lesser, limited by the " + limit, "", k, "rad/s a mm"),
                new("Damping", $"½ × {Show(l)} × √({Show(k)} / {Show(v)})", damping, ""),
                new("Fastest speed", $"0.2551 × {Show(l)} / {Show(td)}", fastest, "mm/s"),
                new("kp", $"{Show(k)} × {Show(track)} / (2 × {Show(most / 100)} × {Show(contrast)})", kp, "% a %"),
            ],
            ["Wheel speeds are base + and − kp × (reading − set point)."],
            verdict
        );
    }
}

/// <summary>Input of the sum <c>stick-mix</c>.</summary>
/// <param name="ForwardDeg">Stick forward, degrees; negative back.</param>
/// <param name="TurnDeg">Stick to the right, degrees; negative left.</param>
/// <param name="DeadbandDeg">Within this it counts as nothing; 15 when left out.</param>
/// <param name="FullScaleDeg">At this it counts as all; 90 when left out.</param>
public sealed record StickMixInput(double? ForwardDeg, double? TurnDeg, double? DeadbandDeg = null, double? FullScaleDeg = null);

/// <summary>Result of the sum <c>stick-mix</c>.</summary>
/// <param name="LeftPercent">Left motor, %.</param>
/// <param name="RightPercent">Right motor, %.</param>
public sealed record StickMixResult(double LeftPercent, double RightPercent);

/// <summary>One stick, two motors.</summary>
public static class StickMix
{
    /// <summary>Computes the sum. Source: sum and difference of the two axes, both scaled down when one would pass full.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<StickMixResult> Compute(StickMixInput input)
    {
        var need = new Require();
        var forward = need.Number(input.ForwardDeg, "forwardDeg", -1e6, 1e6);
        var turn = need.Number(input.TurnDeg, "turnDeg", -1e6, 1e6);
        var dead = need.Number(input.DeadbandDeg ?? 15, "deadbandDeg", 0, 1e6);
        var full = need.Number(input.FullScaleDeg ?? 90, "fullScaleDeg", 0, 1e6, aboveMin: true);
        if (need.Holds)
            need.That(dead < full, "deadbandDeg", "Must be less than full scale.");
        need.Done();
        double Axis(double a) => Math.Abs(a) <= dead ? 0 : Math.Sign(a) * Math.Min(1, (Math.Abs(a) - dead) / (full - dead));
        double f = Axis(forward),
            t = Axis(turn);
        double left = f + t,
            right = f - t;
        var scale = Math.Max(1, Math.Max(Math.Abs(left), Math.Abs(right)));
        return new(
            new(100 * left / scale, 100 * right / scale),
            [
                new(
                    "Forward",
                    $"({Show(Math.Abs(forward))} − {Show(dead)}) / ({Show(full)} − {Show(dead)}), 0 inside the dead band",
                    f,
                    ""
                ),
                new("Turn", $"({Show(Math.Abs(turn))} − {Show(dead)}) / ({Show(full)} − {Show(dead)}), 0 inside the dead band", t, ""),
                new("Left, before scaling", $"{Show(f)} + {Show(t)}", left, ""),
                new("Right, before scaling", $"{Show(f)} − {Show(t)}", right, ""),
                new("Left", $"{Show(left)} / {Show(scale)}", 100 * left / scale, "%"),
                new("Right", $"{Show(right)} / {Show(scale)}", 100 * right / scale, "%"),
            ],
            [],
            null
        );
    }
}
