namespace Chiton.Core.Tests.Sensing;

public class MarkerPassTests
{
    [Fact]
    public void Worked_figures()
    {
        var r = MarkerPass.Compute(new(48, 8, 10, 2, 310)).Result;
        Assert.Equal(2000, r.MaxSpeedMmPerS, 9);
        Assert.Equal(12, r.ReadingsOnMarker);
        Assert.Equal(56, r.ClearDistanceMm);
        Assert.Equal(0.1806, r.ClearTimeS!.Value, 4);
        Assert.Null(r.RestLowMm);
    }

    [Fact]
    public void Where_it_stands_by_hand()
    {
        // 300 mm/s, 2 readings of 10 ms, 40 ms delay, braked with 1500: 30 mm; from 4 mm: 4 + 300·0.05 + 30 and 4 + 300·0.06 + 30.
        var r = MarkerPass.Compute(new(60, 8, 10, 2, 300, 40, 1500)).Result;
        Assert.Equal(49, r.RestLowMm!.Value, 9);
        Assert.Equal(52, r.RestHighMm!.Value, 9);
        var ahead = MarkerPass.Compute(new(60, 8, 10, 2, 300, 40, 1500, null, 25)).Result;
        Assert.Equal(24, ahead.RestLowMm!.Value, 9);
        var coasting = MarkerPass.Compute(new(60, 8, 10, 2, 300, 40, null, 200)).Result;
        Assert.Equal(49 - 30 + 60, coasting.RestLowMm!.Value, 9);
    }

    [Theory]
    [InlineData(2001, Grade.Unusable)]
    [InlineData(1001, Grade.Fragile)]
    [InlineData(667, Grade.Workable)]
    [InlineData(600, Grade.Solid)]
    public void Grades(double speed, Grade grade) => Assert.Equal(grade, MarkerPass.Compute(new(48, 8, 10, 2, speed)).Verdict!.Grade);

    [Fact]
    public void A_marker_no_longer_than_the_spot_is_never_seen_whole()
    {
        var answer = MarkerPass.Compute(new(8, 8, 10, 1, 100));
        Assert.Equal(0, answer.Result.MaxSpeedMmPerS);
        Assert.Equal(Grade.Unusable, answer.Verdict!.Grade);
    }

    [Fact]
    public void Both_ways_of_braking_contradict_each_other() =>
        Assert.Contains(
            "coastTimeConstantMs",
            Assert.Throws<InputProblem>(() => MarkerPass.Compute(new(48, 8, 10, 2, 310, 0, 900, 100))).Errors.Keys
        );

    [Theory]
    [InlineData(0.0)]
    [InlineData(-5.0)]
    [InlineData(double.NaN)]
    [InlineData(1e300)]
    [InlineData(null)]
    public void Nonsense_lengths_are_refused(double? length)
    {
        var p = Assert.Throws<InputProblem>(() => MarkerPass.Compute(new(length, 8, 10, 2)));
        Assert.Contains("greater than 0", Assert.Single(p.Errors).Value);
    }

    [Theory]
    [InlineData(0.0)]
    [InlineData(1.5)]
    [InlineData(null)]
    public void Readings_are_whole(double? n) =>
        Assert.Contains("readingsNeeded", Assert.Throws<InputProblem>(() => MarkerPass.Compute(new(48, 8, 10, n))).Errors.Keys);

    [Fact]
    public void The_fastest_speed_gives_just_the_readings_needed() =>
        Gen.Select(Gen.Double[5, 200], Gen.Double[0, 4.9], Gen.Double[1, 50], Gen.Int[1, 20])
            .Sample(
                (length, spot, period, n) =>
                {
                    var fastest = MarkerPass.Compute(new(length, spot, period, n)).Result.MaxSpeedMmPerS;
                    Assert.Equal(n, MarkerPass.Compute(new(length, spot, period, n, fastest)).Result.ReadingsOnMarker);
                    Assert.True(MarkerPass.Compute(new(length, spot, period, n, fastest * 1.001)).Result.ReadingsOnMarker < n);
                }
            );

    [Fact]
    public void Readings_are_never_fewer_than_promised_whatever_the_phase() =>
        Gen.Select(Gen.Double[20, 80], Gen.Double[1, 10], Gen.Double[5, 30], Gen.Double[50, 900], Gen.Double[0, 1])
            .Sample(
                (length, spot, period, speed, phase) =>
                {
                    var promised = MarkerPass.Compute(new(length, spot, period, 1, speed)).Result.ReadingsOnMarker!.Value;
                    // Count samples whose whole spot lies on the marker, from a sample at this phase of the period.
                    var step = speed * period / 1000;
                    var taken = 0;
                    for (var x = spot / 2 + phase * step; x <= length - spot / 2 + 1e-9; x += step)
                        taken++;
                    Assert.True(taken >= promised, $"{taken} of {promised}");
                }
            );
}
