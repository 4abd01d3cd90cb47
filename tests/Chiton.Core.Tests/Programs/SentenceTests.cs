using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Programs;

/// <summary>The sentences that people say: each is read, printed as it was, refused where it makes no sense, and does what it
/// says.</summary>
public class SentenceTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Knob", ["up", "down"]) { Switch = true },
            new("Eye", ["dark", "light"]),
            new("Range", ["near", "far"]) { Reads = Dimension.Length, MayHearNothing = true },
            new("Palm", ["free", "held"]) { Reads = Dimension.Force },
        ],
        [
            new("Left motor", ActuatorKind.RegulatedMotor),
            new("Right motor", ActuatorKind.RegulatedMotor),
            new("Mast", ActuatorKind.RegulatedMotor),
            new("Ahead stick", ActuatorKind.RegulatedMotor),
            new("Turn stick", ActuatorKind.RegulatedMotor),
            new("Pump", ActuatorKind.PlainMotor),
            new("Flap servo", ActuatorKind.Servo),
            new("Lamp", ActuatorKind.Lamp),
            new("Horn", ActuatorKind.Sounder),
        ],
        []
    )
    {
        Mechanisms =
        [
            new("Drive", MechanismKind.TwoWheelDrive, ActuatorKind.RegulatedMotor, [], []) { Motors = ["Left motor", "Right motor"] },
            new("Flap", MechanismKind.Lid, ActuatorKind.Servo, ["open", "shut"], []) { Motors = ["Flap servo"] },
        ],
        Programs = ["Keeper"],
    };

    private static ParseResult Parse(string body, string head = "")
    {
        var text = body.StartsWith("program", StringComparison.Ordinal) ? body : $"program T\n\n{head}region Main\n{body}";
        return ScriptParser.Parse(text, Rig);
    }

    private static CompiledScript Compile(string body, string head = "")
    {
        var parsed = Parse(body, head);
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics) + "\n" + body);
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

    private static string Commands(IEnumerable<WalkMoment> walk) => string.Join(" | ", walk.Select(m => string.Join("; ", m.Commands)));

    [Theory]
    [InlineData("on entry: drive straight 2 wheel turns at 150 mm/s")]
    [InlineData("on entry: drive back 90 wheel deg at 30 %")]
    [InlineData("on entry: drive straight 200 motor deg at 30 %")]
    [InlineData("on entry: drive straight for 2 s at 30 %")]
    [InlineData("on entry: turn robot left 90 robot deg spinning at 45 robot deg/s")]
    [InlineData("on entry: turn robot right for 2 s at 30 %")]
    [InlineData("while here: turn robot right pivoting at 30 %")]
    [InlineData("on entry: steer 30 % and 40 % for 2 s")]
    [InlineData("on entry: steer 30 % and 40 % 200 mm")]
    [InlineData("while here: steer 30 % and 40 %")]
    [InlineData("while here: steer by Ahead stick and Turn stick, dead band 15 deg")]
    [InlineData("while here: steer by Ahead stick and Turn stick")]
    [InlineData("on entry: run Mast forward for 2 s at 30 %")]
    [InlineData("on entry: run Pump for 2 s at 30 %, then turn Lamp on")]
    [InlineData("on entry: run Mast 90 deg at 120 deg/s up to 3 s")]
    [InlineData("on entry: set Flap to open at 60 deg/s")]
    [InlineData("on entry: set Flap to 45 deg at 30 %")]
    [InlineData("on entry: turn Lamp red")]
    [InlineData("on entry: turn lamp of Eye on")]
    [InlineData("on entry: tone 440 Hz 0.2 s on 0.3 s off 3 times")]
    [InlineData("while here: tone 440 Hz 0.2 s on 0.3 s off")]
    [InlineData("on entry: play \"horn\" for 2 s")]
    [InlineData("on entry: show \"charge \" + n + \" left\"")]
    [InlineData("on entry: show n + 1")]
    [InlineData("on entry: wait 1 s, then turn Lamp on")]
    [InlineData("on entry: turn Lamp on if Eye is light, otherwise turn Lamp off")]
    [InlineData("on entry: run Mast 90 deg at 30 % and turn Lamp on if Eye is light and Knob is down, then turn Lamp off; set n to 2")]
    [InlineData("on entry: repeat until Eye is light or n > 3: run Mast 90 deg at 30 %; set n to n + 1")]
    [InlineData("while here: run Mast at 30 % if Range < 65 mm, otherwise run Mast at 60 %")]
    [InlineData("when not told \"up\" for 500 ms: go B")]
    [InlineData("when not told for 500 ms: go B")]
    [InlineData("when Palm > 2 N: go B")]
    [InlineData("when Eye is light and (Knob is down or not Range is near): go B")]
    [InlineData("on entry: set yes now to Eye is light and Knob is not down")]
    public void What_people_say_is_read_and_printed_as_it_was(string line)
    {
        var body = $"  state A, initial\n    {line}\n  state B\n";
        var parsed = Parse(body, "var n = 0\nvar yes now = no\n\n");
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics));
        var printed = Printer.Print(parsed.Program);
        Assert.Contains($"    {line}\n", printed);
        Assert.Equal(parsed.Program, ScriptParser.Parse(printed, Rig).Program);
        ScriptCompiler.Compile(parsed.Program, Rig);
    }

    [Theory]
    [InlineData(
        "on entry: drive straight 90 deg at 30 %",
        "How far it drives is a length, wheel turns, wheel deg or motor deg; this is an angle."
    )]
    [InlineData("on entry: wait 3 mm", "a time")]
    [InlineData("on entry: turn Lamp on if 3", "A condition must be true or false")]
    [InlineData("while here: set n to 1 if Eye is light", "is for something that goes on")]
    [InlineData("on entry: repeat until Eye is light: run Mast at 30 %", "never ends by itself")]
    [InlineData("on entry: turn robot left at 30 %, then turn Lamp on", "never ends by itself")]
    [InlineData("on entry: steer by Ahead stick and Turn stick, dead band 3 s", "A dead band is an angle in deg")]
    [InlineData("on entry: set Flap to open at 3 s", "A motor goes at a speed in % or deg/s")]
    [InlineData("when Palm > 2 mm: go B", "")]
    public void What_makes_no_sense_is_refused_in_words(string line, string says) =>
        Assert.Contains(
            Parse($"  state A, initial\n    {line}\n  state B\n", "var n = 0\n\n").Diagnostics,
            d => d.Message.Contains(says, StringComparison.Ordinal)
        );

    [Fact]
    public void A_wait_takes_its_time() =>
        Assert.Equal(
            "wait 1 s |  | turn Lamp on",
            Commands(Walk(Compile("  state A, initial\n    on entry: wait 1 s, then turn Lamp on\n"), "+ 0.9 s", "+ 0.1 s"))
        );

    [Fact]
    public void A_motor_runs_for_a_time_and_is_done_and_gives_up_only_by_a_limit()
    {
        const string body =
            "  state A, initial\n    on entry: run Mast for 2 s at 30 %{0}\n    when Mast is done: go B\n    "
            + "when Mast gives up: go C\n  state B\n  state C\n";
        Assert.Equal("A | A | B", States(Walk(Compile(body.Replace("{0}", "")), "+ 1.9 s", "+ 0.1 s")));
        Assert.Equal("A | A | B", States(Walk(Compile(body.Replace("{0}", " up to 3 s")), "+ 1.9 s", "+ 0.1 s")));
        Assert.Equal("A | C", States(Walk(Compile(body.Replace("{0}", " up to 1 s")), "+ 1.0 s")));
    }

    [Fact]
    public void Beeps_and_sounds_last_as_long_as_they_say()
    {
        const string beeps =
            "  state A, initial\n    on entry: tone 440 Hz 0.2 s on 0.3 s off 3 times\n    when all done: go B\n  state B\n";
        Assert.Equal("A | A | B", States(Walk(Compile(beeps), "+ 1.4 s", "+ 0.1 s")));
        const string play = "  state A, initial\n    on entry: play \"horn\" for 2 s\n    when Horn is done: go B\n  state B\n";
        Assert.Equal("A | A | B", States(Walk(Compile(play), "+ 1.9 s", "+ 0.1 s")));
    }

    [Fact]
    public void A_condition_on_entry_is_asked_once_and_what_is_unknown_is_otherwise()
    {
        const string body = "  state A, initial\n    on entry: turn Lamp red if Eye is light, otherwise turn Lamp green\n";
        Assert.Equal("turn Lamp green | ", Commands(Walk(Compile(body), "Eye is light")));
        // Not light is as unknown as light before the first reading.
        Assert.Equal(
            "turn Lamp green",
            Commands(Walk(Compile("  state A, initial\n    on entry: turn Lamp red if Eye is not light, otherwise turn Lamp green\n")))
        );
    }

    [Fact]
    public void A_condition_while_here_is_judged_at_each_reading()
    {
        const string body =
            "  state A, initial\n    while here: run Mast at 30 % if Eye is light, otherwise run Mast at 60 %\n  "
            + "  when Knob is pressed: go B\n  state B\n";
        Assert.Equal(
            "run Mast at 60 % | run Mast at 30 % |  | run Mast at 60 % | Mast stops: its state was left",
            Commands(Walk(Compile(body), "Eye is light", "Eye is light", "Eye is dark", "Knob pressed"))
        );
        const string alone = "  state A, initial\n    while here: run Mast at 30 % if Eye is light\n";
        Assert.Equal(" | run Mast at 30 % | Mast stops: its state was left", Commands(Walk(Compile(alone), "Eye is light", "Eye is dark")));
    }

    [Fact]
    public void A_repeat_until_looks_before_each_round()
    {
        const string body =
            "  state A, initial\n    on entry: repeat until n = 2: run Mast 90 deg at 30 %; set n to n + 1\n    "
            + "when all done: go B\n  state B\n";
        Assert.Equal("A | A | B", States(Walk(Compile(body, "var n = 0\n\n"), "Mast done", "Mast done")));
        // What holds already is not begun at all.
        var none = Walk(Compile(body, "var n = 2\n\n"));
        Assert.Equal("", Commands(none));
    }

    [Fact]
    public void A_repeat_until_that_takes_no_time_is_stopped_and_named() =>
        Assert.Contains(
            "repeat until Eye is light",
            Walk(Compile("  state A, initial\n    on entry: repeat until Eye is light: set n to n + 1\n", "var n = 0\n\n"))[^1].Fault
        );

    [Fact]
    public void Silence_of_one_text_is_broken_by_that_text_alone()
    {
        const string body = "  state A, initial\n    when not told \"up\" for 500 ms: go B\n  state B\n";
        Assert.Equal("A | A | A | B", States(Walk(Compile(body), "+ 0.4 s", "told down", "+ 0.1 s")));
        Assert.Equal("A | A | A | A | B", States(Walk(Compile(body), "+ 0.4 s", "told up", "+ 0.4 s", "+ 0.1 s")));
    }

    [Theory]
    [InlineData(45, 0, 40, 40)]
    [InlineData(45, 18, 44, 36)]
    [InlineData(10, 0, 0, 0)]
    [InlineData(-90, 90, 0, -100)]
    [InlineData(200, 200, 100, 0)]
    public void Two_sticks_steer_two_wheels(double ahead, double turn, double left, double right)
    {
        var script = Compile("  state A, initial\n    while here: steer by Ahead stick and Turn stick, dead band 15 deg\n");
        var machine = new ScriptMachine(script);
        machine.Start();
        machine.Moved(script.DeviceIndex("Ahead stick"), 0, ahead);
        machine.Moved(script.DeviceIndex("Turn stick"), 0, turn);
        var last = machine.Commands[^1];
        Assert.Equal((left, right), (Math.Round(last.Value, 9), Math.Round(last.Second, 9)));
    }

    [Fact]
    public void Wheel_turns_are_wheel_degrees()
    {
        var literal = (LiteralNode)
            (
                (DriveNode)
                    (
                        (ActivityNode)
                            Parse("  state A, initial\n    on entry: drive straight 2 wheel turns at 30 %\n")
                                .Program.Regions[0]
                                .States[0]
                                .Lines[0]
                    ).Actions[0]
            ).Distance!;
        Assert.Equal(720, literal.BaseValue);
    }

    [Theory]
    [InlineData("Reel", "a plain motor does not know whether it turns")]
    [InlineData("Flap", "a servo is told an angle and never answers")]
    [InlineData("Deaf", "in Rig it is said not to")]
    [InlineData("Mast", null)]
    [InlineData("Told", null)]
    public void Only_what_notices_a_stall_can_be_told_by_it(string device, string? says)
    {
        var rig = new RigDesign(
            "Crane",
            "",
            [],
            [],
            [
                new("Reel", ActuatorKind.PlainMotor),
                new("Flap", ActuatorKind.Servo),
                new("Deaf", ActuatorKind.RegulatedMotor) { NoticesStall = false },
                new("Mast motor", ActuatorKind.RegulatedMotor),
                new("Told", ActuatorKind.PlainMotor) { NoticesStall = true },
            ]
        )
        {
            Mechanisms = [new("Mast", MechanismKind.Lift, ["Mast motor"])],
        };
        var found = ScriptParser
            .Parse(
                $"program T\n\nregion Main\n  state A, initial\n    when {device} stalls: go B\n\n  state B, final\n",
                Vocabulary.Of(rig)
            )
            .Diagnostics;
        if (says is null)
            Assert.Empty(found);
        else
        {
            Assert.Contains(says, Assert.Single(found).Message);
            Assert.Contains("a time (after 2 s), a force, or an end switch", found[0].Message);
        }
    }

    [Theory]
    [InlineData(HomeEnd.None, true)]
    [InlineData(HomeEnd.From, false)]
    public void What_no_sensor_tells_the_end_of_cannot_be_sent_home(HomeEnd home, bool refused)
    {
        Quantity At(double v) => new(v, "motor deg", Provenance.Measured, "by hand", 1, 1, 0, double.MinValue);
        var rig = new RigDesign(
            "Crane",
            "",
            [],
            [new("Foot", SensorKind.Touch, 10, 1, ["up", "down"])],
            [new("Mast motor", ActuatorKind.RegulatedMotor)]
        )
        {
            Mechanisms =
            [
                new("Mast", MechanismKind.Lift, ["Mast motor"])
                {
                    Travel = new(At(0), At(900), home, home == HomeEnd.None ? null : "Foot"),
                },
            ],
        };
        var found = ScriptParser
            .Parse("program T\n\nregion Main\n  state A, initial\n    on entry: send Mast home\n", Vocabulary.Of(rig))
            .Diagnostics;
        Assert.Equal(refused, found.Count > 0);
        if (refused)
            Assert.Contains("Mast has no sensor at an end", found[0].Message);
    }
}
