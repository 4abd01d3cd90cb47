namespace Chiton.Core.Tests.Simulation;

public class SampleBenchTests
{
    private static double[] Read(
        Sensor sensor,
        BenchThing thing,
        int count,
        double amount = 0,
        BenchCare care = BenchCare.AsItIs,
        ulong seed = 5
    )
    {
        var held = new SimulatedSensor(sensor, thing, amount, care, new(seed, 1));
        var one = new double[held.Width];
        var all = new List<double>();
        for (var i = 0; i < count; i++)
        {
            held.Read(one);
            all.AddRange(one);
        }
        return [.. all];
    }

    private static double Sd(double[] v) => Math.Sqrt(v.Sum(x => (x - v.Average()) * (x - v.Average())) / (v.Length - 1));

    private static readonly Sensor Eye = new("Eye", SensorKind.ReflectedLight, 10, 0, []);

    [Fact]
    public void Every_kind_of_sensor_has_things_and_stays_in_its_range()
    {
        foreach (var kind in Enum.GetValues<SensorKind>().Where(k => k != SensorKind.Encoder))
        {
            var facts = SensorFacts.Of(kind);
            var sensor = new Sensor("S", kind, facts.SamplePeriodMs, facts.Resolution, [])
            {
                ReachMm = FarmBench.Sure(2000, "mm"),
                BlindMm = FarmBench.Sure(30, "mm"),
                SilentReading = 0,
            };
            Assert.NotEmpty(SampleBench.Things(kind));
            foreach (var thing in SampleBench.Things(kind))
                Assert.All(Read(sensor, thing, 300, SensorFacts.Of(kind).Amount?.Usual ?? 0), r => Assert.InRange(r, facts.From, facts.To));
        }
        Assert.Empty(SampleBench.Things(SensorKind.Encoder));
    }

    [Fact]
    public void Readings_have_the_mean_and_spread_they_were_given_and_shade_halves_the_spread()
    {
        var thing = new BenchThing("card", 40, 2);
        var plain = Read(Eye, thing, 20_000);
        Assert.Equal(40, plain.Average(), 1);
        Assert.InRange(Sd(plain), 1.95, 2.05);
        Assert.InRange(Sd(Read(Eye, thing, 20_000, care: BenchCare.Shaded)), 0.97, 1.03);
        Assert.InRange(Sd(Read(Eye, thing, 20_000, care: BenchCare.Flickering)), 2.92, 3.08);
        Assert.Equal(plain, Read(Eye, thing, 20_000));
    }

    [Fact]
    public void Repeated_noise_and_drift_are_as_asked()
    {
        var repeated = Read(Eye, new("splash", 50, 3, Lag1: 0.7), 20_000);
        double mean = repeated.Average(),
            lag = 0,
            all = 0;
        for (var i = 1; i < repeated.Length; i++)
        {
            lag += (repeated[i] - mean) * (repeated[i - 1] - mean);
            all += (repeated[i] - mean) * (repeated[i] - mean);
        }
        Assert.InRange(lag / all, 0.66, 0.74);
        Assert.InRange(Sd(repeated), 2.8, 3.2);
        // 6000 readings of 10 ms are a minute.
        var drift = Read(Eye, new("sun", 20, 0, DriftPerMinute: 30), 6001);
        Assert.Equal(50, drift[^1], 6);
    }

    [Fact]
    public void The_blind_zone_answers_wrongly_and_beyond_reach_nothing_is_heard()
    {
        var range = new Sensor("Range", SensorKind.Distance, 30, 1, [])
        {
            BlindMm = FarmBench.Sure(40, "mm"),
            ReachMm = FarmBench.Sure(1500, "mm"),
            SilentReading = 0,
        };
        var board = new BenchThing("board", 0, 1, PerAmount: 1);
        Assert.InRange(Read(range, board, 500, 200).Average(), 199, 201);
        Assert.All(Read(range, board, 500, 10), r => Assert.InRange(r, 35, 85));
        Assert.All(Read(range, board, 50, 1800), r => Assert.Equal(0, r));
        Assert.All(Read(range with { SilentReading = null }, board, 50, 1800), r => Assert.True(double.IsNaN(r)));
        Assert.InRange(Read(range, board with { Silent = 0.2 }, 5000, 300).Count(r => r == 0) / 5000.0, 0.17, 0.23);
    }

    [Fact]
    public void A_tapped_switch_presses_and_bounces_and_the_judgement_finds_it()
    {
        var button = new Sensor("Button", SensorKind.Touch, 5, 0, ["up", "down"]);
        var trace = SwitchJudgement.Judge([new("taps", Read(button, new("tapped", 0, 0, Taps: true), 4000))], 5, null, null).Traces[0];
        Assert.InRange(trace.Presses.Count, 10, 40);
        Assert.All(trace.Presses, p => Assert.InRange(p.ForMs, 60, 450));
        Assert.InRange(trace.LongestBounceMs, 5, SwitchJudgement.BounceMs);
    }

    [Fact]
    public void A_probe_reads_with_its_supply()
    {
        var probe = new Sensor("Probe", SensorKind.Probe, 100, 0, []) { ProbeSupplyV = 5 };
        var water = new BenchThing("water", 100, 0, PerAmount: 6);
        Assert.Equal(400, Read(probe, water, 1, 50)[0], 6);
        Assert.Equal(250, Read(probe with { ProbeSupplyV = 2.5 }, water, 1, 50)[0], 6);
    }

    [Fact]
    public void Named_colours_are_named()
    {
        var names = new Sensor("Named", SensorKind.ColourName, 20, 0, []);
        string Word(string thing) =>
            SenseJudge.ColourWords[
                (int)Read(names, SampleBench.Things(SensorKind.ColourName).Single(t => t.Name == thing) with { Sd = 0 }, 1)[0]
            ];
        Assert.Equal(("white", "red", "green"), (Word("white line"), Word("red tag"), Word("green tag")));
    }

    [Fact]
    public void Two_copies_see_the_same_thing_a_little_differently()
    {
        var thing = new BenchThing("card", 40, 2);
        Assert.Equal(SampleBench.Seen(thing, 7), SampleBench.Seen(thing, 7));
        Assert.NotEqual(SampleBench.Seen(thing, 7).Mean, SampleBench.Seen(thing, 8).Mean);
        Assert.InRange(SampleBench.Seen(thing, 7).Mean, 30, 50);
    }

    [Fact]
    public void Every_kind_of_sensor_has_its_line_in_the_table_and_things_to_stand_before()
    {
        foreach (var kind in Enum.GetValues<SensorKind>())
        {
            var facts = SensorFacts.Of(kind);
            Assert.True(facts.From < facts.To && facts.SamplePeriodMs > 0 && facts.Resolution > 0, $"{kind}");
            Assert.NotEmpty(facts.Touch);
            Assert.Contains(facts.View, new[] { "scalar", "bands", "colours", "names", "switch", "none" });
            Assert.Equal(facts.Shelf == BenchShelf.None, SampleBench.Things(kind).Count == 0);
            Assert.Equal(facts.Signal == SensorSignal.None, new Sensor("S", kind, 10, 1, []).Leads.Count == 0);
        }
        Assert.Equal(
            Enum.GetValues<BenchShelf>().Order(),
            Enum.GetValues<SensorKind>().Select(k => SensorFacts.Of(k).Shelf).Distinct().Order()
        );
    }

    [Fact]
    public void A_rigs_own_surfaces_are_seen_by_what_sees_surfaces_and_always_alike()
    {
        var once = SampleBench.Surface(SensorKind.ReflectedLight, "sleepers")!;
        Assert.Equal(once, SampleBench.Surface(SensorKind.ReflectedLight, "sleepers"));
        Assert.NotEqual(once.Mean, SampleBench.Surface(SensorKind.ReflectedLight, "bed tag")!.Mean);
        Assert.InRange(once.Mean, 8, 88);
        Assert.Equal(3, SampleBench.Surface(SensorKind.Colour, "bed tag")!.Rgb!.Length);
        Assert.Null(SampleBench.Surface(SensorKind.Force, "sleepers"));
        // No rig's own things stand on the shelf of all.
        Assert.DoesNotContain(SampleBench.Things(SensorKind.Colour), t => t.Name.Contains("shell"));
        Assert.Contains(SampleBench.Things(SensorKind.Colour), t => t.Name == "table top");
    }
}
