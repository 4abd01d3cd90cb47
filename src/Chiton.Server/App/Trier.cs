using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.Parts;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.App;

/// <summary>Runs the bench for the checks once edits pause, behind everything else, for the rig that is open.</summary>
public sealed class Trier(
    IServiceScopeFactory scopes,
    IHubContext<BenchHub, IBenchPage> hub,
    Jobs jobs,
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
    private (string Rig, int Copy)? stopped;

    // What is to be run next, and when it was first asked for or last changed, ms of the machine's clock.
    private (string Rig, int Copy)? wanted;
    private long since;

    /// <summary>A rig is open: its bench is run once edits pause.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="pressed">True where somebody asks for it in so many words.</param>
    public void Ask(string rig, int copy, bool pressed = false)
    {
        lock (gate)
        {
            if (!pressed && (!always || stopped == (rig, copy)))
                return;
            if (pressed)
                stopped = null;
            // Asking again for what runs, or waits, changes nothing: pages ask as often as they look.
            if (current is { Stop.IsCancellationRequested: false } now && (now.Rig, now.Copy) == (rig, copy) || wanted == (rig, copy))
                return;
            // Another rig is open now.
            current?.Stop.Cancel();
            Want(rig, copy);
        }
    }

    private void Want(string rig, int copy)
    {
        (wanted, since) = ((rig, copy), Environment.TickCount64);
        signal.Release();
    }

    /// <summary>A rig was changed: what was begun is of no use any more.</summary>
    public void Changed(string rig)
    {
        lock (gate)
        {
            if (wanted is { } waits && waits.Rig == rig)
                since = Environment.TickCount64;
            if (current is not { } now || now.Rig != rig)
                return;
            now.Stop.Cancel();
            if (always)
                Want(rig, now.Copy);
        }
    }

    /// <summary>Stops it, until somebody asks for it again.</summary>
    public void Stop(string rig, int copy)
    {
        lock (gate)
        {
            stopped = (rig, copy);
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
            // While somebody changes things, it waits.
            (string Rig, int Copy) asked;
            while (true)
            {
                long left;
                lock (gate)
                {
                    if (wanted is not { } next)
                    {
                        asked = ("", 0);
                        break;
                    }
                    asked = next;
                    left = since + (long)Pause.TotalMilliseconds - Environment.TickCount64;
                    if (left <= 0)
                    {
                        wanted = null;
                        break;
                    }
                }
                await Task.Delay(TimeSpan.FromMilliseconds(left), stoppingToken);
            }
            if (asked.Rig == "")
                continue;
            using var stop = CancellationTokenSource.CreateLinkedTokenSource(stoppingToken);
            lock (gate)
            {
                if (stopped == asked)
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
            guests[scene.Scene.Name] = await RunInput.Guests(store, scene.Scene, stop);
        void Told()
        {
            RigEndpoints.Forget();
            _ = hub.Clients.Group("rig:" + rig).Tried(rig, copy);
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
