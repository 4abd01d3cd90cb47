using Chiton.Core.Quantities;

namespace Chiton.Core.Classroom;

/// <summary>Codes that let somebody into a room. They are read from a wall, read aloud and typed by hand: letters alone, without I, L,
/// O, Q, S, U and Z, which are taken for others or for figures.</summary>
public static class JoinCode
{
    /// <summary>The letters that codes are made of.</summary>
    public const string Letters = "ABCDEFGHJKMNPRTVWXY";

    /// <summary>Letters of the code that a class joins with, of a team's own and of a judge's.</summary>
    public const int Usual = 6;

    /// <summary>Letters of the code for an educator's other device.</summary>
    public const int Educator = 8;

    /// <summary>Makes a code.</summary>
    /// <param name="length">How many letters.</param>
    /// <param name="draw">Draws a whole number from 0 to below what it is given; it must not be guessable.</param>
    /// <param name="taken">Codes that it must not be.</param>
    public static string Make(int length, Func<int, int> draw, IReadOnlySet<string> taken)
    {
        while (true)
        {
            var code = string.Create(
                length,
                draw,
                (letters, next) =>
                {
                    for (var i = 0; i < letters.Length; i++)
                        letters[i] = Letters[next(Letters.Length)];
                }
            );
            if (!taken.Contains(code))
                return code;
        }
    }

    /// <summary>A code as it was meant: typed in small letters, with gaps or dashes between.</summary>
    /// <param name="typed">What was typed.</param>
    /// <returns>The code; null when no code can be meant by it.</returns>
    public static string? Read(string? typed)
    {
        if (typed is null || typed.Length > 40)
            return null;
        var code = string.Concat(typed.Where(c => !char.IsWhiteSpace(c) && c is not '-' and not '.')).ToUpperInvariant();
        return code.Length is Usual or Educator && code.All(Letters.Contains) ? code : null;
    }

    /// <summary>A code in groups of three or four letters, as it is shown and read aloud.</summary>
    public static string Show(string code) => code.Length < 6 ? code : $"{code[..(code.Length / 2)]} {code[(code.Length / 2)..]}";
}

/// <summary>Names that people in a class choose.</summary>
public static class ClassNames
{
    /// <summary>Most letters of a name.</summary>
    public const int MostLetters = 40;

    /// <summary>Most teams of a class.</summary>
    public const int MostTeams = 60;

    /// <summary>Most classes.</summary>
    public const int MostClasses = 200;

    /// <summary>A name, cut to what it says.</summary>
    /// <param name="need">Notes what is wrong.</param>
    /// <param name="name">What was typed.</param>
    /// <param name="field">The field that it stands in.</param>
    public static string Read(Require need, string? name, string field)
    {
        var said = string.Join(' ', (name ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        need.That(said.Length is > 0 and <= MostLetters, field, $"A name of 1 to {MostLetters} letters.");
        return said;
    }
}
