using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Motion;

/// <summary>Path errors where the heading spreads widely, held against thousands of made-up paths.</summary>
public class CurvedPathTests
{
    private static readonly PathMove[] Moves =
    [
        new("straight", 800, 6, 3),
        new("turn", TurnDeg: 90, TurnSdDeg: 9),
        new("straight", 500, 20, 4),
        new("turn", TurnDeg: -60, TurnSdDeg: 7),
        new("straight", -400, 10, 2),
    ];

    // Walks the path with errors drawn anew: a veer turns the way by a half of its bend and what follows by all of it.
    private static (double X, double Y)[] Walks(int count, double startHeading)
    {
        var luck = new RandomStream(11, 400);
        var ends = new (double, double)[count];
        for (var k = 0; k < count; k++)
        {
            double x = 5 * luck.Normal(),
                y = 5 * luck.Normal(),
                heading = startHeading * luck.Normal();
            foreach (var m in Moves)
            {
                if (m.Kind == "turn")
                {
                    heading += m.TurnDeg!.Value + m.TurnSdDeg!.Value * luck.Normal();
                    continue;
                }
                var bend = m.VeerSdDegPerM!.Value * luck.Normal() * Math.Abs(m.DistanceMm!.Value) / 1000;
                var way = m.DistanceMm.Value + m.DistanceSdMm!.Value * luck.Normal();
                var along = (heading + bend / 2) * Math.PI / 180;
                (x, y, heading) = (x + way * Math.Cos(along), y + way * Math.Sin(along), heading + bend);
            }
            ends[k] = (x, y);
        }
        return ends;
    }

    [Theory]
    [InlineData(1)]
    [InlineData(10)]
    public void Mean_and_spread_are_those_of_made_up_paths(double startHeading)
    {
        var sum = PathError.Compute(new(Moves, 5, startHeading)).Result;
        Assert.True(sum.SdHeadingDeg > PathError.CurvedFromDeg);
        var ends = Walks(200_000, startHeading);
        var (mx, my) = (ends.Average(e => e.X), ends.Average(e => e.Y));
        // The mean of 200 000 is known to about 0.3 mm, their SD to 0.2 %.
        Assert.Equal(mx, sum.EndXMm, 1.0);
        Assert.Equal(my, sum.EndYMm, 1.0);
        Assert.Equal(1, Math.Sqrt(ends.Average(e => (e.X - mx) * (e.X - mx))) / sum.SdXMm, 0.008);
        Assert.Equal(1, Math.Sqrt(ends.Average(e => (e.Y - my) * (e.Y - my))) / sum.SdYMm, 0.008);
        Assert.Equal(ends.Average(e => (e.X - mx) * (e.Y - my)), sum.CovarianceMm2, 0.01 * sum.SdXMm * sum.SdYMm);
    }

    [Fact]
    public void Up_to_five_degrees_the_sum_is_straight_and_beyond_thirty_it_names_the_number()
    {
        PathErrorResult Of(double sd) =>
            PathError.Compute(new([new("turn", TurnDeg: 0, TurnSdDeg: sd), new("straight", 1000, 0, 0)])).Result;
        Assert.Equal(1000, Of(5).EndXMm);
        Assert.Equal(0, Of(5).SdXMm, 9);
        var spread = Math.Pow(5.01 * Math.PI / 180, 2);
        Assert.Equal(1000 * Math.Exp(-spread / 2), Of(5.01).EndXMm, 9);
        // cos² on average, less the square of the cosine's average.
        Assert.Equal(1000 * Math.Sqrt((1 + Math.Exp(-2 * spread)) / 2 - Math.Exp(-spread)), Of(5.01).SdXMm, 6);
        Assert.Empty(PathError.Compute(new([new("turn", TurnDeg: 9, TurnSdDeg: 5)])).Cautions);
        Assert.Contains("curve", Assert.Single(PathError.Compute(new([new("turn", TurnDeg: 9, TurnSdDeg: 6)])).Cautions));
        Assert.Equal(30, PathError.Compute(new([new("turn", TurnDeg: 9, TurnSdDeg: 30)])).Result.SdHeadingDeg, 9);
        Assert.Equal(
            ["moves[1].veerSdDegPerM"],
            Assert
                .Throws<InputProblem>(() =>
                    PathError.Compute(
                        new([new("turn", TurnDeg: 9, TurnSdDeg: 29), new("straight", 1000, 0, 8), new("turn", TurnDeg: 1, TurnSdDeg: 9)])
                    )
                )
                .Errors.Keys
        );
        Assert.Equal(["startHeadingSdDeg"], Assert.Throws<InputProblem>(() => PathError.Compute(new(Moves, 0, 31))).Errors.Keys);
    }

    [Fact]
    public void A_long_path_is_answered_at_once()
    {
        PathMove[] long_ =
        [
            .. Enumerable
                .Range(0, PathError.MostMoves)
                .Select(i => i % 2 == 0 ? Moves[0] with { VeerSdDegPerM = 0.1 } : new PathMove("turn", TurnDeg: 7, TurnSdDeg: 0.5)),
        ];
        Assert.True(double.IsFinite(PathError.Compute(new(long_, 5, 1)).Result.SdXMm));
    }
}
