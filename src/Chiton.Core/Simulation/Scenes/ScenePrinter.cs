using System.Text;
using System.Text.RegularExpressions;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>What a piece of a printed line is.</summary>
public enum ScenePieceKind
{
    /// <summary>A word of the language.</summary>
    Word,

    /// <summary>A name.</summary>
    Name,

    /// <summary>A number with its unit.</summary>
    Number,
}

/// <summary>A piece of a printed line.</summary>
/// <param name="Text">As printed.</param>
/// <param name="Kind">What it is.</param>
public sealed record ScenePiece(string Text, ScenePieceKind Kind);

/// <summary>Writes scenes in the canonical form: reading what was printed gives the same scene.</summary>
public static partial class ScenePrinter
{
    /// <summary>The whole scene as text, ending with a line feed. A blank line stands where the lines go on to speak of something
    /// else.</summary>
    public static string Print(SceneNode scene)
    {
        var text = new StringBuilder();
        foreach (var comment in scene.Comments)
            text.Append(comment).Append('\n');
        text.Append("scene ").Append(scene.Name).Append('\n');
        var group = "head";
        foreach (var line in scene.Lines)
        {
            var here = SceneForms.Of(line.Key)?.Group ?? group;
            if (here != group)
                text.Append('\n');
            group = here;
            foreach (var comment in line.Comments)
                text.Append(comment).Append('\n');
            text.Append(Print(line)).Append('\n');
        }
        foreach (var comment in scene.Trailing)
            text.Append(comment).Append('\n');
        return text.ToString();
    }

    /// <summary>A line without its comments.</summary>
    public static string Print(SceneLine line) => string.Concat(Pieces(line).Select(p => p.Text));

    /// <summary>A line in pieces.</summary>
    public static IReadOnlyList<ScenePiece> Pieces(SceneLine line)
    {
        if (SceneForms.Of(line.Key) is not { } form)
            return [new(line.Raw ?? "", ScenePieceKind.Word)];
        var p = new List<ScenePiece>();
        Parts(p, form.Body, line);
        // When it happens stands before what else may be said, and in how many runs at the end.
        Clauses(p, line.When);
        Parts(p, form.Tail, line);
        if (line.When.Measured)
        {
            Word(p, ",");
            Word(p, "measured");
        }
        if (line.When is { In: { } few, Of: { } many })
        {
            Word(p, ",");
            Word(p, "in");
            Add(p, few.ToString(), ScenePieceKind.Number);
            Word(p, "of");
            Add(p, many.ToString(), ScenePieceKind.Number);
            Word(p, "runs");
        }
        return p;
    }

    private static void Add(List<ScenePiece> p, string text, ScenePieceKind kind)
    {
        var tight = p.Count == 0 || text is "," or ":";
        p.Add(new(tight ? text : " " + text, kind));
    }

    private static void Word(List<ScenePiece> p, string text) => Add(p, text, ScenePieceKind.Word);

    private static void Parts(List<ScenePiece> p, Part[] parts, SceneLine line)
    {
        foreach (var part in parts)
            switch (part)
            {
                case Part.Word w:
                    Word(p, w.Text);
                    break;
                case Part.Maybe m when line.Options.Contains(m.Index):
                    Parts(p, m.Parts, line);
                    break;
                case Part.Either e:
                    for (var way = 0; way < e.Ways.Length; way++)
                        if (line.Options.Contains(e.Index + way))
                            Parts(p, e.Ways[way], line);
                    break;
                case Part.Slot s when line.Values.TryGetValue(s.Name, out var value):
                    Value(p, value);
                    break;
            }
    }

    private static void Number(List<ScenePiece> p, SceneNumber n)
    {
        if (n.To is { } to)
        {
            Word(p, "between");
            Add(p, n.Of.ToString(), ScenePieceKind.Number);
            Word(p, "and");
            Add(p, to.ToString(), ScenePieceKind.Number);
            return;
        }
        Add(p, n.Of.ToString(), ScenePieceKind.Number);
        if (n.GiveOrTake is not { } sd)
            return;
        Word(p, "give or take");
        Add(p, sd.ToString(), ScenePieceKind.Number);
    }

    // Its figures are numbers, what they vary by is said in words.
    private static void Point(List<ScenePiece> p, ScenePoint point)
    {
        var text = point.ToString();
        foreach (var word in Varying().Split(text))
            Add(p, word.Trim(), Varying().IsMatch(word) ? ScenePieceKind.Word : ScenePieceKind.Number);
    }

    [GeneratedRegex("(give or take| and (?=[0-9−-]))")]
    private static partial Regex Varying();

    private static void Value(List<ScenePiece> p, object value)
    {
        switch (value)
        {
            case string name:
                Add(p, name, ScenePieceKind.Name);
                break;
            case SceneNumber n:
                Number(p, n);
                break;
            case ScenePoint point:
                Point(p, point);
                break;
            case IReadOnlyList<ScenePoint> path:
                for (var i = 0; i < path.Count; i++)
                {
                    Word(p, i == 0 ? "from" : "to");
                    Point(p, path[i]);
                }
                break;
            case IReadOnlyList<SceneNumber> numbers:
                for (var i = 0; i < numbers.Count; i++)
                {
                    if (i > 0)
                        Word(p, i == numbers.Count - 1 ? "and" : ",");
                    Number(p, numbers[i]);
                }
                break;
            case IReadOnlyList<ScenePair> pairs:
                for (var i = 0; i < pairs.Count; i++)
                {
                    if (i > 0)
                        Word(p, ",");
                    Add(p, pairs[i].From, ScenePieceKind.Name);
                    Word(p, "to");
                    Add(p, pairs[i].To, ScenePieceKind.Name);
                }
                break;
            case IReadOnlyList<string> names:
                for (var i = 0; i < names.Count; i++)
                {
                    if (i > 0)
                    {
                        Word(p, ",");
                        Word(p, "then");
                    }
                    Add(p, names[i], ScenePieceKind.Name);
                }
                break;
            case RuleNode rule:
                var pieces = Printer.Pieces(rule);
                Word(p, Printer.Plain(pieces)[(rule.IsGoal ? "goal: " : "never: ").Length..]);
                break;
            case ExprNode condition:
                Word(p, Printer.Print(condition));
                break;
            default:
                throw new InvalidOperationException($"Nothing prints {value.GetType().Name}.");
        }
    }

    private static void Clauses(List<ScenePiece> p, SceneWhen w)
    {
        void Time(string word, SceneNumber? n)
        {
            if (n is null)
                return;
            Word(p, word);
            Number(p, n);
        }
        Time("at", w.At);
        Time("from", w.From);
        if (w.When is { } when)
        {
            Word(p, "when");
            Word(p, Printer.Print(when));
        }
        if (w.After is { } after)
        {
            if (w.Later is { } later)
                Number(p, later);
            Word(p, "after");
            Word(p, Printer.Print(after));
        }
        Time("for", w.For);
        Time("every", w.Every);
        if (w.Until is { } until)
        {
            Word(p, "until");
            if (w.UntilLater is { } later)
            {
                Number(p, later);
                Word(p, "after");
            }
            Word(p, Printer.Print(until));
        }
        if (w.EachTime)
            Word(p, "each time");
    }
}
