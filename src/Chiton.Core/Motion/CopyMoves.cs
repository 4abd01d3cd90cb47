using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Motion;

/// <summary>A number that was accepted from trials.</summary>
/// <param name="Value">The number.</param>
/// <param name="MeanSd">How well it is known (SD).</param>
/// <param name="MoveSd">SD from move to move.</param>
/// <param name="Trials">Trials it came from.</param>
/// <param name="For">What was asked, for numbers that hold for that alone.</param>
/// <param name="Second">A second number found with it; null when there is none.</param>
/// <param name="SecondSd">How well that is known (SD).</param>
/// <param name="SecondMoveSd">Its SD from move to move.</param>
/// <param name="Against">What it was worked out through: the wheel diameter, mm, or for a speed the least power, %; null when it
/// needs none, or that was not kept.</param>
public sealed record AcceptedNumber(
    double Value,
    double MeanSd,
    double MoveSd,
    int Trials,
    double For,
    double? Second,
    double SecondSd,
    double SecondMoveSd,
    double? Against = null
)
{
    /// <summary>How many numbers it is kept as.</summary>
    public const int Width = 9;

    /// <summary>Runs of the log that narrowed it; 0 where trials of the motion alone found it.</summary>
    public int Narrowed { get; init; }

    /// <summary>Where it came from before it was narrowed; measured where trials of the motion found it.</summary>
    public Provenance Came { get; init; } = Provenance.Measured;

    /// <summary>True where trials of the motion found it, whatever narrowed it since.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool Tried => Trials > 0;

    /// <summary>The same, narrowed by runs on the table.</summary>
    /// <param name="was">What was accepted before; null when nothing was.</param>
    /// <param name="came">Where the number that was in use came from.</param>
    /// <param name="moveSd">Its SD from move to move.</param>
    /// <param name="value">Where it is likelier, in the unit of the motion.</param>
    /// <param name="sd">How well it is known (SD).</param>
    /// <param name="runs">How many runs narrowed it.</param>
    /// <param name="against">What it is worked out through now; kept where it was worked out through it before.</param>
    public static AcceptedNumber By(
        AcceptedNumber? was,
        Provenance came,
        double moveSd,
        double value,
        double sd,
        int runs,
        double? against
    ) =>
        was is null
            ? new(value, sd, moveSd, 0, 0, null, 0, 0) { Narrowed = runs, Came = came }
            : was with
            {
                // A full speed that explains what was seen at a power: the power stays the one that was tried.
                For = was.Against is not null && was.Value != 0 ? was.For * value / was.Value : was.For,
                Value = value,
                MeanSd = sd,
                Against = was.Against is null ? null : against,
                Narrowed = runs,
            };

    /// <summary>As numbers in a row, to be kept like readings.</summary>
    public double[] Packed => [Value, MeanSd, MoveSd, Trials, For, Second is null ? 0 : 1, Second ?? 0, SecondSd, SecondMoveSd];

    /// <summary>From numbers in a row.</summary>
    public static AcceptedNumber Of(IReadOnlyList<double> n) => new(n[0], n[1], n[2], (int)n[3], n[4], n[5] == 0 ? null : n[6], n[7], n[8]);

    /// <summary>From a fit.</summary>
    public static AcceptedNumber Of(Quantity number, Quantity? second, int trials, double asked, double? against = null) =>
        new(number.Value, number.MeanSd, number.MoveSd, trials, asked, second?.Value, second?.MeanSd ?? 0, second?.MoveSd ?? 0, against);
}

/// <summary>How one copy moves, as far as its trials tell.</summary>
/// <param name="rig">The design.</param>
/// <param name="delivered">How its rail vehicle was said to move; null where nothing is known.</param>
/// <param name="trials">Trials by the key of the motion, in the order made.</param>
/// <param name="accepted">What was accepted from them.</param>
/// <param name="where">Where they were made, in words: on the table or on the stand-in.</param>
/// <param name="real">True for a copy on a table.</param>
public sealed partial class CopyMoves(
    RigDesign rig,
    RailMotion? delivered,
    IReadOnlyDictionary<string, IReadOnlyList<Trial>> trials,
    IReadOnlyDictionary<string, AcceptedNumber> accepted,
    string where = "on this copy",
    bool real = false
)
{
    /// <summary>What a real robot was told last for what is asked; null on a stand-in, which does what is suggested, and before the first
    /// trial. A trial that somebody types was made with it unless they say otherwise: a suggestion is nothing that was told.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="asked">What is asked, in its ask unit.</param>
    public double? ToldLast(TrialPlan plan, double asked) =>
        real && plan.Family != TrialFamily.Bracket ? Trials(plan).LastOrDefault(t => t.Asked == asked)?.Commanded : null;

    /// <summary>Motions that can be tried.</summary>
    public IReadOnlyList<TrialPlan> Plans { get; } =
    [
        .. TrialCatalogue
            .For(rig, delivered, trials.Keys.Concat(accepted.Keys))
            .Select(p => p with { Where = WhereOf(p.Key, where, trials) }),
    ];

    private static string WhereOf(string key, string where, IReadOnlyDictionary<string, IReadOnlyList<Trial>> trials) =>
        trials.GetValueOrDefault(key) is { } made ? Units.Where(where, made.Count(t => t.FromBox), made.Count) : where;

    /// <summary>How the rail vehicle moves, with every number in it that was measured on this copy.</summary>
    public RailMotion? Motion =>
        delivered is null || rig.Vehicle is not { } v
            ? delivered
            : delivered with
            {
                SpeedTriedAtPercent = Plans.FirstOrDefault(p => p.Mechanism == v.Name && p.Kind == TrialKind.Speed) is { } speed
                    ? TriedAtPercent(speed)
                    : null,
                FullSpeedMmPerS = Take(v.Name, TrialKind.Speed, delivered.FullSpeedMmPerS),
                LeastPowerPercent = Take(v.Name, TrialKind.LeastPower, delivered.LeastPowerPercent),
                BrakeDecelMmPerS2 = Take(v.Name, TrialKind.Brake, delivered.BrakeDecelMmPerS2),
                CoastTimeConstantMs = Take(v.Name, TrialKind.Coast, delivered.CoastTimeConstantMs),
                TremblePercentPerMPerS = Take(v.Name, TrialKind.Tremble, delivered.TremblePercentPerMPerS),
            };

    // Its physical limits stay.
    private Quantity Take(string mechanism, TrialKind kind, Quantity was) =>
        // Drawn together with what it was worked out through, it brings only what its own trials leave open.
        Plans.FirstOrDefault(p => p.Mechanism == mechanism && p.Kind == kind)
            is { } plan
        && Alone(plan) is { } m
            ? was with
            {
                Value = m.Value,
                Kind = m.Kind,
                Source = m.Source,
                MeanSd = m.MeanSd,
                MoveSd = m.MoveSd,
                Span = m.Span,
                Dof = m.Dof,
            }
            : was;

    /// <summary>How long its servos and sounds take.</summary>
    public Timings Timings
    {
        get
        {
            Dictionary<string, double> swings = [],
                sounds = [],
                spans = [];
            foreach (var plan in Plans)
            {
                if (plan.Kind is not (TrialKind.Swing or TrialKind.Sound) || InUse(plan)?.Value is not { } seconds)
                    continue;
                if (plan.Kind == TrialKind.Sound)
                    sounds[plan.Mechanism] = seconds;
                else
                    foreach (var name in rig.Mechanisms.First(m => m.Name == plan.Mechanism).Motors.Append(plan.Mechanism))
                        (swings[name], spans[name]) = (seconds, plan.Usual);
            }
            return new(swings, sounds, spans);
        }
    }

    /// <summary>The plan of that key, also of a timed move at a power that was never tried; or null.</summary>
    public TrialPlan? Find(string? key) =>
        key is null ? null
        : Plans.FirstOrDefault(p => p.Key == key) is { } listed ? listed
        : TrialCatalogue.For(rig, delivered, [key]).FirstOrDefault(p => p.Key == key) is { } other ? other with { Where = where }
        : null;

    /// <summary>Trials of a motion.</summary>
    public IReadOnlyList<Trial> Trials(TrialPlan plan) => trials.GetValueOrDefault(plan.Key) ?? [];

    /// <summary>What was accepted from trials of a motion; null when nothing was.</summary>
    public AcceptedNumber? Accepted(TrialPlan plan) => accepted.GetValueOrDefault(plan.Key);

    // A number that was worked out through another follows it: a track width is so many wheels, a veer so many ways squared, and a full
    // speed is what explains the speed that was seen, by the least power known now.
    private double Follows(TrialPlan plan, AcceptedNumber a)
    {
        if (a.Against is not { } then || !plan.Through)
            return 1;
        if (plan.Kind == TrialKind.Speed)
            return TriedAtPercent(plan) is { } power && Least(plan, LeastPower(plan.Mechanism)).Share(power) is > 0 and var share
                ? Math.Abs(a.For) / a.Value / share
                : 1;
        var now = Wheel(plan.Mechanism);
        if (then <= 0 || now <= 0)
            return 1;
        return plan.Kind == TrialKind.Veer ? then / now * (then / now) : now / then;
    }

    // The power at which a full speed was tried that was worked out through the least power then; null where it was not.
    private double? TriedAtPercent(TrialPlan speed) =>
        Accepted(speed) is { Against: > 0 and var then } a && Math.Abs(a.For) / a.Value is > 0 and < 1 and var share
            ? Least(speed, then).PowerFor(share)
            : null;

    /// <summary>The full speed of a plain motor as its own trials leave it, and the power at which it was tried, where it was worked out
    /// through the least power: the two are drawn together; null where they are known apart.</summary>
    /// <param name="mechanism">Mechanism name.</param>
    public (Quantity Full, double AtPercent)? SpeedByPower(string mechanism) =>
        Plans.FirstOrDefault(p => p.Mechanism == mechanism && p.Kind == TrialKind.Speed) is { } plan
        && TriedAtPercent(plan) is { } at
        && Alone(plan) is { } full
            ? (full, at)
            : null;

    /// <summary>A number as its own trials leave it, where it was worked out through the wheel: it is drawn together with that; null where
    /// it was not.</summary>
    /// <param name="mechanism">Mechanism name.</param>
    /// <param name="kind">What was found.</param>
    public Quantity? ByWheel(string mechanism, TrialKind kind) =>
        Plans.FirstOrDefault(p => p.Mechanism == mechanism && p.Kind == kind) is { Through: true } plan
        && Accepted(plan)?.Against is not null
            ? Alone(plan)
            : null;

    // What is known of a mechanism by a least power.
    private TrialSetting Least(TrialPlan plan, double percent) =>
        new(
            0,
            0,
            0,
            delivered is { } m && rig.Vehicle?.Name == plan.Mechanism
                ? m with
                {
                    LeastPowerPercent = m.LeastPowerPercent with { Value = percent },
                }
                : null,
            1
        )
        {
            LeastPercent = percent,
        };

    private double LeastPower(string mechanism) => InUse(mechanism, TrialKind.LeastPower)?.Value ?? 0;

    /// <summary>What a number of a motion is worked out through, as it is in use now; null when it needs none.</summary>
    /// <param name="plan">The motion.</param>
    public double? Against(TrialPlan plan) =>
        !plan.Through ? null
        : plan.Kind == TrialKind.Speed ? LeastPower(plan.Mechanism)
        : Wheel(plan.Mechanism);

    /// <summary>The measured number of a motion, as well as it is known by itself: what it was worked out through is in its error; null
    /// when none was accepted.</summary>
    public Quantity? Measured(TrialPlan plan) =>
        Alone(plan) is not { } own ? null
        : ThroughShare(plan) is > 0 and var share
            ? own with
            {
                MeanSd = Math.Sqrt(own.MeanSd * own.MeanSd + share * share * own.Value * own.Value),
            }
        : own;

    // The share of a number that is unknown because of what it was worked out through: of a width the wheel's, of a veer twice that, of a
    // full speed what the least power leaves open at the power that was tried.
    private double ThroughShare(TrialPlan plan)
    {
        if (!plan.Through || Accepted(plan)?.Against is null)
            return 0;
        if (plan.Kind == TrialKind.Speed)
            return
                TriedAtPercent(plan) is { } power
                && InUse(plan.Mechanism, TrialKind.LeastPower) is { } least
                && Least(plan, least.Value).Share(power) is > 0 and var share
                ? Math.Abs(Least(plan, least.Value + least.BetweenRunsSd).Share(power) / share - 1)
                : 0;
        var wheel = InUse(plan.Mechanism, TrialKind.Straight);
        var of = wheel is { Value: > 0 } ? wheel.BetweenRunsSd / wheel.Value : 0;
        return plan.Kind == TrialKind.Veer ? 2 * of : of;
    }

    /// <summary>The measured number of a motion with what its own trials leave open, for those who draw it together with what it was worked
    /// out through; null when none was accepted. One that was found through the wheel is told by the wheel in
    /// use now.</summary>
    public Quantity? Alone(TrialPlan plan) =>
        Accepted(plan) is { } a && Follows(plan, a) is var by
            ? new(
                a.Value * by,
                plan.NumberUnit,
                a.Came,
                From(plan, a),
                a.MeanSd * by,
                a.MoveSd * by,
                a.Came == Provenance.Guessed ? a.MeanSd * by / Quantity.GuessShareOfSpan : 0,
                double.MinValue
            )
            {
                Dof = Dof(plan, a),
            }
            : null;

    private string From(TrialPlan plan, AcceptedNumber a)
    {
        var found = a.Tried
            ? $"{Figures.Count(a.Trials, "trial")} "
                + $"{where}{(plan.Family == TrialFamily.Line ? $", for {Figures.Show(a.For)} {plan.AskUnit}" : "")}"
                + (
                    plan.Kind == TrialKind.Straight && a.Second is null
                        ? $", holds at {Figures.Show(Math.Abs(a.For))} {plan.AskUnit} only"
                        : ""
                )
            : a.Came.ToString().ToLowerInvariant();
        return a.Narrowed == 0 ? found : $"{found}, then narrowed by {Figures.Count(a.Narrowed, "trial")} on the table";
    }

    // A mean of n trials leaves n − 1, a line two fewer than it has trials; one or two trials have a usual spread assumed.
    private static double? Dof(TrialPlan plan, AcceptedNumber a) =>
        a.Trials < 3 || a.Narrowed > 0 || plan.Family == TrialFamily.Bracket ? null
        : plan.Family == TrialFamily.Line || a.Second is not null ? Math.Max(1, a.Trials - 2)
        : a.Trials - 1;

    /// <summary>The track width as its turns or squares alone leave it, where it was worked out through the wheel: how far the robot turns
    /// then hangs on this and not on the wheel; null where the two are known apart.</summary>
    /// <param name="mechanism">Mechanism name.</param>
    public Quantity? TrackByTurns(string mechanism) =>
        Plans
            .Where(p => p.Mechanism == mechanism && p.Kind is TrialKind.Turn or TrialKind.Square && Accepted(p)?.Against is not null)
            .Select(Alone)
            .OfType<Quantity>()
            .MinBy(q => q.MeanSd);

    /// <summary>A second number that was found with it; null when none was.</summary>
    public Quantity? Second(TrialPlan plan) =>
        Accepted(plan) is { Second: { } s } a
            ? new(
                s,
                plan.Kind == TrialKind.Straight ? "mm" : "deg/m",
                Provenance.Measured,
                $"{Figures.Count(a.Trials, "trial")} {where}",
                a.SecondSd,
                a.SecondMoveSd,
                0,
                double.MinValue
            )
            {
                Dof = Dof(plan, a),
            }
            : null;

    /// <summary>The number in use: what was measured on this copy, or what the design or the delivery says.</summary>
    public Quantity? InUse(TrialPlan plan)
    {
        // Turns on the spot and squares find the same width: the better known one counts.
        if (plan.Kind is TrialKind.Turn or TrialKind.Square)
        {
            Quantity[] found =
            [
                .. Plans
                    .Where(p => p.Mechanism == plan.Mechanism && p.Kind is TrialKind.Turn or TrialKind.Square)
                    .Select(Measured)
                    .OfType<Quantity>(),
            ];
            return found.Length > 0 ? found.MinBy(q => q.MeanSd) : plan.Nominal;
        }
        if (plan.Kind == TrialKind.Veer && Measured(plan) is null)
            return Plans
                .Where(p => p.Mechanism == plan.Mechanism && p.Kind == TrialKind.Square)
                .Select(Second)
                .FirstOrDefault(q => q is not null);
        return Measured(plan) ?? plan.Nominal;
    }

    /// <summary>The number in use of a kind of trial of a mechanism; null when nothing is known.</summary>
    public Quantity? InUse(string mechanism, TrialKind kind) =>
        Plans.FirstOrDefault(p => p.Mechanism == mechanism && p.Kind == kind) is { } plan ? InUse(plan) : null;

    private double Wheel(string mechanism) =>
        (InUse(mechanism, TrialKind.Straight) ?? rig.Mechanisms.FirstOrDefault(x => x.Name == mechanism)?.WheelDiameterMm)?.Value ?? 0;

    /// <summary>What else is known of a mechanism when its trials are judged.</summary>
    public TrialSetting At(string mechanism)
    {
        // A sounder is no mechanism, and has nothing that turns.
        var m = rig.Mechanisms.FirstOrDefault(x => x.Name == mechanism);
        var rail = rig.Vehicle?.Name == mechanism ? delivered : null;
        return new(
            Wheel(mechanism),
            (InUse(mechanism, TrialKind.Turn) ?? m?.TrackWidthMm)?.Value ?? 0,
            rail?.ActuatorDelayMs.Value / 1000 ?? 0.04,
            rail is null ? null : Motion,
            m?.MotorTurnsPerTurn?.Value ?? 1
        )
        {
            OvershootMm = Plans.FirstOrDefault(p => p.Mechanism == mechanism && p.Kind == TrialKind.Straight) is { } straight
                ? Accepted(straight)?.Second ?? 0
                : 0,
            LeastPercent = LeastPower(mechanism),
        };
    }

    /// <summary>Why a motion cannot be tried yet; null when it can.</summary>
    public string? Missing(TrialPlan plan)
    {
        var at = At(plan.Mechanism);
        return plan.CommandUnit == "wheel deg" && at.WheelMm <= 0 ? "Say in Rig how large the wheels are, as a guess: trials make it right."
            : plan.Kind is TrialKind.Turn or TrialKind.Pivot or TrialKind.Square && at.TrackMm <= 0
                ? "Say in Rig how far apart the wheels are, as a guess: trials make it right."
            : null;
    }

    /// <summary>What should be found first, so that these trials mean what they say; null when nothing is.</summary>
    public string? First(TrialPlan plan) =>
        plan.Kind is TrialKind.Turn or TrialKind.Pivot or TrialKind.Square && Untried(plan, TrialKind.Straight)
            ? "Find the wheel diameter first: a turn finds the track width only against it."
        : plan.Kind == TrialKind.Speed && Untried(plan, TrialKind.LeastPower)
            ? "Find the least power first: full speed is worked out from the share of the power that is above it."
        : null;

    private bool Untried(TrialPlan plan, TrialKind kind) =>
        Plans.FirstOrDefault(p => p.Mechanism == plan.Mechanism && p.Kind == kind) is { } before && Accepted(before) is not { Tried: true };

    /// <summary>Fits the trials of a motion.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="target">What is wanted next, in its ask unit.</param>
    public TrialFit Fit(TrialPlan plan, double target) =>
        Missing(plan) is { } missing
            ? new(null, null, null, null, null, [], false, missing)
            : Core.Motion.Trials.Fit(plan, Trials(plan), target, At(plan.Mechanism));
}
