using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>Findings that were set aside, each with its reason. They are no revisions: the machine is the same with them.</summary>
public sealed class SilenceStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>What was set aside on a copy, by the key of the finding.</summary>
    public async Task<IReadOnlyDictionary<string, SilenceRow>> Of(string rig, int copy, CancellationToken cancel) =>
        await Db.Silences.AsNoTracking().Where(s => s.RigId == rig && s.Copy == copy).ToDictionaryAsync(s => s.Finding, cancel);

    /// <summary>Sets a finding aside, or gives another reason for it.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="finding">Key of the finding.</param>
    /// <param name="said">What it says now.</param>
    /// <param name="reason">Why it is set aside.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<long> Keep(string rig, int copy, string finding, string said, string reason, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row = await Db.Silences.FirstOrDefaultAsync(s => s.RigId == rig && s.Copy == copy && s.Finding == finding, cancel);
                if (row is null)
                    Db.Silences.Add(
                        row = new()
                        {
                            RigId = rig,
                            Copy = copy,
                            Finding = finding,
                            Said = said,
                            Reason = reason,
                        }
                    );
                (row.Said, row.Reason, row.TimeUtc) = (said, reason, Now);
                await Db.SaveChangesAsync(cancel);
                return row.Id;
            },
            cancel
        );

    /// <summary>Shows a finding again; false when it was not set aside.</summary>
    public Task<bool> Drop(string rig, int copy, string finding, CancellationToken cancel) =>
        Write(
            async () =>
                await Db.Silences.Where(s => s.RigId == rig && s.Copy == copy && s.Finding == finding).ExecuteDeleteAsync(cancel) > 0,
            cancel
        );
}
