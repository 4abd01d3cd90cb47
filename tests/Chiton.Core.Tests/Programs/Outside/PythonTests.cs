using Chiton.Core.Programs.Engine;
using Chiton.Core.Tests.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>What is written as Python does what the engine does, to the microsecond.</summary>
public class PythonTests
{
    // A sample of ten thousand, which ./dev long runs whole.
    private static readonly int Many = Campaign.Of(300, 10_000);

    private static BoardJob Ends(int seed)
    {
        var made = new GeneratedScript(seed);
        var parsed = ScriptParser.Parse(made.Script, GeneratedScript.Rig);
        Assert.Empty(parsed.Diagnostics);
        var script = ScriptCompiler.Compile(parsed.Program, GeneratedScript.Rig);
        var events = new List<BoardEvent>();
        foreach (var (e, micros) in made.Steps)
        {
            events.Add(new("pass", micros));
            var words = e.Split(' ');
            if (e == "")
                continue;
            events.Add(
                words[0] switch
                {
                    "told" => new("told", Array.IndexOf(script.Texts, words[1]), -1, Array.Empty<double>()),
                    "Eye" => new("zone", 0, script.ZoneIndex(words[2])),
                    "Range" when words[1] == "hears" => new("silent", 1),
                    "Range" => new("read", 1, double.Parse(words[2], System.Globalization.CultureInfo.InvariantCulture)),
                    var motor => new("ended", script.DeviceIndex(motor)),
                }
            );
        }
        return new($"ends{seed}", script, events);
    }

    [Fact]
    public void Ends_limits_and_conditions_are_the_same()
    {
        BoardJob[] jobs = [.. Enumerable.Range(1, Many).Select(Ends)];
        var python = BoardRuns.Python(jobs);
        foreach (var job in jobs)
            Assert.Null(BoardRuns.Differs(job, BoardRuns.Engine(job), python[job.Name]));
    }

    [Fact]
    public void All_of_the_language_is_the_same()
    {
        var jobs = BoardScript.Some(Many);
        // What is made has all that the tables can hold, and it is done, not only written.
        var units = jobs.SelectMany(j => j.Script.Units).ToArray();
        Assert.Equal(Enum.GetValues<FireKind>(), units.SelectMany(u => u.Transitions.Select(t => t.Kind)).Distinct().Order());
        Assert.Equal(Enum.GetValues<DoKind>(), units.SelectMany(u => u.Activities.Select(a => a.Kind)).Distinct().Order());
        Assert.Equal(
            Enum.GetValues<PressKind>(),
            units.SelectMany(u => u.Transitions).Where(t => t.Kind == FireKind.Press).Select(t => t.Press).Distinct().Order()
        );
        var codes = typeof(Code).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(Code))).Select(t => t.Name).ToHashSet();
        Assert.Equal([], codes.Except(jobs.SelectMany(j => j.Script.AllCodes).Select(c => c.GetType().Name)).Order());
        var python = BoardRuns.Python(jobs);
        // Most of them come to something, and go on until the last thing that happened.
        var done = jobs.Select(j => (Job: j, Lines: BoardRuns.Engine(j))).ToArray();
        Assert.True(done.Count(d => d.Lines.Any(l => l.Contains(" c", StringComparison.Ordinal))) > jobs.Count / 2);
        Assert.True(done.Count(d => d.Lines[^1].Split(' ') is [_, "-", ..]) > jobs.Count / 3);
        var different = jobs.Select(job => BoardRuns.Differs(job, BoardRuns.Engine(job), python[job.Name])).OfType<string>().ToArray();
        Assert.True(different.Length == 0, $"{different.Length} of {jobs.Count} differ:\n{string.Join("\n\n", different.Take(3))}");
    }

    [Fact]
    public void A_planted_change_is_noticed()
    {
        var jobs = BoardScript.Some(100);
        var engine = jobs.ToDictionary(j => j.Name, BoardRuns.Engine);
        foreach (
            var (was, now) in new[]
            {
                ("TAP = 500000", "TAP = 50000"),
                ("self.count < needed", "self.count <= needed"),
                ("reading < value - band", "reading <= value - band"),
                ("for node in reversed(order)", "for node in order"),
                ("self.rounds[parent] <= 0", "self.rounds[parent] < 0"),
                ("> self.thresholds[z] + self.bands[z]", "> self.thresholds[z]"),
                ("if u.t_kind[t] == TOLD:\n            into", "if False:\n            into"),
            }
        )
        {
            var changed = false;
            var python = BoardRuns.Python(
                jobs,
                code =>
                {
                    changed |= code.Contains(was, StringComparison.Ordinal);
                    return code.Replace(was, now, StringComparison.Ordinal);
                }
            );
            Assert.True(changed, was);
            Assert.True(jobs.Any(j => BoardRuns.Differs(j, engine[j.Name], python[j.Name]) is not null), $"Nobody notices {now}.");
        }
    }

    [Fact]
    public void It_needs_no_other_module_and_keeps_to_what_small_Pythons_know()
    {
        var code = Chiton.Core.Programs.Outside.PythonCode.Write(
            "Beds\nand more",
            BoardScript.Make(1)?.Script ?? BoardScript.Make(2)!.Script
        );
        Assert.StartsWith("# Beds and more\n", code);
        foreach (var never in new[] { "import ", "->", ": int", "f\"", "@dataclass", ":=", "match ", "async ", "lambda" })
            Assert.DoesNotContain(never, code);
        Assert.All(code.Split('\n'), l => Assert.DoesNotContain('\t', l));
    }
}
