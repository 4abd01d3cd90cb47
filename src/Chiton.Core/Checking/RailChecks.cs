using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>
/// The checks of a rail vehicle that stops at markers: whether its triggers take enough readings (zone-weak), whether it
/// is slow enough to see a marker (marker-missed) and to stand on it (marker-rest), and which numbers are guesses
/// (guess-used).
/// </summary>
public static class RailChecks
{
    /// <summary>Everything found, in document order, worst first on a line.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How the copy moves.</param>
    /// <param name="calibrations">The copy's calibrations by sensor name.</param>
    /// <param name="program">A program without diagnostics.</param>
    public static IReadOnlyList<Finding> Find(
        RigDesign rig,
        RailMotion motion,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        ProgramNode program
    )
    {
        var found = new List<Finding>();
        // The checks of this catalogue speak of rail vehicles; a rig without one has nothing to be told here yet.
        if (rig.Rail is null || rig.Vehicle is null)
            return [];
        var walk = new ProgramWalk(program, rig);
        var speeds = Speeds(rig, walk);
        foreach (var (transition, at) in walk.Transitions)
            if (transition.Trigger is ZoneTriggerNode trigger && calibrations.TryGetValue(trigger.Sensor, out var calibration))
            {
                if (ZoneWeak(rig, motion, calibration, at.State, transition, trigger, at.OfOwner, speeds) is { } weak)
                    found.Add(weak);
                if (MarkerMissed(rig, motion, at.State, transition, trigger, at.OfOwner, speeds) is { } missed)
                    found.Add(missed);
            }
        found.AddRange(MarkerRest(rig, motion, walk, speeds));
        if (GuessUsed(rig, motion) is { } guess)
            found.Add(guess);
        return [.. found.OrderBy(f => f.Line == 0 ? int.MaxValue : f.Line).ThenBy(f => f.Severity)];
    }

    /// <summary>A place where the program says how fast the vehicle's motor runs; without a sentence it can only be read there.</summary>
    private sealed record SpeedSite(string Owner, int Line, int LineOfOwner, double Power, Func<string, string>? Sentence, int NumberIndex);

    // Every value that the speed of the vehicle may have, wherever it is written: in the command, a constant, a variable, or what sets it.
    private static List<SpeedSite> Speeds(RigDesign rig, ProgramWalk walk)
    {
        var sites = new Dictionary<(int Line, int Number), SpeedSite>();
        foreach (var command in walk.Commands)
        {
            if (command.Action is not RunNode run || !ProgramWalk.Means(rig.Vehicle!, run.Motor))
                continue;
            foreach (var value in walk.Values(run.Speed))
            {
                var site = value switch
                {
                    { Head: VarNode { Value: LiteralNode } v } => Head(
                        v.Span.Line,
                        value.Value,
                        d => Printer.Plain(Printer.Pieces(v with { Value = new LiteralNode(d, "%") }))
                    ),
                    { Head: ConstNode { Value: LiteralNode } c } => Head(
                        c.Span.Line,
                        value.Value,
                        d => Printer.Plain(Printer.Pieces(c with { Value = new LiteralNode(d, "%") }))
                    ),
                    { Head: { } head } => Head(head.Span.Line, value.Value, null),
                    { Set: { Action: SetNode { Value: LiteralNode } set } at } => Site(
                        at,
                        value.Value,
                        d => at.With(set with { Value = new LiteralNode(d, "%") }),
                        at.NumberIndex(set with { Value = Marked })
                    ),
                    { Set: { } at } => Site(at, value.Value, null, 0),
                    _ when run.Speed is LiteralNode => Site(
                        command,
                        value.Value,
                        d => command.With(run with { Speed = new LiteralNode(d, "%") }),
                        command.NumberIndex(run with { Speed = Marked })
                    ),
                    _ => Site(command, value.Value, null, 0),
                };
                sites.TryAdd((site.Line, site.NumberIndex), site);
            }
        }
        return [.. sites.Values];

        static SpeedSite Head(int line, double power, Func<string, string>? sentence) => new("", line, 0, power, sentence, 0);
        static SpeedSite Site(WalkedCommand at, double power, Func<string, string>? sentence, int number) =>
            new(at.At.State.Name, at.At.Number, at.At.OfOwner, power, sentence, number);
    }

    /// <summary>The fastest power that a program asks of the rail vehicle, %, wherever and however it is written; null when it names
    /// none.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="program">A program without diagnostics.</param>
    public static double? FastestPower(RigDesign rig, ProgramNode program) =>
        rig.Vehicle is null ? null : Speeds(rig, new(program, rig)).Select(s => (double?)s.Power).Max();

    // A number that nobody writes: where it shows is where the other one stood.
    private static readonly LiteralNode Marked = new("987654321", "%");

    /// <summary>How often one reading of one zone reads as its neighbour, and how many in a row that takes.</summary>
    private static (string Other, double False, int? Needed, int Readings, IReadOnlyList<Step> Steps)? OneWay(
        SensorCalibration calibration,
        string into,
        double speed,
        RailMotion? motion
    )
    {
        // A trigger into a zone errs when the truth is the neighbour it came from: only that tail matters to it.
        (string, double, int?, int, IReadOnlyList<Step>)? worst = null;
        var rolling = calibration.At(speed > 0 && motion is not null ? new(speed, motion.TremblePercentPerMPerS) : null);
        foreach (var pair in rolling.Pairs())
        {
            if (pair.Lower != into && pair.Upper != into)
                continue;
            var r = pair.Sum.Result;
            var truth = r.Lists[pair.Lower == into ? 1 : 0];
            var floor = calibration.Resolution / Math.Sqrt(12);
            var sd = RailMotion.RollingSd(Math.Max(truth.Sd, floor), truth.Mean, speed, motion?.TremblePercentPerMPerS.Value ?? 0);
            if (sd == 0)
                continue;
            var way = (pair.Lower == into ? truth.Mean - (r.Threshold - r.Hysteresis) : r.Threshold + r.Hysteresis - truth.Mean) / sd;
            if (worst is null || Normal.Q(way) > worst.Value.Item2)
                worst = (truth.Name!, Normal.Q(way), pair.Lower == into ? pair.IntoLower : pair.IntoUpper, truth.Count, pair.Sum.Steps);
        }
        return worst;
    }

    /// <summary>A sentence that takes fewer readings in a row than its zones need, of a sensor that has thresholds; null where it takes
    /// enough.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="calibration">The sensor's calibration.</param>
    /// <param name="at">The sentence.</param>
    public static Finding? ZoneWeak(RigDesign rig, SensorCalibration calibration, WalkedLine at) =>
        at.Line is TransitionNode { Trigger: ZoneTriggerNode trigger } line
            ? ZoneWeak(rig, null, calibration, at.State, line, trigger, at.OfOwner, [])
            : null;

    private static Finding? ZoneWeak(
        RigDesign rig,
        RailMotion? motion,
        SensorCalibration calibration,
        StateNode state,
        TransitionNode line,
        ZoneTriggerNode trigger,
        int lineOfOwner,
        List<SpeedSite> speeds
    )
    {
        var into = trigger.Relation == ZoneRelation.Leaves ? null : trigger.Zone;
        // Leaving a zone with two zones is the same as coming into the other.
        into ??= calibration.Zones.Select(z => z.Zone).FirstOrDefault(z => z != trigger.Zone && calibration.Zones.Count == 2);
        var speed = speeds.Count > 0 && motion is not null ? Math.Abs(motion.SteadySpeed(speeds.Max(s => s.Power))) : 0;
        if (into is null || OneWay(calibration, into, speed, motion) is not { } way || way.Needed is { } ok && trigger.Needed >= ok)
            return null;
        var marker = rig.Rail?.Markers.FirstOrDefault(m => m.Surface == way.Other);
        var oneIn = way.False > 0 ? 1 / way.False : double.PositiveInfinity;
        // Where a bell curve would let it pass, only how ragged and how few the readings are speaks against it.
        var ragged = 3_600_000 / calibration.SamplePeriodMs * Math.Pow(way.False, trigger.Needed) <= calibration.MaxFalsePerHour;
        var enough = $"{(trigger.Needed == 1 ? "one is" : $"{trigger.Needed} in a row are")} enough here";
        var say = ragged
            ? $"By a bell curve no reading over {way.Other} looks like {into}, and {enough}; but with {way.Readings} readings, as ragged "
                + "as these are, that cannot be promised."
            : $"{(speed > 0 ? "While it rolls, about" : "About")} one reading in {Show(oneIn, 2)} over {way.Other} looks like "
                + $"{into}, and {enough}.";
        var headline = $"{trigger.Sensor} can be fooled here";
        if (marker is not null && speed > 0 && !ragged)
        {
            var readings = marker.LengthMm.Value / (speed * calibration.SamplePeriodMs / 1000);
            var twice = 1 - Math.Pow(1 - Math.Pow(way.False, trigger.Needed), readings);
            headline = $"One {marker.Surface} can be counted twice";
            say +=
                $" A {marker.Surface} gives some {Show(readings, 2)} readings, so about "
                + $"{(twice > 0.005 ? $"1 in {Show(Math.Max(1, Math.Round(1 / twice)), 3)}" : "1 in 200 or fewer")} is taken for two.";
        }
        if (way.Needed is null)
            say +=
                $" With {way.Readings} readings of {way.Other} no number in a row can be trusted: record more, or choose another "
                + "threshold in Sense.";
        var cure = way.Needed is not { } n
            ? null
            : new Cure(
                $"Use {Count(n, "reading")}",
                [
                    new(
                        line.Span.Line,
                        Printer.Plain(Printer.Pieces(line with { Trigger = trigger with { Readings = n.ToString() } })),
                        0,
                        $"calculated: {n} in a row keep false switches below {Show(calibration.MaxFalsePerHour)} an hour"
                    ),
                ]
            );
        return new("zone-weak", ragged ? Severity.Advice : Severity.Risky, state.Name, line.Span.Line, lineOfOwner, headline, say, cure)
        {
            Sum = new("threshold", way.Steps),
        };
    }

    private static Finding? MarkerMissed(
        RigDesign rig,
        RailMotion motion,
        StateNode state,
        TransitionNode line,
        ZoneTriggerNode trigger,
        int lineOfOwner,
        List<SpeedSite> speeds
    )
    {
        var marker = rig.Rail!.Markers.FirstOrDefault(m => m.Surface == trigger.Zone);
        var eye = rig.Eyes.FirstOrDefault(e => e.Name == trigger.Sensor);
        if (marker is null || eye is null || speeds.Count == 0 || trigger.Relation == ZoneRelation.Leaves)
            return null;
        var fastest = speeds.MaxBy(s => s.Power)!;
        var speed = motion.SteadySpeed(fastest.Power);
        if (speed <= 0)
            return null;
        var pass = MarkerPass.Compute(new(marker.LengthMm.Value, eye.Spot.Value, eye.SamplePeriodMs, trigger.Needed, speed));
        if (pass.Verdict!.Grade < Grade.Fragile)
            return null;
        var power = Math.Floor(motion.PowerForSpeed(pass.Result.MaxSpeedMmPerS / 2));
        return new(
            "marker-missed",
            pass.Verdict.Grade == Grade.Unusable ? Severity.Stops : Severity.Risky,
            state.Name,
            line.Span.Line,
            lineOfOwner,
            $"A {marker.Surface} can be missed",
            $"At {Show(fastest.Power)} % it rolls {Show(speed, 3)} mm/s, and a {marker.Surface} passes in "
                + $"{Count(pass.Result.ReadingsOnMarker!.Value, "reading")}. It needs {trigger.Needed} to count, with some to spare.",
            power >= 1 && motion.SteadySpeed(power) > 0 ? SpeedCure(power, speeds) : null
        )
        {
            Sum = Evidence.Of("marker-pass", pass),
        };
    }

    // One button mends every place that is too fast; where one of them cannot be written anew, there is none.
    private static Cure? SpeedCure(double power, List<SpeedSite> speeds) =>
        speeds.Any(s => s.Power > power && s.Sentence is null)
            ? null
            : new(
                $"Use {Show(power)} %",
                [
                    .. speeds
                        .Where(s => s.Power > power)
                        .Select(s => new CureEdit(
                            s.Line,
                            s.Sentence!(Show(power)),
                            s.NumberIndex,
                            "calculated from the marker, the eye and the brake"
                        )),
                ]
            );

    private static IEnumerable<Finding> MarkerRest(RigDesign rig, RailMotion motion, ProgramWalk walk, List<SpeedSite> speeds)
    {
        var eye = rig.Eyes.FirstOrDefault();
        if (eye is null || speeds.Count == 0)
            yield break;
        // A stop of the vehicle, of everything, or the end of what runs while a state is active.
        var stop =
            walk.Commands.Select(c =>
                    c.Action switch
                    {
                        StopNode s when ProgramWalk.Means(rig.Vehicle!, s.Motor) => s,
                        StopAllNode => new StopNode(rig.Vehicle!.Name, StopMode.Default),
                        _ => null,
                    }
                )
                .FirstOrDefault(s => s is not null)
            ?? (
                walk.Commands.Any(c =>
                    c is { Action: RunNode r, At.Line: ActivityNode { Moment: ActivityMoment.While } }
                    && ProgramWalk.Means(rig.Vehicle!, r.Motor)
                )
                    ? new StopNode(rig.Vehicle!.Name, StopMode.Default)
                    : null
            );
        if (stop is null)
            yield break;
        foreach (var goal in walk.Program.Head.OfType<RuleNode>().Where(r => r.IsGoal && r.Condition == ConditionKind.StoppedOver))
        {
            var marker = rig.Rail!.Find(goal.Place!)!;
            var needed = walk
                .Transitions.Select(t => t.Transition.Trigger)
                .OfType<ZoneTriggerNode>()
                .Where(z => z.Zone == marker.Surface && z.Relation != ZoneRelation.Leaves)
                .Select(z => z.Needed)
                .DefaultIfEmpty(1)
                .Max();
            var site = speeds.MaxBy(s => s.Power)!;
            var coast = stop.Mode == StopMode.Coast;
            var (low, high) = RestRange(motion, marker, eye, needed, coast, site.Power);
            var worked = RestEvidence(motion, marker, eye, needed, coast, site.Power);
            var spot = eye.Spot.Value;
            double from = spot / 2,
                to = marker.LengthMm.Value - spot / 2;
            var speed = motion.SteadySpeed(site.Power);
            var figures =
                $"At {Show(site.Power)} % it rolls {Show(speed, 3)} mm/s and its eye comes to rest {Show(Math.Max(0, low), 2)} to "
                + $"{Show(high, 2)} mm past the leading edge. To stand on a {Show(marker.LengthMm.Value)} mm tag it must be "
                + $"{Show(from)} to {Show(to)} mm.";
            if (high > to)
            {
                var power = Math.Floor(site.Power);
                while (power >= 1 && RestRange(motion, marker, eye, needed, coast, power).High > to)
                    power--;
                var can = power >= 1 && motion.SteadySpeed(power) > 0;
                yield return new(
                    "marker-rest",
                    Severity.Risky,
                    site.Owner,
                    site.Line,
                    site.LineOfOwner,
                    "It rolls too fast to stop on its tag",
                    figures,
                    can ? SpeedCure(power, speeds) : null
                )
                {
                    Sum = worked,
                };
            }
            else if (low < from - spot && speed > 0)
                yield return new(
                    "marker-rest",
                    Severity.Risky,
                    site.Owner,
                    site.Line,
                    site.LineOfOwner,
                    "It can stop short of its tag",
                    figures,
                    null
                )
                {
                    Sum = worked,
                };
            else if (speed > 0)
                yield return new(
                    "marker-rest",
                    Severity.Holds,
                    site.Owner,
                    site.Line,
                    site.LineOfOwner,
                    "It stops on its tag",
                    figures,
                    null
                );
        }
    }

    /// <summary>
    /// Where the eye comes to rest past a marker's leading edge, with two SDs of speed and braking either side: the sum
    /// <c>marker-pass</c> and its spread to first order (distance grows with speed squared when braked, and falls with
    /// the deceleration).
    /// </summary>
    public static (double Low, double High) RestRange(
        RailMotion motion,
        Marker marker,
        Sensor eye,
        int readings,
        bool coast,
        double powerPercent
    )
    {
        var speed = motion.SteadySpeed(powerPercent);
        if (speed <= 0)
            return (0, 0);
        var rest = Rest(motion, marker, eye, readings, coast, speed).Result;
        var sd = RestSd(motion, coast, speed);
        return (rest.RestLowMm!.Value - eye.Spot.Value - 2 * sd, rest.RestHighMm!.Value + 2 * sd);
    }

    private static Answer<MarkerPassResult> Rest(RailMotion motion, Marker marker, Sensor eye, int readings, bool coast, double speed) =>
        MarkerPass.Compute(
            new(
                marker.LengthMm.Value,
                eye.Spot.Value,
                eye.SamplePeriodMs,
                readings,
                speed,
                motion.ActuatorDelayMs.Value,
                coast ? null : motion.BrakeDecelMmPerS2.Value,
                coast ? motion.CoastTimeConstantMs.Value : null
            )
        );

    // The same step by step, with the spread behind it.
    private static Evidence? RestEvidence(RailMotion motion, Marker marker, Sensor eye, int readings, bool coast, double powerPercent)
    {
        var speed = motion.SteadySpeed(powerPercent);
        if (speed <= 0)
            return null;
        var rest = Rest(motion, marker, eye, readings, coast, speed);
        var (sd, spot) = (RestSd(motion, coast, speed), eye.Spot.Value);
        double low = rest.Result.RestLowMm!.Value,
            high = rest.Result.RestHighMm!.Value;
        return new(
            "marker-pass",
            [
                .. rest.Steps,
                new(
                    "How far the place lies off from run to run, as one standard deviation",
                    $"speed ± {Show(100 * motion.RelativeSpeedSd, 2)} %, " + $"{(coast ? "rolling out" : "braking")} as its trials spread",
                    sd,
                    "mm"
                ),
                new(
                    "Nearest to the leading edge: a spot earlier, and two standard deviations",
                    $"{Show(low, 3)} mm − {Show(spot)} mm − 2 × {Show(sd, 2)} mm",
                    low - spot - 2 * sd,
                    "mm"
                ),
                new("Farthest from it: two standard deviations more", $"{Show(high, 3)} mm + 2 × {Show(sd, 2)} mm", high + 2 * sd, "mm"),
            ]
        );
    }

    private static double RestSd(RailMotion motion, bool coast, double speed)
    {
        var brake = motion.BrakeDecelMmPerS2;
        var braking = coast ? speed * motion.CoastTimeConstantMs.Value / 1000 : speed * speed / (2 * brake.Value);
        var stopShare = coast
            ? motion.CoastTimeConstantMs.BetweenRunsSd / motion.CoastTimeConstantMs.Value
            : Math.Sqrt(brake.BetweenRunsSd * brake.BetweenRunsSd + brake.MoveSd * brake.MoveSd) / brake.Value;
        var speedShare = (coast ? 1 : 2) * motion.RelativeSpeedSd;
        return braking * Math.Sqrt(speedShare * speedShare + stopShare * stopShare) + speed * motion.ActuatorDelayMs.BetweenRunsSd / 1000;
    }

    private static Finding? GuessUsed(RigDesign rig, RailMotion motion)
    {
        var guesses = motion.Named.Where(n => n.Number.Kind == Provenance.Guessed).ToList();
        foreach (var eye in rig.Eyes)
        {
            if (eye.Spot.Kind == Provenance.Guessed)
                guesses.Add(($"spot of {eye.Name}", eye.Spot));
        }
        if (guesses.Count == 0)
            return null;
        return new(
            "guess-used",
            Severity.Advice,
            "",
            0,
            0,
            guesses.Count == 1 ? "One number is a guess" : $"{guesses.Count} numbers are guesses",
            "Never tested on this copy: "
                + $"{string.Join(", ", guesses.Select(g => $"{g.Name} ({Show(g.Number.Value)} {g.Number.Unit})"))}. Simulation draws "
                + "them from a wide spread.",
            null
        );
    }
}
