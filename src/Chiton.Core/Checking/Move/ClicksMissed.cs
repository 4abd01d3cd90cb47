using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Something that turns faster than the clicks of its home-made encoder can be counted.</summary>
internal sealed class ClicksMissed : Check
{
    /// <inheritdoc/>
    public override string Code => "clicks-missed";

    /// <inheritdoc/>
    public override string Title => "Faster than clicks are counted";

    /// <inheritdoc/>
    public override string Says =>
        "A home-made encoder is looked at from time to time. Turned faster than that, clicks come and go between two looks, and "
        + "nobody knows "
        + "how many were missed.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Sensors.Any(s => s.Kind == SensorKind.ClickEncoder) ? null : "No sensor of this rig counts clicks.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var walk = new UsedSensors(input);
        foreach (var encoder in input.Rig.Sensors.Where(s => s.Kind == SensorKind.ClickEncoder && walk.Names.Contains(s.Name)))
        {
            if (encoder.On is not { } on || Places.Mechanism(input, on) is var m && m is null && input.Rig.Actuators.All(a => a.Name != on))
                continue;
            var clicks = encoder.ClicksPerTurn ?? 4;
            // Source: the sum click-encoder, of the motor's own turns.
            var answer = ClickEncoder.Compute(new(clicks, 1, 50, 100, encoder.SamplePeriodMs));
            var most = answer.Result.MaxWheelTurnsPerS;
            WalkedCommand? worst = null;
            Pace? fastest = null;
            foreach (var command in input.Walk.Commands)
            {
                var pace = command.Action switch
                {
                    RunNode run when run.Motor == on || m is not null && ProgramWalk.Means(m, run.Motor) => Paces.Turning(
                        input,
                        run.Motor,
                        run.Speed
                    ),
                    DriveNode drive when m is { Facts.Going: Going.Steered } => Wheels(input, m, drive.Speed),
                    TurnRobotNode turn when m is { Facts.Going: Going.Steered } => Wheels(input, m, turn.Speed),
                    FollowNode follow when m is { Facts.Going: Going.Steered } => Wheels(input, m, follow.Speed),
                    _ => null,
                };
                if (pace is not null && pace.Value > (fastest?.Value ?? 0))
                    (worst, fastest) = (command, pace);
            }
            if (worst is null || fastest is null || fastest.Value / 360 <= most)
                continue;
            var turns = fastest.Value / 360;
            var guess = fastest.Kind == Quantities.Provenance.Guessed;
            yield return At(
                worst.At,
                guess ? Severity.Risky : Severity.Stops,
                $"{encoder.Name} misses clicks",
                $"{Show(clicks)} clicks a turn can be told apart up to {Show(most, 3)} turns a second, with a reading every "
                    + $"{Show(encoder.SamplePeriodMs)} ms and two for each level; here it turns {Show(turns, 3)} times ({fastest.From})."
                    + (guess ? " Trials of its speed in Move make it sure." : "")
                    + " Go slower, or count fewer clicks a turn.",
                encoder.Name,
                Slower(worst, most / turns)
            ) with
            {
                // Ways and turns of a wheel are of no matter here.
                Sum = new("click-encoder", [.. answer.Steps.Where(s => s.Say.Contains("turn", StringComparison.OrdinalIgnoreCase))]),
            };
        }
    }

    private static Pace? Wheels(CheckInput input, Mechanism drive, ExprNode speed)
    {
        var wheel = (input.Moves.InUse(drive.Name, TrialKind.Straight) ?? drive.WheelDiameterMm)?.Value ?? 0;
        return wheel > 0 && Paces.Rolling(input, drive, speed) is { } pace
            ? pace with
            {
                Value = pace.Value / (Math.PI * wheel) * 360,
            }
            : null;
    }

    // Four fifths of what can be counted, as somebody would type it.
    private static Cure? Slower(WalkedCommand command, double share)
    {
        ExprNode? speed = command.Action switch
        {
            RunNode r => r.Speed,
            DriveNode d => d.Speed,
            TurnRobotNode t => t.Speed,
            _ => null,
        };
        if (speed is not LiteralNode { Unit: var unit } written || unit == "%" && share < 0.3)
            return null;
        var value = Math.Floor(0.8 * share * written.BaseValue);
        if (value < 1)
            return null;
        var slow = new LiteralNode(Show(value), unit);
        ActionNode mended = command.Action switch
        {
            RunNode r => r with { Speed = slow },
            DriveNode d => d with { Speed = slow },
            TurnRobotNode t => t with { Speed = slow },
            var other => other,
        };
        return new(
            $"Use {Show(value)} {unit}",
            [new(command.At.Number, command.With(mended), command.NumberIndex(mended), "four fifths of what can be counted")]
        );
    }
}

/// <summary>The sensors that a program names, wherever they stand.</summary>
internal sealed class UsedSensors : NameMap
{
    private readonly HashSet<string> names = [];

    /// <summary>Reads a program.</summary>
    public UsedSensors(CheckInput input) => Map(input.Node);

    /// <summary>Their names.</summary>
    public IReadOnlySet<string> Names => names;

    /// <inheritdoc/>
    protected override string Sensor(string name)
    {
        names.Add(name);
        return name;
    }
}
