using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>
/// Which of the things that can follow is the likeliest: a unit by what the place asks for, anything else by how often this
/// program has said it after the same word, and how often at all. What is equal stays as the grammar has it.
/// </summary>
internal static class Likely
{
    /// <summary>The same candidates, the likeliest first.</summary>
    /// <param name="found">Candidates with the column where their text begins.</param>
    /// <param name="lines">The program.</param>
    /// <param name="line">The line that is typed, from 0; it says nothing of what is likely.</param>
    /// <param name="rig">The rig's names.</param>
    public static IReadOnlyList<(Candidate Candidate, int Start)> First(
        IReadOnlyList<(Candidate Candidate, int Start)> found,
        string[] lines,
        int line,
        Vocabulary rig
    )
    {
        if (found.Count < 2)
            return found;
        var text = lines[line];
        var asked = found.Any(f => f.Candidate.Kind == "unit") ? Units(text, found[0].Start, lines, rig) : [];
        int Unit(Candidate c) => c.Kind == "unit" && Array.IndexOf(asked, c.Text) is >= 0 and var at ? at : asked.Length;
        // The line that is typed says nothing of what is likely.
        var others = string.Join('\n', lines.Where((_, i) => i != line));
        // What was typed goes on in a longer word before it begins another one.
        return
        [
            .. found
                .Select(f => (Found: f, Count: Counted(f.Candidate.Text, Before(text, f.Start), others)))
                .OrderByDescending(f => f.Found.Start == found[0].Start)
                .ThenBy(f => Unit(f.Found.Candidate))
                .ThenByDescending(f => f.Count.After)
                .ThenByDescending(f => f.Count.All)
                .Select(f => f.Found),
        ];
    }

    // The word before a place, within its line; empty at the beginning of a line.
    private static ReadOnlySpan<char> Before(ReadOnlySpan<char> text, int at)
    {
        var end = at;
        while (end > 0 && text[end - 1] == ' ')
            end--;
        var start = end;
        while (start > 0 && text[start - 1] is not (' ' or '\n'))
            start--;
        return text[start..end];
    }

    // How often the program says it after the word, and at all. It is asked for each candidate at each key: the text is searched
    // as one piece.
    private static (int After, int All) Counted(string said, ReadOnlySpan<char> before, ReadOnlySpan<char> text)
    {
        int after = 0,
            all = 0;
        // Every program is full of states and regions, and what is typed in one of them is seldom another.
        if (said is "state" or "region" or "history" or "deep history")
            return (-1, -1);
        for (var from = 0; text[from..].IndexOf(said) is >= 0 and var found; )
        {
            var at = from + found;
            from = at + said.Length;
            if (at > 0 && char.IsLetterOrDigit(text[at - 1]) || from < text.Length && char.IsLetterOrDigit(text[from]))
                continue;
            all++;
            if (Before(text, at).SequenceEqual(before))
                after++;
        }
        return (after, all);
    }

    private static readonly string[] Times = ["s", "ms"],
        Ways = ["mm", "cm", "m", "in", "wheel turns", "wheel deg", "motor deg"],
        Turns = ["robot deg", "wheel turns", "wheel deg", "motor deg", "deg"],
        Angles = ["motor deg", "wheel turns", "wheel deg", "deg"],
        Going = ["%", "mm/s", "robot deg/s", "deg/s"],
        Running = ["%", "deg/s", "mm/s"],
        Pitches = ["Hz"];

    // The units that a number at this place is likely to have, by the words before it.
    private static string[] Units(string text, int at, string[] lines, Vocabulary rig)
    {
        var before = text[..at].TrimEnd();
        // The number itself.
        while (before.Length > 0 && (char.IsAsciiDigit(before[^1]) || before[^1] is '.' or '-'))
            before = before[..^1];
        before = before.TrimEnd();
        // The action, or the trigger, that it stands in.
        var part = before[(before.LastIndexOfAny([';', ':']) + 1)..];
        if (part.LastIndexOf(" then ", StringComparison.Ordinal) is >= 0 and var then)
            part = part[(then + 6)..];
        var words = part.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (words.Length == 0)
            return [];
        var verb = words[0];
        switch (words[^1])
        {
            case "after" or "every" or "wait" or "for" or "within":
                return Times;
            case "to" when words.Length > 1 && words[^2] == "up":
                return Times;
            case "at":
                return verb is "drive" or "turn" or "steer" or "follow" ? Going
                    : verb == "step" ? Pitches
                    : Running;
            case "tone":
                return Pitches;
            case "straight" or "back" when verb == "drive":
                return Ways;
            case "left" or "right" when verb == "turn":
                return Turns;
            case "on":
                return Times;
        }
        if (verb is "blink" or "tone")
            return Times;
        if (verb == "run")
            return Angles;
        if (verb == "steer")
            return Going;
        // Compared with, or added to: what the nearest name before it measures.
        for (var i = words.Length - 1; i >= 0; i--)
        for (var length = Math.Min(4, words.Length - i); length > 0; length--)
        {
            var name = string.Join(' ', words.Skip(i).Take(length));
            if (rig.Sensors.FirstOrDefault(s => s.Name == name)?.Reads is { } reads)
                return [.. Unit.All.Where(u => u.Dimension == reads).OrderBy(u => u.Text is "mm" or "%" ? 0 : 1).Select(u => u.Text)];
            if (Declared(name, lines) is { } unit)
                return [unit];
        }
        return [];
    }

    // The unit of a variable's first value.
    private static string? Declared(string name, string[] lines)
    {
        foreach (var line in lines)
        {
            var text = line.Trim();
            foreach (var word in (string[])["var ", "const "])
                if (
                    text.StartsWith(word + name, StringComparison.Ordinal)
                    && text[(word.Length + name.Length)..].TrimStart() is ['=', ..] value
                )
                    return Rigs.GivenValue.Amount(value[1..].Trim()) is { Unit: not "" } amount ? amount.Unit : null;
        }
        return null;
    }
}
