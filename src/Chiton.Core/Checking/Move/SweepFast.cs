using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Scenes;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A robot that turns to find something, too fast for its sensor to notice it, or that drives off before it faces it.</summary>
internal sealed class SweepFast : Check
{
    /// <inheritdoc/>
    public override string Code => "sweep-fast";

    /// <inheritdoc/>
    public override string Title => "Searches too fast";

    /// <inheritdoc/>
    public override string Says =>
        "Turning to find something, its beam sweeps over it in fewer readings than the sentence takes; or it drives off at once, "
        + "and what it "
        + "noticed lies to the side.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.All(m => m.Facts.Going != Going.Steered) ? "Nothing of this rig is steered."
        : input.Rig.Sensors.All(s => s.Kind != SensorKind.Distance) ? "No sensor of this rig measures a distance."
        : null;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var drive = input.Rig.Mechanisms.First(m => m.Facts.Going == Going.Steered);
        foreach (var command in input.Walk.Commands)
        {
            // A short turn is no search.
            if (
                command.Action is not TurnRobotNode turn
                || command.At.Line is not ActivityNode
                || turn.Angle is { } angle && !input.Walk.Values(angle).Any(v => Math.Abs(v.Value) >= 90)
                || Paces.TurningRobot(input, drive, turn) is not { Value: > 0 } rate
            )
                continue;
            foreach (var sentence in Places.Ways(input.Node, command.At.State))
            foreach (var waited in Waited.Of(input, sentence))
            {
                if (
                    waited is not { Sensor: { Kind: SensorKind.Distance } sensor, IsNear: true, High: > 0 }
                    || sensor.Mount.Facing is Facing.Down or Facing.Up
                )
                    continue;
                var (width, source) = Target(input);
                var (half, beam) = sensor.BeamHalfAngleDeg is { } b
                    ? (Math.Min(89, b.Value), $"{b.Kind.ToString().ToLowerInvariant()}: {b.Source}")
                    : (12, "a guess: usual");
                var answer = Sweep.Compute(
                    new(
                        width,
                        waited.High,
                        half,
                        sensor.SamplePeriodMs,
                        waited.Readings,
                        rate.Value,
                        Math.Max(0, sensor.AheadMm.Value),
                        1000 * input.Moves.At(drive.Name).DelayS
                    )
                );
                var sum = answer.Result;
                var what =
                    $"{Show(width)} mm wide ({source}), {Show(waited.High)} mm away and seen through {Show(2 * half)}° ({beam}), "
                    + $"it is before "
                    + $"{sensor.Name} for {Show(sum.VisibleArcDeg, 3)} robot deg. At {Show(rate.Value, 3)} deg/s ({rate.From})";
                if (sum.ReadingsGuaranteed < waited.Readings)
                {
                    yield return At(
                        command.At,
                        Severity.Risky,
                        $"It turns past what {sensor.Name} looks for",
                        $"{what} that is {Count(sum.ReadingsGuaranteed ?? 0, "reading")} of the {waited.Readings} that are asked "
                            + $"for. Up to "
                            + $"{Show(sum.MaxTurnRateDegPerS, 3)} deg/s it is certain.",
                        sensor.Name,
                        Slower(command, turn, sum.MaxTurnRateDegPerS / rate.Value, rate.Value)
                    ) with
                    {
                        Sum = Evidence.Of("sweep", answer),
                    };
                    break;
                }
                // Half its width as an angle: beyond that, driving straight goes by beside it.
                var side = Math.Atan(width / (2 * waited.High)) * 180 / Math.PI;
                if (
                    sum.ExtraTurnDeg is { } extra
                    && Math.Abs(extra) > side
                    && Places.Target(input.Node, command.At.State, sentence) is { } next
                    && Places.DoesAround(input, next).FirstOrDefault() is { Action: DriveNode { Back: false } }
                )
                {
                    yield return At(
                        sentence is var s && input.Walk.Lines.FirstOrDefault(l => ReferenceEquals(l.Line, s)) is { } own ? own : command.At,
                        // How near it has to pass, and what lies there, the bench tells.
                        Severity.Advice,
                        $"It drives off before it faces what {sensor.Name} saw",
                        $"{what} it stands {Show(Math.Abs(extra), 3)}° {(extra > 0 ? "before" : "past")} facing it, and half of it is "
                            + $"{Show(side, 2)}°: driven straight, it goes by beside it. Turn {(extra > 0 ? "on" : "back")} that "
                            + $"far first.",
                        sensor.Name
                    ) with
                    {
                        Sum = Evidence.Of("sweep", answer),
                    };
                    break;
                }
            }
        }
    }

    // The narrowest thing of the scenes; a usual one where there is none.
    private static (double Mm, string Source) Target(CheckInput input)
    {
        var found = input
            .Places.SelectMany(s =>
                s.Lines.Where(l => l.Key is "thing round" or "thing box" or "things round" or "things box" && !l.Has(", low"))
                    .Select(l =>
                        (
                            Mm: Math.Min(l.Value("w") ?? double.MaxValue, l.Value("d") ?? double.MaxValue),
                            Say: $"{l.Name("name")}, “{s.Name}”"
                        )
                    )
            )
            .Where(f => f.Mm is > 0 and < 1e6)
            .ToArray();
        return found.Length > 0 ? found.MinBy(f => f.Mm) : (60, "a guess: usual");
    }

    private static Cure? Slower(WalkedCommand command, TurnRobotNode turn, double share, double rate)
    {
        if (turn.Speed is not LiteralNode written)
            return null;
        var value = Math.Floor(0.8 * share * written.BaseValue);
        if (value < 1 || written.Unit == "%" && value < 8)
            return null;
        var mended = turn with { Speed = new LiteralNode(Show(value), written.Unit) };
        return new(
            $"Use {Show(value)} {written.Unit}",
            [
                new(
                    command.At.Number,
                    command.With(mended),
                    command.NumberIndex(mended),
                    $"four fifths of what it notices at, {Show(0.8 * share * rate, 3)} deg/s"
                ),
            ]
        );
    }
}
