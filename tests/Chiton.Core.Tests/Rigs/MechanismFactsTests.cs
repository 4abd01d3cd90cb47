using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Rigs;

public class MechanismFactsTests
{
    [Fact]
    public void Every_kind_has_its_line()
    {
        foreach (var kind in Enum.GetValues<MechanismKind>())
        {
            var facts = MechanismFacts.Of(kind);
            Assert.True(facts.Words.Length > 0, $"{kind} is not called anything.");
            Assert.InRange(facts.LeastMotors, 1, facts.MostMotors);
        }
        Assert.Equal(
            Enum.GetValues<MechanismKind>().Length,
            Enum.GetValues<MechanismKind>().Select(k => MechanismFacts.Of(k).Words).Distinct().Count()
        );
    }

    [Fact]
    public void A_kind_that_was_forgotten_is_an_error() => Assert.Throws<KeyNotFoundException>(() => MechanismFacts.Of((MechanismKind)999));

    // What rules ask is what a kind does; only its line, templates and the demo name kinds.
    [Theory]
    [InlineData("MechanismKind.", new[] { "MechanismFacts.cs", "RigTemplates.cs" })]
    public void Nothing_else_in_the_core_asks_for_a_kind_by_name(string what, string[] homes)
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
            folder = folder.Parent!;
        var asking = Directory
            .EnumerateFiles(Path.Combine(folder.FullName, "src", "Chiton.Core"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Split(Path.DirectorySeparatorChar).Contains("obj"))
            .Where(f => !homes.Contains(Path.GetFileName(f)) && File.ReadAllText(f).Contains(what))
            .Select(Path.GetFileName)
            .ToArray();
        Assert.Empty(asking);
    }
}
