using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Sentences that take fewer readings in a row than their zones need, on rigs that run on no rail.</summary>
internal static class WeakZones
{
    /// <summary>Everything found.</summary>
    public static IEnumerable<Finding> Find(CheckInput input)
    {
        // What runs on a rail is told with what its rolling adds.
        var rail = input.Rig is { Rail: not null, Vehicle: not null } && input.Motion is not null;
        var told = new HashSet<string>();
        foreach (var (sentence, at) in input.Walk.Transitions)
        {
            if (
                sentence.Trigger is ZoneTriggerNode { For: null } trigger
                && input.Calibrations.GetValueOrDefault(trigger.Sensor) is { } known
            )
            {
                var sensor = input.Rig.Sensors.First(s => s.Name == trigger.Sensor);
                if (sensor.Facts.View == "scalar" && !rail && RailChecks.ZoneWeak(input.Rig, known, at) is { } weak)
                    yield return weak with
                    {
                        Device = sensor.Name,
                    };
            }
            foreach (var waited in Waited.Of(input, sentence))
                if (
                    waited is { Zone: { } zone, Sensor: { Bands.Count: > 1 } range }
                    && input.Calibrations.GetValueOrDefault(range.Name) is { } calibration
                    && calibration.Zones.Any(z => z.Readings.Count >= 3)
                    && SenseJudge
                        .Judged(range, calibration)
                        .Boundaries.Where(b => b.Nearer == zone || b.Farther == zone)
                        .MaxBy(b => b.ReadingsNeeded ?? int.MaxValue)
                        is { } edge
                    && edge.ReadingsNeeded is var needed
                    && (needed is null || waited.Readings < needed)
                    // Once a sensor: its bands are the same for all.
                    && told.Add(range.Name)
                )
                    yield return new(
                        "zone-weak",
                        // A thing that stands right on the boundary is the worst there is; how often it does, the bench tells.
                        Severity.Advice,
                        at.State.Name,
                        at.Number,
                        at.OfOwner,
                        $"{range.Name} can be fooled here",
                        $"{edge.Say} {(waited.Readings == 1 ? "One reading is" : $"{waited.Readings} in a row are")} enough here.",
                        needed is { } n && sentence.Trigger is ZoneTriggerNode z
                            ? new(
                                $"Use {Count(n, "reading")}",
                                [
                                    new(
                                        at.Number,
                                        Places.With(
                                            sentence,
                                            z with
                                            {
                                                Readings = n.ToString(System.Globalization.CultureInfo.InvariantCulture),
                                            }
                                        ),
                                        0,
                                        $"calculated: {n} in a row keep false switches below {Show(calibration.MaxFalsePerHour)} an hour"
                                    ),
                                ]
                            )
                            : null
                    )
                    {
                        Device = range.Name,
                    };
        }
    }
}

/// <summary>Marks that something carries past an eye, or that a robot drives over, in fewer readings than a sentence takes.</summary>
internal static class MarkersPassed
{
    /// <summary>Why it cannot be looked for; null where it can.</summary>
    public static string? Cannot(CheckInput input) =>
        input.Places.Any(s => Marks(input, s).Any()) ? null : "In no scene of this rig marks pass an eye.";

    private sealed record Mark(string Surface, double LengthMm, string Eye, string? On, string Say);

    // Marks on what turns or slides past an eye, and patches and strips that a robot crosses.
    private static IEnumerable<Mark> Marks(CheckInput input, Simulation.Scenes.SceneNode scene)
    {
        foreach (var line in scene.All("notches"))
            if (line.Value("l") is > 0 and var length)
                yield return new(
                    line.Name("of")!,
                    length,
                    line.Name("eye")!,
                    line.Name("mech"),
                    $"a {line.Name("of")} of {Show(length)} mm"
                );
        if (input.Rig.Mechanisms.All(m => m.Facts.Going != Going.Steered))
            yield break;
        foreach (var line in scene.Lines.Where(l => l.Key is "patch" or "round patch" or "strip"))
            if (Math.Min(line.Value("w") ?? 0, line.Value("d") ?? double.MaxValue) is > 0 and < double.MaxValue and var across)
                foreach (var eye in input.Rig.Eyes.Where(e => e.Mount.Facing == Facing.Down))
                    yield return new(
                        line.Name("of") ?? line.Name("name") ?? "",
                        across,
                        eye.Name,
                        null,
                        $"a {line.Name("of") ?? line.Name("name")} {Show(across)} mm across"
                    );
    }

    /// <summary>Everything found.</summary>
    public static IEnumerable<Finding> Find(CheckInput input)
    {
        var drive = input.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered);
        var told = new HashSet<int>();
        foreach (var (sentence, at) in input.Walk.Transitions)
        foreach (var waited in Waited.Of(input, sentence))
        foreach (var scene in input.Places)
        foreach (var mark in Marks(input, scene).Where(m => m.Eye == waited.Sensor.Name && m.Surface == waited.Zone))
        {
            // How fast it passes while the sentence is listened to; a line that is followed is not crossed.
            var commands = Places.DoesAround(input, at.State).ToArray();
            if (mark.On is null && commands.Any(c => c.Action is FollowNode))
                continue;
            var paces = commands
                .Select(c =>
                    (
                        Command: c,
                        Pace: c.Action switch
                        {
                            RunNode r when mark.On is { } on && Places.Mechanism(input, r.Motor)?.Name == on => Paces.Sliding(
                                input,
                                r.Motor,
                                r.Speed
                            ),
                            DriveNode d when mark.On is null && drive is not null => Paces.Rolling(input, drive, d.Speed),
                            _ => null,
                        }
                    )
                )
                .Where(p => p.Pace is not null)
                .ToArray();
            if (paces.Length == 0 || paces.MaxBy(p => p.Pace!.Value) is not { Pace: { } pace, Command: var command })
                continue;
            var pass = MarkerPass.Compute(
                new(mark.LengthMm, waited.Sensor.Spot.Value, waited.Sensor.SamplePeriodMs, waited.Readings, pace.Value)
            );
            if (pass.Verdict!.Grade < Grade.Fragile || !told.Add(at.Number))
                continue;
            var readings = pass.Result.ReadingsOnMarker ?? 0;
            yield return new(
                "marker-missed",
                !input.CountsIn(scene) ? Severity.Advice
                    : pass.Verdict.Grade == Grade.Unusable && readings == 0 ? Severity.Stops
                    : pass.Verdict.Grade == Grade.Unusable ? Severity.Risky
                    : Severity.Advice,
                at.State.Name,
                at.Number,
                at.OfOwner,
                $"A {mark.Surface} can be missed",
                $"At {Show(pace.Value, 3)} mm/s ({pace.From}) {mark.Say} (“{scene.Name}”) passes {waited.Sensor.Name} in "
                    + $"{Count(readings, "reading")} "
                    + $"with its whole spot of {Show(waited.Sensor.Spot.Value)} mm on it; {waited.Readings} count, and some "
                    + $"should be to spare."
                    + (
                        pass.Result.MaxSpeedMmPerS > 0
                            ? $" Up to {Show(pass.Result.MaxSpeedMmPerS, 3)} mm/s they are certain."
                            : " It is no longer than the spot."
                    ),
                Slower(command, pass.Result.MaxSpeedMmPerS / 2 / pace.Value)
            )
            {
                Device = waited.Sensor.Name,
                Sum = Evidence.Of("marker-pass", pass),
            };
        }
    }

    private static Cure? Slower(WalkedCommand command, double share)
    {
        var (speed, with) = command.Action switch
        {
            RunNode r => (r.Speed, (Func<ExprNode, ActionNode>)(s => r with { Speed = s })),
            DriveNode d => (d.Speed, s => d with { Speed = s }),
            _ => (null!, null!),
        };
        if (
            speed is not LiteralNode written
            || Math.Floor(share * written.BaseValue) is not (>= 5 and var value)
            || value >= written.BaseValue
        )
            return null;
        var mended = with(new LiteralNode(Show(value), written.Unit));
        return new(
            $"Use {Show(value)} {written.Unit}",
            [new(command.At.Number, command.With(mended), command.NumberIndex(mended), "half the speed at which its readings are certain")]
        );
    }
}
