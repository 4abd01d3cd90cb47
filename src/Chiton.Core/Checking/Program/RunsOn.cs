using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A motor that a state starts and nothing ever stops.</summary>
internal sealed class RunsOnCheck : Check
{
    /// <inheritdoc/>
    public override string Code => "runs-on";

    /// <inheritdoc/>
    public override string Title => "Runs on with nobody to stop it";

    /// <inheritdoc/>
    public override string Says =>
        "What a state starts on entry, or a sentence starts on its way, goes on when the state is left, and nothing that comes after "
        + "stops it or commands it anew.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Rolling, initial\n    on entry: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Waiting\n\n"
        + "  state Waiting\n    on entry: turn Lamp on\n    after 2 s: go Waiting\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Rolling, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Waiting\n\n"
        + "  state Waiting\n    on entry: turn Lamp on\n    after 2 s: go Waiting\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.At.Line is ActivityNode { Moment: ActivityMoment.While } || !Places.RunsOn(command.Action))
                continue;
            var moved = input.Walk.Moved(command.Action).ToHashSet();
            if (moved.Count == 0)
                continue;
            bool Commands(StateNode s) =>
                input.Walk.Commands.Any(c =>
                    ReferenceEquals(c.At.State, s) && (c.Action is StopAllNode || input.Walk.Moved(c.Action).Any(moved.Contains))
                );
            // Where the program is over, everything that moves is stopped.
            var region = Places.Region(input.Node, command.At.State).ToArray();
            bool Ends(StateNode s) => s.Final && input.Node.Regions.Count == 1;
            // Stopped in another region, it is not left to itself.
            var elsewhere = input.Walk.Commands.Any(c =>
                !region.Any(s => ReferenceEquals(s, c.At.State))
                && (c.Action is StopAllNode || input.Walk.Moved(c.Action).Any(moved.Contains))
            );
            if (elsewhere)
                continue;
            var left = command.At.Line is TransitionNode own
                ? [(own, To: Places.Target(input.Node, command.At.State, own))]
                : Places
                    .Ways(input.Node, command.At.State)
                    .Where(t => t.Target is not null && !t.Actions.Any(a => Stops(input, a, moved)))
                    .Select(t => (t, To: Places.Target(input.Node, command.At.State, t)));
            foreach (var (sentence, to) in left)
            {
                if (to is null || Places.Around(input.Node, to).Any(s => ReferenceEquals(s, command.At.State)))
                    continue;
                var after = Places.From(input.Node, to);
                if (after.Any(s => Commands(s) || Ends(s)))
                    continue;
                var motor = moved.Order().First();
                yield return At(
                    command.At,
                    Severity.Risky,
                    $"{motor} runs on in {to.Name}",
                    $"“{Printer.Plain(Printer.Sentence(command.Action))}” goes on when “{Printer.Trigger(sentence)}” leads to "
                        + $"{to.Name}, and nothing "
                        + $"from there on stops it. Write “while here”, and it stops when {command.At.State.Name} is left.",
                    motor,
                    command.At.Line is ActivityNode { Moment: ActivityMoment.Entry } activity
                        ? new(
                            "Run it while here",
                            [
                                new(
                                    command.At.Number,
                                    Printer.Plain(Printer.Pieces(activity with { Moment = ActivityMoment.While })),
                                    -1,
                                    "it stops when the state is left"
                                ),
                            ]
                        )
                        : null
                );
                break;
            }
        }
    }

    private static bool Stops(CheckInput input, ActionNode action, HashSet<string> moved) =>
        action is StopAllNode || input.Walk.Moved(action).Any(moved.Contains) || action.Inner.Any(i => Stops(input, i, moved));
}
