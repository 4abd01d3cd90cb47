using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Ground;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>A point of a plan, mm.</summary>
public sealed record PlanPoint(double X, double Y);

/// <summary>A shape of a plan, with the line that says it.</summary>
/// <param name="Line">Line of the scene, from 1.</param>
/// <param name="Kind">strip, patch, disc, place, round place, shade, wall, thing, round thing.</param>
/// <param name="Name">Its name; empty for none.</param>
/// <param name="Surface">What it is painted with; empty for nothing.</param>
/// <param name="X">Middle, mm.</param>
/// <param name="Y">Middle, mm.</param>
/// <param name="W">Width or diameter, mm; of a strip its width.</param>
/// <param name="D">Depth, mm.</param>
/// <param name="Turned">Turned clockwise, degrees.</param>
/// <param name="Path">Points of a strip or a wall.</param>
/// <param name="Fixed">Whether it stays where it is.</param>
public sealed record PlanShape(
    int Line,
    string Kind,
    string Name,
    string Surface,
    double X,
    double Y,
    double W,
    double D,
    double Turned,
    IReadOnlyList<PlanPoint> Path,
    bool Fixed
);

/// <summary>A body that is put down on a plan.</summary>
/// <param name="Line">The line that says where; 0 for none.</param>
/// <param name="Name">Its name.</param>
/// <param name="X">Middle of its axle, mm.</param>
/// <param name="Y">Middle of its axle, mm.</param>
/// <param name="Heading">Degrees clockwise from up.</param>
/// <param name="Outline">Its corners, from the middle of its axle: ahead and to the right, mm.</param>
/// <param name="TrackMm">Distance of its wheels, mm.</param>
/// <param name="Eyes">What looks down or ahead, by name, from the middle of its axle.</param>
public sealed record PlanBody(
    int Line,
    string Name,
    double X,
    double Y,
    double Heading,
    IReadOnlyList<PlanPoint> Outline,
    double TrackMm,
    IReadOnlyList<PlanMount> Eyes
);

/// <summary>A sensor on a body.</summary>
public sealed record PlanMount(string Name, double AheadMm, double RightMm, string Facing);

/// <summary>A line of rail.</summary>
public sealed record PlanRail(int Line, string Name, double LengthMm, bool Closed, double? LeavesAt, double? BackAt, bool Backwards);

/// <summary>A marker on a line of rail.</summary>
public sealed record PlanMarker(int Line, string Name, string Rail, string Surface, double AtMm, double LengthMm);

/// <summary>A vehicle on a rail.</summary>
public sealed record PlanVehicle(string Name, double LengthMm, double EyeAheadMm, double SpotMm);

/// <summary>A part that moves between ends.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Words">What kind it is.</param>
/// <param name="Unit">motor deg, or deg of a servo.</param>
/// <param name="From">Where its travel begins.</param>
/// <param name="To">Where it ends.</param>
/// <param name="Marks">Named positions that were found.</param>
/// <param name="Notches">Marks that it carries past an eye.</param>
/// <param name="Zones">Places that are where it stands.</param>
public sealed record PlanAxis(
    string Name,
    string Words,
    string Unit,
    double From,
    double To,
    IReadOnlyList<PlanMark> Marks,
    IReadOnlyList<PlanNotch> Notches,
    IReadOnlyList<PlanNotch> Zones
);

/// <summary>A named position.</summary>
public sealed record PlanMark(string Name, double At);

/// <summary>A stretch of a part's travel.</summary>
public sealed record PlanNotch(int Line, string Name, double From, double To);

/// <summary>A belt.</summary>
public sealed record PlanBelt(
    int Line,
    string Name,
    double LengthMm,
    double? ArmAtMm,
    string Arm,
    IReadOnlyList<PlanMount> Sensors,
    IReadOnlyList<string> Bins
);

/// <summary>A tank.</summary>
public sealed record PlanTank(int Line, string Name, double HighMm, double StartsAtMm, IReadOnlyList<PlanMark> Probes);

/// <summary>Something that comes before a sensor, or asks at a button.</summary>
public sealed record PlanVisitor(int Line, string Say, string Sensor);

/// <summary>The place of a scene, to draw it to scale.</summary>
/// <param name="Kind">floor, deck, rail, belt, tank or bench.</param>
/// <param name="W">Width, mm.</param>
/// <param name="D">Depth, mm.</param>
/// <param name="Surface">What it is of.</param>
/// <param name="Beyond">What lies beyond a deck.</param>
/// <param name="GroundLine">The line that says so; 0 for none.</param>
/// <param name="Shapes">What is painted, stands or lies there.</param>
/// <param name="Bodies">What drives, where it is put down.</param>
/// <param name="Rails">Lines of rail, the main one first.</param>
/// <param name="Markers">Tags on them.</param>
/// <param name="Vehicles">What runs on them.</param>
/// <param name="Axes">Parts that move between ends.</param>
/// <param name="Belt">The belt; null for none.</param>
/// <param name="Tank">The tank; null for none.</param>
/// <param name="Visitors">What comes before sensors or asks at buttons.</param>
public sealed record ScenePlan(
    string Kind,
    double W,
    double D,
    string Surface,
    string Beyond,
    int GroundLine,
    IReadOnlyList<PlanShape> Shapes,
    IReadOnlyList<PlanBody> Bodies,
    IReadOnlyList<PlanRail> Rails,
    IReadOnlyList<PlanMarker> Markers,
    IReadOnlyList<PlanVehicle> Vehicles,
    IReadOnlyList<PlanAxis> Axes,
    PlanBelt? Belt,
    PlanTank? Tank,
    IReadOnlyList<PlanVisitor> Visitors
)
{
    /// <summary>The plan of a scene; of lines with faults nothing is drawn.</summary>
    /// <param name="scene">The scene.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="positions">Angles found by hand, by mechanism and position.</param>
    public static ScenePlan Of(
        SceneNode scene,
        RigDesign rig,
        IReadOnlyDictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> positions
    )
    {
        if (scene.Lines.Any(l => l.Away))
            scene = scene with { Lines = [.. scene.Lines.Where(l => !l.Away)] };
        var ground = scene.First("deck") ?? scene.First("floor");
        var kind =
            ground?.Key
            ?? (
                scene.First("rail") is not null ? "rail"
                : scene.First("belt") is not null ? "belt"
                : scene.First("tank") is not null ? "tank"
                : "bench"
            );
        var shapes = Drawn(scene);
        double w = ground?.Value("w") ?? 0,
            d = ground?.Value("d") ?? 0;
        return new(
            kind,
            w,
            d,
            ground?.Name("of") ?? scene.First("rail")?.Name("of") ?? "",
            ground?.Name("beyond") ?? "",
            ground?.Line ?? scene.First("rail")?.Line ?? 0,
            shapes,
            Put(scene, rig, w, d),
            [
                .. scene.All("rail").Select(l => new PlanRail(l.Line, "", l.Value("l") ?? 1000, l.Has("closed"), null, null, false)),
                .. scene
                    .All("siding")
                    .Select(l => new PlanRail(
                        l.Line,
                        l.Name("name")!,
                        l.Value("l") ?? 100,
                        false,
                        l.Value("at"),
                        l.Value("back"),
                        l.Has("backwards")
                    )),
            ],
            [
                .. scene
                    .All("marker")
                    .Select(l => new PlanMarker(
                        l.Line,
                        l.Name("name")!,
                        l.Name("siding") ?? "",
                        l.Name("of")!,
                        l.Value("at") ?? 0,
                        l.Value("l") ?? 10
                    )),
            ],
            scene.First("rail") is null
                ? []
                :
                [
                    .. rig
                        .Mechanisms.Where(m => m.Facts.Going == Going.OnRail)
                        .Select(m => new PlanVehicle(
                            m.Name,
                            m.LengthMm?.Value ?? 120,
                            rig.Eyes.FirstOrDefault()?.AheadMm.Value ?? 0,
                            rig.Eyes.FirstOrDefault()?.Spot.Value ?? 8
                        )),
                ],
            Parts(scene, rig, positions),
            scene.First("belt") is { } belt
                ? new(
                    belt.Line,
                    belt.Name("mech")!,
                    belt.Value("l") ?? 100,
                    scene.First("sends")?.Value("at"),
                    scene.First("sends")?.Name("arm") ?? "",
                    [
                        .. rig
                            .Sensors.Where(s =>
                                s.Kind is SensorKind.Colour or SensorKind.ColourName or SensorKind.ReflectedLight or SensorKind.LightGate
                            )
                            .Select(s => new PlanMount(s.Name, s.AheadMm.Value, 0, "down")),
                    ],
                    [.. scene.All("sends").SelectMany(l => (IReadOnlyList<ScenePair>)l.Values["pairs"]).Select(p => p.To).Distinct()]
                )
                : null,
            scene.First("tank") is { } tank
                ? new(
                    tank.Line,
                    tank.Name("name")!,
                    tank.Value("h") ?? 100,
                    (tank.Value("h") ?? 100) * (tank.Value("x") ?? 0) / 100,
                    [.. rig.Sensors.Where(s => s.Kind == SensorKind.Probe).Select(s => new PlanMark(s.Name, s.Mount.HeightMm?.Value ?? 0))]
                )
                : null,
            [
                .. scene
                    .Lines.Where(l => l.Key is "hand" or "stands" or "comes" or "asks" or "shows")
                    .Select(l => new PlanVisitor(
                        l.Line,
                        ScenePrinter.Print(l),
                        l.Name("sensor") ?? l.Name("button") ?? l.Name("eye") ?? ""
                    )),
            ]
        );
    }

    private static List<PlanShape> Drawn(SceneNode scene)
    {
        var shapes = new List<PlanShape>();
        foreach (var l in scene.Lines)
        {
            var (x, y) = l.Point("at") ?? (0, 0);
            PlanShape Box(string kind, bool isFixed = false) =>
                new(
                    l.Line,
                    kind,
                    l.Name("name") ?? "",
                    l.Name("of") ?? "",
                    x,
                    y,
                    l.Value("w") ?? 0,
                    l.Value("d") ?? l.Value("w") ?? 0,
                    l.Value("turned") ?? 0,
                    [],
                    isFixed
                );
            switch (l.Key)
            {
                case "strip":
                    shapes.Add(
                        Box("strip") with
                        {
                            Path =
                            [
                                .. Paint.Rounded(l.Points("path"), l.Value("r") ?? 0, l.Has("closed")).Select(p => new PlanPoint(p.X, p.Y)),
                            ],
                        }
                    );
                    break;
                case "wall":
                    shapes.Add(Box("wall") with { Path = [.. l.Points("path").Select(p => new PlanPoint(p.X, p.Y))] });
                    break;
                // What is not painted is a place only.
                case "patch" or "place" or "shade":
                    shapes.Add(Box(l.Key == "patch" && l.Name("of") is null ? "place" : l.Key));
                    break;
                case "round patch":
                    shapes.Add(Box(l.Name("of") is null ? "round place" : "disc"));
                    break;
                case "round place":
                    shapes.Add(Box("round place"));
                    break;
                case "thing round" or "thing box" when l.Point("at") is not null:
                    shapes.Add(Box(l.Key == "thing box" ? "thing" : "round thing", l.Has("fixed")));
                    break;
            }
        }
        return shapes;
    }

    private static List<PlanBody> Put(SceneNode scene, RigDesign rig, double w, double d)
    {
        var bodies = new List<PlanBody>();
        foreach (var m in rig.Mechanisms.Where(m => m.Facts.Going == Going.Steered))
        {
            var line = scene.All("start drive").FirstOrDefault(l => l.Name("what") == m.Name || l.Name("what") == rig.Name);
            if (line is null && w <= 0)
                continue;
            var (x, y) = line?.Point("at") ?? (w / 2, d / 2);
            var track = m.TrackWidthMm?.Value ?? 120;
            bodies.Add(
                new(
                    line?.Line ?? 0,
                    m.Name,
                    x,
                    y,
                    line?.Value("heading") ?? 0,
                    rig.Outline.Count >= 3
                        ? [.. rig.Outline.Select(c => new PlanPoint(c.AheadMm, c.RightMm))]
                        : [new(60, -track / 2), new(60, track / 2), new(-50, track / 2), new(-50, -track / 2)],
                    track,
                    [
                        .. rig
                            .Sensors.Where(s => s.Mount.AheadMm is not null)
                            .Select(s => new PlanMount(
                                s.Name,
                                s.AheadMm.Value,
                                s.Mount.RightMm?.Value ?? 0,
                                s.Mount.Facing.ToString().ToLowerInvariant()
                            )),
                    ]
                )
            );
        }
        foreach (var g in scene.All("guest"))
            if (g.Point("at") is { } at)
                bodies.Add(
                    new(
                        g.Line,
                        g.Name("name")!,
                        at.X,
                        at.Y,
                        g.Value("heading") ?? 0,
                        [new(60, -60), new(60, 60), new(-50, 60), new(-50, -60)],
                        118,
                        []
                    )
                );
        return bodies;
    }

    private static List<PlanAxis> Parts(
        SceneNode scene,
        RigDesign rig,
        IReadOnlyDictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> positions
    )
    {
        var axes = new List<PlanAxis>();
        foreach (var m in rig.Mechanisms.Where(m => m.Facts.Going == Going.Nowhere && !m.Facts.RunsOn))
        {
            var servo = rig.Actuators.FirstOrDefault(a => a.Name == m.Motor)?.Kind == ActuatorKind.Servo;
            var found = positions.GetValueOrDefault(m.Name);
            PlanMark[] marks =
            [
                .. m
                    .Positions.Where(p => found?.GetValueOrDefault(p) is { Count: > 0 })
                    .Select(p => new PlanMark(p, Math.Round(found![p].Average(), 1))),
            ];
            var mm = m.WheelDiameterMm is { } drum ? Math.PI * drum.Value / 360 / (m.MotorTurnsPerTurn?.Value ?? 1) : 0;
            List<PlanNotch> notches = [];
            foreach (var l in scene.All("notches").Where(l => l.Name("mech") == m.Name && mm > 0))
            foreach (var at in (IReadOnlyList<SceneNumber>)l.Values["at"])
                notches.Add(
                    new(
                        l.Line,
                        l.Name("of")!,
                        at.In("motor deg") - l.Value("l")!.Value / 2 / mm,
                        at.In("motor deg") + l.Value("l")!.Value / 2 / mm
                    )
                );
            foreach (var l in scene.All("notch").Where(l => l.Name("mech") == m.Name))
                notches.Add(new(l.Line, l.Name("of")!, l.Value("a") ?? 0, l.Value("b") ?? 0));
            PlanNotch[] zones =
            [
                .. scene
                    .All("place of")
                    .Where(l => l.Name("mech") == m.Name)
                    .Select(l => new PlanNotch(l.Line, l.Name("name")!, l.Value("a") ?? 0, l.Value("b") ?? 0)),
            ];
            var ends = marks
                .Select(x => x.At)
                .Concat(notches.SelectMany(n => new[] { n.From, n.To }))
                .Concat(zones.SelectMany(z => new[] { z.From, z.To }));
            double[] travel = m.Travel is { } t ? [t.From.Value, t.To.Value] : [];
            double[] all = [.. ends.Concat(travel).DefaultIfEmpty(0)];
            axes.Add(
                new(
                    m.Name,
                    m.Facts.Words,
                    servo ? "deg" : "motor deg",
                    travel.Length > 0 ? travel.Min() : all.Min(),
                    travel.Length > 0 ? travel.Max() : Math.Max(all.Max(), all.Min() + 360),
                    marks,
                    notches,
                    zones
                )
            );
        }
        return axes;
    }

    /// <summary>A line with its place moved: the numbers of its point, or of all its points, and of nothing else.</summary>
    /// <param name="line">The line.</param>
    /// <param name="dx">To the right, mm.</param>
    /// <param name="dy">Up, mm.</param>
    /// <returns>The line moved; null where it has no place to move.</returns>
    public static SceneLine? Moved(SceneLine line, double dx, double dy)
    {
        static Figure By(Figure f, double mm)
        {
            var factor = Quantities.Unit.Find(f.Unit == "" ? "mm" : f.Unit)?.Factor ?? 1;
            return f with
            {
                Digits = Math.Round(
                        f.In("mm") / factor + mm / factor,
                        factor >= 1000 ? 3
                            : factor >= 10 ? 1
                            : 0
                    )
                    .ToString(System.Globalization.CultureInfo.InvariantCulture),
            };
        }
        static SceneNumber Along(SceneNumber n, double mm) => n with { Of = By(n.Of, mm), To = n.To is { } to ? By(to, mm) : null };
        ScenePoint Point(ScenePoint p) => p with { X = Along(p.X, dx), Y = Along(p.Y, dy) };
        var values = new Dictionary<string, object>(line.Values);
        if (line.Values.GetValueOrDefault("at") is ScenePoint at)
            values["at"] = Point(at);
        else if (line.Values.GetValueOrDefault("path") is IReadOnlyList<ScenePoint> path)
            values["path"] = path.Select(Point).ToList();
        else if (line.Key is "marker" or "start rail" && line.Number("at") is { } along)
            values["at"] = Along(along, dx);
        else
            return null;
        return line with { Values = values };
    }
}
