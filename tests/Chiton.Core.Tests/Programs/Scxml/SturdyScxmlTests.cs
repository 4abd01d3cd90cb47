using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs.Scxml;

/// <summary>No document, whoever wrote it, makes a walk hang, grow without end, or fall over.</summary>
public class SturdyScxmlTests
{
    private static string Document(string body, string data = "") =>
        $"<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" version=\"1.0\" datamodel=\"ecmascript\">\n<datamodel>{data}</datamodel>\n"
        + $"{body}\n</scxml>";

    private static WalkResult Walk(string document, params WalkEvent[] events) =>
        ScxmlWalk.Run(document, events, new StepBudget(2_000_000));

    private static string Refused(string document, params WalkEvent[] events) =>
        Assert.Throws<InputProblem>(() => Walk(document, events)).Errors["source"];

    [Theory]
    [InlineData("<state id=\"a\"><transition cond=\"nobody.x\" target=\"b\"/></state><state id=\"b\"/>")]
    [InlineData(
        "<state id=\"a\"><transition cond=\"nobody\" target=\"b\"/><transition event=\"error.execution\" cond=\"nobody\" "
            + "target=\"b\"/></state><state id=\"b\"/>"
    )]
    [InlineData("<state id=\"a\"><transition event=\"*\"><raise event=\"e\"/></transition><onentry><raise event=\"e\"/></onentry></state>")]
    public void What_raises_events_without_end_is_stopped_by_its_line(string body)
    {
        Assert.Matches(
            @"^(Line 3: here the machine goes on without end|The machine goes round and round without an event: a)",
            Refused(Document(body))
        );
    }

    [Fact]
    public void A_failing_condition_that_is_left_by_its_error_is_no_loop() =>
        Assert.Equal(
            ["b"],
            Walk(
                Document(
                    "<state id=\"a\"><transition cond=\"nobody\" target=\"c\"/><transition event=\"error.execution\" "
                        + "target=\"b\"/></state><state id=\"b\"/><state id=\"c\"/>"
                )
            ).Initial
        );

    [Theory]
    [InlineData("'x'", "s+s")]
    [InlineData("['x']", "s.concat(s)")]
    public void What_doubles_itself_stays_within_its_bound(string first, string expr)
    {
        var walk = Walk(
            Document(
                $"<state id=\"a\"><transition event=\"go\"><assign location=\"s\" expr=\"{expr}\"/></transition><transition "
                    + "event=\"error.execution\" target=\"b\"/></state><state id=\"b\"/>",
                $"<data id=\"s\" expr=\"{first}\"/>"
            ),
            [.. Enumerable.Repeat(new WalkEvent("go", null, 0), 60)]
        );
        // 2 to the 16th fits, the next doubling is refused as an error of the document.
        Assert.Equal(["a"], walk.After[15]);
        Assert.Equal(["b"], walk.After[16]);
    }

    [Fact]
    public void Texts_made_over_and_over_have_a_bound_together()
    {
        var big = string.Concat(Enumerable.Repeat("<assign location=\"t\" expr=\"s+'y'\"/>", 320));
        Assert.Contains(
            "more than",
            Refused(
                Document(
                    "<state "
                        + $"id=\"a\"><onentry>{string.Concat(Enumerable.Repeat("<assign location=\"s\" expr=\"s+s\"/>", 16))}{big}"
                        + "</onentry></state>",
                    "<data id=\"s\" expr=\"'x'\"/><data id=\"t\"/>"
                )
            )
        );
    }

    [Fact]
    public void A_list_that_holds_itself_has_no_text_and_brings_nothing_down()
    {
        var walk = Walk(
            Document(
                "<state id=\"a\"><onentry><assign location=\"l[0]\" expr=\"l\"/><assign location=\"t\" expr=\"'' + "
                    + "l\"/></onentry><transition event=\"error.execution\" target=\"b\"/></state><state id=\"b\"/>",
                "<data id=\"l\" expr=\"[1]\"/><data id=\"t\"/>"
            )
        );
        Assert.Equal(["b"], walk.Initial);
    }

    [Fact]
    public void A_list_of_lists_doubled_again_and_again_has_no_text_either()
    {
        var doubling = string.Concat(Enumerable.Repeat("<assign location=\"l\" expr=\"[l, l]\"/>", 40));
        var walk = Walk(
            Document(
                $"<state id=\"a\"><onentry>{doubling}<assign location=\"t\" expr=\"'' + l\"/></onentry><transition "
                    + "event=\"error.execution\" target=\"b\"/></state><state id=\"b\"/>",
                "<data id=\"l\" expr=\"[1]\"/><data id=\"t\"/>"
            )
        );
        Assert.Equal(["b"], walk.Initial);
    }

    [Fact]
    public void Loops_in_loops_end_at_a_hundred_thousand_actions()
    {
        static string Each(string inner) => $"<foreach array=\"l\" item=\"x\">{inner}</foreach>";
        var list = "[" + string.Join(',', Enumerable.Range(0, 100)) + "]";
        Assert.Contains(
            "Line 3: here the machine goes on without end",
            Refused(
                Document(
                    $"<state id=\"a\"><onentry>{Each(Each(Each("<assign location=\"n\" expr=\"n+1\"/>")))}</onentry></state>",
                    $"<data id=\"l\" expr=\"{list}\"/><data id=\"n\" expr=\"0\"/>"
                )
            )
        );
        // Two of them are fine.
        Assert.Equal(
            ["a"],
            Walk(
                Document(
                    $"<state id=\"a\"><onentry>{Each(Each("<assign location=\"n\" expr=\"n+1\"/>"))}</onentry></state>",
                    $"<data id=\"l\" expr=\"{list}\"/><data id=\"n\" expr=\"0\"/>"
                )
            ).Initial
        );
    }

    [Theory]
    [InlineData("0ms", "without time passing|goes on without end")]
    [InlineData("1ms", "more than 2000000 steps")]
    public void Sends_that_send_themselves_end(string delay, string says)
    {
        var body =
            $"<state id=\"a\"><onentry><send event=\"e\" delay=\"{delay}\"/></onentry><transition event=\"e\" target=\"a\"/></state>";
        Assert.Matches(says.Replace("goes on without end", "without end"), Refused(Document(body), new WalkEvent(null, null, 1e9)));
    }

    [Fact]
    public void A_walk_of_a_document_can_be_stopped()
    {
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() =>
            ScxmlWalk.Run(
                Document(
                    "<state id=\"a\"><onentry><send event=\"e\" delay=\"1ms\"/></onentry><transition event=\"e\" target=\"a\"/></state>"
                ),
                [new(null, null, 1e9)],
                new StepBudget(long.MaxValue, stop.Token)
            )
        );
    }

    [Fact]
    public void Our_sentence_under_a_parallel_that_is_no_region_is_taken_for_none()
    {
        var document =
            "<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" xmlns:c=\"urn:chiton:script:1\" version=\"1.0\"><parallel "
            + "id=\"p\"><state id=\"r\" c:says=\"x\"><state id=\"a\"/></state><state id=\"q\" c:says=\"state q\"><parallel "
            + "id=\"w\"><state id=\"v\" c:says=\"reg\"/></parallel></state></parallel></scxml>";
        Assert.NotEmpty(ScxmlImport.Read(document, new([], [], [])).Script);
    }

    [Theory]
    [InlineData("2000000 s")]
    [InlineData("999999999999999 s")]
    [InlineData("0.000001 s")]
    public void Every_time_that_is_written_is_read_again(string time)
    {
        var rig = new Vocabulary([], [], []);
        var program = ScriptParser.Parse($"program T\n\nregion Main\n  state A, initial\n    after {time}: go B\n\n  state B\n", rig);
        Assert.Empty(program.Diagnostics);
        var written = ScxmlWriter.Write(program.Program);
        Assert.Equal(["Main.A"], ScxmlWalk.Run(written, []).Initial);
        Assert.Equal(Printer.Print(program.Program), ScxmlImport.Read(written, rig).Script);
    }
}
