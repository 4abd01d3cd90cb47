namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>What is written as C++ does what the engine does, to the microsecond, and takes no memory for it.</summary>
public class CppTests
{
    private static readonly int Many = Campaign.Of(120, 10_000);

    [Fact]
    public void All_of_the_language_is_the_same()
    {
        var jobs = BoardScript.Some(Many);
        var cpp = BoardRuns.Cpp(jobs);
        var different = jobs.Select(job => BoardRuns.Differs(job, BoardRuns.Engine(job), cpp[job.Name])).OfType<string>().ToArray();
        Assert.True(different.Length == 0, $"{different.Length} of {jobs.Count} differ:\n{string.Join("\n\n", different.Take(3))}");
    }

    [Theory]
    [InlineData("count < needed) return false", "count <= needed) return false")]
    [InlineData("reading < value - band", "reading <= value - band")]
    [InlineData(
        "if (flag(parent, DETACHED)) drop(parent, false);\n          else later(items(children)[next",
        "if (false) drop(parent, false);\n          else later(items(children)[next"
    )]
    [InlineData(
        "for (int n = P::n_first[u + 1] - 1; n >= P::n_first[u]; n--) {\n        if (!leaving",
        "for (int n = P::n_first[u]; n < P::n_first[u + 1]; n++) {\n        if (!leaving"
    )]
    public void A_planted_change_is_noticed(string was, string now)
    {
        var jobs = BoardScript.Some(20);
        var cpp = BoardRuns.Cpp(
            jobs,
            code =>
            {
                Assert.Contains(was, code);
                return code.Replace(was, now, StringComparison.Ordinal);
            }
        );
        Assert.True(jobs.Any(j => BoardRuns.Differs(j, BoardRuns.Engine(j), cpp[j.Name]) is not null), $"Nobody notices {now}.");
    }
}
