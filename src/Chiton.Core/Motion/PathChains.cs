using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>A move of a chain.</summary>
/// <param name="Kind">straight or turn.</param>
/// <param name="Amount">Of a straight mm, negative for back; of a turn robot degrees, right positive.</param>
/// <param name="ByHand">True when a person ends it: their reaction time counts.</param>
public sealed record ChainMove(string? Kind, double? Amount, bool ByHand = false);

/// <summary>Where the chain is to end.</summary>
/// <param name="XMm">Forward of the start, mm; where the moves lead when left out.</param>
/// <param name="YMm">To the right of it, mm; likewise.</param>
/// <param name="RadiusMm">How far off still counts, mm.</param>
public sealed record ChainTarget(double? XMm, double? YMm, double? RadiusMm);

/// <summary>What a copy knows of its moves.</summary>
/// <param name="WheelMm">Effective wheel diameter, mm.</param>
/// <param name="TrackMm">Effective track width, mm.</param>
/// <param name="VeerDegPerM">Veer, degrees a metre.</param>
/// <param name="StartSdMm">SD of where it is put down, mm.</param>
/// <param name="StartHeadingSdDeg">SD of how it is put down, degrees.</param>
/// <param name="SpeedMmPerS">Speed of straights, mm/s, for moves that a hand ends.</param>
/// <param name="TurnRateDegPerS">Rate of turns, degrees a second, for the same.</param>
/// <param name="ReactionSdS">How much a person's reaction time varies, s.</param>
/// <param name="TrackByTurns">True when the track width was worked out through the wheel, so that a wheel that is off turns the robot no
/// wrong: what its turns need was found by turning.</param>
public sealed record ChainKnows(
    Quantity WheelMm,
    Quantity TrackMm,
    Quantity VeerDegPerM,
    double StartSdMm,
    double StartHeadingSdDeg,
    double SpeedMmPerS,
    double TurnRateDegPerS,
    double ReactionSdS,
    bool TrackByTurns = false
)
{
    /// <summary>What a copy knows of a mechanism's moves; null where it does not drive about, or wheel or track are not
    /// known.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="speedMmPerS">Speed of straights, above 0 to 10 000; the usual when left out.</param>
    /// <param name="turnRateDegPerS">Rate of turns, above 0 to 10 000; 90 when left out.</param>
    /// <param name="reactionSdS">SD of a person's reaction time, 0 to 10 s; 0.07 when left out.</param>
    /// <exception cref="InputProblem">When one of these is out of its range.</exception>
    public static ChainKnows? Of(
        RigDesign rig,
        CopyMoves moves,
        Mechanism m,
        double? speedMmPerS = null,
        double? turnRateDegPerS = null,
        double? reactionSdS = null
    )
    {
        if (m.Facts.Going != Going.Steered)
            return null;
        var wheel = moves.InUse(m.Name, TrialKind.Straight) ?? m.WheelDiameterMm;
        var byTurns = moves.TrackByTurns(m.Name);
        var track = byTurns ?? moves.InUse(m.Name, TrialKind.Turn) ?? m.TrackWidthMm;
        if (wheel is null or { Value: <= 0 } || track is null or { Value: <= 0 })
            return null;
        // What can be told no degrees moves by the clock: its ways and turns are known as well as their seconds.
        if (moves.Plans.All(p => p.Mechanism != m.Name || p.Kind != TrialKind.Straight))
        {
            wheel = ByTheClock(moves, m, TrialKind.TimedWay, wheel);
            track = ByTheClock(moves, m, TrialKind.TimedTurn, track);
        }
        // A number that was never tried says nothing of how moves differ: a hundredth is usual.
        static Quantity Spread(Quantity q) => q.MoveSd > 0 ? q : q with { MoveSd = 0.01 * q.Value };
        var need = new Require();
        var speed = need.Optional(speedMmPerS, "speedMmPerS", 0, 1e4, true) ?? MoveNumbers.UsualSpeed;
        var rate = need.Optional(turnRateDegPerS, "turnRateDegPerS", 0, 1e4, true) ?? 90;
        var reaction = need.Optional(reactionSdS, "reactionSdS", 0, 10) ?? 0.07;
        need.Done();
        var start = rig.Starts.FirstOrDefault();
        return new(
            Spread(wheel),
            Spread(track),
            moves.InUse(m.Name, TrialKind.Veer)
                ?? new Quantity(0, "deg/m", Provenance.Guessed, "not tried; straight is a guess", 0, 1, 9, -90, 90),
            start is null ? 5 : Math.Max(start.AtMm.MoveSd, start.RightMm?.MoveSd ?? 0),
            start?.HeadingDeg?.MoveSd ?? 1.5,
            speed,
            rate,
            reaction,
            byTurns is not null
        );
    }

    private static Quantity ByTheClock(CopyMoves moves, Mechanism m, TrialKind kind, Quantity length) =>
        moves.Plans.Where(p => p.Mechanism == m.Name && p.Kind == kind).Select(moves.Measured).FirstOrDefault(q => q is { Value: > 0 })
            is { } seconds
            ? length with
            {
                Kind = seconds.Kind,
                Source = seconds.Source,
                MeanSd = seconds.MeanSd / seconds.Value * length.Value,
                MoveSd = seconds.MoveSd / seconds.Value * length.Value,
                Span = 0,
            }
            : length;
}

/// <summary>One source of error at the end.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Move">Which move, counting from 0; null when it belongs to all of them.</param>
/// <param name="SdMm">What it adds at the end, SD in mm.</param>
/// <param name="Trial">Kind of trial that would make it smaller; null when none would.</param>
public sealed record ChainSource(string Name, int? Move, double SdMm, TrialKind? Trial);

/// <summary>What better knowledge of a number would give.</summary>
/// <param name="Number">The number.</param>
/// <param name="Trial">Kind of trial that finds it.</param>
/// <param name="HitShare">Share of ends in the target then, 0 to 1.</param>
/// <param name="Say">In a sentence.</param>
public sealed record ChainGain(string Number, TrialKind Trial, double HitShare, string Say);

/// <summary>Where a chain ends.</summary>
/// <param name="Path">The sum <c>path-error</c> with what is independent from move to move.</param>
/// <param name="SdXMm">SD forward with everything in it, mm.</param>
/// <param name="SdYMm">SD to the right, mm.</param>
/// <param name="CovarianceMm2">Their covariance, mm².</param>
/// <param name="SdHeadingDeg">SD of the heading, degrees.</param>
/// <param name="TargetXMm">Target, forward, mm.</param>
/// <param name="TargetYMm">Target, to the right, mm.</param>
/// <param name="RadiusMm">Its radius, mm.</param>
/// <param name="HitShare">Share of ends within the target, 0 to 1.</param>
/// <param name="Sources">Sources of error, the worst first.</param>
/// <param name="WorstMove">The move that harms most, counting from 0; null when none does.</param>
/// <param name="Gains">What better numbers would give, the best first.</param>
/// <param name="Verdict">Is it good enough?</param>
/// <param name="MoveInputs">The inputs of <c>path-error</c>, to open it in Bench sums.</param>
public sealed record ChainResult(
    PathErrorResult Path,
    double SdXMm,
    double SdYMm,
    double CovarianceMm2,
    double SdHeadingDeg,
    double TargetXMm,
    double TargetYMm,
    double RadiusMm,
    double HitShare,
    IReadOnlyList<ChainSource> Sources,
    int? WorstMove,
    IReadOnlyList<ChainGain> Gains,
    Verdict Verdict,
    IReadOnlyList<PathMove> MoveInputs
);

/// <summary>Chains of moves by what a copy knows.</summary>
public static class PathChains
{
    /// <summary>Most moves.</summary>
    public const int MostMoves = 60;

    private const double Rad = Math.PI / 180;

    /// <summary>
    /// Works a chain out. What varies from move to move adds up in quadrature; what is wrong with a number is wrong in
    /// every move alike and adds up with its sign, so a square hides a wheel diameter and shows a track width.
    /// Source: propagation of error, first order.
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static ChainResult Compute(IReadOnlyList<ChainMove>? moves, ChainTarget? target, ChainKnows knows)
    {
        var need = new Require();
        var given = moves ?? [];
        need.That(given.Count is >= 1 and <= MostMoves, "moves", $"Give 1 to {MostMoves} moves.");
        for (var i = 0; i < Math.Min(given.Count, MostMoves); i++)
        {
            var m = given[i];
            if (m is null || m.Kind is not ("straight" or "turn"))
            {
                need.That(false, m is null ? $"moves[{i}]" : $"moves[{i}].kind", "Must be straight or turn.");
                continue;
            }
            need.Number(m.Amount, $"moves[{i}].amount", m.Kind == "straight" ? -1e5 : -3600, m.Kind == "straight" ? 1e5 : 3600);
        }
        var radius = need.Number(target?.RadiusMm ?? 30, "target.radiusMm", 0, 1e5, aboveMin: true);
        var tx = need.Optional(target?.XMm, "target.xMm", -1e6, 1e6);
        var ty = need.Optional(target?.YMm, "target.yMm", -1e6, 1e6);
        need.Done();
        var worked = Work(given, knows);
        var (x, y) = (tx ?? worked.X, ty ?? worked.Y);
        var share = Inside(worked.X - x, worked.Y - y, worked.Vx, worked.Vy, worked.Cxy, radius);
        // What it would be if a number were known as well as its trials can make it.
        var gains = new List<ChainGain>();
        void Better(string name, TrialKind trial, ChainKnows with)
        {
            var w = Work(given, with);
            var then = Inside(w.X - x, w.Y - y, w.Vx, w.Vy, w.Cxy, radius);
            if (then > share + 0.005)
                gains.Add(
                    new(
                        name,
                        trial,
                        then,
                        $"With the {name} known by trials, {Percent(then)} of the ends would lie in the target instead of {Percent(share)}."
                    )
                );
        }
        static Quantity Known(Quantity q, double sd) => q with { Kind = Provenance.Measured, MeanSd = Math.Min(q.BetweenRunsSd, sd) };
        Better("wheel diameter", TrialKind.Straight, knows with { WheelMm = Known(knows.WheelMm, 0.0025 * knows.WheelMm.Value) });
        Better("track width", TrialKind.Turn, knows with { TrackMm = Known(knows.TrackMm, 0.005 * knows.TrackMm.Value) });
        Better("veer", TrialKind.Veer, knows with { VeerDegPerM = Known(knows.VeerDegPerM, 0.25) });
        gains = [.. gains.OrderByDescending(g => g.HitShare)];
        int? worst = null;
        var byMove = worked
            .Sources.Where(s => s.Move is not null)
            .GroupBy(s => s.Move!.Value)
            .Select(g => (Move: g.Key, Sum: g.Sum(s => s.SdMm * s.SdMm)))
            .ToArray();
        if (byMove.Length > 0 && byMove.Max(b => b.Sum) > 0)
            worst = byMove.MaxBy(b => b.Sum).Move;
        var lead = worked.Sources.FirstOrDefault(s => s.SdMm > 0);
        var off = Math.Sqrt((worked.X - x) * (worked.X - x) + (worked.Y - y) * (worked.Y - y));
        var why =
            off > radius ? $"The moves lead {Show(off, 3)} mm beside the target, whatever the spread."
            : lead is null ? ""
            : $"Most of the error is {lead.Name}{(lead.Move is { } at ? $" of move {at + 1}" : "")}: {Show(lead.SdMm, 2)} mm.";
        var verdict =
            share >= 0.98 ? new Verdict(Grade.Solid, $"{Percent(share)} of the ends lie in the target. {why}")
            : share >= 0.9 ? new Verdict(Grade.Workable, $"{Percent(share)} of the ends lie in the target. {why}")
            : share >= 0.6
                ? new Verdict(
                    Grade.Fragile,
                    $"Only {Percent(share)} of the ends lie in the target. {why} Sense something on the way, or know the number better."
                )
            : new Verdict(Grade.Unusable, $"Only {Percent(share)} of the ends lie in the target. {why} End the last move by a sensor.");
        var inputs = Inputs(given, knows);
        var path = PathError.Compute(new(inputs, knows.StartSdMm, knows.StartHeadingSdDeg)).Result;
        return new(
            path,
            Math.Sqrt(worked.Vx),
            Math.Sqrt(worked.Vy),
            worked.Cxy,
            worked.Heading,
            x,
            y,
            radius,
            share,
            worked.Sources,
            worst,
            gains,
            verdict,
            inputs
        );
    }

    private static string Percent(double share) =>
        share > 0.995 ? "more than 99 of 100"
        : share < 0.005 ? "fewer than 1 of 100"
        : $"{Math.Round(100 * share)} of 100";

    /// <summary>SD between straights as a share of the way, and between turns as a share of the angle.</summary>
    private static double Slip(Quantity q) => q.Value == 0 ? 0 : q.MoveSd / Math.Abs(q.Value);

    private static IReadOnlyList<PathMove> Inputs(IReadOnlyList<ChainMove> moves, ChainKnows k) =>
        [
            .. moves.Select(m =>
                m.Kind == "straight"
                    ? new PathMove(
                        "straight",
                        m.Amount,
                        Quad(Slip(k.WheelMm) * m.Amount!.Value, m.ByHand ? k.SpeedMmPerS * k.ReactionSdS : 0),
                        k.VeerDegPerM.MoveSd
                    )
                    : new PathMove(
                        "turn",
                        TurnDeg: m.Amount,
                        TurnSdDeg: Quad(
                            Quad(Slip(k.TrackMm), Slip(k.WheelMm)) * m.Amount!.Value,
                            m.ByHand ? k.TurnRateDegPerS * k.ReactionSdS : 0
                        )
                    )
            ),
        ];

    private static double Quad(double a, double b) => Math.Sqrt(a * a + b * b);

    private sealed record Worked(double X, double Y, double Vx, double Vy, double Cxy, double Heading, IReadOnlyList<ChainSource> Sources);

    private static Worked Work(IReadOnlyList<ChainMove> moves, ChainKnows k)
    {
        var inputs = Inputs(moves, k);
        var (x, y, heading) = End(moves, 1, 1, k.VeerDegPerM.Value);
        var sources = new List<(ChainSource Source, double Dx, double Dy, double Dh)>();
        void Add(string name, int? move, double dx, double dy, double dh, TrialKind? trial) =>
            sources.Add((new(name, move, Quad(dx, dy), trial), dx, dy, dh));
        // Poses with the mean veer in them, so that each error is carried to the end from where it happens.
        var poses = Poses(moves, 1, 1, k.VeerDegPerM.Value);
        for (var i = 0; i < moves.Count; i++)
        {
            var (from, to) = (poses[i], poses[i + 1]);
            if (moves[i].Kind == "turn")
            {
                var sd = inputs[i].TurnSdDeg!.Value * Rad;
                Add("turning", i, -(y - to.Y) * sd, (x - to.X) * sd, sd / Rad, null);
                continue;
            }
            var way = inputs[i].DistanceSdMm!.Value;
            Add(moves[i].ByHand ? "the hand that ends it" : "slip", i, Math.Cos(from.H * Rad) * way, Math.Sin(from.H * Rad) * way, 0, null);
            var bent = k.VeerDegPerM.MoveSd * Math.Abs(moves[i].Amount!.Value) / 1000 * Rad;
            Add("veer from move to move", i, -(y - (from.Y + to.Y) / 2) * bent, (x - (from.X + to.X) / 2) * bent, bent / Rad, null);
        }
        // A wrong number shifts every move alike: its effect is the difference it makes to the whole chain.
        const double step = 1e-4;
        void Common(string name, double share, Func<double, (double X, double Y, double H)> end, TrialKind trial)
        {
            var (a, b) = (end(-step), end(step));
            Add(name, null, (b.X - a.X) / (2 * step) * share, (b.Y - a.Y) / (2 * step) * share, (b.H - a.H) / (2 * step) * share, trial);
        }
        // Both a distance and a turn come out in proportion to the wheel; a turn in inverse proportion to the track. Where the track was
        // found by turning, only their ratio counts for a turn, and that is known by itself.
        Common(
            "wheel diameter",
            k.WheelMm.BetweenRunsSd / k.WheelMm.Value,
            s => End(moves, 1 + s, k.TrackByTurns ? 1 : 1 + s, k.VeerDegPerM.Value),
            TrialKind.Straight
        );
        Common(
            "track width",
            k.TrackMm.BetweenRunsSd / k.TrackMm.Value,
            s => End(moves, 1, 1 / (1 + s), k.VeerDegPerM.Value),
            TrialKind.Turn
        );
        Common("veer", k.VeerDegPerM.BetweenRunsSd, s => End(moves, 1, 1, k.VeerDegPerM.Value + s), TrialKind.Veer);
        Add("where it is put down", null, k.StartSdMm, 0, 0, null);
        Add("where it is put down", null, 0, k.StartSdMm, 0, null);
        Add("how it is put down", null, -y * k.StartHeadingSdDeg * Rad, x * k.StartHeadingSdDeg * Rad, k.StartHeadingSdDeg, null);
        double vx = sources.Sum(s => s.Dx * s.Dx),
            vy = sources.Sum(s => s.Dy * s.Dy),
            vh = sources.Sum(s => s.Dh * s.Dh),
            cxy = sources.Sum(s => s.Dx * s.Dy);
        var told = sources
            .GroupBy(s => (s.Source.Name, s.Source.Move))
            .Select(g => g.First().Source with { SdMm = Math.Sqrt(g.Sum(s => s.Dx * s.Dx + s.Dy * s.Dy)) })
            .OrderByDescending(s => s.SdMm)
            .ToArray();
        return new(x, y, vx, vy, cxy, Math.Sqrt(vh), told);
    }

    private static (double X, double Y, double H) End(IReadOnlyList<ChainMove> moves, double wayScale, double turnScale, double veer) =>
        Poses(moves, wayScale, turnScale, veer)[^1];

    private static (double X, double Y, double H)[] Poses(IReadOnlyList<ChainMove> moves, double wayScale, double turnScale, double veer)
    {
        double x = 0,
            y = 0,
            h = 0;
        var poses = new (double, double, double)[moves.Count + 1];
        for (var i = 0; i < moves.Count; i++)
        {
            var amount = moves[i].Amount!.Value;
            if (moves[i].Kind == "turn")
                h += amount * turnScale;
            else
            {
                var way = amount * wayScale;
                var bend = veer * Math.Abs(way) / 1000;
                x += way * Math.Cos((h + bend / 2) * Rad);
                y += way * Math.Sin((h + bend / 2) * Rad);
                h += bend;
            }
            poses[i + 1] = (x, y, h);
        }
        return poses;
    }

    /// <summary>
    /// The share of a two-dimensional normal distribution within a circle: along the longer axis of its ellipse by
    /// Simpson's rule, across it by the normal distribution itself.
    /// </summary>
    /// <param name="dx">Middle of the distribution from the middle of the circle, mm.</param>
    /// <param name="dy">The same, square to it.</param>
    /// <param name="vx">Variance, mm².</param>
    /// <param name="vy">Variance, mm².</param>
    /// <param name="cxy">Covariance, mm².</param>
    /// <param name="radius">Of the circle, mm.</param>
    public static double Inside(double dx, double dy, double vx, double vy, double cxy, double radius)
    {
        var mean = (vx + vy) / 2;
        var half = Math.Sqrt(Math.Pow((vx - vy) / 2, 2) + cxy * cxy);
        var angle = 0.5 * Math.Atan2(2 * cxy, vx - vy);
        // In the axes of the ellipse.
        var (u, v) = (dx * Math.Cos(angle) + dy * Math.Sin(angle), -dx * Math.Sin(angle) + dy * Math.Cos(angle));
        var (a, b) = (Math.Sqrt(mean + half), Math.Sqrt(Math.Max(0, mean - half)));
        if (a < 1e-9)
            return u * u + v * v <= radius * radius ? 1 : 0;
        double Across(double p)
        {
            var reach = Math.Sqrt(Math.Max(0, radius * radius - p * p));
            if (b < 1e-9)
                return Math.Abs(v) <= reach ? 1 : 0;
            return MathNet.Numerics.Distributions.Normal.CDF(0, 1, (reach - v) / b)
                - MathNet.Numerics.Distributions.Normal.CDF(0, 1, (-reach - v) / b);
        }
        // The part of the circle where the distribution is.
        var (from, to) = (Math.Max(-radius, u - 8 * a), Math.Min(radius, u + 8 * a));
        if (to <= from)
            return 0;
        const int n = 400;
        var h = (to - from) / n;
        var sum = 0.0;
        for (var i = 0; i <= n; i++)
        {
            var p = from + i * h;
            var z = (p - u) / a;
            sum +=
                (
                    i is 0 or n ? 1
                    : i % 2 == 1 ? 4
                    : 2
                )
                * Math.Exp(-z * z / 2)
                / (a * Math.Sqrt(2 * Math.PI))
                * Across(p);
        }
        return Math.Clamp(sum * h / 3, 0, 1);
    }
}
