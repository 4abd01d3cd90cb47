using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Something that is there and is taken for what is waited for, or what is waited for and taken for something that nobody
/// waits for.</summary>
internal sealed class ZoneLookalike : Check
{
    // Of a hundred readings, so many may be taken for another before it is told.
    private const double Bearable = 0.02;

    /// <inheritdoc/>
    public override string Code => "zone-lookalike";

    /// <inheritdoc/>
    public override string Title => "Something else looks like it";

    /// <inheritdoc/>
    public override string Says =>
        "The floor, a hand or another marker reads like what a sentence waits for; or what it waits for reads like a zone that no sentence "
        + "asks for.";

    /// <inheritdoc/>
    public override string Part => "sense";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Calibrations.Values.Any(c => c.Zones.Any(z => z.Readings.Count > 0)) ? null : "No sensor of this copy has readings.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var awaited = input
            .Walk.Transitions.SelectMany(t => Waited.Of(input, t.Transition).Where(w => w.Zone is not null).Select(w => (w, t.At)))
            .ToArray();
        var told = new HashSet<(string, string, string)>();
        foreach (var (waited, at) in awaited)
        {
            var sensor = waited.Sensor;
            // What is waited for to be over is no marker: anything may look like the ground.
            if (input.Calibrations.GetValueOrDefault(sensor.Name) is not { } calibration || Grounds(input).Contains(waited.Zone!))
                continue;
            foreach (var (other, share, headline, say) in Alike(input, sensor, calibration, waited.Zone!, [.. awaited.Select(a => a.w)]))
                if (told.Add((sensor.Name, waited.Zone!, other)))
                {
                    // Readings tremble each for itself: several in a row are seldom all wrong.
                    var row = Math.Pow(share, waited.Readings);
                    yield return At(
                        at,
                        row > Bearable ? Severity.Risky : Severity.Advice,
                        headline,
                        say + (row > Bearable ? "" : $" {Count(waited.Readings, "reading")} in a row keep it rare here."),
                        sensor.Name
                    );
                }
        }
    }

    // The floor of the rig's line and of its scenes.
    private static HashSet<string> Grounds(CheckInput input) =>
        [
            .. input
                .Places.SelectMany(p => p.Lines)
                .Where(l => l.Key is "floor" or "deck" or "rail")
                .Select(l => l.Name("of"))
                .Append(input.Rig.Rail?.Ground)
                .OfType<string>(),
        ];

    private static IEnumerable<(string Other, double Share, string Headline, string Say)> Alike(
        CheckInput input,
        Sensor sensor,
        SensorCalibration calibration,
        string zone,
        Waited[] awaited
    )
    {
        bool Awaited(string other) => awaited.Any(a => a.Sensor.Name == sensor.Name && a.Zone == other);
        if (sensor.Facts.View == "scalar" && calibration.Scale() is { } scale)
        {
            // What is no zone of it and lies there all the same.
            foreach (var (name, mean, sd, where) in Surfaces(input, sensor))
            {
                if (calibration.Reads(name) is not null)
                    continue;
                var share = ShareIn(scale, zone, mean, Math.Max(sd, calibration.Resolution / Math.Sqrt(12)));
                if (share > Bearable)
                    yield return (
                        name,
                        share,
                        $"{sensor.Name} takes {name} for {zone}",
                        $"{name} reads {Show(mean)} % give or take {Show(sd, 2)} % ({where}), and {zone} is what reads "
                            + $"{Stretch(scale, zone)}: "
                            + $"{Show(100 * share, 2)} of 100 readings of {name} count as {zone}. Give {name} readings of its own "
                            + $"in Sense, "
                            + "paint it otherwise, or wait for what cannot be mistaken."
                    );
            }
        }
        else if (sensor.Facts.View == "colours" && SenseJudge.Classes(calibration) is { Classes: { Count: >= 2 } classes } input3)
        {
            var result = Colours.Compute(input3).Result;
            var own = result.Classes.ToList().IndexOf(zone);
            if (own < 0)
                yield break;
            for (var k = 0; k < result.Classes.Count; k++)
            {
                if (k == own)
                    continue;
                var other = result.Classes[k];
                int mine = classes[own].Samples!.Count,
                    its = classes[k].Samples!.Count;
                // Its samples taken for what is waited for; and those of what is waited for taken for what nobody asks for.
                if (result.Confusion[k][own] > Math.Max(1, Bearable * its))
                    yield return (
                        other,
                        result.Confusion[k][own] / (double)its,
                        $"{sensor.Name} takes {other} for {zone}",
                        $"{Count(result.Confusion[k][own], "sample")} of {other} of {its} on this copy (measured) are "
                            + $"nearer to {zone}. Ask for more readings in a row, mount {sensor.Name} nearer, or paint them farther apart."
                    );
                else if (!Awaited(other) && result.Confusion[own][k] > Math.Max(1, Bearable * mine))
                    yield return (
                        other,
                        result.Confusion[own][k] / (double)mine,
                        $"{sensor.Name} takes {zone} for {other}",
                        $"{Count(result.Confusion[own][k], "sample")} of {zone} of {mine} on this copy (measured) are "
                            + $"nearer to {other}, and no sentence waits for {other}. Take {other} out of the zones of "
                            + $"{sensor.Name}, or paint it otherwise."
                    );
            }
        }
        else if (sensor.Facts.View == "names")
        {
            var named = NamedColours.Judge(calibration.Zones, SenseJudge.ColourWords, sensor.SamplePeriodMs, calibration.MaxFalsePerHour);
            string? TakenFor(WordCount w) => named.ByWord.GetValueOrDefault(w.Word);
            foreach (var other in named.Zones.Where(z => z.Zone != zone))
            {
                int its = other.Words.Sum(w => w.Count),
                    wrong = other.Words.Where(w => TakenFor(w) == zone).Sum(w => w.Count);
                if (wrong > Bearable * its)
                    yield return (
                        other.Zone,
                        wrong / (double)its,
                        $"{sensor.Name} takes {other.Zone} for {zone}",
                        $"{wrong} of {Count(its, "reading")} of {other.Zone} on this copy (measured) are a colour that stands for {zone}. "
                            + "Read red, green and blue instead, or paint one otherwise."
                    );
                else if (
                    !Awaited(other.Zone)
                    && named.Zones.FirstOrDefault(z => z.Zone == zone) is { } mine
                    && mine.Words.Sum(w => w.Count) is > 0 and var all
                    && mine.Words.Where(w => TakenFor(w) == other.Zone).Sum(w => w.Count) is var lost
                    && lost > Bearable * all
                )
                    yield return (
                        other.Zone,
                        lost / (double)all,
                        $"{sensor.Name} takes {zone} for {other.Zone}",
                        $"{lost} of {Count(all, "reading")} of {zone} on this copy (measured) are a colour that stands for "
                            + $"{other.Zone}, and no "
                            + $"sentence waits for {other.Zone}. Read red, green and blue instead, or paint one otherwise."
                    );
            }
        }
    }

    // Where a zone lies on its scale, in words.
    private static string Stretch(ZoneScale scale, string zone)
    {
        var at = scale.Names.ToList().IndexOf(zone);
        return at == 0 ? $"below {Show(scale.Boundaries[0].Threshold)} %"
            : at == scale.Names.Count - 1 ? $"above {Show(scale.Boundaries[^1].Threshold)} %"
            : $"from {Show(scale.Boundaries[at - 1].Threshold)} to {Show(scale.Boundaries[at].Threshold)} %";
    }

    /// <summary>The share of readings about a mean that lies in a zone.</summary>
    private static double ShareIn(ZoneScale scale, string zone, double mean, double sd)
    {
        var at = scale.Names.ToList().IndexOf(zone);
        if (at < 0)
            return 0;
        // Q is the upper tail of a standard normal.
        var above = at == 0 ? 1 : Normal.Q((scale.Boundaries[at - 1].Threshold - mean) / sd);
        var beyond = at == scale.Names.Count - 1 ? 0 : Normal.Q((scale.Boundaries[at].Threshold - mean) / sd);
        return above - beyond;
    }

    // Surfaces that an eye comes over: of the rig's line, and of its scenes where they say what it reads there.
    private static IEnumerable<(string Name, double Mean, double Sd, string Where)> Surfaces(CheckInput input, Sensor sensor)
    {
        if (sensor.Kind == SensorKind.ReflectedLight && input.Rig.Rail is { } rail)
            foreach (var s in rail.Surfaces)
                if (s.Name == rail.Ground || rail.Markers.Any(m => m.Surface == s.Name))
                    yield return (s.Name, s.Reads.Value, s.Reads.MoveSd, $"{s.Reads.Kind.ToString().ToLowerInvariant()}: {s.Reads.Source}");
        foreach (var scene in input.Places)
        foreach (var line in scene.All("surface reads").Where(l => l.Name("eye") == sensor.Name))
            if (line.Number("x") is { } number)
                yield return (
                    line.Name("name")!,
                    number.In("%"),
                    number.GiveOrTake?.In("%") ?? 0,
                    $"{line.Kind.ToString().ToLowerInvariant()}, “{scene.Name}”"
                );
    }
}
