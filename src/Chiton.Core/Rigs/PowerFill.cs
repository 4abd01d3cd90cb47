using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>The sum of what feeds a rig, filled from its design.</summary>
public static class PowerFill
{
    /// <summary>The numbers as the sum takes them, from what the design says.</summary>
    /// <param name="rig">The design.</param>
    public static PowerBudgetInput Of(RigDesign rig)
    {
        var power = rig.Power;
        // Every device of the rig has its row, so that one that was added later is not forgotten.
        PowerDevice[] devices =
        [
            .. rig.Devices.Select(d =>
                power?.Devices.FirstOrDefault(p => p.Name == d.Name)
                ?? new PowerDevice(d.Name, 1, d.SupplyMinV, d.SupplyMaxV, null, null, null, null, "controller")
            ),
        ];
        return new(
            power?.Cells,
            power?.VoltsPerCell,
            power?.CapacityMAh,
            power?.PackMaxMA,
            power?.ControllerOwnMA,
            power?.ControllerOutputMaxMA,
            power?.ControllerOutputV ?? Fed(rig),
            devices
        );
    }

    // What the controller's own supply pins give, where they say so.
    private static double? Fed(RigDesign rig) =>
        rig
            .Controllers.Where(c => c.Role == NodeRole.Controller)
            .SelectMany(c => c.Ports)
            .FirstOrDefault(p => p.Can.HasFlag(PortUse.Supply) && p.OutputHighV is not null)
            ?.OutputHighV;

    /// <summary>A number of the sum in words, for what is wrong with it: the device and what the table calls it.</summary>
    /// <param name="input">The numbers.</param>
    /// <param name="field">Its field, such as <c>devices[2].minV</c>.</param>
    public static string Words(PowerBudgetInput input, string field)
    {
        var name = field.Split('.')[^1];
        var label = Labels.GetValueOrDefault(name, "power");
        var at = field.IndexOf("devices[", StringComparison.Ordinal);
        return
            at >= 0
            && field.IndexOf(']', at) is > 0 and var end
            && int.TryParse(field[(at + 8)..end], System.Globalization.CultureInfo.InvariantCulture, out var i)
            && i < (input.Devices?.Count ?? 0)
            ? $"{input.Devices![i]?.Name}, {label}"
            : char.ToUpperInvariant(label[0]) + label[1..];
    }

    private static readonly Dictionary<string, string> Labels = new()
    {
        ["cells"] = "cells",
        ["voltsPerCell"] = "volts per cell",
        ["capacityMAh"] = "charge",
        ["packMaxMA"] = "what the pack gives at most",
        ["controllerOwnMA"] = "what the controller draws itself",
        ["controllerOutputMaxMA"] = "what the controller supplies at most",
        ["controllerOutputV"] = "the voltage the controller supplies",
        ["devices"] = "devices",
        ["name"] = "name",
        ["count"] = "how many",
        ["minV"] = "least voltage",
        ["maxV"] = "highest voltage",
        ["idleMA"] = "current while idle",
        ["activeMA"] = "current while working",
        ["stallMA"] = "current while stalled",
        ["duty"] = "share of the time it works",
        ["suppliedBy"] = "what feeds it",
    };

    /// <summary>What the design keeps of numbers that the sum took.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="input">The numbers.</param>
    /// <exception cref="InputProblem">When the sum refuses them, or a device is not of this rig.</exception>
    public static RigPower Kept(RigDesign rig, PowerBudgetInput input)
    {
        PowerBudget.Compute(input);
        if (input.Devices!.FirstOrDefault(d => rig.Find(d.Name!) is null) is { } unknown)
            throw new InputProblem("input.devices", $"There is no device “{unknown.Name}”.");
        return new(
            input.Cells!.Value,
            input.VoltsPerCell!.Value,
            input.CapacityMAh!.Value,
            input.PackMaxMA,
            input.ControllerOwnMA ?? 0,
            input.ControllerOutputMaxMA!.Value,
            input.ControllerOutputV!.Value,
            input.Devices!.ToSequence()
        );
    }
}
