using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>Moves by an amount from a place that nobody established.</summary>
internal sealed class StartAssumed : Check
{
    /// <inheritdoc/>
    public override string Code => "start-assumed";

    /// <inheritdoc/>
    public override string Title => "Begins where nobody put it";

    /// <inheritdoc/>
    public override string Says =>
        "A mechanism with ends is moved by an amount, and nothing brings it to a known place before: where it comes to hangs on "
        + "where somebody "
        + "left it.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Travel is not null) ? null : "Nothing of this rig has ends to its way.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var mechanism in input.Rig.Mechanisms.Where(m => m.Travel is not null && m.Facts.Going == Going.Nowhere))
        {
            var own = input.Walk.Commands.Where(c => input.Walk.Moved(c.Action).Any(mechanism.Motors.Contains)).ToArray();
            if (own.FirstOrDefault(c => c.Action is RunNode { Amount: not null } or StepNode) is not { } first)
                continue;
            // Home, a position, or an end that is felt: from there on it is known.
            var felt = input.Walk.Transitions.Any(t =>
                t.Transition.Trigger switch
                {
                    StallTriggerNode s => ProgramWalk.Means(mechanism, s.Device),
                    PressTriggerNode p => p.Sensor == mechanism.Travel!.HomeSensor,
                    ZoneTriggerNode z => z.Sensor == mechanism.Travel!.HomeSensor,
                    ConditionTriggerNode { Condition: ZoneIsNode z } => z.Sensor == mechanism.Travel!.HomeSensor,
                    _ => false,
                }
            );
            if (felt || own.Any(c => c.Action is SendNode or ZeroNode or SetServoNode))
                continue;
            yield return At(
                first.At,
                Severity.Advice,
                $"{mechanism.Name} begins where it was left",
                $"“{Printer.Plain(Printer.Sentence(first.Action))}” goes from wherever {mechanism.Name} stands when the program "
                    + $"begins. Bring it to a known "
                    + $"place first: “send {mechanism.Name} home”, or run it until it stalls and say “zero {mechanism.Name}”.",
                mechanism.Name
            );
        }
    }
}
