using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A joint that weight pulls at, and that is let go.</summary>
internal sealed class SpringsBack : Check
{
    /// <inheritdoc/>
    public override string Code => "springs-back";

    /// <inheritdoc/>
    public override string Title => "Lets go of what it holds";

    /// <inheritdoc/>
    public override string Says =>
        "A lift or an arm is stopped so that its motor runs out, or by a motor that cannot hold, and the program goes on with it: it "
        + "sinks or "
        + "springs back.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Bears) ? null : "Nothing of this rig bears a weight.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not StopNode stop || Places.Mechanism(input, stop.Motor) is not { Facts.Bears: true } mechanism)
                continue;
            var plain = Places.AreAll(input, stop.Motor, a => a.Kind == ActuatorKind.PlainMotor);
            if (stop.Mode != StopMode.Coast && !(plain && stop.Mode == StopMode.Hold))
                continue;
            // At the end of its way nothing pulls any more, and where all is over nobody relies on it.
            if (command.At.State.Final)
                continue;
            var mended = stop with { Mode = StopMode.Hold };
            yield return At(
                command.At,
                Severity.Risky,
                $"{mechanism.Name} is let go",
                plain
                    ? $"A plain motor cannot hold {mechanism.Name}: stopped, weight pulls it down. Let it rest on a stop, or take a "
                        + $"motor that holds."
                    : $"“{Printer.Plain(Printer.Sentence(stop))}” lets {mechanism.Name} run out, and weight pulls at it: it does not "
                        + $"stay where it is. "
                        + "Let it hold.",
                mechanism.Name,
                plain ? null : new("Let it hold", [new(command.At.Number, command.With(mended), -1, "the motor holds its place")])
            );
        }
    }
}
