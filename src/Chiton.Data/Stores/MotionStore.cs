using Chiton.Core.Motion;
using Chiton.Core.Sensing;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Trials of motions with the numbers accepted from them, and positions found by hand, version by version.</summary>
public sealed class MotionStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Trials and accepted numbers of versions of motions, by the key of the motion.</summary>
    public async Task<(IReadOnlyDictionary<string, IReadOnlyList<Trial>> Trials, IReadOnlyDictionary<string, AcceptedNumber> Accepted)> Of(
        IReadOnlyList<MotionRow> motions,
        CancellationToken cancel
    )
    {
        if (motions.Count == 0)
            return (new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>());
        var ids = motions.SelectMany(m => Ids(m.Trials)).ToArray();
        var trials = await Db
            .Trials.AsNoTracking()
            .Where(t => ids.Contains(t.Id))
            .ToDictionaryAsync(
                t => t.Id,
                t => new Trial(t.Asked, t.Commanded, t.Measured)
                {
                    Told = t.Told,
                    FromBox = t.Origin == ReadingOrigin.Box || t.Told.EndsWith(TrialRow.ByBox, StringComparison.Ordinal),
                },
                cancel
            );
        var keys = motions.Select(m => m.Accepted).OfType<long>().ToArray();
        var accepted = await Db.Accepted.AsNoTracking().Where(a => keys.Contains(a.Id)).ToDictionaryAsync(a => a.Id, cancel);
        return (
            motions.ToDictionary(m => m.Motion, IReadOnlyList<Trial> (m) => [.. Ids(m.Trials).Select(i => trials[i])]),
            motions.Where(m => m.Accepted is not null).ToDictionary(m => m.Motion, m => Number(accepted[m.Accepted!.Value]))
        );
    }

    internal static AcceptedNumber Number(AcceptedRow a) =>
        new(a.Value, a.MeanSd, a.MoveSd, a.Trials, a.For, a.Second, a.SecondSd, a.SecondMoveSd, a.Against)
        {
            Narrowed = a.Narrowed,
            Came = a.Came,
        };

    internal static AcceptedRow Row(string id, int copy, string motion, DateTime now, AcceptedNumber a) =>
        new()
        {
            RigId = id,
            Copy = copy,
            Motion = motion,
            TimeUtc = now,
            Value = a.Value,
            MeanSd = a.MeanSd,
            MoveSd = a.MoveSd,
            Trials = a.Trials,
            For = a.For,
            Second = a.Second,
            SecondSd = a.SecondSd,
            SecondMoveSd = a.SecondMoveSd,
            Against = a.Against,
            Narrowed = a.Narrowed,
            Came = a.Came,
        };

    /// <summary>Adds a trial of a motion; a new version.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="motion">Key of the motion.</param>
    /// <param name="trial">The trial.</param>
    /// <param name="origin">How it came in.</param>
    /// <param name="what">What was done, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<int> AddTrial(
        string id,
        int copy,
        string motion,
        Trial trial,
        ReadingOrigin origin,
        string what,
        CancellationToken cancel,
        string told = ""
    ) =>
        Write(
            async () =>
            {
                var row = new TrialRow
                {
                    RigId = id,
                    Copy = copy,
                    Motion = motion,
                    Asked = trial.Asked,
                    Commanded = trial.Commanded,
                    Measured = trial.Measured,
                    Origin = origin,
                    TimeUtc = Now,
                    Told = told,
                };
                Db.Trials.Add(row);
                await Db.SaveChangesAsync(cancel);
                return await Next(id, copy, motion, null, what, m => m.Trials = List([.. Ids(m.Trials), row.Id]), cancel);
            },
            cancel
        );

    /// <summary>Takes a number over from trials; a new version.</summary>
    public Task<int> Accept(string id, int copy, string motion, AcceptedNumber number, string what, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = Row(id, copy, motion, Now, number);
                Db.Accepted.Add(row);
                await Db.SaveChangesAsync(cancel);
                return await Next(id, copy, motion, null, what, m => m.Accepted = row.Id, cancel);
            },
            cancel
        );

    /// <summary>Leaves one trial out, or all of them; a new version. They stay in earlier versions, and what was accepted stays.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="motion">Key of the motion.</param>
    /// <param name="baseVersion">The version that was looked at.</param>
    /// <param name="index">Which trial, from 0; null for all.</param>
    /// <param name="what">What was done, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="StaleEdit">When the trials were changed meanwhile.</exception>
    public Task<int> LeaveOut(string id, int copy, string motion, int baseVersion, int? index, string what, CancellationToken cancel) =>
        Write(
            () =>
                Next(
                    id,
                    copy,
                    motion,
                    baseVersion,
                    what,
                    m => m.Trials = index is { } i ? List(Ids(m.Trials).Where((_, k) => k != i)) : "",
                    cancel
                ),
            cancel
        );

    private async Task<int> Next(
        string id,
        int copy,
        string motion,
        int? baseVersion,
        string what,
        Action<MotionRow> change,
        CancellationToken cancel
    )
    {
        var current = await Latest(id, copy, motion, cancel);
        if (baseVersion is { } based && based != (current?.Version ?? 0))
            throw new StaleEdit(current?.Version ?? 0, current?.What ?? "");
        var next = Copy(current, id, copy, motion, (current?.Version ?? 0) + 1, what);
        change(next);
        Db.Motions.Add(next);
        await Db.SaveChangesAsync(cancel);
        await AddEdit(id, what, $"trials {copy}/{motion}", current?.Id ?? 0, next.Id, cancel);
        return next.Version;
    }

    private Task<MotionRow?> Latest(string id, int copy, string motion, CancellationToken cancel) =>
        Db
            .Motions.AsNoTracking()
            .Where(m => m.RigId == id && m.Copy == copy && m.Motion == motion)
            .OrderByDescending(m => m.Version)
            .FirstOrDefaultAsync(cancel);

    private MotionRow Copy(MotionRow? from, string id, int copy, string motion, int version, string what) =>
        new()
        {
            RigId = id,
            Copy = copy,
            Motion = motion,
            Version = version,
            TimeUtc = Now,
            What = what,
            Trials = from?.Trials ?? "",
            Accepted = from?.Accepted,
        };

    /// <summary>What an undo or redo of trials writes: an earlier version once more.</summary>
    internal async Task Again(string id, int copy, string motion, long wanted, string what, CancellationToken cancel)
    {
        var current = await Latest(id, copy, motion, cancel);
        var from = wanted == 0 ? null : await Db.Motions.AsNoTracking().FirstAsync(m => m.Id == wanted, cancel);
        Db.Motions.Add(Copy(from, id, copy, motion, (current?.Version ?? 0) + 1, what));
    }

    /// <summary>Positions of a copy, by mechanism.</summary>
    public async Task<IReadOnlyDictionary<string, FoundPositions>> Positions(string id, int copy, CancellationToken cancel)
    {
        var latest = Db.Positions.Where(p => p.RigId == id && p.Copy == copy).GroupBy(p => p.Mechanism).Select(g => g.Max(p => p.Id));
        var rows = await Db.Positions.AsNoTracking().Where(p => latest.Contains(p.Id)).ToListAsync(cancel);
        if (rows.Count == 0)
            return new Dictionary<string, FoundPositions>();
        var ids = rows.SelectMany(r => Ids(r.Found)).ToArray();
        var found = await Db.Found.AsNoTracking().Where(f => ids.Contains(f.Id)).ToDictionaryAsync(f => f.Id, cancel);
        return rows.ToDictionary(
            r => r.Mechanism,
            r => new FoundPositions(
                r.Version,
                Ids(r.Found)
                    .Select(i => found[i])
                    .GroupBy(f => f.Position)
                    .ToDictionary(g => g.Key, IReadOnlyList<double> (g) => [.. g.Select(f => f.Angle)])
            )
        );
    }

    /// <summary>Adds a position found by hand; a new version.</summary>
    public Task<int> AddPosition(
        string id,
        int copy,
        string mechanism,
        string position,
        double angle,
        ReadingOrigin origin,
        string who,
        string conditions,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var row = new PositionRow
                {
                    RigId = id,
                    Copy = copy,
                    Mechanism = mechanism,
                    Position = position,
                    Angle = angle,
                    Origin = origin,
                    TimeUtc = Now,
                    Who = who,
                    Conditions = conditions,
                };
                Db.Found.Add(row);
                await Db.SaveChangesAsync(cancel);
                var current = await LatestPositions(id, copy, mechanism, cancel);
                var what = $"found {position} of {mechanism}";
                var next = Copy(current, id, copy, mechanism, what);
                next.Found = List([.. Ids(next.Found), row.Id]);
                Db.Positions.Add(next);
                await Db.SaveChangesAsync(cancel);
                await AddEdit(id, what, $"positions {copy}/{mechanism}", current?.Id ?? 0, next.Id, cancel);
                return next.Version;
            },
            cancel
        );

    private Task<PositionsRow?> LatestPositions(string id, int copy, string mechanism, CancellationToken cancel) =>
        Db
            .Positions.AsNoTracking()
            .Where(p => p.RigId == id && p.Copy == copy && p.Mechanism == mechanism)
            .OrderByDescending(p => p.Version)
            .FirstOrDefaultAsync(cancel);

    private PositionsRow Copy(PositionsRow? from, string id, int copy, string mechanism, string what) =>
        new()
        {
            RigId = id,
            Copy = copy,
            Mechanism = mechanism,
            Version = (from?.Version ?? 0) + 1,
            TimeUtc = Now,
            What = what,
            Found = from?.Found ?? "",
        };

    /// <summary>What an undo or redo of positions writes: an earlier version once more.</summary>
    internal async Task PositionsAgain(string id, int copy, string mechanism, long wanted, string what, CancellationToken cancel)
    {
        var current = await LatestPositions(id, copy, mechanism, cancel);
        var next = Copy(current, id, copy, mechanism, what);
        next.Found = wanted == 0 ? "" : (await Db.Positions.AsNoTracking().FirstAsync(p => p.Id == wanted, cancel)).Found;
        Db.Positions.Add(next);
    }

    /// <summary>Follows a mechanism to its new name: what is known goes along, and stays under the old one for undo.</summary>
    internal async Task RenameMechanism(string id, int copy, string from, string to, string what, CancellationToken cancel)
    {
        var keys = await Db
            .Motions.AsNoTracking()
            .Where(m => m.RigId == id && m.Copy == copy && m.Motion.StartsWith(from + ": "))
            .Select(m => m.Motion)
            .Distinct()
            .ToListAsync(cancel);
        foreach (var key in keys)
        {
            var current = (await Latest(id, copy, key, cancel))!;
            var name = to + key[from.Length..];
            Db.Motions.Add(Copy(current, id, copy, name, ((await Latest(id, copy, name, cancel))?.Version ?? 0) + 1, what));
        }
        if (await LatestPositions(id, copy, from, cancel) is not { } positions)
            return;
        var under = Copy(await LatestPositions(id, copy, to, cancel), id, copy, to, what);
        under.Found = positions.Found;
        Db.Positions.Add(under);
    }

    /// <summary>Follows a position to its new name. What was found is never changed: it is written anew, and the old sleeps until undo
    /// brings its name back. Does nothing where the new name has findings already.</summary>
    internal async Task RenamePosition(string id, int copy, string mechanism, string from, string to, string what, CancellationToken cancel)
    {
        if (await LatestPositions(id, copy, mechanism, cancel) is not { } current)
            return;
        var ids = Ids(current.Found);
        var renamed = await Db
            .Found.AsNoTracking()
            .Where(f => ids.Contains(f.Id) && (f.Position == from || f.Position == to))
            .OrderBy(f => f.Id)
            .ToListAsync(cancel);
        if (renamed.Any(f => f.Position == to))
            return;
        foreach (var f in renamed)
            (f.Id, f.Position) = (0, to);
        Db.Found.AddRange(renamed);
        await Db.SaveChangesAsync(cancel);
        var next = Copy(current, id, copy, mechanism, what);
        next.Found = List([.. ids, .. renamed.Select(f => f.Id)]);
        Db.Positions.Add(next);
    }
}
