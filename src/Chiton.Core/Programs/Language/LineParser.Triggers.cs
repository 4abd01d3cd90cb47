using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

internal sealed partial class LineParser
{
    // ---- triggers ----

    public TriggerNode When()
    {
        var start = at;
        if (Take("told"))
        {
            var text = Text();
            var from = Take("from") ? Name("program", [.. rig.Programs]) : null;
            var into = new List<string>();
            if (Take("into"))
                do into.Add(Name("variable", own.Variables));
                while (Take(","));
            return new ToldTriggerNode(text, from, into.ToSequence()) { Span = From(start) };
        }
        if (Take("not told"))
        {
            var text = Now.Kind == TokenKind.Text ? Text() : null;
            Need("for");
            return new SilenceTriggerNode(Sum()) { Text = text, Span = From(start) };
        }
        if (TryName("sensor", Names.Sensors) is { } sensor)
        {
            var word = rig.Sensors.First(s => s.Name == sensor);
            if (word.Switch && Take("is pressed"))
                return new PressTriggerNode(sensor, PressKind.Pressed, null) { Span = From(start) };
            if (word.Switch && Take("is released"))
                return new PressTriggerNode(sensor, PressKind.Released, null) { Span = From(start) };
            if (word.Switch && Take("is tapped twice"))
                return new PressTriggerNode(sensor, PressKind.TappedTwice, null) { Span = From(start) };
            if (word.Switch && Take("is tapped"))
                return new PressTriggerNode(sensor, PressKind.Tapped, null) { Span = From(start) };
            if (word.Switch && Take("is held for"))
                return new PressTriggerNode(sensor, PressKind.Held, Sum()) { Span = From(start) };
            // A condition that is more than one zone is read as an expression.
            ZoneRelation? relation =
                Peek("is not") || Peek("cannot tell") || word.MayHearNothing && Peek("hears nothing") ? null
                : Take("is") ? ZoneRelation.Is
                : Take("becomes") ? ZoneRelation.Becomes
                : Take("leaves") ? ZoneRelation.Leaves
                : null;
            if (relation is { } how)
            {
                var zone = Name("zone", word.Zones.ToArray(), $" on {sensor}");
                if (how != ZoneRelation.Is || !Peek("and") && !Peek("or"))
                {
                    var (readings, time) = For();
                    return new ZoneTriggerNode(sensor, how, zone, readings) { For = time, Span = From(start) };
                }
            }
            else if (!Peek("is not") && !Peek("cannot tell") && !(word.MayHearNothing && Peek("hears nothing")))
            {
                if (word.Reads is null)
                    throw Unfit();
                // It is compared as a number.
                Want("<", "operator");
                if (Now.Kind != TokenKind.Symbol)
                    throw Unfit();
            }
            at = start;
        }
        else if (TryName("motor", Names.Commanded) is { } device)
        {
            if (Take("stalls"))
                return new StallTriggerNode(device) { Span = From(start) };
            if (Take("gives up"))
                return new GiveUpTriggerNode(device) { Span = From(start) };
            if (!Take("is done") && !Take("has given up"))
                throw Unfit();
            at = start;
        }
        else if (
            Now.Kind == TokenKind.Word
            && !BeginsWith("variable", own.Variables)
            && !BeginsWith("region", own.Regions)
            && tokens.Skip(at).TakeWhile(t => t.Kind != TokenKind.Symbol).Any(t => t.Text is "is" or "becomes" or "leaves")
            && Now.Text
                is not (
                    "not"
                    or "all"
                    or "zone"
                    or "yes"
                    or "no"
                    or "travel"
                    or "angle"
                    or "length"
                    or "random"
                    or "min"
                    or "max"
                    or "abs"
                    or "round"
                )
        )
        {
            // It reads like a sensor sentence, so a wrong sensor name is the likelier fault than a wrong expression.
            Name("sensor", rig.Sensors.Select(s => s.Name).ToArray());
        }
        at = start;
        var condition = Expression();
        var (needed, lasting) = For();
        return new ConditionTriggerNode(condition)
        {
            Readings = needed,
            For = lasting,
            Span = From(start),
        };
    }

    private bool BeginsWith(string kind, IReadOnlyCollection<string> names)
    {
        var start = at;
        var found = names.Count > 0 && TryName(kind, names) is not null;
        at = start;
        return found;
    }

    private bool Peek(string words)
    {
        var start = at;
        var fits = Take(words);
        at = start;
        return fits;
    }

    private (string? Readings, ExprNode? Time) For()
    {
        if (!Take("for"))
            return (null, null);
        Want("2", "number");
        var token = Now;
        var start = at;
        if (token.Kind == TokenKind.Number)
        {
            at++;
            if (Take("readings") || Take("reading"))
            {
                if (!int.TryParse(token.Text, CultureInfo.InvariantCulture, out var n) || n is < 1 or > 100)
                    throw new LineFault(
                        token.Start + 1,
                        token.Length,
                        token.Text,
                        "a whole number from 1 to 100",
                        $"“{token.Text}” readings: say a whole number from 1 to 100.",
                        null
                    );
                return (token.Text, null);
            }
            at = start;
        }
        var time = Sum();
        if (time is LiteralNode { Unit: "" })
        {
            at = start + 1;
            Want("readings", "keyword");
            Want("ms", "unit");
            throw Unfit();
        }
        return (null, time);
    }

    private string Text()
    {
        Want("\"…\"", "text");
        if (Now.Kind != TokenKind.Text)
            throw Unfit();
        return tokens[at++].Text;
    }

    public TriggerNode After()
    {
        var start = at;
        return new AfterTriggerNode(Sum()) { Span = From(start) };
    }

    public TriggerNode Every()
    {
        var start = at;
        return new EveryTriggerNode(Sum()) { Span = From(start) };
    }

    public (ExprNode? Guard, Sequence<ActionNode> Actions, string? Target, Span TargetSpan, bool Inside) RestOfTransition()
    {
        var guard = Take("if") ? Expression() : null;
        Need(":");
        var actions = new List<ActionNode>();
        while (true)
        {
            if (Take("go"))
            {
                var start = at;
                var target = Name("state", own.States);
                var span = From(start);
                var inside = Take("inside");
                End();
                return (guard, actions.ToSequence(), target, span, inside);
            }
            if (Take("stay"))
            {
                End();
                return (guard, actions.ToSequence(), null, default, false);
            }
            actions.Add(Chained());
            if (Take(";"))
                continue;
            if (AtEnd)
                return (guard, actions.ToSequence(), null, default, false);
            throw Unfit();
        }
    }
}
