namespace Chiton.Core.Tests.Programs;

/// <summary>A name that is changed is followed by all that speak of it, and by no namesake.</summary>
public class RenamesTests
{
    private static readonly Vocabulary Rig = new(
        [new("Eye", ["dark", "light"]) { Reads = Dimension.Percent }, new("Other eye", ["dark", "bright"]) { Reads = Dimension.Percent }],
        [new("Mast", ActuatorKind.RegulatedMotor), new("Mast lamp", ActuatorKind.Lamp)],
        []
    );

    private static ProgramNode Parse(string script)
    {
        var parsed = ScriptParser.Parse(script, Rig);
        Assert.Empty(parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return parsed.Program;
    }

    private static int LineOf(string script, string text, int which = 0) =>
        script
            .Split('\n')
            .Select((l, i) => (l, i))
            .Where(x => x.l.TrimStart().StartsWith(text, StringComparison.Ordinal))
            .ElementAt(which)
            .i + 1;

    private const string Twice = """
        program Two

        region Main
          state Rolling, initial
            when Eye becomes light: go Rolling
            when Beacon is in Rolling: go Done

            state Deep, initial
              after 1 s: go Rolling

          state Done
            deep history back: go Deep
            when Main is in Rolling or Main is in Done: go Rolling

        region Beacon
          state Rolling, initial
            when Main is in Rolling: go Dark

          state Dark
            when Beacon is in Rolling: go Rolling

        routine Rolling (Rolling speed)
          state Rolling, initial
            after 3 s: go Rolling
            after 4 s: go Over

          state Over, final

        """;

    [Fact]
    public void A_state_takes_along_what_goes_to_it_and_what_asks_for_it()
    {
        var script = Twice.Replace("    deep history back: go Deep\n", "");
        var program = Parse(script);
        var renamed = Printer.Print(Renames.OfState(program, LineOf(script, "state Rolling"), "Under way")!);
        Assert.Equal(
            Printer
                .Print(program)
                .Replace("region Main\n  state Rolling", "region Main\n  state Under way")
                .Replace("when Eye becomes light: go Rolling", "when Eye becomes light: go Under way")
                .Replace("after 1 s: go Rolling", "after 1 s: go Under way")
                .Replace(
                    "when Main is in Rolling or Main is in Done: go Rolling",
                    "when Main is in Under way or Main is in Done: go Under way"
                )
                .Replace("when Main is in Rolling: go Dark", "when Main is in Under way: go Dark"),
            renamed
        );
        // And its namesake in the other region.
        var other = Printer.Print(Renames.OfState(program, LineOf(script, "state Rolling", 1), "Blinking")!);
        Assert.Contains("when Beacon is in Blinking: go Done", other);
        Assert.Contains("when Beacon is in Blinking: go Blinking", other);
        Assert.Contains("when Main is in Rolling: go Dark", other);
        Assert.Contains("when Eye becomes light: go Rolling", other);
    }

    [Fact]
    public void A_history_follows_the_state_that_it_goes_to()
    {
        const string script =
            "program H\n\nregion Main\n  state Out, initial\n    history back: go In\n    when Eye becomes dark: go Away\n\n    state "
            + "In, initial\n\n  state Away\n    always: go back\n";
        var renamed = Printer.Print(Renames.OfState(Parse(script), LineOf(script, "state In"), "Inside box")!);
        Assert.Contains("history back: go Inside box", renamed);
        Assert.Contains("always: go back", renamed);
    }

    [Fact]
    public void No_state_on_a_line_renames_nothing() =>
        Assert.Null(Renames.OfState(Parse("program H\n\nregion Main\n  state A, initial\n"), 3, "B"));

    private static RigDesign Farm(string script) =>
        FarmBench.Rig(script) with
        {
            Sensors = [.. FarmBench.Rig().Sensors, FarmBench.Rig().Sensors[0] with { Name = "Back eye" }],
            Walks = [new("One", "Test", [new("Tag eye is bed tag", 0), new("Back eye is bed tag", 0)], [])],
        };

    [Fact]
    public void A_zone_is_renamed_on_its_own_sensor_only()
    {
        var rig = Farm(
            "program Test\n\nvar last = no zone\n\nregion Main\n  state A, initial\n    # bed tag is a comment\n    on entry: show "
                + "\"bed tag\"; set last to bed tag\n    when Tag eye becomes bed tag if zone of Back eye = bed tag: go A\n    when "
                + "Back eye becomes bed tag if zone of Tag eye = bed tag: go A\n"
        );
        var next = Renames.InRig(rig, Renamed.Zone, "Tag eye", "bed tag", "white bar");
        var script = next.Programs[0].Script;
        Assert.Contains("# bed tag is a comment", script);
        Assert.Contains("show \"bed tag\"; set last to bed tag", script);
        Assert.Contains("when Tag eye becomes white bar if zone of Back eye = bed tag: go A", script);
        Assert.Contains("when Back eye becomes bed tag if zone of Tag eye = white bar: go A", script);
        Assert.Equal(["Tag eye is white bar", "Back eye is bed tag"], next.Walks[0].Steps.Select(s => s.Event));
        Assert.Empty(ScriptParser.Parse(script, Vocabulary.Of(next)).Diagnostics);
    }

    [Fact]
    public void A_line_that_cannot_be_read_follows_word_by_word()
    {
        var rig = Farm(
            "program Test\n\nregion Main\n  state A, initial\n    when Tag eye smells of bed tag: go A\n    when Tag eyes becomes bed "
                + "tag: go A\n    on entry: turn Tag eye \"Tag eye\" on\n"
        );
        var script = Renames.InRig(rig, Renamed.Device, null, "Tag eye", "Bed eye").Programs[0].Script;
        Assert.Contains("when Bed eye smells of bed tag: go A", script);
        Assert.Contains("when Tag eyes becomes bed tag: go A", script);
        Assert.Contains("turn Bed eye \"Tag eye\" on", script);
    }

    [Fact]
    public void Every_kind_of_sentence_is_known_to_the_walk_over_names()
    {
        // A kind of sentence that is added and forgotten in the walk throws here, and nowhere silently.
        var kinds = typeof(ActionNode)
            .Assembly.GetTypes()
            .Where(t =>
                !t.IsAbstract
                && (
                    t.IsSubclassOf(typeof(ActionNode))
                    || t.IsSubclassOf(typeof(ExprNode))
                    || t.IsSubclassOf(typeof(TriggerNode))
                    || t.IsSubclassOf(typeof(HeadNode))
                    || t.IsSubclassOf(typeof(LineNode))
                )
            )
            .ToArray();
        Assert.True(kinds.Length > 40);
        var source = File.ReadAllText(Path.Combine(Root, "src", "Chiton.Core", "Programs", "Language", "NameMap.cs"));
        Assert.All(kinds, k => Assert.Matches($@"\b{k.Name}\b", source));
    }

    private static string Root
    {
        get
        {
            var folder = new DirectoryInfo(AppContext.BaseDirectory);
            while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
                folder = folder.Parent!;
            return folder.FullName;
        }
    }
}
