namespace Chiton.Core.Checking;

/// <summary>Tells what follows from something else that was found, so that it stands under that and not beside it.</summary>
internal static class Folding
{
    // What keeps a sentence from ever being taken.
    private static readonly HashSet<string> Stoppers = ["waits-forever", "same-trigger", "already-there", "gave-up", "jam"];

    // Why runs fail: something above advice that stands in the state where they did last what they did, in the one that they came to, or
    // in the head and so everywhere.
    private static string? WhyMissed(IReadOnlyList<Finding> found, Finding missed) =>
        found
            .Where(f => f.Code is not ("goal-missed" or "never-reached") && f.Severity <= Severity.Risky)
            .Where(f => f.Owner == missed.Owner || f.Owner == missed.Device || f.Owner == "" && f.Line > 0)
            .OrderBy(f => f.Severity)
            .ThenBy(f => f.Owner == "" ? 1 : 0)
            .FirstOrDefault()
            ?.Key;

    /// <summary>The findings of one program, each with what it follows from. What others follow from is as bad as the worst of
    /// them.</summary>
    /// <param name="input">The program.</param>
    /// <param name="found">What was found in it, with keys.</param>
    public static IReadOnlyList<Finding> Fold(CheckInput input, IReadOnlyList<Finding> found)
    {
        // A state that is never entered, because the one sentence that leads there is never taken, or stands in such a state.
        var causes = new Dictionary<string, string>();
        var never = found.Where(f => f.Code == "never-reached").ToArray();
        for (var changed = true; changed; )
        {
            changed = false;
            foreach (var state in never)
            {
                if (causes.ContainsKey(state.Key))
                    continue;
                var into = input
                    .Walk.Transitions.Where(t => t.Transition.Target == state.Owner && t.At.State.Name != state.Owner)
                    .ToArray();
                if (into.Length == 0)
                    continue;
                string? Cause(Programs.Language.WalkedLine at) =>
                    found.FirstOrDefault(f => f.Line == at.Number && Stoppers.Contains(f.Code))?.Key
                    ?? (
                        never.FirstOrDefault(n => n.Owner == at.State.Name) is { } before
                            ? causes.GetValueOrDefault(before.Key, before.Key)
                            : null
                    );
                if (
                    into.All(t => Cause(t.At) is not null) && into.Select(t => Cause(t.At)).FirstOrDefault(c => c != state.Key) is { } cause
                )
                {
                    causes[state.Key] = cause;
                    changed = true;
                }
            }
        }
        foreach (var missed in found.Where(f => f.Code == "goal-missed"))
            if (WhyMissed(found, missed) is { } why)
                causes[missed.Key] = causes.GetValueOrDefault(why, why);
        // What would stand under itself stands by itself.
        foreach (var key in causes.Keys.Where(k => causes.ContainsKey(causes[k])).ToArray())
            causes.Remove(key);
        if (causes.Count == 0)
            return found;
        var worst = found
            .Where(f => causes.ContainsKey(f.Key))
            .GroupBy(f => causes[f.Key])
            .ToDictionary(g => g.Key, g => g.Min(f => f.Severity));
        return
        [
            .. found.Select(f =>
                f with
                {
                    Because = causes.GetValueOrDefault(f.Key),
                    Severity = worst.TryGetValue(f.Key, out var other) && other < f.Severity ? other : f.Severity,
                    ByFigures = f.ByFigures ?? (worst.TryGetValue(f.Key, out var more) && more < f.Severity ? f.Severity : null),
                }
            ),
        ];
    }
}
