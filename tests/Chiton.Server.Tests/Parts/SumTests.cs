using System.Text;

namespace Chiton.Server.Tests.Parts;

public class SumTests : IClassFixture<SumTests.Shared>
{
    public sealed class Shared : IDisposable
    {
        public Bench Bench { get; } = new();

        public void Dispose() => Bench.Dispose();
    }

    private readonly Bench bench;

    public SumTests(Shared shared) => bench = shared.Bench;

    private async Task<(HttpStatusCode Status, JsonElement Body)> Sum(string name, string json)
    {
        var response = await bench.Http.PostAsync("/api/sums/" + name, new StringContent(json, Encoding.UTF8, "application/json"));
        return (response.StatusCode, await response.Content.ReadFromJsonAsync<JsonElement>());
    }

    [Fact]
    public async Task A_sum_answers_result_steps_cautions_and_verdict()
    {
        var (status, body) = await Sum(
            "marker-pass",
            """{"markerLengthMm":48,"spotDiameterMm":8,"samplePeriodMs":10,"readingsNeeded":2,"speedMmPerS":310}"""
        );
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(["result", "steps", "cautions", "verdict"], body.EnumerateObject().Select(p => p.Name));
        Assert.Equal(2000, body.GetProperty("result").GetProperty("maxSpeedMmPerS").GetDouble(), 6);
        Assert.Equal("solid", body.GetProperty("verdict").GetProperty("grade").GetString());
        Assert.Equal(["say", "arithmetic", "value", "unit"], body.GetProperty("steps")[0].EnumerateObject().Select(p => p.Name));
    }

    [Fact]
    public async Task Success_rate_judges_nothing()
    {
        var (_, body) = await Sum("success-rate", """{"passes":91,"runs":100}""");
        Assert.Equal(JsonValueKind.Null, body.GetProperty("verdict").ValueKind);
        Assert.Equal(0.8377, body.GetProperty("result").GetProperty("low").GetDouble(), 4);
    }

    [Theory]
    [InlineData("threshold", """{"lists":[{"readings":[1,"a",3]},{"readings":[5,6,7]}],"samplePeriodMs":10}""", "lists[0].readings[1]")]
    [InlineData("threshold", """{"lists":"x","samplePeriodMs":10}""", "lists")]
    [InlineData("threshold", """{"lists":[{"readings":[1,2]},{"readings":[5,6,7]}],"samplePeriodMs":10}""", "lists[0].readings")]
    [InlineData("threshold", """{"lists":[null,{"readings":[5,6,7]}],"samplePeriodMs":10}""", "lists[0].readings")]
    [InlineData("threshold", """{"lists":[{"readings":[1,2,1e400]},{"readings":[5,6,7]}],"samplePeriodMs":10}""", "lists[0].readings[2]")]
    [InlineData("threshold", """{"lists":[{"readings":[1,2,3]},{"readings":[5,6,7]}],"samplePeriodMs":10,"school":7}""", "school")]
    [InlineData("marker-pass", """{"markerLengthMm":"48","spotDiameterMm":8,"samplePeriodMs":10,"readingsNeeded":2}""", "markerLengthMm")]
    [InlineData("marker-pass", """{"markerLengthMm":NaN}""", "markerLengthMm")]
    [InlineData("marker-pass", """{"spotDiameterMm":8,"samplePeriodMs":10,"readingsNeeded":2}""", "markerLengthMm")]
    [InlineData("success-rate", """{"passes":5,"runs":4}""", "passes")]
    [InlineData("success-rate", """[]""", "body")]
    [InlineData("success-rate", "", "body")]
    public async Task Bad_input_names_the_field(string name, string json, string field)
    {
        var (status, body) = await Sum(name, json);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal(400, body.GetProperty("status").GetInt32());
        Assert.True(body.GetProperty("errors").TryGetProperty(field, out var say), body.ToString());
        Assert.NotEqual("", say[0].GetString());
    }

    [Fact]
    public async Task An_unknown_sum_is_404() => Assert.Equal(HttpStatusCode.NotFound, (await Sum("tide", "{}")).Status);
}
