using Chiton.Core.Motion;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Simulation;

/// <summary>
/// The rig on the simulated bench as it really moves. Its true numbers lie 3 to 7 % off what the design says, wheels slip
/// by 0.4 to 0.5 % from move to move, a tape is read to ± 1 mm, an angle to ± 1° and a watch to ± 0.05 s. Nobody is told.
/// </summary>
public static class TrialBench
{
    /// <summary>The true number of a motion on a copy.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="nominal">What the design says, or a usual value where it says nothing.</param>
    /// <param name="seed">Same seed, same copy.</param>
    public static double Truth(TrialPlan plan, double nominal, ulong seed)
    {
        // Turn and square find the same track width.
        var luck = new RandomStream(seed, 70u + (uint)(plan.Kind == TrialKind.Square ? TrialKind.Turn : plan.Kind));
        var off = 0.03 + 0.04 * luck.Uniform();
        var side = luck.Uniform() < 0.5 ? -1 : 1;
        return plan.Kind switch
        {
            TrialKind.Veer => side * (0.8 + 1.6 * luck.Uniform()),
            TrialKind.Hit => side * (8 + 8 * luck.Uniform()),
            // What nobody can guess: sign and size are the copy's own.
            TrialKind.LetGo => side * (3 + 9 * luck.Uniform()),
            _ => nominal * (1 + side * off),
        };
    }

    /// <summary>Carries out a command and measures what happened.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="rig">The design, for what it says of wheel and track.</param>
    /// <param name="motion">How the copy's rail vehicle is thought to move; null for others.</param>
    /// <param name="seed">The copy.</param>
    /// <param name="asked">What is asked: the side of a square.</param>
    /// <param name="commanded">What the controller is told, in the plan's command unit.</param>
    /// <param name="noise">Where the luck of this move comes from.</param>
    public static double Try(
        TrialPlan plan,
        RigDesign rig,
        RailMotion? motion,
        ulong seed,
        double asked,
        double commanded,
        ref RandomStream noise
    )
    {
        var slip = 0.004 + 0.001 * new RandomStream(seed, 75).Uniform();
        var plans = TrialCatalogue
            .For(rig, motion)
            .Where(p => p.Mechanism == plan.Mechanism)
            .DistinctBy(p => p.Kind)
            .ToDictionary(p => p.Kind);
        double True(TrialKind kind) =>
            Truth(
                plans.GetValueOrDefault(kind) ?? plan with { Kind = kind },
                plans.GetValueOrDefault(kind)?.Nominal?.Value ?? TrialPlans.UsualNumber(kind),
                seed
            );
        double Tape(double v, ref RandomStream n) => Math.Round(v + (2 * n.Uniform() - 1));
        var wheel = True(TrialKind.Straight);
        var way = plan.CommandUnit == "mm" ? commanded : commanded * Math.PI * wheel / 360;
        switch (plan.Kind)
        {
            case TrialKind.Straight:
                return Tape(way * (1 + slip * noise.Normal()), ref noise);
            case TrialKind.Turn:
                return Tape(commanded * wheel / True(TrialKind.Turn) * (1 + slip * noise.Normal()), ref noise);
            case TrialKind.Square:
                // Four corners and four sides: slip of each, and the veer along the way round.
                var turned = 0.0;
                for (var i = 0; i < 4; i++)
                    turned += commanded / 4 * wheel / True(TrialKind.Turn) * (1 + slip * noise.Normal());
                return Tape(turned + True(TrialKind.Veer) * 4 * Math.Abs(asked) / 1000 + 0.4 * noise.Normal(), ref noise);
            case TrialKind.Veer:
                return Tape((True(TrialKind.Veer) + 0.35 * noise.Normal()) * Math.PI / 180 / 1000 * way * Math.Abs(way) / 2, ref noise);
            case TrialKind.Pivot:
                return Tape(commanded * wheel / (2 * True(TrialKind.Pivot)) * (1 + slip * noise.Normal()), ref noise);
            // It takes a while to spin up, and then runs steadily.
            case TrialKind.TimedWay:
                return Tape(
                    Motor(0).Way(Rolling(plan.Power ?? TrialCatalogue.UsualPower), commanded) * (1 + 3 * slip * noise.Normal()),
                    ref noise
                );
            case TrialKind.TimedTurn:
            {
                // On one wheel it turns half as fast as with both.
                var about = plan.Style is TurnStyle.LeftWheel or TurnStyle.RightWheel ? True(TrialKind.Pivot) : True(TrialKind.Turn) / 2;
                var rate = Rolling(plan.Power ?? TrialCatalogue.UsualPower) / about * 180 / Math.PI;
                return Tape(Motor(0).Way(rate, commanded) * (1 + 3 * slip * noise.Normal()) * (asked < 0 ? -1 : 1), ref noise);
            }
            // Stopping varies more than rolling: the floor and the battery have their say.
            case TrialKind.Brake:
                return Tape(
                    Motor(0).BrakingWay(commanded, Delay(motion), True(TrialKind.Brake) * (1 + 12 * slip * noise.Normal())),
                    ref noise
                );
            case TrialKind.Coast:
                return Tape(
                    Motor(0).CoastingWay(commanded, Delay(motion), True(TrialKind.Coast) / 1000 * (1 + 12 * slip * noise.Normal())),
                    ref noise
                );
            case TrialKind.Travel:
                return Tape(commanded / 360 * True(TrialKind.Travel) * (1 + slip * noise.Normal()), ref noise);
            case TrialKind.Speed:
                return Math.Round(Steady(commanded, ref noise), 1);
            case TrialKind.LeastPower:
                return commanded > True(TrialKind.LeastPower) + 0.4 * noise.Normal() ? 1 : 0;
            case TrialKind.Rest:
            {
                // It notices the tag up to a reading late, and then has the way of its delay and its brake.
                var v = Steady(commanded, ref noise);
                var late = v * 0.01 * (1 + noise.Uniform());
                return Tape(
                    late + Motor(0).BrakingWay(v, Delay(motion), True(TrialKind.Brake) * (1 + 12 * slip * noise.Normal())),
                    ref noise
                );
            }
            case TrialKind.Duration:
                return Math.Round(True(TrialKind.Duration) / commanded * (1 + slip * noise.Normal()) + 0.1 * (noise.Uniform() - 0.5), 2);
            // By hand and a watch: a tenth of a second, less for a film.
            case TrialKind.Swing:
                var servo = new MotorAlone(ActuatorKind.Servo, plan.Usual / True(TrialKind.Swing));
                return Math.Round(servo.Seconds(commanded) * (1 + 5 * slip * noise.Normal()) + 0.04 * (noise.Uniform() - 0.5), 2);
            case TrialKind.Clicks:
            {
                // It is stopped somewhere within a click, and a click in two hundred is missed.
                var clicks = commanded + noise.Uniform() - 0.5;
                for (var i = 0; i < commanded; i++)
                    clicks += noise.Uniform() < 0.005 ? 1 : 0;
                return Tape(clicks * True(TrialKind.Clicks), ref noise);
            }
            case TrialKind.Tremble:
            {
                // Forty readings of a plain surface each way, as a usual eye takes them; no such number is known better than its readings.
                var trembling = Readings(True(TrialKind.Tremble), commanded, ref noise);
                return Math.Round(Sensing.Trembling.Of(trembling.AtRest, trembling.Rolling, commanded).PercentPerMPerS, 2);
            }
            case TrialKind.LetGo:
                return Tape(True(TrialKind.LetGo) + 0.8 * noise.Normal(), ref noise);
            case TrialKind.Sound:
                return Math.Round(True(TrialKind.Sound) + 0.1 * (noise.Uniform() - 0.5), 2);
            default:
                return Tape(True(TrialKind.Hit) * (1 + 0.15 * noise.Normal()), ref noise);
        }

        // A share of its top speed where it is regulated; by the law of plain motors elsewhere, with the pack of a rail vehicle.
        double Free(double power) =>
            motion is { } m && rig.Vehicle?.Name == plan.Mechanism
                ? (
                    m with
                    {
                        FullSpeedMmPerS = m.FullSpeedMmPerS with { Value = True(TrialKind.Speed) },
                        LeastPowerPercent = m.LeastPowerPercent with { Value = True(TrialKind.LeastPower) },
                    }
                ).SteadySpeed(power)
                : Motor(True(TrialKind.Speed)).Steady(power);
        MotorAlone Motor(double full) =>
            plans.ContainsKey(TrialKind.LeastPower)
                ? new(ActuatorKind.PlainMotor, full) { LeastPercent = True(TrialKind.LeastPower) }
                : new(ActuatorKind.RegulatedMotor, full);
        double Steady(double power, ref RandomStream n) => Free(power) * (1 + 2 * slip * n.Normal());
        // Along the ground: a regulated motor is told by its own degrees.
        double Rolling(double power) =>
            plans.GetValueOrDefault(TrialKind.Speed)?.NumberUnit == "motor deg/s"
                ? Free(power) / (rig.Mechanisms.First(m => m.Name == plan.Mechanism).MotorTurnsPerTurn?.Value ?? 1) * Math.PI * wheel / 360
                : Free(power);
    }

    private static (double[] AtRest, double[] Rolling) Readings(double tremble, double speedMmPerS, ref RandomStream noise)
    {
        const int count = 40;
        const double mean = 40,
            sd = 1.2;
        double[] rest = new double[count],
            rolling = new double[count];
        for (var i = 0; i < count; i++)
        {
            rest[i] = mean + sd * noise.Normal();
            rolling[i] = mean + RailMotion.RollingSd(sd, mean, speedMmPerS, tremble) * noise.Normal();
        }
        return (rest, rolling);
    }

    private static double Delay(RailMotion? motion) => motion is null ? MotorAlone.UsualDelayS : motion.ActuatorDelayMs.Value / 1000;
}
