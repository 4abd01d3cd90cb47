using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Programs.Scxml;

/// <summary>An event with what it carries.</summary>
/// <param name="Name">Its name, with dots between its parts.</param>
/// <param name="Data">What it carries; null for nothing.</param>
/// <param name="SendId">Under which name it was sent; null when it was raised or came from outside.</param>
/// <param name="Type">platform, internal or external.</param>
public sealed record ScxmlEvent(string Name, object? Data = null, string? SendId = null, string Type = "external");

/// <summary>
/// Runs a document: the chart's steps by <see cref="ChartMachine"/>, what it does by its expressions, delayed sends by
/// a clock that only moves when told to. It reads no time of its own and starts nothing.
/// </summary>
public sealed class ScxmlMachine : IChartHost, IScxmlScope
{
    /// <summary>Most events that may wait.</summary>
    public const int MostWaiting = 10_000;

    /// <summary>Most events a machine may send itself at one moment.</summary>
    public const int MostRounds = 10_000;

    /// <summary>Most actions at one moment.</summary>
    public const int MostActionsAtOnce = 100_000;

    /// <summary>Most characters and items, all texts and lists that are made in a walk taken together.</summary>
    public const long MostMade = 20_000_000;

    private readonly ScxmlDocument document;
    private readonly ChartMachine machine;
    private readonly Queue<ScxmlEvent> inside = new(),
        outside = new();
    private readonly PriorityQueue<(ScxmlEvent Event, long Order), (double Due, long Order)> timers = new();
    private readonly HashSet<string> cancelled = [];
    private readonly Dictionary<string, int> pendingIds = [];
    private readonly Dictionary<string, object?> values = [];
    private readonly bool[] dataReady;
    private readonly Dictionary<string, bool[]> matches = [];
    private ScxmlEvent? now;
    private double clockMs;
    private long order,
        made;
    private int actionsNow;
    private bool ended;

    /// <summary>Makes a machine of a document.</summary>
    public ScxmlMachine(ScxmlDocument document)
    {
        this.document = document;
        machine = new(document.Chart, this);
        dataReady = new bool[document.States.Count];
    }

    /// <summary>Told of every log element, in order: label and value.</summary>
    public Action<string, object?>? Log { get; init; }

    /// <summary>How much it may do in all; null for no limit but those of a moment.</summary>
    public StepBudget? Budget { get; init; }

    /// <summary>The line of the action or condition that was worked on last, to name what goes on and on.</summary>
    public int LastLine { get; private set; } = 1;

    /// <summary>Told of every transition that is taken, in order.</summary>
    public Action<int>? Watch { get; init; }

    /// <summary>False once the machine came to its end.</summary>
    public bool Running => machine.Running;

    /// <summary>Active atomic states in document order; of a finished machine those it ended with.</summary>
    public IReadOnlyList<string> Configuration
    {
        get
        {
            Span<int> active = document.Chart.Count <= 512 ? stackalloc int[document.Chart.Count] : new int[document.Chart.Count];
            var n = machine.Active(active);
            var list = new List<string>();
            for (var i = 0; i < n; i++)
                if (document.Chart.KindOf(active[i]) is NodeKind.Atomic or NodeKind.Final)
                    list.Add(document.States[active[i]].Id);
            return list;
        }
    }

    /// <summary>The value of a datum, for tests and walks; null when it has none.</summary>
    public object? Value(string name) => values.GetValueOrDefault(name);

    /// <summary>Enters the document and runs until it rests.</summary>
    /// <exception cref="EndlessLoop">When it goes round and round.</exception>
    /// <exception cref="ScxmlEvaluation">When too many events wait.</exception>
    public void Start()
    {
        values["_name"] = document.Name;
        values["_sessionid"] = "session";
        values["_event"] = null;
        if (!document.Late)
            for (var i = 0; i < document.States.Count; i++)
                Ready(i);
        else
        {
            // All are declared at once; only their first values come late.
            foreach (var state in document.States)
            foreach (var (name, _) in state.Data)
                values[name] = null;
            Ready(0);
        }
        Do(document.First);
        machine.Start();
        Settle();
    }

    /// <summary>Gives an event from outside and runs until the machine rests.</summary>
    /// <exception cref="EndlessLoop">When it goes round and round.</exception>
    public void Send(string name, object? data = null)
    {
        if (!machine.Running)
            return;
        actionsNow = 0;
        outside.Enqueue(new(name, data));
        Settle();
    }

    /// <summary>Lets time pass: delayed sends that come due happen at their time, in their order.</summary>
    /// <param name="ms">How long, ms, at least 0.</param>
    /// <exception cref="EndlessLoop">When it goes round and round.</exception>
    public void Pass(double ms)
    {
        var until = clockMs + ms;
        var rounds = 0;
        while (machine.Running && timers.TryPeek(out var next, out var due) && due.Due <= until)
        {
            timers.Dequeue();
            if (next.Event.SendId is { } id)
            {
                if (cancelled.Remove($"{id}#{next.Order}"))
                    continue;
                if (pendingIds.TryGetValue(id, out var left) && left > 1)
                    pendingIds[id] = left - 1;
                else
                    pendingIds.Remove(id);
            }
            if (due.Due > clockMs)
                rounds = actionsNow = 0;
            if (++rounds > MostRounds)
                throw new ScxmlEvaluation("Delayed events come without end and without time passing.");
            clockMs = due.Due;
            outside.Enqueue(next.Event);
            Settle();
        }
        clockMs = until;
    }

    private void Settle()
    {
        var rounds = 0;
        while (machine.Running && outside.TryDequeue(out var next))
        {
            if (++rounds > MostRounds)
                throw new ScxmlEvaluation("The machine sends itself events without end.");
            Now(next);
            machine.Fire();
        }
        if (!machine.Running && !ended)
        {
            // What the states that are left over do on exit, innermost and last first; the configuration stays to be seen.
            ended = true;
            for (var node = document.Chart.Count - 1; node > 0; node--)
                if (machine.IsActive(node))
                    ((IChartHost)this).Exited(node);
        }
    }

    private void Now(ScxmlEvent e)
    {
        Budget?.Spend();
        now = e;
        values["_event"] = new Dictionary<string, object?>
        {
            ["name"] = e.Name,
            ["data"] = e.Data,
            ["type"] = e.Type,
            ["sendid"] = e.SendId,
            ["origin"] = "#_internal",
            ["origintype"] = "scxml",
            ["invokeid"] = null,
        };
    }

    private void Ready(int node)
    {
        if (dataReady[node])
            return;
        dataReady[node] = true;
        foreach (var (name, value) in document.States[node].Data)
        {
            values[name] = null;
            if (value is null)
                continue;
            try
            {
                values[name] = value(this);
            }
            catch (ScxmlEvaluation e)
            {
                Error(e);
            }
        }
    }

    private void Error(ScxmlEvaluation e) => Raise(new("error.execution", e.Message, null, "platform"));

    private void Raise(ScxmlEvent e)
    {
        if (inside.Count >= MostWaiting)
            throw new EndlessLoop([]);
        inside.Enqueue(e);
    }

    // ---- the chart's host ----

    bool IChartHost.Enabled(int transition)
    {
        if (now is null)
            return false;
        if (!matches.TryGetValue(now.Name, out var fits))
        {
            // Names come from outside: only so many are kept.
            if (matches.Count > 1000)
                matches.Clear();
            matches[now.Name] = fits = [.. document.Transitions.Select(t => t.Events.Any(d => Fits(d, now.Name)))];
        }
        return fits[transition] && Holds(transition);
    }

    bool IChartHost.EnabledNow(int transition) => Holds(transition);

    private bool Holds(int transition)
    {
        if (document.Transitions[transition].Condition is not { } condition)
            return true;
        LastLine = document.Transitions[transition].Line;
        try
        {
            return ScxmlExpressions.Truth(condition(this));
        }
        catch (ScxmlEvaluation e)
        {
            // A condition that cannot be worked out counts as not holding.
            Error(e);
            return false;
        }
    }

    /// <summary>A descriptor fits an event whose name it is, or begins token by token.</summary>
    public static bool Fits(string descriptor, string name) =>
        descriptor == "*"
        || name.StartsWith(descriptor, StringComparison.Ordinal) && (name.Length == descriptor.Length || name[descriptor.Length] == '.');

    void IChartHost.Entered(int node)
    {
        if (document.Late)
            Ready(node);
        foreach (var block in document.States[node].OnEntry)
            Do(block);
    }

    void IChartHost.Exited(int node)
    {
        foreach (var block in document.States[node].OnExit)
            Do(block);
    }

    void IChartHost.Taken(int transition)
    {
        Watch?.Invoke(transition);
        Do(document.Transitions[transition].Actions);
    }

    void IChartHost.Done(int node, int byFinal)
    {
        if (node == 0)
            return;
        object? data = null;
        var final = document.States[byFinal];
        try
        {
            // What the final gives goes with the event of the state it ends, not with that of the parallel above.
            if (document.Chart.ParentOf(byFinal) == node)
                data =
                    final.DoneContent is { } content ? content(this)
                    : final.DoneData.Count > 0 ? final.DoneData.ToDictionary(d => d.Name, d => d.Value(this))
                    : null;
        }
        catch (ScxmlEvaluation e)
        {
            Error(e);
        }
        Raise(new($"done.state.{document.States[node].Id}", data, null, "platform"));
    }

    bool IChartHost.NextInternal()
    {
        if (!inside.TryDequeue(out var next))
            return false;
        Now(next);
        return true;
    }

    // ---- what it does ----

    // A block ends at its first error.
    private void Do(IReadOnlyList<ScxmlAction> actions)
    {
        try
        {
            Run(actions);
        }
        catch (ScxmlEvaluation e)
        {
            Error(e);
        }
    }

    private void Run(IReadOnlyList<ScxmlAction> actions)
    {
        foreach (var action in actions)
        {
            LastLine = action.Line;
            if (++actionsNow > MostActionsAtOnce)
                throw new EndlessLoop([]);
            Budget?.Spend();
            switch (action)
            {
                case ScxmlRaise r:
                    Raise(new(r.Event, null, null, "internal"));
                    break;
                case ScxmlAssign a:
                    a.Put(this, a.Value(this));
                    break;
                case ScxmlScript s:
                    s.Run(this);
                    break;
                case ScxmlLog l:
                    var said = l.Value?.Invoke(this);
                    Log?.Invoke(l.Label, said);
                    break;
                case ScxmlIf i:
                    foreach (var (condition, then) in i.Branches)
                    {
                        bool holds;
                        try
                        {
                            holds = condition is null || ScxmlExpressions.Truth(condition(this));
                        }
                        catch (ScxmlEvaluation e)
                        {
                            Error(e);
                            holds = false;
                        }
                        if (!holds)
                            continue;
                        Run(then);
                        break;
                    }
                    break;
                case ScxmlForeach f:
                    if (f.Array(this) is not List<object?> list)
                        throw new ScxmlEvaluation("foreach needs a list.");
                    values.TryAdd(f.Item, null);
                    if (f.Index is not null)
                        values.TryAdd(f.Index, null);
                    var copy = list.ToArray();
                    for (var k = 0; k < copy.Length; k++)
                    {
                        values[f.Item] = copy[k];
                        if (f.Index is not null)
                            values[f.Index] = (double)k;
                        Budget?.Spend();
                        if (++actionsNow > MostActionsAtOnce)
                            throw new EndlessLoop([]);
                        Run(f.Body);
                    }
                    break;
                case ScxmlSend s:
                    Sent(s);
                    break;
                case ScxmlCancel c:
                    Cancel(ScxmlExpressions.Text(c.Id(this)));
                    break;
            }
        }
    }

    private void Sent(ScxmlSend s)
    {
        var id = s.Id;
        if (s.IdLocation is not null)
        {
            id = $"send{++order}";
            s.IdLocation(this, id);
        }
        object? data =
            s.Content is not null ? s.Content(this)
            : s.Parameters.Count > 0 ? s.Parameters.GroupBy(p => p.Name).ToDictionary(g => g.Key, g => g.Last().Value(this))
            : null;
        var made = new ScxmlEvent(ScxmlExpressions.Text(s.Event(this)), data, id, s.ToInternal ? "internal" : "external");
        if (s.ToInternal)
            Raise(made);
        else if (s.DelayMs?.Invoke(this) is double ms && ms > 0)
        {
            if (timers.Count >= MostWaiting)
                throw new ScxmlEvaluation("Too many delayed events wait.");
            order++;
            if (id is not null)
                pendingIds[id] = pendingIds.GetValueOrDefault(id) + 1;
            timers.Enqueue((made, order), (clockMs + ms, order));
        }
        else
        {
            if (outside.Count >= MostWaiting)
                throw new ScxmlEvaluation("Too many events wait.");
            outside.Enqueue(made);
        }
    }

    private void Cancel(string id)
    {
        if (!pendingIds.Remove(id))
            return;
        foreach (var (element, _) in timers.UnorderedItems)
            if (element.Event.SendId == id)
                cancelled.Add($"{id}#{element.Order}");
    }

    // ---- what expressions see ----

    object? IScxmlScope.Get(string name) =>
        values.TryGetValue(name, out var v) ? v : throw new ScxmlEvaluation($"Nobody declared “{name}”.");

    bool IScxmlScope.Knows(string name) => values.ContainsKey(name);

    void IScxmlScope.Set(string name, object? value)
    {
        if (name.StartsWith('_'))
            throw new ScxmlEvaluation($"“{name}” may not be set.");
        if (!values.ContainsKey(name))
            throw new ScxmlEvaluation($"Nobody declared “{name}”.");
        values[name] = value;
    }

    void IScxmlScope.Declare(string name, object? value)
    {
        if (name.StartsWith('_'))
            throw new ScxmlEvaluation($"“{name}” may not be set.");
        if (values.Count > 10_000)
            throw new ScxmlEvaluation("Too many names.");
        values[name] = value;
    }

    void IScxmlScope.Makes(int size)
    {
        if (size > ScxmlExpressions.MostSize)
            throw new ScxmlEvaluation($"A text or list has at most {ScxmlExpressions.MostSize} characters or items.");
        if ((made += size) > MostMade)
            throw new OutOfSteps(MostMade);
    }

    bool IScxmlScope.In(string state) => document.IndexOf(state) is >= 0 and var node && machine.IsActive(node);
}
