using Chiton.Core.Proving;
using Chiton.Server.App;
using Microsoft.AspNetCore.SignalR.Client;

namespace Chiton.Server.Tests.Parts;

public class RunTests
{
    [Fact]
    public async Task The_same_seed_gives_the_same_run_and_it_is_there_after_a_restart()
    {
        using var bench = new Bench();
        var one = await bench.Post(Bench.Rig + "/runs", new { seed = 5 });
        var two = await bench.Post(Bench.Rig + "/runs", new { seed = 5 });
        Assert.Equal(one.GetProperty("report").ToString(), two.GetProperty("report").ToString());
        Assert.Contains(one.GetProperty("outcome").GetString(), new[] { "pass", "fail" });
        Assert.NotEqual(0, one.GetProperty("events").GetArrayLength());
        Assert.Equal(50, one.GetProperty("signals").GetProperty("rateHz").GetDouble());
        bench.Restart();
        var latest = (await bench.Get(Bench.Rig + "/runs/latest")).GetProperty("run");
        Assert.Equal(two.GetProperty("report").ToString(), latest.GetProperty("report").ToString());
        Assert.True(latest.GetProperty("current").GetBoolean());
    }

    [Fact]
    public async Task A_run_stays_what_it_was_when_the_machine_changes()
    {
        using var bench = new Bench();
        var run = await bench.Post(Bench.Rig + "/runs", new { seed = 5 });
        await bench.Save((await bench.Script()).Replace("60 %", "30 %"));
        await bench.Post(
            Bench.Rig + "/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "bed tag",
                text = "90\n91\n92",
            }
        );
        var latest = (await bench.Get(Bench.Rig + "/runs/latest")).GetProperty("run");
        Assert.Equal(run.GetProperty("report").ToString(), latest.GetProperty("report").ToString());
        Assert.False(latest.GetProperty("current").GetBoolean());
        Assert.Equal(2, latest.GetProperty("revision").GetInt32());
    }

    [Theory]
    [InlineData("""{"seed":-1}""", "seed")]
    [InlineData("""{"seed":1.5}""", "seed")]
    [InlineData("""{}""", "seed")]
    [InlineData("""{"seed":"x"}""", "seed")]
    [InlineData("""{"seed":1,"durationS":601}""", "durationS")]
    [InlineData("""{"seed":1,"rateHz":0}""", "rateHz")]
    [InlineData("""{"seed":1,"faults":[{"kind":"unplugged","device":"Mast","fromS":0}]}""", "faults[0].device")]
    [InlineData("""{"seed":1,"faults":[{"kind":"unplugged","device":"Tag eye","fromS":3,"toS":1}]}""", "faults[0].toS")]
    public async Task Nonsense_is_named(string body, string field)
    {
        var bench = Bench.Shared;
        var response = await bench.Http.PostAsync(
            Bench.Rig + "/runs",
            new StringContent(body, System.Text.Encoding.UTF8, "application/json")
        );
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        Assert.Equal("application/problem+json", response.Content.Headers.ContentType!.MediaType);
        var problem = await response.Content.ReadFromJsonAsync<JsonElement>();
        Assert.True(problem.GetProperty("errors").TryGetProperty(field, out _), problem.ToString());
    }

    [Fact]
    public async Task Faults_disturb_the_run()
    {
        using var bench = new Bench();
        var run = await bench.Post(
            Bench.Rig + "/runs",
            new
            {
                seed = 5,
                faults = new[]
                {
                    new
                    {
                        kind = "unplugged",
                        device = "Tag eye",
                        fromS = 0,
                    },
                },
            }
        );
        Assert.Equal("fail", run.GetProperty("outcome").GetString());
        Assert.Equal("Lost", run.GetProperty("events").EnumerateArray().Last().GetProperty("to").GetString());
    }

    [Fact]
    public async Task A_proof_tells_its_progress_and_its_failures_replay()
    {
        using var live = new LiveServer();
        await using var hub = new HubConnectionBuilder().WithUrl(live.Http.BaseAddress + "hub").Build();
        var told = new List<int>();
        hub.On<JobProgress>(
            "Progress",
            p =>
            {
                lock (told)
                    told.Add(p.Done);
            }
        );
        await hub.StartAsync();
        await hub.InvokeAsync("Follow", "seed-trolley");
        var response = await live.Http.PostAsJsonAsync(
            Bench.Rig + "/proofs",
            new
            {
                runs = 3000,
                seed = 1,
                job = "p",
            }
        );
        var proof = await response.Content.ReadFromJsonAsync<JsonElement>();
        Assert.Equal(3000, proof.GetProperty("runs").GetInt32());
        lock (told)
            Assert.NotEmpty(told);
        var failure = proof.GetProperty("failures")[0];
        var replay = await live.Http.PostAsJsonAsync(
            Bench.Rig + "/runs",
            new { seed = failure.GetProperty("seed").GetInt64(), copySeed = failure.GetProperty("copySeed").GetInt64() }
        );
        var run = await replay.Content.ReadFromJsonAsync<JsonElement>();
        Assert.Equal("fail", run.GetProperty("outcome").GetString());
        Assert.Equal(
            failure.GetProperty("ended").GetString(),
            run.GetProperty("report").GetProperty("failure").GetProperty("where").GetString()
        );
    }

    [Fact]
    public async Task A_proof_can_be_stopped_and_other_calls_are_answered_meanwhile()
    {
        using var bench = new Bench();
        await bench.Save(
            (await bench.Script())
                .Replace("goal: stopped over bed 3 within 40 s", "goal: finished within 500 s")
                .Replace("after 30 s: go Lost", "after 600 s: go Lost")
                .Replace("beds = 3", "beds = 300")
        );
        var proving = bench.Post(
            Bench.Rig + "/proofs",
            new
            {
                runs = 10000,
                seed = 1,
                job = "big",
            }
        );
        HttpResponseMessage stopped;
        do
        {
            await Task.Delay(300);
            Assert.Equal(HttpStatusCode.OK, (await bench.Http.GetAsync("/api/rigs")).StatusCode);
            stopped = await bench.Http.DeleteAsync("/api/jobs/big");
        } while (stopped.StatusCode == HttpStatusCode.NotFound);
        var proof = await proving;
        Assert.True(proof.GetProperty("stopped").GetBoolean());
        Assert.InRange(proof.GetProperty("runs").GetInt32(), 0, 9999);
        Assert.Contains("Stopped after", proof.GetProperty("counted").GetString());
    }

    [Fact]
    public async Task The_header_knows_the_rate_soon_after_an_edit()
    {
        using var bench = new Bench();
        await bench.Save((await bench.Script()).Replace("60 %", "45 %"));
        JsonElement rate;
        do
        {
            rate = (await bench.Get(Bench.Rig)).GetProperty("rate");
            await Task.Delay(50);
        } while (rate.GetProperty("state").GetString() == "counting");
        Assert.Equal("known", rate.GetProperty("state").GetString());
        // A busy machine stops the gauge early: fewer runs, a wider interval, never fewer than its least.
        Assert.InRange(rate.GetProperty("runs").GetInt32(), Gauge.Least, Gauge.Runs);
        Assert.StartsWith("Revision 3: ", rate.GetProperty("say").GetString());
        await bench.Prove();
        Assert.Equal(200, (await bench.Get(Bench.Rig)).GetProperty("rate").GetProperty("runs").GetInt32());
    }
}
