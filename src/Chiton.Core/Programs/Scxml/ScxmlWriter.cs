using System.Globalization;
using System.Text;
using System.Xml;
using System.Xml.Linq;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Scxml;

/// <summary>
/// Writes a program as SCXML 1.0. Structure, events, times, conditions and assignments are written so that any reader of
/// the recommendation finds them; each sentence stands beside them in a name space of its own, so that reading the document
/// back gives the very same program.
/// </summary>
public static class ScxmlWriter
{
    /// <summary>The recommendation's name space.</summary>
    public static readonly XNamespace Ns = "http://www.w3.org/2005/07/scxml";

    /// <summary>The name space of our sentences.</summary>
    public static readonly XNamespace Says = "urn:chiton:script:1";

    /// <summary>A name without its spaces, as an id or event takes it.</summary>
    public static string Id(string name) => name.Replace(' ', '_');

    /// <summary>The program as a document.</summary>
    public static string Write(ProgramNode program) => new Writer(program).Document();

    private sealed class Writer(ProgramNode program)
    {
        // Where a state stands, by the state itself: its id in the document.
        private readonly Dictionary<StateNode, string> ids = new(ReferenceEqualityComparer.Instance);
        private readonly List<(StateNode State, string Id, string[] Regions)> all = [];

        public string Document()
        {
            foreach (var region in program.Regions)
                Number(region.States, Id(region.Name), [region.Name]);
            var root = new XElement(
                Ns + "scxml",
                new XAttribute("version", "1.0"),
                new XAttribute("datamodel", "ecmascript"),
                new XAttribute(XNamespace.Xmlns + "c", Says.NamespaceName),
                new XAttribute("name", Id(program.Name)),
                new XAttribute(Says + "says", Printer.Head(program))
            );
            Comments(root, program.Comments);
            var data = new XElement(Ns + "datamodel");
            foreach (var head in program.Head)
            {
                var says = Printer.Plain(Printer.Pieces(head));
                var (name, value) = head switch
                {
                    VarNode v => (v.Name, v.Value),
                    ConstNode k => (k.Name, k.Value),
                    _ => ("", null),
                };
                var made =
                    value is not null && Expression(value) is { } text
                        ? new XElement(Ns + "data", new XAttribute("id", Id(name)), new XAttribute("expr", text))
                    : value is not null ? new XElement(Ns + "data", new XAttribute("id", Id(name)))
                    : new XElement(Says + "head");
                made.Add(new XAttribute(Says + "says", says));
                Comments(made, head.Comments);
                (made.Name.Namespace == Ns ? data : root).Add(made);
            }
            if (data.HasElements)
                root.AddFirst(data);
            // Where heads of both kinds mix, their order is told by number.
            var order = 0;
            foreach (var head in program.Head)
            {
                var says = Printer.Plain(Printer.Pieces(head));
                var element = data.Elements()
                    .Concat(root.Elements(Says + "head"))
                    .First(e => e.Attribute(Says + "says")!.Value == says && e.Attribute(Says + "at") is null);
                element.Add(new XAttribute(Says + "at", order++));
            }
            var regions = program.Regions.Select(Region).ToArray();
            if (regions.Length == 1)
                root.Add(regions[0]);
            else
                root.Add(new XElement(Ns + "parallel", new XAttribute("id", "_program"), regions));
            foreach (var routine in program.Routines)
            {
                // What a routine is has no word in the recommendation: it travels as its text.
                var text = Printer.Print(program with { Comments = [], Head = [], Regions = [], Routines = [routine], Trailing = [] });
                root.Add(new XElement(Says + "routine", new XAttribute(Says + "says", text[(text.IndexOf('\n') + 1)..].Trim('\n'))));
            }
            if (program.Trailing.Count > 0)
                root.Add(new XElement(Says + "end", new XAttribute(Says + "comments", string.Join('\n', program.Trailing))));
            var settings = new XmlWriterSettings
            {
                Indent = true,
                NewLineChars = "\n",
                OmitXmlDeclaration = true,
                NewLineHandling = NewLineHandling.Entitize,
            };
            var written = new StringBuilder("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
            using (var xml = XmlWriter.Create(written, settings))
                new XDocument(root).Save(xml);
            return written.Append('\n').ToString();
        }

        private void Number(Sequence<StateNode> states, string path, string[] regions)
        {
            foreach (var s in states)
            {
                var id = $"{path}.{Id(s.Name)}";
                ids[s] = id;
                all.Add((s, id, regions));
                Number(s.States, id, regions);
                foreach (var r in s.Regions)
                    Number(r.States, $"{id}.{Id(r.Name)}", [.. regions, r.Name]);
            }
        }

        private static void Comments(XElement element, Sequence<string> comments)
        {
            if (comments.Count > 0)
                element.Add(new XAttribute(Says + "comments", string.Join('\n', comments)));
        }

        private XElement Region(RegionNode region) => Region(region, Id(region.Name));

        private XElement Region(RegionNode region, string id)
        {
            var made = new XElement(Ns + "state", new XAttribute("id", id));
            if (region.States.FirstOrDefault(s => s.Initial) is { } initial)
                made.Add(new XAttribute("initial", ids[initial]));
            made.Add(new XAttribute(Says + "says", "region " + region.Name));
            Comments(made, region.Comments);
            foreach (var state in region.States)
                made.Add(State(state));
            return made;
        }

        private XElement State(StateNode state)
        {
            var id = ids[state];
            var made = new XElement(
                Ns
                    + (
                        state.Final ? "final"
                        : state.Regions.Count > 0 ? "parallel"
                        : "state"
                    ),
                new XAttribute("id", id)
            );
            if (state.States.FirstOrDefault(s => s.Initial) is { } initial)
                made.Add(new XAttribute("initial", ids[initial]));
            made.Add(new XAttribute(Says + "says", Printer.Plain(Printer.Pieces(state))));
            Comments(made, state.Comments);
            var timers = 0;
            foreach (var line in state.Lines)
            {
                var says = Printer.Plain(Printer.Pieces(line));
                XElement element;
                switch (line)
                {
                    case TransitionNode t when !state.Final:
                        if (t.Trigger is AfterTriggerNode or EveryTriggerNode && Delay(t.Trigger) is { } delay)
                        {
                            // A time is an event that the state sends itself and takes back when it is left.
                            var name = $"{(t.Trigger is AfterTriggerNode ? "after" : "every")}.{id}.{++timers}";
                            made.Add(new XElement(Ns + "onentry", new XAttribute(Says + "timer", "yes"), Send(name, delay)));
                            made.Add(
                                new XElement(
                                    Ns + "onexit",
                                    new XAttribute(Says + "timer", "yes"),
                                    new XElement(Ns + "cancel", new XAttribute("sendid", name))
                                )
                            );
                            element = Transition(t, state, name);
                            if (t.Trigger is EveryTriggerNode && t.Target is null)
                                element.Add(Send(name, delay));
                        }
                        else
                            element = Transition(t, state, Event(t.Trigger));
                        break;
                    case ActivityNode { Moment: ActivityMoment.Entry or ActivityMoment.Exit } a:
                        element = new XElement(
                            Ns + (a.Moment == ActivityMoment.Entry ? "onentry" : "onexit"),
                            a.Actions.Select(Action).OfType<XElement>()
                        );
                        break;
                    default:
                        element = new XElement(Says + "line");
                        break;
                }
                element.Add(new XAttribute(Says + "says", says));
                Comments(element, line.Comments);
                made.Add(element);
            }
            foreach (var h in state.Histories)
            {
                var history = new XElement(
                    Ns + "history",
                    new XAttribute("id", $"{id}.{Id(h.Name)}"),
                    new XAttribute("type", h.Deep ? "deep" : "shallow"),
                    new XAttribute(Says + "says", Printer.Plain(Printer.Pieces(h)))
                );
                Comments(history, h.Comments);
                if (
                    all.FirstOrDefault(x => x.State.Name == h.Target && x.Id.StartsWith(id + ".", StringComparison.Ordinal)) is
                    { Id: { } to }
                )
                    history.Add(new XElement(Ns + "transition", new XAttribute("target", to)));
                made.Add(history);
            }
            foreach (var inner in state.States)
                made.Add(State(inner));
            foreach (var region in state.Regions)
                made.Add(Region(region, $"{id}.{Id(region.Name)}"));
            return made;
        }

        private static XElement Send(string name, string delay) =>
            new(Ns + "send", new XAttribute("event", name), new XAttribute("id", name), new XAttribute("delay", delay));

        private static string? Delay(TriggerNode trigger) =>
            Analysis.Constant(
                trigger switch
                {
                    AfterTriggerNode a => a.Time,
                    EveryTriggerNode e => e.Time,
                    _ => null!,
                }
            )
                is { } s
                ? (s * 1000).ToString("0.######", CultureInfo.InvariantCulture) + "ms"
                : null;

        private XElement Transition(TransitionNode t, StateNode state, string? on)
        {
            var made = new XElement(Ns + "transition");
            if (on is not null)
                made.Add(new XAttribute("event", on));
            var conditions = new List<string>();
            if (t.Trigger is ConditionTriggerNode c && on is null)
                conditions.Add(Expression(c.Condition) ?? "");
            if (t.Guard is not null)
                conditions.Add(Expression(t.Guard) ?? "");
            // A condition that no other reader could work out is left to our own sentence.
            if (conditions.Count > 0 && conditions.All(x => x != ""))
                made.Add(
                    new XAttribute("cond", conditions.Count == 1 ? conditions[0] : string.Join(" && ", conditions.Select(x => $"({x})")))
                );
            else if (conditions.Count > 0)
                made.Add(new XAttribute("cond", "false"), new XAttribute(Says + "beyond", "cond"));
            if (t.Target is { } target && Find(target, state) is { } to)
            {
                made.Add(new XAttribute("target", to));
                if (t.Inside)
                    made.Add(new XAttribute("type", "internal"));
            }
            made.Add(t.Actions.Select(Action).OfType<XElement>());
            return made;
        }

        // The nearest state or history of that name, as the compiler finds it.
        private string? Find(string target, StateNode from)
        {
            var own = ids[from];
            var candidates = all.Where(x => x.Regions[0] == all.First(a => ReferenceEquals(a.State, from)).Regions[0])
                .SelectMany(x => x.State.Histories.Select(h => (h.Name, Id: $"{x.Id}.{Id(h.Name)}")).Prepend((x.State.Name, x.Id)))
                .Where(x => x.Item1 == target)
                .Select(x => x.Item2)
                .ToArray();
            return candidates.MaxBy(id => id.Split('.').Zip(own.Split('.')).TakeWhile(p => p.First == p.Second).Count());
        }

        private static string Word(string text) => string.Concat(text.Select(ch => char.IsLetterOrDigit(ch) || ch is '-' ? ch : '_'));

        /// <summary>The event that a trigger waits for; null when it is judged without one.</summary>
        private static string Press(PressKind kind) =>
            kind switch
            {
                PressKind.Pressed => "pressed",
                PressKind.Released => "released",
                PressKind.Tapped => "tapped",
                PressKind.TappedTwice => "tapped_twice",
                _ => "held",
            };

        private static string? Event(TriggerNode trigger) =>
            trigger switch
            {
                ZoneTriggerNode z => $"{Id(z.Sensor)}.{(z.Relation == ZoneRelation.Leaves ? "leaves" : "is")}.{Id(z.Zone)}",
                PressTriggerNode p => $"{Id(p.Sensor)}.{Press(p.Kind)}",
                StallTriggerNode s => $"{Id(s.Device)}.stalls",
                GiveUpTriggerNode g => $"{Id(g.Device)}.gives.up",
                ToldTriggerNode m => $"told.{Word(m.Text)}{(m.From is null ? "" : "." + Id(m.From))}",
                SilenceTriggerNode => "silence",
                ConditionTriggerNode { Condition: DoneNode d } => d.Device is null ? "all.done" : $"{Id(d.Device)}.done",
                AfterTriggerNode => "after",
                EveryTriggerNode => "every",
                _ => null,
            };

        private XElement? Action(ActionNode action) =>
            action switch
            {
                SetNode s when Expression(s.Value) is { } value => new(
                    Ns + "assign",
                    new XAttribute("location", Id(s.Variable)),
                    new XAttribute("expr", value)
                ),
                TellNode t when t.With.Count == 0 => new(
                    Ns + "send",
                    new XAttribute("event", $"told.{Word(t.Text)}.{Id(program.Name)}"),
                    new XAttribute(Says + "to", t.Program)
                ),
                ShowNode s => new(Ns + "log", new XAttribute("label", s.Text)),
                ShowValueNode s when Expression(s.Value) is { } value => new(Ns + "log", new XAttribute("expr", value)),
                _ => null,
            };

        // In base units; null for what the other language has no word for.
        private string? Expression(ExprNode node)
        {
            switch (node)
            {
                case LiteralNode l:
                    return l.BaseValue.ToString("R", CultureInfo.InvariantCulture);
                case VariableNode v:
                    return Id(v.Name);
                case TruthNode t:
                    return t.Yes ? "true" : "false";
                case TextNode t:
                    return t.Text.Contains('\'') ? null : $"'{t.Text}'";
                case InStateNode s:
                    return all.FirstOrDefault(x => x.State.Name == s.State && x.Regions.Contains(s.Region)) is { Id: { } id }
                        ? $"In('{id}')"
                        : null;
                case UnaryNode u:
                    return Expression(u.Operand) is { } of
                        ? u.IsNot
                            ? $"!({of})"
                            : $"-({of})"
                        : null;
                case BinaryNode b:
                    var (left, right) = (Expression(b.Left), Expression(b.Right));
                    if (left is null || right is null)
                        return null;
                    var op = b.Operator switch
                    {
                        Operator.Or => "||",
                        Operator.And => "&&",
                        Operator.Equal => "==",
                        Operator.NotEqual => "!=",
                        Operator.Less => "<",
                        Operator.LessOrEqual => "<=",
                        Operator.Greater => ">",
                        Operator.GreaterOrEqual => ">=",
                        Operator.Add => "+",
                        Operator.Subtract => "-",
                        Operator.Multiply => "*",
                        _ => "/",
                    };
                    return $"({left} {op} {right})";
                default:
                    return null;
            }
        }
    }
}
