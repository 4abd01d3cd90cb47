using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A sensor that is awaited by a program on another controller than the one it is wired to.</summary>
internal sealed class WrongController : Check
{
    /// <inheritdoc/>
    public override string Code => "wrong-controller";

    /// <inheritdoc/>
    public override string Title => "A device of another controller";

    /// <inheritdoc/>
    public override string Says =>
        "A program waits for a sensor that is wired to another controller: nothing ever comes from it. A command to a device "
        + "of another controller is refused by the sheet as it is written.";

    /// <inheritdoc/>
    public override string Part => "rig";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Controllers.Count(c => c.Role == NodeRole.Controller) > 1 ? null : "This rig has one controller.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        // A host reads every controller over the link.
        if (input.Program is not { OnHost: false, Place: { } here })
            yield break;
        bool Runs(string controller) => input.Rig.Controllers.Any(c => c.Name == controller && c.Role == NodeRole.Controller);
        var told = new HashSet<string>();
        foreach (var sensor in input.Rig.Sensors)
        {
            string[] homes =
            [
                .. input.Rig.Wires.Where(w => w.Device == sensor.Name && Runs(w.Controller)).Select(w => w.Controller).Distinct(),
            ];
            if (homes.Length == 0 || homes.Contains(here))
                continue;
            foreach (var (transition, at) in input.Walk.Transitions)
            {
                if (!Awaits(transition, sensor.Name) || input.Node.OwnNames.Any(o => o.Name == sensor.Name) || !told.Add(sensor.Name))
                    continue;
                yield return At(
                    at,
                    Severity.Stops,
                    $"{sensor.Name} is not on {here}",
                    $"{sensor.Name} is wired to {homes[0]}, and {input.Program.Name} runs on {here}: it never hears of it. Let a "
                        + $"program on "
                        + $"{homes[0]} tell it, or wire {sensor.Name} to {here}.",
                    sensor.Name
                );
            }
        }
    }

    private static bool Awaits(TransitionNode sentence, string sensor) =>
        sentence.Trigger switch
        {
            ZoneTriggerNode z => z.Sensor == sensor,
            PressTriggerNode p => p.Sensor == sensor,
            ConditionTriggerNode c => Asks(c.Condition, sensor),
            _ => false,
        }
        || sentence.Guard is { } guard && Asks(guard, sensor);

    private static bool Asks(ExprNode node, string sensor) =>
        node switch
        {
            ReadingNode r => r.Sensor == sensor,
            ZoneIsNode z => z.Sensor == sensor,
            SilentNode s => s.Sensor == sensor,
            BinaryNode b => Asks(b.Left, sensor) || Asks(b.Right, sensor),
            UnaryNode u => Asks(u.Operand, sensor),
            _ => false,
        };
}
