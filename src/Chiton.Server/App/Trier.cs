using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App.Room;
using Chiton.Server.Parts;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.App;

/// <summary>Runs the bench for the checks once edits pause, behind everything else, for the rig that is open.</summary>
public sealed class Trier(
    IServiceScopeFactory scopes,
    IHubContext<BenchHub, IBenchPage> hub,
    Jobs jobs,
    Owners owners,
    RoomTeller room,
    IConfiguration settings,
    ILogger<Trier> log
) : BackgroundService
{
    /// <summary>How long nothing is changed before it begins.</summary>
    public static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(1200);

    private readonly SemaphoreSlim signal = new(0);

    // It begins by itself, unless whoever starts the server wants it only where somebody presses for it.
    private readonly bool always = settings["CHITON_TRIES"] != "asked";
    private readonly Lock gate = new();
    private (string Rig, int Copy, CancellationTokenSource Stop)? current;
    private readonly HashSet<(string Rig, int Copy)> stopped = [];

    // What each wants next, and since when it was asked for or last changed, ms of the machine's clock; and who was served when. A team
    // that opens another rig gives up its own, and nobody else's.
    private readonly Dictionary<long, (string Rig, int Copy, long Since)> wanted = [];
    private readonly Dictionary<long, long> served = [];
    private long turn;

    /// <summary>A rig is open: its bench is run once edits pause.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="pressed">True where somebody asks for it in so many words.</param>
    public void Ask(string rig, int copy, bool pressed = false)
    {
        var owner = owners.Of(rig);
        lock (gate)
        {
            if (!pressed && (!always || stopped.Contains((rig, copy))))
                return;
            if (pressed)
                stopped.Remove((rig, copy));
            // Asking again for what runs, or waits, changes nothing: pages ask as often as they look.
            if (
                current is { Stop.IsCancellationRequested: false } now && (now.Rig, now.Copy) == (rig, copy)
                || wanted.TryGetValue(owner, out var waits) && (waits.Rig, waits.Copy) == (rig, copy)
            )
                return;
            // Another of its rigs is open now.
            if (current is { } running && owners.Of(running.Rig) == owner)
                running.Stop.Cancel();
            Want(owner, rig, copy);
        }
    }

    private void Want(long owner, string rig, int copy)
    {
        wanted[owner] = (rig, copy, Environment.TickCount64);
        signal.Release();
    }

    /// <summary>A rig was changed: what was begun is of no use any more.</summary>
    public void Changed(string rig)
    {
        var owner = owners.Of(rig);
        lock (gate)
        {
            if (wanted.TryGetValue(owner, out var waits) && waits.Rig == rig)
                wanted[owner] = waits with { Since = Environment.TickCount64 };
            if (current is not { } now || now.Rig != rig)
                return;
            now.Stop.Cancel();
            if (always)
                Want(owner, rig, now.Copy);
        }
    }

    /// <summary>Stops it, until somebody asks for it again.</summary>
    public void Stop(string rig, int copy)
    {
        lock (gate)
        {
            if (stopped.Count > 500)
                stopped.Clear();
            stopped.Add((rig, copy));
            if (current is { } now && (now.Rig, now.Copy) == (rig, copy))
                now.Stop.Cancel();
        }
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (true)
        {
            await signal.WaitAsync(stoppingToken);
            // While somebody changes things, theirs waits.
            (string Rig, int Copy)? next = null;
            while (next is null)
            {
                long left;
                lock (gate)
                {
                    if (wanted.Count == 0)
                        break;
                    long Left(long since) => since + (long)Pause.TotalMilliseconds - Environment.TickCount64;
                    left = wanted.Values.Min(w => Left(w.Since));
                    if (left <= 0)
                    {
                        var who = wanted
                            .Where(w => Left(w.Value.Since) <= 0)
                            .MinBy(w => (served.GetValueOrDefault(w.Key), w.Value.Since))
                            .Key;
                        next = (wanted[who].Rig, wanted[who].Copy);
                        wanted.Remove(who);
                        served[who] = ++turn;
                    }
                }
                if (next is null)
                    await Task.Delay(TimeSpan.FromMilliseconds(left), stoppingToken);
            }
            if (next is not { } asked)
                continue;
            using var stop = CancellationTokenSource.CreateLinkedTokenSource(stoppingToken);
            lock (gate)
            {
                if (stopped.Contains(asked))
                    continue;
                current = (asked.Rig, asked.Copy, stop);
            }
            try
            {
                await Try(asked.Rig, asked.Copy, stop.Token);
            }
            catch (OperationCanceledException)
            {
                // Something else is open, or it was changed.
            }
            catch (NotStored)
            {
                // It was deleted meanwhile.
            }
            catch (Exception e)
            {
                log.LogError(e, "The bench could not be tried for {Rig}, copy {Copy}.", asked.Rig, asked.Copy);
            }
            finally
            {
                lock (gate)
                    current = null;
            }
        }
    }

    private async Task Try(string rig, int copy, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<RigStore>();
        var state = await store.Load(rig, copy, null, stop);
        var trying = Trying.Begin(state.Stamp);
        if (trying.Settled || state.Parsed.Diagnostics.Count > 0 || Rates.Empty(state.Parsed))
            return;
        var guests = new Dictionary<string, GuestFinder?>();
        foreach (var scene in state.Scenes.Where(s => s.Diagnostics.Count == 0))
            guests[scene.Scene.Name] = await RunInput.Guests(store, state, scene.Scene, stop);
        void Told()
        {
            RigEndpoints.Forget();
            _ = hub.Clients.Group("rig:" + rig).Tried(rig, copy);
            room.Board();
        }
        await jobs.Run(
            WorkKind.Idle,
            null,
            null,
            cancel =>
            {
                trying.Go(state, guests, Told, cancel);
                return true;
            },
            stop,
            true
        );
        Told();
    }
}
