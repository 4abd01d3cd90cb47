using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Simulation;

/// <summary>Where everything of a scene is that does not move: the same in all runs, unless a line says what it varies by.</summary>
internal sealed class Layout
{
    public double FloorW { get; set; }
    public double FloorD { get; set; }
    public Paint? Deck { get; set; }
    public Paint[] Paints { get; set; } = [];
    public (double Ax, double Ay, double Bx, double By, bool Low)[] Walls { get; set; } = [];
    public (Paint Where, int Sense, int Draw, bool Rises)[] Shades { get; set; } = [];
    public RailLineSpec[] Lines { get; set; } = [];
    public MarkerSpec[] Markers { get; set; } = [];
    public NotchSpec[] Notches { get; set; } = [];

    /// <summary>In every run the same places in the same order; of a line that is left out in a run, one that lies nowhere.</summary>
    public PlaceSpec[] Places { get; set; } = [];
}

public sealed partial class BenchPlan
{
    /// <summary>Where everything is in a run in which nothing varies.</summary>
    internal Layout Layout { get; private set; } = new();

    /// <summary>The lines as they are in one run; null where they are the same in all.</summary>
    internal Func<double[], ulong, SceneNode>? SceneIn { get; private set; }

    /// <summary>Where everything is, by the lines of one run.</summary>
    internal Func<SceneNode, Layout> LayoutIn { get; private set; } = _ => new();

    private sealed partial class Builder
    {
        // Lines of the ground, in the order they are laid; their numbers are drawn with the lines, not one by one.
        private static readonly HashSet<string> Laid = [.. SceneRules.LaidSometimes, "floor", "deck", "rail", "siding", "place of"];

        // A number, or one of the numbers, of a line that varies: which line, slot and part, and where it is drawn.
        private readonly List<(int Line, string Slot, int Part, int Draw)> varies = [];
        private readonly List<(int Line, double Share, ulong Stream)> sometimes = [];

        // What varies of the ground is drawn once a run, by the name of what it belongs to.
        private void Vary()
        {
            var count = new Dictionary<string, int>();
            for (var i = 0; i < scene.Lines.Count; i++)
            {
                var line = scene.Lines[i];
                var isBlock = IsBlock(line);
                var isThing = line.Key is "thing round" or "thing box";
                if (!Laid.Contains(line.Key) && !isThing)
                    continue;
                count[line.Key] = count.GetValueOrDefault(line.Key) + 1;
                var own = line.Name("name") ?? (line.Key is "floor" or "deck" or "rail" ? line.Key : $"{line.Key} {count[line.Key]}");
                if (line.When is { In: { } few, Of: { } many })
                    sometimes.Add(
                        (i, few.In("") / many.In(""), Simulation.Draws.Hash(isThing ? $"where {own} lies" : $"whether {own} is there"))
                    );
                // Of a thing that can be moved only where it is drawn first: all else is its own.
                foreach (var (slot, value) in line.Values.Where(v => !isThing || isBlock || v.Key == "at"))
                    switch (value)
                    {
                        // These have draws of their own.
                        case SceneNumber when (line.Key, slot) is ("marker", "l") or ("shade", "x"):
                            break;
                        case SceneNumber { Varies: true } n:
                            var called = (isThing, slot) switch
                            {
                                (true, "w") => $"size of {own}",
                                (true, "d") => $"depth of {own}",
                                _ => $"{own}, {Called(slot)}",
                            };
                            // A size stays one, however far it is drawn.
                            var least = slot is "w" or "d" or "l" ? 0.1 : double.MinValue;
                            varies.Add((i, slot, 0, Draw(line, n, SceneForms.Of(line.Key)!.UnitOf(slot), called, least)));
                            break;
                        case ScenePoint p:
                            Point(i, line, slot, 0, p, own);
                            break;
                        case IReadOnlyList<ScenePoint> path:
                            for (var k = 0; k < path.Count; k++)
                                Point(i, line, slot, k, path[k], $"{own}, point {k + 1}");
                            break;
                        case IReadOnlyList<SceneNumber> list:
                            for (var k = 0; k < list.Count; k++)
                                if (list[k].Varies)
                                    varies.Add((i, slot, k, Draw(line, list[k], "motor deg", $"{own}, number {k + 1}")));
                            break;
                    }
            }
        }

        private void Point(int i, SceneLine line, string slot, int k, ScenePoint point, string own)
        {
            var (x, y) = point.Both;
            if (x.Varies)
                varies.Add((i, slot, 2 * k, Draw(line, x, "mm", $"{own}, x")));
            if (y.Varies)
                varies.Add((i, slot, 2 * k + 1, Draw(line, y, "mm", $"{own}, y")));
        }

        // What stands there like a wall.
        private static bool IsBlock(SceneLine line) => line.Key == "thing box" && line.Has("fixed") && line.Point("at") is not null;

        private static string Called(string slot) =>
            slot switch
            {
                "w" => "width",
                "d" => "depth",
                "l" => "length",
                "r" => "rounding",
                "turned" => "turned",
                "at" => "where it is",
                "back" => "where it rejoins",
                "a" => "beginning",
                "b" => "end",
                "c" => "beyond",
                _ => slot,
            };

        // The scene of one run: numbers drawn, and without what is not there.
        private SceneNode InRun(double[] drawn, ulong seed)
        {
            var lines = scene.Lines.ToArray();
            foreach (var (at, slot, part, draw) in varies)
                lines[at] = lines[at] with { Values = Set(lines[at], slot, part, drawn[draw]) };
            foreach (var (at, share, stream) in sometimes)
                if (Simulation.Draws.Stream(seed, stream).Uniform() >= share)
                    lines[at] = lines[at] with { Away = true };
            return scene with { Lines = lines };
        }

        private static Dictionary<string, object> Set(SceneLine line, string slot, int part, double value)
        {
            var values = new Dictionary<string, object>(line.Values);
            SceneNumber Number(string unit) =>
                new(new Figure(value.ToString("R", System.Globalization.CultureInfo.InvariantCulture), unit));
            ScenePoint Point(ScenePoint p, bool up) => up ? p with { Y = Number("mm") } : p with { X = Number("mm") };
            values[slot] = values[slot] switch
            {
                SceneNumber => Number(SceneForms.Of(line.Key)!.UnitOf(slot)),
                ScenePoint p => Point(p, part == 1),
                IReadOnlyList<ScenePoint> path => path.Select((p, k) => k == part / 2 ? Point(p, part % 2 == 1) : p).ToList(),
                IReadOnlyList<SceneNumber> list => list.Select((n, k) => k == part ? Number("motor deg") : n).ToList(),
                var other => other,
            };
            return values;
        }

        // ---- laying ----

        private Layout Ground(SceneNode here)
        {
            var made = new Layout();
            var laid = new List<Paint>();
            var named = new List<PlaceSpec>();
            if (here.First("deck") is { } deck)
            {
                var (w, d) = (deck.Value("w")!.Value, deck.Value("d")!.Value);
                made.Deck = Paint.Box(Surface(deck.Name("of") ?? "deck"), w / 2, d / 2, w, d, 0);
                (made.FloorW, made.FloorD) = (w, d);
                laid.Add(made.Deck);
            }
            else if (here.First("floor") is { } floor)
                (made.FloorW, made.FloorD) = (floor.Value("w")!.Value, floor.Value("d")!.Value);
            foreach (var line in here.Lines)
                Painted(line, laid, named);
            if (made.FloorW > 0)
                named.Add(
                    new()
                    {
                        Name = made.Deck is null ? "the floor" : "the deck",
                        Ground = true,
                        W = made.FloorW,
                        D = made.FloorD,
                        CentreX = made.FloorW / 2,
                        CentreY = made.FloorD / 2,
                    }
                );
            made.Paints = [.. laid];
            made.Walls = [.. WallsOf(here, made)];
            Rails(here, made, named);
            made.Places = [.. named];
            return made;
        }

        private void Painted(SceneLine line, List<Paint> laid, List<PlaceSpec> named)
        {
            var isThere = !line.Away;
            if (line.Key is "strip" && line.Name("name") is not null || line.Key is "patch" or "place" or "round patch" or "round place")
                if (!isThere)
                {
                    named.Add(new() { Name = line.Name("name")! });
                    return;
                }
            switch (line.Key)
            {
                case "strip" when isThere:
                    var strip = Paint.Strip(
                        Surface(line.Name("of")),
                        Math.Max(0.1, line.Value("w")!.Value),
                        line.Points("path"),
                        line.Value("r") ?? 0,
                        line.Has("closed")
                    );
                    if (line.Name("of") is not null)
                        laid.Add(strip);
                    if (line.Name("name") is { } known)
                        named.Add(new() { Name = known, Shape = strip });
                    break;
                case "patch" or "place" or "round patch" or "round place":
                {
                    var disc = line.Key is "round patch" or "round place";
                    var (x, y) = line.Point("at")!.Value;
                    var w = line.Value("w")!.Value;
                    var (d, turned) = (line.Value("d") ?? w, line.Value("turned") ?? 0);
                    var surface = Surface(line.Name("of"));
                    var shape = disc ? Paint.Disc(surface, x, y, w) : Paint.Box(surface, x, y, w, d, turned);
                    // What is of nothing is a place only.
                    if (line.Key is "patch" or "round patch" && line.Name("of") is not null)
                        laid.Add(shape);
                    named.Add(
                        new()
                        {
                            Name = line.Name("name")!,
                            Shape = shape,
                            CentreX = x,
                            CentreY = y,
                            W = w,
                            D = d,
                            TurnedDeg = turned,
                            Disc = disc,
                        }
                    );
                    break;
                }
                case "place of":
                    named.Add(
                        new()
                        {
                            Name = line.Name("name")!,
                            Axis = AxisOf(line, "mech"),
                            From = Math.Min(line.Value("a")!.Value, line.Value("b")!.Value),
                            To = Math.Max(line.Value("a")!.Value, line.Value("b")!.Value),
                            Other = line.Name("other") is null ? -1 : AxisOf(line, "other"),
                            Beyond = line.Value("c") ?? 0,
                        }
                    );
                    break;
            }
        }

        private static List<(double, double, double, double, bool)> WallsOf(SceneNode here, Layout made)
        {
            var walls = new List<(double, double, double, double, bool)>();
            foreach (var line in here.All("wall").Where(l => !l.Away))
            {
                var path = line.Points("path");
                for (var i = 1; i < path.Count; i++)
                    walls.Add((path[i - 1].X, path[i - 1].Y, path[i].X, path[i].Y, line.Has("low")));
            }
            if (here.First("floor") is { } walled && walled.Has("walls round it"))
            {
                var (w, d) = (made.FloorW, made.FloorD);
                walls.AddRange([(0, 0, w, 0, false), (w, 0, w, d, false), (w, d, 0, d, false), (0, d, 0, 0, false)]);
            }
            // What is fixed and has corners stands there like walls.
            foreach (var line in here.Lines.Where(l => IsBlock(l) && !l.Away))
            {
                var (x, y) = line.Point("at")!.Value;
                var (hw, hd) = (line.Value("w")!.Value / 2, line.Value("d")!.Value / 2);
                var (s, c) = Math.SinCos((line.Value("turned") ?? 0) * Math.PI / 180);
                (double X, double Y) Corner(double u, double v) => (x + u * c + v * s, y - u * s + v * c);
                var corners = new[] { Corner(-hw, -hd), Corner(hw, -hd), Corner(hw, hd), Corner(-hw, hd) };
                for (var i = 0; i < 4; i++)
                    walls.Add((corners[i].X, corners[i].Y, corners[(i + 1) % 4].X, corners[(i + 1) % 4].Y, line.Has("low")));
            }
            return walls;
        }

        private void Rails(SceneNode here, Layout made, List<PlaceSpec> named)
        {
            if (here.First("rail") is not { } rail)
                return;
            List<RailLineSpec> lines =
            [
                new()
                {
                    Name = "",
                    LengthMm = rail.Value("l")!.Value,
                    Closed = rail.Has("closed"),
                },
            ];
            foreach (var s in here.All("siding"))
                lines.Add(
                    new()
                    {
                        Name = s.Name("name")!,
                        LengthMm = s.Value("l")!.Value,
                        LeavesAt = s.Value("at")!.Value,
                        BackAt = s.Value("back") ?? double.NaN,
                        Backwards = s.Has("backwards"),
                    }
                );
            made.Lines = [.. lines];
            foreach (var p in here.All("points"))
            {
                if (lines.FindIndex(l => l.Name == p.Name("name")) is not (> 0 and var at))
                    throw Problem(p, $"There is no siding “{p.Name("name")}”: points belong to a siding.");
                // What is left out in a run leaves them as an earlier line set them.
                if (p.Away)
                    continue;
                lines[at].Points =
                    p.Has("set aside") ? 1
                    : p.Has("sprung") ? 2
                    : p.Has("by") ? 3
                    : 0;
                if (p.Name("mech") is not null)
                    lines[at].PointsAxis = AxisOf(p, "mech");
            }
            var markers = new List<MarkerSpec>();
            foreach (var m in here.All("marker"))
            {
                if (m.Away)
                {
                    named.Add(new() { Name = m.Name("name")! });
                    continue;
                }
                markers.Add(
                    new()
                    {
                        Name = m.Name("name")!,
                        Line = LineOf(m, made),
                        Surface = Surface(m.Name("of")),
                        AtMm = m.Value("at")!.Value,
                        Length = Draw(m, "l", $"length of {m.Name("name")}", 0.1),
                    }
                );
                named.Add(new() { Name = m.Name("name")!, Marker = markers.Count - 1 });
            }
            made.Markers = [.. markers];
        }

        private int LineOf(SceneLine line, Layout on) =>
            line.Name("siding") is not { } siding ? 0
            : Array.FindIndex(on.Lines, l => l.Name == siding) is > 0 and var at ? at
            : throw Problem(line, $"There is no siding “{siding}”.");

        // What eyes look at beside the ground: shades over them, and marks that a mechanism carries past them.
        private void Marks(SceneNode here, Layout made)
        {
            var shades = new List<(Paint, int, int, bool)>();
            foreach (var line in here.All("shade"))
            {
                var (x, y) = line.Point("at")!.Value;
                var (box, sense, draw) = (
                    Paint.Box(0, x, y, line.Value("w")!.Value, line.Value("d")!.Value, 0),
                    SenseOf(line, "eye"),
                    Draw(line, "x", $"shade of line {line.Line}")
                );
                if (!line.Away)
                    shades.Add((box, sense, draw, line.Has("rises")));
            }
            made.Shades = [.. shades];
            var notches = new List<NotchSpec>();
            foreach (var line in here.All("notches").Where(l => !l.Away))
            {
                var axis = AxisOf(line, "mech");
                if (axes[axis].MmPerUnit <= 0)
                    throw Problem(line, $"Say in Rig how large the drum of {axes[axis].Name} is: marks on it have a length in mm.");
                foreach (var at in (IReadOnlyList<SceneNumber>)line.Values["at"])
                    notches.Add(new(axis, Surface(line.Name("of")), at.In("motor deg"), line.Value("l")!.Value / 2, EyeOf(line)));
            }
            foreach (var line in here.All("notch").Where(l => !l.Away))
            {
                var axis = AxisOf(line, "mech");
                var (a, b) = (line.Value("a")!.Value, line.Value("b")!.Value);
                var mm = axes[axis].MmPerUnit > 0 ? axes[axis].MmPerUnit : 0.2;
                notches.Add(new(axis, Surface(line.Name("of")), (a + b) / 2, Math.Abs(b - a) / 2 * mm, EyeOf(line)));
            }
            made.Notches = [.. notches];
        }

        // How the places of one run are known: the bins of a belt come after those of the ground.
        private Layout LaidOut(SceneNode here)
        {
            var made = Ground(here);
            made.Places = [.. made.Places, .. plan.Layout.Places.AsSpan(made.Places.Length)];
            Marks(here, made);
            return made;
        }
    }
}
