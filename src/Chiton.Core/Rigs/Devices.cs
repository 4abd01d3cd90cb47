using System.Text.Json.Serialization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>What a sensor measures.</summary>
public enum SensorKind
{
    /// <summary>Light of its own lamp that comes back, %.</summary>
    ReflectedLight,

    /// <summary>Light of the room, %.</summary>
    AmbientLight,

    /// <summary>Red, green and blue that come back, each 0 to 255.</summary>
    Colour,

    /// <summary>The number of a colour name that the sensor itself decides on, 0 to 9.</summary>
    ColourName,

    /// <summary>Distance to what is in front of it, mm.</summary>
    Distance,

    /// <summary>Touched or not, 0 or 1.</summary>
    Touch,

    /// <summary>Force against it, N.</summary>
    Force,

    /// <summary>A soil or level probe: a voltage as a whole number, 0 to 1023.</summary>
    Probe,

    /// <summary>The turns of the motor it is built into, motor degrees.</summary>
    Encoder,

    /// <summary>Clicks of a home-made encoder: a touch switch on a turning part.</summary>
    ClickEncoder,

    /// <summary>A button on the controller, 0 or 1.</summary>
    Button,

    /// <summary>How loud it is, %.</summary>
    Sound,

    /// <summary>A light gate: broken or not, 0 or 1.</summary>
    LightGate,
}

/// <summary>What an actuator does.</summary>
public enum ActuatorKind
{
    /// <summary>Knows its angle; does speed, degrees and positions.</summary>
    RegulatedMotor,

    /// <summary>Takes power in % only.</summary>
    PlainMotor,

    /// <summary>A hobby servo: goes to an angle from 0 to 180 degrees.</summary>
    Servo,

    /// <summary>A stepper with its driver: turns in steps.</summary>
    Stepper,

    /// <summary>On or off.</summary>
    Lamp,

    /// <summary>Sounds tones.</summary>
    Sounder,

    /// <summary>Shows words and numbers.</summary>
    Display,
}

/// <summary>How a device is joined to its controller.</summary>
public enum Connection
{
    /// <summary>One cable into one socket carries everything.</summary>
    Cable,

    /// <summary>Signal, supply and ground have a lead each.</summary>
    Pins,

    /// <summary>It is part of the controller and needs no lead.</summary>
    BuiltIn,
}

/// <summary>What a port or a device takes as the end of a lead.</summary>
public enum LeadEnd
{
    /// <summary>The plug of a device cable.</summary>
    Cable,

    /// <summary>A pin-shaped plug: the port is a hole.</summary>
    Plug,

    /// <summary>A hole-shaped end: the port is a pin.</summary>
    Socket,

    /// <summary>A clip: the port is a pad.</summary>
    Clip,

    /// <summary>A bare wire end under a screw.</summary>
    Bare,
}

/// <summary>Where a sensor looks.</summary>
public enum Facing
{
    /// <summary>Down at the floor.</summary>
    Down,

    /// <summary>The way the rig goes.</summary>
    Ahead,

    /// <summary>The other way.</summary>
    Back,

    /// <summary>To the left.</summary>
    Left,

    /// <summary>To the right.</summary>
    Right,

    /// <summary>Up.</summary>
    Up,
}

/// <summary>Where a sensor sits on the rig, from the rig's reference point (its turning axis, or the front of a rail vehicle).</summary>
/// <param name="AheadMm">Ahead of the reference point, mm; negative behind.</param>
/// <param name="RightMm">To the right of it, mm; negative to the left.</param>
/// <param name="HeightMm">Above the floor, mm.</param>
/// <param name="Facing">Where it looks.</param>
/// <param name="TiltDeg">How far it is tilted down from there, degrees.</param>
public sealed record Mount(
    Quantity? AheadMm = null,
    Quantity? RightMm = null,
    Quantity? HeightMm = null,
    Facing Facing = Facing.Down,
    double TiltDeg = 0
);

/// <summary>What the own lamp of a light sensor does.</summary>
public enum OwnLamp
{
    /// <summary>It has none.</summary>
    None,

    /// <summary>Shines while it reads.</summary>
    On,

    /// <summary>Stays dark.</summary>
    Off,

    /// <summary>Shines to tell people something, which changes what the sensor sees.</summary>
    Indicator,
}

/// <summary>How a distance sensor measures.</summary>
public enum RangePrinciple
{
    /// <summary>By the echo of a tone nobody hears.</summary>
    Ultrasonic,

    /// <summary>By light.</summary>
    Optical,
}

/// <summary>A range of distances with a name.</summary>
/// <param name="Zone">Zone name.</param>
/// <param name="FromMm">Nearest distance, mm.</param>
/// <param name="ToMm">Farthest distance, mm.</param>
public sealed record Band(string Zone, double FromMm, double ToMm);

/// <summary>Something connected to a controller.</summary>
/// <param name="Name">Unique within the rig; programs use it.</param>
public abstract record Device(string Name)
{
    /// <summary>How it is joined to its controller.</summary>
    public Connection Connection { get; init; }

    /// <summary>What its own pins or holes take, where it is joined by <see cref="Connection.Pins"/>.</summary>
    public LeadEnd Takes { get; init; } = LeadEnd.Socket;

    /// <summary>True when the lead is part of the device, so that none is needed where its end fits.</summary>
    public bool OwnLead { get; init; } = true;

    /// <summary>Least voltage of its supply, V; null when not known.</summary>
    public double? SupplyMinV { get; init; }

    /// <summary>Highest voltage of its supply, V; null when not known.</summary>
    public double? SupplyMaxV { get; init; }

    /// <summary>Anything worth knowing of it.</summary>
    public string? Note { get; init; }

    /// <summary>Leads that need a port each.</summary>
    [JsonIgnore]
    public IReadOnlyList<Lead> Leads =>
        Connection switch
        {
            Connection.BuiltIn => [],
            Connection.Cable => Signals,
            _ => [.. Signals, new("supply", PortUse.Supply, FedMinV: SupplyMinV, FedMaxV: SupplyMaxV), new("ground", PortUse.Ground)],
        };

    /// <summary>Leads that carry something other than supply and ground.</summary>
    [JsonIgnore]
    protected abstract IReadOnlyList<Lead> Signals { get; }

    /// <summary>What it is, in a few words.</summary>
    [JsonIgnore]
    public abstract string About { get; }
}

/// <summary>A sensor.</summary>
/// <param name="Name">Unique within the rig.</param>
/// <param name="Kind">What it measures.</param>
/// <param name="SamplePeriodMs">Time between readings, ms, more than 0.</param>
/// <param name="Resolution">Smallest difference it reports, in the unit of its readings; 0 when not stepped.</param>
/// <param name="Zones">Zone names in the order they were made. Their thresholds belong to a copy.</param>
public sealed record Sensor(string Name, SensorKind Kind, double SamplePeriodMs, double Resolution, Sequence<string> Zones) : Device(Name)
{
    /// <summary>Where it sits.</summary>
    public Mount Mount { get; init; } = new();

    /// <summary>Highest voltage of its signal, V; null when it gives none of its own.</summary>
    public double? SignalV { get; init; } = 5;

    /// <summary>Diameter of the round patch it sees, mm, for sensors of light and colour.</summary>
    public Quantity? SpotDiameterMm { get; init; }

    /// <summary>What its own lamp does.</summary>
    public OwnLamp Lamp { get; init; }

    /// <summary>How a distance is measured.</summary>
    public RangePrinciple Principle { get; init; }

    /// <summary>Half the opening of its beam, degrees, for a sensor of distance.</summary>
    public Quantity? BeamHalfAngleDeg { get; init; }

    /// <summary>Nearer than this it answers wrongly, mm.</summary>
    public Quantity? BlindMm { get; init; }

    /// <summary>Farther than this it hears nothing, mm.</summary>
    public Quantity? ReachMm { get; init; }

    /// <summary>What it answers when it hears nothing; null when it then answers nothing at all.</summary>
    public double? SilentReading { get; init; }

    /// <summary>The zone that it counts as when it hears nothing, such as far for a lid in an empty room; null when as none.</summary>
    public string? SilenceIs { get; init; }

    /// <summary>From its being there to the reading, ms.</summary>
    public double DelayMs { get; init; }

    /// <summary>Bands of distance with their names; each is a zone.</summary>
    public Sequence<Band> Bands { get; init; }

    /// <summary>Clicks for one turn of a home-made encoder.</summary>
    public double? ClicksPerTurn { get; init; }

    /// <summary>The motor or mechanism whose turns it counts, or whose end it tells.</summary>
    public string? On { get; init; }

    /// <summary>Supply voltage of an analogue probe, V: its readings hang on it.</summary>
    public double? ProbeSupplyV { get; init; }

    /// <summary>How far its spot or tip lies ahead of the reference point, mm; 0 and guessed while it was not measured.</summary>
    [JsonIgnore]
    public Quantity AheadMm => Mount.AheadMm ?? new(0, "mm", Provenance.Guessed, "not measured yet", 0, 0, 100, -1000);

    /// <summary>The diameter of its spot; 8 mm and guessed while it was not measured.</summary>
    [JsonIgnore]
    public Quantity Spot => SpotDiameterMm ?? new(8, "mm", Provenance.Guessed, "not measured yet", 0, 0, 8, 1);

    /// <summary>What is known of its kind.</summary>
    [JsonIgnore]
    public SensorFacts Facts => SensorFacts.Of(Kind);

    /// <inheritdoc/>
    protected override IReadOnlyList<Lead> Signals =>
        Facts.Signal switch
        {
            SensorSignal.None => [],
            SensorSignal.Range when Principle == RangePrinciple.Ultrasonic && Connection == Connection.Pins =>
            [
                new("trigger", PortUse.DigitalOut),
                new("echo", PortUse.DigitalIn, SignalV),
            ],
            SensorSignal.Bus => [new("signal", PortUse.SmartIn | (Connection == Connection.Pins ? PortUse.DigitalIn : 0), SignalV)],
            SensorSignal.Switch => [new("signal", PortUse.DigitalIn | PortUse.AnalogueIn | PortUse.SmartIn, SignalV)],
            SensorSignal.Level or SensorSignal.Range => [new("signal", PortUse.AnalogueIn | PortUse.SmartIn, SignalV)],
            _ => throw new InvalidOperationException($"Nothing knows the leads of a {Facts.Signal} signal."),
        };

    /// <inheritdoc/>
    [JsonIgnore]
    public override string About =>
        Kind switch
        {
            SensorKind.ReflectedLight => Lamp == OwnLamp.Off ? "reflected light, own lamp off" : "reflected light, own lamp on",
            SensorKind.Distance => Principle == RangePrinciple.Optical ? "distance, by light" : "distance, by echo",
            _ => Facts.Words,
        };
}

/// <summary>An actuator.</summary>
/// <param name="Name">Unique within the rig.</param>
/// <param name="Kind">What it does.</param>
public sealed record Actuator(string Name, ActuatorKind Kind) : Device(Name)
{
    /// <summary>True when it is mounted the other way round: the program's forward is its backward. Recorded once, here.</summary>
    public bool Reversed { get; init; }

    /// <summary>Least voltage it takes for high on its signal, V; null when that does not matter.</summary>
    public double? NeedsHighV { get; init; }

    /// <summary>Whether motor and controller notice that it stalls; null as its kind does: one that knows its angle does, others do
    /// not.</summary>
    public bool? NoticesStall { get; init; }

    /// <summary>Whether a stall is noticed.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool StallIsNoticed => NoticesStall ?? Kind == ActuatorKind.RegulatedMotor;

    /// <summary>Steps for one turn of a stepper.</summary>
    public double? StepsPerTurn { get; init; }

    /// <summary>Steps a second above which a stepper loses steps.</summary>
    public double? MostStepsPerS { get; init; }

    /// <summary>True for a stepper whose driver takes its four phases, in their order, instead of a step and a direction.</summary>
    public bool? Phases { get; init; }

    /// <inheritdoc/>
    protected override IReadOnlyList<Lead> Signals =>
        (Kind, Connection) switch
        {
            (ActuatorKind.RegulatedMotor, Connection.Pins) =>
            [
                new("power", PortUse.PwmOut, NeedsHighV: NeedsHighV),
                new("direction", PortUse.DigitalOut, NeedsHighV: NeedsHighV),
                new("turns", PortUse.DigitalIn, 5),
            ],
            (ActuatorKind.PlainMotor, Connection.Pins) =>
            [
                new("power", PortUse.PwmOut, NeedsHighV: NeedsHighV),
                new("direction", PortUse.DigitalOut, NeedsHighV: NeedsHighV),
            ],
            (ActuatorKind.RegulatedMotor or ActuatorKind.PlainMotor, _) => [new("drive", PortUse.MotorOut)],
            (ActuatorKind.Servo, Connection.Pins) => [new("pulse", PortUse.PwmOut, NeedsHighV: NeedsHighV)],
            (ActuatorKind.Servo, _) => [new("pulse", PortUse.PwmOut | PortUse.SmartOut)],
            (ActuatorKind.Stepper, Connection.Pins) when Phases == true =>
            [
                .. Enumerable.Range(1, 4).Select(n => new Lead($"phase {n}", PortUse.DigitalOut, NeedsHighV: NeedsHighV)),
            ],
            (ActuatorKind.Stepper, Connection.Pins) =>
            [
                new("step", PortUse.DigitalOut, NeedsHighV: NeedsHighV),
                new("direction", PortUse.DigitalOut, NeedsHighV: NeedsHighV),
            ],
            (ActuatorKind.Stepper, _) => [new("drive", PortUse.SmartOut | PortUse.MotorOut)],
            (ActuatorKind.Lamp, Connection.Pins) => [new("light", PortUse.DigitalOut, NeedsHighV: NeedsHighV)],
            (ActuatorKind.Lamp, _) => [new("light", PortUse.MotorOut | PortUse.SmartOut | PortUse.DigitalOut)],
            (ActuatorKind.Sounder, Connection.Pins) => [new("sound", PortUse.PwmOut | PortUse.DigitalOut, NeedsHighV: NeedsHighV)],
            (ActuatorKind.Sounder, _) => [new("sound", PortUse.MotorOut | PortUse.SmartOut | PortUse.PwmOut)],
            (_, Connection.Pins) =>
            [
                new("data", PortUse.DigitalOut, NeedsHighV: NeedsHighV),
                new("clock", PortUse.DigitalOut, NeedsHighV: NeedsHighV),
            ],
            _ => [new("words", PortUse.SmartOut)],
        };

    /// <inheritdoc/>
    [JsonIgnore]
    public override string About => Phases == true ? "stepper, four phases" : Words(Kind);

    /// <summary>What a kind is called.</summary>
    public static string Words(ActuatorKind kind) =>
        kind switch
        {
            ActuatorKind.RegulatedMotor => "regulated motor",
            ActuatorKind.PlainMotor => "plain motor",
            ActuatorKind.Servo => "servo, 0 to 180 degrees",
            ActuatorKind.Stepper => "stepper with driver",
            ActuatorKind.Lamp => "lamp",
            ActuatorKind.Sounder => "sounder",
            _ => "display",
        };

    /// <summary>True for what turns.</summary>
    [JsonIgnore]
    public bool Turns => Kind is ActuatorKind.RegulatedMotor or ActuatorKind.PlainMotor or ActuatorKind.Servo or ActuatorKind.Stepper;
}
