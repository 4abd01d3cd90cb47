using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Programs;

/// <summary>Lines that people really type, and what they meant.</summary>
public class MendingTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Tag eye", ["sleepers", "bed tag"]) { Reads = Dimension.Percent },
            new("Range", ["near", "far"]) { Reads = Dimension.Length, MayHearNothing = true },
            new("Knob", ["up", "down"]) { Switch = true },
            new("Left bumper", ["up", "down"]) { Switch = true },
            new("Palm", ["free", "held"]) { Reads = Dimension.Force },
        ],
        [
            new("Mast motor", ActuatorKind.RegulatedMotor),
            new("Left motor", ActuatorKind.RegulatedMotor),
            new("Right motor", ActuatorKind.RegulatedMotor),
            new("Pump", ActuatorKind.PlainMotor),
            new("Flap servo", ActuatorKind.Servo),
            new("Lamp", ActuatorKind.Lamp),
        ],
        []
    )
    {
        Mechanisms =
        [
            new("Mast", MechanismKind.Lift, ActuatorKind.RegulatedMotor, ["low shelf", "high shelf"], ["raised", "lowered"])
            {
                Motors = ["Mast motor"],
            },
            new("Drive", MechanismKind.TwoWheelDrive, ActuatorKind.RegulatedMotor, [], []) { Motors = ["Left motor", "Right motor"] },
            new("Flap", MechanismKind.Lid, ActuatorKind.Servo, ["open", "shut"], []) { Motors = ["Flap servo"] },
        ],
        Programs = ["Keeper"],
    };

    private const string Script =
        "program Farm\nvar beds = 0\nvar wanted speed = 30 %\nregion Main\n  state Rolling, initial\n  state "
        + "Backing\n  state Stopped\n  state Resting\nroutine Dip\n  "
        + "state Down, initial, final\n";

    /// <summary>What was typed, and what was meant.</summary>
    public static readonly (string Typed, string Meant)[] Lines =
    [
        // Capitals, spaces, glued numbers.
        ("After 2s: go Backing", "after 2 s: go Backing"),
        ("after 2 seconds: go Backing", "after 2 s: go Backing"),
        ("after 500 milliseconds: go Backing", "after 500 ms: go Backing"),
        ("AFTER 2 S: GO BACKING", "after 2 s: go Backing"),
        ("after 2: go Backing", "after 2 s: go Backing"),
        ("after 1.5sec go to Backing", "after 1.5 s: go Backing"),
        ("when tag eye becomes Bed Tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("When Knob is pressed: go Rolling", "when Knob is pressed: go Rolling"),
        ("when range becomes near: go backing", "when Range becomes near: go Backing"),
        ("while here: run mast at 30%", "while here: run Mast at 30 %"),
        // Colons left out, or too many.
        ("when Range becomes near go Backing", "when Range becomes near: go Backing"),
        ("when Knob is pressed go Rolling", "when Knob is pressed: go Rolling"),
        ("after 2 s go Backing", "after 2 s: go Backing"),
        ("always go Backing", "always: go Backing"),
        ("every 100 ms set beds to beds + 1", "every 100 ms: set beds to beds + 1; stay"),
        ("on entry turn Lamp on", "on entry: turn Lamp on"),
        ("while here run Mast at 30 %", "while here: run Mast at 30 %"),
        ("on exit stop Mast", "on exit: stop Mast"),
        ("when Range becomes near, go Backing", "when Range becomes near: go Backing"),
        ("when Range becomes near then go Backing", "when Range becomes near: go Backing"),
        ("when: Range becomes near: go Backing", "when Range becomes near: go Backing"),
        // Going somewhere.
        ("when Range becomes near: go to Backing", "when Range becomes near: go Backing"),
        ("when Range becomes near: goto Backing", "when Range becomes near: go Backing"),
        ("when Range becomes near: go to state Backing", "when Range becomes near: go Backing"),
        ("when Range becomes near: jump to Backing", "when Range becomes near: go Backing"),
        ("when Range becomes near: Backing", "when Range becomes near: go Backing"),
        ("when Range becomes near: go Bakcing", "when Range becomes near: go Backing"),
        ("go Backing", "always: go Backing"),
        ("go to Backing after 2 s", "after 2 s: go Backing"),
        ("after 2 s: go Backing, turn Lamp on", "after 2 s: turn Lamp on; go Backing"),
        ("after 2 s: go Backing and turn Lamp on", "after 2 s: turn Lamp on; go Backing"),
        ("after 2 s: turn Lamp on, go Backing", "after 2 s: turn Lamp on; go Backing"),
        ("after 2 s: turn Lamp on and go Backing", "after 2 s: turn Lamp on; go Backing"),
        ("after 2 s: turn Lamp on then go to Backing", "after 2 s: turn Lamp on; go Backing"),
        // If.
        ("if Range becomes near go Backing", "when Range becomes near: go Backing"),
        ("if Knob is pressed then go Rolling", "when Knob is pressed: go Rolling"),
        ("if Range < 65 mm: go Backing", "when Range < 65 mm: go Backing"),
        ("if Knob pressed: go Rolling", "when Knob is pressed: go Rolling"),
        // What eyes see.
        ("when Tag eye = bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye == bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye sees bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye detects bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye sees the bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye become bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye becomes bed tags: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye becomes bedtag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye becomes sleeper: go Rolling", "when Tag eye becomes sleepers: go Rolling"),
        ("when Tag eye loses bed tag: go Rolling", "when Tag eye leaves bed tag: go Rolling"),
        ("when Tag eye no longer sees bed tag: go Rolling", "when Tag eye leaves bed tag: go Rolling"),
        ("when Tag eye isn't bed tag: go Rolling", "when Tag eye is not bed tag: go Rolling"),
        ("Tag eye becomes bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        ("when Tag eye becomes bed tag for 2: go Stopped", "when Tag eye becomes bed tag for 2 readings: go Stopped"),
        ("when the Tag eye becomes bed tag: go Stopped", "when Tag eye becomes bed tag: go Stopped"),
        // Buttons.
        ("when Knob pressed: go Rolling", "when Knob is pressed: go Rolling"),
        ("when Knob is pushed: go Rolling", "when Knob is pressed: go Rolling"),
        ("when Knob is clicked: go Rolling", "when Knob is tapped: go Rolling"),
        ("when press Knob: go Rolling", "when Knob is pressed: go Rolling"),
        ("when button Knob is pressed: go Rolling", "when Knob is pressed: go Rolling"),
        ("when the Knob button is pressed: go Rolling", "when Knob is pressed: go Rolling"),
        ("Knob is pressed: go Rolling", "when Knob is pressed: go Rolling"),
        ("when Knob: go Rolling", "when Knob is pressed: go Rolling"),
        ("when Knob double clicked: go Rolling", "when Knob is tapped twice: go Rolling"),
        ("when Knob is held for 2 seconds: go Resting", "when Knob is held for 2 s: go Resting"),
        ("when Knob is held for 2: go Resting", "when Knob is held for 2 s: go Resting"),
        ("when Left bumper is hit: go Backing", "when Left bumper is pressed: go Backing"),
        // Comparing.
        ("when Range less than 65 mm: go Backing", "when Range < 65 mm: go Backing"),
        ("when Range is less than 65mm: go Backing", "when Range < 65 mm: go Backing"),
        ("when Range is below 65 millimetres: go Backing", "when Range < 65 mm: go Backing"),
        ("when Range < 65: go Backing", "when Range < 65 mm: go Backing"),
        ("when Range is greater than 20 cm: go Rolling", "when Range > 20 cm: go Rolling"),
        ("when Palm > 2 newtons: go Stopped", "when Palm > 2 N: go Stopped"),
        ("when Palm > 2: go Stopped", "when Palm > 2 N: go Stopped"),
        ("when beds == 3: go Stopped", "when beds = 3: go Stopped"),
        ("when beds is equal to 3: go Stopped", "when beds = 3: go Stopped"),
        ("when beds is more than 3: go Stopped", "when beds > 3: go Stopped"),
        ("when Range < 65 mm && Knob is down: go Backing", "when Range < 65 mm and Knob is down: go Backing"),
        // Ends.
        ("when Mast is finished: go Resting", "when Mast is done: go Resting"),
        ("when Mast done: go Resting", "when Mast is done: go Resting"),
        ("when Mast is stuck: go Stopped", "when Mast stalls: go Stopped"),
        ("when everything is done: go Resting", "when all done: go Resting"),
        // Motors.
        ("run Mast at 30 %", "while here: run Mast at 30 %"),
        ("on entry: run Mast 90 degrees at 30 %", "on entry: run Mast 90 deg at 30 %"),
        ("on entry: run Mast 90 deg 30 %", "on entry: run Mast 90 deg at 30 %"),
        ("on entry: run Mast 90 deg with speed 30 %", "on entry: run Mast 90 deg at 30 %"),
        ("on entry: run Mast 90 deg with 30 % power", "on entry: run Mast 90 deg at 30 %"),
        ("while here: run Mast at 30", "while here: run Mast at 30 %"),
        ("while here: run Mast 30 %", "while here: run Mast at 30 %"),
        ("while here: run Mast at 30 percent", "while here: run Mast at 30 %"),
        ("while here: start Mast at 30 %", "while here: run Mast at 30 %"),
        ("while here: run Mast motor backwards at 30 %", "while here: run Mast motor back at 30 %"),
        ("on entry: stop all motors", "on entry: stop everything"),
        ("on entry: halt Mast", "on entry: stop Mast"),
        ("stop Mast", "on entry: stop Mast"),
        ("run Mast at 30 % until Left bumper is pressed", "when Left bumper is pressed: stop Mast; stay"),
        ("on entry: send Mast to low-shelf", "on entry: send Mast to low shelf"),
        ("on entry: set Flap open", "on entry: set Flap to open"),
        // Drives.
        ("while here: drive forward at 30 %", "while here: drive straight at 30 %"),
        ("drive forward at 30 %", "while here: drive straight at 30 %"),
        ("on entry: drive forward 200 mm at 30 %", "on entry: drive straight 200 mm at 30 %"),
        ("on entry: drive forward 200 at 30", "on entry: drive straight 200 mm at 30 %"),
        ("on entry: drive backwards for 2 seconds at 30 %", "on entry: drive back for 2 s at 30 %"),
        ("on entry: turn left 90 degrees at 30 %", "on entry: turn robot left 90 deg at 30 %"),
        ("on entry: turn right 90 at 30 %", "on entry: turn robot right 90 deg at 30 %"),
        ("on entry: rotate right 90 degrees at 30 %", "on entry: turn robot right 90 deg at 30 %"),
        // Lamps, sound, values.
        ("on entry: turn on Lamp", "on entry: turn Lamp on"),
        ("on entry: switch on the Lamp", "on entry: turn Lamp on"),
        ("on entry: Lamp on", "on entry: turn Lamp on"),
        ("turn Lamp on", "on entry: turn Lamp on"),
        ("on entry: tone 440 Hz 1 s", "on entry: tone 440 Hz for 1 s"),
        ("on entry: tone 440 for 1 second", "on entry: tone 440 Hz for 1 s"),
        ("on entry: play tone 440 Hz for 1 s", "on entry: tone 440 Hz for 1 s"),
        ("on entry: beep", "on entry: tone 440 Hz for 0.2 s"),
        ("on entry: print beds", "on entry: show beds"),
        ("on entry: say \"hello\"", "on entry: show \"hello\""),
        ("on entry: beds = beds + 1", "on entry: set beds to beds + 1"),
        ("on entry: set beds = 3", "on entry: set beds to 3"),
        ("on entry: beds++", "on entry: set beds to beds + 1"),
        ("on entry: increase beds by 1", "on entry: set beds to beds + 1"),
        ("on entry: add 1 to beds", "on entry: set beds to beds + 1"),
        ("beds = beds + 1", "on entry: set beds to beds + 1"),
        ("on entry: wait for 2 seconds, then turn Lamp on", "on entry: wait 2 s, then turn Lamp on"),
        ("wait 2 s then go Backing", "after 2 s: go Backing"),
        ("on entry: call Dip", "on entry: do Dip"),
        ("on entry: repeat 3: run Mast 90 deg at 30 %", "on entry: repeat 3 times: run Mast 90 deg at 30 %"),
        ("on entry: turn Lamp on then wait 1 s then turn Lamp off", "on entry: turn Lamp on, then wait 1 s, then turn Lamp off"),
        ("on enter: turn Lamp on", "on entry: turn Lamp on"),
        ("entry: turn Lamp on", "on entry: turn Lamp on"),
        ("on start: turn Lamp on", "on entry: turn Lamp on"),
        ("on leaving: turn Lamp off", "on exit: turn Lamp off"),
    ];

    private static readonly (string Typed, string Meant)[] HeadLines =
    [
        ("int beds wanted = 3", "var beds wanted = 3"),
        ("beds wanted = 3", "var beds wanted = 3"),
        ("let ready = true", "var ready = yes"),
        ("variable beds wanted = 3", "var beds wanted = 3"),
        ("constant reach = 310 motor deg", "const reach = 310 motor deg"),
        ("goal finished within 40 seconds", "goal: finished within 40 s"),
    ];

    [Fact]
    public void Of_the_lines_that_people_type_most_are_offered_as_they_were_meant()
    {
        Assert.True(Lines.Length + HeadLines.Length >= 120);
        Assert.Equal(Lines.Length, Lines.Select(l => l.Typed).Distinct().Count());
        var missed = new List<string>();
        foreach (var (typed, meant) in Lines)
        {
            var offers = Mending.Offers(typed, Script, Rig, true);
            if (offers.Count == 0 || offers[0] != meant)
                missed.Add($"{typed}\n    meant {meant}\n    offered {string.Join(" | ", offers)}");
        }
        foreach (var (typed, meant) in HeadLines)
        {
            var offers = Mending.Offers(typed, Script, Rig, false);
            if (offers.Count == 0 || offers[0] != meant)
                missed.Add($"{typed}\n    meant {meant}\n    offered {string.Join(" | ", offers)}");
        }
        Assert.True(missed.Count == 0, $"{missed.Count} of {Lines.Length + HeadLines.Length}:\n{string.Join("\n", missed)}");
    }

    [Fact]
    public void Whatever_is_offered_is_read_without_a_fault()
    {
        foreach (var (typed, _) in Lines)
        foreach (var offer in Mending.Offers(typed, Script, Rig, true))
        {
            var parsed = ScriptParser.Parse(
                Script.Replace("  state Backing\n", $"    {offer}\n  state Backing\n", StringComparison.Ordinal),
                Rig
            );
            Assert.Empty(parsed.Diagnostics);
        }
    }

    [Theory]
    [InlineData("if Knob is pressed", "No line begins with “if”.")]
    [InlineData("when Tag eye sees bed tag: go Backing", "“when Tag eye” is understood, “sees” after it is not.")]
    [InlineData("when Tag eye becomes ", "The line ends where a zone should follow.")]
    [InlineData("when Tag eye becomes bed tagg: go Backing", "did you mean “bed tag”")]
    public void A_fault_is_one_plain_sentence(string line, string says)
    {
        var script = Script.Replace("  state Backing\n", $"    {line}\n  state Backing\n", StringComparison.Ordinal);
        var at = script.Split('\n').TakeWhile(l => l.Trim() != line.Trim()).Count() + 1;
        var fault = ScriptParser.Parse(script, Rig).Diagnostics.First(d => d.Line == at);
        Assert.Contains(says, Mending.Plain(fault with { Column = fault.Column - 4 }, line).Message);
    }

    [Theory]
    [InlineData("After 2s: go Backing", "after 2 s: go Backing")]
    [InlineData("when Range becomes near go Backing", "when Range becomes near: go Backing")]
    [InlineData("while here: drive forward at 30 %", "while here: drive straight at 30 %")]
    [InlineData("on entry: run Mast 90 degrees at 30 %", "on entry: run Mast 90 deg at 30 %")]
    // More than one thing may be meant, or more would be put in than was said.
    [InlineData("when Tag eye = bed tag: go Stopped", null)]
    [InlineData("go Backing", null)]
    [InlineData("run Mast at 30 %", null)]
    [InlineData("after 2 s: go Backing, turn Lamp on", null)]
    public void A_near_miss_is_understood_where_one_thing_alone_can_be_meant(string line, string? meant) =>
        Assert.Equal(meant, Mending.Understood(line, Script, Rig));

    [Theory]
    [InlineData("")]
    [InlineData("   ")]
    [InlineData("xyzzy plugh")]
    [InlineData("\"unended")]
    [InlineData("when when when when")]
    [InlineData("= = = : : ; ; , ,")]
    [InlineData("9999999999999999999999999")]
    public void Nonsense_is_answered_with_nothing(string line) => Assert.Empty(Mending.Offers(line, Script, Rig, true));

    [Fact]
    public void A_line_that_is_right_is_offered_nothing_else_first() =>
        Assert.Empty(Mending.Offers("after 2 s: go Backing", Script, Rig, true));

    [Fact]
    public void Examples_are_of_this_rig_and_all_of_them_fit()
    {
        var examples = Mending.Examples(Script, Rig);
        Assert.InRange(examples.Count, 4, 5);
        Assert.Contains("when Tag eye becomes bed tag: go Backing", examples);
        foreach (var line in examples)
            Assert.Empty(
                ScriptParser
                    .Parse(Script.Replace("  state Backing\n", $"    {line}\n  state Backing\n", StringComparison.Ordinal), Rig)
                    .Diagnostics
            );
        Assert.Equal(["on entry: tone 440 Hz for 0.5 s"], Mending.Examples("program Empty\n", new([], [], [])));
    }
}
