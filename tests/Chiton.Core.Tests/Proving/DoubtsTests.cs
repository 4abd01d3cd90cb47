namespace Chiton.Core.Tests.Proving;

/// <summary>Which number is to be measured next: held against machines with one number that is to blame.</summary>
public class DoubtsTests(ITestOutputHelper output)
{
    private const double UsualTrialSd = 0.35;

    private static DrawSpec Number(string name, double usual, double sd, bool tried = true, double trialSd = UsualTrialSd) =>
        new(name, "mm", Provenance.Guessed, "", usual, sd, 0, -1e9, 1e9)
        {
            Measured = tried ? new("move", name, trialSd, $"Five trials of {name}", 2) { Dof = 4 } : null,
        };

    private static string Name(int i) => i == 0 ? "guilty" : $"number {i}";

    // Its variance comes to 70 in 100 from the first number, and to 10 or less from any other.
    private static readonly double[] Weights = [Math.Sqrt(0.70), Math.Sqrt(0.10), .. Enumerable.Repeat(Math.Sqrt(0.04), 5)];

    private static double Rate(ReadOnlySpan<double> drawn, double scale = 1)
    {
        var sum = 0.0;
        for (var i = 0; i < Weights.Length; i++)
            sum += Weights[i] * drawn[i];
        return FormulaBench.Between(-1e9, 0.8 + scale * 1.6 * sum, 0, 1);
    }

    private static FormulaBench Planted(double trialSd = UsualTrialSd) =>
        new(
            [.. Weights.Select((_, i) => Number(Name(i), 0, 1, true, trialSd)), new("start", "mm", Provenance.Chosen, "", 0, 0, 1, -9, 9)],
            (d, _) => Rate(d)
        );

    private static DoubtsFound Find(FormulaBench bench, int seed, int runs = 200)
    {
        var done = ManyRuns.Run(bench, new(seed, RunLayout.Kinds.Copies, runs), threads: 1);
        var extra = Doubts.LeastCopies - done.Layout.Copies;
        var more =
            extra > 0 ? ManyRuns.Run(bench, new(seed, RunLayout.Kinds.Single, extra) { First = done.Layout.Copies }, threads: 1) : null;
        return Doubts.Find(done, more, CopyRange.Of(RunsDone.Merged(done.ByCopy())));
    }

    [Fact]
    public void The_number_to_blame_is_named_first()
    {
        var bench = Planted();
        var found = Enumerable.Range(1, 100).Select(seed => Find(bench, seed)).ToArray();
        var first = found.Count(f => f.Doubts.Count > 0 && f.Doubts[0].Name == "guilty");
        output.WriteLine($"named first in {first} of 100");
        Assert.InRange(first, 90, 100);
        // What it makes of the differences is about what was planted.
        Assert.InRange(found.Where(f => f.Doubts.Count > 0).Average(f => f.Doubts[0].Share), 0.5, 0.9);
        Assert.All(found.SelectMany(f => f.Doubts.Take(1)), d => Assert.InRange(d.Worst, 0, 0.6));
    }

    [Fact]
    public void Where_only_luck_acts_nothing_is_named()
    {
        var bench = new FormulaBench([.. Weights.Select((_, i) => Number(Name(i), 0, 1))], (_, _) => 0.7);
        var spoke = Enumerable.Range(1, 100).Count(seed => Find(bench, seed).Doubts.Count > 0);
        output.WriteLine($"spoke in {spoke} of 100");
        Assert.InRange(spoke, 0, 8);
    }

    [Fact]
    public void What_varies_from_run_to_run_is_named_as_luck()
    {
        var bench = new FormulaBench(
            [
                Number("wheel", 0, 0.1),
                new("how it is put down", "mm", Provenance.Chosen, "", 0, 0, 1, -9, 9),
                new("lamp", "%", Provenance.Chosen, "", 0, 0, 0, 0, 9, 9),
            ],
            (d, _) => FormulaBench.Between(-1e9, 0.5 + 2 * d[1], 0, 1)
        );
        var found = Enumerable.Range(1, 20).Select(seed => Find(bench, seed)).ToArray();
        Assert.All(found, f => Assert.Equal("how it is put down", f.Lucks[0].Name));
        Assert.InRange(found.Count(f => f.Lucks.Count > 1), 0, 4);
        Assert.InRange(found.Count(f => f.Doubts.Count > 0), 0, 4);
    }

    [Theory]
    [InlineData(200, UsualTrialSd)]
    [InlineData(2000, UsualTrialSd)]
    [InlineData(200, 0.7)]
    public void The_promised_width_is_had(int runs, double trialSd)
    {
        var bench = Planted(trialSd);
        var promised = new List<double>();
        var had = new List<double>();
        var before = new List<double>();
        for (var copy = 1; copy <= (runs > 200 ? 25 : 100); copy++)
        {
            if (Find(bench, copy, runs).Doubts is not [{ Name: "guilty", WidthThen: { } then } first, ..])
                continue;
            promised.Add(then);
            before.Add(first.WidthNow);
            // The copy as it really is, measured with five trials, and proved again.
            var luck = new RandomStream((ulong)copy, 31);
            var truth = Math.Clamp(luck.Normal(), -3, 3);
            var known = FormulaBench.Read(truth, trialSd * Math.Sqrt(5), 5, ref luck);
            var after = new FormulaBench([DrawSpec.Of("guilty", known), .. bench.Draws.Skip(1)], (d, _) => Rate(d));
            var done = ManyRuns.Run(after, new(copy + 500, RunLayout.Kinds.Copies, runs), threads: 1);
            var (low, high) = CopyRange.Of(RunsDone.Merged(done.ByCopy())).Interval;
            had.Add(high - low);
        }
        output.WriteLine(
            $"{runs} runs, {trialSd}: before {before.Average():0.000}, promised {promised.Average():0.000}, had {had.Average():0.000}"
        );
        Assert.InRange(promised.Average() / had.Average(), 0.8, 1.2);
        Assert.True(promised.Average() < 0.98 * before.Average());
    }

    [Fact]
    public void Nothing_is_named_from_too_few_copies()
    {
        var done = ManyRuns.Run(Planted(), new(1, RunLayout.Kinds.Copies, 200));
        var found = Doubts.Find(done, null, CopyRange.Of(RunsDone.Merged(done.ByCopy())));
        Assert.False(found.Named);
        Assert.Empty(found.Doubts);
    }

    [Fact]
    public void What_no_trial_finds_is_named_without_a_promise()
    {
        var bench = new FormulaBench(
            [Number("lag", 0, 1, false), Number("wheel", 0, 1)],
            (d, _) => FormulaBench.Between(-1e9, 2 * d[0], 0, 1)
        );
        var first = Find(bench, 3).Doubts[0];
        Assert.Equal(("lag", null, null), (first.Name, first.Measured, first.WidthThen));
        Assert.Null(ProofWords.Buys(first));
    }

    [Fact]
    public void Explained_share_agrees_with_least_squares_by_hand()
    {
        // Ranks −0.8 … 0.8; y = the square: the bow explains it whole, the straight line nothing.
        double[] ranks = Doubts.Ranks([10, 20, 30, 40, 50]);
        Assert.Equal([-0.8, -0.4, 0, 0.4, 0.8], ranks.Select(r => Math.Round(r, 12)));
        Assert.Equal(1, Doubts.Explained(ranks, [.. ranks.Select(r => r * r)]), 12);
        Assert.Equal(1, Doubts.Explained(ranks, [.. ranks.Select(r => 3 - 2 * r)]), 12);
        // y = 1 0 0 0 0: mean 0.2, Syy 0.8; with r: Sry = −0.8, Srr = 1.6, so 0.4; with the bow 0.64 − 0.32 = 0.32: 0.1024 / 0.3584.
        Assert.Equal((0.4 + 0.1024 / 0.3584) / 0.8, Doubts.Explained(ranks, [1, 0, 0, 0, 0]), 10);
        Assert.Empty(Doubts.Ranks([7, 7, 7, 7]));
    }
}
