using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Rigs;

/// <summary>What is known of one copy.</summary>
/// <param name="Number">Copy number.</param>
/// <param name="Numbers">Its numbers by name.</param>
public sealed record CopyNumbers(int Number, IReadOnlyList<(string Name, Quantity Number)> Numbers)
{
    /// <summary>Real or a stand-in: only copies of one kind are judged by each other.</summary>
    public UnitKind Kind { get; init; }
}

/// <summary>One number of one copy in the table.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Value">The value; null when the copy has none.</param>
/// <param name="Kind">Where it comes from; null when the copy has none.</param>
/// <param name="Source">In words.</param>
/// <param name="Deviates">True when it differs from the other copies by more than measuring explains.</param>
public sealed record CopyCell(int Copy, double? Value, Provenance? Kind, string? Source, bool Deviates);

/// <summary>One number over all copies.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Cells">One a copy, in order.</param>
/// <param name="Say">Who deviates and by how much; null when nobody does.</param>
public sealed record CopyLine(string Name, string Unit, IReadOnlyList<CopyCell> Cells, string? Say);

/// <summary>One number of a real copy beside the stand-in's.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Real">On the table; null when it was not measured there.</param>
/// <param name="StandIn">On the stand-in; null when it was not measured there.</param>
/// <param name="Say">Whether they differ by more than measuring explains, and by how much.</param>
/// <param name="Differs">True when they do.</param>
public sealed record BesideLine(string Name, string Unit, Quantity? Real, Quantity? StandIn, string Say, bool Differs);

/// <summary>Which copy deviates and in what.</summary>
public static class CopyTable
{
    /// <summary>Holds a real copy against a stand-in: each number that was measured on one of them, and whether they differ by more than
    /// both standard errors together explain.</summary>
    /// <param name="real">What is known of the real copy.</param>
    /// <param name="standIn">What is known of the stand-in.</param>
    public static IReadOnlyList<BesideLine> Beside(CopyNumbers real, CopyNumbers standIn)
    {
        var lines = new List<BesideLine>();
        foreach (var name in real.Numbers.Concat(standIn.Numbers).Select(n => n.Name).Distinct())
        {
            static Quantity? Measured(CopyNumbers copy, string name) =>
                copy.Numbers.FirstOrDefault(n => n.Name == name && n.Number.Kind == Provenance.Measured).Number;
            var (a, b) = (Measured(real, name), Measured(standIn, name));
            if ((a ?? b) is not { } either)
                continue;
            var (say, differs) =
                a is null ? ("not measured on the table yet", false)
                : b is null ? ("not measured on the stand-in yet", false)
                : Math.Sqrt(a.MeanSd * a.MeanSd + b.MeanSd * b.MeanSd) is var error && error == 0
                    ? ("neither says how well it is known", false)
                : Math.Abs(a.Value - b.Value) > Limit * error
                    ? (
                        $"{Show(Math.Abs(a.Value - b.Value), 2)} {(either.Unit == "%" ? "points" : either.Unit)} "
                            + $"{(a.Value > b.Value ? "more" : "less")} on the table, "
                            + $"{Show(Math.Abs(a.Value - b.Value) / error, 2)} times what measuring explains",
                        true
                    )
                : ("no difference that measuring does not explain", false);
            lines.Add(new(name, either.Unit, a, b, say, differs));
        }
        return lines;
    }

    /// <summary>How many standard errors a copy must differ by to deviate.</summary>
    public const double Limit = 3;

    /// <summary>
    /// Compares each measured number with the mean of the other copies' measured ones, weighed by their certainty, and
    /// judges the difference by both standard errors in quadrature. The copy that differs most is set apart before the
    /// rest are judged again, so that it does not make its neighbours look odd. Guesses and decisions are shown and not
    /// judged.
    /// </summary>
    /// <param name="copies">Copies in order.</param>
    public static IReadOnlyList<CopyLine> Compare(IReadOnlyList<CopyNumbers> copies)
    {
        var names = copies.SelectMany(c => c.Numbers.Select(n => n.Name)).Distinct().ToArray();
        var lines = new List<CopyLine>();
        foreach (var name in names)
        {
            var own = copies.Select(c => (Copy: c.Number, Number: c.Numbers.FirstOrDefault(n => n.Name == name).Number)).ToArray();
            if (own.All(o => o.Number is null || o.Number.Kind == Provenance.Chosen))
                continue;
            var apart = new Dictionary<int, string>();
            var twice = new HashSet<int>();
            // Real copies and stand-ins never mix.
            foreach (var kind in copies.GroupBy(x => x.Kind))
            {
                var together = own.Where(o => o.Number is { Kind: Provenance.Measured, MeanSd: > 0 } && kind.Any(k => k.Number == o.Copy))
                    .Select(o => (o.Copy, Number: o.Number!))
                    .ToList();
                while (together.Count >= 2)
                {
                    var judged = together
                        .Select(t =>
                        {
                            var others = together.Where(o => o.Copy != t.Copy).Select(o => o.Number).ToArray();
                            var weight = others.Sum(o => 1 / (o.MeanSd * o.MeanSd));
                            var mean = others.Sum(o => o.Value / (o.MeanSd * o.MeanSd)) / weight;
                            return (
                                t.Copy,
                                t.Number,
                                Mean: mean,
                                Errors: Math.Abs(t.Number.Value - mean) / Math.Sqrt(t.Number.MeanSd * t.Number.MeanSd + 1 / weight)
                            );
                        })
                        .OrderByDescending(j => j.Errors)
                        .ToArray();
                    // Of two that differ nobody can say which is odd: both are.
                    var odd = judged.Take(together.Count == 2 ? 2 : 1).Where(j => j.Errors > Limit).ToArray();
                    if (odd.Length == 0)
                        break;
                    foreach (var j in odd.OrderBy(j => j.Copy))
                        apart[j.Copy] =
                            $"copy {j.Copy} has {Show(j.Number.Value)} against {Show(j.Mean)} {j.Number.Unit} of the "
                            + $"{(together.Count == 2 ? "other" : "others")}, {Show(j.Errors, 2)} standard errors";
                    // Two copies that differ say the same thing twice; one sentence is enough.
                    if (odd.Length == 2 && kind.Count() == 2)
                        twice.Add(odd.Min(j => j.Copy));
                    together.RemoveAll(t => apart.ContainsKey(t.Copy));
                }
            }
            CopyCell[] cells =
            [
                .. own.Select(o => new CopyCell(o.Copy, o.Number?.Value, o.Number?.Kind, o.Number?.Source, apart.ContainsKey(o.Copy))),
            ];
            var say = apart.Where(a => !twice.Contains(a.Key)).OrderBy(a => a.Key).Select(a => a.Value).ToList();
            lines.Add(
                new(
                    name,
                    own.First(o => o.Number is not null).Number!.Unit,
                    cells,
                    say.Count == 0 ? null : char.ToUpperInvariant(name[0]) + name[1..] + ": " + string.Join("; ", say) + "."
                )
            );
        }
        return lines;
    }
}
