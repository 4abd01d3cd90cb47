using Chiton.Core.Checking;
using Chiton.Core.Simulation;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Checking;

/// <summary>Sound machines made by chance from patterns raise no alarm.</summary>
[Collection("Behind everything else")]
public class MadeTests
{
    [Fact]
    public void Machines_of_one_to_three_patterns_that_pass_raise_nothing_above_advice()
    {
        var luck = new RandomStream(7, 9);
        Mutants.Sound[] rigs = [.. Farm.All(DateTime.UnixEpoch).Select(r => Mutants.Mended(r.Id))];
        var made = 0;
        for (var tried = 0; tried < 50 && made < 12; tried++)
        {
            var sound = rigs[(int)(luck.Uniform() * rigs.Length)];
            if (Made.Of(sound, ref luck) is not { } design)
                continue;
            made++;
            var look = Mutants.Look(sound, design, 200)!.Value;
            Assert.Empty(
                look.Findings.Where(f => f.Severity <= Severity.Risky && !f.Code.StartsWith("wiring-", StringComparison.Ordinal))
                    .Select(f => $"{sound.Id}: {f.Code} {f.Owner} {f.Headline}\n{design.Programs[0].Script}")
            );
        }
        Assert.True(made >= 9, $"{made} made");
    }
}
