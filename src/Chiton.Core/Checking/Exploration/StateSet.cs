namespace Chiton.Core.Checking;

/// <summary>States of a few words each, kept once, with the state and the step that each was first come to by.</summary>
internal sealed class StateSet
{
    private readonly int words;
    private readonly ulong[] making;
    private ulong[] kept;
    private int[] parents,
        steps,
        slots;

    /// <param name="words">Words of a state.</param>
    public StateSet(int words)
    {
        (this.words, making) = (words, new ulong[words + 1]);
        (kept, parents, steps, slots) = (new ulong[words << 10], new int[1 << 10], new int[1 << 10], new int[1 << 11]);
    }

    /// <summary>How many states there are.</summary>
    public int Count { get; private set; }

    /// <summary>Bytes that all of it takes.</summary>
    public long Bytes => 8L * kept.Length + 4L * (parents.Length + steps.Length + slots.Length);

    /// <summary>Begins to write a state.</summary>
    public void Begin() => Array.Clear(making);

    /// <summary>Writes a number at a bit; it must fit between there and the next.</summary>
    public void Put(int bit, int value)
    {
        var (w, shift) = (bit >> 6, bit & 63);
        making[w] |= (ulong)(uint)value << shift;
        if (shift > 32)
            making[w + 1] |= (ulong)(uint)value >> (64 - shift);
    }

    /// <summary>Reads a number of a state.</summary>
    public int Field(int state, int bit, int bits)
    {
        var (w, shift) = (state * words + (bit >> 6), bit & 63);
        var value = kept[w] >> shift;
        if (shift + bits > 64)
            value |= kept[w + 1] << (64 - shift);
        return (int)(value & ((1UL << bits) - 1));
    }

    /// <summary>The state that one was first come from; −1 for a start.</summary>
    public int ParentOf(int state) => parents[state];

    /// <summary>The step by which.</summary>
    public int StepTo(int state) => steps[state];

    private static ulong Mix(ulong x)
    {
        // Source: the finalizer of MurmurHash3, A. Appleby, public domain.
        x ^= x >> 33;
        x *= 0xFF51AFD7ED558CCDUL;
        x ^= x >> 33;
        x *= 0xC4CEB9FE1A85EC53UL;
        return x ^ (x >> 33);
    }

    private int Hash(ReadOnlySpan<ulong> state)
    {
        var hash = 0UL;
        foreach (var word in state)
            hash = Mix(hash ^ word);
        return (int)(hash & (ulong)(slots.Length - 1));
    }

    /// <summary>Keeps the state that was written, unless it is there already.</summary>
    /// <returns>Its number.</returns>
    public int Add(int parent, int step, out bool isNew)
    {
        ReadOnlySpan<ulong> made = making.AsSpan(0, words);
        var at = Hash(made);
        for (; slots[at] != 0; at = (at + 1) & (slots.Length - 1))
            if (kept.AsSpan((slots[at] - 1) * words, words).SequenceEqual(made))
            {
                isNew = false;
                return slots[at] - 1;
            }
        isNew = true;
        if (Count == parents.Length)
        {
            Array.Resize(ref kept, kept.Length * 2);
            Array.Resize(ref parents, Count * 2);
            Array.Resize(ref steps, Count * 2);
        }
        made.CopyTo(kept.AsSpan(Count * words));
        (parents[Count], steps[Count]) = (parent, step);
        slots[at] = ++Count;
        if (Count * 2 > slots.Length)
            Grow();
        return Count - 1;
    }

    private void Grow()
    {
        slots = new int[slots.Length * 2];
        for (var i = 0; i < Count; i++)
        {
            var at = Hash(kept.AsSpan(i * words, words));
            while (slots[at] != 0)
                at = (at + 1) & (slots.Length - 1);
            slots[at] = i + 1;
        }
    }
}
