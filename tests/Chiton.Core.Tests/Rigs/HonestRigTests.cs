using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Tests.Rigs;

/// <summary>What a rig is told of itself: what is past its stop, not linked, kept free, or fed too weakly.</summary>
public class HonestRigTests
{
    private static Quantity Q(double value, string unit, double sd = 0) => new(value, unit, Provenance.Measured, "by hand", sd);

    private static RigDesign Mast(PastEnd past, ActuatorKind motor = ActuatorKind.RegulatedMotor) =>
        new("Hoist", "Farm", [ControllerTemplates.Make("six sockets", "Box")], [], [new("Winder", motor)])
        {
            Mechanisms =
            [
                new("Mast", MechanismKind.Lift, ["Winder"])
                {
                    Travel = new(
                        Q(0, motor == ActuatorKind.Servo ? "deg" : "motor deg", 2),
                        Q(motor == ActuatorKind.Servo ? 90 : 820, motor == ActuatorKind.Servo ? "deg" : "motor deg", 5),
                        PastEnd: past
                    ),
                    Directions = [new("up", true), new("down", false)],
                },
            ],
        };

    private static IReadOnlyList<Finding> Find(RigDesign rig, string sentence)
    {
        var parsed = ScriptParser.Parse(
            $"program Lift\n\nvar far = 900 motor deg\n\nregion Main\n  state One, initial\n    on entry: {sentence}\n",
            Vocabulary.For(rig, rig.Program)
        );
        Assert.Empty(parsed.Diagnostics);
        return RigFindings.Find(rig, new([], null, ""), parsed.Program);
    }

    [Theory]
    [InlineData("run Mast up 900 motor deg at 30 %", PastEnd.Stalls, Severity.Risky)]
    [InlineData("run Mast up 900 motor deg at 30 %", PastEnd.ComesApart, Severity.Stops)]
    [InlineData("run Winder 900 motor deg at 30 %", PastEnd.Stalls, Severity.Risky)]
    [InlineData("run Mast up far at 30 %", PastEnd.Stalls, Severity.Risky)]
    [InlineData("repeat 2 times: run Mast up 860 motor deg at 30 %", PastEnd.OverCentre, Severity.Risky)]
    public void A_move_longer_than_the_whole_travel_is_found(string sentence, PastEnd past, Severity severity)
    {
        var found = Assert.Single(Find(Mast(past), sentence), f => f.Code == "past-stop");
        Assert.Equal(severity, found.Severity);
        Assert.Equal("Mast is driven past its stop", found.Headline);
        Assert.Contains("0 to 820 motor deg", found.Say);
    }

    [Theory]
    [InlineData("run Mast up 820 motor deg at 30 %")]
    // Within twice what both ends are known by.
    [InlineData("run Mast up 830 motor deg at 30 %")]
    [InlineData("run Mast up at 30 %")]
    public void A_move_that_may_lie_within_is_not(string sentence) =>
        Assert.DoesNotContain(Find(Mast(PastEnd.Stalls), sentence), f => f.Code == "past-stop");

    [Fact]
    public void What_goes_on_past_its_end_is_not() =>
        Assert.DoesNotContain(Find(Mast(PastEnd.GoesOn), "run Mast up 900 motor deg at 30 %"), f => f.Code == "past-stop");

    [Theory]
    [InlineData(89, false)]
    [InlineData(120, true)]
    public void A_servo_is_not_set_beyond_its_ends(double angle, bool past) =>
        Assert.Equal(past, Find(Mast(PastEnd.Stalls, ActuatorKind.Servo), $"set Winder to {angle} deg").Any(f => f.Code == "past-stop"));

    [Fact]
    public void A_strip_that_is_linked_to_nothing_is_named_with_its_cure()
    {
        var rig = RigTemplates.Make("pin board with probe and servo", "Tank");
        Assert.DoesNotContain(Body.Notes(rig), n => n.Device == "Rails");
        var bare = Assert.Single(Body.Notes(rig with { Links = [] }), n => n.Device == "Rails");
        Assert.True(bare.Attention);
        Assert.Contains("plus rail and minus rail of Rails are linked to nothing", bare.Say);
        Assert.Contains("minus rail to the controller's ground", bare.Say);
        var half = Assert.Single(Body.Notes(rig with { Links = [rig.Links[0]] }), n => n.Device == "Rails");
        Assert.Contains("plus rail of Rails is linked to nothing", half.Say);
    }

    [Fact]
    public void Ports_that_are_kept_free_stay_free_and_a_lead_there_is_named()
    {
        var rig = RigTemplates.Make("pin board with probe and servo", "Tank");
        var board = rig.Controllers[0];
        Assert.Equal(["pin 0", "pin 1"], board.Ports.Where(p => p.KeptFree is not null).Select(p => p.Name));
        var lamps = Enumerable.Range(1, 14).Select(i => new Plug($"lamp {i}", [new Lead("light", PortUse.DigitalOut)])).ToArray();
        // Eighteen pins can light a lamp, and all but the two that are kept free are used first.
        var plan = PortAssignment.Assign([board], [.. lamps, .. lamps.Take(5).Select(l => l with { Name = l.Name + " again" })]);
        Assert.DoesNotContain(plan.Wires, w => w.Port is "pin 0" or "pin 1");
        Assert.Single(plan.Unplaced);
        var fault = Assert.Single(
            PortAssignment.Check([board], lamps[..1], [new("lamp 1", "light", board.Name, "pin 1")]),
            f => f.Code == "wiring-kept"
        );
        Assert.Contains("the programming link shares it", fault.Say);
        // Whoever lets it be used may.
        var open = board with
        {
            Ports = board.Ports.Select(p => p with { KeptFree = null }).ToSequence(),
        };
        Assert.Empty(PortAssignment.Check([open], lamps[..1], [new("lamp 1", "light", board.Name, "pin 1")]));
    }

    [Fact]
    public void A_stepper_with_four_phases_takes_four_pins()
    {
        var stepper = new Actuator("Turntable", ActuatorKind.Stepper) { Connection = Connection.Pins };
        Assert.Equal(["step", "direction", "supply", "ground"], stepper.Leads.Select(l => l.Name));
        var phases = stepper with { Phases = true };
        Assert.Equal(["phase 1", "phase 2", "phase 3", "phase 4", "supply", "ground"], phases.Leads.Select(l => l.Name));
        Assert.Equal("stepper, four phases", phases.About);
        var rig = new RigDesign("Table", "", [ControllerTemplates.Make("pin board", "Board")], [], [phases]);
        var plan = PortAssignment.Assign(rig.Controllers.ToArray(), rig.Plugs.ToArray());
        Assert.Empty(plan.Unplaced);
        Assert.Equal(6, plan.Wires.Count);
    }

    [Fact]
    public void A_small_pack_that_sags_below_what_a_device_needs_is_said()
    {
        PowerBudgetInput With(double capacity, double perCell = 1.5) =>
            new(4, perCell, capacity, null, 50, 400, 5, [new("Drain", 1, 4.8, 6.2, 8, 200, 650, 0.1, "pack")]);
        // 4 × 0.15 Ω × 2000/600 = 2 Ω; at 0.7 A the 6 V pack gives 4.6 V.
        Assert.Equal(2, PowerBudget.InnerOhm(4, 1.5, 600), 9);
        var weak = PowerBudget.Compute(With(600));
        Assert.Empty(weak.Result.Issues);
        Assert.Contains(weak.Cautions, c => c.Contains("sags to about 4.6 V") && c.Contains("Drain needs 4.8 V"));
        Assert.DoesNotContain(PowerBudget.Compute(With(2400)).Cautions, c => c.Contains("sags"));
        // Below by any margin at rest is an issue, and no caution.
        var below = PowerBudget.Compute(With(2400, 1.199));
        Assert.Equal("under-voltage", Assert.Single(below.Result.Issues).Kind);
    }

    [Fact]
    public void What_the_design_says_of_voltages_is_filled_in_and_faults_are_named_in_words()
    {
        var rig = RigTemplates.Make("pin board with probe and servo", "Tank") with { Power = null };
        var input = PowerFill.Of(rig);
        Assert.Equal((4.8, 6.2), (input.Devices!.First(d => d.Name == "Drain").MinV, input.Devices!.First(d => d.Name == "Drain").MaxV));
        Assert.Equal(5, input.ControllerOutputV);
        var missing = Assert.Throws<InputProblem>(() => PowerBudget.Compute(input)).Errors;
        foreach (var (field, say) in missing)
            Assert.DoesNotMatch("[a-z][A-Z]|\\[", $"{PowerFill.Words(input, field)}: {say}");
        Assert.Equal("Drain, current while stalled", PowerFill.Words(input, "devices[1].stallMA"));
    }

    [Fact]
    public void Nothing_is_said_of_room_for_turning_without_an_outline()
    {
        var drive = RigTemplates.Make("two-wheel drive", "Drive");
        Assert.Contains(Body.Notes(drive), n => n.Say.Contains("sweeps a circle"));
        Assert.DoesNotContain(Body.Notes(drive with { Outline = [] }), n => n.Say.Contains("sweeps"));
    }
}
