using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>A trial for the picture.</summary>
/// <param name="Asked">What was asked.</param>
/// <param name="Commanded">What the controller was told.</param>
/// <param name="Measured">What happened.</param>
/// <param name="Above">Where its stitch begins above the rule: what should have happened, in the unit of what happens.</param>
/// <param name="Odd">True when it lies far from the rest.</param>
/// <param name="Told">What a board was told over its line, and what it counted; empty where no line was there.</param>
public sealed record TrialView(double Asked, double Commanded, double Measured, double Above, bool Odd, string Told = "");

/// <summary>A motion with its trials.</summary>
/// <param name="Plan">The motion.</param>
/// <param name="InUse">The number in use on this copy; null when nothing is known.</param>
/// <param name="Accepted">True when it was accepted from trials.</param>
/// <param name="Trials">Trials in the order made.</param>
/// <param name="Fit">What they say for the target.</param>
/// <param name="Target">What is wanted next, in the ask unit.</param>
/// <param name="TargetAbove">The same in the unit of what happens, for the picture.</param>
/// <param name="Command">What the controller is told for the target if nobody says otherwise: on a table what it was told last,
/// since nobody said that it was told anything else; on a stand-in what is suggested.</param>
/// <param name="CommandSay">That command in words, in every kind of degrees it has.</param>
/// <param name="Version">Version of the trials, for leaving one out or starting anew.</param>
/// <param name="Ready">Why it cannot be tried yet; null when it can.</param>
/// <param name="First">What should be found first; null when nothing is.</param>
public sealed record MotionView(
    TrialPlan Plan,
    Quantity? InUse,
    bool Accepted,
    IReadOnlyList<TrialView> Trials,
    TrialFit Fit,
    double Target,
    double TargetAbove,
    double Command,
    string CommandSay,
    int Version,
    string? Ready,
    string? First
)
{
    /// <summary>What the trials suggest to tell the controller next for the target.</summary>
    public double Suggested { get; init; }

    /// <summary>Runs of the log that narrowed the number in use; 0 for none.</summary>
    public int Narrowed { get; init; }

    /// <summary>The same in words.</summary>
    public string SuggestedSay { get; init; } = "";

    /// <summary>A motion as it stands on a copy.</summary>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="plan">The motion.</param>
    /// <param name="wanted">What is wanted next, in the ask unit; what was wanted last when left out.</param>
    /// <param name="version">Version of its trials.</param>
    public static MotionView Of(CopyMoves moves, TrialPlan plan, double? wanted, int version)
    {
        var at = moves.At(plan.Mechanism);
        var made = moves.Trials(plan);
        var missing = moves.Missing(plan);
        var target = wanted ?? Next(moves, plan, made);
        var fit = moves.Fit(plan, target);
        var inUse = moves.InUse(plan);
        var number = inUse ?? fit.Number;
        var suggested = missing is not null ? 0 : Told(plan, target, fit, inUse, at);
        var command = missing is null && moves.ToldLast(plan, target) is { } last ? last : suggested;
        return new(
            plan,
            inUse,
            moves.Accepted(plan) is { Tried: true },
            [
                .. made.Select(
                    (t, i) =>
                        new TrialView(
                            t.Asked,
                            t.Commanded,
                            t.Measured,
                            Expected(plan, t.Asked, t.Commanded, number, at),
                            fit.Odd.Contains(i),
                            t.Told
                        )
                ),
            ],
            fit,
            target,
            Expected(plan, target, command, number, at),
            command,
            Words(plan, command, at),
            version,
            missing,
            missing is null ? moves.First(plan) : null
        )
        {
            Suggested = suggested,
            Narrowed = moves.Accepted(plan)?.Narrowed ?? 0,
            SuggestedSay = Words(plan, suggested, at),
        };
    }

    // What was wanted last is wanted still; of a square the other way round comes next.
    private static double Next(CopyMoves moves, TrialPlan plan, IReadOnlyList<Trial> made) =>
        made.Count == 0 ? plan.Usual
        : plan.Family == TrialFamily.Bracket ? moves.Fit(plan, 0).NextCommand ?? plan.Usual
        : plan.Kind == TrialKind.Square ? -made[^1].Asked
        : made[^1].Asked;

    /// <summary>What the controller is told for a target: by the number in use, or by the trials where those say more.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="target">What is wanted, in the ask unit.</param>
    /// <param name="fit">What the trials say for it.</param>
    /// <param name="inUse">The number in use; null when nothing is known.</param>
    /// <param name="at">What else is known.</param>
    public static double Told(TrialPlan plan, double target, TrialFit fit, Quantity? inUse, TrialSetting at) =>
        (plan.Family == TrialFamily.Line || fit.Second is not null && plan.Kind == TrialKind.Straight) && fit.NextCommand is { } next ? next
        : plan.Kind == TrialKind.Square ? TrialPlans.Command(plan, target, inUse?.Value, at)
        : TrialPlans.Command(plan, target, (fit.Number ?? inUse)?.Value, at);

    /// <summary>What should happen, in the unit of what happens.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="asked">What is asked, in the ask unit.</param>
    /// <param name="commanded">What the controller is told, in the command unit.</param>
    /// <param name="number">The number in use; null when nothing is known.</param>
    /// <param name="at">What else is known.</param>
    public static double Expected(TrialPlan plan, double asked, double commanded, Quantity? number, TrialSetting at) =>
        plan.Kind switch
        {
            TrialKind.Square => Math.Sign(asked) * 360,
            _ when plan.Signed => 0,
            _ when plan.Family != TrialFamily.Mean => asked,
            TrialKind.Straight or TrialKind.Turn or TrialKind.Pivot or TrialKind.Speed => asked,
            _ => number is null ? 0 : TrialPlans.Expect(plan, commanded, number.Value, at, asked),
        };

    // A command in words, in every kind of degrees it has.
    private static string Words(TrialPlan plan, double command, TrialSetting at)
    {
        var told = $"{Show(command, 5)} {plan.CommandUnit}";
        if (plan.CommandUnit != "wheel deg")
            return told;
        var motor = at.MotorTurns == 1 ? " (motor degrees the same)" : $", {Show(command * at.MotorTurns, 5)} motor deg";
        if (plan.Kind == TrialKind.Pivot)
            return $"{told} on one wheel{motor}, the other stands";
        if (plan.Kind is not (TrialKind.Turn or TrialKind.Square))
            return told + motor;
        var corner = plan.Kind == TrialKind.Square ? ", a quarter of it at each corner" : "";
        return $"{told} on the left wheel and as much back on the right{motor}{corner}";
    }
}
