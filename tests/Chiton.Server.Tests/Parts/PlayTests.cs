using System.Text.Json;
using Microsoft.AspNetCore.SignalR;
using Microsoft.AspNetCore.SignalR.Client;

namespace Chiton.Server.Tests.Parts;

/// <summary>Playing with the bench over its hub, as a page does.</summary>
public class PlayTests
{
    private static async Task<HubConnection> Connect(LiveServer live)
    {
        var hub = new HubConnectionBuilder().WithUrl(live.Http.BaseAddress + "hub").Build();
        await hub.StartAsync();
        return hub;
    }

    private static async Task<JsonElement> Next(IAsyncEnumerator<JsonElement> frames)
    {
        Assert.True(await frames.MoveNextAsync(), "the bench stopped telling");
        return frames.Current;
    }

    private static int Hand(JsonElement about, string sentence) =>
        about.GetProperty("hands").EnumerateArray().ToList().FindIndex(h => h.GetProperty("sentence").GetString() == sentence);

    [Fact]
    public async Task A_bench_is_played_with_and_what_was_done_is_kept_as_a_scene_that_runs_the_same()
    {
        using var live = new LiveServer();
        await using var hub = await Connect(live);
        var cancel = TestContext.Current.CancellationToken;
        await using var frames = hub.StreamAsync<JsonElement>("Play", "berthing-lights", 1, null, 5, cancel).GetAsyncEnumerator(cancel);
        var first = await Next(frames);
        var about = first.GetProperty("about");
        Assert.Equal(5, about.GetProperty("seed").GetInt64());
        Assert.True(first.GetProperty("place").GetProperty("visitors").GetArrayLength() > 0);
        await hub.InvokeAsync("Pace", 4.0, cancel);
        var hand = Hand(about, "hand {0} mm before Berth range");
        await hub.InvokeAsync("Do", hand, true, 150.0, cancel);
        var seen = new List<(double, string?)>();
        async Task<JsonElement> Moment()
        {
            var moment = (await Next(frames)).GetProperty("moment");
            seen.AddRange(Told(moment));
            return moment;
        }
        JsonElement moment;
        do moment = await Moment();
        while (!moment.GetProperty("doing").EnumerateArray().Any(d => d.GetInt32() == hand));
        var began = moment.GetProperty("timeS").GetDouble();
        do moment = await Moment();
        while (moment.GetProperty("timeS").GetDouble() < began + 2);
        await hub.InvokeAsync("Do", hand, false, null, cancel);
        do moment = await Moment();
        while (moment.GetProperty("doing").GetArrayLength() > 0);
        // A pause stands still; a step goes to a transition and stops there.
        await hub.InvokeAsync("StepOn", cancel);
        double? Last(JsonElement m) =>
            m.GetProperty("events").GetArrayLength() is > 0 and var n
                ? m.GetProperty("events")[n - 1].GetProperty("timeS").GetDouble()
                : null;
        JsonElement stepped;
        // A transition that was taken while it still went on may be told first: that frame goes beyond it.
        do stepped = await Moment();
        while (Last(stepped) is not { } told || Math.Abs(stepped.GetProperty("timeS").GetDouble() - told) > 0.0005);
        var kept = await hub.InvokeAsync<string>("Kept", "Too soon", cancel);
        Assert.StartsWith("scene Too soon\n", kept);
        Assert.Matches(@"\nhand 150 mm before Berth range at \d+(\.\d+)? s for \d+(\.\d+)? s\n", kept);

        // Kept among the scenes and run on the same seed, it is the same: state, event and figure.
        var scenes = (await live.Http.GetFromJsonAsync<JsonElement>("api/rigs/berthing-lights/scenes", cancel))
            .GetProperty("scenes")
            .EnumerateArray()
            .Select(s => s.GetProperty("text").GetString())
            .ToList();
        var revision = (await live.Http.GetFromJsonAsync<JsonElement>("api/rigs/berthing-lights", cancel))
            .GetProperty("revision")
            .GetInt32();
        var saved = await live.Http.PutAsJsonAsync(
            "api/rigs/berthing-lights/scenes",
            new
            {
                baseRevision = revision,
                scenes = scenes.Append(kept),
                what = "kept what was played",
                copy = 1,
            },
            cancel
        );
        Assert.True(saved.IsSuccessStatusCode, await saved.Content.ReadAsStringAsync(cancel));
        var run = await live.Http.PostAsJsonAsync("api/rigs/berthing-lights/runs", new { seed = 5, scene = "Too soon" }, cancel);
        var again = await run.Content.ReadFromJsonAsync<JsonElement>(cancel);
        var ended = again.GetProperty("report").GetProperty("endS").GetDouble();
        var until = seen.Where(e => e.Item1 <= ended).ToArray();
        Assert.NotEmpty(until);
        Assert.Equal(until, Told(again).Skip(1).Take(until.Length));
    }

    private static IEnumerable<(double, string?)> Told(JsonElement told) =>
        told.GetProperty("events")
            .EnumerateArray()
            .Select(e => (Math.Round(e.GetProperty("timeS").GetDouble(), 6), e.GetProperty("say").GetString()))
            .Where(e => e.Item1 > 0 || told.TryGetProperty("number", out _));

    [Fact]
    public async Task What_cannot_be_played_is_said_in_words()
    {
        using var live = new LiveServer();
        await using var hub = await Connect(live);
        var cancel = TestContext.Current.CancellationToken;
        async Task<string?> Refused(string call, params object?[] with) => await hub.InvokeCoreAsync<string?>(call, with, cancel);
        async Task<string?> Play(string rig, string? scene, double seed)
        {
            await foreach (var frame in hub.StreamAsync<JsonElement>("Play", rig, 1, scene, seed, cancel))
                return frame.GetProperty("refused").GetString();
            return "nothing was told";
        }
        Assert.Contains("Nothing plays on this page.", await Refused("Do", 0, true, null));
        Assert.Contains("no rig", await Play("no-such-rig", null, 1), StringComparison.OrdinalIgnoreCase);
        Assert.Contains("There is no scene “Moon”", await Play("deck-scrubber", "Moon", 1));
        Assert.Contains("whole number", await Play("deck-scrubber", null, -1));
        await using var frames = hub.StreamAsync<JsonElement>("Play", "deck-scrubber", 1, null, 1, cancel).GetAsyncEnumerator(cancel);
        await Next(frames);
        Assert.Contains("Must be one of 0, 0.1", await Refused("Pace", 77.0));
        Assert.Contains("Must be 0 to", await Refused("Do", 900, true, null));
        await hub.InvokeAsync("PutAway", cancel);
        Assert.Contains("Nothing plays on this page.", await Refused("StepOn"));
        // The seventh that plays at once waits for another to end.
        var pages = new List<HubConnection>();
        var streams = new List<IAsyncEnumerator<JsonElement>>();
        for (var i = 0; i < 6; i++)
        {
            pages.Add(await Connect(live));
            streams.Add(pages[i].StreamAsync<JsonElement>("Play", "seed-trolley", 1, null, 1, cancel).GetAsyncEnumerator(cancel));
            await Next(streams[i]);
        }
        Assert.Contains("6 benches are being played with already", await Play("seed-trolley", null, 1));
        await pages[0].DisposeAsync();
        // One that goes makes room.
        for (var tries = 0; await Play("seed-trolley", null, 1) is not null; tries++)
        {
            Assert.True(tries < 200, "a page that went still holds its place");
            await Task.Delay(50, cancel);
        }
        foreach (var page in pages)
            await page.DisposeAsync();
    }
}
