using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Sensing;
using Chiton.Data.Demo;
using Chiton.Server.Tests.Checking;

namespace Chiton.Server.Tests.Parts;

public class CheckTests
{
    private static async Task<JsonElement[]> Findings(HttpClient client, string rig, string query = "") =>
        [.. (await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/findings{query}")).EnumerateArray()];

    private static string Key(JsonElement finding) => Uri.EscapeDataString(finding.GetProperty("key").GetString()!);

    private static Task<HttpResponseMessage> Silence(HttpClient client, string rig, JsonElement finding, string reason, int? copy = null) =>
        client.PostAsJsonAsync($"/api/rigs/{rig}/findings/{Key(finding)}/silence", new { reason, copy });

    private static async Task<string> Plate(HttpClient client, string rig, int copy = 1) =>
        (await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}?copy={copy}"))
            .GetProperty("plates")
            .EnumerateArray()
            .First(p => p.GetProperty("part").GetString() == "check")
            .GetProperty("line")
            .GetString()!;

    [Fact]
    public async Task What_is_set_aside_is_quiet_everywhere_on_its_copy_until_its_figures_change()
    {
        using var bench = new Bench();
        var client = bench.Http;
        var rig = SeedTrolley.Id;
        var before = await Findings(client, rig);
        var twice = before.Single(f => f.GetProperty("headline").GetString() == "One bed tag can be counted twice");
        Assert.Equal("2 to settle", await Plate(client, rig));
        Assert.Equal(HttpStatusCode.BadRequest, (await Silence(client, rig, twice, "  ")).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await Silence(client, rig, twice, new string('x', 301))).StatusCode);
        Assert.Equal("2 to settle", await Plate(client, rig));

        var kept = await (await Silence(client, rig, twice, " looked at by hand ")).Content.ReadFromJsonAsync<JsonElement>();
        Assert.Equal("looked at by hand", kept.GetProperty("silenced").GetString());
        Assert.Equal("1 to settle", await Plate(client, rig));
        var program = await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/program");
        Assert.DoesNotContain(
            program.GetProperty("findings").EnumerateArray(),
            f => f.GetProperty("key").GetString() == twice.GetProperty("key").GetString()
        );
        // It is still listed, no revision was made, and another copy keeps its own counsel.
        Assert.Equal(before.Length, (await Findings(client, rig)).Length);
        Assert.Equal(2, program.GetProperty("revision").GetInt32());
        Assert.All(await Findings(client, rig, "?copy=2"), f => Assert.Equal(JsonValueKind.Null, f.GetProperty("silenced").ValueKind));

        // A comment above moves its line and changes nothing of what it says.
        var script = program.GetProperty("script").GetString()!;
        await Save(client, rig, script.Replace("\nregion Main", "\n# A word more.\n\nregion Main", StringComparison.Ordinal), 2);
        Assert.Equal("1 to settle", await Plate(client, rig));
        // Slower it rolls over more readings: what was set aside speaks again, and remembers.
        await Save(client, rig, script.Replace("cruise = 60 %", "cruise = 50 %", StringComparison.Ordinal), 3);
        // What was kept is kept: also when the server is started anew.
        bench.Restart();
        client = bench.Http;
        var again = (await Findings(client, rig)).Single(f => f.GetProperty("key").GetString() == twice.GetProperty("key").GetString());
        Assert.Equal(JsonValueKind.Null, again.GetProperty("silenced").ValueKind);
        Assert.Equal("looked at by hand", again.GetProperty("before").GetString());
        var shown = await client.DeleteAsync($"/api/rigs/{rig}/findings/{Key(again)}/silence");
        Assert.Equal(JsonValueKind.Null, (await shown.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("before").ValueKind);
        Assert.Equal(HttpStatusCode.NotFound, (await client.DeleteAsync($"/api/rigs/{rig}/findings/nothing~0/silence")).StatusCode);
    }

    private static async Task Save(HttpClient client, string rig, string script, int baseRevision)
    {
        var saved = await client.PutAsJsonAsync($"/api/rigs/{rig}/program", new { baseRevision, script });
        Assert.True(saved.IsSuccessStatusCode, await saved.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Every_program_that_runs_is_looked_at_and_a_faulty_one_says_so()
    {
        using var bench = new Bench();
        var client = bench.Http;
        // Its lead, and that a press while it is busy is lost.
        var found = await Findings(client, "lock-keeper");
        Assert.Equal(["wiring-level", "late-check", "late-check"], found.Select(f => f.GetProperty("code").GetString()!));
        Assert.Equal(["Boat button", "Boat button", "Keeper button"], found.Select(f => f.GetProperty("device").GetString()!));
        // A message that the other one does not wait for is found in the program that tells it.
        var program = await client.GetFromJsonAsync<JsonElement>("/api/rigs/lock-keeper/program");
        var script = program.GetProperty("script").GetString()!;
        await Save(client, "lock-keeper", script.Replace("tell Sea side \"open\"", "tell Sea side \"Open\"", StringComparison.Ordinal), 1);
        var now = await Findings(client, "lock-keeper");
        var unheard = now.First(f => f.GetProperty("code").GetString() == "unheard");
        Assert.Equal(0, unheard.GetProperty("program").GetInt32());
        Assert.Contains("it waits for “open”", unheard.GetProperty("say").GetString());
        Assert.Contains(now, f => f.GetProperty("code").GetString() == "waits-forever" && f.GetProperty("program").GetInt32() == 1);
        await Save(client, "lock-keeper", script + "\nnonsense\n", 2);
        Assert.Empty(await Findings(client, "lock-keeper"));
        var looked = await client.GetFromJsonAsync<JsonElement>("/api/rigs/lock-keeper/findings/looked");
        Assert.DoesNotContain(looked.EnumerateArray(), l => l.GetProperty("state").GetString() is "nothing" or "found");
    }

    // Three rings of forty states, each on its own time: more than one waits for after an edit.
    private static string Rings =>
        "program Seed trolley\n\n"
        + string.Join(
            '\n',
            Enumerable
                .Range(1, 3)
                .Select(r =>
                    $"region Ring {r}\n"
                    + string.Concat(
                        Enumerable
                            .Range(0, 40)
                            .Select(s =>
                                $"  state Ring {r} at {s}{(s == 0 ? ", initial" : "")}\n    after {1 + r * 0.3} s: go Ring {r} at "
                                + $"{(s + 1) % 40}\n"
                            )
                    )
                )
        );

    private static Task<JsonElement> Exploration(HttpClient client) =>
        client.GetFromJsonAsync<JsonElement>($"/api/rigs/{SeedTrolley.Id}/exploration");

    private static (long States, bool Complete, bool MayGoOn, bool Running) Far(JsonElement view)
    {
        var far = view.GetProperty("far");
        return (
            far.GetProperty("states").GetInt64(),
            far.GetProperty("complete").GetBoolean(),
            far.GetProperty("mayGoOn").GetBoolean(),
            view.GetProperty("running").GetBoolean()
        );
    }

    [Fact]
    public async Task What_was_not_gone_through_to_the_end_says_so_goes_deeper_and_is_stopped()
    {
        using var bench = new Bench();
        var client = bench.Http;
        var small = Far(await Exploration(client));
        Assert.Equal((true, false, false), (small.Complete, small.MayGoOn, small.Running));

        await Save(client, SeedTrolley.Id, Rings, 2);
        var before = Far(await Exploration(client));
        Assert.Equal((false, true, false), (before.Complete, before.MayGoOn, before.Running));
        async Task<JsonElement> Looked(string code) =>
            (await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{SeedTrolley.Id}/findings/looked"))
                .EnumerateArray()
                .Single(l => l.GetProperty("code").GetString() == code);
        var never = await Looked("never-reached");
        Assert.Equal("notYet", never.GetProperty("state").GetString());
        Assert.StartsWith("Not looked at to the end", never.GetProperty("why").GetString());

        var began = await client.PostAsJsonAsync($"/api/rigs/{SeedTrolley.Id}/exploration", new { copy = 1 });
        Assert.True(began.IsSuccessStatusCode, await began.Content.ReadAsStringAsync());
        // A second press goes on with the same.
        Assert.True((await client.PostAsJsonAsync($"/api/rigs/{SeedTrolley.Id}/exploration", new { copy = 1 })).IsSuccessStatusCode);
        var deeper = Far(await Exploration(client));
        while (deeper.Running && deeper.States <= before.States)
        {
            await Task.Delay(50);
            deeper = Far(await Exploration(client));
        }
        Assert.True(deeper.States > before.States);
        Assert.True((await client.DeleteAsync($"/api/rigs/{SeedTrolley.Id}/exploration")).IsSuccessStatusCode);
        var stopped = Far(await Exploration(client));
        while (stopped.Running)
        {
            await Task.Delay(50);
            stopped = Far(await Exploration(client));
        }
        // What was found so far stays, and the checks say what was found by then.
        Assert.True(stopped.States >= deeper.States);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync($"/api/rigs/{SeedTrolley.Id}/findings")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/rigs/no-such-rig/exploration")).StatusCode);

        // Where a program cannot be read there is nothing to go through.
        await Save(client, SeedTrolley.Id, "program Seed trolley\n\nregion Main\n  state A, initial\n    when nonsense\n", 3);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await client.PostAsJsonAsync($"/api/rigs/{SeedTrolley.Id}/exploration", new { })).StatusCode
        );
        Assert.Equal(0, Far(await Exploration(client)).States);
    }

    [Fact]
    public async Task A_never_that_can_come_true_carries_the_walk_that_leads_there()
    {
        using var bench = new Bench();
        var client = bench.Http;
        await Save(
            client,
            SeedTrolley.Id,
            "program Seed trolley\n\nnever: Flap is in Open and Cart is in Rolling\n\nregion Cart\n  state Standing, initial\n    "
                + "when Tag eye becomes bed "
                + "tag: go Rolling\n\n  state Rolling\n    while here: run Trolley at 40 %\n    when Tag eye becomes sleepers: go "
                + "Standing\n\nregion "
                + "Flap\n  state Shut, initial\n    after 2 s: go Open\n\n  state Open\n    after 1 s: go Shut\n",
            2
        );
        var found = (await Findings(client, SeedTrolley.Id)).Single(f => f.GetProperty("code").GetString() == "interlock");
        Assert.Equal("stops", found.GetProperty("severity").GetString());
        var steps = found.GetProperty("walk").EnumerateArray().ToArray();
        var walked = await client.PostAsJsonAsync(
            "/api/walk",
            new
            {
                format = "script",
                source = (await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{SeedTrolley.Id}/program"))
                    .GetProperty("script")
                    .GetString(),
                rigId = SeedTrolley.Id,
                events = steps.Select(s => new
                {
                    name = s.GetProperty("event").GetString(),
                    afterMs = s.GetProperty("afterMs").GetDouble(),
                }),
            }
        );
        var last = (await walked.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("moments").EnumerateArray().Last();
        Assert.Equal(["Cart.Rolling", "Flap.Open"], last.GetProperty("states").EnumerateArray().Select(s => s.GetString()!));
    }

    [Fact]
    public async Task Every_rig_and_copy_is_held_against_the_others_by_code()
    {
        using var bench = new Bench();
        var client = bench.Http;
        async Task<(string[] Columns, Dictionary<string, int[]> Counts)> Table(string query)
        {
            var table = await client.GetFromJsonAsync<JsonElement>($"/api/findings/table{query}");
            return (
                [
                    .. table
                        .GetProperty("columns")
                        .EnumerateArray()
                        .Select(c => $"{c.GetProperty("rig").GetString()} {c.GetProperty("copy").GetInt32()}"),
                ],
                table
                    .GetProperty("rows")
                    .EnumerateArray()
                    .ToDictionary(
                        r => r.GetProperty("code").GetString()!,
                        r => r.GetProperty("cells").EnumerateArray().Select(c => c.GetProperty("count").GetInt32()).ToArray()
                    )
            );
        }
        var all = await Table("");
        Assert.Contains("lock-keeper 1", all.Columns);
        Assert.All(all.Counts.Values, c => Assert.Equal(all.Columns.Length, c.Length));
        // What nothing has stands nowhere, and every number is what the copy's own page says.
        Assert.All(all.Counts.Values, c => Assert.True(c.Sum() > 0));
        var one = await Table($"?rigs={SeedTrolley.Id}");
        Assert.All(one.Columns, c => Assert.StartsWith(SeedTrolley.Id, c));
        for (var i = 0; i < one.Columns.Length; i++)
        {
            var own = (await Findings(client, SeedTrolley.Id, $"?copy={one.Columns[i].Split(' ')[1]}"))
                .Where(f => f.GetProperty("severity").GetString() != "holds" && f.GetProperty("because").ValueKind == JsonValueKind.Null)
                .ToLookup(f => f.GetProperty("code").GetString()!);
            Assert.All(one.Counts, r => Assert.Equal(own[r.Key].Count(), r.Value[i]));
        }
        // What was set aside on one copy is quiet in its column alone.
        var twice = (await Findings(client, SeedTrolley.Id)).First(f => f.GetProperty("code").GetString() == "marker-rest");
        await Silence(client, SeedTrolley.Id, twice, "looked at by hand");
        var after = await Table($"?rigs={SeedTrolley.Id}");
        Assert.Equal(one.Counts["marker-rest"][0] - 1, after.Counts.GetValueOrDefault("marker-rest", [0])[0]);
        Assert.Equal(HttpStatusCode.BadRequest, (await client.GetAsync("/api/findings/table?rigs=no-such-rig")).StatusCode);
    }

    [Fact]
    public async Task A_sensor_of_another_controller_never_comes_and_says_so()
    {
        using var bench = new Bench();
        var client = bench.Http;
        const string rig = "lock-keeper";
        var script = (await client.GetFromJsonAsync<JsonElement>($"/api/rigs/{rig}/program?program=0")).GetProperty("script").GetString()!;
        Assert.DoesNotContain(await Findings(client, rig), f => f.GetProperty("code").GetString() == "wrong-controller");
        // The switch at the end of a gate is wired to the box of that gate.
        await Save(
            client,
            rig,
            script.Replace(
                "when told \"is shut\" from Sea side: go Idle",
                "when Sea gate shut is down: go Idle\n    when told \"is shut\" from Sea side: go Idle",
                StringComparison.Ordinal
            ),
            1
        );
        var found = (await Findings(client, rig)).Single(f => f.GetProperty("code").GetString() == "wrong-controller");
        Assert.Equal("stops", found.GetProperty("severity").GetString());
        Assert.Equal("Sea gate shut is not on Keeper board", found.GetProperty("headline").GetString());
    }

    /// <summary>The rigs of the farm.</summary>
    public static TheoryData<string> Rigs => [.. Farm.All(DateTime.UnixEpoch).Select(r => r.Id)];

    [Theory]
    [MemberData(nameof(Rigs))]
    public void The_mended_programs_of_the_farm_raise_nothing_above_advice(string id)
    {
        var sound = Mutants.Mended(id);
        // With what the bench says of them: that is what one sees once it has run.
        var look = Mutants.Look(sound, sound.Copy.Rig, 200);
        Assert.NotNull(look);
        var report = look.Value;
        // Two leads of the farm are planted wrong in the wiring itself: those are the rig's, and no program mends them.
        Assert.Empty(
            report
                .Findings.Where(f =>
                    f.Severity is Severity.Stops or Severity.Risky && !f.Code.StartsWith("wiring-", StringComparison.Ordinal)
                )
                .Select(f => $"{f.Code} {f.Owner} {f.Headline}")
        );
    }
}
