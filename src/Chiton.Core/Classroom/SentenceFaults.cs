using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;

namespace Chiton.Core.Classroom;

/// <summary>What was made wrong in a sentence.</summary>
public enum FaultKind
{
    /// <summary>A condition is turned round.</summary>
    Guard,

    /// <summary>Another zone of the same sensor is named.</summary>
    Zone,

    /// <summary>A way out of a state is missing.</summary>
    WayOut,

    /// <summary>A stop is left out.</summary>
    Stop,

    /// <summary>What counts up counts twice as much.</summary>
    Count,

    /// <summary>A time or a limit is much too short.</summary>
    Limit,
}

/// <summary>A program in which one sentence was changed.</summary>
/// <param name="Kind">What was made wrong.</param>
/// <param name="Where">The state it stands in.</param>
/// <param name="Line">Its line in the sound program, from 1.</param>
/// <param name="Before">The sentence as it was.</param>
/// <param name="After">The sentence as it is now; null where it is gone.</param>
/// <param name="Script">The program with the fault.</param>
public sealed record SentenceFault(FaultKind Kind, string Where, int Line, string Before, string? After, string Script)
{
    /// <summary>What was done, in words, as an answer.</summary>
    public string Say =>
        $"In {Where} "
        + (
            After is null
                ? $"“{Before}” is missing."
                : Kind switch
                {
                    FaultKind.Guard => $"a condition is turned round: “{After}” instead of “{Before}”.",
                    FaultKind.Zone => $"another zone is named: “{After}” instead of “{Before}”.",
                    FaultKind.Stop => $"a stop is missing: “{After}” instead of “{Before}”.",
                    FaultKind.Count => $"it counts twice: “{After}” instead of “{Before}”.",
                    FaultKind.Limit => $"the time is too short: “{After}” instead of “{Before}”.",
                    _ => $"“{After}” stands instead of “{Before}”.",
                }
        );
}

/// <summary>Every way in which one sentence of a sound program can be made wrong without making it unreadable.</summary>
public static class SentenceFaults
{
    private static readonly Dictionary<Operator, Operator> Turned = new()
    {
        [Operator.Equal] = Operator.NotEqual,
        [Operator.NotEqual] = Operator.Equal,
        [Operator.Less] = Operator.GreaterOrEqual,
        [Operator.LessOrEqual] = Operator.Greater,
        [Operator.Greater] = Operator.LessOrEqual,
        [Operator.GreaterOrEqual] = Operator.Less,
    };

    /// <summary>All of them, in the order of lines; each is readable and says something else.</summary>
    /// <param name="script">The text.</param>
    /// <param name="words">The rig's names.</param>
    /// <returns>None where the program has faults already.</returns>
    public static IReadOnlyList<SentenceFault> In(string script, Vocabulary words)
    {
        var sound = ScriptParser.Parse(script, words);
        if (sound.Diagnostics.Count > 0)
            return [];
        var found = new List<SentenceFault>();
        foreach (var state in sound.Program.AllStates)
        foreach (var line in state.Lines)
        {
            foreach (var (kind, changed) in Changes(line, words))
                if (Made(script, sound, words, state, line, kind, changed) is { } fault)
                    found.Add(fault);
        }
        return [.. found.DistinctBy(f => f.Script).OrderBy(f => f.Line).ThenBy(f => f.Kind)];
    }

    private static SentenceFault? Made(
        string script,
        ParseResult sound,
        Vocabulary words,
        StateNode state,
        LineNode line,
        FaultKind kind,
        LineNode? changed
    )
    {
        var text = ScriptParser.Split(script);
        var at = line.Span.Line - 1;
        var indent = text[at][..(text[at].Length - text[at].TrimStart().Length)];
        var before = Printer.Plain(Printer.Pieces(line));
        var after = changed is null ? null : Printer.Plain(Printer.Pieces(changed));
        if (after == before)
            return null;
        var next = after is null
            ? string.Join('\n', text.Where((_, i) => i != at))
            : string.Join('\n', text.Select((l, i) => i == at ? indent + after : l));
        return ScriptParser.Parse(next, words, sound).Diagnostics.Count > 0
            ? null
            : new(kind, state.Name, line.Span.Line, before, after, next);
    }

    private static IEnumerable<(FaultKind, LineNode?)> Changes(LineNode line, Vocabulary words)
    {
        switch (line)
        {
            case TransitionNode t:
                if (t.Guard is { } guard)
                    foreach (var turned in Turns(guard))
                        yield return (FaultKind.Guard, t with { Guard = turned });
                foreach (var (kind, trigger) in Changes(t.Trigger, words))
                    yield return (kind, t with { Trigger = trigger });
                if (t.Target is not null)
                    yield return (FaultKind.WayOut, null);
                foreach (var (kind, actions) in Changes(t.Actions))
                    yield return (kind, t with { Actions = actions });
                break;
            case ActivityNode a:
                foreach (var (kind, actions) in Changes(a.Actions))
                    // Where nothing is left to do, the sentence is gone.
                    yield return (kind, actions.Count == 0 ? null : a with { Actions = actions });
                break;
        }
    }

    private static IEnumerable<(FaultKind, TriggerNode)> Changes(TriggerNode trigger, Vocabulary words)
    {
        switch (trigger)
        {
            case ZoneTriggerNode z:
                foreach (var zone in words.Sensors.First(s => s.Name == z.Sensor).Zones.Where(o => o != z.Zone))
                    yield return (FaultKind.Zone, z with { Zone = zone });
                break;
            case ConditionTriggerNode c:
                foreach (var turned in Turns(c.Condition))
                    yield return (FaultKind.Guard, c with { Condition = turned });
                foreach (var other in Swaps(c.Condition, words))
                    yield return (FaultKind.Zone, c with { Condition = other });
                break;
            case AfterTriggerNode { Time: LiteralNode time } after when Shorter(time) is { } shorter:
                yield return (FaultKind.Limit, after with { Time = shorter });
                break;
        }
    }

    // One comparison after the other, turned round.
    private static IEnumerable<ExprNode> Turns(ExprNode e)
    {
        switch (e)
        {
            case BinaryNode { Operator: Operator.And or Operator.Or } b:
                foreach (var left in Turns(b.Left))
                    yield return b with
                    {
                        Left = left,
                    };
                foreach (var right in Turns(b.Right))
                    yield return b with
                    {
                        Right = right,
                    };
                break;
            case BinaryNode b when Turned.TryGetValue(b.Operator, out var other):
                yield return b with
                {
                    Operator = other,
                };
                break;
            case ZoneIsNode z:
                yield return z with
                {
                    Not = !z.Not,
                };
                break;
            case UnaryNode { IsNot: true } u:
                yield return u.Operand;
                break;
        }
    }

    private static IEnumerable<ExprNode> Swaps(ExprNode e, Vocabulary words)
    {
        switch (e)
        {
            case BinaryNode b:
                foreach (var left in Swaps(b.Left, words))
                    yield return b with
                    {
                        Left = left,
                    };
                foreach (var right in Swaps(b.Right, words))
                    yield return b with
                    {
                        Right = right,
                    };
                break;
            case ZoneIsNode z when words.Sensors.FirstOrDefault(s => s.Name == z.Sensor) is { } sensor:
                foreach (var zone in sensor.Zones.Where(o => o != z.Zone))
                    yield return z with
                    {
                        Zone = zone,
                    };
                break;
        }
    }

    private static IEnumerable<(FaultKind, Sequence<ActionNode>)> Changes(Sequence<ActionNode> actions)
    {
        for (var i = 0; i < actions.Count; i++)
            foreach (var (kind, changed) in Changes(actions[i]))
                yield return (
                    kind,
                    changed is null
                        ? actions.Where((_, k) => k != i).ToSequence()
                        : actions.Select((a, k) => k == i ? changed : a).ToSequence()
                );
    }

    private static IEnumerable<(FaultKind, ActionNode?)> Changes(ActionNode action)
    {
        switch (action)
        {
            case StopNode or StopAllNode:
                yield return (FaultKind.Stop, null);
                break;
            case SetNode { Value: BinaryNode { Operator: Operator.Add, Left: VariableNode v, Right: LiteralNode by } sum } set
                when v.Name == set.Variable:
                yield return (FaultKind.Count, set with { Value = sum with { Right = by with { Digits = Digits(2 * Number(by)) } } });
                break;
            case RunNode { UpTo: LiteralNode limit } run when Shorter(limit) is { } shorter:
                yield return (FaultKind.Limit, run with { UpTo = shorter });
                break;
            case WaitNode { Time: LiteralNode time } wait when Shorter(time) is { } shorter:
                yield return (FaultKind.Limit, wait with { Time = shorter });
                break;
            case IfNode choice:
                foreach (var turned in Turns(choice.Condition))
                    yield return (FaultKind.Guard, choice with { Condition = turned });
                foreach (var (kind, inner) in Changes(choice.Action))
                    if (inner is not null)
                        yield return (kind, choice with { Action = inner });
                break;
            case ThenNode chain:
                foreach (var (kind, steps) in Changes(chain.Steps))
                    yield return (kind, steps.Count == 1 ? steps[0] : chain with { Steps = steps });
                break;
            case TogetherNode both:
                foreach (var (kind, parts) in Changes(both.Parts))
                    yield return (kind, parts.Count == 1 ? parts[0] : both with { Parts = parts });
                break;
        }
    }

    private static double Number(LiteralNode n) => double.Parse(n.Digits, CultureInfo.InvariantCulture);

    private static string Digits(double n) => n.ToString("0.####", CultureInfo.InvariantCulture);

    // A tenth: so short that it makes a difference, and not so short that it is plain nonsense.
    private static LiteralNode? Shorter(LiteralNode time) =>
        Number(time) > 0 ? time with { Digits = Digits(Math.Round(Number(time) / 10, 3)) } : null;
}
