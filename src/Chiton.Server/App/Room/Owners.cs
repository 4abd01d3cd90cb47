using System.Collections.Concurrent;
using Chiton.Data;

namespace Chiton.Server.App.Room;

/// <summary>Whose each rig is, for what shares the machine out. A rig never changes hands.</summary>
public sealed class Owners(IServiceScopeFactory scopes)
{
    private readonly ConcurrentDictionary<string, long> known = new();

    /// <summary>The team that a rig belongs to; 0 for the desk.</summary>
    public long Of(string rig)
    {
        if (known.TryGetValue(rig, out var team))
            return team;
        using var scope = scopes.CreateScope();
        return known[rig] = scope.ServiceProvider.GetRequiredService<RigStore>().OwnerNow(rig) ?? 0;
    }

    /// <summary>Forgets all: rigs were deleted, and their addresses may be given anew.</summary>
    public void Forget() => known.Clear();
}

/// <summary>What waits, in fair turns: whoever was served longest ago is next, and of what one asked for the latest goes first. Nobody
/// starves, however much another asks for.</summary>
/// <typeparam name="T">What waits; the same thing waits once.</typeparam>
public sealed class FairTurns<T>(Func<T, long> owner)
    where T : notnull
{
    private readonly List<T> waiting = [];
    private readonly Dictionary<long, long> served = [];
    private long turn;

    /// <summary>How many wait.</summary>
    public int Count => waiting.Count;

    /// <summary>Asks for something; asked for again, it goes before what the same one asked for in between.</summary>
    public void Add(T item)
    {
        waiting.Remove(item);
        waiting.Add(item);
    }

    /// <summary>Takes what is next.</summary>
    /// <exception cref="InvalidOperationException">When nothing waits.</exception>
    public T Take()
    {
        var best = -1;
        var (longest, who) = (long.MaxValue, 0L);
        for (var i = waiting.Count - 1; i >= 0; i--)
        {
            var of = owner(waiting[i]);
            var last = served.GetValueOrDefault(of);
            // Of two that were never served, the one that has waited longer; of one and the same, the latest.
            if (best < 0 || last < longest || last == longest && of != who)
                (best, longest, who) = (i, last, of);
        }
        if (best < 0)
            throw new InvalidOperationException("Nothing waits.");
        var item = waiting[best];
        waiting.RemoveAt(best);
        served[who] = ++turn;
        if (served.Count > 1000)
            served.Clear();
        return item;
    }
}
