using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>beam-cross</c>.</summary>
/// <param name="SpeedMmPerS">Speed of what crosses, mm/s.</param>
/// <param name="LengthMm">Its length along the way, mm.</param>
/// <param name="BeamWidthMm">Width of the beam along the way, mm.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsInARow">Readings in a row that count; 1 when left out.</param>
public sealed record BeamCrossInput(
    double? SpeedMmPerS,
    double? LengthMm,
    double? BeamWidthMm,
    double? SamplePeriodMs,
    double? ReadingsInARow = null
);

/// <summary>Result of the sum <c>beam-cross</c>.</summary>
/// <param name="InsideS">How long it is in the beam, s.</param>
/// <param name="ReadingsMin">Readings taken meanwhile, whatever the phase.</param>
/// <param name="Chance">Chance of the readings in a row, 0 to 1.</param>
/// <param name="FastestMmPerS">Greatest speed at which they are certain, mm/s.</param>
public sealed record BeamCrossResult(double InsideS, int ReadingsMin, double Chance, double FastestMmPerS);

/// <summary>Something crosses a beam: is it noticed?</summary>
public static class BeamCross
{
    /// <summary>Computes the sum. Readings come at any phase, so the number taken inside is one of two neighbours, by chance.
    /// Source: geometry and a uniform phase.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<BeamCrossResult> Compute(BeamCrossInput input)
    {
        var need = new Require();
        var v = need.Number(input.SpeedMmPerS, "speedMmPerS", 0, 1e6, aboveMin: true);
        var length = need.Number(input.LengthMm, "lengthMm", 0, 1e6);
        var beam = need.Number(input.BeamWidthMm, "beamWidthMm", 0, 1e6);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var n = need.Whole(input.ReadingsInARow ?? 1, "readingsInARow", 1, 1000);
        if (need.Holds)
            need.That(length + beam > 0, "lengthMm", "What crosses, or the beam, must have a width.");
        need.Done();
        var inside = (length + beam) / v;
        var readings = (int)Math.Min(int.MaxValue, Math.Floor(inside / t + 1e-9));
        var chance = Math.Clamp(inside / t - (n - 1), 0, 1);
        // Seen at just the fastest speed, it is certain: the last bit of a division must not take that away.
        if (readings >= n)
            chance = 1;
        var fastest = (length + beam) / (n * t);
        var grade =
            readings < n ? Grade.Unusable
            : readings < 2 * n ? Grade.Fragile
            : readings < 3 * n ? Grade.Workable
            : Grade.Solid;
        var say = grade switch
        {
            Grade.Unusable => $"It is noticed {Show(100 * chance, 3)} times in 100: stay below {Show(fastest, 4)} mm/s.",
            Grade.Fragile => $"{Count(readings, "reading")} at least, just enough for {n}: below {Show(fastest, 4)} mm/s it is certain.",
            _ => $"{Count(readings, "reading")} at least, {n} needed.",
        };
        return new(
            new(inside, readings, chance, fastest),
            [
                new("It is in the beam for", $"({Show(length)} + {Show(beam)}) / {Show(v)}", inside, "s"),
                new("Readings at least", $"⌊{Show(inside)} / {Show(t)}⌋", readings, "readings"),
                new($"Chance of {n} in a row", $"{Show(inside)} / {Show(t)} − {n - 1}, between 0 and 1", chance, ""),
                new("Certain up to", $"({Show(length)} + {Show(beam)}) / ({n} × {Show(t)})", fastest, "mm/s"),
            ],
            [],
            new(grade, say)
        );
    }
}
