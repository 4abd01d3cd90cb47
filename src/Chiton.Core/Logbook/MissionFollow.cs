using System.Runtime.InteropServices;

namespace Chiton.Core.Logbook;

/// <summary>What the best plan comes to, try by try.</summary>
internal sealed class MissionFollow
{
    private const double Tie = 1e-9;

    private readonly MissionGraph graph;
    private readonly Mission[] missions;
    private readonly MissionWorth worth;
    private readonly int limit;

    // By time left what is come by, and how likely: cases with the missions that are done.
    private readonly Dictionary<(int At, int Done), double>?[] met;
    private readonly List<Row> rows = [];

    private readonly record struct Row(int At, int Done, int From, int To, int Next, double Likelihood);

    /// <summary>Follows it from the start.</summary>
    public MissionFollow(MissionGraph graph, Mission[] missions, MissionWorth worth, int limit)
    {
        (this.graph, this.missions, this.worth, this.limit) = (graph, missions, worth, limit);
        met = new Dictionary<(int, int), double>?[limit + 1];
        met[limit] = new() { [(graph.Start, 0)] = 1 };
        // Times at which the same is done in the same case are one row.
        var open = new Dictionary<(int At, int Done), Row>();
        // With no time left nothing is to be decided.
        for (var left = limit; left > 0; left--)
        {
            if (met[left] is not { } here)
                continue;
            foreach (var (key, chance) in here)
            {
                var best = Best(key.At, left);
                var next = best?.Mission ?? -1;
                if (open.TryGetValue(key, out var row) && row.Next == next)
                    open[key] = row with { From = left, Likelihood = row.Likelihood + chance };
                else
                {
                    if (row.To > 0)
                        rows.Add(row);
                    open[key] = new(key.At, key.Done, left, left, next, chance);
                }
                if (best is not { } action)
                    continue;
                var m = missions[action.Mission];
                var then = Math.Max(0, left - m.TotalS);
                var apart = m.Points + worth.Penalty + worth.At(action.Done, then) - worth.At(action.Failed, then);
                Variance += chance * m.Success * (1 - m.Success) * apart * apart;
                Meet(then, action.Done, key.Done | (1 << action.Mission), chance * m.Success);
                Meet(then, action.Failed, key.Done, chance * (1 - m.Success));
            }
            met[left] = null;
        }
        rows.AddRange(open.Values);
    }

    /// <summary>Variance of the points.</summary>
    public double Variance { get; }

    private void Meet(int left, int at, int done, double chance)
    {
        if (chance <= 0 || left <= 0)
            return;
        CollectionsMarshal.GetValueRefOrAddDefault(met[left] ??= [], (at, done), out _) += chance;
    }

    // What is best to try; null to stop. Of equals stopping comes first, then the listed order.
    private MissionTry? Best(int at, int left)
    {
        var best = Math.Max(0, worth.At(at, left));
        if (best <= Tie)
            return null;
        foreach (var action in graph.Of(at))
            if (missions[action.Mission].RunS <= left && worth.Try(action, left) >= best - Tie)
                return action;
        throw new InvalidOperationException("A case has a worth that none of its tries has.");
    }

    /// <summary>The mission to try next; −1 to stop.</summary>
    public int Next(int at, int left) => Best(at, left)?.Mission ?? -1;

    /// <summary>What is tried one after the other if each try succeeds.</summary>
    public IReadOnlyList<string> Order()
    {
        var names = new List<string>();
        for (var (at, left) = (graph.Start, limit); Best(at, left) is { } action; at = action.Done)
        {
            names.Add(missions[action.Mission].Name);
            left = Math.Max(0, left - missions[action.Mission].TotalS);
        }
        return names;
    }

    /// <summary>What to do in each case that is come by: times at which the same is done are one row.</summary>
    /// <param name="most">Most rows: the likeliest.</param>
    /// <param name="more">True where there are more.</param>
    public IReadOnlyList<PolicyRow> Rows(int most, out bool more)
    {
        more = rows.Count > most;
        return
        [
            .. rows.OrderByDescending(r => r.Likelihood)
                .ThenByDescending(r => r.To)
                .ThenBy(r => r.Done)
                .ThenBy(r => r.At)
                .Take(most)
                .OrderByDescending(r => r.To)
                .ThenByDescending(r => r.Likelihood)
                .ThenBy(r => r.Done)
                .ThenBy(r => r.At)
                .Select(r => new PolicyRow(
                    [.. missions.Where((_, i) => (r.Done >> i & 1) == 1).Select(m => m.Name)],
                    graph.Left(r.At),
                    r.From,
                    r.To,
                    r.Next < 0 ? null : missions[r.Next].Name,
                    Math.Min(1, r.Likelihood)
                )),
        ];
    }

    /// <summary>What an order of single tries comes to: what is done, used up, closed or does not fit any more is passed over.</summary>
    /// <param name="own">The missions in order.</param>
    /// <param name="penalty">What a failure costs.</param>
    public OwnOrder Own(int[] own, double penalty)
    {
        // By name, case and time left how likely it is and what was earned: the mean of it and of its square.
        var now = new Dictionary<(int At, int Left), (double Chance, double Sum, double Squares)> { [(graph.Start, limit)] = (1, 0, 0) };
        foreach (var mission in own)
        {
            var then = new Dictionary<(int At, int Left), (double Chance, double Sum, double Squares)>();
            void Come(int at, int left, (double Chance, double Sum, double Squares) with, double chance, double plus)
            {
                if (chance <= 0)
                    return;
                var was = then.GetValueOrDefault((at, left));
                then[(at, left)] = (
                    was.Chance + chance * with.Chance,
                    was.Sum + chance * (with.Sum + plus * with.Chance),
                    was.Squares + chance * (with.Squares + 2 * plus * with.Sum + plus * plus * with.Chance)
                );
            }
            foreach (var ((at, left), with) in now)
            {
                MissionTry? made = null;
                foreach (var action in graph.Of(at))
                    if (action.Mission == mission && missions[mission].RunS <= left)
                        made = action;
                if (made is not { } tried)
                {
                    Come(at, left, with, 1, 0);
                    continue;
                }
                var m = missions[mission];
                var after = Math.Max(0, left - m.TotalS);
                Come(tried.Done, after, with, m.Success, m.Points);
                Come(tried.Failed, after, with, 1 - m.Success, -penalty);
            }
            now = then;
        }
        var mean = now.Values.Sum(v => v.Sum);
        return new(mean, Math.Sqrt(Math.Max(0, now.Values.Sum(v => v.Squares) - mean * mean)));
    }
}
