using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>One input of a sum, filled from the rig.</summary>
/// <param name="Field">Field name of the sum.</param>
/// <param name="Label">What it is, for people.</param>
/// <param name="Unit">Its unit; empty for a count.</param>
/// <param name="Values">Its value; several for a list.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">In words.</param>
public sealed record FilledField(string Field, string Label, string Unit, IReadOnlyList<double> Values, Provenance Kind, string Source)
{
    /// <summary>True when the sum takes a list here.</summary>
    public bool List { get; init; }
}

/// <summary>A sum in its place: which, why here, and what the rig says of its inputs.</summary>
/// <param name="Sum">Name of the sum.</param>
/// <param name="Title">The question it answers.</param>
/// <param name="Why">When it matters.</param>
/// <param name="Fields">Its inputs.</param>
public sealed record FilledSum(string Sum, string Title, string Why, IReadOnlyList<FilledField> Fields);

/// <summary>The sums of sensing that matter for a sensor, filled from the rig and what is known of the copy.</summary>
public static class SenseFill
{
    /// <summary>Fills the sums of a sensor. A number nobody knows yet is a guess, and says so.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="sensor">The sensor.</param>
    /// <param name="motion">How the copy moves; null where nothing is known.</param>
    /// <param name="calibration">The sensor's calibration on the copy; null where there is none.</param>
    public static IReadOnlyList<FilledSum> For(RigDesign rig, Sensor sensor, RailMotion? motion, SensorCalibration? calibration)
    {
        var sums = new List<FilledSum>();
        var drive = rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered);
        var period = Chosen("samplePeriodMs", "One reading every", "ms", sensor.SamplePeriodMs, "set in Rig");
        var needed = Needed(sensor, calibration);
        var delay = motion is null
            ? Guess("actuatorDelayMs", "Motor obeys after", "ms", 40)
            : Of("actuatorDelayMs", "Motor obeys after", motion.ActuatorDelayMs);
        var decel = motion is null
            ? Guess("decelMmPerS2", "It brakes with", "mm/s²", 900)
            : Of("decelMmPerS2", "It brakes with", motion.BrakeDecelMmPerS2);
        var speed = Guess("speedMmPerS", "Speed", "mm/s", 150);
        var looksDown =
            sensor.Kind is SensorKind.ReflectedLight or SensorKind.Colour or SensorKind.ColourName
            || sensor.Kind == SensorKind.Distance && sensor.Mount.Facing == Facing.Down;
        if (looksDown && drive is not null)
        {
            Sensor[] edge = [.. rig.Sensors.Where(s => s.Kind == sensor.Kind && s.Mount.Facing == Facing.Down)];
            var ahead = new FilledField(
                "sensorAheadMm",
                "Edge sensors ahead of the front wheels",
                "mm",
                [sensor.AheadMm.Value],
                sensor.AheadMm.Kind,
                sensor.AheadMm.Source
            );
            sums.Add(
                new(
                    "edge-guard",
                    "Does a wheel leave the table before it stops?",
                    "A robot that works on a table must stop whatever the angle at which it meets the edge.",
                    [
                        ahead,
                        new(
                            "sensorOffsetsMm",
                            "Each to the right",
                            "mm",
                            [.. edge.Select(e => e.Mount.RightMm?.Value ?? 0)],
                            edge.All(e => e.Mount.RightMm is not null) ? edge[0].Mount.RightMm!.Kind : Provenance.Guessed,
                            "places of the edge sensors"
                        )
                        {
                            List = true,
                        },
                        drive.TrackWidthMm is { } track
                            ? new(
                                "halfTrackMm",
                                "From the middle to a wheel",
                                "mm",
                                [track.Value / 2],
                                track.Kind == Provenance.Guessed ? Provenance.Guessed : Provenance.Calculated,
                                $"half the track width, {track.Source}"
                            )
                            : Guess("halfTrackMm", "From the middle to a wheel", "mm", 60),
                        Chosen("approachAngleMaxDeg", "Steepest angle to the edge", "°", 60, "chosen"),
                        speed,
                        period,
                        needed,
                        delay,
                        decel,
                    ]
                )
            );
            sums.Add(
                new(
                    "push-over",
                    "How far on, so that the load drops and no wheel does?",
                    "After stopping at the edge something may have to be pushed over it.",
                    [
                        ahead,
                        drive.TipAheadMm is { } tip
                            ? Of("bumperAheadMm", "Bumper ahead of the front wheels", tip)
                            : Guess("bumperAheadMm", "Bumper ahead of the front wheels", "mm", 40),
                        Guess("objectRadiusMm", "Radius of what is pushed", "mm", 8),
                        Guess("stopDistanceMm", "Way from noticing to rest", "mm", 21.5),
                    ]
                )
            );
        }
        if (sensor.Kind == SensorKind.Distance && sensor.Mount.Facing != Facing.Down)
        {
            var noise = calibration is null ? null : Noise(sensor, calibration);
            var approach = speed with { Field = "approachSpeedMmPerS", Label = "It comes up at" };
            sums.Add(
                new(
                    "stop-distance",
                    "Where does it come to rest before the target?",
                    "From the reading that says near to standing still there is a way, and it has a spread.",
                    [
                        approach,
                        period,
                        needed,
                        delay,
                        Chosen("sensorDelayMs", "The reading is late by", "ms", sensor.DelayMs, "set in Rig"),
                        Guess("targetGapMm", "Gap wanted at rest", "mm", 45),
                        decel,
                        noise is { } sd
                            ? new("noiseSdMm", "A reading trembles by (SD)", "mm", [sd], Provenance.Measured, "readings on this copy")
                            : Guess("noiseSdMm", "A reading trembles by (SD)", "mm", 2),
                        sensor.BlindMm is { } blind ? Of("blindZoneMm", "Blind zone", blind) : Guess("blindZoneMm", "Blind zone", "mm", 30),
                    ]
                )
            );
            if (drive is not null)
                sums.Add(
                    new(
                        "sweep",
                        "How fast may it turn and still notice?",
                        "A beam that sweeps past the target too fast takes too few readings, and noticing early is not yet facing it.",
                        [
                            Guess("targetWidthMm", "Width of the target", "mm", 70),
                            Guess("rangeMm", "How far away it is", "mm", 280),
                            sensor.BeamHalfAngleDeg is { } beam
                                ? Of("beamHalfAngleDeg", "Half the beam", beam)
                                : Guess("beamHalfAngleDeg", "Half the beam", "°", 12),
                            period,
                            needed,
                            Guess("turnRateDegPerS", "It turns at", "°/s", 45),
                        ]
                    )
                );
            if (sensor.Principle == RangePrinciple.Ultrasonic)
                sums.Add(
                    new(
                        "echo",
                        "What does the echo time mean today?",
                        "Sound is slower in cold air, so the same time is a shorter way.",
                        [Guess("echoMicros", "Time from call to echo", "µs", 1750), Guess("airTempC", "Air", "°C", 20)]
                    )
                );
        }
        if (
            sensor.Kind is SensorKind.Distance or SensorKind.LightGate or SensorKind.Colour
            && rig.Mechanisms.FirstOrDefault(m => m.Facts.Swings) is { } lid
        )
        {
            var travel = lid.Travel is { } t
                ? new FilledField("actuatorTravelDeg", $"{lid.Name} travels", "°", [t.To.Value - t.From.Value], t.To.Kind, t.To.Source)
                : Guess("actuatorTravelDeg", $"{lid.Name} travels", "°", 90);
            sums.Add(
                new(
                    "reaction",
                    $"How early must it notice, so that {lid.Name} is there in time?",
                    "From arriving in view to the move being done the thing moves on.",
                    [
                        Guess("objectSpeedMmPerS", "What comes moves at", "mm/s", 120),
                        period,
                        needed,
                        delay,
                        travel,
                        Guess("actuatorDegPerS", $"{lid.Name} turns at", "°/s", 300),
                    ]
                )
            );
        }
        return sums;
    }

    private static double? Noise(Sensor sensor, SensorCalibration calibration)
    {
        var sds = calibration
            .Zones.Select(z => calibration.Kept(z.Zone).Where(r => r != sensor.SilentReading).ToArray())
            .Where(r => r.Length >= 3)
            .Select(r => ThresholdSum.Describe("", r, sensor.SamplePeriodMs, sensor.Resolution / Math.Sqrt(12), 0).Sd)
            .ToArray();
        return sds.Length == 0 ? null : sds.Max();
    }

    private static FilledField Needed(Sensor sensor, SensorCalibration? calibration)
    {
        if (calibration is not null)
        {
            if (sensor.Bands.Count > 0 && SenseJudge.Judged(sensor, calibration).Boundaries.Max(b => b.ReadingsNeeded) is { } bands)
                return new("readingsNeeded", "Readings in a row", "", [bands], Provenance.Calculated, "from the bands of this copy");
            if (sensor.Facts.View is "scalar" or "bands" && calibration.Pairs() is { Count: > 0 } pairs)
                return new(
                    "readingsNeeded",
                    "Readings in a row",
                    "",
                    [pairs.Max(p => p.Sum.Result.ReadingsNeededSafe ?? ThresholdSum.MostReadings)],
                    Provenance.Calculated,
                    "from the zones of this copy"
                );
        }
        return Guess("readingsNeeded", "Readings in a row", "", 2);
    }

    private static FilledField Guess(string field, string label, string unit, double value) =>
        new(field, label, unit, [value], Provenance.Guessed, "a usual value");

    private static FilledField Chosen(string field, string label, string unit, double value, string source) =>
        new(field, label, unit, [value], Provenance.Chosen, source);

    private static FilledField Of(string field, string label, Quantity q) => new(field, label, q.Unit, [q.Value], q.Kind, q.Source);
}
