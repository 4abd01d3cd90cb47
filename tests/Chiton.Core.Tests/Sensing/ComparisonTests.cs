namespace Chiton.Core.Tests.Sensing;

public class ComparisonTests
{
    private static SensorCalibration Of(params (string Zone, double[] Readings)[] zones) =>
        new("Tag eye", 10, 1, 1, School.EqualRisk, 1, [.. zones.Select(z => new ZoneReadings(z.Zone, z.Readings))]);

    private static readonly SensorCalibration Morning = Of(("sleepers", FarmBench.Sleepers), ("bed tag", FarmBench.Tag));

    private static double[] Moved(double[] readings, double by) => [.. readings.Select(r => r + by)];

    [Fact]
    public void The_same_readings_have_not_moved_and_hold()
    {
        var c = CalibrationComparison.Of(Morning, Morning);
        Assert.All(c.Zones, z => Assert.True(z is { Moved: false, Holds: true, Shift: 0 }));
        Assert.Equal("Nothing moved.", c.Say);
    }

    [Fact]
    public void A_shift_is_told_in_sds_by_hand()
    {
        var c = CalibrationComparison.Of(Morning, Of(("sleepers", Moved(FarmBench.Sleepers, 3)), ("bed tag", FarmBench.Tag)));
        var zone = c.Zones[0];
        // Sleepers: mean 22.3, squared deviations 20.1 over 9.
        Assert.Equal(3, zone.Shift, 9);
        Assert.Equal(3 / Math.Sqrt(20.1 / 9), zone.ShiftSds!.Value, 9);
        Assert.True(zone is { Moved: true, Holds: true });
        Assert.Equal("1 zone moved, but the old thresholds still hold.", c.Say);
    }

    [Fact]
    public void A_brighter_room_can_carry_a_zone_over_its_threshold()
    {
        var c = CalibrationComparison.Of(Morning, Of(("sleepers", Moved(FarmBench.Sleepers, 18)), ("bed tag", Moved(FarmBench.Tag, 18))));
        Assert.False(c.Zones[0].Holds);
        Assert.True(c.Zones[1].Holds);
        Assert.Contains("one reading in", c.Zones[0].Say);
        Assert.Equal("sleepers no longer holds with the old thresholds.", c.Say);
    }

    [Fact]
    public void Zones_that_only_one_has_are_named()
    {
        var c = CalibrationComparison.Of(Morning, Of(("sleepers", FarmBench.Sleepers), ("bed tag", [1, 2]), ("depot tag", [9, 10, 8])));
        Assert.Equal(["bed tag"], c.OnlyBefore);
        Assert.Equal(["depot tag"], c.OnlyAfter);
        Assert.Equal("sleepers", Assert.Single(c.Zones).Zone);
    }

    [Fact]
    public void What_chance_explains_is_not_called_a_move()
    {
        // Fresh draws of the same zone: Welch's t passes 3 in about 3 of 1000.
        var noise = new RandomStream(8, 1);
        double[] Draw() => [.. Enumerable.Range(0, 30).Select(_ => 40 + 4 * noise.Normal())];
        var moved = Enumerable.Range(0, 1000).Count(_ => CalibrationComparison.Of(Of(("a", Draw())), Of(("a", Draw()))).Zones[0].Moved);
        Assert.InRange(moved, 0, 14);
    }

    [Fact]
    public void A_reading_set_aside_counts_no_more_and_stays()
    {
        var with = Of(("sleepers", [.. FarmBench.Sleepers, 49]), ("bed tag", FarmBench.Tag)) with { SetAside = [new("sleepers", 49, "a hand"), new("bed tag", 23, "not there")] };
        Assert.Equal(11, with.Zones[0].Readings.Count);
        Assert.Equal(FarmBench.Sleepers, with.Kept("sleepers"));
        Assert.Equal(Morning.Pairs()[0].Sum.Result.Threshold, with.Pairs()[0].Sum.Result.Threshold);
        Assert.Equal(Morning.Reads("sleepers"), with.Reads("sleepers"));
    }
}
