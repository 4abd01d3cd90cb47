namespace Chiton.Core.Tests.Programs;

/// <summary>Edits of the outline go by the tree: nothing is lost, and what belongs together stays together.</summary>
public class OutlineTests
{
    private static readonly Vocabulary Rig = new([], [], []);

    private const string Tide = """
        program Tide

        var beds = 0

        region Main
          # Where it begins.
          state Low, initial
            after 2 s: go High

          state High
            when beds = 3: go Low
            history Back: go Rise

            state Rise, initial
              after 1 s: go Fall

            state Fall
              when Main is in Rise: go Back

          state Ended, final

        routine Wave
          state Begin, initial, final

        """;

    private static int At(string script, string text) => Array.FindIndex(script.Split('\n'), l => l.Trim() == text) + 1;

    private static string On(Outlined done) => done.Script.Split('\n')[done.Line - 1].Trim();

    private static Outlined Do(string script, OutlineAct act, string at, string? text = null) =>
        Outline.Apply(script, [], new(act, at == "" ? 0 : At(script, at), text), Rig);

    private static string Refused(string script, OutlineAct act, string at, string? text = null) =>
        Assert.Throws<InputProblem>(() => Do(script, act, at, text)).Message;

    [Fact]
    public void The_script_is_sound_and_in_its_canonical_form()
    {
        var parsed = ScriptParser.Parse(Tide, Rig);
        Assert.Empty(parsed.Diagnostics);
        Assert.Equal(Tide, Printer.Print(parsed.Program));
    }

    [Fact]
    public void A_state_moves_past_its_neighbour_with_all_that_is_in_it_and_back()
    {
        var down = Do(Tide, OutlineAct.Down, "state Low, initial");
        Assert.Equal("state Low, initial", On(down));
        Assert.Equal("# Where it begins.", down.Script.Split('\n')[down.Line - 2].Trim());
        Assert.Equal(["region Main", "  state High"], down.Script.Split('\n')[4..6]);
        Assert.Equal(Tide, Outline.Apply(down.Script, [], new(OutlineAct.Up, down.Line), Rig).Script);
        Assert.Equal(down.Script, Do(Tide, OutlineAct.Up, "state High").Script);
        Assert.Contains("last", Refused(Tide, OutlineAct.Down, "state Ended, final"));
        Assert.Contains("first", Refused(Tide, OutlineAct.Up, "state Rise, initial"));
        // Lines move among lines, not past histories or states.
        Assert.Contains("last", Refused(Tide, OutlineAct.Down, "when beds = 3: go Low"));
    }

    [Fact]
    public void A_state_goes_into_the_one_above_and_out_again_and_something_is_always_where_it_begins()
    {
        var into = Do(Tide, OutlineAct.In, "state High");
        Assert.Empty(into.Diagnostics);
        Assert.Equal("    state High, initial", into.Script.Split('\n')[into.Line - 1]);
        Assert.Contains("\n        after 1 s: go Fall\n", into.Script);
        var rest = Outline.Apply(into.Script, [], new(OutlineAct.Out, into.Line), Rig);
        Assert.Equal((Tide, At(Tide, "state High")), (rest.Script, rest.Line));
        // Where the beginning itself goes in, the one around it begins.
        var swapped = Do(Tide, OutlineAct.Down, "state Low, initial");
        var began = Outline.Apply(swapped.Script, [], new(OutlineAct.In, swapped.Line), Rig);
        Assert.Contains("  state High, initial\n", began.Script);
        Assert.Equal("    state Low", began.Script.Split('\n')[began.Line - 1]);
        // The first that is left begins in its place.
        var taken = Do(Tide, OutlineAct.Out, "state Rise, initial");
        Assert.Contains("    state Fall, initial\n", taken.Script);
        Assert.Equal("  state Rise", taken.Script.Split('\n')[taken.Line - 1]);
        Assert.Contains("no state above", Refused(Tide, OutlineAct.In, "state Low, initial"));
        Assert.Contains("no other state", Refused(Tide, OutlineAct.Out, "state Low, initial"));
        var sided = Do(Tide, OutlineAct.RegionInside, "state Low, initial").Script;
        Assert.Contains("Regions", Refused(sided, OutlineAct.In, "state High"));
        Assert.Contains("final", Refused(Do(Tide, OutlineAct.Up, "state Ended, final").Script, OutlineAct.In, "state High"));
    }

    [Fact]
    public void A_copy_has_names_of_its_own_and_what_goes_round_in_it_goes_round_in_the_copy()
    {
        var copy = Do(Tide, OutlineAct.Copy, "state High");
        Assert.Empty(copy.Diagnostics);
        Assert.Equal(
            [
                "  state High 2",
                "    when beds = 3: go Low",
                "    history Back 2: go Rise 2",
                "",
                "    state Rise 2, initial",
                "      after 1 s: go Fall 2",
                "",
                "    state Fall 2",
                "      when Main is in Rise 2: go Back 2",
                "",
            ],
            copy.Script.Split('\n').Skip(copy.Line - 1).Take(10)
        );
        Assert.Contains("  state High 3\n", Do(copy.Script, OutlineAct.Copy, "state High").Script);
        Assert.Equal("state High 3", On(Do(copy.Script, OutlineAct.Copy, "state High 2")));
        var low = Do(Tide, OutlineAct.Copy, "state Low, initial");
        Assert.Equal(("state Low 2", "# Where it begins."), (On(low), low.Script.Split('\n')[low.Line - 2].Trim()));
        Assert.Contains("    after 2 s: go High\n    after 2 s: go High\n", Do(Tide, OutlineAct.Copy, "after 2 s: go High").Script);
    }

    [Fact]
    public void A_copied_state_keeps_where_its_numbers_come_from()
    {
        NumberMark[] marks = [new("Rise", "after 1 s: go Fall", 0, Provenance.Measured, "12 trials")];
        var copy = Outline.Apply(Tide, marks.ToSequence(), new(OutlineAct.Copy, At(Tide, "state High")), Rig);
        Assert.Equal([marks[0], marks[0] with { Owner = "Rise 2", Line = "after 1 s: go Fall 2" }], copy.Marks);
        // Moved and nested it keeps them; typed anew it does not.
        Assert.Equal(marks, Outline.Apply(Tide, marks.ToSequence(), new(OutlineAct.In, At(Tide, "state High")), Rig).Marks);
        var typed = new OutlineEdit(OutlineAct.Set, At(Tide, "after 1 s: go Fall"), "after 2 s: go Fall");
        Assert.Empty(Outline.Apply(Tide, marks.ToSequence(), typed, Rig).Marks);
    }

    [Fact]
    public void A_state_called_otherwise_takes_along_what_speaks_of_it_also_beside_faults()
    {
        var done = Do(Tide, OutlineAct.Set, "state Rise, initial", "state Coming, initial");
        Assert.Empty(done.Diagnostics);
        Assert.Contains("history Back: go Coming\n", done.Script);
        Assert.Contains("when Main is in Coming: go Back\n", done.Script);
        Assert.Equal("state Coming, initial", On(done));
        // A faulty text is not set anew: only what is meant changes, blank lines and odd words stay.
        var faulty = Tide.Replace("  state Ended, final", "\n\n    when  fishes fly: go Low\n\n  state Ended, final");
        var kept = Outline.Apply(faulty, [], new(OutlineAct.Set, At(faulty, "state Rise, initial"), "state Coming, initial"), Rig);
        Assert.Single(kept.Diagnostics);
        Assert.Equal(faulty.Replace("Rise", "Coming"), kept.Script);
    }

    [Fact]
    public void Lines_are_added_changed_and_taken_out()
    {
        var added = Do(Tide, OutlineAct.Add, "state Low, initial", "  on entry: set beds to 1 ");
        Assert.Equal(("on entry: set beds to 1", "    on entry: set beds to 1"), (On(added), added.Script.Split('\n')[added.Line - 1]));
        Assert.Equal(Tide, Do(added.Script, OutlineAct.TakeOut, "on entry: set beds to 1").Script);
        Assert.Equal(Tide, Do(added.Script, OutlineAct.Set, "on entry: set beds to 1", "").Script);
        var second = Do(Tide, OutlineAct.Add, "after 2 s: go High", "after 3 s: go High");
        Assert.Equal(At(Tide, "after 2 s: go High") + 1, second.Line);
        Assert.Contains("var beds = 0\nvar eels = 1\n", Do(Tide, OutlineAct.Add, "var beds = 0", "var eels = 1").Script);
        Assert.Equal("var eels = 1", On(Do(Tide, OutlineAct.Add, "program Tide", "var eels = 1")));
        Assert.Equal("# Here.", On(Do(Tide, OutlineAct.Set, "# Where it begins.", "# Here.")));
        Assert.DoesNotContain("# Where", Do(Tide, OutlineAct.Set, "# Where it begins.", "").Script);
        Assert.Contains("more than one", Refused(Tide, OutlineAct.Add, "var beds = 0", "var a = 1\nvar b = 2"));
        Assert.Contains("names it", Refused(Tide, OutlineAct.Set, "program Tide", ""));
        Assert.Contains("stands in it", Refused(Tide, OutlineAct.Set, "state High", ""));
        Assert.Contains("no line 99", Assert.Throws<InputProblem>(() => Outline.Apply(Tide, [], new(OutlineAct.Up, 99), Rig)).Message);
    }

    [Fact]
    public void A_state_is_taken_out_whole_and_the_first_that_is_left_begins()
    {
        var gone = Do(Tide, OutlineAct.TakeOut, "state High");
        Assert.DoesNotContain("Rise", gone.Script);
        Assert.Equal("state Low, initial", On(gone));
        // What went there is a fault now, and said.
        Assert.Contains("High", Assert.Single(gone.Diagnostics).Message);
        var first = Do(Tide, OutlineAct.TakeOut, "state Low, initial");
        Assert.Contains("  state High, initial\n", first.Script);
        Assert.DoesNotContain("# Where it begins.", first.Script);
        Assert.Equal("state High", On(Do(Tide, OutlineAct.TakeOut, "state Rise, initial")));
    }

    [Fact]
    public void Regions_routines_and_states_are_added_where_they_belong()
    {
        var region = Do(Tide, OutlineAct.Region, "");
        Assert.Equal("region Second region", On(region));
        Assert.True(
            region.Script.IndexOf("region Second", StringComparison.Ordinal)
                < region.Script.IndexOf("routine Wave", StringComparison.Ordinal)
        );
        Assert.Equal("region Main", On(Do("program Empty\n", OutlineAct.Region, "")));
        var routine = Do(Tide, OutlineAct.Routine, "");
        Assert.Equal("routine Routine", On(routine));
        Assert.EndsWith("routine Routine\n  state Begin, initial\n\n  state Over, final\n", routine.Script);
        var inner = Do(Tide, OutlineAct.RegionInside, "state Low, initial");
        Assert.Equal(["    region Low side", "      state Start, initial"], inner.Script.Split('\n').Skip(inner.Line - 1).Take(2));
        Assert.Contains("States stand", Refused(Tide, OutlineAct.RegionInside, "state High"));
        Assert.Equal("state Neap", On(Do(Tide, OutlineAct.AddState, "", "state Neap")));
        Assert.Contains("  state Ended, final\n\n  state Neap\n\nroutine", Do(Tide, OutlineAct.AddState, "", "state Neap").Script);
        Assert.Contains(
            "    after 2 s: go High\n\n    state Deep, initial\n",
            Do(Tide, OutlineAct.AddInside, "state Low, initial", "state Deep").Script
        );
        Assert.Contains(
            "      when Main is in Rise: go Back\n\n    state Slack\n",
            Do(Tide, OutlineAct.AddInside, "state High", "state Slack").Script
        );
        Assert.Contains(
            "    after 2 s: go High\n\n  state Next\n",
            Do(Tide, OutlineAct.AddState, "state Low, initial", "state Next").Script
        );
        Assert.Contains("region Main\n  state Start, initial\n", Do("program Empty\n", OutlineAct.AddState, "", "state Start").Script);
    }

    [Fact]
    public void A_line_is_typed_with_its_blanks_where_it_will_stand()
    {
        var program = ScriptParser.Parse(Tide, Rig).Program;
        var set = Outline.Typed(Tide, new(OutlineAct.Set, At(Tide, "after 2 s: go High"), "after  2"), program);
        Assert.Equal((At(Tide, "after 2 s: go High"), 4, "    after  2"), (set.Line, set.Indent, set.Script.Split('\n')[set.Line - 1]));
        var state = Outline.Typed(Tide, new(OutlineAct.AddInside, At(Tide, "state High"), "state Sl "), program);
        Assert.Equal((4, "    state Sl "), (state.Indent, state.Script.Split('\n')[state.Line - 1]));
        var added = Outline.Typed(Tide, new(OutlineAct.Add, At(Tide, "state High"), ""), program);
        Assert.Equal((At(Tide, "state High") + 1, 4), (added.Line, added.Indent));
    }

    [Fact]
    public void A_line_is_found_again_in_a_later_text_or_not_at_all()
    {
        Assert.Equal(3, Outline.Follow("a\nb\nc\n", "a\nx\nc\n", 3));
        Assert.Equal(4, Outline.Follow("a\nb\nc\n", "a\nb\nx\nc\n", 3));
        Assert.Null(Outline.Follow("a\nb\nc\n", "a\nb\n", 3));
        Assert.Null(Outline.Follow("a\nb\nc\n", "c\nb\nx\nc\n", 3));
        Assert.Equal(0, Outline.Follow("a", "b", 0));
    }

    private static readonly OutlineAct[] Moves = [OutlineAct.Up, OutlineAct.Down, OutlineAct.In, OutlineAct.Out, OutlineAct.Copy];

    // A sound program, the same with a line that nobody can read, or with its indentation gone wrong.
    private static readonly Gen<string> Scripts = Gen.Select(
        LanguageTests.Whole,
        Gen.Int[0, 3],
        Gen.Int[0, 200],
        (program, harm, at) =>
        {
            var lines = Printer.Print(program).Split('\n').ToList();
            if (harm == 1)
                lines.Insert(1 + at % (lines.Count - 1), "      when fishes fly: go nowhere at all");
            if (harm == 2)
                lines[at % lines.Count] = "   " + lines[at % lines.Count];
            return string.Join('\n', lines);
        }
    );

    private static IEnumerable<string> Words(string script) =>
        script.Split('\n').Select(l => l.Trim().Replace(", initial", "")).Where(l => l != "").Order(StringComparer.Ordinal);

    [Fact]
    public void Whatever_is_moved_in_whatever_program_nothing_is_lost_and_the_cursor_stays_with_it() =>
        Gen.Select(Scripts, Gen.Int[0, 400], Gen.Int[0, Moves.Length - 1])
            .Sample(
                (script, at, which) =>
                {
                    var lines = script.Split('\n');
                    var line = 1 + at % lines.Length;
                    var sound = ScriptParser.Parse(script, LanguageTests.Rig).Diagnostics.Count == 0;
                    Outlined done;
                    try
                    {
                        done = Outline.Apply(script, [], new(Moves[which], line), LanguageTests.Rig);
                    }
                    catch (InputProblem)
                    {
                        return;
                    }
                    var (before, after) = (Words(script).ToList(), Words(done.Script).ToList());
                    if (Moves[which] == OutlineAct.Copy)
                        Assert.True(after.Count > before.Count);
                    else if (Moves[which] is OutlineAct.In or OutlineAct.Out)
                        Assert.Equal(before, after);
                    else
                    {
                        Assert.Equal(before, after);
                        Assert.Equal(lines[line - 1].Trim(), On(done));
                    }
                    // A sound program stays sound, unless a move took a state away from those that go to it, or the names now mean others.
                    if (
                        sound
                        && Moves[which] is OutlineAct.Up or OutlineAct.Down
                        && lines[line - 1].TrimStart().StartsWith("state ", StringComparison.Ordinal)
                    )
                        Assert.Empty(done.Diagnostics);
                },
                iter: 1500
            );
}
