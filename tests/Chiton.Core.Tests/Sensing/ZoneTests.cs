namespace Chiton.Core.Tests.Sensing;

public class ZoneTests
{
    private static readonly ZoneScale Scale = new(["groove", "paint", "notch"], [new(20, 2), new(40, 3)]);

    [Fact]
    public void A_first_reading_is_compared_with_the_thresholds()
    {
        Assert.Equal(0, Scale.First(20));
        Assert.Equal(1, Scale.First(20.1));
        Assert.Equal(2, Scale.First(41));
    }

    [Fact]
    public void A_zone_is_left_only_beyond_the_far_side_of_the_band()
    {
        Assert.Equal(1, Scale.From(1, 43));
        Assert.Equal(2, Scale.From(1, 43.1));
        Assert.Equal(2, Scale.From(2, 37));
        Assert.Equal(1, Scale.From(2, 36.9));
        Assert.Equal(0, Scale.From(2, 17));
        Assert.Equal(2, Scale.From(0, 60));
    }

    [Fact]
    public void It_takes_that_many_in_a_row_and_another_reading_restarts_the_count()
    {
        var t = ZoneTracker.Unread;
        Assert.False(t.Take(Scale, 30, 3));
        Assert.Equal(1, t.Held);
        Assert.False(t.Take(Scale, 50, 3));
        Assert.False(t.Take(Scale, 50, 3));
        Assert.False(t.Take(Scale, 41, 3));
        Assert.False(t.Take(Scale, 50, 3));
        Assert.False(t.Take(Scale, 50, 3));
        Assert.True(t.Take(Scale, 50, 3));
        Assert.Equal(2, t.Held);
    }

    [Fact]
    public void A_dropout_restarts_the_count()
    {
        var t = ZoneTracker.Unread;
        t.Take(Scale, 30, 2);
        t.Take(Scale, 50, 2);
        Assert.False(t.Take(Scale, double.NaN, 2));
        Assert.False(t.Take(Scale, 50, 2));
        Assert.True(t.Take(Scale, 50, 2));
    }

    [Fact]
    public void Successive_readings_must_point_to_the_same_zone()
    {
        var t = ZoneTracker.Unread;
        t.Take(Scale, 10, 2);
        Assert.False(t.Take(Scale, 30, 2));
        Assert.False(t.Take(Scale, 50, 2));
        Assert.True(t.Take(Scale, 50, 2));
        Assert.Equal(2, t.Held);
    }

    [Fact]
    public void Thresholds_must_rise() => Assert.Throws<ArgumentException>(() => new ZoneScale(["a", "b", "c"], [new(40, 1), new(20, 1)]));

    [Fact]
    public void A_gap_that_closes_does_not_break_the_calibration()
    {
        var calibration = new SensorCalibration("Tag eye", 10, 1, 1, School.MidGap, 1, [new("a", [10, 12, 30]), new("b", [25, 40, 42])]);
        var pair = Assert.Single(calibration.Pairs());
        Assert.NotNull(pair.Fallback);
        Assert.Equal(pair.Sum.Result.EqualRisk, pair.Sum.Result.Threshold);
    }

    [Fact]
    public void Two_in_a_row_agree_with_the_promised_error()
    {
        // Promise: one reading errs with probability q, so two in a row begin an error about q² of the time.
        double[] low = [.. Enumerable.Range(0, 20).Select(i => 30 + i % 5 * 2.0)];
        double[] high = [.. low.Select(x => x + 12)];
        var r = ThresholdSum.Compute(new([new("low", low), new("high", high)], 0, 10)).Result;
        var scale = new ZoneScale(["low", "high"], [new(r.Threshold, r.Hysteresis)]);
        var sd = r.Lists[0].Sd;
        var q = Normal.Q((r.Threshold + r.Hysteresis - r.Lists[0].Mean) / sd);
        var noise = new RandomStream(5, 1);
        const int n = 2_000_000;
        var errors = 0;
        var t = ZoneTracker.Unread;
        t.Take(scale, r.Lists[0].Mean, 2);
        for (var i = 0; i < n; i++)
            if (t.Take(scale, r.Lists[0].Mean + sd * noise.Normal(), 2) && t.Held == 1)
            {
                errors++;
                t = ZoneTracker.Unread;
                t.Take(scale, r.Lists[0].Mean, 2);
            }
        // Runs of two, counted anew after each: q²/(1+q) of all readings, within 5 standard deviations.
        var expected = n * q * q / (1 + q);
        Assert.InRange(errors, expected - 5 * Math.Sqrt(expected), expected + 5 * Math.Sqrt(expected));
    }
}
