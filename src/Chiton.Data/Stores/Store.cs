using System.Collections.Concurrent;
using Chiton.Core.Rigs;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Nothing of that name is stored.</summary>
public sealed class NotStored(string what) : Exception(what);

/// <summary>A team asked for what is not its own, whether it is there or not.</summary>
public sealed class NotYours() : Exception("This is not yours.");

/// <summary>Whose rigs can be seen: set once for a request, by whoever knows who asks.</summary>
public sealed class Sight
{
    /// <summary>The team that sees its own rigs alone; null where all can be seen, and those of the desk are listed.</summary>
    public long? Team { get; set; }
}

/// <summary>Someone else changed the same thing first. Nothing was written.</summary>
/// <param name="current">Number of the revision, or version of what was changed, that is current.</param>
/// <param name="what">What the other change was.</param>
public sealed class StaleEdit(int current, string what) : Exception($"This was changed meanwhile: {what}")
{
    /// <summary>What is current now.</summary>
    public int Current { get; } = current;

    /// <summary>What the other change was.</summary>
    public string What { get; } = what;
}

/// <summary>What every store shares: one writer at a time, the head of a rig, and the list of edits that undo goes back through.</summary>
public abstract class Store(ChitonDb db, TimeProvider clock)
{
    // One writer at a time: reading the head and writing the next revision cannot interleave, and writers wait here in order of
    // coming. SQLite itself has one writer too, but lets the others sleep and try again.
    private static readonly ConcurrentDictionary<string, SemaphoreSlim> Gates = new();

    /// <summary>The database.</summary>
    protected ChitonDb Db { get; } = db;

    /// <summary>The clock.</summary>
    protected TimeProvider Clock { get; } = clock;

    /// <summary>The time, UTC.</summary>
    protected DateTime Now => Clock.GetUtcNow().UtcDateTime;

    /// <summary>A time from the database, which does not say that it is UTC.</summary>
    protected static DateTime Utc(DateTime time) => DateTime.SpecifyKind(time, DateTimeKind.Utc);

    /// <summary>Does one write: a transaction that is on disk before this returns, or nothing at all.</summary>
    protected async Task<T> Write<T>(Func<Task<T>> work, CancellationToken cancel)
    {
        // A write within a write is part of it: all of it is kept, or nothing.
        if (Db.Database.CurrentTransaction is not null)
        {
            var inner = await work();
            await Db.SaveChangesAsync(cancel);
            return inner;
        }
        var gate = Gates.GetOrAdd(Db.Database.GetConnectionString() ?? "", _ => new(1, 1));
        await gate.WaitAsync(cancel);
        try
        {
            await using var transaction = await Db.Database.BeginTransactionAsync(System.Data.IsolationLevel.Serializable, cancel);
            var result = await work();
            await Db.SaveChangesAsync(cancel);
            // Once the commit is under way it is not given up: the answer must say what is on disk.
            await transaction.CommitAsync(CancellationToken.None);
            return result;
        }
        finally
        {
            Db.ChangeTracker.Clear();
            gate.Release();
        }
    }

    /// <summary>Does what no transaction may hold, while nobody writes.</summary>
    protected async Task Alone(Func<Task> work)
    {
        var gate = Gates.GetOrAdd(Db.Database.GetConnectionString() ?? "", _ => new(1, 1));
        await gate.WaitAsync(CancellationToken.None);
        try
        {
            await work();
        }
        finally
        {
            gate.Release();
        }
    }

    /// <summary>A rig with its current revision, to be changed.</summary>
    /// <exception cref="NotStored">When there is no such rig.</exception>
    protected async Task<(RigRow, RevisionRow)> Head(string id, CancellationToken cancel)
    {
        var rig = await Db.Rigs.FirstOrDefaultAsync(r => r.Id == id, cancel) ?? throw new NotStored($"There is no rig “{id}”.");
        return (rig, await Db.Revisions.FirstAsync(r => r.RigId == id && r.Number == rig.HeadRevision, cancel));
    }

    /// <summary>Writes the next revision of a rig as an edit that can be undone.</summary>
    protected async Task<int> Revise(RigRow rig, RigDesign next, string what, CancellationToken cancel)
    {
        var before = rig.HeadRevision;
        AddRevision(rig, Documents.Write(next), what);
        await AddEdit(rig.Id, what, "design", before, rig.HeadRevision, cancel);
        return rig.HeadRevision;
    }

    /// <summary>Writes the next revision of a rig.</summary>
    protected void AddRevision(RigRow rig, string document, string what)
    {
        Db.Revisions.Add(
            new()
            {
                RigId = rig.Id,
                Number = rig.HeadRevision + 1,
                Parent = rig.HeadRevision,
                Hash = Documents.Hash(document),
                TimeUtc = Now,
                What = what,
                Document = document,
            }
        );
        rig.HeadRevision++;
    }

    /// <summary>The latest change of a rig.</summary>
    protected Task<ChangeRow?> LastChange(string id, CancellationToken cancel) =>
        Db.Changes.AsNoTracking().Where(c => c.RigId == id).OrderByDescending(c => c.Id).FirstOrDefaultAsync(cancel);

    /// <summary>Writes down an edit, for undo.</summary>
    protected async Task AddEdit(string id, string what, string target, long before, long after, CancellationToken cancel)
    {
        var last = await LastChange(id, cancel);
        var row = new ChangeRow
        {
            RigId = id,
            TimeUtc = Now,
            What = what,
            Target = target,
            Before = before,
            After = after,
            Below = last?.UndoNext ?? 0,
            RedoStack = "",
        };
        Db.Changes.Add(row);
        await Db.SaveChangesAsync(cancel);
        row.Edit = row.UndoNext = row.Id;
    }

    /// <summary>The current revision's design, to be changed, when it is still the one that was looked at.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    /// <exception cref="NotStored">When there is no such rig.</exception>
    protected async Task<(RigRow Rig, RigDesign Design)> Based(string id, int baseRevision, CancellationToken cancel)
    {
        if (baseRevision <= 0)
            throw new Core.Quantities.InputProblem("baseRevision", "Say on which revision this edit was made, a whole number from 1.");
        var (rig, head) = await Head(id, cancel);
        return rig.HeadRevision == baseRevision ? (rig, Designs.Read(head.Document)) : throw new StaleEdit(rig.HeadRevision, head.What);
    }

    /// <summary>A list of keys as it is kept.</summary>
    protected static long[] Ids(string list) => list == "" ? [] : [.. list.Split(',').Select(long.Parse)];

    /// <summary>Keys as they are kept.</summary>
    protected static string List(IEnumerable<long> ids) => string.Join(',', ids);
}
