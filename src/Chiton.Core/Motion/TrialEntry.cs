using Chiton.Core.Quantities;

namespace Chiton.Core.Motion;

/// <summary>A trial that may be made.</summary>
/// <param name="Asked">What is asked, in the ask unit.</param>
/// <param name="Commanded">What the controller is told, in the command unit.</param>
/// <param name="Measured">What a person measured; null when the bench is to.</param>
public sealed record TrialEntry(double Asked, double Commanded, double? Measured)
{
    /// <summary>Most trials of a motion.</summary>
    public const int MostTrials = 500;

    /// <summary>Checks what was typed, and works out what the controller is told where that was left out.</summary>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="plan">The motion.</param>
    /// <param name="asked">What is asked.</param>
    /// <param name="told">What the controller is told; null to work it out.</param>
    /// <param name="measured">What a person measured; null when the bench is to.</param>
    /// <param name="sure">True when a question was answered already.</param>
    /// <exception cref="InputProblem">Names the field that is out of its range, or asks about one that looks odd.</exception>
    public static TrialEntry Of(CopyMoves moves, TrialPlan plan, double? asked, double? told, double? measured, bool sure)
    {
        if (moves.Missing(plan) is { } missing)
            throw new InputProblem("key", missing);
        var at = moves.At(plan.Mechanism);
        var need = new Require();
        var most = plan.AskUnit == "%" ? 100 : 1e5;
        var want = need.Number(asked, "asked", plan.Positive && plan.Kind is not (TrialKind.Rest or TrialKind.TimedTurn) ? 0 : -most, most);
        need.That(want != 0 || !need.Holds, "asked", "Ask for something other than 0: a trial that does nothing says nothing.");
        var percent = plan.CommandUnit == "%";
        var given = need.Optional(
            told,
            "commanded",
            plan.Positive || percent && !plan.Signed ? 0
                : percent ? -100
                : -1e6,
            percent ? 100 : 1e6,
            plan.Positive || percent && !plan.Signed
        );
        need.Optional(measured, "measured", -1e6, 1e6);
        if (plan.Kind == TrialKind.LeastPower && measured is { } moved)
            need.That(moved is 0 or 1, "measured", "Say 1 if it moved and 0 if it stayed.");
        need.That(moves.Trials(plan).Count < MostTrials, "key", $"At most {MostTrials} trials of one motion; start it anew.");
        need.Done();
        var number = moves.InUse(plan);
        var commanded = given ?? moves.ToldLast(plan, want) ?? MotionView.Told(plan, want, moves.Fit(plan, want), number, at);
        var expected =
            plan.Kind == TrialKind.LeastPower ? (double?)null
            : plan.Family == TrialFamily.Mean && number is not null ? TrialPlans.Expect(plan, commanded, number.Value, at, want)
            : MotionView.Expected(plan, want, commanded, number, at);
        if (!sure && TrialPlans.Question(plan, want, commanded, measured, expected, at) is { } question)
            throw new InputProblem(question.Field, question.Say + " Keep it if you are sure.");
        return new(want, commanded, measured);
    }
}
