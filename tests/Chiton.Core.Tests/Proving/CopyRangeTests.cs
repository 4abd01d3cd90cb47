namespace Chiton.Core.Tests.Proving;

public class CopyRangeTests
{
    // Figures of a program of its own: the same grid, the Beta function by another continued fraction, quantiles by halving.
    public static TheoryData<(int, int, double)[], double, double, double, int[]> Worked =>
        new()
        {
            { [(2, 2, 70), (1, 2, 20), (0, 2, 10)], 0.25556, 0.89824, 0.99996, [2, 10, 5, 20] },
            { [(2, 2, 41), (1, 2, 18), (0, 2, 41)], 0.00015, 0.50000, 0.99985, [0, 10, 0, 20] },
            { [(2, 2, 99), (1, 2, 1)], 0.97057, 1, 1, [10, 10, 19, 20] },
            { [(2, 2, 1)], 0.02117, 0.96695, 1, [0, 10, 0, 20] },
            { [(5, 5, 150), (3, 5, 30), (0, 5, 20)], 0.02409, 0.99972, 1, [0, 10, 0, 20] },
        };

    [Theory]
    [MemberData(nameof(Worked))]
    public void It_agrees_with_a_program_of_its_own((int, int, double)[] copies, double low, double middle, double high, int[] next)
    {
        var range = CopyRange.Of([.. copies.Select(c => new CopyCount(c.Item1, c.Item2, c.Item3))]);
        // Straight between whole percents: within one.
        Assert.Equal(low, range.Quantile(0.05), 0.01);
        Assert.Equal(middle, range.Quantile(0.5), 0.01);
        Assert.Equal(high, range.Quantile(0.95), 0.01);
        var (from, to) = range.Whole;
        Assert.InRange(from, low - 0.01, low);
        Assert.InRange(to, high - 1e-9, Math.Min(1, high + 0.01));
        Assert.Equal(Math.Round(100 * from), 100 * from, 9);
        int[] found = [range.Next(10).Low, range.Next(10).High, range.Next(20).Low, range.Next(20).High];
        Assert.Equal(next, found);
    }

    [Fact]
    public void Copies_that_are_alike_need_not_be_told_apart()
    {
        CopyCount[] each = [.. Enumerable.Range(0, 60).Select(i => new CopyCount(i % 3, 2, 1))];
        Assert.Equal(3, RunsDone.Merged(each).Length);
        Assert.Equal(CopyRange.Of(each).Interval.Low, CopyRange.Of(RunsDone.Merged(each)).Interval.Low, 9);
        Assert.Equal(CopyRange.Of(each).Interval.High, CopyRange.Of(RunsDone.Merged(each)).Interval.High, 9);
    }

    [Fact]
    public void The_next_runs_of_what_is_certain_follow_Jeffreys()
    {
        // 91 of 100 passed: Beta(91.5, 9.5), ten more runs, both tails summed by hand to at most 5 in 100.
        Assert.Equal(new NextRuns(10, 7, 10), CopyRange.Certain(91, 100, 10));
        // From few runs the prior shows: by a program of its own, Beta(9.5, 1.5), Beta(3.5, 0.5) and Beta(5.5, 5.5).
        Assert.Equal(new NextRuns(10, 6, 10), CopyRange.Certain(9, 10, 10));
        Assert.Equal(new NextRuns(20, 11, 20), CopyRange.Certain(3, 3, 20));
        Assert.Equal(new NextRuns(20, 4, 16), CopyRange.Certain(5, 10, 20));
        Assert.Equal(new NextRuns(10, 10, 10), CopyRange.Certain(2000, 2000, 10));
        Assert.Equal(new NextRuns(10, 0, 0), CopyRange.Certain(0, 2000, 10));
        var many = CopyRange.Certain(500, 1000, 1000);
        Assert.InRange(many.Low, 450, 480);
        Assert.InRange(many.High, 520, 550);
    }

    [Theory]
    [InlineData(1, 1)]
    [InlineData(200, 100)]
    [InlineData(1999, 1000)]
    [InlineData(2000, 200)]
    [InlineData(9999, 200)]
    public void Runs_are_shared_among_copies(int runs, int copies)
    {
        var layout = new RunLayout(3, RunLayout.Kinds.Copies, runs);
        Assert.Equal(copies, layout.Copies);
        var each = Enumerable.Range(0, runs).GroupBy(layout.Copy).Select(g => g.Count()).ToArray();
        Assert.Equal(copies, each.Length);
        Assert.InRange(each.Max() - each.Min(), 0, 1);
        // No run, and no copy, has the luck of another.
        Assert.Equal(runs, Enumerable.Range(0, runs).Select(layout.RunSeed).Distinct().Count());
        Assert.Equal(copies, Enumerable.Range(0, copies).Select(layout.CopySeed).Distinct().Count());
        Assert.Equal(Draws.BestCopy, layout.CopySeed(-1));
    }

    [Fact]
    public void Fewer_runs_of_a_seed_are_the_first_of_more()
    {
        RunLayout few = new(9, RunLayout.Kinds.Copies, 100),
            more = new(9, RunLayout.Kinds.Copies, 200);
        Assert.All(
            Enumerable.Range(0, 100),
            i => Assert.Equal((few.RunSeed(i), few.CopySeed(few.Copy(i))), (more.RunSeed(i), more.CopySeed(more.Copy(i))))
        );
    }
}
