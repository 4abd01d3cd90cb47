using System.Threading.Channels;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Data;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Server.App;

/// <summary>Counts 100 runs in the background after every edit, for the gauge in the header.</summary>
public sealed class RateKeeper(
    IServiceScopeFactory scopes,
    IHubContext<BenchHub, IBenchPage> hub,
    Jobs jobs,
    Owners owners,
    RoomTeller room,
    ILogger<RateKeeper> log
) : BackgroundService
{
    /// <summary>Longest time a gauge may take: a slow program has no gauge, and holds up no other.</summary>
    public static readonly TimeSpan Most = TimeSpan.FromSeconds(20);

    private readonly Channel<(string Rig, int Copy, int? Revision)> queue = Channel.CreateBounded<(string, int, int?)>(
        new BoundedChannelOptions(256) { FullMode = BoundedChannelFullMode.DropOldest }
    );

    /// <summary>Asks for the rate of a copy; returns at once.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="revision">An earlier revision that ran on a table; null for the latest.</param>
    public void Ask(string rig, int copy, int? revision = null) => queue.Writer.TryWrite((rig, copy, revision));

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        // In turns, so that no team waits for another's; of what one asked for, the latest goes first: the open rig before a list of
        // others.
        var asked = new FairTurns<(string Rig, int Copy, int? Revision)>(a => owners.Of(a.Rig));
        while (asked.Count > 0 || await queue.Reader.WaitToReadAsync(stoppingToken))
        {
            while (queue.Reader.TryRead(out var next))
                asked.Add(next);
            if (asked.Count == 0)
                continue;
            var (rig, copy, revision) = asked.Take();
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                var store = scope.ServiceProvider.GetRequiredService<RigStore>();
                var state = await store.Load(rig, copy, revision, stoppingToken);
                // Also notes why a copy cannot run, so that lists need not ask again.
                if (state.Parsed.Diagnostics.Count == 0 && await Rates.Hindrance(state, store, stoppingToken) is null)
                    await Count(state, revision is null, store, stoppingToken);
                if (stoppingToken.IsCancellationRequested)
                    break;
                await hub.Clients.Group("rig:" + rig).Rate(rig, copy);
                room.Board();
            }
            catch (Exception e)
                when (e is NotStored or DbUpdateException { InnerException: Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 } })
            {
                // It was deleted meanwhile: there is nothing to keep a rate of.
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The rate of {Rig}, copy {Copy}, could not be counted.", rig, copy);
            }
        }
    }

    // Of every scene that counts, those that were not counted yet; the time is theirs together. Nobody who edits waits for one that ran
    // before: all of its runs are made.
    private async Task Count(RigState state, bool soon, RigStore store, CancellationToken stopping)
    {
        var scenes = new List<string>();
        foreach (var scene in state.Known.Counting)
            if (await store.Runs.BestProof(state, scene, stopping) is null)
                scenes.Add(scene);
        foreach (var name in scenes)
        {
            var scene = state.Scene(name);
            var bench = new PlanProved(state.Plan(scene, await RunInput.Guests(store, state, scene, stopping)));
            var done = await jobs.Run(
                WorkKind.Gauge,
                null,
                Most,
                stop =>
                {
                    var watch = System.Diagnostics.Stopwatch.StartNew();
                    return Gauge.Count(
                        bench,
                        () => soon && watch.ElapsedMilliseconds >= Gauge.Ms / scenes.Count,
                        stop,
                        TaskScheduler.Current
                    );
                },
                stopping,
                true
            );
            if (stopping.IsCancellationRequested)
                return;
            // Fewer runs than asked for are an honest, wider answer; none at all is no answer.
            if (done.Results.Count > 0)
                await store.Runs.KeepGauge(state, name, done, Prover.RangeOf(bench, done), stopping);
        }
    }
}
