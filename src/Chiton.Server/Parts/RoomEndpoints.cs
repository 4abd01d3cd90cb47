using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;
using QRCoder;

namespace Chiton.Server.Parts;

/// <summary>The room: opening and closing it, joining it, and who is in it.</summary>
public static class RoomEndpoints
{
    /// <summary>Most letters of what is said to all.</summary>
    public const int MostSaid = 200;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var room = api.MapGroup("/room").WithTags("Class");
        room.MapGet("", View).WithName("getRoom");
        room.MapPost("", Open).WithName("openRoom").ProducesValidationProblem().ProducesProblem(404);
        room.MapDelete("", Close).WithName("closeRoom");
        room.MapGet(
                "/addresses",
                IReadOnlyList<RoomAddress> (Network network) =>
                    [.. network.Addresses().Select(a => new RoomAddress($"{a}", network.Url(a)))]
            )
            .WithName("getRoomAddresses");
        room.MapPost("/educator", Educator).WithName("makeEducatorCode").ProducesProblem(404);
        room.MapPost("/let-join", LetJoin).WithName("letJoin");
        room.MapPost("/message", Say).WithName("sayToAll").ProducesValidationProblem().ProducesProblem(404);
        room.MapPost("/minutes", Minutes).WithName("addMinutes").ProducesValidationProblem().ProducesProblem(404);
        room.MapGet("/board", RoomBoard.View).WithName("getBoard").ProducesValidationProblem().ProducesProblem(404);
        room.MapGet("/projector", Projector).WithName("getProjector").ProducesProblem(404);
        api.MapGet("/me", Me).WithTags("Class").WithName("getMe");
        api.MapPost("/me/join", Join).WithTags("Class").WithName("join").ProducesValidationProblem().ProducesProblem(429);
        api.MapPost("/me/leave", Leave).WithTags("Class").WithName("leaveRoom");
        api.MapPost("/me/hand", Hand).WithTags("Class").WithName("raiseHand").ProducesValidationProblem();
    }

    // Told as what is left: clocks of devices do not agree.
    private static double? Left(RoomRow row, TimeProvider clock) =>
        row.EndsUtc is { } ends ? Math.Max(0, Math.Round((ends - clock.GetUtcNow().UtcDateTime).TotalSeconds)) : null;

    private static async Task<RoomView> View(
        RoomKeeper room,
        RoomStore store,
        ClassStore classes,
        Network network,
        TimeProvider clock,
        CancellationToken cancel
    ) =>
        room.Open is { } open && await store.Current(cancel) is { } row
            ? new(
                true,
                open.Class,
                (await classes.Class(open.Class, cancel)).Name,
                [.. open.Addresses.Select(network.Url)],
                JoinCode.Show(row.JoinCode),
                JoinCode.Show(row.JudgeCode),
                Left(row, clock),
                row.Message,
                room.Locked,
                room.WrongCodes
            )
            : new(false, null, "", [], "", "", null, "", false, 0);

    private static async Task<RoomView> Open(
        OpenRoomRequest request,
        RoomKeeper room,
        RoomStore store,
        ClassStore classes,
        Network network,
        RoomTeller tell,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        var need = new Require();
        need.That(request.Class is not null, "class", "Say whose room it is.");
        var minutes = need.Optional(request.Minutes, "minutes", 1, 600);
        need.That((request.Addresses?.Count ?? 0) <= 20, "addresses", "At most 20 addresses.");
        need.Done();
        await classes.Class(request.Class!.Value, cancel);
        await room.OpenAt(request.Class.Value, request.Addresses ?? [], store, cancel);
        if (minutes is { } last)
            await store.Change(r => r.EndsUtc = clock.GetUtcNow().UtcDateTime.AddMinutes(last), cancel);
        await tell.All(request.Class.Value);
        return await View(room, store, classes, network, clock, cancel);
    }

    private static async Task<IResult> Close(RoomKeeper room, RoomStore store, Presence presence, RoomTeller tell, CancellationToken cancel)
    {
        await room.Close(store, cancel);
        presence.Cut();
        tell.Board();
        return Results.NoContent();
    }

    private static EducatorCode Educator(RoomKeeper room)
    {
        if (room.Open is null)
            throw new NotStored("The room is closed. Open it first.");
        var (code, until) = room.EducatorCode();
        return new(JoinCode.Show(code), until);
    }

    private static IResult LetJoin(RoomKeeper room, RoomTeller tell)
    {
        room.LetJoin();
        tell.Board();
        return Results.NoContent();
    }

    private static async Task<SayRequest> Say(SayRequest request, RoomStore store, RoomTeller tell, CancellationToken cancel)
    {
        var text = request.Text?.Trim() ?? "";
        if (text.Length > MostSaid)
            throw new InputProblem("text", $"At most {MostSaid} letters; there are {text.Length}.");
        var row = await store.Change(r => r.Message = text, cancel);
        await tell.All(row.ClassId);
        return new(row.Message);
    }

    private static async Task<MinutesLeft> Minutes(
        MinutesRequest request,
        RoomStore store,
        RoomTeller tell,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var more = need.Number(request.Minutes, "minutes", -600, 600);
        need.Done();
        var now = clock.GetUtcNow().UtcDateTime;
        var row = await store.Change(
            r =>
            {
                // A lesson that is over is given time from now on.
                var from = r.EndsUtc is { } ends && ends > now ? ends : now;
                var then = from.AddMinutes(more);
                r.EndsUtc = then > now ? then : now;
            },
            cancel
        );
        await tell.All(row.ClassId);
        return new(Left(row, clock));
    }

    private static async Task<ProjectorView> Projector(
        RoomKeeper room,
        RoomStore store,
        ClassStore classes,
        Network network,
        Presence presence,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        if (room.Open is not { } open || await store.Current(cancel) is not { } row)
            throw new NotStored("The room is closed. Open it on the page Class.");
        var url = network.Url(open.Addresses[0]);
        return new(
            (await classes.Class(open.Class, cancel)).Name,
            url,
            JoinCode.Show(row.JoinCode),
            // What a camera reads brings its own code along.
            Squares($"{url}/?code={row.JoinCode}"),
            Left(row, clock),
            row.Message,
            [
                .. (await classes.Teams(open.Class, cancel)).Select(t => new ProjectedTeam(
                    t.Name,
                    t.Table,
                    presence.PartOf(t.Id) ?? "",
                    t.HandUpUtc is not null
                )),
            ]
        );
    }

    // The address for a camera, with the four light squares around it that cameras look for.
    private static IReadOnlyList<string> Squares(string text)
    {
        using var data = QRCodeGenerator.GenerateQrCode(text, QRCodeGenerator.ECCLevel.M);
        return [.. data.ModuleMatrix.Select(row => string.Concat(row.Cast<bool>().Select(dark => dark ? '1' : '0')))];
    }

    private static async Task<MeView> Me(
        Caller caller,
        RoomKeeper room,
        RoomStore store,
        ClassStore classes,
        LessonStore lessons,
        HeatsStore heats,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        var who = System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(caller.Who.ToString());
        if (caller.Who == Who.Stranger || room.Open is not { } open || await store.Current(cancel) is not { } row)
            return new(who, room.Open is not null, null, "", null, "", 0);
        var teams = await classes.Teams(open.Class, cancel);
        var mine = teams.FirstOrDefault(t => t.Id == caller.Team);
        return new(
            who,
            true,
            mine is null
                ? null
                : new(
                    mine.Name,
                    mine.Table,
                    JoinCode.Show(mine.Code),
                    mine.HandUpUtc is not null,
                    (await lessons.Offers(mine.Id, cancel)).Count(o => o.State == OfferState.Open),
                    await heats.Any(open.Class, cancel)
                ),
            (await classes.Class(open.Class, cancel)).Name,
            Left(row, clock),
            row.Message,
            caller.Who is Who.Desk or Who.Educator ? teams.Count(t => t.HandUpUtc is not null) : 0
        );
    }

    private static async Task<Joined> Join(
        JoinRequest request,
        HttpContext context,
        Caller caller,
        RoomKeeper room,
        RoomStore store,
        ClassStore classes,
        Presence presence,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        if (caller.Who == Who.Desk)
            throw new InputProblem("code", "This is the desk: it needs no code. Codes are for other devices.");
        if (room.Open is not { } open || await store.Current(cancel) is not { } row)
            throw new NotStored("The room is closed.");
        if (string.IsNullOrWhiteSpace(request.Code))
            throw new InputProblem("code", "Type the code.");
        var address = $"{context.Connection.RemoteIpAddress}";
        switch (room.Try(address))
        {
            case TryVerdict.Wait:
                throw new TooMany("Too many wrong codes from here. Wait a minute, then look at the code again.");
            case TryVerdict.Locked:
                throw new TooMany("Too many wrong codes were tried. Joining waits until somebody at the desk lets it go on.");
        }
        var code = JoinCode.Read(request.Code);
        var wrong = new InputProblem("code", "This code lets nobody in. Look at it again: six letters, no figures.");
        if (code is null)
            throw wrong;
        var team = (await classes.Teams(open.Class, cancel)).FirstOrDefault(t => RoomKeeper.Same(t.Code, code));
        var (role, known) =
            team is not null ? (RoomRole.Team, true)
            : RoomKeeper.Same(row.JoinCode, code) ? (RoomRole.Team, true)
            : RoomKeeper.Same(row.JudgeCode, code) ? (RoomRole.Judge, true)
            : room.TakeEducatorCode(code) ? (RoomRole.Educator, true)
            : (RoomRole.Judge, false);
        if (!known)
            throw wrong;
        room.Right(address);
        if (role == RoomRole.Team && team is null)
        {
            // The code is right; who they are is still wanted.
            if (string.IsNullOrWhiteSpace(request.Team))
                return new(null, null);
            var need = new Require();
            var name = ClassNames.Read(need, request.Team, "team");
            need.Done();
            team = await classes.AddTeam(open.Class, name, ClassEndpoints.Table(request.Table), cancel);
        }
        // A device is one at a time: what it was before, it is no more.
        if (caller.Session is { } before)
        {
            await store.Leave(before.Id, cancel);
            presence.Cut(session: before.Id);
        }
        var (token, session) = await store.Join(open.Class, role, team?.Id, cancel);
        context.Response.Cookies.Append(
            Door.Cookie,
            token,
            new()
            {
                HttpOnly = true,
                SameSite = SameSiteMode.Strict,
                Path = "/",
                Expires = new DateTimeOffset(session.UntilUtc),
            }
        );
        tell.Board();
        return new(System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(Caller.Of(role).ToString()), team?.Name);
    }

    private static async Task<IResult> Leave(
        HttpContext context,
        Caller caller,
        RoomStore store,
        Presence presence,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        if (caller.Session is { } session)
        {
            await store.Leave(session.Id, cancel);
            presence.Cut(session: session.Id);
            context.Response.Cookies.Delete(Door.Cookie);
            tell.Board();
        }
        return Results.NoContent();
    }

    private static async Task<HandRequest> Hand(
        HandRequest request,
        Caller caller,
        ClassStore classes,
        RoomTeller tell,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        if (request.Up is not { } up)
            throw new InputProblem("up", "Say true or false.");
        if (caller.Team is not { } team)
            throw new InputProblem("up", "Only a team puts its hand up.");
        // A hand that is up keeps its place.
        await classes.ChangeTeam(team, t => t.HandUpUtc = up ? t.HandUpUtc ?? clock.GetUtcNow().UtcDateTime : null, cancel);
        await tell.Team(team);
        return new(up);
    }
}

/// <summary>How long the lesson lasts still.</summary>
/// <param name="LeftS">Seconds left, 0 when it is over.</param>
public sealed record MinutesLeft(double? LeftS);
