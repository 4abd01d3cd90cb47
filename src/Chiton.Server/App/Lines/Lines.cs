using System.Collections.Concurrent;
using System.Threading.Channels;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.App.Lines;

/// <summary>
/// All lines to real things. A copy that was joined is joined again after a restart. Only what a person at the desk named is ever
/// opened.
/// </summary>
public sealed class Lines(
    IServiceScopeFactory scopes,
    IHubContext<BenchHub, IBenchPage> hub,
    SerialPorts ports,
    RateKeeper keeper,
    ILogger<Lines> log
) : BackgroundService
{
    private readonly ConcurrentDictionary<(string Rig, int Copy), Line> lines = new();
    private readonly SemaphoreSlim turning = new(1, 1);

    // What happened on lines, to be kept and told: it must not hold up those who read.
    private readonly Channel<(string Rig, int Copy, Line Line, BoxRun? Run)> happened = Channel.CreateUnbounded<(
        string,
        int,
        Line,
        BoxRun?
    )>();

    // What was told last and has not been kept as a trial yet, by rig, copy and motion.
    private readonly ConcurrentDictionary<(string Rig, int Copy, string Key), (double Asked, double Commanded, TrialTold Told)> told =
        new();

    /// <summary>Remembers what was told until its trial is kept.</summary>
    public void Remember(string rig, int copy, string key, double asked, double commanded, TrialTold was)
    {
        if (told.Count > 1000)
            told.Clear();
        told[(rig, copy, key)] = (asked, commanded, was);
    }

    /// <summary>What was told for a trial that is being kept, once; null where nothing was.</summary>
    public TrialTold? TakeTold(string rig, int copy, string key, double asked, double commanded) =>
        told.TryGetValue((rig, copy, key), out var was)
        && was.Asked == asked
        && was.Commanded == commanded
        && told.TryRemove((rig, copy, key), out _)
            ? was.Told
            : null;

    /// <summary>The line of a copy; null where it is on none.</summary>
    public Line? Of(string rig, int copy) => lines.GetValueOrDefault((rig, copy));

    /// <summary>The line of a copy on which somebody answers.</summary>
    /// <exception cref="InputProblem">When it is on none, or the plug is out.</exception>
    public Line Joined(RigState state)
    {
        if (Of(state.Id, state.Copy) is not { } line)
            throw new InputProblem("copy", $"Copy {state.Copy} is on no line. Join it at the desk: Rig, Line.");
        return line.IsJoined
            ? line
            : throw new InputProblem("copy", $"The line of copy {state.Copy} is out: {line.Now.Say} It joins again by itself.");
    }

    /// <summary>Joins a copy.</summary>
    /// <param name="state">The copy, a real one.</param>
    /// <param name="to">A serial port, or an address and its port, as it was typed.</param>
    /// <param name="store">Where it is kept.</param>
    /// <param name="cancel">Gives up before anything is opened.</param>
    /// <exception cref="InputProblem">When the copy is a stand-in, or that is no line.</exception>
    public async Task Join(RigState state, string? to, RigStore store, CancellationToken cancel)
    {
        if (state.Unit.Kind != UnitKind.Real)
            throw new InputProblem("copy", $"Copy {state.Copy} is a stand-in: it has no plug. Add a copy that is on a table.");
        if (state.AsksKind)
            throw new InputProblem("copy", $"Say first under Copies whether copy {state.Copy} is on a table or a stand-in.");
        var way = LineWay.Read(to, ports);
        await turning.WaitAsync(cancel);
        try
        {
            if (
                lines.FirstOrDefault(l => l.Value.Now.To == way.ToString()) is { Value: not null } other
                && other.Key != (state.Id, state.Copy)
            )
                throw new InputProblem("to", $"{way} is joined to copy {other.Key.Copy} of {other.Key.Rig} already. Let that go first.");
            await store.Lines.Join(state.Id, state.Copy, way.ToString(), cancel);
            await Drop(state.Id, state.Copy);
            Begin(state, way);
        }
        finally
        {
            turning.Release();
        }
        await hub.Clients.Group("rig:" + state.Id).Line(state.Id, state.Copy);
    }

    /// <summary>Lets the line of a copy go.</summary>
    public async Task Leave(string rig, int copy, RigStore store, CancellationToken cancel)
    {
        await turning.WaitAsync(cancel);
        try
        {
            await store.Lines.Leave(rig, copy, cancel);
            await Drop(rig, copy);
        }
        finally
        {
            turning.Release();
        }
        await hub.Clients.Group("rig:" + rig).Line(rig, copy);
    }

    private async Task Drop(string rig, int copy)
    {
        if (lines.TryRemove((rig, copy), out var line))
            await line.DisposeAsync();
    }

    private void Begin(RigState state, LineWay way)
    {
        var (rig, copy) = (state.Id, state.Copy);
        lines[(rig, copy)] = new(
            way,
            ports,
            state.Design,
            state.Revision,
            line => happened.Writer.TryWrite((rig, copy, line, null)),
            (line, run) => happened.Writer.TryWrite((rig, copy, line, run))
        );
    }

    /// <summary>A rig was changed: its lines are judged by what it is now.</summary>
    public void Changed(string rig)
    {
        foreach (var (key, line) in lines)
            if (key.Rig == rig)
                happened.Writer.TryWrite((rig, key.Copy, line, null));
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await JoinAll(stoppingToken);
        await foreach (var (rig, copy, line, run) in happened.Reader.ReadAllAsync(stoppingToken))
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                var store = scope.ServiceProvider.GetRequiredService<RigStore>();
                var state = await store.Load(rig, copy, null, stoppingToken);
                line.Of(state.Design, state.Revision);
                if (line.IsJoined && line.Look((w, _) => w.Holds) is { } said && await store.Lines.Holds(state, said, stoppingToken))
                    await hub.Clients.Group("rig:" + rig).Rate(rig, copy);
                if (run is not null)
                    await Keep(state, line, run, store, stoppingToken);
                await hub.Clients.Group("rig:" + rig).Line(rig, copy);
            }
            catch (NotStored)
            {
                // It was deleted meanwhile: nobody needs its line any more.
                await Drop(rig, copy);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // Whatever it is, the other lines go on.
                log.LogError(e, "What happened on the line of {Rig}, copy {Copy}, could not be kept.", rig, copy);
            }
    }

    private async Task JoinAll(CancellationToken stopping)
    {
        await using var scope = scopes.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<RigStore>();
        foreach (var row in await store.Lines.All(stopping))
            try
            {
                // A port that is not plugged in now may be later: it was one when it was named.
                Begin(await store.Load(row.RigId, row.Copy, null, stopping), LineWay.Kept(row.To));
            }
            catch (Exception e) when (e is NotStored or InputProblem)
            {
                log.LogWarning("The line of {Rig}, copy {Copy}, is not joined again: {Why}", row.RigId, row.Copy, e.Message);
            }
    }

    private async Task Keep(RigState state, Line line, BoxRun run, RigStore store, CancellationToken cancel)
    {
        var (said, box) = line.Look((w, _) => (w.Holds, w.Hello?.StandIn == true));
        var (same, say) = BoxHolding.Against(said, BoxHolding.Of(state.Revision, state.ToSend));
        var revision = said is null ? null : BoxHolding.Read(said)?.Revision;
        await store.Lines.Keep(
            new()
            {
                Key = $"line-{Guid.NewGuid():N}",
                RigId = state.Id,
                Copy = state.Copy,
                Seconds = Math.Round(run.Seconds, 3),
                EndedIn = run.EndedIn,
                Happened = string.Join(", ", run.Happened),
                Whole = run.Whole,
                Revision = revision is { } r && r <= state.Revision ? r : state.ControllerRevision ?? state.Revision,
                Holding = same == true ? "" : say,
                FromBox = box,
            },
            cancel
        );
        // Pages that show the log look again.
        await hub.Clients.Group("rig:" + state.Id).Rate(state.Id, state.Copy);
        keeper.Ask(state.Id, state.Copy);
    }

    /// <inheritdoc/>
    public override async Task StopAsync(CancellationToken cancellationToken)
    {
        foreach (var key in lines.Keys)
            await Drop(key.Rig, key.Copy);
        await base.StopAsync(cancellationToken);
    }
}
