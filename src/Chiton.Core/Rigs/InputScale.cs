using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Rigs;

/// <summary>Input of the sum <c>input-scale</c>.</summary>
/// <param name="Reading">What the first board reads, a whole number.</param>
/// <param name="Bits">Bits of its input.</param>
/// <param name="ReferenceV">Its reference voltage, V.</param>
/// <param name="ToBits">Bits of the other board's input.</param>
/// <param name="ToReferenceV">The other's reference voltage, V.</param>
public sealed record InputScaleInput(double? Reading, double? Bits, double? ReferenceV, double? ToBits, double? ToReferenceV);

/// <summary>Result of the sum <c>input-scale</c>.</summary>
/// <param name="Volts">The voltage that was read, V.</param>
/// <param name="ToReading">What the other board reads for it.</param>
/// <param name="Clipped">True when it is more than the other board can read.</param>
/// <param name="StepV">Smallest difference the first board tells, V.</param>
/// <param name="ToStepV">The same of the other, V.</param>
public sealed record InputScaleResult(double Volts, int ToReading, bool Clipped, double StepV, double ToStepV);

/// <summary>The same voltage on another board.</summary>
public static class InputScale
{
    /// <summary>Computes the sum. Source: a converter of b bits tells 2^b − 1 steps from 0 to its reference.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<InputScaleResult> Compute(InputScaleInput input)
    {
        var need = new Require();
        var bits = need.Whole(input.Bits, "bits", 1, 24);
        var reference = need.Number(input.ReferenceV, "referenceV", 0, 1000, aboveMin: true);
        var toBits = need.Whole(input.ToBits, "toBits", 1, 24);
        var toReference = need.Number(input.ToReferenceV, "toReferenceV", 0, 1000, aboveMin: true);
        var full = need.Holds ? (1 << bits) - 1 : 1;
        var reading = need.Number(input.Reading, "reading", 0, full);
        need.Done();
        var toFull = (1 << toBits) - 1;
        var step = reference / full;
        var toStep = toReference / toFull;
        var volts = reading * step;
        var exact = volts / toStep;
        var clipped = volts > toReference;
        var to = (int)Math.Min(toFull, Math.Round(exact, MidpointRounding.AwayFromZero));
        return new(
            new(volts, to, clipped, step, toStep),
            [
                new("The voltage", $"{Show(reading)} / {full} × {Show(reference)}", volts, "V"),
                new("On the other board", $"{Show(volts)} / {Show(toReference)} × {toFull}", to, ""),
                new("Smallest step here", $"{Show(reference)} / {full}", step, "V"),
                new("Smallest step there", $"{Show(toReference)} / {toFull}", toStep, "V"),
            ],
            [
                .. clipped
                    ? [$"The other board reads at most {Show(toReference)} V, and more may harm it: use a divider."]
                    : Array.Empty<string>(),
                .. toStep > step
                    ? ["The other board tells less: zones that lie close may no longer be told apart."]
                    : Array.Empty<string>(),
            ],
            null
        );
    }
}
