using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>How a line is to be followed; what is left out is worked out or usual.</summary>
/// <param name="SpeedMmPerS">Speed along the line, 5 to 2000 mm/s.</param>
/// <param name="TurnMmPerS">How much faster one wheel goes to turn, 1 to 2000 mm/s.</param>
/// <param name="Kp">Gain, 0 to 100 mm/s a %; by the sum <c>line-gain</c> when left out.</param>
/// <param name="LineWidthMm">Width of the line, 3 to 200 mm.</param>
/// <param name="BendMm">Radius of its bends, 60 to 10 000 mm.</param>
/// <param name="DelayMs">From reading to wheels, 0 to 1000 ms.</param>
/// <param name="ReadingsNeeded">Readings in a row, 1 to 20.</param>
/// <param name="MaxWheelMmPerS">Fastest a wheel can go, 10 to 5000 mm/s.</param>
public sealed record FollowWish(
    double? SpeedMmPerS,
    double? TurnMmPerS,
    double? Kp,
    double? LineWidthMm,
    double? BendMm,
    double? DelayMs,
    int? ReadingsNeeded,
    double? MaxWheelMmPerS
);

/// <summary>Three drives along the same line.</summary>
/// <param name="Traces">Two-level, three-band and proportional.</param>
/// <param name="Gain">The sum <c>line-gain</c> for these numbers.</param>
/// <param name="Switch">The sum <c>line-switch</c> for these numbers.</param>
/// <param name="Used">What the drives were made with.</param>
/// <param name="Say">Which does best, and why.</param>
public sealed record FollowView(
    IReadOnlyList<LineTrace> Traces,
    Answer<LineGainResult> Gain,
    Answer<LineSwitchResult> Switch,
    LineTraceInput Used,
    string Say
);

/// <summary>Three ways to follow a line, driven along the same one.</summary>
public static class LineFollow
{
    /// <summary>Drives them.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="moves">How the copy moves.</param>
    /// <param name="calibrations">Its calibrations by sensor name.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="wish">How it is to be followed.</param>
    /// <param name="seed">The line's wiggles and the luck of the eye.</param>
    /// <exception cref="InputProblem">When it cannot follow a line, and why, or a field is out of its range.</exception>
    public static FollowView Run(
        RigDesign rig,
        CopyMoves moves,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        Mechanism m,
        FollowWish wish,
        ulong seed
    )
    {
        var at = moves.At(m.Name);
        var sight = m.Facts.Going == Going.Steered ? MoveFill.Sight(rig, calibrations) : null;
        if (sight is null)
            throw new InputProblem("mechanism", "It takes a two-wheel drive and a light eye that looks down to follow a line.");
        if (at.TrackMm <= 0)
            throw new InputProblem("mechanism", "Say in Rig how far apart the wheels are.");
        if (Math.Abs(sight.Bright - sight.Dark) < 2)
            throw new InputProblem("mechanism", $"{sight.Eye} hardly tells the line from the ground: record both in Sense.");
        if (sight.AheadMm <= 0)
            throw new InputProblem(
                "mechanism",
                $"Say in Rig how far {sight.Eye} looks ahead of the axle: a line is followed by an eye in front."
            );
        var need = new Require();
        var speed = need.Number(wish.SpeedMmPerS ?? MoveNumbers.UsualSpeed, "speedMmPerS", 5, 2000);
        var turn = need.Number(wish.TurnMmPerS ?? 40, "turnMmPerS", 1, 2000);
        var width = need.Number(wish.LineWidthMm ?? 20, "lineWidthMm", 3, 200);
        var bend = need.Number(wish.BendMm ?? 300, "bendMm", 60, 10_000);
        var delay = need.Number(wish.DelayMs ?? at.DelayS * 1000, "delayMs", 0, 1000);
        var needed = need.Whole(wish.ReadingsNeeded ?? 2, "readingsNeeded", 1, 20);
        var most = need.Number(wish.MaxWheelMmPerS ?? 520, "maxWheelMmPerS", 10, 5000);
        var kp = need.Optional(wish.Kp, "kp", 0, 100);
        need.Done();
        var gain = LineGain.Compute(new(speed, at.TrackMm, sight.AheadMm, sight.ContrastPercentPerMm, most, sight.PeriodMs, delay));
        var switching = LineSwitch.Compute(new(speed + turn, speed - turn, at.TrackMm, sight.AheadMm, sight.PeriodMs, needed, delay));
        var used = new LineTraceInput(
            speed,
            turn,
            kp ?? gain.Result.Kp,
            most,
            at.TrackMm,
            sight.AheadMm,
            sight.SpotMm,
            sight.Dark,
            sight.Bright,
            sight.NoiseSd,
            sight.PeriodMs,
            needed,
            delay,
            width,
            bend
        );
        LineTrace[] traces =
        [
            LineTracer.Run(Following.TwoLevel, used, seed),
            LineTracer.Run(Following.ThreeBand, used, seed),
            LineTracer.Run(Following.Proportional, used, seed),
        ];
        return new(traces, gain, switching, used, Say(traces));
    }

    // Which does best, and why.
    private static string Say(IReadOnlyList<LineTrace> traces)
    {
        LineTrace[] kept = [.. traces.Where(t => t.LostAtMm is null)];
        if (kept.Length == 0)
            return "None of the three keeps this line: slow down, or mount the eye farther ahead.";
        var (steadiest, nearest) = (kept.MinBy(t => t.SwingDegPerS)!, kept.MinBy(t => t.RmsMm)!);
        return string.Join(
            " ",
            [
                .. traces
                    .Where(t => t.LostAtMm is not null)
                    .Select(t => $"Following by {Word(t.Kind)} loses the line after {Show(t.LostAtMm!.Value, 3)} mm."),
                $"Steadiest: {Word(steadiest.Kind)}, which swings {Show(steadiest.SwingDegPerS, 2)} deg/s.",
                $"Nearest to the edge: {Word(nearest.Kind)}, {Show(nearest.RmsMm, 2)} mm off on the whole.",
            ]
        );
    }

    private static string Word(Following f) =>
        f switch
        {
            Following.TwoLevel => "two levels",
            Following.ThreeBand => "three bands",
            _ => "proportional",
        };
}
