using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>Changes of the scenes of a rig, and scenes that follow changes of the rig.</summary>
public static class SceneEdits
{
    /// <summary>Most scenes of a rig.</summary>
    public const int Most = 40;

    /// <summary>A design with other scenes: the rail of the design is that of the first scene that has one.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="texts">The texts of its scenes.</param>
    /// <exception cref="InputProblem">When there are too many, or two are called the same.</exception>
    public static RigDesign With(RigDesign rig, IReadOnlyList<string> texts)
    {
        if (texts.Count is 0 or > Most)
            throw new InputProblem("scenes", $"A rig has 1 to {Most} scenes.");
        for (var i = 0; i < texts.Count; i++)
            if (texts[i] is null || texts[i].Length > SceneParser.MostCharacters)
                throw new InputProblem($"scenes[{i}]", $"Give the text of the scene, at most {SceneParser.MostCharacters} characters.");
        SceneResult[] read = [.. texts.Select(t => SceneParser.Parse(t, rig))];
        if (read.GroupBy(s => s.Scene.Name).FirstOrDefault(g => g.Count() > 1) is { } twice)
            throw new InputProblem("scenes", $"Two scenes are called “{twice.Key}”. Give one of them another name.");
        var next = rig with
        {
            // What cannot be read stays as it was typed.
            Scenes = read.Select(
                    (r, i) =>
                        new SceneText(r.Diagnostics.Count == 0 ? ScenePrinter.Print(r.Scene) : texts[i])
                        {
                            Places = SceneWords.Places(r.Scene).ToSequence(),
                        }
                )
                .ToSequence(),
        };
        if (
            read.FirstOrDefault(r => r.Scene.First("rail") is not null) is not { } railed
            || SceneStarts.RailOf(railed.Scene) is not { } rail
        )
            return next;
        return Same(rig.Rail, rail) ? next : next with { Rail = rail };
    }

    // A rail that says the same keeps where its numbers come from.
    private static bool Same(Rail? kept, Rail said) =>
        kept is not null
        && kept.LengthMm == said.LengthMm
        && kept.Ground == said.Ground
        && kept.Markers.Select(m => (m.Name, m.Surface, m.AtMm, m.LengthMm.Value))
            .SequenceEqual(said.Markers.Select(m => (m.Name, m.Surface, m.AtMm, m.LengthMm.Value)));

    /// <summary>The scenes of a rig whose rail was changed in Rig: the lines that say it are written anew, all others stay.</summary>
    public static RigDesign FollowRail(RigDesign before, RigDesign after)
    {
        if (after.Rail is not { } rail || before.Rail == after.Rail || after.Scenes.Count == 0)
            return after;
        var fresh = SceneParser.Parse(SceneStarts.RailScene(after, rail), after).Scene;
        var scenes = after.Scenes.ToArray();
        for (var i = 0; i < scenes.Length; i++)
        {
            var scene = SceneParser.Parse(scenes[i].Text, after).Scene;
            if (scene.First("rail") is null)
                continue;
            var lines = scene.Lines.Where(l => l.Key is not ("rail" or "marker")).ToList();
            lines.InsertRange(
                lines.TakeWhile(l => SceneForms.Of(l.Key)?.Group == "head").Count(),
                fresh.Lines.Where(l => l.Key is "rail" or "marker")
            );
            scenes[i] = SceneStarts.Made(ScenePrinter.Print(scene with { Lines = lines }), after);
            break;
        }
        return after with { Scenes = [.. scenes] };
    }

    /// <summary>The scenes of a rig in which something has another name now.</summary>
    /// <param name="rig">The design, with its new names.</param>
    /// <param name="from">The old name.</param>
    /// <param name="to">The new one.</param>
    public static RigDesign Renamed(RigDesign rig, string from, string to)
    {
        if (rig.Scenes.Count == 0)
            return rig;
        var words = Vocabulary.Of(rig);
        string[] longer = [.. words.Commanded.Concat(words.Sensors.Select(s => s.Name)).Where(n => n != to && n.Length > from.Length)];
        return rig with
        {
            Scenes = rig
                .Scenes.Select(s =>
                    SceneStarts.Made(
                        string.Join(
                            '\n',
                            s.Text.Split('\n')
                                .Select(l =>
                                    l.StartsWith("scene ", StringComparison.Ordinal) || l.StartsWith('#')
                                        ? l
                                        : LineParser.Renamed(l, from, to, longer)
                                )
                        ),
                        rig
                    )
                )
                .ToSequence(),
        };
    }
}
