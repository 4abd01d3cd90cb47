using System.Collections.Concurrent;
using System.Security.Cryptography;
using Chiton.Core.Classroom;
using Chiton.Core.Classroom.Training;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App.Room;

namespace Chiton.Server.App;

/// <summary>Makes exercises from the rigs at hand: those that need the bench are counted first.</summary>
public sealed class Exercises(RigStore rigs, OwnJobs jobs)
{
    /// <summary>Longest time of a count for an exercise.</summary>
    public static readonly TimeSpan Most = TimeSpan.FromSeconds(60);

    private const int Runs = Counting.Runs;
    private const long Seed = 1;

    // How machines did: the same machine is counted once, by everything that its runs depend on.
    private static readonly ConcurrentDictionary<string, CountedMachine> Counted = new();
    private static readonly ConcurrentDictionary<string, IReadOnlyList<Doubt>> Doubted = new();

    /// <summary>One exercise of a kind, that is not the one before; null where no rig at hand gives one.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="only">Address of the rig; null for any at hand.</param>
    /// <param name="before">What tells the one before; null for none.</param>
    /// <param name="cancel">Gives up.</param>
    public async Task<Exercise?> Make(ExerciseKind kind, string? only, string? before, CancellationToken cancel)
    {
        var at = (await rigs.List(cancel))
            .Where(r => !r.Rig.Archived && (only is null || r.Rig.Id == only))
            .Select(r => r.Rig.Id)
            .ToArray();
        RandomNumberGenerator.Shuffle(at.AsSpan());
        TookTooLong? slow = null;
        foreach (var id in at)
        {
            var state = await rigs.Load(id, null, null, cancel);
            if (state.Parsed.Diagnostics.Count > 0)
                continue;
            try
            {
                for (var tries = 0; tries < 5; tries++)
                    if (await Make(kind, state, (ulong)RandomNumberGenerator.GetInt32(int.MaxValue), cancel) is not { } made)
                        break;
                    else if (TrainingStore.Same(made) != before)
                        return made;
            }
            catch (TookTooLong e)
            {
                // Another rig may be quicker.
                slow = e;
            }
        }
        // What was cut short is not what is not there.
        return slow is null ? null : throw slow;
    }

    private async Task<Exercise?> Make(ExerciseKind kind, RigState state, ulong seed, CancellationToken cancel)
    {
        var rig = new TrainingRig(state.Id, state.Design.Name, state.Bench);
        return kind switch
        {
            ExerciseKind.Next => Walking.Next(rig, seed),
            ExerciseKind.Trace => Walking.Trace(rig, seed),
            ExerciseKind.Threshold => Thresholds.Make(rig, seed),
            ExerciseKind.Work => Working.Make(rig, seed),
            ExerciseKind.Fault => await Fault(rig, state, seed, cancel),
            ExerciseKind.Rate => await Rate(rig, state, seed, cancel),
            _ => Counting.Measure(rig, await Doubts(state, cancel), seed),
        };
    }

    private static IReadOnlyList<SentenceFault> Faults(RigState state) =>
        SentenceFaults.In(state.Design.Program.Script, Vocabulary.For(state.Design, state.Design.Program));

    private async Task<BenchPlan?> Plan(RigState state, string script, CancellationToken cancel)
    {
        try
        {
            var design = state.Design;
            var scene = state.Scene(null);
            var changed = design.WithProgram(design.MainProgram, design.Program with { Script = script });
            var plan = BenchPlan.Build(
                state.Bench with
                {
                    Rig = changed,
                },
                scene,
                await RunInput.Guests(rigs, state, scene, cancel),
                null,
                false
            );
            // Where nothing can fail, nothing can be guessed.
            return plan.Unproved is null ? plan : null;
        }
        catch (InputProblem)
        {
            // A copy that lacks something cannot run; others can.
            return null;
        }
    }

    private async Task<CountedMachine?> Count(RigState state, string script, CancellationToken cancel)
    {
        var key = $"{state.InputsIn(null)} {Documents.Hash(script)}";
        if (Counted.TryGetValue(key, out var known))
            return known;
        if (await Plan(state, script, cancel) is not { } plan)
            return null;
        var done = await jobs.Run(WorkKind.Quick, null, Most, stop => Whole(plan, Runs, stop), cancel);
        var failed = done.Results.FirstOrDefault(r => !r.Passed);
        if (Counted.Count > 2000)
            Counted.Clear();
        return Counted[key] = new(
            script,
            string.Concat(done.Results.Select(r => r.Passed ? '1' : '0')),
            done.Passes == Runs ? "" : Prover.Cause(plan, failed)
        );
    }

    // All of the runs, or none: of what was cut short nothing is said, and nothing kept.
    private static RunsDone Whole(BenchPlan plan, int runs, CancellationToken stop)
    {
        var done = ManyRuns.Run(
            new PlanProved(plan),
            new(Seed, RunLayout.Kinds.Copies, runs),
            cancel: stop,
            scheduler: TaskScheduler.Current
        );
        stop.ThrowIfCancellationRequested();
        return done;
    }

    private async Task<Exercise?> Fault(TrainingRig rig, RigState state, ulong seed, CancellationToken cancel)
    {
        var faults = Faults(state);
        if (faults.Count == 0 || await Count(state, state.Design.Program.Script, cancel) is not { } sound)
            return null;
        // Those that nobody can tell from the sound machine are not asked.
        for (var i = 0; i < Math.Min(8, faults.Count); i++)
        {
            var fault = faults[(int)((seed + (ulong)i) % (ulong)faults.Count)];
            if (await Count(state, fault.Script, cancel) is { } faulty && Counting.Fault(rig, fault, sound, faulty, "", seed) is { } made)
                return made;
        }
        return null;
    }

    private async Task<Exercise?> Rate(TrainingRig rig, RigState state, ulong seed, CancellationToken cancel)
    {
        var faults = Faults(state);
        var which = (int)(seed % (ulong)(faults.Count + 2));
        var script = which < faults.Count ? faults[which].Script : state.Design.Program.Script;
        if (await Count(state, script, cancel) is not { } machine)
            return null;
        var scene = state.Scene(null);
        return Counting.Rate(
            rig,
            machine,
            [
                $"In the scene {scene.Name}, {Units.Word(state.Unit.Kind)}, as its readings and trials have it.",
                .. state
                    .Scenes.First(s => ReferenceEquals(s.Scene, scene))
                    .Scene.Lines.Where(l => l.Key is "goal" or "never")
                    .Select(l => Core.Simulation.Scenes.ScenePrinter.Print(l)),
            ]
        );
    }

    private async Task<IReadOnlyList<Doubt>> Doubts(RigState state, CancellationToken cancel)
    {
        var key = state.InputsIn(null);
        if (Doubted.TryGetValue(key, out var known))
            return known;
        if (await Plan(state, state.Design.Program.Script, cancel) is not { } plan || !Prover.Doubted(new PlanProved(plan)))
            return [];
        // As many runs as make enough copies.
        var doubts = await jobs.Run(
            WorkKind.Quick,
            null,
            Most,
            stop =>
            {
                var done = Whole(plan, 2 * Core.Proving.Doubts.LeastCopies, stop);
                var made = MadeCopies.Of(done);
                return made.Count < Core.Proving.Doubts.LeastCopies
                    ? []
                    : Core.Proving.Doubts.Find(made, CopyRange.Of(RunsDone.Merged(made.Counts)), stop, all: true);
            },
            cancel
        );
        if (Doubted.Count > 500)
            Doubted.Clear();
        return Doubted[key] = doubts;
    }
}
