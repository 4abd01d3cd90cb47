using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Proving;

/// <summary>Runs the bench for the checks: how often it fails and where, which sentences are taken and which states entered.</summary>
public static class Tries
{
    // Runs without a limit of time, where none with it passes.
    private const int Unlimited = 40;

    /// <summary>Seed of the runs: the same for a machine and the same with a cure, so that both have the same luck.</summary>
    public const long Seed = 20_011;

    /// <summary>Tries a scene.</summary>
    /// <param name="plan">What runs.</param>
    /// <param name="programs">The programs that run on the own rig, in the order of the plan.</param>
    /// <param name="counts">True where the header counts it.</param>
    /// <param name="runs">How many runs.</param>
    /// <param name="progress">Told how many are done; null for nobody.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it: what was done by then is told.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    /// <param name="from">What was run of the same before; null for nothing.</param>
    /// <returns>What was found, and the runs, so that they can be gone on with.</returns>
    public static (SceneRuns Found, Cover Cover) Scene(
        BenchPlan plan,
        IReadOnlyList<RigProgram> programs,
        bool counts,
        int runs,
        Action<int>? progress = null,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null,
        Cover? from = null
    )
    {
        var cover = from ?? new Cover(plan, programs);
        // A new made-up copy in each run: more of them go on where fewer ended.
        var layout = new RunLayout(Seed, RunLayout.Kinds.Single, runs);
        cover.Done = ManyRuns.Run(cover, layout, (n, _) => progress?.Invoke(n), threads, cancel, scheduler, null, cover.Done);
        var done = cover.Done;
        var scene = plan.Scene.Name;
        var found = new SceneRuns(
            scene,
            counts,
            plan.Unproved is null && plan.Rules.Any(r => r.Unjudged is null),
            done.Results.Count,
            done.Passes,
            Failed(plan, done, cover),
            cover.Programs()
        )
        {
            Rounds = Rounds(plan, done, cover),
            Guess = Guess(done, cancel),
            Short = done.Passes == 0 && done.Results.Count >= Unlimited ? Limit(plan, done, threads, cancel, scheduler) : null,
        };
        return (found, cover);
    }

    // Most groups that are held against the rest for what they have in common.
    private const int MostTold = 6;

    private static FailedRuns[] Failed(BenchPlan plan, RunsDone done, Cover cover)
    {
        var groups = Enumerable
            .Range(0, done.Results.Count)
            .Where(i => !done.Results[i].Passed)
            .GroupBy(i =>
            {
                var result = done.Results[i];
                var (program, line) = cover.Last(done.Layout.RunSeed(i));
                return (
                    Rule: result.Rule >= 0 ? plan.Rules[result.Rule].Text : "",
                    Never: result.Ending == RunEnding.NeverBroken,
                    Program: program,
                    Line: line,
                    result.Ended
                );
            })
            .OrderByDescending(g => g.Count())
            .ThenBy(g => g.Min())
            .ToArray();
        var made = new FailedRuns[groups.Length];
        for (var k = 0; k < groups.Length; k++)
        {
            var (key, first) = (groups[k].Key, groups[k].Min());
            string? common = null;
            if (k < MostTold)
            {
                var own = new bool[done.Results.Count];
                foreach (var i in groups[k])
                    own[i] = true;
                common = Commons.Of(done, own)?.Say;
            }
            made[k] = new(
                key.Rule,
                key.Never,
                key.Program,
                key.Line,
                key.Ended,
                groups[k].Count(),
                common,
                new(plan.Scene.Name, done.Layout.RunSeed(first), done.Layout.CopySeed(done.Layout.Copy(first)))
            )
            {
                Lasts = cover.Lasts(done.Layout.RunSeed(first)),
            };
        }
        return made;
    }

    // Of the numbers that are not known well the one that makes most, where nobody ever tried it.
    private static GuessThatDecides? Guess(RunsDone done, CancellationToken cancel)
    {
        if (
            done.Passes == done.Results.Count
            || done.Results.Count < Doubts.LeastCopies
            || done.Columns.All(c => c.Spec.Kind != Provenance.Guessed)
        )
            return null;
        var found = Doubts.Find(done, null, CopyRange.Of(RunsDone.Merged(done.ByCopy())), cancel);
        return found.Doubts is [{ Kind: Provenance.Guessed } most, ..]
            ? new(most.Name, most.Value, most.Unit, most.Source, most.Worst, most.Measured?.Say)
            : null;
    }

    private static RoundSeen[] Rounds(BenchPlan plan, RunsDone done, Cover cover) =>
        [
            .. Enumerable
                .Range(0, done.Results.Count)
                .Where(i => done.Results[i].Ending == RunEnding.GoalMissed)
                .SelectMany(i => cover.RoundsOf(done.Layout.RunSeed(i)).Select(r => (Run: i, r.Program, r.Lines)))
                .GroupBy(r => (r.Program, Key: string.Join(' ', r.Lines)))
                .OrderByDescending(g => g.Count())
                .ThenBy(g => g.First().Run)
                .Select(g => new RoundSeen(
                    g.Key.Program,
                    g.First().Lines,
                    g.Count(),
                    new(plan.Scene.Name, done.Layout.RunSeed(g.First().Run), done.Layout.CopySeed(done.Layout.Copy(g.First().Run)))
                )),
        ];

    // Where nothing passes and a goal with a time is missed: would any run reach it, given time?
    private static TooShort? Limit(BenchPlan plan, RunsDone done, int threads, CancellationToken cancel, TaskScheduler? scheduler)
    {
        var missed = done
            .Results.Where(r => r.Ending == RunEnding.GoalMissed && plan.LimitS(r.Rule) is not null)
            .GroupBy(r => r.Rule)
            .MaxBy(g => g.Count());
        // Cut off by the end of the scene, a goal has that as its time.
        var rule = missed?.Key ?? -1;
        if (rule < 0 || plan.LimitS(rule) is not { } limit)
            return null;
        var free = plan.WithoutLimits(Math.Min(600, Math.Max(120, 3 * plan.EndsS)));
        var layout = new RunLayout(Seed, RunLayout.Kinds.Single, Unlimited);
        var given = ManyRuns.Run(new PlanProved(free), layout, null, threads, cancel, scheduler);
        double[] times = [.. given.Results.Where(r => r.Passed).Select(r => r.TimeMicros * 1e-6)];
        return times.Length == 0 || times.Min() <= limit
            ? null
            : new(plan.Rules[rule].Line, plan.Rules[rule].FromScene, plan.Rules[rule].Text, limit, times.Min(), given.Results.Count);
    }

    /// <summary>How many runs pass with a cure, on the luck of those without it.</summary>
    /// <param name="plan">What runs with it.</param>
    /// <param name="without">The runs without it.</param>
    /// <param name="runs">How many, at most those without it.</param>
    /// <param name="threads">Most threads to use; 0 for all cores.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="scheduler">Whose threads to use; null for the usual ones.</param>
    /// <returns>What came of it; null where too little was run to say.</returns>
    public static CureRuns? Cured(
        BenchPlan plan,
        RunsDone without,
        int runs,
        int threads = 0,
        CancellationToken cancel = default,
        TaskScheduler? scheduler = null
    )
    {
        var n = Math.Min(runs, without.Results.Count);
        var with = ManyRuns.Run(new PlanProved(plan), new(Seed, RunLayout.Kinds.Single, n), null, threads, cancel, scheduler);
        if (n == 0 || with.Results.Count < n)
            return null;
        int gained = 0,
            lost = 0;
        for (var i = 0; i < n; i++)
        {
            gained += with.Results[i].Passed && !without.Results[i].Passed ? 1 : 0;
            lost += !with.Results[i].Passed && without.Results[i].Passed ? 1 : 0;
        }
        var before = without.Results.Take(n).Count(r => r.Passed);
        return new(n, before, with.Passes, Paired.Of(n, gained, lost).Verdict == Compared.Worse);
    }

    /// <summary>Runs of a plan that note what their programs do.</summary>
    /// <param name="plan">What runs.</param>
    /// <param name="programs">The programs of the own rig.</param>
    public sealed class Cover(BenchPlan plan, IReadOnlyList<RigProgram> programs) : IProvable
    {
        private readonly Lock gate = new();
        private readonly PlanProved proved = new(plan);

        // By program and step: the line of the sentence, and the lines of the states that are entered with its target.
        private readonly (int Line, int[] Into, bool Follows)[][] steps = Steps(plan, programs);
        private readonly Dictionary<long, (int Program, int Line)> last = [];
        private readonly Dictionary<long, int[]> lasts = [];
        private readonly Dictionary<long, (int Program, int[] Lines)[]> rounds = [];
        private readonly int[][] initial =
        [
            .. programs.Select(p => p.Parsed.Program.Regions.SelectMany(r => Begins(r.States)).Select(s => s.Span.Line).ToArray()),
        ];
        private readonly Dictionary<int, int>[] taken = [.. programs.Select(_ => new Dictionary<int, int>())];
        private readonly Dictionary<int, (int Runs, int Failed)>[] entered = [.. programs.Select(_ => new Dictionary<int, (int, int)>())];

        /// <summary>The runs so far; null before any.</summary>
        public RunsDone? Done { get; set; }

        /// <inheritdoc/>
        public IReadOnlyList<DrawSpec> Draws => proved.Draws;

        /// <inheritdoc/>
        public IProvableRun Begin() => new Runner(this, plan);

        /// <summary>What the programs did.</summary>
        public IReadOnlyList<ProgramRuns> Programs()
        {
            lock (gate)
                return
                [
                    .. taken
                        .Zip(entered)
                        .Select(p => new ProgramRuns(new Dictionary<int, int>(p.First), new Dictionary<int, (int, int)>(p.Second))),
                ];
        }

        // What is entered where nothing says otherwise.
        private static IEnumerable<StateNode> Begins(IEnumerable<StateNode> states)
        {
            if ((states.FirstOrDefault(s => s.Initial) ?? states.FirstOrDefault()) is not { } first)
                return [];
            return [first, .. Inside(first)];
        }

        private static IEnumerable<StateNode> Inside(StateNode state) =>
            Begins(state.States.ToArray()).Concat(state.Regions.SelectMany(r => Begins(r.States.ToArray())));

        private static (int, int[], bool)[][] Steps(BenchPlan plan, IReadOnlyList<RigProgram> programs)
        {
            var own = plan.OwnPrograms;
            var made = new (int, int[], bool)[own.Count][];
            for (var p = 0; p < own.Count; p++)
            {
                var program = programs[p].Parsed.Program;
                var holders = program
                    .AllStates.SelectMany(s => s.Lines.Select(l => (l.Span.Line, State: s)))
                    .GroupBy(x => x.Line)
                    .ToDictionary(g => g.Key, g => g.First().State);
                made[p] =
                [
                    .. plan.Programs[own[p]]
                        .Script.Steps.Select(step =>
                        {
                            if (step.Node is not TransitionNode sentence || !holders.TryGetValue(sentence.Span.Line, out var from))
                                return (0, Array.Empty<int>(), false);
                            if (Places.Target(program, from, sentence) is not { } to)
                                return (sentence.Span.Line, [], Follows(sentence));
                            return (
                                sentence.Span.Line,
                                [.. Places.Around(program, to).Concat(Inside(to)).Select(s => s.Span.Line).Distinct()],
                                Follows(sentence)
                            );
                        }),
                ];
            }
            return made;
        }

        // A sentence that only goes after another region, or comes again and again, is not where something went wrong.
        private static bool Follows(TransitionNode sentence) =>
            sentence.Trigger is EveryTriggerNode || sentence.Trigger is ConditionTriggerNode { Condition: var c } && OfRegions(c);

        private static bool OfRegions(ExprNode node) =>
            node switch
            {
                InStateNode => true,
                BinaryNode { Operator: Operator.And or Operator.Or } b => OfRegions(b.Left) && OfRegions(b.Right),
                UnaryNode u => OfRegions(u.Operand),
                _ => false,
            };

        /// <summary>The sentence that a failed run took last, or took last for the first time where a goal was missed, by program and
        /// line; line 0
        /// where it took none.</summary>
        public (int Program, int Line) Last(long seed)
        {
            lock (gate)
                return last.GetValueOrDefault(seed);
        }

        /// <summary>The last new sentence of each program in a failed run, by its line; empty for a run that passed.</summary>
        public IReadOnlyList<int> Lasts(long seed)
        {
            lock (gate)
                return lasts.GetValueOrDefault(seed) ?? [];
        }

        /// <summary>Rounds that programs were going at the end of a failed run, each with its lines.</summary>
        public IReadOnlyList<(int Program, int[] Lines)> RoundsOf(long seed)
        {
            lock (gate)
                return rounds.GetValueOrDefault(seed) ?? [];
        }

        private void Note(
            long seed,
            (int Program, int Line) at,
            int[] each,
            Tail[] tails,
            HashSet<int>[] lines,
            HashSet<int>[] states,
            bool failed
        )
        {
            lock (gate)
            {
                if (failed)
                {
                    (last[seed], lasts[seed]) = (at, [.. each]);
                    var going = tails.Select((t, p) => (Program: p, Lines: t.Round())).Where(r => r.Lines.Length > 0).ToArray();
                    if (going.Length > 0)
                        rounds[seed] = going;
                }
                for (var p = 0; p < lines.Length; p++)
                {
                    foreach (var line in lines[p])
                        taken[p][line] = taken[p].GetValueOrDefault(line) + 1;
                    foreach (var state in states[p])
                    {
                        var (runs, wrong) = entered[p].GetValueOrDefault(state);
                        entered[p][state] = (runs + 1, wrong + (failed ? 1 : 0));
                    }
                }
            }
        }

        private sealed class Runner : IProvableRun
        {
            private readonly Cover cover;
            private readonly Bench bench;
            private readonly HashSet<int>[] lines,
                states;
            private readonly int[] each;
            private readonly Tail[] tails;
            private (int Program, int Line) latest,
                latestNew;

            public Runner(Cover cover, BenchPlan plan)
            {
                this.cover = cover;
                bench = new(plan);
                lines = [.. cover.steps.Select(_ => new HashSet<int>())];
                states = [.. cover.steps.Select(_ => new HashSet<int>())];
                each = new int[cover.steps.Length];
                tails = [.. cover.steps.Select(_ => new Tail())];
                var at = new int[plan.Programs.Count];
                Array.Fill(at, -1);
                for (var p = 0; p < plan.OwnPrograms.Count; p++)
                    at[plan.OwnPrograms[p]] = p;
                bench.Taking = (program, step) =>
                {
                    if (at[program] is not (>= 0 and var p) || cover.steps[p][step] is not { Line: > 0 } taken)
                        return;
                    if (!taken.Follows)
                    {
                        latest = (p, taken.Line);
                        tails[p].Add(taken.Line);
                    }
                    if (!lines[p].Add(taken.Line))
                        return;
                    if (!taken.Follows)
                        (latestNew, each[p]) = ((p, taken.Line), taken.Line);
                    foreach (var state in taken.Into)
                        states[p].Add(state);
                };
            }

            public BenchResult Go(long seed, long copy, CancellationToken cancel)
            {
                for (var p = 0; p < lines.Length; p++)
                {
                    lines[p].Clear();
                    states[p].Clear();
                    states[p].UnionWith(cover.initial[p]);
                    tails[p].Clear();
                }
                latest = latestNew = default;
                Array.Clear(each);
                var result = bench.Go(seed, cancel: cancel, copySeed: copy);
                // What must never be came about after the last sentence. What was not reached in time was not reached where nothing new
                // came any more: a machine that goes round and round is anywhere when its time is over.
                cover.Note(seed, result.Ending == RunEnding.NeverBroken ? latest : latestNew, each, tails, lines, states, !result.Passed);
                return result;
            }

            public ReadOnlySpan<double> Drawn => bench.Drawn;

            public ReadOnlySpan<double> Wide => bench.Wide;
        }
    }

    /// <summary>The last sentences that a program took, for telling whether it goes round and round.</summary>
    internal sealed class Tail
    {
        /// <summary>So often a round must have been gone.</summary>
        public const int Times = 3;

        /// <summary>Most sentences of a round.</summary>
        public const int MostOfRound = 8;

        private readonly int[] lines = new int[Times * MostOfRound];
        private int count;

        /// <summary>Begins anew.</summary>
        public void Clear() => count = 0;

        /// <summary>One more.</summary>
        public void Add(int line) => lines[count++ % lines.Length] = line;

        /// <summary>The round that was gone at the end, three times and more, beginning with its first line; empty for none.</summary>
        public int[] Round()
        {
            for (var length = 1; length <= MostOfRound && Times * length <= count; length++)
            {
                var same = true;
                for (var back = 0; same && back < (Times - 1) * length; back++)
                    same = At(back) == At(back + length);
                if (!same)
                    continue;
                int[] found = [.. Enumerable.Range(0, length).Select(i => At(length - 1 - i))];
                var first = Array.IndexOf(found, found.Min());
                return [.. found[first..], .. found[..first]];
            }
            return [];
        }

        private int At(int back) => lines[(count - 1 - back) % lines.Length];
    }
}
