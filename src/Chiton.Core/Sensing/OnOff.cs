using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>on-off</c>. Levels and rates are in one unit, whichever.</summary>
/// <param name="RiseRatePerS">How fast it rises while on, net, a second.</param>
/// <param name="FallRatePerS">How fast it falls while off, net, a second.</param>
/// <param name="OnBelow">It is switched on below this.</param>
/// <param name="OffAbove">It is switched off above this.</param>
/// <param name="DelayS">Dead time: from the switch to the effect, s.</param>
/// <param name="SamplePeriodS">Time between readings, s.</param>
public sealed record OnOffInput(
    double? RiseRatePerS,
    double? FallRatePerS,
    double? OnBelow,
    double? OffAbove,
    double? DelayS,
    double? SamplePeriodS
);

/// <summary>Result of the sum <c>on-off</c>.</summary>
/// <param name="High">How high it gets.</param>
/// <param name="Low">How low it gets.</param>
/// <param name="OnS">How long it rises, s.</param>
/// <param name="CycleS">One rise and one fall, s.</param>
/// <param name="SwitchesPerHour">Switches, on and off, an hour.</param>
public sealed record OnOffResult(double High, double Low, double OnS, double CycleS, double SwitchesPerHour);

/// <summary>What a pump, a valve or a heater with dead time does between two levels.</summary>
public static class OnOff
{
    /// <summary>Computes the sum. Each switch acts a dead time and a reading late, at the worst. Source: two straight slopes.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<OnOffResult> Compute(OnOffInput input)
    {
        var need = new Require();
        var rise = need.Number(input.RiseRatePerS, "riseRatePerS", 0, 1e9, aboveMin: true);
        var fall = need.Number(input.FallRatePerS, "fallRatePerS", 0, 1e9, aboveMin: true);
        var on = need.Number(input.OnBelow, "onBelow", -1e9, 1e9);
        var off = need.Number(input.OffAbove, "offAbove", -1e9, 1e9);
        var delay = need.Number(input.DelayS, "delayS", 0, 1e6);
        var t = need.Number(input.SamplePeriodS, "samplePeriodS", 0, 1e6, aboveMin: true);
        if (need.Holds)
            need.That(on < off, "onBelow", "Must be below the reading at which it switches off.");
        need.Done();
        double high = off + rise * (delay + t),
            low = on - fall * (delay + t);
        var onS = (high - low) / rise;
        var cycle = onS + (high - low) / fall;
        var switches = 7200 / cycle;
        if (!double.IsFinite(cycle) || !double.IsFinite(switches) || switches == 0)
            throw new InputProblem("riseRatePerS", "These rates and levels are too far apart to work with.");
        return new(
            new(high, low, onS, cycle, switches),
            [
                new("It rises to", $"{Show(off)} + {Show(rise)} × ({Show(delay)} + {Show(t)})", high, ""),
                new("It falls to", $"{Show(on)} − {Show(fall)} × ({Show(delay)} + {Show(t)})", low, ""),
                new("It is on for", $"({Show(high)} − {Show(low)}) / {Show(rise)}", onS, "s"),
                new("On and off again", $"{Show(onS)} + ({Show(high)} − {Show(low)}) / {Show(fall)}", cycle, "s"),
                new("Switches an hour", $"7200 / {Show(cycle)}", switches, "an hour"),
            ],
            ["Levels wider apart switch less often; dead time adds to both ends, however near they lie."],
            null
        );
    }
}
