using System.Net;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Chiton.Server.Tests.Parts;

/// <summary>What goes from the log into Move, into files and tables, and comes in from them.</summary>
public class LogTeachesTests
{
    private const string Log = Bench.Rig + "/log";

    private static readonly DateTime At = new(2026, 11, 20, 9, 0, 0, DateTimeKind.Utc);

    private static async Task Keep(Bench bench, int passes, int failures, int from = 0, int revision = 2)
    {
        var kept = await bench.Post(
            Log + "/lines",
            new
            {
                copy = 1,
                lines = Enumerable
                    .Range(from, passes + failures)
                    .Select(i => new
                    {
                        key = $"line-{i:0000}",
                        revision,
                        passed = i - from < passes,
                        timeUtc = At.AddMinutes(i),
                        note = "=danger, \"quoted\"",
                        measured = new[]
                        {
                            new
                            {
                                what = "stood at",
                                value = 800.5 + i,
                                unit = "mm",
                            },
                        },
                    })
                    .ToArray(),
            }
        );
        Assert.Equal(passes + failures, kept.GetProperty("kept").GetArrayLength());
    }

    private static string Text(JsonElement e, string field) => e.GetProperty(field).GetString()!;

    private static async Task<JsonElement> Motion(Bench bench, string key) =>
        (await bench.Get(Bench.Rig + "/move?copy=1"))
            .GetProperty("mechanisms")
            .EnumerateArray()
            .SelectMany(m => m.GetProperty("motions").EnumerateArray())
            .First(m => Text(m.GetProperty("plan"), "key") == key);

    [Fact]
    public async Task A_narrowed_number_is_taken_over_into_Move_and_undone()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 4000,
                seed = 3,
                copy = 1,
            }
        );
        await Keep(bench, 12, 0);
        var learnt = await bench.Get(Log + "/learnt?copy=1&revision=2");
        var number = learnt.GetProperty("numbers").EnumerateArray().First(n => n.GetProperty("motion").ValueKind == JsonValueKind.String);
        Assert.Equal(JsonValueKind.Null, number.GetProperty("taken").ValueKind);
        var (name, key) = (Text(number, "name"), Text(number, "motion"));
        var taken = await bench.Post(
            Log + "/learnt/take",
            new
            {
                copy = 1,
                revision = 2,
                number = name,
            }
        );
        Assert.True(taken.GetProperty("numbers").EnumerateArray().First(n => Text(n, "name") == name).GetProperty("taken").GetBoolean());
        var motion = await Motion(bench, key);
        var inUse = motion.GetProperty("inUse");
        Assert.Equal(number.GetProperty("value").GetDouble(), inUse.GetProperty("value").GetDouble(), 6);
        Assert.Equal($"{Text(number, "kind")}, then narrowed by 12 trials on the table", Text(inUse, "source"));
        // No trial of the motion was made.
        Assert.False(motion.GetProperty("accepted").GetBoolean());
        Assert.Equal(12, motion.GetProperty("narrowed").GetInt32());
        // What these runs teach stays the same, for it was learnt from the copies of the proof: nothing counts twice.
        var again = await bench.Get(Log + "/learnt?copy=1&revision=2");
        var same = again.GetProperty("numbers").EnumerateArray().First(n => Text(n, "name") == name);
        Assert.Equal(number.GetProperty("value").GetDouble(), same.GetProperty("value").GetDouble(), 9);
        Assert.True(same.GetProperty("taken").GetBoolean());
        // A proof after it makes its copies anew, and is no promise of runs that were made before.
        await bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 4000,
                seed = 4,
                copy = 1,
            }
        );
        again = await bench.Get(Log + "/learnt?copy=1&revision=2");
        same = again.GetProperty("numbers").EnumerateArray().First(n => Text(n, "name") == name);
        Assert.Equal(number.GetProperty("value").GetDouble(), same.GetProperty("value").GetDouble(), 9);
        await bench.Post(Bench.Rig + "/undo", new { });
        Assert.Equal(0, (await Motion(bench, key)).GetProperty("narrowed").GetInt32());
    }

    [Fact]
    public async Task What_was_not_narrowed_is_not_taken_over()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 2000,
                seed = 3,
                copy = 1,
            }
        );
        await Keep(bench, 6, 2);
        foreach (
            var (body, field) in new (object, string)[]
            {
                (
                    new
                    {
                        copy = 1,
                        revision = 2,
                        number = "the moon",
                    },
                    "number"
                ),
                (
                    new
                    {
                        copy = 1,
                        revision = 9,
                        number = "braking",
                    },
                    "revision"
                ),
                (
                    new
                    {
                        copy = 1,
                        revision = 0.5,
                        number = "braking",
                    },
                    "revision"
                ),
                (new { copy = 1, number = "braking" }, "revision"),
            }
        )
        {
            var (status, problem) = await bench.Send(HttpMethod.Post, Log + "/learnt/take", body);
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.True(problem.GetProperty("errors").TryGetProperty(field, out _), field);
        }
    }

    [Fact]
    public async Task A_table_goes_out_and_comes_in_once()
    {
        using var bench = new Bench();
        await Keep(bench, 4, 3, 0, 1);
        var csv = await bench.Http.GetStringAsync(Log + "/export?copy=1");
        Assert.Contains("'=danger", csv);
        var look = await bench.Post(Log + "/import/look", new { copy = 1, text = csv });
        Assert.False(look.GetProperty("remembered").GetBoolean());
        var mapping = look.GetProperty("mapping");
        object Body(string text, bool dry) =>
            new
            {
                copy = 1,
                text,
                mapping,
                dry,
            };
        // Its own runs are known; on another rig they are new, and once.
        var known = await bench.Post(Log + "/import", Body(csv, true));
        Assert.Equal((0, 7), (known.GetProperty("added").GetInt32(), known.GetProperty("known").GetInt32()));
        const string other = "/api/rigs/rack-hoist/log";
        var dry = await bench.Post(other + "/import", Body(csv, true));
        Assert.Equal((7, 4), (dry.GetProperty("added").GetInt32(), dry.GetProperty("passes").GetInt32()));
        Assert.Empty((await bench.Get(other)).GetProperty("spreads").EnumerateArray());
        for (var twice = 0; twice < 2; twice++)
            Assert.Equal(twice == 0 ? 7 : 0, (await bench.Post(other + "/import", Body(csv, false))).GetProperty("added").GetInt32());
        Assert.Equal(csv, await bench.Http.GetStringAsync(other + "/export?copy=1"));
        Assert.True((await bench.Post(Log + "/import/look", new { copy = 1, text = csv })).GetProperty("remembered").GetBoolean());
    }

    [Fact]
    public async Task How_a_table_was_read_is_remembered_also_after_a_start_anew_and_bad_rows_hold_nothing_up()
    {
        using var bench = new Bench();
        const string text = "day;went well;far\n20.11.2026;sure;12,5\n20.11.2026;nope;13\n21.11.2026;perhaps;1\n";
        var mapping = new
        {
            columns = new object[]
            {
                new
                {
                    column = "day",
                    field = "time",
                    unit = "",
                },
                new
                {
                    column = "went well",
                    field = "passed",
                    unit = "",
                },
                new
                {
                    column = "far",
                    field = "measured",
                    unit = "mm",
                },
            },
            passes = new[] { "Sure" },
            fails = new[] { "nope" },
            days = "dayFirst",
        };
        var done = await bench.Post(
            Log + "/import",
            new
            {
                copy = 1,
                text,
                mapping,
                revision = 1,
                minutesEast = 60,
            }
        );
        Assert.Equal(2, done.GetProperty("added").GetInt32());
        Assert.Equal(4, done.GetProperty("bad")[0].GetProperty("line").GetInt32());
        var line = done.GetProperty("view").GetProperty("spreads")[0].GetProperty("lines")[0];
        Assert.Equal(new DateTime(2026, 11, 19, 23, 0, 0, DateTimeKind.Utc), line.GetProperty("timeUtc").GetDateTime());
        Assert.Equal(12.5, line.GetProperty("measured")[0].GetProperty("value").GetDouble());
        bench.Restart();
        var look = await bench.Post(Log + "/import/look", new { copy = 1, text = text.ToUpperInvariant() });
        Assert.True(look.GetProperty("remembered").GetBoolean());
        Assert.Equal("dayFirst", Text(look.GetProperty("mapping"), "days"));
        // The rows that were mended come in, the others are there already.
        var again = await bench.Post(
            Log + "/import",
            new
            {
                copy = 1,
                text = text.Replace("perhaps", "nope", StringComparison.Ordinal),
                mapping,
                revision = 1,
                minutesEast = 60,
            }
        );
        Assert.Equal((1, 2), (again.GetProperty("added").GetInt32(), again.GetProperty("known").GetInt32()));
    }

    [Theory]
    [InlineData("""{"copy":1,"text":""}""", "text")]
    [InlineData("""{"copy":1,"text":"passed\nyes"}""", "mapping")]
    [InlineData("""{"copy":1,"text":"passed\nyes","mapping":{"columns":[],"passes":[],"fails":[]}}""", "mapping.columns")]
    [InlineData("""{"copy":1,"text":"passed\nyes","revision":7,"mapping":MAPPING}""", "revision")]
    [InlineData("""{"copy":1,"text":"passed\nyes","minutesEast":1e9,"mapping":MAPPING}""", "minutesEast")]
    public async Task What_is_no_table_is_refused_by_its_field(string body, string field)
    {
        using var bench = new Bench();
        const string mapping = """{"columns":[{"column":"passed","field":"passed","unit":""}],"passes":["yes"],"fails":[]}""";
        var given = JsonDocument.Parse(body.Replace("MAPPING", mapping, StringComparison.Ordinal)).RootElement;
        var (status, problem) = await bench.Send(HttpMethod.Post, Log + "/import", given);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty(field, out _), problem.ToString());
    }

    [Fact]
    public async Task Everything_goes_out_as_one_file_and_comes_in_as_it_was()
    {
        using var bench = new Bench();
        await bench.Post(
            Log + "/series",
            new
            {
                key = "series-0001",
                timeUtc = At,
                copy = 1,
                planned = 7,
                light = "dim",
                who = "Wren",
            }
        );
        await Keep(bench, 4, 3);
        var program = await bench.Get(Bench.Rig + "/program");
        await bench.Post(
            Bench.Rig + "/program/edit",
            new
            {
                baseRevision = program.GetProperty("revision").GetInt32(),
                act = "set",
                line = 4,
                text = "var cruise = 17 %",
            }
        );
        await bench.Post(Bench.Rig + "/send", new { copy = 1 });
        await Keep(bench, 2, 1, 20, 3);
        var file = JsonNode.Parse(await bench.Http.GetStringAsync(Bench.Rig + "/export"))!;
        var log = file["log"]!;
        Assert.Equal((3, 32), (log["revision"]!.GetValue<int>(), log["runs"]!.AsArray().Count));
        file["name"] = "Trolley again";
        var made = await bench.Post("/api/rigs", JsonDocument.Parse(file.ToJsonString()).RootElement);
        var at = $"/api/rigs/{Text(made, "id")}";
        var (was, now) = (await bench.Get(Log + "?copy=1"), await bench.Get(at + "/log?copy=1"));
        foreach (var view in new[] { was, now })
        {
            Assert.Equal(
                [(3, 2, 3), (2, 4, 7)],
                view.GetProperty("spreads")
                    .EnumerateArray()
                    .Select(s =>
                        (s.GetProperty("revision").GetInt32(), s.GetProperty("passes").GetInt32(), s.GetProperty("lines").GetArrayLength())
                    )
            );
            Assert.Contains("17 %", view.GetProperty("spreads")[0].GetProperty("changed")[0].GetString());
            Assert.Equal(3, view.GetProperty("held").GetProperty("earlier")[0].GetInt32());
            Assert.Equal("Wren", Text(view.GetProperty("series")[0], "who"));
        }
        Assert.Equal(
            was.GetProperty("spreads")[1].GetProperty("lines").ToString(),
            now.GetProperty("spreads")[1].GetProperty("lines").ToString()
        );
        // What goes out of it is what came in.
        var second = JsonNode.Parse(await bench.Http.GetStringAsync(at + "/export"))!;
        Assert.Equal(log.ToJsonString(), second["log"]!.ToJsonString());
    }

    [Theory]
    [InlineData("revision", "0", "log.revision")]
    [InlineData("earlier", """[{"number":1}]""", "log.earlier[0].number")]
    [InlineData("earlier", """[null]""", "log.earlier[0].number")]
    [InlineData("runs", """[null]""", "log.runs[0]")]
    [InlineData("runs", """[{"key":"k","copy":1,"revision":1,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.runs[0].key")]
    [InlineData("runs", """[{"key":"run-00001","copy":9,"revision":1,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.runs[0].copy")]
    [InlineData("runs", """[{"key":"run-00001","copy":1,"revision":3,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.runs[0].revision")]
    [InlineData("runs", """[{"key":"run-00001","copy":1,"revision":1,"timeUtc":"0001-01-01T00:00:00Z"}]""", "log.runs[0].timeUtc")]
    [InlineData("runs", """[{"key":"run-00001","copy":1,"revision":1,"timeS":-1,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.runs[0].timeS")]
    [InlineData(
        "runs",
        """[{"key":"run-00001","copy":1,"revision":1,"passed":true,"cause":"x","timeUtc":"2026-01-01T00:00:00Z"}]""",
        "log.runs[0].cause"
    )]
    [InlineData(
        "runs",
        """[{"key":"run-00001","copy":1,"revision":1,"measured":[{"what":""}],"timeUtc":"2026-01-01T00:00:00Z"}]""",
        "log.runs[0].measured"
    )]
    [InlineData("series", """[{"key":"s","copy":1,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.series[0].key")]
    [InlineData("series", """[{"key":"series-01","copy":1,"planned":501,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.series[0].planned")]
    [InlineData("sends", """[{"copy":1,"revision":4,"timeUtc":"2026-01-01T00:00:00Z"}]""", "log.sends[0].revision")]
    public async Task A_log_in_a_file_that_is_wrong_is_refused_by_its_field(string field, string value, string at)
    {
        using var bench = new Bench();
        var file = JsonNode.Parse(await bench.Http.GetStringAsync(Bench.Rig + "/export"))!;
        var log = new JsonObject { ["revision"] = 1 };
        log[field] = JsonNode.Parse(value);
        file["log"] = log;
        var (status, problem) = await bench.Send(HttpMethod.Post, "/api/rigs", JsonDocument.Parse(file.ToJsonString()).RootElement);
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.True(problem.GetProperty("errors").TryGetProperty(at, out _), problem.ToString());
    }

    [Fact]
    public async Task Missions_come_from_the_table_where_it_ran_there_and_from_the_bench_where_not()
    {
        using var bench = new Bench();
        await Keep(bench, 7, 3);
        JsonElement Own(JsonElement all) =>
            all.EnumerateArray().First(m => Text(m, "rig") == "seed-trolley" && m.GetProperty("copy").GetInt32() == 1);
        var mission = Own(await bench.Get("/api/missions"));
        Assert.Equal((0.7, true), (mission.GetProperty("success").GetDouble(), mission.GetProperty("fromLog").GetBoolean()));
        Assert.Equal("7 of 10 runs on the table, revision 2", Text(mission, "say"));
        Assert.True(mission.GetProperty("low").GetDouble() < 0.7 && mission.GetProperty("high").GetDouble() > 0.7);
    }

    [Fact]
    public async Task Runs_of_series_in_two_scenes_are_held_apart()
    {
        using var bench = new Bench();
        const string at = "/api/rigs/deck-scrubber";
        var scenes = (await bench.Get(at + "/scenes")).GetProperty("scenes").EnumerateArray().Select(s => Text(s, "name")).ToArray();
        await bench.Post(
            at + "/log/series",
            new
            {
                key = "series-own1",
                timeUtc = At,
                copy = 1,
            }
        );
        await bench.Post(
            at + "/log/series",
            new
            {
                key = "series-own2",
                timeUtc = At,
                copy = 1,
                scene = scenes[^1],
            }
        );
        await bench.Post(
            at + "/log/lines",
            new
            {
                copy = 1,
                lines = Enumerable
                    .Range(0, 9)
                    .Select(i => new
                    {
                        key = $"line-{i:0000}",
                        revision = 1,
                        passed = i < 5,
                        timeUtc = At.AddMinutes(i),
                        series = i % 3 == 0 ? "series-own2" : "series-own1",
                    }),
            }
        );
        var spreads = (await bench.Get(at + "/log")).GetProperty("spreads").EnumerateArray().ToArray();
        Assert.Equal(
            [("", 3, 6), (scenes[^1], 2, 3)],
            spreads
                .Select(s => (Text(s, "scene"), s.GetProperty("passes").GetInt32(), s.GetProperty("lines").GetArrayLength()))
                .OrderBy(s => s.Item1, StringComparer.Ordinal)
        );
        // One against the other is no question of revisions.
        Assert.All(spreads, s => Assert.Equal(JsonValueKind.Null, s.GetProperty("settled").ValueKind));
    }

    [Fact]
    public async Task The_demo_tells_what_happened_to_its_copy_and_what_was_to_be_expected()
    {
        using var bench = new Bench();
        const string copy = Log + "?copy=3";
        JsonElement[] spreads = [];
        // What nobody worked out then is worked out behind the page.
        for (
            var i = 0;
            i < 600 && !(spreads.Length == 2 && spreads.All(s => s.GetProperty("promise").ValueKind == JsonValueKind.Object));
            i++
        )
        {
            await Task.Delay(100);
            spreads = [.. (await bench.Get(copy)).GetProperty("spreads").EnumerateArray()];
        }
        Assert.Equal(
            [(2, 8, 12), (1, 3, 10)],
            spreads.Select(s =>
                (s.GetProperty("revision").GetInt32(), s.GetProperty("passes").GetInt32(), s.GetProperty("lines").GetArrayLength())
            )
        );
        Assert.All(spreads, s => Assert.True(s.GetProperty("promise").GetProperty("afterwards").GetBoolean()));
        Assert.All(spreads, s => Assert.True(s.GetProperty("sent").GetBoolean()));
        Assert.Equal("8 of 12, as was to be expected.", Text(spreads[0], "say"));
        Assert.EndsWith("the bench does not know something.", Text(spreads[1], "say"));
        // A gauge kept no times: nothing is said of them.
        var learnt = await bench.Get(Log + "/learnt?copy=3&revision=1");
        Assert.Equal(
            [
                "7 runs failed by “the cable caught the rail”, which the bench never shows.",
                "It was held against the scene “The closed rail”: is the table like it?",
            ],
            learnt.GetProperty("candidates").EnumerateArray().Select(c => c.GetString())
        );
        var told = (await bench.Get(Log + "/history?copy=3")).EnumerateArray().ToArray();
        Assert.Equal(told.OrderByDescending(h => h.GetProperty("timeUtc").GetDateTime()), told);
        foreach (
            var say in new[]
            {
                "8 of 12 runs of revision 2 passed",
                "3 of 10 runs of revision 1 passed",
                "revision 2 was sent to the controller",
                "a series of 12 began, grey morning, the same cells, the long table, Cockles",
            }
        )
            Assert.Contains(told, h => Text(h, "say") == say);
        Assert.DoesNotContain((await bench.Get(Log + "/history?copy=1")).EnumerateArray(), h => Text(h, "what") == "runs");
    }

    [Fact]
    public async Task An_earlier_revision_without_a_program_comes_in_and_its_runs_are_shown()
    {
        using var bench = new Bench();
        var file = JsonNode.Parse(await bench.Http.GetStringAsync(Bench.Rig + "/export"))!;
        file["log"]!["earlier"]![0]!["design"]!["programs"] = new JsonArray();
        file["log"]!["earlier"]![0]!["design"]!["name"] = " Spaced ";
        file["name"] = "Without a program";
        var made = await bench.Post("/api/rigs", JsonDocument.Parse(file.ToJsonString()).RootElement);
        Assert.Equal(2, made.GetProperty("revision").GetInt32());
        var view = await bench.Get($"/api/rigs/{Text(made, "id")}/log?copy=3");
        Assert.Equal([2, 1], view.GetProperty("spreads").EnumerateArray().Select(s => s.GetProperty("revision").GetInt32()));
        Assert.Equal(JsonValueKind.Null, view.GetProperty("spreads")[1].GetProperty("promise").ValueKind);
        // As of every rig that comes in its names are trimmed and it has a program, if only an empty one.
        var again = JsonNode.Parse(await bench.Http.GetStringAsync($"/api/rigs/{Text(made, "id")}/export"))!;
        var earlier = again["log"]!["earlier"]![0]!["design"]!;
        Assert.Equal("Spaced", earlier["name"]!.GetValue<string>());
        Assert.StartsWith("program Spaced", Assert.Single(earlier["programs"]!.AsArray())!["script"]!.GetValue<string>());
    }
}
