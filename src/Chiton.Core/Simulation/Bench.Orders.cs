using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private const int MostPending = 512;

    private struct Pending
    {
        public long Due;
        public int Program,
            Unit,
            Activity,
            Device,
            Serial;
        public double Value,
            Second;
    }

    private readonly Pending[] pending = new Pending[MostPending];
    private int pendingCount,
        deviceSerial;

    // Takes up what the programs have commanded: it is obeyed after the delay of what is commanded.
    private void Take()
    {
        for (var p = 0; p < network.Machines.Count; p++)
        {
            var machine = network.Machines[p];
            var commands = machine.Commands;
            if (commands.Count == 0)
                continue;
            network.Collect(p);
            for (var i = 0; i < commands.Count; i++)
            {
                var c = commands[i];
                watcher?.Commanded(now, p, c);
                Give(p, c);
            }
            machine.ClearCommands();
        }
    }

    private void Give(int p, in ScriptCommand c)
    {
        if (c.Device < 0)
        {
            var order = c.Activity >= 0 ? plan.Orders[p][c.Unit][c.Activity] : default;
            if (order.Kind == BenchPlan.OrderKind.Show)
                Show(p, order, c.Value);
            else if (order.Kind == BenchPlan.OrderKind.Stop)
                // Everything of this program stops.
                for (var d = 0; d < plan.Targets[p].Length; d++)
                    Enter(p, new(c.TimeMicros, c.Unit, -1, d, 0, 0));
            return;
        }
        Enter(p, c);
    }

    private void Enter(int p, in ScriptCommand c)
    {
        var target = plan.Targets[p][c.Device];
        var delay = target.Kind switch
        {
            BenchPlan.TargetKind.Drive => drawn[plan.Movers[plan.Drives[target.Index].Left].Delay],
            BenchPlan.TargetKind.Vehicle => drawn[plan.Movers[plan.Vehicles[target.Index].Mover].Delay],
            BenchPlan.TargetKind.Axis => drawn[plan.Movers[plan.Axes[target.Index].Mover].Delay],
            _ => 0,
        };
        // What a host commands goes over the link.
        var link = plan.Programs[p].OnHost ? plan.MessageMicros : 0;
        if (link > 0 && lostMessages > 0 && messageLuck.Uniform() < lostMessages)
            return;
        Enter(
            new()
            {
                Due = now + link + (long)(Math.Max(0, delay) * 1000),
                Program = p,
                Unit = c.Unit,
                Activity = c.Activity,
                Device = c.Device,
                Value = c.Value,
                Second = c.Second,
                Serial = ++deviceSerial,
            }
        );
    }

    private void Enter(in Pending order)
    {
        // A controller that is told more than it can pass on forgets the oldest order first.
        if (pendingCount == MostPending)
        {
            Array.Copy(pending, 1, pending, 0, MostPending - 1);
            pendingCount--;
        }
        pending[pendingCount++] = order;
    }

    // Orders whose time has come, in the order given.
    private void Obey()
    {
        for (var i = 0; i < pendingCount; )
        {
            if (pending[i].Due > now)
            {
                i++;
                continue;
            }
            var order = pending[i];
            Array.Copy(pending, i + 1, pending, i, pendingCount - i - 1);
            pendingCount--;
            Carry(order);
        }
    }

    private bool Awaits(BenchPlan.TargetKind kind, int index)
    {
        for (var i = 0; i < pendingCount; i++)
            if (
                pending[i].Activity != Leading
                && plan.Targets[pending[i].Program][pending[i].Device] is var t
                && t.Kind == kind
                && t.Index == index
            )
                return true;
        return false;
    }

    private void Carry(in Pending c)
    {
        if (c.Activity == Leading)
        {
            Led(c);
            return;
        }
        var target = plan.Targets[c.Program][c.Device];
        var order = c.Activity >= 0 ? plan.Orders[c.Program][c.Unit][c.Activity] : new BenchPlan.Order(BenchPlan.OrderKind.Stop);
        switch (target.Kind)
        {
            case BenchPlan.TargetKind.Drive:
                ToDrive(target.Index, order, c);
                break;
            case BenchPlan.TargetKind.Vehicle:
                ToMover(plan.Vehicles[target.Index].Mover, -1, order, c);
                break;
            case BenchPlan.TargetKind.Axis:
                axes[target.Index].Sinking = false;
                ToMover(plan.Axes[target.Index].Mover, target.Index, order, c);
                break;
            case BenchPlan.TargetKind.Output:
                ToOutput(target.Index, order, c);
                break;
        }
    }

    private void Show(int p, in BenchPlan.Order order, double value)
    {
        var rig = plan.RigOf[p];
        for (var i = 0; i < plan.Outputs.Length; i++)
            if (plan.Outputs[i].Kind == ActuatorKind.Display && plan.Outputs[i].Rig == rig)
            {
                outputs[i].Text = order.Text;
                (outputs[i].Value, outputs[i].On, outputs[i].Since) = (value, 1, now);
                return;
            }
    }

    private void ToOutput(int index, in BenchPlan.Order order, in Pending c)
    {
        ref var o = ref outputs[index];
        o.Since = now;
        (o.BlinkOn, o.BlinkOff, o.Until, o.Text, o.Value) = (0, 0, long.MaxValue, order.Text, c.Value);
        switch (order.Kind)
        {
            case BenchPlan.OrderKind.On:
                o.On = 1;
                break;
            case BenchPlan.OrderKind.Blink:
                (o.On, o.BlinkOn, o.BlinkOff) = (1, Math.Max(0.001, c.Value), Math.Max(0.001, c.Second));
                break;
            case BenchPlan.OrderKind.Sound:
                o.On = 1;
                break;
            default:
                o.On = 0;
                break;
        }
    }

    /// <summary>True while something is lit, sounds or shows.</summary>
    internal bool IsOn(int output)
    {
        ref readonly var o = ref outputs[output];
        if (o.On == 0 || now >= o.Until || plan.Dead.Outputs[output])
            return false;
        return o.BlinkOn <= 0 || (now - o.Since) * 1e-6 % (o.BlinkOn + o.BlinkOff) < o.BlinkOn;
    }

    // ---- single motors ----

    private void Begin(ref MoverState s, in Pending c)
    {
        (s.Serial, s.Program, s.Device, s.Arrived, s.StallTold, s.PushSince, s.ReleaseAt, s.Homing) = (
            c.Serial,
            c.Program,
            c.Device,
            false,
            false,
            long.MaxValue,
            long.MaxValue,
            false
        );
    }

    private void Rest(int mover, StopMode mode, bool atEnd, bool joint)
    {
        ref var s = ref movers[mover];
        var spec = plan.Movers[mover];
        s.Telling = mode switch
        {
            StopMode.Coast => Telling.Coast,
            StopMode.Brake => Telling.Brake,
            StopMode.Hold => Telling.Hold,
            // Not said: drives brake, joints hold.
            _ => joint && spec.Kind != ActuatorKind.PlainMotor ? Telling.Hold : Telling.Brake,
        };
        var brake = drawn[spec.Brake];
        s.BrakeNow = Math.Max(0.1 * brake, brake + spec.BrakeSd * wide[spec.Brake] * Math.Clamp(s.Moves.Normal(), -3, 3));
        s.ReleaseAt = atEnd && !joint ? now + 1_000_000 : long.MaxValue;
    }

    private void ToMover(int mover, int axis, in BenchPlan.Order order, in Pending c)
    {
        ref var s = ref movers[mover];
        var spec = plan.Movers[mover];
        var same = s.Telling == Telling.Power && order.Kind == BenchPlan.OrderKind.Power && s.Told == order.Sign * c.Value;
        Begin(ref s, c);
        switch (order.Kind)
        {
            case BenchPlan.OrderKind.Power:
                s.Telling = Telling.Power;
                s.Told = Math.Clamp(order.Sign * c.Value, -100, 100);
                if (!same)
                    s.Factor = 1 + spec.SpeedSd * wide[spec.Full] * Math.Clamp(s.Moves.Normal(), -3, 3);
                break;
            case BenchPlan.OrderKind.Speed:
                (s.Telling, s.Told, s.Factor) = (Telling.Speed, order.Sign * order.Scale * c.Value, 1);
                break;
            case BenchPlan.OrderKind.Amount:
                (s.Telling, s.Told, s.Factor) = (Telling.Place, Math.Abs(order.Scale * c.Value), 1);
                s.Target =
                    s.At
                    + order.Sign * order.Way * c.Second * Math.Sign(c.Value == 0 ? 1 : c.Value)
                    + spec.MoveSd * Math.Clamp(s.Moves.Normal(), -3, 3);
                break;
            case BenchPlan.OrderKind.Step:
                var rate = Math.Abs(order.Scale * c.Second);
                // Driven faster than its load allows it loses steps, and goes less far.
                var kept = rate > spec.MostRate * order.Scale ? spec.MostRate * order.Scale / rate : 1;
                (s.Telling, s.Told, s.Target, s.Factor) = (Telling.Place, rate, s.At + order.Way * c.Value * kept, 1);
                break;
            case BenchPlan.OrderKind.Place:
                var place = double.IsNaN(order.Place) ? c.Value : order.Place;
                var zero =
                    spec.Kind == ActuatorKind.Servo ? 0
                    : axis >= 0 ? axes[axis].Zero
                    : 0;
                var at = zero + place;
                if (order.Text is { Length: > 0 } way)
                    at = Around(s.At, at, way, 360 / Math.Max(1e-9, spec.PartDegPerUnit));
                (s.Telling, s.Told, s.Factor) = (Telling.Place, Math.Abs(order.Scale), 1);
                s.Target = at + spec.MoveSd * Math.Clamp(s.Moves.Normal(), -3, 3);
                if (spec.Kind == ActuatorKind.Servo)
                    s.Told = Math.Min(s.Told, drawn[spec.Full]);
                break;
            case BenchPlan.OrderKind.Home:
                var side = plan.Axes[axis].HomeSide;
                (s.Telling, s.Told, s.Factor, s.Homing) = (Telling.Speed, side * Math.Abs(order.Scale), 1, true);
                break;
            case BenchPlan.OrderKind.Stop:
                Rest(mover, order.Stop, c.Activity == -3, axis >= 0);
                if (order.Stop == StopMode.Coast && axis >= 0)
                    LetGo(axis);
                break;
            case BenchPlan.OrderKind.None when axis >= 0:
                // “zero M”: where it stands is 0 from now on. The move in hand goes on.
                axes[axis].Zero = s.At;
                break;
        }
    }

    // The same place the way round that was asked for.
    private static double Around(double from, double to, string way, double turn)
    {
        var d = (to - from) % turn;
        if (way == "shortest")
            return from
                + (
                    d > turn / 2 ? d - turn
                    : d < -turn / 2 ? d + turn
                    : d
                );
        return from
            + (
                way == "clockwise" ? (d < 0 ? d + turn : d)
                : d > 0 ? d - turn
                : d
            );
    }

    // ---- drives ----

    private void ToDrive(int index, in BenchPlan.Order order, in Pending c)
    {
        ref var d = ref drives[index];
        var spec = plan.Drives[index];
        ref var left = ref movers[spec.Left];
        ref var right = ref movers[spec.Right];
        if (order.Kind is BenchPlan.OrderKind.None)
            return;
        // One wheel alone.
        if (
            order.Wheel > 0
            && order.Kind is BenchPlan.OrderKind.Speed or BenchPlan.OrderKind.Amount or BenchPlan.OrderKind.Stop
            && order.Wheel > 0
        )
        {
            ToMover(order.Wheel - 1, -1, order, c);
            (d.Leads, d.Ends) = (0, false);
            return;
        }
        Begin(ref left, c);
        Begin(ref right, c);
        (d.Leads, d.Turning, d.Pivoting, d.Serial, d.Program, d.Device, d.Ends) = (
            0,
            false,
            false,
            c.Serial,
            c.Program,
            c.Device,
            order.HasAmount
        );
        switch (order.Kind)
        {
            case BenchPlan.OrderKind.Stop:
                Rest(spec.Left, order.Stop, c.Activity == -3, false);
                Rest(spec.Right, order.Stop, c.Activity == -3, false);
                break;
            case BenchPlan.OrderKind.Straight:
            case BenchPlan.OrderKind.Speed:
            case BenchPlan.OrderKind.Amount:
                var speed = order.Sign * order.Scale * c.Value;
                if (order.HasAmount)
                {
                    // Of both wheels one error: it is the same controller that counts.
                    var way = order.Sign * order.Way * c.Second * (c.Value < 0 ? -1 : 1);
                    var error = plan.Movers[spec.Left].MoveSd * Math.Clamp(left.Moves.Normal(), -3, 3);
                    Go(ref left, way + error, speed);
                    Go(ref right, way + error, speed);
                }
                else
                {
                    Run(ref left, spec.Left, speed, order.Percent ? order.Sign * c.Value : double.NaN);
                    Run(ref right, spec.Right, speed, order.Percent ? order.Sign * c.Value : double.NaN);
                }
                break;
            case BenchPlan.OrderKind.Turn:
                d.Turning = true;
                d.Pivoting = order.Pivoting;
                d.TurnFactor = 1 + spec.TurnShareSd * wide[spec.Track] * Math.Clamp(d.Turns.Normal(), -3, 3);
                var rate = order.Scale * c.Value;
                var side = order.Left ? -1 : 1;
                // About one wheel the outer one goes the whole way; the standing one is held.
                var (l, r) = order.Pivoting ? (order.Left ? 0 : 1, order.Left ? 1 : 0) : (side, -side);
                if (order.HasAmount)
                {
                    var arc = order.Way * c.Second;
                    Go(ref left, l * arc, rate);
                    Go(ref right, r * arc, rate);
                }
                else
                {
                    Run(ref left, spec.Left, l * rate, order.Percent ? l * c.Value : double.NaN);
                    Run(ref right, spec.Right, r * rate, order.Percent ? r * c.Value : double.NaN);
                }
                break;
            case BenchPlan.OrderKind.Steer:
                var (a, b) = (order.Scale * c.Value, order.Scale * c.Second);
                if (order.HasAmount)
                {
                    var mean = (a + b) / 2;
                    Go(ref left, Math.Abs(mean) < 1e-9 ? 0 : order.Way * a / Math.Abs(mean), a);
                    Go(ref right, Math.Abs(mean) < 1e-9 ? 0 : order.Way * b / Math.Abs(mean), b);
                }
                else
                {
                    Run(ref left, spec.Left, a, order.Percent ? c.Value : double.NaN);
                    Run(ref right, spec.Right, b, order.Percent ? c.Second : double.NaN);
                }
                break;
            case BenchPlan.OrderKind.Follow:
                (d.Leads, d.Base, d.Gain, d.FollowSense, d.FollowSign, d.FollowPoint) = (
                    1,
                    order.Scale * c.Value,
                    c.Second,
                    order.Sense,
                    order.Side,
                    order.Point
                );
                Run(ref left, spec.Left, d.Base, double.NaN);
                Run(ref right, spec.Right, d.Base, double.NaN);
                break;
        }
    }

    private static void Go(ref MoverState s, double way, double speed)
    {
        (s.Telling, s.Told, s.Target, s.Factor) = (Telling.Place, Math.Abs(speed), s.At + way, 1);
    }

    // A plain motor is told a power, one that knows its angle a speed.
    private void Run(ref MoverState s, int mover, double speed, double percent)
    {
        if (plan.Movers[mover].Kind == ActuatorKind.PlainMotor)
        {
            var power = double.IsNaN(percent) ? 100 * speed / Math.Max(1, plan.Draws[plan.Movers[mover].Full].Usual) : percent;
            if (s.Telling != Telling.Power || s.Told != power)
                s.Factor = 1 + plan.Movers[mover].SpeedSd * wide[plan.Movers[mover].Full] * Math.Clamp(s.Moves.Normal(), -3, 3);
            (s.Telling, s.Told) = (Telling.Power, Math.Clamp(power, -100, 100));
        }
        else
            (s.Telling, s.Told, s.Factor) = (Telling.Speed, speed, 1);
    }

    // Wheels of a line that is followed are told anew at each reading of its eye.
    private void Lead(int sense, double reading)
    {
        for (var i = 0; i < drives.Length; i++)
        {
            ref var d = ref drives[i];
            if (d.Leads != 1 || d.FollowSense != sense || double.IsNaN(reading))
                continue;
            // The motors obey this one as late as any other order.
            Enter(
                new()
                {
                    Due = now + (long)(Math.Max(0, drawn[plan.Movers[plan.Drives[i].Left].Delay]) * 1000),
                    Program = d.Program,
                    Activity = Leading,
                    Device = i,
                    Value = reading,
                    Serial = d.Serial,
                }
            );
        }
    }

    // A correction of a drive that follows a line: its device is the drive, its value the reading it answers.
    private const int Leading = int.MinValue;

    private void Led(in Pending c)
    {
        ref readonly var d = ref drives[c.Device];
        if (d.Leads != 1 || d.Serial != c.Serial)
            return;
        var spec = plan.Drives[c.Device];
        var off = d.Gain * (c.Value - d.FollowPoint) * spec.TopKnown / 100 * d.FollowSign;
        Run(ref movers[spec.Left], spec.Left, Math.Clamp(d.Base - off, -spec.TopKnown, spec.TopKnown), double.NaN);
        Run(ref movers[spec.Right], spec.Right, Math.Clamp(d.Base + off, -spec.TopKnown, spec.TopKnown), double.NaN);
    }

    // Moves that have come to their end are told to the program that asked for them.
    private void Ends()
    {
        for (var i = 0; i < movers.Length; i++)
            if (movers[i].ReleaseAt <= now)
                (movers[i].Telling, movers[i].ReleaseAt) = (Telling.Coast, long.MaxValue);
        for (var i = 0; i < drives.Length; i++)
        {
            ref var d = ref drives[i];
            var spec = plan.Drives[i];
            if (!d.Ends || !movers[spec.Left].Arrived || !movers[spec.Right].Arrived)
                continue;
            d.Ends = false;
            movers[spec.Left].Arrived = movers[spec.Right].Arrived = false;
            if (!Awaits(BenchPlan.TargetKind.Drive, i))
                Done(d.Program, d.Device);
        }
        for (var i = 0; i < axes.Length; i++)
        {
            ref var s = ref movers[plan.Axes[i].Mover];
            if (!s.Arrived)
                continue;
            s.Arrived = false;
            if (
                plan.Movers[plan.Axes[i].Mover].Kind is ActuatorKind.RegulatedMotor or ActuatorKind.PlainMotor
                && !Awaits(BenchPlan.TargetKind.Axis, i)
            )
                Done(s.Program, s.Device);
        }
        for (var i = 0; i < vehicles.Length; i++)
        {
            ref var s = ref movers[plan.Vehicles[i].Mover];
            if (!s.Arrived)
                continue;
            s.Arrived = false;
            if (!Awaits(BenchPlan.TargetKind.Vehicle, i))
                Done(s.Program, s.Device);
        }
    }

    private void Done(int program, int device)
    {
        // What a hand has turned and let go, nobody asked for.
        if (program < 0)
            return;
        network.At(now);
        watcher?.Ended(now, program, device);
        network.Machines[program].Ended(device);
        network.Collect(program);
    }
}
