using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>What can be given another name.</summary>
public enum Renamed
{
    /// <summary>A sensor or actuator.</summary>
    Device,

    /// <summary>A mechanism.</summary>
    Mechanism,

    /// <summary>A zone of a sensor.</summary>
    Zone,

    /// <summary>A position of a mechanism.</summary>
    Position,
}

/// <summary>Edits of a design that touch more than one place, and what an edit was, in words.</summary>
public static class RigEdits
{
    /// <summary>The design with one name changed everywhere it stands: in the lists, the wiring and the supply; programs and walks are left
    /// as they are.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="what">What is renamed.</param>
    /// <param name="of">Of a zone the sensor, of a position the mechanism; null otherwise.</param>
    /// <param name="from">The name now.</param>
    /// <param name="to">The new name.</param>
    /// <exception cref="InputProblem">When there is nothing of that name, or the new one is taken or no name.</exception>
    public static RigDesign Rename(RigDesign rig, Renamed what, string? of, string from, string to)
    {
        if (what is Renamed.Device or Renamed.Mechanism ? !RigNames.IsDevice(to) : !RigNames.IsName(to))
            throw new InputProblem("to", $"Give a name: {RigNames.Rule}.");
        string N(string name) => name == from ? to : name;
        bool Taken(IEnumerable<string> names) => names.Any(n => n != from && n.Equals(to, StringComparison.OrdinalIgnoreCase));
        var next = what switch
        {
            Renamed.Device when rig.Find(from) is null => throw new InputProblem("from", $"There is no device “{from}”."),
            Renamed.Device when Taken(rig.Devices.Select(d => d.Name)) => throw new InputProblem(
                "to",
                $"There already is a device “{to}”."
            ),
            Renamed.Device => rig with
            {
                Sensors = rig.Sensors.Select(s => s with { Name = N(s.Name), On = s.On is null ? null : N(s.On) }).ToSequence(),
                Actuators = rig.Actuators.Select(a => a with { Name = N(a.Name) }).ToSequence(),
                Wires = rig.Wires.Select(w => w with { Device = N(w.Device) }).ToSequence(),
                Mechanisms = rig
                    .Mechanisms.Select(m =>
                        m with
                        {
                            Motors = m.Motors.Select(N).ToSequence(),
                            Travel = m.Travel is { HomeSensor: { } h } t ? t with { HomeSensor = N(h) } : m.Travel,
                        }
                    )
                    .ToSequence(),
                Power = rig.Power is { } p
                    ? p with
                    {
                        Devices = p.Devices.Select(d => d.Name == from ? d with { Name = to } : d).ToSequence(),
                    }
                    : null,
            },
            Renamed.Mechanism when rig.Mechanisms.All(m => m.Name != from) => throw new InputProblem(
                "from",
                $"There is no mechanism “{from}”."
            ),
            Renamed.Mechanism when Taken(rig.Mechanisms.Select(m => m.Name)) => throw new InputProblem(
                "to",
                $"There already is a mechanism “{to}”."
            ),
            Renamed.Mechanism => rig with
            {
                Mechanisms = rig.Mechanisms.Select(m => m with { Name = N(m.Name) }).ToSequence(),
                Sensors = rig.Sensors.Select(s => s with { On = s.On is null || rig.Find(s.On) is not null ? s.On : N(s.On) }).ToSequence(),
                Starts = rig.Starts.Select(s => s with { What = N(s.What) }).ToSequence(),
            },
            Renamed.Zone => rig with
            {
                Sensors = Each(
                    rig.Sensors,
                    s => s.Name == of,
                    s =>
                        !s.Zones.Contains(from) ? throw new InputProblem("from", $"{of} has no zone “{from}”.")
                        : Taken(s.Zones) ? throw new InputProblem("to", $"{of} already has a zone “{to}”.")
                        : s with
                        {
                            Zones = s.Zones.Select(N).ToSequence(),
                            Bands = s.Bands.Select(b => b with { Zone = N(b.Zone) }).ToSequence(),
                            SilenceIs = s.SilenceIs is { } quiet ? N(quiet) : null,
                        },
                    "of",
                    $"There is no sensor “{of}”."
                ),
                Rail = rig.Rail is { } r
                    ? r with
                    {
                        Ground = N(r.Ground),
                        Markers = r.Markers.Select(m => m with { Surface = N(m.Surface) }).ToSequence(),
                    }
                    : null,
            },
            _ => rig with
            {
                Mechanisms = Each(
                    rig.Mechanisms,
                    m => m.Name == of,
                    m =>
                        !m.Positions.Contains(from) ? throw new InputProblem("from", $"{of} has no position “{from}”.")
                        : Taken(m.Positions) ? throw new InputProblem("to", $"{of} already has a position “{to}”.")
                        : m with { Positions = m.Positions.Select(N).ToSequence() },
                    "of",
                    $"There is no mechanism “{of}”."
                ),
            },
        };
        return next;
    }

    private static Sequence<T> Each<T>(Sequence<T> items, Func<T, bool> which, Func<T, T> change, string field, string missing) =>
        items.Any(which) ? items.Select(i => which(i) ? change(i) : i).ToSequence() : throw new InputProblem(field, missing);

    /// <summary>What an edit did, in a few words.</summary>
    public static string Say(RigDesign before, RigDesign after)
    {
        var said = new List<string>();
        if (before.Name != after.Name)
            said.Add($"renamed the rig {after.Name}");
        Compare(before.Controllers, after.Controllers, c => c.Name, said);
        Compare(before.Sensors, after.Sensors, s => s.Name, said);
        Compare(before.Actuators, after.Actuators, a => a.Name, said);
        Compare(before.Mechanisms, after.Mechanisms, m => m.Name, said);
        if (before.Wires != after.Wires && said.Count == 0)
            said.Add("changed the wiring");
        if (before.Links != after.Links)
            said.Add("changed links");
        if (before.LeadsAtHand != after.LeadsAtHand)
            said.Add("counted the leads at hand");
        if (before.Outline != after.Outline)
            said.Add("drew the outline anew");
        if (before.Starts != after.Starts)
            said.Add("changed the start placement");
        // A scene follows the rail that is edited in Rig: that is one change.
        if (before.Rail != after.Rail)
            said.Add("changed the rail");
        else if (before.Scenes != after.Scenes)
            said.Add("changed its scenes");
        if (before.Power != after.Power && said.Count == 0)
            said.Add("changed what feeds the rig");
        if (before.Place != after.Place)
            said.Add("changed whose rig it is");
        return said.Count switch
        {
            0 => "changed the rig",
            <= 3 => string.Join(", ", said),
            _ => $"{string.Join(", ", said.Take(2))} and {said.Count - 2} more",
        };
    }

    private static void Compare<T>(Sequence<T> before, Sequence<T> after, Func<T, string> name, List<string> said)
    {
        foreach (var b in before.Where(b => after.All(a => name(a) != name(b))))
            said.Add($"took out {name(b)}");
        foreach (var a in after)
        {
            var old = before.FirstOrDefault(b => name(b) == name(a));
            if (old is null)
                said.Add($"added {name(a)}");
            else if (!Equals(old, a))
                said.Add($"changed {name(a)}");
        }
    }
}
