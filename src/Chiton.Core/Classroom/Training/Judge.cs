using Chiton.Core.Quantities;

namespace Chiton.Core.Classroom.Training;

/// <summary>Judges answers.</summary>
public static class ExerciseJudge
{
    /// <summary>A forecast counts as one that can do it up to this much above the least Brier score that can be had.</summary>
    public const double Forecast = 0.04;

    /// <summary>Judges an answer.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="answer">The answer.</param>
    /// <exception cref="InputProblem">When it is no answer to that, naming the field.</exception>
    public static Judged Judge(Exercise exercise, ExerciseAnswer answer) =>
        exercise switch
        {
            { Trace: { } trace } => Traced(trace, answer.Steps),
            { Number: { } number } => Worked(number, Given(answer.Number, "A number.")),
            { Dots: { } dots } => Set(dots, Given(answer.Number, "Where the threshold is put.")),
            { Rate: { } rate } => Guessed(rate, Given(answer.Number, "How many of 100 will pass.")),
            _ => Chosen(exercise, answer.Choice),
        };

    private static double Given(double? number, string what) =>
        number is { } n && double.IsFinite(n) ? n : throw new InputProblem("number", what);

    private static Judged Chosen(Exercise exercise, int? choice)
    {
        if (choice is not { } c || c < 0 || c >= exercise.Options.Count)
            throw new InputProblem("choice", $"Choose one of the {exercise.Options.Count}.");
        var right = c == exercise.Right;
        return new(
            right,
            right ? 1 : 0,
            right ? exercise.Options[c].Why : $"{exercise.Options[c].Why} Right is: {exercise.Options[exercise.Right].Text}"
        );
    }

    private static Judged Traced(TraceAsked trace, IReadOnlyList<int>? steps)
    {
        if (steps?.Count != trace.Right.Count)
            throw new InputProblem("steps", $"Give a state after each of the {trace.Right.Count} events.");
        for (var i = 0; i < steps.Count; i++)
            if (steps[i] < 0 || steps[i] >= trace.States.Count)
                throw new InputProblem($"steps[{i}]", "Choose one of the states.");
        for (var i = 0; i < steps.Count; i++)
            if (steps[i] != trace.Right[i])
                return new(
                    false,
                    (double)i / steps.Count,
                    $"At event {i + 1} it goes to {trace.States[trace.Right[i]]}, not {trace.States[steps[i]]}. {trace.Why[i]}",
                    i
                );
        return new(true, 1, "All five are right.");
    }

    private static Judged Worked(NumberAsked asked, double said)
    {
        var unit = asked.Unit == "" ? "" : " " + asked.Unit;
        if (Math.Abs(said - asked.Right) <= asked.Give)
            return new(true, 1, $"It is {Figures.Show(asked.Right)}{unit}.");
        // A slip is recognised as closely as a right answer is, so that no number is taken for one by chance.
        var slip = asked.Slips.FirstOrDefault(s => Math.Abs(said - s.Value) <= asked.Give * Math.Max(0.2, Math.Abs(s.Value / asked.Right)));
        return new(
            false,
            0,
            slip is null
                ? $"It is {Figures.Show(asked.Right)}{unit}; {Figures.Show(said)} is off by "
                    + $"{Figures.Show(Math.Abs(said - asked.Right), 2)}."
                : $"{slip.Say} It is {Figures.Show(asked.Right)}{unit}."
        );
    }

    private static Judged Set(DotsShown dots, double at)
    {
        var (cost, best) = (Thresholds.Cost(dots, at), Thresholds.Cost(dots, dots.Best));
        // One false switch in ten thousand readings more than the best is none that anybody notices.
        const double Little = 1e-4;
        var right = cost <= 2 * best + Little;
        static string Per(double c) => c < 1e-6 ? "fewer than one in a million" : $"{Figures.Show(1000 * c, 2)} of 1000";
        return new(
            right,
            Math.Clamp(1 - Math.Log10((cost + Little) / (best + Little)) / 2, 0, 1),
            $"With {Figures.Show(at)} as the threshold {Per(cost)} readings are taken for the other zone; "
                + $"with {Figures.Show(dots.Best)} {Per(best)}."
        );
    }

    private static Judged Guessed(RateAsked rate, double percent)
    {
        if (percent is < 0 or > 100)
            throw new InputProblem("number", "From 0 to 100.");
        // Brier, "Verification of forecasts expressed in terms of probability", 1950: the mean square of what was said of each run less
        // what came. Least is what nobody could know better: the variance of a run.
        var (said, real) = (percent / 100, (double)rate.Passes / rate.Runs);
        var off = (said - real) * (said - real);
        var brier = off + real * (1 - real);
        return new(
            off <= Forecast,
            1 - brier,
            $"{rate.Passes} of {rate.Runs} passed. You said {Figures.Show(percent)} of 100: "
                + (
                    off <= Forecast ? "close enough to rely on."
                    : said > real ? "that was too hopeful."
                    : "that was too gloomy."
                )
        );
    }
}
