using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Simulation;

/// <summary>A fault that the simulated controller can be given, so that finding it can be practised.</summary>
public enum BenchFaultKind
{
    /// <summary>The leads of two devices are exchanged.</summary>
    SwappedLeads,

    /// <summary>A sensor gives the same reading whatever happens.</summary>
    DeadSensor,

    /// <summary>A device is plugged in at another port than the map says.</summary>
    WrongSocket,

    /// <summary>A motor is mounted the other way round.</summary>
    ReversedMotor,

    /// <summary>A lead drops out now and then.</summary>
    LooseLead,

    /// <summary>The pack is flat.</summary>
    FlatBattery,
}

/// <summary>A planted fault.</summary>
/// <param name="Kind">What is wrong.</param>
/// <param name="Device">With which device; null for the battery.</param>
/// <param name="Other">Of swapped leads the other device; of a wrong socket the port as "controller, port".</param>
public sealed record BenchFault(BenchFaultKind Kind, string? Device = null, string? Other = null);

/// <summary>The rig on the simulated controller as it really is, faults and all.</summary>
public sealed class PreflightBench
{
    private readonly RigDesign rig;
    private readonly IReadOnlyList<BenchFault> faults;
    private readonly Dictionary<string, (string Controller, string Port)> really;

    /// <summary>Puts a rig on the bench.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="faults">Planted faults.</param>
    public PreflightBench(RigDesign rig, IReadOnlyList<BenchFault> faults)
    {
        (this.rig, this.faults) = (rig, faults);
        really = rig
            .Devices.Select(d => (d.Name, At: Mapped(rig, d)))
            .Where(x => x.At is not null)
            .ToDictionary(x => x.Name, x => x.At!.Value);
        foreach (var f in faults)
        {
            if (
                f is { Kind: BenchFaultKind.SwappedLeads, Device: { } a, Other: { } b }
                && really.TryGetValue(a, out var at)
                && really.TryGetValue(b, out var bt)
            )
                (really[a], really[b]) = (bt, at);
            if (
                f is { Kind: BenchFaultKind.WrongSocket, Device: { } d, Other: { } port }
                && port.Split(", ", 2) is [var controller, var name]
            )
                really[d] = (controller, name);
        }
    }

    /// <summary>The port that the map gives a device's signal; null when it has none.</summary>
    private static (string Controller, string Port)? Mapped(RigDesign rig, Device device) =>
        rig.Wires.FirstOrDefault(w => w.Device == device.Name && device.Leads.Any(l => l.Name == w.Lead && !l.Feeds)) is { } wire
            ? (wire.Controller, wire.Port)
            : null;

    /// <summary>Faults that this rig can be given.</summary>
    public static IReadOnlyList<BenchFault> Possible(RigDesign rig)
    {
        var list = new List<BenchFault> { new(BenchFaultKind.FlatBattery) };
        var wired = rig.Devices.Where(d => Mapped(rig, d) is not null && d is not Sensor { Kind: SensorKind.Encoder }).ToArray();
        foreach (var d in wired)
        {
            list.Add(new(BenchFaultKind.LooseLead, d.Name));
            if (d is Sensor)
                list.Add(new(BenchFaultKind.DeadSensor, d.Name));
            if (d is Actuator { Turns: true })
                list.Add(new(BenchFaultKind.ReversedMotor, d.Name));
            var (controller, port) = Mapped(rig, d)!.Value;
            var free = rig
                .Controllers.FirstOrDefault(c => c.Name == controller)
                ?.Ports.FirstOrDefault(p =>
                    !p.Feeds
                    && p.Name != port
                    && !rig.Wires.Any(w => w.Controller == controller && w.Port == p.Name)
                    && (p.Can & Uses(d)) != 0
                );
            if (free is not null)
                list.Add(new(BenchFaultKind.WrongSocket, d.Name, $"{controller}, {free.Name}"));
            foreach (
                var other in wired.Where(o =>
                    string.CompareOrdinal(o.Name, d.Name) > 0
                    && (o is Sensor) == (d is Sensor)
                    && Mapped(rig, o)!.Value.Controller == controller
                    && Uses(o) == Uses(d)
                )
            )
                list.Add(new(BenchFaultKind.SwappedLeads, d.Name, other.Name));
        }
        return list;
    }

    private static PortUse Uses(Device d) => d.Leads.First(l => !l.Feeds).AnyOf;

    private bool Has(BenchFaultKind kind, string? device) =>
        faults.Any(f => f.Kind == kind && (f.Device == device || kind == BenchFaultKind.SwappedLeads && f.Other == device));

    // A loose lead drops out in one of any three tries, so that wiggling it shows it.
    private bool Drops(string device, int attempt) =>
        Has(BenchFaultKind.LooseLead, device) && attempt % 3 == (int)(SampleBench.Seed(device) % 3);

    /// <summary>Does one thing and says what is seen.</summary>
    /// <param name="device">The device that is meant; empty for the battery.</param>
    /// <param name="action">What is done.</param>
    /// <param name="attempt">How often it was done before.</param>
    /// <exception cref="InputProblem">When there is no such device, or it cannot be asked that.</exception>
    public Seen Try(string device, PreflightAction action, int attempt)
    {
        var flat = faults.Any(f => f.Kind == BenchFaultKind.FlatBattery);
        if (action == PreflightAction.Battery)
        {
            var volts = rig.Power is { } p ? p.Cells * p.VoltsPerCell : 6;
            return new("", action, RestV: Math.Round(volts * (flat ? 0.93 : 1.02), 2), LoadV: Math.Round(volts * (flat ? 0.71 : 0.95), 2));
        }
        var d = rig.Find(device) ?? throw new InputProblem("device", $"There is no device “{device}”.");
        if (action != PreflightAction.Search && (d is Sensor) != (action == PreflightAction.Read))
            throw new InputProblem("action", d is Sensor ? "A sensor is read or searched." : "An actuator is moved or searched.");
        var mapped = Mapped(rig, d);
        if (action == PreflightAction.Search)
        {
            // Dead things answer nowhere; the rest answers where it really is, and no lead drops out each time.
            var dead = Has(BenchFaultKind.DeadSensor, device) || !really.ContainsKey(device);
            var at = dead ? default : really[device];
            return new(
                device,
                action,
                dead ? [] : [device],
                dead ? SeenWay.Nothing : SeenWay.Forward,
                false,
                dead ? null : at.Controller,
                dead ? null : at.Port
            );
        }
        if (d is Sensor)
        {
            var answers =
                d.Connection == Connection.BuiltIn
                || mapped is { } m && really[device] == m && !Has(BenchFaultKind.DeadSensor, device) && !Drops(device, attempt);
            return new(device, action, answers ? [device] : [], answers ? SeenWay.Forward : SeenWay.Nothing);
        }
        if (d.Connection == Connection.BuiltIn)
            return new(device, action, [device], SeenWay.Forward);
        string[] moved = mapped is { } port
            ? [.. really.Where(r => r.Value == port && rig.Find(r.Key) is Actuator && !Drops(r.Key, attempt)).Select(r => r.Key)]
            : [];
        var first = moved.Contains(device) ? device : moved.FirstOrDefault();
        // Turned by the one model of a motor there is: half power, the way its leads lie and its mounting say.
        var turns =
            first is not null && rig.Find(first) is Actuator { Turns: true } motor
                ? new MotorAlone(motor.Kind, 1).Steady(Has(BenchFaultKind.ReversedMotor, first) != motor.Reversed ? -50 : 50)
                : 1;
        return new(
            device,
            action,
            moved.ToSequence(),
            first is null ? SeenWay.Nothing
                : turns < 0 ? SeenWay.Backward
                : SeenWay.Forward,
            flat && first is not null && ((Actuator)rig.Find(first)!).Turns
        );
    }

    /// <summary>What is seen, as a person at the bench would say it.</summary>
    public static string Say(RigDesign rig, Seen seen) =>
        seen.Action switch
        {
            PreflightAction.Battery =>
                $"{Figures.Show(seen.RestV!.Value, 3)} V at rest, {Figures.Show(seen.LoadV!.Value, 3)} V with everything on.",
            PreflightAction.Search => seen.Port is null
                ? $"{seen.Device} answers at no port."
                : $"{seen.Device} answers at {seen.Port} of {seen.Controller}.",
            PreflightAction.Read => seen.Moved.Count > 0
                ? $"The reading of {seen.Device} changes."
                : $"The reading of {seen.Device} stays as it is.",
            _ => seen.Moved.Count == 0
                ? "Nothing moves."
                : $"{string.Join(" and ", seen.Moved)} {Does(rig.Find(seen.Moved[0]) as Actuator, seen)}.",
        };

    private static string Does(Actuator? a, Seen seen) =>
        a is { Turns: true }
            ? $"{(seen.Moved.Count == 1 ? "turns" : "turn")} "
                + $"{(seen.Way == SeenWay.Backward ? "backward" : "forward")}{(seen.Weak ? ", weakly" : "")}"
        : a?.Kind == ActuatorKind.Lamp ? "shines"
        : a?.Kind == ActuatorKind.Sounder ? "sounds"
        : "shows a word";
}
