namespace Chiton.Core.Rigs;

/// <summary>Names that programs can use.</summary>
public static class RigNames
{
    /// <summary>Longest name.</summary>
    public const int MostLetters = 60;

    /// <summary>What a name must be, for people.</summary>
    public const string Rule = "letters, digits and single spaces, starting with a letter, at most 60 long";

    /// <summary>The name with the first number behind it that nobody has; the name itself when nobody has it.</summary>
    /// <param name="name">What it is to be called.</param>
    /// <param name="taken">Names that are taken, whatever their capitals.</param>
    /// <param name="most">Longest name allowed.</param>
    public static string Free(string name, IEnumerable<string> taken, int most = MostLetters)
    {
        var all = new HashSet<string>(taken.Select(t => t.Trim()), StringComparer.OrdinalIgnoreCase);
        var (trimmed, free) = (name.Trim(), name.Trim());
        for (var n = 2; all.Contains(free); n++)
        {
            var number = $" {n}";
            free = trimmed[..Math.Min(trimmed.Length, most - number.Length)].TrimEnd() + number;
        }
        return free;
    }

    /// <summary>True for the name of a device: a name, or that of a controller, “'s” and a name, as in “Post 3's Button”.</summary>
    public static bool IsDevice(string? name) =>
        name is { Length: <= MostLetters }
        && (
            name.IndexOf("'s ", StringComparison.Ordinal) is > 0 and var at ? IsName(name[..at]) && IsName(name[(at + 3)..]) : IsName(name)
        );

    /// <summary>True for letters, digits and single spaces, starting with a letter, at most 60 long.</summary>
    public static bool IsName(string? name) =>
        name is { Length: > 0 and <= MostLetters }
        && char.IsLetter(name[0])
        && name.Split(' ').All(w => w.Length > 0 && w.All(char.IsLetterOrDigit))
        &&
        // A word that starts with a digit must be a number, or it would read as two tokens.
        name.Split(' ').All(w => char.IsLetter(w[0]) || w.All(char.IsAsciiDigit));
}
