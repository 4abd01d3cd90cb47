namespace Chiton.Core.Tests.Sensing;

public class ComparisonTests
{
    // ---- sensors whose zones are not told apart by one threshold ----

    private static SensorCalibration Of(Sensor s, params ZoneReadings[] zones) =>
        new(s.Name, s.SamplePeriodMs, s.Resolution, 1, School.EqualRisk, 1, zones);

    private static double[] Rgb(double r, double g, double b) =>
        [.. new[] { -2.0, 1, 2, -1, 0 }.SelectMany(d => new[] { r + d, g - d, b + d / 2 })];

    [Fact]
    public void Colours_hold_while_the_old_classes_still_take_them_for_what_they_are()
    {
        var eye = new Sensor("Eye", SensorKind.Colour, 20, 1, ["shell", "mussel"]);
        var before = Of(eye, new("shell", Rgb(200, 195, 188)), new("mussel", Rgb(50, 47, 70)));
        Assert.All(CalibrationComparison.Of(eye, before, before).Zones, z => Assert.True(z is { Holds: true, Moved: false }));
        var faded = Of(eye, new("shell", Rgb(60, 50, 75)), new("mussel", Rgb(50, 47, 70)));
        var shell = CalibrationComparison.Of(eye, before, faded).Zones.Single(z => z.Zone == "shell");
        Assert.True(shell is { Holds: false, Moved: true, WrongSide: 1 });
        Assert.Contains("mistakes 100 in 100", shell.Say);
    }

    [Fact]
    public void Bands_hold_while_the_readings_stay_in_them_and_nothing_heard_is_left_out()
    {
        var range = new Sensor("Range", SensorKind.Distance, 30, 1, ["near", "far"])
        {
            SilentReading = 0,
            Bands = [new("near", 30, 100), new("far", 100, 900)],
        };
        var before = Of(range, new("near", [60, 61, 62, 0, 60]), new("far", [300, 301, 305]));
        Assert.All(
            CalibrationComparison.Of(range, before, Of(range, new("near", [64, 65, 63, 0, 0]), new("far", [298, 300, 301]))).Zones,
            z => Assert.True(z.Holds, z.Say)
        );
        Assert.False(
            CalibrationComparison
                .Of(range, before, Of(range, new("near", [140, 141, 142]), new("far", [298, 300, 301])))
                .Zones.Single(z => z.Zone == "near")
                .Holds
        );
    }

    [Fact]
    public void A_switch_that_wears_out_no_longer_holds()
    {
        var button = new Sensor("Button", SensorKind.Touch, 10, 0, ["up", "down"]);
        var sound = Of(button, new("up", [.. new double[60]]), new("down", [.. Enumerable.Repeat(1.0, 60)]));
        var worn = Of(button, new("up", [.. new double[60]]), new("down", [.. Enumerable.Range(0, 60).Select(i => i % 4 == 0 ? 0.0 : 1)]));
        Assert.True(CalibrationComparison.Of(button, sound, sound).Zones.All(z => z.Holds));
        Assert.False(CalibrationComparison.Of(button, sound, worn).Zones.Single(z => z.Zone == "down").Holds);
    }

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
        var with = Of(("sleepers", [.. FarmBench.Sleepers, 49]), ("bed tag", FarmBench.Tag)) with
        {
            SetAside = [new("sleepers", 49, "a hand"), new("bed tag", 23, "not there")],
        };
        Assert.Equal(11, with.Zones[0].Readings.Count);
        Assert.Equal(FarmBench.Sleepers, with.Kept("sleepers"));
        Assert.Equal(Morning.Pairs()[0].Sum.Result.Threshold, with.Pairs()[0].Sum.Result.Threshold);
        Assert.Equal(Morning.Reads("sleepers"), with.Reads("sleepers"));
    }
}
