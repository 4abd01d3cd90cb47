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

    private static List<object?> Joined(IScxmlScope scope, List<object?> list, object?[] given)
    {
        scope.Makes(list.Count + given.Sum(g => g is List<object?> more ? more.Count : 1));
        return [.. list, .. given.SelectMany(g => g is List<object?> more ? more : [g])];
    }

    private static object? Method(IScxmlScope scope, object? of, string name, object?[] given) =>
        (of, name) switch
        {
            (List<object?> l, "concat") => Joined(scope, l, given),
            (List<object?> l, "indexOf") when given.Length == 1 => (double)l.FindIndex(x => Same(x, given[0])),
            (string s, "indexOf") when given.Length == 1 => (double)s.IndexOf(Text(given[0]), StringComparison.Ordinal),
            _ => throw new ScxmlEvaluation($"“{name}” is not known here."),
        };
}
