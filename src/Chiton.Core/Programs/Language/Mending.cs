using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>
/// What was probably meant by a line that cannot be read. People say things in their own order and words; each way of saying is
/// turned into a sentence of the language, and only what the program then really takes is offered.
/// </summary>
public static partial class Mending
{
    /// <summary>Most sentences offered.</summary>
    public const int MostOffers = 3;

    private const int MostWords = 60;

    /// <summary>Whole sentences that would fit instead of a line, the likeliest first; none when nothing near is known.</summary>
    /// <param name="line">What was typed, without indentation.</param>
    /// <param name="script">The program that it stands in.</param>
    /// <param name="rig">The rig's names.</param>
    /// <param name="inState">True for a line of a state, false for one of the head.</param>
    public static IReadOnlyList<string> Offers(string line, string script, Vocabulary rig, bool inState)
    {
        var lines = ScriptParser.Split(script);
        var own = ScriptParser.Declare(lines);
        var words = Words(line);
        if (words.Count is 0 or > MostWords)
            return [];
        var names = new Known(rig, own);
        var offers = new List<string>();
        foreach (var said in (inState ? Sentences(names.Named(words), names) : Heads(words)).Distinct())
        {
            if (Fits(said, lines, rig, own, inState) is not { } printed || printed == line.Trim() || offers.Contains(printed))
                continue;
            offers.Add(printed);
            if (offers.Count == MostOffers)
                break;
        }
        return offers;
    }

    /// <summary>
    /// The sentence that a line means where only one thing can be meant: the same names and numbers in the same order, with no more
    /// than the small words between them, capitals, units and signs put right; null where that is not so.
    /// </summary>
    /// <param name="line">What was typed, without indentation.</param>
    /// <param name="script">The program that it stands in.</param>
    /// <param name="rig">The rig's names.</param>
    public static string? Understood(string line, string script, Vocabulary rig)
    {
        if (Offers(line, script, rig, true) is not [var only])
            return null;
        var known = new Known(rig, ScriptParser.Declare(ScriptParser.Split(script)));
        List<Said> typed = known.Named(Words(line)),
            meant = known.Named(Words(only));
        static IEnumerable<string> Firm(List<Said> words) => words.Where(w => w.Kind != NameKind.None || w.IsNumber).Select(w => w.Text);
        return
            Firm(typed).SequenceEqual(Firm(meant))
            && meant.Where(w => w.Kind == NameKind.None).All(w => Small.Contains(w.Text) || typed.Contains(w) || StoodFor(typed, w.Text))
            ? only
            : null;
    }

    /// <summary>
    /// What is wrong with a line that is being typed, in one plain sentence: how far it was understood and what was not. What the
    /// checks say of sense is plain already; a list of what the grammar would take is not.
    /// </summary>
    /// <param name="fault">The fault, in columns of the line.</param>
    /// <param name="line">What was typed.</param>
    public static Diagnostic Plain(Diagnostic fault, string line)
    {
        var listed = fault.Expected.Contains(" or ", StringComparison.Ordinal) || fault.Expected.Contains(", ", StringComparison.Ordinal);
        if (!listed || fault.Suggestion is not null)
            return fault;
        var at = Math.Clamp(fault.Column - 1, 0, line.Length);
        var understood = line[..at].Trim();
        var rest = line[at..].Trim();
        var found = rest == "" ? "" : rest.Split(' ')[0].TrimEnd(':', ',', ';');
        return fault with
        {
            Message =
                found == "" ? $"“{understood}” is understood so far; something must follow."
                : understood == "" ? $"No line begins with “{found}”."
                : $"“{understood}” is understood, “{found}” after it is not.",
        };
    }

    // Words that may be put in without another thing being meant.
    private static readonly HashSet<string> Small =
    [
        ":",
        ";",
        ",",
        "when",
        "at",
        "is",
        "to",
        "go",
        "for",
        "robot",
        "s",
        "ms",
        "mm",
        "%",
        "hz",
        "deg",
        "n",
    ];

    // A word that stands for another one: “seconds” for “s”, “forward” for “straight”.
    private static bool StoodFor(List<Said> typed, string word) =>
        typed.Exists(w => Units.TryGetValue(w.Text, out var unit) && unit.Equals(word, StringComparison.OrdinalIgnoreCase))
        || Phrases.Any(p => p.Means.Contains(word) && typed.Exists(w => w.Is(p.Said[0])));

    /// <summary>Lines that can stand in a state of this rig, to begin with.</summary>
    /// <param name="script">The program.</param>
    /// <param name="rig">The rig's names.</param>
    public static IReadOnlyList<string> Examples(string script, Vocabulary rig)
    {
        var lines = ScriptParser.Split(script);
        var own = ScriptParser.Declare(lines);
        var state = own.States.Skip(1).FirstOrDefault() ?? own.States.FirstOrDefault();
        var eye = rig.Sensors.FirstOrDefault(s => !s.Switch && s.Zones.Count > 0);
        var button = rig.Sensors.FirstOrDefault(s => s.Switch);
        var motor = rig.Moved(Turning).Concat(rig.Named(Turning)).FirstOrDefault(m => !rig.Elsewhere.ContainsKey(m));
        var lamp = rig.Named(ActuatorKind.Lamp).FirstOrDefault(l => !rig.Elsewhere.ContainsKey(l));
        string?[] said =
        [
            rig.Mechanisms.Any(m => m.Going == Going.Steered) ? "while here: drive straight at 30 %"
            : motor is not null ? $"while here: run {motor} at 30 %"
            : null,
            eye is not null && state is not null ? $"when {eye.Name} becomes {eye.Zones[^1]}: go {state}" : null,
            button is not null && state is not null ? $"when {button.Name} is pressed: go {state}" : null,
            state is not null ? $"after 2 s: go {state}" : null,
            lamp is not null ? $"on entry: turn {lamp} on" : "on entry: tone 440 Hz for 0.5 s",
        ];
        return [.. said.OfType<string>().Where(s => Fits(s, lines, rig, own, true) is not null)];
    }

    private static readonly ActuatorKind[] Turning = [ActuatorKind.RegulatedMotor, ActuatorKind.PlainMotor];

    // A line in a program that knows the same names and says nothing else; null when it is refused, else the line as it is printed.
    private static string? Fits(string line, string[] lines, Vocabulary rig, Declared own, bool inState)
    {
        var head = lines
            .Select(l => l.Trim())
            .Where(l => l.StartsWith("var ", StringComparison.Ordinal) || l.StartsWith("const ", StringComparison.Ordinal));
        var text = new System.Text.StringBuilder("program T\n");
        foreach (var h in head)
            text.Append(h).Append('\n');
        var at = text.ToString().Count(c => c == '\n') + 1;
        if (!inState)
            text.Append(line).Append('\n');
        text.Append("region ").Append(own.Regions.FirstOrDefault() ?? "Main").Append('\n');
        var states = own.States.Prepend("This one").Distinct().ToArray();
        for (var i = 0; i < states.Length; i++)
        {
            text.Append("  state ").Append(states[i]).Append(i == 0 ? ", initial\n" : "\n");
            if (i != 0 || !inState)
                continue;
            at = text.ToString().Count(c => c == '\n') + 1;
            text.Append("    ").Append(line).Append('\n');
        }
        foreach (var routine in lines.Select(l => l.Trim()).Where(l => l.StartsWith("routine ", StringComparison.Ordinal)))
            text.Append(routine).Append("\n  state R, initial, final\n");
        var parsed = ScriptParser.Parse(text.ToString(), rig);
        if (parsed.Diagnostics.Any(d => d.Line == at))
            return null;
        return inState
            ? parsed
                .Program.Regions.SelectMany(r => r.States)
                .SelectMany(s => s.Lines)
                .Where(l => l.Span.Line == at)
                .Select(l => Printer.Plain(Printer.Pieces(l)))
                .FirstOrDefault()
            : parsed.Program.Head.Where(h => h.Span.Line == at).Select(h => Printer.Plain(Printer.Pieces(h))).FirstOrDefault();
    }

    // ---- words ----

    // A word as typed; names and texts keep what they are.
    private readonly record struct Said(string Text, NameKind Kind = NameKind.None)
    {
        public bool Is(string word) => Kind == NameKind.None && Text == word;

        public bool IsNumber =>
            Kind == NameKind.None && Text.Length > 0 && (char.IsAsciiDigit(Text[0]) || Text.Length > 1 && Text[0] == '-');
    }

    private enum NameKind
    {
        None,
        Text,
        Sensor,
        Zone,
        Device,
        Variable,
        State,
        Other,
    }

    // Digits end where letters begin, so that “2s” is a number with its unit.
    private static List<string> Words(string line)
    {
        var words = new List<string>();
        for (var i = 0; i < line.Length; )
        {
            var c = line[i];
            if (char.IsWhiteSpace(c))
            {
                i++;
                continue;
            }
            var start = i;
            if (c is '"' or '“' or '”')
            {
                for (i++; i < line.Length && line[i] is not ('"' or '“' or '”'); )
                    i++;
                words.Add("\"" + line[(start + 1)..Math.Min(i, line.Length)] + "\"");
                i++;
                continue;
            }
            if (char.IsAsciiDigit(c))
                while (
                    i < line.Length
                    && (char.IsAsciiDigit(line[i]) || line[i] is '.' or ',' && i + 1 < line.Length && char.IsAsciiDigit(line[i + 1]))
                )
                    i++;
            else if (char.IsLetter(c))
                while (i < line.Length && (char.IsLetterOrDigit(line[i]) || line[i] is '\'' or '_'))
                    i++;
            else
            {
                i++;
                if (i < line.Length && "=!<>+-&|".Contains(c) && "=&|+-".Contains(line[i]) && (line[i] is '=' || line[i] == c))
                    i++;
            }
            words.Add(line[start..i].Replace(',', c is ',' ? ',' : '.'));
        }
        while (words.Count > 0 && words[^1] is "." or "!" or ";" or ",")
            words.RemoveAt(words.Count - 1);
        return words;
    }

    /// <summary>The names that a line may mean.</summary>
    private sealed class Known
    {
        private readonly List<(string[] Words, string Name, NameKind Kind)> names = [];
        private readonly HashSet<string> keywords = [.. Language.Words.Keywords, .. Language.Words.Colours, "up", "down"];

        public Known(Vocabulary rig, Declared own)
        {
            Rig = rig;
            foreach (var s in rig.Sensors)
            {
                Add(s.Name, NameKind.Sensor);
                foreach (var z in s.Zones.Where(z => z is not ("up" or "down")))
                    Add(z, NameKind.Zone);
            }
            foreach (var d in rig.Commanded)
                Add(d, NameKind.Device);
            foreach (var m in rig.Mechanisms)
            foreach (var p in m.Positions.Concat(m.Directions))
                Add(p, NameKind.Other);
            foreach (var v in own.Variables)
                Add(v, NameKind.Variable);
            foreach (var s in own.States)
                Add(s, NameKind.State);
            foreach (var r in own.Regions.Concat(own.Routines).Concat(rig.Programs))
                Add(r, NameKind.Other);
        }

        public Vocabulary Rig { get; }

        // A name may be typed as one word, or with a stroke between its words.
        private void Add(string name, NameKind kind)
        {
            var words = name.Split(' ');
            names.Add((words, name, kind));
            if (words.Length < 2)
                return;
            names.Add(([string.Concat(words)], name, kind));
            names.Add(([.. words.SelectMany((w, i) => i == 0 ? [w] : new[] { "-", w })], name, kind));
        }

        public bool IsKeyword(string word) => keywords.Contains(word);

        // Names are found whatever their capitals, by the longest; then what is left by a letter or a plural too many.
        public List<Said> Named(List<string> words)
        {
            var said = new List<Said>();
            for (var i = 0; i < words.Count; )
            {
                if (words[i].StartsWith('"'))
                {
                    said.Add(new(words[i++], NameKind.Text));
                    continue;
                }
                var best = Longest(words, i, (a, b) => a == b);
                // A word of the language that is typed as one is not taken for a name with a capital.
                if (best is null && !IsKeyword(words[i]))
                    best = Longest(words, i, (a, b) => a.Equals(b, StringComparison.OrdinalIgnoreCase));
                // A word of the language is not bent into a name.
                if (best is null && !IsKeyword(words[i].ToLowerInvariant()) && !Synonym(words[i].ToLowerInvariant()))
                    best = Longest(words, i, (a, b) => Near(a, b));
                if (best is { } found)
                {
                    said.Add(new(found.Name, found.Kind));
                    i += found.Length;
                    continue;
                }
                said.Add(new(words[i].ToLowerInvariant()));
                i++;
            }
            return said;
        }

        private (string Name, NameKind Kind, int Length)? Longest(List<string> words, int at, Func<string, string, bool> same)
        {
            (string Name, NameKind Kind, int Length)? best = null;
            foreach (var (parts, name, kind) in names)
            {
                if (parts.Length > words.Count - at || best is { } b && b.Length >= parts.Length)
                    continue;
                var fits = true;
                for (var i = 0; i < parts.Length && fits; i++)
                    fits = same(words[at + i], parts[i]);
                if (fits)
                    best = (name, kind, parts.Length);
            }
            return best;
        }

        private static bool Near(string typed, string name) =>
            typed.Equals(name, StringComparison.OrdinalIgnoreCase)
            || typed.Equals(name + "s", StringComparison.OrdinalIgnoreCase)
            || name.Equals(typed + "s", StringComparison.OrdinalIgnoreCase)
            || name.Length > 3 && NearMiss.Nearest(typed, [name]) is { Edits: 1 };
    }
}
