using System.Text.Json;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Undo and redo across everything that belongs to a rig.</summary>
public sealed class HistoryStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>What undo and redo would do now.</summary>
    public async Task<UndoState> UndoState(string id, CancellationToken cancel)
    {
        if (await LastChange(id, cancel) is not { } last)
            return new(null, null);
        var redo = Ids(last.RedoStack);
        var undoWhat = last.UndoNext == 0 ? null : (await Db.Changes.AsNoTracking().FirstAsync(c => c.Id == last.UndoNext, cancel)).What;
        var redoId = redo.Length == 0 ? 0 : redo[0];
        return new(undoWhat, redoId == 0 ? null : (await Db.Changes.AsNoTracking().FirstAsync(c => c.Id == redoId, cancel)).What);
    }

    /// <summary>Takes the latest edit back, or does the latest undone one again. Both write a new revision or version; nothing is
    /// overwritten.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="redo">True to do again, false to take back.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>What was taken back or done again and its target; null when there is nothing.</returns>
    public Task<(string What, string Target)?> Undo(string id, bool redo, CancellationToken cancel) =>
        Write<(string, string)?>(
            async () =>
            {
                if (await LastChange(id, cancel) is not { } last)
                    return null;
                var stack = Ids(last.RedoStack);
                var key = redo ? (stack.Length > 0 ? stack[0] : 0) : last.UndoNext;
                if (key == 0)
                    return null;
                var edit = await Db.Changes.AsNoTracking().FirstAsync(c => c.Id == key, cancel);
                var wanted = redo ? edit.After : edit.Before;
                var what = $"{(redo ? "redid" : "undid")}: {edit.What}";
                if (edit.Target == "design")
                {
                    var (rig, head) = await Head(id, cancel);
                    var document = (
                        await Db.Revisions.AsNoTracking().FirstAsync(r => r.RigId == id && r.Number == wanted, cancel)
                    ).Document;
                    var (now, next) = (KnownDesign.Of(head.Hash)?.Design ?? Designs.Read(head.Document), Designs.Read(document));
                    AddRevision(rig, document, what);
                    await Carry(id, now, next, what, cancel);
                }
                else
                {
                    // Readings are named by copy and sensor alone, as they were before anything else was kept.
                    var space = edit.Target.IndexOf(' ');
                    var kind = char.IsAsciiDigit(edit.Target[0]) || space < 0 ? "" : edit.Target[..space];
                    var target = kind == "" ? edit.Target : edit.Target[(space + 1)..];
                    var slash = target.IndexOf('/');
                    var copy = int.Parse(target[..slash]);
                    var sensor = target[(slash + 1)..];
                    if (kind == "trials")
                        await new MotionStore(Db, Clock).Again(id, copy, sensor, wanted, what, cancel);
                    else if (kind == "positions")
                        await new MotionStore(Db, Clock).PositionsAgain(id, copy, sensor, wanted, what, cancel);
                    else
                    {
                        var current = await Db
                            .Calibrations.AsNoTracking()
                            .Where(c => c.RigId == id && c.Copy == copy && c.Sensor == sensor)
                            .OrderByDescending(c => c.Version)
                            .FirstAsync(cancel);
                        var from = wanted == 0 ? null : await Db.Calibrations.AsNoTracking().FirstAsync(c => c.Id == wanted, cancel);
                        var next = ReadingStore.Copy(from, id, copy, sensor, what, Now);
                        next.Version = current.Version + 1;
                        Db.Calibrations.Add(next);
                    }
                }
                Db.Changes.Add(
                    new()
                    {
                        RigId = id,
                        TimeUtc = Now,
                        What = what,
                        Edit = edit.Id,
                        Target = edit.Target,
                        Before = edit.Before,
                        After = edit.After,
                        UndoNext = redo ? edit.Id : edit.Below,
                        Below = edit.Below,
                        RedoStack = string.Join(',', redo ? stack.Skip(1) : stack.Prepend(edit.Id)),
                    }
                );
                return (edit.What, edit.Target);
            },
            cancel
        );

    // A zone or position that has another name now takes its readings along, should they have none under it: they may have
    // been taken back and done again since it was renamed.
    private async Task Carry(string id, RigDesign before, RigDesign after, string what, CancellationToken cancel)
    {
        static (string From, string To)? Renamed(Sequence<string> old, Sequence<string> now)
        {
            if (old.Count != now.Count)
                return null;
            int[] differ = [.. Enumerable.Range(0, old.Count).Where(i => old[i] != now[i])];
            return differ is [var at] && !now.Contains(old[at]) && !old.Contains(now[at]) ? (old[at], now[at]) : null;
        }
        var zones = before
            .Sensors.Select(s =>
                (s.Name, Change: after.Sensors.FirstOrDefault(n => n.Name == s.Name) is { } n ? Renamed(s.Zones, n.Zones) : null)
            )
            .Where(z => z.Change is not null)
            .ToArray();
        var positions = before
            .Mechanisms.Select(m =>
                (m.Name, Change: after.Mechanisms.FirstOrDefault(n => n.Name == m.Name) is { } n ? Renamed(m.Positions, n.Positions) : null)
            )
            .Where(z => z.Change is not null)
            .ToArray();
        if (zones.Length + positions.Length == 0)
            return;
        foreach (var copy in await Db.Copies.AsNoTracking().Where(c => c.RigId == id).Select(c => c.Number).ToListAsync(cancel))
        {
            foreach (var (name, change) in zones)
                await new ReadingStore(Db, Clock).RenameZone(id, copy, name, change!.Value.From, change.Value.To, what, cancel);
            foreach (var (name, change) in positions)
                await new MotionStore(Db, Clock).RenamePosition(id, copy, name, change!.Value.From, change.Value.To, what, cancel);
        }
    }
}
