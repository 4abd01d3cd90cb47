using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Programs.Engine;

/// <summary>A program of a network.</summary>
/// <param name="Name">Its name, by which the others tell it something.</param>
/// <param name="Script">Its tables.</param>
/// <param name="OnHost">True when it commands the controllers over the link: what it hears and what it commands takes the link's
/// time.</param>
public sealed record NetworkProgram(string Name, CompiledScript Script, bool OnHost);

/// <summary>
/// Several programs at once, each on its own machine, that talk by messages which take time. In one moment: ends and
/// timers of every program in their order, then messages by arrival, then by sender; readings are given from outside
/// between the moments. Like the machines it has no clock of its own.
/// </summary>
public sealed class ScriptNetwork
{
    /// <summary>Most messages on their way at once.</summary>
    public const int MostOnTheWay = 1000;

    /// <summary>Most messages that arrive in one moment before the network is stopped.</summary>
    public const int MostAtOnce = 1000;

    private const int MostValues = 16;

    private struct Flight
    {
        public long Due,
            Serial;
        public int Sender,
            To,
            Text,
            SenderText,
            Count;
    }

    private readonly NetworkProgram[] programs;
    private readonly ScriptMachine[] machines;
    private readonly long delay;
    private readonly Flight[] flights = new Flight[MostOnTheWay];
    private readonly double[] values = new double[MostOnTheWay * MostValues];
    private readonly int[] free = new int[MostOnTheWay];
    private readonly int[] order = new int[MostOnTheWay];
    private int freeCount,
        count;
    private long serial;

    // For each program: its programs by name as machines here, and its texts as each other program numbers them.
    private readonly int[][] target;
    private readonly int[][][] textOf;
    private readonly int[][] senderOf;

    /// <summary>A network.</summary>
    /// <param name="programs">The programs in the rig's order.</param>
    /// <param name="delayMicros">How long a message takes, µs.</param>
    public ScriptNetwork(IReadOnlyList<NetworkProgram> programs, long delayMicros)
    {
        this.programs = [.. programs];
        delay = Math.Max(0, delayMicros);
        machines = [.. programs.Select(p => new ScriptMachine(p.Script))];
        target = [.. programs.Select(p => p.Script.Programs.Select(n => IndexOf(n)).ToArray())];
        textOf =
        [
            .. programs.Select(p => programs.Select(q => p.Script.Texts.Select(t => Array.IndexOf(q.Script.Texts, t)).ToArray()).ToArray()),
        ];
        senderOf = [.. programs.Select(p => programs.Select(q => Array.IndexOf(p.Script.Programs, q.Name)).ToArray())];
    }

    private int IndexOf(string name)
    {
        for (var i = 0; i < programs.Length; i++)
            if (programs[i].Name == name)
                return i;
        return -1;
    }

    /// <summary>The programs.</summary>
    public IReadOnlyList<NetworkProgram> Programs => programs;

    /// <summary>The machine of each program.</summary>
    public IReadOnlyList<ScriptMachine> Machines => machines;

    /// <summary>How much all of them may do together; null for no limit but those of a moment.</summary>
    public StepBudget? Budget
    {
        get => machines[0].Budget;
        set
        {
            foreach (var machine in machines)
                machine.Budget = value;
        }
    }

    /// <summary>Asked of every message that is sent: true when it is lost on its way; null where none is.</summary>
    public Func<bool>? Loses { get; set; }

    /// <summary>Told of every message that arrives: from whom, to whom, its text as the sender numbers it, and its values; null where
    /// nobody asks.</summary>
    internal Action<int, int, int, double[]>? Arriving { get; set; }

    /// <summary>Told of every message to a program that is not among these: from which, and the message with its values; null where
    /// nobody asks.</summary>
    internal Action<int, ScriptMessage, double[]>? Elsewhere { get; set; }

    /// <summary>Brings all clocks to a moment at which something comes from outside, before anything due then has happened.</summary>
    /// <param name="micros">The moment, µs; nothing may be due before it.</param>
    public void At(long micros)
    {
        NowMicros = Math.Max(NowMicros, micros);
        foreach (var m in machines)
            m.At(micros);
    }

    /// <summary>How long a message takes, µs.</summary>
    public long DelayMicros => delay;

    /// <summary>Time now, µs since the start.</summary>
    public long NowMicros { get; private set; }

    /// <summary>Why the network had to be stopped; null while it runs well.</summary>
    public string? Fault { get; private set; }

    /// <summary>True once every program has ended.</summary>
    public bool Finished => Array.TrueForAll(machines, m => m.Finished);

    /// <summary>Messages on their way, in the order in which they arrive: from whom, to whom, what and when.</summary>
    public IReadOnlyList<(string From, string To, string Text, long DueMicros)> OnTheWay =>
        [
            .. Enumerable
                .Range(0, count)
                .Select(i => flights[order[i]])
                .OrderBy(f => f.Due)
                .ThenBy(f => f.Sender)
                .ThenBy(f => f.Serial)
                .Select(f => (programs[f.Sender].Name, programs[f.To].Name, programs[f.Sender].Script.Texts[f.SenderText], f.Due)),
        ];

    /// <summary>When something is due next by itself; <see cref="long.MaxValue"/> when nothing is.</summary>
    public long NextDue
    {
        get
        {
            var next = long.MaxValue;
            foreach (var m in machines)
                if (!m.Finished && m.Fault is null)
                    next = Math.Min(next, m.NextDue);
            for (var i = 0; i < count; i++)
                next = Math.Min(next, flights[order[i]].Due);
            return next;
        }
    }

    /// <summary>Starts all programs at time 0.</summary>
    /// <param name="seed">For what is random in them; each has its own stream.</param>
    public void Start(ulong seed = 1)
    {
        (NowMicros, serial, Fault, count, freeCount) = (0, 0, null, 0, MostOnTheWay);
        for (var i = 0; i < MostOnTheWay; i++)
            free[i] = MostOnTheWay - 1 - i;
        for (var i = 0; i < machines.Length; i++)
        {
            machines[i].Start(seed + (ulong)i * 7919);
            Collect(i);
        }
        Pass(0);
    }

    /// <summary>Lets time pass: ends, timers and messages due until then happen at their time.</summary>
    public void Pass(long untilMicros)
    {
        var (instant, arrived) = (-1L, 0);
        while (Fault is null)
        {
            var now = NextDue;
            if (now > untilMicros)
                break;
            now = Math.Max(now, NowMicros);
            if (now != instant)
                (instant, arrived) = (now, 0);
            NowMicros = now;
            for (var i = 0; i < machines.Length; i++)
            {
                machines[i].Pass(now);
                Collect(i);
            }
            while (Fault is null && First(now) is >= 0 and var at)
            {
                if (++arrived > MostAtOnce)
                {
                    var f = flights[order[at]];
                    Fault =
                        $"Messages go round without time passing: {programs[f.Sender].Name} tells {programs[f.To].Name} "
                        + $"“{programs[f.Sender].Script.Texts[f.SenderText]}” again and again.";
                    break;
                }
                Deliver(at);
            }
        }
        NowMicros = Math.Max(NowMicros, untilMicros);
        for (var i = 0; i < machines.Length; i++)
            machines[i].Pass(NowMicros);
    }

    // The message that arrives first by then: by time, then by sender, then as sent.
    private int First(long until)
    {
        var best = -1;
        for (var i = 0; i < count; i++)
        {
            ref readonly var f = ref flights[order[i]];
            if (f.Due > until)
                continue;
            if (best < 0)
            {
                best = i;
                continue;
            }
            ref readonly var b = ref flights[order[best]];
            if (f.Due < b.Due || f.Due == b.Due && (f.Sender < b.Sender || f.Sender == b.Sender && f.Serial < b.Serial))
                best = i;
        }
        return best;
    }

    private void Deliver(int at)
    {
        var slot = order[at];
        var f = flights[slot];
        order[at] = order[--count];
        var to = machines[f.To];
        Arriving?.Invoke(f.Sender, f.To, f.SenderText, values.AsSpan(slot * MostValues, f.Count).ToArray());
        to.Told(f.Text, senderOf[f.To][f.Sender], values.AsSpan(slot * MostValues, f.Count));
        free[freeCount++] = slot;
        Collect(f.To);
    }

    /// <summary>Takes up what a program has just said; to be called after something was given to its machine from outside.</summary>
    public void Collect(int program)
    {
        var machine = machines[program];
        var sent = machine.Sent;
        var given = machine.SentValues;
        for (var i = 0; i < sent.Count; i++)
        {
            var message = sent[i];
            var to = message.Program >= 0 ? target[program][message.Program] : -1;
            if (to < 0)
                Elsewhere?.Invoke(program, message, given.Slice(message.Start, message.Count).ToArray());
            // A program that does not run hears nothing.
            if (to < 0 || Loses is { } loses && loses())
                continue;
            if (freeCount == 0)
            {
                Fault =
                    $"{MostOnTheWay} messages are on their way at once: {programs[program].Name} tells {programs[to].Name} "
                    + $"“{programs[program].Script.Texts[message.Text]}” faster than they arrive.";
                break;
            }
            var slot = free[--freeCount];
            var n = Math.Min(MostValues, message.Count);
            given.Slice(message.Start, n).CopyTo(values.AsSpan(slot * MostValues));
            flights[slot] = new()
            {
                Due = NowMicros + delay,
                Serial = serial++,
                Sender = program,
                To = to,
                Text = textOf[program][to][message.Text],
                SenderText = message.Text,
                Count = n,
            };
            order[count++] = slot;
        }
        machine.ClearSent();
    }
}
