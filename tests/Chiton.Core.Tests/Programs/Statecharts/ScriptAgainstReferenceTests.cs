using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Tests.Programs.Statecharts;

/// <summary>The engine does what the page says of ends, giving up, cut chains and conditions, on programs made at random.</summary>
public class ScriptAgainstReferenceTests
{
    private const int Programs = 10_000;

    private static string? Differ(int seed, Func<ProgramNode, PlainScript> make, out PlainScript plain)
    {
        var made = new GeneratedScript(seed);
        var parsed = ScriptParser.Parse(made.Script, GeneratedScript.Rig);
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics) + "\n" + made.Script);
        var script = ScriptCompiler.Compile(parsed.Program, GeneratedScript.Rig);
        var machine = new ScriptMachine(script);
        plain = make(parsed.Program);
        machine.Start();
        string? fault = null;
        // A program that never rests is stopped by the engine; there is nothing to compare then.
        if (machine.Fault is not null)
            return null;
        try
        {
            plain.Start();
        }
        catch (InvalidOperationException)
        {
            return null;
        }
        var said = new List<string>();
        for (var i = 0; ; i++)
        {
            if (machine.Fault is not null || plain.HadTie || plain.Endless)
                return null;
            foreach (var c in machine.Commands)
                said.Add(
                    machine.Sentence(c) is { } node ? Printer.Plain(Printer.Sentence(node)) : $"{script.DeviceNames[c.Device]} {c.Activity}"
                );
            machine.ClearCommands();
            var flags = string.Join(
                ' ',
                GeneratedScript.Motors.Select(m =>
                    $"{(machine.IsDone(script.DeviceOf[m]) ? "done" : "-")}/{(machine.HasGivenUp(script.DeviceOf[m]) ? "given up" : "-")}"
                )
            );
            string State(string who, IEnumerable<string> at, IEnumerable<string> commands, string f, string n) =>
                $"{who}: {string.Join('+', at)} [{f}] n {n}: {string.Join(" | ", commands.TakeLast(12))}";
            var mine = machine.Values.Single(v => v.Name == "n").Value;
            var theirs = Figures.Show(plain.N);
            if (
                !machine.Configuration.SequenceEqual(plain.Configuration)
                || !said.SequenceEqual(plain.Said)
                || flags != plain.Flags
                || mine != theirs
            )
                fault =
                    $"seed {seed}, after {i} steps{(i > 0 ? $", the last “{made.Steps[i - 1]}”" : "")}\n"
                    + State("engine", machine.Configuration, said, flags, mine)
                    + "\n"
                    + State("plain ", plain.Configuration, plain.Said, plain.Flags, theirs)
                    + $"\n{made.Script}";
            if (fault is not null || i == made.Steps.Count)
                return fault;
            var (e, micros) = made.Steps[i];
            machine.Pass(machine.NowMicros + micros);
            if (machine.Fault is not null)
                return null;
            plain.Pass(plain.Now + micros);
            if (e == "")
                continue;
            ScriptWalk.Happen(script, machine, e, null, "event");
            if (machine.Fault is not null)
                return null;
            plain.Happen(e);
        }
    }

    [Fact]
    public void The_engine_does_what_the_page_says_on_10_000_programs()
    {
        var failures = new SortedDictionary<int, string>();
        var seen = (GaveUp: 0, Cut: 0, Dropped: 0, Unknown: 0);
        Parallel.For(
            1,
            Programs + 1,
            seed =>
            {
                var difference = Differ(seed, p => new(p), out var plain);
                lock (failures)
                {
                    if (difference is not null)
                        failures[seed] = difference;
                    seen = (
                        seen.GaveUp + plain.Seen.GaveUp,
                        seen.Cut + plain.Seen.Cut,
                        seen.Dropped + plain.Seen.Dropped,
                        seen.Unknown + Math.Sign(plain.Seen.Unknown)
                    );
                }
            }
        );
        Assert.True(failures.Count == 0, $"{failures.Count} differ\n" + string.Join("\n\n", failures.Values.Take(3)));
        // What was compared is worth comparing.
        Assert.True(seen.GaveUp > Programs / 3, $"{seen.GaveUp} gave up");
        Assert.True(seen.Cut > Programs / 4, $"{seen.Cut} chains were cut");
        Assert.True(seen.Dropped > Programs / 2, $"{seen.Dropped} were taken over");
        Assert.True(seen.Unknown > Programs / 4, $"{seen.Unknown} programs with unknown conditions");
    }

    [Theory]
    [InlineData(true, false)]
    [InlineData(false, true)]
    public void A_limit_that_ends_or_a_chain_that_goes_on_is_noticed(bool limit, bool chains)
    {
        var noticed = Enumerable
            .Range(1, 500)
            .Count(seed => Differ(seed, p => new(p) { LimitEnds = limit, ChainsGoOn = chains }, out _) is not null);
        Assert.True(noticed > 50, $"noticed on {noticed} of 500");
    }
}
