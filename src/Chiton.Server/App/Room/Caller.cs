using Chiton.Data;

namespace Chiton.Server.App.Room;

/// <summary>Who asks.</summary>
[Flags]
public enum Who
{
    /// <summary>Nobody.</summary>
    None = 0,

    /// <summary>The desk: the educator, at the machine itself.</summary>
    Desk = 1,

    /// <summary>The educator on another device.</summary>
    Educator = 2,

    /// <summary>A team.</summary>
    Team = 4,

    /// <summary>A judge.</summary>
    Judge = 8,

    /// <summary>Somebody in the room who has not joined.</summary>
    Stranger = 16,
}

/// <summary>Who asks, known once for each request and each call of the hub.</summary>
public sealed class Caller(Sight sight)
{
    /// <summary>Who it is; nobody until it is known.</summary>
    public Who Who { get; private set; }

    /// <summary>The device; null at the desk, and for somebody who has not joined.</summary>
    public RoomSession? Session { get; private set; }

    /// <summary>The team; null for others.</summary>
    public long? Team => Session?.Team;

    /// <summary>Tells sessions apart; the same for all at the desk.</summary>
    public string Key => Session is { } s ? $"s{s.Id}" : "desk";

    /// <summary>Sets who it is.</summary>
    public void Is(Who who, RoomSession? session)
    {
        (Who, Session) = (who, session);
        sight.Team = who == Who.Team ? session!.Team : null;
    }

    /// <summary>Who holds a session.</summary>
    public static Who Of(RoomRole role) =>
        role switch
        {
            RoomRole.Team => Who.Team,
            RoomRole.Educator => Who.Educator,
            _ => Who.Judge,
        };
}
