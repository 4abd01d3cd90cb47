using Chiton.Core.Logbook;

namespace Chiton.Core.Tests.Logbook;

public class MatchPlanTests
{
    private static MissionInput Mission(
        string name,
        double points,
        int run,
        int reset,
        double success,
        int? tries = null,
        double? low = null,
        double? high = null
    ) => new(name, points, run, reset, success, tries, low, high);

    private static readonly MissionInput A = Mission("A", 20, 30, 10, 0.8),
        B = Mission("B", 30, 45, 10, 0.5);

    private static MatchPlanResult Plan(
        int limit,
        MissionInput[] missions,
        double penalty = 0,
        bool inOrder = false,
        string[]? own = null
    ) => MatchPlan.Compute(new(limit, missions, penalty, inOrder, own)).Result;

    [Fact]
    public void Two_missions_in_two_minutes_come_to_what_a_hand_calculation_gives()
    {
        var plan = Plan(120, [A, B], own: ["B", "A", "B", "A"]);
        Assert.Equal(31.84, plan.ExpectedPoints, 10);
        Assert.Equal(14.9337, plan.SdPoints, 4);
        Assert.Equal("A", plan.First);
        Assert.Equal(["A", "B"], plan.Order);
        Assert.Equal((31.0, 17.0), (Math.Round(plan.Own!.ExpectedPoints, 10), Math.Round(plan.Own.SdPoints, 1)));
        Assert.Equal(10.208, plan.OneMoreMinute, 10);
        Assert.False(plan.PolicyTruncated);
    }

    // The plainest way: every outcome of every choice, nothing kept, nothing shared with what is tested. Points to come from here, best
    // first by mean, and the whole distribution of what the best choice earns.
    private sealed class Brute(MissionInput[] missions, double penalty, bool inOrder)
    {
        public (double Mean, List<(double Chance, double Points)> Outcomes, int First) Best(int left, bool[] done, int?[] tries, int last)
        {
            var best = (Mean: 0.0, Outcomes: new List<(double, double)> { (1, 0) }, First: -1);
            for (var i = 0; i < missions.Length; i++)
            {
                if (!May(i, left, done, tries, last))
                    continue;
                var (mean, outcomes) = Try(
                    i,
                    left,
                    done,
                    tries,
                    last,
                    (l, d, t, k) => Best(l, d, t, k) is var b ? (b.Mean, b.Outcomes) : default
                );
                if (mean > best.Mean + 1e-9)
                    best = (mean, outcomes, i);
            }
            return best;
        }

        private bool May(int i, int left, bool[] done, int?[] tries, int last) =>
            !done[i] && tries[i] is null or > 0 && missions[i].RunS <= left && (!inOrder || i >= last) && !done[i];

        private (double, List<(double, double)>) Try(
            int i,
            int left,
            bool[] done,
            int?[] tries,
            int last,
            Func<int, bool[], int?[], int, (double, List<(double, double)>)> then
        )
        {
            var m = missions[i];
            var after = left - (int)m.RunS!.Value - (int)m.ResetS!.Value;
            int?[] fewer = [.. tries.Select((t, j) => j == i ? t - 1 : t)];
            bool[] more = [.. done.Select((d, j) => d || j == i)];
            var p = m.Success!.Value;
            var (won, wins) = then(after, more, fewer, i);
            var (lost, losses) = then(after, done, fewer, i);
            List<(double, double)> all =
            [
                .. wins.Select(o => (p * o.Item1, m.Points!.Value + o.Item2)),
                .. losses.Select(o => ((1 - p) * o.Item1, o.Item2 - penalty)),
            ];
            return (p * (m.Points!.Value + won) + (1 - p) * (lost - penalty), all);
        }

        public List<(double, double)> Own(int[] order, int at, int left, bool[] done, int?[] tries, int last)
        {
            while (at < order.Length && !May(order[at], left, done, tries, last))
                at++;
            return at == order.Length
                ? [(1, 0)]
                : Try(order[at], left, done, tries, last, (l, d, t, k) => (0, Own(order, at + 1, l, d, t, k))).Item2;
        }

        public (double Mean, List<(double, double)> Outcomes, int First) FromStart(int limit) =>
            Best(limit, new bool[missions.Length], [.. missions.Select(m => (int?)m.Tries)], 0);
    }

    private static (double Mean, double Sd) Of(IEnumerable<(double Chance, double Points)> outcomes)
    {
        var all = outcomes.ToArray();
        var mean = all.Sum(o => o.Chance * o.Points);
        return (mean, Math.Sqrt(Math.Max(0, all.Sum(o => o.Chance * (o.Points - mean) * (o.Points - mean)))));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Generated_plans_agree_with_looking_through_every_outcome(bool inOrder)
    {
        var random = new RandomStream(inOrder ? 41UL : 40, 1);
        int Whole(int from, int to) => from + (int)(random.Uniform() * (to - from + 1));
        var kinds = new HashSet<string>();
        for (var plan = 0; plan < 250; plan++)
        {
            var n = Whole(1, 5);
            MissionInput[] missions =
            [
                .. Enumerable
                    .Range(0, n)
                    .Select(i =>
                        Mission(
                            $"M{i}",
                            Whole(0, 12) * 2.5,
                            Whole(4, 20),
                            Whole(0, 9),
                            Whole(0, 20) / 20.0,
                            random.Uniform() < 0.5 ? Whole(1, 3) : null
                        )
                    ),
            ];
            var penalty = random.Uniform() < 0.5 ? 0 : Whole(1, 8);
            // Five tries or so: every outcome of every choice can be looked through.
            var limit = Math.Max(1, (int)(missions.Average(m => m.RunS!.Value + m.ResetS!.Value) * (n > 3 ? 3.5 : 5) * random.Uniform()));
            int[] own = [.. Enumerable.Range(0, Whole(1, 6)).Select(_ => Whole(0, n - 1))];
            var found = Plan(limit, missions, penalty, inOrder, [.. own.Select(i => $"M{i}")]);
            var brute = new Brute(missions, penalty, inOrder);
            var best = brute.FromStart(limit);
            Assert.Equal(best.Mean, found.ExpectedPoints, 1e-9);
            Assert.Equal(best.First < 0 ? null : $"M{best.First}", found.First);
            Assert.Equal(Of(best.Outcomes).Sd, found.SdPoints, 1e-5);
            var mine = Of(brute.Own(own, 0, limit, new bool[n], [.. missions.Select(m => (int?)m.Tries)], 0));
            Assert.Equal(mine.Mean, found.Own!.ExpectedPoints, 1e-9);
            Assert.Equal(mine.Sd, found.Own.SdPoints, 1e-5);
            Assert.True(found.Own.ExpectedPoints <= found.ExpectedPoints + 1e-9);
            foreach (var (m, i) in missions.Select((m, i) => (m, i)))
            {
                MissionInput[] better =
                [
                    .. missions.Select((o, j) => j == i ? o with { Success = Math.Min(1, o.Success!.Value + 0.1) } : o),
                ];
                Assert.Equal(new Brute(better, penalty, inOrder).FromStart(limit).Mean - best.Mean, found.Better[i].Gain, 1e-9);
            }
            kinds.Add($"{found.First is null} {penalty > 0} {missions.Any(m => m.Tries is not null)}");
        }
        // Plans that stop at once, with and without a penalty and limits, were among them.
        Assert.True(kinds.Count >= 7, string.Join('\n', kinds));
    }

    [Fact]
    public void A_minute_more_is_what_the_longer_match_brings()
    {
        foreach (var limit in new[] { 20, 60, 61, 119, 120, 121 })
            Assert.Equal(
                Plan(limit + 60, [A, B]).ExpectedPoints - Plan(limit, [A, B]).ExpectedPoints,
                Plan(limit, [A, B]).OneMoreMinute,
                10
            );
    }

    [Fact]
    public void The_policy_says_what_to_do_in_every_case_that_is_come_by()
    {
        var plan = Plan(120, [A, B with { Tries = 1 }], penalty: 2);
        // Played out by its rows alone, it earns what it promises.
        double Play(int left, string[] done, int triesB)
        {
            if (left <= 0)
                return 0;
            var row = plan.Policy.Single(r =>
                r.FromS <= left
                && left <= r.ToS
                && r.Done.SequenceEqual(done)
                && (done.Contains("B") || r.TriesLeft[1] == triesB)
                && r.TriesLeft[0] is null
            );
            if (row.Next is not { } next)
                return 0;
            var m = next == "A" ? A : B;
            var then = left - (int)(m.RunS + m.ResetS)!.Value;
            var fewer = next == "B" ? triesB - 1 : triesB;
            string[] more = [.. done.Append(next).Order()];
            return m.Success!.Value * (m.Points!.Value + Play(then, more, fewer)) + (1 - m.Success.Value) * (Play(then, done, fewer) - 2);
        }
        Assert.Equal(plan.ExpectedPoints, Play(120, [], 1), 9);
        Assert.Equal(1, plan.Policy[0].Likelihood);
        Assert.Equal((40, 120), (plan.Policy[0].FromS, plan.Policy[0].ToS));
        Assert.All(plan.Policy, r => Assert.InRange(r.Likelihood, 0, 1));
    }

    [Fact]
    public void Of_equals_stopping_comes_first_and_then_the_listed_order()
    {
        // Worth nothing: 0.5 × 4 − 0.5 × 4.
        var even = Plan(100, [Mission("Even", 4, 10, 0, 0.5)], penalty: 4);
        Assert.Equal((null, 0.0, 0.0), (even.First, even.ExpectedPoints, even.SdPoints));
        Assert.Equal(
            "Nothing is worth a try: what a failure costs is more than a success brings.",
            MatchPlan.Compute(new(100, [Mission("Even", 4, 10, 0, 0.5)], 4)).Cautions.Single()
        );
        MissionInput[] twins = [Mission("Second", 10, 10, 0, 0.5), Mission("First", 10, 10, 0, 0.5)];
        Assert.Equal("Second", Plan(10, twins).First);
        Assert.Equal(["Second", "First"], Plan(100, twins).Order);
    }

    [Fact]
    public void A_try_must_end_within_the_limit_and_its_reset_need_not()
    {
        Assert.Equal(16, Plan(30, [A]).ExpectedPoints, 10);
        Assert.Equal(0, Plan(29, [A]).ExpectedPoints);
        Assert.Equal(16, Plan(69, [A]).ExpectedPoints, 10);
        Assert.Equal(16 + 0.2 * 16, Plan(70, [A]).ExpectedPoints, 10);
        Assert.Contains("never fits", MatchPlan.Compute(new(29, [A])).Cautions[0]);
        // A mission that is done is done.
        Assert.Equal(20, Plan(1800, [A with { Success = 1 }]).ExpectedPoints, 10);
    }

    [Fact]
    public void In_a_fixed_order_what_was_passed_over_is_closed()
    {
        MissionInput[] two = [Mission("Low", 1, 10, 0, 1), Mission("High", 10, 10, 0, 1)];
        Assert.Equal(["High", "Low"], Plan(20, [two[1], two[0]]).Order);
        Assert.Equal(["Low", "High"], Plan(20, two, inOrder: true).Order);
        // With time for one alone the first is passed over.
        Assert.Equal(["High"], Plan(15, two, inOrder: true).Order);
        Assert.Equal(10, Plan(40, two, inOrder: true, own: ["High", "Low"]).Own!.ExpectedPoints);
        Assert.Equal(11, Plan(40, two, own: ["High", "Low"]).Own!.ExpectedPoints);
    }

    [Fact]
    public void What_is_not_known_well_is_told_with_how_far_the_answer_hangs_on_it()
    {
        var plan = MatchPlan.Compute(new(120, [A with { SuccessLow = 0.2, SuccessHigh = 0.95 }, B]));
        var hang = Assert.Single(plan.Result.HangsOn);
        Assert.Equal("A", hang.Name);
        Assert.Equal(Plan(120, [A with { Success = 0.2 }, B]).ExpectedPoints, hang.Low, 10);
        Assert.Equal(Plan(120, [A with { Success = 0.95 }, B]).ExpectedPoints, hang.High, 10);
        Assert.Contains(plan.Cautions, c => c.StartsWith("How often A succeeds is not known well", StringComparison.Ordinal));
        Assert.Empty(Plan(120, [A with { SuccessLow = 0.8, SuccessHigh = 0.8 }, B]).HangsOn);
    }

    [Fact]
    public void Ten_missions_without_limits_fill_the_table_and_many_rows_are_cut()
    {
        MissionInput[] ten = [.. Enumerable.Range(0, 10).Select(i => Mission($"M{i}", 5 + i, 21 + 7 * i, 3 + i, 0.35 + 0.05 * i))];
        var plan = Plan(MatchPlan.MostS, ten);
        Assert.True(plan.PolicyTruncated);
        Assert.Equal(200, plan.Policy.Count);
        // The same the plain way, remembered by what is done and the time left.
        var known = new Dictionary<(int Done, int Left), double>();
        double Best(int done, int left)
        {
            if (left <= 0)
                return 0;
            if (known.TryGetValue((done, left), out var worth))
                return worth;
            foreach (var (m, i) in ten.Select((m, i) => (m, i)))
                if ((done >> i & 1) == 0 && m.RunS <= left)
                {
                    var (p, then) = (m.Success!.Value, left - (int)(m.RunS + m.ResetS)!.Value);
                    worth = Math.Max(worth, p * (m.Points!.Value + Best(done | 1 << i, then)) + (1 - p) * Best(done, then));
                }
            return known[(done, left)] = worth;
        }
        Assert.Equal(Best(0, 500), Plan(500, ten).ExpectedPoints, 9);
        Assert.Equal(Best(0, MatchPlan.MostS), plan.ExpectedPoints, 9);
    }

    public static TheoryData<string, MatchPlanInput> Nonsense =>
        new()
        {
            { "limitS", new(null, [A]) },
            { "limitS", new(0, [A]) },
            { "limitS", new(1801, [A]) },
            { "limitS", new(60.5, [A]) },
            { "missions", new(60, null) },
            { "missions", new(60, []) },
            { "missions", new(60, [.. Enumerable.Range(0, 11).Select(i => A with { Name = $"{i}" })]) },
            { "missions[1]", new(60, [A, null]) },
            { "missions[0].name", new(60, [A with { Name = " " }]) },
            { "missions[1].name", new(60, [A, A]) },
            { "missions[0].points", new(60, [A with { Points = -1 }]) },
            { "missions[0].points", new(60, [A with { Points = double.NaN }]) },
            { "missions[0].runS", new(60, [A with { RunS = 0 }]) },
            { "missions[0].runS", new(60, [A with { RunS = 1.5 }]) },
            { "missions[0].resetS", new(60, [A with { ResetS = -1 }]) },
            { "missions[0].success", new(60, [A with { Success = 1.01 }]) },
            { "missions[0].success", new(60, [A with { Success = null }]) },
            { "missions[0].tries", new(60, [A with { Tries = 0 }]) },
            { "missions[0].successLow", new(60, [A with { SuccessLow = 0.81 }]) },
            { "missions[0].successHigh", new(60, [A with { SuccessHigh = 0.79 }]) },
            { "penaltyPerTouch", new(60, [A], -1) },
            { "penaltyPerTouch", new(60, [A], double.PositiveInfinity) },
            { "own", new(60, [A], Own: []) },
            { "own", new(60, [A], Own: [.. Enumerable.Repeat("A", 201)]) },
            { "own[1]", new(60, [A], Own: ["A", "C"]) },
            { "own[0]", new(60, [A], Own: [null]) },
            // Eleven doublings are over two million states at half an hour; so are very many tries.
            { "missions", new(1800, [.. Enumerable.Range(0, 10).Select(i => A with { Name = $"{i}", Tries = i == 0 ? 1 : null })]) },
            { "missions", new(60, [.. Enumerable.Range(0, 10).Select(i => A with { Name = $"{i}", Tries = 1000 })]) },
            { "missions", new(1, [.. Enumerable.Range(0, 5).Select(i => A with { Name = $"{i}", Tries = 14 })]) },
        };

    [Theory]
    [MemberData(nameof(Nonsense))]
    public void Nonsense_is_refused_by_name(string field, MatchPlanInput input)
    {
        var problem = Assert.Throws<InputProblem>(() => MatchPlan.Compute(input));
        Assert.Equal([field], problem.Errors.Keys);
        Assert.EndsWith(".", problem.Errors[field]);
    }
}
