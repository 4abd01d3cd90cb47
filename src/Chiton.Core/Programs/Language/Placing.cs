using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>
/// One text that stands in several places: each place gives its values, a device name means the like-named device of the
/// place's own controller, and outside the places are told apart by their controllers' names.
/// </summary>
public static class Placing
{
    /// <summary>What outside calls a device whose name occurs on more than one controller.</summary>
    public static string Outside(string controller, string device) => $"{controller}'s {device}";

    /// <summary>The devices and mechanisms that a program on a controller calls by their short names.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="controller">Name of the controller.</param>
    public static IReadOnlyList<OwnName> OwnNames(RigDesign rig, string controller)
    {
        var before = Outside(controller, "");
        return
        [
            .. rig
                .Devices.Select(d => d.Name)
                .Concat(rig.Mechanisms.Select(m => m.Name))
                .Distinct()
                .Where(n => n.Length > before.Length && n.StartsWith(before, StringComparison.Ordinal))
                .Select(n => new OwnName(n[before.Length..], n)),
        ];
    }

    /// <summary>What each program of a rig is called by the others: by its name, or by its controller's where the same text stands in more
    /// than one place. Null where the text gives no name.</summary>
    public static IReadOnlyList<string?> Names(RigDesign rig)
    {
        var names = rig.Programs.Select(p => ScriptParser.NameOf(p.Script)).ToArray();
        return
        [
            .. rig.Programs.Select(
                (p, i) => names[i] is not null && Alike(rig, i).Skip(1).Any() && rig.PlaceOf(p) is { } place ? place : names[i]
            ),
        ];
    }

    /// <summary>The places of a text: the program itself and all others with the very same text, which are edited together.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="index">One of its programs.</param>
    public static IEnumerable<int> Alike(RigDesign rig, int index)
    {
        var one = rig.ProgramAt(index);
        return Enumerable
            .Range(0, rig.Programs.Count)
            .Where(i => i == index || rig.Programs[i].Script == one.Script && rig.PlaceOf(rig.Programs[i]) != rig.PlaceOf(one));
    }

    /// <summary>A given value as the language reads it.</summary>
    public static ExprNode Node(GivenValue value)
    {
        if (value.IsText)
            return new TextNode(value.Value);
        if (value.Value is "yes" or "no")
            return new TruthNode(value.Value == "yes");
        if (GivenValue.Amount(value.Value) is not { } amount)
            return new TextNode(value.Value);
        return amount.Number.StartsWith('-')
            ? new UnaryNode(false, new LiteralNode(amount.Number[1..], amount.Unit))
            : new LiteralNode(amount.Number, amount.Unit);
    }

    /// <summary>The program as it stands in its place: its values as constants, its devices by the names that the rig knows.</summary>
    /// <param name="program">A program as it was read for its place.</param>
    public static ProgramNode Placed(ProgramNode program)
    {
        if (program.Given.Count == 0 && program.OwnNames.Count == 0)
            return program;
        var placed = program.OwnNames.Count == 0 ? program : new Outward(program.OwnNames).Map(program);
        return placed with
        {
            Head = [.. program.Given.Select(g => new ConstNode([], g.Name, g.Value)), .. placed.Head],
            Parameters = [],
            Given = [],
            OwnNames = [],
        };
    }

    /// <summary>A rig in which devices of one name on several controllers have the names that outside calls them by; the rig as it is
    /// where their wires do not tell which is whose.</summary>
    public static RigDesign Apart(RigDesign rig)
    {
        // The first of a name is on the first controller that has a wire to it, and so on.
        var homes = new Dictionary<string, string[]>();
        foreach (var same in rig.Devices.Where(d => d?.Name is not null).GroupBy(d => d.Name).Where(g => g.Count() > 1))
        {
            string[] on =
            [
                .. rig
                    .Wires.Where(w => w?.Device == same.Key)
                    .Select(w => w.Controller)
                    .Where(c => rig.Controllers.Any(k => k?.Name == c && k.Role == NodeRole.Controller))
                    .Distinct(),
            ];
            if (on.Length == same.Count())
                homes[same.Key] = on;
        }
        if (homes.Count == 0)
            return rig;
        var seen = new Dictionary<string, int>();
        string Next(string name)
        {
            if (name is null || !homes.TryGetValue(name, out var on))
                return name!;
            var n = seen.GetValueOrDefault(name);
            seen[name] = n + 1;
            return Outside(on[n], name);
        }
        return rig with
        {
            Sensors = rig.Sensors.Select(s => s with { Name = Next(s.Name) }).ToSequence(),
            Actuators = rig.Actuators.Select(a => a with { Name = Next(a.Name) }).ToSequence(),
            Wires = rig
                .Wires.Select(w => w?.Device is { } d && homes.ContainsKey(d) ? w with { Device = Outside(w.Controller, d) } : w!)
                .ToSequence(),
        };
    }

    private sealed class Outward(Sequence<OwnName> own) : NameMap
    {
        private readonly Dictionary<string, string> outside = own.ToDictionary(o => o.Name, o => o.Outside);

        protected override string Sensor(string name) => outside.GetValueOrDefault(name, name);

        protected override string Device(string name) => outside.GetValueOrDefault(name, name);
    }
}
