using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Motion;

public class MoveSumTests
{
    // ---- worked figures ----

    [Fact]
    public void Wheel_travel_worked()
    {
        var r = WheelTravel.Compute(new(62.4, 850, 1.5, 400)).Result;
        Assert.Equal(196.0354, r.CircumferenceMm, 4);
        Assert.Equal(4.3360, r.WheelTurns, 4);
        Assert.Equal(1560.94, r.WheelDeg, 2);
        Assert.Equal(2341.41, r.MotorDeg, 2);
        Assert.Equal(5.8535, r.DurationS!.Value, 4);
        Assert.Null(WheelTravel.Compute(new(62.4, 850)).Result.DurationS);
    }

    [Theory]
    [InlineData("spin", 135, null, 255.29, -255.29)]
    [InlineData("pivot", -90, null, 0, 340.38)]
    [InlineData("pivot", 90, null, 340.38, 0)]
    [InlineData("arc", 60, 200.0, 498.08, 271.15)]
    [InlineData("arc", -60, 200.0, 271.15, 498.08)]
    public void Turn_worked(string style, double turn, double? radius, double left, double right)
    {
        var r = Turn.Compute(new(62.4, 118, turn, style, radius)).Result;
        Assert.Equal(left, r.LeftWheelDeg, 2);
        Assert.Equal(right, r.RightWheelDeg, 2);
    }

    [Fact]
    public void A_tight_arc_runs_the_inner_wheel_backward_and_says_so()
    {
        var answer = Turn.Compute(new(62.4, 118, 60, "arc", 30, 2, 100));
        Assert.True(answer.Result.RightWheelDeg < 0);
        Assert.Contains(answer.Cautions, c => c.Contains("runs backward"));
        Assert.Equal(answer.Result.LeftMotorDeg / 100, answer.Result.DurationS!.Value, 9);
        // A radius of nothing is a spin.
        Assert.Equal(
            Turn.Compute(new(62.4, 118, 60, "spin")).Result.LeftWheelDeg,
            Turn.Compute(new(62.4, 118, 60, "arc", 0)).Result.LeftWheelDeg,
            9
        );
        Assert.Throws<InputProblem>(() => Turn.Compute(new(62.4, 118, 60, "arc")));
    }

    [Fact]
    public void Drive_fit_worked()
    {
        var r = DriveFit.Compute(new([new(0.62, 74), new(0.9, 118), new(1.15, 155)], 120)).Result;
        Assert.Equal(152.9161, r.Slope, 4);
        Assert.Equal(-20.4286, r.Intercept, 4);
        Assert.Equal(0.9183, r.NextCommand, 4);
        Assert.Equal(0.9854, r.ResidualSd!.Value, 4);
        // By hand: t(0.975; 1) = 12.7062; half = 12.7062 × 0.98537 × √(1 + 1/3 + (0.91834 − 0.89)² / 0.1406).
        Assert.Equal(12.7062 * 0.98537 * Math.Sqrt(4.0 / 3 + Math.Pow(0.918343 - 0.89, 2) / 0.1406), r.MeasuredHigh!.Value - 120, 2);
        Assert.Equal(240, r.MeasuredLow!.Value + r.MeasuredHigh.Value, 9);
    }

    [Fact]
    public void One_trial_goes_through_the_origin_two_have_no_spread_and_equal_ones_say_nothing()
    {
        var one = DriveFit.Compute(new([new(2, 100)], 150));
        Assert.Equal((50, 0, 3, null), (one.Result.Slope, one.Result.Intercept, one.Result.NextCommand, one.Result.ResidualSd));
        Assert.Contains("One trial cannot tell a lucky one", one.Cautions[0]);
        Assert.Null(DriveFit.Compute(new([new(1, 50), new(2, 90)], 70)).Result.MeasuredLow);
        Assert.Contains("pairs", Assert.Throws<InputProblem>(() => DriveFit.Compute(new([new(1, 50), new(1, 60)], 70))).Errors.Keys);
        Assert.Contains("pairs", Assert.Throws<InputProblem>(() => DriveFit.Compute(new([new(1, 50), new(2, 50)], 70))).Errors.Keys);
        Assert.Contains("pairs[0].commanded", Assert.Throws<InputProblem>(() => DriveFit.Compute(new([new(0, 50)], 70))).Errors.Keys);
        Assert.Contains(DriveFit.Compute(new([new(1, 10), new(2, 20), new(3, 31)], 200)).Cautions, c => c.Contains("far outside"));
    }

    [Theory]
    // A half turn: 180 / 5.4 + ½ is 33.8, so 34 clicks, after which it has turned 33 to 34 times 5.4.
    [InlineData(4, 3, 180.0, 34, 178.2, 183.6, Grade.Fragile)]
    [InlineData(2, 1, 180.0, 6, 162.0, 194.4, Grade.Unusable)]
    [InlineData(60, 3, -90.0, 251, 90.0, 90.36, Grade.Solid)]
    public void Clicks_are_judged_against_a_turn_that_is_wanted(
        double clicks,
        double turns,
        double target,
        double count,
        double low,
        double high,
        Grade grade
    )
    {
        var answer = ClickEncoder.Compute(new(clicks, turns, 43.2, 120, 5, TargetTurnDeg: target));
        Assert.Equal(count, answer.Result.TargetClicks);
        Assert.Equal(
            (low, high),
            (answer.Result.TurnLowDeg!.Value, answer.Result.TurnHighDeg!.Value),
            (a, b) => Math.Abs(a.Item1 - b.Item1) < 0.01 && Math.Abs(a.Item2 - b.Item2) < 0.01
        );
        Assert.Equal(grade, answer.Verdict!.Grade);
        Assert.Null(ClickEncoder.Compute(new(clicks, turns, 43.2, 120, 5)).Verdict);
    }

    [Fact]
    public void Each_way_to_end_a_move_says_what_spoils_it_most()
    {
        string[] Why(double q, double slip, double coast, double period, double noise, double brake) =>
            [.. MoveEnd.Compute(new(600, 180, 3, q, slip, coast, period, noise, brake)).Cautions];
        Assert.Contains("slip spoils it most", Why(2.5, 1.2, 2, 10, 1, 1.5)[1]);
        Assert.Contains("coarseness of the count", Why(60, 1.2, 2, 10, 1, 1.5)[1]);
        Assert.Contains("stop after the last count", Why(2.5, 0.1, 9, 10, 1, 1.5)[1]);
        Assert.Contains("brake spoils it most", Why(2.5, 1.2, 2, 10, 1, 1.5)[2]);
        Assert.Contains("time between readings", Why(2.5, 1.2, 2, 200, 1, 1.5)[2]);
        Assert.Contains("trembling", Why(2.5, 1.2, 2, 10, 4, 1.5)[2]);
    }

    [Fact]
    public void Gears_clicks_axes_and_loads_worked()
    {
        var gears = GearTrain.Compute(new([new(8, 24), new(12, 20)], 900, 50)).Result;
        Assert.Equal((5, 180, "same"), (gears.Ratio, Math.Round(gears.OutputSpeedDegPerS, 9), gears.Direction));
        Assert.Equal(50 * 5 * 0.81, gears.OutputTorqueMNm!.Value, 9);
        Assert.Equal("opposite", GearTrain.Compute(new([new(8, 24)], 900)).Result.Direction);

        var clicks = ClickEncoder.Compute(new(4, 3, 43.2, 120, 5)).Result;
        Assert.Equal((12, 30), (clicks.ClicksPerWheelTurn, clicks.WheelDegPerClick));
        Assert.Equal(11.31, clicks.MmPerClick, 2);
        Assert.Equal(5.4, clicks.PivotDegPerClick, 2);
        Assert.Equal(10.8, clicks.SpinDegPerClick, 2);
        Assert.Equal(4.1667, clicks.MaxWheelTurnsPerS, 4);

        // A 20 mm drum winds π × 20 mm a turn; a screw of lead 8 mm goes 8.
        var drum = AxisTravel.Compute(new("drum", 20, null, 3, Math.PI * 20, null, 540)).Result;
        Assert.Equal((1080, 2, 3.2), (Math.Round(drum.MotorDeg, 9), Math.Round(drum.DurationS, 9), Math.Round(drum.GiveUpAfterS, 9)));
        Assert.Equal(1800, AxisTravel.Compute(new("screw", null, 8, 1, 40, null, 360)).Result.MotorDeg, 9);
        Assert.Equal(-450, AxisTravel.Compute(new("joint", null, null, 5, null, -90, 360)).Result.MotorDeg, 9);

        var seat = LoadSeat.Compute(new(90, 12, 60, 70, 0.35)).Result;
        Assert.Equal((60, 48, 112), (seat.OverlapMm, seat.TippingMarginMm, seat.LoadRadiusMm));
        Assert.Equal(3.4335, seat.MaxAccelMPerS2, 4);
        Assert.Equal(317.24, seat.MaxTurnRateDegPerS, 2);
        Assert.Equal(Grade.Unusable, LoadSeat.Compute(new(90, 70, 60, 70, 0.35)).Verdict!.Grade);
    }

    [Fact]
    public void Ends_paths_and_lines_worked()
    {
        var end = MoveEnd.Compute(new(600, 180, 3, 2.5, 1.2, 2, 10, 1, 1.5)).Result;
        Assert.Equal(18.1108, end.TimedSdMm, 4);
        Assert.Equal(7.5074, end.CountedSdMm, 4);
        Assert.Equal(1.8762, end.SensedSdMm, 4);
        Assert.Equal("sensed", end.Best);

        var path = PathError
            .Compute(new([new("straight", 800, 6, 2), new("turn", TurnDeg: 90, TurnSdDeg: 3), new("straight", 500, 4, 2)], 5, 1))
            .Result;
        Assert.Equal((800, 500, 90), (Math.Round(path.EndXMm, 6), Math.Round(path.EndYMm, 6), path.EndHeadingDeg));
        Assert.Equal(32.1953, path.SdXMm, 4);
        Assert.Equal(18.9928, path.SdYMm, 4);
        Assert.Equal(3.6824, path.SdHeadingDeg, 4);
        Assert.Equal(1, path.WorstMove);

        var sw = LineSwitch.Compute(new(190, 110, 118, 55, 10, 2, 40)).Result;
        Assert.Equal(150, sw.SpeedMmPerS);
        Assert.Equal(38.8446, sw.TurnRateDegPerS, 4);
        Assert.Equal(221.25, sw.TightestRadiusMm, 2);
        Assert.Equal(2.4562, sw.WeaveMm!.Value, 4);
        Assert.Equal(5.34, LineSwitch.Compute(new(300, 150, 118, 30, 10, 2, 60)).Result.WeaveMm!.Value, 2);
        Assert.Null(LineSwitch.Compute(new(300, 150, 118, 15, 10, 2, 60)).Result.WeaveMm);
        Assert.True(sw.KeepsLine);

        var gain = LineGain.Compute(new(150, 118, 60, 4.2, 520, 10, 40));
        Assert.Equal(0.08167, gain.Result.K, 5);
        Assert.Equal("damping", gain.Result.LimitedBy);
        Assert.Equal(0.7, gain.Result.Damping, 4);
        Assert.Equal(306.12, gain.Result.MaxSpeedMmPerS, 2);
        Assert.Equal(0.2206, gain.Result.Kp, 4);
        Assert.Equal(Grade.Solid, gain.Verdict!.Grade);
        Assert.Equal(Grade.Fragile, LineGain.Compute(new(400, 118, 60, 4.2, 520, 10, 40)).Verdict!.Grade);
        Assert.Equal(Grade.Unusable, LineGain.Compute(new(700, 118, 60, 4.2, 900, 10, 40)).Verdict!.Grade);

        var stick = StickMix.Compute(new(70, -35)).Result;
        Assert.Equal(46.667, stick.LeftPercent, 3);
        Assert.Equal(100, stick.RightPercent, 9);
    }

    [Fact]
    public void Charges_and_branches()
    {
        // 10 turns of a 100 mm wheel: 3141.59 mm, at 0.3 for 100 mm 9.42, and 1.50 for getting in.
        Assert.Equal(10.9, Meter.Compute(new(3600, 100, 0.3, 1.5)).Result.Charge, 9);
        Assert.Equal(10.92, Meter.Compute(new(3600, 100, 0.3, 1.5, 0.01)).Result.Charge, 9);
        var answer = Branches.Compute(
            new([new("back away", [new("drive", 2), new("turn", 0.5)]), new("beeper", [new("beep", 0.2, 5), new("gap", 0.1, 4)])])
        );
        Assert.Equal([2.5, 1.4], answer.Result.Totals.Select(t => Math.Round(t.Seconds, 9)));
        Assert.Equal((1.1, "back away"), (Math.Round(answer.Result.Totals[1].IdleS, 9), answer.Result.Longest));
        Assert.Contains("beeper waits 1.1 s", Assert.Single(answer.Cautions));
        Assert.Empty(Branches.Compute(new([new("a", [new("x", 1)]), new("b", [new("y", 0.5, 2)])])).Cautions);
    }

    [Fact]
    public void Compare_rates_worked()
    {
        var r = CompareRates.Compute(new(new(6, 10), new(9, 10))).Result;
        Assert.Equal(0.3, r.Difference, 9);
        Assert.Equal(-0.0824, r.Low, 4);
        Assert.Equal(0.5988, r.High, 4);
        Assert.False(r.LikelyBetter);
        var more = r.MoreRunsForDecision!.Value;
        Assert.InRange(more, 1, 60);
        // So many more settle it, one fewer does not.
        double Low(int k) => CompareRates.Compute(new(new(60 * (10 + k), 100 * (10 + k)), new(90 * (10 + k), 100 * (10 + k)))).Result.Low;
        Assert.True(Low(more) > 0);
        Assert.Null(CompareRates.Compute(new(new(5, 10), new(5, 10))).Result.MoreRunsForDecision);
        Assert.Equal(0, CompareRates.Compute(new(new(10, 100), new(90, 100))).Result.MoreRunsForDecision);
        Assert.Null(CompareRates.Compute(new(new(5000, 10000), new(5001, 10000))).Result.MoreRunsForDecision);
    }

    // ---- laws ----

    private static readonly Gen<double> Length = Gen.Double[10, 2000],
        Diameter = Gen.Double[10, 200],
        Angle = Gen.Double[1, 720];

    [Fact]
    public void The_way_comes_back_from_the_degrees() =>
        Gen.Select(Diameter, Length, Gen.Double[0.2, 5])
            .Sample(
                (d, way, ratio) =>
                {
                    var r = WheelTravel.Compute(new(d, way, ratio)).Result;
                    Assert.Equal(way, r.MotorDeg / ratio / 360 * Math.PI * d, 1e-6);
                    Assert.Equal(-r.MotorDeg, WheelTravel.Compute(new(d, -way, ratio)).Result.MotorDeg, 1e-9);
                }
            );

    [Fact]
    public void Left_and_right_mirror_and_a_pivot_is_an_arc_of_half_the_track() =>
        Gen.Select(Diameter, Gen.Double[40, 300], Angle, Gen.Double[0, 500])
            .Sample(
                (d, track, turn, radius) =>
                {
                    foreach (var style in new[] { "spin", "pivot", "arc" })
                    {
                        var right = Turn.Compute(new(d, track, turn, style, radius)).Result;
                        var left = Turn.Compute(new(d, track, -turn, style, radius)).Result;
                        Assert.Equal((right.LeftWheelDeg, right.RightWheelDeg), (left.RightWheelDeg, left.LeftWheelDeg));
                        // What the wheels do turns the robot by what was asked.
                        Assert.Equal(turn, (right.LeftWheelDeg - right.RightWheelDeg) * d / (2 * track), 1e-6);
                    }
                    Assert.Equal(
                        Turn.Compute(new(d, track, turn, "pivot")).Result.LeftWheelDeg,
                        Turn.Compute(new(d, track, turn, "arc", track / 2)).Result.LeftWheelDeg,
                        1e-6
                    );
                }
            );

    [Fact]
    public void A_fit_goes_through_points_of_a_line_and_scales_with_its_units() =>
        Gen.Select(Gen.Double[0.5, 200], Gen.Double[-50, 50], Gen.Double[-100, 400])
            .Sample(
                (slope, intercept, target) =>
                {
                    TrialPair[] pairs = [.. new[] { 0.4, 0.7, 1.0, 1.6 }.Select(x => new TrialPair(x, intercept + slope * x))];
                    var r = DriveFit.Compute(new(pairs, target)).Result;
                    Assert.Equal(slope, r.Slope, 1e-6);
                    Assert.Equal((target - intercept) / slope, r.NextCommand, 1e-6);
                    Assert.Equal(
                        r.NextCommand * 1000,
                        DriveFit
                            .Compute(new([.. pairs.Select(p => new TrialPair(p.Commanded * 1000, p.Measured))], target))
                            .Result.NextCommand,
                        1e-3
                    );
                }
            );

    [Fact]
    public void Gears_there_and_back_are_no_gears() =>
        Gen.Select(Gen.Int[6, 60], Gen.Int[6, 60])
            .Sample((a, b) => Assert.Equal(1, GearTrain.Compute(new([new(a, b), new(b, a)], 100)).Result.Ratio, 1e-9));

    [Fact]
    public void A_coarser_encoder_never_tells_more() =>
        Gen.Select(Gen.Int[1, 20], Gen.Int[1, 5])
            .Sample(
                (clicks, times) =>
                {
                    var coarse = ClickEncoder.Compute(new(clicks, 1, 50, 120, 5)).Result;
                    var fine = ClickEncoder.Compute(new(clicks * times, 1, 50, 120, 5)).Result;
                    Assert.True(fine.MmPerClick <= coarse.MmPerClick && fine.MaxWheelTurnsPerS <= coarse.MaxWheelTurnsPerS);
                }
            );

    [Fact]
    public void A_load_farther_out_has_less_margin_and_turns_slower() =>
        Gen.Select(Gen.Double[0, 60], Gen.Double[1, 30])
            .Sample(
                (gap, more) =>
                {
                    var near = LoadSeat.Compute(new(90, gap, 40, 70, 0.35)).Result;
                    var far = LoadSeat.Compute(new(90, gap + more, 40, 70, 0.35)).Result;
                    Assert.True(
                        far.TippingMarginMm < near.TippingMarginMm
                            && far.MaxTurnRateDegPerS < near.MaxTurnRateDegPerS
                            && far.OverlapMm <= near.OverlapMm
                    );
                }
            );

    [Fact]
    public void More_spread_of_any_kind_never_brings_a_surer_end() =>
        Gen.Select(Gen.Double[0, 5], Gen.Double[0, 5], Gen.Double[1, 3])
            .Sample(
                (a, b, k) =>
                {
                    var less = MoveEnd.Compute(new(400, 200, a, a, b, b, 10, a, b)).Result;
                    var more = MoveEnd.Compute(new(400, 200, a * k, a * k, b * k, b * k, 10, a * k, b * k)).Result;
                    Assert.True(
                        more.TimedSdMm >= less.TimedSdMm && more.CountedSdMm >= less.CountedSdMm && more.SensedSdMm >= less.SensedSdMm
                    );
                }
            );

    [Fact]
    public void A_mirrored_path_mirrors_its_end_and_keeps_its_spread() =>
        Gen.Select(Gen.Double[100, 900], Gen.Double[-170, 170], Gen.Double[100, 900])
            .Sample(
                (a, turn, b) =>
                {
                    PathErrorResult Of(double t) =>
                        PathError
                            .Compute(new([new("straight", a, 5, 2), new("turn", TurnDeg: t, TurnSdDeg: 2), new("straight", b, 5, 2)], 4, 1))
                            .Result;
                    var (right, left) = (Of(turn), Of(-turn));
                    Assert.Equal(right.EndYMm, -left.EndYMm, 1e-6);
                    Assert.Equal((right.SdXMm, right.SdYMm, right.SdHeadingDeg), (left.SdXMm, left.SdYMm, left.SdHeadingDeg));
                    Assert.Equal(right.CovarianceMm2, -left.CovarianceMm2, 1e-6);
                }
            );

    [Fact]
    public void The_stick_mirrors_and_never_passes_full() =>
        Gen.Select(Gen.Double[-200, 200], Gen.Double[-200, 200])
            .Sample(
                (f, t) =>
                {
                    var r = StickMix.Compute(new(f, t)).Result;
                    var mirror = StickMix.Compute(new(f, -t)).Result;
                    Assert.Equal((r.LeftPercent, r.RightPercent), (mirror.RightPercent, mirror.LeftPercent));
                    Assert.True(Math.Abs(r.LeftPercent) <= 100 + 1e-9 && Math.Abs(r.RightPercent) <= 100 + 1e-9);
                }
            );

    [Fact]
    public void Swapping_before_and_after_turns_the_difference_round() =>
        Gen.Select(Gen.Int[1, 60], Gen.Double[0, 1], Gen.Int[1, 60], Gen.Double[0, 1])
            .Sample(
                (n1, p1, n2, p2) =>
                {
                    RunCount a = new(Math.Round(p1 * n1), n1),
                        b = new(Math.Round(p2 * n2), n2);
                    var there = CompareRates.Compute(new(a, b)).Result;
                    var back = CompareRates.Compute(new(b, a)).Result;
                    Assert.Equal(there.Difference, -back.Difference, 1e-9);
                    Assert.Equal(there.Low, -back.High, 1e-9);
                    Assert.Equal(there.MoreRunsForDecision, back.MoreRunsForDecision);
                    Assert.InRange(there.Difference, there.Low - 1e-12, there.High + 1e-12);
                },
                iter: 200
            );

    // ---- against simulation ----

    [Fact]
    public void The_prediction_interval_covers_what_it_promises()
    {
        var noise = new RandomStream(11, 60);
        var hits = 0;
        const int draws = 10_000;
        for (var i = 0; i < draws; i++)
        {
            double slope = 100 + 50 * noise.Uniform(),
                intercept = -20 * noise.Uniform(),
                sd = 1 + noise.Uniform();
            var n = 3 + i % 6;
            TrialPair[] pairs =
            [
                .. Enumerable
                    .Range(0, n)
                    .Select(k => 0.5 + 0.15 * k)
                    .Select(x => new TrialPair(x, intercept + slope * x + sd * noise.Normal())),
            ];
            var fit = DriveFit.Compute(new(pairs, 90)).Result;
            var next = intercept + slope * fit.NextCommand + sd * noise.Normal();
            if (next >= fit.MeasuredLow && next <= fit.MeasuredHigh)
                hits++;
        }
        Assert.InRange(hits / (double)draws, 0.943, 0.957);
    }

    [Fact]
    public void Carried_errors_agree_with_a_hundred_thousand_simulated_chains()
    {
        PathMove[] moves =
        [
            new("straight", 800, 6, 2),
            new("turn", TurnDeg: 90, TurnSdDeg: 3),
            new("straight", 500, 4, 2),
            new("turn", TurnDeg: -45, TurnSdDeg: 2),
            new("straight", -300, 3, 2),
        ];
        var sum = PathError.Compute(new(moves, 5, 1)).Result;
        var noise = new RandomStream(12, 61);
        const int chains = 100_000;
        double sx = 0,
            sy = 0,
            sh = 0,
            sxx = 0,
            syy = 0,
            shh = 0;
        for (var c = 0; c < chains; c++)
        {
            double x = 5 * noise.Normal(),
                y = 5 * noise.Normal(),
                heading = noise.Normal() * Math.PI / 180;
            foreach (var m in moves)
            {
                if (m.Kind == "turn")
                {
                    heading += (m.TurnDeg!.Value + m.TurnSdDeg!.Value * noise.Normal()) * Math.PI / 180;
                    continue;
                }
                var way = m.DistanceMm!.Value + m.DistanceSdMm!.Value * noise.Normal();
                var bend = m.VeerSdDegPerM!.Value * noise.Normal() * Math.Abs(m.DistanceMm.Value) / 1000 * Math.PI / 180;
                // A true arc: a chord at half the bend, a little shorter than the way.
                var chord = Math.Abs(bend) < 1e-9 ? way : way * Math.Sin(bend / 2) / (bend / 2);
                x += chord * Math.Cos(heading + bend / 2);
                y += chord * Math.Sin(heading + bend / 2);
                heading += bend;
            }
            var h = heading * 180 / Math.PI;
            sx += x;
            sy += y;
            sh += h;
            sxx += x * x;
            syy += y * y;
            shh += h * h;
        }
        double Sd(double s, double ss) => Math.Sqrt(ss / chains - s / chains * (s / chains));
        Assert.InRange(Sd(sx, sxx) / sum.SdXMm, 0.98, 1.02);
        Assert.InRange(Sd(sy, syy) / sum.SdYMm, 0.98, 1.02);
        Assert.InRange(Sd(sh, shh) / sum.SdHeadingDeg, 0.98, 1.02);
        Assert.InRange(Math.Abs(sx / chains - sum.EndXMm), 0, 2);
    }
}
