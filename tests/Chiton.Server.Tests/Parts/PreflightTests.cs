namespace Chiton.Server.Tests.Parts;

public class PreflightTests
{
    private const string Rig = "/api/rigs/deck-scrubber/preflight";

    // Follows the page: does what it says next until it says nothing more.
    private static async Task<JsonElement> Follow(Bench bench, JsonElement view)
    {
        view = await bench.Post(
            Rig + "/try",
            new
            {
                copy = 1,
                device = "",
                action = "battery",
            }
        );
        for (var i = 0; i < 150; i++)
        {
            var todo = view.GetProperty("devices")
                .EnumerateArray()
                .FirstOrDefault(d => d.GetProperty("next").ValueKind == JsonValueKind.String);
            if (todo.ValueKind != JsonValueKind.Object)
                return view;
            var action = todo.GetProperty("next").GetString()!;
            view = await bench.Post(
                Rig + "/try",
                new
                {
                    copy = 1,
                    device = action == "battery" ? "" : todo.GetProperty("nextDevice").GetString(),
                    action,
                }
            );
        }
        throw new InvalidOperationException("The page never came to an end.");
    }

    [Theory]
    [InlineData("swappedLeads", "Left edge eye", "swapped-leads", "The leads of Left edge eye and Right edge eye are swapped")]
    [InlineData("deadSensor", "Bumper", "dead-sensor", "Bumper changes nothing at any port")]
    [InlineData("looseLead", "Brush", "loose-lead", "its lead is loose")]
    [InlineData("reversedMotor", "Left wheel", "reversed-motor", "Left wheel turns the other way")]
    [InlineData("flatBattery", null, "flat-battery", "it is flat")]
    public async Task A_planted_fault_is_named_by_the_page_followed_step_by_step(string kind, string? device, string code, string say)
    {
        using var bench = new Bench();
        // The demo's right wheel is recorded as mounted the other way round, and here it really is.
        var view = await Follow(
            bench,
            await bench.Post(
                Rig + "/plant",
                new
                {
                    copy = 1,
                    kind,
                    device,
                }
            )
        );
        Assert.Equal(JsonValueKind.Null, view.GetProperty("shown").ValueKind);
        var faults = view.GetProperty("faults").EnumerateArray().Where(f => f.GetProperty("device").GetString() != "Right wheel").ToArray();
        var fault = Assert.Single(faults, f => f.GetProperty("code").GetString() == code);
        Assert.Contains(say, fault.GetProperty("say").GetString());
        Assert.Single((await bench.Post(Rig + "/show", new { copy = 1 })).GetProperty("shown").EnumerateArray());
    }

    [Fact]
    public async Task A_wrong_socket_is_named_with_the_right_one()
    {
        using var bench = new Bench();
        const string picker = "/api/rigs/buoy-picker/preflight";
        await bench.Post(
            picker + "/plant",
            new
            {
                copy = 1,
                kind = "wrongSocket",
                device = "Reach",
            }
        );
        JsonElement view = default;
        for (var i = 0; i < 3; i++)
            view = await bench.Post(
                picker + "/try",
                new
                {
                    copy = 1,
                    device = "Reach",
                    action = "read",
                }
            );
        Assert.Equal(
            "search",
            view.GetProperty("devices")
                .EnumerateArray()
                .Single(d => d.GetProperty("device").GetString() == "Reach")
                .GetProperty("next")
                .GetString()
        );
        view = await bench.Post(
            picker + "/try",
            new
            {
                copy = 1,
                device = "Reach",
                action = "search",
            }
        );
        Assert.Contains(
            "Reach is in the wrong place: it answers at sensor 3 of Boom box",
            view.GetProperty("faults")[0].GetProperty("say").GetString()
        );
    }

    [Fact]
    public async Task A_reversed_motor_is_recorded_once_on_the_motor_and_then_turns_as_it_should()
    {
        using var bench = new Bench();
        await bench.Post(
            Rig + "/plant",
            new
            {
                copy = 1,
                kind = "reversedMotor",
                device = "Left wheel",
            }
        );
        var view = await bench.Post(
            Rig + "/try",
            new
            {
                copy = 1,
                device = "Left wheel",
                action = "move",
            }
        );
        Assert.Equal("Left wheel turns backward.", view.GetProperty("last").GetString());
        var done = await bench.Post(
            Rig + "/reversed",
            new
            {
                baseRevision = 1,
                device = "Left wheel",
                reversed = true,
                copy = 1,
            }
        );
        Assert.Equal("Left wheel is mounted the other way round", done.GetProperty("what").GetString());
        view = await bench.Post(
            Rig + "/try",
            new
            {
                copy = 1,
                device = "Left wheel",
                action = "move",
            }
        );
        Assert.Equal("Left wheel turns forward.", view.GetProperty("last").GetString());
        Assert.Empty(view.GetProperty("faults").EnumerateArray());
        Assert.True(
            (await bench.Get("/api/rigs/deck-scrubber/design"))
                .GetProperty("design")
                .GetProperty("actuators")[0]
                .GetProperty("reversed")
                .GetBoolean()
        );
    }

    [Fact]
    public async Task A_rig_without_devices_is_never_ready()
    {
        using var bench = new Bench();
        var id = (await bench.Post("/api/rigs", new { name = "Bare board", template = "nothing yet" })).GetProperty("id").GetString();
        var bare = $"/api/rigs/{id}/preflight";
        var copy = (await bench.Post($"/api/rigs/{id}/copies", new { team = "", kind = "real" })).GetProperty("number").GetInt32();
        var view = await bench.Post(
            bare + "/seen",
            new
            {
                copy,
                seen = new
                {
                    action = "battery",
                    restV = 7.4,
                    loadV = 7.1,
                },
            }
        );
        foreach (var item in view.GetProperty("checklist").EnumerateArray())
            view = await bench.Post(
                bare + "/check",
                new
                {
                    copy,
                    key = item.GetProperty("key").GetString(),
                    done = true,
                }
            );
        Assert.All(view.GetProperty("checklist").EnumerateArray(), c => Assert.True(c.GetProperty("done").GetBoolean()));
        Assert.Equal("7.4 V at rest, 7.1 V with everything on.", view.GetProperty("pack").GetString());
        Assert.False(view.GetProperty("ready").GetBoolean());
    }

    [Fact]
    public async Task Everything_ticked_and_seen_is_ready_and_survives_a_restart()
    {
        using var bench = new Bench();
        const string tank = "/api/rigs/header-tank/preflight";
        foreach (var key in new[] { "charge", "link", "parts", "wheels", "travel" })
            await bench.Post(
                tank + "/check",
                new
                {
                    copy = 1,
                    key,
                    done = true,
                }
            );
        var view = await bench.Post(
            tank + "/try",
            new
            {
                copy = 1,
                device = "",
                action = "battery",
            }
        );
        foreach (var device in view.GetProperty("devices").EnumerateArray().ToArray())
            for (var i = 0; i < 3; i++)
                view = await bench.Post(
                    tank + "/try",
                    new
                    {
                        copy = 1,
                        device = device.GetProperty("device").GetString(),
                        action = device.GetProperty("next").GetString(),
                    }
                );
        Assert.True(view.GetProperty("ready").GetBoolean(), view.ToString());
        bench.Restart();
        Assert.True((await bench.Get(tank)).GetProperty("ready").GetBoolean());
        Assert.False((await bench.Post(tank + "/start", new { copy = 1 })).GetProperty("ready").GetBoolean());
    }

    [Theory]
    [InlineData("/check", "{\"key\":\"weather\",\"done\":true}", "key")]
    [InlineData("/try", "{\"device\":\"Nobody\",\"action\":\"move\"}", "device")]
    [InlineData("/try", "{\"device\":\"Bumper\",\"action\":\"move\"}", "action")]
    [InlineData("/try", "{\"device\":\"Bumper\",\"action\":\"kick\"}", "action")]
    [InlineData("/plant", "{\"kind\":\"deadSensor\",\"device\":\"Brush\"}", "kind")]
    [InlineData("/reversed", "{\"baseRevision\":1,\"device\":\"Bumper\",\"reversed\":true}", "device")]
    public async Task What_cannot_be_is_refused(string call, string body, string field)
    {
        var bench = Bench.Shared;
        var response = await bench.Http.PostAsync(Rig + call, new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        Assert.True(
            (await response.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors").TryGetProperty(field, out _),
            await response.Content.ReadAsStringAsync()
        );
    }
}
