using System.Collections.Concurrent;
using Chiton.Core.Logbook;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>What happened on the table, held against what was promised.</summary>
public static class LogEndpoints
{
    private const int MostLines = 500,
        MostMeasured = 20,
        MostS = 3600,
        // Of made-up copies that are made when too few of the proof's are like this one.
        More = 1000;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/missions", Missions).WithTags("Log").WithName("getMissions");
        var log = api.MapGroup("/rigs/{id}/log").WithTags("Log");
        log.MapGet("", Get).WithName("getLog").ProducesProblem(404);
        log.MapPost("/lines", KeepLines).WithName("keepLogLines").ProducesValidationProblem().ProducesProblem(404);
        log.MapPost("/series", KeepSeries).WithName("keepLogSeries").ProducesValidationProblem().ProducesProblem(404);
        log.MapPost("/lines/{key}/back", TakeBack).WithName("takeBackLogLine").ProducesValidationProblem().ProducesProblem(404);
        log.MapGet("/history", History).WithName("getLogHistory").ProducesProblem(404);
        log.MapGet("/export", Export).WithName("exportLog").Produces(200, contentType: "text/csv").ProducesProblem(404);
        log.MapPost("/import/look", Look).WithName("lookAtLogTable").ProducesValidationProblem().ProducesProblem(404);
        log.MapPost("/import", Import).WithName("importLog").ProducesValidationProblem().ProducesProblem(404);
        log.MapPost("/learnt/take", Take)
            .WithName("takeNarrowed")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(503);
        log.MapGet("/learnt", Learn)
            .WithName("getLearnt")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(503);
    }

    private const string KeyRule = "Must be 8 to 64 letters, digits and hyphens.";

    // A watch that is wrong by more than a day is no watch.
    private static void Time(Require need, DateTime? time, string field, DateTime now) =>
        need.That(
            time is { } t && t > new DateTime(2000, 1, 1, 0, 0, 0, DateTimeKind.Utc) && t.ToUniversalTime() < now.AddDays(1),
            field,
            "Must be a time, UTC, and not later than tomorrow."
        );

    private static string Text(Require need, string? text, string field, int most)
    {
        var clean = text?.Trim() ?? "";
        need.That(clean.Length <= most, field, $"At most {most} characters.");
        return clean;
    }

    // What is wrong with a line is said of that line alone: the others are kept, or one of them would hold up all that wait behind it.
    private static async Task<KeptLines> KeepLines(
        string id,
        LogLinesRequest request,
        RigStore store,
        TimeProvider clock,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        if (request.Lines is not { Count: >= 1 and <= MostLines } lines)
            throw new InputProblem("lines", $"Give 1 to {MostLines} lines.");
        var now = clock.GetUtcNow().UtcDateTime;
        var seen = lines.Any(l => l?.Key?.StartsWith("line-", StringComparison.Ordinal) == true)
            ? await store.Lines.Seen(id, state.Copy, cancel)
            : new Dictionary<string, LineRunRow>();
        var good = new List<LogRow>();
        var refused = new List<RefusedLine>();
        for (var i = 0; i < lines.Count; i++)
        {
            if (!LogTable.IsKey(lines[i]?.Key))
                throw new InputProblem($"lines[{i}].key", KeyRule);
            var line = lines[i]!;
            try
            {
                var row = Row(line, state, now);
                // What the line told of a run stands before what a person says of it.
                if (seen.GetValueOrDefault(row.Key) is { } run)
                    (row.Note, row.TimeS) = (Noted(run, row.Note), row.TimeS ?? Math.Max(0.1, run.Seconds));
                good.Add(row);
            }
            catch (InputProblem problem)
            {
                refused.Add(new(line.Key!, string.Join(" ", problem.Errors.Select(e => $"{e.Key}: {e.Value}"))));
            }
        }
        if (good.Count > 0 && await store.Log.Keep(good, cancel) is > 0 and var added)
        {
            RigEndpoints.Forget();
            await announce.Changed(id, state.Copy, state.Revision, $"logged {Figures.Count(added, "run")}", request.By);
        }
        return new([.. good.Select(g => g.Key)], refused);
    }

    private static LogRow Row(LogLineRequest line, RigState state, DateTime now)
    {
        var need = new Require();
        var revision = need.Whole(line.Revision, "revision", 1, state.Revision);
        need.That(line.Passed is not null, "passed", "Say whether it passed.");
        Time(need, line.TimeUtc, "timeUtc", now);
        need.That(string.IsNullOrEmpty(line.Series) || LogTable.IsKey(line.Series), "series", KeyRule);
        var timeS = need.Optional(line.TimeS, "timeS", 0, MostS, aboveMin: true);
        var measured = line.Measured ?? [];
        need.That(measured.Count <= MostMeasured, "measured", $"At most {MostMeasured}.");
        var values = new List<MeasuredValue>();
        for (var i = 0; i < Math.Min(measured.Count, MostMeasured); i++)
        {
            var what = Text(need, measured[i]?.What, $"measured[{i}].what", 60);
            need.That(what.Length > 0, $"measured[{i}].what", "Say what was measured.");
            values.Add(
                new(
                    what,
                    need.Number(measured[i]?.Value, $"measured[{i}].value", -1e9, 1e9),
                    Text(need, measured[i]?.Unit, $"measured[{i}].unit", 20)
                )
            );
        }
        var row = new LogRow
        {
            Key = line.Key!,
            RigId = state.Id,
            Copy = state.Copy,
            Revision = revision,
            Series = line.Series ?? "",
            Passed = line.Passed == true,
            TimeUtc = (line.TimeUtc ?? now).ToUniversalTime(),
            TimeS = timeS,
            Goal = Text(need, line.Goal, "goal", 300),
            Cause = Text(need, line.Cause, "cause", 500),
            CauseExpected = line.CauseExpected,
            Note = Text(need, line.Note, "note", 1000),
            Measured = Documents.Write(values),
        };
        need.That(
            line.Passed != true || (row.Goal == "" && row.Cause == ""),
            row.Goal == "" ? "cause" : "goal",
            "A run that passed missed no goal and has no cause."
        );
        need.Done();
        return row;
    }

    private static async Task<LogView> KeepSeries(
        string id,
        SeriesRequest request,
        RigStore store,
        RateKeeper keeper,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var need = new Require();
        need.That(LogTable.IsKey(request.Key), "key", KeyRule);
        Time(need, request.TimeUtc, "timeUtc", clock.GetUtcNow().UtcDateTime);
        var planned = request.Planned is null ? 0 : need.Whole(request.Planned, "planned", 0, MostLines);
        var scene = Text(need, request.Scene, "scene", 100);
        need.That(
            scene == "" || state.Scenes.Any(s => s.Scene.Name == scene),
            "scene",
            $"There is no scene “{scene}”. There are {Figures.List(state.Scenes.Select(s => s.Scene.Name))}."
        );
        var row = new SeriesRow
        {
            Key = request.Key ?? "",
            RigId = state.Id,
            Copy = state.Copy,
            Planned = planned,
            Scene = scene,
            Light = Text(need, request.Light, "light", 100),
            Pack = Text(need, request.Pack, "pack", 100),
            Floor = Text(need, request.Floor, "floor", 100),
            Who = Text(need, request.Who, "who", 100),
            TimeUtc = (request.TimeUtc ?? default).ToUniversalTime(),
        };
        need.Done();
        await store.Log.Keep(row, cancel);
        return await View(state, store, keeper, cancel);
    }

    private static async Task<LogView> TakeBack(
        string id,
        string key,
        TakeBackRequest request,
        RigStore store,
        RateKeeper keeper,
        Announcer announce,
        CancellationToken cancel,
        int? copy = null
    )
    {
        await store.Log.TakeBack(id, key, request.Back, cancel);
        RigEndpoints.Forget();
        var state = await store.Load(id, copy, null, cancel);
        await announce.Changed(id, state.Copy, state.Revision, request.Back ? "took a run back" : "gave a run back", request.By);
        return await View(state, store, keeper, cancel);
    }

    private static async Task<LogView> Get(string id, int? copy, RigStore store, RateKeeper keeper, CancellationToken cancel) =>
        await View(await store.Load(id, copy, null, cancel), store, keeper, cancel);

    private static LogLine Line(LogRow l) =>
        new(
            l.Key,
            l.Revision,
            l.Series,
            l.Passed,
            l.TimeUtc,
            l.TimeS,
            l.Goal,
            l.Cause,
            l.CauseExpected,
            l.Note,
            Documents.Read<List<MeasuredValue>>(l.Measured)
        );

    // Revisions that ran and were never gauged: asked for once.
    private static readonly ConcurrentDictionary<string, bool> Asked = new();

    private static async Task<LogView> View(RigState state, RigStore store, RateKeeper keeper, CancellationToken cancel)
    {
        var lines = await store.Log.Lines(state.Id, state.Copy, cancel);
        var series = await store.Log.SeriesOf(state.Id, state.Copy, cancel);
        var sends = await store.Log.Sends(state.Id, state.Copy, cancel);
        var sent = sends.Select(s => s.Revision).Append(state.ControllerRevision ?? 0).Where(r => r > 0).ToHashSet();
        var spreads = new List<LogSpread>();
        LogSpread? below = null;
        var scenes = Scenes(series);
        if (Asked.Count > 5000)
            Asked.Clear();
        foreach (
            var group in lines
                .GroupBy(l => (l.Revision, Scene: scenes.GetValueOrDefault(l.Series, "")))
                .OrderBy(g => g.Key.Revision)
                .ThenBy(g => g.First().Id)
        )
        {
            var runs = group.ToArray();
            var ((revision, scene), held) = (group.Key, await Held(state, group.Key.Revision, group.Key.Scene, runs, store, cancel));
            if (held is null && scene == "" && Asked.TryAdd($"{store.Log.Place}|{state.Stamp}|{revision}", true))
                keeper.Ask(state.Id, state.Copy, revision == state.Revision ? null : revision);
            var passes = runs.Count(r => r.Passed);
            var afterwards = Since(held, runs);
            var compared = below is { } b && (b.Revision != revision || b.Scene != scene) ? b : null;
            below = new(
                revision,
                scene,
                sent.Contains(revision),
                passes,
                held is null ? null : held.Promise with { Afterwards = afterwards },
                held is null ? null : held.Learnt.AsPromised,
                held?.Learnt.Called,
                SpreadWords.Say(passes, runs.Length, held?.Learnt.Promised, held?.Learnt.Called, afterwards),
                compared is null
                    ? []
                    :
                    [
                        .. ProgramDifference
                            .Between(
                                await store.Designs.DesignOf(state.Id, compared.Revision, cancel),
                                await store.Designs.DesignOf(state.Id, revision, cancel)
                            )
                            .Select(c => c.Say),
                    ],
                // In another scene it is another question.
                compared is null
                || compared.Scene != scene
                    ? null
                    : SpreadWords.Settled((compared.Passes, compared.Lines.Count), (passes, runs.Length)),
                [.. runs.Select(Line)]
            );
            spreads.Insert(0, below);
        }
        var byCopy = (await store.Log.Lines(state.Id, null, cancel))
            .GroupBy(l => l.Copy)
            .OrderBy(g => g.Key)
            .Select(g => (Copy: g.Key, Passes: g.Count(l => l.Passed), Runs: g.Count()))
            .ToArray();
        var teams = (await store.Copies.Copies(state.Id, cancel)).ToDictionary(c => c.Number, c => c.Team);
        return new(
            state.Copy,
            state.Unit.Kind == UnitKind.Real,
            Holds(state, sends),
            [
                .. series
                    .Reverse()
                    .Select(s => new LogSeries(
                        s.Key,
                        s.TimeUtc,
                        s.Planned,
                        s.Scene,
                        s.Light,
                        s.Pack,
                        s.Floor,
                        s.Who,
                        lines.Count(l => l.Series == s.Key),
                        lines.Count(l => l.Series == s.Key && l.Passed)
                    )),
            ],
            spreads,
            await Causes(state, store, cancel),
            [
                .. byCopy.Select(c => new LogCopy(
                    c.Copy,
                    teams.GetValueOrDefault(c.Copy) ?? "",
                    c.Passes,
                    c.Runs,
                    Apart((c.Passes, c.Runs), (byCopy.Sum(o => o.Passes) - c.Passes, byCopy.Sum(o => o.Runs) - c.Runs))
                )),
            ],
            [.. (await store.Lines.WaitingOf(state.Id, state.Copy, cancel)).Select(Seen)]
        );
    }

    private static string Noted(LineRunRow run, string note)
    {
        var said = $"Over the line. {Seen(run).Say} {note}".TrimEnd();
        return said.Length <= 1000 ? said : said[..1000];
    }

    private static WaitingRun Seen(LineRunRow run)
    {
        var ended = run.Whole ? "It ended" : "It was broken off";
        var said =
            $"{ended} in {run.EndedIn} after {Figures.Show(run.Seconds, 3)} s by {(run.FromBox ? "the clock of a box" : "its own clock")}";
        return new(
            run.Key,
            DateTime.SpecifyKind(run.TimeUtc, DateTimeKind.Utc),
            Math.Max(0.1, run.Seconds),
            run.Revision,
            run.Whole,
            $"{said}{(run.Happened == "" ? "" : $": {run.Happened}")}.{(run.Holding == "" ? "" : " " + run.Holding)}"
        );
    }

    // A copy deviates where its runs are settled to pass more, or less, often than those of all others.
    private static string Apart((int Passes, int Runs) own, (int Passes, int Runs) others)
    {
        if (own.Runs == 0 || others.Runs == 0)
            return "";
        var found = CompareRates.Compute(new(new(others.Passes, others.Runs), new(own.Passes, own.Runs))).Result;
        return found.High < 0 ? "It passes less often than the others: settled."
            : found.Low > 0 ? "It passes more often than the others: settled."
            : "";
    }

    private static LogHeld Holds(RigState state, IReadOnlyList<SendRow> sends)
    {
        var earlier = sends
            .Reverse()
            .Select(s => s.Revision)
            .Concat(state.ControllerRevision is { } held ? [held] : [])
            .Distinct()
            .OrderByDescending(r => r)
            .ToArray();
        var say =
            state.Unit.HeldRig is { } other && other != state.Id
                ? "The controller holds another rig's program, as far as Chiton knows: send this one before it runs."
            : state.ControllerRevision is not { } revision
                ? "Nothing was sent to the controller of this copy, as far as Chiton knows: a run counts for what is on the screen."
            : state.HoldsThis ? $"The controller holds revision {revision}: all that is on the screen is sent."
            : revision == state.Revision
                ? $"The controller holds revision {revision} with other numbers than are on the screen: a run counts for "
                    + $"revision {revision}."
            : $"The controller holds revision {revision}, and the screen shows {state.Revision}: a run counts for revision {revision}.";
        return new(state.ControllerRevision, state.Revision, state.HoldsThis, earlier, say);
    }

    // Failures that end alike are one cause: what happened in one of their runs, to the millimetre, is not what happened here.
    private static string Cause(FailureGroup group)
    {
        var said = group.Ended == "" ? group.Goal : group.Ended;
        return said == "" ? "it failed" : said;
    }

    private static async Task<IReadOnlyList<ExpectedCause>> Causes(RigState state, RigStore store, CancellationToken cancel)
    {
        var revision = state.ControllerRevision ?? state.Revision;
        var row = await store.Log.Promise(state.Id, state.Copy, revision, "", DateTime.MaxValue, cancel);
        if (row is null || row.Light)
            return [];
        var proof = Documents.Read<Proof>(row.Result);
        return [.. proof.Failures.DistinctBy(Cause).Take(8).Select(f => new ExpectedCause(f.Goal, Cause(f), (double)f.Count / proof.Runs))];
    }

    /// <summary>How the revision that ran last came out on the table; null where no run was logged.</summary>
    internal static async Task<(int Passes, int Runs, bool? AsPromised, bool Afterwards)?> Tally(
        RigState state,
        RigStore store,
        CancellationToken cancel
    )
    {
        var lines = await store.Log.Lines(state.Id, state.Copy, cancel);
        if (lines.Count == 0)
            return null;
        var (scene, runs) = Latest(lines, await store.Log.SeriesOf(state.Id, state.Copy, cancel));
        var held = await Held(state, lines[^1].Revision, scene, runs, store, cancel);
        return (
            runs.Count(r => r.Passed),
            runs.Length,
            held?.Learnt is { } learnt ? learnt.AsPromised && learnt.Called is null : null,
            Since(held, runs)
        );
    }

    // True where what was to be expected was worked out after the first run: nobody had promised it.
    private static bool Since(HeldAgainst? held, IReadOnlyList<LogRow> runs) => held?.Proof.TimeUtc > runs[0].TimeUtc;

    private sealed record HeldAgainst(LogPromise Promise, Learnt Learnt, ProofRow Proof, BenchNumbers Numbers)
    {
        // True where numbers of the copy are others than in its proof, so that no further copies like those can be made up.
        public bool Changed { get; init; }
    }

    private sealed record BenchNumbers(IReadOnlyList<Chiton.Core.Simulation.DrawSpec> Draws, Chiton.Core.Simulation.BenchPlan Plan);

    // What was held against what: working it out again for the same runs of the same proof would come to the same.
    private static readonly ConcurrentDictionary<string, HeldAgainst> Known = new();

    // Made-up copies beyond those of a proof.
    private static readonly ConcurrentDictionary<string, RunsDone> Further = new();

    // The scene that each series is held against; empty for the one that counts.
    private static Dictionary<string, string> Scenes(IReadOnlyList<SeriesRow> series) => series.ToDictionary(s => s.Key, s => s.Scene);

    // The runs that belong together with the last one: of its revision, held against its scene.
    private static (string Scene, LogRow[] Runs) Latest(IReadOnlyList<LogRow> lines, IReadOnlyList<SeriesRow> series)
    {
        var scenes = Scenes(series);
        var scene = scenes.GetValueOrDefault(lines[^1].Series, "");
        return (scene, [.. lines.Where(l => l.Revision == lines[^1].Revision && scenes.GetValueOrDefault(l.Series, "") == scene)]);
    }

    private static async Task<HeldAgainst?> Held(
        RigState state,
        int revision,
        string scene,
        IReadOnlyList<LogRow> runs,
        RigStore store,
        CancellationToken cancel,
        Func<HeldAgainst, RunsDone, CancellationToken, Task<RunsDone?>>? more = null
    )
    {
        var row = await store.Log.Promise(state.Id, state.Copy, revision, scene, runs[0].TimeUtc, cancel);
        if (row is null)
            return null;
        var key =
            $"{store.Log.Place}|{row.Id}|{state.Stamp}|{more is not null}|"
            + string.Join(' ', runs.Select(r => $"{(r.Passed ? 1 : 0)}{r.TimeS}"));
        if (Known.TryGetValue(key, out var known))
            return known;
        var then = revision == state.Revision ? state : await store.Load(state.Id, state.Copy, revision, cancel);
        if (then.Known.Scenes.All(s => s.Scene.Name != row.Scene) && row.Scene != "")
            return null;
        var at = then.Scene(row.Scene == "" ? null : row.Scene);
        var plan = then.Plan(at, await RunInput.Guests(store, then, at, cancel));
        var promised = Promised.Runs(row, plan.Draws);
        RealRun[] trials = [.. runs.Select(r => new RealRun(r.Passed, r.TimeS))];
        var learnt = Reality.Learn(plan.Draws, promised, null, trials, more is not null, cancel);
        var held = new HeldAgainst(
            new(
                row.Light ? null : row.Id,
                row.Scene,
                learnt.Promised.Runs,
                learnt.Promised.Low,
                learnt.Promised.High,
                (double)row.Passes / row.Runs,
                learnt.Before.Low,
                learnt.Before.High
            ),
            learnt,
            row,
            new(plan.Draws, plan)
        );
        // What was made up already stays the same, whatever was narrowed by it since; what is made up now must be made as the proof was.
        var made = $"{store.Log.Place}|{row.Id}";
        var same = then.Known.InputsIn(then.Inputs, row.Scene == "" ? null : row.Scene) == row.Inputs;
        if (more is not null && !learnt.Enough)
        {
            var further = Further.GetValueOrDefault(made) ?? (same ? await more(held, promised, cancel) : null);
            if (further is not null)
            {
                if (Further.Count > 20)
                    Further.Clear();
                Further[made] = further;
                held = held with { Learnt = Reality.Learn(plan.Draws, promised, further, trials, true, cancel) };
            }
            else
                held = held with { Changed = !same };
        }
        if (Known.Count > 300)
            Known.Clear();
        Known[key] = held;
        return held;
    }

    // Too few made-up copies like this one: more are made, once.
    private static async Task<(RigState State, HeldAgainst Held, LogRow[] Runs)> Learnt(
        string id,
        int? copy,
        int revision,
        string? scene,
        string? job,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        var scenes = Scenes(await store.Log.SeriesOf(id, state.Copy, cancel));
        var runs = (await store.Log.Lines(id, state.Copy, cancel))
            .Where(l => l.Revision == revision && scenes.GetValueOrDefault(l.Series, "") == (scene ?? ""))
            .ToArray();
        if (runs.Length == 0)
            throw new InputProblem("revision", $"No run of revision {revision} is in the log of copy {state.Copy}.");
        var held =
            await Held(
                state,
                revision,
                scene ?? "",
                runs,
                store,
                cancel,
                async (so, promised, stop) =>
                {
                    if (promised.Columns.Count == 0)
                        return null;
                    var tell = ProveEndpoints.Teller(id, job, More, hub);
                    return await jobs.Run(
                        WorkKind.Long,
                        job,
                        null,
                        token =>
                            ManyRuns.Run(
                                new PlanProved(so.Numbers.Plan),
                                new(promised.Layout.Seed, RunLayout.Kinds.Single, More) { First = promised.Layout.Copies },
                                tell.Tell,
                                0,
                                token,
                                TaskScheduler.Current
                            ),
                        stop
                    );
                }
            ) ?? throw new InputProblem("revision", $"Nothing was promised of revision {revision} on copy {state.Copy}: prove it first.");
        return (state, held, runs);
    }

    private static async Task<LearntView> Learn(
        string id,
        int revision,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel,
        int? copy = null,
        string? scene = null,
        string? job = null
    )
    {
        var (state, held, runs) = await Learnt(id, copy, revision, scene, job, store, jobs, hub, cancel);
        return View(state, held, revision, runs);
    }

    private static LearntView View(RigState state, HeldAgainst held, int revision, LogRow[] runs)
    {
        var learnt = held.Learnt;
        var candidates = new List<string>();
        if (learnt.Called is not null)
            foreach (var group in runs.Where(r => !r.Passed && r.Cause != "" && !r.CauseExpected).GroupBy(r => r.Cause))
                candidates.Add($"{Figures.Count(group.Count(), "run")} failed by “{group.Key}”, which the bench never shows.");
        if (learnt.Times is { } times)
            candidates.Add(times);
        if (learnt.Called is not null && held.Promise.Scene != "")
            candidates.Add($"It was held against the scene “{held.Promise.Scene}”: is the table like it?");
        var say = SpreadWords.Learnt(learnt);
        return new(
            revision,
            learnt.Before,
            learnt.After,
            [.. learnt.Numbers.Select(n => Number(state, n, learnt.Trials))],
            learnt.Explaining,
            candidates,
            [.. (learnt.Next ?? []).Select(ProofWords.Buys).OfType<string>()],
            learnt.Enough,
            held.Proof.Light && learnt.Called is null && revision == state.Revision
                    ? $"{say} It was only gauged: a proof makes up enough copies to learn from."
                : held.Changed ? $"{say} Numbers of this copy have changed since it was proved, so no more are made up."
                : say
        );
    }

    // What can be taken over: a number that a motion of Move finds, and that is not taken already.
    private static LearntNumber Number(RigState state, NarrowedNumber n, int trials)
    {
        var plan = n.Measured is { Part: "move" } by ? state.Moves.Find(by.Name) : null;
        var accepted = plan is null ? null : state.Moves.Accepted(plan);
        return new(
            n.Name,
            n.Unit,
            n.Kind,
            n.Was,
            n.WasSd,
            n.Value,
            n.Sd,
            n.Say,
            plan?.Key,
            plan is null || accepted is null
                ? null
                : accepted.Narrowed == trials && Math.Abs(accepted.Value - n.Measured!.Motion(n.Value)) <= 1e-9 * Math.Abs(accepted.Value)
        );
    }

    private static async Task<LearntView> Take(
        string id,
        TakeRequest request,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var revision = need.Whole(request.Revision, "revision", 1, int.MaxValue);
        need.Done();
        var (state, held, runs) = await Learnt(id, request.Copy, revision, request.Scene, request.Job, store, jobs, hub, cancel);
        var narrowed =
            held.Learnt.Numbers.FirstOrDefault(n => n.Name == request.Number)
            ?? throw new InputProblem(
                "number",
                held.Learnt.Numbers.Count == 0
                    ? "These runs narrowed no number."
                    : $"Must be one of {Figures.List(held.Learnt.Numbers.Select(n => n.Name))}."
            );
        if (narrowed.Measured is not { Part: "move" } by || state.Moves.Find(by.Name) is not { } plan)
            throw new InputProblem("number", $"Nothing in Move finds {narrowed.Name}: it cannot be taken over there.");
        var spec = held.Numbers.Draws.First(d => d.Name == narrowed.Name);
        await store.Motions.Accept(
            id,
            state.Copy,
            plan.Key,
            AcceptedNumber.By(
                state.Moves.Accepted(plan),
                spec.Kind,
                by.MotionSd(narrowed.Value, spec.EachSd),
                by.Motion(narrowed.Value),
                by.MotionSd(narrowed.Value, narrowed.Sd),
                held.Learnt.Trials,
                state.Moves.Against(plan)
            ),
            $"took the {plan.Number} of {plan.Mechanism} over from {Figures.Count(held.Learnt.Trials, "trial")} on the table",
            cancel
        );
        RigEndpoints.Forget();
        await announce.Changed(id, state.Copy, state.Revision, $"{plan.Number} of {plan.Mechanism} was narrowed by trials", request.By);
        return View(await store.Load(id, state.Copy, null, cancel), held, revision, runs);
    }

    // What a match could be planned with: each copy by its runs on the table, or by its runs in the bench where it has none.
    private static async Task<IReadOnlyList<Mission>> Missions(RigStore store, CancellationToken cancel)
    {
        var missions = new List<Mission>();
        foreach (var rig in await store.List(cancel))
        foreach (var copy in rig.Copies)
        {
            var name = $"{rig.Design.Design.Name}, copy {copy.Number}";
            var lines = await store.Log.Lines(rig.Rig.Id, copy.Number, cancel);
            if (lines.Count > 0)
            {
                var (scene, runs) = Latest(lines, await store.Log.SeriesOf(rig.Rig.Id, copy.Number, cancel));
                var state = await store.Load(rig.Rig.Id, copy.Number, null, cancel);
                var held = await Held(state, lines[^1].Revision, scene, runs, store, cancel);
                var passes = runs.Count(r => r.Passed);
                var range = held?.Learnt is { Called: null } learnt ? learnt.After : Prover.RangeOf(null, passes, runs.Length);
                double[] took = [.. runs.Where(r => r is { Passed: true, TimeS: not null }).Select(r => r.TimeS!.Value).Order()];
                missions.Add(
                    new(
                        rig.Rig.Id,
                        copy.Number,
                        name,
                        (double)passes / runs.Length,
                        Math.Min(range.Low, (double)passes / runs.Length),
                        Math.Max(range.High, (double)passes / runs.Length),
                        took.Length == 0 ? null : Math.Ceiling(took[took.Length / 2]),
                        true,
                        $"{passes} of {Figures.Count(runs.Length, "run")} on the table, revision {lines[^1].Revision}"
                    )
                );
            }
            else if (copy.Gauge is { } gauge)
                missions.Add(
                    new(
                        rig.Rig.Id,
                        copy.Number,
                        name,
                        (double)gauge.Passes / gauge.Runs,
                        gauge.Low,
                        gauge.High,
                        null,
                        false,
                        $"{gauge.Passes} of {Figures.Count(gauge.Runs, "run")} in the bench, none on the table"
                    )
                );
        }
        return missions;
    }

    private static async Task<IReadOnlyList<Happened>> History(string id, RigStore store, CancellationToken cancel, int? copy = null)
    {
        var state = await store.Load(id, copy, null, cancel);
        var lines = await store.Log.Lines(id, state.Copy, cancel);
        var series = await store.Log.SeriesOf(id, state.Copy, cancel);
        return
        [
            .. (await store.Log.Told(id, state.Copy, cancel))
                .Concat(
                    series.Select(s => new Happened(
                        s.TimeUtc,
                        "series",
                        $"a series{(s.Planned > 0 ? $" of {s.Planned}" : "")} began"
                            + string.Concat(new[] { s.Light, s.Pack, s.Floor, s.Who }.Where(c => c != "").Select(c => $", {c}"))
                    ))
                )
                // Runs of a revision that followed one another on a day are told together.
                .Concat(
                    lines
                        .GroupBy(l => (l.Revision, l.Series, l.TimeUtc.Date))
                        .Select(g => new Happened(
                            g.Max(l => l.TimeUtc),
                            "runs",
                            $"{g.Count(l => l.Passed)} of {Figures.Count(g.Count(), "run")} of revision {g.Key.Revision} passed"
                        ))
                )
                .OrderByDescending(h => h.TimeUtc)
                .Select(h => h with { TimeUtc = DateTime.SpecifyKind(h.TimeUtc, DateTimeKind.Utc) })
                .Take(300),
        ];
    }

    private static async Task<IResult> Export(string id, RigStore store, CancellationToken cancel, int? copy = null)
    {
        // Of a rig or a copy that is not there this says so.
        var state = await store.Load(id, copy, null, cancel);
        var lines = await store.Log.Lines(id, copy is null ? null : state.Copy, cancel);
        var text = LogTable.Csv(LogStore.Entries(lines, await store.Log.SeriesOf(id, null, cancel)));
        var name = copy is null ? $"{id}-log.csv" : $"{id}-copy-{state.Copy}-log.csv";
        return Results.File(System.Text.Encoding.UTF8.GetBytes("\uFEFF" + text), "text/csv", name);
    }

    private static async Task<TableLook> Look(string id, TableRequest request, RigStore store, CancellationToken cancel)
    {
        await store.Load(id, request.Copy, null, cancel);
        var table = LogTable.Read(request.Text);
        var known = await store.Log.Mapping(table.Hash, cancel);
        var mapping = known ?? table.Suggest();
        return new(
            [
                .. table.Columns.Select(
                    (c, i) =>
                        new LogColumn(
                            c,
                            [.. table.Rows.Select(r => r[i]).Where(v => v != "").Distinct(StringComparer.OrdinalIgnoreCase).Take(12)],
                            table.Days(i)
                        )
                ),
            ],
            table.Rows.Count,
            mapping,
            known is not null
        );
    }

    private static async Task<TableImported> Import(
        string id,
        ImportRequest request,
        RigStore store,
        RateKeeper keeper,
        TimeProvider clock,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var table = LogTable.Read(request.Text);
        var need = new Require();
        var revision = request.Revision is null ? state.Revision : need.Whole(request.Revision, "revision", 1, state.Revision);
        var east = request.MinutesEast is null ? 0 : need.Whole(request.MinutesEast, "minutesEast", -900, 900);
        need.That(request.Mapping is { Columns: not null, Passes: not null, Fails: not null }, "mapping", "Say what the columns are.");
        need.Done();
        var copies = await store.Copies.Copies(id, cancel);
        var now = clock.GetUtcNow().UtcDateTime;
        var read = table.Entries(request.Mapping!, new(state.Copy, revision, state.Revision, [.. copies.Select(c => c.Number)], now, east));
        var keys = (await store.Log.Keys(id, cancel)).ToHashSet();
        var fresh = read.Entries.Count(e => keys.Add(e.Key));
        if (request.Dry)
            return new(fresh, read.Entries.Count - fresh, read.Entries.Count(e => e.Passed), read.Bad, null);
        LogRow[] rows = [.. read.Entries.Select(e => LogStore.Row(id, e, e.Revision, now))];
        SeriesRow[] series =
        [
            .. read
                .Entries.GroupBy(LogTable.SeriesKey)
                .Where(g => g.Key != "")
                .Select(g => new SeriesRow
                {
                    Key = g.Key,
                    RigId = id,
                    Copy = g.First().Copy,
                    Light = g.First().Light,
                    Pack = g.First().Pack,
                    Floor = g.First().Floor,
                    Who = g.First().Who,
                    TimeUtc = g.Min(e => e.TimeUtc),
                }),
        ];
        var added = await store.Log.Import(id, table.Hash, request.Mapping!, rows, series, cancel);
        if (added > 0)
        {
            RigEndpoints.Forget();
            await announce.Changed(id, state.Copy, state.Revision, $"took in {Figures.Count(added, "run")}", request.By);
        }
        return new(
            added,
            read.Entries.Count - added,
            read.Entries.Count(e => e.Passed),
            read.Bad,
            await View(await store.Load(id, state.Copy, null, cancel), store, keeper, cancel)
        );
    }
}
