using System.Globalization;
using System.Xml;
using System.Xml.Linq;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Programs.Scxml;

public sealed partial class ScxmlDocument
{
    private sealed partial class Reader
    {
        private IReadOnlyList<ScxmlAction> Actions(XElement holder)
        {
            foreach (var text in holder.Nodes().OfType<XText>().Where(t => !string.IsNullOrWhiteSpace(t.Value)))
                Fault(text, $"Text does not belong in {holder.Name.LocalName}.");
            return [.. holder.Elements().Select(Action).OfType<ScxmlAction>()];
        }

        private ScxmlAction? Action(XElement e)
        {
            var line = Line(e);
            switch (Tag(e))
            {
                case "raise":
                    Attributes(e, "event");
                    if (e.Attribute("event")?.Value.Trim() is not { Length: > 0 } raised)
                    {
                        Fault(e, "A raise names its event.");
                        return null;
                    }
                    return new ScxmlRaise(line, raised);
                case "assign":
                    Attributes(e, "location", "expr");
                    if (e.Attribute("location")?.Value is not { } location)
                    {
                        Fault(e, "An assign names its location.");
                        return null;
                    }
                    var written = e.Attribute("expr")?.Value ?? e.Value;
                    try
                    {
                        return new ScxmlAssign(line, location, ScxmlExpressions.ReadLocation(location), Expression(e, written), written);
                    }
                    catch (ScxmlSyntax s)
                    {
                        Fault(e, $"The location “{location}” cannot be read. {s.Message}");
                        return null;
                    }
                case "script":
                    Attributes(e, "src");
                    if (e.Attribute("src") is not null)
                    {
                        Fault(e, "A script from elsewhere (src) is not fetched.");
                        return null;
                    }
                    try
                    {
                        return new ScxmlScript(line, ScxmlExpressions.ReadStatements(e.Value), e.Value);
                    }
                    catch (ScxmlSyntax s)
                    {
                        Fault(e, $"Only assignments are known in a script. {s.Message}");
                        return null;
                    }
                case "log":
                    Attributes(e, "label", "expr");
                    return new ScxmlLog(
                        line,
                        e.Attribute("label")?.Value ?? "",
                        e.Attribute("expr") is { } said ? Expression(e, said.Value) : null
                    );
                case "if":
                    return If(e);
                case "foreach":
                    Attributes(e, "array", "item", "index");
                    var item = e.Attribute("item")?.Value ?? "";
                    var index = e.Attribute("index")?.Value;
                    if (!IsName(item) || index is not null && !IsName(index) || e.Attribute("array") is null)
                    {
                        Fault(e, "A foreach names its array and its item.");
                        return null;
                    }
                    return new ScxmlForeach(line, Expression(e, e.Attribute("array")!.Value), item, index, Actions(e));
                case "send":
                    return Send(e);
                case "cancel":
                    Attributes(e, "sendid", "sendidexpr");
                    if (e.Attribute("sendid") is { } sent)
                    {
                        var id = sent.Value;
                        return new ScxmlCancel(line, _ => id);
                    }
                    if (e.Attribute("sendidexpr") is { } by)
                        return new ScxmlCancel(line, Expression(e, by.Value));
                    Fault(e, "A cancel says which send.");
                    return null;
                default:
                    Fault(e, $"“{e.Name.LocalName}” is not known here.");
                    return null;
            }
        }

        private ScxmlIf If(XElement e)
        {
            Attributes(e, "cond");
            var branches = new List<(ScxmlExpression?, IReadOnlyList<ScxmlAction>)>();
            var now = new List<ScxmlAction>();
            ScxmlExpression? condition = e.Attribute("cond") is { } first ? Expression(e, first.Value) : null;
            if (condition is null)
                Fault(e, "An if says its condition.");
            var ended = false;
            foreach (var c in e.Elements())
            {
                if (Tag(c) is "elseif" or "else")
                {
                    if (ended)
                    {
                        Fault(c, "Nothing comes after else.");
                        continue;
                    }
                    branches.Add((condition, now));
                    now = [];
                    ended = Tag(c) == "else";
                    Attributes(c, ended ? [] : ["cond"]);
                    condition =
                        ended ? null
                        : c.Attribute("cond") is { } next ? Expression(c, next.Value)
                        : null;
                    if (!ended && condition is null)
                        Fault(c, "An elseif says its condition.");
                }
                else if (Action(c) is { } action)
                    now.Add(action);
            }
            branches.Add((condition, now));
            return new(Line(e), branches);
        }

        private ScxmlSend? Send(XElement e)
        {
            Attributes(
                e,
                "event",
                "eventexpr",
                "target",
                "targetexpr",
                "type",
                "typeexpr",
                "delay",
                "delayexpr",
                "id",
                "idlocation",
                "namelist"
            );
            var type = e.Attribute("type")?.Value;
            if (type is not (null or "scxml" or "http://www.w3.org/TR/scxml/#SCXMLEventProcessor"))
                Fault(e, $"Events of type “{type}” cannot be sent here.");
            var target = e.Attribute("target")?.Value;
            if (target is not (null or "" or "#_internal" or "#_self" or "#_scxml_self"))
                Fault(e, $"Nothing can be sent to “{target}” here; leave the target out, or say #_internal.");
            if (e.Attribute("targetexpr") is not null || e.Attribute("typeexpr") is not null)
                Fault(e, "Where and how it is sent must be written, not worked out.");
            ScxmlExpression? name =
                e.Attribute("event") is { } named ? Constant(named.Value)
                : e.Attribute("eventexpr") is { } worked ? Expression(e, worked.Value)
                : null;
            if (name is null)
                Fault(e, "A send names its event.");
            ScxmlExpression? delay = null;
            if (e.Attribute("delay") is { } fixedDelay)
            {
                if (Millis(fixedDelay.Value) is { } ms)
                    delay = _ => ms;
                else
                    Fault(e, $"“{fixedDelay.Value}” is no delay: write 500ms or 2s.");
            }
            else if (e.Attribute("delayexpr") is { } workedDelay)
            {
                var inner = Expression(e, workedDelay.Value);
                delay = s =>
                    inner(s) is var v && v is double d
                        ? d
                        : Millis(ScxmlExpressions.Text(v)) ?? throw new ScxmlEvaluation("This is no delay.");
            }
            if (delay is not null && target == "#_internal")
                Fault(e, "What goes to #_internal cannot be delayed.");
            var parameters = new List<(string, ScxmlExpression)>();
            foreach (
                var item in (e.Attribute("namelist")?.Value ?? "").Split((char[])[' ', '\t', '\n'], StringSplitOptions.RemoveEmptyEntries)
            )
                parameters.Add((item, Expression(e, item)));
            ScxmlExpression? content = null;
            foreach (var c in e.Elements())
                if (Tag(c) == "param")
                    Parameter(c, parameters);
                else if (Tag(c) == "content")
                    content = ContentOf(c);
                else
                    Fault(c, $"“{c.Name.LocalName}” does not belong in send.");
            Action<IScxmlScope, object?>? location = null;
            if (e.Attribute("idlocation") is { } place)
                try
                {
                    location = ScxmlExpressions.ReadLocation(place.Value);
                }
                catch (ScxmlSyntax s)
                {
                    Fault(e, $"The location “{place.Value}” cannot be read. {s.Message}");
                }
            return name is null
                ? null
                : new(Line(e), name, target == "#_internal", delay, e.Attribute("id")?.Value, location, parameters, content);
        }

        private static ScxmlExpression Constant(string text) => _ => text;

        private void Parameter(XElement p, List<(string, ScxmlExpression)> into)
        {
            Attributes(p, "name", "expr", "location");
            if (p.Attribute("name")?.Value is { } name && (p.Attribute("expr") ?? p.Attribute("location")) is { } value)
                into.Add((name, Expression(p, value.Value)));
            else
                Fault(p, "A param has a name and an expr.");
        }

        private ScxmlExpression ContentOf(XElement c)
        {
            Attributes(c, "expr");
            if (c.Attribute("expr") is { } e)
                return Expression(c, e.Value);
            if (c.Elements().FirstOrDefault() is { } inner)
                Fault(inner, "Content of elements is not known here; write a text or an expr.");
            return Quiet(c.Value);
        }

        private ScxmlExpression Expression(XElement at, string text)
        {
            try
            {
                return ScxmlExpressions.Read(text);
            }
            catch (ScxmlSyntax s)
            {
                Fault(at, $"“{(text.Length > 60 ? text[..60] + "…" : text.Trim())}” cannot be read. {s.Message}");
                return _ => null;
            }
        }

        // An expression where it is one, else the text itself with its blanks brought together.
        private static ScxmlExpression Quiet(string text)
        {
            try
            {
                return ScxmlExpressions.Read(text);
            }
            catch (ScxmlSyntax)
            {
                var words = string.Join(' ', text.Split((char[])[' ', '\t', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries));
                return _ => words;
            }
        }

        private static bool IsName(string id) =>
            id.Length > 0 && (char.IsLetter(id[0]) || id[0] is '_' or '$') && id.All(c => char.IsLetterOrDigit(c) || c is '_' or '$');

        /// <summary>A delay as CSS2 writes it, in ms.</summary>
        private static double? Millis(string text)
        {
            var t = text.Trim();
            var (digits, factor) =
                t.EndsWith("ms", StringComparison.Ordinal) ? (t[..^2], 1.0)
                : t.EndsWith('s') ? (t[..^1], 1000.0)
                : (t, t.All(char.IsAsciiDigit) ? 1.0 : double.NaN);
            return
                double.TryParse(digits, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var v)
                && v * factor is var ms
                && ms >= 0
                && ms <= MostDelayMs
                ? ms
                : null;
        }
    }
}
