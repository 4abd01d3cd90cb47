using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;

namespace Chiton.Server.Tests.Parts;

public class ProveTests
{
    private const string Proofs = Bench.Rig + "/proofs";

    private static Task<JsonElement> Prove(Bench bench, int runs = 200, string? scene = null) =>
        bench.Post(
            Proofs,
            new
            {
                runs,
                seed = 1,
                copy = 1,
                scene,
            }
        );

    private static (double Low, double High) Range(JsonElement range) =>
        (range.GetProperty("low").GetDouble(), range.GetProperty("high").GetDouble());

    [Fact]
    public async Task A_proof_says_what_this_copy_may_be_and_what_is_luck()
    {
        using var bench = new Bench();
        var proof = await Prove(bench);
        Assert.Equal(100, proof.GetProperty("copies").GetInt32());
        var (low, high) = Range(proof.GetProperty("copy"));
        var rate = proof.GetProperty("passes").GetInt32() / 200.0;
        Assert.InRange(rate, low, high);
        // Luck alone is narrower than what the copy may be, and the pooled count is narrower still.
        var chance = Range(proof.GetProperty("chance"));
        Assert.True(chance.High - chance.Low < high - low);
        Assert.True(proof.GetProperty("high").GetDouble() - proof.GetProperty("low").GetDouble() < high - low);
        var next = proof.GetProperty("next").EnumerateArray().ToArray();
        Assert.Equal([10, 20], next.Select(n => n.GetProperty("runs").GetInt32()));
        Assert.All(next, n => Assert.InRange(n.GetProperty("low").GetInt32(), 0, n.GetProperty("high").GetInt32()));
        Assert.Equal(100, proof.GetProperty("marks").GetArrayLength());
        // The pack makes most of it; how it could be measured is said.
        var doubt = proof.GetProperty("doubts")[0];
        Assert.Equal("battery", doubt.GetProperty("name").GetString());
        Assert.StartsWith("Measuring the pack and saying it in the scene", doubt.GetProperty("say").GetString());
        Assert.True(doubt.GetProperty("widthThen").GetDouble() < doubt.GetProperty("widthNow").GetDouble());
        Assert.Contains("battery", proof.GetProperty("say").GetString());
        // The header knows it too.
        var rated = (await bench.Get(Bench.Rig)).GetProperty("rate");
        Assert.Equal($"this copy: {Math.Round(100 * low)} to {Math.Round(100 * high)} in 100", rated.GetProperty("likely").GetString());
    }

    [Fact]
    public async Task A_measured_pack_narrows_the_range()
    {
        using var bench = new Bench();
        var before = await Prove(bench);
        var scenes = await bench.Get(Bench.Rig + "/scenes");
        string[] texts = [.. scenes.GetProperty("scenes").EnumerateArray().Select(s => s.GetProperty("text").GetString()!)];
        texts[0] = texts[0].TrimEnd() + "\nbattery at 6 V, measured\n";
        using var kept = await bench.Http.PutAsJsonAsync(
            Bench.Rig + "/scenes",
            new
            {
                baseRevision = scenes.GetProperty("revision").GetInt32(),
                scenes = texts,
                what = "measured the pack",
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, kept.StatusCode);
        var after = await Prove(bench);
        var (was, now) = (Range(before.GetProperty("copy")), Range(after.GetProperty("copy")));
        var promised = before.GetProperty("doubts")[0].GetProperty("widthThen").GetDouble();
        Assert.True(now.High - now.Low < was.High - was.Low, $"{was} {now}");
        Assert.InRange(now.High - now.Low, 0.4 * promised, 1.6 * promised);
        Assert.DoesNotContain(after.GetProperty("doubts").EnumerateArray(), d => d.GetProperty("name").GetString() == "battery");
    }

    [Fact]
    public async Task Any_run_of_a_proof_can_be_seen_again_and_its_numbers_are_those_that_were_drawn()
    {
        using var bench = new Bench();
        var proof = await Prove(bench, 60);
        var number = proof.GetProperty("number").GetInt64();
        var names = proof.GetProperty("numbers").EnumerateArray().Select(n => n.GetProperty("name").GetString()!).ToArray();
        Assert.Contains("battery", names);
        var battery = (await bench.Get($"{Proofs}/{number}/drawn?name=battery")).GetProperty("values").EnumerateArray().ToArray();
        Assert.Equal(60, battery.Length);
        foreach (var i in new[] { 0, 1, 17, 59 })
        {
            var stroke = proof.GetProperty("strokes")[i];
            var run = await bench.Post(
                Bench.Rig + "/runs",
                new
                {
                    seed = stroke.GetProperty("seed").GetInt64(),
                    copySeed = stroke.GetProperty("copySeed").GetInt64(),
                    copy = 1,
                }
            );
            Assert.Equal(stroke.GetProperty("passed").GetBoolean(), run.GetProperty("outcome").GetString() == "pass");
            Assert.Equal(stroke.GetProperty("endS").GetDouble(), run.GetProperty("report").GetProperty("decidedS").GetDouble(), 9);
            var drawn = run.GetProperty("report").GetProperty("draws").EnumerateArray();
            Assert.Equal(
                drawn.Single(d => d.GetProperty("name").GetString() == "battery").GetProperty("value").GetDouble(),
                battery[i].GetDouble(),
                5
            );
        }
        // Two runs of one copy have what is not known in common.
        Assert.Equal(battery[0].GetDouble(), battery[1].GetDouble());
        Assert.NotEqual(battery[1].GetDouble(), battery[2].GetDouble());
        using var none = await bench.Http.GetAsync($"{Proofs}/{number}/drawn?name=tide");
        Assert.Equal(HttpStatusCode.BadRequest, none.StatusCode);
        Assert.Contains("it was the same in every run", await none.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Proofs_are_kept_listed_seen_again_and_taken_along()
    {
        using var bench = new Bench();
        var first = await Prove(bench, 50);
        await bench.Save((await bench.Script()).Replace("60 %", "45 %"));
        var second = await Prove(bench, 50);
        bench.Restart();
        var list = (await bench.Get($"{Proofs}?copy=1")).EnumerateArray().ToArray();
        Assert.Equal(
            [second.GetProperty("number").GetInt64(), first.GetProperty("number").GetInt64()],
            list.Select(p => p.GetProperty("number").GetInt64())
        );
        Assert.Equal([true, false], list.Select(p => p.GetProperty("current").GetBoolean()));
        var again = await bench.Get($"{Proofs}/{first.GetProperty("number").GetInt64()}");
        Assert.Equal(first.GetProperty("say").GetString(), again.GetProperty("say").GetString());
        Assert.Equal(first.GetProperty("strokes").GetRawText(), again.GetProperty("strokes").GetRawText());
        var csv = await bench.Http.GetStringAsync($"{Proofs}/{first.GetProperty("number").GetInt64()}/export");
        var rows = csv.TrimEnd('\n').Split('\n');
        Assert.Equal(51, rows.Length);
        Assert.StartsWith("run,seed,copy,copy seed,outcome,score,time in s,cause,", rows[0]);
        Assert.Contains("battery in V", rows[0]);
        Assert.Equal(first.GetProperty("passes").GetInt32(), rows.Skip(1).Count(r => r.Split(',')[4] == "pass"));
        using var none = await bench.Http.GetAsync($"{Proofs}/999999");
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }

    [Fact]
    public async Task A_proof_from_before_copies_were_made_up_is_still_shown_and_is_no_gauge()
    {
        using var bench = new Bench();
        var first = await Prove(bench, 40);
        // As an earlier version kept it.
        using (var scope = bench.Server.Services.CreateScope())
        {
            var open = scope.ServiceProvider.GetRequiredService<Chiton.Data.ChitonDb>();
            var row = open.Proofs.Single(p => p.Id == first.GetProperty("number").GetInt64());
            var old = JsonSerializer.Deserialize<Dictionary<string, JsonElement>>(row.Result)!;
            foreach (var key in (string[])["copies", "chance", "copy", "next", "marks", "doubts", "numbers", "say", "target"])
                old.Remove(key);
            row.Result = JsonSerializer.Serialize(old).Replace("\"copySeed\":", "\"was\":", StringComparison.Ordinal);
            (row.Passed, row.Scene, row.Low, row.High, row.Drawn) = ("", "", 0, 1, null);
            open.Proofs.RemoveRange(open.Proofs.Where(p => p.Light));
            await open.SaveChangesAsync();
        }
        var proof = (await bench.Get($"{Proofs}/latest?copy=1")).GetProperty("proof");
        Assert.Equal(first.GetProperty("passes").GetInt32(), proof.GetProperty("passes").GetInt32());
        Assert.Equal(JsonValueKind.Null, proof.GetProperty("copy").ValueKind);
        Assert.Equal(0, proof.GetProperty("next").GetArrayLength());
        Assert.Equal($"{first.GetProperty("passes").GetInt32()} of 40 runs pass.", proof.GetProperty("say").GetString());
        Assert.Equal("counting", (await bench.Get(Bench.Rig)).GetProperty("rate").GetProperty("state").GetString());
    }

    [Fact]
    public async Task A_change_is_held_against_what_was_before_on_the_same_luck()
    {
        using var bench = new Bench();
        await Prove(bench);
        await bench.Save((await bench.Script()).Replace("60 %", "45 %"));
        var proof = await Prove(bench);
        var against = proof.GetProperty("against");
        Assert.Equal(2, against.GetProperty("revision").GetInt32());
        Assert.Equal("better", against.GetProperty("rates").GetProperty("verdict").GetString());
        Assert.StartsWith("Better: on the same luck ", against.GetProperty("rates").GetProperty("say").GetString());
        var header = (await bench.Get(Bench.Rig)).GetProperty("rate").GetProperty("against");
        Assert.Equal("better", header.GetProperty("rates").GetProperty("verdict").GetString());
        // The same question asked outright, with a copy a run, and the runs in which they part.
        var compared = await bench.Post(
            Proofs + "/compare",
            new
            {
                earlier = new { revision = 2, copy = 1 },
                later = new { revision = 3, copy = 1 },
                runs = 200,
                seed = 1,
            }
        );
        var rates = compared.GetProperty("rates");
        Assert.Equal(
            ("revision 2", "revision 3"),
            (compared.GetProperty("earlier").GetString(), compared.GetProperty("later").GetString())
        );
        Assert.Equal("better", rates.GetProperty("verdict").GetString());
        var (gained, lost) = (rates.GetProperty("gained").GetInt32(), rates.GetProperty("lost").GetInt32());
        Assert.Equal(compared.GetProperty("laterPasses").GetInt32() - compared.GetProperty("earlierPasses").GetInt32(), gained - lost);
        var parted = compared.GetProperty("parted").EnumerateArray().ToArray();
        Assert.Equal(gained + lost, parted.Length);
        // A run that only the later one passed fails on the earlier one when it is seen again there.
        var one = parted.First(p => p.GetProperty("gained").GetBoolean());
        foreach (var (revision, outcome) in new[] { (2, "fail"), (3, "pass") })
        {
            var run = await bench.Post(
                Bench.Rig + "/runs",
                new
                {
                    seed = one.GetProperty("seed").GetInt64(),
                    copySeed = one.GetProperty("copySeed").GetInt64(),
                    revision,
                    copy = 1,
                }
            );
            Assert.Equal(outcome, run.GetProperty("outcome").GetString());
        }
    }

    [Fact]
    public async Task A_target_stops_as_soon_as_it_is_settled()
    {
        using var bench = new Bench();
        var proof = await bench.Post(
            Proofs,
            new
            {
                runs = 5000,
                seed = 1,
                copy = 1,
                target = 0.9,
            }
        );
        Assert.InRange(proof.GetProperty("runs").GetInt32(), 5, 300);
        Assert.False(proof.GetProperty("stopped").GetBoolean());
        Assert.Equal("missed", proof.GetProperty("target").GetProperty("verdict").GetString());
        Assert.StartsWith("It does not reach 90 in 100: settled after ", proof.GetProperty("say").GetString());
        Assert.Equal(JsonValueKind.Null, proof.GetProperty("copy").ValueKind);
        // Its runs are no gauge: the header goes on by copies.
        var rate = (await bench.Get(Bench.Rig)).GetProperty("rate");
        Assert.NotEqual(proof.GetProperty("runs").GetInt32(), rate.GetProperty("runs").GetInt32());
    }

    [Fact]
    public async Task Every_scene_that_counts_is_proved_and_the_header_shows_the_worst()
    {
        using var bench = new Bench();
        var scenes = await bench.Get(Bench.Rig + "/scenes");
        string[] texts =
        [
            .. scenes
                .GetProperty("scenes")
                .EnumerateArray()
                .Select(s => s.GetProperty("text").GetString()!)
                .Select(t => t.Contains("\ncounts", StringComparison.Ordinal) ? t : t.Insert(t.IndexOf('\n') + 1, "counts\n")),
        ];
        using var kept = await bench.Http.PutAsJsonAsync(
            Bench.Rig + "/scenes",
            new
            {
                baseRevision = scenes.GetProperty("revision").GetInt32(),
                scenes = texts,
                what = "all count",
                copy = 1,
            }
        );
        Assert.Equal(HttpStatusCode.OK, kept.StatusCode);
        var made = (
            await bench.Post(
                Proofs + "/all",
                new
                {
                    runs = 100,
                    seed = 1,
                    copy = 1,
                }
            )
        ).GetProperty("proofs").EnumerateArray().ToArray();
        Assert.Equal(2, made.Length);
        var passes = made.Select(p => p.GetProperty("passes").GetInt32()).ToArray();
        Assert.Equal(passes.Order(), passes);
        var rate = (await bench.Get(Bench.Rig)).GetProperty("rate");
        Assert.Equal(passes[0], rate.GetProperty("passes").GetInt32());
        Assert.EndsWith(", " + made[0].GetProperty("scene").GetString(), rate.GetProperty("likely").GetString());
        var listed = (await bench.Get("/api/rigs"))
            .EnumerateArray()
            .Single(r => r.GetProperty("id").GetString() == "seed-trolley")
            .GetProperty("copies")[0]
            .GetProperty("rate");
        Assert.Equal(rate.GetProperty("likely").GetString(), listed.GetProperty("likely").GetString());
        var rows = (await bench.Get(Proofs + "/scenes?copy=1")).EnumerateArray().ToArray();
        Assert.Equal(made.Select(m => m.GetProperty("scene").GetString()), rows.Select(r => r.GetProperty("name").GetString()));
        Assert.All(rows, r => Assert.Equal(100, r.GetProperty("passed").GetString()!.Length));
    }

    [Fact]
    public async Task Tuning_finds_a_slower_trolley_it_is_tried_and_taken()
    {
        using var bench = new Bench();
        var known = await bench.Get(Bench.Rig + "/tune?copy=1");
        var cruise = known
            .GetProperty("numbers")
            .EnumerateArray()
            .Single(n => n.GetProperty("sentence").GetString() == "var cruise = 60 %");
        int line = cruise.GetProperty("line").GetInt32(),
            index = cruise.GetProperty("index").GetInt32();
        var found = await bench.Post(
            Bench.Rig + "/tune",
            new
            {
                numbers = new[]
                {
                    new
                    {
                        line,
                        index,
                        from = 30,
                        to = 80,
                    },
                },
                seed = 1,
                copy = 1,
            }
        );
        var best = found.GetProperty("best").GetInt32();
        Assert.InRange(best, 0, 4);
        var point = found.GetProperty("points")[best];
        var value = point.GetProperty("values")[0].GetDouble();
        // Slower than it is: the sum of a marker puts the fastest that rests over the tag at 55 %.
        Assert.InRange(value, 35, 57);
        Assert.Equal("better", point.GetProperty("against").GetProperty("verdict").GetString());
        Assert.Equal(400, point.GetProperty("runs").GetInt32());
        object[] numbers =
        [
            new
            {
                line,
                index,
                value,
            },
        ];
        var tried = await bench.Post(
            Bench.Rig + "/runs",
            new
            {
                seed = 3,
                copy = 1,
                numbers,
            }
        );
        Assert.Contains("var cruise = ", tried.GetProperty("tried")[0].GetString());
        Assert.False(tried.GetProperty("current").GetBoolean());
        var taken = await bench.Post(
            Bench.Rig + "/tune/take",
            new
            {
                baseRevision = 2,
                numbers,
                source = "tuned",
                copy = 1,
            }
        );
        Assert.Equal(3, taken.GetProperty("revision").GetInt32());
        Assert.DoesNotContain("var cruise = 60 %", await bench.Script());
        var program = await bench.Get(Bench.Rig + "/program");
        Assert.Contains("\"tuned\"", program.GetRawText());
        // One edit: one undo.
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Contains("var cruise = 60 %", await bench.Script());
    }

    [Theory]
    [InlineData("/proofs", """{"runs":0,"seed":1}""", "runs")]
    [InlineData("/proofs", """{"runs":10000001,"seed":1}""", "runs")]
    [InlineData("/proofs", """{"runs":1.5,"seed":1}""", "runs")]
    [InlineData("/proofs", """{"runs":100,"seed":1,"target":1}""", "target")]
    [InlineData("/proofs", """{"runs":100,"seed":1,"target":0.05}""", "target")]
    [InlineData("/proofs", """{"runs":100,"seed":1,"scene":"nowhere"}""", "scene")]
    [InlineData("/proofs/all", """{"runs":100,"seed":1,"scenes":[]}""", "scenes")]
    [InlineData("/proofs/all", """{"runs":100,"seed":1,"scenes":["nowhere"]}""", "scene")]
    [InlineData("/proofs/compare", """{"runs":100,"seed":1,"earlier":{},"later":{}}""", "later")]
    [InlineData("/proofs/compare", """{"runs":100,"seed":1,"later":{}}""", "earlier")]
    [InlineData("/tune", """{"seed":1,"numbers":[]}""", "numbers")]
    [InlineData("/tune", """{"seed":1,"numbers":[{"line":1,"index":0,"from":1,"to":2}]}""", "numbers[0].line")]
    [InlineData("/tune", """{"seed":1,"numbers":[{"line":4,"index":0,"from":50,"to":50}]}""", "numbers[0].to")]
    [InlineData("/tune", """{"seed":1,"numbers":[null]}""", "numbers[0].line")]
    [InlineData("/tune/take", """{"baseRevision":1,"numbers":[{"line":4,"index":0,"value":1e9}],"source":"x"}""", "numbers[0].value")]
    [InlineData("/tune/take", """{"baseRevision":1,"numbers":[{"line":4,"index":0,"value":50}]}""", "source")]
    [InlineData("/runs", """{"seed":1,"copySeed":0.5}""", "copySeed")]
    [InlineData("/runs", """{"seed":1,"numbers":[{"line":99,"index":0,"value":5}]}""", "numbers")]
    public async Task Nonsense_is_refused_by_its_field(string path, string body, string field)
    {
        using var answer = await Bench.Shared.Http.PostAsync(
            Bench.Rig + path,
            new StringContent(body, System.Text.Encoding.UTF8, "application/json")
        );
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        var errors = (await answer.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors");
        Assert.True(errors.TryGetProperty(field, out _), errors.GetRawText());
    }
}
