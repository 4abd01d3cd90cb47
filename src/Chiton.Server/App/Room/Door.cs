using Chiton.Data;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Routing;

namespace Chiton.Server.App.Room;

/// <summary>
/// Finds out who asks, and lets each make the calls that are theirs: the desk all, the room nothing without having joined. What is not
/// a team's own is refused alike, there or not.
/// </summary>
public sealed class Door(RequestDelegate next, RoomKeeper room)
{
    /// <summary>The cookie that a device in the room holds.</summary>
    public const string Cookie = "chiton-room";

    /// <summary>Handles a request.</summary>
    public async Task Invoke(HttpContext context, Caller caller, RoomStore sessions, RigStore rigs, LessonStore lessons)
    {
        var request = context.Request;
        if (Guard.IsDesk(context))
            caller.Is(Who.Desk, null);
        else
        {
            if (room.Open is not { } open)
            {
                await Guard.Refuse(context, "The room is closed.");
                return;
            }
            // The desk's own pages do without; here a page of another server on the network could try.
            var writes = !HttpMethods.IsGet(request.Method) && !HttpMethods.IsHead(request.Method);
            if ((writes || request.Headers.Upgrade.Count > 0) && request.Headers.Origin.Count == 0)
            {
                await Guard.Refuse(context, "Say where this comes from: an Origin is missing.");
                return;
            }
            var session = request.Cookies[Cookie] is { Length: > 0 and <= 100 } token
                ? await sessions.Find(token, context.RequestAborted)
                : null;
            if (session?.Class == open.Class)
                caller.Is(Caller.Of(session.Role), session);
            else
                caller.Is(Who.Stranger, null);
        }
        if (
            request.Path.StartsWithSegments("/api")
            || request.Path.StartsWithSegments("/hub")
            || request.Path.StartsWithSegments("/openapi")
        )
        {
            var call = context.GetEndpoint()?.Metadata.GetMetadata<IEndpointNameMetadata>()?.EndpointName;
            var who = request.Path.StartsWithSegments("/hub") ? Who.Desk | Who.Educator | Who.Team | Who.Judge : Access.Of(call);
            if ((who & caller.Who) == 0)
            {
                if (caller.Who == Who.Stranger)
                    await Guard.Refuse(context, "Join the room first.", StatusCodes.Status401Unauthorized);
                else
                    await Guard.Refuse(context, "This is not for you.");
                return;
            }
            if (
                caller.Team is { } team
                && request.Path.StartsWithSegments("/api/rigs")
                && request.RouteValues.GetValueOrDefault("id") is string rig
                && await rigs.Owner(rig, context.RequestAborted) != team
            )
                throw new NotYours();
            if (caller.Team is { } its && await Named(request.RouteValues, lessons, context.RequestAborted) is { } other && other != its)
                throw new NotYours();
        }
        await next(context);
    }

    // The team that a lesson, an offer or something handed in belongs to, by its key in the address: −1 where there is none, null where
    // none is named.
    private static async Task<long?> Named(RouteValueDictionary values, LessonStore lessons, CancellationToken cancel)
    {
        foreach (var of in LessonStore.Keys)
            if (values.GetValueOrDefault(of) is { } said)
                return long.TryParse($"{said}", out var key) ? await lessons.OwnerOf(of, key, cancel) ?? -1 : -1;
        return null;
    }
}
