using System.Collections.Concurrent;
using Chiton.Core.Classroom;
using Chiton.Data;

namespace Chiton.Server.App;

/// <summary>How likely a heat comes out so.</summary>
/// <param name="First">The first wins.</param>
/// <param name="Draw">Nobody wins.</param>
public sealed record HeatOdds(double First, double Draw);

/// <summary>What the bench says of heats, worked out.</summary>
/// <param name="Before">By team and place: how likely before the first heat.</param>
/// <param name="Now">By team and place: how likely with the results there are.</param>
/// <param name="Heats">By heat.</param>
/// <param name="Typical">The middle of each team's scores; null where it has none.</param>
public sealed record HeatsSaid(
    double[][] Before,
    double[][] Now,
    IReadOnlyDictionary<Heat, HeatOdds> Heats,
    IReadOnlyList<double?> Typical
);

/// <summary>Chances of places, worked out once for each result: every device asks for them.</summary>
public sealed class HeatChances
{
    /// <summary>Draws of a heat for its odds.</summary>
    public const int Draws = 2000;

    private const int MostKept = 100;

    private readonly ConcurrentDictionary<(long Heats, long Last, DateTime Runs), HeatsSaid> known = new();

    /// <summary>How many tournaments are drawn: the more teams, the more heats each has.</summary>
    /// <param name="teams">How many teams.</param>
    public static int Times(int teams) => Math.Clamp(30_000 / (teams * (teams - 1) / 2), 300, 2000);

    /// <summary>What the bench says.</summary>
    /// <param name="h">The heats.</param>
    /// <param name="runs">The runs.</param>
    /// <param name="cancel">Gives up.</param>
    public HeatsSaid Of(KeptHeats h, ContestRuns runs, CancellationToken cancel)
    {
        var key = (h.Row.Id, h.Events.Count == 0 ? 0 : h.Events[^1].Event.Id, h.Row.RunsUtc ?? default);
        if (known.TryGetValue(key, out var there))
            return there;
        var (challenge, now, teams) = (h.Challenge, h.Standing, h.Entries.Count);
        double[][] Chances(IReadOnlyList<HeatResult> held, IReadOnlySet<int>? withdrawn) =>
            Heats.Chances(teams, held, challenge.By, runs.Draw, Times(teams), 1, withdrawn, challenge.Within, cancel);
        var said = new HeatsSaid(
            Chances([], null),
            Chances([.. now.Results.Values], now.Withdrawn),
            now.Heats.ToDictionary(x => x, x => Odds(x, challenge, runs)),
            [.. Enumerable.Range(0, teams).Select(t => Middle(runs, t))]
        );
        if (known.Count >= MostKept)
            known.Clear();
        return known[key] = said;
    }

    private static HeatOdds Odds(Heat heat, Challenge challenge, ContestRuns runs)
    {
        var luck = new Core.Simulation.RandomStream(1, 17);
        int Below(int n) => Math.Min(n - 1, (int)(luck.Uniform() * n));
        var (won, drawn) = (0, 0);
        for (var i = 0; i < Draws; i++)
        {
            var (first, second) = runs.Draw(heat, Below);
            switch (Heats.Winner(new(heat, first, second), challenge.By, challenge.Within))
            {
                case 1:
                    won++;
                    break;
                case 0:
                    drawn++;
                    break;
            }
        }
        return new(Math.Round(won / (double)Draws, 3), Math.Round(drawn / (double)Draws, 3));
    }

    // A run that does not count is worse than all that do; where that is the middle, there is none.
    private static double? Middle(ContestRuns runs, int team)
    {
        double?[] scores =
            runs.Met.Count > 0
                ?
                [
                    .. runs
                        .Met.Where(m => m.First == team || m.Second == team)
                        .SelectMany(m => m.Scores.Select(s => m.First == team ? s[0] : s[1])),
                ]
            : team < runs.Alone.Count ? [.. runs.Alone[team]]
            : [];
        double[] counted = [.. scores.OfType<double>().Order()];
        return counted.Length * 2 <= scores.Length ? null : counted[counted.Length / 2];
    }
}
