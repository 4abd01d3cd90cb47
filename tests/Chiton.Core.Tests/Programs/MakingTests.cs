namespace Chiton.Core.Tests.Programs;

/// <summary>A name that nobody has made yet is told apart from other faults, and can be made.</summary>
public class MakingTests
{
    private static readonly RigDesign Rig = new(
        "Gate",
        "Farm",
        [],
        [new("Eye", SensorKind.ReflectedLight, 10, 0.1, ["dark", "light"]), new("Knob", SensorKind.Button, 10, 1, ["up", "down"])],
        [new("Motor", ActuatorKind.RegulatedMotor), new("Lamp", ActuatorKind.Lamp)]
    )
    {
        Mechanisms = [new("Gate", MechanismKind.Lid, ["Motor"]) { Positions = ["open"] }],
    };

    private const string Script =
        "program T\n\nvar beds = 0\n\nregion Main\n  state A, initial\n    after 1 s: go B\n    LINE\n\n  state B\n    after 1 s: go A\n";

    private static Diagnostic? Said(string line) =>
        ScriptParser.Parse(Script.Replace("LINE", line), Vocabulary.Of(Rig)).Diagnostics.FirstOrDefault(d => d.Line == 8);

    [Theory]
    [InlineData("when Eye becomes light: go Backing up", "state", "Backing up", null)]
    [InlineData("after 2 s if beds > 1: go 'Backing up'", "state", "Backing up", null)]
    [InlineData("when Eye becomes half light for 2 readings: go B", "zone", "half light", "Eye")]
    [InlineData("when Eye is mud and Knob is down: go B", "zone", "mud", "Eye")]
    [InlineData("on entry: send Gate to half open at 20 %", "position", "half open", "Gate")]
    [InlineData("on entry: set tides to 4", "variable", "tides", null)]
    [InlineData("when beds > most beds: go B", "variable", "most beds", null)]
    [InlineData("on entry: set beds to beds + step size", "variable", "step size", null)]
    public void What_is_missing_is_named_and_once_made_the_line_is_read(string line, string kind, string name, string? of)
    {
        var missing = Said(line)!.Missing!;
        Assert.Equal(new MissingName(kind, name, of), missing);
        Assert.True(Making.Can(missing));
        Assert.Equal(of is null ? $"Make the {kind} {name}" : $"Make the {kind} {name} of {of}", Making.Label(missing));
        var script = Script.Replace("LINE", line);
        var words = Vocabulary.Of(Rig);
        if (Making.InProgram(missing, script, ScriptParser.Parse(script, words).Program, 8) is { } edit)
            script = Outline.Apply(script, [], edit, words).Script;
        else
            words = Vocabulary.Of(Making.InRig(Rig, missing));
        Assert.Empty(ScriptParser.Parse(script, words).Diagnostics);
        // A new state stands below the one whose line names it.
        if (kind == "state")
            Assert.Matches($"state A(.|\n)*state {name}\n(.|\n)*state B", script);
    }

    [Theory]
    [InlineData("when Eye becomes light for: go B")]
    [InlineData("when Eye becomes light go B now")]
    [InlineData("on entry: run Gate at 20 mm")]
    [InlineData("when beds > 3 mm: go B")]
    public void Other_faults_make_nothing(string line) => Assert.True(Said(line) is { Missing: null });

    [Theory]
    [InlineData("when Nose becomes light: go B")]
    [InlineData("on entry: turn Lantern on")]
    [InlineData("when Other is in A: go B")]
    public void Devices_and_regions_are_made_elsewhere(string line) =>
        Assert.False(Said(line)!.Missing is { } missing && Making.Can(missing));

    [Fact]
    public void What_is_there_already_is_not_made_again()
    {
        Assert.Contains("already", Assert.Throws<InputProblem>(() => Making.InRig(Rig, new("zone", "Light", "Eye"))).Message);
        Assert.Contains("already", Assert.Throws<InputProblem>(() => Making.InRig(Rig, new("position", "open", "Gate"))).Message);
        Assert.Contains("“Nose”", Assert.Throws<InputProblem>(() => Making.InRig(Rig, new("zone", "wet", "Nose"))).Message);
        Assert.False(Making.Can(new("zone", "wet", null)));
        Assert.False(Making.Can(new("state", "2 fast", null)));
    }
}
