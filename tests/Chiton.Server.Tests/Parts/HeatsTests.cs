using System.Diagnostics;
using Chiton.Core.Classroom;
using Chiton.Data;
using Chiton.Data.Demo;
using Chiton.Server.Tests.App;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

/// <summary>Challenges and heats over the wire: begun, run in the bench, scored by a judge, taken back, seen by all.</summary>
[Collection("Behind everything else")]
public class HeatsTests(ITestOutputHelper output)
{
    private const string Crumbs = "crumbs-overboard",
        Last = "last-on-the-deck";

    private static object Lane(double? value, int falls = 0, int touches = 0, bool started = true) =>
        new
        {
            started,
            value,
            falls,
            touches,
        };

    private static async Task<(OpenClass Open, long Heats, RoomDevice Judge, RoomDevice[] Teams)> Begun(
        Bench bench,
        string challenge,
        params string[] names
    )
    {
        var open = await OpenClass.On(bench);
        var teams = new List<RoomDevice>();
        foreach (var name in names)
            teams.Add((await open.Team(name, "deck-scrubber")).Device);
        var judge = new RoomDevice(bench);
        await judge.Join(await open.Code("judgeCode"));
        var begun = await bench.Post($"/api/classes/{open.Id}/heats", new { challenge });
        return (open, begun.GetProperty("id").GetInt64(), judge, [.. teams]);
    }

    private static string Table(JsonElement heats) =>
        string.Join(
            " ",
            heats
                .GetProperty("table")
                .EnumerateArray()
                .Select(l =>
                    $"{heats.GetProperty("teams")[l.GetProperty("team").GetInt32()].GetProperty("name").GetString()}:"
                    + l.GetProperty("points").GetInt32()
                )
        );

    private static (int First, int Second) Next(JsonElement heats) =>
        (heats.GetProperty("next").GetProperty("first").GetInt32(), heats.GetProperty("next").GetProperty("second").GetInt32());

    [Fact]
    public async Task A_judge_scores_and_every_device_has_the_table()
    {
        using var bench = new Bench();
        var (_, id, judge, teams) = await Begun(bench, Crumbs, "Kelp", "Ebb", "Flood");
        // Who has nothing but the room's code of a judge finds what is to be scored.
        var listed = await judge.Ask(HttpMethod.Get, "/api/heats");
        Assert.Equal((id, 3), (listed[0].GetProperty("id").GetInt64(), listed[0].GetProperty("all").GetInt32()));
        var (first, second) = Next(await judge.Ask(HttpMethod.Get, $"/api/heats/{id}"));
        var score = new
        {
            first,
            second,
            one = Lane(60, touches: 1),
            other = Lane(40),
        };
        Assert.Equal("It counts.", (await judge.Ask(HttpMethod.Post, $"/api/heats/{id}/score", score)).GetProperty("say").GetString());
        // 60 points less 10 for a touch.
        foreach (var device in teams.Append(judge))
        {
            var seen = await device.Ask(HttpMethod.Get, $"/api/heats/{id}");
            var names = seen.GetProperty("teams").EnumerateArray().Select(t => t.GetProperty("name").GetString()).ToArray();
            Assert.StartsWith($"{names[first]}:2", Table(seen));
            var heat = seen.GetProperty("rounds")[0].GetProperty("heats")[0];
            Assert.Equal(
                (50, 40, 1),
                (
                    heat.GetProperty("firstScore").GetDouble(),
                    heat.GetProperty("secondScore").GetDouble(),
                    heat.GetProperty("winner").GetInt32()
                )
            );
            // Whose rig is which is nobody's business but the educator's.
            Assert.All(
                seen.GetProperty("teams").EnumerateArray(),
                t => Assert.Equal((JsonValueKind.Null, 0), (t.GetProperty("rig").ValueKind, t.GetProperty("rigs").GetArrayLength()))
            );
            Assert.Contains("a judge", seen.GetProperty("trace")[0].ToString());
        }
        // A second judge is told, and nothing is scored twice.
        var (status, twice) = await judge.Send(HttpMethod.Post, $"/api/heats/{id}/score", score);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("scored already", twice.ToString());
        Assert.Equal(HttpStatusCode.Forbidden, (await teams[0].Send(HttpMethod.Post, $"/api/heats/{id}/score", score)).Status);
        // Nonsense is told at its field.
        foreach (
            var (body, field) in new (object, string)[]
            {
                (new { }, "heat"),
                (new { first, second }, "heat"),
                (
                    new
                    {
                        first = 99,
                        second = -3,
                        one = Lane(1),
                        other = Lane(1),
                    },
                    "heat"
                ),
            }
        )
            Assert.Contains(
                field,
                (await judge.Send(HttpMethod.Post, $"/api/heats/{id}/score", body)).Body.GetProperty("errors").ToString()
            );
        var (a, b) = Next(await judge.Ask(HttpMethod.Get, $"/api/heats/{id}"));
        var bad = await judge.Send(
            HttpMethod.Post,
            $"/api/heats/{id}/score",
            new
            {
                first = a,
                second = b,
                one = Lane(null, falls: -1),
                other = Lane(1e9),
            }
        );
        Assert.Contains("one.falls", bad.Body.GetProperty("errors").ToString());
        bad = await judge.Send(
            HttpMethod.Post,
            $"/api/heats/{id}/score",
            new
            {
                first = a,
                second = b,
                one = Lane(null),
                other = Lane(1e9),
            }
        );
        Assert.Contains("How many points?", bad.Body.GetProperty("errors").ToString());
        Assert.Contains("other.value", bad.Body.GetProperty("errors").ToString());
    }

    [Fact]
    public async Task What_is_taken_back_stays_to_be_seen_and_survives_a_restart()
    {
        using var bench = new Bench();
        var (open, id, judge, _) = await Begun(bench, Crumbs, "Kelp", "Ebb", "Flood");
        var (first, second) = Next(await bench.Get($"/api/heats/{id}"));
        var score = new
        {
            first,
            second,
            one = Lane(60),
            other = Lane(40),
        };
        await judge.Ask(HttpMethod.Post, $"/api/heats/{id}/score", score);
        var of = (await bench.Get($"/api/heats/{id}")).GetProperty("trace")[0].GetProperty("id").GetInt64();
        await judge.Ask(HttpMethod.Post, $"/api/heats/{id}/undo", new { of });
        await bench.Post($"/api/heats/{id}/score", score);
        await judge.Ask(
            HttpMethod.Post,
            $"/api/heats/{id}/rerun",
            new
            {
                first,
                second,
                team = second,
            }
        );
        await bench.Post($"/api/heats/{id}/withdraw", new { team = second });
        bench.Restart();
        var seen = await bench.Get($"/api/heats/{id}");
        Assert.Equal(
            [
                $"{Name(seen, second)} withdrew",
                $"{Name(seen, first)} against {Name(seen, second)} is run again: {Name(seen, second)} asked for it",
                $"{Name(seen, first)} against {Name(seen, second)}: 60 points; 40 points",
                $"taken back: {Name(seen, first)} against {Name(seen, second)}: 60 points; 40 points",
                $"{Name(seen, first)} against {Name(seen, second)}: 60 points; 40 points",
            ],
            seen.GetProperty("trace").EnumerateArray().Select(t => t.GetProperty("say").GetString())
        );
        Assert.Equal(
            [false, false, false, false, true],
            seen.GetProperty("trace").EnumerateArray().Select(t => t.GetProperty("undone").GetBoolean())
        );
        Assert.Equal(2, seen.GetProperty("table").GetArrayLength());
        await bench.Post($"/api/heats/{id}/withdraw", new { team = second, back = true });
        Assert.Equal(3, (await bench.Get($"/api/heats/{id}")).GetProperty("table").GetArrayLength());
        // What something was written down of stays; what nothing was goes.
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.Send(HttpMethod.Delete, $"/api/heats/{id}", new { })).Status);
        var other = (await bench.Post($"/api/classes/{open.Id}/heats", new { challenge = Last })).GetProperty("id").GetInt64();
        Assert.Equal(HttpStatusCode.OK, (await bench.Send(HttpMethod.Delete, $"/api/heats/{other}", new { })).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Get, $"/api/heats/{other}", new { })).Status);
        // All of it is in the class's file.
        var file = JsonDocument.Parse(await bench.Http.GetStringAsync($"/api/classes/{open.Id}/export")).RootElement.GetProperty("heats");
        Assert.Equal((1, 6), (file.GetArrayLength(), file[0].GetProperty("events").GetArrayLength()));
    }

    private static string Name(JsonElement heats, int team) => heats.GetProperty("teams")[team].GetProperty("name").GetString()!;

    [Fact]
    public async Task Of_another_class_nothing_is_seen_or_scored_there_or_not()
    {
        using var bench = new Bench();
        var (_, id, judge, teams) = await Begun(bench, Crumbs, "Kelp", "Ebb");
        var second = (await bench.Post("/api/classes", new { name = "Second" })).GetProperty("id").GetInt64();
        foreach (var name in new[] { "Whelk", "Limpet" })
            await bench.Post($"/api/classes/{second}/teams", new { name });
        var foreign = (await bench.Post($"/api/classes/{second}/heats", new { challenge = Last })).GetProperty("id").GetInt64();
        foreach (var device in teams.Append(judge))
        {
            Assert.Equal(HttpStatusCode.Forbidden, (await device.Send(HttpMethod.Get, $"/api/heats?class={second}")).Status);
            foreach (var heats in new[] { foreign, 9999 })
                Assert.Equal(HttpStatusCode.Forbidden, (await device.Send(HttpMethod.Get, $"/api/heats/{heats}")).Status);
        }
        foreach (
            var (call, body) in new (string, object)[]
            {
                (
                    "score",
                    new
                    {
                        first = 1,
                        second = 0,
                        one = Lane(1),
                        other = Lane(1),
                    }
                ),
                ("undo", new { of = 1 }),
                (
                    "rerun",
                    new
                    {
                        first = 1,
                        second = 0,
                        team = 0,
                    }
                ),
            }
        )
        foreach (var heats in new[] { foreign, 9999 })
            Assert.Equal(HttpStatusCode.Forbidden, (await judge.Send(HttpMethod.Post, $"/api/heats/{heats}/{call}", body)).Status);
        // The desk says which class; without one it is asked.
        Assert.Equal(1, (await bench.Get($"/api/heats?class={second}")).GetArrayLength());
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.Send(HttpMethod.Get, "/api/heats", new { })).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Get, "/api/heats?class=99", new { })).Status);
        Assert.Equal(id, (await judge.Ask(HttpMethod.Get, "/api/heats"))[0].GetProperty("id").GetInt64());
    }

    [Theory]
    [InlineData(Crumbs)]
    [InlineData(Last)]
    public async Task Six_machines_run_a_tournament_in_seconds_and_the_chance_of_each_place_stands_there(string challenge)
    {
        using var bench = new Bench();
        var (_, id, _, teams) = await Begun(bench, challenge, "Kelp", "Ebb", "Flood", "Whelk", "Limpet", "Cockle");
        // One of them does nothing: it never falls, and never clears a crumb.
        var idle = (await bench.Get($"/api/heats/{id}")).GetProperty("teams")[5].GetProperty("rig").GetString();
        var program = await bench.Get($"/api/rigs/{idle}/program");
        await teams[5]
            .Ask(
                HttpMethod.Put,
                $"/api/rigs/{idle}/program",
                new { baseRevision = 1, script = "program Idle\n\nregion Main\n  state Waits, initial\n    after 100 s: go Waits\n" }
            );
        var watch = Stopwatch.StartNew();
        var seen = await bench.Post($"/api/heats/{id}/simulate", new { job = "heats-test" });
        output.WriteLine($"{challenge}: {seen.GetProperty("simulatedRuns").GetInt32()} runs in {watch.Elapsed.TotalSeconds:0.0} s");
        Assert.All(seen.GetProperty("teams").EnumerateArray(), t => Assert.Equal("", t.GetProperty("missing").GetString()));
        var chances = seen.GetProperty("table")
            .EnumerateArray()
            .ToDictionary(
                l => l.GetProperty("team").GetInt32(),
                l => l.GetProperty("now").EnumerateArray().Select(p => p.GetDouble()).ToArray()
            );
        for (var place = 0; place < 6; place++)
            Assert.Equal(1, chances.Values.Sum(c => c[place]), 0.01);
        Assert.All(chances.Values, c => Assert.Equal(1, c.Sum(), 0.01));
        // Five are the same machine: each has about the same of every place. The sixth is last, or first, nearly always.
        Assert.True(chances[5][challenge == Crumbs ? 5 : 0] > 0.8, string.Join(" ", chances[5]));
        for (var team = 0; team < 5; team++)
            Assert.True(Math.Abs(chances[team][2] - chances[0][2]) < 0.25, $"{team}: {chances[team][2]} and {chances[0][2]}");
        // Every heat has its odds.
        Assert.All(
            seen.GetProperty("rounds").EnumerateArray().SelectMany(r => r.GetProperty("heats").EnumerateArray()),
            h => Assert.InRange(h.GetProperty("firstWins").GetDouble() + h.GetProperty("draws").GetDouble(), 0, 1.0001)
        );
        // A result changes the chances that are now, and not those before.
        var (first, second) = Next(seen);
        object lane(bool wins) => challenge == Crumbs ? Lane(wins ? 100 : -30) : Lane(wins ? null : 0.5, falls: wins ? 0 : 1);
        await bench.Post(
            $"/api/heats/{id}/score",
            new
            {
                first,
                second,
                one = lane(second == 5),
                other = lane(first == 5),
            }
        );
        var after = await bench.Get($"/api/heats/{id}");
        JsonElement line(JsonElement heats, int team) =>
            heats.GetProperty("table").EnumerateArray().Single(l => l.GetProperty("team").GetInt32() == team);
        Assert.Equal(line(seen, first).GetProperty("before").ToString(), line(after, first).GetProperty("before").ToString());
        Assert.NotEqual(line(seen, first).GetProperty("now").ToString(), line(after, first).GetProperty("now").ToString());
        // Another rig entered: what the bench said counts no more.
        await bench.Post($"/api/heats/{id}/enter", new { team = 0, rig = (string?)null });
        Assert.Equal(JsonValueKind.Null, (await bench.Get($"/api/heats/{id}")).GetProperty("simulatedUtc").ValueKind);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/heats/{id}/enter", new { team = 0, rig = idle })).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/heats/{id}/enter", new { team = 7 })).Status);
    }

    [Fact]
    public async Task A_machine_of_another_kind_is_told_why_it_cannot_run_and_can_be_scored_all_the_same()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        await open.Team("Kelp", "deck-scrubber");
        await open.Team("Ebb", "header-tank");
        await bench.Post($"/api/classes/{open.Id}/teams", new { name = "Flood" });
        var id = (await bench.Post($"/api/classes/{open.Id}/heats", new { challenge = Crumbs })).GetProperty("id").GetInt64();
        var seen = await bench.Post($"/api/heats/{id}/simulate", new { });
        var said = seen.GetProperty("teams")
            .EnumerateArray()
            .ToDictionary(t => t.GetProperty("name").GetString()!, t => t.GetProperty("missing").GetString()!);
        Assert.Equal("", said["Kelp"]);
        Assert.Contains("There is no drive “Drive”", said["Ebb"]);
        Assert.Equal("It has no rig.", said["Flood"]);
        var (first, second) = Next(seen);
        await bench.Post(
            $"/api/heats/{id}/score",
            new
            {
                first,
                second,
                one = Lane(10),
                other = Lane(20),
            }
        );
    }

    [Fact]
    public async Task The_rig_that_the_challenge_is_about_is_entered_first_whatever_came_after_it()
    {
        using var bench = new Bench();
        var open = await OpenClass.On(bench);
        var (_, kelp, scrubber) = await open.Team("Kelp", "deck-scrubber");
        await bench.Post($"/api/classes/{open.Id}/hand-out", new { rig = "seed-trolley", teams = new[] { kelp } });
        var (_, _, trolley) = await open.Team("Ebb");
        var teams = (await bench.Post($"/api/classes/{open.Id}/heats", new { challenge = Crumbs })).GetProperty("teams");
        Assert.Equal(scrubber, teams[0].GetProperty("rig").GetString());
        Assert.Equal(2, teams[0].GetProperty("rigs").GetArrayLength());
        Assert.Equal(trolley, teams[1].GetProperty("rig").GetString());
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(17)]
    public async Task Two_to_sixteen_teams_meet(int teams)
    {
        using var bench = new Bench();
        var id = (await bench.Post("/api/classes", new { name = "Many" })).GetProperty("id").GetInt64();
        for (var i = 0; i < teams; i++)
            await bench.Post($"/api/classes/{id}/teams", new { name = $"Team {i}" });
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/classes/{id}/heats", new { challenge = Crumbs })).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost($"/api/classes/{id}/heats", new { challenge = "nothing" })).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost($"/api/classes/{id}/heats", new { })).Status);
        if (teams < 17)
            return;
        var all = (await bench.Get($"/api/classes/{id}"))
            .GetProperty("teams")
            .EnumerateArray()
            .Select(t => t.GetProperty("id").GetInt64())
            .ToArray();
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.TryPost($"/api/classes/{id}/heats", new { challenge = Crumbs, teams = new[] { all[0], all[0] } })).Status
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.TryPost($"/api/classes/{id}/heats", new { challenge = Crumbs, teams = new[] { all[0], 9999 } })).Status
        );
        var begun = await bench.Post($"/api/classes/{id}/heats", new { challenge = Crumbs, teams = all[..16] });
        Assert.Equal((15, 16), (begun.GetProperty("rounds").GetArrayLength(), begun.GetProperty("teams").GetArrayLength()));
    }

    [Fact]
    public async Task A_team_that_is_deleted_leaves_a_place_without_a_name()
    {
        using var bench = new Bench();
        var (_, id, _, _) = await Begun(bench, Crumbs, "Kelp", "Quahogs", "Flood");
        var seen = await bench.Get($"/api/heats/{id}");
        var (first, second) = Next(seen);
        await bench.Post(
            $"/api/heats/{id}/score",
            new
            {
                first,
                second,
                one = Lane(10),
                other = Lane(20),
            }
        );
        var team = (await bench.Get($"/api/classes/{seen.GetProperty("class").GetInt64()}"))
            .GetProperty("teams")
            .EnumerateArray()
            .Single(t => t.GetProperty("name").GetString() == "Quahogs")
            .GetProperty("id")
            .GetInt64();
        await bench.Send(HttpMethod.Delete, $"/api/teams/{team}", new { });
        var after = await bench.Get($"/api/heats/{id}");
        Assert.DoesNotContain("Quahogs", after.ToString());
        Assert.Contains(HeatsStore.Gone, after.ToString());
        Assert.Equal(2, after.GetProperty("table").GetArrayLength());
        foreach (var file in Directory.EnumerateFiles(bench.Folder, "chiton.db*"))
        {
            await using var read = new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
            using var all = new MemoryStream();
            await read.CopyToAsync(all);
            Assert.DoesNotContain("Quahogs", System.Text.Encoding.UTF8.GetString(all.ToArray()));
        }
    }

    [Fact]
    public async Task A_challenge_is_made_of_a_rigs_scene_changed_and_changed_only_as_it_stands()
    {
        using var bench = new Bench();
        var made = await bench.Post("/api/challenges", new { rig = "buoy-line-rover", scene = "In the shade" });
        var id = made.GetProperty("id").GetString();
        var view = await bench.Get($"/api/challenges/{id}");
        Assert.Equal("Buoy-line rover", view.GetProperty("field").GetProperty("rigName").GetString());
        Assert.Equal("time", view.GetProperty("challenge").GetProperty("by").GetString());
        Assert.Empty(view.GetProperty("field").GetProperty("trouble").EnumerateObject());
        Assert.Contains("tape of line for track", view.GetProperty("field").GetProperty("parts").ToString());
        var challenge = JsonSerializer.Deserialize<Challenge>(view.GetProperty("challenge"), Documents.Options)!;
        var kept = await bench.Send(
            HttpMethod.Put,
            $"/api/challenges/{id}",
            new { baseVersion = 1, challenge = challenge with { Reruns = 2, Rules = ["Be kind.", "  "] } }
        );
        Assert.Equal(2, kept.Body.GetProperty("version").GetInt32());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await bench.Send(HttpMethod.Put, $"/api/challenges/{id}", new { baseVersion = 1, challenge })).Status
        );
        Assert.Equal(
            ["Be kind."],
            (await bench.Get($"/api/challenges/{id}"))
                .GetProperty("challenge")
                .GetProperty("rules")
                .EnumerateArray()
                .Select(r => r.GetString())
        );
        // What is wrong is said at its field, and by looking before keeping.
        var wrong = challenge with
        {
            Touches = 99,
            Scene = "scene A\nnonsense\n",
        };
        var said = await bench.Send(HttpMethod.Put, $"/api/challenges/{id}", new { baseVersion = 2, challenge = wrong });
        Assert.Equal(HttpStatusCode.BadRequest, said.Status);
        Assert.Equal(["touches", "scene"], said.Body.GetProperty("errors").EnumerateObject().Select(e => e.Name));
        var looked = await bench.Post("/api/challenges/look", wrong);
        Assert.Equal(["touches", "scene"], looked.GetProperty("trouble").EnumerateObject().Select(e => e.Name));
        Assert.Equal(JsonValueKind.Null, looked.GetProperty("plan").ValueKind);
        // A name stands for one.
        Assert.Contains(
            "already",
            (
                await bench.Send(
                    HttpMethod.Put,
                    $"/api/challenges/{id}",
                    new { baseVersion = 2, challenge = challenge with { Name = "Crumbs Overboard" } }
                )
            ).Body.ToString()
        );
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost("/api/challenges", new { rig = "nobody" })).Status);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.TryPost("/api/challenges", new { rig = "seed-trolley", scene = "nowhere" })).Status
        );
        await bench.Send(HttpMethod.Put, $"/api/challenges/{id}/archived", new { archived = true });
        Assert.True((await bench.Get("/api/challenges")).EnumerateArray().Last().GetProperty("archived").GetBoolean());
    }

    [Fact]
    public async Task A_challenge_goes_out_and_comes_in_with_its_rig()
    {
        using var bench = new Bench();
        var text = await bench.Http.GetStringAsync($"/api/challenges/{Last}/export");
        var file = JsonDocument.Parse(text).RootElement;
        Assert.Equal("chiton-challenge", file.GetProperty("format").GetString());
        Assert.Equal("Deck scrubber", file.GetProperty("rig").GetProperty("design").GetProperty("name").GetString());
        // The same rig is no second one; the name is one of its own.
        var came = await bench.Post("/api/challenges/import", file);
        var id = came.GetProperty("id").GetString();
        Assert.Equal(
            "Last on the deck 2",
            (await bench.Get($"/api/challenges/{id}")).GetProperty("challenge").GetProperty("name").GetString()
        );
        Assert.Equal(9, (await bench.Get("/api/rigs")).GetArrayLength());
        // Where the rig is another one by now it comes beside it.
        await bench.Send(HttpMethod.Put, "/api/rigs/deck-scrubber/name", new { name = "Deck scrubber, mended" });
        var other = text.Replace("\"Last on the deck\"", "\"Last again\"", StringComparison.Ordinal);
        came = await bench.Post("/api/challenges/import", JsonDocument.Parse(other).RootElement);
        Assert.Contains("Last again came in", came.GetProperty("say").GetString());
        foreach (
            var (was, wrong) in new[]
            {
                ("chiton-challenge", "chiton-rig"),
                ("\"version\":1,\"challenge\"", "\"version\":9,\"challenge\""),
                ("deck 1000 by 700 mm", "deck of nothing"),
            }
        )
        {
            var flat = JsonSerializer.Serialize(file);
            Assert.Contains(was, flat);
            var refused = await bench.TryPost(
                "/api/challenges/import",
                JsonDocument.Parse(flat.Replace(was, wrong, StringComparison.Ordinal)).RootElement
            );
            Assert.Equal(HttpStatusCode.BadRequest, refused.Status);
        }
        Assert.Contains("A challenge of Chiton", await bench.Http.GetStringAsync("/api/challenges/schema"));
    }

    [Fact]
    public void The_demos_challenges_are_sound()
    {
        var farm = Farm.Missing(DateTime.UtcNow, new HashSet<string>()).ToDictionary(r => r.Id, r => r.Design);
        Assert.Equal(2, FarmChallenges.All.Count);
        foreach (var (id, challenge) in FarmChallenges.All)
        {
            var need = new Chiton.Core.Quantities.Require();
            ChallengeRules.Check(need, challenge.Clean(), farm[challenge.Rig]);
            need.Done();
            Assert.Equal(Documents.Write(challenge.Clean()), Documents.Write(challenge));
            Assert.NotEqual("", id);
        }
    }
}
