using System.Text.Json.Nodes;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

public class DesignTests
{
    private static async Task<JsonObject> Export(Bench bench, string id) =>
        JsonNode.Parse(await bench.Http.GetStringAsync($"/api/rigs/{id}/export"))!.AsObject();

    private static async Task<JsonElement> Import(Bench bench, JsonObject file)
    {
        var response = await bench.Http.PostAsync(
            "/api/rigs",
            new StringContent(file.ToJsonString(), System.Text.Encoding.UTF8, "application/json")
        );
        Assert.True(response.IsSuccessStatusCode, await response.Content.ReadAsStringAsync());
        return await response.Content.ReadFromJsonAsync<JsonElement>();
    }

    [Fact]
    public void Every_demo_rig_is_a_design_that_can_be_kept_and_shows_what_it_was_made_to_show()
    {
        var farm = Farm.All(DateTime.UnixEpoch);
        Assert.Equal(9, farm.Count);
        Assert.Equal(2, farm.Count(r => r.Copies.Count > 1));
        foreach (var rig in farm)
        {
            RigRules.Check(rig.Design, rig.Id);
            Assert.NotNull(rig.Design.Power);
            Assert.NotEmpty(rig.Design.Starts);
            Assert.All(rig.Copies, c => Assert.All(c.Calibrations, k => Assert.All(k.Recordings, r => Assert.NotEmpty(r.Readings))));
            var faults = rig.Design.WiringFaults();
            if (rig.Id == "buoy-picker")
                Assert.Equal("wiring-kind", Assert.Single(faults).Code);
            else if (rig.Id == "lock-keeper")
                Assert.Equal("wiring-level", Assert.Single(faults).Code);
            else
                Assert.True(faults.Count == 0, $"{rig.Id}: {string.Join(" ", faults.Select(f => f.Say))}");
            var issues = rig.Design.Power!.Budget().Result.Issues;
            if (rig.Id == "header-tank")
                Assert.Equal("over-current", Assert.Single(issues).Kind);
            else
                Assert.True(issues.Count == 0, $"{rig.Id}: {string.Join(" ", issues.Select(i => i.Say))}");
        }
    }

    [Fact]
    public async Task The_demo_shows_a_weak_zone_a_stale_calibration_and_a_copy_that_deviates()
    {
        using var bench = new Bench();
        Assert.Equal("fragile", (await bench.Get("/api/rigs/rack-hoist/sense")).GetProperty("judgement").GetProperty("grade").GetString());
        Assert.Contains(
            "49 days old",
            (await bench.Get("/api/rigs/berthing-lights/sense")).GetProperty("judgement").GetProperty("stale").GetString()
        );
        Assert.Contains(
            (await bench.Get("/api/rigs/deck-scrubber/copies")).GetProperty("say").EnumerateArray(),
            s => s.GetString()!.Contains("copy 3")
        );
        Assert.Equal(
            "solid",
            (await bench.Get("/api/rigs/deck-scrubber/sense?copy=3")).GetProperty("judgement").GetProperty("grade").GetString()
        );
    }

    [Fact]
    public async Task A_rig_is_made_from_a_template_and_has_one_copy()
    {
        using var bench = new Bench();
        var made = await bench.Post(
            "/api/rigs",
            new
            {
                template = "lift",
                name = "Märkt Hoist 2",
                place = "Shed",
            }
        );
        Assert.Equal("markt-hoist-2", made.GetProperty("id").GetString());
        var second = await bench.Post("/api/rigs", new { template = "lift", name = "Märkt Hoist 2" });
        Assert.Equal("markt-hoist-2-2", second.GetProperty("id").GetString());
        var view = await bench.Get("/api/rigs/markt-hoist-2");
        Assert.Equal(1, view.GetProperty("copies").GetArrayLength());
        Assert.Equal("Shed", view.GetProperty("place").GetString());
        Assert.Equal("none", view.GetProperty("rate").GetProperty("state").GetString());
        foreach (
            var template in (await bench.Get("/api/rigs/templates"))
                .GetProperty("rigs")
                .EnumerateArray()
                .Select(t => t.GetProperty("template").GetString()!)
        )
            await bench.Post("/api/rigs", new { template, name = "From " + template });
    }

    [Fact]
    public async Task What_is_exported_is_taken_in_again_as_it_was_for_every_demo_rig()
    {
        using var bench = new Bench();
        foreach (var rig in Farm.All(DateTime.UnixEpoch))
        {
            var file = await Export(bench, rig.Id);
            Assert.Equal("chiton-rig", file["format"]!.GetValue<string>());
            Assert.Equal(3, file["version"]!.GetValue<int>());
            var made = await Import(bench, file);
            var again = await Export(bench, made.GetProperty("id").GetString()!);
            Assert.True(JsonNode.DeepEquals(file, again), rig.Id);
        }
        // Readings go along: the copy judges as the original does.
        Assert.Equal(
            (await bench.Get("/api/rigs/rack-hoist/sense"))
                .GetProperty("pairs")[0]
                .GetProperty("sum")
                .GetProperty("result")
                .GetProperty("threshold")
                .GetDouble(),
            (await bench.Get("/api/rigs/rack-hoist-2/sense"))
                .GetProperty("pairs")[0]
                .GetProperty("sum")
                .GetProperty("result")
                .GetProperty("threshold")
                .GetDouble()
        );
    }

    [Fact]
    public async Task The_schema_is_published_and_names_what_a_file_holds()
    {
        using var bench = new Bench();
        var schema = await bench.Get("/api/rigs/schema");
        Assert.Equal("https://json-schema.org/draft/2020-12/schema", schema.GetProperty("$schema").GetString());
        var design = schema.GetProperty("properties").GetProperty("design").GetProperty("properties");
        Assert.Equal("array", design.GetProperty("sensors").GetProperty("type").GetString());
        var kinds = design
            .GetProperty("sensors")
            .GetProperty("items")
            .GetProperty("properties")
            .GetProperty("kind")
            .GetProperty("enum")
            .EnumerateArray()
            .Select(e => e.GetString());
        Assert.Contains("reflectedLight", kinds);
        Assert.Contains(
            "motorOut",
            design
                .GetProperty("controllers")
                .GetProperty("items")
                .GetProperty("properties")
                .GetProperty("ports")
                .GetProperty("items")
                .GetProperty("properties")
                .GetProperty("can")
                .GetProperty("items")
                .GetProperty("enum")
                .EnumerateArray()
                .Select(e => e.GetString())
        );
    }

    public static TheoryData<string, Action<JsonObject>> Nonsense =>
        new()
        {
            { "format", f => f["format"] = "other" },
            { "version", f => f["version"] = 99 },
            { "design.name", f => f["design"]!["name"] = "" },
            { "design.sensors[1].name", f => f["design"]!["sensors"]![1]!["name"] = "shelf eye" },
            { "design.sensors[0].samplePeriodMs", f => f["design"]!["sensors"]![0]!["samplePeriodMs"] = 0 },
            { "design.power.cells", f => f["design"]!["power"]!["cells"] = 0 },
            { "copies[0].number", f => f["copies"]![0]!["number"] = 0 },
            { "copies[0].calibrations[0].sensor", f => f["copies"]![0]!["calibrations"]![0]!["sensor"] = "Nobody" },
            {
                "copies[0].calibrations[1].recordings[0].readings",
                f =>
                    f["copies"]![0]!["calibrations"]!.AsArray().First(c => c!["sensor"]!.GetValue<string>() == "Shelf eye")!["recordings"]![
                        0
                    ]!["readings"] = new JsonArray(1, 400)
            },
            { "design.sensors[0].kind", f => f["design"]!["sensors"]![0]!["kind"] = "smell" },
            { "design.sensors", f => f["design"]!["sensors"] = "many" },
        };

    [Theory]
    [MemberData(nameof(Nonsense))]
    public async Task A_file_that_cannot_be_is_refused_and_nothing_is_made(string field, Action<JsonObject> spoil)
    {
        using var bench = new Bench();
        var file = await Export(bench, "rack-hoist");
        spoil(file);
        var response = await bench.Http.PostAsync(
            "/api/rigs",
            new StringContent(file.ToJsonString(), System.Text.Encoding.UTF8, "application/json")
        );
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        var errors = (await response.Content.ReadFromJsonAsync<JsonElement>())
            .GetProperty("errors")
            .EnumerateObject()
            .Select(e => e.Name)
            .ToArray();
        Assert.True(errors.Any(e => e == field || e.StartsWith(field + ".", StringComparison.Ordinal)), string.Join(", ", errors));
        Assert.Equal(9, (await bench.Get("/api/rigs")).GetArrayLength());
    }

    [Theory]
    [InlineData("{}", "design")]
    [InlineData("{\"template\":\"submarine\",\"name\":\"X\"}", "template")]
    [InlineData("{\"template\":\"lift\",\"name\":\"  \"}", "name")]
    public async Task A_new_rig_needs_a_design_or_a_template_and_a_name(string body, string field)
    {
        var bench = Bench.Shared;
        var response = await bench.Http.PostAsync("/api/rigs", new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        Assert.Contains(field, await response.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Five_megabytes_are_refused_with_a_sentence()
    {
        using var bench = new Bench();
        var response = await bench.Http.PostAsync(
            Bench.Rig + "/runs",
            new StringContent("{\"name\":\"" + new string('x', 5 * 1024 * 1024) + "\"}", System.Text.Encoding.UTF8, "application/json")
        );
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, response.StatusCode);
        Assert.Contains("At most 4 MB", await response.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task A_rig_is_copied_put_away_and_taken_out()
    {
        using var bench = new Bench();
        var copy = await bench.Post("/api/rigs/header-tank/duplicate", new { name = "Second tank" });
        Assert.Equal("second-tank", copy.GetProperty("id").GetString());
        Assert.Equal(
            (await bench.Get("/api/rigs/header-tank/wiring")).ToString(),
            (await bench.Get("/api/rigs/second-tank/wiring")).ToString()
        );
        await bench.Send(HttpMethod.Put, "/api/rigs/second-tank/archived", new { archived = true });
        bool Archived(JsonElement list) =>
            list.EnumerateArray().Single(r => r.GetProperty("id").GetString() == "second-tank").GetProperty("archived").GetBoolean();
        Assert.True(Archived(await bench.Get("/api/rigs")));
        await bench.Send(HttpMethod.Put, "/api/rigs/second-tank/archived", new { archived = false });
        Assert.False(Archived(await bench.Get("/api/rigs")));
        Assert.Equal(HttpStatusCode.NotFound, (await bench.TryPost("/api/rigs/nobody/duplicate", new { name = "X" })).Status);
    }

    [Fact]
    public async Task The_design_is_written_anew_a_stale_edit_is_refused_and_undo_takes_it_back()
    {
        using var bench = new Bench();
        var view = JsonNode.Parse((await bench.Get(Bench.Rig + "/design")).ToString())!;
        view["design"]!["sensors"]![0]!["samplePeriodMs"] = 20;
        var (status, done) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/design",
            new
            {
                baseRevision = 2,
                design = view["design"],
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal("changed Tag eye", done.GetProperty("what").GetString());
        Assert.Equal(20, (await bench.Get(Bench.Rig + "/sense")).GetProperty("samplePeriodMs").GetDouble());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await bench.Send(
                    HttpMethod.Put,
                    Bench.Rig + "/design",
                    new
                    {
                        baseRevision = 2,
                        design = view["design"],
                        copy = 1,
                    }
                )
            ).Status
        );
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(10, (await bench.Get(Bench.Rig + "/sense")).GetProperty("samplePeriodMs").GetDouble());
        // A program is not changed this way: its numbers would lose their kinds.
        view["design"]!["programs"] = new JsonArray();
        await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/design",
            new
            {
                baseRevision = 4,
                design = view["design"],
                copy = 1,
            }
        );
        Assert.Contains("state Rolling", await bench.Script());
    }

    [Fact]
    public async Task A_sensor_is_renamed_with_its_readings_on_every_copy_and_undo_brings_both_back()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/rename",
            new
            {
                baseRevision = 2,
                what = "device",
                from = "Tag eye",
                to = "Bed eye",
            }
        );
        Assert.Contains("when Bed eye becomes bed tag", await bench.Script());
        foreach (var copy in new[] { 1, 2 })
            Assert.Equal(
                40,
                (await bench.Get($"{Bench.Rig}/sense?copy={copy}&sensor=Bed eye"))
                    .GetProperty("zones")[0]
                    .GetProperty("readings")
                    .GetArrayLength()
            );
        // Its luck hangs on names; how often it works does not.
        Assert.InRange((await bench.Prove()).GetProperty("passes").GetInt32(), 98, 146);
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Contains("when Tag eye becomes bed tag", await bench.Script());
        Assert.Equal(40, (await bench.Get(Bench.Rig + "/sense")).GetProperty("zones")[1].GetProperty("readings").GetArrayLength());
    }

    [Fact]
    public async Task A_zone_is_renamed_with_its_readings_and_undo_brings_them_back()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/rename",
            new
            {
                baseRevision = 2,
                what = "zone",
                of = "Tag eye",
                from = "bed tag",
                to = "white bar",
            }
        );
        var sense = await bench.Get(Bench.Rig + "/sense");
        Assert.Equal("white bar", sense.GetProperty("zones")[1].GetProperty("zone").GetString());
        Assert.Equal(40, sense.GetProperty("zones")[1].GetProperty("readings").GetArrayLength());
        // Its luck hangs on names; how often it works does not.
        Assert.InRange((await bench.Prove()).GetProperty("passes").GetInt32(), 98, 146);
        Assert.Equal(2, (await bench.Get(Bench.Rig + "/sense/history")).GetProperty("recordings").GetArrayLength());
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(40, (await bench.Get(Bench.Rig + "/sense")).GetProperty("zones")[1].GetProperty("readings").GetArrayLength());
    }

    [Fact]
    public async Task A_position_is_found_by_hand_its_spread_falls_with_tries_and_a_servo_is_set()
    {
        using var bench = new Bench();
        const string hoist = "/api/rigs/rack-hoist";
        var read = await bench.Post(
            hoist + "/positions",
            new
            {
                copy = 1,
                mechanism = "Mast",
                handPercent = 50,
            }
        );
        Assert.InRange(read.GetProperty("angle").GetDouble(), 820 - 9, 820 + 9);
        async Task<JsonElement> Position() =>
            (await bench.Get(hoist + "/design"))
                .GetProperty("positions")
                .EnumerateArray()
                .Single(p => p.GetProperty("position").GetString() == "low shelf");
        var before = await Position();
        for (var i = 0; i < 6; i++)
            await bench.Post(
                hoist + "/positions",
                new
                {
                    copy = 1,
                    mechanism = "Mast",
                    position = "low shelf",
                    handPercent = 38,
                }
            );
        var after = await Position();
        Assert.Equal(before.GetProperty("count").GetInt32() + 6, after.GetProperty("count").GetInt32());
        Assert.Equal("measured", after.GetProperty("angle").GetProperty("kind").GetString());
        var servo = await bench.Post(
            "/api/rigs/shell-sorter/positions",
            new
            {
                copy = 1,
                mechanism = "Diverter arm",
                position = "middle bin",
                angleDeg = 91,
            }
        );
        Assert.Equal(("deg", 91), (servo.GetProperty("unit").GetString(), servo.GetProperty("angle").GetDouble()));
        foreach (
            var (body, field) in new (object, string)[]
            {
                (new { mechanism = "Nobody", handPercent = 5 }, "mechanism"),
                (
                    new
                    {
                        mechanism = "Mast",
                        position = "moon",
                        handPercent = 5,
                    },
                    "position"
                ),
                (
                    new
                    {
                        mechanism = "Mast",
                        position = "bottom",
                        handPercent = 101,
                    },
                    "handPercent"
                ),
                (new { mechanism = "Mast", position = "bottom" }, "handPercent"),
            }
        )
        {
            var (status, problem) = await bench.TryPost(hoist + "/positions", body);
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.True(problem.GetProperty("errors").TryGetProperty(field, out _), problem.ToString());
        }
    }

    [Fact]
    public void A_design_of_the_first_version_is_read()
    {
        const string old =
            """{"name":"Old","place":"Farm","controllers":[{"name":"Box","ports":["""
            + """{"name":"front 1","can":"smartIn, analogueIn","maxInputV":5,"inputHighMinV":2,"outputHighV":5}]}],"wires":["""
            + """{"device":"Eye","lead":"signal","controller":"Box","port":"front 1"}],"devices":["""
            + """{"kind":"lightEye","signalV":5,"name":"Eye","samplePeriodMs":10,"resolution":1,"spotDiameterMm":"""
            + """{"value":8,"unit":"mm","kind":"measured","source":"paper"},"aheadMm":"""
            + """{"value":40,"unit":"mm","kind":"measured","source":"ruler"},"zones":["rail","tag"]},"""
            + """{"kind":"plainMotor","name":"Wheels"},{"kind":"lamp","name":"Lamp"}],"vehicle":"""
            + """{"name":"Cart","motor":"Wheels","lengthMm":120},"rail":{"lengthMm":4000,"ground":"rail","surfaces":"""
            + """[],"markers":[]},"start":{"atMm":{"value":80,"unit":"mm","kind":"measured","source":"hand"}},"programs":["""
            + """{"script":"program Old\n","marks":[]}]}""";
        var design = Designs.Read(old);
        RigRules.Check(design, "");
        Assert.Equal(("Cart", "Wheels", 120), (design.Vehicle!.Name, design.Vehicle.Motor, design.Vehicle.LengthMm!.Value));
        Assert.Equal((40, 8), (design.Eyes.Single().AheadMm.Value, design.Eyes.Single().Spot.Value));
        Assert.Equal([ActuatorKind.PlainMotor, ActuatorKind.Lamp], design.Actuators.Select(a => a.Kind));
        Assert.Equal(80, design.Starts[0].AtMm.Value);
        Assert.Equal(design, Designs.Read(Documents.Write(design)));
    }

    [Fact]
    public async Task The_map_says_what_stands_between_currents_and_why_a_device_has_no_place()
    {
        using var bench = new Bench();
        const string keeper = "/api/rigs/lock-keeper";
        var (status, _) = await bench.Send(
            HttpMethod.Put,
            keeper + "/ports",
            new
            {
                baseRevision = 1,
                device = "Boat button",
                lead = "signal",
                controller = "Keeper board",
                port = "edge 0",
                via = "divider",
                colour = "pink",
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Empty((await bench.Get(keeper + "/ports")).GetProperty("faults").EnumerateArray());
        var row = (await bench.Get(keeper + "/wiring"))
            .GetProperty("rows")
            .EnumerateArray()
            .Single(r => r.GetProperty("device").GetString() == "Boat button" && r.GetProperty("pin").GetString() == "signal");
        Assert.Equal(("a divider", "pink"), (row.GetProperty("via").GetString(), row.GetProperty("colour").GetString()));
        // A fourth button on three pins has no place, and is told why.
        var view = JsonNode.Parse((await bench.Get(keeper + "/design")).ToString())!;
        var extra = view["design"]!["sensors"]![3]!.DeepClone();
        extra["name"] = "Night button";
        view["design"]!["sensors"]!.AsArray().Add(extra);
        await bench.Send(
            HttpMethod.Put,
            keeper + "/design",
            new
            {
                baseRevision = 2,
                design = view["design"],
                copy = 1,
            }
        );
        var plan = await bench.Post(keeper + "/ports/assign", new { });
        var left = plan.GetProperty("unassigned").EnumerateArray().ToArray();
        Assert.NotEmpty(left);
        Assert.All(left, l => Assert.NotEmpty(l.GetProperty("reasons").EnumerateArray()));
        Assert.All(plan.GetProperty("assigned").EnumerateArray(), a => Assert.Contains(", ", a.GetProperty("port").GetString()));
    }

    [Fact]
    public async Task Wiring_and_readings_speak_up_in_Program_where_a_device_is_named()
    {
        using var bench = new Bench();
        var (status, _) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/ports",
            new
            {
                baseRevision = 2,
                device = "Tag eye",
                lead = "signal",
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, status);
        var finding = (await bench.Get(Bench.Rig + "/program"))
            .GetProperty("findings")
            .EnumerateArray()
            .Single(f => f.GetProperty("code").GetString() == "wiring-missing");
        Assert.Equal("Rolling", finding.GetProperty("owner").GetString());
        Assert.Contains("when Tag eye becomes bed tag", (await bench.Script()).Split('\n')[finding.GetProperty("line").GetInt32() - 1]);
        Assert.Equal(2, finding.GetProperty("lineOfOwner").GetInt32());
    }
}
