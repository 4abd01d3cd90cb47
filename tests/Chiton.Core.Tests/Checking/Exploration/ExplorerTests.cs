using Chiton.Core.Checking;
using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Tests.Checking.Exploration;

/// <summary>What exploration finds, by how few events, and whether the engine can be taken there.</summary>
public class ExplorerTests
{
    private static readonly Vocabulary Words = new(
        [
            new("Knob", ["up", "down"]) { Switch = true },
            new("Eye", ["dark", "light", "red"]),
            new("Range", ["near", "far"]) { Reads = Dimension.Length },
        ],
        [new("Arm", ActuatorKind.RegulatedMotor), new("Pump", ActuatorKind.PlainMotor)],
        []
    )
    {
        Programs = ["One", "Two"],
    };

    private static NetworkProgram Program(string body, string name = "One")
    {
        var parsed = ScriptParser.Parse($"program {name}\n\n{body}", Words);
        Assert.Empty(parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return new(name, ScriptCompiler.Compile(parsed.Program, Words), false);
    }

    private static Explorer Explore(double delayMs, params string[] bodies)
    {
        NetworkProgram[] programs = [.. bodies.Select((b, i) => Program(b, i == 0 ? "One" : "Two"))];
        var explorer = new Explorer(programs, (long)(delayMs * 1000)) { Replays = programs };
        explorer.Run(200_000, long.MaxValue);
        return explorer;
    }

    private static WayThere? Broken(Explorer explorer) => explorer.Broken().SingleOrDefault()?.Way;

    private static string Words_(WayThere way) => string.Join(", ", way.Events.Where(e => e.Name is not null).Select(e => e.Name));

    [Fact]
    public void The_fewest_events_lead_there_and_the_engine_goes_with_them()
    {
        var way = Broken(
            Explore(
                0,
                "never: B is in On and A is in On\n\nregion A\n  state Off, initial\n    when Eye becomes red: go On\n    when Knob "
                    + "is pressed: go Half\n"
                    + "  state Half\n    when Eye becomes light: go More\n  state More\n    when Eye becomes dark: go On\n  state "
                    + "On\n    when Eye becomes dark: go Off\n\n"
                    + "region B\n  state Off2, initial\n    when Knob is pressed: go On\n  state On\n    after 1 s: go Off2\n"
            )
        )!;
        Assert.True(way.Replayed);
        Assert.Equal("Eye is red, Knob pressed", Words_(way));
    }

    [Fact]
    public void Of_times_begun_together_the_shorter_comes_first()
    {
        const string never = "never: B is in Late and A is in Early\n\n";
        const string a = "region A\n  state Early, initial\n    after 2 s: go Gone\n  state Gone\n\n";
        var together = Explore(0, never + a + "region B\n  state Start, initial\n    after 5 s: go Late\n  state Late\n");
        Assert.True(together.IsComplete);
        Assert.Null(Broken(together));
        // Shorter, it is first.
        Assert.NotNull(Broken(Explore(0, never + a + "region B\n  state Start, initial\n    after 1 s: go Late\n  state Late\n")));
        // Begun by an event of its own it may come any time, and here it can.
        var apart = Broken(
            Explore(
                0,
                never
                    + a
                    + "region B\n  state Start, initial\n    when Eye becomes red: go Wait\n  state Wait\n    after 1 s: go Late\n  "
                    + "state Late\n"
            )
        )!;
        Assert.True(apart.Replayed);
    }

    [Fact]
    public void What_only_times_forbid_is_not_told_as_possible()
    {
        // Ten seconds from the start are over before twenty seconds from any later event are.
        var explorer = Explore(
            0,
            "never: B is in Late and A is in Early\n\nregion A\n  state Early, initial\n    after 10 s: go Gone\n  state Gone\n\n"
                + "region B\n  state Start, initial\n    when Eye becomes red: go Wait\n  state Wait\n    after 20 s: go Late\n  "
                + "state Late\n"
        );
        var way = Broken(explorer);
        Assert.NotNull(way);
        Assert.False(way.Replayed);
    }

    [Fact]
    public void An_event_waits_until_the_times_fit()
    {
        // The eye must see red later than 2 s, and not before.
        var way = Broken(
            Explore(
                0,
                "never: A is in Gone and B is in Wait\n\nregion A\n  state Early, initial\n    after 5 s: go Gone\n  state Gone\n\n"
                    + "region B\n  state Start, initial\n    when Eye becomes red: go Wait\n  state Wait\n    after 3 s: go Start\n"
            )
        )!;
        Assert.True(way.Replayed);
        Assert.InRange(way.Events[0].AfterMs, 2000, 5000);
    }

    [Fact]
    public void Counting_goes_on_until_it_no_longer_matters()
    {
        const string counts =
            "var n = 0\nnever: Main is in Full\n\nregion Main\n  state Open, initial\n    when Eye becomes red: set n to n + 1; stay\n    "
            + "when Knob is pressed if n = 3: go Full\n  state Full\n";
        var explorer = Explore(0, counts);
        Assert.True(explorer.IsComplete);
        var way = Broken(explorer)!;
        Assert.True(way.Replayed);
        Assert.Equal(3, way.Events.Count(e => e.Name == "Eye is red"));
        // Never more than three, it is never four.
        var never = Explore(0, counts.Replace("n + 1; stay", "n + 2; stay", StringComparison.Ordinal));
        Assert.True(never.IsComplete);
        Assert.Null(Broken(never));
        Assert.Equal(["Full"], never.NeverEntered(0).Select(s => s.Name));
    }

    [Fact]
    public void What_nobody_knows_may_be_either()
    {
        var explorer = Explore(
            0,
            "var x = 0 mm\nvar y = 0\n\nregion Main\n  state Open, initial\n    when Knob is pressed: set x to Range; set y to "
                + "random (between 0 and 10); "
                + "go Look\n  state Look\n    always if x < 100 mm and x > 200 mm: go Both\n    always if x < 100 mm: go Near\n    "
                + "always if y > 5: go "
                + "High\n    always: go Low\n  state Near\n  state High\n  state Low\n  state Both\n"
        );
        Assert.True(explorer.IsComplete);
        // A number that is kept is on one side of each constant.
        Assert.Equal(["Both"], explorer.NeverEntered(0).Select(s => s.Name));
    }

    [Fact]
    public void A_tap_is_no_press_that_is_held()
    {
        var way = Broken(
            Explore(
                0,
                "never: Main is in Twice\n\nregion Main\n  state Open, initial\n    when Knob is tapped twice: go Twice\n    when "
                    + "Knob is held for 1 s: "
                    + "go Held\n  state Twice\n  state Held\n"
            )
        )!;
        Assert.True(way.Replayed);
        Assert.Equal("Knob pressed, Knob released, Knob pressed, Knob released", Words_(way));
        Assert.True(
            Broken(
                Explore(
                    0,
                    "never: Main is in Held\n\nregion Main\n  state Open, initial\n    when Knob is tapped: go Tapped\n    when Knob "
                        + "is held for 1 s: go "
                        + "Held\n  state Tapped\n  state Held\n"
                )
            )!.Replayed
        );
    }

    [Fact]
    public void Messages_take_their_time_and_come_in_order()
    {
        const string one =
            "region Main\n  state Idle, initial\n    when Knob is pressed: tell Two \"open\"; go Asked\n  state Asked\n    when told "
            + "\"is open\" from Two: "
            + "go Through\n    when Eye becomes red: tell Two \"shut\"; go Idle\n  state Through\n";
        const string two =
            "never: Main is in Open and Other is in Seen\n\nregion Main\n  state Shut, initial\n    when told \"open\" from One: "
            + "tell One \"is open\"; "
            + "go Open\n  state Open\n    when told \"shut\" from One: go Shut\n\nregion Other\n  state Start, initial\n    when Eye "
            + "becomes red: go Seen\n  "
            + "state Seen\n";
        var explorer = Explore(200, one, two);
        var way = explorer.Broken().Single(b => b.Program == 1).Way;
        Assert.True(way.Replayed);
        Assert.Equal(2, way.Events.Count(e => e.Name is not null));
        // Without any time on the way an answer is there at once: nobody can be asked and see red before it.
        Assert.True(Explore(0, one, two).IsComplete);
    }

    [Fact]
    public void Two_regions_that_drive_one_motor_are_told_and_a_state_within_is_not()
    {
        const string outer =
            "region Main\n  state Out, initial\n    while here: run Pump at 40 %\n    state In, initial\n      when Knob is pressed: "
            + "go Over\n    state "
            + "Over\n      while here: run Pump at 80 %\n      when Knob is pressed: go In\n";
        Assert.Empty(Explore(0, outer).DrivenTwice());
        const string second = "\nregion B\n  state Rest, initial\n    when Eye becomes red: run Pump at 10 %; stay\n";
        var twice = Explore(0, outer + second).DrivenTwice();
        Assert.NotEmpty(twice);
        Assert.All(twice, t => Assert.Equal("Pump", t.Device));
        Assert.True(twice[0].Way.Replayed);
        Assert.Equal(1, twice[0].Way.Events.Count(e => e.Name is not null));
        // A motor that goes on from a state that was left is taken over by right.
        Assert.Empty(
            Explore(
                    0,
                    "region Main\n  state A, initial\n    on entry: run Arm 900 motor deg at 40 %\n    when Knob is pressed: go B\n  "
                        + "state B\n    on entry: "
                        + "run Arm 90 motor deg at 20 %\n    when Arm is done: go A\n"
                )
                .DrivenTwice()
        );
    }

    [Fact]
    public void It_is_stopped_goes_on_where_it_was_and_says_how_far_it_has_come()
    {
        var programs = new[]
        {
            Program(
                "var n = 0\n\nregion Main\n  state Open, initial\n    when Eye becomes red: set n to n + 1; stay\n    when Knob is "
                    + "pressed if n = 150: go "
                    + "Full\n  state Full\n"
            ),
        };
        var explorer = new Explorer(programs, 0);
        using var stop = new CancellationTokenSource();
        explorer.Run(long.MaxValue, long.MaxValue, stop.Token, _ => stop.Cancel());
        Assert.False(explorer.IsComplete);
        var before = explorer.States;
        explorer.Run(50, long.MaxValue);
        Assert.True(explorer.MayGoOn);
        Assert.True(explorer.States >= before);
        explorer.Run(long.MaxValue, long.MaxValue);
        Assert.True(explorer.IsComplete);
        Assert.False(explorer.MayGoOn);
        var whole = new Explorer(programs, 0);
        whole.Run(long.MaxValue, long.MaxValue);
        Assert.Equal((whole.States, whole.Steps, whole.Depth), (explorer.States, explorer.Steps, explorer.Depth));
        Assert.True(explorer.Bytes < Explorer.MostBytes);
    }

    private const string Asks =
        "var n = 0\nnever: Left is in L3 and Right is in R3\n\nregion Left\n  state L1, initial\n    on entry: run Arm at 20 %\n"
        + "    when Eye becomes red: tell Two \"more\"; go L2\n    when told \"enough\" from Two: set n to n + 1; go L3\n"
        + "  state L2\n    when Knob is pressed if n < 40: set n to n + 1; tell Two \"less\"; go L1\n    after 2 s: go L3\n"
        + "  state L3\n    when Range becomes near: go L1\n\nregion Right\n  state R1, initial\n    when Eye becomes light: go R2\n"
        + "  state R2\n    on entry: run Arm at 50 %\n    when Range becomes far: go R3\n  state R3\n    after 3 s: go R1\n";

    private const string Answers =
        "var m = 0\n\nregion Main\n  state Waits, initial\n    when told \"more\" from One: set m to m + 1; go Counts\n"
        + "    when told \"less\" from One if m > 0: set m to m - 1; stay\n    when Eye becomes dark if m < 30: set m to m + 1; stay\n"
        + "  state Counts\n    after 1 s: tell One \"enough\"; go Waits\n    when Knob is pressed: tell One \"enough\"; go Waits\n";

    private static Explorer Explored(double delayMs, int aloneBelow, bool bySlices)
    {
        NetworkProgram[] programs = [Program(Asks), Program(Answers, "Two")];
        var explorer = new Explorer(programs, (long)(delayMs * 1000)) { Replays = programs, AloneBelow = aloneBelow };
        if (bySlices)
            while (explorer.States is 0 or < 40_000 && (explorer.MayGoOn || explorer.States == 0))
                explorer.Run(777, long.MaxValue);
        else
            explorer.Run(20_000, long.MaxValue);
        return explorer;
    }

    [Theory]
    [InlineData(5)]
    [InlineData(0)]
    public void Two_threads_come_to_the_same_states_by_the_same_steps_as_one(double delayMs)
    {
        var (one, two) = (Explored(delayMs, int.MaxValue, false), Explored(delayMs, 0, false));
        Assert.True(one.States > 5_000, $"{one.States}");
        Assert.Equal((one.States, one.Steps, one.Depth, one.Bound), (two.States, two.Steps, two.Depth, two.Bound));
        for (var shard = 0; shard < StateSet.Shards; shard++)
        {
            Assert.Equal(one.Kept[shard].Count, two.Kept[shard].Count);
            for (var i = 0; i < one.Kept[shard].Count; i++)
                Assert.True(
                    one.Kept[shard][i].SequenceEqual(two.Kept[shard][i])
                        && one.Kept[shard].ParentOf(i) == two.Kept[shard].ParentOf(i)
                        && one.Kept[shard].StepTo(i) == two.Kept[shard].StepTo(i),
                    $"{shard}, {i}"
                );
        }
        Assert.Equal(Words_(Broken(one)!), Words_(Broken(two)!));
        Assert.Equal(one.DrivenTwice().Select(d => Words_(d.Way)), two.DrivenTwice().Select(d => Words_(d.Way)));
        Assert.NotEmpty(two.DrivenTwice());
    }

    [Fact]
    public void What_is_come_to_and_by_how_many_events_does_not_depend_on_how_much_is_looked_at_at_once()
    {
        var (whole, sliced) = (Explored(5, 0, false), Explored(5, 0, true));
        var (a, b) = (whole.Reached(), sliced.Reached());
        Assert.Equal(a.OrderBy(x => x.Key, StringComparer.Ordinal), b.OrderBy(x => x.Key, StringComparer.Ordinal));
        Assert.Equal(Broken(whole)!.Events.Count, Broken(sliced)!.Events.Count);
    }
}
