namespace Chiton.Core.Quantities;

/// <summary>An input that cannot be used: which field, and what is allowed there. The server answers 400 with these.</summary>
/// <param name="errors">Field path in camelCase to a sentence that says what is allowed.</param>
public class InputProblem(IReadOnlyDictionary<string, string> errors)
    : Exception(string.Join(" ", errors.Select(e => $"{e.Key}: {e.Value}")))
{
    /// <summary>One field, one sentence.</summary>
    public InputProblem(string field, string say)
        : this(new Dictionary<string, string> { [field] = say }) { }

    /// <summary>Field path in camelCase to a sentence that says what is allowed.</summary>
    public IReadOnlyDictionary<string, string> Errors { get; } = errors;
}

/// <summary>Collects every fault of an input before refusing it, so that a person sees all of them at once.</summary>
public sealed class Require
{
    private readonly Dictionary<string, string> errors = [];

    /// <summary>True when nothing has been found wrong so far.</summary>
    public bool Holds => errors.Count == 0;

    /// <summary>Notes a fault unless <paramref name="ok"/>. The first fault of a field is kept.</summary>
    public Require That(bool ok, string field, string say)
    {
        if (!ok)
            errors.TryAdd(field, say);
        return this;
    }

    /// <summary>A number that must be given, finite and within limits; answers 0 when it is not, after noting why.</summary>
    public double Number(double? value, string field, double min, double max, bool aboveMin = false)
    {
        var low = aboveMin ? $"greater than {Show(min)}" : $"{Show(min)} or more";
        var range =
            max >= 1e12 ? low
            : min <= -1e12 ? $"at most {Show(max)}"
            : $"{low} and at most {Show(max)}";
        if (value is null)
        {
            That(false, field, $"Give a number, {range}.");
            return 0;
        }
        var v = value.Value;
        if (!double.IsFinite(v) || v > max || (aboveMin ? v <= min : v < min))
        {
            That(false, field, $"Must be a number {range}.");
            return 0;
        }
        return v;
    }

    /// <summary>A number that may be left out; null when it is, or when it is wrong, after noting why.</summary>
    public double? Optional(double? value, string field, double min, double max, bool aboveMin = false) =>
        value is null ? null : Number(value, field, min, max, aboveMin);

    /// <summary>A whole number that must be given and within limits.</summary>
    public int Whole(double? value, string field, int min, int max)
    {
        if (value is { } v && double.IsFinite(v) && Math.Floor(v) == v && v >= min && v <= max)
            return (int)v;
        That(false, field, $"Must be a whole number from {min} to {max}.");
        return min;
    }

    /// <summary>Throws everything noted; does nothing when all is well.</summary>
    /// <exception cref="InputProblem">When anything was noted.</exception>
    public void Done()
    {
        if (!Holds)
            throw new InputProblem(errors);
    }

    private static string Show(double v) => Math.Abs(v) >= 1e12 ? v.ToString("0e0") : v.ToString("0.######");
}
