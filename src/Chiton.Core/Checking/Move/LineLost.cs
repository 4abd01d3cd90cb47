using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A line that is followed faster than its eye and motors can hold it.</summary>
internal sealed class LineLost : Check
{
    // So much above the gain that settles it swings to the edge of the line and beyond.
    private const double TooStrong = 4;

    /// <inheritdoc/>
    public override string Code => "line-lost";

    /// <inheritdoc/>
    public override string Title => "Loses its line";

    /// <inheritdoc/>
    public override string Says =>
        "A line is followed faster than readings and motors allow, or with a gain that makes the robot swing: it weaves off it.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered) ? null : "Nothing of this rig is steered.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var drive = input.Rig.Mechanisms.First(m => m.Facts.Going == Going.Steered);
        var follows = input.Walk.Commands.Where(c => c.Action is FollowNode).ToArray();
        if (follows.Length == 0)
            yield break;
        foreach (var command in follows)
        {
            var follow = (FollowNode)command.Action;
            // What the followed eye sees, whatever others the rig has.
            var alone = input.Rig with
            {
                Sensors = [.. input.Rig.Sensors.Where(e => e.Name == follow.Eye)],
            };
            var filled = MoveFill
                .For(alone, drive, k => input.Moves.InUse(drive.Name, k), input.Moves.At(drive.Name), input.Calibrations)
                .FirstOrDefault(s => s.Sum == "line-gain");
            // A number that is nothing yet leaves nothing to say.
            if (filled is null || filled.Fields.Any(f => f.Field is not ("actuatorDelayMs" or "motorLagMs") && f.Values[0] <= 0))
                continue;
            double Field(string name) => filled.Fields.First(f => f.Field == name).Values[0];
            var speed = input.Walk.Values(follow.Speed).Where(v => v.Unit == "mm/s").Select(v => Math.Abs(v.Value)).DefaultIfEmpty(0).Max();
            if (speed <= 0)
                continue;
            var answer = LineGain.Compute(
                new(
                    speed,
                    Field("trackWidthMm"),
                    Field("sensorAheadMm"),
                    Field("contrastPercentPerMm"),
                    Field("maxWheelSpeedMmPerS"),
                    Field("samplePeriodMs"),
                    Field("actuatorDelayMs")
                )
            );
            var sum = answer.Result;
            var guessed = filled.Fields.Where(f => f.Kind == Provenance.Guessed).Select(f => f.Label.ToLowerInvariant()).ToArray();
            var stands = guessed.Length > 0 ? $" It stands on a guess: {List(guessed)}." : "";
            if (speed > sum.MaxSpeedMmPerS)
            {
                // Twice that, and the swing grows with every reading.
                var never = speed > 2 * sum.MaxSpeedMmPerS;
                var safe = Math.Floor(0.8 * sum.MaxSpeedMmPerS / 10) * 10;
                yield return At(
                    command.At,
                    never && guessed.Length == 0 ? Severity.Stops : Severity.Risky,
                    never ? "It loses its line" : "It may lose its line",
                    $"At {Show(speed)} mm/s it goes on for {Show(Field("samplePeriodMs") + Field("actuatorDelayMs"))} ms before a "
                        + $"reading is obeyed, with "
                        + $"its eye {Show(Field("sensorAheadMm"))} mm ahead: above {Show(sum.MaxSpeedMmPerS, 3)} mm/s it swings.{stands}",
                    follow.Eye,
                    follow.Speed is LiteralNode && safe >= 10 ? Slower(command, follow, safe) : null
                ) with
                {
                    Sum = Evidence.Of("line-gain", answer),
                };
                continue;
            }
            if (Analysis.Constant(follow.Gain) is not { } gain || gain <= TooStrong * sum.Kp)
                continue;
            yield return At(
                command.At,
                // How far it swings before it is off, the bench tells.
                Severity.Advice,
                "It swings about its line",
                $"A gain of {Show(gain)} is {Show(gain / sum.Kp, 2)} times the {Show(sum.Kp, 2)} at which it settles at "
                    + $"{Show(speed)} mm/s.{stands}",
                follow.Eye
            ) with
            {
                Sum = Evidence.Of("line-gain", answer),
            };
        }
    }

    private static Cure Slower(WalkedCommand command, FollowNode follow, double speed)
    {
        var mended = follow with { Speed = new LiteralNode(Show(speed), "mm/s") };
        return new(
            $"Use {Show(speed)} mm/s",
            [new(command.At.Number, command.With(mended), command.NumberIndex(mended), "four fifths of what readings and motors allow")]
        );
    }
}
