using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Bands of distance that leave readings between them, or lie over each other.</summary>
internal abstract class BandCheck : Check
{
    /// <inheritdoc/>
    public override string Part => "sense";

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Sensors.Any(s => s.Bands.Count > 1) ? null : "No sensor of this rig has bands of distance.";

    /// <summary>What is told of two bands side by side; null where nothing is.</summary>
    protected abstract (Severity Severity, string Headline, string Say)? Tell(
        CheckInput input,
        Band near,
        Band far,
        bool both,
        Sensor sensor
    );

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        var awaited = input.Walk.Transitions.SelectMany(t => Waited.Of(input, t.Transition).Select(w => (Waited: w, t.At))).ToArray();
        foreach (var sensor in input.Rig.Sensors.Where(s => s.Bands.Count > 1))
        {
            var own = awaited.Where(a => a.Waited.Sensor.Name == sensor.Name && a.Waited.Zone is not null).ToArray();
            var ordered = sensor.Bands.OrderBy(b => b.FromMm + b.ToMm).ToArray();
            for (var i = 0; i + 1 < ordered.Length; i++)
            {
                var (near, far) = (ordered[i], ordered[i + 1]);
                if (own.FirstOrDefault(a => a.Waited.Zone == near.Zone || a.Waited.Zone == far.Zone) is not { At: { } at })
                    continue;
                bool Waits(Band band) => own.Any(a => a.Waited.Zone == band.Zone);
                if (Tell(input, near, far, Waits(near) && Waits(far), sensor) is { } told)
                    yield return At(at, told.Severity, told.Headline, told.Say, sensor.Name);
            }
        }
    }
}

/// <summary>A stretch of distances that is in no band.</summary>
internal sealed class ZoneGap : BandCheck
{
    /// <inheritdoc/>
    public override string Code => "zone-gap";

    /// <inheritdoc/>
    public override string Title => "Readings that no zone answers";

    /// <inheritdoc/>
    public override string Says =>
        "Between two bands of distance lies a stretch that is in neither: what stands there is in no zone, and no sentence answers it.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    // So wide beside the band before it that things come to stand there.
    private const double Wide = 0.2;

    // What comes through a narrow gap is in a zone again soon; what stands in it is not.
    private static bool Matters(CheckInput input, Band near, Band far, Sensor sensor) =>
        far.FromMm - near.ToMm > Wide * (near.ToMm - near.FromMm)
        || input
            .Places.Where(input.CountsIn)
            .SelectMany(s => s.Lines)
            .Where(l => l.Name("sensor") == sensor.Name && l.Key is "comes" or "hand" or "stands")
            .Select(l => l.Number(l.Key == "comes" ? "b" : "x"))
            .OfType<SceneNumber>()
            .Any(n =>
                n.In("mm") is var mm
                && 2 * (n.GiveOrTake?.In("mm") ?? 0) is var sd
                && (n.To?.In("mm") ?? mm + sd) > near.ToMm
                && (n.To is null ? mm - sd : n.Of.In("mm")) < far.FromMm
            );

    /// <inheritdoc/>
    protected override (Severity, string, string)? Tell(CheckInput input, Band near, Band far, bool both, Sensor sensor) =>
        far.FromMm <= near.ToMm
            ? null
            : (
                both && Matters(input, near, far, sensor) ? Severity.Risky : Severity.Advice,
                $"{Show(near.ToMm)} to {Show(far.FromMm)} mm is in no zone",
                $"{near.Zone} ends at {Show(near.ToMm)} mm and {far.Zone} begins at {Show(far.FromMm)} mm (chosen, in Rig): what "
                    + $"stands between "
                    + $"them before {sensor.Name} is in no zone, and what waits for either goes on waiting. Let one begin where "
                    + $"the other ends."
            );
}

/// <summary>A stretch of distances that is in two bands.</summary>
internal sealed class ZoneOverlap : BandCheck
{
    /// <inheritdoc/>
    public override string Code => "zone-overlap";

    /// <inheritdoc/>
    public override string Title => "Two zones answer";

    /// <inheritdoc/>
    public override string Says =>
        "Two bands of distance lie over each other: what stands there is both, and counts as the one whose middle it is nearer to.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    protected override (Severity, string, string)? Tell(CheckInput input, Band near, Band far, bool both, Sensor sensor)
    {
        if (far.FromMm >= near.ToMm)
            return null;
        var to = Math.Min(near.ToMm, far.ToMm);
        return (
            both ? Severity.Risky : Severity.Advice,
            $"{Show(far.FromMm)} to {Show(to)} mm is both {near.Zone} and {far.Zone}",
            $"{near.Zone} ends at {Show(near.ToMm)} mm and {far.Zone} begins at {Show(far.FromMm)} mm already (chosen, in Rig). Up to "
                + $"{Show((near.ToMm + far.FromMm) / 2)} mm it counts as {near.Zone}, whatever was meant. Let one begin where the "
                + $"other ends."
        );
    }
}
