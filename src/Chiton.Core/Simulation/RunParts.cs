using Chiton.Core.Quantities;
using Chiton.Core.Sensing;

namespace Chiton.Core.Simulation;

/// <summary>How and where a run ended.</summary>
public enum RunEnding
{
    /// <summary>Every goal was reached and no never broken.</summary>
    Passed,

    /// <summary>A goal's time ran out, or nothing could change any more.</summary>
    GoalMissed,

    /// <summary>A never came true.</summary>
    NeverBroken,

    /// <summary>The machine had to be stopped.</summary>
    MachineFault,
}

/// <summary>A stretch of time in one state.</summary>
public sealed record StateStretch(string State, double FromS, double ToS);

/// <summary>What a sensor read in a watched run.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="TimeS">Times, s.</param>
/// <param name="Readings">Readings; null where it gave none. Of a colour sensor the place of its zone, −1 for none.</param>
/// <param name="Zones">Zone names by rising reading.</param>
/// <param name="Boundaries">Boundaries between them.</param>
public sealed record SensorTrace(
    string Sensor,
    IReadOnlyList<double> TimeS,
    IReadOnlyList<double?> Readings,
    IReadOnlyList<string> Zones,
    IReadOnlyList<Boundary> Boundaries
);

/// <summary>Something commanded, shown, sounded or lit in a watched run.</summary>
public sealed record RunOutput(double TimeS, string Device, string Say);

/// <summary>A number drawn for a watched run.</summary>
public sealed record DrawnNumber(string Name, double Value, string Unit, Provenance Kind, double Usual);

/// <summary>What can be made to go wrong in a run, beside what its scene says.</summary>
public enum FaultKind
{
    /// <summary>A lead is out: a sensor gives nothing, a motor gets nothing.</summary>
    Unplugged,

    /// <summary>The pack gives a third less.</summary>
    FlatBattery,
}

/// <summary>A disturbance of a run.</summary>
/// <param name="Kind">What goes wrong.</param>
/// <param name="Device">Which device; null for the battery.</param>
/// <param name="FromS">When it begins, s.</param>
/// <param name="ToS">When it ends, s; null for the rest of the run.</param>
public sealed record Fault(FaultKind Kind, string? Device, double FromS, double? ToS);
