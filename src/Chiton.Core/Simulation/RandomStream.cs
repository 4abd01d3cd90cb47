namespace Chiton.Core.Simulation;

/// <summary>
/// A stream of random numbers that depends on its seed alone: xoshiro256** seeded by SplitMix64 (Blackman and Vigna,
/// "Scrambled linear pseudorandom number generators", 2021). Normal numbers by Marsaglia's polar method.
/// </summary>
public struct RandomStream
{
    private ulong s0,
        s1,
        s2,
        s3;
    private double spare;
    private bool hasSpare;

    /// <summary>A stream.</summary>
    /// <param name="seed">Any number.</param>
    /// <param name="lane">Which of several independent streams of that seed.</param>
    public RandomStream(ulong seed, uint lane)
    {
        var state = seed * 0x9E3779B97F4A7C15UL + lane * 0xD1B54A32D192ED03UL;
        s0 = Mix(ref state);
        s1 = Mix(ref state);
        s2 = Mix(ref state);
        s3 = Mix(ref state);
    }

    private static ulong Mix(ref ulong state)
    {
        var z = state += 0x9E3779B97F4A7C15UL;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9UL;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EBUL;
        return z ^ (z >> 31);
    }

    /// <summary>The seed of one run among many: spread so that runs of different counts never share a stream by accident. Fits a JSON
    /// number exactly.</summary>
    /// <param name="seed">Seed of the whole proof.</param>
    /// <param name="run">Which run, from 0.</param>
    public static long SeedOfRun(long seed, int run)
    {
        var state = (ulong)seed * 0xA24BAED4963EE407UL + (ulong)run;
        return (long)(Mix(ref state) >> 22);
    }

    private ulong Next()
    {
        var result = ulong.RotateLeft(s1 * 5, 7) * 9;
        var t = s1 << 17;
        s2 ^= s0;
        s3 ^= s1;
        s1 ^= s2;
        s0 ^= s3;
        s2 ^= t;
        s3 = ulong.RotateLeft(s3, 45);
        return result;
    }

    /// <summary>A number from 0 up to but not including 1.</summary>
    public double Uniform() => (Next() >> 11) * (1.0 / (1UL << 53));

    /// <summary>
    /// A χ² number. Source: Marsaglia and Tsang, "A simple method for generating gamma variables" (2000); below two degrees of freedom
    /// with their power of a uniform number.
    /// </summary>
    /// <param name="dof">Degrees of freedom, above 0.</param>
    public double ChiSquared(double dof)
    {
        var shape = dof / 2;
        var d = (shape < 1 ? shape + 1 : shape) - 1.0 / 3;
        var c = 1 / Math.Sqrt(9 * d);
        double v;
        while (true)
        {
            double x;
            do
            {
                x = Normal();
                v = 1 + c * x;
            } while (v <= 0);
            v = v * v * v;
            var u = 1 - Uniform();
            if (Math.Log(u) < 0.5 * x * x + d - d * v + d * Math.Log(v))
                break;
        }
        return 2 * d * v * (shape < 1 ? Math.Pow(1 - Uniform(), 1 / shape) : 1);
    }

    /// <summary>A standard normal number.</summary>
    public double Normal()
    {
        if (hasSpare)
        {
            hasSpare = false;
            return spare;
        }
        double u,
            v,
            s;
        do
        {
            u = 2 * Uniform() - 1;
            v = 2 * Uniform() - 1;
            s = u * u + v * v;
        } while (s >= 1 || s == 0);
        var scale = Math.Sqrt(-2 * Math.Log(s) / s);
        spare = v * scale;
        hasSpare = true;
        return u * scale;
    }
}
