using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>Input of the sum <c>wheel-travel</c>.</summary>
/// <param name="WheelDiameterMm">Diameter of the wheel, mm.</param>
/// <param name="DistanceMm">How far to go, mm; negative for back.</param>
/// <param name="MotorTurnsPerWheelTurn">Motor turns for one turn of the wheel; 1 when left out.</param>
/// <param name="MotorSpeedDegPerS">Speed of the motor, motor degrees a second; the time is left out without it.</param>
public sealed record WheelTravelInput(
    double? WheelDiameterMm,
    double? DistanceMm,
    double? MotorTurnsPerWheelTurn = null,
    double? MotorSpeedDegPerS = null
);

/// <summary>Result of the sum <c>wheel-travel</c>.</summary>
/// <param name="CircumferenceMm">What one turn of the wheel covers, mm.</param>
/// <param name="WheelTurns">Turns of the wheel.</param>
/// <param name="WheelDeg">The same in wheel degrees.</param>
/// <param name="MotorDeg">The same in motor degrees.</param>
/// <param name="DurationS">How long it takes, s; null without a motor speed.</param>
public sealed record WheelTravelResult(double CircumferenceMm, double WheelTurns, double WheelDeg, double MotorDeg, double? DurationS);

/// <summary>Turns of a wheel for a distance.</summary>
public static class WheelTravel
{
    /// <summary>Computes the sum. Source: geometry of rolling without slip.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<WheelTravelResult> Compute(WheelTravelInput input)
    {
        var need = new Require();
        var diameter = need.Number(input.WheelDiameterMm, "wheelDiameterMm", 0, 1e5, aboveMin: true);
        var distance = need.Number(input.DistanceMm, "distanceMm", -1e7, 1e7);
        var ratio = need.Number(input.MotorTurnsPerWheelTurn ?? 1, "motorTurnsPerWheelTurn", 0, 1e4, aboveMin: true);
        var speed = need.Optional(input.MotorSpeedDegPerS, "motorSpeedDegPerS", 0, 1e6, aboveMin: true);
        need.Done();
        var round = Math.PI * diameter;
        var turns = distance / round;
        var motor = turns * 360 * ratio;
        double? seconds = speed is { } s ? Math.Abs(motor) / s : null;
        var steps = new List<Step>
        {
            new("One wheel turn covers", $"π × {Show(diameter)} mm", round, "mm"),
            new("Turns of the wheel", $"{Show(distance)} / {Show(round)}", turns, "turns"),
            new("In wheel degrees", $"{Show(turns)} × 360", turns * 360, "wheel deg"),
            new("In motor degrees", $"{Show(turns * 360)} × {Show(ratio)}", motor, "motor deg"),
        };
        if (seconds is { } t)
            steps.Add(new("It takes", $"{Show(Math.Abs(motor))} / {Show(speed!.Value)}", t, "s"));
        return new(
            new(round, turns, turns * 360, motor, seconds),
            steps,
            ["A wheel that slips covers less than it turns: measure ten turns along a tape, and take the diameter from that."],
            null
        );
    }
}

/// <summary>Input of the sum <c>turn</c>.</summary>
/// <param name="WheelDiameterMm">Diameter of the wheels, mm.</param>
/// <param name="TrackWidthMm">Distance between the middles of the tyres, mm.</param>
/// <param name="TurnDeg">How far the robot turns, robot degrees; right positive.</param>
/// <param name="Style">spin, pivot or arc.</param>
/// <param name="ArcRadiusMm">Of an arc: radius to the middle of the axle, mm, 0 or more.</param>
/// <param name="MotorTurnsPerWheelTurn">Motor turns for one turn of a wheel; 1 when left out.</param>
/// <param name="MotorSpeedDegPerS">Speed of the faster motor, motor degrees a second; the time is left out without it.</param>
public sealed record TurnInput(
    double? WheelDiameterMm,
    double? TrackWidthMm,
    double? TurnDeg,
    string? Style,
    double? ArcRadiusMm = null,
    double? MotorTurnsPerWheelTurn = null,
    double? MotorSpeedDegPerS = null
);

/// <summary>Result of the sum <c>turn</c>.</summary>
/// <param name="LeftWheelDeg">Left wheel, wheel degrees.</param>
/// <param name="RightWheelDeg">Right wheel, wheel degrees.</param>
/// <param name="LeftMotorDeg">Left motor, motor degrees.</param>
/// <param name="RightMotorDeg">Right motor, motor degrees.</param>
/// <param name="DurationS">How long the wheel with the longer way takes, s; null without a motor speed.</param>
public sealed record TurnResult(double LeftWheelDeg, double RightWheelDeg, double LeftMotorDeg, double RightMotorDeg, double? DurationS);

/// <summary>Turning with two wheels: on the spot, about one wheel, or along an arc.</summary>
public static class Turn
{
    /// <summary>Computes the sum. Source: geometry; each wheel rolls along its own circle about the centre of the turn.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<TurnResult> Compute(TurnInput input)
    {
        var need = new Require();
        var diameter = need.Number(input.WheelDiameterMm, "wheelDiameterMm", 0, 1e5, aboveMin: true);
        var track = need.Number(input.TrackWidthMm, "trackWidthMm", 0, 1e5, aboveMin: true);
        var turn = need.Number(input.TurnDeg, "turnDeg", -1e5, 1e5);
        need.That(input.Style is "spin" or "pivot" or "arc", "style", "Must be spin, pivot or arc.");
        var radius = input.Style == "arc" ? need.Number(input.ArcRadiusMm, "arcRadiusMm", 0, 1e6) : 0;
        var ratio = need.Number(input.MotorTurnsPerWheelTurn ?? 1, "motorTurnsPerWheelTurn", 0, 1e4, aboveMin: true);
        var speed = need.Optional(input.MotorSpeedDegPerS, "motorSpeedDegPerS", 0, 1e6, aboveMin: true);
        need.Done();
        // Turning right, the left wheel is the outer one; turning left, the right one.
        var size = Math.Abs(turn);
        var (outer, inner, how, innerHow) = input.Style switch
        {
            "spin" => (
                size * track / diameter,
                -size * track / diameter,
                $"{Show(size)} × {Show(track)} / {Show(diameter)}",
                $"−{Show(size)} × {Show(track)} / {Show(diameter)}"
            ),
            "pivot" => (2 * size * track / diameter, 0.0, $"2 × {Show(size)} × {Show(track)} / {Show(diameter)}", "stands still"),
            _ => (
                2 * (radius + track / 2) * size / diameter,
                2 * (radius - track / 2) * size / diameter,
                $"2 × ({Show(radius)} + {Show(track / 2)}) × {Show(size)} / {Show(diameter)}",
                $"2 × ({Show(radius)} − {Show(track / 2)}) × {Show(size)} / {Show(diameter)}"
            ),
        };
        var (left, right) = turn >= 0 ? (outer, inner) : (inner, outer);
        if (size == 0)
            (left, right) = (0, 0);
        var longer = Math.Max(Math.Abs(left), Math.Abs(right)) * ratio;
        double? seconds = speed is { } s ? longer / s : null;
        var steps = new List<Step>
        {
            new("The outer wheel turns", how, outer, "wheel deg"),
            new("The inner wheel turns", innerHow, inner, "wheel deg"),
            new("Left motor", $"{Show(left)} × {Show(ratio)}", left * ratio, "motor deg"),
            new("Right motor", $"{Show(right)} × {Show(ratio)}", right * ratio, "motor deg"),
        };
        if (seconds is { } t)
            steps.Add(new("It takes", $"{Show(longer)} / {Show(speed!.Value)}", t, "s"));
        var cautions = new List<string>();
        if (input.Style == "arc" && radius < track / 2 && size > 0)
            cautions.Add($"With a radius below half the track ({Show(track / 2)} mm) the inner wheel runs backward.");
        cautions.Add("These are degrees of the robot, the wheel and the motor: three different things.");
        return new(new(left, right, left * ratio, right * ratio, seconds), steps, cautions, null);
    }
}

/// <summary>Input of the sum <c>wheel-way</c>.</summary>
/// <param name="WheelDiameterMm">Diameter of the wheels, mm.</param>
/// <param name="TrackWidthMm">Distance between the middles of the tyres, mm.</param>
/// <param name="LeftWheelDeg">What the left wheel turned, wheel degrees.</param>
/// <param name="RightWheelDeg">What the right wheel turned, wheel degrees.</param>
public sealed record WheelWayInput(double? WheelDiameterMm, double? TrackWidthMm, double? LeftWheelDeg, double? RightWheelDeg);

/// <summary>Result of the sum <c>wheel-way</c>.</summary>
/// <param name="DistanceMm">Way of the middle of the axle, along its curve, mm; negative back.</param>
/// <param name="TurnDeg">How far the robot turned, robot degrees, right positive.</param>
/// <param name="RadiusMm">Radius of the curve, mm; null when it went straight.</param>
public sealed record WheelWayResult(double DistanceMm, double TurnDeg, double? RadiusMm);

/// <summary>What two wheels did, as a motion of the robot: <see cref="Turn"/> the other way round.</summary>
public static class WheelWay
{
    /// <summary>Computes the sum. Source: geometry; the axle's middle goes the mean of both wheels' ways, their difference
    /// turns it.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<WheelWayResult> Compute(WheelWayInput input)
    {
        var need = new Require();
        var diameter = need.Number(input.WheelDiameterMm, "wheelDiameterMm", 0, 1e5, aboveMin: true);
        var track = need.Number(input.TrackWidthMm, "trackWidthMm", 0, 1e5, aboveMin: true);
        var left = need.Number(input.LeftWheelDeg, "leftWheelDeg", -1e7, 1e7);
        var right = need.Number(input.RightWheelDeg, "rightWheelDeg", -1e7, 1e7);
        need.Done();
        var perDegree = Math.PI * diameter / 360;
        var distance = (left + right) / 2 * perDegree;
        var turn = (left - right) * diameter / (2 * track);
        double? radius = left == right ? null : Math.Abs(distance) / (Math.Abs(turn) * Math.PI / 180);
        if (radius is { } r && !double.IsFinite(r))
            throw new InputProblem("trackWidthMm", "These numbers are too far apart to give a curve.");
        var steps = new List<Step>
        {
            new("Way of the middle", $"({Show(left)} + {Show(right)}) / 2 × π × {Show(diameter)} / 360", distance, "mm"),
            new("It turns", $"({Show(left)} − {Show(right)}) × {Show(diameter)} / (2 × {Show(track)})", turn, "robot deg"),
        };
        if (radius is { } curve)
            steps.Add(new("Radius of the curve", $"{Show(Math.Abs(distance))} / {Show(Math.Abs(turn))}°, in radians", curve, "mm"));
        return new(new(distance, turn, radius), steps, [], null);
    }
}

/// <summary>Input of the sum <c>meter</c>.</summary>
/// <param name="WheelDeg">What the wheel turned, wheel degrees.</param>
/// <param name="WheelDiameterMm">Diameter of the wheel, mm.</param>
/// <param name="RatePer100Mm">Charge for 100 mm.</param>
/// <param name="StartCharge">Charge for getting in; 0 when left out.</param>
/// <param name="RoundTo">Smallest coin; 0.05 when left out.</param>
public sealed record MeterInput(
    double? WheelDeg,
    double? WheelDiameterMm,
    double? RatePer100Mm,
    double? StartCharge = null,
    double? RoundTo = null
);

/// <summary>Result of the sum <c>meter</c>.</summary>
/// <param name="DistanceMm">How far it went, mm.</param>
/// <param name="Charge">What that costs, rounded.</param>
public sealed record MeterResult(double DistanceMm, double Charge);

/// <summary>A charge by distance.</summary>
public static class Meter
{
    /// <summary>Computes the sum. Source: geometry of rolling.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<MeterResult> Compute(MeterInput input)
    {
        var need = new Require();
        var turned = need.Number(input.WheelDeg, "wheelDeg", -1e9, 1e9);
        var diameter = need.Number(input.WheelDiameterMm, "wheelDiameterMm", 0, 1e5, aboveMin: true);
        var rate = need.Number(input.RatePer100Mm, "ratePer100Mm", 0, 1e6);
        var start = need.Number(input.StartCharge ?? 0, "startCharge", 0, 1e6);
        var coin = need.Number(input.RoundTo ?? 0.05, "roundTo", 0, 1e6, aboveMin: true);
        need.Done();
        // A way back costs like a way forth.
        var distance = Math.Abs(turned) / 360 * Math.PI * diameter;
        var exact = start + rate * distance / 100;
        var coins = exact / coin;
        // So many coins that a double cannot count them are left as they are.
        var charge = coins < 1e15 ? Math.Round(coins, MidpointRounding.AwayFromZero) * coin : exact;
        return new(
            new(distance, charge),
            [
                new("It went", $"{Show(Math.Abs(turned))} / 360 × π × {Show(diameter)}", distance, "mm"),
                new("That costs", $"{Show(start)} + {Show(rate)} × {Show(distance)} / 100", exact, ""),
                new("Rounded to the coin", $"nearest {Show(coin)}", charge, ""),
            ],
            [],
            null
        );
    }
}
