namespace Chiton.Core.Proving;

/// <summary>What a test against a target has come to.</summary>
public enum TargetVerdict
{
    /// <summary>It reaches the target.</summary>
    Reached,

    /// <summary>It does not.</summary>
    Missed,

    /// <summary>The runs did not settle it.</summary>
    Open,
}

/// <summary>
/// Stops as soon as runs have settled whether a target is reached. Source: Wald, "Sequential tests of statistical hypotheses" (1945):
/// target − δ against target + δ, each wrong in at most 5 of 100 cases.
/// </summary>
/// <param name="target">The target, 0.1 to 0.98.</param>
public sealed class Sequential(double target)
{
    /// <summary>Least target.</summary>
    public const double Least = 0.1;

    /// <summary>Greatest target: beyond it there is no room for a better machine.</summary>
    public const double Most = 0.98;

    private static readonly double Limit = Math.Log(0.95 / 0.05);

    private readonly double pass = Math.Log((target + Delta(target)) / (target - Delta(target))),
        fail = Math.Log((1 - target - Delta(target)) / (1 - target + Delta(target)));

    private double sum;

    /// <summary>How far either side of the target a rate must lie to be told apart from it.</summary>
    /// <param name="target">The target.</param>
    public static double Delta(double target) => Math.Min(0.05, (1 - target) / 2);

    /// <summary>Runs that were counted.</summary>
    public int Runs { get; private set; }

    /// <summary>Those of them that passed.</summary>
    public int Passes { get; private set; }

    /// <summary>What they have come to.</summary>
    public TargetVerdict Verdict =>
        sum >= Limit ? TargetVerdict.Reached
        : sum <= -Limit ? TargetVerdict.Missed
        : TargetVerdict.Open;

    /// <summary>Counts a run.</summary>
    /// <param name="passed">Whether it passed.</param>
    /// <returns>True when it is settled.</returns>
    public bool Add(bool passed)
    {
        if (Verdict != TargetVerdict.Open)
            return true;
        Runs++;
        Passes += passed ? 1 : 0;
        sum += passed ? pass : fail;
        return Verdict != TargetVerdict.Open;
    }

    /// <summary>In words.</summary>
    public string Say
    {
        get
        {
            var goal = $"{Math.Round(100 * target, 1):0.#} in 100";
            return Verdict switch
            {
                TargetVerdict.Reached => $"It reaches {goal}: settled after {Runs} runs, {Passes} of which passed.",
                TargetVerdict.Missed => $"It does not reach {goal}: settled after {Runs} runs, {Passes} of which passed.",
                _ => $"Whether it reaches {goal} is not settled after {Runs} runs, {Passes} of which passed: it is close to it.",
            };
        }
    }
}
