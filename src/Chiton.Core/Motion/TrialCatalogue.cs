using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Motion;

/// <summary>The motions of a rig that can be tried: of every mechanism, by what its motor can be told.</summary>
public static class TrialCatalogue
{
    /// <summary>The power of timed moves before another is chosen, %.</summary>
    public const double UsualPower = 50;

    private const string TimedTurn = "timed turn",
        TimedWay = "timed way";

    /// <summary>The motions of a rig that can be tried.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How the copy's rail vehicle moves; null where nothing is known.</param>
    /// <param name="keys">Keys of motions that were tried: timed moves at other powers and ways of turning are listed when they stand
    /// here.</param>
    public static IReadOnlyList<TrialPlan> For(RigDesign rig, RailMotion? motion = null, IEnumerable<string>? keys = null)
    {
        var plans = new List<TrialPlan>();
        foreach (var m in rig.Mechanisms)
            plans.AddRange(Of(rig, m, motion));
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
                    Guess(Timings.UsualSoundS, "s", 0.5, "about a second, nobody has timed it"),
                    "Time it from the command until it is quiet."
                )
            );
        foreach (var clicks in rig.Sensors.Where(s => s.Kind == SensorKind.ClickEncoder && On(rig, s) is null))
            plans.Add(Clicks(clicks, null, clicks.Name));
        foreach (var key in keys ?? [])
            if (plans.All(p => p.Key != key) && Set(plans, key) is { } set)
                plans.Insert(plans.FindLastIndex(p => p.Mechanism == set.Mechanism && p.Kind == set.Kind) + 1, set);
        return plans;
    }

    /// <summary>The same timed move at another power or turning another way.</summary>
    /// <param name="plan">A timed move.</param>
    /// <param name="power">Power, %.</param>
    /// <param name="style">How it turns; null for a way.</param>
    public static TrialPlan At(TrialPlan plan, double power, TurnStyle? style)
    {
        var at = power.ToString(CultureInfo.InvariantCulture);
        return plan.Kind == TrialKind.TimedTurn
            ? plan with
            {
                Key = $"{plan.Mechanism}: {TimedTurn}, {Word(style ?? TurnStyle.Spin)}, {at} %",
                Title = $"Turn for a time, {Word(style ?? TurnStyle.Spin)}, at {at} %",
                Power = power,
                Style = style ?? TurnStyle.Spin,
            }
            : plan with
            {
                Key = $"{plan.Mechanism}: {TimedWay}, {at} %",
                Title = $"Run for a time at {at} %",
                Power = power,
            };
    }

    /// <summary>A way of turning in words.</summary>
    public static string Word(TurnStyle style) =>
        style switch
        {
            TurnStyle.LeftWheel => "on the left wheel alone",
            TurnStyle.RightWheel => "on the right wheel alone",
            _ => "on the spot",
        };

    // A key says power and way of turning; one from before these were noted says neither.
    private static TrialPlan? Set(IReadOnlyList<TrialPlan> plans, string key)
    {
        foreach (var plan in plans.Where(p => p.Power is not null))
        {
            var turn = plan.Kind == TrialKind.TimedTurn;
            var start = $"{plan.Mechanism}: {(turn ? TimedTurn : TimedWay)}";
            if (!key.StartsWith(start, StringComparison.Ordinal))
                continue;
            if (turn && key == start)
                return plan with { Key = key, Title = "Turn for a time, at a power that was not noted", Power = null, Style = null };
            foreach (TurnStyle? style in turn ? [TurnStyle.Spin, TurnStyle.LeftWheel, TurnStyle.RightWheel] : new TurnStyle?[] { null })
            {
                var begin = style is { } s ? $"{start}, {Word(s)}, " : $"{start}, ";
                if (
                    key.StartsWith(begin, StringComparison.Ordinal)
                    && key.EndsWith(" %", StringComparison.Ordinal)
                    && double.TryParse(key[begin.Length..^2], NumberStyles.Float, CultureInfo.InvariantCulture, out var power)
                    && power is > 0 and <= 100
                )
                    return At(plan, power, style);
            }
        }
        return null;
    }

    private static Quantity Guess(
        double value,
        string unit,
        double span,
        string source = "usual for its kind, never tried",
        double min = 0
    ) => new(value, unit, Provenance.Guessed, source, 0, 0, span, min);

    // What is tried is told by what the motor can be told: degrees, angles, or power alone.
    private static IEnumerable<TrialPlan> Of(RigDesign rig, Mechanism m, RailMotion? motion)
    {
        var motor = rig.Actuators.FirstOrDefault(a => a.Name == m.Motor);
        if (motor is null)
            return [];
        List<TrialPlan> plans =
        [
            .. m.Facts.Going switch
            {
                Going.Steered => Drive(m, motor),
                Going.OnRail => Rail(rig, m, motor, motion),
                _ => Part(m, motor),
            },
        ];
        foreach (var clicks in rig.Sensors.Where(s => s.Kind == SensorKind.ClickEncoder && On(rig, s) == m.Name))
            plans.Add(Clicks(clicks, m, m.Name));
        if (m.Facts.Going != Going.Nowhere && rig.Eyes.Any())
            plans.Add(Tremble(rig, m, motion));
        return plans;
    }

    // The mechanism whose turns it counts, by its own name or by one of its motors.
    private static string? On(RigDesign rig, Sensor encoder) =>
        rig.Mechanisms.FirstOrDefault(m => m.Name == encoder.On || m.Motors.Contains(encoder.On ?? ""))?.Name;

    private static TrialPlan Clicks(Sensor encoder, Mechanism? m, string owner)
    {
        var slides = m is null || m.Facts.Going != Going.Nowhere || m.Facts.Moves == PartMoves.Slides;
        var unit = slides ? "mm" : "part deg";
        var each = encoder.ClicksPerTurn is > 0 and var n ? n : 4;
        return new(
            $"{owner}: clicks of {encoder.Name}",
            owner,
            TrialKind.Clicks,
            $"Count clicks of {encoder.Name}",
            $"way for one click of {encoder.Name}",
            unit,
            "clicks",
            "clicks",
            unit,
            Math.Max(8, Math.Round(2 * each)),
            slides
                ? m?.WheelDiameterMm is { } wheel
                    ? new(
                        Math.PI * wheel.Value / each,
                        "mm",
                        Provenance.Calculated,
                        "from its wheel and the clicks a turn",
                        Math.PI * wheel.BetweenRunsSd / each
                    )
                    : null
                : new(360 / each, "part deg", Provenance.Calculated, "from the clicks a turn"),
            "Let it run until the count is there and measure how far it went. "
                + "A click that is missed is never noticed: it only goes farther."
        );
    }

    private static TrialPlan Tremble(RigDesign rig, Mechanism m, RailMotion? motion) =>
        new(
            $"{m.Name}: tremble",
            m.Name,
            TrialKind.Tremble,
            "Readings at rest and rolling",
            "tremble",
            "% per m/s",
            "mm/s",
            "mm/s",
            "% per m/s",
            200,
            (m.Facts.Going == Going.OnRail ? motion : null)?.TremblePercentPerMPerS
                ?? Guess(20, "% per m/s", 30, "usual for small vehicles, never tried"),
            "Take readings of one surface at rest, and again while it rolls steadily over the same surface: how much more they scatter is "
                + "the tremble."
        )
        {
            Sensors = [.. rig.Eyes.Select(e => e.Name)],
        };

    private static bool KnowsAngle(Actuator motor) => motor.Kind is ActuatorKind.RegulatedMotor or ActuatorKind.Stepper;

    private static TrialPlan Straight(Mechanism m) =>
        new(
            $"{m.Name}: straight",
            m.Name,
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

    private static IEnumerable<TrialPlan> Drive(Mechanism m, Actuator motor)
    {
        var veer = new TrialPlan(
            $"{m.Name}: veer",
            m.Name,
            TrialKind.Veer,
            "Drive straight and look where it ends",
            "veer to the right",
            "deg/m",
            "mm",
            KnowsAngle(motor) ? "wheel deg" : "mm",
            "mm",
            1000,
            null,
            "Drive along a line and measure how far to the right of it the middle ends; minus for left."
        );
        if (KnowsAngle(motor))
        {
            yield return Straight(m);
            yield return new(
                $"{m.Name}: turn",
                m.Name,
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
            yield return new(
                $"{m.Name}: square",
                m.Name,
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
            yield return new(
                $"{m.Name}: pivot",
                m.Name,
                TrialKind.Pivot,
                "Turn about one wheel",
                "effective track width on one wheel",
                "mm",
                "robot deg",
                "wheel deg",
                "robot deg",
                180,
                m.TrackWidthMm,
                "One wheel turns, the other stands. Measure the angle as for a turn: the standing tyre scrubs, so the width differs."
            );
            yield return veer;
            foreach (var plan in Plain(m, motor, null))
                yield return plan;
        }
        else
        {
            foreach (var plan in Plain(m, motor, null))
                yield return plan;
            yield return TimedWayOf(m, "mm", 500, "Let it run for the time and measure how far it has come once it stands.");
            yield return veer;
        }
        yield return At(
            new(
                "",
                m.Name,
                TrialKind.TimedTurn,
                "",
                "seconds for the turn",
                "s",
                "robot deg",
                "s",
                "robot deg",
                180,
                null,
                "Let it turn for the time and measure the angle as for a turn."
            ),
            UsualPower,
            TurnStyle.Spin
        );
        yield return Brake(m, null, 150);
        yield return Coast(m, null, 150);
        yield return new(
            $"{m.Name}: hit",
            m.Name,
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

    private static IEnumerable<TrialPlan> Rail(RigDesign rig, Mechanism m, Actuator motor, RailMotion? motion)
    {
        if (KnowsAngle(motor))
            yield return Straight(m);
        if (motor.Kind == ActuatorKind.Servo)
            yield break;
        foreach (var plan in Plain(m, motor, motion))
            yield return plan;
        if (motor.Kind == ActuatorKind.PlainMotor)
            yield return TimedWayOf(m, "mm", 500, "Let it run for the time and measure how far it has come once it stands.");
        yield return Brake(m, motion?.BrakeDecelMmPerS2, 250);
        yield return Coast(m, motion?.CoastTimeConstantMs, 250);
        if (motor.Kind == ActuatorKind.PlainMotor && motion is not null && rig.Rail?.Markers.Count > 0)
            yield return new(
                $"{m.Name}: rest",
                m.Name,
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

    // What a power brings, and the least that moves it. A regulated motor has no least power: its share of its top speed is held.
    private static IEnumerable<TrialPlan> Plain(Mechanism m, Actuator motor, RailMotion? motion)
    {
        if (motor.Kind == ActuatorKind.RegulatedMotor)
        {
            yield return new(
                $"{m.Name}: speed",
                m.Name,
                TrialKind.Speed,
                "Speed at a power",
                "top speed of its motor",
                "motor deg/s",
                "motor deg/s",
                "%",
                "motor deg/s",
                300,
                Guess(900, "motor deg/s", 300, "usual for a regulated motor, never tried", 50),
                "Let it run freely and read its angle twice, two seconds apart: half of the difference is its speed."
            );
            yield break;
        }
        if (motor.Kind != ActuatorKind.PlainMotor)
            yield break;
        var (usual, full, how) =
            m.Facts.Going != Going.Nowhere
                ? (200.0, motion?.FullSpeedMmPerS ?? Guess(500, "mm/s", 600, min: 20), "Time it over a metre once it rolls steadily.")
            : m.Facts.Moves == PartMoves.Slides
                ? (30, Guess(60, "mm/s", 80, min: 2), "Time it over a way that you can measure, once it runs steadily.")
            : (60, Guess(120, "part deg/s", 160, min: 5), "Time it over an angle that you can measure, once it runs steadily.");
        var unit = full.Unit;
        yield return new(
            $"{m.Name}: speed",
            m.Name,
            TrialKind.Speed,
            "Speed at a power",
            "speed at full power",
            unit,
            unit,
            "%",
            unit,
            usual,
            full,
            how
        );
        yield return new(
            $"{m.Name}: least power",
            m.Name,
            TrialKind.LeastPower,
            "The least power that moves it",
            "least power",
            "%",
            "%",
            "%",
            "1 if it moved",
            20,
            motion?.LeastPowerPercent ?? Guess(18, "%", 24, min: 1) with { Max = 60 },
            "Put it down at rest and see whether it starts by itself: 1 if it moved, 0 if not."
        );
    }

    private static TrialPlan TimedWayOf(Mechanism m, string unit, double usual, string how) =>
        At(new("", m.Name, TrialKind.TimedWay, "", "seconds for the way", "s", unit, "s", unit, usual, null, how), UsualPower, null);

    private static TrialPlan Brake(Mechanism m, Quantity? nominal, double usual) =>
        new(
            $"{m.Name}: brake",
            m.Name,
            TrialKind.Brake,
            "Stop with the brake",
            "braking",
            "mm/s²",
            "mm/s",
            "mm/s",
            "mm",
            usual,
            nominal,
            "Stop at a mark and measure how far past it the bumper ends."
        );

    private static TrialPlan Coast(Mechanism m, Quantity? nominal, double usual) =>
        new(
            $"{m.Name}: coast",
            m.Name,
            TrialKind.Coast,
            "Let it roll out",
            "coasting",
            "ms",
            "mm/s",
            "mm/s",
            "mm",
            usual,
            nominal,
            "Cut the power at a mark and measure how far past it the bumper ends."
        );

    // A lift, jaws, a joint, a lid, a crank, a belt.
    private static IEnumerable<TrialPlan> Part(Mechanism m, Actuator motor)
    {
        var slides = m.Facts.Moves == PartMoves.Slides;
        var unit = slides ? "mm" : "part deg";
        if (motor.Kind == ActuatorKind.Servo)
        {
            var way = m.Travel is { } swing && swing.To.Value != swing.From.Value ? Math.Abs(swing.To.Value - swing.From.Value) : 180;
            yield return new(
                $"{m.Name}: swing",
                m.Name,
                TrialKind.Swing,
                $"Swing {m.Name}{(m.Travel is null ? "" : " from end to end")}",
                "done after, over the whole travel",
                "s",
                "deg",
                "deg",
                "s",
                way,
                new(way / Timings.UsualServoDegPerS + 0.05, "s", Provenance.Guessed, "a usual servo, 300 degrees a second", 0, 0, 0.4),
                "Time it from the command until it rests; a film that can be stepped helps."
            )
            {
                Ends = m.Travel is { } s ? (s.From.Value, s.To.Value) : (0, 180),
            };
            yield break;
        }
        if (KnowsAngle(motor))
        {
            var span = m.Travel is { } t ? Math.Abs(t.To.Value - t.From.Value) : 360;
            yield return new(
                $"{m.Name}: travel",
                m.Name,
                TrialKind.Travel,
                m.Facts.Grips ? $"Open {m.Name}" : $"Move {m.Name}",
                "travel for one motor turn",
                unit,
                "motor deg",
                "motor deg",
                unit,
                Math.Round(span * 0.6),
                TravelOfATurn(m, slides),
                slides ? "Measure how far it has gone." : "Measure the angle of the part before and after."
            )
            {
                Ends = m.Travel is { } ends ? (ends.From.Value, ends.To.Value) : null,
            };
            if (m.Travel is { PastEnd: PastEnd.Stalls } stops)
                yield return new(
                    $"{m.Name}: time",
                    m.Name,
                    TrialKind.Duration,
                    "From stop to stop",
                    "motor degrees from stop to stop",
                    "motor deg",
                    "motor deg/s",
                    "motor deg/s",
                    "s",
                    300,
                    new(
                        Math.Abs(stops.To.Value - stops.From.Value),
                        "motor deg",
                        stops.To.Kind,
                        stops.To.Source,
                        stops.To.BetweenRunsSd,
                        stops.To.MoveSd,
                        0,
                        0
                    ),
                    "Time it from leaving one stop to resting against the other."
                );
        }
        foreach (var plan in Plain(m, motor, null))
            yield return plan;
        if (motor.Kind == ActuatorKind.PlainMotor)
            yield return TimedWayOf(
                m,
                unit,
                slides ? 50 : 90,
                slides
                    ? "Let it run for the time and measure how far it has gone."
                    : "Let it run for the time and measure how far the part has turned."
            );
        yield return new(
            $"{m.Name}: let go",
            m.Name,
            TrialKind.LetGo,
            $"Let {m.Name} go",
            "where it rests after it is let go",
            unit,
            "%",
            "%",
            unit,
            UsualPower,
            null,
            $"Run it at the power, let it go, and measure how far {(slides ? "it" : "the part")} goes on until it rests; minus when it "
                + "comes back or sinks."
        );
    }

    // Motor degrees for a turn of the drum make the travel for one turn of the motor, where both are known.
    private static Quantity? TravelOfATurn(Mechanism m, bool slides) =>
        slides && m.WheelDiameterMm is { } d
            ? new(
                Math.PI * d.Value / (m.MotorTurnsPerTurn?.Value ?? 1),
                "mm",
                Provenance.Calculated,
                "from its drum and gears",
                d.BetweenRunsSd * Math.PI / (m.MotorTurnsPerTurn?.Value ?? 1)
            )
        : !slides && m.MotorTurnsPerTurn is { } turns && turns.Value > 0
            ? new(360 / turns.Value, "part deg", Provenance.Calculated, "from its gears")
        : null;
}
