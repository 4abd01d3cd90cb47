using Chiton.Core.Quantities;
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
    public static bool Serves(Port port, Lead lead) => port.KeptFree is null && (port.Can & lead.AnyOf) != 0 && Level(port, lead) is null;

    /// <summary>What is wrong with the voltages of a lead at a port, or null.</summary>
    public static string? Level(Port port, Lead lead)
    {
        if (lead.GivesV is { } gives && port.MaxInputV is { } max && gives > max)
            return $"it gives {Show(gives)} V and {port.Name} stands {Show(max)} V: put a divider or a level shifter between them";
        if (lead.GivesV is { } low && port.InputHighMinV is { } high && low < high)
            return $"it gives {Show(low)} V and {port.Name} takes {Show(high)} V or more for high: put a level shifter between them";
        if (lead.AnyOf == PortUse.Supply)
        {
            if (lead.FromPack is { } pack && port.FedBy is { } by && pack != (by == NodeRole.Pack))
                return pack
                    ? $"it is to be fed by a pack and {port.Name} is fed by a controller: move it to the pack"
                    : $"it is to be fed by the controller and {port.Name} is fed by a pack: move it to the controller";
            if (port.OutputHighV is not { } fed)
                return $"nothing feeds {port.Name}: link it to a pack or to a controller's supply";
            if (lead.FedMaxV is { } most && fed > most)
                return $"{port.Name} gives {Show(fed)} V and it stands {Show(most)} V: feed it from something lower";
            if (lead.FedMinV is { } least && fed < least)
                return $"{port.Name} gives {Show(fed)} V and it needs {Show(least)} V: feed it from something higher";
            return null;
        }
        if (lead.NeedsHighV is { } needs && port.OutputHighV is { } output && output < needs)
            return $"{port.Name} gives {Show(output)} V and it needs {Show(needs)} V for high: put a level shifter between them";
        return null;
    }

    private static string? Level(Port port, Lead lead, Between via) =>
        via switch
        {
            Between.Divider => Level(
                port,
                lead with
                {
                    GivesV = lead.GivesV is { } g && port.MaxInputV is { } m ? Math.Min(g, m) : lead.GivesV,
                }
            ),
            Between.LevelShifter => Level(port, lead with { GivesV = null, NeedsHighV = null }),
            _ => Level(port, lead),
        };

    // Ports of one controller that serve the same leads are interchangeable, so the search counts them instead of naming them.
    // A port that holds several leads stands in the list once for each that is free.
    private sealed record PortClass(int Controller, List<Port> Ports)
    {
        public int Net { get; } = Ports[0].Net;
        public bool Feeds { get; } = Ports[0].Feeds;
    }

    /// <summary>Joins ports by links (and the ground pins of one controller by its own inside) and says what feeds each: strips then give
    /// the voltage of what they are linked to.</summary>
    public static IReadOnlyList<Controller> Join(IReadOnlyList<Controller> controllers, IReadOnlyList<Link> links)
    {
        var index = new Dictionary<(string, string), int>();
        foreach (var c in controllers)
        foreach (var p in c.Ports)
            index.TryAdd((c.Name, p.Name), index.Count);
        var net = Enumerable.Range(0, index.Count).ToArray();
        int Root(int i)
        {
            while (net[i] != i)
                i = net[i] = net[net[i]];
            return i;
        }
        foreach (var l in links)
            if (index.TryGetValue((l.FromController, l.FromPort), out var a) && index.TryGetValue((l.ToController, l.ToPort), out var b))
                net[Root(a)] = Root(b);
        foreach (var c in controllers)
        {
            var grounds = c.Ports.Where(p => p.Can.HasFlag(PortUse.Ground)).Select(p => index[(c.Name, p.Name)]).ToArray();
            for (var g = 1; g < grounds.Length; g++)
                net[Root(grounds[g])] = Root(grounds[0]);
        }
        var sources = controllers
            .SelectMany(c =>
                c.Ports.Where(p => p.Can.HasFlag(PortUse.Supply) && p.OutputHighV is not null)
                    .Select(p => (Net: Root(index[(c.Name, p.Name)]), p.OutputHighV, c.Role))
            )
            .ToLookup(s => s.Net);
        return
        [
            .. controllers.Select(c =>
                c with
                {
                    Ports = c
                        .Ports.Select(p =>
                        {
                            var n = Root(index[(c.Name, p.Name)]);
                            if (!p.Can.HasFlag(PortUse.Supply))
                                return p with { Net = n };
                            var fed = sources[n].ToArray();
                            return p with
                            {
                                Net = n,
                                OutputHighV = p.OutputHighV ?? (fed.Length > 0 ? fed.Max(f => f.OutputHighV) : null),
                                FedBy =
                                    fed.Length == 0 ? null
                                    : fed.Any(f => f.Role == NodeRole.Pack) ? NodeRole.Pack
                                    : NodeRole.Controller,
                            };
                        })
                        .ToSequence(),
                }
            ),
        ];
    }

    private static int? Ground(Controller controller) => controller.Ports.FirstOrDefault(p => p.Can.HasFlag(PortUse.Ground))?.Net;

    /// <summary>
    /// Assigns. An exact search: devices with the fewest places first, interchangeable ports counted as one kind, and
    /// states that failed once never entered again; as few devices as possible go without.
    /// </summary>
    /// <param name="controllers">Controllers with their ports.</param>
    /// <param name="plugs">Devices.</param>
    /// <param name="fixedWires">Wires that stay as they are; their ports are taken and their leads served.</param>
    /// <param name="links">Leads between ports; they take room too, and carry supply and ground along.</param>
    public static PortPlan Assign(
        IReadOnlyList<Controller> controllers,
        IReadOnlyList<Plug> plugs,
        IReadOnlyList<Wire>? fixedWires = null,
        IReadOnlyList<Link>? links = null
    )
    {
        controllers = Join(controllers, links ?? []);
        var wires = new List<Wire>(fixedWires ?? []);
        var taken = wires.Select(w => (w.Controller, w.Port)).Concat(Ends(links)).CountBy(w => w).ToDictionary();
        var open = plugs
            .Select(p => p with { Leads = [.. p.Leads.Where(l => !wires.Any(w => w.Device == p.Name && w.Lead == l.Name))] })
            .Where(p => p.Leads.Count > 0)
            .ToArray();
        var kinds = open.SelectMany(p => p.Leads).Select(l => l with { Name = "" }).Distinct().ToArray();
        var classes = new List<PortClass>();
        for (var c = 0; c < controllers.Count; c++)
            foreach (
                var group in controllers[c]
                    .Ports.SelectMany(p =>
                        Enumerable.Repeat(p, Math.Max(0, p.Holds - taken.GetValueOrDefault((controllers[c].Name, p.Name))))
                    )
                    .GroupBy(p => string.Concat(kinds.Select(k => Serves(p, k) ? '1' : '0')) + (p.Feeds ? $" {p.Net}" : ""))
                    .Where(g => g.Key.Contains('1'))
            )
                classes.Add(new(c, [.. group]));

        // For each device, the ways to serve it: how many ports of which classes, all on one controller.
        var home = wires
            .Where(w => plugs.FirstOrDefault(p => p.Name == w.Device)?.Leads.FirstOrDefault(l => l.Name == w.Lead) is { Feeds: false })
            .GroupBy(w => w.Device)
            .ToDictionary(g => g.Key, g => g.First().Controller);
        var ways = open.Select(p => Ways(p, classes, controllers, home.GetValueOrDefault(p.Name))).ToArray();
        var order = Enumerable.Range(0, open.Length).OrderBy(i => ways[i].Sum(w => w.Sum(k => classes[k].Ports.Count))).ToArray();
        var left = classes.Select(c => c.Ports.Count).ToArray();
        var chosen = new int[]?[open.Length];
        for (var skips = 0; skips <= open.Length; skips++)
            if (Place(0, skips, order, ways, left, chosen, []))
                break;

        var next = classes.Select(c => new Queue<Port>(c.Ports)).ToArray();
        for (var i = 0; i < open.Length; i++)
        for (var l = 0; chosen[i] is { } way && l < way.Length; l++)
            wires.Add(new(open[i].Name, open[i].Leads[l].Name, controllers[classes[way[l]].Controller].Name, next[way[l]].Dequeue().Name));
        return new(
            wires,
            [
                .. Enumerable
                    .Range(0, open.Length)
                    .Where(i => chosen[i] is null)
                    .Select(i => Why(open[i], controllers, wires, home.GetValueOrDefault(open[i].Name))),
            ]
        );
    }

    private static bool Place(int at, int skips, int[] order, List<int[]>[] ways, int[] left, int[]?[] chosen, HashSet<string> failed)
    {
        if (at == order.Length)
            return true;
        var key = $"{at}/{skips}/{string.Join(',', left)}";
        if (failed.Contains(key))
            return false;
        var device = order[at];
        foreach (var way in ways[device])
        {
            var fits = true;
            foreach (var k in way)
                fits &= --left[k] >= 0;
            if (fits)
            {
                chosen[device] = way;
                if (Place(at + 1, skips, order, ways, left, chosen, failed))
                    return true;
                chosen[device] = null;
            }
            foreach (var k in way)
                left[k]++;
        }
        if (skips > 0 && Place(at + 1, skips - 1, order, ways, left, chosen, failed))
            return true;
        failed.Add(key);
        return false;
    }

    private static List<int[]> Ways(Plug plug, List<PortClass> classes, IReadOnlyList<Controller> controllers, string? home)
    {
        var ways = new List<int[]>();
        for (var c = 0; c < controllers.Count; c++)
        {
            if (home is not null && controllers[c].Name != home)
                continue;
            // Signals go to one controller; supply and ground may come from elsewhere, as long as it is the same ground.
            if (controllers[c].Role != NodeRole.Controller && plug.Leads.Any(l => !l.Feeds))
                continue;
            var ground = Ground(controllers[c]);
            var mine = Enumerable
                .Range(0, classes.Count)
                .Where(k =>
                    classes[k].Controller == c || classes[k].Feeds && controllers[classes[k].Controller].Role != NodeRole.Controller
                )
                .OrderBy(k => classes[k].Controller == c ? 0 : 1)
                .ToArray();
            var way = new int[plug.Leads.Count];
            void Choose(int lead)
            {
                if (lead == way.Length)
                {
                    ways.Add([.. way]);
                    return;
                }
                // The least able port that serves first: a motor socket is not spent on a lamp that any pin can light.
                foreach (
                    var k in mine.Where(k =>
                            Serves(classes[k].Ports[0], plug.Leads[lead])
                            && (plug.Leads[lead].AnyOf != PortUse.Ground || ground is null || classes[k].Net == ground)
                        )
                        .OrderBy(k => System.Numerics.BitOperations.PopCount((uint)classes[k].Ports[0].Can))
                )
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
        foreach (var controller in controllers.Where(c => home is null ? c.Role == NodeRole.Controller : c.Name == home))
        {
            Port[] Reach(Lead l) =>
                l.Feeds
                    ? [.. controller.Ports, .. controllers.Where(c => c.Role != NodeRole.Controller).SelectMany(c => c.Ports)]
                    : [.. controller.Ports];
            var without = plug.Leads.FirstOrDefault(l => !Reach(l).Any(p => (p.Can & l.AnyOf) != 0));
            if (without is not null)
            {
                reasons.Add(
                    $"{controller.Name} has no port that can {PortUses.Say(without.AnyOf)}, which the lead “{without.Name}” needs."
                );
                continue;
            }
            var wrong = plug.Leads.FirstOrDefault(l => !Reach(l).Any(p => Serves(p, l)));
            if (wrong is not null)
            {
                var port = Reach(wrong).Where(p => (p.Can & wrong.AnyOf) != 0).OrderBy(p => p.KeptFree is not null).First();
                reasons.Add(
                    $"The lead “{wrong.Name}” does not suit {controller.Name}: "
                        + (port.KeptFree is { } why ? $"{port.Name} is kept free, because {why}." : $"{Level(port, wrong)}.")
                );
                continue;
            }
            if (
                Ground(controller) is { } ground
                && plug.Leads.Any(l => l.AnyOf == PortUse.Ground)
                && plug.Leads.Where(l => l.Feeds).SelectMany(Reach).Where(p => p.Net == ground && p.Feeds).Sum(p => p.Holds) is 0
            )
            {
                reasons.Add($"No ground of {controller.Name} has room: link a strip's minus rail to it.");
                continue;
            }
            // A lead that nothing free can take is the reason; only when each has room somewhere is it the whole that lacks it.
            var crowded = plug.Leads.FirstOrDefault(l =>
                Reach(l).Where(p => Serves(p, l)).Sum(p => p.Holds)
                <= wires.Count(w => Reach(l).Any(p => Serves(p, l) && p.Name == w.Port) && (w.Controller == controller.Name || l.Feeds))
            );
            var able = (
                crowded is null
                    ? controller.Ports.Where(p => plug.Leads.Any(l => Serves(p, l)))
                    : Reach(crowded).Where(p => Serves(p, crowded))
            ).ToArray();
            var holders = wires
                .Where(w => (w.Controller == controller.Name || crowded is { Feeds: true }) && able.Any(p => p.Name == w.Port))
                .Select(w => w.Device)
                .Distinct()
                .ToArray();
            reasons.Add(
                holders.Length == 0
                    ? $"{controller.Name} has {Count(able.Length, "port")} that could serve it, and it needs {plug.Leads.Count}."
                    : $"The {Count(able.Length, "port")} of {controller.Name} that could serve it {(able.Length == 1 ? "is" : "are")} "
                        + $"taken by {string.Join(", ", holders)}."
            );
        }
        if (controllers.Count == 0)
            reasons.Add("The rig has no controller yet.");
        return new(plug.Name, reasons);
    }

    private static IEnumerable<(string Controller, string Port)> Ends(IReadOnlyList<Link>? links) =>
        (links ?? []).SelectMany(l => new[] { (l.FromController, l.FromPort), (l.ToController, l.ToPort) });

    /// <summary>Everything wrong with wires as they are run: one sentence each, with the cure.</summary>
    /// <param name="controllers">Controllers with their ports, strips and packs.</param>
    /// <param name="plugs">Devices.</param>
    /// <param name="wires">Wires as they are run.</param>
    /// <param name="links">Leads between ports.</param>
    public static IReadOnlyList<WiringFault> Check(
        IReadOnlyList<Controller> controllers,
        IReadOnlyList<Plug> plugs,
        IReadOnlyList<Wire> wires,
        IReadOnlyList<Link>? links = null
    )
    {
        links ??= [];
        controllers = Join(controllers, links);
        Port? At(string controller, string port) =>
            controllers.FirstOrDefault(c => c.Name == controller)?.Ports.FirstOrDefault(p => p.Name == port);
        var faults = new List<WiringFault>();
        var ends = Ends(links).CountBy(e => e).ToDictionary();
        foreach (var shared in wires.GroupBy(w => (w.Controller, w.Port)))
        {
            var room = At(shared.Key.Controller, shared.Key.Port)?.Holds ?? 1;
            var here = shared.Count() + ends.GetValueOrDefault(shared.Key);
            var devices = shared.Select(w => w.Device).Distinct().ToArray();
            if (here > room && room == 1)
                faults.Add(
                    new(
                        "wiring-clash",
                        shared.First().Device,
                        shared.Key.Controller,
                        shared.Key.Port,
                        devices.Length == 1
                            ? $"Two leads of {devices[0]} are on {shared.Key.Port} of {shared.Key.Controller}: move one of them to "
                                + "a free port."
                            : $"{string.Join(" and ", devices)} are both on {shared.Key.Port} of {shared.Key.Controller}: move one of "
                                + "them to a free port."
                    )
                );
            else if (here > room)
                faults.Add(
                    new(
                        "wiring-clash",
                        shared.First().Device,
                        shared.Key.Controller,
                        shared.Key.Port,
                        $"{shared.Key.Port} of {shared.Key.Controller} holds {room} leads and {here} run there: link a strip to it "
                            + "and move some there."
                    )
                );
        }
        foreach (var wire in wires)
        {
            var port = At(wire.Controller, wire.Port);
            var lead = plugs.FirstOrDefault(p => p.Name == wire.Device)?.Leads.FirstOrDefault(l => l.Name == wire.Lead);
            if (port is null || lead is null)
                faults.Add(
                    new(
                        "wiring-missing",
                        wire.Device,
                        wire.Controller,
                        wire.Port,
                        $"The lead “{wire.Lead}” of {wire.Device} runs to {wire.Port} of {wire.Controller}, which is not there."
                    )
                );
            else if (port.KeptFree is { } why)
                faults.Add(
                    new(
                        "wiring-kept",
                        wire.Device,
                        wire.Controller,
                        wire.Port,
                        $"{wire.Device} is on {wire.Port} of {wire.Controller}, which is kept free, because {why}: move it, or say in "
                            + "Describe that the port may be used."
                    )
                );
            else if ((port.Can & lead.AnyOf) == 0)
                faults.Add(
                    new(
                        "wiring-kind",
                        wire.Device,
                        wire.Controller,
                        wire.Port,
                        $"{wire.Port} of {wire.Controller} cannot {PortUses.Say(lead.AnyOf)}, which {wire.Device} needs: move it to a "
                            + "port that can."
                    )
                );
            else if (Level(port, lead, wire.Via) is { } level)
                faults.Add(new("wiring-level", wire.Device, wire.Controller, wire.Port, $"{wire.Device} on {wire.Controller}: {level}."));
        }
        foreach (var plug in plugs)
        foreach (var lead in plug.Leads.Where(l => !wires.Any(w => w.Device == plug.Name && w.Lead == l.Name)))
            faults.Add(
                new(
                    "wiring-missing",
                    plug.Name,
                    null,
                    null,
                    $"The lead “{lead.Name}” of {plug.Name} goes nowhere: run it to a port that can {PortUses.Say(lead.AnyOf)}."
                )
            );
        foreach (var link in links)
        {
            if (At(link.FromController, link.FromPort) is not { } from || At(link.ToController, link.ToPort) is not { } to)
                faults.Add(
                    new(
                        "wiring-missing",
                        link.FromController,
                        link.FromController,
                        link.FromPort,
                        $"The link from {link.FromPort} of {link.FromController} to {link.ToPort} of {link.ToController} has an end "
                            + "that is not there."
                    )
                );
            else if (!from.Feeds || !to.Feeds || from.Can.HasFlag(PortUse.Supply) != to.Can.HasFlag(PortUse.Supply))
                faults.Add(
                    new(
                        "wiring-short",
                        link.FromController,
                        link.FromController,
                        link.FromPort,
                        from.Feeds && to.Feeds
                            ? $"{link.FromPort} of {link.FromController} and {link.ToPort} of {link.ToController} are supply and "
                                + "ground: a short circuit. Take the link out at once."
                            : $"A link joins supplies or grounds only: {link.FromPort} of {link.FromController} and {link.ToPort} of "
                                + $"{link.ToController} are not both."
                    )
                );
        }
        foreach (
            var joined in controllers
                .SelectMany(c => c.Ports.Where(p => p.Can.HasFlag(PortUse.Supply)).Select(p => (Controller: c, Port: p)))
                .GroupBy(x => x.Port.Net)
        )
        {
            var volts = joined
                .Where(x => x.Controller.Role != NodeRole.Strip && x.Port.OutputHighV is not null)
                .Select(x => x.Port.OutputHighV!.Value)
                .Distinct()
                .Order()
                .ToArray();
            var feeding = joined.Where(x => x.Controller.Role != NodeRole.Strip).Select(x => $"{x.Port.Name} of {x.Controller.Name}");
            if (volts.Length > 1)
                faults.Add(
                    new(
                        "wiring-short",
                        joined.First().Controller.Name,
                        joined.First().Controller.Name,
                        joined.First().Port.Name,
                        $"{string.Join(" and ", feeding)} give {string.Join(" and ", volts.Select(v => Show(v)))} V and are joined: "
                            + "one will feed into the other. Take the link between them out."
                    )
                );
        }
        // A signal means nothing without a common ground.
        foreach (var plug in plugs)
        {
            var home = wires
                .Where(w => w.Device == plug.Name && plug.Leads.Any(l => l.Name == w.Lead && !l.Feeds))
                .Select(w => controllers.FirstOrDefault(c => c.Name == w.Controller))
                .FirstOrDefault(c => c is not null);
            var ground = wires.FirstOrDefault(w =>
                w.Device == plug.Name && plug.Leads.Any(l => l.Name == w.Lead && l.AnyOf == PortUse.Ground)
            );
            if (
                home is null
                || ground is null
                || Ground(home) is not { } own
                || At(ground.Controller, ground.Port) is not { } there
                || !there.Can.HasFlag(PortUse.Ground)
                || there.Net == own
            )
                continue;
            faults.Add(
                new(
                    "wiring-ground",
                    plug.Name,
                    ground.Controller,
                    ground.Port,
                    $"The ground of {plug.Name} is on {ground.Controller}, which is not joined to the ground of {home.Name}: link the "
                        + "two grounds, or its signal means nothing."
                )
            );
        }
        return faults;
    }

    /// <summary>Grounds that are joined with each other: one list a common ground, each as "port of controller".</summary>
    public static IReadOnlyList<IReadOnlyList<string>> CommonGrounds(IReadOnlyList<Controller> controllers, IReadOnlyList<Link> links) =>
        [
            .. Join(controllers, links)
                .SelectMany(c => c.Ports.Where(p => p.Can.HasFlag(PortUse.Ground)).Select(p => (p.Net, Say: $"{p.Name} of {c.Name}")))
                .GroupBy(x => x.Net)
                .Select(g => (IReadOnlyList<string>)[.. g.Select(x => x.Say)]),
        ];
}

/// <summary>A fault of the wiring.</summary>
/// <param name="Code">wiring-clash, wiring-kept, wiring-kind, wiring-level, wiring-missing, wiring-short or wiring-ground.</param>
/// <param name="Device">The device it speaks of.</param>
/// <param name="Controller">The controller, if any.</param>
/// <param name="Port">The port, if any.</param>
/// <param name="Say">What is wrong and what cures it.</param>
public sealed record WiringFault(string Code, string Device, string? Controller, string? Port, string Say);
