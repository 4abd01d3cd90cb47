using System.Globalization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs;

internal enum TokenKind { Word, Number, Symbol, Text, Quoted, End }

internal readonly record struct Token(TokenKind Kind, string Text, int Start, int Length);

/// <summary>The names a line may use that the program itself declares.</summary>
internal sealed record Declared(IReadOnlyCollection<string> Variables, IReadOnlyCollection<string> States);

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
    private readonly List<Candidate> wanted = [];
    private int wantedAt = -1;
    private int at;

    public LineParser(string text, int line, Vocabulary rig, Declared own)
    {
        this.line = line;
        this.rig = rig;
        this.own = own;
        tokens = Read(text);
    }

    public IReadOnlyList<Candidate> WantedAtEnd => wantedAt == tokens.Count - 1 ? wanted : [];

    private Token Now => tokens[at];

    public bool AtEnd => Now.Kind == TokenKind.End;

    private static List<Token> Read(string text)
    {
        var list = new List<Token>();
        var i = 0;
        while (i < text.Length)
        {
            var c = text[i];
            if (char.IsWhiteSpace(c)) { i++; continue; }
            var start = i;
            if (char.IsLetter(c))
            {
                while (i < text.Length && char.IsLetterOrDigit(text[i])) i++;
                list.Add(new(TokenKind.Word, text[start..i], start, i - start));
            }
            else if (char.IsAsciiDigit(c))
            {
                while (i < text.Length && char.IsAsciiDigit(text[i])) i++;
                if (i + 1 < text.Length && text[i] == '.' && char.IsAsciiDigit(text[i + 1]))
                {
                    i++;
                    while (i < text.Length && char.IsAsciiDigit(text[i])) i++;
                }
                list.Add(new(TokenKind.Number, text[start..i], start, i - start));
            }
            else if (c is '"' or '\'')
            {
                var end = text.IndexOf(c, i + 1);
                if (end < 0) throw new LineFault(start + 1, text.Length - start, text[start..], $"a closing {c}", $"The {c} that opens here is never closed.", null);
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

    private void Want(string text, string kind)
    {
        if (wantedAt != at)
        {
            wanted.Clear();
            wantedAt = at;
        }
        var candidate = new Candidate(text, kind);
        if (!wanted.Contains(candidate)) wanted.Add(candidate);
    }

    /// <summary>Takes a keyword of one or more words, or a symbol, if it stands here.</summary>
    public bool Take(string keyword, string kind = "keyword")
    {
        Want(keyword, kind);
        var words = keyword.Split(' ');
        for (var i = 0; i < words.Length; i++)
        {
            var token = tokens[Math.Min(at + i, tokens.Count - 1)];
            if (token.Kind is not (TokenKind.Word or TokenKind.Symbol) || token.Text != words[i]) return false;
        }
        at += words.Length;
        return true;
    }

    private void Need(string keyword)
    {
        if (!Take(keyword)) throw Unfit();
    }

    /// <summary>Everything that would have fitted here, as a fault that says so.</summary>
    public LineFault Unfit(string? extra = null)
    {
        var token = Now;
        var found = token.Kind == TokenKind.End ? "the end of the line" : token.Text;
        var fit = wantedAt == at ? wanted : [];
        var words = fit.Where(w => w.Kind == "keyword").Select(w => w.Text).ToArray();
        var names = fit.Where(w => w.Kind != "keyword").GroupBy(w => w.Kind).Select(g => "a " + g.Key);
        var expected = Or([.. words.Take(8), .. names]);
        var near = token.Kind == TokenKind.Word ? NearMiss.Find(token.Text, words.SelectMany(w => w.Split(' ')[..1])) : null;
        var message = token.Kind == TokenKind.End ? $"The line ends where {expected} should follow." : $"Expected {expected} here, found “{found}”.";
        if (expected == "") message = $"“{found}” does not fit here.";
        if (extra is not null) message = extra;
        if (near is not null) message += $" Did you mean “{near}”?";
        return new(token.Start + 1, Math.Max(1, token.Length), found, expected, message, near);
    }

    internal static string Or(IReadOnlyList<string> items) => items.Count switch
    {
        0 => "",
        1 => items[0],
        _ => string.Join(", ", items.Take(items.Count - 1)) + " or " + items[^1],
    };

    private string? TryName(string kind, IEnumerable<string> names)
    {
        string? best = null;
        var bestTokens = 0;
        foreach (var name in names)
        {
            Want(name, kind);
            if (Now.Kind == TokenKind.Quoted)
            {
                if (Now.Text == name) (best, bestTokens) = (name, 1);
                continue;
            }
            var words = name.Split(' ');
            if (words.Length <= bestTokens || at + words.Length >= tokens.Count) continue;
            var fits = true;
            for (var i = 0; i < words.Length && fits; i++)
                fits = tokens[at + i].Kind is TokenKind.Word or TokenKind.Number && tokens[at + i].Text == words[i];
            if (fits) (best, bestTokens) = (name, words.Length);
        }
        at += bestTokens;
        return best;
    }

    /// <summary>A declared name of that kind, or a fault with the nearest one.</summary>
    private string Name(string kind, IReadOnlyCollection<string> names, string where = "")
    {
        if (TryName(kind, names) is { } name) return name;
        var start = at;
        if (Now.Kind is TokenKind.End or TokenKind.Symbol) throw Unfit(names.Count == 0 ? $"There is no {kind} to name here yet." : null);
        // What was meant as a name: the words up to something that cannot belong to one.
        var end = start;
        while (tokens[end].Kind is TokenKind.Word or TokenKind.Number or TokenKind.Quoted && end - start < 4) end++;
        (string Typed, int Length, string Near, int Edits)? best = null;
        for (var length = end - start; length >= 1; length--)
        {
            var typed = string.Join(' ', Enumerable.Range(start, length).Select(i => tokens[i].Text));
            if (NearMiss.Nearest(typed, names) is { } near && (best is null || near.Edits < best.Value.Edits)) best = (typed, length, near.Name, near.Edits);
        }
        if (best is { } b) throw Missing(kind, b.Typed, start, b.Length, where, b.Near);
        throw Missing(kind, tokens[start].Text, start, 1, where, null, names);
    }

    private LineFault Missing(string kind, string typed, int start, int length, string where, string? near, IReadOnlyCollection<string>? names = null)
    {
        var first = tokens[start];
        var last = tokens[start + length - 1];
        var message = $"No {kind} “{typed}”{where}";
        if (near is not null) message += $"; did you mean “{near}”?";
        else message += names is { Count: > 0 and <= 6 } ? $". There {(names.Count == 1 ? "is" : "are")} {Or([.. names]).Replace(" or ", " and ")}." : ".";
        return new(first.Start + 1, last.Start + last.Length - first.Start, typed, $"a {kind}", message, near);
    }

    public void End()
    {
        if (!AtEnd) throw Unfit();
    }

    public Span From(int start) => new(line, tokens[start].Start + 1, Math.Max(1, tokens[at == start ? at : at - 1] is var last ? last.Start + last.Length - tokens[start].Start : 1));

    public int Mark => at;

    /// <summary>A new name: words and digits up to a comma, an equals sign or the end.</summary>
    public string NewName(string what)
    {
        var start = at;
        if (Now.Kind == TokenKind.Quoted)
        {
            var quoted = Now.Text;
            if (!IsName(quoted)) throw new LineFault(Now.Start + 1, Now.Length, quoted, "a name", $"A name of a {what} has letters, digits and single spaces, and starts with a letter.", null);
            at++;
            return quoted;
        }
        while (Now.Kind is TokenKind.Word or TokenKind.Number) at++;
        var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
        if (IsName(name)) return name;
        at = start;
        throw new LineFault(Now.Start + 1, Math.Max(1, Now.Length), AtEnd ? "the end of the line" : Now.Text, "a name", $"Give the {what} a name here: letters, digits and single spaces, starting with a letter.", null);
    }

    public static bool IsName(string name) =>
        name.Length is > 0 and <= 60 && char.IsLetter(name[0]) && name.Split(' ').All(w => w.Length > 0 && w.All(char.IsLetterOrDigit)) &&
        // A word that starts with a digit must be a number, or it would read as two tokens.
        name.Split(' ').All(w => char.IsLetter(w[0]) || w.All(char.IsAsciiDigit));

    // ---- head ----

    public ExprNode VariableValue()
    {
        Need("=");
        return Expression();
    }

    public (ConditionKind, string?, ExprNode?) Condition(bool isGoal)
    {
        if (Take("stopped over"))
        {
            var place = Name("place", rig.Places);
            ExprNode? time = null;
            if (isGoal && Take("within")) time = Expression();
            return (ConditionKind.StoppedOver, place, time);
        }
        if (isGoal && Take("finished")) return (ConditionKind.Finished, null, Take("within") ? Expression() : null);
        if (!isGoal && Take("moving after")) return (ConditionKind.MovingAfter, null, Expression());
        throw Unfit();
    }

    // ---- triggers ----

    public TriggerNode When()
    {
        var start = at;
        if (TryName("sensor", rig.Sensors.Select(s => s.Name)) is { } sensor)
        {
            var relation = Take("is") ? ZoneRelation.Is : Take("becomes") ? ZoneRelation.Becomes : Take("leaves") ? ZoneRelation.Leaves : throw Unfit();
            var zone = Name("zone", rig.Sensors.First(s => s.Name == sensor).Zones.ToArray(), $" on {sensor}");
            string? readings = null;
            if (Take("for"))
            {
                var token = Now;
                Want("2", "number");
                if (token.Kind != TokenKind.Number) throw Unfit();
                if (!int.TryParse(token.Text, CultureInfo.InvariantCulture, out var n) || n is < 1 or > 100)
                    throw new LineFault(token.Start + 1, token.Length, token.Text, "a whole number from 1 to 100", $"“{token.Text}” readings: say a whole number from 1 to 100.", null);
                at++;
                if (!Take("readings") && !Take("reading")) throw Unfit();
                readings = token.Text;
            }
            return new ZoneTriggerNode(sensor, relation, zone, readings) { Span = From(start) };
        }
        if (Now.Kind == TokenKind.Word && tokens.Skip(at).TakeWhile(t => t.Kind != TokenKind.Symbol).Any(t => t.Text is "is" or "becomes" or "leaves"))
        {
            // It reads like a sensor sentence, so a wrong sensor name is the likelier fault than a wrong expression.
            Name("sensor", rig.Sensors.Select(s => s.Name).ToArray());
        }
        return new ConditionTriggerNode(Expression()) { Span = From(start) };
    }

    public TriggerNode After()
    {
        var start = at;
        return new AfterTriggerNode(Expression()) { Span = From(start) };
    }

    public (ExprNode? Guard, Sequence<ActionNode> Actions, string? Target, Span TargetSpan) RestOfTransition()
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
                End();
                return (guard, actions.ToSequence(), target, span);
            }
            if (Take("stay"))
            {
                End();
                return (guard, actions.ToSequence(), null, default);
            }
            actions.Add(Action());
            if (Take(";")) continue;
            if (AtEnd) return (guard, actions.ToSequence(), null, default);
            throw Unfit();
        }
    }

    public Sequence<ActionNode> Actions()
    {
        var actions = new List<ActionNode> { Action() };
        while (Take(";")) actions.Add(Action());
        if (!AtEnd) throw Unfit();
        return actions.ToSequence();
    }

    private ActionNode Action()
    {
        var start = at;
        ActionNode action;
        if (Take("set"))
        {
            var variable = Name("variable", own.Variables);
            Need("to");
            action = new SetNode(variable, Expression());
        }
        else if (Take("run"))
        {
            var motor = Name("motor", [.. rig.Named(ActuatorKind.PlainMotor)]);
            Need("at");
            action = new RunNode(motor, Expression());
        }
        else if (Take("stop"))
        {
            var motor = Name("motor", [.. rig.Named(ActuatorKind.PlainMotor)]);
            var mode = StopMode.Default;
            if (Take("and")) mode = Take("brake") ? StopMode.Brake : Take("coast") ? StopMode.Coast : throw Unfit();
            action = new StopNode(motor, mode);
        }
        else if (Take("turn"))
        {
            var lamp = Name("lamp", [.. rig.Named(ActuatorKind.Lamp)]);
            action = new LampNode(lamp, Take("on") || (Take("off") ? false : throw Unfit()));
        }
        else if (Take("tone"))
        {
            var frequency = Expression();
            Need("for");
            action = new ToneNode(frequency, Expression());
        }
        else if (Take("show"))
        {
            Want("\"…\"", "text");
            if (Now.Kind != TokenKind.Text) throw Unfit();
            action = new ShowNode(Now.Text);
            at++;
        }
        else throw Unfit();
        return action with { Span = From(start) };
    }

    // ---- expressions ----

    private int depth;

    public ExprNode Expression()
    {
        if (++depth > 50) throw Unfit("This expression is nested too deeply; use a variable.");
        var node = Or();
        depth--;
        return node;
    }

    private ExprNode Or() => Chain(And, ("or", Operator.Or));

    private ExprNode And() => Chain(Not, ("and", Operator.And));

    private ExprNode Not()
    {
        var start = at;
        // A declared name wins over the keyword.
        if (own.Variables.Contains("not") || !Take("not")) return Comparison();
        if (++depth > 50) throw Unfit("This expression is nested too deeply; use a variable.");
        var operand = Not();
        depth--;
        return new UnaryNode(true, operand) { Span = From(start) };
    }

    private ExprNode Comparison()
    {
        var start = at;
        var left = Sum();
        foreach (var (text, op) in Comparisons)
            if (Take(text, "operator")) return new BinaryNode(op, left, Sum()) { Span = From(start) };
        return left;
    }

    private static readonly (string, Operator)[] Comparisons =
        [("=", Operator.Equal), ("!=", Operator.NotEqual), ("<=", Operator.LessOrEqual), (">=", Operator.GreaterOrEqual), ("<", Operator.Less), (">", Operator.Greater)];

    private ExprNode Sum() => Chain(Product, ("+", Operator.Add), ("-", Operator.Subtract));

    private ExprNode Product() => Chain(Factor, ("*", Operator.Multiply), ("/", Operator.Divide));

    private ExprNode Chain(Func<ExprNode> operand, params (string Text, Operator Op)[] operators)
    {
        var start = at;
        var left = operand();
        var links = 0;
        while (true)
        {
            var taken = false;
            foreach (var (text, op) in operators)
                if (Take(text, "operator"))
                {
                    if (++links > 100) throw Unfit("This expression is too long; use a variable.");
                    left = new BinaryNode(op, left, operand()) { Span = From(start) };
                    taken = true;
                    break;
                }
            if (!taken) return left;
        }
    }

    private static readonly string[] Functions = ["min", "max", "abs", "round"];

    private ExprNode Factor()
    {
        var start = at;
        if (TryName("variable", own.Variables) is { } variable) return new VariableNode(variable) { Span = From(start) };
        if (Take("-", "operator"))
        {
            if (++depth > 50) throw Unfit("This expression is nested too deeply; use a variable.");
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
            if (!Take(function, "function")) continue;
            Need("(");
            var arguments = new List<ExprNode> { Expression() };
            while (Take(",")) arguments.Add(Expression());
            Need(")");
            var wantedCount = function is "min" or "max" ? 2 : 1;
            if (function is "min" or "max" ? arguments.Count < 2 : arguments.Count != 1)
                throw new LineFault(tokens[start].Start + 1, tokens[start].Length, function, "", $"“{function}” takes {(wantedCount == 2 ? "two numbers or more" : "one number")}.", null);
            return new CallNode(function, arguments.ToSequence()) { Span = From(start) };
        }
        Want("1", "number");
        if (Now.Kind != TokenKind.Number)
        {
            if (Now.Kind == TokenKind.Word && own.Variables.Count > 0) Name("variable", own.Variables);
            throw Unfit();
        }
        var digits = Now.Text;
        if (digits.Length > 15) throw new LineFault(Now.Start + 1, Now.Length, digits, "a number of at most 15 digits", "This number is too long: at most 15 digits.", null);
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
                if (at + 2 < tokens.Count && tokens[at].Text == parts[0] && tokens[at + 1].Text == "/" && tokens[at + 2].Text == parts[1] && tokens[at + 2].Kind == TokenKind.Word)
                {
                    at += 3;
                    return unit.Text;
                }
            }
            else if (Now.Kind is TokenKind.Word or TokenKind.Symbol && Take(unit.Text, "unit")) return unit.Text;
        }
        return "";
    }
}
