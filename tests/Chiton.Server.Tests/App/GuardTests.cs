using Chiton.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.App;

public class GuardTests
{
    [Fact]
    public async Task Another_host_name_is_refused()
    {
        using var bench = new Bench();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/api/rigs") { Headers = { Host = "tide.example" } };
        Assert.Equal(HttpStatusCode.Forbidden, (await bench.Http.SendAsync(request)).StatusCode);
    }

    [Theory]
    [InlineData("http://tide.example", HttpStatusCode.Forbidden)]
    [InlineData("null", HttpStatusCode.Forbidden)]
    [InlineData("http://localhost:81", HttpStatusCode.Forbidden)]
    [InlineData("http://localhost", HttpStatusCode.OK)]
    public async Task Only_the_same_origin_may_call(string origin, HttpStatusCode status)
    {
        var bench = Bench.Shared;
        using var request = new HttpRequestMessage(HttpMethod.Get, "/api/rigs") { Headers = { { "Origin", origin } } };
        Assert.Equal(status, (await bench.Http.SendAsync(request)).StatusCode);
    }

    [Fact]
    public async Task Answers_carry_a_strict_policy_with_a_nonce_of_their_own()
    {
        using var bench = new Bench();
        var one = (await bench.Http.GetAsync("/api/rigs")).Headers.GetValues("Content-Security-Policy").Single();
        var two = (await bench.Http.GetAsync("/api/rigs")).Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("default-src 'none'; script-src 'self'", one);
        Assert.DoesNotContain("unsafe", one);
        Assert.NotEqual(one, two);
    }

    [Theory]
    [InlineData("/../chiton.db")]
    [InlineData("/%2e%2e/chiton.db")]
    [InlineData("/assets/%2e%2e/%2e%2e/chiton.db")]
    [InlineData("/data/chiton.db")]
    public async Task No_path_leads_to_the_data(string path)
    {
        var bench = Bench.Shared;
        var response = await bench.Http.GetAsync(path);
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
    }

    [Fact]
    public async Task Commits_go_to_the_disk_before_they_are_acknowledged()
    {
        using var bench = new Bench();
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<ChitonDb>();
        Assert.Equal("wal", await db.Database.SqlQueryRaw<string>("SELECT journal_mode AS Value FROM pragma_journal_mode").SingleAsync());
        Assert.Equal(2, await db.Database.SqlQueryRaw<int>("SELECT synchronous AS Value FROM pragma_synchronous").SingleAsync());
    }

    [Fact]
    public async Task The_committed_description_of_the_api_is_the_one_it_gives()
    {
        using var bench = new Bench();
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
            folder = folder.Parent!;
        var given = (await bench.Http.GetStringAsync("/openapi/v1.json")).ReplaceLineEndings("\n").TrimEnd();
        var committed = (await File.ReadAllTextAsync(Path.Combine(folder.FullName, "docs", "openapi.json")))
            .ReplaceLineEndings("\n")
            .TrimEnd();
        Assert.True(given == committed, "docs/openapi.json is out of date: run ./dev types.");
    }
}
