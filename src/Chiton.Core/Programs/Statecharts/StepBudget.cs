namespace Chiton.Core.Programs.Statecharts;

/// <summary>More was to be done than the budget holds.</summary>
/// <param name="steps">How many steps it held.</param>
public sealed class OutOfSteps(long steps) : Exception($"More than {steps} steps.")
{
    /// <summary>How many steps the budget held.</summary>
    public long Steps { get; } = steps;
}

/// <summary>How much a machine may do in all, and who may stop it. A step is a stimulus, a transition, an action or an event.</summary>
/// <param name="steps">Most steps, at least 1.</param>
/// <param name="stop">Stops it from outside; looked at every 1 024 steps.</param>
public sealed class StepBudget(long steps, CancellationToken stop = default)
{
    private long spent;

    /// <summary>Begins anew with all its steps.</summary>
    public void Renew() => spent = 0;

    /// <summary>Takes one step off.</summary>
    /// <exception cref="OutOfSteps">When there is none left.</exception>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public void Spend()
    {
        if (++spent > steps)
            throw new OutOfSteps(steps);
        if ((spent & 1023) == 0)
            stop.ThrowIfCancellationRequested();
    }
}
