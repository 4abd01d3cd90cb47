using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A program that waits to be told what nobody tells it.</summary>
internal sealed class WaitsForever : ExploredCheck
{
    /// <inheritdoc/>
    public override string Code => "waits-forever";

    /// <inheritdoc/>
    public override string Title => "Waits for what never comes";

    /// <inheritdoc/>
    public override string Says =>
        "A sentence waits to be told something that no program tells, or for what never comes whatever happens. Where it is the only way "
        + "on, the machine stands there for ever.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<int>();
        foreach (var finding in Untold(input))
        {
            told.Add(finding.Line);
            yield return finding;
        }
        if (!Settled(input))
            yield break;
        // What can never win beside another of the same state is that check's to tell.
        var beaten = new SameTrigger().Find(input).Select(f => f.Line).ToHashSet();
        var never = input.Explored!.NeverTaken(input.ExploredAs).Where(n => !beaten.Contains(n.Sentence.Span.Line)).ToArray();
        var stuck = input.Explored.NeverLeft(input.ExploredAs).Select(n => n.State.Span.Line).ToHashSet();
        foreach (var (_, taken) in never)
        {
            if (told.Contains(taken.Span.Line) || input.Walk.Lines.FirstOrDefault(l => l.Number == taken.Span.Line) is not { } at)
                continue;
            var (state, sentence) = (at.State, (TransitionNode)at.Line);
            // A state that something else leads on from, or where all is over, does not stand for ever.
            var stands = stuck.Contains(state.Span.Line) && sentence.Target is not null;
            yield return At(
                at,
                stands ? Severity.Stops : Severity.Advice,
                stands ? $"{state.Name} waits for ever" : "This sentence is never taken",
                $"Whatever happens, “{Said(sentence)}” never comes while {state.Name} is active"
                    + (
                        stands
                            ? ", and nothing else leads on from there. Say what else is to end it."
                            : ". Mend what it waits for, or take it out."
                    )
            );
        }
    }

    private static string Said(TransitionNode sentence) =>
        Printer.Trigger(sentence with { Guard = null }) + (sentence.Guard is { } guard ? $" if {Printer.Print(guard)}" : "");

    private IEnumerable<Finding> Untold(CheckInput input)
    {
        foreach (var (transition, at) in input.Walk.Transitions)
        {
            if (transition.Trigger is not ToldTriggerNode told)
                continue;
            var tellers = input.Programs.Where(p => p.Index != input.Program.Index && (told.From is null || p.Name == told.From));
            // A program that is stored, or cannot be read yet, may be the one that tells: nobody knows.
            if (told.From is { } from && input.Programs.All(p => p.Name != from) || told.From is null && input.SomeUnread)
                continue;
            var isTold = tellers.Any(p =>
                new ProgramWalk(p.Parsed.Program, input.Rig).Commands.Any(c =>
                    c.Action is TellNode tell && tell.Program == input.Program.Name && tell.Text == told.Text
                )
            );
            if (isTold)
                continue;
            var only = at.State.Lines.OfType<TransitionNode>().Count() == 1 && Outer(input.Node, at.State) == 0;
            yield return At(
                at,
                only ? Severity.Stops : Severity.Risky,
                only ? $"{at.State.Name} waits for ever" : $"Nobody says “{told.Text}”",
                $"{told.From ?? "No other program"} {(told.From is null ? "tells" : "never tells")} {input.Program.Name} “{told.Text}”"
                    + (only ? $", and nothing else leads on from {at.State.Name}." : ".")
            );
        }
    }

    // Sentences of the states that hold it: they lead on too.
    private static int Outer(ProgramNode program, StateNode state) =>
        program
            .AllStates.Where(s => !ReferenceEquals(s, state) && s.WithInner.Any(i => ReferenceEquals(i, state)))
            .Sum(s => s.Lines.OfType<TransitionNode>().Count());
}
