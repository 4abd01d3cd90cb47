namespace Chiton.Server.Tests.Parts;

public class ProgramListTests
{
    private const string Hoist = "/api/rigs/rack-hoist",
        Lock = "/api/rigs/lock-keeper";

    private static async Task<int> Revision(Bench bench, string rig) => (await bench.Get(rig)).GetProperty("revision").GetInt32();

    private static string Errors(JsonElement body) =>
        string.Join(
            " ",
            body.GetProperty("errors").EnumerateObject().SelectMany(e => e.Value.EnumerateArray().Select(v => $"{e.Name}: {v.GetString()}"))
        );

    private static IEnumerable<(string Name, string Place, bool Runs)> Programs(JsonElement program) =>
        program
            .GetProperty("programs")
            .EnumerateArray()
            .Select(p =>
                (
                    p.GetProperty("name").GetString()!,
                    p.GetProperty("onHost").GetBoolean() ? "host" : p.GetProperty("place").GetString() ?? "",
                    p.GetProperty("runs").GetBoolean()
                )
            );

    [Fact]
    public async Task A_program_is_added_stored_run_edited_and_taken_out()
    {
        using var bench = new Bench();
        var revision = await Revision(bench, Hoist);
        await bench.Post(Hoist + "/programs", new { baseRevision = revision, name = "Night watch" });
        var program = await bench.Get(Hoist + "/program");
        // The one that ran goes on; the new one waits beside it.
        Assert.Equal([("Rack hoist", "Shed box", true), ("Night watch", "Shed box", false)], Programs(program));
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            Hoist + "/program",
            new
            {
                baseRevision = revision + 1,
                program = 1,
                script = "program Night watch\nregion Main\n  state Idle, initial\n    when Order knob is tapped: go Done\n  state "
                    + "Done, final\n",
            }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        (status, body) = await bench.Send(
            HttpMethod.Put,
            Hoist + "/programs/1",
            new
            {
                baseRevision = revision + 2,
                runsOn = "Shed box",
                onHost = false,
                runs = true,
            }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        Assert.Equal("let Night watch run on Shed box", body.GetProperty("what").GetString());
        Assert.Equal([false, true], Programs(await bench.Get(Hoist + "/program")).Select(p => p.Runs));
        Assert.Equal(
            2,
            (await bench.Get(Hoist + "/program?program=1"))
                .GetProperty("blocks")
                .EnumerateArray()
                .Count(b => b.GetProperty("owner").GetString() != "")
        );
        // On a host it commands the controllers, whose own programs are stored then.
        (status, body) = await bench.Send(
            HttpMethod.Put,
            Hoist + "/programs/0",
            new
            {
                baseRevision = revision + 3,
                runsOn = (string?)null,
                onHost = true,
                runs = true,
            }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        Assert.Equal([("Rack hoist", "host", true), ("Night watch", "Shed box", false)], Programs(await bench.Get(Hoist + "/program")));
        (status, body) = await bench.Send(HttpMethod.Delete, $"{Hoist}/programs/0?baseRevision={revision + 4}", new { });
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        // The last one left runs.
        Assert.Equal([("Night watch", "Shed box", true)], Programs(await bench.Get(Hoist + "/program")));
        (status, body) = await bench.Send(HttpMethod.Delete, $"{Hoist}/programs/0?baseRevision={revision + 5}", new { });
        Assert.Contains("keeps at least one program", Errors(body));
    }

    [Fact]
    public async Task Nonsense_about_programs_is_refused_by_field()
    {
        using var bench = new Bench();
        var revision = await Revision(bench, Hoist);
        var (status, body) = await bench.TryPost(Hoist + "/programs", new { baseRevision = revision, name = "7 up!" });
        Assert.Equal(
            (HttpStatusCode.BadRequest, "name: Give the program a name: letters, digits and single spaces, beginning with a letter."),
            (status, Errors(body))
        );
        Assert.Contains(
            "There already is a program “rack hoist”.",
            Errors((await bench.TryPost(Hoist + "/programs", new { baseRevision = revision, name = "rack hoist" })).Body)
        );
        Assert.Contains(
            "runsOn: There is no controller “Nobody”.",
            Errors(
                (
                    await bench.TryPost(
                        Hoist + "/programs",
                        new
                        {
                            baseRevision = revision,
                            name = "New",
                            runsOn = "Nobody",
                        }
                    )
                ).Body
            )
        );
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await bench.TryPost(Hoist + "/programs", new { baseRevision = revision - 1, name = "New" })).Status
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await bench.Send(
                    HttpMethod.Put,
                    Hoist + "/programs/9",
                    new
                    {
                        baseRevision = revision,
                        runsOn = (string?)null,
                        onHost = false,
                        runs = true,
                    }
                )
            ).Status
        );
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Get, Hoist + "/program?program=9", new { })).Status);
        (status, body) = await bench.Send(HttpMethod.Put, Hoist + "/programs/delay", new { baseRevision = revision, ms = -5 });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal(revision, await Revision(bench, Hoist));
    }

    [Fact]
    public async Task Programs_that_talk_are_walked_together_with_messages_that_take_time()
    {
        using var bench = new Bench();
        var revision = await Revision(bench, Lock);
        var (status, body) = await bench.Send(
            HttpMethod.Put,
            Lock + "/programs/delay",
            new
            {
                baseRevision = revision,
                ms = 80,
                kind = "measured",
            }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        Assert.Equal("a message takes 80 ms", body.GetProperty("what").GetString());
        var walks = await bench.Get(Lock + "/walks");
        Assert.NotEqual(0, walks.GetArrayLength());
        var walk = walks[0].GetProperty("walk");
        var steps = walk.GetProperty("steps")
            .EnumerateArray()
            .Select(s => new { name = s.GetProperty("event").GetString(), afterMs = s.GetProperty("afterMs").GetDouble() })
            .ToArray();
        var walked = await bench.Post(
            "/api/walk",
            new
            {
                format = "script",
                rigId = "lock-keeper",
                together = true,
                events = steps,
            }
        );
        Assert.Equal(steps.Length, walked.GetProperty("after").GetArrayLength());
        // Three programs have something to say at every step.
        Assert.Equal(3, walked.GetProperty("initial").EnumerateArray().Select(s => s.GetString()!.Split(':')[0]).Distinct().Count());
    }

    [Fact]
    public async Task A_walk_is_kept_told_when_it_no_longer_leads_there_kept_anew_and_forgotten()
    {
        using var bench = new Bench();
        var revision = await Revision(bench, Hoist);
        const string script =
            "program Rack hoist\nregion Main\n  state Idle, initial\n    when Order knob is tapped: go Risen\n  state Risen\n    "
            + "after 2 s: go Idle\n  state Other, final\n";
        var (status, body) = await bench.Send(HttpMethod.Put, Hoist + "/program", new { baseRevision = revision, script });
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        var steps = new[] { new { @event = "Order knob tapped", afterMs = 0 } };
        await bench.Post(
            Hoist + "/walks",
            new
            {
                baseRevision = revision + 1,
                name = "One tap",
                program = "Rack hoist",
                note = "Where is it now?",
                steps,
            }
        );
        var kept = (await bench.Get(Hoist + "/walks"))
            .EnumerateArray()
            .Single(w => w.GetProperty("walk").GetProperty("name").GetString() == "One tap");
        Assert.True(kept.GetProperty("holds").GetBoolean());
        Assert.Equal("It ends in Main.Risen.", kept.GetProperty("say").GetString());
        (status, body) = await bench.Send(
            HttpMethod.Put,
            Hoist + "/program",
            new { baseRevision = revision + 2, script = script.Replace("go Risen", "go Other") }
        );
        Assert.True(status == HttpStatusCode.OK, body.ToString());
        kept = (await bench.Get(Hoist + "/walks"))
            .EnumerateArray()
            .Single(w => w.GetProperty("walk").GetProperty("name").GetString() == "One tap");
        Assert.False(kept.GetProperty("holds").GetBoolean());
        Assert.Equal(
            "It used to end in Main.Risen; with the program as it is now it ends in Main.Other.",
            kept.GetProperty("say").GetString()
        );
        await bench.Post(
            Hoist + "/walks",
            new
            {
                baseRevision = revision + 3,
                name = "One tap",
                program = "Rack hoist",
                steps,
            }
        );
        Assert.True(
            (await bench.Get(Hoist + "/walks"))
                .EnumerateArray()
                .Single(w => w.GetProperty("walk").GetProperty("name").GetString() == "One tap")
                .GetProperty("holds")
                .GetBoolean()
        );
        Assert.Contains(
            "name: Say what the walk shows",
            Errors(
                (
                    await bench.TryPost(
                        Hoist + "/walks",
                        new
                        {
                            baseRevision = revision + 4,
                            name = " ",
                            program = "Rack hoist",
                            steps,
                        }
                    )
                ).Body
            )
        );
        Assert.Contains(
            "steps: Take at least one step",
            Errors(
                (
                    await bench.TryPost(
                        Hoist + "/walks",
                        new
                        {
                            baseRevision = revision + 4,
                            name = "x",
                            program = "Rack hoist",
                        }
                    )
                ).Body
            )
        );
        Assert.Contains(
            "means nothing here",
            Errors(
                (
                    await bench.TryPost(
                        Hoist + "/walks",
                        new
                        {
                            baseRevision = revision + 4,
                            name = "x",
                            program = "Rack hoist",
                            steps = new[] { new { @event = "Order knob sings", afterMs = 0 } },
                        }
                    )
                ).Body
            )
        );
        (status, _) = await bench.Send(HttpMethod.Delete, $"{Hoist}/walks/One%20tap?baseRevision={revision + 4}", new { });
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.DoesNotContain(
            (await bench.Get(Hoist + "/walks")).EnumerateArray(),
            w => w.GetProperty("walk").GetProperty("name").GetString() == "One tap"
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await bench.Send(HttpMethod.Delete, $"{Hoist}/walks/One%20tap?baseRevision={revision + 5}", new { })).Status
        );
    }

    [Fact]
    public async Task Every_pattern_is_offered_and_one_is_filled_from_the_rig()
    {
        using var bench = new Bench();
        var patterns = await bench.Get(Bench.Rig + "/patterns?copy=1");
        Assert.Equal(Enumerable.Range(1, 22), patterns.EnumerateArray().Select(p => p.GetProperty("number").GetInt32()));
        var stop = patterns.EnumerateArray().Single(p => p.GetProperty("id").GetString() == "marker-stop");
        var holes = stop.GetProperty("holes")
            .EnumerateArray()
            .ToDictionary(h => h.GetProperty("id").GetString()!, h => h.GetProperty("value").GetString()!);
        Assert.Equal(("Tag eye", "bed tag"), (holes["eye"], holes["marker"]));
        // How many readings in a row it takes comes from the copy's calibration.
        Assert.Contains(
            "on this copy",
            stop.GetProperty("holes")
                .EnumerateArray()
                .Single(h => h.GetProperty("kind").GetString() == "readings")
                .GetProperty("source")
                .GetString()
        );
        var filled = await bench.Post(Bench.Rig + "/patterns/marker-stop", new { values = holes, schools = new { leave = "time" } });
        Assert.Empty(filled.GetProperty("diagnostics").EnumerateArray());
        Assert.Contains("when Tag eye becomes bed tag", filled.GetProperty("added").GetString());
        // Nothing is kept before the sheet keeps it.
        Assert.DoesNotContain("region Serving", await bench.Script());
        var (status, body) = await bench.TryPost(
            Bench.Rig + "/patterns/marker-stop",
            new { values = new Dictionary<string, string>(holes) { ["eye"] = "Nose", ["speed"] = "900" } }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("values.eye: The eye: choose one of", Errors(body));
        Assert.Contains("values.speed: Speed: give a number from 1 to 100 %.", Errors(body));
        Assert.Contains(
            "schools.leave: Choose one of",
            Errors(
                (await bench.TryPost(Bench.Rig + "/patterns/marker-stop", new { values = holes, schools = new { leave = "never" } })).Body
            )
        );
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost(Bench.Rig + "/patterns/none", new { values = holes })).Status);
    }

    private static async Task<Dictionary<string, (string Value, string Source)>> Holes(Bench bench, string rig, string pattern) =>
        (await bench.Get($"/api/rigs/{rig}/patterns?copy=1"))
            .EnumerateArray()
            .Single(p => p.GetProperty("id").GetString() == pattern)
            .GetProperty("holes")
            .EnumerateArray()
            .ToDictionary(
                h => h.GetProperty("id").GetString()!,
                h => (h.GetProperty("value").GetString()!, h.GetProperty("source").GetString()!)
            );

    [Fact]
    public async Task Numbers_of_a_pattern_follow_from_what_the_copy_is_known_to_do()
    {
        using var bench = new Bench();
        var holes = await Holes(bench, "seed-trolley", "marker-stop");
        Assert.Equal("calculated: the quickest that stops on a bed tag of this copy", holes["speed"].Source);
        // The check of the program agrees: at that speed it stops on its tag, a percent more is too fast.
        var power = int.Parse(holes["speed"].Value);
        var script = await bench.Script();
        async Task<string?> Rest(int percent)
        {
            await bench.Save(
                script
                    .Replace("var cruise = 60 %", $"var cruise = {percent} %")
                    .Replace("becomes bed tag:", $"becomes bed tag for {holes["n"].Value} readings:")
            );
            return (await bench.Get(Bench.Rig + "/program"))
                .GetProperty("findings")
                .EnumerateArray()
                .Single(f => f.GetProperty("code").GetString() == "marker-rest")
                .GetProperty("severity")
                .GetString();
        }
        Assert.Equal("holds", await Rest(power));
        Assert.Equal("risky", await Rest(power + 1));
        Assert.StartsWith("calculated", holes["limit"].Source);
        Assert.StartsWith("calculated", holes["clear"].Source);
        // Where nothing is known the usual value stands, and says so.
        Assert.Equal("a usual value, chosen", holes["wait"].Source);
        Assert.Equal(("40", "a usual value, chosen"), (await Holes(bench, "rack-hoist", "marker-stop"))["speed"]);
        // The gain of a line is that of the sum, filled from the same rig.
        var line = await Holes(bench, "buoy-line-rover", "line");
        var move = await bench.Get("/api/rigs/buoy-line-rover/move?copy=1");
        var sum = move.GetProperty("mechanisms")
            .EnumerateArray()
            .SelectMany(m => m.GetProperty("sums").EnumerateArray())
            .First(x => x.GetProperty("sum").GetString() == "line-gain");
        var fields = sum.GetProperty("fields")
            .EnumerateArray()
            .ToDictionary(f => f.GetProperty("field").GetString()!, f => f.GetProperty("values")[0].GetDouble());
        fields["speedMmPerS"] = double.Parse(line["speed"].Value, System.Globalization.CultureInfo.InvariantCulture);
        var answer = await bench.Post("/api/sums/line-gain", fields);
        Assert.Equal(
            answer.GetProperty("result").GetProperty("kp").GetDouble(),
            double.Parse(line["gain"].Value, System.Globalization.CultureInfo.InvariantCulture),
            0.05 * answer.GetProperty("result").GetProperty("kp").GetDouble()
        );
        Assert.True(fields["speedMmPerS"] <= answer.GetProperty("result").GetProperty("maxSpeedMmPerS").GetDouble());
    }

    private const string Gate = """
        <scxml xmlns="http://www.w3.org/2005/07/scxml" version="1.0" name="Rack hoist">
          <state id="shut"><transition event="open" target="wide"/>
            <invoke/></state>
          <state id="wide"/>
        </scxml>
        """;

    [Fact]
    public async Task A_document_is_brought_in_only_after_what_is_left_out_was_agreed_to()
    {
        using var bench = new Bench();
        var revision = await Revision(bench, Hoist);
        var read = await bench.Post(Hoist + "/programs/scxml/read", new { source = Gate });
        Assert.Equal("Rack hoist 2", read.GetProperty("name").GetString());
        var left = Assert.Single(read.GetProperty("left").EnumerateArray());
        Assert.Equal((3, "“invoke” has no word here."), (left.GetProperty("line").GetInt32(), left.GetProperty("say").GetString()));
        var (status, body) = await bench.TryPost(Hoist + "/programs/scxml", new { baseRevision = revision, source = Gate });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("leaveOut: 1 thing in the document cannot be said here. Agree to leave them out", Errors(body));
        Assert.Equal(revision, await Revision(bench, Hoist));
        await bench.Post(
            Hoist + "/programs/scxml",
            new
            {
                baseRevision = revision,
                source = Gate,
                leaveOut = true,
            }
        );
        Assert.Equal(
            read.GetProperty("script").GetString(),
            (await bench.Get(Hoist + "/program?program=1")).GetProperty("script").GetString()
        );
        // And it goes out again as a document that any reader can walk.
        var response = await bench.Http.GetAsync(Hoist + "/program/scxml?program=1");
        Assert.Equal("application/scxml+xml", response.Content.Headers.ContentType!.MediaType);
        var walk = await bench.Post(
            "/api/walk",
            new
            {
                format = "scxml",
                source = await response.Content.ReadAsStringAsync(),
                events = new[] { new { name = "told.open" } },
            }
        );
        Assert.Equal("Main.wide", walk.GetProperty("after")[0][0].GetString());
    }

    [Theory]
    [InlineData(null, "Give the text of an SCXML document.")]
    [InlineData("<!DOCTYPE a [<!ENTITY b SYSTEM 'file:///x'>]><scxml>&b;</scxml>", "DTD")]
    [InlineData("<svg/>", "Line 1: The document begins with an element scxml.")]
    public async Task What_is_no_document_is_refused(string? source, string says)
    {
        using var bench = new Bench();
        var (status, body) = await bench.TryPost(Hoist + "/programs/scxml/read", new { source });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains(says, Errors(body));
    }

    [Fact]
    public async Task Every_demo_program_goes_out_and_comes_back_unchanged()
    {
        using var bench = new Bench();
        foreach (var rig in (await bench.Get("/api/rigs")).EnumerateArray().Select(r => r.GetProperty("id").GetString()!))
        {
            var program = await bench.Get($"/api/rigs/{rig}/program");
            foreach (var p in program.GetProperty("programs").EnumerateArray().Select(p => p.GetProperty("index").GetInt32()))
            {
                var text = await bench.Http.GetStringAsync($"/api/rigs/{rig}/program/scxml?program={p}");
                var read = await bench.Post($"/api/rigs/{rig}/programs/scxml/read", new { source = text });
                Assert.Empty(read.GetProperty("left").EnumerateArray());
                var was = (await bench.Get($"/api/rigs/{rig}/program?program={p}")).GetProperty("script").GetString()!;
                Assert.Equal(
                    was[was.IndexOf('\n')..],
                    read.GetProperty("script").GetString()![read.GetProperty("script").GetString()!.IndexOf('\n')..]
                );
            }
        }
    }
}
