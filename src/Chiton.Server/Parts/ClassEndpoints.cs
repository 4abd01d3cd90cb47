using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>Classes, their teams, and what is handed out to them.</summary>
public static class ClassEndpoints
{
    /// <summary>Most tables of a room.</summary>
    public const int MostTables = 99;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var classes = api.MapGroup("/classes").WithTags("Class");
        classes.MapGet("", List).WithName("listClasses");
        classes.MapPost("", Make).WithName("makeClass").ProducesValidationProblem();
        classes.MapGet("/{id:long}", View).WithName("getClass").ProducesProblem(404);
        classes.MapPut("/{id:long}", Rename).WithName("renameClass").ProducesValidationProblem().ProducesProblem(404);
        classes.MapDelete("/{id:long}", Delete).WithName("deleteClass").ProducesProblem(404);
        classes.MapGet("/{id:long}/export", Export).WithName("exportClass").Produces<ClassFile>().ProducesProblem(404);
        classes.MapPost("/{id:long}/teams", AddTeam).WithName("addTeam").ProducesValidationProblem().ProducesProblem(404);
        classes.MapPost("/{id:long}/hand-out", HandOut).WithName("handOut").ProducesValidationProblem().ProducesProblem(404);
        classes.MapGet("/{id:long}/compare", Compare).WithName("compareTeams").ProducesValidationProblem().ProducesProblem(404);
        var teams = api.MapGroup("/teams/{team:long}").WithTags("Class");
        teams.MapPut("", ChangeTeam).WithName("changeTeam").ProducesValidationProblem().ProducesProblem(404);
        teams.MapDelete("", DeleteTeam).WithName("deleteTeam").ProducesProblem(404);
        teams.MapPost("/code", NewCode).WithName("newTeamCode").ProducesProblem(404);
        teams.MapPost("/table", MoveTeam).WithName("moveTeam").ProducesValidationProblem().ProducesProblem(404);
        teams.MapPost("/same-start", SameStart).WithName("sameStart").ProducesValidationProblem().ProducesProblem(404);
        teams.MapPost("/hand", LowerHand).WithName("lowerHand").ProducesProblem(404);
    }

    private static async Task<IReadOnlyList<ClassItem>> List(ClassStore classes, RoomKeeper room, CancellationToken cancel) =>
        [.. (await classes.List(cancel)).Select(c => new ClassItem(c.Class.Id, c.Class.Name, c.Teams, room.Open?.Class == c.Class.Id))];

    private static string Name(string? name, string field = "name")
    {
        var need = new Require();
        var said = ClassNames.Read(need, name, field);
        need.Done();
        return said;
    }

    /// <summary>The number of a table.</summary>
    internal static int? Table(double? table) =>
        table is null ? null
        : table is { } t && t >= 1 && t <= MostTables && Math.Floor(t) == t ? (int)t
        : throw new InputProblem("table", $"A whole number from 1 to {MostTables}.");

    private static async Task<ClassItem> Make(NameRequest request, ClassStore classes, CancellationToken cancel)
    {
        var row = await classes.Make(Name(request.Name), cancel);
        return new(row.Id, row.Name, 0, false);
    }

    private static async Task<ClassItem> Rename(
        long id,
        NameRequest request,
        ClassStore classes,
        RoomKeeper room,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var row = await classes.Rename(id, Name(request.Name), cancel);
        await tell.All(id);
        return new(row.Id, row.Name, (await classes.Teams(id, cancel)).Count, room.Open?.Class == id);
    }

    private static async Task<ClassView> View(
        long id,
        ClassStore classes,
        RigStore rigs,
        RoomStore sessions,
        RoomKeeper room,
        DataFolder folder,
        CancellationToken cancel
    )
    {
        var row = await classes.Class(id, cancel);
        var own = (await classes.Rigs(id, cancel)).ToLookup(r => r.Team);
        var devices = await sessions.Devices(id, cancel);
        var teams = new List<TeamView>();
        foreach (var team in await classes.Teams(id, cancel))
        {
            var views = new List<TeamRigView>();
            foreach (var rig in own[team.Id])
                views.Add(await RigOf(rig, rigs, cancel));
            teams.Add(new(team.Id, team.Name, team.Table, JoinCode.Show(team.Code), devices.GetValueOrDefault(team.Id), views));
        }
        return new(row.Id, row.Name, room.Open?.Class == id, teams, ClassStore.Backups(folder.Path, row));
    }

    private static async Task<TeamRigView> RigOf(TeamRig rig, RigStore rigs, CancellationToken cancel)
    {
        var design = await rigs.Designs.DesignOf(rig.Id, rig.Revision, cancel);
        if (rig is not { OriginRig: { } from, OriginRevision: { } revision })
            return new(rig.Id, design.Name, null, null, null);
        // What was handed out is its first revision: of a lesson it is not its origin's program.
        var different = ProgramDifference.Between(await rigs.Designs.DesignOf(rig.Id, 1, cancel), design).Count;
        try
        {
            return new(rig.Id, design.Name, (await rigs.Designs.DesignOf(from, revision, cancel)).Name, revision, different);
        }
        catch (NotStored)
        {
            return new(rig.Id, design.Name, null, revision, different);
        }
    }

    private static async Task<IResult> Export(long id, ClassStore classes, CancellationToken cancel)
    {
        var file = await classes.Export(id, cancel);
        return Results.File(
            System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(file, Documents.Options),
            "application/json",
            $"class-{id}.json"
        );
    }

    private static async Task<IResult> Delete(
        long id,
        ClassStore classes,
        RoomStore rooms,
        RoomKeeper room,
        Presence presence,
        Owners owners,
        CancellationToken cancel
    )
    {
        await classes.Class(id, cancel);
        if (room.Open?.Class == id)
        {
            await room.Close(rooms, cancel);
            presence.Cut();
        }
        await classes.Delete(id, cancel);
        RigEndpoints.Forget();
        owners.Forget();
        return Results.NoContent();
    }

    private static async Task<TeamView> AddTeam(long id, NameRequest request, ClassStore classes, RoomTeller tell, CancellationToken cancel)
    {
        var (name, table) = (Name(request.Name), Table(request.Table));
        var row = await classes.AddTeam(id, name, table, cancel);
        tell.Board();
        return new(row.Id, row.Name, row.Table, JoinCode.Show(row.Code), 0, []);
    }

    private static async Task<NameRequest> ChangeTeam(
        long team,
        NameRequest request,
        ClassStore classes,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var (name, table) = (Name(request.Name), Table(request.Table));
        var row = await classes.ChangeTeam(
            team,
            t =>
            {
                t.Name = name;
                t.Table = table ?? t.Table;
            },
            cancel
        );
        await tell.Team(team);
        return new(row.Name, row.Table);
    }

    private static async Task<IResult> DeleteTeam(
        long team,
        ClassStore classes,
        Presence presence,
        RoomTeller tell,
        Owners owners,
        CancellationToken cancel
    )
    {
        await classes.DeleteTeam(team, cancel);
        presence.Cut(team);
        RigEndpoints.Forget();
        owners.Forget();
        tell.Board();
        return Results.NoContent();
    }

    private static async Task<TeamView> NewCode(long team, ClassStore classes, Presence presence, RoomTeller tell, CancellationToken cancel)
    {
        var row = await classes.NewCode(team, cancel);
        presence.Cut(team);
        tell.Board();
        return new(row.Id, row.Name, row.Table, JoinCode.Show(row.Code), 0, []);
    }

    // Another table is another thing, or another light: a new copy of each of the team's rigs; the earlier ones stay as they are.
    private static async Task<NameRequest> MoveTeam(
        long team,
        NameRequest request,
        ClassStore classes,
        RigStore rigs,
        Announcer announce,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var table = Table(request.Table) ?? throw new InputProblem("table", $"Which table, 1 to {MostTables}?");
        var before = await classes.Team(team, cancel);
        if (before.Table == table)
            return new(before.Name, table);
        foreach (var rig in (await classes.Rigs(before.ClassId, cancel)).Where(r => r.Team == team))
        {
            var copies = await rigs.Copies.Copies(rig.Id, cancel);
            var units = await rigs.Copies.UnitsOf(rig.Id, cancel);
            var number = await rigs.Copies.AddCopy(rig.Id, before.Name, units[copies[^1].UnitId].Kind, $"table {table}", cancel);
            await announce.Changed(rig.Id, number, rig.Revision, $"added copy {number} at table {table}", null);
        }
        var row = await classes.ChangeTeam(team, t => t.Table = table, cancel);
        await tell.Team(team);
        return new(row.Name, row.Table);
    }

    private static async Task<HandRequest> LowerHand(long team, ClassStore classes, RoomTeller tell, CancellationToken cancel)
    {
        await classes.ChangeTeam(team, t => t.HandUpUtc = null, cancel);
        await tell.Team(team);
        return new(false);
    }

    private static async Task<HandedOut> HandOut(
        long id,
        HandOutRequest request,
        ClassStore classes,
        RoomTeller tell,
        RateKeeper keeper,
        CancellationToken cancel
    )
    {
        await classes.Class(id, cancel);
        var all = await classes.Teams(id, cancel);
        if (string.IsNullOrWhiteSpace(request.Rig))
            throw new InputProblem("rig", "Say which rig of the desk is handed out, by its address.");
        var to = request.Teams is null ? all : [.. all.Where(t => request.Teams.Contains(t.Id))];
        if (request.Teams?.Except(all.Select(t => t.Id)).Any() == true)
            throw new InputProblem("teams", "One of these is no team of this class.");
        if (to.Count == 0)
            throw new InputProblem("teams", "The class has no team yet. Add one, or let one join.");
        var made = new List<string>();
        foreach (var team in to)
        {
            made.Add(await classes.HandOut(request.Rig, team.Id, cancel));
            keeper.Ask(made[^1], 1);
            await tell.Team(team.Id);
        }
        return new(made, $"Handed out to {Figures.List(to.Select(t => t.Name))}.");
    }

    private static async Task<HandedOut> SameStart(
        long team,
        ClassStore classes,
        RoomTeller tell,
        RateKeeper keeper,
        CancellationToken cancel
    )
    {
        var row = await classes.Team(team, cancel);
        var (made, lessons) = await classes.SameStart(team, cancel);
        if (made.Count == 0 && lessons == 0)
            throw new InputProblem("team", $"{row.Name} has all that was handed out to the others.");
        foreach (var rig in made)
            keeper.Ask(rig, 1);
        await tell.Team(team);
        return new(made, $"{row.Name} has the same start now.");
    }

    // Two teams' programs side by side, or one beside what was handed out.
    private static async Task<TeamsCompared> Compare(
        long id,
        string? one,
        string? two,
        ClassStore classes,
        RigStore rigs,
        CancellationToken cancel
    )
    {
        await classes.Class(id, cancel);
        var all = await classes.Rigs(id, cancel);
        TeamRig Find(string? rig, string field) =>
            all.FirstOrDefault(r => r.Id == rig) ?? throw new InputProblem(field, "Say which rig of a team of this class, by its address.");
        var first = Find(one, "one");
        var after = await rigs.Designs.DesignOf(first.Id, first.Revision, cancel);
        if (!string.IsNullOrEmpty(two))
        {
            var second = Find(two, "two");
            return new(
                ProgramDifference.Between(await rigs.Designs.DesignOf(second.Id, second.Revision, cancel), after),
                first.Revision,
                second.Revision
            );
        }
        if (first is not { OriginRevision: { } revision })
            throw new InputProblem("two", "This rig was not handed out: say which other one it is held against.");
        return new(ProgramDifference.Between(await rigs.Designs.DesignOf(first.Id, 1, cancel), after), first.Revision, revision);
    }
}
