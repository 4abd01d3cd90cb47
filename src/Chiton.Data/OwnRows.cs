using Chiton.Core.Motion;
using Chiton.Core.Sensing;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>
/// Until the migration <c>OwnRows</c> trials, accepted numbers and positions were kept as readings of a sensor that was none.
/// This moves them to rows of their own, every version with its number, and lets undo and redo find them there.
/// </summary>
internal static class OwnRows
{
    // Under these names of zones they lay; a motion is told from a sensor by the colon in its name, which no sensor has.
    private const string TrialZone = "trials",
        AcceptedZone = "accepted";

    /// <summary>Moves everything there is.</summary>
    public static async Task Move(ChitonDb db, CancellationToken cancel)
    {
        var calibrations = await db.Calibrations.AsNoTracking().OrderBy(c => c.Id).ToListAsync(cancel);
        var mechanisms = await Mechanisms(db, cancel);
        var motions = calibrations.Where(c => c.Sensor.Contains(": ", StringComparison.Ordinal)).ToArray();
        var positions = calibrations.Where(c => mechanisms.Contains((c.RigId, c.Sensor))).ToArray();
        var recordings = await db
            .Recordings.AsNoTracking()
            .Where(r => EF.Functions.Like(r.Sensor, "%: %"))
            .ToDictionaryAsync(r => r.Id, cancel);
        foreach (var (rig, sensor) in mechanisms)
        foreach (var r in await db.Recordings.AsNoTracking().Where(r => r.RigId == rig && r.Sensor == sensor).ToListAsync(cancel))
            recordings[r.Id] = r;

        // From the key of an old version to that of the new one, by what undo calls it.
        var moved = new Dictionary<(string Target, long Key), long>();
        foreach (var group in motions.GroupBy(c => (c.RigId, c.Copy, c.Sensor)))
        {
            var known = new List<TrialRow>();
            var accepted = new Dictionary<long, long>();
            foreach (var c in group)
            {
                var used = Ids(c.Recordings).Select(i => recordings[i]).ToArray();
                var row = new MotionRow
                {
                    RigId = c.RigId,
                    Copy = c.Copy,
                    Motion = c.Sensor,
                    Version = c.Version,
                    TimeUtc = c.TimeUtc,
                    What = c.What,
                    Trials = "",
                };
                var trials = new List<TrialRow>();
                foreach (var r in used.Where(r => r.Zone == TrialZone))
                foreach (var t in Documents.Unpack(r.Values).Chunk(3).Where(t => t.Length == 3))
                {
                    // Leaving one out wrote the others anew: they are still the trials they were.
                    var same = known.FirstOrDefault(k =>
                        k.Asked == t[0] && k.Commanded == t[1] && k.Measured == t[2] && !trials.Contains(k)
                    );
                    if (same is null)
                    {
                        same = new()
                        {
                            RigId = c.RigId,
                            Copy = c.Copy,
                            Motion = c.Sensor,
                            Asked = t[0],
                            Commanded = t[1],
                            Measured = t[2],
                            Origin = r.Origin,
                            TimeUtc = r.TimeUtc,
                            Who = r.Who,
                        };
                        db.Trials.Add(same);
                        known.Add(same);
                    }
                    trials.Add(same);
                }
                var last = used.LastOrDefault(r => r.Zone == AcceptedZone);
                AcceptedRow? number = null;
                if (
                    last is not null
                    && !accepted.ContainsKey(last.Id)
                    && Documents.Unpack(last.Values) is { Length: AcceptedNumber.Width } packed
                )
                    db.Accepted.Add(number = MotionStore.Row(c.RigId, c.Copy, c.Sensor, last.TimeUtc, AcceptedNumber.Of(packed)));
                await db.SaveChangesAsync(cancel);
                if (number is not null)
                    accepted[last!.Id] = number.Id;
                row.Trials = string.Join(',', trials.Select(t => t.Id));
                row.Accepted = last is not null && accepted.TryGetValue(last.Id, out var key) ? key : null;
                db.Motions.Add(row);
                await db.SaveChangesAsync(cancel);
                moved[($"{c.RigId}\n{c.Copy}/{c.Sensor}", c.Id)] = row.Id;
            }
        }
        foreach (var group in positions.GroupBy(c => (c.RigId, c.Copy, c.Sensor)))
        {
            var rows = new Dictionary<long, PositionRow[]>();
            foreach (var c in group)
            {
                var aside = Documents.Read<List<SetAsideReading>>(c.SetAside);
                var found = new List<PositionRow>();
                foreach (var id in Ids(c.Recordings))
                {
                    var r = recordings[id];
                    if (!rows.TryGetValue(id, out var made))
                    {
                        made = rows[id] = [
                            .. Documents
                                .Unpack(r.Values)
                                .Select(a => new PositionRow
                                {
                                    RigId = c.RigId,
                                    Copy = c.Copy,
                                    Mechanism = c.Sensor,
                                    Position = r.Zone,
                                    Angle = a,
                                    Origin = r.Origin,
                                    TimeUtc = r.TimeUtc,
                                    Who = r.Who,
                                    Conditions = r.Conditions,
                                }),
                        ];
                        db.Found.AddRange(made);
                    }
                    found.AddRange(made.Where(p => !aside.Any(a => a.Zone == p.Position && a.Value == p.Angle)));
                }
                await db.SaveChangesAsync(cancel);
                var row = new PositionsRow
                {
                    RigId = c.RigId,
                    Copy = c.Copy,
                    Mechanism = c.Sensor,
                    Version = c.Version,
                    TimeUtc = c.TimeUtc,
                    What = c.What,
                    Found = string.Join(',', found.Select(p => p.Id)),
                };
                db.Positions.Add(row);
                await db.SaveChangesAsync(cancel);
                moved[($"{c.RigId}\n{c.Copy}/{c.Sensor}", c.Id)] = row.Id;
            }
        }

        var targets = motions
            .Select(c => ($"{c.RigId}\n{c.Copy}/{c.Sensor}", "trials"))
            .Concat(positions.Select(c => ($"{c.RigId}\n{c.Copy}/{c.Sensor}", "positions")))
            .Distinct()
            .ToDictionary(t => t.Item1, t => t.Item2);
        foreach (var change in await db.Changes.ToListAsync(cancel))
        {
            var target = $"{change.RigId}\n{change.Target}";
            if (!targets.TryGetValue(target, out var kind))
                continue;
            (change.Before, change.After) = (
                moved.GetValueOrDefault((target, change.Before)),
                moved.GetValueOrDefault((target, change.After))
            );
            change.Target = $"{kind} {change.Target}";
        }
        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();

        foreach (var ids in motions.Concat(positions).Select(c => c.Id).Chunk(500))
            await db.Calibrations.Where(c => ids.Contains(c.Id)).ExecuteDeleteAsync(cancel);
        foreach (var ids in recordings.Keys.Chunk(500))
            await db.Recordings.Where(r => ids.Contains(r.Id)).ExecuteDeleteAsync(cancel);
    }

    private static long[] Ids(string list) => list == "" ? [] : [.. list.Split(',').Select(long.Parse)];

    // Every mechanism of every revision that was no sensor then: names are given to one thing at a time.
    private static async Task<HashSet<(string Rig, string Name)>> Mechanisms(ChitonDb db, CancellationToken cancel)
    {
        var found = new HashSet<(string, string)>();
        var read = new HashSet<string>();
        foreach (
            var revision in await db
                .Revisions.AsNoTracking()
                .Select(r => new
                {
                    r.RigId,
                    r.Number,
                    r.Hash,
                })
                .ToListAsync(cancel)
        )
        {
            if (!read.Add(revision.Hash))
                continue;
            var document = await db
                .Revisions.AsNoTracking()
                .Where(r => r.RigId == revision.RigId && r.Number == revision.Number)
                .Select(r => r.Document)
                .FirstAsync(cancel);
            var design = Designs.Read(document);
            foreach (var m in design.Mechanisms)
                if (design.Sensors.All(s => s.Name != m.Name))
                    found.Add((revision.RigId, m.Name));
        }
        return found;
    }
}
