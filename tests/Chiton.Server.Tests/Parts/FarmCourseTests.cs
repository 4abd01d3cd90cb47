using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>The course that ships is one that can be done.</summary>
public class FarmCourseTests
{
    private static readonly Dictionary<string, RigDesign> Rigs = Farm.All(DateTime.UnixEpoch).ToDictionary(r => r.Id, r => r.Design);

    private static readonly Course Course = FarmCourse.Make(id => Rigs[id]);

    [Fact]
    public void It_keeps_all_rules()
    {
        var need = new Require();
        LessonRules.Check(need, Course, Rigs.GetValueOrDefault);
        need.Done();
        Assert.Equal(9, Course.Lessons.Count);
        Assert.Equal("", Course.Lessons[^1].Rig);
        Assert.All(Course.Lessons, l => Assert.NotEmpty(l.Hints));
        Assert.All(Course.Lessons, l => Assert.NotEmpty(l.Rubric));
    }

    [Fact]
    public void What_is_left_out_is_one_change_and_the_answer_names_it()
    {
        foreach (var lesson in Course.Lessons.Where(l => l.Start is StartKind.Gaps or StartKind.Fault))
        {
            var rig = Rigs[lesson.Rig];
            var changes = ProgramDifference.Between(rig.WithProgram(rig.MainProgram, rig.Program with { Script = lesson.Script }), rig);
            Assert.NotEmpty(changes);
            foreach (var change in changes)
                Assert.Contains(change.After!.TrimEnd('.'), lesson.Answer, StringComparison.Ordinal);
        }
    }

    // Whoever does the lesson as it is meant is never told that a sentence of it is not part of it.
    [Fact]
    public void Every_lesson_offers_what_its_rig_does()
    {
        foreach (var lesson in Course.Lessons.Where(l => l.Rig != ""))
        foreach (var program in RigPrograms.Of(Rigs[lesson.Rig]))
            Assert.Empty(lesson.Offered.In(program.Parsed.Program));
    }

    [Fact]
    public void The_first_program_is_written_with_less_than_all()
    {
        var first = Course.Lessons.Single(l => l.Name == "Stop over the third bed");
        var hoist = RigPrograms.Of(Rigs["rack-hoist"])[0].Parsed.Program;
        Assert.Equal(["condition", "regions", "stall"], first.Offered.In(hoist).Select(n => n.Kind).Append("condition").Distinct().Order());
    }
}
