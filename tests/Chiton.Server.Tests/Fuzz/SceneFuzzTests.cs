using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Fuzz;

/// <summary>Sentences of all scenes thrown together on every rig: each scene runs, or is refused in words.</summary>
public class SceneFuzzTests
{
    public static TheoryData<string> Rigs => [.. Farm.All(DateTime.UnixEpoch).Select(r => r.Id)];

    private static readonly DemoRig[] Farms = [.. Farm.All(DateTime.UnixEpoch)];

    // Every example of the language, and every line of every scene of the farm.
    private static readonly string[] Lines =
    [
        .. SceneForms
            .All.Select(f => f.Example)
            .Concat(Farms.SelectMany(r => r.Design.Scenes.SelectMany(s => s.Text.Split('\n').Skip(1))))
            .Where(l =>
                l.Trim() != "" && !l.StartsWith("scene ", StringComparison.Ordinal) && !l.StartsWith("ends", StringComparison.Ordinal)
            )
            .Distinct(),
    ];

    // A line of another rig, with names of this one in place of its own.
    private static string Here(string line, RigDesign rig, Random luck)
    {
        foreach (var other in Farms.Select(f => f.Design))
        {
            foreach (var s in other.Sensors)
                line = line.Replace(s.Name, rig.Sensors[luck.Next(rig.Sensors.Count)].Name, StringComparison.Ordinal);
            foreach (var m in other.Mechanisms.Where(_ => rig.Mechanisms.Count > 0))
                line = line.Replace(m.Name, rig.Mechanisms[luck.Next(rig.Mechanisms.Count)].Name, StringComparison.Ordinal);
        }
        return line;
    }

    private static BenchCopy? Guest(string name, int copy) =>
        Farms.FirstOrDefault(f => f.Design.Name == name || f.Id == name) is { } found && copy == 1 ? DemoBench.Copy(found, 1) : null;

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Any_scene_that_reads_runs_or_says_why_not(string id)
    {
        var farm = Farms.First(f => f.Id == id);
        var (rig, copy) = (farm.Design, DemoBench.Copy(farm, 1));
        var (built, rounds) = (0, Campaign.Of(12, 200));
        for (var seed = 0; seed < rounds; seed++)
        {
            var luck = new Random(seed);
            var lines = luck.Next(3) == 0 ? [] : rig.Scenes[luck.Next(rig.Scenes.Count)].Text.TrimEnd('\n').Split('\n').Skip(1).ToList();
            for (var k = 0; k < luck.Next(1, 5); k++)
                lines.Add(luck.Next(3) == 0 ? Lines[luck.Next(Lines.Length)] : Here(Lines[luck.Next(Lines.Length)], rig, luck));
            lines.RemoveAll(l => l.StartsWith("ends", StringComparison.Ordinal));
            var text = $"scene Thrown together\nends after 6 s\n{string.Join('\n', lines)}\n";
            var read = SceneParser.Parse(text, rig);
            // What it prints, it reads again.
            var printed = ScenePrinter.Print(read.Scene);
            Assert.Equal(printed, ScenePrinter.Print(SceneParser.Parse(printed, rig).Scene));
            if (read.Diagnostics.Count > 0)
            {
                Assert.All(read.Diagnostics, d => Assert.NotEqual("", d.Message));
                continue;
            }
            BenchPlan plan;
            try
            {
                plan = BenchPlan.Build(copy, read.Scene, Guest, null, luck.Next(2) == 0);
            }
            catch (InputProblem refused)
            {
                Assert.All(refused.Errors.Values, w => Assert.EndsWith(".", w));
                continue;
            }
            built++;
            var run = BenchReport.Watch(plan, seed + 1, 10);
            foreach (var body in run.Bodies)
                Assert.All(body.X.Concat(body.Y).Concat(body.Heading), v => Assert.True(v is null || double.IsFinite(v.Value), text));
            Assert.Equal(run.EndS, BenchReport.Watch(plan, seed + 1, 3).EndS);
        }
        Assert.True(built > 0, "nothing was run");
    }

    [Fact]
    public void Marks_before_what_sees_none_are_refused_at_their_line()
    {
        // This fell: a gate has no surfaces to be asked for.
        var farm = Farms.First(f => f.Id == "shell-sorter");
        var scene = SceneParser.Parse(
            "scene Marked\n\nbelt Belt 400 mm\nnotches of notch on Belt 9 mm long at 620 motor deg, before Belt gate\n",
            farm.Design
        );
        Assert.Empty(scene.Diagnostics);
        var refused = Assert.Throws<InputProblem>(() => BenchPlan.Build(DemoBench.Copy(farm, 1), scene.Scene));
        Assert.Equal("Line 4: Belt gate sees no marks: name an eye that reads light or colour.", refused.Errors["scene"]);
    }
}
