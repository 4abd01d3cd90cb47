using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A motor that is driven by what somebody says, and goes on when nobody says anything any more.</summary>
internal sealed class NoWord : Check
{
    /// <inheritdoc/>
    public override string Code => "no-word";

    /// <inheritdoc/>
    public override string Title => "Goes on while nobody speaks";

    /// <inheritdoc/>
    public override string Says =>
        "Something moves until a message comes, and nothing else ends it: when the other controller falls silent it goes on and on.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.At.Line is not ActivityNode || !Places.RunsOn(command.Action) || !input.Walk.Moved(command.Action).Any())
                continue;
            var ways = Places.Ways(input.Node, command.At.State).Where(t => t.Target is not null || t.Actions.Count > 0).ToArray();
            if (ways.Length == 0 || !ways.All(t => t.Trigger is ToldTriggerNode))
                continue;
            var said = Quantities.Figures.List(ways.Select(t => $"“{((ToldTriggerNode)t.Trigger).Text}”").Distinct());
            yield return At(
                command.At,
                Severity.Risky,
                $"{input.Walk.Moved(command.Action).First()} goes on when nobody speaks",
                $"Only {said} ends it. A message that is lost, or a controller that is switched off, lets it run on. Add what is to "
                    + $"happen “when not "
                    + $" told for 1 s”, or a time that it may take at most.",
                input.Walk.Moved(command.Action).First()
            );
        }
    }
}
