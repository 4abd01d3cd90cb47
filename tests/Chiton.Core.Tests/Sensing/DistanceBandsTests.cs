namespace Chiton.Core.Tests.Sensing;

public class DistanceBandsTests
{
    private static readonly Band[] Three = [new("near", 40, 200), new("middle", 200, 500), new("far", 500, 1500)];

    // A list with exactly this mean and SD.
    internal static double[] Exactly(double mean, double sd, int n = 40)
    {
        var half = Enumerable.Range(0, n).Select(i => i % 2 == 0 ? 1.0 : -1.0).ToArray();
        return [.. half.Select(h => mean + sd * h * Math.Sqrt((n - 1.0) / n))];
    }

    private static DistanceBands Judge(
        double sd,
        double? silent = 0,
        Band[]? bands = null,
        double blind = 30,
        double? reach = 1800,
        double[]? extra = null
    ) => DistanceBands.Judge(bands ?? Three, [new("near", [.. Exactly(120, sd), .. extra ?? []])], 30, 0, 1, blind, reach, silent);

    [Fact]
    public void The_boundary_lies_where_bands_meet_and_its_hysteresis_keeps_the_promise()
    {
        var judged = Judge(3);
        Assert.Equal([200, 500], judged.Boundaries.Select(b => b.ThresholdMm));
        // By hand: 120000 readings an hour; Q(z) = 1/120000 at z = 4.3058, so h = 4.3058 × 3 mm.
        Assert.Equal(12.917, judged.Boundaries[0].HysteresisMm, 2);
        Assert.Equal(1, judged.Boundaries[0].ReadingsNeeded);
        Assert.Equal(Grade.Solid, judged.Verdict.Grade);
        Assert.Empty(judged.Stretches);
    }

    [Fact]
    public void Hysteresis_never_eats_more_than_a_quarter_of_the_narrower_band()
    {
        var judged = Judge(20);
        Assert.Equal(40, judged.Boundaries[0].HysteresisMm, 9);
        // Q(2) = 0.02275; 120000 × 0.02275^4 = 0.032 keeps the promise, three in a row give 1.41.
        Assert.Equal(4, judged.Boundaries[0].ReadingsNeeded);
        Assert.Equal(Grade.Fragile, judged.Boundaries[0].Grade);
    }

    [Fact]
    public void More_noise_never_improves_a_grade() =>
        Gen.Select(Gen.Double[0.5, 60], Gen.Double[1, 3])
            .Sample((sd, more) => Assert.True(Judge(sd * more).Verdict.Grade >= Judge(sd).Verdict.Grade));

    [Fact]
    public void Scaling_everything_scales_the_boundaries() =>
        Gen.Double[0.2, 5]
            .Sample(k =>
            {
                var plain = Judge(6);
                var scaled = DistanceBands.Judge(
                    [.. Three.Select(b => new Band(b.Zone, b.FromMm * k, b.ToMm * k))],
                    [new("near", [.. Exactly(120 * k, 6 * k)])],
                    30,
                    0,
                    1,
                    30 * k,
                    1800 * k,
                    0
                );
                for (var i = 0; i < 2; i++)
                {
                    Assert.Equal(plain.Boundaries[i].ThresholdMm * k, scaled.Boundaries[i].ThresholdMm, 1e-6);
                    Assert.Equal(plain.Boundaries[i].HysteresisMm * k, scaled.Boundaries[i].HysteresisMm, 1e-6);
                    Assert.Equal(plain.Boundaries[i].ReadingsNeeded, scaled.Boundaries[i].ReadingsNeeded);
                }
            });

    [Fact]
    public void Gaps_overlaps_the_blind_zone_and_what_lies_beyond_reach_are_shown()
    {
        var judged = Judge(3, bands: [new("near", 10, 200), new("middle", 220, 520), new("far", 500, 2500)]);
        Assert.Equal(["gap", "overlap", "blind", "beyond"], judged.Stretches.Select(s => s.Kind));
        Assert.Equal((200, 220), (judged.Stretches[0].FromMm, judged.Stretches[0].ToMm));
        Assert.Equal((500, 520), (judged.Stretches[1].FromMm, judged.Stretches[1].ToMm));
        Assert.Equal([210, 510], judged.Boundaries.Select(b => b.ThresholdMm));
        Assert.Equal(Grade.Unusable, Judge(3, bands: [new("near", 5, 25), new("far", 25, 800)]).Verdict.Grade);
    }

    [Fact]
    public void Nothing_heard_never_counts_as_near()
    {
        var judged = Judge(3, extra: [0, 0, 0, 0, 0, 0, 0, 0]);
        // The eight silent answers spoil neither the mean nor the spread.
        Assert.Equal(3, judged.NoiseSdMm, 9);
        Assert.Equal(8 / 48.0, judged.SilentShare, 9);
        Assert.Equal(Grade.Fragile, judged.Verdict.Grade);
        Assert.Null(judged.Classify(0, 0));
        Assert.Null(judged.Classify(double.NaN, null));
        Assert.Equal(["near", "middle", "far", null], new double[] { 199, 300, 700, 3000 }.Select(r => judged.Classify(r, 0)));
        // A sensor that answers its maximum instead.
        Assert.Null(judged.Classify(4000, 4000));
    }

    [Fact]
    public void Below_between_and_beyond_bands_and_in_the_blind_zone_nothing_holds()
    {
        var judged = Judge(3, bands: [new("near", 60, 200), new("middle", 220, 500), new("far", 500, 900)], blind: 80);
        Assert.Equal(
            [null, null, "near", "near", null, "middle", "middle", "far", null],
            new double[] { 40, 79, 80, 200, 210, 220, 500, 501, 901 }.Select(r => judged.Classify(r, 0))
        );
        Assert.Contains("neither near nor middle holds", judged.Stretches.First(s => s.Kind == "gap").Say);
    }

    [Fact]
    public void A_hand_moved_through_a_band_is_no_noise()
    {
        var luck = new RandomStream(4, 4);
        double[] still = [.. Enumerable.Range(0, 60).Select(_ => 300 + 2 * luck.Normal())];
        double[] moved = [.. Enumerable.Range(0, 60).Select(i => 240 + 2.5 * i + 2 * luck.Normal())];
        double Noise(double[] readings) => DistanceBands.Judge(Three, [new("middle", readings)], 30, 0, 1, 30, 1800, 0).NoiseSdMm;
        Assert.Equal(2, Noise(still), 0.5);
        // 150 mm of way have a spread of 43 mm; what trembles is 2 mm and the step between readings.
        Assert.Equal(2, Noise(moved), 1.2);
    }

    [Fact]
    public void Rightful_silence_blames_nothing_and_a_zone_without_a_band_is_named()
    {
        Band[] bands = [new("near", 60, 200), new("middle", 200, 900)];
        ZoneReadings[] readings =
        [
            new("near", Exactly(120, 2)),
            new("middle", Exactly(500, 2)),
            new("empty", [0, 0, 0, 0, 0, 0, 0, 0, 700]),
        ];
        var blamed = DistanceBands.Judge(bands, readings, 30, 0, 1, 30, 1800, 0);
        Assert.True(blamed.SilentShare > 0.08);
        Assert.Contains("empty has no band", Assert.Single(blamed.Stretches, s => s.Kind == "no band").Say);
        var rightful = DistanceBands.Judge(bands, readings, 30, 0, 1, 30, 1800, 0, "empty");
        Assert.Equal(0, rightful.SilentShare);
        Assert.DoesNotContain(rightful.Stretches, s => s.Kind == "no band");
        // A band that goes on beyond what can be heard may be silent too.
        Band[] wide = [.. bands, new("empty", 900, 4000)];
        Assert.Equal(0, DistanceBands.Judge(wide, readings, 30, 0, 1, 30, 1800, 0).SilentShare);
    }

    [Fact]
    public void The_suggested_boundary_lies_between_the_nearest_readings() =>
        Assert.Equal(
            [new("near", 40, 150), new("far", 150, 1500)],
            DistanceBands.FromReadings([new("near", [90, 95, 100]), new("far", [200, 900, 1000])], 40, 1500, 0)
        );

    [Fact]
    public void Bands_follow_from_readings_and_touch_each_other()
    {
        var bands = DistanceBands.FromReadings([new("far", [600, 610, 620, 0]), new("near", [90, 100, 110])], 40, 1500, 0);
        Assert.Equal([new("near", 40, 355), new("far", 355, 1500)], bands);
        Assert.Empty(DistanceBands.FromReadings([new("near", [1, 2])], 40, 1500, 0));
    }

    [Fact]
    public void Without_readings_nothing_is_promised()
    {
        var judged = DistanceBands.Judge(Three, [], 30, 1, 1, 30, null, null);
        Assert.Equal(Grade.Unusable, judged.Verdict.Grade);
        Assert.All(judged.Boundaries, b => Assert.Null(b.ReadingsNeeded));
    }
}

public class SwitchTests
{
    private static double[] Trace(string s) => [.. s.Select(c => c == '1' ? 1.0 : 0.0)];

    private static readonly string Up = new('0', 20),
        Down = new('1', 20);

    [Fact]
    public void A_press_is_measured_and_bounces_are_taken_out()
    {
        // 10 ms a reading: up 200 ms, one flicker of 10 ms, then down for 200 ms with a flicker of 20 ms at its end.
        var judged = SwitchJudgement.Judge([new("taps", Trace(Up + "10" + Down + "0011" + Up))], 10, null, null);
        var trace = Assert.Single(judged.Traces);
        var press = Assert.Single(trace.Presses);
        Assert.Equal(220, press.FromMs);
        Assert.Equal(240, press.ForMs);
        Assert.Equal(20, trace.LongestBounceMs);
        Assert.Equal(3, judged.ReadingsNeeded);
        Assert.Equal(500, judged.HeldAfterMs);
        Assert.Equal(Grade.Workable, judged.Verdict.Grade);
    }

    [Fact]
    public void A_clean_switch_is_solid_and_a_worn_one_says_how_often_it_lets_go()
    {
        Assert.Equal(Grade.Solid, SwitchJudgement.Judge([new("up", Trace(Up)), new("down", Trace(Down))], 10, "down", "up").Verdict.Grade);
        var worn = SwitchJudgement.Judge([new("up", Trace(Up)), new("down", Trace(Down + "0" + Down))], 10, "down", "up");
        Assert.Equal(Grade.Workable, worn.Verdict.Grade);
        Assert.Contains("2.4 of 100", worn.Verdict.Say);
        Assert.Equal(
            Grade.Unusable,
            SwitchJudgement.Judge([new("up", Trace(Down)), new("down", Trace(Up))], 10, "down", "up").Verdict.Grade
        );
        Assert.Equal(Grade.Unusable, SwitchJudgement.Judge([], 10, "down", "up").Verdict.Grade);
    }

    [Fact]
    public void A_long_tap_moves_the_limit_of_held()
    {
        var judged = SwitchJudgement.Judge([new("taps", Trace(Up + string.Concat(Enumerable.Repeat(Down, 3)) + Up))], 10, null, null);
        Assert.Equal(600, judged.LongestTapMs);
        Assert.Equal(900, judged.HeldAfterMs);
    }
}

public class NamedColoursTests
{
    private static readonly string[] Words = ["nothing", "black", "white"];

    [Fact]
    public void Each_word_is_taken_for_the_zone_where_it_is_commonest()
    {
        var judged = NamedColours.Judge(
            [new("mussel", [1, 1, 1, 1, 1, 1, 1, 1, 1, 0]), new("shell", [2, 2, 2, 2, 2, 2, 2, 1, 2, 2])],
            Words,
            20,
            1
        );
        Assert.Equal(("mussel", "shell", "mussel"), (judged.ByWord["black"], judged.ByWord["white"], judged.ByWord["nothing"]));
        Assert.Equal([0, 0.1], judged.Zones.Select(z => z.WrongShare));
        Assert.Contains("shell is taken for something else in 10 of 100", judged.Verdict.Say);
    }

    [Fact]
    public void A_zone_without_a_word_of_its_own_cannot_be_told()
    {
        var judged = NamedColours.Judge([new("mussel", [1, 1, 1, 1]), new("weed", [1, 1, 1, 0, 0]), new("belt", [0, 0, 0])], Words, 20, 1);
        Assert.Equal(Grade.Unusable, judged.Verdict.Grade);
        Assert.Contains("weed is always taken for another zone", judged.Verdict.Say);
    }

    [Fact]
    public void Fewer_readings_never_improve_a_grade() =>
        Gen.Int[2, 60]
            .Sample(n =>
            {
                NamedColours Of(int count) =>
                    NamedColours.Judge(
                        [new("a", [.. Enumerable.Repeat(1.0, count)]), new("b", [.. Enumerable.Repeat(2.0, count)])],
                        Words,
                        20,
                        1
                    );
                Assert.True(Of(n).Verdict.Grade >= Of(n * 3).Verdict.Grade);
            });
}
