using System.Globalization;
using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Programs.Outside;

/// <summary>
/// What happened to programs as lines of words, and what they do then. The engine prints here what code that was taken out prints there:
/// <c>seed N</c>, <c>r MICROS SENSOR READING</c>, <c>pass MICROS</c>, <c>at MICROS</c>, <c>done DEVICE</c>, <c>stalls DEVICE</c>,
/// <c>gives up DEVICE</c>, <c>moved DEVICE MM DEGREES</c>, <c>tell PROGRAM TEXT VALUES</c>.
/// </summary>
public static class BoardTrace
{
    /// <summary>Feeds a trace to programs in the engine and says what they do.</summary>
    /// <param name="copy">The copy.</param>
    /// <param name="program">Which program; null for all that run.</param>
    /// <param name="trace">The trace.</param>
    public static IReadOnlyList<string> Run(BoardCopy copy, int? program, IEnumerable<string> trace) =>
        Run(BoardRig.Of(copy, program), trace);

    internal static IReadOnlyList<string> Run(BoardRig rig, IEnumerable<string> trace)
    {
        var run = new Engine(rig);
        run.Start(1);
        foreach (var line in trace.SelectMany(l => l.Split('\n')).Select(l => l.TrimEnd('\r')))
        {
            if (!run.Runs)
                break;
            if (line.Length > 0 && line[0] != '#')
                run.Happens(line);
        }
        run.Say(
            run.Runs ? "goes on"
            : run.HasFault ? "fault"
            : "ended"
        );
        return run.Said;
    }

    private sealed class Engine(BoardRig rig)
    {
        private readonly ScriptNetwork network = new(
            [.. rig.Programs.Select(p => new NetworkProgram(p.Name, p.Script, false))],
            rig.MessageMicros
        );
        private readonly string[] states = [.. rig.Programs.Select(_ => "")];
        private readonly bool[] down = new bool[rig.Sensors.Count];
        private readonly Queue<string>[] elsewhere = [.. rig.Programs.Select(_ => new Queue<string>())];
        private long toldAt = -1;

        public List<string> Said { get; } = [];

        public bool HasFault => network.Fault is not null || network.Machines.Any(m => m.Fault is not null);

        public bool Runs => !network.Finished && !HasFault;

        private static int I(string s) => int.Parse(s, CultureInfo.InvariantCulture);

        private static long L(string s) => long.Parse(s, CultureInfo.InvariantCulture);

        private static double[] Numbers(string words)
        {
            var found = new List<double>();
            foreach (var w in words.Split(' ', StringSplitOptions.RemoveEmptyEntries))
                if (double.TryParse(w, NumberStyles.Float, CultureInfo.InvariantCulture, out var v))
                    found.Add(v);
                else
                    break;
            return [.. found];
        }

        // Names have blanks in them: the longest one that the line begins with.
        private static (int At, string After) Begins(string line, IReadOnlyList<string> names)
        {
            var best = -1;
            for (var i = 0; i < names.Count; i++)
                if (
                    (line + " ").StartsWith(names[i] + " ", StringComparison.Ordinal) && (best < 0 || names[i].Length >= names[best].Length)
                )
                    best = i;
            return best < 0 ? (-1, line) : (best, line.Length > names[best].Length ? line[(names[best].Length + 1)..] : "");
        }

        public void Say(string line) => Said.Add(line);

        private void When(long micros)
        {
            if (micros == toldAt)
                return;
            toldAt = micros;
            Say($"at {micros.ToString(CultureInfo.InvariantCulture)}");
        }

        public void Start(ulong seed)
        {
            Array.Clear(down);
            network.Elsewhere = (i, m, values) =>
            {
                var p = rig.Programs[i];
                var with = string.Concat(values.Take(16).Select(v => Number(v, "")));
                elsewhere[i].Enqueue($"tell {rig.Names[p.ProgramOut[m.Program]]} {rig.Texts[p.TextOut[m.Text]]}{with}");
            };
            network.Start(seed);
            Look();
        }

        public void Happens(string line)
        {
            var (what, rest) = line.Split(' ', 2) is [var a, var b] ? (a, b) : (line, "");
            switch (what)
            {
                case "seed":
                    Start((ulong)L(rest));
                    return;
                case "pass":
                    // One thing after the other, so that no state is passed over.
                    for (var until = L(rest); Runs && network.NextDue <= until; )
                    {
                        network.Pass(network.NextDue);
                        Look();
                    }
                    network.Pass(L(rest));
                    break;
                case "at":
                    network.At(L(rest));
                    break;
                case "r":
                {
                    var (time, reading) = rest.Split(' ', 2) is [var t, var r] ? (t, r) : (rest, "");
                    network.At(L(time));
                    var (sensor, said) = Begins(reading, [.. rig.Sensors.Select(s => s.Name)]);
                    if (sensor >= 0)
                        Reads(sensor, said);
                    break;
                }
                case "tell":
                {
                    var (from, told) = Begins(rest, rig.Names);
                    var (text, values) = Begins(told, rig.Texts);
                    if (text >= 0)
                        Each(
                            p => Array.IndexOf(p.TextOut, text),
                            (m, t, p) => m.Told(t, from < 0 ? -1 : Array.IndexOf(p.ProgramOut, from), [.. Numbers(values).Take(16)])
                        );
                    break;
                }
                default:
                {
                    var of = what == "gives" ? rest["up ".Length..] : rest;
                    var (device, numbers) = Begins(of, [.. rig.Devices.Select(d => d.Name)]);
                    if (device < 0)
                        return;
                    double[] values = [.. Numbers(numbers), 0, 0];
                    Each(
                        p => Array.IndexOf(p.DeviceOut, device),
                        (m, d, p) =>
                        {
                            if (what == "done")
                                m.Ended(d);
                            else if (what == "stalls")
                                m.Stalled(d);
                            else if (what == "gives")
                                m.GivesUp(d);
                            else if (what == "moved" && p.Script.Measures[d])
                                m.Moved(d, values[0], values[1]);
                        }
                    );
                    break;
                }
            }
            Look();
        }

        // Those that know what it is about, each by its own number for it.
        private void Each(Func<BoardProgram, int> own, Action<ScriptMachine, int, BoardProgram> doThis)
        {
            foreach (var (i, p) in rig.Programs.Index())
                if (own(p) is >= 0 and var at)
                {
                    network.At(network.NowMicros);
                    doThis(network.Machines[i], at, p);
                    network.Collect(i);
                }
        }

        private void Reads(int sensor, string said)
        {
            var numbers = said == "lost" ? [double.NaN] : Numbers(said);
            var pressed = numbers.Length > 0 && numbers[0] > 0.5;
            Each(
                p => Array.IndexOf(p.SensorOut, sensor),
                (m, s, p) =>
                {
                    if (p.Script.IsSwitch[s])
                    {
                        if (numbers.Length > 0 && !double.IsNaN(numbers[0]) && pressed != down[sensor])
                            m.SeeZone(s, p.Script.ZoneIndex(pressed ? "down" : "up"));
                    }
                    else if (said == "lost")
                        m.Sense(s, double.NaN);
                    else if (numbers.Length == 0 && said != "-")
                        m.SenseZone(s, p.Script.ZoneIndex(said));
                    else if (p.Readers[s]?.Kind > 1 || rig.Sensors[sensor].Design.Facts.View is "colours" or "names")
                        m.SenseZone(s, numbers.Length == 0 ? -1 : p.Readers[s]?.Zone(p.Script, numbers) ?? -1);
                    else if (numbers.Length > 0)
                        m.Read(s, numbers[0]);
                    else if (p.Script.Rig.Sensors[s].MayHearNothing)
                        m.Silent(s);
                    else
                        m.Sense(s, double.NaN);
                }
            );
            if (numbers.Length > 0 && !double.IsNaN(numbers[0]))
                down[sensor] = pressed;
        }

        // What is new since it was last looked at.
        private void Look()
        {
            foreach (
                var (i, c) in network
                    .Machines.Index()
                    .SelectMany(m => m.Item.Commands.Select(c => (m.Index, c)))
                    .OrderBy(c => c.c.TimeMicros)
            )
                Command(i, rig.Programs[i], c);
            foreach (var (i, p) in rig.Programs.Index())
            {
                var m = network.Machines[i];
                m.ClearCommands();
                var now = string.Join('+', m.Configuration);
                if (now == states[i])
                    continue;
                states[i] = now;
                When(network.NowMicros);
                Say($"state {network.NowMicros.ToString(CultureInfo.InvariantCulture)} {p.Name} {now}");
            }
        }

        private static string Number(double v, string unit) => double.IsNaN(v) ? "" : " " + Six(v + 0.0) + (unit == "" ? "" : " " + unit);

        // Six figures, as every other language writes them.
        private static string Six(double v) => v.ToString("G6", CultureInfo.InvariantCulture).Replace("E", "e", StringComparison.Ordinal);

        private void Command(int program, BoardProgram p, in ScriptCommand c)
        {
            var a = c.Activity < 0 ? null : p.Script.Units[c.Unit].Activities[c.Activity];
            var order = a is null ? null : p.Orders.Of(a);
            if (c.Device < 0 && order is null)
            {
                if (a?.Kind == DoKind.Tell && p.ProgramOut[a.Slot] >= rig.Programs.Count && elsewhere[program].TryDequeue(out var said))
                {
                    When(c.TimeMicros);
                    Say(said);
                }
                if (a?.Kind == DoKind.StopAll)
                    foreach (var d in p.DeviceOut)
                        Order(c.TimeMicros, d, new(BoardVerb.Stop), double.NaN, double.NaN, 0);
                return;
            }
            order ??= new(BoardVerb.Stop) { Value = double.NaN, Amount = double.NaN };
            Order(
                c.TimeMicros,
                c.Device < 0 ? -1 : p.DeviceOut[c.Device],
                order,
                order.Sign * (order.Value ?? c.Value),
                order.Amount ?? c.Second,
                c.LastsMicros * 1e-6
            );
        }

        private void Order(long micros, int device, BoardOrder order, double value, double amount, double seconds)
        {
            When(micros);
            Say(
                $"do {(device < 0 ? "display" : rig.Devices[device].Name)} {BoardOrders.Verbs[(int)order.Verb]}"
                    + Number(value, BoardOrders.Units[order.Unit])
                    + Number(amount, BoardOrders.Units[order.AmountUnit])
                    + (seconds > 0 ? " for" + Number(seconds, "s") : "")
                    + (order.Words == "" ? "" : " " + order.Words)
            );
        }
    }
}
