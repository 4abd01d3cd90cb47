using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Rigs;

/// <summary>A device of a power budget.</summary>
/// <param name="Name">Device name.</param>
/// <param name="Count">How many alike, a whole number, 0 or more.</param>
/// <param name="MinV">Least voltage it works at, V.</param>
/// <param name="MaxV">Highest voltage it stands, V.</param>
/// <param name="IdleMA">Current while it does nothing, mA.</param>
/// <param name="ActiveMA">Current while it works, mA.</param>
/// <param name="StallMA">Current while it is held still or starts, mA.</param>
/// <param name="Duty">Share of the time it works, 0 to 1.</param>
/// <param name="SuppliedBy">"pack" or "controller".</param>
public sealed record PowerDevice(
    string? Name,
    double? Count,
    double? MinV,
    double? MaxV,
    double? IdleMA,
    double? ActiveMA,
    double? StallMA,
    double? Duty,
    string? SuppliedBy
);

/// <summary>Input of the sum <c>power-budget</c>.</summary>
/// <param name="Cells">Cells in a row, 1 or more.</param>
/// <param name="VoltsPerCell">1.2 V for a rechargeable cell, 1.5 V for a primary one.</param>
/// <param name="CapacityMAh">Charge of the pack, mAh.</param>
/// <param name="PackMaxMA">Greatest current the pack may give, mA; null when not known.</param>
/// <param name="ControllerOwnMA">Current of the controller itself, mA.</param>
/// <param name="ControllerOutputMaxMA">Greatest current the controller may supply, mA.</param>
/// <param name="ControllerOutputV">Voltage it supplies, V.</param>
/// <param name="Devices">The devices.</param>
public sealed record PowerBudgetInput(
    double? Cells,
    double? VoltsPerCell,
    double? CapacityMAh,
    double? PackMaxMA,
    double? ControllerOwnMA,
    double? ControllerOutputMaxMA,
    double? ControllerOutputV,
    IReadOnlyList<PowerDevice>? Devices
);

/// <summary>What a supply must give.</summary>
/// <param name="AverageMA">On average, mA.</param>
/// <param name="PeakMA">With everything working and the worst device stalled, mA.</param>
public sealed record SupplyLoad(double AverageMA, double PeakMA);

/// <summary>The two supplies.</summary>
public sealed record Supplies(SupplyLoad Pack, SupplyLoad Controller);

/// <summary>Something a supply or device cannot bear.</summary>
/// <param name="Device">The device, or null when it is the supply as a whole.</param>
/// <param name="Kind">over-voltage, under-voltage or over-current.</param>
/// <param name="Say">In words, with the figures.</param>
public sealed record PowerIssue(string? Device, string Kind, string Say);

/// <summary>Result of the sum <c>power-budget</c>.</summary>
/// <param name="PackV">Voltage of the pack, V.</param>
/// <param name="Supplies">Load of pack and controller.</param>
/// <param name="RuntimeH">Hours until the pack is empty; null without load.</param>
/// <param name="NeedsCommonGround">True when a device is fed by the pack and commanded by the controller.</param>
/// <param name="Issues">What cannot be borne.</param>
public sealed record PowerBudgetResult(
    double PackV,
    Supplies Supplies,
    double? RuntimeH,
    bool NeedsCommonGround,
    IReadOnlyList<PowerIssue> Issues
);

/// <summary>Whether the pack and the controller can feed a rig, and for how long.</summary>
public static class PowerBudget
{
    /// <summary>Most devices of one budget.</summary>
    public const int MostDevices = 200;

    /// <summary>The inner resistance usual for a pack, Ω: 0.15 Ω for a primary cell of 2 000 mAh and 0.04 Ω for a rechargeable one, more
    /// for smaller cells. A rule of thumb, to be taken for a guess.</summary>
    /// <param name="cells">Cells in a row.</param>
    /// <param name="voltsPerCell">Volts per cell: more than 1.35 is a primary cell.</param>
    /// <param name="capacityMAh">Charge, mAh.</param>
    public static double InnerOhm(int cells, double voltsPerCell, double capacityMAh) =>
        cells * (voltsPerCell is > 1.35 and < 2 ? 0.15 : 0.04) * Math.Clamp(2000 / capacityMAh, 0.25, 8);

    // What a converter that steps up passes on of the power it takes.
    private const double BoostEfficiency = 0.85;

    /// <summary>
    /// Computes the sum. Source: Kirchhoff's current law; the worst case is everything working while the device with the
    /// largest step from working to stalled stalls. A supply that steps the pack's voltage up keeps the power, less 15 % (a
    /// common converter); one that steps it down linearly keeps the current and turns the rest into heat.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<PowerBudgetResult> Compute(PowerBudgetInput input)
    {
        var need = new Require();
        var cells = need.Whole(input.Cells, "cells", 1, 100);
        var perCell = need.Number(input.VoltsPerCell, "voltsPerCell", 0, 100, aboveMin: true);
        var capacity = need.Number(input.CapacityMAh, "capacityMAh", 0, 1e7, aboveMin: true);
        var packMax = need.Optional(input.PackMaxMA, "packMaxMA", 0, 1e7, aboveMin: true);
        var own = need.Number(input.ControllerOwnMA ?? 0, "controllerOwnMA", 0, 1e6);
        var outputMax = need.Number(input.ControllerOutputMaxMA, "controllerOutputMaxMA", 0, 1e6);
        var outputV = need.Number(input.ControllerOutputV, "controllerOutputV", 0, 1000, aboveMin: true);
        var given = input.Devices ?? [];
        need.That(input.Devices is not null, "devices", "Give a list of devices; it may be empty.");
        need.That(given.Count <= MostDevices, "devices", $"At most {MostDevices} devices.");
        var devices =
            new List<(
                string Name,
                int Count,
                double MinV,
                double MaxV,
                double Idle,
                double Active,
                double Stall,
                double Duty,
                bool FromPack
            )>();
        for (var i = 0; i < Math.Min(given.Count, MostDevices); i++)
        {
            var d = given[i];
            var at = $"devices[{i}]";
            if (d is null)
            {
                need.That(false, at, "Give a device.");
                continue;
            }
            need.That(!string.IsNullOrWhiteSpace(d.Name), $"{at}.name", "Give the device a name.");
            need.That(d.SuppliedBy is "pack" or "controller", $"{at}.suppliedBy", "Must be pack or controller.");
            var minV = need.Number(d.MinV, $"{at}.minV", 0, 1000);
            var maxV = need.Number(d.MaxV, $"{at}.maxV", 0, 1000, aboveMin: true);
            need.That(!need.Holds || minV <= maxV, $"{at}.minV", "Cannot be above the highest voltage it stands.");
            devices.Add(
                (
                    d.Name ?? "",
                    need.Whole(d.Count, $"{at}.count", 0, 1000),
                    minV,
                    maxV,
                    need.Number(d.IdleMA, $"{at}.idleMA", 0, 1e6),
                    need.Number(d.ActiveMA, $"{at}.activeMA", 0, 1e6),
                    need.Number(d.StallMA, $"{at}.stallMA", 0, 1e6),
                    need.Number(d.Duty, $"{at}.duty", 0, 1),
                    d.SuppliedBy == "pack"
                )
            );
        }
        need.Done();

        var packV = cells * perCell;
        double Average(Func<bool, bool> which) =>
            devices.Where(d => which(d.FromPack)).Sum(d => d.Count * (d.Duty * d.Active + (1 - d.Duty) * d.Idle));
        double Peak(Func<bool, bool> which)
        {
            var fed = devices.Where(d => which(d.FromPack) && d.Count > 0).ToArray();
            return fed.Sum(d => d.Count * d.Active) + fed.Select(d => Math.Max(0, d.Stall - d.Active)).DefaultIfEmpty(0).Max();
        }
        var controller = new SupplyLoad(Average(pack => !pack), Peak(pack => !pack));
        var boost = outputV > packV ? outputV / (packV * BoostEfficiency) : 1;
        var worst = devices
            .Where(d => d.Count > 0)
            .Select(d => Math.Max(0, d.Stall - d.Active) * (d.FromPack ? 1 : boost))
            .DefaultIfEmpty(0)
            .Max();
        var pack = new SupplyLoad(
            own + Average(fromPack => fromPack) + boost * controller.AverageMA,
            own + devices.Sum(d => d.Count * d.Active * (d.FromPack ? 1 : boost)) + worst
        );
        var warmth = outputV < packV ? (packV - outputV) * controller.AverageMA / 1000 : 0;
        double? runtime = pack.AverageMA > 0 ? capacity / pack.AverageMA : null;

        var issues = new List<PowerIssue>();
        foreach (var d in devices.Where(d => d.Count > 0))
        {
            var volts = d.FromPack ? packV : outputV;
            var from = d.FromPack ? "the pack" : "the controller";
            if (volts > d.MaxV)
                issues.Add(
                    new(d.Name, "over-voltage", $"{d.Name} stands {Show(d.MaxV)} V, but {from} gives {Show(volts)} V: it can be destroyed.")
                );
            if (volts < d.MinV)
                issues.Add(
                    new(
                        d.Name,
                        "under-voltage",
                        $"{d.Name} needs {Show(d.MinV)} V, but {from} gives {Show(volts)} V: it will be weak or still."
                    )
                );
        }
        if (controller.PeakMA > outputMax)
            issues.Add(
                new(
                    null,
                    "over-current",
                    $"The controller may supply {Show(outputMax)} mA, but its devices can draw {Show(controller.PeakMA)} mA: feed the "
                        + "strongest from the pack."
                )
            );
        if (packMax is { } most && pack.PeakMA > most)
            issues.Add(
                new(
                    null,
                    "over-current",
                    $"The pack may give {Show(most)} mA, but the rig can draw {Show(pack.PeakMA)} mA: use larger cells or let less "
                        + "run together."
                )
            );

        var ground = devices.Any(d => d.FromPack && d.Count > 0);
        var steps = new List<Step>
        {
            new("Voltage of the pack", $"{cells} × {Show(perCell)}", packV, "V"),
            new("The controller feeds, on average", "sum of count × (duty × active + (1 − duty) × idle)", controller.AverageMA, "mA"),
            new("The controller feeds, at most", "sum of count × active, and the worst one stalls", controller.PeakMA, "mA"),
            new("The pack gives, on average", $"{Show(own)} + all devices", pack.AverageMA, "mA"),
            new("The pack gives, at most", $"{Show(own)} + all working, and the worst one stalls", pack.PeakMA, "mA"),
        };
        if (boost > 1 && controller.PeakMA > 0)
            steps.Insert(
                3,
                new("Stepped up, each mA of it takes", $"{Show(outputV)} / ({Show(packV)} × {BoostEfficiency})", boost, "mA of the pack")
            );
        if (warmth > 0)
            steps.Insert(
                3,
                new(
                    "The regulator turns into heat",
                    $"({Show(packV)} − {Show(outputV)}) × {Show(controller.AverageMA / 1000)} A",
                    warmth,
                    "W"
                )
            );
        if (runtime is { } hours)
            steps.Add(new("Running time", $"{Show(capacity)} / {Show(pack.AverageMA)}", hours, "h"));
        var cautions = new List<string>();
        // Usual, for nobody measures it: what the cells themselves resist shows where much is drawn from few and small ones.
        var low = packV - InnerOhm(cells, perCell, capacity) * pack.PeakMA / 1000;
        foreach (var d in devices.Where(d => d.Count > 0 && d.FromPack && packV >= d.MinV && low < d.MinV))
            cautions.Add(
                $"Under the greatest load the pack sags to about {Show(low, 2)} V, by the inner resistance usual for such cells "
                    + $"({Show(InnerOhm(cells, perCell, capacity), 2)} Ω in all), and {d.Name} needs {Show(d.MinV)} V: it may stop or "
                    + "start anew. Use larger cells, or let less run together."
            );
        if (warmth > 0.5)
            cautions.Add($"The regulator of the controller gives off {Show(warmth, 2)} W: too hot to touch. Feed more from the pack.");
        if (ground)
            cautions.Add("A device fed by the pack needs its ground joined to the controller's, or its signal means nothing.");
        cautions.Add(
            "Mind polarity, never short or mix cells, and charge them by the maker's instructions. Never connect a rig to the mains."
        );
        var verdict =
            issues.Any(i => i.Kind == "over-voltage") || issues.Count > 0
                ? new Verdict(Grade.Unusable, issues[0].Say)
                : new Verdict(
                    Grade.Solid,
                    runtime is { } h ? $"Everything is fed, for about {Show(h, 2)} hours." : "Everything is fed; nothing draws current."
                );
        return new(new(packV, new(pack, controller), runtime, ground, issues), steps, cautions, verdict);
    }
}

/// <summary>Input of the sum <c>signal-level</c>.</summary>
/// <param name="OutputHighV">Voltage of the output when high, V.</param>
/// <param name="InputMaxV">Highest voltage the input stands, V.</param>
/// <param name="InputHighMinV">Least voltage the input takes for high, V.</param>
public sealed record SignalLevelInput(double? OutputHighV, double? InputMaxV, double? InputHighMinV);

/// <summary>Result of the sum <c>signal-level</c>.</summary>
/// <param name="Safe">The input stands the output's voltage.</param>
/// <param name="Readable">The input takes it for high.</param>
/// <param name="Advice">A divider or level shifter where it is not safe, a level shifter where it is not readable; else null.</param>
public sealed record SignalLevelResult(bool Safe, bool Readable, string? Advice);

/// <summary>Whether an output's signal suits an input.</summary>
public static class SignalLevel
{
    /// <summary>Computes the sum. Source: comparison of logic levels; the divider by Ohm's law.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<SignalLevelResult> Compute(SignalLevelInput input)
    {
        var need = new Require();
        var output = need.Number(input.OutputHighV, "outputHighV", 0, 1000, aboveMin: true);
        var max = need.Number(input.InputMaxV, "inputMaxV", 0, 1000, aboveMin: true);
        var high = need.Number(input.InputHighMinV, "inputHighMinV", 0, 1000);
        if (need.Holds)
            need.That(high <= max, "inputHighMinV", "Cannot be above the highest voltage that the input stands.");
        need.Done();
        var safe = output <= max;
        var readable = output >= high;
        var advice =
            !safe ? $"Put a divider of {Show((output - max) / max, 3)} to 1 (upper to lower resistor) or a level shifter between them."
            : !readable ? "Put a level shifter between them: the signal is too low to count as high."
            : null;
        var steps = new List<Step>
        {
            new("Does the input stand it?", $"{Show(output)} V against at most {Show(max)} V", output - max, "V above"),
            new("Does it count as high?", $"{Show(output)} V against at least {Show(high)} V", output - high, "V above"),
        };
        return new(
            new(safe, readable, advice),
            steps,
            safe ? [] : ["Do not connect them directly: the input can be destroyed."],
            advice is null ? new(Grade.Solid, "They can be connected directly.") : new(Grade.Unusable, advice)
        );
    }
}
