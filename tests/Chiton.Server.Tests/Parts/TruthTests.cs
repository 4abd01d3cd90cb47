using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>Whether what a proof says of a copy is true of real rigs: copies whose rate is found out with many runs.</summary>
public class TruthTests(ITestOutputHelper output)
{
    /// <summary>A rail, an axis and a floor by <c>./dev truth</c>; in the suite the quickest of them, with fewer.</summary>
    public static TheoryData<string> Rigs => Campaign.Whole ? ["seed-trolley", "rack-hoist", "deck-scrubber"] : ["seed-trolley"];

    [Fact]
    public void Tuning_finds_the_speed_at_which_the_hoist_works()
    {
        // Mended, and then made too fast to see its notches: its cure is 25 %.
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == "rack-hoist");
        var design = Cures.Of(rig.Id).Aggregate(rig.Design, (d, cure) => cure.On(d));
        var text = design.Programs[0];
        var fast = text.Script.Replace("run Mast up at 25 %", "run Mast up at 60 %", StringComparison.Ordinal);
        var program = ScriptParser.Parse(fast, Vocabulary.For(design, text)).Program;
        var speed = Tunables.Of(program).First(t => t.Sentence.Contains("run Mast up at 60 %", StringComparison.Ordinal));
        var scene = SceneParser.Parse(design.Scenes[0].Text, design).Scene;
        var copy = DemoBench.Copy(rig, 1, design);
        var found = Tuner.Run(
            [new(speed, 10, 70)],
            v =>
            {
                var tried = Tunables.With(fast, program, [new(speed.Line, speed.Index, v[0])]);
                return new PlanProved(BenchPlan.Build(copy with { Rig = design.WithProgram(0, text with { Script = tried }) }, scene));
            },
            1
        );
        output.WriteLine(
            $"best {(found.Best < 0 ? "none" : found.Points[found.Best].Values[0])}, good {found.Good[0]}; "
                + string.Join(", ", found.Points.Where(p => p.Fresh).Select(p => $"{p.Values[0]}: {p.Passes}"))
        );
        Assert.InRange(found.Best, 0, 3);
        Assert.InRange(found.Points[found.Best].Values[0], 12, 40);
        Assert.InRange(25, found.Good[0].From, found.Good[0].To);
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void The_range_holds_copies_of_a_real_rig(string id)
    {
        var (copies, runs) = Campaign.Whole ? (60, 2000) : (30, 400);
        var bench = new PlanProved(DemoBench.Plan(id));
        int below = 0,
            above = 0,
            next10 = 0,
            next20 = 0;
        var width = 0.0;
        for (var c = 0; c < copies; c++)
        {
            var layout = new RunLayout(100 + c, RunLayout.Kinds.Copies, 200);
            var range = CopyRange.Of(RunsDone.Merged(ManyRuns.Run(bench, layout).ByCopy()));
            var (low, high) = range.Whole;
            // A copy that none of the proof's is.
            var hidden = RandomStream.SeedOfRun(9_000, c);
            var passed = new bool[runs];
            Parallel.For(
                0,
                runs,
                () => bench.Begin(),
                (i, _, run) =>
                {
                    passed[i] = run.Go(RandomStream.SeedOfRun(50_000 + c, i), hidden, default).Passed;
                    return run;
                },
                _ => { }
            );
            var rate = passed.Count(p => p) / (double)runs;
            (below, above, width) = (below + (rate < low ? 1 : 0), above + (rate > high ? 1 : 0), width + high - low);
            bool Holds(int n) => range.Next(n) is var r && passed.Take(n).Count(p => p) is var x && x >= r.Low && x <= r.High;
            (next10, next20) = (next10 + (Holds(10) ? 1 : 0), next20 + (Holds(20) ? 1 : 0));
        }
        output.WriteLine(
            $"{id}: {below} below, {above} above of {copies}; mean width {width / copies:0.00}; of 10 {next10}, of 20 {next20} held"
        );
        // 8 in 100 either side, and three standard errors of so few copies.
        var most = 0.08 * copies + 3 * Math.Sqrt(0.08 * 0.92 * copies);
        Assert.InRange(below, 0, most);
        Assert.InRange(above, 0, most);
        Assert.InRange(next10, 0.85 * copies - 3 * Math.Sqrt(0.85 * 0.15 * copies), copies);
        Assert.InRange(next20, 0.85 * copies - 3 * Math.Sqrt(0.85 * 0.15 * copies), copies);
    }
}
