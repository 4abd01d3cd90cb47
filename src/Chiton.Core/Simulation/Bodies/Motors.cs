using Chiton.Core.Motion;

namespace Chiton.Core.Simulation.Bodies;

/// <summary>How a motor gets up to its speed: it obeys after a delay and then follows with a first-order lag.</summary>
/// <param name="DelayS">From a command to the motor obeying, s.</param>
/// <param name="LagS">Time constant towards its speed, s, above 0.</param>
public readonly record struct Start(double DelayS, double LagS)
{
    /// <summary>How far something comes in a time from rest: v·(t − τ·(1 − e^(−t/τ))) once it obeys. Source: the integral of a first-order
    /// lag.</summary>
    /// <param name="speed">Speed it settles at, any unit a second.</param>
    /// <param name="seconds">Time since the command, s.</param>
    public double Way(double speed, double seconds)
    {
        var t = seconds - DelayS;
        return t <= 0 ? 0 : speed * (t - LagS * (1 - Math.Exp(-t / LagS)));
    }
}

/// <summary>A motor that takes power alone.</summary>
/// <param name="Full">Speed at full power, any unit a second.</param>
/// <param name="LeastPercent">Least power that moves it, %.</param>
/// <param name="Start">How it gets up to speed.</param>
public sealed record PlainMotor(double Full, double LeastPercent, Start Start)
{
    /// <summary>Speed it settles at, in the unit of <see cref="Full"/>.</summary>
    /// <param name="percent">Power, −100 to 100 %.</param>
    /// <param name="volts">Pack as a share of nominal.</param>
    public double Steady(double percent, double volts = 1) =>
        RailMotion.FreeSpeed(Math.Clamp(percent / 100, -1, 1), volts, LeastPercent / 100, Full);
}

/// <summary>A motor that knows its angle; a full pack lets it hold its speed.</summary>
/// <param name="TopDegPerS">Speed at 100 %, motor degrees a second.</param>
/// <param name="Start">How it gets up to speed.</param>
public sealed record RegulatedMotor(double TopDegPerS, Start Start)
{
    /// <summary>Speed it holds, motor degrees a second: a power is a share of its top speed.</summary>
    /// <param name="percent">Power, −100 to 100 %.</param>
    public double Steady(double percent) => TopDegPerS * Math.Clamp(percent / 100, -1, 1);
}

/// <summary>A motor that goes to an angle and says nothing of it.</summary>
/// <param name="DegPerS">Its slew rate, degrees a second.</param>
public sealed record HobbyServo(double DegPerS)
{
    /// <summary>How long it takes, s.</summary>
    /// <param name="degrees">How far, degrees.</param>
    public double Seconds(double degrees) => Math.Abs(degrees) / DegPerS;
}
