namespace Chiton.Core.Simulation.Ground;

/// <summary>Plane geometry: lengths in mm, angles in radians, x to the right and y up.</summary>
public static class Shape
{
    /// <summary>How far a point lies from a segment.</summary>
    public static double ToSegment(double x, double y, double ax, double ay, double bx, double by)
    {
        double dx = bx - ax,
            dy = by - ay;
        var length = dx * dx + dy * dy;
        var t = length <= 0 ? 0 : Math.Clamp(((x - ax) * dx + (y - ay) * dy) / length, 0, 1);
        double ex = x - ax - t * dx,
            ey = y - ay - t * dy;
        return Math.Sqrt(ex * ex + ey * ey);
    }

    /// <summary>How far a point lies outside of a rectangle; negative inside, by how far its nearest edge is.</summary>
    /// <param name="x">Point.</param>
    /// <param name="y">Point.</param>
    /// <param name="cx">Middle.</param>
    /// <param name="cy">Middle.</param>
    /// <param name="halfW">Half its width.</param>
    /// <param name="halfD">Half its depth.</param>
    /// <param name="sin">Sine of how far it is turned clockwise.</param>
    /// <param name="cos">Cosine of that.</param>
    public static double ToBox(double x, double y, double cx, double cy, double halfW, double halfD, double sin, double cos)
    {
        double px = x - cx,
            py = y - cy;
        // Turned clockwise by t, its own axes are (cos t, −sin t) and (sin t, cos t).
        var u = Math.Abs(px * cos - py * sin) - halfW;
        var v = Math.Abs(px * sin + py * cos) - halfD;
        return u > 0 && v > 0 ? Math.Sqrt(u * u + v * v) : Math.Max(u, v);
    }

    /// <summary>Where a ray from a point meets a segment: how far along the ray; infinity when it does not.</summary>
    public static double Ray(double x, double y, double dx, double dy, double ax, double ay, double bx, double by)
    {
        double ex = bx - ax,
            ey = by - ay;
        var cross = dx * ey - dy * ex;
        if (Math.Abs(cross) < 1e-12)
            return double.PositiveInfinity;
        double px = ax - x,
            py = ay - y;
        var along = (px * ey - py * ex) / cross;
        var share = (px * dy - py * dx) / cross;
        return along >= 0 && share is >= 0 and <= 1 ? along : double.PositiveInfinity;
    }

    /// <summary>Where a ray of unit length meets a disc from outside: how far along it; infinity when it does not.</summary>
    public static double RayDisc(double x, double y, double dx, double dy, double cx, double cy, double r)
    {
        double px = cx - x,
            py = cy - y;
        var b = px * dx + py * dy;
        var c = px * px + py * py - r * r;
        if (c <= 0)
            return 0;
        var disc = b * b - c;
        return b <= 0 || disc < 0 ? double.PositiveInfinity : b - Math.Sqrt(disc);
    }

    /// <summary>Share of a round spot that lies beyond a straight edge. Source: area of a circular segment.</summary>
    /// <param name="z">How far its middle lies beyond the edge, in radii: −1 and less none of it, 1 and more all.</param>
    public static double SpotShare(double z) =>
        z <= -1 ? 0
        : z >= 1 ? 1
        : 0.5 + (z * Math.Sqrt(1 - z * z) + Math.Asin(z)) / Math.PI;
}
