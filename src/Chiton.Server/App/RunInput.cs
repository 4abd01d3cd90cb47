using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;

namespace Chiton.Server.App;

/// <summary>What runs, proofs and plays ask for alike.</summary>
public static class RunInput
{
    /// <summary>Checks a seed.</summary>
    public static long Seed(Require need, double? seed)
    {
        need.That(
            seed is { } s && double.IsFinite(s) && s >= 0 && s <= 9e15 && Math.Floor(s) == s,
            "seed",
            "Must be a whole number from 0 to 9000000000000000."
        );
        return need.Holds ? (long)seed!.Value : 0;
    }

    /// <summary>The rigs that a scene has as guests, by their names or addresses.</summary>
    internal static async Task<GuestFinder?> Guests(RigStore store, RigState host, SceneNode scene, CancellationToken cancel)
    {
        var lines = scene.All("guest").ToArray();
        if (lines.Length == 0)
            return null;
        var found = new Dictionary<(string, int), BenchCopy>();
        foreach (var line in lines)
        {
            var asked = (Name: line.Name("rig")!, Copy: (int)line.Value("n")!.Value);
            if (!found.ContainsKey(asked) && await store.Guest(host.Owner, asked.Name, asked.Copy, cancel) is { } guest)
                found[asked] = guest.Bench;
        }
        return (rig, copy) => found.GetValueOrDefault((rig, copy));
    }
}
