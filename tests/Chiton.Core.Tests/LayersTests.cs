using System.Text.RegularExpressions;

namespace Chiton.Core.Tests;

/// <summary>Dependencies point one way.</summary>
public partial class LayersTests
{
    private static readonly Dictionary<string, string[]> MayUse = new()
    {
        ["Quantities"] = [],
        ["Rigs"] = ["Quantities"],
        ["Sensing"] = ["Quantities", "Rigs"],
        ["Motion"] = ["Quantities", "Rigs"],
        ["Programs"] = ["Quantities", "Rigs", "Sensing", "Motion"],
        ["Simulation"] = ["Quantities", "Rigs", "Sensing", "Motion", "Programs"],
        // Checks ask the bench how much harm a finding does.
        ["Checking"] = ["Quantities", "Rigs", "Sensing", "Motion", "Programs", "Simulation"],
        ["Proving"] = ["Quantities", "Rigs", "Sensing", "Motion", "Programs", "Checking", "Simulation"],
        ["Logbook"] = ["Quantities", "Rigs", "Sensing", "Motion", "Programs", "Checking", "Simulation", "Proving"],
        ["Classroom"] = ["Quantities", "Rigs", "Sensing", "Motion", "Programs", "Checking", "Simulation", "Proving", "Logbook"],
    };

    private static string Root
    {
        get
        {
            var folder = new DirectoryInfo(AppContext.BaseDirectory);
            while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
                folder = folder.Parent!;
            return folder.FullName;
        }
    }

    [Fact]
    public void Core_folders_use_only_those_below_them()
    {
        var core = Path.Combine(Root, "src", "Chiton.Core");
        var seen = 0;
        foreach (
            var file in Directory
                .EnumerateFiles(core, "*.cs", SearchOption.AllDirectories)
                .Where(f => !f.Contains($"{Path.DirectorySeparatorChar}obj{Path.DirectorySeparatorChar}"))
        )
        {
            var folder = Path.GetRelativePath(core, file).Split(Path.DirectorySeparatorChar)[0];
            Assert.Contains(folder, MayUse.Keys);
            foreach (Match match in CoreName().Matches(File.ReadAllText(file)))
            {
                seen++;
                var used = match.Groups[1].Value;
                Assert.True(used == folder || MayUse[folder].Contains(used), $"{Path.GetFileName(file)} in {folder} uses {used}.");
            }
        }
        Assert.True(seen > 30);
    }

    [Fact]
    public void Core_knows_no_interface_no_storage_no_clock_and_no_randomness_of_its_own()
    {
        var names = typeof(Quantity).Assembly.GetReferencedAssemblies().Select(a => a.Name!).ToArray();
        Assert.DoesNotContain(
            names,
            n => n.StartsWith("Microsoft.AspNetCore") || n.StartsWith("Microsoft.EntityFrameworkCore") || n.Contains("Sqlite")
        );
        foreach (var file in Directory.EnumerateFiles(Path.Combine(Root, "src", "Chiton.Core"), "*.cs", SearchOption.AllDirectories))
            Assert.DoesNotMatch(@"DateTime(Offset)?\.(Utc)?Now|new Random\(|Random\.Shared|Stopwatch", File.ReadAllText(file));
    }

    [Fact]
    public void Data_does_not_know_the_server()
    {
        foreach (var file in Directory.EnumerateFiles(Path.Combine(Root, "src", "Chiton.Data"), "*.cs", SearchOption.AllDirectories))
            Assert.DoesNotContain("Chiton.Server", File.ReadAllText(file));
    }

    [Fact]
    public void Versions_of_assembly_packages_and_changelog_agree()
    {
        var version = typeof(Quantity).Assembly.GetName().Version!.ToString(3);
        foreach (var package in new[] { "src/web/package.json", "tests/e2e/package.json" })
            Assert.Equal(
                version,
                System
                    .Text.Json.JsonDocument.Parse(File.ReadAllText(Path.Combine(Root, package)))
                    .RootElement.GetProperty("version")
                    .GetString()
            );
        Assert.StartsWith(
            $"## {version}",
            File.ReadLines(Path.Combine(Root, "CHANGELOG.md")).First(l => l.StartsWith("## ", StringComparison.Ordinal))
        );
    }

    [GeneratedRegex(@"Chiton\.Core\.([A-Z]\w+)")]
    private static partial Regex CoreName();
}
