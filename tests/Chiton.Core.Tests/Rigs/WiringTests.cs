namespace Chiton.Core.Tests.Rigs;

public class WiringTests
{
    private static RigDesign Tank => RigTemplates.Make("pin board with probe and servo", "Tank");

    private static RigDesign Assigned(RigDesign rig) =>
        rig with
        {
            Wires = PortAssignment.Assign(rig.Controllers.ToArray(), rig.Plugs, null, rig.Links.ToArray()).Wires.ToSequence(),
        };

    [Fact]
    public void Supply_comes_from_where_it_is_to_come_from_and_ground_is_common()
    {
        var rig = Assigned(Tank);
        Assert.Empty(rig.WiringFaults());
        Assert.Equal(("Rails", "plus rail"), Where(rig, "Drain", "supply"));
        Assert.Equal(("Board", "5 V"), Where(rig, "Probe", "supply"));
        var grounds = PortAssignment.CommonGrounds(rig.Controllers.ToArray(), rig.Links.ToArray());
        Assert.Single(grounds);
    }

    private static (string, string) Where(RigDesign rig, string device, string lead) =>
        rig.Wires.Where(w => w.Device == device && w.Lead == lead).Select(w => (w.Controller, w.Port)).Single();

    [Fact]
    public void Without_the_link_of_grounds_the_signal_means_nothing()
    {
        var rig = Assigned(Tank);
        var cut = rig with
        {
            Links = [.. rig.Links.Where(l => l.FromController != "Board")],
            Wires = [.. rig.Wires.Where(w => w is not { Device: "Drain", Lead: "ground" }), new("Drain", "ground", "Rails", "minus rail")],
        };
        Assert.Contains(cut.WiringFaults(), f => f is { Code: "wiring-ground", Device: "Drain" } && f.Say.Contains("link the two grounds"));
    }

    [Fact]
    public void Supply_joined_to_ground_or_two_supplies_joined_are_a_short_circuit()
    {
        var rig = Assigned(Tank);
        Assert.Contains(
            (rig with { Links = [.. rig.Links, new("Rails", "plus rail", "Board", "ground")] }).WiringFaults(),
            f => f.Code == "wiring-short" && f.Say.Contains("short circuit")
        );
        Assert.Contains(
            (rig with { Links = [.. rig.Links, new("Board", "5 V", "Rails", "plus rail")] }).WiringFaults(),
            f => f.Code == "wiring-short" && f.Say.Contains("5 and 6 V")
        );
        Assert.Contains((rig with { Links = [new("Board", "pin 2", "Rails", "plus rail")] }).WiringFaults(), f => f.Code == "wiring-short");
        Assert.Contains(
            (rig with { Links = [new("Board", "pin 99", "Rails", "plus rail")] }).WiringFaults(),
            f => f.Code == "wiring-missing"
        );
    }

    [Fact]
    public void A_strip_that_nothing_feeds_feeds_nothing()
    {
        var rig = Tank with { Links = [Tank.Links[0]] };
        var plan = PortAssignment.Assign(rig.Controllers.ToArray(), [rig.Plugs.First(p => p.Name == "Drain")], null, rig.Links.ToArray());
        Assert.DoesNotContain(plan.Wires, w => w is { Lead: "supply", Controller: "Rails" });
    }

    [Fact]
    public void A_pin_that_holds_three_leads_takes_three_and_the_fourth_is_named()
    {
        var board = ControllerTemplates.Make("pin board", "Board");
        Plug Lamp(int i) => new($"Lamp {i}", [new("light", PortUse.DigitalOut), new("ground", PortUse.Ground)]);
        var plan = PortAssignment.Assign([board], [.. Enumerable.Range(1, 4).Select(Lamp)]);
        Assert.Equal(3, plan.Wires.Count(w => w.Port == "ground"));
        Assert.Single(plan.Unplaced);
        var faults = PortAssignment.Check(
            [board],
            [.. Enumerable.Range(1, 4).Select(Lamp)],
            [
                .. Enumerable
                    .Range(1, 4)
                    .SelectMany(i =>
                        new Wire[] { new($"Lamp {i}", "light", "Board", $"pin {i + 1}"), new($"Lamp {i}", "ground", "Board", "ground") }
                    ),
            ]
        );
        Assert.Contains("ground of Board holds 3 leads and 4 run there", Assert.Single(faults).Say);
    }

    [Fact]
    public void A_divider_or_a_shifter_cures_a_signal_that_is_too_high()
    {
        var post = ControllerTemplates.Make("small board", "Post");
        Plug probe = new("Probe", [new("signal", PortUse.AnalogueIn, 5)]);
        Wire bare = new("Probe", "signal", "Post", "edge 0");
        Assert.Equal("wiring-level", Assert.Single(PortAssignment.Check([post], [probe], [bare])).Code);
        Assert.Empty(PortAssignment.Check([post], [probe], [bare with { Via = Between.Divider }]));
        Assert.Empty(PortAssignment.Check([post], [probe], [bare with { Via = Between.LevelShifter }]));
    }

    [Fact]
    public void The_table_counts_leads_by_their_ends_and_compares_them_with_those_at_hand()
    {
        var rig = Assigned(Tank) with { LeadsAtHand = [new(LeadEnd.Socket, LeadEnd.Plug, 5)] };
        var table = WiringTable.Of(rig);
        Assert.Equal(rig.Plugs.Sum(p => p.Leads.Count) + rig.Links.Count, table.Rows.Count);
        // Nine device leads from pins to holes, whichever way round they are counted.
        var sockets = table.Leads.Single(l => l.Type == "plug to socket");
        Assert.Equal((9, 5), (sockets.Needed, sockets.AtHand));
        Assert.Equal("4 leads plug to socket short: find them before class.", sockets.Say);
        Assert.Equal(2, table.Leads.Single(l => l.Type == "plug to bare").Needed);
        Assert.Equal("red", table.Rows.First(r => r.Pin == "supply").Colour);
        Assert.Equal("black", table.Rows.First(r => r.Pin == "ground").Colour);
        Assert.Contains("One common ground: ground of Board, minus rail of Rails, minus of Pack.", table.Grounds);
    }

    [Fact]
    public void A_cable_that_fits_needs_no_lead_and_one_that_does_not_says_which()
    {
        var rig = RigTemplates.Make("two-wheel drive", "Rover");
        Assert.All(WiringTable.Of(Assigned(rig)).Rows, r => Assert.Null(r.LeadType));
        Assert.All(WiringTable.Of(rig).Rows, r => Assert.Null(r.Controller));
        var cableOnPins = new RigDesign(
            "R",
            "",
            [ControllerTemplates.Make("pin board", "B")],
            [new Sensor("Bump", SensorKind.Touch, 10, 0, ["up", "down"])],
            []
        )
        {
            Wires = [new("Bump", "signal", "B", "pin 2")],
        };
        Assert.Equal("cable to plug", WiringTable.Of(cableOnPins).Rows[0].LeadType);
    }

    [Fact]
    public void Currents_run_through_the_socket_of_a_cable_and_through_the_supply_of_pins()
    {
        var currents = WiringTable.Currents(Assigned(Tank));
        Assert.Equal(200, currents["Rails, plus rail"]);
        Assert.Equal(25, currents.Where(c => c.Key.StartsWith("Board", StringComparison.Ordinal)).Sum(c => c.Value));
    }

    // ---- the assignment with supply and ground, against brute force ----

    private static readonly Gen<(Controller[] Nodes, Plug[] Plugs)> Small = Gen.Select(
            Gen.Int[1, 3],
            Gen.Int[1, 2],
            Gen.Int[1, 2],
            Gen.Bool,
            Gen.Int[1, 3]
        )
        .Select(
            (pins, supply, ground, strip, devices) =>
            {
                var board = new Controller(
                    "B",
                    [
                        .. Enumerable.Range(0, pins).Select(i => new Port($"p{i}", PortUse.DigitalOut)),
                        new("5 V", PortUse.Supply, null, null, 5) { Holds = supply },
                        new("gnd", PortUse.Ground) { Holds = ground },
                    ]
                );
                Controller[] nodes = strip
                    ?
                    [
                        board,
                        new Controller(
                            "S",
                            [new("plus", PortUse.Supply, null, null, 5) { Holds = 1 }, new("minus", PortUse.Ground) { Holds = 1 }]
                        )
                        {
                            Role = NodeRole.Pack,
                        },
                    ]
                    : [board];
                return (
                    nodes,
                    Enumerable
                        .Range(0, devices)
                        .Select(i => new Plug(
                            $"D{i}",
                            [new("light", PortUse.DigitalOut), new("supply", PortUse.Supply), new("ground", PortUse.Ground)]
                        ))
                        .ToArray()
                );
            }
        );

    [Fact]
    public void With_supply_and_ground_as_many_are_served_as_can_be() =>
        Small.Sample(
            test =>
            {
                Link[] links = test.Nodes.Length > 1 ? [new("B", "gnd", "S", "minus")] : [];
                var plan = PortAssignment.Assign(test.Nodes, test.Plugs, null, links);
                int Room(PortUse use) =>
                    test
                        .Nodes.SelectMany(n => n.Ports.Where(p => p.Can == use).Select(p => (n.Name, Port: p)))
                        .Sum(x =>
                            x.Port.Holds
                            - links.Count(l =>
                                (l.FromController, l.FromPort) == (x.Name, x.Port.Name)
                                || (l.ToController, l.ToPort) == (x.Name, x.Port.Name)
                            )
                        );
                // All devices are alike, so the scarcest of signal, supply and ground decides.
                var most = Math.Min(
                    test.Plugs.Length,
                    Math.Min(Room(PortUse.DigitalOut), Math.Min(Room(PortUse.Supply), Room(PortUse.Ground)))
                );
                Assert.Equal(test.Plugs.Length - most, plan.Unplaced.Count);
                var served = test.Plugs.Where(p => plan.Unplaced.All(u => u.Device != p.Name)).ToArray();
                Assert.Empty(PortAssignment.Check(test.Nodes, served, plan.Wires, links));
                Assert.All(plan.Unplaced, u => Assert.NotEmpty(u.Reasons));
            },
            iter: 400
        );
}

public class BodyTests
{
    private static readonly Corner[] Box = [new(70, -50), new(70, 50), new(-30, 50), new(-30, -50)];

    private static Sensor Range(double ahead, double right, Facing facing, double half = 10) =>
        new("Range", SensorKind.Distance, 30, 1, [])
        {
            Mount = new(FarmBench.Sure(ahead, "mm"), FarmBench.Sure(right, "mm"), null, facing),
            BeamHalfAngleDeg = FarmBench.Sure(half, "°"),
            ReachMm = FarmBench.Sure(2000, "mm"),
        };

    private static RigDesign Rig(Sensor s) =>
        RigTemplates.Make("two-wheel drive", "Rover") with
        {
            Sensors = [s],
            Outline = [.. Box],
            Wires = [],
        };

    [Fact]
    public void Turning_on_the_spot_sweeps_the_farthest_corner() =>
        Assert.Equal(Math.Sqrt(70 * 70 + 50 * 50), Body.TurningRadiusMm(Rig(Range(70, 0, Facing.Ahead)))!.Value, 9);

    [Fact]
    public void A_sensor_behind_the_front_sees_its_own_body()
    {
        Assert.Equal(30, Body.SeesItselfAtMm(Rig(Range(40, 0, Facing.Ahead, 0)), Range(40, 0, Facing.Ahead, 0))!.Value, 9);
        Assert.Null(Body.SeesItselfAtMm(Rig(Range(75, 0, Facing.Ahead, 0)), Range(75, 0, Facing.Ahead, 0)));
        Assert.Equal(10, Body.SeesItselfAtMm(Rig(Range(0, 40, Facing.Right, 0)), Range(0, 40, Facing.Right, 0))!.Value, 9);
        Assert.Null(Body.SeesItselfAtMm(Rig(Range(40, 0, Facing.Down)), Range(40, 0, Facing.Down)));
        Assert.Contains(
            Body.Notes(Rig(Range(40, 0, Facing.Ahead))),
            n => n.Attention && n.Say.Contains("sees the rig's own body 30 mm away")
        );
    }

    [Fact]
    public void A_wide_beam_sees_what_a_narrow_one_misses()
    {
        // Beside the body and looking ahead: only the edge of a wide beam meets the side wall.
        Corner[] notch = [new(100, 0), new(100, 60), new(-30, 60), new(-30, 0)];
        var rig = Rig(Range(0, -10, Facing.Ahead, 20)) with { Outline = [.. notch] };
        Assert.Null(Body.SeesItselfAtMm(rig, Range(0, -10, Facing.Ahead, 0)));
        Assert.Equal(10 / Math.Sin(20 * Math.PI / 180), Body.SeesItselfAtMm(rig, Range(0, -10, Facing.Ahead, 20))!.Value, 6);
    }

    [Fact]
    public void What_to_beware_of_follows_from_what_is_there_and_defers()
    {
        Assert.Empty(Body.Cautions(RigTemplates.Make("nothing yet", "N")));
        var tank = Body.Cautions(RigTemplates.Make("pin board with probe and servo", "T"));
        Assert.Contains(tank, c => c.StartsWith("Water near electricity"));
        Assert.Contains(tank, c => c.StartsWith("Parts that close"));
        Assert.Contains(tank, c => c.Contains("polarity of the pack"));
        Assert.Contains("a licensed person does mains work", tank[^1]);
        Assert.DoesNotContain(Body.Cautions(RigTemplates.Make("gripper", "G")), c => c.StartsWith("Water"));
    }

    [Fact]
    public void Ends_that_matter_are_pointed_out()
    {
        var jaws = RigTemplates.Make("gripper", "Jaws");
        Assert.Contains(Body.Notes(jaws), n => n.Say.Contains("has no home sensor") && !n.Attention);
        Assert.Contains(Body.Notes(jaws), n => n.Say.Contains("may jam: a load that slips sideways"));
        Mechanism Past(PastEnd end) =>
            jaws.Mechanisms[0] with
            {
                Travel = jaws.Mechanisms[0].Travel! with { PastEnd = end, OverCentre = FarmBench.Sure(160, "motor deg") },
            };
        Assert.Contains(
            Body.Notes(jaws with { Mechanisms = [Past(PastEnd.OverCentre)] }),
            n => n.Attention && n.Say.Contains("over centre at 160 motor deg")
        );
        Assert.Contains(
            Body.Notes(jaws with { Mechanisms = [Past(PastEnd.ComesApart)] }),
            n => n.Attention && n.Say.Contains("comes apart")
        );
    }
}
