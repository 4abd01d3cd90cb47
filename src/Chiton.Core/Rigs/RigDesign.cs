using System.Text.Json.Serialization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>
/// The design of a rig: what all its copies share. It is a versioned document; readings, trials and calibrations
/// belong to a copy and are not in it.
/// </summary>
/// <param name="Name">What the rig is called.</param>
/// <param name="Place">Whose rig it is, shown above its name.</param>
/// <param name="Controllers">At least one.</param>
/// <param name="Wires">Which lead of which device runs to which port.</param>
/// <param name="Devices">Sensors and actuators in rig order; readings that fall in the same step are handled in this order.</param>
/// <param name="Vehicle">The rail vehicle these devices make.</param>
/// <param name="Rail">The line it runs on.</param>
/// <param name="Start">How it is put down by hand.</param>
/// <param name="Programs">What its controllers run. A controller may store several; the first is the one that runs.</param>
public sealed record RigDesign(
    string Name,
    string Place,
    Sequence<Controller> Controllers,
    Sequence<Wire> Wires,
    Sequence<Device> Devices,
    RailVehicle Vehicle,
    Rail Rail,
    Placement Start,
    Sequence<ProgramText> Programs)
{
    /// <summary>What feeds the rig and what its devices draw; null while nothing is known of it.</summary>
    public RigPower? Power { get; init; }

    /// <summary>The device of that name, or null.</summary>
    public Device? Find(string name) => Devices.FirstOrDefault(d => d.Name == name);

    /// <summary>The light eyes in rig order.</summary>
    public IEnumerable<LightEye> Eyes => Devices.OfType<LightEye>();

    /// <summary>The devices as the port map sees them.</summary>
    [JsonIgnore]
    public IReadOnlyList<Plug> Plugs => [.. Devices.Select(d => new Plug(d.Name, d.Leads))];

    /// <summary>What is wrong with the wiring.</summary>
    public IReadOnlyList<WiringFault> WiringFaults() => PortAssignment.Check(Controllers.ToArray(), Plugs, Wires.ToArray());

    /// <summary>The program that runs.</summary>
    public ProgramText Program => Programs[0];

    /// <summary>The same design with another running program.</summary>
    public RigDesign WithProgram(ProgramText program) => this with { Programs = Programs.With(0, program) };
}


/// <summary>What feeds a rig.</summary>
/// <param name="Cells">Cells in a row.</param>
/// <param name="VoltsPerCell">1.2 V for a rechargeable cell, 1.5 V for a primary one.</param>
/// <param name="CapacityMAh">Charge of the pack, mAh.</param>
/// <param name="PackMaxMA">Greatest current the pack may give, mA; null when not known.</param>
/// <param name="ControllerOwnMA">Current of the controller itself, mA.</param>
/// <param name="ControllerOutputMaxMA">Greatest current the controller may supply, mA.</param>
/// <param name="ControllerOutputV">Voltage it supplies, V.</param>
/// <param name="Devices">What each device draws, by its name.</param>
public sealed record RigPower(
    double Cells, double VoltsPerCell, double CapacityMAh, double? PackMaxMA, double ControllerOwnMA, double ControllerOutputMaxMA, double ControllerOutputV,
    Sequence<PowerDevice> Devices)
{
    /// <summary>The sum <c>power-budget</c> of this rig.</summary>
    /// <exception cref="InputProblem">When a number is out of range.</exception>
    public Answer<PowerBudgetResult> Budget() =>
        PowerBudget.Compute(new(Cells, VoltsPerCell, CapacityMAh, PackMaxMA, ControllerOwnMA, ControllerOutputMaxMA, ControllerOutputV, Devices.ToArray()));
}

/// <summary>Something connected to a controller.</summary>
/// <param name="Name">Unique within the rig; programs use it.</param>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(LightEye), "lightEye")]
[JsonDerivedType(typeof(PlainMotor), "plainMotor")]
[JsonDerivedType(typeof(Lamp), "lamp")]
[JsonDerivedType(typeof(Sounder), "sounder")]
public abstract record Device(string Name)
{
    /// <summary>Leads that need a port each.</summary>
    [JsonIgnore]
    public abstract IReadOnlyList<Lead> Leads { get; }
}

/// <summary>A sensor that shines its own lamp and reads how much light comes back, 0 to 100 %.</summary>
/// <param name="Name">Unique within the rig.</param>
/// <param name="SamplePeriodMs">Time between readings in ms, more than 0.</param>
/// <param name="Resolution">Smallest difference it reports, in %; 0 when not stepped.</param>
/// <param name="SpotDiameterMm">Diameter of the round patch it sees, in mm.</param>
/// <param name="AheadMm">How far its spot lies ahead of the vehicle's reference point, in mm.</param>
/// <param name="Zones">Zone names in the order they were made. Their thresholds belong to a copy.</param>
public sealed record LightEye(
    string Name,
    double SamplePeriodMs,
    double Resolution,
    Quantity SpotDiameterMm,
    Quantity AheadMm,
    Sequence<string> Zones) : Device(Name)
{
    /// <summary>Highest voltage of its signal, V.</summary>
    public double SignalV { get; init; } = 5;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<Lead> Leads => [new("signal", PortUse.SmartIn | PortUse.AnalogueIn, SignalV)];
}

/// <summary>A motor that takes power and does not know its angle.</summary>
/// <param name="Name">Unique within the rig.</param>
public sealed record PlainMotor(string Name) : Device(Name)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<Lead> Leads => [new("drive", PortUse.MotorOut)];
}

/// <summary>A lamp that is on or off.</summary>
/// <param name="Name">Unique within the rig.</param>
public sealed record Lamp(string Name) : Device(Name)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<Lead> Leads => [new("light", PortUse.MotorOut | PortUse.SmartOut | PortUse.DigitalOut)];
}

/// <summary>Sounds a tone.</summary>
/// <param name="Name">Unique within the rig.</param>
public sealed record Sounder(string Name) : Device(Name)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<Lead> Leads => [new("sound", PortUse.MotorOut | PortUse.SmartOut | PortUse.PwmOut)];
}

/// <summary>A vehicle on a rail, driven by one motor.</summary>
/// <param name="Name">What the vehicle is called.</param>
/// <param name="Motor">Name of the motor that drives it.</param>
/// <param name="LengthMm">Length over all, mm.</param>
public sealed record RailVehicle(string Name, string Motor, double LengthMm);

/// <summary>The line a rail vehicle runs on.</summary>
/// <param name="LengthMm">Length once round, mm, more than 0.</param>
/// <param name="Ground">Name of the surface between markers.</param>
/// <param name="Surfaces">What each surface looks like where no zone of the sensor tells.</param>
/// <param name="Markers">Markers along the line, in order, not overlapping.</param>
public sealed record Rail(double LengthMm, string Ground, Sequence<Surface> Surfaces, Sequence<Marker> Markers)
{
    /// <summary>The marker of that name, or null.</summary>
    public Marker? Find(string name) => Markers.FirstOrDefault(m => m.Name == name);
}

/// <summary>How bright a surface is to a reflected-light eye, for surfaces that are no zone of it.</summary>
/// <param name="Name">Name of the surface.</param>
/// <param name="Reads">Mean reading in %, with its spread between readings as the move SD.</param>
public sealed record Surface(string Name, Quantity Reads);

/// <summary>A marker across the line.</summary>
/// <param name="Name">A place name that goals use, such as "bed 3".</param>
/// <param name="Surface">What it is painted with: a zone of the eye or a surface of the rail.</param>
/// <param name="AtMm">Where its leading edge lies along the line, mm from the line's origin.</param>
/// <param name="LengthMm">Length along the line, mm.</param>
public sealed record Marker(string Name, string Surface, double AtMm, Quantity LengthMm);

/// <summary>How the vehicle is put down by hand before a run.</summary>
/// <param name="AtMm">Where its reference point is put, mm from the line's origin, with the spread of repeated placements as the move SD.</param>
public sealed record Placement(Quantity AtMm);

/// <summary>A program as its author sees it: the script and where its numbers come from.</summary>
/// <param name="Script">The text, in the script language.</param>
/// <param name="Marks">Numbers that are not simply chosen.</param>
public sealed record ProgramText(string Script, Sequence<NumberMark> Marks);

/// <summary>
/// Where one number of a script comes from. It stays with its line: while the text of the line is unchanged it holds,
/// wherever the line moves within its state; once the line is typed anew it is gone and the number is chosen.
/// </summary>
/// <param name="Owner">Name of the state that holds the line, or empty for the lines at the head of the program.</param>
/// <param name="Line">The line's canonical text.</param>
/// <param name="Index">Which number of the line, counting from 0.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">In words.</param>
public sealed record NumberMark(string Owner, string Line, int Index, Provenance Kind, string Source);
