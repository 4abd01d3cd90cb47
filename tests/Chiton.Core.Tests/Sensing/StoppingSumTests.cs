using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Sensing;

/// <summary>Sums of stopping, crossing, switching and pushing, by the figures of the design and by playing the thing through.</summary>
public class StoppingSumTests
{
    [Fact]
    public void A_sensor_ahead_of_the_axis_sweeps_more_and_delay_and_braking_turn_past()
    {
        var r = Sweep.Compute(new(70, 280, 12, 30, 2, 45)).Result;
        Assert.Equal(17.1, r.ExtraTurnDeg!.Value, 1);
        var ahead = Sweep.Compute(new(70, 280, 12, 30, 2, 45, SensorAheadMm: 70)).Result;
        Assert.Equal(r.VisibleArcDeg * 280 / 350, ahead.VisibleArcDeg, 9);
        var late = Sweep.Compute(new(70, 280, 12, 30, 2, 45, ActuatorDelayMs: 100, BrakingDeg: 14));
        Assert.Equal(r.ExtraTurnDeg.Value - 4.5 - 14, late.Result.ExtraTurnDeg!.Value, 9);
        Assert.Contains("past the target", Assert.Single(late.Cautions));
    }

    [Fact]
    public void Braking_that_varies_widens_the_gap()
    {
        var r = StopDistance.Compute(new(180, 30, 2, 40, 45, DecelMmPerS2: 900, NoiseSdMm: 1.5, DecelSdPercent: 10)).Result;
        // 18 mm of braking vary by 1.8 mm: 2.7 of reaction and twice the root of 1.5² + 1.8² to each side.
        var spread = 2.7 + 2 * Math.Sqrt(1.5 * 1.5 + 1.8 * 1.8);
        Assert.Equal(45 - spread, r.GapLowMm, 9);
        Assert.Equal(45 + spread, r.GapHighMm, 9);
    }

    [Fact]
    public void Told_at_the_trigger_of_the_one_sum_the_other_gives_its_gap()
    {
        Assert.Equal(-6.0, StopGap.Compute(new(250, 30, 2, 40, 50, DecelMmPerS2: 900)).Result.GapMm, 1);
        Gen.Select(Gen.Double[20, 800], Gen.Double[5, 60], Gen.Int[1, 5], Gen.Double[0, 100], Gen.Double[10, 300], Gen.Double[0, 4])
            .Sample(
                (v, t, n, d, gap, noise) =>
                {
                    var stop = StopDistance.Compute(new(v, t, n, d, gap, 7, DecelMmPerS2: 700, NoiseSdMm: noise)).Result;
                    var back = StopGap.Compute(new(v, t, n, d, stop.TriggerDistanceMm, 7, DecelMmPerS2: 700, NoiseSdMm: noise)).Result;
                    Assert.Equal(gap, back.GapMm, 1e-6);
                    Assert.Equal(stop.GapLowMm, back.GapLowMm, 1e-6);
                    Assert.Equal(stop.GapHighMm, back.GapHighMm, 1e-6);
                }
            );
        Assert.Equal(Grade.Unusable, StopGap.Compute(new(250, 30, 2, 40, 50, DecelMmPerS2: 900)).Verdict!.Grade);
        Assert.Contains("blind", StopGap.Compute(new(100, 30, 2, 0, 60, DecelMmPerS2: 9000, BlindZoneMm: 58)).Verdict!.Say);
    }

    [Fact]
    public void A_beam_is_crossed_as_often_as_readings_fall_into_it()
    {
        var r = BeamCross.Compute(new(1500, 60, 80, 60)).Result;
        Assert.Equal((0.0933, 1, 1.0, 2333.3), (Math.Round(r.InsideS, 4), r.ReadingsMin, r.Chance, Math.Round(r.FastestMmPerS, 1)));
        // Every phase of the readings: how often do N of them fall inside?
        foreach (var (v, n) in new[] { (1500.0, 2), (3000.0, 1), (900.0, 3), (2500.0, 2) })
        {
            var inside = 140 / v;
            const int phases = 6000;
            var seen = Enumerable
                .Range(0, phases)
                .Count(p => Math.Floor((inside - p * 0.06 / phases) / 0.06) + 1 >= n && inside >= p * 0.06 / phases);
            Assert.Equal(seen / (double)phases, BeamCross.Compute(new(v, 60, 80, 60, n)).Result.Chance, 1e-3);
        }
        Assert.Equal(1, BeamCross.Compute(new(140 / 0.18, 60, 80, 60, 3)).Result.Chance);
        Assert.Equal(["lengthMm"], Assert.Throws<InputProblem>(() => BeamCross.Compute(new(1, 0, 0, 60))).Errors.Keys);
    }

    [Fact]
    public void A_tank_swings_as_the_sum_says()
    {
        var r = OnOff.Compute(new(2, 0.5, 40, 60, 3, 1)).Result;
        Assert.Equal((68.0, 38.0, 15.0, 75.0, 96.0), (r.High, r.Low, r.OnS, r.CycleS, r.SwitchesPerHour));
        // The worst of every start: a level that rises and falls, read each second, acted on three seconds later.
        double highest = 0,
            lowest = 100;
        for (var start = 50.0; start < 52; start += 0.02)
        {
            var level = start;
            var on = true;
            var due = new Queue<(double At, bool On)>();
            var wanted = true;
            for (var k = 0; k < 20_000; k++)
            {
                var t = k * 0.01;
                if (due.TryPeek(out var next) && next.At <= t + 1e-9)
                    on = due.Dequeue().On;
                level += 0.01 * (on ? 2 : -0.5);
                var now =
                    k % 100 == 0
                        ? (
                            level > 60 ? false
                            : level < 40 ? true
                            : wanted
                        )
                        : wanted;
                if (now != wanted)
                    due.Enqueue((t + 3, now));
                wanted = now;
                (highest, lowest) = (Math.Max(highest, level), Math.Min(lowest, level));
            }
        }
        Assert.Equal(r.High, highest, 0.1);
        Assert.Equal(r.Low, lowest, 0.1);
        Assert.Equal(["onBelow"], Assert.Throws<InputProblem>(() => OnOff.Compute(new(2, 0.5, 60, 60, 3, 1))).Errors.Keys);
    }

    [Fact]
    public void The_spot_and_the_brakes_cost_margin_at_the_edge()
    {
        var plain = EdgeGuard.Compute(new(55, [-70, 70], 60, 60, 150, 10, 2, 40, 900)).Result;
        var spot = EdgeGuard.Compute(new(55, [-70, 70], 60, 60, 150, 10, 2, 40, 900, SpotDiameterMm: 8)).Result;
        Assert.Equal(plain.HeadOnMarginMm - 4, spot.HeadOnMarginMm, 9);
        var vary = EdgeGuard.Compute(new(55, [-70, 70], 60, 60, 150, 10, 2, 40, 900, DecelSdPercent: 10)).Result;
        Assert.Equal(plain.StopDistanceMm + 12.5 * 0.2, vary.StopDistanceMm, 9);
        Assert.True(vary.MaxSafeSpeedMmPerS < plain.MaxSafeSpeedMmPerS);
        var fastest = vary.MaxSafeSpeedMmPerS!.Value;
        Assert.Equal(0, EdgeGuard.Compute(new(55, [-70, 70], 60, 60, fastest, 10, 2, 40, 900, null, 10)).Result.WorstMarginMm, 1e-4);
        // 4 mm left is fragile, 6 are not.
        Assert.Equal(Grade.Fragile, EdgeGuard.Compute(new(25.5, [0], 0, 0, 150, 10, 2, 40, 900)).Verdict!.Grade);
        Assert.Equal(Grade.Solid, EdgeGuard.Compute(new(27.5, [0], 0, 0, 150, 10, 2, 40, 900)).Verdict!.Grade);
    }

    [Fact]
    public void Pushing_over_needs_room_to_both_sides()
    {
        var r = PushOver.Compute(new(55, 40, 8, 21.5, 4));
        Assert.Equal((0.0, 29.5), (r.Result.ExtraForwardMinMm, r.Result.ExtraForwardMaxMm));
        Assert.Equal(Grade.Solid, r.Verdict!.Grade);
        Assert.Contains("14.8", r.Verdict.Say);
        Assert.Equal(55 - 10 - 8 - 16, PushOver.Compute(new(55, 10, 8, 20, 4)).Result.ExtraForwardMinMm);
        Assert.Equal(Grade.Fragile, PushOver.Compute(new(55, 40, 8, 21.5, 4, 15)).Verdict!.Grade);
        Assert.Equal(Grade.Solid, PushOver.Compute(new(55, 40, 8, 21.5, 4, 14.75)).Verdict!.Grade);
    }

    [Fact]
    public void A_late_reading_is_answered_late()
    {
        var (plain, late) = (
            Reaction.Compute(new(250, 20, 3, 40, 90, 300)).Result,
            Reaction.Compute(new(250, 20, 3, 40, 90, 300, 50)).Result
        );
        Assert.Equal(plain.ResponseS + 0.05, late.ResponseS, 9);
        Assert.Equal(plain.MustNoticeAtMm + 12.5, late.MustNoticeAtMm, 9);
    }

    [Fact]
    public void A_tall_load_tips_before_it_slides_and_two_wheels_tell_a_curve()
    {
        var tall = LoadSeat.Compute(new(90, 12, 60, 70, 0.35, 0, 120, 30));
        Assert.Equal(9.81 / 4, tall.Result.MaxAccelMPerS2, 9);
        Assert.Equal(Math.Sqrt(9.81 / 4 / 0.112) * 180 / Math.PI, tall.Result.MaxTurnRateDegPerS, 9);
        Assert.Contains(tall.Cautions, c => c.Contains("tips before it slides"));
        Assert.Equal(0.35 * 9.81, LoadSeat.Compute(new(90, 12, 60, 70, 0.35, 0, 20, 60)).Result.MaxAccelMPerS2, 9);
        Assert.Equal(["loadBaseMm"], Assert.Throws<InputProblem>(() => LoadSeat.Compute(new(90, 12, 60, 70, 0.35, 0, 20))).Errors.Keys);
        var spin = WheelWay.Compute(new(56, 118, 300, -300)).Result;
        Assert.Equal((0.0, 142.37, 0.0), (spin.DistanceMm, Math.Round(spin.TurnDeg, 2), spin.RadiusMm));
        Assert.Null(WheelWay.Compute(new(56, 118, 300, 300)).Result.RadiusMm);
        // What one sum asks of the wheels, the other gives back.
        Gen.Select(Gen.Double[20, 100], Gen.Double[60, 200], Gen.Double[-200, 200], Gen.Double[0, 400])
            .Sample(
                (diameter, track, turn, radius) =>
                {
                    var asked = Turn.Compute(new(diameter, track, turn, "arc", radius)).Result;
                    var back = WheelWay.Compute(new(diameter, track, asked.LeftWheelDeg, asked.RightWheelDeg)).Result;
                    Assert.Equal(turn, back.TurnDeg, 1e-6);
                    Assert.Equal(Math.Abs(turn) * Math.PI / 180 * radius, back.DistanceMm, 1e-6);
                }
            );
    }

    [Fact]
    public void Motor_lag_and_lifting_and_another_board()
    {
        Assert.Equal(
            LineGain.Compute(new(150, 118, 60, 4.2, 520, 10, 70)).Result,
            LineGain.Compute(new(150, 118, 60, 4.2, 520, 10, 40, 30)).Result
        );
        var lift = LiftTorque.Compute(new([new(60, 120), new(40, 60)], 180));
        Assert.Equal(
            (94.144, 94.144, 0.523),
            (Math.Round(lift.Result.NeededNmm, 3), Math.Round(lift.Result.AtMotorNmm, 3), Math.Round(lift.Result.LoadShare, 4))
        );
        Assert.Equal(2, lift.Result.MotorsNeeded);
        Assert.Equal(Grade.Fragile, lift.Verdict!.Grade);
        // A gear of 3 that passes on 90 %, and a counterweight that takes half.
        var geared = LiftTorque.Compute(new([new(60, 120), new(60, -60)], 180, 1, 3, 90)).Result;
        Assert.Equal(0.06 * 9.80665 * 60 / 2.7, geared.AtMotorNmm, 9);
        Assert.Equal(["parts"], Assert.Throws<InputProblem>(() => LiftTorque.Compute(new([new(60, 60), new(60, -60)], 180))).Errors.Keys);
        Assert.Equal(["share"], Assert.Throws<InputProblem>(() => LiftTorque.Compute(new([new(60, 60)], 180, Share: 0))).Errors.Keys);
        // Exactly two motors' worth is two motors.
        Assert.Equal(2, LiftTorque.Compute(new([new(1000, 100)], 980.665)).Result.MotorsNeeded);
        var other = InputScale.Compute(new(512, 10, 5, 12, 3.3)).Result;
        Assert.Equal((2.5024, 3105, false), (Math.Round(other.Volts, 4), other.ToReading, other.Clipped));
        var over = InputScale.Compute(new(1023, 10, 5, 12, 3.3));
        Assert.Equal((4095, true), (over.Result.ToReading, over.Result.Clipped));
        Assert.Contains("divider", over.Cautions[0]);
    }
}
