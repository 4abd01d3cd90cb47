using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Motion;

/// <summary>A motor number of a mechanism that matters.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Number">The number; null while nobody knows it.</param>
/// <param name="Trial">Key of the motion whose trials find it; null when it follows from others or is set in Rig.</param>
/// <param name="Why">Why it matters, or how it follows, in a sentence.</param>
public sealed record MoveNumber(string Name, Quantity? Number, string? Trial, string Why);

/// <summary>What is safe to command of something with ends.</summary>
/// <param name="Mechanism">Its name.</param>
/// <param name="From">Where travel begins.</param>
/// <param name="To">Where it ends.</param>
/// <param name="SafeFrom">From here it is safe to send it: two SDs inside the stop.</param>
/// <param name="SafeTo">To here.</param>
/// <param name="OverCentre">Where it goes over centre; null when it does not.</param>
/// <param name="Unit">Unit of these: motor deg, or deg of a servo.</param>
/// <param name="Home">from, to or none: which end a sensor tells.</param>
/// <param name="Marks">Its named positions, where they are known.</param>
/// <param name="SpeedDegPerS">The speed for which times are told.</param>
/// <param name="GiveUpAfterS">When a move over the whole travel is stuck, s; null for a servo.</param>
/// <param name="Says">What to know, one sentence each.</param>
public sealed record AxisAdvice(
    string Mechanism,
    double From,
    double To,
    double SafeFrom,
    double SafeTo,
    double? OverCentre,
    string Unit,
    string Home,
    IReadOnlyList<AxisMark> Marks,
    double SpeedDegPerS,
    double? GiveUpAfterS,
    IReadOnlyList<string> Says
);

/// <summary>A named position of an axis.</summary>
/// <param name="Name">Its name.</param>
/// <param name="At">Mean of its readings.</param>
/// <param name="Sd">Their SD; 0 when there is one.</param>
public sealed record AxisMark(string Name, double At, double Sd)
{
    /// <summary>From the angles found by hand; null when it was never found.</summary>
    /// <param name="name">Name of the position.</param>
    /// <param name="angles">The angles.</param>
    public static AxisMark? Of(string name, IReadOnlyList<double> angles)
    {
        if (angles.Count == 0)
            return null;
        var mean = angles.Average();
        return new(name, mean, angles.Count < 2 ? 0 : Math.Sqrt(angles.Sum(a => (a - mean) * (a - mean)) / (angles.Count - 1)));
    }
}

/// <summary>The motor numbers of mechanisms, and what follows from them.</summary>
public static class MoveNumbers
{
    /// <summary>A usual speed of a motor for which times are told, motor degrees a second.</summary>
    public const double UsualMotorSpeed = 300;

    /// <summary>A usual speed along the ground for which ways are told, mm/s.</summary>
    public const double UsualSpeed = 150;

    /// <summary>The numbers of a mechanism.</summary>
    /// <param name="m">The mechanism.</param>
    /// <param name="motor">Its first motor; null when it has none.</param>
    /// <param name="plans">Its motions.</param>
    /// <param name="inUse">The number in use of a motion.</param>
    /// <param name="seconds">A second number found with it; null when there is none.</param>
    /// <param name="at">What else is known.</param>
    /// <param name="byTurns">The track width as its turns alone leave it; null where it was not found by turning.</param>
    public static IReadOnlyList<MoveNumber> Of(
        Mechanism m,
        Actuator? motor,
        IReadOnlyList<TrialPlan> plans,
        Func<TrialPlan, Quantity?> inUse,
        Func<TrialPlan, Quantity?> seconds,
        TrialSetting at,
        Quantity? byTurns = null
    )
    {
        var list = new List<MoveNumber>();
        TrialPlan? Plan(TrialKind kind) => plans.FirstOrDefault(p => p.Mechanism == m.Name && p.Kind == kind);
        Quantity? Use(TrialKind kind) => Plan(kind) is { } p ? inUse(p) : null;
        void Tried(TrialKind kind, string why, Quantity? number = null)
        {
            if (Plan(kind) is { } p)
                list.Add(new(p.Number, number ?? inUse(p), p.Key, why));
        }
        if (m.Facts.Going == Going.Steered)
        {
            var (wheel, track) = (Use(TrialKind.Straight) ?? m.WheelDiameterMm, Use(TrialKind.Turn) ?? m.TrackWidthMm);
            if (Plan(TrialKind.Straight) is null)
                list.Add(
                    new(
                        "wheel diameter",
                        wheel,
                        null,
                        "Plain motors can be told a power and a time, never degrees, mm or a speed: it is a help for planning."
                    )
                );
            Tried(TrialKind.Straight, "What a wheel turn really covers, tyre pressed flat and all.");
            Tried(
                TrialKind.Turn,
                "What the robot really turns about: where the tyres touch, not where they are.",
                Plan(TrialKind.Square) is { } sq
                && inUse(sq) is { Kind: Provenance.Measured } s
                && track is not { Kind: Provenance.Measured }
                    ? s
                    : track
            );
            Tried(TrialKind.Pivot, "Turning about one wheel the standing tyre scrubs, and the robot turns about another width.");
            Tried(
                TrialKind.Veer,
                "It bends every straight, and a track width found one way round hides it.",
                Plan(TrialKind.Square) is { } square && Use(TrialKind.Veer) is null ? seconds(square) : null
            );
            if (wheel is not null && track is not null && Plan(TrialKind.Turn) is not null)
            {
                var quarter = 90 * track.Value / wheel.Value * at.MotorTurns;
                // Where the track was found by turning, a turn needs their ratio alone, and that is known by itself.
                var spread = byTurns is null ? Math.Sqrt(Share(wheel) * Share(wheel) + Share(track) * Share(track)) : Share(byTurns);
                var moves = Math.Sqrt(MoveShare(track) * MoveShare(track) + MoveShare(wheel) * MoveShare(wheel));
                list.Add(
                    new(
                        "motor degrees for a quarter turn",
                        new(
                            quarter,
                            "motor deg",
                            Provenance.Calculated,
                            "from wheel diameter, track width and gears",
                            spread * quarter,
                            moves * quarter
                        ),
                        null,
                        $"Spinning: 90 × {Show(track.Value)} / "
                            + $"{Show(wheel.Value)}{(at.MotorTurns == 1 ? "" : $" × {Show(at.MotorTurns)}")}. Each wheel turns "
                            + $"{Show(quarter / at.MotorTurns)} wheel degrees, one of them back."
                    )
                );
                list.Add(
                    new(
                        $"seconds for a quarter turn at {UsualMotorSpeed:0} motor deg/s",
                        new(
                            quarter / UsualMotorSpeed,
                            "s",
                            Provenance.Calculated,
                            "from the motor degrees",
                            spread * quarter / UsualMotorSpeed
                        ),
                        null,
                        "Without spinning up and braking; trials of a timed turn have those in them."
                    )
                );
            }
            Powers();
            All(TrialKind.TimedTurn, "A turn that ends by the clock varies with the battery.");
            Stops(UsualSpeed);
            Tried(TrialKind.Hit, "After a hard hit it no longer points where it did.");
        }
        else if (m.Facts.Going == Going.OnRail)
        {
            Tried(TrialKind.Straight, "What a wheel turn really covers, tyre pressed flat and all.");
            Powers();
            if (at.Motion is { } motion)
            {
                var own = motion with
                {
                    FullSpeedMmPerS = Use(TrialKind.Speed) ?? motion.FullSpeedMmPerS,
                    LeastPowerPercent = Use(TrialKind.LeastPower) ?? motion.LeastPowerPercent,
                };
                // Over its charge the open voltage of a pack falls by a fifth: the same model the simulated bench uses.
                var used = own with
                {
                    BatteryV = own.BatteryV with { Value = own.BatteryV.Value * 0.8 },
                };
                var (fresh, low) = (own.SteadySpeed(40), used.SteadySpeed(40));
                list.Add(
                    new(
                        "speed at 40 % on a charged pack",
                        new(
                            fresh,
                            "mm/s",
                            Provenance.Calculated,
                            "from speed at full power, least power and the pack",
                            own.RelativeSpeedSd * fresh
                        ),
                        null,
                        $"The pack sags to {Show(own.BatteryV.Value - own.PackOhm.Value * own.ControllerA.Value, 3)} V and less under load."
                    )
                );
                list.Add(
                    new(
                        "speed at 40 % on a used pack",
                        new(low, "mm/s", Provenance.Calculated, "from the same, with a fifth less voltage", own.RelativeSpeedSd * low),
                        null,
                        fresh > 0
                            ? $"{Show(100 * (1 - low / fresh), 2)} % slower than when charged: a timed move falls short by as much."
                            : "Too little power to move at all."
                    )
                );
                if (Plan(TrialKind.Brake) is not null)
                    Stops(Math.Max(50, Math.Round(fresh / 10) * 10));
            }
            else
                Stops(UsualSpeed);
            Tried(TrialKind.Rest, "The power at which it comes to rest in the middle of a tag.");
        }
        else
        {
            if (m.Travel is { } ends)
            {
                list.Add(new("from", ends.From, null, "Where its travel begins. Set in Rig."));
                list.Add(new("to", ends.To, null, "Where its travel ends. Set in Rig."));
            }
            Tried(TrialKind.Swing, "A servo never says that it has arrived: done is an estimate of time, and a jam goes unnoticed.");
            Tried(TrialKind.Travel, "How far the part goes for one turn of the motor.");
            Tried(TrialKind.Duration, "How far it really goes from stop to stop; the time out follows from it.");
            if (Use(TrialKind.Duration) is { } span)
            {
                list.Add(
                    new(
                        $"whole travel at {UsualMotorSpeed:0} motor deg/s",
                        new(
                            span.Value / UsualMotorSpeed,
                            "s",
                            Provenance.Calculated,
                            "from the motor degrees",
                            span.BetweenRunsSd / UsualMotorSpeed
                        ),
                        null,
                        "How long it takes when nothing is in its way."
                    )
                );
                list.Add(
                    new(
                        "gives up after",
                        new(
                            1.5 * span.Value / UsualMotorSpeed + 0.2,
                            "s",
                            Provenance.Calculated,
                            "half as long again and a fifth of a second",
                            1.5 * span.BetweenRunsSd / UsualMotorSpeed
                        ),
                        null,
                        "Longer than this and it is stuck: stop the motor."
                    )
                );
            }
            Powers();
            Tried(TrialKind.LetGo, "A part that is not held springs back, sinks or runs on: programs count on where it stays.");
            if (m.Travel is { } travel && Use(TrialKind.Travel) is { } one && m.Facts.Moves == PartMoves.Slides)
                list.Add(
                    new(
                        "height of the whole travel",
                        new(
                            Math.Abs(travel.To.Value - travel.From.Value) / 360 * one.Value,
                            "mm",
                            Provenance.Calculated,
                            "from travel for one motor turn",
                            Share(one) * Math.Abs(travel.To.Value - travel.From.Value) / 360 * one.Value
                        ),
                        null,
                        "From stop to stop."
                    )
                );
        }
        Tried(TrialKind.Tremble, "Readings that are taken while rolling scatter more, and need more in a row.");
        All(TrialKind.Clicks, "A click that is missed is never noticed, and it stops somewhere within a click.");
        return list;

        // Of timed moves each power and each way of turning has a number of its own.
        void All(TrialKind kind, string why)
        {
            foreach (var p in plans.Where(p => p.Mechanism == m.Name && p.Kind == kind))
                list.Add(new($"{p.Number}{(p.Power is null ? "" : Set(p))}", inUse(p), p.Key, why));
        }
        static string Set(TrialPlan p) => $"{(p.Style is { } style ? $", {TrialCatalogue.Word(style)}" : "")} at {Show(p.Power ?? 0)} %";
        void Powers()
        {
            var plain = motor?.Kind == ActuatorKind.PlainMotor;
            Tried(
                TrialKind.Speed,
                plain
                    ? "A plain motor knows neither its speed nor its angle: what a power brings must be tried."
                    : "A power in % is a share of it."
            );
            Tried(TrialKind.LeastPower, "Below it nothing moves, and a program that waits for it waits for ever.");
            All(TrialKind.TimedWay, "A way that ends by the clock varies with the battery and the load.");
        }
        void Stops(double speed)
        {
            void One(TrialKind kind, string how)
            {
                if (Plan(kind) is not { } p)
                    return;
                var number = inUse(p);
                list.Add(
                    new(
                        p.Number,
                        number,
                        p.Key,
                        kind == TrialKind.Brake
                            ? "How hard it brakes decides where it stands."
                            : "How long it rolls on once the power is cut."
                    )
                );
                if (number is null)
                    return;
                var way = TrialPlans.Expect(p, speed, number.Value, at);
                var spread =
                    (
                        TrialPlans.Expect(p, speed, Math.Max(number.Value * 0.1, number.Value - number.BetweenRunsSd), at)
                        - TrialPlans.Expect(p, speed, number.Value + number.BetweenRunsSd, at)
                    ) / 2;
                var moves =
                    (
                        TrialPlans.Expect(p, speed, Math.Max(number.Value * 0.1, number.Value - number.MoveSd), at)
                        - TrialPlans.Expect(p, speed, number.Value + number.MoveSd, at)
                    ) / 2;
                list.Add(
                    new(
                        $"way to rest from {speed:0} mm/s, {how}",
                        new(way, "mm", Provenance.Calculated, $"from {p.Number} and the delay", Math.Abs(spread), Math.Abs(moves)),
                        null,
                        $"With the {Show(at.DelayS * 1000)} ms until the motor obeys."
                    )
                );
            }
            One(TrialKind.Brake, "braked");
            One(TrialKind.Coast, "coasting");
        }
    }

    private static double Share(Quantity q) => q.Value == 0 ? 0 : q.BetweenRunsSd / Math.Abs(q.Value);

    private static double MoveShare(Quantity q) => q.Value == 0 ? 0 : q.MoveSd / Math.Abs(q.Value);

    /// <summary>What is safe to command of something with ends; null when it has none.</summary>
    /// <param name="m">The mechanism.</param>
    /// <param name="motor">Its first motor.</param>
    /// <param name="marks">Its named positions, where known.</param>
    /// <param name="speed">Speed for which times are told, motor degrees a second.</param>
    /// <param name="span">Motor degrees from stop to stop as tried; null when not.</param>
    public static AxisAdvice? Axis(Mechanism m, Actuator? motor, IReadOnlyList<AxisMark> marks, double speed, Quantity? span = null)
    {
        if (m.Travel is not { } t)
            return null;
        var servo = motor?.Kind == ActuatorKind.Servo;
        var unit = servo ? "deg" : "motor deg";
        var (low, high) = t.From.Value <= t.To.Value ? (t.From, t.To) : (t.To, t.From);
        double Room(Quantity end) => 2 * Math.Sqrt(end.BetweenRunsSd * end.BetweenRunsSd + end.MoveSd * end.MoveSd);
        var safeFrom = low.Value + Room(low);
        var safeTo = high.Value - Room(high);
        if (t.OverCentre is { } over)
            safeTo = Math.Min(safeTo, over.Value - Math.Max(2, Room(over)));
        var says = new List<string>();
        double? giveUp = null;
        var length = span?.Value ?? high.Value - low.Value;
        if (!servo)
        {
            var axis = AxisTravel.Compute(new("joint", null, null, 1, null, length, speed)).Result;
            giveUp = axis.GiveUpAfterS;
            says.Add(
                $"A move over its whole travel takes {Show(axis.DurationS, 3)} s at {Show(speed)} motor deg/s. Give up after "
                    + $"{Show(axis.GiveUpAfterS, 3)} s: something is in its way."
            );
        }
        else
            says.Add(
                "A servo goes to its angle and never says so: done is an estimate of time, and one that is held back hums and grows hot."
            );
        says.Add(
            safeTo > safeFrom
                ? $"Safe to command: {Show(safeFrom, 3)} to {Show(safeTo, 3)} {unit}, two spreads inside the "
                    + $"stops{(t.OverCentre is null ? "" : " and short of the centre")}."
                : $"Its ends are guessed so widely that nothing between them is safe yet: move it to both by hand and read its angle."
        );
        says.Add(
            t.PastEnd switch
            {
                PastEnd.ComesApart =>
                    $"Driven on past {Show(high.Value)} {unit} it comes apart: never send it there blind; use a switch, a stall or "
                        + "the time out.",
                PastEnd.OverCentre =>
                    $"At {Show(t.OverCentre?.Value ?? high.Value)} {unit} it goes over centre: {m.OverTheCentre}. A move that runs on ends "
                        + "where it began.",
                PastEnd.GoesOn => "It has no end and goes on turning: count, or stop it by a sensor.",
                _ => servo
                    ? "Past its end it pushes against the stop until it is told otherwise."
                    : "Past its end the motor stalls: it draws its stall current and grows hot until it is stopped.",
            }
        );
        says.Add(
            t.Home switch
            {
                HomeEnd.None when servo =>
                    "A servo knows its angle as soon as it is fed: there is nothing to home, and it is never run against a stop.",
                HomeEnd.None => "No sensor tells an end, so after switching on nobody knows where it is. Run it slowly against "
                    + $"{(t.PastEnd is PastEnd.ComesApart or PastEnd.OverCentre ? "its near stop" : "a stop")} with a stall or time "
                    + "out, and count from there.",
                _ => $"{t.HomeSensor} tells the {(t.Home == HomeEnd.From ? "near" : "far")} end: send it home first, then count. The "
                    + "other end is blind.",
            }
        );
        if (m.Facts.Grips)
            says.Add(
                "What it grips blocks it before its angle is reached, so a close never ends by itself: end it when the force rises "
                    + $"or it stalls, or after {Show(giveUp ?? 1, 3)} s."
            );
        if (t.JamRisk is { } risk)
            says.Add($"May jam: {risk}.");
        if (motor?.Kind is ActuatorKind.RegulatedMotor && m.Facts.Bears)
            says.Add("Let go, it sinks or springs back: end its moves with hold.");
        return new(
            m.Name,
            low.Value,
            high.Value,
            safeFrom,
            safeTo,
            t.OverCentre?.Value,
            unit,
            t.Home == HomeEnd.None ? "none"
                : (t.Home == HomeEnd.From) == (t.From.Value <= t.To.Value) ? "from"
                : "to",
            marks,
            speed,
            giveUp,
            says
        );
    }

    /// <summary>What a command to an axis would do, in a sentence.</summary>
    /// <param name="axis">What is safe.</param>
    /// <param name="to">Where it is sent.</param>
    /// <param name="m">The mechanism.</param>
    /// <returns>Grade and sentence.</returns>
    public static Verdict Judge(AxisAdvice axis, double to, Mechanism m)
    {
        if (axis.OverCentre is { } over && to >= over)
            return new(Grade.Unusable, $"{Show(to)} {axis.Unit} is {Show(to - over, 3)} past the centre: {m.OverTheCentre}.");
        if (to > axis.To || to < axis.From)
        {
            var past = to > axis.To ? to - axis.To : axis.From - to;
            var then = m.Travel?.PastEnd switch
            {
                PastEnd.ComesApart => "it comes apart",
                PastEnd.GoesOn => "it goes on",
                PastEnd.OverCentre => "it goes over",
                _ => "the motor stalls",
            };
            return new(Grade.Unusable, $"{Show(past, 3)} {axis.Unit} past its end: {then}.");
        }
        var (room, near) = (Math.Min(to - axis.From, axis.To - to), "nearer end");
        if (axis.OverCentre is { } centre && centre - to < room)
            (room, near) = (centre - to, "centre");
        if (to > axis.SafeTo || to < axis.SafeFrom)
            return new(
                Grade.Fragile,
                $"Only {Show(room, 3)} {axis.Unit} from its {near}, which is less than twice what nobody knows: some runs will reach it."
            );
        return new(Grade.Solid, $"Safe: {Show(room, 3)} {axis.Unit} from its {near}.");
    }
}
