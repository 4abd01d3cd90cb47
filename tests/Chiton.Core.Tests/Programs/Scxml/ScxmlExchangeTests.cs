using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs.Scxml;

public class ScxmlExchangeTests
{
    private static readonly Vocabulary Rig = LanguageTests.Rig;

    private static string Doc(string inner, string attributes = "") =>
        $"<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" version=\"1.0\" {attributes}>\n{inner}\n</scxml>";

    private static string Body(ScxmlImported read) =>
        string.Join('\n', read.Script.Split('\n').Select(l => l.TrimEnd()).Where(l => l != "" && !l.StartsWith("program")));

    [Fact]
    public void A_document_written_here_gives_the_very_same_program_back() =>
        LanguageTests.Whole.Sample(
            program =>
            {
                var read = ScxmlImport.Read(ScxmlWriter.Write(program), Rig);
                Assert.Equal(Printer.Print(program), read.Script);
                Assert.Empty(read.Left);
            },
            iter: 1000
        );

    [Fact]
    public void Any_other_reader_can_read_what_is_written() =>
        LanguageTests.Whole.Sample(
            program =>
            {
                var document = ScxmlDocument.Read(ScxmlWriter.Write(program));
                // Every state, the regions outside and inside, the two histories, the parallel around them and the document.
                Assert.Equal(
                    program.Regions.SelectMany(r => r.AllStates).Count() + program.Regions.Count + 2 + 2 + 1 + 1,
                    document.States.Count
                );
            },
            iter: 1000
        );

    private const string Trolley = """
        program Two belts

        var laps = 0

        region Belt
          state Rest, initial
            on entry: set laps to laps + 1
            when told "go": go Turning
            after 3 s if laps < 3: go Turning
            when laps >= 3: go End

          state Turning
            history Last: go Slow
            after 2 s: go Rest
            when told "hold": go Held

            state Slow, initial
              after 0.5 s: go Fast

            state Fast

          state Held
            when told "go": go Last
            every 1 s: set laps to laps + 1; stay

          state End, final

        region Lamp
          state Off, initial
            when Belt is in Turning: go On

          state On
            when not (Belt is in Turning): go Off
        """;

    [Theory]
    [InlineData("3500", "9000")]
    [InlineData("go", "600", "hold", "1500", "go", "100")]
    [InlineData("hold", "go", "hold", "go", "1000", "1000", "3000")]
    [InlineData("go", "2000", "go", "2000", "go", "500")]
    public void What_is_written_walks_as_the_program_does(params string[] steps)
    {
        var parsed = ScriptParser.Parse(Trolley, Rig);
        Assert.Empty(parsed.Diagnostics);
        steps = [.. steps.Where(s => s != "")];
        static double? Ms(string s) => double.TryParse(s, out var ms) ? ms : null;
        var script = ScriptWalk.Run(
            ScriptCompiler.Compile(parsed.Program, Rig),
            [.. steps.Select(s => new WalkEvent(Ms(s) is null ? "told " + s : null, null, Ms(s) ?? 0))]
        );
        var scxml = ScxmlWalk.Run(
            ScxmlWriter.Write(parsed.Program),
            [.. steps.Select(s => new WalkEvent(Ms(s) is null ? "told." + s : null, null, Ms(s) ?? 0))]
        );
        Assert.Equal(
            script.Select(x => string.Join(" ", x.States.Order())),
            new[] { scxml.Initial }.Concat(scxml.After).Select(c => string.Join(" ", c.Order()))
        );
        Assert.True(script.Select(x => string.Join(" ", x.States)).Distinct().Count() > 1);
    }

    [Fact]
    public void States_times_conditions_and_assignments_of_another_document_become_sentences()
    {
        var read = ScxmlImport.Read(
            Doc(
                """
                <datamodel><data id="count" expr="2"/><data id="open" expr="false"/></datamodel>
                <state id="idle">
                  <onentry><assign location="count" expr="count + 1"/><log label="again" expr="count"/></onentry>
                  <transition event="start stop" cond="count &lt; 5 &amp;&amp; !open" target="busy"/>
                  <transition cond="count >= 5" target="over"/>
                </state>
                <state id="busy" initial="b2">
                  <history id="where" type="deep"><transition target="b1"/></history>
                  <onentry><send event="late" delay="1.5s" id="clock"/></onentry>
                  <onexit><cancel sendid="clock"/></onexit>
                  <transition event="late" target="idle"/>
                  <transition event="done.state.busy" target="idle"/>
                  <transition event="nudge" type="internal" target="b1"/>
                  <state id="b1"><transition event="on" target="b3"/></state>
                  <state id="b2"/>
                  <final id="b3"/>
                </state>
                <final id="over"/>
                """,
                "name='My machine' initial='idle'"
            ),
            Rig
        );
        Assert.Empty(read.Left);
        Assert.StartsWith("program My machine\n", read.Script);
        Assert.Equal(
            """
            var count = 2
            var open = no
            region Main
              state idle, initial
                on entry: set count to count + 1; show "again"; show count
                when told "start" if count < 5 and not open: go busy
                when told "stop" if count < 5 and not open: go busy
                when count >= 5: go over
              state busy
                after 1.5 s: go idle
                when Main is in b3: go idle
                when told "nudge": go b1 inside
                deep history where: go b1
                state b1
                  when told "on": go b3
                state b2, initial
                state b3, final
              state over, final
            """,
            Body(read)
        );
    }

    [Fact]
    public void Regions_come_from_parallel_states_at_any_depth()
    {
        var read = ScxmlImport.Read(
            Doc(
                """
                <parallel id="both">
                  <state id="left"><state id="l1"><transition event="t" cond="In('r2')" target="l2"/></state><state id="l2"/></state>
                  <state id="right"><transition event="u" target="right"/><state id="r1"><transition event="t" target="r2"/></state>
                  <parallel id="r2"><state id="p"><state id="p1"/></state><state id="q"/></parallel></state>
                </parallel>
                """
            ),
            Rig
        );
        Assert.Empty(read.Left);
        Assert.Equal(
            """
            region left
              state l1, initial
                when told "t" if right is in r2: go l2
              state l2
            region right
              state right, initial
                when told "u": go right
                state r1, initial
                  when told "t": go r2
                state r2
                  region p
                    state p1, initial
                  region q
                    state q, initial
            """,
            Body(read)
        );
    }

    [Theory]
    [InlineData("<state id='a'>\n<onentry>\n<raise event='x'/></onentry></state>", 4, "raise x")]
    [InlineData("<state id='a'>\n<invoke type='scxml'/></state>", 3, "“invoke” has no word here")]
    [InlineData("<script>\nx = 1</script><state id='a'/>", 2, "“script” has no word here")]
    [InlineData(
        "<state id='a'>\n<transition event='t' cond='x ? 1 : 2' target='a'/></state>",
        3,
        "The condition “x ? 1 : 2” has no word here"
    )]
    [InlineData(
        "<state id='a'>\n<transition event='error.execution' target='a'/></state>",
        3,
        "The event “error.execution” has no word here"
    )]
    [InlineData("<state id='a'>\n<transition event='*' target='a'/></state>", 3, "The event “*” has no word here")]
    [InlineData("<state id='a'>\n<transition event='t' cond='missing == 1' target='a'/></state>", 3, "cannot be said here")]
    [InlineData(
        "<state id='a'><transition event='t'>\n<if cond='true'><log label='x'/></if></transition></state>",
        3,
        "“if” has no word here"
    )]
    [InlineData(
        "<state id='a'><onentry>\n<send event='t' delay='1s'/></onentry><transition event='t' target='b'/></state><state id='b'/>",
        3,
        "would still arrive after the state is left"
    )]
    [InlineData("<state id='a'><onentry>\n<send event='elsewhere' delay='1s'/></onentry></state>", 3, "send elsewhere")]
    [InlineData("<state id='a'>\n<transition event='t' target='q'/></state>", 3, "“q”, which is no state")]
    [InlineData(
        "<parallel id='p'>\n<onentry><log label='x'/></onentry><state id='a'/><state id='b'/></parallel>",
        3,
        "“onentry” of the whole program"
    )]
    [InlineData("<datamodel>\n<data id='x' src='file.txt'/></datamodel><state id='a'/>", 3, "which is not fetched")]
    [InlineData("<datamodel>\n<data id='x' expr='[1, 2]'/></datamodel><state id='a'/>", 3, "it begins as 0")]
    [InlineData("<state id='a'>\n<other xmlns='urn:x'/></state>", 3, "“other” has no word here")]
    [InlineData("<state id='a'>\n<donedata/></state>", 3, "“donedata” has no word here")]
    [InlineData(
        "<state id='o' initial='deep'>\n<state id='a'/><state id='b'><state id='deep'/></state></state>",
        2,
        "deeper than one state"
    )]
    public void What_has_no_word_is_told_by_its_line(string inner, int line, string says)
    {
        var read = ScxmlImport.Read(Doc(inner), Rig);
        Assert.Contains(read.Left, f => f.Line == line && f.Say.Contains(says));
        // The rest is a program that reads.
        Assert.Empty(ScriptParser.Parse(read.Script, Rig).Diagnostics);
    }

    [Theory]
    [InlineData("<!DOCTYPE scxml [<!ENTITY a 'x'>]>\n<scxml><state id='&a;'/></scxml>", "DTD")]
    [InlineData("<!DOCTYPE lol [<!ENTITY a 'ha'><!ENTITY b '&a;&a;&a;&a;'>]><scxml>&b;</scxml>", "DTD")]
    [InlineData("<!DOCTYPE x SYSTEM 'file:///etc/hostname'><scxml/>", "DTD")]
    [InlineData("<scxml xmlns='http://www.w3.org/2005/07/scxml'/>", "at least one state")]
    [InlineData("<html/>", "begins with an element scxml")]
    [InlineData("not xml", "no well-formed XML")]
    [InlineData("", "no well-formed XML")]
    public void Malicious_and_foreign_documents_are_refused(string text, string says) =>
        Assert.Contains(says, Assert.Throws<ScxmlUnreadable>(() => ScxmlImport.Read(text, Rig)).Faults[0].Say);

    [Fact]
    public void Nesting_without_end_is_refused() =>
        Assert.Contains(
            "nested more than",
            Assert
                .Throws<ScxmlUnreadable>(() =>
                    ScxmlImport.Read(
                        Doc(string.Concat(Enumerable.Repeat("<state>", 5000)) + string.Concat(Enumerable.Repeat("</state>", 5000))),
                        Rig
                    )
                )
                .Faults[0]
                .Say
        );

    [Fact]
    public void Whatever_is_read_gives_a_program_that_reads() =>
        CsCheck.Check.Sample(
            Pieces,
            inner =>
            {
                var read = ScxmlImport.Read(Doc(inner), Rig);
                Assert.Empty(ScriptParser.Parse(read.Script, Rig).Diagnostics);
                Assert.Equal(read.Script, ScxmlImport.Read(ScxmlWriter.Write(ScriptParser.Parse(read.Script, Rig).Program), Rig).Script);
            },
            iter: 400
        );

    // Documents that use odd names and everything in odd places.
    private static readonly CsCheck.Gen<string> Pieces = CsCheck
        .Gen.Recursive<string>(
            (depth, self) =>
            {
                var id = CsCheck.Gen.Int[0, 7].Select(i => new[] { "", "a", "b", "when", "1st", "go-now", "Mast", "state" }[i]);
                var leaf = CsCheck.Gen.Select(
                    id,
                    id,
                    CsCheck.Gen.Int[0, 6],
                    (a, b, k) =>
                        k switch
                        {
                            0 => $"<transition event='{a}' target='{b}'/>",
                            1 => $"<onentry><assign location='{a}' expr='{b} + 1'/></onentry>",
                            2 => $"<final id='{a}{b}f'/>",
                            3 => $"<history id='h{a}{b}'><transition target='{b}'/></history>",
                            4 => $"<datamodel><data id='{a}' expr='{b}'/></datamodel>",
                            5 => $"<transition cond=\"In('{b}')\"/>",
                            _ => $"<onexit><log label='{a}'/></onexit>",
                        }
                );
                return depth > 2
                    ? leaf
                    : CsCheck.Gen.OneOf(
                        leaf,
                        CsCheck.Gen.Select(
                            CsCheck.Gen.Int[0, 3],
                            id,
                            self.Array[1, 4],
                            (k, i, inner) =>
                                k == 0
                                    ? $"<parallel id='{i}'>{string.Concat(inner)}</parallel>"
                                    : $"<state id='{i}'>{string.Concat(inner)}</state>"
                        )
                    );
            }
        )
        .Array[1, 4]
        .Select(inner => "<state id='first'/>" + string.Concat(inner));
}
