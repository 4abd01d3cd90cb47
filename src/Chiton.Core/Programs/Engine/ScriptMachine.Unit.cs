using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

public sealed partial class ScriptMachine
{
    /// <summary>A running program or routine.</summary>
    private sealed partial class UnitRun : IChartHost
    {
        private enum Status : byte
        {
            Idle,
            Going,
            Ended,
            Dropped,
        }

        private readonly ScriptMachine m;
        private readonly ChartMachine chart;
        private readonly Status[] status;
        private readonly int[] next,
            rounds,
            startedBy;
        private readonly long[] activityDue,
            transitionDue;
        private readonly bool[] spent,
            detached,
            orphan,
            edgeFired;
        private readonly ZoneTracker[] edges;

        // Of a transition whose condition must hold for a time: since when it does, µs, −1 while it does not; of an edge the zone
        // that it holds and the one that it may change to.
        private readonly long[] since;
        private readonly int[] edgeFrom,
            edgeTo;
        private readonly int[] counted;
        private readonly long[] entered;
        private readonly int[] scratch;
        private readonly double[] lastValue,
            lastSecond;

        // What is active only: a step costs what goes on, however large the program is.
        private readonly ActiveSet timers,
            ends,
            watching,
            lasting;
        private int caller = -1,
            callerUnit = -1;
        private bool changed;

        public UnitRun(ScriptMachine machine, ScriptUnit unit, int index)
        {
            (m, Unit, Index) = (machine, unit, index);
            chart = new(unit.Chart, this);
            var (a, t, n) = (unit.Activities.Length, unit.Transitions.Length, unit.Nodes.Length);
            (status, next, rounds, startedBy, activityDue, detached, orphan, lastValue, lastSecond) = (
                new Status[a],
                new int[a],
                new int[a],
                new int[a],
                new long[a],
                new bool[a],
                new bool[a],
                new double[a],
                new double[a]
            );
            (edges, edgeFired) = (new ZoneTracker[t], new bool[t]);
            (since, edgeFrom, edgeTo) = (new long[t], new int[t], new int[t]);
            (spent, counted, transitionDue, entered, scratch) = (new bool[t], new int[t], new long[t], new long[n], new int[n]);
            (timers, ends, watching, lasting) = (new(t), new(a), new(t), new(a));
        }

        public ScriptUnit Unit { get; }

        public int Index { get; }

        public bool Active { get; private set; }

        /// <summary>The activity that called this routine; −1 for the program.</summary>
        public (int Unit, int Activity) Caller => (callerUnit, caller);

        // What each edge sentence would hold had it always been waited for; null where that does not count.
        private ZoneTracker[]? always;

        public void Clear()
        {
            if (m.EdgesFromStart)
                Array.Fill(always ??= new ZoneTracker[edges.Length], ZoneTracker.Unread);
            Active = false;
            Array.Clear(status);
            Array.Clear(detached);
            Array.Clear(orphan);
            Array.Fill(startedBy, -1);
            Array.Fill(activityDue, long.MaxValue);
            Array.Fill(transitionDue, long.MaxValue);
            timers.Clear();
            ends.Clear();
            watching.Clear();
            lasting.Clear();
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
            if (!Active)
                return;
            var before = m.judging;
            m.judging = this;
            chart.Stop();
            m.judging = before;
            for (var i = 0; i < status.Length; i++)
                if (status[i] == Status.Going)
                    Drop(i, true);
            Active = false;
        }

        /// <summary>The state that did this routine was left: its states are left, its moves in hand go on, nothing more begins.</summary>
        public void Leave()
        {
            if (!Active)
                return;
            var before = m.judging;
            m.judging = this;
            chart.Stop();
            m.judging = before;
            for (var i = 0; i < status.Length; i++)
                if (status[i] == Status.Going)
                    Detach(i);
            Active = false;
        }

        public void Fire()
        {
            var before = m.judging;
            m.judging = this;
            chart.Fire();
            m.judging = before;
            m.DoWork(0);
        }

        // True when something was taken.
        public bool LookAgain()
        {
            changed = false;
            var before = m.judging;
            m.judging = this;
            chart.Look();
            m.judging = before;
            m.DoWork(0);
            return changed;
        }

        public long NextDue
        {
            get
            {
                var due = long.MaxValue;
                foreach (var a in ends.Items)
                    due = Math.Min(due, activityDue[a]);
                foreach (var t in timers.Items)
                    due = Math.Min(due, transitionDue[t]);
                return due;
            }
        }

        public int DueActivity(long now) => Earliest(ends.Items, activityDue, now);

        public int DueTransition(long now)
        {
            var t = Earliest(timers.Items, transitionDue, now);
            if (t < 0)
                return t;
            var transition = Unit.Transitions[t];
            if (transition is { HoldFor: not null, Kind: FireKind.Edge or FireKind.Leave })
            {
                // The zone has held for its time: it is the one that this sentence holds now.
                edgeFired[t] = (transition.Kind == FireKind.Leave ? edgeFrom[t] : edgeTo[t]) == transition.Zone;
                edgeFrom[t] = edgeTo[t];
            }
            if (m.Vague is not null && transition is { HoldFor: not null, IsLevel: true })
                since[t] = LongAgo;
            Arm(t, transition.Kind == FireKind.Every ? transitionDue[t] + Math.Max(1000, Micros(transition.Time!)) : long.MaxValue);
            return t;
        }

        // The earliest by due time, then in document order.
        private static int Earliest(ReadOnlySpan<int> items, long[] due, long now)
        {
            var best = -1;
            foreach (var i in items)
                if (due[i] <= now && (best < 0 || due[i] < due[best] || due[i] == due[best] && i < best))
                    best = i;
            return best;
        }

        private void Arm(int t, long due)
        {
            transitionDue[t] = due;
            if (due == long.MaxValue)
                timers.Remove(t);
            else
                timers.Add(t);
        }

        private void EndsAt(int a, long due)
        {
            activityDue[a] = due;
            if (due == long.MaxValue)
                ends.Remove(a);
            else
                ends.Add(a);
        }

        private long Micros(Code time)
        {
            var seconds = time.Eval(m);
            return m.Vague is { } v && double.IsNaN(seconds) ? UnknownTime(v) : (long)Math.Round(Math.Clamp(seconds, 0, 1e9) * 1e6);
        }

        // A button that is held: its time counts from the press, and is forgotten once it comes up.
        public void Pressed(int sensor, bool isDown)
        {
            if (!Active)
                return;
            foreach (var t in watching.Items)
                if (Unit.Transitions[t] is { Kind: FireKind.Press } x && x.Sensor == sensor)
                    Arm(t, isDown ? m.NowMicros + Micros(x.Time!) : long.MaxValue);
        }

        // Each edge sentence of an active state counts for itself since the state was entered.
        public bool SenseEdges(int sensor, ZoneScale scale, double reading, int[] names)
        {
            var any = false;
            if (always is not null)
                for (var t = 0; t < always.Length; t++)
                    if (Unit.Transitions[t] is { Kind: FireKind.Edge or FireKind.Leave } waited && waited.Sensor == sensor)
                        always[t].Take(scale, reading, waited.Needed);
            foreach (var t in watching.Items)
            {
                if (Unit.Transitions[t] is not { Kind: FireKind.Edge or FireKind.Leave } x || x.Sensor != sensor)
                    continue;
                var before = edges[t].Held;
                if (!edges[t].TakeEdge(scale, reading, x.Needed))
                    continue;
                if (x.HoldFor is not null)
                {
                    Turn(t, names[edges[t].Held]);
                    continue;
                }
                any = true;
                edgeFired[t] = x.Kind == FireKind.Leave ? before >= 0 && names[before] == x.Zone : names[edges[t].Held] == x.Zone;
            }
            return any;
        }

        /// <summary>The same for a reading of which only the zone is known; −1 for none.</summary>
        public void SenseZone(int sensor, int zone)
        {
            foreach (var t in watching.Items)
            {
                if (Unit.Transitions[t] is not { Kind: FireKind.Edge or FireKind.Leave } x || x.Sensor != sensor)
                    continue;
                var before = edges[t].Held;
                if (!edges[t].TakeZone(zone, x.Needed))
                    continue;
                if (x.HoldFor is not null)
                    Turn(t, zone);
                else
                    edgeFired[t] = (x.Kind == FireKind.Leave ? before : zone) == x.Zone;
            }
        }

        /// <summary>A sensor has come into a zone: sentences that want it to stay there begin to count.</summary>
        public void SeeEdges(int sensor, int zone)
        {
            if (!Active)
                return;
            foreach (var t in watching.Items)
                if (Unit.Transitions[t] is { Kind: FireKind.Edge or FireKind.Leave } x && x.Sensor == sensor)
                {
                    edges[t] = m.followers[sensor];
                    if (x.HoldFor is not null)
                        Turn(t, zone);
                }
        }

        /// <summary>What a sensor sees has another name from here on: no sentence saw anything change.</summary>
        public void NameEdges(int sensor)
        {
            foreach (var t in watching.Items)
                if (Unit.Transitions[t] is { Kind: FireKind.Edge or FireKind.Leave } x && x.Sensor == sensor)
                {
                    (edges[t], edgeFrom[t], edgeTo[t]) = (m.followers[sensor].Restarted, m.held[sensor], m.held[sensor]);
                    if (x.HoldFor is not null)
                        Arm(t, long.MaxValue);
                }
        }

        // The zone may become another one for a sentence, once it has held for its time.
        private void Turn(int t, int zone)
        {
            if (zone == edgeTo[t])
                return;
            edgeTo[t] = zone;
            // Nothing is left before the first reading: where it begins is at once the zone that can be left.
            if (edgeFrom[t] < 0 && Unit.Transitions[t].Kind == FireKind.Leave)
                edgeFrom[t] = zone;
            Arm(t, zone == edgeFrom[t] ? long.MaxValue : m.NowMicros + Micros(Unit.Transitions[t].HoldFor!));
        }

        /// <summary>A reading was lost or silent: what edges counted begins anew, the zones that they hold stay.</summary>
        public void MissEdges(int sensor)
        {
            foreach (var t in watching.Items)
                if (Unit.Transitions[t] is { Kind: FireKind.Edge or FireKind.Leave } x && x.Sensor == sensor)
                {
                    if (x.HoldFor is null)
                    {
                        edges[t] = edges[t].Restarted;
                        continue;
                    }
                    // The zone that it might have changed to begins anew.
                    (edges[t], edgeTo[t]) = (ZoneTracker.At(m.Followed(sensor, edgeFrom[t])), edgeFrom[t]);
                    Arm(t, long.MaxValue);
                }
        }

        public void ForgetEdges()
        {
            foreach (var t in watching.Items)
                edgeFired[t] = false;
        }

        // A dropout breaks every row of readings.
        public void Miss(int sensor)
        {
            foreach (var t in watching.Items)
                if (Unit.Transitions[t] is var x && x.Sensor == sensor)
                {
                    (counted[t], since[t]) = (0, -1);
                    if (x is { HoldFor: not null, IsLevel: true })
                        Arm(t, long.MaxValue);
                }
            MissEdges(sensor);
        }

        public void Heard(int text)
        {
            if (!Active)
                return;
            foreach (var t in timers.Items)
                if (Unit.Transitions[t] is { Kind: FireKind.Silence } x && (x.Text < 0 || x.Text == text))
                    transitionDue[t] = m.NowMicros + Micros(Unit.Transitions[t].Time!);
        }

        // ---- the chart's host ----

        bool IChartHost.Enabled(int t)
        {
            var x = Unit.Transitions[t];
            var fires = x.Kind switch
            {
                FireKind.Level or FireKind.Always => Rises(t, x, true),
                FireKind.Edge or FireKind.Leave when x.HoldFor is not null => Due(t) && edgeFired[t],
                FireKind.Edge when m.what == Happening.Sensed => edgeFired[t],
                FireKind.Leave when m.what == Happening.Sensed => edgeFired[t],
                FireKind.Edge => m.ZoneMoved && m.whatSensor == x.Sensor && m.held[x.Sensor] == x.Zone,
                FireKind.Leave => m.ZoneMoved && m.whatSensor == x.Sensor && m.zoneBefore == x.Zone,
                FireKind.Press => x.Press == PressKind.Held
                    ? Due(t)
                    : m.what == Happening.Press && m.whatSensor == x.Sensor && m.whatPress == x.Press && SinceEntry(t, x),
                FireKind.Stall => m.what == Happening.Stalled && m.whatDevice == x.Device,
                FireKind.GiveUp => m.what == Happening.GaveUp && m.whatDevice == x.Device,
                FireKind.Told => m.what == Happening.Told && m.whatText == x.Text && (x.From < 0 || x.From == m.whatFrom),
                _ => Due(t),
            };
            if (!fires)
                return false;
            if (x.Kind != FireKind.Told || x.Into.Length == 0)
                return GuardHolds(t);
            // What came with a message is there before the guard is asked, and gone again when the guard refuses.
            Span<double> kept = stackalloc double[m.message.Length];
            var n = Math.Min(x.Into.Length, m.messageCount);
            for (var i = 0; i < n; i++)
                if (x.Into[i] >= 0)
                    (kept[i], _) = (m.Variables[x.Into[i]], m.Put(x.Into[i], null, m.message[i]));
            if (GuardHolds(t))
                return true;
            for (var i = 0; i < n; i++)
                if (x.Into[i] >= 0)
                    m.Variables[x.Into[i]] = kept[i];
            return false;
        }

        // A tap counts only when the press before it lies in this state too.
        private bool SinceEntry(int t, ScriptTransition x) =>
            x.Press is PressKind.Pressed or PressKind.Released || m.downSerial[x.Sensor] > entered[Unit.Chart.SourceOf(t)];

        private bool Due(int t) => m.what == Happening.Timer && m.timerUnit == Index && m.timerTransition == t;

        bool IChartHost.EnabledNow(int t) => Rises(t, Unit.Transitions[t], false) && GuardHolds(t);

        private bool GuardHolds(int t)
        {
            if (Unit.Transitions[t].Guard is not { } guard)
                return true;
            m.judgingNode = Unit.Chart.SourceOf(t);
            return Code.Holds(guard.Eval(m));
        }

        // A level that holds and has not been taken already since it last did not.
        private bool Rises(int t, ScriptTransition x, bool byEvent)
        {
            m.judgingNode = Unit.Chart.SourceOf(t);
            var holds = Code.Holds(x.Condition!.Eval(m));
            if (x.Counts)
            {
                // It must hold for several readings in a row: each new one of its sensor counts.
                if (byEvent && (m.what is Happening.Reading or Happening.Zone or Happening.Sensed) && m.whatSensor == x.Sensor)
                    counted[t] = holds ? counted[t] + 1 : 0;
                holds = holds && counted[t] >= x.Needed;
            }
            if (x.HoldFor is { } time)
            {
                // After a lost reading it begins with the next one.
                if (!holds || x.Sensor >= 0 && m.zoneSince[x.Sensor] < 0)
                    since[t] = -1;
                else if (since[t] < 0)
                    // How long a zone has held counts from before the state was entered.
                    since[t] = x.Zone >= 0 ? Since(m.zoneSince[x.Sensor]) : m.NowMicros;
                var due = since[t] < 0 ? long.MaxValue : DueOfHold(t, time);
                holds = due <= m.NowMicros;
                if (!holds && transitionDue[t] != due)
                {
                    Arm(t, due);
                    m.nextDue = -1;
                }
            }
            if (!holds)
                spent[t] = false;
            return holds && !spent[t];
        }

        void IChartHost.Entered(int node)
        {
            changed = true;
            var info = Unit.Nodes[node];
            entered[node] = m.serial;
            foreach (var t in info.Transitions)
            {
                (spent[t], counted[t], edgeFired[t], since[t]) = (false, 0, false, -1);
                // What the actions of a transition did when this state was here before is not of this time.
                foreach (var root in Unit.Transitions[t].Roots)
                    if (status[root] is Status.Ended or Status.Dropped)
                        status[root] = Status.Idle;
                if (!Unit.Transitions[t].Watches)
                    continue;
                watching.Add(t);
                if (always is not null && Unit.Transitions[t].Kind is FireKind.Edge or FireKind.Leave)
                    (edges[t], edgeFrom[t], edgeTo[t]) = (always[t].Restarted, always[t].Held, always[t].Held);
                else if (Unit.Transitions[t] is { Kind: FireKind.Edge or FireKind.Leave, Sensor: var eye })
                    // It counts from the zone that the sensor is in now, whatever it waited for before.
                    (edges[t], edgeFrom[t], edgeTo[t]) = (m.followers[eye].Restarted, m.held[eye], m.held[eye]);
            }
            foreach (var root in info.Entry)
                Start(root, node);
            foreach (var root in info.While)
                Start(root, node);
            // Times count from entry, with the values variables have once the entry actions are done.
            foreach (var t in info.Transitions)
            {
                var x = Unit.Transitions[t];
                Arm(
                    t,
                    x.Kind switch
                    {
                        FireKind.After or FireKind.Silence => m.NowMicros + Micros(x.Time!),
                        FireKind.Every => m.NowMicros + Math.Max(1000, Micros(x.Time!)),
                        // A button that is down already was pressed before: held counts from the next press.
                        _ => long.MaxValue,
                    }
                );
            }
        }

        void IChartHost.Exited(int node)
        {
            changed = true;
            var info = Unit.Nodes[node];
            foreach (var t in info.Transitions)
            {
                Arm(t, long.MaxValue);
                watching.Remove(t);
            }
            foreach (var root in info.While)
                Drop(root, true);
            // What was begun runs on; what comes after it is dropped.
            foreach (var root in info.Entry)
                if (status[root] == Status.Going)
                    Detach(root);
            foreach (var t in info.Transitions)
            foreach (var root in Unit.Transitions[t].Roots)
                if (status[root] == Status.Going)
                    Detach(root);
            foreach (var t in info.Arriving)
            foreach (var root in Unit.Transitions[t].Roots)
                if (status[root] == Status.Going)
                    Detach(root);
            foreach (var root in info.Exit)
                Start(root, -1);
        }

        void IChartHost.Taken(int t)
        {
            changed = true;
            var x = Unit.Transitions[t];
            if (x.Node is null)
                return;
            if (x.IsLevel)
                spent[t] = true;
            if (x.Kind == FireKind.Told)
                for (var i = 0; i < x.Into.Length && i < m.messageCount; i++)
                    if (x.Into[i] < 0)
                        Push(~x.Into[i], m.message[i]);
            m.Took(Index, t);
            m.LastStep = m.script.FirstStep[Index] + t;
            m.Watcher?.Invoke(m.NowMicros, Index, t);
            foreach (var root in x.Roots)
                Start(root, Unit.Chart.SourceOf(t));
        }

        void IChartHost.Done(int node, int byFinal)
        {
            if (node != 1)
                return;
            if (Index == 0)
            {
                m.Finish();
                return;
            }
            Active = false;
            for (var i = 0; i < status.Length; i++)
                if (status[i] == Status.Going)
                    Detach(i);
            m.units[callerUnit].Ends(caller);
        }

        bool IChartHost.NextInternal() => false;

        // ---- for people ----

        public string SourceName(int transition) => Unit.Nodes[Unit.Chart.SourceOf(transition)].State?.Name ?? "";

        public IEnumerable<string> Configuration
        {
            get
            {
                var n = chart.Active(scratch);
                for (var i = 0; i < n; i++)
                    if (Unit.Chart.KindOf(scratch[i]) is NodeKind.Atomic or NodeKind.Final)
                        yield return Unit.Nodes[scratch[i]].Path;
            }
        }

        public bool IsIn(int[] places)
        {
            foreach (var node in places)
                if (chart.IsActive(node))
                    return true;
            return false;
        }

        public IEnumerable<(int, int, TransitionNode, bool)> Waiting
        {
            get
            {
                for (var node = 1; node < Unit.Nodes.Length; node++)
                {
                    if (!chart.IsActive(node))
                        continue;
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
