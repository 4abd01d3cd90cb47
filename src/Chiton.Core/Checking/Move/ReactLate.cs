using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Scenes;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Something that is noticed, and is there before what should meet it has moved.</summary>
internal sealed class ReactLate : Check
{
    // From the decision to the actuator obeying, where nobody measured it, ms.
    private const double UsualDelayMs = 40;

    /// <inheritdoc/>
    public override string Code => "react-late";

    /// <inheritdoc/>
    public override string Title => "Reacts too late";

    /// <inheritdoc/>
    public override string Says =>
        "What comes is noticed too near, or passes in fewer readings than the sentence takes: it is there before the mechanism has moved.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Places.Any(s => s.All("comes").Any() || s.First("belt") is not null)
            ? null
            : "In no scene of this rig anything comes, before a sensor or on a belt: nobody knows how fast.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var (sentence, at) in input.Walk.Transitions)
        foreach (var waited in Waited.Of(input, sentence))
        {
            if (Coming(input, sentence, at, waited) is { } coming)
                yield return coming;
            if (OnBelt(input, sentence, at, waited) is { } carried)
                yield return carried;
        }
    }

    // Something comes before a sensor of distance, and something else is told to move.
    private Finding? Coming(CheckInput input, TransitionNode sentence, WalkedLine at, Waited waited)
    {
        if (waited is not { Sensor: { Kind: SensorKind.Distance } sensor, IsNear: true } || Move(input, sentence, at) is not { } move)
            return null;
        foreach (var scene in input.Places)
        foreach (var line in scene.All("comes").Where(l => l.Name("sensor") == sensor.Name))
        {
            if (line.Value("a") is not { } from || line.Value("b") is not { } to || line.Number("v") is not { } speed || from <= to)
                continue;
            // The fastest of a hundred, by what the scene says that it varies.
            var v = speed.To?.In("mm/s") ?? speed.In("mm/s") + 2 * (speed.GiveOrTake?.In("mm/s") ?? 0);
            var first = Math.Min(waited.High, from);
            if (v <= 0 || first <= to)
                continue;
            var answer = Reaction.Compute(
                new(v, sensor.SamplePeriodMs, waited.Readings, UsualDelayMs, move.Way, move.Speed.Value, sensor.DelayMs)
            );
            var sum = answer.Result;
            if (sum.MustNoticeAtMm <= first - to)
                continue;
            return At(
                at,
                input.CountsIn(scene) ? Severity.Risky : Severity.Advice,
                $"{move.Name} moves too late",
                $"{Capital(line.Name("noun")!)} comes at {Show(v, 3)} mm/s (“{scene.Name}”) and is noticed {Show(first)} mm "
                    + $"before {sensor.Name}. "
                    + $"{Count(waited.Readings, "reading")} and {Show(move.Way, 3)}° at {Show(move.Speed.Value, 3)} deg/s "
                    + $"({move.Speed.From}) take "
                    + $"{Show(sum.ResponseS, 3)} s: it must be noticed {Show(sum.MustNoticeAtMm, 3)} mm before it is there, at "
                    + $"{Show(to)} mm. "
                    + "Wait for something farther away, for fewer readings, or move less.",
                sensor.Name
            ) with
            {
                Sum = Evidence.Of("reaction", answer),
            };
        }
        return null;
    }

    // On a belt it passes an eye, and further on an arm.
    private Finding? OnBelt(CheckInput input, TransitionNode sentence, WalkedLine at, Waited waited)
    {
        var sensor = waited.Sensor;
        if (sensor.Kind == SensorKind.Distance || waited.Zone is null)
            return null;
        foreach (var scene in input.Places)
        {
            if (
                scene.First("belt")?.Name("mech") is not { } belt
                || Belongs(input, sensor, belt) is false
                || Speed(input, at.State, belt) is not { } v
            )
                continue;
            SceneLine[] feeds = [.. scene.All("feed")];
            // One that is called as the zone is what it waits for; for a gate all are.
            var waitedFor = feeds.Where(f => f.Name("name") == waited.Zone).ToArray();
            if (waitedFor.Length == 0 && sensor.Kind is SensorKind.LightGate or SensorKind.Touch)
                waitedFor = feeds;
            foreach (var feed in waitedFor.OrderBy(f => f.Value("l") ?? 0).Take(1))
            {
                // A zone needs the whole spot on it, a beam any of it.
                var length = (feed.Value("l") ?? 0) - (sensor.Facts.Signal == SensorSignal.Switch ? 0 : sensor.Spot.Value);
                var crosses = length > 0 ? BeamCross.Compute(new(v.Value, length, 0, sensor.SamplePeriodMs, waited.Readings)) : null;
                var cross = crosses?.Result;
                if (cross is null || cross.ReadingsMin < waited.Readings)
                    return At(
                        at,
                        !input.CountsIn(scene) ? Severity.Advice
                            : cross is null or { Chance: < 0.5 } ? Severity.Stops
                            : Severity.Risky,
                        $"A {feed.Name("name")} passes {sensor.Name} unnoticed",
                        $"At {Show(v.Value, 3)} mm/s ({v.From}) a {feed.Name("name")} of {Show(feed.Value("l") ?? 0)} mm is wholly before "
                            + $"{sensor.Name} for {Count(cross?.ReadingsMin ?? 0, "reading")}, every {Show(sensor.SamplePeriodMs)} ms, and "
                            + $"{Count(waited.Readings, "reading")} in a row are asked for."
                            + (cross is null ? "" : $" Up to {Show(cross.FastestMmPerS, 3)} mm/s they are certain."),
                        sensor.Name
                    ) with
                    {
                        Sum = crosses is null ? null : Evidence.Of("beam-cross", crosses),
                    };
            }
            if (Move(input, sentence, at) is not { } move || sensor.Mount.AheadMm is not { } eye)
                continue;
            foreach (var arm in scene.All("sends").Where(l => l.Name("arm") is { } n && Places.Mechanism(input, n)?.Name == move.Name))
            {
                var room = (arm.Value("at") ?? 0) - eye.Value;
                var answer = Reaction.Compute(
                    new(v.Value, sensor.SamplePeriodMs, waited.Readings, UsualDelayMs, move.Way, move.Speed.Value, sensor.DelayMs)
                );
                var sum = answer.Result;
                if (room > 0 && sum.MustNoticeAtMm > room)
                    return At(
                        at,
                        input.CountsIn(scene) ? Severity.Risky : Severity.Advice,
                        $"{move.Name} moves too late",
                        $"At {Show(v.Value, 3)} mm/s ({v.From}) it is under {move.Name} {Show(room / v.Value, 3)} s after it came "
                            + $"before {sensor.Name}, "
                            + $"{Show(room)} mm on. {Count(waited.Readings, "reading")} and {Show(move.Way, 3)}° at "
                            + $"{Show(move.Speed.Value, 3)} deg/s "
                            + $"({move.Speed.From}) take {Show(sum.ResponseS, 3)} s. Run the belt slower.",
                        sensor.Name
                    ) with
                    {
                        Sum = Evidence.Of("reaction", answer),
                    };
            }
        }
        return null;
    }

    // A sensor that stands along a belt and on nothing that goes about.
    private static bool Belongs(CheckInput input, Sensor sensor, string belt) =>
        sensor.On is null || Places.Mechanism(input, sensor.On)?.Name == belt;

    // How fast the belt runs while a state is active; where it says nothing, the fastest that it is ever told.
    private static Pace? Speed(CheckInput input, StateNode state, string belt)
    {
        Pace? Of(IEnumerable<WalkedCommand> commands) =>
            commands
                .Where(c => c.Action is RunNode r && Places.Mechanism(input, r.Motor)?.Name == belt)
                .Select(c => Paces.Sliding(input, belt, ((RunNode)c.Action).Speed))
                .OfType<Pace>()
                .MaxBy(p => p.Value);
        return Of(Places.DoesAround(input, state)) ?? Of(input.Walk.Commands);
    }

    private sealed record Moved(string Name, double Way, Pace Speed);

    // What is told to move once it is noticed: in the sentence, or by the state that it leads to.
    private static Moved? Move(CheckInput input, TransitionNode sentence, WalkedLine at)
    {
        var next = Places.Target(input.Node, at.State, sentence);
        var commands = input
            .Walk.Commands.Where(c => ReferenceEquals(c.At.Line, sentence))
            .Concat(next is null ? [] : Places.Does(input, next))
            .ToArray();
        foreach (var command in commands)
        {
            var (name, speed, way) = command.Action switch
            {
                SetServoNode s => (s.Device, s.Speed, (ExprNode?)null),
                SendNode s => (s.Device, s.Speed, null),
                RunNode { Amount: { } amount } r => (r.Motor, r.Speed, amount),
                _ => (null, null, null),
            };
            if (
                name is null
                || Places.Mechanism(input, name) is not { Facts.Going: Going.Nowhere } m
                || m.Facts.RunsOn
                || input.Rig.Actuators.FirstOrDefault(a => a.Name == m.Motor) is not { } motor
            )
                continue;
            var pace = speed is not null ? Paces.Turning(input, name, speed) : null;
            var top = motor.Kind == ActuatorKind.Servo ? input.Moves.TopOfServo(m.Name, m) : input.Moves.TopSpeed(motor, m);
            pace ??= new(top.Value, top.Kind, top.Source);
            var travel = m.Travel is { } t ? Math.Abs(t.To.Value - t.From.Value) : 90;
            var far = way is null
                ? travel
                : input
                    .Walk.Values(way)
                    .Where(v => v.Unit is "motor deg" or "deg")
                    .Select(v => Math.Abs(v.Value))
                    .DefaultIfEmpty(travel)
                    .Max();
            if (pace.Value > 0)
                return new(m.Name, far, pace);
        }
        return null;
    }

    private static string Capital(string noun) => char.ToUpperInvariant(noun[0]) + noun[1..];
}
