namespace Chiton.Core.Tests.Programs;

public class ChartDrawingTests
{
    private static readonly Vocabulary Rig = new([new("Eye", ["dark", "light"])], [new("Pump", ActuatorKind.PlainMotor)], []);

    private static ChartDrawing Draw(string script)
    {
        var parsed = ScriptParser.Parse(script, Rig);
        Assert.Empty(parsed.Diagnostics);
        return ChartDrawing.Of(parsed.Program);
    }

    private const string Script = """
        program P
        region Main
          state A, initial
            while here: run Pump at 5 %
            when Eye is light: go B
            after 2 s: stay
          state B
            when Eye becomes dark: go B2
            history Back: go B1

            state B1, initial

            state B2
              when Eye is light: go B1
              when Eye leaves dark: go Back
          state End, final
        region Other
          state B1, initial
        routine Dip
          state S, initial, final
        """;

    [Fact]
    public void Boxes_stand_in_each_other_and_arrows_find_the_nearest_state_of_that_name()
    {
        var drawing = Draw(Script);
        Assert.Equal(
            [
                "Main",
                "Main.A",
                "Main.B",
                "Main.B.Back",
                "Main.B.B1",
                "Main.B.B2",
                "Main.End",
                "Other",
                "Other.B1",
                "routine Dip",
                "routine Dip.S",
            ],
            drawing.Boxes.Select(b => b.Id)
        );
        Assert.Equal(["while here: run Pump at 5 %"], drawing.Boxes[1].Says);
        Assert.Equal(
            ["region", "state", "state", "history", "state", "state", "final", "region", "state", "routine", "final"],
            drawing.Boxes.Select(b => b.Kind)
        );
        Assert.Contains(new ChartArrow("Main.A", "Main.B", "when Eye is light", 5, false), drawing.Arrows);
        Assert.Contains(new ChartArrow("Main.A", "Main.A", "after 2 s", 6, true), drawing.Arrows);
        Assert.Contains(drawing.Arrows, a => a is { From: "Main.B.B2", To: "Main.B.B1" });
        Assert.Contains(drawing.Arrows, a => a is { From: "Main.B.B2", To: "Main.B.Back" });
        // Every arrow ends at a box, and every box stands after the one it stands in.
        Assert.All(drawing.Arrows, a => Assert.Contains(drawing.Boxes, b => b.Id == a.To));
        Assert.All(
            drawing.Boxes.Select((b, i) => (b, i)),
            x => Assert.True(x.b.Parent is null || drawing.Boxes.Take(x.i).Any(o => o.Id == x.b.Parent))
        );
    }

    [Fact]
    public void Dot_and_mermaid_hold_every_state_and_arrow_with_their_brackets_closed()
    {
        var drawing = Draw(Script);
        var dot = drawing.ToDot("a \"quoted\" name");
        Assert.StartsWith("digraph \"a \\\"quoted\\\" name\" {", dot);
        Assert.Equal(dot.Count(c => c == '{'), dot.Count(c => c == '}'));
        Assert.Equal(drawing.Arrows.Count, dot.Split('\n').Count(l => l.Contains("->") && l.Contains("label=")));
        Assert.Contains("ltail=\"cluster Main.B\"", dot);
        var mermaid = drawing.ToMermaid();
        Assert.Equal(mermaid.Count(c => c == '{'), mermaid.Count(c => c == '}'));
        Assert.Equal(drawing.Boxes.Count, mermaid.Split('\n').Count(l => l.TrimStart().StartsWith("state \"")));
        Assert.Contains("[*] -->", mermaid);
    }

    [Fact]
    public void A_program_without_states_draws_nothing() =>
        Assert.Empty(ChartDrawing.Of(ScriptParser.Parse("program P\n", Rig).Program).Boxes);
}
