using BenchmarkDotNet.Attributes;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Stateless;

namespace Chiton.Bench;

/// <summary>How many events a second the engines take, and how long a large program takes to read.</summary>
[MemoryDiagnoser]
public class EngineBench
{
    private const int Events = 100_000;

    private sealed class Ring(int kinds) : IChartHost
    {
        public int Now;
        public int[] On = [];

        public bool Enabled(int transition) => On[transition] == Now;

        public bool EnabledNow(int transition) => false;

        public void Entered(int node) { }

        public void Exited(int node) { }

        public void Taken(int transition) { }

        public void Done(int node, int byFinal) { }

        public bool NextInternal() => false;

        public void Next() => Now = (Now + 1) % kinds;
    }

    private ChartMachine flat = null!,
        nested = null!;
    private Ring flatHost = null!,
        nestedHost = null!;
    private StateMachine<int, int> other = null!;
    private string large = null!;
    private Vocabulary words = null!;

    [GlobalSetup]
    public void Prepare()
    {
        // Three states in a ring, an event each.
        flatHost = new(3) { On = [0, 1, 2] };
        flat = new(
            new Chart(
                [new(NodeKind.Compound, -1), new(NodeKind.Atomic, 0), new(NodeKind.Atomic, 0), new(NodeKind.Atomic, 0)],
                [new(1, [2]), new(2, [3]), new(3, [1])]
            ),
            flatHost
        );
        flat.Start();

        // Three regions, each a ring of two states of which one has two states in it.
        List<ChartNode> nodes = [new(NodeKind.Compound, -1), new(NodeKind.Parallel, 0)];
        List<ChartTransition> transitions = [];
        List<int> on = [];
        for (var r = 0; r < 3; r++)
        {
            var region = nodes.Count;
            nodes.AddRange([
                new(NodeKind.Compound, 1),
                new(NodeKind.Atomic, region),
                new(NodeKind.Compound, region),
                new(NodeKind.Atomic, region + 2),
                new(NodeKind.Atomic, region + 2),
            ]);
            transitions.AddRange([new(region + 1, [region + 2]), new(region + 3, [region + 4]), new(region + 2, [region + 1])]);
            on.AddRange([0, 1, 2]);
        }
        nestedHost = new(3) { On = [.. on] };
        nested = new(new Chart(nodes, transitions), nestedHost);
        nested.Start();

        // For scale: a well-known general-purpose state machine package on the three states.
        other = new(0);
        other.Configure(0).Permit(0, 1);
        other.Configure(1).Permit(1, 2);
        other.Configure(2).Permit(2, 0);

        words = new([new("Eye", ["dark", "light"])], [new("Pump", Core.Rigs.ActuatorKind.PlainMotor)], []);
        large =
            "program Large\nvar n = 0\nregion Main\n"
            + string.Concat(
                Enumerable
                    .Range(0, 500)
                    .Select(i =>
                        $"  state Berth {i}{(i == 0 ? ", initial" : "")}\n    while here: run Pump at {i % 100} %\n    when Eye "
                        + $"becomes light for 2 readings if n < {i}: set n to n + 1; go Berth {(i + 1) % 500}\n    after {1 + i % 9} "
                        + $"s: go Berth {(i + 7) % 500}\n"
                    )
            );
    }

    [Benchmark(OperationsPerInvoke = Events, Description = "an event through three flat states")]
    public int Flat()
    {
        for (var i = 0; i < Events; i++)
        {
            flat.Fire();
            flatHost.Next();
        }
        return flatHost.Now;
    }

    [Benchmark(OperationsPerInvoke = Events, Description = "an event through three regions with nesting")]
    public int Nested()
    {
        for (var i = 0; i < Events; i++)
        {
            nested.Fire();
            nestedHost.Next();
        }
        return nestedHost.Now;
    }

    [Benchmark(OperationsPerInvoke = Events, Description = "for scale: a general-purpose package, three flat states")]
    public int General()
    {
        for (var i = 0; i < Events; i++)
            other.Fire(other.State);
        return other.State;
    }

    [Benchmark(Description = "reading and compiling a program of 500 states")]
    public int Read() => ScriptCompiler.Compile(ScriptParser.Parse(large, words).Program, words).StateCount;
}
