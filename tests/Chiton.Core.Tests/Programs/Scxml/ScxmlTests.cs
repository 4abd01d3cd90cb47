using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs.Scxml;

public class ScxmlTests
{
    private static string Doc(string inner, string attributes = "") =>
        $"<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" version=\"1.0\" {attributes}>\n{inner}\n</scxml>";

    /// <summary>Walks: each step is an event name, or a number of ms that pass.</summary>
    private static string Walk(string inner, string steps, string attributes = "")
    {
        var events = steps
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select(s => double.TryParse(s, out var ms) ? new WalkEvent(null, null, ms) : new WalkEvent(s, null, 0))
            .ToArray();
        var result = ScxmlWalk.Run(Doc(inner, attributes), events);
        return string.Join(" | ", new[] { result.Initial }.Concat(result.After).Select(c => string.Join('+', c)));
    }

    [Theory]
    // Document order decides between two transitions of one state, and inner goes before outer.
    [InlineData(
        "<state id='a'><transition event='t' target='b'/><transition event='t' target='c'/></state><state id='b'/><state id='c'/>",
        "t",
        "a | b"
    )]
    [InlineData(
        "<state id='p'><transition event='t' target='c'/><state id='a'><transition event='t' target='b'/></state><state "
            + "id='b'/></state><state id='c'/>",
        "t t",
        "a | b | c"
    )]
    // A transition without a target stays; a guard that fails lets the outer one through.
    [InlineData("<state id='a'><transition event='t'/><transition event='t' target='b'/></state><state id='b'/>", "t", "a | a")]
    [InlineData(
        "<state id='p'><transition event='t' target='c'/><state id='a'><transition event='t' cond='false' "
            + "target='a'/></state></state><state id='c'/>",
        "t",
        "a | c"
    )]
    // Parallel regions take the same event side by side; In sees the configuration before the step.
    [InlineData(
        "<parallel id='p'><state id='r1'><state id='a1'><transition event='t' target='a2'/></state><state id='a2'/></state><state "
            + "id='r2'><state id='b1'><transition event='t' target='b2'/></state><state id='b2'/></state></parallel>",
        "t",
        "a1+b1 | a2+b2"
    )]
    [InlineData(
        "<parallel id='p'><state id='r1'><state id='a1'><transition event='t' target='a2'/></state><state id='a2'/></state><state "
            + "id='r2'><state id='b1'><transition event='t' cond=\"In('a2')\" target='b2'/></state><state id='b2'/></state></parallel>",
        "t t",
        "a1+b1 | a2+b1 | a2+b2"
    )]
    // Two regions that want to leave the parallel conflict: the first in the document goes.
    [InlineData(
        "<parallel id='p'><state id='r1'><transition event='t' target='x'/></state><state id='r2'><transition event='t' "
            + "target='y'/></state></parallel><state id='x'/><state id='y'/>",
        "t",
        "r1+r2 | x"
    )]
    // An inner transition preempts the region's way out.
    [InlineData(
        "<parallel id='p'><transition event='t' target='x'/><state id='r1'><state id='a1'><transition event='t' "
            + "target='a2'/></state><state id='a2'/></state><state id='r2'/></parallel><state id='x'/>",
        "t t",
        "a1+r2 | a2+r2 | x"
    )]
    public void Selection(string inner, string steps, string expected) => Assert.Equal(expected, Walk(inner, steps));

    [Theory]
    [InlineData("shallow", "out back", "a1 | b2x | o | b1x")]
    [InlineData("deep", "out back", "a1 | b2x | o | b2x")]
    public void History_remembers_as_deep_as_it_says(string type, string steps, string expected) =>
        Assert.Equal(
            expected.Replace("b2x", "b2").Replace("b1x", "b1"),
            Walk(
                $"""
                <state id='s'>
                  <history id='h' type='{type}'><transition target='a'/></history>
                  <transition event='out' target='o'/>
                  <state id='a'><state id='a1'><transition event='go' target='b2'/></state></state>
                  <state id='b'><state id='b1'/><state id='b2'/></state>
                </state>
                <state id='o'><transition event='back' target='h'/></state>
                """,
                "go " + steps
            )
        );

    [Theory]
    [InlineData("external", "x=2")]
    [InlineData("internal", "x=1")]
    public void An_internal_transition_does_not_leave_its_source(string type, string expected) =>
        Assert.Equal(
            $"a | b | {expected}",
            Walk(
                $"""
                <datamodel><data id='x' expr='0'/></datamodel>
                <state id='s'><onentry><assign location='x' expr='x + 1'/></onentry>
                  <transition event='t' type='{type}' target='b'/>
                  <transition event='look' cond='x == 1' target='x=1'/><transition event='look' cond='x == 2' target='x=2'/>
                  <state id='a'/><state id='b'/>
                </state><state id='x=1'/><state id='x=2'/>
                """,
                "t look"
            )
        );

    [Fact]
    public void Entry_and_exit_go_outside_in_and_inside_out_and_internal_events_before_external_ones() =>
        Assert.Equal(
            "in | ok",
            Walk(
                """
                <datamodel><data id='log' expr="''"/></datamodel>
                <state id='out'><onexit><assign location='log' expr="log + 'O'"/></onexit><onentry>
                  <assign location='log' expr="log + 'o'"/></onentry>
                  <state id='in'><onentry><assign location='log' expr="log + 'i'"/></onentry><onexit>
                    <assign location='log' expr="log + 'I'"/><raise event='first'/></onexit>
                    <transition event='t' target='next'><assign location='log' expr="log + 't'"/><send event='second'/></transition></state>
                </state>
                <state id='next'><onentry><assign location='log' expr="log + 'n'"/></onentry>
                  <transition event='first' target='mid'/><transition event='second' target='bad'/></state>
                <state id='mid'><transition event='second' cond="log === 'oiIOtn'" target='ok'/></state><state id='ok'/><state id='bad'/>
                """,
                "t"
            )
        );

    [Fact]
    public void Done_events_come_from_finals_and_from_all_regions() =>
        Assert.Equal(
            "a+c | fa+c | end",
            Walk(
                """
                <parallel id='p'>
                  <transition event='done.state.p' target='end'/>
                  <state id='r1'><state id='a'><transition event='x' target='fa'/></state><final id='fa'/></state>
                  <state id='r2'><state id='c'><transition event='y' target='fc'/></state><final id='fc'/></state>
                </parallel><state id='end'/>
                """,
                "x y"
            )
        );

    [Fact]
    public void A_finished_machine_reports_its_last_configuration_and_hears_nothing_more() =>
        Assert.Equal("a | f | f", Walk("<state id='a'><transition event='t' target='f'/></state><final id='f'/>", "t t"));

    [Fact]
    public void Delayed_sends_come_in_order_of_their_time_and_can_be_cancelled() =>
        Assert.Equal(
            "a | a | b | c | c",
            Walk(
                """
                <state id='a'><onentry><send event='late' delay='2s'/><send event='soon' delay='500ms'/>
                  <send event='never' delay='1s' id='n'/><cancel sendid='n'/></onentry>
                  <transition event='soon' target='b'/><transition event='never' target='x'/></state>
                <state id='b'><transition event='never' target='x'/><transition event='late' target='c'/></state><state id='c'/>
                  <state id='x'/>
                """,
                "499 1 1500 5000"
            )
        );

    [Theory]
    [InlineData("foo", "foo", true)]
    [InlineData("foo", "foo.bar", true)]
    [InlineData("foo", "fool", false)]
    [InlineData("foo.bar", "foo", false)]
    [InlineData("*", "anything.at.all", true)]
    public void Descriptors_fit_token_by_token(string descriptor, string name, bool fits) =>
        Assert.Equal(fits, ScxmlMachine.Fits(descriptor, name));

    [Fact]
    public void Dots_and_stars_after_a_descriptor_mean_nothing() =>
        Assert.Equal(
            "a | b | c",
            Walk(
                "<state id='a'><transition event='e.*' target='b'/></state><state id='b'><transition event='x e.' "
                    + "target='c'/></state><state id='c'/>",
                "e.one e"
            )
        );

    [Fact]
    public void Initial_attributes_elements_and_defaults() =>
        Assert.Equal(
            "d+f | d+f",
            Walk(
                """
                <state id='z'/>
                <parallel id='p'><state id='r1'><initial><transition target='d'><raise event='seen'/></transition></initial>
                  <state id='c'/><state id='d'/><transition event='seen'/></state>
                <state id='r2' initial='f'><state id='e'/><state id='f'/></state></parallel>
                """,
                "t",
                "initial='p'"
            )
        );

    [Fact]
    public void Conditions_and_data_of_events() =>
        Assert.Equal(
            "a | b | c | d",
            string.Join(
                " | ",
                new[] { "a" }.Concat(
                    ScxmlWalk
                        .Run(
                            Doc(
                                """
                                <datamodel><data id='sum' expr='0'/><data id='list'>[1, 2, 3]</data></datamodel>
                                <state id='a'><transition event='give' target='b'
                                  cond='_event.data.amount &gt; 3 &amp;&amp; _event.name === "give.now"'>
                                  <foreach array='list' item='i' index='k'><assign location='sum' expr='sum + i * k'/></foreach>
                                </transition></state>
                                <state id='b'><transition event='next' cond='sum == 8 and not In("a")' target='c'>
                                  <if cond='sum &lt; 0'><raise event='bad'/><elseif cond='sum % 2 = 0'/><raise event='even'/><else/>
                                  <raise event='odd'/></if></transition></state>
                                <state id='c'><transition event='bad odd' target='x'/>
                                  <transition event='even'><script>sum += 1; var extra = sum;</script></transition>
                                  <transition event='end' cond='extra === 9' target='d'/></state><state id='d'/><state id='x'/>
                                """
                            ),
                            [
                                new("give.now", new Dictionary<string, object?> { ["amount"] = 4.0 }, 0),
                                new("next", null, 0),
                                new("end", null, 0),
                            ]
                        )
                        .After.Select(c => string.Join('+', c))
                )
            )
        );

    [Fact]
    public void An_error_while_running_is_an_event_and_ends_its_block() =>
        Assert.Equal(
            "a | caught",
            Walk(
                """
                <datamodel><data id='x' expr='1'/></datamodel>
                <state id='a'><transition event='t' target='b'><assign location='nobody' expr='1'/>
                  <assign location='x' expr='2'/></transition></state>
                <state id='b'><transition event='error.execution' cond='x == 1' target='caught'/></state><state id='caught'/>
                """,
                "t"
            )
        );

    [Theory]
    [InlineData("<state id='a'><transition target='b'/></state><state id='b'><transition target='a'/></state>", "a → b")]
    [InlineData("<state id='a'><onentry><raise event='e'/></onentry><transition event='e' target='a'/></state>", "goes round and round")]
    public void Endless_rounds_are_stopped_and_named(string inner, string say) =>
        Assert.Contains(say, Assert.Throws<InputProblem>(() => Walk(inner, "")).Errors["source"]);

    [Fact]
    public void A_machine_that_sends_itself_events_for_ever_is_stopped() =>
        Assert.Contains(
            "without end",
            Assert
                .Throws<InputProblem>(() =>
                    Walk("<state id='a'><onentry><send event='e'/></onentry><transition event='e' target='a'/></state>", "")
                )
                .Errors["source"]
        );

    [Theory]
    [InlineData("<state id='a'>\n<invoke type='x'/></state>", "Line 3: “invoke”")]
    [InlineData(
        "<state id='a'><transition event='t' target='shelfs'/></state>\n<state id='shelf'/>",
        "Line 2: There is no state “shelfs”. Did you mean “shelf”?"
    )]
    [InlineData("<state id='a'/>\n<state id='a'/>", "Line 3: There are two states called “a”.")]
    [InlineData("<state id='a'><transition event='t' cond='x ==' target='a'/></state>", "Line 2: “x ==” cannot be read.")]
    [InlineData("<state id='a'><onentry>\n<dance/></onentry></state>", "Line 3: “dance” is not known here.")]
    [InlineData("<state id='a'><onentry><script>while (true) {}</script></onentry></state>", "Only assignments are known in a script")]
    [InlineData("<state id='a' colour='red'/>", "“colour” on state is not known here")]
    [InlineData("<state id='a'><onentry><send event='e' target='http://x'/></onentry></state>", "Nothing can be sent to")]
    [InlineData("<state id='a'><onentry><send event='e' delay='soon'/></onentry></state>", "is no delay")]
    [InlineData("<state id='a'><transition event='t' target='b c'/></state><state id='b'/><state id='c'/>", "cannot be active together")]
    [InlineData("", "needs at least one state")]
    [InlineData("<state id='a' initial='b'><state id='c'/></state>\n<state id='b'/>", "“b” does not stand in “a”")]
    [InlineData("<state id='a'><onentry><assign location='x' expr='eval(1)'/></onentry></state>", "can be called")]
    public void What_cannot_be_expressed_is_told_with_its_line(string inner, string say) =>
        Assert.Contains(say, Assert.Throws<InputProblem>(() => Walk(inner, "")).Errors["source"]);

    [Fact]
    public void Every_fault_is_told_at_once() =>
        Assert.Equal(
            3,
            Assert
                .Throws<ScxmlUnreadable>(() =>
                    ScxmlDocument.Read(Doc("<state id='a'><invoke/><transition target='q'/></state>\n<state id='a'/>"))
                )
                .Faults.Count
        );

    [Theory]
    [InlineData(
        "<!DOCTYPE scxml [<!ENTITY x 'y'>]><scxml xmlns='http://www.w3.org/2005/07/scxml'><state id='&x;'/></scxml>",
        "document type (DTD)"
    )]
    [InlineData("<!DOCTYPE scxml SYSTEM 'file:///etc/passwd'><scxml/>", "document type (DTD)")]
    [InlineData("<scxml xmlns='http://www.w3.org/2005/07/scxml'><state id='a'>", "no well-formed XML")]
    [InlineData("not xml", "no well-formed XML")]
    [InlineData("<html/>", "begins with an element scxml")]
    public void Malicious_and_broken_documents_are_refused(string text, string say) =>
        Assert.Contains(say, Assert.Throws<ScxmlUnreadable>(() => ScxmlDocument.Read(text)).Faults[0].Say);

    [Fact]
    public void Nesting_without_end_and_size_are_refused()
    {
        var deep = string.Concat(Enumerable.Repeat("<state>", 5000)) + string.Concat(Enumerable.Repeat("</state>", 5000));
        Assert.Contains("deep", Assert.Throws<ScxmlUnreadable>(() => ScxmlDocument.Read(Doc(deep))).Faults[0].Say);
        Assert.Contains(
            "characters",
            Assert.Throws<ScxmlUnreadable>(() => ScxmlDocument.Read(new string(' ', ScxmlDocument.MostCharacters + 1))).Faults[0].Say
        );
        var brackets = new string('(', 500) + "1" + new string(')', 500);
        Assert.Contains(
            "nested too deeply",
            Assert.Throws<InputProblem>(() => Walk($"<state id='a'><transition cond='{brackets}' target='a'/></state>", "")).Errors[
                "source"
            ]
        );
    }

    // ---- expressions ----

    private sealed class Scope : IScxmlScope
    {
        private readonly Dictionary<string, object?> values = new()
        {
            ["x"] = 4.0,
            ["name"] = "tide",
            ["list"] = new List<object?> { 1.0, "two" },
            ["on"] = true,
        };

        public object? Get(string name) => values.TryGetValue(name, out var v) ? v : throw new ScxmlEvaluation(name);

        public bool Knows(string name) => values.ContainsKey(name);

        public void Set(string name, object? value) => values[name] = value;

        public void Declare(string name, object? value) => values[name] = value;

        public void Makes(int size) { }

        public bool In(string state) => state == "here";
    }

    [Theory]
    [InlineData("1 + 2 * 3", 7.0)]
    [InlineData("(1 + 2) * 3", 9.0)]
    [InlineData("10 - 2 - 3", 5.0)]
    [InlineData("-x + 1", -3.0)]
    [InlineData("7 % 4", 3.0)]
    [InlineData("x > 3 && x <= 4", true)]
    [InlineData("x > 3 and not (x = 5)", true)]
    [InlineData("x < 3 || !on", false)]
    [InlineData("x === '4'", false)]
    [InlineData("x == '4'", true)]
    [InlineData("x !== 4 or x != 4", false)]
    [InlineData("on ? 'yes' : 'no'", "yes")]
    [InlineData("name + x", "tide4")]
    [InlineData("list[1]", "two")]
    [InlineData("list.length", 2.0)]
    [InlineData("list.concat([3, 4]).length", 4.0)]
    [InlineData("{a: 1, 'b': {c: 2}}.b.c", 2.0)]
    [InlineData("In('here') && !In('there')", true)]
    [InlineData("typeof nobody === 'undefined'", true)]
    [InlineData("Math.max(1, x, 3) - min(2, 1)", 3.0)]
    [InlineData("round(2.5) + Math.floor(-0.5)", 2.0)]
    [InlineData("'it''s'", null)]
    [InlineData("\"a\\n\"", "a\n")]
    [InlineData("1e3 + .5", 1000.5)]
    public void Expressions_worked_out(string text, object? expected)
    {
        if (expected is null)
            Assert.Throws<ScxmlSyntax>(() => ScxmlExpressions.Read(text));
        else
            Assert.Equal(expected, ScxmlExpressions.Read(text)(new Scope()));
    }

    [Fact]
    public void Statements_assign_and_nothing_else()
    {
        var scope = new Scope();
        ScxmlExpressions.ReadStatements("x = x + 1; var y = 2\n; list[0] = 'one'; x++; y += x * 2; z = {a: 1}; z.a -= 3")(scope);
        Assert.Equal((6.0, 14.0), ((double)scope.Get("x")!, (double)scope.Get("y")!));
        Assert.Equal("one", ScxmlExpressions.Read("list[0]")(scope));
        Assert.Equal(-2.0, ScxmlExpressions.Read("z.a")(scope));
        foreach (var bad in new[] { "x", "f()", "if (x) y = 1", "x = ", "1 = x", "x == 2" })
            Assert.Throws<ScxmlSyntax>(() =>
            {
                ScxmlExpressions.ReadStatements(bad)(scope);
                if (bad == "x")
                    throw new ScxmlSyntax("a name alone does nothing");
            });
    }

    [Fact]
    public void Any_text_is_an_expression_or_is_refused_and_nothing_hangs() =>
        Gen.String[Gen.Char["xy1 +-*/()[]{}=!<>&|'\".,?:%In_"], 0, 40]
            .Sample(text =>
            {
                try
                {
                    ScxmlExpressions.Read(text)(new Scope());
                }
                catch (Exception e) when (e is ScxmlSyntax or ScxmlEvaluation)
                {
                    // Refused in words.
                }
            });
}
