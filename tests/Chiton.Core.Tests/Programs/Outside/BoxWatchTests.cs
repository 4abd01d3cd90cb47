using Chiton.Core.Motion;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>What a box says is held against the rig; runs are seen; trials are told.</summary>
public class BoxWatchTests
{
    private const string Script = """
        program Main
        region Main
          state Ready, initial
            when after 1 s: go Rolling
          state Rolling
            when after 2 s: go Home
          state Home, final
        """;

    private static RigDesign Rig =>
        RigTemplates.Make("two-wheel drive", "Rover") is var rig
            ? rig with
            {
                Programs = [new(Script, [])],
                Sensors = [.. rig.Sensors, new("Left turns", SensorKind.Encoder, 10, 1, []) { On = "Left wheel" }],
            }
            : null!;

    private static CopyMoves Moves(RigDesign rig) =>
        new(rig, null, new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>());

    private static BoxWatch Watch(params string[] lines)
    {
        var watch = new BoxWatch(Rig);
        foreach (var line in lines)
            watch.Take(BoxLine.Read(line, watch.Names));
        return watch;
    }

    [Fact]
    public void What_it_is_and_has_is_known()
    {
        var watch = Watch(
            "chiton 1 Rover stand-in",
            "have Range distance 30",
            "have Bumper touch 10",
            "holds 3-0123456789ab",
            "battery 7.4",
            "ok"
        );
        Assert.True(watch.Hello!.StandIn);
        Assert.Equal("3-0123456789ab", watch.Holds);
        Assert.Equal(7.4, watch.Volts);
        Assert.Equal([30.0, 10.0, null], watch.Sensors.Select(s => s.PeriodMs));
        Assert.Empty(watch.Complaints);
        Assert.Equal((6L, 0L), (watch.Lines, watch.Strange));
        Assert.Equal(
            (2L, "nothing heard", 70_000L),
            Watch("r 10000 Range 300", "r 70000 Range -").Sensors.Select(s => (s.Count, s.Last!, s.AtMicros!.Value)).First()
        );
    }

    [Theory]
    [InlineData("chiton 1 Shed", "It calls itself “Shed”; this rig is Rover.")]
    [InlineData("have Nose light 10", "It speaks of “Nose”, which this rig has not. Its sensors are Range, Bumper and Left turns.")]
    [InlineData(
        "have Range distance 40",
        "It reads Range every 40 ms; the rig says 30 ms. Programs and sums count with what the rig says."
    )]
    [InlineData("r 5 Nose 4", "It speaks of “Nose”, which this rig has not. Its sensors are Range, Bumper and Left turns.")]
    [InlineData("r 5 Range 9000", "Range read 9000 mm; it can give 0 to 4000. Such readings do not count.")]
    [InlineData("r 5 Range -1", "Range read -1 mm; it can give 0 to 4000. Such readings do not count.")]
    [InlineData("r 5 Range 1 2 3", "Range gives 1 number a reading; 3 came. Such readings do not count.")]
    [InlineData("r 5 Range lilac", "It says that Range sees “lilac”: that is neither a number nor one of its zones.")]
    [InlineData("state 5 Maine Ready", "It speaks of a program “Maine”, which this rig has not. Its programs are Main.")]
    [InlineData(
        "state 5 Main Main.Roling",
        "It says that Main is in “Main.Roling”, a state that Main has not here: it runs another revision."
    )]
    [InlineData("done Tail", "It speaks of a device “Tail”, which this rig has not.")]
    [InlineData("stalls Tail", "It speaks of a device “Tail”, which this rig has not.")]
    [InlineData("gives up Tail", "It speaks of a device “Tail”, which this rig has not.")]
    [InlineData("tell Range", "It says “tell Range”, which only the desk says.")]
    public void What_cannot_be_is_called_out_and_does_not_count(string line, string said)
    {
        var watch = new BoxWatch(Rig);
        var counts = watch.Take(BoxLine.Read(line, watch.Names));
        Assert.Equal(line.StartsWith("chiton", StringComparison.Ordinal) || line.Contains("40", StringComparison.Ordinal), counts);
        Assert.Equal(new BoxComplaint(said, 1, 0), Assert.Single(watch.Complaints));
        watch.Take(BoxLine.Read(line, watch.Names));
        Assert.Equal(
            line.StartsWith("chiton", StringComparison.Ordinal) || line.Contains("40", StringComparison.Ordinal) ? 1 : 2,
            watch.Complaints[0].Times
        );
    }

    [Theory]
    [InlineData("r 5 Range 300")]
    [InlineData("r 5 Range -")]
    [InlineData("r 5 Range 0")]
    [InlineData("r 5 Range 4000")]
    [InlineData("r 5 Range near")]
    [InlineData("state 5 Main Ready")]
    [InlineData("state 5 Main Main.Ready+Main.Rolling")]
    [InlineData("state 5 Main -")]
    [InlineData("done Drive")]
    [InlineData("stalls Left wheel")]
    [InlineData("have Range distance 32")]
    public void What_can_be_counts(string line)
    {
        var watch = new BoxWatch(Rig);
        Assert.True(watch.Take(BoxLine.Read(line, watch.Names)));
        Assert.Empty(watch.Complaints);
    }

    [Fact]
    public void Times_never_go_back_unless_it_says_hello_again()
    {
        var watch = Watch("r 100000 Range 300", "r 100000 Range 301", "r 99999 Range 302");
        Assert.Equal(
            "The time of Range went back, from 0.1 to 0.099999 s. Such readings do not count. Its clock must run on, or it must "
                + "say hello again.",
            Assert.Single(watch.Complaints).Say
        );
        Assert.Equal(2, watch.Sensors[0].Count);
        // Each sensor has times of its own: lines of two of them may come a little late.
        Assert.True(watch.Take(BoxLine.Read("r 50000 Bumper 1", watch.Names)));
        watch.Take(BoxLine.Read("chiton 1 Rover", watch.Names));
        Assert.True(watch.Take(BoxLine.Read("r 5 Range 302", watch.Names)));
    }

    [Fact]
    public void What_is_called_out_says_when_last()
    {
        var watch = new BoxWatch(Rig);
        foreach (var (now, line) in new[] { (5L, "r 5 Range 9000"), (70L, "r 6 Range 300"), (90L, "r 7 Range 9001"), (95L, "r 8 Nose 1") })
        {
            watch.NowMicros = now;
            watch.Take(BoxLine.Read(line, watch.Names));
        }
        Assert.Equal([(2, 90L), (1, 95L)], watch.Complaints.Select(c => (c.Times, c.AtMicros)));
        // Looked at later, and with the rig changed, the time goes on.
        watch.NowMicros = 200;
        Assert.Equal(90, watch.Complaints[0].AtMicros);
        Assert.Equal(200, watch.For(Rig).NowMicros);
    }

    [Fact]
    public void A_hello_that_was_asked_for_begins_nothing_anew_but_times()
    {
        var watch = Watch("chiton 1 Rover", "state 1 Main Main.Rolling", "r 100000 Range 300", "r 50000 Range 301", "r 60000 Range 301");
        Assert.Equal(2, watch.BackInARow);
        // Another sensor's times go on; what cannot be says nothing of the clock.
        watch.Take(BoxLine.Read("r 5 Nose 4", watch.Names));
        Assert.Equal(2, watch.BackInARow);
        watch.Take(new BoxHello(1, "Rover", false), asked: true);
        Assert.Equal(("Main.Rolling", 0), (watch.States["Main"], watch.BackInARow));
        Assert.True(watch.Take(BoxLine.Read("r 70000 Range 302", watch.Names)));
        watch.Take(BoxLine.Read("r 69999 Range 302", watch.Names));
        Assert.Equal(1, watch.BackInARow);
        Assert.True(watch.Take(BoxLine.Read("r 70000 Range 302", watch.Names)));
        Assert.Equal(0, watch.BackInARow);
        watch.Take(new BoxHello(1, "Rover", false));
        Assert.Empty(watch.States);
    }

    [Fact]
    public void However_much_it_makes_up_no_more_is_kept_than_can_be_looked_at()
    {
        var watch = new BoxWatch(Rig);
        for (var i = 0; i < 10_000; i++)
            foreach (var line in new[] { $"have Nose{i} light 10", $"r 5 Nose{i} 4", $"state 5 P{i} x", $"done D{i}", $"nonsense {i}" })
                watch.Take(BoxLine.Read(line, watch.Names));
        Assert.Equal(BoxWatch.MostComplaints, watch.Complaints.Count);
        Assert.Equal(BoxWatch.MostShown, watch.Unread.Count);
        Assert.Equal("nonsense 9999", watch.Unread[^1].Line);
        Assert.True(watch.Sensors.Count <= 30);
        Assert.Empty(watch.States);
        Assert.Equal((50_000L, 10_000L), (watch.Lines, watch.Strange));
    }

    [Fact]
    public void When_the_rig_is_changed_what_was_counted_is_counted_on_and_what_could_not_be_is_judged_anew()
    {
        var before = Watch(
            "chiton 1 Rover",
            "have Nose light 10",
            "have Range distance 30",
            "r 1000 Range 300",
            "r 2000 Range 301",
            "r 5 Nose 4",
            "odd",
            "state 1 Main Main.Rolling",
            "battery 7"
        );
        Assert.Single(before.Complaints);
        var rig = Rig;
        var after = before.For(
            rig with
            {
                Name = "Rover two",
                Sensors = [rig.Sensors[0], new("Nose", SensorKind.ReflectedLight, 10, 1, ["a", "b"])],
            }
        );
        Assert.Equal((9L, 1L, 7.0, "Main.Rolling"), (after.Lines, after.Strange, after.Volts!.Value, after.States["Main"]));
        Assert.Equal((2L, "301"), (after.Sensors[0].Count, after.Sensors[0].Last!));
        // Times still never go back, and what is called otherwise now is said.
        Assert.False(after.Take(BoxLine.Read("r 1999 Range 4", after.Names)));
        Assert.True(after.Take(BoxLine.Read("r 10 Nose 4", after.Names)));
        Assert.Equal(
            [
                "It calls itself “Rover”; this rig is Rover two.",
                "The time of Range went back, from 0.002 to 0.001999 s. Such readings do not count. Its clock must run on, or it must "
                    + "say hello again.",
            ],
            after.Complaints.Select(c => c.Say)
        );
    }

    // ---- what it runs ----

    [Theory]
    [InlineData("14-3fa9c2d1e07b", true, "It runs revision 14, as it is here.")]
    [InlineData(
        "14-3fa9c2d1e07c",
        false,
        "It runs revision 14 with other numbers than this copy has now. Take it out again and put it on the board."
    )]
    [InlineData("12-3fa9c2d1e07b", false, "It runs revision 12; here is revision 14. Take the program out again and put it on the board.")]
    [InlineData("15-3fa9c2d1e07b", false, "It says that it runs revision 15; here are only 14. It is of another rig, or of a copy of it.")]
    [InlineData("mine", false, "It runs “mine”, which was not taken out here. Take the program out and put it on the board.")]
    [InlineData(
        "14-3FA9C2D1E07B",
        false,
        "It runs “14-3FA9C2D1E07B”, which was not taken out here. Take the program out and put it on the board."
    )]
    [InlineData(
        "0-3fa9c2d1e07b",
        false,
        "It runs “0-3fa9c2d1e07b”, which was not taken out here. Take the program out and put it on the board."
    )]
    [InlineData(
        "+1-3fa9c2d1e07b",
        false,
        "It runs “+1-3fa9c2d1e07b”, which was not taken out here. Take the program out and put it on the board."
    )]
    [InlineData(null, null, "It does not say which program it runs.")]
    public void What_it_holds_says_which_revision_runs(string? said, bool? same, string say) =>
        Assert.Equal((same, say), BoxHolding.Against(said, BoxHolding.Of(14, "3FA9C2D1E07B00000000")));

    // ---- runs ----

    private static List<BoxRun> Runs(BoxRuns runs, params string[] lines)
    {
        var names = new BoxNames([], ["Drive"], ["Main", "Side"]);
        return [.. lines.Select(l => runs.Take(BoxLine.Read(l, names))).OfType<BoxRun>()];
    }

    [Fact]
    public void A_run_is_from_the_first_state_until_each_program_runs_no_more()
    {
        var runs = new BoxRuns();
        Assert.Empty(
            Runs(
                runs,
                "state 1000000 Main Ready",
                "state 1000000 Side Up",
                "state 4000000 Main Home",
                "stalls Drive",
                "stalls Drive",
                "gives up Drive",
                "state 4100000 Main -"
            )
        );
        Assert.True(runs.Going);
        var run = Assert.Single(Runs(runs, "state 4500000 Side -"));
        Assert.Equal((3.5, true, "Main: Home, Side: Up"), (run.Seconds, run.Whole, run.EndedIn));
        Assert.Equal(["Drive stalled (2 times)", "Drive gave up"], run.Happened);
        Assert.False(runs.Going);
        // What is said of a program that does not run is no run, and what stalls in between is nobody's.
        Assert.Empty(Runs(runs, "state 5000000 Main -", "stalls Drive"));
        run = Assert.Single(Runs(runs, "state 6000000 Main Ready", "state 7000000 Main -"));
        Assert.Equal((1.0, "Ready"), (run.Seconds, run.EndedIn));
        Assert.Empty(run.Happened);
    }

    [Fact]
    public void A_run_that_is_broken_off_says_why()
    {
        var runs = new BoxRuns();
        Runs(runs, "state 1000000 Main Ready", "state 2000000 Main Rolling");
        var run = runs.Break("the line broke")!;
        Assert.Equal((1.0, false, "Rolling"), (run.Seconds, run.Whole, run.EndedIn));
        Assert.Equal(["the line broke"], run.Happened);
        Assert.Null(runs.Break("again"));
        // It was switched off and on, or its clock went back.
        Assert.Equal(["the box was begun anew"], Assert.Single(Runs(runs, "state 3000000 Main Ready", "chiton 1 Rover")).Happened);
        var two = Runs(runs, "state 4000000 Main Ready", "state 10 Main Ready", "state 1000010 Main -");
        Assert.Equal([(0.0, false), (1.0, true)], two.Select(r => (r.Seconds, r.Whole)));
    }

    [Fact]
    public void One_that_was_under_way_already_is_not_taken_for_whole()
    {
        var runs = new BoxRuns { First = new BoxWatch(Rig).First };
        runs.Joined();
        var run = Assert.Single(Runs(runs, "state 1000000 Main Main.Rolling", "state 2000000 Main -"));
        Assert.False(run.Whole);
        Assert.Equal(["it was under way before it was heard of"], run.Happened);
        // From its first state it is; and so is one that began after another was heard to end, or was started from here.
        Assert.True(Assert.Single(Runs(runs, "state 3000000 Main Main.Rolling", "state 4000000 Main -")).Whole);
        runs.Joined();
        Assert.True(Assert.Single(Runs(runs, "state 5000000 Main Main.Ready", "state 6000000 Main -")).Whole);
        runs.Joined();
        runs.Starts();
        Assert.True(Assert.Single(Runs(runs, "state 7000000 Main Main.Rolling", "state 8000000 Main -")).Whole);
    }

    // ---- trials ----

    [Theory]
    [InlineData(TrialKind.Straight, 800, 1500, "do Drive drive 30 % 1500 wheel deg", BoxCounts.Nothing)]
    [InlineData(TrialKind.Straight, -800, -1500, "do Drive drive -30 % 1500 wheel deg", BoxCounts.Nothing)]
    [InlineData(TrialKind.Turn, -90, -180, "do Drive turn 30 % 180 wheel deg left spinning", BoxCounts.Nothing)]
    [InlineData(TrialKind.Pivot, 90, 360, "do Drive turn 30 % 360 wheel deg right pivoting", BoxCounts.Nothing)]
    [InlineData(TrialKind.Speed, 300, 40, "do Drive drive 40 %; do Drive stop", BoxCounts.Speed)]
    [InlineData(TrialKind.TimedTurn, 180, 1.5, "do Drive turn 50 % for 1.5 s right spinning", BoxCounts.Nothing)]
    [InlineData(TrialKind.Brake, 150, 150, "do Drive drive 150 mm/s; do Drive brake", BoxCounts.Nothing)]
    [InlineData(TrialKind.Coast, 150, 150, "do Drive drive 150 mm/s; do Drive coast", BoxCounts.Nothing)]
    public void Trials_are_told_in_the_languages_own_orders(TrialKind kind, double asked, double commanded, string told, BoxCounts counts)
    {
        var rig = Rig;
        var plan = Moves(rig).Plans.First(p => p.Kind == kind);
        var trial = BoxTrial.Of(rig, plan, asked, commanded);
        Assert.Equal((told, counts, "Drive", ""), (trial.Told, trial.Counts, trial.Device, trial.Why));
        Assert.Equal(["Left turns"], trial.Encoders);
        // What is told is read back as an order, whoever reads it.
        foreach (var step in trial.Steps.Where(s => s.Do is not null))
            Assert.Equal(step.Do, BoxLine.Read(step.Do!.ToString(), new([], ["Drive"], [])));
    }

    [Fact]
    public void A_square_is_four_sides_and_four_corners_and_what_cannot_be_told_says_why()
    {
        var rig = Rig;
        var plan = Moves(rig).Plans.First(p => p.Kind == TrialKind.Square);
        var square = BoxTrial.Of(rig, plan, -400, -720);
        Assert.Equal(8, square.Steps.Count);
        Assert.Equal("do Drive drive 30 % 400 mm", square.Steps[0].Do!.ToString());
        Assert.Equal("do Drive turn 30 % 180 wheel deg left spinning", square.Steps[7].Do!.ToString());
        foreach (var kind in Enum.GetValues<TrialKind>())
        {
            var made = BoxTrial.Of(rig, plan with { Kind = kind }, 1, 1);
            Assert.True(made.Steps.Count > 0 != (made.Why != ""), $"{kind}");
        }
    }

    [Fact]
    public void What_a_box_counts_is_worked_out_by_its_own_clock()
    {
        Assert.Equal(450, BoxTrial.Figure(BoxCounts.Speed, null, (10, 1_000_000), (-890, 3_000_000)));
        Assert.Null(BoxTrial.Figure(BoxCounts.Speed, null, (10, 3), (20, 3)));
        Assert.Equal(1, BoxTrial.Figure(BoxCounts.Moved, null, (10, 1), (12, 2)));
        Assert.Equal(0, BoxTrial.Figure(BoxCounts.Moved, null, (10, 1), (11, 2)));
        Assert.Null(BoxTrial.Figure(BoxCounts.Moved, null, null, (11, 2)));
        Assert.Equal(1.24, BoxTrial.Figure(BoxCounts.Seconds, 1.2351, null, null));
        Assert.Null(BoxTrial.Figure(BoxCounts.Nothing, 3, (1, 1), (2, 2)));
    }

    // ---- readings ----

    [Fact]
    public void The_clock_of_a_recording_says_how_fast_they_came_and_the_longest_gap()
    {
        Assert.Null(ReadingClock.Of([]));
        Assert.Equal("by the clock of the board", ReadingClock.Of([5])!.Say(10));
        var clock = ReadingClock.Of([0, 10_000, 20_000, 30_000, 90_000])!;
        Assert.Equal((0, 0.09, 10, 60), (clock.FromMicros, clock.Seconds, clock.EveryMs!.Value, clock.LongestMs!.Value));
        Assert.Equal("one every 10 ms by the clock of the board, once 60 ms apart", clock.Say(10));
        Assert.Equal("one every 15 ms by the clock of the board; the rig says 10 ms", ReadingClock.Of([0, 10_000, 30_000])!.Say(10));
    }

    [Theory]
    [InlineData("40 41 39 40 41 40 39 41 40", false)]
    // One odd reading is no change; three are.
    [InlineData("40 41 39 40 2 40 39 41 40", false)]
    [InlineData("40 41 39 40 2 3 2 41 40", true)]
    // Covered only a little it wanders.
    [InlineData("40 41 39 44 45 46 44 45 46", false)]
    [InlineData("40", false)]
    [InlineData("", false)]
    public void A_sensor_changes_when_it_is_more_than_what_wanders(string readings, bool changes)
    {
        var eye = new Sensor("Eye", SensorKind.ReflectedLight, 10, 1, ["a", "b"]);
        double[] all = [.. readings.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(double.Parse)];
        Assert.Equal(changes, ReadingChange.Found(eye, all, 3));
    }

    [Fact]
    public void A_switch_changes_when_it_was_down_and_up_and_a_colour_in_any_of_its_three()
    {
        var bumper = new Sensor("Bumper", SensorKind.Touch, 10, 0, ["up", "down"]);
        Assert.False(ReadingChange.Found(bumper, [1, 1, 1], 1));
        Assert.True(ReadingChange.Found(bumper, [0, 0, 1], 1));
        var colour = new Sensor("Colour", SensorKind.Colour, 10, 1, ["a", "b"]);
        double[] still = [.. Enumerable.Repeat(new double[] { 100, 120, 30 }, 6).SelectMany(x => x)];
        Assert.False(ReadingChange.Found(colour, still, 2));
        Assert.True(ReadingChange.Found(colour, [.. still[..9], 100, 120, 90, 100, 120, 90, 100, 120, 90], 2));
    }

    [Fact]
    public void What_came_from_a_box_is_said_in_words()
    {
        Assert.Equal("on the table", Units.Where("on the table", 0, 5));
        Assert.Equal("over the line, from a box", Units.Where("on the table", 5, 5));
        Assert.Equal("on the table, 2 of them over the line, from a box", Units.Where("on the table", 2, 5));
        var rig = Rig;
        var key = Moves(rig).Plans.First(p => p.Kind == TrialKind.Straight).Key;
        Trial[] trials = [.. Enumerable.Range(0, 4).Select(i => new Trial(800, 1500, 790 + i) { FromBox = i > 0 })];
        var moves = new CopyMoves(
            rig,
            null,
            new Dictionary<string, IReadOnlyList<Trial>> { [key] = trials },
            new Dictionary<string, AcceptedNumber>(),
            "on the table"
        );
        var plan = moves.Find(key)!;
        Assert.Equal("on the table, 3 of them over the line, from a box", plan.Where);
        Assert.Contains(plan.Where, moves.Fit(plan, 800).Number!.Source);
    }

    // ---- the stand-in ----

    private sealed class Table
    {
        public List<string> Said { get; } = [];
        public List<string> Seen { get; } = [];
        public BoxBench Box { get; }

        public Table(Func<int, IReadOnlyList<BoxBeat>>? run = null, ulong seed = 5)
        {
            var rig = Rig;
            Box = new(
                new(
                    rig,
                    Moves(rig),
                    null,
                    rig.Sensors.ToDictionary(
                        s => s.Name,
                        s => (IReadOnlyDictionary<string, BenchThing>)SampleBench.Things(s.Kind).ToDictionary(t => t.Name)
                    ),
                    new(3, "0123456789ab"),
                    seed
                )
                {
                    Run = run,
                },
                m => Said.Add(m.ToString()),
                Seen.Add
            );
        }

        public string[] Say(string line, long now = 0)
        {
            var before = Said.Count;
            Box.Take(BoxLine.Read(line, Box.Names), now);
            return [.. Said.Skip(before)];
        }

        public string[] Until(long now)
        {
            var before = Said.Count;
            // As its process does: from one thing to the next.
            while (Box.NextMicros <= now)
                Box.Until(Box.NextMicros);
            Box.Until(now);
            return [.. Said.Skip(before)];
        }
    }

    [Fact]
    public void It_says_who_it_is_reads_and_is_quiet_again()
    {
        var table = new Table();
        Assert.Equal(
            [
                "chiton 1 Rover stand-in",
                "have Range distance 30",
                "have Bumper touch 10",
                "have Left turns encoder 10",
                "holds 3-0123456789ab",
                "battery",
                "ok",
            ],
            table.Say("?").Select(l => l.StartsWith("battery ", StringComparison.Ordinal) ? "battery" : l)
        );
        Assert.Equal(["ok"], table.Say("? hold Range over board 300"));
        Assert.Equal(["ok"], table.Say("tell Range", 1_000));
        var readings = table.Until(300_999);
        Assert.Equal(10, readings.Length);
        Assert.All(readings, (r, i) => Assert.StartsWith($"r {1000 + 30_000 * i} Range ", r));
        Assert.InRange(readings.Average(r => double.Parse(r.Split(' ')[^1])), 280, 320);
        Assert.Equal(["ok"], table.Say("quiet Range", 301_000));
        Assert.Empty(table.Until(2_000_000));
        Assert.Equal(long.MaxValue, table.Box.NextMicros);
    }

    [Theory]
    [InlineData("tell Nose", "no I have no sensor Nose.")]
    [InlineData("do Tail run 3 %", "no I have no device Tail.")]
    [InlineData("do Range run 3 %", "no I have no device Range.")]
    [InlineData("hokus", "no No line begins so.")]
    [InlineData("r 5 Range 3", "no That is for a box to say.")]
    [InlineData("? weather", "no I know: there, holds, battery, start, stop, and hold SENSOR over THING.")]
    [InlineData("? start", "no No program can run on it.")]
    [InlineData("? hold Nose over x", "no Say hold, which sensor, over, and what.")]
    public void What_it_does_not_know_it_says(string line, string answer) => Assert.Equal([answer], new Table().Say(line));

    [Fact]
    public void It_moves_as_its_own_numbers_say_and_tells_what_is_seen_in_its_window_alone()
    {
        var table = new Table();
        Assert.Equal(["ok"], table.Say("do Drive drive 30 % 1500 wheel deg"));
        Assert.Equal(["done Drive"], table.Until(20_000_000));
        var went = Assert.Single(table.Seen);
        Assert.Matches(@"^Drive has gone \d+ mm\.$", went);
        // Its wheel is 3 to 7 % off the 60 mm of the design: nobody is told how much.
        Assert.InRange(double.Parse(went.Split(' ')[3]) / (1500 * Math.PI * 60 / 360), 0.92, 1.08);
        // The encoder of its motor counts what it turned, and stands when it stands.
        table.Say("tell Left turns", 20_000_000);
        var still = table.Until(20_050_000);
        Assert.Single(still.Select(r => r.Split(' ')[^1]).Distinct());
        table.Say("do Drive drive 40 %", 20_100_000);
        var moving = table
            .Until(22_100_000)
            .Where(r => r.StartsWith('r'))
            .Select(r => (Micros: long.Parse(r.Split(' ')[1]), Deg: double.Parse(r.Split(' ')[^1])))
            .ToArray();
        table.Say("do Drive stop", 22_100_000);
        var speed = BoxTrial
            .Figure(BoxCounts.Speed, null, (moving[^101].Deg, moving[^101].Micros), (moving[^1].Deg, moving[^1].Micros))!
            .Value;
        Assert.InRange(speed, 0.4 * 900 * 0.9, 0.4 * 900 * 1.1);
        var after = table.Until(22_300_000);
        Assert.Single(after.Skip(2).Select(r => r.Split(' ')[^1]).Distinct());
    }

    [Fact]
    public void Each_fault_is_noticed_by_who_watches()
    {
        foreach (var fault in Enum.GetValues<BoxFault>())
        {
            var table = new Table();
            table.Box.Fault = fault;
            var watch = new BoxWatch(Rig);
            table.Say("?");
            table.Say("? hold Range over board 300");
            table.Say("tell Range", 10_000_000);
            table.Until(20_000_000);
            if (fault == BoxFault.Stuck)
            {
                table.Say("do Drive drive 30 %", 20_000_000);
                Assert.Contains("stalls Drive", table.Until(21_000_000));
            }
            foreach (var line in table.Said)
                watch.Take(BoxLine.Read(line, watch.Names));
            var odd = fault switch
            {
                BoxFault.None or BoxFault.Stuck => watch.Complaints.Count == 0 && watch.Strange == 0,
                BoxFault.Back => watch.Complaints.Single().Say.Contains("went back", StringComparison.Ordinal),
                BoxFault.Names => watch.Complaints.Single().Say.Contains("“Other Range”", StringComparison.Ordinal),
                BoxFault.Range => watch.Complaints.Single().Say.Contains("it can give 0 to 4000", StringComparison.Ordinal),
                BoxFault.Revision => watch.Holds == "4-0123456789ab",
                BoxFault.Garbled => watch.Strange > 10,
                BoxFault.Silent => watch.Lines == 0,
                // A second after it was told, once: what was wanted is forgotten, and what it says then begins at 0.
                BoxFault.Anew => watch.Complaints.Count == 0
                    && table.Said.Count(l => l.StartsWith("chiton 1 ", StringComparison.Ordinal)) == 2
                    && table.Said.Count(l => l.StartsWith("r ", StringComparison.Ordinal)) is > 20 and < 60,
                _ => false,
            };
            Assert.True(odd, $"{fault}: {string.Join(' ', watch.Complaints.Select(c => c.Say))}");
        }
    }

    [Fact]
    public void Started_anew_its_clock_and_its_motors_begin_at_nothing_and_it_waits_to_be_told()
    {
        var table = new Table();
        table.Say("do Drive drive 30 %", 5_000_000);
        table.Box.Fault = BoxFault.Anew;
        table.Say("tell Range", 10_000_000);
        table.Until(11_500_000);
        Assert.Equal("It was started anew by itself.", table.Seen[^1]);
        table.Box.Fault = BoxFault.Back;
        Assert.DoesNotContain(table.Until(12_000_000), l => l.StartsWith("r ", StringComparison.Ordinal));
        table.Say("tell Range", 12_000_000);
        var times = table
            .Until(14_000_000)
            .Where(l => l.StartsWith("r ", StringComparison.Ordinal))
            .Select(l => long.Parse(l.Split(' ')[1]))
            .ToArray();
        Assert.True(times.Length > 20, $"{times.Length}");
        Assert.All(times, t => Assert.InRange(t, 0, 3_100_000));
    }

    [Fact]
    public void Looked_at_late_it_was_started_anew_in_time_all_the_same()
    {
        var table = new Table();
        table.Box.Fault = BoxFault.Anew;
        table.Say("do Drive drive 30 % for 1.2 s", 10_000_000);
        table.Box.Until(15_000_000);
        var said = table.Said.ToArray();
        Assert.DoesNotContain(said, l => l.StartsWith("done", StringComparison.Ordinal));
        Assert.Contains(said, l => l.StartsWith("chiton 1 ", StringComparison.Ordinal));
        // Told again it reads by a clock that began then.
        table.Box.Fault = BoxFault.None;
        table.Say("tell Range", 15_000_000);
        Assert.StartsWith("r 4000000 Range ", table.Until(15_000_000)[^1]);
    }

    [Fact]
    public void A_run_is_told_as_it_happens_and_can_be_stopped()
    {
        IReadOnlyList<BoxBeat> Run(int number) =>
            [
                new(0, new BoxState(0, "Main", "Main.Ready")),
                new(0, null, "Drive drive 30 %"),
                new(500_000, new BoxReading(500_000, "Range", [300 + number], null)),
                new(1_000_000, new BoxState(1_000_000, "Main", "Main.Rolling")),
                new(3_000_000, new BoxState(3_000_000, "Main", "Main.Home")),
                new(3_000_000, new BoxState(3_000_000, "Main", "-")),
            ];
        var table = new Table(Run);
        Assert.Equal(["ok"], table.Say("? start", 100));
        Assert.Equal(["no It runs already."], table.Say("? start", 200));
        Assert.Equal(
            ["state 100 Main Main.Ready", "state 1000100 Main Main.Rolling", "state 3000100 Main Main.Home", "state 3000100 Main -"],
            table.Until(5_000_000)
        );
        Assert.Equal(["Drive drive 30 %", "The run is over."], table.Seen);
        // In a run the bench says what is read, to who listens.
        table.Say("tell Range", 6_000_000);
        table.Say("? start", 6_000_000);
        Assert.Contains("r 6500000 Range 302", table.Until(6_600_000));
        Assert.Equal(["ok", "state 6700000 Main -"], table.Say("? stop", 6_700_000));
        // What it had still to say is said no more; now it reads by itself again.
        Assert.DoesNotContain(table.Until(12_000_000), l => l.StartsWith("state", StringComparison.Ordinal));
    }

    [Fact]
    public void A_hundred_thousand_mutilated_lines_never_end_a_box_and_each_is_answered()
    {
        var table = new Table(_ => []);
        var luck = new Random(9);
        string[] good =
        [
            "?",
            "? there",
            "? hold Range over board 300",
            "tell Range",
            "quiet Range",
            "do Drive drive 30 % 100 mm",
            "do Drive turn 30 % 90 robot deg left spinning",
            "? start",
            "? stop",
            "do Left wheel run -40 % for 1 s",
            "ok",
            "no why",
        ];
        long now = 0;
        for (var i = 0; i < 100_000; i++)
        {
            var line = good[luck.Next(good.Length)].ToCharArray().ToList();
            for (var k = luck.Next(4); k >= 0 && line.Count > 0; k--)
                switch (luck.Next(3))
                {
                    case 0:
                        line.RemoveAt(luck.Next(line.Count));
                        break;
                    case 1:
                        line[luck.Next(line.Count)] = (char)luck.Next(32, 900);
                        break;
                    default:
                        line.Insert(luck.Next(line.Count), "0123456789.e- %"[luck.Next(15)]);
                        break;
                }
            var message = BoxLine.Read(new(line.ToArray()), table.Box.Names);
            var before = table.Said.Count;
            table.Box.Take(message, now);
            // All but an answer is answered once; what belongs to it comes before.
            var answers = table.Said.Skip(before).Count(l => l == "ok" || l.StartsWith("no ", StringComparison.Ordinal));
            Assert.True(answers == (message is BoxOk or BoxNo ? 0 : 1), new(line.ToArray()));
            Assert.All(table.Said.Skip(before), l => Assert.True(l.Length <= BoxLine.Longest));
            table.Box.Until(now += 10_000);
            table.Said.Clear();
        }
    }
}
