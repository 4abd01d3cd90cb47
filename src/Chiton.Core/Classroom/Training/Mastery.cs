using Chiton.Core.Quantities;
using MathNet.Numerics.Distributions;

namespace Chiton.Core.Classroom.Training;

/// <summary>An answer that counts for a skill.</summary>
/// <param name="Right">Whether it was right.</param>
/// <param name="TimeUtc">When.</param>
public sealed record Practice(bool Right, DateTime TimeUtc);

/// <summary>How sure it is that a team can do something.</summary>
/// <param name="Kind">What.</param>
/// <param name="Right">Right answers, as far as they are not forgotten.</param>
/// <param name="Wrong">Wrong answers, as far as they are not forgotten.</param>
/// <param name="Asked">All answers.</param>
/// <param name="Sure">How sure it is that at least <see cref="Mastery.Can"/> of its answers are right, 0 to 1.</param>
public sealed record Skill(ExerciseKind Kind, double Right, double Wrong, int Asked, double Sure)
{
    /// <summary>In a few words.</summary>
    public string Say =>
        Asked == 0 ? "not tried yet"
        : Sure >= Mastery.Mastered ? "can do it"
        : Sure >= Mastery.Nearly ? "nearly there"
        : Right + Wrong < 2 ? "hardly tried"
        : Wrong > Right ? "needs more of it"
        : "getting there";
}

/// <summary>
/// What is known of a skill: a Beta count, uniform to begin with. Each answer counts one; what is known is forgotten by half in two weeks,
/// so that what was not practised is asked about again.
/// </summary>
public static class Mastery
{
    /// <summary>Who gives at least this share of right answers can do it.</summary>
    public const double Can = 0.8;

    /// <summary>From here on it is mastered.</summary>
    public const double Mastered = 0.85;

    /// <summary>From here on it is nearly mastered.</summary>
    public const double Nearly = 0.5;

    /// <summary>After so many days half of it is forgotten.</summary>
    public const double HalfDays = 14;

    /// <summary>What is known of a skill.</summary>
    /// <param name="kind">What.</param>
    /// <param name="answers">Answers in the order of their times.</param>
    /// <param name="now">The time, UTC.</param>
    public static Skill Of(ExerciseKind kind, IEnumerable<Practice> answers, DateTime now)
    {
        var (right, wrong, asked) = (0.0, 0.0, 0);
        DateTime? last = null;
        void Forget(DateTime at)
        {
            if (last is { } before && at > before)
            {
                var left = Math.Pow(0.5, (at - before).TotalDays / HalfDays);
                (right, wrong) = (right * left, wrong * left);
            }
            last = at;
        }
        foreach (var a in answers)
        {
            Forget(a.TimeUtc);
            if (a.Right)
                right++;
            else
                wrong++;
            asked++;
        }
        Forget(now);
        return new(kind, right, wrong, asked, 1 - Beta.CDF(1 + right, 1 + wrong, Can));
    }

    /// <summary>Which skill is practised next, and why.</summary>
    /// <param name="skills">What is known of each that can be practised; at least one.</param>
    /// <param name="last">What was practised last; null for nothing.</param>
    public static (ExerciseKind Kind, string Why) Next(IReadOnlyList<Skill> skills, ExerciseKind? last)
    {
        // Not the same twice in a row where there is a choice: what was just explained is not yet known.
        Skill[] open = [.. skills.Where(s => skills.Count == 1 || s.Kind != last)];
        if (open.Where(s => s.Sure is >= Nearly and < Mastered && s.Asked > 0).MaxBy(s => s.Sure) is { } nearly)
            return (nearly.Kind, "You are nearly there with this one.");
        if (open.FirstOrDefault(s => s.Asked == 0) is { } fresh)
            return (fresh.Kind, "You have not tried this one yet.");
        if (open.Where(s => s.Sure < Mastered && s.Right > s.Wrong).MaxBy(s => s.Sure) is { } due)
            return (due.Kind, "This one has not been practised for a while, or not enough.");
        var least = open.MinBy(s => s.Sure)!;
        return (least.Kind, least.Sure >= Mastered ? "You can do them all; this one is the least sure." : "This one needs more practice.");
    }

    /// <summary>The skills by their names.</summary>
    public static string Name(ExerciseKind kind) =>
        kind switch
        {
            ExerciseKind.Next => "What happens next?",
            ExerciseKind.Trace => "Trace it",
            ExerciseKind.Fault => "Find the fault",
            ExerciseKind.Threshold => "Choose the threshold",
            ExerciseKind.Work => "Work it out",
            ExerciseKind.Rate => "Will it work?",
            ExerciseKind.Measure => "Which to measure?",
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "There are seven kinds."),
        };
}
