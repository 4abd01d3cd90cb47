namespace Chiton.Core.Tests.Proving;

public class SuccessRateTests
{
    [Fact]
    public void Worked_figures()
    {
        var r = SuccessRate.Compute(new(91, 100)).Result;
        Assert.Equal(0.91, r.Rate);
        Assert.Equal(0.8377, r.Low, 4);
        Assert.Equal(0.9519, r.High, 4);
    }

    [Fact]
    public void The_ends_solve_the_score_equation() =>
        Gen.Select(Gen.Int[1, 500], Gen.Double[0, 1])
            .Sample(
                (runs, share) =>
                {
                    // Wilson's ends are the rates p at which the observed share lies exactly z standard deviations away.
                    var passes = (int)(share * runs);
                    var (low, high) = SuccessRate.Wilson(passes, runs);
                    var observed = (double)passes / runs;
                    foreach (var p in new[] { low, high }.Where(p => p is > 0 and < 1))
                        Assert.Equal(1.959963985, Math.Abs(observed - p) / Math.Sqrt(p * (1 - p) / runs), 1e-4);
                    Assert.InRange(observed, low, high);
                }
            );

    [Fact]
    public void None_and_all_reach_the_ends_exactly()
    {
        Assert.Equal(0, SuccessRate.Wilson(0, 20).Low);
        Assert.Equal(1, SuccessRate.Wilson(20, 20).High);
    }

    [Theory]
    [InlineData(5.0, 4.0, null, "passes")]
    [InlineData(0.5, 4.0, null, "passes")]
    [InlineData(1.0, 0.0, null, "runs")]
    [InlineData(1.0, null, null, "runs")]
    [InlineData(1.0, 4.0, 1.0, "confidence")]
    [InlineData(1.0, 4.0, double.NaN, "confidence")]
    public void Nonsense_is_named(double? passes, double? runs, double? confidence, string field) =>
        Assert.Contains(field, Assert.Throws<InputProblem>(() => SuccessRate.Compute(new(passes, runs, confidence))).Errors.Keys);
}
