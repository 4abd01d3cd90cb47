using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Bodies;

/// <summary>
/// One motor alone on the bench, as trials and preflight try it: driven step by step through <see cref="Mover"/>, the one model of a
/// motor there is. Numbers are in a unit of the caller's, and that a second.
/// </summary>
/// <param name="kind">Its kind.</param>
/// <param name="full">Speed at full power.</param>
internal readonly struct MotorAlone(ActuatorKind kind, double full)
{
    // Short enough that a way is right to a ten thousandth.
    private const double StepS = 0.0005;

    private const double LongestS = 120;

    /// <summary>From a command to the motor obeying, and the time constant towards its speed, as usual, s.</summary>
    public const double UsualDelayS = 0.04,
        UsualLagS = 0.06;

    /// <summary>Least power that moves it, %.</summary>
    public double LeastPercent { get; init; }

    private MoverState Told(Telling telling, double told) =>
        new()
        {
            Telling = telling,
            Told = told,
            Factor = 1,
            Full = full,
            Least = Math.Clamp(LeastPercent / 100, 0, 0.95),
            Accel = double.MaxValue,
            PerLag = 1 / UsualLagS,
            CoastS = 1,
            Brake = double.MaxValue,
            StallAfterMs = 300,
            PerFull = full == 0 ? 0 : 1 / full,
            Plain = kind == ActuatorKind.PlainMotor,
        };

    private MoverSpec Spec =>
        new()
        {
            Name = "",
            Motor = "",
            Kind = kind,
        };

    /// <summary>Speed it settles at.</summary>
    /// <param name="percent">Power, −100 to 100 %.</param>
    public double Steady(double percent)
    {
        var s =
            kind == ActuatorKind.PlainMotor ? Told(Telling.Power, percent) : Told(Telling.Speed, full * Math.Clamp(percent / 100, -1, 1));
        var spec = Spec;
        // Forty time constants leave nothing of the start.
        Mover.Step(ref s, spec, 40 * UsualLagS, 1, true);
        return s.Speed;
    }

    /// <summary>How far it comes from rest.</summary>
    /// <param name="speed">The speed it is to hold.</param>
    /// <param name="seconds">Time since the command, s.</param>
    public double Way(double speed, double seconds)
    {
        var s = Told(Telling.Speed, speed);
        s.Full = double.MaxValue;
        var spec = Spec;
        for (var left = Math.Min(LongestS, seconds) - UsualDelayS; left > 0; left -= StepS)
            Mover.Step(ref s, spec, Math.Min(StepS, left), 1, true);
        return s.At;
    }

    /// <summary>How far it goes on after a command to brake.</summary>
    /// <param name="speed">Its speed then.</param>
    /// <param name="delayS">Until it obeys, s.</param>
    /// <param name="brake">Braking, unit/s².</param>
    public double BrakingWay(double speed, double delayS, double brake)
    {
        var s = Told(Telling.Brake, 0);
        (s.Speed, s.BrakeNow) = (speed, Math.Max(1e-9, brake));
        return speed * delayS + Rest(ref s);
    }

    /// <summary>How far it goes on after a command to coast.</summary>
    /// <param name="speed">Its speed then.</param>
    /// <param name="delayS">Until it obeys, s.</param>
    /// <param name="constantS">Time constant of coasting, s.</param>
    public double CoastingWay(double speed, double delayS, double constantS)
    {
        var s = Told(Telling.Coast, 0);
        (s.Speed, s.CoastS) = (speed, Math.Max(1e-4, constantS));
        return speed * delayS + Rest(ref s);
    }

    /// <summary>How long a servo takes, s.</summary>
    /// <param name="degrees">How far, degrees.</param>
    public double Seconds(double degrees)
    {
        var s = Told(Telling.Place, full);
        s.Target = Math.Abs(degrees);
        var spec = Spec;
        var t = 0.0;
        while (!s.Arrived && t < LongestS)
        {
            // The last step is as long as it takes.
            var left = (s.Target - s.At) / full;
            var dt = Math.Min(StepS, Math.Max(1e-9, left));
            Mover.Step(ref s, spec, dt, 1, true);
            t += dt;
        }
        return t;
    }

    private double Rest(ref MoverState s)
    {
        var spec = Spec;
        for (var t = 0.0; s.Speed != 0 && t < LongestS; t += StepS)
            Mover.Step(ref s, spec, StepS, 1, true);
        return s.At;
    }
}
