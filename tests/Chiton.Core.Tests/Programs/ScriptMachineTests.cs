using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs;

/// <summary>What the whole language means when it runs.</summary>
public class ScriptMachineTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Eye", ["dark", "light"]) { Reads = Dimension.Percent },
            new("Range", ["near", "far"]) { Reads = Dimension.Length },
            new("Knob", ["up", "down"]) { Switch = true },
        ],
        [
            new("Mast", ActuatorKind.RegulatedMotor),
            new("Tongue", ActuatorKind.RegulatedMotor),
            new("Pump", ActuatorKind.PlainMotor),
            new("Lamp", ActuatorKind.Lamp),
            new("Flap", ActuatorKind.Servo),
        ],
        []
    )
    {
        Programs = ["Keeper", "Landing"],
    };

    private static CompiledScript Compile(string body, string head = "", string? whole = null)
    {
        var parsed = ScriptParser.Parse(whole ?? $"program T\n{head}\nregion Main\n{body}", Rig);
        Assert.Empty(parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return ScriptCompiler.Compile(parsed.Program, Rig);
    }

    // Walks; each step is an event, “+ 2 s” passes time.
    private static IReadOnlyList<WalkMoment> Walk(CompiledScript script, params string[] steps) =>
        ScriptWalk.Run(
            script,
            [
                .. steps.Select(s =>
                    s.StartsWith("+ ")
                        ? new WalkEvent(null, null, double.Parse(s[2..^2], System.Globalization.CultureInfo.InvariantCulture) * 1000)
                        : new WalkEvent(s, null, 0)
                ),
            ]
        );

    private static string States(IReadOnlyList<WalkMoment> walk) =>
        string.Join(" | ", walk.Select(m => string.Join('+', m.States.Select(s => s.Replace("Main.", "")))));

    private static string Check(string body, string head, params string[] steps)
    {
        var walk = Walk(Compile(body, head), steps);
        Assert.All(walk, m => Assert.Null(m.Fault));
        return States(walk);
    }

    [Fact]
    public void Edges_count_since_entry_and_levels_are_judged_on_entry()
    {
        Assert.Equal(
            "A | A | B | B | B | C",
            Check(
                "  state A, initial\n    after 1 s: go B\n  state B\n    when Eye becomes light: go C\n  state C\n",
                "",
                "Eye is light",
                "+ 1 s",
                "Eye is light",
                "Eye is dark",
                "Eye is light"
            )
        );
        Assert.Equal(
            "A | A | C",
            Check(
                "  state A, initial\n    after 1 s: go B\n  state B\n    when Eye is light: go C\n  state C\n",
                "",
                "Eye is light",
                "+ 1 s"
            )
        );
        Assert.Equal(
            "A | A | B",
            Check("  state A, initial\n    when Eye leaves light: go B\n  state B\n", "", "Eye is light", "Eye is dark")
        );
    }

    [Fact]
    public void A_targetless_level_fires_once_a_rise()
    {
        var walk = Walk(
            Compile("  state A, initial\n    when Eye is light: set n to n + 1; stay\n    when n > 1: go B\n  state B\n", "var n = 0\n"),
            "Eye is light",
            "Eye is light",
            "Eye is dark",
            "Eye is light"
        );
        Assert.Equal("A | A | A | A | B", States(walk));
    }

    [Fact]
    public void Inner_before_outer_document_order_and_nesting()
    {
        const string body =
            "  state Out, initial\n    when Knob is tapped: go Away\n\n    state In, initial\n      when Knob is tapped if n = 0: set "
            + "n to 1; go Second\n\n    state Second\n  state Away\n";
        Assert.Equal("Out.In | Out.Second | Away", Check(body, "var n = 0\n", "Knob tapped", "Knob tapped"));
    }

    [Fact]
    public void Inside_does_not_leave_the_state_that_holds_both()
    {
        string Entries(string inside) =>
            Walk(
                Compile(
                    $"  state Out, initial\n    on entry: set n to n + 1\n    when Knob is pressed: go B{inside}\n\n    state A, "
                        + "initial\n\n    state B\n",
                    "var n = 0\n"
                ),
                "Knob pressed"
            )[^1]
                .Values[0]
                .Value;
        Assert.Equal(("1", "2"), (Entries(" inside"), Entries("")));
    }

    [Fact]
    public void History_shallow_and_deep_and_regions_side_by_side()
    {
        const string body = """
              state Work, initial
                when Knob is pressed: go Rest
                history Back: go A
                deep history Deep: go A

                state A, initial
                  when Eye is light: go B

                state B

                  state B1, initial
                    when Range becomes near: go B2

                  state B2

              state Rest
                when Eye becomes dark: go Back
                when Eye leaves dark: go Deep

            """;
        Assert.Equal(
            "Work.A | Work.B.B1 | Work.B.B2 | Rest | Work.B.B1",
            Check(body, "", "Eye is light", "Range is near", "Knob pressed", "Eye is dark")
        );
        var script = Compile(
            "",
            "",
            "program T\nregion Main\n  state A, initial\n    when Knob is pressed: go B\n  state B\n\n    region Left\n      state "
                + "L1, initial\n        when Eye becomes light: go L2\n\n      state L2\n\n    region Right\n      state R1, initial\n"
                + "        when Left is in L2: go R2\n\n      state R2\nregion Beacon\n  state Dark, initial\n    when Main is in B: "
                + "go Lit\n  state Lit\n"
        );
        Assert.Equal(
            "Main.A+Beacon.Dark | Main.B.Left.L1+Main.B.Right.R1+Beacon.Lit | Main.B.Left.L2+Main.B.Right.R2+Beacon.Lit",
            string.Join(" | ", Walk(script, "Knob pressed", "Eye is light").Select(m => string.Join('+', m.States)))
        );
    }

    [Fact]
    public void Timers_come_by_time_and_a_false_guard_spends_after()
    {
        Assert.Equal("A | A | B", Check("  state A, initial\n    after 2 s: go B\n  state B\n", "", "+ 1.99 s", "+ 0.01 s"));
        Assert.Equal(
            "A | A | A",
            Check(
                "  state A, initial\n    after 1 s if n = 1: go B\n    when Knob is pressed: set n to 1; stay\n  state B\n",
                "var n = 0\n",
                "+ 1 s",
                "Knob pressed"
            )
        );
        Assert.Equal(
            "5",
            Walk(Compile("  state A, initial\n    every 100 ms: set n to n + 1; stay\n", "var n = 0\n"), "+ 0.55 s")[^1].Values[0].Value
        );
    }

    [Fact]
    public void Buttons_are_tapped_twice_tapped_and_held()
    {
        const string body =
            "  state A, initial\n    when Knob is tapped twice: go Twice\n    when Knob is held for 1 s: go Held\n  state Twice\n  "
            + "state Held\n";
        Assert.Equal("A | A | Twice", Check(body, "", "Knob tapped", "Knob tapped"));
        Assert.Equal("A | A | A | A", Check(body, "", "Knob tapped", "+ 0.7 s", "Knob tapped"));
        Assert.Equal("A | A | A | Held", Check(body, "", "Knob pressed", "+ 0.9 s", "+ 0.1 s"));
        Assert.Equal("A | A | A | A", Check(body, "", "Knob pressed", "Knob released", "+ 2 s"));
        // A press from before the state was entered is no tap in it.
        Assert.Equal(
            "A | B | B",
            Check(
                "  state A, initial\n    when Knob is pressed: go B\n  state B\n    when Knob is tapped: go C\n  state C\n",
                "",
                "Knob pressed",
                "Knob released"
            )
        );
    }

    [Fact]
    public void Done_chains_and_together()
    {
        const string body =
            "  state A, initial\n    on entry: run Mast 90 motor deg at 30 % and run Tongue 10 motor deg at 30 %, then turn Lamp on\n "
            + "   when all done: go B\n  state B\n";
        var walk = Walk(Compile(body), "Mast done", "Tongue done");
        Assert.Equal("A | A | B", States(walk));
        Assert.Equal(["run Mast 90 motor deg at 30 %", "run Tongue 10 motor deg at 30 %"], walk[0].Commands);
        Assert.Contains("turn Lamp on", walk[2].Commands);
        // “is done” is false before any command, and once a new one is given.
        Assert.Equal(
            "A | A | B",
            Check(
                "  state A, initial\n    when Mast is done: go B\n    when Knob is pressed: run Mast 5 motor deg at 3 %; stay\n  state B\n",
                "",
                "Knob pressed",
                "Mast done"
            )
        );
    }

    [Fact]
    public void Repeats_and_known_times_end_by_themselves()
    {
        var walk = Walk(
            Compile("  state A, initial\n    on entry: repeat 3 times: tone 440 Hz for 0.5 s\n    when all done: go B\n  state B\n"),
            "+ 0.5 s",
            "+ 0.9 s",
            "+ 0.1 s"
        );
        Assert.Equal("A | A | A | B", States(walk));
        Assert.Equal(
            "A | A | B",
            Check(
                "  state A, initial\n    on entry: set Flap to 90 deg\n    when Flap is done: go B\n  state B\n",
                "",
                "+ 0.49 s",
                "+ 0.01 s"
            )
        );
        Assert.Equal(
            "A | A | B",
            Check(
                "  state A, initial\n    on entry: run Mast at 30 % up to 3 s\n    when Mast is done: go A\n    when "
                    + "Mast gives up: go B\n  "
                    + "state B\n",
                "",
                "+ 2.9 s",
                "+ 0.1 s"
            )
        );
    }

    [Fact]
    public void Leaving_a_state_stops_its_while_here_and_drops_the_rest_of_its_chains()
    {
        var walk = Walk(
            Compile(
                "  state A, initial\n    on entry: run Tongue 9 motor deg at 3 %, then turn Lamp on\n    while here: run Mast at 30 "
                    + "%\n    when Knob is pressed: go B\n  state B\n"
            ),
            "Knob pressed",
            "Tongue done"
        );
        Assert.Equal(["Mast stops: its state was left"], walk[1].Commands);
        // The finite move ran on to its end; what was to follow it is gone.
        Assert.Empty(walk[2].Commands);
        // An entered state that commands the same motor takes it over without a stop.
        walk = Walk(
            Compile(
                "  state A, initial\n    while here: run Mast at 30 %\n    when Knob is pressed: go B\n  state B\n    while here: run "
                    + "Mast at 40 %\n"
            ),
            "Knob pressed"
        );
        Assert.Equal(["run Mast at 40 %"], walk[1].Commands);
        // A lamp that shone while here goes out.
        Assert.Equal(
            ["Lamp goes off: its state was left"],
            Walk(Compile("  state A, initial\n    while here: turn Lamp on\n    when Knob is pressed: go B\n  state B\n"), "Knob pressed")[
                1
            ].Commands
        );
    }

    [Fact]
    public void An_inner_while_here_covers_the_outer_one_which_comes_back()
    {
        var walk = Walk(
            Compile(
                "  state Out, initial\n    while here: run Mast at 30 %\n\n    state A, initial\n      when Knob is pressed: go B\n\n "
                    + "   state B\n      while here: run Mast at 60 %\n      when Knob is released: go A\n"
            ),
            "Knob pressed",
            "Knob released"
        );
        Assert.Equal(["run Mast at 60 %"], walk[1].Commands);
        Assert.Equal(["run Mast at 30 %"], walk[2].Commands);
    }

    [Fact]
    public void Expressions_in_while_here_are_worked_out_anew()
    {
        var walk = Walk(
            Compile(
                "  state A, initial\n    while here: run Pump at pace\n    when Knob is pressed: set pace to pace + 10 %; stay\n",
                "var pace = 20 %\n"
            ),
            "Knob pressed",
            "Eye is light"
        );
        Assert.Equal(["run Pump at pace"], walk[1].Commands);
        Assert.Empty(walk[2].Commands);
    }

    [Fact]
    public void Messages_carry_values_queues_hold_them_and_silence_is_noticed()
    {
        var script = Compile(
            "  state A, initial\n    when told \"ask\" from Landing into berth, size if size < 3: push berth onto line; stay\n    "
                + "when length of line = 2: go B\n    when not told for 1 s: go Quiet\n  state B\n    on entry: take from line into "
                + "berth; tell Keeper \"go\" with berth\n  state Quiet\n",
            "var berth = 0\nvar size = 0\nvar line = queue\n"
        );
        IReadOnlyList<WalkMoment> Told(params WalkEvent[] events) => ScriptWalk.Run(script, events);
        WalkEvent Ask(double berth, double size, double after = 0, string name = "told ask from Landing") =>
            new(name, new List<object?> { berth, size }, after);
        var walk = Told(Ask(7, 1), Ask(8, 9), Ask(9, 2));
        Assert.Equal("A | A | A | B", States(walk));
        // The second was refused by its guard and left no value behind; the first in line was served.
        Assert.Equal(["7", "2", "9"], walk[^1].Values.Select(v => v.Value));
        Assert.Contains("tell Keeper \"go\" with berth", walk[^1].Commands);
        Assert.Equal("A | A | A | Quiet", States(Told(Ask(1, 1, 900), new(null, null, 900), new(null, null, 100))));
        Assert.Equal("A | A", States(Told(Ask(1, 1, 0, "told ask from Keeper"))));
    }

    [Fact]
    public void Routines_have_states_and_parameters_of_their_own_and_end_with_done()
    {
        var script = Compile(
            "",
            "",
            "program T\nvar total = 0\nregion Main\n  state A, initial\n    on entry: do Dip (3), then do Dip (4)\n    when all done: "
                + "go B\n    when Knob is pressed: go C\n  state B\n  state C\nroutine Dip (depth)\n  state Down, initial\n    on "
                + "entry: set total to total + depth; run Mast 5 motor deg at 3 %\n    on exit: turn Lamp off\n    when Mast is done: "
                + "go Over\n  state Over, final\n"
        );
        var walk = Walk(script, "Mast done", "Mast done");
        Assert.Equal("Main.A | Main.A | Main.B", string.Join(" | ", walk.Select(m => string.Join('+', m.States))));
        Assert.Equal(["3", "7", "7"], walk.Select(m => m.Values[0].Value));
        // Leaving the state while the routine runs: it is begun by on entry and runs on, but the second is never begun.
        walk = Walk(script, "Knob pressed", "Mast done");
        Assert.Equal("3", walk[^1].Values[0].Value);
    }

    [Fact]
    public void A_routine_in_while_here_ends_with_its_state()
    {
        var walk = Walk(
            Compile(
                "",
                "",
                "program T\nregion Main\n  state A, initial\n    while here: do Wag\n    when Knob is pressed: go B\n  state B\n"
                    + "routine Wag\n  state Left, initial\n    while here: run Mast at 5 %\n    on exit: turn Lamp off\n    after 1 "
                    + "s: go Right\n  state Right\n    after 1 s: go Left\n  state Never, final\n"
            ),
            "+ 1 s",
            "+ 1 s",
            "Knob pressed"
        );
        Assert.Equal(["turn Lamp off", "Mast stops: its state was left"], walk[1].Commands);
        Assert.Equal(["turn Lamp off", "Mast stops: its state was left"], walk[3].Commands);
    }

    [Fact]
    public void The_program_ends_when_every_region_is_final()
    {
        var script = Compile(
            "",
            "",
            "program T\nregion One\n  state A, initial\n    when Knob is pressed: go End\n  state End, final\nregion Two\n  state B, "
                + "initial\n    when Eye becomes light: go Over\n  state Over, final\n"
        );
        var walk = Walk(script, "Knob pressed", "Eye is light", "Knob pressed");
        Assert.Equal([false, false, true, true], walk.Select(m => m.Finished));
        Assert.Equal(["One.End", "Two.Over"], walk[^1].States);
    }

    [Theory]
    [InlineData(
        "  state A, initial\n    when n = 0: go B\n  state B\n    when n = 0: go A\n",
        "goes round in a loop without time passing, through “A” and “B” (lines 7 and 9)"
    )]
    [InlineData(
        "  state A, initial\n    always: go A\n",
        "“A” goes round in a loop without time passing: it sets itself off again and again (line 7)"
    )]
    [InlineData("  state A, initial\n    every 1 ms: push n onto line; stay\n", "The queue “line” is full")]
    public void What_never_comes_to_rest_is_stopped_and_named(string body, string says) =>
        Assert.Contains(says, Walk(Compile(body, "var n = 0\nvar line = queue\n"), "+ 1 s")[^1].Fault);

    [Fact]
    public void Numbers_of_sensors_travel_and_angles_are_compared_in_their_units()
    {
        Assert.Equal(
            "A | A | B",
            Check("  state A, initial\n    when Range < 6.5 cm: go B\n  state B\n", "", "Range reads 70 mm", "Range reads 6 cm")
        );
        Assert.Equal(
            "A | A | A | A",
            Check(
                "  state A, initial\n    when Range < 65 mm for 2 readings: go B\n  state B\n",
                "",
                "Range reads 60 mm",
                "Range reads 70 mm",
                "Range reads 60 mm"
            )
        );
        Assert.Equal(
            "A | A | A | B",
            Check(
                "  state A, initial\n    when Range < 65 mm for 2 readings: go B\n  state B\n",
                "",
                "Range reads 70 mm",
                "Range reads 60 mm",
                "Range reads 61 mm"
            )
        );
        Assert.Equal(
            "A | B",
            Check("  state A, initial\n    when angle of Mast > 200 motor deg: go B\n  state B\n", "", "angle of Mast is 210 motor deg")
        );
    }

    [Fact]
    public void A_walk_says_what_each_sentence_waits_for()
    {
        var walk = Walk(
            Compile(
                "  state A, initial\n    when Knob is tapped if n = 1: go B\n    when Eye becomes light: go B\n    after 2 s: go "
                    + "B\n  state B\n",
                "var n = 0\n"
            )
        );
        Assert.Equal(
            ["n = 1 does not hold", "waits until Eye comes into light", "waits for 2 s since the state was entered"],
            walk[0].Waiting.Select(w => w.Why)
        );
        Assert.Equal([null, "Eye is light", null], walk[0].Waiting.Select(w => w.Event));
        Assert.Equal(2, walk[0].NextDueS);
        Assert.Contains(
            "means nothing here",
            Assert.Throws<InputProblem>(() => Walk(Compile("  state A, initial\n"), "Eyes is light")).Errors["events[0].name"]
        );
        Assert.Contains(
            "no zone “bright”",
            Assert.Throws<InputProblem>(() => Walk(Compile("  state A, initial\n"), "Eye is bright")).Errors["events[0].name"]
        );
    }

    [Fact]
    public void Any_state_or_routine_runs_alone()
    {
        var program = ScriptParser
            .Parse(
                "program T\nvar n = 1\nregion Main\n  state A, initial\n  state B\n\n    state B1, initial\n\n    state B2\n      "
                    + "when Knob is pressed: go A\nroutine Dip (depth)\n  state Down, initial\n    on entry: set n to depth\n    "
                    + "after 1 s: go Over\n  state Over, final\n",
                Rig
            )
            .Program;
        Assert.Equal(["Main.A", "Main.B", "Main.B.B1", "Main.B.B2", "Dip"], Alone.Parts(program));
        string From(string part, params string[] steps) =>
            string.Join(" | ", Walk(ScriptCompiler.Compile(Alone.Of(program, part), Rig), steps).Select(m => string.Join('+', m.States)));
        Assert.Equal("Main.B.B2 | Main.A", From("Main.B.B2", "Knob pressed"));
        Assert.Equal("Main.B.B1", From("Main.B"));
        Assert.Equal("Dip.Down | Dip.Over", From("Dip", "+ 1 s"));
        Assert.Contains("Did you mean “Main.A”?", Assert.Throws<InputProblem>(() => Alone.Of(program, "Main.C")).Errors["from"]);
    }

    [Fact]
    public void Readings_and_zones_walked_by_hand_lead_the_same_way() =>
        Gen.Int[0, 1_000_000]
            .Sample(
                seed =>
                {
                    // Random machines of two regions with edges, levels, conditions and times: once told the zone, once fed numbers.
                    var random = new Random(seed);
                    string Region(string name)
                    {
                        var n = 2 + random.Next(4);
                        var body = new System.Text.StringBuilder($"region {name}\n");
                        for (var s = 0; s < n; s++)
                        {
                            body.Append($"  state {name}{s}{(s == 0 ? ", initial" : "")}\n");
                            if (random.Next(3) == 0)
                                body.Append($"    on entry: set n to n + {random.Next(3)}\n");
                            if (random.Next(3) == 0)
                                body.Append($"    while here: run Pump at {random.Next(90)} %\n");
                            for (var t = random.Next(4); t > 0; t--)
                            {
                                var trigger = random.Next(5) switch
                                {
                                    0 => "when Eye becomes light",
                                    1 => "when Eye leaves light",
                                    2 => "when Eye is dark",
                                    3 => $"when n = {1 + random.Next(6)}",
                                    _ => $"after {1 + random.Next(3)} s",
                                };
                                var guard = random.Next(4) == 0 ? $" if n < {random.Next(8)}" : "";
                                body.Append(
                                    $"    {trigger}{guard}: "
                                        + $"{(random.Next(2) == 0 ? "set n to n + 1; " : "")}"
                                        + $"{(random.Next(5) == 0 ? "stay" : $"go {name}{random.Next(n)}")}\n"
                                );
                            }
                        }
                        return body.ToString();
                    }
                    var text = $"program T\nvar n = 0\n{Region("S")}{Region("R")}";
                    var program = ScriptParser.Parse(text, Rig).Program;
                    var read = new ScriptMachine(
                        ScriptCompiler.Compile(
                            program,
                            Rig,
                            new Dictionary<string, ZoneScale> { ["Eye"] = new(["dark", "light"], [new(50, 0)]) }
                        )
                    );
                    var told = new ScriptMachine(ScriptCompiler.Compile(program, Rig));
                    read.Start();
                    told.Start();
                    // The first reading settles what the eye sees and is no edge for either.
                    read.Sense(0, 20);
                    told.SeeZone(0, 0);
                    var (time, log) = (0L, "");
                    for (var step = 0; step < 12 && read.Fault is null && told.Fault is null; step++)
                    {
                        if (step > 0 && random.Next(2) == 0)
                        {
                            for (var half = random.Next(1, 3); half > 0; half--)
                                read.Pass(time += 500_000);
                            told.Pass(time);
                            log += $" {time}";
                        }
                        else
                        {
                            var light = random.Next(2);
                            for (var again = 1 + random.Next(3); again > 0; again--)
                                read.Sense(0, light == 1 ? 80 - again : 20 + again);
                            told.SeeZone(0, light);
                            log += light == 1 ? " light" : " dark";
                        }
                        Assert.True(
                            read.Configuration.SequenceEqual(told.Configuration) && read.ValueOf("n") == told.ValueOf("n"),
                            $"{string.Join('+', read.Configuration)} against {string.Join('+', told.Configuration)} after step {step} "
                                + $"at {time} µs of\n{text}{log}"
                        );
                    }
                },
                iter: 3000
            );
}
