using System.Text.Json.Nodes;

namespace Chiton.Server.Tests.Parts;

public class SenseKindTests
{
    /// <summary>A rig with one sensor of the kind asked for.</summary>
    private static async Task<string> Rig(Bench bench, object sensor)
    {
        var made = await bench.Post(
            "/api/rigs",
            new
            {
                design = new
                {
                    name = "Test rig",
                    place = "",
                    controllers = Array.Empty<object>(),
                    sensors = new[] { sensor },
                    actuators = Array.Empty<object>(),
                },
            }
        );
        return "/api/rigs/" + made.GetProperty("id").GetString();
    }

    private static object Sensor(string kind, params string[] zones) =>
        new
        {
            name = "Probe",
            kind,
            samplePeriodMs = 10,
            resolution = 1,
            zones,
        };

    [Theory]
    [InlineData("reflectedLight", "white card", null, 80, 96)]
    [InlineData("ambientLight", "lamp above", null, 70, 90)]
    [InlineData("force", "pressed with", 4.0, 3.5, 4.5)]
    [InlineData("probe", "still water at", 50.0, 480, 540)]
    [InlineData("sound", "horn", null, 80, 100)]
    [InlineData("touch", "pressed", null, 1, 1)]
    [InlineData("button", "free", null, 0, 0)]
    [InlineData("lightGate", "free", null, 0, 0)]
    [InlineData("clickEncoder", "pressed", null, 1, 1)]
    [InlineData("colourName", "white line", null, 0, 9)]
    public async Task A_sensor_of_every_kind_is_recorded_over_a_thing_of_the_bench(
        string kind,
        string over,
        double? amount,
        double low,
        double high
    )
    {
        using var bench = new Bench();
        var rig = await Rig(bench, Sensor(kind, "one", "two"));
        var taken = await bench.Post(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "two",
                seconds = 0.5,
                over,
                amount,
            }
        );
        Assert.Equal(50, taken.GetProperty("count").GetInt32());
        var sense = await bench.Get(rig + "/sense");
        Assert.Equal(kind, sense.GetProperty("kind").GetString());
        var readings = sense.GetProperty("zones")[1].GetProperty("readings").EnumerateArray().Select(r => r.GetDouble()).ToArray();
        Assert.InRange(readings.Average(), low, high);
    }

    [Fact]
    public async Task Colours_are_recorded_pasted_and_judged_by_leave_one_out()
    {
        using var bench = new Bench();
        var rig = await Rig(bench, Sensor("colour", "shell", "mussel"));
        await bench.Post(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "shell",
                seconds = 0.5,
                over = "white line",
            }
        );
        var pasted = await bench.Post(
            rig + "/readings",
            new
            {
                copy = 1,
                zone = "mussel",
                text = "48, 46, 70\n50, 47, 73\n46, 44, 69\n51, 45, 72",
                csv = false,
            }
        );
        Assert.Equal(4, pasted.GetProperty("count").GetInt32());
        var result = (await bench.Get(rig + "/sense")).GetProperty("colours").GetProperty("result");
        Assert.Equal(1, result.GetProperty("accuracy").GetDouble());
        Assert.Equal([50, 4], result.GetProperty("confusion").EnumerateArray().Select((row, i) => row[i].GetInt32()));
        var (status, problem) = await bench.TryPost(
            rig + "/readings",
            new
            {
                copy = 1,
                zone = "mussel",
                text = "48, 46\n50",
                csv = false,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("Line 1: a reading of this sensor is 3 numbers a line; here are 2.", problem.ToString());
    }

    [Fact]
    public async Task Distance_keeps_nothing_heard_apart_and_its_bands_are_set_and_refused()
    {
        using var bench = new Bench();
        var rig = await Rig(
            bench,
            new
            {
                name = "Probe",
                kind = "distance",
                samplePeriodMs = 10,
                resolution = 1,
                zones = new[] { "near", "far" },
                silentReading = 0,
                blindMm = new
                {
                    value = 30,
                    unit = "mm",
                    kind = "chosen",
                    source = "test",
                },
                reachMm = new
                {
                    value = 1500,
                    unit = "mm",
                    kind = "chosen",
                    source = "test",
                },
            }
        );
        await bench.Post(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "near",
                seconds = 1,
                over = "slanted board",
                amount = 120,
            }
        );
        await bench.Post(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "far",
                seconds = 1,
                over = "board",
                amount = 600,
            }
        );
        var put = await bench.Send(
            HttpMethod.Put,
            rig + "/sense/bands",
            new
            {
                baseRevision = 1,
                sensor = "Probe",
                bands = new[]
                {
                    new
                    {
                        zone = "near",
                        fromMm = 30,
                        toMm = 300,
                    },
                    new
                    {
                        zone = "far",
                        fromMm = 300,
                        toMm = 1500,
                    },
                },
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, put.Status);
        var sense = await bench.Get(rig + "/sense");
        Assert.InRange(sense.GetProperty("bands").GetProperty("silentShare").GetDouble(), 0.02, 0.25);
        Assert.InRange(sense.GetProperty("zones")[0].GetProperty("figures").GetProperty("mean").GetDouble(), 115, 135);
        Assert.Contains(sense.GetProperty("cautions").EnumerateArray(), c => c.GetString()!.Contains("heard nothing"));
        var wrong = await bench.Send(
            HttpMethod.Put,
            rig + "/sense/bands",
            new
            {
                baseRevision = 2,
                sensor = "Probe",
                bands = new[]
                {
                    new
                    {
                        zone = "near",
                        fromMm = 300,
                        toMm = 30,
                    },
                },
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, wrong.Status);
        Assert.True(wrong.Body.GetProperty("errors").TryGetProperty("bands[0].toMm", out _), wrong.Body.ToString());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await bench.Send(
                    HttpMethod.Put,
                    rig + "/sense/bands",
                    new
                    {
                        baseRevision = 1,
                        sensor = "Probe",
                        bands = Array.Empty<object>(),
                        copy = 1,
                    }
                )
            ).Status
        );
    }

    [Fact]
    public async Task A_sensor_that_gives_nothing_says_so()
    {
        using var bench = new Bench();
        var rig = await Rig(
            bench,
            new
            {
                name = "Probe",
                kind = "distance",
                samplePeriodMs = 10,
                resolution = 1,
                zones = new[] { "near", "far" },
            }
        );
        var (status, problem) = await bench.TryPost(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "near",
                seconds = 0.5,
                over = "nothing in front",
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("gave no reading at all", problem.ToString());
    }

    [Fact]
    public async Task Mode_and_supply_are_kept_with_readings_and_a_change_makes_them_stale()
    {
        using var bench = new Bench();
        var rig = await Rig(
            bench,
            new
            {
                name = "Probe",
                kind = "probe",
                samplePeriodMs = 10,
                resolution = 1,
                zones = new[] { "dry", "wet" },
                probeSupplyV = 5,
            }
        );
        await bench.Post(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "dry",
                seconds = 0.5,
                over = "dry air",
                who = "Limpets",
                conditions = "by the sink",
            }
        );
        await bench.Post(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "wet",
                seconds = 0.5,
                over = "still water at",
                amount = 60,
                care = "shaded",
            }
        );
        var recordings = (await bench.Get(rig + "/sense/history")).GetProperty("recordings").EnumerateArray().ToArray();
        Assert.Equal((5, "Limpets"), (recordings[0].GetProperty("supplyV").GetDouble(), recordings[0].GetProperty("who").GetString()));
        Assert.Equal("shaded", recordings[1].GetProperty("conditions").GetString());
        Assert.Equal(JsonValueKind.Null, (await bench.Get(rig + "/sense")).GetProperty("judgement").GetProperty("stale").ValueKind);
        var view = JsonNode.Parse((await bench.Get(rig + "/design")).ToString())!;
        view["design"]!["sensors"]![0]!["probeSupplyV"] = 3.3;
        await bench.Send(
            HttpMethod.Put,
            rig + "/design",
            new
            {
                baseRevision = 1,
                design = view["design"],
                copy = 1,
            }
        );
        Assert.Contains(
            "read at 5 V and is fed 3.3 V now",
            (await bench.Get(rig + "/sense")).GetProperty("judgement").GetProperty("stale").GetString()
        );
    }

    [Fact]
    public async Task A_zone_starts_anew_and_undo_brings_its_readings_back()
    {
        using var bench = new Bench();
        int Count(JsonElement sense) => sense.GetProperty("zones")[1].GetProperty("readings").GetArrayLength();
        await bench.Post(
            Bench.Rig + "/sense/clear",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                baseVersion = 1,
                zone = "bed tag",
            }
        );
        Assert.Equal(0, Count(await bench.Get(Bench.Rig + "/sense")));
        Assert.Equal(
            HttpStatusCode.Conflict,
            (
                await bench.TryPost(
                    Bench.Rig + "/sense/clear",
                    new
                    {
                        copy = 1,
                        sensor = "Tag eye",
                        baseVersion = 1,
                        zone = "bed tag",
                    }
                )
            ).Status
        );
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(40, Count(await bench.Get(Bench.Rig + "/sense")));
    }

    [Theory]
    [InlineData("force", "pressed with", null, "amount")]
    [InlineData("force", "pressed with", 99.0, "amount")]
    [InlineData("distance", "board", 0.0, "amount")]
    [InlineData("reflectedLight", "moonlight", null, "over")]
    [InlineData("encoder", "free", null, "sensor")]
    public async Task What_cannot_be_recorded_is_refused(string kind, string over, double? amount, string field)
    {
        using var bench = new Bench();
        var rig = await Rig(bench, Sensor(kind, "one", "two"));
        var (status, problem) = await bench.TryPost(
            rig + "/recordings",
            new
            {
                copy = 1,
                zone = "one",
                seconds = 0.5,
                over,
                amount,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty(field, out _), problem.ToString());
    }

    [Fact]
    public async Task Sums_are_filled_from_the_rig_and_say_where_each_number_comes_from()
    {
        using var bench = new Bench();
        var sums = (await bench.Get("/api/rigs/deck-scrubber/sense")).GetProperty("sums").EnumerateArray().ToArray();
        Assert.Equal(["edge-guard", "push-over"], sums.Select(s => s.GetProperty("sum").GetString()));
        var fields = sums[0].GetProperty("fields").EnumerateArray().ToDictionary(f => f.GetProperty("field").GetString()!);
        Assert.Equal([-62, 62], fields["sensorOffsetsMm"].GetProperty("values").EnumerateArray().Select(v => v.GetDouble()));
        Assert.Equal("measured", fields["sensorAheadMm"].GetProperty("kind").GetString());
        Assert.Equal(
            (59, "guessed"),
            (fields["halfTrackMm"].GetProperty("values")[0].GetDouble(), fields["halfTrackMm"].GetProperty("kind").GetString())
        );
        Assert.Equal("calculated", fields["readingsNeeded"].GetProperty("kind").GetString());
        // What is filled in is what the sum takes.
        var input = fields.Values.ToDictionary(
            f => f.GetProperty("field").GetString()!,
            f => f.GetProperty("list").GetBoolean() ? (object)f.GetProperty("values") : f.GetProperty("values")[0]
        );
        var answer = await bench.Post("/api/sums/edge-guard", input);
        Assert.Equal(13, answer.GetProperty("result").GetProperty("margins").GetArrayLength());
        Assert.Equal(
            answer.GetProperty("result").GetProperty("worstMarginMm").GetDouble(),
            answer.GetProperty("result").GetProperty("margins").EnumerateArray().Min(m => m.GetProperty("marginMm").GetDouble()),
            1
        );
        foreach (var rig in new[] { "berthing-lights", "buoy-picker", "shell-sorter" })
        foreach (
            var sensor in (await bench.Get($"/api/rigs/{rig}/sense"))
                .GetProperty("sensors")
                .EnumerateArray()
                .Select(s => s.GetProperty("name").GetString())
        )
        foreach (var sum in (await bench.Get($"/api/rigs/{rig}/sense?sensor={sensor}")).GetProperty("sums").EnumerateArray())
            await bench.Post(
                "/api/sums/" + sum.GetProperty("sum").GetString(),
                sum.GetProperty("fields")
                    .EnumerateArray()
                    .ToDictionary(
                        f => f.GetProperty("field").GetString()!,
                        f => f.GetProperty("list").GetBoolean() ? (object)f.GetProperty("values") : f.GetProperty("values")[0]
                    )
            );
    }

    [Fact]
    public async Task What_looks_odd_is_asked_about_and_kept_when_somebody_is_sure()
    {
        using var bench = new Bench();
        object Body(bool sure) =>
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "sleepers",
                text = "0.42\n0.4\n0.41",
                sure,
            };
        var (status, asked) = await bench.TryPost(Bench.Rig + "/readings", Body(false));
        Assert.Equal(System.Net.HttpStatusCode.BadRequest, status);
        Assert.EndsWith("Keep them if you are sure.", asked.GetProperty("errors").GetProperty("text")[0].GetString());
        Assert.Equal(3, (await bench.Post(Bench.Rig + "/readings", Body(true))).GetProperty("count").GetInt32());
    }

    [Theory]
    [InlineData("12,5\n13,5\n14,5", 3)]
    [InlineData("reading\n12 %\n13 %\n14%", 3)]
    [InlineData("zone;reading\nsleepers;21\n\nbed tag;58\n", 2)]
    [InlineData("42", 1)]
    public async Task Readings_are_taken_as_people_have_them(string text, int count)
    {
        using var bench = new Bench();
        Assert.Equal(count, (
                await bench.Post(
                    Bench.Rig + "/readings",
                    new
                    {
                        copy = 1,
                        sensor = "Tag eye",
                        zone = "sleepers",
                        text,
                        csv = true,
                        sure = true,
                    }
                )
            ).GetProperty("count").GetInt32());
    }

    [Theory]
    [InlineData("21;23\n22,24")]
    [InlineData("21\t23\n22;24")]
    public async Task Mixed_separators_are_refused_rather_than_misread(string text)
    {
        var bench = Bench.Shared;
        var (status, problem) = await bench.TryPost(
            Bench.Rig + "/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "sleepers",
                text,
                csv = true,
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("Line 2 separates in another way", problem.ToString());
    }
}
