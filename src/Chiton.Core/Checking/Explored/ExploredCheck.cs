using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Checking;

/// <summary>A check that asks what was explored of all programs together.</summary>
internal abstract class ExploredCheck : Check
{
    /// <inheritdoc/>
    public override string? Unsettled(CheckInput input) =>
        input.Explored is not { } explored ? "The programs were not explored."
        : explored.Cannot is { } cannot ? cannot
        : explored.IsComplete ? null
        : explored.Bound is { } bound ? $"Not looked at to the end: {char.ToLowerInvariant(bound[0])}{bound[1..]}"
        : "Not looked at to the end: there is more that may happen.";

    /// <summary>True when all that may happen was looked at: then what was not seen is never.</summary>
    protected static bool Settled(CheckInput input) => input.Explored is { IsComplete: true };

    /// <summary>The state of the program as it was read that an explored one is: by its line, since what is explored is a copy.</summary>
    protected static StateNode? Read(CheckInput input, StateNode explored) =>
        input.Node.AllStates.FirstOrDefault(s => s.Span.Line == explored.Span.Line);

    /// <summary>The way there in words: “after Boat button pressed, then 8 s”.</summary>
    protected static string After(IReadOnlyList<WalkEvent> events)
    {
        var said = new List<string>();
        foreach (var e in events)
        {
            if (e.AfterMs >= 400)
                said.Add($"{Quantities.Figures.Show(e.AfterMs / 1000, 2)} s");
            if (e.Name is not null)
                said.Add(e.Name);
        }
        const int most = 6;
        return said.Count == 0 ? "At once"
            : said.Count > most ? $"After {string.Join(", then ", said.Take(most))} and {said.Count - most} more"
            : $"After {string.Join(", then ", said)}";
    }

    /// <summary>The line that an action stands in.</summary>
    protected static WalkedLine? LineOf(CheckInput input, ActionNode action) =>
        input.Walk.Lines.FirstOrDefault(l =>
            (
                l.Line switch
                {
                    ActivityNode a => a.Actions,
                    TransitionNode t => t.Actions,
                    _ => [],
                }
            ).Any(a => Holds(a, action))
        );

    private static bool Holds(ActionNode outer, ActionNode action) =>
        ReferenceEquals(outer, action) || outer == action && outer.Span.Line == action.Span.Line || outer.Inner.Any(i => Holds(i, action));
}
