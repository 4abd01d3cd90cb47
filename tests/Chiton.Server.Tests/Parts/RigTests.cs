namespace Chiton.Server.Tests.Parts;

public class RigTests
{
    [Fact]
    public async Task The_list_holds_nine_rigs_each_with_its_eight_parts()
    {
        using var bench = new Bench();
        var rigs = (await bench.Get("/api/rigs")).EnumerateArray().ToArray();
        Assert.Equal(9, rigs.Length);
        Assert.All(rigs, r => Assert.Equal(8, r.GetProperty("plates").GetArrayLength()));
        var rig = rigs.Single(r => r.GetProperty("id").GetString() == "seed-trolley");
        Assert.Equal("Seed trolley", rig.GetProperty("name").GetString());
        Assert.Equal("Saltmarsh Oyster Farm", rig.GetProperty("place").GetString());
        Assert.Equal(3, rig.GetProperty("copies").GetArrayLength());
    }

    [Fact]
    public async Task Eight_plates_each_with_a_line_of_at_most_20_characters()
    {
        using var bench = new Bench();
        async Task Look()
        {
            var plates = (await bench.Get(Bench.Rig)).GetProperty("plates").EnumerateArray().ToArray();
            Assert.Equal(
                ["rig", "sense", "move", "program", "check", "simulate", "prove", "log"],
                plates.Select(p => p.GetProperty("part").GetString())
            );
            Assert.All(plates, p => Assert.InRange(p.GetProperty("line").GetString()!.Length, 1, 20));
        }
        await Look();
        await bench.Prove();
        await bench.Post(Bench.Rig + "/runs", new { seed = 3 });
        await Look();
        await bench.Save("program Broken\n\nnonsense\n");
        await Look();
    }

    [Theory]
    [InlineData("/api/rigs/mast")]
    [InlineData("/api/rigs/seed-trolley?copy=9")]
    [InlineData("/api/rigs/seed-trolley/sense?copy=0")]
    [InlineData("/api/rigs/mast/program")]
    [InlineData("/api/nothing")]
    public async Task What_is_not_there_is_404_with_a_sentence(string path)
    {
        var bench = Bench.Shared;
        var response = await bench.Http.GetAsync(path);
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
        Assert.NotEqual("", (await response.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("title").GetString());
    }

    [Fact]
    public async Task A_lead_is_run_by_hand_a_clash_is_explained_and_assigned_away()
    {
        using var bench = new Bench();
        Assert.Empty((await bench.Get(Bench.Rig + "/ports")).GetProperty("faults").EnumerateArray());
        var (status, _) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/ports",
            new
            {
                baseRevision = 2,
                device = "Lamp",
                lead = "light",
                controller = "Deck box",
                port = "front 1",
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, status);
        var fault = Assert.Single((await bench.Get(Bench.Rig + "/ports")).GetProperty("faults").EnumerateArray());
        Assert.Equal("wiring-clash", fault.GetProperty("code").GetString());
        Assert.Equal("1 wiring fault", (await bench.Get(Bench.Rig)).GetProperty("plates")[0].GetProperty("line").GetString());
        var plan = await bench.Post(Bench.Rig + "/ports/assign", new { keep = true, copy = 1 });
        Assert.Equal(5, plan.GetProperty("assigned").GetArrayLength());
        Assert.Empty(plan.GetProperty("unassigned").EnumerateArray());
        Assert.Equal(5, plan.GetProperty("assigned").EnumerateArray().Select(a => a.GetProperty("port").GetString()).Distinct().Count());
        Assert.Contains(
            plan.GetProperty("assigned").EnumerateArray(),
            a => a.GetProperty("device").GetString() == "Trolley" && a.GetProperty("port").GetString() == "Deck box, back 1"
        );
        Assert.Empty((await bench.Get(Bench.Rig + "/ports")).GetProperty("faults").EnumerateArray());
        var (stale, _) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/ports",
            new
            {
                baseRevision = 2,
                device = "Lamp",
                lead = "light",
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.Conflict, stale);
    }

    [Theory]
    [InlineData("Mast", "light", "Deck box", "front 1", "device")]
    [InlineData("Lamp", "wool", "Deck box", "front 1", "lead")]
    [InlineData("Lamp", "light", "Mud box", "front 1", "controller")]
    [InlineData("Lamp", "light", "Deck box", "front 9", "port")]
    public async Task A_lead_that_cannot_run_is_named(string device, string lead, string controller, string port, string field)
    {
        using var bench = new Bench();
        var (status, problem) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/ports",
            new
            {
                baseRevision = 2,
                device,
                lead,
                controller,
                port,
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal(field, Assert.Single(problem.GetProperty("errors").EnumerateObject()).Name);
    }

    [Fact]
    public async Task Power_is_summed_from_the_rig_and_a_change_is_a_revision()
    {
        using var bench = new Bench();
        var power = await bench.Get(Bench.Rig + "/power");
        Assert.Equal(6, power.GetProperty("sum").GetProperty("result").GetProperty("packV").GetDouble());
        Assert.Empty(power.GetProperty("sum").GetProperty("result").GetProperty("issues").EnumerateArray());
        var input = System.Text.Json.Nodes.JsonNode.Parse(power.GetProperty("input").GetRawText())!;
        input["cells"] = 7;
        var (status, _) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/power",
            new
            {
                baseRevision = 2,
                input,
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, status);
        var issue = Assert.Single(
            (await bench.Get(Bench.Rig + "/power")).GetProperty("sum").GetProperty("result").GetProperty("issues").EnumerateArray()
        );
        Assert.Equal(("Trolley", "over-voltage"), (issue.GetProperty("device").GetString(), issue.GetProperty("kind").GetString()));
        Assert.Equal("1 power issue", (await bench.Get(Bench.Rig)).GetProperty("plates")[0].GetProperty("line").GetString());
        input["cells"] = 0;
        input["devices"]![1]!["duty"] = 2;
        var (bad, problem) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/power",
            new
            {
                baseRevision = 3,
                input,
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, bad);
        Assert.Equal(["cells", "devices[1].duty"], problem.GetProperty("errors").EnumerateObject().Select(p => p.Name).Order());
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(4, (await bench.Get(Bench.Rig + "/power")).GetProperty("input").GetProperty("cells").GetDouble());
    }

    [Fact]
    public async Task Copies_are_added_named_and_held_against_each_other()
    {
        using var bench = new Bench();
        var before = await bench.Get(Bench.Rig + "/copies");
        Assert.Contains(
            before.GetProperty("say").EnumerateArray(),
            s => s.GetString()!.StartsWith("Speed at full power: copy 2 has 742 against 785")
        );
        var made = await bench.Post(Bench.Rig + "/copies", new { team = " Mussels " });
        Assert.Equal((4, "Mussels"), (made.GetProperty("number").GetInt32(), made.GetProperty("team").GetString()));
        var rig = await bench.Get(Bench.Rig + "?copy=4");
        Assert.Equal("none", rig.GetProperty("rate").GetProperty("state").GetString());
        Assert.Equal("13 guesses", rig.GetProperty("plates")[2].GetProperty("line").GetString());
        Assert.Equal("no readings yet", rig.GetProperty("plates")[1].GetProperty("line").GetString());

        // With readings of its own it runs, on guesses.
        foreach (var zone in new[] { "sleepers", "bed tag" })
            await bench.Post(
                Bench.Rig + "/recordings",
                new
                {
                    copy = 4,
                    sensor = "Tag eye",
                    zone,
                    seconds = 0.5,
                }
            );
        var proof = await bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 50,
                seed = 1,
                copy = 4,
            }
        );
        Assert.Equal(50, proof.GetProperty("runs").GetInt32());
        var (status, _) = await bench.Send(HttpMethod.Put, Bench.Rig + "/copies/4", new { team = "Whelks" });
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal("Whelks", (await bench.Get(Bench.Rig + "?copy=4")).GetProperty("team").GetString());
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Send(HttpMethod.Put, Bench.Rig + "/copies/9", new { team = "x" })).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.TryPost(Bench.Rig + "/copies", new { team = new string('x', 41) })).Status);
    }
}
