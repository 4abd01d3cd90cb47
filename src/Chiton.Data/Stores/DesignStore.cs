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

/// <summary>Designs, their revisions and programs.</summary>
public sealed class DesignStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>The current design alone, without any copy.</summary>
    /// <exception cref="NotStored">When there is no such rig.</exception>
    public async Task<RigDesign> DesignNow(string id, CancellationToken cancel)
    {
        var head = Db
            .Rigs.AsNoTracking()
            .Where(r => r.Id == id)
            .Join(Db.Revisions, r => new { RigId = r.Id, Number = r.HeadRevision }, v => new { v.RigId, v.Number }, (r, v) => v);
        var hash = await head.Select(v => v.Hash).FirstOrDefaultAsync(cancel) ?? throw new NotStored($"There is no rig “{id}”.");
        if (KnownDesign.Of(hash) is { } known)
            return known.Design;
        // It may have moved on between the two questions: what is kept is what the hash says.
        var row = await head.FirstAsync(cancel);
        return KnownDesign.Keep(row.Hash, row.Document).Design;
    }

    /// <summary>The design of a revision.</summary>
    /// <exception cref="NotStored">When there is no such revision.</exception>
    public async Task<RigDesign> DesignOf(string id, int revision, CancellationToken cancel) =>
        (await KnownOf(id, revision, cancel)).Design;

    /// <summary>The design of a revision, with its programs read.</summary>
    /// <exception cref="NotStored">When there is no such revision.</exception>
    public async Task<KnownDesign> KnownOf(string id, int revision, CancellationToken cancel)
    {
        var row = Db.Revisions.AsNoTracking().Where(r => r.RigId == id && r.Number == revision);
        var hash = await row.Select(r => r.Hash).FirstOrDefaultAsync(cancel) ?? throw new NotStored($"{id} has no revision {revision}.");
        return KnownDesign.Of(hash) ?? KnownDesign.Keep(hash, await row.Select(r => r.Document).FirstAsync(cancel));
    }

    /// <summary>Brings the program of an earlier revision back; a new revision, and undo takes it back.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> RestoreProgram(string id, int baseRevision, int revision, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var (rig, now) = await Based(id, baseRevision, cancel);
                var then = await DesignOf(id, revision, cancel);
                var next = RigPrograms.Follow(now with { Programs = then.Programs }, now);
                return next == now ? rig.HeadRevision : await Revise(rig, next, $"brought back the program of revision {revision}", cancel);
            },
            cancel
        );

    /// <summary>Writes the whole design anew; a new revision. It must have been checked.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="baseRevision">The revision that was edited.</param>
    /// <param name="next">The new design.</param>
    /// <param name="what">What changed, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="names">Devices and mechanisms that have another name in it: what the copies know of them follows.</param>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> SaveDesign(
        string id,
        int baseRevision,
        RigDesign next,
        string what,
        CancellationToken cancel,
        IReadOnlyList<(string From, string To)>? names = null
    ) =>
        Write(
            async () =>
            {
                var (rig, now) = await Based(id, baseRevision, cancel);
                foreach (var (from, to) in names ?? [])
                    await RenameOnCopies(id, from, to, null, null, what, cancel);
                return next == now ? rig.HeadRevision : await Revise(rig, next, what, cancel);
            },
            cancel
        );

    /// <summary>
    /// Writes the program anew. A script without faults is kept in its canonical form; one with faults is kept as typed,
    /// so that nothing is lost.
    /// </summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="baseRevision">The revision that was edited.</param>
    /// <param name="program">Which program, by its place; null for the one that runs.</param>
    /// <param name="script">The new text.</param>
    /// <param name="mark">Gives the marks of numbers that this edit calculated, from the canonical program; null for none.</param>
    /// <param name="what">What changed, in words; null to say it from the difference.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>The number of the current revision; the same as before when nothing changed.</returns>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    /// <exception cref="InputProblem">When the script is too long.</exception>
    public Task<int> SaveProgram(
        string id,
        int baseRevision,
        int? program,
        string script,
        Func<ProgramNode, IEnumerable<NumberMark>>? mark,
        string? what,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var (rig, design) = await Based(id, baseRevision, cancel);
                var words = Vocabulary.For(design, design.ProgramAt(Index(design, program)));
                var parse = ScriptParser.Parse(script, words);
                var text = parse.Diagnostics.Count == 0 ? Printer.Print(parse.Program) : script.ReplaceLineEndings("\n");
                var index = Index(design, program);
                var old = design.ProgramAt(index);
                var marks = Sheet.Keep(old.Marks.ToArray(), parse.Program);
                if (mark is not null)
                {
                    // The lines of the marks are those of the text as it is kept.
                    var kept = parse.Diagnostics.Count == 0 ? ScriptParser.Parse(text, words).Program : parse.Program;
                    var added = mark(kept).ToArray();
                    marks = marks
                        .Where(m => !added.Any(a => a.Owner == m.Owner && a.Line == m.Line && a.Index == m.Index))
                        .Concat(added)
                        .ToSequence();
                }
                return await KeepProgram(rig, design, index, text, marks, what, cancel);
            },
            cancel
        );

    /// <summary>Edits a program by its tree. Where another edit came first, the line is looked for in what stands now.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="baseRevision">The revision that was edited.</param>
    /// <param name="program">Which program, by its place; null for the one that runs.</param>
    /// <param name="edit">What is done.</param>
    /// <param name="instead">True to do it to the text of the revision that was edited, whatever was kept since: an answer to a
    /// <see cref="StaleEdit"/>.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>The number of the current revision, and the line the cursor belongs on.</returns>
    /// <exception cref="StaleEdit">When another edit came first and the line is not there any more.</exception>
    /// <exception cref="InputProblem">When that cannot be done to that line.</exception>
    public Task<(int Revision, int Line)> EditProgram(
        string id,
        int baseRevision,
        int? program,
        OutlineEdit edit,
        bool instead,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                if (baseRevision <= 0)
                    throw new InputProblem("baseRevision", "Say on which revision this edit was made, a whole number from 1.");
                var (rig, row) = await Head(id, cancel);
                var known = KnownDesign.Of(row.Hash) ?? KnownDesign.Keep(row.Hash, row.Document);
                var design = known.Design;
                var index = Index(design, program);
                var old = design.ProgramAt(index);
                var parsed = index < known.Programs.Count ? known.Programs[index].Parsed : null;
                if (rig.HeadRevision != baseRevision)
                {
                    var before = (await DesignOf(id, baseRevision, cancel)).ProgramAt(index);
                    if (instead)
                        (old, parsed) = (before, null);
                    else if (Outline.Follow(before.Script, old.Script, edit.Line) is { } line)
                        edit = edit with { Line = line };
                    else
                        throw new StaleEdit(rig.HeadRevision, row.What);
                }
                var done = Outline.Apply(old.Script, old.Marks, edit, Vocabulary.For(design, old), parsed);
                return (await KeepProgram(rig, design, index, done.Script, done.Marks, null, cancel), done.Line);
            },
            cancel
        );

    private static int Index(RigDesign design, int? program)
    {
        var index = program ?? design.MainProgram;
        return index >= 0 && index < Math.Max(1, design.Programs.Count) ? index : throw new NotStored($"The rig has no program {index}.");
    }

    private async Task<int> KeepProgram(
        RigRow rig,
        RigDesign design,
        int index,
        string text,
        Sequence<NumberMark> marks,
        string? what,
        CancellationToken cancel
    )
    {
        var old = design.ProgramAt(index);
        if (old.Script == text && old.Marks == marks)
            return rig.HeadRevision;
        // One text in several places is edited in all of them; outside they are called by their controllers.
        int[] places = [.. Placing.Alike(design, index)];
        var next = places.Aggregate(
            design,
            (d, at) => d.WithProgram(at, d.ProgramAt(at) with { Script = text, Marks = marks, Meaning = ProgramText.MeaningNow })
        );
        if (places.Length == 1)
            next = Renames.OfProgram(next, index, ScriptParser.NameOf(old.Script) ?? "", ScriptParser.NameOf(text) ?? "");
        return next == design ? rig.HeadRevision : await Revise(rig, next, what ?? Difference(old.Script, text), cancel);
    }

    /// <summary>Runs leads to ports anew; a new revision of the design. Faulty wiring is kept as it is: it is what the rig has.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> SaveWires(string id, int baseRevision, IReadOnlyList<Wire> wires, string what, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var (rig, design) = await Based(id, baseRevision, cancel);
                var next = design with { Wires = wires.ToSequence() };
                return next == design ? rig.HeadRevision : await Revise(rig, next, what, cancel);
            },
            cancel
        );

    /// <summary>Says anew what feeds the rig; a new revision of the design.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> SavePower(string id, int baseRevision, RigPower power, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var (rig, design) = await Based(id, baseRevision, cancel);
                var next = design with { Power = power };
                return next == design ? rig.HeadRevision : await Revise(rig, next, "changed what feeds the rig", cancel);
            },
            cancel
        );

    /// <summary>Gives a sensor one more zone; a new revision of the design.</summary>
    /// <exception cref="StaleEdit">When the current revision is another one.</exception>
    public Task<int> AddZone(string id, int baseRevision, string sensor, string zone, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var (rig, design) = await Based(id, baseRevision, cancel);
                return await Revise(
                    rig,
                    design with
                    {
                        Sensors = design
                            .Sensors.Select(e => e.Name == sensor ? e with { Zones = e.Zones.Append(zone).ToSequence() } : e)
                            .ToSequence(),
                    },
                    $"added the zone {zone} to {sensor}",
                    cancel
                );
            },
            cancel
        );

    private static string Difference(string before, string after)
    {
        string[] a = Lines(before),
            b = Lines(after);
        var gone = a.Except(b).ToArray();
        var come = b.Except(a).ToArray();
        return (gone.Length, come.Length) switch
        {
            (0, 0) => "moved lines",
            (0, 1) => $"added “{Clip(come[0])}”",
            (1, 0) => $"took out “{Clip(gone[0])}”",
            (_, 1) => $"changed to “{Clip(come[0])}”",
            (0, var n) => $"added {n} lines",
            (var n, 0) => $"took out {n} lines",
            (_, var n) => $"changed {n} lines",
        };
        static string[] Lines(string s) => [.. s.Split('\n').Select(l => l.Trim()).Where(l => l != "")];
        static string Clip(string s) => s.Length <= 70 ? s : s[..70] + "…";
    }

    /// <summary>Puts a rig away, or takes it back out.</summary>
    public Task<bool> Archive(string id, bool archived, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var (rig, _) = await Head(id, cancel);
                rig.Archived = archived;
                return true;
            },
            cancel
        );

    /// <summary>Revisions, newest first.</summary>
    public async Task<IReadOnlyList<(int Number, DateTime TimeUtc, string What)>> Revisions(
        string id,
        int most,
        CancellationToken cancel
    ) =>
        [
            .. (
                await Db
                    .Revisions.AsNoTracking()
                    .Where(r => r.RigId == id)
                    .OrderByDescending(r => r.Number)
                    .Take(most)
                    .Select(r => new
                    {
                        r.Number,
                        r.TimeUtc,
                        r.What,
                    })
                    .ToListAsync(cancel)
            ).Select(r => (r.Number, r.TimeUtc, r.What)),
        ];

    /// <summary>Gives a device, mechanism or zone another name everywhere: the design as given, and the readings of every copy.</summary>
    /// <param name="id">Address of the rig.</param>
    /// <param name="baseRevision">The revision that was edited.</param>
    /// <param name="next">The design with the new name in it.</param>
    /// <param name="sensor">Name under which readings are kept, before.</param>
    /// <param name="newSensor">The same after.</param>
    /// <param name="zone">Zone that is renamed; null when the sensor is.</param>
    /// <param name="newZone">Its new name.</param>
    /// <param name="what">What changed, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    public Task<int> Rename(
        string id,
        int baseRevision,
        RigDesign next,
        string sensor,
        string newSensor,
        string? zone,
        string? newZone,
        string what,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var (rig, _) = await Based(id, baseRevision, cancel);
                await RenameOnCopies(id, sensor, newSensor, zone, newZone, what, cancel);
                return await Revise(rig, next, what, cancel);
            },
            cancel
        );

    private async Task RenameOnCopies(
        string id,
        string sensor,
        string newSensor,
        string? zone,
        string? newZone,
        string what,
        CancellationToken cancel
    )
    {
        var (motions, readings) = (new MotionStore(Db, Clock), new ReadingStore(Db, Clock));
        foreach (var copy in await Db.Copies.AsNoTracking().Where(c => c.RigId == id).Select(c => c.Number).ToListAsync(cancel))
        {
            if (zone is null)
            {
                await motions.RenameMechanism(id, copy, sensor, newSensor, what, cancel);
                await readings.RenameSensor(id, copy, sensor, newSensor, what, cancel);
            }
            else
            {
                await motions.RenamePosition(id, copy, sensor, zone, newZone!, what, cancel);
                await readings.RenameZone(id, copy, sensor, zone, newZone!, what, cancel);
            }
        }
    }
}
