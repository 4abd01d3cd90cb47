using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

internal sealed partial class LineParser
{
    // Goals, nevers and the lines of scenes may ask what no program can see.
    private bool worldly;

    /// <summary>A condition that may ask of the world, to the end of the line or to what cannot belong to it.</summary>
    public ExprNode WorldCondition()
    {
        worldly = true;
        return Expression();
    }

    private static readonly HashSet<string> EndsPlace =
    [
        "within",
        "before",
        "for",
        "at",
        "and",
        "or",
        "if",
        "when",
        "until",
        "every",
        "after",
    ];

    private static readonly HashSet<string> EndsSubject =
    [
        "is",
        "and",
        "or",
        "not",
        "becomes",
        "leaves",
        "has",
        "hears",
        "cannot",
        "holds",
        "for",
        "yes",
        "no",
        "random",
        "zone",
        "angle",
        "travel",
        "length",
        "all",
    ];

    // What is asked of the world here; null, and nothing taken, when it is something else.
    private WorldNode? World()
    {
        var start = at;
        WorldNode Made(WorldNode node) => node with { Span = From(start) };
        if (Take("a crash"))
            return Made(new(WorldFact.Crash));
        if (Take("finished"))
            return Made(new(WorldFact.Finished));
        if (Take("moving after"))
            return Made(new(WorldFact.MovingAfter) { Amount = Sum() });
        if (Take("stopped over"))
            return Made(new(WorldFact.StoppedOver) { Place = WorldPlace() });
        if (Take("robot over the edge"))
            return Made(new(WorldFact.OverEdge) { Subject = "robot" });
        if (Take("level of"))
        {
            var tank = NameUntil("tank", ["above", "below"]);
            var above = Take("above");
            if (!above)
                Need("below");
            return Made(new(above ? WorldFact.LevelAbove : WorldFact.LevelBelow) { Subject = tank, Amount = Sum() });
        }
        HowMany many =
            Take("every") ? HowMany.Every
            : Take("at least") ? HowMany.AtLeast
            : Take("at most") ? HowMany.AtMost
            : Take("exactly") ? HowMany.Exactly
            : Take("no") ? HowMany.No
            : HowMany.One;
        string? count = null;
        if (many is HowMany.AtLeast or HowMany.AtMost or HowMany.Exactly)
        {
            if (Now.Kind != TokenKind.Number)
                throw Unfit("Say how many: a whole number, as in “at least 12 crumbs off the deck”.");
            count = tokens[at++].Text;
        }
        if (About(many, count) is { } said)
            return Made(said);
        if (count is not null)
            throw Unfit("Say what of them, as in “at least 12 crumbs off the deck”.");
        at = start;
        return null;
    }

    private WorldNode? About(HowMany many, string? count)
    {
        var start = at;
        // A name of the rig, the longest first; else words up to one that says how it lies.
        var known =
            TryName("mechanism", rig.Mechanisms.Select(m => m.Name)) ?? TryName("device", Names.Commanded) ?? TryName("thing", rig.Things);
        if (known is not null && Relation(known, many, count) is { } first)
            return first;
        at = start;
        if (Now.Kind == TokenKind.Quoted)
        {
            var quoted = tokens[at++].Text;
            if (Relation(quoted, many, count) is { } said)
                return said;
            at = start;
            return null;
        }
        // A declared sensor, variable or region begins another condition.
        if (
            TryName("sensor", Names.Sensors) is not null
            || TryName("variable", own.Variables) is not null
            || own.Regions.Count > 0 && TryName("region", own.Regions) is not null
        )
        {
            var end = at;
            at = start;
            if (Now.Kind != TokenKind.Word || many == HowMany.One && !RelationAt(end))
                return null;
        }
        while (Now.Kind is TokenKind.Word or TokenKind.Number && !(Now.Kind == TokenKind.Word && EndsSubject.Contains(Now.Text)))
        {
            if (at > start)
            {
                var here = at;
                var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
                if (Relation(name, many, count) is { } said)
                    return said;
                at = here;
            }
            at++;
        }
        at = start;
        return null;
    }

    // True when what stands there says how something lies.
    private bool RelationAt(int place) =>
        place < tokens.Count && tokens[place].Text is "on" or "off" or "in" or "wholly" or "touching" or "stopped" or "over" or "through";

    private WorldNode? Relation(string subject, HowMany many, string? count)
    {
        WorldNode Lies(WorldFact fact) =>
            new(fact)
            {
                Subject = subject,
                Place = WorldPlace(),
                Many = many,
                Count = count,
            };
        if (Take("stopped over"))
            return Lies(WorldFact.StoppedOver);
        if (Take("over the edge"))
            return new(WorldFact.OverEdge)
            {
                Subject = subject,
                Many = many,
                Count = count,
            };
        if (Take("wholly on"))
            return Lies(WorldFact.WhollyOn);
        if (Take("touching"))
            return Lies(WorldFact.Touching);
        if (Take("through"))
            return AtEnd || Now.Kind == TokenKind.Word && EndsPlace.Contains(Now.Text)
                ? new(WorldFact.Through)
                {
                    Subject = subject,
                    Many = many,
                    Count = count,
                }
                : Lies(WorldFact.Through);
        if (Take("on"))
            return Lies(WorldFact.On);
        if (Take("off"))
            return Lies(WorldFact.Off);
        if (Take("in"))
            return Lies(WorldFact.In);
        var mark = at;
        if (Take("within"))
        {
            if (Now.Kind == TokenKind.Number)
            {
                var far = Sum();
                if (Take("of"))
                    return new(WorldFact.Near)
                    {
                        Subject = subject,
                        Place = WorldPlace(),
                        Many = many,
                        Count = count,
                        Amount = far,
                    };
            }
            at = mark;
        }
        if (Take("before"))
        {
            if (TryName("sensor", Names.Sensors) is { } sensor && Take("nearer than"))
                return new(WorldFact.Before)
                {
                    Subject = subject,
                    Place = sensor,
                    Many = many,
                    Count = count,
                    Amount = Sum(),
                };
            at = mark;
        }
        if (many != HowMany.One)
            return null;
        if (rig.Mechanisms.FirstOrDefault(m => m.Name == subject) is { } mechanism)
        {
            if (Take("past its"))
            {
                var which = Now.Kind == TokenKind.Word && Now.Text != "stop" ? tokens[at++].Text : null;
                Need("stop");
                return new(WorldFact.PastStop) { Subject = subject, Place = which };
            }
            if (Take("turned"))
                return new(WorldFact.Turned) { Subject = subject, Amount = Turns() ?? Sum() };
            if (mechanism.Positions.Count > 0 && Take("at"))
            {
                if (TryName("position", mechanism.Positions) is { } position)
                    return new(WorldFact.AtPosition) { Subject = subject, Place = position };
                at = mark;
            }
        }
        var kind = rig.Actuators.FirstOrDefault(a => a.Name == subject)?.Kind;
        if (kind == ActuatorKind.Lamp && Take("is"))
        {
            foreach (var word in Words.Colours.Prepend("off").Prepend("on"))
                if (Take(word))
                    return new(WorldFact.Lamp) { Subject = subject, Text = word };
            at = mark;
        }
        if ((kind == ActuatorKind.Sounder || subject == "Horn") && Take("sounds"))
            return new(WorldFact.Sounds) { Subject = subject };
        if (kind == ActuatorKind.Display && Take("shows"))
        {
            if (Now.Kind != TokenKind.Text)
                throw Unfit("Say what it shows, in quotes.");
            return new(WorldFact.Shows) { Subject = subject, Text = tokens[at++].Text };
        }
        return null;
    }

    // “turned 2 turns”: turns of the part itself, whatever its motor makes.
    private ExprNode? Turns()
    {
        if (Now.Kind != TokenKind.Number || tokens[at + 1].Text is not ("turns" or "turn"))
            return null;
        var digits = tokens[at].Text;
        at += 2;
        return new LiteralNode(digits, "wheel turns");
    }

    // Words up to one of some that go on after them.
    private string NameUntil(string what, string[] until)
    {
        var start = at;
        while (Now.Kind is TokenKind.Word or TokenKind.Number && !until.Contains(Now.Text))
            at++;
        var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
        if (IsName(name))
            return name;
        at = start;
        throw Unfit($"Name the {what} here.");
    }

    // A place that the program need not know: words up to what cannot belong to it.
    private string WorldPlace()
    {
        if (Now.Kind == TokenKind.Quoted)
            return tokens[at++].Text;
        if (TryName("place", rig.Places) is { } known)
            return known;
        var start = at;
        while (Now.Kind is TokenKind.Word or TokenKind.Number && !(Now.Kind == TokenKind.Word && EndsPlace.Contains(Now.Text)))
            at++;
        var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
        if (IsName(name))
            return name;
        at = start;
        throw Unfit("Say where: a name of letters, digits and single spaces.");
    }
}
