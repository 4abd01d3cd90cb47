using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private int crashes;

    private void Note(string say, double x, double y) => watcher?.Noted(now, say, x, y);

    private void Crash(string say, double x, double y)
    {
        crashes++;
        Note(say, x, y);
    }

    private void MoveDrive(int i, double dt)
    {
        var spec = plan.Drives[i];
        ref var d = ref drives[i];
        ref var left = ref movers[spec.Left];
        ref var right = ref movers[spec.Right];
        if (left.Speed == 0 && right.Speed == 0 && left.Telling <= Telling.Hold && right.Telling <= Telling.Hold)
        {
            d.Speed = 0;
            (left.PushSince, right.PushSince) = (long.MaxValue, long.MaxValue);
            return;
        }
        var (l0, r0) = (left.At, right.At);
        if (d.Fallen)
        {
            left.Speed = right.Speed = 0;
            return;
        }
        StepMover(spec.Left, dt);
        StepMover(spec.Right, dt);
        var ratio = drawn[spec.Wheel] / spec.WheelKnown;
        double dl = (left.At - l0) * ratio,
            dr = (right.At - r0) * ratio;
        d.Travel += (left.At - l0 + right.At - r0) / 2;
        d.Speed = (left.Speed + right.Speed) / 2 * ratio;
        if (dl == 0 && dr == 0)
        {
            Held(spec, false, dt);
            return;
        }
        (d.EverMoved, d.RestSince) = (true, now + (long)(dt * 1e6));
        if (lifted)
            return;
        var track = drawn[d.Pivoting ? spec.Pivot : spec.Track] * (spec.TrackByTurns ? ratio : 1);
        var way = (dl + dr) / 2;
        var turn = (dl - dr) / track * (d.Turning ? d.TurnFactor : 1) + drawn[spec.Veer] * way / 1000 * Math.PI / 180;
        var (x, y, h) = (d.X, d.Y, d.Heading);
        // An exact arc: its chord lies half its turn off the heading it began with.
        var half = turn / 2;
        var chord = Math.Abs(half) < 1e-6 ? way : way * Math.Sin(half) / half;
        var (sin, cos) = Math.SinCos(h + half);
        (d.X, d.Y, d.Heading) = (x + chord * sin, y + chord * cos, h + turn);
        var met = Meets(i, ref d, spec);
        if (met)
        {
            // As much of it as is free: the turn alone, else nothing.
            var (nx, ny, nh) = (d.X, d.Y, d.Heading);
            (d.X, d.Y) = (x, y);
            if (turn == 0 || Meets(i, ref d, spec))
                (d.X, d.Y, d.Heading) = (nx, ny, h);
            if (turn == 0 || d.Heading == h && Meets(i, ref d, spec))
                (d.X, d.Y, d.Heading) = (x, y, h);
            if (!d.Touching)
            {
                d.Touching = true;
                // Ahead is what the bumper is for; anything else is a crash.
                if (!HasBumper(i) || Math.Abs(d.BumpAt) > 1.3)
                    Crash($"{spec.Name} meets {metName}.", d.X, d.Y);
            }
            d.BumpAhead = Math.Abs(d.BumpAt) <= 1.3;
            Held(spec, true, dt);
            if (drawn[spec.Grip] >= 1)
            {
                (left.At, right.At) = (l0, r0);
                left.Speed = right.Speed = 0;
            }
        }
        else
        {
            Held(spec, false, dt);
            if (d.Touching && !Near(i, ref d, spec))
                (d.Touching, d.BumpAhead) = (false, false);
        }
        if (plan.IsDeck)
            Edge(spec, ref d);
    }

    private void Held(DriveSpec spec, bool held, double dt)
    {
        // Wheels that slip never notice.
        var stalls = held && drawn[spec.Grip] >= 1;
        Stalls(spec.Left, stalls || blocked[spec.Left], dt);
        Stalls(spec.Right, stalls || blocked[spec.Right], dt);
    }

    private bool HasBumper(int drive)
    {
        foreach (var s in plan.Senses)
            if (s.Way == Simulation.Senses.SenseWay.Bumper && s.Drive == drive)
                return true;
        return false;
    }

    private void Edge(DriveSpec spec, ref DriveState d)
    {
        var (sin, cos) = Math.SinCos(d.Heading);
        var half = spec.TrackKnown / 2;
        for (var side = -1; side <= 1; side += 2)
        {
            double x = d.X + side * half * cos,
                y = d.Y - side * half * sin;
            if (plan.Deck!.Outside(x, y) <= 0)
                continue;
            d.Fallen = true;
            Note($"The {(side < 0 ? "left" : "right")} wheel of {spec.Name} is off the deck.", x, y);
            return;
        }
    }

    private string metName = "";

    private (double X, double Y) Corner(DriveSpec spec, in DriveState d, int c, double sin, double cos)
    {
        var (ahead, right) = (spec.Outline[c].AheadMm, spec.Outline[c].RightMm);
        return (d.X + ahead * sin + right * cos, d.Y + ahead * cos - right * sin);
    }

    // True when the body would stand in a wall, in something fixed or in another body; things that give way are pushed.
    private bool Meets(int i, ref DriveState d, DriveSpec spec)
    {
        var (sin, cos) = Math.SinCos(d.Heading);
        foreach (var w in plan.Walls)
        {
            if (Shape.ToSegment(d.X, d.Y, w.Ax, w.Ay, w.Bx, w.By) > spec.Reach || !Crosses(spec, d, sin, cos, w.Ax, w.Ay, w.Bx, w.By))
                continue;
            Where(ref d, sin, cos, Nearest(d.X, d.Y, w.Ax, w.Ay, w.Bx, w.By));
            metName = "a wall";
            return true;
        }
        for (var o = 0; o < drives.Length; o++)
        {
            if (o == i)
                continue;
            var other = plan.Drives[o];
            double ox = drives[o].X - d.X,
                oy = drives[o].Y - d.Y;
            if (ox * ox + oy * oy > (spec.Reach + other.Reach) * (spec.Reach + other.Reach))
                continue;
            var (osin, ocos) = Math.SinCos(drives[o].Heading);
            for (var c = 0; c < other.Outline.Length; c++)
            {
                var a = Corner(other, drives[o], c, osin, ocos);
                var b = Corner(other, drives[o], (c + 1) % other.Outline.Length, osin, ocos);
                if (!Crosses(spec, d, sin, cos, a.X, a.Y, b.X, b.Y))
                    continue;
                Where(ref d, sin, cos, Nearest(d.X, d.Y, a.X, a.Y, b.X, b.Y));
                metName = other.Name;
                return true;
            }
        }
        for (var t = 0; t < things.Length; t++)
        {
            ref var thing = ref things[t];
            if (thing.Lies != Lies.Ground)
                continue;
            double tx = thing.X - d.X,
                ty = thing.Y - d.Y;
            if (tx * tx + ty * ty > (spec.Reach + thing.R) * (spec.Reach + thing.R))
                continue;
            var (px, py, inside) = Outline(spec, d, sin, cos, thing.X, thing.Y);
            double nx = thing.X - px,
                ny = thing.Y - py;
            var gap = Math.Sqrt(nx * nx + ny * ny);
            if (!inside && gap >= thing.R)
                continue;
            if (plan.Things[t].Fragile)
            {
                thing.Lies = Lies.Gone;
                Note($"{plan.Things[t].Name} is knocked off.", thing.X, thing.Y);
                continue;
            }
            if (plan.Things[t].Fixed)
            {
                if (plan.Things[t].Round)
                {
                    Where(ref d, sin, cos, (thing.X, thing.Y));
                    metName = plan.Things[t].Name;
                    return true;
                }
                // What is fixed and has corners stands among the walls.
                continue;
            }
            var push = inside ? thing.R + gap : thing.R - gap;
            var sign = inside ? -1 : 1;
            if (gap < 1e-9)
                (nx, ny, gap) = (sin, cos, 1);
            var (wx, wy) = (thing.X, thing.Y);
            thing.X += sign * nx / gap * push;
            thing.Y += sign * ny / gap * push;
            if (Wedged(t))
            {
                (thing.X, thing.Y) = (wx, wy);
                Where(ref d, sin, cos, (thing.X, thing.Y));
                metName = plan.Things[t].Name;
                return true;
            }
            Fall(t);
        }
        return false;
    }

    private bool Near(int i, ref DriveState d, DriveSpec spec)
    {
        // A touch ends once the body stands 1 mm off.
        var (x, y) = (d.X, d.Y);
        var (sin, cos) = Math.SinCos(d.Heading);
        var ahead = Math.Abs(d.BumpAt) <= 1.3 ? 1 : -1;
        (d.X, d.Y) = (x + ahead * sin, y + ahead * cos);
        var before = d.BumpAt;
        var near = Meets(i, ref d, spec);
        (d.X, d.Y, d.BumpAt) = (x, y, before);
        return near;
    }

    private static (double X, double Y) Nearest(double x, double y, double ax, double ay, double bx, double by)
    {
        double dx = bx - ax,
            dy = by - ay;
        var length = dx * dx + dy * dy;
        var t = length <= 0 ? 0 : Math.Clamp(((x - ax) * dx + (y - ay) * dy) / length, 0, 1);
        return (ax + t * dx, ay + t * dy);
    }

    private static void Where(ref DriveState d, double sin, double cos, (double X, double Y) at)
    {
        double px = at.X - d.X,
            py = at.Y - d.Y;
        d.BumpAt = Math.Atan2(px * cos - py * sin, px * sin + py * cos);
    }

    private bool Crosses(DriveSpec spec, in DriveState d, double sin, double cos, double ax, double ay, double bx, double by)
    {
        var n = spec.Outline.Length;
        var p = Corner(spec, d, n - 1, sin, cos);
        var inside = false;
        for (var c = 0; c < n; c++)
        {
            var q = Corner(spec, d, c, sin, cos);
            if (Cut(p.X, p.Y, q.X, q.Y, ax, ay, bx, by))
                return true;
            if (q.Y > ay != p.Y > ay && ax < (p.X - q.X) * (ay - q.Y) / (p.Y - q.Y) + q.X)
                inside = !inside;
            p = q;
        }
        return inside;
    }

    private static bool Cut(double px, double py, double qx, double qy, double ax, double ay, double bx, double by)
    {
        double d1 = (qx - px) * (ay - py) - (qy - py) * (ax - px),
            d2 = (qx - px) * (by - py) - (qy - py) * (bx - px),
            d3 = (bx - ax) * (py - ay) - (by - ay) * (px - ax),
            d4 = (bx - ax) * (qy - ay) - (by - ay) * (qx - ax);
        return d1 > 0 != d2 > 0 && d3 > 0 != d4 > 0;
    }

    // The point of the outline nearest to a point, and whether the point lies inside.
    private (double X, double Y, bool Inside) Outline(DriveSpec spec, in DriveState d, double sin, double cos, double x, double y)
    {
        var n = spec.Outline.Length;
        var p = Corner(spec, d, n - 1, sin, cos);
        double best = double.PositiveInfinity,
            bx = 0,
            by = 0;
        var inside = false;
        for (var c = 0; c < n; c++)
        {
            var q = Corner(spec, d, c, sin, cos);
            var at = Nearest(x, y, p.X, p.Y, q.X, q.Y);
            var far = (at.X - x) * (at.X - x) + (at.Y - y) * (at.Y - y);
            if (far < best)
                (best, bx, by) = (far, at.X, at.Y);
            if (q.Y > y != p.Y > y && x < (p.X - q.X) * (y - q.Y) / (p.Y - q.Y) + q.X)
                inside = !inside;
            p = q;
        }
        return (bx, by, inside);
    }

    // A thing that is pushed pushes the next one on; what stands against a wall gives way no more.
    private bool Wedged(int t, int depth = 0)
    {
        ref var thing = ref things[t];
        foreach (var w in plan.Walls)
            if (Shape.ToSegment(thing.X, thing.Y, w.Ax, w.Ay, w.Bx, w.By) < thing.R - 0.01)
                return true;
        for (var o = 0; o < things.Length; o++)
        {
            if (o == t || things[o].Lies != Lies.Ground)
                continue;
            ref var other = ref things[o];
            double nx = other.X - thing.X,
                ny = other.Y - thing.Y;
            var least = thing.R + other.R;
            var far = nx * nx + ny * ny;
            if (far >= least * least - 0.01)
                continue;
            if (plan.Things[o].Fixed || depth >= 4)
                return true;
            var gap = Math.Max(1e-6, Math.Sqrt(far));
            var (wx, wy) = (other.X, other.Y);
            other.X = thing.X + nx / gap * least;
            other.Y = thing.Y + ny / gap * least;
            if (Wedged(o, depth + 1))
            {
                (other.X, other.Y) = (wx, wy);
                return true;
            }
            Fall(o);
        }
        return false;
    }

    // A thing whose middle has left the deck has fallen.
    private void Fall(int t)
    {
        if (!plan.IsDeck || things[t].Lies != Lies.Ground || plan.Deck!.Outside(things[t].X, things[t].Y) <= 0)
            return;
        things[t].Lies = Lies.Gone;
        Note($"{plan.Things[t].Name} falls off the deck.", things[t].X, things[t].Y);
    }

    // What rolls goes on with the speed it was pushed with, and slows down.
    private void Roll(double dt)
    {
        for (var t = 0; t < things.Length; t++)
        {
            ref var thing = ref things[t];
            if (!plan.Things[t].Rolls || thing.Lies != Lies.Ground)
                continue;
            double mx = thing.X - thing.OldX,
                my = thing.Y - thing.OldY;
            if (mx != 0 || my != 0)
                (thing.Vx, thing.Vy) = (mx / dt, my / dt);
            else if (thing.Vx != 0 || thing.Vy != 0)
            {
                var speed = Math.Sqrt(thing.Vx * thing.Vx + thing.Vy * thing.Vy);
                // Rolling on a smooth floor: two hundredths of its weight hold it back.
                var slower = Math.Max(0, speed - 0.02 * 9810 * dt) / speed;
                (thing.Vx, thing.Vy) = (thing.Vx * slower, thing.Vy * slower);
                var (x, y) = (thing.X, thing.Y);
                (thing.X, thing.Y) = (x + thing.Vx * dt, y + thing.Vy * dt);
                if (Wedged(t))
                    (thing.X, thing.Y, thing.Vx, thing.Vy) = (x, y, 0, 0);
                else
                    Fall(t);
            }
            (thing.OldX, thing.OldY) = (thing.X, thing.Y);
        }
    }

    /// <summary>Where something mounted on a drive is: mm.</summary>
    internal (double X, double Y) Mounted(int drive, double ahead, double right)
    {
        ref readonly var d = ref drives[drive];
        var (sin, cos) = Math.SinCos(d.Heading);
        return (d.X + ahead * sin + right * cos, d.Y + ahead * cos - right * sin);
    }
}
