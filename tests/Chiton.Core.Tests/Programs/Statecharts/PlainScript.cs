using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs.Statecharts;

/// <summary>
/// A program carried out as the page describes it, sentence by sentence on lists, around the plain algorithm for charts. It shares
/// with the engine only the parser and what a chart is made of.
/// </summary>
internal sealed class PlainScript : IChartHost
{
    // One “A, then B, then C” that was begun.
    private sealed class Chain
    {
        public required IReadOnlyList<ActionNode> Parts;
        public int At,
            Step;
        public bool Cut,
            Dropped,
            Over,
            While;

        // What it is doing now; the motor is null while it waits.
        public string? Motor;
        public bool Finite,
            Limited;
        public long Due = long.MaxValue;
        public bool Going => !Over && !Dropped;
        public bool TakesTime => Parts.Any(p => p is RunNode or WaitNode);
    }

    private sealed class Motor
    {
        public Chain? Holder;
        public bool Done,
            GivenUp,
            Left;
    }

    private readonly List<ChartNode> nodes;
    private readonly List<StateNode?> stateOf;
    private readonly List<string> paths;
    private readonly List<ChartTransition> transitions;
    private readonly List<TransitionNode?> sentences;
    private readonly ReferenceInterpreter chart;
    private readonly Dictionary<string, Motor> motors = GeneratedScript.Motors.ToDictionary(m => m, _ => new Motor());

    // What each state began: on entry and while here, and by each of its own transitions.
    private readonly Dictionary<int, List<Chain>> begun = [];
    private readonly Dictionary<int, List<Chain>> byTransition = [];
    private readonly Dictionary<int, long> timers = [];
    private readonly HashSet<int> taken = [];
    private readonly List<int> entering = [];
    private double n;
    private string? eye;
    private double? range;
    private bool silent,
        saysNothing;
    private string what = "";
    private int dueTransition = -1,
        momentTransitions;

    public long Now { get; private set; }

    /// <summary>Two things fell into one moment: then their order is not told here.</summary>
    public bool HadTie { get; private set; }

    /// <summary>More in one moment than it can be carried out plainly.</summary>
    public bool Endless { get; private set; }

    public List<string> Said { get; } = [];

    /// <summary>How often something gave up, was cut or dropped, and how often a condition was unknown.</summary>
    public (int GaveUp, int Cut, int Dropped, int Unknown) Seen;

    /// <summary>For showing that the comparison notices: a limit counts as an end, or a cut chain goes on.</summary>
    public bool LimitEnds { get; init; }

    public bool ChainsGoOn { get; init; }

    // In which step each time was begun, for going through everything that may happen.
    private readonly Dictionary<int, int> timerSteps = [];
    private int step;

    public PlainScript(ProgramNode program)
    {
        (nodes, stateOf, paths) = ([new(NodeKind.Compound, -1), new(NodeKind.Parallel, 0)], [null, null], ["", ""]);
        (transitions, sentences) = ([], []);
        foreach (var region in program.Regions)
        {
            var own = Add(new(NodeKind.Compound, 1), null, region.Name);
            foreach (var state in region.States)
                Take(state, own, region.Name);
        }
        for (var i = 2; i < nodes.Count; i++)
            if (
                nodes[i].Kind == NodeKind.Compound
                && Enumerable.Range(i + 1, nodes.Count - i - 1).FirstOrDefault(k => nodes[k].Parent == i && stateOf[k]!.Initial)
                    is > 0
                        and var first
            )
            {
                nodes[i] = nodes[i] with { Default = transitions.Count };
                transitions.Add(new(i, [first]));
                sentences.Add(null);
            }
        for (var i = 2; i < nodes.Count; i++)
            foreach (var t in stateOf[i]?.Lines.OfType<TransitionNode>() ?? [])
            {
                int[] targets = t.Target is null ? [] : [stateOf.FindIndex(s => s?.Name == t.Target)];
                var level = t.Trigger is ConditionTriggerNode or ZoneTriggerNode;
                transitions.Add(new(i, targets, false, level, level));
                sentences.Add(t);
            }
        chart = new(nodes, transitions, this);
    }

    private PlainScript(PlainScript other)
    {
        (nodes, stateOf, paths, transitions, sentences) = (other.nodes, other.stateOf, other.paths, other.transitions, other.sentences);
        chart = new(other.chart, this);
    }

    private int Add(ChartNode node, StateNode? state, string path)
    {
        nodes.Add(node);
        stateOf.Add(state);
        paths.Add(path);
        return nodes.Count - 1;
    }

    private void Take(StateNode state, int parent, string path)
    {
        var own = Add(new(state.States.Count > 0 ? NodeKind.Compound : NodeKind.Atomic, parent), state, $"{path}.{state.Name}");
        foreach (var inner in state.States)
            Take(inner, own, $"{path}.{state.Name}");
    }

    public IReadOnlyList<string> Configuration =>
        [.. chart.Configuration.Where(c => nodes[c].Kind == NodeKind.Atomic).Select(c => paths[c])];

    public double N => n;

    public string Flags => string.Join(' ', motors.Select(m => $"{(m.Value.Done ? "done" : "-")}/{(m.Value.GivenUp ? "given up" : "-")}"));

    public void Start()
    {
        what = "start";
        chart.Start();
        Settle();
    }

    public void Happen(string e)
    {
        what = e;
        if (e.EndsWith(" done", StringComparison.Ordinal))
        {
            // Only what ends by itself can have ended.
            if (motors[e[..^5]].Holder is not { Going: true, Finite: true } chain)
                return;
            End(chain, false);
        }
        if (e.StartsWith("Eye is ", StringComparison.Ordinal))
            eye = e[7..];
        if (e == "Range is near")
            (silent, saysNothing, range) = (false, false, 100);
        if (e == "Range hears nothing" || e == "Range reads 30 mm")
            (silent, saysNothing, range) = (e[6] == 'h', true, range ?? double.NaN);
        else if (e.StartsWith("Range reads ", StringComparison.Ordinal))
            (silent, saysNothing, range) = (false, false, double.Parse(e[12..^3], System.Globalization.CultureInfo.InvariantCulture));
        Fire();
    }

    private void Fire()
    {
        momentTransitions = 0;
        dueTransition = what == "after" ? dueTransition : -1;
        chart.Fire();
        Settle();
    }

    public void Pass(long until)
    {
        for (var rounds = 0; ; rounds++)
        {
            if (rounds > 2000)
            {
                Endless = true;
                return;
            }
            var chains = All.Where(c => c.Going && c.Due <= until).ToArray();
            var due = Math.Min(
                chains.Select(c => c.Due).DefaultIfEmpty(long.MaxValue).Min(),
                timers.Values.DefaultIfEmpty(long.MaxValue).Min()
            );
            if (due > until)
                break;
            var ending = chains.Where(c => c.Due == due).ToArray();
            var after = timers.Where(t => t.Value == due).Select(t => t.Key).ToArray();
            HadTie |= ending.Length + after.Length > 1;
            Now = due;
            if (ending.Length > 0)
            {
                what = ending[0].Limited ? $"{ending[0].Motor} gives up" : "ended";
                End(ending[0], ending[0].Limited);
                Fire();
                continue;
            }
            timers.Remove(after.Min());
            (what, dueTransition) = ("after", after.Min());
            Fire();
            dueTransition = -1;
        }
        Now = until;
    }

    /// <summary>The next step of going through everything: what is begun from here on is begun together.</summary>
    public void NextStep() => step++;

    /// <summary>True when a motor may end by itself at any moment: it goes a way; what runs for a time ends exactly then.</summary>
    public bool MayEnd(string motor) => motors[motor].Holder is { Going: true, Finite: true } c && (c.Limited || c.Due == long.MaxValue);

    /// <summary>The steps whose times still run: of each the earliest may be up next.</summary>
    public int[] Running =>
        [
            .. All.Where(c => c.Going && c.Due < long.MaxValue)
                .Select(c => c.Step)
                .Concat(timers.Keys.Select(t => timerSteps[t]))
                .Distinct()
                .Order(),
        ];

    /// <summary>The earliest time of those that were begun in a step is up.</summary>
    public void TimeUp(int begunIn)
    {
        var chains = All.Where(c => c.Going && c.Step == begunIn && c.Due < long.MaxValue).ToArray();
        var own = timers.Where(t => timerSteps[t.Key] == begunIn).ToArray();
        var due = Math.Min(
            chains.Select(c => c.Due).DefaultIfEmpty(long.MaxValue).Min(),
            own.Select(t => t.Value).DefaultIfEmpty(long.MaxValue).Min()
        );
        var ending = chains.Where(c => c.Due == due).ToArray();
        var after = own.Where(t => t.Value == due).Select(t => t.Key).ToArray();
        HadTie |= ending.Length + after.Length > 1;
        if (ending.Length > 0)
        {
            what = ending[0].Limited ? $"{ending[0].Motor} gives up" : "ended";
            End(ending[0], ending[0].Limited);
            Fire();
            return;
        }
        timers.Remove(after[0]);
        (what, dueTransition) = ("after", after[0]);
        Fire();
        dueTransition = -1;
    }

    /// <summary>The same machine, to be taken another way.</summary>
    public PlainScript Copy()
    {
        var copy = new PlainScript(this) { LimitEnds = LimitEnds, ChainsGoOn = ChainsGoOn };
        var chains = new Dictionary<Chain, Chain>();
        Chain Of(Chain c) =>
            chains.TryGetValue(c, out var made)
                ? made
                : chains[c] = new()
                {
                    Parts = c.Parts,
                    At = c.At,
                    Step = c.Step,
                    Cut = c.Cut,
                    Dropped = c.Dropped,
                    Over = c.Over,
                    While = c.While,
                    Motor = c.Motor,
                    Finite = c.Finite,
                    Limited = c.Limited,
                    Due = c.Due,
                };
        foreach (var (name, motor) in motors)
            (copy.motors[name].Holder, copy.motors[name].Done, copy.motors[name].GivenUp) = (
                motor.Holder is { } h ? Of(h) : null,
                motor.Done,
                motor.GivenUp
            );
        foreach (var (node, list) in begun)
            copy.begun[node] = [.. list.Select(Of)];
        foreach (var (t, list) in byTransition)
            copy.byTransition[t] = [.. list.Select(Of)];
        copy.loose.AddRange(loose.Where(c => c.Going).Select(Of));
        foreach (var (t, due) in timers)
            (copy.timers[t], copy.timerSteps[t]) = (due, timerSteps[t]);
        copy.taken.UnionWith(taken);
        (copy.n, copy.eye, copy.range, copy.silent, copy.saysNothing, copy.step) = (n, eye, range, silent, saysNothing, step);
        (copy.HadTie, copy.Endless) = (HadTie, Endless);
        return copy;
    }

    /// <summary>All that matters from here on, in words.</summary>
    /// <param name="most">Numbers from here on are one.</param>
    public string Key(double most)
    {
        var words = new System.Text.StringBuilder();
        var active = chart.Configuration;
        words
            .Append(string.Join(',', active))
            .Append(';')
            .Append(Math.Min(n, most))
            .Append(eye)
            .Append(
                range is null ? "?"
                : silent ? "s"
                : "h"
            );
        var numbers = new Dictionary<Chain, int>();
        var times = new List<(int Step, long Due, string Name)>();
        void Say(Chain c, string where)
        {
            if (!numbers.TryAdd(c, numbers.Count))
                return;
            words.Append(where).Append(c.Parts[0].Span.Line).Append('/').Append(c.At).Append(c.Cut ? "c" : "").Append(c.Dropped ? "d" : "");
            words.Append(c.Over ? "o" : "").Append(c.While ? "w" : "");
            if (c.Going && c.Due < long.MaxValue)
                times.Add((c.Step, c.Due, $"c{numbers[c]}"));
        }
        foreach (var (node, list) in begun.OrderBy(b => b.Key))
        foreach (var c in list)
            Say(c, $" b{node}:");
        foreach (var (t, list) in byTransition.OrderBy(b => b.Key))
        foreach (var c in list.Where(c => c.Going || active.Contains(transitions[t].Source)))
            Say(c, $" t{t}:");
        foreach (var c in loose.Where(c => c.Going))
            Say(c, " l:");
        foreach (var (name, motor) in motors)
            words
                .Append(' ')
                .Append(name)
                .Append(motor.Done ? "D" : "")
                .Append(motor.GivenUp ? "G" : "")
                .Append(motor.Holder is { Going: true } h && numbers.TryGetValue(h, out var holder) ? holder : -1);
        words.Append(" taken ").Append(string.Join(',', taken.Where(t => active.Contains(transitions[t].Source)).Order()));
        times.AddRange(timers.Select(t => (timerSteps[t.Key], t.Value, $"t{t.Key}")));
        // Groups by what is in them, in the order of their times.
        words
            .Append(" times ")
            .Append(
                string.Join(
                    '|',
                    times.GroupBy(t => t.Step).Select(g => string.Join('<', g.OrderBy(t => t.Due).Select(t => t.Name))).Order()
                )
            );
        return words.ToString();
    }

    // Everything that was begun and not forgotten, whoever began it.
    private IEnumerable<Chain> All => begun.Values.Concat(byTransition.Values).SelectMany(l => l).Concat(loose).Distinct();

    private readonly List<Chain> loose = [];

    // ---- activities ----

    private void Begin(Chain chain)
    {
        if (chain.At >= chain.Parts.Count)
        {
            (chain.Over, chain.Motor, chain.Due) = (true, null, long.MaxValue);
            return;
        }
        (chain.Motor, chain.Finite, chain.Limited, chain.Due, chain.Step) = (null, true, false, long.MaxValue, step);
        switch (chain.Parts[chain.At])
        {
            case SetNode:
                n++;
                Next(chain);
                break;
            case StopNode s:
                Command(s.Motor, null, Printer.Plain(Printer.Sentence(s)));
                if (chain.Dropped)
                    return;
                motors[s.Motor].Done = !LaterCommands(chain, s.Motor);
                Next(chain);
                break;
            case WaitNode w:
                Said.Add(Printer.Plain(Printer.Sentence(w)));
                chain.Due = Now + Micros(w.Time);
                break;
            case RunNode r:
                Command(r.Motor, chain, Printer.Plain(Printer.Sentence(r)));
                chain.Motor = r.Motor;
                chain.Finite = r.Amount is not null || r.Time is not null;
                chain.Limited = r.UpTo is not null;
                if ((r.UpTo ?? r.Time) is { } time)
                    chain.Due = Now + Micros(time);
                break;
        }
    }

    private void Next(Chain chain)
    {
        // A state that was left begins nothing more.
        if (chain.Cut && chain.At + 1 < chain.Parts.Count && !ChainsGoOn)
        {
            Seen.Cut++;
            (chain.Dropped, chain.Motor, chain.Due) = (true, null, long.MaxValue);
            return;
        }
        chain.At++;
        Begin(chain);
    }

    // The latest command wins: what it takes over never ends, and drops what was to follow.
    private void Command(string name, Chain? by, string sentence)
    {
        var motor = motors[name];
        if (motor.Holder is { Going: true, Finite: true } before && before != by)
        {
            Seen.Dropped++;
            (before.Dropped, before.Due) = (true, long.MaxValue);
        }
        (motor.Holder, motor.Done, motor.GivenUp, motor.Left) = (by, false, false, false);
        Said.Add(sentence);
    }

    private void End(Chain chain, bool gaveUp)
    {
        var run = chain.Parts[chain.At] as RunNode;
        if (run is not null)
        {
            var motor = motors[run.Motor];
            (motor.Done, motor.GivenUp, motor.Holder) = ((!gaveUp || LimitEnds) && !LaterCommands(chain, run.Motor), gaveUp, null);
            if (gaveUp)
                Seen.GaveUp++;
            // What ran for a time is stopped when it is over.
            if (gaveUp || run.Time is not null)
                Said.Add($"{run.Motor} -2");
        }
        chain.Due = long.MaxValue;
        Next(chain);
    }

    private static bool LaterCommands(Chain chain, string motor) =>
        !chain.Cut && chain.Parts.Skip(chain.At + 1).Any(p => p is RunNode r && r.Motor == motor || p is StopNode s && s.Motor == motor);

    private static long Micros(ExprNode time) => (long)Math.Round(Analysis.Constant(time)!.Value * 1e6);

    // What a left state ran stops, unless something else commands it now; an outer state's comes back.
    private void Settle()
    {
        foreach (var (name, motor) in motors)
        {
            if (!motor.Left)
                continue;
            motor.Left = false;
            var back = chart
                .Configuration.OrderDescending()
                .SelectMany(c => begun.GetValueOrDefault(c) ?? [])
                .FirstOrDefault(c => c.While && c.Going && c.Motor == name);
            if (back is not null)
            {
                motor.Holder = back;
                Said.Add(Printer.Plain(Printer.Sentence(back.Parts[0])));
                continue;
            }
            motor.Holder = null;
            Said.Add($"{name} -1");
        }
    }

    private static IReadOnlyList<ActionNode> Parts(ActionNode action) => action is ThenNode t ? [.. t.Steps] : [action];

    // ---- the chart's host ----

    public void Entered(int node)
    {
        begun[node] = [];
        foreach (var (t, i) in transitions.Select((t, i) => (t, i)).Where(x => x.t.Source == node && sentences[x.i] is not null))
        {
            taken.Remove(i);
            // What an earlier visit did by this transition and is over is not of this one.
            if (byTransition.TryGetValue(i, out var earlier))
                byTransition[i] = [.. earlier.Where(c => c.Going)];
        }
        foreach (var moment in (ActivityMoment[])[ActivityMoment.Entry, ActivityMoment.While])
        foreach (var action in stateOf[node]?.Lines.OfType<ActivityNode>().Where(a => a.Moment == moment).SelectMany(a => a.Actions) ?? [])
        {
            var chain = new Chain { Parts = Parts(action), While = moment == ActivityMoment.While };
            begun[node].Add(chain);
            Begin(chain);
        }
        foreach (var (t, i) in transitions.Select((t, i) => (t, i)).Where(x => x.t.Source == node))
            if (sentences[i]?.Trigger is AfterTriggerNode a)
                (timers[i], timerSteps[i]) = (Now + Micros(a.Time), step);
    }

    public void Exited(int node)
    {
        foreach (var (t, i) in transitions.Select((t, i) => (t, i)).Where(x => x.t.Source == node))
        {
            timers.Remove(i);
            foreach (var chain in byTransition.GetValueOrDefault(i) ?? [])
                chain.Cut |= chain.Going;
        }
        // What a transition that led here began ends with this state too.
        foreach (var (t, i) in transitions.Select((t, i) => (t, i)).Where(x => x.t.Targets.Length > 0 && x.t.Targets[0] == node))
        foreach (var chain in byTransition.GetValueOrDefault(i) ?? [])
            chain.Cut |= chain.Going;
        foreach (var chain in begun.GetValueOrDefault(node) ?? [])
            if (!chain.Going)
                continue;
            else if (!chain.While)
                chain.Cut = true;
            else
            {
                chain.Dropped = true;
                if (chain.Motor is { } name && motors[name].Holder == chain)
                    motors[name].Left = true;
            }
        loose.AddRange((begun.GetValueOrDefault(node) ?? []).Where(c => c.Going));
        begun.Remove(node);
    }

    public void Taken(int t)
    {
        if (sentences[t] is not { } sentence)
            return;
        Endless |= ++momentTransitions > 1500;
        if (transitions[t].Eventless)
            taken.Add(t);
        foreach (var action in sentence.Actions)
        {
            var chain = new Chain { Parts = Parts(action) };
            var all = byTransition.TryGetValue(t, out var list) ? list : byTransition[t] = [];
            // The same sentence anew: it begins once more. Of what it did before the move in hand goes on, and nothing follows it.
            foreach (var before in all.Where(c => c.Going && c.Parts.SequenceEqual(chain.Parts, ReferenceEqualityComparer.Instance)))
            {
                before.Cut = true;
                loose.Add(before);
            }
            all.RemoveAll(c => c.Parts.SequenceEqual(chain.Parts, ReferenceEqualityComparer.Instance));
            all.Add(chain);
            Begin(chain);
        }
    }

    public void Done(int node, int byFinal) { }

    public bool NextInternal() => false;

    public bool Enabled(int t) =>
        sentences[t] is { } s
        && s.Trigger switch
        {
            ToldTriggerNode told => what == "told " + told.Text,
            GiveUpTriggerNode g => what == $"{g.Device} gives up",
            AfterTriggerNode => t == dueTransition,
            _ => Rises(t, s),
        }
        && Guard(t, s);

    public bool EnabledNow(int t) => !Endless && sentences[t] is { } s && Rises(t, s) && Guard(t, s);

    private bool Guard(int t, TransitionNode s) => s.Guard is null || Holds(s.Guard, transitions[t].Source) == true;

    // A level is taken once while it holds.
    private bool Rises(int t, TransitionNode s)
    {
        var condition = s.Trigger is ZoneTriggerNode z
            ? new ZoneIsNode(z.Sensor, z.Zone, false)
            : ((ConditionTriggerNode)s.Trigger).Condition;
        var holds = Holds(condition, transitions[t].Source) == true;
        if (!holds)
            taken.Remove(t);
        return holds && !taken.Contains(t);
    }

    // Yes, no or unknown.
    private bool? Holds(ExprNode e, int state)
    {
        switch (e)
        {
            case UnaryNode { IsNot: true } u:
                return !Holds(u.Operand, state);
            case BinaryNode { Operator: Operator.And } b:
                var (l, r) = (Holds(b.Left, state), Holds(b.Right, state));
                return l == false || r == false ? false
                    : l == true && r == true ? true
                    : null;
            case BinaryNode { Operator: Operator.Or } b:
                (l, r) = (Holds(b.Left, state), Holds(b.Right, state));
                return l == true || r == true ? true
                    : l == false && r == false ? false
                    : null;
            case DoneNode { Device: { } device }:
                return motors[device].Done;
            case GivenUpNode g:
                return motors[g.Device].GivenUp;
            case DoneNode:
                return AllDone(state);
            case ZoneIsNode z:
                return eye is null ? Unknown() : (eye == z.Zone) != z.Not;
            case SilentNode:
                return range is null ? Unknown() : silent;
            case BinaryNode c:
                if (Reads(c))
                {
                    if (range is null)
                        return Unknown();
                    if (saysNothing)
                        return false;
                }
                var (x, y) = (Value(c.Left), Value(c.Right));
                return c.Operator switch
                {
                    Operator.Less => x < y,
                    Operator.LessOrEqual => x <= y,
                    Operator.Greater => x > y,
                    Operator.GreaterOrEqual => x >= y,
                    _ => x == y,
                };
            default:
                throw new InvalidOperationException(e.GetType().Name);
        }
    }

    private bool? Unknown()
    {
        Seen.Unknown++;
        return null;
    }

    private static bool Reads(ExprNode e) => e is ReadingNode || e is BinaryNode b && (Reads(b.Left) || Reads(b.Right));

    private double Value(ExprNode e) =>
        e switch
        {
            ReadingNode => range!.Value,
            VariableNode => n,
            BinaryNode { Operator: Operator.Add } b => Value(b.Left) + Value(b.Right),
            BinaryNode { Operator: Operator.Multiply } b => Value(b.Left) * Value(b.Right),
            _ => Analysis.Constant(e)!.Value,
        };

    // All that this state began has ended or given up, and something did that takes time.
    private bool AllDone(int state)
    {
        var own = (begun.GetValueOrDefault(state) ?? [])
            .Concat(
                transitions
                    .Select((t, i) => (t, i))
                    .Where(x => x.t.Source == state)
                    .SelectMany(x => byTransition.GetValueOrDefault(x.i) ?? [])
            )
            .ToArray();
        return own.All(c => c.Over) && own.Any(c => c.TakesTime);
    }
}
