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

    /// <summary>How its trials are fitted.</summary>
    public TrialFamily Family =>
        Kind switch
        {
            TrialKind.TimedTurn or TrialKind.Rest => TrialFamily.Line,
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
                or TrialKind.Veer;
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
}

/// <summary>The motions of rigs that can be tried.</summary>
public static class TrialPlans
{
    /// <summary>A robot turned by more than this is asked about, robot degrees.</summary>
    public const double MostTurn = 720;

    /// <summary>The motions of a rig that can be tried.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How the copy's rail vehicle moves; null where nothing is known.</param>
    public static IReadOnlyList<TrialPlan> For(RigDesign rig, RailMotion? motion = null)
    {
        var plans = new List<TrialPlan>();
        foreach (var m in rig.Mechanisms)
        {
            var motor = rig.Actuators.FirstOrDefault(a => a.Name == m.Motor);
            void Add(
                string word,
                TrialKind kind,
                string title,
                string number,
                string numberUnit,
                string ask,
                string command,
                string happen,
                double usual,
                Quantity? nominal,
                string how
            ) => plans.Add(new($"{m.Name}: {word}", m.Name, kind, title, number, numberUnit, ask, command, happen, usual, nominal, how));
            var degrees = motor?.Kind is ActuatorKind.RegulatedMotor or ActuatorKind.Stepper;
            if (m.Facts.Going == Going.Steered)
            {
                if (degrees)
                {
                    Add(
                        "straight",
                        TrialKind.Straight,
                        "Drive straight",
                        "effective wheel diameter",
                        "mm",
                        "mm",
                        "wheel deg",
                        "mm",
                        800,
                        m.WheelDiameterMm,
                        "Lay a tape beside it and read from bumper to bumper."
                    );
                    Add(
                        "turn",
                        TrialKind.Turn,
                        "Turn on the spot",
                        "effective track width",
                        "mm",
                        "robot deg",
                        "wheel deg",
                        "robot deg",
                        360,
                        m.TrackWidthMm,
                        "Draw a line along its side before and after, and measure the angle between them; add 360 for every whole turn."
                    );
                    Add(
                        "square",
                        TrialKind.Square,
                        "A closed square, both ways round",
                        "effective track width, free of veer",
                        "mm",
                        "mm",
                        "wheel deg",
                        "robot deg",
                        400,
                        m.TrackWidthMm,
                        "Ask a side for right round and the same with a minus for left round. Measure how far it has turned in all: "
                            + "360 and what it is off by; minus for left round."
                    );
                    Add(
                        "veer",
                        TrialKind.Veer,
                        "Drive straight and look where it ends",
                        "veer to the right",
                        "deg/m",
                        "mm",
                        "wheel deg",
                        "mm",
                        1000,
                        null,
                        "Drive along a line and measure how far to the right of it the middle ends; minus for left."
                    );
                }
                Add(
                    "timed turn",
                    TrialKind.TimedTurn,
                    "Turn for a time",
                    "seconds for the turn",
                    "s",
                    "robot deg",
                    "s",
                    "robot deg",
                    180,
                    null,
                    "Let it turn for the time and measure the angle as for a turn."
                );
                Add(
                    "brake",
                    TrialKind.Brake,
                    "Stop with the brake",
                    "braking",
                    "mm/s²",
                    "mm/s",
                    "mm/s",
                    "mm",
                    150,
                    null,
                    "Stop at a mark and measure how far past it the bumper ends."
                );
                Add(
                    "coast",
                    TrialKind.Coast,
                    "Let it roll out",
                    "coasting",
                    "ms",
                    "mm/s",
                    "mm/s",
                    "mm",
                    150,
                    null,
                    "Cut the power at a mark and measure how far past it the bumper ends."
                );
                Add(
                    "hit",
                    TrialKind.Hit,
                    "Drive hard into a wall",
                    "turn after a hard hit",
                    "robot deg",
                    "mm/s",
                    "mm/s",
                    "robot deg",
                    150,
                    null,
                    "Measure the angle by which it stands off afterwards."
                );
            }
            if (m.Facts.Going == Going.OnRail && motor?.Kind == ActuatorKind.PlainMotor && motion is not null)
            {
                Add(
                    "speed",
                    TrialKind.Speed,
                    "Speed at a power",
                    "speed at full power",
                    "mm/s",
                    "mm/s",
                    "%",
                    "mm/s",
                    200,
                    motion.FullSpeedMmPerS,
                    "Time it over a metre once it rolls steadily."
                );
                Add(
                    "least power",
                    TrialKind.LeastPower,
                    "The least power that moves it",
                    "least power",
                    "%",
                    "%",
                    "%",
                    "1 if it moved",
                    20,
                    motion.LeastPowerPercent,
                    "Put it down at rest and see whether it starts by itself: 1 if it moved, 0 if not."
                );
                Add(
                    "brake",
                    TrialKind.Brake,
                    "Stop with the brake",
                    "braking",
                    "mm/s²",
                    "mm/s",
                    "mm/s",
                    "mm",
                    250,
                    motion.BrakeDecelMmPerS2,
                    "Stop at a mark and measure how far past it ends."
                );
                Add(
                    "coast",
                    TrialKind.Coast,
                    "Let it roll out",
                    "coasting",
                    "ms",
                    "mm/s",
                    "mm/s",
                    "mm",
                    250,
                    motion.CoastTimeConstantMs,
                    "Cut the power at a mark and measure how far past it ends."
                );
                if (rig.Rail?.Markers.Count > 0)
                    Add(
                        "rest",
                        TrialKind.Rest,
                        "Come to rest over the tag",
                        "power that comes to rest there",
                        "%",
                        "mm",
                        "%",
                        "mm",
                        Math.Round(rig.Rail.Markers[0].LengthMm.Value / 2),
                        null,
                        "Measure from the tag's near edge to the nose; minus when it stops short."
                    );
            }
            if (motor?.Kind == ActuatorKind.Servo && m.Travel is { } swing && swing.To.Value != swing.From.Value)
            {
                var way = Math.Abs(swing.To.Value - swing.From.Value);
                Add(
                    "swing",
                    TrialKind.Swing,
                    $"Swing {m.Name} from end to end",
                    "done after, over the whole travel",
                    "s",
                    "deg",
                    "deg",
                    "s",
                    way,
                    new(way / Timings.UsualServoDegPerS + 0.05, "s", Provenance.Guessed, "a usual servo, 300 degrees a second", 0, 0, 0.4),
                    "Time it from the command until it rests; a film that can be stepped helps."
                );
            }
            if (degrees && m.Facts.Going != Going.Steered && (m.Travel is not null || m.Facts.Moves == PartMoves.Slides))
            {
                // Motor degrees for a turn of the drum make the travel for one turn of the motor, where both are known.
                var lift = m.Facts.Moves == PartMoves.Slides;
                var nominal =
                    m.WheelDiameterMm is { } d && lift
                        ? new Quantity(
                            Math.PI * d.Value / (m.MotorTurnsPerTurn?.Value ?? 1),
                            "mm",
                            Provenance.Calculated,
                            "from its drum and gears",
                            d.BetweenRunsSd * Math.PI / (m.MotorTurnsPerTurn?.Value ?? 1)
                        )
                    : m.MotorTurnsPerTurn is { } turns && turns.Value > 0 && !lift
                        ? new Quantity(360 / turns.Value, "part deg", Provenance.Calculated, "from its gears")
                    : null;
                var unit = lift ? "mm" : "part deg";
                var title = m.Facts.Grips ? $"Open {m.Name}" : $"Move {m.Name}";
                var span = m.Travel is { } t ? Math.Abs(t.To.Value - t.From.Value) : 360;
                Add(
                    "travel",
                    TrialKind.Travel,
                    title,
                    "travel for one motor turn",
                    unit,
                    "motor deg",
                    "motor deg",
                    unit,
                    Math.Round(span * 0.6),
                    nominal,
                    lift ? "Read the height before and after." : "Measure the angle of the part before and after."
                );
                if (m.Travel is { } ends && ends.PastEnd is PastEnd.Stalls)
                    Add(
                        "time",
                        TrialKind.Duration,
                        "From stop to stop",
                        "motor degrees from stop to stop",
                        "motor deg",
                        "motor deg/s",
                        "motor deg/s",
                        "s",
                        300,
                        new(
                            Math.Abs(ends.To.Value - ends.From.Value),
                            "motor deg",
                            ends.To.Kind,
                            ends.To.Source,
                            ends.To.BetweenRunsSd,
                            ends.To.MoveSd,
                            0,
                            0
                        ),
                        "Time it from leaving one stop to resting against the other."
                    );
            }
        }
        foreach (var horn in rig.Actuators.Where(a => a.Kind == ActuatorKind.Sounder))
            plans.Add(
                new(
                    $"{horn.Name}: sound",
                    horn.Name,
                    TrialKind.Sound,
                    "Play a sound",
                    "how long a sound lasts",
                    "s",
                    "s",
                    "s",
                    "s",
                    Timings.UsualSoundS,
                    new(Timings.UsualSoundS, "s", Provenance.Guessed, "about a second, nobody has timed it", 0, 0, 0.5),
                    "Time it from the command until it is quiet."
                )
            );
        return plans;
    }

    /// <summary>What the controller is told so that what is asked should happen, by the number in use.</summary>
    /// <param name="plan">The motion.</param>
    /// <param name="asked">What is asked, in the plan's ask unit.</param>
    /// <param name="number">The number in use; null when nothing is known.</param>
    /// <param name="at">What else is known.</param>
    public static double Command(TrialPlan plan, double asked, double? number, TrialSetting at) =>
        plan.Kind switch
        {
            TrialKind.Straight => Math.Sign(asked) * (Math.Abs(asked) - at.OvershootMm) * 360 / (Math.PI * (number ?? at.WheelMm)),
            TrialKind.Veer => asked * 360 / (Math.PI * at.WheelMm),
            TrialKind.Turn => asked * (number ?? at.TrackMm) / at.WheelMm,
            TrialKind.Square => Math.Sign(asked) * 360 * (number ?? at.TrackMm) / at.WheelMm,
            // Without any trial a quarter turn a second is a usual beginning.
            TrialKind.TimedTurn => number is { } s && s > 0 ? s : Math.Abs(asked) / 90,
            TrialKind.Speed => at.Motion is { } m
                ? (m with { FullSpeedMmPerS = m.FullSpeedMmPerS with { Value = number ?? m.FullSpeedMmPerS.Value } }).PowerForSpeed(asked)
                : asked,
            TrialKind.Rest => number is { } p && p > 0 ? p : 35,
            _ => asked,
        };

    /// <summary>What should happen at a command, by a number; of a fitted line, see <see cref="DriveFit"/>.</summary>
    public static double Expect(TrialPlan plan, double commanded, double number, TrialSetting at, double asked = 0) =>
        plan.Kind switch
        {
            TrialKind.Straight => commanded * Math.PI * number / 360 + Math.Sign(commanded) * at.OvershootMm,
            TrialKind.Turn or TrialKind.Square => commanded * at.WheelMm / number,
            TrialKind.Veer => number * Math.PI / 180 / 1000 * Way(commanded, at) * Math.Abs(Way(commanded, at)) / 2,
            TrialKind.Travel => commanded / 360 * number,
            TrialKind.Brake => commanded * at.DelayS + commanded * commanded / (2 * number),
            TrialKind.Coast => commanded * (at.DelayS + number / 1000),
            TrialKind.Speed => at.Motion is { } m ? m.SteadySpeed(commanded) / m.FullSpeedMmPerS.Value * number : number,
            TrialKind.Duration => number / commanded,
            TrialKind.Swing => number * commanded / plan.Usual,
            TrialKind.Sound => number,
            TrialKind.Hit => number,
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
            TrialKind.Veer => Way(c, at) == 0 ? null : 2 * h / (Way(c, at) * Math.Abs(Way(c, at))) * 1000 * 180 / Math.PI,
            TrialKind.Travel => c == 0 ? null : h / c * 360,
            TrialKind.Brake => h > c * at.DelayS ? c * c / (2 * (h - c * at.DelayS)) : null,
            TrialKind.Coast => c > 0 ? Math.Max(0, h / c - at.DelayS) * 1000 : null,
            TrialKind.Speed => at.Motion is { } m && m.SteadySpeed(c) is var s && s > 0 ? h / s * m.FullSpeedMmPerS.Value : null,
            TrialKind.Duration => h * c,
            TrialKind.Swing => c > 0 ? h / c * plan.Usual : null,
            _ => h,
        };
        var signed = plan.Kind is TrialKind.Veer or TrialKind.Hit;
        return value is { } v && double.IsFinite(v) && (signed || v > 0) ? v : null;
    }

    private static double Way(double wheelDeg, TrialSetting at) => wheelDeg * Math.PI * at.WheelMm / 360;

    /// <summary>A usual number for a kind of trial where the design says nothing, in the unit of its plan.</summary>
    public static double UsualNumber(TrialKind kind) =>
        kind switch
        {
            TrialKind.Straight => 56,
            TrialKind.Turn or TrialKind.Square => 120,
            TrialKind.Brake => 850,
            TrialKind.Coast => 210,
            TrialKind.Travel => 60,
            TrialKind.Speed => 700,
            TrialKind.LeastPower => 14,
            TrialKind.Duration => 300,
            TrialKind.Swing => Timings.UsualSwingS,
            TrialKind.Sound => Timings.UsualSoundS,
            TrialKind.TimedTurn => 128,
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
        return null;
    }
}
