using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Classroom;

/// <summary>A sentence of a program that a lesson can leave out.</summary>
/// <param name="Line">Its line in the script, from 1.</param>
/// <param name="Where">The state it stands in.</param>
/// <param name="Text">The sentence.</param>
public sealed record GapSentence(int Line, string Where, string Text);

/// <summary>What a team begins with: the lesson's rig with the lesson's program, its scene alone counting, and the walks that it
/// shows.</summary>
public static class LessonStart
{
    /// <summary>The design that a team is given.</summary>
    /// <param name="rig">The rig of the lesson.</param>
    /// <param name="lesson">The lesson.</param>
    public static RigDesign Of(RigDesign rig, Lesson lesson)
    {
        var main = rig.MainProgram;
        var text = rig.ProgramAt(main);
        var start = lesson.Start switch
        {
            StartKind.Empty => text with
            {
                Script = Printer.Head(ScriptParser.Parse(text.Script, Vocabulary.For(rig, text)).Program) + "\n",
                Marks = [],
                Meaning = ProgramText.MeaningNow,
            },
            StartKind.Gaps or StartKind.Fault => text with { Script = lesson.Script, Meaning = ProgramText.MeaningNow },
            _ => text,
        };
        return Counting(rig.WithProgram(main, start), lesson.Scene) with
        {
            Walks = rig.Walks.Where(w => lesson.Walks.Contains(w.Name)).ToSequence(),
        };
    }

    /// <summary>The same rig with one of its scenes first, and no other that counts; as it is where none is named.</summary>
    public static RigDesign Counting(RigDesign rig, string scene)
    {
        if (scene == "")
            return rig;
        bool Is(SceneText s) => Simulation.Scenes.SceneParser.Parse(s.Text, rig).Scene.Name == scene;
        var first = rig.Scenes.FirstOrDefault(Is);
        if (first is null)
            return rig;
        return rig with { Scenes = rig.Scenes.Where(s => s != first).Prepend(first).Select(Uncounted).ToSequence() };
    }

    private static SceneText Uncounted(SceneText scene) =>
        scene with
        {
            Text = string.Join('\n', scene.Text.Split('\n').Where(l => l.Split('#')[0].Trim() != "counts")),
        };

    /// <summary>Every sentence of a program that can be left out, in the order of lines.</summary>
    /// <param name="program">The program.</param>
    public static IReadOnlyList<GapSentence> Sentences(ProgramNode program) =>
        [
            .. program
                .AllStates.SelectMany(s =>
                    s.Lines.Where(l => l is not BrokenLineNode)
                        .Select(l => new GapSentence(l.Span.Line, s.Name, Printer.Plain(Printer.Pieces(l))))
                )
                .OrderBy(s => s.Line),
        ];

    /// <summary>A program with sentences left out, each with the comments that stand right above it.</summary>
    /// <param name="script">The text.</param>
    /// <param name="program">What it says.</param>
    /// <param name="lines">Lines of the sentences, from 1.</param>
    /// <returns>The text that is left, and what is missing, in words.</returns>
    /// <exception cref="InputProblem">When no sentence stands on a line, or none is left out.</exception>
    public static (string Script, string Answer) Without(string script, ProgramNode program, IReadOnlyCollection<int> lines)
    {
        var sentences = Sentences(program).ToDictionary(s => s.Line);
        if (lines.Count == 0)
            throw new InputProblem("lines", "Choose at least one sentence that is left out.");
        foreach (var line in lines)
            if (!sentences.ContainsKey(line))
                throw new InputProblem("lines", $"No sentence that can be left out stands on line {line}.");
        var text = ScriptParser.Split(script);
        var gone = new HashSet<int>(lines);
        foreach (var line in lines)
            for (var above = line - 1; above > 0 && text[above - 1].TrimStart().StartsWith('#'); above--)
                gone.Add(above);
        return (
            string.Join('\n', text.Where((_, i) => !gone.Contains(i + 1))),
            string.Join(" ", lines.Distinct().Order().Select(l => $"In {sentences[l].Where}: {sentences[l].Text}."))
        );
    }

    /// <summary>A lesson about a rig, to begin with: what counts as done is what its scenes ask for already.</summary>
    /// <param name="address">Address of the rig.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="taken">Names of the lessons that are there already.</param>
    public static Lesson About(string address, RigDesign rig, IReadOnlyCollection<string> taken)
    {
        var program = ScriptParser.Parse(rig.Program.Script, Vocabulary.For(rig, rig.Program)).Program;
        var counts =
            rig.Scenes.FirstOrDefault(s => Simulation.Scenes.SceneParser.Parse(s.Text, rig).Scene.Counts) ?? rig.Scenes.FirstOrDefault();
        string[] goals =
        [
            .. program.Head.OfType<RuleNode>().Select(r => Printer.Plain(Printer.Pieces(r))),
            .. (counts?.Text ?? "")
                .Split('\n')
                .Select(l => l.Split('#')[0].Trim())
                .Where(l => l.StartsWith("goal:", StringComparison.Ordinal) || l.StartsWith("never:", StringComparison.Ordinal)),
        ];
        var done = goals.Length > 0 ? new LessonDone(DoneKind.Rate, 9, 10) : new(DoneKind.Answer, Question: "What did you find out?");
        var name = rig.Name.Length > 40 ? rig.Name[..40].Trim() : rig.Name;
        return new(
            Board.FreeName(name, taken),
            address,
            "",
            goals.Length > 0
                ? $"Let {rig.Name} do its work, so that this holds: {string.Join("; ", goals)}."
                : $"Find out what {rig.Name} does, and say how it can be told that it did it.",
            40,
            done,
            Offered.All,
            StartKind.AsItIs,
            "",
            "",
            [],
            [],
            [new("It works", ["it does not run yet", "it works now and then", "it works nearly always"])],
            []
        );
    }

    /// <summary>A lesson for which the teams bring their own rig, to begin with.</summary>
    /// <param name="taken">Names of the lessons that are there already.</param>
    public static Lesson Own(IReadOnlyCollection<string> taken) =>
        new(
            Board.FreeName("A machine of your own", taken),
            "",
            "",
            "Bring a machine of your own, and show what it does.",
            60,
            new(DoneKind.Answer, Question: "What does it do, and how often does it work?"),
            Offered.All,
            StartKind.AsItIs,
            "",
            "",
            [],
            [],
            [new("It works", ["it does not run yet", "it works now and then", "it works nearly always"])],
            []
        );
}
