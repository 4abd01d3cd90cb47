using Chiton.Core.Checking;

namespace Chiton.Core.Tests.Checking;

/// <summary>Checks that read sentences alone: a machine that has it, the same mended, and near misses, each in several
/// spellings.</summary>
public class PlantedSentencesTests
{
    private sealed record Planted(string Code, Severity Severity, int Line, string Bad, string Mended, params string[] Near);

    private static string Rest(string lines, string head = "", string more = "") =>
        $"{head}region Main\n  state Rest, initial\n{lines}    when Start button is pressed: go Over\n  state Over, final\n{more}";

    private static string Does(string command, string head = "") => Rest($"    on entry: {command}\n", head);

    private const string Bow = "\nroutine Bow\n  state Down, initial\n    after 1 s: go Up\n  state Up, final\n";

    // Lines are those of the body, from 1.
    private static readonly Planted[] All =
    [
        new(
            "flashing",
            Severity.Risky,
            3,
            Does("blink Green lamp 0.1 s on 0.1 s off"),
            Does("blink Green lamp 0.2 s on 0.2 s off"),
            // Just within three a second, long dark, and no blinking at all.
            Does("blink Green lamp 0.17 s on 0.17 s off"),
            Does("blink Green lamp 0.1 s on 0.3 s off"),
            Does("turn Green lamp on")
        ),
        new(
            "flashing",
            Severity.Risky,
            4,
            Does("blink Red lamp beat on beat off", "const beat = 0.05 s\n"),
            Does("blink Red lamp beat on beat off", "const beat = 0.5 s\n"),
            Does("blink Red lamp beat on beat off", "const beat = 400 ms\n")
        ),
        new(
            "same-trigger",
            Severity.Risky,
            4,
            Rest("    when Tag eye becomes bed tag: go Over\n    when Tag eye becomes bed tag: stay\n"),
            Rest("    when Tag eye becomes bed tag: go Over\n    when Tag eye becomes sleepers: stay\n"),
            // Another eye, a guard that may fail, and the other edge.
            Rest("    when Left edge eye becomes drop: go Over\n    when Right edge eye becomes drop: stay\n"),
            Rest(
                "    when Tag eye becomes bed tag if n = 2: go Over\n    when Tag eye becomes bed tag: set n to n + 1; stay\n",
                "var n = 0\n"
            ),
            Rest("    when Tag eye becomes bed tag: go Over\n    when Tag eye leaves bed tag: stay\n")
        ),
        new(
            "same-trigger",
            Severity.Risky,
            4,
            Rest("    after 2 s: go Over\n    after 2 s: stay\n"),
            Rest("    after 2 s: go Over\n    after 1 s: stay\n"),
            Rest("    after 2 s if n > 1: go Over\n    after 2 s: set n to n + 1; go Rest\n", "var n = 0\n")
        ),
        new(
            "gave-up",
            Severity.Advice,
            3,
            "region Main\n  state Lifts, initial\n    on entry: run Mast up 90 motor deg at 30 % up to 2 s\n"
                + "    when Mast is done: go Over\n"
                + "  state Over, final\n",
            "region Main\n  state Lifts, initial\n    on entry: run Mast up 90 motor deg at 30 % up to 2 s\n"
                + "    when Mast is done: go Over\n"
                + "    when Mast gives up: go Over\n  state Over, final\n",
            // Without a time it never gives up, “all done” holds then too, a time leads on, and a state around it does.
            "region Main\n  state Lifts, initial\n    on entry: run Mast up 90 motor deg at 30 %\n    when Mast is done: go Over\n"
                + "  state Over, final\n",
            "region Main\n  state Lifts, initial\n    on entry: run Mast up 90 motor deg at 30 % up to 2 s\n    when all done: go Over\n"
                + "  state Over, final\n",
            "region Main\n  state Lifts, initial\n    on entry: run Mast up 90 motor deg at 30 % up to 2 s\n"
                + "    when Mast is done: go Over\n"
                + "    after 3 s: go Over\n  state Over, final\n",
            "region Main\n  state Works, initial\n    when Mast gives up: go Over\n    state Lifts, initial\n"
                + "      on entry: run Mast up 90 motor deg at 30 % up to 2 s\n      when Mast is done: go Over\n  state Over, final\n"
        ),
        new(
            "routine-unused",
            Severity.Advice,
            6,
            Rest("", "", Bow),
            Does("do Bow") + Bow,
            // Done in a chain, in another region, and by a routine that is done.
            Does("turn Green lamp on; do Bow") + Bow,
            Rest("", "", "region Beside\n  state Bows, initial\n    on entry: do Bow\n") + Bow,
            Does("do Greet")
                + "\nroutine Greet\n  state Once, initial\n    on entry: do Bow\n    when all done: go Enough\n"
                + "  state Enough, final\n"
                + Bow
        ),
        new(
            "value-unused",
            Severity.Advice,
            1,
            Rest("    when Tag eye becomes bed tag: set n to 5; stay\n", "var n = 0\n"),
            Rest("    when Tag eye becomes bed tag: set n to 5; stay\n    when n = 5: go Over\n", "var n = 0\n"),
            // It counts on, is shown, is a time, and is read by what another is set to.
            Rest("    when Tag eye becomes bed tag: set n to n + 1; stay\n", "var n = 0\n"),
            Rest("    when Tag eye becomes bed tag: set n to n + 1; show n; stay\n", "var n = 0\n"),
            Rest("    when Tag eye becomes bed tag: set wait to wait * 2; stay\n    after wait: go Over\n", "var wait = 1 s\n"),
            Rest("    when Tag eye becomes bed tag: set n to n + 1; set m to n; stay\n    when m = 3: go Over\n", "var n = 0\nvar m = 0\n")
        ),
        new(
            "past-stop",
            Severity.Risky,
            3,
            Does("run Mast up 1000 motor deg at 30 %"),
            Does("run Mast up 800 motor deg at 30 %"),
            // To and fro within its travel, a named position, and something without an end.
            Does("run Mast up 500 motor deg at 30 %, then run Mast down 500 motor deg at 30 %"),
            Does("send Mast to shelf at 30 %"),
            Does("run Left motor 5000 motor deg at 30 %")
        ),
    ];

    /// <summary>Each by its place.</summary>
    public static TheoryData<int, string> Machines => PlantedTests.ByPlace(All.Select(p => p.Code));

    [Theory]
    [MemberData(nameof(Machines))]
    public void It_is_named_in_its_line_and_neither_when_mended_nor_where_it_only_looks_so(int at, string code)
    {
        var planted = All[at];
        var bad = PlantedTests.Find(PlantedTests.Of(planted.Bad));
        // Two lines of the program's own come before.
        var found = bad.FirstOrDefault(f => f.Code == code);
        Assert.True(found is not null, $"not found; found\n{PlantedTests.Said(bad)}");
        Assert.Equal((planted.Line + 2, planted.Severity), (found.Line, found.Severity));
        foreach (var sound in planted.Near.Prepend(planted.Mended))
        {
            var near = PlantedTests.Find(PlantedTests.Of(sound));
            Assert.True(near.All(f => f.Code != code), $"has it\n{PlantedTests.Said(near)}\n{sound}");
        }
    }
}
