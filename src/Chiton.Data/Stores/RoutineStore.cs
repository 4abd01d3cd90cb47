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

/// <summary>The workshop's library of routines.</summary>
public sealed class RoutineStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most routines in the library.</summary>
    public const int MostRoutines = 500;

    /// <summary>The workshop's library of routines, by name.</summary>
    public async Task<IReadOnlyList<(long Id, DateTime TimeUtc, KeptRoutine Routine)>> Routines(CancellationToken cancel) =>
        [
            .. (await Db.Routines.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel)).Select(r =>
                (r.Id, DateTime.SpecifyKind(r.TimeUtc, DateTimeKind.Utc), Documents.Read<KeptRoutine>(r.Document))
            ),
        ];

    /// <summary>Keeps a routine in the library.</summary>
    /// <param name="routine">The routine.</param>
    /// <param name="replace">What becomes of one of that name: true to take its place, false to be refused, null to let it stay.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <exception cref="InputProblem">When there is one of that name already, or the library is full.</exception>
    public Task<bool> KeepRoutine(KeptRoutine routine, bool? replace, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var there = await Db.Routines.FirstOrDefaultAsync(r => r.Name == routine.Name, cancel);
                if (there is null)
                {
                    if (await Db.Routines.CountAsync(cancel) >= MostRoutines)
                        throw new InputProblem("routine", $"The library holds at most {MostRoutines} routines. Take one out first.");
                    Db.Routines.Add(
                        new()
                        {
                            Name = routine.Name,
                            TimeUtc = Now,
                            Document = Documents.Write(routine),
                        }
                    );
                    return true;
                }
                if (replace is null)
                    return false;
                if (replace is false)
                    throw new InputProblem(
                        "replace",
                        $"The library already has a routine “{routine.Name}”, kept from "
                            + $"{Documents.Read<KeptRoutine>(there.Document).From}. Say that this one takes its place, or give it "
                            + "another name."
                    );
                (there.TimeUtc, there.Document) = (Now, Documents.Write(routine));
                return true;
            },
            cancel
        );

    /// <summary>Takes a routine out of the library. Programs that have it keep it.</summary>
    /// <exception cref="NotStored">When there is none of that name.</exception>
    public Task<bool> ForgetRoutine(string name, CancellationToken cancel) =>
        Write(
            async () =>
            {
                Db.Routines.Remove(
                    await Db.Routines.FirstOrDefaultAsync(r => r.Name == name, cancel)
                        ?? throw new NotStored($"The library has no routine “{name}”.")
                );
                return true;
            },
            cancel
        );
}
