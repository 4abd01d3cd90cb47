using System.Net;
using System.Security.Cryptography;
using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Data;

namespace Chiton.Server.App.Room;

/// <summary>A room that is open.</summary>
/// <param name="Id">Key of the opening.</param>
/// <param name="Class">The class.</param>
/// <param name="Addresses">Where it is listened at.</param>
public sealed record OpenRoom(long Id, long Class, IReadOnlyList<IPAddress> Addresses);

/// <summary>The room: whether it is open, and who may come in. What must outlive a restart is kept in the database.</summary>
public sealed class RoomKeeper(IServiceScopeFactory scopes, Network network, TimeProvider clock, ILogger<RoomKeeper> log) : IHostedService
{
    /// <summary>How long a code for an educator's other device holds.</summary>
    public static readonly TimeSpan EducatorCodeHolds = TimeSpan.FromMinutes(2);

    /// <summary>How old an opening may be to be opened again after a restart: a lesson goes on, another day does not begin by
    /// itself.</summary>
    public static readonly TimeSpan GoesOn = TimeSpan.FromHours(4);

    private readonly Lock gate = new();
    private readonly SemaphoreSlim turning = new(1, 1);
    private CodeTries tries = CodeTries.None;
    private (string Code, DateTime UntilUtc)? educator;

    /// <summary>The room that is open; null when none is.</summary>
    public OpenRoom? Open { get; private set; }

    private DateTime Now => clock.GetUtcNow().UtcDateTime;

    /// <summary>Opens it.</summary>
    /// <param name="id">The class.</param>
    /// <param name="addresses">Where; empty for everywhere that others can reach this machine at.</param>
    /// <param name="store">Where it is kept.</param>
    /// <param name="cancel">Gives up before anything is listened at.</param>
    /// <exception cref="InputProblem">When it cannot be listened at one of them.</exception>
    public async Task OpenAt(long id, IReadOnlyList<string> addresses, RoomStore store, CancellationToken cancel)
    {
        var possible = network.Addresses();
        if (possible.Count == 0)
            throw new InputProblem(
                "addresses",
                network.Named is { } named
                    ? $"CHITON_LISTEN says “{named}”, which is no address that others could reach this machine by. Name its address on "
                        + "the network of the room, or leave it out."
                    : "This machine is on no network that others could reach it by. Join one first; teams can take turns at the desk "
                        + "meanwhile."
            );
        var chosen = addresses.Count == 0 ? possible : [.. addresses.Select(a => Chosen(a, possible)).Distinct()];
        await turning.WaitAsync(cancel);
        try
        {
            await network.Listen(chosen, Open?.Addresses ?? [], cancel);
            var row = await store.Open(id, chosen.Select(a => $"{a}"), cancel);
            lock (gate)
            {
                Open = new(row.Id, id, chosen);
                tries = CodeTries.None;
            }
        }
        catch
        {
            // What was open stays open.
            var still = Open?.Addresses ?? [];
            await network.Listen(still, still, CancellationToken.None);
            throw;
        }
        finally
        {
            turning.Release();
        }
    }

    private static IPAddress Chosen(string address, IReadOnlyList<IPAddress> possible) =>
        possible.FirstOrDefault(a => a.ToString() == address)
        ?? throw new InputProblem("addresses", $"{address} is none of this machine's: {string.Join(", ", possible)}.");

    /// <summary>Closes it: nobody else is let in, and whoever is there is cut off.</summary>
    public async Task Close(RoomStore store, CancellationToken cancel)
    {
        await turning.WaitAsync(cancel);
        try
        {
            await store.Close(cancel);
            lock (gate)
            {
                Open = null;
                educator = null;
            }
            await network.Listen([], [], CancellationToken.None);
        }
        finally
        {
            turning.Release();
        }
    }

    /// <summary>A code with which one educator's device joins, once, within two minutes.</summary>
    public (string Code, DateTime UntilUtc) EducatorCode()
    {
        var code = JoinCode.Make(JoinCode.Educator, RandomNumberGenerator.GetInt32, new HashSet<string>());
        lock (gate)
            educator = (code, Now + EducatorCodeHolds);
        return educator.Value;
    }

    /// <summary>Takes the educator's code, if it is the one and still holds; it is gone then.</summary>
    public bool TakeEducatorCode(string code)
    {
        lock (gate)
        {
            if (educator is not { } held || held.UntilUtc <= Now || !Same(held.Code, code))
                return false;
            educator = null;
            return true;
        }
    }

    /// <summary>Whether two codes are the same; it takes as long to find that they are not.</summary>
    public static bool Same(string a, string b) =>
        CryptographicOperations.FixedTimeEquals(System.Text.Encoding.UTF8.GetBytes(a), System.Text.Encoding.UTF8.GetBytes(b));

    /// <summary>Begins to try a code from an address. It counts as a wrong one until it turns out right, so that many at once are not all
    /// tried before the first has been found wrong.</summary>
    public TryVerdict Try(string address)
    {
        lock (gate)
        {
            var verdict = tries.May(address, Now);
            if (verdict == TryVerdict.Free)
                tries = tries.After(address, Now);
            return verdict;
        }
    }

    /// <summary>The code was right.</summary>
    public void Right(string address)
    {
        lock (gate)
            tries = tries.Right(address);
    }

    /// <summary>True when joining waits for the desk.</summary>
    public bool Locked
    {
        get
        {
            lock (gate)
                return tries.Locked;
        }
    }

    /// <summary>Wrong codes since it was let go on last.</summary>
    public int WrongCodes
    {
        get
        {
            lock (gate)
                return tries.InAll;
        }
    }

    /// <summary>Lets joining go on.</summary>
    public void LetJoin()
    {
        lock (gate)
            tries = CodeTries.None;
    }

    /// <summary>A lesson that was cut off by a restart goes on.</summary>
    public async Task StartAsync(CancellationToken cancellationToken)
    {
        await using var scope = scopes.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<RoomStore>();
        if (await store.Current(cancellationToken) is not { } row)
            return;
        if (Now - row.OpenedUtc > GoesOn)
        {
            await store.Close(cancellationToken);
            return;
        }
        // The web server begins after this; it is listened at once it has.
        _ = Task.Run(() => GoOn(row), CancellationToken.None);
    }

    private async Task GoOn(RoomRow row)
    {
        try
        {
            await turning.WaitAsync();
            try
            {
                for (var i = 0; i < 600 && !network.Ready; i++)
                    await Task.Delay(50);
                var possible = network.Addresses();
                IPAddress[] addresses = [.. row.Addresses.Split(',').Select(IPAddress.Parse).Where(a => possible.Contains(a))];
                if (addresses.Length == 0)
                    throw new InputProblem("addresses", "This machine is on none of the networks any more that the room was opened at.");
                await network.Listen(addresses, [], CancellationToken.None);
                lock (gate)
                    Open = new(row.Id, row.ClassId, addresses);
                Console.WriteLine(
                    $"The room is open again at {string.Join(" and ", addresses.Select(network.Url))}. Close it on the page Class."
                );
            }
            finally
            {
                turning.Release();
            }
        }
        catch (Exception e)
        {
            log.LogError(e, "The room could not be opened again.");
            await using var scope = scopes.CreateAsyncScope();
            await scope.ServiceProvider.GetRequiredService<RoomStore>().Close(CancellationToken.None);
        }
    }

    /// <inheritdoc/>
    public Task StopAsync(CancellationToken cancellationToken) => Task.CompletedTask;
}
