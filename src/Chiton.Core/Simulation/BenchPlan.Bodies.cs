using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Simulation;

public sealed partial class BenchPlan
{
    private sealed partial class Builder
    {
        private readonly List<MoverSpec> movers = [];
        private readonly List<DriveSpec> drives = [];
        private readonly List<VehicleSpec> vehicles = [];
        private readonly List<AxisSpec> axes = [];
        private readonly List<OutputSpec> outputs = [];
        private readonly List<PackSpec> packs = [];

        private void Bodies()
        {
            for (var r = 0; r < rigs.Count; r++)
            {
                var (rig, moves) = (rigs[r].Copy.Rig, rigs[r].Copy.Moves);
                foreach (var m in rig.Mechanisms)
                {
                    if (rig.Actuators.FirstOrDefault(a => a.Name == m.Motor) is not { } motor)
                        continue;
                    switch (m.Facts.Going)
                    {
                        case Going.Steered:
                            Drive(r, rig, moves, m, motor);
                            break;
                        case Going.OnRail:
                            Vehicle(r, rig, moves, m, motor);
                            break;
                        default:
                            Axis(r, rig, moves, m, motor);
                            break;
                    }
                }
                // A motor without a mechanism turns freely.
                foreach (var a in rig.Actuators.Where(a => a.Turns && !rig.Mechanisms.Any(m => m.Motors.Contains(a.Name))))
                    Axis(r, rig, moves, null, a);
                foreach (var a in rig.Actuators.Where(a => !a.Turns))
                    outputs.Add(new(In(r, a.Name), a.Kind, r));
                foreach (var s in rig.Sensors)
                    outputs.Add(new(In(r, $"lamp of {s.Name}"), ActuatorKind.Lamp, r));
                if (rig.Actuators.All(a => a.Kind != ActuatorKind.Sounder))
                    outputs.Add(new(In(r, "controller sound"), ActuatorKind.Sounder, r));
                if (rig.Actuators.All(a => a.Kind != ActuatorKind.Display))
                    outputs.Add(new(In(r, "controller display"), ActuatorKind.Display, r));
                packs.Add(Pack(r, rig, moves));
            }
            plan.Movers = [.. movers];
            plan.Drives = [.. drives];
            plan.Vehicles = [.. vehicles];
            plan.Axes = [.. axes];
            plan.Outputs = [.. outputs];
            plan.Packs = [.. packs];
            plan.Linked = [.. linked];
        }

        private PackSpec Pack(int r, RigDesign rig, CopyMoves moves)
        {
            if (moves.Motion is { } m)
                return new(
                    Draw(r, "battery", m.BatteryV, Meter(r)),
                    Draw(r, "nominal voltage", m.NominalV),
                    Draw(r, "pack resistance", m.PackOhm),
                    Draw(r, "controller current", m.ControllerA),
                    Draw(r, "capacity", m.CapacityAh),
                    true
                );
            var volts = rig.Power is { } p ? p.Cells * p.VoltsPerCell : 6;
            var ohm = rig.Power is { } fed ? PowerBudget.InnerOhm((int)fed.Cells, fed.VoltsPerCell, fed.CapacityMAh) : 0.6;
            return new(
                Draw(
                    r,
                    "battery",
                    new(volts, "V", Provenance.Guessed, "usual for its kind, never measured", 0, 0, volts * 0.15, 1),
                    Meter(r)
                ),
                Fixed(In(r, "nominal voltage"), volts, "V"),
                Guess(r, "pack resistance", ohm, "Ω", ohm),
                Fixed(In(r, "controller current"), (rig.Power?.ControllerOwnMA ?? 120) / 1000, "A"),
                Fixed(In(r, "capacity"), (rig.Power?.CapacityMAh ?? 1800) / 1000, "Ah"),
                false
            );
        }

        // The pack is never the same twice: what it has is measured before, and said in the scene.
        private static Measuring? Meter(int r) =>
            r > 0 ? null : new("rig", "pack", 0.05, "Measuring the pack and saying it in the scene, as “battery at 6 V”", 1);

        private static (double Active, double Stall) Current(RigDesign rig, string motor) =>
            rig.Power?.Devices.FirstOrDefault(d => d.Name == motor) is { } d
                ? ((d.ActiveMA ?? 200) / 1000, (d.StallMA ?? 800) / 1000)
                : (0.2, 0.8);

        private int Mover(MoverSpec spec)
        {
            movers.Add(spec);
            return movers.Count - 1;
        }

        private void Drive(int r, RigDesign rig, CopyMoves moves, Mechanism m, Actuator motor)
        {
            var wheel =
                moves.InUse(m.Name, TrialKind.Straight)
                ?? m.WheelDiameterMm
                ?? new Quantity(56, "mm", Provenance.Guessed, "not measured yet", 0, 0, 20, 10);
            var track =
                moves.TrackByTurns(m.Name)
                ?? moves.InUse(m.Name, TrialKind.Turn)
                ?? m.TrackWidthMm
                ?? new Quantity(120, "mm", Provenance.Guessed, "not measured yet", 0, 0, 40, 20);
            // What was worked out through the wheel moves with it.
            var pivotAlone = moves.ByWheel(m.Name, TrialKind.Pivot);
            var pivot = pivotAlone ?? (moves.InUse(m.Name, TrialKind.Pivot) is { } own && own.Value > 0 && own.Unit == "mm" ? own : track);
            var veerAlone = moves.ByWheel(m.Name, TrialKind.Veer);
            var byPower = motor.Kind == ActuatorKind.PlainMotor ? moves.SpeedByPower(m.Name) : null;
            var turns = m.MotorTurnsPerTurn?.Value ?? 1;
            var plain = motor.Kind == ActuatorKind.PlainMotor;
            var mmPerDeg = Math.PI * wheel.Value / 360 / turns;
            var full = moves.TopAtGround(motor, m, wheel.Value, byPower?.Full);
            var brake = moves.InUse(m.Name, TrialKind.Brake);
            // Both wheels are of one kind, but no two motors are the same: each draws its own lag and speed.
            int Wheel(string name)
            {
                var (active, stall) = Current(rig, name);
                return Mover(
                    new()
                    {
                        Name = In(r, name),
                        Motor = In(r, name),
                        Kind = motor.Kind,
                        Rig = r,
                        Full = Draw(r, $"top speed of {m.Name}", full, Trial(r, m.Name, TrialKind.Speed, full, plain ? 1 : mmPerDeg)),
                        Least = plain ? Least(r, moves, m.Name, $"least power of {m.Name}") : -1,
                        Lag = Guess(r, $"lag of {m.Name}", 60, "ms", 60, 5),
                        Accel = Guess(r, $"greatest acceleration of {m.Name}", 2500, "mm/s²", 2000, 200),
                        Brake = brake is not null
                            ? Draw(r, $"braking of {m.Name}", brake, Trial(r, m.Name, TrialKind.Brake, brake))
                            : Guess(r, $"braking of {m.Name}", 850, "mm/s²", 500, 100, (m.Name, TrialKind.Brake)),
                        Coast = moves.InUse(m.Name, TrialKind.Coast) is { } coast
                            ? Draw(r, $"coasting of {m.Name}", coast, Trial(r, m.Name, TrialKind.Coast, coast))
                            : Guess(r, $"coasting of {m.Name}", 250, "ms", 300, 20, (m.Name, TrialKind.Coast)),
                        Delay = Guess(r, $"delay of {m.Name}", 40, "ms", 20),
                        StallAfter = Guess(r, $"stall time of {m.Name}", 300, "ms", 150, 50),
                        MoveSd =
                            moves.Plans.FirstOrDefault(p => p.Mechanism == m.Name && p.Kind == TrialKind.Straight) is { } straight
                            && moves.Second(straight) is { } over
                                ? Math.Max(0.2, over.MoveSd)
                                : 1,
                        SpeedSd = plain ? full.MoveSd / Math.Max(1, full.Value) : 0,
                        BrakeSd = BrakeSd(brake),
                        DegPerUnit = 1 / mmPerDeg,
                        PartDegPerUnit = 360 / (Math.PI * wheel.Value),
                        NoticesStall = rig.Actuators.FirstOrDefault(a => a.Name == name)?.StallIsNoticed ?? false,
                        ActiveA = active,
                        StallA = stall,
                        Moves = Simulation.Draws.Hash(In(r, $"moves of {name}")),
                    }
                );
            }
            var outline =
                rig.Outline.Count >= 3
                    ? rig.Outline.ToArray()
                    : [new(60, -track.Value / 2), new(60, track.Value / 2), new(-50, track.Value / 2), new(-50, -track.Value / 2)];
            var left = Wheel(m.Motors[0]);
            Link(left, byPower);
            drives.Add(
                new()
                {
                    Name = In(r, m.Name),
                    Rig = r,
                    Left = left,
                    Right = Wheel(m.Motors.Count > 1 ? m.Motors[1] : m.Motors[0]),
                    Wheel = Draw(r, $"wheel of {m.Name}", wheel, Trial(r, m.Name, TrialKind.Straight, wheel)),
                    WheelKnown = wheel.Value,
                    Track = Draw(r, $"track of {m.Name}", track, Trial(r, m.Name, TrialKind.Turn, track)),
                    TrackKnown = track.Value,
                    Pivot = ReferenceEquals(pivot, track)
                        ? Draw(r, $"track of {m.Name}", pivot)
                        : Draw(r, $"track of {m.Name} about one wheel", pivot, Trial(r, m.Name, TrialKind.Pivot, pivot)),
                    PivotKnown = pivot.Value,
                    TrackByTurns = moves.TrackByTurns(m.Name) is not null,
                    PivotByTurns = pivotAlone is not null || ReferenceEquals(pivot, track) && moves.TrackByTurns(m.Name) is not null,
                    VeerByWheel = veerAlone is not null,
                    Veer = (veerAlone ?? moves.InUse(m.Name, TrialKind.Veer)) is { } veer
                        ? Draw(r, $"veer of {m.Name}", veer, Trial(r, m.Name, TrialKind.Veer, veer))
                        : Guess(r, $"veer of {m.Name}", 0, "deg/m", 6, double.MinValue, (m.Name, TrialKind.Veer)),
                    TurnShareSd = track.MoveSd > 0 ? track.MoveSd / track.Value : 0.01,
                    Grip = Guess(r, $"grip of {m.Name}", 0.8, "of its stall", 0.8),
                    Tremble = Tremble(r, moves, m),
                    Outline = outline,
                    Reach = outline.Max(c => Math.Sqrt(c.AheadMm * c.AheadMm + c.RightMm * c.RightMm)),
                    TopKnown = full.Value,
                    RestsAtMm = m.TipAheadMm?.Value ?? Math.Max(0, outline.Max(c => c.AheadMm)) / 2,
                    Names = [m.Name, .. m.Motors],
                    Turns = Simulation.Draws.Hash(In(r, $"turns of {m.Name}")),
                }
            );
        }

        // A guess that was only narrowed brakes as unevenly as a guess does.
        private static double BrakeSd(Quantity? brake) => brake is null or { Kind: Provenance.Guessed, MoveSd: 0 } ? 60 : brake.MoveSd;

        private int Tremble(int r, CopyMoves moves, Mechanism m) =>
            moves.InUse(m.Name, TrialKind.Tremble) is { } t
                ? Draw(r, m.Facts.Going == Going.OnRail ? "tremble" : $"tremble of {m.Name}", t, Trial(r, m.Name, TrialKind.Tremble, t))
                : Guess(r, $"tremble of {m.Name}", 20, "% per m/s", 30, 0, (m.Name, TrialKind.Tremble));

        private int Least(int r, CopyMoves moves, string mechanism, string say, Quantity? known = null)
        {
            var q =
                known
                ?? moves.InUse(mechanism, TrialKind.LeastPower)
                ?? new Quantity(18, "%", Provenance.Guessed, "usual, never tried", 0, 0, 24, 1, 60);
            return Draw(r, say, q, Trial(r, mechanism, TrialKind.LeastPower, q));
        }

        private void Vehicle(int r, RigDesign rig, CopyMoves moves, Mechanism m, Actuator motor)
        {
            var own = rig.Vehicle?.Name == m.Name ? moves.Motion : null;
            var regulated = motor.Kind == ActuatorKind.RegulatedMotor;
            var usual = own ?? RailMotion.Usual(rig with { Mechanisms = [m] });
            var turns = m.MotorTurnsPerTurn?.Value ?? 1;
            var wheel = moves.InUse(m.Name, TrialKind.Straight) ?? m.WheelDiameterMm;
            var mmPerDeg = Math.PI * (wheel?.Value ?? 30) / 360 / turns;
            var brake = usual?.BrakeDecelMmPerS2 ?? moves.InUse(m.Name, TrialKind.Brake);
            var full = usual?.FullSpeedMmPerS ?? (moves.InUse(m.Name, TrialKind.Speed) ?? CopyMoves.UsualTop).Times(mmPerDeg, "mm/s");
            var (active, stall) = Current(rig, motor.Name);
            string Say(string what) => own is null ? $"{what} of {m.Name}" : what;
            var mover = Mover(
                new()
                {
                    Name = In(r, m.Name),
                    Motor = In(r, motor.Name),
                    Kind = motor.Kind,
                    Rig = r,
                    Full = Draw(r, Say("speed at full power"), full, Trial(r, m.Name, TrialKind.Speed, full, usual is null ? mmPerDeg : 1)),
                    Least = regulated ? -1 : Least(r, moves, m.Name, Say("least power"), usual?.LeastPowerPercent),
                    Lag = usual is not null ? Draw(r, Say("lag"), usual.LagMs) : Guess(r, Say("lag"), 60, "ms", 60, 5),
                    Accel = usual is not null
                        ? Draw(r, Say("greatest acceleration"), usual.MaxAccelMmPerS2)
                        : Guess(r, Say("greatest acceleration"), 2500, "mm/s²", 2000, 200),
                    Brake = brake is not null
                        ? Draw(r, Say("braking"), brake, Trial(r, m.Name, TrialKind.Brake, brake))
                        : Guess(r, Say("braking"), 850, "mm/s²", 500, 100),
                    Coast = usual is not null
                        ? Draw(r, Say("coasting"), usual.CoastTimeConstantMs, Trial(r, m.Name, TrialKind.Coast, usual.CoastTimeConstantMs))
                        : Guess(r, Say("coasting"), 250, "ms", 300, 20),
                    Delay = usual is not null ? Draw(r, Say("delay"), usual.ActuatorDelayMs) : Guess(r, Say("delay"), 40, "ms", 20),
                    StallAfter = Guess(r, Say("stall time"), 300, "ms", 150, 50),
                    MoveSd = 1,
                    SpeedSd = full.MoveSd / Math.Max(1, full.Value),
                    BrakeSd = BrakeSd(brake),
                    DegPerUnit = 1 / mmPerDeg,
                    PartDegPerUnit = 1 / (mmPerDeg * turns),
                    NoticesStall = motor.StallIsNoticed,
                    ActiveA = active,
                    StallA = usual is not null ? -1 - Draw(r, Say("stall current"), usual.StallA) : stall,
                    Moves = Simulation.Draws.Hash(In(r, $"moves of {m.Name}")),
                }
            );
            vehicles.Add(
                new()
                {
                    Name = In(r, m.Name),
                    Rig = r,
                    Mover = mover,
                    LengthMm = m.LengthMm?.Value ?? 120,
                    Tremble = usual is not null
                        ? Draw(
                            r,
                            Say("tremble"),
                            usual.TremblePercentPerMPerS,
                            Trial(r, m.Name, TrialKind.Tremble, usual.TremblePercentPerMPerS)
                        )
                        : Tremble(r, moves, m),
                }
            );
            if (own?.SpeedTriedAtPercent is { } at && movers[mover].Least >= 0)
                linked.Add((mover, at, own.LeastPowerPercent.Value));
        }

        // Movers whose full speed was found through their least power: drawn together.
        private readonly List<(int Mover, double AtPercent, double LeastPercent)> linked = [];

        // Of several motors of one mechanism the one that draws the speed.
        private void Link(int mover, (Quantity Full, double AtPercent)? found)
        {
            if (found is { } f && movers[mover].Least >= 0)
                linked.Add((mover, f.AtPercent, draws[movers[mover].Least].Usual));
        }

        private void Axis(int r, RigDesign rig, CopyMoves moves, Mechanism? m, Actuator motor)
        {
            var name = m?.Name ?? motor.Name;
            var turns = m?.MotorTurnsPerTurn?.Value ?? 1;
            var servo = motor.Kind == ActuatorKind.Servo;
            var stepper = motor.Kind == ActuatorKind.Stepper;
            // mm of the part for one motor degree; what turns goes none.
            var mmPerUnit = moves.MmPerMotorDeg(m);
            Quantity full;
            Measuring? fullBy = null;
            (Quantity Full, double AtPercent)? axisByPower = null;
            if (servo)
            {
                full = moves.TopOfServo(name, m);
                // A share of the time is the same share of the speed.
                if (
                    Trial(r, name, TrialKind.Swing, moves.InUse(name, TrialKind.Swing) ?? full) is { } swung
                    && moves.Timings.SwingS(name) is > 0 and var swing
                )
                    fullBy = swung with { Sd = swung.Sd / swing * full.Value, By = swing * full.Value, Inverse = true };
            }
            else
            {
                axisByPower = m is null || motor.Kind != ActuatorKind.PlainMotor ? null : moves.SpeedByPower(name);
                full = moves.TopSpeed(motor, m, axisByPower?.Full);
                var tried = axisByPower?.Full ?? (m is null ? null : moves.InUse(name, TrialKind.Speed));
                var by = motor.Kind != ActuatorKind.PlainMotor || tried is null or { Value: 0 } ? 1 : full.Value / tried.Value;
                fullBy = Trial(r, name, TrialKind.Speed, full, by);
            }
            var (active, stall) = Current(rig, motor.Name);
            var unit = servo ? "deg" : "motor deg";
            var mover = Mover(
                new()
                {
                    Name = In(r, name),
                    Motor = In(r, motor.Name),
                    Kind = motor.Kind,
                    Rig = r,
                    Full = Draw(r, $"top speed of {name}", full with { MoveSd = 0 }, fullBy),
                    Least = motor.Kind == ActuatorKind.PlainMotor ? Least(r, moves, name, $"least power of {name}") : -1,
                    Lag = Guess(r, $"lag of {name}", 60, "ms", 60, 5),
                    Accel = Guess(r, $"greatest acceleration of {name}", 6000, $"{unit}/s²", 4000, 500),
                    Brake = Guess(r, $"braking of {name}", 3000, $"{unit}/s²", 1500, 400),
                    Coast = Guess(r, $"coasting of {name}", 80, "ms", 80, 10),
                    Delay = Guess(r, $"delay of {name}", servo ? 20 : 40, "ms", 20),
                    StallAfter = Guess(r, $"stall time of {name}", 300, "ms", 150, 50),
                    MoveSd =
                        servo ? 0.8
                        : stepper ? 0
                        : 1.5,
                    SpeedSd = motor.Kind == ActuatorKind.PlainMotor ? Math.Max(0.02, full.MoveSd / Math.Max(1, full.Value)) : 0,
                    BrakeSd = 150,
                    PartDegPerUnit = servo ? 1 : 1 / turns,
                    NoticesStall = motor.StallIsNoticed,
                    ActiveA = active,
                    StallA = stall,
                    MostRate = stepper ? motor.MostStepsPerS ?? double.PositiveInfinity : double.PositiveInfinity,
                    Moves = Simulation.Draws.Hash(In(r, $"moves of {name}")),
                }
            );
            Link(mover, axisByPower);
            var travel = m?.Travel;
            var rising = travel is null || travel.From.Value <= travel.To.Value;
            var found = rigs[r].Copy.Positions.GetValueOrDefault(name);
            double[] stood = [.. (found ?? new Dictionary<string, IReadOnlyList<double>>()).Values.SelectMany(a => a)];
            // Where it was found by hand it can stand: its stop lies no nearer, however little is known of it.
            int End(bool low) =>
                travel is null || travel.PastEnd == PastEnd.GoesOn
                    ? -1
                    : Draw(
                        r,
                        $"{name} {(low == rising ? "from" : "to")}",
                        (low == rising ? travel.From : travel.To) with
                        {
                            Min = low || stood.Length == 0 ? double.MinValue : stood.Max() + 1,
                            Max = !low || stood.Length == 0 ? double.MaxValue : stood.Min() - 1,
                        }
                    );
            string Way(bool forward) => m?.Directions.FirstOrDefault(d => d.Forward == forward)?.Name ?? "";
            string Stop(string way) =>
                way switch
                {
                    "up" => "top",
                    "down" => "bottom",
                    _ => way,
                };
            var positions = new Dictionary<string, double>();
            foreach (var p in m?.Positions ?? [])
                if (found?.GetValueOrDefault(p) is { Count: > 0 } angles)
                    positions[p] = Math.Round(angles.Average(), 1);
            axes.Add(
                new()
                {
                    Name = In(r, name),
                    Rig = r,
                    Mover = mover,
                    RunsOn = m?.Facts.RunsOn ?? false,
                    Low = End(true),
                    High = End(false),
                    Over = travel?.OverCentre is { } over ? Draw(r, $"{name} over centre", over with { Min = double.MinValue }) : -1,
                    PastEnd = travel?.PastEnd ?? PastEnd.GoesOn,
                    HomeSide =
                        travel is null || travel.Home == HomeEnd.None ? 0
                        : (travel.Home == HomeEnd.From) == rising ? -1
                        : 1,
                    LowName = Stop(Way(false)),
                    HighName = Stop(Way(true)),
                    Positions = positions,
                    Grips = m?.Facts.Grips ?? false,
                    Bears = m?.Facts.Bears ?? false,
                    LetGo =
                        m is not null && m.Facts.Bears && moves.InUse(name, TrialKind.LetGo) is { } let
                            ? Draw(r, $"{name} let go", let, Trial(r, name, TrialKind.LetGo, let))
                            : -1,
                    UsualSpeed = servo ? full.Value : full.Value * 0.3,
                    MmPerUnit = mmPerUnit,
                    TipMm = m?.TipAheadMm?.Value ?? 0,
                    UpSign =
                        m?.Directions.Any(d => d is { Name: "up", Forward: false } or { Name: "down", Forward: true }) == true ? -1 : 1,
                    // By the work of a small turn: what a newton gains in height, the motor gives.
                    NmmPerN =
                        m is null || !m.Facts.Bears || servo ? 0
                        : m.Facts.Moves == PartMoves.Slides ? Math.Abs(mmPerUnit) * 180 / Math.PI
                        : (m.TipAheadMm?.Value ?? 0) / turns,
                    Forks = m is { TipAheadMm: not null, Facts: { Bears: true, Moves: PartMoves.Slides } },
                    GripForce = m?.Facts.Grips == true ? Guess(r, $"force of {name} at full power", 14, "N", 8, 1) : -1,
                    JawOpening = m?.Facts.Grips == true ? Guess(r, $"opening of {name}", 60, "mm", 20, 10) : -1,
                    OpenAt = positions.GetValueOrDefault("open", travel?.From.Value ?? 0),
                    ClosedAt = positions.GetValueOrDefault("closed", travel?.To.Value ?? 180),
                    StartAt = servo
                        ? positions.Count > 0 && m!.Positions.Count > 0
                            ? positions.GetValueOrDefault(m.Positions[0], travel?.From.Value ?? 90)
                            : travel?.From.Value ?? 90
                        : travel is { PastEnd: not PastEnd.GoesOn }
                            ? (rising ? travel.From.Value : travel.To.Value)
                            : 0,
                }
            );
        }
    }
}
