using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>A port of the map.</summary>
/// <param name="Name">Socket or pin.</param>
/// <param name="Can">What it can do, in words.</param>
/// <param name="Volts">Its voltages, in words; empty when none matter.</param>
/// <param name="CurrentMA">Current through it when everything there works, mA; null when nothing is known.</param>
/// <param name="Holds">How many leads it holds.</param>
public sealed record PortColumn(string Name, string Can, string Volts, double? CurrentMA, int Holds);

/// <summary>A controller of the map.</summary>
public sealed record ControllerTable(string Name, NodeRole Role, IReadOnlyList<PortColumn> Ports);

/// <summary>A lead of the map: a row.</summary>
/// <param name="Device">Device name.</param>
/// <param name="Lead">Lead name.</param>
/// <param name="Needs">What its port must do, in words.</param>
/// <param name="Controller">Where it runs; null when nowhere.</param>
/// <param name="Port">The port there.</param>
/// <param name="Fits">Ports that can serve it, as "Controller, port".</param>
/// <param name="Via">What stands between.</param>
/// <param name="Colour">Colour of the wire, where one was chosen.</param>
/// <param name="Level">The sum signal-level of the bare lead at its port; null where no voltage matters.</param>
public sealed record LeadRow(
    string Device,
    string Lead,
    string Needs,
    string? Controller,
    string? Port,
    IReadOnlyList<string> Fits,
    Between Via,
    string? Colour,
    Answer<SignalLevelResult>? Level
);

/// <summary>The port map.</summary>
public sealed record PortMap(
    int Revision,
    IReadOnlyList<ControllerTable> Controllers,
    IReadOnlyList<LeadRow> Leads,
    IReadOnlyList<WiringFault> Faults
)
{
    /// <summary>The port map of a rig.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="revision">Its revision.</param>
    public static PortMap Of(RigDesign rig, int revision)
    {
        var currents = WiringTable.Currents(rig);
        var joined = PortAssignment.Join(rig.Controllers.ToArray(), rig.Links.ToArray());
        return new(
            revision,
            [
                .. rig.Controllers.Select(c => new ControllerTable(
                    c.Name,
                    c.Role,
                    [
                        .. c.Ports.Select(p => new PortColumn(
                            p.Name,
                            PortUses.Say(p.Can),
                            Volts(p),
                            currents.TryGetValue($"{c.Name}, {p.Name}", out var mA) ? mA : null,
                            p.Holds
                        )),
                    ]
                )),
            ],
            [
                .. rig.Plugs.SelectMany(d =>
                    d.Leads.Select(l =>
                    {
                        var wire = rig.Wires.FirstOrDefault(w => w.Device == d.Name && w.Lead == l.Name);
                        return new LeadRow(
                            d.Name,
                            l.Name,
                            PortUses.Say(l.AnyOf),
                            wire?.Controller,
                            wire?.Port,
                            [.. joined.SelectMany(c => c.Ports.Where(p => PortAssignment.Serves(p, l)).Select(p => $"{c.Name}, {p.Name}"))],
                            wire?.Via ?? Between.Nothing,
                            wire?.Colour,
                            SignalAt(
                                l,
                                wire is null
                                    ? null
                                    : joined.FirstOrDefault(c => c.Name == wire.Controller)?.Ports.FirstOrDefault(p => p.Name == wire.Port)
                            )
                        );
                    })
                ),
            ],
            rig.WiringFaults()
        );
    }

    private static Answer<SignalLevelResult>? SignalAt(Lead lead, Port? port) =>
        lead.GivesV is { } gives && port?.MaxInputV is { } max
            ? SignalLevel.Compute(new(gives, max, Math.Min(port.InputHighMinV ?? 0, max)))
            : null;

    private static string Volts(Port port) =>
        string.Join(
            ", ",
            new[]
            {
                port.MaxInputV is { } max ? $"stands {Figures.Show(max)} V" : null,
                port.OutputHighV is { } output ? $"gives {Figures.Show(output)} V" : null,
            }.OfType<string>()
        );
}
