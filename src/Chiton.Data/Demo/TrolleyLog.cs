using Chiton.Core.Logbook;
using Chiton.Core.Rigs;

namespace Chiton.Data.Demo;

/// <summary>
/// What happened on the table with the Cockles' Seed trolley: it crept first and should nearly always have worked, but its cable caught the
/// rail, which no bench knows; since it hangs from the ceiling it does as promised, at the speed that fits a lesson.
/// </summary>
public static class TrolleyLog
{
    /// <summary>The copy that ran: the one on a table.</summary>
    public const int Copy = 3;

    private const string First = "demo-cable-on-the-floor",
        Second = "demo-cable-hung-up",
        Caught = "the cable caught the rail",
        Past = "went past bed 3",
        Missed = "counted a bed too few";

    // How each run came out: its time by the stopwatch where it passed, else why it failed.
    private static readonly object[] Crept = [10.4, Caught, Caught, 10.1, Caught, Caught, 10.6, Caught, Caught, Caught];
    private static readonly object[] Hung = [6.4, 6.2, Missed, 6.5, Past, 6.3, 6.1, Missed, 6.4, 6.3, Missed, 6.2];

    /// <summary>The log.</summary>
    /// <param name="now">The time from which it counts back, UTC.</param>
    public static FileLog Of(DateTime now)
    {
        // A demo of long ago begins when the year does.
        var day = now.AddDays(-6);
        if (day.Year < 2000)
            day = new(2026, 1, 1, 9, 0, 0, DateTimeKind.Utc);
        return new(
            2,
            [new(1, Creeping, day.AddHours(-1), "made")],
            [
                new(First, Copy, day, 10, null, "grey morning", "fresh cells", "the long table", "Cockles"),
                new(Second, Copy, day.AddDays(2), 12, null, "grey morning", "the same cells", "the long table", "Cockles"),
            ],
            [.. Runs(First, 1, day, Crept), .. Runs(Second, 2, day.AddDays(2), Hung)],
            [new(Copy, 1, day.AddMinutes(-10)), new(Copy, 2, day.AddDays(2).AddMinutes(-10))]
        );
    }

    // What it was before: the same at a creep.
    private static RigDesign Creeping =>
        SeedTrolley.Design.WithProgram(
            0,
            SeedTrolley.Design.Programs[0] with
            {
                Script = SeedTrolley.Script.Replace("var cruise = 60 %", "var cruise = 36 %", StringComparison.Ordinal),
            }
        );

    private static IEnumerable<LogEntry> Runs(string series, int revision, DateTime from, object[] runs) =>
        runs.Select(
            (r, i) =>
                new LogEntry(
                    $"{series}-{i + 1:00}",
                    Copy,
                    revision,
                    r is double,
                    from.AddMinutes(2 * i),
                    r as double?,
                    "",
                    r as string ?? "",
                    false,
                    "",
                    r is Past ? [new("past the middle of bed 3", 41, "mm")] : [],
                    series,
                    "",
                    "",
                    "",
                    ""
                )
        );
}
