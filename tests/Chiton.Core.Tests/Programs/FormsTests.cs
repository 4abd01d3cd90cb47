using System.Text.RegularExpressions;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Programs;

/// <summary>The list of sentences is true: each is read, all words are in it, and the page is made of it.</summary>
public partial class FormsTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Tag eye", ["sleepers", "bed tag"]) { Reads = Dimension.Percent, Teachable = true },
            new("Range", ["near", "far"]) { Reads = Dimension.Length, MayHearNothing = true },
            new("Knob", ["up", "down"]) { Switch = true },
        ],
        [
            new("Mast motor", ActuatorKind.RegulatedMotor),
            new("Dial", ActuatorKind.Stepper),
            new("Left motor", ActuatorKind.RegulatedMotor),
            new("Right motor", ActuatorKind.RegulatedMotor),
            new("Flap servo", ActuatorKind.Servo),
            new("Lamp", ActuatorKind.Lamp),
        ],
        ["bed 3"]
    )
    {
        Mechanisms =
        [
            new("Mast", MechanismKind.Lift, ActuatorKind.RegulatedMotor, ["low shelf"], ["up", "down"]) { Motors = ["Mast motor"] },
            new("Drive", MechanismKind.TwoWheelDrive, ActuatorKind.RegulatedMotor, [], []) { Motors = ["Left motor", "Right motor"] },
            new("Flap", MechanismKind.Lid, ActuatorKind.Servo, ["open"], []) { Motors = ["Flap servo"] },
        ],
        Programs = ["Keeper"],
    };

    public static TheoryData<string> Examples => [.. Forms.All.Select(f => f.Example)];

    [Theory]
    [MemberData(nameof(Examples))]
    public void Every_example_is_read_and_printed_as_it_stands(string line)
    {
        var head = Forms.All.First(f => f.Example == line).Group is "head" or "world";
        var script =
            $"program T\n\n{(head && line != "var beds = 0" ? line + "\n" : "")}var beds = 0\nvar line = queue\n"
            + "\nregion Main\n  state Rolling, initial\n"
            + (head ? "" : $"    {line}\n")
            + "  state Over\n\nroutine Dip\n  state Down, initial, final\n";
        var parsed = ScriptParser.Parse(script, Rig);
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics));
        Assert.Contains(line, Printer.Print(parsed.Program));
    }

    [Fact]
    public void Every_word_of_the_language_is_told()
    {
        var folder = Folder();
        var told =
            string.Join(" ", Forms.All.Select(f => $"{f.Form} {f.Says} {f.Example}"))
            + File.ReadAllText(Path.Combine(folder, "docs", "language.md"));
        Assert.Equal("", string.Join(" ", Words.Keywords.Where(w => !Regex.IsMatch(told, $@"\b{w}\b", RegexOptions.IgnoreCase))));
    }

    // With CHITON_WRITE=1 the pages are written anew (./dev docs).
    [Fact]
    public void The_page_has_the_tables_of_the_list() => Holds("language.md", Forms.All.Select(f => f.Group), Forms.Table);

    [Fact]
    public void The_page_of_scenes_has_the_tables_of_their_sentences() =>
        Holds("scenes.md", SceneForms.All.Select(f => f.Group), SceneForms.Table);

    private static void Holds(string name, IEnumerable<string> all, Func<string[], string> table)
    {
        var page = Path.Combine(Folder(), "docs", name);
        var text = File.ReadAllText(page);
        var seen = new HashSet<string>();
        var made = Tables()
            .Replace(
                text,
                m =>
                {
                    var groups = m.Groups[1].Value.Split(", ");
                    seen.UnionWith(groups);
                    return $"<!-- table: {m.Groups[1].Value} -->\n\n{table(groups)}\n<!-- end -->";
                }
            );
        if (Environment.GetEnvironmentVariable("CHITON_WRITE") == "1")
            File.WriteAllText(page, made);
        Assert.Equal(all.ToHashSet(), seen);
        Assert.True(File.ReadAllText(page) == made, $"docs/{name} is not what the list of sentences says: run ./dev docs.");
    }

    private static string Folder()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
            folder = folder.Parent!;
        return folder.FullName;
    }

    [GeneratedRegex(@"<!-- table: ([^>]*?) -->.*?<!-- end -->", RegexOptions.Singleline)]
    private static partial Regex Tables();
}
