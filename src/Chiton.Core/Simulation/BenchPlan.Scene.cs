using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Simulation;

public sealed partial class BenchPlan
{
    private sealed partial class Builder
    {
        private readonly List<PlaceSpec> places = [];
        private readonly List<Paint> paints = [];
        private readonly List<RailLineSpec> lines = [];
        private readonly List<MarkerSpec> markers = [];
        private readonly List<ThingSpec> things = [];

        private int Surface(string? name)
        {
            name ??= "";
            var at = surfaces.IndexOf(name);
            if (at >= 0)
                return at;
            surfaces.Add(name);
            return surfaces.Count - 1;
        }

        // The ground comes first: it is surface 0.
        private void Surfaces()
        {
            if (scene.First("deck") is { } deck)
            {
                var eyes = rigs[0].Copy.Rig.Eyes.SelectMany(e => e.Zones).ToArray();
                plan.Ground = Surface(deck.Name("beyond") ?? (eyes.Contains("drop") ? "drop" : "beyond the deck"));
            }
            else if (scene.First("rail") is { } rail)
                plan.Ground = Surface(rail.Name("of"));
            else
                plan.Ground = Surface(scene.First("floor")?.Name("of") ?? "the floor");
            foreach (var line in scene.Lines)
                if (line.Name("of") is { } of && line.Key is not "deck")
                    Surface(of);
            foreach (var line in scene.All("surface reads").Concat(scene.All("surface is")))
                Surface(line.Name("name"));
            // What is shown or told as a zone is looked up like a surface.
            foreach (var sensor in rigs.SelectMany(r => r.Copy.Rig.Sensors))
            foreach (var zone in sensor.Zones)
                if (sensor.Facts.View is not "switch")
                    Surface(zone);
            if (scene.First("deck")?.Name("of") is { } top)
                Surface(top);
        }

        private void Plan()
        {
            if (scene.First("deck") is { } deck)
            {
                var (w, d) = (deck.Value("w")!.Value, deck.Value("d")!.Value);
                plan.IsDeck = true;
                plan.Deck = Paint.Box(Surface(deck.Name("of") ?? "deck"), w / 2, d / 2, w, d, 0);
                (plan.FloorW, plan.FloorD) = (w, d);
                paints.Add(plan.Deck);
            }
            else if (scene.First("floor") is { } floor)
                (plan.FloorW, plan.FloorD) = (floor.Value("w")!.Value, floor.Value("d")!.Value);
            foreach (var line in scene.Lines)
                switch (line.Key)
                {
                    case "strip":
                        var strip = Paint.Strip(
                            Surface(line.Name("of")),
                            line.Value("w")!.Value,
                            line.Points("path"),
                            line.Value("r") ?? 0,
                            line.Has("closed")
                        );
                        paints.Add(strip);
                        if (line.Name("name") is { } named)
                            places.Add(new() { Name = named, Shape = strip });
                        break;
                    case "patch":
                    case "place":
                    {
                        var (x, y) = line.Point("at")!.Value;
                        var (w, d, t) = (line.Value("w")!.Value, line.Value("d")!.Value, line.Value("turned") ?? 0);
                        var shape = Paint.Box(Surface(line.Name("of")), x, y, w, d, t);
                        if (line.Key == "patch")
                            paints.Add(shape);
                        places.Add(
                            new()
                            {
                                Name = line.Name("name")!,
                                Shape = shape,
                                CentreX = x,
                                CentreY = y,
                                W = w,
                                D = d,
                                TurnedDeg = t,
                            }
                        );
                        break;
                    }
                    case "round patch":
                    case "round place":
                    {
                        var (x, y) = line.Point("at")!.Value;
                        var w = line.Value("w")!.Value;
                        var shape = Paint.Disc(Surface(line.Name("of")), x, y, w);
                        if (line.Key == "round patch")
                            paints.Add(shape);
                        places.Add(
                            new()
                            {
                                Name = line.Name("name")!,
                                Shape = shape,
                                CentreX = x,
                                CentreY = y,
                                W = w,
                                D = w,
                                Disc = true,
                            }
                        );
                        break;
                    }
                    case "place of":
                        places.Add(
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
            if (scene.First("deck") is not null || scene.First("floor") is not null)
                places.Add(
                    new()
                    {
                        Name = plan.IsDeck ? "the deck" : "the floor",
                        Ground = true,
                        W = plan.FloorW,
                        D = plan.FloorD,
                        CentreX = plan.FloorW / 2,
                        CentreY = plan.FloorD / 2,
                    }
                );
            var walls = new List<(double, double, double, double, bool)>();
            foreach (var line in scene.All("wall"))
            {
                var path = line.Points("path");
                for (var i = 1; i < path.Count; i++)
                    walls.Add((path[i - 1].X, path[i - 1].Y, path[i].X, path[i].Y, line.Has("low")));
            }
            if (scene.First("floor") is { } walled && walled.Has("walls round it"))
            {
                var (w, d) = (plan.FloorW, plan.FloorD);
                walls.AddRange([(0, 0, w, 0, false), (w, 0, w, d, false), (w, d, 0, d, false), (0, d, 0, 0, false)]);
            }
            // What is fixed and has corners stands there like walls.
            foreach (var line in scene.All("thing box").Where(l => l.Has("fixed") && l.Point("at") is not null))
            {
                var (x, y) = line.Point("at")!.Value;
                var (hw, hd) = (line.Value("w")!.Value / 2, line.Value("d")!.Value / 2);
                var (s, c) = Math.SinCos((line.Value("turned") ?? 0) * Math.PI / 180);
                (double X, double Y) Corner(double u, double v) => (x + u * c + v * s, y - u * s + v * c);
                var corners = new[] { Corner(-hw, -hd), Corner(hw, -hd), Corner(hw, hd), Corner(-hw, hd) };
                for (var i = 0; i < 4; i++)
                    walls.Add((corners[i].X, corners[i].Y, corners[(i + 1) % 4].X, corners[(i + 1) % 4].Y, line.Has("low")));
            }
            plan.Walls = [.. walls];
            plan.Paints = [.. paints];
        }

        private int AxisOf(SceneLine line, string slot)
        {
            var name = line.Name(slot)!;
            var at = axes.FindIndex(a => a.Name == name || movers[a.Mover].Motor == name);
            return at >= 0
                ? at
                : throw Problem(line, $"{name} does not turn or slide by a motor, so nothing can be said of where it stands.");
        }

        private void RailLines()
        {
            if (scene.First("rail") is not { } rail)
                return;
            lines.Add(
                new()
                {
                    Name = "",
                    LengthMm = rail.Value("l")!.Value,
                    Closed = rail.Has("closed"),
                }
            );
            foreach (var s in scene.All("siding"))
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
            foreach (var p in scene.All("points"))
            {
                if (lines.FindIndex(l => l.Name == p.Name("name")) is not (> 0 and var at))
                    throw Problem(p, $"There is no siding “{p.Name("name")}”: points belong to a siding.");
                lines[at].Points =
                    p.Has("set aside") ? 1
                    : p.Has("sprung") ? 2
                    : p.Has("by") ? 3
                    : 0;
                if (p.Name("mech") is not null)
                    lines[at].PointsAxis = AxisOf(p, "mech");
            }
            foreach (var m in scene.All("marker"))
            {
                markers.Add(
                    new()
                    {
                        Name = m.Name("name")!,
                        Line = LineOf(m),
                        Surface = Surface(m.Name("of")),
                        AtMm = m.Value("at")!.Value,
                        Length = Draw(m, "l", $"length of {m.Name("name")}", 0.1),
                    }
                );
                places.Add(new() { Name = m.Name("name")!, Marker = markers.Count - 1 });
            }
            plan.Lines = [.. lines];
            plan.Markers = [.. markers];
        }

        private int LineOf(SceneLine line) =>
            line.Name("siding") is not { } siding ? 0
            : lines.FindIndex(l => l.Name == siding) is > 0 and var at ? at
            : throw Problem(line, $"There is no siding “{siding}”.");

        // Where everything is put down; what the scene does not say stands as Rig says, or at its end.
        private void Placings()
        {
            var rig = rigs[0].Copy.Rig;
            foreach (var line in scene.All("start drive"))
            {
                var name = line.Name("what")!;
                var d = drives.FirstOrDefault(x => x.Rig == 0 && (x.Names.Contains(name) || name == rig.Name));
                if (d is null)
                    throw Problem(line, $"There is no drive “{name}” on this rig that could be put there.");
                Put(d, line, line.Point("at")!.Value, line.Value("heading")!.Value, line.Value("sd") ?? 0, line.Value("asd") ?? 0);
            }
            for (var r = 1; r < rigs.Count; r++)
                if (rigs[r].Line is { } guest && drives.FirstOrDefault(x => x.Rig == r) is { } own)
                    Put(own, guest, guest.Point("at") ?? (plan.FloorW / 2, plan.FloorD / 2), guest.Value("heading") ?? 0, 0, 0);
            foreach (var d in drives.Where(d => d.X < 0))
            {
                d.X = Fixed($"{d.Name} put down, x", plan.FloorW > 0 ? plan.FloorW / 2 : 500, "mm");
                d.Y = Fixed($"{d.Name} put down, y", plan.FloorD > 0 ? plan.FloorD / 2 : 500, "mm");
                d.Heading = Fixed($"{d.Name} put down, heading", 0, "°");
                notes.Add($"Nothing says where {d.Name} is put down: it starts in the middle, facing up.");
            }
            foreach (var v in vehicles)
            {
                var line = scene
                    .All("start rail")
                    .FirstOrDefault(l => l.Name("what") == v.Name || v.Rig == 0 && l.Name("what") == rig.Name && vehicles.Count == 1);
                if (line is not null)
                {
                    v.Siding = LineOf(line);
                    v.Start = Draw(line, "at", vehicles.Count == 1 ? "start placement" : $"start placement of {v.Name}");
                }
                else if (rig.Starts.FirstOrDefault() is { } start && v.Rig == 0)
                {
                    v.Siding = 0;
                    // Every run is put down by hand anew: that is the placement's own spread, not how well its mean is known.
                    v.Start = Draw(
                        new(
                            "start placement",
                            "mm",
                            Provenance.Measured,
                            start.AtMm.Source,
                            start.AtMm.Value,
                            0,
                            Math.Sqrt(start.AtMm.BetweenRunsSd * start.AtMm.BetweenRunsSd + start.AtMm.MoveSd * start.AtMm.MoveSd),
                            double.MinValue,
                            double.MaxValue
                        )
                    );
                }
                else
                {
                    v.Siding = 0;
                    v.Start = Fixed($"{v.Name} put down", v.LengthMm, "mm");
                }
            }
            foreach (var line in scene.All("start axis"))
            {
                var axis = axes[AxisOf(line, "what")];
                axis.Start = Draw(line, "angle", $"start of {axis.Name}");
                axis.CountsFromStart = true;
            }
            foreach (var line in scene.All("start position"))
            {
                var axis = axes[AxisOf(line, "what")];
                axis.StartAt = axis.Positions.TryGetValue(line.Name("pos")!, out var at)
                    ? at
                    : throw Problem(line, $"{line.Name("pos")} of {axis.Name} was never found on this copy: record it in Sense.");
            }
        }

        private void Put(DriveSpec d, SceneLine line, (double X, double Y) at, double heading, double sd, double angleSd)
        {
            int Placed(string what, double value, string unit, double spread) =>
                Draw(
                    new(
                        $"{d.Name} put down, {what}",
                        unit,
                        line.Kind,
                        $"line {line.Line} of the scene",
                        value,
                        0,
                        spread,
                        double.MinValue,
                        double.MaxValue
                    )
                );
            (d.X, d.Y, d.Heading) = (Placed("x", at.X, "mm", sd), Placed("y", at.Y, "mm", sd), Placed("heading", heading, "°", angleSd));
        }

        private int Place(string? name)
        {
            if (name is null)
                return -1;
            var at = places.FindIndex(p => p.Name == name);
            return at >= 0 ? at : places.FindIndex(p => p.Name == "the " + name);
        }

        private void ThingsThere()
        {
            foreach (var line in scene.Lines)
            {
                if (line.Key is not ("thing round" or "thing box" or "things round" or "load"))
                    continue;
                var name = line.Name("name")!;
                var count = line.Key == "things round" ? (int)line.Value("n")!.Value : 1;
                var share = line.When is { In: { } few, Of: { } many } ? few.In("") / many.In("") : 1;
                for (var i = 0; i < count; i++)
                {
                    var own = count == 1 ? name : $"{name} {i + 1}";
                    var at = line.Point("at");
                    var lies = line.Name("place") is { } where && line.Key is not "things round" ? Place(where) : -1;
                    var place = lies >= 0 ? places[lies] : null;
                    // A place of the plan is where its middle is; one made of positions is where mechanisms come to.
                    if (place is { Axis: < 0 } && (place.Shape is not null || place.Ground))
                        (at, lies) = ((place.CentreX, place.CentreY), -1);
                    var carrier = line.Key == "load" ? AxisOf(line, "mech") : -1;
                    var drive = -1;
                    var seat = line.Key == "load" ? (0, 0) : line.Point("seat") ?? (0, 0);
                    if (line.Name("carrier") is { } on)
                    {
                        drive = drives.FindIndex(d => d.Rig == 0 && d.Names.Contains(on));
                        if (drive < 0)
                            carrier = axes.FindIndex(a => a.Name == on);
                        if (drive < 0 && carrier < 0)
                            throw Problem(line, $"“{on}” carries nothing on this bench: only drives and what rides on them do.");
                    }
                    // A load sits so far ahead of the body as its seat says, and half its own size.
                    if (carrier >= 0 && line.Key == "load" && drives.Find(d => d.Rig == axes[carrier].Rig) is { } under)
                        seat = (0, under.BoxFront + (line.Value("seat") ?? 0) + 15);
                    things.Add(
                        new()
                        {
                            Name = name,
                            Round = line.Key != "thing box",
                            Size = line.Key == "load" ? Fixed($"size of {own}", 30, "mm") : Draw(line, "w", $"size of {own}", 1),
                            Depth = line.Value("d") ?? line.Value("w") ?? 30,
                            TurnedDeg = line.Value("turned") ?? 0,
                            Fixed = line.Has("fixed"),
                            Low = line.Has("low"),
                            Rolls = line.Has("rolls"),
                            Fragile = line.Has("knocked off by a touch"),
                            Surface = line.Name("of") is { } of ? Surface(of) : -1,
                            X = at is { } p ? Fixed($"{own}, x", p.X, "mm") : -1,
                            Y = at is { } q ? Fixed($"{own}, y", q.Y, "mm") : -1,
                            Crush = line.Number("crush") is null ? -1 : Draw(line, "crush", $"what crushes {own}", 0),
                            Slip = line.Number("slip") is null ? -1 : Draw(line, "slip", $"what holds {own}", 0),
                            LiesAt = lies,
                            AtRandomOn = line.Key == "things round" ? Place(line.Name("place")) : -1,
                            Apart = line.Value("gap") ?? 0,
                            Carrier = carrier,
                            Drive = drive,
                            SeatX = seat.Item1,
                            SeatY = seat.Item2,
                            WeightN = (line.Value("m") ?? 0) / 1000 * 9.81,
                            HighMm = line.Value("h") ?? 0,
                            ForkedFromMm = line.Value("fork") ?? double.NaN,
                            Friction = line.Value("mu") ?? double.NaN,
                            Share = share,
                            Stream = Simulation.Draws.Hash($"where {own} lies"),
                        }
                    );
                }
            }
            plan.Things = [.. things];
        }

        // Things that a name speaks of, by their places.
        private int[] ThingsOf(string name) =>
            SceneWords.Thing(scene, name) is { } thing
                ? [.. things.Select((t, i) => (t, i)).Where(x => x.t.Name == thing).Select(x => x.i)]
                : [];

        private void BeltAndWater()
        {
            if (scene.First("belt") is { } belt)
            {
                var axis = AxisOf(belt, "mech");
                var feeds = new List<FeedSpec>();
                foreach (var f in scene.All("feed"))
                    feeds.Add(
                        new()
                        {
                            Name = f.Name("name")!,
                            Surface = Surface(f.Name("of") ?? f.Name("name")),
                            Length = Draw(f, "l", $"length of {f.Name("name")}", 1),
                            Share = f.Value("n") is { } n ? n / Math.Max(1, f.Value("m")!.Value) : 1,
                            EveryS = f.Value("t")!.Value,
                            EverySd = f.Number("t")!.GiveOrTake?.In("s") ?? 0,
                        }
                    );
                var made = new BeltSpec
                {
                    Axis = axis,
                    LengthMm = belt.Value("l")!.Value,
                    MmPerUnit = axes[axis].MmPerUnit > 0 ? axes[axis].MmPerUnit : 0.24,
                    Feeds = [.. feeds],
                };
                if (scene.First("sends") is { } sends)
                {
                    made.Arm = AxisOf(sends, "arm");
                    made.ArmAtMm = sends.Value("at")!.Value;
                    var pairs = (IReadOnlyList<ScenePair>)sends.Values["pairs"];
                    foreach (var bin in pairs.Select(p => p.To).Distinct())
                        places.Add(new() { Name = bin, Bin = true });
                    made.Sends = [.. pairs.Select(p => (p.From, Place(p.To)))];
                }
                if (scene.First("sticks") is { } sticks)
                {
                    made.SticksAtMm = sticks.Value("at")!.Value;
                    made.SticksShare = sticks.Value("n")!.Value / Math.Max(1, sticks.Value("m")!.Value);
                    made.FreeAfterMm = sticks.Value("back")!.Value;
                }
                plan.Belt = made;
            }
            if (scene.First("tank") is { } tank)
            {
                var name = tank.Name("name")!;
                var made = new TankSpec
                {
                    Name = name,
                    Litres = Draw(tank, "v", $"volume of {name}", 0.01),
                    HighMm = tank.Value("h")!.Value,
                    StartsAt = Draw(tank, "x", $"start of {name}", 0),
                };
                foreach (var line in scene.All("brings"))
                    made.Pumps.Add((AxisOf(line, "pump"), Draw(line, "q", $"flow of {line.Name("pump")}", 0), line.Value("p")!.Value));
                foreach (var line in scene.All("lets"))
                    made.Valves.Add(
                        (
                            AxisOf(line, "mech"),
                            line.Name("pos")!,
                            Draw(line, "q", $"flow of {line.Name("mech")} at {line.Name("pos")}", 0),
                            line.Has("out")
                        )
                    );
                if (scene.First("leaks") is { } leaks)
                    made.Leaks = Draw(leaks, "q", $"leak of {name}", 0);
                plan.Tank = made;
            }
            plan.Places = [.. places];
        }
    }
}
