using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>The marker sum, filled from the rig.</summary>
/// <param name="Marker">What kind of marker.</param>
/// <param name="LengthMm">Its length.</param>
/// <param name="Sum">The sum.</param>
/// <param name="PowerPercent">The power the program asks for; null when it names none.</param>
/// <param name="SpeedMmPerS">The speed that gives; null likewise.</param>
/// <param name="FastestMmPerS">The fastest speed at which the tag gives the readings needed.</param>
/// <param name="SafePowerPercent">The fastest power at which the vehicle stands on the marker every time; null when there is none.</param>
/// <param name="Headline">What follows, in a few words.</param>
/// <param name="Say">What follows, with the figures.</param>
public sealed record MarkerView(
    string Marker,
    double LengthMm,
    Answer<MarkerPassResult> Sum,
    double? PowerPercent,
    double? SpeedMmPerS,
    double FastestMmPerS,
    double? SafePowerPercent,
    string Headline,
    string Say
);

/// <summary>How a rail vehicle gets along with a marker that a sensor knows.</summary>
public static class MarkerBrief
{
    /// <summary>Works it out; null where it does not apply: no rail vehicle, nothing known of its motion, no marker that the
    /// sensor knows.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How the copy moves; null when nothing is known of it.</param>
    /// <param name="eye">The sensor.</param>
    /// <param name="calibration">Its calibration.</param>
    /// <param name="parsed">The running program.</param>
    public static MarkerView? Of(RigDesign rig, RailMotion? motion, Sensor eye, SensorCalibration calibration, ParseResult parsed)
    {
        if (motion is null || rig.Vehicle is null)
            return null;
        var marker = rig.Rail?.Markers.FirstOrDefault(m => eye.Zones.Contains(m.Surface));
        var power = parsed.Diagnostics.Count == 0 ? RailChecks.FastestPower(rig, parsed.Program) : null;
        double? speed = power is { } p ? motion.SteadySpeed(p) : null;
        if (speed is <= 0)
            speed = null;
        // It is read while rolling, so as many readings are needed as rolling ones need.
        calibration = calibration.At(speed is { } rolls ? new(rolls, motion.TremblePercentPerMPerS) : null);
        if (
            marker is null
            || calibration.Pairs().FirstOrDefault(p => p.Lower == marker.Surface || p.Upper == marker.Surface) is not { } pair
        )
            return null;
        var promised = pair.Sum.Result.ReadingsNeededSafe;
        var needed = promised ?? ThresholdSum.MostReadings;
        var sum = MarkerPass.Compute(
            new(
                marker.LengthMm.Value,
                eye.Spot.Value,
                eye.SamplePeriodMs,
                needed,
                speed,
                motion.ActuatorDelayMs.Value,
                motion.BrakeDecelMmPerS2.Value
            )
        );
        var fastest = sum.Result.MaxSpeedMmPerS;
        // The whole of the eye's middle half must still lie on it.
        var reach = marker.LengthMm.Value - eye.Spot.Value / 2;
        double? safe = null;
        for (var tryPower = 100.0; tryPower >= 1 && safe is null; tryPower--)
            if (
                motion.SteadySpeed(tryPower) is > 0 and var v
                && v <= fastest
                && RailChecks.RestRange(motion, marker, eye, 1, false, tryPower).High <= reach
            )
                safe = tryPower;
        var say = $"A {Show(marker.LengthMm.Value)} mm {marker.Surface} gives {Count(needed, "reading")} up to {Show(fastest, 3)} mm/s.";
        if (promised is null)
            say += " Even so many cannot be promised to be right: the readings are too few or too ragged.";
        if (sum.Result.RestLowMm is { } low)
            say +=
                $" At the program's {Show(power!.Value)} % it rolls {Show(speed!.Value, 3)} mm/s, is read "
                + $"{Count(sum.Result.ReadingsOnMarker!.Value, "time")}, and the eye stands {Show(low, 2)} to "
                + $"{Show(sum.Result.RestHighMm!.Value, 2)} mm past the leading edge; up to {Show(reach, 2)} mm is still on it.";
        var headline =
            safe is not { } s ? "No power stops it on this tag"
            : power > s ? $"Roll at {Show(s)} % or slower to stop on it"
            : "It stops on its tag";
        return new(marker.Surface, marker.LengthMm.Value, sum, power, speed, fastest, safe, headline, say);
    }
}
