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

    public bool Same(NameSet other) => names.SetEquals(other.names);

    public IReadOnlyList<string[]> BeginningWith(string word) => byFirst.GetValueOrDefault(word, []);

    public IEnumerator<string> GetEnumerator() => names.GetEnumerator();

    System.Collections.IEnumerator System.Collections.IEnumerable.GetEnumerator() => names.GetEnumerator();
}

/// <summary>The names a line may use that the program itself declares.</summary>
internal sealed record Declared(NameSet Variables, NameSet States, NameSet Regions, NameSet Routines)
{
    public bool Same(Declared other) =>
        Variables.Same(other.Variables) && States.Same(other.States) && Regions.Same(other.Regions) && Routines.Same(other.Routines);
}

/// <summary>A word that would fit at some place of a line.</summary>
/// <param name="Text">The text to insert.</param>
/// <param name="Kind">keyword, sensor, zone, motor, lamp, state, variable, place, number or unit.</param>
public readonly record struct Candidate(string Text, string Kind);

/// <summary>Thrown inside a line parser and turned into a <see cref="Diagnostic"/> at once; never leaves the parser.</summary>
internal sealed class LineFault(int column, int length, string found, string expected, string message, string? suggestion) : Exception
{
    /// <summary>The name that stands for nothing yet; null when the fault is another one.</summary>
    public MissingName? Missing { get; init; }

    public Diagnostic At(int line) => new(line, column, length, found, expected, message, suggestion) { Missing = Missing };
}

/// <summary>
/// Recursive descent over one line. Every test for a word notes what would have fitted, so that error messages and
/// completion come from the same grammar.
/// </summary>
internal sealed partial class LineParser
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

    // A rig's names are gathered once, not for every word that may be one.
    private sealed record NamesOf(string[] Sensors, string[] Zones, string[] Commanded);

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<Vocabulary, NamesOf> Gathered = [];

    private NamesOf Names =>
        names ??= Gathered.GetValue(
            rig,
            r => new([.. r.Sensors.Select(s => s.Name)], [.. r.Sensors.SelectMany(s => s.Zones).Distinct()], [.. r.Commanded])
        );

    private NamesOf? names;

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

    internal static List<Token> Read(string text)
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
                i += Owns(text, i);
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
                // “Post 3's Button”: the number belongs to a name.
                var owns = Owns(text, i);
                i += owns;
                list.Add(new(owns > 0 ? TokenKind.Word : TokenKind.Number, text[start..i], start, i - start));
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

    // How many characters of “'s ” stand here, behind a word whose thing is named.
    private static int Owns(string text, int at) =>
        at + 2 < text.Length && text[at] == '\'' && text[at + 1] == 's' && text[at + 2] == ' ' ? 2 : 0;

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
    public LineFault Unfit(string? extra = null, MissingName? missing = null)
    {
        var token = Now;
        var found = token.Kind == TokenKind.End ? "the end of the line" : token.Text;
        if (wanted is null)
            return new(token.Start + 1, Math.Max(1, token.Length), found, "", extra ?? $"“{found}” does not fit here.", null);
        var fit = Wanted(at);
        var words = fit.Where(w => w.Kind == "keyword").Select(w => w.Text).ToArray();
        var names = fit.Where(w => w.Kind != "keyword")
            .GroupBy(w => w.Kind)
            .Select(g => $"{("aeiou".Contains(g.Key[0]) ? "an" : "a")} {g.Key}");
        var expected = Or([.. words.Take(8), .. names]);
        var near = token.Kind == TokenKind.Word ? NearMiss.Find(token.Text, words.SelectMany(w => w.Split(' ')[..1])) : null;
        var message =
            token.Kind == TokenKind.End
                ? $"The line ends where {expected} should follow."
                : $"Expected {expected} here, " + $"found “{found}”.";
        if (expected == "")
            message = $"“{found}” does not fit here.";
        if (extra is not null)
            message = extra;
        if (near is not null)
            message += $" Did you mean “{near}”?";
        return new(token.Start + 1, Math.Max(1, token.Length), found, expected, message, near) { Missing = missing };
    }

    // What was meant as a name: all words up to one that can only go on after it.
    private MissingName? Unknown(string kind, int start, string where)
    {
        var end = start;
        while (tokens[end].Kind is TokenKind.Word or TokenKind.Number && !GoesOn.Contains(tokens[end].Text))
            end++;
        var name = tokens[start].Kind == TokenKind.Quoted ? tokens[start].Text : string.Join(' ', tokens[start..end].Select(t => t.Text));
        return IsName(name) ? new(kind, name, where.Length > 4 ? where[4..] : null) : null;
    }

    private static readonly HashSet<string> GoesOn =
    [
        .. "for if and or then at by inside to is becomes leaves with from into onto holds times not".Split(' '),
    ];

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
        var unknown = Unknown(kind, start, where);
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
            throw Missing(kind, b.Typed, start, b.Length, where, b.Near, unknown);
        throw Missing(kind, tokens[start].Text, start, 1, where, null, unknown, names);
    }

    private LineFault Missing(
        string kind,
        string typed,
        int start,
        int length,
        string where,
        string? near,
        MissingName? unknown,
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
        return new(first.Start + 1, last.Start + last.Length - first.Start, typed, $"a {kind}", message, near) { Missing = unknown };
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
}
