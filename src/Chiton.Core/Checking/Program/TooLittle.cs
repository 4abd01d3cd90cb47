using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A plain motor told less power than moves it.</summary>
internal sealed class TooLittle : Check
{
    /// <inheritdoc/>
    public override string Code => "too-little";

    /// <inheritdoc/>
    public override string Title => "Too little power to move";

    /// <inheritdoc/>
    public override string Says =>
        "A motor that takes power only is told less than the least power that moves it: it hums and stands still, or moves on some days "
        + "only.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 10 %\n    after 20 s: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 30 %\n    after 20 s: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not RunNode run || Plain(input, run.Motor) is not { } mechanism)
                continue;
            if (Least(input.Rig, input.Motion, input.Moves, mechanism) is not { } least)
                continue;
            var sd = Spread(least);
            foreach (var value in input.Walk.Values(run.Speed))
            {
                var power = Math.Abs(value.Value);
                if (value.Unit != "%" || power == 0 || power > least.Value + sd)
                    continue;
                // At the least power itself it stands.
                var never = power <= least.Value - sd;
                var guessed = least.Kind == Provenance.Guessed;
                yield return At(
                    command.At,
                    // What is only a guess stops nothing.
                    never && !guessed
                        ? Severity.Stops
                        : Severity.Risky,
                    never ? $"{run.Motor} does not move" : $"{run.Motor} may not move",
                    $"{Show(value.Value)} % is {(never ? "no more than" : "hardly more than")} the "
                        + $"{Show(least.Value, 3)}{(sd > 0 ? $" ± {Show(sd, 2)}" : "")} % that {mechanism} "
                        + $"needs to move ({least.Kind.ToString().ToLowerInvariant()}: {least.Source})."
                        + (guessed ? " Trials in Move find out how much it needs." : ""),
                    run.Motor
                );
                break;
            }
        }
    }

    // The mechanism of a motor that takes power only; null for others.
    private static string? Plain(CheckInput input, string name)
    {
        var moved = input.Walk.Moved(name).ToArray();
        if (!input.Rig.Actuators.Any(a => moved.Contains(a.Name) && a.Kind == ActuatorKind.PlainMotor))
            return null;
        return input.Rig.Mechanisms.FirstOrDefault(m => ProgramWalk.Means(m, name))?.Name;
    }

    /// <summary>The least power that moves a mechanism of a copy, in percent; null where nothing is known.</summary>
    public static Quantity? Least(RigDesign rig, RailMotion? rail, CopyMoves moves, string mechanism) =>
        rig.Vehicle?.Name == mechanism && rail is { } motion ? motion.LeastPowerPercent : moves.InUse(mechanism, TrialKind.LeastPower);

    /// <summary>How far it may lie off, in percent: two standard deviations.</summary>
    public static double Spread(Quantity least) => 2 * Math.Sqrt(least.BetweenRunsSd * least.BetweenRunsSd + least.MoveSd * least.MoveSd);
}
