namespace Chiton.Core.Programs.Engine;

/// <summary>A set of small numbers, of which few are in it at a time: put in and taken out at once, and gone through without looking at the
/// rest.</summary>
internal sealed class ActiveSet(int size)
{
    private readonly int[] items = new int[size],
        place = Places(size);

    /// <summary>How many are in it.</summary>
    public int Count { get; private set; }

    /// <summary>Those in it, in no order unless all were put in by <see cref="AddInOrder"/>.</summary>
    public ReadOnlySpan<int> Items => items.AsSpan(0, Count);

    private static int[] Places(int size)
    {
        var places = new int[size];
        Array.Fill(places, -1);
        return places;
    }

    /// <summary>Puts one in; nothing happens when it is in already.</summary>
    public void Add(int item)
    {
        if (place[item] >= 0)
            return;
        place[item] = Count;
        items[Count++] = item;
    }

    /// <summary>Takes one out; the last takes its place.</summary>
    public void Remove(int item)
    {
        var at = place[item];
        if (at < 0)
            return;
        place[item] = -1;
        var last = items[--Count];
        if (at == Count)
            return;
        items[at] = last;
        place[last] = at;
    }

    /// <summary>Puts one in so that all stand in rising order.</summary>
    public void AddInOrder(int item)
    {
        if (place[item] >= 0)
            return;
        var at = Count++;
        for (; at > 0 && items[at - 1] > item; at--)
            place[items[at] = items[at - 1]] = at;
        place[items[at] = item] = at;
    }

    /// <summary>Takes one out; the others stay in their order.</summary>
    public void RemoveInOrder(int item)
    {
        if (place[item] < 0)
            return;
        for (var at = place[item]; at < Count - 1; at++)
            place[items[at] = items[at + 1]] = at;
        place[item] = -1;
        Count--;
    }

    /// <summary>Takes all out.</summary>
    public void Clear()
    {
        foreach (var item in Items)
            place[item] = -1;
        Count = 0;
    }
}
