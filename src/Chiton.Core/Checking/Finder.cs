using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>Something that can be found and gone to.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Kind">What it is: part, state, region, routine, variable, device, mechanism, zone, position, number, sum,
/// action or help.</param>
/// <param name="To">Where it is: an address below the rig's, or of an action its name.</param>
/// <param name="Say">More about it: its value, or what it belongs to; null for nothing.</param>
/// <param name="Also">Everyday words for it.</param>
public sealed record Findable(string Name, string Kind, string To, string? Say = null, IReadOnlyList<string>? Also = null);

/// <summary>Finds things of a rig by their names and by everyday words.</summary>
public static class Finder
{
    // Words that mean the same to somebody who looks for something.
    private static readonly string[][] Alike =
    [
        ["battery", "pack", "power", "accumulator", "voltage", "capacity", "runtime"],
        ["overshoot", "coast", "coasting", "brake", "braking", "stopping", "rest", "ramp", "slide"],
        ["guess", "guessed", "guesses", "never tested", "unknown"],
        ["threshold", "boundary", "limit", "border", "zone"],
        ["undo", "take back", "mistake"],
        ["wheel", "diameter", "circumference", "tyre", "radius"],
        ["turn", "rotate", "spin", "pivot", "track", "heading"],
        ["speed", "fast", "velocity", "slow"],
        ["colour", "color", "hue"],
        ["wire", "wiring", "port", "cable", "plug", "lead"],
        ["gear", "gears", "ratio", "teeth"],
        ["paper", "print", "pdf"],
        ["download", "export", "backup", "file"],
        ["upload", "import"],
    ];

    // Words that say nothing of what is looked for.
    private static readonly HashSet<string> Small =
    [
        .. "what is are the how do does can my of to in an it this that where why which".Split(' '),
    ];

    /// <summary>Everything of a rig that has a name.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="programs">Its programs, read.</param>
    /// <param name="moves">What is known of how the copy moves.</param>
    public static IEnumerable<Findable> Things(RigDesign rig, IReadOnlyList<RigProgram> programs, CopyMoves moves)
    {
        foreach (var sensor in rig.Sensors)
        {
            yield return new(sensor.Name, "device", $"sense?sensor={Uri.EscapeDataString(sensor.Name)}", "sensor", ["sensor"]);
            foreach (var zone in sensor.Zones)
                yield return new(
                    zone,
                    "zone",
                    $"sense?sensor={Uri.EscapeDataString(sensor.Name)}",
                    $"of {sensor.Name}",
                    ["zone", "threshold"]
                );
        }
        foreach (var device in rig.Devices.Where(d => d is not Sensor))
            yield return new(device.Name, "device", "rig");
        foreach (var mechanism in rig.Mechanisms)
        {
            yield return new(mechanism.Name, "mechanism", $"move?mechanism={Uri.EscapeDataString(mechanism.Name)}");
            foreach (var position in mechanism.Positions)
                yield return new(position, "position", $"move?mechanism={Uri.EscapeDataString(mechanism.Name)}", $"of {mechanism.Name}");
        }
        foreach (var plan in moves.Plans)
            if (moves.InUse(plan) is { } number)
                yield return new(
                    $"{plan.Number} of {plan.Mechanism}",
                    "number",
                    $"move?mechanism={Uri.EscapeDataString(plan.Mechanism)}",
                    $"{Figures.Show(number.Value, 4)} {number.Unit}, {number.Kind.ToString().ToLowerInvariant()}",
                    [number.Kind.ToString(), plan.Kind.ToString()]
                );
        if (rig.Power is { } power)
            yield return new(
                "Power pack",
                "number",
                "rig/power",
                $"{power.Cells} cells, {Figures.Show(power.CapacityMAh)} mAh",
                ["battery", "cells", "capacity", "charge"]
            );
        foreach (var program in programs)
        {
            var at = program.Index == rig.MainProgram ? "" : $"?program={program.Index}";
            var of = programs.Count > 1 ? $"of {program.Name}" : null;
            foreach (var state in program.Parsed.Program.AllStates)
                yield return new(state.Name, "state", $"program{at}#state-{Uri.EscapeDataString(state.Name)}", of);
            foreach (var region in program.Parsed.Program.Regions)
                yield return new(region.Name, "region", $"program{at}", of);
            foreach (var routine in program.Parsed.Program.Routines)
                yield return new(routine.Name, "routine", $"program{at}", of);
            foreach (var head in program.Parsed.Program.Head)
                if (head is VarNode or ConstNode)
                    yield return new(
                        head is VarNode v ? v.Name : ((ConstNode)head).Name,
                        head is VarNode ? "variable" : "constant",
                        $"program{at}",
                        of
                    );
        }
    }

    /// <summary>What answers to a text, the likeliest first.</summary>
    /// <param name="things">Everything there is.</param>
    /// <param name="text">What was typed.</param>
    /// <param name="most">How many at most.</param>
    public static IReadOnlyList<Findable> Find(IEnumerable<Findable> things, string text, int most)
    {
        var typed = text.Trim().ToLowerInvariant();
        string[] words =
        [
            .. typed
                .Split([' ', '?', '!', '.', ',', ';', ':'], StringSplitOptions.RemoveEmptyEntries)
                .Where(w => w.Length > 1 && !Small.Contains(w)),
        ];
        return
        [
            .. things
                .Select((t, i) => (Thing: t, Rank: Rank(t, typed, words), Order: i))
                .Where(x => x.Rank is not null)
                .OrderBy(x => x.Rank)
                .ThenBy(x => x.Order)
                .Select(x => x.Thing)
                .Take(most),
        ];
    }

    // 0 for the very name, more the farther off; null for what does not answer.
    private static int? Rank(Findable thing, string typed, string[] words)
    {
        var name = thing.Name.ToLowerInvariant();
        if (name == typed)
            return 0;
        if (name.StartsWith(typed, StringComparison.Ordinal))
            return 1;
        if (name.Contains(" " + typed, StringComparison.Ordinal))
            return 2;
        if (typed.Length > 1 && name.Contains(typed, StringComparison.Ordinal))
            return 3;
        string[] said =
        [
            name,
            thing.Kind,
            .. (thing.Say is null ? [] : new[] { thing.Say.ToLowerInvariant() }),
            .. (thing.Also ?? []).Select(a => a.ToLowerInvariant()),
        ];
        if (words.Length == 0)
            return null;
        if (words.All(w => said.Any(s => Begins(s, w))))
            return 4;
        // In other words that mean the same.
        return words.All(w => said.Any(s => Begins(s, w) || Alike.Any(a => a.Any(x => Begins(x, w)) && a.Any(x => Begins(s, x)))))
            ? 5
            : null;
    }

    // A word of a text begins so.
    private static bool Begins(string text, string word)
    {
        for (var at = text.IndexOf(word, StringComparison.Ordinal); at >= 0; at = text.IndexOf(word, at + 1, StringComparison.Ordinal))
            if (at == 0 || !char.IsLetterOrDigit(text[at - 1]))
                return true;
        return false;
    }
}
