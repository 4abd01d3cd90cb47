namespace Chiton.Core.Classroom;

/// <summary>How far a team is with a lesson.</summary>
/// <param name="Met">Whether it is done; null where only the educator can say, or nothing was counted yet.</param>
/// <param name="Say">So, in words.</param>
public sealed record LessonProgress(bool? Met, string Say)
{
    /// <summary>Where a team that brings its own rig has not chosen one.</summary>
    public static LessonProgress NoRig { get; } = new(null, "no rig chosen yet");

    /// <summary>What the bench and the table say to what counts as done.</summary>
    /// <param name="done">What counts.</param>
    /// <param name="rate">How often the machine works in the bench: passes and runs; null while that is being counted.</param>
    /// <param name="cannot">Why it cannot be counted; null where it can.</param>
    /// <param name="table">Runs on the table in their order, true for one that passed.</param>
    /// <param name="handedIn">How often it was handed in.</param>
    public static LessonProgress Of(
        LessonDone done,
        (int Passes, int Runs)? rate,
        string? cannot,
        IReadOnlyCollection<bool> table,
        int handedIn
    )
    {
        switch (done.Kind)
        {
            case DoneKind.Rate:
                if (cannot is not null)
                    return new(false, cannot);
                if (rate is not var (passes, runs))
                    return new(null, "being counted");
                var met = done.Met(passes, runs);
                return new(
                    met,
                    $"{Math.Round(100.0 * passes / runs):0} of 100 pass; "
                        + (met ? "that is enough" : $"wanted are {done.Passes} of {done.Of}")
                );
            case DoneKind.Table:
                // The latest runs count: what went before they had the hang of it does not stand against them.
                bool[] latest = [.. table.TakeLast(done.Of)];
                var passed = latest.Count(p => p);
                return new(
                    done.Met(passed, latest.Length),
                    latest.Length < done.Of
                        ? $"{latest.Length} of {done.Of} runs made, {passed} passed"
                        : $"{passed} of the latest {done.Of} runs passed"
                );
            default:
                return new(null, handedIn == 0 ? "no answer handed in yet" : "answered; the educator reads it");
        }
    }
}
