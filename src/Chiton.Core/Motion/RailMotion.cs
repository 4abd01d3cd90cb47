using Chiton.Core.Quantities;

namespace Chiton.Core.Motion;

/// <summary>
/// How one copy of a rail vehicle with a plain motor really moves. Belongs to the copy: two copies of one design differ.
/// </summary>
/// <param name="FullSpeedMmPerS">Steady speed at 100 % power and nominal battery, mm/s.</param>
/// <param name="LeastPowerPercent">Least power that still moves it, % of full.</param>
/// <param name="LagMs">Time constant of the first-order lag towards the commanded speed, ms.</param>
/// <param name="MaxAccelMmPerS2">Greatest acceleration, mm/s².</param>
/// <param name="BrakeDecelMmPerS2">Steady deceleration when braked, mm/s²; its move SD is the spread from stop to stop.</param>
/// <param name="CoastTimeConstantMs">Time constant with which speed dies away when coasting, ms.</param>
/// <param name="ActuatorDelayMs">From a command to the motor obeying, ms.</param>
/// <param name="BatteryV">Open voltage of the pack at the start of a run, V.</param>
/// <param name="NominalV">Voltage at which the full speed was found, V.</param>
/// <param name="PackOhm">Inner resistance of the pack, ohm: what makes it sag under load.</param>
/// <param name="StallA">Current of the motor held still at full power and nominal voltage, A.</param>
/// <param name="ControllerA">Current of the controller itself, A.</param>
/// <param name="CapacityAh">Charge in the pack, Ah; its open voltage falls by a fifth while it is used up.</param>
/// <param name="TremblePercentPerMPerS">How much readings tremble because the vehicle shakes while it rolls: SD as % of the reading, for
/// each m/s of speed.</param>
public sealed record RailMotion(
    Quantity FullSpeedMmPerS,
    Quantity LeastPowerPercent,
    Quantity LagMs,
    Quantity MaxAccelMmPerS2,
    Quantity BrakeDecelMmPerS2,
    Quantity CoastTimeConstantMs,
    Quantity ActuatorDelayMs,
    Quantity BatteryV,
    Quantity NominalV,
    Quantity PackOhm,
    Quantity StallA,
    Quantity ControllerA,
    Quantity CapacityAh,
    Quantity TremblePercentPerMPerS
)
{
    /// <summary>The power, %, at which the full speed was tried, where it was worked out through the least power: the two are drawn
    /// together, so that at this power the vehicle rolls as it was seen to. Null where they are known apart.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public double? SpeedTriedAtPercent { get; init; }

    /// <summary>What another least power makes of a full speed that was worked out through one: the speed at the power that was tried
    /// stays.</summary>
    /// <param name="atPercent">The power at which it was tried, %.</param>
    /// <param name="leastPercent">The least power it was worked out through, %.</param>
    /// <param name="otherPercent">The other one, %.</param>
    public static double FullSpeedShare(double atPercent, double leastPercent, double otherPercent) =>
        FreeSpeed(atPercent / 100, 1, leastPercent / 100, 1) is > 0 and var then
        && FreeSpeed(atPercent / 100, 1, otherPercent / 100, 1) is > 0 and var now
            ? then / now
            : 1;

    /// <summary>
    /// Steady speed at a power, by the same model the simulated bench uses: speed grows in a straight line from nothing
    /// at the least power, scaled by the battery under load. Source: the straight torque-speed line of a
    /// permanent-magnet DC motor, with the sag of a pack of fixed inner resistance.
    /// </summary>
    /// <param name="powerPercent">Power, −100 to 100 %.</param>
    /// <returns>Speed in mm/s, same sign as the power; 0 below the least power.</returns>
    public double SteadySpeed(double powerPercent)
    {
        var duty = Math.Clamp(powerPercent / 100, -1, 1);
        var speed = 0.0;
        // The load current depends on the speed it allows: a few rounds settle it far below any tolerance.
        for (var i = 0; i < 20; i++)
        {
            var current =
                ControllerA.Value + MotorCurrent(duty, BatteryV.Value / NominalV.Value, speed / FullSpeedMmPerS.Value, StallA.Value);
            var volts = BatteryV.Value - current * PackOhm.Value;
            speed = FreeSpeed(duty, volts / NominalV.Value, LeastPowerPercent.Value / 100, FullSpeedMmPerS.Value);
        }
        return speed;
    }

    /// <summary>The power that gives a steady speed, by bisection of <see cref="SteadySpeed"/>; 100 when it is out of reach.</summary>
    /// <param name="speedMmPerS">Wanted speed, mm/s, at least 0.</param>
    public double PowerForSpeed(double speedMmPerS)
    {
        double low = 0,
            high = 100;
        if (SteadySpeed(high) <= speedMmPerS)
            return high;
        for (var i = 0; i < 60; i++)
        {
            var middle = (low + high) / 2;
            if (SteadySpeed(middle) < speedMmPerS)
                low = middle;
            else
                high = middle;
        }
        return (low + high) / 2;
    }

    /// <summary>Speed the motor settles at: (volts·duty − least) / (1 − least) of full speed, never past zero the wrong way.</summary>
    /// <param name="duty">Duty, −1 to 1.</param>
    /// <param name="volts">Battery as a share of nominal.</param>
    /// <param name="least">Least duty that moves it, 0 to less than 1.</param>
    /// <param name="full">Full speed, any unit.</param>
    public static double FreeSpeed(double duty, double volts, double least, double full)
    {
        var push = Math.Abs(duty) * volts;
        return push <= least ? 0 : Math.Sign(duty) * full * (push - least) / (1 - least);
    }

    /// <summary>Motor current from the gap between what it is given and its back voltage, A, at least 0.</summary>
    /// <param name="duty">Duty, −1 to 1.</param>
    /// <param name="volts">Battery as a share of nominal.</param>
    /// <param name="speed">Speed as a share of full speed.</param>
    /// <param name="stallA">Current at standstill and full duty, A.</param>
    public static double MotorCurrent(double duty, double volts, double speed, double stallA) =>
        Math.Max(0, stallA * (Math.Abs(duty) * volts - Math.Abs(speed)) * Math.Abs(duty));

    /// <summary>
    /// The share of speed by which runs differ because the pack and the speed itself are only known within limits:
    /// the two relative SDs, in quadrature.
    /// </summary>
    public double RelativeSpeedSd
    {
        get
        {
            var pack = BatteryV.BetweenRunsSd / BatteryV.Value;
            var full = FullSpeedMmPerS.BetweenRunsSd / FullSpeedMmPerS.Value;
            return Math.Sqrt(pack * pack + full * full);
        }
    }

    /// <summary>SD of a reading while rolling: the spread at rest and the tremble, in quadrature.</summary>
    /// <param name="sdAtRest">SD of readings at rest.</param>
    /// <param name="mean">Mean reading, same unit.</param>
    /// <param name="speedMmPerS">Speed, mm/s, either sign.</param>
    /// <param name="tremble">Tremble, % of the reading per m/s.</param>
    public static double RollingSd(double sdAtRest, double mean, double speedMmPerS, double tremble)
    {
        var shake = tremble / 100 * Math.Abs(speedMmPerS) / 1000 * mean;
        return Math.Sqrt(sdAtRest * sdAtRest + shake * shake);
    }

    /// <summary>How a rail vehicle of one's own moves before anything was tried: usual figures of small ones, each a guess with the span
    /// of its kind. Null for a rig that has no plain-motor vehicle on a rail.</summary>
    /// <param name="rig">The design; its pack says the voltage where it has one.</param>
    public static RailMotion? Usual(Rigs.RigDesign rig)
    {
        if (
            rig.Vehicle is not { } vehicle
            || rig.Actuators.FirstOrDefault(a => a.Name == vehicle.Motor) is not { Kind: Rigs.ActuatorKind.PlainMotor }
        )
            return null;
        var volts = rig.Power is { } p ? p.Cells * p.VoltsPerCell : 6;
        static Quantity Guess(double value, string unit, double span, double least) =>
            new(value, unit, Provenance.Guessed, "usual for small rail vehicles, never tried", 0, 0, span, least);
        return new(
            Guess(700, "mm/s", 800, 20),
            Guess(18, "%", 24, 1) with
            {
                Max = 60,
            },
            Guess(120, "ms", 200, 5),
            Guess(2500, "mm/s²", 3000, 100),
            Guess(2000, "mm/s²", 2400, 100),
            Guess(400, "ms", 600, 50),
            Guess(30, "ms", 60, 0),
            Guess(volts, "V", 1.2, 1),
            new(volts, "V", Provenance.Chosen, rig.Power is null ? "a usual pack" : "cells times volts"),
            Guess(rig.Power is { } fed ? Rigs.PowerBudget.InnerOhm((int)fed.Cells, fed.VoltsPerCell, fed.CapacityMAh) : 0.6, "Ω", 0.8, 0),
            Guess(0.9, "A", 1, 0.05),
            Guess(0.12, "A", 0.12, 0),
            Guess(1.8, "Ah", 1.6, 0.2),
            Guess(20, "% per m/s", 30, 0)
        );
    }

    /// <summary>The same numbers for a copy on which nothing was tried yet: guesses, each as wide as its kind is plausibly wide.</summary>
    /// <param name="source">Where they were taken from, in words.</param>
    public RailMotion AsGuesses(string source)
    {
        // Half of each span either side covers what toy trolleys of one design were seen to differ by, and more.
        Quantity Guess(Quantity q, double span) =>
            q with
            {
                Kind = Provenance.Guessed,
                Source = source,
                MeanSd = 0,
                Span = span,
                Dof = null,
            };
        return new(
            Guess(FullSpeedMmPerS, 240),
            Guess(LeastPowerPercent, 12),
            Guess(LagMs, 100),
            Guess(MaxAccelMmPerS2, 1500),
            Guess(BrakeDecelMmPerS2, 1200),
            Guess(CoastTimeConstantMs, 400),
            Guess(ActuatorDelayMs, 30),
            Guess(BatteryV, 1),
            NominalV,
            Guess(PackOhm, 0.6),
            Guess(StallA, 0.5),
            Guess(ControllerA, 0.1),
            Guess(CapacityAh, 0.8),
            Guess(TremblePercentPerMPerS, 20)
        );
    }

    /// <summary>Every number with its name as people say it, for lists and pages.</summary>
    public IEnumerable<(string Name, Quantity Number)> Named =>
        [
            ("speed at full power", FullSpeedMmPerS),
            ("least power", LeastPowerPercent),
            ("lag", LagMs),
            ("greatest acceleration", MaxAccelMmPerS2),
            ("braking", BrakeDecelMmPerS2),
            ("coasting", CoastTimeConstantMs),
            ("delay", ActuatorDelayMs),
            ("battery", BatteryV),
            ("nominal voltage", NominalV),
            ("pack resistance", PackOhm),
            ("stall current", StallA),
            ("controller current", ControllerA),
            ("capacity", CapacityAh),
            ("tremble", TremblePercentPerMPerS),
        ];
}
