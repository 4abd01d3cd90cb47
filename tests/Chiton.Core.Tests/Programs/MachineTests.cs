using System.Text;
using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Tests.Programs;

/// <summary>What events, levels, edges, times and order mean.</summary>
public class MachineTests
{
    private static readonly Vocabulary Rig = new(
        [new("Eye", ["dark", "light"])],
        [new("M", ActuatorKind.PlainMotor), new("L", ActuatorKind.Lamp)],
        []
    );
    private static readonly Dictionary<string, ZoneScale> Scales = new() { ["Eye"] = new(["dark", "light"], [new(50, 5)]) };

    private static ScriptMachine Make(string body, string head = "")
    {
        var parsed = ScriptParser.Parse($"program T\n{head}\nregion Main\n{body}", Rig);
        Assert.Empty(parsed.Diagnostics);
        var machine = new ScriptMachine(ScriptCompiler.Compile(parsed.Program, Rig, Scales));
        machine.Start();
        return machine;
    }

    // Commands in short: to the motor M and the lamp L.
    private static string Commands(ScriptMachine m)
    {
        var text = new StringBuilder();
        foreach (var c in m.Commands)
            text.Append(
                    m.Sentence(c) switch
                    {
                        RunNode => $"Run({c.Value})",
                        StopNode s => s.Mode.ToString(),
                        LampNode l => l.On ? "LampOn" : "LampOff",
                        null => c.Device == 0 ? "StopDefault" : "LampOff",
                        var other => other.GetType().Name,
                    }
                )
                .Append(' ');
        m.ClearCommands();
        return text.ToString().Trim();
    }

    // The place of the active state among A, B and C.
    private static int At(ScriptMachine m) => "ABC".IndexOf(m.Configuration.Single()[^1]);

    private static double Value(ScriptMachine m, string name) =>
        double.Parse(m.ValueOf(name)!, System.Globalization.CultureInfo.InvariantCulture);

    private static void Read(ScriptMachine m, params double[] readings)
    {
        foreach (var r in readings)
            m.Sense(0, r);
    }

    [Fact]
    public void A_level_is_judged_on_entry()
    {
        var m = Make("  state A, initial\n    after 1 s: go B\n  state B\n    when Eye is light: go C\n  state C\n");
        Read(m, 60);
        m.Pass(1_000_000);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void An_edge_counts_only_since_entry()
    {
        var m = Make("  state A, initial\n    after 1 s: go B\n  state B\n    when Eye becomes light: go C\n  state C\n");
        Read(m, 60);
        m.Pass(1_000_000);
        Read(m, 60, 60);
        Assert.Equal(1, At(m));
        Read(m, 40, 60);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void Readings_before_entry_do_not_count_towards_an_edge()
    {
        var m = Make("  state A, initial\n    after 1 s: go B\n  state B\n    when Eye becomes light for 3 readings: go C\n  state C\n");
        Read(m, 40, 60, 60);
        m.Pass(1_000_000);
        // It was light when the state was entered: what lies there already is no edge, however many readings there were.
        Read(m, 60, 60, 60);
        Assert.Equal(1, At(m));
        // One or two dark readings are not yet dark for a sentence that wants three.
        Read(m, 40, 40, 60, 60, 60);
        Assert.Equal(1, At(m));
        Read(m, 40, 40, 40, 60, 60);
        Assert.Equal(1, At(m));
        Read(m, 60);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void A_zone_that_was_just_entered_can_be_left_for_more_readings_than_it_took_to_enter_it()
    {
        var m = Make(
            "  state A, initial\n    when Eye becomes light: go B\n  state B\n    when Eye leaves light for 4 readings: go C\n  state C\n"
        );
        Read(m, 40, 60);
        Assert.Equal(1, At(m));
        Read(m, 40, 40, 40);
        Assert.Equal(1, At(m));
        Read(m, 40);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void From_no_zone_at_all_into_a_zone_is_an_edge_after_as_many_readings_as_it_wants()
    {
        var m = Make("  state A, initial\n    when Eye becomes light for 2 readings: go B\n  state B\n");
        Read(m, double.NaN, 60);
        Assert.Equal(0, At(m));
        Read(m, 60);
        Assert.Equal(1, At(m));
    }

    [Fact]
    public void Readings_before_entry_do_count_towards_a_level()
    {
        var m = Make("  state A, initial\n    after 1 s: go B\n  state B\n    when Eye is light for 3 readings: go C\n  state C\n");
        Read(m, 40, 60, 60);
        m.Pass(1_000_000);
        Assert.Equal(1, At(m));
        Read(m, 60);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void A_reading_inside_the_band_changes_nothing()
    {
        var m = Make("  state A, initial\n    when Eye becomes light: go B\n  state B\n    when Eye leaves light: go A\n");
        Read(m, 40, 54);
        Assert.Equal(0, At(m));
        Read(m, 56, 46);
        Assert.Equal(1, At(m));
        Read(m, 44);
        Assert.Equal(0, At(m));
    }

    [Fact]
    public void A_targetless_level_fires_once_a_rise()
    {
        var m = Make("  state A, initial\n    when Eye is light: set n to n + 1; stay\n", "var n = 0");
        Read(m, 40, 60, 60, 60, 40, 60);
        Assert.Equal(2, Value(m, "n"));
    }

    [Fact]
    public void A_guard_that_comes_true_later_still_lets_the_rise_fire_once()
    {
        var m = Make(
            "  state A, initial\n    when Eye is light if n = 1: set k to k + 1; stay\n    after 1 s: set n to 1; stay\n",
            "var n = 0\nvar k = 0"
        );
        Read(m, 60);
        Assert.Equal(0, Value(m, "k"));
        m.Pass(1_000_000);
        Read(m, 60, 60);
        Assert.Equal(1, Value(m, "k"));
    }

    [Fact]
    public void The_first_fitting_line_wins()
    {
        var m = Make(
            "  state A, initial\n    when Eye becomes light if n = 1: go B\n    when Eye becomes light: go C\n    when Eye becomes "
                + "light: go B\n  state B\n  state C\n",
            "var n = 0"
        );
        Read(m, 40, 60);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void Conditions_are_followed_to_the_end_in_one_go()
    {
        var m = Make(
            "  state A, initial\n    when Eye becomes light: set n to n + 1; stay\n    when n = 1: go B\n  state B\n    on entry: set "
                + "n to 5\n    when n = 5: go C\n  state C\n",
            "var n = 0"
        );
        Read(m, 40, 60);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void Times_count_from_entry_and_fire_in_order_of_time_then_document()
    {
        var m = Make(
            "  state A, initial\n    after 2 s: set n to n * 10 + 2; stay\n    after 1 s: set n to n * 10 + 1; stay\n    after 1 s: "
                + "set n to n * 10 + 3; stay\n",
            "var n = 0"
        );
        m.Pass(999_999);
        Assert.Equal(0, Value(m, "n"));
        m.Pass(5_000_000);
        Assert.Equal(132, Value(m, "n"));
        Assert.Equal(long.MaxValue, m.NextDue);
    }

    [Fact]
    public void A_false_guard_spends_the_time()
    {
        var m = Make("  state A, initial\n    after 1 s if n = 1: go B\n    after 2 s: set n to 1; stay\n  state B\n", "var n = 0");
        m.Pass(10_000_000);
        Assert.Equal(0, At(m));
    }

    [Fact]
    public void Leaving_a_state_forgets_its_times()
    {
        var m = Make(
            "  state A, initial\n    when Eye becomes light: go B\n    after 1 s: go C\n  state B\n    when Eye becomes dark: go "
                + "A\n  state C\n"
        );
        Read(m, 40, 60);
        m.Pass(3_000_000);
        Assert.Equal(1, At(m));
        m.Sense(0, 40);
        m.Pass(3_900_000);
        Assert.Equal(0, At(m));
        m.Pass(4_000_000);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void While_here_stops_when_the_state_is_left()
    {
        var m = Make("  state A, initial\n    while here: run M at 40 %; turn L on\n    when Eye becomes light: go B\n  state B\n");
        Assert.Equal("Run(40) LampOn", Commands(m));
        Read(m, 40, 60);
        Assert.Equal("StopDefault LampOff", Commands(m));
    }

    [Fact]
    public void An_entered_state_that_commands_it_lets_it_run_on()
    {
        var m = Make(
            "  state A, initial\n    while here: run M at 40 %\n    when Eye becomes light: go B\n  state B\n    while here: "
                + "run M at 60 %\n"
        );
        Commands(m);
        Read(m, 40, 60);
        Assert.Equal("Run(60)", Commands(m));
    }

    [Fact]
    public void The_order_is_exit_actions_entry_and_the_latest_command_wins()
    {
        var m = Make(
            "  state A, initial\n    while here: run M at 40 %\n    on exit: stop M and coast\n    when Eye becomes light: turn L on; "
                + "go B\n  state B\n    on entry: turn L off\n"
        );
        Commands(m);
        Read(m, 40, 60);
        Assert.Equal("Coast LampOn LampOff", Commands(m));
    }

    [Fact]
    public void While_here_is_evaluated_anew_when_a_variable_changes()
    {
        var m = Make(
            "  state A, initial\n    while here: run M at pace\n    when Eye becomes light: set pace to pace + 10 %; stay\n",
            "var pace = 40 %"
        );
        Commands(m);
        Read(m, 40);
        Assert.Equal("", Commands(m));
        Read(m, 60);
        Assert.Equal("Run(50)", Commands(m));
    }

    [Fact]
    public void An_endless_loop_is_stopped_and_named()
    {
        var m = Make("  state A, initial\n    when n >= 0: go B\n  state B\n    when n >= 0: go A\n", "var n = 0");
        Assert.Contains("“A” and “B”", m.Fault!.Replace("“B” and “A”", "“A” and “B”"));
    }

    [Fact]
    public void It_is_finished_in_a_final_state_and_hears_nothing_more()
    {
        var m = Make("  state A, initial\n    when Eye becomes light: go B\n  state B, final\n    on entry: set n to n + 1\n", "var n = 0");
        Read(m, 40, 60);
        Assert.True(m.Finished);
        Read(m, 40, 60);
        m.Pass(9_000_000);
        Assert.Equal(1, Value(m, "n"));
    }

    [Fact]
    public void A_sensor_without_zones_is_named()
    {
        var parsed = ScriptParser.Parse("program T\nregion Main\n  state A, initial\n    when Eye is light: stay\n", Rig);
        Assert.Contains(
            "no thresholds on this copy",
            Assert.Throws<InputProblem>(() => ScriptCompiler.Compile(parsed.Program, Rig, new Dictionary<string, ZoneScale>())).Message
        );
    }

    [Fact]
    public void A_dropout_restarts_the_row_and_leaves_the_zone()
    {
        var m = Make(
            "  state A, initial\n    when Eye becomes light for 3 readings: go B\n  state B\n    when Eye is dark for 2 readings: go "
                + "C\n  state C\n"
        );
        Read(m, 40, 60, 60, double.NaN, 60, 60);
        Assert.Equal(0, At(m));
        Read(m, 60);
        Assert.Equal(1, At(m));
        Read(m, 40, double.NaN, 40);
        Assert.Equal(1, At(m));
        Read(m, 40);
        Assert.Equal(2, At(m));
    }

    [Fact]
    public void A_time_in_a_zone_passes_from_the_first_reading_of_it()
    {
        var m = Make("  state A, initial\n    when Eye is light for 30 ms: go B\n  state B\n");
        Read(m, 40, 60);
        m.Pass(29_000);
        Assert.Equal(0, At(m));
        m.Pass(30_000);
        Assert.Equal(1, At(m));
    }

    [Theory]
    [InlineData("is light")]
    [InlineData("becomes light")]
    [InlineData("leaves dark")]
    public void Another_reading_or_a_dropout_begins_a_time_anew(string wants)
    {
        var m = Make($"  state A, initial\n    when Eye {wants} for 30 ms: go B\n  state B\n");
        Read(m, 40, 60);
        m.Pass(20_000);
        Read(m, 40);
        m.Pass(25_000);
        Read(m, 60);
        m.Pass(54_000);
        Assert.Equal(0, At(m));
        Read(m, double.NaN);
        m.Pass(60_000);
        Read(m, 60);
        m.Pass(89_000);
        Assert.Equal(0, At(m));
        m.Pass(90_000);
        Assert.Equal(1, At(m));
    }

    [Theory]
    [InlineData("1 + 2 * 3", 7)]
    [InlineData("(1 + 2) * 3", 9)]
    [InlineData("10 - 4 - 3", 3)]
    [InlineData("-4 + 1", -3)]
    [InlineData("round(7 / 2) + abs(-3) + min(4, 2, 9) + max(1, 5)", 14)]
    [InlineData("8 / 2 / 2", 2)]
    public void Arithmetic(string expression, double value) =>
        Assert.Equal(value, Value(Make("  state A, initial\n", $"var n = {expression}"), "n"));

    [Theory]
    [InlineData("1 < 2 and not 3 < 2", true)]
    [InlineData("1 > 2 or 2 >= 2", true)]
    [InlineData("1 = 1 and 2 != 2", false)]
    public void Logic(string condition, bool holds) =>
        Assert.Equal(holds ? 1 : 0, At(Make($"  state A, initial\n    when {condition}: go B\n  state B\n")));
}
