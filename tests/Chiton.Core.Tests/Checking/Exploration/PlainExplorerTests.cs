using Chiton.Core.Checking;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Tests.Programs.Statecharts;

namespace Chiton.Core.Tests.Checking.Exploration;

/// <summary>Exploration against a plain breadth first search over the plain interpreter, and against random walks of the engine.</summary>
public class PlainExplorerTests
{
    private static readonly int Machines = Campaign.Of(400, 2000);

    private const int MostPlainStates = 30,
        MostStates = 500;

    // From the numbers that conditions name on, all are one.
    private const double MostCounted = 6;

    private static readonly string[] Events =
    [
        .. GeneratedScript.Motors.Select(m => $"{m} done"),
        "Eye is dark",
        "Eye is light",
        "Range hears nothing",
        "Range is near",
    ];

    // By configuration the fewest events; null when there are too many states, or two things fell into one moment.
    private static Dictionary<string, int>? Plain(ProgramNode program)
    {
        var first = new PlainScript(program);
        first.Start();
        var seen = new HashSet<string> { first.Key(MostCounted) };
        var found = new Dictionary<string, int>();
        var level = new List<PlainScript> { first };
        for (var depth = 0; level.Count > 0; depth++)
        {
            var next = new List<PlainScript>();
            foreach (var machine in level)
            {
                if (machine.HadTie || machine.Endless)
                    return null;
                found.TryAdd(string.Join('+', machine.Configuration.Select(c => $"T.{c}")), depth);
                void Try(Action<PlainScript> what)
                {
                    var copy = machine.Copy();
                    copy.NextStep();
                    what(copy);
                    if (seen.Add(copy.Key(MostCounted)))
                        next.Add(copy);
                }
                foreach (var e in Events)
                    if (!e.EndsWith(" done", StringComparison.Ordinal) || machine.MayEnd(e[..^5]))
                        Try(m => m.Happen(e));
                foreach (var step in machine.Running)
                    Try(m => m.TimeUp(step));
                if (seen.Count > MostPlainStates)
                    return null;
            }
            level = next;
        }
        return found;
    }

    private static Explorer Made(ProgramNode program, bool withoutTimes = false)
    {
        var explorer = new Explorer([new NetworkProgram("T", ScriptCompiler.Compile(program, GeneratedScript.Rig), false)], 0, withoutTimes)
        {
            // Every other machine by two threads, however small it is.
            AloneBelow = program.Head.Count % 2 == 0 ? 0 : int.MaxValue,
        };
        explorer.Run(MostStates, long.MaxValue);
        return explorer;
    }

    private static ProgramNode Parse(int seed)
    {
        var parsed = ScriptParser.Parse(new GeneratedScript(seed, closed: true).Script, GeneratedScript.Rig);
        Assert.Empty(parsed.Diagnostics);
        return parsed.Program;
    }

    private static string? Differ(int seed, out bool compared) =>
        Differ(Parse(seed), $"seed {seed}\n{new GeneratedScript(seed, closed: true).Script}", false, out compared);

    private static string? Differ(ProgramNode program, string what, bool withoutTimes, out bool compared)
    {
        compared = false;
        Dictionary<string, int>? plain;
        try
        {
            plain = Plain(program);
        }
        catch (InvalidOperationException)
        {
            // It never rests: there is nothing to compare.
            return null;
        }
        if (plain is null)
            return null;
        var explorer = Made(program, withoutTimes);
        compared = true;
        if (!explorer.IsComplete)
            return $"not explored to the end, {explorer.Bound}: {what}";
        var mine = explorer.Reached();
        var missing = plain.Where(p => !mine.TryGetValue(p.Key, out var depth) || depth != p.Value).Select(p => $"{p.Key} after {p.Value}");
        var more = mine.Keys.Except(plain.Keys);
        return missing.Any() || more.Any()
            ? "only plain, or by other lengths: "
                + string.Join(" | ", missing.Take(4).Select(k => k + " mine " + mine.GetValueOrDefault(k.Split(" after ")[0], -1)))
                + $"\nonly here: {string.Join(" | ", more.Take(4))}\n{what}"
            : null;
    }

    [Fact]
    public void What_can_be_reached_by_how_few_events_is_what_a_plain_explorer_finds()
    {
        var failures = new SortedDictionary<int, string>();
        var compared = 0;
        for (var from = 1; compared < Machines; from += 100)
        {
            Assert.True(from < 40_000, $"only {compared} machines are small enough");
            Parallel.For(
                from,
                from + 100,
                seed =>
                {
                    var difference = Differ(seed, out var was);
                    if (was)
                        Interlocked.Increment(ref compared);
                    if (difference is not null)
                        lock (failures)
                            failures[seed] = difference;
                }
            );
        }
        Assert.True(failures.Count == 0, $"{failures.Count} of {compared} differ\n" + string.Join("\n\n", failures.Values.Take(3)));
    }

    [Fact]
    public void A_merge_that_forgets_which_time_comes_first_is_noticed()
    {
        var parsed = ScriptParser.Parse(
            "program T\n\nvar n = 0\n\nregion R0\n  state A, initial\n    after 1 s: go B\n    after 2 s: go C\n  state B\n    after "
                + "3 s: go A\n  "
                + "state C\n",
            GeneratedScript.Rig
        );
        Assert.Empty(parsed.Diagnostics);
        Assert.Null(Differ(parsed.Program, "three states", false, out var compared));
        Assert.True(compared);
        Assert.Contains("T.R0.C", Differ(parsed.Program, "three states", true, out _), StringComparison.Ordinal);
    }

    [Fact]
    public void Where_the_engine_goes_on_random_walks_was_explored()
    {
        var walks = 0;
        var outside = new SortedDictionary<int, string>();
        for (var from = 1; walks < 10_000; from += 100)
        {
            Assert.True(from < 5000, $"only {walks} walks");
            Parallel.For(from, from + 100, Walk);
        }
        void Walk(int seed)
        {
            var program = Parse(seed);
            var explorer = Made(program);
            if (!explorer.IsComplete)
                return;
            var reached = explorer.Reached();
            var script = ScriptCompiler.Compile(program, GeneratedScript.Rig);
            var machine = new ScriptMachine(script);
            var random = new Random(seed * 7919);
            for (var walk = 0; walk < 40; walk++)
            {
                machine.Start();
                if (machine.Fault is not null)
                    return;
                Interlocked.Increment(ref walks);
                for (var i = 0; i < 25 && machine.Fault is null && !machine.Finished; i++)
                {
                    var e = random.Next(3) == 0 ? null : Events[random.Next(Events.Length)];
                    machine.Pass(machine.NowMicros + random.Next(1, 2_000_000));
                    // What runs for a time ends exactly then.
                    if (e is not null && e.EndsWith(" done", StringComparison.Ordinal) && !machine.MayEnd(script.DeviceOf[e[..^5]]))
                        e = null;
                    if (e is not null && machine.Fault is null && !machine.Finished)
                        ScriptWalk.Happen(script, machine, e, null, "event");
                    if (machine.Fault is not null)
                        break;
                    var at = string.Join('+', machine.Configuration.Select(c => $"T.{c}"));
                    if (!reached.ContainsKey(at))
                        lock (outside)
                            outside[seed] = $"seed {seed}: {at} after {e}\n{new GeneratedScript(seed, closed: true).Script}";
                }
            }
        }
        Assert.True(outside.Count == 0, $"{outside.Count} outside\n" + string.Join("\n\n", outside.Values.Take(2)));
        Assert.True(walks >= 10_000, $"{walks} walks");
    }
}
