namespace Chiton.Core.Quantities;

/// <summary>
/// A physical number with its unit, where it comes from, and its two spreads. A run draws the number once from the
/// spread of its mean, and each move or reading once more from its own standard deviation.
/// </summary>
/// <param name="Value">The value in <paramref name="Unit"/>. Finite.</param>
/// <param name="Unit">Unit text as in <see cref="Quantities.Unit"/>, or a unit outside the script language such as <c>V</c> or
/// <c>mm/s²</c>.</param>
/// <param name="Kind">Chosen, guessed, calculated or measured.</param>
/// <param name="Source">In words, for people: "5 trials on copy 1", "typed in, never tested".</param>
/// <param name="MeanSd">Standard error of the value between runs, same unit, at least 0. Ignored for guesses, which use
/// <paramref name="Span"/>.</param>
/// <param name="MoveSd">Standard deviation between moves (or readings) within a run, same unit, at least 0.</param>
/// <param name="Span">Usable span of a guess: the width of its plausible range, same unit. The value's distance from zero plays no
/// part.</param>
/// <param name="Min">Physical lower limit, same unit.</param>
/// <param name="Max">Physical upper limit, same unit.</param>
public sealed record Quantity(
    double Value,
    string Unit,
    Provenance Kind,
    string Source,
    double MeanSd = 0,
    double MoveSd = 0,
    double Span = 0,
    double Min = 0,
    double Max = double.MaxValue
)
{
    /// <summary>
    /// The share of a guess's usable span that one standard deviation covers. Cut at three, a guess may lie anywhere
    /// within half its span either side.
    /// </summary>
    public const double GuessShareOfSpan = 1.0 / 6;

    /// <summary>Degrees of freedom with which its spreads were found from readings or trials: few of them know their own spread badly. Null
    /// where the spreads are claimed and not found.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public double? Dof { get; init; }

    /// <summary>Standard deviation of the value between runs: none for a decision, wide for a guess, the standard error for a
    /// measurement.</summary>
    public double BetweenRunsSd =>
        Kind switch
        {
            Provenance.Chosen => 0,
            Provenance.Guessed => GuessShareOfSpan * Span,
            _ => MeanSd,
        };

    /// <summary>The same in another unit.</summary>
    /// <param name="by">What the number is multiplied with.</param>
    /// <param name="unit">The other unit.</param>
    public Quantity Times(double by, string unit) =>
        this with
        {
            Value = Value * by,
            Unit = unit,
            MeanSd = MeanSd * Math.Abs(by),
            MoveSd = MoveSd * Math.Abs(by),
            Span = Span * Math.Abs(by),
            Min = Min > -1e300 ? Min * by : Min,
            Max = Max < 1e300 ? Max * by : Max,
        };

    /// <summary>The value drawn for one run, from a standard normal deviate: cut at three SDs and at the physical limits.</summary>
    /// <param name="deviate">A standard normal deviate.</param>
    public double DrawForRun(double deviate) => Math.Clamp(Value + BetweenRunsSd * Math.Clamp(deviate, -3, 3), Min, Max);
}
