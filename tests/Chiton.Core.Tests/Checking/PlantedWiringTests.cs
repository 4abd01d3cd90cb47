using Chiton.Core.Checking;

namespace Chiton.Core.Tests.Checking;

/// <summary>Leads, supply and what was sent: what has the fault, the same mended, and three that come near and do not have it.</summary>
public class PlantedWiringTests
{
    private const string Script = """
        program Test

        region Main
          state Rolling, initial
            while here: run Trolley at 50 %
            when Tag eye becomes bed tag: go Stopping

          state Stopping, final
            on entry: stop Trolley and brake; turn Lamp on

        """;

    private static readonly Wire Eye = new("Tag eye", "signal", "Deck box", "front 1"),
        Drive = new("Trolley", "drive", "Deck box", "back 1"),
        Light = new("Lamp", "light", "Deck box", "front 2");

    private static RigDesign Wired(params Wire[] wires) => FarmBench.Rig(Script) with { Wires = [.. wires] };

    private static RigDesign Rig => Wired(Eye, Drive, Light);

    private static RigDesign Fed(double min, double max, double maxCurrent = 300) =>
        Rig with
        {
            Power = new(4, 1.5, 1800, null, 100, 500, 5, [new("Trolley", 1, min, max, 0, 100, maxCurrent, 0.5, "pack")]),
        };

    // A tank whose probe and drain the program uses.
    private static RigDesign Tank(Func<RigDesign, RigDesign>? change = null)
    {
        var rig = RigTemplates.Make("pin board with probe and servo", "Tank");
        rig = rig with
        {
            Wires = PortAssignment.Assign(rig.Controllers.ToArray(), rig.Plugs, null, rig.Links.ToArray()).Wires.ToSequence(),
            Programs =
            [
                new(
                    "program Test\n\nregion Main\n  state Full, initial\n    on entry: set Drain to 20 deg\n"
                        + $"    when Probe is {rig.Sensors.First(s => s.Name == "Probe").Zones[0]}: go Low\n\n  state Low, final\n",
                    []
                ),
            ],
        };
        return change?.Invoke(rig) ?? rig;
    }

    private static RigDesign Moved(RigDesign rig, string device, string pin) =>
        rig with
        {
            Wires = [.. rig.Wires.Select(w => w.Device == device && w.Lead == "signal" ? w with { Port = pin } : w)],
        };

    private static RigDesign Probed(string pin) => Moved(Tank(), "Probe", pin);

    // What a pack of so much gives to a motor that takes 300 mA at most, besides the 100 mA of the controller itself.
    private static RigDesign Packed(double most, string by = "pack", double controller = 500) =>
        Fed(4, 9) with
        {
            Power = new(4, 1.5, 1800, most, 100, controller, 6, [new("Trolley", 1, 4, 9, 0, 100, 300, 0.5, by)]),
        };

    private static RigDesign Linked(RigDesign rig, params Link[] more) => rig with { Links = [.. rig.Links, .. more] };

    // The drain's own ground lead on the other strip, and nothing that joins the two.
    private static RigDesign Apart(RigDesign rig, bool joined) =>
        rig with
        {
            Links = [.. rig.Links.Where(l => joined || l.FromController != "Board")],
            Wires = [.. rig.Wires.Where(w => w is not { Device: "Drain", Lead: "ground" }), new("Drain", "ground", "Rails", "minus rail")],
        };

    private static readonly (string Code, RigDesign Bad, RigDesign Mended, RigDesign[] Near)[] Planted =
    [
        (
            "wiring-missing",
            Wired(Drive, Light),
            Rig,
            [
                // Leads in other sockets that serve them; a device that no sentence names.
                Wired(Eye with { Port = "front 2" }, Drive, Light with { Port = "front 1" }),
                Rig with
                {
                    Actuators = [.. Rig.Actuators, new("Horn", ActuatorKind.Sounder)],
                },
                Wired(Eye, Drive with { Port = "back 2" }, Light),
            ]
        ),
        (
            "wiring-clash",
            Wired(Eye, Drive, Light with { Port = "front 1" }),
            Rig,
            [
                Wired(Eye with { Port = "front 2" }, Drive, Light with { Port = "front 1" }),
                Wired(Eye, Drive with { Port = "back 2" }, Light with { Port = "back 1" }),
                Tank(),
            ]
        ),
        (
            "wiring-kind",
            Probed("pin 5"),
            Probed("level 1"),
            // Another pin that reads a level; a servo at another pin that gives pulses; sockets that serve anything.
            [Probed("level 4"), Moved(Tank(), "Drain", "pin 9"), Rig]
        ),
        (
            "wiring-short",
            Linked(Tank(), new Link("Rails", "plus rail", "Board", "ground")),
            Tank(),
            [Linked(Tank(), new Link("Rails", "minus rail", "Board", "ground")), Rig, Apart(Tank(), true)]
        ),
        ("wiring-ground", Apart(Tank(), false), Tank(), [Apart(Tank(), true), Rig, Linked(Tank())]),
        (
            "power-short",
            Fed(7, 12),
            Fed(4, 9),
            [
                // At both ends of what it stands, and a motor that the program does not name.
                Fed(6, 9),
                Fed(4, 6),
                Fed(4, 9) with
                {
                    Power = Fed(7, 12).Power! with { Devices = [Fed(7, 12).Power!.Devices[0] with { Name = "Other" }] },
                    Actuators = [.. Rig.Actuators, new("Other", ActuatorKind.PlainMotor)],
                },
            ]
        ),
        ("power-short", Packed(399), Packed(401), [Packed(400), Packed(400, "controller", 300), Packed(1e7)]),
        ("power-short", Packed(1000, "controller", 299), Packed(1000, "controller", 301), [Packed(1000, "pack", 299), Rig, Packed(400)]),
    ];

    public static TheoryData<int, string> Faults => PlantedTests.ByPlace(Planted.Select(p => p.Code));

    private static Finding[] Find(RigDesign rig, SentNote? sent = null)
    {
        var program = RigPrograms.Of(rig)[0];
        Assert.True(program.Parsed.Diagnostics.Count == 0, string.Join('\n', program.Parsed.Diagnostics.Select(d => d.Message)));
        var input = PlantedTests.Input(rig, program, PlantedTests.Calibrations(rig)) with { Sent = sent };
        return [.. Catalogue.Find([input]).Where(f => f.Severity != Severity.Holds)];
    }

    private static string Said(IEnumerable<Finding> found) => string.Join('\n', found.Select(f => $"{f.Code} {f.Line}: {f.Say}"));

    [Theory]
    [MemberData(nameof(Faults))]
    public void A_fault_of_the_wiring_is_named_and_what_comes_near_is_not(int at, string code)
    {
        var (_, bad, mended, near) = Planted[at];
        var found = Find(bad).Where(f => f.Code == code).ToArray();
        Assert.True(found.Length > 0, Said(Find(bad)));
        // What all at once would draw is good to know; everything else keeps it from working.
        Assert.All(found, f => Assert.Equal(f.Headline.Contains("all at once") ? Severity.Advice : Severity.Stops, Worst(f)));
        foreach (var (rig, which) in near.Prepend(mended).Select((r, i) => (r, i)))
            Assert.True(Find(rig).All(f => f.Code != code), $"{which}: {Said(Find(rig))}");
    }

    // Too little voltage makes it weak, which is as bad here.
    private static Severity Worst(Finding f) => f.Severity == Severity.Risky ? Severity.Stops : f.Severity;

    [Fact]
    public void What_the_controller_holds_is_told_once_and_only_where_it_differs()
    {
        static Finding[] Sent(SentNote? note) => [.. Find(Rig, note).Where(f => f.Code == "not-sent")];
        var found = Assert.Single(Sent(new(false, 3, 5, true)));
        Assert.Contains("Revision 3 was sent to it", found.Say);
        Assert.Contains("another rig", Assert.Single(Sent(new(false, null, 5, true))).Headline);
        // Sent as it is; an earlier revision that holds the same; a stand-in that holds the same; nothing known.
        Assert.All(
            new SentNote?[] { new(true, 5, 5, true), new(true, 3, 5, true), new(true, 5, 5, false), null },
            n => Assert.Empty(Sent(n))
        );
    }
}
