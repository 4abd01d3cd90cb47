using System.Net.Http.Json;
using System.Text.Json;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>What is done behind everything else has its turn only where nothing else is done.</summary>
[CollectionDefinition("Behind everything else", DisableParallelization = true)]
public class Alone;

/// <summary>The bench is tried for the checks, and what it says stands with the findings.</summary>
[Collection("Behind everything else")]
public class TriesTests
{
    private static async Task<JsonElement> Tries(HttpClient client, string rig) =>
        await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/tries");

    private static async Task<JsonElement[]> Findings(HttpClient client, string rig) =>
        [.. (await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/findings")).EnumerateArray()];

    private static async Task<JsonElement> Until(HttpClient client, string rig, Func<JsonElement, bool> so)
    {
        for (var i = 0; i < 3000; i++)
        {
            var now = await Tries(client, rig);
            if (so(now))
                return now;
            await Task.Delay(100);
        }
        throw new InvalidOperationException("The bench did not come so far.");
    }

    private static string Looked(JsonElement looked, string code) =>
        looked.EnumerateArray().First(l => l.GetProperty("code").GetString() == code).GetProperty("state").GetString()!;

    [Fact]
    public async Task Once_asked_it_runs_every_scene_says_what_fails_tries_cures_and_settles()
    {
        using var bench = new Bench();
        var (client, rig) = (bench.Http, SeedTrolley.Id);
        // Nobody asked yet: that is no “nothing”.
        var before = await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/findings/looked");
        Assert.Equal("notYet", Looked(before, "goal-missed"));
        Assert.All(await Findings(client, rig), f => Assert.Equal(JsonValueKind.Null, f.GetProperty("tried").ValueKind));
        Assert.Contains(await Findings(client, rig), f => f.GetProperty("notTried").GetBoolean());

        Assert.False((await Tries(client, rig)).GetProperty("settled").GetBoolean());
        await client.PostAsJsonAsync($"/api/rigs/{rig}/tries", new { });
        var settled = await Until(client, rig, t => t.GetProperty("settled").GetBoolean());
        Assert.All(settled.GetProperty("scenes").EnumerateArray(), s => Assert.Equal(2000, s.GetProperty("runs").GetInt32()));
        Assert.Equal(
            [("The closed rail", true), ("A tired pack", false)],
            settled
                .GetProperty("scenes")
                .EnumerateArray()
                .Select(s => (s.GetProperty("scene").GetString()!, s.GetProperty("counts").GetBoolean()))
        );

        var found = await Findings(client, rig);
        Assert.All(found, f => Assert.False(f.GetProperty("notTried").GetBoolean()));
        var rest = found.Single(f => f.GetProperty("code").GetString() == "marker-rest");
        Assert.Contains("Tried in the bench: ", rest.GetProperty("tried").GetString(), StringComparison.Ordinal);
        // Its cure was tried on the same luck, and more runs pass with it.
        var words = rest.GetProperty("cureTried").GetString()!.Split(' ');
        Assert.True(int.Parse(words[4]) > int.Parse(words[11]), rest.GetProperty("cureTried").GetString());
        // What fails is told where it fails, under what makes it fail, with a run that shows it.
        var missed = found.Where(f => f.GetProperty("code").GetString() == "goal-missed").ToArray();
        Assert.NotEmpty(missed);
        Assert.All(missed, f => Assert.NotEqual(JsonValueKind.Null, f.GetProperty("because").ValueKind));
        var run = missed[0].GetProperty("run");
        var shown = await client.PostAsJsonAsync(
            $"/api/rigs/{rig}/runs",
            new
            {
                seed = run.GetProperty("seed").GetInt64(),
                copySeed = run.GetProperty("copySeed").GetInt64(),
                scene = run.GetProperty("scene").GetString(),
            }
        );
        Assert.True(shown.IsSuccessStatusCode, await shown.Content.ReadAsStringAsync());
        Assert.NotEqual("passed", (await shown.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("outcome").GetString());
        Assert.Equal("found", Looked(await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/findings/looked"), "goal-missed"));
    }

    [Fact]
    public async Task It_is_stopped_keeps_what_it_found_and_goes_on_when_asked()
    {
        using var bench = new Bench();
        var (client, rig) = (bench.Http, "deck-scrubber");
        await client.PostAsJsonAsync($"/api/rigs/{rig}/tries", new { });
        await Until(client, rig, t => t.GetProperty("scenes").GetArrayLength() > 0);
        await client.DeleteAsync($"/api/rigs/{rig}/tries");
        var stopped = await Until(client, rig, t => !t.GetProperty("running").GetBoolean());
        Assert.False(stopped.GetProperty("settled").GetBoolean());
        Assert.All(stopped.GetProperty("scenes").EnumerateArray(), s => Assert.Equal(200, s.GetProperty("runs").GetInt32()));
        await client.PostAsJsonAsync($"/api/rigs/{rig}/tries", new { });
        await Until(client, rig, t => t.GetProperty("running").GetBoolean());
        await client.DeleteAsync($"/api/rigs/{rig}/tries");
        await Until(client, rig, t => !t.GetProperty("running").GetBoolean());
    }

    [Fact]
    public async Task It_begins_by_itself_once_a_rig_is_open_and_anew_after_an_edit()
    {
        using var bench = new Bench(tries: true);
        var (client, rig) = (bench.Http, SeedTrolley.Id);
        // Whoever has a rig open asks for it again and again; its header is counted first.
        async Task<JsonElement> Open()
        {
            await client.GetAsync($"/api/rigs/{rig}");
            return await Tries(client, rig);
        }
        var now = await Open();
        for (var i = 0; i < 1500 && now.GetProperty("scenes").GetArrayLength() == 0; i++)
        {
            await Task.Delay(100);
            now = await Open();
        }
        Assert.NotEqual(0, now.GetProperty("scenes").GetArrayLength());
        var program = await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/program");
        var saved = await client.PutAsJsonAsync(
            $"/api/rigs/{rig}/program",
            new { script = program.GetProperty("script").GetString()!.Replace("cruise = 60 %", "cruise = 50 %"), baseRevision = 2 }
        );
        Assert.True(saved.IsSuccessStatusCode);
        // What is said is of what stands there now.
        Assert.Equal(0, (await Tries(client, rig)).GetProperty("scenes").GetArrayLength());
        now = await Open();
        for (var i = 0; i < 1500 && now.GetProperty("scenes").GetArrayLength() == 0; i++)
        {
            await Task.Delay(100);
            now = await Open();
        }
        Assert.True(now.GetProperty("scenes")[0].GetProperty("runs").GetInt32() >= 200);
    }

    [Fact]
    public async Task What_cannot_be_run_says_so_and_a_rig_that_is_not_there_is_not_found()
    {
        using var bench = new Bench();
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await bench.Http.GetAsync("/api/rigs/nowhere/tries")).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await bench.Http.DeleteAsync("/api/rigs/nowhere/tries")).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await bench.Http.PostAsJsonAsync("/api/rigs/nowhere/tries", new { })).StatusCode);
    }
}
