namespace Chiton.Server.Tests.Parts;

public class ProgramTests
{
    [Fact]
    public async Task A_faultless_script_is_kept_in_canonical_form()
    {
        using var bench = new Bench();
        await bench.Save((await bench.Script()).Replace("var beds = 0", "var   beds   =   (0)"));
        Assert.Contains("\nvar beds = 0\n", await bench.Script());
        Assert.Equal(2, await bench.Revision());
    }

    [Fact]
    public async Task A_script_with_three_faults_is_kept_as_typed_and_each_is_named()
    {
        using var bench = new Bench();
        var typed = (await bench.Script())
            .Replace("= 60 %", "= ")
            .Replace("becomes bed tag", "becomes bed tog")
            .Replace("go Stopping", "go Stoping");
        await bench.Save(typed);
        Assert.Equal(typed, await bench.Script());
        var program = await bench.Get(Bench.Rig + "/program");
        var faults = program.GetProperty("diagnostics").EnumerateArray().ToArray();
        Assert.Equal([4, 12, 18], faults.Select(f => f.GetProperty("line").GetInt32()));
        Assert.Equal("Stopping", faults[2].GetProperty("suggestion").GetString());
        var rig = await bench.Get(Bench.Rig);
        Assert.Equal("faults", rig.GetProperty("rate").GetProperty("state").GetString());
        var (status, problem) = await bench.TryPost(Bench.Rig + "/proofs", new { runs = 10, seed = 1 });
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("3 faults", problem.GetProperty("errors").GetProperty("program")[0].GetString());
    }

    [Fact]
    public async Task A_stale_edit_is_refused_and_nothing_is_overwritten()
    {
        using var bench = new Bench();
        var script = await bench.Script();
        await bench.Save(script.Replace("60 %", "58 %"));
        var (status, problem) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/program",
            new { baseRevision = 2, script = script.Replace("60 %", "40 %") }
        );
        Assert.Equal(HttpStatusCode.Conflict, status);
        Assert.Equal(3, problem.GetProperty("current").GetInt32());
        Assert.Contains("58 %", problem.GetProperty("detail").GetString());
        Assert.Contains("58 %", await bench.Script());
    }

    [Fact]
    public async Task Two_edits_at_the_same_moment_cannot_both_win()
    {
        using var bench = new Bench();
        var script = await bench.Script();
        var both = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(i =>
                    bench.Send(
                        HttpMethod.Put,
                        Bench.Rig + "/program",
                        new { baseRevision = 2, script = script.Replace("60 %", $"{50 + i} %") }
                    )
                )
        );
        Assert.Single(both, b => b.Status == HttpStatusCode.OK);
        Assert.Equal(7, both.Count(b => b.Status == HttpStatusCode.Conflict));
        Assert.Equal(3, await bench.Revision());
    }

    [Fact]
    public async Task Undo_and_redo_cross_edits_parts_and_restarts_and_overwrite_nothing()
    {
        using var bench = new Bench();
        var zero = await bench.Script();
        var one = zero.Replace("60 %", "55 %");
        var two = one.Replace("within 40 s", "within 30 s");
        await bench.Save(one);
        await bench.Post(
            Bench.Rig + "/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "bed tag",
                text = "50\n51\n52",
            }
        );
        await bench.Save(two);
        async Task<int> Readings() =>
            (await bench.Get(Bench.Rig + "/sense")).GetProperty("zones")[1].GetProperty("readings").GetArrayLength();

        bench.Restart();
        Assert.Equal(43, await Readings());
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(one, await bench.Script());
        var undone = await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal("pasted 3 readings of bed tag", undone.GetProperty("what").GetString());
        Assert.Equal(40, await Readings());
        bench.Restart();
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(zero, await bench.Script());
        Assert.Equal(JsonValueKind.Null, (await bench.Post(Bench.Rig + "/undo", new { copy = 1 })).GetProperty("what").ValueKind);
        for (var i = 0; i < 3; i++)
            await bench.Post(Bench.Rig + "/redo", new { copy = 1 });
        Assert.Equal(two, await bench.Script());
        Assert.Equal(43, await Readings());
        Assert.Equal(JsonValueKind.Null, (await bench.Get(Bench.Rig)).GetProperty("redo").ValueKind);
        // Two edits, two undone, two redone: seven revisions, none gone.
        Assert.Equal(
            [8, 7, 6, 5, 4, 3, 2, 1],
            (await bench.Get(Bench.Rig + "/revisions")).EnumerateArray().Select(r => r.GetProperty("number").GetInt32())
        );
    }

    [Fact]
    public async Task A_new_edit_after_undo_forgets_what_could_be_redone()
    {
        using var bench = new Bench();
        var zero = await bench.Script();
        await bench.Save(zero.Replace("60 %", "55 %"));
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        await bench.Save(zero.Replace("60 %", "44 %"));
        Assert.Equal(JsonValueKind.Null, (await bench.Post(Bench.Rig + "/redo", new { copy = 1 })).GetProperty("what").ValueKind);
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Equal(zero, await bench.Script());
    }

    [Fact]
    public async Task Diagnosis_and_completion_look_without_keeping()
    {
        using var bench = new Bench();
        var script = (await bench.Script()).Replace("becomes bed tag:", "becomes b:");
        var view = await bench.Post(
            Bench.Rig + "/program/diagnose",
            new
            {
                script,
                line = 12,
                column = "    when Tag eye becomes b".Length,
            }
        );
        Assert.Equal("bed tag", view.GetProperty("completions")[0].GetProperty("text").GetString());
        Assert.Equal(12, view.GetProperty("diagnostics")[0].GetProperty("line").GetInt32());
        Assert.Equal(2, await bench.Revision());
    }

    [Fact]
    public async Task A_script_that_is_too_long_is_refused_with_a_sentence()
    {
        using var bench = new Bench();
        var (status, problem) = await bench.Send(
            HttpMethod.Put,
            Bench.Rig + "/program",
            new { baseRevision = 2, script = new string('x', 1_000_001) }
        );
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Contains("at most 1000000 characters", problem.GetProperty("errors").GetProperty("script")[0].GetString());
    }

    [Fact]
    public async Task Sending_puts_the_revision_on_this_copys_controller()
    {
        using var bench = new Bench();
        await bench.Save((await bench.Script()).Replace("60 %", "55 %"));
        Assert.Equal(2, (await bench.Get(Bench.Rig)).GetProperty("controllerRevision").GetInt32());
        await bench.Post(Bench.Rig + "/send", new { copy = 1 });
        Assert.Equal(3, (await bench.Get(Bench.Rig)).GetProperty("controllerRevision").GetInt32());
        Assert.Equal(JsonValueKind.Null, (await bench.Get(Bench.Rig + "?copy=2")).GetProperty("controllerRevision").ValueKind);
    }

    [Fact]
    public async Task Two_revisions_are_told_apart_in_sentences_and_an_earlier_program_comes_back()
    {
        using var bench = new Bench();
        var first = await bench.Script();
        await bench.Save(first.Replace("cruise = 60 %", "cruise = 45 %"));
        await bench.Save((await bench.Script()).Replace("after 30 s: go Lost", "after 20 s: go Lost"));
        var difference = await bench.Get(Bench.Rig + "/program/difference?before=2&after=4");
        Assert.Equal(
            [
                "In the head “var cruise = 60 %” now reads “var cruise = 45 %”.",
                "In state Main.Rolling “after 30 s: go Lost” now reads “after 20 s: go Lost”.",
            ],
            difference.GetProperty("changes").EnumerateArray().Select(c => c.GetProperty("say").GetString())
        );
        Assert.False(difference.GetProperty("other").GetBoolean());
        await bench.Post(Bench.Rig + "/program/restore", new { baseRevision = 4, revision = 2 });
        Assert.Equal(first, await bench.Script());
        Assert.Equal(5, await bench.Revision());
        await bench.Post(Bench.Rig + "/undo", new { copy = 1 });
        Assert.Contains("cruise = 45 %", await bench.Script());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await bench.TryPost(Bench.Rig + "/program/restore", new { baseRevision = 4, revision = 2 })).Status
        );
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Http.GetAsync(Bench.Rig + "/program/difference?before=1&after=99")).StatusCode);
    }

    [Fact]
    public async Task The_whole_language_is_kept_and_runs_on_the_rail()
    {
        using var bench = new Bench();
        const string script =
            "program Seed trolley\n\nregion Main\n  state A, initial\n    after 1 s: go B\n\n  state B\n\n    state B1, initial\n     "
            + " every 1 s: stay\n\nregion Other\n  state C, initial\n";
        await bench.Save(script);
        Assert.Equal(script, await bench.Script());
        Assert.Empty((await bench.Get(Bench.Rig + "/program")).GetProperty("diagnostics").EnumerateArray());
        var run = await bench.Post(Bench.Rig + "/runs", new { seed = 1, durationS = 3 });
        // Nested states and a second region run as they are.
        Assert.Equal(
            "B1",
            run.GetProperty("report")
                .GetProperty("states")[0]
                .GetProperty("stretches")
                .EnumerateArray()
                .Last()
                .GetProperty("state")
                .GetString()
        );
        Assert.Equal("Main.A", (await bench.Get(Bench.Rig + "/program/chart")).GetProperty("boxes")[1].GetProperty("id").GetString());
    }
}
