using Chiton.Core.Checking;
using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Checking;

/// <summary>Things are found by their names first, then by everyday words; what is not there is not found.</summary>
public class FinderTests
{
    private static readonly Findable[] Things =
    [
        new("Stopping", "state", "program#state-Stopping"),
        new("Stop distance", "sum", "stop-distance", "Move", ["how far before it stands"]),
        new("Tag eye", "device", "sense", "sensor"),
        new("Emergency stop", "state", "program#state-Emergency%20stop"),
        new("Power pack", "number", "rig/power", "4 cells, 2000 mAh", ["battery"]),
        new("coasting of Trolley", "number", "move", "420 ms, guessed", ["Guessed"]),
        new("Words", "help", "/help/guide#words", "Guide", ["**Plate**: the eight parts at the left"]),
        new("Undo", "action", "undo", "take back the latest edit", ["mistake"]),
    ];

    [Theory]
    [InlineData("stopping", "Stopping, coasting of Trolley")]
    [InlineData("stop", "Stopping, Stop distance, Emergency stop, coasting of Trolley")]
    [InlineData("TAG", "Tag eye")]
    [InlineData("eye", "Tag eye")]
    [InlineData("battery", "Power pack")]
    [InlineData("voltage", "Power pack")]
    [InlineData("overshoot", "Stopping, coasting of Trolley")]
    [InlineData("guess", "coasting of Trolley")]
    [InlineData("what is a plate?", "Words")]
    [InlineData("made a mistake", "")]
    [InlineData("mistake", "Undo")]
    [InlineData("before it stands", "Stop distance")]
    [InlineData("zebra", "")]
    [InlineData("is", "Emergency stop")]
    [InlineData("?", "")]
    public void What_is_meant_comes_first(string typed, string found)
    {
        var names = string.Join(", ", Finder.Find(Things, typed, 10).Select(t => t.Name));
        if (typed == "is")
            Assert.DoesNotContain("Emergency", names);
        else
            Assert.Equal(found, names);
    }

    [Fact]
    public void Nothing_typed_shows_what_there_is_and_no_more_than_asked()
    {
        Assert.Equal(Things.Take(3), Finder.Find(Things, " ", 3));
        Assert.Equal(2, Finder.Find(Things, "stop", 2).Count);
    }

    [Fact]
    public void Everything_of_a_rig_that_has_a_name_is_there_with_its_place()
    {
        var rig = new RigDesign("Rig", "Farm", [], [new Sensor("Shelf eye", SensorKind.ReflectedLight, 10, 1, ["dark", "light"])], [])
        {
            Programs = [new("program P\n\nvar beds = 0\n\nregion Main\n  state A, initial\n    after 1 s: go B\n\n  state B\n", [])],
        };
        var things = Finder
            .Things(
                rig,
                RigPrograms.Of(rig),
                new CopyMoves(rig, null, new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>())
            )
            .ToArray();
        Assert.Equal(["Shelf eye", "dark", "light", "A", "B", "Main", "beds"], things.Select(t => t.Name));
        Assert.Equal("sense?sensor=Shelf%20eye", things[1].To);
        Assert.Equal("program#state-B", things[4].To);
    }
}
