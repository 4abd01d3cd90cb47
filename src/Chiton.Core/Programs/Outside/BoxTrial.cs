using Chiton.Core.Motion;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Outside;

/// <summary>What a box counts by itself in a trial.</summary>
public enum BoxCounts
{
    /// <summary>Nothing: somebody measures with a tape.</summary>
    Nothing,

    /// <summary>The time from the order until it is done, by the clock of the desk.</summary>
    Seconds,

    /// <summary>The speed of its motor, by its encoder and the box's clock.</summary>
    Speed,

    /// <summary>Whether it moved at all, by its encoder.</summary>
    Moved,
}

/// <summary>A step of a trial over a line.</summary>
/// <param name="Do">What is told, as the line says it; null where one only waits.</param>
/// <param name="Seconds">How long to wait afterwards, s; null to wait until it is done, stalls or gives up.</param>
/// <param name="Counted">True for the step over which is counted.</param>
public sealed record BoxStep(BoxOrder? Do, double? Seconds, bool Counted = false);

/// <summary>A trial as a box is told it.</summary>
/// <param name="Steps">Its steps, one after the other; empty where it cannot be told.</param>
/// <param name="Counts">What the box counts by itself.</param>
/// <param name="Device">The device that is told.</param>
/// <param name="Encoders">Encoders of its motors.</param>
/// <param name="Why">Why it cannot be told over a line; empty where it can.</param>
public sealed record BoxTrial(IReadOnlyList<BoxStep> Steps, BoxCounts Counts, string Device, IReadOnlyList<string> Encoders, string Why)
{
    /// <summary>Longest wait for a move to be done, s.</summary>
    public const double MostS = 30;

    // Slow enough that nothing slips, and fast enough to be waited for.
    private const double Calm = 30;

    /// <summary>How a trial is told.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="plan">What is tried.</param>
    /// <param name="asked">What is asked, in the plan's unit.</param>
    /// <param name="commanded">What the controller is told, in the plan's unit.</param>
    public static BoxTrial Of(RigDesign rig, TrialPlan plan, double asked, double commanded)
    {
        var name = plan.Mechanism;
        var mechanism = rig.Mechanisms.FirstOrDefault(m => m.Name == name);
        var steered = mechanism?.Facts.Going == Going.Steered;
        var go = steered ? "drive" : "run";
        string[] encoders =
        [
            .. rig
                .Sensors.Where(s =>
                    s.Kind == SensorKind.Encoder && (s.On == name || mechanism is not null && mechanism.Motors.Contains(s.On ?? ""))
                )
                .Select(s => s.Name),
        ];
        BoxOrder Order(
            string verb,
            double? value = null,
            string unit = "",
            double? amount = null,
            string amountUnit = "",
            double? seconds = null,
            string words = ""
        ) => new(name, verb, value, unit, amount, amountUnit, seconds, words);
        BoxTrial Told(BoxCounts counts, params BoxStep[] steps) => new(steps, counts, name, encoders, "");
        BoxTrial Not(string why) => new([], BoxCounts.Nothing, name, encoders, why);
        BoxStep Until(BoxOrder order, bool counted = false) => new(order, null, counted);
        string Side(double by, bool pivots) => $"{(by < 0 ? "left" : "right")} {(pivots ? "pivoting" : "spinning")}";
        var power = plan.Power ?? TrialCatalogue.UsualPower;
        return plan.Kind switch
        {
            TrialKind.Straight or TrialKind.Veer => Told(
                BoxCounts.Nothing,
                Until(Order(go, commanded < 0 ? -Calm : Calm, "%", Math.Abs(commanded), plan.CommandUnit))
            ),
            TrialKind.Turn => Told(
                BoxCounts.Nothing,
                Until(Order("turn", Calm, "%", Math.Abs(commanded), plan.CommandUnit, words: Side(commanded, false)))
            ),
            TrialKind.Pivot => Told(
                BoxCounts.Nothing,
                Until(Order("turn", Calm, "%", Math.Abs(commanded), plan.CommandUnit, words: Side(commanded, true)))
            ),
            // Four sides and four corners, the command being all corners together.
            TrialKind.Square => Told(
                BoxCounts.Nothing,
                [
                    .. Enumerable
                        .Range(0, 4)
                        .SelectMany(_ =>
                            new[]
                            {
                                Until(Order(go, Calm, "%", Math.Abs(asked), "mm")),
                                Until(Order("turn", Calm, "%", Math.Abs(commanded) / 4, plan.CommandUnit, words: Side(commanded, false))),
                            }
                        ),
                ]
            ),
            TrialKind.TimedWay => Told(BoxCounts.Nothing, Until(Order(go, power, "%", seconds: commanded))),
            TrialKind.TimedTurn => Told(
                BoxCounts.Nothing,
                Until(Order("turn", power, "%", seconds: commanded, words: Side(asked, plan.Style is not (null or TurnStyle.Spin))))
            ),
            TrialKind.Brake or TrialKind.Coast => Told(
                BoxCounts.Nothing,
                new BoxStep(Order(go, commanded, "mm/s"), 2),
                new BoxStep(Order(plan.Kind == TrialKind.Brake ? "brake" : "coast"), 1)
            ),
            TrialKind.Hit => Told(BoxCounts.Nothing, new BoxStep(Order(go, commanded, "mm/s"), 2), new BoxStep(Order("stop"), 0.5)),
            // Once it runs steadily, two seconds are counted.
            TrialKind.Speed => Told(
                plan.HappenUnit == "motor deg/s" && encoders.Length > 0 ? BoxCounts.Speed : BoxCounts.Nothing,
                new BoxStep(Order(go, commanded, "%"), 1),
                new BoxStep(null, 2, true),
                new BoxStep(Order("stop"), 0)
            ),
            TrialKind.LeastPower => Told(
                encoders.Length > 0 ? BoxCounts.Moved : BoxCounts.Nothing,
                new BoxStep(Order(go, commanded, "%"), 1, true),
                new BoxStep(Order("stop"), 0)
            ),
            TrialKind.Travel => Told(
                BoxCounts.Nothing,
                Until(Order("run", commanded < 0 ? -Calm : Calm, "%", Math.Abs(commanded), plan.CommandUnit))
            ),
            TrialKind.Duration => Told(
                BoxCounts.Seconds,
                Until(Order("run", commanded, plan.CommandUnit), true),
                new BoxStep(Order("stop"), 0)
            ),
            TrialKind.LetGo => Told(BoxCounts.Nothing, new BoxStep(Order("run", commanded, "%"), 1), new BoxStep(Order("coast"), 1)),
            TrialKind.Swing => Told(BoxCounts.Seconds, Until(Order("set", commanded, "deg"), true)),
            TrialKind.Sound => Told(BoxCounts.Seconds, Until(Order("beep", 880, "Hz"), true)),
            TrialKind.Rest => Not("What brings it to rest over the tag is its program: run that, and type what you measured."),
            TrialKind.Clicks => Not("Clicks are counted by a program: run one, and type what you measured."),
            _ => Not("Take readings at rest, and again while it rolls, and paste both."),
        };
    }

    /// <summary>A box's own figure for what happened.</summary>
    /// <param name="counts">What is counted.</param>
    /// <param name="seconds">From the order until it was done, s.</param>
    /// <param name="before">The encoder and the time at the beginning: degrees, µs.</param>
    /// <param name="after">The same at the end.</param>
    /// <returns>In the plan's unit; null where it cannot be told.</returns>
    public static double? Figure(BoxCounts counts, double? seconds, (double Deg, long Micros)? before, (double Deg, long Micros)? after) =>
        counts switch
        {
            BoxCounts.Seconds => seconds is { } s ? Math.Round(s, 2) : null,
            BoxCounts.Speed => before is { } b && after is { } a && a.Micros > b.Micros
                ? Math.Round(Math.Abs(a.Deg - b.Deg) / ((a.Micros - b.Micros) * 1e-6), 1)
                : null,
            // Less than a degree is the play of its gears.
            BoxCounts.Moved => before is { } b && after is { } a
                ? Math.Abs(a.Deg - b.Deg) > 1
                    ? 1
                    : 0
                : null,
            _ => null,
        };

    /// <summary>What was told, as one line: "do Drive drive 30 % 1000 mm", and so on.</summary>
    public string Told => string.Join("; ", Steps.Where(s => s.Do is not null).Select(s => s.Do!.ToString()));
}
