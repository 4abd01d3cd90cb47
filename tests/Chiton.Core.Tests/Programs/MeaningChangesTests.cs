namespace Chiton.Core.Tests.Programs;

/// <summary>Lines of programs from before say once what they do otherwise now, and only those that do.</summary>
public class MeaningChangesTests
{
    private static readonly Vocabulary Rig = new(
        [new("Eye", ["dark", "light"]), new("Knob", ["up", "down"]) { Switch = true }],
        [new("Mast", ActuatorKind.RegulatedMotor), new("Tongue", ActuatorKind.RegulatedMotor)],
        []
    );

    private static IReadOnlyList<MeaningChange> Said(string lines, int meaning = 0)
    {
        var script = "program T\n\nregion Main\n  state A, initial\n    " + lines.Replace("\n", "\n    ") + "\n\n  state B\n";
        var parsed = ScriptParser.Parse(script, Rig);
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics));
        return MeaningChanges.Of(new(script, []) { Meaning = meaning }, parsed.Program);
    }

    [Theory]
    [InlineData("on entry: run Mast 90 motor deg at 20 % up to 3 s\nwhen Mast is done: go B", 5, "“up to 3 s” is no end any more")]
    [InlineData("when Knob is pressed: run Mast 90 motor deg at 20 % up to 3 s; stay", 5, "when Mast gives up: go …")]
    [InlineData(
        "on entry: run Mast 90 motor deg at 20 %, then run Tongue 9 motor deg at 20 %\nwhen Knob is pressed: go B",
        5,
        "A chain is cut"
    )]
    [InlineData("when Eye becomes light for 3 readings: go B", 5, "Readings are counted from the zone that Eye is in when A is entered")]
    [InlineData("when Knob is pressed: stay\nwhen Eye leaves dark for 2 readings: go B", 6, "can be left")]
    public void A_line_that_does_otherwise_says_so(string lines, int line, string say)
    {
        var change = Assert.Single(Said(lines));
        Assert.Equal(line, change.Line);
        Assert.Contains(say, change.Say);
        Assert.Empty(Said(lines, ProgramText.MeaningNow));
    }

    [Theory]
    [InlineData("on entry: run Mast 90 motor deg at 20 % up to 3 s\nwhen Mast is done: go B\nwhen Mast gives up: go B")]
    [InlineData("on entry: run Mast 90 motor deg at 20 % up to 3 s\nwhen all done: go B")]
    [InlineData("on entry: run Mast 90 motor deg at 20 % up to 3 s\nwhen Mast is done: go B\nafter 4 s: go B")]
    [InlineData("on entry: run Mast 90 motor deg at 20 % up to 3 s\nwhen Mast is done or Mast has given up: go B")]
    [InlineData("on entry: run Mast 90 motor deg at 20 %, then run Tongue 9 motor deg at 20 %\nwhen Tongue is done: go B")]
    [InlineData("when Eye becomes light: go B")]
    [InlineData("when Eye is light for 3 readings: go B")]
    public void One_that_does_as_before_says_nothing(string lines) => Assert.Empty(Said(lines));
}
