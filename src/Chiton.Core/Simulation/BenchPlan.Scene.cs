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

        private int AxisOf(SceneLine line, string slot)
        {
            var name = line.Name(slot)!;
            var at = axes.FindIndex(a => a.Name == name || movers[a.Mover].Motor == name);
            return at >= 0
                ? at
                : throw Problem(line, $"{name} does not turn or slide by a motor, so nothing can be said of where it stands.");
        }

        // Where everything is put down; what the scene does not say stands as Rig says, or at its end.
        private void Placings()
        {
            var rig = rigs[0].Copy.Rig;
            foreach (var line in scene.All("start drive").Where(l => l.When.In is null))
                Put(DriveOf(line), PutDown(DriveOf(line), line, ""));
            for (var r = 1; r < rigs.Count; r++)
                if (rigs[r].Line is { } guest && drives.FirstOrDefault(x => x.Rig == r) is { } own)
                    if (guest.Point("at") is not null)
                        Put(own, PutDown(own, guest, ""));
            foreach (var d in drives.Where(d => d.X < 0))
            {
                d.X = Fixed($"{d.Name} put down, x", plan.Layout.FloorW > 0 ? plan.Layout.FloorW / 2 : 500, "mm");
                d.Y = Fixed($"{d.Name} put down, y", plan.Layout.FloorD > 0 ? plan.Layout.FloorD / 2 : 500, "mm");
                d.Heading = Fixed($"{d.Name} put down, heading", 0, "°");
                found.Add(new(0, "note", $"Nothing says where {d.Name} is put down: it starts in the middle, facing up."));
            }
            foreach (var v in vehicles)
            {
                var line = scene.All("start rail").FirstOrDefault(l => Speaks(l, v) && l.When.In is null);
                if (line is not null)
                {
                    v.Siding = LineOf(line, plan.Layout);
                    v.Start = Draw(line, "at", vehicles.Count == 1 ? "start placement" : $"start placement of {v.Name}");
                }
                // A guest comes with the starts of its own rig.
                else if (rigs[v.Rig].Copy.Rig.Starts.FirstOrDefault() is { } start)
                {
                    v.Siding = 0;
                    // Every run is put down by hand anew: that is the placement's own spread, not how well its mean is known.
                    v.Start = Draw(
                        new(
                            In(v.Rig, "start placement"),
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
            foreach (var line in scene.All("start axis").Concat(scene.All("start position")).Where(l => l.When.In is null))
            {
                var axis = axes[AxisOf(line, "what")];
                (axis.Start, axis.CountsFromStart) = (StartOf(line, axis, ""), line.Key == "start axis");
            }
            foreach (var line in scene.Lines.Where(l => l.When.In is not null))
                Instead(line);
        }

        private DriveSpec DriveOf(SceneLine line)
        {
            var name = line.Name("what")!;
            return drives.FirstOrDefault(x => x.Rig == 0 && (x.Names.Contains(name) || name == rigs[0].Copy.Rig.Name))
                ?? throw Problem(line, $"There is no drive “{name}” on this rig that could be put there.");
        }

        private bool Speaks(SceneLine line, VehicleSpec v) =>
            line.Name("what") == v.Name || v.Rig == 0 && line.Name("what") == rigs[0].Copy.Rig.Name && vehicles.Count == 1;

        private int StartOf(SceneLine line, AxisSpec axis, string other) =>
            line.Key == "start axis" ? Draw(line, "angle", $"start of {axis.Name}{other}")
            : axis.Positions.TryGetValue(line.Name("pos")!, out var at) ? Fixed($"start of {axis.Name}{other}", at, "motor deg")
            : throw Problem(line, $"{line.Name("pos")} of {axis.Name} was never found on this copy: record it in Sense.");

        // A start that is so in some runs only: there its numbers take the place of the usual ones.
        private void Instead(SceneLine line)
        {
            List<(int, int)> pairs = [];
            var other = $", line {line.Line}";
            switch (line.Key)
            {
                case "start drive":
                    var d = DriveOf(line);
                    var (x, y, heading) = PutDown(d, line, other);
                    pairs = [(d.X, x), (d.Y, y), (d.Heading, heading)];
                    break;
                case "start rail":
                    var v = vehicles.FirstOrDefault(o => Speaks(line, o));
                    if (v is null)
                        return;
                    if (LineOf(line, plan.Layout) != v.Siding)
                        throw Problem(
                            line,
                            $"{v.Name} is put on another line in some runs: that cannot be said here. Write a scene for it."
                        );
                    pairs = [(v.Start, Draw(line, "at", $"start placement of {v.Name}{other}"))];
                    break;
                case "start axis" or "start position":
                    var axis = axes[AxisOf(line, "what")];
                    var own = StartOf(line, axis, other);
                    if (axis.Start < 0)
                        axis.Start = Fixed($"start of {axis.Name}", axis.StartAt ?? 0, "motor deg");
                    else if (axis.CountsFromStart != (line.Key == "start axis"))
                        throw Problem(line, $"Say the start of {axis.Name} by an angle in both lines, or by a position in both.");
                    axis.CountsFromStart |= line.Key == "start axis";
                    pairs = [(axis.Start, own)];
                    break;
                default:
                    return;
            }
            plan.Insteads =
            [
                .. plan.Insteads,
                (
                    line.When.In!.Value.In("") / line.When.Of!.Value.In(""),
                    Simulation.Draws.Hash($"whether {ScenePrinter.Print(line)}"),
                    [.. pairs]
                ),
            ];
        }

        private static void Put(DriveSpec d, (int X, int Y, int Heading) at) => (d.X, d.Y, d.Heading) = at;

        private (int X, int Y, int Heading) PutDown(DriveSpec d, SceneLine line, string other)
        {
            var sd = line.Number("sd");
            var angle = line.Number("asd");
            SceneNumber Or(SceneNumber n, SceneNumber? spread) => n.Varies || spread is null ? n : n with { GiveOrTake = spread.Of };
            var (x, y) = ((ScenePoint)line.Values["at"]).Both;
            var heading = line.Number("heading") ?? new(new("0", ""));
            return (
                Draw(line, Or(x, sd), "mm", $"{d.Name} put down, x{other}"),
                Draw(line, Or(y, sd), "mm", $"{d.Name} put down, y{other}"),
                Draw(line, Or(heading, angle), "°", $"{d.Name} put down, heading{other}")
            );
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
                if (line.Key is not ("thing round" or "thing box" or "things round" or "things box" or "load"))
                    continue;
                var name = line.Name("name")!;
                var several = line.Key is "things round" or "things box";
                var count = several ? (int)line.Value("n")!.Value : 1;
                var share = line.When is { In: { } few, Of: { } many } ? few.In("") / many.In("") : 1;
                for (var i = 0; i < count; i++)
                {
                    var own = count == 1 ? name : $"{name} {i + 1}";
                    var at = (line.Values.GetValueOrDefault("at") as ScenePoint)?.Both;
                    var lies = line.Name("place") is { } where && !several ? Place(where) : -1;
                    var place = lies >= 0 ? places[lies] : null;
                    // A place of the plan is where its middle is; one made of positions is where mechanisms come to.
                    var onPlace = place is { Axis: < 0 } && (place.Shape is not null || place.Ground) ? lies : -1;
                    if (onPlace >= 0)
                        lies = -1;
                    var carrier = line.Key == "load" ? AxisOf(line, "mech") : -1;
                    var drive = -1;
                    var (seatX, seatY) = Seat(line, own);
                    if (line.Name("carrier") is { } on)
                    {
                        // A guest's drive is said with its name: “Other's Drive”.
                        drive = drives.FindIndex(d => d.Rig == 0 && d.Names.Contains(on) || d.Rig > 0 && d.Name == on);
                        if (drive < 0)
                            carrier = axes.FindIndex(a => a.Name == on);
                        if (drive < 0 && carrier < 0)
                            throw Problem(line, $"“{on}” carries nothing on this bench: only drives and what rides on them do.");
                    }
                    // A load sits so far ahead of the body as its seat says, and half its own size.
                    if (carrier >= 0 && line.Key == "load" && drives.Find(d => d.Rig == axes[carrier].Rig) is { } under)
                        seatY = seatY with { Usual = seatY.Usual + under.BoxFront + 15, Plus = under.BoxFront + 15 };
                    things.Add(
                        new()
                        {
                            Name = name,
                            Round = line.Key is not ("thing box" or "things box"),
                            Size = line.Key == "load" ? Fixed($"size of {own}", 30, "mm") : Draw(line, "w", $"size of {own}", 1),
                            Depth = Some(line, line.Number("d") is null ? "w" : "d", $"depth of {own}", otherwise: 30),
                            Fixed = line.Has("fixed"),
                            Low = line.Has("low"),
                            Rolls = line.Has("rolls"),
                            Fragile = line.Has("knocked off by a touch"),
                            Surface = line.Name("of") is { } of ? Surface(of) : -1,
                            X = at is { } p ? Draw(line, p.X, "mm", $"{own}, x") : -1,
                            Y = at is { } q ? Draw(line, q.Y, "mm", $"{own}, y") : -1,
                            LiesOn = onPlace,
                            Crush = line.Number("crush") is null ? -1 : Draw(line, "crush", $"what crushes {own}", 0),
                            Slip = line.Number("slip") is null ? -1 : Draw(line, "slip", $"what holds {own}", 0),
                            LiesAt = lies,
                            AtRandomOn = several ? Place(line.Name("place")) : -1,
                            Apart = Some(line, "gap", $"room round {name}"),
                            Carrier = carrier,
                            Drive = drive,
                            SeatX = seatX,
                            SeatY = seatY,
                            WeightN = Some(line, "m", $"mass of {own}", 9.81 / 1000),
                            HighMm = Some(line, "h", $"height of {own}"),
                            ForkedFromMm = Some(line, "fork", $"where a fork takes up {own}", otherwise: double.NaN),
                            Friction = Some(line, "mu", $"friction of {own}", otherwise: double.NaN),
                            Share = share,
                            Stream = Simulation.Draws.Hash($"where {own} lies"),
                        }
                    );
                }
            }
            plan.Things = [.. things];
        }

        // Where a thing sits on what carries it: to the right and ahead, or so far from the body as the seat of a load says.
        private (Num X, Num Y) Seat(SceneLine line, string own)
        {
            if (line.Key == "load")
                return (new(0), Some(line, "seat", $"seat of {own}"));
            if (line.Values.GetValueOrDefault("seat") is not ScenePoint point)
                return (new(0), new(0));
            var (x, y) = point.Both;
            Num Of(SceneNumber n, string way) => n.Varies ? new(n.In("mm"), Draw(line, n, "mm", $"seat of {own}, {way}")) : new(n.In("mm"));
            return (Of(x, "right"), Of(y, "ahead"));
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
                            Length = Of(f.Number("l"), "mm"),
                            Share = f.Value("n") is { } n ? n / Math.Max(1, f.Value("m")!.Value) : 1,
                            Every = Of(f.Number("t"), "s"),
                        }
                    );
                var made = new BeltSpec
                {
                    Axis = axis,
                    LengthMm = Some(belt, "l", "length of the belt"),
                    MmPerUnit = axes[axis].MmPerUnit > 0 ? axes[axis].MmPerUnit : 0.24,
                    Feeds = [.. feeds],
                };
                if (scene.First("sends") is { } sends)
                {
                    made.Arm = AxisOf(sends, "arm");
                    made.ArmAtMm = Some(sends, "at", $"where {sends.Name("arm")} stands");
                    var pairs = (IReadOnlyList<ScenePair>)sends.Values["pairs"];
                    foreach (var bin in pairs.Select(p => p.To).Distinct())
                        places.Add(new() { Name = bin, Bin = true });
                    made.Sends = [.. pairs.Select(p => (p.From, Place(p.To)))];
                }
                if (scene.First("sticks") is { } sticks)
                {
                    made.SticksAtMm = Some(sticks, "at", "where it sticks");
                    made.SticksShare = sticks.Value("n")!.Value / Math.Max(1, sticks.Value("m")!.Value);
                    made.FreeAfterMm = Some(sticks, "back", "how far back frees what sticks");
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
                    HighMm = Some(tank, "h", $"height of {name}"),
                    StartsAt = Draw(tank, "x", $"start of {name}", 0),
                };
                foreach (var line in scene.All("brings"))
                    made.Pumps.Add(
                        (
                            AxisOf(line, "pump"),
                            Draw(line, "q", $"flow of {line.Name("pump")}", 0),
                            Some(line, "p", $"power of {line.Name("pump")} told of")
                        )
                    );
                foreach (var line in scene.All("lets"))
                    made.Valves.Add(
                        (
                            AxisOf(line, "mech"),
                            axes[AxisOf(line, "mech")].Positions.GetValueOrDefault(line.Name("pos")!, double.NaN),
                            Draw(line, "q", $"flow of {line.Name("mech")} at {line.Name("pos")}", 0),
                            line.Has("out")
                        )
                    );
                if (scene.First("leaks") is { } leaks)
                {
                    made.Leaks = Draw(leaks, "q", $"leak of {name}", 0);
                    if (leaks.When is { In: { } few, Of: { } many })
                        plan.Insteads =
                        [
                            .. plan.Insteads,
                            (
                                1 - few.In("") / many.In(""),
                                Simulation.Draws.Hash($"whether {name} leaks"),
                                [(made.Leaks, Fixed($"no leak of {name}", 0, "l/s"))]
                            ),
                        ];
                }
                plan.Tank = made;
            }
            plan.Layout.Places = [.. places];
        }
    }
}
