using Chiton.Core.Checking;
using Chiton.Core.Tests.Programs;

namespace Chiton.Core.Tests.Checking;

/// <summary>What the bench makes of findings: less of a risk that never shows, more of what was only advice and does harm.</summary>
public class BenchSaysTests
{
    // Head at 1 and 2, Main at 3, Ahead at 4 with 5 to 7, There at 8.
    private const string Script =
        "program Bench\nnever: Main is in There and Other is in Far\nregion Main\n  state Ahead, initial\n"
        + "    while here: drive straight at 100 mm/s\n"
        + "    when Tag eye becomes bed tag: go There\n    after 9 s: go There\n  state There, final\nregion Other\n  state Near, initial\n"
        + "    after 1 s: go Far\n  state Far\n    after 1 s: go Near\n";

    private static CheckInput Input(params SceneRuns[] ran)
    {
        var rig = PatternTests.Rig with { Programs = [new(Script, [])] };
        var program = RigPrograms.Of(rig)[0];
        Assert.Empty(program.Parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return PlantedTests.Input(rig, program) with { Ran = ran };
    }

    private static Finding Found(string code, Severity severity, string owner = "Ahead", int line = 6) =>
        new(code, severity, owner, line, 2, "Headline", "Say.", null);

    private static readonly BenchRun One = new("Yard", 7, 8);

    private static SceneRuns Ran(
        int runs,
        int failed,
        int here = 0,
        bool counts = true,
        string rule = "goal: finished",
        bool never = false
    ) =>
        new(
            counts ? "Yard" : "Shed",
            counts,
            true,
            runs,
            runs - failed,
            failed == 0
                ? []
                :
                [
                    new(rule, never, 0, here > 0 ? 6 : 11, "somewhere", Math.Max(here, failed - here), null, One),
                    .. here > 0 && failed > here ? new FailedRuns[] { new(rule, never, 0, 11, "elsewhere", failed - here, null, One) } : [],
                ],
            [
                new(
                    new Dictionary<int, int> { [6] = runs },
                    new Dictionary<int, (int, int)> { [4] = (runs, failed), [8] = (runs / 2, failed / 2) }
                ),
            ]
        );

    [Theory]
    // Often enough in every scene, once too few, in one of two only, and where something failed.
    [InlineData(2000, 0, 2000, 0, Severity.Advice)]
    [InlineData(2000, 0, 1999, 0, Severity.Risky)]
    [InlineData(200, 0, 200, 0, Severity.Risky)]
    [InlineData(2000, 0, 2000, 1, Severity.Risky)]
    public void A_risk_that_never_shows_in_two_thousand_runs_of_any_scene_is_advice(
        int runs,
        int failed,
        int others,
        int more,
        Severity severity
    )
    {
        var judged = BenchSays.Judge(Input(Ran(runs, failed), Ran(others, more, 0, false)), Found("zone-weak", Severity.Risky));
        Assert.Equal(severity, judged.Severity);
        Assert.Contains(
            more == 0 ? $"none of {runs + others} runs that came here failed" : $"{more} of {runs + others} runs that came here failed",
            judged.Tried!,
            StringComparison.Ordinal
        );
        // What was set aside stays quiet, whatever the bench says.
        Assert.Equal(Found("zone-weak", Severity.Risky).Said, judged.Said);
    }

    [Fact]
    public void What_stops_what_speaks_of_the_text_and_what_no_run_comes_to_stay_as_they_are()
    {
        var input = Input(Ran(2000, 0));
        Assert.Equal(Severity.Stops, BenchSays.Judge(input, Found("zone-weak", Severity.Stops)).Severity);
        var text = Found("plain-motor", Severity.Risky);
        Assert.Same(text, BenchSays.Judge(input, text));
        var far = Found("zone-weak", Severity.Risky, "Far", 12);
        Assert.Same(far, BenchSays.Judge(input, far));
        Assert.Same(text, BenchSays.Judge(Input() with { Ran = null }, text));
        // A scene in which nothing can fail says nothing, and one that could not be run leaves it open.
        var asked = Found("zone-weak", Severity.Risky);
        Assert.Same(asked, BenchSays.Judge(Input(Ran(2000, 0) with { Asks = false }), asked));
        var open = Input(Ran(2000, 0), new SceneRuns("Shed", false, false, 0, 0, [], []) { Cannot = "No deck." });
        Assert.Equal(Severity.Risky, BenchSays.Judge(open, asked).Severity);
    }

    [Theory]
    [InlineData(60, Severity.Risky)]
    [InlineData(50, Severity.Advice)]
    [InlineData(0, Severity.Advice)]
    public void Advice_that_only_the_bench_can_weigh_is_a_risk_where_more_than_one_run_in_twenty_fails_there(int here, Severity severity)
    {
        var judged = BenchSays.Judge(Input(Ran(1000, 80, here)), Found("edge-blind", Severity.Advice));
        Assert.Equal(severity, judged.Severity);
        Assert.Equal(Found("edge-blind", Severity.Advice).Said, judged.Said);
        Assert.Equal(here > 0 ? One : null, judged.Run);
        // Of others advice stays advice.
        Assert.Equal(Severity.Advice, BenchSays.Judge(Input(Ran(1000, 80, here)), Found("zone-weak", Severity.Advice)).Severity);
    }

    [Fact]
    public void A_never_is_seen_in_the_bench_or_possible_in_theory_and_stops_either_way()
    {
        const string rule = "never: Main is in There and Other is in Far";
        var found = Found("interlock", Severity.Stops, "", 2);
        var seen = BenchSays.Judge(Input(Ran(2000, 12, 12, true, rule, true)), found);
        Assert.Equal((Severity.Stops, "Seen in the bench: 12 of 2000 runs.", One), (seen.Severity, seen.Tried, seen.Run));
        var never = BenchSays.Judge(Input(Ran(2000, 12, 12)), found);
        Assert.Equal(
            (Severity.Stops, "Possible in theory: in none of 2000 runs of the bench it came about.", null),
            (never.Severity, never.Tried, never.Run)
        );
    }

    [Fact]
    public void Runs_that_fail_are_told_where_they_fail_and_few_are_only_good_to_know()
    {
        Finding[] Missed(SceneRuns ran) => [.. new GoalMissed().Find(Input(ran))];
        Assert.Empty(Missed(Ran(200, 0)));
        // 8 of 200 may be 2 of 100; 40 of 200 are 15 at the least, 160 are most of them.
        Assert.Equal(Severity.Advice, Assert.Single(Missed(Ran(200, 8, 8))).Severity);
        var risky = Assert.Single(Missed(Ran(200, 40, 40)));
        Assert.Equal(
            (Severity.Risky, "Ahead", 6, "40 of 200 runs fail in There"),
            (risky.Severity, risky.Owner, risky.Line, risky.Headline)
        );
        Assert.Equal(One, risky.Run);
        Assert.Equal(Severity.Stops, Assert.Single(Missed(Ran(200, 160, 160))).Severity);
        // The commonest place stands for all that fail.
        var two = Missed(Ran(200, 22, 12));
        Assert.Equal([(6, Severity.Risky), (11, Severity.Advice)], two.Select(f => (f.Line, f.Severity)).Order());
        Assert.Contains(
            "22 of 200 runs on made-up copies of this one fail, 12 of them here",
            two.First(f => f.Line == 6).Say,
            StringComparison.Ordinal
        );
        // A scene that nobody counts spoils no figure.
        Assert.Empty(Missed(Ran(200, 160, 160, false)));
        Assert.Equal("Not tried yet: the bench runs once edits pause.", new GoalMissed().Unsettled(Input() with { Ran = null }));
    }

    [Fact]
    public void A_sentence_that_no_run_takes_is_told_where_its_state_was_entered_and_times_are_not()
    {
        Finding[] Never(SceneRuns ran) => [.. new NeverTriggered().Find(Input(ran))];
        Assert.Empty(Never(Ran(200, 0)));
        var none = Ran(200, 0) with { Programs = [new(new Dictionary<int, int>(), new Dictionary<int, (int, int)> { [4] = (200, 0) })] };
        Assert.Equal(6, Assert.Single(Never(none)).Line);
        Assert.Empty(Never(none with { Runs = 199 }));
        Assert.Empty(Never(none with { Programs = [new(new Dictionary<int, int>(), new Dictionary<int, (int, int)>())] }));
    }

    [Fact]
    public void A_limit_below_the_fastest_run_is_told_at_its_goal_with_both_times()
    {
        var tooShort = Ran(200, 200, 200) with { Short = new(2, false, "goal: finished within 5 s", 5, 7.42, 40) };
        var found = Assert.Single(new GoalTooShort().Find(Input(tooShort)));
        Assert.Equal((Severity.Stops, 2, "5 s are too short"), (found.Severity, found.Line, found.Headline));
        Assert.Contains("the fastest takes 7.42 s", found.Say, StringComparison.Ordinal);
        Assert.Equal(Severity.Advice, Assert.Single(new GoalTooShort().Find(Input(tooShort with { Counts = false }))).Severity);
        // One that stands in another program is that one's.
        Assert.Empty(new GoalTooShort().Find(Input(tooShort with { Short = tooShort.Short! with { Line = 99 } })));
    }

    [Theory]
    [InlineData("goal: Other is in Far within 5 s", "Near", 10)]
    [InlineData("goal: Main is in There within 5 s", "Ahead", 4)]
    [InlineData("goal: finished within 5 s", "Ahead", 4)]
    public void Where_no_sentence_was_taken_a_missed_goal_stands_where_its_region_begins(string rule, string state, int line)
    {
        var ran = new SceneRuns("Yard", true, true, 40, 0, [new(rule, false, 0, 0, "somewhere", 40, null, One)], []);
        var found = Assert.Single(new GoalMissed().Find(Input(ran)));
        Assert.Equal((state, line, Severity.Stops), (found.Owner, found.Line, found.Severity));
        Assert.Contains($"it never left {state}", found.Say, StringComparison.Ordinal);
    }

    [Theory]
    // 30 of 200 are surely more than one in twenty, 12 are not.
    [InlineData(30, Severity.Risky, "Five trials of gripping")]
    [InlineData(12, Severity.Advice, null)]
    public void The_guess_that_decides_is_named_once_with_what_measures_it(int failed, Severity severity, string? measure)
    {
        var ran = Ran(200, failed) with { Guess = new("force of Jaws", 14, "N", "usual for its kind", 0.61, measure) };
        var found = Assert.Single(new GuessUsed().Find(Input(ran)));
        Assert.Equal((severity, "guess-used", "Force of Jaws decides, and is a guess"), (found.Severity, found.Code, found.Headline));
        Assert.Equal($"Tried in the bench: “Yard”, {failed} of 200 runs fail.", found.Tried);
        // What the runs said already they do not say again.
        Assert.Same(found, BenchSays.Judge(Input(ran), found));
        Assert.Contains("hangs on force of Jaws, 14 N (usual for its kind): where it is at its worst, 61 of 100 runs pass", found.Say);
        Assert.EndsWith(
            measure is null ? "leave more room for it." : "To be sure, measure it: Five trials of gripping.",
            found.Say,
            StringComparison.Ordinal
        );
        // Another program of the rig does not say it again, and a scene that does not count says nothing.
        Assert.Empty(new GuessUsed().Find(Input(ran) with { ExploredAs = 1 }));
        Assert.Empty(new GuessUsed().Find(Input(ran with { Counts = false })));
        Assert.Empty(new GuessUsed().Find(Input(Ran(200, failed))));
    }
}
