using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Rigs;

/// <summary>A device as the assignment sees it.</summary>
/// <param name="Name">Device name.</param>
/// <param name="Leads">Leads that need a port each, all on one controller.</param>
public sealed record Plug(string Name, IReadOnlyList<Lead> Leads);

/// <summary>A device that got no place, and why.</summary>
/// <param name="Device">Device name.</param>
/// <param name="Reasons">One sentence a controller: the fewest that explain it.</param>
public sealed record Unplaced(string Device, IReadOnlyList<string> Reasons);

/// <summary>Who goes where.</summary>
/// <param name="Wires">A wire a lead, for every device that has a place.</param>
/// <param name="Unplaced">Devices without one.</param>
public sealed record PortPlan(IReadOnlyList<Wire> Wires, IReadOnlyList<Unplaced> Unplaced);

/// <summary>Gives every device a place that can serve it, or as many as can be.</summary>
public static class PortAssignment
{
    /// <summary>Whether a port can serve a lead: a fitting use, and voltages that both ends stand and understand.</summary>
    public static bool Serves(Port port, Lead lead) => (port.Can & lead.AnyOf) != 0 && Level(port, lead) is null;

    /// <summary>What is wrong with the voltages of a lead at a port, or null.</summary>
    public static string? Level(Port port, Lead lead)
    {
        if (lead.GivesV is { } gives && port.MaxInputV is { } max && gives > max)
            return $"it gives {Show(gives)} V and {port.Name} stands {Show(max)} V: put a divider or a level shifter between them";
        if (lead.GivesV is { } low && port.InputHighMinV is { } high && low < high)
            return $"it gives {Show(low)} V and {port.Name} takes {Show(high)} V or more for high: put a level shifter between them";
        if (lead.NeedsHighV is { } needs && port.OutputHighV is { } output && output < needs)
            return $"{port.Name} gives {Show(output)} V and it needs {Show(needs)} V for high: put a level shifter between them";
        return null;
    }

    // Ports of one controller that serve the same leads are interchangeable, so the search counts them instead of naming them.
    private sealed record PortClass(int Controller, List<Port> Ports);

    /// <summary>
    /// Assigns. An exact search: devices with the fewest places first, interchangeable ports counted as one kind, and
    /// states that failed once never entered again; as few devices as possible go without.
    /// </summary>
    /// <param name="controllers">Controllers with their ports.</param>
    /// <param name="plugs">Devices.</param>
    /// <param name="fixedWires">Wires that stay as they are; their ports are taken and their leads served.</param>
    public static PortPlan Assign(IReadOnlyList<Controller> controllers, IReadOnlyList<Plug> plugs, IReadOnlyList<Wire>? fixedWires = null)
    {
        var wires = new List<Wire>(fixedWires ?? []);
        var taken = wires.Select(w => (w.Controller, w.Port)).ToHashSet();
        var open = plugs.Select(p => p with { Leads = [.. p.Leads.Where(l => !wires.Any(w => w.Device == p.Name && w.Lead == l.Name))] }).Where(p => p.Leads.Count > 0).ToArray();
        var kinds = open.SelectMany(p => p.Leads).Select(l => (l.AnyOf, l.GivesV, l.NeedsHighV)).Distinct().ToArray();
        var classes = new List<PortClass>();
        for (var c = 0; c < controllers.Count; c++)
            foreach (var group in controllers[c].Ports.Where(p => !taken.Contains((controllers[c].Name, p.Name)))
                .GroupBy(p => string.Concat(kinds.Select(k => Serves(p, new("", k.AnyOf, k.GivesV, k.NeedsHighV)) ? '1' : '0'))).Where(g => g.Key.Contains('1')))
                classes.Add(new(c, [.. group]));

        // For each device, the ways to serve it: how many ports of which classes, all on one controller.
        var home = wires.GroupBy(w => w.Device).ToDictionary(g => g.Key, g => g.First().Controller);
        var ways = open.Select(p => Ways(p, classes, controllers, home.GetValueOrDefault(p.Name))).ToArray();
        var order = Enumerable.Range(0, open.Length).OrderBy(i => ways[i].Sum(w => w.Sum(k => classes[k].Ports.Count))).ToArray();
        var left = classes.Select(c => c.Ports.Count).ToArray();
        var chosen = new int[]?[open.Length];
        for (var skips = 0; skips <= open.Length; skips++)
            if (Place(0, skips, order, ways, left, chosen, [])) break;

        var next = classes.Select(c => new Queue<Port>(c.Ports)).ToArray();
        for (var i = 0; i < open.Length; i++)
            for (var l = 0; chosen[i] is { } way && l < way.Length; l++)
                wires.Add(new(open[i].Name, open[i].Leads[l].Name, controllers[classes[way[l]].Controller].Name, next[way[l]].Dequeue().Name));
        return new(wires, [.. Enumerable.Range(0, open.Length).Where(i => chosen[i] is null).Select(i => Why(open[i], controllers, wires, home.GetValueOrDefault(open[i].Name)))]);
    }

    private static bool Place(int at, int skips, int[] order, List<int[]>[] ways, int[] left, int[]?[] chosen, HashSet<string> failed)
    {
        if (at == order.Length) return true;
        var key = $"{at}/{skips}/{string.Join(',', left)}";
        if (failed.Contains(key)) return false;
        var device = order[at];
        foreach (var way in ways[device])
        {
            var fits = true;
            foreach (var k in way) fits &= --left[k] >= 0;
            if (fits)
            {
                chosen[device] = way;
                if (Place(at + 1, skips, order, ways, left, chosen, failed)) return true;
                chosen[device] = null;
            }
            foreach (var k in way) left[k]++;
        }
        if (skips > 0 && Place(at + 1, skips - 1, order, ways, left, chosen, failed)) return true;
        failed.Add(key);
        return false;
    }

    private static List<int[]> Ways(Plug plug, List<PortClass> classes, IReadOnlyList<Controller> controllers, string? home)
    {
        var ways = new List<int[]>();
        for (var c = 0; c < controllers.Count; c++)
        {
            if (home is not null && controllers[c].Name != home) continue;
            var mine = Enumerable.Range(0, classes.Count).Where(k => classes[k].Controller == c).ToArray();
            var way = new int[plug.Leads.Count];
            void Choose(int lead)
            {
                if (lead == way.Length)
                {
                    ways.Add([.. way]);
                    return;
                }
                // The least able port that serves first: a motor socket is not spent on a lamp that any pin can light.
                foreach (var k in mine.Where(k => Serves(classes[k].Ports[0], plug.Leads[lead])).OrderBy(k => System.Numerics.BitOperations.PopCount((uint)classes[k].Ports[0].Can)))
                {
                    way[lead] = k;
                    Choose(lead + 1);
                }
            }
            Choose(0);
        }
        // The same counts in another order serve as well only where the leads are alike; each list is kept, duplicates are not.
        return ways.DistinctBy(w => string.Join(',', w)).ToList();
    }

    private static Unplaced Why(Plug plug, IReadOnlyList<Controller> controllers, List<Wire> wires, string? home)
    {
        var reasons = new List<string>();
        foreach (var controller in controllers.Where(c => home is null || c.Name == home))
        {
            var without = plug.Leads.FirstOrDefault(l => !controller.Ports.Any(p => (p.Can & l.AnyOf) != 0));
            if (without is not null)
            {
                reasons.Add($"{controller.Name} has no port that can {PortUses.Say(without.AnyOf)}, which the lead “{without.Name}” needs.");
                continue;
            }
            var wrong = plug.Leads.FirstOrDefault(l => !controller.Ports.Any(p => Serves(p, l)));
            if (wrong is not null)
            {
                var port = controller.Ports.First(p => (p.Can & wrong.AnyOf) != 0);
                reasons.Add($"The lead “{wrong.Name}” does not suit {controller.Name}: {Level(port, wrong)}.");
                continue;
            }
            var able = controller.Ports.Where(p => plug.Leads.Any(l => Serves(p, l))).ToArray();
            var holders = wires.Where(w => w.Controller == controller.Name && able.Any(p => p.Name == w.Port)).Select(w => w.Device).Distinct().ToArray();
            reasons.Add(holders.Length == 0
                ? $"{controller.Name} has {Count(able.Length, "port")} that could serve it, and it needs {plug.Leads.Count}."
                : $"The {Count(able.Length, "port")} of {controller.Name} that could serve it {(able.Length == 1 ? "is" : "are")} taken by {string.Join(", ", holders)}.");
        }
        if (controllers.Count == 0) reasons.Add("The rig has no controller yet.");
        return new(plug.Name, reasons);
    }

    /// <summary>Everything wrong with wires as they are run: one sentence each, with the cure.</summary>
    /// <param name="controllers">Controllers with their ports.</param>
    /// <param name="plugs">Devices.</param>
    /// <param name="wires">Wires as they are run.</param>
    public static IReadOnlyList<WiringFault> Check(IReadOnlyList<Controller> controllers, IReadOnlyList<Plug> plugs, IReadOnlyList<Wire> wires)
    {
        var faults = new List<WiringFault>();
        foreach (var shared in wires.GroupBy(w => (w.Controller, w.Port)).Where(g => g.Count() > 1))
            faults.Add(new("wiring-clash", shared.First().Device, shared.Key.Controller, shared.Key.Port,
                $"{string.Join(" and ", shared.Select(w => w.Device).Distinct())} are both on {shared.Key.Port} of {shared.Key.Controller}: move one of them to a free port."));
        foreach (var wire in wires)
        {
            var port = controllers.FirstOrDefault(c => c.Name == wire.Controller)?.Ports.FirstOrDefault(p => p.Name == wire.Port);
            var lead = plugs.FirstOrDefault(p => p.Name == wire.Device)?.Leads.FirstOrDefault(l => l.Name == wire.Lead);
            if (port is null || lead is null)
                faults.Add(new("wiring-missing", wire.Device, wire.Controller, wire.Port, $"The lead “{wire.Lead}” of {wire.Device} runs to {wire.Port} of {wire.Controller}, which is not there."));
            else if ((port.Can & lead.AnyOf) == 0)
                faults.Add(new("wiring-kind", wire.Device, wire.Controller, wire.Port, $"{wire.Port} of {wire.Controller} cannot {PortUses.Say(lead.AnyOf)}, which {wire.Device} needs: move it to a port that can."));
            else if (Level(port, lead) is { } level)
                faults.Add(new("wiring-level", wire.Device, wire.Controller, wire.Port, $"{wire.Device} on {wire.Controller}: {level}."));
        }
        foreach (var plug in plugs)
            foreach (var lead in plug.Leads.Where(l => !wires.Any(w => w.Device == plug.Name && w.Lead == l.Name)))
                faults.Add(new("wiring-missing", plug.Name, null, null, $"The lead “{lead.Name}” of {plug.Name} goes nowhere: run it to a port that can {PortUses.Say(lead.AnyOf)}."));
        return faults;
    }
}

/// <summary>A fault of the wiring.</summary>
/// <param name="Code">wiring-clash, wiring-kind, wiring-level or wiring-missing.</param>
/// <param name="Device">The device it speaks of.</param>
/// <param name="Controller">The controller, if any.</param>
/// <param name="Port">The port, if any.</param>
/// <param name="Say">What is wrong and what cures it.</param>
public sealed record WiringFault(string Code, string Device, string? Controller, string? Port, string Say);
