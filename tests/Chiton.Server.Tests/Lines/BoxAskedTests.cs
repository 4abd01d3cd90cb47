using Chiton.Box;
using Chiton.Core.Simulation;

namespace Chiton.Server.Tests.Lines;

/// <summary>What a box is started with, and what is typed in its window.</summary>
[Collection("Behind everything else")]
public class BoxAskedTests
{
    private static BoxAsked Read(string typed) => BoxAsked.Read(typed.Split(' ', StringSplitOptions.RemoveEmptyEntries), "here");

    [Fact]
    public void A_rig_is_enough_and_the_rest_can_be_said()
    {
        var asked = Read("seed-trolley");
        Assert.Equal(("seed-trolley", null, 5190, 1L, "here"), (asked.Rig, asked.Copy, asked.Port, asked.Seed, asked.Folder));
        Assert.Empty(asked.Typed);
        asked = Read("--port 0 seed-trolley --fault BACK 3 --seed 77 --every 100 --data there");
        Assert.Equal(("seed-trolley", 3, 0, 77L, "there"), (asked.Rig, asked.Copy!.Value, asked.Port, asked.Seed, asked.Folder));
        Assert.Equal(["fault BACK", "every 100"], asked.Typed);
        Assert.Equal(BoxFault.Back, BoxAsked.Fault("Back"));
    }

    [Theory]
    [InlineData("", "Say which rig, as seed-trolley.")]
    [InlineData("seed-trolley --port abc", "--port must be a whole number, 0 to 65535; “abc” is none.")]
    [InlineData("seed-trolley --port 70000", "--port must be a whole number, 0 to 65535; “70000” is none.")]
    [InlineData("seed-trolley --port", "Behind --port something is missing.")]
    [InlineData("seed-trolley --seed -1", "--seed must be a whole number, 0 to 4294967295; “-1” is none.")]
    [InlineData("seed-trolley --every 0", "--every must be a whole number, 1 to 1000000000; “0” is none.")]
    [InlineData("seed-trolley 0", "The copy must be a whole number, 1 to 999; “0” is none.")]
    [InlineData("seed-trolley two", "The copy must be a whole number, 1 to 999; “two” is none.")]
    [InlineData("seed-trolley 1 2", "“2” is one word too many: a rig and a copy are enough.")]
    [InlineData("seed-trolley --speed 3", "There is no --speed. There are --port, --seed, --fault, --every and --data.")]
    [InlineData(
        "seed-trolley --fault 3",
        "--fault must be none, back, names, range, revision, garbled, silent, stuck, anew; “3” is none of them."
    )]
    [InlineData(
        "seed-trolley --fault back,names",
        "--fault must be none, back, names, range, revision, garbled, silent, stuck, anew; “back,names” is none of them."
    )]
    public void What_is_not_understood_is_named_with_what_is_allowed(string typed, string said) =>
        Assert.Equal(said, Assert.Throws<BoxTrouble>(() => Read(typed)).Message);

    [Fact]
    public async Task What_is_typed_in_its_window_is_answered_there_and_never_on_the_line()
    {
        using var box = new BoxOnTable("seed-trolley");
        var rig = (await BoxOnTable.Make("seed-trolley")).Rig;
        await using var line = await BoxOnTable.Line(box.To, rig);
        foreach (var typed in new[] { "pul", "hold Tag eye over the moon", "do Nothing run 5 %", "tell Nose", "every so often", "fault 3" })
            box.Server.Command(typed);
        for (var i = 0; i < 400 && box.Seen.Count(s => s.StartsWith("It can do wrong", StringComparison.Ordinal)) == 0; i++)
            await Task.Delay(10);
        // Somebody who looks on sees each of them answered, and the desk has been told nothing.
        Assert.Contains(
            box.Seen,
            s => s.StartsWith("No. ", StringComparison.Ordinal) && s.Contains("line begins so", StringComparison.Ordinal)
        );
        Assert.Contains(box.Seen, s => s.StartsWith("No. Tag eye can be held over ", StringComparison.Ordinal));
        Assert.Contains(box.Seen, s => s == "No. I have no device Nothing.");
        Assert.Contains(box.Seen, s => s == "No. I have no sensor Nose.");
        Assert.Contains(box.Seen, s => s == "Say after how many microseconds it reads, as every 100.");
        Assert.Null(await line.Say(new Chiton.Core.Programs.Outside.BoxAsk("there"), CancellationToken.None));
        Assert.Equal("", line.Look((w, _) => w.Refused));
        Assert.Equal(0, line.Look((w, _) => w.Strange));
        // What the desk says is answered on the line, as ever.
        Assert.Equal("I have no sensor Nose.", await line.Say(new Chiton.Core.Programs.Outside.BoxTell("Nose"), CancellationToken.None));
    }
}
