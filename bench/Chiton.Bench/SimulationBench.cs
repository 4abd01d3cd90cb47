using BenchmarkDotNet.Attributes;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Simulation;
using Chiton.Data.Demo;

namespace Chiton.Bench;

/// <summary>The Seed trolley, run many times on all cores at a step of 2 ms.</summary>
public class SimulationBench
{
    private RailSetup shipped = null!,
        rolling = null!;

    private static RailSetup Setup(string script)
    {
        var words = Vocabulary.Of(SeedTrolley.Design);
        return RailSetup.Build(
            SeedTrolley.Design,
            SeedTrolley.Motion(785, 2200, true),
            new Dictionary<string, Core.Sensing.SensorCalibration> { ["Tag eye"] = SeedTrolley.Calibration(1) },
            ScriptParser.Parse(script, words).Program
        );
    }

    [GlobalSetup]
    public void Prepare()
    {
        shipped = Setup(SeedTrolley.Script);
        // Counts on and on, so that every step of the 60 s has a moving trolley and a working machine.
        rolling = Setup(
            SeedTrolley
                .Script.Replace("when beds = 3: go Stopping", "when beds = 3000: go Stopping")
                .Replace("after 30 s: go Lost", "after 300 s: go Lost")
        );
    }

    private static int Full(RailSetup setup, int runs)
    {
        var passed = 0;
        Parallel.For(
            0,
            runs,
            () => new RailRun(setup),
            (i, _, run) =>
            {
                if (run.Go(RandomStream.SeedOfRun(1, i), 60_000_000, untilDecided: false).Passed)
                    Interlocked.Increment(ref passed);
                return run;
            },
            _ => { }
        );
        return passed;
    }

    [Benchmark(Description = "1 000 runs of 60 s, always rolling")]
    public int Rolling() => Full(rolling, 1000);

    [Benchmark(Description = "1 000 runs of 60 s, as shipped")]
    public int Shipped() => Full(shipped, 1000);

    [Benchmark(Description = "100 runs as the header counts them")]
    public int Light() => Prover.Run(shipped, 100, 1).Passes;

    [Benchmark(Description = "200 runs as Prove counts them")]
    public int Prove() => Prover.Run(shipped, 200, 1).Passes;
}

/// <summary>What a run costs when a program is large and one state of it is active: hardly more than a small one.</summary>
public class LargeBench
{
    private RailSetup setup = null!;

    /// <summary>Like states that are visited one after the other.</summary>
    [Params(50, 200, 500)]
    public int States { get; set; }

    [GlobalSetup]
    public void Prepare()
    {
        var script =
            "program Large\n\nregion Main\n"
            + string.Concat(
                Enumerable
                    .Range(0, States)
                    .Select(i =>
                        $"  state Bed {i}{(i == 0 ? ", initial" : "")}\n    while here: run Trolley at {30 + i % 30} %\n    when Tag "
                        + $"eye becomes bed tag for 2 readings: go Bed {(i + 1) % States}\n    when Tag eye leaves sleepers for 3 "
                        + $"readings: go Bed {(i + 2) % States}\n    after {20 + i % 9} s: go Bed {(i + 3) % States}\n"
                    )
            );
        setup = RailSetup.Build(
            SeedTrolley.Design,
            SeedTrolley.Motion(785, 2200, true),
            new Dictionary<string, Core.Sensing.SensorCalibration> { ["Tag eye"] = SeedTrolley.Calibration(1) },
            ScriptParser.Parse(script, Vocabulary.Of(SeedTrolley.Design)).Program
        );
    }

    [Benchmark(Description = "200 runs of 60 s of a program of so many states")]
    public int Runs() => Prover.Run(setup, 200, 1).Runs;
}

/// <summary>What one run allocates: nothing, whatever its length.</summary>
public class AllocationBench
{
    private RailRun run = null!;

    [GlobalSetup]
    public void Prepare()
    {
        var words = Vocabulary.Of(SeedTrolley.Design);
        run = new(
            RailSetup.Build(
                SeedTrolley.Design,
                SeedTrolley.Motion(785, 2200, true),
                new Dictionary<string, Core.Sensing.SensorCalibration> { ["Tag eye"] = SeedTrolley.Calibration(1) },
                ScriptParser.Parse(SeedTrolley.Script, words).Program
            )
        );
    }

    [Benchmark(Description = "one run of 60 s, 30 000 steps")]
    public bool One() => run.Go(1, 60_000_000, untilDecided: false).Passed;
}

/// <summary>A large rig's ports.</summary>
public class RigBench
{
    private readonly Core.Rigs.Controller[] controllers = [Make("pin board", "A"), Make("pin board", "B"), Make("six sockets", "C")];
    private readonly Core.Rigs.Plug[] plugs =
    [
        .. Enumerable
            .Range(0, 12)
            .Select(i => new Core.Rigs.Plug(
                $"Range {i}",
                [new("trigger", Core.Rigs.PortUse.DigitalOut), new("echo", Core.Rigs.PortUse.DigitalIn, 5)]
            )),
        .. Enumerable.Range(0, 10).Select(i => new Core.Rigs.Plug($"Eye {i}", [new("signal", Core.Rigs.PortUse.AnalogueIn, 5)])),
        .. Enumerable.Range(0, 8).Select(i => new Core.Rigs.Plug($"Servo {i}", [new("pulse", Core.Rigs.PortUse.PwmOut)])),
        .. Enumerable.Range(0, 10).Select(i => new Core.Rigs.Plug($"Motor {i}", [new("drive", Core.Rigs.PortUse.MotorOut)])),
    ];

    private static Core.Rigs.Controller Make(string template, string name) =>
        Core.Rigs.ControllerTemplates.All.First(t => t.Template == template).Make(name);

    [Benchmark(Description = "3 controllers and 40 devices assigned and checked")]
    public int Assign()
    {
        var plan = Core.Rigs.PortAssignment.Assign(controllers, plugs);
        return Core.Rigs.PortAssignment.Check(controllers, plugs, plan.Wires).Count;
    }
}

/// <summary>What a keystroke and a sum cost in the core.</summary>
public class CoreBench
{
    private readonly Vocabulary words = Vocabulary.Of(SeedTrolley.Design);
    private readonly Core.Sensing.SensorCalibration calibration = SeedTrolley.Calibration(1);

    [Benchmark(Description = "parse and check the trolley's program")]
    public int Parse() => ScriptParser.Parse(SeedTrolley.Script, words).Diagnostics.Count;

    [Benchmark(Description = "threshold of two lists of 40")]
    public double Threshold() => calibration.Pairs()[0].Sum.Result.Threshold;
}
