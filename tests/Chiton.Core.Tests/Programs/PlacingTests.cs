using System.Text.Json;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs;

/// <summary>One text in several places: each with its values, its own devices, and called by its controller's name outside.</summary>
public class PlacingTests
{
    private const string Post = """
        program Post (number)

        region Main
          state Waiting, initial
            when Button is tapped: tell Desk "called" with number; go Called

          state Called
            while here: turn Lamp on
            when told "answered": go Waiting

        """;

    private const string Desk = """
        program Desk

        var last = 0

        region Main
          state Empty, initial
            when told "called" from Post 2 into last: tell Post 2 "answered"; stay
            when told "called" from Post 3 into last: stay

        """;

    private static RigDesign Rig(int posts = 6)
    {
        string[] boxes = [.. Enumerable.Range(1, posts).Select(n => $"Post {n}")];
        return new RigDesign(
            "Calling posts",
            "Farm",
            [ControllerTemplates.Make("six sockets", "Desk box"), .. boxes.Select(b => ControllerTemplates.Make("six sockets", b))],
            [.. boxes.Select(b => new Sensor($"{b}'s Button", SensorKind.Button, 10, 1, ["up", "down"]))],
            [.. boxes.Select(b => new Actuator($"{b}'s Lamp", ActuatorKind.Lamp))]
        )
        {
            Wires =
            [
                .. boxes.Select(b => new Wire($"{b}'s Button", "signal", b, "1")),
                .. boxes.Select(b => new Wire($"{b}'s Lamp", "signal", b, "2")),
            ],
            Programs =
            [
                new(Desk, []),
                .. boxes.Select((b, i) => new ProgramText(Post, []) { RunsOn = b, Values = [new("number", $"{i + 1}", false)] }),
            ],
        };
    }

    private static readonly Dictionary<string, Chiton.Core.Sensing.SensorCalibration> Nothing = [];

    [Fact]
    public void Each_place_has_its_devices_its_value_and_its_name()
    {
        var rig = Rig();
        RigRules.Check(rig, "rig");
        Assert.Empty(RigPrograms.Problems(rig));
        var read = RigPrograms.Of(rig);
        Assert.Equal(["Desk", "Post 1", "Post 2", "Post 3", "Post 4", "Post 5", "Post 6"], read.Select(p => p.Name));
        Assert.All(read, p => Assert.Empty(p.Parsed.Diagnostics));
        Assert.Equal(Post, Printer.Print(read[4].Parsed.Program));
        var walk = WalkOf.Together(
            rig,
            Nothing,
            [new("Post 3's Button tapped", null, 0), new("Post 2's Button tapped", null, 0), new(null, null, 10)]
        );
        Assert.Contains("Post 3.Main.Called", walk[1].States);
        Assert.Contains("Post 2.Main.Waiting", walk[1].States);
        Assert.Equal("3", walk[1].Values.Single(v => v.Name == "Desk: last").Value);
        Assert.Equal("2", walk[2].Values.Single(v => v.Name == "Desk: last").Value);
        // The desk answers the second post alone.
        Assert.Contains("Post 2.Main.Waiting", walk[3].States);
        Assert.Contains("Post 3.Main.Called", walk[3].States);
        Assert.Contains(
            "means nothing",
            Assert.Throws<InputProblem>(() => WalkOf.Together(rig, Nothing, [new("Button tapped", null, 0)])).Message
        );
    }

    [Fact]
    public void Alone_a_place_knows_its_devices_by_both_names()
    {
        var rig = Rig(2);
        var post = RigPrograms.Of(rig)[2].Parsed.Program;
        foreach (var name in (string[])["Button tapped", "Post 2's Button tapped"])
            Assert.Equal(["Main.Called"], ScriptWalk.Run(ScriptCompiler.ForWalk(post, rig, Nothing), [new(name, null, 0)])[^1].States);
        Assert.Equal(
            ["Main.Waiting"],
            ScriptWalk.Run(ScriptCompiler.ForWalk(post, rig, Nothing), [new("Post 1's Button tapped", null, 0)])[^1].States
        );
    }

    [Theory]
    [InlineData("3", "set last to number + 1; stay", null)]
    [InlineData("65 mm", "set last to number + 1; stay", "Cannot add")]
    [InlineData("65 mm", "set far to number; stay", null)]
    [InlineData("yes", "go Called if number", null)]
    [InlineData("red", "tell Desk number; stay", "")]
    [InlineData("red", "go Called if number = \"red\"", null)]
    [InlineData("3", "set number to 4; stay", "constant")]
    public void A_value_is_what_its_place_gives_and_stays_so(string value, string line, string? fault)
    {
        var script =
            "program Post (number)\n\nvar last = 0\nvar far = 0 mm\n\nregion Main\n  state Waiting, initial\n    when Button is tapped"
            + $"{(line.StartsWith("go Called if", StringComparison.Ordinal) ? line[9..] + ": go Called" : ": " + line)}\n  state Called\n";
        var rig = Rig(1) with { Programs = [] };
        var text = new ProgramText(script, []) { RunsOn = "Post 1", Values = [GivenValue.Of("number", value)] };
        var found = ScriptParser.Parse(script, Vocabulary.For(rig, text)).Diagnostics;
        if (fault is null)
            Assert.Empty(found);
        else
            Assert.Contains(fault, Assert.Single(found).Message);
    }

    [Fact]
    public void A_value_that_nobody_gives_is_asked_for()
    {
        var rig = Rig(1);
        var bare = rig with { Programs = rig.Programs.With(1, rig.Programs[1] with { Values = [] }) };
        var said = Assert.Single(RigPrograms.Of(bare)[1].Parsed.Diagnostics);
        Assert.Equal(1, said.Line);
        Assert.Contains("“number”", said.Message);
        Assert.Contains("Where it runs", said.Message);
    }

    [Fact]
    public void What_hangs_on_another_post_is_out_of_reach_and_a_host_says_whose()
    {
        var rig = Rig(2);
        var far = "program Post (number)\n\nregion Main\n  state A, initial\n    on entry: turn Post 2's Lamp on\n";
        var on = new ProgramText(far, []) { RunsOn = "Post 1", Values = [new("number", "1", false)] };
        Assert.Contains("Post 2", Assert.Single(ScriptParser.Parse(far, Vocabulary.For(rig, on)).Diagnostics).Message);
        var host = on with { RunsOn = null, OnHost = true };
        Assert.Empty(ScriptParser.Parse(far, Vocabulary.For(rig, host)).Diagnostics);
        Assert.Equal(far, Printer.Print(ScriptParser.Parse(far, Vocabulary.For(rig, host)).Program));
        var bare = far.Replace("Post 2's Lamp", "Lamp");
        Assert.NotEmpty(ScriptParser.Parse(bare, Vocabulary.For(rig, host with { Script = bare })).Diagnostics);
    }

    [Fact]
    public void Placing_once_more_and_back_keeps_what_the_others_say()
    {
        var rig = Rig(2);
        var one = rig with
        {
            Programs =
            [
                rig.Programs[0] with
                {
                    Script = Desk.Replace("Post 2", "Post").Replace("    when told \"called\" from Post 3 into last: stay\n", ""),
                },
                rig.Programs[1],
            ],
        };
        Assert.Equal(["Desk", "Post"], RigPrograms.Of(one).Select(p => p.Name));
        Assert.All(RigPrograms.Of(one), p => Assert.Empty(p.Parsed.Diagnostics));
        var two = RigPrograms.PlaceAlso(one, 1, "Post 2", [new("number", "2", false)]);
        Assert.Equal(["Desk", "Post 1", "Post 2"], RigPrograms.Of(two).Select(p => p.Name));
        Assert.All(RigPrograms.Of(two), p => Assert.Empty(p.Parsed.Diagnostics));
        Assert.Contains("from Post 1 into last: tell Post 1 \"answered\"", two.Programs[0].Script);
        Assert.Contains("stands on Post 2 already", Assert.Throws<InputProblem>(() => RigPrograms.PlaceAlso(two, 1, "Post 2", [])).Message);
        var nowhere = Assert.Throws<InputProblem>(() => RigPrograms.PlaceAlso(two, 1, "Nowhere", []));
        Assert.Contains("no controller “Nowhere”", nowhere.Message);
    }

    [Fact]
    public void A_device_of_one_text_in_many_places_is_not_renamed_in_one_alone()
    {
        var rig = Rig(2);
        Assert.Contains(
            "2 places",
            Assert.Throws<InputProblem>(() => Renames.InRig(rig, Renamed.Device, null, "Post 1's Button", "Post 1's Key")).Message
        );
        var single = rig with { Programs = [.. rig.Programs.Take(2)] };
        Assert.Contains(
            "when Key is tapped",
            Renames.InRig(single, Renamed.Device, null, "Post 1's Button", "Post 1's Key").Programs[1].Script
        );
        Assert.Contains(
            "when Call key is tapped",
            Renames.InRig(single, Renamed.Device, null, "Post 1's Button", "Call key").Programs[1].Script
        );
    }

    [Fact]
    public void Devices_of_one_name_are_told_apart_by_their_wires()
    {
        var named = Rig(3);
        static string Short(string n) => n[(n.IndexOf("'s ", StringComparison.Ordinal) + 3)..];
        var same = named with
        {
            Sensors = named.Sensors.Select(s => s with { Name = Short(s.Name) }).ToSequence(),
            Actuators = named.Actuators.Select(a => a with { Name = Short(a.Name) }).ToSequence(),
            Wires = named.Wires.Select(w => w with { Device = Short(w.Device) }).ToSequence(),
        };
        Assert.Equal(named, Placing.Apart(same));
        Assert.Equal(named, Placing.Apart(named));
        // Where a wire is missing nobody can say which is whose: the rig stays as it is, and its rules say so.
        var unclear = same with
        {
            Wires = [.. same.Wires.Skip(1)],
        };
        Assert.Equal("Button", Placing.Apart(unclear).Sensors[0].Name);
        Assert.Throws<InputProblem>(() => RigRules.Check(Placing.Apart(unclear), "rig"));
    }

    [Theory]
    [InlineData("""{"number":3}""", "3", false)]
    [InlineData("""{"number":-2.5}""", "-2.5", false)]
    [InlineData("""{"number":"65 mm"}""", "65 mm", false)]
    [InlineData("""{"number":true}""", "yes", false)]
    [InlineData("""{"number":"red"}""", "red", true)]
    [InlineData("""{"number":"\u00223\u0022"}""", "3", true)]
    public void Values_are_a_JSON_object(string json, string value, bool text)
    {
        var read = JsonSerializer.Deserialize<ProgramText>($$"""{"Script":"program P\n","Marks":[],"Values":{{json}}}""")!;
        Assert.Equal(new GivenValue("number", value, text), Assert.Single(read.Values));
        Assert.Equal(json, JsonSerializer.SerializeToElement(read).GetProperty("Values").GetRawText());
    }

    [Theory]
    [InlineData("[]")]
    [InlineData("""{"number":[3]}""")]
    [InlineData("3")]
    public void Values_of_another_shape_are_refused(string json) =>
        Assert.Throws<JsonException>(() =>
            JsonSerializer.Deserialize<ProgramText>($$"""{"Script":"program P\n","Marks":[],"Values":{{json}}}""")
        );

    [Theory]
    [InlineData("1e400")]
    [InlineData("12345678901234567890")]
    public void A_value_beyond_measure_is_refused(string number)
    {
        var rig = Rig(1);
        var read = JsonSerializer.Deserialize<ProgramText>($$"""{"Script":"program P\n","Marks":[],"Values":{"number":{{number}} } }""")!;
        var bad = rig with { Programs = rig.Programs.With(1, rig.Programs[1] with { Values = read.Values }) };
        Assert.Contains("number", Assert.Throws<InputProblem>(() => RigRules.Check(bad, "rig")).Errors["rig.programs[1].values.number"]);
    }

    [Fact]
    public void A_renamed_controller_takes_along_what_is_called_after_it()
    {
        var rig = Rig(3);
        var edited = rig with
        {
            Controllers = [.. rig.Controllers.Select(c => c.Name == "Post 2" ? c with { Name = "Gate" } : c)],
            Wires = [.. rig.Wires.Select(w => w.Controller == "Post 2" ? w with { Controller = "Gate" } : w)],
        };
        var (next, names) = RigPrograms.FollowNames(rig, RigPrograms.Follow(rig, edited));
        Assert.Equal([("Post 2's Button", "Gate's Button"), ("Post 2's Lamp", "Gate's Lamp")], names);
        Assert.Equal(["Post 1's Button", "Gate's Button", "Post 3's Button"], next.Sensors.Select(s => s.Name));
        Assert.Equal("Gate", Assert.Single(next.Wires, w => w.Device == "Gate's Lamp").Controller);
        // The text stays one text in three places, and every program still reads.
        Assert.Equal([Post, Post, Post], next.Programs.Skip(1).Select(p => p.Script));
        Assert.Contains("from Gate into last: tell Gate \"answered\"", next.Programs[0].Script);
        for (var i = 0; i < next.Programs.Count; i++)
            Assert.Empty(ScriptParser.Parse(next.Programs[i].Script, Vocabulary.For(next, next.Programs[i])).Diagnostics);
        RigRules.Check(next, "rig");
        // Two that change places are no new names, and one that is taken out takes nothing along.
        Assert.Empty(RigPrograms.FollowNames(rig, rig).Names);
        Assert.Empty(RigPrograms.FollowNames(rig, rig with { Controllers = [.. rig.Controllers.Where(c => c.Name != "Post 2")] }).Names);
    }
}
