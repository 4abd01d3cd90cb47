namespace Chiton.Core.Tests.Rigs;

public class PortAssignmentTests
{
    private static Plug Motor(string name) => new(name, [new("drive", PortUse.MotorOut)]);

    private static Plug Eye(string name, double gives = 5) => new(name, [new("signal", PortUse.AnalogueIn, gives)]);

    private static Plug Sounder(string name) => new(name, [new("trigger", PortUse.DigitalOut), new("echo", PortUse.DigitalIn, 5)]);

    private static Controller Make(string template, string name = "Deck box") =>
        ControllerTemplates.All.First(t => t.Template == template).Make(name);

    [Fact]
    public void Every_device_gets_a_place_that_can_serve_it()
    {
        var box = Make("four and four");
        var plan = PortAssignment.Assign([box], [Motor("Trolley"), Eye("Tag eye"), Motor("Winch")]);
        Assert.Empty(plan.Unplaced);
        Assert.Equal(["motor 1", "sensor 1", "motor 2"], plan.Wires.Select(w => w.Port));
        Assert.Empty(PortAssignment.Check([box], [Motor("Trolley"), Eye("Tag eye"), Motor("Winch")], plan.Wires));
    }

    [Fact]
    public void An_able_port_is_not_spent_on_a_device_that_any_port_can_serve()
    {
        // One PWM pin, one plain pin: the lamp must leave the PWM pin to the servo, whatever the order.
        var board = new Controller("Board", [new("a", PortUse.DigitalOut | PortUse.PwmOut), new("b", PortUse.DigitalOut)]);
        var plan = PortAssignment.Assign(
            [board],
            [new("Lamp", [new("light", PortUse.DigitalOut)]), new("Servo", [new("pulse", PortUse.PwmOut)])]
        );
        Assert.Empty(plan.Unplaced);
        Assert.Equal([("Lamp", "b"), ("Servo", "a")], plan.Wires.Select(w => (w.Device, w.Port)));
    }

    [Fact]
    public void What_has_no_place_says_why_in_one_sentence_a_controller()
    {
        var plan = PortAssignment.Assign(
            [Make("pin board", "Board"), Make("rail vehicle", "Trolley box")],
            [Motor("A"), Motor("B"), Motor("C")]
        );
        var left = Assert.Single(plan.Unplaced);
        Assert.Equal(2, left.Reasons.Count);
        Assert.Equal("Board has no port that can drive a motor, which the lead “drive” needs.", left.Reasons[0]);
        Assert.Matches("^The 2 ports of Trolley box that could serve it are taken by [ABC], [ABC]\\.$", left.Reasons[1]);
    }

    [Fact]
    public void A_signal_too_high_for_its_pin_is_no_place()
    {
        var plan = PortAssignment.Assign([Make("small board", "Post")], [Eye("Probe", 5)]);
        Assert.Contains(
            "it gives 5 V and edge 0 stands 3.6 V: put a divider or a level shifter between them",
            Assert.Single(Assert.Single(plan.Unplaced).Reasons)
        );
        Assert.Empty(PortAssignment.Assign([Make("small board", "Post")], [Eye("Probe", 3.3)]).Unplaced);
    }

    [Fact]
    public void All_leads_of_a_device_are_on_one_controller()
    {
        var a = new Controller("A", [new("1", PortUse.DigitalOut), new("2", PortUse.DigitalOut)]);
        var b = new Controller("B", [new("1", PortUse.DigitalIn), new("2", PortUse.DigitalIn)]);
        Assert.Single(PortAssignment.Assign([a, b], [Sounder("Range")]).Unplaced);
        var both = new Controller("C", [new("1", PortUse.DigitalIn), new("2", PortUse.DigitalOut)]);
        Assert.Equal(["C", "C"], PortAssignment.Assign([a, b, both], [Sounder("Range")]).Wires.Select(w => w.Controller));
    }

    [Fact]
    public void Wires_that_are_fixed_stay_and_the_rest_goes_round_them()
    {
        var box = Make("four and four");
        var plan = PortAssignment.Assign([box], [Motor("Trolley"), Motor("Winch")], [new("Winch", "drive", "Deck box", "motor 1")]);
        Assert.Equal([("Winch", "motor 1"), ("Trolley", "motor 2")], plan.Wires.Select(w => (w.Device, w.Port)));
    }

    [Fact]
    public void Every_fault_of_wires_run_by_hand_is_explained()
    {
        var board = Make("pin board", "Board");
        Plug[] plugs =
        [
            Eye("Probe"),
            Sounder("Range"),
            new("Servo", [new("pulse", PortUse.PwmOut)]),
            new("Strong", [new("signal", PortUse.DigitalIn, 9)]),
        ];
        var faults = PortAssignment.Check(
            [board],
            plugs,
            [
                new("Probe", "signal", "Board", "pin 2"),
                new("Range", "trigger", "Board", "pin 4"),
                new("Range", "echo", "Board", "pin 4"),
                new("Servo", "pulse", "Board", "pin 40"),
                new("Strong", "signal", "Board", "pin 7"),
            ]
        );
        Assert.Equal(["wiring-clash", "wiring-kind", "wiring-missing", "wiring-level"], faults.Select(f => f.Code));
        Assert.Contains("pin 2 of Board cannot read a voltage, which Probe needs", faults[1].Say);
        Assert.Contains("9 V and pin 7 stands 5.5 V", faults[3].Say);
        Assert.Contains(PortAssignment.Check([board], [Eye("Probe")], []), f => f is { Code: "wiring-missing", Controller: null });
    }

    // ---- against brute force ----

    private static readonly PortUse[] Uses = [PortUse.MotorOut, PortUse.AnalogueIn, PortUse.DigitalOut, PortUse.DigitalIn, PortUse.PwmOut];

    private static readonly Gen<PortUse> GenUse = Gen.Int[1, 31]
        .Select(bits => (PortUse)Enumerable.Range(0, 5).Where(i => (bits >> i & 1) == 1).Sum(i => (int)Uses[i]));
    private static readonly Gen<PortUse> GenNeed = Gen.Select(Gen.Int[0, 4], Gen.Int[0, 4], (a, b) => Uses[a] | Uses[b]);
    private static readonly Gen<Controller[]> GenControllers = GenUse
        .Array[1, 3]
        .Array[1, 2]
        .Select(all => all.Select((ports, c) => new Controller($"C{c}", [.. ports.Select((u, i) => new Port($"p{i}", u))])).ToArray());
    private static readonly Gen<Plug[]> GenPlugs = GenNeed
        .Array[1, 2]
        .Array[1, 4]
        .Select(all => all.Select((leads, d) => new Plug($"D{d}", [.. leads.Select((u, i) => new Lead($"l{i}", u))])).ToArray());

    // Tries everything: for each device no place, or every choice of distinct free ports of one controller.
    private static int Most(Controller[] controllers, Plug[] plugs, int at, HashSet<(string, string)> used)
    {
        if (at == plugs.Length)
            return 0;
        var best = Most(controllers, plugs, at + 1, used);
        foreach (var c in controllers)
        {
            void Leads(int lead)
            {
                if (lead == plugs[at].Leads.Count)
                {
                    best = Math.Max(best, 1 + Most(controllers, plugs, at + 1, used));
                    return;
                }
                foreach (var p in c.Ports.Where(p => (p.Can & plugs[at].Leads[lead].AnyOf) != 0))
                    if (used.Add((c.Name, p.Name)))
                    {
                        Leads(lead + 1);
                        used.Remove((c.Name, p.Name));
                    }
            }
            Leads(0);
        }
        return best;
    }

    [Fact]
    public void As_many_devices_are_served_as_brute_force_can_and_no_port_twice() =>
        Gen.Select(GenControllers, GenPlugs)
            .Sample(
                (controllers, plugs) =>
                {
                    var plan = PortAssignment.Assign(controllers, plugs);
                    Assert.Equal(plan.Wires.Count, plan.Wires.Select(w => (w.Controller, w.Port)).Distinct().Count());
                    var served = plugs.Where(p => plan.Unplaced.All(u => u.Device != p.Name)).ToArray();
                    Assert.Empty(PortAssignment.Check(controllers, served, plan.Wires));
                    Assert.All(served, p => Assert.Single(plan.Wires.Where(w => w.Device == p.Name).Select(w => w.Controller).Distinct()));
                    Assert.Equal(Most(controllers, plugs, 0, []), served.Length);
                    Assert.All(plan.Unplaced, u => Assert.NotEmpty(u.Reasons));
                },
                iter: 1500
            );

    [Fact]
    public void Three_controllers_and_forty_devices_are_assigned()
    {
        Controller[] controllers = [Make("pin board", "A"), Make("pin board", "B"), Make("six sockets", "C")];
        Plug[] plugs =
        [
            .. Enumerable.Range(0, 12).Select(i => Sounder($"Range {i}")),
            .. Enumerable.Range(0, 10).Select(i => Eye($"Eye {i}")),
            .. Enumerable.Range(0, 8).Select(i => new Plug($"Servo {i}", [new("pulse", PortUse.PwmOut)])),
            .. Enumerable.Range(0, 10).Select(i => Motor($"Motor {i}")),
        ];
        var plan = PortAssignment.Assign(controllers, plugs);
        // Six sockets serve at most six motors; the other four are named.
        Assert.Equal(4, plan.Unplaced.Count(u => u.Device.StartsWith("Motor")));
        Assert.Equal(plan.Wires.Count, plan.Wires.Select(w => (w.Controller, w.Port)).Distinct().Count());
    }
}
