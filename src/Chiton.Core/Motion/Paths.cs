using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>Input of the sum <c>move-end</c>.</summary>
/// <param name="DistanceMm">How far, mm.</param>
/// <param name="SpeedMmPerS">How fast, mm/s.</param>
/// <param name="SpeedSdPercent">How much the speed varies from move to move (SD), %.</param>
/// <param name="ResolutionMm">Way of one count, mm.</param>
/// <param name="SlipSdPercent">How much the wheels slip from move to move (SD), %.</param>
/// <param name="CoastSdMm">How much the way after stopping varies (SD), mm.</param>
/// <param name="SamplePeriodMs">Time between readings of the sensor, ms.</param>
/// <param name="NoiseSdMm">How much the place at which it notices varies (SD), mm.</param>
/// <param name="BrakeSdMm">How much braking varies (SD), mm.</param>
public sealed record MoveEndInput(
    double? DistanceMm,
    double? SpeedMmPerS,
    double? SpeedSdPercent,
    double? ResolutionMm,
    double? SlipSdPercent,
    double? CoastSdMm,
    double? SamplePeriodMs,
    double? NoiseSdMm,
    double? BrakeSdMm
);

/// <summary>Result of the sum <c>move-end</c>: SDs of where it ends.</summary>
/// <param name="TimedSdMm">Ended by time, mm.</param>
/// <param name="CountedSdMm">Ended by counting, mm.</param>
/// <param name="SensedSdMm">Ended by a sensor, mm.</param>
/// <param name="Best">timed, counted or sensed.</param>
public sealed record MoveEndResult(double TimedSdMm, double CountedSdMm, double SensedSdMm, string Best);

/// <summary>Timed, counted or sensed: how well a move can end.</summary>
public static class MoveEnd
{
    /// <summary>Computes the sum. Source: independent errors in quadrature; a rounded number varies by its step over √12.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<MoveEndResult> Compute(MoveEndInput input)
    {
        var need = new Require();
        var d = Math.Abs(need.Number(input.DistanceMm, "distanceMm", -1e7, 1e7));
        var v = need.Number(input.SpeedMmPerS, "speedMmPerS", 0, 1e6, aboveMin: true);
        var sv = need.Number(input.SpeedSdPercent, "speedSdPercent", 0, 1000) / 100;
        var q = need.Number(input.ResolutionMm, "resolutionMm", 0, 1e6);
        var slip = need.Number(input.SlipSdPercent, "slipSdPercent", 0, 1000) / 100;
        var coast = need.Number(input.CoastSdMm, "coastSdMm", 0, 1e6);
        var t = need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true) / 1000;
        var noise = need.Number(input.NoiseSdMm, "noiseSdMm", 0, 1e6);
        var brake = need.Number(input.BrakeSdMm, "brakeSdMm", 0, 1e6);
        need.Done();
        var timed = Math.Sqrt(d * sv * (d * sv) + coast * coast);
        var counted = Math.Sqrt(q * q / 12 + d * slip * (d * slip) + coast * coast);
        var sensed = Math.Sqrt(v * t * (v * t) / 12 + noise * noise + brake * brake);
        var best =
            sensed <= counted && sensed <= timed ? "sensed"
            : counted <= timed ? "counted"
            : "timed";
        return new(
            new(timed, counted, sensed, best),
            [
                new("Ended by time", $"√(({Show(d)} × {Show(sv)})² + {Show(coast)}²)", timed, "mm"),
                new("Ended by counting", $"√({Show(q)}²/12 + ({Show(d)} × {Show(slip)})² + {Show(coast)}²)", counted, "mm"),
                new("Ended by a sensor", $"√(({Show(v)} × {Show(t)})²/12 + {Show(noise)}² + {Show(brake)}²)", sensed, "mm"),
            ],
            [
                "By time: the battery sags, the wheels slip, and every percent of speed is a percent of the way.",
                counted == 0 ? "By counting: nothing spoils it in these numbers."
                : q / Math.Sqrt(12) >= Math.Max(d * slip, coast)
                    ? "By counting: here the coarseness of the count spoils it most; a missed count is never noticed."
                : d * slip >= coast ? "By counting: here the slip spoils it most; a missed count is never noticed."
                : "By counting: here the stop after the last count spoils it most; a missed count is never noticed.",
                v * t / Math.Sqrt(12) >= Math.Max(noise, brake)
                    ? "By a sensor: here the time between readings spoils it most; drive slower or read faster. Give it a time limit "
                        + "in case it never tells."
                : noise >= brake
                    ? "By a sensor: here the trembling of the reading spoils it most. Give it a time limit in case it never tells."
                : "By a sensor: here the brake spoils it most; come up slower. Give it a time limit in case it never tells.",
                "For servos and plain motors \"done\" is only an estimated time, so a move that ends so is a timed one.",
            ],
            null
        );
    }
}

/// <summary>A move of a path.</summary>
/// <param name="Kind">straight or turn.</param>
/// <param name="DistanceMm">Of a straight: how far, mm; negative for back.</param>
/// <param name="DistanceSdMm">Of a straight: SD of the distance, mm.</param>
/// <param name="VeerSdDegPerM">Of a straight: SD of the veer, degrees a metre.</param>
/// <param name="TurnDeg">Of a turn: robot degrees, right positive.</param>
/// <param name="TurnSdDeg">Of a turn: SD, degrees.</param>
public sealed record PathMove(
    string? Kind,
    double? DistanceMm = null,
    double? DistanceSdMm = null,
    double? VeerSdDegPerM = null,
    double? TurnDeg = null,
    double? TurnSdDeg = null
);

/// <summary>Input of the sum <c>path-error</c>.</summary>
/// <param name="Moves">Moves in order.</param>
/// <param name="StartSdMm">SD of the start, each way, mm; 0 when left out.</param>
/// <param name="StartHeadingSdDeg">SD of the heading at the start, degrees; 0 when left out.</param>
public sealed record PathErrorInput(IReadOnlyList<PathMove>? Moves, double? StartSdMm = null, double? StartHeadingSdDeg = null);

/// <summary>Result of the sum <c>path-error</c>: x forward of the start, y to its right.</summary>
/// <param name="EndXMm">Where it ends, forward, mm.</param>
/// <param name="EndYMm">Where it ends, to the right, mm.</param>
/// <param name="EndHeadingDeg">Which way it points then, right positive, degrees.</param>
/// <param name="SdXMm">SD forward, mm.</param>
/// <param name="SdYMm">SD to the right, mm.</param>
/// <param name="SdHeadingDeg">SD of the heading, degrees.</param>
/// <param name="WorstMove">Which move adds most to the error of the place, counting from 0; null when none adds any.</param>
public sealed record PathErrorResult(
    double EndXMm,
    double EndYMm,
    double EndHeadingDeg,
    double SdXMm,
    double SdYMm,
    double SdHeadingDeg,
    int? WorstMove
)
{
    /// <summary>Covariance of forward and right, mm²: with the SDs it gives the ellipse.</summary>
    public double CovarianceMm2 { get; init; }

    /// <summary>What each move adds to the variance of the place, mm², the start last.</summary>
    public IReadOnlyList<double> Shares { get; init; } = [];

    /// <summary>Where each move ends, for the picture: forward, right, heading.</summary>
    public IReadOnlyList<PathPose> Poses { get; init; } = [];
}

/// <summary>A pose on a path.</summary>
/// <param name="XMm">Forward, mm.</param>
/// <param name="YMm">To the right, mm.</param>
/// <param name="HeadingDeg">Right positive, degrees.</param>
public sealed record PathPose(double XMm, double YMm, double HeadingDeg);

/// <summary>Errors carried along a chain of moves.</summary>
public static class PathError
{
    /// <summary>Most moves.</summary>
    public const int MostMoves = 1000;

    /// <summary>
    /// Computes the sum by linear propagation. A veer of ε degrees a metre turns the heading by ε times the way, and
    /// shifts the end sideways by half of that angle times the way. Every error is carried to the end by the moves after
    /// it: an error of heading at a place shifts the end by that angle times the way still to go, square to it. Where the
    /// heading spreads by more than 5° a straight line is no longer good enough: the curve counts too, so that the mean end
    /// moves and the spread grows. Beyond 30° nothing is answered. Source: propagation of error, first order; then the moments of
    /// cosines of normal angles.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<PathErrorResult> Compute(PathErrorInput input)
    {
        var need = new Require();
        var given = input.Moves ?? [];
        need.That(given.Count is >= 1 and <= MostMoves, "moves", $"Give 1 to {MostMoves} moves.");
        var moves = new List<(bool Straight, double Size, double Sd, double Veer)>();
        for (var i = 0; i < Math.Min(given.Count, MostMoves); i++)
        {
            var m = given[i];
            var at = $"moves[{i}]";
            if (m?.Kind == "straight")
                moves.Add(
                    (
                        true,
                        need.Number(m.DistanceMm, $"{at}.distanceMm", -1e6, 1e6),
                        need.Number(m.DistanceSdMm, $"{at}.distanceSdMm", 0, 1e6),
                        need.Number(m.VeerSdDegPerM, $"{at}.veerSdDegPerM", 0, 1e4)
                    )
                );
            else if (m?.Kind == "turn")
                moves.Add(
                    (false, need.Number(m.TurnDeg, $"{at}.turnDeg", -1e5, 1e5), need.Number(m.TurnSdDeg, $"{at}.turnSdDeg", 0, 1e4), 0)
                );
            else
                need.That(false, m is null ? at : $"{at}.kind", "Must be straight or turn.");
        }
        var startSd = need.Number(input.StartSdMm ?? 0, "startSdMm", 0, 1e6);
        var startHeading = need.Number(input.StartHeadingSdDeg ?? 0, "startHeadingSdDeg", 0, 1e4);
        need.Done();

        const double rad = Math.PI / 180;
        double x = 0,
            y = 0,
            heading = 0;
        var poses = new List<PathPose> { new(0, 0, 0) };
        foreach (var (straight, size, _, _) in moves)
        {
            if (straight)
            {
                x += size * Math.Cos(heading * rad);
                y += size * Math.Sin(heading * rad);
            }
            else
                heading += size;
            poses.Add(new(x, y, heading));
        }
        // The heading only ever gets worse: where it passes what the sum can carry, that number is named.
        var known = startHeading * startHeading;
        need.That(startHeading <= MostHeadingSdDeg, "startHeadingSdDeg", TooWide);
        for (var i = 0; i < moves.Count && need.Holds; i++)
        {
            var (straight, size, sd, veer) = moves[i];
            var bent = straight ? veer * Math.Abs(size) / 1000 : sd;
            known += bent * bent;
            need.That(known <= MostHeadingSdDeg * MostHeadingSdDeg, $"moves[{i}].{(straight ? "veerSdDegPerM" : "turnSdDeg")}", TooWide);
        }
        need.Done();
        var curved = Math.Sqrt(known) > CurvedFromDeg;
        // Each source moves the end by (dx, dy) for one SD, and turns it by dθ.
        var sources = new List<(int Move, double Dx, double Dy, double Dh)>();
        void Turned(int move, double sdDeg, double fromX, double fromY) =>
            sources.Add((move, -(y - fromY) * sdDeg * rad, (x - fromX) * sdDeg * rad, sdDeg));
        for (var i = 0; i < moves.Count; i++)
        {
            var (straight, size, sd, veer) = moves[i];
            var (from, to) = (poses[i], poses[i + 1]);
            if (!straight)
            {
                Turned(i, sd, to.XMm, to.YMm);
                continue;
            }
            sources.Add((i, Math.Cos(from.HeadingDeg * rad) * sd, Math.Sin(from.HeadingDeg * rad) * sd, 0));
            // The veer acts as if the heading had turned half-way along.
            var bent = veer * Math.Abs(size) / 1000;
            Turned(i, bent, (from.XMm + to.XMm) / 2, (from.YMm + to.YMm) / 2);
        }
        sources.Add((-1, startSd, 0, 0));
        sources.Add((-1, 0, startSd, 0));
        Turned(-1, startHeading, 0, 0);
        double vx = sources.Sum(s => s.Dx * s.Dx),
            vy = sources.Sum(s => s.Dy * s.Dy),
            vh = sources.Sum(s => s.Dh * s.Dh),
            cxy = sources.Sum(s => s.Dx * s.Dy);
        if (curved)
        {
            (x, y, vx, vy, cxy) = Curved(moves, startSd, startHeading);
        }
        var shares = Enumerable
            .Range(0, moves.Count)
            .Append(-1)
            .Select(i => sources.Where(s => s.Move == i).Sum(s => s.Dx * s.Dx + s.Dy * s.Dy))
            .ToArray();
        int? worst = null;
        for (var i = 0; i < moves.Count; i++)
            if (shares[i] > 0 && (worst is null || shares[i] > shares[worst.Value]))
                worst = i;
        var steps = new List<Step>
        {
            new(
                "It ends, forward and to the right",
                curved
                    ? "every straight along its heading, less what turning about takes off on average"
                    : "every straight along its heading",
                null,
                $"{Show(x)}, {Show(y)} mm"
            ),
        };
        for (var i = 0; i < Math.Min(moves.Count, 40); i++)
            steps.Add(
                new(
                    $"Move {i + 1}, {(moves[i].Straight ? $"{Show(moves[i].Size)} mm straight" : $"turn {Show(moves[i].Size)}°")}, adds",
                    "root of its share",
                    Math.Sqrt(shares[i]),
                    "mm"
                )
            );
        steps.Add(new("The start adds", "root of its share", Math.Sqrt(shares[^1]), "mm"));
        steps.Add(new("Spread forward", "all in quadrature", Math.Sqrt(vx), "mm"));
        steps.Add(new("Spread to the right", "all in quadrature", Math.Sqrt(vy), "mm"));
        steps.Add(new("Spread of the heading", "all in quadrature", Math.Sqrt(vh), "deg"));
        var cautions = curved
            ? new[]
            {
                $"The heading spreads by {Show(Math.Sqrt(vh), 2)}°: the end lies on a curve, which the sum "
                    + "follows as far as the square of "
                    + "the angle. Sense something on the way.",
            }
            : [];
        return new(
            new(x, y, heading, Math.Sqrt(vx), Math.Sqrt(vy), Math.Sqrt(vh), worst)
            {
                CovarianceMm2 = cxy,
                Shares = shares,
                Poses = poses,
            },
            steps,
            cautions,
            null
        );
    }

    /// <summary>From this SD of the heading on the sum follows the curve, degrees.</summary>
    public const double CurvedFromDeg = 5;

    /// <summary>Greatest SD of the heading that is answered, degrees.</summary>
    public const double MostHeadingSdDeg = 30;

    private const string TooWide =
        "The heading would spread by more than 30°: it may point anywhere, and no sum tells where it ends. Sense something on the way.";

    // The mean and the covariance of the end over headings that spread as a bell curve, without any order left out: the mean of
    // cos(h + e) is cos h · exp(−Var e / 2), and products of cosines are sums of cosines.
    private static (double X, double Y, double Vx, double Vy, double Cxy) Curved(
        List<(bool Straight, double Size, double Sd, double Veer)> moves,
        double startSd,
        double startHeading
    )
    {
        const double rad = Math.PI / 180;
        // Each straight's heading, way and its variance; variance of the heading at its beginning and of the bend along it.
        var ways = new List<(double Heading, double Way, double Spread, double Before, double Bend)>();
        var heading = 0.0;
        var before = startHeading * rad * (startHeading * rad);
        foreach (var (straight, size, sd, veer) in moves)
        {
            if (!straight)
            {
                heading += size * rad;
                before += sd * rad * (sd * rad);
                continue;
            }
            var bend = veer * Math.Abs(size) / 1000 * rad;
            ways.Add((heading, size, sd * sd, before, bend * bend));
            before += bend * bend;
        }
        double mx = 0,
            my = 0,
            xx = 0,
            yy = 0,
            xy = 0;
        for (var i = 0; i < ways.Count; i++)
        {
            // A bend turns its own way by a half of it, and all later ways by the whole.
            var (h, way, spread, h0, bend) = ways[i];
            var own = h0 + bend / 4;
            var (mean, twice) = (Math.Exp(-own / 2), Math.Exp(-2 * own));
            mx += way * Math.Cos(h) * mean;
            my += way * Math.Sin(h) * mean;
            var square = way * way + spread;
            xx += square * (1 + Math.Cos(2 * h) * twice) / 2;
            yy += square * (1 - Math.Cos(2 * h) * twice) / 2;
            xy += square * Math.Sin(2 * h) * twice / 2;
            for (var j = i + 1; j < ways.Count; j++)
            {
                var (g, other, _, g0, otherBend) = ways[j];
                var together = 2 * (h0 + bend / 2);
                var each = own + g0 + otherBend / 4;
                var (apart, sum) = (Math.Exp(-(each - together) / 2), Math.Exp(-(each + together) / 2));
                // Both orders of the pair at once.
                var product = way * other;
                xx += product * (Math.Cos(h - g) * apart + Math.Cos(h + g) * sum);
                yy += product * (Math.Cos(h - g) * apart - Math.Cos(h + g) * sum);
                xy += product * Math.Sin(h + g) * sum;
            }
        }
        var start = startSd * startSd;
        // Rounding of large squares must not make a variance negative.
        return (mx, my, Math.Max(0, xx - mx * mx) + start, Math.Max(0, yy - my * my) + start, xy - mx * my);
    }
}
