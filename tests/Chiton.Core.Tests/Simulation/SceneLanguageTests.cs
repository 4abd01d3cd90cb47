using Chiton.Core.Programs.Language;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Simulation;

/// <summary>The language of scenes: what is read is printed as it stands, and what cannot be read is said kindly.</summary>
public class SceneLanguageTests
{
    private static readonly SceneNames Names = new(
        new(
            [
                new("Range", ["near", "far"]) { MayHearNothing = true, Reads = Dimension.Length },
                new("Silence button", ["up", "down"]) { Switch = true },
            ],
            [],
            []
        )
        {
            Mechanisms =
            [
                new("Drive", MechanismKind.TwoWheelDrive, ActuatorKind.RegulatedMotor, [], []),
                new("Mast", MechanismKind.Lift, ActuatorKind.RegulatedMotor, ["low"], ["up", "down"]),
            ],
        },
        new(new(), new() { "Resting", "Adrift" }, new() { "Main" }, new())
    );

    private static string Printed(string row, string key)
    {
        var (line, fault) = SceneParser.One(row, 1, Names);
        Assert.True(fault is null, $"{row}: {fault?.Message}");
        Assert.Equal(key, line.Key);
        return ScenePrinter.Print(line);
    }

    public static TheoryData<string, string> Examples()
    {
        var data = new TheoryData<string, string>();
        foreach (var form in SceneForms.All)
            data.Add(form.Key, form.Example);
        return data;
    }

    [Theory]
    [MemberData(nameof(Examples))]
    public void EveryExampleOfTheTableIsReadAsItsOwnSentenceAndPrintedAsItStands(string key, string example) =>
        Assert.Equal(example, Printed(example, key));

    [Theory]
    [InlineData(
        "thing box",
        "thing crate 60 by 40 mm 120 g of wood at (500, 300), rolls, 50 mm high, friction 0.35, crushed above 8 N, slips below 2 N"
    )]
    [InlineData("thing round", "thing shell round between 30 mm and 40 mm lies at low bed, knocked off by a touch, on Drive at (30, 0)")]
    [InlineData("reads", "Soil probe reads 410 at 5 s for 4 s, in 30 of 100 runs")]
    [InlineData("light", "light falls by 6 % on Left edge eye from 20 s, in 30 of 100 runs")]
    [InlineData("unplug", "unplug Drive 2 s after Main is in Adrift for 0.5 s")]
    [InlineData("block", "block Mast when Drive on corner 2 for 2 s each time")]
    [InlineData("runs dry", "Pump runs dry at 20 s give or take 2 s until 5 s after Drive on bay")]
    [InlineData("lift", "person lifts the rig 2 s after Main is in Resting")]
    [InlineData("strip", "strip left edge of line 20 mm wide from (100, 400) to (900, 400) to (900, 800), round 150 mm, closed")]
    [InlineData("siding", "siding shed leaves at 2000 mm backwards, 600 mm long, rejoins at 2800 mm")]
    [InlineData("start rail", "start Sand car at 100 mm of siding shed")]
    [InlineData("closes", "Foot switch closes between 2 motor deg and 6 motor deg of Mast")]
    [InlineData("thing round", "thing cup round 40 mm 30 g, on Drive at (30, 0), slips below 2 N")]
    [InlineData("thing box", "thing tray 60 by 40 mm on Drive at (30 give or take 2 mm, 0)")]
    [InlineData("things box", "6 things crate 60 by 40 mm 30 g at random on the floor, 100 mm apart, rolls")]
    [InlineData("person", "person taps Other's Start button at 1 s")]
    [InlineData("unplug", "unplug Second robot's Left wheel at 6 s for 0.5 s")]
    [InlineData("reads zone", "Other's Line eye reads sand from 2 s")]
    [InlineData("patch", "patch bay 200 by 150 mm at (900, 600), turned 30 robot deg give or take 2 robot deg")]
    [InlineData("shade", "shade 200 by 150 mm at (500, 300) give or take 10 mm: Line eye rises by 8 % give or take 1 %, in 30 of 100 runs")]
    [InlineData("stands", "cat 200 mm give or take 20 mm before Range for 2 s every 20 s")]
    [InlineData("notches", "notches of flag on Mast 9 mm long at 620 give or take 3 and between 1300 and 1310 motor deg, before Top eye")]
    [InlineData("wall", "wall from (0, 0) to (between 590 and 610, 0), in 10 of 100 runs")]
    [InlineData("goal", "goal: every boat through within 120 s")]
    [InlineData("goal", "goal: every boat through Sea gate within 120 s")]
    [InlineData("goal", "goal: every crumb off the deck and Drive on bay for 2 s")]
    [InlineData("never", "never: not (Drive within 20 mm of bay) for more than 1 s")]
    [InlineData("never", "never: crate before Range nearer than 20 mm at the end")]
    [InlineData("goal", "goal: Mast past its top stop at most once for each crate")]
    [InlineData("score when", "score -20 when Drive over the edge and not (Mast at low)")]
    public void LongerLinesComeBackAsTheyStand(string key, string row) => Assert.Equal(row, Printed(row, key));

    [Fact]
    public void Turns_of_a_part_are_its_own() =>
        Assert.Equal("goal: Mast turned 2 wheel turns within 5 s", Printed("goal: Mast turned 2 turns within 5 s", "goal"));

    [Fact]
    public void ClausesInAnotherOrderArePrintedInOne() =>
        Assert.Equal(
            "boat comes before Range from 900 mm to 20 mm at 60 mm/s at 2 s, stays 8 s, leaves at 100 mm/s",
            Printed("boat comes before Range from 900 mm to 20 mm at 60 mm/s, leaves at 100 mm/s, stays 8 s at 2 s", "comes")
        );

    [Theory]
    [InlineData("wall from (0, 0)", "“to”")]
    [InlineData("wal from (0, 0) to (1, 1)", "Did you mean “wall”?")]
    [InlineData("floor 2 m by", "a length such as 40 mm")]
    [InlineData("goal: Drive is in nowhere", "is")]
    [InlineData("thing crate round 40 mm at (1, 2), purple", "purple")]
    [InlineData("start Drive at (1, 2) facing up", "an angle such as 90 robot deg")]
    public void WhatCannotBeReadSaysWhatWouldFit(string row, string says)
    {
        var (line, fault) = SceneParser.One(row, 7, Names);
        Assert.Equal("", line.Key);
        Assert.Equal(row, ScenePrinter.Print(line));
        Assert.Equal(7, fault!.Line);
        Assert.Contains(says, fault.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("deck 800 by 500 mm\nfloor 1 m by 1 m", "A scene has a floor or a deck, not both.")]
    [InlineData(
        "floor 1 m by 1 m\nstart Drive at (1200, 20) facing 0 robot deg",
        "This lies outside of the floor, which is 1000 by 1000 mm."
    )]
    [InlineData("floor 1 m by 1 m\nwall from (0, 100) to (500, 100)\nthing crate round 40 mm at (200, 110)", "crate stands in a wall.")]
    [InlineData("thing a round 40 mm at (0, 0)\nthing b round 40 mm at (10, 0)", "b stands in a.")]
    [InlineData("thing a round 40 mm lies at shelf", "No place “shelf” in this scene.")]
    [InlineData("block Mats at 2 s", "No mechanism “Mats” on this rig. Did you mean “Mast”?")]
    [InlineData("thing a round -4 mm at (0, 0)", "This cannot be below 0.")]
    [InlineData("ends after 900 s", "At most 600 s.")]
    [InlineData("501 things crumb round 4 mm at random on the deck\ndeck 2 m by 2 m", "At most 500 things lie in a scene; here are 501.")]
    [InlineData("start Mast at high", "Mast has no position “high”.")]
    public void WhatCannotBeIsAFaultAtItsLine(string lines, string says)
    {
        var read = SceneParser.Parse("scene S\n" + lines + "\n", Names);
        Assert.Contains(read.Diagnostics, d => d.Message.StartsWith(says, StringComparison.Ordinal) && d.Line is 2 or 3 or 4);
    }

    [Theory]
    [InlineData("thing crate round 40 mm give or take 1 mm at (200, 110), measured")]
    [InlineData("hand 60 mm give or take 2 mm before Range at 3 s for 1.5 s, measured, in 30 of 100 runs")]
    [InlineData("thing bollard round 80 mm at (760, 520), fixed, 50 mm high, measured")]
    public void ALineThatIsMeasuredSaysSoAndItsNumbersDoToo(string row)
    {
        var read = SceneParser.Parse($"scene S\n{row}\n", Names);
        Assert.Empty(read.Diagnostics);
        Assert.Equal(row, ScenePrinter.Print(read.Scene.Lines[0]));
        Assert.Equal(Provenance.Measured, read.Scene.Lines[0].Kind);
        var unmarked = SceneParser.Parse($"scene S\n{row.Replace(", measured", "", StringComparison.Ordinal)}\n", Names);
        Assert.Equal(Provenance.Chosen, unmarked.Scene.Lines[0].Kind);
        // Goals and the head have no numbers that could be measured.
        Assert.NotEmpty(SceneParser.Parse("scene S\nends after 90 s, measured\n", Names).Diagnostics);
    }

    [Theory]
    [InlineData("crumb", "crumbs")]
    [InlineData("box", "boxes")]
    [InlineData("berry", "berries")]
    [InlineData("buoy", "buoys")]
    [InlineData("brush", "brushes")]
    public void GoalsMaySpeakOfOneThingOfASceneOrOfSeveralAndAreOfferedThem(string one, string several)
    {
        Assert.Equal(several, SceneWords.Several(one));
        var rig = FloorBench.Rig("  state Still, initial\n");
        var scene = SceneStarts.Made($"scene S\ndeck 2 m by 1 m\n6 things {one} round 10 mm at random on the deck\n", rig);
        rig = rig with { Scenes = [scene] };
        var words = Vocabulary.Of(rig);
        string[] Offered(string typed) =>
            [.. ScriptParser.Complete($"program T\n{typed}\n", 2, typed.Length, words).Select(c => c.Candidate.Text)];
        Assert.Contains(several, Offered("goal: at least 4 "));
        Assert.Contains(one, Offered("never: "));
        Assert.Contains("the deck", Offered($"goal: every {one} off "));
        Assert.Empty(
            ScriptParser
                .Parse($"program T\ngoal: at least 4 {several} off the deck\n\nregion Main\n  state Still, initial\n", words)
                .Diagnostics
        );
        Assert.Equal(one, SceneWords.Thing(SceneParser.Parse(scene.Text, rig).Scene, several));
    }

    [Fact]
    public void AWholeSceneIsPrintedAsItIsReadWithItsComments()
    {
        const string text = """
            # The everyday.
            scene As in the shed
            ends after 90 s

            deck 1200 by 800 mm of deck, drop beyond

            # Here it begins.
            start Drive at (200, 200) facing 90 robot deg give or take 10 mm and 2 robot deg

            goal: Drive wholly on the deck within 20 s
            # the end

            """;
        var read = SceneParser.Parse(text, Names);
        Assert.Empty(read.Diagnostics);
        Assert.Equal(text, ScenePrinter.Print(read.Scene));
        Assert.Equal(90, read.Scene.EndsS);
        var again = SceneParser.Parse("scene A\nendss after\nthis is nothing\n", Names);
        Assert.Equal(2, again.Diagnostics.Count);
        Assert.Contains("this is nothing", ScenePrinter.Print(again.Scene), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("wa", "wall")]
    [InlineData("block ", "Mast")]
    [InlineData("start Drive at (1, 2) facing 90 robot deg ", "give")]
    [InlineData("block Mast ", "at")]
    [InlineData("block Mast at ", "4 s")]
    public void CompletionComesFromTheSameTable(string typed, string offers)
    {
        var rig = FarmBench.Rig() with
        {
            Mechanisms = [new("Mast", MechanismKind.Lift, ["Trolley"]), new("Drive", MechanismKind.TwoWheelDrive, ["Trolley", "Lamp"])],
        };
        Assert.Contains(SceneWords.Next(typed, null, rig), h => h.Text == offers);
    }
}
