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
                ?? new PowerDevice(d.Name, 1, null, null, null, null, null, null, "controller")
            ),
        ];
        return new(
            power?.Cells,
            power?.VoltsPerCell,
            power?.CapacityMAh,
            power?.PackMaxMA,
            power?.ControllerOwnMA,
            power?.ControllerOutputMaxMA,
            power?.ControllerOutputV,
            devices
        );
    }

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
