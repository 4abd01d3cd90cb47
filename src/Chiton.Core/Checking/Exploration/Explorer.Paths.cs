using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>A way that leads to something, as events of a walk.</summary>
/// <param name="Events">What happens, in order, each after how long.</param>
/// <param name="Replayed">True when the engine, taken through it, gets there.</param>
public sealed record WayThere(IReadOnlyList<WalkEvent> Events, bool Replayed);

public sealed partial class Explorer
{
    // A tap and two of them are well within their times, or well beyond.
    private const long SoonMicros = ScriptMachine.TapMicros * 4 / 5,
        LateMicros = ScriptMachine.TapMicros + 100_000,
        AgainMicros = ScriptMachine.TwiceMicros * 4 / 5;

    private static readonly long[] Gaps = [200_000, 20_000, 1_000, 1];

    private readonly record struct Step(int Program, Stimulus What, string? Event, int[] Before, int[] After);

    /// <summary>The way to a state by the fewest events.</summary>
    private List<Step> StepsTo(int from, int by, int to)
    {
        var backwards = new List<(int From, int By, int To)>();
        if (from >= 0)
            backwards.Add((from, by, to));
        for (var at = from; at >= 0 && set.ParentOf(at) >= 0; at = set.ParentOf(at))
            backwards.Add((set.ParentOf(at), set.StepTo(at), at));
        backwards.Reverse();
        var steps = new List<Step>();
        foreach (var (a, step, b) in backwards)
        {
            var (before, after) = (new int[programs.Length], new int[programs.Length]);
            Unpack(a, before);
            if (b >= 0)
                Unpack(b, after);
            else
                Array.Fill(after, -1);
            if (step == DeliverBy)
                steps.Add(new(-1, new(StimulusKind.Told, set.Field(a, programs.Length * IdBits + 3, MessageBits)), null, before, after));
            else if (step >= OwnBase)
            {
                var (p, i) = ((step - OwnBase) >> 20, (step - OwnBase) & 0xFFFFF);
                var what = programs[p].OwnKnown(before[p])![i].What;
                steps.Add(new(p, what, NameOf(p, what), before, after));
            }
            else
                steps.Add(
                    new(
                        -1,
                        Array.Find(shared[step].Of, s => s.Kind != StimulusKind.Told) with
                        {
                            Which = step,
                        },
                        shared[step].Name,
                        before,
                        after
                    )
                );
        }
        return steps;
    }

    private string? NameOf(int p, Stimulus what)
    {
        var script = programs[p].Script;
        string Device() => Outside(script, script.Devices[what.What]);
        return what.Kind switch
        {
            StimulusKind.Ended => $"{Device()} done",
            StimulusKind.Stalled => $"{Device()} stalls",
            StimulusKind.Travelled => FormattableString.Invariant(
                $"travel of {Device()} is {programs[p].Kept.Travels[what.What]![what.Which]} mm"
            ),
            StimulusKind.Turned => FormattableString.Invariant(
                $"angle of {Device()} is {programs[p].Kept.Angles[what.What]![what.Which]} deg"
            ),
            _ => null,
        };
    }

    // When each step of a way happens, µs since the start; null where no times fit. Of each time that runs it is known when it
    // was begun and how long it takes: the earliest times at which all of that can be are found by raising them until they fit.
    private long[]? TimesOf(List<Step> steps, long gap)
    {
        var n = steps.Count;
        // T[to] ≥ T[from] + by; event 0 is the start.
        var least = new List<(int From, int To, long By)>();
        for (var i = 0; i < n; i++)
            least.Add((i, i + 1, steps[i].Event is null || steps[i].What.Kind == StimulusKind.TimeUp ? 0 : gap));
        for (var p = 0; p < programs.Length; p++)
        {
            var running = new Dictionary<(int, bool, int), (int Begun, long Takes)>();
            var times = new List<(int Unit, bool IsTransition, int Index, long Due)>();
            var start = steps.Count > 0 ? steps[0].Before[p] : -1;
            programs[p].TimesAtStart(start, times);
            Note(0);
            for (var i = 0; i < n; i++)
            {
                var own = OwnStimulus(steps[i], p);
                if (own is not { } what)
                    continue;
                // What runs has not run out before; what runs out now does so now.
                programs[p].TimesIn(steps[i].Before[p], times);
                var due =
                    what.Kind == StimulusKind.TimeUp
                        ? times.Where(t => ScriptMachine.GroupOf(t.Due) == what.What).Min(t => t.Due)
                        : long.MinValue;
                foreach (var t in times)
                {
                    if (!running.TryGetValue((t.Unit, t.IsTransition, t.Index), out var run) || run.Takes < 0)
                        continue;
                    if (t.Due == due)
                        least.Add((run.Begun, i + 1, run.Takes));
                    least.Add((i + 1, run.Begun, t.Due == due ? -run.Takes : 1 - run.Takes));
                }
                if (!programs[p].TimesAfter(steps[i].Before[p], what, HeardBy(steps[i], p), steps[i].After[p], times))
                    return null;
                Note(i + 1);
            }

            void Note(int step)
            {
                var still = times.Select(t => (t.Unit, t.IsTransition, t.Index)).ToHashSet();
                foreach (var gone in running.Keys.Where(k => !still.Contains(k)).ToArray())
                    running.Remove(gone);
                foreach (var t in times)
                    if (ScriptMachine.Begun(t.Due) is { } takes)
                        running[(t.Unit, t.IsTransition, t.Index)] = (step, takes);
            }
        }
        Presses(steps, least);
        // Messages take their time, from the step that said them.
        var flying = new Queue<int>();
        var held = 0;
        for (var i = 0; i < n && delayMicros > 0; i++)
        {
            if (steps[i].What.Kind == StimulusKind.Told)
            {
                if (flying.TryDequeue(out var said))
                {
                    least.Add((said, i + 1, delayMicros));
                    least.Add((i + 1, said, -delayMicros));
                }
                held--;
            }
            foreach (var said in flying)
                least.Add((i + 1, said, 1 - delayMicros));
            var now = i + 1 < n ? HeldIn(steps[i + 1]) : held;
            for (; held < now; held++)
                flying.Enqueue(i + 1);
        }
        var at = new long[n + 1];
        for (var round = 0; round <= n + 1; round++)
        {
            var changed = false;
            foreach (var (from, to, by) in least)
                if (at[from] + by > at[to])
                    (at[to], changed) = (at[from] + by, true);
            if (!changed)
                return at[0] == 0 ? at : null;
        }
        return null;
    }

    private readonly Dictionary<int[], int> heldOf = [];

    private int HeldIn(Step step) => heldOf.GetValueOrDefault(step.Before);

    // A press and what follows it lie as far apart as they are taken to.
    private static void Presses(List<Step> steps, List<(int From, int To, long By)> least)
    {
        var (down, tap) = (new Dictionary<int, int>(), new Dictionary<int, int>());
        for (var i = 0; i < steps.Count; i++)
        {
            var (kind, sensor) = (steps[i].What.Kind, steps[i].What.What);
            if (kind == StimulusKind.Down)
                down[sensor] = i + 1;
            if (kind is not (StimulusKind.Up or StimulusKind.UpSoon or StimulusKind.UpAgain) || !down.TryGetValue(sensor, out var pressed))
                continue;
            if (kind == StimulusKind.Up)
            {
                least.Add((pressed, i + 1, LateMicros));
                continue;
            }
            least.Add((i + 1, pressed, -SoonMicros));
            if (tap.TryGetValue(sensor, out var before))
                least.Add(
                    kind == StimulusKind.UpAgain ? (i + 1, before, -AgainMicros) : (before, i + 1, ScriptMachine.TwiceMicros + 100_000)
                );
            tap[sensor] = i + 1;
        }
    }

    // What a step is to one program, in its own numbers; null when it does not notice.
    private Stimulus? OwnStimulus(Step step, int p) =>
        step.What.Kind == StimulusKind.Told ? (messages[step.What.What].To == p ? step.What : null)
        : step.Program >= 0 ? (step.Program == p ? step.What : null)
        : shared[step.What.Which].Of[p] is { Kind: not StimulusKind.Told } what ? what
        : null;

    private (Message What, int From)? HeardBy(Step step, int p) =>
        step.What.Kind == StimulusKind.Told && messages[step.What.What] is var message && message.To == p
            ? (message, Array.IndexOf(programs[p].Script.Programs, names[message.From]))
            : null;

    /// <summary>The way to something found, as events that a walk can be taken through; null when no way was kept.</summary>
    /// <param name="what">What was found.</param>
    /// <param name="replay">The programs to take through it, in the same order: bound to what is known of the copy.</param>
    private WayThere? WayTo(Sought what, IReadOnlyList<NetworkProgram> replay)
    {
        if (!hits.TryGetValue(what, out var found))
            return null;
        WayThere? first = null;
        foreach (var (from, by, to) in found)
        {
            var steps = StepsTo(from, by, to);
            heldOf.Clear();
            for (var (at, i) = (from, steps.Count - 1); at >= 0 && i >= 0; at = set.ParentOf(at), i--)
                heldOf[steps[i].Before] = set.Field(at, programs.Length * IdBits, 3);
            foreach (var gap in Gaps)
            {
                if (TimesOf(steps, gap) is not { } times)
                    continue;
                var events = Events(steps, times);
                var way = new WayThere(events, Holds(what, replay, events));
                if (way.Replayed)
                    return way;
                first ??= way;
            }
        }
        return first ?? new([], false);
    }

    private static List<WalkEvent> Events(List<Step> steps, long[] times)
    {
        var events = new List<WalkEvent>();
        long said = 0;
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Event is not { } name)
                continue;
            events.Add(new(name, null, (times[i + 1] - said) / 1000.0));
            said = times[i + 1];
        }
        if (times.Length > 0 && times[^1] > said)
            events.Add(new(null, null, (times[^1] - said) / 1000.0));
        return events;
    }

    // Takes the engine through the events: true when what was found is there at the end, or on the way.
    private bool Holds(Sought what, IReadOnlyList<NetworkProgram> replay, IReadOnlyList<WalkEvent> events)
    {
        var network = new ScriptNetwork(replay, delayMicros) { Budget = new(ScriptWalk.MostSteps) };
        var machine = network.Machines[what.Program];
        var found = false;
        if (what.Kind == SoughtKind.Clash)
        {
            machine.TakenOver = (device, _, second) =>
                found |=
                    device == programs[what.Program].Clashes[what.What].Device
                    && replay[what.Program].Script.Units[second.Unit].Activities[Math.Max(0, second.Activity)].Node is { } node
                    && node == programs[what.Program].Clashes[what.What].Second
                    && node.Span.Line == programs[what.Program].Clashes[what.What].Second.Span.Line;
        }
        bool There() => found || what.Kind == SoughtKind.Never && machine.RuleHolds(what.What);
        try
        {
            network.Start();
            foreach (var e in events)
            {
                network.Pass(network.NowMicros + (long)Math.Round(e.AfterMs * 1000));
                if (There())
                    return true;
                if (e.Name is { } name)
                    for (var p = 0; p < replay.Count; p++)
                    {
                        ScriptWalk.Happen(replay[p].Script, network.Machines[p], name, e.Data, "events");
                        network.Collect(p);
                    }
                network.Pass(network.NowMicros);
                if (There())
                    return true;
            }
        }
        catch (Exception e) when (e is OutOfSteps or Quantities.InputProblem)
        {
            // A way that the engine cannot go is no way.
            return false;
        }
        return There();
    }
}
