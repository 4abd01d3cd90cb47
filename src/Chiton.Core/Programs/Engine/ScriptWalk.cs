using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Engine;

/// <summary>A transition that was taken in a walk.</summary>
/// <param name="Line">Line of the script.</param>
/// <param name="Text">Its sentence.</param>
/// <param name="Program">Whose, when several are walked together; null otherwise.</param>
/// <param name="State">The state that it left, or stayed in.</param>
public sealed record WalkTaken(int Line, string Text, string? Program = null, string State = "");

/// <summary>A sentence of an active state that was not taken, and what it waits for.</summary>
/// <param name="Line">Line of the script.</param>
/// <param name="Text">Its sentence.</param>
/// <param name="Why">Why it does not go now.</param>
/// <param name="Event">The event that could set it off; null when none alone could.</param>
/// <param name="Program">Whose, when several are walked together; null otherwise.</param>
/// <param name="State">The state whose sentence it is.</param>
public sealed record WalkWaiting(int Line, string Text, string Why, string? Event, string? Program = null, string State = "");

/// <summary>A variable or queue as it stands.</summary>
public sealed record WalkValue(string Name, string Value);

/// <summary>How a machine stands after a step of a walk.</summary>
/// <param name="Event">What happened; null for the start.</param>
/// <param name="TimeS">When, s since the start.</param>
/// <param name="States">Active atomic states.</param>
/// <param name="Taken">Transitions taken, in order.</param>
/// <param name="Commands">What was commanded, in words.</param>
/// <param name="Values">Variables and queues.</param>
/// <param name="Waiting">Sentences of active states and what they wait for.</param>
/// <param name="Finished">True once every region is final.</param>
/// <param name="Fault">Why it had to be stopped; null while it runs well.</param>
/// <param name="NextDueS">In how many seconds a time comes due; null when none does.</param>
public sealed record WalkMoment(
    string? Event,
    double TimeS,
    IReadOnlyList<string> States,
    IReadOnlyList<WalkTaken> Taken,
    IReadOnlyList<string> Commands,
    IReadOnlyList<WalkValue> Values,
    IReadOnlyList<WalkWaiting> Waiting,
    bool Finished,
    string? Fault,
    double? NextDueS
)
{
    /// <summary>Where each running routine is, as Routine.State.</summary>
    public IReadOnlyList<string> Inside { get; init; } = [];

    /// <summary>Messages on their way, in words, when several programs are walked together.</summary>
    public IReadOnlyList<string> OnTheWay { get; init; } = [];
}

/// <summary>Walks a program through events, the way a teacher traces it on the board: without motors, sensors or chance.</summary>
public static class ScriptWalk
{
    /// <summary>Most sentences, commands and transitions, that one step of a walk tells.</summary>
    public const int MostTold = 200;

    /// <summary>Most steps of a walk when nobody says how many.</summary>
    public const long MostSteps = 5_000_000;

    /// <summary>Walks.</summary>
    /// <param name="script">The program.</param>
    /// <param name="events">What happens, in order.</param>
    /// <param name="budget">How much may be done; null for <see cref="MostSteps"/>.</param>
    /// <exception cref="InputProblem">When an event means nothing here, or sets off more than the budget holds, naming it.</exception>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static IReadOnlyList<WalkMoment> Run(CompiledScript script, IReadOnlyList<WalkEvent> events, StepBudget? budget = null)
    {
        var machine = new ScriptMachine(script) { Budget = budget ?? new(MostSteps) };
        var taken = new List<WalkTaken>();
        var said = new List<string>();
        machine.Watcher = (_, unit, t) =>
        {
            if (taken.Count < MostTold)
                taken.Add(Taken(machine, unit, t));
        };
        Within("events", machine.Start);
        var moments = new List<WalkMoment> { Now(null) };
        for (var i = 0; i < events.Count; i++)
        {
            var e = events[i];
            var field = $"events[{i}]";
            Within(field, () => Pass(machine.NowMicros + (long)Math.Round(e.AfterMs * 1000)));
            if (e.Name is { } name)
                Within(field, () => Happen(script, machine, Outside(script, name), e.Data, $"{field}.name"));
            moments.Add(Now(e.Name ?? $"{Figures.Show(e.AfterMs / 1000)} s pass"));
        }
        return moments;

        // From one due time to the next, so that what is commanded on the way need not be kept until the end.
        void Pass(long until)
        {
            while (machine.NextDue is var due && due <= until && machine.Fault is null && !machine.Finished)
            {
                machine.Pass(Math.Max(due, machine.NowMicros));
                Hear();
            }
            machine.Pass(until);
        }

        void Hear()
        {
            for (var c = 0; c < machine.Commands.Count && said.Count < MostTold; c++)
                if (Say(script, machine, machine.Commands[c]) is { } text)
                    said.Add(text);
            machine.ClearCommands();
        }

        WalkMoment Now(string? what)
        {
            Hear();
            var moment = new WalkMoment(
                what,
                machine.NowMicros * 1e-6,
                machine.Configuration,
                [.. taken],
                [.. said],
                [.. machine.Values.Select(v => new WalkValue(v.Name, v.Value))],
                [
                    .. machine.Waiting.Select(w =>
                        Wait(machine, w.Node, w.GuardHolds) with
                        {
                            State = machine.StateOf(w.Unit, w.Transition),
                        }
                    ),
                ],
                machine.Finished,
                machine.Fault,
                machine.NextDue == long.MaxValue ? null : Math.Max(0, machine.NextDue - machine.NowMicros) * 1e-6
            )
            {
                Inside = Within(machine),
            };
            taken.Clear();
            said.Clear();
            return moment;
        }
    }

    private static IReadOnlyList<string> Within(ScriptMachine machine) =>
        [.. machine.Routines.SelectMany(r => r.States.Select(s => $"{r.Routine}.{s}"))];

    // What takes more than the budget holds is said of the event that set it off.
    private static void Within(string field, Action work)
    {
        try
        {
            work();
        }
        catch (OutOfSteps e)
        {
            throw new InputProblem(
                field,
                $"Here the walk takes more than {e.Steps} steps, so it was stopped. Walk a shorter time, or find what goes on and on."
            );
        }
    }

    private static void Within(string field, Action<ulong> start) => Within(field, () => start(1));

    /// <summary>Walks several programs together: what happens is seen by all of them, and they tell each other.</summary>
    /// <param name="programs">The programs in the rig's order.</param>
    /// <param name="delayMicros">How long a message takes, µs.</param>
    /// <param name="events">What happens, in order.</param>
    /// <param name="budget">How much may be done in all; null for <see cref="MostSteps"/>.</param>
    /// <exception cref="InputProblem">When an event means nothing here, or sets off more than the budget holds, naming it.</exception>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static IReadOnlyList<WalkMoment> Together(
        IReadOnlyList<NetworkProgram> programs,
        long delayMicros,
        IReadOnlyList<WalkEvent> events,
        StepBudget? budget = null
    )
    {
        var network = new ScriptNetwork(programs, delayMicros) { Budget = budget ?? new(MostSteps) };
        var taken = new List<WalkTaken>();
        var said = new List<string>();
        for (var i = 0; i < programs.Count; i++)
        {
            var (machine, name) = (network.Machines[i], programs[i].Name);
            machine.Watcher = (_, unit, t) =>
            {
                if (taken.Count < MostTold)
                    taken.Add(Taken(machine, unit, t) with { Program = name });
            };
        }
        Within("events", network.Start);
        var moments = new List<WalkMoment> { Now(null) };
        for (var i = 0; i < events.Count; i++)
        {
            var e = events[i];
            var field = $"events[{i}]";
            Within(
                field,
                () =>
                {
                    Pass(network.NowMicros + (long)Math.Round(e.AfterMs * 1000));
                    if (e.Name is { } what)
                        for (var p = 0; p < programs.Count; p++)
                        {
                            // The host hears of it only when the link has brought it; what the walk tells is what it does then.
                            if (programs[p].OnHost)
                                Pass(network.NowMicros + delayMicros);
                            Happen(programs[p].Script, network.Machines[p], what, e.Data, $"{field}.name");
                            network.Collect(p);
                        }
                    Pass(network.NowMicros);
                }
            );
            moments.Add(Now(e.Name ?? $"{Figures.Show(e.AfterMs / 1000)} s pass"));
        }
        return moments;

        void Pass(long until)
        {
            while (network.NextDue is var due && due <= until && network.Fault is null && !network.Finished)
            {
                network.Pass(Math.Max(due, network.NowMicros));
                Hear();
            }
            network.Pass(until);
        }

        void Hear()
        {
            // In the order of their times; within one time by program.
            if (said.Count >= MostTold)
            {
                foreach (var m in network.Machines)
                    m.ClearCommands();
                return;
            }
            var now = new List<(long Time, string Text)>();
            for (var i = 0; i < programs.Count; i++)
            {
                var machine = network.Machines[i];
                for (var c = 0; c < machine.Commands.Count && now.Count < MostTold; c++)
                    if (Say(programs[i].Script, machine, machine.Commands[c]) is { } text)
                        now.Add((machine.Commands[c].TimeMicros, $"{programs[i].Name}: {text}"));
                machine.ClearCommands();
            }
            said.AddRange(now.OrderBy(c => c.Time).Select(c => c.Text).Take(MostTold - said.Count));
        }

        WalkMoment Now(string? what)
        {
            Hear();
            var all = network.Machines.Select((m, i) => (Machine: m, programs[i].Name, programs[i].Script)).ToArray();
            var due = network.NextDue;
            var moment = new WalkMoment(
                what,
                network.NowMicros * 1e-6,
                [.. all.SelectMany(x => x.Machine.Configuration.Select(s => $"{x.Name}.{s}"))],
                [.. taken],
                [.. said],
                [.. all.SelectMany(x => x.Machine.Values.Select(v => new WalkValue($"{x.Name}: {v.Name}", v.Value)))],
                [
                    .. all.SelectMany(x =>
                        x.Machine.Waiting.Select(w =>
                            Wait(x.Machine, w.Node, w.GuardHolds) with
                            {
                                Program = x.Name,
                                State = x.Machine.StateOf(w.Unit, w.Transition),
                            }
                        )
                    ),
                ],
                network.Finished,
                network.Fault ?? all.Where(x => x.Machine.Fault is not null).Select(x => $"{x.Name}: {x.Machine.Fault}").FirstOrDefault(),
                due == long.MaxValue ? null : Math.Max(0, due - network.NowMicros) * 1e-6
            )
            {
                Inside = [.. all.SelectMany(x => Within(x.Machine).Select(r => $"{x.Name}.{r}"))],
                OnTheWay =
                [
                    .. network.OnTheWay.Select(m =>
                        $"{m.From} tells {m.To} “{m.Text}”, there in "
                        + $"{Figures.Show(Math.Max(0, m.DueMicros - network.NowMicros) * 1e-6, 3)} s"
                    ),
                ],
            };
            taken.Clear();
            said.Clear();
            return moment;
        }
    }

    private static string? Say(CompiledScript script, ScriptMachine machine, ScriptCommand c)
    {
        if (machine.Sentence(c) is { } node)
            return Printer.Plain(Printer.Sentence(node));
        if (c.Device < 0)
            return null;
        var device = script.Devices[c.Device];
        var lamp = script.Rig.Actuators.Any(a => a.Name == device && a.Kind == Rigs.ActuatorKind.Lamp);
        return $"{device} {(lamp ? "goes off" : "stops")}: {Why(c.Activity)}";
    }

    private static WalkTaken Taken(ScriptMachine machine, int unit, int transition)
    {
        var node = machine.Transition(unit, transition);
        return new(node.Span.Line, Printer.Plain(Printer.Pieces(node)), null, machine.StateOf(unit, transition));
    }

    private static string Why(int activity) =>
        activity switch
        {
            -2 => "its time is up",
            -3 => "its program ended",
            _ => "its state was left",
        };

    private static WalkWaiting Wait(ScriptMachine machine, TransitionNode t, bool guardHolds)
    {
        var text = Printer.Plain(Printer.Pieces(t));
        var why = t.Trigger switch
        {
            ZoneTriggerNode z => $"waits until {z.Sensor} "
                + $"{(z.Relation == ZoneRelation.Leaves ? "leaves" : z.Relation == ZoneRelation.Is ? "is in" : "comes into")} {z.Zone}",
            PressTriggerNode p => $"waits until {p.Sensor} is {Word(p.Kind)}{(p.Time is null ? "" : " for " + Printer.Print(p.Time))}",
            StallTriggerNode s => $"waits until {s.Device} stalls",
            GiveUpTriggerNode g => $"waits until {g.Device} gives up",
            ToldTriggerNode m => $"waits to be told “{m.Text}”",
            SilenceTriggerNode n =>
                $"waits for {Printer.Print(n.Time)} {(n.Text is null ? "of silence" : $"without being told “{n.Text}”")}",
            AfterTriggerNode a => $"waits for {Printer.Print(a.Time)} since the state was entered",
            EveryTriggerNode e => $"comes every {Printer.Print(e.Time)}",
            ConditionTriggerNode { Condition: DoneNode { Device: { } d } } => $"waits until {d} is done",
            ConditionTriggerNode { Condition: GivenUpNode { Device: var d } } => $"waits until {d} has given up",
            ConditionTriggerNode { Condition: ZoneIsNode { Not: false } z } => $"waits until {z.Sensor} is in {z.Zone}",
            ConditionTriggerNode { Condition: CannotTellNode q } => $"waits until {q.Sensor} cannot tell",
            ConditionTriggerNode { Condition: SilentNode q } => $"waits until {q.Sensor} hears nothing",
            ConditionTriggerNode c => $"{Printer.Print(c.Condition)} does not hold, or has been taken already",
            _ => "has been taken already",
        };
        var what = EventOf(t.Trigger);
        return new(t.Span.Line, text, guardHolds ? why : $"{Printer.Print(t.Guard!)} does not hold", guardHolds ? what : null);
    }

    /// <summary>The event that could set a trigger off, by its name in a walk; null where none alone could.</summary>
    internal static string? EventOf(TriggerNode trigger) =>
        trigger switch
        {
            ZoneTriggerNode { Relation: not ZoneRelation.Leaves } z => $"{z.Sensor} is {z.Zone}",
            PressTriggerNode p => $"{p.Sensor} {Word(p.Kind)}{(p.Time is null ? "" : " for " + Printer.Print(p.Time))}",
            StallTriggerNode s => $"{s.Device} stalls",
            GiveUpTriggerNode g => $"{g.Device} gives up",
            ToldTriggerNode m => $"told {m.Text}{(m.From is null ? "" : " from " + m.From)}",
            ConditionTriggerNode { Condition: DoneNode { Device: { } d } } => $"{d} done",
            ConditionTriggerNode { Condition: GivenUpNode { Device: var d } } => $"{d} gives up",
            ConditionTriggerNode { Condition: ZoneIsNode { Not: false } z } => $"{z.Sensor} is {z.Zone}",
            ConditionTriggerNode { Condition: CannotTellNode q } => $"{q.Sensor} cannot tell",
            ConditionTriggerNode { Condition: SilentNode q } => $"{q.Sensor} hears nothing",
            _ => null,
        };

    private static string Word(PressKind kind) =>
        kind switch
        {
            PressKind.Pressed => "pressed",
            PressKind.Released => "released",
            PressKind.Tapped => "tapped",
            PressKind.TappedTwice => "tapped twice",
            _ => "held",
        };

    /// <summary>Makes an event happen by its name: “Shelf eye is notch”, “Tongue done”, “Mast stalls”, “Order knob tapped”,
    /// “told ask from Landing”, “Range reads 50 mm”.</summary>
    internal static void Happen(CompiledScript script, ScriptMachine machine, string name, object? data, string field)
    {
        var text = string.Join(' ', name.Split(' ', StringSplitOptions.RemoveEmptyEntries));
        if (text.StartsWith("told ", StringComparison.Ordinal))
        {
            var from =
                text.LastIndexOf(" from ", StringComparison.Ordinal) is > 0 and var at
                && Array.IndexOf(script.Programs, text[(at + 6)..].Trim('"')) >= 0
                    ? at
                    : -1;
            var said = (from > 0 ? text[5..from] : text[5..]).Trim('"');
            // What nobody listens for is heard all the same: it breaks a silence.
            double[] values = data switch
            {
                List<object?> list => [.. list.Take(16).Select(v => Value(script, v))],
                null => [],
                _ => [Value(script, data)],
            };
            machine.Told(
                Array.IndexOf(script.Texts, said),
                from > 0 ? Array.IndexOf(script.Programs, text[(from + 6)..].Trim('"')) : -1,
                values
            );
            return;
        }
        foreach (var (sensor, index) in script.Sensors.Select((s, i) => (s, i)).OrderByDescending(s => s.s.Length))
        {
            if (!text.StartsWith(sensor + " ", StringComparison.Ordinal))
                continue;
            var rest = text[(sensor.Length + 1)..];
            var word = script.Rig.Sensors[index];
            if (word.Switch)
            {
                var bare = rest.StartsWith("is ", StringComparison.Ordinal) ? rest[3..] : rest;
                var (up, isDown) = (script.ZoneIndex("up"), machine.IsDown(index));
                // What is down already comes up before it is pressed again.
                if (isDown && (bare is "tapped" or "tapped twice" or "pressed" || bare.StartsWith("held", StringComparison.Ordinal)))
                    machine.SeeZone(index, up);
                if (bare is "tapped")
                {
                    machine.Tap(index);
                    return;
                }
                if (bare is "tapped twice")
                {
                    machine.Tap(index);
                    machine.Tap(index);
                    return;
                }
                if (bare is "pressed" or "down")
                {
                    machine.SeeZone(index, script.ZoneIndex("down"));
                    return;
                }
                if (bare is "released" or "up")
                {
                    machine.SeeZone(index, script.ZoneIndex("up"));
                    return;
                }
                if (bare == "held" || bare.StartsWith("held for ", StringComparison.Ordinal))
                {
                    machine.SeeZone(index, script.ZoneIndex("down"));
                    machine.Pass(machine.NowMicros + (long)((bare == "held" ? 10 : Amount(bare[9..], field)) * 1e6));
                    return;
                }
            }
            var zone =
                rest.StartsWith("is ", StringComparison.Ordinal) ? rest[3..]
                : rest.StartsWith("becomes ", StringComparison.Ordinal) ? rest[8..]
                : null;
            if (zone is not null && word.Zones.Contains(zone))
            {
                machine.SeeZone(index, script.ZoneIndex(zone));
                return;
            }
            if (zone is not null)
                throw new InputProblem(field, $"{sensor} has no zone “{zone}”. Its zones are {string.Join(", ", word.Zones)}.");
            if (rest == "cannot tell" && word.Teachable)
            {
                machine.Confuse(index);
                return;
            }
            if (rest == "hears nothing" && word.MayHearNothing)
            {
                machine.Silent(index);
                return;
            }
            if (rest == "reads" && data is double number)
            {
                machine.Read(index, number);
                return;
            }
            if (rest.StartsWith("reads ", StringComparison.Ordinal))
            {
                machine.Read(index, Amount(rest[6..], field));
                return;
            }
        }
        foreach (var device in script.DeviceOf.Keys.OrderByDescending(k => k.Length))
        {
            if (text == device + " done" || text == device + " is done")
            {
                machine.Ended(script.DeviceOf[device]);
                return;
            }
            if (text == device + " gives up" || text == device + " has given up")
            {
                machine.GivesUp(script.DeviceOf[device]);
                return;
            }
            if (text == device + " stalls")
            {
                machine.Stalled(script.DeviceOf[device]);
                return;
            }
            if (text.StartsWith($"travel of {device} is ", StringComparison.Ordinal))
            {
                machine.Moved(script.DeviceOf[device], Amount(text[(14 + device.Length)..], field), machine.Angle(script.DeviceOf[device]));
                return;
            }
            if (text.StartsWith($"angle of {device} is ", StringComparison.Ordinal))
            {
                machine.Moved(
                    script.DeviceOf[device],
                    machine.Travel(script.DeviceOf[device]),
                    Amount(text[(13 + device.Length)..], field)
                );
                return;
            }
        }
        throw new InputProblem(field, $"“{name}” means nothing here. Events are such as “{Example(script)}”.");
    }

    private static string Example(CompiledScript script) =>
        script.Rig.Sensors.FirstOrDefault(s => s.Zones.Count > 0) is { } s ? $"{s.Name} is {s.Zones[0]}” or “told ask" : "told ask";

    // An event may name a device of the program's own controller as the program does.
    private static string Outside(CompiledScript script, string name)
    {
        foreach (var own in script.OwnNames.OrderByDescending(o => o.Name.Length))
        foreach (var before in (string[])["", "travel of ", "angle of "])
            if (name.StartsWith($"{before}{own.Name} ", StringComparison.Ordinal))
                return before + own.Outside + name[(before.Length + own.Name.Length)..];
        return name;
    }

    private static double Amount(string text, string field)
    {
        var t = text.Trim();
        foreach (var unit in Unit.All)
            if (
                t.EndsWith(" " + unit.Text, StringComparison.Ordinal)
                && double.TryParse(t[..^(unit.Text.Length + 1)], NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
                && double.IsFinite(v)
            )
                return v * unit.Factor;
        return double.TryParse(t, NumberStyles.Float, CultureInfo.InvariantCulture, out var plain) && double.IsFinite(plain)
            ? plain
            : throw new InputProblem(field, $"“{text}” is no amount.");
    }

    private static double Value(CompiledScript script, object? data) =>
        data switch
        {
            double d => d,
            bool b => b ? 1 : 0,
            string s => script.ZoneIndex(s) is >= 0 and var zone ? zone : Array.IndexOf(script.Texts, s),
            _ => 0,
        };
}
