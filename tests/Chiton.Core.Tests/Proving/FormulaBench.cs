using Chiton.Core.Quantities;
using MathNet.Numerics.Distributions;

namespace Chiton.Core.Tests.Proving;

/// <summary>A bench whose runs pass with a chance that a formula gives for each copy, to hold proofs against the truth.</summary>
/// <param name="draws">What is drawn.</param>
/// <param name="rate">The chance to pass, by the numbers drawn and by how much wider their spreads are.</param>
/// <param name="salt">Machines with another salt have luck of their own, as machines that do other things have.</param>
internal sealed class FormulaBench(IReadOnlyList<DrawSpec> draws, FormulaBench.Chance rate, ulong salt = 0) : IProvable
{
    public delegate double Chance(ReadOnlySpan<double> drawn, ReadOnlySpan<double> wide);

    public IReadOnlyList<DrawSpec> Draws => draws;

    public IProvableRun Begin() => new Runner([.. draws], rate, salt);

    private sealed class Runner(DrawSpec[] draws, Chance rate, ulong salt) : IProvableRun
    {
        private readonly double[] drawn = new double[draws.Length],
            wide = new double[draws.Length];

        public BenchResult Go(long seed, long copy, CancellationToken cancel)
        {
            Chiton.Core.Simulation.Draws.All(draws, (ulong)seed, (ulong)copy, drawn, wide);
            var passed = new RandomStream((ulong)seed ^ salt, 99).Uniform() < rate(drawn, wide);
            return new(passed ? RunEnding.Passed : RunEnding.GoalMissed, passed ? -1 : 0, 0, -1, 1_000_000, 0, "");
        }

        public ReadOnlySpan<double> Drawn => drawn;

        public ReadOnlySpan<double> Wide => wide;
    }

    /// <summary>Chance that a bell-shaped number lies between two others.</summary>
    public static double Between(double low, double high, double mean, double sd) =>
        MathNet.Numerics.Distributions.Normal.CDF(mean, sd, high) - MathNet.Numerics.Distributions.Normal.CDF(mean, sd, low);

    /// <summary>A number as so many readings of it tell.</summary>
    public static Quantity Read(double mean, double sd, int readings, ref RandomStream luck)
    {
        var taken = new double[readings];
        for (var i = 0; i < readings; i++)
            taken[i] = mean + sd * luck.Normal();
        var found = taken.Average();
        var spread = Math.Sqrt(taken.Sum(v => (v - found) * (v - found)) / (readings - 1));
        return new(found, "%", Provenance.Measured, "", spread / Math.Sqrt(readings), spread, 0, -1e9) { Dof = readings - 1 };
    }

    public static Quantity Guess(double value, double span) => new(value, "mm", Provenance.Guessed, "", 0, 0, span, -1e9);

    /// <summary>A guess as it may really be.</summary>
    public static double Truth(Quantity guess, ref RandomStream luck) => guess.DrawForRun(luck.Normal());
}

/// <summary>Copies whose true rate is known, and the bench as their owner knows it.</summary>
internal static class HiddenCopies
{
    /// <summary>A copy: what is known of it, and how often it really passes.</summary>
    public sealed record Hidden(FormulaBench Bench, double Rate);

    /// <summary>An eye must see a marker twice, above a threshold; its readings are few.</summary>
    public static Hidden Noticing(int readings, int copy)
    {
        var luck = new RandomStream((ulong)copy, 1);
        var (mean, sd) = (54 + 6 * luck.Normal(), 3 + 5 * luck.Uniform());
        var known = FormulaBench.Read(mean, sd, readings, ref luck);
        double Rate(double m, double s) => Math.Pow(FormulaBench.Between(44, 1e9, m, s), 2);
        return new(new([DrawSpec.Of("marker", known)], (d, w) => Rate(d[0], known.MoveSd * w[0])), Rate(mean, sd));
    }

    /// <summary>It must stop within a few millimetres: braking is a guess, the start was measured.</summary>
    public static Hidden Stopping(int readings, int copy)
    {
        var luck = new RandomStream((ulong)copy, 2);
        var braking = FormulaBench.Guess(850, 400);
        var truth = FormulaBench.Truth(braking, ref luck);
        var (start, startSd) = (2 * luck.Normal(), 1 + 2 * luck.Uniform());
        var known = FormulaBench.Read(start, startSd, readings, ref luck);
        double Rate(double a, double at, double sd) => FormulaBench.Between(-7, 7, 150.0 * 150 / (2 * a) - 13.2 + at, sd);
        return new(
            new([DrawSpec.Of("braking", braking), DrawSpec.Of("start", known)], (d, w) => Rate(d[0], d[1], known.MoveSd * w[1])),
            Rate(truth, start, startSd)
        );
    }

    /// <summary>Four turns must end within six degrees: wheel and track were measured, the slip of a turn with them.</summary>
    public static Hidden Turning(int readings, int copy)
    {
        var luck = new RandomStream((ulong)copy, 3);
        var (track, slip) = (118 + 0.8 * luck.Normal(), 0.6 + 1.4 * luck.Uniform());
        var known = FormulaBench.Read(track, slip, readings, ref luck);
        var veer = FormulaBench.Guess(0, 6);
        var truth = FormulaBench.Truth(veer, ref luck);
        // What was read is what a turn makes; what is told is what was found.
        double Rate(double t, double sd, double v) =>
            FormulaBench.Between(-6, 6, 360 * (t / known.Value - 1) + v, 2 * 90 / known.Value * sd);
        return new(
            new([DrawSpec.Of("track", known), DrawSpec.Of("veer", veer)], (d, w) => Rate(d[0], known.MoveSd * w[0], d[1])),
            Rate(track, slip, truth)
        );
    }
}
