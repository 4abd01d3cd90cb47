using Chiton.Core.Quantities;
using Chiton.Core.Simulation.Ground;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Classroom;

/// <summary>Something that a field is built from.</summary>
/// <param name="Count">How many; 1 for what is measured.</param>
/// <param name="What">What it is.</param>
/// <param name="Size">How large or how much, in words.</param>
/// <param name="Where">Where it comes, from the lower left corner; empty where that is drawn.</param>
public sealed record FieldPart(int Count, string What, string Size, string Where);

/// <summary>What a challenge's field is built from, and where it comes.</summary>
public static class FieldParts
{
    /// <summary>The list, in the order of the scene.</summary>
    /// <param name="scene">The scene, without faults.</param>
    /// <param name="together">True where two machines are in it: what rides on the one rides on the other as well.</param>
    public static IReadOnlyList<FieldPart> Of(SceneNode scene, bool together = false)
    {
        var parts = new List<FieldPart>();
        foreach (var l in scene.Lines.Where(l => l.When.In is null))
        {
            var size = l.Value("w") is { } w
                ? l.Value("d") is { } d
                    ? $"{Mm(w)} by {Mm(d)} mm"
                    : $"{Mm(w)} mm across"
                : "";
            // A deck of deck is a deck.
            var of = l.Name("of") is { } surface && surface != l.Key && surface != l.Name("name") ? $" of {surface}" : "";
            var name = l.Name("name") ?? "";
            var at = l.Point("at") is { } p ? At(p) + (l.Value("turned") is { } turned ? $", turned {Mm(turned)}°" : "") : "";
            var weight = l.Value("m") is { } m ? $", {Figures.Show(m)} g" : "";
            switch (l.Key)
            {
                case "floor":
                    parts.Add(new(1, $"floor{of}", size, l.Has("walls round it") ? "walls all round it" : ""));
                    break;
                case "deck":
                    parts.Add(new(1, $"deck{of}", size, "raised: its edge is a drop"));
                    break;
                case "strip":
                    var line = Paint.Rounded(l.Points("path"), l.Value("r") ?? 0, l.Has("closed"));
                    parts.Add(
                        new(
                            1,
                            $"tape{of}{(name == "" ? "" : $" for {name}")}",
                            $"{Mm(l.Value("w") ?? 0)} mm wide, {Mm(Math.Ceiling(Length(line, l.Has("closed"))))} mm long",
                            $"along {string.Join(", ", l.Points("path").Select(At))}"
                                + (l.Value("r") is > 0 and var r ? $", corners round by {Mm(r)} mm" : "")
                        )
                    );
                    break;
                case "wall":
                    parts.Add(
                        new(
                            1,
                            l.Has("low") ? "low wall" : "wall",
                            $"{Mm(Math.Ceiling(Length(l.Points("path"), false)))} mm long",
                            $"along {string.Join(", ", l.Points("path").Select(At))}"
                        )
                    );
                    break;
                case "patch" or "round patch":
                    parts.Add(new(1, l.Name("of") is null ? $"{name}, marked at its corners" : $"{name}{of}", size, at));
                    break;
                case "place" or "round place":
                    parts.Add(new(1, $"{name}, marked at its edge", size, at));
                    break;
                case "thing round" or "thing box":
                    var high = l.Value("h") is { } h ? $", {Mm(h)} mm high" : "";
                    var seat = l.Point("seat") is { } s ? $": {Mm(s.Y)} mm ahead of its axle, {Mm(s.X)} mm to the right" : "";
                    parts.Add(
                        new(
                            together && l.Name("carrier") is not null ? 2 : 1,
                            $"{name}{of}",
                            size + weight + high + (l.Has("fixed") ? ", fixed" : ""),
                            l.Name("carrier") is { } on ? (together ? "on each machine" : $"on {on}") + seat
                                : l.Name("place") is { } lies ? $"in {lies}"
                                : at
                        )
                    );
                    break;
                case "things round" or "things box":
                    parts.Add(
                        new(
                            (int)(l.Value("n") ?? 1),
                            $"{name}{of}",
                            size + weight,
                            $"spread on {l.Name("place")}{(l.Value("gap") is { } gap ? $", at least {Mm(gap)} mm apart" : "")}"
                        )
                    );
                    break;
                case "rail":
                    parts.Add(
                        new(1, $"rail{of}", $"{Mm(l.Value("l") ?? 0)} mm", l.Has("closed") ? "closed to a ring" : "stops at its ends")
                    );
                    break;
                case "siding":
                    parts.Add(new(1, $"siding {name}", $"{Mm(l.Value("l") ?? 0)} mm", $"leaves at {Mm(l.Value("at") ?? 0)} mm"));
                    break;
                case "marker":
                    parts.Add(
                        new(1, $"{name}{of}", $"{Mm(l.Value("l") ?? 0)} mm long", $"begins at {Mm(l.Value("at") ?? 0)} mm of the rail")
                    );
                    break;
            }
        }
        return parts;
    }

    /// <summary>How far it is along a line, mm.</summary>
    /// <param name="points">Its points, mm.</param>
    /// <param name="closed">True where its end is its beginning.</param>
    public static double Length(IReadOnlyList<(double X, double Y)> points, bool closed)
    {
        var sum = 0.0;
        for (var i = 0; i + 1 < points.Count + (closed ? 1 : 0); i++)
        {
            var (a, b) = (points[i], points[(i + 1) % points.Count]);
            sum += Math.Sqrt((a.X - b.X) * (a.X - b.X) + (a.Y - b.Y) * (a.Y - b.Y));
        }
        return sum;
    }

    private static string Mm(double mm) => Figures.Show(mm);

    private static string At((double X, double Y) p) => $"({Mm(p.X)}, {Mm(p.Y)})";
}
