using System.Net.Sockets;
using Microsoft.AspNetCore.SignalR;
using Microsoft.AspNetCore.SignalR.Client;

namespace Chiton.Server.Tests.App;

/// <summary>The room on real wires: 127.0.0.2 is of this machine alone, and it is not the desk.</summary>
[Collection("Behind everything else")]
public class RoomWireTests
{
    private static HttpClient Device(int port, CookieContainer? cookies = null, string host = "127.0.0.2") =>
        new(new SocketsHttpHandler { CookieContainer = cookies ?? new(), UseProxy = false })
        {
            BaseAddress = new($"http://127.0.0.2:{port}"),
            DefaultRequestHeaders = { Host = $"{host}:{port}" },
        };

    private static async Task<bool> Listens(string address, int port)
    {
        try
        {
            using var client = new TcpClient();
            await client.ConnectAsync(address, port);
            return true;
        }
        catch (SocketException)
        {
            return false;
        }
    }

    private static async Task<JsonElement> Ask(HttpClient http, HttpMethod method, string path, object? body, string? origin = null)
    {
        using var request = new HttpRequestMessage(method, path) { Content = body is null ? null : JsonContent.Create(body) };
        if (origin is not null)
            request.Headers.Add("Origin", origin);
        using var answer = await http.SendAsync(request);
        var text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, $"{path}: {(int)answer.StatusCode} {text}");
        return text == "" ? default : JsonDocument.Parse(text).RootElement;
    }

    private static HubConnection Page(int port, CookieContainer cookies, string? origin) =>
        new HubConnectionBuilder()
            .WithUrl(
                $"http://127.0.0.2:{port}/hub",
                o =>
                {
                    o.Cookies = cookies;
                    o.SkipNegotiation = true;
                    o.Transports = Microsoft.AspNetCore.Http.Connections.HttpTransportType.WebSockets;
                    if (origin is not null)
                        o.Headers["Origin"] = origin;
                }
            )
            .Build();

    [Fact]
    public async Task It_is_listened_at_while_it_is_open_and_never_else_and_outlives_a_kill()
    {
        using var server = new LiveServer();
        var (port, origin) = (server.Port, $"http://127.0.0.2:{server.Port}");
        // Off by default: nothing beyond the loopback address of the desk.
        Assert.False(await Listens("127.0.0.2", port));
        Assert.False(await Listens("127.0.0.3", port));
        var made = await Ask(server.Http, HttpMethod.Post, "/api/classes", new { name = "Tide pool" });
        var id = made.GetProperty("id").GetInt64();
        var room = await Ask(server.Http, HttpMethod.Post, "/api/room", new { @class = id });
        Assert.Equal(origin, room.GetProperty("urls")[0].GetString());
        Assert.True(await Listens("127.0.0.2", port));
        Assert.False(await Listens("127.0.0.3", port));
        var cookies = new CookieContainer();
        using var gulls = Device(port, cookies);
        // The page itself is there for everybody, and nothing else.
        Assert.Equal(HttpStatusCode.Unauthorized, (await gulls.GetAsync("/api/rigs")).StatusCode);
        Assert.Equal("stranger", (await Ask(gulls, HttpMethod.Get, "/api/me", null)).GetProperty("who").GetString());
        await Ask(gulls, HttpMethod.Post, "/api/me/join", new { code = room.GetProperty("joinCode").GetString(), team = "Gulls" }, origin);
        await Ask(server.Http, HttpMethod.Post, $"/api/classes/{id}/hand-out", new { rig = "seed-trolley" });
        var rig = (await Ask(gulls, HttpMethod.Get, "/api/rigs", null))[0].GetProperty("id").GetString()!;
        // By name as by address, where the name is said to be ours.
        using (var named = Device(port, cookies, "farm.test"))
            Assert.Equal(HttpStatusCode.OK, (await named.GetAsync("/api/me")).StatusCode);
        foreach (var host in new[] { "tide.example", "127.0.0.1", "localhost" })
        {
            using var other = Device(port, cookies, host);
            Assert.Equal(HttpStatusCode.Forbidden, (await other.GetAsync("/api/me")).StatusCode);
        }
        // Sockets need to say where they come from.
        foreach (var wrong in new[] { null, "http://tide.example", "null" })
            await Assert.ThrowsAnyAsync<Exception>(async () =>
            {
                await using var bad = Page(port, cookies, wrong);
                await bad.StartAsync();
            });
        await using (var stranger = Page(port, new(), origin))
            await Assert.ThrowsAnyAsync<Exception>(() => stranger.StartAsync());
        await using var page = Page(port, cookies, origin);
        await page.StartAsync();
        await page.InvokeAsync("Follow", rig);
        await Assert.ThrowsAsync<HubException>(() => page.InvokeAsync("Follow", "seed-trolley"));

        // Killed in the middle of the lesson: it goes on where it was.
        await Ask(gulls, HttpMethod.Post, "/api/me/hand", new { up = true }, origin);
        server.Kill();
        server.StartAgain();
        for (var i = 0; i < 200 && !await Listens("127.0.0.2", port); i++)
            await Task.Delay(50);
        JsonElement me = default;
        for (var i = 0; i < 100; i++)
        {
            // Listened at, and open a moment later.
            using var answer = await gulls.GetAsync("/api/me");
            if (answer.IsSuccessStatusCode)
            {
                me = await answer.Content.ReadFromJsonAsync<JsonElement>();
                break;
            }
            await Task.Delay(50);
        }
        Assert.Equal("Gulls", me.GetProperty("team").GetProperty("name").GetString());
        Assert.True(me.GetProperty("team").GetProperty("handUp").GetBoolean());
        Assert.Equal(rig, (await Ask(gulls, HttpMethod.Get, "/api/rigs", null))[0].GetProperty("id").GetString());

        // Closed: nobody listens there any more, and who was there is cut off.
        await using var last = Page(port, cookies, origin);
        var gone = new TaskCompletionSource();
        last.Closed += _ =>
        {
            gone.TrySetResult();
            return Task.CompletedTask;
        };
        await last.StartAsync();
        await Ask(server.Http, HttpMethod.Delete, "/api/room", null);
        await gone.Task.WaitAsync(TimeSpan.FromSeconds(30));
        for (var i = 0; i < 200 && await Listens("127.0.0.2", port); i++)
            await Task.Delay(50);
        Assert.False(await Listens("127.0.0.2", port));
        // Closed it stays, also over a restart.
        server.Kill();
        server.StartAgain();
        await Task.Delay(500);
        Assert.False(await Listens("127.0.0.2", port));
    }

    [Fact]
    public async Task A_device_has_four_pages_and_eight_live_views_and_a_judge_none()
    {
        using var server = new LiveServer();
        var (port, origin) = (server.Port, $"http://127.0.0.2:{server.Port}");
        var id = (await Ask(server.Http, HttpMethod.Post, "/api/classes", new { name = "Tide pool" })).GetProperty("id").GetInt64();
        var room = await Ask(server.Http, HttpMethod.Post, "/api/room", new { @class = id });
        var cookies = new CookieContainer();
        using var gulls = Device(port, cookies);
        await Ask(gulls, HttpMethod.Post, "/api/me/join", new { code = room.GetProperty("joinCode").GetString(), team = "Gulls" }, origin);
        await Ask(server.Http, HttpMethod.Post, $"/api/classes/{id}/hand-out", new { rig = "seed-trolley" });
        var rig = (await Ask(gulls, HttpMethod.Get, "/api/rigs", null))[0].GetProperty("id").GetString()!;
        var pages = new List<HubConnection>();
        for (var i = 0; i < 4; i++)
        {
            pages.Add(Page(port, cookies, origin));
            await pages[i].StartAsync();
            await pages[i].InvokeAsync("Follow", rig);
        }
        await Assert.ThrowsAnyAsync<Exception>(async () =>
        {
            await using var fifth = Page(port, cookies, origin);
            await fifth.StartAsync();
            await fifth.InvokeAsync("Follow", rig);
        });
        using var stop = new CancellationTokenSource();
        var live = new List<IAsyncEnumerator<JsonElement>>();
        using var one = new CancellationTokenSource();
        IAsyncEnumerator<JsonElement> View(HubConnection page, CancellationToken? end = null) =>
            page.StreamAsync<JsonElement>("Live", rig, 1, "Tag eye", "bed tag", null, end ?? stop.Token).GetAsyncEnumerator();
        for (var i = 0; i < 8; i++)
        {
            live.Add(View(pages[i % 4], i == 0 ? one.Token : null));
            Assert.True(await live[i].MoveNextAsync());
        }
        await Assert.ThrowsAnyAsync<Exception>(async () => await View(pages[0]).MoveNextAsync());
        // One that is closed makes room for another.
        await one.CancelAsync();
        var again = false;
        for (var i = 0; i < 100 && !again; i++)
            try
            {
                again = await View(pages[0]).MoveNextAsync();
            }
            catch (HubException)
            {
                await Task.Delay(50);
            }
        Assert.True(again);
        await stop.CancelAsync();
        // A judge scores: it hears of the room and of no rig.
        var robes = new CookieContainer();
        using var judge = Device(port, robes);
        await Ask(judge, HttpMethod.Post, "/api/me/join", new { code = room.GetProperty("judgeCode").GetString() }, origin);
        await using var bench = Page(port, robes, origin);
        await bench.StartAsync();
        await bench.InvokeAsync("FollowRoom");
        await Assert.ThrowsAsync<HubException>(() => bench.InvokeAsync("Follow", rig));
        foreach (var page in pages)
            await page.DisposeAsync();
    }

    [Fact]
    public async Task The_board_hears_of_a_hand_within_a_second_and_a_team_of_what_is_said()
    {
        using var server = new LiveServer();
        var (port, origin) = (server.Port, $"http://127.0.0.2:{server.Port}");
        var id = (await Ask(server.Http, HttpMethod.Post, "/api/classes", new { name = "Tide pool" })).GetProperty("id").GetInt64();
        var room = await Ask(server.Http, HttpMethod.Post, "/api/room", new { @class = id });
        var cookies = new CookieContainer();
        using var gulls = Device(port, cookies);
        await Ask(gulls, HttpMethod.Post, "/api/me/join", new { code = room.GetProperty("joinCode").GetString(), team = "Gulls" }, origin);
        await using var desk = new HubConnectionBuilder().WithUrl($"{server.Http.BaseAddress}hub").Build();
        await using var team = Page(port, cookies, origin);
        var (atDesk, atTeam) = (new SemaphoreSlim(0), new SemaphoreSlim(0));
        desk.On("Room", () => atDesk.Release());
        team.On("Room", () => atTeam.Release());
        await desk.StartAsync();
        await team.StartAsync();
        await desk.InvokeAsync("FollowRoom");
        await team.InvokeAsync("FollowRoom");
        await team.InvokeAsync("At", "sense");
        while (await atDesk.WaitAsync(800)) { }
        await Ask(gulls, HttpMethod.Post, "/api/me/hand", new { up = true }, origin);
        Assert.True(await atDesk.WaitAsync(TimeSpan.FromSeconds(20)));
        var line = (await Ask(server.Http, HttpMethod.Get, "/api/room/board?order=stuck", null)).GetProperty("lines")[0];
        Assert.Equal(
            ("Gulls", "sense", 1),
            (line.GetProperty("name").GetString(), line.GetProperty("part").GetString(), line.GetProperty("pages").GetInt32())
        );
        Assert.Equal(0, line.GetProperty("handMin").GetInt32());
        while (await atTeam.WaitAsync(500)) { }
        await Ask(server.Http, HttpMethod.Post, "/api/room/message", new { text = "Five minutes, then clear the tables." });
        Assert.True(await atTeam.WaitAsync(TimeSpan.FromSeconds(20)));
        Assert.StartsWith("Five", (await Ask(gulls, HttpMethod.Get, "/api/me", null)).GetProperty("message").GetString());
    }

    [Theory]
    [InlineData("http://0.0.0.0:5199")]
    [InlineData("http://*:5199")]
    [InlineData("https://127.0.0.1:5199")]
    [InlineData("http://127.0.0.2:5199")]
    [InlineData("http://127.0.0.1:5199;http://127.0.0.2:5199")]
    [InlineData("nonsense")]
    public void The_desk_is_this_machines_own_address_alone(string urls) =>
        Assert.Contains("open the room", Assert.Throws<Server.App.Room.ChitonTrouble>(() => Server.App.Room.Listening.Desk(urls)).Message);

    [Theory]
    [InlineData(null, "http://127.0.0.1:5180")]
    [InlineData("", "http://127.0.0.1:5180")]
    [InlineData("http://127.0.0.1:5181", "http://127.0.0.1:5181")]
    [InlineData("http://localhost:5182/", "http://127.0.0.1:5182")]
    public void The_desks_port_may_be_chosen(string? urls, string desk) => Assert.Equal(desk, Server.App.Room.Listening.Desk(urls));
}
