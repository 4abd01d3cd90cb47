using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Classroom;

/// <summary>What counts as done in a lesson.</summary>
public enum DoneKind
{
    /// <summary>The machine passes often enough in the bench.</summary>
    Rate,

    /// <summary>It passes often enough on the table.</summary>
    Table,

    /// <summary>A question is answered in words; the educator reads it.</summary>
    Answer,
}

/// <summary>What counts as done: "9 of 10 in as in the shed".</summary>
/// <param name="Kind">In the bench, on the table, or an answer.</param>
/// <param name="Passes">So many pass; 0 for an answer.</param>
/// <param name="Of">Of so many; 0 for an answer.</param>
/// <param name="Question">The question; empty for a rate.</param>
public sealed record LessonDone(DoneKind Kind, int Passes = 0, int Of = 0, string Question = "")
{
    /// <summary>Whether runs are enough. On the table at least as many as are asked for have to be made; in the bench the rate counts,
    /// however many were.</summary>
    /// <param name="passes">Runs that passed.</param>
    /// <param name="runs">Runs made.</param>
    public bool Met(int passes, int runs) =>
        Kind switch
        {
            DoneKind.Rate => runs > 0 && (long)passes * Of >= (long)Passes * runs,
            DoneKind.Table => runs >= Of && (long)passes * Of >= (long)Passes * runs,
            _ => false,
        };

    /// <summary>In words.</summary>
    /// <param name="scene">The scene; empty for the one that counts.</param>
    public string Say(string scene) =>
        Kind switch
        {
            DoneKind.Rate => $"{Passes} of {Of} runs pass in the bench{(scene == "" ? "" : $", in {scene}")}",
            DoneKind.Table => $"{Passes} of {Of} runs pass on the table",
            _ => $"an answer: {Question}",
        };
}

/// <summary>What a team begins with.</summary>
public enum StartKind
{
    /// <summary>The rig's own program.</summary>
    AsItIs,

    /// <summary>A program of which nothing but its name is written.</summary>
    Empty,

    /// <summary>A program of which parts are missing.</summary>
    Gaps,

    /// <summary>A program in which something was made wrong.</summary>
    Fault,
}

/// <summary>A row of the rubric: what is looked at, and words for each level, the lowest first.</summary>
/// <param name="What">What is looked at.</param>
/// <param name="Levels">Words for each level.</param>
public sealed record RubricRow(string What, IReadOnlyList<string> Levels);

/// <summary>A lesson: a rig and a scene, a task in plain words, and what helps to do it.</summary>
/// <param name="Name">Its name; there is one of each in a course.</param>
/// <param name="Rig">Address of its rig; empty where the teams bring their own.</param>
/// <param name="Scene">Name of the scene; empty for the one that counts.</param>
/// <param name="Task">The task, in plain words.</param>
/// <param name="Minutes">How long it takes, minutes.</param>
/// <param name="Done">What counts as done.</param>
/// <param name="Offered">Which sentences it offers.</param>
/// <param name="Start">What a team begins with.</param>
/// <param name="Script">The program that it begins with, for gaps and faults; empty otherwise.</param>
/// <param name="Answer">What is missing or wrong in it, for the educator alone; may be empty.</param>
/// <param name="Hints">Hints that open one by one.</param>
/// <param name="Walks">Names of kept walks that are shown as examples.</param>
/// <param name="Rubric">What it is marked by.</param>
/// <param name="BuildsOn">Names of lessons of the same course that come before it.</param>
public sealed record Lesson(
    string Name,
    string Rig,
    string Scene,
    string Task,
    int Minutes,
    LessonDone Done,
    Offered Offered,
    StartKind Start,
    string Script,
    string Answer,
    IReadOnlyList<string> Hints,
    IReadOnlyList<string> Walks,
    IReadOnlyList<RubricRow> Rubric,
    IReadOnlyList<string> BuildsOn
)
{
    /// <summary>Most hints.</summary>
    public const int MostHints = 10;

    /// <summary>Most rows of a rubric.</summary>
    public const int MostRows = 6;

    /// <summary>The lesson as it is kept: no blanks around what was typed, and no list that is nothing.</summary>
    public Lesson Clean() =>
        this with
        {
            Name = Name?.Trim() ?? "",
            Rig = Rig ?? "",
            Scene = Scene ?? "",
            Task = Task?.Trim() ?? "",
            Done = Done is null ? Done! : Done with { Question = Done.Question?.Trim() ?? "" },
            Script = Script?.ReplaceLineEndings("\n") ?? "",
            Answer = Answer?.Trim() ?? "",
            Hints = [.. (Hints ?? []).Select(h => h?.Trim() ?? "")],
            Walks = Walks ?? [],
            Rubric =
            [
                .. (Rubric ?? []).Select(r => new RubricRow(r?.What?.Trim() ?? "", [.. (r?.Levels ?? []).Select(l => l?.Trim() ?? "")])),
            ],
            BuildsOn = BuildsOn ?? [],
        };

    /// <summary>The lesson as a team may know it: without what is wrong in its program, and without the hints that are not open.</summary>
    /// <param name="opened">How many hints are open.</param>
    public Lesson ForTeam(int opened) => this with { Answer = "", Script = "", Hints = [.. Hints.Take(Math.Max(0, opened))] };
}

/// <summary>Lessons in order.</summary>
/// <param name="Name">Its name.</param>
/// <param name="About">What it is for, in a sentence or two.</param>
/// <param name="Lessons">The lessons.</param>
public sealed record Course(string Name, string About, IReadOnlyList<Lesson> Lessons)
{
    /// <summary>Most lessons.</summary>
    public const int MostLessons = 40;

    /// <summary>The course as it is kept.</summary>
    public Course Clean() =>
        new(Name?.Trim() ?? "", About?.Trim() ?? "", Lessons is null ? null! : [.. Lessons.Select(l => l is null ? l! : l.Clean())]);
}

/// <summary>What a lesson and a course must be.</summary>
public static class LessonRules
{
    /// <summary>Checks a course.</summary>
    /// <param name="need">Notes what is wrong, by field.</param>
    /// <param name="course">The course; its lists may hold nothing.</param>
    /// <param name="rigs">Finds a rig by its address; null where there is none.</param>
    public static void Check(Require need, Course course, Func<string, RigDesign?> rigs)
    {
        Words(need, course.Name, "name", 60, true);
        Words(need, course.About, "about", 500, false);
        need.That(course.Lessons is { Count: > 0 and <= Course.MostLessons }, "lessons", $"1 to {Course.MostLessons} lessons.");
        if (course.Lessons is null)
            return;
        var before = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        for (var i = 0; i < course.Lessons.Count; i++)
        {
            var at = $"lessons[{i}]";
            if (course.Lessons[i] is not { } lesson)
            {
                need.That(false, at, "A lesson is missing here.");
                continue;
            }
            Check(need, lesson, at, rigs);
            foreach (var (n, name) in (lesson.BuildsOn ?? []).Index())
                need.That(
                    name is not null && before.Contains(name),
                    $"{at}.buildsOn[{n}]",
                    $"“{name}” is no lesson that comes before this one."
                );
            need.That(lesson.Name is null || before.Add(lesson.Name), $"{at}.name", $"There already is a lesson “{lesson.Name}”.");
        }
    }

    /// <summary>Checks a lesson by itself.</summary>
    /// <param name="need">Notes what is wrong, by field.</param>
    /// <param name="lesson">The lesson.</param>
    /// <param name="at">Where it stands, as "lessons[2]"; empty for by itself.</param>
    /// <param name="rigs">Finds a rig by its address; null where there is none.</param>
    public static void Check(Require need, Lesson lesson, string at, Func<string, RigDesign?> rigs)
    {
        string Field(string name) => at == "" ? name : $"{at}.{name}";
        Words(need, lesson.Name, Field("name"), 60, true);
        Words(need, lesson.Task, Field("task"), 2000, true);
        Words(need, lesson.Answer, Field("answer"), 1000, false);
        need.That(lesson.Minutes is >= 1 and <= 240, Field("minutes"), "A whole number of minutes from 1 to 240.");
        Done(need, lesson.Done, Field);
        Offers(need, lesson.Offered, Field);
        need.That((lesson.Hints?.Count ?? 0) <= Lesson.MostHints, Field("hints"), $"At most {Lesson.MostHints} hints.");
        foreach (var (i, hint) in (lesson.Hints ?? []).Index())
            Words(need, hint, Field($"hints[{i}]"), 300, true);
        need.That((lesson.Rubric?.Count ?? 0) <= Lesson.MostRows, Field("rubric"), $"At most {Lesson.MostRows} rows.");
        foreach (var (i, row) in (lesson.Rubric ?? []).Index())
        {
            Words(need, row?.What, Field($"rubric[{i}].what"), 80, true);
            need.That(row?.Levels is { Count: >= 2 and <= 5 }, Field($"rubric[{i}].levels"), "2 to 5 levels, the lowest first.");
            foreach (var (n, level) in (row?.Levels ?? []).Index())
                Words(need, level, Field($"rubric[{i}].levels[{n}]"), 120, true);
        }
        var written = lesson.Start is StartKind.Gaps or StartKind.Fault;
        need.That(
            written == !string.IsNullOrWhiteSpace(lesson.Script),
            Field("script"),
            written ? "Give the program that a team begins with." : "Only gaps and faults bring a program of their own."
        );
        if (string.IsNullOrEmpty(lesson.Rig))
        {
            need.That(!written, Field("script"), "Where teams bring their own rig, they begin with its own program.");
            need.That(string.IsNullOrEmpty(lesson.Scene), Field("scene"), "Where teams bring their own rig, its own scene counts.");
            need.That((lesson.Walks?.Count ?? 0) == 0, Field("walks"), "Where teams bring their own rig, there are no walks of it yet.");
            return;
        }
        if (rigs(lesson.Rig) is not { } rig)
        {
            need.That(false, Field("rig"), $"There is no rig “{lesson.Rig}”.");
            return;
        }
        if (!string.IsNullOrEmpty(lesson.Scene))
            need.That(
                rig.Scenes.Any(s => SceneParser.Parse(s.Text, rig).Scene.Name == lesson.Scene),
                Field("scene"),
                $"There is no scene “{lesson.Scene}” on {rig.Name}."
            );
        foreach (var (i, walk) in (lesson.Walks ?? []).Index())
            need.That(rig.Walks.Any(w => w.Name == walk), Field($"walks[{i}]"), $"There is no walk “{walk}” on {rig.Name}.");
        need.That(
            (lesson.Script?.Length ?? 0) <= RigRules.MostScript,
            Field("script"),
            $"Give a script of at most {RigRules.MostScript} characters."
        );
        if (written && !string.IsNullOrWhiteSpace(lesson.Script) && lesson.Script.Length <= RigRules.MostScript)
        {
            var parsed = ScriptParser.Parse(lesson.Script, Vocabulary.For(rig, rig.Program));
            // What is missing may leave a sentence that goes nowhere; a fault that is to be found is none of the language.
            need.That(
                lesson.Start == StartKind.Gaps || parsed.Diagnostics.Count == 0,
                Field("script"),
                parsed.Diagnostics.Count == 0 ? "" : $"Line {parsed.Diagnostics[0].Line}: {parsed.Diagnostics[0].Message}"
            );
        }
    }

    private static void Done(Require need, LessonDone? done, Func<string, string> field)
    {
        if (done is null)
        {
            need.That(false, field("done"), "Say what counts as done.");
            return;
        }
        if (done.Kind == DoneKind.Answer)
        {
            Words(need, done.Question, field("done.question"), 300, true);
            return;
        }
        need.That(done.Of is >= 1 and <= 1000, field("done.of"), "A whole number of runs from 1 to 1000.");
        need.That(
            done.Passes >= 1 && (done.Passes <= done.Of || done.Of < 1),
            field("done.passes"),
            "At least 1, and at most of how many."
        );
    }

    private static void Offers(Require need, Offered? offered, Func<string, string> field)
    {
        if (offered is null)
        {
            need.That(false, field("offered"), "Say which sentences are offered; leave its lists out for all.");
            return;
        }
        void Known(IReadOnlyList<string>? keys, IReadOnlyList<SentenceKind> all, string name)
        {
            foreach (var (i, key) in (keys ?? []).Index())
                need.That(
                    all.Any(k => k.Key == key),
                    field($"offered.{name}[{i}]"),
                    $"“{key}” is none of {string.Join(", ", all.Select(k => k.Key))}."
                );
        }
        Known(offered.Triggers, SentenceKinds.Triggers, "triggers");
        Known(offered.Actions, SentenceKinds.Actions, "actions");
    }

    private static void Words(Require need, string? text, string field, int most, bool wanted)
    {
        var length = text?.Trim().Length ?? 0;
        need.That(length <= most && (length > 0 || !wanted), field, wanted ? $"1 to {most} letters." : $"At most {most} letters.");
    }
}
