using MathNet.Numerics;

namespace Chiton.Core.Sensing;

/// <summary>The normal distribution, as the sums of sensing use it.</summary>
public static class Normal
{
    /// <summary>Upper tail: the chance that a standard normal number exceeds <paramref name="z"/>.</summary>
    public static double Q(double z) => 0.5 * SpecialFunctions.Erfc(z / Constants.Sqrt2);

    /// <summary>The z beyond which a standard normal number lies with chance <paramref name="p"/>.</summary>
    /// <param name="p">Between 0 and 1.</param>
    public static double InverseQ(double p) => Constants.Sqrt2 * SpecialFunctions.ErfcInv(2 * p);

    /// <summary>
    /// Natural logarithm of <see cref="Q"/>, also where Q itself is too small for a double. Source: the first terms of
    /// the asymptotic series of Mills' ratio (Abramowitz and Stegun, 26.2.12).
    /// </summary>
    public static double LogQ(double z)
    {
        if (z < 30)
            return Math.Log(Q(z));
        var z2 = z * z;
        return -z2 / 2 - Math.Log(z * Constants.Sqrt2Pi) + Math.Log(1 - 1 / z2 + 3 / (z2 * z2));
    }
}
