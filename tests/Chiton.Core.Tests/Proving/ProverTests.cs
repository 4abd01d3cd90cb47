namespace Chiton.Core.Tests.Proving;

public class ProverTests
{
    [Fact]
    public void Failures_are_grouped_and_their_seed_replays_them()
    {
        var setup = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(1100, 250, 20));
        var proof = Prover.Run(setup, 200, 3).Proof;
        Assert.InRange(proof.Passes, 5, 195);
        Assert.Equal(200 - proof.Passes, proof.Failures.Sum(f => f.Count));
        Assert.Equal(proof.Failures.Select(f => f.Count).OrderDescending(), proof.Failures.Select(f => f.Count));
        foreach (var group in proof.Failures)
        {
            var replay = BenchReport.Watch(setup, group.Seed, copySeed: group.CopySeed);
            Assert.False(replay.Passed);
            Assert.Equal(group.Ended, replay.Failure!.Where);
            Assert.Equal(group.LastTransition, replay.Failure.LastTransition);
            Assert.Equal(group.Seed, proof.Strokes[group.Run - 1].Seed);
        }
        Assert.Equal(SuccessRate.Wilson(proof.Passes, 200), (proof.Low, proof.High));
    }

    [Fact]
    public void Stopping_counts_the_runs_done_without_a_gap()
    {
        var setup = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(1100, 250, 20));
        var whole = Prover.Run(setup, 400, 3).Proof;
        using var stop = new CancellationTokenSource();
        var part = Prover
            .Run(
                setup,
                400,
                3,
                (done, _) =>
                {
                    if (done >= 60)
                        stop.Cancel();
                },
                cancel: stop.Token
            )
            .Proof;
        Assert.InRange(part.Runs, 1, 399);
        Assert.Equal(whole.Strokes.Take(part.Runs).Select(s => (s.Seed, s.Passed)), part.Strokes.Select(s => (s.Seed, s.Passed)));
        Assert.Equal(400, part.Asked);
    }

    [Fact]
    public void Progress_ends_at_all()
    {
        var most = 0;
        Prover.Run(FarmBench.Setup(FarmBench.StopAtSecond), 50, 1, (done, _) => InterlockedMax(ref most, done));
        Assert.Equal(50 + Prover.Beside(new PlanProved(FarmBench.Setup(FarmBench.StopAtSecond)), 50), most);
    }

    private static void InterlockedMax(ref int target, int value)
    {
        int seen;
        while (value > (seen = Volatile.Read(ref target)) && Interlocked.CompareExchange(ref target, value, seen) != seen) { }
    }
}
