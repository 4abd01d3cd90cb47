using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

/// <summary>Turns a faultless program into tables.</summary>
public static partial class ScriptCompiler
{
    /// <summary>Most calls of routines, those inside routines counted each time.</summary>
    public const int MostCalls = 200;

    /// <summary>Compiles.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="rig">The rig's names.</param>
    /// <param name="timings">How long what never says that it is done takes; null where nothing is known.</param>
    /// <exception cref="InputProblem">When it calls routines too often.</exception>
    public static CompiledScript Compile(ProgramNode program, Vocabulary rig, Timings? timings = null) =>
        Compile(program, rig, timings, []);

    /// <summary>Compiles, with conditions that somebody outside asks of the machine while it runs.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="rig">The rig's names.</param>
    /// <param name="timings">How long what never says that it is done takes; null where nothing is known.</param>
    /// <param name="asked">Conditions in the program's own names; they come after its goals and nevers.</param>
    public static CompiledScript Compile(ProgramNode program, Vocabulary rig, Timings? timings, IReadOnlyList<ExprNode> asked) =>
        new Builder(Placing.Placed(program), rig, program.OwnNames, timings ?? Timings.None).Build(asked);

    private sealed partial class Builder(ProgramNode program, Vocabulary rig, Sequence<OwnName> ownNames, Timings timings)
    {
        private readonly List<ScriptUnit?> units = [];
        private readonly List<string> texts = [],
            variables = [],
            queues = [],
            programs = [.. rig.Programs];
        private readonly Dictionary<string, int> slots = [],
            queueSlots = [],
            devices = [];
        private readonly List<string> deviceNames = [];
        private readonly string[] sensors = [.. rig.Sensors.Select(s => s.Name)];
        private readonly string[] zones = [.. rig.Sensors.SelectMany(s => s.Zones).Distinct()];
        private readonly List<ScriptTracker> trackers = [];
        private readonly List<ScriptMark> marks = [];
        private readonly bool[] numbers = new bool[rig.Sensors.Count];
        private Dictionary<string, int> parameters = [];
        private readonly HashSet<int> measured = [];

        private Measured Looked(int device, bool travel)
        {
            measured.Add(device);
            return new(device, travel);
        }

        private static bool Worldly(ExprNode node) =>
            node switch
            {
                WorldNode => true,
                BinaryNode b => Worldly(b.Left) || Worldly(b.Right),
                UnaryNode u => Worldly(u.Operand),
                _ => false,
            };

        private int Tracker(int sensor, int needed)
        {
            var at = trackers.IndexOf(new(sensor, needed));
            if (at < 0)
            {
                at = trackers.Count;
                trackers.Add(new(sensor, needed));
            }
            return at;
        }

        public CompiledScript Build(IReadOnlyList<ExprNode> asked)
        {
            // The plain zone of each sensor comes first: what “zone of” asks for.
            for (var i = 0; i < sensors.Length; i++)
                trackers.Add(new(i, 1));
            foreach (var m in rig.Mechanisms)
            {
                Device(m.Name);
                // A motor of a mechanism is that mechanism: a command to either replaces the other.
                foreach (var motor in m.Motors)
                    devices.TryAdd(motor, devices[m.Name]);
            }
            foreach (var a in rig.Actuators)
                if (!devices.ContainsKey(a.Name))
                    Device(a.Name);
            var initial = new List<(int, Code)>();
            foreach (var head in program.Head)
            {
                var (name, value) = head switch
                {
                    VarNode v => (v.Name, v.Value),
                    ConstNode c => (c.Name, c.Value),
                    _ => ("", null),
                };
                if (value is null)
                    continue;
                if (value is QueueNode)
                {
                    queueSlots[name] = queues.Count;
                    queues.Add(name);
                    continue;
                }
                var code = Expr(value, null);
                slots[name] = variables.Count;
                variables.Add(name);
                initial.Add((slots[name], code));
            }
            units.Add(null);
            units[0] = Unit(program.Name, program.Regions, []);
            Code?[] rules =
            [
                // What is asked of the world is nothing that a machine knows.
                .. program.Head.OfType<RuleNode>().Select(r => r.Holds is null || Worldly(r.Holds) ? null : Expr(r.Holds, null)),
                .. asked.Select(a => Expr(a, null)),
            ];
            var made = units.OfType<ScriptUnit>().ToArray();
            var first = new int[made.Length];
            for (var i = 1; i < made.Length; i++)
                first[i] = first[i - 1] + made[i - 1].Transitions.Length;
            return new()
            {
                Trackers = [.. trackers],
                Marks = [.. marks],
                SilenceZone = [.. rig.Sensors.Select(s => s.SilenceIs is { } zone ? Array.IndexOf(zones, zone) : -1)],
                Numbers = numbers,
                Rules = rules,
                FirstStep = first,
                OwnNames = ownNames,
                Measures = [.. deviceNames.Select((_, i) => measured.Contains(i))],
                Moves =
                [
                    .. deviceNames.Select(n =>
                        rig.Mechanisms.Any(m => m.Name == n)
                        || rig.Actuators.FirstOrDefault(a => a.Name == n)?.Kind
                            is not (ActuatorKind.Lamp or ActuatorKind.Display or ActuatorKind.Sounder)
                    ),
                ],
                Steps = [.. made.SelectMany((u, n) => u.Transitions.Select((t, i) => Step(u, t, i, n == 0)))],
                Program = program,
                Rig = rig,
                Units = [.. units.OfType<ScriptUnit>()],
                Sensors = sensors,
                IsSwitch = [.. rig.Sensors.Select(s => s.Switch)],
                PeriodMs = [.. rig.Sensors.Select(s => s.PeriodMs)],
                Zones = zones,
                Devices = [.. deviceNames],
                DeviceOf = devices,
                Texts = [.. texts],
                Programs = [.. programs],
                Variables = [.. variables],
                Queues = [.. queues],
                Initial = [.. initial],
            };
        }

        private static ScriptStep Step(ScriptUnit unit, ScriptTransition t, int index, bool own)
        {
            string Name(int node) => unit.Nodes[node].State?.Name ?? unit.Nodes[node].Path;
            var from = Name(unit.Chart.SourceOf(index));
            return new(t.Node, from, t.Node?.Target ?? from, own ? unit.Nodes[unit.Chart.SourceOf(index)].Path.Split('.')[0] : "");
        }

        private void Device(string name)
        {
            devices[name] = deviceNames.Count;
            deviceNames.Add(name);
        }

        private int Text(string text)
        {
            var at = texts.IndexOf(text);
            if (at < 0)
            {
                at = texts.Count;
                texts.Add(text);
            }
            return at;
        }

        // ---- charts ----

        private ScriptUnit Unit(string name, Sequence<RegionNode> regions, int[] parameterSlots)
        {
            var nodes = new List<ChartNode> { new(NodeKind.Compound, -1), new(NodeKind.Parallel, 0) };
            var infos = new List<ScriptNode>
            {
                new() { Path = "" },
                new() { Path = "" },
            };
            var found = new List<(StateNode State, int Node, RegionNode Top)>();
            var histories = new List<(HistoryNode History, int Node, RegionNode Top)>();
            var places = new Dictionary<(string, string), List<int>>();

            void Region(RegionNode region, int parent, string path, RegionNode top)
            {
                var own = nodes.Count;
                var here =
                    region.Name == "" ? path
                    : path == "" ? region.Name
                    : $"{path}.{region.Name}";
                nodes.Add(new(NodeKind.Compound, parent));
                infos.Add(new() { Path = here });
                foreach (var state in region.States)
                    State(state, own, here, top, [region.Name]);
            }
            void State(StateNode state, int parent, string path, RegionNode top, string[] within)
            {
                var own = nodes.Count;
                var here = path == "" ? state.Name : $"{path}.{state.Name}";
                nodes.Add(
                    new(
                        state.Final ? NodeKind.Final
                            : state.Regions.Count > 0 ? NodeKind.Parallel
                            : state.States.Count > 0 ? NodeKind.Compound
                            : NodeKind.Atomic,
                        parent
                    )
                );
                infos.Add(new() { Path = here, State = state });
                found.Add((state, own, top));
                foreach (var region in within)
                {
                    if (!places.TryGetValue((region, state.Name), out var list))
                        places[(region, state.Name)] = list = [];
                    list.Add(own);
                }
                foreach (var history in state.Histories)
                {
                    histories.Add((history, nodes.Count, top));
                    nodes.Add(new(history.Deep ? NodeKind.DeepHistory : NodeKind.ShallowHistory, own));
                    infos.Add(new() { Path = $"{here}.{history.Name}" });
                }
                foreach (var inner in state.States)
                    State(inner, own, here, top, within);
                foreach (var region in state.Regions)
                {
                    var node = nodes.Count;
                    var at = $"{here}.{region.Name}";
                    nodes.Add(new(NodeKind.Compound, own));
                    infos.Add(new() { Path = at });
                    foreach (var inner in region.States)
                        State(inner, node, at, top, [.. within, region.Name]);
                }
            }
            foreach (var region in regions)
                Region(region, 1, "", region);

            var transitions = new List<ChartTransition>();
            var meanings = new List<ScriptTransition>();
            var activities = new List<ScriptActivity>();
            int Default(int node, int target)
            {
                transitions.Add(new(node, [target]));
                meanings.Add(new() { Node = null, Kind = FireKind.Always });
                return transitions.Count - 1;
            }
            // Where a compound begins.
            var initials = found
                .Where(f => f.State.Initial)
                .GroupBy(f => nodes[f.Node].Parent)
                .ToDictionary(g => g.Key, g => g.First().Node);
            for (var n = 2; n < nodes.Count; n++)
            {
                if (nodes[n].Kind != NodeKind.Compound)
                    continue;
                if (initials.TryGetValue(n, out var initial))
                    nodes[n] = nodes[n] with { Default = Default(n, initial) };
            }
            bool IsIn(int a, int b)
            {
                for (var n = nodes[a].Parent; n >= 0; n = nodes[n].Parent)
                    if (n == b)
                        return true;
                return false;
            }
            var named = found
                .Select(f => (f.State.Name, f.Node, f.Top))
                .Concat(histories.Select(h => (h.History.Name, h.Node, h.Top)))
                .ToLookup(f => f.Name);
            // The nearest of that name: the one whose common home with the source lies deepest.
            int Find(string target, int from, RegionNode top)
            {
                var best = -1;
                var depth = -1;
                foreach (var (_, node, home_) in named[target])
                {
                    if (!ReferenceEquals(home_, top))
                        continue;
                    var home = node;
                    while (home != from && !IsIn(from, home))
                        home = nodes[home].Parent;
                    var d = 0;
                    for (var x = home; x >= 0; x = nodes[x].Parent)
                        d++;
                    if (d > depth)
                        (best, depth) = (node, d);
                }
                return best;
            }
            foreach (var (history, node, top) in histories)
                nodes[node] = nodes[node] with
                {
                    Default = Default(
                        node,
                        found.Where(f => IsIn(f.Node, nodes[node].Parent) && f.State.Name == history.Target).Select(f => f.Node).First()
                    ),
                };
            foreach (var (state, node, top) in found)
            {
                var own = new List<int>();
                foreach (var line in state.Lines.OfType<TransitionNode>())
                {
                    int[] targets = line.Target is null ? [] : [Find(line.Target, node, top)];
                    var made = Meaning(line, activities);
                    own.Add(transitions.Count);
                    transitions.Add(new(node, targets, line.Inside, made.IsLevel, made.IsLevel));
                    meanings.Add(made);
                }
                infos[node].Transitions = [.. own];
                infos[node].Entry = Roots(state, ActivityMoment.Entry, activities);
                infos[node].While = Roots(state, ActivityMoment.While, activities);
                infos[node].Exit = Roots(state, ActivityMoment.Exit, activities);
            }
            foreach (
                var arriving in transitions
                    .Select((t, i) => (t.Targets, i))
                    .Where(t => t.Targets.Length > 0 && meanings[t.i].Roots.Length > 0)
            )
                infos[arriving.Targets[0]].Arriving = [.. infos[arriving.Targets[0]].Arriving, arriving.i];
            return new()
            {
                Chart = new(nodes, transitions),
                Nodes = [.. infos],
                Transitions = [.. meanings],
                Activities = [.. activities],
                Parameters = parameterSlots,
                Name = name,
                Places = places.ToDictionary(p => p.Key, p => p.Value.ToArray()),
            };
        }

        private int[] Roots(StateNode state, ActivityMoment moment, List<ScriptActivity> into)
        {
            int[] roots =
            [
                .. state
                    .Lines.OfType<ActivityNode>()
                    .Where(a => a.Moment == moment)
                    .SelectMany(a => a.Actions)
                    .Select(a => Activity(a, into)),
            ];
            if (moment == ActivityMoment.While)
                foreach (var root in roots)
                    Judge(root);
            return roots;

            // In a chain or a repeat a condition is asked once, when its turn comes.
            void Judge(int a)
            {
                if (into[a].Kind is not (DoKind.If or DoKind.Together))
                    return;
                into[a].Judged = into[a].Kind == DoKind.If;
                foreach (var child in into[a].Children)
                    Judge(child);
            }
        }

        private ScriptTransition Meaning(TransitionNode t, List<ScriptActivity> into)
        {
            var guard = t.Guard is null ? null : Expr(t.Guard, null);
            int[] roots = [.. t.Actions.Select(a => Activity(a, into))];
            ScriptTransition Made(
                FireKind kind,
                int sensor = -1,
                int zone = -1,
                int needed = 1,
                PressKind press = default,
                int device = -1,
                int text = -1,
                int from = -1,
                int[]? vars = null,
                Code? condition = null,
                Code? time = null,
                bool counts = false,
                Code? holdFor = null
            ) =>
                new()
                {
                    Node = t,
                    Kind = kind,
                    Sensor = sensor,
                    Zone = zone,
                    Tracker = zone >= 0 ? Tracker(sensor, needed) : -1,
                    Needed = needed,
                    Press = press,
                    Device = device,
                    Text = text,
                    From = from,
                    Into = vars ?? [],
                    Condition = condition,
                    Time = time,
                    Guard = guard,
                    Roots = roots,
                    Counts = counts,
                    HoldFor = holdFor,
                };
            static int Readings(string? readings) =>
                readings is null ? 1 : int.Parse(readings, System.Globalization.CultureInfo.InvariantCulture);
            Code? Hold(ExprNode? time) => time is null ? null : Expr(time, null);
            switch (t.Trigger)
            {
                case ZoneTriggerNode z:
                    var eye = Array.IndexOf(sensors, z.Sensor);
                    return Made(
                        z.Relation switch
                        {
                            ZoneRelation.Is => FireKind.Level,
                            ZoneRelation.Becomes => FireKind.Edge,
                            _ => FireKind.Leave,
                        },
                        eye,
                        Array.IndexOf(zones, z.Zone),
                        Readings(z.Readings),
                        condition: z.Relation == ZoneRelation.Is
                            ? new InZone(eye, Tracker(eye, Readings(z.Readings)), Array.IndexOf(zones, z.Zone))
                            : null,
                        holdFor: Hold(z.For)
                    );
                case ConditionTriggerNode c:
                    var read = Sensors(c.Condition).Select(s => Array.IndexOf(sensors, s)).DefaultIfEmpty(-1).First();
                    var needed = Readings(c.Readings);
                    if (read >= 0 && (needed > 1 || c.For is not null))
                        numbers[read] = true;
                    // Readings are counted from before the state was entered where one number alone is waited for.
                    if (Mark(c.Condition, needed) is { } mark)
                        return Made(FireKind.Level, read, condition: mark, holdFor: Hold(c.For));
                    return Made(
                        FireKind.Level,
                        read,
                        needed: needed,
                        condition: Expr(c.Condition, t),
                        counts: needed > 1,
                        holdFor: Hold(c.For)
                    );
                case PressTriggerNode p:
                    return Made(
                        FireKind.Press,
                        Array.IndexOf(sensors, p.Sensor),
                        press: p.Kind,
                        time: p.Time is null ? null : Expr(p.Time, null)
                    );
                case StallTriggerNode s:
                    return Made(FireKind.Stall, device: devices[s.Device]);
                case GiveUpTriggerNode g:
                    return Made(FireKind.GiveUp, device: devices[g.Device]);
                case ToldTriggerNode m:
                    return Made(
                        FireKind.Told,
                        text: Text(m.Text),
                        from: m.From is null ? -1 : programs.IndexOf(m.From),
                        vars: [.. m.Into.Select(v => slots.TryGetValue(v, out var slot) ? slot : ~queueSlots[v])]
                    );
                case SilenceTriggerNode n:
                    return Made(FireKind.Silence, text: n.Text is null ? -1 : Text(n.Text), time: Expr(n.Time, null));
                case AfterTriggerNode a:
                    return Made(FireKind.After, time: Expr(a.Time, null));
                case EveryTriggerNode e:
                    return Made(FireKind.Every, time: Expr(e.Time, null));
                default:
                    return Made(FireKind.Always, condition: new Constant(1));
            }
        }

        // “Range < 65 mm”: a reading against a number that never changes.
        private Beyond? Mark(ExprNode condition, int needed)
        {
            if (
                condition
                is not BinaryNode { Operator: Operator.Less or Operator.LessOrEqual or Operator.Greater or Operator.GreaterOrEqual } b
            )
                return null;
            var (reading, number, above) = (b.Left, b.Right) switch
            {
                (ReadingNode r, _) => (r, b.Right, b.Operator is Operator.Greater or Operator.GreaterOrEqual),
                (_, ReadingNode r) => (r, b.Left, b.Operator is Operator.Less or Operator.LessOrEqual),
                _ => (null, null, false),
            };
            if (reading is null || Fixed(number!) is not { } value)
                return null;
            var sensor = Array.IndexOf(sensors, reading.Sensor);
            numbers[sensor] = true;
            var at = marks.IndexOf(new(sensor, value, needed));
            if (at < 0)
            {
                at = marks.Count;
                marks.Add(new(sensor, value, needed));
            }
            var orEqual = b.Operator is Operator.LessOrEqual or Operator.GreaterOrEqual;
            return new Beyond(sensor, at, above, orEqual);
        }

        private double? Fixed(ExprNode number) =>
            number is VariableNode v
                ? program.Head.OfType<ConstNode>().FirstOrDefault(c => c.Name == v.Name && !parameters.ContainsKey(v.Name)) is { } c
                    ? Analysis.Constant(c.Value)
                    : null
                : Analysis.Constant(number);

        private static IEnumerable<string> Sensors(ExprNode node) =>
            node switch
            {
                ReadingNode r => [r.Sensor],
                ZoneIsNode z => [z.Sensor],
                SilentNode s => [s.Sensor],
                CannotTellNode c => [c.Sensor],
                PropertyNode { Kind: PropertyKind.Zone } z => [z.Of],
                BinaryNode b => Sensors(b.Left).Concat(Sensors(b.Right)),
                UnaryNode u => Sensors(u.Operand),
                CallNode c => c.Arguments.SelectMany(Sensors),
                HoldsNode h => Sensors(h.Value),
                _ => [],
            };

        private static IEnumerable<string> Readings(ExprNode node) =>
            node switch
            {
                ReadingNode r => [r.Sensor],
                BinaryNode b => Readings(b.Left).Concat(Readings(b.Right)),
                UnaryNode u => Readings(u.Operand),
                CallNode c => c.Arguments.SelectMany(Readings),
                _ => [],
            };
    }

    /// <summary>Compiles for a rig, whose mechanisms own their motors.</summary>
    public static CompiledScript Compile(ProgramNode program, RigDesign rig) => Compile(program, Vocabulary.Of(rig), Timings.Of(rig));

    /// <summary>Compiles for one copy of a rig: its readings are followed through the zones it was calibrated with.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="scales">Zones of each sensor of the copy, by sensor name.</param>
    /// <param name="timings">How long its servos and sounds take; null as the design guesses.</param>
    /// <param name="calibrations">Its calibrations by sensor name: they tell the band about a typed number where no threshold does.</param>
    /// <exception cref="InputProblem">When a sensor whose zones the program uses has none on this copy, or lacks one of them.</exception>
    public static CompiledScript Compile(
        ProgramNode program,
        RigDesign rig,
        IReadOnlyDictionary<string, ZoneScale> scales,
        Timings? timings = null,
        IReadOnlyDictionary<string, SensorCalibration>? calibrations = null
    ) => Bound(Compile(program, Vocabulary.Of(rig), timings ?? Timings.Of(rig)), scales, NoReaders, Bands(rig, calibrations));

    /// <summary>Compiles one of several programs of a rig for the bench: its readings are followed through what is known of the
    /// copy.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="words">The rig's names as this program knows them.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="scales">Zones of each sensor of the copy, by sensor name.</param>
    /// <param name="readers">The zone of a reading, of sensors whose bands tell it.</param>
    /// <param name="timings">How long its servos and sounds take.</param>
    /// <param name="calibrations">Its calibrations by sensor name.</param>
    /// <param name="asked">Conditions that somebody outside asks of the machine while it runs.</param>
    /// <exception cref="InputProblem">When a sensor whose zones the program uses has none on this copy, or lacks one of them.</exception>
    private static CompiledScript ForBench(
        ProgramNode program,
        Vocabulary words,
        RigDesign rig,
        IReadOnlyDictionary<string, ZoneScale> scales,
        IReadOnlyDictionary<string, Func<double, string?>> readers,
        Timings timings,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        IReadOnlyList<ExprNode> asked
    )
    {
        var made = Compile(program, words, timings, asked);
        // Names of a controller's own devices lead to what is known under the rig's names.
        Dictionary<string, T> Inside<T>(IReadOnlyDictionary<string, T> known)
        {
            var seen = new Dictionary<string, T>(known);
            foreach (var own in words.OwnNames)
                if (known.TryGetValue(own.Outside, out var value))
                    seen[own.Name] = value;
            return seen;
        }
        var (zones, bands) = (Inside(scales), Inside(readers));
        return Bound(made, zones, bands, Inside(Bands(rig, calibrations)));
    }

    /// <summary>Compiles one of several programs of a rig for what is known of a copy, as it runs on the bench and on boards.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="words">The rig's names as this program knows them.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="timings">How long its servos and sounds take.</param>
    /// <param name="calibrations">Its calibrations by sensor name.</param>
    /// <param name="asked">Conditions that somebody outside asks of the machine while it runs.</param>
    /// <exception cref="InputProblem">When a sensor whose zones the program uses has none on this copy, or lacks one of them.</exception>
    public static CompiledScript ForCopy(
        ProgramNode program,
        Vocabulary words,
        RigDesign rig,
        Timings timings,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        IReadOnlyList<ExprNode> asked
    )
    {
        var (scales, readers) = Known(rig, calibrations);
        // Of colours whoever reads them tells the zone.
        foreach (var sensor in rig.Sensors.Where(s => s.Facts.View is "colours" or "names"))
            readers[sensor.Name] = _ => null;
        return ForBench(program, words, rig, scales, readers, timings, calibrations, asked);
    }

    /// <summary>The same for names alone.</summary>
    public static CompiledScript Compile(ProgramNode program, Vocabulary rig, IReadOnlyDictionary<string, ZoneScale> scales) =>
        Bound(Compile(program, rig), scales, NoReaders, NoBands);

    private static readonly Dictionary<string, Func<double, string?>> NoReaders = [];

    private static readonly Dictionary<string, Func<double, double>> NoBands = [];

    private static Dictionary<string, Func<double, double>> Bands(
        RigDesign rig,
        IReadOnlyDictionary<string, SensorCalibration>? calibrations
    ) =>
        calibrations is null
            ? NoBands
            : rig
                .Sensors.Where(s => calibrations.ContainsKey(s.Name))
                .ToDictionary(s => s.Name, s => TypedBand.Of(s, calibrations[s.Name]));

    private static CompiledScript Bound(
        CompiledScript made,
        IReadOnlyDictionary<string, ZoneScale> scales,
        IReadOnlyDictionary<string, Func<double, string?>> readers,
        Dictionary<string, Func<double, double>> bands
    )
    {
        // What the program teaches need not have been measured.
        var taught = made
            .Units.SelectMany(u => u.Activities)
            .Where(a => a.Kind == DoKind.Teach && a.Other >= 0)
            .Select(a => (a.Slot, a.Other))
            .ToHashSet();
        foreach (var t in made.Units.SelectMany(u => u.Transitions))
        {
            if (t.Zone < 0 || made.IsSwitch[t.Sensor] || taught.Contains((t.Sensor, t.Zone)))
                continue;
            var sensor = made.Sensors[t.Sensor];
            // Bands of distance and colours are told apart by their own readers.
            if (readers.ContainsKey(sensor))
                continue;
            if (!scales.TryGetValue(sensor, out var scale))
                throw new InputProblem(
                    "copy",
                    $"{sensor} has no thresholds on this copy yet. Take at least 3 readings of two zones in Sense."
                );
            if (scale.IndexOf(made.Zones[t.Zone]) < 0)
                throw new InputProblem(
                    "copy",
                    $"{sensor} has no readings of “{made.Zones[t.Zone]}” on this copy yet. Take at least 3 in Sense."
                );
        }
        return Reading(made, scales, readers, bands);
    }

    private static CompiledScript Reading(
        CompiledScript made,
        IReadOnlyDictionary<string, ZoneScale> scales,
        IReadOnlyDictionary<string, Func<double, string?>> readers,
        Dictionary<string, Func<double, double>> bands
    )
    {
        ZoneScale?[] bound = [.. made.Sensors.Select(s => scales.GetValueOrDefault(s))];
        return made.BoundTo(
            bound,
            [.. bound.Select(b => b is null ? Array.Empty<int>() : [.. b.Names.Select(n => Array.IndexOf(made.Zones, n))])],
            [
                .. made.Sensors.Select(s =>
                    readers.GetValueOrDefault(s) is { } read ? new Func<double, int>(v => Array.IndexOf(made.Zones, read(v))) : null
                ),
            ],
            [.. made.Sensors.Select(s => bands.GetValueOrDefault(s))]
        );
    }

    // What tells the zones of the sensors that read one number: thresholds, or bands.
    private static (Dictionary<string, ZoneScale> Scales, Dictionary<string, Func<double, string?>> Readers) Known(
        RigDesign rig,
        IReadOnlyDictionary<string, SensorCalibration> calibrations
    )
    {
        var scales = new Dictionary<string, ZoneScale>();
        var readers = new Dictionary<string, Func<double, string?>>();
        foreach (var sensor in rig.Sensors.Where(s => s.Facts is { Width: 1, View: "scalar" or "bands" }))
        {
            var calibration = calibrations.GetValueOrDefault(sensor.Name);
            if (sensor.Bands.Count > 0)
            {
                var reader = ZoneReader.Of(sensor, calibration ?? SenseWords.Unread(sensor));
                readers[sensor.Name] = v => reader.Zone(v);
            }
            else if (calibration?.Scale() is { } scale)
                scales[sensor.Name] = scale;
        }
        return (scales, readers);
    }

    /// <summary>Compiles for a walk: readings reach the zones of those sensors of which something is known.</summary>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="calibrations">What is known of its sensors, by name; the bands of the design are known besides.</param>
    /// <param name="timings">How long the copy's servos and sounds take; null as the design guesses.</param>
    public static CompiledScript ForWalk(
        ProgramNode program,
        RigDesign rig,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        Timings? timings = null
    )
    {
        var (scales, readers) = Known(rig, calibrations);
        return Reading(Compile(program, Vocabulary.Of(rig), timings ?? Timings.Of(rig)), scales, readers, Bands(rig, calibrations));
    }
}
