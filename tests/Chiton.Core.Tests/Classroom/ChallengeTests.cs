using Chiton.Core.Classroom;
using Chiton.Core.Simulation.Scenes;
using Chiton.Core.Tests.Simulation;

namespace Chiton.Core.Tests.Classroom;

/// <summary>Challenges: what they must be, what a sheet is worth, and what their field is built from.</summary>
public class ChallengeTests
{
    private const string Go = "  state Go, initial\n    while here: run Drive at 40 %\n";
    internal const string Deck = "scene Deck\nends after 20 s\n\ndeck 1200 by 900 mm\n\nstart Drive at (600, 200) facing 0 robot deg\n";

    internal static Challenge Made(HeatScore by, string scene = Deck, LaneStart? second = null) =>
        new("Stay on", "Stay on the deck.", ["Be kind."], "robot", scene, by, second is not null, second, 2, 5, 10, 1, 0);

    private static string? Wrong(Challenge challenge, string field)
    {
        var need = new Require();
        ChallengeRules.Check(need, challenge.Clean(), challenge.Rig == "robot" ? FloorBench.Rig(Go) : null);
        try
        {
            need.Done();
            return null;
        }
        catch (InputProblem p)
        {
            return p.Errors.GetValueOrDefault(field) ?? $"only {string.Join(", ", p.Errors.Keys)}";
        }
    }

    [Fact]
    public void A_sound_one_is_taken_and_what_is_wrong_is_said_at_its_field()
    {
        var sound = Made(HeatScore.Stays);
        Assert.Null(Wrong(sound, ""));
        Assert.Equal("1 to 60 letters.", Wrong(sound with { Name = "  " }, "name"));
        Assert.Equal("1 to 2000 letters.", Wrong(sound with { Task = null! }, "task"));
        Assert.Equal("At most 12 rules.", Wrong(sound with { Rules = [.. Enumerable.Repeat("Be kind.", 13)] }, "rules"));
        Assert.Equal("At most 300 letters.", Wrong(sound with { Rules = [new('a', 301)] }, "rules[0]"));
        Assert.Equal("A whole number from 0 to 20.", Wrong(sound with { Touches = 21 }, "touches"));
        Assert.Contains("1000", Wrong(sound with { TouchCost = double.NaN }, "touchCost"));
        Assert.Contains("1000", Wrong(sound with { FallCost = -1 }, "fallCost"));
        Assert.Equal("A whole number from 0 to 5.", Wrong(sound with { Reruns = -1 }, "reruns"));
        Assert.Contains("100", Wrong(sound with { Within = 101 }, "within"));
        Assert.Equal("There is no rig “nobody”.", Wrong(sound with { Rig = "nobody" }, "rig"));
        Assert.Contains("Choose the rig", Wrong(sound with { Rig = "" }, "rig"));
        Assert.StartsWith("Line 2: ", Wrong(sound with { Scene = "scene Deck\nstart Nobody somewhere\n" }, "scene"));
        Assert.Contains("score 10", Wrong(Made(HeatScore.Points), "scene"));
        Assert.Contains("goal", Wrong(Made(HeatScore.Time), "scene"));
        Assert.Contains(
            "guests",
            Wrong(sound with { Scene = Deck + "guest Bess is Other copy 1, starts at (1, 1) facing 0 robot deg\n" }, "scene")
        );
        Assert.Contains("at most", Wrong(sound with { Scene = new('#', SceneParser.MostCharacters + 1) }, "scene"));
    }

    [Fact]
    public void In_one_place_only_staying_up_and_distance_can_be_scored()
    {
        var both = Made(HeatScore.Stays, Deck, new(600, 700, 180));
        Assert.Null(Wrong(both, ""));
        Assert.Null(Wrong(both with { By = HeatScore.Distance }, ""));
        Assert.Contains(
            "whose points",
            Wrong(both with { By = HeatScore.Points, Scene = Deck + "score 1 when robot over the edge\n" }, "by")
        );
        Assert.Contains("Say where", Wrong(both with { Second = null }, "second"));
        Assert.Contains("10000", Wrong(both with { Second = new(20_000, 0, 0) }, "second.x")!.Replace(" ", "", StringComparison.Ordinal));
        Assert.Contains("only on a floor", Wrong(both with { Scene = "scene Nowhere\nends after 5 s\n" }, "scene"));
        // A second start means nothing where each has a field of its own.
        Assert.Null((both with { Together = false }).Clean().Second);
    }

    [Theory]
    // Points less 5 a touch and 10 a fall; with a third touch the run does not count.
    [InlineData(HeatScore.Points, 50.0, 1, 2, 30.0)]
    [InlineData(HeatScore.Points, 50.0, 0, 3, null)]
    // Seconds and what is added.
    [InlineData(HeatScore.Time, 12.5, 1, 1, 27.5)]
    [InlineData(HeatScore.Time, null, 1, 1, null)]
    [InlineData(HeatScore.Distance, 800.0, 1, 0, 790.0)]
    // A fall ends it, and costs nothing more; who did not fall stayed all the time.
    [InlineData(HeatScore.Stays, 7.2, 1, 0, 7.2)]
    [InlineData(HeatScore.Stays, null, 0, 0, 20.0)]
    [InlineData(HeatScore.Stays, null, 0, 1, 15.0)]
    public void A_sheet_is_worth_what_the_rules_say(HeatScore by, double? value, int falls, int touches, double? worth)
    {
        var challenge = Made(by);
        Assert.Equal(worth, ChallengeRules.Score(challenge, new(true, value, falls, touches), 20));
        Assert.Null(ChallengeRules.Score(challenge, new(false, value, falls, touches), 20));
    }

    [Fact]
    public void What_a_judge_writes_is_looked_at()
    {
        string? said(HeatScore by, LaneSheet? sheet)
        {
            var need = new Require();
            ChallengeRules.Check(need, Made(by), sheet, "one", 20);
            try
            {
                need.Done();
                return null;
            }
            catch (InputProblem p)
            {
                return string.Join(" ", p.Errors.Select(e => $"{e.Key}: {e.Value}"));
            }
        }
        Assert.Null(said(HeatScore.Points, new(true, -20, 0, 0)));
        Assert.Null(said(HeatScore.Points, new(false, null, 0, 0)));
        Assert.Contains("one: ", said(HeatScore.Points, null));
        Assert.Contains("How many points?", said(HeatScore.Points, new(true, null, 0, 0)));
        Assert.Contains("How far", said(HeatScore.Distance, new(true, null, 0, 0)));
        // A run that does not count needs no number.
        Assert.Null(said(HeatScore.Distance, new(true, null, 0, 3)));
        Assert.Contains("one.value", said(HeatScore.Time, new(true, 20.1, 0, 0)));
        Assert.Contains("one.value", said(HeatScore.Time, new(true, double.NaN, 0, 0)));
        Assert.Contains("one.falls", said(HeatScore.Time, new(true, 2, -1, 0)));
        Assert.Contains("one.touches", said(HeatScore.Time, new(true, 2, 0, 100)));
    }

    [Fact]
    public void The_rules_say_what_the_numbers_say()
    {
        var said = string.Join("\n", (Made(HeatScore.Time) with { Within = 0.2 }).Sentences());
        Assert.Contains("Scores no farther apart than 0.2 s are a draw.", said);
        Assert.Contains("touch its machine 2 times in a run; each adds 5 s.", said);
        Assert.Contains("Each fall adds 10 s.", said);
        Assert.Contains("ask for 1 re-run", said);
        Assert.Contains("parted by their own heats", said);
        var stays = string.Join("\n", (Made(HeatScore.Stays) with { Touches = 0, Reruns = 0 }).Sentences());
        Assert.Contains("falls first loses", stays);
        Assert.Contains("Nobody touches", stays);
        Assert.Contains("There is no re-run.", stays);
        Assert.DoesNotContain("Each fall", stays);
        Assert.Contains("takes off 1 point.", string.Join("\n", (Made(HeatScore.Points) with { TouchCost = 1 }).Sentences()));
    }

    [Fact]
    public void What_the_scene_starts_is_the_one_thing_that_drives_whatever_it_is_called()
    {
        const string scene = """
            scene A
            start Barrow at (1, 2) facing 0 robot deg
            start Mast at 3 motor deg
            # start Barrow at (4, 5)
            thing flag round 30 mm, on Barrow at (0, 70)
            light falls by 8 % on Barrow eye at 5 s
            score -20 when Barrow over the edge
            never: not (Barrow within 60 mm of track) for more than 1 s
            """;
        string[] renamed =
        [
            .. scene.Split('\n').Select((l, i) => i is 1 or 4 or 6 or 7 ? l.Replace("Barrow", "Drive", StringComparison.Ordinal) : l),
        ];
        Assert.Equal(renamed, ChallengeRules.For(scene, FloorBench.Rig(Go)).Split('\n'));
        Assert.Equal(Deck, ChallengeRules.For(Deck, FloorBench.Rig(Go)));
        // The rig's own name is known already; of two that drive nobody knows which is meant.
        const string own = "scene A\nstart Robot at (1, 2) facing 0 robot deg\n";
        Assert.Equal(own, ChallengeRules.For(own, FloorBench.Rig(Go)));
    }

    [Fact]
    public void A_field_says_what_it_is_built_from()
    {
        var rig = FloorBench.Rig(Go);
        var read = SceneParser.Parse(
            """
            scene Field
            floor 2 m by 1 m, walls round it
            strip track of line 20 mm wide from (100, 100) to (400, 100) to (400, 500)
            wall from (0, 0) to (300, 400)
            patch bay of weed 200 by 150 mm at (900, 600), turned 30 robot deg
            round place net 200 mm across at (400, 300)
            thing crate 60 by 40 mm 120 g at (500, 300), fixed
            6 things crumb round 18 mm 3 g at random on net, 20 mm apart
            start Drive at (200, 200) facing 90 robot deg
            light rises by 8 % on Start button at 5 s for 4 s, in 3 of 100 runs
            """,
            rig
        );
        string[] said = [.. FieldParts.Of(read.Scene).Select(p => $"{p.Count} {p.What}; {p.Size}; {p.Where}")];
        Assert.Equal(
            [
                "1 floor; 2000 by 1000 mm; walls all round it",
                // By hand: 300 and 400 mm of tape; a wall of 3, 4 and 5.
                "1 tape of line for track; 20 mm wide, 700 mm long; along (100, 100), (400, 100), (400, 500)",
                "1 wall; 500 mm long; along (0, 0), (300, 400)",
                "1 bay of weed; 200 by 150 mm; (900, 600), turned 30°",
                "1 net, marked at its edge; 200 mm across; (400, 300)",
                "1 crate; 60 by 40 mm, 120 g, fixed; (500, 300)",
                "6 crumb; 18 mm across, 3 g; spread on net, at least 20 mm apart",
            ],
            said
        );
        // What rides on one machine rides on the other too.
        var deck = SceneParser.Parse(
            "scene Joust\ndeck 1 m by 700 mm of deck, drop beyond\nthing buoy round 30 mm 20 g, on Drive at (-5, 70), 40 mm high\n",
            rig
        );
        Assert.Equal(
            [
                "1 deck; 1000 by 700 mm; raised: its edge is a drop",
                "2 buoy; 30 mm across, 20 g, 40 mm high; on each machine: 70 mm ahead of its axle, -5 mm to the right",
            ],
            FieldParts.Of(deck.Scene, true).Select(p => $"{p.Count} {p.What}; {p.Size}; {p.Where}")
        );
        Assert.StartsWith("on Drive: 70 mm", FieldParts.Of(deck.Scene)[1].Where);
        Assert.Equal(400, FieldParts.Length([(0, 0), (100, 0), (100, 100), (0, 100)], true), 9);
        Assert.Equal(300, FieldParts.Length([(0, 0), (100, 0), (100, 100), (0, 100)], false), 9);
    }

    [Fact]
    public void One_is_made_of_any_scene()
    {
        var rig = FloorBench.Rig(Go);
        Challenge of(string scene) => ChallengeRules.About("robot", rig, scene, SceneParser.Parse(scene, rig).Scene, ["Robot: Deck"]);
        var plain = of(Deck);
        Assert.Equal(("Robot: Deck 2", HeatScore.Distance), (plain.Name, plain.By));
        Assert.Null(Wrong(plain, ""));
        var points = of(Deck + "score -20 when robot over the edge\ngoal: finished\n");
        Assert.Equal(HeatScore.Points, points.By);
        var time = of(Deck + "goal: finished\n");
        Assert.Equal((HeatScore.Time, 0.2), (time.By, time.Within));
        Assert.Contains("goal: finished", time.Task);
        Assert.Null(Wrong(time, ""));
    }
}
