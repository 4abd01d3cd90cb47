using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Chiton.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Lines;

/// <summary>What is kept of lines: where copies are joined, runs that wait for a word, and what a controller says that it runs.</summary>
public class LineStoreTests
{
    private const string Rig = "seed-trolley";

    private static (RigStore Store, ChitonDb Db, IServiceScope Scope) Open(Bench bench)
    {
        var scope = bench.Server.Services.CreateScope();
        return (scope.ServiceProvider.GetRequiredService<RigStore>(), scope.ServiceProvider.GetRequiredService<ChitonDb>(), scope);
    }

    private static LineRunRow Run(string key, int copy) =>
        new()
        {
            Key = key,
            RigId = Rig,
            Copy = copy,
            Seconds = 5.5,
            EndedIn = "Main.Stopping",
            Whole = true,
            Revision = 2,
        };

    [Fact]
    public async Task A_copy_is_joined_to_one_place_and_the_last_one_that_was_named_counts()
    {
        using var bench = new Bench();
        var (store, _, scope) = Open(bench);
        using var __ = scope;
        Assert.Empty(await store.Lines.All(default));
        await store.Lines.Join(Rig, 3, "127.0.0.1:9", default);
        await store.Lines.Join("rack-hoist", 1, "127.0.0.1:10", default);
        await store.Lines.Join(Rig, 3, "127.0.0.1:11", default);
        Assert.Equal(
            [("rack-hoist", 1, "127.0.0.1:10"), (Rig, 3, "127.0.0.1:11")],
            (await store.Lines.All(default)).Select(l => (l.RigId, l.Copy, l.To))
        );
        Assert.False(await store.Lines.Leave(Rig, 2, default));
        Assert.True(await store.Lines.Leave(Rig, 3, default));
        Assert.False(await store.Lines.Leave(Rig, 3, default));
        Assert.Equal(["rack-hoist"], (await store.Lines.All(default)).Select(l => l.RigId));
    }

    [Fact]
    public async Task At_most_two_hundred_runs_of_a_copy_wait_and_the_oldest_are_taken_for_none()
    {
        using var bench = new Bench();
        var (store, db, scope) = Open(bench);
        using var _ = scope;
        await store.Lines.Keep(Run("other", 1), default);
        for (var i = 1; i <= LineStore.MostWaiting + 2; i++)
            await store.Lines.Keep(Run($"the-run-{i}", 3), default);
        // Two too many: the first two are none, and nothing is lost of another copy.
        var waiting = await store.Lines.WaitingOf(Rig, 3, default);
        Assert.Equal(Enumerable.Range(3, LineStore.MostWaiting).Select(i => $"the-run-{i}"), waiting.Select(r => r.Key));
        Assert.Equal("other", Assert.Single(await store.Lines.WaitingOf(Rig, 1, default)).Key);
        Assert.Equal(2, await db.LineRuns.CountAsync(r => r.Dropped));
        // One that is in the log waits no more, makes room for another, and is still known for one that was seen.
        await bench.Post(
            $"/api/rigs/{Rig}/log/lines",
            new
            {
                copy = 3,
                lines = new[]
                {
                    new
                    {
                        key = "the-run-3",
                        revision = 2,
                        passed = true,
                        timeUtc = DateTime.UtcNow,
                        timeS = 5.5,
                    },
                },
            }
        );
        await store.Lines.Keep(Run("late", 3), default);
        waiting = await store.Lines.WaitingOf(Rig, 3, default);
        Assert.Equal(("the-run-4", "late", LineStore.MostWaiting), (waiting[0].Key, waiting[^1].Key, waiting.Count));
        Assert.Contains("the-run-3", (await store.Lines.Seen(Rig, 3, default)).Keys);
        Assert.Equal(2, await db.LineRuns.CountAsync(r => r.Dropped));
        // What was none is none; what never was is said.
        await store.Lines.Drop(Rig, "the-run-9", default);
        Assert.DoesNotContain(await store.Lines.WaitingOf(Rig, 3, default), r => r.Key == "the-run-9");
        await Assert.ThrowsAsync<NotStored>(() => store.Lines.Drop(Rig, "never", default));
        await Assert.ThrowsAsync<NotStored>(() => store.Lines.Drop("rack-hoist", "the-run-10", default));
    }

    [Fact]
    public async Task What_a_controller_says_that_it_runs_is_noted_once_and_only_of_a_real_one()
    {
        using var bench = new Bench();
        var copy = await BoxOnTable.Real(bench, Rig);
        var (store, db, scope) = Open(bench);
        using var _ = scope;
        var state = await store.Load(Rig, copy, null, default);
        var sends = await db.Sends.CountAsync();
        async Task<(bool New, string? Rig, int? Revision, string? Hash)> Says(string said)
        {
            var known = await store.Lines.Holds(state, said, default);
            var unit = await db.Units.AsNoTracking().SingleAsync(u => u.Id == state.Unit.Id);
            return (known, unit.HeldRig, unit.HeldRevision, unit.HeldHash);
        }
        // What is here: its whole hash is known, and it counts as sent.
        var here = BoxHolding.Of(state.Revision, state.ToSend).ToString();
        var before = await db.Units.AsNoTracking().SingleAsync(u => u.Id == state.Unit.Id);
        Assert.Equal((before.HeldHash != state.ToSend, Rig, state.Revision, state.ToSend), await Says(here));
        var sent = await db.Sends.CountAsync();
        Assert.InRange(sent - sends, 0, 1);
        Assert.Equal((false, Rig, state.Revision, state.ToSend), await Says(here));
        // An earlier one with numbers that are not known any more.
        Assert.Equal((true, Rig, 1, "1-0123456789ab"), await Says("1-0123456789ab"));
        Assert.Equal((false, Rig, 1, "1-0123456789ab"), await Says("1-0123456789ab"));
        // One that was never here, and what was never given out, are of no revision.
        var ahead = $"{state.Revision + 1}-0123456789ab";
        Assert.Equal((true, Rig, null, ahead), await Says(ahead));
        Assert.Equal((true, Rig, null, "something else"), await Says("something else"));
        Assert.Equal(sent, await db.Sends.CountAsync());
        // Back to what is here: sent anew.
        Assert.Equal((true, Rig, state.Revision, state.ToSend), await Says(here));
        Assert.Equal(sent + 1, await db.Sends.CountAsync());
        // A stand-in in here has no controller that could say anything.
        var standIn = await store.Load(Rig, 1, null, default);
        Assert.Equal(UnitKind.StandIn, standIn.Unit.Kind);
        Assert.False(await store.Lines.Holds(standIn, BoxHolding.Of(standIn.Revision, standIn.ToSend).ToString(), default));
        Assert.NotEqual(standIn.ToSend, (await db.Units.AsNoTracking().SingleAsync(u => u.Id == standIn.Unit.Id)).HeldHash);
    }
}
