using Chiton.Data;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.AspNetCore.TestHost;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests;

/// <summary>A server with the demo in a folder of its own, over a real SQLite file. Starting it again keeps the folder.</summary>
public sealed class Bench : IDisposable
{
    public const string Rig = "/api/rigs/seed-trolley";

    private sealed class Factory(string folder, bool tries) : WebApplicationFactory<Program>
    {
        protected override void ConfigureWebHost(IWebHostBuilder builder)
        {
            builder.UseSetting("CHITON_DATA", folder);
            builder.UseSetting("CHITON_DEMO", "1");
            // What is tried between edits would change what others read meanwhile.
            builder.UseSetting("CHITON_TRIES", tries ? "always" : "asked");
            builder.ConfigureServices(s => s.AddTransient<IStartupFilter, Wires>());
            // No wire is real here: the room is wherever a request says it came in at.
            builder.ConfigureTestServices(s => s.AddSingleton<Network, NoWires>());
        }
    }

    /// <summary>The header that says at which local address a request came in; at the desk where there is none.</summary>
    public const string CameInAt = "test-came-in-at";

    /// <summary>The address of the room in tests.</summary>
    public const string RoomAddress = "127.0.0.2";

    // The server of tests has no connections: which one a request came by is said here, before anything of ours looks at it.
    private sealed class Wires : IStartupFilter
    {
        public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) =>
            app =>
            {
                app.Use(
                    (context, then) =>
                    {
                        context.Connection.LocalIpAddress = IPAddress.Parse(
                            context.Request.Headers[CameInAt].FirstOrDefault() ?? "127.0.0.1"
                        );
                        context.Connection.RemoteIpAddress = IPAddress.Parse(
                            context.Request.Headers["test-from"].FirstOrDefault() ?? "127.0.0.9"
                        );
                        return then(context);
                    }
                );
                next(app);
            };
    }

    private sealed class NoWires(Listening listening, IServer server, IConfiguration settings) : Network(listening, server, settings)
    {
        public override bool Ready => true;

        public override int Port => 80;

        public override IReadOnlyList<IPAddress> Addresses() => [IPAddress.Parse(RoomAddress)];

        public override Task Listen(IReadOnlyList<IPAddress> addresses, IReadOnlyList<IPAddress> already, CancellationToken cancel) =>
            Task.CompletedTask;
    }

    private readonly bool tries;
    private Factory factory;

    // The demo is made once; every test begins with a copy of it.
    private static readonly Lazy<string> Demo = new(() =>
    {
        var folder = Directory.CreateTempSubdirectory("chiton-demo-").FullName;
        using var open = DataFolder.Open(folder);
        DataSetup.Prepare(open, TimeProvider.System, true, _ => { }, CancellationToken.None).GetAwaiter().GetResult();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, true);
        return Path.Combine(folder, "chiton.db");
    });

    /// <summary>Starts it.</summary>
    /// <param name="folder">Where its data is; null for a demo of its own.</param>
    /// <param name="tries">True where the bench is tried by itself, as it is for everybody.</param>
    public Bench(string? folder = null, bool tries = false)
    {
        this.tries = tries;
        Folder = folder ?? Directory.CreateTempSubdirectory("chiton-test-").FullName;
        if (folder is null)
            File.Copy(Demo.Value, Path.Combine(Folder, "chiton.db"));
        factory = new(Folder, tries);
        Http = factory.CreateClient(new() { HandleCookies = false });
    }

    private static readonly Lazy<Bench> Common = new(() =>
    {
        var bench = new Bench();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => bench.Dispose();
        return bench;
    });

    /// <summary>One server for all tests that only look, or are refused: nothing is ever kept on it.</summary>
    public static Bench Shared => Common.Value;

    public string Folder { get; }
    public HttpClient Http { get; private set; }
    public WebApplicationFactory<Program> Server => factory;

    /// <summary>Stops the server and starts another one on the same folder.</summary>
    public void Restart()
    {
        factory.Dispose();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        factory = new(Folder, tries);
        Http = factory.CreateClient(new() { HandleCookies = false });
    }

    public async Task<JsonElement> Get(string path)
    {
        var response = await Http.GetAsync(path);
        Assert.True(response.IsSuccessStatusCode, $"{path}: {(int)response.StatusCode} {await response.Content.ReadAsStringAsync()}");
        return await response.Content.ReadFromJsonAsync<JsonElement>();
    }

    public async Task<(HttpStatusCode Status, JsonElement Body)> Send(HttpMethod method, string path, object body)
    {
        using var request = new HttpRequestMessage(method, path) { Content = JsonContent.Create(body, options: Documents.Options) };
        var response = await Http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        return (response.StatusCode, text == "" ? default : JsonDocument.Parse(text).RootElement);
    }

    public async Task<JsonElement> Post(string path, object body)
    {
        var (status, answer) = await Send(HttpMethod.Post, path, body);
        Assert.True(status == HttpStatusCode.OK, $"{path}: {(int)status} {answer}");
        return answer;
    }

    public Task<(HttpStatusCode Status, JsonElement Body)> TryPost(string path, object body) => Send(HttpMethod.Post, path, body);

    /// <summary>Every line of a program's sheet.</summary>
    public static IEnumerable<JsonElement> Lines(JsonElement program) =>
        program.GetProperty("blocks").EnumerateArray().SelectMany(b => b.GetProperty("lines").EnumerateArray());

    /// <summary>What a line of the sheet says.</summary>
    public static string TextOf(JsonElement program, JsonElement line) =>
        line.TryGetProperty("text", out var text)
            ? text.GetString()!
            : program.GetProperty("script").GetString()!.Split('\n')[line.GetProperty("line").GetInt32() - 1].Trim();

    public async Task<string> Script(string? rig = null) =>
        (await Get((rig is null ? Rig : $"/api/rigs/{rig}") + "/program")).GetProperty("script").GetString()!;

    public async Task<int> Revision() => (await Get(Rig)).GetProperty("revision").GetInt32();

    /// <summary>Saves a script on the current revision.</summary>
    public async Task<int> Save(string script)
    {
        var (status, body) = await Send(HttpMethod.Put, Rig + "/program", new { baseRevision = await Revision(), script });
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        return body.GetProperty("revision").GetInt32();
    }

    public Task<JsonElement> Prove(int runs = 200, long seed = 1) => Post(Rig + "/proofs", new { runs, seed });

    public void Dispose()
    {
        factory.Dispose();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        try
        {
            Directory.Delete(Folder, true);
        }
        catch (IOException)
        {
            // A file still held by a process that was killed is left to the system's own clearing of its temporary folder.
        }
    }
}
