using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.People;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Simulation;

/// <summary>What a playing bench is made of: the names of everything that its moments tell of, in their order.</summary>
/// <param name="Seed">Seed of the run.</param>
/// <param name="EndsS">When the scene ends, s.</param>
/// <param name="Hands">What a person can do.</param>
/// <param name="Bodies">What moves, and its kind, as in a watched run.</param>
/// <param name="Regions">Regions of the programs.</param>
/// <param name="Sensors">Sensors, with their zones by rising reading.</param>
/// <param name="Outputs">Lamps, sounders and displays.</param>
/// <param name="Draws">The numbers drawn for it.</param>
public sealed record LiveStart(
    long Seed,
    double EndsS,
    IReadOnlyList<Hand> Hands,
    IReadOnlyList<LiveName> Bodies,
    IReadOnlyList<LiveRegion> Regions,
    IReadOnlyList<LiveSensor> Sensors,
    IReadOnlyList<LiveName> Outputs,
    IReadOnlyList<DrawnNumber> Draws
);

/// <summary>A name and what it is.</summary>
public sealed record LiveName(string Name, string Kind);

/// <summary>A region of a program.</summary>
public sealed record LiveRegion(string Program, string Region);

/// <summary>A sensor and its zones.</summary>
public sealed record LiveSensor(string Name, IReadOnlyList<string> Zones);

/// <summary>What a sensor says now.</summary>
/// <param name="Reading">Its reading; null for none.</param>
/// <param name="Zone">Its zone in words; null where it lies in none.</param>
public sealed record LiveReadout(double? Reading, string? Zone);

/// <summary>Something that is lit, sounds or shows now.</summary>
/// <param name="Output">Which, in the order of <see cref="LiveStart.Outputs"/>.</param>
/// <param name="Text">Colour or text; null for none.</param>
/// <param name="Value">Pitch of a sounder, Hz, or the number that is shown.</param>
public sealed record LiveOutput(int Output, string? Text, double Value);

/// <summary>Something along a belt.</summary>
/// <param name="Name">What.</param>
/// <param name="AtMm">Where; null once it has left the belt.</param>
/// <param name="Bin">Which place it was sorted into; −1 for none.</param>
public sealed record LiveOnBelt(string Name, double? AtMm, int Bin);

/// <summary>How a run that is played was decided.</summary>
public sealed record LiveVerdict(bool Passed, double AtS, string Say);

/// <summary>One moment of a playing bench, and what happened since the one before.</summary>
/// <param name="TimeS">Time of the bench, s.</param>
/// <param name="Ended">True once the scene is over.</param>
/// <param name="Bodies">x, y and heading of everything that moves; shorter where it has fewer, empty where it is not there.</param>
/// <param name="Belt">What came along a belt.</param>
/// <param name="States">Innermost state of each region.</param>
/// <param name="Sensors">What the sensors say.</param>
/// <param name="Outputs">What is lit, sounds or shows.</param>
/// <param name="Doing">Which hands are at work.</param>
/// <param name="BatteryV">Pack under load, V.</param>
/// <param name="Events">Transitions since.</param>
/// <param name="Notes">What happened to bodies since.</param>
/// <param name="Commands">What was commanded since.</param>
/// <param name="Messages">What programs told each other since.</param>
/// <param name="Verdict">How it was decided; null while it is not.</param>
public sealed record LiveMoment(
    double TimeS,
    bool Ended,
    IReadOnlyList<double[]> Bodies,
    IReadOnlyList<LiveOnBelt> Belt,
    IReadOnlyList<string> States,
    IReadOnlyList<LiveReadout> Sensors,
    IReadOnlyList<LiveOutput> Outputs,
    IReadOnlyList<int> Doing,
    double BatteryV,
    IReadOnlyList<BenchEvent> Events,
    IReadOnlyList<BenchNote> Notes,
    IReadOnlyList<RunOutput> Commands,
    IReadOnlyList<BenchMessage> Messages,
    LiveVerdict? Verdict
);

/// <summary>
/// A bench that a person plays with. It goes from one moment at which anything happens to the next, as a watched run does, and never
/// stops in between to be looked at: what is done is taken at the next whole millisecond and written down as a line of the scene, so
/// that the scene with these lines, run on the same seed, is the same run.
/// </summary>
public sealed class LiveBench
{
    /// <summary>Most things that are done in one play.</summary>
    public const int MostDone = 1_000;

    private readonly Bench bench;
    private readonly BenchPlan plan;
    private readonly BenchRecorder recorder;
    private readonly long seed,
        end;
    private readonly Queue<(int Hand, bool Begins, double? Amount)> asked = new();
    private readonly List<Deeds> done = [];
    private readonly Dictionary<int, Deeds> open = [];
    private readonly long[] busyUntil;
    private readonly Band[][] bands;
    private int toldEvents,
        toldNotes,
        toldOutputs,
        toldMessages;

    private sealed class Deeds(int hand, double? amount, long from)
    {
        public int Hand => hand;
        public double? Amount => amount;
        public long From => from;
        public long? To { get; set; }
    }

    /// <summary>Puts everything down and starts the programs.</summary>
    /// <param name="plan">A plan that was built to play.</param>
    /// <param name="seed">Seed of the run.</param>
    public LiveBench(BenchPlan plan, long seed)
    {
        (this.plan, this.seed) = (plan, seed);
        bench = new(plan);
        // The run itself is drawn from its moments: what the recorder samples is not looked at.
        recorder = new(bench, 0.1);
        end = (long)Math.Round(plan.EndsS * 1e6);
        busyUntil = new long[plan.Hands.Length];
        bands =
        [
            .. plan.Senses.Select(s =>
                plan.Rigs[s.Rig].Sensors.FirstOrDefault(x => x.Name == s.Name || s.Name.EndsWith($" {x.Name}", StringComparison.Ordinal))
                    is { Kind: SensorKind.Distance } range
                    ? range.Bands.ToArray()
                    : []
            ),
        ];
        bench.Start((ulong)seed, (ulong)seed, recorder);
    }

    /// <summary>The scene as it is in this run.</summary>
    public Scenes.SceneNode Scene => bench.Scene;

    /// <summary>Time of the bench, s.</summary>
    public double TimeS => bench.NowMicros * 1e-6;

    /// <summary>True once the scene is over.</summary>
    public bool Ended => bench.NowMicros >= end;

    /// <summary>What it is made of.</summary>
    public LiveStart About() =>
        new(
            seed,
            plan.EndsS,
            [.. plan.Hands.Select(h => h.Hand)],
            recorder.Names,
            [.. plan.Programs.SelectMany(p => p.Script.Program.Regions.Select(r => new LiveRegion(p.Name, r.Name)))],
            [.. plan.Senses.Select(s => new LiveSensor(s.Name, s.Zones))],
            [.. plan.Outputs.Select(o => new LiveName(o.Name, o.Kind.ToString()))],
            recorder.Drawn()
        );

    /// <summary>Begins to do something, or leaves off. It happens at the next whole millisecond that is free for it.</summary>
    /// <param name="hand">Which hand.</param>
    /// <param name="begins">False to leave off.</param>
    /// <param name="amount">The number that goes with it; null for the usual one.</param>
    /// <exception cref="InputProblem">When there is no such hand, or it can do nothing here.</exception>
    public void Ask(int hand, bool begins, double? amount = null)
    {
        if (hand < 0 || hand >= plan.Hands.Length)
            throw new InputProblem("hand", $"Must be 0 to {plan.Hands.Length - 1}.");
        if (plan.Hands[hand].Happening < 0)
            throw new InputProblem("hand", plan.Hands[hand].Hand.Why ?? "That cannot be done here.");
        if (asked.Count >= 2 * MostDone || begins && done.Count + asked.Count >= MostDone)
            throw new InputProblem("hand", $"At most {MostDone} things can be done in one play.");
        asked.Enqueue((hand, begins, amount));
    }

    /// <summary>Goes on by some time.</summary>
    /// <param name="seconds">How long, s of the bench.</param>
    /// <param name="cancel">Stops it.</param>
    public void Advance(double seconds, CancellationToken cancel = default) =>
        Until(Math.Min(end, bench.NowMicros + (long)Math.Round(Math.Clamp(seconds, 0, 600) * 1e6)), null, cancel);

    /// <summary>Goes on until a transition is taken, or the scene is over.</summary>
    /// <param name="enough">Asked at every moment: true to leave off for now, as when the time for it is over.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>False when it was left off first.</returns>
    public bool ToNextTransition(Func<bool> enough, CancellationToken cancel = default) => Until(end, enough, cancel);

    // Takes up what was asked for also where it does not go on: that must not wait for time to pass.
    private bool Until(long to, Func<bool>? enough, CancellationToken cancel)
    {
        var events = recorder.Events.Count;
        TakeUp();
        while (bench.NowMicros < to)
        {
            cancel.ThrowIfCancellationRequested();
            bench.Step(end);
            TakeUp();
            if (enough is null)
                continue;
            if (recorder.Events.Count > events)
                return true;
            if (enough())
                return false;
        }
        return true;
    }

    private void TakeUp()
    {
        while (asked.TryPeek(out var next) && bench.NowMicros < end)
        {
            var now = bench.NowMicros;
            // The same hand does one thing after the other.
            if (busyUntil[next.Hand] > now)
                return;
            asked.Dequeue();
            var (hand, happening) = plan.Hands[next.Hand];
            var at = (now / 1000 + 1) * 1000;
            if (at >= end)
                return;
            if (next.Begins && !open.ContainsKey(next.Hand))
            {
                var amount = hand.Kept(next.Amount);
                var unit = hand.Amount is null ? 1 : Unit.Find(hand.Amount.Unit)?.Factor ?? 1;
                bench.Do(happening, at, amount * unit);
                var deed = new Deeds(next.Hand, hand.Amount is null ? null : amount, at);
                done.Add(deed);
                if (hand.Lasts != HandLasts.Moment)
                    open[next.Hand] = deed;
            }
            else if (!next.Begins && open.Remove(next.Hand, out var deed))
            {
                // A hand that turns something needs its time; nothing lasts less than a moment.
                var least = deed.From + (plan.Happenings[happening].Deed == Deed.Turn ? 200_000 : 1_000);
                deed.To = Math.Max(at, least);
                bench.LeaveOff(happening, deed.To.Value);
                at = deed.To.Value;
            }
            else
                continue;
            busyUntil[next.Hand] = at;
        }
    }

    /// <summary>The moment now, and what happened since it was looked at before.</summary>
    public LiveMoment Look()
    {
        static IReadOnlyList<T> Since<T>(IReadOnlyList<T> all, ref int told)
        {
            if (told == all.Count)
                return [];
            var fresh = all.Skip(told).ToArray();
            told = all.Count;
            return fresh;
        }
        var outputs = new List<LiveOutput>();
        for (var i = 0; i < plan.Outputs.Length; i++)
            if (bench.IsOn(i))
                outputs.Add(
                    new(i, bench.OutputStates[i].Text, double.IsFinite(bench.OutputStates[i].Value) ? bench.OutputStates[i].Value : 0)
                );
        var doing = new List<int>();
        for (var h = 0; h < plan.Hands.Length; h++)
            if (plan.Hands[h].Happening is >= 0 and var at && bench.HappeningStates[at].Active)
                doing.Add(h);
        return new(
            Math.Round(TimeS, 4),
            Ended,
            recorder.Poses(),
            OnBelt(),
            recorder.StatesNow(),
            [.. plan.Senses.Select((_, i) => Readout(i))],
            outputs,
            doing,
            Math.Round(bench.Volts(0), 3),
            Since(recorder.Events, ref toldEvents),
            Since(recorder.Notes, ref toldNotes),
            Since(recorder.Outputs, ref toldOutputs),
            Since(recorder.Messages, ref toldMessages),
            bench.IsDecided || Ended ? recorder.Verdict(bench.Result()) : null
        );
    }

    private LiveReadout Readout(int i)
    {
        var s = bench.SenseStates[i];
        var spec = plan.Senses[i];
        if (!s.EverRead)
            return new(null, null);
        if (spec.IsSwitch)
            return new(s.Down ? 1 : 0, s.Down ? "down" : "up");
        if (spec.IsColour)
            return new(null, s.Zone >= 0 && s.Zone < spec.Zones.Length ? spec.Zones[s.Zone] : null);
        if (double.IsNaN(s.Reading))
            return new(null, null);
        if (bands[i].FirstOrDefault(b => s.Reading >= b.FromMm && s.Reading < b.ToMm) is { } band)
            return new(s.Reading, band.Zone);
        // The zone as the first program that asks for it sees it.
        for (var p = 0; p < spec.In.Length; p++)
            if (spec.In[p] >= 0 && plan.Programs[p].Script.ScaleOf(spec.In[p]) is { Boundaries.Count: > 0 } scale)
            {
                var zone = 0;
                while (zone < scale.Boundaries.Count && s.Reading > scale.Boundaries[zone].Threshold)
                    zone++;
                return new(s.Reading, zone < scale.Names.Count ? scale.Names[zone] : null);
            }
        return new(s.Reading, null);
    }

    private List<LiveOnBelt> OnBelt()
    {
        var all = new List<LiveOnBelt>();
        if (plan.Belt is { } belt)
            foreach (ref readonly var t in bench.OnBelt)
                all.Add(new(belt.Feeds[t.Feed].Name, t.Fate <= 1 ? Math.Round(t.At, 1) : null, t.Fate == 2 ? t.Place : -1));
        return all;
    }

    /// <summary>Everything that was done so far, as lines of a scene, in the order it was done.</summary>
    public IReadOnlyList<string> Lines() => [.. done.Select(d => plan.Hands[d.Hand].Hand.Done(d.Amount, d.From, d.To))];

    /// <summary>The scene with what was done, under another name: on the same seed it is the same run.</summary>
    /// <param name="name">Its name.</param>
    public string Kept(string name)
    {
        var scene = plan.Scene;
        // A name is one line.
        name = string.Join(' ', name.Split('\n', '\r').Select(p => p.Trim()).Where(p => p != ""));
        var text = ScenePrinter.Print(scene with { Name = name, Lines = [.. scene.Lines.Where(l => l.Key != "counts")] });
        return done.Count == 0 ? text : $"{text.TrimEnd('\n')}\n\n{string.Join('\n', Lines())}\n";
    }
}
