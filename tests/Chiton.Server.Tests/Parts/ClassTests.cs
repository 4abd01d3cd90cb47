using Chiton.Data;
using Chiton.Server.App.Room;
using Chiton.Server.Tests.App;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

/// <summary>Classes, their teams, and what is handed out to them.</summary>
public class ClassTests
{
    private static async Task<long> Class(Bench bench, params string[] teams)
    {
        var id = (await bench.Post("/api/classes", new { name = "Tide pool" })).GetProperty("id").GetInt64();
        foreach (var team in teams)
            await bench.Post($"/api/classes/{id}/teams", new { name = team });
        return id;
    }

    private static async Task<JsonElement[]> Teams(Bench bench, long id) =>
        [.. (await bench.Get($"/api/classes/{id}")).GetProperty("teams").EnumerateArray()];

    [Fact]
    public async Task What_is_handed_out_behaves_like_its_origin_and_is_its_own()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls", "Crabs");
        var rigs = (await bench.Post($"/api/classes/{id}/hand-out", new { rig = "seed-trolley" })).GetProperty("rigs");
        var (one, two) = (rigs[0].GetString()!, rigs[1].GetString()!);
        Assert.Equal(("seed-trolley-gulls", "seed-trolley-crabs"), (one, two));
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var store = scope.ServiceProvider.GetRequiredService<RigStore>();
        var origin = await store.Load("seed-trolley", 1, null, default);
        foreach (var rig in new[] { one, two })
        {
            var state = await store.Load(rig, null, null, default);
            Assert.Equal(
                (1, 1, "handed out"),
                (state.Revision, state.Copy, (await store.Designs.Revisions(rig, 1, default))[0].What[..10])
            );
            Assert.Equal(origin.Hash, state.Hash);
            // The same readings under the same zones, as if they had been taken there.
            Assert.Equal(
                origin.Calibrations["Tag eye"].Zones.Select(z => (z.Zone, string.Join(' ', z.Readings))),
                state.Calibrations["Tag eye"].Zones.Select(z => (z.Zone, string.Join(' ', z.Readings)))
            );
            // What its sensors really see, and how it really rolls, is that of the origin: to the last digit.
            foreach (var sensor in origin.Design.Sensors)
            {
                var there = (await store.Copies.Bench(origin, sensor, false, default)).Things;
                var here = (await store.Copies.Bench(state, sensor, false, default)).Things;
                Assert.Equal(there.Keys.Order(), here.Keys.Order());
                Assert.All(there, t => Assert.Equal((t.Value.Mean, t.Value.Sd), (here[t.Key].Mean, here[t.Key].Sd)));
            }
            Assert.Equal(("seed-trolley", "1"), state.Hidden);
            Assert.Empty(await store.Log.Lines(rig, null, default));
        }
        // What one changes is the other's and the desk's neither.
        var script = (await bench.Get($"/api/rigs/{one}/program")).GetProperty("script").GetString()!;
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            $"/api/rigs/{one}/program",
            new { baseRevision = 1, script = script.Replace("var cruise = 60 %", "var cruise = 30 %") }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        Assert.Contains("60 %", (await bench.Get($"/api/rigs/{two}/program")).GetProperty("script").GetString());
        Assert.Contains("60 %", await bench.Script());
        var teams = await Teams(bench, id);
        Assert.Equal(1, teams[0].GetProperty("rigs")[0].GetProperty("different").GetInt32());
        Assert.Equal(0, teams[1].GetProperty("rigs")[0].GetProperty("different").GetInt32());
        Assert.Equal("Seed trolley", teams[0].GetProperty("rigs")[0].GetProperty("origin").GetString());
    }

    [Fact]
    public async Task A_trial_on_a_stand_in_that_was_handed_out_comes_out_as_on_its_origin()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls");
        var rig = (await bench.Post($"/api/classes/{id}/hand-out", new { rig = "deck-scrubber" })).GetProperty("rigs")[0].GetString()!;
        async Task<double> Try(string of)
        {
            var view = await bench.Post(
                $"/api/rigs/{of}/trials",
                new
                {
                    copy = 1,
                    key = "Drive: straight",
                    asked = 800,
                }
            );
            return view.GetProperty("mechanisms")
                .EnumerateArray()
                .SelectMany(m => m.GetProperty("motions").EnumerateArray())
                .Single(m => m.GetProperty("plan").GetProperty("key").GetString() == "Drive: straight")
                .GetProperty("trials")
                .EnumerateArray()
                .Last()
                .GetProperty("measured")
                .GetDouble();
        }
        Assert.Equal(await Try("deck-scrubber"), await Try(rig), 9);
    }

    [Fact]
    public async Task A_team_that_comes_late_begins_where_the_others_began()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls", "Crabs");
        await bench.Post($"/api/classes/{id}/hand-out", new { rig = "seed-trolley" });
        var began = await bench.Revision();
        // Meanwhile the educator mends it, and gives one team a rig of another kind.
        await bench.Save((await bench.Script()).Replace("var cruise = 60 %", "var cruise = 20 %"));
        var gulls = (await Teams(bench, id))[0].GetProperty("id").GetInt64();
        await bench.Post($"/api/classes/{id}/hand-out", new { rig = "rack-hoist", teams = new[] { gulls } });
        // One that began later began elsewhere: what most began with counts.
        await bench.Post($"/api/classes/{id}/teams", new { name = "Dabs" });
        var dabs = (await Teams(bench, id))[2].GetProperty("id").GetInt64();
        await bench.Post($"/api/classes/{id}/hand-out", new { rig = "seed-trolley", teams = new[] { dabs } });
        await bench.Post($"/api/classes/{id}/teams", new { name = "Eels" });
        var late = (await Teams(bench, id))[3].GetProperty("id").GetInt64();
        var made = await bench.Post($"/api/teams/{late}/same-start", new { });
        Assert.Equal(
            ["rack-hoist-eels", "seed-trolley-eels"],
            made.GetProperty("rigs").EnumerateArray().Select(r => r.GetString()).Order()
        );
        Assert.Contains("60 %", (await bench.Get("/api/rigs/seed-trolley-eels/program")).GetProperty("script").GetString());
        var eels = (await Teams(bench, id))[3]
            .GetProperty("rigs")
            .EnumerateArray()
            .Single(r => r.GetProperty("id").GetString() == "seed-trolley-eels");
        Assert.Equal((began, 0), (eels.GetProperty("originRevision").GetInt32(), eels.GetProperty("different").GetInt32()));
        // It has them all now.
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/teams/{late}/same-start", new { })).Status);
    }

    [Fact]
    public async Task Two_teams_programs_are_held_against_each_other_and_against_what_was_handed_out()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls", "Crabs");
        await bench.Post($"/api/classes/{id}/hand-out", new { rig = "seed-trolley" });
        var script = await bench.Script();
        await bench.Send(
            HttpMethod.Put,
            "/api/rigs/seed-trolley-gulls/program",
            new { baseRevision = 1, script = script.Replace("var cruise = 60 %", "var cruise = 30 %") }
        );
        var compared = await bench.Get($"/api/classes/{id}/compare?one=seed-trolley-gulls&two=seed-trolley-crabs");
        var change = Assert.Single(compared.GetProperty("changes").EnumerateArray());
        Assert.Contains("60 %", change.GetProperty("before").GetString());
        Assert.Contains("30 %", change.GetProperty("after").GetString());
        Assert.Empty((await bench.Get($"/api/classes/{id}/compare?one=seed-trolley-crabs")).GetProperty("changes").EnumerateArray());
        Assert.Single((await bench.Get($"/api/classes/{id}/compare?one=seed-trolley-gulls")).GetProperty("changes").EnumerateArray());
        foreach (var wrong in new[] { "", "?one=seed-trolley", "?one=seed-trolley-gulls&two=rack-hoist" })
            Assert.Equal(HttpStatusCode.BadRequest, (await bench.Http.GetAsync($"/api/classes/{id}/compare{wrong}")).StatusCode);
    }

    [Fact]
    public async Task Another_table_is_a_new_copy_and_the_earlier_one_stays()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls");
        var team = (await Teams(bench, id))[0].GetProperty("id").GetInt64();
        var rig = (await bench.Post($"/api/classes/{id}/hand-out", new { rig = "seed-trolley" })).GetProperty("rigs")[0].GetString()!;
        Assert.Equal(7, (await bench.Post($"/api/teams/{team}/table", new { table = 7 })).GetProperty("table").GetInt32());
        var copies = (await bench.Get($"/api/rigs/{rig}")).GetProperty("copies").EnumerateArray().ToArray();
        Assert.Equal([1, 2], copies.Select(c => c.GetProperty("number").GetInt32()));
        Assert.Equal("table 7", copies[1].GetProperty("unit").GetString());
        // The same table is no other one.
        await bench.Post($"/api/teams/{team}/table", new { table = 7 });
        Assert.Equal(2, (await bench.Get($"/api/rigs/{rig}")).GetProperty("copies").GetArrayLength());
        foreach (var table in new object?[] { null, 0, 100, 1.5 })
            Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/teams/{team}/table", new { table })).Status);
    }

    [Theory]
    [InlineData("/api/classes", """{"name":""}""", "name")]
    [InlineData("/api/classes", """{"name":"   "}""", "name")]
    [InlineData("/api/classes", """{"name":"01234567890123456789012345678901234567891"}""", "name")]
    [InlineData("/api/classes/{id}/teams", """{"name":null}""", "name")]
    [InlineData("/api/classes/{id}/teams", """{"name":"Gulls","table":-1}""", "table")]
    [InlineData("/api/classes/{id}/hand-out", """{"rig":""}""", "rig")]
    [InlineData("/api/classes/{id}/hand-out", """{"rig":"seed-trolley"}""", "teams")]
    [InlineData("/api/classes/{id}/hand-out", """{"rig":"seed-trolley","teams":[99]}""", "teams")]
    [InlineData("/api/room", """{}""", "class")]
    [InlineData("/api/room", """{"class":{id},"minutes":0}""", "minutes")]
    [InlineData("/api/room", """{"class":{id},"addresses":["0.0.0.0"]}""", "addresses")]
    [InlineData("/api/room", """{"class":{id},"addresses":["127.0.0.1"]}""", "addresses")]
    [InlineData("/api/me/join", """{"code":"ABCDEF"}""", "code")]
    [InlineData("/api/me/hand", """{"up":true}""", "up")]
    public async Task Nonsense_is_answered_by_its_field(string path, string body, string field)
    {
        using var bench = new Bench();
        var id = await Class(bench);
        var (status, answer) = await bench.TryPost(
            path.Replace("{id}", $"{id}"),
            JsonDocument.Parse(body.Replace("{id}", $"{id}")).RootElement
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(answer.GetProperty("errors").TryGetProperty(field, out _), answer.ToString());
    }

    [Theory]
    [InlineData("GET", "/api/classes/99")]
    [InlineData("DELETE", "/api/classes/99")]
    [InlineData("GET", "/api/classes/99/export")]
    [InlineData("POST", "/api/teams/99/code")]
    [InlineData("DELETE", "/api/teams/99")]
    [InlineData("GET", "/api/room/board")]
    [InlineData("GET", "/api/room/projector")]
    [InlineData("POST", "/api/room/educator")]
    public async Task What_is_not_there_is_said(string method, string path) =>
        Assert.Equal(HttpStatusCode.NotFound, (await Bench.Shared.Send(new(method), path, new { })).Status);

    [Fact]
    public async Task Two_teams_have_two_names_and_two_codes()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls", "gulls");
        var teams = await Teams(bench, id);
        Assert.Equal(["Gulls", "gulls 2"], teams.Select(t => t.GetProperty("name").GetString()));
        Assert.NotEqual(teams[0].GetProperty("code").GetString(), teams[1].GetProperty("code").GetString());
        var second = teams[1].GetProperty("id").GetInt64();
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.Send(HttpMethod.Put, $"/api/teams/{second}", new { name = "GULLS" })).Status);
        Assert.Equal(
            HttpStatusCode.OK,
            (await bench.Send(HttpMethod.Put, $"/api/teams/{second}", new { name = "Terns", table = 5 })).Status
        );
    }

    [Fact]
    public async Task The_board_tells_who_is_where_and_who_waits()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        await open.Team("Crabs", "rack-hoist");
        await bench.Post($"/api/classes/{open.Id}/teams", new { name = "Eels" });
        async Task<JsonElement[]> Lines(string order) =>
            [.. (await bench.Get($"/api/room/board?order={order}")).GetProperty("lines").EnumerateArray()];
        var lines = await Lines("seat");
        Assert.Equal(["Gulls", "Crabs", "Eels"], lines.Select(l => l.GetProperty("name").GetString()));
        Assert.Equal("No rig yet", lines[2].GetProperty("finding").GetString());
        Assert.Equal(JsonValueKind.Null, lines[2].GetProperty("rig").ValueKind);
        Assert.True(lines[0].GetProperty("unsettled").GetBoolean());
        Assert.Equal("It rolls too fast to stop on its tag", lines[0].GetProperty("finding").GetString());
        Assert.Equal(JsonValueKind.Null, lines[0].GetProperty("holds").ValueKind);
        // Sent, it holds it; changed after that, it does not.
        await gulls.Ask(HttpMethod.Post, $"/api/rigs/{rig}/send", new { copy = 1 });
        Assert.True((await Lines("seat"))[0].GetProperty("holds").GetBoolean());
        var script = (await gulls.Ask(HttpMethod.Get, $"/api/rigs/{rig}/program")).GetProperty("script").GetString()!;
        await gulls.Ask(HttpMethod.Put, $"/api/rigs/{rig}/program", new { baseRevision = 1, script = script.Replace("60 %", "40 %") });
        Assert.False((await Lines("seat"))[0].GetProperty("holds").GetBoolean());
        // What is only good to know is nothing to settle.
        Assert.Equal("One bed tag can be counted twice", (await Lines("seat"))[0].GetProperty("finding").GetString());
        // A program that cannot be read says so on the board, and is no "nothing to settle".
        await gulls.Ask(
            HttpMethod.Put,
            $"/api/rigs/{rig}/program",
            new { baseRevision = 2, script = script.Replace("go Over tag", "go Nowhere") }
        );
        Assert.Contains("Nowhere", (await Lines("seat"))[0].GetProperty("finding").GetString());
        await gulls.Ask(HttpMethod.Post, "/api/me/hand", new { up = true });
        Assert.Equal("Gulls", (await Lines("stuck"))[0].GetProperty("name").GetString());
        var team = (await Lines("stuck"))[0].GetProperty("team").GetInt64();
        await bench.Post($"/api/teams/{team}/hand", new { });
        Assert.Equal("Gulls", (await Lines("stuck"))[^1].GetProperty("name").GetString());
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.Send(HttpMethod.Get, "/api/room/board?order=loudest", new { })).Status);
    }

    [Fact]
    public async Task What_is_projected_holds_no_code_but_the_one_to_join_with()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        await open.Team("Gulls");
        var wall = (await bench.Get("/api/room/projector")).ToString();
        var room = await open.Room();
        Assert.Contains(room.GetProperty("joinCode").GetString()!, wall);
        Assert.DoesNotContain(room.GetProperty("judgeCode").GetString()!, wall);
        foreach (var team in await Teams(bench, open.Id))
            Assert.DoesNotContain(team.GetProperty("code").GetString()!, wall);
        Assert.Contains("Gulls", wall);
        var squares = (await bench.Get("/api/room/projector"))
            .GetProperty("squares")
            .EnumerateArray()
            .Select(r => r.GetString()!)
            .ToArray();
        Assert.All(squares, r => Assert.Equal(squares.Length, r.Length));
        // Four light squares around it, and the corner that cameras look for.
        Assert.All(squares[..4], r => Assert.DoesNotContain('1', r));
        Assert.StartsWith("00001111111", squares[4]);
    }

    [Fact]
    public async Task A_lesson_is_given_minutes_and_is_over_once_they_are()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        Assert.Equal(JsonValueKind.Null, (await open.Room()).GetProperty("leftS").ValueKind);
        Assert.InRange((await bench.Post("/api/room/minutes", new { minutes = 40 })).GetProperty("leftS").GetDouble(), 2390, 2400);
        Assert.InRange((await bench.Post("/api/room/minutes", new { minutes = 5 })).GetProperty("leftS").GetDouble(), 2690, 2700);
        Assert.InRange((await bench.Post("/api/room/minutes", new { minutes = -600 })).GetProperty("leftS").GetDouble(), 0, 1);
        Assert.InRange((await bench.Post("/api/room/minutes", new { minutes = 5 })).GetProperty("leftS").GetDouble(), 290, 300);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/room/minutes", new { minutes = 601 })).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/room/message", new { text = new string('x', 201) })).Status);
    }

    [Fact]
    public async Task Everything_of_a_class_goes_when_it_is_deleted_and_nothing_else()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        const string Team = "Whelkwardens",
            Note = "the periwinkle came loose";
        var (device, _, rig) = await open.Team(Team);
        var script = (await device.Ask(HttpMethod.Get, $"/api/rigs/{rig}/program")).GetProperty("script").GetString()!;
        await device.Ask(
            HttpMethod.Put,
            $"/api/rigs/{rig}/program",
            new { baseRevision = 1, script = script.Replace("How fast it rolls.", "How fast our quahogsledge rolls.") }
        );
        await device.Ask(
            HttpMethod.Post,
            $"/api/rigs/{rig}/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "bed tag",
                text = "55\n56\n57",
                who = Team,
            }
        );
        await device.Ask(HttpMethod.Post, $"/api/rigs/{rig}/send", new { copy = 1 });
        await device.Ask(
            HttpMethod.Post,
            $"/api/rigs/{rig}/log/lines",
            new
            {
                copy = 1,
                lines = new[]
                {
                    new
                    {
                        key = "line-0123456789",
                        revision = 2,
                        passed = false,
                        timeUtc = "2026-11-29T08:00:00Z",
                        note = Note,
                    },
                },
            }
        );
        await bench.Post("/api/room/message", new { text = "Whelkwardens to the tide table" });
        await open.Team("Others");
        var heats = (await bench.Post($"/api/classes/{open.Id}/heats", new { challenge = "last-on-the-deck" })).GetProperty("id");
        await bench.Post($"/api/heats/{heats}/simulate", new { });
        await bench.Post($"/api/heats/{heats}/withdraw", new { team = 0 });
        // An export is offered first, and holds it all.
        var export = await bench.Http.GetStringAsync($"/api/classes/{open.Id}/export");
        Assert.Contains(Note, export);
        Assert.Contains("quahogsledge", export);
        Assert.StartsWith("""{"format":"chiton-class","version":1""", export.Replace("\n", "").Replace("  ", "").Replace(": ", ":"));
        var before = await Counts(bench);
        Assert.Equal(HttpStatusCode.NoContent, (await bench.Send(HttpMethod.Delete, $"/api/classes/{open.Id}", new { })).Status);
        // The room is closed with it, and its devices are nobody.
        Assert.False((await bench.Get("/api/room")).GetProperty("open").GetBoolean());
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Get, $"/api/rigs/{rig}", new { })).Status);
        var after = await Counts(bench);
        using (var fresh = new Bench())
            Assert.Equal(await Counts(fresh), after);
        Assert.NotEqual(before, after);
        // Not a word of it is left on the disk.
        foreach (var file in Directory.EnumerateFiles(bench.Folder, "chiton.db*"))
        {
            await using var open2 = new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
            using var all = new MemoryStream();
            await open2.CopyToAsync(all);
            var text = System.Text.Encoding.UTF8.GetString(all.ToArray());
            foreach (var word in new[] { Team, "quahogsledge", "periwinkle", "tide table", device.Token! })
                Assert.False(text.Contains(word, StringComparison.Ordinal), $"{Path.GetFileName(file)} still holds “{word}”.");
        }
        Assert.Equal(9, (await bench.Get("/api/rigs")).GetArrayLength());
    }

    // How many rows there are of everything.
    private static async Task<string> Counts(Bench bench)
    {
        await using var scope = bench.Server.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<ChitonDb>();
        var counts = new List<string>();
        foreach (var table in db.Model.GetEntityTypes().Select(t => t.GetTableName()!).Where(t => t != "Proofs").Order())
        {
            var sql = "SELECT count(*) AS Value FROM " + table;
            counts.Add($"{table} {await db.Database.SqlQueryRaw<long>(sql).SingleAsync()}");
        }
        return string.Join(", ", counts);
    }

    [Fact]
    public async Task A_real_copy_of_what_was_handed_out_starts_with_the_lessons_numbers_as_guesses()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, _, rig) = await open.Team("Gulls");
        async Task<(double Value, string Kind, string Source)[]> numbers(string id, int copy)
        {
            await using var scope = bench.Server.Services.CreateAsyncScope();
            var state = await scope.ServiceProvider.GetRequiredService<RigStore>().Load(id, copy, null, default);
            return [.. state.Numbers().Numbers.Select(n => (n.Number.Value, n.Number.Kind.ToString(), n.Number.Source))];
        }
        await gulls.Ask(HttpMethod.Post, $"/api/rigs/{rig}/copies", new { team = "Gulls", kind = "real" });
        var (lesson, mine) = (await numbers("seed-trolley", 1), await numbers(rig, 2));
        Assert.NotEmpty(mine);
        // The same values as the lesson's stand-in has; never tried on this table.
        Assert.All(mine, n => Assert.Contains(lesson, l => l.Value == n.Value));
        Assert.Contains(lesson, n => n.Kind == "Measured");
        Assert.All(mine, n => Assert.True(n.Kind == "Chosen" || n.Kind == "Guessed" && n.Source.Contains("never tried here"), $"{n}"));
    }

    [Fact]
    public async Task A_team_that_is_taken_out_takes_its_own_and_leaves_the_others()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (gulls, team, rig) = await open.Team("Gulls");
        var (crabs, _, other) = await open.Team("Crabs");
        await bench.Send(HttpMethod.Delete, $"/api/teams/{team}", new { });
        Assert.Equal("stranger", (await gulls.Ask(HttpMethod.Get, "/api/me")).GetProperty("who").GetString());
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Get, $"/api/rigs/{rig}", new { })).Status);
        await crabs.Ask(HttpMethod.Get, $"/api/rigs/{other}");
        // Its address may be given anew, to a team that is not the one that had it.
        var (_, _, again) = await open.Team("Gulls");
        Assert.Equal(rig, again);
        Assert.Equal(HttpStatusCode.Forbidden, (await crabs.Send(HttpMethod.Get, $"/api/rigs/{again}")).Status);
    }

    [Fact]
    public void Turns_are_fair_however_much_one_asks_for()
    {
        var turns = new FairTurns<(int Owner, int What)>(t => t.Owner);
        for (var what = 0; what < 50; what++)
            turns.Add((1, what));
        turns.Add((2, 0));
        turns.Add((3, 0));
        turns.Add((3, 1));
        var served = new List<(int Owner, int What)>();
        for (var i = 0; i < 6; i++)
            served.Add(turns.Take());
        // Everybody once before anybody twice; of one's own the latest first.
        Assert.Equal([1, 2, 3], served.Take(3).Select(s => s.Owner).Order());
        Assert.Contains((1, 49), served);
        Assert.Contains((3, 1), served.Take(3));
        Assert.Contains((3, 0), served.Take(5));
        Assert.Equal(53 - 6, turns.Count);
        // Asked for again, it waits once.
        turns.Add((1, 3));
        Assert.Equal(47, turns.Count);
        Assert.Equal((1, 3), turns.Take());
        while (turns.Count > 0)
            turns.Take();
        Assert.Throws<InvalidOperationException>(() => turns.Take());
    }

    [Fact]
    public async Task Every_teams_gauge_comes_though_one_asks_for_a_hundred()
    {
        using var bench = new Bench();
        var id = await Class(bench, "Gulls", "Crabs", "Eels");
        var rigs = (await bench.Post($"/api/classes/{id}/hand-out", new { rig = "seed-trolley" })).GetProperty("rigs");
        var keeper = bench.Server.Services.GetRequiredService<Server.App.RateKeeper>();
        for (var copy = 1; copy <= 100; copy++)
            keeper.Ask(rigs[0].GetString()!, 1, copy % 2 == 0 ? null : 1);
        foreach (var rig in rigs.EnumerateArray())
            for (var i = 0; ; i++)
            {
                if ((await bench.Get($"/api/rigs/{rig.GetString()}")).GetProperty("rate").GetProperty("state").GetString() == "known")
                    break;
                Assert.True(i < 600, $"{rig} has no gauge");
                await Task.Delay(100);
            }
    }
}
