using System.Security.Cryptography;
using Chiton.Core.Quantities;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A device in the room, as it is known by what it holds.</summary>
/// <param name="Id">Key of the session.</param>
/// <param name="Class">The class.</param>
/// <param name="Role">Who it is.</param>
/// <param name="Team">Its team; null for others.</param>
/// <param name="UntilUtc">When it ends.</param>
public sealed record RoomSession(long Id, long Class, RoomRole Role, long? Team, DateTime UntilUtc);

/// <summary>Openings of rooms, and the devices in them.</summary>
public sealed class RoomStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>How long a device stays joined.</summary>
    public static readonly TimeSpan Stay = TimeSpan.FromDays(1);

    /// <summary>The room that is open; null when none is.</summary>
    public Task<RoomRow?> Current(CancellationToken cancel) =>
        Db.Rooms.AsNoTracking().Where(r => r.ClosedUtc == null).OrderByDescending(r => r.Id).FirstOrDefaultAsync(cancel);

    /// <summary>Opens the room of a class; another one is closed.</summary>
    /// <param name="id">The class.</param>
    /// <param name="addresses">Addresses that it is opened at.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<RoomRow> Open(long id, IEnumerable<string> addresses, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var classes = new ClassStore(Db, Clock);
                await classes.Class(id, cancel);
                await CloseAll(cancel);
                var join = await classes.FreeCode(cancel);
                var judge = join;
                while (judge == join)
                    judge = await classes.FreeCode(cancel);
                var row = new RoomRow
                {
                    ClassId = id,
                    OpenedUtc = Now,
                    Addresses = string.Join(',', addresses),
                    JoinCode = join,
                    JudgeCode = judge,
                };
                Db.Rooms.Add(row);
                await Db.SaveChangesAsync(cancel);
                return row;
            },
            cancel
        );

    /// <summary>Closes the room. Who joined stays joined for the day, should it be opened again.</summary>
    public Task Close(CancellationToken cancel) =>
        Write(
            async () =>
            {
                await CloseAll(cancel);
                return 0;
            },
            cancel
        );

    private async Task CloseAll(CancellationToken cancel)
    {
        foreach (var open in await Db.Rooms.Where(r => r.ClosedUtc == null).ToListAsync(cancel))
            open.ClosedUtc = Now;
        await Db.SaveChangesAsync(cancel);
    }

    /// <summary>Changes the room that is open.</summary>
    /// <exception cref="NotStored">When none is.</exception>
    public Task<RoomRow> Change(Action<RoomRow> change, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Rooms.Where(r => r.ClosedUtc == null).OrderByDescending(r => r.Id).FirstOrDefaultAsync(cancel)
                    ?? throw new NotStored("The room is closed.");
                change(row);
                return row;
            },
            cancel
        );

    /// <summary>Joins a device.</summary>
    /// <param name="id">The class.</param>
    /// <param name="role">Who it is.</param>
    /// <param name="team">Its team; null for others.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>What the device holds from now on: it is kept here as its hash alone.</returns>
    public Task<(string Token, RoomSession Session)> Join(long id, RoomRole role, long? team, CancellationToken cancel) =>
        Write(
            async () =>
            {
                await Db.Sessions.Where(s => s.UntilUtc < Now).ExecuteDeleteAsync(cancel);
                // 128 bits that nobody guesses.
                var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
                var row = new SessionRow
                {
                    ClassId = id,
                    Role = role,
                    TeamId = team,
                    Hash = Documents.Hash(token),
                    UntilUtc = Now + Stay,
                };
                Db.Sessions.Add(row);
                await Db.SaveChangesAsync(cancel);
                return (token, Session(row));
            },
            cancel
        );

    /// <summary>The device that holds a token; null when nobody does, or its day is over.</summary>
    public async Task<RoomSession?> Find(string token, CancellationToken cancel)
    {
        var hash = Documents.Hash(token);
        var row = await Db.Sessions.AsNoTracking().FirstOrDefaultAsync(s => s.Hash == hash, cancel);
        return row is null || row.UntilUtc <= Now ? null : Session(row);
    }

    /// <summary>Lets a device go.</summary>
    public Task Leave(long session, CancellationToken cancel) =>
        Write(() => Db.Sessions.Where(s => s.Id == session).ExecuteDeleteAsync(cancel), cancel);

    /// <summary>How many devices each team has in the room.</summary>
    public Task<Dictionary<long, int>> Devices(long id, CancellationToken cancel)
    {
        var now = Now;
        return Db
            .Sessions.AsNoTracking()
            .Where(s => s.ClassId == id && s.TeamId != null && s.UntilUtc > now)
            .GroupBy(s => s.TeamId!.Value)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
    }

    private static RoomSession Session(SessionRow row) =>
        new(row.Id, row.ClassId, row.Role, row.TeamId, DateTime.SpecifyKind(row.UntilUtc, DateTimeKind.Utc));
}
