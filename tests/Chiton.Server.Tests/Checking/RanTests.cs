using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Checking;

/// <summary>What real runs make of machines that are known.</summary>
[Collection("Behind everything else")]
public class RanTests
{
    private static (IReadOnlyList<Finding> Findings, SceneRuns Ran) With(string id, string was, string now, int runs = 60)
    {
        var sound = Mutants.Mended(id);
        var rig = sound.Copy.Rig;
        var text = rig.Programs[0];
        Assert.Contains(was, text.Script, StringComparison.Ordinal);
        return Mutants
            .Look(sound, rig.WithProgram(0, text with { Script = text.Script.Replace(was, now, StringComparison.Ordinal) }), runs)!
            .Value;
    }

    [Fact]
    public void A_goal_that_no_run_reaches_in_time_and_any_does_with_more_is_too_short()
    {
        var (found, ran) = With("seed-trolley", "stopped over bed 3 within 40 s", "stopped over bed 3 within 2 s");
        Assert.Equal(0, ran.Passes);
        var tooShort = found.Single(f => f.Code == "goal-too-short");
        Assert.Equal(Severity.Stops, tooShort.Severity);
        Assert.True(ran.Short!.FastestS is > 2 and < 40, $"{ran.Short.FastestS} s");
        // It explains what is missed.
        Assert.All(found.Where(f => f.Code == "goal-missed"), f => Assert.Equal(tooShort.Key, f.Because));
        var (sound, _) = With("seed-trolley", "within 40 s", "within 39 s");
        Assert.DoesNotContain(sound, f => f.Code is "goal-too-short" or "goal-missed");
    }

    [Fact]
    public void Sentences_and_states_are_counted_run_by_run()
    {
        var (_, ran) = With("seed-trolley", "within 40 s", "within 40 s");
        var did = Assert.Single(ran.Programs);
        Assert.Equal((60, 60), (ran.Runs, ran.Passes));
        // Every run begins, comes over tags, stops and seeds; none fails in any state.
        Assert.All(did.Entered.Values, e => Assert.Equal((60, 0), e));
        Assert.All(did.Taken.Values, n => Assert.Equal(60, n));
    }

    [Fact]
    public void A_way_out_that_is_missing_is_told_in_the_state_that_it_is_missing_from()
    {
        var (found, ran) = With("seed-trolley", "    when Tag eye becomes bed tag: set beds to beds + 1; go Over tag\n", "");
        Assert.Equal(0, ran.Passes);
        Assert.Contains(found, f => f.Severity <= Severity.Risky && f.Owner == "Rolling");
    }

    [Theory]
    [InlineData("deck-scrubber", "drive back 60 mm at 80 mm/s, then ", "", "turn-clearance")]
    [InlineData("deck-scrubber", "drive straight at 90 mm/s", "drive straight at 400 mm/s", "stop-late")]
    [InlineData("rack-hoist", "run Mast down at 20 %", "run Mast up at 20 %", "wrong-way")]
    [InlineData("buoy-picker", "run Boom to water at 20 %", "run Boom to deck at 20 %", "wrong-way")]
    [InlineData("shell-sorter", "white shell for 2 readings", "white shell for 20 readings", "react-late")]
    [InlineData("rack-hoist", "run Mast up at 25 %", "run Mast up at 100 %", "marker-missed")]
    [InlineData("rack-hoist", "becomes notch for 7", "becomes notch for 3", "zone-weak")]
    [InlineData("buoy-line-rover", "follow Line eye at 90 mm/s", "follow Line eye at 600 mm/s", "line-lost")]
    [InlineData("buoy-picker", "becomes held for 25 readings", "becomes held for 3 readings", "load-loose")]
    public void A_sentence_of_the_farm_that_is_got_wrong_is_named_with_the_figures_of_its_rig(
        string id,
        string was,
        string now,
        string code
    )
    {
        var (before, _) = With(id, was, was, 1);
        var (found, _) = With(id, was, now, 1);
        var named = found.Where(f => f.Code == code).ToArray();
        Assert.True(
            named.Length > before.Count(f => f.Code == code) || named.Any(f => before.All(b => b.Said != f.Said)),
            string.Join("; ", found.Select(f => $"{f.Code} {f.Headline}"))
        );
        Assert.All(named, f => Assert.Matches(@"\d", f.Say));
    }

    private static (IReadOnlyList<Finding> Findings, SceneRuns Ran) Scrubbing(string back)
    {
        var sound = Mutants.Mended("deck-scrubber");
        var rig = sound.Copy.Rig;
        var script = rig.Programs[0].Script;
        var main = script.IndexOf("  state Sweeping", StringComparison.Ordinal);
        var made =
            script[..main]
            + "  state Sweeping, initial\n    while here: drive straight at 90 mm/s\n    when Left edge eye becomes drop: go Backing\n"
            + $"    when Right edge eye becomes drop: go Backing\n\n  state Backing\n{back}\n"
            + "    when Bumper is down: go All clean\n\n"
            + script[script.IndexOf("  state All clean", StringComparison.Ordinal)..];
        return Mutants.Look(sound, rig.WithProgram(0, rig.Programs[0] with { Script = made }), 40)!.Value;
    }

    [Fact]
    public void A_round_that_failed_runs_end_in_is_a_trap_though_another_way_leads_out()
    {
        var (found, ran) = Scrubbing("    on entry: drive back 60 mm at 80 mm/s\n    when all done: go Sweeping");
        var round = ran.Rounds[0];
        var count = ran.Rounds.Sum(r => r.Count);
        Assert.True(count > 20, $"{count}");
        var trap = Assert.Single(found, f => f.Code == "trap");
        // What follows from it may make it worse.
        Assert.Equal("Sweeping", trap.Owner);
        Assert.True(trap.Severity <= Severity.Risky);
        Assert.Equal(round.Run, trap.Run);
        Assert.Contains($"{count} of 40 runs fail going round Sweeping and Backing", trap.Say, StringComparison.Ordinal);
    }

    [Theory]
    // It turns, it counts its rounds, and nothing goes back.
    [InlineData(
        "    on entry: drive back 60 mm at 80 mm/s, then turn robot left 30 robot deg spinning at 30 %\n    when all done: go Sweeping"
    )]
    [InlineData(
        "    on entry: drive back 60 mm at 80 mm/s\n    when all done if lanes > 40: go All clean\n"
            + "    when all done: set lanes to lanes + 1; go Sweeping"
    )]
    [InlineData("    on entry: drive straight 5 mm at 80 mm/s\n    when all done: go Sweeping")]
    public void What_turns_counts_or_goes_on_is_no_trap(string back)
    {
        var (found, _) = Scrubbing(back);
        Assert.DoesNotContain(found, f => f.Code == "trap");
    }

    [Theory]
    [InlineData("buoy-picker", "force of Jaws at full power")]
    [InlineData("rack-hoist", null)]
    public void Where_most_hangs_on_a_guess_the_runs_say_on_which(string id, string? guess)
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var copy = DemoBench.Copy(rig, 1, rig.Design, new Dictionary<string, AcceptedNumber>());
        RigProgram[] running = [.. RigPrograms.Of(rig.Design).Where(p => p.Runs)];
        SceneRuns Of(int runs) => Tries.Scene(BenchPlan.Build(copy, SceneStarts.Read(rig.Design)[0]), running, true, runs).Found;
        var ran = Of(200);
        Assert.True(ran.Passes < 190, $"{ran.Passes}");
        Assert.Equal(guess, ran.Guess?.Name);
        // Of a few runs nobody can say.
        Assert.Null(Of(60).Guess);
    }
}
