using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Proving;

/// <summary>What runs of a group have in common that others have not.</summary>
/// <param name="Name">The number.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Cut">A value of it.</param>
/// <param name="Below">True when those of the group lie below the value.</param>
/// <param name="There">How many of the group lie there.</param>
/// <param name="Of">How many runs the group has.</param>
/// <param name="OthersThere">How many of the other runs lie there.</param>
/// <param name="Others">How many others there are.</param>
public sealed record InCommon(string Name, string Unit, double Cut, bool Below, int There, int Of, int OthersThere, int Others)
{
    /// <summary>In words: "braking below 700 mm/s² in 33 of these, in 24 of the other 163".</summary>
    public string Say =>
        $"{Name} {(Below ? "below" : "above")} {Show(Cut, 3)}{(Unit.Length > 0 ? " " + Unit : "")} in {There} of these, "
        + $"in {OthersThere} of the other {Others}";
}

/// <summary>Finds what failures have in common.</summary>
public static class Commons
{
    /// <summary>Fewer runs than this have nothing in common but luck.</summary>
    public const int Least = 5;

    /// <summary>
    /// The number whose values set a group apart most; null where none does beyond luck. Source: the two-sample statistic of Smirnov (1939)
    /// at a chance of 5 in 100 that is shared among all numbers.
    /// </summary>
    /// <param name="runs">All runs.</param>
    /// <param name="group">True for the runs of the group.</param>
    public static InCommon? Of(RunsDone runs, IReadOnlyList<bool> group)
    {
        var all = group.Count;
        var own = group.Count(g => g);
        var others = all - own;
        if (own < Least || others < Least || runs.Columns.Count == 0)
            return null;
        // exp(−2·λ²)·2 is the chance of a statistic beyond λ by accident.
        var limit = Math.Sqrt(-0.5 * Math.Log(0.025 / runs.Columns.Count)) * Math.Sqrt((double)all / own / others);
        (double Apart, int Column, float Value, bool Below)? best = null;
        for (var c = 0; c < runs.Columns.Count; c++)
        {
            var values = runs.Values[c];
            var order = Enumerable.Range(0, all).OrderBy(i => values[i]).ToArray();
            int seen = 0,
                seenOwn = 0;
            for (var k = 0; k < all - 1; k++)
            {
                seen++;
                seenOwn += group[order[k]] ? 1 : 0;
                if (values[order[k]] == values[order[k + 1]])
                    continue;
                var apart = (double)seenOwn / own - (double)(seen - seenOwn) / others;
                if (Math.Abs(apart) > limit && Math.Abs(apart) > (best?.Apart ?? 0))
                    best = (Math.Abs(apart), c, (values[order[k]] + values[order[k + 1]]) / 2, apart > 0);
            }
        }
        if (best is not { } b)
            return null;
        // Told with three figures, and counted by what is told.
        var cut = double.Parse(Show(b.Value, 3).Replace("−", "-"), System.Globalization.CultureInfo.InvariantCulture);
        int there = 0,
            othersThere = 0;
        for (var i = 0; i < all; i++)
            if (runs.Values[b.Column][i] < cut == b.Below)
                _ = group[i] ? there++ : othersThere++;
        return new(runs.Columns[b.Column].Name, runs.Columns[b.Column].Unit, cut, b.Below, there, own, othersThere, others);
    }
}
