using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Classroom.Training;

/// <summary>Exercises: a number of motion, worked out from the rig's own numbers.</summary>
public static class Working
{
    /// <summary>At least this share of a number may be off: nobody works it out to more figures.</summary>
    public const double LeastGive = 0.02;

    private sealed record Sum(
        string Key,
        string Ask,
        IReadOnlyList<string> Facts,
        double Right,
        string Unit,
        string Reason,
        IReadOnlyList<Slip> Slips,
        double Unsure
    );

    /// <summary>Makes one; null where the rig has no number to work with.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="seed">Seed of what is drawn.</param>
    public static Exercise? Make(TrainingRig rig, ulong seed)
    {
        var luck = new RandomStream(seed, 5);
        var sums = new List<Func<Sum>>();
        var design = rig.Copy.Rig;
        foreach (var m in design.Mechanisms)
        {
            if ((rig.Copy.Moves.InUse(m.Name, TrialKind.Straight) ?? m.WheelDiameterMm) is not { Value: > 0 } wheel)
                continue;
            var way = 50.0 * (4 + luck.Below(27));
            var turns = 1 + luck.Below(12);
            sums.Add(() => Turns(m, wheel, way));
            sums.Add(() => Degrees(m, wheel, way));
            sums.Add(() => Way(m, wheel, turns));
            var track = rig.Copy.Moves.InUse(m.Name, TrialKind.Turn) ?? m.TrackWidthMm;
            var angle = 15.0 * (2 + luck.Below(23));
            if (track is { Value: > 0 })
            {
                sums.Add(() => Turning(m, wheel, track, angle, pivot: false));
                sums.Add(() => Turning(m, wheel, track, angle, pivot: true));
            }
        }
        var gap = 10.0 * (6 + luck.Below(25));
        var back = 5.0 * (2 + luck.Below(14));
        foreach (var sensor in design.Sensors.Where(s => s.Kind == SensorKind.Distance))
            sums.Add(() => Trigger(sensor, gap, back));
        var (tag, readings) = (5.0 * (4 + luck.Below(20)), 1 + luck.Below(6));
        foreach (var eye in design.Eyes)
            sums.Add(() => OverTag(eye, tag, readings));
        if (sums.Count == 0)
            return null;
        var made = sums[luck.Below(sums.Count)]();
        var give = Math.Abs(made.Right) * Math.Max(LeastGive, 2 * made.Unsure);
        return new(ExerciseKind.Work, $"work {rig.Id} {made.Key}", rig.Name, made.Ask, [], made.Facts)
        {
            // A slip that comes out within what is right would be no slip.
            Number = new(made.Unit, made.Right, give, [.. made.Slips.Where(s => Math.Abs(s.Value - made.Right) > 1.2 * give)]),
            Reason = made.Reason,
        };
    }

    private static double Unsure(params Quantity[] numbers) => Math.Sqrt(numbers.Sum(q => q.MeanSd / q.Value * (q.MeanSd / q.Value)));

    private static string Fact(string what, Quantity q) => $"{what} {Show(q.Value)} mm";

    private static Sum Turns(Mechanism m, Quantity wheel, double way)
    {
        var turns = way / (Math.PI * wheel.Value);
        return new(
            $"turns {m.Name} {way} {wheel.Value}",
            $"{m.Name} is to go {Show(way)} mm. How many turns must its wheel make?",
            [Fact("Wheel diameter", wheel)],
            turns,
            "wheel turns",
            $"One turn rolls off π × {Show(wheel.Value)} mm = {Show(Math.PI * wheel.Value)} mm; "
                + $"{Show(way)} / {Show(Math.PI * wheel.Value)} = {Show(turns)}.",
            [
                new(2 * turns, "That takes the radius for the diameter."),
                new(turns / 2, "That takes the diameter for the radius, twice as far a turn."),
                new(turns * 360, "Those are degrees; asked for are turns."),
                new(way / wheel.Value, "π was left out."),
            ],
            Unsure(wheel)
        );
    }

    private static Sum Degrees(Mechanism m, Quantity wheel, double way)
    {
        var degrees = way / (Math.PI * wheel.Value) * 360;
        return new(
            $"degrees {m.Name} {way} {wheel.Value}",
            $"{m.Name} is to go {Show(way)} mm. How many degrees must its wheel turn?",
            [Fact("Wheel diameter", wheel)],
            degrees,
            "wheel degrees",
            $"{Show(way)} mm / (π × {Show(wheel.Value)} mm) = {Show(degrees / 360)} turns, times 360.",
            [
                new(degrees / 360, "360 was left out: those are turns."),
                new(2 * degrees, "That takes the radius for the diameter."),
                new(degrees / 2, "That takes the diameter for the radius."),
                new(way / wheel.Value * 360, "π was left out."),
            ],
            Unsure(wheel)
        );
    }

    private static Sum Way(Mechanism m, Quantity wheel, int turns)
    {
        var way = turns * Math.PI * wheel.Value;
        return new(
            $"way {m.Name} {turns} {wheel.Value}",
            $"The wheel of {m.Name} makes {Count(turns, "turn")}. How far does it go?",
            [Fact("Wheel diameter", wheel)],
            way,
            "mm",
            $"{turns} × π × {Show(wheel.Value)} mm = {Show(way)} mm.",
            [
                new(way / 2, "That takes the radius for the diameter."),
                new(2 * way, "That takes the diameter for the radius."),
                new(turns * wheel.Value, "π was left out."),
                new(way * 360, "360 has no place here: turns are asked about."),
            ],
            Unsure(wheel)
        );
    }

    private static Sum Turning(Mechanism m, Quantity wheel, Quantity track, double angle, bool pivot)
    {
        var degrees = (pivot ? 2 : 1) * angle * track.Value / wheel.Value;
        return new(
            $"turning {m.Name} {angle} {pivot} {wheel.Value} {track.Value}",
            pivot
                ? $"{m.Name} is to turn {Show(angle)} robot degrees about one wheel that stands still. "
                    + "How many degrees must the other wheel turn?"
                : $"{m.Name} is to turn {Show(angle)} robot degrees on the spot. How many degrees must each wheel turn?",
            [Fact("Wheel diameter", wheel), Fact("Track width", track)],
            degrees,
            "wheel degrees",
            pivot
                ? "The wheel goes round a circle whose radius is the track: "
                    + $"2 × {Show(angle)} × {Show(track.Value)} / {Show(wheel.Value)} = {Show(degrees)}."
                : "Each wheel goes round a circle whose diameter is the track: "
                    + $"{Show(angle)} × {Show(track.Value)} / {Show(wheel.Value)} = {Show(degrees)}.",
            [
                new(angle, "Those are degrees of the robot; the wheel turns others."),
                new(
                    pivot ? degrees / 2 : 2 * degrees,
                    pivot
                        ? "That is for a turn on the spot: about one wheel the circle is twice as large."
                        : "That is for a turn about one wheel, or takes the radius for the diameter."
                ),
                new(degrees / 360, "Those are turns; asked for are degrees."),
                new(angle * wheel.Value / track.Value, "Track and wheel are the wrong way round."),
            ],
            Unsure(wheel, track)
        );
    }

    private static Sum Trigger(Sensor sensor, double gap, double back)
    {
        var trigger = gap + back;
        return new(
            $"trigger {sensor.Name} {gap} {back}",
            $"It is to come to rest {Show(gap)} mm before what {sensor.Name} sees. At which reading must it be told to stop?",
            [$"From the command to stop until it rests it goes {Show(back)} mm on"],
            trigger,
            "mm",
            $"It goes {Show(back)} mm on, so it is told earlier: {Show(gap)} + {Show(back)} = {Show(trigger)} mm.",
            [
                new(gap, "Then it comes to rest too near: it goes on after the command."),
                new(gap - back, "The way on belongs to the gap, not off it."),
            ],
            0
        );
    }

    private static Sum OverTag(Sensor eye, double tag, int readings)
    {
        var period = eye.SamplePeriodMs;
        var speed = tag / (readings * period) * 1000;
        return new(
            $"tag {eye.Name} {tag} {readings} {period}",
            $"{eye.Name} is to have {Count(readings, "reading")} over a tag of {Show(tag)} mm. How fast may it roll at most?",
            [$"{eye.Name} reads every {Show(period)} ms"],
            speed,
            "mm/s",
            $"{Count(readings, "reading")} take {Show(readings * period)} ms; "
                + $"{Show(tag)} mm in {Show(readings * period / 1000)} s are {Show(speed)} mm/s.",
            [
                new(speed / 1000, "Those are mm in a millisecond."),
                new(speed * readings, "That is for one reading; more are asked for."),
                new(1000 / period, "Those are readings a second."),
                new(tag * readings * period / 1000, "Multiplied where it is to be divided."),
            ],
            0
        );
    }
}
