using System.Reflection;
using Chiton.Server.App;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.App;

/// <summary>Who may do what in the room, and how one comes in.</summary>
public class RoomTests
{
    private static IEnumerable<(string Name, string Method, string Path)> Calls(Bench bench) =>
        bench
            .Server.Services.GetServices<EndpointDataSource>()
            .SelectMany(s => s.Endpoints)
            .OfType<RouteEndpoint>()
            .Select(e =>
                (
                    Name: e.Metadata.GetMetadata<IEndpointNameMetadata>()?.EndpointName ?? "",
                    Method: e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods[0] ?? "",
                    Path: "/" + e.RoutePattern.RawText!.TrimStart('/')
                )
            )
            .Where(c => c.Path.StartsWith("/api/", StringComparison.Ordinal) && c.Method != "")
            .DistinctBy(c => (c.Method, c.Path));

    private static IEnumerable<string> HubMethods =>
        typeof(BenchHub)
            .GetMethods(BindingFlags.Public | BindingFlags.Instance | BindingFlags.DeclaredOnly)
            .Where(m => !m.Name.StartsWith("On", StringComparison.Ordinal))
            .Select(m => "hub." + m.Name);

    [Fact]
    public void Every_call_and_every_method_of_the_hub_has_its_row_and_no_row_is_of_nothing()
    {
        var calls = Calls(Bench.Shared).ToArray();
        Assert.True(calls.Length > 150);
        Assert.DoesNotContain(calls, c => c.Name == "" && c.Path != "/api/health");
        var names = calls.Select(c => c.Name).Where(n => n != "").Concat(HubMethods).ToHashSet();
        Assert.Equal([], names.Where(n => !Access.Names(n)).Order());
        Assert.Equal([], Access.Calls.Keys.Where(n => !names.Contains(n)).Order());
    }

    [Fact]
    public void What_no_row_names_is_the_desks() => Assert.Equal(Who.Desk, Access.Of("somethingNew"));

    // What a team has of lessons: one handed out, one handed in, one change offered; and an exercise.
    private sealed record Has(long Assignment, long HandIn, long Offer, long Exercise);

    private static async Task<Has> Lesson(OpenClass open, RoomDevice device, long team)
    {
        const string Course = "a-season-on-the-oyster-farm";
        var handed = new
        {
            course = Course,
            lesson = "Every lead in its place",
            teams = new[] { team },
        };
        await open.Bench.Post($"/api/classes/{open.Id}/lessons", handed);
        var id = (await device.Ask(HttpMethod.Get, "/api/me/lessons")).GetProperty("lessons")[0].GetProperty("id").GetInt64();
        var handIn = await device.Ask(HttpMethod.Post, $"/api/lessons/{id}/hand-in", new { says = "It draws too much." });
        await using var scope = open.Bench.Server.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<Chiton.Data.ChitonDb>();
        var offer = new Chiton.Data.OfferRow
        {
            TeamId = team,
            AssignmentId = id,
            Document = "{}",
            Say = "Nothing",
        };
        db.Offers.Add(offer);
        await db.SaveChangesAsync();
        var exercise = await device.Ask(HttpMethod.Post, "/api/training/next", new { kind = "next" });
        return new(id, handIn.GetProperty("id").GetInt64(), offer.Id, exercise.GetProperty("id").GetInt64());
    }

    private static string Fill(string path, string rig, long team, long room, Has has, long heats) =>
        System.Text.RegularExpressions.Regex.Replace(
            path,
            @"\{(\w+)(:\w+)?\}",
            m =>
                m.Groups[1].Value switch
                {
                    "id" => path.StartsWith("/api/classes", StringComparison.Ordinal) ? $"{room}" : rig,
                    "team" => $"{team}",
                    "assignment" => $"{has.Assignment}",
                    "handIn" => $"{has.HandIn}",
                    "offer" => $"{has.Offer}",
                    "exercise" => $"{has.Exercise}",
                    "heats" => $"{heats}",
                    "challenge" => "crumbs-overboard",
                    "course" => "a-season-on-the-oyster-farm",
                    "copy" or "index" or "number" => "1",
                    _ => "x",
                }
        );

    [Fact]
    public async Task Every_call_is_let_through_for_whom_it_is_and_for_nobody_else()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, team, rig) = await open.Team("Gulls");
        var (crabs, otherTeam, other) = await open.Team("Crabs");
        var (has, others) = (await Lesson(open, gulls, team), await Lesson(open, crabs, otherTeam));
        // Heats of the class in which something was written down, and of another one.
        async Task<long> heatsOf(long room)
        {
            var id = (await bench.Post($"/api/classes/{room}/heats", new { challenge = "crumbs-overboard" })).GetProperty("id").GetInt64();
            await bench.Post($"/api/heats/{id}/withdraw", new { team = 0 });
            return id;
        }
        var away = (await bench.Post("/api/classes", new { name = "Away" })).GetProperty("id").GetInt64();
        foreach (var name in new[] { "Whelks", "Limpets" })
            await bench.Post($"/api/classes/{away}/teams", new { name });
        var (heats, foreignHeats) = (await heatsOf(open.Id), await heatsOf(away));
        var judge = new RoomDevice(bench);
        await judge.Join(await open.Code("judgeCode"));
        var educator = new RoomDevice(bench);
        await educator.Join((await bench.Post("/api/room/educator", new { })).GetProperty("code").GetString()!);
        (Who Who, RoomDevice Device)[] all =
        [
            (Who.Stranger, new RoomDevice(bench)),
            (Who.Judge, judge),
            (Who.Team, gulls),
            (Who.Educator, educator),
        ];
        var wrong = new List<string>();
        var let = 0;
        foreach (var (name, method, path) in Calls(bench))
        foreach (var (who, device) in all)
        {
            // Of an educator's device none is tried that would end what is tried here; the table says that they are theirs.
            if (name is "leaveRoom" or "newTeamCode" or "importLog")
                continue;
            var (token, how) = (device.Token, new HttpMethod(method));
            var allowed = name != "" && (Access.Of(name) & who) != 0;
            var (status, _) = await device.Send(how, Fill(path, rig, team, open.Id, has, heats), how == HttpMethod.Get ? null : new { });
            var refused = status is HttpStatusCode.Forbidden or HttpStatusCode.Unauthorized;
            let += allowed ? 1 : 0;
            if (refused == allowed)
                wrong.Add($"{who} {method} {path} ({name}): {(int)status}");
            if (!allowed && status != (who == Who.Stranger ? HttpStatusCode.Unauthorized : HttpStatusCode.Forbidden))
                wrong.Add($"{who} {method} {path} ({name}): {(int)status}");
            if (device.Token != token)
                wrong.Add($"{who} {method} {path} ({name}) changed who it is");
            // Heats of another class are nobody's in this room, there or not.
            if (path.StartsWith("/api/heats/{", StringComparison.Ordinal))
                foreach (var strange in new[] { foreignHeats, 9999 })
                    if (
                        (
                            await device.Send(how, Fill(path, rig, team, open.Id, has, strange), how == HttpMethod.Get ? null : new { })
                        ).Status
                        is not (HttpStatusCode.Forbidden or HttpStatusCode.Unauthorized)
                    )
                        wrong.Add($"{who} {method} {path} of heats {strange}");
            // What is not its own is refused, there or not, whatever may be done with it.
            var named = new[] { "/api/rigs/{id}", "/api/lessons/{", "/api/hand-ins/{", "/api/offers/{", "/api/training/{" };
            if (who != Who.Team || !named.Any(n => path.StartsWith(n, StringComparison.Ordinal)))
                continue;
            foreach (
                var (foreign, its) in new[] { (other, others), ("seed-trolley", others), ("no-such-rig", new Has(9999, 9999, -1, 9999)) }
            )
                if (
                    (await device.Send(how, Fill(path, foreign, otherTeam, open.Id, its, 0), how == HttpMethod.Get ? null : new { })).Status
                    != HttpStatusCode.Forbidden
                )
                    wrong.Add($"team {method} {path} of {foreign}");
        }
        Assert.Equal([], wrong);
        Assert.True(let > 250, $"{let} calls were let through.");
    }

    [Fact]
    public async Task The_room_is_closed_until_it_is_opened_and_once_it_is_closed_again()
    {
        using var bench = new Bench();
        var device = new RoomDevice(bench);
        foreach (var path in new[] { "/", "/api/me", "/api/rigs", "/assets/x.js", "/hub" })
            Assert.Equal(HttpStatusCode.Forbidden, (await device.Send(HttpMethod.Get, path)).Status);
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        await gulls.Ask(HttpMethod.Get, $"/api/rigs/{rig}");
        await bench.Send(HttpMethod.Delete, "/api/room", new { });
        Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Get, $"/api/rigs/{rig}")).Status);
        // Opened again, who had joined need not join anew; in another class they are strangers.
        await bench.Post("/api/room", new { @class = open.Id });
        await gulls.Ask(HttpMethod.Get, $"/api/rigs/{rig}");
        var second = (await bench.Post("/api/classes", new { name = "Second" })).GetProperty("id").GetInt64();
        await bench.Post("/api/room", new { @class = second });
        Assert.Equal(HttpStatusCode.Unauthorized, (await gulls.Send(HttpMethod.Get, $"/api/rigs/{rig}")).Status);
    }

    [Fact]
    public async Task In_the_room_a_write_says_where_it_comes_from_and_the_host_is_one_that_is_listened_at()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        foreach (var origin in new[] { null, "null", "http://tide.example", "http://127.0.0.1", "http://127.0.0.2:81" })
            Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Post, $"/api/rigs/{rig}/undo", new { }, origin)).Status);
        foreach (var host in new[] { "tide.example", "localhost", "127.0.0.1", "127.0.0.3" })
            Assert.Equal(HttpStatusCode.Forbidden, (await gulls.Send(HttpMethod.Get, $"/api/rigs/{rig}", null, null, host)).Status);
        await gulls.Ask(HttpMethod.Post, $"/api/rigs/{rig}/undo", new { });
    }

    [Fact]
    public async Task A_remote_address_makes_nobody_the_desk()
    {
        using var bench = new Bench();
        await OpenClass.On(bench);
        // Through something that passes requests on, it comes from this machine, and is of the room all the same.
        var (status, _) = await new RoomDevice(bench, "127.0.0.1").Send(HttpMethod.Get, "/api/rigs");
        Assert.Equal(HttpStatusCode.Unauthorized, status);
    }

    [Fact]
    public async Task A_team_sees_its_own_alone_by_whatever_way_it_asks()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        var (_, _, other) = await open.Team("Crabs", "rack-hoist");
        var listed = await gulls.Ask(HttpMethod.Get, "/api/rigs");
        Assert.Equal([rig], listed.EnumerateArray().Select(r => r.GetProperty("id").GetString()));
        Assert.All(
            (await gulls.Ask(HttpMethod.Get, "/api/missions")).EnumerateArray(),
            m => Assert.Equal(rig, m.GetProperty("rig").GetString())
        );
        var table = (await gulls.Ask(HttpMethod.Get, "/api/findings/table")).ToString();
        Assert.DoesNotContain(other, table);
        Assert.DoesNotContain("header-tank", table);
        // By the body, not the address.
        foreach (var foreign in new[] { other, "seed-trolley", "no-such-rig" })
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (
                    await gulls.Send(
                        HttpMethod.Post,
                        "/api/walk",
                        new
                        {
                            format = "script",
                            rigId = foreign,
                            source = "program Toy\n  state A, initial\n",
                            events = new[] { new { afterMs = 1000 } },
                        }
                    )
                ).Status
            );
        // The desk's list is not crowded with the teams'.
        var desk = (await bench.Get("/api/rigs")).EnumerateArray().Select(r => r.GetProperty("id").GetString()).ToArray();
        Assert.Equal(9, desk.Length);
        Assert.DoesNotContain(rig, desk);
        // The desk looks over every shoulder.
        await bench.Get($"/api/rigs/{other}");
    }

    [Fact]
    public async Task A_guest_of_a_scene_is_of_the_same_team_or_the_desks_and_never_another_teams()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (_, _, rig) = await open.Team("Gulls");
        var (_, _, other) = await open.Team("Crabs", "deck-scrubber");
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<Chiton.Data.RigStore>();
        var (mine, theirs) = ((await store.Load(rig, null, null, default)).Owner, (await store.Load(other, null, null, default)).Owner);
        Assert.Equal(rig, (await store.Guest(mine, "Seed trolley", 1, default))!.Id);
        Assert.Equal("seed-trolley", (await store.Guest(theirs, "Seed trolley", 1, default))!.Id);
        Assert.Equal("seed-trolley", (await store.Guest(null, "Seed trolley", 1, default))!.Id);
        Assert.Null(await store.Guest(mine, other, 1, default));
        Assert.Null(await store.Guest(null, rig, 1, default));
        Assert.Null(await store.Guest(mine, "Seed trolley", 9, default));
    }

    [Fact]
    public async Task Joining_takes_the_code_and_then_the_name_and_a_replacement_takes_the_teams_own()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var first = new RoomDevice(bench);
        var me = await first.Ask(HttpMethod.Get, "/api/me");
        Assert.Equal(
            ("stranger", true, ""),
            (me.GetProperty("who").GetString(), me.GetProperty("open").GetBoolean(), me.GetProperty("className").GetString())
        );
        var asked = await first.Join(await open.Code());
        Assert.Equal(JsonValueKind.Null, asked.GetProperty("who").ValueKind);
        Assert.Null(first.Token);
        Assert.Equal("Gulls", (await first.Join((await open.Code()).ToLowerInvariant(), "  Gulls ")).GetProperty("team").GetString());
        me = await first.Ask(HttpMethod.Get, "/api/me");
        var mine = me.GetProperty("team");
        Assert.Equal((1, "Gulls"), (mine.GetProperty("table").GetInt32(), mine.GetProperty("name").GetString()));
        // Its tablet breaks: the next one goes on with its code.
        var second = new RoomDevice(bench);
        await second.Join(mine.GetProperty("code").GetString()!);
        Assert.Equal("Gulls", (await second.Ask(HttpMethod.Get, "/api/me")).GetProperty("team").GetProperty("name").GetString());
        // Another team of that name is told apart, and sits elsewhere.
        var third = new RoomDevice(bench);
        Assert.Equal("gulls 2", (await third.Join(await open.Code(), "gulls")).GetProperty("team").GetString());
        Assert.Equal(2, (await third.Ask(HttpMethod.Get, "/api/me")).GetProperty("team").GetProperty("table").GetInt32());
        // What a device holds is kept as its hash alone.
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<Chiton.Data.ChitonDb>();
        Assert.All(db.Sessions, s => Assert.DoesNotContain(s.Hash, new[] { first.Token, second.Token, third.Token }));
        Assert.Equal(32, first.Token!.Length);
        // A new code ends what the old one let in.
        var team = (await bench.Get($"/api/classes/{open.Id}")).GetProperty("teams")[0].GetProperty("id").GetInt64();
        await bench.Post($"/api/teams/{team}/code", new { });
        Assert.Equal("stranger", (await second.Ask(HttpMethod.Get, "/api/me")).GetProperty("who").GetString());
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await second.Send(HttpMethod.Post, "/api/me/join", new { code = mine.GetProperty("code").GetString() })).Status
        );
    }

    [Fact]
    public async Task A_device_that_joins_as_another_is_no_longer_what_it_was()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (device, _, rig) = await open.Team("Gulls");
        var before = device.Token;
        await device.Join(await open.Code("judgeCode"));
        Assert.Equal("judge", (await device.Ask(HttpMethod.Get, "/api/me")).GetProperty("who").GetString());
        var old = new RoomDevice(bench) { Token = before };
        Assert.Equal(HttpStatusCode.Unauthorized, (await old.Send(HttpMethod.Get, $"/api/rigs/{rig}")).Status);
        await device.Ask(HttpMethod.Post, "/api/me/leave", new { });
        Assert.Null(device.Token);
    }

    [Fact]
    public async Task The_educators_code_lets_one_device_in_once()
    {
        using var bench = new Bench();
        await OpenClass.On(bench);
        var code = (await bench.Post("/api/room/educator", new { })).GetProperty("code").GetString()!;
        var device = new RoomDevice(bench);
        await device.Join(code);
        Assert.Equal("educator", (await device.Ask(HttpMethod.Get, "/api/me")).GetProperty("who").GetString());
        Assert.Equal(HttpStatusCode.BadRequest, (await new RoomDevice(bench).Send(HttpMethod.Post, "/api/me/join", new { code })).Status);
        // Another code takes the place of the one before.
        var earlier = (await bench.Post("/api/room/educator", new { })).GetProperty("code").GetString()!;
        await bench.Post("/api/room/educator", new { });
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await new RoomDevice(bench).Send(HttpMethod.Post, "/api/me/join", new { code = earlier })).Status
        );
    }

    [Fact]
    public async Task Codes_cannot_be_guessed_by_trying_however_many_at_once()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        // All at once, from one address: ten are looked at.
        var one = new RoomDevice(bench, "10.0.0.1");
        var answers = await Task.WhenAll(
            Enumerable.Range(0, 40).Select(i => one.Send(HttpMethod.Post, "/api/me/join", new { code = $"AAAAA{"ABCDEFGHJK"[i % 10]}" }))
        );
        Assert.Equal(10, answers.Count(a => a.Status == HttpStatusCode.BadRequest));
        Assert.Equal(30, answers.Count(a => a.Status == HttpStatusCode.TooManyRequests));
        // The right one waits too, and another address does not.
        var code = await open.Code();
        Assert.Equal(
            HttpStatusCode.TooManyRequests,
            (await one.Send(HttpMethod.Post, "/api/me/join", new { code, team = "Gulls" })).Status
        );
        await new RoomDevice(bench, "10.0.0.2").Join(code, "Gulls");
        // From many addresses: sixty in all, and then nobody.
        var looked = 10;
        for (var i = 3; i < 40; i++)
        for (var n = 0; n < 5; n++)
            if (
                (await new RoomDevice(bench, $"10.0.0.{i}").Send(HttpMethod.Post, "/api/me/join", new { code = "BBBBBB" })).Status
                == HttpStatusCode.BadRequest
            )
                looked++;
        Assert.Equal(60, looked);
        Assert.Equal(
            HttpStatusCode.TooManyRequests,
            (await new RoomDevice(bench, "10.1.0.1").Send(HttpMethod.Post, "/api/me/join", new { code, team = "Crabs" })).Status
        );
        Assert.True((await open.Room()).GetProperty("locked").GetBoolean());
        await bench.Send(HttpMethod.Post, "/api/room/let-join", new { });
        await new RoomDevice(bench, "10.1.0.1").Join(code, "Crabs");
        Assert.False((await open.Room()).GetProperty("locked").GetBoolean());
        Assert.Equal(0, (await open.Room()).GetProperty("wrongCodes").GetInt32());
    }

    [Theory]
    [InlineData("""{"code":""}""", "code")]
    [InlineData("""{"code":"12345"}""", "code")]
    [InlineData("""{"code":"ABCDEF","team":"x"}""", "code")]
    [InlineData("""{"code":"$join","team":"0123456789012345678901234567890123456789x"}""", "team")]
    [InlineData("""{"code":"$join","team":"Gulls","table":0}""", "table")]
    [InlineData("""{"code":"$join","team":"Gulls","table":1.5}""", "table")]
    public async Task Nonsense_is_answered_by_its_field(string body, string field)
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (status, answer) = await new RoomDevice(bench).Send(
            HttpMethod.Post,
            "/api/me/join",
            JsonDocument.Parse(body.Replace("$join", await open.Code())).RootElement
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(answer.GetProperty("errors").TryGetProperty(field, out _), answer.ToString());
        Assert.Empty((await bench.Get($"/api/classes/{open.Id}")).GetProperty("teams").EnumerateArray());
    }

    [Fact]
    public async Task A_device_edits_ten_times_a_second_and_no_other_waits_for_it()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, _) = await open.Team("Gulls");
        var (crabs, _, _) = await open.Team("Crabs");
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var flood = Enumerable.Range(0, 200).Select(_ => gulls.Send(HttpMethod.Post, "/api/me/hand", new { up = true })).ToArray();
        var other = await crabs.Send(HttpMethod.Post, "/api/me/hand", new { up = true });
        Assert.Equal(HttpStatusCode.OK, other.Status);
        var answers = await Task.WhenAll(flood);
        var kept = answers.Count(a => a.Status == HttpStatusCode.OK);
        Assert.All(answers, a => Assert.True(a.Status is HttpStatusCode.OK or HttpStatusCode.TooManyRequests));
        // As many as the bucket held and the seconds let through since.
        Assert.InRange(kept, SessionLimits.Edits, SessionLimits.Edits * (2 + watch.Elapsed.TotalSeconds));
    }

    [Fact]
    public async Task One_long_job_a_device_and_nobody_stops_anothers()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        var (crabs, _, other) = await open.Team("Crabs");
        // Whichever of the two comes first, the other is refused; the long one is to be the one that goes on.
        Task<(HttpStatusCode Status, JsonElement Body)> first;
        (HttpStatusCode Status, JsonElement Body) second;
        do
        {
            first = gulls.Send(
                HttpMethod.Post,
                $"/api/rigs/{rig}/proofs",
                new
                {
                    runs = 10000,
                    seed = 1,
                    job = "mine",
                }
            );
            await Task.Delay(300);
            second = await gulls.Send(
                HttpMethod.Post,
                $"/api/rigs/{rig}/proofs",
                new
                {
                    runs = 100,
                    seed = 2,
                    job = "again",
                }
            );
        } while (first.IsCompleted);
        Assert.Equal(HttpStatusCode.TooManyRequests, second.Status);
        Assert.Equal(HttpStatusCode.NotFound, (await crabs.Send(HttpMethod.Delete, "/api/jobs/mine")).Status);
        Assert.Equal(HttpStatusCode.NoContent, (await gulls.Send(HttpMethod.Delete, "/api/jobs/mine")).Status);
        await first;
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await crabs.Send(
                    HttpMethod.Post,
                    $"/api/rigs/{other}/proofs",
                    new
                    {
                        runs = 100,
                        seed = 2,
                        job = "mine",
                    }
                )
            ).Status
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (await gulls.Send(HttpMethod.Post, $"/api/rigs/{rig}/proofs", new { runs = 100, seed = 2 })).Status
        );
    }

    [Fact]
    public async Task One_device_does_not_take_all_threads()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        var (crabs, _, other) = await open.Team("Crabs");
        const string busy = "program Busy\n\nvar n = 0\n\nregion Main\n  state A, initial\n    every 1 ms: set n to n + 1; stay\n";
        object Walk(string of) =>
            new
            {
                format = "script",
                source = busy,
                rigId = of,
                events = new[] { new { afterMs = 600_000 } },
            };
        var all = Enumerable.Range(0, 9).Select(_ => gulls.Send(HttpMethod.Post, "/api/walk", Walk(rig))).ToArray();
        await Task.Delay(300);
        // Whatever the one does, the other's is worked on.
        var (status, body) = await crabs.Send(HttpMethod.Post, "/api/walk", Walk(other));
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        var answers = await Task.WhenAll(all);
        Assert.Contains(answers, a => a.Status == HttpStatusCode.TooManyRequests);
        Assert.Contains(answers, a => a.Status == HttpStatusCode.OK);
    }
}
