namespace Chiton.Server.Tests.Parts;

/// <summary>Help, the lists that pages draw from, and finding.</summary>
public class HelpTests : IClassFixture<SumTests.Shared>
{
    private readonly Bench bench;

    public HelpTests(SumTests.Shared shared) => bench = shared.Bench;

    [Fact]
    public async Task Every_sum_is_listed_with_all_its_fields_and_every_result_has_a_name()
    {
        var catalogue = await bench.Get("/api/sums");
        var shape = await bench.Get("/openapi/v1.json");
        var calls = shape
            .GetProperty("paths")
            .EnumerateObject()
            .Where(p => p.Name.StartsWith("/api/sums/", StringComparison.Ordinal))
            .ToArray();
        var listed = catalogue.GetProperty("sums").EnumerateArray().ToDictionary(s => s.GetProperty("name").GetString()!);
        Assert.Equal(calls.Select(c => c.Name["/api/sums/".Length..]).Order(), listed.Keys.Order());
        JsonElement Of(JsonElement schema)
        {
            while (schema.TryGetProperty("$ref", out var reference))
                schema = shape.GetProperty("components").GetProperty("schemas").GetProperty(reference.GetString()!.Split('/')[^1]);
            return schema;
        }
        foreach (var call in calls)
        {
            var post = call.Value.GetProperty("post");
            var input = Of(post.GetProperty("requestBody").GetProperty("content").GetProperty("application/json").GetProperty("schema"));
            var sum = listed[call.Name["/api/sums/".Length..]];
            var fields = sum.GetProperty("blanks").EnumerateArray().Select(b => b.GetProperty("field").GetString()!).ToArray();
            Assert.Empty(fields.Except(input.GetProperty("properties").EnumerateObject().Select(p => p.Name)));
            // Each blank stands in the sentence, once.
            var sentence = sum.GetProperty("sentence").GetString()!;
            Assert.All(fields, f => Assert.Equal(2, sentence.Split("{" + f + "}").Length));
            var answer = Of(
                post.GetProperty("responses")
                    .GetProperty("200")
                    .GetProperty("content")
                    .GetProperty("application/json")
                    .GetProperty("schema")
            );
            foreach (var result in Of(answer.GetProperty("properties").GetProperty("result")).GetProperty("properties").EnumerateObject())
                Assert.False(
                    string.IsNullOrWhiteSpace(catalogue.GetProperty("results").GetProperty(result.Name).GetProperty("label").GetString()),
                    $"{call.Name} {result.Name}"
                );
        }
    }

    [Fact]
    public async Task Names_that_nobody_wrote_are_spelled_with_their_units()
    {
        var results = (await bench.Get("/api/sums")).GetProperty("results");
        Assert.Equal(("From noticing to rest", "mm", true), Label(results.GetProperty("stopDistanceMm")));
        Assert.Equal(("rest low", "mm", false), Label(results.GetProperty("restLowMm")));
        Assert.All(results.EnumerateObject(), r => Assert.DoesNotContain("  ", r.Value.GetProperty("label").GetString()));

        static (string?, string?, bool) Label(JsonElement r) =>
            (r.GetProperty("label").GetString(), r.GetProperty("unit").GetString(), r.GetProperty("main").GetBoolean());
    }

    [Fact]
    public async Task Help_has_its_pages_and_says_what_our_words_mean()
    {
        var help = await bench.Get("/api/help");
        var pages = help.GetProperty("pages").EnumerateArray().ToDictionary(p => p.GetProperty("name").GetString()!);
        Assert.Equal(["guide", "language", "checks", "line"], pages.Keys);
        foreach (var page in pages.Values)
        {
            var sections = page.GetProperty("sections").EnumerateArray().ToArray();
            Assert.True(sections.Length > 4);
            Assert.Equal(sections.Length, sections.Select(s => s.GetProperty("id").GetString()).Distinct().Count());
            Assert.All(sections, s => Assert.NotEmpty(s.GetProperty("text").GetString()!));
        }
        var words = help.GetProperty("words");
        foreach (var word in new[] { "copy", "zone", "plate", "stand-in", "a hand ends it", "threshold" })
            Assert.True(words.GetProperty(word).GetString()!.Length > 20, word);
        Assert.DoesNotContain("**", words.GetProperty("sd").GetString());
    }

    [Fact]
    public async Task The_demo_answers_to_everyday_words()
    {
        async Task<string[]> Find(string text, string rig = "seed-trolley") =>
            [
                .. (await bench.Get($"/api/rigs/{rig}/find?text={Uri.EscapeDataString(text)}"))
                    .EnumerateArray()
                    .Select(f => $"{f.GetProperty("kind").GetString()} {f.GetProperty("name").GetString()}"),
            ];
        Assert.Equal("zone bed tag", (await Find("bed tag"))[0]);
        Assert.Contains("sum Will the pack last", await Find("battery"), StringComparer.Ordinal);
        foreach (
            var (word, kind) in new[]
            {
                ("overshoot", "number"),
                ("coast", "number"),
                ("undo", "action"),
                ("print", "action"),
                ("guess", "number"),
                ("plate", "help"),
            }
        )
            Assert.Contains(await Find(word), f => f.StartsWith(kind, StringComparison.Ordinal));
        Assert.Contains("mechanism Mast", await Find("mast", "rack-hoist"));
        Assert.Contains(await Find("shelf", "rack-hoist"), f => f.StartsWith("position", StringComparison.Ordinal));
        Assert.Empty(await Find("xyzzy"));
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await bench.Http.GetAsync("/api/rigs/nobody/find?text=a", TestContext.Current.CancellationToken)).StatusCode
        );
    }

    [Fact]
    public async Task The_words_of_the_language_are_served()
    {
        var language = await bench.Get("/api/language");
        Assert.Contains(language.GetProperty("keywords").EnumerateArray(), k => k.GetString() == "becomes");
        Assert.Contains(language.GetProperty("units").EnumerateArray(), k => k.GetString() == "motor deg");
    }
}
