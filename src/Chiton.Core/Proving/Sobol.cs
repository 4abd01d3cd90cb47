namespace Chiton.Core.Proving;

/// <summary>
/// Points that fill a cube evenly. Source: Sobol (1967) with the direction numbers of Joe and Kuo, "Constructing Sobol sequences with
/// better two-dimensional projections" (2008), in the order of Gray codes (Antonov and Saleev 1979).
/// </summary>
public static class Sobol
{
    /// <summary>Most dimensions.</summary>
    public const int Most = 4;

    // By dimension after the first: degree, coefficients and first direction numbers of its polynomial.
    private static readonly (int Degree, uint Coefficients, uint[] First)[] Polynomials = [(1, 0, [1]), (2, 1, [1, 3]), (3, 1, [1, 3, 1])];

    private static readonly uint[][] Directions = [.. Enumerable.Range(0, Most).Select(Numbers)];

    private static uint[] Numbers(int dimension)
    {
        var v = new uint[32];
        if (dimension == 0)
        {
            for (var i = 0; i < 32; i++)
                v[i] = 1u << (31 - i);
            return v;
        }
        var (s, a, m) = Polynomials[dimension - 1];
        for (var i = 0; i < s; i++)
            v[i] = m[i] << (31 - i);
        for (var i = s; i < 32; i++)
        {
            v[i] = v[i - s] ^ (v[i - s] >> s);
            for (var k = 1; k < s; k++)
                v[i] ^= ((a >> (s - 1 - k)) & 1) * v[i - k];
        }
        return v;
    }

    /// <summary>The first points, each coordinate from 0 to below 1, the very first left out: it lies in a corner.</summary>
    /// <param name="points">How many.</param>
    /// <param name="dimensions">1 to <see cref="Most"/>.</param>
    public static double[][] Points(int points, int dimensions)
    {
        var all = new double[points][];
        var x = new uint[dimensions];
        for (var i = 0; i < points; i++)
        {
            var bit = System.Numerics.BitOperations.TrailingZeroCount(~(uint)i);
            for (var d = 0; d < dimensions; d++)
                x[d] ^= Directions[d][bit];
            all[i] = [.. x.Select(v => v / 4294967296.0)];
        }
        return all;
    }
}
