using System.Globalization;
using System.Xml;
using System.Xml.Linq;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Programs.Scxml;

/// <summary>Something in a document that cannot be expressed here.</summary>
/// <param name="Line">Its line, from 1.</param>
/// <param name="Say">What it is and what is allowed.</param>
public sealed record ScxmlFault(int Line, string Say);

/// <summary>A document cannot be read.</summary>
/// <param name="faults">Everything that is wrong, by line.</param>
public sealed class ScxmlUnreadable(IReadOnlyList<ScxmlFault> faults)
    : Exception(string.Join(" ", faults.Select(f => $"Line {f.Line}: {f.Say}")))
{
    /// <summary>Everything that is wrong, by line.</summary>
    public IReadOnlyList<ScxmlFault> Faults { get; } = faults;
}

/// <summary>Something a document does.</summary>
public abstract record ScxmlAction(int Line);

/// <summary><c>raise</c>.</summary>
public sealed record ScxmlRaise(int Line, string Event) : ScxmlAction(Line);

/// <summary><c>assign</c>.</summary>
public sealed record ScxmlAssign(int Line, string Location, Action<IScxmlScope, object?> Put, ScxmlExpression Value, string Text)
    : ScxmlAction(Line);

/// <summary><c>script</c>, of assignments.</summary>
public sealed record ScxmlScript(int Line, Action<IScxmlScope> Run, string Text) : ScxmlAction(Line);

/// <summary><c>log</c>.</summary>
public sealed record ScxmlLog(int Line, string Label, ScxmlExpression? Value) : ScxmlAction(Line);

/// <summary><c>if</c> with its branches; the last condition is null for <c>else</c>.</summary>
public sealed record ScxmlIf(int Line, IReadOnlyList<(ScxmlExpression? If, IReadOnlyList<ScxmlAction> Then)> Branches) : ScxmlAction(Line);

/// <summary><c>foreach</c>.</summary>
public sealed record ScxmlForeach(int Line, ScxmlExpression Array, string Item, string? Index, IReadOnlyList<ScxmlAction> Body)
    : ScxmlAction(Line);

/// <summary><c>send</c>.</summary>
public sealed record ScxmlSend(
    int Line,
    ScxmlExpression Event,
    bool ToInternal,
    ScxmlExpression? DelayMs,
    string? Id,
    Action<IScxmlScope, object?>? IdLocation,
    IReadOnlyList<(string Name, ScxmlExpression Value)> Parameters,
    ScxmlExpression? Content
) : ScxmlAction(Line);

/// <summary><c>cancel</c>.</summary>
public sealed record ScxmlCancel(int Line, ScxmlExpression Id) : ScxmlAction(Line);

/// <summary>A transition of a document.</summary>
/// <param name="Line">Its line.</param>
/// <param name="Events">Event descriptors; empty for one without an event.</param>
/// <param name="Condition">Its condition; null when it has none.</param>
/// <param name="Actions">What it does.</param>
public sealed record ScxmlTransition(int Line, IReadOnlyList<string> Events, ScxmlExpression? Condition, IReadOnlyList<ScxmlAction> Actions)
{
    /// <summary>The condition as written.</summary>
    public string ConditionText { get; init; } = "";
}

/// <summary>A state of a document.</summary>
/// <param name="Id">Its name; made up where the document gives none.</param>
/// <param name="Line">Its line.</param>
/// <param name="OnEntry">What it does on entry, block by block.</param>
/// <param name="OnExit">What it does on exit, block by block.</param>
/// <param name="Data">Its data, with their first values.</param>
public sealed record ScxmlState(
    string Id,
    int Line,
    IReadOnlyList<IReadOnlyList<ScxmlAction>> OnEntry,
    IReadOnlyList<IReadOnlyList<ScxmlAction>> OnExit,
    IReadOnlyList<(string Name, ScxmlExpression? Value)> Data
)
{
    /// <summary>What a final state gives with its done event.</summary>
    public IReadOnlyList<(string Name, ScxmlExpression Value)> DoneData { get; init; } = [];

    /// <summary>The same as one value.</summary>
    public ScxmlExpression? DoneContent { get; init; }
}

/// <summary>
/// An SCXML document, read into tables: the states and transitions of the recommendation of 2015, with what it does in
/// expressions of <see cref="ScxmlExpressions"/>. Whatever cannot be expressed is reported by its line, never left out.
/// </summary>
public sealed partial class ScxmlDocument
{
    /// <summary>Longest document in characters.</summary>
    public const int MostCharacters = 1_000_000;

    /// <summary>Most states.</summary>
    public const int MostStates = 5_000;

    /// <summary>Longest delay, ms: as long as the longest time that a sentence can say.</summary>
    public const double MostDelayMs = 1e18;

    /// <summary>Deepest nesting of elements.</summary>
    public const int MostDepth = 60;

    private static readonly XNamespace Ns = "http://www.w3.org/2005/07/scxml";

    /// <summary>The tables.</summary>
    public required Chart Chart { get; init; }

    /// <summary>States by node; 0 is the document itself.</summary>
    public required IReadOnlyList<ScxmlState> States { get; init; }

    /// <summary>Transitions by number, defaults too.</summary>
    public required IReadOnlyList<ScxmlTransition> Transitions { get; init; }

    /// <summary>The document's name.</summary>
    public string Name { get; init; } = "";

    /// <summary>True when data get their values only when their state is first entered.</summary>
    public bool Late { get; init; }

    /// <summary>What the document does first of all.</summary>
    public IReadOnlyList<ScxmlAction> First { get; init; } = [];

    /// <summary>The node of a state, or −1.</summary>
    public int IndexOf(string id) => index.GetValueOrDefault(id, -1);

    private readonly Dictionary<string, int> index = [];

    /// <summary>Reads a document. No DTD, no entity, nothing from outside is ever looked at.</summary>
    /// <exception cref="ScxmlUnreadable">When something cannot be read or expressed; all of it at once.</exception>
    public static ScxmlDocument Read(string text)
    {
        var xml = Load(text);
        // Our own sentences stand beside what they mean: a walk takes the meaning.
        xml.Root!.Descendants().Where(e => e.Name.Namespace == ScxmlWriter.Says).Remove();
        return new Reader().Document(xml);
    }

    /// <summary>Loads the XML with its line numbers, safely: no document type, no entities, no deep nesting.</summary>
    /// <exception cref="ScxmlUnreadable">When it cannot be loaded.</exception>
    internal static XDocument Load(string text)
    {
        if (text.Length > MostCharacters)
            throw new ScxmlUnreadable([new(1, $"A document has at most {MostCharacters} characters; this one has {text.Length}.")]);
        XDocument xml;
        try
        {
            var settings = new XmlReaderSettings
            {
                DtdProcessing = DtdProcessing.Prohibit,
                XmlResolver = null,
                MaxCharactersInDocument = MostCharacters,
                MaxCharactersFromEntities = 0,
                IgnoreComments = true,
                IgnoreProcessingInstructions = true,
            };
            // Nesting is looked at before anything is built from it.
            using (var depth = XmlReader.Create(new StringReader(text), settings))
                while (depth.Read())
                    if (depth.Depth > MostDepth)
                        throw new ScxmlUnreadable([
                            new(((IXmlLineInfo)depth).LineNumber, $"Elements are nested more than {MostDepth} deep."),
                        ]);
            using var reader = XmlReader.Create(new StringReader(text), settings);
            xml = XDocument.Load(reader, LoadOptions.SetLineInfo);
        }
        catch (XmlException e)
        {
            throw new ScxmlUnreadable([
                new(
                    Math.Max(1, e.LineNumber),
                    e.Message.Contains("DTD", StringComparison.Ordinal)
                        ? "A document type (DTD) or entities are not read: take them out."
                        : $"This is no well-formed XML: {e.Message}"
                ),
            ]);
        }
        return xml;
    }

    private sealed partial class Reader
    {
        private readonly List<ScxmlFault> faults = [];
        private readonly List<ChartNode> nodes = [];
        private readonly List<ScxmlState> states = [];
        private readonly List<(XElement Element, int Node)> elements = [];
        private readonly Dictionary<string, int> ids = [];
        private readonly List<ChartTransition> transitions = [];
        private readonly List<ScxmlTransition> meanings = [];
        private readonly Dictionary<XElement, int> nodeOf = [];

        private static int Line(XObject x) => ((IXmlLineInfo)x).LineNumber;

        private void Fault(XObject x, string say) => faults.Add(new(Line(x), say));

        // Elements of other name spaces, and without any, are looked at by their name alone only where the whole document has none.
        private XNamespace ns = Ns;

        private string Tag(XElement e) => e.Name.Namespace == ns ? e.Name.LocalName : $"{{{e.Name.NamespaceName}}}{e.Name.LocalName}";

        public ScxmlDocument Document(XDocument xml)
        {
            var root = xml.Root!;
            if (root.Name.LocalName != "scxml" || root.Name.Namespace != Ns && root.Name.Namespace != XNamespace.None)
                throw new ScxmlUnreadable([new(Line(root), "The document begins with an element scxml.")]);
            ns = root.Name.Namespace;
            // An id, a profile and an exmode come from earlier drafts and say nothing that matters here.
            Attributes(root, "initial", "name", "version", "datamodel", "binding", "id", "profile", "exmode");
            if (root.Attribute("version") is { } version && version.Value.Trim() != "1.0")
                Fault(root, $"Version {version.Value} is not known; 1.0 is.");
            if (root.Attribute("datamodel")?.Value is { } model && model is not ("ecmascript" or "null" or "xpath" or "chiton"))
                Fault(root, $"A data model “{model}” is not known.");
            if (root.Attribute("binding")?.Value is { } binding && binding is not ("early" or "late"))
                Fault(root, "binding is early or late.");
            Walk(root, -1, NodeKind.Compound);
            if (nodes.Count == 1)
                Fault(root, "A document needs at least one state.");
            foreach (var (element, node) in elements)
                Content(element, node);
            // A history that says no more goes where its parent would begin.
            for (var i = 0; i < nodes.Count; i++)
                if (nodes[i].Kind is NodeKind.ShallowHistory or NodeKind.DeepHistory && nodes[i].Default < 0)
                {
                    var parent = nodes[i].Parent;
                    int[] children =
                    [
                        .. Enumerable
                            .Range(parent + 1, nodes.Count - parent - 1)
                            .Where(k =>
                                nodes[k].Parent == parent && nodes[k].Kind is not (NodeKind.ShallowHistory or NodeKind.DeepHistory)
                            ),
                    ];
                    int[] begin =
                        nodes[parent].Kind == NodeKind.Parallel ? children
                        : nodes[parent].Default >= 0 ? transitions[nodes[parent].Default].Targets
                        : [.. children.Take(1)];
                    nodes[i] = nodes[i] with { Default = Made(i, begin, new(states[i].Line, [], null, [])) };
                }
            if (faults.Count > 0)
                throw new ScxmlUnreadable([.. faults.OrderBy(f => f.Line)]);
            Chart chart;
            try
            {
                chart = new Chart(nodes, transitions);
            }
            catch (ArgumentException e)
            {
                throw new ScxmlUnreadable([new(1, e.Message)]);
            }
            var first = root.Elements().Where(e => Tag(e) == "script").Select(Action).OfType<ScxmlAction>().ToArray();
            if (faults.Count > 0)
                throw new ScxmlUnreadable([.. faults.OrderBy(f => f.Line)]);
            var document = new ScxmlDocument
            {
                Chart = chart,
                States = states,
                Transitions = meanings,
                Name = root.Attribute("name")?.Value ?? "",
                Late = root.Attribute("binding")?.Value == "late",
                First = first,
            };
            foreach (var (id, node) in ids)
                document.index[id] = node;
            return document;
        }

        private void Attributes(XElement e, params string[] known)
        {
            foreach (var a in e.Attributes())
            {
                if (
                    a.IsNamespaceDeclaration
                    || a.Name.Namespace == XNamespace.Xml
                    || a.Name.Namespace == ScxmlWriter.Says
                    || a.Name.LocalName == "schemaLocation"
                )
                    continue;
                if (a.Name.Namespace != XNamespace.None || !known.Contains(a.Name.LocalName))
                    Fault(a, $"“{a.Name.LocalName}” on {e.Name.LocalName} is not known here.");
            }
        }

        private void Walk(XElement e, int parent, NodeKind kind)
        {
            var node = nodes.Count;
            if (node > MostStates)
            {
                if (node == MostStates + 1)
                    Fault(e, $"At most {MostStates} states.");
                return;
            }
            var inside = e.Elements().Where(c => Tag(c) is "state" or "parallel" or "final" or "history").ToArray();
            var real = inside.Count(c => Tag(c) != "history");
            if (kind == NodeKind.Compound && parent >= 0 && real == 0)
                kind = NodeKind.Atomic;
            nodes.Add(new(kind, parent));
            nodeOf[e] = node;
            var id = parent < 0 ? "" : e.Attribute("id")?.Value.Trim() ?? "";
            if (parent >= 0 && id == "")
                id = $"_{Tag(e)}{node}";
            if (parent >= 0 && !ids.TryAdd(id, node))
                Fault(e, $"There are two states called “{id}”.");
            if (id.Any(char.IsWhiteSpace))
                Fault(e, $"“{id}” has a space in it.");
            states.Add(new(id, Line(e), [], [], []));
            elements.Add((e, node));
            foreach (var c in inside)
            {
                var tag = Tag(c);
                if (kind is NodeKind.Final or NodeKind.ShallowHistory or NodeKind.DeepHistory)
                {
                    Fault(c, $"No {tag} can stand in {e.Name.LocalName}.");
                    continue;
                }
                if (kind == NodeKind.Parallel && tag == "final")
                {
                    Fault(c, "No final can stand directly in parallel.");
                    continue;
                }
                if (parent < 0 && tag == "history")
                {
                    Fault(c, "A history stands in a state.");
                    continue;
                }
                Walk(
                    c,
                    node,
                    tag switch
                    {
                        "parallel" => c.Elements().Any(x => Tag(x) is "state" or "parallel") ? NodeKind.Parallel : NodeKind.Atomic,
                        "final" => NodeKind.Final,
                        "history" => c.Attribute("type")?.Value == "deep" ? NodeKind.DeepHistory : NodeKind.ShallowHistory,
                        _ => NodeKind.Compound,
                    }
                );
            }
        }

        private void Content(XElement e, int node)
        {
            var tag = Tag(e);
            var entry = new List<IReadOnlyList<ScxmlAction>>();
            var exit = new List<IReadOnlyList<ScxmlAction>>();
            var data = new List<(string, ScxmlExpression?)>();
            var doneData = new List<(string, ScxmlExpression)>();
            ScxmlExpression? doneContent = null;
            XElement? initialElement = null;
            if (tag is "state")
                Attributes(e, "id", "initial", "src");
            else if (tag == "history")
            {
                Attributes(e, "id", "type");
                if (e.Attribute("type")?.Value is { } type && type is not ("deep" or "shallow"))
                    Fault(e, "The type of a history is deep or shallow.");
            }
            else if (tag is "parallel" or "final")
                Attributes(e, "id");
            foreach (var text in e.Nodes().OfType<XText>().Where(t => !string.IsNullOrWhiteSpace(t.Value)))
                Fault(text, $"Text does not belong in {e.Name.LocalName}.");
            foreach (var c in e.Elements())
            {
                var inner = Tag(c);
                switch (inner)
                {
                    case "state" or "parallel" or "final" or "history":
                        break;
                    case "onentry" when tag is not ("scxml" or "history"):
                        Attributes(c);
                        entry.Add(Actions(c));
                        break;
                    case "onexit" when tag is not ("scxml" or "history"):
                        Attributes(c);
                        exit.Add(Actions(c));
                        break;
                    case "transition" when tag is "state" or "parallel":
                        Transition(c, node);
                        break;
                    case "transition" when tag == "history":
                        if (nodes[node].Default >= 0)
                            Fault(c, "A history has one transition.");
                        else
                            nodes[node] = nodes[node] with { Default = Default(c, node) };
                        break;
                    case "initial" when tag == "state":
                        Attributes(c);
                        if (initialElement is not null)
                            Fault(c, "A state has one initial.");
                        initialElement = c;
                        break;
                    case "datamodel" when tag is "scxml" or "state" or "parallel":
                        Attributes(c);
                        foreach (var d in c.Elements())
                        {
                            if (Tag(d) != "data")
                            {
                                Fault(d, $"“{d.Name.LocalName}” does not belong in datamodel.");
                                continue;
                            }
                            Attributes(d, "id", "expr", "src");
                            if (d.Attribute("src") is not null)
                                Fault(d, "Data from elsewhere (src) are not fetched.");
                            var id = d.Attribute("id")?.Value.Trim() ?? "";
                            if (!IsName(id))
                            {
                                Fault(d, $"“{id}” is no name for data.");
                                continue;
                            }
                            var written = d.Attribute("expr")?.Value ?? (string.IsNullOrWhiteSpace(d.Value) ? null : d.Value);
                            // What stands in the element and is no expression is a text.
                            data.Add(
                                (
                                    id,
                                    written is null ? null
                                    : d.Attribute("expr") is not null ? Expression(d, written)
                                    : Quiet(written)
                                )
                            );
                        }
                        break;
                    case "donedata" when tag == "final":
                        Attributes(c);
                        foreach (var d in c.Elements())
                            if (Tag(d) == "param")
                                Parameter(d, doneData);
                            else if (Tag(d) == "content")
                                doneContent = ContentOf(d);
                            else
                                Fault(d, $"“{d.Name.LocalName}” does not belong in donedata.");
                        break;
                    case "script" when tag == "scxml":
                        break;
                    default:
                        Fault(
                            c,
                            c.Name.Namespace == ns
                                ? inner == "invoke"
                                    ? "“invoke” starts another machine, which is not known here."
                                    : $"“{inner}” does not belong in {e.Name.LocalName}."
                                : $"“{c.Name.LocalName}” of another name space is not known here."
                        );
                        break;
                }
            }
            if (tag == "state" && e.Attribute("src") is not null)
                Fault(e, "A state from elsewhere (src) is not fetched.");
            if (tag is "state" or "scxml")
            {
                var named = e.Attribute("initial");
                if (named is not null && initialElement is not null)
                    Fault(named, "Say initial once: as an attribute or as an element.");
                if (nodes[node].Kind == NodeKind.Atomic && (named ?? (object?)initialElement) is not null)
                    Fault(e, "A state without states in it has no initial.");
                else if (named is not null)
                    nodes[node] = nodes[node] with { Default = Made(node, Targets(e, named.Value, node), new(Line(e), [], null, [])) };
                else if (initialElement is not null)
                {
                    if (initialElement.Elements().ToArray() is [var only] && Tag(only) == "transition")
                        nodes[node] = nodes[node] with { Default = Default(only, node) };
                    else
                        Fault(initialElement, "An initial holds one transition.");
                }
            }
            states[node] = states[node] with
            {
                OnEntry = entry,
                OnExit = exit,
                Data = data,
                DoneData = doneData,
                DoneContent = doneContent,
            };
        }

        private int Made(int source, int[] targets, ScxmlTransition meaning, bool isInternal = false, bool eventless = false)
        {
            transitions.Add(new(source, targets, isInternal, eventless));
            meanings.Add(meaning);
            return transitions.Count - 1;
        }

        private int Default(XElement t, int node)
        {
            Attributes(t, "target", "type");
            if (t.Attribute("target") is not { } target)
            {
                Fault(t, "This transition needs a target.");
                return -1;
            }
            var targets = Targets(
                t,
                target.Value,
                nodes[node].Kind is NodeKind.ShallowHistory or NodeKind.DeepHistory ? nodes[node].Parent : node
            );
            return Made(node, targets, new(Line(t), [], null, Actions(t)));
        }

        private void Transition(XElement t, int node)
        {
            Attributes(t, "event", "cond", "target", "type");
            var type = t.Attribute("type")?.Value ?? "external";
            if (type is not ("internal" or "external"))
                Fault(t, "The type of a transition is internal or external.");
            var events = (t.Attribute("event")?.Value ?? "").Split((char[])[' ', '\t', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries);
            var targets = t.Attribute("target") is { } target ? Targets(t, target.Value, -1) : [];
            var condition = t.Attribute("cond")?.Value;
            // “a.*” and “a.” mean the same as “a”.
            string[] descriptors =
            [
                .. events.Select(d =>
                    d.EndsWith(".*", StringComparison.Ordinal) ? d[..^2]
                    : d.EndsWith('.') ? d[..^1]
                    : d
                ),
            ];
            Made(
                node,
                targets,
                new(Line(t), descriptors, condition is null ? null : Expression(t, condition), Actions(t))
                {
                    ConditionText = condition ?? "",
                },
                type == "internal",
                descriptors.Length == 0
            );
        }

        // Targets that exist, can be active together, and stand where they must.
        private int[] Targets(XElement at, string list, int within)
        {
            var found = new List<int>();
            foreach (var id in list.Split((char[])[' ', '\t', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries))
            {
                if (!ids.TryGetValue(id, out var node))
                {
                    var meant = NearMiss.Find(id, ids.Keys) is { } near ? $" Did you mean “{near}”?" : "";
                    Fault(at, $"There is no state “{id}”.{meant}");
                    continue;
                }
                if (within >= 0 && !IsIn(node, within))
                {
                    Fault(at, $"“{id}” does not stand in “{(within == 0 ? "the document" : states[within].Id)}”.");
                    continue;
                }
                if (!found.Contains(node))
                    found.Add(node);
            }
            for (var i = 0; i < found.Count; i++)
            for (var k = i + 1; k < found.Count; k++)
                if (!Together(found[i], found[k]))
                {
                    Fault(at, $"“{states[found[i]].Id}” and “{states[found[k]].Id}” cannot be active together.");
                    return [.. found];
                }
            if (found.Count == 0 && faults.Count == 0)
                Fault(at, "A target is missing.");
            return [.. found];
        }

        private bool IsIn(int a, int b)
        {
            for (var n = nodes[a].Parent; n >= 0; n = nodes[n].Parent)
                if (n == b)
                    return true;
            return false;
        }

        private bool Together(int a, int b)
        {
            if (IsIn(a, b) || IsIn(b, a))
                return true;
            var above = new HashSet<int>();
            for (var n = a; n >= 0; n = nodes[n].Parent)
                above.Add(n);
            var meet = b;
            while (!above.Contains(meet))
                meet = nodes[meet].Parent;
            return nodes[meet].Kind == NodeKind.Parallel;
        }
    }
}
