using System.Globalization;
using System.Text.RegularExpressions;
using Chiton.Core.Simulation;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>A run as files: what is written is read back by readers of our own that know only the formats.</summary>
public partial class RunExportTests
{
    private static RunRecord Record(BenchReport r) =>
        new(r.TimeS, r.Bodies, r.BatteryV, r.Events, r.States, r.Sensors, r.Outputs, r.Messages, r.Happenings, r.Notes);

    /// <summary>Value changes after the grammar of IEEE 1364, section 18: a fault of it throws.</summary>
    private sealed class Vcd
    {
        public Dictionary<string, (string Kind, int Width)> Vars { get; } = [];
        public Dictionary<string, List<(long Time, string Value)>> Changes { get; } = [];
        public long End { get; private set; }

        public static Vcd Read(string text)
        {
            Assert.All(text, c => Assert.True(c is '\n' or (>= ' ' and <= '~'), $"sign {(int)c}"));
            var tokens = new Queue<string>(text.Split([' ', '\n'], StringSplitOptions.RemoveEmptyEntries));
            var vcd = new Vcd();
            var ids = new Dictionary<string, string>();
            var scopes = new Stack<string>();
            string[] UntilEnd()
            {
                var inner = new List<string>();
                while (tokens.Peek() != "$end")
                    inner.Add(tokens.Dequeue());
                tokens.Dequeue();
                return [.. inner];
            }
            for (var open = true; open; )
                switch (tokens.Dequeue())
                {
                    case "$version" or "$timescale":
                        Assert.NotEmpty(UntilEnd());
                        break;
                    case "$scope":
                        var scope = UntilEnd();
                        Assert.Equal("module", scope[0]);
                        Assert.Equal(2, scope.Length);
                        scopes.Push(scope[1]);
                        break;
                    case "$upscope":
                        Assert.Empty(UntilEnd());
                        scopes.Pop();
                        break;
                    case "$var":
                        var v = UntilEnd();
                        Assert.Equal(4, v.Length);
                        Assert.Contains(v[0], new[] { "real", "wire", "event" });
                        Assert.Matches("^[A-Za-z_][A-Za-z0-9_]*$", v[3]);
                        var path = string.Join('.', scopes.Reverse().Append(v[3]));
                        ids.Add(v[2], path);
                        vcd.Vars.Add(path, (v[0], int.Parse(v[1], CultureInfo.InvariantCulture)));
                        vcd.Changes[path] = [];
                        break;
                    case "$enddefinitions":
                        Assert.Empty(UntilEnd());
                        open = false;
                        break;
                    case var other:
                        Assert.Fail("No section: " + other);
                        break;
                }
            Assert.Empty(scopes);
            var time = -1L;
            while (tokens.TryDequeue(out var token))
                if (token[0] == '#')
                {
                    var t = long.Parse(token[1..], CultureInfo.InvariantCulture);
                    Assert.True(t > time);
                    time = t;
                }
                else if (token is not ("$dumpvars" or "$end"))
                {
                    var real = token[0] == 'r';
                    var path = ids[real ? tokens.Dequeue() : token[1..]];
                    Assert.Equal(real, vcd.Vars[path].Kind == "real");
                    if (!real)
                        Assert.Contains(token[0], "01");
                    vcd.Changes[path].Add((time, real ? token[1..] : token[..1]));
                }
            vcd.End = time;
            return vcd;
        }
    }

    [Theory]
    [InlineData("deck-scrubber")]
    [InlineData("rack-hoist")]
    [InlineData("lock-keeper")]
    [InlineData("shell-sorter")]
    public void Value_changes_are_read_by_the_standard_and_say_what_the_run_said(string id)
    {
        var report = BenchReport.Watch(DemoBench.Plan(id), 5, 20);
        var vcd = Vcd.Read(RunExport.Changes(Record(report)));
        Assert.Equal((long)Math.Round(report.TimeS[^1] * 1e6), vcd.End, 1_000_000d);
        foreach (var region in report.States)
        {
            var scope = (region.Region == "" ? region.Program : $"{region.Program} {region.Region}").Replace(' ', '_');
            // At the middle of every stretch just its own state is on.
            foreach (var s in region.Stretches.Where(s => s.ToS - s.FromS > 1e-5))
            {
                var at = (long)((s.FromS + s.ToS) / 2 * 1e6);
                var on = vcd
                    .Changes.Where(c => c.Key.StartsWith(scope + ".", StringComparison.Ordinal))
                    .Where(c => c.Value.LastOrDefault(x => x.Time <= at).Value == "1")
                    .Select(c => c.Key[(scope.Length + 1)..]);
                Assert.Equal([NotAWord().Replace(s.State, "_")], on);
            }
        }
        foreach (var device in report.Outputs.GroupBy(o => o.Device))
            Assert.Equal(device.Count(), vcd.Changes["commands." + NotAWord().Replace(device.Key, "_")].Count);
        var sensor = report.Sensors.First(s => s.Readings.Any(r => r is not null));
        var last = sensor.Readings.Last(r => r is not null)!.Value;
        Assert.Equal(
            last,
            double.Parse(vcd.Changes["sensors." + NotAWord().Replace(sensor.Sensor, "_")][^1].Value, CultureInfo.InvariantCulture)
        );
    }

    [Fact]
    public void Samples_have_a_cell_in_every_column_and_what_happened_is_in_order()
    {
        var report = BenchReport.Watch(DemoBench.Plan("shell-sorter"), 5, 20);
        var lines = RunExport.Samples(Record(report)).TrimEnd('\n').Split('\n');
        Assert.Equal(report.TimeS.Count + 1, lines.Length);
        Assert.All(lines, l => Assert.Equal(lines[0].Split(',').Length, l.Split(',').Length));
        Assert.StartsWith("time in s,", lines[0], StringComparison.Ordinal);
        Assert.Contains("battery in V", lines[0], StringComparison.Ordinal);
        var body = report.Bodies.First(b => b.X.Count == report.TimeS.Count);
        var column = Array.FindIndex(lines[0].Split(','), c => c.StartsWith(body.Name, StringComparison.Ordinal));
        Assert.Equal(body.X[^1]!.Value, double.Parse(lines[^1].Split(',')[column], CultureInfo.InvariantCulture), 1e-5);
        var times = RunExport
            .Happened(Record(report))
            .TrimEnd('\n')
            .Split('\n')[1..]
            .Select(l => double.Parse(l.Split(',')[0], CultureInfo.InvariantCulture))
            .ToArray();
        Assert.Equal(times.Order(), times);
        Assert.True(times.Length >= report.Events.Count + report.Outputs.Count);
    }

    [Fact]
    public void What_a_spreadsheet_would_take_for_a_formula_is_text()
    {
        var run = new RunRecord([0], [], [6], [], [], [], [new(0, "=1+1", "-2, \"full\"")], [], [], []);
        Assert.Equal("time in s,kind,who,what,more\n0,command,'=1+1,\"'-2, \"\"full\"\"\",\n", RunExport.Happened(run));
        Assert.Equal("time in s,battery in V\n0,6\n", RunExport.Samples(run));
    }

    [Fact]
    public void A_state_that_is_left_and_entered_at_one_moment_stays_on()
    {
        var states = new BenchStates("Post", "", [new("Up", 0, 1), new("Up", 1, 2), new("Down", 2, 3)]);
        var vcd = Vcd.Read(RunExport.Changes(new RunRecord([0, 3], [], [6, 6], [], [states], [], [], [], [], [])));
        Assert.Equal("1", vcd.Changes["Post.Up"].Last(c => c.Time <= 1_500_000).Value);
        Assert.Equal("0", vcd.Changes["Post.Up"].Last(c => c.Time <= 2_500_000).Value);
        // The run ends in it.
        Assert.Equal("1", vcd.Changes["Post.Down"][^1].Value);
    }

    [Fact]
    public async Task A_run_is_taken_along_over_http_and_what_is_not_there_is_said()
    {
        using var bench = new Bench();
        var run = await bench.Post("/api/rigs/lock-keeper/runs", new { seed = 3 });
        var number = run.GetProperty("number").GetInt64();
        var path = $"/api/rigs/lock-keeper/runs/{number}/export";
        var vcd = Vcd.Read(await bench.Http.GetStringAsync(path + "?as=vcd"));
        Assert.NotEmpty(vcd.Vars);
        Assert.StartsWith("time in s", (await bench.Http.GetStringAsync(path + "?as=csv")).TrimStart('\uFEFF'), StringComparison.Ordinal);
        Assert.Contains("transition", await bench.Http.GetStringAsync(path + "?as=events"), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.BadRequest, (await bench.Http.GetAsync(path + "?as=wav")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await bench.Http.GetAsync("/api/rigs/lock-keeper/runs/987654/export?as=csv")).StatusCode);
        // A run belongs to its rig.
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await bench.Http.GetAsync($"/api/rigs/deck-scrubber/runs/{number}/export?as=csv")).StatusCode
        );
    }

    [GeneratedRegex("[^A-Za-z0-9]")]
    private static partial Regex NotAWord();
}
