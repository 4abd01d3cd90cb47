using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Rigs;

/// <summary>Something about the body of a rig that people ought to know.</summary>
/// <param name="Device">The device or mechanism it speaks of; empty for the whole body.</param>
/// <param name="Attention">True when it needs a cure.</param>
/// <param name="Say">In words, with the figures.</param>
public sealed record BodyNote(string Device, bool Attention, string Say);

/// <summary>What follows from the outline of a rig: room for turning, sensors that see their own robot, and where tips are.</summary>
public static class Body
{
    /// <summary>
    /// The circle that a turn on the spot sweeps: the farthest corner from the reference point, mm; null without an
    /// outline. Source: geometry.
    /// </summary>
    public static double? TurningRadiusMm(RigDesign rig) =>
        rig.Outline.Count < 3 ? null : rig.Outline.Max(c => Math.Sqrt(c.AheadMm * c.AheadMm + c.RightMm * c.RightMm));

    /// <summary>
    /// How far from a sensor its beam meets the rig's own outline, mm; null when it does not. The edges of the beam and
    /// its middle are followed. Source: intersection of a ray with line segments.
    /// </summary>
    public static double? SeesItselfAtMm(RigDesign rig, Sensor sensor)
    {
        if (rig.Outline.Count < 3 || sensor.Mount.AheadMm is not { } ahead)
            return null;
        var right = sensor.Mount.RightMm?.Value ?? 0;
        double? middle = sensor.Mount.Facing switch
        {
            Facing.Ahead => 0,
            Facing.Right => 90,
            Facing.Back => 180,
            Facing.Left => -90,
            _ => null,
        };
        if (middle is not { } heading)
            return null;
        var half = sensor.BeamHalfAngleDeg?.Value ?? 0;
        double? nearest = null;
        foreach (var angle in new[] { heading - half, heading, heading + half })
        {
            var (dx, dy) = (Math.Cos(angle * Math.PI / 180), Math.Sin(angle * Math.PI / 180));
            for (var i = 0; i < rig.Outline.Count; i++)
            {
                var (a, b) = (rig.Outline[i], rig.Outline[(i + 1) % rig.Outline.Count]);
                double ex = b.AheadMm - a.AheadMm,
                    ey = b.RightMm - a.RightMm;
                var cross = dx * ey - dy * ex;
                if (Math.Abs(cross) < 1e-12)
                    continue;
                double px = a.AheadMm - ahead.Value,
                    py = a.RightMm - right;
                var along = (px * ey - py * ex) / cross;
                var share = (px * dy - py * dx) / cross;
                // Closer than a millimetre is the wall it is screwed to.
                if (along > 1 && share is >= 0 and <= 1 && (nearest is null || along < nearest))
                    nearest = along;
            }
        }
        return nearest;
    }

    /// <summary>What to beware of with a rig like this: short, and always deferring to those who know better.</summary>
    public static IReadOnlyList<string> Cautions(RigDesign rig)
    {
        var list = new List<string>();
        if (rig.Mechanisms.Any(m => m.Travel is not null))
            list.Add("Parts that close or lower pinch: keep fingers, hair and sleeves away, and stop a motor that stalls.");
        if (rig.Sensors.Any(s => s.Kind == SensorKind.Probe))
            list.Add("Water near electricity: low voltage only, dry hands, and never anything from the mains.");
        if (
            rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered)
            && rig.Sensors.Any(s => s.Mount.Facing == Facing.Down && s.Kind is SensorKind.ReflectedLight or SensorKind.Distance)
        )
            list.Add("A robot on a table can fall: a hand near, feet away.");
        if (rig.Mechanisms.Any(m => m.Facts.Going != Going.Nowhere))
            list.Add("People keep off the running area.");
        if (rig.Actuators.Any(a => a.Kind == ActuatorKind.Sounder))
            list.Add("Loud tones near ears do harm: begin quietly.");
        if (rig.Actuators.Any(a => a.Kind == ActuatorKind.Lamp))
            list.Add("No lamp blinks faster than 3 times a second.");
        if (rig.Controllers.Any(c => c.Role == NodeRole.Pack))
            list.Add("Mind the polarity of the pack, never short it, never mix cells; its ground is joined to the controller's.");
        if (list.Count > 0)
            list.Add("Follow the maker's instructions, your school's policy and local rules; a licensed person does mains work.");
        return list;
    }

    private static bool Ends(Link link, string controller, string port) =>
        (link.FromController, link.FromPort) == (controller, port) || (link.ToController, link.ToPort) == (controller, port);

    /// <summary>Everything worth knowing of the body, those that need a cure first.</summary>
    public static IReadOnlyList<BodyNote> Notes(RigDesign rig)
    {
        var notes = new List<BodyNote>();
        foreach (var s in rig.Sensors.Where(s => s.Kind == SensorKind.Distance))
        {
            if (SeesItselfAtMm(rig, s) is { } own && own < (s.ReachMm?.Value ?? double.MaxValue))
                notes.Add(
                    new(s.Name, true, $"{s.Name} sees the rig's own body {Show(own, 3)} mm away: mount it farther out, or turn it away.")
                );
            foreach (var m in rig.Mechanisms)
                if (m.TipAheadMm is { } tip && s.Mount is { Facing: Facing.Ahead, AheadMm: { } at })
                    notes.Add(
                        new(
                            s.Name,
                            false,
                            $"When {s.Name} reads R mm, the tip of {m.Name} is R − {Show(tip.Value - at.Value, 3)} mm from the "
                                + "target: ranges count from the sensor."
                        )
                    );
        }
        foreach (var strip in rig.Controllers.Where(c => c.Role == NodeRole.Strip))
        {
            var bare = strip.Ports.Where(p => !rig.Links.Any(l => Ends(l, strip.Name, p.Name))).ToArray();
            if (bare.Length == 0)
                continue;
            var (plus, minus) = (
                bare.FirstOrDefault(p => p.Can.HasFlag(PortUse.Supply)),
                bare.FirstOrDefault(p => p.Can.HasFlag(PortUse.Ground))
            );
            var cure = List(
                new[]
                {
                    plus is null ? null : $"{plus.Name} to the plus of a pack or to a controller's supply",
                    minus is null ? null : $"{minus.Name} to the controller's ground",
                }.OfType<string>()
            );
            notes.Add(
                new(
                    strip.Name,
                    true,
                    $"{List(bare.Select(p => p.Name))} of {strip.Name} {(bare.Length == 1 ? "is" : "are")} linked to nothing: "
                        + $"in Wiring, link {cure}."
                )
            );
        }
        if (TurningRadiusMm(rig) is { } radius && rig.Mechanisms.Any(m => m.Facts.Going == Going.Steered))
            notes.Add(
                new(
                    "",
                    false,
                    $"A turn on the spot sweeps a circle of {Show(radius, 3)} mm about the turning axis: keep walls and people "
                        + "that far away."
                )
            );
        foreach (var m in rig.Mechanisms)
            notes.Add(new(m.Name, false, m.Facts.AtEnd(m.Name, rig.Actuators.FirstOrDefault(a => a.Name == m.Motor)?.Kind)));
        foreach (var m in rig.Mechanisms.Where(m => m.Travel is not null))
        {
            var t = m.Travel!;
            if (t.PastEnd == PastEnd.OverCentre)
                notes.Add(
                    new(
                        m.Name,
                        true,
                        $"{m.Name} goes over centre{(t.OverCentre is { } o ? $" at {Show(o.Value)} {o.Unit}" : "")}: "
                            + $"{m.OverTheCentre}. Stop it by position or by force, never by time alone."
                    )
                );
            if (t.PastEnd == PastEnd.ComesApart)
                notes.Add(
                    new(
                        m.Name,
                        true,
                        $"{m.Name} comes apart when it is driven past its end: every move needs an end sensor or a give-up time."
                    )
                );
            if (
                t.Home == HomeEnd.None
                && t.PastEnd == PastEnd.Stalls
                && rig.Actuators.FirstOrDefault(a => a.Name == m.Motor) is not { Kind: ActuatorKind.Servo }
            )
                notes.Add(
                    new(
                        m.Name,
                        false,
                        $"{m.Name} has no home sensor: it finds its end only by stalling, so give each move a time to give up."
                    )
                );
            if (t.JamRisk is { Length: > 0 } jam)
                notes.Add(new(m.Name, true, $"{m.Name} may jam: {jam}"));
        }
        return [.. notes.OrderByDescending(n => n.Attention)];
    }
}
