using Chiton.Core.Classroom;

namespace Chiton.Core.Tests.Classroom;

public class HeatsTests
{
    public static TheoryData<int> Sizes => [.. Enumerable.Range(Heats.Least, Heats.Most - Heats.Least + 1)];

    [Theory]
    [MemberData(nameof(Sizes))]
    public void Each_pair_meets_once_nobody_is_twice_in_a_round_and_byes_and_lanes_are_shared(int teams)
    {
        var heats = Heats.Schedule(teams);
        Assert.Equal(teams * (teams - 1) / 2, heats.Count);
        Assert.Equal(heats.Count, heats.Select(h => (Math.Min(h.First, h.Second), Math.Max(h.First, h.Second))).Distinct().Count());
        var rounds = heats.GroupBy(h => h.Round).ToArray();
        Assert.Equal(teams % 2 == 0 ? teams - 1 : teams, rounds.Length);
        foreach (var round in rounds)
        {
            var there = round.SelectMany(h => new[] { h.First, h.Second }).ToArray();
            Assert.Equal(there.Length, there.Distinct().Count());
            Assert.Equal(teams - teams % 2, there.Length);
        }
        var byes = rounds.Select(r => Heats.Bye(teams, r.Key, heats)).ToArray();
        if (teams % 2 == 0)
            Assert.All(byes, b => Assert.Null(b));
        else
            Assert.Equal(Enumerable.Range(0, teams), byes.Select(b => b!.Value).Order());
        // As often in one lane as in the other, but for the odd one.
        foreach (var team in Enumerable.Range(0, teams))
            Assert.InRange(heats.Count(h => h.First == team) - heats.Count(h => h.Second == team), -1, 1);
    }

    [Fact]
    public void Fewer_than_two_and_more_than_sixteen_are_refused()
    {
        Assert.Throws<ArgumentOutOfRangeException>(() => Heats.Schedule(1));
        Assert.Throws<ArgumentOutOfRangeException>(() => Heats.Schedule(17));
    }

    private static HeatResult Of(int first, int second, double? a, double? b) => new(new(0, first, second), a, b);

    private static string Places(IEnumerable<HeatLine> table) => string.Join(" ", table.Select(l => $"{l.Team}:{l.Place}"));

    [Fact]
    public void What_wins_depends_on_what_is_scored_and_who_cannot_start_loses()
    {
        Assert.Equal(1, Heats.Winner(Of(0, 1, 9, 12), HeatScore.Time));
        foreach (var by in new[] { HeatScore.Points, HeatScore.Distance, HeatScore.Stays })
            Assert.Equal(-1, Heats.Winner(Of(0, 1, 9, 12), by));
        foreach (var by in Enum.GetValues<HeatScore>())
        {
            Assert.Equal(0, Heats.Winner(Of(0, 1, 5, 5), by));
            Assert.Equal(0, Heats.Winner(Of(0, 1, null, null), by));
            Assert.Equal(1, Heats.Winner(Of(0, 1, 0, null), by));
            Assert.Equal(-1, Heats.Winner(Of(0, 1, null, 0), by));
        }
    }

    [Fact]
    public void Ties_are_parted_in_the_stated_order_and_what_nothing_parts_is_shared()
    {
        // By hand: 0 beats 1, 1 beats 2, 2 beats 3, 3 draws with 0, 0 beats 2, 1 beats 3. Points: 0 has 5, 1 has 4, 2 has 2, 3 has 1.
        HeatResult[] clear = [Of(0, 1, 3, 1), Of(1, 2, 3, 1), Of(2, 3, 3, 1), Of(3, 0, 2, 2), Of(0, 2, 3, 1), Of(1, 3, 3, 1)];
        var table = Heats.Table(4, clear, HeatScore.Points);
        Assert.Equal("0:1 1:2 2:3 3:4", Places(table));
        Assert.Equal([5, 4, 2, 1], table.Select(l => l.Points));
        Assert.Equal((3, 2, 1), (table[0].Played, table[0].Won, table[0].Drawn));
        // Two of equal points: who won between them goes first, whatever else they scored.
        HeatResult[] pairs = [Of(0, 1, 5, 6), Of(0, 2, 90, 1), Of(0, 3, 90, 1), Of(1, 2, 3, 2), Of(1, 3, 2, 3), Of(2, 3, 4, 1)];
        Assert.Equal("1:1 0:2 2:3 3:4", Places(Heats.Table(4, pairs, HeatScore.Points)));
        // A ring of three: the best score parts them, then all scores together.
        Assert.Equal("2:1 0:2 1:3", Places(Heats.Table(3, [Of(0, 1, 4, 3), Of(1, 2, 2, 1), Of(2, 0, 9, 5)], HeatScore.Points)));
        Assert.Equal("0:1 1:2 2:3", Places(Heats.Table(3, [Of(0, 1, 9, 7), Of(1, 2, 9, 2), Of(2, 0, 9, 8)], HeatScore.Points)));
        // By time the least is best.
        Assert.Equal("2:1 0:2 1:3", Places(Heats.Table(3, [Of(0, 1, 4, 5), Of(1, 2, 6, 7), Of(2, 0, 3, 8)], HeatScore.Time)));
        // Nothing parts those who did the same: they share the place, and the next is left out.
        Assert.Equal("0:1 1:1 2:3", Places(Heats.Table(3, [Of(0, 1, 2, 2), Of(0, 2, 2, 1), Of(1, 2, 2, 1)], HeatScore.Points)));
        Assert.All(Heats.Table(5, [], HeatScore.Time), l => Assert.Equal((1, 0, null), (l.Place, l.Points, l.Best)));
    }

    [Fact]
    public void A_result_that_is_given_anew_takes_the_place_of_the_one_before_in_whichever_lanes()
    {
        var table = Heats.Table(2, [Of(0, 1, 3, 1), Of(1, 0, 4, 2)], HeatScore.Points);
        Assert.Equal((1, 1, 1), (table[0].Team, table[0].Played, table[0].Won));
    }

    [Fact]
    public void A_team_that_withdraws_is_taken_out_for_all()
    {
        HeatResult[] results = [Of(0, 1, 3, 1), Of(1, 2, 3, 1), Of(2, 0, 3, 1)];
        Assert.Equal([2, 2, 2], Heats.Table(3, results, HeatScore.Points).Select(l => l.Points));
        var left = Heats.Table(3, results, HeatScore.Points, new HashSet<int> { 2 });
        Assert.Equal("0:1 1:2", Places(left));
        Assert.Equal([2, 0], left.Select(l => l.Points));
        Assert.Empty(Heats.Table(2, [Of(0, 1, 1, 2)], HeatScore.Points, new HashSet<int> { 0, 1 }));
    }

    private static double[][] Chances(
        IReadOnlyList<IReadOnlyList<double?>> runs,
        IReadOnlyList<HeatResult> held,
        HeatScore by,
        int times,
        ulong seed,
        IReadOnlySet<int>? withdrawn = null,
        double within = 0,
        CancellationToken cancel = default
    )
    {
        var said = new ContestRuns(runs, [], [.. runs.Select(_ => "")]);
        return Heats.Chances(runs.Count, held, by, said.Draw, times, seed, withdrawn, within, cancel);
    }

    [Fact]
    public void Scores_that_are_near_enough_are_a_draw()
    {
        Assert.Equal(0, Heats.Winner(Of(0, 1, 10.1, 10.3), HeatScore.Time, 0.2));
        Assert.Equal(1, Heats.Winner(Of(0, 1, 10.1, 10.31), HeatScore.Time, 0.2));
        Assert.Equal(-1, Heats.Winner(Of(0, 1, null, 10.3), HeatScore.Time, 100));
        Assert.Equal([1, 1], Heats.Table(2, [Of(0, 1, 10, 12)], HeatScore.Points, null, 2).Select(l => l.Points));
        Assert.Equal([2, 0], Heats.Table(2, [Of(0, 1, 10, 12)], HeatScore.Points, null, 1).Select(l => l.Points));
        // The heats of those who are tied are looked at in the same way: here nothing but the best score parts them.
        Assert.Equal("1:1 0:2", Places(Heats.Table(2, [Of(0, 1, 10, 12)], HeatScore.Points, null, 2)));
    }

    [Fact]
    public void Who_withdrew_has_no_chance_and_takes_no_place()
    {
        double?[] strong = [10],
            weak = [1];
        var left = Chances([strong, weak, weak], [], HeatScore.Points, 200, 7, new HashSet<int> { 0 });
        Assert.Equal([0, 0, 0], left[0]);
        Assert.Equal([0.5, 0.5, 0], left[1]);
        Assert.Equal(left[1], left[2]);
        // Near enough is a draw here too; the better score parts them then.
        Assert.Equal(
            [1, 0],
            Chances(
                [
                    [10],
                    [10.5],
                ],
                [],
                HeatScore.Time,
                50,
                8,
                null,
                1
            )[0]
        );
        Assert.Equal(
            [0.5, 0.5],
            Chances(
                [
                    [10],
                    [10],
                ],
                [],
                HeatScore.Time,
                50,
                8
            )[0]
        );
    }

    [Fact]
    public void Chances_are_those_of_the_runs_and_what_was_held_counts_as_it_is()
    {
        double?[] strong = [10],
            weak = [1],
            half = [10, 1];
        // A machine that always scores more always wins.
        var sure = Chances([strong, weak], [], HeatScore.Points, 100, 1);
        Assert.Equal([1, 0], sure[0]);
        Assert.Equal([0, 1], sure[1]);
        // By hand: one that scores 10 half the time draws with the sure one then and loses otherwise: the draw shares the first place.
        var even = Chances([strong, half], [], HeatScore.Points, 20_000, 2);
        Assert.Equal(0.75, even[0][0], 0.02);
        Assert.Equal(0.25, even[1][0], 0.02);
        // Six alike: every place is as likely for each, and the parts of a team make one.
        var six = Chances([.. Enumerable.Range(0, 6).Select(_ => (IReadOnlyList<double?>)half)], [], HeatScore.Points, 4_000, 3);
        foreach (var team in six)
        {
            Assert.Equal(1, team.Sum(), 9);
            Assert.All(team, p => Assert.Equal(1 / 6.0, p, 0.03));
        }
        for (var place = 0; place < 6; place++)
            Assert.Equal(1, six.Sum(t => t[place]), 9);
        // The weak one won already: of two teams the strong one cannot be first any more.
        Assert.Equal([0, 1], Chances([strong, weak], [Of(0, 1, 0, 5)], HeatScore.Points, 50, 4)[0]);
        // The same seed is the same tournament; one that cannot start loses.
        Assert.Equal(even[0], Chances([strong, half], [], HeatScore.Points, 20_000, 2)[0]);
        Assert.Equal([1, 0], Chances([weak, new double?[] { null }], [], HeatScore.Time, 10, 5)[0]);
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() => Chances([strong, weak], [], HeatScore.Points, 10, 6, cancel: stop.Token));
    }
}
