using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>The demo rigs on the bench: every one runs, none is hopeless or perfect; scenes are printed as they stand.</summary>
public class FarmBenchTests
{
    public static TheoryData<string> Rigs => [.. Farm.All(DateTime.UnixEpoch).Select(r => r.Id)];

    private static double Rate(BenchPlan plan, int runs)
    {
        var passed = 0;
        Parallel.For(
            0,
            runs,
            () => new Core.Simulation.Bench(plan),
            (i, _, bench) =>
            {
                if (bench.Go(RandomStream.SeedOfRun(1, i)).Passed)
                    Interlocked.Increment(ref passed);
                return bench;
            },
            _ => { }
        );
        return 100.0 * passed / runs;
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void As_in_the_shed_passes_in_40_to_90_of_100_runs_and_mended_in_95(string id)
    {
        var plan = DemoBench.Plan(id);
        Assert.Null(plan.Unproved);
        Assert.All(plan.Rules, r => Assert.Null(r.Unjudged));
        Assert.InRange(Rate(plan, 400), 40, 90);
        var cures = Cures.Of(id);
        Assert.InRange(Rate(DemoBench.Mended(id, cures), 400), 95, 100);
        // Each alone leaves a rig that can be judged.
        Assert.All(cures, cure => Assert.Null(DemoBench.Mended(id, [cure]).Unproved));
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Its_scenes_stand_as_they_are_printed_and_run(string id)
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id).Design;
        Assert.True(rig.Scenes.Count >= 2);
        foreach (var (scene, i) in rig.Scenes.Select((s, i) => (s, i)))
        {
            var read = SceneParser.Parse(scene.Text, rig);
            Assert.Empty(read.Diagnostics);
            Assert.Equal(scene.Text, ScenePrinter.Print(read.Scene));
            Assert.InRange(read.Scene.EndsS, 1, 150);
            var report = BenchReport.Watch(DemoBench.Plan(id, i), 7, 10);
            Assert.NotEmpty(report.Events);
            Assert.NotEqual("", report.Say);
        }
    }

    [Theory]
    [InlineData("deck-scrubber")]
    [InlineData("rack-hoist")]
    [InlineData("shell-sorter")]
    [InlineData("lock-keeper")]
    public void The_same_seed_is_the_same_run_watched_or_not_on_any_thread(string id)
    {
        var plan = DemoBench.Plan(id);
        var bench = new Core.Simulation.Bench(plan);
        var first = Enumerable.Range(0, 12).Select(i => bench.Go(RandomStream.SeedOfRun(3, i))).ToArray();
        var many = new BenchResult[12];
        Parallel.For(0, 12, i => many[i] = new Core.Simulation.Bench(plan).Go(RandomStream.SeedOfRun(3, i)));
        Assert.Equal(first, many);
        for (var i = 0; i < 3; i++)
        {
            var watched = BenchReport.Watch(plan, RandomStream.SeedOfRun(3, i), 50);
            Assert.Equal(first[i].Passed, watched.Passed);
            Assert.Equal(first[i].TimeMicros * 1e-6, watched.DecidedS);
        }
    }

    // What an independent simulation with exact time gives, in 100: the bench must stand beside it.
    [Theory]
    [InlineData(60, 1, 57.9, 60.7)]
    [InlineData(55, 1, 77.7, 77.0)]
    [InlineData(60, 4, 77.0, 80.5)]
    [InlineData(55, 4, 99.3, 99.7)]
    [InlineData(30, 1, 80.8, 80.3)]
    [InlineData(40, 1, 83.7, 83.3)]
    [InlineData(58, 4, 92.6, 94.5)]
    public void The_trolley_agrees_with_an_independent_simulation(int power, int readings, double before, double rate)
    {
        var script = SeedTrolley.Script.Replace("60 %", $"{power} %");
        if (readings > 1)
            script = script.Replace("becomes sleepers:", $"becomes sleepers for {readings} readings:");
        // 12 000 in the long run, within 1.5; here fewer, within three of their standard errors.
        var runs = Campaign.Whole ? 12_000 : 1200;
        double Within(double r) => Campaign.Whole ? 1.5 : 0.6 + 300 * Math.Sqrt(r / 100 * (1 - r / 100) / runs);
        // First as it was: without current against friction, and with edges that count from the start of the program.
        // It knows every spread as it was found.
        var model = new BenchModel { Correlated = false, SpreadsInDoubt = false };
        var once = DemoBench.Plan("seed-trolley", script: script, model: model with { FrictionCurrent = false, EdgesFromStart = true });
        Assert.Equal(before, Rate(once, runs), Within(before));
        Assert.Equal(rate, Rate(DemoBench.Plan("seed-trolley", script: script, model: model), runs), Within(rate));
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Half_the_step_changes_no_rate(string id)
    {
        var runs = Campaign.Whole ? 1000 : 60;
        for (var scene = 0; scene < 2; scene++)
        {
            var (whole, half) = (DemoBench.Plan(id, scene), DemoBench.Plan(id, scene, model: new() { StepMicros = 1000 }));
            int better = 0,
                worse = 0;
            Parallel.For(
                0,
                runs,
                () => (new Core.Simulation.Bench(whole), new Core.Simulation.Bench(half)),
                (i, _, two) =>
                {
                    // On the same luck: only runs that part speak for one or the other.
                    var (a, b) = (two.Item1.Go(RandomStream.SeedOfRun(1, i)).Passed, two.Item2.Go(RandomStream.SeedOfRun(1, i)).Passed);
                    if (a && !b)
                        Interlocked.Increment(ref worse);
                    if (b && !a)
                        Interlocked.Increment(ref better);
                    return two;
                },
                _ => { }
            );
            Assert.True(Math.Abs(better - worse) <= 3.5 * Math.Sqrt(better + worse) + 1, $"scene {scene}: {better} better, {worse} worse");
        }
    }

    [Fact]
    public void A_rail_of_before_becomes_a_scene_and_runs_the_same()
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == "seed-trolley");
        var before = rig.Design with { Scenes = [] };
        var opened = Data.Designs.WithScenes(before);
        var read = SceneParser.Parse(opened.Scenes[0].Text, opened);
        Assert.Empty(read.Diagnostics);
        Assert.Equal(
            rig.Design.Rail!.Markers.Select(m => (m.Name, m.AtMm, m.LengthMm.Value)),
            SceneStarts.RailOf(read.Scene)!.Markers.Select(m => (m.Name, m.AtMm, m.LengthMm.Value))
        );
        var plan = BenchPlan.Build(DemoBench.Copy(rig, 1, opened), read.Scene);
        Assert.Equal(60.7, Rate(plan, 800), 6.0);
    }

    [Fact]
    public void Names_that_change_change_in_scenes_too()
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == "rack-hoist").Design;
        var renamed = SceneEdits.Renamed(Renames.InRig(rig, Renamed.Device, null, "Shelf eye", "Rack eye"), "Shelf eye", "Rack eye");
        Assert.Contains("before Rack eye", renamed.Scenes[0].Text);
        Assert.Empty(SceneParser.Parse(renamed.Scenes[0].Text, renamed).Diagnostics);
    }
}
