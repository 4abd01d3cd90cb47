namespace Chiton.Core.Tests.Programs;

public class ProgramDifferenceTests
{
    private static readonly Vocabulary Rig = new([new("Eye", ["dark", "light"])], [new("Pump", ActuatorKind.PlainMotor)], []);

    private static IReadOnlyList<ProgramChange> Between(string before, string after) =>
        ProgramDifference.Between(ScriptParser.Parse(before, Rig).Program, ScriptParser.Parse(after, Rig).Program);

    private const string Script =
        "program P\nvar n = 0\nregion Main\n  state A, initial\n    while here: run Pump at 5 %\n    when Eye is light: go B\n    "
        + "after 2 s: go B\n  state B\n    after 1 s: go A\n";

    [Fact]
    public void Sentences_are_new_gone_changed_or_moved()
    {
        Assert.Empty(Between(Script, Script.Replace("  state B", "\n  # Another comment.\n  state B")));
        Assert.Equal(
            "In state Main.A “after 2 s: go B” now reads “after 3 s: go B”.",
            Assert.Single(Between(Script, Script.Replace("after 2 s", "after 3 s"))).Say
        );
        Assert.Equal(
            "In the head “var n = 0” now reads “var n = 1”.",
            Assert.Single(Between(Script, Script.Replace("n = 0", "n = 1"))).Say
        );
        Assert.Equal(ChangeKind.Added, Assert.Single(Between(Script, Script.Replace("  state B", "    after 9 s: stay\n  state B"))).Kind);
        Assert.Equal(ChangeKind.TakenOut, Assert.Single(Between(Script, Script.Replace("    after 2 s: go B\n", ""))).Kind);
        var moved = Assert.Single(
            Between(
                Script,
                Script.Replace("    when Eye is light: go B\n    after 2 s: go B\n", "    after 2 s: go B\n    when Eye is light: go B\n")
            )
        );
        Assert.Equal(ChangeKind.Moved, moved.Kind);
    }

    [Fact]
    public void States_come_and_go_with_their_sentences()
    {
        var changes = Between(Script, Script.Replace("state B", "state C").Replace("go B", "go C"));
        Assert.Contains(changes, c => c.Say == "State Main.C is new, with 1 sentence.");
        Assert.Contains(changes, c => c.Say == "State Main.B is gone, with 1 sentence.");
        Assert.Contains(changes, c => c is { Kind: ChangeKind.Changed, Where: "state Main.A" });
    }

    [Fact]
    public void A_program_differs_from_nothing_by_all_it_says_and_never_from_itself() =>
        Gen.Int[0, 6]
            .List[0, 8]
            .Sample(picks =>
            {
                string[] lines =
                [
                    "after 1 s: stay",
                    "after 2 s: stay",
                    "when Eye is dark: stay",
                    "when Eye is light: stay",
                    "on entry: stop Pump",
                    "while here: run Pump at 1 %",
                    "after 3 s: stay",
                ];
                string Made(IEnumerable<int> which) =>
                    "program P\nregion Main\n  state A, initial\n" + string.Concat(which.Select(i => $"    {lines[i]}\n"));
                Assert.Empty(Between(Made(picks), Made(picks)));
                var all = Between(Made([]), Made(picks));
                Assert.Equal(picks.Count, all.Count);
                Assert.All(all, c => Assert.Equal(ChangeKind.Added, c.Kind));
                Assert.Equal(picks.Count, Between(Made(picks), Made([])).Count);
            });
}
