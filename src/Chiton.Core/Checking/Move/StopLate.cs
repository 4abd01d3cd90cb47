using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A robot that is driven until a sensor tells it to stop, and what its way to rest is made of.</summary>
/// <param name="Command">The command that drives.</param>
/// <param name="Speed">How fast, mm/s.</param>
/// <param name="Sentence">What ends it.</param>
/// <param name="Sensor">The sensor that tells.</param>
/// <param name="Drive">What is driven.</param>
/// <param name="Decel">How it brakes, mm/s².</param>
/// <param name="DelayMs">From the decision to the motor obeying, ms.</param>
internal sealed record Halt(
    WalkedCommand Command,
    double Speed,
    TransitionNode Sentence,
    Sensor Sensor,
    Mechanism Drive,
    Quantity Decel,
    double DelayMs
)
{
    /// <summary>Readings in a row that the sentence takes.</summary>
    public int Readings =>
        Sentence.Trigger is ZoneTriggerNode { Readings: { } n } ? int.Parse(n, System.Globalization.CultureInfo.InvariantCulture) : 1;

    /// <summary>Every way of driving ahead that a sensor ends, after which nothing drives ahead.</summary>
    public static IEnumerable<Halt> All(CheckInput input)
    {
        if (input.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered) is not { } drive)
            yield break;
        var decel = input.Moves.InUse(drive.Name, TrialKind.Brake) ?? new(900, "mm/s²", Provenance.Guessed, "a usual value");
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not DriveNode { Back: false } ahead || command.At.Line is not ActivityNode)
                continue;
            // The fastest that it may be told to go.
            var speeds = input
                .Walk.Values(ahead.Speed)
                .Where(s => s.Unit is "mm/s" or "cm/s" or "m/s")
                .Select(s => Math.Abs(s.Value))
                .ToArray();
            if (speeds.Length == 0 || speeds.Max() <= 0)
                continue;
            foreach (var sentence in Places.Ways(input.Node, command.At.State))
            {
                var name = sentence.Trigger switch
                {
                    ZoneTriggerNode { Relation: not ZoneRelation.Leaves, For: null } z => z.Sensor,
                    ConditionTriggerNode { For: null, Condition: ZoneIsNode { Not: false } z } => z.Sensor,
                    ConditionTriggerNode
                    {
                        For: null,
                        Condition: BinaryNode { Operator: Operator.Less or Operator.LessOrEqual, Left: ReadingNode r }
                    } => r.Sensor,
                    _ => null,
                };
                if (input.Rig.Sensors.FirstOrDefault(s => s.Name == name) is not { } sensor)
                    continue;
                // What only goes on differently is no stop.
                if (
                    Places.Target(input.Node, command.At.State, sentence) is not { } next
                    || Ahead(input, next)
                    || sentence.Actions.Any(Goes)
                )
                    continue;
                yield return new(command, speeds.Max(), sentence, sensor, drive, decel, 1000 * input.Moves.At(drive.Name).DelayS);
            }
        }
    }

    private static bool Ahead(CheckInput input, StateNode state, int deep = 0) =>
        Places
            .DoesAround(input, state)
            .Any(c => c.Action is DriveNode { Back: false } or FollowNode or SteerNode or SteerByNode && First(c))
        // A state that decides at once leads on before anything stops.
        || deep < 4
            && !Places.Does(input, state).Any()
            && state
                .Lines.OfType<TransitionNode>()
                .Any(t =>
                    t.Trigger is AlwaysTriggerNode && Places.Target(input.Node, state, t) is { } next && Ahead(input, next, deep + 1)
                );

    // In a chain what stands first is done first: what comes after it comes from rest.
    private static bool First(WalkedCommand command) => command.At.Line is ActivityNode a && a.Actions.Any(x => IsFirst(x, command.Action));

    private static bool IsFirst(ActionNode outer, ActionNode action) =>
        ReferenceEquals(outer, action)
        || (outer is ThenNode then ? IsFirst(then.Steps[0], action) : outer.Inner.Any(i => IsFirst(i, action)));

    private static bool Goes(ActionNode action) => action is DriveNode { Back: false } or FollowNode || action.Inner.Any(Goes);

    /// <summary>The command at another speed, as a cure; null where its speed is no number of its line.</summary>
    public Cure? At(double speed, string source)
    {
        if (Command.Action is not DriveNode { Speed: LiteralNode { Unit: "mm/s" } } ahead || speed < 5)
            return null;
        var mended = ahead with { Speed = new LiteralNode(Show(speed), "mm/s") };
        return new($"Use {Show(speed)} mm/s", [new(Command.At.Number, Command.With(mended), Command.NumberIndex(mended), source)]);
    }

    /// <summary>Where the numbers come from, in words.</summary>
    public string Sources =>
        $"It brakes with {Show(Decel.Value, 3)} mm/s² ({Decel.Kind.ToString().ToLowerInvariant()}: {Decel.Source}) and obeys after "
        + $"{Show(DelayMs)} ms."
        + (Decel.Kind == Provenance.Guessed ? " Trials of braking in Move make it sure." : "");
}

/// <summary>Driven ahead until something is near, or until the edge is seen, and too late to stop before it.</summary>
internal sealed class StopLate : Check
{
    /// <inheritdoc/>
    public override string Code => "stop-late";

    /// <inheritdoc/>
    public override string Title => "Stops too late";

    /// <inheritdoc/>
    public override string Says =>
        "From the reading that says stop to rest it goes on, and that way is longer than the room that is left: it runs into what it "
        + "should stop "
        + "before, or a wheel leaves the table, met head on.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered) ? null : "Nothing of this rig is steered.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var edges = new HashSet<int>();
        foreach (var halt in Halt.All(input))
        {
            // One of which nobody said where it sits looks ahead, as most do.
            var looksAhead = halt.Sensor.Mount.Facing != Facing.Down || halt.Sensor.Mount.AheadMm is null;
            if (halt.Sensor.Kind == SensorKind.Distance && looksAhead && TriggerMm(halt) is { } trigger)
            {
                if (Near(halt, trigger) is { } finding)
                    yield return finding;
            }
            else if (
                Edges.IsEdge(input, halt)
                && Edges.Sum(input, halt, halt.Speed, 0) is { } sum
                && sum.Result.HeadOnMarginMm < 0
                && edges.Add(halt.Command.At.Number)
            )
            {
                var safe = Edges.Safe(input, halt, 0);
                yield return At(
                    halt.Command.At,
                    Severity.Risky,
                    "A wheel leaves before it stands",
                    $"At {Show(halt.Speed)} mm/s it goes {Show(sum.Result.StopDistanceMm, 3)} mm from the edge under "
                        + $"{halt.Sensor.Name} to rest, braking at its "
                        + $"worst, and has {Show(sum.Result.StopDistanceMm + sum.Result.HeadOnMarginMm, 3)} mm. {halt.Sources}",
                    halt.Sensor.Name,
                    safe is { } v ? halt.At(v, "so that it stands before a wheel is over the edge") : null
                ) with
                {
                    Sum = Evidence.Of("edge-guard", sum),
                };
            }
        }
    }

    private Finding? Near(Halt halt, double trigger)
    {
        Answer<StopGapResult> Of(double v) =>
            StopGap.Compute(
                new(
                    v,
                    halt.Sensor.SamplePeriodMs,
                    halt.Readings,
                    halt.DelayMs,
                    trigger,
                    halt.Sensor.DelayMs,
                    halt.Decel.Value,
                    null,
                    2,
                    halt.Sensor.BlindMm?.Value ?? 0
                )
            );
        StopGapResult Gap(double v) => Of(v).Result;
        var gap = Gap(halt.Speed);
        if (gap.GapLowMm > 0)
            return null;
        // Half the room that is left, rounded down to what somebody would type.
        var safe = Enumerable
            .Range(1, 200)
            .Select(i => halt.Speed * (1 - i / 200.0))
            .FirstOrDefault(v => v > 0 && Gap(v).GapLowMm > trigger / 10);
        return At(
            halt.Command.At,
            gap.GapHighMm <= 0 ? Severity.Stops : Severity.Risky,
            gap.GapHighMm <= 0 ? $"It runs into what {halt.Sensor.Name} sees" : $"It can run into what {halt.Sensor.Name} sees",
            $"Told to stop at {Show(trigger)} mm, at {Show(halt.Speed)} mm/s, it has {Show(gap.GapLowMm, 3)} to "
                + $"{Show(gap.GapHighMm, 3)} mm left at rest. "
                + halt.Sources,
            halt.Sensor.Name,
            halt.At(Math.Floor(safe / 5) * 5, "so that it stops with a tenth of the way left")
        ) with
        {
            Sum = Evidence.Of("stop-gap", Of(halt.Speed)),
        };
    }

    private static double? TriggerMm(Halt halt) =>
        halt.Sentence.Trigger switch
        {
            ZoneTriggerNode z => halt.Sensor.Bands.FirstOrDefault(b => b.Zone == z.Zone)?.ToMm,
            ConditionTriggerNode { Condition: ZoneIsNode z } => halt.Sensor.Bands.FirstOrDefault(b => b.Zone == z.Zone)?.ToMm,
            ConditionTriggerNode { Condition: BinaryNode b } => Analysis.Constant(b.Right),
            _ => null,
        }
            is > 0
                and var mm
            ? mm
            : null;
}

/// <summary>The edge of a table as the eyes of a robot see it.</summary>
internal static class Edges
{
    /// <summary>Steeper than that it is met along it, and there is time.</summary>
    public const double SteepestDeg = 45;

    /// <summary>True where a program forbids going over an edge and an eye that looks down ends the move.</summary>
    public static bool IsEdge(CheckInput input, Halt halt) =>
        halt.Sensor.Mount.Facing == Facing.Down
        && halt.Sensor.Kind is SensorKind.ReflectedLight or SensorKind.Colour or SensorKind.ColourName or SensorKind.Distance
        && input.Programs.Any(p => p.Parsed.Program.Head.OfType<RuleNode>().Any(r => !r.IsGoal && r.Condition == ConditionKind.OverEdge));

    // Eyes that tell the same state to stop work together, and their places are those of the rig.
    private static Sensor[] Eyes(CheckInput input, Halt halt)
    {
        var together = Halt.All(input)
            // A switch that ends the move as well is no eye, wherever nobody said that it looks.
            .Where(h => ReferenceEquals(h.Command.At, halt.Command.At) && IsEdge(input, h))
            .Select(h => h.Sensor.Name)
            .ToHashSet();
        return [.. input.Rig.Sensors.Where(s => together.Contains(s.Name))];
    }

    /// <summary>The sum at a speed; null where a number of it was never measured, so that nothing can be said.</summary>
    public static Answer<EdgeGuardResult>? Sum(CheckInput input, Halt halt, double speed, double angleDeg)
    {
        var eyes = Eyes(input, halt);
        if (
            halt.Drive.TrackWidthMm is not { } track
            || eyes.Length == 0
            || eyes.Any(e => e.Mount.AheadMm is null || e.Mount.RightMm is null)
        )
            return null;
        return EdgeGuard.Compute(
            new(
                eyes.Min(e => e.AheadMm.Value),
                [.. eyes.Select(e => e.Mount.RightMm!.Value)],
                track.Value / 2,
                angleDeg,
                speed,
                halt.Sensor.SamplePeriodMs,
                halt.Readings,
                halt.DelayMs,
                halt.Decel.Value,
                halt.Sensor.Spot.Value,
                halt.Decel is { Kind: Provenance.Measured, MoveSd: > 0 } braked ? 100 * braked.MoveSd / braked.Value : null
            )
        );
    }

    /// <summary>The greatest speed that is safe, rounded down; null when there is none.</summary>
    public static double? Safe(CheckInput input, Halt halt, double angleDeg) =>
        Sum(input, halt, halt.Speed, angleDeg)?.Result.MaxSafeSpeedMmPerS is { } v && Math.Floor(v / 5) * 5 is >= 5 and var round
            ? round
            : null;
}

/// <summary>An edge that is seen too late at some angle only.</summary>
internal sealed class EdgeBlind : Check
{
    /// <inheritdoc/>
    public override string Code => "edge-blind";

    /// <inheritdoc/>
    public override string Title => "An edge that is not seen in time";

    /// <inheritdoc/>
    public override string Says => "Met head on it stops in time, and at a slant a wheel is over the edge before an eye sees it.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Advice;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered) ? null : "Nothing of this rig is steered.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<int>();
        foreach (var halt in Halt.All(input))
        {
            if (
                !Edges.IsEdge(input, halt)
                || told.Contains(halt.Command.At.Number)
                || Edges.Sum(input, halt, halt.Speed, Edges.SteepestDeg) is not { } sum
                || sum.Result.HeadOnMarginMm < 0
                || sum.Result.WorstMarginMm >= 0
            )
                continue;
            told.Add(halt.Command.At.Number);
            var safe = Edges.Safe(input, halt, Edges.SteepestDeg);
            yield return At(
                halt.Command.At,
                // How it meets the edge is for the bench to say.
                Severity.Advice,
                $"At {Show(sum.Result.WorstAngleDeg, 2)}° to the edge a wheel is over first",
                $"Head on {Show(sum.Result.HeadOnMarginMm, 3)} mm are left, at {Show(sum.Result.WorstAngleDeg, 2)}° "
                    + $"{Show(-sum.Result.WorstMarginMm, 3)} mm are "
                    + $"missing at {Show(halt.Speed)} mm/s: the wheel on that side lies farther out than its eye. {halt.Sources}",
                halt.Sensor.Name,
                safe is { } v ? halt.At(v, "so that it stands in time at every angle up to 45°") : null
            ) with
            {
                Sum = Evidence.Of("edge-guard", sum),
            };
        }
    }
}
