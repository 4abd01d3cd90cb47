using System.Globalization;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation;

/// <summary>What a stand-in box does wrong when it is asked to.</summary>
public enum BoxFault
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>Its times go back now and then.</summary>
    Back,

    /// <summary>It speaks of sensors that the rig has not.</summary>
    Names,

    /// <summary>It gives readings that its sensors cannot give.</summary>
    Range,

    /// <summary>It says that it runs another revision.</summary>
    Revision,

    /// <summary>Lines arrive mutilated.</summary>
    Garbled,

    /// <summary>It says nothing any more, though the plug is in.</summary>
    Silent,

    /// <summary>It moves nothing that it is told to.</summary>
    Stuck,

    /// <summary>It is started anew a second after each thing that it is told, as a board with a weak pack is.</summary>
    Anew,
}

/// <summary>What a stand-in box is made from.</summary>
/// <param name="Rig">The rig.</param>
/// <param name="Moves">How the copy is thought to move.</param>
/// <param name="Motion">How its rail vehicle is thought to move; null for others.</param>
/// <param name="Things">What can be put before each sensor, by sensor and name.</param>
/// <param name="Holds">What it says that it runs.</param>
/// <param name="Seed">Same seed, same hidden numbers.</param>
public sealed record BoxMake(
    RigDesign Rig,
    CopyMoves Moves,
    RailMotion? Motion,
    IReadOnlyDictionary<string, IReadOnlyDictionary<string, BenchThing>> Things,
    BoxHolding Holds,
    ulong Seed
)
{
    /// <summary>Plays a run: given its number, what the programs were given and what they did, with times; null where nothing can
    /// run.</summary>
    public Func<int, IReadOnlyList<BoxBeat>>? Run { get; init; }
}

/// <summary>Something that a box says at a moment of a run.</summary>
/// <param name="Micros">When, µs since the run began.</param>
/// <param name="Say">What; null where only somebody who looks on sees it.</param>
/// <param name="Seen">What somebody who looks on sees; empty for nothing.</param>
public sealed record BoxBeat(long Micros, BoxMessage? Say, string Seen = "");

/// <summary>
/// A stand-in box: a rig that is not there and answers on the line. Its true numbers are hidden and lie off what the copy is thought to be.
/// It knows no clock and opens nothing: it is told what time it is, and what came.
/// </summary>
public sealed class BoxBench
{
    private sealed class Eye(Sensor design)
    {
        public Sensor Design { get; } = design;
        public bool Wanted { get; set; }
        public long Next { get; set; }
        public long PeriodMicros { get; set; } = (long)(design.SamplePeriodMs * 1000);
        public SimulatedSensor? Held { get; set; }
    }

    private sealed class Turning
    {
        // Degrees a second of its motor, since when, and from where.
        public double Rate { get; set; }
        public long Since { get; set; }
        public double From { get; set; }
    }

    private const long AnewAfterMicros = 1_000_000;

    private readonly BoxMake make;
    private readonly Dictionary<string, Eye> eyes;
    private readonly Dictionary<string, Turning> turning = [];
    private readonly List<(long At, string Motor)> stops = [];

    // Speeds of what rolls until it is stopped, mm/s.
    private readonly Dictionary<string, double> rolling = [];
    private readonly Dictionary<string, string> states = [];
    private readonly double[] one = new double[3];
    private readonly PriorityQueue<BoxBeat, (long, int)> due = new();
    private readonly BoxNames names;
    private readonly Action<BoxMessage> say;
    private readonly Action<string> show;
    private RandomStream luck;
    private long started,
        anew = long.MaxValue;
    private int serial,
        held,
        runs;
    private bool running;

    /// <summary>Puts a box on the table.</summary>
    /// <param name="make">What it is made from.</param>
    /// <param name="say">Told of each line that it says.</param>
    /// <param name="show">Told what somebody who looks on sees.</param>
    public BoxBench(BoxMake make, Action<BoxMessage> say, Action<string> show)
    {
        (this.make, this.say, this.show) = (make, say, show);
        luck = new(make.Seed, 7);
        eyes = make.Rig.Sensors.ToDictionary(s => s.Name, s => new Eye(s));
        names = new(
            [.. eyes.Keys],
            [.. make.Rig.Actuators.Select(a => a.Name), .. make.Rig.Mechanisms.Select(m => m.Name), .. eyes.Keys],
            []
        );
        foreach (var (name, eye) in eyes)
            if (make.Things.TryGetValue(name, out var things) && things.Count > 0)
                Hold(eye, things.Values.First(), null);
    }

    /// <summary>Names that lines to it are read with.</summary>
    public BoxNames Names => names;

    /// <summary>What it does wrong.</summary>
    public BoxFault Fault { get; set; }

    /// <summary>What it is given to read at, instead of each sensor's own period, µs; null for its own.</summary>
    public long? EveryMicros { get; set; }

    /// <summary>The next moment at which it has something to say, µs; the largest number while it has nothing.</summary>
    public long NextMicros
    {
        get
        {
            var next = Math.Min(anew, due.TryPeek(out _, out var first) ? first.Item1 : long.MaxValue);
            foreach (var eye in eyes.Values)
                if (eye.Wanted)
                    next = Math.Min(next, eye.Next);
            return next;
        }
    }

    private void Say(BoxMessage message)
    {
        if (Fault == BoxFault.Silent)
            return;
        // Its clock begins anew with it.
        if (started > 0)
            message = message switch
            {
                BoxState s => s with { Micros = s.Micros - started },
                BoxReading r => r with { Micros = r.Micros - started },
                _ => message,
            };
        if (Fault == BoxFault.Garbled && luck.Uniform() < 0.2)
        {
            var line = message.ToString();
            say(new BoxStrange(line[(int)(luck.Uniform() * line.Length)..] + "~", ""));
            return;
        }
        say(message);
    }

    private void Later(long micros, BoxMessage? message, string seen = "") => due.Enqueue(new(micros, message, seen), (micros, serial++));

    /// <summary>Somebody is there: it says who it is.</summary>
    public void Hello()
    {
        Say(new BoxHello(1, make.Rig.Name, true));
        foreach (var (name, eye) in eyes)
            Say(new BoxHave(name, Kind(eye.Design), (EveryMicros ?? eye.PeriodMicros) / 1000.0));
        Say(new BoxHolds(Holding));
        Say(new BoxBattery(Volts(false)));
    }

    private string Holding =>
        (Fault == BoxFault.Revision ? new BoxHolding(make.Holds.Revision + 1, make.Holds.Hash) : make.Holds).ToString();

    // One word for what it is.
    private static string Kind(Sensor s) =>
        s.Kind is SensorKind.ReflectedLight or SensorKind.AmbientLight ? "light" : s.Kind.ToString().ToLowerInvariant();

    private double Volts(bool load) => Math.Round((make.Rig.Power is { } p ? p.Cells * p.VoltsPerCell : 6) * (load ? 0.95 : 1.02), 2);

    /// <summary>Nobody is there any more: what was wanted is wanted no more, and what runs is stopped.</summary>
    /// <param name="now">The time, µs.</param>
    public void Alone(long now)
    {
        foreach (var eye in eyes.Values)
            eye.Wanted = false;
        StopRun(now);
    }

    /// <summary>Takes up a line.</summary>
    /// <param name="message">What came.</param>
    /// <param name="now">The time, µs since it was started.</param>
    public void Take(BoxMessage message, long now)
    {
        if (Fault == BoxFault.Anew && message is (BoxTell or BoxOrder) && anew == long.MaxValue)
            anew = now + AnewAfterMicros;
        switch (message)
        {
            case BoxAsk m:
                Asked(m.Words, now);
                break;
            case BoxTell m:
                Want(m.Name, true, now);
                break;
            case BoxQuiet m:
                Want(m.Name, false, now);
                break;
            case BoxOrder m:
                Do(m, now);
                break;
            // Somebody who is polite, or two boxes that talk to each other: answering that would never end.
            case BoxOk or BoxNo:
                break;
            case BoxStrange m:
                Say(new BoxNo(m.Why));
                break;
            default:
                Say(new BoxNo("That is for a box to say."));
                break;
        }
    }

    private void Want(string sensor, bool wanted, long now)
    {
        if (!eyes.TryGetValue(sensor, out var eye))
        {
            Say(new BoxNo($"I have no sensor {BoxLine.Short(sensor)}."));
            return;
        }
        Say(new BoxOk());
        if (wanted && !eye.Wanted)
            eye.Next = now;
        eye.Wanted = wanted;
    }

    private void Asked(string words, long now)
    {
        switch (words)
        {
            case "":
                Hello();
                Say(new BoxOk());
                return;
            case "there":
                Say(new BoxOk());
                return;
            case "holds":
                Say(new BoxHolds(Holding));
                Say(new BoxOk());
                return;
            case "battery":
                Say(new BoxBattery(Volts(turning.Values.Any(t => t.Rate != 0))));
                Say(new BoxOk());
                return;
            case "start":
                if (running)
                    Say(new BoxNo("It runs already."));
                else if (make.Run is null)
                    Say(new BoxNo("No program can run on it."));
                else
                    StartRun(now);
                return;
            case "stop":
                Say(new BoxOk());
                StopRun(now);
                foreach (var name in turning.Keys)
                    Turn(name, 0, now);
                return;
        }
        Say(
            words.StartsWith("hold ", StringComparison.Ordinal) && Hold(words["hold ".Length..]) is var why
                ? why is null
                    ? new BoxOk()
                    : new BoxNo(why)
                : new BoxNo("I know: there, holds, battery, start, stop, and hold SENSOR over THING.")
        );
    }

    // "Tag eye over tag" or "Mast over board 120".
    private string? Hold(string words)
    {
        var name = eyes.Keys.Where(k => words.StartsWith(k + " over ", StringComparison.Ordinal)).MaxBy(k => k.Length);
        if (name is null)
            return "Say hold, which sensor, over, and what.";
        var what = words[(name.Length + " over ".Length)..].Trim();
        var things = make.Things.GetValueOrDefault(name);
        double? amount = null;
        var thing = things?.GetValueOrDefault(what);
        if (thing is null && what.LastIndexOf(' ') is > 0 and var at)
        {
            if (double.TryParse(what[(at + 1)..], NumberStyles.Float, CultureInfo.InvariantCulture, out var a) && double.IsFinite(a))
                amount = a;
            thing = things?.GetValueOrDefault(what[..at]);
        }
        if (thing is null)
            return BoxLine.Short($"{name} can be held over {string.Join(", ", things?.Keys ?? [])}.");
        Hold(eyes[name], thing, amount);
        show($"{name} is held over {thing.Name}{(amount is { } x ? " at " + Figures.Show(x) : "")}.");
        return null;
    }

    private void Hold(Eye eye, BenchThing thing, double? amount) =>
        eye.Held = new(
            eye.Design,
            SampleBench.Seen(thing, make.Seed ^ SampleBench.Seed(eye.Design.Name)),
            amount ?? eye.Design.Facts.Amount?.Usual ?? 0,
            BenchCare.AsItIs,
            new(make.Seed, 1000u + (uint)held++)
        );

    // ---- what it is told to do ----

    private Turning Of(string device)
    {
        if (!turning.TryGetValue(device, out var t))
            turning[device] = t = new();
        return t;
    }

    private void Turn(string device, double rate, long now)
    {
        var t = Of(device);
        t.From += t.Rate * (now - t.Since) * 1e-6;
        (t.Rate, t.Since) = (rate, now);
    }

    private IEnumerable<string> Motors(string name) => make.Rig.Mechanisms.FirstOrDefault(m => m.Name == name) is { } m ? m.Motors : [name];

    private void Do(BoxOrder order, long now)
    {
        if (names.Devices.All(d => d != order.Name) || eyes.ContainsKey(order.Name))
        {
            Say(new BoxNo($"I have no device {BoxLine.Short(order.Name)}."));
            return;
        }
        Say(new BoxOk());
        if (Fault == BoxFault.Stuck)
        {
            show($"{order.Name} does not move.");
            if (order.Verb is not ("stop" or "brake" or "coast" or "hold" or "off"))
                Later(now + 300_000, new BoxStalls(order.Name));
            return;
        }
        var (seconds, what) = Act(order, now);
        if (what != "")
            Later(now + (long)((seconds ?? 0) * 1e6), null, what);
        if (seconds is { } s)
            Later(now + (long)(s * 1e6), new BoxDone(order.Name));
    }

    // How long it takes, null where it goes on, and what somebody who looks on sees once it is over.
    private (double? Seconds, string Seen) Act(BoxOrder o, long now)
    {
        var way = o.Value is < 0 ? "backward" : "forward";
        switch (o.Verb)
        {
            case "stop" or "brake" or "coast" or "hold":
            {
                foreach (var motor in Motors(o.Name))
                    Turn(motor, 0, now);
                return
                    rolling.Remove(o.Name, out var speed) && Plan(o.Name, o.Verb == "coast" ? TrialKind.Coast : TrialKind.Brake) is { } plan
                    ? (null, $"{o.Name} stands {Tape(plan, 0, speed)} past the mark.")
                    : (null, $"{o.Name} stands.");
            }
            case "run" or "drive" or "turn":
                return Moves(o, now, way);
            case "set" or "go" or "home":
                if (Plan(o.Name, TrialKind.Swing) is { } swing && o.Value is { } angle)
                    return (Math.Max(0.05, Try(swing, angle, Math.Abs(angle))), $"{o.Name} has turned.");
                return (1, $"{o.Name} has moved.");
            case "tone" or "beep" or "play":
                return (
                    o.Seconds ?? (Plan(o.Name, TrialKind.Sound) is { } sound ? Math.Max(0.05, Try(sound, 1, 1)) : 1),
                    $"{o.Name} sounds."
                );
            case "on" or "blink":
                return (o.Seconds, $"{o.Name} shines{(o.Words == "" ? "" : " " + o.Words)}.");
            case "off":
                return (null, $"{o.Name} is dark.");
            case "show":
                return (null, $"{o.Name} shows {o.Words}.");
            default:
                return (o.Seconds, $"{o.Name}: {o.Verb}.");
        }
    }

    private (double? Seconds, string Seen) Moves(BoxOrder o, long now, string way)
    {
        var power = Math.Abs(o.Value ?? TrialCatalogue.UsualPower);
        var sign = o.Value is < 0 ? -1 : 1;
        // Degrees a second of the motor: a share of its top speed, or what was asked.
        var top = Plan(o.Name, TrialKind.Speed) is { NumberUnit: "motor deg/s" } speed
            ? TrialBench.Truth(speed, Nominal(speed), Copy(o.Name))
            : 900;
        var rate =
            o.Unit is "motor deg/s" or "deg/s" ? power
            : o.Unit == "%" ? top * power / 100
            : top / 3;
        if (o.Unit == "%" && Plan(o.Name, TrialKind.LeastPower) is { } least && Try(least, power, power) < 0.5)
            return (o.Seconds, $"{o.Name} hums and stands.");
        var left = o.Words.StartsWith("left", StringComparison.Ordinal);
        var pivots = o.Words.Contains("pivoting", StringComparison.Ordinal);
        TrialKind? kind = (o.Verb, o.Amount) switch
        {
            ("turn", not null) => pivots ? TrialKind.Pivot : TrialKind.Turn,
            ("turn", null) => TrialKind.TimedTurn,
            (_, not null) => o.AmountUnit == "motor deg" ? TrialKind.Travel : TrialKind.Straight,
            _ => o.Seconds is not null ? TrialKind.TimedWay : null,
        };
        var told =
            (o.Amount ?? o.Seconds ?? 0)
            * (
                kind is TrialKind.Turn or TrialKind.Pivot && left ? -1
                : kind is TrialKind.Travel or TrialKind.Straight ? sign
                : 1
            );
        foreach (var motor in Motors(o.Name))
            Turn(motor, rate * sign, now);
        if (kind is null)
        {
            // Of a part that runs against a stop, the time until then.
            if (o.Unit is "motor deg/s" && Plan(o.Name, TrialKind.Duration) is { } whole)
            {
                var s = Math.Max(0.1, Try(whole, power, power));
                Later(now + (long)(s * 1e6), new BoxStalls(o.Name), $"{o.Name} rests against its stop.");
                return (null, "");
            }
            if (o.Unit == "mm/s")
                rolling[o.Name] = power;
            return (null, $"{o.Name} moves {way}.");
        }
        var plan = Plan(o.Name, kind.Value);
        var seconds = o.Seconds ?? (o.Amount is { } a && o.AmountUnit.EndsWith("deg", StringComparison.Ordinal) ? Math.Abs(a) / rate : 2);
        seconds = Math.Clamp(seconds, 0.05, 20);
        foreach (var motor in Motors(o.Name))
        {
            Turn(motor, rate * sign, now);
            var (name, at) = (motor, now + (long)(seconds * 1e6));
            stops.Add((at, name));
        }
        if (plan is null)
            return (seconds, $"{o.Name} has moved {way}.");
        if (plan.Timed)
            plan = TrialCatalogue.At(
                plan,
                o.Unit == "%" ? power : TrialCatalogue.UsualPower,
                kind == TrialKind.TimedTurn
                    ? pivots
                        ? TurnStyle.LeftWheel
                        : TurnStyle.Spin
                    : null
            );
        // What was told in other units than its motor counts in is first worked out, with what the copy is thought to be.
        var commanded = plan.CommandUnit == o.AmountUnit || o.Amount is null ? told : InMotor(o, told, plan);
        return (seconds, $"{o.Name} has gone {Tape(plan, told, commanded)}{(left ? " to the left" : "")}.");
    }

    private double InMotor(BoxOrder o, double told, TrialPlan plan)
    {
        var at = make.Moves.At(o.Name);
        return (o.AmountUnit, plan.CommandUnit) switch
        {
            ("mm", "wheel deg") => at.WheelMm > 0 ? told * 360 / (Math.PI * at.WheelMm) : told,
            ("robot deg", "wheel deg") => at.WheelMm > 0 ? told * at.TrackMm / at.WheelMm : told,
            _ => told,
        };
    }

    private TrialPlan? Plan(string device, TrialKind kind) =>
        make.Moves.Plans.FirstOrDefault(p => p.Kind == kind && p.Mechanism == device)
        ?? make.Moves.Plans.FirstOrDefault(p =>
            p.Kind == kind && make.Rig.Mechanisms.Any(m => m.Name == p.Mechanism && m.Motors.Contains(device))
        );

    private static double Nominal(TrialPlan plan) => plan.Nominal?.Value ?? TrialPlans.UsualNumber(plan.Kind);

    private ulong Copy(string device) => make.Seed ^ SampleBench.Seed("moves", device);

    private double Try(TrialPlan plan, double asked, double commanded) =>
        TrialBench.Try(plan, make.Rig, make.Motion, Copy(plan.Mechanism), asked, commanded, ref luck);

    // As somebody with a tape says it.
    private string Tape(TrialPlan plan, double asked, double commanded) => $"{Figures.Show(Try(plan, asked, commanded))} {plan.HappenUnit}";

    // ---- its programs ----

    private void StartRun(long now)
    {
        IReadOnlyList<BoxBeat> beats;
        try
        {
            beats = make.Run!(++runs);
        }
        catch (InputProblem e)
        {
            Say(new BoxNo(BoxLine.Short(e.Errors.Values.First())));
            return;
        }
        Say(new BoxOk());
        running = true;
        foreach (var beat in beats)
        {
            var at = now + beat.Micros;
            Later(at, At(beat.Say, at), beat.Seen);
        }
        Later(now + (beats.Count == 0 ? 0 : beats[^1].Micros), null, Ended);
    }

    private const string Ended = "The run is over.";

    // A run tells its own time: on the line it is the box's.
    private static BoxMessage? At(BoxMessage? said, long at) =>
        said switch
        {
            BoxState s => s with { Micros = at },
            BoxReading r => r with { Micros = at },
            _ => said,
        };

    // Nobody told it: what was wanted, what ran and what moved is forgotten, and no program says that it runs no more.
    private void Anew(long now)
    {
        states.Clear();
        due.Clear();
        stops.Clear();
        turning.Clear();
        rolling.Clear();
        Alone(now);
        (started, anew) = (now, long.MaxValue);
        show("It was started anew by itself.");
        Hello();
    }

    private void StopRun(long now)
    {
        if (!running)
            return;
        running = false;
        due.Clear();
        foreach (var program in states.Where(s => s.Value != "-").Select(s => s.Key).ToArray())
            Say(new BoxState(now, program, "-"));
        states.Clear();
        show(Ended);
    }

    // ---- time ----

    /// <summary>Says what is due.</summary>
    /// <param name="now">The time, µs since it was started; it never goes back.</param>
    public void Until(long now)
    {
        // However late it is looked at: what was due before is said, and what was due afterwards is forgotten.
        if (anew <= now)
        {
            Due(anew);
            Anew(anew);
        }
        Due(now);
    }

    private void Due(long now)
    {
        for (var i = stops.Count - 1; i >= 0; i--)
            if (stops[i].At <= now)
            {
                Turn(stops[i].Motor, 0, stops[i].At);
                stops.RemoveAt(i);
            }
        while (due.TryPeek(out var beat, out var at) && at.Item1 <= now)
        {
            due.Dequeue();
            if (beat.Seen != "")
                show(beat.Seen);
            if (beat.Seen == Ended)
                (running, beat) = (false, beat with { Say = null });
            switch (beat.Say)
            {
                // In a run the bench says what sensors read: those that are listened to.
                case BoxReading r when !eyes[r.Name].Wanted:
                    break;
                case BoxState s:
                    states[s.Program] = s.State;
                    Say(s);
                    break;
                case { } m:
                    Say(m);
                    break;
            }
        }
        foreach (var (name, eye) in eyes)
            while (eye.Wanted && eye.Next <= now)
            {
                if (!running)
                    Read(name, eye);
                eye.Next += EveryMicros ?? eye.PeriodMicros;
            }
    }

    private void Read(string name, Eye eye)
    {
        var width = eye.Design.Facts.Width;
        if (eye.Design.Kind == SensorKind.Encoder)
        {
            var motor = Motors(eye.Design.On ?? "").First();
            var t = Of(motor);
            one[0] = Math.Round(t.From + t.Rate * (eye.Next - t.Since) * 1e-6);
        }
        else if (eye.Held is { } before)
            before.Read(one.AsSpan(0, width));
        else
            one[0] = 0;
        var micros = eye.Next;
        var (said, values) = (name, double.IsNaN(one[0]) ? [] : new Sequence<double>(one[..width]));
        if (Fault == BoxFault.Back && luck.Uniform() < 0.1)
            micros = Math.Max(started, micros - 50_000);
        if (Fault == BoxFault.Names && luck.Uniform() < 0.3)
            said = $"Other {said}";
        if (Fault == BoxFault.Range && luck.Uniform() < 0.1)
            values = new Sequence<double>([.. Enumerable.Repeat(eye.Design.Facts.To * 2 + 7, width)]);
        Say(new BoxReading(micros, said, values, null));
    }
}
