using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs.Scxml;

/// <summary>Events that are called like a device and what it does can be linked to it, and only those.</summary>
public class ScxmlLinksTests
{
    private static readonly Vocabulary Rig = new(
        [
            new("Order knob", ["up", "down"]) { Switch = true },
            new("Order", ["big", "small order"]),
            new("Range 2", ["near", "far"]) { Reads = Dimension.Length },
        ],
        [new("Mast motor", ActuatorKind.RegulatedMotor)],
        []
    )
    {
        Mechanisms = [new("Mast", MechanismKind.Lift, ActuatorKind.RegulatedMotor, [], []) { Motors = ["Mast motor"] }],
    };

    private static ProgramNode Program(params string[] events) =>
        ScriptParser
            .Parse(
                "program T\n\nregion Main\n  state A, initial\n"
                    + string.Concat(events.Select(e => $"    when told \"{e}\": go B\n"))
                    + "  state B\n",
                Rig
            )
            .Program;

    [Theory]
    [InlineData("order_knob.tapped", "when Order knob is tapped")]
    [InlineData("orderKnobPressed", "when Order knob is pressed")]
    [InlineData("ORDER_KNOB_RELEASED", "when Order knob is released")]
    [InlineData("order knob double-click", "when Order knob is tapped twice")]
    [InlineData("range2.near", "when Range 2 becomes near")]
    [InlineData("Range-2 leaves far", "when Range 2 leaves far")]
    [InlineData("order.small.order", "when Order becomes small order")]
    [InlineData("mast.done", "when Mast is done")]
    [InlineData("mast motor stalled", "when Mast motor stalls")]
    [InlineData("mast.timeout", "when Mast gives up")]
    public void A_name_that_says_what_happens_is_linked(string name, string trigger)
    {
        var program = Program(name);
        Assert.Equal(new ScxmlLink(name, trigger), Assert.Single(ScxmlLinks.Find(program, Rig)));
        var linked = Printer.Print(ScxmlLinks.Link(program, Rig));
        Assert.Contains($"    {trigger}: go B", linked);
        Assert.Empty(ScriptParser.Parse(linked, Rig).Diagnostics);
    }

    [Theory]
    [InlineData("order_knob")]
    [InlineData("order_knob.turned")]
    [InlineData("knob.tapped")]
    [InlineData("mast.is")]
    [InlineData("near.range2")]
    [InlineData("range3.near")]
    [InlineData("*")]
    public void Any_other_stays_a_text_that_is_told(string name)
    {
        var program = Program(name);
        Assert.Empty(ScxmlLinks.Find(program, Rig));
        Assert.Equal(program, ScxmlLinks.Link(program, Rig));
    }

    [Fact]
    public void Each_event_is_asked_about_once() =>
        Assert.Equal(["mast.done"], ScxmlLinks.Find(Program("mast.done", "open", "mast.done"), Rig).Select(l => l.Event));
}
