using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>What a trial finds.</summary>
public enum TrialKind
{
    /// <summary>Drive straight: effective wheel diameter.</summary>
    Straight,

    /// <summary>Turn on the spot: effective track width.</summary>
    Turn,

    /// <summary>A closed square, both ways round: effective track width, free of veer, and the veer.</summary>
    Square,

    /// <summary>Drive straight and look how far to the side it ends: veer.</summary>
    Veer,

    /// <summary>Turn for a time: seconds for a given turn.</summary>
    TimedTurn,

    /// <summary>Stop with the brake: braking.</summary>
    Brake,

    /// <summary>Let it roll out: coasting.</summary>
    Coast,

    /// <summary>A plain motor's speed at a power.</summary>
    Speed,

    /// <summary>The least power that still moves it.</summary>
    LeastPower,

    /// <summary>Come to rest over a tag: the power that does.</summary>
    Rest,

    /// <summary>Move a lift, joint or jaws: travel for a motor turn.</summary>
    Travel,

    /// <summary>From stop to stop: how long a whole travel takes.</summary>
    Duration,

    /// <summary>A hard hit: how far it is turned by it.</summary>
    Hit,

    /// <summary>A servo from end to end: how long it takes.</summary>
    Swing,

    /// <summary>A sound: how long it lasts.</summary>
    Sound,

    /// <summary>Turn about one wheel, the other standing: effective track width of such turns.</summary>
    Pivot,

    /// <summary>Run a plain motor for a time: seconds for a way.</summary>
    TimedWay,

    /// <summary>Move a part and let it go: how far it goes from there by itself.</summary>
    LetGo,

    /// <summary>Count clicks of a home-made encoder: the way for a click.</summary>
    Clicks,

    /// <summary>Readings at rest and rolling over one surface: how much more they tremble while rolling.</summary>
    Tremble,
}

/// <summary>How trials of a kind are fitted.</summary>
public enum TrialFamily
{
    /// <summary>Each trial gives the number; their mean is it.</summary>
    Mean,

    /// <summary>A straight line from command to what happens.</summary>
    Line,

    /// <summary>The number lies between the greatest command that did not and the least that did.</summary>
    Bracket,

    /// <summary>Two numbers at once, from both ways round.</summary>
    Square,
}

/// <summary>A motion that can be tried on a rig, and the number it finds.</summary>
/// <param name="Key">Mechanism and motion; trials are kept under it.</param>
/// <param name="Mechanism">Mechanism name.</param>
/// <param name="Kind">What it finds.</param>
/// <param name="Title">What is tried, in words.</param>
/// <param name="Number">The number it finds.</param>
/// <param name="NumberUnit">Unit of that number.</param>
/// <param name="AskUnit">Unit of what a person asks.</param>
/// <param name="CommandUnit">Unit of what the controller is told.</param>
/// <param name="HappenUnit">Unit of what is measured.</param>
/// <param name="Usual">A usual thing to ask.</param>
/// <param name="Nominal">The number as the design or the copy has it; null when neither has.</param>
/// <param name="How">How to do it with the real rig, in a sentence.</param>
public sealed record TrialPlan(
    string Key,
    string Mechanism,
    TrialKind Kind,
    string Title,
    string Number,
    string NumberUnit,
    string AskUnit,
    string CommandUnit,
    string HappenUnit,
    double Usual,
    Quantity? Nominal,
    string How
)
{
    /// <summary>Where its trials are made, in words: on the table or on the stand-in.</summary>
    public string Where { get; init; } = "on this copy";

    /// <summary>The power at which it is done, %; null where no power is part of it, or where it was not noted. Trials at another power are
    /// trials of another motion.</summary>
    public double? Power { get; init; }

    /// <summary>How it turns; null where that is no part of it.</summary>
    public TurnStyle? Style { get; init; }

    /// <summary>Sensors whose readings are what is measured; empty where it is something else.</summary>
    public IReadOnlyList<string> Sensors { get; init; } = [];

    /// <summary>From where to where its part may be sent, in the ask unit; null where nothing is known of its ends.</summary>
    public (double From, double To)? Ends { get; init; }

    /// <summary>How its trials are fitted.</summary>
    public TrialFamily Family =>
        Kind switch
        {
            TrialKind.TimedTurn or TrialKind.TimedWay or TrialKind.Rest => TrialFamily.Line,
            TrialKind.LeastPower => TrialFamily.Bracket,
            TrialKind.Square => TrialFamily.Square,
            _ => TrialFamily.Mean,
        };

    /// <summary>True when a command below nothing makes no sense.</summary>
    public bool Positive =>
        Kind
            is TrialKind.TimedTurn
                or TrialKind.Brake
                or TrialKind.Coast
                or TrialKind.Speed
                or TrialKind.LeastPower
                or TrialKind.Rest
                or TrialKind.Duration
                or TrialKind.Hit
                or TrialKind.Swing
                or TrialKind.Sound
                or TrialKind.TimedWay
                or TrialKind.Clicks
                or TrialKind.Tremble
                or TrialKind.Veer;

    /// <summary>True when it ends by the clock, at a power that is part of it.</summary>
    public bool Timed => Kind is TrialKind.TimedTurn or TrialKind.TimedWay;

    /// <summary>True when the number it finds may lie on either side of nothing.</summary>
    public bool Signed => Kind is TrialKind.Veer or TrialKind.Hit or TrialKind.LetGo;

    /// <summary>True when what it finds is worked out through another number that trials find: the wheel, or the least power.</summary>
    public bool Through =>
        Kind is TrialKind.Turn or TrialKind.Pivot or TrialKind.Square or TrialKind.Veer && CommandUnit == "wheel deg"
        || Kind == TrialKind.Speed;
}

/// <summary>How a two-wheel drive turns.</summary>
public enum TurnStyle
{
    /// <summary>On the spot, the wheels against each other.</summary>
    Spin,

    /// <summary>To the right with the left wheel alone, or to the left with the left wheel backwards.</summary>
    LeftWheel,

    /// <summary>With the right wheel alone.</summary>
    RightWheel,
}

/// <summary>What else is known of a mechanism when its trials are judged.</summary>
/// <param name="WheelMm">Wheel diameter in use, mm; 0 when not known.</param>
/// <param name="TrackMm">Track width in use, mm; 0 when not known.</param>
/// <param name="DelayS">From a command to the motor obeying, s.</param>
/// <param name="Motion">How a rail vehicle moves; null for others.</param>
/// <param name="MotorTurns">Motor turns for one turn of wheel or part.</param>
public sealed record TrialSetting(double WheelMm, double TrackMm, double DelayS, RailMotion? Motion, double MotorTurns)
{
    /// <summary>What a straight goes farther than its wheels are told, however long it is, mm; 0 while not known.</summary>
    public double OvershootMm { get; init; }

    /// <summary>Least power that moves a plain motor, %; 0 for one that is regulated.</summary>
    public double LeastPercent { get; init; }

    /// <summary>The share of its full speed that a power brings, −1 to 1, by the law of plain motors; a regulated motor has no least
    /// power.</summary>
    /// <param name="percent">Power, −100 to 100 %.</param>
    public double Share(double percent) =>
        Motion is { } m
            ? m.SteadySpeed(percent) / m.FullSpeedMmPerS.Value
            : RailMotion.FreeSpeed(Math.Clamp(percent / 100, -1, 1), 1, LeastPercent / 100, 1);

    /// <summary>The power that brings a share of its full speed, 0 to 100 %; 100 where it is out of reach.</summary>
    /// <param name="share">Share of full speed, at least 0.</param>
    public double PowerFor(double share) =>
        Motion is { } m
            ? m.PowerForSpeed(share * m.FullSpeedMmPerS.Value)
            : Math.Clamp(LeastPercent + share * (100 - LeastPercent), 0, 100);
}

/// <summary>What trials of motions tell, in numbers.</summary>
public static class TrialPlans
{
    /// <summary>A robot turned by more than this is asked about, robot degrees.</summary>
    public const double MostTurn = 720;

    /// <summary>What the controller is told so that what is asked should happen, by the number in use.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="asked">What is asked, in the plan's ask unit.</param>
    /// <param name="number">The number in use; null when nothing is known.</param>
    /// <param name="at">What else is known.</param>
    public static double Command(TrialPlan plan, double asked, double? number, TrialSetting at) =>
        plan.Kind switch
        {
            TrialKind.Straight => Math.Sign(asked) * (Math.Abs(asked) - at.OvershootMm) * 360 / (Math.PI * (number ?? at.WheelMm)),
            TrialKind.Veer => plan.CommandUnit == "mm" ? asked : asked * 360 / (Math.PI * at.WheelMm),
            TrialKind.Turn => asked * (number ?? at.TrackMm) / at.WheelMm,
            TrialKind.Pivot => asked * 2 * (number ?? at.TrackMm) / at.WheelMm,
            TrialKind.Square => Math.Sign(asked) * 360 * (number ?? at.TrackMm) / at.WheelMm,
            // Without any trial a quarter turn a second is a usual beginning.
            TrialKind.TimedTurn => number is { } s && s > 0 ? s : Math.Abs(asked) / 90,
            TrialKind.TimedWay => number is { } s && s > 0 ? s : 1,
            TrialKind.Speed => at.PowerFor(Math.Abs(asked) / (number ?? plan.Nominal?.Value ?? UsualNumber(TrialKind.Speed))),
            TrialKind.Rest => number is { } p && p > 0 ? p : 35,
            _ => asked,
        };

    /// <summary>What should happen at a command, by a number; of a fitted line, see <see cref="DriveFit"/>.</summary>
    public static double Expect(TrialPlan plan, double commanded, double number, TrialSetting at, double asked = 0) =>
        plan.Kind switch
        {
            TrialKind.Straight => commanded * Math.PI * number / 360 + Math.Sign(commanded) * at.OvershootMm,
            TrialKind.Turn or TrialKind.Square => commanded * at.WheelMm / number,
            TrialKind.Pivot => commanded * at.WheelMm / (2 * number),
            TrialKind.Veer => number * Math.PI / 180 / 1000 * Way(plan, commanded, at) * Math.Abs(Way(plan, commanded, at)) / 2,
            TrialKind.Clicks => commanded * number,
            TrialKind.Travel => commanded / 360 * number,
            TrialKind.Brake => commanded * at.DelayS + commanded * commanded / (2 * number),
            TrialKind.Coast => commanded * (at.DelayS + number / 1000),
            TrialKind.Speed => at.Share(commanded) * number,
            TrialKind.Duration => number / commanded,
            TrialKind.Swing => number * commanded / plan.Usual,
            TrialKind.Sound => number,
            TrialKind.Hit or TrialKind.LetGo or TrialKind.Tremble => number,
            _ => asked,
        };

    /// <summary>The number that one trial gives by itself; null when it gives none.</summary>
    public static double? One(TrialPlan plan, Trial trial, TrialSetting at)
    {
        var (c, h) = (trial.Commanded, trial.Measured);
        double? value = plan.Kind switch
        {
            TrialKind.Straight => c == 0 ? null : h * 360 / (Math.PI * c),
            TrialKind.Turn => h == 0 ? null : at.WheelMm * c / h,
            TrialKind.Pivot => h == 0 ? null : at.WheelMm * c / (2 * h),
            TrialKind.Veer => Way(plan, c, at) is var way && way == 0 ? null : 2 * h / (way * Math.Abs(way)) * 1000 * 180 / Math.PI,
            TrialKind.Clicks => c == 0 ? null : h / c,
            TrialKind.Travel => c == 0 ? null : h / c * 360,
            TrialKind.Brake => h > c * at.DelayS ? c * c / (2 * (h - c * at.DelayS)) : null,
            TrialKind.Coast => c > 0 ? Math.Max(0, h / c - at.DelayS) * 1000 : null,
            TrialKind.Speed => at.Share(c) is var share && share > 0 ? h / share : null,
            TrialKind.Duration => h * c,
            TrialKind.Swing => c > 0 ? h / c * plan.Usual : null,
            _ => h,
        };
        // Readings that tremble no more while rolling are a finding, and no trial that failed.
        return value is { } v && double.IsFinite(v) && (plan.Signed || v > 0 || v == 0 && plan.Kind == TrialKind.Tremble) ? v : null;
    }

    // A drive that cannot be told degrees is driven as far as a tape lies.
    private static double Way(TrialPlan plan, double told, TrialSetting at) =>
        plan.CommandUnit == "mm" ? told : told * Math.PI * at.WheelMm / 360;

    /// <summary>A usual number for a kind of trial where the design says nothing, in the unit of its plan.</summary>
    public static double UsualNumber(TrialKind kind) =>
        kind switch
        {
            TrialKind.Straight => 56,
            TrialKind.Turn or TrialKind.Square or TrialKind.Pivot => 120,
            TrialKind.Brake => 850,
            TrialKind.Coast => 210,
            TrialKind.Travel => 60,
            TrialKind.Speed => 700,
            TrialKind.LeastPower => 14,
            TrialKind.Duration => 300,
            TrialKind.Swing => Timings.UsualSwingS,
            TrialKind.Sound => Timings.UsualSoundS,
            TrialKind.TimedTurn => 128,
            TrialKind.Clicks => 40,
            _ => 0,
        };

    /// <summary>
    /// Questions a value that looks like another kind of degrees, or like another unit. A question is no refusal: a person
    /// may be right.
    /// </summary>
    /// <param name="plan">The motion.</param>
    /// <param name="asked">What is asked.</param>
    /// <param name="commanded">What the controller is told.</param>
    /// <param name="measured">What a person typed; null when the bench measures.</param>
    /// <param name="expected">What should happen.</param>
    /// <param name="at">What else is known.</param>
    /// <returns>Field and question; null when nothing looks odd.</returns>
    public static (string Field, string Say)? Question(
        TrialPlan plan,
        double asked,
        double commanded,
        double? measured,
        double? expected,
        TrialSetting at
    )
    {
        if (plan.AskUnit == "robot deg" && Math.Abs(asked) > MostTurn)
        {
            var asWheel = at.TrackMm > 0 ? asked * at.WheelMm / at.TrackMm : asked;
            return (
                "asked",
                $"{Show(asked)} robot degrees are {Show(Math.Abs(asked) / 360, 3)} turns of the whole robot. As wheel degrees they "
                    + $"would turn it by {Show(asWheel, 3)} robot degrees: is that what you mean?"
            );
        }
        if (plan.Kind == TrialKind.Straight && Math.Abs(asked) < 20 && asked != 0)
            return ("asked", $"{Show(asked)} mm is less than a finger's width. Did you mean {Show(asked * 10)} mm ({Show(asked)} cm)?");
        // A tenth past an end is a stop that gives; more is another number, or another unit.
        if (plan.Ends is { } ends && Math.Abs(ends.To - ends.From) is var travel && Math.Abs(asked) > 1.1 * travel)
            return (
                "asked",
                $"{Show(asked)} {plan.AskUnit} is far outside its travel of {Show(travel)} {plan.AskUnit}, from {Show(ends.From)} to "
                    + $"{Show(ends.To)}. Is that what you mean?"
            );
        if (measured is not { } h || expected is not { } e || e == 0 || Math.Abs(h - e) <= 0.25 * Math.Abs(e))
            return null;
        bool Near(double other) => other != 0 && Math.Abs(h - other) <= 0.08 * Math.Abs(other);
        if (plan.HappenUnit == "robot deg" && plan.CommandUnit == "wheel deg")
        {
            if (Near(commanded))
                return (
                    "measured",
                    $"{Show(h)} is what the wheels turned. How far did the robot turn? About {Show(e, 3)} robot degrees would be usual."
                );
            if (Near(commanded * at.MotorTurns))
                return (
                    "measured",
                    $"{Show(h)} is what the motors turned. How far did the robot turn? About {Show(e, 3)} robot degrees would be usual."
                );
        }
        if (plan.HappenUnit == "part deg" && Near(commanded))
            return (
                "measured",
                $"{Show(h)} is what the motor turned. How far did the part turn? About {Show(e, 3)} degrees would be usual."
            );
        if (plan.HappenUnit == "mm" && Near(e / 10))
            return ("measured", $"{Show(h)} looks like centimetres: {Show(h * 10)} mm would be usual.");
        if (plan.HappenUnit == "mm" && Near(e / 25.4))
            return ("measured", $"{Show(h)} looks like inches: {Show(h * 25.4)} mm would be usual.");
        if (plan.HappenUnit == "s" && Near(e * 1000))
            return ("measured", $"{Show(h)} looks like milliseconds: {Show(h / 1000)} s would be usual.");
        // What nobody has tried yet may be three times what is usual, and what was tried may not.
        var most = plan.Family == TrialFamily.Mean && plan.Signed ? 20 : 4;
        if (Math.Abs(h) > most * Math.Abs(e) || !plan.Signed && h != 0 && Math.Abs(h) < Math.Abs(e) / most)
            return (
                "measured",
                $"{Show(h)} {plan.HappenUnit} is far from the {Show(e, 3)} {plan.HappenUnit} that the numbers so far lead to. Is it right?"
            );
        return null;
    }
}
