using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

/// <summary>An expression made ready: asked again and again, it allocates nothing. Yes is 1 and no is 0.</summary>
internal abstract class Code
{
    /// <summary>Its value now, in base units; of a text or a zone its number in the tables.</summary>
    public abstract double Eval(ScriptMachine m);

    /// <summary>Expressions that it is made of.</summary>
    public virtual IReadOnlyList<Code> Parts => [];

    /// <summary>It and all that it is made of.</summary>
    public IEnumerable<Code> WithParts => Parts.SelectMany(p => p.WithParts).Prepend(this);

    /// <summary>True for what holds; what is unknown (NaN) does not.</summary>
    public static bool Holds(double value) => value is < 0 or > 0;
}

/// <summary>What sets a transition off, in the tables.</summary>
internal enum FireKind : byte
{
    Level,
    Edge,
    Leave,
    Press,
    Stall,
    GiveUp,
    Told,
    Silence,
    After,
    Every,
    Always,
}

/// <summary>A transition of the tables.</summary>
internal sealed class ScriptTransition
{
    public required TransitionNode? Node { get; init; }
    public FireKind Kind { get; init; }
    public int Sensor { get; init; } = -1;
    public int Zone { get; init; } = -1;

    /// <summary>Which follower of its sensor's zone it looks at; −1 when it looks at none.</summary>
    public int Tracker { get; init; } = -1;

    public int Needed { get; init; } = 1;
    public PressKind Press { get; init; }
    public int Device { get; init; } = -1;
    public int Text { get; init; } = -1;
    public int From { get; init; } = -1;
    public int[] Into { get; init; } = [];
    public Code? Condition { get; init; }
    public Code? Time { get; init; }

    /// <summary>How long what it waits for must hold, s; null when at once, or for readings.</summary>
    public Code? HoldFor { get; init; }
    public Code? Guard { get; init; }
    public int[] Roots { get; init; } = [];

    /// <summary>True when it is judged as a level: on entry, and again whenever something changed.</summary>
    public bool IsLevel => Kind is FireKind.Level or FireKind.Always;

    /// <summary>True when a condition must hold for several readings in a row.</summary>
    public bool Counts { get; init; }

    /// <summary>True when it follows readings or presses one by one while its state is active.</summary>
    public bool Watches =>
        Counts || HoldFor is not null || Kind is FireKind.Edge or FireKind.Leave || Kind == FireKind.Press && Press == PressKind.Held;
}

/// <summary>What an activity is, in the tables.</summary>
internal enum DoKind : byte
{
    // Groups.
    Then,
    Together,
    Repeat,
    If,

    // Done at once.
    Set,
    Push,
    Take,
    Tell,
    Zero,
    Teach,
    Show,
    LampOn,
    LampOff,
    Stop,
    StopAll,

    // Go on until they end, or for ever.
    Move,
    Routine,
}

/// <summary>An activity of the tables.</summary>
internal sealed class ScriptActivity
{
    public required DoKind Kind { get; init; }
    public int Parent { get; set; } = -1;
    public int[] Children { get; init; } = [];
    public Code? Value { get; init; }
    public Code? Second { get; init; }
    public Code[] Args { get; init; } = [];
    public int Slot { get; init; } = -1;
    public int Other { get; init; } = -1;
    public int Device { get; init; } = -1;
    public int Unit { get; init; } = -1;

    /// <summary>True when a move ends by itself.</summary>
    public bool Finite { get; init; }

    /// <summary>How long it takes as far as the program knows, s; null when only its end tells.</summary>
    public Code? Lasts { get; init; }

    /// <summary>True for a condition of “while here”: it is judged anew whenever something changes.</summary>
    public bool Judged { get; set; }

    /// <summary>True when its time is a limit: once it runs out the device gives up, and is not done.</summary>
    public bool Limited { get; init; }

    /// <summary>The sentence it came from.</summary>
    public ActionNode? Node { get; init; }
}

/// <summary>A node of a unit's chart.</summary>
internal sealed class ScriptNode
{
    public required string Path { get; init; }
    public StateNode? State { get; init; }
    public int[] Entry { get; set; } = [];
    public int[] While { get; set; } = [];
    public int[] Exit { get; set; } = [];
    public int[] Transitions { get; set; } = [];

    /// <summary>Transitions that lead here: what their actions began belongs to this state.</summary>
    public int[] Arriving { get; set; } = [];
}

/// <summary>A program or one call of a routine: a chart with all it does.</summary>
internal sealed class ScriptUnit
{
    public required Chart Chart { get; init; }
    public required ScriptNode[] Nodes { get; init; }
    public required ScriptTransition[] Transitions { get; init; }
    public required ScriptActivity[] Activities { get; init; }
    public required int[] Parameters { get; init; }
    public required string Name { get; init; }

    private int[]? homes;

    /// <summary>True while the state that an activity stands in is active.</summary>
    public bool HomeActive(int activity, ChartMachine chart) => (homes ??= Homes())[activity] is >= 0 and var home && chart.IsActive(home);

    private int[] Homes()
    {
        var of = new int[Activities.Length];
        Array.Fill(of, -1);
        void Take(int a, int node)
        {
            of[a] = node;
            foreach (var child in Activities[a].Children)
                Take(child, node);
        }
        for (var n = 0; n < Nodes.Length; n++)
        {
            foreach (var a in Nodes[n].Entry.Concat(Nodes[n].While))
                Take(a, n);
            foreach (var t in Nodes[n].Transitions)
            foreach (var a in Transitions[t].Roots)
                Take(a, n);
        }
        return of;
    }

    /// <summary>Regions by name, and the nodes of each state in them: for “REGION is in STATE”.</summary>
    public required Dictionary<(string Region, string State), int[]> Places { get; init; }
}

/// <summary>Follows the zone of a sensor for all who ask for as many readings in a row.</summary>
internal readonly record struct ScriptTracker(int Sensor, int Needed);

/// <summary>A number that a sensor's readings are compared with, as readings in a row.</summary>
/// <param name="Sensor">Sensor.</param>
/// <param name="Value">The number, base units.</param>
/// <param name="Needed">Readings in a row.</param>
internal readonly record struct ScriptMark(int Sensor, double Value, int Needed);

/// <summary>A transition of a compiled program.</summary>
/// <param name="Node">Its sentence; null for where a state begins.</param>
/// <param name="From">The state it leaves or stays in.</param>
/// <param name="To">The state it goes to; the same when it stays.</param>
/// <param name="Region">The region of the program it stands in; empty in a routine.</param>
public sealed record ScriptStep(TransitionNode? Node, string From, string To, string Region);

/// <summary>A program made ready to be stepped: tables that any number of machines share.</summary>
public sealed class CompiledScript
{
    internal ScriptUnit[] Units { get; init; } = [];
    internal string[] Sensors { get; init; } = [];
    internal bool[] IsSwitch { get; init; } = [];
    internal double[] PeriodMs { get; init; } = [];
    internal string[] Zones { get; init; } = [];
    internal string[] Devices { get; init; } = [];
    internal string[] Texts { get; init; } = [];
    internal string[] Programs { get; init; } = [];
    internal string[] Variables { get; init; } = [];
    internal string[] Queues { get; init; } = [];
    internal (int Slot, Code Value)[] Initial { get; init; } = [];
    internal ScriptTracker[] Trackers { get; init; } = [];

    /// <summary>Numbers that triggers compare readings with.</summary>
    internal ScriptMark[] Marks { get; init; } = [];

    /// <summary>By sensor the zone that its silence counts as; −1 for none.</summary>
    internal int[] SilenceZone { get; init; } = [];

    /// <summary>By sensor the zone that a reading falls into, where bands and no thresholds tell; null entries where nothing
    /// does.</summary>
    internal Func<double, int>?[] ZoneOfReading { get; init; } = [];

    /// <summary>Sensors whose number is looked at itself, not only its zone: each of their readings matters.</summary>
    internal bool[] Numbers { get; init; } = [];

    /// <summary>Zones of the sensors of a copy; null where it has none, and in a walk.</summary>
    internal ZoneScale?[] Scales { get; init; } = [];

    /// <summary>By sensor half the band about a number where no scale tells it; null entries where nothing is known.</summary>
    internal Func<double, double>?[] Bands { get; init; } = [];

    /// <summary>For each zone of a scale its number in <see cref="Zones"/>.</summary>
    internal int[][] ScaleZones { get; init; } = [];

    /// <summary>Conditions of goals and nevers, by their place among them; null for those of another kind.</summary>
    internal Code?[] Rules { get; init; } = [];

    /// <summary>Where the transitions of each unit begin in <see cref="Steps"/>.</summary>
    internal int[] FirstStep { get; init; } = [];

    /// <summary>All transitions, unit by unit in document order.</summary>
    public IReadOnlyList<ScriptStep> Steps { get; init; } = [];

    /// <summary>Devices whose way or angle is looked at.</summary>
    internal bool[] Measures { get; init; } = [];

    /// <summary>Devices that move something, and are stopped when the program ends.</summary>
    internal bool[] Moves { get; init; } = [];

    /// <summary>Devices that the program calls by shorter names.</summary>
    internal Sequence<OwnName> OwnNames { get; init; }

    internal CompiledScript BoundTo(
        ZoneScale?[] scales,
        int[][] zones,
        Func<double, int>?[]? readers = null,
        Func<double, double>?[]? bands = null
    ) =>
        new()
        {
            Units = Units,
            Sensors = Sensors,
            IsSwitch = IsSwitch,
            PeriodMs = PeriodMs,
            Zones = Zones,
            Devices = Devices,
            Texts = Texts,
            Programs = Programs,
            Variables = Variables,
            Queues = Queues,
            Initial = Initial,
            Trackers = Trackers,
            Marks = Marks,
            SilenceZone = SilenceZone,
            ZoneOfReading = readers ?? ZoneOfReading,
            Numbers = Numbers,
            Scales = scales,
            Bands = bands ?? Bands,
            ScaleZones = zones,
            Rules = Rules,
            FirstStep = FirstStep,
            Steps = Steps,
            OwnNames = OwnNames,
            Moves = Moves,
            Measures = Measures,
            Program = Program,
            Rig = Rig,
            DeviceOf = DeviceOf,
        };

    /// <summary>Half the band about a number that readings are compared with: that of the nearest threshold, else twice the
    /// sensor's noise; 0 where nothing is known of either.</summary>
    /// <param name="sensor">Place of the sensor.</param>
    /// <param name="value">The number.</param>
    /// <param name="scale">The sensor's zones as they are now, taught ones among them; null where it has none.</param>
    internal double BandOf(int sensor, double value, ZoneScale? scale) =>
        scale?.BandNear(value) ?? (Bands.Length > sensor && Bands[sensor] is { } near ? near(value) : 0);

    /// <summary>The zones of a sensor on the copy it is bound to, or null.</summary>
    public ZoneScale? ScaleOf(int sensor) => Scales.Length > sensor ? Scales[sensor] : null;

    /// <summary>Name of a sensor.</summary>
    public string SensorName(int sensor) => Sensors[sensor];

    /// <summary>Names of all that can be commanded.</summary>
    public IReadOnlyList<string> DeviceNames => Devices;

    /// <summary>True for a variable whose value is said once in the head and never changes.</summary>
    internal bool IsConstant(int slot) => Program.Head.Any(h => h is ConstNode c && c.Name == Variables[slot]);

    /// <summary>Every expression of the program, each with all that it is made of.</summary>
    internal IEnumerable<Code> AllCodes =>
        Units
            .SelectMany(u =>
                u.Transitions.SelectMany(t => new[] { t.Condition, t.Guard, t.Time, t.HoldFor })
                    .Concat(u.Activities.SelectMany(a => a.Args.Concat([a.Value, a.Second, a.Lasts])))
            )
            .Concat(Rules)
            .OfType<Code>()
            .SelectMany(c => c.WithParts);

    private bool[]? fixedSlots;

    /// <summary>The same for each of them, looked up once.</summary>
    internal bool[] IsFixed => fixedSlots ??= [.. Variables.Select((_, i) => IsConstant(i))];

    /// <summary>The program these tables came from.</summary>
    public required ProgramNode Program { get; init; }

    /// <summary>The rig's names.</summary>
    public required Vocabulary Rig { get; init; }

    /// <summary>States in all, those of called routines too.</summary>
    public int StateCount => Units.Sum(u => u.Nodes.Count(n => n.State is not null));

    /// <summary>Index of a sensor, or −1.</summary>
    public int SensorIndex(string name) => Array.IndexOf(Sensors, name);

    /// <summary>Index of a zone name, or −1.</summary>
    public int ZoneIndex(string name) => Array.IndexOf(Zones, name);

    /// <summary>Index of what can be commanded, or −1; a motor of a mechanism is that mechanism.</summary>
    public int DeviceIndex(string name) => DeviceOf.GetValueOrDefault(name, -1);

    internal Dictionary<string, int> DeviceOf { get; init; } = [];
}
