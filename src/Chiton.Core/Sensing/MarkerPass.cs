using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>marker-pass</c>.</summary>
/// <param name="MarkerLengthMm">Length of the marker along the way, mm, more than 0.</param>
/// <param name="SpotDiameterMm">Diameter of the spot the sensor sees, mm, 0 or more.</param>
/// <param name="SamplePeriodMs">Time between readings, ms, more than 0.</param>
/// <param name="ReadingsNeeded">Readings in a row that count, 1 or more.</param>
/// <param name="SpeedMmPerS">Speed over the marker, mm/s, more than 0; may be left out.</param>
/// <param name="ActuatorDelayMs">From the decision to the motor obeying, ms, 0 or more.</param>
/// <param name="DecelMmPerS2">Deceleration when braked, mm/s²; or else</param>
/// <param name="CoastTimeConstantMs">the time constant of coasting, ms.</param>
/// <param name="SensorAheadMm">How far the sensor lies ahead of the vehicle's reference point, mm.</param>
public sealed record MarkerPassInput(
    double? MarkerLengthMm,
    double? SpotDiameterMm,
    double? SamplePeriodMs,
    double? ReadingsNeeded,
    double? SpeedMmPerS = null,
    double? ActuatorDelayMs = null,
    double? DecelMmPerS2 = null,
    double? CoastTimeConstantMs = null,
    double? SensorAheadMm = null
);

/// <summary>Result of the sum <c>marker-pass</c>.</summary>
/// <param name="MaxSpeedMmPerS">Fastest speed at which the marker gives the readings needed; 0 when it is no longer than the spot.</param>
/// <param name="ReadingsOnMarker">Readings taken with the whole spot on the marker, whatever the phase; null without a speed.</param>
/// <param name="ClearDistanceMm">From first touch of the spot to leaving the marker, mm.</param>
/// <param name="ClearTimeS">The same in seconds; null without a speed.</param>
/// <param name="RestLowMm">Least distance of the vehicle's reference point past the marker's leading edge once it stands; null without
/// speed and braking.</param>
/// <param name="RestHighMm">Greatest such distance.</param>
public sealed record MarkerPassResult(
    double MaxSpeedMmPerS,
    int? ReadingsOnMarker,
    double ClearDistanceMm,
    double? ClearTimeS,
    double? RestLowMm,
    double? RestHighMm
);

/// <summary>How fast a marker may be passed, and where the vehicle stands after reacting to it.</summary>
public static class MarkerPass
{
    /// <summary>
    /// Computes the sum. Source: geometry; braking by v²/2a or v·τ. The rest range takes the first counted reading to
    /// be the first with the whole spot on the marker, so that it agrees with the readings counted; a threshold crossed
    /// with part of the spot on lets the vehicle stand up to one spot diameter sooner, which a caution says.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<MarkerPassResult> Compute(MarkerPassInput input)
    {
        var need = new Require();
        var length = need.Number(input.MarkerLengthMm, "markerLengthMm", 0, 1e7, aboveMin: true);
        var spot = need.Number(input.SpotDiameterMm, "spotDiameterMm", 0, 1e6);
        var period = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true);
        var n = need.Whole(input.ReadingsNeeded, "readingsNeeded", 1, 1000);
        var speed = need.Optional(input.SpeedMmPerS, "speedMmPerS", 0, 1e6, aboveMin: true);
        var delay = need.Number(input.ActuatorDelayMs ?? 0, "actuatorDelayMs", 0, 1e7);
        var decel = need.Optional(input.DecelMmPerS2, "decelMmPerS2", 0, 1e9, aboveMin: true);
        var coast = need.Optional(input.CoastTimeConstantMs, "coastTimeConstantMs", 0, 1e7, aboveMin: true);
        var ahead = need.Number(input.SensorAheadMm ?? 0, "sensorAheadMm", -1e6, 1e6);
        need.That(
            input.DecelMmPerS2 is null || input.CoastTimeConstantMs is null,
            "coastTimeConstantMs",
            "Give either decelMmPerS2 or coastTimeConstantMs, not both."
        );
        need.Done();

        var t = period / 1000;
        var d = delay / 1000;
        var room = Math.Max(0, length - spot);
        var maxSpeed = room / (n * t);
        var clear = length + spot;
        var steps = new List<Step>
        {
            new("Way with the whole spot on the marker", $"{Show(length)} − {Show(spot)}", room, "mm"),
            new($"Fastest speed for {Count(n, "reading")}", $"{Show(room)} mm / ({n} × {Show(t)} s)", maxSpeed, "mm/s"),
            new("Way until it is left behind", $"{Show(length)} + {Show(spot)}", clear, "mm"),
        };
        var cautions = new List<string>();
        if (length <= spot)
            cautions.Add("The marker is no longer than the spot: it is never seen whole. Use a longer marker or mount the eye closer.");
        if (speed is not { } v)
            return new(new(maxSpeed, null, clear, null, null, null), steps, cautions, null);

        var readings = (int)Math.Min(int.MaxValue, Math.Floor(room / (v * t) + 1e-9));
        steps.Add(new("Readings on the marker", $"⌊{Show(room)} / ({Show(v)} × {Show(t)})⌋", readings, "readings"));
        steps.Add(new("Time until it is left behind", $"{Show(clear)} / {Show(v)}", clear / v, "s"));
        double? restLow = null,
            restHigh = null;
        double? braking =
            decel is { } a ? v * v / (2 * a)
            : coast is { } tau ? v * tau / 1000
            : null;
        if (braking is { } b)
        {
            restLow = spot / 2 + v * ((n - 1) * t + d) + b - ahead;
            restHigh = spot / 2 + v * (n * t + d) + b - ahead;
            steps.Add(
                decel is { } a2
                    ? new("Braking distance", $"{Show(v)}² / (2 × {Show(a2)})", b, "mm")
                    : new("Coasting distance", $"{Show(v)} × {Show(coast!.Value / 1000)} s", b, "mm")
            );
            steps.Add(
                new(
                    "Stands soonest",
                    $"{Show(spot)} / 2 + {Show(v)} × ({n - 1} × {Show(t)} + {Show(d)}) + {Show(b)} − {Show(ahead)}",
                    restLow,
                    "mm past the leading edge"
                )
            );
            steps.Add(
                new(
                    "Stands latest",
                    $"{Show(spot)} / 2 + {Show(v)} × ({n} × {Show(t)} + {Show(d)}) + {Show(b)} − {Show(ahead)}",
                    restHigh,
                    "mm past the leading edge"
                )
            );
            if (spot > 0)
                cautions.Add(
                    $"Where the threshold is crossed with only part of the spot on the marker, it stands up to {Show(spot)} mm sooner."
                );
        }

        var grade =
            readings < n ? Grade.Unusable
            : readings < 2 * n ? Grade.Fragile
            : readings < 3 * n ? Grade.Workable
            : Grade.Solid;
        var say = grade switch
        {
            Grade.Unusable =>
                $"Too fast: the marker gives {Count(readings, "reading")} and {n} {(n == 1 ? "is" : "are")} needed. Stay below "
                    + $"{Show(maxSpeed, 3)} mm/s.",
            Grade.Fragile => $"The marker gives {Count(readings, "reading")}, just enough for the {n} needed. Go slower.",
            Grade.Workable => $"The marker gives {Count(readings, "reading")}; {n} {(n == 1 ? "is" : "are")} needed.",
            _ => $"The marker gives {Count(readings, "reading")}, plenty for the {n} needed.",
        };
        return new(new(maxSpeed, readings, clear, clear / v, restLow, restHigh), steps, cautions, new(grade, say));
    }
}
