namespace Chiton.Server.Tests.Parts;

/// <summary>One text in several places, over the API.</summary>
public class PlacingTests
{
    private const string Post =
        "program Post (number)\n\nregion Main\n  state Waiting, initial\n    when Bell is tapped: go Called\n"
        + "\n  state Called\n    on entry: tell "
        + "Keeper \"called\" with number\n";

    private static object Design(bool apart) =>
        new
        {
            name = "Posts",
            place = "Farm",
            controllers = new[]
            {
                new { name = "Post 1", ports = new[] { new { name = "1", can = new[] { "digitalIn" } } } },
                new { name = "Post 2", ports = new[] { new { name = "1", can = new[] { "digitalIn" } } } },
            },
            sensors = new[] { Bell(apart ? "Post 1's Bell" : "Bell"), Bell(apart ? "Post 2's Bell" : "Bell") },
            actuators = Array.Empty<object>(),
            wires = new[] { Wire(apart ? "Post 1's Bell" : "Bell", "Post 1"), Wire(apart ? "Post 2's Bell" : "Bell", "Post 2") },
            programs = new[]
            {
                new
                {
                    script = Post.Replace("Keeper", "Post 2"),
                    runsOn = "Post 1",
                    values = new { number = 3 },
                },
                new
                {
                    script = Post.Replace("Keeper", "Post 2"),
                    runsOn = "Post 2",
                    values = new { number = 4 },
                },
            },
        };

    private static object Bell(string name) =>
        new
        {
            name,
            kind = "button",
            samplePeriodMs = 10,
            resolution = 1,
            zones = new[] { "up", "down" },
        };

    private static object Wire(string device, string controller) =>
        new
        {
            device,
            lead = "signal",
            controller,
            port = "1",
        };

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_rig_given_with_a_walk_places_its_text(bool apart)
    {
        using var bench = new Bench();
        object[] Events(string name) => [new { name }];
        var walk = await bench.Post(
            "/api/walk",
            new
            {
                format = "script",
                together = true,
                rig = Design(apart),
                events = Events("Post 1's Bell tapped"),
            }
        );
        Assert.Contains("Post 1.Main.Called", walk.GetProperty("after")[0].ToString());
        Assert.Contains("Post 2.Main.Waiting", walk.GetProperty("after")[0].ToString());
        var alone = await bench.Post(
            "/api/walk",
            new
            {
                format = "script",
                source = Post.Replace("Keeper", "Post 2"),
                program = 1,
                rig = Design(apart),
                events = Events("Bell tapped"),
            }
        );
        Assert.Equal("[[\"Main.Called\"]]", alone.GetProperty("after").GetRawText().Replace(" ", "").Replace("\n", ""));
        var (status, body) = await bench.Send(
            HttpMethod.Post,
            "/api/walk",
            new
            {
                format = "script",
                source = "program Other (number)\n\nregion Main\n  state A, initial\n",
                rig = Design(apart),
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("Nobody says what “number” is", body.ToString());
    }

    [Fact]
    public async Task A_text_is_placed_once_more_given_its_values_and_edited_in_all_its_places()
    {
        using var bench = new Bench();
        const string rig = "/api/rigs/lock-keeper";
        async Task<int> Revision() => (await bench.Get(rig)).GetProperty("revision").GetInt32();
        var places = (await bench.Get(rig + "/program")).GetProperty("places").EnumerateArray().Select(p => p.GetString()!).ToArray();
        Assert.True(places.Length >= 2);
        await bench.Post(
            rig + "/programs",
            new
            {
                baseRevision = await Revision(),
                script = "program Post (number)\n\nregion Main\n  state Waiting, initial\n    after 1 s if number > 1: stay\n",
                runsOn = places[0],
            }
        );
        JsonElement Item(JsonElement program, string name) =>
            program.GetProperty("programs").EnumerateArray().Single(p => p.GetProperty("name").GetString() == name);
        var listed = Item(await bench.Get(rig + "/program"), "Post");
        Assert.Equal(1, listed.GetProperty("faults").GetInt32());
        Assert.Equal("[{\"name\":\"number\",\"value\":\"\"}]", listed.GetProperty("values").GetRawText());
        var index = listed.GetProperty("index").GetInt32();
        object[] Number(string value) => [new { name = "number", value }];
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            $"{rig}/programs/{index}",
            new
            {
                baseRevision = await Revision(),
                runsOn = places[0],
                onHost = false,
                runs = false,
                values = Number("3"),
            }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        Assert.Equal(0, Item(await bench.Get(rig + "/program"), "Post").GetProperty("faults").GetInt32());
        await bench.Post(
            $"{rig}/programs/{index}/places",
            new
            {
                baseRevision = await Revision(),
                runsOn = places[1],
                values = Number("12"),
            }
        );
        var program = await bench.Get(rig + "/program");
        Assert.Equal(2, Item(program, places[0]).GetProperty("alike").GetInt32());
        Assert.Equal("12", Item(program, places[1]).GetProperty("values")[0].GetProperty("value").GetString());
        // One edit changes both, and their values stay their own.
        var second = Item(program, places[1]).GetProperty("index").GetInt32();
        (status, body) = await bench.Send(
            HttpMethod.Put,
            rig + "/program",
            new
            {
                baseRevision = await Revision(),
                program = second,
                script = "program Post (number)\n\nregion Main\n  state Waiting, initial\n    after 2 s if number > 1: stay\n",
            }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        foreach (var at in (int[])[index, second])
            Assert.Contains("after 2 s", (await bench.Get($"{rig}/program?program={at}")).GetProperty("script").GetString());
        // What is kept in a file comes back.
        var file = await bench.Get(rig + "/export");
        var values = file.GetProperty("design").GetProperty("programs")[second].GetProperty("values");
        Assert.Equal(12, values.GetProperty("number").GetInt32());
        var taken = await bench.Post("/api/rigs", file);
        var again = Item(await bench.Get($"/api/rigs/{taken.GetProperty("id").GetString()}/program"), places[1]);
        Assert.Equal("12", again.GetProperty("values")[0].GetProperty("value").GetString());
        foreach (
            var bad in (object[])
                [new { baseRevision = await Revision(), runsOn = places[1] }, new { baseRevision = await Revision(), runsOn = "Nowhere" }]
        )
            Assert.Equal(HttpStatusCode.BadRequest, (await bench.Send(HttpMethod.Post, $"{rig}/programs/{index}/places", bad)).Status);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await bench.Send(HttpMethod.Post, $"{rig}/programs/99/places", new { baseRevision = await Revision(), runsOn = places[1] })
            ).Status
        );
    }
}
