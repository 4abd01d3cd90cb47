using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>A trial: what was asked and what happened.</summary>
/// <param name="Commanded">What was asked.</param>
/// <param name="Measured">What happened.</param>
public sealed record TrialPair(double? Commanded, double? Measured);

/// <summary>Input of the sum <c>drive-fit</c>.</summary>
/// <param name="Pairs">Trials, one or more.</param>
/// <param name="Target">What is wanted.</param>
/// <param name="Confidence">How sure the interval is to be, between 0 and 1; 0.95 when left out.</param>
public sealed record DriveFitInput(IReadOnlyList<TrialPair>? Pairs, double? Target, double? Confidence = null);

/// <summary>Result of the sum <c>drive-fit</c>.</summary>
/// <param name="Slope">What one unit of command brings.</param>
/// <param name="Intercept">What happens at a command of nothing.</param>
/// <param name="NextCommand">The command to try next.</param>
/// <param name="ResidualSd">How far trials lie from the line, SD; null below three trials.</param>
/// <param name="MeasuredLow">At that command, at least this is likely; null below three trials.</param>
/// <param name="MeasuredHigh">At most this; null below three trials.</param>
public sealed record DriveFitResult(
    double Slope,
    double Intercept,
    double NextCommand,
    double? ResidualSd,
    double? MeasuredLow,
    double? MeasuredHigh
);

/// <summary>From trials to the next command.</summary>
public static class DriveFit
{
    /// <summary>Most trials.</summary>
    public const int MostPairs = 10_000;

    /// <summary>
    /// Computes the sum: least squares, with the prediction interval of a new trial by Student's t. One trial gives a line
    /// through the origin. Source: Draper and Smith, "Applied regression analysis", the simple straight line.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<DriveFitResult> Compute(DriveFitInput input)
    {
        var need = new Require();
        var given = input.Pairs ?? [];
        need.That(given.Count is >= 1 and <= MostPairs, "pairs", $"Give 1 to {MostPairs} trials.");
        var pairs = new List<(double X, double Y)>();
        for (var i = 0; i < Math.Min(given.Count, MostPairs); i++)
        {
            if (given[i] is null)
            {
                need.That(false, $"pairs[{i}]", "Give commanded and measured.");
                continue;
            }
            pairs.Add(
                (
                    need.Number(given[i].Commanded, $"pairs[{i}].commanded", -1e7, 1e7),
                    need.Number(given[i].Measured, $"pairs[{i}].measured", -1e7, 1e7)
                )
            );
        }
        var target = need.Number(input.Target, "target", -1e7, 1e7);
        var confidence = input.Confidence ?? 0.95;
        need.That(
            double.IsFinite(confidence) && confidence is > 0 and < 1,
            "confidence",
            "Must be a number greater than 0 and less than 1."
        );
        need.Done();
        var n = pairs.Count;
        double slope,
            intercept,
            sxx = 0,
            meanX = pairs.Average(p => p.X),
            meanY = pairs.Average(p => p.Y);
        var steps = new List<Step>();
        if (n == 1)
        {
            if (pairs[0].X == 0)
                throw new InputProblem("pairs[0].commanded", "One trial with a command of nothing says nothing; command something.");
            (slope, intercept) = (pairs[0].Y / pairs[0].X, 0);
            steps.Add(new("One unit brings", $"{Show(pairs[0].Y)} / {Show(pairs[0].X)}", slope, ""));
        }
        else
        {
            sxx = pairs.Sum(p => (p.X - meanX) * (p.X - meanX));
            var sxy = pairs.Sum(p => (p.X - meanX) * (p.Y - meanY));
            if (!(sxx > 1e-18 * Math.Max(1e-12, meanX * meanX)))
                throw new InputProblem(
                    "pairs",
                    "All commands are equal, so nobody can say what another one would bring. Try a different command."
                );
            slope = sxy / sxx;
            intercept = meanY - slope * meanX;
            steps.Add(new("Mean of the commands, and of what happened", $"{Show(meanX)}; {Show(meanY)}", null, ""));
            steps.Add(new("One unit brings", $"{Show(sxy)} / {Show(sxx)}", slope, ""));
            steps.Add(new("A command of nothing brings", $"{Show(meanY)} − {Show(slope)} × {Show(meanX)}", intercept, ""));
        }
        if (slope == 0 || !double.IsFinite(target / slope))
            throw new InputProblem("pairs", "What happened does not depend on what was asked, so no command brings the target.");
        var next = (target - intercept) / slope;
        steps.Add(
            new(
                "Next command",
                n == 1 ? $"{Show(target)} / {Show(slope)}" : $"({Show(target)} − {Show(intercept)}) / {Show(slope)}",
                next,
                ""
            )
        );
        double? sd = null,
            low = null,
            high = null;
        if (n >= 3)
        {
            sd = Math.Sqrt(Math.Max(0, pairs.Sum(p => Math.Pow(p.Y - intercept - slope * p.X, 2))) / (n - 2));
            var t = MathNet.Numerics.Distributions.StudentT.InvCDF(0, 1, n - 2, (1 + confidence) / 2);
            var half = t * sd.Value * Math.Sqrt(1 + 1.0 / n + (next - meanX) * (next - meanX) / sxx);
            (low, high) = (target - half, target + half);
            steps.Add(new("Trials lie from the line by (SD)", $"over {n} − 2 trials", sd, ""));
            steps.Add(new($"Student's t for {Show(confidence * 100)} %", $"t({Show((1 + confidence) / 2)}; {n - 2})", t, ""));
            steps.Add(new("The next trial lies within, either side", $"{Show(t)} × {Show(sd.Value)} × √(1 + 1/{n} + …)", half, ""));
        }
        var cautions = new List<string>();
        if (n < 3)
            cautions.Add(
                $"{(n == 1 ? "One trial" : "Two trials")} cannot tell a lucky one from a reliable one: make {3 - n} more before "
                    + "you trust it."
            );
        if (
            n > 1
            && (
                next < pairs.Min(p => p.X) - 0.5 * (pairs.Max(p => p.X) - pairs.Min(p => p.X))
                || next > pairs.Max(p => p.X) + 0.5 * (pairs.Max(p => p.X) - pairs.Min(p => p.X))
            )
        )
            cautions.Add("The next command lies far outside those tried: the line may bend there. Approach it in steps.");
        return new(new(slope, intercept, next, sd, low, high), steps, cautions, null);
    }
}

/// <summary>A pair of gears.</summary>
/// <param name="DriverTeeth">Teeth of the gear that drives.</param>
/// <param name="DrivenTeeth">Teeth of the gear that is driven.</param>
public sealed record GearStage(double? DriverTeeth, double? DrivenTeeth);

/// <summary>Input of the sum <c>gear-train</c>.</summary>
/// <param name="Stages">Stages from the motor on.</param>
/// <param name="MotorSpeedDegPerS">Speed of the motor, motor degrees a second.</param>
/// <param name="MotorTorqueMNm">Torque of the motor, mN·m; left out when not known.</param>
/// <param name="EfficiencyPerStage">Share of the torque that each stage passes on; 0.9 when left out.</param>
public sealed record GearTrainInput(
    IReadOnlyList<GearStage>? Stages,
    double? MotorSpeedDegPerS,
    double? MotorTorqueMNm = null,
    double? EfficiencyPerStage = null
);

/// <summary>Result of the sum <c>gear-train</c>.</summary>
/// <param name="Ratio">Motor turns for one output turn.</param>
/// <param name="OutputSpeedDegPerS">Speed of the output, degrees a second.</param>
/// <param name="OutputTorqueMNm">Torque of the output, mN·m; null without the motor's.</param>
/// <param name="Direction">same or opposite.</param>
public sealed record GearTrainResult(double Ratio, double OutputSpeedDegPerS, double? OutputTorqueMNm, string Direction);

/// <summary>What gears make of a motor.</summary>
public static class GearTrain
{
    /// <summary>Computes the sum. Source: teeth pass at the same rate; each meshing pair turns the direction round.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<GearTrainResult> Compute(GearTrainInput input)
    {
        var need = new Require();
        var given = input.Stages ?? [];
        need.That(given.Count is >= 1 and <= 20, "stages", "Give 1 to 20 stages.");
        double ratio = 1;
        var steps = new List<Step>();
        for (var i = 0; i < Math.Min(given.Count, 20); i++)
        {
            if (given[i] is null)
            {
                need.That(false, $"stages[{i}]", "Give both gears.");
                continue;
            }
            var driver = need.Whole(given[i].DriverTeeth, $"stages[{i}].driverTeeth", 1, 10_000);
            var driven = need.Whole(given[i].DrivenTeeth, $"stages[{i}].drivenTeeth", 1, 10_000);
            var before = ratio;
            ratio *= (double)driven / driver;
            steps.Add(
                new(
                    $"After stage {i + 1}",
                    i == 0 ? $"{driven} / {driver}" : $"{Show(before)} × {driven} / {driver}",
                    ratio,
                    "motor turns a turn"
                )
            );
        }
        var speed = need.Number(input.MotorSpeedDegPerS, "motorSpeedDegPerS", 0, 1e6);
        var torque = need.Optional(input.MotorTorqueMNm, "motorTorqueMNm", 0, 1e6);
        var efficiency = need.Number(input.EfficiencyPerStage ?? 0.9, "efficiencyPerStage", 0, 1, aboveMin: true);
        need.Done();
        var output = speed / ratio;
        var direction = given.Count % 2 == 0 ? "same" : "opposite";
        steps.Add(new("The output turns at", $"{Show(speed)} / {Show(ratio)}", output, "deg/s"));
        double? strong = null;
        if (torque is { } m)
        {
            strong = m * ratio * Math.Pow(efficiency, given.Count);
            steps.Add(new("Torque of the output", $"{Show(m)} × {Show(ratio)} × {Show(efficiency)}^{given.Count}", strong, "mN·m"));
        }
        steps.Add(
            new("Direction", $"{Count(given.Count, "meshing pair")}", null, direction == "same" ? "as the motor" : "against the motor")
        );
        return new(new(ratio, output, strong, direction), steps, [], null);
    }
}

/// <summary>Input of the sum <c>click-encoder</c>.</summary>
/// <param name="ClicksPerEncoderTurn">Clicks for one turn of the encoder.</param>
/// <param name="EncoderTurnsPerWheelTurn">Encoder turns for one turn of the wheel.</param>
/// <param name="WheelDiameterMm">Diameter of the wheel, mm.</param>
/// <param name="TrackWidthMm">Track width, mm.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="ReadingsPerLevel">Readings that each level must last; 2 when left out.</param>
/// <param name="PressedFraction">Share of a click during which the switch is down; 0.5 when left out.</param>
/// <param name="TargetTurnDeg">A turn that is wanted, robot degrees; judged when given.</param>
public sealed record ClickEncoderInput(
    double? ClicksPerEncoderTurn,
    double? EncoderTurnsPerWheelTurn,
    double? WheelDiameterMm,
    double? TrackWidthMm,
    double? SamplePeriodMs,
    double? ReadingsPerLevel = null,
    double? PressedFraction = null,
    double? TargetTurnDeg = null
);

/// <summary>Result of the sum <c>click-encoder</c>.</summary>
/// <param name="ClicksPerWheelTurn">Clicks for one turn of the wheel.</param>
/// <param name="WheelDegPerClick">Wheel degrees a click.</param>
/// <param name="MmPerClick">Way a click, mm.</param>
/// <param name="PivotDegPerClick">Robot degrees a click when pivoting on one wheel.</param>
/// <param name="SpinDegPerClick">Robot degrees a click when spinning on the spot.</param>
/// <param name="MaxWheelTurnsPerS">Faster than this it misses clicks and cannot know.</param>
/// <param name="TargetClicks">Clicks that come nearest to the turn wanted, pivoting; null when none is.</param>
/// <param name="TurnLowDeg">After these clicks it has turned at least so far, robot degrees.</param>
/// <param name="TurnHighDeg">And at most so far: nobody knows where between two clicks it began.</param>
public sealed record ClickEncoderResult(
    double ClicksPerWheelTurn,
    double WheelDegPerClick,
    double MmPerClick,
    double PivotDegPerClick,
    double SpinDegPerClick,
    double MaxWheelTurnsPerS,
    double? TargetClicks = null,
    double? TurnLowDeg = null,
    double? TurnHighDeg = null
);

/// <summary>What a home-made encoder can tell.</summary>
public static class ClickEncoder
{
    /// <summary>Computes the sum. Source: geometry; each level of a click must last its readings to be seen.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<ClickEncoderResult> Compute(ClickEncoderInput input)
    {
        var need = new Require();
        var clicks = need.Number(input.ClicksPerEncoderTurn, "clicksPerEncoderTurn", 0, 1e5, aboveMin: true);
        var turns = need.Number(input.EncoderTurnsPerWheelTurn, "encoderTurnsPerWheelTurn", 0, 1e4, aboveMin: true);
        var diameter = need.Number(input.WheelDiameterMm, "wheelDiameterMm", 0, 1e5, aboveMin: true);
        var track = need.Number(input.TrackWidthMm, "trackWidthMm", 0, 1e5, aboveMin: true);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var readings = need.Whole(input.ReadingsPerLevel ?? 2, "readingsPerLevel", 1, 1000);
        var down = need.Number(input.PressedFraction ?? 0.5, "pressedFraction", 0, 1, aboveMin: true);
        need.That(down < 1, "pressedFraction", "Must be a number greater than 0 and less than 1.");
        var target = need.Optional(input.TargetTurnDeg, "targetTurnDeg", -36_000, 36_000);
        need.Done();
        var each = clicks * turns;
        var q = Math.PI * diameter / each;
        var pivot = q / track * 180 / Math.PI;
        var most = Math.Min(down, 1 - down) / (each * readings * t);
        var steps = new List<Step>
        {
            new("Clicks a turn of the wheel", $"{Show(clicks)} × {Show(turns)}", each, ""),
            new("A click is", $"360 / {Show(each)}", 360 / each, "wheel deg"),
            new("And a way of", $"π × {Show(diameter)} / {Show(each)}", q, "mm"),
            new("Pivoting, a click turns the robot by", $"{Show(q)} / {Show(track)}, in degrees", pivot, "robot deg"),
            new("Spinning, by", $"2 × {Show(pivot)}", 2 * pivot, "robot deg"),
            new(
                "Fastest wheel whose clicks are all seen",
                $"{Show(Math.Min(down, 1 - down))} / ({Show(each)} × {readings} × {Show(t)})",
                most,
                "turns/s"
            ),
        };
        double? count = null,
            low = null,
            high = null;
        Verdict? verdict = null;
        if (target is { } wanted && wanted != 0)
        {
            // The first click comes somewhere within one click of the start, so n clicks mean n − 1 to n clicks of turning.
            count = Math.Max(1, Math.Round(Math.Abs(wanted) / pivot + 0.5, MidpointRounding.AwayFromZero));
            (low, high) = ((count - 1) * pivot, count * pivot);
            var off = Math.Max(Math.Abs(Math.Abs(wanted) - low.Value), Math.Abs(high.Value - Math.Abs(wanted)));
            steps.Add(
                new(
                    $"Nearest to {Show(Math.Abs(wanted))} robot deg, pivoting",
                    $"{Show(Math.Abs(wanted))} / {Show(pivot)} + ½, rounded",
                    count,
                    "clicks"
                )
            );
            steps.Add(
                new(
                    "After these it has turned",
                    $"{Show(count.Value - 1)} to {Show(count.Value)} × {Show(pivot)}",
                    null,
                    $"{Show(low.Value)} to {Show(high.Value)} robot deg"
                )
            );
            verdict =
                off <= 1 ? new(Grade.Solid, $"{count} clicks end within {Show(off, 2)}° of it.")
                : off <= 2.5 ? new(Grade.Workable, $"{count} clicks end anywhere up to {Show(off, 2)}° off.")
                : new(
                    off <= 4 ? Grade.Fragile : Grade.Unusable,
                    $"Clicks cannot do it: after {count} it has turned {Show(low.Value, 4)} to {Show(high.Value, 4)}°, so it ends up "
                        + $"to {Show(off, 2)}° off pivoting and up to twice that spinning. No number cures that; finer clicks, a "
                        + "timed turn or a sensor does."
                );
        }
        return new(
            new(each, 360 / each, q, pivot, 2 * pivot, most, count, low, high),
            steps,
            ["A click that is missed is never noticed: the count is simply short. Nor does it know the way round."],
            verdict
        );
    }
}

/// <summary>Input of the sum <c>axis-travel</c>.</summary>
/// <param name="Kind">rack, drum, screw or joint.</param>
/// <param name="DiameterMm">Of a rack or drum: diameter of the pinion or drum, mm.</param>
/// <param name="LeadMm">Of a screw: way for one turn, mm.</param>
/// <param name="GearRatio">Motor turns for one turn of pinion, drum, screw or joint; 1 when left out.</param>
/// <param name="TravelMm">Of rack, drum and screw: how far, mm.</param>
/// <param name="TravelDeg">Of a joint: how far, degrees of the joint.</param>
/// <param name="MotorSpeedDegPerS">Speed of the motor, motor degrees a second.</param>
/// <param name="StallFactor">How much longer than it should a move may take; 1.5 when left out.</param>
public sealed record AxisTravelInput(
    string? Kind,
    double? DiameterMm,
    double? LeadMm,
    double? GearRatio,
    double? TravelMm,
    double? TravelDeg,
    double? MotorSpeedDegPerS,
    double? StallFactor = null
);

/// <summary>Result of the sum <c>axis-travel</c>.</summary>
/// <param name="MotorDeg">Motor degrees.</param>
/// <param name="DurationS">How long it takes, s.</param>
/// <param name="GiveUpAfterS">When to give up, s.</param>
public sealed record AxisTravelResult(double MotorDeg, double DurationS, double GiveUpAfterS);

/// <summary>Lifts, winches, screws and joints.</summary>
public static class AxisTravel
{
    /// <summary>Computes the sum. Source: geometry; a move that takes longer than its factor and a fifth of a second is stuck.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<AxisTravelResult> Compute(AxisTravelInput input)
    {
        var need = new Require();
        var kind = input.Kind;
        need.That(kind is "rack" or "drum" or "screw" or "joint", "kind", "Must be rack, drum, screw or joint.");
        var diameter = kind is "rack" or "drum" ? need.Number(input.DiameterMm, "diameterMm", 0, 1e5, aboveMin: true) : 1;
        var lead = kind == "screw" ? need.Number(input.LeadMm, "leadMm", 0, 1e5, aboveMin: true) : 1;
        var gear = need.Number(input.GearRatio ?? 1, "gearRatio", 0, 1e4, aboveMin: true);
        var mm = kind is "rack" or "drum" or "screw" ? need.Number(input.TravelMm, "travelMm", -1e6, 1e6) : 0;
        var deg = kind == "joint" ? need.Number(input.TravelDeg, "travelDeg", -1e6, 1e6) : 0;
        var speed = need.Number(input.MotorSpeedDegPerS, "motorSpeedDegPerS", 0, 1e6, aboveMin: true);
        var factor = need.Number(input.StallFactor ?? 1.5, "stallFactor", 1, 100);
        need.Done();
        var (output, how) = kind switch
        {
            "screw" => (mm / lead * 360, $"{Show(mm)} / {Show(lead)} × 360"),
            "joint" => (deg, $"{Show(deg)}"),
            _ => (mm / (Math.PI * diameter) * 360, $"{Show(mm)} / (π × {Show(diameter)}) × 360"),
        };
        var motor = output * gear;
        var seconds = Math.Abs(motor) / speed;
        return new(
            new(motor, seconds, factor * seconds + 0.2),
            [
                new($"The {kind} turns", how, output, "deg"),
                new("The motor turns", $"{Show(output)} × {Show(gear)}", motor, "motor deg"),
                new("It takes", $"{Show(Math.Abs(motor))} / {Show(speed)}", seconds, "s"),
                new("Give up after", $"{Show(factor)} × {Show(seconds)} + 0.2", factor * seconds + 0.2, "s"),
            ],
            ["A move into a stop never ends by itself: give it this time, then stop the motor."],
            null
        );
    }
}
