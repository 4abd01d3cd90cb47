using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A trial for the picture.</summary>
/// <param name="Asked">What was asked.</param>
/// <param name="Commanded">What the controller was told.</param>
/// <param name="Measured">What happened.</param>
/// <param name="Above">Where its stitch begins above the rule: what should have happened, in the unit of what happens.</param>
/// <param name="Odd">True when it lies far from the rest.</param>
public sealed record TrialView(double Asked, double Commanded, double Measured, double Above, bool Odd);

/// <summary>A motion with its trials.</summary>
/// <param name="Plan">The motion.</param>
/// <param name="InUse">The number in use on this copy; null when nothing is known.</param>
/// <param name="Accepted">True when it was accepted from trials.</param>
/// <param name="Trials">Trials in the order made.</param>
/// <param name="Fit">What they say for the target.</param>
/// <param name="Target">What is wanted next, in the ask unit.</param>
/// <param name="TargetAbove">The same in the unit of what happens, for the picture.</param>
/// <param name="Command">What the controller would be told for the target now, by the number in use; the fit's next command where there are
/// trials.</param>
/// <param name="CommandSay">That command in words, in every kind of degrees it has.</param>
/// <param name="Version">Version of the trials, for leaving one out or starting anew.</param>
/// <param name="Ready">Why it cannot be tried yet; null when it can.</param>
/// <param name="First">What should be found first; null when nothing is.</param>
public sealed record MotionView(
    TrialPlan Plan,
    Quantity? InUse,
    bool Accepted,
    IReadOnlyList<TrialView> Trials,
    TrialFit Fit,
    double Target,
    double TargetAbove,
    double Command,
    string CommandSay,
    int Version,
    string? Ready,
    string? First
);

/// <summary>How a mechanism moves.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Kind">Its kind.</param>
/// <param name="Words">What that is called.</param>
/// <param name="Numbers">Its motor numbers.</param>
/// <param name="Motions">What can be tried.</param>
/// <param name="Axis">Its ends; null when it has none.</param>
/// <param name="Sums">Sums that matter, filled from the rig.</param>
/// <param name="Sight">The eye that could follow a line; null when it cannot.</param>
/// <param name="Path">How chains of moves are worked out; null when it drives none.</param>
public sealed record MechanismMove(
    string Name,
    MechanismKind Kind,
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
public sealed record MoveView(int Copy, IReadOnlyList<MechanismMove> Mechanisms);

/// <summary>Makes a trial.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Key">Key of the motion.</param>
/// <param name="Asked">What is asked, in the motion's ask unit.</param>
/// <param name="Commanded">What the controller is told; by the number in use, or by the trials, when left out.</param>
/// <param name="Measured">What the real rig did; the simulated controller does it when left out.</param>
/// <param name="Sure">True to keep a value that was questioned.</param>
/// <param name="By">The page that asks.</param>
public sealed record TrialRequest(int? Copy, string? Key, double? Asked, double? Commanded, double? Measured, bool? Sure, string? By);

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

/// <summary>One way to turn.</summary>
/// <param name="Style">spin, pivot or arc.</param>
/// <param name="Answer">Its figures.</param>
/// <param name="Input">What they were worked out from.</param>
/// <param name="Say">What it is good for.</param>
public sealed record TurnWay(string Style, Answer<TurnResult> Answer, TurnInput Input, string Say);

/// <summary>Asks for the ways to stop.</summary>
public sealed record StopsRequest(int? Copy, string? Mechanism, double? SpeedMmPerS);

/// <summary>One way to stop.</summary>
/// <param name="Style">brake, hold or coast.</param>
/// <param name="WayMm">Way to rest, mm; null while nothing is known.</param>
/// <param name="SdMm">Its spread (SD), mm.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Say">What it does.</param>
public sealed record StopWay(string Style, double? WayMm, double SdMm, Provenance Kind, string Say);

/// <summary>Asks what a command to an axis would do.</summary>
public sealed record AxisRequest(int? Copy, string? Mechanism, double? To, double? SpeedDegPerS);

/// <summary>What a command to an axis would do.</summary>
public sealed record AxisJudged(AxisAdvice Axis, Verdict Verdict);

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

/// <summary>Motor numbers become real motion.</summary>
public static class MoveEndpoints
{
    /// <summary>Most trials of a motion.</summary>
    public const int MostTrials = 500;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var move = api.MapGroup("/rigs/{id}").WithTags("Move");
        move.MapGet(
                "/move",
                async Task<MoveView> (string id, int? copy, string? key, double? target, RigStore store, CancellationToken cancel) =>
                    View(await store.Load(id, copy, null, cancel), key, Target(key, target))
            )
            .WithName("getMove")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost("/trials", Make).WithName("makeTrial").ProducesValidationProblem().ProducesProblem(404);
        move.MapPost("/trials/accept", Accept).WithName("acceptTrials").ProducesValidationProblem().ProducesProblem(404);
        move.MapPost("/trials/leave-out", LeaveOut)
            .WithName("leaveOutTrials")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        move.MapPost(
                "/move/turns",
                async Task<IReadOnlyList<TurnWay>> (string id, TurnsRequest r, RigStore store, CancellationToken cancel) =>
                    Turns(await store.Load(id, r.Copy, null, cancel), r)
            )
            .WithName("getTurns")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost(
                "/move/stops",
                async Task<IReadOnlyList<StopWay>> (string id, StopsRequest r, RigStore store, CancellationToken cancel) =>
                    Stops(await store.Load(id, r.Copy, null, cancel), r)
            )
            .WithName("getStops")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost(
                "/move/axis",
                async Task<AxisJudged> (string id, AxisRequest r, RigStore store, CancellationToken cancel) =>
                    Axis(await store.Load(id, r.Copy, null, cancel), r)
            )
            .WithName("judgeAxis")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost(
                "/move/path",
                async Task<ChainResult> (string id, PathRequest r, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, r.Copy, null, cancel);
                    var m = Mechanism(state, r.Mechanism);
                    return PathChains.Compute(
                        r.Moves,
                        r.Target,
                        Knows(state, m, r)
                            ?? throw new InputProblem(
                                "mechanism",
                                $"{m.Name} does not drive about, or its wheels are not described: say in Rig how large they are and "
                                    + "how far apart."
                            )
                    );
                }
            )
            .WithName("workOutPath")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost(
                "/move/follow",
                async Task<FollowView> (string id, FollowRequest r, RigStore store, CancellationToken cancel) =>
                    Follow(await store.Load(id, r.Copy, null, cancel), r)
            )
            .WithName("followLine")
            .ProducesValidationProblem()
            .ProducesProblem(404);
    }

    private static double? Target(string? key, double? target)
    {
        if (target is null)
            return null;
        var need = new Require();
        need.That(key is not null, "key", "Say for which motion the target is.");
        var t = need.Number(target, "target", -1e5, 1e5);
        need.That(t != 0, "target", "Ask for something other than 0.");
        need.Done();
        return t;
    }

    private static TrialPlan Plan(RigState state, string? key) =>
        state.Moves.Find(key)
        ?? throw new InputProblem(
            "key",
            state.Moves.Plans.Count == 0
                ? "Nothing on this rig can be tried."
                : $"There is no such motion. The motions are {string.Join(", ", state.Moves.Plans.Select(p => p.Key))}."
        );

    private static Mechanism Mechanism(RigState state, string? name) =>
        state.Design.Mechanisms.FirstOrDefault(m => m.Name == name)
        ?? throw new InputProblem(
            "mechanism",
            state.Design.Mechanisms.Count == 0
                ? "This rig has no mechanism yet: describe one in Rig."
                : $"There is no mechanism “{name}”. The mechanisms are "
                    + $"{string.Join(", ", state.Design.Mechanisms.Select(m => m.Name))}."
        );

    private static Actuator? Motor(RigState state, Mechanism m) => state.Design.Actuators.FirstOrDefault(a => a.Name == m.Motor);

    private static MoveView View(RigState state, string? key, double? target) =>
        new(
            state.Copy,
            [
                .. state.Design.Mechanisms.Select(m =>
                {
                    var moves = state.Moves;
                    var at = moves.At(m.Name);
                    return new MechanismMove(
                        m.Name,
                        m.Kind,
                        Core.Rigs.Mechanism.Words(m.Kind),
                        MoveNumbers.Of(m, Motor(state, m), moves.Plans, moves.InUse, moves.Second, at),
                        [.. moves.Plans.Where(p => p.Mechanism == m.Name).Select(p => Motion(state, p, p.Key == key ? target : null))],
                        MoveNumbers.Axis(
                            m,
                            Motor(state, m),
                            Marks(state, m),
                            MoveNumbers.UsualMotorSpeed,
                            moves.InUse(m.Name, TrialKind.Duration)
                        ),
                        MoveFill.For(state.Design, m, k => moves.InUse(m.Name, k), at, state.Calibrations),
                        m.Kind == MechanismKind.TwoWheelDrive ? MoveFill.Sight(state.Design, state.Calibrations) : null,
                        Knows(state, m, null)
                    );
                }),
            ]
        );

    private static MotionView Motion(RigState state, TrialPlan plan, double? wanted)
    {
        var moves = state.Moves;
        var at = moves.At(plan.Mechanism);
        var made = moves.Trials(plan);
        var missing = moves.Missing(plan);
        // What was wanted last is wanted still; of a square the other way round comes next.
        var target =
            wanted
            ?? (
                made.Count == 0 ? plan.Usual
                : plan.Family == TrialFamily.Bracket ? moves.Fit(plan, 0).NextCommand ?? plan.Usual
                : plan.Kind == TrialKind.Square ? -made[^1].Asked
                : made[^1].Asked
            );
        var fit = moves.Fit(plan, target);
        var number = moves.InUse(plan) ?? fit.Number;
        var command =
            missing is not null ? 0
            : plan.Kind == TrialKind.Square ? TrialPlans.Command(plan, target, moves.InUse(plan)?.Value, at)
            : plan.Family == TrialFamily.Line && fit.NextCommand is { } next ? next
            : TrialPlans.Command(plan, target, (fit.Number ?? number)?.Value, at);
        return new(
            plan,
            moves.InUse(plan),
            moves.Accepted(plan) is not null,
            [
                .. made.Select(
                    (t, i) =>
                        new TrialView(t.Asked, t.Commanded, t.Measured, Above(plan, t.Asked, t.Commanded, number, at), fit.Odd.Contains(i))
                ),
            ],
            fit,
            target,
            Above(plan, target, command, number, at),
            command,
            Say(plan, command, at),
            state.MotionVersions.GetValueOrDefault(plan.Key),
            missing,
            missing is null ? moves.First(plan) : null
        );
    }

    // What should have happened, in the unit of what happens.
    private static double Above(TrialPlan plan, double asked, double commanded, Quantity? number, TrialSetting at) =>
        plan.Kind switch
        {
            TrialKind.Square => Math.Sign(asked) * 360,
            TrialKind.Veer or TrialKind.Hit => 0,
            TrialKind.Straight or TrialKind.Turn or TrialKind.TimedTurn or TrialKind.Speed or TrialKind.Rest or TrialKind.LeastPower =>
                asked,
            _ => number is null ? 0 : TrialPlans.Expect(plan, commanded, number.Value, at, asked),
        };

    private static string Say(TrialPlan plan, double command, TrialSetting at)
    {
        var told = $"{Figures.Show(command, 5)} {plan.CommandUnit}";
        return plan.CommandUnit != "wheel deg" ? told
            : plan.Kind is TrialKind.Turn or TrialKind.Square
                ? $"{told} on the left wheel and as much back on the "
                    + $"right{(at.MotorTurns == 1 ? " (motor degrees the same)" : $", {Figures.Show(command * at.MotorTurns, 5)} motor deg")}{(plan.Kind == TrialKind.Square ? ", a quarter of it at each corner" : "")}"
            : $"{told}{(at.MotorTurns == 1 ? " (motor degrees the same)" : $", {Figures.Show(command * at.MotorTurns, 5)} motor deg")}";
    }

    private static IReadOnlyList<AxisMark> Marks(RigState state, Mechanism m) =>
        [
            .. m
                .Positions.Select(p => (p, Readings: state.Positions.GetValueOrDefault(m.Name)?.Of(p) ?? []))
                .Where(p => p.Readings.Count > 0)
                .Select(p => new AxisMark(
                    p.p,
                    p.Readings.Average(),
                    p.Readings.Count < 2
                        ? 0
                        : Math.Sqrt(p.Readings.Sum(r => Math.Pow(r - p.Readings.Average(), 2)) / (p.Readings.Count - 1))
                )),
        ];

    private static ChainKnows? Knows(RigState state, Mechanism m, PathRequest? r)
    {
        if (m.Kind != MechanismKind.TwoWheelDrive)
            return null;
        var wheel = state.Moves.InUse(m.Name, TrialKind.Straight) ?? m.WheelDiameterMm;
        var track = state.Moves.InUse(m.Name, TrialKind.Turn) ?? m.TrackWidthMm;
        if (wheel is null or { Value: <= 0 } || track is null or { Value: <= 0 })
            return null;
        // A number that was never tried says nothing of how moves differ: a hundredth is usual.
        static Quantity Spread(Quantity q) => q.MoveSd > 0 ? q : q with { MoveSd = 0.01 * q.Value };
        var need = new Require();
        var speed = need.Optional(r?.SpeedMmPerS, "speedMmPerS", 0, 1e4, true) ?? MoveNumbers.UsualSpeed;
        var rate = need.Optional(r?.TurnRateDegPerS, "turnRateDegPerS", 0, 1e4, true) ?? 90;
        var reaction = need.Optional(r?.ReactionSdS, "reactionSdS", 0, 10) ?? 0.07;
        need.Done();
        var start = state.Design.Starts.FirstOrDefault();
        return new(
            Spread(wheel),
            Spread(track),
            state.Moves.InUse(m.Name, TrialKind.Veer)
                ?? new Quantity(0, "deg/m", Provenance.Guessed, "not tried; straight is a guess", 0, 1, 9, -90, 90),
            start is null ? 5 : Math.Max(start.AtMm.MoveSd, start.RightMm?.MoveSd ?? 0),
            start?.HeadingDeg?.MoveSd ?? 1.5,
            speed,
            rate,
            reaction
        );
    }

    private static async Task<MoveView> Make(string id, TrialRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var plan = Plan(state, request.Key);
        if (state.Moves.Missing(plan) is { } missing)
            throw new InputProblem("key", missing);
        var at = state.Moves.At(plan.Mechanism);
        var made = state.Moves.Trials(plan);
        var need = new Require();
        var asked = need.Number(
            request.Asked,
            "asked",
            plan.Positive && plan.Kind is not (TrialKind.Rest or TrialKind.TimedTurn) ? 0 : -1e5,
            1e5
        );
        need.That(asked != 0 || !need.Holds, "asked", "Ask for something other than 0: a trial that does nothing says nothing.");
        if (plan.CommandUnit == "%")
            need.Optional(request.Commanded, "commanded", 0, 100, true);
        var told = need.Optional(
            request.Commanded,
            "commanded",
            plan.Positive ? 0 : -1e6,
            plan.CommandUnit == "%" ? 100 : 1e6,
            plan.Positive
        );
        var measured = need.Optional(request.Measured, "measured", -1e6, 1e6);
        if (plan.Kind == TrialKind.LeastPower && measured is { } m)
            need.That(m is 0 or 1, "measured", "Say 1 if it moved and 0 if it stayed.");
        need.That(made.Count < MostTrials, "key", $"At most {MostTrials} trials of one motion; start it anew.");
        need.Done();
        var number = state.Moves.InUse(plan);
        var fit = state.Moves.Fit(plan, asked);
        var commanded =
            told
            ?? (
                plan.Family == TrialFamily.Line && fit.NextCommand is { } next ? next
                : plan.Family == TrialFamily.Square ? TrialPlans.Command(plan, asked, number?.Value, at)
                : TrialPlans.Command(plan, asked, (fit.Number ?? number)?.Value, at)
            );
        var expected =
            plan.Family == TrialFamily.Mean && number is not null
                ? TrialPlans.Expect(plan, commanded, number.Value, at, asked)
                : Above(plan, asked, commanded, number, at);
        if (
            request.Sure != true
            && TrialPlans.Question(plan, asked, commanded, measured, plan.Kind == TrialKind.LeastPower ? null : expected, at)
                is { } question
        )
            throw new InputProblem(question.Field, question.Say + " Keep it if you are sure.");
        if (measured is null)
        {
            var seed = SampleBench.Seed(id, state.Copy.ToString(System.Globalization.CultureInfo.InvariantCulture), plan.Mechanism);
            var noise = new RandomStream(
                SampleBench.Seed(id, state.Copy.ToString(System.Globalization.CultureInfo.InvariantCulture), plan.Key),
                (uint)state.MotionVersions.GetValueOrDefault(plan.Key)
            );
            measured = TrialBench.Try(plan, state.Design, state.Delivered, seed, asked, commanded, ref noise);
        }
        await store.Motions.AddTrial(
            id,
            state.Copy,
            plan.Key,
            new(asked, commanded, measured.Value),
            request.Measured is null ? ReadingOrigin.Recorded : ReadingOrigin.Pasted,
            $"tried: {plan.Title}, {plan.Mechanism}",
            cancel
        );
        await announce.Changed(id, state.Copy, state.Revision, $"tried: {plan.Title}, {plan.Mechanism}", request.By);
        return View(
            await store.Load(id, state.Copy, null, cancel),
            plan.Key,
            plan.Kind == TrialKind.Square ? -asked
                : plan.Family == TrialFamily.Bracket ? null
                : asked
        );
    }

    private static async Task<MoveView> Accept(
        string id,
        AcceptRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var plan = Plan(state, request.Key);
        var target = Target(plan.Key, request.Target) ?? (state.Moves.Trials(plan) is { Count: > 0 } made ? made[^1].Asked : plan.Usual);
        var fit = state.Moves.Fit(plan, target);
        if (fit.Number is not { } number)
            throw new InputProblem(
                "key",
                state.Moves.Trials(plan).Count == 0 ? "There is nothing to accept yet: make a trial first." : fit.Say
            );
        await store.Motions.Accept(
            id,
            state.Copy,
            plan.Key,
            AcceptedNumber.Of(number, fit.Second, state.Moves.Trials(plan).Count, target),
            $"took the {plan.Number} of {plan.Mechanism} from trials",
            cancel
        );
        await announce.Changed(id, state.Copy, state.Revision, $"{plan.Number} of {plan.Mechanism} is measured now", request.By);
        return View(await store.Load(id, state.Copy, null, cancel), plan.Key, plan.Family == TrialFamily.Bracket ? null : target);
    }

    private static async Task<MoveView> LeaveOut(
        string id,
        LeaveOutRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var plan = Plan(state, request.Key);
        var made = state.Moves.Trials(plan);
        if (request.LeaveOut is { } i && (i < 0 || i >= made.Count))
            throw new InputProblem(
                "leaveOut",
                made.Count == 0 ? "There is no trial to leave out." : $"Must be a whole number from 0 to {made.Count - 1}."
            );
        var what = request.LeaveOut is { } at ? $"left out trial {at + 1} of {plan.Key}" : $"started {plan.Key} anew";
        await store.Motions.LeaveOut(id, state.Copy, plan.Key, request.BaseVersion, request.LeaveOut, what, cancel);
        await announce.Changed(id, state.Copy, state.Revision, what, request.By);
        return View(await store.Load(id, state.Copy, null, cancel), null, null);
    }

    private static IReadOnlyList<TurnWay> Turns(RigState state, TurnsRequest r)
    {
        var m = Mechanism(state, r.Mechanism);
        var at = state.Moves.At(m.Name);
        if (m.Kind != MechanismKind.TwoWheelDrive)
            throw new InputProblem("mechanism", $"{m.Name} does not turn about.");
        if (at.WheelMm <= 0 || at.TrackMm <= 0)
            throw new InputProblem("mechanism", "Say in Rig how large the wheels are and how far apart.");
        TurnWay Way(string style, string say)
        {
            var input = new TurnInput(at.WheelMm, at.TrackMm, r.TurnDeg, style, r.RadiusMm, at.MotorTurns, r.MotorSpeedDegPerS);
            try
            {
                return new(style, Turn.Compute(input), input, say);
            }
            catch (InputProblem p)
            {
                // The field has another name in this call than in the sum.
                throw new InputProblem(p.Errors.ToDictionary(e => e.Key == "arcRadiusMm" ? "radiusMm" : e.Key, e => e.Value));
            }
        }
        return
        [
            Way("spin", "On the spot: least room, and both wheels' slips count half each."),
            Way("pivot", "About one wheel: half as fast, needs room to one side, and the standing tyre scrubs."),
            Way("arc", "Along a bow: keeps rolling, needs most room."),
        ];
    }

    private static IReadOnlyList<StopWay> Stops(RigState state, StopsRequest r)
    {
        var m = Mechanism(state, r.Mechanism);
        var need = new Require();
        var speed = need.Number(r.SpeedMmPerS, "speedMmPerS", 0, 1e4, true);
        need.Done();
        var at = state.Moves.At(m.Name);
        StopWay Way(string style, TrialKind kind, string say)
        {
            var plan = state.Moves.Plans.FirstOrDefault(p => p.Mechanism == m.Name && p.Kind == kind);
            if (plan is null)
                return new(style, null, 0, Provenance.Guessed, say);
            // Until it was tried, what is usual stands for it, and is called a guess.
            var number =
                state.Moves.InUse(plan)
                ?? new Quantity(
                    TrialBench.Usual(kind),
                    plan.NumberUnit,
                    Provenance.Guessed,
                    "a usual value",
                    0,
                    0.1 * TrialBench.Usual(kind),
                    0.8 * TrialBench.Usual(kind),
                    1
                );
            double To(double n) => TrialPlans.Expect(plan, speed, Math.Max(1, n), at);
            var sd = Math.Sqrt(number.BetweenRunsSd * number.BetweenRunsSd + number.MoveSd * number.MoveSd);
            return new(style, To(number.Value), Math.Abs(To(number.Value - sd) - To(number.Value + sd)) / 2, number.Kind, say);
        }
        return
        [
            Way("brake", TrialKind.Brake, "Shorted: stops soon and then can be pushed. The usual end for drives."),
            Way(
                "hold",
                TrialKind.Brake,
                "Stops as soon and then holds its place, drawing current: the end for joints and lifts, or on a slope. A joint that "
                    + "is not held sinks or springs back."
            ),
            Way("coast", TrialKind.Coast, "Let go: rolls out softly and spares what it carries, but where it stands varies most."),
        ];
    }

    private static AxisJudged Axis(RigState state, AxisRequest r)
    {
        var m = Mechanism(state, r.Mechanism);
        var need = new Require();
        var speed = need.Number(r.SpeedDegPerS ?? MoveNumbers.UsualMotorSpeed, "speedDegPerS", 0, 1e5, true);
        var to = need.Number(r.To, "to", -1e6, 1e6);
        need.Done();
        var axis =
            MoveNumbers.Axis(m, Motor(state, m), Marks(state, m), speed, state.Moves.InUse(m.Name, TrialKind.Duration))
            ?? throw new InputProblem("mechanism", $"{m.Name} has no ends.");
        return new(axis, MoveNumbers.Judge(axis, to, m));
    }

    private static FollowView Follow(RigState state, FollowRequest r)
    {
        var m = Mechanism(state, r.Mechanism);
        var at = state.Moves.At(m.Name);
        var sight = m.Kind == MechanismKind.TwoWheelDrive ? MoveFill.Sight(state.Design, state.Calibrations) : null;
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
        var speed = need.Number(r.SpeedMmPerS ?? MoveNumbers.UsualSpeed, "speedMmPerS", 5, 2000);
        var turn = need.Number(r.TurnMmPerS ?? 40, "turnMmPerS", 1, 2000);
        var width = need.Number(r.LineWidthMm ?? 20, "lineWidthMm", 3, 200);
        var bend = need.Number(r.BendMm ?? 300, "bendMm", 60, 10_000);
        var delay = need.Number(r.DelayMs ?? at.DelayS * 1000, "delayMs", 0, 1000);
        var needed = need.Whole(r.ReadingsNeeded ?? 2, "readingsNeeded", 1, 20);
        var most = need.Number(r.MaxWheelMmPerS ?? 520, "maxWheelMmPerS", 10, 5000);
        var kp = need.Optional(r.Kp, "kp", 0, 100);
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
        var seed = SampleBench.Seed(state.Id, "line", m.Name);
        LineTrace[] traces =
        [
            LineTracer.Run(Following.TwoLevel, used, seed),
            LineTracer.Run(Following.ThreeBand, used, seed),
            LineTracer.Run(Following.Proportional, used, seed),
        ];
        LineTrace[] kept = [.. traces.Where(t => t.LostAtMm is null)];
        static string Word(Following f) =>
            f switch
            {
                Following.TwoLevel => "two levels",
                Following.ThreeBand => "three bands",
                _ => "proportional",
            };
        var say =
            kept.Length == 0
                ? "None of the three keeps this line: slow down, or mount the eye farther ahead."
                : $"{string.Join(" ", traces.Where(t => t.LostAtMm is not null).Select(t => $"Following by {Word(t.Kind)} loses the line after {t.LostAtMm:0} mm."))}{(kept.Length < 3 ? " " : "")}Steadiest: {Word(kept.MinBy(t => t.SwingDegPerS)!.Kind)}, "
                    + "which swings "
                    + $"{Figures.Show(kept.Min(t => t.SwingDegPerS), 2)} deg/s. Nearest to the "
                    + $"edge: {Word(kept.MinBy(t => t.RmsMm)!.Kind)}, {Figures.Show(kept.Min(t => t.RmsMm), 2)} mm off on the whole.";
        return new(traces, gain, switching, used, say);
    }
}
