using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>What a scene must satisfy: names that exist and are said once, numbers in range, things where they can lie.</summary>
internal static class SceneRules
{
    private static readonly string[] Once =
    [
        "ends",
        "step",
        "counts",
        "floor",
        "deck",
        "rail",
        "belt",
        "sends",
        "sticks",
        "leaks",
        "reacts",
        "lost messages",
    ];

    /// <summary>Most things of a scene.</summary>
    public const int MostThings = 500;

    /// <summary>Lines of the ground that may be left out in some runs: the rest stays as it is.</summary>
    internal static readonly string[] LaidSometimes =
    [
        "wall",
        "strip",
        "patch",
        "round patch",
        "place",
        "round place",
        "shade",
        "marker",
        "points",
        "notches",
        "notch",
    ];

    // All that may be so in some runs only.
    private static readonly HashSet<string> NotAlways =
    [
        .. LaidSometimes,
        "thing round",
        "thing box",
        "things round",
        "things box",
        "load",
        "leaks",
        "start drive",
        "start rail",
        "start axis",
        "start position",
    ];

    /// <summary>Every fault, by line.</summary>
    public static IEnumerable<Diagnostic> Check(SceneNode scene, SceneNames names)
    {
        var found = new List<Diagnostic>();
        void Say(SceneLine line, string what, string message, string? suggestion = null)
        {
            var text = ScenePrinter.Print(line);
            var at = Math.Max(0, text.IndexOf(what, StringComparison.Ordinal));
            found.Add(new(line.Line, at + 1, Math.Max(1, what.Length), what, "", message, suggestion));
        }
        foreach (var key in Once)
        foreach (var extra in scene.All(key).Skip(1))
            Say(extra, ScenePrinter.Print(extra), $"This is said in line {scene.First(key)!.Line} already.");
        if (scene.First("floor") is not null && scene.First("deck") is { } deck)
            Say(deck, "deck", "A scene has a floor or a deck, not both.");
        foreach (var line in scene.Lines)
        {
            if (SceneForms.Of(line.Key) is not { } form)
                continue;
            foreach (var (slot, (kind, what)) in form.Slots)
            {
                if (line.Name(slot) is { } name)
                    Named(line, name, what);
                if (line.Number(slot) is { } number)
                    Range(line, number, form.UnitOf(slot), what, slot);
                if (kind is SlotKind.Point or SlotKind.Path or SlotKind.Numbers)
                    foreach (var part in Numbers(line.Values.GetValueOrDefault(slot)))
                        Range(line, part, kind == SlotKind.Numbers ? "motor deg" : "mm", kind == SlotKind.Numbers ? "mdeg" : "len", "at");
                if (kind == SlotKind.Pairs && line.Values.GetValueOrDefault(slot) is IReadOnlyList<ScenePair> pairs)
                    foreach (var pair in pairs)
                        Named(line, pair.From, "pos");
            }
            foreach (
                var time in new[] { line.When.At, line.When.From, line.When.Every, line.When.For, line.When.Later, line.When.UntilLater }
            )
                if (time is not null)
                    Range(line, time, "s", "dur", "when");
            if (line.When.In is { } some && !SceneForms.Timed(form) && !NotAlways.Contains(line.Key))
                Say(line, some.Digits, "This is so in every run: “in N of 100 runs” cannot stand here.");
            if (line.When is { In: { } few, Of: { } many } && (many.In("") < 1 || few.In("") > many.In("")))
                Say(line, few.Digits, $"{few} of {many} runs cannot be.");
            if (
                line.Key is "sends" or "lets" or "start position"
                && line.Name(
                    line.Key == "sends" ? "arm"
                    : line.Key == "lets" ? "mech"
                    : "what"
                )
                    is { } of
            )
                Position(line, of);
        }
        if (scene.EndsS is not (> 0 and <= 600))
            Say(scene.First("ends")!, "ends", "A run lasts more than 0 s and at most 600 s.");
        if (scene.First("step")?.Value("t") is { } step and not (>= 0.0005 and <= 0.002))
            Say(scene.First("step")!, "step", "The step of the clock is 0.5 to 2 ms.");
        var places = SceneWords.Places(scene).ToHashSet();
        places.UnionWith(["deck", "floor"]);
        foreach (var group in scene.Lines.Where(l => MakesName(l.Key)).GroupBy(l => l.Name("name")))
        foreach (var extra in group.Skip(1).Where(l => l.Key != "feed"))
            Say(extra, extra.Name("name")!, $"“{extra.Name("name")}” stands for something already. Give it another name.");
        foreach (var line in scene.Lines)
            if (line.Name("place") is { } place && !places.Contains(place) && line.Key is not ("score each"))
                Say(line, place, $"No place “{place}” in this scene.{Near(place, places)}");
        var count = scene.Lines.Sum(l =>
            l.Key is "thing round" or "thing box" ? 1
            : l.Value("n") is { } n && l.Key is "things round" or "things box" ? n
            : 0
        );
        if (count > MostThings)
            Say(
                scene.Lines.First(l => l.Key.StartsWith("thing", StringComparison.Ordinal)),
                "",
                $"At most {MostThings} things lie in a scene; here are {count:0}."
            );
        Inside(scene, Say);
        return found;

        void Named(SceneLine line, string name, string what)
        {
            if (what is not ("sensor" or "mech" or "device" or "pos"))
                return;
            string[] known = [.. names.Of(what, scene)];
            // What is wired of a guest is said with its name: “Other's Button”.
            if (known.Contains(name) || name.Contains('\''))
                return;
            Say(
                line,
                name,
                $"No {(what == "mech" ? "mechanism" : what == "pos" ? "position" : what)} “{name}” on this rig.{Near(name, known)}",
                NearMiss.Find(name, known)
            );
        }
        void Position(SceneLine line, string mechanism)
        {
            var positions = names.Rig.Mechanisms.FirstOrDefault(m => m.Name == mechanism)?.Positions ?? [];
            var used = line.Values.GetValueOrDefault("pairs") is IReadOnlyList<ScenePair> pairs
                ? pairs.Select(p => p.From)
                : new[] { line.Name("pos") }.OfType<string>();
            foreach (var position in used)
                if (!positions.Contains(position))
                    Say(line, position, $"{mechanism} has no position “{position}”.{Near(position, positions)}");
        }
        void Range(SceneLine line, SceneNumber n, string unit, string what, string slot)
        {
            var value = n.Of.In(unit);
            if (n.To is { } to && to.In(unit) < value)
                Say(line, to.ToString(), "The second of the two must be the greater.");
            if (n.GiveOrTake is { } sd && sd.In(unit) < 0)
                Say(line, sd.ToString(), "What it varies by is not below 0.");
            var least = what is "len" or "dur" or "mass" or "force" or "vol" or "flow" or "volt" or "speed" ? 0 : double.MinValue;
            // Ways along a rail and angles of marks may be counted from before their beginning.
            if (what == "len" && slot is "at" or "a" or "b")
                least = double.MinValue;
            if (value < least)
                Say(line, n.Of.ToString(), "This cannot be below 0.");
            else if (value == 0 && slot is "w" or "d" or "h" or "l" or "v" && what is "len" or "vol")
                Say(line, n.Of.ToString(), "This must be more than 0.");
            var most = what switch
            {
                "len" => 100_000,
                "dur" => 600,
                "pct" => 100,
                "force" => 1_000,
                "mass" => 100_000,
                "speed" => 10_000,
                "vol" => 1_000,
                "flow" => 100,
                "volt" => 60,
                _ => 1e9,
            };
            if (Math.Abs(value) > most)
                Say(line, n.Of.ToString(), $"At most {most} {SceneUnits.Own(what)}.");
        }
    }

    private static IEnumerable<SceneNumber> Numbers(object? value) =>
        value switch
        {
            ScenePoint p => Each(p),
            IReadOnlyList<ScenePoint> path => path.SelectMany(Each),
            IReadOnlyList<SceneNumber> list => list,
            _ => [],
        };

    private static IEnumerable<SceneNumber> Each(ScenePoint p) => p.GiveOrTake is { } sd ? [p.X, p.Y with { GiveOrTake = sd }] : [p.X, p.Y];

    private static string Near(string name, IEnumerable<string> names) =>
        NearMiss.Find(name, names) is { } near ? $" Did you mean “{near}”?" : "";

    private static bool MakesName(string key) =>
        key
            is "patch"
                or "round patch"
                or "place"
                or "round place"
                or "place of"
                or "marker"
                or "siding"
                or "thing round"
                or "thing box"
                or "things round"
                or "things box"
                or "load"
                or "tank"
                or "guest"
                or "feed";

    // Where things are put: on the floor, not in a wall, not in each other.
    private static void Inside(SceneNode scene, Action<SceneLine, string, string, string?> say)
    {
        var ground = scene.First("floor") ?? scene.First("deck");
        var (w, d) = (ground?.Value("w") ?? 0, ground?.Value("d") ?? 0);
        var walls = scene.All("wall").SelectMany(l => l.Points("path").Zip(l.Points("path").Skip(1))).ToArray();
        var fixedThings = new List<(SceneLine Line, double X, double Y, double R)>();
        foreach (var line in scene.Lines)
        {
            if (line.Point("at") is not { } p || line.Key is "guest")
                continue;
            if (ground is not null && line.Key is "start drive" or "thing round" or "thing box" or "puts drive")
                if (p.X < 0 || p.Y < 0 || p.X > w || p.Y > d)
                    say(
                        line,
                        line.Values["at"].ToString()!,
                        $"This lies outside of the {ground!.Key}, which is {w:0.#} by {d:0.#} mm.",
                        null
                    );
            if (line.Key is not ("thing round" or "thing box"))
                continue;
            var r = line.Key == "thing round" ? line.Value("w")!.Value / 2 : Math.Min(line.Value("w")!.Value, line.Value("d")!.Value) / 2;
            foreach (var (a, b) in walls)
                if (Ground.Shape.ToSegment(p.X, p.Y, a.X, a.Y, b.X, b.Y) < r)
                {
                    say(line, line.Values["at"].ToString()!, $"{line.Name("name")} stands in a wall.", null);
                    break;
                }
            foreach (var other in fixedThings)
                if (Math.Sqrt((p.X - other.X) * (p.X - other.X) + (p.Y - other.Y) * (p.Y - other.Y)) < (r + other.R) * 0.98)
                {
                    say(line, line.Values["at"].ToString()!, $"{line.Name("name")} stands in {other.Line.Name("name")}.", null);
                    break;
                }
            fixedThings.Add((line, p.X, p.Y, r));
        }
    }
}
