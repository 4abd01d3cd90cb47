using System.Globalization;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Sensing;

namespace Chiton.Core.Tests.Programs;

/// <summary>Zones that a program teaches while it runs.</summary>
public class TeachingTests
{
    private static readonly ZoneScale Known = new(["dark", "grey", "light"], [new(30, 2), new(60, 2)], [20, 40, 80]);

    private static ZoneScale? Taught(params (string, double)[] shown) => Teaching.Scale(Known, shown);

    [Fact]
    public void One_zone_shown_moves_all_by_as_much()
    {
        var scale = Taught(("grey", 50))!;
        Assert.Equal(["dark", "grey", "light"], scale.Names);
        Assert.Equal([new Boundary(40, 2), new(70, 2)], scale.Boundaries);
        Assert.Equal([30, 50, 90], scale.Means);
    }

    [Fact]
    public void Between_two_that_were_shown_the_rest_keeps_its_relative_place()
    {
        // dark 20 → 10 and light 80 → 40: all ways are half as long, 40 lies at 20, thresholds 30 and 60 at 15 and 30.
        var scale = Taught(("dark", 10), ("light", 40))!;
        Assert.Equal([10, 20, 40], scale.Means);
        Assert.Equal([new Boundary(15, 2), new(30, 2)], scale.Boundaries);
        // Beyond them it keeps its distance.
        scale = Taught(("dark", 10), ("grey", 20))!;
        Assert.Equal([10, 20, 60], scale.Means);
        Assert.Equal([new Boundary(15, 2), new(40, 2)], scale.Boundaries);
    }

    [Fact]
    public void Zones_in_another_order_are_told_only_when_all_were_shown()
    {
        Assert.Null(Taught(("dark", 70), ("light", 30)));
        Assert.Null(Taught(("dark", 50), ("light", 50)));
        var scale = Taught(("dark", 70), ("grey", 50), ("light", 30))!;
        Assert.Equal(["light", "grey", "dark"], scale.Names);
        Assert.Equal([new Boundary(40, 2), new(60, 2)], scale.Boundaries);
    }

    [Fact]
    public void Nearer_than_their_bands_they_cannot_be_told()
    {
        // Half way between dark and grey lies the threshold; the band reaches 2 to both sides.
        Assert.NotNull(Taught(("dark", 20), ("grey", 24.1)));
        Assert.Null(Taught(("dark", 20), ("grey", 23.9)));
        Assert.Null(Taught(("dark", double.NaN)));
        // On either side alone: a threshold that lies near one of its zones leaves that one first.
        var low = new ZoneScale(["dark", "light"], [new(22, 2)], [20, 40]);
        Assert.NotNull(Teaching.Scale(low, [("dark", 20), ("light", 41)]));
        Assert.Null(Teaching.Scale(low, [("dark", 20), ("light", 36)]));
        var high = new ZoneScale(["dark", "light"], [new(38, 2)], [20, 40]);
        Assert.NotNull(Teaching.Scale(high, [("dark", 19), ("light", 40)]));
        Assert.Null(Teaching.Scale(high, [("dark", 24), ("light", 40)]));
    }

    [Fact]
    public void Nothing_measured_two_shown_zones_are_enough_and_one_is_not()
    {
        Assert.Null(Teaching.Scale(null, [("tag", 12)]));
        Assert.Null(Teaching.Scale(null, [("tag", 12), ("floor", 12)]));
        var scale = Teaching.Scale(null, [("tag", 12), ("floor", 52)])!;
        Assert.Equal(["tag", "floor"], scale.Names);
        Assert.Equal(new Boundary(32, 5), Assert.Single(scale.Boundaries));
        // A zone that was never measured joins those that were.
        Assert.Equal(["dark", "grey", "tag", "light"], Teaching.Scale(Known, [("tag", 60)])!.Names);
    }

    [Fact]
    public void What_nobody_measured_lies_between_the_thresholds()
    {
        Assert.Equal([15, 45, 75], new ZoneScale(["a", "b", "c"], [new(30, 1), new(60, 1)]).Means);
        Assert.Equal([22, 38], new ZoneScale(["a", "b"], [new(30, 2)]).Means);
        Assert.Equal([0], new ZoneScale(["a"], []).Means);
    }

    private static readonly Vocabulary Rig = new(
        [new("Eye", ["dark", "grey", "light"]) { Reads = Dimension.None, Teachable = true }, new("Colour eye", ["red", "blue"])],
        [],
        []
    );

    private static IReadOnlyList<WalkMoment> Walk(string body, ZoneScale? scale, params string[] events)
    {
        var parsed = ScriptParser.Parse("program T\n\nregion Main\n" + body, Rig);
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics));
        Assert.Equal(parsed.Program, ScriptParser.Parse(Printer.Print(parsed.Program), Rig).Program);
        var made = scale is null
            ? ScriptCompiler.Compile(parsed.Program, Rig)
            : ScriptCompiler.Compile(parsed.Program, Rig, new Dictionary<string, ZoneScale> { ["Eye"] = scale });
        return ScriptWalk.Run(
            made,
            [
                .. events.Select(e =>
                    e.StartsWith('+') ? new WalkEvent(null, null, double.Parse(e[1..], CultureInfo.InvariantCulture)) : new(e, null, 0)
                ),
            ]
        );
    }

    private static string[] States(IReadOnlyList<WalkMoment> walk) => [.. walk.Select(m => m.States[0][5..])];

    private const string Shown = """
          state Showing, initial
            after 1 s: teach Eye dark; go Second
          state Second
            after 1 s: teach Eye light; go Looking
          state Looking
            when Eye becomes dark: go Dark
            when Eye cannot tell: go Lost
          state Dark
            when Eye becomes light: go Looking
          state Lost
            when Eye is dark: go Dark
        """;

    [Fact]
    public void A_program_that_was_shown_two_zones_tells_them_by_a_threshold_with_hysteresis()
    {
        // 20 and 60 with nothing measured: 40, and a band of 5.
        var walk = Walk(
            Shown,
            null,
            "Eye reads 20",
            "+1000",
            "Eye reads 60",
            "+1000",
            "Eye reads 36",
            "Eye reads 34",
            "Eye reads 44",
            "Eye reads 46"
        );
        Assert.Equal(["Showing", "Showing", "Second", "Second", "Looking", "Looking", "Dark", "Dark", "Looking"], States(walk));
    }

    [Fact]
    public void What_cannot_be_told_apart_is_said_and_shown_anew_is_told_again()
    {
        Assert.Equal("Lost", States(Walk(Shown, null, "Eye reads 20", "+1000", "+1000"))[^1]);
        Assert.Equal("Lost", States(Walk(Shown, Known, "Eye reads 20", "+1000", "Eye reads 21", "+1000"))[^1]);
        // Unread it was shown nothing.
        Assert.Equal("Lost", States(Walk(Shown, Known, "+1000", "+1000"))[^1]);
        // In a walk without readings somebody says so, and an event of a zone ends it.
        var walk = Walk(Shown, null, "Eye reads 20", "+1000", "Eye reads 60", "+1000", "Eye cannot tell", "Eye is dark");
        Assert.Equal(["Looking", "Lost", "Dark"], States(walk)[^3..]);
    }

    [Fact]
    public void What_is_shown_is_that_zone_at_once_and_no_edge()
    {
        const string body = """
              state A, initial
                when Eye is light: teach Eye dark; go B
              state B
                when Eye becomes dark: go Wrong
                when Eye is dark: go Right
              state Wrong
              state Right
            """;
        Assert.Equal(["A", "A", "Right"], States(Walk(body, Known, "Eye reads 40", "Eye reads 80")));
    }

    [Fact]
    public void Shown_for_a_time_the_mean_counts_and_a_left_state_shows_nothing()
    {
        const string body = """
              state A, initial
                on entry: teach Eye dark for 1 s
                when all done: go B
                after 0.5 s if Eye is light: go C
              state B
                when Eye is dark: go D
              state C
                when Eye is dark: go D
              state D
            """;
        // The mean of 30 and 50 is dark: 28 lies 12 below, 62 above the moved threshold of 50.
        var walk = Walk(body, Known, "Eye reads 30", "+600", "Eye reads 50", "+400", "Eye reads 52.5", "Eye reads 51", "Eye reads 47");
        Assert.Equal(["A", "A", "A", "A", "D"], States(walk)[..5]);
        // Left before its time, light stays light.
        walk = Walk(body, Known, "Eye reads 80", "+600", "+600", "Eye reads 70");
        Assert.Equal(["A", "A", "C", "C", "C"], States(walk));
    }

    [Fact]
    public void It_begins_anew_with_each_run()
    {
        var parsed = ScriptParser.Parse("program T\n\nregion Main\n" + Shown, Rig);
        var machine = new ScriptMachine(ScriptCompiler.Compile(parsed.Program, Rig));
        for (var run = 0; run < 2; run++)
        {
            machine.Start();
            machine.Read(0, 20);
            machine.Pass(1_000_000);
            machine.Read(0, 60);
            machine.Pass(2_000_000);
            Assert.Equal(["Main.Looking"], machine.Configuration);
        }
        machine.Start();
        machine.Pass(1_000_000);
        machine.Read(0, 60);
        machine.Pass(2_000_000);
        Assert.Equal(["Main.Lost"], machine.Configuration);
    }

    [Theory]
    [InlineData("on entry: teach Colour eye red", "cannot be taught")]
    [InlineData("on entry: teach Eye red", "No zone “red” on Eye")]
    [InlineData("on entry: teach Eye dark for 5 mm", "a time")]
    [InlineData("while here: teach Eye dark", "on entry")]
    [InlineData("on exit: teach Eye dark for 1 s", "never begin")]
    public void What_makes_no_sense_is_said(string line, string message) =>
        Assert.Contains(
            message,
            Assert.Single(ScriptParser.Parse($"program T\n\nregion Main\n  state A, initial\n    {line}\n", Rig).Diagnostics).Message
        );
}
