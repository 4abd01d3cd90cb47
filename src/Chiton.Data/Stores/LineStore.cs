using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Where real copies are joined to, and the runs that were seen there.</summary>
public sealed class LineStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most runs of a copy that wait for a word; the oldest are taken for none.</summary>
    public const int MostWaiting = 200;

    /// <summary>All that are joined.</summary>
    public async Task<IReadOnlyList<LineRow>> All(CancellationToken cancel) =>
        await Db.Lines.AsNoTracking().OrderBy(l => l.TimeUtc).ToListAsync(cancel);

    /// <summary>Joins a real copy.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="to">A port by its system name, or an address and its port.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<bool> Join(string id, int copy, string to, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Db.Lines.FirstOrDefaultAsync(l => l.RigId == id && l.Copy == copy, cancel);
                if (row is null)
                    Db.Lines.Add(
                        new()
                        {
                            RigId = id,
                            Copy = copy,
                            To = to,
                            TimeUtc = Now,
                        }
                    );
                else
                    (row.To, row.TimeUtc) = (to, Now);
                return true;
            },
            cancel
        );

    /// <summary>Takes a copy off its line.</summary>
    /// <returns>False where it was on none.</returns>
    public Task<bool> Leave(string id, int copy, CancellationToken cancel) =>
        Write(async () => await Db.Lines.Where(l => l.RigId == id && l.Copy == copy).ExecuteDeleteAsync(cancel) > 0, cancel);

    /// <summary>Keeps a run that was seen.</summary>
    public Task<bool> Keep(LineRunRow run, CancellationToken cancel) =>
        Write(
            async () =>
            {
                run.TimeUtc = Now;
                Db.LineRuns.Add(run);
                await Db.SaveChangesAsync(cancel);
                // A machine that runs by itself for days must not fill a table that nobody looks at.
                var old = await Waiting(run.RigId, run.Copy)
                    .OrderByDescending(r => r.Id)
                    .Skip(MostWaiting)
                    .Select(r => r.Id)
                    .ToListAsync(cancel);
                if (old.Count > 0)
                    await Db.LineRuns.Where(r => old.Contains(r.Id)).ExecuteUpdateAsync(s => s.SetProperty(r => r.Dropped, true), cancel);
                return true;
            },
            cancel
        );

    private IQueryable<LineRunRow> Waiting(string id, int copy) =>
        Db.LineRuns.Where(r => r.RigId == id && r.Copy == copy && !r.Dropped && !Db.Log.Any(l => l.RigId == id && l.Key == r.Key));

    /// <summary>Runs of which nobody has said yet whether they passed, the oldest first.</summary>
    public async Task<IReadOnlyList<LineRunRow>> WaitingOf(string id, int copy, CancellationToken cancel) =>
        await Waiting(id, copy).AsNoTracking().OrderBy(r => r.Id).ToListAsync(cancel);

    /// <summary>Keys of runs that were seen over a line, those that are in the log too.</summary>
    public async Task<IReadOnlyDictionary<string, LineRunRow>> Seen(string id, int copy, CancellationToken cancel) =>
        await Db.LineRuns.AsNoTracking().Where(r => r.RigId == id && r.Copy == copy).ToDictionaryAsync(r => r.Key, cancel);

    /// <summary>Says that something was no run.</summary>
    /// <exception cref="NotStored">When there is no such run.</exception>
    public Task<bool> Drop(string id, string key, CancellationToken cancel) =>
        Write(
            async () =>
                await Db
                    .LineRuns.Where(r => r.RigId == id && r.Key == key)
                    .ExecuteUpdateAsync(s => s.SetProperty(r => r.Dropped, true), cancel) > 0
                    ? true
                    : throw new NotStored("There is no such run."),
            cancel
        );

    /// <summary>Notes what the controller of a copy says that it runs.</summary>
    /// <param name="state">The copy as it is now.</param>
    /// <param name="said">What it says.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>True when that was not known before.</returns>
    public Task<bool> Holds(RigState state, string said, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var held = BoxHolding.Read(said);
                var same = held == BoxHolding.Of(state.Revision, state.ToSend);
                // A revision that was never here is none of this rig's.
                int? revision = held is { } h && h.Revision <= state.Revision ? h.Revision : null;
                var hash = same ? state.ToSend : said;
                var unit = await Db.Units.FirstAsync(u => u.Id == state.Unit.Id, cancel);
                if (unit.Kind != UnitKind.Real || unit.HeldRig == state.Id && unit.HeldRevision == revision && unit.HeldHash == hash)
                    return false;
                (unit.HeldRig, unit.HeldRevision, unit.HeldHash, unit.HeldUtc, unit.HeldCalibrations) = (state.Id, revision, hash, Now, "");
                if (same)
                    Db.Sends.Add(
                        new()
                        {
                            RigId = state.Id,
                            Copy = state.Copy,
                            UnitId = unit.Id,
                            Revision = state.Revision,
                            Hash = state.ToSend,
                            TimeUtc = Now,
                        }
                    );
                return true;
            },
            cancel
        );
}
