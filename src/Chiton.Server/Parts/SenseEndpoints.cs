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
public sealed record RecordingItem(string Zone, string Origin, DateTime TimeUtc, string Who, string Conditions, int Count);

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
public sealed record MarkerView(string Marker, double LengthMm, Answer<MarkerPassResult> Sum, double? PowerPercent, double? SpeedMmPerS, double FastestMmPerS, double? SafePowerPercent, string Headline, string Say);

/// <summary>A sensor in the row of names.</summary>
public sealed record SensorItem(string Name, string About);

/// <summary>Sense for one sensor of one copy.</summary>
public sealed record SenseView(
    int Copy, IReadOnlyList<SensorItem> Sensors, string Sensor, int Version, double SamplePeriodMs, double Resolution, string School, double CostRatio,
    IReadOnlyList<ZoneView> Zones, IReadOnlyList<PairView> Pairs, IReadOnlyList<SchoolView> Schools, MarkerView? Marker, IReadOnlyList<string> Surfaces, IReadOnlyList<string> Cautions);

/// <summary>Records from the simulated controller.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Zone">Zone to record into.</param>
/// <param name="Seconds">How long, 0.5 to 60 s.</param>
/// <param name="Job">A name by which progress is told and the recording can be stopped.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Who">Who takes them.</param>
/// <param name="Conditions">Where and in which light.</param>
public sealed record RecordRequest(int? Copy, string? Sensor, string? Zone, double? Seconds, string? Job, string? By, string? Who = null, string? Conditions = null);

/// <summary>Takes readings from text.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Sensor">Sensor name.</param>
/// <param name="Zone">Zone for rows that name none.</param>
/// <param name="Text">A column of readings or CSV.</param>
/// <param name="Csv">True when it came from a file.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Who">Who took them.</param>
/// <param name="Conditions">Where and in which light.</param>
public sealed record ReadingsRequest(int? Copy, string? Sensor, string? Zone, string? Text, bool Csv, string? By, string? Who = null, string? Conditions = null);

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
        sense.MapGet("/sense/history", async Task<CalibrationHistory> (string id, int? copy, string? sensor, RigStore store, CancellationToken cancel) =>
        {
            var state = await store.Load(id, copy, null, null, cancel);
            var eye = Eye(state, sensor);
            var versions = await store.CalibrationHistory(id, state.Copy, eye.Name, cancel);
            var recordings = versions.Count == 0 ? [] : await store.RecordingsOf(versions[0], cancel);
            return new([.. versions.Select(v => new CalibrationItem(v.Version, v.TimeUtc, v.What))],
                [.. recordings.Select(r => new RecordingItem(r.Zone, r.Origin switch { ReadingOrigin.Recorded => "recorded", ReadingOrigin.Csv => "from a CSV", _ => "pasted" }, r.TimeUtc, r.Who, r.Conditions, r.Count))]);
        }).WithName("getSenseHistory").ProducesProblem(404);
        sense.MapGet("/sense/compare", async Task<CalibrationComparison> (string id, int? copy, string? sensor, int version, int withCopy, int? withVersion, RigStore store, CancellationToken cancel) =>
        {
            var state = await store.Load(id, copy, null, null, cancel);
            var eye = Eye(state, sensor);
            var other = await store.Load(id, withCopy, null, null, cancel);
            var with = withVersion ?? other.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? throw new NotStored($"{eye.Name} has no readings on copy {withCopy} yet.");
            return CalibrationComparison.Of(await store.Calibration(state, eye.Name, version, cancel), await store.Calibration(other, eye.Name, with, cancel));
        }).WithName("compareSense").ProducesProblem(404);
        sense.MapPost("/sense/restore", async Task<TakenIn> (string id, RestoreRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
        {
            var state = await store.Load(id, request.Copy, null, null, cancel);
            var eye = Eye(state, request.Sensor);
            var version = await store.Restore(id, state.Copy, eye.Name, request.BaseVersion, request.Version, cancel);
            await announce.Changed(id, state.Copy, state.Revision, $"restored version {request.Version} of {eye.Name}", request.By);
            return new(version, 0, false);
        }).WithName("restoreSense").ProducesProblem(404).ProducesProblem(409);
        sense.MapPost("/sense/set-aside", SetAside).WithName("setAside").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        sense.MapPost("/zones", AddZone).WithName("addZone").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        api.MapDelete("/jobs/{job}", (string job, Jobs jobs) => jobs.Stop(job) ? Results.NoContent() : Results.NotFound()).WithName("stopJob").WithTags("Jobs").Produces(204).ProducesProblem(404);
    }

    private static string Short(string? text, string field, int most)
    {
        var trimmed = text?.Trim() ?? "";
        return trimmed.Length <= most ? trimmed : throw new InputProblem(field, $"At most {most} characters.");
    }

    private static async Task<TakenIn> SetAside(string id, SetAsideRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, null, cancel);
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var need = new Require();
        var value = need.Number(request.Value, "value", 0, 100);
        need.That(request.Reason is null || request.Reason.Trim() != "", "reason", "Say why: a reading is never set aside silently.");
        var readings = state.Calibrations.GetValueOrDefault(eye.Name)?.Zones.FirstOrDefault(z => z.Zone == zone)?.Readings ?? [];
        need.That(!need.Holds || readings.Contains(value), "value", $"No reading of {zone} is {Figures.Show(value)}.");
        need.Done();
        var reason = request.Reason is null ? null : Short(request.Reason, "reason", 200);
        var version = await store.SetAside(id, state.Copy, eye.Name, request.BaseVersion, zone, value, reason, cancel);
        await announce.Changed(id, state.Copy, state.Revision, reason is null ? $"{Figures.Show(value)} of {zone} counts again" : $"{Figures.Show(value)} of {zone} set aside", request.By);
        return new(version, readings.Count(r => r == value), false);
    }

    private static async Task<Edited> AddZone(string id, ZoneRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, null, cancel);
        var eye = Eye(state, request.Sensor);
        var name = request.Name?.Trim() ?? "";
        var need = new Require();
        need.That(Core.Programs.ScriptParser.IsName(name), "name", "A zone's name has letters, digits and single spaces, and starts with a letter.");
        need.That(!eye.Zones.Any(z => z.Equals(name, StringComparison.OrdinalIgnoreCase)), "name", $"{eye.Name} already has a zone “{name}”.");
        need.That(eye.Zones.Count < ZonesSum.MostZones, "name", $"At most {ZonesSum.MostZones} zones.");
        need.Done();
        var revision = await store.AddZone(id, request.BaseRevision, eye.Name, name, cancel);
        await announce.Changed(id, state.Copy, revision, $"added the zone {name}", request.By);
        return new(revision, $"added the zone {name}");
    }

    private static LightEye Eye(RigState state, string? sensor) => sensor is null
        ? state.Design.Eyes.FirstOrDefault() ?? throw new NotStored("This rig has no sensor yet.")
        : state.Design.Eyes.FirstOrDefault(e => e.Name == sensor) ?? throw new InputProblem("sensor", $"There is no sensor “{sensor}”. The sensors are {string.Join(", ", state.Design.Eyes.Select(e => e.Name))}.");

    private static string Zone(LightEye eye, string? zone) => eye.Zones.FirstOrDefault(z => z == zone)
        ?? throw new InputProblem("zone", $"There is no zone “{zone}” on {eye.Name}. The zones are {string.Join(", ", eye.Zones)}.");

    private static async Task<SenseView> View(string id, int? copy, string? sensor, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, null, cancel);
        var eye = Eye(state, sensor);
        var calibration = state.Calibrations.GetValueOrDefault(eye.Name)
            ?? new(eye.Name, eye.SamplePeriodMs, eye.Resolution, 1, School.EqualRisk, 1, [.. eye.Zones.Select(z => new ZoneReadings(z, []))]);
        var pairs = calibration.Pairs();
        var first = pairs.Count > 0 ? pairs[0].Sum.Result : null;
        var (truth, _) = await store.Truth(id, state.Copy, false, cancel);
        return new(state.Copy, [.. state.Design.Eyes.Select(e => new SensorItem(e.Name, "reflected light, own lamp on"))], eye.Name,
            state.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? 0, eye.SamplePeriodMs, eye.Resolution, ThresholdSum.NameOf(calibration.School), calibration.CostRatio,
            [.. calibration.Zones.Select(z =>
            {
                var kept = calibration.Kept(z.Zone);
                return new ZoneView(z.Zone, z.Readings,
                    kept.Count < 3 ? null : ThresholdSum.Describe(z.Zone, [.. kept], eye.SamplePeriodMs, eye.Resolution / Math.Sqrt(12), z.Readings.Count - kept.Count),
                    [.. calibration.SetAside.Where(s => s.Zone == z.Zone)]);
            })],
            [.. pairs.Select(p => Pair(p, eye.SamplePeriodMs))],
            [
                new("equalRisk", "equal risk", "Both errors equally likely. The default.", first?.EqualRisk),
                new("midpoint", "midpoint of means", "Halfway between the means, whatever their spread.", first?.Midpoint),
                new("midGap", "middle of the gap", "Halfway between the nearest readings. Hangs on two readings alone.", first?.MidGap),
                new("cost", "cost of each error", "When a false rise and a false fall do not harm equally.", first?.Cost),
            ],
            Marker(state, eye, calibration, pairs), [.. truth.Keys.OrderBy(k => k)],
            [.. calibration.Zones.Where(z => calibration.Kept(z.Zone).Count < 3).Select(z => $"{z.Zone} has {Figures.Count(calibration.Kept(z.Zone).Count, "reading")}; it takes 3 or more to place a threshold.")]);
    }

    private static PairView Pair(ZonePair pair, double periodMs)
    {
        var r = pair.Sum.Result;
        var verdict = pair.Sum.Verdict!;
        var word = verdict.Grade.ToString().ToLowerInvariant();
        var headline = r.ReadingsNeededSafe is { } n ? n == 1 ? word : $"{word}, {n} readings in a row" : word;
        var say = r.Separation is { } separation
            ? $"The threshold lies {Figures.Show(separation, 2)} times the usual wobble from the nearer zone. One reading alone errs {PerHour(r.FalsePerHour[0])}"
              + (r.ReadingsNeededSafe is > 1 and { } k ? $"; {k} in a row, {PerHour(3_600_000 / periodMs * Math.Pow(r.FalsePerReading, k))}. That costs {Figures.Show((k - 1) * periodMs)} ms." : ".")
            : "";
        return new(pair.Lower, pair.Upper, pair.Sum, pair.Fallback, headline, (say + " " + verdict.Say).Trim());
    }

    private static string PerHour(double rate) => rate switch
    {
        >= 0.95 => $"about {Figures.Show(rate, 2)} times an hour",
        >= 1e-4 => $"once in {Figures.Show(1 / rate, 2)} hours",
        _ => "practically never",
    };

    private static MarkerView? Marker(RigState state, LightEye eye, SensorCalibration calibration, IReadOnlyList<ZonePair> pairs)
    {
        var marker = state.Design.Rail.Markers.FirstOrDefault(m => eye.Zones.Contains(m.Surface));
        if (marker is null || pairs.FirstOrDefault(p => p.Lower == marker.Surface || p.Upper == marker.Surface) is not { } pair) return null;
        var needed = pair.Sum.Result.ReadingsNeededSafe ?? pair.Sum.Result.ReadingsNeeded ?? ThresholdSum.MostReadings;
        var power = state.Parsed.Diagnostics.Count == 0 ? ProgramPower.Fastest(state) : null;
        double? speed = power is { } p ? state.Motion.SteadySpeed(p) : null;
        if (speed is <= 0) speed = null;
        var sum = MarkerPass.Compute(new(marker.LengthMm.Value, eye.SpotDiameterMm.Value, eye.SamplePeriodMs, needed, speed, state.Motion.ActuatorDelayMs.Value, state.Motion.BrakeDecelMmPerS2.Value));
        double? safe = null;
        var reach = marker.LengthMm.Value - eye.SpotDiameterMm.Value / 2;
        for (var tryPower = 100.0; tryPower >= 1 && safe is null; tryPower--)
            if (state.Motion.SteadySpeed(tryPower) is > 0 and var v && v <= sum.Result.MaxSpeedMmPerS && Core.Checking.RailChecks.RestRange(state.Motion, marker, eye, 1, false, tryPower).High <= reach) safe = tryPower;
        var fastest = sum.Result.MaxSpeedMmPerS;
        var say = $"A {Figures.Show(marker.LengthMm.Value)} mm {marker.Surface} gives {Figures.Count(needed, "reading")} up to {Figures.Show(fastest, 3)} mm/s.";
        if (sum.Result.RestLowMm is { } low)
            say += $" At the program's {Figures.Show(power!.Value)} % it rolls {Figures.Show(speed!.Value, 3)} mm/s, is read {Figures.Count(sum.Result.ReadingsOnMarker!.Value, "time")}, and the eye stands {Figures.Show(low, 2)} to {Figures.Show(sum.Result.RestHighMm!.Value, 2)} mm past the leading edge; up to {Figures.Show(reach, 2)} mm is still on it.";
        var headline = safe is { } s ? power > s ? $"Roll at {Figures.Show(s)} % or slower to stop on it" : "It stops on its tag" : "No power stops it on this tag";
        return new(marker.Surface, marker.LengthMm.Value, sum, power, speed, fastest, safe, headline, say);
    }

    // A zone that no sum takes any more could not even be looked at.
    private static void HasRoom(RigState state, LightEye eye, IEnumerable<ZoneReadings> more, string field)
    {
        foreach (var zone in more)
        {
            var held = state.Calibrations.GetValueOrDefault(eye.Name)?.Zones.FirstOrDefault(z => z.Zone == zone.Zone)?.Readings.Count ?? 0;
            if (held + zone.Readings.Count > ThresholdSum.MostPerList)
                throw new InputProblem(field, $"A zone holds at most {ThresholdSum.MostPerList} readings; {zone.Zone} has {held} and would get {zone.Readings.Count} more.");
        }
    }

    private static async Task<TakenIn> Record(string id, RecordRequest request, RigStore store, Jobs jobs, IHubContext<BenchHub, IBenchPage> hub, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, null, cancel);
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var need = new Require();
        var seconds = need.Number(request.Seconds, "seconds", Limits.LeastRecordingS, Limits.MostRecordingS);
        need.Done();
        var (who, conditions) = (Short(request.Who, "who", 80), Short(request.Conditions, "conditions", 200));
        var (truth, recording) = await store.Truth(id, state.Copy, true, cancel);
        var seen = truth.GetValueOrDefault(zone) ?? throw new InputProblem("zone", $"The simulated controller cannot be put over “{zone}”.");
        var noise = new RandomStream((ulong)recording, (uint)(100 + state.Copy));
        var total = (int)Math.Round(seconds * 1000 / eye.SamplePeriodMs);
        var readings = new List<double>(total);
        HasRoom(state, eye, [new(zone, new double[total])], "seconds");
        using var job = jobs.Begin(request.Job, cancel);
        // Readings come in as time goes by, as from a controller on the bench.
        var watch = System.Diagnostics.Stopwatch.StartNew();
        while (readings.Count < total && !job.Stopping.IsCancellationRequested)
        {
            var due = Math.Min(total, (int)(watch.Elapsed.TotalMilliseconds / eye.SamplePeriodMs));
            var fresh = new List<double>();
            while (readings.Count < due)
            {
                var reading = SimulatedEye.Read(seen, eye.Resolution, ref noise);
                readings.Add(reading);
                fresh.Add(reading);
            }
            if (request.Job is not null && fresh.Count > 0)
                await hub.Clients.Group("rig:" + id).Progress(new(request.Job, readings.Count, total, 0, seconds - readings.Count * eye.SamplePeriodMs / 1000, fresh));
            try
            {
                await Task.Delay(50, job.Stopping);
            }
            catch (OperationCanceledException)
            {
                // What was recorded until the stop is kept below.
            }
        }
        if (readings.Count == 0) return new(state.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? 0, 0, true);
        var version = await store.AddReadings(id, state.Copy, eye.Name, [new(zone, readings)], ReadingOrigin.Recorded, who, conditions, CancellationToken.None);
        await announce.Changed(id, state.Copy, state.Revision, $"recorded {Figures.Count(readings.Count, "reading")} of {zone}", request.By);
        return new(version, readings.Count, readings.Count < total);
    }

    private static async Task<TakenIn> Take(string id, ReadingsRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, null, cancel);
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var readings = ReadingText.Parse(request.Text ?? "", zone, eye.Zones.ToArray(), 0, 100);
        HasRoom(state, eye, readings, "text");
        var version = await store.AddReadings(id, state.Copy, eye.Name, readings, request.Csv ? ReadingOrigin.Csv : ReadingOrigin.Pasted,
            Short(request.Who, "who", 80), Short(request.Conditions, "conditions", 200), cancel);
        var count = readings.Sum(r => r.Readings.Count);
        await announce.Changed(id, state.Copy, state.Revision, $"{Figures.Count(count, "reading")} added", request.By);
        return new(version, count, false);
    }

    private static async Task<TakenIn> Choose(string id, SchoolRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, null, cancel);
        var eye = Eye(state, request.Sensor);
        var need = new Require();
        var school = request.School is null ? null : ThresholdSum.Parse(request.School);
        need.That(school is not null, "school", "Must be equalRisk, midpoint, midGap or cost.");
        var ratio = need.Number(request.CostRatio ?? 1, "costRatio", 0, 1e6, aboveMin: true);
        need.Done();
        if (school == School.MidGap && state.Calibrations.GetValueOrDefault(eye.Name) is { } calibration && calibration.Pairs().Any(p => p.Sum.Result.MidGap is null))
            throw new InputProblem("school", "There is no gap between these readings: they touch or overlap. Choose another school.");
        var version = await store.ChooseSchool(id, state.Copy, eye.Name, request.BaseVersion, school!.Value, ratio, cancel);
        await announce.Changed(id, state.Copy, state.Revision, $"threshold placed by {RigStore.Words(school.Value)}", request.By);
        return new(version, 0, false);
    }
}
