using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A turn of the robot that was given in degrees of something else.</summary>
internal sealed class UnitMixed : Check
{
    // As near as somebody gets who reads the wheel's or the motor's degrees off a sum.
    private const double Near = 0.03;

    private static readonly double[] Turns = [45, 90, 120, 135, 180, 270, 360];

    /// <inheritdoc/>
    public override string Code => "unit-mixed";

    /// <inheritdoc/>
    public override string Title => "Degrees of something else";

    /// <inheritdoc/>
    public override string Says =>
        "A turn of the robot is above 360 degrees and is just what its wheels, or its motors, turn for a plain turn of 90, 180 or "
        + "so: degrees "
        + "of the robot, the wheel and the motor were confused.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered) ? null : "Nothing of this rig is steered.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var drive = input.Rig.Mechanisms.First(m => m.Facts.Going == Going.Steered);
        if (drive.TrackWidthMm is not { Value: > 0 } track || drive.WheelDiameterMm is not { Value: > 0 } wheel)
            yield break;
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not TurnRobotNode { Angle: { } angle } turn)
                continue;
            foreach (var value in input.Walk.Values(angle))
            {
                if (Math.Abs(value.Value) <= 360)
                    continue;
                // Source: the sum turn. About the middle a wheel rolls a circle as wide as the track, about the other wheel twice as wide.
                var wheelPerRobot = track.Value / wheel.Value * (turn.Pivoting == true ? 2 : 1);
                var gear = drive.MotorTurnsPerTurn?.Value ?? 1;
                var meant = Turns
                    .SelectMany(t =>
                        new[] { (Robot: t, Of: "wheel", Deg: t * wheelPerRobot), (Robot: t, Of: "motor", Deg: t * wheelPerRobot * gear) }
                    )
                    .Where(t => Math.Abs(t.Deg / Math.Abs(value.Value) - 1) < Near)
                    .OrderBy(t => Math.Abs(t.Deg / Math.Abs(value.Value) - 1))
                    .ToArray();
                if (meant.Length == 0)
                    continue;
                var (robot, of, deg) = meant[0];
                var mended = turn with { Angle = new LiteralNode(Quantities.Figures.Show(robot), "robot deg") };
                yield return At(
                    command.At,
                    Severity.Risky,
                    $"It turns {Quantities.Figures.Show(Math.Abs(value.Value) / 360, 2)} times round",
                    $"{Quantities.Figures.Show(Math.Abs(value.Value))} robot deg is what the {of}s turn for a turn of "
                        + $"{Quantities.Figures.Show(robot)} robot "
                        + $"deg: {Quantities.Figures.Show(robot)} × {Quantities.Figures.Show(track.Value)} mm ÷ "
                        + $"{Quantities.Figures.Show(wheel.Value)} mm"
                        + (turn.Pivoting == true ? " × 2" : "")
                        + $"{(of == "motor" && gear != 1 ? $" × {Quantities.Figures.Show(gear)}" : "")} = "
                        + $"{Quantities.Figures.Show(deg, 4)}. Chiton turns the robot, and works out the wheels itself.",
                    drive.Name,
                    angle is LiteralNode
                        ? new(
                            $"Use {Quantities.Figures.Show(robot)} robot deg",
                            [
                                new(
                                    command.At.Number,
                                    command.With(mended),
                                    command.NumberIndex(mended),
                                    "degrees of the robot, from the track width and the wheel's diameter"
                                ),
                            ]
                        )
                        : null
                );
                break;
            }
        }
    }
}
