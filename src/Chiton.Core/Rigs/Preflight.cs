using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>What is done to see whether a device works.</summary>
public enum PreflightAction
{
    /// <summary>The actuator is told to move, shine or sound, and one looks what does.</summary>
    Move,

    /// <summary>The sensor is touched, covered or approached, and one looks whether its own port's reading changes.</summary>
    Read,

    /// <summary>Every port is driven, or watched, in turn.</summary>
    Search,

    /// <summary>The pack is measured at rest and with everything on.</summary>
    Battery,
}

/// <summary>Which way something moved.</summary>
public enum SeenWay
{
    /// <summary>Not at all.</summary>
    Nothing,

    /// <summary>As it should.</summary>
    Forward,

    /// <summary>The other way.</summary>
    Backward,
}

/// <summary>One observation of preflight: what was done, and what was seen.</summary>
/// <param name="Device">The device that was meant; empty for the battery.</param>
/// <param name="Action">What was done.</param>
/// <param name="Moved">Devices that moved, shone or sounded; of a sensor, itself when its port's reading changed.</param>
/// <param name="Way">Which way the first of them moved.</param>
/// <param name="Weak">True when it moved weakly.</param>
/// <param name="Controller">Of a search: controller of the port at which it answered; null when at none.</param>
/// <param name="Port">Of a search: that port.</param>
/// <param name="RestV">Of the battery: volts at rest.</param>
/// <param name="LoadV">Of the battery: volts with everything on.</param>
public sealed record Seen(
    string Device,
    PreflightAction Action,
    Sequence<string> Moved = default,
    SeenWay Way = SeenWay.Nothing,
    bool Weak = false,
    string? Controller = null,
    string? Port = null,
    double? RestV = null,
    double? LoadV = null
);

/// <summary>What is known of one device after the observations so far.</summary>
/// <param name="Device">Device name.</param>
/// <param name="Where">Its port on the map, in words; what it is built into; or nowhere.</param>
/// <param name="Should">What should be seen.</param>
/// <param name="State">untested, going on, works or fault.</param>
/// <param name="Say">What was found, in a sentence.</param>
/// <param name="Next">What to do next; null when nothing is left.</param>
/// <param name="NextDevice">The device to do it with; another one where a suspicion points there.</param>
public sealed record DeviceCheck(
    string Device,
    string Where,
    string Should,
    string State,
    string Say,
    PreflightAction? Next,
    string? NextDevice
);

/// <summary>A fault that the observations prove.</summary>
/// <param name="Code">swapped-leads, wrong-socket, dead-sensor, dead-device, loose-lead, reversed-motor or flat-battery.</param>
/// <param name="Device">The device.</param>
/// <param name="Say">What is wrong.</param>
/// <param name="Cure">What to do.</param>
public sealed record PreflightFault(string Code, string Device, string Say, string Cure);

/// <summary>Preflight: is it the motor, the wrong socket, or the sensor?</summary>
/// <param name="Devices">Every device with what is known of it.</param>
/// <param name="Faults">Faults that the observations prove.</param>
/// <param name="Battery">The last time the pack was measured; null before that.</param>
public sealed record Preflight(IReadOnlyList<DeviceCheck> Devices, IReadOnlyList<PreflightFault> Faults, Seen? Battery)
{
    /// <summary>How often a thing is tried before it gets its tick: a loose lead shows itself in one of them.</summary>
    public const int Tries = 3;

    /// <summary>Share of the rest voltage that a sound pack keeps under load.</summary>
    public const double SoundShare = 0.85;

    /// <summary>Things to look at before anything is moved.</summary>
    public static IReadOnlyList<(string Key, string Say)> Checklist { get; } =
    [
        ("charge", "The cells are charged, all alike, and the right way round."),
        ("link", "The controller answers and shows its name."),
        ("parts", "Every part on the list is here; nothing lies loose on the rig."),
        ("wheels", "Wheels, horns and gears are tight on their shafts."),
        ("travel", "Everything that moves goes freely by hand, from stop to stop."),
    ];

    /// <summary>Checks what a person saw on a table.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="seen">What was seen.</param>
    /// <exception cref="InputProblem">Names what is not of this rig, or out of its range.</exception>
    public static Seen ByHand(RigDesign rig, Seen? seen)
    {
        var need = new Require();
        if (seen is null)
            throw new InputProblem("seen", "Say what was seen.");
        need.That(Enum.IsDefined(seen.Action), "seen.action", "Must be move, read, search or battery.");
        if (seen.Action == PreflightAction.Battery)
        {
            var rest = need.Number(seen.RestV, "seen.restV", 0, 100, true);
            var load = need.Number(seen.LoadV, "seen.loadV", 0, 100);
            need.That(!need.Holds || load <= rest, "seen.loadV", "With everything on, a pack gives no more than at rest.");
            need.Done();
            return new("", PreflightAction.Battery, RestV: rest, LoadV: load);
        }
        need.That(rig.Find(seen.Device ?? "") is not null, "seen.device", $"There is no device “{seen.Device}”.");
        need.That(seen.Moved.All(m => rig.Find(m) is not null), "seen.moved", "Only devices of this rig can be seen to move.");
        need.That(
            seen.Port is null || rig.Controllers.Any(c => c.Name == seen.Controller && c.Ports.Any(p => p.Name == seen.Port)),
            "seen.port",
            $"There is no {seen.Port} on {seen.Controller}."
        );
        need.That(Enum.IsDefined(seen.Way), "seen.way", "Must be nothing, forward or backward.");
        need.Done();
        return seen with { RestV = null, LoadV = null };
    }

    /// <summary>
    /// Judges observations. A fault is named only when what was seen rules the others out: a device that does not answer
    /// is looked for at every port before it is called dead, and two that answer for each other are swapped.
    /// </summary>
    /// <param name="rig">The design.</param>
    /// <param name="seen">Observations in the order they were made.</param>
    public static Preflight Judge(RigDesign rig, IReadOnlyList<Seen> seen)
    {
        var faults = new List<PreflightFault>();
        var checks = new List<DeviceCheck>();
        var battery = seen.LastOrDefault(s => s.Action == PreflightAction.Battery);
        var flat = battery is { RestV: { } rest, LoadV: { } load } && load < SoundShare * rest;
        if (flat)
            faults.Add(
                new(
                    "flat-battery",
                    "",
                    $"The pack gives {Figures.Show(battery!.RestV!.Value, 3)} V at rest and {Figures.Show(battery.LoadV!.Value, 3)} V "
                        + "with everything on: it is flat.",
                    "Charge the pack or change all cells together, then measure again."
                )
            );
        foreach (var device in rig.Devices)
        {
            if (device is Sensor { Kind: SensorKind.Encoder } encoder)
            {
                checks.Add(
                    new(
                        device.Name,
                        $"in {encoder.On ?? "its motor"}",
                        "counts while its motor turns",
                        "works",
                        "It is tested with its motor.",
                        null,
                        null
                    )
                );
                continue;
            }
            checks.Add(
                device is Sensor sensor ? Sensor(rig, sensor, seen, faults) : Actuator(rig, (Actuator)device, seen, battery, flat, faults)
            );
        }
        return new(checks, faults, battery);
    }

    private static string Where(RigDesign rig, Device device)
    {
        if (device.Connection == Connection.BuiltIn)
            return "part of the controller";
        return rig.Wires.Where(w => w.Device == device.Name && device.Leads.Any(l => l.Name == w.Lead && !l.Feeds))
                .Select(w => $"{w.Controller}, {w.Port}")
                .FirstOrDefault()
            ?? "no port yet";
    }

    private static string? HolderOf(RigDesign rig, string controller, string port) =>
        rig.Wires.FirstOrDefault(w => w.Controller == controller && w.Port == port)?.Device;

    private static DeviceCheck Actuator(
        RigDesign rig,
        Actuator a,
        IReadOnlyList<Seen> seen,
        Seen? battery,
        bool flat,
        List<PreflightFault> faults
    )
    {
        var where = Where(rig, a);
        var does =
            a.Turns ? "turns forward"
            : a.Kind == ActuatorKind.Lamp ? "shines"
            : a.Kind == ActuatorKind.Sounder ? "sounds"
            : "shows a word";
        var tries = seen.Where(s => s.Action == PreflightAction.Move && s.Device == a.Name).ToArray();
        DeviceCheck Check(string state, string say, PreflightAction? next = null, string? on = null) =>
            new(a.Name, where, does, state, say, next, next is null ? null : on ?? a.Name);
        DeviceCheck Fault(string code, string say, string cure)
        {
            if (!faults.Any(f => f.Code == code && (f.Device == a.Name || code == "swapped-leads" && f.Say == say)))
                faults.Add(new(code, a.Name, say, cure));
            return Check("fault", say);
        }
        if (tries.Length == 0)
            return Check("untested", "Not tried yet.", PreflightAction.Move);
        var others = tries.SelectMany(t => t.Moved).Where(m => m != a.Name).Distinct().ToArray();
        var own = tries.Count(t => t.Moved.Contains(a.Name));
        if (others.Length > 0 && own == 0)
        {
            var other = others[0];
            var back = seen.Where(s => s.Action == PreflightAction.Move && s.Device == other).ToArray();
            if (back.Length == 0)
                return Check("going on", $"{other} moved instead. Try {other} next.", PreflightAction.Move, other);
            if (back.Any(b => b.Moved.Contains(a.Name)))
                return Fault(
                    "swapped-leads",
                    $"The leads of {Both(a.Name, other)} are swapped: each answers for the other.",
                    $"Exchange the two leads, as the map has them."
                );
            return Fault(
                "wrong-socket",
                $"{other} is plugged in where {a.Name} belongs ({where}).",
                $"Move {other} to {Where(rig, rig.Find(other)!)} and {a.Name} to {where}."
            );
        }
        if (own == 0)
        {
            var search = seen.LastOrDefault(s => s.Action == PreflightAction.Search && s.Device == a.Name);
            if (tries.Length < Tries)
                return Check(
                    "going on",
                    $"Nothing moved. Try {Figures.Count(Tries - tries.Length, "more time")}, wiggling the lead.",
                    PreflightAction.Move
                );
            if (search is null)
                return Check(
                    "going on",
                    "Nothing ever moved. Drive every port in turn and see at which one it answers.",
                    PreflightAction.Search
                );
            if (search is { Port: { } port, Controller: { } controller })
                return
                    HolderOf(rig, controller, port) is { } holder
                    && holder != a.Name
                    && seen.Any(s => s.Device == holder && s.Moved.Contains(a.Name))
                    ? Fault(
                        "swapped-leads",
                        $"The leads of {Both(a.Name, holder)} are swapped: each answers for the other.",
                        "Exchange the two leads, as the map has them."
                    )
                    : Fault(
                        "wrong-socket",
                        $"{a.Name} is in the wrong place: it answers at {port} of {controller}, not at {where}.",
                        $"Move its lead to {where}, or run it to {port} on the map."
                    );
            return Fault(
                "dead-device",
                $"{a.Name} answers at no port: it or its lead is broken.",
                "Change the lead; if that does not help, the device."
            );
        }
        if (others.Length > 0)
            return Fault(
                "wrong-socket",
                $"{string.Join(" and ", others)} {(others.Length == 1 ? "moves" : "move")} together with {a.Name}: both are on {where}.",
                "Give each its own port."
            );
        if (own < tries.Length)
            return Fault(
                "loose-lead",
                $"{a.Name} answered {own} of {tries.Length} times: its lead is loose.",
                "Push both ends home; if it stays, change the lead."
            );
        if (tries.Any(t => t.Weak))
        {
            if (battery is null)
                return Check("going on", "It moves weakly. Measure the pack.", PreflightAction.Battery);
            if (flat)
                return Check("fault", "It moves weakly because the pack is flat.");
        }
        if (a.Turns && tries.Any(t => t.Way == SeenWay.Backward))
            return Fault(
                "reversed-motor",
                $"{a.Name} turns the other way: it is mounted the other way round.",
                "Record it once, here; programs then say forward and mean it."
            );
        if (tries.Length < Tries)
            return Check("going on", $"Good so far. {Figures.Count(Tries - tries.Length, "more time")}.", PreflightAction.Move);
        return Check("works", $"Seen to work {tries.Length} times.");
    }

    private static DeviceCheck Sensor(RigDesign rig, Sensor s, IReadOnlyList<Seen> seen, List<PreflightFault> faults)
    {
        var where = Where(rig, s);
        var should = $"its reading changes when it is {s.Facts.Touch}";
        var tries = seen.Where(x => x.Action == PreflightAction.Read && x.Device == s.Name).ToArray();
        DeviceCheck Check(string state, string say, PreflightAction? next = null, string? on = null) =>
            new(s.Name, where, should, state, say, next, next is null ? null : on ?? s.Name);
        DeviceCheck Fault(string code, string say, string cure)
        {
            if (!faults.Any(f => f.Code == code && (f.Device == s.Name || code == "swapped-leads" && f.Say == say)))
                faults.Add(new(code, s.Name, say, cure));
            return Check("fault", say);
        }
        if (tries.Length == 0)
            return Check("untested", "Not tried yet.", PreflightAction.Read);
        var own = tries.Count(t => t.Moved.Contains(s.Name));
        if (own == 0)
        {
            if (tries.Length < Tries)
                return Check(
                    "going on",
                    $"Its reading does not change. Try {Figures.Count(Tries - tries.Length, "more time")}, wiggling the lead.",
                    PreflightAction.Read
                );
            var search = seen.LastOrDefault(x => x.Action == PreflightAction.Search && x.Device == s.Name);
            if (search is null)
                return Check("going on", "Its reading never changes. Watch every port while you do it again.", PreflightAction.Search);
            if (search is not { Port: { } port, Controller: { } controller })
                return Fault(
                    "dead-sensor",
                    $"{s.Name} changes nothing at any port: the sensor or its lead is dead.",
                    "Change the lead; if that does not help, the sensor."
                );
            if (HolderOf(rig, controller, port) is { } holder && holder != s.Name && rig.Find(holder) is Sensor)
            {
                var back = seen.LastOrDefault(x => x.Action == PreflightAction.Search && x.Device == holder);
                if (back is null)
                    return Check(
                        "going on",
                        $"The reading of {holder} changed instead. Watch every port while you do the same with {holder}.",
                        PreflightAction.Search,
                        holder
                    );
                if (back is { Port: { } p, Controller: { } c } && HolderOf(rig, c, p) == s.Name)
                    return Fault(
                        "swapped-leads",
                        $"The leads of {Both(s.Name, holder)} are swapped: each answers for the other.",
                        "Exchange the two leads, as the map has them."
                    );
            }
            return Fault(
                "wrong-socket",
                $"{s.Name} is in the wrong place: it answers at {port} of {controller}, not at {where}.",
                $"Move its lead to {where}, or run it to {port} on the map."
            );
        }
        if (own < tries.Length)
            return Fault(
                "loose-lead",
                $"{s.Name} answered {own} of {tries.Length} times: its lead is loose.",
                "Push both ends home; if it stays, change the lead."
            );
        if (tries.Length < Tries)
            return Check("going on", $"Good so far. {Figures.Count(Tries - tries.Length, "more time")}.", PreflightAction.Read);
        return Check("works", $"Seen to work {tries.Length} times.");
    }

    private static string Both(string a, string b) => string.CompareOrdinal(a, b) < 0 ? $"{a} and {b}" : $"{b} and {a}";
}
