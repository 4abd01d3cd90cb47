namespace Chiton.Server.Tests.Parts;

/// <summary>Scenes over HTTP: read, kept, moved, completed, and refused kindly.</summary>
public class SceneTests
{
    private const string Scrubber = "/api/rigs/deck-scrubber";

    [Fact]
    public async Task A_scene_is_written_kept_run_and_undone()
    {
        using var bench = new Bench();
        var before = await bench.Get(Scrubber + "/scenes");
        Assert.Equal(
            ["As in the shed", "At a slant"],
            before.GetProperty("scenes").EnumerateArray().Select(s => s.GetProperty("name").GetString())
        );
        Assert.NotEqual(0, before.GetProperty("leftOut").GetArrayLength());
        var texts = before.GetProperty("scenes").EnumerateArray().Select(s => s.GetProperty("text").GetString()!).ToList();
        texts.Add("scene Bare\nfloor 1 m  by 800 mm of deck\nstart Drive at (300, 300) facing 0 robot deg\n");
        await bench.Send(HttpMethod.Put, Scrubber + "/scenes", new { baseRevision = 1, scenes = texts });
        var after = (await bench.Get(Scrubber + "/scenes")).GetProperty("scenes")[2];
        // Printed in the one form.
        Assert.Equal(
            "scene Bare\n\nfloor 1 m by 800 mm of deck\n\nstart Drive at (300, 300) facing 0 robot deg\n",
            after.GetProperty("text").GetString()
        );
        Assert.Equal("floor", after.GetProperty("plan").GetProperty("kind").GetString());
        var run = await bench.Post(
            Scrubber + "/runs",
            new
            {
                seed = 2,
                scene = "Bare",
                durationS = 5,
            }
        );
        Assert.Equal("Bare", run.GetProperty("scene").GetString());
        var drive = run.GetProperty("signals")
            .GetProperty("bodies")
            .EnumerateArray()
            .First(b => b.GetProperty("kind").GetString() == "drive");
        // It drives straight up from where it was put down.
        Assert.InRange(drive.GetProperty("y").EnumerateArray().Last().GetDouble(), 600, 1000);
        await bench.Post(Scrubber + "/undo", new { copy = 1 });
        Assert.Equal(2, (await bench.Get(Scrubber + "/scenes")).GetProperty("scenes").GetArrayLength());
    }

    [Fact]
    public async Task One_scene_counts_the_first_unless_another_says_so()
    {
        using var bench = new Bench();
        async Task<string[]> Counting() =>
            [
                .. (await bench.Get(Scrubber + "/scenes"))
                    .GetProperty("scenes")
                    .EnumerateArray()
                    .Where(s => s.GetProperty("counts").GetBoolean())
                    .Select(s => s.GetProperty("name").GetString()!),
            ];
        string[] texts =
        [
            .. (await bench.Get(Scrubber + "/scenes"))
                .GetProperty("scenes")
                .EnumerateArray()
                .Select(s => s.GetProperty("text").GetString()!.Replace("counts\n", "")),
        ];
        var second = texts[1].Split('\n')[0]["scene ".Length..];
        await bench.Send(HttpMethod.Put, Scrubber + "/scenes", new { baseRevision = 1, scenes = texts });
        Assert.Equal(["As in the shed"], await Counting());
        texts[1] = texts[1].Replace($"scene {second}\n", $"scene {second}\ncounts\n");
        var revision = (await bench.Get(Scrubber)).GetProperty("revision").GetInt32();
        await bench.Send(HttpMethod.Put, Scrubber + "/scenes", new { baseRevision = revision, scenes = texts });
        Assert.Equal([second], await Counting());
    }

    [Fact]
    public async Task What_is_moved_in_the_plan_changes_its_numbers()
    {
        var bench = Bench.Shared;
        const string text = "scene S\n\ndeck 800 by 600 mm of deck\n\nthing bollard round 60 mm at (0.2 m, 300), fixed\n";
        var moved = await bench.Post(
            Scrubber + "/scenes/move",
            new
            {
                text,
                line = 5,
                dx = 25,
                dy = -40,
            }
        );
        Assert.Contains("at (0.225 m, 260), fixed", moved.GetProperty("text").GetString());
        var (status, body) = await bench.TryPost(
            Scrubber + "/scenes/move",
            new
            {
                text,
                line = 3,
                dx = 25,
                dy = 0,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("line", body.ToString());
    }

    [Fact]
    public async Task A_fault_stands_at_its_line_and_is_kept_as_typed()
    {
        using var bench = new Bench();
        var read = await bench.Post(Scrubber + "/scenes/read", new { text = "scene S\ndeck 800 by\nwat is this\n" });
        Assert.Equal([2, 3], read.GetProperty("diagnostics").EnumerateArray().Select(d => d.GetProperty("line").GetInt32()));
        await bench.Send(
            HttpMethod.Put,
            Scrubber + "/scenes",
            new { baseRevision = 1, scenes = new[] { "scene S\ndeck 800 by\nwat is this\n" } }
        );
        Assert.Contains("wat is this", (await bench.Get(Scrubber + "/scenes")).GetProperty("scenes")[0].GetProperty("text").GetString());
        var (status, body) = await bench.TryPost(Scrubber + "/runs", new { seed = 1 });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("line 2", body.ToString());
    }

    [Fact]
    public async Task Nonsense_is_refused_and_an_edit_of_another_revision_too()
    {
        using var bench = new Bench();
        async Task<HttpStatusCode> Put(object body) => (await bench.Http.PutAsJsonAsync(Scrubber + "/scenes", body)).StatusCode;
        Assert.Equal(HttpStatusCode.BadRequest, await Put(new { baseRevision = 1, scenes = Array.Empty<string>() }));
        Assert.Equal(HttpStatusCode.BadRequest, await Put(new { baseRevision = 1, scenes = new[] { "scene A\n", "scene A\n" } }));
        Assert.Equal(HttpStatusCode.BadRequest, await Put(new { baseRevision = 1, scenes = new[] { new string('x', 200_000) } }));
        Assert.Equal(HttpStatusCode.Conflict, await Put(new { baseRevision = 7, scenes = new[] { "scene A\n" } }));
        var (status, body) = await bench.TryPost(Scrubber + "/runs", new { seed = 1, scene = "Nowhere" });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("There is no scene", body.ToString());
    }

    [Fact]
    public async Task What_if_a_number_were_another_repeats_the_run_on_the_same_luck()
    {
        var bench = Bench.Shared;
        var plain = await bench.Post(Scrubber + "/runs", new { seed = 4 });
        var held = await bench.Post(Scrubber + "/runs", new { seed = 4, held = new[] { new { name = "track of Drive", value = 90.0 } } });
        double Drawn(JsonElement run, string name) =>
            run.GetProperty("report")
                .GetProperty("draws")
                .EnumerateArray()
                .First(d => d.GetProperty("name").GetString() == name)
                .GetProperty("value")
                .GetDouble();
        Assert.Equal(90, Drawn(held, "track of Drive"));
        Assert.Equal(Drawn(plain, "lag of Drive"), Drawn(held, "lag of Drive"));
        Assert.NotEqual(
            plain.GetProperty("report").GetProperty("endS").ToString(),
            held.GetProperty("report").GetProperty("endS").ToString()
        );
        var (status, body) = await bench.TryPost(Scrubber + "/runs", new { seed = 4, held = new[] { new { name = "luck", value = 1.0 } } });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("held[0].name", body.ToString());
    }

    [Fact]
    public async Task What_may_follow_comes_from_the_rig_and_the_scene()
    {
        var bench = Bench.Shared;
        async Task<string[]> Next(string typed) =>
            [
                .. (await bench.Post(Scrubber + "/scenes/next", new { typed, text = "scene S\nplace bay 20 by 20 mm at (1, 1)\n" }))
                    .GetProperty("hints")
                    .EnumerateArray()
                    .Select(h => h.GetProperty("text").GetString()!),
            ];
        Assert.Contains("deck", await Next("de"));
        Assert.Contains("Left edge eye", await Next("light falls by 6 % on "));
        Assert.Contains("bay", await Next("thing crate round 40 mm lies at "));
    }

    [Fact]
    public async Task A_proof_in_another_scene_is_told_as_such_and_is_not_the_rate_of_the_rig()
    {
        using var bench = new Bench();
        const string trolley = "/api/rigs/seed-trolley";
        var counted = await bench.Post(trolley + "/proofs", new { runs = 60, seed = 1 });
        Assert.Equal("The closed rail", counted.GetProperty("scene").GetString());
        var rate = (await bench.Get(trolley)).GetProperty("rate").ToString();
        var tired = await bench.Post(
            trolley + "/proofs",
            new
            {
                runs = 400,
                seed = 1,
                scene = "A tired pack",
            }
        );
        Assert.Equal("A tired pack", tired.GetProperty("scene").GetString());
        var latest = (await bench.Get(trolley + "/proofs/latest")).GetProperty("proof");
        Assert.Equal("A tired pack", latest.GetProperty("scene").GetString());
        Assert.True(latest.GetProperty("current").GetBoolean());
        // 400 runs outweigh 60; yet they are not of the scene that counts.
        Assert.Equal(rate, (await bench.Get(trolley)).GetProperty("rate").ToString());
    }
}
