using System.Globalization;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>Numbers for the holes of patterns that follow from what a copy is known to do.</summary>
public static class PatternFigures
{
    /// <summary>Readings in a row that sensors need by what was recorded, 1 to 20, by their names; those of which nothing was recorded are
    /// missing.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="calibrations">The copy's calibrations.</param>
    public static IReadOnlyDictionary<string, int> ReadingsNeeded(
        RigDesign rig,
        IReadOnlyDictionary<string, SensorCalibration> calibrations
    )
    {
        var needed = new Dictionary<string, int>();
        foreach (var sensor in rig.Sensors)
        {
            if (!calibrations.TryGetValue(sensor.Name, out var calibration))
                continue;
            if (sensor.Facts.View == "scalar" && calibration.Pairs() is { Count: > 0 } pairs)
                needed[sensor.Name] = Math.Clamp(
                    pairs.Max(p => p.Sum.Result.ReadingsNeededSafe ?? p.Sum.Result.ReadingsNeeded ?? 5),
                    1,
                    20
                );
            else if (sensor.Facts.View == "bands" && sensor.Bands.Count > 0 && calibration.Zones.Any(z => z.Readings.Count >= 3))
                needed[sensor.Name] = Math.Clamp(
                    SenseJudge.Judged(sensor, calibration).Boundaries.Select(b => b.ReadingsNeeded ?? 5).DefaultIfEmpty(1).Max(),
                    1,
                    20
                );
        }
        return needed;
    }

    /// <summary>Works them out.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="calibrations">Its calibrations.</param>
    /// <param name="readings">Readings in a row that its sensors need, by name.</param>
    /// <returns>By pattern and hole, as <c>marker-stop.speed</c>.</returns>
    public static IReadOnlyDictionary<string, HoleFigure> For(
        RigDesign rig,
        CopyMoves moves,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        IReadOnlyDictionary<string, int> readings
    )
    {
        var figures = new Dictionary<string, HoleFigure>();
        Rail(rig, moves, readings, figures);
        Line(rig, moves, calibrations, figures);
        return figures;
    }

    /// <summary>The least whole power, in percent, that surely moves what takes power only, by mechanism and by motor; what takes
    /// speeds, or of which nothing is known, is missing.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="moves">How the copy moves.</param>
    public static IReadOnlyDictionary<string, HoleFigure> LeastPowers(RigDesign rig, CopyMoves moves)
    {
        var found = new Dictionary<string, HoleFigure>();
        foreach (var mechanism in rig.Mechanisms)
        {
            string[] motors = [.. mechanism.Motors.Where(m => rig.Actuators.Any(a => a.Name == m && a.Kind == ActuatorKind.PlainMotor))];
            if (motors.Length == 0 || TooLittle.Least(rig, moves.Motion, moves, mechanism.Name) is not { } least)
                continue;
            var percent = (int)Math.Floor(least.Value + TooLittle.Spread(least)) + 1;
            if (percent > 100)
                continue;
            var figure = new HoleFigure(
                Text(percent),
                $"calculated: the least that surely moves {mechanism.Name} on this copy ({Figures.Show(least.Value, 3)} %, "
                    + $"{least.Kind.ToString().ToLowerInvariant()})",
                mechanism.Name
            );
            foreach (var name in motors.Append(mechanism.Name))
                found[name] = figure;
        }
        return found;
    }

    private static string Text(double value) => value.ToString("0.###", CultureInfo.InvariantCulture);

    private static void Rail(
        RigDesign rig,
        CopyMoves moves,
        IReadOnlyDictionary<string, int> readings,
        Dictionary<string, HoleFigure> figures
    )
    {
        if (
            rig.Rail is not { Markers.Count: > 0 } rail
            || rig.Vehicle is not { } vehicle
            || moves.Motion is not { } motion
            || rig.Eyes.FirstOrDefault() is not { } eye
        )
            return;
        var needed = readings.GetValueOrDefault(eye.Name, 2);
        // The marker it serves is the one there are most of.
        var shortest = rail.Markers.GroupBy(m => m.Surface).OrderByDescending(g => g.Count()).First().MinBy(m => m.LengthMm.Value)!;
        var spot = eye.Spot.Value;
        // The quickest at which it stands on the marker, and sees it often enough on the way.
        var power = 100;
        for (; power >= 1; power--)
        {
            if (motion.SteadySpeed(power) <= 0)
                return;
            if (RailChecks.RestRange(motion, shortest, eye, needed, false, power).High > shortest.LengthMm.Value - spot / 2)
                continue;
            if (
                MarkerPass.Compute(new(shortest.LengthMm.Value, spot, eye.SamplePeriodMs, needed, motion.SteadySpeed(power))).Verdict!.Grade
                < Grade.Fragile
            )
                break;
        }
        if (power < 1)
            return;
        var speed = motion.SteadySpeed(power);
        var source = $"calculated: the quickest that stops on a {shortest.Surface} of this copy";
        foreach (var hole in new[] { "marker-stop.speed", "shuttle.slow" })
            figures[hole] = new(Text(power), source, vehicle.Motor);
        var marks = rail.Markers.OrderBy(m => m.AtMm).ToArray();
        var gap = marks.Zip(marks.Skip(1), (a, b) => b.AtMm - a.AtMm).Append(Math.Abs(marks[0].AtMm)).Max();
        figures["marker-stop.limit"] = new(
            Text(Math.Ceiling(2 * gap / speed)),
            $"calculated: twice the longest way between markers at {Text(power)} %",
            vehicle.Motor
        );
        figures["marker-stop.clear"] = new(
            Text(Math.Ceiling(15 * (rail.Markers.Max(m => m.LengthMm.Value) + spot) / speed) / 10),
            $"calculated: half as long again as the longest marker takes at {Text(power)} %",
            vehicle.Motor
        );
    }

    private static void Line(
        RigDesign rig,
        CopyMoves moves,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        Dictionary<string, HoleFigure> figures
    )
    {
        foreach (var drive in rig.Mechanisms.Where(m => m.Facts.Going == Going.Steered).Take(1))
        {
            var filled = MoveFill
                .For(rig, drive, k => moves.InUse(drive.Name, k), moves.At(drive.Name), calibrations)
                .FirstOrDefault(s => s.Sum == "line-gain");
            if (filled is null)
                return;
            double Field(string name) => filled.Fields.First(f => f.Field == name).Values[0];
            LineGainResult At(double v) =>
                LineGain
                    .Compute(
                        new(
                            v,
                            Field("trackWidthMm"),
                            Field("sensorAheadMm"),
                            Field("contrastPercentPerMm"),
                            Field("maxWheelSpeedMmPerS"),
                            Field("samplePeriodMs"),
                            Field("actuatorDelayMs")
                        )
                    )
                    .Result;
            if (
                new[] { "trackWidthMm", "sensorAheadMm", "contrastPercentPerMm", "maxWheelSpeedMmPerS", "samplePeriodMs" }.Any(f =>
                    Field(f) <= 0
                )
            )
                return;
            // Four fifths of what the delay allows, and no faster than is usual.
            var speed = Math.Min(Field("speedMmPerS"), Math.Floor(0.8 * At(Field("speedMmPerS")).MaxSpeedMmPerS / 10) * 10);
            if (speed < 10)
                return;
            var guessed = filled.Fields.Any(f => f.Kind == Provenance.Guessed) ? ", some of it guessed" : "";
            figures["line.speed"] = new(Text(speed), $"calculated: what the delay allows{guessed}", drive.Name);
            figures["line.gain"] = new(
                Figures.Show(At(speed).Kp, 2).Replace(',', '.'),
                $"calculated from the eye, the track and the delay{guessed}",
                drive.Name
            );
        }
    }
}
