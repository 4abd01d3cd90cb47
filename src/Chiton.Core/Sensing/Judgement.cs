using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Something that would make a sensor sounder.</summary>
/// <param name="Where">in the threshold, in the readings, in the program, or in the mechanics.</param>
/// <param name="Say">What to do, and what it brings or costs, with figures.</param>
public sealed record SenseCure(string Where, string Say)
{
    /// <summary>What the pair would be then, tried out on its own readings; null where that cannot be said beforehand.</summary>
    public Grade? Then { get; init; }

    // The readings as they would be with it, for the tests.
    internal SensorCalibration? Applied { get; init; }
}

/// <summary>How far one sensor can be relied on.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Grade">Its weakest point; null while nothing was recorded.</param>
/// <param name="Say">Why, in a sentence or two.</param>
/// <param name="Cures">The cheapest first.</param>
/// <param name="Stale">Why the calibration may no longer hold; null when nothing speaks against it.</param>
public sealed record SensorJudgement(string Sensor, Grade? Grade, string Say, IReadOnlyList<SenseCure> Cures, string? Stale);

/// <summary>How far the sensors of a rig can be relied on.</summary>
/// <param name="Sensors">In rig order.</param>
/// <param name="Weakest">The one to see to first; null when none is weak.</param>
/// <param name="Say">The whole in a sentence.</param>
public sealed record RigJudgement(IReadOnlyList<SensorJudgement> Sensors, string? Weakest, string Say);

/// <summary>When and how a calibration was taken.</summary>
/// <param name="AgeDays">Days since its newest reading; null when it has none.</param>
/// <param name="Modes">Modes in which its readings were taken, in words; empty ones left out.</param>
/// <param name="Supplies">Supply voltages at which they were taken, V.</param>
public sealed record CalibrationAge(double? AgeDays, IReadOnlyList<string> Modes, IReadOnlyList<double> Supplies);

/// <summary>Judges sensors in words and orders what would cure them.</summary>
public static class SenseJudge
{
    /// <summary>After so many days the light and the surfaces are hardly the same.</summary>
    public const double StaleDays = 14;

    /// <summary>Judges one sensor.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration on this copy, or null.</param>
    /// <param name="age">When and how it was taken.</param>
    public static SensorJudgement Judge(Sensor sensor, SensorCalibration? calibration, CalibrationAge age)
    {
        var stale = Stale(sensor, age);
        if (sensor.Facts.View == "none")
            return new(sensor.Name, Grade.Solid, "Counts the turns of its motor; it needs no zones.", [], null);
        if (sensor is { Kind: SensorKind.Button } && (calibration is null || calibration.Zones.All(z => z.Readings.Count == 0)))
            return new(sensor.Name, Grade.Solid, "A button of the controller needs no readings.", [], null);
        if (calibration is null || calibration.Zones.All(z => z.Readings.Count == 0))
            return new(
                sensor.Name,
                null,
                sensor.Zones.Count < 2 && sensor.Facts.View != "switch"
                    ? "Has fewer than two zones, so there is nothing to tell apart yet."
                    : "No readings yet.",
                [],
                null
            );
        return sensor.Facts.View switch
        {
            "bands" when sensor.Bands.Count > 0 => Bands(sensor, calibration, stale),
            "colours" => Colour(sensor, calibration, stale),
            "names" => Names(sensor, calibration, stale),
            "switch" => Switch(sensor, calibration, stale),
            _ => Scalar(sensor, calibration, stale),
        };
    }

    /// <summary>Judges a rig: the weakest sensor, why, and its first cure.</summary>
    /// <param name="sensors">Its sensors, judged.</param>
    public static RigJudgement Rig(IReadOnlyList<SensorJudgement> sensors)
    {
        var weak = sensors.Where(s => s.Grade is > Grade.Workable).OrderByDescending(s => s.Grade).FirstOrDefault();
        var stale = sensors.FirstOrDefault(s => s.Stale is not null);
        var unread = sensors.Count(s => s.Grade is null);
        return weak is not null
                ? new(
                    sensors,
                    weak.Sensor,
                    $"{weak.Sensor} is the weakest: {weak.Say}{(weak.Cures.Count > 0 ? $" Cheapest: {weak.Cures[0].Say}" : "")}"
                )
            : stale is not null ? new(sensors, stale.Sensor, $"{stale.Sensor}: {stale.Stale}")
            : sensors.Count == 0 ? new(sensors, null, "This rig has no sensor yet.")
            : unread == sensors.Count ? new(sensors, null, "No readings yet.")
            : new(
                sensors,
                null,
                unread > 0 ? $"What was recorded holds; {Count(unread, "sensor")} without readings." : "Every sensor holds."
            );
    }

    private static string? Stale(Sensor sensor, CalibrationAge age)
    {
        if (age.Modes.Count > 1)
            return $"Its readings were taken in different modes ({string.Join(" and ", age.Modes)}): they cannot be compared. Take "
                + "them anew in one.";
        if (age.Modes.Count == 1 && age.Modes[0] != sensor.About)
            return $"Its readings were taken as {age.Modes[0]}; now it is {sensor.About}. Take them anew.";
        if (sensor.ProbeSupplyV is { } now && age.Supplies.FirstOrDefault(s => Math.Abs(s - now) > 0.05 * now) is > 0 and var was)
            return $"It was read at {Show(was)} V and is fed {Show(now)} V now: its readings move with its supply. Take them anew.";
        if (age.AgeDays is { } days && days > StaleDays)
            return $"Its readings are {Show(Math.Floor(days))} days old: light and surfaces change. Check one reading of each zone, "
                + "or take them anew.";
        return null;
    }

    private static SensorJudgement Scalar(Sensor sensor, SensorCalibration calibration, string? stale)
    {
        var pairs = calibration.Pairs();
        if (pairs.Count == 0)
            return new(sensor.Name, null, "It takes 3 readings or more of two zones to place a threshold.", [], stale);
        var worst = pairs.MaxBy(p => (p.Sum.Verdict!.Grade, p.Sum.Result.FalsePerReading))!;
        var r = worst.Sum.Result;
        var grade = worst.Sum.Verdict!.Grade;
        var cures = SenseCures.Of(sensor, calibration, worst);
        var say =
            grade == Grade.Solid
                ? "Every pair of zones is solid."
                : $"{worst.Lower} against {worst.Upper} is {grade.ToString().ToLowerInvariant()}: the threshold lies "
                    + $"{(r.Separation is { } s ? Show(s, 2) : "no")} times the usual wobble from the nearer zone.";
        return new(sensor.Name, grade, say, cures, stale);
    }

    private static SensorJudgement Bands(Sensor sensor, SensorCalibration calibration, string? stale)
    {
        var judged = Judged(sensor, calibration);
        var cures = new List<SenseCure>();
        if (judged.Verdict.Grade > Grade.Solid)
        {
            if (judged.Boundaries.Where(b => b.ReadingsNeeded > 1).MaxBy(b => b.ReadingsNeeded) is { } b)
                cures.Add(new("in the program", $"Ask for {b.ReadingsNeeded} readings in a row between {b.Nearer} and {b.Farther}."));
            cures.Add(new("in the program", "Widen the narrowest band, or leave a gap in which nothing is done."));
            if (judged.SilentShare > 0.02)
                cures.Add(
                    new(
                        "in the mechanics",
                        "Face the target squarely, or give it a hard, flat surface: slanted and soft things are not heard."
                    )
                );
            if (judged.Stretches.Any(s => s.Kind == "blind"))
                cures.Add(
                    new("in the mechanics", "Mount the sensor farther back, so that nothing that matters comes into its blind zone.")
                );
        }
        return new(sensor.Name, judged.Verdict.Grade, judged.Verdict.Say, cures, stale);
    }

    /// <summary>The bands of a sensor, judged by its readings.</summary>
    public static DistanceBands Judged(Sensor sensor, SensorCalibration calibration) =>
        DistanceBands.Judge(
            sensor.Bands.ToArray(),
            [.. calibration.Zones.Select(z => new ZoneReadings(z.Zone, calibration.Kept(z.Zone)))],
            sensor.SamplePeriodMs,
            sensor.Resolution,
            calibration.MaxFalsePerHour,
            sensor.BlindMm?.Value ?? 0,
            sensor.ReachMm?.Value,
            sensor.SilentReading,
            sensor.SilenceIs
        );

    private static SensorJudgement Colour(Sensor sensor, SensorCalibration calibration, string? stale)
    {
        if (Classes(calibration) is not { Classes.Count: >= 2 } input)
            return new(sensor.Name, null, "It takes 2 samples or more of two zones to tell colours apart.", [], stale);
        var answer = Colours.Compute(input);
        var pair = answer.Result.WorstPair;
        var grade = answer.Verdict!.Grade;
        var cures = new List<SenseCure>();
        if (grade > Grade.Solid)
        {
            cures.Add(new("in the program", $"Ask for 2 or 3 samples in a row of {pair.A} and {pair.B}."));
            cures.Add(new("in the mechanics", "Shade it and mount it closer, so that less light of the room gets in."));
            cures.Add(new("in the mechanics", $"Paint {pair.B} in a colour farther from {pair.A}."));
            cures.Add(new("in the mechanics", "Use reflected light, if the two differ more in brightness than in colour."));
        }
        return new(sensor.Name, grade, answer.Verdict.Say, cures, stale);
    }

    /// <summary>The colour classes of a calibration: zones with 2 samples or more. Null without any.</summary>
    public static ColoursInput? Classes(SensorCalibration calibration)
    {
        var ready = calibration.Zones.Where(z => z.Readings.Count >= 6).ToArray();
        // The sum takes so many samples in all; of more the newest count.
        var most = Colours.MostSamples / Math.Max(1, ready.Length);
        ColourClass[] classes =
        [
            .. ready.Select(z => new ColourClass(z.Zone, [.. z.Readings.Chunk(3).Where(c => c.Length == 3).TakeLast(most)])),
        ];
        return classes.Length == 0 ? null : new(classes);
    }

    private static SensorJudgement Names(Sensor sensor, SensorCalibration calibration, string? stale)
    {
        var named = NamedColours.Judge(calibration.Zones, ColourWords, sensor.SamplePeriodMs, calibration.MaxFalsePerHour);
        var cures = new List<SenseCure>();
        if (named.Verdict.Grade > Grade.Solid)
        {
            if (named.ReadingsNeeded is { } n and > 1)
                cures.Add(new("in the program", $"Ask for {n} readings in a row."));
            cures.Add(new("in the mechanics", "Use the other mode: read red, green and blue and let Chiton tell them apart."));
            cures.Add(new("in the mechanics", "Mount it closer and shade it."));
        }
        return new(sensor.Name, named.Zones.Count < 2 ? null : named.Verdict.Grade, named.Verdict.Say, cures, stale);
    }

    /// <summary>The words of a sensor that names colours, by the number it reports.</summary>
    public static IReadOnlyList<string> ColourWords { get; } =
    ["nothing", "black", "blue", "brown", "green", "grey", "red", "violet", "white", "yellow"];

    private static SensorJudgement Switch(Sensor sensor, SensorCalibration calibration, string? stale)
    {
        var judged = Judged(sensor, calibration.Zones);
        // Nobody has pressed it yet: that it stays open says nothing of how it closes.
        if (
            judged.Traces.Count > 0
            && judged.Traces.All(t => t.DownShare == 0)
            && judged.Traces.All(t => sensor.Zones.Count < 2 || t.Zone != sensor.Zones[1])
        )
            return new(sensor.Name, null, "It was not pressed yet: record it pressed, and tapped a few times.", [], stale);
        var cures = new List<SenseCure>();
        if (judged.Verdict.Grade > Grade.Solid)
        {
            cures.Add(
                new(
                    "in the program",
                    $"Ask for {Count(judged.ReadingsNeeded, "reading")} in a row, which is "
                        + $"{Show((judged.ReadingsNeeded - 1) * sensor.SamplePeriodMs)} ms later."
                )
            );
            cures.Add(new("in the mechanics", "Clean or change the switch, and push its lead home."));
        }
        return new(sensor.Name, judged.Traces.Count == 0 ? null : judged.Verdict.Grade, judged.Verdict.Say, cures, stale);
    }

    /// <summary>The readings of a switch, judged; its first zone is let go, its second pressed.</summary>
    public static SwitchJudgement Judged(Sensor sensor, IReadOnlyList<ZoneReadings> zones) =>
        SwitchJudgement.Judge(
            zones,
            sensor.SamplePeriodMs,
            sensor.Zones.Count > 1 ? sensor.Zones[1] : null,
            sensor.Zones.Count > 0 ? sensor.Zones[0] : null
        );
}
