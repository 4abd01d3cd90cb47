namespace Chiton.Core.Programs.Outside;

/// <summary>What programs take on a board, counted from how their code lays it out.</summary>
/// <param name="TableBytes">Tables that never change, bytes: they stay in read-only memory.</param>
/// <param name="StateBytes">All that changes, bytes.</param>
/// <param name="StackBytes">Deepest stack, bytes: an upper bound by how deep sentences, states and routines stand in each other.</param>
public sealed record BoardSizes(int TableBytes, int StateBytes, int StackBytes);

/// <summary>Counts the size of a struct as compilers lay it out: each member at a multiple of its own size.</summary>
internal sealed class BoardLayout
{
    private int at,
        align = 1;

    /// <summary>Bytes in all, filled up to the alignment.</summary>
    public int Size => (at + align - 1) / align * align;

    /// <summary>What its place must be a multiple of, bytes.</summary>
    public int Align => align;

    /// <summary>Adds members of one size.</summary>
    /// <param name="size">Bytes of each.</param>
    /// <param name="count">How many, side by side.</param>
    /// <param name="aligned">What its place must be a multiple of; 0 for its size.</param>
    public BoardLayout Add(int size, int count = 1, int aligned = 0)
    {
        var by = aligned == 0 ? size : aligned;
        at = (at + by - 1) / by * by + size * count;
        align = Math.Max(align, by);
        return this;
    }

    /// <summary>The same for at least one.</summary>
    public BoardLayout One(int size, int count) => Add(size, Math.Max(1, count));

    /// <summary>Room for so many; of none the one byte that an empty struct takes.</summary>
    public BoardLayout Room(int size, int count, int aligned = 0) => count == 0 ? Add(1) : Add(size, count, aligned);

    /// <summary>Another struct.</summary>
    public BoardLayout Add(BoardLayout inner, int count = 1) => Add(inner.Size, count, inner.Align);
}
