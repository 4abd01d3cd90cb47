using System.Globalization;
using System.Text;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Scxml;

public sealed partial class ScxmlExpressions
{
    // ---- values ----

    /// <summary>A value as a condition.</summary>
    public static bool Truth(object? v) =>
        v switch
        {
            null => false,
            bool b => b,
            double d => d != 0 && !double.IsNaN(d),
            string s => s != "",
            _ => true,
        };

    /// <summary>A value as a number; not a number where it is none.</summary>
    public static double Number(object? v) =>
        v switch
        {
            double d => d,
            bool b => b ? 1 : 0,
            null => double.NaN,
            string s => s.Trim() == "" ? 0
            : double.TryParse(s, NumberStyles.Float, CultureInfo.InvariantCulture, out var d) ? d
            : double.NaN,
            _ => double.NaN,
        };

    /// <summary>A value as text.</summary>
    /// <exception cref="ScxmlEvaluation">When it would be longer than <see cref="MostSize"/>; a list that holds itself is.</exception>
    public static string Text(object? v)
    {
        if (v is not List<object?>)
            return Plain(v);
        // Item by item without recursion: lists may hold lists, and even themselves.
        var made = new StringBuilder();
        var open = new Stack<(List<object?> List, int Next)>();
        open.Push(((List<object?>)v, 0));
        for (var steps = 0; open.TryPop(out var at); steps++)
        {
            if (made.Length > MostSize || steps > MostSize || open.Count > 1000)
                throw new ScxmlEvaluation($"A text has at most {MostSize} characters.");
            if (at.Next >= at.List.Count)
                continue;
            if (at.Next > 0)
                made.Append(',');
            open.Push((at.List, at.Next + 1));
            if (at.List[at.Next] is List<object?> inner)
                open.Push((inner, 0));
            else
                made.Append(Plain(at.List[at.Next]));
        }
        return made.ToString();

        static string Plain(object? v) =>
            v switch
            {
                null => "null",
                bool b => b ? "true" : "false",
                double d => d.ToString("R", CultureInfo.InvariantCulture),
                string s => s,
                _ => "[object]",
            };
    }

    private static object Add(IScxmlScope scope, object? a, object? b)
    {
        if (a is not string && b is not string)
            return Number(a) + Number(b);
        var (x, y) = (Text(a), Text(b));
        scope.Makes(x.Length + y.Length);
        return x + y;
    }

    private static bool Same(object? a, object? b) =>
        (a, b) switch
        {
            (null, null) => true,
            (double x, double y) => x == y,
            (string x, string y) => x == y,
            (bool x, bool y) => x == y,
            _ => a is not null && b is not null && ReferenceEquals(a, b),
        };

    private static bool Alike(object? a, object? b) =>
        (a, b) switch
        {
            (null, null) => true,
            (null, _) or (_, null) => false,
            (string x, string y) => x == y,
            (double or string or bool, double or string or bool) => Number(a) == Number(b),
            _ => ReferenceEquals(a, b),
        };

    private static int? Order(object? a, object? b)
    {
        if (a is string x && b is string y)
            return string.CompareOrdinal(x, y);
        var (m, n) = (Number(a), Number(b));
        return double.IsNaN(m) || double.IsNaN(n) ? null : m.CompareTo(n);
    }

    private static object? Part(object? of, object? key) =>
        of switch
        {
            Dictionary<string, object?> table => table.GetValueOrDefault(Text(key)),
            List<object?> list when key is "length" => (double)list.Count,
            List<object?> list => Number(key) is var i && i >= 0 && i < list.Count ? list[(int)i] : null,
            string s when key is "length" => (double)s.Length,
            string s => Number(key) is var i && i >= 0 && i < s.Length ? s[(int)i].ToString() : null,
            null => throw new ScxmlEvaluation($"Nothing has no part “{Text(key)}”."),
            _ => null,
        };

    // Functions of one number; a half is rounded up, as expressions of this kind do.
    private static readonly Dictionary<string, Func<double, double>> OneNumber = new()
    {
        ["abs"] = Math.Abs,
        ["floor"] = Math.Floor,
        ["ceil"] = Math.Ceiling,
        ["trunc"] = Math.Truncate,
        ["round"] = x => Math.Floor(x + 0.5),
        ["sign"] = x => double.IsNaN(x) ? x : Math.Sign(x),
        ["sqrt"] = Math.Sqrt,
        ["cbrt"] = Math.Cbrt,
        ["exp"] = Math.Exp,
        ["log"] = Math.Log,
        ["log2"] = Math.Log2,
        ["log10"] = Math.Log10,
        ["sin"] = Math.Sin,
        ["cos"] = Math.Cos,
        ["tan"] = Math.Tan,
        ["asin"] = Math.Asin,
        ["acos"] = Math.Acos,
        ["atan"] = Math.Atan,
    };

    // The whole number that a text begins with, in a base from 2 to 36; none is not a number.
    private static double Whole(string text, int radix)
    {
        var t = text.Trim();
        var minus = t.StartsWith('-');
        t = t.TrimStart('+', '-');
        if (radix is 0 or 16 && t.StartsWith("0x", StringComparison.OrdinalIgnoreCase))
            (t, radix) = (t[2..], 16);
        radix = radix == 0 ? 10 : radix;
        double value = 0;
        var digits = 0;
        foreach (var c in t)
        {
            var digit =
                char.IsAsciiDigit(c) ? c - '0'
                : char.IsAsciiLetter(c) ? char.ToLowerInvariant(c) - 'a' + 10
                : 99;
            if (digit >= radix)
                break;
            value = value * radix + digit;
            digits++;
        }
        return digits == 0 ? double.NaN
            : minus ? -value
            : value;
    }

    // The number that a text begins with; none is not a number.
    private static double Leading(string text)
    {
        var t = text.Trim();
        for (var n = Math.Min(t.Length, 40); n > 0; n--)
            if (double.TryParse(t[..n], NumberStyles.Float, CultureInfo.InvariantCulture, out var value) && double.IsFinite(value))
                return value;
        return double.NaN;
    }

    private static List<object?> Joined(IScxmlScope scope, List<object?> list, object?[] given)
    {
        scope.Makes(list.Count + given.Sum(g => g is List<object?> more ? more.Count : 1));
        return [.. list, .. given.SelectMany(g => g is List<object?> more ? more : [g])];
    }

    private static string Long(IScxmlScope scope, string text)
    {
        scope.Makes(text.Length);
        return text;
    }

    private static int From(int length, object?[] given) => Place(length, given.Length > 0 ? Number(given[0]) : 0);

    private static int To(int length, object?[] given) => Place(length, given.Length > 1 ? Number(given[1]) : length);

    // A place below nothing counts from the end.
    private static int Place(int length, double at) =>
        double.IsNaN(at) ? 0 : (int)Math.Clamp(at < 0 ? length + Math.Ceiling(at) : Math.Floor(at), 0, length);

    private static object? Method(IScxmlScope scope, object? of, string name, object?[] given) =>
        (of, name) switch
        {
            (List<object?> l, "concat") => Joined(scope, l, given),
            (List<object?> l, "indexOf") when given.Length == 1 => (double)l.FindIndex(x => Same(x, given[0])),
            (List<object?> l, "includes") when given.Length == 1 => l.Exists(x => Same(x, given[0])),
            (List<object?> l, "slice") => l.GetRange(From(l.Count, given), Math.Max(0, To(l.Count, given) - From(l.Count, given))),
            (List<object?> l, "join") => Long(scope, string.Join(given.Length == 0 ? "," : Text(given[0]), l.Select(Text))),
            (string s, "includes") when given.Length == 1 => s.Contains(Text(given[0]), StringComparison.Ordinal),
            (string s, "startsWith") when given.Length == 1 => s.StartsWith(Text(given[0]), StringComparison.Ordinal),
            (string s, "endsWith") when given.Length == 1 => s.EndsWith(Text(given[0]), StringComparison.Ordinal),
            (string s, "slice" or "substring") => s.Substring(
                From(s.Length, given),
                Math.Max(0, To(s.Length, given) - From(s.Length, given))
            ),
            (string s, "charAt") when given.Length == 1 => Number(given[0]) is var at && at >= 0 && at < s.Length
                ? s[(int)at].ToString()
                : "",
            (string s, "toUpperCase") => s.ToUpperInvariant(),
            (string s, "toLowerCase") => s.ToLowerInvariant(),
            (string s, "trim") => s.Trim(),
            (string s, "indexOf") when given.Length == 1 => (double)s.IndexOf(Text(given[0]), StringComparison.Ordinal),
            _ => throw new ScxmlEvaluation($"“{name}” is not known here."),
        };
}
