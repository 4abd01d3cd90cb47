using System.Globalization;
using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>Heats: who meets whom, what came of it, and what the bench says of it before.</summary>
public static class HeatsEndpoints
{
    /// <summary>Longest time of all runs of a tournament.</summary>
    public static readonly TimeSpan Most = TimeSpan.FromMinutes(3);

    private const long Seed = 1;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/heats", List).WithTags("Class").WithName("listHeats").ProducesProblem(404);
        api.MapPost("/classes/{id:long}/heats", Begin)
            .WithTags("Class")
            .WithName("beginHeats")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        var heats = api.MapGroup("/heats/{heats:long}").WithTags("Class");
        heats.MapGet("", One).WithName("getHeats").ProducesProblem(404);
        heats.MapDelete("", Drop).WithName("dropHeats").ProducesValidationProblem().ProducesProblem(404);
        heats.MapPost("/score", Score).WithName("scoreHeat").ProducesValidationProblem().ProducesProblem(404);
        heats.MapPost("/rerun", Rerun).WithName("giveRerun").ProducesValidationProblem().ProducesProblem(404);
        heats.MapPost("/undo", Undo).WithName("takeBackHeat").ProducesValidationProblem().ProducesProblem(404);
        heats.MapPost("/withdraw", Withdraw).WithName("withdrawTeam").ProducesValidationProblem().ProducesProblem(404);
        heats.MapPost("/enter", Enter).WithName("enterRig").ProducesValidationProblem().ProducesProblem(404);
        heats.MapPost("/simulate", Simulate).WithName("simulateHeats").ProducesValidationProblem().ProducesProblem(404);
    }

    private static string Who(Caller caller) =>
        caller.Who switch
        {
            App.Room.Who.Judge => "a judge",
            App.Room.Who.Educator => "an educator",
            _ => "the desk",
        };

    // In the room a class's heats are its own: of another class they are refused, there or not.
    private static async Task Own(long heats, Caller caller, HeatsStore store, CancellationToken cancel)
    {
        if (caller.Session is { } session && await store.ClassOf(heats, cancel) != session.Class)
            throw new NotYours();
    }

    private static async Task<IReadOnlyList<HeatsItem>> List(
        long? @class,
        Caller caller,
        HeatsStore store,
        ClassStore classes,
        CancellationToken cancel
    )
    {
        var id = caller.Session?.Class ?? @class ?? throw new InputProblem("class", "Say of which class.");
        if (@class is { } asked && asked != id)
            throw new NotYours();
        await classes.Class(id, cancel);
        return [.. (await store.OfClass(id, cancel)).Select(Item)];
    }

    private static HeatsItem Item(KeptHeats h)
    {
        var open = h.Standing.Heats.Count(x => !h.Standing.Withdrawn.Contains(x.First) && !h.Standing.Withdrawn.Contains(x.Second));
        var table = h.Standing.Table(h.Challenge);
        return new(
            h.Row.Id,
            h.Challenge.Name,
            h.Entries.Count,
            h.Standing.Results.Keys.Count(x => !h.Standing.Withdrawn.Contains(x.First) && !h.Standing.Withdrawn.Contains(x.Second)),
            open,
            DateTime.SpecifyKind(h.Row.CreatedUtc, DateTimeKind.Utc),
            h.Standing.Results.Count == 0 ? "" : Figures.List(table.Where(l => l.Place == 1).Select(l => h.Entries[l.Team].Name))
        );
    }

    private static async Task<HeatsView> Begin(
        long id,
        BeginHeats request,
        ChallengeStore challenges,
        CourseStore courses,
        ClassStore classes,
        HeatsStore store,
        HeatChances chances,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrEmpty(request.Challenge))
            throw new InputProblem("challenge", "Choose the challenge.");
        var challenge = (await challenges.Challenge(request.Challenge, cancel)).Challenge;
        var rig = (await courses.Rigs(cancel)).GetValueOrDefault(challenge.Rig);
        var need = new Require();
        ChallengeRules.Check(need, challenge, rig);
        need.Done();
        var teams = request.Teams ?? [.. (await classes.Teams(id, cancel)).Select(t => t.Id)];
        var made = await store.Begin(id, challenge, SceneParser.Parse(challenge.Scene, rig!).Scene.EndsS, teams, cancel);
        await tell.All(id);
        return await View(await store.Heats(made, cancel), true, classes, chances, cancel);
    }

    private static async Task<HeatsView> One(
        long heats,
        Caller caller,
        HeatsStore store,
        ClassStore classes,
        HeatChances chances,
        CancellationToken cancel
    )
    {
        await Own(heats, caller, store, cancel);
        return await View(
            await store.Heats(heats, cancel),
            caller.Who is App.Room.Who.Desk or App.Room.Who.Educator,
            classes,
            chances,
            cancel
        );
    }

    private static async Task<HeatKept> Drop(long heats, Caller caller, HeatsStore store, RoomTeller tell, CancellationToken cancel)
    {
        await Own(heats, caller, store, cancel);
        var kept = await store.Heats(heats, cancel);
        await store.Drop(heats, cancel);
        await tell.All(kept.Row.ClassId);
        return new("They are taken out.");
    }

    private static async Task<HeatKept> Write(
        long heats,
        HeatEvent happened,
        string say,
        Caller caller,
        HeatsStore store,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        await Own(heats, caller, store, cancel);
        await store.Add(heats, happened, Who(caller), cancel);
        if (await store.ClassOf(heats, cancel) is { } its)
            await tell.All(its);
        return new(say);
    }

    private static Task<HeatKept> Score(
        long heats,
        ScoreRequest request,
        Caller caller,
        HeatsStore store,
        RoomTeller tell,
        CancellationToken cancel
    ) =>
        Write(
            heats,
            new(
                0,
                HeatEventKind.Scored,
                request.First ?? -1,
                request.Second ?? -1,
                LaneRequest.Sheet(request.One, "one"),
                LaneRequest.Sheet(request.Other, "other")
            ),
            "It counts.",
            caller,
            store,
            tell,
            cancel
        );

    private static Task<HeatKept> Rerun(
        long heats,
        RerunRequest request,
        Caller caller,
        HeatsStore store,
        RoomTeller tell,
        CancellationToken cancel
    ) =>
        Write(
            heats,
            new(0, HeatEventKind.Rerun, request.First ?? -1, request.Second ?? -1, Team: request.Team ?? -1),
            "It is run again.",
            caller,
            store,
            tell,
            cancel
        );

    private static Task<HeatKept> Undo(
        long heats,
        UndoHeatRequest request,
        Caller caller,
        HeatsStore store,
        RoomTeller tell,
        CancellationToken cancel
    ) => Write(heats, new(0, HeatEventKind.Undone, Of: request.Of ?? 0), "It is taken back.", caller, store, tell, cancel);

    private static Task<HeatKept> Withdraw(
        long heats,
        WithdrawRequest request,
        Caller caller,
        HeatsStore store,
        RoomTeller tell,
        CancellationToken cancel
    ) =>
        Write(
            heats,
            new(0, request.Back == true ? HeatEventKind.Returned : HeatEventKind.Withdrew, Team: request.Team ?? -1),
            request.Back == true ? "The team is back." : "The team has withdrawn.",
            caller,
            store,
            tell,
            cancel
        );

    private static async Task<HeatKept> Enter(
        long heats,
        EnterRequest request,
        Caller caller,
        HeatsStore store,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        await Own(heats, caller, store, cancel);
        await store.Enter(heats, request.Team ?? -1, string.IsNullOrEmpty(request.Rig) ? null : request.Rig, cancel);
        if (await store.ClassOf(heats, cancel) is { } its)
            await tell.All(its);
        return new("It is entered.");
    }

    private static async Task<HeatsView> Simulate(
        long heats,
        SimulateHeats request,
        Caller caller,
        HeatsStore store,
        RigStore rigs,
        ClassStore classes,
        HeatChances chances,
        OwnJobs jobs,
        RoomTeller tell,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        await Own(heats, caller, store, cancel);
        var kept = await store.Heats(heats, cancel);
        var machines = new List<BenchCopy?>();
        foreach (var entry in kept.Entries)
            machines.Add(entry.Rig is { } rig ? (await rigs.Load(rig, null, null, cancel)).Bench : null);
        var group = hub.Clients.Group(Presence.Board);
        var runs = await jobs.Run(
            WorkKind.Long,
            request.Job,
            Most,
            stop =>
                Contest.Run(
                    kept.Challenge,
                    machines,
                    Seed,
                    (done, all) =>
                    {
                        if (request.Job is { Length: > 0 } job)
                            _ = group.Progress(new(job, done, all, 0, null, null));
                    },
                    Environment.ProcessorCount,
                    TaskScheduler.Current,
                    stop
                ),
            cancel
        );
        if (!await store.Keep(heats, kept.Entries, runs, CancellationToken.None))
            throw new InputProblem("heats", "Another rig was entered meanwhile. Let the bench run them again.");
        await tell.All(kept.Row.ClassId);
        return await View(await store.Heats(heats, cancel), true, classes, chances, cancel);
    }

    internal static async Task<HeatsView> View(
        KeptHeats h,
        bool educator,
        ClassStore classes,
        HeatChances chances,
        CancellationToken cancel
    )
    {
        var (challenge, now) = (h.Challenge, h.Standing);
        var runs = h.Runs;
        var said = runs is null ? null : chances.Of(h, runs, cancel);
        var own = educator
            ? (await classes.RigNames(h.Row.ClassId, cancel)).ToLookup(r => r.Team, r => new RigName(r.Id, r.Name))
            : Enumerable.Empty<RigName>().ToLookup(_ => 0L);
        HeatView Heat(Heat x)
        {
            var result = now.Results.GetValueOrDefault(x);
            var odds = said?.Heats.GetValueOrDefault(x);
            return new(
                x.First,
                x.Second,
                result is not null,
                result?.First,
                result?.Second,
                result is null ? 0 : Heats.Winner(result, challenge.By, challenge.Within),
                now.By.GetValueOrDefault(x),
                now.Withdrawn.Contains(x.First) || now.Withdrawn.Contains(x.Second),
                odds?.First,
                odds?.Draw
            );
        }
        static IReadOnlyList<double> Share(double[][]? all, int team) => all is null ? [] : [.. all[team].Select(p => Math.Round(p, 3))];
        return new(
            h.Row.Id,
            h.Row.ClassId,
            challenge.Name,
            challenge.Task,
            [.. challenge.Rules, .. challenge.Sentences()],
            challenge.By,
            challenge.Unit(),
            h.Row.LimitS,
            challenge.Together,
            challenge.Touches,
            challenge.Reruns,
            challenge.By != HeatScore.Stays && challenge.FallCost > 0,
            [
                .. h.Entries.Select(
                    (e, i) =>
                        new HeatTeam(
                            e.Name,
                            now.Withdrawn.Contains(i),
                            now.Reruns[i],
                            educator ? e.Rig : null,
                            [.. own[e.Team]],
                            runs?.Missing[i] ?? "",
                            said?.Typical[i]
                        )
                ),
            ],
            [
                .. now
                    .Heats.GroupBy(x => x.Round)
                    .Select(g => new HeatRound(g.Key + 1, Heats.Bye(h.Entries.Count, g.Key, now.Heats), [.. g.Select(Heat)])),
            ],
            [
                .. now.Table(challenge)
                    .Select(l => new HeatTableLine(
                        l.Team,
                        l.Place,
                        l.Played,
                        l.Won,
                        l.Drawn,
                        l.Points,
                        l.Best,
                        Math.Round(l.Total, 3),
                        Share(said?.Before, l.Team),
                        Share(said?.Now, l.Team)
                    )),
            ],
            now.Next is { } next ? Heat(next) : null,
            [
                .. h
                    .Events.Reverse()
                    .Select(e => new HeatTrace(
                        e.Event.Id,
                        e.Event.Kind,
                        Say(h, e.Event),
                        e.Who,
                        e.TimeUtc,
                        now.Undone.Contains(e.Event.Id)
                    )),
            ],
            h.Row.RunsUtc is { } utc ? DateTime.SpecifyKind(utc, DateTimeKind.Utc) : null,
            runs is null ? 0 : runs.Alone.Sum(a => a.Count) + runs.Met.Sum(m => m.Scores.Count)
        );
    }

    private static string Say(KeptHeats h, HeatEvent e)
    {
        string Name(int team) => h.Entries[team].Name;
        string Score(LaneSheet? sheet)
        {
            if (sheet is not { Started: true })
                return "could not start";
            var score = ChallengeRules.Score(h.Challenge, sheet, h.Row.LimitS);
            var said = score is { } s ? $"{s.ToString("0.##", CultureInfo.InvariantCulture)} {h.Challenge.Unit()}" : "does not count";
            var with = new[]
            {
                sheet.Falls > 0 ? Figures.Count(sheet.Falls, "fall") : "",
                sheet.Touches > 0 ? Figures.Count(sheet.Touches, "touch", "touches") : "",
            }.Where(w => w != "");
            return with.Any() ? $"{said}, {string.Join(", ", with)}" : said;
        }
        var heat = e.First >= 0 ? $"{Name(e.First)} against {Name(e.Second)}" : "";
        return e.Kind switch
        {
            HeatEventKind.Scored => $"{heat}: {Score(e.One)}; {Score(e.Other)}",
            HeatEventKind.Rerun => $"{heat} is run again: {Name(e.Team)} asked for it",
            HeatEventKind.Withdrew => $"{Name(e.Team)} withdrew",
            HeatEventKind.Returned => $"{Name(e.Team)} is back",
            _ => h.Events.FirstOrDefault(o => o.Event.Id == e.Of) is { } of ? $"taken back: {Say(h, of.Event)}" : "taken back",
        };
    }
}
