using Chiton.Core.Motion;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Bodies;

/// <summary>What a motor and what hangs on it are, bound once: the places of its numbers among those drawn.</summary>
internal sealed class MoverSpec
{
    public required string Name { get; init; }

    /// <summary>Its motor; null for two motors on one part the first.</summary>
    public required string Motor { get; init; }

    public required ActuatorKind Kind { get; init; }

    /// <summary>Which rig it belongs to.</summary>
    public int Rig { get; init; }

    // Numbers, by place; units are those of its way: mm for what rolls, motor deg else, deg for a servo.
    public int Full { get; init; } = -1;
    public int Least { get; init; } = -1;
    public int Lag { get; init; } = -1;
    public int Accel { get; init; } = -1;
    public int Brake { get; init; } = -1;
    public int Coast { get; init; } = -1;
    public int Delay { get; init; } = -1;
    public int StallAfter { get; init; } = -1;

    /// <summary>Error of each counted move, SD in its own unit.</summary>
    public double MoveSd { get; init; }

    /// <summary>SD of speed from command to command, as a share.</summary>
    public double SpeedSd { get; init; }

    /// <summary>SD of braking from stop to stop, in its own unit per second squared.</summary>
    public double BrakeSd { get; init; }

    /// <summary>Motor degrees for one of its own unit.</summary>
    public double DegPerUnit { get; init; } = 1;

    /// <summary>Degrees of the wheel or part for one of its own unit.</summary>
    public double PartDegPerUnit { get; init; } = 1;

    /// <summary>True when a stall of it is noticed.</summary>
    public bool NoticesStall { get; init; }

    /// <summary>Current when it runs freely and when it is held, A.</summary>
    public double ActiveA { get; init; }
    public double StallA { get; init; }

    /// <summary>Steps a second above which a stepper loses some, in its own unit; infinity for others.</summary>
    public double MostRate { get; init; } = double.PositiveInfinity;

    public ulong Moves { get; init; }
}

/// <summary>What a motor was told.</summary>
internal enum Telling : byte
{
    Coast,
    Brake,
    Hold,

    /// <summary>A speed that it holds, in its own unit a second.</summary>
    Speed,

    /// <summary>A power, %.</summary>
    Power,

    /// <summary>A place to go to at a speed.</summary>
    Place,

    /// <summary>What its state says each step: followed lines and sticks.</summary>
    Led,
}

/// <summary>One motor's state in a run. Fields, not properties: it is stepped millions of times.</summary>
internal struct MoverState
{
    public double At,
        Speed,
        Told,
        Target,
        Factor,
        BrakeNow,
        Push,
        SharedDt,
        Share;

    // Its numbers of this run, copied out of those drawn: speed in its own unit a second, least power as a share, times in s.
    public double Full,
        Least,
        Accel,
        CoastS,
        Brake,
        StallAfterMs,
        PerFull,
        PerLag,
        StallA,
        ActiveA;

    /// <summary>True for a motor whose speed follows the pack, and for one whose current follows from its speed.</summary>
    public bool Plain,
        Draws;
    public Telling Telling;

    /// <summary>Place of what it carries out among the orders given, to know whose end it is.</summary>
    public int Serial;
    public int Program,
        Device;
    public long PushSince;
    public bool StallTold,
        Arrived,
        Homing,
        EverMoved,
        Held;
    public long RestSince,
        ReleaseAt;
    public RandomStream Moves;
}

/// <summary>How motors move: one model for all of a kind, whatever hangs on them.</summary>
internal static class Mover
{
    /// <summary>Steps a motor on.</summary>
    /// <param name="s">Its state.</param>
    /// <param name="spec">What it is.</param>
    /// <param name="dt">How long, s.</param>
    /// <param name="volts">Pack under load, as a share of nominal.</param>
    /// <param name="powered">False while its lead is out.</param>
    public static void Step(ref MoverState s, MoverSpec spec, double dt, double volts, bool powered)
    {
        var before = s.Speed;
        switch (s.Telling)
        {
            case Telling.Coast:
            case Telling.Speed or Telling.Power or Telling.Place or Telling.Led when !powered:
                s.Speed *= 1 - Towards(dt / s.CoastS);
                if (Math.Abs(s.Speed) < 0.5)
                    s.Speed = 0;
                s.Push = 0;
                break;
            case Telling.Brake:
            case Telling.Hold:
                var less = s.BrakeNow * dt;
                s.Speed = Math.Abs(s.Speed) <= less ? 0 : s.Speed - Math.Sign(s.Speed) * less;
                s.Push = 0;
                break;
            case Telling.Power:
                var target = RailMotion.FreeSpeed(s.Told / 100, volts, s.Least, s.Full) * s.Factor;
                Follow(ref s, target, dt);
                if (target == 0 && Math.Abs(s.Speed) < 1)
                    s.Speed = 0;
                s.Push = target;
                break;
            case Telling.Place:
                var way = s.Target - s.At;
                var most = spec.Kind is ActuatorKind.Servo or ActuatorKind.Stepper ? double.PositiveInfinity : s.Brake;
                // Slows down so that it stands where it is to.
                var ramp = double.IsPositiveInfinity(most)
                    ? Math.Abs(s.Told)
                    : Math.Min(Math.Abs(s.Told), Math.Sqrt(2 * most * Math.Abs(way)) + 1);
                var wish = Math.Sign(way) * Math.Min(ramp, s.Full * Math.Min(1.05, volts));
                s.Push = wish;
                if (spec.Kind is ActuatorKind.Servo or ActuatorKind.Stepper)
                    s.Speed = before = wish;
                else
                    Follow(ref s, wish, dt);
                var next = s.At + (before + s.Speed) / 2 * dt;
                if (Math.Abs(way) < 0.05 || (next - s.Target) * Math.Sign(way) >= 0 && s.Speed * way >= 0)
                {
                    (s.At, s.Speed, s.Arrived, s.Push) = (s.Target, 0, true, 0);
                    (s.Telling, s.BrakeNow) = (Telling.Hold, Math.Max(1, s.Brake));
                    return;
                }
                break;
            default:
                var asked = Math.Clamp(s.Told, -s.Full * volts * 1.05, s.Full * volts * 1.05) * s.Factor;
                Follow(ref s, asked, dt);
                // Told to stand it comes to stand.
                if (asked == 0 && Math.Abs(s.Speed) < 0.01)
                    s.Speed = 0;
                s.Push = asked;
                break;
        }
        s.At += (before + s.Speed) / 2 * dt;
    }

    /// <summary>Copies the numbers of a run into a motor's state.</summary>
    public static void Bind(ref MoverState s, MoverSpec spec, ReadOnlySpan<double> drawn)
    {
        s.Full = Of(spec.Full, drawn);
        s.Least = Math.Clamp(Of(spec.Least, drawn) / 100, 0, 0.95);
        s.Accel = Of(spec.Accel, drawn);
        s.PerLag = 1 / Math.Max(1e-4, Of(spec.Lag, drawn) / 1000);
        s.CoastS = Math.Max(1e-4, Of(spec.Coast, drawn) / 1000);
        s.Brake = Of(spec.Brake, drawn);
        s.StallAfterMs = Of(spec.StallAfter, drawn);
        s.PerFull = s.Full == 0 ? 0 : 1 / s.Full;
        s.ActiveA = spec.ActiveA;
        s.Plain = spec.Kind == ActuatorKind.PlainMotor;
        // Below 0 it is the place of a number that is drawn.
        s.Draws = spec.StallA < 0;
        s.StallA = s.Draws ? drawn[(int)(-1 - spec.StallA)] : spec.StallA;
    }

    private static double Of(int place, ReadOnlySpan<double> drawn) => place >= 0 ? drawn[place] : 0;

    /// <summary>1 − e^−x, how far a first-order lag comes: by its series where x is small, right to 1e-13.</summary>
    public static double Towards(double x) =>
        x > 0.06
            ? 1 - Math.Exp(-x)
            : x * (1 - x * (1 / 2.0 - x * (1 / 6.0 - x * (1 / 24.0 - x * (1 / 120.0 - x * (1 / 720.0 - x * (1 / 5040.0)))))));

    [System.Runtime.CompilerServices.MethodImpl(System.Runtime.CompilerServices.MethodImplOptions.AggressiveInlining)]
    private static void Follow(ref MoverState s, double target, double dt)
    {
        var most = s.Accel * dt;
        // Most steps are as long as the one before.
        if (dt != s.SharedDt)
            (s.SharedDt, s.Share) = (dt, Towards(dt * s.PerLag));
        s.Speed += Math.Clamp((target - s.Speed) * s.Share, -most, most);
    }

    /// <summary>What it draws, A: against its load, and against its own friction too. Source: the straight line from the current of a
    /// motor held still to none at the speed that friction leaves it.</summary>
    /// <param name="duty">Duty, −1 to 1.</param>
    /// <param name="volts">Pack as a share of nominal.</param>
    /// <param name="speed">Speed as a share of full speed.</param>
    /// <param name="least">Least duty that moves it.</param>
    /// <param name="stallA">Current when it is held still at full duty, A.</param>
    public static double Current(double duty, double volts, double speed, double least, double stallA) =>
        stallA * Math.Max(0, Math.Abs(duty) * volts - (1 - least) * Math.Abs(speed)) * Math.Abs(duty);
}
