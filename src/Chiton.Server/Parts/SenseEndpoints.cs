using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Lines;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

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
                                        // Marks of files from before were all alike: what lies on a table was never recorded here.
                                        ReadingOrigin.Recorded when state.Unit.Kind == UnitKind.StandIn => "recorded on the stand-in",
                                        ReadingOrigin.Recorded => "on the table",
                                        ReadingOrigin.Line => "over the line",
                                        ReadingOrigin.Box => "over the line, from a box",
                                        ReadingOrigin.Csv => $"from a CSV, {Units.Where(state.Unit.Kind)}",
                                        _ => $"pasted, {Units.Where(state.Unit.Kind)}",
                                    },
                                    r.TimeUtc,
                                    r.Who,
                                    r.Conditions,
                                    r.Mode,
                                    r.SupplyV,
                                    r.Count,
                                    r.Clock?.Say(eye.SamplePeriodMs) ?? ""
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
        api.MapDelete("/jobs/{job}", (string job, OwnJobs jobs) => jobs.Stop(job) ? Results.NoContent() : Results.NotFound())
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
        RigRules.CheckNewZone(need, eye, name);
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

    private static async Task<SenseView> View(string id, int? copy, string? sensor, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        var eye = Eye(state, sensor);
        return SenseView.Of(state, eye, (await store.Copies.Bench(state, eye, false, cancel)).Things.Values);
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

    private static async Task<TakenIn> Record(
        string id,
        RecordRequest request,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        Announcer announce,
        Lines lines,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        if (lines.Of(id, state.Copy) is null)
            state.StandInOnly("recorded");
        var eye = Eye(state, request.Sensor);
        var zone = Zone(eye, request.Zone);
        var need = new Require();
        var seconds = need.Number(request.Seconds, "seconds", Limits.LeastRecordingS, Limits.MostRecordingS);
        need.Done();
        var (who, conditions) = (Short(request.Who, "who", 80), Short(request.Conditions, "conditions", 200));
        if (eye.Facts.View == "none")
            throw new InputProblem("sensor", $"{eye.Name} counts turns: its positions are found by hand, in Rig.");
        var supply = need.Optional(request.SupplyV ?? eye.ProbeSupplyV, "supplyV", 0, 100, true);
        if (state.Unit.Kind == UnitKind.Real)
            return await RecordOverLine(
                state,
                eye,
                zone,
                seconds,
                request,
                (who, conditions, supply),
                store,
                jobs,
                hub,
                announce,
                lines,
                cancel
            );
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
        SenseWords.HasRoom(eye, state.Calibrations.GetValueOrDefault(eye.Name), [new(zone, new double[total])], "seconds");
        using var job = jobs.Begin(request.Job, cancel);
        var made = await BenchRecording.Make(
            held,
            eye.SamplePeriodMs,
            total / held.Width,
            progress =>
                request.Job is null ? Task.CompletedTask : hub.Clients.Group("rig:" + id).Progress(progress with { Job = request.Job }),
            job.Stopping
        );
        if (made.Readings.Count == 0 && made.Silent > 0 && !job.Stopping.IsCancellationRequested)
            throw new InputProblem("over", $"{eye.Name} gave no reading at all over “{over}”.");
        if (made.Readings.Count == 0)
            return new(state.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? 0, 0, true);
        var version = await store.Readings.AddReadings(
            id,
            state.Copy,
            eye.Name,
            [new(zone, made.Readings)],
            ReadingOrigin.Recorded,
            who,
            string.Join(", ", new[] { conditions, held.Light }.Where(c => c != "")),
            eye.About,
            supply,
            CancellationToken.None
        );
        var count = made.Readings.Count / held.Width;
        await announce.Changed(id, state.Copy, state.Revision, $"recorded {Figures.Count(count, "reading")} of {zone}", request.By);
        return new(version, count, made.Stopped);
    }

    // From the real thing: what came until it broke, or was stopped, is kept.
    private static async Task<TakenIn> RecordOverLine(
        RigState state,
        Sensor eye,
        string zone,
        double seconds,
        RecordRequest request,
        (string Who, string Conditions, double? SupplyV) taken,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        Announcer announce,
        Lines lines,
        CancellationToken cancel
    )
    {
        var line = lines.Joined(state);
        var width = eye.Facts.Width;
        var calibration = state.Calibrations.GetValueOrDefault(eye.Name);
        var there = calibration?.Zones.FirstOrDefault(z => z.Zone == zone)?.Readings.Count ?? 0;
        SenseWords.HasRoom(eye, calibration, [new(zone, new double[width])], "seconds");
        LineRecorded made;
        string? refused = null;
        using (var job = jobs.Begin(request.Job, cancel))
            try
            {
                // A box has nobody who holds its sensor over something: it is asked to.
                if (line.Look((w, _) => w.Hello?.StandIn == true))
                    refused = await line.Say(new BoxAsk($"hold {eye.Name} over {request.Over ?? zone}"), job.Stopping);
                made = await LineRecording.Make(
                    line,
                    eye,
                    seconds,
                    SenseWords.MostNumbers(eye) - there,
                    progress =>
                        request.Job is null
                            ? Task.CompletedTask
                            : hub.Clients.Group("rig:" + state.Id).Progress(progress with { Job = request.Job }),
                    job.Stopping
                );
            }
            catch (LineBroke e)
            {
                throw new InputProblem("copy", e.Message);
            }
        var version = state.CalibrationRows.GetValueOrDefault(eye.Name)?.Version ?? 0;
        if (made.Readings.Count == 0)
            return made.Stopped
                ? new(version, 0, true, made.Broke)
                : throw new InputProblem(
                    "sensor",
                    made.Silent > 0
                        ? $"{eye.Name} heard nothing all the time."
                        : $"No reading of {eye.Name} came in {Figures.Show(seconds)} s."
                );
        // Whoever asked may be gone: what came is kept all the same.
        version = await store.Readings.AddReadings(
            state.Id,
            state.Copy,
            eye.Name,
            [new(zone, made.Readings)],
            made.FromBox ? ReadingOrigin.Box : ReadingOrigin.Line,
            taken.Who,
            taken.Conditions,
            eye.About,
            taken.SupplyV,
            CancellationToken.None,
            timesMicros: made.Times
        );
        var count = made.Times.Count;
        await announce.Changed(
            state.Id,
            state.Copy,
            state.Revision,
            $"recorded {Figures.Count(count, "reading")} of {zone} over the line",
            request.By
        );
        var clock = ReadingClock.Of(made.Times)?.Say(eye.SamplePeriodMs) ?? "";
        if (refused is not null)
            clock += $". It was not put before {zone}: {refused.TrimEnd('.')}";
        return new(
            version,
            count,
            made.Stopped,
            made.Broke != "" ? made.Broke : $"Over the line{(made.FromBox ? ", from a box" : "")}: {clock}."
        );
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
        var readings = ReadingText.Parse(
            request.Text ?? "",
            zone,
            eye.Zones.ToArray(),
            facts.From,
            facts.To,
            facts.Unit,
            facts.Width,
            facts.View == "names" ? SenseJudge.ColourWords : null
        );
        if (
            request.Sure != true
            && ReadingQuestions.Ask(eye, request.Text ?? "", readings, state.Calibrations.GetValueOrDefault(eye.Name)) is { } question
        )
            throw new InputProblem("text", question);
        var supply = new Require();
        supply.Optional(request.SupplyV, "supplyV", 0, 100, true);
        supply.Done();
        SenseWords.HasRoom(eye, state.Calibrations.GetValueOrDefault(eye.Name), readings, "text");
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
        SenseWords.CanPlace(school!.Value, state.Calibrations.GetValueOrDefault(eye.Name));
        var version = await store.Readings.ChooseSchool(id, state.Copy, eye.Name, request.BaseVersion, school.Value, ratio, cancel);
        await announce.Changed(id, state.Copy, state.Revision, $"threshold placed by {ReadingStore.Words(school.Value)}", request.By);
        return new(version, 0, false);
    }
}
