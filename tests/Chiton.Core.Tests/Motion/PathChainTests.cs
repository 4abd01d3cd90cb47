using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Tests.Motion;

public class PathChainTests
{
    private static ChainKnows Knows(double wheelSd = 0, double trackSd = 0, double slip = 0.01) =>
        new(
            new(56, "mm", Provenance.Measured, "", wheelSd, slip * 56),
            new(118, "mm", Provenance.Measured, "", trackSd, slip * 118),
            new(0, "deg/m", Provenance.Measured, "", 0.5, 0.3, 0, -90),
            4,
            1,
            150,
            90,
            0.07
        );

    private static readonly ChainMove[] Way =
    [
        new("straight", 800),
        new("turn", 90),
        new("straight", 500),
        new("turn", -45),
        new("straight", 300),
    ];

    [Fact]
    public void Without_wrong_numbers_it_is_the_sum_path_error()
    {
        var knows = Knows() with { VeerDegPerM = new(0, "deg/m", Provenance.Measured, "", 0, 0.3, 0, -90) };
        var chain = PathChains.Compute(Way, null, knows);
        var sum = PathError.Compute(new(chain.MoveInputs, 4, 1)).Result;
        Assert.Equal(
            (sum.SdXMm, sum.SdYMm, sum.SdHeadingDeg, sum.CovarianceMm2),
            (chain.SdXMm, chain.SdYMm, chain.SdHeadingDeg, chain.CovarianceMm2),
            new Close(1e-6)
        );
        Assert.Equal((sum.EndXMm, sum.EndYMm), (chain.TargetXMm, chain.TargetYMm));
        Assert.Equal(sum.WorstMove, chain.WorstMove);
    }

    private sealed class Close(double by) : IEqualityComparer<(double, double, double, double)>
    {
        public bool Equals((double, double, double, double) a, (double, double, double, double) b) =>
            Math.Abs(a.Item1 - b.Item1) < by
            && Math.Abs(a.Item2 - b.Item2) < by
            && Math.Abs(a.Item3 - b.Item3) < by
            && Math.Abs(a.Item4 - b.Item4) < by * Math.Max(1, Math.Abs(a.Item4));

        public int GetHashCode((double, double, double, double) o) => 0;
    }

    // Drives the chain with numbers drawn once a run and slips drawn once a move.
    private static (double X, double Y)[] Driven(ChainMove[] moves, ChainKnows k, int runs)
    {
        var luck = new RandomStream(11, 4);
        var ends = new (double, double)[runs];
        for (var r = 0; r < runs; r++)
        {
            double wheel = 1 + k.WheelMm.MeanSd / k.WheelMm.Value * luck.Normal(),
                track = 1 + k.TrackMm.MeanSd / k.TrackMm.Value * luck.Normal(),
                veer = k.VeerDegPerM.Value + k.VeerDegPerM.MeanSd * luck.Normal();
            double x = k.StartSdMm * luck.Normal(),
                y = k.StartSdMm * luck.Normal(),
                h = k.StartHeadingSdDeg * luck.Normal();
            foreach (var m in moves)
            {
                var slip = k.WheelMm.MoveSd / k.WheelMm.Value;
                if (m.Kind == "turn")
                    h +=
                        m.Amount!.Value * wheel / track
                        + Math.Sqrt(2) * slip * m.Amount.Value * luck.Normal()
                        + (m.ByHand ? k.TurnRateDegPerS * k.ReactionSdS * luck.Normal() : 0);
                else
                {
                    var way =
                        m.Amount!.Value * wheel
                        + slip * m.Amount.Value * luck.Normal()
                        + (m.ByHand ? k.SpeedMmPerS * k.ReactionSdS * luck.Normal() : 0);
                    var bend = (veer + k.VeerDegPerM.MoveSd * luck.Normal()) * Math.Abs(way) / 1000;
                    x += way * Math.Cos((h + bend / 2) * Math.PI / 180);
                    y += way * Math.Sin((h + bend / 2) * Math.PI / 180);
                    h += bend;
                }
            }
            ends[r] = (x, y);
        }
        return ends;
    }

    [Fact]
    public void Spread_and_share_agree_with_100_000_simulated_chains()
    {
        var knows = Knows(0.2, 1.2);
        var chain = PathChains.Compute(Way, new(null, null, 40), knows);
        var ends = Driven(Way, knows, 100_000);
        double mx = ends.Average(e => e.X),
            my = ends.Average(e => e.Y);
        double Sd(Func<(double X, double Y), double> f) => Math.Sqrt(ends.Average(e => f(e) * f(e)));
        Assert.Equal(1, Sd(e => e.X - mx) / chain.SdXMm, 0.02);
        Assert.Equal(1, Sd(e => e.Y - my) / chain.SdYMm, 0.02);
        var share = ends.Count(e => Math.Pow(e.X - chain.TargetXMm, 2) + Math.Pow(e.Y - chain.TargetYMm, 2) <= 1600) / 100_000.0;
        Assert.Equal(share, chain.HitShare, 0.01);
    }

    [Fact]
    public void A_hand_adds_its_reaction_to_the_move_it_ends()
    {
        var by = PathChains.Compute([new("straight", 600, true)], null, Knows());
        var without = PathChains.Compute([new("straight", 600)], null, Knows());
        Assert.Equal(150 * 0.07, Math.Sqrt(by.SdXMm * by.SdXMm - without.SdXMm * without.SdXMm), 6);
        Assert.Contains(by.Sources, s => s.Name == "the hand that ends it" && s.Move == 0);
    }

    [Fact]
    public void A_wrong_wheel_cancels_there_and_back_and_a_wrong_track_does_not_cancel_in_a_square()
    {
        ChainMove[] back = [new("straight", 500), new("straight", -500)];
        Assert.Equal(0, PathChains.Compute(back, null, Knows(1)).Sources.First(s => s.Name == "wheel diameter").SdMm, 6);
        ChainMove[] square = [.. Enumerable.Range(0, 4).SelectMany(_ => new ChainMove[] { new("straight", 400), new("turn", 90) })];
        Assert.True(PathChains.Compute(square, null, Knows(0, 2)).Sources.First(s => s.Name == "track width").SdMm > 15);
    }

    [Fact]
    public void It_says_what_a_better_number_would_give()
    {
        var chain = PathChains.Compute(Way, new(null, null, 30), Knows(0, 6));
        Assert.Equal(Grade.Unusable, chain.Verdict.Grade);
        Assert.Contains("track width", chain.Verdict.Say);
        Assert.Equal(TrialKind.Turn, chain.Gains[0].Trial);
        Assert.True(chain.Gains[0].HitShare > chain.HitShare + 0.1);
        var off = PathChains.Compute(Way, new(0, 0, 30), Knows());
        Assert.Contains("beside the target, whatever the spread", off.Verdict.Say);
    }

    [Theory]
    [InlineData(0, 0, 100, 100, 0, 20, 0.864665)]
    [InlineData(0, 0, 100, 100, 0, 10, 0.393469)]
    [InlineData(0, 0, 400, 0, 0, 20, 0.682689)]
    [InlineData(50, 0, 0, 0, 0, 20, 0)]
    [InlineData(5, 5, 0, 0, 0, 20, 1)]
    public void The_share_in_a_circle_by_known_values(double dx, double dy, double vx, double vy, double c, double r, double share) =>
        Assert.Equal(share, PathChains.Inside(dx, dy, vx, vy, c, r), 4);

    [Fact]
    public void The_share_turns_with_its_axes_and_grows_with_the_circle() =>
        Gen.Double[-30, 30]
            .Select(Gen.Double[-30, 30], Gen.Double[1, 400], Gen.Double[1, 400], Gen.Double[2, 60])
            .Sample(
                (dx, dy, vx, vy, r) =>
                {
                    var share = PathChains.Inside(dx, dy, vx, vy, 0, r);
                    Assert.InRange(share, 0, 1);
                    Assert.Equal(share, PathChains.Inside(dy, dx, vy, vx, 0, r), 1e-3);
                    Assert.True(PathChains.Inside(dx, dy, vx, vy, 0, r * 1.2) >= share - 1e-6);
                }
            );

    [Fact]
    public void Nonsense_is_refused_by_field()
    {
        var p = Assert.Throws<InputProblem>(() =>
            PathChains.Compute(
                [new("hop", 1), new("turn", double.NaN), new("straight", null)],
                new(double.PositiveInfinity, 0, -1),
                Knows()
            )
        );
        Assert.Equal(["moves[0].kind", "moves[1].amount", "moves[2].amount", "target.radiusMm", "target.xMm"], p.Errors.Keys.Order());
        Assert.Contains("moves", Assert.Throws<InputProblem>(() => PathChains.Compute([], null, Knows())).Errors.Keys);
    }
}
