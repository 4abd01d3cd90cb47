using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Bodies;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Simulation;

/// <summary>A transition of a watched run, explained.</summary>
/// <param name="TimeS">When, s.</param>
/// <param name="Program">Which program.</param>
/// <param name="Region">Which of its regions; empty in a routine.</param>
/// <param name="From">State left; null for the start.</param>
/// <param name="To">State entered; the same where it stayed.</param>
/// <param name="Line">Line of the script; 0 for the start.</param>
/// <param name="Sentence">The line's sentence.</param>
/// <param name="Say">What caused it, with the figures.</param>
/// <param name="Place">Where things stood, in words.</param>
/// <param name="X">Where in the plan, mm; null where nothing drives.</param>
/// <param name="Y">Where in the plan, mm.</param>
/// <param name="Warning">What is odd about it, or null.</param>
public sealed record BenchEvent(
    double TimeS,
    string Program,
    string Region,
    string? From,
    string To,
    int Line,
    string Sentence,
    string Say,
    string Place,
    double? X,
    double? Y,
    string? Warning
);

/// <summary>The states of one region over time.</summary>
public sealed record BenchStates(string Program, string Region, IReadOnlyList<StateStretch> Stretches);

/// <summary>Something that moves, sampled at one rate.</summary>
/// <param name="Name">What.</param>
/// <param name="Kind">drive, vehicle, axis, thing, water, visitor before a sensor, or what comes along a belt.</param>
/// <param name="X">Where: x of a drive or thing, way of a vehicle, angle of a part, height of water; null while it is not there.</param>
/// <param name="Y">y of a drive or thing; else empty.</param>
/// <param name="Heading">Heading of a drive, degrees clockwise from up; on a rail the line, 0 the main one; else empty.</param>
/// <param name="Speed">Speed, mm/s or degrees a second; empty for things.</param>
public sealed record BenchBody(
    string Name,
    string Kind,
    IReadOnlyList<double?> X,
    IReadOnlyList<double?> Y,
    IReadOnlyList<double?> Heading,
    IReadOnlyList<double> Speed
);

/// <summary>A stretch in which a line of the scene was at work.</summary>
public sealed record BenchHappening(string Say, int Line, double FromS, double? ToS);

/// <summary>Something that happened to a body.</summary>
public sealed record BenchNote(double TimeS, string Say, double X, double Y);

/// <summary>A message from one program to another.</summary>
public sealed record BenchMessage(double TimeS, string From, string To, string Text);

/// <summary>Why a run failed.</summary>
/// <param name="Rule">The goal or never, as written; null when the machine was stopped.</param>
/// <param name="FromScene">Whether the scene asks it.</param>
/// <param name="Line">Its line.</param>
/// <param name="AtS">When it was decided, s.</param>
/// <param name="Where">Where things stood then, in words that group alike.</param>
/// <param name="LastTransition">The sentence of the last transition taken.</param>
/// <param name="Say">The whole in one or two sentences.</param>
/// <param name="X">Where in the plan; null where nothing drives.</param>
/// <param name="Y">Where in the plan.</param>
public sealed record BenchFailure(
    string? Rule,
    bool FromScene,
    int Line,
    double AtS,
    string Where,
    string? LastTransition,
    string Say,
    double? X,
    double? Y
);

/// <summary>A goal or never, and what became of it.</summary>
/// <param name="Text">As written.</param>
/// <param name="Unjudged">Why it cannot be judged here; null when it can.</param>
public sealed record BenchAsked(string Text, string? Unjudged);

/// <summary>One run, watched.</summary>
public sealed record BenchReport(
    long Seed,
    bool Passed,
    double DecidedS,
    double EndS,
    double Score,
    BenchFailure? Failure,
    string Say,
    IReadOnlyList<BenchEvent> Events,
    IReadOnlyList<BenchStates> States,
    double RateHz,
    IReadOnlyList<double> TimeS,
    IReadOnlyList<BenchBody> Bodies,
    IReadOnlyList<double> BatteryV,
    IReadOnlyList<SensorTrace> Sensors,
    IReadOnlyList<RunOutput> Outputs,
    IReadOnlyList<BenchHappening> Happenings,
    IReadOnlyList<BenchMessage> Messages,
    IReadOnlyList<BenchNote> Notes,
    IReadOnlyList<DrawnNumber> Draws,
    IReadOnlyList<BenchAsked> Rules
)
{
    /// <summary>The scene as it was in this run: what varies of the ground drawn, and without the lines of other runs.</summary>
    public Scenes.SceneNode? Scene { get; private init; }

    /// <summary>Runs once and writes everything down.</summary>
    /// <param name="plan">What runs.</param>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="rateHz">Samples a second of what moves, 1 to 500.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="copySeed">Seed of the copy; null for that of the run.</param>
    /// <param name="held">Numbers held at a value, by name.</param>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static BenchReport Watch(
        BenchPlan plan,
        long seed,
        double rateHz = 50,
        CancellationToken cancel = default,
        long? copySeed = null,
        IReadOnlyDictionary<string, double>? held = null
    )
    {
        var bench = new Bench(plan);
        var recorder = new BenchRecorder(bench, rateHz);
        Dictionary<int, double>? places = null;
        if (held is not null)
        {
            places = [];
            for (var i = 0; i < plan.Draws.Count; i++)
                if (held.TryGetValue(plan.Draws[i].Name, out var value))
                    places[i] = value;
        }
        var result = bench.Go(seed, true, recorder, cancel, copySeed, places);
        return recorder.Report(seed, result) with { Scene = bench.Scene };
    }
}

/// <summary>Writes a run down as it goes.</summary>
internal sealed class BenchRecorder : IBenchWatcher
{
    /// <summary>Most transitions, stretches, outputs and notes, each, that one run tells.</summary>
    public const int MostTold = 5_000;

    /// <summary>Most readings of a sensor that one run tells.</summary>
    public const int MostReadings = 120_000;

    private readonly Bench bench;
    private readonly BenchPlan plan;
    private readonly double rateHz;
    private readonly List<BenchEvent> events = [];
    private readonly Dictionary<(int, string), List<StateStretch>> stretches = [];
    private readonly Dictionary<(int, string), (string State, double Since)> current = [];
    private readonly Dictionary<(int, string), double> enteredAt = [];
    private readonly List<double> time = [],
        battery = [];
    private readonly Track[] tracks;
    private readonly int[] visitors;
    private readonly List<Track> along = [];
    private readonly Dictionary<int, (List<double> Time, List<double?> Reading)> readings = [];
    private readonly List<RunOutput> outputs = [];
    private readonly List<BenchHappening> happenings = [];
    private readonly Dictionary<int, int> open = [];
    private readonly List<BenchMessage> messages = [];
    private readonly List<BenchNote> notes = [];
    private readonly Dictionary<(int, int), (string Marker, int Pass)> lastEdge = [];
    private readonly string?[] over;
    private readonly int[] pass;

    // When a program last went to another state, s; NaN once that was looked at.
    private readonly double[] changed;
    private long nextSample;
    private bool cut;

    private sealed class Track(string name, string kind)
    {
        public string Name => name;
        public string Kind => kind;
        public List<double?> X { get; } = [];
        public List<double?> Y { get; } = [];
        public List<double?> Heading { get; } = [];
        public List<double> Speed { get; } = [];
    }

    public BenchRecorder(Bench bench, double rateHz)
    {
        (this.bench, plan, this.rateHz) = (bench, bench.Plan, rateHz);
        visitors =
        [
            .. Enumerable.Range(0, plan.Happenings.Length).Where(h => plan.Happenings[h].Deed is People.Deed.Hand or People.Deed.Comes),
        ];
        tracks =
        [
            .. plan.Drives.Select(d => new Track(d.Name, "drive")),
            .. plan.Vehicles.Select(v => new Track(v.Name, "vehicle")),
            .. plan.Axes.Select(a => new Track(a.Name, "axis")),
            .. plan.Things.Select(t => new Track(t.Name, "thing")),
            .. plan.Tank is { } tank ? new[] { new Track(tank.Name, "water") } : [],
            .. visitors.Select(h => new Track(plan.Happenings[h].Say, "visitor")),
        ];
        over = new string?[plan.Vehicles.Length];
        pass = new int[plan.Vehicles.Length];
        changed = [.. plan.Programs.Select(_ => 0.0)];
    }

    internal IReadOnlyList<BenchEvent> Events => events;
    internal IReadOnlyList<BenchNote> Notes => notes;
    internal IReadOnlyList<RunOutput> Outputs => outputs;
    internal IReadOnlyList<BenchMessage> Messages => messages;

    /// <summary>What moves, in the order of <see cref="Poses"/>.</summary>
    internal IReadOnlyList<LiveName> Names => [.. tracks.Select(t => new LiveName(t.Name, t.Kind))];

    /// <summary>Where everything that moves is now: x, y and heading as far as it has them; empty where it is not there.</summary>
    internal IReadOnlyList<double[]> Poses()
    {
        var all = new double[tracks.Length][];
        var k = 0;
        foreach (ref readonly var d in bench.DriveStates)
            all[k++] = [Math.Round(d.X, 1), Math.Round(d.Y, 1), Math.Round(d.Heading * 180 / Math.PI, 1)];
        foreach (ref readonly var v in bench.VehicleStates)
            all[k++] = [Math.Round(v.At, 2), 0, v.Line];
        foreach (var a in plan.Axes)
            all[k++] = [Math.Round(bench.MoverStates[a.Mover].At, 1)];
        foreach (ref readonly var s in bench.ThingStates)
            all[k++] = s.IsSeen ? [Math.Round(s.X, 1), Math.Round(s.Y, 1)] : [];
        if (plan.Tank is not null)
            all[k++] = [Math.Round(bench.LevelMm, 1)];
        foreach (var h in visitors)
            all[k++] = bench.HappeningStates[h].Active ? [Math.Round(bench.Before(h), 1)] : [];
        return all;
    }

    /// <summary>The innermost state of each region of each program now; empty once it has ended.</summary>
    internal IReadOnlyList<string> StatesNow()
    {
        Look();
        return
        [
            .. plan.Programs.SelectMany(
                (p, at) => p.Script.Program.Regions.Select(r => current.TryGetValue((at, r.Name), out var now) ? now.State : "")
            ),
        ];
    }

    /// <summary>How it was decided, in words.</summary>
    internal LiveVerdict Verdict(BenchResult result) => new(result.Passed, result.TimeMicros * 1e-6, Say(result, Failure(result)));

    /// <summary>The numbers drawn.</summary>
    internal IReadOnlyList<DrawnNumber> Drawn() =>
        [
            .. plan
                .Draws.Select((d, i) => (d, Value: bench.Drawn[i]))
                .Where(x => !(x.d.IsFixed && x.d.Source == ""))
                .Select(x => new DrawnNumber(x.d.Name, x.Value, x.d.Unit, x.d.Kind, x.d.Usual)),
        ];

    private string Say(BenchResult result, BenchFailure? failure) =>
        failure?.Say
        ?? (
            plan.Unproved is { } nothing ? nothing
            : plan.Rules.Any(r => r.IsGoal) ? $"Passed in {Show(result.TimeMicros * 1e-6, 3)} s."
            : "Nothing was asked of this run: neither program nor scene has a goal line."
        );

    public void Starting(Bench bench)
    {
        foreach (var dead in plan.Findings.Where(f => f.Code == "wired-wrong"))
            notes.Add(new(0, dead.Say, X() ?? 0, Y() ?? 0));
        for (var p = 0; p < plan.Programs.Count; p++)
        {
            var program = plan.Programs[p].Script.Program;
            foreach (var region in program.Regions)
                if (region.States.FirstOrDefault(s => s.Initial) is { } initial)
                    enteredAt[(p, initial.Name)] = 0;
            var names = List(program.Regions.Select(r => r.States.FirstOrDefault(s => s.Initial)?.Name).OfType<string>());
            events.Add(new(0, plan.Programs[p].Name, "", null, names, 0, "", $"The program starts in {names}.", Where(), X(), Y(), null));
        }
    }

    private double? X() =>
        plan.Drives.Length > 0 ? Math.Round(bench.DriveStates[0].X, 1)
        : plan.Vehicles.Length > 0 ? Math.Round(bench.Spot(0), 1)
        : null;

    private double? Y() =>
        plan.Drives.Length > 0 ? Math.Round(bench.DriveStates[0].Y, 1)
        : plan.Vehicles.Length > 0 ? 0
        : null;

    private string Where()
    {
        if (plan.Drives.Length > 0)
        {
            ref readonly var d = ref bench.DriveStates[0];
            return $"at ({d.X:0}, {d.Y:0}), heading {(Math.Round(d.Heading * 180 / Math.PI) % 360 + 360) % 360:0}°";
        }
        if (plan.Vehicles.Length > 0)
            return Near(0);
        foreach (var a in plan.Axes)
            if (plan.Movers[a.Mover].Kind == ActuatorKind.RegulatedMotor && !a.RunsOn)
                return $"{a.Name} at {bench.MoverStates[a.Mover].At:0} motor deg";
        return plan.Tank is not null ? $"water {bench.LevelMm:0} mm high" : "";
    }

    private string Near(int v)
    {
        var spot = bench.Spot(v);
        if (bench.Layout.Lines.Length == 0 || bench.Layout.Markers.Length == 0)
            return $"{Show(spot, 3)} mm along";
        var radius = plan.Vehicles[v].Eye is >= 0 and var e ? bench.Drawn[plan.Senses[e].Spot] / 2 : 0;
        var (name, excess, _) = bench.Marker(v, spot);
        if (name is not null && excess < 2 * radius)
            return $"over {name}";
        var line = bench.Layout.Lines[bench.VehicleStates[v].Line];
        (string? behind, double least) = (null, double.MaxValue);
        foreach (var m in bench.Layout.Markers)
        {
            if (bench.Layout.Lines[m.Line] != line)
                continue;
            var past = spot - m.AtMm - bench.Drawn[m.Length];
            if (line.Closed)
                past -= Math.Floor(past / line.LengthMm) * line.LengthMm;
            if (past >= 0 && past < least)
                (behind, least) = (m.Name, past);
        }
        return behind is null ? $"{Show(spot, 3)} mm along" : $"{Show(least, 3)} mm after {behind}";
    }

    public void Taken(long micros, int program, int step)
    {
        var t = micros * 1e-6;
        var script = plan.Programs[program].Script;
        var (sentence, from, to, region) = script.Steps[step];
        if (sentence is null)
            return;
        if (events.Count >= MostTold)
        {
            // The first of them tell how it goes round; the rest would only fill memory.
            cut = true;
            return;
        }
        var machine = bench.Network.Machines[program];
        events.Add(
            new(
                t,
                plan.Programs[program].Name,
                region,
                from,
                to,
                sentence.Span.Line,
                Printer.Plain(Printer.Pieces(sentence)),
                Explain(program, script, sentence, from, machine, t),
                Where(),
                X(),
                Y(),
                Odd(program, step, sentence)
            )
        );
        if (sentence.Target is null)
            return;
        enteredAt[(program, to)] = t;
        changed[program] = t;
    }

    // The strip follows the innermost state of each region, once all that happened at a moment has happened.
    private void Look()
    {
        for (var p = 0; p < changed.Length; p++)
        {
            if (double.IsNaN(changed[p]))
                continue;
            foreach (var path in bench.Network.Machines[p].Configuration)
            {
                var region = path[..path.IndexOf('.')];
                var state = path[(path.LastIndexOf('.') + 1)..];
                if (current.TryGetValue((p, region), out var was))
                {
                    if (was.State == state)
                        continue;
                    var list = Stretches((p, region));
                    if (list.Count >= MostTold)
                        continue;
                    list.Add(new(was.State, was.Since, changed[p]));
                }
                current[(p, region)] = (state, changed[p]);
            }
            changed[p] = double.NaN;
        }
    }

    private List<StateStretch> Stretches((int, string) key) => stretches.TryGetValue(key, out var list) ? list : stretches[key] = [];

    private string Explain(int program, CompiledScript script, TransitionNode taken, string from, ScriptMachine machine, double t)
    {
        switch (taken.Trigger)
        {
            case AfterTriggerNode a:
                return $"{Show(t - enteredAt.GetValueOrDefault((program, from)), 3)} s after entering {from}, "
                    + $"as “after {Printer.Print(a.Time)}” asks.";
            case EveryTriggerNode e:
                return $"It comes every {Printer.Print(e.Time)}.";
            case ConditionTriggerNode c:
                var values = new List<string>();
                foreach (var name in Analysis.Variables(c.Condition).Select(v => v.Name).Distinct())
                    if (machine.ValueOf(name) is { } value)
                        values.Add($"{name} is {value}");
                return $"{Printer.Print(c.Condition)} holds{(values.Count > 0 ? ": " + string.Join(", ", values) : "")}.";
            case PressTriggerNode p:
                return $"{p.Sensor} {(p.Kind == PressKind.Released ? "comes up" : "goes down")}{Who(p.Sensor)}.";
            case StallTriggerNode s:
                return $"{s.Device} has pushed against something for its stall time.";
            case ToldTriggerNode told:
                return $"“{told.Text}” arrives{(told.From is null ? "" : $" from {told.From}")}.";
            case SilenceTriggerNode:
                return "Nothing was told for so long.";
            case ZoneTriggerNode z:
                return Zone(script, z, from, machine);
            default:
                return "";
        }
    }

    // Who presses it now, by the scene.
    private string Who(string sensor)
    {
        for (var h = 0; h < plan.Happenings.Length; h++)
            if (bench.HappeningStates[h].Active && plan.Happenings[h].Sense is >= 0 and var s && plan.Senses[s].Name == sensor)
                return $": {plan.Happenings[h].Say}";
        return "";
    }

    private static string Zone(CompiledScript script, ZoneTriggerNode z, string from, ScriptMachine machine)
    {
        var sensor = script.SensorIndex(z.Sensor);
        var reading = machine.ReadingOf(sensor);
        var inRow =
            z.For is not null ? $"it held for {Printer.Print(z.For)}"
            : z.Needed == 1 ? "one reading is enough"
            : $"{z.Needed} readings in a row";
        if (script.Rig.Sensors[sensor].Switch)
            return $"{z.Sensor} is {z.Zone}.";
        if (double.IsNaN(reading))
            return z.Relation == ZoneRelation.Is
                ? $"{z.Sensor} is already in {z.Zone} when {from} begins."
                : $"{z.Sensor} sees {z.Zone}; {inRow}.";
        if (script.ScaleOf(sensor) is not { } scale || scale.IndexOf(z.Zone) < 0 || scale.Boundaries.Count == 0)
            return $"{z.Sensor} read {Show(reading, 3)}, which is {z.Zone}; {inRow}.";
        var zone = scale.IndexOf(z.Zone);
        // The boundary that the reading lies beyond, on the side it came from.
        var (up, boundary) =
            zone > 0 && reading > scale.Boundaries[zone - 1].Threshold ? (z.Relation != ZoneRelation.Leaves, scale.Boundaries[zone - 1])
            : zone < scale.Boundaries.Count ? (z.Relation == ZoneRelation.Leaves, scale.Boundaries[zone])
            : (false, scale.Boundaries[^1]);
        if (z.Relation == ZoneRelation.Leaves)
        {
            var beyond = zone < scale.Boundaries.Count && reading > scale.Boundaries[zone].Threshold;
            boundary = beyond ? scale.Boundaries[zone] : scale.Boundaries[Math.Max(0, zone - 1)];
            up = beyond;
        }
        var unit = script.Rig.Sensors[sensor].Reads is Dimension.Percent ? " %" : "";
        return $"{z.Sensor} read {Show(reading)}{unit}, {(up ? "above" : "below")} {Show(boundary.Threshold, 3)} {(up ? "+" : "−")} "
            + $"{Show(boundary.Hysteresis, 2)}{unit}; {inRow}.";
    }

    // The same edge again over the same marker, without having left it in between.
    private string? Odd(int program, int step, TransitionNode taken)
    {
        if (
            plan.Vehicles.Length == 0
            || taken.Trigger is not ZoneTriggerNode { Relation: ZoneRelation.Becomes or ZoneRelation.Leaves }
            || over[0] is not { } marker
        )
            return null;
        var again = lastEdge.TryGetValue((program, step), out var last) && last == (marker, pass[0]);
        lastEdge[(program, step)] = (marker, pass[0]);
        return again ? $"This is still {marker}: the same tag a second time." : null;
    }

    public void Read(long micros, int sense, double reading, int zone)
    {
        if (!readings.TryGetValue(sense, out var trace))
            readings[sense] = trace = ([], []);
        if (trace.Time.Count >= MostReadings)
            return;
        trace.Time.Add(micros * 1e-6);
        trace.Reading.Add(
            plan.Senses[sense].IsColour ? zone
            : double.IsNaN(reading) ? null
            : reading
        );
    }

    public void Commanded(long micros, int program, ScriptCommand command)
    {
        if (outputs.Count >= MostTold)
            return;
        var machine = bench.Network.Machines[program];
        var script = plan.Programs[program].Script;
        var sentence = machine.Sentence(command);
        if (sentence is TellNode tell)
        {
            messages.Add(new(micros * 1e-6, plan.Programs[program].Name, tell.Program, tell.Text));
            return;
        }
        // A mechanism on rails is spoken of by the motor that is wired.
        var name =
            command.Device >= 0 && sentence is not (ToneNode or BeepNode or PlayNode or WaitNode)
                ? script.DeviceNames[command.Device]
                : "Controller";
        if (command.Device >= 0 && plan.Targets[program][command.Device] is { Kind: BenchPlan.TargetKind.Vehicle } vehicle)
            name = plan.Movers[plan.Vehicles[vehicle.Index].Mover].Motor;
        var lamp = command.Device >= 0 && plan.Targets[program][command.Device] is { Kind: BenchPlan.TargetKind.Output };
        outputs.Add(
            new(
                micros * 1e-6,
                name,
                sentence switch
                {
                    RunNode { Amount: null, Speed: not LiteralNode { Unit: not ("%" or "") } } => $"run at {Show(command.Value)} %",
                    StopNode { Mode: StopMode.Coast } => "stop and coast",
                    LampNode { On: true } on => on.Colour ?? "on",
                    LampNode => "off",
                    null when lamp => "off",
                    null or StopNode { Mode: StopMode.Default or StopMode.Brake } => "stop and brake",
                    ToneNode tone => $"tone {Show(command.Value)} Hz for {Show(Analysis.Constant(tone.Time) ?? 0)} s",
                    ShowNode shown => $"show “{shown.Text}”",
                    ShowValueNode => $"show {Show(command.Value)}",
                    _ => Printer.Plain(Printer.Sentence(sentence)),
                }
            )
        );
    }

    public void Happened(long micros, int happening, bool began)
    {
        if (happenings.Count >= MostTold)
            return;
        var spec = plan.Happenings[happening];
        if (began)
        {
            open[happening] = happenings.Count;
            happenings.Add(new(spec.Say, spec.Line, micros * 1e-6, spec.IsInstant ? micros * 1e-6 : null));
        }
        else if (open.Remove(happening, out var at))
            happenings[at] = happenings[at] with { ToS = micros * 1e-6 };
    }

    public void Noted(long micros, string say, double x, double y)
    {
        if (notes.Count < MostTold)
            notes.Add(new(micros * 1e-6, say, x, y));
    }

    public void Stepped(long micros)
    {
        Look();
        for (var v = 0; v < over.Length; v++)
        {
            if (bench.Layout.Lines.Length == 0)
                continue;
            var radius = plan.Vehicles[v].Eye is >= 0 and var e ? bench.Drawn[plan.Senses[e].Spot] / 2 : 0;
            var (name, excess, _) = bench.Marker(v, bench.Spot(v));
            var here = name is not null && excess < 2 * radius ? name : null;
            if (here == over[v])
                continue;
            if (here is not null)
                pass[v]++;
            over[v] = here;
        }
        if (micros < nextSample)
            return;
        nextSample += (long)Math.Round(1e6 / rateHz);
        Sample(micros);
    }

    private void Sample(long micros)
    {
        time.Add(Math.Round(micros * 1e-6, 4));
        battery.Add(Math.Round(bench.Volts(0), 3));
        var k = 0;
        for (var i = 0; i < plan.Drives.Length; i++)
        {
            ref readonly var d = ref bench.DriveStates[i];
            var t = tracks[k++];
            t.X.Add(Math.Round(d.X, 1));
            t.Y.Add(Math.Round(d.Y, 1));
            t.Heading.Add(Math.Round(d.Heading * 180 / Math.PI, 1));
            t.Speed.Add(Math.Round(d.Speed, 1));
        }
        for (var i = 0; i < plan.Vehicles.Length; i++)
        {
            ref readonly var v = ref bench.VehicleStates[i];
            var t = tracks[k++];
            t.X.Add(Math.Round(v.At, 2));
            t.Heading.Add(v.Line);
            t.Speed.Add(Math.Round(bench.MoverStates[plan.Vehicles[i].Mover].Speed, 1));
        }
        for (var i = 0; i < plan.Axes.Length; i++)
        {
            ref readonly var m = ref bench.MoverStates[plan.Axes[i].Mover];
            var t = tracks[k++];
            t.X.Add(Math.Round(m.At, 1));
            t.Speed.Add(Math.Round(m.Speed, 1));
        }
        for (var i = 0; i < plan.Things.Length; i++)
        {
            ref readonly var s = ref bench.ThingStates[i];
            var t = tracks[k++];
            var there = s.IsSeen;
            t.X.Add(there ? Math.Round(s.X, 1) : null);
            t.Y.Add(there ? Math.Round(s.Y, 1) : null);
        }
        if (plan.Tank is not null)
            tracks[k++].X.Add(Math.Round(bench.LevelMm, 1));
        foreach (var h in visitors)
            tracks[k++].X.Add(bench.HappeningStates[h].Active ? Math.Round(bench.Before(h), 1) : null);
        if (plan.Belt is not { } belt)
            return;
        var on = bench.OnBelt;
        while (along.Count < on.Length)
        {
            var made = new Track(belt.Feeds[on[along.Count].Feed].Name, "on belt");
            // It was not there before.
            for (var i = 1; i < time.Count; i++)
                made.X.Add(null);
            along.Add(made);
        }
        for (var i = 0; i < on.Length; i++)
        {
            along[i].X.Add(on[i].Fate <= 1 ? Math.Round(on[i].At, 1) : null);
            along[i].Heading.Add(on[i].Fate == 2 ? on[i].Place : -1);
        }
    }

    public BenchReport Report(long seed, BenchResult result)
    {
        var endS = bench.NowMicros * 1e-6;
        Look();
        if (time.Count == 0 || time[^1] < Math.Round(bench.NowMicros * 1e-6, 4))
            Sample(bench.NowMicros);
        foreach (var (key, (state, since)) in current)
            Stretches(key).Add(new(state, since, endS));
        var failure = Failure(result);
        var say = Say(result, failure);
        if (cut)
            say += $" Only its first {MostTold} transitions are told.";
        var shown = plan.Programs[0].Script;
        return new(
            seed,
            result.Passed,
            result.TimeMicros * 1e-6,
            endS,
            result.Score,
            failure,
            say,
            events,
            [
                .. stretches
                    .OrderBy(s => s.Key.Item1)
                    .ThenBy(s => plan.Programs[s.Key.Item1].Script.Program.Regions.ToList().FindIndex(r => r.Name == s.Key.Item2))
                    .Select(s => new BenchStates(plan.Programs[s.Key.Item1].Name, s.Key.Item2, s.Value)),
            ],
            rateHz,
            time,
            [.. tracks.Concat(along).Select(t => new BenchBody(t.Name, t.Kind, t.X, t.Y, t.Heading, t.Speed))],
            battery,
            [
                .. readings
                    .OrderBy(r => r.Key)
                    .Select(r =>
                    {
                        var spec = plan.Senses[r.Key];
                        var scale = spec.In.Length > 0 && spec.In[0] >= 0 ? shown.ScaleOf(spec.In[0]) : null;
                        return new SensorTrace(
                            spec.Name,
                            [.. r.Value.Time.Select(x => Math.Round(x, 4))],
                            r.Value.Reading,
                            scale?.Names ?? spec.Zones,
                            scale?.Boundaries ?? []
                        );
                    }),
            ],
            outputs,
            happenings,
            messages,
            notes,
            Drawn(),
            [.. plan.Rules.Select(r => new BenchAsked(r.Text, r.Unjudged))]
        );
    }

    private BenchFailure? Failure(BenchResult result)
    {
        if (result.Passed)
            return null;
        var rule = result.Rule >= 0 ? plan.Rules[result.Rule] : null;
        var script = plan.Programs[result.Program].Script;
        var last =
            result.LastTransition >= 0 && script.Steps[result.LastTransition].Node is { } sentence
                ? Printer.Plain(Printer.Pieces(sentence))
                : null;
        var at = result.TimeMicros * 1e-6;
        var (where, detail) = bench.Ended();
        var odd = events.FirstOrDefault(e => e.Warning is not null);
        // What happened to a body just before says more than where things stood.
        var note = notes.LastOrDefault(n => n.TimeS <= at && n.TimeS >= at - 5);
        var say = result.Ending switch
        {
            RunEnding.MachineFault => bench.Fault!,
            RunEnding.NeverBroken when note is not null =>
                $"After {Show(at, 3)} s: {char.ToLowerInvariant(note.Say[0])}{note.Say[1..]}{Seen(at)}",
            RunEnding.NeverBroken => $"After {Show(at, 3)} s this came true, which must never be: {rule?.Text["never: ".Length..]}.",
            _ when plan.Vehicles.Length > 0 => $"After {Show(at, 3)} s it was {where}{(detail is { } mm ? $" by {Show(mm, 2)} mm" : "")}.",
            _ when result.Rule >= 0 && bench.Counted(result.Rule) is { } count =>
                $"After {Show(at, 3)} s the goal was not reached: so far {count.Yes} of {count.All}; {where}.",
            _ => $"After {Show(at, 3)} s the goal was not reached; {where}.{(note is not null ? " " + note.Say : Last(at))}",
        };
        if (odd is not null && result.Ending != RunEnding.MachineFault)
            say +=
                $" {char.ToUpperInvariant(odd.Place[0])}{odd.Place[1..]}, at {Show(odd.TimeS, 3)} s, the same tag "
                + "was taken for another one.";
        return new(rule?.Text, rule?.FromScene ?? false, rule?.Line ?? 0, at, where, last, say, X(), Y());
    }

    // What an eye of a drive made of the edge, before a wheel left the deck.
    private string Seen(double at)
    {
        var last = events.LastOrDefault(e => e.TimeS <= at && e.TimeS > at - 3 && e.From is not null);
        if (plan.Drives.Length == 0 || !bench.DriveStates[0].Fallen)
            return "";
        // A move that is carried out to its end looks at nothing meanwhile.
        var doing = outputs.LastOrDefault(o => o.TimeS <= at && o.Device == plan.Drives[0].Name);
        return last is null && doing is not null
                ? $" It was carrying out “{doing.Say}” since {Show(doing.TimeS, 3)} s, and no transition was taken meanwhile."
            : last is null ? ""
            : $" {Show(at - last.TimeS, 2)} s before it went from {last.From} to {last.To}: {last.Say}";
    }

    private string Last(double at)
    {
        var last = notes.LastOrDefault(n => n.TimeS <= at);
        return last is null ? "" : $" At {Show(last.TimeS, 3)} s: {char.ToLowerInvariant(last.Say[0])}{last.Say[1..]}";
    }
}
