using System.Globalization;
using System.Runtime.CompilerServices;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private int crashes;

    private void Note(string say, double x, double y) => watcher?.Noted(now, say, x, y);

    private void Note([InterpolatedStringHandlerArgument("")] ref Words say, double x, double y) => Note(say.Text, x, y);

    private void Crash([InterpolatedStringHandlerArgument("")] ref Words say, double x, double y)
    {
        crashes++;
        Note(say.Text, x, y);
    }

    /// <summary>What happened, put into words only where somebody is told: most runs are counted and never read.</summary>
    [InterpolatedStringHandler]
    private ref struct Words
    {
        private DefaultInterpolatedStringHandler words;
        private readonly bool told;

        public Words(int literals, int holes, Bench bench, out bool isTold)
        {
            told = isTold = bench.watcher is not null;
            if (told)
                words = new(literals, holes, CultureInfo.InvariantCulture);
        }

        public string Text => told ? words.ToStringAndClear() : "";

        public void AppendLiteral(string text) => words.AppendLiteral(text);

        public void AppendFormatted<T>(T value, string? format = null) => words.AppendFormatted(value, format);
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
        (d.EverMoved, d.RestSince) = (true, stepEnds);
        if (lifted)
            return;
        var track = drawn[d.Pivoting ? spec.Pivot : spec.Track] * ((d.Pivoting ? spec.PivotByTurns : spec.TrackByTurns) ? ratio : 1);
        var way = (dl + dr) / 2;
        var turn =
            (dl - dr) / track * (d.Turning ? d.TurnFactor : 1)
            + drawn[spec.Veer] / (spec.VeerByWheel ? ratio * ratio : 1) * way / 1000 * Math.PI / 180;
        var (x, y, h, sin, cos) = (d.X, d.Y, d.Heading, d.Sin, d.Cos);
        // An exact arc: its chord lies half its turn off the heading it began with, and is way · sin(turn/2) / (turn/2) long; along it
        // the sum of the two headings' directions points, 2 cos(turn/2) long.
        var chord = way / 2;
        if (turn != 0)
        {
            d.Heading = h + turn;
            d.Face();
            var half = turn / 2;
            var square = half * half;
            chord *= Math.Abs(half) < 0.05 ? 1 + square * (1 / 3.0 + square * (2 / 15.0 + square * 17 / 315)) : Math.Tan(half) / half;
        }
        (d.X, d.Y) = (x + chord * (sin + d.Sin), y + chord * (cos + d.Cos));
        d.Clear -= Math.Abs(way);
        d.ClearOfEdge -= Math.Abs(way) + Math.Abs(turn) * spec.ContactMm;
        var met = Meets(i, ref d, spec);
        if (met)
        {
            // As much of it as is free: the turn alone, else nothing.
            var (nx, ny, back) = (d.X, d.Y, (h, sin, cos));
            (d.X, d.Y) = (x, y);
            if (turn == 0 || Meets(i, ref d, spec))
                (d.X, d.Y, (d.Heading, d.Sin, d.Cos)) = (nx, ny, back);
            if (turn == 0 || d.Heading == h && Meets(i, ref d, spec))
                (d.X, d.Y, (d.Heading, d.Sin, d.Cos)) = (x, y, back);
            if (!d.Touching)
            {
                d.Touching = true;
                // Ahead is what the bumper is for; anything else is a crash.
                if (!HasBumper(i) || !d.MetAhead)
                    Crash($"{spec.Name} meets {metName}.", d.X, d.Y);
            }
            d.BumpAhead = d.MetAhead;
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
        if (plan.IsDeck && d.ClearOfEdge <= 0)
            Edge(spec, ref d);
    }

    private void Held(DriveSpec spec, bool held, double dt)
    {
        if (!held && !blocked[spec.Left] && !blocked[spec.Right])
        {
            (movers[spec.Left].PushSince, movers[spec.Right].PushSince) = (long.MaxValue, long.MaxValue);
            return;
        }
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
        var half = spec.TrackKnown / 2;
        d.ClearOfEdge = double.PositiveInfinity;
        for (var side = -1; side <= 1; side += 2)
        {
            double x = d.X + side * half * d.Cos,
                y = d.Y - side * half * d.Sin;
            // As far as all that it stands on is from it, the edge need not be looked at again.
            var outside = layout.Deck!.Outside(x, y);
            d.ClearOfEdge = Math.Min(d.ClearOfEdge, -outside);
            if (outside <= 0)
                continue;
            d.Fallen = true;
            Note($"The {(side < 0 ? "left" : "right")} wheel of {spec.Name} is off the deck.", x, y);
            return;
        }
        if (spec.RestsAtMm == 0)
            return;
        var (fx, fy) = (d.X + spec.RestsAtMm * d.Sin, d.Y + spec.RestsAtMm * d.Cos);
        var beyond = layout.Deck!.Outside(fx, fy);
        d.ClearOfEdge = Math.Min(d.ClearOfEdge, -beyond);
        if (beyond <= 0)
            return;
        d.Fallen = true;
        Note($"The front of {spec.Name} is off the deck.", fx, fy);
    }

    private string metName = "";

    private static (double X, double Y) Corner(DriveSpec spec, in DriveState d, int c)
    {
        var (ahead, right) = (spec.Outline[c].AheadMm, spec.Outline[c].RightMm);
        return (d.X + ahead * d.Sin + right * d.Cos, d.Y + ahead * d.Cos - right * d.Sin);
    }

    private const double LookAhead = 30;

    // The things and walls that a drive can meet before it, or one of them, has come 30 mm.
    private void Look(int i, ref DriveState d, DriveSpec spec)
    {
        var (first, count) = (i * things.Length, 0);
        for (var t = 0; t < things.Length; t++)
        {
            double tx = things[t].X - d.X,
                ty = things[t].Y - d.Y;
            var reach = spec.Reach + things[t].R + LookAhead;
            if (things[t].Lies == Lies.Ground && tx * tx + ty * ty <= reach * reach)
                nearThings[first + count++] = t;
        }
        (d.NearThings, first, count) = (count, i * layout.Walls.Length, 0);
        for (var w = 0; w < layout.Walls.Length; w++)
            if (
                Shape.ToSegment(d.X, d.Y, layout.Walls[w].Ax, layout.Walls[w].Ay, layout.Walls[w].Bx, layout.Walls[w].By)
                <= spec.Reach + LookAhead
            )
                nearWalls[first + count++] = w;
        (d.NearWalls, d.Clear) = (count, LookAhead);
    }

    // A thing has come so far: what drives can meet may be another now.
    private void Stir(double mm)
    {
        for (var i = 0; i < drives.Length; i++)
            drives[i].Clear -= mm;
    }

    // True when the body would stand in a wall, in something fixed or in another body; things that give way are pushed.
    private bool Meets(int i, ref DriveState d, DriveSpec spec)
    {
        // A touch is felt for 1 mm ahead.
        if (d.Clear < 2)
            Look(i, ref d, spec);
        for (var k = 0; k < d.NearWalls; k++)
        {
            ref readonly var w = ref layout.Walls[nearWalls[i * layout.Walls.Length + k]];
            if (!Crosses(spec, d, w.Ax, w.Ay, w.Bx, w.By))
                continue;
            Where(ref d, Nearest(d.X, d.Y, w.Ax, w.Ay, w.Bx, w.By));
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
            for (var c = 0; c < other.Outline.Length; c++)
            {
                var a = Corner(other, drives[o], c);
                var b = Corner(other, drives[o], (c + 1) % other.Outline.Length);
                if (!Crosses(spec, d, a.X, a.Y, b.X, b.Y))
                    continue;
                Where(ref d, Nearest(d.X, d.Y, a.X, a.Y, b.X, b.Y));
                metName = other.Name;
                return true;
            }
        }
        for (var k = 0; k < d.NearThings; k++)
        {
            var t = nearThings[i * things.Length + k];
            ref var thing = ref things[t];
            if (thing.Lies != Lies.Ground)
                continue;
            double tx = thing.X - d.X,
                ty = thing.Y - d.Y;
            // As the body sees it: to its right and ahead.
            double right = tx * d.Cos - ty * d.Sin,
                front = tx * d.Sin + ty * d.Cos;
            if (
                right < spec.BoxLeft - thing.R
                || right > spec.BoxRight + thing.R
                || front < spec.BoxBack - thing.R
                || front > spec.BoxFront + thing.R
            )
                continue;
            var (near, ahead, inside) = Outline(spec, right, front);
            double nr = right - near,
                na = front - ahead;
            var gap = Math.Sqrt(nr * nr + na * na);
            if (!inside && gap >= thing.R)
                continue;
            if (plan.Things[t].Fragile)
            {
                thing.Lies = Lies.Gone;
                Note($"{plan.Things[t].Name} is knocked off.", thing.X, thing.Y);
                continue;
            }
            var stands = plan.Things[t].Fixed || spec.Pushes >= 0 && TooHeavy(t, spec);
            if (stands)
            {
                if (plan.Things[t].Round || !plan.Things[t].Fixed)
                {
                    Where(ref d, (thing.X, thing.Y));
                    metName = plan.Things[t].Name;
                    return true;
                }
                // What is fixed and has corners stands among the walls.
                continue;
            }
            var push = inside ? thing.R + gap : thing.R - gap;
            if (gap < 1e-9)
                (nr, na, gap) = (0, 1, 1);
            var by = (inside ? -push : push) / gap;
            var (wx, wy) = (thing.X, thing.Y);
            thing.X += by * (na * d.Sin + nr * d.Cos);
            thing.Y += by * (na * d.Cos - nr * d.Sin);
            Stir(push);
            if (Wedged(t))
            {
                (thing.X, thing.Y) = (wx, wy);
                Where(ref d, (thing.X, thing.Y));
                metName = plan.Things[t].Name;
                return true;
            }
            Fall(t);
        }
        return false;
    }

    // Friction with the floor holds it more than the wheels push.
    private bool TooHeavy(int t, DriveSpec spec)
    {
        var friction = plan.Things[t].Friction.In(drawn);
        return plan.Things[t].WeightN.In(drawn) * (double.IsNaN(friction) ? BenchPlan.FloorFriction : friction) > drawn[spec.Pushes];
    }

    private bool Near(int i, ref DriveState d, DriveSpec spec)
    {
        // A touch ends once the body stands 1 mm off.
        var (x, y) = (d.X, d.Y);
        var ahead = d.MetAhead ? 1 : -1;
        (d.X, d.Y) = (x + ahead * d.Sin, y + ahead * d.Cos);
        var before = d.MetAhead;
        var near = Meets(i, ref d, spec);
        (d.X, d.Y, d.MetAhead) = (x, y, before);
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

    private static void Where(ref DriveState d, (double X, double Y) at)
    {
        double px = at.X - d.X,
            py = at.Y - d.Y;
        // Ahead is what lies within 75° of straight on.
        d.MetAhead = Math.Abs(px * d.Cos - py * d.Sin) <= 3.73 * (px * d.Sin + py * d.Cos);
    }

    // True when a segment cuts the outline or lies in it; all as the body sees it, to its right and ahead.
    private static bool Crosses(DriveSpec spec, in DriveState d, double ax, double ay, double bx, double by)
    {
        double ar = (ax - d.X) * d.Cos - (ay - d.Y) * d.Sin,
            af = (ax - d.X) * d.Sin + (ay - d.Y) * d.Cos,
            br = (bx - d.X) * d.Cos - (by - d.Y) * d.Sin,
            bf = (bx - d.X) * d.Sin + (by - d.Y) * d.Cos;
        if (
            ar < spec.BoxLeft && br < spec.BoxLeft
            || ar > spec.BoxRight && br > spec.BoxRight
            || af < spec.BoxBack && bf < spec.BoxBack
            || af > spec.BoxFront && bf > spec.BoxFront
        )
            return false;
        var outline = spec.Outline;
        double pr = outline[^1].RightMm,
            pf = outline[^1].AheadMm;
        var inside = false;
        for (var c = 0; c < outline.Length; c++)
        {
            double qr = outline[c].RightMm,
                qf = outline[c].AheadMm;
            if (Cut(pr, pf, qr, qf, ar, af, br, bf))
                return true;
            if (qf > af != pf > af && ar < (pr - qr) * (af - qf) / (pf - qf) + qr)
                inside = !inside;
            (pr, pf) = (qr, qf);
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

    // The point of the outline nearest to a point, and whether the point lies inside; all as the body sees it.
    private static (double Right, double Ahead, bool Inside) Outline(DriveSpec spec, double right, double ahead)
    {
        var outline = spec.Outline;
        double pr = outline[^1].RightMm,
            pf = outline[^1].AheadMm,
            best = double.PositiveInfinity,
            br = 0,
            bf = 0;
        var inside = false;
        for (var c = 0; c < outline.Length; c++)
        {
            double qr = outline[c].RightMm,
                qf = outline[c].AheadMm;
            var (r, f) = Nearest(right, ahead, pr, pf, qr, qf);
            var far = (r - right) * (r - right) + (f - ahead) * (f - ahead);
            if (far < best)
                (best, br, bf) = (far, r, f);
            if (qf > ahead != pf > ahead && right < (pr - qr) * (ahead - qf) / (pf - qf) + qr)
                inside = !inside;
            (pr, pf) = (qr, qf);
        }
        return (br, bf, inside);
    }

    // A thing that is pushed pushes the next one on; what stands against a wall gives way no more.
    private bool Wedged(int t, int depth = 0)
    {
        ref var thing = ref things[t];
        foreach (var w in layout.Walls)
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
            Stir(least - gap);
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
        if (!plan.IsDeck || things[t].Lies != Lies.Ground || layout.Deck!.Outside(things[t].X, things[t].Y) <= 0)
            return;
        things[t].Lies = Lies.Gone;
        Note($"{plan.Things[t].Name} falls off the deck.", things[t].X, things[t].Y);
    }

    // What rolls goes on with the speed it was pushed with, and slows down.
    private void Roll(double dt)
    {
        foreach (var t in plan.Rolling)
        {
            ref var thing = ref things[t];
            if (thing.Lies != Lies.Ground)
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
                Stir(speed * dt);
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
        return (d.X + ahead * d.Sin + right * d.Cos, d.Y + ahead * d.Cos - right * d.Sin);
    }
}
