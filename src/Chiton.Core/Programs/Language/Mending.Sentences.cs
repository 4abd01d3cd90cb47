using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

public static partial class Mending
{
    // What people say for what the language says, longest first where one begins another.
    private static readonly (string[] Said, string[] Means)[] Phrases =
    [
        .. new (string, string)[]
        {
            ("then go to", "go"),
            ("and go to", "go"),
            ("then go", "go"),
            ("and go", "go"),
            ("go to state", "go"),
            ("go to", "go"),
            ("goto", "go"),
            ("jump to", "go"),
            ("change to", "go"),
            ("switch to", "go"),
            ("next state", "go"),
            ("is equal to", "="),
            ("equals", "="),
            ("==", "="),
            ("is less than", "<"),
            ("is smaller than", "<"),
            ("is below", "<"),
            ("is under", "<"),
            ("is closer than", "<"),
            ("is nearer than", "<"),
            ("less than", "<"),
            ("smaller than", "<"),
            ("closer than", "<"),
            ("below", "<"),
            ("is greater than", ">"),
            ("is more than", ">"),
            ("is bigger than", ">"),
            ("is above", ">"),
            ("is farther than", ">"),
            ("greater than", ">"),
            ("more than", ">"),
            ("bigger than", ">"),
            ("&&", "and"),
            ("||", "or"),
            ("and then", ", then"),
            ("double tapped", "is tapped twice"),
            ("double clicked", "is tapped twice"),
            ("tapped 2 times", "tapped twice"),
            ("become", "becomes"),
            ("leave", "leaves"),
            ("stall", "stalls"),
            ("hit", "pressed"),
            ("touched", "pressed"),
            ("pushed", "pressed"),
            ("clicked", "tapped"),
            ("let go", "released"),
            ("sees", "becomes"),
            ("detects", "becomes"),
            ("finds", "becomes"),
            ("reaches", "becomes"),
            ("turns", "becomes"),
            ("no longer sees", "leaves"),
            ("stops seeing", "leaves"),
            ("loses", "leaves"),
            ("isn't", "is not"),
            ("has finished", "is done"),
            ("is finished", "is done"),
            ("finishes", "is done"),
            ("gets stuck", "stalls"),
            ("is stuck", "stalls"),
            ("is blocked", "stalls"),
            ("gave up", "gives up"),
            ("everything is done", "all done"),
            ("all is done", "all done"),
            ("at a speed of", "at"),
            ("at speed", "at"),
            ("with speed", "at"),
            ("with power", "at"),
            ("with", "at"),
            ("speed", "at"),
            ("power", "at"),
            ("@", "at"),
            ("for at most", "up to"),
            ("at most", "up to"),
            ("max", "up to"),
            ("drive forwards", "drive straight"),
            ("drive forward", "drive straight"),
            ("drive ahead", "drive straight"),
            ("go forwards", "drive straight"),
            ("go forward", "drive straight"),
            ("go straight", "drive straight"),
            ("move forward", "drive straight"),
            ("forwards", "forward"),
            ("drive backwards", "drive back"),
            ("drive backward", "drive back"),
            ("drive reverse", "drive back"),
            ("go backwards", "drive back"),
            ("go back", "drive back"),
            ("reverse", "drive back"),
            ("backwards", "back"),
            ("backward", "back"),
            ("rotate left", "turn robot left"),
            ("rotate right", "turn robot right"),
            ("spin left", "turn robot left"),
            ("spin right", "turn robot right"),
            ("turn left", "turn robot left"),
            ("turn right", "turn robot right"),
            ("stop all motors", "stop everything"),
            ("stop all", "stop everything"),
            ("halt everything", "stop everything"),
            ("halt", "stop"),
            ("print", "show"),
            ("display", "show"),
            ("write", "show"),
            ("say", "show"),
            ("play tone", "tone"),
            ("play a tone", "tone"),
            ("sleep", "wait"),
            ("pause", "wait"),
            ("wait for", "wait"),
            ("call", "do"),
            ("loop", "repeat"),
            ("start motor", "run"),
            ("start", "run"),
            ("spin", "run"),
            ("move", "run"),
            ("put", "set"),
            ("let", "set"),
            ("each", "every"),
            ("after every", "every"),
            ("whenever", "when"),
            ("once", "when"),
            ("as soon as", "when"),
            ("otherwise", ", otherwise"),
            ("else", ", otherwise"),
            ("the", ""),
            ("a", ""),
            ("please", ""),
        }.Select(p => (p.Item1.Split(' '), p.Item2 == "" ? Array.Empty<string>() : p.Item2.Split(' '))),
    ];

    private static readonly HashSet<string> Heard = [.. Phrases.SelectMany(p => p.Said).Where(w => w.All(char.IsLetter))];

    private static bool Synonym(string word) =>
        Heard.Contains(word) || Units.ContainsKey(word) || word is "if" or "until" or "button" or "sensor" or "motor" or "lamp" or "light";

    private static readonly Dictionary<string, string> Units = new()
    {
        ["second"] = "s",
        ["seconds"] = "s",
        ["sec"] = "s",
        ["secs"] = "s",
        ["millisecond"] = "ms",
        ["milliseconds"] = "ms",
        ["msec"] = "ms",
        ["millimetre"] = "mm",
        ["millimetres"] = "mm",
        ["millimeter"] = "mm",
        ["millimeters"] = "mm",
        ["centimetre"] = "cm",
        ["centimetres"] = "cm",
        ["centimeters"] = "cm",
        ["metre"] = "m",
        ["metres"] = "m",
        ["meters"] = "m",
        ["inches"] = "in",
        ["inch"] = "in",
        ["percent"] = "%",
        ["percentage"] = "%",
        ["pct"] = "%",
        ["degree"] = "deg",
        ["degrees"] = "deg",
        ["°"] = "deg",
        ["hertz"] = "Hz",
        ["hz"] = "Hz",
        ["newton"] = "N",
        ["newtons"] = "N",
        ["n"] = "N",
        ["times"] = "times",
    };

    private static readonly string[] Begins = ["when", "after", "every", "always"];

    private static IEnumerable<string> Sentences(List<Said> words, Known names)
    {
        var line = Rename(Replace(words));
        line = Moment(line);
        foreach (var candidate in Whole(line, names))
        {
            var whole = Fill(candidate, names);
            yield return Join(whole);
            // What was taken for an edge may have been meant as a level.
            if (!words.Exists(w => w.Is("becomes")) && whole.FindIndex(w => w.Is("becomes")) is >= 0 and var edge)
                yield return Join([.. whole[..edge], new("is"), .. whole[(edge + 1)..]]);
        }
    }

    private static string Join(IEnumerable<Said> words)
    {
        var text = string.Join(' ', words.Select(w => w.Text));
        return text.Replace(" :", ":", StringComparison.Ordinal)
            .Replace(" ,", ",", StringComparison.Ordinal)
            .Replace(" ;", ";", StringComparison.Ordinal);
    }

    // ---- words for words ----

    private static List<Said> Replace(List<Said> words)
    {
        var made = new List<Said>();
        for (var i = 0; i < words.Count; )
        {
            if (words[i].Kind == NameKind.None && i > 0 && words[i - 1].IsNumber && Units.TryGetValue(words[i].Text, out var unit))
            {
                made.Add(new(unit));
                i++;
                continue;
            }
            var found = Phrases
                .Where(p => p.Said.Length <= words.Count - i && p.Said.Select((w, k) => words[i + k].Is(w)).All(x => x))
                .OrderByDescending(p => p.Said.Length)
                .FirstOrDefault();
            // “30 % power” has its speed already.
            if (found.Said is ["power"] or ["speed"] && i > 0 && words[i - 1].Kind == NameKind.None && words[i - 1].Text is "%" or "s")
            {
                i++;
                continue;
            }
            if (found.Said is null)
            {
                made.Add(words[i++]);
                continue;
            }
            made.AddRange(found.Means.Select(w => new Said(w)));
            i += found.Said.Length;
        }
        return made;
    }

    // Who a name stands for is told besides: “the Knob button”, “motor Mast”.
    private static List<Said> Rename(List<Said> words) =>
        [
            .. words.Where(
                (w, i) =>
                    !(w.Kind == NameKind.None && w.Text is "button" or "sensor" or "motor" or "lamp" or "light" or "eye" or "state")
                    || (i == 0 || words[i - 1].Kind == NameKind.None) && (i + 1 >= words.Count || words[i + 1].Kind == NameKind.None)
            ),
        ];

    // How the line begins: on entry, while here, on exit, or a trigger.
    private static List<Said> Moment(List<Said> line)
    {
        (string[] Said, string Means)[] moments =
        [
            (["on", "entry"], "on entry"),
            (["on", "enter"], "on entry"),
            (["on", "entering"], "on entry"),
            (["when", "entering"], "on entry"),
            (["at", "run"], "on entry"),
            (["on", "run"], "on entry"),
            (["at", "entry"], "on entry"),
            (["entry"], "on entry"),
            (["enter"], "on entry"),
            (["first"], "on entry"),
            (["while", "here"], "while here"),
            (["while", "in", "here"], "while here"),
            (["while"], "while here"),
            (["during"], "while here"),
            (["here"], "while here"),
            (["on", "exit"], "on exit"),
            (["on", "leaving"], "on exit"),
            (["on", "leave"], "on exit"),
            (["at", "exit"], "on exit"),
            (["exit"], "on exit"),
            (["leaving"], "on exit"),
        ];
        foreach (var (said, means) in moments)
        {
            if (said.Length > line.Count || said.Where((w, i) => !line[i].Is(w)).Any())
                continue;
            // “while Range < 65 mm” is no moment.
            var rest = line.Skip(said.Length).SkipWhile(w => w.Is(":") || w.Is("-")).ToList();
            if (means == "while here" && said.Length == 1 && !rest.Exists(w => LineParser.Verbs.Contains(w.Text)))
                continue;
            return [.. means.Split(' ').Select(w => new Said(w)), new(":"), .. rest];
        }
        return line;
    }

    // ---- whole sentences ----

    private static IEnumerable<List<Said>> Whole(List<Said> line, Known names)
    {
        if (line.Count == 0)
            yield break;
        // “go Backing after 2 s”.
        if (line[0].Is("go") && line.FindIndex(1, w => w.Kind == NameKind.None && Begins.Contains(w.Text)) is > 1 and var asked)
            line = [.. line[asked..], new(":"), .. line[..asked]];
        if (line.Count > 1 && Begins.Contains(line[0].Text) && line[1].Is(":") && !line[0].Is("always"))
            line = [line[0], .. line.Skip(2)];
        if (line[0].Is("on") || line[0].Is("while"))
        {
            yield return Actions(line);
            yield break;
        }
        // “if X then Y” and “X: Y” are triggers.
        if (line[0].Is("if"))
            line = [new("when"), .. line.Skip(1)];
        if (line[0].Kind is NameKind.Sensor or NameKind.Device or NameKind.Other or NameKind.Variable && line.Count > 1 && !Sets(line))
            line = [new("when"), .. line];
        if (line[0].IsNumber && line.Exists(w => w.Is("go") || w.Is(":")))
            line = [new("after"), .. line];
        if (Begins.Contains(line[0].Text))
        {
            foreach (var trigger in Triggers(line, names))
                yield return trigger;
            yield break;
        }
        if (line[0].Is("go") || line[0].Is("stay"))
        {
            yield return [new("always"), new(":"), .. line];
            yield break;
        }
        if (line[0].Is("wait") && line.FindIndex(w => w.Is("go")) is > 0 and var then)
        {
            yield return [new("after"), .. line[1..then].Where(w => !w.Is(":") && !w.Is(",") && !w.Is("then")), new(":"), .. line[then..]];
            yield break;
        }
        // “run Mast at 30 % until Foot switch is pressed”.
        if (line.FindIndex(w => w.Is("until")) is > 0 and var until && !line[0].Is("repeat"))
        {
            var device = line[..until].FirstOrDefault(w => w.Kind == NameKind.Device);
            foreach (var trigger in Triggers([new("when"), .. line[(until + 1)..], new(":"), new("stop"), device], names))
                yield return trigger;
            yield return [new("while"), new("here"), new(":"), .. Actions(line[..until])];
            yield break;
        }
        // What goes on is begun while here, what is done once on entry; where one does not fit, the other may.
        var goes = line.Exists(w => w.Kind == NameKind.None && w.Text is "run" or "drive" or "steer" or "follow" or "blink");
        string[][] moments = goes
            ?
            [
                ["while", "here"],
                ["on", "entry"],
            ]
            :
            [
                ["on", "entry"],
                ["while", "here"],
            ];
        foreach (var moment in moments)
            yield return [.. moment.Select(w => new Said(w)), new(":"), .. Actions(line)];
    }

    private static bool Sets(List<Said> line) =>
        line[0].Kind == NameKind.Variable
        && line.Count > 1
        && (line[1].Is("=") || line[1].Is("++") || line[1].Is("--") || line[1].Is("+=") || line[1].Is("-="));

    private static IEnumerable<List<Said>> Triggers(List<Said> line, Known names)
    {
        // Where the trigger ends: a colon, else where something is done.
        var colon = line.FindIndex(w => w.Is(":"));
        var does = line.FindIndex(
            1,
            w => w.Kind == NameKind.None && (w.Text is "go" or "stay" or "then" || LineParser.Verbs.Contains(w.Text))
        );
        var end = colon > 0 ? colon : does;
        if (end < 0 && line[^1].Kind == NameKind.State)
            end = line.Count - 1;
        if (end < 0)
            yield break;
        var trigger = line[..end].Where((w, i) => !(i == end - 1 && (w.Is(",") || w.Is("then")))).ToList();
        var rest = line[end..].SkipWhile(w => w.Is(":") || w.Is("then") || w.Is(",")).ToList();
        // A state alone is where it goes; what is done after going is done before.
        if (rest.Count == 1 && rest[0].Kind == NameKind.State)
            rest = [new("go"), .. rest];
        var go = rest.FindIndex(w => w.Is("go"));
        if (go >= 0 && go + 2 < rest.Count)
        {
            var after = rest[(go + 2)..].SkipWhile(w => w.Is(",") || w.Is(";") || w.Is("and") || w.Is("then")).ToList();
            rest = [.. rest[..go], .. after, new(";"), rest[go], rest[go + 1]];
        }
        else if (go > 0)
            rest =
            [
                .. rest[..go].Where((w, i) => i < go - 1 || !(w.Is(",") || w.Is(";") || w.Is("and") || w.Is("then"))),
                new(";"),
                .. rest[go..],
            ];
        var doing = go == 0 ? rest : Actions(rest);
        foreach (var read in Asks(trigger, names))
            yield return [.. read, new(":"), .. doing];
    }

    // What a trigger asks, with the words between names that were left out.
    private static IEnumerable<List<Said>> Asks(List<Said> trigger, Known names)
    {
        var made = new List<Said>();
        for (var i = 0; i < trigger.Count; i++)
        {
            var w = trigger[i];
            var before = made.Count > 0 ? made[^1] : default;
            // “Tag eye = bed tag”, “Tag eye bed tag”.
            if (w.Is("=") && before.Kind == NameKind.Sensor && i + 1 < trigger.Count && trigger[i + 1].Kind is NameKind.Zone)
                made.Add(new("becomes"));
            else if (w.Kind == NameKind.Zone && before.Kind == NameKind.Sensor)
                made.AddRange([new("becomes"), w]);
            // “Knob pressed”.
            else if (
                w.Kind == NameKind.None
                && w.Text is "pressed" or "released" or "tapped" or "held" or "done" or "down" or "up"
                && before.Kind is NameKind.Sensor or NameKind.Device
            )
                made.AddRange([new("is"), w]);
            else if (
                w.Kind == NameKind.None
                && w.Text is "press" or "push" or "click" or "tap"
                && i + 1 < trigger.Count
                && trigger[i + 1].Kind == NameKind.Sensor
            )
            {
                made.AddRange([trigger[i + 1], new("is"), new(w.Text is "click" or "tap" ? "tapped" : "pressed")]);
                i++;
            }
            else if (w.Kind == NameKind.None && w.Text is "press" or "push" or "presses" && before.Kind == NameKind.Sensor)
                made.AddRange([new("is"), new("pressed")]);
            else
                made.Add(w);
        }
        yield return made;
        // A sensor alone: each of its zones would do; a button is pressed.
        if (
            made.Count == 2
            && made[1].Kind == NameKind.Sensor
            && names.Rig.Sensors.FirstOrDefault(s => s.Name == made[1].Text) is { } sensor
        )
            foreach (var zone in sensor.Switch ? ["pressed"] : sensor.Zones)
                yield return [.. made, new(sensor.Switch ? "is" : "becomes"), new(zone, sensor.Switch ? NameKind.None : NameKind.Zone)];
    }

    // ---- actions ----

    private static List<Said> Actions(List<Said> line)
    {
        var made = new List<Said>();
        for (var i = 0; i < line.Count; i++)
        {
            var w = line[i];
            var next = i + 1 < line.Count ? line[i + 1] : default;
            var before = made.Count > 0 ? made[^1] : default;
            // Between actions a comma is a semicolon unless “then” follows; “then” wants its comma.
            if (
                w.Is(",")
                && !next.Is("then")
                && !next.Is("otherwise")
                && !next.Is("dead")
                && (LineParser.Verbs.Contains(next.Text) || next.Kind == NameKind.Device)
            )
                made.Add(new(";"));
            else if (w.Is("then") && !before.Is(",") && made.Count > 0)
                made.AddRange([new(","), w]);
            // “turn on Lamp”, “switch on Lamp”, “Lamp on”.
            else if (
                w.Kind == NameKind.None
                && w.Text is "turn" or "switch"
                && next.Kind == NameKind.None
                && next.Text is "on" or "off"
                && i + 2 < line.Count
            )
            {
                made.AddRange([new("turn"), line[i + 2], next]);
                i += 2;
            }
            else if (w.Is("switch"))
                made.Add(new("turn"));
            else if (w.Kind == NameKind.Device && next.Kind == NameKind.None && next.Text is "on" or "off" && !before.Is("turn"))
                made.AddRange([new("turn"), w]);
            else if (w.Kind == NameKind.Device && next.Kind == NameKind.None && next.Text is "stop" or "stops")
            {
                made.AddRange([new("stop"), w]);
                i++;
            }
            // “set Flap open”.
            else if (w.Kind == NameKind.Device && before.Is("set") && !next.Is("to") && !next.Is("="))
                made.AddRange([w, new("to")]);
            else if (w.Is("beep"))
                made.AddRange("tone 440 Hz for 0.2 s".Split(' ').Select(x => new Said(x)));
            else if (Sum(line, i) is var (words, used) && used > 0)
            {
                made.AddRange(words);
                i += used - 1;
            }
            else
                made.Add(w);
        }
        return made;
    }

    // “beds = beds + 1”, “beds++”, “increase beds by 1”, “add 1 to beds”, “set beds = 3”.
    private static (List<Said> Words, int Used) Sum(List<Said> line, int i)
    {
        Said At(int k) => i + k < line.Count ? line[i + k] : default;
        List<Said> Change(Said v, string sign, Said by) => [new("set"), v, new("to"), v, new(sign), by];
        if (At(0).Kind == NameKind.Variable && (i == 0 || !line[i - 1].Is("set") && !line[i - 1].Is("to") && !line[i - 1].Is("into")))
        {
            if (At(1).Is("="))
                return ([new("set"), At(0), new("to")], 2);
            if (At(1).Is("++") || At(1).Is("--"))
                return (Change(At(0), At(1).Text[..1], new("1")), 2);
            if (At(1).Is("+=") || At(1).Is("-="))
                return (Change(At(0), At(1).Text[..1], At(2)), 3);
        }
        if (At(0).Is("set") && At(1).Kind is NameKind.Variable or NameKind.Device && At(2).Is("="))
            return ([new("set"), At(1), new("to")], 3);
        if (At(0).Kind == NameKind.None && At(0).Text is "increase" or "increment" or "raise" && At(1).Kind == NameKind.Variable)
            return At(2).Is("by") ? (Change(At(1), "+", At(3)), 4) : (Change(At(1), "+", new("1")), 2);
        if (At(0).Kind == NameKind.None && At(0).Text is "decrease" or "decrement" or "lower" && At(1).Kind == NameKind.Variable)
            return At(2).Is("by") ? (Change(At(1), "-", At(3)), 4) : (Change(At(1), "-", new("1")), 2);
        if (At(0).Is("add") && At(1).IsNumber && At(2).Is("to") && At(3).Kind == NameKind.Variable)
            return (Change(At(3), "+", At(1)), 4);
        if (At(0).Is("subtract") && At(1).IsNumber && At(2).Is("from") && At(3).Kind == NameKind.Variable)
            return (Change(At(3), "-", At(1)), 4);
        return ([], 0);
    }

    // ---- what was left out of numbers ----

    private static List<Said> Fill(List<Said> line, Known names)
    {
        var made = new List<Said>();
        var verb = "";
        for (var i = 0; i < line.Count; i++)
        {
            var w = line[i];
            var before = made.Count > 0 ? made[^1] : default;
            if (w.Kind == NameKind.None && LineParser.Verbs.Contains(w.Text))
                verb = w.Text;
            if (!w.IsNumber)
            {
                made.Add(w);
                continue;
            }
            var unit = Unit.Find(i + 1 < line.Count ? line[i + 1].Text : "");
            var kinds =
                i + 2 < line.Count && unit is null && line[i + 1].Kind == NameKind.None
                    ? Unit.Find($"{line[i + 1].Text} {line[i + 2].Text}")
                    : null;
            var has = unit is { Text: not "" } || kinds is not null;
            var speed = unit is { Dimension: Dimension.Percent or Dimension.Speed or Dimension.AngularSpeed };
            // A speed is “at” something; a tone is “for” some time.
            if (
                speed
                && verb is "run" or "drive" or "turn" or "send" or "follow"
                && !before.Is("at")
                && !made.Exists(x => x.Is("at"))
                && !before.Is("and")
            )
                made.Add(new("at"));
            if (
                verb == "tone"
                && unit is { Dimension: Dimension.Time }
                && before.Text is "Hz"
                && !line.Exists(x => x.Is("on") && line.IndexOf(x) > i)
            )
                made.Add(new("for"));
            before = made.Count > 0 ? made[^1] : default;
            made.Add(w);
            if (has || i + 1 < line.Count && line[i + 1].Is("readings") || i + 1 < line.Count && line[i + 1].Is("times"))
                continue;
            var sensor = made.FindLast(x => x.Kind == NameKind.Sensor).Text;
            var left = before.Kind == NameKind.None ? before.Text : "";
            if (left is "after" or "every" or "wait" || left == "to" && made.Count > 2 && made[^3].Is("up") || left == "for" && verb != "")
                made.Add(new("s"));
            else if (left == "for" && verb == "")
                made.Add(new(made.Exists(x => x.Text == "held") ? "s" : "readings"));
            else if (left == "repeat")
                made.Add(new("times"));
            else if (left == "at")
                made.Add(new("%"));
            else if (left is "straight" or "back")
                made.Add(new("mm"));
            else if (left is "left" or "right")
                made.Add(new("deg"));
            else if (left == "tone")
                made.Add(new("Hz"));
            else if (
                left is "<" or ">" or "<=" or ">=" or "="
                && sensor is not null
                && names.Rig.Sensors.FirstOrDefault(s => s.Name == sensor)?.Reads is { } reads
            )
                made.AddRange(
                    Unit.All.Where(u => u.Dimension == reads && u.Factor == 1 && u.Text != "").Take(1).Select(u => new Said(u.Text))
                );
        }
        return made;
    }

    // ---- the head ----

    private static IEnumerable<string> Heads(List<string> words)
    {
        var lower = words.Select(w => w.ToLowerInvariant()).ToList();
        string[] kinds = ["int", "float", "number", "let", "variable", "var", "global", "bool", "counter"];
        if (lower.IndexOf("=") is var eq && eq < 0 && lower.Count > 2)
            eq = lower.FindIndex(w => w is "is" or "to" or ":=");
        if (eq > 0)
        {
            var constant = lower[0] is "const" or "constant";
            var from = constant || kinds.Contains(lower[0]) || lower[0] == "set" ? 1 : 0;
            if (from < eq)
            {
                var value = string.Join(' ', words.Skip(eq + 1).Select(w => Units.GetValueOrDefault(w.ToLowerInvariant(), w)));
                value = value.ToLowerInvariant() switch
                {
                    "true" => "yes",
                    "false" => "no",
                    _ => value,
                };
                yield return $"{(constant ? "const" : "var")} {string.Join(' ', words.Skip(from).Take(eq - from))} = {value}";
            }
        }
        if (lower.Count == 2 && kinds.Contains(lower[0]) || lower.Count == 1)
            yield return $"var {words[^1]} = 0";
        if (lower[0] is "goal" or "aim" or "never")
        {
            var rest = words.Skip(1).Where(w => w != ":").Select(w => Units.GetValueOrDefault(w.ToLowerInvariant(), w));
            yield return $"{(lower[0] == "never" ? "never" : "goal")}: {string.Join(' ', rest)}";
        }
    }
}
