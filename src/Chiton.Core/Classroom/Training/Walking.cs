using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Classroom.Training;

/// <summary>Exercises of reading and tracing: what happens next, and five events in a row. The engine itself walks them.</summary>
public static class Walking
{
    private const int Tries = 40;

    // Enough for any walk of a few events; one that goes on and on is no exercise.
    private const long Steps = 20_000;

    private sealed record Machine(
        ProgramNode Program,
        CompiledScript Script,
        IReadOnlyDictionary<int, (StateNode State, TransitionNode Line)> Lines
    )
    {
        // Where there is one region, its name says nothing.
        private readonly string only = Program.Regions.Count == 1 && Program.Regions[0].Name != "" ? Program.Regions[0].Name + "." : "";

        public string Short(string state) => only != "" && state.StartsWith(only, StringComparison.Ordinal) ? state[only.Length..] : state;
    }

    private static Machine? Of(TrainingRig rig)
    {
        var design = rig.Copy.Rig;
        var parsed = ScriptParser.Parse(design.Program.Script, Vocabulary.For(design, design.Program));
        if (parsed.Diagnostics.Count > 0 || !parsed.Program.AllStates.Any())
            return null;
        return new(
            parsed.Program,
            ScriptCompiler.ForWalk(parsed.Program, design, rig.Copy.Calibrations),
            parsed
                .Program.AllStates.SelectMany(s => s.Lines.OfType<TransitionNode>().Select(t => (s, t)))
                .ToDictionary(x => x.t.Span.Line, x => (x.s, x.t))
        );
    }

    private static IReadOnlyList<WalkMoment>? Walk(Machine machine, IReadOnlyList<WalkEvent> events)
    {
        try
        {
            IReadOnlyList<WalkMoment> moments =
            [
                .. ScriptWalk.Run(machine.Script, events, new(Steps)).Select(m => m with { States = [.. m.States.Select(machine.Short)] }),
            ];
            return moments.Any(m => m.Fault is not null) ? null : moments;
        }
        catch (InputProblem)
        {
            // An event that means nothing here, or goes on and on: another one is drawn.
            return null;
        }
    }

    // What could happen at a moment: what some sentence waits for, whether or not its condition holds; time that passes; and each sensor
    // in the zone again that it is in.
    private static List<WalkEvent> Possible(Machine machine, WalkMoment now, IReadOnlyDictionary<string, string> zones)
    {
        var events = new List<WalkEvent>();
        foreach (var waiting in now.Waiting)
            if (machine.Lines.TryGetValue(waiting.Line, out var at) && ScriptWalk.EventOf(at.Line.Trigger) is { } what)
                events.Add(new(what, null, 100));
        if (now.NextDueS is > 0 and < 3600)
            events.Add(new(null, null, Math.Ceiling(now.NextDueS.Value * 1e6) / 1000));
        events.AddRange(zones.Select(z => new WalkEvent($"{z.Key} is {z.Value}", null, 100)));
        return [.. events.Distinct()];
    }

    private static void Note(Machine machine, WalkEvent e, Dictionary<string, string> zones)
    {
        foreach (var sensor in machine.Script.Rig.Sensors)
            if (e.Name?.StartsWith($"{sensor.Name} is ", StringComparison.Ordinal) == true)
                zones[sensor.Name] = e.Name[(sensor.Name.Length + 4)..];
    }

    // A walk knows no single readings: what a sensor sees it goes on seeing, as long as any sentence asks for.
    private static string Say(Machine machine, WalkEvent e)
    {
        if (e.Name is not { } name)
            return $"{Figures.Show(e.AfterMs / 1000)} s pass.";
        if (name.StartsWith("told ", StringComparison.Ordinal))
        {
            var from = name.LastIndexOf(" from ", StringComparison.Ordinal);
            return from < 0 ? $"It is told “{name[5..]}”." : $"It is told “{name[5..from]}”{name[from..]}.";
        }
        return machine.Script.Rig.Sensors.Any(s => name.StartsWith($"{s.Name} is ", StringComparison.Ordinal))
            ? $"{name}, and stays so."
            : $"{name}.";
    }

    private static (List<WalkEvent> Events, IReadOnlyList<WalkMoment> Moments, Dictionary<string, string> Zones)? Wander(
        Machine machine,
        int length,
        ref RandomStream luck
    )
    {
        var events = new List<WalkEvent>();
        var zones = new Dictionary<string, string>();
        if (Walk(machine, events) is not { } moments)
            return null;
        while (events.Count < length)
        {
            var next = Possible(machine, moments[^1], zones);
            if (next.Count == 0 || moments[^1].Finished)
                return null;
            var e = next[luck.Below(next.Count)];
            events.Add(e);
            if (Walk(machine, events) is not { } longer)
                return null;
            moments = longer;
            Note(machine, e, zones);
        }
        return (events, moments, zones);
    }

    private static string[] Shown(Machine machine, IEnumerable<string> states)
    {
        var lines = new List<string>();
        // A state by its own name: of a path the states on the way are shown too, for their sentences count as well.
        var names = states.SelectMany(s => s.Split('.')).ToHashSet();
        foreach (var state in machine.Program.AllStates.Where(s => names.Contains(s.Name)))
        {
            lines.Add(Printer.Plain(Printer.Pieces(state)));
            lines.AddRange(state.Lines.Select(l => "  " + Printer.Plain(Printer.Pieces(l))));
        }
        return [.. lines];
    }

    private static string[] Facts(WalkMoment now, IReadOnlyDictionary<string, string> zones) =>
        [
            $"It is in {Figures.List(now.States)}.",
            .. now.Values.Select(v => $"{v.Name} is {v.Value}."),
            .. zones.Select(z => $"{z.Key} sees {z.Value}."),
        ];

    /// <summary>What happens next; null where the rig has no machine that gives one.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="seed">Seed of what is drawn.</param>
    public static Exercise? Next(TrainingRig rig, ulong seed)
    {
        if (Of(rig) is not { } machine)
            return null;
        var luck = new RandomStream(seed, 1);
        Exercise? plain = null;
        for (var i = 0; i < Tries; i++)
        {
            if (Wander(machine, luck.Below(7), ref luck) is not var (events, moments, zones) || moments[^1].Finished)
                continue;
            var possible = Possible(machine, moments[^1], zones);
            if (possible.Count == 0)
                continue;
            var (made, tempts) = Ask(rig, machine, events, moments[^1], zones, possible[luck.Below(possible.Count)], ref luck);
            // One in which a wrong reading leads astray teaches more; without any, what there is.
            if (made is not null && tempts)
                return made;
            plain ??= made;
        }
        return plain;
    }

    private static (Exercise? Made, bool Tempts) Ask(
        TrainingRig rig,
        Machine machine,
        List<WalkEvent> events,
        WalkMoment now,
        Dictionary<string, string> zones,
        WalkEvent what,
        ref RandomStream luck
    )
    {
        if (Walk(machine, [.. events, what]) is not { } moments)
            return default;
        var then = moments[^1];
        // Several at once are several questions.
        if (then.Taken.Count > 1)
            return default;
        var taken = then.Taken.Count == 1 ? then.Taken[0] : null;
        if (taken is not null && !machine.Lines.ContainsKey(taken.Line))
            return default;
        var several = now.States.Count > 1;
        string Text(int line) =>
            machine.Lines[line] is var (state, t) && (several || now.States.Any(s => s.Contains('.')))
                ? $"{state.Name}: {Printer.Plain(Printer.Pieces(t))}"
                : Printer.Plain(Printer.Pieces(machine.Lines[line].Line));
        var follows =
            $"It is in {Figures.List(then.States)} then."
            + (then.Commands.Count > 0 ? $" What it does: {string.Join("; ", then.Commands)}." : " Nothing moves otherwise than before.");
        var right = taken is null
            ? new ExerciseOption("None: nothing goes.", $"No sentence fits. {follows}")
            : new ExerciseOption(Text(taken.Line), $"It fits, and it is the first that does. {follows}");
        var wrong = new List<(ExerciseOption Option, int Rank)>();
        foreach (var w in now.Waiting.Where(w => w.Line != taken?.Line && machine.Lines.ContainsKey(w.Line)).DistinctBy(w => w.Line))
        {
            var (_, line) = machine.Lines[w.Line];
            var meant = ScriptWalk.EventOf(line.Trigger) is { } e && e == what.Name;
            var (why, rank) = (meant, line) switch
            {
                (true, { Trigger: ZoneTriggerNode { Relation: ZoneRelation.Becomes } z })
                    when zones.GetValueOrDefault(z.Sensor) == z.Zone => (
                    $"It waits for the moment at which {z.Sensor} comes into {z.Zone}; it was there already.",
                    3
                ),
                (true, { Guard: { } guard }) when w.Event is null => ($"Its condition does not hold: {Printer.Print(guard)}.", 3),
                (true, _) when taken is not null => (
                    "It would fit too, but another one comes first: inner states before outer, upper lines before lower.",
                    3
                ),
                (true, { Trigger: ZoneTriggerNode { Needed: > 1 } z }) => ($"It wants {z.Needed} readings in a row; this is one.", 2),
                (true, _) => ("It does not go yet.", 2),
                _ => (
                    w.Why.StartsWith("waits", StringComparison.Ordinal) || w.Why.StartsWith("comes", StringComparison.Ordinal)
                        ? $"It does not fit: it {w.Why}."
                        : $"It does not fit: {w.Why}.",
                    1
                ),
            };
            wrong.Add((new(Text(w.Line), why), rank));
        }
        if (taken is not null)
            wrong.Add((new("None: nothing goes.", $"One fits: “{Printer.Plain(Printer.Pieces(machine.Lines[taken.Line].Line))}”."), 1));
        ExerciseOption[] others =
        [
            .. luck.Mixed(wrong)
                .OrderByDescending(w => w.Rank)
                .Select(w => w.Option)
                .Where(o => o.Text != right.Text)
                .DistinctBy(o => o.Text)
                .Take(3),
        ];
        if (others.Length < 2)
            return default;
        var options = luck.Mixed(others.Append(right));
        var facts = Facts(now, zones);
        return (
            new(
                ExerciseKind.Next,
                $"next {rig.Id} {string.Join(' ', facts)} {what.Name} {what.AfterMs} {right.Text}",
                rig.Name,
                $"{Say(machine, what)} Which sentence goes?",
                Shown(machine, now.States),
                facts
            )
            {
                Options = options,
                Right = Array.IndexOf(options, right),
                Walked = [.. events, what],
                Reason = follows,
            },
            wrong.Any(w => w.Rank == 3)
        );
    }

    /// <summary>Five events in a row; null where the rig has no machine of one region that gives a trace worth asking.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="seed">Seed of what is drawn.</param>
    public static Exercise? Trace(TrainingRig rig, ulong seed)
    {
        if (Of(rig) is not { } machine || machine.Program.Regions.Count != 1 || machine.Program.AllStates.Any(s => s.Regions.Count > 0))
            return null;
        var luck = new RandomStream(seed, 2);
        for (var i = 0; i < Tries; i++)
        {
            if (Wander(machine, 5, ref luck) is not var (events, moments, _))
                continue;
            if (moments.Any(m => m.States.Count != 1) || events.Zip(events.Skip(1)).Count(p => p.First == p.Second) > 1)
                continue;
            var states = moments.Select(m => m.States[0]).ToArray();
            // Where hardly anything changes there is nothing to trace.
            if (states.Zip(states.Skip(1)).Count(p => p.First != p.Second) < 2)
                continue;
            string[] all = [.. Leaves(machine.Program.Regions[0].States, "").Concat(states).Distinct()];
            return new(
                ExerciseKind.Trace,
                $"trace {rig.Id} {string.Join(' ', events.Select(e => $"{e.Name} {e.AfterMs}"))}",
                rig.Name,
                "Five things happen, one after the other. In which state is it after each?",
                [.. machine.Program.AllStates.SelectMany(s => Shown(machine, [s.Name])).Distinct()],
                Facts(moments[0], new Dictionary<string, string>())
            )
            {
                Trace = new(
                    [.. events.Select(e => Say(machine, e))],
                    all,
                    [.. states.Skip(1).Select(s => Array.IndexOf(all, s))],
                    [
                        .. moments
                            .Skip(1)
                            .Select(m =>
                                m.Taken.Count == 0
                                    ? "No sentence fits, so it stays."
                                    : $"It goes by {string.Join(", then ", m.Taken.Select(t => $"“{t.Text}”"))}."
                            ),
                    ]
                ),
                Walked = events,
                Reason = $"It went {string.Join(" → ", states)}.",
            };
        }
        return null;
    }

    private static IEnumerable<string> Leaves(IEnumerable<StateNode> states, string path) =>
        states.SelectMany(s => s.States.Count == 0 ? [path + s.Name] : Leaves(s.States, $"{path}{s.Name}."));
}
