using System.Runtime.InteropServices;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Checking;

/// <summary>What a step of one program comes to.</summary>
/// <param name="Next">Its state afterwards.</param>
/// <param name="Said">What it tells others in the step, as a list of messages; 0 for nothing.</param>
/// <param name="Clash">Which clash of two commands lies in the step; −1 for none.</param>
internal readonly record struct Outcome(int Next, int Said, int Clash);

/// <summary>A message that one program may tell another.</summary>
/// <param name="To">Index of the program that hears it.</param>
/// <param name="From">Index of the program that says it.</param>
/// <param name="Text">Its text.</param>
/// <param name="Values">What goes with it, in one string of bits.</param>
internal readonly record struct Message(int To, int From, string Text, string Values);

/// <summary>Two commands to one device that go on at the same time in two regions.</summary>
/// <param name="Device">The device.</param>
/// <param name="First">The command that is taken over.</param>
/// <param name="Second">The one that takes it over.</param>
internal sealed record Clash(int Device, ActionNode First, ActionNode Second);

/// <summary>
/// One program by itself: its states as numbers, and what each stimulus makes of each, worked out by the engine once and
/// looked up from then on. The product of several programs is explored on these numbers alone.
/// </summary>
internal sealed class LocalSteps
{
    /// <summary>Most states of one program.</summary>
    public const int MostStates = 1 << 22;

    private static readonly Outcome[] Nothing = [];

    private readonly CompiledScript script;
    private readonly ScriptMachine machine;
    private readonly Vague vague;
    private readonly Pack pack = new();
    private readonly Interned states = new();
    private readonly List<Outcome[]> lists = [Nothing];
    private readonly Dictionary<long, int> told = [];
    private readonly List<(Stimulus What, int Outcomes)[]?> own = [];
    private readonly List<ulong> rules = [];
    private readonly List<bool> ended = [];
    private int[] shared = [];
    private readonly int[] stallers,
        ways,
        angles;
    private readonly int[] before,
        after;
    private readonly List<Outcome> outcomes = [];
    private readonly Func<ScriptMachine, ScriptMessage, int> messageOf;
    private readonly Func<List<int>, int> listOf;
    private readonly List<int> said = [];
    private int clashNow = -1;
    private readonly double[] unknown;

    /// <param name="script">The program, compiled without readings.</param>
    /// <param name="messageOf">Gives a message a number; −1 where nobody hears it.</param>
    /// <param name="listOf">Gives a list of messages a number.</param>
    /// <param name="withoutTimes">True to forget which of several times comes first.</param>
    public LocalSteps(
        CompiledScript script,
        Func<ScriptMachine, ScriptMessage, int> messageOf,
        Func<List<int>, int> listOf,
        bool withoutTimes = false
    )
    {
        (this.script, this.messageOf, this.listOf) = (script, messageOf, listOf);
        vague = new(script);
        machine = new(script) { Vague = vague, ForgetsTimes = withoutTimes };
        machine.PrepareToKeep();
        Fired = [.. script.Units.Select(u => new bool[u.Transitions.Length])];
        var nodes = script.Units[0].Nodes.Length;
        (Entered, Left, Lively, before, after) = (new bool[nodes], new bool[nodes], new bool[nodes], new int[nodes], new int[nodes]);
        RunsOn = new bool[nodes];
        machine.Watcher = (_, unit, t) =>
        {
            Fired[unit][t] = true;
            if (unit != 0)
                return;
            var source = script.Units[0].Chart.SourceOf(t);
            Entered[source] = true;
            (script.Units[0].Transitions[t].Node?.Target is null ? Lively : Left)[source] = true;
        };
        machine.TakenOver = (device, first, second) =>
        {
            if (clashNow < 0 && ClashOf(device, first, second) is >= 0 and var clash)
                clashNow = clash;
        };
        var all = script.Units.SelectMany(u => u.Transitions).ToArray();
        unknown = new double[Math.Min(16, all.Select(t => t.Into.Length).DefaultIfEmpty(0).Max())];
        Array.Fill(unknown, double.NaN);
        stallers = [.. all.Where(t => t.Kind == FireKind.Stall).Select(t => t.Device).Distinct()];
        ways = [.. Enumerable.Range(0, script.Devices.Length).Where(d => vague.Travels[d] is not null)];
        angles = [.. Enumerable.Range(0, script.Devices.Length).Where(d => vague.Angles[d] is not null)];
    }

    /// <summary>The program.</summary>
    public CompiledScript Script => script;

    /// <summary>What its numbers are kept as.</summary>
    public Vague Kept => vague;

    /// <summary>How many states it has been seen in.</summary>
    public int Count => states.Count;

    /// <summary>Bytes that its states take.</summary>
    public long Bytes => states.Bytes + shared.Length * 4L + lists.Count * 40L;

    /// <summary>True when a step had more ways than were tried, or there are more states than can be kept.</summary>
    public bool Cut => vague.Cut;

    /// <summary>By unit and transition: taken at least once.</summary>
    public bool[][] Fired { get; }

    /// <summary>By node of the program's own chart: active at least once.</summary>
    public bool[] Entered { get; }

    /// <summary>Left at least once.</summary>
    public bool[] Left { get; }

    /// <summary>Something was done in it without leaving it.</summary>
    public bool[] Lively { get; }

    /// <summary>Something it began goes on for ever.</summary>
    public bool[] RunsOn { get; }

    /// <summary>Two regions that commanded one device at the same time.</summary>
    public List<Clash> Clashes { get; } = [];

    /// <summary>Steps that the engine was asked for.</summary>
    public long Asked { get; private set; }

    /// <summary>Which rules hold in a state: one bit each.</summary>
    public ulong RulesIn(int state) => rules[state];

    /// <summary>True for a state in which the program has ended, or was stopped.</summary>
    public bool EndedIn(int state) => ended[state];

    /// <summary>How many sensor stimuli there are for all programs; set once, before the first step.</summary>
    public int SharedStimuli { get; set; }

    /// <summary>Starts: the states that the program may begin in.</summary>
    public IReadOnlyList<Outcome> Start()
    {
        outcomes.Clear();
        vague.Begin();
        do
        {
            clashNow = -1;
            machine.Start();
            Add(0);
        } while (vague.Another());
        return [.. outcomes];
    }

    /// <summary>What a stimulus that all programs see makes of a state; none where it stays as it is.</summary>
    /// <param name="state">The state.</param>
    /// <param name="index">Which of them.</param>
    /// <param name="stimulus">In this program's own numbers; the kind <see cref="StimulusKind.Told"/> means nothing here.</param>
    public Outcome[] Shared(int state, int index, Stimulus stimulus)
    {
        var at = state * SharedStimuli + index;
        if (at >= shared.Length)
            Array.Resize(ref shared, Math.Max(at + SharedStimuli, shared.Length * 2));
        // Kept one higher, so that 0 means not known yet.
        var list = shared[at];
        if (list == 0)
        {
            list = Step(state, stimulus) + 1;
            if (at >= shared.Length)
                Array.Resize(ref shared, at * 2);
            shared[at] = list;
        }
        return lists[list - 1];
    }

    /// <summary>The same where it is known already; null where the engine must be asked.</summary>
    public Outcome[]? SharedKnown(int state, int index)
    {
        var at = state * SharedStimuli + index;
        return at < shared.Length && shared[at] is > 0 and var list ? lists[list - 1] : null;
    }

    /// <summary>What may happen to this program alone in a state: ends, stalls, ways and times.</summary>
    public (Stimulus What, int Outcomes)[] Own(int state)
    {
        if (own[state] is { } known)
            return known;
        var found = new List<Stimulus>();
        if (!ended[state])
        {
            BringBack(state);
            for (var d = 0; d < script.Devices.Length; d++)
                if (machine.MayEnd(d))
                    found.Add(new(StimulusKind.Ended, d));
            foreach (var d in stallers)
                if (machine.IsDriven(d))
                    found.Add(new(StimulusKind.Stalled, d));
            foreach (var d in ways)
                for (var place = 0; place < vague.Travels[d]!.Count; place++)
                    found.Add(new(StimulusKind.Travelled, d, place));
            foreach (var d in angles)
                for (var place = 0; place < vague.Angles[d]!.Count; place++)
                    found.Add(new(StimulusKind.Turned, d, place));
            Span<long> groups = stackalloc long[64];
            var n = machine.RunningTimes(groups);
            groups[..n].Sort();
            for (var g = 0; g < n; g++)
                found.Add(new(StimulusKind.TimeUp, (int)groups[g]));
            if (n == groups.Length)
                vague.Cut = true;
        }
        var made = new List<(Stimulus, int)>();
        foreach (var what in found)
            if (Step(state, what) is > 0 and var list)
                made.Add((what, list));
        return own[state] = [.. made];
    }

    /// <summary>The same where it is known already; null where the engine must be asked.</summary>
    public (Stimulus What, int Outcomes)[]? OwnKnown(int state) => own[state];

    /// <summary>What a list of outcomes holds.</summary>
    public Outcome[] Outcomes(int list) => lists[list];

    /// <summary>What a message makes of a state, where it is known already; null where the engine must be asked.</summary>
    /// <param name="state">The state.</param>
    /// <param name="message">Its number.</param>
    public Outcome[]? ToldKnown(int state, int message) =>
        told.TryGetValue((long)state << 32 | (uint)message, out var list) ? lists[list] : null;

    /// <summary>What a message makes of a state.</summary>
    /// <param name="state">The state.</param>
    /// <param name="message">Its number.</param>
    /// <param name="what">What it is.</param>
    /// <param name="from">Index of the program it comes from, in this program's own numbers.</param>
    public Outcome[] Told(int state, int message, Message what, int from)
    {
        hears = (Array.IndexOf(script.Texts, what.Text), from, ValuesOf(what));
        return lists[told[(long)state << 32 | (uint)message] = Step(state, new(StimulusKind.Told, message))];
    }

    private (int Text, int From, double[] Values) hears;

    private static double[] ValuesOf(Message what) =>
        what.Values == "" ? [] : [.. MemoryMarshal.Cast<char, long>(what.Values.AsSpan()).ToArray().Select(BitConverter.Int64BitsToDouble)];

    /// <summary>Active states of the program, as Region.State.</summary>
    public IReadOnlyList<string> Places(int state)
    {
        BringBack(state);
        return machine.Configuration;
    }

    /// <summary>The times that run in a state.</summary>
    public void TimesIn(int state, List<(int, bool, int, long)> into)
    {
        BringBack(state);
        machine.Times(into);
    }

    /// <summary>The times that run once the program has begun in a state, with how long they take.</summary>
    public void TimesAtStart(int state, List<(int, bool, int, long)> into)
    {
        vague.Begin();
        do
        {
            machine.Start();
            machine.Times(into);
            machine.Keep(pack);
        } while (states.Of(pack.Bytes, out _) != state && vague.Another());
    }

    /// <summary>The times that run after a step, with how long those take that were begun in it.</summary>
    /// <param name="state">The state before.</param>
    /// <param name="what">The step.</param>
    /// <param name="message">What was heard, where something was.</param>
    /// <param name="next">The state after; −1 for any.</param>
    /// <param name="into">The times.</param>
    /// <returns>True when a way of the step leads there.</returns>
    public bool TimesAfter(int state, Stimulus what, (Message What, int From)? message, int next, List<(int, bool, int, long)> into)
    {
        if (message is { } heard)
            hears = (Array.IndexOf(script.Texts, heard.What.Text), heard.From, ValuesOf(heard.What));
        vague.Begin();
        do
        {
            vague.Unknowns = 0;
            BringBack(state);
            Do(what);
            machine.Times(into);
            machine.Keep(pack);
            if (next < 0 || states.Of(pack.Bytes, out _) == next)
                return true;
        } while (vague.Another());
        return false;
    }

    private void BringBack(int state)
    {
        pack.Take(states[state]);
        machine.Bring(pack);
    }

    // 0 where nothing changes.
    private int Step(int state, Stimulus what)
    {
        if (ended[state])
            return 0;
        outcomes.Clear();
        vague.Begin();
        do
        {
            Asked++;
            vague.Unknowns = 0;
            BringBack(state);
            var n = machine.ActiveNodes(before);
            clashNow = -1;
            Do(what);
            Add(n);
        } while (vague.Another());
        if (outcomes.Count == 1 && outcomes[0] == new Outcome(state, 0, -1))
            return 0;
        lists.Add([.. outcomes]);
        return lists.Count - 1;
    }

    private void Do(Stimulus what)
    {
        var (kind, which) = (what.Kind, what.Which);
        switch (kind)
        {
            case StimulusKind.Zone:
                machine.SeeZone(what.What, which);
                break;
            case StimulusKind.Down:
                if (!machine.IsDown(what.What))
                    machine.SeeZone(what.What, script.ZoneIndex("down"));
                break;
            case StimulusKind.Up or StimulusKind.UpSoon or StimulusKind.UpAgain:
                if (machine.IsDown(what.What) && (kind != StimulusKind.UpAgain || machine.WasTapped(what.What)))
                    machine.ComesUp(what.What, kind != StimulusKind.Up, kind == StimulusKind.UpAgain);
                break;
            case StimulusKind.Silent:
                machine.Silent(what.What);
                break;
            case StimulusKind.Confused:
                machine.Confuse(what.What);
                break;
            case StimulusKind.Reads:
                var needed = 1;
                foreach (var mark in script.Marks)
                    if (mark.Sensor == what.What)
                        needed = Math.Max(needed, mark.Needed);
                for (var i = 0; i < needed; i++)
                    machine.Read(what.What, vague.Readings[what.What] is { } kept ? kept[which] : double.NaN);
                break;
            case StimulusKind.Ended:
                machine.Ended(what.What);
                break;
            case StimulusKind.Stalled:
                machine.Stalled(what.What);
                break;
            case StimulusKind.Travelled:
                machine.Moved(what.What, vague.Travels[what.What]![which], machine.Angle(what.What));
                break;
            case StimulusKind.Turned:
                machine.Moved(what.What, machine.Travel(what.What), vague.Angles[what.What]![which]);
                break;
            case StimulusKind.TimeUp:
                machine.LetPass(what.What);
                break;
            case StimulusKind.Said:
                // What goes with it nobody knows.
                machine.Told(what.What, which, unknown);
                break;
            case StimulusKind.Told:
                machine.Told(hears.Text, hears.From, hears.Values);
                break;
        }
    }

    // Where the machine stands now becomes a state with a number.
    private void Add(int activeBefore)
    {
        var chart = script.Units[0].Chart;
        var n = machine.ActiveNodes(after);
        for (var i = 0; i < n; i++)
        {
            Entered[after[i]] = true;
            RunsOn[after[i]] |= machine.RunsOnIn(after[i]);
        }
        for (var i = 0; i < activeBefore; i++)
            if (!after.AsSpan(0, n).Contains(before[i]))
                Left[before[i]] = true;
        said.Clear();
        foreach (var message in machine.Sent)
            if (messageOf(machine, message) is >= 0 and var number)
                said.Add(number);
        machine.Keep(pack);
        var state = states.Of(pack.Bytes, out var isNew);
        if (isNew)
        {
            own.Add(null);
            ended.Add(machine.Finished || machine.Fault is not null);
            ulong holding = 0;
            for (var r = 0; r < Math.Min(64, script.Rules.Length); r++)
                if (script.Rules[r] is not null && machine.RuleHolds(r))
                    holding |= 1UL << r;
            rules.Add(holding);
            if (states.Count >= MostStates)
                vague.Cut = true;
        }
        var outcome = new Outcome(state, said.Count == 0 ? 0 : listOf(said), clashNow);
        if (!outcomes.Contains(outcome))
            outcomes.Add(outcome);
    }

    // −1 when one follows the other, or stands in it: only what goes on side by side is a clash.
    private int ClashOf(int device, (int Unit, int Activity) first, (int Unit, int Activity) second)
    {
        // A lamp or a sound that two regions use is nothing that pulls against itself.
        if (!script.Moves[device] || script.Units[first.Unit].Activities[first.Activity].Node is not { } one)
            return -1;
        if (script.Units[second.Unit].Activities is var list && (second.Activity < 0 || list[second.Activity].Node is null))
            return -1;
        var two = list[second.Activity].Node!;
        var (a, b) = (machine.HomeOf(first), machine.HomeOf(second));
        if (a < 0 || b < 0 || a == b)
            return -1;
        var chart = script.Units[0].Chart;
        // What they both stand in must be a state of regions.
        var common = a;
        while (common >= 0 && common != b && !chart.IsIn(b, common))
            common = chart.ParentOf(common);
        if (common < 0 || common == b || common == a || chart.KindOf(common) != NodeKind.Parallel || !machine.IsActive(a))
            return -1;
        for (var i = 0; i < Clashes.Count; i++)
            if (Clashes[i].Device == device && ReferenceEquals(Clashes[i].First, one) && ReferenceEquals(Clashes[i].Second, two))
                return i;
        Clashes.Add(new(device, one, two));
        return Clashes.Count - 1;
    }
}
