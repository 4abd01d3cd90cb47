using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A course in the list.</summary>
/// <param name="Id">Address.</param>
/// <param name="Name">Its name.</param>
/// <param name="About">What it is for.</param>
/// <param name="Lessons">How many lessons it has.</param>
/// <param name="Minutes">How long all of them take, minutes.</param>
/// <param name="Archived">True when it is put away.</param>
public sealed record CourseItem(string Id, string Name, string About, int Lessons, int Minutes, bool Archived);

/// <summary>A course as its author sees it.</summary>
/// <param name="Id">Address.</param>
/// <param name="Version">The current version.</param>
/// <param name="Archived">True when it is put away.</param>
/// <param name="Course">The course.</param>
/// <param name="Facts">What is known of each lesson, in order.</param>
/// <param name="Rigs">The desk's rigs that a lesson can be about.</param>
/// <param name="Triggers">Kinds of triggers that a lesson chooses from.</param>
/// <param name="Actions">Kinds of actions.</param>
public sealed record CourseView(
    string Id,
    int Version,
    bool Archived,
    Course Course,
    IReadOnlyList<LessonFacts> Facts,
    IReadOnlyList<RigName> Rigs,
    IReadOnlyList<SentenceKind> Triggers,
    IReadOnlyList<SentenceKind> Actions
);

/// <summary>What is known of a lesson.</summary>
/// <param name="Rig">Name of its rig; empty where the teams bring their own.</param>
/// <param name="Done">What counts as done, in words.</param>
/// <param name="Trouble">What is wrong with it now, as when its rig was changed; empty when nothing is.</param>
public sealed record LessonFacts(string Rig, string Done, IReadOnlyList<string> Trouble);

/// <summary>A rig by its name.</summary>
/// <param name="Id">Address.</param>
/// <param name="Name">Name.</param>
public sealed record RigName(string Id, string Name);

/// <summary>Makes a course.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Rig">The rig that its first lesson is about; teams bring their own where it is left out.</param>
public sealed record NewCourse(string? Name, string? Rig = null);

/// <summary>Keeps a course.</summary>
/// <param name="BaseVersion">The version that was changed.</param>
/// <param name="Course">The course.</param>
public sealed record SaveCourse(int BaseVersion, Course? Course);

/// <summary>A course that was kept.</summary>
/// <param name="Id">Address.</param>
/// <param name="Version">The current version.</param>
/// <param name="What">What changed, in words.</param>
public sealed record CourseKept(string Id, int Version, string What);

/// <summary>Adds a lesson about a rig.</summary>
/// <param name="BaseVersion">The version that it is added to.</param>
/// <param name="Rig">Address of the rig; empty where the teams bring their own.</param>
public sealed record NewLesson(int BaseVersion, string? Rig);

/// <summary>Brings a version of a course back.</summary>
/// <param name="BaseVersion">The current version.</param>
/// <param name="Version">The one that comes back.</param>
public sealed record CourseBack(int BaseVersion, int Version);

/// <summary>A version of a course.</summary>
/// <param name="Number">Its number.</param>
/// <param name="TimeUtc">When.</param>
/// <param name="What">What changed.</param>
public sealed record CourseVersion(int Number, DateTime TimeUtc, string What);

/// <summary>What a lesson about a rig can be made of.</summary>
/// <param name="Scenes">Names of its scenes, the one that counts first.</param>
/// <param name="Walks">Names of its kept walks.</param>
/// <param name="Sentences">Sentences that can be left out.</param>
/// <param name="Faults">Sentences that can be made wrong.</param>
/// <param name="Uses">Kinds of triggers and actions that its program uses.</param>
public sealed record LessonStuff(
    IReadOnlyList<string> Scenes,
    IReadOnlyList<string> Walks,
    IReadOnlyList<GapSentence> Sentences,
    IReadOnlyList<FaultChoice> Faults,
    UsedKinds Uses
);

/// <summary>A sentence that can be made wrong.</summary>
/// <param name="Number">Its number in the list, from 0.</param>
/// <param name="Kind">What would be made wrong.</param>
/// <param name="Say">What, in words.</param>
public sealed record FaultChoice(int Number, FaultKind Kind, string Say);

/// <summary>Kinds of sentences that a program uses.</summary>
/// <param name="Triggers">Kinds of triggers.</param>
/// <param name="Actions">Kinds of actions.</param>
/// <param name="Regions">True where it has several regions.</param>
/// <param name="Routines">True where it has routines.</param>
public sealed record UsedKinds(IReadOnlyList<string> Triggers, IReadOnlyList<string> Actions, bool Regions, bool Routines);

/// <summary>Makes the program that a lesson begins with: with sentences left out, or with one made wrong.</summary>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Lines">Lines of the sentences that are left out.</param>
/// <param name="Fault">Number of the fault.</param>
public sealed record StartRequest(string? Rig, IReadOnlyList<int>? Lines = null, int? Fault = null);

/// <summary>The program that a lesson begins with.</summary>
/// <param name="Script">The text.</param>
/// <param name="Answer">What is missing or wrong, for the educator.</param>
public sealed record StartMade(string Script, string Answer);

/// <summary>A course that came in.</summary>
/// <param name="Id">Address.</param>
/// <param name="Rigs">Addresses of the rigs that came with it.</param>
/// <param name="Say">What was done, in words.</param>
public sealed record CourseCame(string Id, IReadOnlyList<string> Rigs, string Say);

/// <summary>Courses: lessons in order, and what they are made of.</summary>
public static class CourseEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var courses = api.MapGroup("/courses").WithTags("Class");
        courses.MapGet("", List).WithName("listCourses");
        courses.MapPost("", Make).WithName("makeCourse").ProducesValidationProblem();
        courses
            .MapGet("/schema", () => Results.Json(RigSchema.OfCourse, Documents.Options))
            .WithName("getCourseSchema")
            .ExcludeFromDescription();
        courses.MapPost("/import", Import).WithName("importCourse").ProducesValidationProblem().ProducesProblem(413);
        courses.MapGet("/stuff", Stuff).WithName("getLessonStuff").ProducesProblem(404);
        courses.MapPost("/start", Start).WithName("makeStart").ProducesValidationProblem().ProducesProblem(404);
        courses.MapGet("/{course}", View).WithName("getCourse").ProducesProblem(404);
        courses.MapPut("/{course}", Save).WithName("saveCourse").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        courses
            .MapPost("/{course}/lessons", AddLesson)
            .WithName("addLesson")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        courses
            .MapGet(
                "/{course}/versions",
                async Task<IReadOnlyList<CourseVersion>> (string course, CourseStore store, CancellationToken cancel) =>
                    [
                        .. (await store.Versions(course, cancel)).Select(v => new CourseVersion(
                            v.Number,
                            DateTime.SpecifyKind(v.TimeUtc, DateTimeKind.Utc),
                            v.What
                        )),
                    ]
            )
            .WithName("listCourseVersions");
        courses
            .MapPost(
                "/{course}/restore",
                async Task<CourseKept> (string course, CourseBack request, CourseStore store, CancellationToken cancel) =>
                {
                    var what = $"brought back version {request.Version}";
                    var back = await store.Version(course, request.Version, cancel);
                    return new(course, await store.Save(course, request.BaseVersion, back, what, cancel), what);
                }
            )
            .WithName("restoreCourse")
            .ProducesProblem(404)
            .ProducesProblem(409);
        courses
            .MapPut(
                "/{course}/archived",
                async Task<ArchiveRequest> (string course, ArchiveRequest request, CourseStore store, CancellationToken cancel) =>
                    new(await store.Archive(course, request.Archived, cancel))
            )
            .WithName("archiveCourse")
            .ProducesProblem(404);
        courses.MapGet("/{course}/export", Export).WithName("exportCourse").Produces<CourseFile>().ProducesProblem(404);
    }

    private static async Task<IReadOnlyList<CourseItem>> List(CourseStore store, CancellationToken cancel) =>
        [
            .. (await store.List(cancel)).Select(c => new CourseItem(
                c.Row.Id,
                c.Course.Name,
                c.Course.About,
                c.Course.Lessons.Count,
                c.Course.Lessons.Sum(l => l.Minutes),
                c.Row.Archived
            )),
        ];

    private static Func<string, RigDesign?> Finder(IReadOnlyDictionary<string, RigDesign> rigs) => id => rigs.GetValueOrDefault(id);

    private static Course Checked(Course? given, IReadOnlyDictionary<string, RigDesign> rigs, string at = "course")
    {
        if (given is null)
            throw new InputProblem(at, "Give the course.");
        var course = given.Clean();
        var need = new Require();
        LessonRules.Check(need, course, Finder(rigs));
        need.Done();
        return course;
    }

    private static async Task<CourseKept> Make(NewCourse request, CourseStore store, CancellationToken cancel)
    {
        var rigs = await store.Rigs(cancel);
        var first = Draft(request.Rig ?? "", rigs, []);
        var name = request.Name?.Trim() ?? "";
        var need = new Require();
        need.That(name.Length is > 0 and <= 60, "name", "1 to 60 letters.");
        need.Done();
        var id = await store.Make(Checked(new(name, "", [first]), rigs), "made", cancel);
        return new(id, 1, "made");
    }

    private static Lesson Draft(string rig, IReadOnlyDictionary<string, RigDesign> rigs, IReadOnlyCollection<string> taken) =>
        rig == "" ? LessonStart.Own(taken)
        : rigs.TryGetValue(rig, out var design) ? LessonStart.About(rig, design, taken)
        : throw new InputProblem("rig", $"There is no rig “{rig}”.");

    private static async Task<CourseKept> AddLesson(string course, NewLesson request, CourseStore store, CancellationToken cancel)
    {
        var rigs = await store.Rigs(cancel);
        var now = (await store.Course(course, cancel)).Course;
        var lesson = Draft(request.Rig ?? "", rigs, [.. now.Lessons.Select(l => l.Name)]);
        var next = Checked(now with { Lessons = [.. now.Lessons, lesson] }, rigs);
        var what = $"added {lesson.Name}";
        return new(course, await store.Save(course, request.BaseVersion, next, what, cancel), what);
    }

    private static async Task<CourseView> View(string course, CourseStore store, CancellationToken cancel)
    {
        var kept = await store.Course(course, cancel);
        var rigs = await store.Rigs(cancel);
        return new(
            course,
            kept.Row.Head,
            kept.Row.Archived,
            kept.Course,
            [.. kept.Course.Lessons.Select(l => Facts(l, rigs))],
            [.. rigs.Select(r => new RigName(r.Key, r.Value.Name)).OrderBy(r => r.Name, StringComparer.OrdinalIgnoreCase)],
            SentenceKinds.Triggers,
            SentenceKinds.Actions
        );
    }

    private static LessonFacts Facts(Lesson lesson, IReadOnlyDictionary<string, RigDesign> rigs)
    {
        var need = new Require();
        LessonRules.Check(need, lesson, "", Finder(rigs));
        IReadOnlyList<string> trouble = [];
        try
        {
            need.Done();
        }
        catch (InputProblem p)
        {
            trouble = [.. p.Errors.Values];
        }
        return new(rigs.TryGetValue(lesson.Rig, out var rig) ? rig.Name : lesson.Rig, lesson.Done.Say(lesson.Scene), trouble);
    }

    private static async Task<CourseKept> Save(string course, SaveCourse request, CourseStore store, CancellationToken cancel)
    {
        var next = Checked(request.Course, await store.Rigs(cancel));
        var what = What((await store.Course(course, cancel)).Course, next);
        return new(course, await store.Save(course, request.BaseVersion, next, what, cancel), what);
    }

    // What changed between two versions of a course, in words.
    private static string What(Course before, Course after)
    {
        var said = new List<string>();
        if (before.Name != after.Name || before.About != after.About)
            said.Add("what the course is called");
        foreach (var lesson in after.Lessons)
            if (before.Lessons.FirstOrDefault(l => l.Name == lesson.Name) is not { } was)
                said.Add($"{lesson.Name} is new");
            else if (Marking.Differs(was, lesson) is { Count: > 0 } differs)
                said.Add($"{lesson.Name}: {Figures.List(differs)}");
        said.AddRange(before.Lessons.Where(l => after.Lessons.All(a => a.Name != l.Name)).Select(l => $"{l.Name} is gone"));
        if (said.Count == 0)
            return "the order of the lessons";
        return said.Count <= 3 ? string.Join("; ", said) : $"{string.Join("; ", said.Take(3))}; and more";
    }

    private static async Task<IResult> Export(string course, CourseStore store, CancellationToken cancel) =>
        Results.File(
            System.Text.Encoding.UTF8.GetBytes(Documents.Write(await store.Export(course, cancel))),
            "application/json",
            $"{course}.course.json"
        );

    private static async Task<CourseCame> Import(CourseFile file, CourseStore store, CancellationToken cancel)
    {
        var need = new Require();
        need.That(file.Format == CourseFile.FormatName, "format", $"Must be “{CourseFile.FormatName}”.");
        need.That(
            file.Version is >= 1 and <= CourseFile.CurrentVersion,
            "version",
            $"This program reads versions 1 to {CourseFile.CurrentVersion}."
        );
        need.That(file.Rigs is null or { Count: <= 40 }, "rigs", "At most 40 rigs.");
        need.Done();
        var rigs = new Dictionary<string, RigFile>();
        foreach (var (address, rig) in file.Rigs ?? new Dictionary<string, RigFile>())
        {
            if (rig?.Design is null)
                throw new InputProblem($"rigs.{address}.design", "Give the rig's design.");
            try
            {
                rigs[address] = DesignEndpoints.Checked(rig);
            }
            catch (InputProblem p)
            {
                throw new InputProblem(p.Errors.ToDictionary(e => $"rigs.{address}.{e.Key}", e => e.Value));
            }
        }
        var course = Checked(file.Course, rigs.ToDictionary(r => r.Key, r => r.Value.Design!));
        var (id, made) = await store.Import(course, rigs, cancel);
        return new(
            id,
            made,
            $"{course.Name} came in with {Figures.Count(course.Lessons.Count, "lesson")}"
                + (made.Count == 0 ? "; its rigs are here already." : $" and {Figures.Count(made.Count, "rig")}.")
        );
    }

    private static async Task<(RigDesign Rig, ProgramText Text, ParseResult Parsed)> Of(
        string? rig,
        CourseStore store,
        CancellationToken cancel
    )
    {
        if (!(await store.Rigs(cancel)).TryGetValue(rig ?? "", out var design))
            throw new NotStored($"There is no rig “{rig}”.");
        var text = design.Program;
        return (design, text, ScriptParser.Parse(text.Script, Vocabulary.For(design, text)));
    }

    private static async Task<LessonStuff> Stuff(string? rig, CourseStore store, CancellationToken cancel)
    {
        var (design, text, parsed) = await Of(rig, store, cancel);
        var scenes = design.Scenes.Select(s => Core.Simulation.Scenes.SceneParser.Parse(s.Text, design).Scene).ToArray();
        var uses = UsedSentences.In(parsed.Program);
        return new(
            [.. scenes.OrderByDescending(s => s.Counts).Select(s => s.Name)],
            [.. design.Walks.Select(w => w.Name)],
            LessonStart.Sentences(parsed.Program),
            [.. SentenceFaults.In(text.Script, Vocabulary.For(design, text)).Select((f, i) => new FaultChoice(i, f.Kind, f.Say))],
            new(uses.Triggers!, uses.Actions!, uses.Regions, uses.Routines)
        );
    }

    private static async Task<StartMade> Start(StartRequest request, CourseStore store, CancellationToken cancel)
    {
        var (design, text, parsed) = await Of(request.Rig, store, cancel);
        if (request.Fault is { } number)
        {
            var fault =
                SentenceFaults.In(text.Script, Vocabulary.For(design, text)).ElementAtOrDefault(number)
                ?? throw new InputProblem("fault", "There is no fault of that number.");
            return new(fault.Script, fault.Say);
        }
        var (script, answer) = LessonStart.Without(text.Script, parsed.Program, request.Lines ?? []);
        return new(script, answer);
    }
}
