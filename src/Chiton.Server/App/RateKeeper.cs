using System.Threading.Channels;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Data;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.App;

/// <summary>Counts 100 runs in the background after every edit, for the gauge in the header.</summary>
public sealed class RateKeeper(IServiceScopeFactory scopes, IHubContext<BenchHub, IBenchPage> hub, ILogger<RateKeeper> log) : BackgroundService
{
    /// <summary>Runs of the light version.</summary>
    public const int Runs = 100;

    private readonly Channel<(string Rig, int Copy)> queue = Channel.CreateBounded<(string, int)>(new BoundedChannelOptions(256) { FullMode = BoundedChannelFullMode.DropOldest });

    /// <summary>Asks for the rate of a copy; returns at once.</summary>
    public void Ask(string rig, int copy) => queue.Writer.TryWrite((rig, copy));

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var (rig, copy) in queue.Reader.ReadAllAsync(stoppingToken))
        {
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                var store = scope.ServiceProvider.GetRequiredService<RigStore>();
                var state = await store.Load(rig, copy, null, null, stoppingToken);
                if (state.Parsed.Diagnostics.Count > 0 || await store.BestProof(state, stoppingToken) is not null)
                {
                    await hub.Clients.Group("rig:" + rig).Rate(rig, copy);
                    continue;
                }
                var proof = Prover.Run(state.Setup(), Runs, 1, cancel: stoppingToken);
                if (stoppingToken.IsCancellationRequested) break;
                await store.KeepProof(state, proof, 1, true, stoppingToken);
                await hub.Clients.Group("rig:" + rig).Rate(rig, copy);
            }
            catch (InputProblem)
            {
                // A copy without zones has no rate; the header says so from the rig itself.
                await hub.Clients.Group("rig:" + rig).Rate(rig, copy);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The rate of {Rig}, copy {Copy}, could not be counted.", rig, copy);
            }
        }
    }
}
