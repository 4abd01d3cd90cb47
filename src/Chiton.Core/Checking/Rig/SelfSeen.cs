using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A sensor of distance whose beam meets the rig's own outline.</summary>
internal sealed class SelfSeen : Check
{
    /// <inheritdoc/>
    public override string Code => "self-seen";

    /// <inheritdoc/>
    public override string Title => "Sees its own robot";

    /// <inheritdoc/>
    public override string Says =>
        "The beam of a sensor of distance meets the rig's own body: nearer than that it sees nothing else, and what is waited for may be "
        + "there from the start.";

    /// <inheritdoc/>
    public override string Part => "rig";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Sensors.All(s => s.Kind != SensorKind.Distance) ? "No sensor of this rig measures a distance."
        : input.Rig.Outline.Count < 3 ? "The outline of the rig was not drawn in Rig."
        : null;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var told = new HashSet<string>();
        foreach (var (sentence, at) in input.Walk.Transitions)
        foreach (var waited in Waited.Of(input, sentence))
        {
            var sensor = waited.Sensor;
            if (
                sensor.Kind != SensorKind.Distance
                || told.Contains(sensor.Name)
                || Body.SeesItselfAtMm(input.Rig, sensor) is not { } own
                || own > (sensor.ReachMm?.Value ?? double.MaxValue)
            )
                continue;
            told.Add(sensor.Name);
            // What it reads is its body: that is what it waits for, or it never comes to it.
            var always = own >= waited.Low && own <= waited.High;
            var never = !always && waited.Low > own;
            yield return At(
                at,
                Severity.Stops,
                $"{sensor.Name} sees its own robot",
                $"{Show(own, 3)} mm before {sensor.Name} its beam{Beam(sensor)} meets the outline of the rig, and nothing behind "
                    + $"that is seen: "
                    + (
                        always ? $"{waited.Say} is so from the start."
                        : never ? $"it never comes to {waited.Say}."
                        : $"whatever comes, it reads {Show(own, 3)} mm or less."
                    )
                    + " Mount it farther out or higher, or turn it away.",
                sensor.Name
            );
        }
    }

    private static string Beam(Sensor sensor) =>
        sensor.BeamHalfAngleDeg is { Value: > 0 } half
            ? $" of {Show(2 * half.Value)}° ({half.Kind.ToString().ToLowerInvariant()}: {half.Source})"
            : "";
}
