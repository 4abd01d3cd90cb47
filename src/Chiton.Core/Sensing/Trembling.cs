using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>How much more a sensor's readings tremble while the rig rolls, from readings over one and the same surface.</summary>
/// <param name="SdAtRest">SD of those at rest, unit of the sensor.</param>
/// <param name="SdRolling">SD of those taken while rolling.</param>
/// <param name="Mean">Mean of all of them.</param>
/// <param name="PercentPerMPerS">What comes on top while rolling: SD as % of the reading for each m/s; 0 when rolling ones spread no
/// more.</param>
public sealed record Trembling(double SdAtRest, double SdRolling, double Mean, double PercentPerMPerS)
{
    /// <summary>Least readings of each kind: fewer do not know their own spread.</summary>
    public const int Least = 10;

    /// <summary>Works it out: two independent spreads add up in quadrature, so the tremble is what is left of the wider one.</summary>
    /// <param name="atRest">Readings at rest.</param>
    /// <param name="rolling">Readings while rolling steadily over the same surface.</param>
    /// <param name="speedMmPerS">How fast it rolled, mm/s, above 0.</param>
    /// <exception cref="InputProblem">When there are too few, or they are not of one surface.</exception>
    public static Trembling Of(IReadOnlyList<double> atRest, IReadOnlyList<double> rolling, double speedMmPerS)
    {
        var need = new Require();
        need.That(atRest.Count >= Least, "atRest", $"Give {Least} readings or more at rest; there are {atRest.Count}.");
        need.That(rolling.Count >= Least, "rolling", $"Give {Least} readings or more while rolling; there are {rolling.Count}.");
        need.That(speedMmPerS > 0, "asked", "Say how fast it rolled, above 0 mm/s.");
        need.Done();
        double restMean = atRest.Average(),
            rollMean = rolling.Average(),
            rest = Sd(atRest, restMean),
            roll = Sd(rolling, rollMean),
            mean = atRest.Concat(rolling).Average();
        if (mean == 0)
            throw new InputProblem("atRest", "All of these are 0: hold it over something that it sees.");
        // Means of so many readings differ by so much by chance; a fifth of the reading more is another surface.
        var chance = 4 * Math.Sqrt(rest * rest / atRest.Count + roll * roll / rolling.Count);
        if (Math.Abs(restMean - rollMean) > chance + 0.2 * Math.Abs(mean))
            throw new InputProblem(
                "rolling",
                $"At rest they read {Show(restMean, 3)} on average and rolling {Show(rollMean, 3)}: "
                    + "take both over one and the same surface."
            );
        var shake = Math.Sqrt(Math.Max(0, roll * roll - rest * rest));
        return new(rest, roll, mean, 100 * shake / Math.Abs(mean) / (speedMmPerS / 1000));
    }

    private static double Sd(IReadOnlyList<double> values, double mean) =>
        Math.Sqrt(values.Sum(v => (v - mean) * (v - mean)) / (values.Count - 1));
}
