using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>A zone that a program uses and of which nothing is known.</summary>
internal sealed class ZoneBandless : Check
{
    /// <inheritdoc/>
    public override string Code => "zone-bandless";

    /// <inheritdoc/>
    public override string Title => "A zone without readings";

    /// <inheritdoc/>
    public override string Says =>
        "A program waits for a zone of which this copy has neither readings nor a band, and which no program teaches: nobody can tell when "
        + "a reading lies in it.";

    /// <inheritdoc/>
    public override string Part => "sense";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var taught = input
            .Programs.SelectMany(p => new ProgramWalk(p.Parsed.Program, input.Rig).Commands)
            .Select(c => c.Action)
            .OfType<TeachNode>()
            .Select(t => (t.Sensor, t.Zone))
            .ToHashSet();
        var told = new HashSet<(string, string)>();
        foreach (var (transition, at) in input.Walk.Transitions)
        {
            var (name, zone) = transition.Trigger switch
            {
                ZoneTriggerNode z => (z.Sensor, z.Zone),
                ConditionTriggerNode { Condition: ZoneIsNode z } => (z.Sensor, z.Zone),
                _ => ("", ""),
            };
            var sensor = input.Rig.Sensors.FirstOrDefault(s => s.Name == name);
            if (sensor is null || sensor.Facts.View is not ("scalar" or "bands" or "colours") || taught.Contains((name, zone)))
                continue;
            if (sensor.SilenceIs == zone || !told.Add((name, zone)))
                continue;
            var bands = sensor.Bands.Any(b => b.Zone == zone);
            var read = input.Calibrations.GetValueOrDefault(name)?.Kept(zone).Count() ?? 0;
            if (bands || read >= 3)
                continue;
            yield return At(
                at,
                Severity.Stops,
                $"Nobody knows {zone} on {name}",
                read == 0
                    ? $"This copy has no readings of {zone} on {name}, and no band says where it lies. Take readings of it in Sense."
                    : $"This copy has only {Quantities.Figures.Count(read, "reading")} of {zone} on {name}; 3 are the least. Take "
                        + $"more in Sense.",
                name
            );
        }
    }
}
