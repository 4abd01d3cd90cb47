using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs.Statecharts;

public class EngineAgainstReferenceTests
{
    private const int Charts = 10_000;

    // The trace and configurations of both; null where they agree.
    private static string? Differ(
        GeneratedChart chart,
        int seed,
        Func<GeneratedChart.Host, ReferenceInterpreter> make,
        out ReferenceInterpreter reference
    )
    {
        var (mine, plain) = (new GeneratedChart.Host(chart), new GeneratedChart.Host(chart));
        var engine = new ChartMachine(new Chart(chart.Nodes, chart.Transitions), mine);
        mine.IsActive = engine.IsActive;
        reference = make(plain);
        plain.IsActive = reference.IsActive;
        mine.Begin(-1);
        plain.Begin(-1);
        engine.Start();
        reference.Start();
        var active = new int[chart.Nodes.Count];
        for (var i = 0; i <= chart.Stimuli.Length; i++)
        {
            var now = active.AsSpan(0, engine.Active(active)).ToArray();
            if (!now.SequenceEqual(reference.Configuration))
                return $"seed {seed}, after {i} events: engine {string.Join(' ', now)}, reference "
                    + $"{string.Join(' ', reference.Configuration)}";
            if (!mine.Trace.SequenceEqual(plain.Trace))
                return $"seed {seed}, after {i} events: engine did {string.Join(' ', mine.Trace.TakeLast(20))}, reference "
                    + $"{string.Join(' ', plain.Trace.TakeLast(20))}";
            if (engine.Running != reference.Running)
                return $"seed {seed}, after {i} events: running {engine.Running}, reference {reference.Running}";
            if (i == chart.Stimuli.Length || !engine.Running)
                return null;
            mine.Begin(chart.Stimuli[i]);
            plain.Begin(chart.Stimuli[i]);
            engine.Fire();
            reference.Fire();
        }
        return null;
    }

    [Fact]
    public void The_table_engine_does_what_the_plain_algorithm_does_on_10_000_charts()
    {
        var states = new List<int>();
        int parallel = 0,
            history = 0,
            conflicts = 0;
        var failures = new List<string>();
        for (var seed = 1; seed <= Charts; seed++)
        {
            var chart = new GeneratedChart(seed);
            states.Add(chart.Nodes.Count - 1);
            if (chart.Parallel)
                parallel++;
            if (chart.History)
                history++;
            Assert.True(chart.Stimuli.Length >= 20);
            if (
                Differ(chart, seed, host => new(chart.Nodes, chart.Transitions, host), out var reference) is { } difference
                && failures.Count < 5
            )
                failures.Add(difference);
            if (reference.HadConflict)
                conflicts++;
        }
        Assert.Empty(failures);
        // What was compared is worth comparing.
        states.Sort();
        Assert.True(states[Charts / 2] >= 12, $"median of {states[Charts / 2]} states");
        Assert.True(parallel >= Charts / 2, $"{parallel} with parallel regions");
        Assert.True(history >= Charts / 3, $"{history} with history");
        Assert.True(conflicts >= Charts / 3, $"{conflicts} with live conflicts");
    }

    [Theory]
    [InlineData(true, false)]
    [InlineData(false, true)]
    public void An_algorithm_without_preemption_or_against_document_order_is_noticed(bool withoutPreemption, bool againstOrder)
    {
        var noticed = 0;
        for (var seed = 1; seed <= 500; seed++)
        {
            var chart = new GeneratedChart(seed);
            try
            {
                if (
                    Differ(
                        chart,
                        seed,
                        host =>
                            new(chart.Nodes, chart.Transitions, host)
                            {
                                WithoutPreemption = withoutPreemption,
                                AgainstDocumentOrder = againstOrder,
                            },
                        out _
                    )
                    is not null
                )
                    noticed++;
            }
            catch (InvalidOperationException)
            {
                // A broken algorithm may come to a configuration that is none.
                noticed++;
            }
        }
        Assert.True(noticed > 100, $"noticed on {noticed} of 500");
    }

    [Fact]
    public void Saving_and_restoring_goes_back_exactly()
    {
        for (var seed = 1; seed <= 200; seed++)
        {
            var chart = new GeneratedChart(seed);
            var host = new GeneratedChart.Host(chart);
            var engine = new ChartMachine(new Chart(chart.Nodes, chart.Transitions), host);
            host.IsActive = engine.IsActive;
            host.Begin(-1);
            engine.Start();
            int[] Now()
            {
                var into = new int[chart.Nodes.Count];
                return into[..engine.Active(into)];
            }
            foreach (var e in chart.Stimuli.Take(6))
            {
                host.Begin(e);
                engine.Fire();
            }
            var saved = engine.Save();
            var before = Now();
            int[] After()
            {
                foreach (var e in chart.Stimuli.Skip(6))
                {
                    host.Begin(e);
                    engine.Fire();
                }
                return Now();
            }
            var first = After();
            engine.Restore(saved);
            Assert.Equal(before, Now());
            Assert.Equal(first, After());
        }
    }

    [Fact]
    public void A_loop_without_an_event_is_stopped_and_its_states_are_named()
    {
        // a → b → c → b → c …
        ChartNode[] nodes = [new(NodeKind.Compound, -1), new(NodeKind.Atomic, 0), new(NodeKind.Atomic, 0), new(NodeKind.Atomic, 0)];
        ChartTransition[] transitions = [new(1, [2], false, true), new(2, [3], false, true), new(3, [2], false, true)];
        var engine = new ChartMachine(new Chart(nodes, transitions), new Always());
        var loop = Assert.Throws<EndlessLoop>(engine.Start);
        Assert.Equal([2, 3], loop.Nodes.Order());
    }

    private sealed class Always : IChartHost
    {
        public bool Enabled(int transition) => true;

        public bool EnabledNow(int transition) => true;

        public void Entered(int node) { }

        public void Exited(int node) { }

        public void Taken(int transition) { }

        public void Done(int node, int byFinal) { }

        public bool NextInternal() => false;
    }

    [Fact]
    public void Stepping_allocates_nothing()
    {
        var charts = Enumerable.Range(1, 20).Select(s => new GeneratedChart(s)).ToArray();
        foreach (var chart in charts)
        {
            var engine = new ChartMachine(new Chart(chart.Nodes, chart.Transitions), new Silent(chart));
            engine.Start();
            for (var i = 0; i < 50; i++)
                engine.Fire();
            var least = Allocation.Least(() =>
            {
                for (var i = 0; i < 1000; i++)
                    engine.Fire();
            });
            Assert.Equal(0, least);
        }
    }

    private sealed class Silent(GeneratedChart chart) : IChartHost
    {
        private int now;

        public bool Enabled(int t) => (chart.Meaning[t].Events >> (now = (now + 1) % GeneratedChart.Events) & 1) != 0;

        public bool EnabledNow(int t) => false;

        public void Entered(int node) { }

        public void Exited(int node) { }

        public void Taken(int t) { }

        public void Done(int node, int byFinal) { }

        public bool NextInternal() => false;
    }

    [Fact]
    public void Nodes_out_of_document_order_are_refused()
    {
        Assert.Throws<ArgumentException>(() =>
            new Chart([new(NodeKind.Compound, -1), new(NodeKind.Compound, 0), new(NodeKind.Atomic, 0), new(NodeKind.Atomic, 1)], [])
        );
        Assert.Throws<ArgumentException>(() => new Chart([], []));
    }
}
