using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A distance that lies nearer than its sensor can see, or silence that counts as near.</summary>
internal sealed class ZoneBlind : Check
{
    /// <inheritdoc/>
    public override string Code => "zone-blind";

    /// <inheritdoc/>
    public override string Title => "Nearer than a sensor sees";

    /// <inheritdoc/>
    public override string Says =>
        "A sentence waits for a distance within the sensor's blind zone, where it answers wrongly or not at all; or the zone that "
        + "its silence "
        + "counts as is its nearest.";

    /// <inheritdoc/>
    public override string Part => "sense";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Sensors.Any(s => s.Kind == SensorKind.Distance) ? null : "No sensor of this rig measures a distance.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var (transition, at) in input.Walk.Transitions)
        {
            if (Wanted(input, transition.Trigger) is not { Sensor.BlindMm: { } blind } wanted)
                continue;
            var (sensor, from, to, what) = wanted;
            if (to <= blind.Value)
                yield return At(
                    at,
                    Severity.Stops,
                    $"{sensor.Name} is blind there",
                    $"{what} lies within {Quantities.Figures.Show(blind.Value)} mm ({blind.Kind.ToString().ToLowerInvariant()}: "
                        + $"{blind.Source}), where "
                        + $"{sensor.Name} answers wrongly: it never comes to that. Wait for something farther away, or move the "
                        + $"sensor back.",
                    sensor.Name
                );
            else if (from < blind.Value - 1e-9 && from > 0)
                yield return At(
                    at,
                    Severity.Advice,
                    $"Part of {what} cannot be seen",
                    $"From {Quantities.Figures.Show(from)} to {Quantities.Figures.Show(blind.Value)} mm {sensor.Name} answers wrongly "
                        + $"({blind.Kind.ToString().ToLowerInvariant()}: {blind.Source}).",
                    sensor.Name
                );
            if (
                transition.Trigger is ZoneTriggerNode z
                && sensor.SilenceIs == z.Zone
                && sensor.Bands.Count > 1
                && sensor.Bands.MinBy(b => b.FromMm)!.Zone == z.Zone
            )
                yield return At(
                    at,
                    Severity.Risky,
                    $"Nothing at all counts as {z.Zone}",
                    $"When {sensor.Name} hears nothing it counts as {z.Zone}, its nearest zone: an empty room sets this off. Let its "
                        + $"silence count as "
                        + $"{sensor.Bands.MaxBy(b => b.ToMm)!.Zone} in Rig.",
                    sensor.Name
                );
        }
    }

    private static (Sensor Sensor, double From, double To, string What)? Wanted(CheckInput input, TriggerNode trigger)
    {
        switch (trigger)
        {
            case ZoneTriggerNode { Relation: not ZoneRelation.Leaves } z
                when Find(z.Sensor) is { } s && s.Bands.FirstOrDefault(b => b.Zone == z.Zone) is { } band:
                return (s, band.FromMm, band.ToMm, z.Zone);
            case ConditionTriggerNode
            {
                Condition: BinaryNode { Operator: Operator.Less or Operator.LessOrEqual, Left: ReadingNode r } less
            } when Find(r.Sensor) is { } s && Analysis.Constant(less.Right) is { } value:
                return (s, 0, value, $"“{Printer.Trigger(new TransitionNode([], trigger, null, [], null))}”");
            default:
                return null;
        }
        Sensor? Find(string name) => input.Rig.Sensors.FirstOrDefault(s => s.Name == name && s.Kind == SensorKind.Distance);
    }
}
