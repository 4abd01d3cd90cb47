using Chiton.Core.Checking;

namespace Chiton.Core.Tests.Checking;

/// <summary>What is wrong with a program is found however it is written.</summary>
public class RailSpellingTests
{
    private const string TooFast = """
        program Test

        goal: stopped over bed 2 within 20 s

        region Main
          state Rolling, initial
            while here: run Trolley at 80 %
            when Tag eye becomes bed tag: go Stopping

          state Stopping, final
            on entry: stop Trolley and brake

        """;

    private static IReadOnlyList<Finding> Find(string script) =>
        RailChecks.Find(FarmBench.Rig(), FarmBench.Motion(), FarmBench.Calibrations(), FarmBench.Parse(script));

    public static TheoryData<string, string> Spellings =>
        new()
        {
            { "as it is", TooFast },
            { "a constant", TooFast.Replace("at 80 %", "at cruise").Replace("goal:", "const cruise = 80 %\ngoal:") },
            { "a variable", TooFast.Replace("at 80 %", "at cruise").Replace("goal:", "var cruise = 80 %\ngoal:") },
            {
                "a variable that is set",
                TooFast
                    .Replace("while here: run Trolley at 80 %", "on entry: set cruise to 80 %\n    while here: run Trolley at cruise")
                    .Replace("goal:", "var cruise = 20 %\ngoal:")
            },
            { "the mechanism's name", TooFast.Replace("run Trolley", "run Test trolley").Replace("stop Trolley", "stop Test trolley") },
            {
                "second in a chain",
                TooFast.Replace("while here: run Trolley at 80 %", "on entry: tone 440 Hz for 0.2 s, then run Trolley at 80 %")
            },
            { "in a group with a lamp", TooFast.Replace("run Trolley at 80 %", "(turn Lamp on and run Trolley at 80 %)") },
            {
                "in a repeat",
                TooFast.Replace("while here: run Trolley at 80 %", "on entry: repeat 1 times: run Trolley at 80 % up to 30 s")
            },
            { "in a transition", TooFast.Replace("while here: run Trolley at 80 %", "always: run Trolley at 80 %; stay") },
            {
                "nested",
                TooFast
                    .Replace(
                        "state Rolling, initial\n    while here: run Trolley at 80 %",
                        "state Rolling, initial\n    state Fast, initial\n      while here: run Trolley at 80 %\n"
                    )
                    .Replace("    when Tag eye", "    when Tag eye")
            },
            { "stopped by leaving", TooFast.Replace("on entry: stop Trolley and brake", "on entry: turn Lamp on") },
            { "stopped with everything", TooFast.Replace("stop Trolley and brake", "stop everything") },
        };

    [Theory]
    [MemberData(nameof(Spellings))]
    public void A_trolley_that_is_too_fast_for_its_tag_is_told_however_it_is_written(string how, string script)
    {
        Assert.NotEqual("", how);
        // A line of the outer state stands before the state in it.
        if (how == "nested")
            script = script.Replace(
                "    state Fast, initial\n      while here: run Trolley at 80 %\n\n    when Tag eye becomes bed tag: go Stopping\n",
                "    when Tag eye becomes bed tag: go Stopping\n\n    state Fast, initial\n      while here: run Trolley at 80 %\n"
            );
        var finding = Assert.Single(Find(script), f => f.Code == "marker-rest");
        Assert.Equal(Severity.Risky, finding.Severity);
        Assert.NotNull(finding.Cure);
        var lines = script.Split('\n');
        foreach (var edit in finding.Cure.Edits)
            lines[edit.Line - 1] = new string(' ', lines[edit.Line - 1].Length - lines[edit.Line - 1].TrimStart().Length) + edit.Text;
        Assert.Equal(Severity.Holds, Assert.Single(Find(string.Join('\n', lines)), f => f.Code == "marker-rest").Severity);
    }

    [Fact]
    public void A_speed_that_is_worked_out_is_judged_and_left_to_the_person()
    {
        var finding = Assert.Single(Find(TooFast.Replace("at 80 %", "at 40 % + 40 %")), f => f.Code == "marker-rest");
        Assert.Equal(Severity.Risky, finding.Severity);
        Assert.Null(finding.Cure);
    }
}
