using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Motion;

/// <summary>One way to turn.</summary>
/// <param name="Style">spin, pivot or arc.</param>
/// <param name="Answer">Its figures.</param>
/// <param name="Input">What they were worked out from.</param>
/// <param name="Say">What it is good for.</param>
public sealed record TurnWay(string Style, Answer<TurnResult> Answer, TurnInput Input, string Say);

/// <summary>One way to stop.</summary>
/// <param name="Style">brake, hold or coast.</param>
/// <param name="WayMm">Way to rest, mm; null while nothing is known.</param>
/// <param name="SdMm">Its spread (SD), mm.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Say">What it does.</param>
public sealed record StopWay(string Style, double? WayMm, double SdMm, Provenance Kind, string Say);

/// <summary>Ways to turn and to stop, side by side.</summary>
public static class DriveWays
{
    /// <summary>The ways to turn, each worked out.</summary>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="turnDeg">How far, robot degrees.</param>
    /// <param name="radiusMm">Radius of the bow, mm.</param>
    /// <param name="motorSpeedDegPerS">Speed of the motors, deg/s.</param>
    /// <exception cref="InputProblem">When it does not turn about, or a field is out of its range.</exception>
    public static IReadOnlyList<TurnWay> Turns(CopyMoves moves, Mechanism m, double? turnDeg, double? radiusMm, double? motorSpeedDegPerS)
    {
        var at = moves.At(m.Name);
        if (m.Facts.Going != Going.Steered)
            throw new InputProblem("mechanism", $"{m.Name} does not turn about.");
        if (at.WheelMm <= 0 || at.TrackMm <= 0)
            throw new InputProblem("mechanism", "Say in Rig how large the wheels are and how far apart.");
        TurnWay Way(string style, string say)
        {
            // A standing tyre scrubs: turns about one wheel have a width of their own where it was tried.
            var width =
                style == "pivot" && moves.InUse(m.Name, TrialKind.Pivot) is { Kind: Provenance.Measured } own ? own.Value : at.TrackMm;
            var input = new TurnInput(at.WheelMm, width, turnDeg, style, radiusMm, at.MotorTurns, motorSpeedDegPerS);
            try
            {
                return new(style, Turn.Compute(input), input, say);
            }
            catch (InputProblem p)
            {
                // The field has another name in this call than in the sum.
                throw new InputProblem(p.Errors.ToDictionary(e => e.Key == "arcRadiusMm" ? "radiusMm" : e.Key, e => e.Value));
            }
        }
        return
        [
            Way("spin", "On the spot: least room, and both wheels' slips count half each."),
            Way("pivot", "About one wheel: half as fast, needs room to one side, and the standing tyre scrubs."),
            Way("arc", "Along a bow: keeps rolling, needs most room."),
        ];
    }

    /// <summary>The ways to stop, each with how far it takes.</summary>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="speedMmPerS">Speed at which it begins, mm/s, above 0 to 10 000.</param>
    /// <exception cref="InputProblem">When the speed is out of its range.</exception>
    public static IReadOnlyList<StopWay> Stops(CopyMoves moves, Mechanism m, double? speedMmPerS)
    {
        var need = new Require();
        var speed = need.Number(speedMmPerS, "speedMmPerS", 0, 1e4, true);
        need.Done();
        var at = moves.At(m.Name);
        StopWay Way(string style, TrialKind kind, string say)
        {
            var plan = moves.Plans.FirstOrDefault(p => p.Mechanism == m.Name && p.Kind == kind);
            if (plan is null)
                return new(style, null, 0, Provenance.Guessed, say);
            // Until it was tried, what is usual stands for it, and is called a guess.
            var number =
                moves.InUse(plan)
                ?? new Quantity(
                    TrialPlans.UsualNumber(kind),
                    plan.NumberUnit,
                    Provenance.Guessed,
                    "a usual value",
                    0,
                    0.1 * TrialPlans.UsualNumber(kind),
                    0.8 * TrialPlans.UsualNumber(kind),
                    1
                );
            double To(double n) => TrialPlans.Expect(plan, speed, Math.Max(1, n), at);
            var sd = Math.Sqrt(number.BetweenRunsSd * number.BetweenRunsSd + number.MoveSd * number.MoveSd);
            return new(style, To(number.Value), Math.Abs(To(number.Value - sd) - To(number.Value + sd)) / 2, number.Kind, say);
        }
        return
        [
            Way("brake", TrialKind.Brake, "Shorted: stops soon and then can be pushed. The usual end for drives."),
            Way(
                "hold",
                TrialKind.Brake,
                "Stops as soon and then holds its place, drawing current: the end for joints and lifts, or on a slope. A joint that "
                    + "is not held sinks or springs back."
            ),
            Way("coast", TrialKind.Coast, "Let go: rolls out softly and spares what it carries, but where it stands varies most."),
        ];
    }
}
