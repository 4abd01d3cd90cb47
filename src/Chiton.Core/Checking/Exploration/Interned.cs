namespace Chiton.Core.Checking;

/// <summary>Strings of bytes, each kept once and known by a number: no object for any of them.</summary>
internal sealed class Interned
{
    private byte[] bytes = new byte[1 << 12];
    private int[] starts = new int[257];
    private int[] slots = new int[512];

    /// <summary>How many there are.</summary>
    public int Count { get; private set; }

    /// <summary>Bytes that all of it takes.</summary>
    public long Bytes => bytes.Length + 4L * (starts.Length + slots.Length);

    /// <summary>One of them.</summary>
    public ReadOnlySpan<byte> this[int number] => bytes.AsSpan(starts[number], starts[number + 1] - starts[number]);

    private static int Hash(ReadOnlySpan<byte> key)
    {
        var hash = new HashCode();
        hash.AddBytes(key);
        return hash.ToHashCode();
    }

    /// <summary>Its number; it is kept when it was not yet.</summary>
    public int Of(ReadOnlySpan<byte> key, out bool isNew)
    {
        var mask = slots.Length - 1;
        var at = Hash(key) & mask;
        // Kept one higher, so that 0 is an empty slot.
        for (; slots[at] != 0; at = (at + 1) & mask)
            if (this[slots[at] - 1].SequenceEqual(key))
            {
                isNew = false;
                return slots[at] - 1;
            }
        isNew = true;
        var end = starts[Count] + key.Length;
        if (end > bytes.Length)
            Array.Resize(ref bytes, Math.Max(end, bytes.Length * 2));
        key.CopyTo(bytes.AsSpan(starts[Count]));
        if (Count + 2 > starts.Length)
            Array.Resize(ref starts, starts.Length * 2);
        starts[++Count] = end;
        slots[at] = Count;
        if (Count * 2 > slots.Length)
            Grow();
        return Count - 1;
    }

    private void Grow()
    {
        slots = new int[slots.Length * 2];
        var mask = slots.Length - 1;
        for (var i = 0; i < Count; i++)
        {
            var at = Hash(this[i]) & mask;
            while (slots[at] != 0)
                at = (at + 1) & mask;
            slots[at] = i + 1;
        }
    }
}
