namespace Chiton.Core.Tests.Proving;

public class CommonsTests
{
    private static DrawSpec Number(string name, string unit) => new(name, unit, Provenance.Guessed, "", 0, 1, 0, -9, 9);

    private static RunsDone Runs(params float[][] values)
    {
        DrawnColumn[] columns = [.. values.Select((_, i) => new DrawnColumn(Number(i == 0 ? "braking" : $"number {i}", "mm/s²"), false))];
        var results = values[0].Select(_ => new BenchResult(RunEnding.Passed, -1, 0, -1, 0, 0, "")).ToArray();
        return new(new(1, RunLayout.Kinds.Copies, results.Length), results, columns, values);
    }

    private static float[] Noise(int n, uint lane)
    {
        var luck = new RandomStream(3, lane);
        var all = new float[n];
        for (var i = 0; i < n; i++)
            all[i] = (float)luck.Normal();
        return all;
    }

    [Fact]
    public void What_failures_have_in_common_is_named_and_counted()
    {
        // Braking from 500 to 899.5: the 40 slowest fail, and 4 others.
        float[] braking = [.. Enumerable.Range(0, 200).Select(i => 500 + 2f * i)];
        bool[] failed = [.. Enumerable.Range(0, 200).Select(i => i < 40 || i % 50 == 49)];
        var common = Commons.Of(Runs(braking, Noise(200, 1), Noise(200, 2)), failed)!;
        Assert.Equal(("braking", true), (common.Name, common.Below));
        Assert.InRange(common.Cut, 576, 582);
        Assert.Equal((44, 156), (common.Of, common.Others));
        // Counted again by hand at the value that is told.
        Assert.Equal(Enumerable.Range(0, 200).Count(i => failed[i] && braking[i] < common.Cut), common.There);
        Assert.Equal(Enumerable.Range(0, 200).Count(i => !failed[i] && braking[i] < common.Cut), common.OthersThere);
        Assert.StartsWith("braking below ", common.Say);
        Assert.EndsWith($" mm/s² in {common.There} of these, in {common.OthersThere} of the other 156", common.Say);
    }

    [Fact]
    public void Failures_that_share_nothing_have_nothing_in_common()
    {
        var spoke = 0;
        for (var seed = 0u; seed < 100; seed++)
        {
            var luck = new RandomStream(seed, 9);
            bool[] failed = [.. Enumerable.Range(0, 200).Select(_ => luck.Uniform() < 0.2)];
            float[][] numbers = [.. Enumerable.Range(0, 30).Select(c => Noise(200, 1000 * seed + (uint)c))];
            spoke += Commons.Of(Runs(numbers), failed) is null ? 0 : 1;
        }
        Assert.InRange(spoke, 0, 8);
    }

    [Fact]
    public void A_few_failures_say_nothing() =>
        Assert.Null(Commons.Of(Runs([.. Enumerable.Range(0, 50).Select(i => (float)i)]), [.. Enumerable.Range(0, 50).Select(i => i < 4)]));
}

public class ProofWordsTests
{
    private static Proof Proof(int passes, int copies, double low, double high, DoubtsFound? doubts = null) =>
        new(200, 200, passes, 0, 1, [], [])
        {
            Copies = copies,
            Copy = new(low, high),
            Marks = copies > 0 ? [.. Enumerable.Repeat(0.88, copies)] : [],
            Doubts = doubts,
        };

    private static Doubt Braking(double worst) =>
        new("braking", "mm/s²", Provenance.Guessed, "never tried", 850, 0.6, 0.5, worst, null, 0.58, null);

    [Theory]
    [InlineData(200, 0, 0.98, 1, "Every run passes. Nothing of this copy is in doubt: what varies is luck.")]
    [InlineData(0, 0, 0, 0.02, "No run passes. Nothing of this copy is in doubt: what varies is luck.")]
    [InlineData(182, 0, 0.87, 0.94, "It passes 9 times in 10. Nothing of this copy is in doubt: what varies is luck.")]
    [InlineData(182, 100, 0.85, 0.96, "It passes 9 times in 10, and what is not known of this copy hardly matters.")]
    [InlineData(
        160,
        100,
        0.36,
        0.94,
        "Most copies like this pass 9 times in 10. Yours may lie anywhere from 36 to 94 in 100: 2000 runs would tell it more sharply."
    )]
    public void Words_stand_before_figures(int passes, int copies, double low, double high, string say) =>
        Assert.Equal(say, ProofWords.Say(Proof(passes, copies, low, high)));

    [Fact]
    public void The_number_that_makes_it_is_named_with_the_worst_of_it()
    {
        Assert.Equal(
            "Most copies like this pass 9 times in 10. Yours may not: braking is a guess, and with the worst of it 3 times in 10.",
            ProofWords.Say(Proof(160, 100, 0.36, 0.94, new([Braking(0.31)], [], true)))
        );
        // Where the worst of it is no worse, it is not to blame.
        Assert.DoesNotContain("braking", ProofWords.Say(Proof(160, 100, 0.36, 0.94, new([Braking(0.87)], [], true))));
    }

    [Theory]
    [InlineData(1, "nearly always")]
    [InlineData(0, "hardly ever")]
    [InlineData(0.97, "97 times in 100")]
    [InlineData(0.01, "once in 100")]
    [InlineData(0.12, "once in 10")]
    [InlineData(0.94, "9 times in 10")]
    public void Rates_are_told_in_tenths(double rate, string say) => Assert.Equal(say, ProofWords.Tenths(rate));

    [Fact]
    public void What_measuring_buys_is_told_in_widths()
    {
        var doubt = Braking(0.3) with { Measured = new("move", "Drive: brake", 20, "Five trials of braking", 2), WidthThen = 0.224 };
        Assert.Equal("Five trials of braking (2 minutes) would narrow a range of 58 in 100 to about 22.", ProofWords.Buys(doubt));
    }
}
