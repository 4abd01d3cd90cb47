using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>A line that means something else than when it was written.</summary>
/// <param name="Line">Line of the script.</param>
/// <param name="Say">What is otherwise now, in a sentence or two.</param>
public sealed record MeaningChange(int Line, string Say);

/// <summary>
/// Programs that were written before the meaning of some sentences became exact read as before. Where what they do is otherwise
/// now, their lines say so until somebody has edited the program or says that it was read.
/// </summary>
public static class MeaningChanges
{
    /// <summary>Lines of a program that do otherwise than when it was written; none for one that was written since.</summary>
    /// <param name="text">The program as it is kept.</param>
    /// <param name="program">What it says.</param>
    public static IReadOnlyList<MeaningChange> Of(ProgramText text, ProgramNode program) =>
        text.Meaning >= ProgramText.MeaningNow
            ? []
            :
            [
                .. program
                    .AllStates.SelectMany(s => s.Lines.SelectMany(l => In(s, l).Select(say => new MeaningChange(l.Span.Line, say))))
                    .OrderBy(c => c.Line),
            ];

    private static IEnumerable<string> In(StateNode state, LineNode line)
    {
        var actions = line switch
        {
            ActivityNode a => a.Actions,
            TransitionNode t => t.Actions,
            _ => [],
        };
        foreach (var run in Flat(actions).OfType<RunNode>().Where(r => r.UpTo is not null))
            if (!Answers(state, run.Motor))
                yield return $"“up to {Printer.Print(run.UpTo!)}” is no end any more: when that time runs out "
                    + $"{run.Motor} gives up and is not done. Say what then: “when {run.Motor} gives up: go …”.";
        if (line is ActivityNode { Moment: ActivityMoment.Entry } && Flat(actions, true).Any(a => a is ThenNode) && LeavesEarly(state))
            yield return "A chain is cut where its state is left: what it had not begun by then never begins.";
        if (line is TransitionNode { Trigger: ZoneTriggerNode { Relation: not ZoneRelation.Is } z } && z.Readings is not (null or "1"))
            yield return $"Readings are counted from the zone that {z.Sensor} is in when {state.Name} is entered: "
                + "what lies there already is no change, and can be left.";
    }

    // True when a state says what follows when a motor gives up, or goes on by time.
    private static bool Answers(StateNode state, string motor) =>
        state
            .Lines.OfType<TransitionNode>()
            .Any(t => t.Trigger is GiveUpTriggerNode g && g.Device == motor || t.Trigger is AfterTriggerNode || Asks(t.Trigger, motor));

    private static bool Asks(TriggerNode trigger, string motor) =>
        trigger is ConditionTriggerNode c
        && Any(c.Condition, e => e is GivenUpNode g && g.Device == motor || e is DoneNode { Device: null });

    private static bool Any(ExprNode node, Func<ExprNode, bool> which) =>
        which(node)
        || node switch
        {
            BinaryNode b => Any(b.Left, which) || Any(b.Right, which),
            UnaryNode u => Any(u.Operand, which),
            _ => false,
        };

    // True when something else than the end of what it does may lead out of a state.
    private static bool LeavesEarly(StateNode state) =>
        state
            .Lines.OfType<TransitionNode>()
            .Any(t => t.Target is not null && !(t.Trigger is ConditionTriggerNode c && Any(c.Condition, e => e is DoneNode)));

    private static IEnumerable<ActionNode> Flat(IEnumerable<ActionNode> actions, bool groups = false) =>
        actions.SelectMany(a => a.Inner.Any() ? (groups ? Flat(a.Inner, groups).Prepend(a) : Flat(a.Inner, groups)) : [a]);
}
