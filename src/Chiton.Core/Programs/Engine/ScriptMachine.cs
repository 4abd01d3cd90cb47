using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

/// <summary>A command to a device, as it was given.</summary>
/// <param name="TimeMicros">When, µs since the start.</param>
/// <param name="Unit">Which part of the program gave it.</param>
/// <param name="Activity">Which of its activities; −1 for a stop because a state was left, −2 because its time is up.</param>
/// <param name="Device">The device; −1 for none.</param>
/// <param name="Value">Speed, angle or frequency in base units; what is shown.</param>
/// <param name="Second">Amount, or the second of two values.</param>
public readonly record struct ScriptCommand(long TimeMicros, int Unit, int Activity, int Device, double Value, double Second);

/// <summary>A message to another program.</summary>
/// <param name="Program">Index of the program.</param>
/// <param name="Text">Index of the text.</param>
/// <param name="Start">Where the values that go with it begin in <see cref="ScriptMachine.SentValues"/>.</param>
/// <param name="Count">How many they are.</param>
public readonly record struct ScriptMessage(int Program, int Text, int Start, int Count);

/// <summary>Told of every transition taken, in order.</summary>
/// <param name="timeMicros">When, µs since the start.</param>
/// <param name="unit">Which part of the program.</param>
/// <param name="transition">Which of its transitions.</param>
public delegate void ScriptWatcher(long timeMicros, int unit, int transition);

/// <summary>
/// Runs a compiled program, one stimulus after the other, each to completion: activity ends, timers, messages, readings.
/// The statechart's steps are those of <see cref="ChartMachine"/>. It has no clock and no randomness but its seed.
/// </summary>
public sealed class ScriptMachine
{
    /// <summary>Most values in a queue.</summary>
    public const int MostQueued = 100;

    /// <summary>A tap is at most so long, µs.</summary>
    public const long TapMicros = 500_000;

    /// <summary>Two taps lie at most so far apart, µs.</summary>
    public const long TwiceMicros = 600_000;

    private enum Happening : byte { Nothing, Zone, Reading, Sensed, Press, Timer, Ended, Stalled, Told, Start }

    private readonly CompiledScript script;
    private readonly UnitRun[] units;
    private readonly double[] readings;
    private readonly int[] held;
    private readonly bool[] down;
    private readonly long[] downSince, lastTap, downSerial;
    private long serial;
    private readonly double[] travel, angle;
    private readonly bool[] done, stopPending;
    private readonly (int Unit, int Activity)[] owner;
    private readonly double[][] queues;
    private readonly int[] queueCounts;
    private readonly double[] message = new double[16];
    private readonly List<ScriptCommand> commands = new(256);
    private readonly List<ScriptMessage> sent = new(16);
    private readonly List<double> sentValues = new(64);
    private readonly ZoneTracker[] followers;
    private long nextDue = -1;
    private ulong random;
    private UnitRun? judging;
    private int judgingNode;

    // What happens now.
    private Happening what;
    private int whatSensor = -1, zoneBefore = -1, whatDevice = -1, whatText = -1, whatFrom = -1, timerUnit = -1, timerTransition = -1;
    private PressKind whatPress;
    private int messageCount;

    /// <summary>A machine for a program.</summary>
    public ScriptMachine(CompiledScript script)
    {
        this.script = script;
        units = [.. script.Units.Select((u, i) => new UnitRun(this, u, i))];
        (readings, held, down, downSince, lastTap, downSerial) = (new double[script.Sensors.Length], new int[script.Trackers.Length], new bool[script.Sensors.Length], new long[script.Sensors.Length], new long[script.Sensors.Length], new long[script.Sensors.Length]);
        (travel, angle, done, stopPending, owner) = (new double[script.Devices.Length], new double[script.Devices.Length], new bool[script.Devices.Length], new bool[script.Devices.Length], new (int, int)[script.Devices.Length]);
        followers = new ZoneTracker[script.Trackers.Length];
        Variables = new double[script.Variables.Length];
        queues = [.. script.Queues.Select(_ => new double[MostQueued])];
        queueCounts = new int[script.Queues.Length];
    }

    /// <summary>Values of variables, constants and parameters, in base units.</summary>
    internal double[] Variables { get; }

    /// <summary>Time now, µs since the start.</summary>
    public long NowMicros { get; private set; }

    /// <summary>True once every region is final.</summary>
    public bool Finished { get; private set; }

    /// <summary>Why the machine had to be stopped; null while it runs well.</summary>
    public string? Fault { get; private set; }

    /// <summary>Told of every transition; null when nobody watches.</summary>
    public ScriptWatcher? Watcher { get; set; }

    /// <summary>Commands given since <see cref="ClearCommands"/>, in order.</summary>
    public IReadOnlyList<ScriptCommand> Commands => commands;

    /// <summary>Messages sent since <see cref="ClearCommands"/>, in order.</summary>
    public IReadOnlyList<ScriptMessage> Sent => sent;

    /// <summary>Values that went with them.</summary>
    public ReadOnlySpan<double> SentValues => System.Runtime.InteropServices.CollectionsMarshal.AsSpan(sentValues);

    /// <summary>The last transition taken, in <see cref="CompiledScript.Steps"/>; −1 before any.</summary>
    public int LastStep { get; private set; } = -1;

    /// <summary>Forgets the commands and messages so far.</summary>
    public void ClearCommands()
    {
        commands.Clear();
        sent.Clear();
        sentValues.Clear();
    }

    /// <summary>Forgets the messages so far, not the commands.</summary>
    public void ClearSent()
    {
        sent.Clear();
        sentValues.Clear();
    }

    /// <summary>When the next timer is due, µs since the start; <see cref="long.MaxValue"/> when none is.</summary>
    public long NextDue
    {
        get
        {
            if (nextDue >= 0) return nextDue;
            var next = long.MaxValue;
            foreach (var u in units) if (u.Active) next = Math.Min(next, u.NextDue);
            return nextDue = next;
        }
    }

    /// <summary>Starts, or starts anew, at time 0.</summary>
    /// <param name="seed">For what is random in the program.</param>
    public void Start(ulong seed = 1)
    {
        random = seed * 0x9E3779B97F4A7C15UL + 0x1234567;
        (NowMicros, serial, LastStep) = (0, 0, -1);
        (Finished, Fault) = (false, null);
        ClearCommands();
        Array.Fill(readings, double.NaN);
        // Switches are up until somebody says otherwise; what other sensors see is not known yet.
        for (var i = 0; i < held.Length; i++) held[i] = script.IsSwitch[script.Trackers[i].Sensor] ? script.ZoneIndex("up") : -1;
        Array.Fill(followers, ZoneTracker.Unread);
        Array.Clear(down);
        Array.Fill(lastTap, long.MinValue / 2);
        Array.Clear(travel);
        Array.Clear(angle);
        Array.Clear(done);
        Array.Clear(stopPending);
        Array.Fill(owner, (-1, -1));
        Array.Clear(queueCounts);
        Array.Clear(Variables);
        foreach (var (slot, value) in script.Initial) Variables[slot] = value.Eval(this);
        foreach (var u in units) u.Clear();
        Run(Happening.Start, 0, -1);
    }

    // ---- what happens ----

    /// <summary>Lets time pass: timers due until then fire at their time, by due time and then in document order.</summary>
    public void Pass(long untilMicros)
    {
        while (Fault is null && !Finished && NextDue <= untilMicros)
        {
            UnitRun? first = null;
            var due = long.MaxValue;
            foreach (var u in units)
                if (u.Active && u.NextDue < due) (first, due) = (u, u.NextDue);
            if (first is null || due > untilMicros) break;
            NowMicros = Math.Max(NowMicros, due);
            nextDue = -1;
            // The end of an activity comes before a timer of the same moment.
            if (first.DueActivity(NowMicros) is >= 0 and var activity) Run(Happening.Ended, first.Index, activity);
            else if (first.DueTransition(NowMicros) is >= 0 and var transition)
            {
                (timerUnit, timerTransition) = (first.Index, transition);
                Run(Happening.Timer);
                (timerUnit, timerTransition) = (-1, -1);
            }
        }
        NowMicros = Math.Max(NowMicros, untilMicros);
    }

    /// <summary>A sensor has come into a zone, for as many readings as anybody needs.</summary>
    public void SeeZone(int sensor, int zone)
    {
        if (held[sensor] == zone) { Reread(sensor); return; }
        zoneBefore = held[sensor];
        for (var i = 0; i < held.Length; i++) if (script.Trackers[i].Sensor == sensor) held[i] = zone;
        whatSensor = sensor;
        if (script.IsSwitch[sensor]) Press(sensor, script.Zones[zone] == "down");
        else Run(Happening.Zone);
    }

    /// <summary>
    /// A sensor gives a reading, in base units. Its zone changes for a sentence only once it has as many readings in a
    /// row beyond the far side of the band as the sentence asks for; a dropout restarts the count.
    /// </summary>
    /// <param name="sensor">Which sensor.</param>
    /// <param name="reading">What it reads; NaN for a dropout.</param>
    public void Sense(int sensor, double reading)
    {
        if (Finished || Fault is not null) return;
        var changed = false;
        if (script.ScaleOf(sensor) is { } scale)
        {
            var names = script.ScaleZones[sensor];
            for (var i = 0; i < followers.Length; i++)
            {
                var (of, needed) = script.Trackers[i];
                if (of != sensor) continue;
                var first = followers[i].Held < 0;
                if (!followers[i].Take(scale, reading, needed) && !(first && followers[i].Held >= 0)) continue;
                changed = true;
                held[i] = names[followers[i].Held];
            }
            foreach (var u in units) if (u.Active) changed |= u.SenseEdges(sensor, scale, reading, names);
        }
        if (double.IsNaN(reading)) foreach (var u in units) u.Miss(sensor);
        else readings[sensor] = reading;
        if (!changed && (!script.Numbers[sensor] || double.IsNaN(reading))) return;
        whatSensor = sensor;
        Run(Happening.Sensed);
        foreach (var u in units) u.ForgetEdges();
    }

    /// <summary>The reading that is being handled; NaN when it is something else that happens.</summary>
    public double ReadingOf(int sensor) => what == Happening.Sensed && whatSensor == sensor ? readings[sensor] : double.NaN;

    /// <summary>True when a goal's or never's condition holds.</summary>
    /// <param name="rule">Its place among the goals and nevers.</param>
    public bool RuleHolds(int rule) => script.Rules[rule] is { } code && code.Eval(this) != 0;

    private void Reread(int sensor)
    {
        whatSensor = sensor;
        zoneBefore = held[sensor];
        Run(Happening.Reading);
    }

    private void Press(int sensor, bool isDown)
    {
        var tapped = down[sensor] && !isDown && NowMicros - downSince[sensor] <= TapMicros;
        down[sensor] = isDown;
        if (isDown) (downSince[sensor], downSerial[sensor]) = (NowMicros, serial + 1);
        foreach (var u in units) u.Pressed(sensor, isDown);
        whatPress = isDown ? PressKind.Pressed : PressKind.Released;
        Run(Happening.Press);
        if (!tapped) return;
        var twice = NowMicros - lastTap[sensor] <= TwiceMicros;
        lastTap[sensor] = twice ? long.MinValue / 2 : NowMicros;
        (whatSensor, whatPress) = (sensor, PressKind.Tapped);
        Run(Happening.Press);
        if (!twice) return;
        (whatSensor, whatPress) = (sensor, PressKind.TappedTwice);
        Run(Happening.Press);
    }

    /// <summary>A button is tapped: down and at once up again.</summary>
    public void Tap(int sensor)
    {
        var (up, pressed) = (script.ZoneIndex("up"), script.ZoneIndex("down"));
        SeeZone(sensor, pressed);
        SeeZone(sensor, up);
    }

    /// <summary>A sensor reads a number, in base units.</summary>
    public void Read(int sensor, double value)
    {
        readings[sensor] = value;
        whatSensor = sensor;
        zoneBefore = held[sensor];
        Run(Happening.Reading);
    }

    /// <summary>A device says how far it has come: way of a drive in mm, angle in degrees.</summary>
    public void Moved(int device, double travelMm, double angleDeg)
    {
        travel[device] = travelMm;
        angle[device] = angleDeg;
        Run(Happening.Reading);
    }

    /// <summary>The latest finite command of a device has ended by itself.</summary>
    /// <returns>True when one was going on.</returns>
    public bool Ended(int device)
    {
        if (owner[device] is not (>= 0, >= 0) at || !units[at.Unit].IsFiniteMove(at.Activity)) return false;
        Run(Happening.Ended, at.Unit, at.Activity);
        return true;
    }

    /// <summary>A device stalls.</summary>
    public void Stalled(int device)
    {
        whatDevice = device;
        Run(Happening.Stalled);
    }

    /// <summary>A message arrives.</summary>
    /// <param name="text">Index of its text.</param>
    /// <param name="from">Index of the program it comes from; −1 when nobody says.</param>
    /// <param name="values">What goes with it.</param>
    public void Told(int text, int from, ReadOnlySpan<double> values)
    {
        (whatText, whatFrom, messageCount) = (text, from, Math.Min(values.Length, message.Length));
        values[..messageCount].CopyTo(message);
        foreach (var u in units) u.Heard();
        Run(Happening.Told);
    }

    private bool ZoneMoved => what == Happening.Zone || what == Happening.Press && (whatPress is PressKind.Pressed or PressKind.Released);

    // Each stimulus runs to completion in every part of the program.
    private void Run(Happening happening, int unit = -1, int activity = -1)
    {
        if (Finished || Fault is not null) return;
        what = happening;
        serial++;
        nextDue = -1;
        try
        {
            if (happening == Happening.Start) units[unit].Begin();
            else if (unit >= 0) units[unit].Ends(activity);
            if (happening != Happening.Start)
                for (var i = 0; i < units.Length; i++) if (units[i].Active) units[i].Fire();
            what = Happening.Nothing;
            // One part may have changed what another waits for.
            for (var rounds = 0; ; rounds++)
            {
                var changed = false;
                for (var i = 0; i < units.Length; i++) if (units[i].Active) changed |= units[i].LookAgain();
                if (!changed) break;
                if (rounds > ChartMachine.MostSteps) throw new EndlessLoop([]);
            }
        }
        catch (EndlessLoop loop)
        {
            var names = loop.Nodes.Select(n => (judging ?? units[0]).NameOf(n)).Where(n => n != "").Distinct().ToArray();
            Fault = names.Length switch
            {
                0 => "The machine goes round in a loop without anything happening.",
                1 => $"“{names[0]}” goes round in a loop without anything happening: it sets itself off again and again.",
                _ => $"The machine goes round in a loop without anything happening, through {string.Join(" and ", names.Select(n => $"“{n}”"))}.",
            };
        }
        what = Happening.Nothing;
        Settle();
    }

    private void Settle()
    {
        // What a left state ran stops, unless something else commands it now; an outer state's command comes back.
        for (var d = 0; d < stopPending.Length; d++)
        {
            if (!stopPending[d]) continue;
            stopPending[d] = false;
            var resumed = false;
            foreach (var u in units) if (u.Active && u.Resume(d)) { resumed = true; break; }
            if (resumed) continue;
            owner[d] = (-1, -1);
            commands.Add(new(NowMicros, 0, -1, d, 0, 0));
        }
        foreach (var u in units) if (u.Active) u.Refresh();
    }

    internal void Finish() => Finished = true;

    internal void Overflow(int queue) => Fault ??= $"The queue “{script.Queues[queue]}” is full: {MostQueued} values wait in it and nobody takes them.";

    // ---- what expressions see ----

    internal double LatestReading(int sensor) => readings[sensor];

    internal int ZoneHeld(int tracker) => held[tracker];

    internal double Travel(int device) => travel[device];

    internal double Angle(int device) => angle[device];

    internal bool IsDone(int device) => done[device];

    internal bool AllDone => judging is { } u && u.AllDone(judgingNode);

    internal int QueueLength(int queue) => queueCounts[queue];

    internal bool QueueHolds(int queue, double value) => queues[queue].AsSpan(0, queueCounts[queue]).Contains(value);

    internal bool IsIn(string region, string state)
    {
        // First the part that asks, then the others.
        if (judging is { } own && own.Knows(region, state)) return own.IsIn(region, state);
        foreach (var u in units) if (u.Active && u.IsIn(region, state)) return true;
        return false;
    }

    internal double NextRandom()
    {
        random ^= random << 13;
        random ^= random >> 7;
        random ^= random << 17;
        return (random >> 11) * (1.0 / (1UL << 53));
    }

    // ---- for people ----

    /// <summary>Active atomic states as Region.State, in document order; those of running routines after the program's own.</summary>
    public IReadOnlyList<string> Configuration => [.. units[0].Configuration];

    /// <summary>Routines that run, with their active states.</summary>
    public IReadOnlyList<(string Routine, IReadOnlyList<string> States)> Routines => [.. units.Skip(1).Where(u => u.Active).Select(u => (u.Unit.Name, (IReadOnlyList<string>)[.. u.Configuration]))];

    /// <summary>Values of the variables as people read them.</summary>
    public IReadOnlyList<(string Name, string Value)> Values => [.. script.Program.Head.OfType<VarNode>().Select(v => (v.Name, v.Value is QueueNode ? QueueText(Array.IndexOf(script.Queues, v.Name)) : Text(v.Value, Variables[Array.IndexOf(script.Variables, v.Name)])))];

    /// <summary>Value of one variable as people read it; null when there is none of that name.</summary>
    public string? ValueOf(string name)
    {
        foreach (var (n, value) in Values) if (n == name) return value;
        return null;
    }

    private string QueueText(int queue) => queueCounts[queue] == 0 ? "empty" : string.Join(", ", queues[queue].Take(queueCounts[queue]).Select(v => Quantities.Figures.Show(v)));

    /// <summary>A value as its kind reads.</summary>
    internal string Text(ExprNode like, double value) => like switch
    {
        TruthNode or DoneNode or InStateNode => value != 0 ? "yes" : "no",
        TextNode => value >= 0 && value < script.Texts.Length ? $"“{script.Texts[(int)value]}”" : "“”",
        ZoneNode or PropertyNode { Kind: PropertyKind.Zone } => value >= 0 && value < script.Zones.Length ? script.Zones[(int)value] : "no zone",
        LiteralNode { Unit: not "" } l => $"{Quantities.Figures.Show(value / (Quantities.Unit.Find(l.Unit)?.Factor ?? 1), 5)} {l.Unit}",
        _ => double.IsNaN(value) ? "nothing read yet" : Quantities.Figures.Show(value, 5),
    };

    /// <summary>Transitions of active states, outermost part first, with whether they could go now and what they wait for.</summary>
    public IReadOnlyList<(int Unit, int Transition, TransitionNode Node, bool GuardHolds)> Waiting => [.. units.Where(u => u.Active).SelectMany(u => u.Waiting)];

    /// <summary>The sentence of a transition.</summary>
    public TransitionNode Transition(int unit, int transition) => script.Units[unit].Transitions[transition].Node!;

    /// <summary>The sentence of a command; null for a stop because a state was left.</summary>
    public ActionNode? Sentence(ScriptCommand c) => c.Activity < 0 ? null : script.Units[c.Unit].Activities[c.Activity].Node;

    /// <summary>A running program or routine.</summary>
    private sealed class UnitRun : IChartHost
    {
        private enum Status : byte { Idle, Going, Ended, Dropped }

        private readonly ScriptMachine m;
        private readonly ChartMachine chart;
        private readonly Status[] status;
        private readonly int[] next, rounds, startedBy;
        private readonly long[] activityDue, transitionDue;
        private readonly bool[] spent, detached, edgeFired;
        private readonly ZoneTracker[] edges;
        private readonly int[] counted;
        private readonly long[] entered;
        private readonly int[] scratch;
        private readonly double[] lastValue, lastSecond;
        private int caller = -1, callerUnit = -1;
        private bool changed;

        public UnitRun(ScriptMachine machine, ScriptUnit unit, int index)
        {
            (m, Unit, Index) = (machine, unit, index);
            chart = new(unit.Chart, this);
            var (a, t, n) = (unit.Activities.Length, unit.Transitions.Length, unit.Nodes.Length);
            (status, next, rounds, startedBy, activityDue, detached, lastValue, lastSecond) = (new Status[a], new int[a], new int[a], new int[a], new long[a], new bool[a], new double[a], new double[a]);
            (edges, edgeFired) = (new ZoneTracker[t], new bool[t]);
            (spent, counted, transitionDue, entered, scratch) = (new bool[t], new int[t], new long[t], new long[n], new int[n]);
        }

        public ScriptUnit Unit { get; }

        public int Index { get; }

        public bool Active { get; private set; }

        public void Clear()
        {
            Active = false;
            Array.Clear(status);
            Array.Clear(detached);
            Array.Fill(startedBy, -1);
            Array.Fill(activityDue, long.MaxValue);
            Array.Fill(transitionDue, long.MaxValue);
        }

        public void Begin()
        {
            Active = true;
            var before = m.judging;
            m.judging = this;
            chart.Start();
            m.judging = before;
        }

        public void Call(int unit, int activity)
        {
            Clear();
            (callerUnit, caller) = (unit, activity);
            Begin();
        }

        public void Cancel()
        {
            if (!Active) return;
            var before = m.judging;
            m.judging = this;
            chart.Stop();
            m.judging = before;
            for (var i = 0; i < status.Length; i++) if (status[i] == Status.Going) Drop(i, true);
            Active = false;
        }

        public void Fire()
        {
            var before = m.judging;
            m.judging = this;
            chart.Fire();
            m.judging = before;
        }

        // True when something was taken.
        public bool LookAgain()
        {
            changed = false;
            var before = m.judging;
            m.judging = this;
            chart.Look();
            m.judging = before;
            return changed;
        }

        public long NextDue
        {
            get
            {
                var due = long.MaxValue;
                foreach (var d in activityDue) due = Math.Min(due, d);
                foreach (var d in transitionDue) due = Math.Min(due, d);
                return due;
            }
        }

        public int DueActivity(long now) => Earliest(activityDue, now);

        public int DueTransition(long now)
        {
            var t = Earliest(transitionDue, now);
            if (t < 0) return t;
            var transition = Unit.Transitions[t];
            transitionDue[t] = transition.Kind == FireKind.Every ? transitionDue[t] + Math.Max(1000, Micros(transition.Time!)) : long.MaxValue;
            return t;
        }

        private static int Earliest(long[] due, long now)
        {
            var best = -1;
            for (var i = 0; i < due.Length; i++)
                if (due[i] <= now && (best < 0 || due[i] < due[best])) best = i;
            return best;
        }

        private long Micros(Code time) => (long)Math.Round(Math.Clamp(time.Eval(m), 0, 1e9) * 1e6);

        // A button that is held: its time counts from the press, and is forgotten once it comes up.
        public void Pressed(int sensor, bool isDown)
        {
            if (!Active) return;
            for (var t = 0; t < transitionDue.Length; t++)
                if (Unit.Transitions[t] is { Kind: FireKind.Press, Press: PressKind.Held } x && x.Sensor == sensor) transitionDue[t] = isDown && chart.IsActive(Unit.Chart.SourceOf(t)) ? m.NowMicros + Micros(x.Time!) : long.MaxValue;
        }

        // Each edge sentence of an active state counts for itself since the state was entered.
        public bool SenseEdges(int sensor, ZoneScale scale, double reading, int[] names)
        {
            var any = false;
            for (var t = 0; t < edges.Length; t++)
            {
                if (Unit.Transitions[t] is not { Kind: FireKind.Edge or FireKind.Leave } x || x.Sensor != sensor || !chart.IsActive(Unit.Chart.SourceOf(t))) continue;
                var before = edges[t].Held;
                if (!edges[t].Take(scale, reading, x.Needed)) continue;
                any = true;
                edgeFired[t] = x.Kind == FireKind.Leave ? names[before] == x.Zone : names[edges[t].Held] == x.Zone;
            }
            return any;
        }

        public void ForgetEdges() => Array.Clear(edgeFired);

        // A dropout breaks every row of readings.
        public void Miss(int sensor)
        {
            for (var t = 0; t < counted.Length; t++) if (Unit.Transitions[t].Counts && Unit.Transitions[t].Sensor == sensor) counted[t] = 0;
        }

        public void Heard()
        {
            if (!Active) return;
            for (var t = 0; t < transitionDue.Length; t++)
                if (Unit.Transitions[t].Kind == FireKind.Silence && transitionDue[t] != long.MaxValue) transitionDue[t] = m.NowMicros + Micros(Unit.Transitions[t].Time!);
        }

        // ---- the chart's host ----

        bool IChartHost.Enabled(int t)
        {
            var x = Unit.Transitions[t];
            var fires = x.Kind switch
            {
                FireKind.Level or FireKind.Always => Rises(t, x, true),
                FireKind.Edge when m.what == Happening.Sensed => edgeFired[t],
                FireKind.Leave when m.what == Happening.Sensed => edgeFired[t],
                FireKind.Edge => m.ZoneMoved && m.whatSensor == x.Sensor && m.held[x.Sensor] == x.Zone,
                FireKind.Leave => m.ZoneMoved && m.whatSensor == x.Sensor && m.zoneBefore == x.Zone,
                FireKind.Press => x.Press == PressKind.Held ? Due(t) : m.what == Happening.Press && m.whatSensor == x.Sensor && m.whatPress == x.Press && SinceEntry(t, x),
                FireKind.Stall => m.what == Happening.Stalled && m.whatDevice == x.Device,
                FireKind.Told => m.what == Happening.Told && m.whatText == x.Text && (x.From < 0 || x.From == m.whatFrom),
                _ => Due(t),
            };
            if (!fires) return false;
            if (x.Kind != FireKind.Told || x.Into.Length == 0) return GuardHolds(t);
            // What came with a message is there before the guard is asked, and gone again when the guard refuses.
            Span<double> kept = stackalloc double[m.message.Length];
            var n = Math.Min(x.Into.Length, m.messageCount);
            for (var i = 0; i < n; i++)
                if (x.Into[i] >= 0) (kept[i], m.Variables[x.Into[i]]) = (m.Variables[x.Into[i]], m.message[i]);
            if (GuardHolds(t)) return true;
            for (var i = 0; i < n; i++) if (x.Into[i] >= 0) m.Variables[x.Into[i]] = kept[i];
            return false;
        }

        // A tap counts only when the press before it lies in this state too.
        private bool SinceEntry(int t, ScriptTransition x) => x.Press is PressKind.Pressed or PressKind.Released || m.downSerial[x.Sensor] > entered[Unit.Chart.SourceOf(t)];

        private bool Due(int t) => m.what == Happening.Timer && m.timerUnit == Index && m.timerTransition == t;

        bool IChartHost.EnabledNow(int t) => Rises(t, Unit.Transitions[t], false) && GuardHolds(t);

        private bool GuardHolds(int t)
        {
            if (Unit.Transitions[t].Guard is not { } guard) return true;
            m.judgingNode = Unit.Chart.SourceOf(t);
            return guard.Eval(m) != 0;
        }

        // A level that holds and has not been taken already since it last did not.
        private bool Rises(int t, ScriptTransition x, bool byEvent)
        {
            m.judgingNode = Unit.Chart.SourceOf(t);
            var holds = x.Condition!.Eval(m) != 0;
            if (x.Counts)
            {
                // It must hold for several readings in a row: each new one of its sensor counts.
                if (byEvent && (m.what is Happening.Reading or Happening.Zone or Happening.Sensed) && m.whatSensor == x.Sensor) counted[t] = holds ? counted[t] + 1 : 0;
                holds = holds && counted[t] >= x.Needed;
            }
            if (!holds) spent[t] = false;
            return holds && !spent[t];
        }

        void IChartHost.Entered(int node)
        {
            changed = true;
            var info = Unit.Nodes[node];
            entered[node] = m.serial;
            foreach (var t in info.Transitions)
            {
                (spent[t], counted[t]) = (false, 0);
                if (Unit.Transitions[t] is { Kind: FireKind.Edge or FireKind.Leave, Tracker: var tracker }) edges[t] = m.followers[tracker].Restarted;
            }
            foreach (var root in info.Entry) Start(root, node);
            foreach (var root in info.While) Start(root, node);
            // Times count from entry, with the values variables have once the entry actions are done.
            foreach (var t in info.Transitions)
            {
                var x = Unit.Transitions[t];
                transitionDue[t] = x.Kind switch
                {
                    FireKind.After or FireKind.Silence => m.NowMicros + Micros(x.Time!),
                    FireKind.Every => m.NowMicros + Math.Max(1000, Micros(x.Time!)),
                    // A button that is down already was pressed before: held counts from the next press.
                    _ => long.MaxValue,
                };
            }
        }

        void IChartHost.Exited(int node)
        {
            changed = true;
            var info = Unit.Nodes[node];
            foreach (var t in info.Transitions) transitionDue[t] = long.MaxValue;
            foreach (var root in info.While) Drop(root, true);
            // What was begun runs on; what comes after it is dropped.
            foreach (var root in info.Entry) if (status[root] == Status.Going) Detach(root);
            foreach (var root in info.Exit) Start(root, -1);
        }

        void IChartHost.Taken(int t)
        {
            changed = true;
            var x = Unit.Transitions[t];
            if (x.Node is null) return;
            if (x.IsLevel) spent[t] = true;
            if (x.Kind == FireKind.Told)
                for (var i = 0; i < x.Into.Length && i < m.messageCount; i++) if (x.Into[i] < 0) Push(~x.Into[i], m.message[i]);
            m.LastStep = m.script.FirstStep[Index] + t;
            m.Watcher?.Invoke(m.NowMicros, Index, t);
            foreach (var root in x.Roots) Start(root, Unit.Chart.SourceOf(t));
        }

        void IChartHost.Done(int node, int byFinal)
        {
            if (node != 1) return;
            if (Index == 0) { m.Finish(); return; }
            Active = false;
            for (var i = 0; i < status.Length; i++) if (status[i] == Status.Going) Detach(i);
            m.units[callerUnit].Ends(caller);
        }

        bool IChartHost.NextInternal() => false;

        // ---- activities ----

        private void Start(int a, int state)
        {
            var x = Unit.Activities[a];
            (status[a], startedBy[a], detached[a], activityDue[a]) = (Status.Going, state, false, long.MaxValue);
            switch (x.Kind)
            {
                case DoKind.Then:
                    next[a] = 0;
                    Start(x.Children[0], state);
                    return;
                case DoKind.Together:
                    foreach (var child in x.Children) status[child] = Status.Idle;
                    foreach (var child in x.Children) Start(child, state);
                    return;
                case DoKind.Repeat:
                    rounds[a] = (int)Math.Clamp(Math.Round(x.Value!.Eval(m)), 0, 1_000_000);
                    if (rounds[a] <= 0) Ends(a);
                    else Start(x.Children[0], state);
                    return;
                case DoKind.Routine:
                    var unit = m.units[x.Unit];
                    unit.Cancel();
                    for (var i = 0; i < x.Args.Length; i++) m.Variables[unit.Unit.Parameters[i]] = x.Args[i].Eval(m);
                    unit.Call(Index, a);
                    return;
                case DoKind.Set when x.Slot < 0: m.queueCounts[~x.Slot] = 0; break;
                case DoKind.Set: m.Variables[x.Slot] = x.Value!.Eval(m); break;
                case DoKind.Push:
                    Push(x.Slot, x.Value!.Eval(m));
                    break;
                case DoKind.Take:
                    // From an empty queue nothing is taken: the variable keeps its value.
                    if (m.queueCounts[x.Slot] > 0)
                    {
                        var queue = m.queues[x.Slot];
                        m.Variables[x.Other] = queue[0];
                        Array.Copy(queue, 1, queue, 0, --m.queueCounts[x.Slot]);
                    }
                    break;
                case DoKind.Tell:
                    m.sent.Add(new(x.Slot, x.Other, m.sentValues.Count, x.Args.Length));
                    foreach (var arg in x.Args) m.sentValues.Add(arg.Eval(m));
                    m.commands.Add(new(m.NowMicros, Index, a, -1, 0, 0));
                    break;
                case DoKind.Zero:
                    (m.travel[x.Device], m.angle[x.Device]) = (0, 0);
                    m.commands.Add(new(m.NowMicros, Index, a, x.Device, 0, 0));
                    break;
                case DoKind.Show: m.commands.Add(new(m.NowMicros, Index, a, -1, x.Value?.Eval(m) ?? x.Other, 0)); break;
                case DoKind.StopAll:
                    for (var d = 0; d < m.owner.Length; d++) Own(d, -1);
                    Array.Clear(m.stopPending);
                    m.commands.Add(new(m.NowMicros, Index, a, -1, 0, 0));
                    break;
                case DoKind.LampOn or DoKind.LampOff or DoKind.Stop:
                    Own(x.Device, x.Kind == DoKind.LampOn ? a : -1);
                    m.done[x.Device] = false;
                    m.commands.Add(new(m.NowMicros, Index, a, x.Device, 0, 0));
                    break;
                case DoKind.Move:
                    Own(x.Device, a);
                    if (x.Device >= 0) m.done[x.Device] = false;
                    Command(a, x);
                    if (!x.Finite) return;
                    if (x.Lasts is not null) activityDue[a] = m.NowMicros + Micros(x.Lasts);
                    return;
            }
            Ends(a);
        }

        private void Push(int queue, double value)
        {
            if (m.queueCounts[queue] >= MostQueued) m.Overflow(queue);
            else m.queues[queue][m.queueCounts[queue]++] = value;
        }

        private void Command(int a, ScriptActivity x)
        {
            lastValue[a] = x.Value?.Eval(m) ?? 0;
            lastSecond[a] = x.Second?.Eval(m) ?? 0;
            m.commands.Add(new(m.NowMicros, Index, a, x.Device, lastValue[a], lastSecond[a]));
        }

        // The latest command to a device wins: the one before is over without having ended by itself.
        private void Own(int device, int activity)
        {
            if (device < 0) return;
            m.stopPending[device] = false;
            var (unit, before) = m.owner[device];
            m.owner[device] = activity < 0 ? (-1, -1) : (Index, activity);
            if (unit < 0 || before < 0 || unit == Index && before == activity) return;
            var other = m.units[unit];
            // A lasting command of an outer state is only covered: it comes back when the inner one has gone.
            if (other.status[before] == Status.Going && other.Unit.Activities[before].Finite) other.Drop(before, false);
        }

        public bool IsFiniteMove(int a) => Unit.Activities[a] is { Kind: DoKind.Move, Finite: true } && status[a] == Status.Going;

        /// <summary>An activity has ended by itself; what waits for it goes on.</summary>
        public void Ends(int a)
        {
            if (status[a] != Status.Going) return;
            status[a] = Status.Ended;
            activityDue[a] = long.MaxValue;
            var x = Unit.Activities[a];
            if (x.Kind == DoKind.Move && x.Finite && x.Device >= 0)
            {
                m.done[x.Device] = true;
                if (m.owner[x.Device] == (Index, a)) m.owner[x.Device] = (-1, -1);
                // What was to run for a time is stopped when the time is over; what goes a way has come to rest.
                if (x is { Lasts: not null, Second: null, Node: RunNode or DriveNode }) m.commands.Add(new(m.NowMicros, Index, -2, x.Device, 0, 0));
            }
            var parent = x.Parent;
            if (parent < 0 || status[parent] != Status.Going) return;
            var p = Unit.Activities[parent];
            switch (p.Kind)
            {
                case DoKind.Then:
                    if (++next[parent] >= p.Children.Length) Ends(parent);
                    else if (detached[parent]) Drop(parent, false);
                    else Start(p.Children[next[parent]], startedBy[parent]);
                    break;
                case DoKind.Together:
                    foreach (var child in p.Children) if (status[child] is Status.Going or Status.Idle) return;
                    Ends(parent);
                    break;
                case DoKind.Repeat:
                    if (--rounds[parent] <= 0) Ends(parent);
                    else if (detached[parent]) Drop(parent, false);
                    else Start(p.Children[0], startedBy[parent]);
                    break;
            }
        }

        // Not to go on: neither what it does nor what would follow.
        private void Drop(int a, bool stop)
        {
            var x = Unit.Activities[a];
            var was = status[a];
            status[a] = Status.Dropped;
            activityDue[a] = long.MaxValue;
            foreach (var child in x.Children) if (status[child] == Status.Going || stop) Drop(child, stop);
            if (x.Kind == DoKind.Routine && was == Status.Going) m.units[x.Unit].Cancel();
            if (stop && x.Device >= 0 && x.Kind is DoKind.Move or DoKind.LampOn && m.owner[x.Device] == (Index, a)) m.stopPending[x.Device] = true;
            // A chain whose step was taken over ends here.
            for (var up = x.Parent; !stop && up >= 0 && status[up] == Status.Going && Unit.Activities[up].Kind is DoKind.Then or DoKind.Repeat; up = Unit.Activities[up].Parent) status[up] = Status.Dropped;
        }

        private void Detach(int a)
        {
            detached[a] = true;
            foreach (var child in Unit.Activities[a].Children) if (status[child] == Status.Going) Detach(child);
        }

        // What is still on the way of all that a state started; false when it started nothing that takes time.
        public bool AllDone(int node)
        {
            var any = false;
            foreach (var root in Unit.Nodes[node].Entry)
            {
                if (status[root] == Status.Going) return false;
                any |= Takes(root);
            }
            foreach (var root in Unit.Nodes[node].While)
            {
                if (status[root] == Status.Going) return false;
                any |= Takes(root);
            }
            return any;
        }

        private bool Takes(int a)
        {
            var x = Unit.Activities[a];
            if (x.Kind is DoKind.Move or DoKind.Routine) return true;
            foreach (var child in x.Children) if (Takes(child)) return true;
            return false;
        }

        /// <summary>An outer state's lasting command to a device comes back.</summary>
        public bool Resume(int device)
        {
            for (var node = Unit.Nodes.Length - 1; node > 0; node--)
            {
                if (!chart.IsActive(node)) continue;
                foreach (var root in Unit.Nodes[node].While)
                    if (Lasting(root, device) is >= 0 and var a)
                    {
                        m.owner[device] = (Index, a);
                        Command(a, Unit.Activities[a]);
                        return true;
                    }
            }
            return false;
        }

        private int Lasting(int a, int device)
        {
            var x = Unit.Activities[a];
            if (x.Device == device && (x.Kind == DoKind.Move && !x.Finite && status[a] == Status.Going || x.Kind == DoKind.LampOn)) return a;
            foreach (var child in x.Children) if (Lasting(child, device) is >= 0 and var found) return found;
            return -1;
        }

        /// <summary>Expressions of lasting commands are worked out anew; what changed is told again.</summary>
        public void Refresh()
        {
            for (var a = 0; a < status.Length; a++)
            {
                var x = Unit.Activities[a];
                if (status[a] != Status.Going || x.Kind != DoKind.Move || x.Finite || m.owner[x.Device < 0 ? 0 : x.Device] != (Index, a) || startedBy[a] < 0) continue;
                var (value, second) = (x.Value?.Eval(m) ?? 0, x.Second?.Eval(m) ?? 0);
                if (value == lastValue[a] && second == lastSecond[a]) continue;
                Command(a, x);
            }
        }

        // ---- for people ----

        public string NameOf(int node) => Unit.Nodes[node].State?.Name ?? "";

        public IEnumerable<string> Configuration
        {
            get
            {
                var n = chart.Active(scratch);
                for (var i = 0; i < n; i++)
                    if (Unit.Chart.KindOf(scratch[i]) is NodeKind.Atomic or NodeKind.Final) yield return Unit.Nodes[scratch[i]].Path;
            }
        }

        public bool Knows(string region, string state) => Unit.Places.ContainsKey((region, state));

        public bool IsIn(string region, string state)
        {
            if (!Unit.Places.TryGetValue((region, state), out var places)) return false;
            foreach (var node in places) if (chart.IsActive(node)) return true;
            return false;
        }

        public IEnumerable<(int, int, TransitionNode, bool)> Waiting
        {
            get
            {
                for (var node = 1; node < Unit.Nodes.Length; node++)
                {
                    if (!chart.IsActive(node)) continue;
                    foreach (var t in Unit.Nodes[node].Transitions)
                    {
                        var before = m.judging;
                        m.judging = this;
                        var holds = GuardHolds(t);
                        m.judging = before;
                        yield return (Index, t, Unit.Transitions[t].Node!, holds);
                    }
                }
            }
        }
    }
}
