using System.Globalization;
using System.Text;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Scxml;

/// <summary>An expression of a document cannot be read.</summary>
public sealed class ScxmlSyntax(string say) : Exception(say);

/// <summary>An expression cannot be worked out now: a name nobody set, or values that do not go together.</summary>
public sealed class ScxmlEvaluation(string say) : Exception(say);

/// <summary>What expressions can see.</summary>
public interface IScxmlScope
{
    /// <summary>The value of a name.</summary>
    /// <exception cref="ScxmlEvaluation">When nobody declared it.</exception>
    object? Get(string name);

    /// <summary>True when a name is declared.</summary>
    bool Knows(string name);

    /// <summary>Sets a declared name.</summary>
    /// <exception cref="ScxmlEvaluation">When nobody declared it, or it may not be set.</exception>
    void Set(string name, object? value);

    /// <summary>Sets a name, declared or not: scripts make their names by setting them.</summary>
    /// <exception cref="ScxmlEvaluation">When it may not be set.</exception>
    void Declare(string name, object? value);

    /// <summary>True when a state is active.</summary>
    bool In(string state);

    /// <summary>Says that a text or list of so many characters or items is made.</summary>
    /// <exception cref="ScxmlEvaluation">When it is larger than one may be.</exception>
    /// <exception cref="Statecharts.OutOfSteps">When more was made than a machine may make.</exception>
    void Makes(int size);
}

/// <summary>A read expression.</summary>
/// <param name="scope">What it can see.</param>
/// <returns>A number, a text, yes or no, a list, a table, or null.</returns>
public delegate object? ScxmlExpression(IScxmlScope scope);

/// <summary>
/// The expressions of SCXML documents: those of our own language without units, and the comparisons, sums and
/// assignments that such documents are usually written with. Nothing else runs: there is no script engine behind it.
/// </summary>
public sealed partial class ScxmlExpressions
{
    /// <summary>Most characters of a text, and most items of a list.</summary>
    public const int MostSize = 100_000;

    private const int MostDepth = 60;
    private readonly string text;
    private int at,
        depth;

    private ScxmlExpressions(string text) => this.text = text;

    /// <summary>Reads an expression.</summary>
    /// <exception cref="ScxmlSyntax">When it cannot be read.</exception>
    public static ScxmlExpression Read(string text)
    {
        if (text.Length > 2000)
            throw new ScxmlSyntax("An expression has at most 2000 characters.");
        var p = new ScxmlExpressions(text);
        var e = p.Choice();
        p.Blank();
        if (p.at < text.Length)
            throw p.Unfit();
        return e;
    }

    /// <summary>Reads simple statements: assignments, each ended by a semicolon or a line.</summary>
    /// <exception cref="ScxmlSyntax">When something else stands there.</exception>
    public static Action<IScxmlScope> ReadStatements(string text)
    {
        if (text.Length > 20_000)
            throw new ScxmlSyntax("At most 20 000 characters.");
        var p = new ScxmlExpressions(text);
        var steps = new List<Action<IScxmlScope>>();
        while (true)
        {
            p.Blank();
            while (p.Symbol(";"))
                p.Blank();
            if (p.at >= text.Length)
                break;
            steps.Add(p.Statement());
        }
        return scope =>
        {
            foreach (var step in steps)
                step(scope);
        };
    }

    /// <summary>Reads where something is put: a name, or a part of one.</summary>
    /// <exception cref="ScxmlSyntax">When it is neither.</exception>
    public static Action<IScxmlScope, object?> ReadLocation(string text)
    {
        var p = new ScxmlExpressions(text);
        var put = p.Location(out _);
        p.Blank();
        if (p.at < text.Length)
            throw p.Unfit();
        return put;
    }

    private Action<IScxmlScope> Statement()
    {
        Word("var");
        Blank();
        var start = at;
        var put = Location(out var get);
        var end = at;
        Blank();
        // A name alone need not be declared before a script sets it.
        if (text[start..end].Trim() is var name && name.All(IsPart))
            put = (s, v) => s.Declare(name, v);
        if (Peek() is ';' or '\0')
            return s => put(s, s.Knows(text[start..end].Trim()) ? get(s) : null);
        if (Symbol("++"))
            return s => put(s, Add(s, get(s), 1.0));
        if (Symbol("--"))
            return s => put(s, Number(get(s)) - 1);
        foreach (
            var (symbol, op) in new (string, Func<IScxmlScope, object?, object?, object?>)[]
            {
                ("+=", Add),
                ("-=", (_, a, b) => Number(a) - Number(b)),
                ("*=", (_, a, b) => Number(a) * Number(b)),
                ("/=", (_, a, b) => Number(a) / Number(b)),
                ("%=", (_, a, b) => Number(a) % Number(b)),
                ("**=", (_, a, b) => Math.Pow(Number(a), Number(b))),
            }
        )
            if (Symbol(symbol))
            {
                var by = Choice();
                return s => put(s, op(s, get(s), by(s)));
            }
        if (!Symbol("="))
            throw Unfit();
        var value = Choice();
        return s => put(s, value(s));
    }

    private Action<IScxmlScope, object?> Location(out ScxmlExpression get)
    {
        Blank();
        var name = Name() ?? throw Unfit();
        var path = new List<ScxmlExpression>();
        while (true)
        {
            Blank();
            if (Symbol("."))
            {
                var field = Name() ?? throw Unfit();
                path.Add(_ => field);
            }
            else if (Symbol("["))
            {
                path.Add(Choice());
                if (!Symbol("]"))
                    throw Unfit();
            }
            else
                break;
        }
        get = s => path.Aggregate(s.Get(name), (v, k) => Part(v, k(s)));
        if (path.Count == 0)
            return (s, v) => s.Set(name, v);
        return (s, v) =>
        {
            var holder = path.SkipLast(1).Aggregate(s.Get(name), (x, k) => Part(x, k(s)));
            var key = path[^1](s);
            if (holder is Dictionary<string, object?> table)
                table[Text(key)] = v;
            else if (holder is List<object?> list && Number(key) is var i && i >= 0 && i < MostSize && Math.Floor(i) == i)
            {
                if (i >= list.Count)
                    s.Makes((int)i + 1);
                while (list.Count <= (int)i)
                    list.Add(null);
                list[(int)i] = v;
            }
            else
                throw new ScxmlEvaluation($"“{name}” has no such part.");
        };
    }

    // ---- the grammar, weakest binding first ----

    private ScxmlExpression Choice()
    {
        if (++depth > MostDepth)
            throw new ScxmlSyntax("This expression is nested too deeply.");
        var test = Or();
        if (Symbol("?"))
        {
            var yes = Choice();
            if (!Symbol(":"))
                throw Unfit();
            var no = Choice();
            var condition = test;
            test = s => Truth(condition(s)) ? yes(s) : no(s);
        }
        depth--;
        return test;
    }

    private ScxmlExpression Or()
    {
        var left = And();
        while (Symbol("||") || Word("or"))
        {
            var (a, b) = (left, And());
            left = s => a(s) is var v && Truth(v) ? v : b(s);
        }
        return left;
    }

    private ScxmlExpression And()
    {
        var left = Equality();
        while (Symbol("&&") || Word("and"))
        {
            var (a, b) = (left, Equality());
            left = s => a(s) is var v && !Truth(v) ? v : b(s);
        }
        return left;
    }

    private ScxmlExpression Equality()
    {
        var left = Relation();
        while (true)
        {
            var a = left;
            if (Symbol("==="))
            {
                var b = Relation();
                left = s => Same(a(s), b(s));
            }
            else if (Symbol("!=="))
            {
                var b = Relation();
                left = s => !Same(a(s), b(s));
            }
            else if (Symbol("=="))
            {
                var b = Relation();
                left = s => Alike(a(s), b(s));
            }
            else if (Symbol("!="))
            {
                var b = Relation();
                left = s => !Alike(a(s), b(s));
            }
            else if (Peek() == '=' && Symbol("="))
            {
                var b = Relation();
                left = s => Alike(a(s), b(s));
            }
            else
                return left;
        }
    }

    private ScxmlExpression Relation()
    {
        var left = Sum();
        while (true)
        {
            var a = left;
            if (Symbol("<="))
            {
                var b = Sum();
                left = s => Order(a(s), b(s)) is { } c && c <= 0;
            }
            else if (Symbol(">="))
            {
                var b = Sum();
                left = s => Order(a(s), b(s)) is { } c && c >= 0;
            }
            else if (Symbol("<"))
            {
                var b = Sum();
                left = s => Order(a(s), b(s)) is { } c && c < 0;
            }
            else if (Symbol(">"))
            {
                var b = Sum();
                left = s => Order(a(s), b(s)) is { } c && c > 0;
            }
            else
                return left;
        }
    }

    private ScxmlExpression Sum()
    {
        var left = Product();
        while (true)
        {
            var a = left;
            if (Symbol("+"))
            {
                var b = Product();
                left = s => Add(s, a(s), b(s));
            }
            else if (Symbol("-"))
            {
                var b = Product();
                left = s => Number(a(s)) - Number(b(s));
            }
            else
                return left;
        }
    }

    private ScxmlExpression Product()
    {
        var left = Unary();
        while (true)
        {
            var a = left;
            if (Symbol("*"))
            {
                var b = Unary();
                left = s => Number(a(s)) * Number(b(s));
            }
            else if (Symbol("/"))
            {
                var b = Unary();
                left = s => Number(a(s)) / Number(b(s));
            }
            else if (Symbol("%"))
            {
                var b = Unary();
                left = s => Number(a(s)) % Number(b(s));
            }
            else
                return left;
        }
    }

    private ScxmlExpression Unary()
    {
        if (++depth > MostDepth)
            throw new ScxmlSyntax("This expression is nested too deeply.");
        ScxmlExpression made;
        if (Word("typeof"))
        {
            Blank();
            var start = at;
            var name = Name();
            at = start;
            var of = Unary();
            made = s =>
            {
                if (name is not null && !s.Knows(name))
                    return "undefined";
                return of(s) switch
                {
                    double => "number",
                    string => "string",
                    bool => "boolean",
                    null => "undefined",
                    _ => "object",
                };
            };
        }
        else if (Peek() == '!' && at + 1 < text.Length && text[at + 1] != '=' && Symbol("!"))
        {
            var a = Unary();
            made = s => !Truth(a(s));
        }
        else if (Word("not"))
        {
            var a = Equality();
            made = s => !Truth(a(s));
        }
        else if (Symbol("-"))
        {
            var a = Unary();
            made = s => -Number(a(s));
        }
        else if (Symbol("+"))
        {
            var a = Unary();
            made = s => Number(a(s));
        }
        else
            made = Power();
        depth--;
        return made;
    }

    // Binds to the right, and more strongly than a sign after it.
    private ScxmlExpression Power()
    {
        var of = Postfix();
        if (!Symbol("**"))
            return of;
        var by = Unary();
        return s => Math.Pow(Number(of(s)), Number(by(s)));
    }

    private ScxmlExpression Postfix()
    {
        var value = Atom();
        while (true)
        {
            var of = value;
            if (Peek() == '.' && Symbol("."))
            {
                var field = Name() ?? throw Unfit();
                if (Symbol("("))
                {
                    var arguments = Arguments(")");
                    value = s => Method(s, of(s), field, [.. arguments.Select(a => a(s))]);
                }
                else
                    value = s => Part(of(s), field);
            }
            else if (Symbol("["))
            {
                var key = Choice();
                if (!Symbol("]"))
                    throw Unfit();
                value = s => Part(of(s), key(s));
            }
            else
                return value;
        }
    }

    private List<ScxmlExpression> Arguments(string end)
    {
        var list = new List<ScxmlExpression>();
        if (Symbol(end))
            return list;
        do list.Add(Choice());
        while (Symbol(","));
        if (!Symbol(end))
            throw Unfit();
        return list;
    }

    private ScxmlExpression Atom()
    {
        Blank();
        if (at >= text.Length)
            throw Unfit();
        var c = text[at];
        if (char.IsAsciiDigit(c) || c == '.' && at + 1 < text.Length && char.IsAsciiDigit(text[at + 1]))
        {
            var start = at;
            while (at < text.Length && (char.IsAsciiDigit(text[at]) || text[at] == '.'))
                at++;
            if (at < text.Length && text[at] is 'e' or 'E')
            {
                at++;
                if (at < text.Length && text[at] is '+' or '-')
                    at++;
                while (at < text.Length && char.IsAsciiDigit(text[at]))
                    at++;
            }
            if (!double.TryParse(text.AsSpan(start, at - start), NumberStyles.Float, CultureInfo.InvariantCulture, out var number))
                throw new ScxmlSyntax($"“{text[start..at]}” is no number.");
            return _ => number;
        }
        if (c is '"' or '\'')
        {
            var made = new StringBuilder();
            for (at++; at < text.Length && text[at] != c; at++)
                if (text[at] == '\\' && at + 1 < text.Length)
                    made.Append(
                        text[++at] switch
                        {
                            'n' => '\n',
                            't' => '\t',
                            var other => other,
                        }
                    );
                else
                    made.Append(text[at]);
            if (at >= text.Length)
                throw new ScxmlSyntax("A quotation mark is missing at the end.");
            at++;
            var said = made.ToString();
            return _ => said;
        }
        if (Symbol("("))
        {
            var inner = Choice();
            if (!Symbol(")"))
                throw Unfit();
            return inner;
        }
        if (Symbol("["))
        {
            var items = Arguments("]");
            return s => items.Select(i => i(s)).ToList();
        }
        if (Symbol("{"))
        {
            var fields = new List<(string, ScxmlExpression)>();
            if (!Symbol("}"))
            {
                do
                {
                    Blank();
                    var key = Peek() is '"' or '\'' ? Text(Atom()(Nothing.Scope)) : Name() ?? throw Unfit();
                    if (!Symbol(":"))
                        throw Unfit();
                    fields.Add((key, Choice()));
                } while (Symbol(","));
                if (!Symbol("}"))
                    throw Unfit();
            }
            return s => fields.ToDictionary(f => f.Item1, f => f.Item2(s));
        }
        if (Name() is not { } name)
            throw Unfit();
        switch (name)
        {
            case "true" or "yes":
                return _ => true;
            case "false" or "no":
                return _ => false;
            case "null" or "undefined":
                return _ => null;
            case "In" when Symbol("("):
                var state = Arguments(")");
                if (state.Count != 1)
                    throw new ScxmlSyntax("In takes the name of one state.");
                return s => s.In(Text(state[0](s)));
            case "Math" when Symbol("."):
                var function = Name() ?? throw Unfit();
                if (function is "PI" or "E")
                    return _ => function == "PI" ? Math.PI : Math.E;
                if (!Symbol("("))
                    throw Unfit();
                var numbers = Arguments(")");
                if (numbers.Count == 1 && OneNumber.TryGetValue(function, out var one))
                    return s => one(Number(numbers[0](s)));
                return function switch
                {
                    "pow" when numbers.Count == 2 => s => Math.Pow(Number(numbers[0](s)), Number(numbers[1](s))),
                    "atan2" when numbers.Count == 2 => s => Math.Atan2(Number(numbers[0](s)), Number(numbers[1](s))),
                    "hypot" => s => Math.Sqrt(numbers.Sum(n => Number(n(s)) * Number(n(s)))),
                    "min" when numbers.Count > 0 => s => numbers.Min(n => Number(n(s))),
                    "max" when numbers.Count > 0 => s => numbers.Max(n => Number(n(s))),
                    _ => throw new ScxmlSyntax($"“Math.{function}” is not known here."),
                };
            case "NaN" or "Infinity":
                return _ => name == "NaN" ? double.NaN : double.PositiveInfinity;
            case "Number" or "String" or "Boolean" or "parseInt" or "parseFloat" or "isNaN" or "isFinite" when Symbol("("):
                var plain = Arguments(")");
                if (plain.Count is 0 or > 2 || plain.Count == 2 && name != "parseInt")
                    throw Unfit();
                return name switch
                {
                    "Number" => s => Number(plain[0](s)),
                    "String" => s => Text(plain[0](s)),
                    "Boolean" => s => Truth(plain[0](s)),
                    "isNaN" => s => double.IsNaN(Number(plain[0](s))),
                    "isFinite" => s => double.IsFinite(Number(plain[0](s))),
                    "parseInt" => s => Whole(Text(plain[0](s)), plain.Count == 2 ? (int)Number(plain[1](s)) : 10),
                    _ => s => Leading(Text(plain[0](s))),
                };
            case "min" or "max" or "abs" or "round" when Symbol("("):
                var given = Arguments(")");
                if (given.Count == 0)
                    throw Unfit();
                return name switch
                {
                    "min" => s => given.Min(n => Number(n(s))),
                    "max" => s => given.Max(n => Number(n(s))),
                    "abs" => s => Math.Abs(Number(given[0](s))),
                    _ => s => Math.Floor(Number(given[0](s)) + 0.5),
                };
        }
        if (Peek() == '(')
            throw new ScxmlSyntax(
                $"“{name}(…)” is not known here: In, min, max, abs, round, parseInt, parseFloat, "
                    + "Number, String, Boolean, isNaN, isFinite and those of Math can be called."
            );
        return s => s.Get(name);
    }

    // ---- reading ----

    private void Blank()
    {
        while (at < text.Length && char.IsWhiteSpace(text[at]))
            at++;
    }

    private char Peek()
    {
        Blank();
        return at < text.Length ? text[at] : '\0';
    }

    private bool Symbol(string symbol)
    {
        Blank();
        if (string.CompareOrdinal(text, at, symbol, 0, symbol.Length) != 0)
            return false;
        var after = at + symbol.Length < text.Length ? text[at + symbol.Length] : '\0';
        // A sign that is the beginning of a longer one is not taken for the shorter.
        if (
            symbol is "=" or "==" or "!=" && after == '=' && symbol != "=="
            || symbol == "==" && after == '='
            || symbol is "<" or ">" && after == '='
            || symbol is "+" or "-" or "*" or "/" or "%" or "**" && after == '='
            || symbol == "*" && after == '*'
            || symbol == "+" && after == '+'
            || symbol == "!" && after == '='
        )
            return false;
        at += symbol.Length;
        return true;
    }

    private bool Word(string word)
    {
        Blank();
        if (string.CompareOrdinal(text, at, word, 0, word.Length) != 0)
            return false;
        if (at + word.Length < text.Length && IsPart(text[at + word.Length]))
            return false;
        at += word.Length;
        return true;
    }

    private static bool IsPart(char c) => char.IsLetterOrDigit(c) || c is '_' or '$';

    private string? Name()
    {
        Blank();
        if (at >= text.Length || !(char.IsLetter(text[at]) || text[at] is '_' or '$'))
            return null;
        var start = at;
        while (at < text.Length && IsPart(text[at]))
            at++;
        return text[start..at];
    }

    private ScxmlSyntax Unfit() =>
        new(
            at >= text.Length
                ? "Something is missing at the end."
                : $"“{(text.Length - at > 20 ? text[at..(at + 20)] + "…" : text[at..])}” does not fit there."
        );

    private sealed class Nothing : IScxmlScope
    {
        public static readonly Nothing Scope = new();

        public object? Get(string name) => null;

        public bool Knows(string name) => false;

        public void Set(string name, object? value) { }

        public void Declare(string name, object? value) { }

        public bool In(string state) => false;

        public void Makes(int size) { }
    }
}
