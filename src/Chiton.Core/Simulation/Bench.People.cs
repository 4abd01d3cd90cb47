using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.People;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private bool[] dry = [];

    private void StartPeople()
    {
        if (dry.Length != axes.Length)
            dry = new bool[axes.Length];
        for (var i = 0; i < happenings.Length; i++)
        {
            var spec = plan.Happenings[i];
            ref var h = ref happenings[i];
            h = new()
            {
                Stream = Draws.Stream(seed, spec.Stream),
                Next = long.MaxValue,
                Ends = long.MaxValue,
                UntilAt = long.MaxValue,
            };
            // The first number of its stream says whether it happens in this run.
            h.Absent = h.Stream.Uniform() >= spec.Share;
            if (h.Absent)
                continue;
            if (spec.At.Is)
                h.Next = Micros(spec.At.Draw(ref h.Stream));
            else if (spec.Every.Is)
                h.Next = Micros(spec.Every.Draw(ref h.Stream));
            else if (spec.Starts is null && !spec.Waits)
                h.Next = 0;
        }
        Effects();
    }

    /// <summary>Somebody at the playing bench begins to do something at a moment that is yet to come.</summary>
    /// <param name="happening">What.</param>
    /// <param name="at">When, µs.</param>
    /// <param name="amount">The number that goes with it, in the base unit of its line.</param>
    internal void Do(int happening, long at, double amount) => (happenings[happening].Next, told[happening]) = (at, amount);

    /// <summary>They leave off.</summary>
    internal void LeaveOff(int happening, long at) => happenings[happening].Ends = at;

    private static long Micros(double seconds) => (long)Math.Round(Math.Max(0, seconds) * 1e6);

    // Whatever the lines of the scene say for this moment.
    private void Happen()
    {
        var changed = now == 0;
        for (var i = 0; i < happenings.Length; i++)
        {
            ref var h = ref happenings[i];
            if (h.Absent)
                continue;
            var spec = plan.Happenings[i];
            if (h.Active && h.Ends <= now)
            {
                End(i, spec, ref h);
                changed = true;
            }
            if (h.Active && spec.Until is not null)
            {
                if (h.UntilAt == long.MaxValue && Holds(spec.Until))
                    h.UntilAt = now + (spec.UntilLater.Is ? Micros(spec.UntilLater.Draw(ref h.Stream)) : 0);
                if (h.UntilAt <= now)
                {
                    End(i, spec, ref h);
                    changed = true;
                }
            }
            if (spec.Starts is not null && !(h.Spent && !spec.EachTime))
            {
                var holds = Holds(spec.Starts);
                if (holds && !h.Was)
                {
                    h.Spent = true;
                    var late = spec.Later.Is ? spec.Later.Draw(ref h.Stream) : 0;
                    if (
                        plan.Reaction >= 0
                        && spec.Deed is Deed.Tap or Deed.Press or Deed.Hold or Deed.LetGo or Deed.PutThing or Deed.TakeThing
                    )
                        late += Math.Max(0, drawn[plan.Reaction]);
                    h.Next = now + Micros(late);
                }
                h.Was = holds;
            }
            if (h.Next <= now)
            {
                Begin(i, spec, ref h);
                changed = true;
            }
            if (h.Active)
                changed |= Goes(i, spec, ref h);
        }
        if (changed)
            Effects();
    }

    private void Begin(int i, HappeningSpec spec, ref HappeningState h)
    {
        h.Next = spec.Every.Is ? now + Math.Max(1000, Micros(spec.Every.Draw(ref h.Stream))) : long.MaxValue;
        (h.Active, h.Since, h.UntilAt, h.Stage, h.StageAt) = (true, now, long.MaxValue, 0, now);
        h.Times++;
        h.A =
            spec.Waits && spec.A.Is ? told[i]
            : spec.A.Is ? spec.A.Draw(ref h.Stream)
            : double.NaN;
        h.B = spec.B.Is ? spec.B.Draw(ref h.Stream) : double.NaN;
        h.C = spec.C.Is ? spec.C.Draw(ref h.Stream) : double.NaN;
        h.D = spec.D.Is ? spec.D.Draw(ref h.Stream) : double.NaN;
        h.E = spec.E.Is ? spec.E.Draw(ref h.Stream) : double.NaN;
        h.Ends = spec.For.Is ? now + Micros(spec.For.Draw(ref h.Stream)) : long.MaxValue;
        watcher?.Happened(now, i, true);
        switch (spec.Deed)
        {
            case Deed.Tap:
                h.Ends = now + 120_000;
                break;
            case Deed.Press when !spec.For.Is && !IsLetGo(spec.Sense):
                h.Ends = now + 300_000;
                break;
            case Deed.LetGo:
                for (var o = 0; o < happenings.Length; o++)
                    if (happenings[o].Active && plan.Happenings[o] is { Deed: Deed.Press or Deed.Hold } held && held.Sense == spec.Sense)
                        End(o, held, ref happenings[o]);
                h.Active = false;
                break;
            case Deed.PutDrive:
            case Deed.PutThing:
                Put(spec, ref h);
                h.Active = false;
                break;
            case Deed.TakeThing:
                if (spec.Thing >= 0)
                    (things[spec.Thing].Lies, things[spec.Thing].Holder, things[spec.Thing].On) = (Lies.Gone, -1, -1);
                h.Active = false;
                break;
            case Deed.Turn:
                h.From = movers[plan.Axes[spec.Axis].Mover].At;
                h.Ends = spec.Waits ? long.MaxValue : now + Micros(h.B + (double.IsNaN(h.C) ? 0 : h.C));
                break;
            case Deed.Comes when !double.IsNaN(h.D):
                // It has left once it is as far away as it came from.
                var there = Math.Abs(h.B - h.A) / Math.Max(1e-6, h.C);
                var away = Math.Abs(h.A - h.B) / Math.Max(1e-6, double.IsNaN(h.E) ? 100 : h.E);
                if (!spec.For.Is)
                    h.Ends = now + Micros(there + h.D + away);
                break;
        }
    }

    private bool IsLetGo(int sense)
    {
        foreach (var h in plan.Happenings)
            if (h.Deed == Deed.LetGo && h.Sense == sense)
                return true;
        return false;
    }

    private double Near(int at, ref HappeningState h) => at < 0 ? 0 : plan.DrawRow[at].ChanceSd * Math.Clamp(h.Stream.Normal(), -3, 3);

    private void Put(HappeningSpec spec, ref HappeningState h)
    {
        if (spec.Drive >= 0)
        {
            var d = plan.Drives[spec.Drive];
            // As well as at the start.
            ref var s = ref drives[spec.Drive];
            var near = spec.AsAtStart;
            s.X = spec.X.Draw(ref h.Stream) + (near ? Near(d.X, ref h) : 0);
            s.Y = spec.Y.Draw(ref h.Stream) + (near ? Near(d.Y, ref h) : 0);
            s.Heading = (h.A + (near ? Near(d.Heading, ref h) : 0)) * Math.PI / 180;
            s.Face();
            (s.Fallen, s.Touching) = (false, false);
            s.Moved();
            return;
        }
        if (spec.Thing < 0)
            return;
        ref var t = ref things[spec.Thing];
        (t.Holder, t.On, t.Vx, t.Vy) = (-1, -1, 0, 0);
        if (spec.Place >= 0 && layout.Places[spec.Place] is var place)
        {
            if (place.Axis >= 0)
            {
                (t.Lies, t.Place) = (Lies.AtPlace, spec.Place);
                return;
            }
            (t.Lies, t.X, t.Y) = (Lies.Ground, place.CentreX, place.CentreY);
        }
        else
            (t.Lies, t.X, t.Y) = (Lies.Ground, spec.X.Draw(ref h.Stream), spec.Y.Draw(ref h.Stream));
        (t.OldX, t.OldY) = (t.X, t.Y);
        Stir(double.PositiveInfinity);
    }

    private void End(int i, HappeningSpec spec, ref HappeningState h)
    {
        (h.Active, h.Ends) = (false, long.MaxValue);
        watcher?.Happened(now, i, false);
        switch (spec.Deed)
        {
            case Deed.Turn:
                ref var m = ref movers[plan.Axes[spec.Axis].Mover];
                // Let go, a stick springs back; anything else stays where it is.
                if (spec.Flag || spec.Waits)
                    (m.Telling, m.Told, m.Target) = (Telling.Place, 2000, axes[spec.Axis].Zero);
                break;
            case Deed.Steer:
                movers[spec.Mover].At = movers[spec.MoverTo].At = 0;
                break;
            case Deed.Battery:
                for (var r = 0; r < plan.Packs.Length; r++)
                    openVolts[r] = drawn[plan.Packs[r].Volts];
                break;
        }
    }

    // What goes on while a line lasts; true when something else changes by it.
    private bool Goes(int i, HappeningSpec spec, ref HappeningState h)
    {
        switch (spec.Deed)
        {
            case Deed.Turn:
            {
                ref var m = ref movers[plan.Axes[spec.Axis].Mover];
                var share = h.B <= 0 ? 1 : Math.Min(1, (now - h.Since) * 1e-6 / h.B);
                (m.At, m.Speed) = (h.From + (h.A + axes[spec.Axis].Zero - h.From) * share, 0);
                return false;
            }
            case Deed.Steer:
                return Steer(spec, ref h);
            case Deed.Ask:
                return Ask(i, spec, ref h);
            default:
                return false;
        }
    }

    // Two sticks towards one place after the other: ahead when it lies ahead, and to the side as far as it lies there.
    private bool Steer(HappeningSpec spec, ref HappeningState h)
    {
        if (drives.Length == 0 || h.Stage >= spec.Places.Length)
            return false;
        if (now < h.StageAt)
            return false;
        h.StageAt = now + 50_000;
        ref readonly var d = ref drives[0];
        var place = layout.Places[spec.Places[h.Stage]];
        double dx = place.CentreX - d.X,
            dy = place.CentreY - d.Y;
        var far = Math.Sqrt(dx * dx + dy * dy);
        if (far < Math.Max(15, Math.Min(place.W, place.D) * 0.3))
        {
            h.Stage++;
            if (h.Stage >= spec.Places.Length)
            {
                h.Ends = now;
                movers[spec.Mover].At = movers[spec.MoverTo].At = 0;
                return true;
            }
        }
        var off = Math.IEEERemainder(Math.Atan2(dx, dy) - d.Heading, 2 * Math.PI);
        movers[spec.Mover].At = Math.Abs(off) < 0.8 ? 60 : 0;
        movers[spec.MoverTo].At = Math.Clamp(off * 50, -45, 45);
        return false;
    }

    // Somebody asks, waits, asks again, and goes through once it is open.
    private bool Ask(int i, HappeningSpec spec, ref HappeningState h)
    {
        var t = now - h.Since;
        switch (h.Stage)
        {
            case 0:
                // Down for a moment, now and each time again.
                var again = double.IsNaN(h.A) ? long.MaxValue : Micros(Math.Max(0.5, h.A));
                if (spec.Axis < 0 && t > 150_000)
                {
                    (h.Passed, h.Active) = (true, false);
                    watcher?.Happened(now, i, false);
                    return true;
                }
                if (spec.Axis >= 0 && AtPosition(spec.Axis, spec.Position) && movers[plan.Axes[spec.Axis].Mover].Speed == 0)
                {
                    (h.Stage, h.StageAt) = (1, now + Micros(double.IsNaN(h.B) ? 0 : h.B));
                    return true;
                }
                _ = again;
                return false;
            default:
                if (!AtPosition(spec.Axis, spec.Position))
                {
                    // It shuts on who is in it: they wait and ask anew.
                    Crash($"{plan.Axes[spec.Axis].Name} moves while somebody passes.", 0, 0);
                    (h.Stage, h.Since) = (0, now);
                    return true;
                }
                if (now < h.StageAt)
                    return false;
                (h.Passed, h.Active) = (true, false);
                watcher?.Happened(now, i, false);
                return true;
        }
    }

    private bool Pressed(int sense)
    {
        for (var i = 0; i < happenings.Length; i++)
        {
            ref readonly var h = ref happenings[i];
            if (!h.Active || plan.Happenings[i].Sense != sense)
                continue;
            switch (plan.Happenings[i].Deed)
            {
                case Deed.Tap or Deed.Press or Deed.Hold:
                    return true;
                case Deed.Ask when h.Stage == 0:
                    var t = now - h.Since;
                    var again = double.IsNaN(h.A) ? long.MaxValue : Micros(Math.Max(0.5, h.A));
                    if (t % again < 150_000)
                        return true;
                    break;
            }
        }
        return false;
    }

    // What lines that last do to motors, packs and sensors, worked out when one begins or ends.
    private void Effects()
    {
        for (var m = 0; m < powered.Length; m++)
            powered[m] = !plan.Dead.Movers[m];
        Array.Clear(blocked);
        Array.Clear(senseOver);
        Array.Clear(dry);
        (lifted, lostReadings, lostMessages) = (false, 0, 0);
        for (var i = 0; i < happenings.Length; i++)
        {
            if (!happenings[i].Active)
                continue;
            var spec = plan.Happenings[i];
            switch (spec.Deed)
            {
                case Deed.Hand or Deed.Comes or Deed.Reads or Deed.ReadsZone or Deed.Silent:
                    senseOver[spec.Sense]++;
                    break;
                case Deed.LostReadings:
                    lostReadings += happenings[i].A;
                    break;
                case Deed.LostMessages:
                    lostMessages = Math.Min(1, lostMessages + happenings[i].A);
                    break;
                case Deed.Unplug when spec.Drive >= 0:
                    (powered[plan.Drives[spec.Drive].Left], powered[plan.Drives[spec.Drive].Right]) = (false, false);
                    break;
                case Deed.Unplug when spec.Mover >= 0:
                    powered[spec.Mover] = false;
                    break;
                case Deed.Block:
                    if (spec.Drive >= 0)
                        (blocked[plan.Drives[spec.Drive].Left], blocked[plan.Drives[spec.Drive].Right]) = (true, true);
                    else if (spec.Mover >= 0)
                        blocked[spec.Mover] = true;
                    break;
                case Deed.Lift:
                    lifted = true;
                    break;
                case Deed.Battery:
                    for (var r = 0; r < openVolts.Length; r++)
                        openVolts[r] = happenings[i].A;
                    break;
                case Deed.RunsDry:
                    for (var a = 0; a < axes.Length; a++)
                        if (plan.Axes[a].Mover == spec.Mover)
                            dry[a] = true;
                    break;
            }
        }
        // A part that is held stalls what turns it.
        for (var a = 0; a < axes.Length; a++)
            axes[a].Blocked = blocked[plan.Axes[a].Mover];
    }
}
