using Chiton.Core.Motion;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private BeltThing[] onBelt = new BeltThing[256];
    private int beltCount,
        beltFirst;
    private double beltNext,
        beltBefore;
    private RandomStream beltLuck;
    private double litres;
    private static readonly ulong BeltLuck = Draws.Hash("what comes along the belt");

    internal ReadOnlySpan<BeltThing> OnBelt => onBelt.AsSpan(0, beltCount);

    /// <summary>Height of the water, mm.</summary>
    internal double LevelMm => plan.Tank is { } t ? t.HighMm.In(drawn) * litres / Math.Max(1e-9, drawn[t.Litres]) : 0;

    private void StartBodies()
    {
        for (var i = 0; i < movers.Length; i++)
        {
            movers[i] = new()
            {
                Telling = Telling.Brake,
                Factor = 1,
                PushSince = long.MaxValue,
                ReleaseAt = long.MaxValue,
                Moves = Draws.Stream(seed, plan.Movers[i].Moves),
                BrakeNow = drawn[plan.Movers[i].Brake],
                Program = -1,
            };
            Mover.Bind(ref movers[i], plan.Movers[i], drawn);
            (powered[i], blocked[i]) = (!plan.Dead.Movers[i], false);
        }
        for (var i = 0; i < drives.Length; i++)
        {
            var spec = plan.Drives[i];
            drives[i] = new()
            {
                X = drawn[spec.X],
                Y = drawn[spec.Y],
                Heading = drawn[spec.Heading] * Math.PI / 180,
                TurnFactor = 1,
                Program = -1,
                Turns = Draws.Stream(seed, spec.Turns),
            };
            drives[i].Face();
        }
        for (var i = 0; i < vehicles.Length; i++)
        {
            var spec = plan.Vehicles[i];
            vehicles[i] = new() { Line = Math.Max(0, spec.Siding), At = drawn[spec.Start] };
            movers[spec.Mover].At = 0;
        }
        for (var i = 0; i < axes.Length; i++)
        {
            var spec = plan.Axes[i];
            ref var m = ref movers[spec.Mover];
            m.At = spec.Start >= 0 ? drawn[spec.Start] : spec.StartAt ?? 0;
            m.Telling = plan.Movers[spec.Mover].Kind == ActuatorKind.PlainMotor ? Telling.Brake : Telling.Hold;
            axes[i] = new()
            {
                Zero = spec.CountsFromStart ? m.At : 0,
                Gripped = -1,
                TurnedFrom = m.At,
            };
        }
        PutThings();
        (beltCount, beltFirst, beltBefore) = (0, 0, plan.Belt is { } belt ? movers[plan.Axes[belt.Axis].Mover].At : 0);
        beltLuck = Draws.Stream(seed, BeltLuck);
        beltNext = plan.Belt is { Feeds.Length: > 0 } fed ? Math.Max(0.05, fed.Feeds[0].Every.Usual * 0.3) : double.PositiveInfinity;
        litres = plan.Tank is { } tank ? drawn[tank.Litres] * drawn[tank.StartsAt] / 100 : 0;
    }

    private void PutThings()
    {
        for (var i = 0; i < things.Length; i++)
        {
            var spec = plan.Things[i];
            var luck = Draws.Stream(seed, spec.Stream);
            ref var t = ref things[i];
            t = new()
            {
                R = drawn[spec.Size] / 2,
                Place = -1,
                Holder = -1,
                On = -1,
            };
            if (!spec.Round)
                // Pushed and met as a disc that covers as much.
                t.R = Math.Sqrt(drawn[spec.Size] * spec.Depth.In(drawn) / Math.PI);
            if (spec.Share < 1 && luck.Uniform() >= spec.Share)
            {
                t.Lies = Lies.Absent;
                continue;
            }
            if (spec.Carrier >= 0 || spec.Drive >= 0)
            {
                (t.Lies, t.Holder) = (Lies.Carried, spec.Carrier);
                t.On = spec.Drive >= 0 ? spec.Drive : plan.Axes[spec.Carrier].Drive;
                // Where it sits is told as the plan tells points: to the right and ahead.
                (t.SeatRight, t.SeatAhead) = (spec.SeatX.In(drawn), spec.SeatY.In(drawn));
                Ride(ref t);
                continue;
            }
            if (spec.LiesAt >= 0)
            {
                (t.Lies, t.Place) = (Lies.AtPlace, spec.LiesAt);
                continue;
            }
            if (spec.AtRandomOn >= 0)
            {
                var place = layout.Places[spec.AtRandomOn];
                // Tried so often that a crowd finds room where there is some; then it lies where it falls.
                for (var tries = 0; tries < 400; tries++)
                {
                    var (u, v) = (luck.Uniform() - 0.5, luck.Uniform() - 0.5);
                    var (sin, cos) = Math.SinCos(place.TurnedDeg * Math.PI / 180);
                    double px = u * Math.Max(0, place.W - 2 * t.R),
                        py = v * Math.Max(0, place.D - 2 * t.R);
                    if (place.Disc && px * px + py * py > (place.W / 2 - t.R) * (place.W / 2 - t.R))
                        continue;
                    (t.X, t.Y) = (place.CentreX + px * cos + py * sin, place.CentreY - px * sin + py * cos);
                    if (Free(i, spec.Apart.In(drawn)))
                        break;
                }
            }
            else if (spec.LiesOn >= 0)
                (t.X, t.Y) = (layout.Places[spec.LiesOn].CentreX, layout.Places[spec.LiesOn].CentreY);
            else if (spec.X >= 0)
                (t.X, t.Y) = (drawn[spec.X], drawn[spec.Y]);
            else
                t.Lies = Lies.Absent;
            (t.OldX, t.OldY) = (t.X, t.Y);
        }
    }

    private bool Free(int thing, double apart)
    {
        ref readonly var t = ref things[thing];
        for (var j = 0; j < thing; j++)
        {
            ref readonly var o = ref things[j];
            if (o.Lies != Lies.Ground)
                continue;
            var least = plan.Things[j].Name == plan.Things[thing].Name ? Math.Max(apart, t.R + o.R) : t.R + o.R;
            if ((t.X - o.X) * (t.X - o.X) + (t.Y - o.Y) * (t.Y - o.Y) < least * least)
                return false;
        }
        foreach (var w in layout.Walls)
            if (Shape.ToSegment(t.X, t.Y, w.Ax, w.Ay, w.Bx, w.By) < t.R)
                return false;
        // Not under what is put down there.
        for (var d = 0; d < drives.Length; d++)
            if (
                (t.X - drives[d].X) * (t.X - drives[d].X) + (t.Y - drives[d].Y) * (t.Y - drives[d].Y)
                < (plan.Drives[d].Reach + t.R) * (plan.Drives[d].Reach + t.R)
            )
                return false;
        return true;
    }

    // Numbers of a pack that stay the same in a run.
    private struct PackState
    {
        public double PerNominal,
            Idle,
            Ohm,
            SagPerAs;
    }

    private void StartPacks()
    {
        for (var r = 0; r < packs.Length; r++)
        {
            var spec = plan.Packs[r];
            packs[r] = new()
            {
                PerNominal = 1 / drawn[spec.Nominal],
                Idle = drawn[spec.Idle],
                Ohm = drawn[spec.Ohm],
                SagPerAs = 0.2 / (Math.Max(1e-3, drawn[spec.Capacity]) * 3600),
            };
            openVolts[r] = drawn[spec.Volts];
            (volts[r], used[r]) = (openVolts[r], 0);
            given[r] = volts[r] * packs[r].PerNominal;
        }
    }

    // What the packs give, by what pulls at them now.
    private void Packs(double dt)
    {
        for (var r = 0; r < packs.Length; r++)
        {
            ref readonly var pack = ref packs[r];
            var current = pack.Idle;
            foreach (var i in plan.MoversOf[r])
            {
                ref readonly var s = ref movers[i];
                if (s.Draws)
                {
                    if (s.Telling != Telling.Power || !powered[i])
                        continue;
                    current += plan.Model.FrictionCurrent
                        ? Mover.Current(s.Told / 100, given[r], s.Speed * s.PerFull, s.Least, s.StallA)
                        : RailMotion.MotorCurrent(s.Told / 100, given[r], s.Speed * s.PerFull, s.StallA);
                }
                else if (s.Push != 0)
                    current += Math.Abs(s.Speed) < 0.2 * Math.Abs(s.Push) ? s.StallA : s.ActiveA;
            }
            used[r] += current * dt;
            volts[r] = openVolts[r] * (1 - Math.Min(0.2, used[r] * pack.SagPerAs)) - current * pack.Ohm;
            given[r] = volts[r] * pack.PerNominal;
        }
    }

    private void MoveOn(double dt)
    {
        if (dt <= 0)
            return;
        for (var i = 0; i < drives.Length; i++)
            MoveDrive(i, dt);
        for (var i = 0; i < vehicles.Length; i++)
            MoveVehicle(i, dt);
        for (var i = 0; i < axes.Length; i++)
            MoveAxis(i, dt);
        if (plan.Carries)
            Carry(dt);
        if (vehicles.Length > 1)
            MeetOnRail();
        if (plan.Rolling.Length > 0)
            Roll(dt);
        if (plan.Belt is not null)
            MoveBelt(dt);
        if (plan.Tank is not null)
            Flow(dt);
    }

    private void StepMover(int i, double dt)
    {
        ref var s = ref movers[i];
        var spec = plan.Movers[i];
        var before = s.At;
        // A pack that is full lets a motor that knows its speed hold it; only a flat one does not.
        var share = s.Plain ? given[spec.Rig] : Math.Min(1, given[spec.Rig] * (1 / 0.85));
        Mover.Step(ref s, spec, dt, share, powered[i]);
        interrupted |= s.Arrived;
        if (blocked[i])
        {
            s.At = before;
            s.Speed = 0;
            s.Arrived = false;
        }
        if (s.Speed != 0)
            (s.EverMoved, s.RestSince) = (true, stepEnds);
    }

    // Pushing against what does not give: told once its time is over, where it is noticed.
    private bool Stalls(int i, bool held, double dt)
    {
        ref var s = ref movers[i];
        var pushes = held && Math.Abs(s.Push) > 1e-9;
        if (!pushes)
        {
            s.PushSince = long.MaxValue;
            return false;
        }
        var at = stepEnds;
        if (s.PushSince == long.MaxValue)
            s.PushSince = at;
        if (at - s.PushSince < s.StallAfterMs * 1000)
            return false;
        if (!s.StallTold)
        {
            (s.StallTold, interrupted) = (true, true);
            if (plan.Movers[i].NoticesStall && s.Program >= 0)
            {
                network.At(at);
                watcher?.Stalled(at, s.Program, s.Device);
                network.Machines[s.Program].Stalled(s.Device);
                network.Collect(s.Program);
            }
        }
        return true;
    }

    // ---- vehicles ----

    private void MoveVehicle(int i, double dt)
    {
        var spec = plan.Vehicles[i];
        ref var v = ref vehicles[i];
        ref var m = ref movers[spec.Mover];
        if (v.Crashed)
        {
            m.Speed = 0;
            return;
        }
        var before = m.At;
        StepMover(spec.Mover, dt);
        v.Last = v.At;
        if (lifted)
            return;
        var way = m.At - before;
        v.Rolled += way;
        if (m.Speed != 0)
            (v.EverMoved, v.RestSince) = (true, stepEnds);
        if (layout.Lines.Length == 0)
        {
            v.At += way;
            return;
        }
        Along(ref v, spec, way, ref m, dt);
    }

    private void Along(ref VehicleState v, VehicleSpec spec, double way, ref MoverState m, double dt)
    {
        var line = layout.Lines[v.Line];
        var to = v.At + way;
        if (v.Line == 0)
        {
            // Only running towards a fork diverges; running out of its legs is free.
            for (var s = 1; s < layout.Lines.Length; s++)
            {
                var siding = layout.Lines[s];
                var leaves = siding.LeavesAt;
                var passes = siding.Backwards ? v.At > leaves && to <= leaves : v.At < leaves && to >= leaves;
                if (!passes || !SetAside(s))
                    continue;
                (v.Line, v.At) = (s, Math.Abs(to - leaves));
                return;
            }
            if (line.Closed)
                v.At = to - Math.Floor(to / line.LengthMm) * line.LengthMm;
            else
                v.At = Stop(to, spec.LengthMm, line.LengthMm, ref m, spec.Mover, dt);
            return;
        }
        if (to <= 0)
        {
            (v.Line, v.At) = (0, line.LeavesAt + (line.Backwards ? -to : to));
            return;
        }
        if (to >= line.LengthMm && !double.IsNaN(line.BackAt))
        {
            (v.Line, v.At) = (0, line.BackAt + (line.Backwards ? -1 : 1) * (to - line.LengthMm));
            return;
        }
        v.At = double.IsNaN(line.BackAt) ? Stop(to, 0, line.LengthMm, ref m, spec.Mover, dt) : to;
    }

    private double Stop(double to, double low, double high, ref MoverState m, int mover, double dt)
    {
        var at = Math.Clamp(to, Math.Min(low, high), high);
        if (at != to)
            m.Speed = 0;
        Stalls(mover, at != to, dt);
        return at;
    }

    private bool SetAside(int siding)
    {
        var line = layout.Lines[siding];
        return line.Points switch
        {
            1 => true,
            3 => line.PointsAxis >= 0 && AtPosition(line.PointsAxis, "aside"),
            _ => false,
        };
    }

    private void MeetOnRail()
    {
        for (var a = 0; a < vehicles.Length; a++)
        for (var b = a + 1; b < vehicles.Length; b++)
        {
            if (vehicles[a].Line != vehicles[b].Line || vehicles[a].Crashed && vehicles[b].Crashed)
                continue;
            var line = layout.Lines.Length > 0 ? layout.Lines[vehicles[a].Line] : null;
            var d = vehicles[a].At - vehicles[b].At;
            if (line is { Closed: true })
                d -= Math.Round(d / line.LengthMm) * line.LengthMm;
            // The place is that of the front.
            var gap = d >= 0 ? d - plan.Vehicles[a].LengthMm : -d - plan.Vehicles[b].LengthMm;
            if (gap > 0)
                continue;
            vehicles[a].Crashed = vehicles[b].Crashed = true;
            Crash($"{plan.Vehicles[a].Name} and {plan.Vehicles[b].Name} meet.", vehicles[a].At, 0);
        }
    }

    // ---- parts between ends ----

    private void MoveAxis(int i, double dt)
    {
        var spec = plan.Axes[i];
        ref var a = ref axes[i];
        ref var m = ref movers[spec.Mover];
        if (a.Sinking)
        {
            m.At += (a.SinkTo - m.At) * (1 - Math.Exp(-dt / 0.15));
            if (Math.Abs(a.SinkTo - m.At) < 0.1)
                a.Sinking = false;
        }
        // What rests and is told nothing stays where it is.
        if (m.Speed == 0 && m.Telling <= Telling.Hold && !a.Sinking && a.Gripped < 0)
        {
            m.PushSince = long.MaxValue;
            return;
        }
        var before = m.At;
        StepMover(spec.Mover, dt);
        var heavy = spec.Torque >= 0 && Weighs(i, spec, ref m, before);
        if (a.Broken)
        {
            (m.At, m.Speed) = (before, 0);
            Stalls(spec.Mover, true, dt);
            return;
        }
        var held = blocked[spec.Mover] || heavy;
        (a.AtLow, a.AtHigh) = (false, false);
        if (spec.Low >= 0 && spec.PastEnd != PastEnd.GoesOn)
        {
            var (low, high) = (drawn[spec.Low], drawn[spec.High]);
            if (spec.PastEnd == PastEnd.OverCentre && spec.Over >= 0 && m.At > drawn[spec.Over])
            {
                // Driven on over its centre it opens again; the stop stands where it is.
                a.PastHigh = true;
            }
            if (m.At < low)
                (m.At, m.Speed, a.AtLow, held) = (low, 0, true, true);
            else if (m.At > high)
                (m.At, m.Speed, a.AtHigh, held) = (high, 0, true, true);
        }
        held |= Grips(i, spec, ref a, ref m, before, dt);
        if (m.Homing && spec.HomeSide != 0 && AtHome(i))
        {
            (m.Homing, m.Telling, m.Speed, m.BrakeNow) = (false, Telling.Hold, 0, drawn[plan.Movers[spec.Mover].Brake]);
            a.Zero = m.At;
            m.Push = 0;
            interrupted = true;
            if (!Awaits(BenchPlan.TargetKind.Axis, i) && m.Program >= 0)
            {
                network.At(now);
                Done(m.Program, m.Device);
            }
        }
        if (!Stalls(spec.Mover, held, dt) || !(a.AtLow || a.AtHigh) || m.Homing)
            return;
        // It has pushed against its stop for its stall time.
        if (a.AtLow && !a.PastLow || a.AtHigh && !a.PastHigh)
            Note(
                $"{spec.Name} pushes against its {(a.AtLow ? spec.LowName : spec.HighName)} stop".Replace(
                    "  ",
                    " ",
                    StringComparison.Ordinal
                ) + ".",
                0,
                0
            );
        a.PastLow |= a.AtLow;
        a.PastHigh |= a.AtHigh;
        if (spec.PastEnd == PastEnd.ComesApart && (a.AtHigh || spec.HomeSide == 0))
        {
            a.Broken = true;
            Note($"{spec.Name} comes apart at its {(a.AtLow ? spec.LowName : spec.HighName)} end.", 0, 0);
        }
    }

    // A load takes its share of the torque on the way up: what is left is speed. True where nothing is left.
    // Source: the straight line from the torque of a motor held still to none at its free speed.
    private bool Weighs(int i, AxisSpec spec, ref MoverState m, double before)
    {
        if ((m.At - before) * spec.UpSign <= 0 || m.Push * spec.UpSign <= 0)
            return false;
        var newtons = 0.0;
        for (var t = 0; t < things.Length; t++)
            if (
                things[t].Lies == Lies.Carried
                && things[t].Holder is >= 0 and var holder
                && (holder == i || plan.Axes[holder].Grips && plan.Axes[holder].Rig == spec.Rig)
            )
                newtons += plan.Things[t].WeightN.In(drawn);
        var share = newtons * spec.NmmPerN / drawn[spec.Torque];
        if (share <= 0)
            return false;
        if (share >= 1)
        {
            (m.At, m.Speed, m.Arrived) = (before, 0, false);
            return true;
        }
        var most = (1 - share) * m.Full;
        if (Math.Abs(m.Speed) > most)
            (m.At, m.Speed) = (before + (m.At - before) * most / Math.Abs(m.Speed), Math.Sign(m.Speed) * most);
        return false;
    }

    private bool AtHome(int axis)
    {
        for (var i = 0; i < plan.Senses.Length; i++)
            if (plan.Senses[i].Way == Simulation.Senses.SenseWay.End && plan.Senses[i].Axis == axis)
                return Closed(i);
        return false;
    }

    // What is let go sinks or springs back as far as its trials say.
    private void LetGo(int i)
    {
        var spec = plan.Axes[i];
        if (!spec.Bears || spec.LetGo < 0)
            return;
        (axes[i].Sinking, axes[i].SinkTo) = (true, movers[spec.Mover].At - drawn[spec.LetGo]);
    }

    // Jaws that close on something between them are held by it, and press with what their motor gives.
    private bool Grips(int i, AxisSpec spec, ref AxisState a, ref MoverState m, double before, double dt)
    {
        if (!spec.Grips)
            return false;
        var closing = Math.Sign(spec.ClosedAt - spec.OpenAt);
        if (a.Gripped < 0)
        {
            for (var t = 0; t < things.Length; t++)
            {
                if (things[t].Lies is not (Lies.AtPlace or Lies.Ground) || plan.Things[t].Fixed || !Between(t, spec))
                    continue;
                var at = JawAngle(spec, 2 * things[t].R);
                // It touches when the jaws come to its width from outside.
                if ((before - at) * closing <= 0.5 && (m.At - at) * closing >= 0 && m.Push * closing > 0)
                {
                    (a.Gripped, a.GripAt, a.Force) = (t, at, 0);
                    break;
                }
            }
        }
        // Taken out of them, or put somewhere else: they hold nothing any more.
        if (a.Gripped >= 0 && things[a.Gripped].Lies != Lies.Carried && !Between(a.Gripped, spec))
            a.Gripped = -1;
        if (a.Gripped < 0)
        {
            a.Force = 0;
            return false;
        }
        ref var thing = ref things[a.Gripped];
        if (m.Push * closing < 0 || (m.At - a.GripAt) * closing < -2)
        {
            // Opened: what was held stays where it is now.
            if (thing.Lies == Lies.Carried)
                Drop(a.Gripped, i, "");
            (a.Gripped, a.Force) = (-1, 0);
            return false;
        }
        if ((m.At - a.GripAt) * closing < 0)
            return false;
        m.At = a.GripAt;
        m.Speed = 0;
        if (m.Telling == Telling.Place)
            m.Arrived = false;
        if (m.Push * closing > 0)
        {
            var share = Math.Min(1, Math.Abs(m.Push) / Math.Max(1, drawn[plan.Movers[spec.Mover].Full]));
            var most = drawn[spec.GripForce] * share;
            // What gives a little takes the force up in about a tenth of a second.
            a.Force += (most - a.Force) * (1 - Math.Exp(-dt / 0.1));
        }
        if (plan.Things[a.Gripped].Crush is >= 0 and var crush && a.Force > drawn[crush] && !thing.Crushed)
        {
            thing.Crushed = true;
            Note($"{plan.Things[a.Gripped].Name} is crushed: {spec.Name} press with {a.Force:0.0} N.", 0, 0);
        }
        if (thing.Lies != Lies.Carried && a.Force > 0.2)
            Take(ref thing, i, true);
        return true;
    }

    private double JawAngle(AxisSpec spec, double width)
    {
        var share = Math.Clamp(width / Math.Max(1, drawn[spec.JawOpening]), 0, 1);
        return spec.ClosedAt + (spec.OpenAt - spec.ClosedAt) * share;
    }

    // A thing lies between the jaws where the mechanisms stand at its place, or, on the ground, where the jaws reach past its middle
    // and it is not beside them.
    private bool Between(int t, AxisSpec jaws)
    {
        ref readonly var thing = ref things[t];
        if (thing.Lies == Lies.AtPlace)
            return thing.Place >= 0 && AtPlaceNow(thing.Place);
        if (jaws.Drive < 0 || thing.Lies != Lies.Ground)
            return false;
        var (right, ahead) = SeenFrom(jaws.Drive, thing.X, thing.Y);
        return ahead > plan.Drives[jaws.Drive].BoxFront - thing.R
            && ahead <= jaws.TipMm
            && Math.Abs(right) <= drawn[jaws.JawOpening] / 2 - thing.R + 1;
    }

    // Where a point is, to the right of a drive and ahead of its axle.
    private (double Right, double Ahead) SeenFrom(int drive, double x, double y)
    {
        ref readonly var d = ref drives[drive];
        double px = x - d.X,
            py = y - d.Y;
        return (px * d.Cos - py * d.Sin, px * d.Sin + py * d.Cos);
    }

    // What a mechanism takes up stays where it sits on the drive; jaws bring it to their middle.
    private void Take(ref ThingState thing, int axis, bool centred)
    {
        if (plan.Axes[axis].Drive is >= 0 and var drive && thing.Lies == Lies.Ground)
        {
            var (right, ahead) = SeenFrom(drive, thing.X, thing.Y);
            (thing.On, thing.SeatRight, thing.SeatAhead, thing.Felt) = (drive, centred ? 0 : right, ahead, false);
        }
        (thing.Lies, thing.Holder) = (Lies.Carried, axis);
        Stir(double.PositiveInfinity);
    }

    // What is carried goes with its drive.
    private void Ride(ref ThingState thing)
    {
        if (thing.On < 0)
            return;
        (thing.X, thing.Y) = Mounted(thing.On, thing.SeatAhead, thing.SeatRight);
    }

    /// <summary>True when the mechanisms stand inside the ranges that make a place.</summary>
    private bool AtPlaceNow(int place)
    {
        var p = layout.Places[place];
        if (p.Axis < 0)
            return false;
        var at = movers[plan.Axes[p.Axis].Mover].At;
        if (at < p.From || at > p.To)
            return false;
        return p.Other < 0 || movers[plan.Axes[p.Other].Mover].At >= p.Beyond;
    }

    // What is let go lies at the place where the mechanisms stand now, or below them where a drive carries them, or is lost.
    private void Drop(int t, int axis, string say)
    {
        ref var thing = ref things[t];
        thing.Holder = -1;
        for (var p = 0; p < layout.Places.Length; p++)
            if (AtPlaceNow(p))
            {
                (thing.Lies, thing.Place, thing.On) = (Lies.AtPlace, p, -1);
                return;
            }
        if (thing.On >= 0)
        {
            Lay(t, say);
            return;
        }
        thing.Lies = Lies.Gone;
        Note(say != "" ? say : $"{plan.Things[t].Name} is let go where nothing is to hold it.", 0, 0);
    }

    // Puts what was carried on the ground where it is.
    private void Lay(int t, string say)
    {
        ref var thing = ref things[t];
        (thing.Lies, thing.On, thing.Holder, thing.Vx, thing.Vy) = (Lies.Ground, -1, -1, 0, 0);
        (thing.OldX, thing.OldY) = (thing.X, thing.Y);
        if (say != "")
            Note(say, thing.X, thing.Y);
        Stir(double.PositiveInfinity);
        Fall(t);
    }

    // Loads that stay where their carrier has rested inside a place and then withdraws, grips that are too weak, forks that rise under
    // a load, and what slides off because it is carried too hard.
    private void Carry(double dt)
    {
        for (var t = 0; t < things.Length; t++)
        {
            ref var thing = ref things[t];
            if (thing.Lies == Lies.Ground && !double.IsNaN(plan.Things[t].ForkedFromMm.Usual))
                TakeUp(t, ref thing);
            if (thing.Lies != Lies.Carried)
                continue;
            if (thing.On >= 0 && Slides(t, ref thing, dt) || thing.Holder < 0)
                continue;
            var spec = plan.Axes[thing.Holder];
            ref readonly var m = ref movers[spec.Mover];
            if (spec.Grips)
            {
                if (plan.Things[t].Slip is >= 0 and var slip && axes[thing.Holder].Force < drawn[slip] && SomethingMoves(thing.Holder))
                {
                    (axes[thing.Holder].Gripped, axes[thing.Holder].Force) = (-1, 0);
                    Drop(t, thing.Holder, $"{plan.Things[t].Name} slips out of {spec.Name}.");
                }
                continue;
            }
            if (
                thing.On >= 0
                && spec.Forks
                && !double.IsNaN(plan.Things[t].ForkedFromMm.Usual)
                && HeightOf(spec) < plan.Things[t].ForkedFromMm.In(drawn)
            )
            {
                Lay(t, "");
                continue;
            }
            for (var p = 0; p < layout.Places.Length; p++)
            {
                var place = layout.Places[p];
                if (place.Axis < 0)
                    continue;
                if (AtPlaceNow(p) && m.Speed == 0)
                    (thing.Rested, thing.Place) = (true, p);
                // Withdrawn while the other still stands there: it is off its seat.
                else if (thing.Rested && thing.Place == p && m.Speed != 0 && place.Other == thing.Holder && m.At < place.Beyond)
                {
                    var stands = movers[plan.Axes[place.Axis].Mover].At is var at && at >= place.From && at <= place.To;
                    thing.Rested = false;
                    if (stands)
                        (thing.Lies, thing.Holder) = (Lies.AtPlace, -1);
                    break;
                }
            }
        }
    }

    // How far a lift has risen from its lower end, mm.
    private double HeightOf(AxisSpec lift)
    {
        var end = lift.UpSign > 0 ? lift.Low : lift.High;
        return (movers[lift.Mover].At - (end >= 0 ? drawn[end] : 0)) * lift.UpSign * Math.Abs(lift.MmPerUnit);
    }

    // A fork that stands under a thing, past its middle, takes it up when it comes to where the thing rests on it.
    private void TakeUp(int t, ref ThingState thing)
    {
        for (var i = 0; i < axes.Length; i++)
        {
            var fork = plan.Axes[i];
            if (!fork.Forks || fork.Drive < 0 || movers[fork.Mover].Speed * fork.UpSign <= 0)
                continue;
            var (right, ahead) = SeenFrom(fork.Drive, thing.X, thing.Y);
            var height = HeightOf(fork);
            var least = plan.Things[t].ForkedFromMm.In(drawn);
            // Only from below: a fork that came in above its seat took nothing up.
            if (height < least || height > least + Math.Abs(movers[fork.Mover].Speed * fork.MmPerUnit) * 0.01 + 1)
                continue;
            if (ahead > fork.TipMm || ahead < 0 || Math.Abs(right) > thing.R)
                continue;
            Take(ref thing, i, false);
            return;
        }
    }

    // True when friction holds it no more: it slides off the way it was going. A tall one tips before it slides.
    private bool Slides(int t, ref ThingState thing, double dt)
    {
        Ride(ref thing);
        ref readonly var d = ref drives[thing.On];
        var drive = plan.Drives[thing.On];
        double left = movers[drive.Left].Speed,
            right = movers[drive.Right].Speed;
        // By its wheels: a turn that goes a little too far does so without a jerk.
        var (v, turns) = d.Touching ? (0, 0) : ((left + right) / 2, (left - right) / drive.TrackKnown);
        double faster = (v - thing.Vx) / dt,
            rounder = (turns - thing.Vy) / dt;
        (thing.Vx, thing.Vy) = (v, turns);
        var spec = plan.Things[t];
        if (spec.Fragile && TouchedByOther(thing))
        {
            Lay(t, $"{spec.Name} is knocked off {drive.Name}.");
            return true;
        }
        if (!thing.Felt)
        {
            thing.Felt = true;
            return false;
        }
        if (double.IsNaN(spec.Friction.Usual) || thing.Holder >= 0 && plan.Axes[thing.Holder].Grips)
            return false;
        const double g = 9810;
        var holds = spec.Friction.In(drawn) * g;
        var high = spec.HighMm.In(drawn);
        var tips = high > 0 ? g * 2 * thing.R / high : double.PositiveInfinity;
        // Source: a point of a rigid body that turns clockwise, seen along and across the body.
        var ahead = faster - rounder * thing.SeatRight - turns * turns * thing.SeatAhead;
        var across = turns * v - turns * turns * thing.SeatRight + rounder * thing.SeatAhead;
        var a = Math.Sqrt(ahead * ahead + across * across);
        if (a <= Math.Min(holds, tips))
            return false;
        // Left behind against the way it is pulled, until it is off.
        var off = -(drive.Reach + thing.R + 2) / a;
        (thing.X, thing.Y) = Mounted(thing.On, ahead * off, across * off);
        Lay(
            t,
            $"{spec.Name} {(tips < holds ? "tips" : "slides")} off {drive.Name}: carried with {a / 1000:0.0} m/s², and "
                + $"{Math.Min(holds, tips) / 1000:0.0} hold it."
        );
        return true;
    }

    // True where another body stands against a load that rides.
    private bool TouchedByOther(in ThingState load)
    {
        for (var o = 0; o < drives.Length; o++)
        {
            if (o == load.On)
                continue;
            var other = plan.Drives[o];
            ref readonly var d = ref drives[o];
            double x = load.X - d.X,
                y = load.Y - d.Y;
            var reach = other.Reach + load.R;
            if (x * x + y * y > reach * reach)
                continue;
            double right = x * d.Cos - y * d.Sin,
                front = x * d.Sin + y * d.Cos;
            var (near, ahead, inside) = Outline(other, right, front);
            if (inside || (right - near) * (right - near) + (front - ahead) * (front - ahead) < load.R * load.R)
                return true;
        }
        return false;
    }

    private bool SomethingMoves(int gripper)
    {
        if (plan.Axes[gripper].Drive is >= 0 and var drive && Math.Abs(drives[drive].Speed) > 5)
            return true;
        for (var i = 0; i < axes.Length; i++)
            if (i != gripper && plan.Axes[i].Rig == plan.Axes[gripper].Rig && Math.Abs(movers[plan.Axes[i].Mover].Speed) > 20)
                return true;
        return false;
    }

    private bool AtPosition(int axis, string position) => AtPlace(axis, plan.Axes[axis].Positions.GetValueOrDefault(position, double.NaN));

    // Where nothing is known of a position, nobody is there.
    private bool AtPlace(int axis, double at)
    {
        var spec = plan.Axes[axis];
        var near = plan.Movers[spec.Mover].Kind == ActuatorKind.Servo ? 6 : Math.Max(12, 0.04 * Span(spec));
        return Math.Abs(movers[spec.Mover].At - axes[axis].Zero - at) <= near;
    }

    private double Span(AxisSpec spec) => spec.Low >= 0 ? Math.Abs(drawn[spec.High] - drawn[spec.Low]) : 0;

    // ---- belt and water ----

    private void MoveBelt(double dt)
    {
        var belt = plan.Belt!;
        ref readonly var m = ref movers[plan.Axes[belt.Axis].Mover];
        var way = (m.At - beltBefore) * belt.MmPerUnit;
        beltBefore = m.At;
        double sticksAt = belt.SticksAtMm.In(drawn),
            armAt = belt.ArmAtMm.In(drawn);
        var time = stepEnds * 1e-6;
        while (time >= beltNext && belt.Feeds.Length > 0)
        {
            Put(belt);
            beltNext += Math.Max(0.2, belt.Feeds[0].Every.Draw(ref beltLuck));
        }
        // What came first has mostly left first.
        while (beltFirst < beltCount && onBelt[beltFirst].Fate > 1)
            beltFirst++;
        for (var i = beltFirst; i < beltCount; i++)
        {
            ref var t = ref onBelt[i];
            if (t.Fate == 1)
            {
                // Stuck: it comes free once the belt has run back far enough.
                t.StuckAt += Math.Max(0, -way);
                if (way > 0)
                    t.StuckAt = Math.Max(0, t.StuckAt);
                if (t.StuckAt >= belt.FreeAfterMm.In(drawn))
                    t.Fate = 0;
                continue;
            }
            if (t.Fate != 0)
                continue;
            var before = t.At;
            t.At += way;
            if (!t.Tried && before < sticksAt && t.At >= sticksAt)
            {
                t.Tried = true;
                if (beltLuck.Uniform() < belt.SticksShare)
                {
                    (t.Fate, t.StuckAt) = (1, 0);
                    Note($"A {belt.Feeds[t.Feed].Name} sticks at {sticksAt:0} mm.", sticksAt, 0);
                    continue;
                }
            }
            if (belt.Arm >= 0 && before < armAt && t.At >= armAt)
                Divert(ref t, belt);
            else if (t.At - t.Length / 2 > belt.LengthMm.In(drawn))
                t.Fate = 3;
        }
    }

    private void Put(BeltSpec belt)
    {
        if (beltCount == onBelt.Length)
            return;
        var luck = beltLuck.Uniform();
        var total = 0.0;
        foreach (var f in belt.Feeds)
            total += f.Share;
        var pick = 0;
        for (var sum = 0.0; pick < belt.Feeds.Length - 1; pick++)
        {
            sum += belt.Feeds[pick].Share / total;
            if (luck < sum)
                break;
        }
        onBelt[beltCount++] = new()
        {
            Feed = pick,
            Length = Math.Max(1, belt.Feeds[pick].Length.Draw(ref beltLuck)),
            // It is put on just before the first sensor.
            At = -60,
        };
    }

    private void Divert(ref BeltThing t, BeltSpec belt)
    {
        (t.Fate, t.Place) = (2, -1);
        foreach (var (position, place) in belt.Sends)
            if (AtPosition(belt.Arm, position))
            {
                t.Place = place;
                return;
            }
        Note($"A {belt.Feeds[t.Feed].Name} meets the arm between two bins and falls beside them.", belt.ArmAtMm.In(drawn), 0);
    }

    private void Flow(double dt)
    {
        var tank = plan.Tank!;
        var flow = tank.Leaks >= 0 ? -drawn[tank.Leaks] : 0;
        foreach (var (axis, q, at) in tank.Pumps)
        {
            ref readonly var m = ref movers[plan.Axes[axis].Mover];
            if (!dry[axis] && m.Speed > 0)
                flow +=
                    drawn[q]
                    * m.Speed
                    / Math.Max(1, plan.Draws[plan.Movers[plan.Axes[axis].Mover].Full].Usual)
                    * (100 / Math.Max(1, at.In(drawn)));
        }
        foreach (var (axis, place, q, isOut) in tank.Valves)
            if (AtPlace(axis, place))
                flow += isOut ? -drawn[q] : drawn[q];
        for (var i = 0; i < happenings.Length; i++)
            if (happenings[i].Active && plan.Happenings[i].Deed == People.Deed.Gives)
                flow -= happenings[i].A;
        litres = Math.Max(0, litres + flow * dt);
        // What is over its rim runs away.
        litres = Math.Min(litres, drawn[tank.Litres] * 1.02);
    }
}
