using Chiton.Data;
using Chiton.Server.Tests.App;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

/// <summary>Courses and lessons: made, handed out, worked on, handed in and marked.</summary>
public class LessonTests
{
    private const string Course = "a-season-on-the-oyster-farm",
        Third = "Stop over the third bed",
        Own = "A machine of your own";

    private static JsonElement[] All(JsonElement list) => [.. list.EnumerateArray()];

    private static string? Text(JsonElement of, string name) => of.GetProperty(name).GetString();

    private static Dictionary<string, object?> Copy(JsonElement of) =>
        JsonSerializer.Deserialize<Dictionary<string, object?>>(of.GetRawText())!;

    // A course with one of its lessons changed.
    private static object Changed(JsonElement course, string lesson, Action<Dictionary<string, object?>> change)
    {
        var next = Copy(course);
        next["lessons"] = All(course.GetProperty("lessons"))
            .Select(l =>
            {
                var one = Copy(l);
                if (Text(l, "name") == lesson)
                    change(one);
                return one;
            })
            .ToArray();
        return next;
    }

    private static async Task<JsonElement> Save(Bench bench, string lesson, Action<Dictionary<string, object?>> change)
    {
        var view = await bench.Get($"/api/courses/{Course}");
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            $"/api/courses/{Course}",
            new { baseVersion = view.GetProperty("version").GetInt32(), course = Changed(view.GetProperty("course"), lesson, change) }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        return body;
    }

    private static Task<JsonElement> HandOut(OpenClass open, string lesson = Third, long[]? teams = null) =>
        open.Bench.Post(
            $"/api/classes/{open.Id}/lessons",
            new
            {
                course = Course,
                lesson,
                teams,
            }
        );

    private static async Task<(RoomDevice Device, long Team)> Team(OpenClass open, string name)
    {
        var device = new RoomDevice(open.Bench);
        await device.Join(await open.Code(), name);
        var teams = All((await open.Bench.Get($"/api/classes/{open.Id}")).GetProperty("teams"));
        return (device, teams.Single(t => Text(t, "name") == name).GetProperty("id").GetInt64());
    }

    private static async Task<JsonElement> Lesson(RoomDevice device, string name = Third) =>
        All((await device.Ask(HttpMethod.Get, "/api/me/lessons")).GetProperty("lessons")).Single(l => Text(l, "name") == name);

    private static async Task<int> Write(RoomDevice device, string rig, Func<string, string> change)
    {
        var program = await device.Ask(HttpMethod.Get, $"/api/rigs/{rig}/program");
        var saved = await device.Ask(
            HttpMethod.Put,
            $"/api/rigs/{rig}/program",
            new { baseRevision = program.GetProperty("revision").GetInt32(), script = change(Text(program, "script")!) }
        );
        return saved.GetProperty("revision").GetInt32();
    }

    private static string Mended(string script) =>
        script.Replace(
            "state Over tag\n",
            "state Over tag\n    when beds = 3: go Stopping\n    when Tag eye becomes sleepers: go Rolling\n"
        );

    [Fact]
    public async Task The_demos_course_is_there_and_nothing_is_wrong_with_any_of_its_lessons()
    {
        using var bench = new Bench();
        var listed = Assert.Single(All(await bench.Get("/api/courses")));
        Assert.Equal(
            (Course, 9, 480),
            (Text(listed, "id"), listed.GetProperty("lessons").GetInt32(), listed.GetProperty("minutes").GetInt32())
        );
        var view = await bench.Get($"/api/courses/{Course}");
        Assert.All(All(view.GetProperty("facts")), f => Assert.Empty(All(f.GetProperty("trouble"))));
        Assert.Equal("5 of 10 runs pass in the bench", Text(All(view.GetProperty("facts"))[3], "done"));
        Assert.Equal("Seed trolley", Text(All(view.GetProperty("facts"))[3], "rig"));
    }

    [Fact]
    public async Task A_lesson_is_changed_brought_back_and_never_overwritten_unseen()
    {
        using var bench = new Bench();
        var kept = await Save(bench, Third, l => l["task"] = "  Let it stop over the third bed.  ");
        Assert.Equal((2, $"{Third}: the task"), (kept.GetProperty("version").GetInt32(), Text(kept, "what")));
        var view = await bench.Get($"/api/courses/{Course}");
        Assert.Equal("Let it stop over the third bed.", Text(All(view.GetProperty("course").GetProperty("lessons"))[3], "task"));
        // The same again is no version.
        Assert.Equal(2, (await Save(bench, Third, _ => { })).GetProperty("version").GetInt32());
        var stale = await bench.Send(
            HttpMethod.Put,
            $"/api/courses/{Course}",
            new { baseVersion = 1, course = Changed(view.GetProperty("course"), Third, l => l["minutes"] = 5) }
        );
        Assert.Equal(HttpStatusCode.Conflict, stale.Status);
        await bench.Post($"/api/courses/{Course}/restore", new { baseVersion = 2, version = 1 });
        view = await bench.Get($"/api/courses/{Course}");
        Assert.Equal(3, view.GetProperty("version").GetInt32());
        Assert.StartsWith("The trolley rolls", Text(All(view.GetProperty("course").GetProperty("lessons"))[3], "task"));
        Assert.Equal([3, 2, 1], All(await bench.Get($"/api/courses/{Course}/versions")).Select(v => v.GetProperty("number").GetInt32()));
        // What is wrong is named by its field, all at once, and nothing is kept.
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            $"/api/courses/{Course}",
            new
            {
                baseVersion = 3,
                course = Changed(
                    view.GetProperty("course"),
                    Third,
                    l =>
                    {
                        l["minutes"] = 0;
                        l["name"] = "";
                        l["rig"] = "no-such-rig";
                        l["hints"] = null;
                        l["done"] = null;
                    }
                ),
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        var errors = body.GetProperty("errors").EnumerateObject().Select(e => e.Name).Order().ToArray();
        Assert.Equal(["lessons[3].done", "lessons[3].minutes", "lessons[3].name", "lessons[3].rig", "lessons[4].buildsOn[0]"], errors);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.Send(HttpMethod.Put, $"/api/courses/{Course}", new { baseVersion = 3 })).Status
        );
        Assert.Equal(3, (await bench.Get($"/api/courses/{Course}")).GetProperty("version").GetInt32());
    }

    [Fact]
    public async Task A_lesson_of_ones_own_is_made_from_any_rig_with_gaps_or_a_fault()
    {
        using var bench = new Bench();
        var made = await bench.Post("/api/courses", new { name = "Tide week", rig = "rack-hoist" });
        Assert.Equal("tide-week", Text(made, "id"));
        foreach (var rig in All(await bench.Get("/api/rigs")).Select(r => Text(r, "id")!).Append(""))
        {
            var version = (await bench.Get("/api/courses/tide-week")).GetProperty("version").GetInt32();
            await bench.Post("/api/courses/tide-week/lessons", new { baseVersion = version, rig });
        }
        var view = await bench.Get("/api/courses/tide-week");
        Assert.Equal(11, All(view.GetProperty("course").GetProperty("lessons")).Length);
        Assert.All(All(view.GetProperty("facts")), f => Assert.Empty(All(f.GetProperty("trouble"))));
        var stuff = await bench.Get("/api/courses/stuff?rig=seed-trolley");
        var sentence = All(stuff.GetProperty("sentences")).Single(s => Text(s, "text") == "when beds = 3: go Stopping");
        var start = await bench.Post(
            "/api/courses/start",
            new { rig = "seed-trolley", lines = new[] { sentence.GetProperty("line").GetInt32() } }
        );
        Assert.Equal("In Over tag: when beds = 3: go Stopping.", Text(start, "answer"));
        Assert.DoesNotContain("when beds = 3", Text(start, "script"));
        var fault = All(stuff.GetProperty("faults"))[2];
        start = await bench.Post("/api/courses/start", new { rig = "seed-trolley", fault = fault.GetProperty("number").GetInt32() });
        Assert.Equal(Text(fault, "say"), Text(start, "answer"));
        foreach (
            var wrong in new object[]
            {
                new { rig = "seed-trolley" },
                new { rig = "seed-trolley", lines = new[] { 1 } },
                new { rig = "seed-trolley", fault = 999 },
            }
        )
            Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/courses/start", wrong)).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost("/api/courses/start", new { rig = "x", fault = 1 })).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/courses", new { name = "A", rig = "x" })).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/courses", new { name = " " })).Status);
    }

    [Fact]
    public async Task A_course_that_is_put_away_is_whole_and_makes_room_for_another()
    {
        using var bench = new Bench();
        for (var i = 1; i < CourseStore.MostCourses; i++)
            await bench.Post("/api/courses", new { name = $"Week {i}" });
        var full = await bench.TryPost("/api/courses", new { name = "One more" });
        Assert.Equal(HttpStatusCode.BadRequest, full.Status);
        Assert.Contains("Put one away first", full.Body.ToString());
        await bench.Send(HttpMethod.Put, $"/api/courses/{Course}/archived", new { archived = true });
        await bench.Post("/api/courses", new { name = "One more" });
        var away = Assert.Single(All(await bench.Get("/api/courses")), c => c.GetProperty("archived").GetBoolean());
        Assert.Equal((Course, 9), (Text(away, "id"), away.GetProperty("lessons").GetInt32()));
    }

    [Fact]
    public async Task A_course_goes_out_as_one_file_and_comes_in_elsewhere_with_its_rigs()
    {
        using var bench = new Bench();
        var file = await bench.Get($"/api/courses/{Course}/export");
        Assert.Equal(("chiton-course", 1), (Text(file, "format"), file.GetProperty("version").GetInt32()));
        Assert.Equal(6, file.GetProperty("rigs").EnumerateObject().Count());
        // Here its rigs are known already: none is made twice.
        var came = await bench.Post("/api/courses/import", file);
        Assert.Equal((Course + "-2", 0), (Text(came, "id"), All(came.GetProperty("rigs")).Length));
        // Under the same address something else stands: the rig comes in beside it, and the lessons speak of that one.
        await bench.Save((await bench.Script()).Replace("var cruise = 60 %", "var cruise = 30 %"));
        came = await bench.Post("/api/courses/import", file);
        var rig = Assert.Single(All(came.GetProperty("rigs"))).GetString()!;
        Assert.Equal("seed-trolley-2", rig);
        var view = await bench.Get($"/api/courses/{Text(came, "id")}");
        Assert.Equal(rig, Text(All(view.GetProperty("course").GetProperty("lessons"))[3], "rig"));
        Assert.Contains("60 %", await bench.Script(rig));
        Assert.All(All(view.GetProperty("facts")), f => Assert.Empty(All(f.GetProperty("trouble"))));
    }

    [Fact]
    public async Task A_file_that_is_none_is_refused_by_its_fields_and_leaves_nothing_behind()
    {
        using var bench = new Bench();
        var file = await bench.Get($"/api/courses/{Course}/export");
        async Task<string[]> Refused(Action<Dictionary<string, object?>> change)
        {
            var next = Copy(file);
            change(next);
            var (status, body) = await bench.TryPost("/api/courses/import", next);
            Assert.Equal(HttpStatusCode.BadRequest, status);
            return [.. body.GetProperty("errors").EnumerateObject().Select(e => e.Name).Order()];
        }
        Assert.Equal(["format"], await Refused(f => f["format"] = "chiton-rig"));
        Assert.Equal(["version"], await Refused(f => f["version"] = 2));
        Assert.Equal(["course"], await Refused(f => f["course"] = null));
        Assert.Contains("lessons[0].rig", await Refused(f => f["rigs"] = new Dictionary<string, object>()));
        Assert.Equal(["rigs.x.design"], await Refused(f => f["rigs"] = new Dictionary<string, object?> { ["x"] = null }));
        var rigs = Copy(file.GetProperty("rigs"));
        var trolley = Copy((JsonElement)rigs["seed-trolley"]!);
        trolley["design"] = Copy((JsonElement)trolley["design"]!);
        ((Dictionary<string, object?>)trolley["design"]!)["name"] = "";
        rigs["seed-trolley"] = trolley;
        Assert.All(await Refused(f => f["rigs"] = rigs), e => Assert.StartsWith("rigs.seed-trolley.design", e));
        Assert.Single(All(await bench.Get("/api/courses")));
        Assert.Equal(9, All(await bench.Get("/api/rigs")).Length);
        // The schema says what such a file is.
        var schema = await bench.Get("/api/courses/schema");
        Assert.Equal("A course of Chiton, version 1", Text(schema, "title"));
        Assert.True(schema.GetProperty("properties").TryGetProperty("course", out _));
    }

    [Fact]
    public async Task A_lesson_is_handed_out_with_its_own_program_and_the_rig_is_the_teams()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        await Team(open, "Crabs");
        var handed = await HandOut(open);
        Assert.Equal(["seed-trolley-gulls", "seed-trolley-crabs"], All(handed.GetProperty("rigs")).Select(r => r.GetString()));
        var lesson = await Lesson(gulls);
        Assert.Equal("seed-trolley-gulls", Text(lesson, "rig"));
        Assert.Equal(0, lesson.GetProperty("different").GetInt32());
        Assert.Equal("Sentences of its program are missing.", Text(lesson, "begins"));
        // Neither the answer nor a hint that is not open comes to a team.
        var answer = Text(All((await bench.Get($"/api/courses/{Course}")).GetProperty("course").GetProperty("lessons"))[3], "answer")!;
        Assert.DoesNotContain(answer, lesson.GetRawText());
        Assert.DoesNotContain("when beds = 3", await bench.Script("seed-trolley-gulls"));
        Assert.Contains("when beds = 3", await bench.Script());
        Assert.Equal(["To the third bed"], All(lesson.GetProperty("walks")).Select(w => w.GetString()));
        // The educator counts what differs from what was handed out, not from the rig of the lesson.
        var team = All((await bench.Get($"/api/classes/{open.Id}")).GetProperty("teams"))[0];
        Assert.Equal(0, All(team.GetProperty("rigs"))[0].GetProperty("different").GetInt32());
        await Write(gulls, "seed-trolley-gulls", Mended);
        Assert.Equal(2, (await Lesson(gulls)).GetProperty("different").GetInt32());
        // Twice is not handed out; all that have it not yet are a fair answer to nobody named.
        var again = await bench.TryPost($"/api/classes/{open.Id}/lessons", new { course = Course, lesson = Third });
        Assert.Equal(HttpStatusCode.BadRequest, again.Status);
        await Team(open, "Dabs");
        Assert.Equal(["seed-trolley-dabs"], All((await HandOut(open)).GetProperty("rigs")).Select(r => r.GetString()));
        foreach (
            var wrong in new object[]
            {
                new { course = Course },
                new { lesson = Third },
                new { course = Course, lesson = "No such" },
                new
                {
                    course = Course,
                    lesson = Own,
                    teams = new[] { 999 },
                },
            }
        )
            Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/classes/{open.Id}/lessons", wrong)).Status);
    }

    [Fact]
    public async Task Hints_open_one_by_one_and_are_counted()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        await HandOut(open);
        var lesson = await Lesson(gulls);
        var id = lesson.GetProperty("id").GetInt64();
        Assert.Equal((0, 3), (All(lesson.GetProperty("hints")).Length, lesson.GetProperty("moreHints").GetInt32()));
        foreach (var number in new[] { 2, 0, -1, 4 })
            Assert.Equal(HttpStatusCode.BadRequest, (await gulls.Send(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number })).Status);
        lesson = await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number = 1 });
        // Pressed twice it is one.
        lesson = await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number = 1 });
        Assert.Equal((1, 2), (All(lesson.GetProperty("hints")).Length, lesson.GetProperty("moreHints").GetInt32()));
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number = 2 });
        var line = All(All((await bench.Get($"/api/classes/{open.Id}/lessons")).GetProperty("lessons"))[0].GetProperty("teams"))[0];
        Assert.Equal(2, line.GetProperty("hints").GetInt32());
    }

    [Fact]
    public async Task What_a_lesson_does_not_offer_is_not_proposed_and_is_told_kindly_where_it_is_typed()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        await HandOut(open);
        const string Rig = "seed-trolley-gulls";
        Assert.Contains("Several regions", All((await Lesson(gulls)).GetProperty("leavesOut")).Select(l => l.GetString()));
        async Task<JsonElement> Type(string rig, string text)
        {
            var program = await bench.Get($"/api/rigs/{rig}/program");
            var state = All(program.GetProperty("blocks"))
                .First(b => Text(b, "owner") == "Rolling")
                .GetProperty("head")
                .GetProperty("line")
                .GetInt32();
            return await bench.Post(
                $"/api/rigs/{rig}/program/diagnose",
                new
                {
                    column = text.Length,
                    offers = true,
                    typing = new
                    {
                        baseRevision = program.GetProperty("revision").GetInt32(),
                        act = "add",
                        line = state,
                        text,
                    },
                }
            );
        }
        string[] Words(JsonElement view) => [.. All(view.GetProperty("completions")).Select(c => Text(c, "text")!)];
        Assert.Contains("every", Words(await Type("seed-trolley", "")));
        Assert.DoesNotContain("every", Words(await Type(Rig, "")));
        Assert.Contains("after", Words(await Type(Rig, "")));
        Assert.Contains("repeat", Words(await Type("seed-trolley", "on entry: ")));
        Assert.DoesNotContain("repeat", Words(await Type(Rig, "on entry: ")));
        Assert.Contains("run", Words(await Type(Rig, "on entry: ")));
        var told = await Type(Rig, "every 2 s: stay");
        Assert.Empty(All(told.GetProperty("diagnostics")));
        Assert.StartsWith("Things that come again and again are not part of this lesson.", All(told.GetProperty("kindly"))[0].GetString());
        Assert.Empty(All((await Type("seed-trolley", "every 2 s: stay")).GetProperty("kindly")));
        // Kept all the same, it runs, and the page says it at its line.
        await Write(gulls, Rig, s => Mended(s).Replace("  state Stopping\n", "  state Stopping\n    every 2 s: stay\n"));
        var kept = await gulls.Ask(HttpMethod.Get, $"/api/rigs/{Rig}/program");
        Assert.Empty(All(kept.GetProperty("diagnostics")));
        Assert.Equal("every", Text(Assert.Single(All(kept.GetProperty("notOffered"))), "kind"));
        var patterns = All(await gulls.Ask(HttpMethod.Get, $"/api/rigs/{Rig}/patterns"));
        Assert.InRange(patterns.Length, 0, All(await bench.Get("/api/rigs/seed-trolley/patterns")).Length / 2);
        // The desk's own rig of the same kind is of no lesson.
        Assert.Empty(All((await bench.Get("/api/rigs/seed-trolley/program")).GetProperty("notOffered")));
    }

    [Fact]
    public async Task What_is_handed_in_is_pinned_and_stays_whatever_comes_after()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        await HandOut(open);
        var id = (await Lesson(gulls)).GetProperty("id").GetInt64();
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number = 1 });
        var revision = await Write(gulls, "seed-trolley-gulls", Mended);
        var first = await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "  It counts the tags now. " });
        Assert.Equal(
            (1, revision, 1, "It counts the tags now."),
            (
                first.GetProperty("number").GetInt32(),
                first.GetProperty("revision").GetInt32(),
                first.GetProperty("copy").GetInt32(),
                Text(first, "says")
            )
        );
        var known = first.GetProperty("known");
        Assert.Equal(
            ("Seed trolley", 1, 2),
            (Text(known, "rig"), known.GetProperty("hints").GetInt32(), known.GetProperty("different").GetInt32())
        );
        Assert.Contains("Tag eye 1", All(known.GetProperty("calibrations")).Select(c => c.GetString()));
        await Write(gulls, "seed-trolley-gulls", s => s.Replace("beds = 3", "beds = 4"));
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "" });
        var handed = All((await Lesson(gulls)).GetProperty("handedIn"));
        Assert.Equal([2, 1], handed.Select(h => h.GetProperty("number").GetInt32()));
        Assert.Equal([revision + 1, revision], handed.Select(h => h.GetProperty("revision").GetInt32()));
        // The revision that was handed in can still be looked at, word for word.
        var difference = await bench.Get($"/api/rigs/seed-trolley-gulls/program/difference?before={revision}&after={revision + 1}");
        Assert.Equal("when beds = 3: go Stopping", Text(Assert.Single(All(difference.GetProperty("changes"))), "before"));
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await gulls.Send(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = new string('x', 501) })).Status
        );
        // A question wants an answer.
        await HandOut(open, "Every lead in its place");
        var asked = (await Lesson(gulls, "Every lead in its place")).GetProperty("id").GetInt64();
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await gulls.Send(HttpMethod.Post, $"/api/lessons/{asked}/hand-in", new { says = " " })).Status
        );
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{asked}/hand-in", new { says = "It draws too much." });
        Assert.Equal("answered; the educator reads it", Text(await Lesson(gulls, "Every lead in its place"), "progress"));
    }

    [Fact]
    public async Task What_was_counted_says_whether_it_is_done_and_is_pinned_with_it()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        await HandOut(open);
        var id = (await Lesson(gulls)).GetProperty("id").GetInt64();
        Assert.NotEqual(JsonValueKind.True, (await Lesson(gulls)).GetProperty("met").ValueKind);
        await Write(gulls, "seed-trolley-gulls", Mended);
        for (var i = 0; i < 200 && (await Lesson(gulls)).GetProperty("met").ValueKind == JsonValueKind.Null; i++)
            await Task.Delay(100);
        var lesson = await Lesson(gulls);
        var rate = (await gulls.Ask(HttpMethod.Get, "/api/rigs/seed-trolley-gulls")).GetProperty("rate");
        var (passes, runs) = (rate.GetProperty("passes").GetInt32(), rate.GetProperty("runs").GetInt32());
        Assert.Equal(passes * 10 >= runs * 5, lesson.GetProperty("met").GetBoolean());
        var known = (await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "Done" })).GetProperty("known");
        Assert.Equal((passes, runs), (known.GetProperty("passes").GetInt32(), known.GetProperty("runs").GetInt32()));
        Assert.True(known.GetProperty("proof").GetInt64() > 0);
        Assert.Equal(lesson.GetProperty("met").GetBoolean(), known.GetProperty("met").GetBoolean());
    }

    [Fact]
    public async Task The_team_marks_itself_first_and_then_sees_what_the_educator_says()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        await HandOut(open);
        var id = (await Lesson(gulls)).GetProperty("id").GetInt64();
        var handIn = (await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "Look" })).GetProperty("id").GetInt64();
        Task<(HttpStatusCode Status, JsonElement Body)> Mark(object body, bool team) =>
            team
                ? gulls.Send(HttpMethod.Put, $"/api/hand-ins/{handIn}/marks", body)
                : bench.Send(HttpMethod.Put, $"/api/hand-ins/{handIn}/marks", body);
        var (status, marked) = await Mark(new { levels = new int?[] { 2, 3 }, note = " Well reasoned. " }, false);
        Assert.True(status == HttpStatusCode.OK, marked.ToString());
        var seen = All((await Lesson(gulls)).GetProperty("handedIn"))[0];
        Assert.Equal(
            (0, "", true),
            (All(seen.GetProperty("educatorMarks")).Length, Text(seen, "note"), seen.GetProperty("waits").GetBoolean())
        );
        foreach (
            var wrong in new object[]
            {
                new { },
                new { levels = new[] { 1 } },
                new { levels = new[] { 3, 0 } },
                new { levels = new[] { -1, 0 } },
                new { levels = new[] { 0.5, 0 } },
                new { levels = new[] { 0, 0 }, note = "We are good" },
            }
        )
            Assert.Equal(HttpStatusCode.BadRequest, (await Mark(wrong, true)).Status);
        (_, marked) = await Mark(new { levels = new int?[] { 1, null } }, true);
        Assert.Equal("Well reasoned.", Text(marked, "note"));
        Assert.Equal([2, 3], All(marked.GetProperty("educatorMarks")).Select(l => l.GetInt32()));
        Assert.Equal("[1,null]", marked.GetProperty("teamMarks").GetRawText());
        // Marking changes nothing of what was handed in, and the educator's note stays where only levels are given anew.
        (_, marked) = await Mark(new { levels = new int?[] { 1, 1 } }, false);
        Assert.Equal(("Look", "Well reasoned."), (Text(marked, "says"), Text(marked, "note")));
    }

    [Fact]
    public async Task A_lesson_that_is_changed_afterwards_changes_nothing_until_a_team_takes_it()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        var (crabs, _) = await Team(open, "Crabs");
        await HandOut(open);
        async Task<object> Nothing() =>
            (await bench.TryPost($"/api/classes/{open.Id}/changes", new { course = Course, lesson = Third })).Status;
        Assert.Equal(HttpStatusCode.BadRequest, await Nothing());
        await Save(bench, Third, l => (l["task"], l["hints"]) = ("Another task.", new[] { "Only one hint." }));
        Assert.StartsWith("The trolley rolls", Text(await Lesson(gulls), "task"));
        var changes = await bench.Get($"/api/classes/{open.Id}/changes?course={Course}&lesson={Third}");
        Assert.Equal(["the task", "the hints"], All(changes.GetProperty("lesson")).Select(l => l.GetString()));
        Assert.Equal(2, changes.GetProperty("teams").GetInt32());
        var id = (await Lesson(gulls)).GetProperty("id").GetInt64();
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number = 1 });
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hint", new { number = 2 });
        // Offered twice it is one offer.
        for (var i = 0; i < 2; i++)
            await bench.Post($"/api/classes/{open.Id}/changes", new { course = Course, lesson = Third });
        var offer = Assert.Single(All((await Lesson(gulls)).GetProperty("offers")));
        await gulls.Ask(HttpMethod.Post, $"/api/offers/{offer.GetProperty("id").GetInt64()}", new { take = true });
        var lesson = await Lesson(gulls);
        Assert.Equal(("Another task.", "Only one hint."), (Text(lesson, "task"), All(lesson.GetProperty("hints"))[0].GetString()));
        Assert.Equal(0, lesson.GetProperty("moreHints").GetInt32());
        offer = Assert.Single(All((await Lesson(crabs)).GetProperty("offers")));
        await crabs.Ask(HttpMethod.Post, $"/api/offers/{offer.GetProperty("id").GetInt64()}", new { take = false });
        lesson = await Lesson(crabs);
        Assert.StartsWith("The trolley rolls", Text(lesson, "task"));
        Assert.Empty(All(lesson.GetProperty("offers")));
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await crabs.Send(HttpMethod.Post, $"/api/offers/{offer.GetProperty("id").GetInt64()}", new { take = true })).Status
        );
    }

    [Fact]
    public async Task A_changed_line_is_offered_to_all_and_each_takes_it_or_not()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        var (crabs, _, other) = await open.Team("Crabs");
        await bench.Save((await bench.Script()).Replace("after 30 s: go Lost", "after 20 s: go Lost"));
        var changes = await bench.Get($"/api/classes/{open.Id}/changes?rig=seed-trolley");
        var line = Assert.Single(All(changes.GetProperty("lines"))).GetString();
        Assert.Contains("now reads “after 20 s: go Lost”", line);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.TryPost($"/api/classes/{open.Id}/changes", new { rig = "seed-trolley", line = "Something else" })).Status
        );
        await bench.Post($"/api/classes/{open.Id}/changes", new { rig = "seed-trolley", line });
        async Task<JsonElement> Offer(RoomDevice device) =>
            Assert.Single(All((await device.Ask(HttpMethod.Get, "/api/me/lessons")).GetProperty("offers")));
        var (mine, theirs) = ((await Offer(gulls)).GetProperty("id").GetInt64(), (await Offer(crabs)).GetProperty("id").GetInt64());
        // Whoever has another offer's number has nothing.
        Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Post, $"/api/offers/{theirs}", new { take = true })).Status);
        var own = await Write(gulls, rig, s => s.Replace("var cruise = 60 %", "var cruise = 50 %"));
        var taken = await gulls.Ask(HttpMethod.Post, $"/api/offers/{mine}", new { take = true });
        Assert.Equal(own + 1, taken.GetProperty("revision").GetInt32());
        var script = await bench.Script(rig);
        Assert.Contains("after 20 s: go Lost", script);
        Assert.Contains("50 %", script);
        Assert.Contains("after 30 s: go Lost", await bench.Script(other));
        // It is an edit like any other: undo takes it back.
        await gulls.Ask(HttpMethod.Post, $"/api/rigs/{rig}/undo", new { });
        Assert.Contains("after 30 s: go Lost", await bench.Script(rig));
        // Where the line is not there any more, it is said, and the offer stays.
        await Write(crabs, other, s => s.Replace("    after 30 s: go Lost\n", ""));
        var (status, body) = await crabs.Send(HttpMethod.Post, $"/api/offers/{theirs}", new { take = true });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("does not stand in your state", body.ToString());
        await crabs.Ask(HttpMethod.Post, $"/api/offers/{theirs}", new { take = false });
    }

    [Fact]
    public async Task A_team_brings_its_own_rig_described_here_and_never_from_a_file()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        var (crabs, _) = await Team(open, "Crabs");
        await HandOut(open, Own);
        var lesson = await Lesson(gulls, Own);
        var id = lesson.GetProperty("id").GetInt64();
        Assert.True(lesson.GetProperty("bringsOwn").GetBoolean());
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await gulls.Send(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "Here" })).Status
        );
        var template = Text(All((await gulls.Ask(HttpMethod.Get, "/api/rigs/templates")).GetProperty("rigs"))[0], "template");
        var made = await gulls.Ask(HttpMethod.Post, "/api/rigs", new { template, name = "Crab cart" });
        Assert.Equal(["crab-cart"], All(await gulls.Ask(HttpMethod.Get, "/api/rigs")).Select(r => Text(r, "id")));
        Assert.DoesNotContain("crab-cart", All(await bench.Get("/api/rigs")).Select(r => Text(r, "id")));
        Assert.Equal(HttpStatusCode.Forbidden, (await crabs.Send(HttpMethod.Get, "/api/rigs/crab-cart")).Status);
        var file = await bench.Get("/api/rigs/seed-trolley/export");
        Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Post, "/api/rigs", file)).Status);
        foreach (var foreign in new[] { "seed-trolley", "no-such-rig", "" })
            Assert.Equal(
                HttpStatusCode.BadRequest,
                (await gulls.Send(HttpMethod.Post, $"/api/lessons/{id}/rig", new { rig = foreign })).Status
            );
        lesson = await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/rig", new { rig = Text(made, "id") });
        Assert.Equal("Crab cart", Text(lesson, "rigName"));
        await gulls.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "Here it is" });
        // Ten are enough, and one too many leaves nothing behind.
        for (var i = 1; i < ClassStore.MostOwnRigs; i++)
            await gulls.Ask(HttpMethod.Post, "/api/rigs", new { template, name = $"Cart {i}" });
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await gulls.Send(HttpMethod.Post, "/api/rigs", new { template, name = "One more" })).Status
        );
        Assert.Equal(9, All(await bench.Get("/api/rigs")).Length);
    }

    [Fact]
    public async Task A_team_that_comes_late_gets_the_same_lessons_and_what_most_have_of_them()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        await Team(open, "Gulls");
        await Team(open, "Crabs");
        await HandOut(open);
        await HandOut(open, Own);
        await Save(bench, Third, l => l["task"] = "Another task.");
        var (eels, late) = await Team(open, "Eels");
        await bench.Post($"/api/teams/{late}/same-start", new { });
        Assert.StartsWith("The trolley rolls", Text(await Lesson(eels), "task"));
        Assert.DoesNotContain("when beds = 3", await bench.Script("seed-trolley-eels"));
        Assert.True((await Lesson(eels, Own)).GetProperty("bringsOwn").GetBoolean());
        // The rig of a lesson is handed out with it and not a second time by itself.
        Assert.Single(All(await eels.Ask(HttpMethod.Get, "/api/rigs")));
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/teams/{late}/same-start", new { })).Status);
    }

    [Fact]
    public async Task Whoever_has_anothers_number_gets_nothing_there_or_not()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _) = await Team(open, "Gulls");
        var (crabs, _) = await Team(open, "Crabs");
        await HandOut(open);
        var id = (await Lesson(crabs)).GetProperty("id").GetInt64();
        var handIn = (await crabs.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "Ours" })).GetProperty("id").GetInt64();
        foreach (var key in new[] { $"{id}", "9999", "-1" })
        {
            Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Get, $"/api/lessons/{key}")).Status);
            foreach (
                var (path, body) in new (string, object)[]
                {
                    ("hint", new { number = 1 }),
                    ("rig", new { rig = "x" }),
                    ("hand-in", new { says = "x" }),
                }
            )
                Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Post, $"/api/lessons/{key}/{path}", body)).Status);
        }
        foreach (var key in new[] { $"{handIn}", "9999" })
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (await gulls.Send(HttpMethod.Put, $"/api/hand-ins/{key}/marks", new { levels = new[] { 2, 2 } })).Status
            );
        Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Post, "/api/offers/9999", new { take = true })).Status);
        Assert.Empty(All(All((await Lesson(crabs)).GetProperty("handedIn"))[0].GetProperty("teamMarks")));
        // What a class is deleted with goes too, and its file holds it.
        var file = await bench.Get($"/api/classes/{open.Id}/export");
        Assert.Equal(
            "Ours",
            Text(All(All(All(file.GetProperty("teams"))[1].GetProperty("lessons"))[0].GetProperty("handedIn"))[0], "says")
        );
        await bench.Send(HttpMethod.Delete, $"/api/classes/{open.Id}", new { });
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<ChitonDb>();
        Assert.Equal((0, 0, 0), (db.Assignments.Count(), db.HandIns.Count(), db.Offers.Count()));
    }

    [Theory]
    [InlineData("/api/training/next")]
    [InlineData("/api/training/1")]
    [InlineData("/api/training/sheet")]
    [InlineData("/api/courses")]
    [InlineData("/api/courses/start")]
    [InlineData("/api/courses/import")]
    [InlineData("/api/classes/1/lessons")]
    [InlineData("/api/classes/1/changes")]
    [InlineData("/api/lessons/1/hint")]
    [InlineData("/api/lessons/1/hand-in")]
    [InlineData("/api/offers/1")]
    public async Task Nonsense_is_refused_in_words(string path)
    {
        using var bench = new Bench();
        const string Nothing =
            """{"course":{"name":"a","lessons":[{"offered":{"triggers":[null]},"done":{},"rubric":[null],"""
            + """ "hints":[null],"walks":[null],"buildsOn":[null]}]},""";
        foreach (
            var body in new[]
            {
                "",
                "[]",
                "null",
                "\"x\"",
                """{"kind":5}""",
                """{"course":{"lessons":[null]},"baseVersion":1}""",
                Nothing + """ "format":"chiton-course","version":1,"rigs":{"a":{}}}""",
            }
        )
        {
            using var content = new StringContent(body, System.Text.Encoding.UTF8, "application/json");
            using var answer = await bench.Http.PostAsync(path, content);
            // What leaves out all that may be left out is answered.
            Assert.True((int)answer.StatusCode is 200 or 400 or 404, $"{path} {body}: {(int)answer.StatusCode}");
        }
    }
}
