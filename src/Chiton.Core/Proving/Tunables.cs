using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Proving;

/// <summary>A number of a program that may be tuned.</summary>
/// <param name="Line">Its line in the script, from 1.</param>
/// <param name="Index">Which number of the line, from 0.</param>
/// <param name="Owner">State that the line belongs to; empty for the head of the program.</param>
/// <param name="Sentence">The line as a sentence.</param>
/// <param name="Value">Its value as written.</param>
/// <param name="Unit">Its unit as written; empty for a count.</param>
/// <param name="Whole">True where only whole numbers make sense.</param>
/// <param name="From">A usual range begins here.</param>
/// <param name="To">It ends here.</param>
public sealed record Tunable(
    int Line,
    int Index,
    string Owner,
    string Sentence,
    double Value,
    string Unit,
    bool Whole,
    double From,
    double To
);

/// <summary>A number of a program at another value.</summary>
/// <param name="Line">Its line in the script, from 1.</param>
/// <param name="Index">Which number of the line, from 0.</param>
/// <param name="Value">The value, in the unit as written.</param>
public sealed record TunedNumber(int Line, int Index, double Value);

/// <summary>The numbers of a program that may be tuned, and the program with others.</summary>
public static class Tunables
{
    /// <summary>The numbers that are chosen: those of goals are what is wanted, and not how it is done.</summary>
    /// <param name="program">A program without faults.</param>
    public static IReadOnlyList<Tunable> Of(ProgramNode program) =>
        [.. Lines(program).SelectMany(l => Numbers(l.Pieces).Select(n => Make(l.Line, l.Owner, l.Pieces, n.Index, n.Text)))];

    private static IEnumerable<(int Line, string Owner, IReadOnlyList<Piece> Pieces)> Lines(ProgramNode program)
    {
        foreach (var head in program.Head)
            if (head is VarNode or ConstNode)
                yield return (head.Span.Line, "", Printer.Pieces(head));
        foreach (var state in program.AllStates)
        foreach (var line in state.Lines)
            yield return (line.Span.Line, state.Name, Printer.Pieces(line));
    }

    private static IEnumerable<(int Index, string Text)> Numbers(IReadOnlyList<Piece> pieces) =>
        pieces.Where(p => p.Kind == PieceKind.Number).Select((p, i) => (i, p.Text));

    private static Tunable Make(int line, string owner, IReadOnlyList<Piece> pieces, int index, string text)
    {
        var (value, unit) = Read(text);
        var after = Printer.Plain(pieces);
        // Readings, beds and tries are counted.
        var whole = unit is "" or "reading" or "readings" or "times" && value == Math.Floor(value);
        var (from, to) = whole ? (Math.Max(1, value - 3), value + 4) : (Math.Round(0.7 * value, 6), Math.Round(1.3 * value, 6));
        if (unit == "%")
            (from, to) = (Math.Clamp(from, -100, 100), Math.Clamp(to, -100, 100));
        return new(line, index, owner, after, value, unit, whole, Math.Min(from, to), Math.Max(from, to));
    }

    private static (double Value, string Unit) Read(string text)
    {
        var end = 0;
        while (end < text.Length && (char.IsAsciiDigit(text[end]) || text[end] is '.' or '-'))
            end++;
        return (double.Parse(text[..end], CultureInfo.InvariantCulture), text[end..].Trim());
    }

    /// <summary>A number as it is written: at most four figures, and whole where it counts.</summary>
    public static double Rounded(Tunable number, double value) =>
        number.Whole ? Math.Round(value)
        : value == 0 ? 0
        : Math.Round(value, Math.Clamp(2 - (int)Math.Floor(Math.Log10(Math.Abs(value))), 0, 6));

    /// <summary>The script with numbers at other values; lines that are not touched stay as they are.</summary>
    /// <param name="script">The script as it stands.</param>
    /// <param name="program">The same, read.</param>
    /// <param name="numbers">The numbers.</param>
    /// <exception cref="InputProblem">When there is no such number.</exception>
    public static string With(string script, ProgramNode program, IReadOnlyList<TunedNumber> numbers)
    {
        var lines = script.Split('\n');
        var known = Lines(program).ToDictionary(l => l.Line, l => l.Pieces);
        foreach (var group in numbers.GroupBy(n => n.Line))
        {
            if (!known.TryGetValue(group.Key, out var pieces))
                throw new InputProblem("numbers", $"Line {group.Key} has no number that can be tuned.");
            var at = Enumerable.Range(0, pieces.Count).Where(i => pieces[i].Kind == PieceKind.Number).ToArray();
            var changed = pieces.ToArray();
            foreach (var n in group)
            {
                if (n.Index < 0 || n.Index >= at.Length)
                    throw new InputProblem("numbers", $"Line {n.Line} has {Figures.Count(at.Length, "number")}.");
                var unit = Read(pieces[at[n.Index]].Text).Unit;
                var digits = n.Value.ToString("0.######", CultureInfo.InvariantCulture);
                changed[at[n.Index]] = pieces[at[n.Index]] with { Text = unit.Length > 0 ? $"{digits} {unit}" : digits };
            }
            var old = lines[group.Key - 1];
            lines[group.Key - 1] = old[..(old.Length - old.TrimStart().Length)] + Printer.Plain(changed);
        }
        return string.Join('\n', lines);
    }

    /// <summary>The sentence of a line and which state it belongs to, to mark its numbers after they were changed.</summary>
    /// <param name="program">The program as it is kept.</param>
    /// <param name="numbers">The numbers that were changed.</param>
    /// <param name="source">Where they come from, in words.</param>
    public static IEnumerable<NumberMark> Marks(ProgramNode program, IReadOnlyList<TunedNumber> numbers, string source) =>
        Lines(program)
            .SelectMany(l =>
                numbers
                    .Where(n => n.Line == l.Line)
                    .Select(n => new NumberMark(l.Owner, Printer.Plain(l.Pieces), n.Index, Provenance.Calculated, source))
            );
}
