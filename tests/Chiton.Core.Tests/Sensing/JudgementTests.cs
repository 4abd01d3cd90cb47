namespace Chiton.Core.Tests.Sensing;

public class JudgementTests
{
    private static readonly Sensor Eye = new("Eye", SensorKind.ReflectedLight, 10, 1, ["dark", "pale"]) { Lamp = OwnLamp.On };
    private static readonly CalibrationAge Fresh = new(0.1, [Eye.About], []);

    private static double[] Exactly(double mean, double sd, int n = 60) => DistanceBandsTests.Exactly(mean, sd, n);

    private static SensorCalibration Pair(double m1, double s1, double m2, double s2) =>
        new("Eye", 10, 0.01, 1, School.EqualRisk, 1, [new("dark", Exactly(m1, s1)), new("pale", Exactly(m2, s2))]);

    [Fact]
    public void A_fragile_pair_names_its_cures_the_cheapest_first()
    {
        var judged = SenseJudge.Judge(Eye, Pair(33, 4, 47, 4), Fresh);
        Assert.Equal(Grade.Fragile, judged.Grade);
        Assert.StartsWith("Ask for ", judged.Cures[0].Say);
        Assert.Equal("in the program", judged.Cures[0].Where);
        Assert.Contains("the other mode", judged.Cures[1].Say);
        Assert.StartsWith("Shade it", judged.Cures[2].Say);
        Assert.Contains("another surface", judged.Cures[3].Say);
        Assert.Contains("another sensor", judged.Cures[4].Say);
    }

    private static readonly Sensor Press = new("Pad", SensorKind.Force, 20, 0.01, ["dark", "pale"]);

    // Readings of two zones with one thing or another wrong with them: few, ragged, in runs, drifting, with a slip.
    private static readonly Gen<SensorCalibration> Troubled = Gen.Select(
            Gen.Int[1, 100_000],
            Gen.Int[4, 60],
            Gen.Double[0.5, 6],
            Gen.Double[3, 45],
            Gen.Int[0, 4]
        )
        .Select(
            (seed, count, sd, gap, trouble) =>
            {
                var luck = new RandomStream((ulong)seed, 33);
                double[] Take(double mean)
                {
                    var state = 0.0;
                    var all = new double[count];
                    for (var i = 0; i < count; i++)
                    {
                        state = trouble == 1 ? 0.7 * state + 0.7 * luck.Normal() : luck.Normal();
                        all[i] = Math.Round(mean + sd * state + (trouble == 2 ? 3 * sd * i / count : 0), 2);
                    }
                    if (trouble == 3)
                        all[count / 2] = Math.Round(mean + 9 * sd, 2);
                    return all;
                }
                // Spreads that differ make it matter where the threshold stands; some will be taken while rolling.
                var school = seed % 3 == 0 ? School.Midpoint : School.EqualRisk;
                double[] dark = Take(25),
                    pale = Take(25 + gap);
                if (school == School.Midpoint)
                    for (var i = 0; i < count; i++)
                        dark[i] = Math.Round(25 + (dark[i] - 25) / 6, 2);
                return new SensorCalibration("Eye", 10, 0.01, 1, school, 1, [new("dark", dark), new("pale", pale)]).At(
                    seed % 2 == 0 ? new(200, new(20, "% per m/s", Provenance.Guessed, "")) : null
                );
            }
        );

    [Fact]
    public void Each_cure_does_what_it_says_and_none_changes_nothing()
    {
        var said = new Dictionary<string, int>();
        Troubled.Sample(
            calibration =>
            {
                if (calibration.Pairs() is not [{ } pair] || pair.Sum.Verdict!.Grade == Grade.Solid)
                    return;
                foreach (var sensor in new[] { Eye, Press })
                foreach (var cure in SenseJudge.Judge(sensor, calibration, Fresh).Cures)
                {
                    if (cure.Applied is not { } applied)
                        continue;
                    Assert.True(cure.Then < pair.Sum.Verdict.Grade, cure.Say);
                    Assert.Equal(cure.Then, Assert.Single(applied.Pairs()).Sum.Verdict!.Grade);
                    Assert.Contains($"it is {cure.Then.ToString()!.ToLowerInvariant()}", cure.Say);
                    lock (said)
                        said[cure.Say.Split(' ')[0]] = said.GetValueOrDefault(cure.Say.Split(' ')[0]) + 1;
                    // The words are of its kind.
                    if (sensor == Press)
                        Assert.DoesNotContain("surface", cure.Say);
                    // What is asked for is not what is there already.
                    if (
                        System.Text.RegularExpressions.Regex.Match(cure.Say, @"reading ([\d.]+) .* instead of ([\d.]+) on") is
                        { Success: true } m
                    )
                        Assert.NotEqual(m.Groups[1].Value, m.Groups[2].Value);
                }
            },
            iter: 600,
            threads: 1
        );
        // Every kind of cure was met.
        Assert.Superset(new HashSet<string> { "Put", "If", "Take", "Record", "Shade", "Hold" }, said.Keys.ToHashSet());
    }

    [Fact]
    public void What_is_asked_for_never_reads_like_what_is_there_however_fine_the_sensor()
    {
        var met = 0;
        for (var seed = 1; seed <= 60; seed++)
        {
            var luck = new RandomStream((ulong)seed, 34);
            double[] Take(double mean) => [.. Enumerable.Range(0, 30).Select(_ => Math.Round(mean + 0.02 * luck.Normal(), 2))];
            var fine = new SensorCalibration(
                "Pad",
                20,
                0.01,
                1,
                School.EqualRisk,
                1,
                [new("dark", Take(0.4 + 0.004 * seed)), new("pale", Take(0.5 + 0.004 * seed))]
            );
            foreach (var cure in SenseJudge.Judge(Press, fine, Fresh).Cures)
                if (
                    System.Text.RegularExpressions.Regex.Match(cure.Say, @"reading ([\d.]+) .* instead of ([\d.]+) on") is
                    { Success: true } m
                )
                {
                    Assert.NotEqual(m.Groups[1].Value, m.Groups[2].Value);
                    var there = double.Parse(m.Groups[2].Value, System.Globalization.CultureInfo.InvariantCulture);
                    Assert.Contains(fine.Zones, z => Math.Abs(z.Readings.Average() - there) < 0.006);
                    met++;
                }
        }
        Assert.True(met > 10);
    }

    [Fact]
    public void A_little_less_than_the_cure_asks_for_is_not_enough()
    {
        var judged = SenseJudge.Judge(Eye, Pair(33, 4, 47, 4), Fresh);
        var less = int.Parse(System.Text.RegularExpressions.Regex.Match(judged.Cures[2].Say, @"tremble (\d+) % less").Groups[1].Value);
        double With(int percent) => 4 * (1 - percent / 100.0);
        Assert.Equal(Grade.Solid, Pair(33, With(less), 47, With(less)).Pairs()[0].Sum.Verdict!.Grade);
        Assert.NotEqual(Grade.Solid, Pair(33, With(less - 1), 47, With(less - 1)).Pairs()[0].Sum.Verdict!.Grade);
    }

    [Fact]
    public void What_is_wrong_with_the_readings_comes_first()
    {
        static SensorCalibration Of(double[] dark, double[] pale) =>
            new("Eye", 10, 0.01, 1, School.EqualRisk, 1, [new("dark", dark), new("pale", pale)]);
        double[] dark = [19, 21, 19, 21, 20, 18, 22, 20, 19, 21, 20, 20.5, 19.5, 20, 20, 21, 19, 20, 20.2, 19.8];
        var slip = Of([.. dark, 27], [.. dark.Select(v => v + 20)]);
        Assert.StartsWith("If 27 was a slip, set it aside: then it is ", SenseJudge.Judge(Eye, slip, Fresh).Cures[0].Say);
        var few = Of([20, 21, 19, 20.5, 19.5], [40, 41, 39, 40.5, 39.5]);
        Assert.StartsWith("Take 10 readings or more", SenseJudge.Judge(Eye, few, Fresh).Cures[0].Say);
        var drift = Of([.. Exactly(20, 1, 40).Select((v, i) => v + i * 0.15)], Exactly(40, 1.5, 40));
        var judged = SenseJudge.Judge(Eye, drift, Fresh);
        Assert.StartsWith("Record at another time of day", judged.Cures[0].Say);
        var runs = Of(
            [.. Enumerable.Range(0, 42).Select(i => 20 + 2.0 * (i / 6 % 2) + 0.1 * (i % 3))],
            [.. Enumerable.Range(0, 42).Select(i => 34 + 2.0 * (i / 6 % 2) + 0.1 * (i % 3))]
        );
        Assert.Contains(
            SenseJudge.Judge(Eye, runs, Fresh).Cures,
            c => c.Say.StartsWith("Its noise comes in runs: ask for") && c.Say.Contains(" ms.")
        );
    }

    [Fact]
    public void More_noise_never_improves_a_grade() =>
        Gen.Select(Gen.Double[0.5, 6], Gen.Double[1, 3], Gen.Double[5, 40])
            .Sample(
                (sd, more, gap) =>
                    Assert.True(
                        SenseJudge.Judge(Eye, Pair(30, sd * more, 30 + gap, sd * more), Fresh).Grade
                            >= SenseJudge.Judge(Eye, Pair(30, sd, 30 + gap, sd), Fresh).Grade
                    )
            );

    [Fact]
    public void Old_readings_another_mode_and_another_supply_are_stale()
    {
        var pair = Pair(20, 1, 60, 1);
        Assert.Null(SenseJudge.Judge(Eye, pair, Fresh).Stale);
        Assert.Contains("20 days old", SenseJudge.Judge(Eye, pair, Fresh with { AgeDays = 20 }).Stale);
        Assert.Contains("different modes", SenseJudge.Judge(Eye, pair, Fresh with { Modes = ["a", "b"] }).Stale);
        Assert.Contains("taken as ambient light", SenseJudge.Judge(Eye, pair, Fresh with { Modes = ["ambient light"] }).Stale);
        var probe = new Sensor("Probe", SensorKind.Probe, 100, 1, ["dark", "pale"]) { ProbeSupplyV = 3.3 };
        Assert.Contains(
            "read at 5 V and is fed 3.3 V now",
            SenseJudge.Judge(probe, pair with { Sensor = "Probe" }, new(0.1, [], [5])).Stale
        );
    }

    [Fact]
    public void A_rig_is_as_good_as_its_weakest_sensor()
    {
        var weak = SenseJudge.Judge(Eye, Pair(33, 4, 47, 4), Fresh);
        var good = SenseJudge.Judge(Eye with { Name = "Other" }, Pair(20, 1, 60, 1), Fresh) with { Sensor = "Other" };
        Assert.Equal("Eye", SenseJudge.Rig([good, weak]).Weakest);
        Assert.Null(SenseJudge.Rig([good]).Weakest);
        Assert.Equal("Other", SenseJudge.Rig([good with { Stale = "old" }]).Weakest);
        Assert.Equal("This rig has no sensor yet.", SenseJudge.Rig([]).Say);
    }

    [Fact]
    public void Drift_repeated_noise_dropouts_and_extremes_are_pointed_out()
    {
        IReadOnlyList<string> Notes(Sensor s, params ZoneReadings[] zones) =>
            [
                .. SenseWatch
                    .Notes(s, new(s.Name, s.SamplePeriodMs, s.Resolution, 1, School.EqualRisk, 1, zones) { High = 4000 })
                    .Select(n => n.Say),
            ];
        double[] drifting = [.. Enumerable.Range(0, 100).Select(i => 40 + 0.1 * i + (i % 2 == 0 ? 0.6 : -0.6))];
        Assert.Contains(Notes(Eye, new ZoneReadings("dark", drifting)), n => n.Contains("drifts by 10 %"));
        double[] repeated = [.. Enumerable.Range(0, 80).Select(i => 40.0 + (i / 4 % 2 == 0 ? 3 : -3))];
        Assert.Contains(Notes(Eye, new ZoneReadings("dark", repeated)), n => n.Contains("repeats its noise"));
        Assert.Contains(
            Notes(Eye, new ZoneReadings("dark", [5, 5, 6, 5, 6, 5]), new ZoneReadings("pale", [80, 81, 80, 80, 81, 80])),
            n => n.Contains("at the extremes")
        );
        var range = new Sensor("Range", SensorKind.Distance, 30, 1, ["near"]) { SilentReading = 0 };
        Assert.Contains(Notes(range, new ZoneReadings("near", [60, 61, 0, 62, 0, 60])), n => n.Contains("2 readings of 6 heard nothing"));
        Assert.Empty(Notes(Eye, new ZoneReadings("dark", Exactly(40, 2))));
    }
}

public class ZoneReaderTests
{
    private static SensorCalibration Of(Sensor s, params ZoneReadings[] zones) =>
        new(s.Name, s.SamplePeriodMs, s.Resolution, 1, School.EqualRisk, 1, zones);

    [Fact]
    public void Every_kind_of_sensor_says_its_zone()
    {
        var eye = new Sensor("Eye", SensorKind.ReflectedLight, 10, 1, ["dark", "pale"]);
        Assert.Equal("pale", ZoneReader.Of(eye, Of(eye, new("dark", [10, 11, 12]), new("pale", [70, 71, 72]))).Zone(new[] { 69.0 }));
        Assert.Null(ZoneReader.Of(eye, null).Zone(new[] { 69.0 }));

        var button = new Sensor("Button", SensorKind.Touch, 10, 0, ["up", "down"]);
        Assert.Equal("down", ZoneReader.Of(button, null).Zone(new[] { 1.0 }));

        var range = new Sensor("Range", SensorKind.Distance, 30, 1, ["near", "far"])
        {
            SilentReading = 0,
            Bands = [new("near", 30, 100), new("far", 100, 900)],
        };
        var bands = ZoneReader.Of(range, Of(range, new("near", [60, 61, 62]), new("far", [])));
        Assert.Equal("near", bands.Zone(new[] { 70.0 }));
        Assert.Null(bands.Zone(new[] { 0.0 }));

        var colour = new Sensor("Colour", SensorKind.Colour, 20, 1, ["shell", "mussel"]);
        var rgb = ZoneReader.Of(
            colour,
            Of(colour, new("shell", [200, 198, 190, 205, 201, 192, 198, 196, 188]), new("mussel", [48, 46, 70, 50, 47, 73, 46, 44, 69]))
        );
        Assert.Equal("mussel", rgb.Zone(new[] { 49.0, 46, 71 }));
        Assert.Null(rgb.Zone(new[] { 20.0, 250, 20 }));

        var named = new Sensor("Named", SensorKind.ColourName, 20, 1, ["shell", "mussel"]);
        Assert.Equal("shell", ZoneReader.Of(named, Of(named, new("shell", [8, 8, 8]), new("mussel", [1, 1, 1]))).Zone(new[] { 8.0 }));
        Assert.Null(ZoneReader.Of(eye, null).Zone(new[] { double.NaN }));
    }

    [Fact]
    public void A_switch_that_nobody_pressed_has_no_verdict()
    {
        var bumper = new Sensor("Bumper", SensorKind.Touch, 10, 1, ["up", "down"]);
        SensorCalibration Of(params ZoneReadings[] zones) => SenseWords.Unread(bumper) with { Zones = zones };
        double[] open = new double[50];
        var untouched = SenseJudge.Judge(bumper, Of(new("up", open), new("down", [])), new CalibrationAge(0.1, [], []));
        Assert.Null(untouched.Grade);
        Assert.Contains("not pressed yet", untouched.Say);
        // Recorded as pressed and never closed is another thing: that is a fault.
        Assert.Equal(
            Grade.Unusable,
            SenseJudge.Judge(bumper, Of(new("up", open), new("down", open)), new CalibrationAge(0.1, [], [])).Grade
        );
        Assert.Equal(
            Grade.Solid,
            SenseJudge.Judge(bumper, Of(new("up", open), new("down", [.. open.Select(_ => 1.0)])), new CalibrationAge(0.1, [], [])).Grade
        );
    }
}
