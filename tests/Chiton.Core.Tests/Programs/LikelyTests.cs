namespace Chiton.Core.Tests.Programs;

/// <summary>What is offered first.</summary>
public class LikelyTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Knob", ["up", "down"]) { Switch = true },
            new("Range", ["near", "far"]) { Reads = Dimension.Length },
            new("Eye", ["dark", "light"]) { Reads = Dimension.Percent },
        ],
        [
            new("Left", ActuatorKind.RegulatedMotor),
            new("Right", ActuatorKind.RegulatedMotor),
            new("Mast", ActuatorKind.RegulatedMotor),
            new("Horn", ActuatorKind.Sounder),
        ],
        []
    )
    {
        Mechanisms = [new("Drive", MechanismKind.TwoWheelDrive, ActuatorKind.RegulatedMotor, [], []) { Motors = ["Left", "Right"] }],
    };

    private static string[] Offered(string line, params string[] around)
    {
        var script =
            "program T\n\nvar wait long = 200 ms\nvar far off = 3 cm\n\nregion Main\n  state A, initial\n    "
            + string.Join("\n    ", around.Append(line))
            + "\n\n  state B\n\n  state C\n";
        var at = 8 + around.Length;
        return [.. ScriptParser.Complete(script, at, line.Length + 4, Rig).Select(c => c.Candidate.Text)];
    }

    [Theory]
    [InlineData("after 3 ", "s")]
    [InlineData("when Knob is held for 3 ", "s")]
    [InlineData("when Range < 65 ", "mm")]
    [InlineData("when Eye > 40 ", "%")]
    [InlineData("on entry: drive straight 200 ", "mm")]
    [InlineData("on entry: drive straight 200 mm at 30 ", "%")]
    [InlineData("on entry: turn robot left 90 ", "robot deg")]
    [InlineData("on entry: run Mast 90 ", "motor deg")]
    [InlineData("on entry: run Mast 90 motor deg at 30 % up to 4 ", "s")]
    [InlineData("on entry: tone 440 ", "Hz")]
    [InlineData("on entry: tone 440 Hz for 1 ", "s")]
    [InlineData("on entry: stop Mast, then wait 2 ", "s")]
    [InlineData("when wait long > 3 ", "ms")]
    [InlineData("on entry: set far off to 3 ", "cm")]
    public void A_unit_is_what_its_place_asks_for(string line, string first) => Assert.Equal(first, Offered(line)[0]);

    [Fact]
    public void What_the_lines_around_say_comes_first()
    {
        Assert.Equal("A", Offered("when Knob is pressed: go ")[0]);
        Assert.Equal("C", Offered("when Knob is pressed: go ", "after 2 s: go C", "after 3 s: go C", "after 4 s: go B")[0]);
        Assert.Equal("after", Offered("", "after 2 s: go C", "after 3 s: go C", "when Knob is pressed: go B")[0]);
        Assert.Equal("Range", Offered("when ", "when Range becomes near: go B")[0]);
        Assert.Equal("becomes", Offered("when Eye ", "when Range becomes near: go B")[0]);
        // What followed this very word comes before what is said more often elsewhere.
        string[] around =
        [
            "when Range becomes near: go B",
            "when Range becomes far: go B",
            "when Range becomes near: go C",
            "after 2 s if Eye is light: go C",
            "after 3 s if Eye is dark: go C",
        ];
        Assert.Equal("is", Offered("when Eye ", around)[0]);
        // The line that is typed does not count for itself.
        Assert.Equal("A", Offered("after 2 s if Eye is light: go ")[0]);
    }

    [Fact]
    public void Nothing_is_lost_by_the_order()
    {
        var plain = Offered("when ");
        var ordered = Offered("when ", "when Range becomes near: go B", "when Eye becomes dark: go C");
        Assert.Equal(plain.Order(), ordered.Order());
        Assert.NotEqual(plain, ordered);
    }
}
