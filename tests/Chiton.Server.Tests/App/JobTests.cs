using System.Diagnostics;
using Chiton.Server.App;

namespace Chiton.Server.Tests.App;

/// <summary>Whatever a person can start has an end, and can be stopped; nothing waits behind what nobody waits for.</summary>
public class JobTests
{
    // Each reading goes round a thousand times without a transition: half a minute of work in a walk.
    private const string Slow =
        "program T\nvar n = 0\nregion Main\n  state A, initial\n    every 1 ms: repeat 900 times: set n to n + 1; stay\n";

    private static object Walk(string source, double ms, string? job = null) =>
        new
        {
            format = "script",
            source,
            events = new[] { new { afterMs = ms } },
            job,
        };

    [Fact]
    public async Task A_walk_ends_at_its_budget_and_says_where()
    {
        using var bench = new Bench();
        var (status, body) = await bench.TryPost("/api/walk", Walk(Slow, 1e9));
        if (status == HttpStatusCode.ServiceUnavailable)
        {
            // On a busy machine its seconds are spent before its steps, which the core's own tests count.
            Assert.Equal("This took more than 5 seconds of work, so it was stopped.", body.GetProperty("title").GetString());
            return;
        }
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("more than 5000000 steps", body.GetProperty("errors").GetProperty("events[0]")[0].GetString());
    }

    [Theory]
    [InlineData("repeat 5000 times: set n to n + 1", false)]
    [InlineData("repeat 1000000 times: set n to n + 1", true)]
    [InlineData("repeat 1000 times: repeat 1000 times: set n to n + 1", true)]
    public async Task A_sentence_that_repeats_itself_ends_no_process_now_or_at_a_later_start(string sentence, bool stopped)
    {
        using var bench = new Bench();
        var script = (await bench.Script()).Replace(
            "after 30 s: go Lost",
            $"after 1 s: {sentence.Replace("n ", "beds ").Replace(" n", " beds")}; go Lost"
        );
        await bench.Save(script);
        bench.Restart();
        var run = await bench.Post(Bench.Rig + "/runs", new { seed = 1 });
        var said = run.GetProperty("report").GetProperty("say").GetString();
        if (stopped)
            Assert.Contains("does more than 100000 things at one moment", said);
        else
            Assert.DoesNotContain("things at one moment", said);
        Assert.Equal(HttpStatusCode.OK, (await bench.Http.GetAsync("/api/rigs")).StatusCode);
    }

    [Fact]
    public async Task A_walk_a_run_and_a_proof_stop_by_their_name_also_while_they_wait()
    {
        using var bench = new Bench();
        await bench.Save(
            (await bench.Script())
                .Replace("goal: stopped over bed 3 within 40 s", "goal: finished within 500 s")
                .Replace("after 30 s: go Lost", "after 600 s: go Lost")
                .Replace("beds = 3", "beds = 300")
        );
        // As many as there are threads, and one that waits behind them.
        var names = Enumerable.Range(0, Environment.ProcessorCount + 1).Select(i => $"proof {i}").ToArray();
        var proofs = names
            .Select(n =>
                bench.TryPost(
                    Bench.Rig + "/proofs",
                    new
                    {
                        runs = 10000,
                        seed = 1,
                        job = n,
                    }
                )
            )
            .ToArray();
        while ((await bench.Http.DeleteAsync($"/api/jobs/{names[^1]}")).StatusCode == HttpStatusCode.NotFound && !proofs[^1].IsCompleted)
            await Task.Delay(20);
        var waited = await proofs[^1];
        Assert.Equal(HttpStatusCode.OK, waited.Status);
        Assert.True(waited.Body.GetProperty("stopped").GetBoolean());
        for (var i = 0; i < names.Length - 1; i++)
            while ((await bench.Http.DeleteAsync($"/api/jobs/{names[i]}")).StatusCode == HttpStatusCode.NotFound && !proofs[i].IsCompleted)
                await Task.Delay(20);
        foreach (var proof in proofs)
            Assert.Equal(HttpStatusCode.OK, (await proof).Status);

        var walking = bench.TryPost("/api/walk", Walk(Slow.Replace("900", "1"), 1e9, "walk"));
        while ((await bench.Http.DeleteAsync("/api/jobs/walk")).StatusCode == HttpStatusCode.NotFound && !walking.IsCompleted)
            await Task.Delay(1);
        var (status, body) = await walking;
        Assert.True(status is HttpStatusCode.Conflict or HttpStatusCode.BadRequest, body.ToString());
    }

    [Fact]
    public async Task Two_jobs_of_one_name_are_told_apart_by_refusing_the_second()
    {
        using var jobs = new Jobs();
        using var first = jobs.Begin("a", CancellationToken.None);
        var refused = Assert.Throws<Core.Quantities.InputProblem>(() => jobs.Begin("a", CancellationToken.None));
        Assert.Contains("running already", refused.Errors["job"]);
        await Task.CompletedTask;
    }

    [Fact]
    public async Task Work_ends_when_its_client_leaves()
    {
        using var jobs = new Jobs();
        using var client = new CancellationTokenSource();
        var ended = new TaskCompletionSource();
        var work = jobs.Run(
            WorkKind.Quick,
            null,
            null,
            stop =>
            {
                client.Cancel();
                stop.WaitHandle.WaitOne();
                ended.SetResult();
                stop.ThrowIfCancellationRequested();
                return 0;
            },
            client.Token
        );
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => work);
        await ended.Task;
    }

    [Fact]
    public async Task Work_that_takes_too_long_is_stopped_with_words()
    {
        using var jobs = new Jobs();
        var late = await Assert.ThrowsAsync<TookTooLong>(() =>
            jobs.Run(
                WorkKind.Quick,
                null,
                TimeSpan.FromMilliseconds(50),
                stop =>
                {
                    stop.WaitHandle.WaitOne();
                    stop.ThrowIfCancellationRequested();
                    return 0;
                },
                CancellationToken.None
            )
        );
        Assert.Contains("so it was stopped", late.Message);
    }

    [Fact]
    public async Task A_gauge_that_goes_on_and_on_holds_up_no_run_and_no_proof()
    {
        using var jobs = new Jobs();
        using var end = new ManualResetEventSlim();
        var gauge = jobs.Run(
            WorkKind.Gauge,
            null,
            null,
            _ =>
            {
                end.Wait();
                return 0;
            },
            CancellationToken.None
        );
        Assert.Equal(1, await jobs.Run(WorkKind.Long, null, null, _ => 1, CancellationToken.None));
        Assert.Equal(2, await jobs.Run(WorkKind.Quick, null, null, _ => 2, CancellationToken.None));
        Assert.False(gauge.IsCompleted);
        end.Set();
        await gauge;
    }

    [Fact]
    public async Task Proofs_side_by_side_never_wait_for_each_others_parts()
    {
        using var jobs = new Jobs();
        int Side(CancellationToken stop)
        {
            var done = 0;
            Parallel.For(
                0,
                200,
                new ParallelOptions { TaskScheduler = TaskScheduler.Current },
                _ =>
                {
                    Thread.SpinWait(2000);
                    Interlocked.Increment(ref done);
                }
            );
            return done;
        }
        var all = Enumerable.Range(0, 40).Select(_ => jobs.Run(WorkKind.Long, null, null, Side, CancellationToken.None)).ToArray();
        Assert.All(await Task.WhenAll(all), d => Assert.Equal(200, d));
    }

    [Fact]
    public async Task More_than_can_wait_is_refused_with_words()
    {
        using var jobs = new Jobs();
        using var end = new ManualResetEventSlim();
        var all = new List<Task<int>>();
        TooBusy? refused = null;
        for (var i = 0; i < 1000 && refused is null; i++)
        {
            var one = jobs.Run(
                WorkKind.Quick,
                null,
                null,
                _ =>
                {
                    end.Wait();
                    return 0;
                },
                CancellationToken.None
            );
            if (one.IsFaulted)
                refused = (TooBusy)one.Exception.InnerException!;
            else
                all.Add(one);
        }
        Assert.Contains("The bench is busy", refused?.Message);
        end.Set();
        await Task.WhenAll(all);
    }

    [Fact]
    public async Task A_run_of_ten_minutes_at_500_samples_a_second_says_everything_once()
    {
        using var bench = new Bench();
        await bench.Save(
            (await bench.Script())
                .Replace("goal: stopped over bed 3 within 40 s", "goal: finished within 600 s")
                .Replace("after 30 s: go Lost", "after 900 s: go Lost")
                .Replace("beds = 3", "beds = 3000")
        );
        var response = await bench.Http.PostAsync(
            Bench.Rig + "/runs",
            System.Net.Http.Json.JsonContent.Create(
                new
                {
                    seed = 1,
                    durationS = 600,
                    rateHz = 500,
                }
            )
        );
        var text = await response.Content.ReadAsStringAsync();
        Assert.True(response.IsSuccessStatusCode, text);
        var run = JsonDocument.Parse(text).RootElement;
        Assert.Equal(300_001, run.GetProperty("signals").GetProperty("timeS").GetArrayLength());
        Assert.False(run.GetProperty("report").TryGetProperty("signals", out _));
        Assert.False(run.GetProperty("report").TryGetProperty("events", out _));
        Assert.InRange(text.Length, 1_000_000, 12_000_000);
        // What is kept of it is small, and is shown again without being run again.
        var watch = Stopwatch.StartNew();
        var latest = (await bench.Get(Bench.Rig + "/runs/latest")).GetProperty("run");
        Assert.Equal(50, latest.GetProperty("signals").GetProperty("rateHz").GetDouble());
        Assert.Equal(
            run.GetProperty("report").GetProperty("endS").GetDouble(),
            latest.GetProperty("report").GetProperty("endS").GetDouble()
        );
    }

    [Fact]
    public async Task The_latest_run_is_kept_and_not_simulated_again()
    {
        using var bench = new Bench();
        await bench.Post(Bench.Rig + "/runs", new { seed = 5 });
        using (
            var connection = new Microsoft.Data.Sqlite.SqliteConnection(
                $"Data Source={Path.Combine(bench.Folder, "chiton.db")};Pooling=False"
            )
        )
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "UPDATE Runs SET Seed = 6";
            command.ExecuteNonQuery();
        }
        Assert.Equal(
            5,
            (await bench.Get(Bench.Rig + "/runs/latest")).GetProperty("run").GetProperty("report").GetProperty("seed").GetInt64()
        );
    }
}
