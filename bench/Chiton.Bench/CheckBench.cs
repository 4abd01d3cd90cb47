using BenchmarkDotNet.Attributes;
using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Data.Demo;

namespace Chiton.Bench;

/// <summary>How fast all that may happen is gone through, and how long the checks take after an edit.</summary>
[MemoryDiagnoser]
public class CheckBench
{
    private const int States = 1_000_000;

    private RigDesign lockKeeper = null!;
    private DemoRig farm = null!;
    private RigProgram[] programs = [];
    private RigDesign large = null!;

    [GlobalSetup]
    public void Prepare()
    {
        farm = Farm.All(DateTime.UnixEpoch).First(r => r.Id == "lock-keeper");
        lockKeeper = Cures.Of("lock-keeper").Aggregate(farm.Design, (d, c) => c.On(d));
        programs = [.. RigPrograms.Of(lockKeeper).Where(p => p.Runs)];
        var script =
            "program Large\n\nregion Main\n"
            + string.Concat(
                Enumerable
                    .Range(0, 200)
                    .Select(i =>
                        $"  state S{i}{(i == 0 ? ", initial" : "")}\n    when Boat button is pressed: go S{(i + 1) % 200}\n    after "
                        + $"{i + 1} s: go S{(i + 7) % 200}\n"
                    )
            );
        large = farm.Design with { Programs = [new(script, []) { RunsOn = "Keeper board" }] };
    }

    /// <summary>A million different states of the lock keeper's three programs.</summary>
    [Benchmark(OperationsPerInvoke = States)]
    public long Explored()
    {
        var explorer = Explorer.Of(lockKeeper, programs, new Dictionary<string, SensorCalibration>());
        while (explorer.States < States && explorer.MayGoOn | explorer.States == 0)
            explorer.Run(10_000, long.MaxValue);
        return explorer.Steps;
    }

    /// <summary>Every check of a program of 200 states, exploration among them.</summary>
    [Benchmark]
    public int ChecksOfALargeProgram()
    {
        var copy = DemoBench.Copy(farm, 1, large, new Dictionary<string, AcceptedNumber>());
        return Report
            .Of(large, null, copy.Moves, copy.Calibrations, new Dictionary<string, CalibrationAge>(), RigPrograms.Of(large))
            .Findings!.Count;
    }
}
