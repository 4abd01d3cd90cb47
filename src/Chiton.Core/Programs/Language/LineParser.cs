using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

internal enum TokenKind
{
    Word,
    Number,
    Symbol,
    Text,
    Quoted,
    End,
}

internal readonly record struct Token(TokenKind Kind, string Text, int Start, int Length);

/// <summary>Declared names, found by their first word: a program may have hundreds.</summary>
internal sealed class NameSet : IReadOnlyCollection<string>
{
    private readonly HashSet<string> names = [];
    private readonly Dictionary<string, List<string[]>> byFirst = [];

    public int Count => names.Count;

    public void Add(string name)
    {
        if (!names.Add(name))
            return;
        var words = name.Split(' ');
        if (!byFirst.TryGetValue(words[0], out var list))
            byFirst[words[0]] = list = [];
        list.Add(words);
    }

    public bool Contains(string name) => names.Contains(name);

    public IReadOnlyList<string[]> BeginningWith(string word) => byFirst.GetValueOrDefault(word, []);

    public IEnumerator<string> GetEnumerator() => names.GetEnumerator();

    System.Collections.IEnumerator System.Collections.IEnumerable.GetEnumerator() => names.GetEnumerator();
}

/// <summary>The names a line may use that the program itself declares.</summary>
internal sealed record Declared(NameSet Variables, NameSet States, NameSet Regions, NameSet Routines);

/// <summary>A word that would fit at some place of a line.</summary>
/// <param name="Text">The text to insert.</param>
/// <param name="Kind">keyword, sensor, zone, motor, lamp, state, variable, place, number or unit.</param>
public readonly record struct Candidate(string Text, string Kind);

/// <summary>Thrown inside a line parser and turned into a <see cref="Diagnostic"/> at once; never leaves the parser.</summary>
internal sealed class LineFault(int column, int length, string found, string expected, string message, string? suggestion) : Exception
{
    public Diagnostic At(int line) => new(line, column, length, found, expected, message, suggestion);
}

/// <summary>
/// Recursive descent over one line. Every test for a word notes what would have fitted, so that error messages and
/// completion come from the same grammar.
/// </summary>
internal sealed class LineParser
{
    private readonly List<Token> tokens;
    private readonly Vocabulary rig;
    private readonly Declared own;
    private readonly int line;

    // What would have fitted, by place: the parser looks ahead and comes back, and every place keeps its own.
    // Only a line with a fault, or one that is to be completed, is read with this on: noting costs more than reading.
    private readonly Dictionary<int, List<(string? Word, IEnumerable<string>? Names, string Kind)>>? wanted;
    private int at;

    public LineParser(string text, int line, Vocabulary rig, Declared own, bool noting = true)
    {
        if (noting)
            wanted = [];
        this.line = line;
        this.rig = rig;
        this.own = own;
        tokens = Read(text);
    }

    public IReadOnlyList<Candidate> WantedAtEnd => Wanted(tokens.Count - 1);

    private List<Candidate> Wanted(int place) =>
        [
            .. (wanted?.GetValueOrDefault(place, []) ?? [])
                .SelectMany(w => w.Word is not null ? [new Candidate(w.Word, w.Kind)] : w.Names!.Select(n => new Candidate(n, w.Kind)))
                .Distinct(),
        ];

    private Token Now => tokens[at];

    public bool AtEnd => Now.Kind == TokenKind.End;

    /// <summary>The names between brackets after a routine's name.</summary>
    public Sequence<string> Parameters()
    {
        var names = new List<string>();
        if (!Take("(") || Take(")"))
            return names.ToSequence();
        do names.Add(NewName("parameter"));
        while (Take(","));
        Need(")");
        return names.ToSequence();
    }

    /// <summary>Where a history goes while it remembers nothing.</summary>
    public (string Target, Span Span) HistoryTarget()
    {
        Need(":");
        Need("go");
        var start = at;
        return (Name("state", own.States), From(start));
    }

    private static List<Token> Read(string text)
    {
        var list = new List<Token>();
        var i = 0;
        while (i < text.Length)
        {
            var c = text[i];
            if (char.IsWhiteSpace(c))
            {
                i++;
                continue;
            }
            var start = i;
            if (char.IsLetter(c))
            {
                while (i < text.Length && char.IsLetterOrDigit(text[i]))
                    i++;
                list.Add(new(TokenKind.Word, text[start..i], start, i - start));
            }
            else if (char.IsAsciiDigit(c))
            {
                while (i < text.Length && char.IsAsciiDigit(text[i]))
                    i++;
                if (i + 1 < text.Length && text[i] == '.' && char.IsAsciiDigit(text[i + 1]))
                {
                    i++;
                    while (i < text.Length && char.IsAsciiDigit(text[i]))
                        i++;
                }
                list.Add(new(TokenKind.Number, text[start..i], start, i - start));
            }
            else if (c is '"' or '\'')
            {
                var end = text.IndexOf(c, i + 1);
                if (end < 0)
                    throw new LineFault(
                        start + 1,
                        text.Length - start,
                        text[start..],
                        $"a closing {c}",
                        $"The {c} that opens here is never closed.",
                        null
                    );
                i = end + 1;
                list.Add(new(c == '"' ? TokenKind.Text : TokenKind.Quoted, text[(start + 1)..end], start, i - start));
            }
            else
            {
                var two = i + 1 < text.Length ? text.Substring(i, 2) : "";
                var length = two is "<=" or ">=" or "!=" ? 2 : 1;
                i += length;
                list.Add(new(TokenKind.Symbol, text.Substring(start, length), start, length));
            }
        }
        list.Add(new(TokenKind.End, "", text.TrimEnd().Length, 0));
        return list;
    }

    /// <summary>True when a name stands in a text, as whole words.</summary>
    internal static bool Holds(string text, string name) => Renamed(text, name, name + " ", []) != text;

    /// <summary>A text in which a name, where it stands as whole words outside of quotes, is another; where a longer known name holds it,
    /// that one is left.</summary>
    internal static string Renamed(string text, string from, string to, IReadOnlyCollection<string> longer)
    {
        List<Token> tokens;
        try
        {
            tokens = Read(text);
        }
        catch (LineFault)
        {
            return text;
        }
        var made = new System.Text.StringBuilder();
        var done = 0;
        for (var i = 0; i < tokens.Count; )
        {
            int At(string name)
            {
                var words = name.Split(' ');
                if (tokens[i].Kind == TokenKind.Quoted)
                    return tokens[i].Text == name ? 1 : 0;
                for (var w = 0; w < words.Length; w++)
                    if (
                        i + w >= tokens.Count
                        || tokens[i + w].Kind is not (TokenKind.Word or TokenKind.Number)
                        || tokens[i + w].Text != words[w]
                    )
                        return 0;
                return words.Length;
            }
            var other = longer.Select(At).DefaultIfEmpty(0).Max();
            var own = At(from);
            if (own > 0 && other <= own)
            {
                var last = tokens[i + own - 1];
                var quote = tokens[i].Kind == TokenKind.Quoted ? "'" : "";
                made.Append(text, done, tokens[i].Start - done).Append(quote).Append(to).Append(quote);
                done = last.Start + last.Length;
            }
            i += Math.Max(1, Math.Max(own, other));
        }
        return made.Append(text, done, text.Length - done).ToString();
    }

    private void Want(string text, string kind)
    {
        if (wanted is null)
            return;
        if (!wanted.TryGetValue(at, out var here))
            wanted[at] = here = [];
        here.Add((text, null, kind));
    }

    /// <summary>Takes a keyword of one or more words, or a symbol, if it stands here.</summary>
    public bool Take(string keyword, string kind = "keyword")
    {
        Want(keyword, kind);
        // Word by word without cutting the keyword up: most attempts end at the first letter.
        var start = 0;
        for (var i = 0; ; i++)
        {
            var space = keyword.IndexOf(' ', start);
            var length = (space < 0 ? keyword.Length : space) - start;
            var token = tokens[Math.Min(at + i, tokens.Count - 1)];
            if (
                token.Kind is not (TokenKind.Word or TokenKind.Symbol)
                || token.Text.Length != length
                || string.CompareOrdinal(keyword, start, token.Text, 0, length) != 0
            )
                return false;
            if (space < 0)
            {
                at += i + 1;
                return true;
            }
            start = space + 1;
        }
    }

    private void Need(string keyword)
    {
        if (!Take(keyword))
            throw Unfit();
    }

    /// <summary>Everything that would have fitted here, as a fault that says so.</summary>
    public LineFault Unfit(string? extra = null)
    {
        var token = Now;
        var found = token.Kind == TokenKind.End ? "the end of the line" : token.Text;
        if (wanted is null)
            return new(token.Start + 1, Math.Max(1, token.Length), found, "", extra ?? $"“{found}” does not fit here.", null);
        var fit = Wanted(at);
        var words = fit.Where(w => w.Kind == "keyword").Select(w => w.Text).ToArray();
        var names = fit.Where(w => w.Kind != "keyword").GroupBy(w => w.Kind).Select(g => "a " + g.Key);
        var expected = Or([.. words.Take(8), .. names]);
        var near = token.Kind == TokenKind.Word ? NearMiss.Find(token.Text, words.SelectMany(w => w.Split(' ')[..1])) : null;
        var message =
            token.Kind == TokenKind.End ? $"The line ends where {expected} should follow." : $"Expected {expected} here, found “{found}”.";
        if (expected == "")
            message = $"“{found}” does not fit here.";
        if (extra is not null)
            message = extra;
        if (near is not null)
            message += $" Did you mean “{near}”?";
        return new(token.Start + 1, Math.Max(1, token.Length), found, expected, message, near);
    }

    internal static string Or(IReadOnlyList<string> items) =>
        items.Count switch
        {
            0 => "",
            1 => items[0],
            _ => string.Join(", ", items.Take(items.Count - 1)) + " or " + items[^1],
        };

    private string? TryName(string kind, IEnumerable<string> names)
    {
        string? best = null;
        var bestTokens = 0;
        if (wanted is not null)
        {
            if (!wanted.TryGetValue(at, out var here))
                wanted[at] = here = [];
            here.Add((null, names, kind));
        }
        if (Now.Kind == TokenKind.Quoted)
        {
            if (names.Contains(Now.Text))
                (best, bestTokens) = (Now.Text, 1);
        }
        else if (names is NameSet set)
        {
            foreach (var words in set.BeginningWith(Now.Text))
                Try(words);
        }
        else
            foreach (var name in names)
                if (name.StartsWith(Now.Text, StringComparison.Ordinal))
                    Try(name.Split(' '));
        void Try(string[] words)
        {
            if (words.Length <= bestTokens || at + words.Length >= tokens.Count)
                return;
            for (var i = 0; i < words.Length; i++)
                if (tokens[at + i].Kind is not (TokenKind.Word or TokenKind.Number) || tokens[at + i].Text != words[i])
                    return;
            (best, bestTokens) = (string.Join(' ', words), words.Length);
        }
        at += bestTokens;
        return best;
    }

    /// <summary>A declared name of that kind, or a fault with the nearest one.</summary>
    private string Name(string kind, IReadOnlyCollection<string> names, string where = "")
    {
        if (TryName(kind, names) is { } name)
            return name;
        if (wanted is null)
            throw Unfit(Now.Kind is TokenKind.End or TokenKind.Symbol ? null : $"No {kind} “{Now.Text}”{where}.");
        var start = at;
        if (Now.Kind is TokenKind.End or TokenKind.Symbol)
            throw Unfit(names.Count == 0 ? $"There is no {kind} to name here yet." : null);
        // What was meant as a name: the words up to something that cannot belong to one.
        var end = start;
        while (tokens[end].Kind is TokenKind.Word or TokenKind.Number or TokenKind.Quoted && end - start < 4)
            end++;
        (string Typed, int Length, string Near, int Edits)? best = null;
        for (var length = end - start; length >= 1; length--)
        {
            var typed = string.Join(' ', Enumerable.Range(start, length).Select(i => tokens[i].Text));
            if (NearMiss.Nearest(typed, names) is { } near && (best is null || near.Edits < best.Value.Edits))
                best = (typed, length, near.Name, near.Edits);
        }
        if (best is { } b)
            throw Missing(kind, b.Typed, start, b.Length, where, b.Near);
        throw Missing(kind, tokens[start].Text, start, 1, where, null, names);
    }

    private LineFault Missing(
        string kind,
        string typed,
        int start,
        int length,
        string where,
        string? near,
        IReadOnlyCollection<string>? names = null
    )
    {
        var first = tokens[start];
        var last = tokens[start + length - 1];
        var message = $"No {kind} “{typed}”{where}";
        if (near is not null)
            message += $"; did you mean “{near}”?";
        else
            message += names is { Count: > 0 and <= 6 }
                ? $". There {(names.Count == 1 ? "is" : "are")} {Or([.. names]).Replace(" or ", " and ")}."
                : ".";
        return new(first.Start + 1, last.Start + last.Length - first.Start, typed, $"a {kind}", message, near);
    }

    public void End()
    {
        if (!AtEnd)
            throw Unfit();
    }

    public Span From(int start) =>
        new(
            line,
            tokens[start].Start + 1,
            Math.Max(1, tokens[at == start ? at : at - 1] is var last ? last.Start + last.Length - tokens[start].Start : 1)
        );

    public int Mark => at;

    /// <summary>A new name: words and digits up to a comma, an equals sign or the end.</summary>
    public string NewName(string what)
    {
        var start = at;
        if (Now.Kind == TokenKind.Quoted)
        {
            var quoted = Now.Text;
            if (!IsName(quoted))
                throw new LineFault(
                    Now.Start + 1,
                    Now.Length,
                    quoted,
                    "a name",
                    $"A name of a {what} has letters, digits and single spaces, and starts with a letter.",
                    null
                );
            at++;
            return quoted;
        }
        while (Now.Kind is TokenKind.Word or TokenKind.Number)
            at++;
        var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
        if (IsName(name))
            return name;
        at = start;
        throw new LineFault(
            Now.Start + 1,
            Math.Max(1, Now.Length),
            AtEnd ? "the end of the line" : Now.Text,
            "a name",
            $"Give the {what} a name here: letters, digits and single spaces, starting with a letter.",
            null
        );
    }

    public static bool IsName(string name) => RigNames.IsName(name);

    // ---- head ----

    public ExprNode VariableValue()
    {
        Need("=");
        return Expression();
    }

    /// <summary>What a goal or a never says, without its comments.</summary>
    public RuleNode Condition(bool isGoal)
    {
        ExprNode? Within() => isGoal && Take("within") ? Sum() : null;
        if (Take("stopped over"))
        {
            var place = Name("place", rig.Places);
            return new([], isGoal, ConditionKind.StoppedOver, place, Within());
        }
        if (isGoal && Take("finished"))
            return new([], true, ConditionKind.Finished, null, Within());
        if (!isGoal && Take("moving after"))
            return new([], false, ConditionKind.MovingAfter, null, Sum());
        if (!isGoal && Take("robot over the edge"))
            return new([], false, ConditionKind.OverEdge, null, null);
        var start = at;
        if (TryName("mechanism", rig.Mechanisms.Select(m => m.Name)) is { } mechanism)
        {
            if (Take("past its"))
            {
                var end =
                    Take("top") ? "top"
                    : Take("bottom") ? "bottom"
                    : null;
                Need("stop");
                return new([], isGoal, ConditionKind.PastStop, end, null) { Subject = mechanism };
            }
            at = start;
        }
        if (rig.Loads.Count > 0 && TryName("load", rig.Loads) is { } load)
        {
            if (Take("on"))
                return new([], isGoal, ConditionKind.LoadOn, PlaceName(), Within()) { Subject = load };
            at = start;
        }
        return new([], isGoal, ConditionKind.Holds, null, null) { Holds = Expression(), Time = Within() };
    }

    // A place that the rig need not know, such as a shelf: words up to within or the end.
    private string PlaceName()
    {
        if (TryName("place", rig.Places) is { } known)
            return known;
        var start = at;
        while (Now.Kind is TokenKind.Word or TokenKind.Number && Now.Text != "within")
            at++;
        var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
        if (IsName(name))
            return name;
        at = start;
        throw Unfit("Say where: a name of letters, digits and single spaces.");
    }

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
        if (Take("not told for"))
            return new SilenceTriggerNode(Sum()) { Span = From(start) };
        if (TryName("sensor", rig.Sensors.Select(s => s.Name)) is { } sensor)
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
            ZoneRelation? relation =
                Take("is") ? ZoneRelation.Is
                : Take("becomes") ? ZoneRelation.Becomes
                : Take("leaves") ? ZoneRelation.Leaves
                : null;
            if (relation is { } how)
            {
                var zone = Name("zone", word.Zones.ToArray(), $" on {sensor}");
                var (readings, time) = For();
                return new ZoneTriggerNode(sensor, how, zone, readings) { For = time, Span = From(start) };
            }
            if (word.Reads is null)
                throw Unfit();
            // It is compared as a number.
            Want("<", "operator");
            if (Now.Kind != TokenKind.Symbol)
                throw Unfit();
            at = start;
        }
        else if (TryName("motor", rig.Commanded) is { } device)
        {
            if (Take("stalls"))
                return new StallTriggerNode(device) { Span = From(start) };
            Want("is done", "keyword");
            if (!Take("is done"))
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

    public Sequence<ActionNode> Actions()
    {
        var actions = List(false);
        if (!AtEnd)
            throw Unfit();
        return actions;
    }

    // Actions joined by semicolons; within a repeat of a transition they end where it goes on to its target.
    private Sequence<ActionNode> List(bool repeating)
    {
        var actions = new List<ActionNode> { Chained() };
        while (true)
        {
            var before = at;
            if (!Take(";"))
                break;
            if (repeating && (Peek("go") || Peek("stay")))
            {
                at = before;
                break;
            }
            actions.Add(Chained());
        }
        return actions.ToSequence();
    }

    private ActionNode Chained()
    {
        var start = at;
        var steps = new List<ActionNode> { Joined() };
        while (true)
        {
            var before = at;
            if (!Take(",") || !Take("then"))
            {
                at = before;
                break;
            }
            steps.Add(Joined());
        }
        return steps.Count == 1 ? steps[0] : new ThenNode(steps.ToSequence()) { Span = From(start) };
    }

    private ActionNode Joined()
    {
        var start = at;
        var parts = new List<ActionNode> { Single() };
        while (Take("and"))
            parts.Add(Single());
        return parts.Count == 1 ? parts[0] : new TogetherNode(parts.ToSequence()) { Span = From(start) };
    }

    private ActionNode Single()
    {
        if (++depth > 50)
            throw Unfit("This line is nested too deeply.");
        links = 0;
        var start = at;
        ActionNode made;
        if (Take("("))
        {
            var inner = List(false);
            Need(")");
            made = inner.Count == 1 ? inner[0] : new GroupNode(inner);
        }
        else
            made = Action();
        depth--;
        return made with { Span = From(start) };
    }

    private static readonly ActuatorKind[] Turning = [ActuatorKind.RegulatedMotor, ActuatorKind.PlainMotor, ActuatorKind.Stepper];

    private string[] Motors => [.. rig.Moved(Turning).Concat(rig.Named(Turning)).Distinct()];

    private static readonly string[] Verbs =
    [
        "set",
        "run",
        "stop",
        "turn",
        "tone",
        "show",
        "play",
        "drive",
        "steer",
        "follow",
        "send",
        "zero",
        "step",
        "blink",
        "tell",
        "push",
        "take",
        "do",
        "repeat",
    ];

    // An action begins here, so that “and” before it joins two actions and no conditions.
    private bool ActionHere =>
        Now.Kind == TokenKind.Word && Verbs.Contains(Now.Text) && !own.Variables.Any(v => v.Split(' ')[0] == Now.Text);

    private ActionNode Action()
    {
        if (Take("set"))
        {
            var start = at;
            string[] servos = [.. rig.Moved(ActuatorKind.Servo).Concat(rig.Named(ActuatorKind.Servo)).Distinct()];
            var servo = TryName("servo", servos);
            var afterServo = at;
            at = start;
            var variable = TryName("variable", own.Variables);
            // The longer of the two names is meant.
            if (servo is not null && (variable is null || servo.Length > variable.Length))
            {
                at = afterServo;
                Need("to");
                string[] positions = [.. rig.Mechanisms.FirstOrDefault(m => m.Name == servo)?.Positions ?? []];
                if (TryName("position", positions) is { } position)
                    return new SetServoNode(servo, null, position);
                return new SetServoNode(servo, Sum(), null);
            }
            if (variable is null)
            {
                at = start;
                Name(servos.Length > 0 && own.Variables.Count == 0 ? "servo" : "variable", [.. own.Variables, .. servos]);
            }
            Need("to");
            return new SetNode(variable!, Expression());
        }
        if (Take("run"))
        {
            var motor = Name("motor", Motors);
            string[] directions = [.. rig.Mechanisms.FirstOrDefault(m => m.Name == motor)?.Directions ?? [], "forward", "back"];
            var direction = TryName("direction", directions);
            var amount = Peek("at") || AtEnd ? null : Sum();
            Need("at");
            var speed = Sum();
            return new RunNode(motor, speed)
            {
                Direction = direction,
                Amount = amount,
                UpTo = Take("up to") ? Sum() : null,
            };
        }
        if (Take("stop everything"))
            return new StopAllNode();
        if (Take("stop"))
        {
            var motor = Name("motor", [.. Motors, .. rig.Commanded.Except(Motors)]);
            var mode = StopMode.Default;
            var before = at;
            if (Take("and"))
            {
                if (Take("brake"))
                    mode = StopMode.Brake;
                else if (Take("coast"))
                    mode = StopMode.Coast;
                else if (Take("hold"))
                    mode = StopMode.Hold;
                else if (ActionHere || Peek("("))
                    at = before;
                else
                    throw Unfit();
            }
            return new StopNode(motor, mode);
        }
        if (Take("turn robot"))
        {
            var left = Take("left") || (Take("right") ? false : throw Unfit());
            var angle = Sum();
            bool? pivoting =
                Take("spinning") ? false
                : Take("pivoting") ? true
                : null;
            Need("at");
            return new TurnRobotNode(left, angle, pivoting, Sum());
        }
        if (Take("turn"))
        {
            var lamp = Name("lamp", [.. rig.Named(ActuatorKind.Lamp, ActuatorKind.Display)]);
            return new LampNode(lamp, Take("on") || (Take("off") ? false : throw Unfit()));
        }
        if (Take("tone"))
        {
            var frequency = Sum();
            Need("for");
            return new ToneNode(frequency, Sum());
        }
        if (Take("show"))
        {
            Want("\"…\"", "text");
            if (Now.Kind == TokenKind.Text)
                return new ShowNode(tokens[at++].Text);
            return new ShowValueNode(Sum());
        }
        if (Take("play"))
            return new PlayNode(Text());
        if (Take("drive"))
        {
            var back = Take("back") || (Take("straight") ? false : throw Unfit());
            ExprNode? time = Take("for") ? Sum() : null;
            var distance = time is null && !Peek("at") ? Sum() : null;
            Need("at");
            return new DriveNode(back, distance, time, Sum());
        }
        if (Take("steer"))
        {
            var left = Sum();
            Need("and");
            return new SteerNode(left, Sum());
        }
        if (Take("follow"))
        {
            var eye = Name("sensor", [.. rig.Sensors.Where(s => s.Reads is not null).Select(s => s.Name)]);
            Need("at");
            var speed = Sum();
            Need("gain");
            var node = new FollowNode(eye, speed, Sum());
            if (!Take("to the"))
                return node;
            var left = Take("left") || (Take("right") ? false : throw Unfit());
            Need("edge of");
            return node with { LeftEdge = left, Zone = Name("zone", rig.Sensors.First(s => s.Name == eye).Zones.ToArray(), $" on {eye}") };
        }
        if (Take("send"))
        {
            var device = Name("mechanism", [.. rig.Mechanisms.Select(m => m.Name)]);
            if (Take("home"))
                return new SendNode(device, null, TurnWay.Default);
            Need("to");
            var position = Name("position", rig.Mechanisms.First(m => m.Name == device).Positions.ToArray(), $" of {device}");
            return new SendNode(
                device,
                position,
                Take("by the shortest way") ? TurnWay.Shortest
                    : Take("clockwise") ? TurnWay.Clockwise
                    : Take("counter - clockwise") ? TurnWay.CounterClockwise
                    : TurnWay.Default
            );
        }
        if (Take("zero"))
            return new ZeroNode(Name("motor", Motors));
        if (Take("step"))
        {
            var device = Name("stepper", [.. rig.Moved(ActuatorKind.Stepper).Concat(rig.Named(ActuatorKind.Stepper)).Distinct()]);
            var count = Sum();
            Need("at");
            return new StepNode(device, count, Sum());
        }
        if (Take("blink"))
        {
            var lamp = Name("lamp", [.. rig.Named(ActuatorKind.Lamp)]);
            var on = Sum();
            Need("on");
            var off = Sum();
            Need("off");
            Want("3", "number");
            var times = Now.Kind is TokenKind.Number or TokenKind.Word && !Peek("and") && !Peek("then") ? Sum() : null;
            if (times is not null)
                Need("times");
            return new BlinkNode(lamp, on, off, times);
        }
        if (Take("tell"))
        {
            var program = Name("program", [.. rig.Programs]);
            var text = Text();
            var with = new List<ExprNode>();
            if (Take("with"))
            {
                with.Add(Sum());
                while (!Peek(", then") && Take(","))
                    with.Add(Sum());
            }
            return new TellNode(program, text, with.ToSequence());
        }
        if (Take("push"))
        {
            var value = Sum();
            Need("onto");
            return new PushNode(value, Name("queue", own.Variables));
        }
        if (Take("take from"))
        {
            var queue = Name("queue", own.Variables);
            Need("into");
            return new TakeNode(queue, Name("variable", own.Variables));
        }
        if (Take("do"))
        {
            var routine = Name("routine", own.Routines);
            var arguments = new List<ExprNode>();
            if (Take("("))
            {
                if (!Take(")"))
                {
                    do arguments.Add(Expression());
                    while (Take(","));
                    Need(")");
                }
            }
            return new DoNode(routine, arguments.ToSequence());
        }
        if (Take("repeat"))
        {
            var times = Sum();
            Need("times :");
            return new RepeatNode(times, List(true));
        }
        throw Unfit();
    }

    // ---- expressions ----

    private int depth,
        links;

    // Each link stands one deeper in the tree than the one before: an expression, all its brackets together, may not become
    // a tree too deep to be gone through.
    private void Link()
    {
        if (++links > MostLinks)
            throw Unfit($"This expression is too long: at most {MostLinks} signs in it. Use a variable.");
    }

    private const int MostLinks = 300;

    public ExprNode Expression()
    {
        if (++depth > 50)
            throw Unfit("This expression is nested too deeply; use a variable.");
        var node = Or();
        depth--;
        return node;
    }

    private ExprNode Or() => Chain(And, ("or", Operator.Or));

    private ExprNode And()
    {
        var start = at;
        var left = Not();
        while (true)
        {
            var before = at;
            if (!Take("and", "operator"))
                return left;
            // Before a verb “and” joins two actions.
            if (ActionHere)
            {
                at = before;
                return left;
            }
            Link();
            left = new BinaryNode(Operator.And, left, Not()) { Span = From(start) };
        }
    }

    private ExprNode Not()
    {
        var start = at;
        // A declared name wins over the keyword.
        if (own.Variables.Contains("not") || !Take("not"))
            return Comparison();
        if (++depth > 50)
            throw Unfit("This expression is nested too deeply; use a variable.");
        var operand = Not();
        depth--;
        return new UnaryNode(true, operand) { Span = From(start) };
    }

    private ExprNode Comparison()
    {
        var start = at;
        var left = Sum();
        if (left is VariableNode queue && Take("holds"))
            return new HoldsNode(queue.Name, Sum()) { Span = From(start) };
        foreach (var (text, op) in Comparisons)
            if (Take(text, "operator"))
                return new BinaryNode(op, left, Sum()) { Span = From(start) };
        return left;
    }

    private static readonly (string, Operator)[] Comparisons =
    [
        ("=", Operator.Equal),
        ("!=", Operator.NotEqual),
        ("<=", Operator.LessOrEqual),
        (">=", Operator.GreaterOrEqual),
        ("<", Operator.Less),
        (">", Operator.Greater),
    ];

    private ExprNode Sum() => Chain(Product, ("+", Operator.Add), ("-", Operator.Subtract));

    private ExprNode Product() => Chain(Factor, ("*", Operator.Multiply), ("/", Operator.Divide));

    private ExprNode Chain(Func<ExprNode> operand, params (string Text, Operator Op)[] operators)
    {
        var start = at;
        var left = operand();
        while (true)
        {
            var taken = false;
            foreach (var (text, op) in operators)
                if (Take(text, "operator"))
                {
                    Link();
                    left = new BinaryNode(op, left, operand()) { Span = From(start) };
                    taken = true;
                    break;
                }
            if (!taken)
                return left;
        }
    }

    private static readonly string[] Functions = ["min", "max", "abs", "round"];

    // The longest declared name that stands here and makes sense as a value.
    private ExprNode? Longest()
    {
        var start = at;
        (ExprNode Node, int End)? best = null;
        void Try(ExprNode? node)
        {
            if (node is not null && (best is null || at > best.Value.End))
                best = (node, at);
            at = start;
        }
        Try(TryName("variable", own.Variables) is { } variable ? new VariableNode(variable) : null);
        Try(
            TryName("sensor", rig.Sensors.Where(s => s.Reads is not null).Select(s => s.Name)) is { } sensor
                ? new ReadingNode(sensor)
                : null
        );
        Try(TryName("zone", rig.Sensors.SelectMany(s => s.Zones).Distinct()) is { } zone ? new ZoneNode(zone) : null);
        Try(TryName("motor", rig.Commanded) is { } device && Take("is done") ? new DoneNode(device) : null);
        Try(
            own.Regions.Count > 0 && TryName("region", own.Regions) is { } region && Take("is in")
                ? new InStateNode(region, Name("state", own.States))
                : null
        );
        if (best is null)
            return null;
        at = best.Value.End;
        return best.Value.Node;
    }

    private ExprNode Factor()
    {
        var start = at;
        // No name and no word begins with a digit.
        if (Now.Kind == TokenKind.Number)
            return Number(start);
        if (Longest() is { } named)
            return named with { Span = From(start) };
        if (Now.Kind == TokenKind.Text)
            return new TextNode(tokens[at++].Text) { Span = From(start) };
        if (Take("yes", "value"))
            return new TruthNode(true) { Span = From(start) };
        if (Take("no zone", "value"))
            return new ZoneNode(null) { Span = From(start) };
        if (Take("no", "value"))
            return new TruthNode(false) { Span = From(start) };
        if (Take("all done", "condition"))
            return new DoneNode(null) { Span = From(start) };
        if (Take("queue", "value"))
            return new QueueNode { Span = From(start) };
        foreach (
            var (words, kind) in new[]
            {
                ("travel of", PropertyKind.Travel),
                ("angle of", PropertyKind.Angle),
                ("zone of", PropertyKind.Zone),
                ("length of", PropertyKind.Length),
            }
        )
        {
            if (!Take(words, "function"))
                continue;
            string[] of = kind switch
            {
                PropertyKind.Travel => [.. rig.Mechanisms.Where(m => m.Going != Going.Nowhere).Select(m => m.Name)],
                PropertyKind.Angle =>
                [
                    .. rig
                        .Mechanisms.Select(m => m.Name)
                        .Concat(rig.Actuators.Select(x => x.Name))
                        .Where(n =>
                            rig.MotorOf(n)
                                is ActuatorKind.RegulatedMotor
                                    or ActuatorKind.Stepper
                                    or ActuatorKind.Servo
                                    or ActuatorKind.PlainMotor
                        )
                        .Distinct(),
                ],
                PropertyKind.Zone => [.. rig.Sensors.Select(x => x.Name)],
                _ => [.. own.Variables],
            };
            return new PropertyNode(
                kind,
                Name(
                    kind switch
                    {
                        PropertyKind.Travel => "drive",
                        PropertyKind.Angle => "motor",
                        PropertyKind.Zone => "sensor",
                        _ => "queue",
                    },
                    of
                )
            )
            {
                Span = From(start),
            };
        }
        if (Take("random", "function"))
        {
            if (!Take("( between", "operator"))
                return new RandomNode(null, null) { Span = From(start) };
            var low = Sum();
            Need("and");
            var high = Sum();
            Need(")");
            return new RandomNode(low, high) { Span = From(start) };
        }
        if (Take("-", "operator"))
        {
            if (++depth > 50)
                throw Unfit("This expression is nested too deeply; use a variable.");
            var operand = Factor();
            depth--;
            return new UnaryNode(false, operand) { Span = From(start) };
        }
        if (Take("(", "operator"))
        {
            var inner = Expression();
            Need(")");
            return inner;
        }
        foreach (var function in Functions)
        {
            if (!Take(function, "function"))
                continue;
            Need("(");
            var arguments = new List<ExprNode> { Expression() };
            while (Take(","))
                arguments.Add(Expression());
            Need(")");
            var wantedCount = function is "min" or "max" ? 2 : 1;
            if (function is "min" or "max" ? arguments.Count < 2 : arguments.Count != 1)
                throw new LineFault(
                    tokens[start].Start + 1,
                    tokens[start].Length,
                    function,
                    "",
                    $"“{function}” takes {(wantedCount == 2 ? "two numbers or more" : "one number")}.",
                    null
                );
            return new CallNode(function, arguments.ToSequence()) { Span = From(start) };
        }
        Want("1", "number");
        if (Now.Kind != TokenKind.Number)
        {
            if (Now.Kind == TokenKind.Word && own.Variables.Count > 0)
                Name("variable", own.Variables);
            throw Unfit();
        }
        return Number(start);
    }

    private LiteralNode Number(int start)
    {
        var digits = Now.Text;
        if (digits.Length > 15)
            throw new LineFault(
                Now.Start + 1,
                Now.Length,
                digits,
                "a number of at most 15 digits",
                "This number is too long: at most 15 digits.",
                null
            );
        at++;
        var unit = UnitHere();
        return new LiteralNode(digits, unit) { Span = From(start) };
    }

    private string UnitHere()
    {
        foreach (var unit in Unit.All)
        {
            Want(unit.Text, "unit");
            if (unit.Text.Contains('/'))
            {
                var parts = unit.Text.Split('/');
                if (
                    at + 2 < tokens.Count
                    && tokens[at].Text == parts[0]
                    && tokens[at + 1].Text == "/"
                    && tokens[at + 2].Text == parts[1]
                    && tokens[at + 2].Kind == TokenKind.Word
                )
                {
                    at += 3;
                    return unit.Text;
                }
            }
            else if (Now.Kind is TokenKind.Word or TokenKind.Symbol && Take(unit.Text, "unit"))
                return unit.Text;
        }
        return "";
    }
}
