namespace Chiton.Core.Logbook;

/// <summary>Something that was measured of a run.</summary>
/// <param name="What">What it is, in words.</param>
/// <param name="Value">Its value.</param>
/// <param name="Unit">Its unit; may be empty.</param>
public sealed record MeasuredValue(string What, double Value, string Unit);

/// <summary>A run on the table, as it goes out to a table of text and comes in from one.</summary>
/// <param name="Key">Its key; the same run read twice is one.</param>
/// <param name="Copy">The copy that ran.</param>
/// <param name="Revision">The revision that ran.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="TimeUtc">When it ended, UTC.</param>
/// <param name="TimeS">How long it took, s; null where nobody took it.</param>
/// <param name="Goal">The goal that was missed; may be empty.</param>
/// <param name="Cause">Why it failed; may be empty.</param>
/// <param name="CauseExpected">True where the bench shows such failures.</param>
/// <param name="Note">A note; may be empty.</param>
/// <param name="Measured">What was measured.</param>
/// <param name="Series">Its series; empty for none.</param>
/// <param name="Light">The light.</param>
/// <param name="Pack">The pack.</param>
/// <param name="Floor">The floor.</param>
/// <param name="Who">Who started it.</param>
public sealed record LogEntry(
    string Key,
    int Copy,
    int Revision,
    bool Passed,
    DateTime TimeUtc,
    double? TimeS,
    string Goal,
    string Cause,
    bool CauseExpected,
    string Note,
    IReadOnlyList<MeasuredValue> Measured,
    string Series,
    string Light,
    string Pack,
    string Floor,
    string Who
);
