namespace Chiton.Core.Tests.Sensing;

public class NoticingTests
{
    [Fact]
    public void Sweep_worked_figures()
    {
        var r = Sweep.Compute(new(70, 280, 12, 30, 2, 45)).Result;
        Assert.Equal(38.25, r.VisibleArcDeg, 2);
        Assert.Equal(637.5, r.MaxTurnRateDegPerS, 1);
        Assert.Equal(28, r.ReadingsGuaranteed);
        Assert.Equal(17.1, r.ExtraTurnDeg!.Value, 1);
    }

    [Fact]
    public void A_beam_is_never_flat_nor_backwards()
    {
        Assert.Contains("beamHalfAngleDeg", Assert.Throws<InputProblem>(() => Sweep.Compute(new(70, 280, 90, 30, 2))).Errors.Keys);
        Assert.Contains("beamHalfAngleDeg", Assert.Throws<InputProblem>(() => Sweep.Compute(new(70, 280, -1, 30, 2))).Errors.Keys);
    }

    [Fact]
    public void The_fastest_turn_gives_just_the_readings_needed() =>
        Gen.Select(Gen.Double[5, 300], Gen.Double[50, 3000], Gen.Double[0, 60], Gen.Int[1, 8])
            .Sample(
                (width, range, half, n) =>
                {
                    var most = Sweep.Compute(new(width, range, half, 30, n)).Result.MaxTurnRateDegPerS;
                    Assert.Equal(n, Sweep.Compute(new(width, range, half, 30, n, most)).Result.ReadingsGuaranteed);
                }
            );

    [Fact]
    public void Stop_distance_worked_figures()
    {
        var answer = StopDistance.Compute(new(180, 30, 2, 40, 45, null, 900, null, 1.5));
        var r = answer.Result;
        Assert.Equal(
            [12.6, 18.0, 18.0, 78.3, 39.3, 50.7],
            new[] { r.ReactionMinMm, r.ReactionMaxMm, r.BrakingMm, r.TriggerDistanceMm, r.GapLowMm, r.GapHighMm }.Select(x =>
                Math.Round(x, 6)
            )
        );
        Assert.Equal(Grade.Solid, answer.Verdict!.Grade);
    }

    [Theory]
    // Low gap 39.3, high gap 50.7, second reading no nearer than 67.5 mm.
    [InlineData(45, 1.5, 0, Grade.Solid)]
    [InlineData(45, 5, 0, Grade.Workable)]
    [InlineData(45, 1.5, 40, Grade.Fragile)]
    [InlineData(45, 1.5, 67, Grade.Fragile)]
    [InlineData(5, 1.5, 0, Grade.Unusable)]
    public void Stop_distance_grades(double gap, double noise, double blind, Grade grade) =>
        Assert.Equal(grade, StopDistance.Compute(new(180, 30, 2, 40, gap, null, 900, null, noise, blind)).Verdict!.Grade);

    [Fact]
    public void A_blind_zone_that_the_readings_fall_into_is_unusable() =>
        Assert.Equal(Grade.Unusable, StopDistance.Compute(new(180, 30, 2, 40, 45, null, 900, null, 1.5, 68)).Verdict!.Grade);

    [Theory]
    [InlineData(null, null)]
    [InlineData(900.0, 100.0)]
    public void Exactly_one_way_of_braking(double? decel, double? coast) =>
        Assert.Contains(
            "decelMmPerS2",
            Assert.Throws<InputProblem>(() => StopDistance.Compute(new(180, 30, 2, 40, 45, null, decel, coast))).Errors.Keys
        );

    [Fact]
    public void The_gap_left_lies_within_what_is_said()
    {
        var r = StopDistance.Compute(new(180, 30, 2, 40, 45, null, 900)).Result;
        var noise = new RandomStream(4, 1);
        for (var i = 0; i < 2000; i++)
        {
            // It passes the trigger distance at some phase of the clock, takes two readings, reacts and brakes.
            var phase = noise.Uniform() * 0.03;
            var gap = r.TriggerDistanceMm - 180 * (phase + 0.03 + 0.04) - 18;
            Assert.InRange(gap, r.GapLowMm - 1e-9, r.GapHighMm + 1e-9);
        }
    }

    [Fact]
    public void Reaction_by_hand()
    {
        // 3 readings of 20 ms, 40 ms delay, 90° at 300°/s: 0.06 + 0.04 + 0.3 s.
        var r = Reaction.Compute(new(250, 20, 3, 40, 90, 300)).Result;
        Assert.Equal(0.4, r.ResponseS, 12);
        Assert.Equal(100, r.MustNoticeAtMm, 9);
    }

    [Fact]
    public void Echo_worked_figures_and_back()
    {
        var r = Echo.Compute(new(1750, null, 12)).Result;
        Assert.Equal(338.50, r.SoundMPerS, 2);
        Assert.Equal(296.19, r.DistanceMm, 2);
        Gen.Select(Gen.Double[1, 1e6], Gen.Double[-40, 60])
            .Sample(
                (micros, air) =>
                    Assert.Equal(
                        micros,
                        Echo.Compute(new(null, Echo.Compute(new(micros, null, air)).Result.DistanceMm, air)).Result.EchoMicros,
                        1e-6
                    )
            );
        Assert.Throws<InputProblem>(() => Echo.Compute(new(1750, 296)));
        Assert.Throws<InputProblem>(() => Echo.Compute(new()));
    }

    [Fact]
    public void Edge_guard_worked_figures()
    {
        var one = EdgeGuard.Compute(new(55, [0], 60, 60, 150, 10, 2, 40, 900)).Result;
        Assert.Equal(21.5, one.StopDistanceMm, 9);
        Assert.Equal(33.5, one.HeadOnMarginMm, 9);
        Assert.Equal(-35.21, one.WorstMarginMm, 2);
        Assert.Equal(60, one.WorstAngleDeg);
        Assert.Null(one.MaxSafeSpeedMmPerS);
        var two = EdgeGuard.Compute(new(55, [-70, 70], 60, 60, 150, 10, 2, 40, 900)).Result;
        Assert.Equal(25.41, two.WorstMarginMm, 2);
        Assert.Equal(265.24, two.MaxSafeSpeedMmPerS!.Value, 2);
    }

    private static readonly Gen<(double Ahead, double[] Offsets, double Half, double Max, double Speed)> GenTable = Gen.Select(
        Gen.Double[-30, 120],
        Gen.Double[-100, 100].Array[1, 4],
        Gen.Double[0, 100],
        Gen.Double[0, 90],
        Gen.Double[20, 500]
    );

    [Fact]
    public void The_worst_margin_is_the_least_of_a_fine_search() =>
        GenTable.Sample(
            (ahead, offsets, half, max, speed) =>
            {
                var r = EdgeGuard.Compute(new(ahead, offsets, half, max, speed, 10, 2, 40, 900)).Result;
                var searched = Enumerable
                    .Range(-900, 1801)
                    .Select(i => EdgeGuard.Margin(ahead, offsets, half, r.StopDistanceMm, i / 900.0 * max))
                    .Min();
                Assert.InRange(r.WorstMarginMm, searched - 0.02, searched + 1e-9);
            }
        );

    [Fact]
    public void The_margin_is_even_in_the_angle_for_symmetric_sensors() =>
        GenTable.Sample(
            (ahead, offsets, half, max, _) =>
            {
                double[] both = [.. offsets, .. offsets.Select(y => -y)];
                Assert.Equal(EdgeGuard.Margin(ahead, both, half, 20, max), EdgeGuard.Margin(ahead, both, half, 20, -max), 1e-9);
            }
        );

    [Fact]
    public void At_the_fastest_safe_speed_the_margin_is_gone() =>
        GenTable.Sample(
            (ahead, offsets, half, max, _) =>
            {
                if (EdgeGuard.Compute(new(ahead, offsets, half, max, 1, 10, 2, 40, 900)).Result.MaxSafeSpeedMmPerS is not { } v)
                    return;
                Assert.Equal(0, EdgeGuard.Compute(new(ahead, offsets, half, max, v, 10, 2, 40, 900)).Result.WorstMarginMm, 1e-4);
                Assert.True(EdgeGuard.Compute(new(ahead, offsets, half, max, v * 1.01, 10, 2, 40, 900)).Result.WorstMarginMm < 0);
            }
        );

    [Fact]
    public void Push_over_worked_figures()
    {
        var r = PushOver.Compute(new(55, 40, 8, 21.5)).Result;
        Assert.Equal(0, r.ExtraForwardMinMm);
        Assert.Equal(33.5, r.ExtraForwardMaxMm);
        Assert.Equal(Grade.Unusable, PushOver.Compute(new(20, 40, 8, 21.5)).Verdict!.Grade);
        Assert.Equal(17, PushOver.Compute(new(55, 10, 8, 20)).Result.ExtraForwardMinMm);
    }
}
