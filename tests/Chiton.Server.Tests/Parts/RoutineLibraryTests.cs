using System.Text.Json.Nodes;

namespace Chiton.Server.Tests.Parts;

public class RoutineLibraryTests
{
    private const string Hoist = "/api/rigs/rack-hoist";

    private const string Script =
        "program Rack hoist\n\nregion Main\n  state Idle, initial\n    on entry: do Find notch (2)\n    when all done: go End\n\n  "
        + "state End, final\n\n# Up to a notch.\nroutine Find notch (most)\n  state Up, initial\n    while here: run Mast up at 30 %\n"
        + "    when Shelf eye becomes notch: go Over\n\n  state Over, final\n";

    private static string Errors(JsonElement body) =>
        string.Join(
            " ",
            body.GetProperty("errors").EnumerateObject().SelectMany(e => e.Value.EnumerateArray().Select(v => $"{e.Name}: {v.GetString()}"))
        );

    private static async Task<Bench> WithRoutine()
    {
        var bench = new Bench();
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            Hoist + "/program",
            new { baseRevision = (await bench.Get(Hoist)).GetProperty("revision").GetInt32(), script = Script }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        return bench;
    }

    [Fact]
    public async Task A_routine_is_kept_survives_a_restart_is_used_in_another_rig_and_forgotten()
    {
        using var bench = await WithRoutine();
        var kept = await bench.Post(Hoist + "/routines", new { routine = "Find notch", note = "Goes up to a notch." });
        Assert.Equal(["Mast", "up", "Shelf eye", "notch"], kept.GetProperty("needs").EnumerateArray().Select(n => n.GetString()));
        bench.Restart();
        Assert.Equal("Rack hoist", Assert.Single((await bench.Get("/api/routines")).EnumerateArray()).GetProperty("from").GetString());
        var first = (await bench.Get(Hoist + "/patterns?copy=1"))[0];
        Assert.Equal(
            ("Find notch", true, "Goes up to a notch."),
            (first.GetProperty("name").GetString(), first.GetProperty("routine").GetBoolean(), first.GetProperty("when").GetString())
        );
        // The same names fill it where they are found; a rig without them says what it lacks.
        Assert.Equal(
            ["Mast", "up", "Shelf eye", "notch"],
            first.GetProperty("holes").EnumerateArray().Select(h => h.GetProperty("value").GetString())
        );
        var elsewhere = (await bench.Get("/api/rigs/seed-trolley/patterns?copy=1"))[0];
        Assert.Contains("nothing of that kind", elsewhere.GetProperty("holes")[0].GetProperty("missing").GetString());
        var values = first
            .GetProperty("holes")
            .EnumerateArray()
            .ToDictionary(h => h.GetProperty("id").GetString()!, h => h.GetProperty("value").GetString()!);
        var filled = await bench.Post($"{Hoist}/patterns/{first.GetProperty("id").GetString()}", new { values });
        Assert.Empty(filled.GetProperty("diagnostics").EnumerateArray());
        Assert.Contains(
            "routine Find notch 2 (most)\n  state Up, initial\n    while here: run Mast up at 30 %",
            filled.GetProperty("script").GetString()
        );
        Assert.Equal(HttpStatusCode.NoContent, (await bench.Send(HttpMethod.Delete, "/api/routines/Find%20notch", new { })).Status);
        Assert.Empty((await bench.Get("/api/routines")).EnumerateArray());
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Delete, "/api/routines/Find%20notch", new { })).Status);
    }

    [Fact]
    public async Task One_of_the_same_name_takes_the_place_only_when_told_to()
    {
        using var bench = await WithRoutine();
        await bench.Post(Hoist + "/routines", new { routine = "Find notch", note = "one" });
        var (status, body) = await bench.TryPost(Hoist + "/routines", new { routine = "Find notch", note = "two" });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.StartsWith("replace: The library already has a routine “Find notch”, kept from Rack hoist.", Errors(body));
        await bench.Post(
            Hoist + "/routines",
            new
            {
                routine = "Find notch",
                note = "two",
                replace = true,
            }
        );
        Assert.Equal("two", Assert.Single((await bench.Get("/api/routines")).EnumerateArray()).GetProperty("note").GetString());
        Assert.Contains(
            "routine: There is no routine “Dance”.",
            Errors((await bench.TryPost(Hoist + "/routines", new { routine = "Dance" })).Body)
        );
        Assert.Contains(
            "note: A note has at most 300",
            Errors((await bench.TryPost(Hoist + "/routines", new { routine = "Find notch", note = new string('x', 400) })).Body)
        );
    }

    [Fact]
    public async Task A_kept_routine_travels_with_the_rig_that_has_it()
    {
        using var bench = await WithRoutine();
        await bench.Post(Hoist + "/routines", new { routine = "Find notch", note = "kept" });
        Assert.False(
            (await bench.Get("/api/rigs/seed-trolley/export")).TryGetProperty("routines", out var none)
                && none.ValueKind == JsonValueKind.Array
        );
        var file = JsonNode.Parse((await bench.Get(Hoist + "/export")).GetRawText())!;
        Assert.Equal("Find notch", file["routines"]![0]!["name"]!.GetValue<string>());
        await bench.Send(HttpMethod.Delete, "/api/routines/Find%20notch", new { });
        await bench.Post("/api/rigs", file);
        Assert.Equal("kept", Assert.Single((await bench.Get("/api/routines")).EnumerateArray()).GetProperty("note").GetString());
        // One that is there already stays as it is.
        file["routines"]![0]!["note"] = "another";
        await bench.Post("/api/rigs", file);
        Assert.Equal("kept", Assert.Single((await bench.Get("/api/routines")).EnumerateArray()).GetProperty("note").GetString());
        file["routines"]![0]!["body"] = "";
        Assert.Contains("routines[0].body", Errors((await bench.TryPost("/api/rigs", file)).Body));
        file["routines"]![0] = null;
        Assert.Contains("routines[0]", Errors((await bench.TryPost("/api/rigs", file)).Body));
    }
}
