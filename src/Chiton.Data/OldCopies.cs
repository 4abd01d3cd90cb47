using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>
/// Until the migration <c>Units</c> a copy could hold readings from the simulated controller and from a table at once. This says of
/// each what it is, as far as its rows tell.
/// </summary>
internal static class OldCopies
{
    /// <summary>What the first version of a calibration says when it came with a rig file or the demo: its marks were all alike,
    /// whatever they were of.</summary>
    internal const string CameIn = "recorded before the lesson";

    /// <summary>The same of trials.</summary>
    internal const string TriedBefore = "tried before the lesson";

    /// <summary>Judges every copy.</summary>
    public static async Task Judge(ChitonDb db, CancellationToken cancel)
    {
        var copies = await db.Copies.ToListAsync(cancel);
        var units = await db.Units.ToDictionaryAsync(u => u.Id, cancel);
        foreach (var copy in copies)
        {
            var sure = await Sure(db, copy.RigId, copy.Number, cancel);
            var (kind, asks) = Units.Judge(new(sure.Recorded, sure.Typed, sure.Unsure));
            units[copy.UnitId].Kind = kind;
            copy.AsksKind = asks;
        }
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>How many rows of a copy were surely recorded, surely typed, and neither.</summary>
    private static async Task<RowOrigins> Sure(ChitonDb db, string rig, int copy, CancellationToken cancel)
    {
        var doubtful = await DoubtfulRecordings(db, rig, copy, cancel);
        int recorded = 0,
            typed = 0,
            unsure = 0;
        void Count(bool sure, ReadingOrigin origin)
        {
            if (!sure)
                unsure++;
            else if (origin == ReadingOrigin.Recorded)
                recorded++;
            else
                typed++;
        }
        var recordings = db.Recordings.AsNoTracking().Where(r => r.RigId == rig && r.Copy == copy);
        foreach (var r in await recordings.Select(r => new { r.Id, r.Origin }).ToListAsync(cancel))
            Count(!doubtful.Contains(r.Id), r.Origin);
        var tried = await SureTrials(db, rig, copy, cancel);
        var trials = db.Trials.AsNoTracking().Where(t => t.RigId == rig && t.Copy == copy);
        foreach (var t in await trials.Select(t => new { t.Id, t.Origin }).ToListAsync(cancel))
            Count(tried.Contains(t.Id), t.Origin);
        unsure += await db.Found.CountAsync(p => p.RigId == rig && p.Copy == copy, cancel);
        return new(recorded, typed, unsure);
    }

    /// <summary>Recordings of a copy that came in with a file.</summary>
    internal static async Task<HashSet<long>> DoubtfulRecordings(ChitonDb db, string rig, int copy, CancellationToken cancel) =>
        [
            .. (
                await db
                    .Calibrations.AsNoTracking()
                    .Where(c => c.RigId == rig && c.Copy == copy && c.Version == 1 && c.What == CameIn)
                    .Select(c => c.Recordings)
                    .ToListAsync(cancel)
            ).SelectMany(Ids),
        ];

    /// <summary>Trials of a copy whose mark can be believed: those that a version began which says that it was tried. Files brought
    /// others, and leaving one out once marked all the rest anew.</summary>
    internal static async Task<HashSet<long>> SureTrials(ChitonDb db, string rig, int copy, CancellationToken cancel)
    {
        var sure = new HashSet<long>();
        var seen = new HashSet<long>();
        var versions = await db
            .Motions.AsNoTracking()
            .Where(m => m.RigId == rig && m.Copy == copy)
            .OrderBy(m => m.Id)
            .Select(m => new { m.What, m.Trials })
            .ToListAsync(cancel);
        foreach (var v in versions)
        foreach (var id in Ids(v.Trials))
            if (seen.Add(id) && v.What.StartsWith("tried: ", StringComparison.Ordinal))
                sure.Add(id);
        return sure;
    }

    private static long[] Ids(string list) => list == "" ? [] : [.. list.Split(',').Select(long.Parse)];
}
