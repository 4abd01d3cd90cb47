using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Outside;

/// <summary>A sensor as a box tells of it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Kind">What the box calls it; empty while it has not said.</param>
/// <param name="PeriodMs">Time between readings that it has said, ms; null while it has not.</param>
/// <param name="Known">True where the rig has it.</param>
/// <param name="Count">Readings that came and count.</param>
/// <param name="Last">The last of them, in words; null before any.</param>
/// <param name="AtMicros">When, by the box's clock, µs; null before any.</param>
public sealed record BoxSensor(string Name, string Kind, double? PeriodMs, bool Known, long Count, string? Last, long? AtMicros);

/// <summary>Something that a box says and that cannot be.</summary>
/// <param name="Say">What, in a sentence.</param>
/// <param name="Times">How often.</param>
/// <param name="AtMicros">When last, by the clock of who watches, µs.</param>
public sealed record BoxComplaint(string Say, int Times, long AtMicros);

/// <summary>A line that nobody understood.</summary>
/// <param name="Line">The line, or as much of it as is shown.</param>
/// <param name="Why">What is wrong with it.</param>
public sealed record BoxUnread(string Line, string Why);

/// <summary>
/// What a box has said so far, held against the rig that it is joined to. What cannot be is called out in words and does not count: times
/// that go back, names that the rig has not, readings that its sensor cannot give. It keeps no more than can be looked at, however much
/// comes.
/// </summary>
public sealed class BoxWatch
{
    /// <summary>Most different things that are called out; further ones are only counted.</summary>
    public const int MostComplaints = 40;

    /// <summary>Most lines that nobody understood that are kept to be shown, the latest.</summary>
    public const int MostShown = 20;

    // Names that the rig has not are kept only so far: a box that makes up a new one each time must not fill the memory.
    private const int MostStrangers = 20;

    private sealed class Known(Sensor? design)
    {
        public Sensor? Design { get; } = design;
        public string Kind { get; set; } = "";
        public double? PeriodMs { get; set; }
        public long Count { get; set; }
        public BoxReading? Last { get; set; }
        public long? AtMicros { get; set; }
    }

    private readonly RigDesign rig;
    private readonly Dictionary<string, Known> sensors = [];
    private readonly Dictionary<string, BoxComplaint> complaints = [];
    private readonly Queue<BoxUnread> unread = new();
    private readonly Dictionary<string, string> states = [];
    private readonly Dictionary<string, IReadOnlySet<string>> programs;
    private readonly HashSet<string> devices;

    /// <summary>Begins to watch.</summary>
    /// <param name="rig">The rig that it is joined to.</param>
    public BoxWatch(RigDesign rig)
    {
        this.rig = rig;
        foreach (var s in rig.Sensors)
            sensors[s.Name] = new(s);
        devices = [.. rig.Actuators.Select(a => a.Name), .. rig.Mechanisms.Select(m => m.Name), .. rig.Sensors.Select(s => s.Name)];
        programs = RigPrograms
            .Of(rig)
            .GroupBy(p => p.Name)
            .ToDictionary(
                g => g.Key,
                g => (IReadOnlySet<string>)g.SelectMany(p => p.Parsed.Program.AllStates.Select(s => s.Name)).ToHashSet()
            );
        First = RigPrograms
            .Of(rig)
            .GroupBy(p => p.Name)
            .ToDictionary(
                g => g.Key,
                g =>
                    (IReadOnlySet<string>)
                        g.SelectMany(p => p.Parsed.Program.AllStates.Where(s => s.Initial).Select(s => s.Name)).ToHashSet()
            );
        Names = new([.. rig.Sensors.Select(s => s.Name)], [.. devices], [.. programs.Keys]);
    }

    /// <summary>The same watch of a rig that was changed: what was counted goes on being counted; what could not be is judged
    /// anew.</summary>
    /// <param name="now">The rig as it is now.</param>
    public BoxWatch For(RigDesign now)
    {
        var next = new BoxWatch(now)
        {
            Hello = Hello,
            Holds = Holds,
            Volts = Volts,
            Lines = Lines,
            Strange = Strange,
            Refused = Refused,
            BackInARow = BackInARow,
            NowMicros = NowMicros,
        };
        foreach (var (name, before) in sensors)
            if (next.Stranger(name) is { } same)
                (same.Kind, same.PeriodMs, same.Count, same.Last, same.AtMicros) = (
                    before.Kind,
                    before.PeriodMs,
                    before.Count,
                    before.Last,
                    before.AtMicros
                );
        foreach (var u in unread)
            next.unread.Enqueue(u);
        foreach (var (program, state) in states.Where(s => next.programs.ContainsKey(s.Key)))
            next.states[program] = state;
        if (Hello is not null && Hello.Name != now.Name)
            next.NotItsName(Hello);
        foreach (var s in next.sensors.Values.Where(s => s is { Design: not null, PeriodMs: not null }))
            next.Periods(s.Design!, s.PeriodMs!.Value);
        return next;
    }

    /// <summary>The states that its programs begin in, by program.</summary>
    public IReadOnlyDictionary<string, IReadOnlySet<string>> First { get; }

    /// <summary>Names that lines are read with.</summary>
    public BoxNames Names { get; }

    /// <summary>What it said that it is; null before its hello.</summary>
    public BoxHello? Hello { get; private set; }

    /// <summary>What it says that it runs; null while it has not.</summary>
    public string? Holds { get; private set; }

    /// <summary>What its pack gives, V; null while it has not said.</summary>
    public double? Volts { get; private set; }

    /// <summary>Lines that came.</summary>
    public long Lines { get; private set; }

    /// <summary>Readings whose times went back since the last one that counted.</summary>
    public int BackInARow { get; private set; }

    /// <summary>Lines that nobody understood.</summary>
    public long Strange { get; private set; }

    /// <summary>What it refused last, in its words; empty for nothing.</summary>
    public string Refused { get; private set; } = "";

    /// <summary>The sensors of the rig, and those that the box alone speaks of.</summary>
    public IReadOnlyList<BoxSensor> Sensors =>
        [
            .. sensors.Select(s => new BoxSensor(
                s.Key,
                s.Value.Kind,
                s.Value.PeriodMs,
                s.Value.Design is not null,
                s.Value.Count,
                s.Value.Last is { } last ? Said(last) : null,
                s.Value.AtMicros
            )),
        ];

    /// <summary>Where its programs are.</summary>
    public IReadOnlyDictionary<string, string> States => states;

    /// <summary>What it says and cannot be.</summary>
    public IReadOnlyList<BoxComplaint> Complaints => [.. complaints.Values];

    /// <summary>The time, by the clock of who watches, µs.</summary>
    public long NowMicros { get; set; }

    /// <summary>The latest lines that nobody understood, the newest last.</summary>
    public IReadOnlyList<BoxUnread> Unread => [.. unread];

    private static string Said(BoxReading r) =>
        r.Zone ?? (r.Values.Count == 0 ? "nothing heard" : string.Join(", ", r.Values.Select(v => Figures.Show(v))));

    /// <summary>Calls something out.</summary>
    /// <param name="about">What is the same when it happens again.</param>
    /// <param name="say">The sentence; of what happened before, the newest one stands.</param>
    public void Complain(string about, string say)
    {
        if (complaints.TryGetValue(about, out var before))
            complaints[about] = new(say, before.Times < int.MaxValue ? before.Times + 1 : before.Times, NowMicros);
        else if (complaints.Count < MostComplaints)
            complaints[about] = new(say, 1, NowMicros);
    }

    /// <summary>Takes up what came.</summary>
    /// <param name="message">The line, read with <see cref="Names"/>.</param>
    /// <param name="asked">True for a hello that was asked for, by which nothing begins anew but its times.</param>
    /// <returns>True where it counts: a reading that its sensor may give, a device, program or state that the rig has.</returns>
    public bool Take(BoxMessage message, bool asked = false)
    {
        Lines++;
        switch (message)
        {
            case BoxStrange m:
                Strange++;
                unread.Enqueue(new(m.Line, m.Why));
                if (unread.Count > MostShown)
                    unread.Dequeue();
                return false;
            case BoxHello m:
                // Its clock may begin anew.
                foreach (var s in sensors.Values)
                    s.AtMicros = null;
                BackInARow = 0;
                if (!asked)
                    states.Clear();
                Hello = m;
                complaints.Remove("hello");
                if (m.Name != rig.Name)
                    NotItsName(m);
                return true;
            case BoxHave m:
                return Has(m);
            case BoxReading m:
                return Reads(m);
            case BoxState m:
                return Is(m);
            case BoxDone m:
                return Knows(m.Name);
            case BoxStalls m:
                return Knows(m.Name);
            case BoxGivesUp m:
                return Knows(m.Name);
            case BoxHolds m:
                Holds = m.Hash;
                return true;
            case BoxBattery m:
                Volts = m.Volts;
                return true;
            case BoxNo m:
                Refused = m.Reason;
                return true;
            case BoxOk:
                return true;
            default:
                // What the desk says to a box, a box never says to the desk.
                Complain("desk", $"It says “{BoxLine.Shown(message.ToString())}”, which only the desk says.");
                return false;
        }
    }

    private void NotItsName(BoxHello hello) => Complain("hello", $"It calls itself “{hello.Name}”; this rig is {rig.Name}.");

    private Known? Stranger(string name)
    {
        if (sensors.TryGetValue(name, out var known))
            return known;
        if (sensors.Count >= rig.Sensors.Count + MostStrangers)
            return null;
        return sensors[name] = new(null);
    }

    private void NoSensor(string name) =>
        Complain(
            $"sensor {name}",
            $"It speaks of “{name}”, which this rig has not. "
                + (rig.Sensors.Count == 0 ? "It has no sensors." : $"Its sensors are {Figures.List(rig.Sensors.Select(s => s.Name))}.")
        );

    private bool Has(BoxHave m)
    {
        if (Stranger(m.Name) is not { } sensor)
        {
            NoSensor(m.Name);
            return false;
        }
        (sensor.Kind, sensor.PeriodMs) = (m.Kind, m.PeriodMs);
        if (sensor.Design is not { } design)
        {
            NoSensor(m.Name);
            return false;
        }
        Periods(design, m.PeriodMs);
        return true;
    }

    private void Periods(Sensor design, double periodMs)
    {
        complaints.Remove($"period {design.Name}");
        if (Math.Abs(periodMs - design.SamplePeriodMs) > 0.1 * design.SamplePeriodMs)
            Complain(
                $"period {design.Name}",
                $"It reads {design.Name} every {Figures.Show(periodMs)} ms; the rig says {Figures.Show(design.SamplePeriodMs)} ms. "
                    + "Programs and sums count with what the rig says."
            );
    }

    private bool Reads(BoxReading m)
    {
        if (Stranger(m.Name) is not { Design: { } design } sensor)
        {
            NoSensor(m.Name);
            return false;
        }
        var facts = design.Facts;
        if (sensor.AtMicros is { } before && m.Micros < before)
        {
            BackInARow++;
            Complain(
                $"back {m.Name}",
                $"The time of {m.Name} went back, from {Figures.Show(before * 1e-6, 6)} to {Figures.Show(m.Micros * 1e-6, 6)} s. "
                    + "Such readings do not count. Its clock must run on, or it must say hello again."
            );
            return false;
        }
        if (m.Zone is not null)
        {
            if (facts.View is not ("names" or "colours") && !design.Zones.Contains(m.Zone))
            {
                Complain($"zone {m.Name}", $"It says that {m.Name} sees “{m.Zone}”: that is neither a number nor one of its zones.");
                return false;
            }
        }
        else if (m.Values.Count > 0)
        {
            if (m.Values.Count != facts.Width)
            {
                Complain(
                    $"width {m.Name}",
                    $"{m.Name} gives {Figures.Count(facts.Width, "number")} a reading; {m.Values.Count} came. Such readings do not count."
                );
                return false;
            }
            foreach (var v in m.Values)
                if (v < facts.From || v > facts.To)
                {
                    Complain(
                        $"range {m.Name}",
                        $"{m.Name} read {Figures.Show(v)}{(facts.Unit == "" ? "" : " " + facts.Unit)}; "
                            + $"it can give {Figures.Show(facts.From)} to "
                            + $"{Figures.Show(facts.To)}. Such readings do not count."
                    );
                    return false;
                }
        }
        BackInARow = 0;
        (sensor.AtMicros, sensor.Last) = (m.Micros, m);
        sensor.Count++;
        return true;
    }

    private bool Is(BoxState m)
    {
        if (!programs.TryGetValue(m.Program, out var known))
        {
            Complain(
                $"program {m.Program}",
                $"It speaks of a program “{m.Program}”, which this rig has not. Its programs are {Figures.List(programs.Keys)}."
            );
            return false;
        }
        // Regions stand beside each other with a plus, a state behind the one that it stands in with a dot; a stroke says that it runs no
        // more.
        if (m.State != "-")
            foreach (var state in m.State.Split('+'))
                if (!known.Contains(state[(state.LastIndexOf('.') + 1)..]))
                {
                    Complain(
                        $"state {m.Program} {state}",
                        $"It says that {m.Program} is in “{state}”, a state that {m.Program} has not here: it runs another revision."
                    );
                    return false;
                }
        if (states.Count < 100 || states.ContainsKey(m.Program))
            states[m.Program] = m.State;
        return true;
    }

    private bool Knows(string device)
    {
        if (devices.Contains(device))
            return true;
        Complain($"device {device}", $"It speaks of a device “{device}”, which this rig has not.");
        return false;
    }
}
