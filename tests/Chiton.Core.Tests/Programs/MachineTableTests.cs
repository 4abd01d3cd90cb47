using Chiton.Core.Programs.Drawing;

namespace Chiton.Core.Tests.Programs;

public class MachineTableTests
{
    private static readonly Vocabulary Rig = new([new("Knob", ["up", "down"]) { Switch = true }, new("Eye", ["dark", "light"])], [], []);

    private const string Script = """
        program T

        region Main
          state Outer, initial
            when Knob is tapped: go Off
            when Knob is tapped if Eye is dark: go Off
            state Inner, initial
              when Eye becomes light: stay
              after 2 s: go Other
            state Other
              when Knob is tapped: go Inner
              always if Eye is light: go Inner

          state Off, final
            on entry: show "off"

        region Empty
          state Alone, initial

        routine Dip
          state Down, initial
            after 1 s: go Over
          state Over, final

        """;

    private static IReadOnlyList<TablePart> Tables()
    {
        var parsed = ScriptParser.Parse(Script, Rig);
        return MachineTable.Of(parsed.Program);
    }

    [Fact]
    public void States_stand_against_triggers_and_times_in_one_column_of_their_own()
    {
        var parts = Tables();
        Assert.Equal([("Main", false), ("Empty", false), ("Dip", true)], parts.Select(p => (p.Name, p.Routine)));
        var main = parts[0];
        Assert.Equal(["when Knob is tapped", "when Eye becomes light", "by itself"], main.Triggers.Select(t => t.Says));
        Assert.Equal(["when Knob is tapped: ", "when Eye becomes light: ", "after "], main.Triggers.Select(t => t.Begins));
        Assert.Equal(
            [("Outer", 0, true, false), ("Inner", 1, true, false), ("Other", 1, false, false), ("Off", 0, false, true)],
            main.Rows.Select(r => (r.State, r.Depth, r.Initial, r.Final))
        );
        Assert.Empty(parts[1].Triggers);
        Assert.Equal(["Alone"], parts[1].Rows.Select(r => r.State));
    }

    [Fact]
    public void A_cell_says_what_the_state_answers_or_who_around_it_does()
    {
        var rows = Tables()[0].Rows.ToDictionary(r => r.State);
        Assert.Equal(
            [(5, "go Off", "Off"), (6, "if Eye is dark: go Off", "Off")],
            rows["Outer"].Cells[0].Answers.Select(a => (a.Line, a.Says, a.Target))
        );
        Assert.Equal((0, "Outer"), (rows["Inner"].Cells[0].Answers.Count, rows["Inner"].Cells[0].Outer));
        Assert.Equal((8, "stay", null), rows["Inner"].Cells[1].Answers.Select(a => (a.Line, a.Says, a.Target)).Single());
        Assert.Equal("after 2 s: go Other", rows["Inner"].Cells[2].Answers.Single().Says);
        Assert.Equal("always if Eye is light: go Inner", rows["Other"].Cells[2].Answers.Single().Says);
        Assert.Equal((0, null), (rows["Other"].Cells[1].Answers.Count, rows["Other"].Cells[1].Outer));
        // A new sentence goes below the last one of the state itself.
        Assert.Equal((4, 6), (rows["Outer"].Line, rows["Outer"].After));
        Assert.Equal(15, rows["Off"].After);
    }
}
