using Chiton.Data;

namespace Chiton.Server.Tests.App;

/// <summary>A device in the room of a test server: it comes in at the room's address and keeps its cookie.</summary>
public sealed class RoomDevice(Bench bench, string from = "127.0.0.9")
{
    /// <summary>What it holds; null while it has not joined.</summary>
    public string? Token { get; set; }

    /// <summary>Sends a request as the browser of this device would.</summary>
    public async Task<(HttpStatusCode Status, JsonElement Body)> Send(
        HttpMethod method,
        string path,
        object? body = null,
        string? origin = "http://" + Bench.RoomAddress,
        string host = Bench.RoomAddress
    )
    {
        using var request = new HttpRequestMessage(method, path) { Headers = { Host = host } };
        request.Headers.Add(Bench.CameInAt, Bench.RoomAddress);
        request.Headers.Add("test-from", from);
        if (origin is not null && method != HttpMethod.Get)
            request.Headers.Add("Origin", origin);
        if (Token is not null)
            request.Headers.Add("Cookie", $"chiton-room={Token}");
        if (body is not null)
            request.Content = JsonContent.Create(body, options: Documents.Options);
        using var response = await bench.Http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        if (response.Headers.TryGetValues("Set-Cookie", out var cookies))
            foreach (var cookie in cookies)
            {
                Token = cookie.Split(';')[0].Split('=')[1] is { Length: > 0 } held ? held : null;
                if (Token is null)
                    continue;
                Assert.Contains("httponly", cookie, StringComparison.OrdinalIgnoreCase);
                Assert.Contains("samesite=strict", cookie, StringComparison.OrdinalIgnoreCase);
            }
        var text = await response.Content.ReadAsStringAsync();
        return (response.StatusCode, text.StartsWith('{') || text.StartsWith('[') ? JsonDocument.Parse(text).RootElement : default);
    }

    /// <summary>Sends it, and it is answered well.</summary>
    public async Task<JsonElement> Ask(HttpMethod method, string path, object? body = null)
    {
        var (status, answer) = await Send(method, path, body);
        Assert.True((int)status is >= 200 and < 300, $"{path}: {(int)status} {answer}");
        return answer;
    }

    /// <summary>Joins with a code.</summary>
    public Task<JsonElement> Join(string code, string? team = null, int? table = null) =>
        Ask(
            HttpMethod.Post,
            "/api/me/join",
            new
            {
                code,
                team,
                table,
            }
        );
}

/// <summary>A test server with a class whose room is open.</summary>
public sealed class OpenClass
{
    private OpenClass(Bench bench, long id) => (Bench, Id) = (bench, id);

    /// <summary>The server.</summary>
    public Bench Bench { get; }

    /// <summary>The class.</summary>
    public long Id { get; }

    /// <summary>Makes a class and opens its room.</summary>
    public static async Task<OpenClass> On(Bench bench)
    {
        var made = await bench.Post("/api/classes", new { name = "Tide pool" });
        var id = made.GetProperty("id").GetInt64();
        await bench.Post("/api/room", new { @class = id });
        return new(bench, id);
    }

    /// <summary>The room as the desk sees it.</summary>
    public Task<JsonElement> Room() => Bench.Get("/api/room");

    /// <summary>A code of the room.</summary>
    public async Task<string> Code(string which = "joinCode") => (await Room()).GetProperty(which).GetString()!;

    /// <summary>A team that has joined, with a rig.</summary>
    public async Task<(RoomDevice Device, long Team, string Rig)> Team(string name, string rig = "seed-trolley")
    {
        var device = new RoomDevice(Bench);
        await device.Join(await Code(), name);
        var id = (await Bench.Get($"/api/classes/{Id}"))
            .GetProperty("teams")
            .EnumerateArray()
            .Single(t => t.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt64();
        var handed = await Bench.Post($"/api/classes/{Id}/hand-out", new { rig, teams = new[] { id } });
        return (device, id, handed.GetProperty("rigs")[0].GetString()!);
    }
}
