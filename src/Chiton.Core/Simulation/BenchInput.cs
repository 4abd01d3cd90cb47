using Chiton.Core.Motion;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Simulation;

/// <summary>What is known of a copy of a rig that is put on the bench.</summary>
/// <param name="Rig">The design.</param>
/// <param name="Moves">How the copy moves, as far as its trials tell.</param>
/// <param name="Calibrations">Its calibrations by sensor name.</param>
/// <param name="Positions">Angles found by hand, by mechanism and position.</param>
public sealed record BenchCopy(
    RigDesign Rig,
    CopyMoves Moves,
    IReadOnlyDictionary<string, SensorCalibration> Calibrations,
    IReadOnlyDictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> Positions
);

/// <summary>Finds what is known of a copy of another rig, for guests of a scene; null when there is none of that name.</summary>
public delegate BenchCopy? GuestFinder(string rig, int copy);

/// <summary>What can be changed in a model for tests that hold it against others.</summary>
public sealed record BenchModel
{
    /// <summary>True when few readings and trials know their own spread badly, and a copy draws it.</summary>
    public bool SpreadsInDoubt { get; init; } = true;

    /// <summary>True when a motor draws current against its own friction too.</summary>
    public bool FrictionCurrent { get; init; } = true;

    /// <summary>True when readings follow one another as they were measured to.</summary>
    public bool Correlated { get; init; } = true;

    /// <summary>True when edges count from the start of the program; false from the zone that the sensor is in when a state is
    /// entered.</summary>
    public bool EdgesFromStart { get; init; }

    /// <summary>Step of the clock, µs; null as the scene says.</summary>
    public long? StepMicros { get; init; }

    /// <summary>False to take every number as it usually is: nothing is drawn.</summary>
    public bool Draws { get; init; } = true;

    /// <summary>True where the scene's goals count alone, and those of the programs do not.</summary>
    public bool SceneRulesOnly { get; init; }

    /// <summary>As the bench is.</summary>
    public static BenchModel Usual { get; } = new();
}
