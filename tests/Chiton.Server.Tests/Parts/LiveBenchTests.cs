using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.People;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>A bench that is played with, and the scene that what was done becomes.</summary>
public class LiveBenchTests
{
    private static BenchPlan Plays(string id) => DemoBench.Plan(id, plays: true);

    private static BenchPlan Again(string id, string text)
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var read = SceneParser.Parse(text, rig.Design);
        Assert.Empty(read.Diagnostics);
        return BenchPlan.Build(DemoBench.Copy(rig, 1, rig.Design), read.Scene);
    }

    public static TheoryData<string> Rigs =>
        ["seed-trolley", "rack-hoist", "shell-sorter", "buoy-picker", "header-tank", "berthing-lights", "deck-scrubber", "buoy-line-rover"];

    // Every hand in turn, at odd moments and in odd slices of time; then the scene that was kept, on the same seed.
    [Theory]
    [MemberData(nameof(Rigs))]
    public void What_was_done_becomes_a_scene_that_is_the_same_run(string id)
    {
        var plan = Plays(id);
        var live = new LiveBench(plan, 7);
        var about = live.About();
        var luck = new RandomStream(3, 1);
        var usable = Enumerable.Range(0, about.Hands.Count).Where(h => about.Hands[h].Why is null).ToArray();
        Assert.NotEmpty(usable);
        var events = new List<BenchEvent>();
        LiveMoment last;
        for (var i = 0; ; i++)
        {
            var hand = usable[i % usable.Length];
            // What lasts is left off again soon, so that the run goes on.
            live.Ask(hand, true, about.Hands[hand].Amount?.Usual);
            live.Advance(0.0331 + 0.4 * luck.Uniform());
            live.Ask(hand, false);
            last = live.Look();
            events.AddRange(last.Events);
            if (last.Ended)
                break;
        }
        var told = new List<BenchEvent>();
        var again = BenchReport.Watch(Again(id, live.Kept("Played")), 7);
        told.AddRange(again.Events);
        // The run that is watched again ends when it is decided; until then it is the same, to the microsecond.
        var before = events.Where(e => e.TimeS <= again.EndS).Select(e => (e.TimeS, e.From, e.To, e.X, e.Y)).ToArray();
        Assert.Equal(before, told.Select(e => (e.TimeS, e.From, e.To, e.X, e.Y)).ToArray());
        Assert.True(before.Length > 1, "nothing happened");
        Assert.Equal(again.Passed, last.Verdict!.Passed);
    }

    [Fact]
    public void A_played_run_is_the_watched_run_where_nothing_is_done()
    {
        var live = new LiveBench(Plays("deck-scrubber"), 11);
        while (!live.Ended)
            live.Advance(1 / 30.0);
        var moment = live.Look();
        var watched = BenchReport.Watch(DemoBench.Plan("deck-scrubber"), 11);
        var until = moment.Events.Where(e => e.TimeS <= watched.EndS).ToArray();
        Assert.Equal(watched.Events, until);
        Assert.Equal("scene Tried\n", live.Kept("Tried")[..12]);
        Assert.Empty(live.Lines());
    }

    [Fact]
    public void What_is_done_is_a_sentence_with_its_moment()
    {
        var plan = Plays("berthing-lights");
        var live = new LiveBench(plan, 1);
        var hands = live.About().Hands;
        var before = Enumerable.Range(0, hands.Count).First(h => hands[h].Sentence.StartsWith("hand ", StringComparison.Ordinal));
        live.Advance(2);
        live.Ask(before, true, 123.4);
        live.Advance(0.5);
        Assert.Contains(before, live.Look().Doing);
        live.Ask(before, false);
        live.Advance(0.1);
        Assert.DoesNotContain(before, live.Look().Doing);
        var line = Assert.Single(live.Lines());
        Assert.Matches(@"^hand 123 mm before Berth range at 2(\.\d+)? s for 0\.\d+ s$", line);
        Assert.Contains("\n" + line + "\n", live.Kept("Too soon"));
    }

    [Fact]
    public void A_scene_that_is_kept_does_not_count_and_keeps_every_other_line()
    {
        var plan = Plays("deck-scrubber");
        var kept = SceneParser.Parse(new LiveBench(plan, 1).Kept("Again"), plan.Rigs[0]).Scene;
        Assert.False(kept.Counts);
        // A name is one line, whatever it was typed as.
        Assert.StartsWith("scene Again counts\n", new LiveBench(plan, 1).Kept("Again\ncounts"));
        Assert.Equal(plan.Scene.Lines.Where(l => l.Key != "counts").Select(ScenePrinter.Print), kept.Lines.Select(ScenePrinter.Print));
    }

    [Fact]
    public void Hands_have_keys_of_their_own_and_say_why_they_can_do_nothing()
    {
        foreach (var rig in Farm.All(DateTime.UnixEpoch))
        {
            var hands = new LiveBench(Plays(rig.Id), 1).About().Hands;
            var keys = hands.Select(h => h.Key).OfType<string>().ToArray();
            Assert.Equal(keys.Length, keys.Distinct().Count());
            Assert.All(keys, k => Assert.True(char.IsAsciiLetter(k[0])));
            Assert.Equal(hands.Count, hands.Select(h => h.Sentence).Distinct().Count());
            // What a rig cannot do is told, not left away.
            Assert.All(hands.Where(h => h.Why is not null), h => Assert.EndsWith(".", h.Why));
            Assert.Contains(hands, h => h.Sentence.StartsWith("battery at", StringComparison.Ordinal));
        }
    }

    [Fact]
    public void What_a_program_drives_is_blocked_and_what_it_only_reads_is_turned()
    {
        var turned = Farm.All(DateTime.UnixEpoch)
            .SelectMany(r =>
                new LiveBench(Plays(r.Id), 1)
                    .About()
                    .Hands.Where(h => h.Words.StartsWith("Turn ", StringComparison.Ordinal))
                    .Select(h => $"{r.Id}: {h.About}")
            );
        // Wired, and told nothing by the trolley's program.
        Assert.Equal(["seed-trolley: Hopper flap"], turned);
    }

    [Fact]
    public void A_hand_that_is_not_there_is_refused_and_so_is_the_thousand_and_first_deed()
    {
        var live = new LiveBench(Plays("seed-trolley"), 1);
        Assert.Contains("hand", Assert.Throws<InputProblem>(() => live.Ask(-1, true)).Errors.Keys);
        Assert.Contains("hand", Assert.Throws<InputProblem>(() => live.Ask(1000, true)).Errors.Keys);
        for (var i = 0; i < LiveBench.MostDone; i++)
            live.Ask(0, true);
        Assert.Throws<InputProblem>(() => live.Ask(0, true));
    }

    [Fact]
    public void A_step_goes_to_the_next_transition_and_no_further()
    {
        var live = new LiveBench(Plays("seed-trolley"), 2);
        live.Look();
        Assert.True(live.ToNextTransition(() => false));
        var first = live.Look();
        var taken = Assert.Single(first.Events, e => e.From is not null);
        Assert.Equal(first.TimeS, taken.TimeS, 3);
        Assert.True(live.ToNextTransition(() => false));
        Assert.True(live.Look().TimeS > first.TimeS);
    }

    [Fact]
    public void Amounts_are_kept_within_their_bounds_with_their_decimals()
    {
        var hand = new Hand("pack", "Flatten", "battery at {0} V", HandLasts.UntilAgain, new("V", 4.2, 0.5, 6, 2), "a", null);
        Assert.Equal("battery at 4.2 V", hand.Line());
        Assert.Equal("battery at 6 V", hand.Line(99));
        Assert.Equal("battery at 0.5 V", hand.Line(double.NegativeInfinity < -1 ? -5 : 0));
        Assert.Equal("battery at 4.2 V", hand.Line(double.NaN));
        Assert.Equal("battery at 3.13 V at 1.5 s for 0.25 s", hand.Done(3.1278, 1_500_000, 1_750_000));
        Assert.Equal("battery at 3 V at 1.5 s", hand.Done(3, 1_500_000, null));
    }
}
