using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A move that something can block, and a state that only waits for its end.</summary>
internal sealed class Jam : Check
{
    /// <inheritdoc/>
    public override string Code => "jam";

    /// <inheritdoc/>
    public override string Title => "A jam without a way out";

    /// <inheritdoc/>
    public override string Says =>
        "Jaws close on something, or a mechanism comes to its stop, before its move is over. It pushes and is never done, and the "
        + "state waits "
        + "for its end alone.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(CanBeBlocked) ? null : "Nothing of this rig grips, or says that it may jam.";

    private static bool CanBeBlocked(Mechanism m) => m.Facts.Grips || m.Travel?.JamRisk is not null;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (
                command.Action is not RunNode { Amount: not null, UpTo: null } run
                || command.At.Line is not ActivityNode
                || Places.Mechanism(input, run.Motor) is not { } mechanism
                || !CanBeBlocked(mechanism)
            )
                continue;
            var ways = Places.Ways(input.Node, command.At.State).ToArray();
            bool Waits(TransitionNode t) => t.Trigger is ConditionTriggerNode { Condition: DoneNode };
            if (ways.Length == 0 || !ways.All(Waits))
                continue;
            yield return At(
                command.At,
                // Opening, nothing holds jaws back; whether it closes is not always known here.
                mechanism.Facts.Grips && Closes(mechanism, run)
                    ? Severity.Risky
                    : Severity.Advice,
                $"{mechanism.Name} may never be done",
                $"{(mechanism.Travel?.JamRisk is { } risk ? $"It may jam: {risk}. " : "")}When something holds {mechanism.Name} back "
                    + $"before its move is over, "
                    + $"it pushes on and is not done: {command.At.State.Name} waits for ever. Say “up to 2 s” and what is to happen "
                    + $"when it gives up, or "
                    + $"“when {mechanism.Name} stalls”.",
                mechanism.Name
            );
        }
    }

    private static bool Closes(Mechanism mechanism, RunNode run) =>
        run.Direction is { } way && (way is "close" or "shut" or "in") && mechanism.Directions.Any(d => d.Name == way);
}
