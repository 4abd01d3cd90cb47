using Chiton.Core.Quantities;
using MathNet.Numerics.LinearAlgebra;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>A class of colours with its samples.</summary>
/// <param name="Name">Name of the class.</param>
/// <param name="Samples">Readings as [red, green, blue].</param>
public sealed record ColourClass(string? Name, IReadOnlyList<IReadOnlyList<double>>? Samples);

/// <summary>Input of the sum <c>colours</c>.</summary>
/// <param name="Classes">Two classes or more, each with a name of its own and 2 samples or more.</param>
public sealed record ColoursInput(IReadOnlyList<ColourClass>? Classes);

/// <summary>The linear function of one class; the class with the greatest value wins.</summary>
/// <param name="Name">Name of the class.</param>
/// <param name="Mean">Mean of its samples.</param>
/// <param name="Weights">Weights of red, green and blue.</param>
/// <param name="Bias">Constant.</param>
public sealed record ColourFunction(string Name, IReadOnlyList<double> Mean, IReadOnlyList<double> Weights, double Bias);

/// <summary>The two classes taken for each other most often, or lying nearest where none is.</summary>
/// <param name="A">One class.</param>
/// <param name="B">The other.</param>
/// <param name="Confused">Samples of either taken for the other.</param>
/// <param name="Distance">Mahalanobis distance between their means.</param>
public sealed record ColourPair(string A, string B, int Confused, double Distance);

/// <summary>Result of the sum <c>colours</c>.</summary>
/// <param name="Classes">Class names in the order given: rows and columns of the confusion.</param>
/// <param name="Confusion">Samples of the row's class taken for the column's when left out of the fit.</param>
/// <param name="Accuracy">Share of samples taken for their own class.</param>
/// <param name="WorstPair">The pair to look at.</param>
/// <param name="RejectDistance">A reading farther than this from every class is unknown (Mahalanobis distance).</param>
/// <param name="Coefficients">The linear functions.</param>
/// <param name="InverseCovariance">Inverse of the pooled covariance, for distances.</param>
public sealed record ColoursResult(
    IReadOnlyList<string> Classes,
    IReadOnlyList<IReadOnlyList<int>> Confusion,
    double Accuracy,
    ColourPair WorstPair,
    double RejectDistance,
    IReadOnlyList<ColourFunction> Coefficients,
    IReadOnlyList<IReadOnlyList<double>> InverseCovariance
)
{
    /// <summary>The class of a reading, or null when it is farther than the reject distance from every class.</summary>
    /// <param name="sample">[red, green, blue].</param>
    public string? Classify(IReadOnlyList<double> sample)
    {
        string? best = null;
        var least = double.PositiveInfinity;
        foreach (var c in Coefficients)
        {
            var squared = 0.0;
            for (var i = 0; i < 3; i++)
            for (var j = 0; j < 3; j++)
                squared += (sample[i] - c.Mean[i]) * InverseCovariance[i][j] * (sample[j] - c.Mean[j]);
            if (squared < least)
                (best, least) = (c.Name, squared);
        }
        return Math.Sqrt(Math.Max(0, least)) > RejectDistance ? null : best;
    }

    /// <summary>The largest squared distance whose root is not above the reject distance: compared with this, no root is needed, and one
    /// that is rounded otherwise elsewhere changes nothing.</summary>
    internal double RejectSquared()
    {
        var square = RejectDistance * RejectDistance;
        while (Math.Sqrt(square) > RejectDistance)
            square = Math.BitDecrement(square);
        while (double.IsFinite(square) && Math.Sqrt(Math.BitIncrement(square)) <= RejectDistance)
            square = Math.BitIncrement(square);
        return square;
    }
}

/// <summary>Which colour is which, and which is taken for which.</summary>
public static class Colours
{
    /// <summary>Most samples in all.</summary>
    public const int MostSamples = 20_000;

    /// <summary>
    /// Computes the sum: linear discriminant analysis with pooled covariance and equal priors; each sample judged by a
    /// fit without it. Source: Hastie, Tibshirani and Friedman, The Elements of Statistical Learning, section 4.3.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or contradictory.</exception>
    public static Answer<ColoursResult> Compute(ColoursInput input)
    {
        var need = new Require();
        var given = input.Classes ?? [];
        need.That(given.Count is >= 2 and <= 50, "classes", "Give two to 50 classes.");
        var names = new HashSet<string>();
        var total = 0;
        for (var k = 0; k < Math.Min(50, given.Count); k++)
        {
            var at = $"classes[{k}]";
            need.That(!string.IsNullOrWhiteSpace(given[k]?.Name), $"{at}.name", "Give the class a name.");
            if (given[k]?.Name is { } name)
                need.That(names.Add(name), $"{at}.name", $"There are two classes called “{name}”.");
            var samples = given[k]?.Samples;
            need.That(samples is { Count: >= 2 }, $"{at}.samples", "Give at least 2 samples.");
            total += samples?.Count ?? 0;
            for (var i = 0; samples is not null && i < Math.Min(samples.Count, MostSamples); i++)
                need.That(
                    samples[i] is { Count: 3 } s && s.All(v => double.IsFinite(v) && Math.Abs(v) <= 1e9),
                    $"{at}.samples[{i}]",
                    "Must be three finite numbers: red, green, blue."
                );
        }
        need.That(total <= MostSamples, "classes", $"At most {MostSamples} samples in all.");
        need.Done();

        var classes = given.Select(c => c.Name!).ToArray();
        var x = given.Select(c => c.Samples!.Select(s => Vector<double>.Build.DenseOfEnumerable(s)).ToArray()).ToArray();
        var means = x.Select(s => s.Aggregate((a, b) => a + b) / s.Length).ToArray();
        var scatter = Matrix<double>.Build.Dense(3, 3);
        for (var k = 0; k < x.Length; k++)
            foreach (var sample in x[k])
                scatter += (sample - means[k]).OuterProduct(sample - means[k]);
        var count = classes.Length;
        var inverse = Inverse(scatter / Math.Max(1, total - count), out var regularised);

        var confusion = classes.Select(_ => new int[count]).ToArray();
        var own = new List<double>(total);
        var right = 0;
        for (var k = 0; k < count; k++)
        {
            foreach (var sample in x[k])
            {
                var d = sample - means[k];
                own.Add(Math.Sqrt(Math.Max(0, d * (inverse * d))));
                // Leaving one out moves its class's mean and takes its own deviation out of the scatter.
                double n = x[k].Length;
                var without = Inverse((scatter - d.OuterProduct(d) * (n / (n - 1))) / Math.Max(1, total - 1 - count), out _);
                var mean = means[k] - d / (n - 1);
                var taken = Enumerable
                    .Range(0, count)
                    .MinBy(j =>
                    {
                        var away = sample - (j == k ? mean : means[j]);
                        return away * (without * away);
                    });
                confusion[k][taken]++;
                if (taken == k)
                    right++;
            }
        }
        var pairs =
            from a in Enumerable.Range(0, count)
            from b in Enumerable.Range(a + 1, count - a - 1)
            let between = means[a] - means[b]
            select new ColourPair(
                classes[a],
                classes[b],
                confusion[a][b] + confusion[b][a],
                Math.Sqrt(Math.Max(0, between * (inverse * between)))
            );
        var worst = pairs.OrderByDescending(p => p.Confused).ThenBy(p => p.Distance).First();
        own.Sort();
        var accuracy = (double)right / total;
        var result = new ColoursResult(
            classes,
            confusion,
            accuracy,
            worst,
            Quantile(own, 0.99),
            [
                .. classes.Select(
                    (c, k) => new ColourFunction(c, [.. means[k]], [.. inverse * means[k]], -0.5 * (means[k] * (inverse * means[k])))
                ),
            ],
            [.. Enumerable.Range(0, 3).Select(i => (IReadOnlyList<double>)[.. inverse.Row(i)])]
        );
        var grade =
            accuracy >= 0.999 ? Grade.Solid
            : accuracy >= 0.98 ? Grade.Workable
            : accuracy >= 0.9 ? Grade.Fragile
            : Grade.Unusable;
        var say =
            worst.Confused > 0
                ? $"{worst.A} and {worst.B} are taken for each other in {Count(worst.Confused, "sample")} of {total}: shade the eye, "
                    + "mount it closer, or choose another marker."
                : $"Every sample is taken for its own class. {worst.A} and {worst.B} lie nearest.";
        return new(
            result,
            [
                new("Samples", string.Join(" + ", x.Select(s => s.Length)), total, "samples"),
                new("Taken for their own class, each judged without itself", $"{right} / {total}", accuracy, ""),
                new($"Distance between {worst.A} and {worst.B}", "in SDs of the common wobble", worst.Distance, "SD"),
                new(
                    "Farther than this from every class is unknown",
                    "99 % of all samples lie nearer to their own class",
                    result.RejectDistance,
                    "SD"
                ),
            ],
            regularised ? ["The samples vary in fewer than three ways, so a little spread was added. Take some while the rig works."] : [],
            new(grade, say)
        );
    }

    private static Matrix<double> Inverse(Matrix<double> covariance, out bool regularised)
    {
        var size = covariance.Trace() / 3;
        if (size <= 0)
        {
            // No spread at all: a step of one unit in each colour is the least that can be known.
            regularised = true;
            return Matrix<double>.Build.DenseIdentity(3) * 12;
        }
        regularised = covariance.Determinant() <= 1e-12 * size * size * size;
        return (regularised ? covariance + Matrix<double>.Build.DenseIdentity(3) * (1e-6 * size) : covariance).Inverse();
    }

    private static double Quantile(List<double> sorted, double p)
    {
        var at = p * (sorted.Count - 1);
        var low = (int)at;
        return low + 1 >= sorted.Count ? sorted[^1] : sorted[low] + (at - low) * (sorted[low + 1] - sorted[low]);
    }
}
