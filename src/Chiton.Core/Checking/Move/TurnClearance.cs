using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A robot that stops before something and turns there, with a corner that strikes it.</summary>
internal sealed class TurnClearance : Check
{
    /// <inheritdoc/>
    public override string Code => "turn-clearance";

    /// <inheritdoc/>
    public override string Title => "No room to turn";

    /// <inheritdoc/>
    public override string Says =>
        "It comes to rest before something, or touches it, and turns there: a corner of its outline reaches farther than the room "
        + "that is left.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Mechanisms.All(m => m.Facts.Going != Going.Steered) ? "Nothing of this rig is steered."
        : input.Rig.Outline.Count < 3 ? "The outline of the rig was not drawn in Rig."
        : null;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<int>();
        foreach (var halt in Halts(input))
        foreach (var turn in Turns(input, halt.Next, 0, 0))
        {
            var reach = Reach(input, halt.Drive, turn.Turn);
            var room = halt.RoomMm + turn.BackMm;
            // Less than a millimetre nobody measures.
            if (reach <= room + 1 || !told.Add(turn.Command.At.Number))
                continue;
            yield return At(
                turn.Command.At,
                Severity.Risky,
                $"A corner strikes {(halt.Sensor.Kind == SensorKind.Distance ? $"what {halt.Sensor.Name} sees" : "what it touched")}",
                $"{halt.Say}{(turn.BackMm > 0 ? $", and it backs {Show(turn.BackMm)} mm" : "")}: {Show(room, 3)} mm from its "
                    + $"turning axis to what "
                    + $"is ahead. Turning, its outline reaches {Show(reach, 3)} mm ahead (outline, in Rig). "
                    + (turn.BackMm > 0 ? "Back farther" : "Back before turning, or stop earlier")
                    + $": {Show(Math.Ceiling((reach - room + 5) / 5) * 5)} mm more are enough.",
                halt.Sensor.Name,
                turn.Back is { } back && Farther(turn.Command, back, turn.BackMm + Math.Ceiling((reach - room + 5) / 5) * 5) is { } cure
                    ? cure
                    : null
            ) with
            {
                Sum = new(
                    "turn-clearance",
                    [
                        new("Left ahead of its turning axis", halt.Say, room, "mm"),
                        new("Its outline reaches, turning", "each corner goes round on a circle", reach, "mm"),
                        new("Missing", $"{Show(reach, 3)} − {Show(room, 3)}", reach - room, "mm"),
                    ]
                ),
            };
        }
    }

    private static Cure? Farther(WalkedCommand command, DriveNode back, double mm)
    {
        if (back.Distance is not LiteralNode { Unit: "mm" })
            return null;
        var mended = back with { Distance = new LiteralNode(Show(mm), "mm") };
        var at = command with { Action = back };
        return new($"Back {Show(mm)} mm", [new(command.At.Number, at.With(mended), at.NumberIndex(mended), "so that its corners pass")]);
    }

    /// <summary>A stop before something.</summary>
    private sealed record Stop(Mechanism Drive, Sensor Sensor, StateNode Next, double RoomMm, string Say);

    private static IEnumerable<Stop> Halts(CheckInput input)
    {
        foreach (var halt in Halt.All(input))
        {
            if (
                halt.Sensor is not { Kind: SensorKind.Distance, Mount: { Facing: Facing.Ahead } mount }
                || Places.Target(input.Node, halt.Command.At.State, halt.Sentence) is not { } next
                || Waited.Of(input, halt.Sentence).FirstOrDefault(w => w.Sensor.Name == halt.Sensor.Name)
                    is not { IsNear: true, High: > 0 } waited
            )
                continue;
            var gap = StopGap
                .Compute(
                    new(
                        halt.Speed,
                        halt.Sensor.SamplePeriodMs,
                        waited.Readings,
                        halt.DelayMs,
                        waited.High,
                        halt.Sensor.DelayMs,
                        halt.Decel.Value,
                        null,
                        2,
                        halt.Sensor.BlindMm?.Value ?? 0
                    )
                )
                .Result;
            // What it runs into is told by another.
            if (gap.GapLowMm <= 0)
                continue;
            yield return new(
                halt.Drive,
                halt.Sensor,
                next,
                (mount.AheadMm?.Value ?? 0) + gap.GapLowMm,
                $"Told to stop {waited.Say} before {halt.Sensor.Name}, it stands with {Show(gap.GapLowMm, 3)} mm left at the least"
            );
        }
        // A bumper is at what it touches.
        if (input.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered) is not { } drive)
            yield break;
        var front = input.Rig.Outline.Max(c => c.AheadMm);
        foreach (var (sentence, at) in input.Walk.Transitions)
        {
            if (!Places.DoesAround(input, at.State).Any(c => c.Action is DriveNode { Back: false } or FollowNode))
                continue;
            var name = sentence.Trigger switch
            {
                PressTriggerNode { Kind: PressKind.Pressed } p => p.Sensor,
                _ => Waited.Of(input, sentence).FirstOrDefault(w => w.Zone == Down(w.Sensor))?.Sensor.Name,
            };
            if (
                input.Rig.Sensors.FirstOrDefault(s => s.Name == name) is { Kind: SensorKind.Touch or SensorKind.Force } bumper
                // One on the drive of which nobody said where it sits is at the front, as most are.
                && (
                    bumper.Mount is { Facing: Facing.Ahead } or { AheadMm.Value: > 0 }
                    || bumper.Mount.AheadMm is null && bumper.On is { } on && ProgramWalk.Means(drive, on)
                )
                && Rides(input, bumper, drive)
                && Places.Target(input.Node, at.State, sentence) is { } next
            )
                yield return new(
                    drive,
                    bumper,
                    next,
                    Math.Max(front, bumper.Mount.AheadMm?.Value ?? front),
                    $"{bumper.Name} touches what is ahead"
                );
        }
    }

    private static string? Down(Sensor sensor) => sensor.Facts.View == "switch" && sensor.Zones.Count > 1 ? sensor.Zones[1] : null;

    private static bool Rides(CheckInput input, Sensor sensor, Mechanism drive) =>
        sensor.On is not { } on || ProgramWalk.Means(drive, on) || input.Rig.Mechanisms.All(m => !ProgramWalk.Means(m, on));

    // What is turned first after a state is entered, and how far it backs before that.
    private static IEnumerable<(TurnRobotNode Turn, WalkedCommand Command, double BackMm, DriveNode? Back)> Turns(
        CheckInput input,
        StateNode state,
        double back,
        int deep
    )
    {
        var does = Places.Does(input, state).ToArray();
        DriveNode? backed = null;
        foreach (var command in does)
            switch (command.Action)
            {
                case DriveNode { Back: true, Distance: { } far } d when input.Walk.Values(far) is { Count: > 0 } ways:
                    back += Math.Abs(ways.Min(w => Math.Abs(w.Value)));
                    backed = d;
                    continue;
                case DriveNode:
                    // Backed by time, or driven ahead: nobody knows how far it is then.
                    yield break;
                case TurnRobotNode turn:
                    yield return (turn, command, back, backed is not null && IsIn(command, backed) ? backed : null);
                    yield break;
            }
        if (deep >= 4)
            yield break;
        // A state that decides at once, or that only backs, leads on.
        foreach (var sentence in state.Lines.OfType<TransitionNode>())
            if (
                (
                    sentence.Trigger is AlwaysTriggerNode && !does.Any(c => Places.Moves(c.Action))
                    || backed is not null && sentence.Trigger is ConditionTriggerNode { Condition: DoneNode }
                )
                && Places.Target(input.Node, state, sentence) is { } next
                && !ReferenceEquals(next, state)
            )
                foreach (var turn in Turns(input, next, back, deep + 1))
                    yield return turn;
    }

    private static bool IsIn(WalkedCommand command, ActionNode other) =>
        command.At.Line is ActivityNode a && a.Actions.Any(x => Holds(x, other));

    private static bool Holds(ActionNode outer, ActionNode action) =>
        ReferenceEquals(outer, action) || outer.Inner.Any(i => Holds(i, action));

    // How far ahead of where it turned the outline reaches while it turns. Source: each corner goes round on a circle, from where it is to
    // where it is turned to; the farthest ahead is the top of the circle where that lies between.
    private static double Reach(CheckInput input, Mechanism drive, TurnRobotNode turn)
    {
        var track = drive.TrackWidthMm?.Value ?? 0;
        // About one wheel the axis lies there.
        var axis = turn.Pivoting == true && track > 0 ? (turn.Left ? -track / 2 : track / 2) : 0;
        var most = turn.Angle is { } angle && input.Walk.Values(angle) is { Count: > 0 } all ? all.Max(v => Math.Abs(v.Value)) : 360;
        var by = Math.Min(360, most) * Math.PI / 180;
        var reach = double.MinValue;
        foreach (var corner in input.Rig.Outline)
        {
            double x = corner.RightMm - axis,
                y = corner.AheadMm;
            var radius = Math.Sqrt(x * x + y * y);
            // To the right of ahead; turned left it grows less.
            var from = Math.Atan2(x, y);
            var to = turn.Left ? from - by : from + by;
            var (low, high) = (Math.Min(from, to), Math.Max(from, to));
            var passes = Enumerable.Range(-2, 5).Any(k => k * 2 * Math.PI >= low && k * 2 * Math.PI <= high);
            reach = Math.Max(reach, passes ? radius : radius * Math.Max(Math.Cos(from), Math.Cos(to)));
        }
        return reach;
    }
}
