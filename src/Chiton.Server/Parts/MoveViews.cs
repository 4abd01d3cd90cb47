using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>How a mechanism moves.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Kind">Its kind; null for a sounder, whose sounds take their time.</param>
/// <param name="Words">What that is called.</param>
/// <param name="Numbers">Its motor numbers.</param>
/// <param name="Motions">What can be tried.</param>
/// <param name="Axis">Its ends; null when it has none.</param>
/// <param name="Sums">Sums that matter, filled from the rig.</param>
/// <param name="Sight">The eye that could follow a line; null when it cannot.</param>
/// <param name="Path">How chains of moves are worked out; null when it drives none.</param>
public sealed record MechanismMove(
    string Name,
    MechanismKind? Kind,
    string Words,
    IReadOnlyList<MoveNumber> Numbers,
    IReadOnlyList<MotionView> Motions,
    AxisAdvice? Axis,
    IReadOnlyList<FilledSum> Sums,
    LineSight? Sight,
    ChainKnows? Path
);

/// <summary>Move for one copy.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Mechanisms">Every mechanism of the rig.</param>
/// <param name="Key">The motion that was looked at; null for none.</param>
public sealed record MoveView(int Copy, IReadOnlyList<MechanismMove> Mechanisms, string? Key)
{
    /// <summary>Move as it stands.</summary>
    /// <param name="state">The rig with its copy.</param>
    /// <param name="key">The motion whose target is told; null for none.</param>
    /// <param name="target">What is wanted of it next.</param>
    public static MoveView Of(RigState state, string? key, double? target)
    {
        var moves = state.Moves;
        // A timed move at a power that was never tried stands among the others while it is looked at.
        TrialPlan[] plans =
            moves.Find(key) is { } looked && moves.Plans.All(p => p.Key != looked.Key) ? [.. moves.Plans, looked] : [.. moves.Plans];
        MechanismMove Made(
            string name,
            MechanismKind? kind,
            string words,
            IReadOnlyList<MoveNumber> numbers,
            AxisAdvice? axis = null,
            IReadOnlyList<FilledSum>? sums = null,
            LineSight? sight = null,
            ChainKnows? path = null
        ) =>
            new(
                name,
                kind,
                words,
                numbers,
                [
                    .. plans
                        .Where(p => p.Mechanism == name)
                        .Select(p => MotionView.Of(moves, p, p.Key == key ? target : null, state.MotionVersions.GetValueOrDefault(p.Key))),
                ],
                axis,
                sums ?? [],
                sight,
                path
            );
        MechanismMove Alone(string name, string words, string why) =>
            Made(
                name,
                null,
                words,
                [.. plans.Where(p => p.Mechanism == name).Select(p => new MoveNumber(p.Number, moves.InUse(p), p.Key, why))]
            );
        return new(
            state.Copy,
            [
                .. state.Design.Mechanisms.Select(m =>
                    Made(
                        m.Name,
                        m.Kind,
                        m.Facts.Words,
                        MoveNumbers.Of(
                            m,
                            Motor(state, m),
                            moves.Plans,
                            moves.InUse,
                            moves.Second,
                            moves.At(m.Name),
                            moves.TrackByTurns(m.Name)
                        ),
                        Axis(state, m, MoveNumbers.UsualMotorSpeed),
                        MoveFill.For(state.Design, m, k => moves.InUse(m.Name, k), moves.At(m.Name), state.Calibrations),
                        m.Facts.Going == Going.Steered ? MoveFill.Sight(state.Design, state.Calibrations) : null,
                        ChainKnows.Of(state.Design, moves, m)
                    )
                ),
                .. Sounders(state)
                    .Select(a => Alone(a.Name, "sounds", "Nothing tells when a sound is over: what follows it begins after this time.")),
                .. state
                    .Design.Sensors.Where(s => plans.Any(p => p.Mechanism == s.Name && p.Kind == TrialKind.Clicks))
                    .Select(s =>
                        Alone(s.Name, "clicks", "A click that is missed is never noticed, and it stops somewhere within a click.")
                    ),
            ],
            key
        );
    }

    /// <summary>The ends of a mechanism; null when it has none.</summary>
    /// <param name="state">The rig with its copy.</param>
    /// <param name="m">The mechanism.</param>
    /// <param name="speed">Speed of its motor, deg/s.</param>
    public static AxisAdvice? Axis(RigState state, Mechanism m, double speed) =>
        MoveNumbers.Axis(
            m,
            Motor(state, m),
            [.. m.Positions.Select(p => AxisMark.Of(p, state.Positions.GetValueOrDefault(m.Name)?.Of(p) ?? [])).OfType<AxisMark>()],
            speed,
            state.Moves.InUse(m.Name, TrialKind.Duration)
        );

    // How long a sound lasts matters where a program plays one without saying for how long.
    private static IEnumerable<Actuator> Sounders(RigState state) =>
        state.Known.Programs.Any(p => ProgramWalk.Plays(p.Parsed.Program))
            ? state.Design.Actuators.Where(a => a.Kind == ActuatorKind.Sounder)
            : [];

    private static Actuator? Motor(RigState state, Mechanism m) => state.Design.Actuators.FirstOrDefault(a => a.Name == m.Motor);
}

/// <summary>Makes a trial.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Key">Key of the motion.</param>
/// <param name="Asked">What is asked, in the motion's ask unit.</param>
/// <param name="Commanded">What the controller is told; by the number in use, or by the trials, when left out.</param>
/// <param name="Measured">What the real rig did; the simulated controller does it when left out.</param>
/// <param name="Sure">True to keep a value that was questioned.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Sensor">Whose readings these are; the first eye when left out.</param>
/// <param name="AtRest">Readings at rest as text, where readings are what was measured.</param>
/// <param name="Rolling">Readings while rolling, likewise.</param>
public sealed record TrialRequest(
    int? Copy,
    string? Key,
    double? Asked,
    double? Commanded,
    double? Measured,
    bool? Sure,
    string? By,
    string? Sensor = null,
    string? AtRest = null,
    string? Rolling = null
);

/// <summary>Tells a real thing a trial over its line.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Key">Key of the motion.</param>
/// <param name="Asked">What is asked, in the motion's ask unit.</param>
/// <param name="Commanded">What the controller is told; worked out when left out.</param>
/// <param name="Job">A name by which it can be stopped.</param>
public sealed record TellTrialRequest(int? Copy, string? Key, double? Asked, double? Commanded, string? Job);

/// <summary>Takes the fitted number as the copy's own.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Key">Key of the motion.</param>
/// <param name="Target">What it is for, in the ask unit.</param>
/// <param name="By">The page that asks.</param>
public sealed record AcceptRequest(int? Copy, string? Key, double? Target, string? By);

/// <summary>Leaves a trial out, or all of them.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Key">Key of the motion.</param>
/// <param name="BaseVersion">Version of the trials that was looked at.</param>
/// <param name="LeaveOut">Which, counting from 0; all when left out.</param>
/// <param name="By">The page that asks.</param>
public sealed record LeaveOutRequest(int? Copy, string? Key, int BaseVersion, int? LeaveOut, string? By);

/// <summary>Asks for the ways to turn.</summary>
public sealed record TurnsRequest(int? Copy, string? Mechanism, double? TurnDeg, double? RadiusMm, double? MotorSpeedDegPerS);

/// <summary>Asks for the ways to stop.</summary>
public sealed record StopsRequest(int? Copy, string? Mechanism, double? SpeedMmPerS);

/// <summary>Asks what a command to an axis would do.</summary>
public sealed record AxisRequest(int? Copy, string? Mechanism, double? To, double? SpeedDegPerS);

/// <summary>Asks where a chain of moves ends.</summary>
public sealed record PathRequest(
    int? Copy,
    string? Mechanism,
    IReadOnlyList<ChainMove>? Moves,
    ChainTarget? Target,
    double? SpeedMmPerS,
    double? TurnRateDegPerS,
    double? ReactionSdS
);

/// <summary>Asks for three drives along a line.</summary>
public sealed record FollowRequest(
    int? Copy,
    string? Mechanism,
    double? SpeedMmPerS,
    double? TurnMmPerS,
    double? Kp,
    double? LineWidthMm,
    double? BendMm,
    double? DelayMs,
    int? ReadingsNeeded,
    double? MaxWheelMmPerS
);

/// <summary>What a command to an axis would do.</summary>
public sealed record AxisJudged(AxisAdvice Axis, Verdict Verdict);
