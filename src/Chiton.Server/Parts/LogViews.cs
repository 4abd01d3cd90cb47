using Chiton.Core.Logbook;
using Chiton.Core.Proving;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A line of the log as a page sends it.</summary>
/// <param name="Key">A key of the page's own, 8 to 64 letters, digits and hyphens: the same line sent twice is kept once.</param>
/// <param name="Revision">The revision that ran, from 1.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="TimeUtc">When it ended, UTC.</param>
/// <param name="Series">Key of its series; null for none.</param>
/// <param name="TimeS">How long it took by the stopwatch, s, more than 0 and at most 3 600; null where nobody took it.</param>
/// <param name="Goal">The goal that was missed; null or empty for none.</param>
/// <param name="Cause">Why it failed, in words; null or empty for none.</param>
/// <param name="CauseExpected">True where that is one of the failures that the bench shows.</param>
/// <param name="Note">A note; null or empty for none.</param>
/// <param name="Measured">What was measured; null for nothing.</param>
public sealed record LogLineRequest(
    string? Key,
    double? Revision,
    bool? Passed,
    DateTime? TimeUtc,
    string? Series = null,
    double? TimeS = null,
    string? Goal = null,
    string? Cause = null,
    bool CauseExpected = false,
    string? Note = null,
    IReadOnlyList<MeasuredRequest?>? Measured = null
);

/// <summary>Something that was measured of a run.</summary>
/// <param name="What">What it is, 1 to 60 characters.</param>
/// <param name="Value">Its value.</param>
/// <param name="Unit">Its unit; null or empty for none.</param>
public sealed record MeasuredRequest(string? What, double? Value, string? Unit = null);

/// <summary>Lines to be kept.</summary>
/// <param name="Copy">The copy that ran; null for the first.</param>
/// <param name="Lines">The lines, 1 to 500.</param>
/// <param name="By">Who sends them; null for nobody.</param>
public sealed record LogLinesRequest(int? Copy, IReadOnlyList<LogLineRequest?>? Lines, string? By = null);

/// <summary>A line that was not kept.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Say">Which field, and what is allowed there.</param>
public sealed record RefusedLine(string Key, string Say);

/// <summary>What became of lines that were sent.</summary>
/// <param name="Kept">Keys of those that are kept, also those that were before.</param>
/// <param name="Refused">Those that cannot be kept: sending them again is of no use.</param>
public sealed record KeptLines(IReadOnlyList<string> Kept, IReadOnlyList<RefusedLine> Refused);

/// <summary>A series of runs.</summary>
/// <param name="Key">A key of the page's own.</param>
/// <param name="TimeUtc">When it began, UTC.</param>
/// <param name="Copy">The copy that runs; null for the first.</param>
/// <param name="Planned">How many runs it is to have, 0 to 500; 0 for as many as come.</param>
/// <param name="Scene">The scene that it is held against; null or empty for the one that counts.</param>
/// <param name="Light">The light, in words.</param>
/// <param name="Pack">The pack, in words.</param>
/// <param name="Floor">The floor, in words.</param>
/// <param name="Who">Who starts the runs.</param>
public sealed record SeriesRequest(
    string? Key,
    DateTime? TimeUtc,
    int? Copy = null,
    double? Planned = null,
    string? Scene = null,
    string? Light = null,
    string? Pack = null,
    string? Floor = null,
    string? Who = null
);

/// <summary>To take a line back, or to give it back.</summary>
/// <param name="Back">True to take it back.</param>
/// <param name="By">Who does it; null for nobody.</param>
public sealed record TakeBackRequest(bool Back, string? By = null);

/// <summary>A run on the table.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Revision">The revision that ran.</param>
/// <param name="Series">Key of its series; empty for none.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="TimeUtc">When it ended, UTC.</param>
/// <param name="TimeS">How long it took, s.</param>
/// <param name="Goal">The goal that was missed; may be empty.</param>
/// <param name="Cause">Why it failed; may be empty.</param>
/// <param name="CauseExpected">True where the bench shows such failures.</param>
/// <param name="Note">A note; may be empty.</param>
/// <param name="Measured">What was measured.</param>
public sealed record LogLine(
    string Key,
    int Revision,
    string Series,
    bool Passed,
    DateTime TimeUtc,
    double? TimeS,
    string Goal,
    string Cause,
    bool CauseExpected,
    string Note,
    IReadOnlyList<MeasuredValue> Measured
);

/// <summary>A series of runs, as it is kept.</summary>
/// <param name="Key">Its key.</param>
/// <param name="TimeUtc">When it began, UTC.</param>
/// <param name="Planned">How many runs it is to have; 0 for as many as come.</param>
/// <param name="Scene">The scene; empty for the one that counts.</param>
/// <param name="Light">The light.</param>
/// <param name="Pack">The pack.</param>
/// <param name="Floor">The floor.</param>
/// <param name="Who">Who starts the runs.</param>
/// <param name="Runs">How many it has.</param>
/// <param name="Passes">How many of them passed.</param>
public sealed record LogSeries(
    string Key,
    DateTime TimeUtc,
    int Planned,
    string Scene,
    string Light,
    string Pack,
    string Floor,
    string Who,
    int Runs,
    int Passes
);

/// <summary>What was promised of a revision.</summary>
/// <param name="Proof">Number of the proof; null where only the header counted.</param>
/// <param name="Scene">Its scene.</param>
/// <param name="Runs">Of so many runs</param>
/// <param name="Low">at least so many were promised,</param>
/// <param name="High">and at most so many.</param>
/// <param name="Mean">Share of runs that passed in it, 0 to 1.</param>
/// <param name="RangeLow">Where the copy's rate lay, lower end.</param>
/// <param name="RangeHigh">Upper end.</param>
/// <param name="Afterwards">True where it was worked out after the first run: nobody knew it then.</param>
public sealed record LogPromise(
    long? Proof,
    string Scene,
    int Runs,
    int Low,
    int High,
    double Mean,
    double RangeLow,
    double RangeHigh,
    bool Afterwards = false
);

/// <summary>All runs of a revision on a copy.</summary>
/// <param name="Revision">The revision.</param>
/// <param name="Scene">The scene that its series are held against; empty for the one that counts.</param>
/// <param name="Sent">False where it was never sent to the controller of this copy, as far as is known.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Promise">What was promised; null where nothing was.</param>
/// <param name="AsPromised">Whether it came so; null where nothing was promised.</param>
/// <param name="Called">Where the bench does not know something.</param>
/// <param name="Say">How it came out, in words.</param>
/// <param name="Changed">What changed since the revision below, in sentences; empty for the first.</param>
/// <param name="Settled">Whether that helped; null for the first.</param>
/// <param name="Lines">The runs in order.</param>
public sealed record LogSpread(
    int Revision,
    string Scene,
    bool Sent,
    int Passes,
    LogPromise? Promise,
    bool? AsPromised,
    CalledOut? Called,
    string Say,
    IReadOnlyList<string> Changed,
    string? Settled,
    IReadOnlyList<LogLine> Lines
);

/// <summary>A failure that the proof expects.</summary>
/// <param name="Goal">The goal that is missed.</param>
/// <param name="Say">What happens then, in a sentence.</param>
/// <param name="Share">Share of its runs that fail so, 0 to 1.</param>
public sealed record ExpectedCause(string Goal, string Say, double Share);

/// <summary>A copy in the log.</summary>
/// <param name="Copy">Its number.</param>
/// <param name="Team">Its team; may be empty.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Runs">All runs.</param>
/// <param name="Say">How far it is from the others, in words; empty where nothing is to be said.</param>
public sealed record LogCopy(int Copy, string Team, int Passes, int Runs, string Say);

/// <summary>What the controller of a copy holds.</summary>
/// <param name="Revision">The revision; null where nothing of this rig was sent.</param>
/// <param name="Now">The revision that is on the screen.</param>
/// <param name="Same">True when all that is on the screen is sent.</param>
/// <param name="Earlier">Revisions that were sent, the latest first.</param>
/// <param name="Say">In words.</param>
public sealed record LogHeld(int? Revision, int Now, bool Same, IReadOnlyList<int> Earlier, string Say);

/// <summary>The log of a copy.</summary>
/// <param name="Copy">The copy.</param>
/// <param name="Real">True for one on a table.</param>
/// <param name="Held">What its controller holds.</param>
/// <param name="Series">Series of runs, the latest first.</param>
/// <param name="Spreads">Revisions with runs, the latest first.</param>
/// <param name="Causes">Failures that the proof of what is held expects, the likeliest first.</param>
/// <param name="Copies">All copies of the rig that have runs.</param>
/// <param name="Waiting">Runs that were seen over the line and of which nobody has said whether they passed.</param>
public sealed record LogView(
    int Copy,
    bool Real,
    LogHeld Held,
    IReadOnlyList<LogSeries> Series,
    IReadOnlyList<LogSpread> Spreads,
    IReadOnlyList<ExpectedCause> Causes,
    IReadOnlyList<LogCopy> Copies,
    IReadOnlyList<WaitingRun> Waiting
);

/// <summary>A run that began and ended by itself, as its line told.</summary>
/// <param name="Key">The key that its line in the log gets.</param>
/// <param name="TimeUtc">When it ended, UTC.</param>
/// <param name="TimeS">How long it took by the board's clock, s.</param>
/// <param name="Revision">The revision that ran.</param>
/// <param name="Whole">True when it came to its end; false when it was broken off.</param>
/// <param name="Say">In a sentence: how it ended, and what else was told.</param>
public sealed record WaitingRun(string Key, DateTime TimeUtc, double TimeS, int Revision, bool Whole, string Say);

/// <summary>What the runs of a revision teach.</summary>
/// <param name="Revision">The revision.</param>
/// <param name="Before">Where the rate of the copy lay before them.</param>
/// <param name="After">Where it lies with them.</param>
/// <param name="Numbers">Numbers that they narrowed.</param>
/// <param name="Explaining">Where the bench was called out, numbers that would explain it.</param>
/// <param name="Candidates">What else would: a failure that the bench never shows, a time that is off.</param>
/// <param name="Next">What to measure next, in words.</param>
/// <param name="Enough">True where enough made-up copies count to speak of numbers.</param>
/// <param name="Say">All of it in a sentence or two.</param>
public sealed record LearntView(
    int Revision,
    RateRange Before,
    RateRange After,
    IReadOnlyList<LearntNumber> Numbers,
    IReadOnlyList<NarrowedNumber> Explaining,
    IReadOnlyList<string> Candidates,
    IReadOnlyList<string> Next,
    bool Enough,
    string Say
);

/// <summary>A number that the runs narrowed.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Kind">Where it came from before.</param>
/// <param name="Was">Its mean before the runs.</param>
/// <param name="WasSd">How well it was known (SD).</param>
/// <param name="Value">Its mean with them.</param>
/// <param name="Sd">How well it is known with them (SD).</param>
/// <param name="Say">In words.</param>
/// <param name="Motion">Key of the motion of Move that holds it; null where Move has none.</param>
/// <param name="Taken">True where Move has it already; null where nothing was accepted there.</param>
public sealed record LearntNumber(
    string Name,
    string Unit,
    Core.Quantities.Provenance Kind,
    double Was,
    double WasSd,
    double Value,
    double Sd,
    string Say,
    string? Motion,
    bool? Taken
);

/// <summary>To take a narrowed number over into Move.</summary>
/// <param name="Copy">The copy; null for the first.</param>
/// <param name="Revision">The revision whose runs narrowed it.</param>
/// <param name="Number">Its name.</param>
/// <param name="Scene">The scene that the series are held against; null or empty for the one that counts.</param>
/// <param name="By">Who does it; null for nobody.</param>
/// <param name="Job">A name by which it can be stopped; null for none.</param>
public sealed record TakeRequest(int? Copy, double? Revision, string? Number, string? Scene = null, string? By = null, string? Job = null);

/// <summary>A table of text with runs.</summary>
/// <param name="Copy">The copy that ran; null for the first.</param>
/// <param name="Text">The text, with headings.</param>
public sealed record TableRequest(int? Copy, string? Text);

/// <summary>A column of a table.</summary>
/// <param name="Name">Its heading.</param>
/// <param name="Values">What stands in it, each once, at most 12.</param>
/// <param name="Days">How days would be written in it.</param>
public sealed record LogColumn(string Name, IReadOnlyList<string> Values, DayForm Days);

/// <summary>A table that was looked at.</summary>
/// <param name="Columns">Its columns.</param>
/// <param name="Rows">How many rows.</param>
/// <param name="Mapping">What the columns are likely to be, or what was said of them last time.</param>
/// <param name="Remembered">True for what was said last time.</param>
public sealed record TableLook(IReadOnlyList<LogColumn> Columns, int Rows, LogMapping Mapping, bool Remembered);

/// <summary>A table that is to be taken in.</summary>
/// <param name="Copy">The copy that ran where no row says it; null for the first.</param>
/// <param name="Text">The text, with headings.</param>
/// <param name="Mapping">What its columns are.</param>
/// <param name="Revision">The revision that ran where no row says it; null for the latest.</param>
/// <param name="MinutesEast">How far the clock that wrote the times is ahead of UTC, minutes.</param>
/// <param name="Dry">True to say only what would come of it.</param>
/// <param name="By">Who does it; null for nobody.</param>
public sealed record ImportRequest(
    int? Copy,
    string? Text,
    LogMapping? Mapping,
    double? Revision = null,
    double? MinutesEast = null,
    bool Dry = false,
    string? By = null
);

/// <summary>What came of a table.</summary>
/// <param name="Added">Runs that are new.</param>
/// <param name="Known">Runs that were there already.</param>
/// <param name="Passes">Runs of the table that passed.</param>
/// <param name="Bad">Rows that cannot be read.</param>
/// <param name="View">The log with them; null when it was only tried.</param>
public sealed record TableImported(int Added, int Known, int Passes, IReadOnlyList<BadRow> Bad, LogView? View);

/// <summary>What a match can be planned with.</summary>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Copy">Copy number.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Success">Success of a try, 0 to 1.</param>
/// <param name="Low">As seldom as it may be.</param>
/// <param name="High">As often as it may be.</param>
/// <param name="RunS">How long a run that passes takes, whole seconds; null where nobody took it.</param>
/// <param name="FromLog">True where runs on the table say so.</param>
/// <param name="Say">What it rests on, in words.</param>
public sealed record Mission(
    string Rig,
    int Copy,
    string Name,
    double Success,
    double Low,
    double High,
    double? RunS,
    bool FromLog,
    string Say
);
