using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Motion;

public class CopyMoveTests
{
    private static CopyMoves Moves(RigDesign rig, RailMotion? motion = null, params (string Key, AcceptedNumber Number)[] accepted) =>
        new(rig, motion, new Dictionary<string, IReadOnlyList<Trial>>(), accepted.ToDictionary(a => a.Key, a => a.Number));

    private static AcceptedNumber Accepted(double value, double sd, double? second = null) =>
        new(value, sd, 2 * sd, 5, 0, second, 0.2, 0.4);

    [Fact]
    public void An_accepted_number_is_kept_and_read_back() =>
        Gen.Double[-1e6, 1e6]
            .Select(Gen.Double[0, 100], Gen.Bool)
            .Sample(
                (value, sd, two) =>
                {
                    var number = Accepted(value, sd, two ? value / 3 : null);
                    Assert.Equal(AcceptedNumber.Width, number.Packed.Length);
                    Assert.Equal(number, AcceptedNumber.Of(number.Packed));
                }
            );

    [Fact]
    public void What_was_measured_stands_before_what_the_design_says_and_the_better_track_width_counts()
    {
        var rig = MoveRigs.Scrubber;
        Assert.Equal(Provenance.Guessed, Moves(rig).InUse("Drive", TrialKind.Turn)!.Kind);
        var moves = Moves(
            rig,
            null,
            ("Drive: straight", Accepted(54.2, 0.1)),
            ("Drive: turn", Accepted(121, 0.9)),
            ("Drive: square", Accepted(122, 0.3, 1.8))
        );
        Assert.Equal(54.2, moves.At("Drive").WheelMm);
        Assert.Equal(122, moves.InUse("Drive", TrialKind.Turn)!.Value);
        // The veer that the squares found counts until it is tried by itself.
        Assert.Equal(1.8, moves.InUse("Drive", TrialKind.Veer)!.Value);
        Assert.Equal(
            -0.4,
            Moves(rig, null, ("Drive: square", Accepted(122, 0.3, 1.8)), ("Drive: veer", Accepted(-0.4, 0.1)))
                .InUse("Drive", TrialKind.Veer)!
                .Value
        );
    }

    [Fact]
    public void Accepted_numbers_of_a_rail_vehicle_are_what_its_runs_use()
    {
        var delivered = MoveRigs.Rolls(false);
        var moves = Moves(MoveRigs.Trolley, delivered, ("Trolley: brake", Accepted(1900, 30)), ("Trolley: speed", Accepted(740, 4)));
        Assert.Equal(
            (1900, Provenance.Measured, 30),
            (moves.Motion!.BrakeDecelMmPerS2.Value, moves.Motion.BrakeDecelMmPerS2.Kind, moves.Motion.BrakeDecelMmPerS2.BetweenRunsSd)
        );
        Assert.Equal(740, moves.Motion.FullSpeedMmPerS.Value);
        Assert.Equal(delivered.LeastPowerPercent, moves.Motion.LeastPowerPercent);
        Assert.Equal(delivered.BrakeDecelMmPerS2.Min, moves.Motion.BrakeDecelMmPerS2.Min);
        Assert.Same(delivered, Moves(MoveRigs.Picker, delivered).Motion);
    }

    [Fact]
    public void The_wheel_is_found_before_the_track()
    {
        var rig = MoveRigs.Scrubber;
        var turn = TrialCatalogue.For(rig).First(p => p.Kind == TrialKind.Turn);
        Assert.Contains("wheel diameter first", Moves(rig).First(turn));
        Assert.Null(Moves(rig, null, ("Drive: straight", Accepted(54, 0.1))).First(turn));
        var bare = rig with { Mechanisms = [rig.Mechanisms[0] with { WheelDiameterMm = null }] };
        Assert.Contains("how large the wheels are", Moves(bare).Missing(TrialCatalogue.For(bare).First(p => p.Kind == TrialKind.Turn)));
    }

    // ---- numbers that follow ----

    [Fact]
    public void A_quarter_turn_and_a_way_to_rest_worked_by_hand()
    {
        var rig = MoveRigs.Scrubber;
        var moves = Moves(
            rig,
            null,
            ("Drive: straight", new(56, 0.14, 0.28, 5, 0, null, 0, 0)),
            ("Drive: turn", new(120, 0.6, 1.2, 5, 0, null, 0, 0)),
            ("Drive: brake", new(900, 20, 60, 5, 0, null, 0, 0))
        );
        var numbers = MoveNumbers
            .Of(rig.Mechanisms[0], rig.Actuators[0], moves.Plans, moves.InUse, moves.Second, moves.At("Drive"))
            .ToDictionary(n => n.Name);
        var quarter = numbers["motor degrees for a quarter turn"].Number!;
        Assert.Equal(90 * 120 / 56.0, quarter.Value, 9);
        Assert.Equal(quarter.Value * Math.Sqrt(0.0025 * 0.0025 + 0.005 * 0.005), quarter.MeanSd, 9);
        Assert.Equal(Provenance.Calculated, quarter.Kind);
        // 150 mm/s: 150 × 0.04 s and 150²/1800.
        Assert.Equal(6 + 12.5, numbers["way to rest from 150 mm/s, braked"].Number!.Value, 9);
        Assert.Null(numbers["coasting"].Number);
        Assert.Equal("Drive: coast", numbers["coasting"].Trial);
    }

    [Fact]
    public void A_plain_motor_slows_with_its_pack()
    {
        var rig = MoveRigs.Trolley;
        var moves = Moves(rig, MoveRigs.Rolls());
        var numbers = MoveNumbers
            .Of(rig.Mechanisms[0], rig.Actuators[0], moves.Plans, moves.InUse, moves.Second, moves.At("Trolley"))
            .ToDictionary(n => n.Name);
        var (fresh, used) = (numbers["speed at 40 % on a charged pack"], numbers["speed at 40 % on a used pack"]);
        Assert.True(used.Number!.Value < 0.8 * fresh.Number!.Value, "least power makes it fall by more than the voltage");
        Assert.Contains("slower than when charged", used.Why);
    }

    // ---- ends ----

    private static AxisAdvice Axis(string name, double speed = 300)
    {
        var design = MoveRigs.Picker;
        var m = design.Mechanisms.First(x => x.Name == name);
        return MoveNumbers.Axis(m, design.Actuators.First(a => a.Name == m.Motor), [], speed)!;
    }

    [Fact]
    public void Jaws_are_closed_short_of_their_centre_and_never_blindly()
    {
        var jaws = Axis("Jaws");
        // Over centre at 162 ± 3: two spreads short of it.
        Assert.Equal(156, jaws.SafeTo, 6);
        Assert.Equal(1.5 * 185 / 300 + 0.2, jaws.GiveUpAfterS!.Value, 6);
        Assert.Contains(jaws.Says, s => s.Contains("goes over centre"));
        Assert.Contains(jaws.Says, s => s.Contains("a close never ends by itself"));
        var m = MoveRigs.Picker.Mechanisms.First(x => x.Name == "Jaws");
        Assert.Equal(Grade.Solid, MoveNumbers.Judge(jaws, 150, m).Grade);
        Assert.Equal(Grade.Fragile, MoveNumbers.Judge(jaws, 159, m).Grade);
        Assert.Contains("driven on, it comes back", MoveNumbers.Judge(jaws, 165, m).Say);
    }

    [Fact]
    public void A_mast_that_comes_apart_is_said_to()
    {
        var mast = Axis("Mast");
        Assert.Equal("from", mast.Home);
        Assert.Contains(mast.Says, s => s.Contains("comes apart"));
        Assert.Contains(mast.Says, s => s.Contains("Foot switch tells the near end"));
        Assert.Contains("20 motor deg past its end: it comes apart", MoveNumbers.Judge(mast, 1660, MoveRigs.Picker.Mechanisms[1]).Say);
    }

    [Fact]
    public void A_servo_never_says_that_it_is_done()
    {
        var arm = Axis("Arm");
        Assert.Null(arm.GiveUpAfterS);
        Assert.Equal("deg", arm.Unit);
        Assert.Contains(arm.Says, s => s.Contains("estimate of time"));
    }

    [Fact]
    public void Ends_that_are_only_guessed_leave_nothing_safe()
    {
        var m = new Mechanism("Gate", MechanismKind.Lid, ["Motor"])
        {
            Travel = new(
                new(0, "motor deg", Provenance.Guessed, "", 0, 0, 400, -1e6),
                new(200, "motor deg", Provenance.Guessed, "", 0, 0, 400)
            ),
        };
        var axis = MoveNumbers.Axis(m, new("Motor", ActuatorKind.RegulatedMotor), [], 300)!;
        Assert.True(axis.SafeTo < axis.SafeFrom);
        Assert.Contains(axis.Says, s => s.Contains("nothing between them is safe yet"));
    }

    [Theory]
    [InlineData(0, 185, "driven on to close, it begins to open again")]
    [InlineData(185, 0, "driven on to open, it begins to close again")]
    public void Going_over_centre_is_said_in_its_own_directions(double from, double to, string says)
    {
        Quantity At(double v) => new(v, "motor deg", Provenance.Measured, "by hand", 1, 1, 0, double.MinValue);
        var jaws = new Mechanism("Jaws", MechanismKind.Gripper, ["Motor"])
        {
            Travel = new(At(from), At(to), PastEnd: PastEnd.OverCentre, OverCentre: At(162)),
            Directions = [new("close", true), new("open", false)],
        };
        Assert.Equal(says, jaws.OverTheCentre);
        Assert.Equal("driven on, it comes back", (jaws with { Directions = [] }).OverTheCentre);
    }

    [Fact]
    public void A_servo_is_never_run_against_a_stop()
    {
        Quantity At(double v) => new(v, "deg", Provenance.Measured, "by hand", 1, 1, 0, double.MinValue);
        var flap = new Mechanism("Flap", MechanismKind.Lid, ["Servo"]) { Travel = new(At(0), At(90)) };
        string[] Says(ActuatorKind kind) => [.. MoveNumbers.Axis(flap, new Actuator("Servo", kind), [], 200)!.Says];
        Assert.DoesNotContain(Says(ActuatorKind.Servo), s => s.Contains("Run it slowly against"));
        Assert.Contains(Says(ActuatorKind.Servo), s => s.Contains("never run against a stop"));
        Assert.Contains(Says(ActuatorKind.RegulatedMotor), s => s.Contains("Run it slowly against"));
    }
}
