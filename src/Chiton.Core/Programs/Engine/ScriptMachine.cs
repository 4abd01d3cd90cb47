using Chiton.Core.Programs.Language;
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
/// <param name="LastsMicros">How long it takes as far as the program knows, µs; 0 where only its end or another command tells.</param>
public readonly record struct ScriptCommand(
    long TimeMicros,
    int Unit,
    int Activity,
    int Device,
    double Value,
    double Second,
    long LastsMicros = 0
);

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
public sealed partial class ScriptMachine
{
    /// <summary>Most values in a queue.</summary>
    public const int MostQueued = 100;

    /// <summary>Transitions at one moment, without anything new from outside, after which a machine is stopped.</summary>
    public const int MostTransitionsAtOnce = ChartMachine.MostSteps;

    /// <summary>Actions at one moment after which a machine is stopped.</summary>
    public const int MostActionsAtOnce = 100_000;

    /// <summary>A tap is at most so long, µs.</summary>
    public const long TapMicros = 500_000;

    /// <summary>Two taps lie at most so far apart, µs.</summary>
    public const long TwiceMicros = 600_000;

    private enum Happening : byte
    {
        Nothing,
        Zone,
        Reading,
        Sensed,
        Press,
        Timer,
        Ended,
        GaveUp,
        Stalled,
        Told,
        Start,
    }

    private readonly CompiledScript script;
    private readonly UnitRun[] units;
    private readonly double[] readings;
    private readonly int[] held;
    private readonly bool[] down,
        known,
        silent,
        blind;

    // Since when a sensor has been in the zone that one reading tells, µs; −1 after a reading was lost.
    private readonly long[] zoneSince;

    // For each number that readings are compared with: below 0, above 1, not yet known −1, and how many readings point to another side.
    private readonly sbyte[] side;
    private readonly int[] crossing;
    private readonly long[] downSince,
        lastTap,
        downSerial;
    private long serial;
    private readonly double[] travel,
        angle;
    private readonly bool[] done,
        givenUp,
        stopPending;
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

    // What is still to be begun, innermost first: chains and repeats of any length need no stack of their own.
    private readonly Stack<Work> work = new();

    // What happened at this moment, to find a loop and to name it.
    private readonly (int Unit, int Transition)[] lately = new (int, int)[64];
    private int transitionsNow,
        actionsNow;
    private readonly int[][] trackersOf;

    // What happens now.
    private Happening what;
    private int whatSensor = -1,
        zoneBefore = -1,
        whatDevice = -1,
        whatText = -1,
        whatFrom = -1,
        timerUnit = -1,
        timerTransition = -1;
    private PressKind whatPress;
    private int messageCount;

    /// <summary>A machine for a program.</summary>
    public ScriptMachine(CompiledScript script)
    {
        this.script = script;
        units = [.. script.Units.Select((u, i) => new UnitRun(this, u, i))];
        (readings, held, down, downSince, lastTap, downSerial) = (
            new double[script.Sensors.Length],
            new int[script.Trackers.Length],
            new bool[script.Sensors.Length],
            new long[script.Sensors.Length],
            new long[script.Sensors.Length],
            new long[script.Sensors.Length]
        );
        (travel, angle, done, givenUp, stopPending, owner) = (
            new double[script.Devices.Length],
            new double[script.Devices.Length],
            new bool[script.Devices.Length],
            new bool[script.Devices.Length],
            new bool[script.Devices.Length],
            new (int, int)[script.Devices.Length]
        );
        (known, silent, blind, zoneSince) = (
            new bool[script.Sensors.Length],
            new bool[script.Sensors.Length],
            new bool[script.Sensors.Length],
            new long[script.Sensors.Length]
        );
        (side, crossing) = (new sbyte[script.Marks.Length], new int[script.Marks.Length]);
        followers = new ZoneTracker[script.Trackers.Length];
        (scales, scaleZones, looks) = (
            new ZoneScale?[script.Sensors.Length],
            new int[script.Sensors.Length][],
            new Look[script.Sensors.Length]
        );
        trackersOf =
        [
            .. script.Sensors.Select(
                (_, s) => Enumerable.Range(0, script.Trackers.Length).Where(t => script.Trackers[t].Sensor == s).ToArray()
            ),
        ];
        Variables = new double[script.Variables.Length];
        queues = [.. script.Queues.Select(_ => new double[MostQueued])];
        queueCounts = new int[script.Queues.Length];
    }

    /// <summary>Values of variables, constants and parameters, in base units.</summary>
    internal double[] Variables { get; }

    /// <summary>What is done where not everything is known, when all that may ever happen is looked at; null in every run.</summary>
    internal Vague? Vague { get; set; }

    /// <summary>Told when a command takes a device over from one that still goes on: the device, and unit and activity of both.</summary>
    internal Action<int, (int Unit, int Activity), (int Unit, int Activity)>? TakenOver { get; set; }

    private double Put(int slot, Code code) => Put(slot, code, code.Eval(this));

    private double Put(int slot, Code? code, double value) => Variables[slot] = Vague is { } v ? v.Put(this, slot, code, value) : value;

    /// <summary>Time now, µs since the start.</summary>
    public long NowMicros { get; private set; }

    /// <summary>True once every region is final.</summary>
    public bool Finished { get; private set; }

    /// <summary>Why the machine had to be stopped; null while it runs well.</summary>
    public string? Fault { get; private set; }

    /// <summary>How much it may do in all; null for no limit but those of a moment.</summary>
    public StepBudget? Budget { get; set; }

    /// <summary>True to stop with a fault when the budget is spent; false to throw.</summary>
    public bool FaultsWhenSpent { get; set; }

    /// <summary>True to count edges from the start of the program, as once: a sentence begins from the zone that it would hold had it
    /// always been waited for. Set before the start, by models that are held against older figures.</summary>
    internal bool EdgesFromStart { get; set; }

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
            if (nextDue >= 0)
                return nextDue;
            var next = long.MaxValue;
            foreach (var u in units)
                next = Math.Min(next, u.NextDue);
            return nextDue = next;
        }
    }

    /// <summary>Brings its clock to a moment at which something comes from outside, before anything due then has happened.</summary>
    internal void At(long micros) => NowMicros = Math.Max(NowMicros, micros);

    /// <summary>Starts, or starts anew, at time 0.</summary>
    /// <param name="seed">For what is random in the program.</param>
    public void Start(ulong seed = 1)
    {
        random = seed * 0x9E3779B97F4A7C15UL + 0x1234567;
        (NowMicros, serial, LastStep) = (Vague is null ? 0 : StepMicros, 0, -1);
        (Finished, Fault) = (false, null);
        ClearCommands();
        work.Clear();
        NewMoment();
        Array.Fill(readings, double.NaN);
        // Switches are up until somebody says otherwise; what other sensors see is not known yet.
        for (var i = 0; i < held.Length; i++)
            held[i] = script.IsSwitch[script.Trackers[i].Sensor] ? script.ZoneIndex("up") : -1;
        Array.Fill(followers, ZoneTracker.Unread);
        ForgetTaught();
        script.IsSwitch.CopyTo(known, 0);
        Array.Clear(silent);
        Array.Clear(blind);
        Array.Fill(zoneSince, NowMicros);
        Array.Fill(side, (sbyte)-1);
        Array.Clear(crossing);
        Array.Clear(down);
        Array.Fill(lastTap, NoTap);
        Array.Clear(travel);
        Array.Clear(angle);
        Array.Clear(done);
        Array.Clear(givenUp);
        Array.Clear(stopPending);
        Array.Fill(owner, (-1, -1));
        Array.Clear(queueCounts);
        Array.Clear(Variables);
        foreach (var (slot, value) in script.Initial)
            Put(slot, value);
        foreach (var u in units)
            u.Clear();
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
            // A routine that has ended may still have a move in hand.
            foreach (var u in units)
                if (u.NextDue < due)
                    (first, due) = (u, u.NextDue);
            if (first is null || due > untilMicros)
                break;
            if (due > NowMicros)
            {
                NowMicros = due;
                NewMoment();
            }
            nextDue = -1;
            // The end of an activity comes before a timer of the same moment.
            if (first.DueActivity(NowMicros) is >= 0 and var activity)
                RunOut(first, activity);
            else if (first.DueTransition(NowMicros) is >= 0 and var transition)
            {
                (timerUnit, timerTransition) = (first.Index, transition);
                Run(Happening.Timer);
                (timerUnit, timerTransition) = (-1, -1);
            }
        }
        NowMicros = Math.Max(NowMicros, untilMicros);
    }

    // The time of an activity is up: it has ended, or given up when the time was a limit.
    private void RunOut(UnitRun unit, int activity)
    {
        var x = unit.Unit.Activities[activity];
        whatDevice = x.Device;
        Run(x.Limited ? Happening.GaveUp : Happening.Ended, unit.Index, activity);
    }

    /// <summary>The limit of time of a device's latest command runs out.</summary>
    /// <returns>True when one was going on.</returns>
    public bool GivesUp(int device)
    {
        if (owner[device] is not (>= 0, >= 0) at || !units[at.Unit].IsFiniteMove(at.Activity))
            return false;
        NewMoment();
        whatDevice = device;
        Run(Happening.GaveUp, at.Unit, at.Activity);
        return true;
    }

    /// <summary>A sensor has come into a zone, for as many readings as anybody needs.</summary>
    public void SeeZone(int sensor, int zone)
    {
        NewMoment();
        Heard(sensor);
        looks[sensor].CannotTell = false;
        if (held[sensor] == zone)
        {
            Reread(sensor);
            return;
        }
        zoneBefore = held[sensor];
        zoneSince[sensor] = NowMicros;
        foreach (var i in trackersOf[sensor])
            (held[i], followers[i]) = (zone, ZoneTracker.At(Followed(sensor, zone)));
        whatSensor = sensor;
        foreach (var u in units)
            u.SeeEdges(sensor, zone);
        if (script.IsSwitch[sensor])
            Press(sensor, script.Zones[zone] == "down");
        else
            Run(Happening.Zone);
    }

    private void Heard(int sensor) => (known[sensor], silent[sensor], blind[sensor]) = (true, false, false);

    // What a tracker holds for a zone: its place in the sensor's scale, where there is one.
    private int Followed(int sensor, int zone) =>
        zone < 0 ? -1
        : scales[sensor] is null ? zone
        : Array.IndexOf(scaleZones[sensor], zone);

    // True when a reading says nothing: that nothing is there, or something too near.
    private bool SaysNothing(int sensor, double reading)
    {
        var word = script.Rig.Sensors[sensor];
        if (!word.MayHearNothing || double.IsNaN(reading))
            return false;
        var nothing = reading == word.SilentReading;
        if (!nothing && reading >= word.BlindBelow)
            return false;
        Silent(sensor, nothing);
        return true;
    }

    /// <summary>
    /// A sensor answers that nothing is there to hear. The zones that triggers hold stay and only their counts begin anew, unless
    /// the sensor's silence counts as a zone; no comparison with its reading holds.
    /// </summary>
    public void Silent(int sensor) => Silent(sensor, true);

    private void Silent(int sensor, bool nothing)
    {
        if (Finished || Fault is not null)
            return;
        if (nothing && script.SilenceZone.Length > sensor && script.SilenceZone[sensor] is >= 0 and var zone && held[sensor] != zone)
            SeeZone(sensor, zone);
        NewMoment();
        (known[sensor], silent[sensor], blind[sensor]) = (true, nothing, true);
        foreach (var i in trackersOf[sensor])
            followers[i] = followers[i].Restarted;
        for (var i = 0; i < side.Length; i++)
            if (script.Marks[i].Sensor == sensor)
                crossing[i] = 0;
        foreach (var u in units)
            u.MissEdges(sensor);
        Reread(sensor);
    }

    /// <summary>
    /// A sensor gives a reading, in base units. Its zone changes for a sentence only once it has as many readings in a
    /// row beyond the far side of the band as the sentence asks for; a dropout restarts the count.
    /// </summary>
    /// <param name="sensor">Which sensor.</param>
    /// <param name="reading">What it reads; NaN for a dropout.</param>
    public void Sense(int sensor, double reading)
    {
        if (Finished || Fault is not null || SaysNothing(sensor, reading))
            return;
        NewMoment();
        var changed = false;
        if (!double.IsNaN(reading))
        {
            Heard(sensor);
            if (zoneSince[sensor] < 0)
                (zoneSince[sensor], changed) = (NowMicros, true);
        }
        Cross(sensor, reading);
        if (scales[sensor] is { } scale)
        {
            var names = scaleZones[sensor];
            foreach (var i in trackersOf[sensor])
            {
                var needed = script.Trackers[i].Needed;
                var first = followers[i].Held < 0;
                if (!followers[i].Take(scale, reading, needed) && !(first && followers[i].Held >= 0))
                    continue;
                changed = true;
                held[i] = names[followers[i].Held];
                if (i == sensor)
                    zoneSince[sensor] = NowMicros;
            }
            foreach (var u in units)
                if (u.Active)
                    changed |= u.SenseEdges(sensor, scale, reading, names);
        }
        if (double.IsNaN(reading))
        {
            zoneSince[sensor] = -1;
            foreach (var u in units)
                u.Miss(sensor);
        }
        else
        {
            readings[sensor] = reading;
            Saw(sensor, reading);
        }
        if (!changed && (!script.Numbers[sensor] || double.IsNaN(reading)))
            return;
        whatSensor = sensor;
        Run(Happening.Sensed);
        foreach (var u in units)
            u.ForgetEdges();
    }

    /// <summary>The reading that is being handled; NaN when it is something else that happens.</summary>
    public double ReadingOf(int sensor) => what == Happening.Sensed && whatSensor == sensor ? readings[sensor] : double.NaN;

    /// <summary>True when a goal's or never's condition holds.</summary>
    /// <param name="rule">Its place among the goals and nevers.</param>
    public bool RuleHolds(int rule) => script.Rules[rule] is { } code && Code.Holds(code.Eval(this));

    /// <summary>What a goal's or never's condition, or one that was asked from outside, is now: 1 where it holds, 0 where it does not, NaN
    /// where nobody knows.</summary>
    internal double AskedHolds(int rule) =>
        script.Rules[rule] is { } code && code.Eval(this) is var value
            ? double.IsNaN(value)
                ? double.NaN
                : Code.Holds(value)
                    ? 1
                    : 0
            : double.NaN;

    // A number is crossed once enough readings in a row lie beyond the far side of its band.
    private void Cross(int sensor, double reading)
    {
        for (var i = 0; i < side.Length; i++)
        {
            var mark = script.Marks[i];
            if (mark.Sensor != sensor)
                continue;
            if (double.IsNaN(reading))
            {
                crossing[i] = 0;
                continue;
            }
            var band = side[i] < 0 ? 0 : script.BandOf(sensor, mark.Value, scales[sensor]);
            // Unread, it comes to a side by as many readings as later to the other one; they are counted below zero for “below”.
            var (above, below) = (reading > mark.Value + band, side[i] < 0 ? reading <= mark.Value : reading < mark.Value - band);
            crossing[i] =
                above && side[i] != 1 ? Math.Max(0, crossing[i]) + 1
                : below && side[i] != 0 ? Math.Min(0, crossing[i]) - 1
                : 0;
            if (Math.Abs(crossing[i]) < mark.Needed)
                continue;
            (side[i], crossing[i]) = ((sbyte)(crossing[i] > 0 ? 1 : 0), 0);
        }
    }

    /// <summary>True while a button is down.</summary>
    public bool IsDown(int sensor) => down[sensor];

    internal bool IsKnown(int sensor) => known[sensor];

    internal bool IsSilent(int sensor) => silent[sensor];

    internal bool SaysNothing(int sensor) => blind[sensor];

    // Of one reading at a time, and exactly at the number, the plain comparison counts.
    internal bool IsBeyond(int mark, bool above, bool orEqual)
    {
        var m = script.Marks[mark];
        if (m.Needed == 1 && readings[m.Sensor] == m.Value)
            return orEqual;
        return side[mark] == (above ? 1 : 0);
    }

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
        if (isDown)
            (downSince[sensor], downSerial[sensor]) = (NowMicros, serial + 1);
        foreach (var u in units)
            u.Pressed(sensor, isDown);
        whatPress = isDown ? PressKind.Pressed : PressKind.Released;
        Run(Happening.Press);
        if (!tapped)
            return;
        var twice = NowMicros - lastTap[sensor] <= TwiceMicros;
        lastTap[sensor] = twice ? NoTap : NowMicros;
        (whatSensor, whatPress) = (sensor, PressKind.Tapped);
        Run(Happening.Press);
        if (!twice)
            return;
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
        if (Finished || Fault is not null || SaysNothing(sensor, value))
            return;
        if (scales[sensor] is not null)
        {
            Sense(sensor, value);
            return;
        }
        NewMoment();
        Heard(sensor);
        readings[sensor] = value;
        Saw(sensor, value);
        Cross(sensor, value);
        if (script.ZoneOfReading.Length > sensor && script.ZoneOfReading[sensor] is { } zoneOf)
        {
            ReadZone(sensor, zoneOf(value));
            return;
        }
        whatSensor = sensor;
        zoneBefore = held[sensor];
        Run(Happening.Reading);
    }

    /// <summary>One reading of a sensor, of which only the zone is known: a colour.</summary>
    /// <param name="sensor">Which sensor.</param>
    /// <param name="zone">Its zone, by its place among the zone names; −1 for none of them.</param>
    public void SenseZone(int sensor, int zone)
    {
        if (Finished || Fault is not null)
            return;
        NewMoment();
        Heard(sensor);
        ReadZone(sensor, zone);
    }

    // One reading, of which only the zone is known.
    private void ReadZone(int sensor, int zone)
    {
        foreach (var i in trackersOf[sensor])
        {
            var first = followers[i].Held < 0;
            if (!followers[i].TakeZone(zone, first ? 1 : script.Trackers[i].Needed))
                continue;
            held[i] = zone;
            if (i == sensor)
                zoneSince[sensor] = NowMicros;
        }
        foreach (var u in units)
            if (u.Active)
                u.SenseZone(sensor, zone);
        whatSensor = sensor;
        Run(Happening.Sensed);
        foreach (var u in units)
            u.ForgetEdges();
    }

    /// <summary>A device says how far it has come: way of a drive in mm, angle in degrees.</summary>
    public void Moved(int device, double travelMm, double angleDeg)
    {
        NewMoment();
        travel[device] = travelMm;
        angle[device] = angleDeg;
        Run(Happening.Reading);
    }

    /// <summary>The latest finite command of a device has ended by itself.</summary>
    /// <returns>True when one was going on.</returns>
    public bool Ended(int device)
    {
        if (owner[device] is not (>= 0, >= 0) at || !units[at.Unit].IsFiniteMove(at.Activity))
            return false;
        NewMoment();
        Run(Happening.Ended, at.Unit, at.Activity);
        return true;
    }

    /// <summary>A device stalls.</summary>
    public void Stalled(int device)
    {
        NewMoment();
        whatDevice = device;
        Run(Happening.Stalled);
    }

    /// <summary>A message arrives.</summary>
    /// <param name="text">Index of its text.</param>
    /// <param name="from">Index of the program it comes from; −1 when nobody says.</param>
    /// <param name="values">What goes with it.</param>
    public void Told(int text, int from, ReadOnlySpan<double> values)
    {
        NewMoment();
        (whatText, whatFrom, messageCount) = (text, from, Math.Min(values.Length, message.Length));
        values[..messageCount].CopyTo(message);
        foreach (var u in units)
            u.Heard(text);
        Run(Happening.Told);
    }

    private bool ZoneMoved => what == Happening.Zone || what == Happening.Press && (whatPress is PressKind.Pressed or PressKind.Released);

    // Each stimulus runs to completion in every part of the program.
    private void Run(Happening happening, int unit = -1, int activity = -1)
    {
        if (Finished || Fault is not null)
            return;
        what = happening;
        serial++;
        nextDue = -1;
        Guarded(happening, unit, activity, false);
        what = Happening.Nothing;
        // What is settled begins things too: a condition of “while here” that turns round.
        Guarded(happening, unit, activity, true);
        if (Finished)
            StopAtEnd();
    }

    // What never rests ends the machine with a fault in words, and nothing else.
    private void Guarded(Happening happening, int unit, int activity, bool settles)
    {
        string? fault;
        try
        {
            if (settles)
                Settle();
            else
                Complete(happening, unit, activity);
            return;
        }
        catch (EndlessLoop)
        {
            fault = LoopWords();
        }
        catch (OutOfSteps e) when (FaultsWhenSpent)
        {
            fault =
                $"The machine takes more than {e.Steps} steps. Something in it goes on and on: look for a repeat or an “every” that "
                + "never rests.";
        }
        catch (TooManyActions loop)
        {
            fault = ActionWords(loop.Unit, loop.Activity);
        }
        work.Clear();
        if (!settles || Fault is null)
            Fault = fault;
    }

    private void Complete(Happening happening, int unit, int activity)
    {
        Budget?.Spend();
        if (happening == Happening.Start)
        {
            units[unit].Begin();
            DoWork(0);
        }
        else if (unit >= 0)
        {
            units[unit].Ends(activity, happening == Happening.GaveUp);
            DoWork(0);
        }
        if (happening != Happening.Start)
            for (var i = 0; i < units.Length; i++)
                if (units[i].Active)
                    units[i].Fire();
        what = Happening.Nothing;
        // One part may have changed what another waits for. The limit of a moment ends what never rests.
        for (var changed = true; changed; )
        {
            changed = false;
            for (var i = 0; i < units.Length; i++)
                if (units[i].Active)
                    changed |= units[i].LookAgain();
        }
    }

    // When the program ends, what still moves is stopped; lamps stay as they are.
    private void StopAtEnd()
    {
        for (var d = 0; d < owner.Length; d++)
        {
            if (owner[d] is not (>= 0, >= 0) at || !script.Moves[d] || !units[at.Unit].IsGoing(at.Activity))
                continue;
            owner[d] = (-1, -1);
            commands.Add(new(NowMicros, 0, -3, d, 0, 0));
        }
    }

    // Whatever was begun in any part stops, and what was to follow it is dropped; the sentence that says so goes on.
    private void StopAll(int unit, int activity)
    {
        foreach (var u in units)
            u.StopAll(unit, activity);
        Array.Fill(owner, (-1, -1));
        Array.Clear(stopPending);
        Array.Clear(givenUp);
        Array.Fill(done, true);
    }

    private readonly record struct Work(int Unit, int Activity, int State);

    private sealed class TooManyActions(int unit, int activity) : Exception
    {
        public int Unit { get; } = unit;
        public int Activity { get; } = activity;
    }

    // Something new comes from outside, or time goes on: what is counted at one moment begins anew.
    private void NewMoment() => (transitionsNow, actionsNow) = (0, 0);

    // Begins what is to be begun, down to what waited before.
    private void DoWork(int floor)
    {
        while (work.Count > floor)
        {
            var next = work.Pop();
            if (units[next.Unit].IsDropped(next.Activity))
                continue;
            if (++actionsNow > MostActionsAtOnce)
                throw new TooManyActions(next.Unit, next.Activity);
            Budget?.Spend();
            units[next.Unit].Begin(next.Activity, next.State);
        }
    }

    private void Took(int unit, int transition)
    {
        lately[transitionsNow % lately.Length] = (unit, transition);
        Budget?.Spend();
        if (++transitionsNow > MostTransitionsAtOnce)
            throw new EndlessLoop([]);
    }

    // The shortest round that the last transitions repeat, told from its first in the document on.
    private string LoopWords()
    {
        var n = Math.Min(transitionsNow, lately.Length);
        var last = Enumerable.Range(0, n).Select(i => lately[(transitionsNow - n + i) % lately.Length]).ToArray();
        var round = last;
        for (var length = 1; length <= n / 2; length++)
        {
            var repeats = true;
            for (var i = 0; i < length && repeats; i++)
                repeats = last[n - 1 - i] == last[n - 1 - i - length];
            if (!repeats)
                continue;
            round = last[(n - length)..];
            break;
        }
        // A routine that is done over and over is named by the repeat that does it.
        if (round.Length > 0 && round.All(t => t.Unit > 0) && Repeat(round[0].Unit) is { } again)
            return $"Line {again.Span.Line}: “{Printer.Plain(Printer.Sentence(again))}” takes more than {MostTransitionsAtOnce} "
                + "transitions at one moment. Something that takes time must stand in the loop, or an end.";
        var first = round.Length == 0 ? 0 : Array.IndexOf(round, round.Min());
        var told = round[first..].Concat(round[..first]).ToArray();
        var names = told.Select(t => units[t.Unit].SourceName(t.Transition)).Where(x => x != "").Distinct().ToArray();
        var lines = told.Select(t => script.Units[t.Unit].Transitions[t.Transition].Node?.Span.Line ?? 0)
            .Where(l => l > 0)
            .Distinct()
            .Order()
            .ToArray();
        var at =
            lines.Length == 0
                ? ""
                : $" ({(lines.Length == 1 ? "line" : "lines")} " + $"{Quantities.Figures.List(lines.Take(6).Select(l => $"{l}"))})";
        return names.Length == 1
            ? $"“{names[0]}” goes round in a loop without time passing: it sets itself off again and again{at}."
            : "The machine goes round in a loop without time passing, through "
                + $"{Quantities.Figures.List(names.Take(6).Select(x => $"“{x}”"))}{at}.";
    }

    private ActionNode? Repeat(int unit)
    {
        ActionNode? found = null;
        for (var (u, a) = units[unit].Caller; u >= 0 && a >= 0; )
        {
            var x = script.Units[u].Activities[a];
            if (x.Kind == DoKind.Repeat)
                found = x.Node;
            if (x.Parent >= 0)
                a = x.Parent;
            else
                (u, a) = units[u].Caller;
        }
        return found;
    }

    // Too much at once is named by the outermost repeat it stands in, else by the sentence itself.
    private string ActionWords(int unit, int activity)
    {
        ActionNode? named = null;
        for (var (u, a) = (unit, activity); u >= 0 && a >= 0; )
        {
            var x = script.Units[u].Activities[a];
            if (x.Node is { } node && (x.Kind == DoKind.Repeat || named is null))
                named = node;
            if (x.Parent >= 0)
                a = x.Parent;
            else
                (u, a) = units[u].Caller;
        }
        var line = named?.Span.Line ?? 0;
        return $"{(line > 0 ? $"Line {line}: " : "")}“{(named is null ? "This" : Printer.Plain(Printer.Sentence(named)))}” does more "
            + $"than {MostActionsAtOnce} things at one moment. Something that takes time must stand in the loop, or an end.";
    }

    private void Settle()
    {
        // Conditions are judged first: what they end stops at this moment too.
        foreach (var u in units)
            if (u.Active)
                u.Refresh();
        // What a left state ran stops, unless something else commands it now; an outer state's command comes back.
        for (var d = 0; d < stopPending.Length; d++)
        {
            if (!stopPending[d])
                continue;
            stopPending[d] = false;
            var resumed = false;
            foreach (var u in units)
                if (u.Active && u.Resume(d))
                {
                    resumed = true;
                    break;
                }
            if (resumed)
                continue;
            owner[d] = (-1, -1);
            commands.Add(new(NowMicros, 0, -1, d, 0, 0));
        }
    }

    internal void Finish() => Finished = true;

    internal void Overflow(int queue) =>
        Fault ??= $"The queue “{script.Queues[queue]}” is full: {MostQueued} values wait in it and nobody takes them.";

    // ---- what expressions see ----

    internal double LatestReading(int sensor) => readings[sensor];

    internal int ZoneHeld(int tracker) => held[tracker];

    internal double Travel(int device) => travel[device];

    internal double Angle(int device) => angle[device];

    internal bool IsDone(int device) => done[device];

    internal bool HasGivenUp(int device) => givenUp[device];

    internal bool AllDone => judging is { } u && u.AllDone(judgingNode);

    internal int QueueLength(int queue) => queueCounts[queue];

    internal bool QueueHolds(int queue, double value) => queues[queue].AsSpan(0, queueCounts[queue]).Contains(value);

    /// <summary>The nodes of a state in each part of the program; null for parts that do not know it.</summary>
    internal int[]?[] PlacesOf(string region, string state) => [.. units.Select(u => u.Unit.Places.GetValueOrDefault((region, state)))];

    internal bool IsIn(int[]?[] places)
    {
        // First the part that asks, then the others.
        if (judging is { } own && places[own.Index] is { } known)
            return own.IsIn(known);
        for (var u = 0; u < units.Length; u++)
            if (units[u].Active && places[u] is { } there && units[u].IsIn(there))
                return true;
        return false;
    }

    internal double NextRandom()
    {
        random ^= random << 13;
        random ^= random >> 7;
        random ^= random << 17;
        return (random >> 11) * (1.0 / (1UL << 53));
    }
}
