using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>Two sentences of a state that wait for the same, of which the second never wins.</summary>
internal sealed class SameTrigger : Check
{
    /// <inheritdoc/>
    public override string Code => "same-trigger";

    /// <inheritdoc/>
    public override string Title => "Two sentences wait for the same";

    /// <inheritdoc/>
    public override string Says =>
        "Two sentences of a state wait for the same, and the first one asks nothing more: the second one never comes to its turn.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Over\n"
        + "    when Tag eye becomes bed tag: go Past\n\n  state Over, final\n\n  state Past, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Over\n"
        + "    after 20 s: go Past\n\n  state Over, final\n\n  state Past, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (
            var state in input.Walk.Transitions.GroupBy(t => t.At.State, (IEqualityComparer<StateNode>)ReferenceEqualityComparer.Instance)
        )
        {
            // What a sentence that takes everything waits for, by its words.
            var taken = new Dictionary<string, WalkedLine>();
            foreach (var (transition, at) in state)
            {
                // A trigger that happens again and again is none that is used up.
                var said = Printer.Trigger(transition with { Guard = null });
                if (taken.TryGetValue(said, out var first))
                    yield return At(
                        at,
                        // Said twice in the same words it does no harm.
                        Words((TransitionNode)first.Line) == Words(transition)
                            ? Severity.Advice
                            : Severity.Risky,
                        $"Line {first.OfOwner} of {at.State.Name} always comes first",
                        $"Both wait for “{said}”, and line {first.OfOwner} asks nothing more: this one is never taken. "
                            + "Let the first one "
                            + "ask for more with “if”, or take one of them out."
                    );
                else if (transition.Guard is null)
                    taken[said] = at;
            }
        }
    }

    private static string Words(TransitionNode sentence) => Printer.Plain(Printer.Pieces(sentence));
}
