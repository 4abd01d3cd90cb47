using Chiton.Core.Sensing;

namespace Chiton.Core.Programs;

/// <summary>A command the engine gives.</summary>
/// <param name="Kind">What to do.</param>
/// <param name="Device">Actuator index, −1 for the controller itself.</param>
/// <param name="Value">Power in %, frequency in Hz, or text index.</param>
/// <param name="Extra">Length of a tone, s.</param>
public readonly record struct Command(CommandKind Kind, int Device, double Value, double Extra);

/// <summary>What set a transition off.</summary>
public enum CauseKind
{
    /// <summary>A reading.</summary>
    Reading,
    /// <summary>A time that was due.</summary>
    Timer,
    /// <summary>A condition that holds, found right after something else happened.</summary>
    Condition,
}

/// <summary>Told of every transition, in order. Used when someone watches; null when thousands of runs are counted.</summary>
public interface IMachineWatcher
{
    /// <summary>A transition was taken.</summary>
    /// <param name="timeMicros">When, µs since the start.</param>
    /// <param name="transition">Which, or −1 for entering the initial state.</param>
    /// <param name="cause">What set it off.</param>
    /// <param name="reading">The reading, for <see cref="CauseKind.Reading"/>; else NaN.</param>
    /// <param name="variables">Values of the variables before its actions.</param>
    void Taken(long timeMicros, int transition, CauseKind cause, double reading, ReadOnlySpan<double> variables);
}

/// <summary>
/// Runs a compiled program: one event at a time, each run to completion, in document order. Allocates nothing once made.
/// The step follows the W3C recommendation State Chart XML (2015) as far as the language goes so far.
/// </summary>
public sealed class Machine
{
    /// <summary>Transitions without an event from outside after which a run is stopped.</summary>
    public const int MostSilentTransitions = 1000;

    private readonly CompiledProgram program;
    private readonly int[] active;
    private readonly double[] variables;
    private readonly double[] stack;
    private readonly ZoneTracker[] trackers;
    private readonly ZoneTracker[] edges;
    private readonly bool[] edgeFired;
    private readonly bool[] levelSpent;
    private readonly long[] due;
    private readonly bool[] stopPending;
    private readonly bool[] lampPending;
    private readonly Command[] commands;
    private int commandCount;
    private long now;
    private bool variablesChanged;

    /// <summary>An engine for a program.</summary>
    public Machine(CompiledProgram program)
    {
        this.program = program;
        active = new int[program.InitialStates.Length];
        variables = new double[program.Variables.Count];
        stack = new double[program.StackDepth];
        trackers = new ZoneTracker[program.Trackers.Length];
        edges = new ZoneTracker[program.EdgeTrackers.Length];
        edgeFired = new bool[program.EdgeTrackers.Length];
        levelSpent = new bool[program.TransitionTable.Length];
        due = new long[program.TransitionTable.Length];
        stopPending = new bool[program.Actuators.Count];
        lampPending = new bool[program.Actuators.Count];
        commands = new Command[Math.Max(16, 4 * (program.Actions.Length + program.Actuators.Count))];
    }

    /// <summary>Told of every transition; null when nobody watches.</summary>
    public IMachineWatcher? Watcher { get; set; }

    /// <summary>Commands given since <see cref="ClearCommands"/>, in order.</summary>
    public ReadOnlySpan<Command> Commands => commands.AsSpan(0, commandCount);

    /// <summary>Index of the active state of the first region.</summary>
    public int ActiveState => active[0];

    /// <summary>The last transition taken, or −1.</summary>
    public int LastTransition { get; private set; }

    /// <summary>True once every region is final.</summary>
    public bool Finished { get; private set; }

    /// <summary>Why the machine had to be stopped, or null.</summary>
    public string? Fault { get; private set; }

    /// <summary>When the next timer is due, µs since the start; <see cref="long.MaxValue"/> when none is set.</summary>
    public long NextDue { get; private set; }

    /// <summary>Values of the variables, in base units, in the order declared.</summary>
    public ReadOnlySpan<double> Variables => variables;

    /// <summary>True while some <c>while here</c> must be looked at in every step.</summary>
    public bool NeedsStep => variablesChanged;

    /// <summary>Forgets the commands given so far.</summary>
    public void ClearCommands() => commandCount = 0;

    /// <summary>Starts, or starts again, at time 0.</summary>
    public void Start()
    {
        now = 0;
        commandCount = 0;
        LastTransition = -1;
        Finished = false;
        Fault = null;
        variablesChanged = false;
        Array.Fill(due, long.MaxValue);
        NextDue = long.MaxValue;
        Array.Clear(stopPending);
        Array.Clear(lampPending);
        Array.Clear(levelSpent);
        Array.Clear(edgeFired);
        Array.Fill(trackers, ZoneTracker.Unread);
        Array.Fill(edges, ZoneTracker.Unread);
        Array.Clear(variables);
        for (var i = 0; i < program.InitialValues.Length; i++) variables[i] = Evaluate(program.InitialValues[i]);
        for (var region = 0; region < active.Length; region++)
        {
            active[region] = program.InitialStates[region];
            Watcher?.Taken(0, -1, CauseKind.Condition, double.NaN, variables);
            Enter(active[region]);
        }
        Settle();
    }

    /// <summary>Fires every timer due at or before a time, each run to completion, by due time and then document order.</summary>
    /// <param name="timeMicros">Time now, µs since the start.</param>
    public void Timers(long timeMicros)
    {
        now = timeMicros;
        while (NextDue <= timeMicros && Fault is null && !Finished)
        {
            var which = -1;
            for (var i = 0; i < due.Length; i++)
                if (due[i] <= timeMicros && (which < 0 || due[i] < due[which])) which = i;
            if (which < 0) break;
            due[which] = long.MaxValue;
            FindNextDue();
            var transition = program.TransitionTable[which];
            if (Guarded(transition)) Take(which, CauseKind.Timer, double.NaN);
            Settle();
        }
    }

    /// <summary>Takes a reading in and runs to completion.</summary>
    /// <param name="sensor">Sensor index.</param>
    /// <param name="reading">The reading, or NaN for a dropout.</param>
    /// <param name="timeMicros">Time now, µs since the start.</param>
    public void Reading(int sensor, double reading, long timeMicros)
    {
        if (Finished || Fault is not null) return;
        now = timeMicros;
        if (program.Scales[sensor] is not { } scale) return;
        var changed = false;
        for (var i = 0; i < trackers.Length; i++)
            if (program.Trackers[i].Sensor == sensor) changed |= trackers[i].Held < 0 | trackers[i].Take(scale, reading, program.Trackers[i].Needed);
        for (var region = 0; region < active.Length; region++)
        {
            var range = program.StateTable[active[region]].Transitions;
            for (var t = range.Start; t < range.End; t++)
            {
                var transition = program.TransitionTable[t];
                if (transition.Kind != TriggerKind.Edge || transition.Sensor != sensor) continue;
                ref var tracker = ref edges[transition.EdgeTracker];
                var before = tracker.Held;
                var moved = tracker.Take(scale, reading, program.EdgeTrackers[transition.EdgeTracker].Needed);
                edgeFired[transition.EdgeTracker] = moved && (transition.Leaves ? before == transition.Zone : tracker.Held == transition.Zone);
                changed |= moved;
            }
        }
        if (!changed) return;
        for (var region = 0; region < active.Length; region++)
        {
            var range = program.StateTable[active[region]].Transitions;
            for (var t = range.Start; t < range.End; t++)
            {
                var transition = program.TransitionTable[t];
                var fires = transition.Kind == TriggerKind.Edge ? transition.Sensor == sensor && edgeFired[transition.EdgeTracker] : LevelRises(t, transition);
                if (!fires || !Guarded(transition)) continue;
                if (transition.Kind != TriggerKind.Edge) levelSpent[t] = true;
                Take(t, transition.Kind == TriggerKind.Condition ? CauseKind.Condition : CauseKind.Reading, reading);
                break;
            }
        }
        Array.Clear(edgeFired);
        Settle();
    }

    /// <summary>Evaluates <c>while here</c> expressions anew; to be called once a step while <see cref="NeedsStep"/>.</summary>
    public void Step()
    {
        variablesChanged = false;
        for (var region = 0; region < active.Length; region++)
        {
            var state = program.StateTable[active[region]];
            if (state.WhileVaries) Run(state.While, true);
        }
    }

    // Conditions and levels until nothing more happens: the eventless part of a step.
    private void Settle()
    {
        for (var silent = 0; ; silent++)
        {
            var taken = false;
            for (var region = 0; region < active.Length && !taken && !Finished; region++)
            {
                var range = program.StateTable[active[region]].Transitions;
                for (var t = range.Start; t < range.End; t++)
                {
                    var transition = program.TransitionTable[t];
                    if (transition.Kind is not (TriggerKind.Level or TriggerKind.Condition)) continue;
                    if (!LevelRises(t, transition) || !Guarded(transition)) continue;
                    if (silent >= MostSilentTransitions)
                    {
                        Fault = NameLoop(t);
                        break;
                    }
                    levelSpent[t] = true;
                    Take(t, CauseKind.Condition, double.NaN);
                    taken = true;
                    break;
                }
            }
            if (!taken || Fault is not null) break;
        }
        Finished = true;
        for (var region = 0; region < active.Length; region++) Finished &= program.StateTable[active[region]].Final;
        for (var device = 0; device < stopPending.Length; device++)
        {
            if (stopPending[device]) Emit(new(CommandKind.StopDefault, device, 0, 0));
            if (lampPending[device]) Emit(new(CommandKind.LampOff, device, 0, 0));
        }
    }

    private string NameLoop(int transition)
    {
        var t = program.TransitionTable[transition];
        var from = program.StateTable[t.Source].Name;
        return t.Target < 0
            ? $"“{from}” goes round in a loop without anything happening: line {t.Line} sets itself off again and again."
            : $"The machine goes round in a loop without anything happening, through “{from}” and “{program.StateTable[t.Target].Name}” (line {t.Line}).";
    }

    // True when the level holds and has not fired already since it last did not hold.
    private bool LevelRises(int index, CompiledTransition transition)
    {
        bool holds;
        if (transition.Kind == TriggerKind.Level) holds = trackers[transition.Tracker].Held == transition.Zone;
        else if (transition.Kind == TriggerKind.Condition) holds = Evaluate(transition.Code) != 0;
        else return false;
        if (!holds) levelSpent[index] = false;
        return holds && !levelSpent[index];
    }

    private bool Guarded(CompiledTransition transition) => transition.Guard.Count == 0 || Evaluate(transition.Guard) != 0;

    private void Take(int index, CauseKind cause, double reading)
    {
        var transition = program.TransitionTable[index];
        LastTransition = index;
        Watcher?.Taken(now, index, cause, reading, variables);
        if (transition.Target < 0)
        {
            Run(transition.Actions, false);
            return;
        }
        var state = program.StateTable[transition.Source];
        for (var a = state.While.Start; a < state.While.End; a++)
        {
            var action = program.Actions[a];
            if (action.Kind == CommandKind.Run) stopPending[action.Device] = true;
            else if (action.Kind == CommandKind.LampOn) lampPending[action.Device] = true;
        }
        Run(state.Exit, false);
        for (var t = state.Transitions.Start; t < state.Transitions.End; t++) due[t] = long.MaxValue;
        Run(transition.Actions, false);
        for (var region = 0; region < active.Length; region++)
            if (active[region] == transition.Source) active[region] = transition.Target;
        Enter(transition.Target);
    }

    private void Enter(int index)
    {
        var state = program.StateTable[index];
        for (var t = state.Transitions.Start; t < state.Transitions.End; t++)
        {
            var transition = program.TransitionTable[t];
            levelSpent[t] = false;
            if (transition.EdgeTracker >= 0) edges[transition.EdgeTracker] = trackers[transition.Tracker].Restarted;
        }
        Run(state.Entry, false);
        Run(state.While, false);
        // Times count from entry, with the values variables have once the entry actions are done.
        for (var t = state.Transitions.Start; t < state.Transitions.End; t++)
            if (program.TransitionTable[t].Kind == TriggerKind.After)
                due[t] = now + (long)Math.Round(Math.Clamp(Evaluate(program.TransitionTable[t].Code), 0, 1e9) * 1e6);
        FindNextDue();
    }

    private void FindNextDue()
    {
        var next = long.MaxValue;
        foreach (var time in due) next = Math.Min(next, time);
        NextDue = next;
    }

    private void Run(Range range, bool onlyVarying)
    {
        for (var a = range.Start; a < range.End; a++)
        {
            var action = program.Actions[a];
            if (onlyVarying && !action.Varies) continue;
            switch (action.Kind)
            {
                case CommandKind.Set:
                    variables[action.Slot] = Evaluate(action.Code);
                    variablesChanged = true;
                    break;
                case CommandKind.Show:
                    Emit(new(CommandKind.Show, -1, action.Slot, 0));
                    break;
                case CommandKind.Run:
                    Emit(new(CommandKind.Run, action.Device, Math.Clamp(Evaluate(action.Code), -100, 100), 0));
                    break;
                case CommandKind.Tone:
                    Emit(new(CommandKind.Tone, -1, Evaluate(action.Code), Evaluate(action.Extra)));
                    break;
                default:
                    Emit(new(action.Kind, action.Device, 0, 0));
                    break;
            }
        }
    }

    private void Emit(Command command)
    {
        if (command.Device >= 0)
        {
            stopPending[command.Device] = false;
            lampPending[command.Device] = false;
        }
        // Only the latest commands of a step can matter: a run of silent transitions may give more than there is room for.
        if (commandCount == commands.Length)
        {
            Array.Copy(commands, commands.Length / 2, commands, 0, commands.Length / 2);
            commandCount = commands.Length / 2;
        }
        commands[commandCount++] = command;
    }

    private double Evaluate(Range range)
    {
        var code = program.Code;
        if (range.Count == 1)
        {
            ref readonly var only = ref code[range.Start];
            return only.Code == OpCode.Push ? only.Value : variables[only.Slot];
        }
        var top = -1;
        for (var i = range.Start; i < range.End; i++)
        {
            ref readonly var op = ref code[i];
            if (op.Code == OpCode.Push) stack[++top] = op.Value;
            else if (op.Code == OpCode.Load) stack[++top] = variables[op.Slot];
            else if (op.Code is OpCode.Not or OpCode.Negate or OpCode.Abs or OpCode.Round)
                stack[top] = op.Code switch
                {
                    OpCode.Not => stack[top] == 0 ? 1 : 0,
                    OpCode.Negate => -stack[top],
                    OpCode.Abs => Math.Abs(stack[top]),
                    _ => Math.Round(stack[top], MidpointRounding.AwayFromZero),
                };
            else
            {
                var b = stack[top--];
                var a = stack[top];
                stack[top] = op.Code switch
                {
                    OpCode.Add => a + b,
                    OpCode.Subtract => a - b,
                    OpCode.Multiply => a * b,
                    // A quotient by nothing is taken as nothing: a machine in front of a class must not hold a number that is none.
                    OpCode.Divide => b == 0 ? 0 : a / b,
                    OpCode.Equal => a == b ? 1 : 0,
                    OpCode.NotEqual => a != b ? 1 : 0,
                    OpCode.Less => a < b ? 1 : 0,
                    OpCode.LessOrEqual => a <= b ? 1 : 0,
                    OpCode.Greater => a > b ? 1 : 0,
                    OpCode.GreaterOrEqual => a >= b ? 1 : 0,
                    OpCode.And => a != 0 && b != 0 ? 1 : 0,
                    OpCode.Or => a != 0 || b != 0 ? 1 : 0,
                    OpCode.Min => Math.Min(a, b),
                    _ => Math.Max(a, b),
                };
            }
        }
        return stack[0];
    }
}
