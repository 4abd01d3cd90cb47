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
    internal static async Task<GuestFinder?> Guests(RigStore store, SceneNode scene, CancellationToken cancel)
    {
        var lines = scene.All("guest").ToArray();
        if (lines.Length == 0)
            return null;
        var listed = await store.List(cancel);
        var found = new Dictionary<(string, int), BenchCopy>();
        foreach (var line in lines)
        {
            var (name, copy) = (line.Name("rig")!, (int)line.Value("n")!.Value);
            if (
                listed.FirstOrDefault(r => r.Design.Design.Name == name || r.Rig.Id == name) is not { } rig
                || found.ContainsKey((name, copy))
            )
                continue;
            try
            {
                found[(name, copy)] = (await store.Load(rig.Rig.Id, copy, null, cancel)).Bench;
            }
            catch (NotStored)
            {
                // The plan says which line asks for a copy that is not there.
            }
        }
        return (rig, copy) => found.GetValueOrDefault((rig, copy));
    }
}
