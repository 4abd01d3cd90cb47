using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A move that leads away from what its state waits for.</summary>
internal sealed class WrongWay : Check
{
    /// <inheritdoc/>
    public override string Code => "wrong-way";

    /// <inheritdoc/>
    public override string Title => "Goes the wrong way round";

    /// <inheritdoc/>
    public override string Says =>
        "A sign, a direction or the way a motor is mounted makes something move away from the end, the angle or the thing that "
        + "the state waits "
        + "for; or a number below zero turns the direction round that is written before it.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (Doubled(input, command) is { } doubled)
            {
                yield return doubled;
                continue;
            }
            if (command.At.Line is not ActivityNode || Sense(input, command.Action) is not { } way)
                continue;
            // What a state that holds it listens for is for whatever happens inside, and not what this move is for.
            var sentences = command.At.State.Lines.OfType<TransitionNode>().Where(t => t.Target is not null).ToArray();
            var away = sentences.Select(t => Against(input, way, t)).ToArray();
            if (away.FirstOrDefault(a => a is not null) is not { } why)
                continue;
            // What else ends it, times and stalls aside, may be what is meant.
            if (sentences.Zip(away).Any(p => p.Second is null && !Exempt(p.First)))
                continue;
            yield return At(command.At, Severity.Stops, $"{way.Name} goes the wrong way", why, way.Name, Turned(command));
        }
    }

    // Times, stalls, presses by people and messages end what goes wrong; they are not what it moves for.
    private static bool Exempt(TransitionNode sentence) =>
        sentence.Trigger
            is AfterTriggerNode
                or StallTriggerNode
                or GiveUpTriggerNode
                or SilenceTriggerNode
                or ToldTriggerNode
                or ConditionTriggerNode { Condition: GivenUpNode };

    private sealed record Going(string Name, Mechanism? Mechanism, bool Forward);

    // Which way a command that runs on makes something go; null where it goes so far, or nobody knows.
    private static Going? Sense(CheckInput input, ActionNode action)
    {
        switch (action)
        {
            case RunNode { Amount: null, Time: null } run:
                var m = Places.Mechanism(input, run.Motor);
                if (
                    input.Walk.Values(run.Speed) is not { Count: > 0 } speeds
                    || speeds.Select(v => Math.Sign(v.Value)).Distinct().Count() > 1
                )
                    return null;
                return Forward(m, run.Direction) is { } forward ? new(run.Motor, m, forward == speeds[0].Value > 0) : null;
            case DriveNode { Distance: null, Time: null } drive:
                var robot = input.Rig.Mechanisms.FirstOrDefault(x => x.Facts.Going == Rigs.Going.Steered);
                if (
                    robot is null
                    || input.Walk.Values(drive.Speed) is not { Count: > 0 } paces
                    || paces.Select(v => Math.Sign(v.Value)).Distinct().Count() > 1
                )
                    return null;
                return new(robot.Name, robot, !drive.Back == paces[0].Value > 0);
            default:
                return null;
        }
    }

    // True for what rises in motor degrees.
    private static bool? Forward(Mechanism? m, string? direction) =>
        direction switch
        {
            null or "forward" => true,
            "back" => false,
            _ => m?.Directions.FirstOrDefault(d => d.Name == direction)?.Forward,
        };

    // Why what a sentence waits for lies the other way; null where it does not, or nobody knows.
    private static string? Against(CheckInput input, Going way, TransitionNode sentence)
    {
        // An angle that only comes the other way.
        if (
            sentence.Trigger
                is ConditionTriggerNode
                {
                    Condition: BinaryNode
                    {
                        Operator: Operator.Less or Operator.LessOrEqual or Operator.Greater or Operator.GreaterOrEqual,
                        Left: PropertyNode { Kind: PropertyKind.Angle } angle
                    } b
                }
            && (angle.Of == way.Name || way.Mechanism is { } own && ProgramWalk.Means(own, angle.Of))
            && b.Operator is Operator.Greater or Operator.GreaterOrEqual is var rises
            && rises != way.Forward
        )
            return $"“{Printer.Trigger(sentence with { Guard = null })}” waits for a {(rises ? "greater" : "smaller")} angle, and "
                + $"run this way "
                + $"{way.Name} turns to {(way.Forward ? "greater" : "smaller")} ones.";
        // The switch of an end, run towards the other end.
        if (
            way.Mechanism is { Travel: { HomeSensor: { } switched, Home: not HomeEnd.None } travel }
            && WaitsDown(input, sentence, switched)
        )
        {
            var toTo = travel.To.Value >= travel.From.Value == way.Forward;
            if (toTo != (travel.Home == HomeEnd.To))
                return $"{switched} is where {(travel.Home == HomeEnd.To ? "its travel ends" : "its travel begins")}, at "
                    + $"{Show((travel.Home == HomeEnd.To ? travel.To : travel.From).Value)} {travel.From.Unit}, and run this way "
                    + $"{way.Name} goes "
                    + "to the other end (named directions, in Rig).";
        }
        // Something ahead that is to come near, driven back; or behind it, driven ahead.
        if (way.Mechanism is { Facts.Going: Rigs.Going.Steered })
            foreach (var waited in Waited.Of(input, sentence))
                if (
                    waited is { Sensor.Kind: SensorKind.Distance, IsNear: true }
                    && waited.Low <= Nearest(waited.Sensor)
                    && (waited.Sensor.Mount.Facing, way.Forward) is (Facing.Ahead, false) or (Facing.Back, true)
                )
                    return $"{waited.Sensor.Name} looks {(way.Forward ? "back" : "ahead")} (set in Rig), and {way.Name} is driven "
                        + $"{(way.Forward ? "ahead" : "back")}: what is there comes no nearer.";
        return null;
    }

    // Any band that begins where the nearest does.
    private static double Nearest(Sensor sensor) => sensor.Bands.Count > 0 ? sensor.Bands.Min(b => b.FromMm) : double.MaxValue;

    private static bool WaitsDown(CheckInput input, TransitionNode sentence, string sensor)
    {
        var zones = input.Rig.Sensors.FirstOrDefault(s => s.Name == sensor)?.Zones;
        var down = zones is { Count: > 1 } z ? z[1] : "down";
        return sentence.Trigger is PressTriggerNode { Kind: PressKind.Pressed or PressKind.Held } p && p.Sensor == sensor
            || Waited.Of(input, sentence).Any(w => w.Sensor.Name == sensor && w.Zone == down);
    }

    // A direction that is named, and a number below zero that turns it round.
    private Finding? Doubled(CheckInput input, WalkedCommand command)
    {
        var (name, said, number) = command.Action switch
        {
            RunNode { Direction: { } d, Amount: { } amount } r => (r.Motor, d, amount),
            RunNode { Direction: { } d } r => (r.Motor, d, r.Speed),
            DriveNode { Distance: { } way } d => ("The robot", d.Back ? "back" : "straight", way),
            DriveNode d => ("The robot", d.Back ? "back" : "straight", d.Speed),
            TurnRobotNode { Angle: { } angle } t => ("The robot", t.Left ? "left" : "right", angle),
            _ => ("", "", (ExprNode?)null),
        };
        if (number is null || input.Walk.Values(number) is not { Count: > 0 } values || values.Any(v => v.Value >= 0))
            return null;
        return At(
            command.At,
            Severity.Risky,
            $"{name} does not go {said}",
            $"{Show(values[0].Value)} {values[0].Unit} is below zero and turns “{said}” round: {name} goes the other way. Say the "
                + $"direction "
                + "that is meant, and a number above zero.",
            name == "The robot" ? input.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Rigs.Going.Steered)?.Name : name,
            Positive(command, number)
        );
    }

    private static Cure? Positive(WalkedCommand command, ExprNode number)
    {
        if (number is not UnaryNode { IsNot: false, Operand: LiteralNode plain })
            return null;
        ActionNode mended = command.Action switch
        {
            RunNode { Amount: not null } r => r with { Amount = plain },
            RunNode r => r with { Speed = plain },
            DriveNode { Distance: not null } d => d with { Distance = plain },
            DriveNode d => d with { Speed = plain },
            TurnRobotNode t => t with { Angle = plain },
            var other => other,
        };
        return new(
            $"Use {plain.Digits} {plain.Unit}".TrimEnd(),
            [new(command.At.Number, command.With(mended), command.NumberIndex(mended), "above zero, so that the direction is as written")]
        );
    }

    private static Cure? Turned(WalkedCommand command) =>
        command.Action switch
        {
            DriveNode d => new(
                d.Back ? "Drive ahead" : "Drive back",
                [new(command.At.Number, command.With(d with { Back = !d.Back }), -1, "towards what the state waits for")]
            ),
            RunNode { Direction: "forward" or "back" or null } r => new(
                r.Direction == "back" ? "Run it forward" : "Run it back",
                [
                    new(
                        command.At.Number,
                        command.With(r with { Direction = r.Direction == "back" ? "forward" : "back" }),
                        -1,
                        "towards what the state waits for"
                    ),
                ]
            ),
            _ => null,
        };
}
