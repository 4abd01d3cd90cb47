namespace Chiton.Core.Tests.Sensing;

public class ThresholdSumTests
{
    private static readonly double[] A1 = [21, 23, 22, 24, 20, 22, 23, 21, 25, 22];
    private static readonly double[] A2 = [58, 61, 55, 63, 60, 57, 59, 62, 56, 60];
    private static readonly double[] B1 = [31, 38, 35, 29, 42, 36, 33, 40, 30, 37];
    private static readonly double[] B2 = [48, 55, 61, 44, 58, 50, 64, 53, 57, 49];

    private static ThresholdInput Input(
        double[] a,
        double[] b,
        double period = 10,
        string? school = null,
        double? cost = null,
        double resolution = 1,
        double[]? aside = null
    ) => new([new("low", a), new("high", b)], resolution, period, null, school, cost, aside);

    private static ThresholdResult Of(ThresholdInput input) => ThresholdSum.Compute(input).Result;

    [Theory]
    [InlineData("A", "equalRisk", 1, 35.7275, 8.9850, 5.2026, 0.0000, 1, 2)]
    [InlineData("A", "midpoint", 1, 40.7, 7.0734, 5.2026, 0.0000, 1, 2)]
    [InlineData("B", "equalRisk", 1, 42.7877, 1.7746, 0, 0.0380, 4, 7)]
    [InlineData("B", "midpoint", 1, 44.5, 1.5011, 0, 0.0667, 5, null)]
    [InlineData("B", "midGap", 1, 43.0, 1.7407, 0, 0.0409, 4, 7)]
    [InlineData("B", "cost", 20, 46.1457, 1.2383, 0, 0.1078, 6, null)]
    public void Worked_figures(
        string lists,
        string school,
        double cost,
        double threshold,
        double separation,
        double hysteresis,
        double miss,
        int? needed,
        int? safe
    )
    {
        var r = Of(lists == "A" ? Input(A1, A2, 10, school, cost) : Input(B1, B2, 20, school, cost));
        Assert.Equal(threshold, r.Threshold, 4);
        Assert.Equal(separation, r.Separation!.Value, 4);
        Assert.Equal(hysteresis, r.Hysteresis, 4);
        Assert.Equal(miss, r.MissPerReading, 4);
        Assert.Equal(needed, r.ReadingsNeeded);
        Assert.Equal(safe, r.ReadingsNeededSafe);
    }

    [Fact]
    public void All_schools_are_returned_whichever_is_chosen()
    {
        var r = Of(Input(B1, B2, 20, "midpoint", 20));
        Assert.Equal(42.7877, r.EqualRisk, 4);
        Assert.Equal(44.5, r.Midpoint, 4);
        Assert.Equal(43.0, r.MidGap!.Value, 4);
        Assert.Equal(46.1457, r.Cost, 4);
    }

    [Fact]
    public void Figures_of_a_list_by_hand()
    {
        // 4 6 5 9: mean 6, deviations −2 0 −1 3, squares 14, neighbours 0 + 0 − 3.
        var list = ThresholdSum.Describe("x", [4, 6, 5, 9], 100, 0.1, 0);
        Assert.Equal(6, list.Mean);
        Assert.Equal(Math.Sqrt(14.0 / 3), list.Sd, 12);
        Assert.Equal(5.5, list.Median);
        Assert.Equal(-3.0 / 14, list.Lag1!.Value, 12);
        // Slope: (−1.5·−2 + −0.5·0 + 0.5·−1 + 1.5·3) / 5 = 1.4 a reading, 600 readings a minute.
        Assert.Equal(1.4 * 600, list.DriftPerMinute, 9);
    }

    [Fact]
    public void An_outlier_is_pointed_out_and_not_taken_out()
    {
        var answer = ThresholdSum.Compute(Input([.. A1, 40], A2));
        Assert.Equal([40], answer.Result.Lists[0].Outliers);
        Assert.Equal(11, answer.Result.Lists[0].Count);
        Assert.Contains(answer.Cautions, c => c.Contains("far from the rest"));
        var without = Of(Input([.. A1, 40], A2, aside: [40]));
        Assert.Equal(Of(Input(A1, A2)).Threshold, without.Threshold, 10);
        Assert.Equal(1, without.Lists[0].SetAside);
    }

    [Fact]
    public void Constant_lists_stand_halfway_with_a_caution()
    {
        var answer = ThresholdSum.Compute(Input([20, 20, 20], [60, 60, 60]));
        Assert.Equal(40, answer.Result.Threshold);
        Assert.Equal(10, answer.Result.Hysteresis);
        Assert.Null(answer.Result.Separation);
        Assert.Equal(0, answer.Result.FalsePerReading);
        Assert.Equal(1, answer.Result.ReadingsNeeded);
        Assert.Contains(answer.Cautions, c => c.StartsWith("No spread seen"));
        Assert.Null(answer.Result.Lists[0].Lag1);
    }

    [Fact]
    public void Constant_and_equal_lists_are_unusable() =>
        Assert.Equal(Grade.Unusable, ThresholdSum.Compute(Input([20, 20, 20], [20, 20, 20])).Verdict!.Grade);

    [Fact]
    public void Overlapping_lists_have_no_gap_and_say_so()
    {
        var answer = ThresholdSum.Compute(Input([20, 30, 40], [35, 45, 55]));
        Assert.Null(answer.Result.MidGap);
        Assert.Contains(answer.Cautions, c => c.StartsWith("The lists overlap"));
        var refused = Assert.Throws<InputProblem>(() => ThresholdSum.Compute(Input([20, 30, 40], [35, 45, 55], school: "midGap")));
        Assert.Contains("school", refused.Errors.Keys);
    }

    [Fact]
    public void Repeated_noise_asks_for_more_readings_in_a_row()
    {
        double[] a = [30, 30, 30, 33, 33, 33, 36, 36, 36, 33, 33, 33, 30, 30, 30, 33, 33, 33, 36, 36, 36];
        double[] b = [.. a.Select(x => x + 22)];
        // The same readings in an order that does not repeat itself.
        double[] Shuffled(double[] x) => [.. x.Select((v, i) => (v, k: i * 8 % 21)).OrderBy(p => p.k).Select(p => p.v)];
        var smooth = ThresholdSum.Compute(Input(a, b));
        var rough = ThresholdSum.Compute(Input(Shuffled(a), Shuffled(b)));
        Assert.True(smooth.Result.Lists[0].Lag1 > 0.3);
        Assert.True(rough.Result.Lists[0].Lag1 < 0.3);
        Assert.True(rough.Result.ReadingsNeededSafe > 1);
        Assert.True(smooth.Result.ReadingsNeededSafe > rough.Result.ReadingsNeededSafe);
        Assert.True(smooth.Verdict!.Grade > rough.Verdict!.Grade);
        Assert.Contains($"the {smooth.Result.ReadingsNeededSafe} readings allow for", smooth.Verdict.Say);
        // Said as a time: so many readings of 10 ms.
        Assert.Contains($"{10 * smooth.Result.ReadingsNeededSafe} ms", smooth.Verdict.Say);
    }

    [Theory]
    [InlineData(double.NaN)]
    [InlineData(double.PositiveInfinity)]
    public void A_reading_that_is_no_number_is_named(double bad)
    {
        var p = Assert.Throws<InputProblem>(() => ThresholdSum.Compute(Input([1, 2, bad, 4], A2)));
        Assert.Equal("lists[0].readings[2]", Assert.Single(p.Errors).Key);
    }

    [Fact]
    public void Every_fault_is_named_at_once()
    {
        var p = Assert.Throws<InputProblem>(() => ThresholdSum.Compute(new(null, -1, 0, 0, "somewhere", -2)));
        Assert.Equal(["costRatio", "lists", "maxFalsePerHour", "resolution", "samplePeriodMs", "school"], p.Errors.Keys.Order());
    }

    [Fact]
    public void One_reading_is_too_few()
    {
        var p = Assert.Throws<InputProblem>(() => ThresholdSum.Compute(Input([20], A2)));
        Assert.Contains("at least 3", p.Errors["lists[0].readings"]);
    }

    private static readonly Gen<double[]> GenList = Gen.Double[-50, 50].Array[3, 30].Select(a => a.Select(x => Math.Round(x, 1)).ToArray());
    private static readonly Gen<(double[] A, double[] B)> GenLists = Gen.Select(GenList, GenList, Gen.Double[0, 200])
        .Select((a, b, gap) => (a, b.Select(x => Math.Round(x + gap, 1)).ToArray()))
        .Where((a, b) => a.Distinct().Count() > 1 && b.Distinct().Count() > 1);

    [Fact]
    public void Swapping_the_lists_changes_nothing() =>
        GenLists.Sample(
            (a, b) =>
            {
                if (a.Average() == b.Average())
                    return;
                var one = Of(Input(a, b));
                var two = Of(Input(b, a));
                Assert.Equal(one.Threshold, two.Threshold, 1e-9);
                Assert.Equal(one.Hysteresis, two.Hysteresis, 1e-9);
                Assert.Equal(one.ReadingsNeededSafe, two.ReadingsNeededSafe);
            }
        );

    [Fact]
    public void Scaling_the_readings_scales_the_thresholds() =>
        Gen.Select(GenLists, Gen.Double[0.1, 50])
            .Sample(
                (lists, k) =>
                {
                    var one = Of(Input(lists.A, lists.B, resolution: 0.1));
                    var many = Of(Input([.. lists.A.Select(x => x * k)], [.. lists.B.Select(x => x * k)], resolution: 0.1 * k));
                    Assert.Equal(one.Threshold * k, many.Threshold, 1e-6);
                    Assert.Equal(one.Hysteresis * k, many.Hysteresis, 1e-6);
                    Assert.Equal(one.Cost * k, many.Cost, 1e-5);
                    Assert.Equal(one.Separation!.Value, many.Separation!.Value, 1e-6);
                }
            );

    [Fact]
    public void The_threshold_of_equal_risk_has_equal_risks() =>
        GenLists.Sample(
            (a, b) =>
            {
                var r = Of(Input(a, b, resolution: 0.1));
                var all = a.Concat(b).Distinct().Order().ToArray();
                var step = Math.Max(0.1, all.Zip(all.Skip(1), (x, y) => y - x).Min());
                var s1 = Math.Max(r.Lists[0].Sd, step / Math.Sqrt(12));
                var s2 = Math.Max(r.Lists[1].Sd, step / Math.Sqrt(12));
                Assert.Equal((r.EqualRisk - r.Lists[0].Mean) / s1, (r.Lists[1].Mean - r.EqualRisk) / s2, 1e-6);
            }
        );

    [Fact]
    public void More_noise_never_improves_the_grade() =>
        Gen.Select(GenLists, Gen.Double[1, 4])
            .Sample(
                (lists, k) =>
                {
                    // Spreading both lists about their means keeps the means and multiplies the SDs.
                    double[] Wider(double[] x) => [.. x.Select(v => x.Average() + (v - x.Average()) * k)];
                    var calm = ThresholdSum.Compute(Input(lists.A, lists.B, resolution: 0.1)).Verdict!.Grade;
                    var noisy = ThresholdSum.Compute(Input(Wider(lists.A), Wider(lists.B), resolution: 0.1)).Verdict!.Grade;
                    Assert.True(noisy >= calm, $"{calm} became {noisy}");
                }
            );

    [Fact]
    public void A_dearer_false_rise_moves_the_threshold_up() =>
        Gen.Select(GenLists, Gen.Double[1, 100], Gen.Double[1.1, 10])
            .Sample(
                (lists, ratio, more) =>
                    Assert.True(
                        Of(Input(lists.A, lists.B, cost: ratio * more)).Cost >= Of(Input(lists.A, lists.B, cost: ratio)).Cost - 1e-9
                    )
            );

    [Theory]
    [InlineData(0, 0.5)]
    [InlineData(1.6448536269514722, 0.05)]
    [InlineData(3.090232306167813, 0.001)]
    public void Upper_tail(double z, double tail) => Assert.Equal(tail, Normal.Q(z), 12);

    [Fact]
    public void The_logarithm_of_the_tail_goes_on_where_the_tail_ends()
    {
        // ln Q(40) by the continued fraction of Mills' ratio: −804.608442.
        Assert.Equal(-804.608442, Normal.LogQ(40), 5);
        Assert.Equal(Math.Log(Normal.Q(29.9)), Normal.LogQ(29.9), 6);
        Assert.True(Normal.LogQ(30.001) < Normal.LogQ(29.999));
    }

    [Fact]
    public void Readings_without_times_have_no_drift_a_minute()
    {
        double[] rising = [.. Enumerable.Range(0, 30).Select(i => 20 + 0.4 * i + i % 3)];
        double[] high = [.. A2, .. A2, .. A2];
        ThresholdInput Of(bool timed) => new([new("low", rising) { Timed = timed }, new("high", high)], 0.1, 10);
        var (with, without) = (ThresholdSum.Compute(Of(true)), ThresholdSum.Compute(Of(false)));
        Assert.True(with.Result.Lists[0].DriftPerMinute > 1000);
        Assert.Contains("low drifts", with.Verdict!.Say);
        Assert.Equal(0, without.Result.Lists[0].DriftPerMinute);
        Assert.DoesNotContain("low drifts", without.Verdict!.Say);
        Assert.DoesNotContain(without.Cautions, c => c.Contains("a minute"));
    }
}
