using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Core.Classroom.Training;

/// <summary>A machine that was run on the bench, for exercises.</summary>
/// <param name="Script">Its program.</param>
/// <param name="Outcomes">1 or 0 a run, in the order of the seeds.</param>
/// <param name="Failure">How the first run that failed went wrong, in words; empty where none did.</param>
public sealed record CountedMachine(string Script, string Outcomes, string Failure)
{
    /// <summary>Runs that passed.</summary>
    public int Passes => Outcomes.Count(c => c == '1');
}

/// <summary>Exercises that need the bench: find the fault, will it work, which to measure.</summary>
public static class Counting
{
    /// <summary>Runs of a machine.</summary>
    public const int Runs = 200;

    // Widths of a range that lie nearer are not told apart.
    private const double Apart = 0.02;

    /// <summary>Whether 200 runs can tell a machine with a fault from the sound one: it fails more often, on the same luck, by more than
    /// luck does.</summary>
    public static bool Tells(CountedMachine sound, CountedMachine faulty) =>
        Paired.Of(sound.Outcomes, faulty.Outcomes) is { Verdict: Compared.Worse } paired && paired.Lost - paired.Gained >= Runs / 10;

    /// <summary>Find the fault; null where too few other sentences are there to choose from.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="fault">What was made wrong.</param>
    /// <param name="sound">How the sound machine did.</param>
    /// <param name="faulty">How the one with the fault did; one that is told from the sound one by its runs, or by a finding.</param>
    /// <param name="finding">What Check says of it and not of the sound one; empty where it says nothing.</param>
    /// <param name="seed">Seed of what is drawn.</param>
    public static Exercise? Fault(
        TrainingRig rig,
        SentenceFault fault,
        CountedMachine sound,
        CountedMachine faulty,
        string finding,
        ulong seed
    )
    {
        if (finding == "" && !Tells(sound, faulty))
            return null;
        var luck = new RandomStream(seed, 3);
        var design = rig.Copy.Rig;
        var program = ScriptParser.Parse(fault.Script, Vocabulary.For(design, design.Program)).Program;
        // What is missing is no line that could be pointed at: its state is.
        var right = fault.After is { } after
            ? new ExerciseOption($"{fault.Where}: {after}", fault.Say)
            : new ExerciseOption($"{fault.Where}: a sentence is missing", fault.Say);
        ExerciseOption[] others =
        [
            .. luck.Mixed(
                    program
                        .AllStates.SelectMany(s =>
                            s.Lines.Select(l => $"{s.Name}: {Printer.Plain(Printer.Pieces(l))}").Append($"{s.Name}: a sentence is missing")
                        )
                        .Where(t => t != right.Text)
                        .Distinct()
                )
                .Take(3)
                .Select(t => new ExerciseOption(t, "That is as it was in the sound machine.")),
        ];
        if (others.Length < 2)
            return null;
        var options = luck.Mixed(others.Append(right));
        return new(
            ExerciseKind.Fault,
            $"fault {rig.Id} {fault.Script}",
            rig.Name,
            "One sentence of a sound machine was made wrong. Which?",
            [.. ScriptParser.Split(fault.Script).Where(l => !l.TrimStart().StartsWith('#') && l.Trim() != "")],
            [
                .. faulty.Failure == "" ? Array.Empty<string>() : [$"A run that failed: {faulty.Failure}."],
                $"It passed {faulty.Passes} of {Runs} runs; the sound one {sound.Passes}.",
                .. finding == "" ? Array.Empty<string>() : [$"Check says: {finding}"],
            ]
        )
        {
            Options = options,
            Right = Array.IndexOf(options, right),
            Reason = fault.Say,
        };
    }

    /// <summary>Will it work: a machine whose rate is guessed before it is told.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="machine">How it did.</param>
    /// <param name="about">What it is to do.</param>
    public static Exercise Rate(TrainingRig rig, CountedMachine machine, IReadOnlyList<string> about) =>
        new(
            ExerciseKind.Rate,
            $"rate {rig.Id} {machine.Script} {machine.Outcomes}",
            rig.Name,
            "How many of 100 runs will pass?",
            [.. ScriptParser.Split(machine.Script).Where(l => !l.TrimStart().StartsWith('#') && l.Trim() != "")],
            about
        )
        {
            Rate = new(machine.Passes, machine.Outcomes.Length),
            Reason = machine.Failure == "" ? "No run failed." : $"The first run that failed: {machine.Failure}.",
        };

    /// <summary>Which to measure: three numbers of which measuring one narrows the range most; null where no three can be measured, or none
    /// stands out.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="doubts">What is in doubt of it.</param>
    /// <param name="seed">Seed of what is drawn.</param>
    public static Exercise? Measure(TrainingRig rig, IReadOnlyList<Doubt> doubts, ulong seed)
    {
        var luck = new RandomStream(seed, 7);
        // Those that stand out from two others at least by more than the range is told to; where there is one, it is found.
        Doubt[] known = [.. doubts.Where(d => d.WidthThen is not null).OrderBy(d => d.WidthThen)];
        Doubt[] Beyond(Doubt d) => [.. known.Where(o => o.WidthThen!.Value - d.WidthThen!.Value >= Apart)];
        Doubt[] able = [.. known.Where(d => Beyond(d).Length >= 2)];
        if (able.Length == 0)
            return null;
        var best = able[luck.Below(able.Length)];
        Doubt[] three = [best, .. luck.Mixed(Beyond(best)).Take(2)];
        // Of how much something varies the number says nothing by itself.
        static string Value(Doubt d) => d.Unit == "times" ? "" : $"{Figures.Show(d.Value)}{(d.Unit == "" ? "" : " " + d.Unit)}, ";
        static string Points(double width) => $"{Figures.Show(100 * width, 2)} of 100";
        var all = three.Select(d => new ExerciseOption(
            $"{d.Name}, {Value(d)}{d.Kind.ToString().ToLowerInvariant()}",
            $"Measured, the range would be {Points(d.WidthThen!.Value)} wide; it is {Points(d.WidthNow)} now."
        ));
        var (right, options) = (all.First(), luck.Mixed(all));
        return new(
            ExerciseKind.Measure,
            $"measure {rig.Id} {string.Join(' ', three.Select(d => $"{d.Name} {d.Value} {d.WidthThen}"))}",
            rig.Name,
            "Nobody knows yet how often this machine works. Measuring which of these narrows the range most?",
            [],
            [$"The range is {Points(three[0].WidthNow)} wide."]
        )
        {
            Options = options,
            Right = Array.FindIndex(options, o => o.Text == right.Text),
            Reason = right.Why,
        };
    }
}
