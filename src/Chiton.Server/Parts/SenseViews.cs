using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A zone with its readings.</summary>
/// <param name="Zone">Name.</param>
/// <param name="Readings">All readings in the order taken, those set aside too.</param>
/// <param name="Figures">What those that count look like; null with fewer than 3.</param>
/// <param name="SetAside">Values left out, with their reasons.</param>
public sealed record ZoneView(string Zone, IReadOnlyList<double> Readings, ListFigures? Figures, IReadOnlyList<SetAsideReading> SetAside);

/// <summary>A recording of a calibration.</summary>
/// <param name="Zone">Zone.</param>
/// <param name="Origin">How they came in, in words.</param>
/// <param name="TimeUtc">When, UTC.</param>
/// <param name="Who">Who took them.</param>
/// <param name="Conditions">Where and in which light.</param>
/// <param name="Mode">Mode of the sensor.</param>
/// <param name="SupplyV">Supply voltage, V.</param>
/// <param name="Count">Readings.</param>
/// <param name="Clock">What the clock of its board says of it, in words; empty where no clock came with it.</param>
public sealed record RecordingItem(
    string Zone,
    string Origin,
    DateTime TimeUtc,
    string Who,
    string Conditions,
    string Mode,
    double? SupplyV,
    int Count,
    string Clock
);

/// <summary>A version of a calibration.</summary>
public sealed record CalibrationItem(int Version, DateTime TimeUtc, string What);

/// <summary>Where a calibration came from.</summary>
/// <param name="Versions">Versions, newest first.</param>
/// <param name="Recordings">What the current one is made of.</param>
public sealed record CalibrationHistory(IReadOnlyList<CalibrationItem> Versions, IReadOnlyList<RecordingItem> Recordings);

/// <summary>Makes an earlier version current again.</summary>
public sealed record RestoreRequest(int? Copy, string? Sensor, int BaseVersion, int Version, string? By);

/// <summary>Leaves a value out of a zone, or takes it back.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="BaseVersion">The calibration version that was looked at.</param>
/// <param name="Zone">Zone name.</param>
/// <param name="Value">The value.</param>
/// <param name="Reason">Why; null to take it back.</param>
/// <param name="By">The page that asks.</param>
public sealed record SetAsideRequest(int? Copy, string? Sensor, int BaseVersion, string? Zone, double? Value, string? Reason, string? By);

/// <summary>Adds a zone to a sensor of the design.</summary>
public sealed record ZoneRequest(int BaseRevision, string? Sensor, string? Name, int? Copy, string? By);

/// <summary>A sensor in the row of names.</summary>
/// <param name="Name">Sensor name.</param>
/// <param name="About">What it is.</param>
/// <param name="Grade">How far it can be relied on; null while nothing was recorded.</param>
public sealed record SensorItem(string Name, string About, Grade? Grade);

/// <summary>What can be put before the sensor on the simulated bench.</summary>
/// <param name="Name">Thing.</param>
/// <param name="Asks">True when it has an amount.</param>
public sealed record BenchItem(string Name, bool Asks);

/// <summary>A reading of colour.</summary>
public sealed record ColourView(ColoursResult Result, IReadOnlyList<Step> Steps, IReadOnlyList<string> Cautions, Verdict Verdict)
{
    /// <summary>From the sum.</summary>
    public static ColourView Of(Answer<ColoursResult> sum) => new(sum.Result, sum.Steps, sum.Cautions, sum.Verdict!);
}

/// <summary>Sense for one sensor of one copy.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensors">All sensors of the rig.</param>
/// <param name="Sensor">The one shown; empty when the rig has none.</param>
/// <param name="Kind">What it measures.</param>
/// <param name="View">How its readings are looked at: scalar, bands, colours, names, switch or none.</param>
/// <param name="About">What it is, in words.</param>
/// <param name="Unit">Unit of its readings.</param>
/// <param name="Low">Least reading it can report.</param>
/// <param name="High">Greatest reading it can report.</param>
/// <param name="Version">Version of the calibration.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="Resolution">Smallest difference.</param>
/// <param name="School">Where thresholds are put.</param>
/// <param name="CostRatio">For the school of cost.</param>
/// <param name="Zones">Zones with their readings.</param>
/// <param name="Pairs">Thresholds between neighbours.</param>
/// <param name="Schools">Schools to choose from.</param>
/// <param name="Marker">The marker sum; null where it does not apply.</param>
/// <param name="Things">What can be put before it.</param>
/// <param name="Amount">What the amount of a thing means; null when things have none.</param>
/// <param name="Judgement">How far this sensor can be relied on, and what would cure it.</param>
/// <param name="Rig">How far the rig's sensors can be relied on.</param>
/// <param name="Bands">Bands of distance, judged; null for other sensors.</param>
/// <param name="BandsFromReadings">Bands that would follow from the readings.</param>
/// <param name="BlindMm">Blind zone, mm.</param>
/// <param name="ReachMm">Reach, mm.</param>
/// <param name="Silent">What it answers when it hears nothing.</param>
/// <param name="Colours">Colour classes; null for other sensors or too few samples.</param>
/// <param name="Names">Colour words; null for other sensors.</param>
/// <param name="Words">The colour words by number; empty for other sensors.</param>
/// <param name="Switch">Levels and edges; null for other sensors.</param>
/// <param name="Sums">Sums that matter here, filled from the rig.</param>
/// <param name="Rolling">How its readings will be taken, and which motion's trials find how much they tremble then; null at rest.</param>
/// <param name="Notes">What is odd about the readings, for the picture.</param>
/// <param name="Cautions">What to beware of.</param>
public sealed record SenseView(
    int Copy,
    IReadOnlyList<SensorItem> Sensors,
    string Sensor,
    SensorKind Kind,
    string View,
    string About,
    string Unit,
    double Low,
    double High,
    int Version,
    double SamplePeriodMs,
    double Resolution,
    string School,
    double CostRatio,
    IReadOnlyList<ZoneView> Zones,
    IReadOnlyList<PairView> Pairs,
    IReadOnlyList<SchoolView> Schools,
    MarkerView? Marker,
    IReadOnlyList<BenchItem> Things,
    BenchAmount? Amount,
    SensorJudgement Judgement,
    RigJudgement Rig,
    DistanceBands? Bands,
    IReadOnlyList<Band> BandsFromReadings,
    double BlindMm,
    double? ReachMm,
    double? Silent,
    ColourView? Colours,
    NamedColours? Names,
    IReadOnlyList<string> Words,
    SwitchJudgement? Switch,
    IReadOnlyList<FilledSum> Sums,
    RollingView? Rolling,
    IReadOnlyList<SenseNote> Notes,
    IReadOnlyList<string> Cautions
)
{
    /// <summary>Sense for a sensor as it stands.</summary>
    /// <param name="state">The rig with its copy.</param>
    /// <param name="eye">The sensor.</param>
    /// <param name="things">What can be put before it on the simulated bench.</param>
    public static SenseView Of(RigState state, Sensor eye, IEnumerable<BenchThing> things)
    {
        var facts = eye.Facts;
        var calibration = state.Calibrations.GetValueOrDefault(eye.Name) ?? SenseWords.Unread(eye);
        var thresholds = SenseWords.HasThresholds(eye);
        var pairs = thresholds ? calibration.Pairs() : [];
        var judged = state.Report().Judgement;
        var bands = facts.View == "bands";
        var names = facts.View == "names";
        // What was set aside has nothing to do with where a zone reaches.
        ZoneReadings[] kept = [.. calibration.Zones.Select(z => z with { Readings = calibration.Kept(z.Zone) })];
        IReadOnlyList<SenseNote> notes = thresholds || bands ? SenseWatch.Notes(eye, calibration) : [];
        return new(
            state.Copy,
            [
                .. state.Design.Sensors.Select(s => new SensorItem(
                    s.Name,
                    s.About,
                    judged.Sensors.FirstOrDefault(j => j.Sensor == s.Name)?.Grade
                )),
            ],
            eye.Name,
            eye.Kind,
            facts.View,
            eye.About,
            facts.Unit,
            facts.From,
            facts.To,
            state.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? 0,
            eye.SamplePeriodMs,
            eye.Resolution,
            ThresholdSum.NameOf(calibration.School),
            calibration.CostRatio,
            [
                .. calibration.Zones.Select(z => new ZoneView(
                    z.Zone,
                    z.Readings,
                    SenseWords.Figures(eye, calibration, z),
                    [.. calibration.SetAside.Where(s => s.Zone == z.Zone)]
                )),
            ],
            [.. pairs.Select(p => SenseWords.Pair(p, eye, calibration.Rolling))],
            thresholds ? SenseWords.Schools(pairs.Count > 0 ? pairs[0].Sum.Result : null) : [],
            thresholds ? MarkerBrief.Of(state.Design, state.Motion, eye, calibration, state.Parsed) : null,
            [.. things.Select(t => new BenchItem(t.Name, t.PerAmount != 0))],
            facts.Amount,
            judged.Sensors.FirstOrDefault(j => j.Sensor == eye.Name) ?? new(eye.Name, null, "", [], null),
            judged,
            bands ? SenseJudge.Judged(eye, calibration) : null,
            bands ? DistanceBands.FromReadings(kept, eye.BlindMm?.Value ?? 0, eye.ReachMm?.Value ?? 4000, eye.SilentReading) : [],
            eye.BlindMm?.Value ?? 0,
            eye.ReachMm?.Value,
            eye.SilentReading,
            facts.View == "colours" && SenseJudge.Classes(calibration) is { Classes.Count: >= 2 } classes
                ? ColourView.Of(Core.Sensing.Colours.Compute(classes))
                : null,
            names ? NamedColours.Judge(calibration.Zones, SenseJudge.ColourWords, eye.SamplePeriodMs, calibration.MaxFalsePerHour) : null,
            names ? SenseJudge.ColourWords : [],
            facts.View == "switch" ? SenseJudge.Judged(eye, calibration.Zones) : null,
            SenseFill.For(state.Design, eye, state.Motion, calibration),
            calibration.Rolling is { } rolls
                ? new(
                    rolls.SpeedMmPerS,
                    rolls.Tremble,
                    state
                        .Moves.Plans.Where(p => p.Kind == TrialKind.Tremble)
                        .Select(p => new TrialLink(p.Mechanism, p.Key))
                        .FirstOrDefault()
                )
                : null,
            notes,
            SenseWords.Cautions(eye, calibration, notes)
        );
    }
}

/// <summary>That readings are taken while rolling.</summary>
/// <param name="SpeedMmPerS">How fast, mm/s.</param>
/// <param name="Tremble">How much more they tremble then.</param>
/// <param name="Trial">Where that is found; null where nothing can be tried.</param>
public sealed record RollingView(double SpeedMmPerS, Quantity Tremble, TrialLink? Trial);

/// <summary>A motion that can be tried in Move.</summary>
/// <param name="Mechanism">Its mechanism.</param>
/// <param name="Key">Its key.</param>
public sealed record TrialLink(string Mechanism, string Key);

/// <summary>Says from where to where each zone of a distance sensor reaches.</summary>
public sealed record BandsRequest(int BaseRevision, string? Sensor, IReadOnlyList<Band>? Bands, int? Copy, string? By);

/// <summary>Starts a zone anew.</summary>
public sealed record ClearRequest(int? Copy, string? Sensor, int BaseVersion, string? Zone, string? By);

/// <summary>Records from the simulated controller.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Zone">Zone to record into.</param>
/// <param name="Seconds">How long, 0.5 to 60 s.</param>
/// <param name="Job">A name by which progress is told and the recording can be stopped.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Who">Who takes them.</param>
/// <param name="Conditions">Where and in which light.</param>
/// <param name="Over">What it is held over; the thing of the zone's name when left out.</param>
/// <param name="Amount">How far, how hard or how deep, where that means something.</param>
/// <param name="Care">What is done about noise.</param>
/// <param name="SupplyV">Supply voltage, V.</param>
public sealed record RecordRequest(
    int? Copy,
    string? Sensor,
    string? Zone,
    double? Seconds,
    string? Job,
    string? By,
    string? Who = null,
    string? Conditions = null,
    string? Over = null,
    double? Amount = null,
    BenchCare? Care = null,
    double? SupplyV = null
);

/// <summary>Takes readings from text.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Zone">Zone for rows that name none.</param>
/// <param name="Text">A column of readings or CSV.</param>
/// <param name="Csv">True when it came from a file.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Who">Who took them.</param>
/// <param name="Conditions">Where and in which light.</param>
/// <param name="SupplyV">Supply voltage, V.</param>
/// <param name="Sure">True when a question about them was answered.</param>
public sealed record ReadingsRequest(
    int? Copy,
    string? Sensor,
    string? Zone,
    string? Text,
    bool Csv,
    string? By,
    string? Who = null,
    string? Conditions = null,
    double? SupplyV = null,
    bool? Sure = null
);

/// <summary>What was taken in.</summary>
/// <param name="Version">Version of the calibration.</param>
/// <param name="Count">Readings.</param>
/// <param name="Stopped">True when it ended before its time.</param>
/// <param name="Say">What else is to know, in words; empty for nothing.</param>
public sealed record TakenIn(int Version, int Count, bool Stopped, string Say = "");

/// <summary>Chooses where thresholds are put.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="BaseVersion">The calibration version that was looked at.</param>
/// <param name="School">equalRisk, midpoint, midGap or cost.</param>
/// <param name="CostRatio">Harm of a false rise over harm of a false fall.</param>
/// <param name="By">The page that asks.</param>
public sealed record SchoolRequest(int? Copy, string? Sensor, int BaseVersion, string? School, double? CostRatio, string? By);
