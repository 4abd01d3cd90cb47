using System.Globalization;
using Chiton.Core.Classroom;
using Chiton.Core.Classroom.Training;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Data;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

/// <summary>Exercises that are made from the rigs of the farm and from machines that were made up: each has one right answer, which the
/// engine confirms. A sample here; ten thousand a kind in <c>./dev long</c>.</summary>
[Collection("Behind everything else")]
public class TrainerTests
{
    private static readonly Lazy<Task<TrainingRig[]>> Farm = new(async () =>
    {
        await using var scope = Bench.Shared.Server.Services.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<RigStore>();
        var rigs = new List<TrainingRig>();
        foreach (var id in await store.Ids(default))
        {
            var state = await store.Load(id, null, null, default);
            rigs.Add(new(id, state.Design.Name, state.Bench));
        }
        return [.. rigs];
    });

    // A machine that was made up: a few states with random sentences about the trolley's eye, a count and the time.
    private static TrainingRig MadeUp(TrainingRig trolley, int seed)
    {
        var luck = new Random(seed);
        var states = Enumerable.Range(0, 3 + luck.Next(4)).Select(i => $"S{i}").ToArray();
        string Sentence()
        {
            var to = states[luck.Next(states.Length)];
            var guard = luck.Next(3) == 0 ? $" if n {(luck.Next(2) == 0 ? "<" : ">=")} {luck.Next(1, 4)}" : "";
            var act = luck.Next(2) == 0 ? "set n to n + 1; " : "";
            return luck.Next(5) switch
            {
                0 => $"when Tag eye becomes bed tag{guard}: {act}go {to}",
                1 => $"when Tag eye becomes sleepers{guard}: {act}go {to}",
                2 => $"when Tag eye is bed tag{guard}: {act}go {to}",
                3 => $"when n = {luck.Next(1, 5)}: go {to}",
                _ => $"after {luck.Next(1, 9)} s{guard}: {act}go {to}",
            };
        }
        var script =
            "program Made up\n\nvar n = 0\n\nregion Main\n"
            + string.Concat(
                states.Select(
                    (s, i) =>
                        $"  state {s}{(i == 0 ? ", initial" : "")}\n"
                        + string.Concat(Enumerable.Range(0, 2 + luck.Next(4)).Select(_ => $"    {Sentence()}\n"))
                )
            );
        var design = trolley.Copy.Rig;
        return trolley with
        {
            Id = $"made-{seed}",
            Copy = trolley.Copy with { Rig = design.WithProgram(design.MainProgram, design.Program with { Script = script, Marks = [] }) },
        };
    }

    private static async Task<TrainingRig[]> All(int more)
    {
        var farm = await Farm.Value;
        return [.. farm, .. Enumerable.Range(0, more).Select(i => MadeUp(farm.Single(r => r.Id == "seed-trolley"), i))];
    }

    // Every exercise of a kind over all rigs, with what holds for all of them.
    private static async Task<List<(TrainingRig Rig, Exercise Exercise)>> Made(Func<TrainingRig, ulong, Exercise?> make, int sample)
    {
        var rigs = await All(20);
        var made = new List<(TrainingRig, Exercise)>();
        for (ulong seed = 0; made.Count < Campaign.Of(sample, 10_000) && seed < (ulong)Campaign.Of(sample, 10_000); seed++)
            foreach (var rig in rigs)
                if (make(rig, seed) is { } one)
                {
                    made.Add((rig, one));
                    // The same seed is the same exercise.
                    if (made.Count % 50 == 0)
                        Assert.Equal(Documents.Write(one), Documents.Write(make(rig, seed)!));
                }
        Assert.True(made.Count >= Campaign.Of(sample, 10_000), $"{made.Count} were made.");
        return made;
    }

    // The engine is asked again.
    private static IReadOnlyList<WalkMoment> Again(TrainingRig rig, Exercise e)
    {
        var design = rig.Copy.Rig;
        var parsed = ScriptParser.Parse(design.Program.Script, Vocabulary.For(design, design.Program));
        return ScriptWalk.Run(ScriptCompiler.ForWalk(parsed.Program, design, rig.Copy.Calibrations), e.Walked);
    }

    private static string State(string said) => said.Contains('.') ? said[(said.IndexOf('.') + 1)..] : said;

    private static void OneIsRight(Exercise e)
    {
        Assert.InRange(e.Options.Count, 3, 4);
        Assert.Equal(e.Options.Count, e.Options.Select(o => o.Text).Distinct().Count());
        Assert.InRange(e.Right, 0, e.Options.Count - 1);
        Assert.All(e.Options, o => Assert.NotEqual("", o.Why));
        for (var i = 0; i < e.Options.Count; i++)
        {
            var judged = ExerciseJudge.Judge(e, new(i));
            Assert.Equal((i == e.Right, i == e.Right ? 1 : 0), (judged.Right, judged.Score));
            Assert.Contains(e.Options[i].Why, judged.Say);
        }
        Assert.Throws<InputProblem>(() => ExerciseJudge.Judge(e, new(e.Options.Count)));
        Assert.Throws<InputProblem>(() => ExerciseJudge.Judge(e, new(Number: 1)));
    }

    [Fact]
    public async Task What_happens_next_has_one_right_answer_and_wrong_readings_beside_it()
    {
        var made = await Made(Walking.Next, 300);
        var (guards, edges, orders, nothings) = (0, 0, 0, 0);
        foreach (var (rig, e) in made)
        {
            OneIsRight(e);
            // What the engine takes is the right one, and none of the others.
            var taken = Again(rig, e)[^1].Taken.Select(t => t.Text).ToArray();
            Assert.Equal(
                taken.Length == 0 ? ["None: nothing goes."] : taken,
                e.Options.Where((_, i) => i == e.Right)
                    .Select(o => taken.FirstOrDefault(t => o.Text.EndsWith(t, StringComparison.Ordinal)) ?? o.Text)
            );
            guards += e.Options.Any(o => o.Why.StartsWith("Its condition does not hold", StringComparison.Ordinal)) ? 1 : 0;
            edges += e.Options.Any(o => o.Why.Contains("it was there already", StringComparison.Ordinal)) ? 1 : 0;
            orders += e.Options.Any(o => o.Why.Contains("another one comes first", StringComparison.Ordinal)) ? 1 : 0;
            nothings += e.Options[e.Right].Text.StartsWith("None", StringComparison.Ordinal) ? 1 : 0;
            Assert.NotEmpty(e.Program);
            Assert.Contains(e.Facts, f => f.StartsWith("It is in ", StringComparison.Ordinal));
        }
        // Every wrong reading of the language leads astray somewhere, and "nothing" is neither always nor never right.
        Assert.True(guards > 5 && edges > 5 && orders > 5, $"{guards} guards, {edges} edges, {orders} orders");
        Assert.InRange(nothings, made.Count / 20, made.Count * 3 / 4);
    }

    [Fact]
    public async Task A_trace_is_what_the_engine_walks()
    {
        foreach (var (rig, e) in await Made(Walking.Trace, 200))
        {
            var trace = e.Trace!;
            Assert.Equal((5, 5, 5), (trace.Events.Count, trace.Right.Count, trace.Why.Count));
            var moments = Again(rig, e);
            Assert.Equal(moments.Skip(1).Select(m => State(m.States[0])), trace.Right.Select(i => State(trace.States[i])));
            // The page tells the same five events.
            foreach (var (walked, told) in e.Walked.Zip(trace.Events))
                if (walked.Name is null)
                    Assert.Equal($"{Figures.Show(walked.AfterMs / 1000)} s pass.", told);
                else
                    Assert.All(walked.Name.Split(' '), w => Assert.Contains(w, told, StringComparison.OrdinalIgnoreCase));
            Assert.True(ExerciseJudge.Judge(e, new(Steps: trace.Right)).Right);
            for (var i = 0; i < 5; i++)
            {
                var wrong = trace.Right.ToArray();
                wrong[i] = (wrong[i] + 1) % trace.States.Count;
                var judged = ExerciseJudge.Judge(e, new(Steps: wrong));
                Assert.Equal((false, i, i / 5.0), (judged.Right, judged.FirstSlip, judged.Score));
            }
            Assert.Throws<InputProblem>(() => ExerciseJudge.Judge(e, new(Steps: [0, 0, 0, 0])));
            Assert.Throws<InputProblem>(() => ExerciseJudge.Judge(e, new(Steps: [0, 0, 0, 0, 99])));
        }
    }

    [Fact]
    public async Task The_best_threshold_costs_least_and_lies_where_the_sum_of_the_bench_puts_it()
    {
        foreach (var (_, e) in await Made(Thresholds.Make, 200))
        {
            var dots = e.Dots!;
            var best = Thresholds.Cost(dots, dots.Best);
            var (low, high) = (dots.LowerReadings.Average(), dots.UpperReadings.Average());
            Assert.InRange(dots.Best, low, high);
            for (var i = 0; i <= 100; i++)
                Assert.True(Thresholds.Cost(dots, low + (high - low) * i / 100) >= best - 1e-9);
            Assert.True(ExerciseJudge.Judge(e, new(Number: dots.Best)).Right);
            Assert.False(ExerciseJudge.Judge(e, new(Number: low)).Right);
            Assert.False(ExerciseJudge.Judge(e, new(Number: high)).Right);
            Assert.Equal(1, ExerciseJudge.Judge(e, new(Number: dots.Best)).Score, 3);
            Assert.Throws<InputProblem>(() => ExerciseJudge.Judge(e, new(Number: double.NaN)));
            // The bench's own sum has equal harm on both sides: near, and never cheaper.
            var sum = Chiton.Core.Sensing.ThresholdSum.Compute(
                new([new("low", dots.LowerReadings), new("high", dots.UpperReadings)], 1, 10, School: "equalRisk")
            );
            Assert.True(Thresholds.Cost(dots, sum.Result.EqualRisk) >= best - 1e-9);
        }
        // By hand: two lists that spread alike are parted half way; one that lies closer together has the threshold nearer to it.
        DotsShown Lists(double[] low, double[] high) => new("Eye", "%", "a", "b", low, high, 0);
        double[] near = [8, 9, 10, 11, 12],
            far = [28, 29, 30, 31, 32],
            wide = [20, 25, 30, 35, 40];
        Assert.Equal(20, Thresholds.Best(Lists(near, far)), 3);
        Assert.InRange(Thresholds.Best(Lists(near, wide)), 13, 17);
    }

    [Fact]
    public async Task What_is_worked_out_is_right_within_its_spread_and_usual_slips_are_named()
    {
        var made = await Made(Working.Make, 300);
        var kinds = new HashSet<string>();
        foreach (var (_, e) in made)
        {
            var n = e.Number!;
            kinds.Add(e.Key.Split(' ')[2]);
            Assert.True(n.Right > 0 && n.Give >= 0.0199 * n.Right, e.Ask);
            foreach (var off in new[] { -1, -0.9, 0, 0.9, 1 })
                Assert.True(ExerciseJudge.Judge(e, new(Number: n.Right + off * n.Give * 0.999)).Right);
            Assert.NotEmpty(n.Slips);
            foreach (var slip in n.Slips)
            {
                var judged = ExerciseJudge.Judge(e, new(Number: slip.Value));
                Assert.False(judged.Right);
                Assert.StartsWith(
                    n.Slips.First(s => Math.Abs(s.Value - slip.Value) <= n.Give * Math.Max(0.2, Math.Abs(s.Value / n.Right))).Say,
                    judged.Say
                );
            }
            Assert.Contains("is off by", ExerciseJudge.Judge(e, new(Number: n.Right * 17.3)).Say);
        }
        Assert.Superset(new HashSet<string> { "turns", "degrees", "way", "turning", "trigger", "tag" }, kinds);
    }

    [Fact]
    public async Task What_is_worked_out_agrees_with_the_sums_of_the_bench()
    {
        foreach (
            var (rig, e) in (await Made(Working.Make, 300)).Where(x =>
                x.Exercise.Key.Contains(" turning ") || x.Exercise.Key.Contains(" degrees ")
            )
        )
        {
            var words = e.Key.Split(' ');
            double Last(int back) => double.Parse(words[^back], CultureInfo.CurrentCulture);
            if (words.Contains("turning"))
            {
                var turn = Chiton.Core.Motion.Turn.Compute(new(Last(2), Last(1), Last(4), words[^3] == "True" ? "pivot" : "spin"));
                Assert.Equal(Math.Max(Math.Abs(turn.Result.LeftWheelDeg), Math.Abs(turn.Result.RightWheelDeg)), e.Number!.Right, 6);
            }
            else
            {
                var way = Chiton.Core.Motion.WheelTravel.Compute(new(Last(1), Last(2)));
                Assert.Equal(way.Result.WheelDeg, e.Number!.Right, 6);
            }
            Assert.NotNull(rig);
        }
    }

    [Fact]
    public async Task Only_faults_are_asked_that_200_runs_can_tell_and_one_option_names_them()
    {
        var asked = 0;
        var known = new List<(TrainingRig Rig, SentenceFault Fault, CountedMachine Sound, CountedMachine Faulty)>();
        foreach (var rig in (await Farm.Value).Where(r => Campaign.Whole || r.Id is "seed-trolley" or "rack-hoist" or "deck-scrubber"))
        {
            var design = rig.Copy.Rig;
            CountedMachine Count(string script)
            {
                var copy = rig.Copy with { Rig = design.WithProgram(design.MainProgram, design.Program with { Script = script }) };
                var scene = Chiton.Core.Simulation.Scenes.SceneParser.Parse(design.Scenes[0].Text, design).Scene;
                var done = Chiton.Core.Proving.ManyRuns.Run(
                    new Chiton.Core.Proving.PlanProved(BenchPlan.Build(copy, scene)),
                    new(1, Chiton.Core.Proving.RunLayout.Kinds.Copies, Counting.Runs)
                );
                return new(script, done.Outcomes, "");
            }
            var sound = Count(design.Program.Script);
            foreach (
                var (i, fault) in SentenceFaults
                    .In(design.Program.Script, Vocabulary.For(design, design.Program))
                    .Index()
                    .Where(f => Campaign.Whole || f.Index % 4 == 0)
            )
            {
                var faulty = Count(fault.Script);
                var told = Counting.Fault(rig, fault, sound, faulty, "", (ulong)i);
                // By hand: as many more fail as one in ten, each run on the same luck.
                var lost =
                    sound.Outcomes.Zip(faulty.Outcomes).Count(p => p is ('1', '0'))
                    - sound.Outcomes.Zip(faulty.Outcomes).Count(p => p is ('0', '1'));
                if (told is null)
                {
                    // Check can tell it all the same.
                    Assert.NotNull(Counting.Fault(rig, fault, sound, faulty, "It may hang.", (ulong)i));
                    continue;
                }
                Assert.True(lost >= Counting.Runs / 10, $"{rig.Id}: {fault.Say} {lost}");
                asked++;
                known.Add((rig, fault, sound, faulty));
                OneIsRight(told);
                Assert.Equal(fault.Say, told.Reason);
                Assert.Contains(told.Options, o => o.Text.StartsWith(fault.Where, StringComparison.Ordinal) && o.Why == fault.Say);
            }
        }
        Assert.True(asked >= 5, $"{asked} were told.");
        // The same faults asked again and again: whatever stands beside the right answer is as it was in the sound machine.
        for (var n = 0; n < Campaign.Of(300, 10_000); n++)
        {
            var (rig, fault, sound, faulty) = known[n % known.Count];
            var made = Counting.Fault(rig, fault, sound, faulty, "", (ulong)n)!;
            OneIsRight(made);
            ILookup<string, string> Lines(string script) =>
                LessonStart
                    .Sentences(ScriptParser.Parse(script, Vocabulary.For(rig.Copy.Rig, rig.Copy.Rig.Program)).Program)
                    .ToLookup(l => l.Where, l => l.Text);
            var (before, after) = (Lines(sound.Script), Lines(fault.Script));
            for (var o = 0; o < made.Options.Count; o++)
            {
                var (where, line) = (made.Options[o].Text.Split(": ", 2)[0], made.Options[o].Text.Split(": ", 2)[1]);
                var same = line == "a sentence is missing" ? before[where].Count() == after[where].Count() : before[where].Contains(line);
                Assert.True(same != (o == made.Right), $"{rig.Id}, {fault.Say}: {made.Options[o].Text}");
            }
        }
        // By hand: fifteen of 200 are no luck, but too few to be told by; twenty are enough, and twenty one way and ten the other are not.
        static CountedMachine Of(int lost, int gained) =>
            new("", new string('0', lost) + new string('1', 190 - lost) + new string('1', gained) + new string('0', 10 - gained), "");
        Assert.False(Counting.Tells(Of(0, 0), Of(15, 0)));
        Assert.True(Counting.Tells(Of(0, 0), Of(20, 0)));
        Assert.False(Counting.Tells(Of(0, 0), Of(20, 10)));
        Assert.False(Counting.Tells(Of(20, 0), Of(0, 0)));
    }

    [Fact]
    public async Task A_forecast_is_scored_by_how_far_off_it_is()
    {
        var rig = (await Farm.Value)[0];
        Exercise Of(int passes) => Counting.Rate(rig, new("program P\n", new string('1', passes) + new string('0', 200 - passes), ""), []);
        // By hand: (0.7 − 0.5)² = 0.04, and a run that comes as often as it does not cannot be known better than 0.25.
        Assert.Equal(1 - (0.04 + 0.25), ExerciseJudge.Judge(Of(100), new(Number: 70)).Score, 12);
        Assert.Equal(1, ExerciseJudge.Judge(Of(200), new(Number: 100)).Score, 12);
        Assert.Equal(0, ExerciseJudge.Judge(Of(0), new(Number: 100)).Score, 12);
        Assert.True(ExerciseJudge.Judge(Of(100), new(Number: 69)).Right);
        Assert.False(ExerciseJudge.Judge(Of(100), new(Number: 71)).Right);
        Assert.Contains("too hopeful", ExerciseJudge.Judge(Of(20), new(Number: 90)).Say);
        Assert.Contains("too gloomy", ExerciseJudge.Judge(Of(180), new(Number: 10)).Say);
        foreach (var wrong in new double?[] { null, -1, 101, double.NaN, double.PositiveInfinity })
            Assert.Throws<InputProblem>(() => ExerciseJudge.Judge(Of(100), new(Number: wrong)));
        // Ten thousand forecasts: the Brier score of that many runs, counted one by one; the best forecast is the rate itself.
        var luck = new Random(6);
        for (var n = 0; n < 10_000; n++)
        {
            var (passes, guess) = (luck.Next(201), luck.Next(101));
            var brier = (passes * Math.Pow(guess / 100.0 - 1, 2) + (200 - passes) * Math.Pow(guess / 100.0, 2)) / 200;
            var machine = Of(passes);
            var judged = ExerciseJudge.Judge(machine, new(Number: guess));
            Assert.Equal(1 - brier, judged.Score, 12);
            Assert.True(ExerciseJudge.Judge(machine, new(Number: passes / 2.0)).Score >= judged.Score - 1e-12);
        }
    }

    [Fact]
    public async Task Of_three_numbers_the_one_is_right_that_narrows_most()
    {
        var rig = (await Farm.Value)[0];
        Chiton.Core.Proving.Doubt Doubt(string name, double? then) =>
            new(name, "mm", Provenance.Guessed, "", 10, 0.2, 0.2, 0.5, null, 0.5, then);
        Assert.Null(Counting.Measure(rig, [Doubt("a", 0.1), Doubt("b", 0.2)], 1));
        Assert.Null(Counting.Measure(rig, [Doubt("a", 0.1), Doubt("b", 0.2), Doubt("c", null)], 1));
        Assert.Null(Counting.Measure(rig, [Doubt("a", 0.3), Doubt("b", 0.301), Doubt("c", 0.4)], 1));
        for (ulong seed = 0; seed < 50; seed++)
        {
            var made = Counting.Measure(rig, [Doubt("c", 0.4), Doubt("a", 0.1), Doubt("d", 0.45), Doubt("b", 0.2)], seed)!;
            OneIsRight(made);
            var names = made.Options.Select(o => o.Text[..1]).ToArray();
            Assert.Equal(names.Order().First(), names[made.Right]);
        }
        // Where one of them stands out from two others it is asked, whatever is drawn.
        for (ulong seed = 0; seed < 200; seed++)
        {
            var one = Counting.Measure(
                rig,
                [Doubt("a", 0.1), Doubt("b", 0.11), Doubt("c", 0.115), Doubt("d", 0.13), Doubt("e", 0.131)],
                seed
            )!;
            Assert.Contains(one.Options[one.Right].Text[0], "ab");
        }
        // Ten thousand lists: the right one would leave the narrowest range, by as much as a range is told to.
        var luck = new Random(7);
        var asked = 0;
        string last = "";
        for (var n = 0; n < 10_000; n++)
        {
            var widths = Enumerable.Range(0, 3 + luck.Next(6)).ToDictionary(i => $"number {i}", _ => Math.Round(luck.NextDouble(), 3));
            if (Counting.Measure(rig, [.. widths.Select(w => Doubt(w.Key, w.Value))], (ulong)n) is not { } made)
                continue;
            asked++;
            OneIsRight(made);
            Assert.Equal(3, made.Options.Count);
            var left = made.Options.Select(o => widths[o.Text.Split(',')[0]]).ToArray();
            Assert.All(left.Where((_, i) => i != made.Right), w => Assert.True(w - left[made.Right] >= 0.02 - 1e-9));
            Assert.NotEqual(last, made.Key);
            last = made.Key;
        }
        Assert.True(asked > 8_000, $"{asked} were asked.");
    }

    [Fact]
    public void A_skill_is_as_sure_as_simulated_learners_turn_out_to_be()
    {
        // Whoever can do it at least eight times of ten, among learners of every ability alike: what is said to be so sure must be so often
        // true. Ten answers within an hour, so that nothing is forgotten.
        var luck = new Random(7);
        var now = new DateTime(2026, 1, 1, 0, 0, 0, DateTimeKind.Utc);
        var said = new List<(double Sure, bool Can)>();
        for (var learner = 0; learner < 40_000; learner++)
        {
            var ability = luck.NextDouble();
            var answers = Enumerable.Range(0, 1 + luck.Next(20)).Select(_ => new Practice(luck.NextDouble() < ability, now));
            said.Add((Mastery.Of(ExerciseKind.Next, answers, now).Sure, ability >= Mastery.Can));
        }
        foreach (var bin in said.GroupBy(s => (int)(s.Sure * 10)).Where(b => b.Count() > 300))
        {
            var (mean, real) = (bin.Average(b => b.Sure), bin.Average(b => b.Can ? 1.0 : 0));
            // Four standard errors.
            Assert.InRange(
                real - mean,
                -4 * Math.Sqrt(mean * (1 - mean) / bin.Count()) - 0.002,
                4 * Math.Sqrt(mean * (1 - mean) / bin.Count()) + 0.002
            );
        }
        // By hand: with no answer uniform, so one in five can; with ten right ones 1 − 0.8^11.
        Assert.Equal(0.2, Mastery.Of(ExerciseKind.Next, [], now).Sure, 12);
        Assert.Equal(1 - Math.Pow(0.8, 11), Mastery.Of(ExerciseKind.Next, Enumerable.Repeat(new Practice(true, now), 10), now).Sure, 9);
        // In two weeks half of it is forgotten, and after a year nearly all.
        var later = Mastery.Of(ExerciseKind.Next, Enumerable.Repeat(new Practice(true, now), 10), now.AddDays(14));
        Assert.Equal(5, later.Right, 9);
        Assert.Equal(1 - Math.Pow(0.8, 6), later.Sure, 9);
        Assert.Equal(0.2, Mastery.Of(ExerciseKind.Next, Enumerable.Repeat(new Practice(true, now), 10), now.AddYears(1)).Sure, 3);
    }

    [Fact]
    public void What_is_nearly_mastered_comes_first_then_what_is_new_and_never_the_same_twice()
    {
        static Skill Of(ExerciseKind kind, double sure, int asked) => new(kind, sure * asked, (1 - sure) * asked, asked, sure);
        var skills = new[]
        {
            Of(ExerciseKind.Next, 0.9, 9),
            Of(ExerciseKind.Trace, 0.7, 5),
            Of(ExerciseKind.Work, 0.2, 0),
            Of(ExerciseKind.Rate, 0.3, 4),
        };
        Assert.Equal(ExerciseKind.Trace, Mastery.Next(skills, null).Kind);
        Assert.Equal(ExerciseKind.Work, Mastery.Next(skills, ExerciseKind.Trace).Kind);
        Assert.Equal(ExerciseKind.Rate, Mastery.Next([skills[0], skills[3]], ExerciseKind.Next).Kind);
        Assert.Equal(ExerciseKind.Next, Mastery.Next([skills[0]], ExerciseKind.Next).Kind);
        Assert.Equal("can do it", skills[0].Say);
        Assert.Equal("nearly there", skills[1].Say);
        Assert.Equal("not tried yet", skills[2].Say);
        Assert.Equal("needs more of it", skills[3].Say);
        Assert.Equal(7, Enum.GetValues<ExerciseKind>().Select(Mastery.Name).Distinct().Count());
    }
}
