using Chiton.Core.Logbook;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>Whether what a proof says of a copy is true of real rigs: copies whose rate is found out with many runs.</summary>
public class TruthTests(ITestOutputHelper output)
{
    /// <summary>A rail, an axis and a floor by <c>./dev truth</c>, each with as many readings a zone as it ships with, the rail with 5 too;
    /// in the suite the quickest of them, with fewer copies.</summary>
    public static TheoryData<string, int?> Rigs =>
        Campaign.Whole
            ? new()
            {
                { "seed-trolley", null },
                { "seed-trolley", 5 },
                { "rack-hoist", null },
                { "deck-scrubber", null },
            }
            : new() { { "seed-trolley", 5 } };

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

    // What somebody reads off a true copy: so many readings a zone, as its numbers vary.
    private static BenchCopy Read(BenchCopy truth, int? readings, int seed)
    {
        var luck = new RandomStream((ulong)RandomStream.SeedOfRun(3_000, seed), 1);
        return truth with
        {
            Calibrations = truth.Calibrations.ToDictionary(
                c => c.Key,
                c =>
                    c.Value with
                    {
                        Zones =
                        [
                            .. c.Value.Zones.Select(z =>
                            {
                                var (mean, n) = (z.Readings.Average(), readings ?? z.Readings.Count);
                                var sd = Math.Sqrt(z.Readings.Sum(v => (v - mean) * (v - mean)) / (z.Readings.Count - 1));
                                // A switch varies in nothing, and is read as it is.
                                return sd == 0
                                    ? z
                                    : z with
                                    {
                                        Readings = [.. Enumerable.Range(0, n).Select(_ => Math.Round(mean + sd * luck.Normal()))],
                                    };
                            }),
                        ],
                    }
            ),
        };
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void The_range_holds_copies_of_a_real_rig(string id, int? readings)
    {
        var (copies, runs) = Campaign.Whole ? (60, 2000) : (30, 400);
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var scene = SceneParser.Parse(rig.Design.Scenes[0].Text, rig.Design).Scene;
        var known = DemoBench.Copy(rig, 1);
        var truth = BenchPlan.Build(known, scene).Draws.ToDictionary(d => d.Name);
        int below = 0,
            above = 0,
            next10 = 0,
            next20 = 0,
            moved = 0,
            taught = 0,
            called = 0;
        var (width, after) = (0.0, 0.0);
        for (var c = 0; c < copies; c++)
        {
            var read = BenchPlan.Build(Read(known, readings, c), scene);
            // What was read is what it is; what is claimed, guessed or measured by others, is drawn from its claim.
            var plan = read.WithNumbers(d =>
                d.Dof == 0
                    ? d
                    : d with
                    {
                        Usual = truth[d.Name].Usual,
                        DoubtSd = 0,
                        Dof = 0,
                        Width = d.EachSd > 0 ? truth[d.Name].EachSd / d.EachSd : 1,
                    }
            );
            moved += read.Draws.Count(d => d.Dof > 0 && Math.Abs(d.Usual - truth[d.Name].Usual) > 1e-9);
            var proof = ManyRuns.Run(new PlanProved(read), new(100 + c, RunLayout.Kinds.Copies, 200));
            var range = CopyRange.Of(RunsDone.Merged(proof.ByCopy()));
            var (low, high) = range.Whole;
            // A copy that none of the proof's is.
            var hidden = RandomStream.SeedOfRun(9_000, c);
            var passed = new bool[runs];
            Parallel.For(
                0,
                runs,
                () => new Chiton.Core.Simulation.Bench(plan),
                (i, _, bench) =>
                {
                    passed[i] = bench.Go(RandomStream.SeedOfRun(50_000 + c, i), copySeed: hidden).Passed;
                    return bench;
                },
                _ => { }
            );
            var rate = passed.Count(p => p) / (double)runs;
            (below, above, width) = (below + (rate < low ? 1 : 0), above + (rate > high ? 1 : 0), width + high - low);
            bool Holds(int n) => range.Next(n) is var r && passed.Take(n).Count(p => p) is var x && x >= r.Low && x <= r.High;
            // Ten runs on the table teach; nothing is off here, so nothing is to be called out.
            RealRun[] trials = [.. passed.Take(20).Select(p => new RealRun(p))];
            var learnt = Reality.Learn(read.Draws, proof, null, trials[..10], false);
            after += learnt.After.High - learnt.After.Low;
            taught += rate >= learnt.After.Low && rate <= learnt.After.High ? 1 : 0;
            called += Reality.Learn(read.Draws, proof, null, trials, false).Called is null ? 0 : 1;
            (next10, next20) = (next10 + (Holds(10) ? 1 : 0), next20 + (Holds(20) ? 1 : 0));
        }
        output.WriteLine(
            $"{id}, {(readings is { } n ? $"{n} readings a zone" : "as it ships")}: {below} below, {above} above of {copies}; "
                + $"mean width {width / copies:0.00}; of 10 {next10}, of 20 {next20} held; "
                + $"after ten trials {after / copies:0.00} wide, {taught} held; {called} called out"
        );
        // What was read came out otherwise than it is.
        Assert.InRange(moved, copies, 4 * copies);
        // 8 in 100 either side, and three standard errors of so few copies.
        var most = 0.08 * copies + 3 * Math.Sqrt(0.08 * 0.92 * copies);
        Assert.InRange(below, 0, most);
        Assert.InRange(above, 0, most);
        Assert.InRange(next10, 0.85 * copies - 3 * Math.Sqrt(0.85 * 0.15 * copies), copies);
        Assert.InRange(next20, 0.85 * copies - 3 * Math.Sqrt(0.85 * 0.15 * copies), copies);
        Assert.True(after < width, $"{after / copies:0.00} wide after ten trials, {width / copies:0.00} before");
        Assert.InRange(taught, 0.84 * copies - 3 * Math.Sqrt(0.84 * 0.16 * copies), copies);
        Assert.InRange(called, 0, 0.05 * copies + 3 * Math.Sqrt(0.05 * 0.95 * copies));
    }
}
