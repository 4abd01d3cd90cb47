using System.Globalization;

namespace Chiton.Core.Programs.Outside;

/// <summary>Names that are known where a line is read: they have blanks in them, and the longest that fits is meant.</summary>
/// <param name="Sensors">Sensors.</param>
/// <param name="Devices">Devices.</param>
/// <param name="Programs">Programs.</param>
public sealed record BoxNames(IReadOnlyList<string> Sensors, IReadOnlyList<string> Devices, IReadOnlyList<string> Programs)
{
    /// <summary>None: names are guessed from what stands around them.</summary>
    public static BoxNames None { get; } = new([], [], []);
}

/// <summary>
/// The line between a box and the desk: lines of text, UTF-8, at most 200 characters, ended by a line feed. A person can type it. Whatever
/// comes is read without a failure; what is no sentence of it says what is wrong.
/// </summary>
public static class BoxLine
{
    /// <summary>Most characters of a line.</summary>
    public const int Longest = 200;

    /// <summary>Latest time that can be said, µs.</summary>
    public const long LatestMicros = 1_000_000_000_000_000;

    /// <summary>What devices can be told.</summary>
    public static IReadOnlyList<string> Verbs => BoardOrders.Verbs;

    /// <summary>As much of a line as is shown.</summary>
    internal static string Shown(string line) => line.Length > Longest ? line[..Longest] : line;

    /// <summary>As much of some words as fits behind a first word.</summary>
    internal static string Short(string words) => words.Length > Longest - 20 ? words[..(Longest - 20)] : words;

    private static string N(double v) => v.ToString("R", CultureInfo.InvariantCulture);

    private static string N(long v) => v.ToString(CultureInfo.InvariantCulture);

    /// <summary>A message as its line, without the end.</summary>
    public static string Print(BoxMessage message) =>
        message switch
        {
            BoxHello m => $"chiton {N(m.Version)} {m.Name}{(m.StandIn ? " stand-in" : "")}",
            BoxHave m => $"have {m.Name} {m.Kind} {N(m.PeriodMs)}",
            BoxTell m => $"tell {m.Name}",
            BoxQuiet m => $"quiet {m.Name}",
            BoxReading m => $"r {N(m.Micros)} {m.Name} {m.Zone ?? (m.Values.Count == 0 ? "-" : string.Join(' ', m.Values.Select(N)))}",
            BoxOrder m => $"do {m.Name} {m.Verb}{With(m.Value, m.Unit)}{With(m.Amount, m.AmountUnit)}"
                + (m.Seconds is { } s ? $" for {N(s)} s" : "")
                + (m.Words == "" ? "" : $" {m.Words}"),
            BoxDone m => $"done {m.Name}",
            BoxStalls m => $"stalls {m.Name}",
            BoxGivesUp m => $"gives up {m.Name}",
            BoxState m => $"state {N(m.Micros)} {m.Program} {m.State}",
            BoxHolds m => $"holds {m.Hash}",
            BoxBattery m => $"battery {N(m.Volts)}",
            BoxAsk m => m.Words == "" ? "?" : $"? {m.Words}",
            BoxOk => "ok",
            BoxNo m => $"no {m.Reason}",
            BoxStrange m => m.Line,
            _ => throw new ArgumentOutOfRangeException(nameof(message)),
        };

    private static string With(double? value, string unit) => value is not { } v ? "" : " " + N(v) + (unit == "" ? "" : " " + unit);

    /// <summary>Reads a line; never fails.</summary>
    /// <param name="line">The line, without its end.</param>
    /// <param name="names">Names that are known.</param>
    public static BoxMessage Read(string line, BoxNames names)
    {
        BoxStrange Strange(string why) => new(Shown(line), why);
        if (line.Length > Longest)
            return Strange($"A line has at most {Longest} characters.");
        if (line.Any(char.IsControl))
            return Strange("A line has no signs that cannot be seen.");
        var (what, rest) = Cut(line.Trim(' '));
        switch (what)
        {
            case "ok" when rest == "":
                return new BoxOk();
            case "no":
                return new BoxNo(rest);
            case "?":
                return new BoxAsk(rest);
            case "chiton":
            {
                var (version, name) = Cut(rest);
                if (version != "1")
                    return Strange("This line is version 1: a box says “chiton 1” and its name.");
                var standIn = name.EndsWith(" stand-in", StringComparison.Ordinal);
                name = standIn ? name[..^" stand-in".Length] : name;
                return name == "" ? Strange("A box says its name.") : new BoxHello(1, name, standIn);
            }
            case "have":
            {
                // The name may have blanks, what follows it has none.
                var words = rest.Split(' ', StringSplitOptions.RemoveEmptyEntries);
                return words.Length < 3 ? Strange("Say which sensor it is, what kind, and the time between its readings in ms.")
                    : Number(words[^1]) is not (> 0 and <= 1e6 and var period)
                        ? Strange("The time between readings is a number of ms, more than 0 and at most 1000000.")
                    : new BoxHave(string.Join(' ', words[..^2]), words[^2], period);
            }
            case "tell":
                return rest == "" ? Strange("Say of which sensor.") : new BoxTell(rest);
            case "quiet":
                return rest == "" ? Strange("Say of which sensor.") : new BoxQuiet(rest);
            case "done":
                return rest == "" ? Strange("Say which device.") : new BoxDone(rest);
            case "stalls":
                return rest == "" ? Strange("Say which device.") : new BoxStalls(rest);
            case "gives":
                return Cut(rest) is ("up", { Length: > 0 } given) ? new BoxGivesUp(given) : Strange("Say “gives up” and which device.");
            case "holds":
                return rest == "" || rest.Contains(' ', StringComparison.Ordinal)
                    ? Strange("Say what it holds in one word.")
                    : new BoxHolds(rest);
            case "battery":
                return Number(rest) is >= 0 and <= 1000 and var volts
                    ? new BoxBattery(volts)
                    : Strange("The battery is a number of volts, 0 to 1000.");
            case "r":
                return Reading(rest, names, Strange);
            case "state":
            {
                var (time, where) = Cut(rest);
                if (Micros(time) is not { } micros)
                    return Strange("A time is a whole number of microseconds.");
                var (program, state) = Named(where, names.Programs);
                return state == "" ? Strange("Say which program, and its state.") : new BoxState(micros, program, state);
            }
            case "do":
                return Order(rest, names, Strange);
            default:
                return Strange("No line begins so.");
        }
    }

    // The first word, and what follows it.
    private static (string Word, string After) Cut(string line)
    {
        var at = line.IndexOf(' ', StringComparison.Ordinal);
        return at < 0 ? (line, "") : (line[..at], line[at..].Trim(' '));
    }

    private static double? Number(string word) =>
        double.TryParse(
            word,
            NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowExponent,
            CultureInfo.InvariantCulture,
            out var v
        ) && double.IsFinite(v)
            ? v
            : null;

    private static long? Micros(string word) =>
        long.TryParse(word, NumberStyles.None, CultureInfo.InvariantCulture, out var v) && v <= LatestMicros ? v : null;

    // A known name that a line begins with, the longest of them; else its first word.
    private static (string Name, string After) Named(string line, IReadOnlyList<string> known)
    {
        string? best = null;
        foreach (var name in known)
            if (name.Length > (best?.Length ?? 0) && (line == name || line.StartsWith(name + " ", StringComparison.Ordinal)))
                best = name;
        return best is null ? Cut(line) : (best, line[best.Length..].Trim(' '));
    }

    private static BoxMessage Reading(string rest, BoxNames names, Func<string, BoxMessage> strange)
    {
        var (time, said) = Cut(rest);
        if (Micros(time) is not { } micros)
            return strange("A time is a whole number of microseconds.");
        var (name, reading) = Named(said, names.Sensors);
        // Of a sensor that nobody knows the name is what stands before its numbers.
        if (!names.Sensors.Contains(name))
        {
            var words = said.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            var numbers = 0;
            while (numbers < 3 && numbers < words.Length && Number(words[^(numbers + 1)]) is not null)
                numbers++;
            numbers = numbers == 3 ? 3 : 1;
            if (words.Length <= numbers)
                return strange("Say which sensor, and what it reads.");
            (name, reading) = (string.Join(' ', words[..^numbers]), string.Join(' ', words[^numbers..]));
        }
        if (reading == "")
            return strange("Say what it reads: a number, three of a colour, or - for nothing heard.");
        if (reading == "-")
            return new BoxReading(micros, name, [], null);
        var each = reading.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        double?[] values = [.. each.Select(Number)];
        if (values.All(v => v is not null))
            return values.Length is 1 or 3
                ? new BoxReading(micros, name, [.. values.Select(v => v!.Value)], null)
                : strange("A reading is one number, or three of a colour.");
        return values[0] is null ? new BoxReading(micros, name, [], reading) : strange("A reading is a number, or the name of a zone.");
    }

    private static BoxMessage Order(string rest, BoxNames names, Func<string, BoxMessage> strange)
    {
        var (name, order) = Named(rest, names.Devices);
        // Of a device that nobody knows the name is what stands before the first verb.
        if (!names.Devices.Contains(name))
        {
            var all = rest.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            var verbAt = Array.FindIndex(all, 1 <= all.Length ? 1 : 0, w => Verbs.Contains(w));
            if (verbAt < 1)
                return strange($"Say which device, and what it does: {string.Join(", ", Verbs)}.");
            (name, order) = (string.Join(' ', all[..verbAt]), string.Join(' ', all[verbAt..]));
        }
        var (verb, with) = Cut(order);
        if (!Verbs.Contains(verb))
            return strange($"Say what it does: {string.Join(", ", Verbs)}.");
        var (value, unit, after) = Measured(with);
        var (amount, amountUnit, then) = value is null ? (null, "", after) : Measured(after);
        double? seconds = null;
        if (
            then.Split(' ', 4, StringSplitOptions.RemoveEmptyEntries) is ["for", var time, "s", .. var others]
            && Number(time) is >= 0 and var s
        )
            (seconds, then) = (s, others.Length == 0 ? "" : others[0]);
        return new BoxOrder(name, verb, value, unit, amount, amountUnit, seconds, then);
    }

    // A number and its unit at the beginning of some words.
    private static (double? Value, string Unit, string After) Measured(string words)
    {
        var (first, after) = Cut(words);
        if (Number(first) is not { } value)
            return (null, "", words);
        var unit = BoardOrders
            .Units.Where(u => u != "" && (after == u || after.StartsWith(u + " ", StringComparison.Ordinal)))
            .MaxBy(u => u.Length);
        return unit is null ? (value, "", after) : (value, unit, after[unit.Length..].Trim(' '));
    }
}

/// <summary>Puts bytes together to lines, however they are cut: what is too long or no text is one strange line, and reading goes
/// on.</summary>
public sealed class BoxFraming
{
    private readonly byte[] bytes = new byte[4 * BoxLine.Longest + 2];
    private int count;
    private bool over;

    private static readonly System.Text.UTF8Encoding Strict = new(false, true);

    /// <summary>Takes bytes up and says each line that they end.</summary>
    /// <param name="taken">The bytes, any number of them.</param>
    /// <param name="names">Names that are known.</param>
    /// <param name="said">Told of each line.</param>
    public void Take(ReadOnlySpan<byte> taken, BoxNames names, Action<BoxMessage> said)
    {
        foreach (var b in taken)
        {
            if (b != (byte)'\n')
            {
                if (count < bytes.Length)
                    bytes[count++] = b;
                else
                    over = true;
                continue;
            }
            if (count > 0 && !over && bytes[count - 1] == (byte)'\r')
                count--;
            var line = bytes.AsSpan(0, count);
            if (over)
                said(
                    new BoxStrange(
                        BoxLine.Shown(System.Text.Encoding.UTF8.GetString(line)),
                        $"A line has at most {BoxLine.Longest} characters."
                    )
                );
            else if (count > 0)
                said(Message(line, names));
            (count, over) = (0, false);
        }
    }

    private static BoxMessage Message(ReadOnlySpan<byte> line, BoxNames names)
    {
        try
        {
            return BoxLine.Read(Strict.GetString(line), names);
        }
        catch (System.Text.DecoderFallbackException)
        {
            return new BoxStrange(BoxLine.Shown(System.Text.Encoding.UTF8.GetString(line)), "A line is text in UTF-8.");
        }
    }
}
