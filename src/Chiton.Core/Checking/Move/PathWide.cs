using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A chain of moves that nothing corrects, wider at its end than the place where it is to end.</summary>
internal sealed class PathWide : Check
{
    // Fewer of a hundred ends inside are told.
    private const double Bearable = 0.9;

    /// <inheritdoc/>
    public override string Code => "path-wide";

    /// <inheritdoc/>
    public override string Title => "A path that spreads too wide";

    /// <inheritdoc/>
    public override string Says =>
        "From where it is put down it drives and turns without a sensor that puts it right, and a goal asks it to end on a place: its ends "
        + "spread wider than that place.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered) is not { } drive ? "Nothing of this rig is steered."
        : Targets(input, drive).Any() ? null
        : "No goal asks the robot to end on a place whose size is known.";

    private sealed record Target(string Place, double X, double Y, double RadiusMm, SceneNode Scene);

    // The places that a goal asks the robot to come to, with the room they leave.
    private static IEnumerable<Target> Targets(CheckInput input, Mechanism drive)
    {
        foreach (var scene in input.Places)
        {
            var rules = scene
                .All("goal")
                .Select(l => (RuleNode)l.Values["rule"])
                .Concat(input.Node.Head.OfType<RuleNode>().Where(r => r.IsGoal));
            foreach (var place in rules.SelectMany(r => Asked(input, drive, r)).Distinct())
                if (
                    scene.Lines.FirstOrDefault(l =>
                        l.Name("name") == place && l.Key is "place" or "round place" or "patch" or "round patch"
                    )
                        is { } line
                    && line.Point("at") is { } at
                    && line.Value("w") is { } w
                )
                    yield return new(place, at.X, at.Y, Math.Min(w, line.Value("d") ?? w) / 2, scene);
        }
    }

    private static IEnumerable<string> Asked(CheckInput input, Mechanism drive, RuleNode rule)
    {
        bool Robot(string? subject) =>
            subject is null || subject == input.Rig.Name || ProgramWalk.Means(drive, subject) || subject is "robot" or "the robot";
        if (rule.Condition is ConditionKind.LoadOn or ConditionKind.StoppedOver && rule.Place is { } place && Robot(rule.Subject))
            yield return place;
        if (rule.Holds is { } holds)
            foreach (var world in World(holds))
                if (
                    world is { Fact: WorldFact.On or WorldFact.In or WorldFact.WhollyOn or WorldFact.StoppedOver, Place: { } there }
                    && Robot(world.Subject)
                )
                    yield return there;
    }

    private static IEnumerable<WorldNode> World(ExprNode node) =>
        node switch
        {
            WorldNode w => [w],
            BinaryNode b => [.. World(b.Left), .. World(b.Right)],
            _ => [],
        };

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var drive = input.Rig.Mechanisms.First(m => m.Facts.Going == Going.Steered);
        if (
            ChainKnows.Of(input.Rig, input.Moves, drive) is not { } known
            || Blind(input) is not { Count: > 0 } chain
            || chain.Count > PathChains.MostMoves
        )
            yield break;
        foreach (var target in Targets(input, drive))
        {
            if (target.Scene.First("start drive") is not { } start || start.Point("at") is not { } at)
                continue;
            // Heading 0 is up the plan; to the right it grows.
            var heading = (start.Value("heading") ?? 0) * Math.PI / 180;
            double dx = target.X - at.X,
                dy = target.Y - at.Y;
            var result = PathChains.Compute(
                [.. chain.Select(c => c.Move)],
                new(dx * Math.Sin(heading) + dy * Math.Cos(heading), dx * Math.Cos(heading) - dy * Math.Sin(heading), target.RadiusMm),
                known with
                {
                    StartSdMm = start.Number("sd")?.In("mm") ?? known.StartSdMm,
                    StartHeadingSdDeg = start.Number("asd")?.In("robot deg") ?? known.StartHeadingSdDeg,
                }
            );
            if (result.HitShare >= Bearable)
                continue;
            var worst = result.Sources.FirstOrDefault();
            var last = chain[^1].Command;
            var guesses = new (string Name, Quantity Of)[]
            {
                ("wheel diameter", known.WheelMm),
                ("track width", known.TrackMm),
                ("veer", known.VeerDegPerM),
            }
                .Where(k => k.Of.Kind == Provenance.Guessed)
                .Select(k => k.Name)
                .ToArray();
            yield return At(
                last.At,
                !input.CountsIn(target.Scene) ? Severity.Advice
                    : result.HitShare < 0.02 ? Severity.Stops
                    : Severity.Risky,
                $"It ends beside {target.Place}",
                $"{Count(chain.Count, "move")} in a row end {Show(result.Path.EndXMm, 3)} mm ahead and "
                    + $"{Show(result.Path.EndYMm, 3)} mm to the right of "
                    + $"the start, give or take {Show(result.SdXMm, 2)} and {Show(result.SdYMm, 2)} mm; {target.Place} "
                    + $"(“{target.Scene.Name}”) is "
                    + $"{Show(result.TargetXMm, 3)} mm ahead, {Show(result.TargetYMm, 3)} mm to the right and "
                    + $"{Show(target.RadiusMm, 3)} mm to each side: "
                    + $"{Show(100 * result.HitShare, 2)} of 100 end inside."
                    + (worst is null ? "" : $" Most comes from {worst.Name} ({Show(worst.SdMm, 2)} mm).")
                    + (guesses.Length > 0 ? $" It stands on a guess: {List(guesses)}." : "")
                    + (result.Gains.FirstOrDefault() is { } gain ? $" {gain.Say}" : ""),
                drive.Name
            ) with
            {
                Sum = new(
                    "path-error",
                    [
                        .. result
                            .Sources.Take(6)
                            .Select(s => new Step(s.Name, s.Move is { } m ? $"move {m + 1}" : "every move alike", s.SdMm, "mm")),
                        new("Together, ahead", "in quadrature, with what is alike in every move added", result.SdXMm, "mm"),
                        new("Together, to the side", "the same", result.SdYMm, "mm"),
                        new("Ends inside", $"within {Show(target.RadiusMm)} mm", 100 * result.HitShare, "of 100"),
                    ]
                ),
            };
        }
    }

    // The moves from the start on that nothing but their own ends leads through; null where there are none, or nobody knows how far they
    // go.
    private static List<(ChainMove Move, WalkedCommand Command)>? Blind(CheckInput input)
    {
        var moves = new List<(ChainMove, WalkedCommand)>();
        // The region that drives.
        var region = input.Node.Regions.FirstOrDefault(r =>
            input.Walk.Commands.Any(c => c.Action is DriveNode or TurnRobotNode && r.AllStates.Any(s => ReferenceEquals(s, c.At.State)))
        );
        var state = region?.States.FirstOrDefault(s => s.Initial) ?? region?.States.FirstOrDefault();
        for (var steps = 0; state is not null && steps < 40; steps++)
        {
            foreach (var line in state.Lines.OfType<ActivityNode>())
            foreach (var action in line.Actions)
                if (!Add(input, new(action, Line(input, line)), moves))
                    return moves.Count > 0 ? moves : null;
            var ways = state.Lines.OfType<TransitionNode>().Where(t => t.Target is not null).ToArray();
            // A press begins it; after that only what is done may lead on.
            var next = ways.FirstOrDefault(t =>
                t.Trigger is AlwaysTriggerNode or ConditionTriggerNode { Condition: DoneNode } && t.Guard is null
                || moves.Count == 0 && t.Trigger is PressTriggerNode or AfterTriggerNode
            );
            if (next is null || ways.Any(t => moves.Count > 0 && Waited.Of(input, t).Any()))
                break;
            state = Places.Target(input.Node, state, next);
        }
        return moves;
    }

    private static WalkedLine Line(CheckInput input, LineNode line) => input.Walk.Lines.First(l => ReferenceEquals(l.Line, line));

    // False where it goes on, or nobody knows how far.
    private static bool Add(CheckInput input, WalkedCommand command, List<(ChainMove, WalkedCommand)> moves)
    {
        double? One(ExprNode node) => input.Walk.Values(node) is { Count: 1 } values ? values[0].Value : null;
        switch (command.Action)
        {
            case ThenNode then:
                return then.Steps.All(s => Add(input, command with { Action = s }, moves));
            case RepeatNode repeat when One(repeat.Times) is >= 0 and <= 60 and var times:
                for (var i = 0; i < times; i++)
                    if (!repeat.Actions.All(a => Add(input, command with { Action = a }, moves)))
                        return false;
                return true;
            case DriveNode { Distance: { } far } drive when One(far) is { } mm:
                moves.Add((new("straight", drive.Back ? -mm : mm), command));
                return true;
            case TurnRobotNode { Angle: { } angle } turn when One(angle) is { } deg:
                moves.Add((new("turn", turn.Left ? -deg : deg), command));
                return true;
            case DriveNode or TurnRobotNode or SteerNode or SteerByNode or FollowNode or DoNode or RepeatUntilNode or IfNode or RepeatNode:
                return false;
            default:
                return true;
        }
    }
}
