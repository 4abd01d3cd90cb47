using BenchmarkDotNet.Attributes;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Simulation;
using Chiton.Data.Demo;

namespace Chiton.Bench;

/// <summary>The Seed trolley, run many times on all cores at a step of 2 ms.</summary>
public class SimulationBench
{
    private BenchPlan shipped = null!,
        rolling = null!;

    private static BenchPlan Setup(string script) => DemoBench.Plan(SeedTrolley.Id, script: script);

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

    // What one would write for this rig alone: a vehicle on a ring, one noisy eye, a pack that sags, three states.
    private static bool ByHand(long seed)
    {
        var luck = new RandomStream((ulong)seed, 0);
        const double dt = 0.002,
            full = 700,
            least = 0.1,
            ring = 1500,
            nominal = 6,
            ohm = 1.2,
            stall = 0.8;
        double at = 0,
            speed = 0,
            duty = 0.6,
            volts = nominal,
            used = 0,
            next = 0.01 * luck.Uniform(),
            obeys = 0;
        int state = 0,
            beds = 0,
            row = 0;
        for (var step = 1; step <= 30_000; step++)
        {
            var now = step * dt;
            var told = now >= obeys ? duty : 0;
            var current = 0.1 + stall * Math.Max(0, told * volts / nominal - (1 - least) * speed / full) * told;
            used += current * dt;
            volts = nominal * (1 - 0.2 * Math.Min(1, used / 7200)) - current * ohm;
            var push = told * volts / nominal;
            var target = push <= least ? 0 : full * (push - least) / (1 - least);
            var before = speed;
            speed += Math.Clamp((target - speed) * 0.02, -4, 4);
            at += (before + speed) / 2 * dt;
            if (at >= ring)
                at -= ring;
            if (now < next)
                continue;
            next += 0.01;
            var nearest = at - 300 * Math.Round(at / 300);
            var share = Math.Clamp((20 + 3 - Math.Abs(nearest)) / 6, 0, 1);
            var reading = 30 + 40 * share + 4 * luck.Normal();
            switch (state)
            {
                case 0:
                    row = reading > 52 ? row + 1 : 0;
                    if (row >= 2)
                        (state, row, beds) = (1, 0, beds + 1);
                    break;
                case 1:
                    row = reading < 48 ? row + 1 : 0;
                    if (row >= 4)
                        (state, row) = (beds >= 3_000 ? 2 : 0, 0);
                    break;
                default:
                    duty = 0;
                    break;
            }
        }
        return beds > 3;
    }

    [Benchmark(Baseline = true, Description = "1 000 runs of 60 s of a loop written by hand")]
    public int Hand()
    {
        var passed = 0;
        Parallel.For(
            0,
            1000,
            i =>
            {
                if (ByHand(RandomStream.SeedOfRun(1, i)))
                    Interlocked.Increment(ref passed);
            }
        );
        return passed;
    }

    private static int Full(BenchPlan setup, int runs)
    {
        var passed = 0;
        Parallel.For(
            0,
            runs,
            () => new Core.Simulation.Bench(setup),
            (i, _, run) =>
            {
                if (run.Go(RandomStream.SeedOfRun(1, i), untilDecided: false).Passed)
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
    public int Light() => ManyRuns.Run(new PlanProved(shipped), new(1, RunLayout.Kinds.Copies, 100)).Passes;

    [Benchmark(Description = "200 runs as Prove counts them")]
    public int Prove() => Prover.Run(shipped, 200, 1).Proof.Passes;
}

/// <summary>What the header and Prove take for every demo rig; to be read per 60 simulated seconds of its scene.</summary>
public class ProofBench
{
    private BenchPlan plan = null!;

    /// <summary>The rigs of the farm.</summary>
    public static IEnumerable<string> Rigs => Farm.All(DateTime.UnixEpoch).Select(r => r.Id);

    /// <summary>The rig.</summary>
    [ParamsSource(nameof(Rigs))]
    public string Rig { get; set; } = "";

    [GlobalSetup]
    public void Prepare() => plan = DemoBench.Plan(Rig);

    [Benchmark(Description = "the header's count after an edit: up to 100 runs, as many as fit")]
    public RateRange Light()
    {
        var bench = new PlanProved(plan);
        var watch = System.Diagnostics.Stopwatch.StartNew();
        return Prover.RangeOf(bench, Gauge.Count(bench, () => watch.ElapsedMilliseconds >= Gauge.Ms));
    }

    [Benchmark(Description = "200 runs with everything on the page")]
    public int Prove() => Prover.Run(plan, 200, 1).Proof.Passes;

    [Benchmark(Description = "2 000 runs with everything on the page")]
    public int ProveMany() => Prover.Run(plan, 2000, 1).Proof.Passes;
}

/// <summary>What a run costs when a program is large and one state of it is active: hardly more than a small one.</summary>
public class LargeBench
{
    private BenchPlan setup = null!;

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
        setup = DemoBench.Plan(SeedTrolley.Id, script: script);
    }

    [Benchmark(Description = "200 runs of 60 s of a program of so many states")]
    public int Runs() => Prover.Run(setup, 200, 1).Proof.Runs;
}

/// <summary>What one run allocates: nothing, whatever its length.</summary>
public class AllocationBench
{
    private Core.Simulation.Bench run = null!;

    [GlobalSetup]
    public void Prepare() => run = new(DemoBench.Plan(SeedTrolley.Id));

    [Benchmark(Description = "one run of 60 s, 30 000 steps")]
    public bool One() => run.Go(1, untilDecided: false).Passed;
}

/// <summary>Every demo rig in its everyday scene, run to the end, decided or not.</summary>
public class SceneBench
{
    private BenchPlan plan = null!;

    /// <summary>Address of the rig.</summary>
    [Params(
        "seed-trolley",
        "rack-hoist",
        "shell-sorter",
        "buoy-picker",
        "header-tank",
        "berthing-lights",
        "deck-scrubber",
        "buoy-line-rover",
        "lock-keeper"
    )]
    public string Rig { get; set; } = "";

    [GlobalSetup]
    public void Prepare() => plan = DemoBench.Plan(Rig);

    [Benchmark(Description = "100 runs on all cores")]
    public int Runs()
    {
        var passed = 0;
        Parallel.For(
            0,
            100,
            () => new Core.Simulation.Bench(plan),
            (i, _, bench) =>
            {
                if (bench.Go(RandomStream.SeedOfRun(1, i), untilDecided: false).Passed)
                    Interlocked.Increment(ref passed);
                return bench;
            },
            _ => { }
        );
        return passed;
    }
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
