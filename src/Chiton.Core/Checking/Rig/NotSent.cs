namespace Chiton.Core.Checking;

/// <summary>What a controller was sent last.</summary>
/// <param name="Same">True when it holds what would be sent now.</param>
/// <param name="Revision">The revision that was sent; null where only something of another rig was.</param>
/// <param name="Now">The revision that is on the screen.</param>
/// <param name="Real">True for a copy on a table.</param>
public sealed record SentNote(bool Same, int? Revision, int Now, bool Real);

/// <summary>A controller that holds something else than what is on the screen.</summary>
internal sealed class NotSent : Check
{
    /// <inheritdoc/>
    public override string Code => "not-sent";

    /// <inheritdoc/>
    public override string Title => "The controller holds something else";

    /// <inheritdoc/>
    public override string Says =>
        "What was sent to the controller of this copy is not what is on the screen: a run on the table shows what was sent.";

    /// <inheritdoc/>
    public override string Part => "rig";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) => input.Sent is null ? "Nothing was sent to the controller of this copy yet." : null;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        // It is the copy's: its first program tells of it.
        if (input.ExploredAs > 0 || input.Sent is not { Same: false } sent)
            yield break;
        yield return At(
            0,
            Severity.Advice,
            sent.Revision is { } was ? $"The controller holds revision {was}" : "The controller holds another rig's program",
            (
                sent.Revision is { } r
                    ? $"Revision {r} was sent to it (recorded), and what would be sent now is that of revision {sent.Now}: its "
                        + $"programs, ports or "
                        + "numbers differ."
                    : "What was sent to it last belongs to another rig (recorded)."
            ) + " Send it before it runs on the table."
        );
    }
}
