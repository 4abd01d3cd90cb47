using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Simulation;

/// <summary>How and where a run ended.</summary>
public enum RunEnding
{
    /// <summary>Every goal was reached and no never broken.</summary>
    Passed,

    /// <summary>A goal's time ran out, or the machine stood still for good elsewhere.</summary>
    GoalMissed,

    /// <summary>A never came true.</summary>
    NeverBroken,

    /// <summary>The machine had to be stopped.</summary>
    MachineFault,
}

/// <summary>The outcome of one run, small enough to keep thousands of.</summary>
/// <param name="Ending">How it ended.</param>
/// <param name="Rule">Index of the rule that decided a failure; −1 for none.</param>
/// <param name="LastTransition">The last transition taken by then, in the program's steps; −1 for none.</param>
/// <param name="TimeMicros">When it was decided, µs.</param>
/// <param name="SpotMm">Where the first eye's spot was then, mm from the line's origin, 0 to its length.</param>
/// <param name="Standing">True when the vehicle stood still then.</param>
public readonly record struct RunResult(RunEnding Ending, int Rule, int LastTransition, long TimeMicros, double SpotMm, bool Standing)
{
    /// <summary>True when the run passed.</summary>
    public bool Passed => Ending == RunEnding.Passed;
}

/// <summary>Told what happens while one run is watched.</summary>
public interface IRunWatcher
{
    /// <summary>The machine has started.</summary>
    void Started(ScriptMachine machine);

    /// <summary>A transition was taken.</summary>
    /// <param name="timeMicros">When, µs since the start.</param>
    /// <param name="step">Which, in <see cref="CompiledScript.Steps"/>.</param>
    /// <param name="machine">The machine, before the transition's actions.</param>
    void Taken(long timeMicros, int step, ScriptMachine machine);

    /// <summary>A step of the clock has been worked out.</summary>
    void Stepped(long timeMicros, double positionMm, double speedMmPerS, double powerPercent, double batteryV);

    /// <summary>A sensor gave a reading (NaN for none).</summary>
    void Read(int sensor, long timeMicros, double reading, double spotMm);

    /// <summary>A command was given.</summary>
    void Commanded(long timeMicros, ScriptCommand command, ScriptMachine machine);
}

/// <summary>
/// Runs a rail vehicle through its world at a fixed step. One object per thread; every run starts from nothing, so the
/// same seed gives the same run bit for bit whatever ran before or beside it. Allocates nothing per run unless watched.
/// </summary>
public sealed class RailRun
{
    /// <summary>Step of the clock, µs.</summary>
    public const long StepMicros = 2000;

    /// <summary>Most steps of the machine in one run: stimuli, transitions and actions.</summary>
    public const long MostSteps = 5_000_000;

    /// <summary>How long it must stand to count as stopped, µs.</summary>
    public const long StandingMicros = 200_000;

    private const int DelaySlots = 32;

    private readonly RailSetup setup;

    private enum MotorOrder : byte
    {
        Run,
        Brake,
        Coast,
    }

    private readonly record struct Order(MotorOrder Kind, double Power);

    private readonly StepBudget budget = new(MostSteps);
    private readonly ScriptMachine machine;
    private readonly double[] drawn;
    private readonly double[] markerAt;
    private readonly long[] nextReading;
    private readonly bool[] goalReached;
    private readonly Order[] delayed = new Order[DelaySlots];
    private readonly long[] delayedDue = new long[DelaySlots];

    /// <summary>A runner for a setup.</summary>
    public RailRun(RailSetup setup)
    {
        this.setup = setup;
        machine = new(setup.Program) { Budget = budget, FaultsWhenSpent = true };
        drawn = new double[setup.Draws.Count];
        markerAt = [.. setup.Rail.Markers.Select(m => m.AtMm)];
        nextReading = new long[setup.Eyes.Length];
        goalReached = new bool[setup.Rules.Count];
    }

    /// <summary>The numbers drawn for the latest run, in the order of <see cref="RailSetup.Draws"/>.</summary>
    public ReadOnlySpan<double> Drawn => drawn;

    /// <summary>Why the machine had to be stopped in the latest run, or null.</summary>
    public string? MachineFault => machine.Fault;

    /// <summary>Runs once.</summary>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="durationMicros">Longest time to run, µs.</param>
    /// <param name="untilDecided">Stop as soon as pass or fail is certain; false runs to the end.</param>
    /// <param name="watcher">Told of everything, or null.</param>
    /// <param name="faults">Disturbances, or null.</param>
    /// <param name="cancel">Stops it; looked at every half second of simulated time.</param>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public RunResult Go(
        long seed,
        long durationMicros,
        bool untilDecided = true,
        IRunWatcher? watcher = null,
        IReadOnlyList<Fault>? faults = null,
        CancellationToken cancel = default
    )
    {
        budget.Renew();
        var numbers = new RandomStream((ulong)seed, 1);
        var moves = new RandomStream((ulong)seed, 2);
        var noise = new RandomStream((ulong)seed, 3);
        for (var i = 0; i < drawn.Length; i++)
            drawn[i] = setup.Draws[i].Number.DrawForRun(numbers.Normal());
        // Fitted through the least power, the full speed is drawn with it.
        drawn[RailSetup.FullSpeed] *= setup.Motion.FullSpeedShare(drawn[RailSetup.LeastPower]);

        var length = setup.Rail.LengthMm;
        var motion = setup.Motion;
        const double dt = StepMicros * 1e-6;
        var full = drawn[RailSetup.FullSpeed];
        var least = Math.Clamp(drawn[RailSetup.LeastPower] / 100, 0, 0.95);
        var follow = 1 - Math.Exp(-dt / Math.Max(1e-4, drawn[RailSetup.Lag] / 1000));
        var coastKeep = Math.Exp(-dt / Math.Max(1e-4, drawn[RailSetup.CoastTime] / 1000));
        var mostChange = drawn[RailSetup.Accel] * dt;
        var brakeMean = drawn[RailSetup.Brake];
        var delay = (long)(drawn[RailSetup.Delay] * 1000);
        var nominal = drawn[RailSetup.Nominal];
        var capacity = Math.Max(1e-3, drawn[RailSetup.Capacity]) * 3600;
        var eyes = setup.Eyes;
        var motor = setup.MotorIndex;
        var speedShare = motion.FullSpeedMmPerS.MoveSd / motion.FullSpeedMmPerS.Value;

        double position = drawn[RailSetup.StartAt],
            speed = 0,
            power = 0,
            used = 0,
            moveFactor = 1,
            brakeNow = brakeMean,
            volts = drawn[RailSetup.Battery];
        var braking = true;
        long standingSince = 0;
        var everMoved = false;
        int delayHead = 0,
            delayCount = 0;
        var goals = 0;
        Array.Clear(goalReached);
        for (var r = 0; r < setup.Rules.Count; r++)
            if (setup.Rules[r].IsGoal)
                goals++;
        var result = default(RunResult);
        var decided = false;

        // Each eye starts at its own phase of the clock: nobody switches on in step with it.
        for (var e = 0; e < eyes.Length; e++)
            nextReading[e] = (long)(numbers.Uniform() * eyes[e].PeriodMicros);

        machine.Watcher = watcher is null ? null : Telling(watcher);
        machine.Start((ulong)seed);
        watcher?.Started(machine);
        for (long now = 0; ; now += StepMicros)
        {
            if (now % 500_000 == 0)
                cancel.ThrowIfCancellationRequested();
            // The program: ends and timers, then readings, as the machine's meaning orders them.
            machine.Pass(now);
            for (var e = 0; e < eyes.Length; e++)
            {
                while (nextReading[e] <= now)
                {
                    nextReading[e] += eyes[e].PeriodMicros;
                    var reading = See(eyes[e], position, speed, ref noise);
                    if (faults is not null && Active(faults, FaultKind.Unplugged, setup.Program.SensorName(eyes[e].Sensor), now))
                        reading = double.NaN;
                    watcher?.Read(eyes[e].Sensor, now, reading, Wrap(position + drawn[eyes[e].AheadDraw], length));
                    machine.Sense(eyes[e].Sensor, reading);
                }
            }
            for (var c = 0; c < machine.Commands.Count; c++)
            {
                var command = machine.Commands[c];
                watcher?.Commanded(now, command, machine);
                if (motor < 0 || OrderOf(command, motor) is not { } order)
                    continue;
                // A controller that is told more than it can pass on forgets the oldest order first.
                if (delayCount == DelaySlots)
                {
                    delayHead = (delayHead + 1) % DelaySlots;
                    delayCount--;
                }
                var slot = (delayHead + delayCount++) % DelaySlots;
                delayed[slot] = order;
                delayedDue[slot] = now + delay;
            }
            machine.ClearCommands();

            // Pass or fail.
            if (!decided)
            {
                var standing = speed == 0 && now - standingSince >= StandingMicros;
                var over = standing && everMoved ? MarkerUnderSpot(position) : -1;
                // Standing still with nothing on its way to the motor and a finished machine can never change again.
                var forGood = standing && machine.Finished && delayCount == 0;
                for (var r = 0; r < setup.Rules.Count && !decided; r++)
                {
                    var rule = setup.Rules[r];
                    if (rule.IsGoal)
                    {
                        if (goalReached[r])
                            continue;
                        var reached = rule.Kind switch
                        {
                            ConditionKind.StoppedOver => over >= 0 && over == rule.Marker,
                            ConditionKind.Holds => machine.RuleHolds(r),
                            _ => machine.Finished,
                        };
                        if (reached && now <= rule.LimitMicros)
                        {
                            goalReached[r] = true;
                            goals--;
                        }
                        else if (now > rule.LimitMicros || forGood)
                            decided = End(RunEnding.GoalMissed, r, now, position, speed, out result);
                    }
                    else
                    {
                        var broken = rule.Kind switch
                        {
                            ConditionKind.StoppedOver => over >= 0 && over == rule.Marker,
                            ConditionKind.Holds => machine.RuleHolds(r),
                            _ => now > rule.LimitMicros && speed != 0,
                        };
                        if (broken)
                            decided = End(RunEnding.NeverBroken, r, now, position, speed, out result);
                    }
                }
                if (!decided && machine.Fault is not null)
                    decided = End(RunEnding.MachineFault, -1, now, position, speed, out result);
                if (!decided && goals == 0 && (forGood || (setup.Rules.Count > 0 && AllGoals())))
                    decided = End(RunEnding.Passed, -1, now, position, speed, out result);
            }
            if (watcher is not null)
                watcher.Stepped(now, position, speed, power, volts);
            if ((decided && untilDecided) || now >= durationMicros)
                break;

            // The motor.
            while (delayCount > 0 && delayedDue[delayHead] <= now)
            {
                ref readonly var command = ref delayed[delayHead];
                delayHead = (delayHead + 1) % DelaySlots;
                delayCount--;
                if (command.Kind == MotorOrder.Run)
                {
                    braking = false;
                    if (command.Power != power)
                    {
                        power = command.Power;
                        moveFactor = 1 + speedShare * Math.Clamp(moves.Normal(), -3, 3);
                    }
                }
                else
                {
                    power = 0;
                    braking = command.Kind != MotorOrder.Coast;
                    brakeNow = Math.Max(0.1 * brakeMean, brakeMean + motion.BrakeDecelMmPerS2.MoveSd * Math.Clamp(moves.Normal(), -3, 3));
                }
            }
            var duty = power / 100;
            if (faults is not null && motor >= 0 && Active(faults, FaultKind.Unplugged, setup.Vehicle.Motor, now))
                duty = 0;
            var current =
                drawn[RailSetup.Controller] + RailMotion.MotorCurrent(duty, volts / nominal, speed / full, drawn[RailSetup.Stall]);
            used += current * dt;
            volts = drawn[RailSetup.Battery] * (1 - 0.2 * Math.Min(1, used / capacity)) - current * drawn[RailSetup.PackOhm];
            if (faults is not null && Active(faults, FaultKind.FlatBattery, null, now))
                volts *= 2.0 / 3;
            var before = speed;
            if (duty != 0)
            {
                var target = RailMotion.FreeSpeed(duty, volts / nominal, least, full) * moveFactor;
                speed += Math.Clamp((target - speed) * follow, -mostChange, mostChange);
                if (target == 0 && Math.Abs(speed) < 1)
                    speed = 0;
            }
            else if (braking)
            {
                var less = brakeNow * dt;
                speed = Math.Abs(speed) <= less ? 0 : speed - Math.Sign(speed) * less;
            }
            else
            {
                speed *= coastKeep;
                if (Math.Abs(speed) < 1)
                    speed = 0;
            }
            position += (before + speed) / 2 * dt;
            if (speed != 0)
            {
                everMoved = true;
                standingSince = now + StepMicros;
            }
        }
        if (!decided)
        {
            var missed = -1;
            for (var r = 0; r < setup.Rules.Count && missed < 0; r++)
                if (setup.Rules[r].IsGoal && !goalReached[r])
                    missed = r;
            End(missed >= 0 ? RunEnding.GoalMissed : RunEnding.Passed, missed, durationMicros, position, speed, out result);
        }
        machine.Watcher = null;
        return result;
    }

    // On its own, so that a run that nobody watches makes nothing for it.
    private ScriptWatcher Telling(IRunWatcher watcher) =>
        (time, unit, t) => watcher.Taken(time, setup.Program.FirstStep[unit] + t, machine);

    // What a command means to the vehicle's motor; null when it is for something else.
    private Order? OrderOf(in ScriptCommand command, int motor)
    {
        var sentence = machine.Sentence(command);
        if (sentence is StopAllNode)
            return new(MotorOrder.Brake, 0);
        if (command.Device != motor)
            return null;
        return sentence switch
        {
            RunNode run => new(MotorOrder.Run, Math.Clamp(command.Value, -100, 100) * setup.SignOf(run.Direction)),
            StopNode { Mode: StopMode.Coast } => new(MotorOrder.Coast, 0),
            null or StopNode => new(MotorOrder.Brake, 0),
            _ => null,
        };
    }

    private bool AllGoals()
    {
        // A never can still be broken later, so goals alone settle a run only when there is no never left to break.
        var nevers = false;
        var any = false;
        for (var r = 0; r < setup.Rules.Count; r++)
        {
            any |= setup.Rules[r].IsGoal;
            nevers |= !setup.Rules[r].IsGoal;
        }
        return any && !nevers;
    }

    private bool End(RunEnding ending, int rule, long now, double position, double speed, out RunResult result)
    {
        var ahead = setup.Eyes.Length > 0 ? drawn[setup.Eyes[0].AheadDraw] : 0;
        result = new(ending, rule, machine.LastStep, now, Wrap(position + ahead, setup.Rail.LengthMm), speed == 0);
        return true;
    }

    private static bool Active(IReadOnlyList<Fault> faults, FaultKind kind, string? device, long now)
    {
        foreach (var fault in faults)
            if (fault.Kind == kind && fault.Device == device && now >= fault.FromS * 1e6 && (fault.ToS is not { } to || now < to * 1e6))
                return true;
        return false;
    }

    /// <summary>A position on a closed line, from 0 up to its length.</summary>
    internal static double Wrap(double position, double length) => position - Math.Floor(position / length) * length;

    // Signed way from the middle of a marker to the spot, the short way round.
    private double FromMiddle(int marker, double spot)
    {
        var length = setup.Rail.LengthMm;
        var d = Wrap(spot - markerAt[marker] - drawn[setup.FirstMarker + marker] / 2, length);
        return d > length / 2 ? d - length : d;
    }

    // The marker that holds the whole spot of the first eye, or −1.
    private int MarkerUnderSpot(double position)
    {
        if (setup.Eyes.Length == 0)
            return -1;
        var spot = position + drawn[setup.Eyes[0].AheadDraw];
        var radius = drawn[setup.Eyes[0].SpotDraw] / 2;
        for (var m = 0; m < markerAt.Length; m++)
            if (Math.Abs(FromMiddle(m, spot)) <= drawn[setup.FirstMarker + m] / 2 - radius)
                return m;
        return -1;
    }

    private double See(in RailSetup.Eye eye, double position, double speed, ref RandomStream noise)
    {
        var spot = position + drawn[eye.AheadDraw];
        var radius = Math.Max(1e-3, drawn[eye.SpotDraw] / 2);
        var draws = setup.Draws;
        double mean = 0,
            variance = 0,
            covered = 0;
        for (var m = 0; m < markerAt.Length; m++)
        {
            var half = drawn[setup.FirstMarker + m] / 2;
            var d = FromMiddle(m, spot);
            if (Math.Abs(d) >= half + radius)
                continue;
            var share = ShareLeftOf((half - d) / radius) - ShareLeftOf((-half - d) / radius);
            var surface = eye.FirstSurfaceDraw + setup.MarkerSurface[m];
            covered += share;
            mean += share * drawn[surface];
            variance += share * draws[surface].Number.MoveSd * draws[surface].Number.MoveSd;
        }
        var ground = eye.FirstSurfaceDraw;
        mean += (1 - covered) * drawn[ground];
        variance += (1 - covered) * draws[ground].Number.MoveSd * draws[ground].Number.MoveSd;
        var reading = mean + RailMotion.RollingSd(Math.Sqrt(Math.Max(0, variance)), mean, speed, drawn[RailSetup.Tremble]) * noise.Normal();
        if (eye.Resolution > 0)
            reading = Math.Round(reading / eye.Resolution) * eye.Resolution;
        return Math.Clamp(reading, 0, 100);
    }

    /// <summary>Share of a round spot that lies left of a straight edge. Source: area of a circular segment.</summary>
    /// <param name="z">Way from the spot's middle to the edge, in radii.</param>
    internal static double ShareLeftOf(double z) =>
        z <= -1 ? 0
        : z >= 1 ? 1
        : 0.5 + (z * Math.Sqrt(1 - z * z) + Math.Asin(z)) / Math.PI;
}
