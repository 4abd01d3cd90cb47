using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>stop-gap</c>.</summary>
/// <param name="ApproachSpeedMmPerS">Speed of approach, mm/s.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row that count, 1 or more.</param>
/// <param name="ActuatorDelayMs">From the decision to the motor obeying, ms.</param>
/// <param name="TriggerMm">Distance at which it is told to stop, mm.</param>
/// <param name="SensorDelayMs">From the fact to the reading, ms.</param>
/// <param name="DecelMmPerS2">Deceleration when braked, mm/s²; or else</param>
/// <param name="CoastTimeConstantMs">the time constant of coasting, ms.</param>
/// <param name="NoiseSdMm">SD of one distance reading, mm.</param>
/// <param name="BlindZoneMm">Nearer than this the sensor tells nothing, mm.</param>
public sealed record StopGapInput(
    double? ApproachSpeedMmPerS,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? ActuatorDelayMs,
    double? TriggerMm,
    double? SensorDelayMs = null,
    double? DecelMmPerS2 = null,
    double? CoastTimeConstantMs = null,
    double? NoiseSdMm = null,
    double? BlindZoneMm = null
);

/// <summary>Result of the sum <c>stop-gap</c>, all in mm; below 0 it runs into what it should stop before.</summary>
/// <param name="GapMm">Gap left, in the middle.</param>
/// <param name="GapLowMm">Least gap left.</param>
/// <param name="GapHighMm">Greatest gap left.</param>
public sealed record StopGapResult(double GapMm, double GapLowMm, double GapHighMm);

/// <summary>Told to stop at a distance: what is left then. <see cref="StopDistance"/> the other way round.</summary>
public static class StopGap
{
    /// <summary>Computes the sum. Source: uniform motion during reaction, braking by v²/2a or v·τ.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<StopGapResult> Compute(StopGapInput input)
    {
        var need = new Require();
        var v = need.Number(input.ApproachSpeedMmPerS, "approachSpeedMmPerS", 0, 1e6, aboveMin: true);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var d =
            (need.Number(input.ActuatorDelayMs, "actuatorDelayMs", 0, 1e7) + need.Number(input.SensorDelayMs ?? 0, "sensorDelayMs", 0, 1e7))
            / 1000;
        var trigger = need.Number(input.TriggerMm, "triggerMm", 0, 1e6, aboveMin: true);
        var decel = need.Optional(input.DecelMmPerS2, "decelMmPerS2", 0, 1e9, aboveMin: true);
        var coast = need.Optional(input.CoastTimeConstantMs, "coastTimeConstantMs", 0, 1e7, aboveMin: true);
        var noise = need.Number(input.NoiseSdMm ?? 0, "noiseSdMm", 0, 1e6);
        var blind = need.Number(input.BlindZoneMm ?? 0, "blindZoneMm", 0, 1e6);
        need.That(
            input.DecelMmPerS2 is not null ^ input.CoastTimeConstantMs is not null,
            "decelMmPerS2",
            "Give exactly one of decelMmPerS2 and coastTimeConstantMs."
        );
        need.Done();
        var reaction = v * ((n - 0.5) * t + d);
        var braking = decel is { } a ? v * v / (2 * a) : v * coast!.Value / 1000;
        var gap = trigger - reaction - braking;
        var spread = v * t / 2 + 2 * noise;
        double low = gap - spread,
            high = gap + spread;
        var (grade, say) =
            low <= 0
                ? (
                    Grade.Unusable,
                    high <= 0
                        ? $"It runs into it: it would need {Show(-gap, 3)} mm more on average. Trigger earlier, or go slower."
                        : "It can run into what it should stop before. Trigger earlier, or go slower."
                )
            : trigger - v * n * t < blind
                ? (
                    Grade.Unusable,
                    $"By the time {Count(n, "reading")} {(n == 1 ? "is" : "are")} in, it is within the blind zone of {Show(blind)} mm."
                )
            : low < blind
                ? (Grade.Fragile, $"It can come to rest within the blind zone of {Show(blind)} mm, where the sensor tells nothing.")
            : high - low > gap / 2 ? (Grade.Workable, $"The gap varies by {Show(high - low, 3)} mm, more than half of what is left.")
            : (Grade.Solid, $"It stops {Show(low, 3)} to {Show(high, 3)} mm before it.");
        return new(
            new(gap, low, high),
            [
                new("Way before it reacts, on average", $"{Show(v)} × ({Show(n - 0.5)} × {Show(t)} + {Show(d)})", reaction, "mm"),
                decel is { } a2
                    ? new("Braking", $"{Show(v)}² / (2 × {Show(a2)})", braking, "mm")
                    : new("Coasting", $"{Show(v)} × {Show(coast!.Value / 1000)} s", braking, "mm"),
                new("Gap left, in the middle", $"{Show(trigger)} − {Show(reaction)} − {Show(braking)}", gap, "mm"),
                new("It varies to each side by", $"{Show(v)} × {Show(t)} / 2 + 2 × {Show(noise)}", spread, "mm"),
            ],
            [],
            new(grade, say)
        );
    }
}
