namespace Chiton.Core.Simulation.Ground;

/// <summary>A painted shape of the plan, later ones on top of earlier ones.</summary>
internal sealed class Paint
{
    private enum Form : byte
    {
        Box,
        Disc,
        Strip,
    }

    private readonly Form form;
    private readonly double cx,
        cy,
        halfW,
        halfD,
        sin,
        cos;
    private readonly double[] xs = [],
        ys = [];
    private readonly double lowX,
        lowY,
        highX,
        highY;

    /// <summary>Which surface.</summary>
    public int Surface { get; }

    private Paint(Form form, int surface, double cx, double cy, double halfW, double halfD, double turned, (double X, double Y)[] path)
    {
        (this.form, Surface, this.cx, this.cy, this.halfW, this.halfD) = (form, surface, cx, cy, halfW, halfD);
        (sin, cos) = Math.SinCos(turned);
        (xs, ys) = ([.. path.Select(p => p.X)], [.. path.Select(p => p.Y)]);
        var reach = form == Form.Box ? Math.Sqrt(halfW * halfW + halfD * halfD) : halfW;
        lowX = (form == Form.Strip ? xs.Min() : cx) - reach;
        highX = (form == Form.Strip ? xs.Max() : cx) + reach;
        lowY = (form == Form.Strip ? ys.Min() : cy) - reach;
        highY = (form == Form.Strip ? ys.Max() : cy) + reach;
    }

    public static Paint Box(int surface, double cx, double cy, double w, double d, double turnedDeg) =>
        new(Form.Box, surface, cx, cy, w / 2, d / 2, turnedDeg * Math.PI / 180, []);

    public static Paint Disc(int surface, double cx, double cy, double across) => new(Form.Disc, surface, cx, cy, across / 2, 0, 0, []);

    public static Paint Strip(int surface, double width, IReadOnlyList<(double X, double Y)> path, double round, bool closed) =>
        new(Form.Strip, surface, 0, 0, width / 2, 0, 0, Rounded(path, round, closed));

    /// <summary>The line with its corners rounded, in steps of a few degrees.</summary>
    internal static (double X, double Y)[] Rounded(IReadOnlyList<(double X, double Y)> path, double radius, bool closed)
    {
        var n = path.Count;
        var made = new List<(double, double)>();
        for (var i = 0; i < n; i++)
        {
            var ends = !closed && (i == 0 || i == n - 1);
            var (p, q) = (path[(i + n - 1) % n], path[(i + 1) % n]);
            var (x, y) = path[i];
            if (ends || radius <= 0)
            {
                made.Add((x, y));
                continue;
            }
            var (ax, ay, la) = Unit(p.X - x, p.Y - y);
            var (bx, by, lb) = Unit(q.X - x, q.Y - y);
            var half = Math.Acos(Math.Clamp(ax * bx + ay * by, -1, 1)) / 2;
            // As far back from the corner as its arc begins, and never past the middle of a side.
            var back = Math.Min(radius / Math.Tan(half), Math.Min(la, lb) / 2);
            if (!(half > 0.01 && half < Math.PI / 2 - 0.001))
            {
                made.Add((x, y));
                continue;
            }
            var r = back * Math.Tan(half);
            var (mx, my, _) = Unit(ax + bx, ay + by);
            var (ox, oy) = (x + mx * r / Math.Sin(half), y + my * r / Math.Sin(half));
            var from = Math.Atan2(y + ay * back - oy, x + ax * back - ox);
            var turn = Math.IEEERemainder(Math.Atan2(y + by * back - oy, x + bx * back - ox) - from, 2 * Math.PI);
            var steps = Math.Max(2, (int)Math.Ceiling(Math.Abs(turn) / 0.08));
            for (var s = 0; s <= steps; s++)
                made.Add((ox + r * Math.Cos(from + turn * s / steps), oy + r * Math.Sin(from + turn * s / steps)));
        }
        if (closed)
            made.Add(made[0]);
        return [.. made];
    }

    private static (double X, double Y, double Length) Unit(double x, double y)
    {
        var length = Math.Sqrt(x * x + y * y);
        return length < 1e-9 ? (0, 0, 0) : (x / length, y / length, length);
    }

    /// <summary>True when a spot cannot touch it.</summary>
    public bool Far(double x, double y, double r) => x + r < lowX || x - r > highX || y + r < lowY || y - r > highY;

    /// <summary>How far a point lies outside of it; negative inside.</summary>
    public double Outside(double x, double y)
    {
        switch (form)
        {
            case Form.Box:
                return Shape.ToBox(x, y, cx, cy, halfW, halfD, sin, cos);
            case Form.Disc:
                return Math.Sqrt((x - cx) * (x - cx) + (y - cy) * (y - cy)) - halfW;
            default:
                var best = double.PositiveInfinity;
                for (var i = 1; i < xs.Length; i++)
                    best = Math.Min(best, Shape.ToSegment(x, y, xs[i - 1], ys[i - 1], xs[i], ys[i]));
                return best - halfW;
        }
    }

    /// <summary>Share of a round spot that it covers, where its edges are straight beside the spot; negative where they are not, as at a
    /// corner.</summary>
    public double Covers(double x, double y, double r)
    {
        var outside = Outside(x, y);
        if (outside >= r)
            return 0;
        if (outside <= -r && (form != Form.Strip || halfW - r >= 0))
            return 1;
        switch (form)
        {
            case Form.Strip:
                var from = outside + halfW;
                return Shape.SpotShare((halfW - from) / r) - Shape.SpotShare((-halfW - from) / r);
            case Form.Disc:
                return halfW > 6 * r ? Shape.SpotShare(-outside / r) : -1;
            default:
                double px = x - cx,
                    py = y - cy;
                var u = Math.Abs(px * cos - py * sin);
                var v = Math.Abs(px * sin + py * cos);
                var (nearU, nearV) = (Math.Abs(u - halfW) < r, Math.Abs(v - halfD) < r);
                if (nearU && nearV || halfW < r || halfD < r)
                    return -1;
                return Shape.SpotShare(-outside / r);
        }
    }

    /// <summary>Its outline as a row of points, for the plan.</summary>
    public IReadOnlyList<(double X, double Y)> Line => [.. xs.Zip(ys)];
}

/// <summary>What a spot sees of the ground: the mix of surfaces under it.</summary>
internal static class Mix
{
    // Points of equal area in a unit disc: a sunflower. With 96 of them a share is right to 2 % of the area.
    private static readonly (double X, double Y)[] Points =
    [
        .. Enumerable
            .Range(0, 96)
            .Select(i =>
            {
                var r = Math.Sqrt((i + 0.5) / 96);
                var (s, c) = Math.SinCos(i * 2.399963229728653);
                return (r * c, r * s);
            }),
    ];

    /// <summary>Fills the shares of surfaces under a spot.</summary>
    /// <param name="paints">What is painted, the lowest first.</param>
    /// <param name="ground">The surface below all.</param>
    /// <param name="x">Middle of the spot.</param>
    /// <param name="y">Middle of the spot.</param>
    /// <param name="r">Its radius, above 0.</param>
    /// <param name="shares">By surface; filled.</param>
    public static void Fill(Paint[] paints, int ground, double x, double y, double r, Span<double> shares)
    {
        shares.Clear();
        var open = 1.0;
        var edges = 0;
        for (var i = paints.Length - 1; i >= 0; i--)
        {
            var p = paints[i];
            if (p.Far(x, y, r))
                continue;
            var covers = p.Covers(x, y, r);
            if (covers == 0)
                continue;
            // Two edges under one spot, or a corner: it is looked at point by point.
            if (covers < 0 || covers < 1 && ++edges > 1)
            {
                Sample(paints, ground, x, y, r, shares);
                return;
            }
            shares[p.Surface] += covers * open;
            open *= 1 - covers;
            if (covers >= 1)
                return;
        }
        shares[ground] += open;
    }

    private static void Sample(Paint[] paints, int ground, double x, double y, double r, Span<double> shares)
    {
        shares.Clear();
        const double each = 1.0 / 96;
        foreach (var (dx, dy) in Points)
            shares[Top(paints, ground, x + dx * r, y + dy * r)] += each;
    }

    /// <summary>The surface at a point.</summary>
    public static int Top(Paint[] paints, int ground, double x, double y)
    {
        for (var i = paints.Length - 1; i >= 0; i--)
            if (!paints[i].Far(x, y, 0) && paints[i].Outside(x, y) <= 0)
                return paints[i].Surface;
        return ground;
    }
}
