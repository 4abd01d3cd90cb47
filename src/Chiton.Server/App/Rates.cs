using System.Collections.Concurrent;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Data;
using Chiton.Server.Parts;

namespace Chiton.Server.App;

/// <summary>The success rate that headers and lists show: what is known of it, and what is not known yet.</summary>
public static class Rates
{
    // Why a copy cannot be run at all, by everything that depends on: found once, asked often. Null for one that can.
    private static readonly ConcurrentDictionary<string, string?> Hindered = new();

    /// <summary>True for a program without a single state: not faulty but not begun.</summary>
    public static bool Empty(ParseResult parsed) => !parsed.Program.AllStates.Any();

    /// <summary>Why a copy cannot be run in a scene that counts; null when it can in all of them.</summary>
    public static async Task<string?> Hindrance(RigState state, RigStore store, CancellationToken cancel)
    {
        if (Hindered.TryGetValue(state.Inputs, out var known))
            return known;
        string? why = null;
        var alone = true;
        foreach (var name in state.Known.Counting)
            try
            {
                var scene = state.Scene(name);
                alone &= !scene.All("guest").Any();
                why ??= state.Plan(scene, await RunInput.Guests(store, state, scene, cancel)).Unproved;
            }
            catch (InputProblem p)
            {
                why ??= p.Errors.Values.First();
            }
        // What hangs on another rig too is asked again: that one may change.
        if (!alone)
            return why;
        if (Hindered.Count > 5000)
            Hindered.Clear();
        return Hindered[state.Inputs] = why;
    }

    /// <summary>The rate of a copy, and whether it is better than before.</summary>
    public static async Task<HeaderRate> Of(RigState state, RigStore store, CancellationToken cancel)
    {
        if (Begun(state.Known, state.Revision) is { } begun)
            return begun;
        if (await store.Runs.Gauge(state, cancel) is not { } row)
            return await Hindrance(state, store, cancel) is { } why ? Cannot(state.Revision, state.Copy, why) : Counting(state.Revision);
        var rate = Counted(state.Revision, new(row.Scene, row.Runs, row.Passes, row.Low, row.High), state.Known.Counting.Count > 1);
        return rate with { Against = await Against(row, store, cancel), Rests = Word(row.Rests) };
    }

    /// <summary>What a range rests on, as it is sent.</summary>
    public static string? Word(Provenance? kind) => kind is { } k ? k.ToString().ToLowerInvariant() : null;

    /// <summary>A proof held against the one before it of something else, in the same scene and on the same luck; null where there is
    /// none.</summary>
    public static async Task<AgainstBefore?> Against(ProofRow row, RigStore store, CancellationToken cancel) =>
        await store.Runs.Before(row, cancel) is { } before && Core.Proving.Paired.Of(before.Passed, row.Passed) is { } paired
            ? new(before.Revision, before.Revision == row.Revision, paired)
            : null;

    /// <summary>The rate of a copy in a list, from what is known without reading the copy whole.</summary>
    public static HeaderRate Listed(KnownDesign design, int revision, ListedCopy copy) =>
        Begun(design, revision)
        ?? (
            copy.Gauge is { } gauge ? Counted(revision, gauge, design.Counting.Count > 1)
            : Hindered.TryGetValue(copy.Inputs, out var why) && why is not null ? Cannot(revision, copy.Number, why)
            : Counting(revision)
        );

    private static HeaderRate? Begun(KnownDesign design, int revision) =>
        Empty(design.Parsed) ? new("none", 0, 0, 0, 1, $"Revision {revision} has no program yet", "Write one in Program.")
        : design.Parsed.Diagnostics.Count is > 0 and var faults
            ? new("faults", 0, 0, 0, 1, $"Revision {revision} has {Figures.Count(faults, "fault")}", "It can run once they are mended.")
        : null;

    // The range's ends: what this copy may turn out to be.
    private static HeaderRate Counted(int revision, GaugeRow gauge, bool several) =>
        new(
            "known",
            gauge.Runs,
            gauge.Passes,
            gauge.Low,
            gauge.High,
            $"Revision {revision}: {gauge.Passes} of {gauge.Runs} pass",
            $"this copy: {Math.Round(gauge.Low * 100)} to {Math.Round(gauge.High * 100)} in 100{(several ? $", {gauge.Scene}" : "")}"
        );

    private static HeaderRate Cannot(int revision, int copy, string why) =>
        new("none", 0, 0, 0, 1, $"Revision {revision} cannot run on copy {copy}", why);

    private static HeaderRate Counting(int revision) =>
        new("counting", 0, 0, 0, 1, $"Revision {revision}: counting runs", "100 runs, a moment");
}
