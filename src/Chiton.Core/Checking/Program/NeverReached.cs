namespace Chiton.Core.Checking;

/// <summary>States that no sentence leads to.</summary>
internal sealed class NeverReached : Check
{
    /// <inheritdoc/>
    public override string Code => "never-reached";

    /// <inheritdoc/>
    public override string Title => "A state nothing leads to";

    /// <inheritdoc/>
    public override string Says => "No sentence goes to a state, and it is not where its region begins: it is never entered.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    after 20 s: go Over\n\n  state Over, final\n\n"
        + "  state Lost, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Over\n"
        + "    after 20 s: go Lost\n\n  state Over, final\n\n  state Lost, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input) => ProgramChecks.Find(input.Node);
}
