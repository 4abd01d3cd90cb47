using System.Buffers.Binary;

namespace Chiton.Core.Programs.Engine;

/// <summary>Bytes that a machine is kept in, written and read in one order.</summary>
internal sealed class Pack
{
    private byte[] bytes = new byte[512];

    /// <summary>How many have been written.</summary>
    public int Length { get; private set; }

    /// <summary>Where it is read next.</summary>
    public int At { get; set; }

    /// <summary>What was written.</summary>
    public ReadOnlySpan<byte> Bytes => bytes.AsSpan(0, Length);

    /// <summary>Begins anew.</summary>
    public void Clear() => (Length, At) = (0, 0);

    /// <summary>Takes in what was kept, to be read.</summary>
    public void Take(ReadOnlySpan<byte> kept)
    {
        Room(kept.Length);
        kept.CopyTo(bytes);
        (Length, At) = (kept.Length, 0);
    }

    private void Room(int more)
    {
        if (Length + more > bytes.Length)
            Array.Resize(ref bytes, Math.Max(bytes.Length * 2, Length + more));
    }

    /// <summary>Writes a small whole number, from −1 on.</summary>
    public void Put(int value)
    {
        Room(5);
        var v = (uint)(value + 1);
        for (; v >= 0x80; v >>= 7)
            bytes[Length++] = (byte)(v | 0x80);
        bytes[Length++] = (byte)v;
    }

    /// <summary>Reads it.</summary>
    public int Next()
    {
        uint v = 0;
        for (var shift = 0; ; shift += 7)
        {
            var b = bytes[At++];
            v |= (uint)(b & 0x7F) << shift;
            if (b < 0x80)
                return (int)v - 1;
        }
    }

    /// <summary>Writes a set of bits.</summary>
    public void Bits(ulong value)
    {
        Room(8);
        BinaryPrimitives.WriteUInt64LittleEndian(bytes.AsSpan(Length), value);
        Length += 8;
    }

    /// <summary>Reads it.</summary>
    public ulong NextBits()
    {
        At += 8;
        return BinaryPrimitives.ReadUInt64LittleEndian(bytes.AsSpan(At - 8));
    }

    /// <summary>Writes a number.</summary>
    public void Number(double value) => Bits((ulong)BitConverter.DoubleToInt64Bits(value));

    /// <summary>Reads it.</summary>
    public double NextNumber() => BitConverter.Int64BitsToDouble((long)NextBits());
}

// A machine kept and brought back, for looking at all that may ever happen. Kept is what matters from here on, in one
// form: of times only which of those begun in one step comes first, never how long they take.
public sealed partial class ScriptMachine
{
    // The clock of every such step: what is due before it is over, and what was begun in a step lies within GroupMicros after it.
    private const long StepMicros = 4_000_000_000_000_000,
        GroupMicros = 2_000_000_000_000_000;

    // Since when something has held that held before this step.
    private const long LongAgo = 0;

    private const int MostGroups = 2000;

    private const long NoTap = long.MinValue / 2;

    // Which state a number of the tables belongs to, to leave out what cannot matter.
    private bool keepsEnded;
    private bool[] asksDone = [],
        asksGivenUp = [],
        asksTwice = [];
    private readonly List<(UnitRun Unit, bool IsTransition, int Index, long Due)> armed = [];
    private readonly List<long> groups = [],
        dues = [];
    private readonly List<long> serials = [];

    /// <summary>For showing that it is noticed: which of the times of one step comes first is not kept.</summary>
    internal bool ForgetsTimes { get; set; }

    /// <summary>Begins to be kept and brought back: looks up what its program asks for.</summary>
    internal void PrepareToKeep()
    {
        (asksDone, asksGivenUp) = (new bool[script.Devices.Length], new bool[script.Devices.Length]);
        asksTwice = new bool[script.Sensors.Length];
        foreach (var t in script.Units.SelectMany(u => u.Transitions))
            if (t is { Kind: FireKind.Press, Press: Language.PressKind.TappedTwice })
                asksTwice[t.Sensor] = true;
        foreach (var code in script.AllCodes)
            switch (code)
            {
                case Done d:
                    asksDone[d.Device] = true;
                    break;
                case GivenUp g:
                    asksGivenUp[g.Device] = true;
                    break;
                case Engine.AllDone:
                    keepsEnded = true;
                    break;
            }
    }

    /// <summary>Times that run: which, and when they are due on the clock of a step.</summary>
    internal void Times(List<(int Unit, bool IsTransition, int Index, long Due)> into)
    {
        into.Clear();
        foreach (var u in units)
            u.Times(into);
    }

    /// <summary>How long a time that was begun in this step takes, µs; null for one that ran before, below zero where nobody
    /// knows.</summary>
    internal static long? Begun(long due) =>
        due / GroupMicros == StepMicros / GroupMicros ? due - StepMicros
        : due / GroupMicros >= MostGroups / 2 ? -1
        : null;

    /// <summary>The number of the group that a time runs in.</summary>
    internal static long GroupOf(long due) => due / GroupMicros;

    /// <summary>Writes all that matters from here on.</summary>
    internal void Keep(Pack to)
    {
        to.Clear();
        to.Put(
            Finished ? 1
            : Fault is not null ? 2
            : 0
        );
        // What ended, or was stopped, stays where it is.
        if (Finished || Fault is not null)
        {
            units[0].KeepPlaces(to);
            return;
        }
        for (var s = 0; s < script.Sensors.Length; s++)
        {
            to.Put(
                (known[s] ? 1 : 0)
                    | (silent[s] ? 2 : 0)
                    | (blind[s] ? 4 : 0)
                    | (down[s] ? 8 : 0)
                    | (looks[s].CannotTell ? 16 : 0)
                    | (looks[s].Going ? 32 : 0)
                    | (zoneSince[s] < 0 ? 64 : 0)
                    | (asksTwice[s] && lastTap[s] != NoTap ? 128 : 0)
            );
            if (Vague!.Readings[s] is not null)
                to.Number(readings[s]);
        }
        foreach (var h in held)
            to.Put(h);
        foreach (var s in side)
            to.Put(s);
        for (var v = 0; v < Variables.Length; v++)
            if (Vague!.Slots[v] is not null || Vague.Exact[v] && !script.IsFixed[v])
                to.Number(Variables[v]);
        for (var q = 0; q < queues.Length; q++)
        {
            to.Put(queueCounts[q]);
            for (var i = 0; i < queueCounts[q]; i++)
                to.Number(queues[q][i]);
        }
        for (var d = 0; d < owner.Length; d++)
        {
            to.Put(owner[d].Unit);
            to.Put(owner[d].Activity);
            to.Put((asksDone[d] && done[d] ? 1 : 0) | (asksGivenUp[d] && givenUp[d] ? 2 : 0));
            if (Vague!.Travels[d] is not null)
                to.Number(travel[d]);
            if (Vague.Angles[d] is not null)
                to.Number(angle[d]);
        }
        armed.Clear();
        serials.Clear();
        foreach (var u in units)
            u.Keep(to);
        // Presses and entries by their order.
        for (var s = 0; s < down.Length; s++)
            if (down[s])
                serials.Add(downSerial[s]);
        serials.Sort();
        for (var s = 0; s < down.Length; s++)
            if (down[s])
                to.Put(Rank(serials, downSerial[s]));
        foreach (var u in units)
            u.KeepEntries(to);
        // Times: those of one step by which is due first.
        groups.Clear();
        foreach (var (_, _, _, due) in armed)
            if (!groups.Contains(due / GroupMicros))
                groups.Add(due / GroupMicros);
        foreach (var (_, _, _, due) in armed)
        {
            var group = due / GroupMicros;
            to.Put(ForgetsTimes ? armed.FindIndex(a => a.Due == due) : groups.IndexOf(group));
            dues.Clear();
            foreach (var (_, _, _, other) in armed)
                if (other / GroupMicros == group && !dues.Contains(other))
                    dues.Add(other);
            dues.Sort();
            to.Put(ForgetsTimes ? 0 : dues.IndexOf(due));
        }
    }

    private static int Rank(List<long> sorted, long value)
    {
        var rank = 0;
        for (var i = 0; i < sorted.Count && sorted[i] != value; i++)
            if (i == 0 || sorted[i] != sorted[i - 1])
                rank++;
        return rank;
    }

    /// <summary>Brings back what was kept, at the clock of a step.</summary>
    internal void Bring(Pack from)
    {
        ClearCommands();
        work.Clear();
        NewMoment();
        (NowMicros, serial, nextDue, what) = (StepMicros, 1000, -1, Happening.Nothing);
        var state = from.Next();
        (Finished, Fault) = (state == 1, state == 2 ? "stopped" : null);
        if (state != 0)
        {
            units[0].BringPlaces(from);
            return;
        }
        for (var s = 0; s < script.Sensors.Length; s++)
        {
            var bits = from.Next();
            (known[s], silent[s], blind[s], down[s]) = ((bits & 1) != 0, (bits & 2) != 0, (bits & 4) != 0, (bits & 8) != 0);
            ref var look = ref looks[s];
            (look.CannotTell, look.Going, look.Count, look.Sum) = ((bits & 16) != 0, (bits & 32) != 0, 0, 0);
            look.Taught?.Clear();
            zoneSince[s] = (bits & 64) != 0 ? -1 : LongAgo;
            readings[s] = Vague!.Readings[s] is not null ? from.NextNumber() : double.NaN;
            (lastTap[s], downSince[s]) = ((bits & 128) != 0 ? LongAgo : NoTap, long.MinValue / 2);
        }
        for (var i = 0; i < held.Length; i++)
        {
            held[i] = from.Next();
            followers[i] = ZoneTrackerAt(script.Trackers[i].Sensor, held[i]);
        }
        for (var i = 0; i < side.Length; i++)
            (side[i], crossing[i]) = ((sbyte)from.Next(), 0);
        for (var v = 0; v < Variables.Length; v++)
            if (Vague!.Slots[v] is not null || Vague.Exact[v] && !script.IsFixed[v])
                Variables[v] = from.NextNumber();
            else if (!Vague.Exact[v])
                Variables[v] = double.NaN;
        for (var q = 0; q < queues.Length; q++)
        {
            queueCounts[q] = from.Next();
            for (var i = 0; i < queueCounts[q]; i++)
                queues[q][i] = from.NextNumber();
        }
        for (var d = 0; d < owner.Length; d++)
        {
            owner[d] = (from.Next(), from.Next());
            var bits = from.Next();
            (done[d], givenUp[d], stopPending[d]) = ((bits & 1) != 0, (bits & 2) != 0, false);
            travel[d] = Vague!.Travels[d] is not null ? from.NextNumber() : double.NaN;
            angle[d] = Vague.Angles[d] is not null ? from.NextNumber() : double.NaN;
        }
        armed.Clear();
        foreach (var u in units)
            u.Bring(from);
        for (var s = 0; s < down.Length; s++)
            if (down[s])
                downSerial[s] = 10 + from.Next();
        foreach (var u in units)
            u.BringEntries(from);
        for (var i = 0; i < armed.Count; i++)
        {
            var (unit, isTransition, index, _) = armed[i];
            var (group, rank) = (from.Next(), from.Next());
            unit.SetDue(isTransition, index, StepMicros + GroupMicros * (group + 2) + rank);
        }
    }

    private static Sensing.ZoneTracker ZoneTrackerAt(int sensor, int zone) =>
        zone < 0 ? Sensing.ZoneTracker.Unread : Sensing.ZoneTracker.At(zone);

    /// <summary>How many groups of times are running: those begun in one step are one.</summary>
    internal int RunningTimes(Span<long> first)
    {
        var n = 0;
        foreach (var u in units)
            u.EarliestTimes(first, ref n);
        return n;
    }

    /// <summary>The time of a group is up: whatever of it is due first happens, in the engine's order.</summary>
    /// <param name="group">Its number: its earliest due time over the length of a group.</param>
    internal void LetPass(long group)
    {
        var first = long.MaxValue;
        foreach (var u in units)
            first = Math.Min(first, u.Earliest(group * GroupMicros, (group + 1) * GroupMicros));
        foreach (var u in units)
            u.Make(first, StepMicros);
        nextDue = -1;
        NewMoment();
        Pass(StepMicros);
    }

    /// <summary>A button comes up, soon after it went down or later.</summary>
    /// <param name="sensor">Which button.</param>
    /// <param name="soon">True when that is a tap.</param>
    /// <param name="again">True when it is the second in a row.</param>
    internal void ComesUp(int sensor, bool soon, bool again)
    {
        if (soon)
            downSince[sensor] = NowMicros;
        lastTap[sensor] = again ? NowMicros : NoTap;
        SeeZone(sensor, script.ZoneIndex("up"));
    }

    /// <summary>True when a button was tapped once, so that the next tap may be the second.</summary>
    internal bool WasTapped(int sensor) => lastTap[sensor] != NoTap;

    /// <summary>True when a device has a command in hand that ends by itself, however long that takes.</summary>
    internal bool MayEnd(int device) =>
        owner[device] is (>= 0, >= 0) at
        && units[at.Unit].IsFiniteMove(at.Activity)
        && script.Units[at.Unit].Activities[at.Activity] is { Lasts: null } or { Limited: true };

    /// <summary>True when a device is being driven.</summary>
    internal bool IsDriven(int device) => owner[device] is (>= 0, >= 0) at && units[at.Unit].IsGoing(at.Activity);

    /// <summary>Nodes of the program's own chart that are active, in document order.</summary>
    internal int ActiveNodes(Span<int> into) => units[0].ActiveNodes(into);

    /// <summary>The state of the program's own chart in which a command was given, through all routines; −1 where none is.</summary>
    internal int HomeOf((int Unit, int Activity) command)
    {
        var (unit, activity) = command;
        for (; unit > 0; (unit, activity) = units[unit].Caller)
            if (units[unit].Caller.Unit < 0)
                return -1;
        return activity < 0 ? -1 : units[0].StartedBy(activity);
    }

    /// <summary>True while a node of the program's own chart is active.</summary>
    internal bool IsActive(int node) => units[0].IsActive(node);

    /// <summary>True when a state has a command in hand that goes on by itself for ever.</summary>
    internal bool RunsOnIn(int node) => units[0].RunsOnIn(node);

    private sealed partial class UnitRun
    {
        private long UnknownTime(Vague v) => GroupMicros * (MostGroups / 2 + ++v.Unknowns % 200);

        // Since when a zone has held that held before: long enough, or only just; both may be.
        private long Since(long since) => m.Vague is { } v && since == LongAgo ? (v.Choose(2) == 0 ? m.NowMicros : LongAgo) : since;

        private long DueOfHold(int t, Code time) =>
            m.Vague is null ? since[t] + Micros(time)
            : since[t] == LongAgo ? LongAgo
            : transitionDue[t] != long.MaxValue ? transitionDue[t]
            : m.NowMicros + Micros(time);

        public void KeepPlaces(Pack to)
        {
            foreach (var word in chart.Save())
                to.Bits(word);
        }

        public void BringPlaces(Pack from)
        {
            var saved = new ulong[chart.Save().Length];
            for (var i = 0; i < saved.Length; i++)
                saved[i] = from.NextBits();
            chart.Restore(saved);
        }

        public int ActiveNodes(Span<int> into) => chart.Active(into);

        public int StartedBy(int activity) => startedBy[activity];

        public void Times(List<(int, bool, int, long)> into)
        {
            foreach (var a in ends.Items)
                into.Add((Index, false, a, activityDue[a]));
            foreach (var t in timers.Items)
                into.Add((Index, true, t, transitionDue[t]));
        }

        public bool IsActive(int node) => chart.IsActive(node);

        public bool RunsOnIn(int node)
        {
            for (var a = 0; a < status.Length; a++)
                if (status[a] == Status.Going && startedBy[a] == node && Unit.Activities[a] is { Kind: DoKind.Move, Finite: false })
                    return true;
            return false;
        }

        private bool IsKept(int a) =>
            status[a] == Status.Going
            || status[a] != Status.Idle
                && (Unit.Activities[a].Parent is >= 0 and var p && status[p] == Status.Going || m.keepsEnded && Unit.HomeActive(a, chart));

        public void Keep(Pack to)
        {
            to.Put(Active ? 1 : 0);
            to.Put(callerUnit);
            to.Put(caller);
            if (Active)
                chart.Keep(to);
            for (var a = 0; a < status.Length; a++)
            {
                if (!IsKept(a))
                    continue;
                to.Put(a);
                to.Put((int)status[a] | (detached[a] ? 8 : 0) | (orphan[a] ? 16 : 0));
                to.Put(next[a]);
                if (status[a] != Status.Going)
                    continue;
                to.Put(startedBy[a]);
                if (Unit.Activities[a].Kind == DoKind.Repeat)
                    to.Put(rounds[a]);
                to.Put(activityDue[a] == long.MaxValue ? 0 : 1);
                if (activityDue[a] != long.MaxValue)
                    m.armed.Add((this, false, a, activityDue[a]));
            }
            to.Put(-1);
            if (!Active)
                return;
            for (var node = 1; node < Unit.Nodes.Length; node++)
            {
                if (!chart.IsActive(node))
                    continue;
                foreach (var t in Unit.Nodes[node].Transitions)
                {
                    var x = Unit.Transitions[t];
                    to.Put(
                        (x.IsLevel && spent[t] ? 1 : 0)
                            | (transitionDue[t] != long.MaxValue ? 2 : 0)
                            | (since[t] < 0 ? 4 : 0)
                            | (since[t] == LongAgo ? 8 : 0)
                    );
                    if (x.Counts)
                        to.Put(Math.Min(counted[t], x.Needed));
                    if (x.HoldFor is not null && x.Kind is FireKind.Edge or FireKind.Leave)
                    {
                        to.Put(edgeFrom[t]);
                        to.Put(edgeTo[t]);
                    }
                    if (transitionDue[t] != long.MaxValue)
                        m.armed.Add((this, true, t, transitionDue[t]));
                    if (
                        x is { Kind: FireKind.Press, Press: Language.PressKind.Tapped or Language.PressKind.TappedTwice }
                        && m.down[x.Sensor]
                    )
                        m.serials.Add(entered[node]);
                }
            }
        }

        public void KeepEntries(Pack to)
        {
            if (!Active)
                return;
            for (var node = 1; node < Unit.Nodes.Length; node++)
                if (chart.IsActive(node) && AsksTaps(node))
                    to.Put(Rank(m.serials, entered[node]));
        }

        private bool AsksTaps(int node)
        {
            foreach (var t in Unit.Nodes[node].Transitions)
                if (
                    Unit.Transitions[t] is { Kind: FireKind.Press, Press: Language.PressKind.Tapped or Language.PressKind.TappedTwice } x
                    && m.down[x.Sensor]
                )
                    return true;
            return false;
        }

        public void Bring(Pack from)
        {
            Active = from.Next() == 1;
            (callerUnit, caller) = (from.Next(), from.Next());
            Array.Clear(status);
            foreach (var a in ends.Items)
                activityDue[a] = long.MaxValue;
            foreach (var t in timers.Items)
                transitionDue[t] = long.MaxValue;
            ends.Clear();
            timers.Clear();
            watching.Clear();
            lasting.Clear();
            if (Active)
                chart.Bring(from);
            else
                chart.Forget();
            while (from.Next() is >= 0 and var a)
            {
                var bits = from.Next();
                (status[a], detached[a], orphan[a]) = ((Status)(bits & 7), (bits & 8) != 0, (bits & 16) != 0);
                next[a] = from.Next();
                if (status[a] != Status.Going)
                    continue;
                startedBy[a] = from.Next();
                var x = Unit.Activities[a];
                if (x.Kind == DoKind.Repeat)
                    rounds[a] = from.Next();
                if (x.Kind == DoKind.Move && !x.Finite || x.Judged)
                    lasting.AddInOrder(a);
                if (from.Next() == 1)
                    m.armed.Add((this, false, a, 0));
            }
            if (!Active)
                return;
            for (var node = 1; node < Unit.Nodes.Length; node++)
            {
                if (!chart.IsActive(node))
                    continue;
                entered[node] = 0;
                foreach (var t in Unit.Nodes[node].Transitions)
                {
                    var x = Unit.Transitions[t];
                    var bits = from.Next();
                    (spent[t], edgeFired[t], counted[t]) = ((bits & 1) != 0, false, 0);
                    since[t] =
                        (bits & 4) != 0 ? -1
                        : (bits & 8) != 0 ? LongAgo
                        : 1;
                    if (x.Counts)
                        counted[t] = from.Next();
                    if (x.Watches)
                        watching.Add(t);
                    if (x.Kind is FireKind.Edge or FireKind.Leave)
                    {
                        edges[t] = m.followers[x.Sensor];
                        if (x.HoldFor is not null)
                            (edgeFrom[t], edgeTo[t]) = (from.Next(), from.Next());
                        else
                            (edgeFrom[t], edgeTo[t]) = (m.held[x.Sensor], m.held[x.Sensor]);
                    }
                    if ((bits & 2) != 0)
                        m.armed.Add((this, true, t, 0));
                }
            }
        }

        public void BringEntries(Pack from)
        {
            if (!Active)
                return;
            for (var node = 1; node < Unit.Nodes.Length; node++)
                if (chart.IsActive(node) && AsksTaps(node))
                    entered[node] = 10 + from.Next();
        }

        public void SetDue(bool isTransition, int index, long due)
        {
            if (isTransition)
                Arm(index, due);
            else
                EndsAt(index, due);
        }

        // Of each group the earliest time, as its number.
        public void EarliestTimes(Span<long> into, ref int n)
        {
            foreach (var a in ends.Items)
                Note(activityDue[a] / GroupMicros, into, ref n);
            foreach (var t in timers.Items)
                Note(transitionDue[t] / GroupMicros, into, ref n);
        }

        private static void Note(long group, Span<long> into, ref int n)
        {
            if (n < into.Length && !into[..n].Contains(group))
                into[n++] = group;
        }

        public long Earliest(long from, long to)
        {
            var first = long.MaxValue;
            foreach (var a in ends.Items)
                if (activityDue[a] >= from && activityDue[a] < to)
                    first = Math.Min(first, activityDue[a]);
            foreach (var t in timers.Items)
                if (transitionDue[t] >= from && transitionDue[t] < to)
                    first = Math.Min(first, transitionDue[t]);
            return first;
        }

        public void Make(long due, long now)
        {
            foreach (var a in ends.Items)
                if (activityDue[a] == due)
                    activityDue[a] = now;
            foreach (var t in timers.Items)
                if (transitionDue[t] == due)
                    transitionDue[t] = now;
        }
    }
}
