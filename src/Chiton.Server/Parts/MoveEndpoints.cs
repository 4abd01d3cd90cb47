using System.Globalization;
using System.Text.Json;
using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Lines;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>Motor numbers become real motion.</summary>
public static class MoveEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var move = api.MapGroup("/rigs/{id}").WithTags("Move");
        move.MapGet(
                "/move",
                async Task<MoveView> (
                    string id,
                    int? copy,
                    string? key,
                    double? target,
                    double? power,
                    string? style,
                    RigStore store,
                    CancellationToken cancel
                ) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    return MoveView.Of(state, Setting(state, key, power, style), Target(key, target));
                }
            )
            .WithName("getMove")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost("/trials", Make).WithName("makeTrial").ProducesValidationProblem().ProducesProblem(404);
        move.MapPost("/trials/tell", Tell).WithName("tellTrial").ProducesValidationProblem().ProducesProblem(404);
        move.MapPost("/trials/accept", Accept).WithName("acceptTrials").ProducesValidationProblem().ProducesProblem(404);
        move.MapPost("/trials/leave-out", LeaveOut)
            .WithName("leaveOutTrials")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        move.MapPost(
                "/move/turns",
                async Task<IReadOnlyList<TurnWay>> (string id, TurnsRequest r, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, r.Copy, null, cancel);
                    return DriveWays.Turns(state.Moves, Mechanism(state, r.Mechanism), r.TurnDeg, r.RadiusMm, r.MotorSpeedDegPerS);
                }
            )
            .WithName("getTurns")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        move.MapPost(
                "/move/stops",
                async Task<IReadOnlyList<StopWay>> (string id, StopsRequest r, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, r.Copy, null, cancel);
                    return DriveWays.Stops(state.Moves, Mechanism(state, r.Mechanism), r.SpeedMmPerS);
                }
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
                        ChainKnows.Of(state.Design, state.Moves, m, r.SpeedMmPerS, r.TurnRateDegPerS, r.ReactionSdS)
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
                {
                    var state = await store.Load(id, r.Copy, null, cancel);
                    var m = Mechanism(state, r.Mechanism);
                    var wish = new FollowWish(
                        r.SpeedMmPerS,
                        r.TurnMmPerS,
                        r.Kp,
                        r.LineWidthMm,
                        r.BendMm,
                        r.DelayMs,
                        r.ReadingsNeeded,
                        r.MaxWheelMmPerS
                    );
                    return LineFollow.Run(
                        state.Design,
                        state.Moves,
                        state.Calibrations,
                        m,
                        wish,
                        SampleBench.Seed(state.Hidden.Rig, "line", m.Name)
                    );
                }
            )
            .WithName("followLine")
            .ProducesValidationProblem()
            .ProducesProblem(404);
    }

    private static readonly Dictionary<string, TurnStyle> TurnStyles = Enum.GetValues<TurnStyle>()
        .ToDictionary(s => JsonNamingPolicy.CamelCase.ConvertName(s.ToString()));

    // A timed move at another power, or turning another way, is a motion of its own.
    private static string? Setting(RigState state, string? key, double? power, string? style)
    {
        if (power is null && style is null)
            return key;
        var plan = Plan(state, key);
        var need = new Require();
        need.That(plan.Timed, "key", $"“{plan.Title}” has no power of its own.");
        var at = need.Optional(power, "power", 0, 100, true) ?? plan.Power ?? TrialCatalogue.UsualPower;
        TurnStyle? turning = TurnStyles.TryGetValue(style ?? "", out var named) ? named : null;
        need.That(style is null || turning is not null, "style", $"Must be one of {string.Join(", ", TurnStyles.Keys)}.");
        need.Done();
        return TrialCatalogue.At(plan, at, turning ?? plan.Style).Key;
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

    private static async Task<MoveView> Make(
        string id,
        TrialRequest request,
        RigStore store,
        Announcer announce,
        Lines lines,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var plan = Plan(state, request.Key);
        var measured = request.AtRest is null && request.Rolling is null ? request.Measured : Tremble(state, plan, request);
        var trial = TrialEntry.Of(state.Moves, plan, request.Asked, request.Commanded, measured, request.Sure == true);
        if (trial.Measured is null)
            state.StandInOnly("tried");
        var happened = trial.Measured ?? Try(state, plan, trial);
        var told = trial.Measured is null ? null : lines.TakeTold(id, state.Copy, plan.Key, trial.Asked, trial.Commanded);
        await store.Motions.AddTrial(
            id,
            state.Copy,
            plan.Key,
            new(trial.Asked, trial.Commanded, happened),
            measured is null ? ReadingOrigin.Recorded
                // What the board counted is its own; what a person measured is typed, whatever it was told by.
                : told?.Figure == measured
                    ? told!.FromBox ? ReadingOrigin.Box
                        : ReadingOrigin.Line
                : ReadingOrigin.Pasted,
            $"tried: {plan.Title}, {plan.Mechanism}",
            cancel,
            told is null ? "" : Told(told)
        );
        await announce.Changed(id, state.Copy, state.Revision, $"tried: {plan.Title}, {plan.Mechanism}", request.By);
        return MoveView.Of(
            await store.Load(id, state.Copy, null, cancel),
            plan.Key,
            plan.Kind == TrialKind.Square ? -trial.Asked
                : plan.Family == TrialFamily.Bracket ? null
                : trial.Asked
        );
    }

    private static string Told(TrialTold told)
    {
        var counted = told.Figure is { } figure ? $", counted {Figures.Show(figure)}" : "";
        var (all, by) = ($"{told.Told}{counted}", told.FromBox ? TrialRow.ByBox : "");
        return (all.Length + by.Length <= 1000 ? all : all[..(1000 - by.Length)]) + by;
    }

    // The real thing is told over its line; what it did is measured, and kept as a trial like any other.
    private static async Task<TrialTold> Tell(
        string id,
        TellTrialRequest request,
        RigStore store,
        OwnJobs jobs,
        Lines lines,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var plan = Plan(state, request.Key);
        var trial = TrialEntry.Of(state.Moves, plan, request.Asked, request.Commanded, null, false);
        var line = lines.Joined(state);
        using var job = jobs.Begin(request.Job, cancel);
        try
        {
            var told = await LineTrial.Tell(
                line,
                state.Design,
                BoxTrial.Of(state.Design, plan, trial.Asked, trial.Commanded),
                job.Stopping
            );
            lines.Remember(id, state.Copy, plan.Key, trial.Asked, trial.Commanded, told);
            return told;
        }
        catch (LineBroke e)
        {
            throw new InputProblem("copy", e.Message);
        }
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
            AcceptedNumber.Of(number, fit.Second, state.Moves.Trials(plan).Count, target, state.Moves.Against(plan)),
            $"took the {plan.Number} of {plan.Mechanism} from trials",
            cancel
        );
        await announce.Changed(id, state.Copy, state.Revision, $"{plan.Number} of {plan.Mechanism} is measured now", request.By);
        return MoveView.Of(await store.Load(id, state.Copy, null, cancel), plan.Key, plan.Family == TrialFamily.Bracket ? null : target);
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
        return MoveView.Of(await store.Load(id, state.Copy, null, cancel), null, null);
    }

    // What was measured are readings: what is kept is how much more they scatter while rolling.
    private static double Tremble(RigState state, TrialPlan plan, TrialRequest request)
    {
        if (plan.Kind != TrialKind.Tremble)
            throw new InputProblem("atRest", $"“{plan.Title}” is not measured by readings.");
        var eye = request.Sensor is null
            ? state.Design.Eyes.First()
            : state.Design.Eyes.FirstOrDefault(e => e.Name == request.Sensor)
                ?? throw new InputProblem("sensor", $"Must be one of {string.Join(", ", state.Design.Eyes.Select(e => e.Name))}.");
        IReadOnlyList<double> Read(string? text, string field)
        {
            try
            {
                const string zone = "readings";
                var facts = eye.Facts;
                return [.. ReadingText.Parse(text ?? "", zone, [zone], facts.From, facts.To, facts.Unit).SelectMany(z => z.Readings)];
            }
            catch (InputProblem p)
            {
                throw new InputProblem(field, string.Join(" ", p.Errors.Values));
            }
        }
        return Trembling.Of(Read(request.AtRest, "atRest"), Read(request.Rolling, "rolling"), request.Asked ?? 0).PercentPerMPerS;
    }

    // The simulated controller does it; every trial of a copy has luck of its own.
    private static double Try(RigState state, TrialPlan plan, TrialEntry trial)
    {
        var (rig, copy) = state.Hidden;
        var noise = new RandomStream(SampleBench.Seed(rig, copy, plan.Key), (uint)state.MotionVersions.GetValueOrDefault(plan.Key));
        var seed = SampleBench.Seed(rig, copy, plan.Mechanism);
        return TrialBench.Try(plan, state.Design, state.Delivered, seed, trial.Asked, trial.Commanded, ref noise);
    }

    private static AxisJudged Axis(RigState state, AxisRequest r)
    {
        var m = Mechanism(state, r.Mechanism);
        var need = new Require();
        var speed = need.Number(r.SpeedDegPerS ?? MoveNumbers.UsualMotorSpeed, "speedDegPerS", 0, 1e5, true);
        var to = need.Number(r.To, "to", -1e6, 1e6);
        need.Done();
        var axis = MoveView.Axis(state, m, speed) ?? throw new InputProblem("mechanism", $"{m.Name} has no ends.");
        return new(axis, MoveNumbers.Judge(axis, to, m));
    }
}
