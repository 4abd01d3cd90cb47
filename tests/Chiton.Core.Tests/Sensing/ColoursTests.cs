namespace Chiton.Core.Tests.Sensing;

public class ColoursTests
{
    private static ColourClass Class(string name, params double[][] samples) =>
        new(name, [.. samples.Select(s => (IReadOnlyList<double>)s)]);

    private static ColourClass Cloud(string name, ulong seed, int n, double r, double g, double b, double sd)
    {
        var noise = new RandomStream(seed, 7);
        return Class(
            name,
            [
                .. Enumerable
                    .Range(0, n)
                    .Select(_ =>
                    {
                        // One common tremble beside three of their own, so that the covariance is not round.
                        var common = noise.Normal();
                        return new[]
                        {
                            r + sd * (noise.Normal() + common),
                            g + sd * (noise.Normal() + 0.5 * common),
                            b + sd * noise.Normal(),
                        };
                    }),
            ]
        );
    }

    private static readonly ColourClass[] Three =
    [
        Cloud("red buoy", 1, 30, 120, 40, 35, 9),
        Cloud("rust", 2, 25, 105, 55, 40, 9),
        Cloud("weed", 3, 40, 50, 90, 45, 9),
    ];

    // An independent computation: refits from nothing for every sample left out, and inverts by cofactors.
    private static int[][] LeaveOneOut(ColourClass[] classes)
    {
        var confusion = classes.Select(_ => new int[classes.Length]).ToArray();
        for (var k = 0; k < classes.Length; k++)
        for (var i = 0; i < classes[k].Samples!.Count; i++)
        {
            var left = classes.Select((c, j) => c.Samples!.Where((_, m) => j != k || m != i).ToArray()).ToArray();
            var means = left.Select(s => Enumerable.Range(0, 3).Select(d => s.Average(v => v[d])).ToArray()).ToArray();
            var c = new double[3, 3];
            for (var j = 0; j < left.Length; j++)
                foreach (var v in left[j])
                    for (var a = 0; a < 3; a++)
                    for (var b = 0; b < 3; b++)
                        c[a, b] += (v[a] - means[j][a]) * (v[b] - means[j][b]) / (left.Sum(s => s.Length) - left.Length);
            double Minor(int a, int b)
            {
                var (r, s) = (new[] { 0, 1, 2 }.Where(q => q != a).ToArray(), new[] { 0, 1, 2 }.Where(q => q != b).ToArray());
                return ((a + b) % 2 == 0 ? 1 : -1) * (c[r[0], s[0]] * c[r[1], s[1]] - c[r[0], s[1]] * c[r[1], s[0]]);
            }
            var det = Enumerable.Range(0, 3).Sum(b => c[0, b] * Minor(0, b));
            var x = classes[k].Samples![i];
            var taken = Enumerable
                .Range(0, classes.Length)
                .MinBy(j =>
                    Enumerable
                        .Range(0, 3)
                        .Sum(a => Enumerable.Range(0, 3).Sum(b => (x[a] - means[j][a]) * Minor(b, a) / det * (x[b] - means[j][b])))
                );
            confusion[k][taken]++;
        }
        return confusion;
    }

    [Fact]
    public void Confusion_agrees_with_an_independent_leave_one_out()
    {
        var r = Colours.Compute(new(Three)).Result;
        var expected = LeaveOneOut(Three);
        Assert.Equal(expected, r.Confusion.Select(row => row.ToArray()));
        Assert.True(expected[0][1] + expected[1][0] > 0, "the test needs classes that are confused");
        Assert.Equal((double)(expected[0][0] + expected[1][1] + expected[2][2]) / 95, r.Accuracy, 12);
        Assert.Equal(("red buoy", "rust"), (r.WorstPair.A, r.WorstPair.B));
    }

    [Fact]
    public void The_coefficients_decide_as_the_distances_do()
    {
        var r = Colours.Compute(new(Three)).Result;
        foreach (var c in Three)
        foreach (var s in c.Samples!)
        {
            var byFunction = r.Coefficients.MaxBy(f => f.Bias + s[0] * f.Weights[0] + s[1] * f.Weights[1] + s[2] * f.Weights[2])!.Name;
            if (r.Classify(s) is { } byDistance)
                Assert.Equal(byFunction, byDistance);
        }
    }

    [Fact]
    public void One_reading_in_a_hundred_of_their_own_is_rejected_and_far_ones_are_unknown()
    {
        var r = Colours.Compute(new(Three)).Result;
        Assert.Null(r.Classify([255, 255, 255]));
        Assert.Equal("weed", r.Classify([50, 90, 45]));
        var rejected = Three.SelectMany(c => c.Samples!).Count(s => r.Classify(s) is null);
        Assert.InRange(rejected, 0, 1);
    }

    [Fact]
    public void Flat_samples_are_regularised_and_said_to_be()
    {
        var answer = Colours.Compute(
            new([Class("a", [10, 10, 10], [12, 10, 10], [11, 10, 10]), Class("b", [50, 10, 10], [52, 10, 10], [51, 10, 10])])
        );
        Assert.Equal(1, answer.Result.Accuracy);
        Assert.Single(answer.Cautions);
        var still = Colours.Compute(new([Class("a", [10, 10, 10], [10, 10, 10]), Class("b", [50, 10, 10], [50, 10, 10])]));
        Assert.Equal(1, still.Result.Accuracy);
        Assert.True(double.IsFinite(still.Result.WorstPair.Distance));
    }

    [Fact]
    public void Order_of_the_classes_changes_nothing_but_the_order() =>
        Assert.Equal(Colours.Compute(new(Three)).Result.Accuracy, Colours.Compute(new([.. Three.Reverse()])).Result.Accuracy);

    [Fact]
    public void Bad_input_names_the_place()
    {
        var p = Assert.Throws<InputProblem>(() =>
            Colours.Compute(
                new([
                    Class("a", [1, 2, 3], [1, double.NaN, 3]),
                    new(
                        "a",
                        [
                            [1, 2],
                        ]
                    ),
                ])
            )
        );
        Assert.Equal(["classes[0].samples[1]", "classes[1].name", "classes[1].samples", "classes[1].samples[0]"], p.Errors.Keys.Order());
        Assert.Contains("classes", Assert.Throws<InputProblem>(() => Colours.Compute(new(null))).Errors.Keys);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(3)]
    [InlineData(3.2)]
    [InlineData(1e-160)]
    [InlineData(1e200)]
    [InlineData(double.PositiveInfinity)]
    public void Without_a_root_the_same_readings_are_near_enough(double given)
    {
        var draw = new RandomStream(8, 3);
        foreach (var reject in Enumerable.Range(0, 2000).Select(_ => draw.Uniform() * 20).Prepend(given))
        {
            var square = new ColoursResult([], [], 1, new("", "", 0, 0), reject, [], []).RejectSquared();
            // A few of the numbers that lie next to it, on both sides.
            var x = square;
            for (var k = 0; k < 4 && x > 0; k++)
                x = Math.BitDecrement(x);
            for (var k = 0; k < 9; k++, x = Math.BitIncrement(x))
                Assert.Equal(Math.Sqrt(x) > reject, x > square);
        }
    }
}
