using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>Input of the sum <c>load-seat</c>.</summary>
/// <param name="ForkLengthMm">Length of the fork, mm.</param>
/// <param name="SeatGapMm">Gap from the fork's heel to the load, mm.</param>
/// <param name="LoadDepthMm">Depth of the load along the fork, mm.</param>
/// <param name="HeelAheadMm">Heel of the fork ahead of the turning axis, mm.</param>
/// <param name="FrictionCoefficient">Friction between load and fork.</param>
/// <param name="GripExtraMPerS2">What a grip adds, m/s²; 0 when left out.</param>
/// <param name="LoadHeightMm">Height of the load, mm; 0 when left out: flat enough not to tip.</param>
/// <param name="LoadBaseMm">Its base along the way, mm; asked for with a height.</param>
public sealed record LoadSeatInput(
    double? ForkLengthMm,
    double? SeatGapMm,
    double? LoadDepthMm,
    double? HeelAheadMm,
    double? FrictionCoefficient,
    double? GripExtraMPerS2 = null,
    double? LoadHeightMm = null,
    double? LoadBaseMm = null
);

/// <summary>Result of the sum <c>load-seat</c>.</summary>
/// <param name="OverlapMm">Length of fork under the load, mm.</param>
/// <param name="TippingMarginMm">From the load's middle to the fork's tip, mm; negative when it tips.</param>
/// <param name="LoadRadiusMm">From the turning axis to the load's middle, mm.</param>
/// <param name="MaxAccelMPerS2">Greatest start and braking, m/s²: before it slides, or a tall load tips. A lift straight up slides
/// nothing.</param>
/// <param name="MaxTurnRateDegPerS">Fastest turn, degrees a second.</param>
public sealed record LoadSeatResult(
    double OverlapMm,
    double TippingMarginMm,
    double LoadRadiusMm,
    double MaxAccelMPerS2,
    double MaxTurnRateDegPerS
);

/// <summary>Where a load sits on the fork, and what that allows.</summary>
public static class LoadSeat
{
    /// <summary>Computes the sum. Source: balance about the tip; friction holds against v²/r; a load tips about its edge when
    /// a·height is more than g·base.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<LoadSeatResult> Compute(LoadSeatInput input)
    {
        var need = new Require();
        var fork = need.Number(input.ForkLengthMm, "forkLengthMm", 0, 1e5, aboveMin: true);
        var gap = need.Number(input.SeatGapMm, "seatGapMm", 0, 1e5);
        var depth = need.Number(input.LoadDepthMm, "loadDepthMm", 0, 1e5, aboveMin: true);
        var heel = need.Number(input.HeelAheadMm, "heelAheadMm", 0, 1e5);
        var mu = need.Number(input.FrictionCoefficient, "frictionCoefficient", 0, 10);
        var grip = need.Number(input.GripExtraMPerS2 ?? 0, "gripExtraMPerS2", 0, 1000);
        var height = need.Number(input.LoadHeightMm ?? 0, "loadHeightMm", 0, 1e5);
        var foot = need.Number(input.LoadBaseMm ?? 0, "loadBaseMm", 0, 1e5);
        if (need.Holds)
            need.That(height == 0 || foot > 0, "loadBaseMm", "Give the base of a load that has a height: more than 0.");
        need.Done();
        var overlap = Math.Max(0, Math.Min(depth, fork - gap));
        var margin = fork - gap - depth / 2;
        var radius = heel + gap + depth / 2;
        var slides = mu * 9.81 + grip;
        double? tips = height > 0 ? 9.81 * foot / height : null;
        var accel = Math.Min(slides, tips ?? slides);
        var rate = Math.Sqrt(accel / (radius / 1000)) * 180 / Math.PI;
        var (grade, say) =
            margin <= 0 ? (Grade.Unusable, "The load's middle lies beyond the tip: it tips off. Drive farther in.")
            : margin < depth / 8 ? (Grade.Fragile, $"Only {Show(margin, 2)} mm are left before it tips: drive farther in.")
            : overlap < depth ? (Grade.Workable, $"{Show(depth - overlap, 2)} mm of the load stand out over the tip.")
            : (Grade.Solid, $"It sits with {Show(margin, 3)} mm to spare.");
        return new(
            new(overlap, margin, radius, accel, rate),
            [
                new("Fork under the load", $"the lesser of {Show(depth)} and {Show(fork)} − {Show(gap)}", overlap, "mm"),
                new("From its middle to the tip", $"{Show(fork)} − {Show(gap)} − {Show(depth)} / 2", margin, "mm"),
                new("From the turning axis to its middle", $"{Show(heel)} + {Show(gap)} + {Show(depth)} / 2", radius, "mm"),
                new("Friction holds up to", $"{Show(mu)} × 9.81 + {Show(grip)}", slides, "m/s²"),
                .. tips is { } tall
                    ? [new Step("It tips from", $"9.81 × {Show(foot)} / {Show(height)}", tall, "m/s²")]
                    : Array.Empty<Step>(),
                new("Fastest turn", $"√({Show(accel)} / {Show(radius / 1000)} m), in degrees", rate, "deg/s"),
            ],
            [
                "Stopping earlier seats the load nearer the tip: less margin and a slower turn.",
                .. tips < slides
                    ? ["It is tall: it tips before it slides. Lay it down, or start and brake gently."]
                    : Array.Empty<string>(),
            ],
            new(grade, say)
        );
    }
}

/// <summary>A step of a branch.</summary>
/// <param name="Label">What it is.</param>
/// <param name="Seconds">How long it takes, s.</param>
/// <param name="Repeats">How often; 1 when left out.</param>
public sealed record BranchStep(string? Label, double? Seconds, double? Repeats = null);

/// <summary>Steps in a row.</summary>
/// <param name="Name">Name of the branch.</param>
/// <param name="Steps">Its steps.</param>
public sealed record Branch(string? Name, IReadOnlyList<BranchStep>? Steps);

/// <summary>Input of the sum <c>branches</c>.</summary>
/// <param name="Branches">Branches that start together.</param>
public sealed record BranchesInput(IReadOnlyList<Branch>? Branches);

/// <summary>How long a branch takes and how long it then waits.</summary>
public sealed record BranchTotal(string Name, double Seconds, double IdleS);

/// <summary>Result of the sum <c>branches</c>.</summary>
/// <param name="Totals">One a branch.</param>
/// <param name="Longest">The branch that takes longest.</param>
public sealed record BranchesResult(IReadOnlyList<BranchTotal> Totals, string Longest);

/// <summary>Things that happen side by side, and who waits for whom.</summary>
public static class Branches
{
    /// <summary>Computes the sum. Source: addition.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite or out of range.</exception>
    public static Answer<BranchesResult> Compute(BranchesInput input)
    {
        var need = new Require();
        var given = input.Branches ?? [];
        need.That(given.Count is >= 1 and <= 50, "branches", "Give 1 to 50 branches.");
        var sums = new List<(string Name, double Seconds)>();
        var steps = new List<Step>();
        for (var i = 0; i < Math.Min(given.Count, 50); i++)
        {
            var b = given[i];
            var at = $"branches[{i}]";
            need.That(!string.IsNullOrWhiteSpace(b?.Name), $"{at}.name", "Give the branch a name.");
            need.That(b?.Steps is { Count: >= 1 and <= 1000 }, $"{at}.steps", "Give 1 to 1000 steps.");
            double sum = 0;
            var parts = new List<string>();
            for (var k = 0; k < Math.Min(b?.Steps?.Count ?? 0, 1000); k++)
            {
                var s = b!.Steps![k];
                if (s is null)
                {
                    need.That(false, $"{at}.steps[{k}]", "Give a step.");
                    continue;
                }
                var seconds = need.Number(s.Seconds, $"{at}.steps[{k}].seconds", 0, 1e7);
                var repeats = need.Whole(s.Repeats ?? 1, $"{at}.steps[{k}].repeats", 0, 1_000_000);
                sum += seconds * repeats;
                if (parts.Count < 12)
                    parts.Add(repeats == 1 ? Show(seconds) : $"{repeats} × {Show(seconds)}");
            }
            sums.Add((b?.Name ?? "", sum));
            steps.Add(new(b?.Name ?? "", string.Join(" + ", parts) + ((b?.Steps?.Count ?? 0) > 12 ? " + …" : ""), sum, "s"));
        }
        need.That(sums.Select(s => s.Name).Distinct().Count() == sums.Count, "branches", "Give each branch a name of its own.");
        need.Done();
        var longest = sums.MaxBy(s => s.Seconds);
        string[] waits =
        [
            .. sums.Select(s => (s.Name, Seconds: longest.Seconds - s.Seconds))
                .Where(s => s.Seconds > 0.05)
                .Select(s => $"{s.Name} waits {Show(s.Seconds, 3)} s"),
        ];
        string[] cautions =
            waits.Length == 0
                ? []
                :
                [
                    $"They do not end together: {string.Join(", ", waits)}. If they are meant to, lengthen the shorter or let them end "
                        + "with their state.",
                ];
        return new(
            new([.. sums.Select(s => new BranchTotal(s.Name, s.Seconds, longest.Seconds - s.Seconds))], longest.Name),
            steps,
            cautions,
            null
        );
    }
}
