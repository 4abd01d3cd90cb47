using Chiton.Core.Classroom.Training;
using Chiton.Data;
using Chiton.Server.Tests.App;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

/// <summary>Practising over the web: asked, answered once, counted, and nobody else's.</summary>
[Collection("Behind everything else")]
public class TrainingTests
{
    private static JsonElement[] All(JsonElement list) => [.. list.EnumerateArray()];

    private static string? Text(JsonElement of, string name) => of.GetProperty(name).GetString();

    private static async Task<Exercise> Known(Bench bench, long id)
    {
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var row = scope.ServiceProvider.GetRequiredService<ChitonDb>().Exercises.Single(e => e.Id == id);
        return Documents.Read<Exercise>(row.Document);
    }

    // The right answer, as the server knows it.
    private static object Right(Exercise e) =>
        e switch
        {
            { Trace: { } t } => new { steps = t.Right },
            { Number: { } n } => new { number = n.Right },
            { Dots: { } d } => new { number = d.Best },
            { Rate: { } r } => new { number = 100.0 * r.Passes / r.Runs },
            _ => new { choice = e.Right },
        };

    [Theory]
    [InlineData("next")]
    [InlineData("trace")]
    [InlineData("fault")]
    [InlineData("threshold")]
    [InlineData("work")]
    [InlineData("rate")]
    [InlineData("measure")]
    public async Task Each_kind_is_asked_without_its_answer_and_answered_with_the_reason(string kind)
    {
        using var bench = new Bench();
        var asked = await bench.Post("/api/training/next", new { kind });
        Assert.Equal(kind, Text(asked, "kind"));
        var id = asked.GetProperty("id").GetInt64();
        var known = await Known(bench, id);
        // What is right is nowhere in what is asked.
        Assert.DoesNotContain("\"right\"", asked.GetRawText());
        Assert.DoesNotContain("\"best\"", asked.GetRawText());
        foreach (var option in known.Options)
            Assert.DoesNotContain(JsonSerializer.Serialize(option.Why)[1..^1], asked.GetRawText());
        // What is no answer is refused and counts nothing.
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/training/{id}", new { })).Status);
        var told = await bench.Post($"/api/training/{id}", Right(known));
        Assert.True(told.GetProperty("right").GetBoolean(), told.ToString());
        Assert.Equal(known.Reason, Text(told, "reason"));
        Assert.Equal(1, told.GetProperty("skill").GetProperty("asked").GetInt32());
        // By hand: one right answer, nothing forgotten: 1 − 0.8² = 0.36.
        Assert.Equal(0.36, told.GetProperty("skill").GetProperty("sure").GetDouble(), 3);
        // Answered once is answered.
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/training/{id}", Right(known))).Status);
        var skills = All((await bench.Get("/api/training")).GetProperty("skills"));
        Assert.Equal([kind], skills.Where(s => s.GetProperty("asked").GetInt32() > 0).Select(s => Text(s, "kind")));
    }

    [Fact]
    public async Task What_is_due_comes_by_itself_never_the_same_in_a_row_and_says_why()
    {
        using var bench = new Bench();
        var before = ("", "");
        for (var i = 0; i < 12; i++)
        {
            var asked = await bench.Post("/api/training/next", new { rig = "seed-trolley" });
            Assert.NotEqual("", Text(asked, "why"));
            var known = await Known(bench, asked.GetProperty("id").GetInt64());
            Assert.NotEqual(before, (Text(asked, "kind")!, known.Key));
            Assert.NotEqual(before.Item1, Text(asked, "kind"));
            before = (Text(asked, "kind")!, known.Key);
        }
        for (var i = 0; i < 6; i++)
        {
            var asked = await bench.Post("/api/training/next", new { kind = "work", rig = "seed-trolley" });
            var known = await Known(bench, asked.GetProperty("id").GetInt64());
            Assert.NotEqual(before.Item2, known.Key);
            before = ("work", known.Key);
        }
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/training/next", new { kind = "ranking" })).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost("/api/training/next", new { rig = "no-such-rig" })).Status);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await bench.TryPost("/api/training/next", new { kind = "trace", rig = "header-tank" })).Status
        );
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost("/api/training/9999", new { choice = 0 })).Status);
    }

    [Fact]
    public async Task A_team_practises_with_its_own_rigs_and_the_educator_sees_its_skills()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var stranger = new RoomDevice(bench);
        await stranger.Join(await open.Code(), "Eels");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Send(HttpMethod.Post, "/api/training/next", new { })).Status);
        var (gulls, team, _) = await open.Team("Gulls");
        var (crabs, _, _) = await open.Team("Crabs", "rack-hoist");
        var asked = await gulls.Ask(HttpMethod.Post, "/api/training/next", new { kind = "next" });
        Assert.Equal("Seed trolley", Text(asked, "rig"));
        Assert.Equal(
            ["Seed trolley"],
            All((await gulls.Ask(HttpMethod.Get, "/api/training")).GetProperty("rigs")).Select(r => Text(r, "name"))
        );
        Assert.Equal(HttpStatusCode.NotFound, (await gulls.Send(HttpMethod.Post, "/api/training/next", new { rig = "rack-hoist" })).Status);
        var id = asked.GetProperty("id").GetInt64();
        var known = await Known(bench, id);
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await crabs.Send(HttpMethod.Post, $"/api/training/{id}", new { choice = known.Right })).Status
        );
        await gulls.Ask(HttpMethod.Post, $"/api/training/{id}", new { choice = (known.Right + 1) % known.Options.Count });
        var table = await bench.Get($"/api/classes/{open.Id}/skills");
        var line = All(table.GetProperty("teams")).Single(t => t.GetProperty("team").GetInt64() == team);
        // By hand: one wrong answer: 1 − (1 − 0.2²) = 0.04.
        Assert.Equal(0.04, All(line.GetProperty("skills"))[0].GetProperty("sure").GetDouble(), 3);
        Assert.All(
            All(table.GetProperty("teams")).Where(t => t.GetProperty("team").GetInt64() != team),
            t => Assert.All(All(t.GetProperty("skills")), s => Assert.Equal(0, s.GetProperty("asked").GetInt32()))
        );
        Assert.Equal(0, All((await bench.Get("/api/training")).GetProperty("skills"))[0].GetProperty("asked").GetInt32());
        await bench.Send(HttpMethod.Delete, $"/api/classes/{open.Id}", new { });
        await using var scope = bench.Server.Services.CreateAsyncScope();
        Assert.Empty(scope.ServiceProvider.GetRequiredService<ChitonDb>().Exercises);
    }

    [Fact]
    public async Task A_sheet_has_as_many_as_are_asked_for_and_an_answer_each_and_counts_nothing()
    {
        using var bench = new Bench();
        var sheet = await bench.Post("/api/training/sheet", new { count = 4, rig = "seed-trolley" });
        var (exercises, answers) = (All(sheet.GetProperty("exercises")), All(sheet.GetProperty("answers")));
        Assert.Equal((4, 4), (exercises.Length, answers.Length));
        Assert.Equal(["next", "trace", "fault", "threshold"], exercises.Select(e => Text(e, "kind")));
        Assert.All(answers, a => Assert.True(a.GetString()!.Length > 10));
        Assert.All(All((await bench.Get("/api/training")).GetProperty("skills")), s => Assert.Equal(0, s.GetProperty("asked").GetInt32()));
        foreach (var count in new[] { 0, 13, 1.5 })
            Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/training/sheet", new { count })).Status);
    }

    [Fact]
    public async Task A_rig_that_is_hardly_begun_gives_what_it_can_and_nothing_fails()
    {
        using var bench = new Bench();
        foreach (var (i, t) in All((await bench.Get("/api/rigs/templates")).GetProperty("rigs")).Index())
        {
            var made = await bench.Post("/api/rigs", new { template = Text(t, "template"), name = $"Thing {i}" });
            var rig = Text(made, "id");
            async Task<HttpStatusCode[]> Ask()
            {
                var answers = new List<HttpStatusCode>();
                foreach (var kind in Enum.GetNames<ExerciseKind>())
                    answers.Add((await bench.TryPost("/api/training/next", new { kind = kind.ToLowerInvariant(), rig })).Status);
                return [.. answers];
            }
            // Without a program there is nothing to ask.
            Assert.All(await Ask(), a => Assert.Equal(HttpStatusCode.NotFound, a));
            const string Script =
                "\n\nvar n = 0\n\nregion Main\n  state A, initial\n    after 1 s: set n to n + 1; go B\n    after 2 s: go C\n"
                + "    always if n = 9: go C\n  state B\n    after 1 s: go A\n    after 3 s: go C\n  state C, final\n";
            await bench.Send(HttpMethod.Put, $"/api/rigs/{rig}/program", new { baseRevision = 1, script = $"program Thing {i}{Script}" });
            var then = await Ask();
            Assert.Equal(HttpStatusCode.OK, then[(int)ExerciseKind.Next]);
            Assert.All(then, a => Assert.True(a is HttpStatusCode.OK or HttpStatusCode.NotFound, $"{rig}: {a}"));
            // A lesson about it is made all the same.
            await bench.Post("/api/courses", new { name = $"Week {i}", rig });
            await bench.Get($"/api/courses/stuff?rig={rig}");
        }
    }
}
