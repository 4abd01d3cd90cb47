using System.Collections.Concurrent;
using Chiton.Data;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.App.Room;

/// <summary>Who is there: connections and streams of each device, and the part in which each team is.</summary>
public sealed class Presence
{
    /// <summary>Most connections of a device in the room.</summary>
    public const int MostConnections = 4;

    /// <summary>Most streams of a device in the room.</summary>
    public const int MostStreams = 8;

    /// <summary>The group of pages that hear of everything in the room.</summary>
    public const string Board = "board";

    private static readonly string[] Parts = ["rig", "sense", "move", "program", "check", "simulate", "prove", "log"];

    private sealed record Connection(HubCallerContext Page, string Key, long? Team);

    private readonly ConcurrentDictionary<string, Connection> connections = new();
    private readonly ConcurrentDictionary<string, int> streams = new();
    private readonly ConcurrentDictionary<long, string> parts = new();
    private readonly Lock gate = new();

    /// <summary>Groups of pages that whoever asks belongs to.</summary>
    public static IEnumerable<string> Groups(Caller caller) =>
        caller switch
        {
            { Who: Who.Desk or Who.Educator } => [Board],
            { Session: { Team: { } team } s } => [Class(s.Class), Team(team)],
            { Session: { } s } => [Class(s.Class)],
            _ => [],
        };

    /// <summary>The group of all pages of a class.</summary>
    public static string Class(long id) => $"class:{id}";

    /// <summary>The group of all pages of a team.</summary>
    public static string Team(long id) => $"team:{id}";

    /// <summary>A page connects; false where its device has too many already.</summary>
    public bool Come(HubCallerContext page, Caller caller)
    {
        lock (gate)
        {
            if (caller.Session is not null && connections.Values.Count(c => c.Key == caller.Key) >= MostConnections)
                return false;
            connections[page.ConnectionId] = new(page, caller.Key, caller.Team);
            return true;
        }
    }

    /// <summary>A page is gone.</summary>
    public void Go(string page) => connections.TryRemove(page, out _);

    /// <summary>Begins a stream; it ends when what is given back is put down.</summary>
    /// <exception cref="TooMany">When the device has too many already.</exception>
    public IDisposable Stream(Caller caller)
    {
        if (caller.Session is null)
            return Nothing.Held;
        var key = caller.Key;
        if (streams.AddOrUpdate(key, 1, (_, n) => n + 1) > MostStreams)
        {
            Put(key);
            throw new TooMany($"At most {MostStreams} live views at once on one device. Close one first.");
        }
        return new Held(this, key);
    }

    private void Put(string key) => streams.AddOrUpdate(key, 0, (_, n) => n - 1);

    private sealed class Held(Presence presence, string key) : IDisposable
    {
        private int put;

        public void Dispose()
        {
            if (Interlocked.Exchange(ref put, 1) == 0)
                presence.Put(key);
        }
    }

    private sealed class Nothing : IDisposable
    {
        public static readonly Nothing Held = new();

        public void Dispose() { }
    }

    /// <summary>Notes in which part a team is.</summary>
    public void At(Caller caller, string part)
    {
        if (caller.Team is { } team && Parts.Contains(part))
            parts[team] = part;
    }

    /// <summary>The part in which a team is; null while nobody knows.</summary>
    public string? PartOf(long team) => parts.GetValueOrDefault(team);

    /// <summary>How many pages of a team are connected.</summary>
    public int PagesOf(long team) => connections.Values.Count(c => c.Team == team);

    /// <summary>Cuts pages off: of a team, of a session, or all in the room.</summary>
    public void Cut(long? team = null, long? session = null)
    {
        foreach (var c in connections.Values)
            if (c.Key != "desk" && (team is null || c.Team == team) && (session is null || c.Key == $"s{session}"))
                c.Page.Abort();
    }
}

/// <summary>Tells pages that something of the room changed. The board is told at most twice a second: it asks for all of it anew.</summary>
public sealed class RoomTeller(IHubContext<BenchHub, IBenchPage> hub)
{
    /// <summary>How long what the board is told of is gathered.</summary>
    public static readonly TimeSpan Gather = TimeSpan.FromMilliseconds(400);

    private int told;

    /// <summary>Something of a team changed: the board is told.</summary>
    public void Board()
    {
        if (Interlocked.Exchange(ref told, 1) != 0)
            return;
        _ = Task.Run(async () =>
        {
            await Task.Delay(Gather);
            Interlocked.Exchange(ref told, 0);
            await hub.Clients.Group(Presence.Board).Room();
        });
    }

    /// <summary>Something of the room changed that all its pages may know of.</summary>
    public async Task All(long room)
    {
        Board();
        await hub.Clients.Group(Presence.Class(room)).Room();
    }

    /// <summary>Something of a team changed that its own pages show.</summary>
    public async Task Team(long team)
    {
        Board();
        await hub.Clients.Group(Presence.Team(team)).Room();
    }
}

/// <summary>Who calls a method of the hub is known as for any other call, and may make the calls that are theirs alone.</summary>
public sealed class HubDoor(RoomKeeper room) : IHubFilter
{
    // Who a page is was found out when it connected, by its connection and its cookie; what has ended since is cut off.
    private async Task Know(HubCallerContext page, IServiceProvider services)
    {
        var caller = services.GetRequiredService<Caller>();
        if (caller.Who != Who.None)
            return;
        var context = page.GetHttpContext() ?? throw new HubException("This connection cannot be used.");
        if (Guard.IsDesk(context))
        {
            caller.Is(Who.Desk, null);
            return;
        }
        var session = context.Request.Cookies[Door.Cookie] is { Length: > 0 and <= 100 } token
            ? await services.GetRequiredService<RoomStore>().Find(token, page.ConnectionAborted)
            : null;
        if (session is null || room.Open?.Class != session.Class)
        {
            page.Abort();
            throw new HubException("Join the room first.");
        }
        caller.Is(Caller.Of(session.Role), session);
    }

    /// <inheritdoc/>
    public async ValueTask<object?> InvokeMethodAsync(HubInvocationContext invocation, Func<HubInvocationContext, ValueTask<object?>> next)
    {
        await Know(invocation.Context, invocation.ServiceProvider);
        var caller = invocation.ServiceProvider.GetRequiredService<Caller>();
        if ((Access.Of("hub." + invocation.HubMethodName) & caller.Who) == 0)
            throw new HubException("This is not for you.");
        try
        {
            return await next(invocation);
        }
        catch (Exception e) when (e is NotYours or TooMany)
        {
            throw new HubException(e.Message);
        }
    }

    /// <inheritdoc/>
    public async Task OnConnectedAsync(HubLifetimeContext context, Func<HubLifetimeContext, Task> next)
    {
        await Know(context.Context, context.ServiceProvider);
        await next(context);
    }

    /// <inheritdoc/>
    public async Task OnDisconnectedAsync(HubLifetimeContext context, Exception? exception, Func<HubLifetimeContext, Exception?, Task> next)
    {
        var caller = context.ServiceProvider.GetRequiredService<Caller>();
        if (caller.Who == Who.None)
            caller.Is(Who.Stranger, null);
        await next(context, exception);
    }
}
