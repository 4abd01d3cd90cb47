using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Classroom;

/// <summary>How the machines of two teams did against each other in runs of the bench.</summary>
/// <param name="First">The team in the first lane, by its place in the list.</param>
/// <param name="Second">The team in the second lane.</param>
/// <param name="Scores">Scores of both, run by run; null where a run does not count.</param>
public sealed record MetRuns(int First, int Second, IReadOnlyList<IReadOnlyList<double?>> Scores);

/// <summary>What the bench said of the machines of a tournament.</summary>
/// <param name="Alone">Scores of each team's machine by itself, run by run; empty where both are in one place.</param>
/// <param name="Met">Where both are in one place: the runs of each heat; empty otherwise.</param>
/// <param name="Missing">By team why its machine could not run; empty where it could.</param>
public sealed record ContestRuns(IReadOnlyList<IReadOnlyList<double?>> Alone, IReadOnlyList<MetRuns> Met, IReadOnlyList<string> Missing)
{
    /// <summary>Draws the scores of a heat from the runs.</summary>
    /// <param name="heat">Who meets.</param>
    /// <param name="below">A source of numbers from 0 to below what it is asked for.</param>
    public (double? First, double? Second) Draw(Heat heat, Func<int, int> below)
    {
        if (Met.FirstOrDefault(m => m.First == heat.First && m.Second == heat.Second) is { Scores.Count: > 0 } met)
        {
            var run = met.Scores[below(met.Scores.Count)];
            return (run[0], run[1]);
        }
        // A machine that could not run loses to one that could.
        double? One(int team) =>
            Missing[team] != "" ? null
            : Alone.Count == 0 ? 0
            : Alone[team][below(Alone[team].Count)];
        return (One(heat.First), One(heat.Second));
    }
}

/// <summary>
/// Runs of challenges in the bench: the machines of teams on their own fields, or of two in one place. Of the goals of a run those of the
/// challenge count alone.
/// </summary>
public static class Contest
{
    /// <summary>Runs of a machine on a field of its own.</summary>
    public const int AloneRuns = 200;

    /// <summary>Most runs of all heats in which both are in one place.</summary>
    public const int MostMetRuns = 3000;

    private const string Rival = "Rival";
    private static readonly BenchModel Model = BenchModel.Usual with { SceneRulesOnly = true };

    /// <summary>Runs of each heat in which both are in one place: as many as all of them leave to each.</summary>
    /// <param name="teams">How many teams.</param>
    public static int MetRunsEach(int teams) => Math.Clamp(MostMetRuns / (teams * (teams - 1) / 2), 20, 100);

    /// <summary>A machine on a field of its own.</summary>
    /// <param name="challenge">The challenge.</param>
    /// <param name="copy">The machine.</param>
    /// <exception cref="InputProblem">When the scene speaks of what the machine has not, or its program has faults.</exception>
    public static BenchPlan Alone(Challenge challenge, BenchCopy copy) => Ready(challenge, Bind(challenge.Scene, copy, null));

    /// <summary>Two machines in one place.</summary>
    /// <param name="challenge">The challenge.</param>
    /// <param name="first">The machine in the first lane.</param>
    /// <param name="second">The machine in the second lane.</param>
    /// <exception cref="InputProblem">When the scene speaks of what the first machine has not, or a program has faults.</exception>
    public static BenchPlan Both(Challenge challenge, BenchCopy first, BenchCopy second)
    {
        var at = challenge.Second!;
        var scene = ChallengeRules.For(challenge.Scene, first.Rig);
        // What rides on the first rides on the second as well: of each such thing there is one for it.
        var rides = scene.Split('\n').Where(l => !l.TrimStart().StartsWith('#')).Select(l => Riding(l, first, second)).OfType<string>();
        var guest = string.Create(
            CultureInfo.InvariantCulture,
            $"guest {Rival} is Rival rig copy 1, starts at ({at.X}, {at.Y}) facing {at.Facing} robot deg"
        );
        return Ready(challenge, Bind(string.Join('\n', rides.Prepend(guest).Prepend(scene)) + "\n", first, second));
    }

    // “thing flag …, on Drive at (0, 40)” of the first, for the second.
    private static string? Riding(string line, BenchCopy first, BenchCopy second)
    {
        var read = SceneParser.Parse("scene One\n" + line.Trim() + "\n", first.Rig);
        if (read.Scene.Lines is not [{ Key: "thing round" or "thing box" } thing] || thing.Name("carrier") is not { } carrier)
            return null;
        var own = second.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Rigs.Going.Steered);
        if (own is null)
            return null;
        var values = new Dictionary<string, object>(thing.Values)
        {
            ["name"] = $"{Rival} {thing.Name("name")}",
            ["carrier"] = $"{Rival}'s {own.Name}",
        };
        return ScenePrinter.Print(thing with { Values = values });
    }

    private static BenchPlan Bind(string text, BenchCopy copy, BenchCopy? guest)
    {
        var read = SceneParser.Parse(ChallengeRules.For(text, copy.Rig), copy.Rig);
        if (read.Diagnostics.Count > 0)
            throw new InputProblem("scene", $"Line {read.Diagnostics[0].Line} of the scene: {read.Diagnostics[0].Message}");
        return BenchPlan.Build(copy, read.Scene, guest is null ? null : (_, _) => guest, Model);
    }

    private static BenchPlan Ready(Challenge challenge, BenchPlan plan)
    {
        if (challenge.By == HeatScore.Time && plan.Unproved is { } why)
            throw new InputProblem("scene", why);
        if (challenge.By is HeatScore.Stays or HeatScore.Distance)
            for (var rig = 0; rig < (challenge.Together ? 2 : 1); rig++)
                if (plan.Drives.All(d => d.Rig != rig) && plan.Vehicles.All(v => v.Rig != rig))
                    throw new InputProblem("scene", "Nothing drives on this machine.");
        return plan;
    }

    /// <summary>One run.</summary>
    /// <param name="challenge">The challenge.</param>
    /// <param name="bench">A runner for the plan.</param>
    /// <param name="runSeed">Seed of the run.</param>
    /// <param name="copySeed">Seed of the copies.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>The scores of both lanes; the second is null where there is one only.</returns>
    public static (double? First, double? Second) Run(
        Challenge challenge,
        Bench bench,
        long runSeed,
        long copySeed,
        CancellationToken cancel = default
    )
    {
        if (challenge.By is HeatScore.Points or HeatScore.Time)
        {
            var result = bench.Go(runSeed, true, cancel, copySeed);
            return challenge.By == HeatScore.Points ? (result.Score, null)
                : result.Passed ? (result.TimeMicros * 1e-6, null)
                : (null, null);
        }
        bench.Start((ulong)runSeed, (ulong)copySeed);
        var end = (long)Math.Round(bench.Plan.EndsS * 1e6);
        var rigs = challenge.Together ? 2 : 1;
        Span<double> outAt = [double.NaN, double.NaN];
        Span<double> far = [0, 0];
        Span<(double X, double Y)> from = [From(bench, 0), rigs > 1 ? From(bench, 1) : default];
        for (long look = 0; bench.NowMicros < end; )
        {
            if (bench.NowMicros >= look)
            {
                cancel.ThrowIfCancellationRequested();
                look = bench.NowMicros + 500_000;
            }
            bench.Step(end);
            var fallen = false;
            for (var rig = 0; rig < rigs; rig++)
            {
                if (double.IsNaN(outAt[rig]) && bench.IsOut(rig))
                    outAt[rig] = bench.NowMicros * 1e-6;
                fallen |= !double.IsNaN(outAt[rig]);
                // Where it lies after a fall is no way it came.
                if (double.IsNaN(outAt[rig]))
                    far[rig] = Math.Max(far[rig], Way(bench, rig, from[rig]));
            }
            // Whose falls first has lost.
            if (fallen && challenge.By == HeatScore.Stays)
                break;
        }
        double? Of(int rig, Span<double> outs, Span<double> ways) =>
            rig >= rigs ? null
            : challenge.By == HeatScore.Distance ? ways[rig]
            : double.IsNaN(outs[rig]) ? bench.Plan.EndsS
            : outs[rig];
        return (Of(0, outAt, far), Of(1, outAt, far));
    }

    private static (double X, double Y) From(Bench bench, int rig)
    {
        var at = Array.FindIndex(bench.Plan.Drives, d => d.Rig == rig);
        return at < 0 ? default : (bench.DriveStates[at].X, bench.DriveStates[at].Y);
    }

    // How far it is from its start: as the crow flies, or along the rail.
    private static double Way(Bench bench, int rig, (double X, double Y) from)
    {
        var at = Array.FindIndex(bench.Plan.Drives, d => d.Rig == rig);
        if (at >= 0)
            return Math.Sqrt(
                (bench.DriveStates[at].X - from.X) * (bench.DriveStates[at].X - from.X)
                    + (bench.DriveStates[at].Y - from.Y) * (bench.DriveStates[at].Y - from.Y)
            );
        at = Array.FindIndex(bench.Plan.Vehicles, v => v.Rig == rig);
        return at < 0 ? 0 : Math.Abs(bench.VehicleStates[at].Rolled);
    }

    /// <summary>All runs of a tournament: each machine by itself, or each heat with both in one place. A machine that cannot run is told
    /// with its reason and loses to those that can.</summary>
    /// <param name="challenge">The challenge.</param>
    /// <param name="machines">The teams' machines; null for one that is not there.</param>
    /// <param name="seed">Seed of the whole: all machines have the same luck.</param>
    /// <param name="done">Told how many runs are made, of how many; null for nobody.</param>
    /// <param name="workers">Threads.</param>
    /// <param name="scheduler">Where they run; null for the usual.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static ContestRuns Run(
        Challenge challenge,
        IReadOnlyList<BenchCopy?> machines,
        long seed,
        Action<int, int>? done = null,
        int workers = 1,
        TaskScheduler? scheduler = null,
        CancellationToken cancel = default
    )
    {
        var missing = new string[machines.Count];
        string Try(Action bind)
        {
            try
            {
                bind();
                return "";
            }
            catch (InputProblem p)
            {
                return string.Join(" ", p.Errors.Values);
            }
        }
        var plans = new BenchPlan?[machines.Count];
        for (var t = 0; t < machines.Count; t++)
            missing[t] =
                machines[t] is not { } copy ? "It has no rig."
                // As the first and as the second lane it is the same machine.
                : challenge.Together ? Try(() => Both(challenge, copy, copy))
                : Try(() => plans[t] = Alone(challenge, copy));
        var lanes = challenge.Together
            ? Heats.Schedule(machines.Count).Where(h => missing[h.First] == "" && missing[h.Second] == "").ToArray()
            : [];
        var each = challenge.Together ? MetRunsEach(machines.Count) : AloneRuns;
        var total = each * (challenge.Together ? lanes.Length : missing.Count(m => m == ""));
        var made = 0;
        (double? First, double? Second)[] All(BenchPlan plan)
        {
            var scores = new (double?, double?)[each];
            Parallel.For(
                0,
                each,
                new ParallelOptions
                {
                    MaxDegreeOfParallelism = Math.Max(1, workers),
                    TaskScheduler = scheduler ?? TaskScheduler.Default,
                    CancellationToken = cancel,
                },
                () => new Bench(plan),
                (i, _, bench) =>
                {
                    var luck = RandomStream.SeedOfRun(seed, i);
                    scores[i] = Run(challenge, bench, luck, luck, cancel);
                    var now = Interlocked.Increment(ref made);
                    if (now % 20 == 0 || now == total)
                        done?.Invoke(now, total);
                    return bench;
                },
                _ => { }
            );
            return scores;
        }
        var alone = new IReadOnlyList<double?>[machines.Count];
        for (var t = 0; t < machines.Count; t++)
            alone[t] = plans[t] is { } plan ? [.. All(plan).Select(s => s.First)] : [];
        MetRuns[] met =
        [
            .. lanes.Select(h => new MetRuns(
                h.First,
                h.Second,
                [.. All(Both(challenge, machines[h.First]!, machines[h.Second]!)).Select(s => (IReadOnlyList<double?>)[s.First, s.Second])]
            )),
        ];
        return new(challenge.Together ? [] : alone, met, missing);
    }
}
