using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Data;

/// <summary>A rig: its address and which revision of its design is current.</summary>
public sealed class RigRow
{
    /// <summary>Address of the rig, lower-case words with hyphens.</summary>
    public required string Id { get; set; }

    /// <summary>Number of the current revision.</summary>
    public int HeadRevision { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }

    /// <summary>True when it is put away: it stays whole, but stands apart in the list.</summary>
    public bool Archived { get; set; }

    /// <summary>The team it belongs to; null for the desk's.</summary>
    public long? TeamId { get; set; }

    /// <summary>Address of the rig it was handed out from; null where it was not.</summary>
    public string? OriginRig { get; set; }

    /// <summary>The revision of that rig.</summary>
    public int? OriginRevision { get; set; }
}

/// <summary>A revision of a design. Never changed once written.</summary>
public sealed class RevisionRow
{
    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Number, from 1.</summary>
    public int Number { get; set; }

    /// <summary>Number of the revision it came from; 0 for the first.</summary>
    public int Parent { get; set; }

    /// <summary>SHA-256 of the document, hexadecimal.</summary>
    public required string Hash { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What changed, in words.</summary>
    public required string What { get; set; }

    /// <summary>The design as JSON.</summary>
    public required string Document { get; set; }
}

/// <summary>A numbered copy of a design.</summary>
public sealed class CopyRow
{
    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Number, from 1.</summary>
    public int Number { get; set; }

    /// <summary>Which team works on it; may be empty.</summary>
    public required string Team { get; set; }

    /// <summary>The unit it is on: the rig on one thing, or on one stand-in.</summary>
    public long UnitId { get; set; }

    /// <summary>True until somebody has said what it is: it was made before real copies and stand-ins were told apart, and its rows do
    /// not tell.</summary>
    public bool AsksKind { get; set; }

    /// <summary>How it moves, as JSON; empty while nothing is known of it.</summary>
    public required string Motion { get; set; }

    /// <summary>What the simulated controller's sensors really see, as JSON. Never leaves the server.</summary>
    public required string Truth { get; set; }

    /// <summary>Whose hidden numbers a stand-in has, as "seed-trolley/1": those of the copy it was handed out from; empty for its
    /// own.</summary>
    public string Hidden { get; set; } = "";

    /// <summary>How many recordings were made, so that each draws its own noise.</summary>
    public int Recordings { get; set; }

    /// <summary>Preflight so far, as JSON: what was ticked and seen, and the faults the simulated controller was given.</summary>
    public string Preflight { get; set; } = "{}";
}

/// <summary>One thing on a table, or one stand-in: what copies of rigs are on.</summary>
public sealed class UnitRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>What it is called; may be empty.</summary>
    public string Label { get; set; } = "";

    /// <summary>Real or a stand-in.</summary>
    public UnitKind Kind { get; set; }

    /// <summary>Rig of which its controller holds a revision; null when nothing was sent yet.</summary>
    public string? HeldRig { get; set; }

    /// <summary>That revision.</summary>
    public int? HeldRevision { get; set; }

    /// <summary>SHA-256 of the programs and numbers that were sent; empty when that is not known.</summary>
    public string HeldHash { get; set; } = "";

    /// <summary>Versions of the calibrations that were sent, in words: "Tag eye 3, Range 1".</summary>
    public string HeldCalibrations { get; set; } = "";

    /// <summary>When it was sent, UTC; null when nothing was, or that is not known.</summary>
    public DateTime? HeldUtc { get; set; }
}

/// <summary>Readings taken in one go into one zone. Never changed once written.</summary>
public sealed class RecordingRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Sensor name.</summary>
    public required string Sensor { get; set; }

    /// <summary>Zone name.</summary>
    public required string Zone { get; set; }

    /// <summary>How they came in.</summary>
    public ReadingOrigin Origin { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>Who took them; may be empty.</summary>
    public string Who { get; set; } = "";

    /// <summary>Where and in which light, and anything else worth knowing; may be empty.</summary>
    public string Conditions { get; set; } = "";

    /// <summary>Mode of the sensor when they were taken, in words; empty when not said.</summary>
    public string Mode { get; set; } = "";

    /// <summary>Supply voltage when they were taken, V; null when not said.</summary>
    public double? SupplyV { get; set; }

    /// <summary>The readings, little-endian doubles; three numbers a reading for a sensor of colour.</summary>
    public required byte[] Values { get; set; }

    /// <summary>When each reading was taken, by the clock of its board, µs, little-endian doubles; null where no clock came with
    /// them.</summary>
    public byte[]? Times { get; set; }
}

/// <summary>A version of a sensor's calibration on one copy. Never changed once written; the highest version is current.</summary>
public sealed class CalibrationRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Sensor name.</summary>
    public required string Sensor { get; set; }

    /// <summary>Version, from 1.</summary>
    public int Version { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What changed, in words.</summary>
    public required string What { get; set; }

    /// <summary>Where thresholds are put.</summary>
    public School School { get; set; }

    /// <summary>Harm of a false rise over harm of a false fall.</summary>
    public double CostRatio { get; set; }

    /// <summary>False switches an hour that are bearable.</summary>
    public double MaxFalsePerHour { get; set; }

    /// <summary>Keys of its recordings in order, comma-separated.</summary>
    public required string Recordings { get; set; }

    /// <summary>Readings left out, as JSON.</summary>
    public string SetAside { get; set; } = "[]";
}

/// <summary>A change of a rig, for undo and redo across everything that belongs to it.</summary>
public sealed class ChangeRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What was done, in words.</summary>
    public required string What { get; set; }

    /// <summary>The edit whose effect this row wrote: its own key for an edit; the undone or redone one otherwise.</summary>
    public long Edit { get; set; }

    /// <summary>"design", or copy and what was changed: "1/Tag eye" (readings of a sensor), "trials 1/Drive: straight", "positions
    /// 1/Jaws".</summary>
    public required string Target { get; set; }

    /// <summary>Revision number, or key of the version, before the edit; 0 for none.</summary>
    public long Before { get; set; }

    /// <summary>Revision number or calibration key after it.</summary>
    public long After { get; set; }

    /// <summary>Key of the edit that undo would take back now; 0 when there is none.</summary>
    public long UndoNext { get; set; }

    /// <summary>The edit that was on top when this edit was made; 0 for the first.</summary>
    public long Below { get; set; }

    /// <summary>Edits that redo would do again, next one first, comma-separated.</summary>
    public required string RedoStack { get; set; }
}

/// <summary>A proof that was run.</summary>
public sealed class ProofRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Revision number.</summary>
    public int Revision { get; set; }

    /// <summary>SHA-256 of everything the outcome depends on but seed and count.</summary>
    public required string Inputs { get; set; }

    /// <summary>Runs done.</summary>
    public int Runs { get; set; }

    /// <summary>Seed.</summary>
    public long Seed { get; set; }

    /// <summary>Runs that passed.</summary>
    public int Passes { get; set; }

    /// <summary>True for the light version that follows every edit.</summary>
    public bool Light { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>The whole result as JSON; empty for the light version.</summary>
    public required string Result { get; set; }

    /// <summary>Name of the scene; empty in proofs from before it was kept.</summary>
    public string Scene { get; set; } = "";

    /// <summary>Lower end of the copy's range, 0 to 1.</summary>
    public double Low { get; set; }

    /// <summary>Upper end of it, 0 to 1.</summary>
    public double High { get; set; } = 1;

    /// <summary>What that rests on; null where nothing is in doubt.</summary>
    public Core.Quantities.Provenance? Rests { get; set; }

    /// <summary>1 or 0 a run, in order, for holding proofs against each other; empty in proofs from before copies were made up, and in
    /// those that made up a copy a run.</summary>
    public string Passed { get; set; } = "";

    /// <summary>Numbers drawn for each run, packed, in the order that the result names them; null for the light version.</summary>
    public byte[]? Drawn { get; set; }
}

/// <summary>A run that was watched.</summary>
public sealed class RunRow
{
    /// <summary>Key; the run's number.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Revision number.</summary>
    public int Revision { get; set; }

    /// <summary>Seed.</summary>
    public long Seed { get; set; }

    /// <summary>Longest time, s.</summary>
    public double DurationS { get; set; }

    /// <summary>Disturbances as JSON.</summary>
    public required string Faults { get; set; }

    /// <summary>Whether it passed.</summary>
    public bool Passed { get; set; }

    /// <summary>When it ended, s.</summary>
    public double EndS { get; set; }

    /// <summary>When it was run, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>SHA-256 of everything the outcome depends on but seed and disturbances; empty for a run of an earlier version.</summary>
    public string Inputs { get; set; } = "";

    /// <summary>What was seen of it, packed; null for all but the latest runs of a copy.</summary>
    public byte[]? Report { get; set; }
}

/// <summary>A finding that somebody set aside for a copy, and why.</summary>
public sealed class SilenceRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Key of the finding: what it is and whose.</summary>
    public required string Finding { get; set; }

    /// <summary>What it said then: once that changes, it is shown again.</summary>
    public required string Said { get; set; }

    /// <summary>Why it was set aside.</summary>
    public required string Reason { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}

/// <summary>Something that was sent to the controller of a unit.</summary>
public sealed class SendRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>The unit.</summary>
    public long UnitId { get; set; }

    /// <summary>Revision that was sent.</summary>
    public int Revision { get; set; }

    /// <summary>SHA-256 of the programs and numbers.</summary>
    public required string Hash { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}

/// <summary>A series of runs on a table: what was the same in all of them.</summary>
public sealed class SeriesRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The key that the page gave it: the same series sent twice is one.</summary>
    public required string Key { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>How many runs it is to have; 0 for as many as come.</summary>
    public int Planned { get; set; }

    /// <summary>Name of the scene it is held against; empty for the one that counts.</summary>
    public string Scene { get; set; } = "";

    /// <summary>The light, in words; may be empty.</summary>
    public string Light { get; set; } = "";

    /// <summary>The pack, in words; may be empty.</summary>
    public string Pack { get; set; } = "";

    /// <summary>The floor, in words; may be empty.</summary>
    public string Floor { get; set; } = "";

    /// <summary>Who starts the runs; may be empty.</summary>
    public string Who { get; set; } = "";

    /// <summary>When it began, by the clock of the page, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}

/// <summary>A run on a table. Once written only taken back, or given back.</summary>
public sealed class LogRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The key that the page gave it: the same line sent twice is one.</summary>
    public required string Key { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>The revision that ran.</summary>
    public int Revision { get; set; }

    /// <summary>Key of its series; empty for none.</summary>
    public string Series { get; set; } = "";

    /// <summary>Whether it passed.</summary>
    public bool Passed { get; set; }

    /// <summary>When it ended, by the clock of the page, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>When it came here, UTC.</summary>
    public DateTime KeptUtc { get; set; }

    /// <summary>How long it took by the stopwatch, s; null where nobody took it.</summary>
    public double? TimeS { get; set; }

    /// <summary>The goal that was missed; may be empty.</summary>
    public string Goal { get; set; } = "";

    /// <summary>Why it failed, in words; may be empty.</summary>
    public string Cause { get; set; } = "";

    /// <summary>True where that is one of the failures that the bench shows.</summary>
    public bool CauseExpected { get; set; }

    /// <summary>A note; may be empty.</summary>
    public string Note { get; set; } = "";

    /// <summary>What was measured, as JSON.</summary>
    public string Measured { get; set; } = "[]";

    /// <summary>True when it was taken back.</summary>
    public bool TakenBack { get; set; }

    /// <summary>True when it came from a log that was kept elsewhere.</summary>
    public bool Imported { get; set; }
}

/// <summary>Where a real copy is joined to. Each machine has its own ports: it is no part of the rig and never exported.</summary>
public sealed class LineRow
{
    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>A port by its system name, or an address and its port, as it was typed.</summary>
    public required string To { get; set; }

    /// <summary>When it was joined, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}

/// <summary>A run that was seen to begin and end over the line. It waits until somebody says whether it passed.</summary>
public sealed class LineRunRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The key that its line in the log gets.</summary>
    public required string Key { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>When it ended, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>How long it took by the board's clock, s.</summary>
    public double Seconds { get; set; }

    /// <summary>The last states of its programs.</summary>
    public string EndedIn { get; set; } = "";

    /// <summary>What else was told, in words; may be empty.</summary>
    public string Happened { get; set; } = "";

    /// <summary>True when it came to its end; false when it was broken off.</summary>
    public bool Whole { get; set; }

    /// <summary>The revision that ran, as the board said.</summary>
    public int Revision { get; set; }

    /// <summary>What is to know of that revision, in words; empty when it is the one that is here.</summary>
    public string Holding { get; set; } = "";

    /// <summary>True when a stand-in box told of it.</summary>
    public bool FromBox { get; set; }

    /// <summary>True when somebody said that it was no run.</summary>
    public bool Dropped { get; set; }
}

/// <summary>How a log that was kept elsewhere was read, remembered by its columns.</summary>
public sealed class LogMappingRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>SHA-256 of the names of its columns; there is one of each.</summary>
    public required string Columns { get; set; }

    /// <summary>When it was used last, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What each column is, as JSON.</summary>
    public required string Document { get; set; }
}

/// <summary>A routine kept in the workshop's library.</summary>
public sealed class RoutineRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Its name; there is one of each.</summary>
    public required string Name { get; set; }

    /// <summary>When it was kept, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>The routine as JSON.</summary>
    public required string Document { get; set; }
}

/// <summary>A trial of a motion as it was made. Never changed once written.</summary>
public sealed class TrialRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Key of the motion when it was made: mechanism and what was tried.</summary>
    public required string Motion { get; set; }

    /// <summary>What was asked, in the plan's ask unit.</summary>
    public double Asked { get; set; }

    /// <summary>What the controller was told, in the plan's command unit.</summary>
    public double Commanded { get; set; }

    /// <summary>What was measured, in the plan's happen unit.</summary>
    public double Measured { get; set; }

    /// <summary>How it came in.</summary>
    public ReadingOrigin Origin { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>Who made it; may be empty.</summary>
    public string Who { get; set; } = "";

    /// <summary>What the board was told over the line, and what it counted; empty where no line was there.</summary>
    public string Told { get; set; } = "";

    /// <summary>How that ends where it was a box that was told.</summary>
    public const string ByBox = ", by a box";
}

/// <summary>A number that was accepted from trials. Never changed once written.</summary>
public sealed class AcceptedRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Key of the motion when it was accepted.</summary>
    public required string Motion { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>The number.</summary>
    public double Value { get; set; }

    /// <summary>How well it is known (SD).</summary>
    public double MeanSd { get; set; }

    /// <summary>SD from move to move.</summary>
    public double MoveSd { get; set; }

    /// <summary>Trials it came from.</summary>
    public int Trials { get; set; }

    /// <summary>What was asked, for numbers that hold for that alone.</summary>
    public double For { get; set; }

    /// <summary>A second number found with it; null when there is none.</summary>
    public double? Second { get; set; }

    /// <summary>How well that is known (SD).</summary>
    public double SecondSd { get; set; }

    /// <summary>Its SD from move to move.</summary>
    public double SecondMoveSd { get; set; }

    /// <summary>What it was worked out through: a wheel diameter, mm, or a least power, %; null when it needs none, or that was not
    /// kept.</summary>
    public double? Against { get; set; }

    /// <summary>Runs of the log that narrowed it; 0 where trials of the motion alone found it.</summary>
    public int Narrowed { get; set; }

    /// <summary>Where it came from before it was narrowed.</summary>
    public Core.Quantities.Provenance Came { get; set; } = Core.Quantities.Provenance.Measured;
}

/// <summary>A version of what is known of a motion on one copy. Never changed once written; the highest version is current.</summary>
public sealed class MotionRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Key of the motion: mechanism and what is tried.</summary>
    public required string Motion { get; set; }

    /// <summary>Version, from 1.</summary>
    public int Version { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What changed, in words.</summary>
    public required string What { get; set; }

    /// <summary>Keys of its trials in order, comma-separated.</summary>
    public required string Trials { get; set; }

    /// <summary>Key of the accepted number; null while none was accepted.</summary>
    public long? Accepted { get; set; }
}

/// <summary>A position found by hand once. Never changed once written.</summary>
public sealed class PositionRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Mechanism name.</summary>
    public required string Mechanism { get; set; }

    /// <summary>Position name.</summary>
    public required string Position { get; set; }

    /// <summary>The angle: of a servo deg, of others motor deg.</summary>
    public double Angle { get; set; }

    /// <summary>How it came in.</summary>
    public ReadingOrigin Origin { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>Who found it; may be empty.</summary>
    public string Who { get; set; } = "";

    /// <summary>How it was found; may be empty.</summary>
    public string Conditions { get; set; } = "";
}

/// <summary>A version of what is known of the positions of a mechanism on one copy. Never changed once written; the highest version is
/// current.</summary>
public sealed class PositionsRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>Copy number.</summary>
    public int Copy { get; set; }

    /// <summary>Mechanism name.</summary>
    public required string Mechanism { get; set; }

    /// <summary>Version, from 1.</summary>
    public int Version { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What changed, in words.</summary>
    public required string What { get; set; }

    /// <summary>Keys of what was found, in order, comma-separated.</summary>
    public required string Found { get; set; }
}
