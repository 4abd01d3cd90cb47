using System.Globalization;

namespace Chiton.Core.Programs.Outside;

/// <summary>What a board says that it runs: a revision, and the beginning of the hash of all that was sent with it.</summary>
/// <param name="Revision">The revision; at least 1.</param>
/// <param name="Hash">The first <see cref="Letters"/> letters of the SHA-256 of its programs and numbers.</param>
public sealed record BoxHolding(int Revision, string Hash)
{
    /// <summary>Letters of the hash that are said.</summary>
    public const int Letters = 12;

    /// <summary>What a board is given to say.</summary>
    /// <param name="revision">The revision.</param>
    /// <param name="hash">The whole hash, hexadecimal.</param>
    public static BoxHolding Of(int revision, string hash) => new(revision, hash[..Letters].ToLowerInvariant());

    /// <summary>What a board said; null where Chiton did not give that out.</summary>
    public static BoxHolding? Read(string word)
    {
        var at = word.IndexOf('-', StringComparison.Ordinal);
        return
            at > 0
            && int.TryParse(word[..at], NumberStyles.None, CultureInfo.InvariantCulture, out var revision)
            && revision > 0
            && word.Length == at + 1 + Letters
            && word[(at + 1)..].All(c => c is >= '0' and <= '9' or >= 'a' and <= 'f')
            ? new(revision, word[(at + 1)..])
            : null;
    }

    /// <summary>The one word of it, as <c>14-3fa9c2d1e07b</c>.</summary>
    public override string ToString() => $"{Revision.ToString(CultureInfo.InvariantCulture)}-{Hash}";

    /// <summary>What a board that says this runs, held against what is here now.</summary>
    /// <param name="said">What it says; null where it says nothing.</param>
    /// <param name="now">What is here.</param>
    /// <returns>True when it runs what is here; false when it runs something else; null when nobody knows. And a sentence.</returns>
    public static (bool? Same, string Say) Against(string? said, BoxHolding now)
    {
        if (said is null)
            return (null, "It does not say which program it runs.");
        if (Read(said) is not { } held)
            return (false, $"It runs “{said}”, which was not taken out here. Take the program out and put it on the board.");
        if (held == now)
            return (true, $"It runs revision {held.Revision}, as it is here.");
        if (held.Revision > now.Revision)
            return (
                false,
                $"It says that it runs revision {held.Revision}; here are only {now.Revision}. It is of another rig, or of a copy of it."
            );
        return held.Revision < now.Revision
            ? (
                false,
                $"It runs revision {held.Revision}; here is revision {now.Revision}. Take the program out again and put it on the board."
            )
            : (
                false,
                $"It runs revision {held.Revision} with other numbers than this copy has now. Take it out again and put it on the board."
            );
    }
}
