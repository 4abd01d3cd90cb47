namespace Chiton.Server.Tests.Parts;

public class WalkTests
{
    private const string Gate = """
        <scxml xmlns="http://www.w3.org/2005/07/scxml" version="1.0" initial="shut">
          <state id="shut"><transition event="open" cond="_event.data &gt; 1" target="opening"/></state>
          <state id="opening"><onentry><send event="there" delay="1500ms"/></onentry><transition event="there" target="open"/></state>
          <final id="open"/>
        </scxml>
        """;

    private static string Config(JsonElement e) => string.Join('+', e.EnumerateArray().Select(s => s.GetString()));

    [Fact]
    public async Task A_document_is_walked_with_data_and_time()
    {
        using var bench = new Bench();
        var walk = await bench.Post(
            "/api/walk",
            new
            {
                format = "scxml",
                source = Gate,
                events = new object[]
                {
                    new { name = "open", data = 1 },
                    new { name = "open", data = 2 },
                    new { afterMs = 1499 },
                    new { afterMs = 1 },
                    new { name = "open" },
                },
            }
        );
        Assert.Equal("shut", Config(walk.GetProperty("initial")));
        Assert.Equal(["shut", "opening", "opening", "open", "open"], walk.GetProperty("after").EnumerateArray().Select(Config));
    }

    [Fact]
    public async Task A_script_is_walked_with_the_names_of_a_rig()
    {
        using var bench = new Bench();
        const string script =
            "program Hoist\nvar notches = 0\nregion Main\n  state Resting, initial\n    on entry: send Mast to bottom\n    when Order "
            + "knob is tapped: go Rising\n  state Rising\n    while here: run Mast up at 35 %\n    when Shelf eye becomes notch: set "
            + "notches to notches + 1; stay\n    when notches = 2: go Docked\n    when Mast stalls: go Resting\n  state Docked\n    "
            + "on entry: run Tongue out 310 motor deg at 30 %\n    when Tongue is done: go Resting\n";
        object Named(string name) => new { name };
        var walk = await bench.Post(
            "/api/walk",
            new
            {
                format = "script",
                source = script,
                rigId = "rack-hoist",
                events = new[]
                {
                    Named("Order knob tapped"),
                    Named("Shelf eye is notch"),
                    Named("Shelf eye is mast paint"),
                    Named("Shelf eye is notch"),
                    Named("Tongue done"),
                },
            }
        );
        Assert.Equal("Main.Resting", Config(walk.GetProperty("initial")));
        Assert.Equal(
            ["Main.Rising", "Main.Rising", "Main.Rising", "Main.Docked", "Main.Resting"],
            walk.GetProperty("after").EnumerateArray().Select(Config)
        );
        Assert.Equal("2", walk.GetProperty("moments")[4].GetProperty("values")[0].GetProperty("value").GetString());
        Assert.Equal("when notches = 2: go Docked", walk.GetProperty("moments")[4].GetProperty("taken")[1].GetProperty("text").GetString());
        // A motor is its mechanism: commanding it ends what the other was told.
        var (status, body) = await bench.TryPost(
            "/api/walk",
            new
            {
                format = "script",
                source = script.Replace("notch:", "noch:"),
                rigId = "rack-hoist",
                events = Array.Empty<object>(),
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("Line 9: No zone “noch” on Shelf eye; did you mean “notch”?", body.ToString());
        (status, body) = await bench.TryPost(
            "/api/walk",
            new
            {
                format = "script",
                source = script,
                rigId = "rack-hoist",
                events = new[] { Named("Order knob tapt") },
            }
        );
        Assert.Contains("means nothing here", body.GetProperty("errors").GetProperty("events[0].name")[0].GetString());
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await bench.TryPost(
                    "/api/walk",
                    new
                    {
                        format = "script",
                        source = script,
                        rigId = "no-such-rig",
                    }
                )
            ).Status
        );
    }

    [Theory]
    [InlineData("""{"format":"xml","source":"x"}""", "format")]
    [InlineData("""{"format":"scxml"}""", "source")]
    [InlineData(
        """{"format":"scxml","source":"<scxml xmlns='http://www.w3.org/2005/07/scxml'><state id='a'><invoke/></state></scxml>"}""",
        "source"
    )]
    [InlineData("""{"format":"scxml","source":"<scxml/>","events":[{"name":"e","afterMs":-1}]}""", "events[0].afterMs")]
    [InlineData("""{"format":"scxml","source":"<scxml/>","events":[{"name":""}]}""", "events[0].name")]
    [InlineData("""{"format":"scxml","source":"<!DOCTYPE a [<!ENTITY b SYSTEM 'file:///etc/passwd'>]><scxml>&b;</scxml>"}""", "source")]
    public async Task Nonsense_is_refused_with_the_field_and_the_line(string json, string field)
    {
        var bench = Bench.Shared;
        var (status, body) = await bench.TryPost("/api/walk", JsonDocument.Parse(json).RootElement);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal(field, body.GetProperty("errors").EnumerateObject().Single().Name);
        if (json.Contains("invoke"))
            Assert.Contains("Line 1: “invoke”", body.ToString());
    }
}
