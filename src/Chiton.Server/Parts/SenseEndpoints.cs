using Chiton.Core.Checking;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>A zone with its readings.</summary>
/// <param name="Zone">Name.</param>
/// <param name="Readings">All readings in the order taken, those set aside too.</param>
/// <param name="Figures">What those that count look like; null with fewer than 3.</param>
/// <param name="SetAside">Values left out, with their reasons.</param>
public sealed record ZoneView(string Zone, IReadOnlyList<double> Readings, ListFigures? Figures, IReadOnlyList<SetAsideReading> SetAside);

/// <summary>A recording of a calibration.</summary>
public sealed record RecordingItem(
    string Zone,
    string Origin,
    DateTime TimeUtc,
    string Who,
    string Conditions,
    string Mode,
    double? SupplyV,
    int Count
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

/// <summary>The threshold between two zones, for the picture and in words.</summary>
/// <param name="Lower">Zone below.</param>
/// <param name="Upper">Zone above.</param>
/// <param name="Sum">The whole sum.</param>
/// <param name="Fallback">Why another school stands in; null when none does.</param>
/// <param name="Headline">The verdict in a few words.</param>
/// <param name="Say">The verdict in one or two sentences with the figures.</param>
public sealed record PairView(string Lower, string Upper, Answer<ThresholdResult> Sum, string? Fallback, string Headline, string Say);

/// <summary>A school that can be chosen.</summary>
/// <param name="School">API name.</param>
/// <param name="Name">As people call it.</param>
/// <param name="Why">When to use it.</param>
/// <param name="Threshold">Where it puts the first threshold; null when it cannot.</param>
public sealed record SchoolView(string School, string Name, string Why, double? Threshold);

/// <summary>The marker sum, filled from the rig.</summary>
/// <param name="Marker">What kind of marker.</param>
/// <param name="LengthMm">Its length.</param>
/// <param name="Sum">The sum.</param>
/// <param name="PowerPercent">The power the program asks for; null when it names none.</param>
/// <param name="SpeedMmPerS">The speed that gives; null likewise.</param>
/// <param name="FastestMmPerS">The fastest speed at which the tag gives the readings needed.</param>
/// <param name="SafePowerPercent">The fastest power at which the vehicle stands on the marker every time; null when there is none.</param>
/// <param name="Headline">What follows, in a few words.</param>
/// <param name="Say">What follows, with the figures.</param>
public sealed record MarkerView(
    string Marker,
    double LengthMm,
    Answer<MarkerPassResult> Sum,
    double? PowerPercent,
    double? SpeedMmPerS,
    double FastestMmPerS,
    double? SafePowerPercent,
    string Headline,
    string Say
);

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
public sealed record ColourView(ColoursResult Result, IReadOnlyList<Step> Steps, IReadOnlyList<string> Cautions, Verdict Verdict);

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
    IReadOnlyList<SenseNote> Notes,
    IReadOnlyList<string> Cautions
);

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
public sealed record ReadingsRequest(
    int? Copy,
    string? Sensor,
    string? Zone,
    string? Text,
    bool Csv,
    string? By,
    string? Who = null,
    string? Conditions = null,
    double? SupplyV = null
);

/// <summary>What was taken in.</summary>
public sealed record TakenIn(int Version, int Count, bool Stopped);

/// <summary>Chooses where thresholds are put.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="BaseVersion">The calibration version that was looked at.</param>
/// <param name="School">equalRisk, midpoint, midGap or cost.</param>
/// <param name="CostRatio">Harm of a false rise over harm of a false fall.</param>
/// <param name="By">The page that asks.</param>
public sealed record SchoolRequest(int? Copy, string? Sensor, int BaseVersion, string? School, double? CostRatio, string? By);

/// <summary>Readings, zones and thresholds.</summary>
public static class SenseEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var sense = api.MapGroup("/rigs/{id}").WithTags("Sense");
        sense.MapGet("/sense", View).WithName("getSense").ProducesProblem(404);
        sense.MapPost("/recordings", Record).WithName("record").ProducesValidationProblem().ProducesProblem(404);
        sense.MapPost("/readings", Take).WithName("takeReadings").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(413);
        sense.MapPut("/calibration", Choose).WithName("chooseSchool").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        sense
            .MapGet(
                "/sense/history",
                async Task<CalibrationHistory> (string id, int? copy, string? sensor, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    var eye = Eye(state, sensor);
                    var versions = await store.Readings.CalibrationHistory(id, state.Copy, eye.Name, cancel);
                    var recordings = versions.Count == 0 ? [] : await store.Readings.RecordingsOf(versions[0], cancel);
                    return new(
                        [.. versions.Select(v => new CalibrationItem(v.Version, v.TimeUtc, v.What))],
                        [
                            .. recordings
                                .Where(r => eye.Zones.Contains(r.Zone))
                                .Select(r => new RecordingItem(
                                    r.Zone,
                                    r.Origin switch
                                    {
                                        ReadingOrigin.Recorded => "recorded",
                                        ReadingOrigin.Csv => "from a CSV",
                                        _ => "pasted",
                                    },
                                    r.TimeUtc,
                                    r.Who,
                                    r.Conditions,
                                    r.Mode,
                                    r.SupplyV,
                                    r.Count
                                )),
                        ]
                    );
                }
            )
            .WithName("getSenseHistory")
            .ProducesProblem(404);
        sense
            .MapGet(
                "/sense/compare",
                async Task<CalibrationComparison> (
                    string id,
                    int? copy,
                    string? sensor,
                    int version,
                    int withCopy,
                    int? withVersion,
                    RigStore store,
                    CancellationToken cancel
                ) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    var eye = Eye(state, sensor);
                    var other = await store.Load(id, withCopy, null, cancel);
                    var with =
                        withVersion
                        ?? other.CalibrationRows.GetValueOrDefault(eye.Name)?.Version
                        ?? throw new NotStored($"{eye.Name} has no readings on copy {withCopy} yet.");
                    return CalibrationComparison.Of(
                        eye,
                        await store.Calibration(state, eye.Name, version, cancel),
                        await store.Calibration(other, eye.Name, with, cancel)
                    );
                }
            )
            .WithName("compareSense")
            .ProducesProblem(404);
        sense
            .MapPost(
                "/sense/restore",
                async Task<TakenIn> (string id, RestoreRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, request.Copy, null, cancel);
                    var eye = Eye(state, request.Sensor);
                    var version = await store.Readings.Restore(id, state.Copy, eye.Name, request.BaseVersion, request.Version, cancel);
                    await announce.Changed(id, state.Copy, state.Revision, $"restored version {request.Version} of {eye.Name}", request.By);
                    return new(version, 0, false);
                }
            )
            .WithName("restoreSense")
            .ProducesProblem(404)
            .ProducesProblem(409);
        sense
            .MapPost("/sense/set-aside", SetAside)
            .WithName("setAside")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        sense.MapPut("/sense/bands", SaveBands).WithName("saveBands").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        sense
            .MapPost(
                "/sense/clear",
                async Task<TakenIn> (string id, ClearRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, request.Copy, null, cancel);
                    var eye = Eye(state, request.Sensor);
                    var zone = Zone(eye, request.Zone);
                    var version = await store.Readings.ClearZone(id, state.Copy, eye.Name, request.BaseVersion, zone, cancel);
                    await announce.Changed(id, state.Copy, state.Revision, $"started {zone} anew", request.By);
                    return new(version, 0, false);
                }
            )
            .WithName("clearZone")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        sense.MapPost("/zones", AddZone).WithName("addZone").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        api.MapDelete("/jobs/{job}", (string job, Jobs jobs) => jobs.Stop(job) ? Results.NoContent() : Results.NotFound())
            .WithName("stopJob")
            .WithTags("Jobs")
            .Produces(204)
            .ProducesProblem(404);
    }

    private static string Short(string? text, string field, int most)
    {
        var trimmed = text?.Trim() ?? "";
        return trimmed.Length <= most ? trimmed : throw new InputProblem(field, $"At most {most} characters.");
    }

    private static async Task<TakenIn> SetAside(
        string id,
        SetAsideRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var need = new Require();
        var value = need.Number(request.Value, "value", eye.Facts.From, eye.Facts.To);
        need.That(request.Reason is null || request.Reason.Trim() != "", "reason", "Say why: a reading is never set aside silently.");
        var readings = state.Calibrations.GetValueOrDefault(eye.Name)?.Zones.FirstOrDefault(z => z.Zone == zone)?.Readings ?? [];
        need.That(!need.Holds || readings.Contains(value), "value", $"No reading of {zone} is {Figures.Show(value)}.");
        need.Done();
        var reason = request.Reason is null ? null : Short(request.Reason, "reason", 200);
        var version = await store.Readings.SetAside(id, state.Copy, eye.Name, request.BaseVersion, zone, value, reason, cancel);
        await announce.Changed(
            id,
            state.Copy,
            state.Revision,
            reason is null ? $"{Figures.Show(value)} of {zone} counts again" : $"{Figures.Show(value)} of {zone} set aside",
            request.By
        );
        return new(version, readings.Count(r => r == value), false);
    }

    private static async Task<Edited> AddZone(string id, ZoneRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var eye = Eye(state, request.Sensor);
        var name = request.Name?.Trim() ?? "";
        var need = new Require();
        need.That(
            Core.Programs.Language.ScriptParser.IsName(name),
            "name",
            "A zone's name has letters, digits and single spaces, and starts with a letter."
        );
        need.That(
            !eye.Zones.Any(z => z.Equals(name, StringComparison.OrdinalIgnoreCase)),
            "name",
            $"{eye.Name} already has a zone “{name}”."
        );
        need.That(eye.Zones.Count < ZonesSum.MostZones, "name", $"At most {ZonesSum.MostZones} zones.");
        need.Done();
        var revision = await store.Designs.AddZone(id, request.BaseRevision, eye.Name, name, cancel);
        await announce.Changed(id, state.Copy, revision, $"added the zone {name}", request.By);
        return new(revision, $"added the zone {name}");
    }

    private static async Task<Edited> SaveBands(
        string id,
        BandsRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var eye = Eye(state, request.Sensor);
        if (eye.Kind != SensorKind.Distance)
            throw new InputProblem("sensor", $"{eye.Name} does not measure distance.");
        var bands = request.Bands ?? throw new InputProblem("bands", "Give a list of bands; it may be empty.");
        var design = state.Design with
        {
            Sensors = state.Design.Sensors.Select(s => s == eye ? s with { Bands = bands.ToSequence() } : s).ToSequence(),
        };
        var at = state.Design.Sensors.ToList().IndexOf(eye);
        try
        {
            RigRules.Check(design, "");
        }
        catch (InputProblem p)
        {
            throw new InputProblem(
                p.Errors.ToDictionary(e => e.Key.Replace($"sensors[{at}].", "", StringComparison.Ordinal), e => e.Value)
            );
        }
        var what = $"set the bands of {eye.Name}";
        var revision = await store.Designs.SaveDesign(id, request.BaseRevision, design, what, cancel);
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }

    private static Sensor Eye(RigState state, string? sensor) =>
        sensor is null
            ? state.Design.Sensors.FirstOrDefault() ?? throw new NotStored("This rig has no sensor yet.")
            : state.Design.Sensors.FirstOrDefault(e => e.Name == sensor)
                ?? throw new InputProblem(
                    "sensor",
                    $"There is no sensor “{sensor}”. The sensors are {string.Join(", ", state.Design.Sensors.Select(e => e.Name))}."
                );

    private static string Zone(Sensor eye, string? zone) =>
        eye.Zones.FirstOrDefault(z => z == zone)
        ?? throw new InputProblem("zone", $"There is no zone “{zone}” on {eye.Name}. The zones are {string.Join(", ", eye.Zones)}.");

    private static async Task<SenseView> View(string id, int? copy, string? sensor, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        var eye = Eye(state, sensor);
        var facts = eye.Facts;
        var calibration =
            state.Calibrations.GetValueOrDefault(eye.Name)
            ?? new(
                eye.Name,
                eye.SamplePeriodMs,
                eye.Resolution,
                1,
                School.EqualRisk,
                1,
                [.. eye.Zones.Select(z => new ZoneReadings(z, []))]
            )
            {
                Unit = facts.Unit,
                Low = facts.From,
                High = facts.To,
            };
        var scalar = facts.View == "scalar" || facts.View == "bands" && eye.Bands.Count == 0;
        var pairs = scalar ? calibration.Pairs() : [];
        var first = pairs.Count > 0 ? pairs[0].Sum.Result : null;
        var (things, _) = await store.Copies.Bench(state, eye, false, cancel);
        var rig = state.Report().Judgement;
        ColourView? colours = null;
        if (
            facts.View == "colours"
            && SenseJudge.Classes(calibration) is { Classes.Count: >= 2 } classes
            && Colours.Compute(classes) is var c
        )
            colours = new(c.Result, c.Steps, c.Cautions, c.Verdict!);
        return new(
            state.Copy,
            [
                .. state.Design.Sensors.Select(s => new SensorItem(
                    s.Name,
                    s.About,
                    rig.Sensors.FirstOrDefault(j => j.Sensor == s.Name)?.Grade
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
                .. calibration.Zones.Select(z =>
                {
                    var kept = calibration.Kept(z.Zone);
                    var heard = eye.SilentReading is { } silent && facts.View == "bands" ? [.. kept.Where(r => r != silent)] : kept;
                    return new ZoneView(
                        z.Zone,
                        z.Readings,
                        heard.Count < 3 || facts.Width > 1 || facts.View is "names" or "switch"
                            ? null
                            : ThresholdSum.Describe(
                                z.Zone,
                                [.. heard],
                                eye.SamplePeriodMs,
                                eye.Resolution / Math.Sqrt(12),
                                z.Readings.Count - kept.Count
                            ),
                        [.. calibration.SetAside.Where(s => s.Zone == z.Zone)]
                    );
                }),
            ],
            [.. pairs.Select(p => Pair(p, eye.SamplePeriodMs))],
            scalar
                ?
                [
                    new("equalRisk", "equal risk", "Both errors equally likely. The default.", first?.EqualRisk),
                    new("midpoint", "midpoint of means", "Halfway between the means, whatever their spread.", first?.Midpoint),
                    new("midGap", "middle of the gap", "Halfway between the nearest readings. Hangs on two readings alone.", first?.MidGap),
                    new("cost", "cost of each error", "When a false rise and a false fall do not harm equally.", first?.Cost),
                ]
                : [],
            Marker(state, eye, calibration, pairs),
            [.. things.Values.Select(t => new BenchItem(t.Name, t.PerAmount != 0))],
            eye.Facts.Amount,
            rig.Sensors.FirstOrDefault(j => j.Sensor == eye.Name) ?? new(eye.Name, null, "", [], null),
            rig,
            facts.View == "bands" ? SenseJudge.Judged(eye, calibration) : null,
            facts.View == "bands"
                ? DistanceBands.FromReadings(calibration.Zones, eye.BlindMm?.Value ?? 0, eye.ReachMm?.Value ?? 4000, eye.SilentReading)
                : [],
            eye.BlindMm?.Value ?? 0,
            eye.ReachMm?.Value,
            eye.SilentReading,
            colours,
            facts.View == "names"
                ? NamedColours.Judge(calibration.Zones, SenseJudge.ColourWords, eye.SamplePeriodMs, calibration.MaxFalsePerHour)
                : null,
            facts.View == "names" ? SenseJudge.ColourWords : [],
            facts.View == "switch" ? SenseJudge.Judged(eye, calibration.Zones) : null,
            SenseFill.For(state.Design, eye, state.Motion, calibration),
            Watch(eye, calibration),
            Cautions(eye, calibration)
        );
    }

    private static IReadOnlyList<SenseNote> Watch(Sensor eye, SensorCalibration calibration) =>
        eye.Facts.View is "scalar" or "bands" ? SenseWatch.Notes(eye, calibration) : [];

    private static IReadOnlyList<string> Cautions(Sensor eye, SensorCalibration calibration)
    {
        var cautions = new List<string>();
        var least = eye.Facts.View switch
        {
            "colours" => 6,
            "names" or "switch" => 1,
            _ => 3,
        };
        foreach (var zone in calibration.Zones)
        {
            var kept = calibration.Kept(zone.Zone);
            if (kept.Count < least)
                cautions.Add(
                    eye.Facts.View == "colours"
                        ? $"{zone.Zone} has {Figures.Count(kept.Count / 3, "sample")}; it takes 2 or more."
                        : $"{zone.Zone} has {Figures.Count(kept.Count, "reading")}; it takes {least} or "
                            + $"more{(eye.Facts.View == "scalar" ? " to place a threshold" : "")}."
                );
        }
        cautions.AddRange(Watch(eye, calibration).Select(n => n.Say));
        return cautions;
    }

    private static PairView Pair(ZonePair pair, double periodMs)
    {
        var r = pair.Sum.Result;
        var verdict = pair.Sum.Verdict!;
        var word = verdict.Grade.ToString().ToLowerInvariant();
        var headline = r.ReadingsNeededSafe is { } n
            ? n == 1
                ? word
                : $"{word}, {n} readings in a row"
            : word;
        var say = r.Separation is { } separation
            ? $"The threshold lies {Figures.Show(separation, 2)} times the usual wobble from the nearer zone. One reading alone errs "
                + $"{PerHour(r.FalsePerHour[0])}"
                + (
                    r.ReadingsNeededSafe is > 1 and { } k
                        ? $"; {k} in a row, {PerHour(3_600_000 / periodMs * Math.Pow(r.FalsePerReading, k))}. That costs "
                            + $"{Figures.Show((k - 1) * periodMs)} ms."
                        : "."
                )
            : "";
        return new(pair.Lower, pair.Upper, pair.Sum, pair.Fallback, headline, (say + " " + verdict.Say).Trim());
    }

    private static string PerHour(double rate) =>
        rate switch
        {
            >= 0.95 => $"about {Figures.About(rate)} times an hour",
            >= 1e-4 => $"once in {Figures.About(1 / rate)} hours",
            _ => "practically never",
        };

    private static MarkerView? Marker(RigState state, Sensor eye, SensorCalibration calibration, IReadOnlyList<ZonePair> pairs)
    {
        if (state.Motion is null || state.Design.Vehicle is null)
            return null;
        var marker = state.Design.Rail?.Markers.FirstOrDefault(m => eye.Zones.Contains(m.Surface));
        if (marker is null || pairs.FirstOrDefault(p => p.Lower == marker.Surface || p.Upper == marker.Surface) is not { } pair)
            return null;
        var needed = pair.Sum.Result.ReadingsNeededSafe ?? pair.Sum.Result.ReadingsNeeded ?? ThresholdSum.MostReadings;
        var power = state.Parsed.Diagnostics.Count == 0 ? ProgramPower.Fastest(state) : null;
        double? speed = power is { } p ? state.Motion.SteadySpeed(p) : null;
        if (speed is <= 0)
            speed = null;
        var sum = MarkerPass.Compute(
            new(
                marker.LengthMm.Value,
                eye.Spot.Value,
                eye.SamplePeriodMs,
                needed,
                speed,
                state.Motion.ActuatorDelayMs.Value,
                state.Motion.BrakeDecelMmPerS2.Value
            )
        );
        double? safe = null;
        var reach = marker.LengthMm.Value - eye.Spot.Value / 2;
        for (var tryPower = 100.0; tryPower >= 1 && safe is null; tryPower--)
            if (
                state.Motion.SteadySpeed(tryPower) is > 0 and var v
                && v <= sum.Result.MaxSpeedMmPerS
                && Core.Checking.RailChecks.RestRange(state.Motion, marker, eye, 1, false, tryPower).High <= reach
            )
                safe = tryPower;
        var fastest = sum.Result.MaxSpeedMmPerS;
        var say =
            $"A {Figures.Show(marker.LengthMm.Value)} mm {marker.Surface} gives {Figures.Count(needed, "reading")} up to "
            + $"{Figures.Show(fastest, 3)} mm/s.";
        if (sum.Result.RestLowMm is { } low)
            say +=
                $" At the program's {Figures.Show(power!.Value)} % it rolls {Figures.Show(speed!.Value, 3)} mm/s, is read "
                + $"{Figures.Count(sum.Result.ReadingsOnMarker!.Value, "time")}, and the eye stands {Figures.Show(low, 2)} to "
                + $"{Figures.Show(sum.Result.RestHighMm!.Value, 2)} mm past the leading edge; up to {Figures.Show(reach, 2)} mm is "
                + "still on it.";
        var headline = safe is { } s
            ? power > s
                ? $"Roll at {Figures.Show(s)} % or slower to stop on it"
                : "It stops on its tag"
            : "No power stops it on this tag";
        return new(marker.Surface, marker.LengthMm.Value, sum, power, speed, fastest, safe, headline, say);
    }

    // A zone that no sum takes any more could not even be looked at.
    private static void HasRoom(RigState state, Sensor eye, IEnumerable<ZoneReadings> more, string field)
    {
        foreach (var zone in more)
        {
            var held = state.Calibrations.GetValueOrDefault(eye.Name)?.Zones.FirstOrDefault(z => z.Zone == zone.Zone)?.Readings.Count ?? 0;
            // Leave-one-out takes each sample of a colour once more, so a colour zone holds fewer.
            var most = eye.Facts.Width == 3 ? Colours.MostSamples * 3 : ThresholdSum.MostPerList;
            if (held + zone.Readings.Count > most)
                throw new InputProblem(
                    field,
                    $"A zone holds at most {most / eye.Facts.Width} readings; {zone.Zone} has {held / eye.Facts.Width} and would get "
                        + $"{zone.Readings.Count / eye.Facts.Width} more."
                );
        }
    }

    private static async Task<TakenIn> Record(
        string id,
        RecordRequest request,
        RigStore store,
        Jobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var need = new Require();
        var seconds = need.Number(request.Seconds, "seconds", Limits.LeastRecordingS, Limits.MostRecordingS);
        need.Done();
        var (who, conditions) = (Short(request.Who, "who", 80), Short(request.Conditions, "conditions", 200));
        if (eye.Facts.View == "none")
            throw new InputProblem("sensor", $"{eye.Name} counts turns: its positions are found by hand, in Rig.");
        var supply = need.Optional(request.SupplyV ?? eye.ProbeSupplyV, "supplyV", 0, 100, true);
        var (things, recording) = await store.Copies.Bench(state, eye, true, cancel);
        var over = request.Over ?? zone;
        var seen =
            things.GetValueOrDefault(over)
            ?? throw new InputProblem(
                request.Over is null ? "zone" : "over",
                $"The simulated controller cannot be put over “{over}”. It can be put over {string.Join(", ", things.Keys)}."
            );
        var asks = eye.Facts.Amount;
        var amount = seen.PerAmount == 0 || asks is null ? 0 : need.Number(request.Amount, "amount", asks.Min, asks.Max);
        need.Done();
        var held = new SimulatedSensor(
            eye,
            seen,
            amount,
            request.Care ?? BenchCare.AsItIs,
            new((ulong)recording, (uint)(100 + state.Copy))
        );
        var total = (int)Math.Round(seconds * 1000 / eye.SamplePeriodMs) * held.Width;
        var readings = new List<double>(total);
        var one = new double[held.Width];
        HasRoom(state, eye, [new(zone, new double[total])], "seconds");
        using var job = jobs.Begin(request.Job, cancel);
        // Readings come in as time goes by, as from a controller on the bench.
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var silent = 0;
        while (readings.Count + silent < total && !job.Stopping.IsCancellationRequested)
        {
            var due = Math.Min(total, (int)(watch.Elapsed.TotalMilliseconds / eye.SamplePeriodMs) * held.Width);
            var fresh = new List<double>();
            while (readings.Count + silent < due)
            {
                held.Read(one);
                if (double.IsNaN(one[0]))
                {
                    // It gives nothing at all: the time passes without a reading.
                    silent += held.Width;
                    continue;
                }
                readings.AddRange(one);
                fresh.AddRange(one);
            }
            if (request.Job is not null && fresh.Count > 0)
                await hub
                    .Clients.Group("rig:" + id)
                    .Progress(
                        new(
                            request.Job,
                            (readings.Count + silent) / held.Width,
                            total / held.Width,
                            0,
                            seconds - (readings.Count + silent) / held.Width * eye.SamplePeriodMs / 1000,
                            fresh
                        )
                    );
            try
            {
                await Task.Delay(50, job.Stopping);
            }
            catch (OperationCanceledException)
            {
                // What was recorded until the stop is kept below.
            }
        }
        if (readings.Count == 0 && silent > 0 && !job.Stopping.IsCancellationRequested)
            throw new InputProblem("over", $"{eye.Name} gave no reading at all over “{over}”.");
        if (readings.Count == 0)
            return new(state.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? 0, 0, true);
        var light = request.Care switch
        {
            BenchCare.Shaded => "shaded",
            BenchCare.Flickering => "under a flickering lamp",
            _ => "",
        };
        var version = await store.Readings.AddReadings(
            id,
            state.Copy,
            eye.Name,
            [new(zone, readings)],
            ReadingOrigin.Recorded,
            who,
            string.Join(", ", new[] { conditions, light }.Where(c => c != "")),
            eye.About,
            supply,
            CancellationToken.None
        );
        var count = readings.Count / held.Width;
        await announce.Changed(id, state.Copy, state.Revision, $"recorded {Figures.Count(count, "reading")} of {zone}", request.By);
        return new(version, count, readings.Count + silent < total);
    }

    private static async Task<TakenIn> Take(
        string id,
        ReadingsRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var facts = eye.Facts;
        var readings = ReadingText.Parse(request.Text ?? "", zone, eye.Zones.ToArray(), facts.From, facts.To, facts.Unit, facts.Width);
        var supply = new Require();
        supply.Optional(request.SupplyV, "supplyV", 0, 100, true);
        supply.Done();
        HasRoom(state, eye, readings, "text");
        var version = await store.Readings.AddReadings(
            id,
            state.Copy,
            eye.Name,
            readings,
            request.Csv ? ReadingOrigin.Csv : ReadingOrigin.Pasted,
            Short(request.Who, "who", 80),
            Short(request.Conditions, "conditions", 200),
            eye.About,
            request.SupplyV ?? eye.ProbeSupplyV,
            cancel
        );
        var count = readings.Sum(r => r.Readings.Count) / facts.Width;
        await announce.Changed(id, state.Copy, state.Revision, $"{Figures.Count(count, "reading")} added", request.By);
        return new(version, count, false);
    }

    private static async Task<TakenIn> Choose(
        string id,
        SchoolRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var eye = Eye(state, request.Sensor);
        var need = new Require();
        var school = request.School is null ? null : ThresholdSum.Parse(request.School);
        need.That(school is not null, "school", "Must be equalRisk, midpoint, midGap or cost.");
        var ratio = need.Number(request.CostRatio ?? 1, "costRatio", 0, 1e6, aboveMin: true);
        need.Done();
        if (
            school == School.MidGap
            && state.Calibrations.GetValueOrDefault(eye.Name) is { } calibration
            && calibration.Pairs().Any(p => p.Sum.Result.MidGap is null)
        )
            throw new InputProblem("school", "There is no gap between these readings: they touch or overlap. Choose another school.");
        var version = await store.Readings.ChooseSchool(id, state.Copy, eye.Name, request.BaseVersion, school!.Value, ratio, cancel);
        await announce.Changed(id, state.Copy, state.Revision, $"threshold placed by {ReadingStore.Words(school.Value)}", request.By);
        return new(version, 0, false);
    }
}
