using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>Sticks without a dead band, or with one that leaves nothing.</summary>
internal sealed class DeadBand : Check
{
    // Source: the sum stick-mix. A stick is at its full way at a quarter turn.
    private const double FullDeg = 90;

    /// <inheritdoc/>
    public override string Code => "dead-band";

    /// <inheritdoc/>
    public override string Title => "A stick without rest";

    /// <inheritdoc/>
    public override string Says =>
        "Two sticks steer and have no dead band: let go, they do not stand at exactly nothing, and the robot creeps. Or the band is "
        + "so wide that "
        + "little of the way is left.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not SteerByNode steer)
                continue;
            var band = steer.DeadBand is null ? 0 : Analysis.Constant(steer.DeadBand);
            if (band is null or (>= 3 and <= FullDeg / 2))
                continue;
            yield return At(
                command.At,
                Severity.Advice,
                band < 3 ? $"Let go, {steer.Ahead} still steers" : "Most of the way of the sticks does nothing",
                band < 3
                    ? $"A stick that is let go does not stand at exactly nothing, and "
                        + $"{(band == 0 ? "without a dead band" : $"{Quantities.Figures.Show(band.Value)} deg of dead band")} "
                        + "the robot creeps. A dead band of 10 to 15 deg is usual."
                    : $"{Quantities.Figures.Show(band.Value)} deg of dead band leave {Quantities.Figures.Show(FullDeg - band.Value)} "
                        + $"deg of "
                        + $"{FullDeg} to steer with.",
                steer.Ahead
            );
        }
    }
}
