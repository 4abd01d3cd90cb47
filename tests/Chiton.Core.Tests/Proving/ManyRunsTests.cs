namespace Chiton.Core.Tests.Proving;

public class ManyRunsTests
{
    private static FormulaBench Made() =>
        new(
            [
                DrawSpec.Of("braking", FormulaBench.Guess(850, 400)),
                new("start", "mm", Provenance.Chosen, "", 0, 0, 1, -9, 9),
                new("fixed", "mm", Provenance.Chosen, "", 5, 0, 0, -9, 9),
                DrawSpec.Of("eye", new(50, "%", Provenance.Measured, "", 1, 2) { Dof = 3 }),
            ],
            (d, w) => FormulaBench.Between(-1e9, (d[0] - 800) / 60 + 0.1 * d[1], 0, w[3])
        );

    private static RunLayout Layout(int runs, RunLayout.Kinds kind = RunLayout.Kinds.Copies, int first = 0) =>
        new(11, kind, runs) { First = first };

    [Fact]
    public void What_varies_is_written_down_run_by_run_and_what_does_not_is_not()
    {
        var done = ManyRuns.Run(Made(), Layout(80));
        Assert.Equal(["braking", "start", "eye", "how much eye varies"], done.Columns.Select(c => c.Name));
        Assert.Equal(["mm", "mm", "%", "times"], done.Columns.Select(c => c.Unit));
        Assert.All(done.Values, v => Assert.Equal(80, v.Length));
        // Of the copy in pairs, of the run one by one.
        Assert.Equal([40, 80, 40, 40], done.Values.Select(v => v.Distinct().Count()));
    }

    [Fact]
    public void It_is_the_same_on_any_number_of_threads()
    {
        var (one, many) = (ManyRuns.Run(Made(), Layout(300), threads: 1), ManyRuns.Run(Made(), Layout(300), threads: 8));
        Assert.Equal(one.Outcomes, many.Outcomes);
        Assert.Equal(one.Values.SelectMany(v => v), many.Values.SelectMany(v => v));
        Assert.NotEqual(one.Outcomes, ManyRuns.Run(Made(), new(12, RunLayout.Kinds.Copies, 300)).Outcomes);
    }

    [Fact]
    public void Runs_that_were_made_are_not_made_again()
    {
        var first = ManyRuns.Run(Made(), Layout(60));
        var made = 0;
        var more = ManyRuns.Run(Made(), Layout(100), (_, _) => Interlocked.Increment(ref made), from: first);
        Assert.Equal(40, made);
        var whole = ManyRuns.Run(Made(), Layout(100));
        Assert.Equal(whole.Outcomes, more.Outcomes);
        Assert.Equal(whole.Values.SelectMany(v => v), more.Values.SelectMany(v => v));
        // From 2 000 on the copies are shared in another way: nothing of the first fits but the first run itself.
        var many = ManyRuns.Run(Made(), Layout(2000), from: first);
        Assert.Equal(ManyRuns.Run(Made(), Layout(2000)).Outcomes, many.Outcomes);
    }

    [Fact]
    public void Single_runs_go_on_where_others_ended()
    {
        var whole = ManyRuns.Run(Made(), Layout(70, RunLayout.Kinds.Single));
        var joined = RunsDone.Joined(
            ManyRuns.Run(Made(), Layout(40, RunLayout.Kinds.Single)),
            ManyRuns.Run(Made(), Layout(64, RunLayout.Kinds.Single, 40)),
            30
        );
        Assert.Equal(whole.Outcomes, joined.Outcomes);
        Assert.Equal(whole.Values.SelectMany(v => v), joined.Values.SelectMany(v => v));
        Assert.Equal(70, joined.ByCopy().Length);
        Assert.All(joined.ByCopy(), c => Assert.Equal(1, c.Runs));
        // They are copies that no proof of the same seed has made.
        var proof = Enumerable.Range(0, 100).Select(c => Layout(200).CopySeed(c));
        var more = Layout(100, RunLayout.Kinds.Single, 100);
        Assert.Empty(proof.Intersect(Enumerable.Range(0, 100).Select(i => more.CopySeed(more.Copy(i)))));
    }

    [Fact]
    public void Stopped_it_keeps_what_is_done_without_a_gap()
    {
        using var stop = new CancellationTokenSource();
        var part = ManyRuns.Run(
            Made(),
            Layout(5000),
            (done, _) =>
            {
                if (done >= 200)
                    stop.Cancel();
            },
            cancel: stop.Token
        );
        Assert.InRange(part.Results.Count, 1, 4999);
        Assert.StartsWith(part.Outcomes, ManyRuns.Run(Made(), Layout(5000)).Outcomes);
        Assert.All(part.Values, v => Assert.Equal(part.Results.Count, v.Length));
    }

    [Fact]
    public void Enough_is_enough_but_never_a_gap()
    {
        var part = ManyRuns.Run(Made(), Layout(100), threads: 1, enough: n => n >= 40);
        Assert.Equal(40, part.Results.Count);
        Assert.Equal(20, part.ByCopy().Length);
    }

    [Theory]
    [InlineData(2)]
    [InlineData(5)]
    public void On_several_threads_enough_leaves_no_run_out_that_was_made(int threads)
    {
        for (var round = 0; round < 40; round++)
        {
            var made = 0;
            var part = ManyRuns.Run(Made(), Layout(400), (_, _) => Interlocked.Increment(ref made), threads, enough: n => n >= 40);
            Assert.Equal(made, part.Results.Count);
            Assert.InRange(made, 40, 40 + threads - 1);
        }
    }

    [Fact]
    public void The_gauge_stops_in_time_but_never_below_its_least_and_never_above_its_most()
    {
        Assert.Equal(Gauge.Runs, Gauge.Count(Made(), () => false).Results.Count);
        // At once over: what was begun by then is made, and nothing more.
        var cores = Environment.ProcessorCount;
        Assert.InRange(Gauge.Count(Made(), () => true).Results.Count, Gauge.Least, Gauge.Least + cores - 1);
        // The same runs as a proof of the same seed: what is counted more exactly later goes on from there.
        var whole = ManyRuns.Run(Made(), new(1, RunLayout.Kinds.Copies, 200));
        Assert.StartsWith(Gauge.Count(Made(), () => false).Outcomes, whole.Outcomes);
    }

    [Fact]
    public void A_fault_in_one_run_ends_the_others_and_is_told()
    {
        var bench = new FormulaBench(Made().Draws, (d, _) => d[1] > 0.5 ? throw new InvalidOperationException("broken") : 0.5);
        var made = 0;
        var fault = Assert.ThrowsAny<Exception>(() =>
            ManyRuns.Run(bench, Layout(100_000), (_, _) => Interlocked.Increment(ref made), threads: 3)
        );
        Assert.Contains("broken", fault.ToString());
        Assert.InRange(made, 0, 99_000);
    }

    [Fact]
    public void Nothing_at_all_is_a_range_of_everything()
    {
        var (low, high) = CopyRange.Of([new(1, 1, 1)]).Whole;
        Assert.InRange(low, 0, 0.1);
        Assert.Equal(1, high);
        var worst = CopyRange.Of([new(0, 2, 200)]).Whole;
        Assert.Equal(0, worst.Low);
        Assert.InRange(worst.High, 0.01, 0.04);
    }

    [Fact]
    public void What_a_range_rests_on_is_said()
    {
        var bench = Made();
        Assert.Equal(Provenance.Guessed, Prover.Rests(bench.Draws));
        Assert.Equal(Provenance.Measured, Prover.Rests(bench.Draws.Where(d => d.Kind == Provenance.Measured)));
        Assert.Null(Prover.Rests(bench.Draws.Where(d => d.Kind == Provenance.Chosen)));
    }

    [Fact]
    public void A_target_is_judged_run_by_run_in_order()
    {
        var plan = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(1100, 250, 20));
        var proved = Prover.Against(plan, 0.9, 2000, 3);
        var test = new Sequential(0.9);
        foreach (var result in proved.Runs.Results)
            test.Add(result.Passed);
        // Not one run more than it took.
        Assert.Equal((test.Runs, test.Passes), (proved.Proof.Runs, proved.Proof.Passes));
        Assert.Equal(test.Say, proved.Proof.Say);
        Assert.NotEqual(TargetVerdict.Open, proved.Proof.Target!.Verdict);
        Assert.Equal(proved.Proof.Runs, proved.Proof.Asked);
        Assert.Null(proved.Proof.Copy);
        Assert.Equal(proved.Proof.Runs, proved.Proof.Strokes.Select(s => s.CopySeed).Distinct().Count());
        // Too few allowed: it says that it is open.
        var few = Prover.Against(plan, 0.5, 3, 3);
        Assert.Equal((TargetVerdict.Open, 3, 3), (few.Proof.Target!.Verdict, few.Proof.Runs, few.Proof.Asked));
        Assert.Contains("not settled after 3 runs", few.Proof.Say);
    }
}
