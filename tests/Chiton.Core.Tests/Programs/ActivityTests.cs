using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Programs;

/// <summary>What ends, gives up, is stopped or taken over, and what follows it: the page's sentences, one by one.</summary>
public class ActivityTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Knob", ["up", "down"]) { Switch = true },
            new("Eye", ["dark", "light"]),
            new("Range", ["near", "far"])
            {
                Reads = Core.Quantities.Dimension.Length,
                MayHearNothing = true,
                SilentReading = 2000,
                BlindBelow = 40,
            },
        ],
        [
            new("Mast", ActuatorKind.RegulatedMotor),
            new("Tongue", ActuatorKind.RegulatedMotor),
            new("Lamp", ActuatorKind.Lamp),
            new("Horn", ActuatorKind.Sounder),
        ],
        []
    );

    private static CompiledScript Compile(string body, string head = "")
    {
        var text = body.StartsWith("program", StringComparison.Ordinal) ? body : $"program T\n\n{head}region Main\n{body}";
        var parsed = ScriptParser.Parse(text, Rig);
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics) + "\n" + text);
        Assert.Equal(parsed.Program, ScriptParser.Parse(Printer.Print(parsed.Program), Rig).Program);
        return ScriptCompiler.Compile(parsed.Program, Rig);
    }

    private static IReadOnlyList<WalkMoment> Walk(CompiledScript script, params string[] steps) =>
        ScriptWalk.Run(
            script,
            [
                .. steps.Select(s =>
                    s.StartsWith("+ ", StringComparison.Ordinal)
                        ? new WalkEvent(null, null, double.Parse(s[2..^2], System.Globalization.CultureInfo.InvariantCulture) * 1000)
                        : new WalkEvent(s, null, 0)
                ),
            ]
        );

    private static string States(IEnumerable<WalkMoment> walk) =>
        string.Join(" | ", walk.Select(m => string.Join("+", m.States.Select(s => s[(s.IndexOf('.') + 1)..]))));

    private static string Check(string body, params string[] steps) => States(Walk(Compile(body), steps));

    private static IEnumerable<string> Said(IReadOnlyList<WalkMoment> walk) => walk.SelectMany(m => m.Commands);

    [Fact]
    public void A_limit_that_runs_out_is_giving_up_and_no_end()
    {
        const string body =
            "  state A, initial\n    on entry: run Mast 90 deg at 30 % up to 2 s\n    when Mast is done: go "
            + "Done\n    when Mast gives up: go Up\n  "
            + "state Done\n  state Up\n    when Mast is done: go Done\n    when Mast has given up: go Still\n  state Still\n";
        Assert.Equal("A | Done", Check(body, "Mast done"));
        // It stays given up, and never counts as done, until it is commanded anew.
        Assert.Equal("A | A | Still", Check(body, "+ 1.9 s", "+ 0.1 s"));
        Assert.Equal("A | Still", Check(body, "Mast gives up"));
        Assert.Contains("Mast stops: its time is up", Said(Walk(Compile(body), "+ 2.0 s")));
    }

    [Fact]
    public void What_has_given_up_goes_on_in_its_chain_and_counts_for_all_done()
    {
        const string body =
            "  state A, initial\n    on entry: run Mast 90 deg at 30 % up to 2 s, then tone 440 Hz for 1 s\n    "
            + "when all done: go B\n  state B\n";
        Assert.Equal("A | A | A | B", Check(body, "+ 2.0 s", "+ 0.9 s", "+ 0.1 s"));
    }

    [Fact]
    public void Done_waits_for_the_last_command_of_a_chain_to_the_same_device()
    {
        const string body =
            "  state A, initial\n    on entry: run Mast 90 deg at 30 %, then tone 440 Hz for 1 s, then run Mast "
            + "45 deg at 30 %\n    when Mast "
            + "is done: go B\n  state B\n";
        Assert.Equal("A | A | A | B", Check(body, "Mast done", "+ 1.0 s", "Mast done"));
        const string rounds =
            "  state A, initial\n    on entry: repeat 2 times: run Mast 90 deg at 30 %\n    when Mast is done: go B\n  state B\n";
        Assert.Equal("A | A | B", Check(rounds, "Mast done", "Mast done"));
    }

    [Fact]
    public void A_stop_is_done_once_it_rests() =>
        Assert.Equal(
            "A | C",
            Check(
                "  state A, initial\n    while here: run Mast at 30 %\n    when Knob is pressed: go B\n  state B\n   "
                    + " on entry: stop Mast\n    "
                    + "when Mast is done: go C\n  state C\n",
                "Knob pressed"
            )
        );

    [Fact]
    public void What_is_taken_over_never_counts_as_ended_and_drops_what_was_to_follow()
    {
        const string body =
            "  state A, initial\n    on entry: run Mast 90 deg at 30 %, then run Tongue 10 deg at 30 %\n    when "
            + "Knob is pressed: run Mast 5 deg "
            + "at 20 %; stay\n    when all done: go B\n    when Tongue is done: go C\n  state B\n  state C\n";
        var walk = Walk(Compile(body), "Knob pressed", "Mast done", "Tongue done");
        Assert.Equal("A | A | A | A", States(walk));
        Assert.DoesNotContain(Said(walk), c => c.StartsWith("run Tongue", StringComparison.Ordinal));
    }

    [Fact]
    public void What_followed_two_moves_side_by_side_is_dropped_when_one_is_taken_over()
    {
        const string body =
            "  state A, initial\n    on entry: (run Mast 90 deg at 30 % and run Tongue 10 deg at 30 %), then "
            + "turn Lamp on\n    when Knob is "
            + "pressed: stop Mast; stay\n    when Knob is released: go B\n  state B\n";
        var walk = Walk(Compile(body), "Knob pressed", "Tongue done");
        Assert.DoesNotContain("turn Lamp on", Said(walk));
        // Untouched it comes.
        Assert.Contains("turn Lamp on", Said(Walk(Compile(body), "Tongue done", "Mast done")));
    }

    [Fact]
    public void After_stop_everything_nothing_more_begins_but_what_stands_beside_the_stop()
    {
        const string text =
            "program T\nregion Main\n  state A, initial\n    on entry: run Mast 90 deg at 30 %, then run Tongue "
            + "10 deg at 30 %\n    on entry: tone "
            + "440 Hz for 1 s, then turn Lamp on\nregion Guard\n  state Watching, initial\n    when Knob is "
            + "pressed: go Safe\n  state Safe\n    on "
            + "entry: stop everything, then tone 520 Hz for 0.4 s, then tone 260 Hz for 0.4 s\n";
        var walk = Walk(Compile(text), "Knob pressed", "+ 5.0 s", "Mast done");
        Assert.DoesNotContain("turn Lamp on", Said(walk));
        Assert.DoesNotContain(Said(walk), c => c.StartsWith("run Tongue", StringComparison.Ordinal));
        Assert.Contains("tone 260 Hz for 0.4 s", Said(walk));
    }

    [Fact]
    public void A_routine_ends_with_its_state_and_only_the_move_in_hand_goes_on()
    {
        const string text =
            "program T\nregion Main\n  state A, initial\n    on entry: do Fetch\n    when Knob is pressed: go B\n"
            + "  state B\n    when Mast is done: "
            + "go C\n  state C\n    when Tongue is done: go D\n  state D\nroutine Fetch\n  state One, initial\n    "
            + "on entry: run Mast 90 deg at 30 "
            + "%\n    when Mast is done: go Two\n  state Two\n    on entry: run Tongue 10 deg at 30 %\n    when "
            + "Tongue is done: go Over\n  state "
            + "Over, final\n";
        var walk = Walk(Compile(text), "Knob pressed", "Mast done", "Tongue done");
        Assert.Equal("A | B | C | C", States(walk));
        Assert.DoesNotContain(Said(walk), c => c.StartsWith("run Tongue", StringComparison.Ordinal));
        Assert.DoesNotContain(Said(walk), c => c.StartsWith("Mast stops", StringComparison.Ordinal));
    }

    [Fact]
    public void A_routine_that_a_transition_does_ends_with_the_state_that_it_leads_to()
    {
        const string text =
            "program T\nregion Main\n  state A, initial\n    when Knob is pressed: do Fetch; go B\n  state B\n   "
            + " when Knob is released: go C\n  "
            + "state C\nroutine Fetch\n  state One, initial\n    after 1 s: go Two\n  state Two, final\n    on entry: turn Lamp on\n";
        Assert.Contains("turn Lamp on", Said(Walk(Compile(text), "Knob pressed", "+ 1.0 s")));
        Assert.DoesNotContain("turn Lamp on", Said(Walk(Compile(text), "Knob pressed", "Knob released", "+ 2.0 s")));
    }

    [Fact]
    public void A_known_time_that_a_routine_began_runs_out_after_the_routine_has_ended()
    {
        const string text =
            "program T\nregion Main\n  state A, initial\n    on entry: do Beep\n    when Horn is done: go B\n  "
            + "state B\nroutine Beep\n  state One, "
            + "initial\n    on entry: tone 440 Hz for 1 s\n    always: go Two\n  state Two, final\n";
        Assert.Equal("A | A | B", Check(text, "+ 0.9 s", "+ 0.1 s"));
    }

    [Fact]
    public void A_stall_ends_nothing() =>
        Assert.Equal(
            "A | A",
            Check(
                "  state A, initial\n    on entry: run Mast 90 deg at 30 %\n    when Mast is done: go B\n    when "
                    + "all done: go B\n  state B\n",
                "Mast stalls"
            )
        );

    [Theory]
    [InlineData("when Eye is light: go B", "A")]
    [InlineData("when not Eye is light: go B", "A")]
    [InlineData("when Eye is not light: go B", "A")]
    [InlineData("when Range < 65 mm: go B", "A")]
    [InlineData("when not (Range < 65 mm): go B", "A")]
    [InlineData("when Range + 1 mm < 65 mm: go B", "A")]
    [InlineData("when Eye is light or Knob is up: go B", "B")]
    [InlineData("when Eye is light and Knob is down: go B", "A")]
    [InlineData("when not (Eye is light and Knob is down): go B", "B")]
    [InlineData("when not (Eye is light or Knob is down): go B", "A")]
    [InlineData("when Range hears nothing: go B", "A")]
    [InlineData("when Knob is up: go B", "B")]
    public void Before_a_first_reading_a_condition_is_unknown(string line, string state) =>
        Assert.Equal(state, Check($"  state A, initial\n    {line}\n  state B\n"));

    [Theory]
    [InlineData("when Eye is not light and Range is far: go B", "Eye is dark", "Range is far", "A | A | B")]
    [InlineData("when Knob is down and Eye is light: go B", "Eye is light", "Knob pressed", "A | A | B")]
    [InlineData("after 1 s if Eye is light: go B", "Eye is light", "+ 1.0 s", "A | A | B")]
    [InlineData("after 1 s if not (Eye is light): go B", "Eye is light", "+ 1.0 s", "A | A | A")]
    [InlineData("when Knob is pressed if Range is near or Eye is light: go B", "Range is near", "Knob pressed", "A | A | B")]
    [InlineData("when Mast is done or Eye is light: go B", "Range is near", "Eye is light", "A | A | B")]
    public void Conditions_join_alike_in_triggers_and_guards(string line, string first, string second, string states) =>
        Assert.Equal(states, Check($"  state A, initial\n    {line}\n  state B\n", first, second));

    [Theory]
    // Silence satisfies no comparison, and its opposite all the more.
    [InlineData("when Range > 65 mm: go B", "Range reads 2000 mm", "A | A")]
    [InlineData("when Range < 65 mm: go B", "Range reads 20 mm", "A | A")]
    [InlineData("when not (Range < 65 mm): go B", "Range reads 2000 mm", "A | B")]
    [InlineData("when Range hears nothing: go B", "Range reads 2000 mm", "A | B")]
    [InlineData("when Range hears nothing: go B", "Range hears nothing", "A | B")]
    [InlineData("when Range hears nothing: go B", "Range reads 20 mm", "A | A")]
    [InlineData("when Range > 65 mm: go B", "Range reads 66 mm", "A | B")]
    public void Silence_and_the_blind_zone_satisfy_no_comparison(string line, string what, string states) =>
        Assert.Equal(states, Check($"  state A, initial\n    {line}\n  state B\n", what));

    [Fact]
    public void Silence_leaves_the_zone_so_that_coming_back_to_it_is_no_edge()
    {
        const string body = "  state A, initial\n    after 1 s: go B\n  state B\n    when Range becomes near: go C\n  state C\n";
        Assert.Equal("A | A | B | B | B", Check(body, "Range is near", "+ 1.0 s", "Range hears nothing", "Range is near"));
    }

    [Fact]
    public void A_sensor_can_say_that_its_silence_is_a_zone()
    {
        var rig = Rig with { Sensors = [.. Rig.Sensors.Select(s => s.Name == "Range" ? s with { SilenceIs = "far" } : s)] };
        var parsed = ScriptParser.Parse(
            "program T\nregion Main\n  state A, initial\n    when Range becomes far: go B\n  state B\n    when "
                + "Range hears nothing and Range > 65 mm: "
                + "go C\n  state C\n",
            rig
        );
        Assert.Empty(parsed.Diagnostics);
        var walk = Walk(ScriptCompiler.Compile(parsed.Program, rig), "Range is near", "Range hears nothing", "Range hears nothing");
        Assert.Equal("A | A | B | B", States(walk));
    }

    [Theory]
    [InlineData("when Range hears nothing for 1 s: go B", "A | A | A | B")]
    [InlineData("when Eye is light for 1 s: go B", "A | A | A | A")]
    public void A_time_is_waited_for_in_a_walk(string line, string states) =>
        Assert.Equal(states, Check($"  state A, initial\n    {line}\n  state B\n", "Range hears nothing", "+ 0.9 s", "+ 0.1 s"));

    [Fact]
    public void A_zone_held_from_before_the_state_counts_for_a_level_and_not_for_an_edge()
    {
        const string body = "  state A, initial\n    after 1 s: go B\n  state B\n    when Eye {0} light for 1.5 s: go C\n  state C\n";
        Assert.Equal("A | A | B | C", Check(body.Replace("{0}", "is"), "Eye is light", "+ 1.0 s", "+ 0.5 s"));
        Assert.Equal("A | A | B | B", Check(body.Replace("{0}", "becomes"), "Eye is light", "+ 1.0 s", "+ 9.0 s"));
    }

    [Fact]
    public void Numbers_count_their_readings_from_before_the_state()
    {
        const string body = "  state A, initial\n    after 1 s: go B\n  state B\n    when Range < 65 mm for 3 readings: go C\n  state C\n";
        Assert.Equal(
            "A | A | A | A | B | C",
            Check(body, "Range reads 90 mm", "Range reads 60 mm", "Range reads 61 mm", "+ 1.0 s", "Range reads 60 mm")
        );
        // Another reading, or silence, begins the row anew.
        Assert.Equal(
            "A | A | A | B | B | B",
            Check(body, "Range reads 60 mm", "Range reads 61 mm", "+ 1.0 s", "Range hears nothing", "Range reads 60 mm")
        );
    }

    [Fact]
    public void A_button_that_is_down_comes_up_before_it_is_pressed_again()
    {
        const string body = "  state A, initial\n    when Knob is tapped: go B\n  state B\n    when Knob is held for 2 s: go A\n";
        Assert.Equal("A | A | B | A | B", Check(body, "Knob pressed", "Knob tapped", "Knob held for 2 s", "Knob tapped"));
    }

    [Fact]
    public void When_the_program_ends_what_moves_is_stopped_and_lamps_stay()
    {
        const string body =
            "  state A, initial\n    on entry: run Tongue at 30 %; turn Lamp on; run Mast 90 motor deg at 20 %\n"
            + "    when Knob is tapped: go B\n  state B, final\n";
        var walk = Walk(Compile(body), "Mast done", "Knob tapped");
        Assert.Contains("Tongue stops: its program ended", walk[^1].Commands);
        Assert.DoesNotContain(
            walk[^1].Commands,
            c => c.StartsWith("Lamp", StringComparison.Ordinal) || c.StartsWith("Mast", StringComparison.Ordinal)
        );
        // What the last state begins is cut as well, and what stopped before is not stopped again.
        walk = Walk(
            Compile(body.Replace("state B, final", "state B, final\n    on entry: stop Tongue; run Mast at 20 %")),
            "Mast done",
            "Knob tapped"
        );
        Assert.Equal(["stop Tongue", "run Mast at 20 %", "Mast stops: its program ended"], walk[^1].Commands);
    }
}
