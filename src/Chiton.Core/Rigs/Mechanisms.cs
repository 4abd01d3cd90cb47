using System.Text.Json.Serialization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>What a mechanism does.</summary>
public enum MechanismKind
{
    /// <summary>Two driven wheels: motor 1 is the left one, motor 2 the right one.</summary>
    TwoWheelDrive,

    /// <summary>A vehicle on a rail, driven by one motor.</summary>
    RailVehicle,

    /// <summary>Goes up and down.</summary>
    Lift,

    /// <summary>Jaws that close and open.</summary>
    Gripper,

    /// <summary>A joint of an arm or a boom.</summary>
    ArmJoint,

    /// <summary>A lid, a flap or a gate.</summary>
    Lid,

    /// <summary>Turns round and round and moves something to and fro.</summary>
    Crank,

    /// <summary>A belt or a drum that runs on.</summary>
    Belt,
}

/// <summary>What happens to a mechanism that is driven on past its end.</summary>
public enum PastEnd
{
    /// <summary>It stops and the motor stalls.</summary>
    Stalls,

    /// <summary>It comes apart or jams.</summary>
    ComesApart,

    /// <summary>It goes over centre: jaws open and, driven on, close again.</summary>
    OverCentre,

    /// <summary>Nothing: it has no end.</summary>
    GoesOn,
}

/// <summary>Which end a home sensor tells.</summary>
public enum HomeEnd
{
    /// <summary>There is no home sensor.</summary>
    None,

    /// <summary>At the end where travel begins.</summary>
    From,

    /// <summary>At the other end.</summary>
    To,
}

/// <summary>How far a mechanism goes, and what is at its ends.</summary>
/// <param name="From">Where travel begins, in motor degrees (servo: its own degrees).</param>
/// <param name="To">Where it ends, same unit.</param>
/// <param name="Home">Which end has a home sensor.</param>
/// <param name="HomeSensor">That sensor's name; null when there is none.</param>
/// <param name="PastEnd">What happens past the end.</param>
/// <param name="JamRisk">Where and why it may jam; null when it does not.</param>
/// <param name="OverCentre">Where it goes over centre, same unit; null when it does not.</param>
public sealed record Travel(
    Quantity From,
    Quantity To,
    HomeEnd Home = HomeEnd.None,
    string? HomeSensor = null,
    PastEnd PastEnd = PastEnd.Stalls,
    string? JamRisk = null,
    Quantity? OverCentre = null
);

/// <summary>A name for a way of turning.</summary>
/// <param name="Name">Such as "up" or "out".</param>
/// <param name="Forward">True when it is the motor's own forward.</param>
public sealed record NamedDirection(string Name, bool Forward);

/// <summary>Something made of actuators that moves.</summary>
/// <param name="Name">Unique among the rig's mechanisms.</param>
/// <param name="Kind">What it does.</param>
/// <param name="Motors">Names of its motors; two motors on one part are commanded as one. Of a two-wheel drive the first is the left
/// one.</param>
public sealed record Mechanism(string Name, MechanismKind Kind, Sequence<string> Motors)
{
    /// <summary>What going over the centre means, in the words of its own directions: driven on the way that rises, it goes the other
    /// way.</summary>
    public string OverTheCentre
    {
        get
        {
            var rises = Travel is not { } t || t.From.Value <= t.To.Value;
            return (Directions.FirstOrDefault(d => d.Forward == rises), Directions.FirstOrDefault(d => d.Forward != rises)) switch
            {
                ({ } on, { } back) => $"driven on to {on.Name}, it begins to {back.Name} again",
                ({ } on, null) => $"driven on to {on.Name}, it comes back",
                _ => "driven on, it comes back",
            };
        }
    }

    /// <summary>Length over all, mm, of a vehicle.</summary>
    public Quantity? LengthMm { get; init; }

    /// <summary>Diameter of a driven wheel, drum or pinion, mm.</summary>
    public Quantity? WheelDiameterMm { get; init; }

    /// <summary>Distance between the middles of the two tyres, mm.</summary>
    public Quantity? TrackWidthMm { get; init; }

    /// <summary>Motor turns for one turn of the wheel or the part.</summary>
    public Quantity? MotorTurnsPerTurn { get; init; }

    /// <summary>How far it goes; null when it has no ends.</summary>
    public Travel? Travel { get; init; }

    /// <summary>Names of its positions; their angles are found by hand on each copy.</summary>
    public Sequence<string> Positions { get; init; }

    /// <summary>Names of its directions.</summary>
    public Sequence<NamedDirection> Directions { get; init; }

    /// <summary>How far ahead of the reference point its tip reaches, mm: the jaws, the end of a fork.</summary>
    public Quantity? TipAheadMm { get; init; }

    /// <summary>The first motor's name; empty when it has none.</summary>
    [JsonIgnore]
    public string Motor => Motors.Count > 0 ? Motors[0] : "";

    /// <summary>What all of its kind have in common.</summary>
    [JsonIgnore]
    public MechanismFacts Facts => MechanismFacts.Of(Kind);
}

/// <summary>A corner of the rig's outline seen from above.</summary>
/// <param name="AheadMm">Ahead of the reference point, mm.</param>
/// <param name="RightMm">To the right of it, mm.</param>
public sealed record Corner(double AheadMm, double RightMm);

/// <summary>How the rig or a load is put down by hand before a run.</summary>
/// <param name="What">What is put down: the vehicle, or a load by its name.</param>
/// <param name="AtMm">Where along its way, mm; the spread of repeated placements is the move SD.</param>
/// <param name="RightMm">How far to the right of the line, mm.</param>
/// <param name="HeadingDeg">Which way it points, degrees to the right.</param>
/// <param name="Side">On which side of a line it starts, in words; null when that does not matter.</param>
public sealed record Placement(string What, Quantity AtMm, Quantity? RightMm = null, Quantity? HeadingDeg = null, string? Side = null);

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
