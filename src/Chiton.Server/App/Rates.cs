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

    /// <summary>Why a copy cannot be run; null when it can.</summary>
    public static string? Hindrance(RigState state)
    {
        if (Hindered.TryGetValue(state.Inputs, out var known))
            return known;
        string? why = null;
        try
        {
            why = state.Plan().Unproved;
        }
        catch (InputProblem p)
        {
            why = p.Errors.Values.First();
        }
        if (Hindered.Count > 5000)
            Hindered.Clear();
        return Hindered[state.Inputs] = why;
    }

    /// <summary>The rate of a copy.</summary>
    public static HeaderRate Of(RigState state, ProofRow? best) =>
        Begun(state.Known, state.Revision)
        ?? (
            best is not null ? Counted(state.Revision, best.Runs, best.Passes)
            : Hindrance(state) is { } why ? Cannot(state.Revision, state.Copy, why)
            : Counting(state.Revision)
        );

    /// <summary>The rate of a copy in a list, from what is known without reading the copy whole.</summary>
    public static HeaderRate Listed(KnownDesign design, int revision, ListedCopy copy) =>
        Begun(design, revision)
        ?? (
            copy.Runs > 0 ? Counted(revision, copy.Runs, copy.Passes)
            : Hindered.TryGetValue(copy.Inputs, out var why) && why is not null ? Cannot(revision, copy.Number, why)
            : Counting(revision)
        );

    private static HeaderRate? Begun(KnownDesign design, int revision) =>
        Empty(design.Parsed) ? new("none", 0, 0, 0, 1, $"Revision {revision} has no program yet", "Write one in Program.")
        : design.Parsed.Diagnostics.Count is > 0 and var faults
            ? new("faults", 0, 0, 0, 1, $"Revision {revision} has {Figures.Count(faults, "fault")}", "It can run once they are mended.")
        : null;

    private static HeaderRate Counted(int revision, int runs, int passes)
    {
        var (low, high) = Core.Proving.SuccessRate.Wilson(passes, runs);
        return new(
            "known",
            runs,
            passes,
            low,
            high,
            $"Revision {revision}: {passes} of {runs} runs pass",
            $"likely {Math.Round(low * 100)} to {Math.Round(high * 100)} in 100"
        );
    }

    private static HeaderRate Cannot(int revision, int copy, string why) =>
        new("none", 0, 0, 0, 1, $"Revision {revision} cannot run on copy {copy}", why);

    private static HeaderRate Counting(int revision) =>
        new("counting", 0, 0, 0, 1, $"Revision {revision}: counting runs", "100 runs, a moment");
}
