using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>One lead of the wiring table, pin to pin.</summary>
/// <param name="Device">Device, or the node at one end of a link.</param>
/// <param name="Pin">Its lead or port.</param>
/// <param name="Controller">Where it runs; null when nowhere yet.</param>
/// <param name="Port">The port there; null when nowhere yet.</param>
/// <param name="Signal">What runs through it, in words.</param>
/// <param name="Colour">Colour of the wire.</param>
/// <param name="LeadType">The lead that is needed, such as "plug to socket"; null when the device's own lead fits.</param>
/// <param name="Via">What stands between, in words; null when nothing does.</param>
/// <param name="Fault">What is wrong with it; null when nothing is.</param>
public sealed record WiringRow(
    string Device,
    string Pin,
    string? Controller,
    string? Port,
    string Signal,
    string Colour,
    string? LeadType,
    string? Via,
    string? Fault
);

/// <summary>Leads of one type, counted.</summary>
/// <param name="Type">By their ends.</param>
/// <param name="Needed">How many the map needs.</param>
/// <param name="AtHand">How many there are; null when nobody has counted.</param>
/// <param name="Say">What follows, in words; null when there are enough.</param>
public sealed record LeadCount(string Type, int Needed, int? AtHand, string? Say);

/// <summary>The wiring table: what to plug where.</summary>
/// <param name="Rows">Every lead.</param>
/// <param name="Leads">Leads needed against leads at hand.</param>
/// <param name="Grounds">Which grounds are joined, one sentence each.</param>
public sealed record WiringTable(IReadOnlyList<WiringRow> Rows, IReadOnlyList<LeadCount> Leads, IReadOnlyList<string> Grounds)
{
    private static readonly string[] Colours = ["yellow", "blue", "green", "white", "orange", "violet", "grey", "brown"];

    /// <summary>A lead's name by its two ends, in one order whichever way it lies.</summary>
    public static string Type(LeadEnd one, LeadEnd other)
    {
        var (a, b) = one <= other ? (one, other) : (other, one);
        return $"{a.ToString().ToLowerInvariant()} to {b.ToString().ToLowerInvariant()}";
    }

    /// <summary>The table of a rig.</summary>
    public static WiringTable Of(RigDesign rig)
    {
        var faults = rig.WiringFaults();
        Port? At(string controller, string port) =>
            rig.Controllers.FirstOrDefault(c => c.Name == controller)?.Ports.FirstOrDefault(p => p.Name == port);
        var rows = new List<WiringRow>();
        var needed = new SortedDictionary<string, int>();
        void Need(string? type)
        {
            if (type is not null)
                needed[type] = needed.GetValueOrDefault(type) + 1;
        }
        var signals = 0;
        foreach (var device in rig.Devices)
        foreach (var lead in device.Leads)
        {
            var wire = rig.Wires.FirstOrDefault(w => w.Device == device.Name && w.Lead == lead.Name);
            var port = wire is null ? null : At(wire.Controller, wire.Port);
            var usual =
                lead.AnyOf == PortUse.Supply ? "red"
                : lead.AnyOf == PortUse.Ground ? "black"
                : device.Connection == Connection.Cable ? "cable"
                : Colours[signals++ % Colours.Length];
            var end = device.Connection == Connection.Cable ? LeadEnd.Cable : device.Takes;
            var type = port is null || (device.OwnLead && end == port.Takes) ? null : Type(end, port.Takes);
            Need(type);
            rows.Add(
                new(
                    device.Name,
                    lead.Name,
                    wire?.Controller,
                    wire?.Port,
                    Signal(lead),
                    wire?.Colour ?? usual,
                    type,
                    wire?.Via switch
                    {
                        Between.Divider => "a divider",
                        Between.LevelShifter => "a level shifter",
                        _ => null,
                    },
                    faults
                        .FirstOrDefault(f =>
                            f.Device == device.Name
                            && (
                                wire is null
                                    ? f.Controller is null && f.Say.Contains($"“{lead.Name}”")
                                    : f.Controller == wire.Controller && f.Port == wire.Port
                            )
                        )
                        ?.Say
                )
            );
        }
        foreach (var link in rig.Links)
        {
            var (from, to) = (At(link.FromController, link.FromPort), At(link.ToController, link.ToPort));
            var type = from is null || to is null ? null : Type(from.Takes, to.Takes);
            Need(type);
            var ground = from?.Can.HasFlag(PortUse.Ground) == true;
            rows.Add(
                new(
                    link.FromController,
                    link.FromPort,
                    link.ToController,
                    link.ToPort,
                    ground ? "ground" : "supply",
                    link.Colour ?? (ground ? "black" : "red"),
                    type,
                    null,
                    faults
                        .FirstOrDefault(f =>
                            f.Controller == link.FromController && f.Port == link.FromPort && f.Code is "wiring-short" or "wiring-missing"
                        )
                        ?.Say
                )
            );
        }
        var stock = rig.LeadsAtHand.GroupBy(s => Type(s.One, s.Other)).ToDictionary(g => g.Key, g => g.Sum(s => s.Count));
        var types = needed.Keys.Union(stock.Keys).Order();
        LeadCount[] leads =
        [
            .. types.Select(t =>
            {
                var n = needed.GetValueOrDefault(t);
                int? have = rig.LeadsAtHand.Count == 0 ? null : stock.GetValueOrDefault(t);
                return new LeadCount(
                    t,
                    n,
                    have,
                    have < n
                        ? $"{Figures.Count(n - have.Value, "lead")} {t} short: find {(n - have.Value == 1 ? "it" : "them")} before class."
                        : null
                );
            }),
        ];
        var grounds = PortAssignment.CommonGrounds(rig.Controllers.ToArray(), rig.Links.ToArray());
        return new(
            rows,
            leads,
            [
                .. grounds.Select(g =>
                    g.Count == 1 ? $"{Capital(g[0])} is joined to no other ground." : $"One common ground: {string.Join(", ", g)}."
                ),
            ]
        );
    }

    private static string Signal(Lead lead) =>
        lead.AnyOf == PortUse.Supply ? "supply"
        : lead.AnyOf == PortUse.Ground ? "ground"
        : lead.GivesV is { } v ? $"{lead.Name}, up to {Figures.Show(v)} V"
        : lead.Name;

    private static string Capital(string s) => s.Length == 0 ? s : char.ToUpperInvariant(s[0]) + s[1..];

    /// <summary>Current through each port when everything there works, mA, by "controller, port": for a cable the socket's, for pins the
    /// supply's.</summary>
    public static IReadOnlyDictionary<string, double> Currents(RigDesign rig)
    {
        var sums = new Dictionary<string, double>();
        foreach (var device in rig.Devices)
        {
            if (rig.Power?.Devices.FirstOrDefault(p => p.Name == device.Name) is not { ActiveMA: { } active } draws)
                continue;
            var carries = device.Leads.FirstOrDefault(l => l.AnyOf == PortUse.Supply) ?? device.Leads.FirstOrDefault();
            if (carries is null || rig.Wires.FirstOrDefault(w => w.Device == device.Name && w.Lead == carries.Name) is not { } wire)
                continue;
            var key = $"{wire.Controller}, {wire.Port}";
            sums[key] = sums.GetValueOrDefault(key) + active * (draws.Count ?? 1);
        }
        return sums;
    }
}
