using Chiton.Core.Quantities;
using MathNet.Numerics.Distributions;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>A trial as it was made.</summary>
/// <param name="Asked">What was asked, in the plan's ask unit.</param>
/// <param name="Commanded">What the controller was told, in the plan's command unit.</param>
/// <param name="Measured">What was measured, in the plan's happen unit.</param>
public sealed record Trial(double Asked, double Commanded, double Measured)
{
    /// <summary>What a board was told over its line, and what it counted; empty where no line was there.</summary>
    public string Told { get; init; } = "";

    /// <summary>True when that board was a box that stands in for the real thing.</summary>
    public bool FromBox { get; init; }
}

/// <summary>What trials say.</summary>
/// <param name="Number">The number they find; null before the first.</param>
/// <param name="Second">A second number they find at once, such as the veer of a closed square; null when there is none.</param>
/// <param name="NextCommand">What to tell the controller next for the target; null before the first trial.</param>
/// <param name="MeasuredLow">At that command at least this is likely (95 %); null below three trials.</param>
/// <param name="MeasuredHigh">At most this; null below three trials.</param>
/// <param name="Odd">Indices of trials far from the rest.</param>
/// <param name="Enough">True when more trials would hardly help.</param>
/// <param name="Say">What follows, in a sentence or two.</param>
public sealed record TrialFit(
    Quantity? Number,
    Quantity? Second,
    double? NextCommand,
    double? MeasuredLow,
    double? MeasuredHigh,
    IReadOnlyList<int> Odd,
    bool Enough,
    string Say
);

/// <summary>Trials of a rig's motions, fitted.</summary>
public static class Trials
{
    /// <summary>How well a number is to be known before trying stops: half of its 95 % interval, in its unit.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="number">The number.</param>
    public static double Wanted(TrialPlan plan, double number) =>
        plan.Kind switch
        {
            TrialKind.Straight => 0.005 * Math.Abs(number),
            TrialKind.Turn or TrialKind.Pivot or TrialKind.Square or TrialKind.Travel => 0.01 * Math.Abs(number),
            TrialKind.Speed or TrialKind.Duration => 0.02 * Math.Abs(number),
            TrialKind.Veer => 0.5,
            TrialKind.Hit or TrialKind.LetGo => 2,
            // In % of the reading for each m/s: what a sensor's own spread hides anyway.
            TrialKind.Tremble => Math.Max(3, 0.2 * Math.Abs(number)),
            _ => 0.05 * Math.Abs(number),
        };

    /// <summary>How well a number is known after five more trials: the SD of one trial, seen or else usual for its kind, over the root of
    /// their number.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="number">The number.</param>
    /// <param name="moveSd">SD from move to move as it is known; 0 where it is not.</param>
    /// <param name="made">Trials made before.</param>
    public static double After(TrialPlan plan, double number, double moveSd, int made) =>
        (made >= 3 && moveSd > 0 ? moveSd : Math.Max(moveSd, 2 * Wanted(plan, number))) / Math.Sqrt(made + 5);

    /// <summary>
    /// Fits trials. One or two say what they say and no more; three and more know their own spread. Sources: for a mean,
    /// Student's t with n − 1; for a line, the sum <c>drive-fit</c>; for a square, least squares in two unknowns.
    /// </summary>
    /// <param name="plan">The motion.</param>
    /// <param name="trials">Trials in the order made.</param>
    /// <param name="target">What is wanted next, in the plan's ask unit.</param>
    /// <param name="at">What else is known.</param>
    public static TrialFit Fit(TrialPlan plan, IReadOnlyList<Trial> trials, double target, TrialSetting at) =>
        trials.Count == 0
            ? new(null, null, null, null, null, [], false, "Not tried yet.")
            : plan.Family switch
            {
                TrialFamily.Line => Line(plan, trials, target),
                TrialFamily.Bracket => Bracket(plan, trials),
                TrialFamily.Square => Square(plan, trials, at),
                _ when plan.Kind == TrialKind.Straight && Apart(trials) => Straight(plan, trials, target),
                _ => Mean(plan, trials, target, at),
            };

    private static TrialFit Mean(TrialPlan plan, IReadOnlyList<Trial> trials, double target, TrialSetting at)
    {
        var numbers = trials.Select(t => TrialPlans.One(plan, t, at)).ToArray();
        double[] good = [.. numbers.OfType<double>()];
        if (good.Length == 0)
            return new(
                null,
                null,
                null,
                null,
                null,
                [],
                false,
                "It did not move as it was told: try something larger, or look at its direction."
            );
        var odd = Odd(numbers);
        var n = good.Length;
        var mean = good.Average();
        var unit = plan.NumberUnit;
        var wanted = Wanted(plan, mean);
        var next = TrialPlans.Command(plan, target, mean, at);
        if (n < 3)
        {
            // One or two trials cannot know their own spread: a usual one stands for it, and the source says so.
            var assumed = new Quantity(
                mean,
                unit,
                Provenance.Measured,
                $"{Count(n, "trial")} {plan.Where}, spread assumed",
                2 * wanted / Math.Sqrt(n),
                2 * wanted,
                0,
                double.MinValue
            );
            return new(
                assumed,
                null,
                next,
                null,
                null,
                odd,
                false,
                $"{(n == 1 ? "One trial" : "Two trials")} cannot tell a lucky one from a reliable one: make {3 - n} more."
            );
        }
        var sd = Math.Sqrt(good.Sum(v => (v - mean) * (v - mean)) / (n - 1));
        var error = sd / Math.Sqrt(n);
        // Few trials know their own spread badly: Student's t says how badly.
        var within = Claim(n - 1) * error;
        var enough = n >= LeastEnough && within <= wanted;
        var half = T(n - 1) * sd * Math.Sqrt(1 + 1.0 / n);
        double[] ends = [TrialPlans.Expect(plan, next, mean - half, at), TrialPlans.Expect(plan, next, mean + half, at)];
        // A spread as wide as the number itself has no sensible far end.
        var sensible = plan.Signed || half < 0.9 * mean;
        var more = 1;
        while (more < 500 && (n + more < LeastEnough || Claim(n + more - 1) * sd / Math.Sqrt(n + more) > wanted))
            more++;
        var known = plan.Signed ? $"± {Show(within, 2)} {unit}" : $"± {Show(100 * within / mean, 2)} %";
        var single = plan.Signed ? $"{Show(sd, 2)} {unit}" : $"{Show(100 * sd / mean, 2)} %";
        var say =
            odd.Count > 0
                ? $"{(odd.Count == 1 ? "One trial lies" : "Some trials lie")} far from the rest: look at "
                    + $"{(odd.Count == 1 ? "it" : "them")} before you trust this."
            : enough
                ? $"Enough: the {plan.Number} is {Show(mean)} {unit}, known to {known}. A single move varies by {single}, and no "
                    + "number cures that."
            : $"{Show(mean)} {unit}, known to {known} so far; about {Count(more, "more trial")} would do.";
        // One way alone cannot tell a wheel from what is rolled on after the stop.
        if (plan.Kind == TrialKind.Straight)
            say +=
                $" It holds at {Show(Math.Abs(trials[^1].Asked))} {plan.AskUnit} only: try {Show(Second(trials))} {plan.AskUnit} as well, "
                + "and what it rolls on after each stop shows.";
        return new(
            new(mean, unit, Provenance.Measured, $"{n} trials {plan.Where}", error, sd, 0, double.MinValue),
            null,
            next,
            sensible ? ends.Min() : null,
            sensible ? ends.Max() : null,
            odd,
            enough && odd.Count == 0,
            say
        );
    }

    // Ways that differ by a fifth and more tell a wheel from an overshoot.
    private static bool Apart(IReadOnlyList<Trial> trials)
    {
        var ways = trials.Select(t => Math.Abs(t.Commanded)).Where(c => c > 0).ToArray();
        return ways.Length >= 3 && ways.Max() >= 1.2 * ways.Min();
    }

    // A second way to try: half of the one there is, or twice it where half is short.
    private static double Second(IReadOnlyList<Trial> trials)
    {
        var way = Math.Abs(trials[^1].Asked);
        return way >= 300 ? Math.Round(way / 2) : Math.Round(way * 2);
    }

    // |way| = wheel's circumference × turns told + what it rolls on after the stop. A wheel slips in proportion to the way, so each trial
    // counts by the wheel that it gives by itself: z = D + over / x, a straight line in 1/x, by least squares.
    private static TrialFit Straight(TrialPlan plan, IReadOnlyList<Trial> trials, double target)
    {
        var rows = trials
            .Where(t => t.Commanded != 0)
            .Select(t => (U: 360 / (Math.PI * Math.Abs(t.Commanded)), Z: t.Measured * 360 / (Math.PI * t.Commanded)))
            .ToArray();
        var n = rows.Length;
        double mu = rows.Average(r => r.U),
            mz = rows.Average(r => r.Z),
            suu = rows.Sum(r => (r.U - mu) * (r.U - mu)),
            over = rows.Sum(r => (r.U - mu) * (r.Z - mz)) / suu,
            slope = mz - over * mu;
        if (!(slope > 0))
            return new(null, null, null, null, null, [], false, "A longer way did not bring more: look at the trials.");
        double?[] residuals = [.. rows.Select(r => (double?)(r.Z - slope - over * r.U))];
        var sd = Math.Sqrt(residuals.Sum(r => r!.Value * r.Value) / (n - 2));
        double error = sd * Math.Sqrt(1.0 / n + mu * mu / suu),
            errorOver = sd / Math.Sqrt(suu);
        var odd = Odd(residuals);
        var next = Math.Sign(target) * (Math.Abs(target) - over) / slope * 360 / Math.PI;
        var at = Math.Max(1e-9, (Math.Abs(target) - over) / slope);
        var half = T(n - 2) * sd * at * Math.Sqrt(1 + 1.0 / n + (1 / at - mu) * (1 / at - mu) / suu);
        var within = Claim(n - 2) * error;
        var enough = n >= LeastEnough && within <= Wanted(plan, slope);
        var rolls =
            Math.Abs(over) > Claim(n - 2) * errorOver
                ? $"It goes {Show(Math.Abs(over), 2)} mm {(over > 0 ? "farther" : "less far")} than its wheels are told, "
                    + "however long the way."
                : "What it rolls on after the stop is too little to tell.";
        var say =
            odd.Count > 0
                ? $"{(odd.Count == 1 ? "One trial lies" : "Some trials lie")} far from the line of the rest: look at "
                    + $"{(odd.Count == 1 ? "it" : "them")} before you trust this."
                : $"{(enough ? "Enough: the" : "So far the")} {plan.Number} is {Show(slope)} {plan.NumberUnit}, known to ± "
                    + $"{Show(100 * within / slope, 2)} %. {rolls}"
                    + (enough ? "" : " More trials, at ways as far apart as can be, would help.");
        return new(
            new(slope, plan.NumberUnit, Provenance.Measured, $"{n} trials {plan.Where}", error, sd, 0, 0),
            new(over, "mm", Provenance.Measured, $"{n} trials {plan.Where}", errorOver, 0, 0, double.MinValue),
            next,
            Math.Sign(target) * Math.Abs(target) - half,
            Math.Sign(target) * Math.Abs(target) + half,
            odd,
            enough && odd.Count == 0,
            say
        );
    }

    private static TrialFit Line(TrialPlan plan, IReadOnlyList<Trial> trials, double target)
    {
        DriveFitResult fit;
        var sign = plan.Kind == TrialKind.TimedTurn ? Math.Sign(target) : 1;
        target *= sign == 0 ? 1 : sign;
        try
        {
            fit = DriveFit
                .Compute(
                    new(
                        [
                            .. trials.Select(t => new TrialPair(
                                t.Commanded,
                                plan.Kind is TrialKind.TimedTurn ? Math.Abs(t.Measured) : t.Measured
                            )),
                        ],
                        target
                    )
                )
                .Result;
        }
        catch (InputProblem e)
        {
            return new(null, null, null, null, null, [], false, e.Errors.Values.First());
        }
        var n = trials.Count;
        if (fit.Slope <= 0)
            return new(
                null,
                null,
                null,
                null,
                null,
                [],
                false,
                "More did not bring more: look at the trials, or try commands farther apart."
            );
        if (fit.NextCommand <= 0)
            return new(
                null,
                null,
                null,
                null,
                null,
                [],
                false,
                "By these trials even no command would go past the target: try a smaller one."
            );
        var residuals = trials.Select(t => (double?)(Math.Abs(t.Measured) - fit.Intercept - fit.Slope * t.Commanded)).ToArray();
        var odd = Odd(residuals);
        var meanX = trials.Average(t => t.Commanded);
        var sxx = trials.Sum(t => (t.Commanded - meanX) * (t.Commanded - meanX));
        // How well the command is known: the error of the line there, turned into command by its slope.
        double? error = fit.ResidualSd is { } r
            ? r / fit.Slope * Math.Sqrt(1.0 / n + (sxx > 0 ? (fit.NextCommand - meanX) * (fit.NextCommand - meanX) / sxx : 0))
            : null;
        var number = new Quantity(
            fit.NextCommand,
            plan.NumberUnit,
            Provenance.Measured,
            error is null
                ? $"{Count(n, "trial")} {plan.Where}, spread assumed"
                : $"{n} trials {plan.Where}, for {Show(target)} {plan.AskUnit}",
            error ?? 0.05 * fit.NextCommand,
            fit.ResidualSd is { } sd ? sd / fit.Slope : 0.05 * fit.NextCommand
        );
        if (error is null)
            return new(
                number,
                null,
                fit.NextCommand,
                null,
                null,
                odd,
                false,
                $"{(n == 1 ? "One trial gives a line through nothing" : "Two trials give a line and nothing to judge it by")}: make "
                    + $"{3 - n} more before you trust it."
            );
        var half = (fit.MeasuredHigh!.Value - fit.MeasuredLow!.Value) / 2;
        var enough = n >= LeastEnough && Claim(n - 2) * error * fit.Slope <= Math.Max(0.03 * Math.Abs(target), 1);
        var say =
            odd.Count > 0 ? "A trial lies far from the line of the rest: look at it before you trust this."
            : enough
                ? $"Enough: {Show(fit.NextCommand)} {plan.CommandUnit} for {Show(target)} {plan.HappenUnit}. The next one still lies "
                    + $"anywhere within ± {Show(half, 2)} {plan.HappenUnit}, and no command cures that."
            : $"Try {Show(fit.NextCommand)} {plan.CommandUnit} next: it should bring {Show(target)} ± {Show(half, 2)} {plan.HappenUnit}.";
        return new(number, null, fit.NextCommand, target - half, target + half, odd, enough && odd.Count == 0, say);
    }

    private static TrialFit Bracket(TrialPlan plan, IReadOnlyList<Trial> trials)
    {
        double[] moved = [.. trials.Where(t => t.Measured >= 0.5).Select(t => t.Commanded)],
            still = [.. trials.Where(t => t.Measured < 0.5).Select(t => t.Commanded)];
        if (moved.Length == 0)
            return new(
                null,
                null,
                still.Max() + Math.Max(2, 0.25 * still.Max()) is var up && up < 100 ? up : 100,
                null,
                null,
                [],
                false,
                "It has not moved yet: try more."
            );
        if (still.Length == 0)
            return new(null, null, moved.Min() / 2, null, null, [], false, "It has always moved: try less.");
        var (low, high) = (still.Max(), moved.Min());
        if (low >= high)
        {
            // Near the edge it sometimes moves and sometimes not: that band is the spread.
            var middle = (low + high) / 2;
            var band = Math.Max(0.5, (low - high) / 2);
            return new(
                new(middle, "%", Provenance.Measured, $"{trials.Count} trials {plan.Where}", band / 2, band, 0, 0, 100),
                null,
                low + 1,
                null,
                null,
                [],
                trials.Count >= 5,
                $"Between {Show(high)} % and {Show(low)} % it sometimes moves and sometimes does not: never rely on less than "
                    + $"{Show(low + 1)} %."
            );
        }
        var number = new Quantity(
            (low + high) / 2,
            "%",
            Provenance.Measured,
            $"{trials.Count} trials {plan.Where}",
            // Within a point it starts at one time and not at another: halving on there knows no better, it only looks so.
            Math.Max(high - low, 1) / Math.Sqrt(12),
            0,
            0,
            0,
            100
        );
        var enough = high - low <= 1;
        return new(
            number,
            null,
            (low + high) / 2,
            null,
            null,
            [],
            enough,
            enough
                ? $"Enough: it starts between {Show(low)} % and {Show(high)} %."
                : $"It lies between {Show(low)} %, where it stayed, and {Show(high)} %, where it moved: try the middle."
        );
    }

    // h = W·D/b + P·ε with W the wheel degrees told, P the way round in m: both ways round tell b and ε apart.
    private static TrialFit Square(TrialPlan plan, IReadOnlyList<Trial> trials, TrialSetting at)
    {
        var rows = trials
            .Select(t => (W: t.Commanded * at.WheelMm, P: 4 * Math.Abs(t.Asked) / 1000, H: t.Measured))
            .Where(r => r.W != 0 && r.H != 0)
            .ToArray();
        if (rows.Length == 0)
            return new(null, null, null, null, null, [], false, "It did not turn as it was told: look at its direction.");
        var right = rows.Count(r => r.W > 0);
        var next = TrialPlans.Command(plan, right > rows.Length - right ? -1 : 1, null, at);
        if (right == 0 || right == rows.Length)
        {
            var alone = rows.Average(r => r.W / r.H);
            return new(
                new(alone, "mm", Provenance.Measured, $"{Count(rows.Length, "square")}, one way round only", 0.02 * alone, 0.01 * alone),
                null,
                next,
                null,
                null,
                [],
                false,
                $"Only {(right == 0 ? "left" : "right")} round so far: veer and track width look the same from one way. Drive it the "
                    + "other way round as well."
            );
        }
        double ww = rows.Sum(r => r.W * r.W),
            pp = rows.Sum(r => r.P * r.P),
            wp = rows.Sum(r => r.W * r.P),
            wh = rows.Sum(r => r.W * r.H),
            ph = rows.Sum(r => r.P * r.H);
        var det = ww * pp - wp * wp;
        var inverse = (wh * pp - ph * wp) / det;
        var veer = (ph * ww - wh * wp) / det;
        if (!(inverse > 0))
            return new(
                null,
                null,
                null,
                null,
                null,
                [],
                false,
                "It turned the other way from what it was told: look at its direction, or at the minus for left round."
            );
        var track = 1 / inverse;
        next = Math.Sign(next) * 360 * track / at.WheelMm;
        var n = rows.Length;
        if (n < 4)
            return new(
                new(track, "mm", Provenance.Measured, $"{n} squares both ways round, spread assumed", 0.01 * track, 0.01 * track),
                new(veer, "deg/m", Provenance.Measured, $"{n} squares, spread assumed", 1, 1, 0, double.MinValue),
                next,
                null,
                null,
                [],
                false,
                $"Both ways round, but {n} squares cannot know their own spread: make {4 - n} more, right and left in turn."
            );
        double[] residuals = [.. rows.Select(r => r.H - r.W * inverse - r.P * veer)];
        var odd = Odd([.. residuals.Select(r => (double?)r)]);
        var sd = Math.Sqrt(residuals.Sum(r => r * r) / (n - 2));
        // Errors of the two unknowns from the inverse of the normal matrix; the track is one over the first.
        var errorTrack = sd * Math.Sqrt(pp / det) * track * track;
        var errorVeer = sd * Math.Sqrt(ww / det);
        var half = T(n - 2) * sd * Math.Sqrt(1 + 1.0 / n);
        var enough = Claim(n - 2) * errorTrack <= Wanted(plan, track);
        var say =
            odd.Count > 0
                ? "A square lies far from the rest: look at it before you trust this."
                : $"{(enough ? "Enough: the" : "So far the")} track width is {Show(track)} mm, known to ± "
                    + $"{Show(100 * Claim(n - 2) * errorTrack / track, 2)} %, and it veers {Show(Math.Abs(veer), 2)} ± "
                    + $"{Show(Claim(n - 2) * errorVeer, 2)} deg/m to the "
                    + $"{(veer >= 0 ? "right" : "left")}.{(enough ? "" : " A square each way round more would help.")}";
        return new(
            new(track, "mm", Provenance.Measured, $"{n} squares both ways round", errorTrack, sd / 360 * track),
            new(
                veer,
                "deg/m",
                Provenance.Measured,
                $"{n} squares both ways round",
                errorVeer,
                sd / rows.Average(r => Math.Max(1e-9, r.P)),
                0,
                double.MinValue
            ),
            next,
            Math.Sign(next) * 360 - half,
            Math.Sign(next) * 360 + half,
            odd,
            enough && odd.Count == 0,
            say
        );
    }

    private static double T(int freedom) => StudentT.InvCDF(0, 1, freedom, 0.975);

    // Whoever stops when it looks good stops too early now and then: a claim of 95 in 100 that survives that is as wide as one of 98.
    // Checked by trying it out: 20 000 series each at six spreads, stopped at “enough”, keep 95 or more.
    private static double Claim(int freedom) => StudentT.InvCDF(0, 1, freedom, 0.99);

    /// <summary>Least number of trials that can be enough.</summary>
    public const int LeastEnough = 4;

    // Beyond what the farthest of so many would be by luck, once in two hundred looks (Grubbs): a clean series is looked at after every
    // trial, and is to be called odd once in twenty at most; fewer than five cannot say which of them
    // is odd. The farthest is set apart before the rest are looked at again.
    private static IReadOnlyList<int> Odd(double?[] numbers)
    {
        var left = Enumerable.Range(0, numbers.Length).Where(i => numbers[i] is not null).ToList();
        var odd = new List<int>();
        while (left.Count >= 5)
        {
            var n = left.Count;
            var mean = left.Average(i => numbers[i]!.Value);
            var sd = Math.Sqrt(left.Sum(i => Math.Pow(numbers[i]!.Value - mean, 2)) / (n - 1));
            var farthest = left.MaxBy(i => Math.Abs(numbers[i]!.Value - mean));
            var t = StudentT.InvCDF(0, 1, n - 2, 1 - 0.005 / (2 * n));
            // What a tape or a watch cannot tell apart is no outlier.
            var most = Math.Max(sd * (n - 1) / Math.Sqrt(n) * Math.Sqrt(t * t / (n - 2 + t * t)), 0.002 * Math.Abs(mean));
            if (!(Math.Abs(numbers[farthest]!.Value - mean) > most))
                break;
            odd.Add(farthest);
            left.Remove(farthest);
        }
        return [.. odd.Order()];
    }
}
