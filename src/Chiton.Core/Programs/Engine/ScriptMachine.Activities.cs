using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

public sealed partial class ScriptMachine
{
    private sealed partial class UnitRun
    {
        // ---- activities ----

        // Begins an activity and all that follows at once.
        private void Start(int a, int state)
        {
            var floor = m.work.Count;
            m.work.Push(new(Index, a, state));
            m.DoWork(floor);
        }

        /// <summary>True when the chain or repeat that an activity would go on was dropped meanwhile.</summary>
        public bool IsDropped(int a) => Unit.Activities[a].Parent is >= 0 and var p && status[p] == Status.Dropped;

        private void Later(int a, int state) => m.work.Push(new(Index, a, state));

        /// <summary>Begins one activity; what stands in it comes after, by the list of work.</summary>
        public void Begin(int a, int state)
        {
            var x = Unit.Activities[a];
            foreach (var child in x.Children)
                Orphan(child);
            (status[a], startedBy[a], detached[a], orphan[a]) = (Status.Going, state, false, false);
            EndsAt(a, long.MaxValue);
            switch (x.Kind)
            {
                case DoKind.Then:
                    next[a] = 0;
                    Later(x.Children[0], state);
                    return;
                case DoKind.Together:
                    foreach (var child in x.Children)
                        status[child] = Status.Idle;
                    for (var i = x.Children.Length - 1; i >= 0; i--)
                        Later(x.Children[i], state);
                    return;
                case DoKind.If:
                    var branch = Branch(x);
                    next[a] = branch;
                    if (x.Judged)
                        lasting.AddInOrder(a);
                    if (branch >= 0)
                        Later(x.Children[branch], state);
                    else if (!x.Judged)
                        Ends(a);
                    return;
                case DoKind.Repeat when x.Second is { } until:
                    if (Code.Holds(until.Eval(m)))
                        Ends(a);
                    else
                        Later(x.Children[0], state);
                    return;
                case DoKind.Repeat:
                    rounds[a] = Rounds(x.Value!);
                    if (rounds[a] == 0 || rounds[a] < 0 && m.Vague!.Choose(2) == 0)
                        Ends(a);
                    else
                        Later(x.Children[0], state);
                    return;
                case DoKind.Routine:
                    var unit = m.units[x.Unit];
                    unit.Cancel();
                    for (var i = 0; i < x.Args.Length; i++)
                        m.Put(unit.Unit.Parameters[i], x.Args[i]);
                    unit.Call(Index, a);
                    return;
                case DoKind.Set when x.Slot < 0:
                    m.queueCounts[~x.Slot] = 0;
                    break;
                case DoKind.Set:
                    m.Put(x.Slot, x.Value!);
                    break;
                case DoKind.Push:
                    Push(x.Slot, x.Value!.Eval(m));
                    break;
                case DoKind.Take:
                    // From an empty queue nothing is taken: the variable keeps its value.
                    if (m.queueCounts[x.Slot] > 0)
                    {
                        var queue = m.queues[x.Slot];
                        m.Put(x.Other, null, queue[0]);
                        Array.Copy(queue, 1, queue, 0, --m.queueCounts[x.Slot]);
                    }
                    break;
                case DoKind.Tell:
                    m.sent.Add(new(x.Slot, x.Other, m.sentValues.Count, x.Args.Length));
                    foreach (var arg in x.Args)
                        m.sentValues.Add(arg.Eval(m));
                    m.commands.Add(new(m.NowMicros, Index, a, -1, 0, 0));
                    break;
                case DoKind.Teach:
                    m.Teach(x.Slot, x.Other, x.Finite);
                    if (x.Other >= 0)
                        m.commands.Add(new(m.NowMicros, Index, x.Finite ? x.Parent : a, -1, 0, 0));
                    break;
                case DoKind.Zero:
                    (m.travel[x.Device], m.angle[x.Device]) = (0, 0);
                    m.commands.Add(new(m.NowMicros, Index, a, x.Device, 0, 0));
                    break;
                case DoKind.Show:
                    m.commands.Add(new(m.NowMicros, Index, a, -1, x.Value?.Eval(m) ?? x.Other, 0));
                    break;
                case DoKind.StopAll:
                    m.StopAll(Index, a);
                    m.commands.Add(new(m.NowMicros, Index, a, -1, 0, 0));
                    break;
                case DoKind.LampOn or DoKind.LampOff or DoKind.Stop:
                    Own(x.Device, x.Kind == DoKind.LampOn ? a : -1);
                    m.done[x.Device] = x.Kind == DoKind.Stop && !CommandsLater(a, x.Device);
                    m.commands.Add(new(m.NowMicros, Index, a, x.Device, 0, 0));
                    break;
                case DoKind.Move:
                    Own(x.Device, a);
                    Command(a, x);
                    if (!x.Finite)
                        lasting.AddInOrder(a);
                    return;
            }
            Ends(a);
        }

        // What stands around it begins anew while it still goes on from before: its own end counts, and nothing follows it.
        private void Orphan(int a)
        {
            if (status[a] != Status.Going)
                return;
            var x = Unit.Activities[a];
            if (x.Kind == DoKind.Routine)
            {
                m.units[x.Unit].Leave();
                Drop(a, false);
                return;
            }
            if (x.Children.Length == 0)
            {
                orphan[a] = true;
                return;
            }
            status[a] = Status.Idle;
            foreach (var child in x.Children)
                Orphan(child);
        }

        // How often; below zero when nobody knows, so that each round may be the last.
        private int Rounds(Code times)
        {
            var n = times.Eval(m);
            return m.Vague is not null && double.IsNaN(n) ? -1 : (int)Math.Clamp(Math.Round(n), 0, 1_000_000);
        }

        private bool IsLastRound(int a) => rounds[a] < 0 ? m.Vague!.Choose(2) == 0 : --rounds[a] <= 0;

        // Which of its branches a condition leads to; −1 for none.
        private int Branch(ScriptActivity x) =>
            Code.Holds(x.Value!.Eval(m)) ? 0
            : x.Children.Length > 1 ? 1
            : -1;

        private void Push(int queue, double value)
        {
            if (m.Vague is { } v && m.queueCounts[queue] >= Vague.MostQueued)
                v.Cut = true;
            else if (m.queueCounts[queue] >= MostQueued)
                m.Overflow(queue);
            else
                m.queues[queue][m.queueCounts[queue]++] = value;
        }

        private void Command(int a, ScriptActivity x)
        {
            lastValue[a] = x.Value?.Eval(m) ?? 0;
            lastSecond[a] = x.Second?.Eval(m) ?? 0;
            var lasts = 0L;
            if (x.Finite && x.Lasts is not null)
            {
                lasts = Micros(x.Lasts);
                EndsAt(a, m.NowMicros + lasts);
            }
            m.commands.Add(new(m.NowMicros, Index, a, x.Device, lastValue[a], lastSecond[a], lasts));
        }

        // The latest command to a device wins: the one before is over without having ended by itself.
        private void Own(int device, int activity)
        {
            if (device < 0)
                return;
            (m.stopPending[device], m.done[device], m.givenUp[device]) = (false, false, false);
            var (unit, before) = m.owner[device];
            m.owner[device] = activity < 0 ? (-1, -1) : (Index, activity);
            if (unit < 0 || before < 0 || unit == Index && before == activity)
                return;
            var other = m.units[unit];
            if (m.TakenOver is { } told && other.status[before] == Status.Going)
                told(device, (unit, before), (Index, activity));
            // A lasting command of an outer state is only covered: it comes back when the inner one has gone.
            if (other.status[before] == Status.Going && other.Unit.Activities[before].Finite)
                other.Drop(before, false);
        }

        public bool IsGoing(int a) => status[a] == Status.Going;

        public bool IsFiniteMove(int a) => Unit.Activities[a] is { Kind: DoKind.Move, Finite: true } && status[a] == Status.Going;

        /// <summary>Stops whatever was begun, but the chains and calls that stand around the command to stop.</summary>
        public void StopAll(int unit, int activity)
        {
            for (var i = 0; i < status.Length; i++)
                if (status[i] == Status.Going && !Around(i, unit, activity))
                    Drop(i, false);
        }

        // True for an activity that a command stands in, however deep, over the calls of routines.
        private bool Around(int a, int unit, int activity)
        {
            for (var (u, x) = (unit, activity); u >= 0 && x >= 0; )
            {
                if (u == Index && x == a)
                    return true;
                x = m.units[u].Unit.Activities[x].Parent is >= 0 and var up ? up : -1;
                if (x < 0)
                    (u, x) = m.units[u].Caller;
            }
            return false;
        }

        // True when the chain that an activity stands in, or a round of a repeat yet to come, commands its device again.
        private bool CommandsLater(int a, int device)
        {
            if (orphan[a])
                return false;
            for (var (at, up) = (a, Unit.Activities[a].Parent); up >= 0; (at, up) = (up, Unit.Activities[up].Parent))
            {
                if (status[up] != Status.Going || detached[up])
                    return false;
                var p = Unit.Activities[up];
                if (p.Kind == DoKind.Repeat && (p.Second is { } until ? !Code.Holds(until.Eval(m)) : rounds[up] is > 1 or < 0))
                    return true;
                if (p.Kind == DoKind.Then)
                    for (var i = next[up] + 1; i < p.Children.Length; i++)
                        if (Commands(p.Children[i], device))
                            return true;
            }
            return false;
        }

        private bool Commands(int a, int device)
        {
            var x = Unit.Activities[a];
            if (x.Device == device && x.Kind is DoKind.Move or DoKind.Stop)
                return true;
            foreach (var child in x.Children)
                if (Commands(child, device))
                    return true;
            return false;
        }

        /// <summary>An activity has ended by itself, or given up; what waits for it goes on, by the list of work.</summary>
        public void Ends(int a, bool gaveUp = false)
        {
            while (a >= 0 && status[a] == Status.Going)
            {
                status[a] = Status.Ended;
                EndsAt(a, long.MaxValue);
                var x = Unit.Activities[a];
                if (x.Kind == DoKind.Move && x.Finite && x.Device >= 0)
                {
                    m.done[x.Device] = !gaveUp && !CommandsLater(a, x.Device);
                    m.givenUp[x.Device] = gaveUp;
                    if (m.owner[x.Device] == (Index, a))
                        m.owner[x.Device] = (-1, -1);
                    // What was to run for a time is stopped when the time is over; what goes a way has come to rest, unless it gave up.
                    if (
                        gaveUp
                        || x.Lasts is not null
                            && (x.Second is null && x.Node is (RunNode or DriveNode or TurnRobotNode) || x.Node is SteerNode)
                    )
                        m.commands.Add(new(m.NowMicros, Index, -2, x.Device, 0, 0));
                }
                gaveUp = false;
                var parent = orphan[a] ? -1 : x.Parent;
                orphan[a] = false;
                if (parent < 0 || status[parent] != Status.Going)
                    return;
                var p = Unit.Activities[parent];
                switch (p.Kind)
                {
                    case DoKind.Then:
                        if (++next[parent] >= p.Children.Length)
                            break;
                        if (detached[parent])
                            Drop(parent, false);
                        else
                            Later(p.Children[next[parent]], startedBy[parent]);
                        return;
                    case DoKind.Together:
                        foreach (var child in p.Children)
                            if (status[child] is Status.Going or Status.Idle)
                                return;
                        break;
                    // A condition of “while here” is judged on.
                    case DoKind.If when p.Judged:
                        return;
                    case DoKind.If:
                        break;
                    case DoKind.Repeat:
                        if (p.Second is { } until ? Code.Holds(until.Eval(m)) : IsLastRound(parent))
                            break;
                        if (detached[parent])
                            Drop(parent, false);
                        else
                            Later(p.Children[0], startedBy[parent]);
                        return;
                    default:
                        return;
                }
                a = parent;
            }
        }

        // Not to go on: neither what it does nor what would follow.
        private void Drop(int a, bool stop)
        {
            var x = Unit.Activities[a];
            var was = status[a];
            status[a] = Status.Dropped;
            EndsAt(a, long.MaxValue);
            foreach (var child in x.Children)
                if (status[child] == Status.Going && !orphan[child] || stop)
                    Drop(child, stop);
            if (x.Kind == DoKind.Routine && was == Status.Going)
                m.units[x.Unit].Cancel();
            if (stop && x.Device >= 0 && x.Kind is DoKind.Move or DoKind.LampOn && m.owner[x.Device] == (Index, a))
                m.stopPending[x.Device] = true;
            // What was to follow it is dropped with it; what goes on beside it goes on.
            for (var up = orphan[a] ? -1 : x.Parent; !stop && up >= 0 && status[up] == Status.Going; up = Unit.Activities[up].Parent)
                status[up] = Status.Dropped;
        }

        // Its state was left: the move in hand goes on, nothing more begins.
        private void Detach(int a)
        {
            detached[a] = true;
            var x = Unit.Activities[a];
            if (x.Kind == DoKind.Routine && status[a] == Status.Going)
            {
                m.units[x.Unit].Leave();
                Drop(a, false);
            }
            foreach (var child in x.Children)
                if (status[child] == Status.Going)
                    Detach(child);
        }

        // True when all that a state began has ended or given up, on entry, while here and by its own transitions that stay; false
        // when it began nothing that takes time. What was stopped or taken over has not ended.
        public bool AllDone(int node)
        {
            var any = false;
            if (!AllEnded(Unit.Nodes[node].Entry, ref any) || !AllEnded(Unit.Nodes[node].While, ref any))
                return false;
            foreach (var t in Unit.Nodes[node].Transitions)
                if (!AllEnded(Unit.Transitions[t].Roots, ref any))
                    return false;
            return any;
        }

        private bool AllEnded(int[] roots, ref bool any)
        {
            foreach (var root in roots)
            {
                if (status[root] is Status.Going or Status.Dropped)
                    return false;
                any |= status[root] == Status.Ended && Takes(root);
            }
            return true;
        }

        private bool Takes(int a)
        {
            var x = Unit.Activities[a];
            if (x.Kind is DoKind.Move or DoKind.Routine)
                return true;
            // Of two branches the one that was taken counts.
            if (x.Kind == DoKind.If)
                return next[a] >= 0 && Takes(x.Children[next[a]]);
            foreach (var child in x.Children)
                if (Takes(child))
                    return true;
            return false;
        }

        /// <summary>An outer state's lasting command to a device comes back.</summary>
        public bool Resume(int device)
        {
            for (var i = chart.Active(scratch) - 1; i >= 0; i--)
                foreach (var root in Unit.Nodes[scratch[i]].While)
                    if (Lasting(root, device) is >= 0 and var a)
                    {
                        m.owner[device] = (Index, a);
                        Command(a, Unit.Activities[a]);
                        return true;
                    }
            return false;
        }

        private int Lasting(int a, int device)
        {
            var x = Unit.Activities[a];
            if (x.Device == device && (x.Kind == DoKind.Move && !x.Finite && status[a] == Status.Going || x.Kind == DoKind.LampOn))
                return a;
            foreach (var child in x.Children)
                if (Lasting(child, device) is >= 0 and var found)
                    return found;
            return -1;
        }

        // The other branch takes over as soon as the condition says so.
        private void Judge(int a, ScriptActivity x)
        {
            m.judgingNode = startedBy[a] < 0 ? m.judgingNode : startedBy[a];
            var before = m.judging;
            m.judging = this;
            var branch = Branch(x);
            m.judging = before;
            if (branch == next[a])
                return;
            if (next[a] >= 0 && x.Children[next[a]] is var was)
            {
                var going = status[was] == Status.Going || Unit.Activities[was].Kind == DoKind.LampOn;
                if (going)
                    Drop(was, true);
            }
            next[a] = branch;
            if (branch >= 0)
                Start(x.Children[branch], startedBy[a]);
        }

        /// <summary>Expressions of lasting commands are worked out anew; what changed is told again.</summary>
        public void Refresh()
        {
            for (var i = 0; i < lasting.Count; i++)
            {
                var a = lasting.Items[i];
                if (status[a] != Status.Going)
                {
                    lasting.RemoveInOrder(a);
                    i--;
                    continue;
                }
                var x = Unit.Activities[a];
                if (x.Kind == DoKind.If)
                {
                    Judge(a, x);
                    continue;
                }
                if (x.Device < 0 || m.owner[x.Device] != (Index, a) || startedBy[a] < 0)
                    continue;
                var (value, second) = (x.Value?.Eval(m) ?? 0, x.Second?.Eval(m) ?? 0);
                if (value == lastValue[a] && second == lastSecond[a])
                    continue;
                Command(a, x);
            }
        }
    }
}
