using Chiton.Core.Classroom;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Classroom;

public class LessonTests
{
    private const string Script = "program Toy\n\nregion Main\n  state A, initial\n    after 1 s: go A\n";

    private static readonly RigDesign Rig = new("Toy", "Saltmarsh Oyster Farm", [], [], [])
    {
        Programs = [new(Script, [])],
        Scenes = [new("scene as in the shed\n")],
        Walks = [new("two rounds", null, [], [])],
    };

    private static readonly Lesson Sound = new(
        "Stop over a tag",
        "toy",
        "as in the shed",
        "Make the trolley stop over bed 3.",
        40,
        new(DoneKind.Rate, 9, 10),
        Offered.All,
        StartKind.AsItIs,
        "",
        "",
        ["Look at what the eye sees."],
        ["two rounds"],
        [new("It stops", ["not yet", "sometimes", "nearly always"])],
        []
    );

    private static IReadOnlyDictionary<string, string> Faults(Course course)
    {
        var need = new Require();
        LessonRules.Check(need, course, id => id == "toy" ? Rig : null);
        try
        {
            need.Done();
            return new Dictionary<string, string>();
        }
        catch (InputProblem problem)
        {
            return problem.Errors;
        }
    }

    private static IReadOnlyDictionary<string, string> Faults(params Lesson[] lessons) => Faults(new Course("Creek course", "", lessons));

    [Fact]
    public void A_sound_lesson_has_no_fault() => Assert.Empty(Faults(Sound));

    public static TheoryData<string, string> Wrong =>
        new()
        {
            { "name", "lessons[0].name" },
            { "task", "lessons[0].task" },
            { "long task", "lessons[0].task" },
            { "minutes", "lessons[0].minutes" },
            { "rig", "lessons[0].rig" },
            { "scene", "lessons[0].scene" },
            { "walk", "lessons[0].walks[0]" },
            { "passes", "lessons[0].done.passes" },
            { "of", "lessons[0].done.of" },
            { "question", "lessons[0].done.question" },
            { "trigger", "lessons[0].offered.triggers[0]" },
            { "action", "lessons[0].offered.actions[1]" },
            { "hint", "lessons[0].hints[0]" },
            { "hints", "lessons[0].hints" },
            { "rubric", "lessons[0].rubric" },
            { "levels", "lessons[0].rubric[0].levels" },
            { "level", "lessons[0].rubric[0].levels[1]" },
            { "no script", "lessons[0].script" },
            { "a script too many", "lessons[0].script" },
            { "a script with a fault of the language", "lessons[0].script" },
            { "builds on", "lessons[0].buildsOn[0]" },
            { "own rig with a scene", "lessons[0].scene" },
        };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void Each_thing_that_is_wrong_is_told_by_its_field(string what, string field)
    {
        var lesson = what switch
        {
            "name" => Sound with { Name = " " },
            "task" => Sound with { Task = "" },
            "long task" => Sound with { Task = new string('x', 2001) },
            "minutes" => Sound with { Minutes = 0 },
            "rig" => Sound with { Rig = "no-such-rig" },
            "scene" => Sound with { Scene = "by the sea" },
            "walk" => Sound with { Walks = ["three rounds"] },
            "passes" => Sound with { Done = new(DoneKind.Rate, 11, 10) },
            "of" => Sound with { Done = new(DoneKind.Table, 1, 0) },
            "question" => Sound with { Done = new(DoneKind.Answer) },
            "trigger" => Sound with { Offered = new(["moon"]) },
            "action" => Sound with { Offered = new(null, ["lamp", "moon"]) },
            "hint" => Sound with { Hints = [""] },
            "hints" => Sound with { Hints = [.. Enumerable.Repeat("Look.", 11)] },
            "rubric" => Sound with { Rubric = [.. Enumerable.Repeat(Sound.Rubric[0], 7)] },
            "levels" => Sound with { Rubric = [new("It stops", ["yes"])] },
            "level" => Sound with { Rubric = [new("It stops", ["no", ""])] },
            "no script" => Sound with { Start = StartKind.Gaps },
            "a script too many" => Sound with { Script = Script },
            "a script with a fault of the language" => Sound with { Start = StartKind.Fault, Script = Script.Replace("go A", "go B") },
            "builds on" => Sound with { BuildsOn = ["Stop over a tag"] },
            _ => Sound with { Rig = "", Walks = [] },
        };
        Assert.Equal([field], Faults(lesson).Keys);
    }

    [Fact]
    public void What_is_missing_may_leave_a_sentence_that_goes_nowhere() =>
        Assert.Empty(Faults(Sound with { Start = StartKind.Gaps, Script = Script.Replace("go A", "go B") }));

    [Fact]
    public void Teams_may_bring_their_own_rig() => Assert.Empty(Faults(Sound with { Rig = "", Scene = "", Walks = [] }));

    [Fact]
    public void A_lesson_builds_on_those_before_it_and_each_has_a_name_of_its_own()
    {
        var second = Sound with { Name = "Count the tags", BuildsOn = ["stop over a tag"] };
        Assert.Empty(Faults(Sound, second));
        Assert.Equal(["lessons[0].buildsOn[0]"], Faults(second, Sound).Keys);
        Assert.Equal(["lessons[1].name"], Faults(Sound, Sound with { Name = "STOP over a tag" }).Keys);
        Assert.Equal(["lessons"], Faults().Keys);
    }

    [Theory]
    [InlineData(DoneKind.Rate, 90, 100, true)]
    [InlineData(DoneKind.Rate, 89, 100, false)]
    [InlineData(DoneKind.Rate, 0, 0, false)]
    [InlineData(DoneKind.Rate, 1, 1, true)]
    [InlineData(DoneKind.Table, 9, 10, true)]
    [InlineData(DoneKind.Table, 9, 9, false)]
    [InlineData(DoneKind.Table, 10, 12, false)]
    [InlineData(DoneKind.Table, 11, 12, true)]
    [InlineData(DoneKind.Answer, 100, 100, false)]
    public void Nine_of_ten_is_done_once_it_is(DoneKind kind, int passes, int runs, bool done) =>
        Assert.Equal(done, new LessonDone(kind, 9, 10, "Why?").Met(passes, runs));

    [Fact]
    public void It_says_what_counts_as_done()
    {
        Assert.Equal("9 of 10 runs pass in the bench, in as in the shed", Sound.Done.Say(Sound.Scene));
        Assert.Equal("9 of 10 runs pass on the table", new LessonDone(DoneKind.Table, 9, 10).Say(""));
        Assert.Equal("an answer: Why does it stop late?", new LessonDone(DoneKind.Answer, Question: "Why does it stop late?").Say(""));
    }

    [Fact]
    public void A_team_reads_no_answer_and_no_hint_that_is_not_open()
    {
        var lesson = Sound with
        {
            Start = StartKind.Fault,
            Script = Script,
            Answer = "The guard is turned round.",
            Hints = ["One.", "Two.", "Three."],
        };
        var read = lesson.ForTeam(1);
        Assert.Equal(("", "", "One."), (read.Answer, read.Script, Assert.Single(read.Hints)));
        Assert.Equal(3, lesson.ForTeam(9).Hints.Count);
        Assert.Empty(lesson.ForTeam(-1).Hints);
    }

    [Fact]
    public void How_far_it_is_follows_from_the_bench_the_table_or_an_answer()
    {
        var rate = new LessonDone(DoneKind.Rate, 9, 10);
        Assert.Equal(new(null, "being counted"), LessonProgress.Of(rate, null, null, [], 0));
        Assert.Equal(new(true, "90 of 100 pass; that is enough"), LessonProgress.Of(rate, (90, 100), null, [], 0));
        Assert.Equal(new(false, "89 of 100 pass; wanted are 9 of 10"), LessonProgress.Of(rate, (89, 100), null, [], 3));
        Assert.Equal(new(false, "Line 3: no"), LessonProgress.Of(rate, (90, 100), "Line 3: no", [], 0));
        var table = new LessonDone(DoneKind.Table, 2, 3);
        Assert.Equal(new(false, "2 of 3 runs made, 2 passed"), LessonProgress.Of(table, (0, 10), null, [true, true], 0));
        // What went before does not stand against them, nor for them.
        Assert.Equal(
            new(true, "2 of the latest 3 runs passed"),
            LessonProgress.Of(table, null, null, [false, false, true, false, true], 0)
        );
        Assert.Equal(
            new(false, "1 of the latest 3 runs passed"),
            LessonProgress.Of(table, null, null, [true, true, true, false, false], 0)
        );
        var answer = new LessonDone(DoneKind.Answer, Question: "Why?");
        Assert.Equal(new(null, "no answer handed in yet"), LessonProgress.Of(answer, (10, 10), null, [], 0));
        Assert.Equal(new(null, "answered; the educator reads it"), LessonProgress.Of(answer, null, null, [], 1));
    }
}
