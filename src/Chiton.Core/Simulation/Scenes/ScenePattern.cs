using System.Text.RegularExpressions;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>What stands in a blank of a sentence.</summary>
public enum SlotKind
{
    /// <summary>A name, of letters, digits and spaces.</summary>
    Name,

    /// <summary>A number with what it varies by.</summary>
    Number,

    /// <summary>A number alone.</summary>
    Plain,

    /// <summary>A whole number.</summary>
    Count,

    /// <summary>A point.</summary>
    Point,

    /// <summary>A row of points, from … to … to ….</summary>
    Path,

    /// <summary>Numbers joined by commas and “and”.</summary>
    Numbers,

    /// <summary>Names joined by “then”.</summary>
    Names,

    /// <summary>Pairs, as in “left bin to left bin, right bin to right bin”.</summary>
    Pairs,

    /// <summary>A condition.</summary>
    Condition,

    /// <summary>What a goal or a never says.</summary>
    Rule,
}

/// <summary>A part of a sentence's pattern.</summary>
internal abstract record Part
{
    /// <summary>A word or sign that stands there.</summary>
    public sealed record Word(string Text) : Part;

    /// <summary>A blank.</summary>
    public sealed record Slot(string Name, SlotKind Kind, string What) : Part;

    /// <summary>A part that may be left out.</summary>
    public sealed record Maybe(int Index, Part[] Parts) : Part;

    /// <summary>One of several.</summary>
    public sealed record Either(int Index, Part[][] Ways) : Part;
}

/// <summary>
/// A sentence of the scene language. One pattern reads it, prints it, completes it and says what would fit: literal words, blanks
/// <c>{name:kind}</c>, <c>[parts that may be left out]</c>, <c>&lt;one|of several&gt;</c>; what follows <c>~</c> may come in any order,
/// mixed with when it happens.
/// </summary>
public sealed partial class SceneForm
{
    private readonly Dictionary<string, (SlotKind Kind, string What)> slots = [];
    private readonly List<(int Index, string Words)> options = [];
    private int made;

    internal SceneForm(string key, string group, string pattern, string about, string example)
    {
        (Key, Group, Pattern, About, Example) = (key, group, pattern, about, example);
        var at = 0;
        var tail = pattern.IndexOf('~');
        Body = Read(tail < 0 ? pattern : pattern[..tail], ref at, '\0');
        at = 0;
        Tail = tail < 0 ? [] : Read(pattern[(tail + 1)..], ref at, '\0');
        First = string.Join(' ', Body.TakeWhile(p => p is Part.Word).Select(p => ((Part.Word)p).Text));
    }

    /// <summary>What it says, in one word.</summary>
    public string Key { get; }

    /// <summary>What it is about: head, ground, paint, things, …</summary>
    public string Group { get; }

    /// <summary>The pattern.</summary>
    public string Pattern { get; }

    /// <summary>A pattern as people read it: blanks in capitals, <c>WHEN</c> where it may say when.</summary>
    internal static string Readable(string pattern) =>
        Blanks()
            .Replace(pattern, m => SceneUnits.Capital(m.Groups[1].Value, m.Groups[2].Value))
            .Replace("~", " [WHEN]", StringComparison.Ordinal);

    [GeneratedRegex(@"\{(\w+):(\w+)[!+]?\}")]
    private static partial Regex Blanks();

    /// <summary>What it means, for the page of the language.</summary>
    public string About { get; }

    /// <summary>A whole sentence.</summary>
    public string Example { get; }

    /// <summary>The words it begins with; empty when a name begins it.</summary>
    public string First { get; }

    internal Part[] Body { get; }

    internal Part[] Tail { get; }

    /// <summary>The unit of a blank where none was typed; empty for a plain number.</summary>
    public string UnitOf(string slot) => slots.TryGetValue(slot, out var s) ? SceneUnits.Own(s.What) : "";

    /// <summary>The blanks, with what stands in them.</summary>
    public IReadOnlyDictionary<string, (SlotKind Kind, string What)> Slots => slots;

    /// <summary>The place of an optional part by its first words; −1 when there is none.</summary>
    public int Option(string words)
    {
        foreach (var (index, text) in options)
            if (text == words)
                return index;
        return -1;
    }

    private Part[] Read(string text, ref int at, char until)
    {
        var parts = new List<Part>();
        while (at < text.Length && text[at] != until && !(until == '>' && text[at] == '|'))
        {
            var c = text[at];
            if (c == ' ')
            {
                at++;
                continue;
            }
            if (c == '{')
            {
                var end = text.IndexOf('}', at);
                var halves = text[(at + 1)..end].Split(':');
                var (kind, what) = SceneUnits.Kind(halves[1]);
                slots[halves[0]] = (kind, what);
                parts.Add(new Part.Slot(halves[0], kind, what));
                at = end + 1;
            }
            else if (c == '[')
            {
                at++;
                var index = made++;
                var inner = Read(text, ref at, ']');
                at++;
                options.Add((index, Words(inner)));
                parts.Add(new Part.Maybe(index, inner));
            }
            else if (c == '<')
            {
                at++;
                var index = made;
                var ways = new List<Part[]>();
                do
                {
                    var way = Read(text, ref at, '>');
                    options.Add((index + ways.Count, Words(way)));
                    ways.Add(way);
                } while (text[at++] == '|');
                made = Math.Max(made, index) + ways.Count;
                parts.Add(new Part.Either(index, [.. ways]));
            }
            else
            {
                var start = at;
                if (char.IsLetter(c))
                    while (at < text.Length && char.IsLetter(text[at]))
                        at++;
                else
                    at++;
                parts.Add(new Part.Word(text[start..at]));
            }
        }
        return [.. parts];
    }

    private static string Words(Part[] parts) =>
        string.Join(' ', parts.OfType<Part.Word>().Select(w => w.Text).Where(w => w is not ("," or ":")));
}

/// <summary>The units of blanks.</summary>
internal static class SceneUnits
{
    private static readonly Dictionary<string, (string Own, string[] All, string Say)> Known = new()
    {
        ["len"] = ("mm", ["mm", "cm", "m", "in"], "a length such as 40 mm"),
        ["ang"] = ("robot deg", ["robot deg", "deg"], "an angle such as 90 robot deg"),
        ["mdeg"] = ("motor deg", ["motor deg", "deg"], "an angle such as 300 motor deg"),
        ["dur"] = ("s", ["s", "ms"], "a time such as 4 s"),
        ["pct"] = ("%", ["%"], "a share such as 8 %"),
        ["mass"] = ("g", ["g"], "a mass such as 30 g"),
        ["force"] = ("N", ["N"], "a force such as 8 N"),
        ["speed"] = ("mm/s", ["mm/s"], "a speed such as 60 mm/s"),
        ["vol"] = ("l", ["l"], "a volume such as 4 l"),
        ["flow"] = ("l/s", ["l/s"], "a flow such as 0.2 l/s"),
        ["volt"] = ("V", ["V"], "a voltage such as 6.2 V"),
        ["read"] = ("", ["%", "mm", "cm", "N", "motor deg", "deg"], "a reading such as 31 %"),
        ["num"] = ("", [], "a number"),
    };

    public static string Own(string what) => Known.TryGetValue(what, out var k) ? k.Own : "";

    public static string[] All(string what) => Known.TryGetValue(what, out var k) ? k.All : [];

    // A blank of a number is named for its kind, a name for what it names.
    public static string Capital(string slot, string what) =>
        (what, slot) switch
        {
            ("len", _) => "LENGTH",
            ("ang" or "mdeg", _) => "ANGLE",
            ("dur", _) => "TIME",
            ("pct", _) => "SHARE",
            ("num", _) => "NUMBER",
            ("read", _) => "READING",
            ("vol", _) => "VOLUME",
            ("volt", _) => "VOLTAGE",
            ("pt", _) => "POINT",
            ("path", _) => "POINTS",
            ("count", "m") => "M",
            ("count", _) => "N",
            ("mech", _) => "MECHANISM",
            ("surf", _) => "SURFACE",
            ("pos", _) => "POSITION",
            ("cond" or "rule", _) => "CONDITION",
            ("names", _) => "PLACE, then PLACE",
            ("name", "what") => "WHAT",
            ("name", _) => slot.ToUpperInvariant(),
            _ => what.ToUpperInvariant(),
        };

    public static string Say(string what) =>
        Known.TryGetValue(what, out var k)
            ? k.Say
            : what switch
            {
                "sensor" => "a sensor of the rig",
                "mech" => "a mechanism of the rig",
                "device" => "a motor or mechanism of the rig",
                "surf" => "a surface, such as a zone of an eye",
                "place" => "a place",
                "pt" => "a point such as (500, 300)",
                "path" => "points, as in from (0, 0) to (600, 0)",
                "count" => "a whole number",
                "cond" => "a condition",
                "rule" => "a condition",
                "pos" => "a named position",
                "pairs" => "pairs, as in left bin to left bin, right bin to right bin",
                _ => "a name",
            };

    // “len” a number that may vary, “len!” a number alone, “mdeg+” several.
    public static (SlotKind, string) Kind(string text)
    {
        var what = text.TrimEnd('!', '+');
        return (
            text[^1] == '!' ? SlotKind.Plain
            : text[^1] == '+' ? SlotKind.Numbers
            : Known.ContainsKey(what) ? SlotKind.Number
            : what switch
            {
                "count" => SlotKind.Count,
                "pt" => SlotKind.Point,
                "path" => SlotKind.Path,
                "pairs" => SlotKind.Pairs,
                "names" => SlotKind.Names,
                "cond" => SlotKind.Condition,
                "rule" => SlotKind.Rule,
                _ => SlotKind.Name,
            },
            what
        );
    }
}
