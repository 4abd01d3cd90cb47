using System.Text;

namespace Chiton.Server.Tests.Parts;

/// <summary>Lines and states are edited on the server's tree, and the answer says what there is to know.</summary>
public class ProgramEditTests
{
    private const string Watch =
        "program T\n\nregion Main\n  state Rolling, initial\n    after 1.5 s: go Resting\n\n  state Resting\n    after 2 s: go "
        + "Rolling\n\nregion Watch\n  state Dark, initial\n    when Main is in Rolling: go Lit\n\n  state Lit\n    when Main is "
        + "in Resting: go Dark\n";

    private static int At(string script, string text) => Array.FindIndex(script.Split('\n'), l => l.Trim() == text) + 1;

    private static Task<(HttpStatusCode Status, JsonElement Body)> Edit(
        Bench bench,
        int baseRevision,
        string act,
        int line,
        string? text = null,
        bool instead = false
    ) =>
        bench.TryPost(
            Bench.Rig + "/program/edit",
            new
            {
                baseRevision,
                act,
                line,
                text,
                instead,
            }
        );

    private static string ScriptOf(JsonElement body) => body.GetProperty("program").GetProperty("script").GetString()!;

    [Fact]
    public async Task An_edit_answers_with_the_new_text_the_cursor_and_what_is_wrong()
    {
        using var bench = new Bench();
        var revision = await bench.Save(Watch);
        var (status, body) = await Edit(bench, revision, "set", At(Watch, "state Rolling, initial"), "state Under way, initial");
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        Assert.Equal(Watch.Replace("Rolling", "Under way"), ScriptOf(body));
        Assert.Equal(At(Watch, "state Rolling, initial"), body.GetProperty("line").GetInt32());
        Assert.Equal(revision + 1, body.GetProperty("revision").GetInt32());
        Assert.Equal(ScriptOf(body), await bench.Script());
        // A whole text that is kept is an edit like any other: what speaks of the old name is told that it is gone.
        await bench.Save(ScriptOf(body).Replace("state Under way, initial", "state Moving, initial"));
        Assert.NotEmpty((await bench.Get(Bench.Rig + "/program")).GetProperty("diagnostics").EnumerateArray());
        (status, body) = await Edit(bench, revision + 2, "takeOut", 7);
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.DoesNotContain("state Resting", ScriptOf(body));
        Assert.NotEmpty(body.GetProperty("program").GetProperty("diagnostics").EnumerateArray());
        // Undo takes back one edit.
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Contains("state Resting", await bench.Script());
    }

    [Fact]
    public async Task A_line_is_followed_through_anothers_edit_and_never_overwrites_it_unasked()
    {
        using var bench = new Bench();
        var revision = await bench.Save(Watch);
        var line = At(Watch, "after 2 s: go Rolling");
        Assert.Equal(
            HttpStatusCode.OK,
            (await Edit(bench, revision, "add", At(Watch, "state Rolling, initial"), "after 9 s: stay")).Status
        );
        var (status, body) = await Edit(bench, revision, "set", line, "after 3 s: go Rolling");
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Contains("    after 9 s: stay\n", ScriptOf(body));
        Assert.Contains("    after 3 s: go Rolling\n", ScriptOf(body));
        Assert.Equal(line + 1, body.GetProperty("line").GetInt32());
        // The line is another one now: both are told of it, and nothing is written.
        (status, body) = await Edit(bench, revision, "set", line, "after 4 s: go Rolling");
        Assert.Equal(HttpStatusCode.Conflict, status);
        Assert.Contains("after 3 s: go Rolling", await bench.Script());
        (status, body) = await Edit(bench, revision, "set", line, "after 4 s: go Rolling", instead: true);
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(Watch.Replace("after 2 s", "after 4 s"), ScriptOf(body));
    }

    [Theory]
    [InlineData("up", 4, null, "line|first|act")]
    [InlineData("up", 0, null, "line 0")]
    [InlineData("in", 4, null, "no state above")]
    [InlineData("set", 4, null, "Say what stands")]
    [InlineData("add", 4, "a\nb", "more than one line")]
    [InlineData("add", 999, "x", "no line 999")]
    [InlineData("fly", 4, null, "act")]
    [InlineData(null, 4, null, "Say what is done")]
    [InlineData("copy", 3, null, "Only lines and states")]
    public async Task What_cannot_be_done_is_said_and_leaves_everything_as_it_was(string? act, int line, string? text, string said)
    {
        using var bench = new Bench();
        var revision = await bench.Save(Watch);
        var (status, body) = await bench.TryPost(
            Bench.Rig + "/program/edit",
            new
            {
                baseRevision = revision,
                act,
                line,
                text,
            }
        );
        Assert.True(status == HttpStatusCode.BadRequest, $"{status} {body}");
        Assert.Contains(said.Split('|'), s => body.ToString().Contains(s, StringComparison.Ordinal));
        Assert.Equal(Watch, await bench.Script());
        Assert.Equal(revision, await bench.Revision());
    }

    [Fact]
    public async Task A_line_that_is_typed_is_completed_and_corrected_in_its_own_columns()
    {
        using var bench = new Bench();
        var revision = await bench.Save(Watch);
        Task<JsonElement> Type(string act, int line, string text, int? column = null) =>
            bench.Post(
                Bench.Rig + "/program/diagnose",
                new
                {
                    column = column ?? text.Length,
                    typing = new
                    {
                        baseRevision = revision,
                        act,
                        line,
                        text,
                    },
                }
            );
        var said = await Type("set", At(Watch, "after 2 s: go Rolling"), "after 2 s: go Ro");
        Assert.Equal(
            (14, "Rolling"),
            (
                said.GetProperty("completions")[0].GetProperty("start").GetInt32(),
                said.GetProperty("completions")[0].GetProperty("text").GetString()
            )
        );
        Assert.Equal(15, Assert.Single(said.GetProperty("diagnostics").EnumerateArray()).GetProperty("column").GetInt32());
        // What is wrong elsewhere is not this line's.
        said = await Type("set", At(Watch, "state Rolling, initial"), "state Going, initial");
        Assert.Empty(said.GetProperty("diagnostics").EnumerateArray());
        said = await Type("addInside", At(Watch, "state Resting"), "stat");
        Assert.Contains(said.GetProperty("completions").EnumerateArray(), c => c.GetProperty("text").GetString() == "state");
        Assert.Equal(Watch, await bench.Script());
    }

    [Theory]
    [InlineData(50, 45)]
    [InlineData(200, 150)]
    [InlineData(1000, 800)]
    public async Task A_long_program_is_soon_there(int states, int most)
    {
        using var bench = new Bench();
        var text = new StringBuilder("program Long\n\nvar beds = 0\n\nregion Main\n");
        for (var i = 1; i <= states; i++)
            text.Append(
                    $"  state State {i}{(i == 1 ? ", initial" : "")}\n    on entry: set beds to beds + {i}\n    while here: run "
                        + $"Trolley at {10 + i % 50} %\n"
                )
                .Append(
                    $"    when Tag eye becomes tag for 3 readings: go State {i % states + 1}\n    after {i} s if beds > 3: set beds "
                        + $"to 0; go State {(i + 6) % states + 1}\n\n"
                );
        await bench.Save(text.ToString());
        var answer = await bench.Http.GetByteArrayAsync(Bench.Rig + "/program", TestContext.Current.CancellationToken);
        Assert.InRange(answer.Length, 1000, most * 1000);
        var program = JsonDocument.Parse(answer).RootElement;
        Assert.Equal(states + 1, program.GetProperty("blocks").GetArrayLength());
        // Every sentence is whole, and its pieces are where they say.
        var line = Bench.Lines(program).Last();
        Assert.Equal($"after {states} s if beds > 3: set beds to 0; go State {(states + 6) % states + 1}", Bench.TextOf(program, line));
        var pieces = line.GetProperty("pieces").EnumerateArray().Select(p => p.GetInt32()).ToArray();
        Assert.Equal($"State {(states + 6) % states + 1}", Bench.TextOf(program, line).Substring(pieces[^3], pieces[^2]));
        Assert.Equal("target", program.GetProperty("kinds")[pieces[^1]].GetProperty("kind").GetString());
    }

    [Theory]
    [InlineData("go Backing", "{\"kind\":\"state\",\"name\":\"Backing\",\"of\":null}", "Make the state Backing")]
    [InlineData("set tides to 3; stay", "{\"kind\":\"variable\",\"name\":\"tides\",\"of\":null}", "Make the variable tides")]
    public async Task What_a_typed_line_names_is_made_and_the_line_can_be_kept(string doing, string name, string label)
    {
        using var bench = new Bench();
        const string rig = "/api/rigs/seed-trolley";
        var revision = (await bench.Get(rig)).GetProperty("revision").GetInt32();
        var script = (await bench.Get(rig + "/program")).GetProperty("script").GetString()!;
        var state = script.Split('\n').ToList().FindIndex(l => l.TrimStart().StartsWith("state ", StringComparison.Ordinal)) + 1;
        object Typing(int on, int line) =>
            new
            {
                offers = true,
                typing = new
                {
                    baseRevision = on,
                    act = "add",
                    line,
                    text = $"after 90 s: {doing}",
                },
            };
        var said = await bench.Post(rig + "/program/diagnose", Typing(revision, state));
        Assert.Equal(label, said.GetProperty("make").GetProperty("label").GetString());
        Assert.Equal(name, said.GetProperty("make").GetProperty("name").GetRawText());
        var made = await bench.Post(
            rig + "/program/make",
            new
            {
                baseRevision = revision,
                name = said.GetProperty("make").GetProperty("name"),
                line = state,
            }
        );
        var now = made.GetProperty("revision").GetInt32();
        Assert.Equal(revision + 1, now);
        var lines = (await bench.Get(rig + "/program")).GetProperty("script").GetString()!.Split('\n').ToList();
        var at = lines.IndexOf(script.Split('\n')[state - 1]) + 1;
        said = await bench.Post(rig + "/program/diagnose", Typing(now, at));
        Assert.Empty(said.GetProperty("diagnostics").EnumerateArray());
        Assert.False(said.TryGetProperty("make", out var make) && make.ValueKind == JsonValueKind.Object);
        // Nonsense is refused with its field.
        foreach (
            var bad in (object?[])
                [
                    null,
                    new { kind = "region", name = "Other" },
                    new
                    {
                        kind = "zone",
                        name = "mud",
                        of = "Nose",
                    },
                ]
        )
        {
            var (status, body) = await bench.TryPost(rig + "/program/make", new { baseRevision = now, name = bad });
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Matches("\"(name|of)\"", body.GetProperty("errors").ToString());
        }
    }

    [Theory]
    [InlineData("{\"kind\":\"zone\",\"name\":\"wet tag\",\"of\":\"Tag eye\"}", "sensors", "zones", "wet tag")]
    public async Task A_zone_is_made_in_the_rig(string name, string list, string names, string made)
    {
        using var bench = new Bench();
        const string rig = "/api/rigs/seed-trolley";
        var revision = (await bench.Get(rig)).GetProperty("revision").GetInt32();
        await bench.Post(rig + "/program/make", new { baseRevision = revision, name = JsonSerializer.Deserialize<JsonElement>(name) });
        var design = (await bench.Get(rig + "/design")).GetProperty("design");
        Assert.Contains(
            design.GetProperty(list).EnumerateArray(),
            s => s.GetProperty(names).EnumerateArray().Any(z => z.GetString() == made)
        );
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await bench.TryPost(
                    rig + "/program/make",
                    new { baseRevision = revision, name = JsonSerializer.Deserialize<JsonElement>(name) }
                )
            ).Status
        );
    }

    [Fact]
    public async Task A_program_from_before_says_once_what_it_does_otherwise()
    {
        using var bench = new Bench();
        // A file from before says nothing of what its sentences meant.
        var file = System.Text.Json.Nodes.JsonNode.Parse((await bench.Get("/api/rigs/seed-trolley/export")).GetRawText())!;
        var text = file["design"]!["programs"]![0]!.AsObject();
        Assert.Equal(2, text["meaning"]!.GetValue<int>());
        text.Remove("meaning");
        text["script"] = text["script"]!.GetValue<string>().Replace("becomes bed tag", "becomes bed tag for 3 readings");
        file["design"]!["name"] = "Old trolley";
        var rig = "/api/rigs/" + (await bench.Post("/api/rigs", file)).GetProperty("id").GetString();
        var program = await bench.Get(rig + "/program");
        var changed = Assert.Single(program.GetProperty("changed").EnumerateArray());
        Assert.Contains("Readings are counted", changed.GetProperty("say").GetString());
        Assert.Contains(
            "for 3 readings",
            program.GetProperty("script").GetString()!.Split('\n')[changed.GetProperty("line").GetInt32() - 1]
        );
        // The demo was written since; reading it, or editing it, settles it.
        Assert.Empty((await bench.Get("/api/rigs/seed-trolley/program")).GetProperty("changed").EnumerateArray());
        await bench.Post(rig + "/programs/0/read", new { baseRevision = 2 });
        Assert.Empty((await bench.Get(rig + "/program")).GetProperty("changed").EnumerateArray());
        await bench.Post(rig + "/undo", new { });
        Assert.Single((await bench.Get(rig + "/program")).GetProperty("changed").EnumerateArray());
        var now = (await bench.Get(rig)).GetProperty("revision").GetInt32();
        await bench.Post(
            rig + "/program/edit",
            new
            {
                baseRevision = now,
                act = "addState",
                line = 0,
                text = "state Spare",
            }
        );
        Assert.Empty((await bench.Get(rig + "/program")).GetProperty("changed").EnumerateArray());
    }
}
