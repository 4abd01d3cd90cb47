using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>The names that the lines of a scene may use.</summary>
/// <param name="Rig">The rig's names.</param>
/// <param name="Own">What its programs declare: regions and states of which conditions speak.</param>
internal sealed record SceneNames(Vocabulary Rig, Declared Own)
{
    /// <summary>Named positions by mechanism.</summary>
    public IEnumerable<string> Of(string what, SceneNode? scene) =>
        what switch
        {
            "sensor" => Rig.Sensors.Select(s => s.Name),
            // A motor that turns nothing but itself, such as a stick, is meant by its own name.
            "mech" => Rig
                .Mechanisms.Select(m => m.Name)
                .Concat(
                    Rig.Actuators.Where(a =>
                            a.Kind is ActuatorKind.RegulatedMotor or ActuatorKind.PlainMotor or ActuatorKind.Servo or ActuatorKind.Stepper
                        )
                        .Select(a => a.Name)
                )
                .Distinct(),
            "device" => Rig.Commanded.Concat(Rig.Sensors.Select(s => s.Name)).Distinct(),
            "surf" => Rig.Sensors.SelectMany(s => s.Zones).Distinct().Where(z => z is not ("up" or "down")),
            "pos" => Rig.Mechanisms.SelectMany(m => m.Positions).Distinct(),
            "place" => scene is null ? [] : SceneWords.Places(scene),
            _ => [],
        };
}

/// <summary>Reads one line by the patterns, and notes how far it came and what would have fitted there.</summary>
internal sealed class SceneMatcher(string text, int line, SceneNames names)
{
    private readonly List<Token> tokens = LineParser.Read(text);
    private readonly Dictionary<string, object> values = [];
    private readonly HashSet<int> options = [];
    private readonly List<(string Text, bool Literal)> wanted = [];
    private SceneWhen when = new();
    private LineFault? inner;
    private int tries;

    // A line of a few dozen words never needs so many; what would is no sentence.
    private const int MostTries = 200_000;

    /// <summary>How far any sentence came, in tokens.</summary>
    public int Far { get; private set; }

    /// <summary>What would have fitted there: words as they are, blanks in words.</summary>
    public IReadOnlyList<(string Text, bool Literal)> Wanted => wanted;

    /// <summary>The fault of a condition that stands furthest to the right; null for none.</summary>
    public LineFault? Inner => inner;

    public IReadOnlyList<Token> Tokens => tokens;

    /// <summary>True to look for what may follow even where the line could end.</summary>
    public bool Completing { get; init; }

    /// <summary>The line as a sentence; null when it is none.</summary>
    public SceneLine? Read(IEnumerable<SceneForm> forms)
    {
        foreach (var form in forms)
        {
            values.Clear();
            options.Clear();
            when = new();
            SceneLine? made = null;
            if (
                Seq(
                    form.Body,
                    0,
                    0,
                    at =>
                        Tail(
                            form,
                            at,
                            end =>
                            {
                                if (tokens[end].Kind != TokenKind.End)
                                    return Want(end, "the end of the line", false);
                                if (Completing)
                                    return false;
                                made = new([], form.Key, new Dictionary<string, object>(values), new HashSet<int>(options), when)
                                {
                                    Line = line,
                                };
                                return true;
                            }
                        )
                )
            )
                return made;
        }
        return null;
    }

    private bool Want(int at, string what, bool literal)
    {
        if (at < Far)
            return false;
        if (at > Far)
        {
            Far = at;
            wanted.Clear();
        }
        if (!wanted.Contains((what, literal)))
            wanted.Add((what, literal));
        return false;
    }

    private bool Seq(Part[] parts, int i, int at, Func<int, bool> then)
    {
        if (++tries > MostTries)
            return false;
        if (i == parts.Length)
            return then(at);
        switch (parts[i])
        {
            case Part.Word w:
                return tokens[at].Kind is TokenKind.Word or TokenKind.Symbol && tokens[at].Text == w.Text
                    ? Seq(parts, i + 1, at + 1, then)
                    : Want(at, w.Text, true);
            case Part.Slot s:
                return Slot(s, at, end => Seq(parts, i + 1, end, then));
            case Part.Maybe m:
                options.Add(m.Index);
                if (Seq(m.Parts, 0, at, end => Seq(parts, i + 1, end, then)))
                    return true;
                options.Remove(m.Index);
                return Seq(parts, i + 1, at, then);
            case Part.Either e:
                for (var way = 0; way < e.Ways.Length; way++)
                {
                    options.Add(e.Index + way);
                    if (Seq(e.Ways[way], 0, at, end => Seq(parts, i + 1, end, then)))
                        return true;
                    options.Remove(e.Index + way);
                }
                return false;
            default:
                throw new InvalidOperationException($"Nothing reads {parts[i].GetType().Name}.");
        }
    }

    // What may come in any order: optional parts, and when it happens.
    private bool Tail(SceneForm form, int at, Func<int, bool> then)
    {
        if (then(at))
            return true;
        foreach (var part in form.Tail.OfType<Part.Maybe>())
        {
            if (options.Contains(part.Index))
                continue;
            options.Add(part.Index);
            if (Seq(part.Parts, 0, at, end => end > at && Tail(form, end, then)))
                return true;
            options.Remove(part.Index);
        }
        return Clauses(form, at, then);
    }

    private bool Clauses(SceneForm form, int at, Func<int, bool> then)
    {
        var was = when;
        bool Time(string word, bool free, Func<SceneWhen, SceneNumber, SceneWhen> set) =>
            free && Words(word, at) is >= 0 and var from && Number("dur", from, (n, end) => Try(set(was, n), end));
        bool Try(SceneWhen next, int end)
        {
            when = next;
            if (Tail(form, end, then))
                return true;
            when = was;
            return false;
        }
        bool Condition(int from, Func<ExprNode, SceneWhen> set) => Cond(from, (node, end) => Try(set(node), end));
        if (SceneForms.Timed(form))
        {
            if (Time("at", !was.Starts, (w, n) => w with { At = n }))
                return true;
            if (Time("from", !was.Starts, (w, n) => w with { From = n }))
                return true;
            if (Time("every", !was.Starts || was.At is null && was.Every is null, (w, n) => w with { Every = n }))
                return true;
            if (Time("for", was.For is null, (w, n) => w with { For = n }))
                return true;
            if (!was.Starts && Words("when", at) is >= 0 and var c && Condition(c, n => was with { When = n }))
                return true;
            if (
                !was.Starts
                && Number(
                    "dur",
                    at,
                    (n, end) => Words("after", end) is >= 0 and var a && Condition(a, x => was with { Later = n, After = x })
                )
            )
                return true;
            if (!was.Starts && Words("after", at) is >= 0 and var b && Condition(b, x => was with { After = x }))
                return true;
            if (was.Until is null && Words("until", at) is >= 0 and var u)
            {
                if (
                    Number(
                        "dur",
                        u,
                        (n, end) => Words("after", end) is >= 0 and var a && Condition(a, x => was with { UntilLater = n, Until = x })
                    )
                )
                    return true;
                if (Condition(u, x => was with { Until = x }))
                    return true;
            }
            if (!was.EachTime && Words("each time", at) is >= 0 and var e && Try(was with { EachTime = true }, e))
                return true;
        }
        if (was.In is null && form.Group is not ("head" or "rules"))
        {
            if (
                !was.Measured
                && Words(",", at) is >= 0 and var said
                && Words("measured", said) is >= 0 and var marked
                && Try(was with { Measured = true }, marked)
            )
                return true;
            var comma = Words(",", at) is >= 0 and var k ? k : at;
            if (
                Words("in", comma) is >= 0 and var from
                && Whole(from) is { } few
                && Words("of", from + 1) is >= 0 and var of
                && Whole(of) is { } many
                && Words("runs", of + 1) is >= 0 and var runs
            )
                return Try(was with { In = few, Of = many }, runs);
        }
        return false;
    }

    // A condition as programs have them, up to where it can go no further.
    private bool Cond(int at, Func<ExprNode, int, bool> then)
    {
        if (tokens[at].Kind == TokenKind.End)
            return Want(at, SceneUnits.Say("cond"), false);
        var start = tokens[at].Start;
        var reader = new LineParser(text[start..], line, names.Rig, names.Own);
        try
        {
            var node = reader.WorldCondition();
            return then(node, at + reader.Mark);
        }
        catch (LineFault fault)
        {
            Deep(fault, start, at);
            return false;
        }
    }

    private void Deep(LineFault fault, int start, int at)
    {
        var d = fault.At(line);
        if (inner is null || d.Column + start >= inner.At(line).Column)
            inner = new(d.Column + start, d.Length, d.Found, d.Expected, d.Message, d.Suggestion);
        Want(at, SceneUnits.Say("cond"), false);
    }

    private int Words(string words, int at)
    {
        foreach (var word in words.Split(' '))
        {
            if (tokens[at].Kind is not (TokenKind.Word or TokenKind.Symbol) || tokens[at].Text != word)
            {
                Want(at, word, true);
                return -1;
            }
            at++;
        }
        return at;
    }

    private Figure? Whole(int at)
    {
        if (tokens[at].Kind == TokenKind.Number && int.TryParse(tokens[at].Text, NumberStyles.None, CultureInfo.InvariantCulture, out _))
            return new(tokens[at].Text, "");
        Want(at, SceneUnits.Say("count"), false);
        return null;
    }

    private bool Set(string slot, object value, int end, Func<int, bool> then)
    {
        values[slot] = value;
        if (then(end))
            return true;
        values.Remove(slot);
        return false;
    }

    private bool Slot(Part.Slot s, int at, Func<int, bool> then)
    {
        switch (s.Kind)
        {
            case SlotKind.Number:
                return Number(s.What, at, (n, end) => Set(s.Name, n, end, then));
            case SlotKind.Plain:
                return Figure(s.What, at, (f, end) => Set(s.Name, new SceneNumber(f), end, then));
            case SlotKind.Count:
                return Whole(at) is { } whole && Set(s.Name, new SceneNumber(whole), at + 1, then);
            case SlotKind.Point:
                return Point(at) is { } p && Set(s.Name, p.Point, p.End, then);
            case SlotKind.Path:
                return Path(s.Name, at, then);
            case SlotKind.Numbers:
                return Several(s, at, [], then);
            case SlotKind.Condition:
                return Cond(at, (node, end) => Set(s.Name, node, end, then));
            case SlotKind.Rule:
                return Rule(s.Name, at, then);
            case SlotKind.Pairs:
                return Pairs(s.Name, at, [], then);
            case SlotKind.Names:
                return Names(s.Name, at, [], then);
            default:
                return Name(s.What, at, (name, end) => Set(s.Name, name, end, then));
        }
    }

    private bool Rule(string slot, int at, Func<int, bool> then)
    {
        if (tokens[at].Kind == TokenKind.End)
            return Want(at, SceneUnits.Say("rule"), false);
        var start = tokens[at].Start;
        var reader = new LineParser(text[start..], line, names.Rig with { Places = [] }, names.Own);
        try
        {
            var rule = reader.Condition(tokens[0].Text == "goal");
            return Set(slot, rule, at + reader.Mark, then);
        }
        catch (LineFault fault)
        {
            Deep(fault, start, at);
            return false;
        }
    }

    // A name, the longest known one first, then words one after the other.
    private bool Name(string what, int at, Func<string, int, bool> then)
    {
        Want(at, SceneUnits.Say(what), false);
        if (tokens[at].Kind == TokenKind.Quoted)
            return RigNames.IsName(tokens[at].Text) && then(tokens[at].Text, at + 1);
        // A word that joins begins no name: “strip of line” has none.
        if (tokens[at].Kind == TokenKind.Word && Joins.Contains(tokens[at].Text))
            return false;
        var last = at;
        while (tokens[last].Kind is TokenKind.Word or TokenKind.Number)
            last++;
        var known = 0;
        foreach (var name in names.Of(what, null))
        {
            var words = name.Split(' ');
            if (words.Length <= known || at + words.Length > last)
                continue;
            var same = true;
            for (var i = 0; i < words.Length && same; i++)
                same = tokens[at + i].Text == words[i];
            if (same)
                known = words.Length;
        }
        if (known > 0 && then(string.Join(' ', Enumerable.Range(at, known).Select(i => tokens[i].Text)), at + known))
            return true;
        for (var end = at + 1; end <= last && end - at <= 8; end++)
        {
            if (end - at == known)
                continue;
            var name = string.Join(' ', Enumerable.Range(at, end - at).Select(i => tokens[i].Text));
            if ((RigNames.IsName(name) || IsOfGuest(name)) && then(name, end))
                return true;
        }
        return false;
    }

    // What a guest has: “Other's Button”.
    private static bool IsOfGuest(string name) =>
        name.IndexOf("'s ", StringComparison.Ordinal) is > 0 and var at && RigNames.IsName(name[..at]) && RigNames.IsName(name[(at + 3)..]);

    private static readonly HashSet<string> Joins = ["of", "at", "on", "in", "from", "to", "by", "is", "between"];

    private bool Figure(string what, int at, Func<Figure, int, bool> then)
    {
        var sign = tokens[at] is { Kind: TokenKind.Symbol, Text: "-" or "−" } ? 1 : 0;
        if (tokens[at + sign].Kind != TokenKind.Number || tokens[at + sign].Text.Length > 9)
            return Want(at, SceneUnits.Say(what), false);
        var digits = (sign > 0 ? "-" : "") + tokens[at + sign].Text;
        var end = at + sign + 1;
        foreach (var unit in SceneUnits.All(what))
            if (UnitAt(unit, end) is > 0 and var length && then(new(digits, unit), end + length))
                return true;
        return then(new(digits, ""), end);
    }

    private int UnitAt(string unit, int at)
    {
        var parts = unit.Replace("/", " / ", StringComparison.Ordinal).Split(' ');
        for (var i = 0; i < parts.Length; i++)
            if (
                at + i >= tokens.Count
                || tokens[at + i].Kind is not (TokenKind.Word or TokenKind.Symbol)
                || tokens[at + i].Text != parts[i]
            )
                return 0;
        return parts.Length;
    }

    private bool Number(string what, int at, Func<SceneNumber, int, bool> then)
    {
        if (tokens[at] is { Kind: TokenKind.Word, Text: "between" })
            return Figure(
                what,
                at + 1,
                (low, middle) =>
                    Words("and", middle) is >= 0 and var next && Figure(what, next, (high, end) => then(new(low, null, high), end))
            );
        return Figure(
            what,
            at,
            (of, end) =>
                Words("give or take", end) is >= 0 and var spread && Figure(what, spread, (sd, last) => then(new(of, sd), last))
                || then(new(of), end)
        );
    }

    private (ScenePoint Point, int End)? Point(int at)
    {
        if (tokens[at].Text != "(")
        {
            Want(at, SceneUnits.Say("pt"), false);
            return null;
        }
        (ScenePoint, int)? made = null;
        Number(
            "len",
            at + 1,
            (x, middle) =>
                Words(",", middle) is >= 0 and var next
                && Number(
                    "len",
                    next,
                    (y, end) =>
                    {
                        if (Words(")", end) is not (>= 0 and var last))
                            return false;
                        made = (new(x, y), last);
                        if (Words("give or take", last) is >= 0 and var spread)
                            Figure(
                                "len",
                                spread,
                                (sd, after) =>
                                {
                                    made = (new(x, y, sd), after);
                                    return true;
                                }
                            );
                        return true;
                    }
                )
        );
        return made;
    }

    private bool Path(string slot, int at, Func<int, bool> then)
    {
        if (Words("from", at) is not (>= 0 and var first) || Point(first) is not { } start)
            return false;
        var list = new List<ScenePoint> { start.Point };
        var end = start.End;
        while (tokens[end].Text == "to" && Point(end + 1) is { } next)
        {
            list.Add(next.Point);
            end = next.End;
        }
        if (list.Count < 2)
            return Want(end, "to", true);
        Want(end, "to", true);
        return Set(slot, list, end, then);
    }

    private bool Several(Part.Slot s, int at, List<SceneNumber> so, Func<int, bool> then) =>
        Number(
            s.What,
            at,
            (f, end) =>
            {
                List<SceneNumber> list = [.. so, f];
                if (
                    (Words("and", end) is >= 0 and var next || Words(",", end) is >= 0 and var next2 && (next = next2) > 0)
                    && Several(s, next, list, then)
                )
                    return true;
                return Set(s.Name, list, end, then);
            }
        );

    private bool Pairs(string slot, int at, List<ScenePair> so, Func<int, bool> then) =>
        Name(
            "pos",
            at,
            (from, middle) =>
                Words("to", middle) is >= 0 and var next
                && Name(
                    "place",
                    next,
                    (to, end) =>
                    {
                        List<ScenePair> list = [.. so, new(from, to)];
                        if (Words(",", end) is >= 0 and var more && Pairs(slot, more, list, then))
                            return true;
                        return Set(slot, list, end, then);
                    }
                )
        );

    private bool Names(string slot, int at, List<string> so, Func<int, bool> then) =>
        Name(
            "place",
            at,
            (name, end) =>
            {
                List<string> list = [.. so, name];
                var comma = tokens[end].Text == "," ? end + 1 : end;
                if (Words("then", comma) is >= 0 and var more && Names(slot, more, list, then))
                    return true;
                return Set(slot, list, end, then);
            }
        );
}
