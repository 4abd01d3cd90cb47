namespace Chiton.Server.App.Lines;

/// <summary>The end of what goes on over a line: its plug comes out, or the board behind it is started anew.</summary>
public sealed class LineEnd
{
    private readonly CancellationTokenSource source = new();
    private string why = "";

    /// <summary>Ends when it came.</summary>
    public CancellationToken Token => source.Token;

    /// <summary>True once it came.</summary>
    public bool Came => Why != "";

    /// <summary>What came, in a sentence; empty while nothing did.</summary>
    public string Why => Volatile.Read(ref why);

    /// <summary>What goes on ends here: nothing that comes later belongs to it. Whoever waits is told with <see cref="Tell"/>.</summary>
    /// <param name="say">Why, in a sentence.</param>
    internal void Come(string say) => Volatile.Write(ref why, say);

    /// <summary>Tells whoever waits for it.</summary>
    internal void Tell() => source.Cancel();
}
