namespace Chiton.Core.Quantities;

/// <summary>One line of the arithmetic, as a teacher would write it on the board.</summary>
/// <param name="Say">What is being worked out.</param>
/// <param name="Arithmetic">The sum with its figures.</param>
/// <param name="Value">Its outcome, unrounded; null when the step has no single number.</param>
/// <param name="Unit">Unit of the outcome, empty for a count.</param>
public sealed record Step(string Say, string Arithmetic, double? Value, string Unit);

/// <summary>How far something can be relied on, from best to worst.</summary>
public enum Grade
{
    /// <summary>Reliable as it is.</summary>
    Solid,

    /// <summary>Reliable with a small precaution.</summary>
    Workable,

    /// <summary>Works often, fails in front of a class.</summary>
    Fragile,

    /// <summary>Cannot work like this.</summary>
    Unusable,
}

/// <summary>A judgement in words.</summary>
/// <param name="Grade">How far it can be relied on.</param>
/// <param name="Say">Why, and what would help.</param>
public sealed record Verdict(Grade Grade, string Say);

/// <summary>What every sum answers: the figures, the arithmetic, what to beware of, and a judgement where there is one.</summary>
/// <typeparam name="T">The figures.</typeparam>
public sealed record Answer<T>(T Result, IReadOnlyList<Step> Steps, IReadOnlyList<string> Cautions, Verdict? Verdict)
    where T : notnull;

/// <summary>Writes numbers into sentences and arithmetic: short, without trailing noughts, always with a decimal point.</summary>
public static class Figures
{
    /// <summary>Up to <paramref name="digits"/> significant digits.</summary>
    public static string Show(double value, int digits = 4)
    {
        if (value == 0)
            return "0";
        var magnitude = (int)Math.Floor(Math.Log10(Math.Abs(value)));
        var decimals = Math.Clamp(digits - 1 - magnitude, 0, 10);
        return Math.Round(value, decimals).ToString("0." + new string('#', decimals), System.Globalization.CultureInfo.InvariantCulture);
    }

    /// <summary>To so many significant digits, also before the point: 175 758 is about 180 000.</summary>
    public static string About(double value, int digits = 2)
    {
        if (value == 0)
            return "0";
        var place = Math.Pow(10, Math.Floor(Math.Log10(Math.Abs(value))) - digits + 1);
        return Show(place >= 1 ? Math.Round(value / place) * place : value, digits);
    }

    /// <summary>"1st", "2nd", "3rd", "11th".</summary>
    public static string Ordinal(int n) =>
        n
        + (
            (n % 100) is 11 or 12 or 13
                ? "th"
                : (n % 10) switch
                {
                    1 => "st",
                    2 => "nd",
                    3 => "rd",
                    _ => "th",
                }
        );

    /// <summary>"a", "a and b", "a, b and c".</summary>
    public static string List(IEnumerable<string> items)
    {
        var all = items.ToArray();
        return all.Length < 2 ? string.Concat(all) : string.Join(", ", all[..^1]) + " and " + all[^1];
    }

    /// <summary>"1 reading", "2 readings".</summary>
    public static string Count(int n, string one, string? many = null) => $"{n} {(n == 1 ? one : many ?? one + "s")}";
}
