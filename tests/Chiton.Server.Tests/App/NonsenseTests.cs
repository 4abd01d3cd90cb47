using System.Text;

namespace Chiton.Server.Tests.App;

/// <summary>Whatever is sent, the answer says in words what is wrong and where; never that something went wrong here.</summary>
public sealed class NonsenseTests(NonsenseTests.One one) : IClassFixture<NonsenseTests.One>
{
    public sealed class One : IDisposable
    {
        public Bench Bench { get; } = new();

        public void Dispose() => Bench.Dispose();
    }

    private async Task<(int Status, JsonElement Body)> Send(string method, string path, byte[] body, string type)
    {
        using var request = new HttpRequestMessage(new(method), path) { Content = new ByteArrayContent(body) };
        request.Content.Headers.TryAddWithoutValidation("content-type", type);
        var answer = await one.Bench.Http.SendAsync(request);
        return ((int)answer.StatusCode, JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement);
    }

    [Theory]
    [InlineData("POST", "/runs", """{"seed":NaN}""", "seed", "no numbers in JSON")]
    [InlineData("POST", "/runs", """{"seed":1e999}""", "seed", "Must be a number")]
    [InlineData("POST", "/runs", """{"seed":1,"job":"\ud800"}""", "job", "cannot be shown")]
    [InlineData("POST", "/runs", """{"seed":1,"faults":[null]}""", "faults[0]", "Give a disturbance")]
    [InlineData("POST", "/runs", "[]", "body", "JSON object")]
    [InlineData("POST", "/runs", "", "body", "JSON object")]
    [InlineData("POST", "/runs", """{"seed":1,"sede":2}""", "sede", "There is no field “sede” here")]
    [InlineData("PUT", "/program", """{"script":"program X\n"}""", "baseRevision", "Say on which revision")]
    [InlineData("PUT", "/program", """{"baseRevision":1,"script":"program X\n# \u0007\n"}""", "script", "cannot be shown")]
    [InlineData("POST", "/rename", """{"what":"device","from":"Tag eye","to":"Eye","copy":1}""", "baseRevision", "Say on which revision")]
    [InlineData(
        "POST",
        "/readings",
        """{"copy":1,"sensor":"Tag eye","zone":"bed tag","csv":true,"text":"value,zone\n3,bed tag\n4"}""",
        "text.line3",
        "too short"
    )]
    public async Task Nonsense_in_a_body_is_named(string method, string path, string body, string field, string says)
    {
        var (status, problem) = await Send(method, Bench.Rig + path, Encoding.UTF8.GetBytes(body), "application/json");
        Assert.True(status == 400, problem.ToString());
        Assert.Contains(says, problem.GetProperty("errors").GetProperty(field)[0].GetString());
    }

    [Theory]
    [InlineData("""{"key":"Drive: straight","asked":100,"mesured":3}""", "mesured")]
    [InlineData("""{"key":"Drive: straight","asked":100,"measured":3,"Sure":true}""", "Sure")]
    public async Task A_misspelled_field_invents_no_measurement(string body, string field)
    {
        var (status, problem) = await Send("POST", "/api/rigs/deck-scrubber/trials", Encoding.UTF8.GetBytes(body), "application/json");
        Assert.True(status == 400, problem.ToString());
        Assert.Contains("no field", problem.GetProperty("errors").GetProperty(field)[0].GetString());
    }

    [Fact]
    public async Task A_field_has_the_name_that_the_call_gives_it()
    {
        var (status, problem) = await Send(
            "POST",
            "/api/rigs/deck-scrubber/move/turns",
            """{"mechanism":"Drive","turnDeg":90,"radiusMm":-5}"""u8.ToArray(),
            "application/json"
        );
        Assert.Equal(400, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty("radiusMm", out _), problem.ToString());
    }

    [Theory]
    [InlineData("?copy=abc", "copy", "whole number")]
    [InlineData("?copy=1.5", "copy", "whole number")]
    [InlineData("?copy=99999999999999", "copy", "whole number")]
    public async Task Nonsense_in_an_address_is_named(string query, string field, string says)
    {
        var answer = await one.Bench.Http.GetAsync(Bench.Rig + query);
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains(
            says,
            (await answer.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors").GetProperty(field)[0].GetString()
        );
    }

    [Theory]
    [InlineData("text/plain")]
    [InlineData("application/json; charset=klingon")]
    [InlineData("application/xml")]
    public async Task What_is_not_called_JSON_is_told_what_to_call_it(string type)
    {
        var (status, problem) = await Send("POST", Bench.Rig + "/runs", """{"seed":1}"""u8.ToArray(), type);
        Assert.Equal(415, status);
        Assert.Contains("application/json", problem.GetProperty("title").GetString());
    }

    [Fact]
    public async Task Bytes_that_are_no_text_are_told_so()
    {
        var (status, problem) = await Send(
            "POST",
            Bench.Rig + "/runs",
            [.. "{\"seed\":1,\"job\":\""u8, 0xFF, 0xFE, .. "\"}"u8],
            "application/json"
        );
        Assert.True(status == 400, problem.ToString());
    }

    [Fact]
    public async Task Marks_that_nobody_sees_are_taken_out_of_names()
    {
        var answer = await one.Bench.Http.PutAsJsonAsync(Bench.Rig + "/copies/1", new { team = "A\u202EB\u200BC\uFEFF" });
        Assert.Equal("ABC", (await answer.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("team").GetString());
    }

    [Fact]
    public async Task An_inline_rig_goes_through_the_rules_of_one_that_is_kept()
    {
        var (status, problem) = await Send(
            "POST",
            "/api/walk",
            """{"format":"script","source":"program X\n","rig":{"name":"x","actuators":[null]}}"""u8.ToArray(),
            "application/json"
        );
        Assert.Equal(400, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty("rig.actuators[0]", out _), problem.ToString());
    }

    [Fact]
    public async Task Twenty_rigs_of_one_name_at_once_get_twenty_addresses()
    {
        var template = (await one.Bench.Get("/api/rigs/templates")).GetProperty("rigs")[0].GetProperty("template").GetString();
        var made = await Task.WhenAll(
            Enumerable.Range(0, 20).Select(_ => one.Bench.TryPost("/api/rigs", new { template, name = "Same name" }))
        );
        Assert.All(made, m => Assert.True(m.Status == HttpStatusCode.OK, m.Body.ToString()));
        Assert.Equal(20, made.Select(m => m.Body.GetProperty("id").GetString()).Distinct().Count());
    }

    [Fact]
    public async Task A_chart_with_two_states_of_one_name_is_drawn_in_every_format()
    {
        const string twice =
            "program Twice\n\nregion Main\n  state A, initial\n    always: go B\n  state B\n  state B\n    state A\n    state A\n";
        var made = await one.Bench.Post(
            "/api/rigs",
            new
            {
                template = (await one.Bench.Get("/api/rigs/templates")).GetProperty("rigs")[0].GetProperty("template").GetString(),
                name = "Twice",
            }
        );
        var rig = $"/api/rigs/{made.GetProperty("id").GetString()}";
        var (status, body) = await one.Bench.Send(HttpMethod.Put, rig + "/program", new { baseRevision = 1, script = twice });
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        foreach (var format in new[] { "chart", "chart.mmd", "chart.dot", "scxml" })
        {
            var answer = await one.Bench.Http.GetAsync($"{rig}/program/{format}");
            Assert.True((int)answer.StatusCode < 500, $"{format}: {answer.StatusCode} {await answer.Content.ReadAsStringAsync()}");
        }
    }
}
