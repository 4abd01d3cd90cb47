using Chiton.Core.Logbook;
using Chiton.Core.Proving;
using Chiton.Core.Tests.Proving;

namespace Chiton.Core.Tests.Logbook;

/// <summary>Whether what trials teach is true: held against copies whose rate is known.</summary>
public class RealityTests(ITestOutputHelper output)
{
    private const int Copies = 300;

    private static readonly Func<int, int, HiddenCopies.Hidden>[] Benches =
    [
        HiddenCopies.Noticing,
        HiddenCopies.Stopping,
        HiddenCopies.Turning,
    ];

    private static RealRun[] Trials(double rate, int count, int copy, uint salt = 78)
    {
        var luck = new RandomStream((ulong)copy, salt);
        var trials = new RealRun[count];
        for (var i = 0; i < count; i++)
            trials[i] = new(luck.Uniform() < rate);
        return trials;
    }

    private static IEnumerable<(HiddenCopies.Hidden Hidden, RunsDone Proof, int Copy)> Made(Func<int, int, HiddenCopies.Hidden> make) =>
        Enumerable
            .Range(0, Copies)
            .Select(copy =>
            {
                var hidden = make(5, 5000 + copy);
                return (hidden, ManyRuns.Run(hidden.Bench, new(copy, RunLayout.Kinds.Copies, 200), threads: 1), copy);
            });

    private static Learnt Learn(HiddenCopies.Hidden hidden, RunsDone proof, RealRun[] trials, bool next = false) =>
        Reality.Learn(hidden.Bench.Draws, proof, null, trials, next);

    [Fact]
    public void After_ten_trials_the_range_is_narrower_and_still_holds_the_true_rate()
    {
        foreach (var make in Benches)
        {
            var (before, after, held, called) = (0.0, 0.0, 0, 0);
            foreach (var (hidden, proof, copy) in Made(make))
            {
                var learnt = Learn(hidden, proof, Trials(hidden.Rate, 10, copy));
                before += learnt.Before.High - learnt.Before.Low;
                after += learnt.After.High - learnt.After.Low;
                held += hidden.Rate >= learnt.After.Low && hidden.Rate <= learnt.After.High ? 1 : 0;
                called += Learn(hidden, proof, Trials(hidden.Rate, 20, copy, 79)).Called is null ? 0 : 1;
            }
            output.WriteLine($"{make.Method.Name}: {before / Copies:0.000} to {after / Copies:0.000}, held {held}, called out {called}");
            Assert.True(after < 0.95 * before, make.Method.Name);
            Assert.InRange(held, 0.84 * Copies, Copies);
            // With nothing off at most one in twenty is called out.
            Assert.InRange(called, 0, Copies / 20);
        }
    }

    [Fact]
    public void A_copy_that_is_far_from_its_claim_is_called_out_within_twenty_trials()
    {
        var (off, called, worse, better) = (0, 0, 0, 0);
        foreach (var make in Benches)
        foreach (var (hidden, proof, copy) in Made(make))
        {
            var (low, high) = CopyRange.Of(RunsDone.Merged(proof.ByCopy())).Whole;
            if (high - low > 0.5)
                continue;
            // What it really does lies a fifth or more outside of what may be, at either end.
            var far = new RandomStream((ulong)copy, 81);
            double[] ends = [(low - 0.2) * far.Uniform(), 1 - (0.8 - high) * far.Uniform()];
            foreach (var rate in ends.Where(r => r is >= 0 and <= 1 && (r <= low - 0.2 || r >= high + 0.2)))
            {
                off++;
                var learnt = Learn(hidden, proof, Trials(rate, 20, copy, 80));
                if (learnt.Called is not { } call)
                    continue;
                called++;
                (worse, better) = call.Worse ? (worse + 1, better) : (worse, better + 1);
                Assert.Equal(rate < low, call.Worse);
                Assert.InRange(call.Trials, Reality.FirstCall, Reality.LastCall);
                Assert.Empty(learnt.Numbers);
                // What to measure next is not said of a copy that is called out, though it was asked for.
                Assert.Null(Learn(hidden, proof, Trials(rate, 20, copy, 80), next: true).Next);
            }
        }
        output.WriteLine($"{called} of {off} called out: {worse} worse, {better} better");
        Assert.True(off >= 100, $"{off}");
        Assert.InRange(called, off / 2, off);
        Assert.True(worse > 10 && better > 10);
    }

    // Braking is a guess, and nothing else is in doubt: it passes where braking lies near 850.
    private static readonly FormulaBench Braking = new(
        [DrawSpec.Of("braking", FormulaBench.Guess(850, 1200)), DrawSpec.Of("paint", FormulaBench.Guess(5, 2))],
        (d, _) => d[0] is > 700 and < 1000 ? 0.95 : 0.1
    );

    private static RunsDone Proof(FormulaBench bench, int runs = 2000, long seed = 3) =>
        ManyRuns.Run(bench, new(seed, RunLayout.Kinds.Copies, runs), threads: 1);

    [Fact]
    public void A_number_that_matters_is_narrowed_by_trials_and_one_that_does_not_is_not()
    {
        var learnt = Reality.Learn(Braking.Draws, Proof(Braking), null, [.. Enumerable.Repeat(new RealRun(true), 7)]);
        output.WriteLine(
            $"{learnt.Effective} {learnt.Called} {learnt.Promised} {string.Join(" ", learnt.Numbers)} {learnt.Before} {learnt.After}"
        );
        Assert.True(learnt.Enough, $"{learnt.Effective}");
        var number = Assert.Single(learnt.Numbers);
        Assert.Equal("braking", number.Name);
        Assert.InRange(number.Value, 800, 900);
        Assert.True(number.Sd < 0.7 * number.WasSd);
        Assert.EndsWith("mm: guessed, then narrowed by 7 trials.", number.Say);
        // Seven passes: what is left to measure buys less than before.
        var before = Reality.Learn(Braking.Draws, Proof(Braking), null, []);
        Assert.Equal(before.Before, before.After);
        Assert.True(learnt.After.High - learnt.After.Low < 0.6 * (before.Before.High - before.Before.Low));
    }

    [Fact]
    public void The_weights_are_those_of_Bayes_by_hand()
    {
        // Two kinds of copies, half of each: with so sharp a bench the chance of 3 passes is p³, whichever Beta stands before it.
        var sharp = new FormulaBench([DrawSpec.Of("side", FormulaBench.Guess(0, 400))], (d, _) => d[0] < 0 ? 0.9 : 0.2);
        var proof = ManyRuns.Run(sharp, new(11, RunLayout.Kinds.Copies, 10_000), threads: 1);
        var learnt = Reality.Learn(sharp.Draws, proof, null, [new(true), new(true), new(true)]);
        var side = learnt.Numbers.Single();
        // Mean of the half below 0 and of the half above, weighed 0.729 to 0.008.
        var values = MadeCopies.Of(proof).Values[0];
        double Half(bool below) => values.Where(v => v < 0 == below).Average();
        double below = 0.729 * values.Count(v => v < 0),
            above = 0.008 * values.Count(v => v >= 0);
        Assert.Equal((below * Half(true) + above * Half(false)) / (below + above), side.Value, 4.0);
        Assert.InRange(learnt.After.Low, 0.45, 0.9);
    }

    [Fact]
    public void Times_by_a_stopwatch_tell_copies_apart_that_pass_as_often()
    {
        var bench = new TimedBench();
        var proof = ManyRuns.Run(bench, new(5, RunLayout.Kinds.Copies, 2000), threads: 1);
        var more = ManyRuns.Run(bench, new(5, RunLayout.Kinds.Single, 1000) { First = 200 }, threads: 1);
        RealRun[] timed = [.. Enumerable.Range(0, 8).Select(i => new RealRun(true, 11 + 0.1 * (i % 3)))];
        var learnt = Reality.Learn(bench.Draws, proof, more, timed);
        var speed = learnt.Numbers.Single();
        // 100 / speed is 11.1 s on a copy of 9.
        Assert.InRange(speed.Value, 8.9, 9.2);
        Assert.True(speed.Sd < 0.4 * speed.WasSd);
        Assert.Null(learnt.Times);
        Assert.Empty(Reality.Learn(bench.Draws, proof, more, [.. timed.Select(t => t with { TimeS = null })]).Numbers);
        // A time that no copy takes is said, and nothing is learnt from it.
        var odd = Reality.Learn(bench.Draws, proof, more, [.. timed.Select(t => t with { TimeS = 25 })]);
        Assert.Contains("25 s here and", odd.Times);
        Assert.Empty(odd.Numbers);
    }

    // It always passes, and takes 100 over its speed, give or take.
    private sealed class TimedBench : IProvable
    {
        public IReadOnlyList<DrawSpec> Draws { get; } = [DrawSpec.Of("speed", FormulaBench.Guess(10, 6))];

        public IProvableRun Begin() => new Run([.. Draws]);

        private sealed class Run(DrawSpec[] draws) : IProvableRun
        {
            private readonly double[] drawn = new double[1],
                wide = new double[1];

            public BenchResult Go(long seed, long copy, CancellationToken cancel)
            {
                Chiton.Core.Simulation.Draws.All(draws, (ulong)seed, (ulong)copy, drawn, wide);
                var s = 100 / drawn[0] + 0.1 * new RandomStream((ulong)seed, 7).Normal();
                return new(RunEnding.Passed, -1, 0, -1, (long)(s * 1e6), 0, "");
            }

            public ReadOnlySpan<double> Drawn => drawn;

            public ReadOnlySpan<double> Wide => wide;
        }
    }

    [Fact]
    public void A_number_off_its_claim_is_named_where_it_would_explain_what_happened()
    {
        // The guess says that nearly every copy passes; this one hardly does.
        var bench = new FormulaBench(
            [DrawSpec.Of("braking", FormulaBench.Guess(850, 1200)), DrawSpec.Of("paint", FormulaBench.Guess(5, 2))],
            (d, _) => d[0] > 500 ? 0.98 : 0.05
        );
        var more = ManyRuns.Run(bench, new(3, RunLayout.Kinds.Single, 1000) { First = 200 }, threads: 1);
        var learnt = Reality.Learn(bench.Draws, Proof(bench), more, [.. Enumerable.Range(0, 12).Select(i => new RealRun(i == 0))]);
        Assert.NotNull(learnt.Called);
        Assert.False(learnt.AsPromised);
        var braking = Assert.Single(learnt.Explaining);
        Assert.Equal("braking", braking.Name);
        Assert.InRange(braking.Value, 250, 650);
        Assert.EndsWith("mm; it is a guess.", braking.Say);
        Assert.Empty(learnt.Numbers);
    }

    [Fact]
    public void Too_few_copies_that_still_count_say_nothing_of_single_numbers()
    {
        var few = Reality.Learn(Braking.Draws, Proof(Braking, 60), null, [.. Enumerable.Repeat(new RealRun(true), 7)]);
        Assert.False(few.Enough);
        Assert.Empty(few.Numbers);
        Assert.Null(few.Next);
        // More copies, one run each, are enough to speak.
        var more = ManyRuns.Run(Braking, new(3, RunLayout.Kinds.Single, 1000) { First = 30 }, threads: 1);
        var many = Reality.Learn(Braking.Draws, Proof(Braking, 60), more, [.. Enumerable.Repeat(new RealRun(true), 7)]);
        Assert.True(many.Enough);
        Assert.Contains(many.Numbers, n => n.Name == "braking");
    }

    [Fact]
    public void With_nothing_in_doubt_nothing_is_learnt_and_a_surprise_is_called_out()
    {
        var bench = new FormulaBench([new("start", "mm", Provenance.Chosen, "", 0, 0, 1, -9, 9)], (_, _) => 0.9);
        var proof = Proof(bench, 400);
        var fair = Reality.Learn(bench.Draws, proof, null, Trials(0.9, 10, 4));
        Assert.True(fair.AsPromised);
        Assert.Equal(fair.Before, fair.After);
        var odd = Reality.Learn(bench.Draws, proof, null, Trials(0.3, 10, 4));
        Assert.False(odd.AsPromised);
        Assert.True(odd.Called is { Worse: true });
        Assert.Equal(5, odd.Called.Trials);
    }

    [Fact]
    public void Four_trials_call_nothing_out_and_no_trial_promises_nothing()
    {
        var none = Reality.Learn(Braking.Draws, Proof(Braking), null, []);
        Assert.Equal((0, 0, 0), (none.Promised.Runs, none.Promised.Low, none.Promised.High));
        var bench = new FormulaBench([DrawSpec.Of("braking", FormulaBench.Guess(850, 400))], (_, _) => 0.99);
        Assert.Null(Reality.Learn(bench.Draws, Proof(bench), null, [.. Enumerable.Repeat(new RealRun(false), 4)]).Called);
        var call = Reality.Learn(bench.Draws, Proof(bench), null, [.. Enumerable.Repeat(new RealRun(false), 5)]).Called;
        Assert.Equal((5, 0, true), (call!.Trials, call.Passes, call.Worse));
        Assert.True(call.Low >= 4);
    }

    [Fact]
    public void A_gauge_that_kept_no_times_says_nothing_of_them()
    {
        var hidden = HiddenCopies.Noticing(5, 77);
        var proof = ManyRuns.Run(hidden.Bench, new(7, RunLayout.Kinds.Copies, 400), threads: 1);
        var untimed = proof with { Results = [.. proof.Results.Select(r => r with { TimeMicros = 0 })] };
        RealRun[] trials = [.. Enumerable.Range(0, 8).Select(i => new RealRun(true, 1e4 + i))];
        Assert.Null(Reality.Learn(hidden.Bench.Draws, untimed, null, trials, false).Times);
        // Where times were kept, such ones are told.
        var timed = proof with
        {
            Results = [.. proof.Results.Select(r => r with { TimeMicros = 5_000_000 })],
        };
        Assert.Contains("Runs that pass take", Reality.Learn(hidden.Bench.Draws, timed, null, trials, false).Times);
    }

    [Fact]
    public void What_nobody_promised_is_not_called_a_promise()
    {
        Assert.Equal("5 of 7, as promised.", SpreadWords.Say(5, 7, new(7, 3, 6), null));
        Assert.Equal("5 of 7, as was to be expected.", SpreadWords.Say(5, 7, new(7, 3, 6), null, true));
        Assert.Equal("2 of 7; 3 to 6 were promised.", SpreadWords.Say(2, 7, new(7, 3, 6), null));
        Assert.Equal("2 of 7; 3 to 6 were to be expected.", SpreadWords.Say(2, 7, new(7, 3, 6), null, true));
        Assert.Equal(
            "2 of 7. After 5 runs 1 had passed, and 5 were to be expected: the bench does not know something.",
            SpreadWords.Say(2, 7, new(7, 6, 7), new(5, 1, 5, 5, 0.001), true)
        );
        Assert.Equal("2 of 7. Nothing was promised: it was not proved on this copy.", SpreadWords.Say(2, 7, null, null));
    }
}
