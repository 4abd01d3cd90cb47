using Chiton.Core.Motion;
using MathNet.Numerics.Distributions;

namespace Chiton.Core.Tests.Motion;

/// <summary>Trials of made-up robots whose true numbers are known here and hidden from the fit.</summary>
public class HiddenWheelTests
{
    private static readonly TrialPlan Straight = TrialCatalogue.For(MoveRigs.Scrubber).First(p => p.Key == "Drive: straight");
    private static readonly TrialSetting At = new(56, 120, 0.04, null, 1);

    private static double Claim(int freedom) => StudentT.InvCDF(0, 1, freedom, 0.99);

    // A robot that rolls on after each stop is tried at the way asked and at a second one in turn, until the page says enough.
    private static (bool Held, bool Odd, int Trials) Tried(int seed, double coastMm, double slip)
    {
        var luck = new RandomStream((ulong)seed, 900);
        var wheel = 54 + 4 * luck.Uniform();
        var made = new List<Trial>();
        TrialFit fit;
        do
        {
            var asked = made.Count % 2 == 0 ? 1200.0 : 400;
            var told = TrialPlans.Command(Straight, asked, 56, At);
            var way = told * Math.PI * wheel / 360;
            made.Add(new(asked, told, way * (1 + slip * luck.Normal()) + coastMm + 0.3 * luck.Normal()));
            fit = Trials.Fit(Straight, made, asked, At);
        } while (!(made.Count >= 6 && fit.Enough) && made.Count < 60 && fit.Odd.Count == 0);
        return (Math.Abs(fit.Number!.Value - wheel) <= Claim(made.Count - 2) * fit.Number.MeanSd, fit.Odd.Count > 0, made.Count);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(9)]
    public void Stopped_at_enough_95_of_100_hidden_wheels_lie_within_the_claim_with_and_without_coast(double coastMm)
    {
        const int seeds = 1000;
        var tried = Enumerable.Range(1, seeds).Select(s => Tried(s, coastMm, 0.004)).ToArray();
        Assert.InRange(tried.Count(t => t.Held) / (double)seeds, 0.945, 1);
        // Clean series: at most 1 in 20 is called odd, however often it is looked at.
        Assert.InRange(tried.Count(t => t.Odd) / (double)seeds, 0, 0.05);
        Assert.True(tried.Average(t => t.Trials) < 20);
    }

    [Fact]
    public void At_one_way_the_claim_is_of_that_way_and_a_second_is_proposed()
    {
        // 56 mm told, 55 mm true, and 8 mm rolled on: at 800 mm that looks like a wheel of 55.56.
        var told = TrialPlans.Command(Straight, 800, 56, At);
        Trial[] alike = [.. new[] { -1, 0, 1, 0, 0 }.Select(d => new Trial(800, told, told * Math.PI * 55 / 360 + 8 + d * 0.5))];
        var one = Trials.Fit(Straight, alike, 800, At);
        Assert.Equal(55.56, one.Number!.Value, 2);
        Assert.Null(one.Second);
        Assert.Contains("holds at 800 mm only: try 400 mm as well", one.Say);
        var half = TrialPlans.Command(Straight, 400, 56, At);
        Trial[] both = [.. alike, .. new[] { -1, 1, 0 }.Select(d => new Trial(400, half, half * Math.PI * 55 / 360 + 8 + d * 0.5))];
        var two = Trials.Fit(Straight, both, 600, At);
        Assert.Equal(55, two.Number!.Value, 0.15);
        Assert.Equal(8, two.Second!.Value, 1);
        Assert.Contains("mm farther than its wheels are told", two.Say);
        // The next command brings the way that is wanted, roll and all.
        Assert.Equal(600, two.NextCommand!.Value * Math.PI * 55 / 360 + 8, 1);
        // Once it is accepted, every straight is told so much less.
        var moves = new CopyMoves(
            MoveRigs.Scrubber,
            null,
            new Dictionary<string, IReadOnlyList<Trial>>(),
            new Dictionary<string, AcceptedNumber> { ["Drive: straight"] = AcceptedNumber.Of(two.Number, two.Second, 8, 600) }
        );
        Assert.Equal(8, moves.At("Drive").OvershootMm, 1);
        Assert.Equal(600, TrialPlans.Command(Straight, 600, two.Number.Value, moves.At("Drive")) * Math.PI * 55 / 360 + 8, 1);
        Assert.DoesNotContain("only", moves.Measured(Straight)!.Source);
        Assert.Equal("mm", moves.Second(Straight)!.Unit);
    }

    [Fact]
    public void The_mean_is_known_to_its_SD_over_the_root_of_the_trials()
    {
        Trial[] made = [.. new[] { 790.0, 800, 810, 804 }.Select(h => new Trial(800, 1637, h))];
        var wheels = made.Select(t => t.Measured * 360 / (Math.PI * 1637)).ToArray();
        var sd = Math.Sqrt(wheels.Sum(w => Math.Pow(w - wheels.Average(), 2)) / 3);
        var fit = Trials.Fit(Straight, made, 800, At).Number!;
        Assert.Equal(sd, fit.MoveSd, 9);
        Assert.Equal(sd / 2, fit.MeanSd, 9);
    }

    [Fact]
    public void Asked_and_told_are_two_numbers_on_a_table()
    {
        CopyMoves Moves(bool real, IReadOnlyList<Trial> made) =>
            new(
                MoveRigs.Scrubber,
                null,
                new Dictionary<string, IReadOnlyList<Trial>> { ["Drive: straight"] = made },
                new Dictionary<string, AcceptedNumber>(),
                "on the table",
                real
            );
        // A wheel of 54.7 mm, always told what the first suggestion said, because nobody changed the program.
        var first = TrialEntry.Of(Moves(true, []), Straight, 800, null, 700, true).Commanded;
        var made = new List<Trial>();
        for (var i = 0; i < 5; i++)
        {
            var entry = TrialEntry.Of(Moves(true, made), Straight, 800, null, first * Math.PI * 54.7 / 360 + (i - 2) * 0.4, true);
            Assert.Equal(first, entry.Commanded);
            made.Add(new(entry.Asked, entry.Commanded, entry.Measured!.Value));
        }
        var view = MotionView.Of(Moves(true, made), Straight, 800, 5);
        Assert.Equal(54.7, view.Fit.Number!.Value, 2);
        Assert.Equal(first, view.Command);
        Assert.Equal(800 * 360 / (Math.PI * 54.7), view.Suggested, 0.2);
        // Another way was told nothing yet; and a stand-in does what is suggested.
        Assert.NotEqual(first, MotionView.Of(Moves(true, made), Straight, 400, 5).Command);
        var standIn = MotionView.Of(Moves(false, made), Straight, 800, 5);
        Assert.Equal(standIn.Suggested, standIn.Command);
        Assert.Equal(1650, TrialEntry.Of(Moves(true, made), Straight, 800, 1650, 790, true).Commanded);
    }

    [Fact]
    public void A_track_found_through_a_wheel_follows_it()
    {
        var turn = TrialCatalogue.For(MoveRigs.Scrubber).First(p => p.Key == "Drive: turn");
        CopyMoves Moves(double? wheel) =>
            new(
                MoveRigs.Scrubber,
                null,
                new Dictionary<string, IReadOnlyList<Trial>>(),
                new[]
                {
                    ("Drive: turn", new AcceptedNumber(120, 0.6, 1.2, 5, 360, null, 0, 0, 56)),
                    ("Drive: veer", new AcceptedNumber(2, 0.2, 0.4, 5, 1000, null, 0, 0, 56)),
                    ("Drive: straight", new AcceptedNumber(wheel ?? 0, 0.05, 0.1, 5, 800, null, 0, 0)),
                }
                    .Where(a => a.Item1 != "Drive: straight" || wheel is not null)
                    .ToDictionary(a => a.Item1, a => a.Item2)
            );
        var before = Moves(56).Measured(turn)!;
        var after = Moves(54.7).Measured(turn)!;
        Assert.Equal(120, before.Value, 9);
        Assert.Equal(120 * 54.7 / 56, after.Value, 9);
        Assert.Equal(0.6 * 54.7 / 56, Moves(54.7).Alone(turn)!.MeanSd, 9);
        // By itself it is known no better than the wheel that it was worked out through.
        Assert.Equal(Math.Sqrt(Math.Pow(0.6 * 54.7 / 56, 2) + Math.Pow(0.05 / 54.7 * after.Value, 2)), after.MeanSd, 9);
        // So that what the wheels are told for a turn is the same before and after.
        Assert.Equal(
            TrialPlans.Command(turn, 360, before.Value, Moves(56).At("Drive")),
            TrialPlans.Command(turn, 360, after.Value, Moves(54.7).At("Drive")),
            9
        );
        Assert.Equal(2 * Math.Pow(56 / 54.7, 2), Moves(54.7).InUse("Drive", TrialKind.Veer)!.Value, 9);
    }

    [Theory]
    [InlineData(0.05)]
    [InlineData(0.5)]
    public void A_slip_is_called_odd_and_a_clean_series_seldom_is(double slip)
    {
        int clean = 0,
            found = 0;
        const int seeds = 1000;
        for (var seed = 1; seed <= seeds; seed++)
        {
            var luck = new RandomStream((ulong)seed, 901);
            Trial[] made = [.. Enumerable.Range(0, 10).Select(_ => new Trial(800, 1637, 800 * (1 + 0.005 * luck.Normal())))];
            if (Trials.Fit(Straight, made, 800, At).Odd.Count > 0)
                clean++;
            made[4] = made[4] with { Measured = made[4].Measured * (1 + slip) };
            if (Trials.Fit(Straight, made, 800, At).Odd.Contains(4))
                found++;
        }
        Assert.InRange(clean, 0, 50);
        Assert.InRange(found, 900, seeds);
    }
}
