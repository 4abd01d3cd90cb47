namespace Chiton.Core.Tests.Rigs;

public class RigRulesTests
{
    private static RigDesign Drive => RigTemplates.Make("two-wheel drive", "Rover");

    [Fact]
    public void Every_template_is_a_design_that_can_be_kept()
    {
        foreach (var (template, _, make) in RigTemplates.All)
        {
            RigRules.Check(make("Test rig"), "design");
            Assert.NotEmpty(template);
        }
        Assert.Throws<InputProblem>(() => RigTemplates.Make("submarine", "x"));
    }

    public static TheoryData<string, Func<RigDesign, RigDesign>> Wrong =>
        new()
        {
            { "name", r => r with { Name = "  " } },
            { "name", r => r with { Name = new string('a', 61) } },
            { "sensors[1].name", r => r with { Sensors = r.Sensors.With(1, r.Sensors[1] with { Name = "range" }) } },
            { "actuators[0].name", r => r with { Actuators = r.Actuators.With(0, r.Actuators[0] with { Name = "Range" }) } },
            { "sensors[0].name", r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { Name = "7 seas" }) } },
            { "sensors[0].samplePeriodMs", r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { SamplePeriodMs = 0 }) } },
            { "sensors[0].samplePeriodMs", r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { SamplePeriodMs = double.NaN }) } },
            {
                "sensors[0].zones[1]",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { Zones = ["near", "Near"], Bands = [] }) }
            },
            {
                "sensors[0].beamHalfAngleDeg.value",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { BeamHalfAngleDeg = FarmBench.Sure(-1, "°") }) }
            },
            {
                "sensors[0].beamHalfAngleDeg.value",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { BeamHalfAngleDeg = FarmBench.Sure(180, "°") }) }
            },
            {
                "sensors[0].reachMm",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { BlindMm = FarmBench.Sure(3000, "mm") }) }
            },
            {
                "sensors[0].bands[0].toMm",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { Bands = [new("near", 90, 40)] }) }
            },
            {
                "sensors[0].bands[0].zone",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { Bands = [new("deep", 40, 90)] }) }
            },
            {
                "sensors[0].bands[1].zone",
                r => r with { Sensors = r.Sensors.With(0, r.Sensors[0] with { Bands = [new("near", 40, 90), new("near", 90, 190)] }) }
            },
            { "sensors[1].on", r => r with { Sensors = r.Sensors.With(1, r.Sensors[1] with { On = "Winch" }) } },
            {
                "mechanisms[0].motors[1]",
                r => r with { Mechanisms = r.Mechanisms.With(0, r.Mechanisms[0] with { Motors = ["Left wheel", "Mast"] }) }
            },
            { "mechanisms[0].motors", r => r with { Mechanisms = r.Mechanisms.With(0, r.Mechanisms[0] with { Motors = ["Left wheel"] }) } },
            {
                "mechanisms[0].trackWidthMm.value",
                r => r with { Mechanisms = r.Mechanisms.With(0, r.Mechanisms[0] with { TrackWidthMm = FarmBench.Sure(0, "mm") }) }
            },
            {
                "mechanisms[0].travel.to",
                r =>
                    r with
                    {
                        Mechanisms = r.Mechanisms.With(0, r.Mechanisms[0] with { Travel = new(FarmBench.Sure(90), FarmBench.Sure(10)) }),
                    }
            },
            {
                "mechanisms[0].travel.homeSensor",
                r =>
                    r with
                    {
                        Mechanisms = r.Mechanisms.With(
                            0,
                            r.Mechanisms[0] with
                            {
                                Travel = new(FarmBench.Sure(0), FarmBench.Sure(10), HomeEnd.From),
                            }
                        ),
                    }
            },
            { "controllers[0].ports", r => r with { Controllers = [new("Box", [])] } },
            {
                "controllers[0].ports[1].name",
                r => r with { Controllers = [new("Box", [new("a", PortUse.DigitalIn), new("A", PortUse.DigitalIn)])] }
            },
            { "controllers[0].ports[0].can", r => r with { Controllers = [new("Box", [new("a", PortUse.None)])] } },
            {
                "wires[1]",
                r => r with { Wires = [new("Range", "signal", "Drive box", "front 1"), new("Range", "signal", "Drive box", "front 2")] }
            },
            { "outline", r => r with { Outline = [new(0, 0), new(1, 1)] } },
            { "starts[0].atMm", r => r with { Starts = [new("Robot", null!)] } },
            { "power.cells", r => r with { Power = new(0, 1.5, 1800, null, 100, 500, 5, []) } },
            {
                "power.devices[0].name",
                r => r with { Power = new(4, 1.5, 1800, null, 100, 500, 5, [new("Winch", 1, 3, 6, 0, 10, 10, 1, "pack")]) }
            },
            { "sensors[0]", r => r with { Sensors = [null!] } },
        };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void A_design_that_cannot_be_is_refused_naming_the_field(string field, Func<RigDesign, RigDesign> spoil)
    {
        RigRules.Check(Drive, "");
        var problem = Assert.Throws<InputProblem>(() => RigRules.Check(spoil(Drive), ""));
        Assert.Contains(field, problem.Errors.Keys);
        Assert.All(problem.Errors.Values, say => Assert.EndsWith(".", say));
        Assert.Contains("design." + field, Assert.Throws<InputProblem>(() => RigRules.Check(spoil(Drive), "design")).Errors.Keys);
    }

    [Fact]
    public void Every_fault_is_named_at_once()
    {
        var rig = Drive with { Name = "", Sensors = [Drive.Sensors[0] with { SamplePeriodMs = -1 }], Outline = [new(0, 0)] };
        Assert.Superset(
            new HashSet<string> { "name", "sensors[0].samplePeriodMs", "outline" },
            Assert.Throws<InputProblem>(() => RigRules.Check(rig, "")).Errors.Keys.ToHashSet()
        );
    }
}

public class RigEditsTests
{
    private const string Script = """
        program Test

        # Tag eye looks down.
        region Main
          state Rolling, initial
            while here: run Trolley at 50 %
            when Tag eye becomes bed tag: show "Tag eye"; stay
            when Tag eye two becomes bed tag: stay

        """;

    private static RigDesign Rig =>
        FarmBench.Rig(Script) with
        {
            Sensors = [FarmBench.Rig().Sensors[0], FarmBench.Rig().Sensors[0] with { Name = "Tag eye two", On = "Trolley" }],
            Wires = [new("Tag eye", "signal", "Deck box", "front 1"), new("Trolley", "drive", "Deck box", "back 1")],
            Power = new(4, 1.5, 1800, null, 100, 500, 5, [new("Tag eye", 1, 3, 6, 0, 10, 10, 1, "controller")]),
            Programs =
            [
                new(Script, [new("Rolling", "when Tag eye becomes bed tag: show \"Tag eye\"; stay", 0, Provenance.Guessed, "test")]),
            ],
        };

    [Fact]
    public void A_new_name_goes_everywhere_but_into_longer_names_words_and_comments()
    {
        var next = Renames.InRig(Rig, Renamed.Device, null, "Tag eye", "Bed eye");
        Assert.Equal(["Bed eye", "Tag eye two"], next.Sensors.Select(s => s.Name));
        Assert.Equal("Bed eye", next.Wires[0].Device);
        Assert.Equal("Bed eye", next.Power!.Devices[0].Name);
        Assert.Contains("when Bed eye becomes bed tag: show \"Tag eye\"; stay", next.Program.Script);
        Assert.Contains("when Tag eye two becomes", next.Program.Script);
        Assert.Contains("# Tag eye looks down.", next.Program.Script);
        Assert.StartsWith("when Bed eye becomes", next.Program.Marks[0].Line);
        var motor = Renames.InRig(Rig, Renamed.Device, null, "Trolley", "Wagon");
        Assert.Equal("Wagon", motor.Vehicle!.Motor);
        Assert.Equal("Wagon", motor.Sensors[1].On);
        Assert.Contains("run Wagon at 50 %", motor.Program.Script);
    }

    [Fact]
    public void There_and_back_is_the_same_design() =>
        Gen.Int[0, 2]
            .Select(i => new[] { "Tag eye", "Trolley", "Lamp" }[i])
            .Sample(name =>
                Assert.Equal(
                    Rig,
                    Renames.InRig(Renames.InRig(Rig, Renamed.Device, null, name, "Zebra"), Renamed.Device, null, "Zebra", name)
                )
            );

    [Fact]
    public void A_zone_is_renamed_on_its_sensor_on_the_rail_and_in_lines_of_its_sensor()
    {
        var next = Renames.InRig(Rig, Renamed.Zone, "Tag eye", "bed tag", "white bar");
        Assert.Equal(["sleepers", "white bar"], next.Sensors[0].Zones);
        Assert.Contains("bed tag", next.Sensors[1].Zones);
        Assert.All(next.Rail!.Markers, m => Assert.Equal("white bar", m.Surface));
        Assert.Contains("when Tag eye becomes white bar", next.Program.Script);
    }

    [Theory]
    [InlineData(Renamed.Device, null, "Winch", "X", "from")]
    [InlineData(Renamed.Device, null, "Lamp", "trolley", "to")]
    [InlineData(Renamed.Device, null, "Lamp", "9", "to")]
    [InlineData(Renamed.Zone, "Nobody", "bed tag", "X", "of")]
    [InlineData(Renamed.Zone, "Tag eye", "weed", "X", "from")]
    [InlineData(Renamed.Zone, "Tag eye", "bed tag", "Sleepers", "to")]
    [InlineData(Renamed.Position, "Hoist", "up", "X", "of")]
    [InlineData(Renamed.Mechanism, null, "Hoist", "X", "from")]
    public void What_cannot_be_renamed_is_refused(Renamed what, string? of, string from, string to, string field) =>
        Assert.Equal(field, Assert.Throws<InputProblem>(() => Renames.InRig(Rig, what, of, from, to)).Errors.Keys.Single());

    [Fact]
    public void An_edit_is_said_in_words()
    {
        Assert.Equal("added Horn", RigEdits.Say(Rig, Rig with { Actuators = [.. Rig.Actuators, new("Horn", ActuatorKind.Sounder)] }));
        Assert.Equal(
            "changed Tag eye",
            RigEdits.Say(Rig, Rig with { Sensors = Rig.Sensors.With(0, Rig.Sensors[0] with { SamplePeriodMs = 20 }) })
        );
        Assert.Equal("took out Lamp", RigEdits.Say(Rig, Rig with { Actuators = [Rig.Actuators[0]] }));
        Assert.Equal("changed the rail", RigEdits.Say(Rig, Rig with { Rail = Rig.Rail! with { LengthMm = 5000 } }));
    }
}
