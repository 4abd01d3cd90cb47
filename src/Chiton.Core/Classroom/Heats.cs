using Chiton.Core.Simulation;

namespace Chiton.Core.Classroom;

/// <summary>What a heat is scored by.</summary>
public enum HeatScore
{
    /// <summary>Who has more points.</summary>
    Points,

    /// <summary>Who needs less time.</summary>
    Time,

    /// <summary>Who comes farther.</summary>
    Distance,

    /// <summary>Who stays up longer.</summary>
    Stays,
}

/// <summary>Two teams in two lanes.</summary>
/// <param name="Round">The round, from 0.</param>
/// <param name="First">The team in the first lane, by its place in the list.</param>
/// <param name="Second">The team in the second lane.</param>
public sealed record Heat(int Round, int First, int Second);

/// <summary>How a heat came out.</summary>
/// <param name="Heat">Which.</param>
/// <param name="First">Score of the team in the first lane; null where it could not start.</param>
/// <param name="Second">Score of the team in the second lane.</param>
public sealed record HeatResult(Heat Heat, double? First, double? Second);

/// <summary>A line of the table.</summary>
/// <param name="Team">The team, by its place in the list.</param>
/// <param name="Place">Its place, from 1; teams that nothing parts share one.</param>
/// <param name="Played">Heats it was in.</param>
/// <param name="Won">Heats it won.</param>
/// <param name="Drawn">Heats that nobody won.</param>
/// <param name="Points">Two a win, one a draw.</param>
/// <param name="Best">Its best score; null while it has none.</param>
/// <param name="Total">All its scores together.</param>
public sealed record HeatLine(int Team, int Place, int Played, int Won, int Drawn, int Points, double? Best, double Total);

/// <summary>Round robin: who meets whom, and what follows from the results.</summary>
public static class Heats
{
    /// <summary>Fewest teams.</summary>
    public const int Least = 2;

    /// <summary>Most teams.</summary>
    public const int Most = 16;

    /// <summary>In which order ties are parted, as it is stated beside every table.</summary>
    public const string Ties =
        "Teams of equal points are parted by their own heats, then by their best score, then by all scores together; whom nothing parts "
        + "shares a place.";

    /// <summary>Every pair once, in rounds in which nobody is twice. With an odd number one team a round has a bye, each once. Lanes are
    /// shared as evenly as can be. Source: the circle method (Kirkman, "On a problem in combinations", 1847).</summary>
    /// <param name="teams">How many, 2 to 16.</param>
    /// <returns>The heats, round by round.</returns>
    /// <exception cref="ArgumentOutOfRangeException">When there are too few or too many.</exception>
    public static IReadOnlyList<Heat> Schedule(int teams)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(teams, Least);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(teams, Most);
        var seats = teams + teams % 2;
        var heats = new List<Heat>();
        for (var round = 0; round < seats - 1; round++)
        for (var i = 0; i < seats / 2; i++)
        {
            // One stays, the others go round by one seat a round.
            int At(int seat) => seat == 0 ? 0 : 1 + (seat - 1 + round) % (seats - 1);
            var (one, other) = (At(i), At(seats - 1 - i));
            if (one >= teams || other >= teams)
                continue;
            // Who is an odd number of places further up takes the first lane, who is an even number the second: as often one as the other.
            var (low, high) = (Math.Min(one, other), Math.Max(one, other));
            heats.Add((high - low) % 2 == 1 ? new(round, low, high) : new(round, high, low));
        }
        return heats;
    }

    /// <summary>The team that has a bye in a round; null where none has.</summary>
    public static int? Bye(int teams, int round, IEnumerable<Heat> heats) =>
        teams % 2 == 0
            ? null
            : Enumerable.Range(0, teams).Except(heats.Where(h => h.Round == round).SelectMany(h => new[] { h.First, h.Second })).Single();

    /// <summary>Who won: 1 the first lane, −1 the second, 0 nobody. Who could not start loses to who could.</summary>
    /// <param name="result">The result.</param>
    /// <param name="by">What is scored by.</param>
    /// <param name="within">Scores no farther apart are a draw.</param>
    public static int Winner(HeatResult result, HeatScore by, double within = 0) =>
        (result.First, result.Second) switch
        {
            (null, null) => 0,
            (null, _) => -1,
            (_, null) => 1,
            // What was typed with two digits is as far apart as it was typed.
            ({ } a, { } b) when Math.Abs(a - b) <= within + 1e-9 => 0,
            ({ } a, { } b) => Math.Sign(by == HeatScore.Time ? b.CompareTo(a) : a.CompareTo(b)),
        };

    /// <summary>
    /// The table. Ties are parted by the order that is stated beside it: points, then the heats of those who are tied among themselves,
    /// then the best score, then all scores together; whom nothing parts shares a place. A team that withdrew counts as if it had never
    /// been there: its heats are taken out for all.
    /// </summary>
    /// <param name="teams">How many teams.</param>
    /// <param name="results">Results; the latest of a heat counts.</param>
    /// <param name="by">What is scored by.</param>
    /// <param name="withdrawn">Teams that withdrew; null for none.</param>
    /// <param name="within">Scores no farther apart are a draw.</param>
    public static IReadOnlyList<HeatLine> Table(
        int teams,
        IEnumerable<HeatResult> results,
        HeatScore by,
        IReadOnlySet<int>? withdrawn = null,
        double within = 0
    )
    {
        HeatResult[] counted =
        [
            .. results
                .GroupBy(r => (Math.Min(r.Heat.First, r.Heat.Second), Math.Max(r.Heat.First, r.Heat.Second)))
                .Select(g => g.Last())
                .Where(r => withdrawn?.Contains(r.Heat.First) != true && withdrawn?.Contains(r.Heat.Second) != true),
        ];
        var lines = Enumerable
            .Range(0, teams)
            .Where(t => withdrawn?.Contains(t) != true)
            .Select(t => Line(t, counted, by, within))
            .ToArray();
        var better = by == HeatScore.Time ? -1 : 1;
        double Worth(double? best) => best is { } b ? better * b : double.NegativeInfinity;
        // Among those of equal points only their own heats count.
        int Among(HeatLine line) =>
            Line(
                line.Team,
                [
                    .. counted.Where(r =>
                        lines.Any(l => l.Points == line.Points && l.Team == r.Heat.First)
                        && lines.Any(l => l.Points == line.Points && l.Team == r.Heat.Second)
                    ),
                ],
                by,
                within
            ).Points;
        var ranked = lines
            .Select(l => (Line: l, Key: (l.Points, Among: Among(l), Best: Worth(l.Best), Total: better * l.Total)))
            .OrderByDescending(x => x.Key.Points)
            .ThenByDescending(x => x.Key.Among)
            .ThenByDescending(x => x.Key.Best)
            .ThenByDescending(x => x.Key.Total)
            .ThenBy(x => x.Line.Team)
            .ToArray();
        return [.. ranked.Select((x, i) => x.Line with { Place = 1 + Array.FindIndex(ranked, y => y.Key == x.Key) })];
    }

    private static HeatLine Line(int team, IReadOnlyList<HeatResult> results, HeatScore by, double within)
    {
        var (played, won, drawn, total) = (0, 0, 0, 0.0);
        double? best = null;
        foreach (var r in results)
        {
            var first = r.Heat.First == team;
            if (!first && r.Heat.Second != team)
                continue;
            played++;
            var outcome = Winner(r, by, within);
            won += outcome == (first ? 1 : -1) ? 1 : 0;
            drawn += outcome == 0 ? 1 : 0;
            if ((first ? r.First : r.Second) is not { } score)
                continue;
            total += score;
            best = best is not { } b || (by == HeatScore.Time ? score < b : score > b) ? score : b;
        }
        return new(team, 0, played, won, drawn, 2 * won + drawn, best, total);
    }

    /// <summary>How likely each place is for each team: every heat that was not held is drawn from runs of the machines, again and
    /// again.</summary>
    /// <param name="teams">How many teams.</param>
    /// <param name="held">Results that are there already; they count as they are.</param>
    /// <param name="by">What is scored by.</param>
    /// <param name="draw">Draws a heat: given who meets and a source of numbers from 0 to below what it is asked for.</param>
    /// <param name="times">How many tournaments.</param>
    /// <param name="seed">Seed of the whole.</param>
    /// <param name="withdrawn">Teams that withdrew; null for none.</param>
    /// <param name="within">Scores no farther apart are a draw.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>By team and place, from 0: the share of tournaments; a shared place counts for those who share it, in equal parts of the
    /// places that they take up. Of a team that withdrew nothing but zeros.</returns>
    public static double[][] Chances(
        int teams,
        IReadOnlyList<HeatResult> held,
        HeatScore by,
        Func<Heat, Func<int, int>, (double? First, double? Second)> draw,
        int times,
        ulong seed,
        IReadOnlySet<int>? withdrawn = null,
        double within = 0,
        CancellationToken cancel = default
    )
    {
        static (int, int) Pair(Heat h) => (Math.Min(h.First, h.Second), Math.Max(h.First, h.Second));
        bool Gone(int team) => withdrawn?.Contains(team) == true;
        var known = held.Select(h => Pair(h.Heat)).ToHashSet();
        Heat[] open = [.. Schedule(teams).Where(h => !known.Contains(Pair(h)) && !Gone(h.First) && !Gone(h.Second))];
        var luck = new RandomStream(seed, 16);
        int Below(int n) => Math.Min(n - 1, (int)(luck.Uniform() * n));
        var share = new double[teams][];
        for (var t = 0; t < teams; t++)
            share[t] = new double[teams];
        var results = new List<HeatResult>();
        for (var n = 0; n < times; n++)
        {
            cancel.ThrowIfCancellationRequested();
            results.Clear();
            results.AddRange(held);
            foreach (var heat in open)
            {
                var (first, second) = draw(heat, Below);
                results.Add(new(heat, first, second));
            }
            foreach (var tied in Table(teams, results, by, withdrawn, within).GroupBy(l => l.Place))
            {
                var count = tied.Count();
                foreach (var line in tied)
                    for (var place = tied.Key; place < tied.Key + count; place++)
                        share[line.Team][place - 1] += 1.0 / count;
            }
        }
        return [.. share.Select(s => s.Select(n => n / times).ToArray())];
    }
}
