using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using System.Xml.Linq;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Scxml;

/// <summary>A document read as a program.</summary>
/// <param name="Script">The program.</param>
/// <param name="Left">What it holds that cannot be said here, by line; none of it is in the program.</param>
public sealed record ScxmlImported(string Script, IReadOnlyList<ScxmlFault> Left);

/// <summary>
/// Reads an SCXML document as a program. A document that was written here gives the very same program back. Of any other
/// the states, regions, histories, conditions and assignments are taken; its events become messages; whatever has no word
/// here is listed by its line and left out.
/// </summary>
public static partial class ScxmlImport
{
    /// <summary>Reads.</summary>
    /// <param name="text">The document.</param>
    /// <param name="rig">Names of the rig it is read for.</param>
    /// <exception cref="ScxmlUnreadable">When it is no SCXML at all, or not safe to read.</exception>
    public static ScxmlImported Read(string text, Vocabulary rig)
    {
        var xml = ScxmlDocument.Load(text);
        var reader = new Reader(xml);
        var lines = reader.Document();
        var left = reader.Left;
        // Whatever the language does not take is left out with its line, until the rest reads.
        for (var round = 0; round < 40; round++)
        {
            var script = string.Join('\n', lines.Select(l => l.Text)) + "\n";
            var parsed = ScriptParser.Parse(script, rig);
            // A program that was written here is kept as it was, with whatever is still wrong in it: the sheet shows it.
            if (parsed.Diagnostics.Count == 0 || reader.Ours)
                return new(Printer.Print(parsed.Program), [.. left.OrderBy(f => f.Line)]);
            // One round takes out every line that is at fault; declarations last, since others speak of them.
            var faulty = parsed
                .Diagnostics.Select(d => d.Line - 1)
                .Where(i => i >= 0 && i < lines.Count && lines[i].CanGo)
                .Distinct()
                .OrderDescending()
                .ToArray();
            if (faulty.Length == 0)
            {
                // What cannot be taken out by the line stays in the sheet with its fault.
                left.AddRange(
                    parsed.Diagnostics.Select(d => new ScxmlFault(
                        d.Line - 1 >= 0 && d.Line - 1 < lines.Count ? lines[d.Line - 1].Line : 1,
                        d.Message
                    ))
                );
                return new(Printer.Print(parsed.Program), [.. left.OrderBy(f => f.Line)]);
            }
            foreach (var i in faulty)
            {
                var why = parsed.Diagnostics.First(d => d.Line - 1 == i).Message;
                left.Add(new(lines[i].Line, $"“{lines[i].Text.Trim()}” cannot be said here: {why}"));
                lines.RemoveAt(i);
            }
        }
        return new(string.Join('\n', lines.Select(l => l.Text)) + "\n", [.. left.OrderBy(f => f.Line)]);
    }

    private readonly record struct Out(string Text, int Line, bool CanGo);

    private sealed partial class Reader(XDocument xml)
    {
        private static readonly XNamespace Says = ScxmlWriter.Says;
        private readonly List<Out> lines = [];
        private readonly Dictionary<string, string> names = [];
        private XNamespace ns = ScxmlWriter.Ns;

        public bool Ours => Said(xml.Root!) is not null;

        public List<ScxmlFault> Left { get; } = [];

        private static int Line(XObject x) => ((IXmlLineInfo)x).LineNumber;

        private string Tag(XElement e) =>
            e.Name.Namespace == ns ? e.Name.LocalName
            : e.Name.Namespace == Says ? "c:" + e.Name.LocalName
            : $"{{{e.Name.NamespaceName}}}{e.Name.LocalName}";

        // The name of a region by its own sentence; null where there is none, or one that says something else.
        private static string? RegionSaid(XElement e) =>
            Said(e) is { } said && said.StartsWith("region ", StringComparison.Ordinal) ? said["region ".Length..] : null;

        private static string? Said(XElement e) => e.Attribute(Says + "says")?.Value;

        private void Leave(XObject x, string say) => Left.Add(new(Line(x), say));

        private void Add(int indent, string text, XObject from, bool canGo = false)
        {
            if (from is XElement e && e.Attribute(Says + "comments") is { } comments)
                foreach (var c in comments.Value.Split('\n'))
                    lines.Add(new($"{new string(' ', indent)}#{(c == "" ? "" : " " + c)}", Line(from), false));
            lines.Add(new(new string(' ', indent) + text, Line(from), canGo));
        }

        private static bool IsState(string tag) => tag is "state" or "parallel" or "final";

        public List<Out> Document()
        {
            var root = xml.Root!;
            if (root.Name.LocalName != "scxml" || root.Name.Namespace != ScxmlWriter.Ns && root.Name.Namespace != XNamespace.None)
                throw new ScxmlUnreadable([new(Line(root), "The document begins with an element scxml.")]);
            ns = root.Name.Namespace;
            if (!root.Elements().Any(e => IsState(Tag(e))))
                throw new ScxmlUnreadable([new(Line(root), "A document needs at least one state.")]);
            Names(root);
            Add(0, Said(root) ?? $"program {Name(root.Attribute("name")?.Value ?? "", "Imported")}", root);
            var heads = root.Elements()
                .Where(e => Tag(e) == "datamodel")
                .SelectMany(e => e.Elements())
                .Concat(root.Elements().Where(e => Tag(e) == "c:head"))
                .OrderBy(e => int.TryParse(e.Attribute(Says + "at")?.Value, out var at) ? at : 1_000_000)
                .ToArray();
            foreach (var d in heads)
                Head(d);
            foreach (var d in root.Descendants().Where(e => Tag(e) == "datamodel" && e.Parent != root).SelectMany(e => e.Elements()))
                Head(d);
            var tops = root.Elements().Where(e => IsState(Tag(e))).ToArray();
            var regions =
                tops.Length == 1 && Tag(tops[0]) == "parallel" ? [.. tops[0].Elements().Where(e => IsState(Tag(e)))]
                : tops.Length == 1 && Said(tops[0])?.StartsWith("region ", StringComparison.Ordinal) == true ? tops
                : null;
            if (regions is null)
                Region(0, "Main", root, tops, root);
            else
                foreach (var r in regions)
                    Top(r);
            foreach (var e in root.Elements())
            {
                var tag = Tag(e);
                if (tag == "c:routine")
                    foreach (var line in (Said(e) ?? "").Split('\n'))
                        lines.Add(new(line, Line(e), false));
                else if (tag == "c:end")
                    foreach (var c in (e.Attribute(Says + "comments")?.Value ?? "").Split('\n'))
                        lines.Add(new(c == "" ? "#" : "# " + c, Line(e), false));
                else if (!IsState(tag) && tag is not ("datamodel" or "initial" or "c:head"))
                    Leave(e, $"“{e.Name.LocalName}” has no word here.");
            }
            if (tops.Length == 1 && regions is not null && Tag(tops[0]) == "parallel")
                foreach (var e in tops[0].Elements().Where(e => !IsState(Tag(e))))
                    Leave(e, $"“{e.Name.LocalName}” of the whole program has no word here.");
            return lines;
        }

        private void Top(XElement r)
        {
            var said = RegionSaid(r);
            var name = said ?? names[Key(r)];
            if (
                said is null
                && (
                    Tag(r) != "state"
                    || r.Elements().Any(e => Tag(e) is "transition" or "onentry" or "onexit" or "history")
                    || !r.Elements().Any(e => IsState(Tag(e)))
                )
            )
            {
                // A region that is itself a state with something to do becomes a region of that one state.
                lines.Add(new($"region {name}", Line(r), false));
                State(2, r, true);
            }
            else
                Region(0, name, r, [.. r.Elements().Where(e => IsState(Tag(e)))], r);
        }

        private void Region(int indent, string name, XElement from, XElement[] states, XElement initialOf)
        {
            if (Said(from)?.StartsWith("region ", StringComparison.Ordinal) == true)
                Add(indent, $"region {name}", from);
            else
                lines.Add(new($"{new string(' ', indent)}region {name}", Line(from), false));
            var initial = Initial(initialOf, states);
            foreach (var s in states)
                State(indent + 2, s, s == initial);
        }

        // The child that is entered first.
        private XElement? Initial(XElement of, XElement[] states)
        {
            var target =
                of.Attribute("initial")?.Value.Trim()
                ?? of.Elements()
                    .Where(e => Tag(e) == "initial")
                    .SelectMany(e => e.Elements())
                    .FirstOrDefault()
                    ?.Attribute("target")
                    ?.Value.Trim();
            if (target is null)
                return states.FirstOrDefault(s => Tag(s) != "final") ?? states.FirstOrDefault();
            var first = target.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            var found = states.FirstOrDefault(s => s.DescendantsAndSelf().Any(d => first.Contains(d.Attribute("id")?.Value)));
            if (found is null || first.Length > 1 || found.Attribute("id")?.Value != target)
                Leave(
                    of,
                    $"It begins in “{target}”, deeper than one state: it begins in "
                        + $"{(found is null ? "its first state" : names[Key(found)])} instead."
                );
            return found ?? states.FirstOrDefault();
        }

        private readonly Dictionary<XElement, string> keys = [];

        private readonly HashSet<string> ids = [];

        // The id; of its own where there is none or another state has it.
        private string Key(XElement e)
        {
            if (keys.TryGetValue(e, out var key))
                return key;
            var id = e.Attribute("id")?.Value.Trim() ?? "";
            if (id != "" && ids.Add(id))
                return keys[e] = id;
            if (id != "")
                Leave(e, $"There are two states called “{id}”; what goes there goes to the first.");
            return keys[e] = $"\0{keys.Count}";
        }

        private void Names(XElement root)
        {
            var taken = new HashSet<string>(StringComparer.Ordinal);
            foreach (var e in root.Descendants().Where(e => IsState(Tag(e)) || Tag(e) == "history"))
            {
                var said = Said(e);
                var name = said is not null ? NameIn(said) : Name(e.Attribute("id")?.Value ?? "", Tag(e) == "final" ? "End" : "State");
                // Ids are unique in a document; names made from them stay so.
                if (said is null)
                    for (var (stem, i) = (name, 2); !taken.Add(name); i++)
                        name = $"{stem} {i}";
                names[Key(e)] = name;
            }
        }

        // The name in a sentence that our own writer left with a state: between the word that begins it and what is said of it.
        private static string NameIn(string said)
        {
            var begin =
                new[] { "deep history ", "history ", "region ", "state " }.FirstOrDefault(w => said.StartsWith(w, StringComparison.Ordinal))
                ?? "";
            var name = said[begin.Length..];
            if (name.IndexOf(": go ", StringComparison.Ordinal) is >= 0 and var go)
                name = name[..go];
            while (new[] { ", initial", ", final" }.FirstOrDefault(f => name.EndsWith(f, StringComparison.Ordinal)) is { } flag)
                name = name[..^flag.Length];
            return name;
        }

        private static string Name(string id, string otherwise)
        {
            var words = NotWord().Replace(id.Replace('_', ' '), " ").Trim();
            var name = Regex.Replace(words, " +", " ");
            if (name != "" && !char.IsLetter(name[0]))
                name = $"{otherwise} {name}";
            return name == "" ? otherwise
                : ScriptParser.IsName(name) ? name
                : otherwise;
        }

        private void Head(XElement d)
        {
            if (Said(d) is { } said)
            {
                Add(0, said, d);
                return;
            }
            if (Tag(d) != "data")
            {
                Leave(d, $"“{d.Name.LocalName}” has no word here.");
                return;
            }
            var id = d.Attribute("id")?.Value ?? "";
            var value = d.Attribute("expr")?.Value ?? (d.Nodes().Any() ? d.Value : null);
            if (d.Attribute("src") is not null)
            {
                Leave(d, $"“{id}” comes from another file (src), which is not fetched.");
                return;
            }
            if (value is not null && Expression(value) is not { Length: > 0 })
            {
                Leave(d, $"The value of “{id}”, {value.Trim()}, has no word here; it begins as 0.");
                value = "0";
            }
            lines.Add(new($"var {Variable(id)} = {(value is null ? "0" : Expression(value))}", Line(d), true));
        }

        private static string Variable(string id) => Name(id, "value");

        private void State(int indent, XElement e, bool initial)
        {
            var tag = Tag(e);
            var own = Said(e);
            if (own is null)
                Times(e);
            Add(indent, own ?? $"state {names[Key(e)]}{(initial ? ", initial" : "")}{(tag == "final" ? ", final" : "")}", e);
            foreach (var c in e.Elements())
            {
                var inner = Tag(c);
                if (c.Attribute(Says + "timer") is not null)
                    continue;
                if (Said(c) is { } line && (inner is "transition" or "onentry" or "onexit" or "c:line"))
                {
                    Add(indent + 2, line, c);
                    continue;
                }
                switch (inner)
                {
                    case "onentry" or "onexit":
                        Activity(indent + 2, c, inner == "onentry" ? "on entry" : "on exit");
                        break;
                    case "transition":
                        Transition(indent + 2, c);
                        break;
                    case "history":
                        History(indent + 2, c);
                        break;
                    case "state" or "parallel" or "final" or "datamodel" or "initial":
                        break;
                    default:
                        Leave(c, $"“{c.Name.LocalName}” has no word here.");
                        break;
                }
            }
            var inside = e.Elements().Where(c => IsState(Tag(c))).ToArray();
            if (tag == "parallel")
                foreach (var r in inside)
                {
                    var name = RegionSaid(r) ?? names[Key(r)];
                    var states = r.Elements().Where(c => IsState(Tag(c))).ToArray();
                    if (
                        RegionSaid(r) is not null
                        || Tag(r) == "state"
                            && states.Length > 0
                            && !r.Elements().Any(c => Tag(c) is "transition" or "onentry" or "onexit" or "history")
                    )
                        Region(indent + 2, name, r, states, r);
                    else
                    {
                        lines.Add(new($"{new string(' ', indent + 2)}region {name}", Line(r), false));
                        State(indent + 4, r, true);
                    }
                }
            else if (inside.Length > 0)
            {
                var first = Initial(e, inside);
                foreach (var s in inside)
                    State(indent + 2, s, s == first);
            }
        }

        // Times that a state sends itself on entry and waits for: “after” in a sentence.
        private readonly Dictionary<(XElement State, string Event), string> times = [];
        private readonly HashSet<XElement> handled = [];

        private void Times(XElement state)
        {
            foreach (
                var send in state.Elements().Where(c => Tag(c) == "onentry").SelectMany(c => c.Elements()).Where(c => Tag(c) == "send")
            )
            {
                var name = send.Attribute("event")?.Value.Trim() ?? "";
                var delay = Delay().Match(send.Attribute("delay")?.Value ?? "");
                if (
                    name == ""
                    || !delay.Success
                    || send.Attribute("target") is not null
                    || send.HasElements
                    || times.ContainsKey((state, name))
                )
                    continue;
                if (!state.Elements().Any(c => Tag(c) == "transition" && c.Attribute("event")?.Value.Trim() == name))
                    continue;
                times[(state, name)] = $"{delay.Groups[1].Value.TrimStart('+')} {delay.Groups[2].Value}";
                handled.Add(send);
                var id = send.Attribute("id")?.Value;
                var cancels = state
                    .Elements()
                    .Where(c => Tag(c) == "onexit")
                    .SelectMany(c => c.Elements())
                    .Where(c => Tag(c) == "cancel" && id is not null && c.Attribute("sendid")?.Value == id)
                    .ToArray();
                if (cancels.Length == 0)
                    Leave(send, $"“{name}” would still arrive after the state is left; “after” ends with its state.");
                foreach (var c in cancels)
                    handled.Add(c);
            }
        }

        // A state is done when each of its parts stands in a final one.
        private string? Ended(string id)
        {
            var state = xml.Root!.Descendants().FirstOrDefault(e => IsState(Tag(e)) && e.Attribute("id")?.Value == id);
            if (state is null)
                return null;
            XElement[] parts = Tag(state) == "parallel" ? [.. state.Elements().Where(e => IsState(Tag(e)))] : [state];
            var all = parts
                .Select(p =>
                    string.Join(" or ", p.Elements().Where(c => Tag(c) == "final").Select(f => $"{RegionOf(f)} is in {names[Key(f)]}"))
                )
                .ToArray();
            return all.Length == 0 || all.Any(a => a == "")
                ? null
                : string.Join(" and ", all.Select(a => a.Contains(" or ") && all.Length > 1 ? $"({a})" : a));
        }

        // The region that a state stands in, as the program names it.
        private string RegionOf(XElement state)
        {
            var region = state
                .Ancestors()
                .FirstOrDefault(a =>
                    a.Parent is { } p && Tag(p) == "parallel" && IsState(Tag(a))
                    || Said(a)?.StartsWith("region ", StringComparison.Ordinal) == true
                );
            return region is null ? "Main" : RegionSaid(region) ?? names[Key(region)];
        }

        private void History(int indent, XElement h)
        {
            if (Said(h) is { } said)
            {
                Add(indent, said, h);
                return;
            }
            var target = h.Elements().FirstOrDefault(c => Tag(c) == "transition")?.Attribute("target")?.Value.Trim();
            if (target is null || !names.TryGetValue(target, out var to))
            {
                Leave(h, "A history goes to one state while it remembers nothing; this one does not say which.");
                return;
            }
            Add(indent, $"{(h.Attribute("type")?.Value == "deep" ? "deep " : "")}history {names[Key(h)]}: go {to}", h, true);
        }

        private void Activity(int indent, XElement e, string moment)
        {
            var actions = Actions(e);
            if (actions.Count > 0)
                Add(indent, $"{moment}: {string.Join("; ", actions)}", e, true);
        }

        private List<string> Actions(XElement of)
        {
            var made = new List<string>();
            foreach (var a in of.Elements())
            {
                switch (Tag(a))
                {
                    case "assign"
                        when a.Attribute("location")?.Value is { } at
                            && (a.Attribute("expr")?.Value ?? a.Value) is { } value
                            && Expression(value) is { } expr:
                        made.Add($"set {Variable(at)} to {expr}");
                        break;
                    case "log" when a.Attribute("expr")?.Value is { } value && Expression(value) is { } expr:
                        if (a.Attribute("label")?.Value is { Length: > 0 } title && !title.Contains('"'))
                            made.Add($"show \"{title}\"");
                        made.Add($"show {expr}");
                        break;
                    case "log" when a.Attribute("label")?.Value is { } label && !label.Contains('"'):
                        made.Add($"show \"{label}\"");
                        break;
                    case "send" or "cancel" when handled.Contains(a):
                        break;
                    case "raise":
                        Leave(
                            a,
                            $"“raise {a.Attribute("event")?.Value}”: a machine tells itself nothing here; let a sentence wait for the "
                                + "state instead."
                        );
                        break;
                    case "send":
                        Leave(a, $"“send {a.Attribute("event")?.Value}”: say whom to tell, or write “after” for a time.");
                        break;
                    default:
                        Leave(a, $"“{a.Name.LocalName}” has no word here.");
                        break;
                }
            }
            return made;
        }

        private void Transition(int indent, XElement t)
        {
            var cond = t.Attribute("cond")?.Value;
            var guard = cond is null ? null : Expression(cond);
            if (cond is not null && guard is null)
            {
                Leave(t, $"The condition “{cond.Trim()}” has no word here; the transition is left out.");
                return;
            }
            var targets = (t.Attribute("target")?.Value ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            if (targets.Length > 1)
            {
                Leave(t, $"It goes to {targets.Length} states at once; a sentence goes to one.");
                return;
            }
            if (targets.Length == 1 && !names.ContainsKey(targets[0]))
            {
                Leave(t, $"It goes to “{targets[0]}”, which is no state.");
                return;
            }
            var actions = Actions(t);
            actions.Add(
                targets.Length == 0 ? "stay" : $"go {names[targets[0]]}{(t.Attribute("type")?.Value == "internal" ? " inside" : "")}"
            );
            var does = string.Join("; ", actions);
            var events = (t.Attribute("event")?.Value ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            if (events.Length == 0)
                Add(indent, guard is null ? $"always: {does}" : $"when {guard}: {does}", t, true);
            foreach (var name in events)
            {
                if (t.Parent is { } at && times.TryGetValue((at, name), out var after))
                {
                    Add(indent, $"after {after}{(guard is null ? "" : $" if {guard}")}: {does}", t, true);
                    continue;
                }
                if (
                    name.StartsWith("done.state.", StringComparison.Ordinal)
                    && Ended(name["done.state.".Length..].TrimEnd('*', '.')) is { } ended
                )
                {
                    Add(indent, $"when {ended}{(guard is null ? "" : $" if {guard}")}: {does}", t, true);
                    continue;
                }
                if (
                    name.Contains('*')
                    || name.StartsWith("error", StringComparison.Ordinal)
                    || name.StartsWith("done.", StringComparison.Ordinal)
                    || name.Contains('"')
                )
                {
                    Leave(t, $"The event “{name}” has no word here.");
                    continue;
                }
                Add(indent, $"when told \"{name}\"{(guard is null ? "" : $" if {guard}")}: {does}", t, true);
            }
        }

        // The other language's signs in ours; null where there is none.
        private string? Expression(string text)
        {
            var made = new StringBuilder();
            var rest = text.Trim();
            if (rest.Length is 0 or > 2000)
                return null;
            while (rest.Length > 0)
            {
                var m = Token().Match(rest);
                if (!m.Success)
                    return null;
                rest = rest[m.Length..];
                var token = m.Value.Trim();
                if (m.Groups["in"].Success)
                {
                    var id = m.Groups["id"].Value;
                    var state = xml.Root!.Descendants().FirstOrDefault(e => IsState(Tag(e)) && e.Attribute("id")?.Value.Trim() == id);
                    if (state is null)
                        return null;
                    made.Append($" {RegionOf(state)} is in {names[Key(state)]}");
                }
                else if (m.Groups["word"].Success)
                    made.Append(' ')
                        .Append(
                            token switch
                            {
                                "true" => "yes",
                                "false" => "no",
                                "Math.abs" => "abs",
                                "Math.min" => "min",
                                "Math.max" => "max",
                                "Math.round" => "round",
                                _ => token.Contains('.') ? "\0" : Variable(token),
                            }
                        );
                else if (m.Groups["text"].Success)
                    made.Append(" \"").Append(token[1..^1]).Append('"');
                else
                    made.Append(
                        token switch
                        {
                            "&&" => " and",
                            "||" => " or",
                            "===" or "==" => " =",
                            "!==" or "!=" => " !=",
                            "!" => " not",
                            _ => token is "(" or ")" or ","
                                ? token == "("
                                    ? " ("
                                    : token
                                : " " + token,
                        }
                    );
            }
            var said = made.ToString().Trim().Replace("( ", "(", StringComparison.Ordinal);
            return said.Contains('\0') || said.Contains("\"\"", StringComparison.Ordinal) && said.Contains('\\') ? null : said;
        }

        [GeneratedRegex(@"[^\p{L}\p{N} ]")]
        private static partial Regex NotWord();

        [GeneratedRegex(@"^\s*(\+?\d+(?:\.\d+)?)\s*(ms|s)\s*$")]
        private static partial Regex Delay();

        [GeneratedRegex(
            @"^\s*(?:(?<in>In\(\s*['""](?<id>[^'""]+)['""]\s*\))|(?<number>\d+(?:\.\d+)?)|"
                + @"(?<word>[A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_]\w*)*)|(?<text>'[^'""\\]*'|""[^""\\]*"")|"
                + @"(?<sign>===|!==|==|!=|<=|>=|&&|\|\||[-+*/<>!(),]))"
        )]
        private static partial Regex Token();
    }
}
