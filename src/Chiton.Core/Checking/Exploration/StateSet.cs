namespace Chiton.Core.Checking;

/// <summary>States that steps lead to, not yet looked up: kept until enough of them can be looked up together.</summary>
internal sealed class Candidates
{
    private readonly int words;
    private ulong[] states = [];
    private ulong[] hashes = [];
    private int[] froms = [],
        steps = [],
        landed = [];

    /// <param name="words">Words of a state.</param>
    public Candidates(int words) => this.words = words;

    /// <summary>How many there are.</summary>
    public int Count { get; private set; }

    /// <summary>Bytes that all of it takes.</summary>
    public long Bytes => 8L * (states.Length + hashes.Length) + 4L * (froms.Length + steps.Length + landed.Length);

    /// <summary>Forgets them; the room stays.</summary>
    public void Clear() => Count = 0;

    /// <summary>One more.</summary>
    /// <param name="state">The state.</param>
    /// <param name="hash">Its hash.</param>
    /// <param name="from">The state that the step begins in; −1 for a start.</param>
    /// <param name="step">The step.</param>
    /// <returns>Which it is.</returns>
    public int Add(ReadOnlySpan<ulong> state, ulong hash, int from, int step)
    {
        if (Count == hashes.Length)
        {
            var room = Math.Max(256, Count * 2);
            Array.Resize(ref states, room * words);
            Array.Resize(ref hashes, room);
            Array.Resize(ref froms, room);
            Array.Resize(ref steps, room);
            Array.Resize(ref landed, room);
        }
        state.CopyTo(states.AsSpan(Count * words));
        (hashes[Count], froms[Count], steps[Count]) = (hash, from, step);
        return Count++;
    }

    /// <summary>Its words.</summary>
    public ReadOnlySpan<ulong> this[int i] => states.AsSpan(i * words, words);

    /// <summary>Its hash.</summary>
    public ulong HashOf(int i) => hashes[i];

    /// <summary>Where it comes from.</summary>
    public (int From, int Step) WayOf(int i) => (froms[i], steps[i]);

    /// <summary>Which state of the shard it turned out to be, once looked up.</summary>
    public ref int Landed(int i) => ref landed[i];
}

/// <summary>
/// Part of the states that were come to, kept once, with the state and the step that each was first come to by. No object
/// for any of them. Different shards may be written at the same time.
/// </summary>
internal sealed class StateShard
{
    // So many are looked up together that the memory answers several at once.
    private const int Together = 24;

    private readonly int words;
    private readonly int[] found = new int[Together];
    private ulong[] kept;
    private int[] parents,
        steps;

    // The upper half of a state's hash and, one higher, its place: most states that are not the one are told by the hash.
    private ulong[] slots;

    /// <param name="words">Words of a state.</param>
    public StateShard(int words)
    {
        this.words = words;
        (kept, parents, steps, slots) = (new ulong[words << 10], new int[1 << 10], new int[1 << 10], new ulong[1 << 11]);
    }

    /// <summary>How many states there are.</summary>
    public int Count { get; private set; }

    /// <summary>Bytes that all of it takes.</summary>
    public long Bytes => 8L * (kept.Length + slots.Length) + 4L * (parents.Length + steps.Length);

    /// <summary>What was read ahead: kept so that reading it is not left out.</summary>
    public ulong ReadAhead { get; private set; }

    /// <summary>A state.</summary>
    public ReadOnlySpan<ulong> this[int state] => kept.AsSpan(state * words, words);

    /// <summary>The state that one was first come from, in the numbers of whoever gave it; −1 for a start.</summary>
    public int ParentOf(int state) => parents[state];

    /// <summary>The step by which.</summary>
    public int StepTo(int state) => steps[state];

    /// <summary>Looks all candidates up, in order; those that are new are kept.</summary>
    public void Add(Candidates candidates)
    {
        for (var begin = 0; begin < candidates.Count; begin += Together)
        {
            var n = Math.Min(Together, candidates.Count - begin);
            // First only the places are read, then the states that stand there: each read waits for no other.
            for (var i = 0; i < n; i++)
                found[i] = Find(candidates.HashOf(begin + i));
            var ahead = 0UL;
            for (var i = 0; i < n; i++)
                ahead ^= kept[Math.Max(0, found[i]) * words];
            ReadAhead = ahead;
            for (var i = 0; i < n; i++)
                candidates.Landed(begin + i) =
                    found[i] >= 0 && this[found[i]].SequenceEqual(candidates[begin + i]) ? found[i] : Add(candidates, begin + i);
        }
    }

    // A state with this hash's upper half; −1 where there is none.
    private int Find(ulong hash)
    {
        var mask = slots.Length - 1;
        for (var at = (int)(hash & (ulong)mask); slots[at] is not 0 and var slot; at = (at + 1) & mask)
            if (slot >> 32 == hash >> 32)
                return (int)(uint)slot - 1;
        return -1;
    }

    private int Add(Candidates candidates, int i)
    {
        var made = candidates[i];
        var hash = candidates.HashOf(i);
        var mask = slots.Length - 1;
        var at = (int)(hash & (ulong)mask);
        for (; slots[at] is not 0 and var slot; at = (at + 1) & mask)
            if (slot >> 32 == hash >> 32 && (int)(uint)slot - 1 is var there && this[there].SequenceEqual(made))
                return there;
        if (Count == parents.Length)
        {
            Array.Resize(ref kept, kept.Length * 2);
            Array.Resize(ref parents, Count * 2);
            Array.Resize(ref steps, Count * 2);
        }
        made.CopyTo(kept.AsSpan(Count * words));
        (parents[Count], steps[Count]) = candidates.WayOf(i);
        slots[at] = hash >> 32 << 32 | (uint)++Count;
        if (Count * 2 > slots.Length)
            Grow();
        return Count - 1;
    }

    private void Grow()
    {
        slots = new ulong[slots.Length * 2];
        var mask = slots.Length - 1;
        for (var i = 0; i < Count; i++)
        {
            var hash = StateSet.Hash(this[i]);
            var at = (int)(hash & (ulong)mask);
            while (slots[at] != 0)
                at = (at + 1) & mask;
            slots[at] = hash >> 32 << 32 | (uint)(i + 1);
        }
    }
}

/// <summary>States of a few words each, kept once, in two shards that two threads can write at the same time.</summary>
/// <remarks>A state's number is its place in its shard, doubled, plus the shard.</remarks>
internal sealed class StateSet
{
    /// <summary>How many shards there are.</summary>
    public const int Shards = 2;

    private readonly StateShard[] shards;

    /// <param name="words">Words of a state.</param>
    public StateSet(int words) => (Words, shards) = (words, [new(words), new(words)]);

    /// <summary>Words of a state.</summary>
    public int Words { get; }

    /// <summary>How many states there are.</summary>
    public long Count => (long)shards[0].Count + shards[1].Count;

    /// <summary>Bytes that all of it takes.</summary>
    public long Bytes => shards[0].Bytes + shards[1].Bytes;

    /// <summary>One of its shards.</summary>
    public StateShard this[int shard] => shards[shard];

    /// <summary>The number of a state of a shard.</summary>
    public static int NumberOf(int shard, int place) => place << 1 | shard;

    /// <summary>The shard that a state with this hash belongs to.</summary>
    public static int ShardOf(ulong hash) => (int)(hash >> 63);

    /// <summary>A state.</summary>
    public ReadOnlySpan<ulong> StateOf(int state) => shards[state & 1][state >> 1];

    /// <summary>The state that one was first come from; −1 for a start.</summary>
    public int ParentOf(int state) => shards[state & 1].ParentOf(state >> 1);

    /// <summary>The step by which.</summary>
    public int StepTo(int state) => shards[state & 1].StepTo(state >> 1);

    /// <summary>Reads a number of a state.</summary>
    public int Field(int state, int bit, int bits) => Field(StateOf(state), bit, bits);

    /// <summary>Reads a number of a state.</summary>
    public static int Field(ReadOnlySpan<ulong> state, int bit, int bits)
    {
        var (w, shift) = (bit >> 6, bit & 63);
        var value = state[w] >> shift;
        if (shift + bits > 64)
            value |= state[w + 1] << (64 - shift);
        return (int)(value & ((1UL << bits) - 1));
    }

    /// <summary>Writes a number into a state, in place of what stands there.</summary>
    public static void Put(Span<ulong> state, int bit, int bits, int value)
    {
        var (w, shift) = (bit >> 6, bit & 63);
        var mask = (1UL << bits) - 1;
        state[w] = state[w] & ~(mask << shift) | (ulong)(uint)value << shift;
        if (shift + bits > 64)
            state[w + 1] = state[w + 1] & ~(mask >> (64 - shift)) | (ulong)(uint)value >> (64 - shift);
    }

    private static ulong Mix(ulong x)
    {
        // Source: the finalizer of MurmurHash3, A. Appleby, public domain.
        x ^= x >> 33;
        x *= 0xFF51AFD7ED558CCDUL;
        x ^= x >> 33;
        x *= 0xC4CEB9FE1A85EC53UL;
        return x ^ (x >> 33);
    }

    /// <summary>A number that hardly two states share.</summary>
    public static ulong Hash(ReadOnlySpan<ulong> state)
    {
        var hash = 0UL;
        foreach (var word in state)
            hash = Mix(hash ^ word);
        return hash;
    }
}
