using System.Net;
using System.Text.Json;
using Chiton.Data;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

public class LogTests
{
    private const string Log = Bench.Rig + "/log";

    private static readonly DateTime At = new(2026, 11, 20, 9, 0, 0, DateTimeKind.Utc);

    private static object Line(
        int number,
        bool passed,
        int revision = 2,
        string? series = null,
        double? timeS = null,
        string? cause = null,
        bool expected = false
    ) =>
        new
        {
            key = $"line-{number:0000}",
            revision,
            passed,
            timeUtc = At.AddMinutes(number),
            series,
            timeS,
            cause,
            causeExpected = expected,
        };

    private static Task<JsonElement> Keep(Bench bench, params object[] lines) => bench.Post(Log + "/lines", new { copy = 1, lines });

    private static async Task Runs(Bench bench, int passes, int failures, int revision = 2, int from = 0, string? cause = null)
    {
        var kept = await Keep(
            bench,
            [.. Enumerable.Range(0, passes + failures).Select(i => Line(from + i, i < passes, revision, cause: i < passes ? null : cause))]
        );
        Assert.Equal(passes + failures, kept.GetProperty("kept").GetArrayLength());
    }

    private static string Text(JsonElement e, string field) => e.GetProperty(field).GetString()!;

    [Fact]
    public async Task A_line_that_is_sent_twice_is_kept_once_also_after_a_start_anew()
    {
        using var bench = new Bench();
        await Keep(bench, Line(1, true), Line(2, false));
        // The answer was lost: the page sends both again, with a third, and a line stands twice in one call.
        var again = await Keep(bench, Line(1, true), Line(2, false), Line(3, true), Line(3, true));
        Assert.Equal(4, again.GetProperty("kept").GetArrayLength());
        bench.Restart();
        await Keep(bench, Line(3, false));
        var spread = (await bench.Get(Log + "?copy=1")).GetProperty("spreads")[0];
        // What was kept first stands: a line is never changed by sending another of its key.
        Assert.Equal([true, false, true], spread.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("passed").GetBoolean()));
        Assert.Equal(2, spread.GetProperty("passes").GetInt32());
    }

    [Fact]
    public async Task A_bad_line_is_told_and_holds_nothing_up()
    {
        using var bench = new Bench();
        object Bad(int number, object? change) => change ?? Line(number, true);
        object[] bad =
        [
            new
            {
                key = "bad-00001",
                revision = 99,
                passed = true,
                timeUtc = At,
            },
            new
            {
                key = "bad-00002",
                revision = 1.5,
                passed = true,
                timeUtc = At,
            },
            new
            {
                key = "bad-00003",
                revision = 1,
                timeUtc = At,
            },
            new
            {
                key = "bad-00004",
                revision = 1,
                passed = true,
            },
            new
            {
                key = "bad-00005",
                revision = 1,
                passed = true,
                timeUtc = DateTime.UtcNow.AddDays(3),
            },
            new
            {
                key = "bad-00006",
                revision = 1,
                passed = true,
                timeUtc = At,
                timeS = -1,
            },
            new
            {
                key = "bad-00007",
                revision = 1,
                passed = true,
                timeUtc = At,
                timeS = 3601,
            },
            new
            {
                key = "bad-00008",
                revision = 1,
                passed = true,
                timeUtc = At,
                cause = "it slipped",
            },
            new
            {
                key = "bad-00009",
                revision = 1,
                passed = true,
                timeUtc = At,
                series = "?",
            },
            new
            {
                key = "bad-00010",
                revision = 1,
                passed = false,
                timeUtc = At,
                cause = new string('x', 501),
            },
            new
            {
                key = "bad-00011",
                revision = 1,
                passed = false,
                timeUtc = At,
                measured = new[] { new { what = "", value = 1 } },
            },
        ];
        var answer = await Keep(bench, [.. bad.Select((b, i) => Bad(i, b)), Line(1, true)]);
        Assert.Equal(["line-0001"], answer.GetProperty("kept").EnumerateArray().Select(k => k.GetString()));
        var refused = answer.GetProperty("refused").EnumerateArray().ToDictionary(r => Text(r, "key"), r => Text(r, "say"));
        string[] fields =
        [
            "revision",
            "revision",
            "passed",
            "timeUtc",
            "timeUtc",
            "timeS",
            "timeS",
            "cause",
            "series",
            "cause",
            "measured[0].what",
        ];
        Assert.Equal(
            fields,
            refused.OrderBy(r => r.Key, StringComparer.Ordinal).Select(r => r.Value[..r.Value.IndexOf(": ", StringComparison.Ordinal)])
        );
        Assert.Equal(1, (await bench.Get(Log + "?copy=1")).GetProperty("spreads")[0].GetProperty("lines").GetArrayLength());
        foreach (var key in new[] { "", "short", "with space in it", new string('k', 65), "ключ-ключ" })
        {
            var (status, body) = await bench.Send(
                HttpMethod.Post,
                Log + "/lines",
                new
                {
                    lines = new[]
                    {
                        new
                        {
                            key,
                            revision = 1,
                            passed = true,
                            timeUtc = At,
                        },
                    },
                }
            );
            Assert.Equal(HttpStatusCode.BadRequest, status);
            Assert.Contains("lines[0].key", body.GetProperty("errors").EnumerateObject().Select(e => e.Name));
        }
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.Send(HttpMethod.Post, Log + "/lines", new { lines = Array.Empty<object>() })).Status
        );
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await bench.Send(HttpMethod.Post, Log + "/lines", new { lines = Enumerable.Range(0, 501).Select(i => Line(i, true)) })).Status
        );
    }

    [Fact]
    public async Task A_series_counts_itself_and_a_run_is_taken_back_and_given_back()
    {
        using var bench = new Bench();
        object Series(int planned, string light) =>
            new
            {
                key = "series-01",
                timeUtc = At,
                copy = 1,
                planned,
                light,
                pack = "full",
                who = "Crabs",
            };
        await bench.Post(Log + "/series", Series(10, "morning"));
        var view = await bench.Post(Log + "/series", Series(12, "afternoon"));
        await Keep(bench, Line(1, true, series: "series-01"), Line(2, false, series: "series-01"), Line(3, true));
        view = await bench.Get(Log + "?copy=1");
        var series = Assert.Single(view.GetProperty("series").EnumerateArray());
        Assert.Equal(
            (12, "afternoon", 2, 1),
            (
                series.GetProperty("planned").GetInt32(),
                Text(series, "light"),
                series.GetProperty("runs").GetInt32(),
                series.GetProperty("passes").GetInt32()
            )
        );
        view = await bench.Post(Log + "/lines/line-0001/back", new { back = true });
        Assert.Equal(1, view.GetProperty("spreads")[0].GetProperty("passes").GetInt32());
        // A line taken back stays so when the page sends it again.
        await Keep(bench, Line(1, true, series: "series-01"));
        Assert.Equal(2, (await bench.Get(Log + "?copy=1")).GetProperty("spreads")[0].GetProperty("lines").GetArrayLength());
        view = await bench.Post(Log + "/lines/line-0001/back", new { back = false });
        Assert.Equal(3, view.GetProperty("spreads")[0].GetProperty("lines").GetArrayLength());
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await bench.Send(HttpMethod.Post, Log + "/lines/line-9999/back", new { back = true })).Status
        );
        var (status, body) = await bench.Send(
            HttpMethod.Post,
            Log + "/series",
            new
            {
                key = "?",
                timeUtc = At,
                planned = 501,
                scene = "Nowhere",
                light = new string('x', 101),
            }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal(["key", "light", "planned", "scene"], body.GetProperty("errors").EnumerateObject().Select(e => e.Name).Order());
    }

    [Fact]
    public async Task Runs_are_held_against_what_was_promised()
    {
        using var bench = new Bench();
        await Runs(bench, 6, 4);
        var unproved = (await bench.Get(Log + "?copy=1")).GetProperty("spreads")[0];
        // The header counted the demo, and that is a promise too; before it was counted there is none.
        Assert.Contains("of 10", Text(unproved, "say"));
        var proof = await bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 200,
                seed = 1,
                copy = 1,
            }
        );
        var spread = (await bench.Get(Log + "?copy=1")).GetProperty("spreads")[0];
        var promise = spread.GetProperty("promise");
        var next = proof.GetProperty("next")[0];
        Assert.Equal(proof.GetProperty("number").GetInt64(), promise.GetProperty("proof").GetInt64());
        Assert.Equal(
            (10, next.GetProperty("low").GetInt32(), next.GetProperty("high").GetInt32()),
            (promise.GetProperty("runs").GetInt32(), promise.GetProperty("low").GetInt32(), promise.GetProperty("high").GetInt32())
        );
        Assert.Equal(proof.GetProperty("passes").GetInt32() / 200.0, promise.GetProperty("mean").GetDouble(), 10);
        var inside = promise.GetProperty("low").GetInt32() <= 6 && 6 <= promise.GetProperty("high").GetInt32();
        Assert.Equal(inside, spread.GetProperty("asPromised").GetBoolean());
        Assert.Equal(inside, Text(spread, "say") == "6 of 10, as was to be expected.");
        Assert.True(spread.GetProperty("changed").GetArrayLength() == 0 && spread.GetProperty("settled").ValueKind == JsonValueKind.Null);
    }

    [Fact]
    public async Task Between_revisions_stands_what_changed_and_whether_it_helped()
    {
        using var bench = new Bench();
        await Runs(bench, 1, 9);
        var program = await bench.Get(Bench.Rig + "/program");
        var lines = Text(program, "script").Split('\n');
        var at = Array.FindIndex(lines, l => System.Text.RegularExpressions.Regex.IsMatch(l, @"\d+ %"));
        var text = System.Text.RegularExpressions.Regex.Replace(lines[at].Trim(), @"\d+ %", "17 %");
        var edited = await bench.Post(
            Bench.Rig + "/program/edit",
            new
            {
                baseRevision = program.GetProperty("revision").GetInt32(),
                act = "set",
                line = at + 1,
                text,
            }
        );
        var revision = edited.GetProperty("revision").GetInt32();
        await Runs(bench, 10, 0, revision, 20);
        var view = await bench.Get(Log + "?copy=1");
        var later = view.GetProperty("spreads")[0];
        Assert.Equal(revision, later.GetProperty("revision").GetInt32());
        Assert.Contains("17 %", later.GetProperty("changed")[0].GetString());
        Assert.StartsWith("Better by ", Text(later, "settled"));
        Assert.EndsWith("in 100: settled.", Text(later, "settled"));
        // Never sent, and said at once; the earlier one is what the controller holds.
        Assert.False(later.GetProperty("sent").GetBoolean());
        Assert.True(view.GetProperty("spreads")[1].GetProperty("sent").GetBoolean());
        var held = view.GetProperty("held");
        Assert.Equal(
            (2, revision, false),
            (held.GetProperty("revision").GetInt32(), held.GetProperty("now").GetInt32(), held.GetProperty("same").GetBoolean())
        );
        Assert.Contains($"a run counts for revision 2", Text(held, "say"));
        await bench.Post(Bench.Rig + "/send", new { copy = 1 });
        held = (await bench.Get(Log + "?copy=1")).GetProperty("held");
        Assert.True(held.GetProperty("same").GetBoolean());
        Assert.Equal([revision], held.GetProperty("earlier").EnumerateArray().Select(r => r.GetInt32()));
    }

    [Fact]
    public async Task What_runs_teach_follows_and_a_surprise_is_called_out_with_what_would_explain_it()
    {
        using var bench = new Bench();
        await bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 2000,
                seed = 1,
                copy = 1,
            }
        );
        // Nothing passes here, and the bench says that most do.
        await Runs(bench, 0, 18, from: 50, cause: "the cable caught the rail");
        var spread = (await bench.Get(Log + "?copy=1")).GetProperty("spreads")[0];
        Assert.InRange(spread.GetProperty("called").GetProperty("chance").GetDouble(), 0, 0.01);
        Assert.Contains("the bench does not know something", Text(spread, "say"));
        var learnt = await bench.Get(Log + "/learnt?copy=1&revision=2");
        Assert.Equal(0, learnt.GetProperty("numbers").GetArrayLength());
        Assert.Contains(
            learnt.GetProperty("candidates").EnumerateArray(),
            c => c.GetString() == "18 runs failed by “the cable caught the rail”, which the bench never shows."
        );
        // Taken back, they teach nothing; what is logged in their place does.
        for (var i = 50; i < 68; i++)
            await bench.Post($"{Log}/lines/line-{i:0000}/back", new { back = true });
        await Runs(bench, 8, 2);
        learnt = await bench.Get(Log + "/learnt?copy=1&revision=2");
        static double Width(JsonElement range) => range.GetProperty("high").GetDouble() - range.GetProperty("low").GetDouble();
        Assert.True(Width(learnt.GetProperty("after")) < Width(learnt.GetProperty("before")));
        Assert.StartsWith("With these the range narrows to ", Text(learnt, "say"));
        Assert.True(learnt.GetProperty("enough").GetBoolean());
        var (status, _) = await bench.Send(HttpMethod.Get, Log + "/learnt?copy=1&revision=7", new { });
        Assert.Equal(HttpStatusCode.BadRequest, status);
    }

    [Fact]
    public async Task Copies_stand_side_by_side_and_one_that_deviates_is_named()
    {
        using var bench = new Bench();
        await Runs(bench, 9, 1);
        var kept = await bench.Post(
            Log + "/lines",
            new { copy = 2, lines = Enumerable.Range(100, 10).Select(i => Line(i, i == 100)).ToArray() }
        );
        Assert.Equal(10, kept.GetProperty("kept").GetArrayLength());
        var copies = (await bench.Get(Log + "?copy=2")).GetProperty("copies").EnumerateArray().ToArray();
        Assert.Equal([(1, 9), (2, 1), (3, 11)], copies.Select(c => (c.GetProperty("copy").GetInt32(), c.GetProperty("passes").GetInt32())));
        Assert.Equal("It passes less often than the others: settled.", Text(copies[1], "say"));
        Assert.Equal("It passes more often than the others: settled.", Text(copies[0], "say"));
    }

    [Fact]
    public async Task A_batch_is_on_disk_when_it_is_answered()
    {
        using var bench = new Bench();
        await Runs(bench, 3, 2);
        // Read from another connection to the same file, as after a kill.
        using var scope = bench.Server.Services.CreateScope();
        var lines = await scope.ServiceProvider.GetRequiredService<RigStore>().Log.Lines("seed-trolley", 1, default);
        Assert.Equal(5, lines.Count);
        Assert.All(lines, l => Assert.Equal(DateTimeKind.Utc, DateTime.SpecifyKind(l.TimeUtc, DateTimeKind.Utc).Kind));
        Assert.Equal(At.AddMinutes(4), DateTime.SpecifyKind(lines[^1].TimeUtc, DateTimeKind.Utc));
    }
}
