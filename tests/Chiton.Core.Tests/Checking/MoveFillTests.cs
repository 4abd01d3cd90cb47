using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Tests.Motion;

namespace Chiton.Core.Tests.Checking;

public class MoveFillTests
{
    private static readonly Dictionary<string, SensorCalibration> None = [];

    private static RigDesign WithEye =>
        MoveRigs.Scrubber with
        {
            Sensors =
            [
                new("Side eye", SensorKind.ReflectedLight, 20, 1, ["line", "sand"])
                {
                    Mount = new(FarmBench.Sure(20, "mm"), FarmBench.Sure(60, "mm")),
                },
                new("Line eye", SensorKind.ReflectedLight, 10, 1, ["line", "sand"])
                {
                    Mount = new(FarmBench.Sure(52, "mm"), FarmBench.Sure(0, "mm")),
                    SpotDiameterMm = FarmBench.Sure(10, "mm"),
                },
            ],
        };

    private static Dictionary<string, SensorCalibration> Read =>
        new()
        {
            ["Line eye"] = new("Line eye", 10, 1, 1, School.EqualRisk, 1, [new("sand", [58, 60, 56, 58]), new("line", [12, 11, 13, 12])]),
        };

    [Fact]
    public void The_eye_in_the_middle_follows_the_line_with_the_contrast_of_its_own_readings()
    {
        var sight = MoveFill.Sight(WithEye, Read)!;
        Assert.Equal(("Line eye", 12, 58, true), (sight.Eye, sight.Dark, sight.Bright, sight.Measured));
        Assert.Equal(4.6, sight.ContrastPercentPerMm, 9);
        // Without readings usual ones stand for them, and it says so.
        Assert.False(MoveFill.Sight(WithEye, None)!.Measured);
        Assert.Null(MoveFill.Sight(MoveRigs.Scrubber, None));
    }

    [Fact]
    public void A_move_s_end_is_filled_from_trials_and_readings_where_there_are_any()
    {
        var m = WithEye.Mechanisms[0];
        Quantity? InUse(TrialKind kind) =>
            kind switch
            {
                TrialKind.Straight => new(55, "mm", Provenance.Measured, "5 trials", 0.1, 0.55),
                TrialKind.Brake => new(900, "mm/s²", Provenance.Measured, "5 trials", 20, 90),
                _ => null,
            };
        var sum = MoveFill.For(WithEye, m, InUse, new(55, 118, 0.04, null, 1), Read).Single(s => s.Sum == "move-end");
        var fields = sum.Fields.ToDictionary(f => f.Field);
        Assert.Equal(
            (1.0, Provenance.Measured),
            (fields["slipSdPercent"].Values[0], fields["slipSdPercent"].Kind),
            (a, b) => Math.Abs(a.Item1 - b.Item1) < 1e-9 && a.Item2 == b.Item2
        );
        Assert.Equal(Math.PI * 55 / 360, fields["resolutionMm"].Values[0], 9);
        // 150²/1800 mm of braking, a tenth of it from move to move.
        Assert.Equal(1.25, fields["brakeSdMm"].Values[0], 9);
        Assert.Equal(Provenance.Calculated, fields["brakeSdMm"].Kind);
        Assert.Equal(1.633 / 4.6, fields["noiseSdMm"].Values[0], 3);
        // It answers without a change.
        var end = MoveEnd.Compute(
            new(
                fields["distanceMm"].Values[0],
                fields["speedMmPerS"].Values[0],
                fields["speedSdPercent"].Values[0],
                fields["resolutionMm"].Values[0],
                fields["slipSdPercent"].Values[0],
                fields["coastSdMm"].Values[0],
                fields["samplePeriodMs"].Values[0],
                fields["noiseSdMm"].Values[0],
                fields["brakeSdMm"].Values[0]
            )
        );
        Assert.Equal("sensed", end.Result.Best);
    }

    [Fact]
    public void What_nobody_knows_is_a_guess_and_what_does_not_apply_is_not_offered()
    {
        var bare = MoveFill.For(MoveRigs.Scrubber, MoveRigs.Scrubber.Mechanisms[0], _ => null, new(0, 0, 0.04, null, 1), None);
        Assert.Equal(["move-end", "click-encoder"], bare.Select(s => s.Sum));
        Assert.Contains(bare[0].Fields, f => f is { Field: "slipSdPercent", Kind: Provenance.Guessed });
        Assert.Empty(MoveFill.For(MoveRigs.Picker, MoveRigs.Picker.Mechanisms[0], _ => null, new(0, 0, 0.04, null, 1), None));
        var fork = MoveRigs.Picker.Mechanisms[1] with { TipAheadMm = FarmBench.Sure(95, "mm") };
        Assert.Equal(95, Assert.Single(MoveFill.For(MoveRigs.Picker, fork, _ => null, new(0, 0, 0.04, null, 1), None)).Fields[0].Values[0]);
    }

    [Fact]
    public void A_rail_vehicle_takes_its_speed_from_its_pack()
    {
        var motion = MoveRigs.Rolls();
        var fields = MoveFill
            .For(MoveRigs.Trolley, MoveRigs.Trolley.Mechanisms[0], _ => null, new(0, 0, 0.03, motion, 1), None)
            .Single()
            .Fields.ToDictionary(f => f.Field);
        Assert.Equal(Math.Round(motion.SteadySpeed(40)), fields["speedMmPerS"].Values[0]);
        Assert.Equal(100 * motion.RelativeSpeedSd, fields["speedSdPercent"].Values[0], 9);
    }
}
