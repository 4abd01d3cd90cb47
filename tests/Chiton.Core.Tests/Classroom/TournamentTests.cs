using Chiton.Core.Classroom;

namespace Chiton.Core.Tests.Classroom;

/// <summary>What happens in a tournament: scored, taken back, run again, withdrawn. Nothing of it is lost.</summary>
public class TournamentTests
{
    private static readonly string[] Names = ["Kelp", "Ebb", "Flood"];
    private static readonly Challenge Rules = ChallengeTests.Made(HeatScore.Points);

    // A tournament as judges write it: what cannot happen is refused, and adds nothing.
    private sealed class Sheets(params string[] names)
    {
        public List<HeatEvent> Events { get; } = [];
        public HeatsNow Now => Tournament.Of(Rules, 20, names.Length, Events);

        public long Add(HeatEvent e)
        {
            Tournament.Check(Rules, 20, names, Events, e);
            Events.Add(e with { Id = Events.Count + 1 });
            return Events.Count;
        }

        public long Score(Heat heat, double one, double other) =>
            Add(new(0, HeatEventKind.Scored, heat.First, heat.Second, new(true, one, 0, 0), new(true, other, 0, 0)));

        public string Refuses(HeatEvent e)
        {
            var before = Events.Count;
            var p = Assert.Throws<InputProblem>(() => Add(e));
            Assert.Equal(before, Events.Count);
            return string.Join(" ", p.Errors.Select(x => $"{x.Key}: {x.Value}"));
        }

        public string Table => string.Join(" ", Now.Table(Rules).Select(l => $"{names[l.Team]}:{l.Points}"));
    }

    private static HeatEvent Undo(long of) => new(0, HeatEventKind.Undone, Of: of);

    [Fact]
    public void Heats_are_scored_one_after_the_other_until_none_is_left()
    {
        var sheets = new Sheets(Names);
        Assert.Equal(sheets.Now.Heats[0], sheets.Now.Next);
        foreach (var heat in sheets.Now.Heats)
        {
            Assert.Equal(heat, sheets.Now.Next);
            sheets.Score(heat, heat.First == 0 ? 9 : 3, heat.Second == 0 ? 9 : 3);
        }
        Assert.Null(sheets.Now.Next);
        Assert.Equal("Kelp:4 Ebb:1 Flood:1", sheets.Table);
        Assert.Contains("scored already", sheets.Refuses(sheets.Events[0] with { Id = 0 }));
        Assert.Contains("There is no such heat.", sheets.Refuses(sheets.Events[0] with { First = 7 }));
    }

    [Fact]
    public void What_is_taken_back_keeps_its_trace_and_the_heat_is_free_again()
    {
        var sheets = new Sheets(Names);
        var heat = sheets.Now.Heats[0];
        var first = sheets.Score(heat, 1, 2);
        Assert.Contains("nothing of that number", sheets.Refuses(Undo(99)));
        sheets.Add(Undo(first));
        Assert.Empty(sheets.Now.Results);
        Assert.Equal(heat, sheets.Now.Next);
        Assert.Contains(first, sheets.Now.Undone);
        // Both stay written down; what is taken back is not taken back again.
        Assert.Equal(2, sheets.Events.Count);
        Assert.Contains("nothing of that number", sheets.Refuses(Undo(first)));
        Assert.Contains("nothing of that number", sheets.Refuses(Undo(2)));
        var second = sheets.Score(heat, 2, 1);
        Assert.Equal(second, sheets.Now.By[heat]);
        Assert.Equal(2, sheets.Now.Results[heat].First);
    }

    [Fact]
    public void A_rerun_is_counted_and_what_came_after_is_taken_back_first()
    {
        var sheets = new Sheets(Names);
        var heat = sheets.Now.Heats[0];
        HeatEvent again(int team) => new(0, HeatEventKind.Rerun, heat.First, heat.Second, Team: team);
        Assert.Contains("not scored yet", sheets.Refuses(again(heat.First)));
        var first = sheets.Score(heat, 1, 2);
        Assert.Contains("One of the two", sheets.Refuses(again(3 - heat.First - heat.Second)));
        var rerun = sheets.Add(again(heat.First));
        Assert.Empty(sheets.Now.Results);
        Assert.Equal(1, sheets.Now.Reruns[heat.First]);
        var second = sheets.Score(heat, 5, 2);
        Assert.Contains("has had 1 re-run", sheets.Refuses(again(heat.First)));
        Assert.Contains("came after it", sheets.Refuses(Undo(first)));
        Assert.Contains("came after it", sheets.Refuses(Undo(rerun)));
        // Back step by step: the first result counts again, and the re-run is free.
        sheets.Add(Undo(second));
        sheets.Add(Undo(rerun));
        Assert.Equal(first, sheets.Now.By[heat]);
        Assert.Equal(0, sheets.Now.Reruns[heat.First]);
        sheets.Add(again(heat.Second));
        Assert.Equal(1, sheets.Now.Reruns[heat.Second]);
    }

    [Fact]
    public void A_team_withdraws_its_heats_go_and_come_back_with_it()
    {
        var sheets = new Sheets(Names);
        foreach (var heat in sheets.Now.Heats)
            sheets.Score(heat, 3, 3);
        HeatEvent gone(int team) => new(0, HeatEventKind.Withdrew, Team: team);
        HeatEvent back(int team) => new(0, HeatEventKind.Returned, Team: team);
        Assert.Contains("has not withdrawn", sheets.Refuses(back(2)));
        Assert.Contains("no such team", sheets.Refuses(gone(3)));
        var left = sheets.Add(gone(2));
        Assert.Contains("has withdrawn already", sheets.Refuses(gone(2)));
        Assert.Equal("Kelp:1 Ebb:1", sheets.Table);
        Assert.Null(sheets.Now.Next);
        var meets = sheets.Now.Heats.First(h => h.First == 2 || h.Second == 2);
        Assert.Contains("Flood has withdrawn", sheets.Refuses(new(0, HeatEventKind.Rerun, meets.First, meets.Second, Team: meets.First)));
        sheets.Add(back(2));
        Assert.Equal("Kelp:2 Ebb:2 Flood:2", sheets.Table);
        Assert.Contains("came after it", sheets.Refuses(Undo(left)));
        sheets.Add(Undo(sheets.Events.Count));
        Assert.Equal("Kelp:1 Ebb:1", sheets.Table);
    }

    [Fact]
    public void Who_could_not_start_or_touched_too_often_loses()
    {
        var sheets = new Sheets(Names);
        var heats = sheets.Now.Heats;
        sheets.Add(new(0, HeatEventKind.Scored, heats[0].First, heats[0].Second, new(false, null, 0, 0), new(true, -50, 0, 0)));
        sheets.Add(new(0, HeatEventKind.Scored, heats[1].First, heats[1].Second, new(true, 90, 0, 3), new(true, 1, 0, 2)));
        Assert.Equal(-1, Heats.Winner(sheets.Now.Results[heats[0]], HeatScore.Points));
        // 1 point less two touches of 5.
        Assert.Equal((null, -9.0), (sheets.Now.Results[heats[1]].First, sheets.Now.Results[heats[1]].Second));
    }

    // Whatever judges press, in any order: what was refused changes nothing, what was taken is all there, and taking everything back
    // leaves an empty table.
    [Fact]
    public void Anything_in_any_order_can_be_taken_back_to_nothing()
    {
        var stream = new RandomStream(16, 3);
        int below(int n) => (int)(stream.Uniform() * n);
        for (var n = 0; n < 200; n++)
        {
            var teams = 2 + below(5);
            string[] names = [.. Enumerable.Range(0, teams).Select(i => $"Team {i}")];
            var sheets = new Sheets(names);
            for (var step = 0; step < 60; step++)
            {
                var heat = sheets.Now.Heats[below(sheets.Now.Heats.Count)];
                HeatEvent e = below(6) switch
                {
                    0 => new(0, HeatEventKind.Rerun, heat.First, heat.Second, Team: below(2) == 0 ? heat.First : heat.Second),
                    1 => new(0, HeatEventKind.Withdrew, Team: below(teams)),
                    2 => new(0, HeatEventKind.Returned, Team: below(teams)),
                    3 => Undo(1 + below(40)),
                    _ => new(0, HeatEventKind.Scored, heat.First, heat.Second, new(true, below(9), 0, below(4)), new(true, below(9), 0, 0)),
                };
                try
                {
                    sheets.Add(e);
                }
                catch (InputProblem) { }
                var table = sheets.Now.Table(Rules);
                Assert.Equal(teams - sheets.Now.Withdrawn.Count, table.Count);
                Assert.Equal(table.Sum(l => l.Played), 2 * table.Sum(l => l.Won) + table.Sum(l => l.Drawn));
                Assert.All(sheets.Now.Reruns, r => Assert.InRange(r, 0, Rules.Reruns));
            }
            for (var e = sheets.Events.Count; e > 0; e--)
                if (sheets.Events[e - 1].Kind != HeatEventKind.Undone && !sheets.Now.Undone.Contains(e))
                    sheets.Add(Undo(e));
            Assert.Empty(sheets.Now.Results);
            Assert.Empty(sheets.Now.Withdrawn);
            Assert.All(sheets.Now.Reruns, r => Assert.Equal(0, r));
        }
    }
}
