using BenchmarkDotNet.Attributes;
using Chiton.Core.Logbook;

namespace Chiton.Bench;

/// <summary>How long the sums of the log take that look through much.</summary>
[MemoryDiagnoser]
public class LogBench
{
    private MissionInput[] ten = [];

    [GlobalSetup]
    public void Prepare() =>
        ten = [.. Enumerable.Range(0, 10).Select(i => new MissionInput($"M{i}", 5 + i, 21 + 7 * i, 3 + i, 0.35 + 0.05 * i))];

    /// <summary>The best plan of ten missions in half an hour, and what each better mission would bring.</summary>
    [Benchmark]
    public double TenMissions() => MatchPlan.Compute(new(MatchPlan.MostS, ten)).Result.ExpectedPoints;

    /// <summary>The same where no success is known well.</summary>
    [Benchmark]
    public double TenMissionsHardlyKnown() =>
        MatchPlan
            .Compute(new(MatchPlan.MostS, [.. ten.Select(m => m with { SuccessLow = 0.1, SuccessHigh = 1 })]))
            .Result.HangsOn.Sum(h => h.High);
}
