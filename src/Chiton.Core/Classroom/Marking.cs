using Chiton.Core.Quantities;

namespace Chiton.Core.Classroom;

/// <summary>How something that was handed in is marked: a level for each row of the rubric, by the team and by the educator.</summary>
public static class Marking
{
    /// <summary>Most letters of what a team or an educator says to it.</summary>
    public const int MostSaid = 500;

    /// <summary>Checks marks.</summary>
    /// <param name="need">Notes what is wrong, by field.</param>
    /// <param name="rubric">The rubric.</param>
    /// <param name="levels">A level for each row, the lowest 0; null where a row is not marked yet.</param>
    /// <returns>The marks; one a row.</returns>
    public static IReadOnlyList<int?> Check(Require need, IReadOnlyList<RubricRow> rubric, IReadOnlyList<double?>? levels)
    {
        need.That(levels?.Count == rubric.Count, "levels", $"One for each of the {rubric.Count} rows; nothing where it is not marked yet.");
        if (levels?.Count != rubric.Count)
            return [];
        foreach (var (i, row) in rubric.Index())
            need.That(
                levels[i] is not { } l || (l == Math.Floor(l) && l >= 0 && l < row.Levels.Count),
                $"levels[{i}]",
                $"A whole number from 0 to {row.Levels.Count - 1}, the lowest level first."
            );
        return [.. levels.Select(l => l is { } n && n == Math.Floor(n) && Math.Abs(n) < 100 ? (int?)(int)n : null)];
    }

    /// <summary>What differs between two lessons, each in a word or two; nothing where they are the same.</summary>
    public static IReadOnlyList<string> Differs(Lesson before, Lesson after)
    {
        var said = new List<string>();
        void Note(bool differs, string what)
        {
            if (differs)
                said.Add(what);
        }
        Note(before.Name != after.Name, "the name");
        Note(before.Rig != after.Rig, "the rig");
        Note(before.Scene != after.Scene, "the scene");
        Note(before.Task != after.Task, "the task");
        Note(before.Minutes != after.Minutes, "the minutes");
        Note(before.Done != after.Done, "what counts as done");
        Note(
            !Same(before.Offered.Triggers, after.Offered.Triggers)
                || !Same(before.Offered.Actions, after.Offered.Actions)
                || before.Offered.Regions != after.Offered.Regions
                || before.Offered.Routines != after.Offered.Routines,
            "which sentences are offered"
        );
        Note(before.Start != after.Start || before.Script != after.Script, "the program it begins with");
        Note(before.Answer != after.Answer, "the answer");
        Note(!Same(before.Hints, after.Hints), "the hints");
        Note(!Same(before.Walks, after.Walks), "the walks");
        Note(
            before.Rubric.Count != after.Rubric.Count
                || before.Rubric.Zip(after.Rubric).Any(r => r.First.What != r.Second.What || !Same(r.First.Levels, r.Second.Levels)),
            "the rubric"
        );
        Note(!Same(before.BuildsOn, after.BuildsOn), "what it builds on");
        return said;
    }

    private static bool Same(IReadOnlyList<string>? a, IReadOnlyList<string>? b) =>
        a is null || b is null ? ReferenceEquals(a, b) : a.SequenceEqual(b);
}
