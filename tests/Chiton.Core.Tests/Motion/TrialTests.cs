using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;

namespace Chiton.Core.Tests.Motion;

public class TrialTests
{
    private static readonly RigDesign Scrubber = MoveRigs.Scrubber,
        Trolley = MoveRigs.Trolley;
    private static readonly RailMotion Rolls = MoveRigs.Rolls();

    private static TrialPlan Plan(TrialKind kind, RigDesign? rig = null, RailMotion? motion = null) =>
        TrialCatalogue.For(rig ?? Scrubber, motion).First(p => p.Kind == kind);

    private static readonly TrialSetting At = new(56.4, 118, 0.04, null, 1);

    // ---- the promise: five trials find a hidden truth ----

    private static (double Wheel, double Track) Found(ulong seed)
    {
        var noise = new RandomStream(seed, 5);
        List<Trial> Five(TrialPlan plan, double asked, TrialSetting at)
        {
            var made = new List<Trial>();
            for (var i = 0; i < 5; i++)
            {
                var command = TrialPlans.Command(plan, asked, plan.Nominal!.Value, at);
                made.Add(new(asked, command, TrialBench.Try(plan, Scrubber, null, seed, asked, command, ref noise)));
            }
            return made;
        }
        var straight = Plan(TrialKind.Straight);
        var wheel = Trials.Fit(straight, Five(straight, 800, At), 800, At).Number!.Value;
        var at = At with { WheelMm = wheel };
        var turn = Plan(TrialKind.Turn);
        return (wheel, Trials.Fit(turn, Five(turn, 360, at), 360, at).Number!.Value);
    }

    [Fact]
    public void Five_trials_find_the_hidden_wheel_within_half_a_percent_and_the_track_within_one_in_95_of_100_seeds()
    {
        int wheels = 0,
            tracks = 0;
        for (ulong seed = 1; seed <= 100; seed++)
        {
            var (wheel, track) = Found(seed);
            var (trueWheel, trueTrack) = (
                TrialBench.Truth(Plan(TrialKind.Straight), 56.4, seed),
                TrialBench.Truth(Plan(TrialKind.Turn), 118, seed)
            );
            // The truths are worth finding: at least 3 % off what the design says.
            Assert.InRange(Math.Abs(trueWheel / 56.4 - 1), 0.03, 0.07);
            Assert.InRange(Math.Abs(trueTrack / 118 - 1), 0.03, 0.07);
            if (Math.Abs(wheel / trueWheel - 1) <= 0.005)
                wheels++;
            if (Math.Abs(track / trueTrack - 1) <= 0.01)
                tracks++;
        }
        Assert.True(wheels >= 95, $"{wheels} wheels of 100");
        Assert.True(tracks >= 95, $"{tracks} tracks of 100");
    }

    [Fact]
    public void Slip_on_the_bench_is_at_least_four_in_a_thousand()
    {
        var plan = Plan(TrialKind.Straight);
        for (ulong seed = 1; seed <= 10; seed++)
        {
            var noise = new RandomStream(seed, 6);
            // A way so long that the tape's millimetre is nothing.
            double[] ways = [.. Enumerable.Range(0, 2000).Select(_ => TrialBench.Try(plan, Scrubber, null, seed, 1e5, 1e5, ref noise))];
            var mean = ways.Average();
            Assert.InRange(Math.Sqrt(ways.Average(w => (w - mean) * (w - mean))) / mean, 0.0038, 0.0055);
        }
    }

    // ---- one, two, three and many ----

    private static TrialFit Straights(params double[] measured) =>
        Trials.Fit(Plan(TrialKind.Straight), [.. measured.Select(m => new Trial(800, 1625.4, m))], 800, At);

    [Fact]
    public void One_and_two_trials_say_what_they_do_not_know()
    {
        Assert.Null(Straights().Number);
        Assert.Equal("Not tried yet.", Straights().Say);
        var one = Straights(772);
        Assert.Equal(772 * 360 / Math.PI / 1625.4, one.Number!.Value, 9);
        Assert.Contains("spread assumed", one.Number.Source);
        Assert.Null(one.MeasuredLow);
        Assert.Contains("make 2 more", one.Say);
        Assert.False(one.Enough);
        Assert.Contains("make 1 more", Straights(772, 775).Say);
    }

    [Fact]
    public void Three_trials_worked_by_hand()
    {
        // Numbers 54.4270, 54.6385, 54.8500 by π·D·1625.4/360 = measured: mean 54.6385, SD 0.2115, error SD/√3.
        var fit = Straights(772, 775, 778);
        Assert.Equal(54.6385, fit.Number!.Value, 3);
        Assert.Equal(0.2115, fit.Number.MoveSd, 4);
        Assert.Equal(0.2115 / Math.Sqrt(3), fit.Number.MeanSd, 4);
        // Next: 800·360/(π·54.6385) wheel deg; within t(0.975; 2) = 4.3027 SDs, times √(1 + 1/3).
        Assert.Equal(1677.83, fit.NextCommand!.Value, 2);
        Assert.Equal(800 * 4.3027 * 0.2115 / 54.6385 * Math.Sqrt(4 / 3.0), (fit.MeasuredHigh - fit.MeasuredLow)!.Value / 2, 2);
        Assert.False(fit.Enough);
    }

    [Fact]
    public void Many_alike_trials_are_enough_and_an_odd_one_is_shown()
    {
        Assert.True(Straights(774, 775, 776, 775, 774, 776).Enough);
        var fit = Straights(774, 775, 776, 775, 712, 776);
        Assert.Equal([4], fit.Odd);
        Assert.False(fit.Enough);
        Assert.Contains("far from the rest", fit.Say);
    }

    [Fact]
    public void A_move_that_goes_the_wrong_way_gives_no_number()
    {
        var fit = Straights(-770, -775);
        Assert.Null(fit.Number);
        Assert.Contains("direction", fit.Say);
    }

    [Fact]
    public void The_next_command_of_a_fitted_number_brings_the_target() =>
        Gen.Double[20, 120]
            .Select(Gen.Double[60, 200], Gen.Double[10, 2000])
            .Sample(
                (wheel, track, asked) =>
                {
                    var at = At with { WheelMm = wheel, TrackMm = track };
                    foreach (var kind in new[] { TrialKind.Straight, TrialKind.Turn })
                    {
                        var plan = Plan(kind);
                        var number = kind == TrialKind.Straight ? wheel : track;
                        Assert.Equal(asked, TrialPlans.Expect(plan, TrialPlans.Command(plan, asked, number, at), number, at), 1e-6);
                    }
                }
            );

    [Fact]
    public void Every_number_comes_back_from_what_it_foretells() =>
        Gen.Double[10, 900]
            .Select(Gen.Double[20, 900])
            .Sample(
                (number, command) =>
                {
                    var rail = At with { Motion = Rolls };
                    foreach (
                        var kind in new[]
                        {
                            TrialKind.Straight,
                            TrialKind.Turn,
                            TrialKind.Veer,
                            TrialKind.Brake,
                            TrialKind.Coast,
                            TrialKind.Travel,
                            TrialKind.Duration,
                            TrialKind.Hit,
                            TrialKind.Speed,
                        }
                    )
                    {
                        var plan = Plan(TrialKind.Straight) with { Kind = kind };
                        var at = kind == TrialKind.Speed ? rail : At;
                        var told = kind == TrialKind.Speed ? Math.Clamp(command, 30, 100) : command;
                        Assert.Equal(
                            number,
                            TrialPlans.One(plan, new(told, told, TrialPlans.Expect(plan, told, number, at)), at)!.Value,
                            1e-6
                        );
                    }
                }
            );

    // ---- a closed square ----

    [Fact]
    public void A_square_one_way_round_says_that_it_cannot_tell_veer_from_track()
    {
        var plan = Plan(TrialKind.Square);
        var fit = Trials.Fit(plan, [new(400, 753.2, 366), new(400, 753.2, 365)], 400, At);
        Assert.Contains("other way round", fit.Say);
        Assert.True(fit.NextCommand < 0);
    }

    [Fact]
    public void A_square_both_ways_round_gives_track_and_veer_apart()
    {
        // True track 123 mm, veer 2 deg/m to the right, 1.6 m round: exact turns of 753.19·56.4/123 ± 3.2.
        var plan = Plan(TrialKind.Square);
        double Turned(int way) => way * 753.19 * 56.4 / 123 + 2 * 1.6;
        var fit = Trials.Fit(
            plan,
            [
                new(400, 753.19, Turned(1)),
                new(-400, -753.19, Turned(-1)),
                new(400, 753.19, Turned(1) + 0.5),
                new(-400, -753.19, Turned(-1) + 0.5),
            ],
            400,
            At
        );
        Assert.Equal(123, fit.Number!.Value, 6);
        Assert.Equal(2 + 0.25 / 1.6, fit.Second!.Value, 6);
        Assert.Contains("to the right", fit.Say);
        // From one way alone the same trials would have been 1 % off.
        Assert.True(Math.Abs(753.19 * 56.4 / Turned(1) - 123) > 1);
    }

    [Fact]
    public void Squares_on_the_bench_find_both_hidden_numbers()
    {
        var good = 0;
        for (ulong seed = 1; seed <= 60; seed++)
        {
            var plan = Plan(TrialKind.Square);
            var at = At with { WheelMm = TrialBench.Truth(Plan(TrialKind.Straight), 56.4, seed) };
            var noise = new RandomStream(seed, 8);
            var made = new List<Trial>();
            for (var i = 0; i < 8; i++)
            {
                var asked = i % 2 == 0 ? 400 : -400;
                var command = TrialPlans.Command(plan, asked, 118, at);
                made.Add(new(asked, command, TrialBench.Try(plan, Scrubber, null, seed, asked, command, ref noise)));
            }
            var fit = Trials.Fit(plan, made, 400, at);
            var (track, veer) = (TrialBench.Truth(plan, 118, seed), TrialBench.Truth(Plan(TrialKind.Veer), 0, seed));
            if (Math.Abs(fit.Number!.Value / track - 1) < 0.01 && Math.Abs(fit.Second!.Value - veer) < 4 * fit.Second.MeanSd + 0.2)
                good++;
        }
        Assert.True(good >= 57, $"{good} of 60");
    }

    // ---- a line, a bracket ----

    [Fact]
    public void A_timed_turn_follows_the_sum_of_a_line()
    {
        var plan = Plan(TrialKind.TimedTurn);
        // The worked figures of drive-fit.
        var fit = Trials.Fit(plan, [new(120, 0.62, 74), new(120, 0.9, 118), new(120, 1.15, 155)], 120, At);
        Assert.Equal(0.9183, fit.NextCommand!.Value, 4);
        Assert.Equal(0.9183, fit.Number!.Value, 4);
        Assert.Contains("for 120 robot deg", fit.Number.Source);
        Assert.Equal(120, (fit.MeasuredLow + fit.MeasuredHigh)!.Value / 2, 6);
        // To the left the seconds are the same.
        Assert.Equal(
            0.9183,
            Trials.Fit(plan, [new(-120, 0.62, -74), new(-120, 0.9, -118), new(-120, 1.15, -155)], -120, At).NextCommand!.Value,
            4
        );
    }

    [Fact]
    public void Equal_commands_and_a_falling_line_are_explained()
    {
        var plan = Plan(TrialKind.TimedTurn);
        Assert.Contains("All commands are equal", Trials.Fit(plan, [new(90, 1, 80), new(90, 1, 84)], 90, At).Say);
        Assert.Contains("More did not bring more", Trials.Fit(plan, [new(90, 1, 80), new(90, 2, 60), new(90, 3, 40)], 90, At).Say);
    }

    [Fact]
    public void The_least_power_is_bracketed_by_halving()
    {
        var plan = Plan(TrialKind.LeastPower, Trolley, Rolls);
        TrialFit Fit(params (double Power, int Moved)[] t) =>
            Trials.Fit(plan, [.. t.Select(x => new Trial(x.Power, x.Power, x.Moved))], 20, At);
        Assert.Equal(10, Fit((20, 1)).NextCommand);
        Assert.Null(Fit((20, 1)).Number);
        var two = Fit((20, 1), (10, 0));
        Assert.Equal((15, 10 / Math.Sqrt(12)), (two.Number!.Value, two.Number.MeanSd));
        Assert.Equal(15, two.NextCommand);
        Assert.True(Fit((14, 1), (13, 0)).Enough);
        // Now and then it moves at less: then neither is to be relied on.
        Assert.Contains("sometimes", Fit((20, 1), (14, 0), (13, 1), (12, 0)).Say);
    }

    [Fact]
    public void Halving_on_the_bench_ends_within_a_percent_of_the_hidden_least_power()
    {
        var plan = Plan(TrialKind.LeastPower, Trolley, Rolls);
        for (ulong seed = 1; seed <= 20; seed++)
        {
            var noise = new RandomStream(seed, 9);
            var made = new List<Trial>();
            var next = 20.0;
            for (var i = 0; i < 9; i++)
            {
                made.Add(new(next, next, TrialBench.Try(plan, Trolley, Rolls, seed, next, next, ref noise)));
                var fit = Trials.Fit(plan, made, 20, At);
                if (fit.Enough)
                    break;
                next = fit.NextCommand!.Value;
            }
            Assert.Equal(TrialBench.Truth(plan, 14, seed), Trials.Fit(plan, made, 20, At).Number!.Value, 1.6);
        }
    }

    // ---- kinds of degrees ----

    [Theory]
    [InlineData(135, 282.4, 282.0, "what the wheels turned")]
    [InlineData(135, 282.4, 141.0, null)]
    [InlineData(1080, 2259, null, "3 turns of the whole robot")]
    public void A_value_of_another_kind_of_degrees_is_questioned(double asked, double commanded, double? measured, string? say)
    {
        var question = TrialPlans.Question(Plan(TrialKind.Turn), asked, commanded, measured, asked, At);
        if (say is null)
            Assert.Null(question);
        else
            Assert.Contains(say, question!.Value.Say);
    }

    [Fact]
    public void Motor_degrees_and_centimetres_are_questioned_too()
    {
        Assert.Contains(
            "motors turned",
            TrialPlans.Question(Plan(TrialKind.Turn), 90, 188, 188 * 3, 90, At with { MotorTurns = 3 })!.Value.Say
        );
        Assert.Contains("centimetres", TrialPlans.Question(Plan(TrialKind.Straight), 800, 1625, 78, 800, At)!.Value.Say);
        Assert.Contains("inches", TrialPlans.Question(Plan(TrialKind.Straight), 800, 1625, 31, 800, At)!.Value.Say);
        Assert.Null(TrialPlans.Question(Plan(TrialKind.Straight), 800, 1625, 740, 800, At));
    }

    // ---- which motions there are ----

    [Fact]
    public void Only_what_the_motors_can_do_is_offered()
    {
        Assert.DoesNotContain(TrialCatalogue.For(Trolley, Rolls), p => p.CommandUnit == "wheel deg");
        Assert.Contains(TrialCatalogue.For(Trolley, Rolls), p => p.Kind == TrialKind.Rest);
        var plain = Scrubber with { Actuators = Scrubber.Actuators.Select(a => a with { Kind = ActuatorKind.PlainMotor }).ToSequence() };
        Assert.Equal(
            [
                TrialKind.Speed,
                TrialKind.LeastPower,
                TrialKind.TimedWay,
                TrialKind.Veer,
                TrialKind.TimedTurn,
                TrialKind.Brake,
                TrialKind.Coast,
                TrialKind.Hit,
            ],
            TrialCatalogue.For(plain).Select(p => p.Kind)
        );
        Assert.DoesNotContain(TrialCatalogue.For(plain), p => p.CommandUnit == "wheel deg");
        // Nothing that comes apart past its end is ever driven from stop to stop.
        var hoist = MoveRigs.Picker;
        Assert.DoesNotContain(TrialCatalogue.For(hoist), p => p.Kind == TrialKind.Duration && p.Mechanism == "Mast");
        Assert.Equal(TrialCatalogue.For(hoist).Count, TrialCatalogue.For(hoist).Select(p => p.Key).Distinct().Count());
    }
}
