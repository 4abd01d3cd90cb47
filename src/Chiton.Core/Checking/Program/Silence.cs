using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A motor that runs until a sensor sees something, while the sensor may hear nothing at all.</summary>
internal sealed class SilenceCheck : Check
{
    /// <inheritdoc/>
    public override string Code => "silence";

    /// <inheritdoc/>
    public override string Title => "Goes on while a sensor hears nothing";

    /// <inheritdoc/>
    public override string Says =>
        "Something moves until a sensor answers, and nothing else ends it. A sensor that hears nothing answers nothing: it goes on.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Sensors.Any(MayHearNothing) ? null : "No sensor of this rig can hear nothing.";

    private static bool MayHearNothing(Rigs.Sensor sensor) => sensor.Kind == Rigs.SensorKind.Distance;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var deaf = input.Rig.Sensors.Where(MayHearNothing).ToDictionary(s => s.Name);
        foreach (var command in input.Walk.Commands)
        {
            if (command.At.Line is not ActivityNode || !Places.RunsOn(command.Action) || !input.Walk.Moved(command.Action).Any())
                continue;
            var ways = Places.Ways(input.Node, command.At.State).Where(t => t.Target is not null || t.Actions.Count > 0).ToArray();
            var asked = ways.Select(t => Asked(t.Trigger)).ToArray();
            if (ways.Length == 0 || asked.Any(a => a is null || !deaf.ContainsKey(a)) || asked.Distinct().Count() != 1)
                continue;
            var sensor = deaf[asked[0]!];
            // Silence that counts as a zone which is waited for is answered.
            if (ways.Any(t => t.Trigger is ZoneTriggerNode z && z.Zone == sensor.SilenceIs && z.Relation != ZoneRelation.Leaves))
                continue;
            yield return At(
                command.At,
                Severity.Advice,
                $"Nothing ends it while {sensor.Name} hears nothing",
                $"{command.At.State.Name} goes on until {sensor.Name} answers. Where nothing is in reach"
                    + (
                        sensor.ReachMm is { } reach
                            ? $" ({Quantities.Figures.Show(reach.Value)} mm, {reach.Kind.ToString().ToLowerInvariant()})"
                            : ""
                    )
                    + $" it answers nothing. Let a time end it too, or say what is to happen “when {sensor.Name} hears nothing”.",
                sensor.Name
            );
        }
    }

    // The sensor that a trigger waits for alone; null where it waits for something else, or answers to silence.
    private static string? Asked(TriggerNode trigger) =>
        trigger switch
        {
            ZoneTriggerNode z => z.Sensor,
            ConditionTriggerNode { Condition: ZoneIsNode z } => z.Sensor,
            ConditionTriggerNode { Condition: BinaryNode { Left: ReadingNode r } } => r.Sensor,
            ConditionTriggerNode { Condition: BinaryNode { Right: ReadingNode r } } => r.Sensor,
            _ => null,
        };
}
