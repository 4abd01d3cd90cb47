using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>How a line eye of a rig sees its line.</summary>
/// <param name="Eye">Sensor name.</param>
/// <param name="Dark">Mean over the line, %.</param>
/// <param name="Bright">Mean over the ground, %.</param>
/// <param name="NoiseSd">SD of a reading, %.</param>
/// <param name="SpotMm">Spot, mm.</param>
/// <param name="AheadMm">Ahead of the axle, mm.</param>
/// <param name="PeriodMs">Time between readings, ms.</param>
/// <param name="Measured">True when it comes from readings of this copy.</param>
public sealed record LineSight(
    string Eye,
    double Dark,
    double Bright,
    double NoiseSd,
    double SpotMm,
    double AheadMm,
    double PeriodMs,
    bool Measured
)
{
    /// <summary>How the reading changes across the edge, % a mm: the whole difference over the spot.</summary>
    public double ContrastPercentPerMm => Math.Abs(Bright - Dark) / SpotMm;
}

/// <summary>The sums of moving that matter for a mechanism, filled from the rig and what its trials say.</summary>
public static class MoveFill
{
    /// <summary>The eye that could follow a line, and what it sees; null when the rig has none.</summary>
    public static LineSight? Sight(RigDesign rig, IReadOnlyDictionary<string, SensorCalibration> calibrations)
    {
        // The eye nearest to the middle is the one that follows.
        var eye = rig.Eyes.Where(e => e.Mount.Facing == Facing.Down).OrderBy(e => Math.Abs(e.Mount.RightMm?.Value ?? 0)).FirstOrDefault();
        if (eye is null)
            return null;
        var spot = eye.SpotDiameterMm?.Value is > 0 and var s ? s : 8;
        if (calibrations.TryGetValue(eye.Name, out var c))
        {
            var means = c
                .Zones.Select(z => c.Kept(z.Zone))
                .Where(r => r.Count >= 3)
                .Select(r => ThresholdSum.Describe("", r.ToArray(), eye.SamplePeriodMs, eye.Resolution / Math.Sqrt(12), 0))
                .OrderBy(d => d.Mean)
                .ToArray();
            if (means.Length >= 2)
                return new(
                    eye.Name,
                    means[0].Mean,
                    means[^1].Mean,
                    means.Max(m => m.Sd),
                    spot,
                    eye.AheadMm.Value,
                    eye.SamplePeriodMs,
                    true
                );
        }
        return new(eye.Name, 15, 55, 2.5, spot, eye.AheadMm.Value, eye.SamplePeriodMs, false);
    }

    /// <summary>Fills the sums of a mechanism. A number nobody knows yet is a guess, and says so.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="inUse">The number in use of a kind of trial of this mechanism; null when nothing is known.</param>
    /// <param name="at">What else is known of it.</param>
    /// <param name="calibrations">Calibrations of the copy's sensors.</param>
    public static IReadOnlyList<FilledSum> For(
        RigDesign rig,
        Mechanism m,
        Func<TrialKind, Quantity?> inUse,
        TrialSetting at,
        IReadOnlyDictionary<string, SensorCalibration> calibrations
    )
    {
        var sums = new List<FilledSum>();
        var wheel = inUse(TrialKind.Straight) ?? m.WheelDiameterMm;
        var track = inUse(TrialKind.Turn) ?? m.TrackWidthMm;
        var sight = Sight(rig, calibrations);
        var motor = rig.Actuators.FirstOrDefault(a => a.Name == m.Motor);
        FilledField wheelField = wheel is null
                ? Guess("wheelDiameterMm", "Wheel diameter", "mm", 56)
                : Of("wheelDiameterMm", "Wheel diameter", wheel),
            trackField = track is null ? Guess("trackWidthMm", "Track width", "mm", 120) : Of("trackWidthMm", "Track width", track);
        if (m.Facts.Going != Going.Nowhere)
        {
            var speed = Chosen(
                "speedMmPerS",
                "Speed",
                "mm/s",
                m.Facts.Going == Going.OnRail && at.Motion is { } rail ? Math.Round(rail.SteadySpeed(40)) : MoveNumbers.UsualSpeed,
                "yours to choose"
            );
            var brake = inUse(TrialKind.Brake);
            FilledField Stop(string field, string label) =>
                brake is { } b && b.MoveSd > 0
                    ? new(
                        field,
                        label,
                        "mm",
                        [Math.Abs(speed.Values[0] * speed.Values[0] / 2 / b.Value) * b.MoveSd / b.Value],
                        b.Kind == Provenance.Guessed ? Provenance.Guessed : Provenance.Calculated,
                        $"from braking, {b.Source}"
                    )
                    : Guess(field, label, "mm", 2);
            sums.Add(
                new(
                    "move-end",
                    "How well can a move end: by time, by counting, or by a sensor?",
                    "Timed moves vary with the battery, counted ones with slip and resolution, sensed ones with the sensor and the brake.",
                    [
                        Chosen("distanceMm", "Distance", "mm", 600, "yours to choose"),
                        speed,
                        at.Motion is { } motion
                            ? new(
                                "speedSdPercent",
                                "Speed varies by (SD)",
                                "%",
                                [100 * motion.RelativeSpeedSd],
                                Provenance.Calculated,
                                "from the pack and the speed of this copy"
                            )
                        : motor?.Kind == ActuatorKind.RegulatedMotor ? Guess("speedSdPercent", "Speed varies by (SD)", "%", 1.5)
                        : Guess("speedSdPercent", "Speed varies by (SD)", "%", 4),
                        motor?.Kind == ActuatorKind.RegulatedMotor && wheel is not null
                            ? new(
                                "resolutionMm",
                                "One count is",
                                "mm",
                                [Math.PI * wheel.Value / 360 / at.MotorTurns],
                                Provenance.Calculated,
                                "one motor degree at the wheel"
                            )
                            : Guess("resolutionMm", "One count is", "mm", 11),
                        wheel is { MoveSd: > 0 } w
                            ? new("slipSdPercent", "Wheels slip by (SD)", "%", [100 * w.MoveSd / w.Value], w.Kind, w.Source)
                            : Guess("slipSdPercent", "Wheels slip by (SD)", "%", 1),
                        Stop("coastSdMm", "Its stop varies by (SD)"),
                        sight is { } eye ? Chosen("samplePeriodMs", "One reading every", "ms", eye.PeriodMs, $"of {eye.Eye}, set in Rig")
                        : rig.Sensors.FirstOrDefault(s => s.Kind == SensorKind.Distance) is { } range
                            ? Chosen("samplePeriodMs", "One reading every", "ms", range.SamplePeriodMs, $"of {range.Name}, set in Rig")
                        : Guess("samplePeriodMs", "One reading every", "ms", 10),
                        sight is { Measured: true } seen
                            ? new(
                                "noiseSdMm",
                                "It notices within (SD)",
                                "mm",
                                [seen.NoiseSd / seen.ContrastPercentPerMm],
                                Provenance.Calculated,
                                $"spread of {seen.Eye} over its contrast"
                            )
                            : Guess("noiseSdMm", "It notices within (SD)", "mm", 2),
                        Stop("brakeSdMm", "The brake varies by (SD)"),
                    ]
                )
            );
        }
        if (m.Facts.Going == Going.Steered)
        {
            sums.Add(
                new(
                    "click-encoder",
                    "Would clicks of a home-made encoder do?",
                    "A touch switch that counts bumps on a wheel knows only whole bumps.",
                    [
                        Guess("clicksPerEncoderTurn", "Clicks a turn of the encoder", "", 4),
                        Guess("encoderTurnsPerWheelTurn", "Its turns a wheel turn", "", 3),
                        wheelField,
                        trackField,
                        Chosen("samplePeriodMs", "One reading every", "ms", 5, "yours to choose"),
                        Chosen("readingsPerLevel", "Readings a level", "", 2, "yours to choose"),
                        Chosen("targetTurnDeg", "Turn wanted", "robot deg", 180, "yours to choose"),
                    ]
                )
            );
            if (sight is { } s)
            {
                FilledField contrast = s.Measured
                        ? new(
                            "contrastPercentPerMm",
                            "The reading changes by",
                            "% a mm",
                            [s.ContrastPercentPerMm],
                            Provenance.Calculated,
                            $"zones of {s.Eye} over its spot"
                        )
                        : Guess("contrastPercentPerMm", "The reading changes by", "% a mm", 5),
                    ahead = rig.Find(s.Eye) is Sensor e
                        ? new("sensorAheadMm", "Eye ahead of the axle", "mm", [s.AheadMm], e.AheadMm.Kind, e.AheadMm.Source)
                        : Guess("sensorAheadMm", "Eye ahead of the axle", "mm", 50),
                    period = Chosen("samplePeriodMs", "One reading every", "ms", s.PeriodMs, "set in Rig"),
                    delay = Guess("actuatorDelayMs", "Motor obeys after", "ms", at.DelayS * 1000);
                sums.Add(
                    new(
                        "line-switch",
                        "Following by switching: how far does it weave?",
                        "Two levels turn left over one and right over the other; the delay decides the weave.",
                        [
                            Chosen("fastMmPerS", "Faster wheel", "mm/s", 190, "yours to choose"),
                            Chosen("slowMmPerS", "Slower wheel", "mm/s", 110, "yours to choose"),
                            trackField,
                            ahead,
                            period,
                            Guess("readingsNeeded", "Readings in a row", "", 2),
                            delay,
                        ]
                    )
                );
                sums.Add(
                    new(
                        "line-gain",
                        "Following in proportion: which gain, how fast?",
                        "Too little gain loses the bend, too much swings; the delay sets the limit.",
                        [
                            Chosen("speedMmPerS", "Speed", "mm/s", 150, "yours to choose"),
                            trackField,
                            ahead,
                            contrast,
                            Guess("maxWheelSpeedMmPerS", "A wheel at 100 %", "mm/s", 520),
                            period,
                            delay,
                        ]
                    )
                );
            }
        }
        if (m.TipAheadMm is { } tip && m.Facts.Bears)
            sums.Add(
                new(
                    "load-seat",
                    "How does the load sit, and how fast may it turn?",
                    "Stopping earlier seats it nearer the tip: less margin before it tips, and a slower turn.",
                    [
                        Of("forkLengthMm", "Fork, heel to tip", tip),
                        rig.Starts.FirstOrDefault(x => x.What != rig.Name) is { } load
                            ? Of("seatGapMm", "Gap from heel to load", load.AtMm)
                            : Guess("seatGapMm", "Gap from heel to load", "mm", 12),
                        Guess("loadDepthMm", "Depth of the load", "mm", 60),
                        Guess("heelAheadMm", "Heel ahead of the turning axis", "mm", 70),
                        Guess("frictionCoefficient", "Friction", "", 0.35),
                        Chosen("gripExtraMPerS2", "A grip adds", "m/s²", 0, "yours to choose"),
                    ]
                )
            );
        return sums;
    }

    private static FilledField Guess(string field, string label, string unit, double value) =>
        new(field, label, unit, [value], Provenance.Guessed, "a usual value");

    private static FilledField Chosen(string field, string label, string unit, double value, string source) =>
        new(field, label, unit, [value], Provenance.Chosen, source);

    private static FilledField Of(string field, string label, Quantity q) => new(field, label, q.Unit, [q.Value], q.Kind, q.Source);
}
