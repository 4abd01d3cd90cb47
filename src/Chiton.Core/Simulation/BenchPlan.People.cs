using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.People;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Simulation;

public sealed partial class BenchPlan
{
    private sealed partial class Builder
    {
        private readonly List<HappeningSpec> happenings = [];

        private void Timed()
        {
            if (scene.First("reacts") is { } reacts)
                plan.Reaction = Draw(reacts, "t", "how long people take", 0);
            foreach (var line in scene.Lines)
                if (Happening(line) is { } made)
                    happenings.Add(made);
            plan.Happenings = [.. happenings];
        }

        // What a person can do while it plays: lines after those of the scene that wait for their time.
        private void Hands()
        {
            var rig = rigs[0].Copy.Rig;
            var names = SceneParser.Names(rig);
            var hands = new List<(Hand, int)>();
            var list = Hand.Of(
                rig,
                plan.Things.Where(t => !t.Fixed && t.Carrier < 0 && t.Drive < 0 && plan.Things.Count(o => o.Name == t.Name) == 1)
                    .Select(t => t.Name),
                m => Driven(m.Name)
            );
            foreach (var hand in list)
                try
                {
                    var (line, fault) = SceneParser.One(hand.Line(), 0, names);
                    if (fault is not null || Happening(line, true) is not { } made)
                        throw new InputProblem("scene", fault?.Message ?? hand.Line());
                    hands.Add((hand, happenings.Count));
                    happenings.Add(made);
                }
                catch (InputProblem problem)
                {
                    // Said beside it, for instance that this copy has no readings of a zone.
                    hands.Add((hand with { Why = problem.Message.Replace("Line 0 of the scene: ", "", StringComparison.Ordinal) }, -1));
                }
            plan.Happenings = [.. happenings];
            plan.Hands = [.. hands];
        }

        // True where a program makes it move: such a thing is blocked, not turned by hand.
        private bool Driven(string mechanism)
        {
            var axis = axes.FindIndex(a => a.Name == mechanism);
            for (var p = 0; p < plan.Programs.Count; p++)
            {
                var units = plan.Programs[p].Script.Units;
                for (var u = 0; u < units.Length; u++)
                for (var a = 0; a < units[u].Activities.Length; a++)
                    if (
                        units[u].Activities[a].Device is >= 0 and var device
                        && plan.Targets[p][device] == new Target(TargetKind.Axis, axis)
                        && plan.Orders[p][u][a].Kind is not (OrderKind.None or OrderKind.Stop)
                    )
                        return true;
            }
            return false;
        }

        private HappeningSpec? Happening(SceneLine line, bool waits = false)
        {
            var (sd, turn) = (line.Number("sd")?.Of, line.Number("asd")?.Of);
            var at = (line.Values.GetValueOrDefault("at") as ScenePoint)?.Both;
            if (at is { } put && sd is not null)
                at = (put.X with { GiveOrTake = sd }, put.Y with { GiveOrTake = sd });
            Amount A(string slot) => Of(line.Number(slot), SceneForms.Of(line.Key)!.UnitOf(slot));
            HappeningSpec With(Deed task) =>
                new()
                {
                    Deed = task,
                    Waits = waits,
                    Line = line.Line,
                    Say = ScenePrinter.Print(line),
                    At = Of(line.When.At ?? line.When.From, "s"),
                    Every = Of(line.When.Every, "s"),
                    Later = Of(line.When.Later, "s"),
                    For = Of(line.When.For, "s"),
                    UntilLater = Of(line.When.UntilLater, "s"),
                    Starts =
                        line.When.When is { } when ? Cond(when, null)
                        : line.When.After is { } after ? Cond(after, null)
                        : null,
                    Until = line.When.Until is { } until ? Cond(until, null) : null,
                    EachTime = line.When.EachTime,
                    Share = line.When is { In: { } few, Of: { } many } ? few.In("") / many.In("") : 1,
                    Sense =
                        line.Name("sensor") is not null ? SenseOf(line, "sensor")
                        : line.Name("eye") is not null ? SenseOf(line, "eye")
                        : line.Name("button") is not null ? SenseOf(line, "button")
                        : line.Key == "unplug" ? senses.FindIndex(s => s.Name == line.Name("device"))
                        : -1,
                    A = line.Key switch
                    {
                        "hand" or "stands" or "light" => A("x"),
                        "comes" => A("a"),
                        "reads" => A("x"),
                        "turns" => A("a"),
                        "puts drive" => turn is null ? A("heading") : A("heading") with { Sd = turn.Value.In("°") },
                        "gives" => A("q"),
                        "battery" => A("v"),
                        "lost readings" or "lost messages" => new(
                            line.Value("n")!.Value / Math.Max(1, line.Value("m")!.Value),
                            0,
                            double.NaN
                        ),
                        "asks" => A("again"),
                        _ => Amount.None,
                    },
                    B = line.Key switch
                    {
                        "comes" => A("b"),
                        "turns" => A("t"),
                        "asks" => A("pass"),
                        _ => Amount.None,
                    },
                    C = line.Key switch
                    {
                        "comes" => A("v"),
                        "turns" => A("hold"),
                        _ => Amount.None,
                    },
                    D = line.Key == "comes" ? A("stay") : Amount.None,
                    E = line.Key == "comes" ? A("out") : Amount.None,
                    X = Of(at?.X, "mm"),
                    Y = Of(at?.Y, "mm"),
                    AsAtStart = line.Number("sd") is null && at is not { X.Varies: true } and not { Y.Varies: true },
                    Flag = line.Key == "turns" && line.Has("lets go") || line.Key == "light" && line.Has("falls"),
                    Zone = Zone(line),
                    Axis =
                        line.Key is "turns" or "block" or "asks" && line.Name("mech") is { } m && axes.Any(a => a.Name == m)
                            ? AxisOf(line, "mech")
                            : -1,
                    Drive =
                        line.Key is "puts drive" or "puts" && line.Name("what") is { } d
                            ? drives.FindIndex(x => x.Names.Contains(d) || x.Name == d)
                        : line.Key == "block" ? drives.FindIndex(x => x.Name == line.Name("mech"))
                        : line.Key == "unplug" ? drives.FindIndex(x => x.Name == line.Name("device"))
                        : -1,
                    Mover = MoverOf(line),
                    MoverTo = line.Key == "steers" ? axes[AxisOf(line, "turn")].Mover : -1,
                    Thing = line.Name("what") is { } thing ? ThingsOf(thing).DefaultIfEmpty(-1).First() : -1,
                    Place = Place(line.Name("place")),
                    Position = line.Name("pos") ?? "",
                    Places = line.Values.GetValueOrDefault("places") is IReadOnlyList<string> route
                        ?
                        [
                            .. route.Select(p =>
                                Place(p) is >= 0 and var at ? at : throw Problem(line, $"There is no place “{p}” in this scene.")
                            ),
                        ]
                        : [],
                    Stream = Simulation.Draws.Hash(
                        $"line {happenings.Count(h => h.Say == ScenePrinter.Print(line))} {ScenePrinter.Print(line)}"
                    ),
                };
            HappeningSpec Checked(HappeningSpec made)
            {
                if (line.Key is "puts" or "takes" && made.Thing < 0 && made.Drive < 0)
                    throw Problem(line, $"There is no “{line.Name("what")}” in this scene.");
                return made;
            }
            switch (line.Key)
            {
                case "hand" or "stands":
                    return With(Deed.Hand);
                case "comes":
                    return With(Deed.Comes);
                case "reads":
                    return With(Deed.Reads);
                case "reads zone":
                case "shows":
                    return With(Deed.ReadsZone);
                case "silent":
                    return With(Deed.Silent);
                case "person":
                    return With(
                        line.Has("taps") ? Deed.Tap
                        : line.Has("presses") ? Deed.Press
                        : line.Has("holds") ? Deed.Hold
                        : Deed.LetGo
                    );
                case "puts drive":
                    return With(Deed.PutDrive);
                case "puts":
                    return Checked(With(Deed.PutThing));
                case "takes":
                    return Checked(With(Deed.TakeThing));
                case "turns":
                    return With(Deed.Turn);
                case "steers":
                    return With(Deed.Steer);
                case "asks":
                    return With(Deed.Ask);
                case "light":
                    return With(Deed.Light);
                case "lost readings":
                    return With(Deed.LostReadings);
                case "lost messages":
                    return With(Deed.LostMessages);
                case "unplug":
                    return With(Deed.Unplug);
                case "block":
                    return With(Deed.Block);
                case "lift":
                    return With(Deed.Lift);
                case "battery":
                    return With(Deed.Battery);
                case "gives":
                    return With(Deed.Gives);
                case "runs dry":
                    return With(Deed.RunsDry);
                default:
                    return null;
            }
        }

        // The zone that a line speaks of, as a surface that the sensor knows.
        private int Zone(SceneLine line)
        {
            if (line.Key is not ("reads zone" or "shows"))
                return -1;
            var sense = senses[SenseOf(line, line.Key == "shows" ? "eye" : "sensor")];
            var zone = line.Name("zone")!;
            if (sense.IsSwitch)
                return zone is "down" or "pressed" ? 1 : 0;
            var surface = surfaces.IndexOf(zone);
            if (sense.Kind == SensorKind.Distance)
                return Array.IndexOf(sense.Zones, zone) is >= 0 and var band
                    ? band
                    : throw Problem(line, $"{sense.Name} has no band “{zone}”.");
            if (surface < 0 || sense.Means[surface] < 0)
                throw new InputProblem(
                    "copy",
                    $"Line {line.Line} of the scene: {sense.Name} knows nothing of “{zone}” on this copy. "
                        + "Take at least 3 readings of it in Sense."
                );
            return surface;
        }

        private int MoverOf(SceneLine line)
        {
            if (line.Key == "steers")
                return axes[AxisOf(line, "ahead")].Mover;
            if (line.Key == "runs dry")
                return axes[AxisOf(line, "pump")].Mover;
            if (line.Key == "block" && line.Name("mech") is { } m)
                return axes.FirstOrDefault(a => a.Name == m)?.Mover
                    ?? vehicles.FirstOrDefault(v => v.Name == m)?.Mover
                    ?? drives.FirstOrDefault(d => d.Name == m)?.Left
                    // One wheel of a drive, or a motor by its own name.
                    ?? movers.FindIndex(x => x.Motor == m || x.Name == m);
            if (line.Key == "unplug" && line.Name("device") is { } name)
            {
                var mover = movers.FindIndex(x => x.Motor == name || x.Name == name);
                return mover < 0 && !senses.Any(s => s.Name == name) ? drives.FirstOrDefault(d => d.Name == name)?.Left ?? -1 : mover;
            }
            return -1;
        }
    }
}
