using System.Text.RegularExpressions;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Classroom;

/// <summary>Where the team in the second lane is put down, where both are in one place.</summary>
/// <param name="X">Middle of its axle to the right, mm.</param>
/// <param name="Y">Middle of its axle up, mm.</param>
/// <param name="Facing">Its heading, degrees clockwise from up.</param>
public sealed record LaneStart(double X, double Y, double Facing);

/// <summary>A challenge: a scene with scores, and rules in sentences.</summary>
/// <param name="Name">Its name; there is one of each at the desk.</param>
/// <param name="Task">What is to be done, in plain words.</param>
/// <param name="Rules">Rules in sentences, in order.</param>
/// <param name="Rig">Address of the rig whose devices the scene speaks of.</param>
/// <param name="Scene">The scene, as text.</param>
/// <param name="By">What a heat is scored by.</param>
/// <param name="Together">True where both teams of a heat are in one place; else each has a field of its own.</param>
/// <param name="Second">Where the second is put down; null where each has a field of its own.</param>
/// <param name="Touches">How often a team may touch its machine in a run, 0 to 20; with one more the run does not count.</param>
/// <param name="TouchCost">What a touch costs, in the unit of the score, 0 to 1000.</param>
/// <param name="FallCost">What a fall costs, in the unit of the score, 0 to 1000; where it is scored by who stays up, a fall ends
/// it.</param>
/// <param name="Reruns">How many re-runs a team may ask for in all its heats, 0 to 5.</param>
/// <param name="Within">Scores that are no farther apart than this are a draw, in the unit of the score, 0 to 100.</param>
public sealed record Challenge(
    string Name,
    string Task,
    IReadOnlyList<string> Rules,
    string Rig,
    string Scene,
    HeatScore By,
    bool Together,
    LaneStart? Second,
    int Touches,
    double TouchCost,
    double FallCost,
    int Reruns,
    double Within
)
{
    /// <summary>Most rules.</summary>
    public const int MostRules = 12;

    /// <summary>The challenge as it is kept: no blanks around what was typed, and no list that is nothing.</summary>
    public Challenge Clean() =>
        this with
        {
            Name = Name?.Trim() ?? "",
            Task = Task?.Trim() ?? "",
            Rules = [.. (Rules ?? []).Select(r => r?.Trim() ?? "").Where(r => r != "")],
            Rig = Rig ?? "",
            Scene = Scene?.ReplaceLineEndings("\n").Trim('\n') + "\n",
            Second = Together ? Second : null,
        };

    /// <summary>Unit of its scores.</summary>
    public string Unit() =>
        By switch
        {
            HeatScore.Points => "points",
            HeatScore.Distance => "mm",
            _ => "s",
        };

    /// <summary>How a heat is won, in a sentence.</summary>
    public string Won() =>
        By switch
        {
            HeatScore.Points => "Who has more points wins the heat.",
            HeatScore.Time => "Who is done sooner wins the heat; who is not done loses to who is.",
            HeatScore.Distance => "Who comes farther from its start wins the heat.",
            _ => "Whose falls first loses the heat: the machine itself, or what it carries.",
        };

    /// <summary>The rules that its numbers say, in sentences; those that were written come before them.</summary>
    public IReadOnlyList<string> Sentences()
    {
        string Cost(double cost) => $"{Figures.Show(cost)} {(By == HeatScore.Points && cost == 1 ? "point" : Unit())}";
        var costs = By switch
        {
            HeatScore.Time => "adds",
            _ => "takes off",
        };
        List<string> said = [Won()];
        if (Within > 0)
            said.Add($"Scores no farther apart than {Cost(Within)} are a draw.");
        said.Add(
            Touches == 0 ? "Nobody touches a machine while it runs; where somebody does, the run does not count."
            : TouchCost > 0
                ? $"A team may touch its machine {Figures.Count(Touches, "time")} in a run; each {costs} {Cost(TouchCost)}. With one more "
                    + "the run does not count."
            : $"A team may touch its machine {Figures.Count(Touches, "time")} in a run. With one more the run does not count."
        );
        if (By != HeatScore.Stays && FallCost > 0)
            said.Add($"Each fall {costs} {Cost(FallCost)}.");
        said.Add(
            Reruns == 0
                ? "There is no re-run."
                : $"A team may ask for {Figures.Count(Reruns, "re-run")} in all its heats, before the next heat begins."
        );
        said.Add("Who cannot start loses to who can. " + Heats.Ties);
        return said;
    }
}

/// <summary>What a judge wrote of one lane.</summary>
/// <param name="Started">False where the team could not start.</param>
/// <param name="Value">Points, seconds or millimetres; null where it was not done in time, or stayed up to the end.</param>
/// <param name="Falls">How often something fell.</param>
/// <param name="Touches">How often the team touched its machine.</param>
public sealed record LaneSheet(bool Started, double? Value, int Falls, int Touches)
{
    /// <summary>Most falls or touches that are written.</summary>
    public const int MostCounted = 99;
}

/// <summary>What a challenge must be, and what a judge's sheet of it is worth.</summary>
public static partial class ChallengeRules
{
    [GeneratedRegex(@"^(\s*start\s+)(\S.*?)(\s+at\s+)", RegexOptions.CultureInvariant)]
    private static partial Regex Start();

    // Lines that speak of what drives by its name; those of sensors and of other parts are left as they are.
    [GeneratedRegex(@"^\s*(start|(\d+ )?things?|load|goal|never|score|person puts)\b", RegexOptions.CultureInvariant)]
    private static partial Regex Speaks();

    /// <summary>Checks a challenge.</summary>
    /// <param name="need">Notes what is wrong, by field.</param>
    /// <param name="c">The challenge.</param>
    /// <param name="rig">The rig that its scene speaks of; null where there is none.</param>
    public static void Check(Require need, Challenge c, RigDesign? rig)
    {
        need.That(c.Name.Length is > 0 and <= 60, "name", "1 to 60 letters.");
        need.That(c.Task.Length is > 0 and <= 2000, "task", "1 to 2000 letters.");
        need.That(c.Rules.Count <= Challenge.MostRules, "rules", $"At most {Challenge.MostRules} rules.");
        foreach (var (i, rule) in c.Rules.Index())
            need.That(rule.Length <= 300, $"rules[{i}]", "At most 300 letters.");
        need.That(c.Touches is >= 0 and <= 20, "touches", "A whole number from 0 to 20.");
        need.Number(c.TouchCost, "touchCost", 0, 1000);
        need.Number(c.FallCost, "fallCost", 0, 1000);
        need.That(c.Reruns is >= 0 and <= 5, "reruns", "A whole number from 0 to 5.");
        need.Number(c.Within, "within", 0, 100);
        if (c.Together)
        {
            need.That(
                c.By is HeatScore.Stays or HeatScore.Distance,
                "by",
                "Where both are in one place, nobody can say whose points are whose: score by who stays up, or by distance."
            );
            need.That(c.Second is not null, "second", "Say where the second is put down.");
            if (c.Second is { } second)
            {
                need.Number(second.X, "second.x", -10_000, 10_000);
                need.Number(second.Y, "second.y", -10_000, 10_000);
                need.Number(second.Facing, "second.facing", -360, 360);
            }
        }
        if (rig is null)
        {
            need.That(false, "rig", c.Rig == "" ? "Choose the rig whose devices the scene speaks of." : $"There is no rig “{c.Rig}”.");
            return;
        }
        if (c.Scene.Length > SceneParser.MostCharacters)
        {
            need.That(false, "scene", $"Give a scene of at most {SceneParser.MostCharacters} characters.");
            return;
        }
        var read = SceneParser.Parse(c.Scene, rig);
        need.That(
            read.Diagnostics.Count == 0,
            "scene",
            read.Diagnostics.Count == 0 ? "" : $"Line {read.Diagnostics[0].Line}: {read.Diagnostics[0].Message}"
        );
        if (read.Diagnostics.Count > 0)
            return;
        var scene = read.Scene;
        need.That(scene.First("guest") is null, "scene", "The teams' machines are its guests: leave its own out.");
        need.That(
            c.By != HeatScore.Points || scene.Lines.Any(l => l.Key.StartsWith("score", StringComparison.Ordinal)),
            "scene",
            "Scored by points it needs a line that gives some, as “score 10 for each crumb off the deck”."
        );
        need.That(
            c.By != HeatScore.Time || scene.First("goal") is not null,
            "scene",
            "Scored by time it needs a goal that says when it is done, as “goal: stopped over berth within 60 s”."
        );
        need.That(
            !c.Together || scene.First("deck") is not null || scene.First("floor") is not null,
            "scene",
            "Both can be in one place only on a floor or a deck."
        );
    }

    /// <summary>A challenge about a rig's scene, to begin with: by points where the scene gives any, by time where it asks for something,
    /// else by distance.</summary>
    /// <param name="address">Address of the rig.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="text">The scene, as text.</param>
    /// <param name="scene">The same, read.</param>
    /// <param name="taken">Names of the challenges that are there already.</param>
    public static Challenge About(string address, RigDesign rig, string text, SceneNode scene, IReadOnlyCollection<string> taken)
    {
        var by =
            scene.Lines.Any(l => l.Key.StartsWith("score", StringComparison.Ordinal)) ? HeatScore.Points
            : scene.First("goal") is not null ? HeatScore.Time
            : HeatScore.Distance;
        var asks = scene.Lines.Where(l => l.Key is "goal" or "never").Select(ScenePrinter.Print).ToArray();
        var name = $"{rig.Name}: {scene.Name}";
        return new(
            Board.FreeName(name.Length > 50 ? name[..50].TrimEnd() : name, taken),
            asks.Length > 0 ? $"Show what {rig.Name} can do: {string.Join("; ", asks)}." : $"Show what {rig.Name} can do.",
            [],
            address,
            text,
            by,
            false,
            null,
            0,
            0,
            0,
            1,
            by == HeatScore.Time ? 0.2 : 0
        );
    }

    /// <summary>What a judge's sheet is worth; null where the run does not count, or was not done in time.</summary>
    /// <param name="c">The challenge.</param>
    /// <param name="sheet">The sheet.</param>
    /// <param name="limitS">How long a run lasts at most, s.</param>
    public static double? Score(Challenge c, LaneSheet sheet, double limitS)
    {
        if (!sheet.Started || sheet.Touches > c.Touches)
            return null;
        var costs = sheet.Touches * c.TouchCost + (c.By == HeatScore.Stays ? 0 : sheet.Falls * c.FallCost);
        return c.By switch
        {
            HeatScore.Time => sheet.Value + costs,
            // Who did not fall stayed up all the time.
            HeatScore.Stays => (sheet.Value ?? limitS) - costs,
            _ => sheet.Value - costs,
        };
    }

    /// <summary>Checks what a judge wrote of a lane.</summary>
    /// <param name="need">Notes what is wrong, by field.</param>
    /// <param name="c">The challenge.</param>
    /// <param name="sheet">The sheet; null where nothing was given.</param>
    /// <param name="at">Its field.</param>
    /// <param name="limitS">How long a run lasts at most, s.</param>
    public static void Check(Require need, Challenge c, LaneSheet? sheet, string at, double limitS)
    {
        if (sheet is null)
        {
            need.That(false, at, "Say how this lane came out.");
            return;
        }
        need.That(sheet.Falls is >= 0 and <= LaneSheet.MostCounted, $"{at}.falls", $"A whole number from 0 to {LaneSheet.MostCounted}.");
        need.That(
            sheet.Touches is >= 0 and <= LaneSheet.MostCounted,
            $"{at}.touches",
            $"A whole number from 0 to {LaneSheet.MostCounted}."
        );
        if (!sheet.Started)
            return;
        if (sheet.Value is { } value)
        {
            if (c.By is HeatScore.Time or HeatScore.Stays)
                need.Number(value, $"{at}.value", 0, limitS);
            else
                need.Number(value, $"{at}.value", c.By == HeatScore.Distance ? 0 : -100_000, 100_000);
        }
        else
            need.That(
                c.By is HeatScore.Time or HeatScore.Stays || sheet.Touches > c.Touches,
                $"{at}.value",
                c.By == HeatScore.Distance ? "How far did it come, in mm?" : "How many points?"
            );
    }

    /// <summary>The scene as a team's rig is put into it: where that has one thing that drives, what the scene starts is that, whatever
    /// it is called, and so it is in what rides on it, in goals and in scores.</summary>
    /// <param name="scene">The scene, as text.</param>
    /// <param name="rig">The team's rig.</param>
    public static string For(string scene, RigDesign rig)
    {
        var drives = rig.Mechanisms.Where(m => m.Facts.Going != Going.Nowhere).ToArray();
        if (drives.Length != 1)
            return scene;
        var known = rig.Mechanisms.SelectMany(m => m.Motors.Append(m.Name)).Append(rig.Name).ToHashSet();
        var lines = scene.Split('\n');
        var called = lines
            .Select(l => Start().Match(l))
            .Where(m => m.Success)
            .Select(m => m.Groups[2].Value)
            .FirstOrDefault(n => !known.Contains(n));
        if (called is null)
            return scene;
        var word = new Regex($@"(?<![\w']){Regex.Escape(called)}(?![\w'])", RegexOptions.CultureInvariant);
        return string.Join('\n', lines.Select(l => Speaks().IsMatch(l) ? word.Replace(l, drives[0].Name) : l));
    }
}
