using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>What could be written next in a line of a scene.</summary>
/// <param name="Text">What is put in.</param>
/// <param name="Kind">word, name or number.</param>
public sealed record SceneHint(string Text, string Kind);

/// <summary>Names that a scene makes, and what may follow in a line of it.</summary>
public static class SceneWords
{
    private static readonly string[] MakesPlace = ["patch", "round patch", "place", "round place", "place of", "marker"];

    /// <summary>The places of a scene: patches, places, markers and those made of positions; bins of a belt too.</summary>
    public static IEnumerable<string> Places(SceneNode scene) =>
        scene
            .Lines.Where(l => MakesPlace.Contains(l.Key))
            .Select(l => l.Name("name")!)
            .Concat(scene.All("sends").SelectMany(l => ((IReadOnlyList<ScenePair>)l.Values["pairs"]).Select(p => p.To)))
            .Concat(scene.First("deck") is null ? [] : ["the deck"])
            .Concat(scene.First("floor") is null ? [] : ["the floor"])
            .Distinct();

    /// <summary>The things of a scene: what lies there, is carried or comes along a belt; several alike by their one name.</summary>
    public static IEnumerable<string> Things(SceneNode scene) =>
        scene
            .Lines.Where(l => l.Key is "thing round" or "thing box" or "things round" or "things box" or "load" or "feed")
            .Select(l => l.Name("name")!)
            .Distinct();

    /// <summary>Several of a thing, as people say it: shells, boxes, buoys, berries.</summary>
    public static string Several(string thing) =>
        thing.EndsWith('y') && thing.Length > 1 && !"aeiou".Contains(thing[^2]) ? thing[..^1] + "ies"
        : thing.EndsWith('s')
        || thing.EndsWith('x')
        || thing.EndsWith("ch", StringComparison.Ordinal)
        || thing.EndsWith("sh", StringComparison.Ordinal)
            ? thing + "es"
        : thing + "s";

    /// <summary>The thing a name speaks of, also of several (“crumbs” for crumb); null for none.</summary>
    public static string? Thing(SceneNode scene, string name)
    {
        foreach (var thing in Things(scene))
            if (thing == name || thing + "s" == name || thing + "es" == name || thing.EndsWith('y') && thing[..^1] + "ies" == name)
                return thing;
        return null;
    }

    /// <summary>What may come at the end of what was typed of a line, likeliest first.</summary>
    /// <param name="typed">The line up to the cursor.</param>
    /// <param name="scene">The scene it stands in; null where there is none yet.</param>
    /// <param name="rig">The rig.</param>
    public static IReadOnlyList<SceneHint> Next(string typed, SceneNode? scene, RigDesign rig)
    {
        var names = SceneParser.Names(rig);
        var open = typed.Length > 0 && !char.IsWhiteSpace(typed[^1]) ? typed[(typed.LastIndexOfAny([' ', ',', '(', ':']) + 1)..] : "";
        var before = typed[..^open.Length];
        var list = new List<SceneHint>();
        if (before.Trim() == "")
        {
            list.AddRange(SceneForms.All.Where(f => f.First != "" && f.Key != "scene").Select(f => new SceneHint(f.First, "word")));
            list.AddRange(names.Of("device", null).Select(n => new SceneHint(n, "name")));
        }
        else
        {
            SceneMatcher matcher;
            try
            {
                matcher = new(before.TrimStart(), 1, names) { Completing = true };
            }
            catch (LineFault)
            {
                return [];
            }
            matcher.Read(SceneParser.Candidates(before.TrimStart()));
            if (matcher.Tokens[matcher.Far].Kind == TokenKind.End)
                foreach (var (text, literal) in matcher.Wanted)
                    if (literal)
                        list.Add(new(text, "word"));
                    else
                        list.AddRange(Fill(text, scene, names));
        }
        return
        [
            .. list.Where(h => open == "" || h.Text.StartsWith(open, StringComparison.OrdinalIgnoreCase)).DistinctBy(h => h.Text).Take(40),
        ];
    }

    private static IEnumerable<SceneHint> Fill(string say, SceneNode? scene, SceneNames names)
    {
        foreach (var what in new[] { "sensor", "mech", "device", "surf", "pos", "place" })
            if (SceneUnits.Say(what) == say)
                return names.Of(what, scene).Select(n => new SceneHint(n, "name"));
        if (say == SceneUnits.Say("cond"))
            return names
                .Own.Regions.Select(r => $"{r} is in")
                .Concat(names.Rig.Sensors.Select(s => s.Name))
                .Concat(scene is null ? [] : Things(scene))
                .Concat(names.Rig.Mechanisms.Select(m => m.Name))
                .Select(n => new SceneHint(n, "name"));
        var such = say.IndexOf("such as ", StringComparison.Ordinal);
        return such < 0 || !say.Contains(' ') || say.StartsWith("a surface", StringComparison.Ordinal)
            ? []
            : [new SceneHint(say[(such + 8)..], "number")];
    }
}
