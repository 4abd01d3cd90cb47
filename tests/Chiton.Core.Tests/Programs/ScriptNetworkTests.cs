using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs;

/// <summary>Several programs at once: messages take time, arrive in order, and are heard by whoever runs.</summary>
public class ScriptNetworkTests
{
    private static readonly Vocabulary Rig = new(
        [new("Knob", ["up", "down"]) { Switch = true }],
        [new("Pump", ActuatorKind.PlainMotor), new("Lamp", ActuatorKind.Lamp)],
        []
    )
    {
        Programs = ["Quay", "Boat", "Tower"],
    };

    private static NetworkProgram Program(string name, string body, string head = "", bool host = false)
    {
        var parsed = ScriptParser.Parse($"program {name}\n{head}region Main\n{body}", Rig);
        Assert.Empty(parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return new(name, ScriptCompiler.Compile(parsed.Program, Rig), host);
    }

    private static IReadOnlyList<WalkMoment> Walk(NetworkProgram[] programs, double delayMs, params string[] steps) =>
        ScriptWalk.Together(
            programs,
            (long)(delayMs * 1000),
            [
                .. steps.Select(s =>
                    s.StartsWith("+ ", StringComparison.Ordinal)
                        ? new WalkEvent(null, null, double.Parse(s[2..], System.Globalization.CultureInfo.InvariantCulture))
                        : new WalkEvent(s, null, 0)
                ),
            ]
        );

    private static string States(IReadOnlyList<WalkMoment> walk) =>
        string.Join(" | ", walk.Select(m => string.Join('+', m.States.Select(s => s[(s.LastIndexOf('.') + 1)..]))));

    private const string Asks =
        "  state Idle, initial\n    when Knob is pressed: tell Boat \"come\" with 3, 4 + 1; go Waiting\n  state Waiting\n    when "
        + "told \"here\" from Boat: go Served\n    after 1 s: go Alone\n  state Served\n  state Alone\n";
    private const string Comes =
        "  state Away, initial\n    when told \"come\" from Quay into berth, size: tell Quay \"here\"; go Berthed\n  state Berthed\n";

    [Fact]
    public void A_message_arrives_after_the_links_time_with_its_values()
    {
        var walk = Walk(
            [Program("Quay", Asks), Program("Boat", Comes, "var berth = 0\nvar size = 0\n")],
            200,
            "Knob pressed",
            "+ 199",
            "+ 1",
            "+ 199",
            "+ 1"
        );
        Assert.Equal("Idle+Away | Waiting+Away | Waiting+Away | Waiting+Berthed | Waiting+Berthed | Served+Berthed", States(walk));
        Assert.Equal(["Quay tells Boat “come”, there in 0.2 s"], walk[1].OnTheWay);
        Assert.Equal(0.2, walk[1].NextDueS!.Value, 9);
        Assert.Equal(["Boat: berth 3", "Boat: size 5"], walk[3].Values.Select(v => $"{v.Name} {v.Value}"));
        Assert.Empty(walk[^1].OnTheWay);
        Assert.Equal(["Quay", "Boat", "Quay"], walk.SelectMany(m => m.Taken).Select(t => t.Program));
    }

    [Fact]
    public void A_message_that_takes_too_long_is_late() =>
        Assert.Equal(
            "Idle+Away | Waiting+Away | Alone+Berthed",
            States(Walk([Program("Quay", Asks), Program("Boat", Comes, "var berth = 0\nvar size = 0\n")], 600, "Knob pressed", "+ 1500"))
        );

    [Fact]
    public void What_arrives_together_is_heard_by_sender_and_after_the_timers()
    {
        // Both tell the tower at once, and the tower's own time comes due as they arrive.
        const string tower =
            "  state One, initial\n    after 100 ms: set log to log * 10 + 9; stay\n    when told \"a\": set log to log * 10 + 1; "
            + "stay\n    when told \"b\": set log to log * 10 + 2; stay\n";
        var boat = Program("Boat", "  state S, initial\n    on entry: tell Tower \"b\"\n");
        var quay = Program("Quay", "  state S, initial\n    on entry: tell Tower \"a\"\n");
        var sees = Program("Tower", tower, "var log = 0\n");
        Assert.Equal("912", Walk([quay, boat, sees], 100, "+ 100")[^1].Values.Single().Value);
        Assert.Equal("921", Walk([sees, boat, quay], 100, "+ 100")[^1].Values.Single().Value);
    }

    [Fact]
    public void Nobody_hears_what_is_told_to_a_program_that_does_not_run()
    {
        var walk = Walk([Program("Quay", Asks)], 10, "Knob pressed", "+ 2000");
        Assert.Equal("Idle | Waiting | Alone", States(walk));
        Assert.Empty(walk[1].OnTheWay);
    }

    [Fact]
    public void A_host_sees_and_hears_later_by_the_links_time()
    {
        var own = Program("Quay", "  state Off, initial\n    when Knob is pressed: go On\n  state On\n");
        var host = Program("Tower", "  state Off, initial\n    when Knob is pressed: go On\n  state On\n", host: true);
        var walk = Walk([own, host], 80, "Knob pressed");
        Assert.Equal(0.08, walk[^1].TimeS, 9);
        Assert.Equal("Off+Off | On+On", States(walk));
    }

    [Fact]
    public void Programs_that_answer_each_other_for_ever_are_stopped_and_named()
    {
        var a = Program(
            "Quay",
            "  state S, initial\n    when Knob is pressed: tell Boat \"ping\"; stay\n    when told \"pong\": tell Boat \"ping\"; stay\n"
        );
        var b = Program("Boat", "  state S, initial\n    when told \"ping\": tell Quay \"pong\"; stay\n");
        Assert.Matches(
            "Messages go round without time passing: (Quay tells Boat “ping”|Boat tells Quay “pong”)",
            Walk([a, b], 0, "Knob pressed")[^1].Fault
        );
        Assert.Null(Walk([a, b], 5, "Knob pressed", "+ 1000")[^1].Fault);
        var flood = Program("Quay", "  state S, initial\n    every 1 ms: tell Boat \"ping\"; stay\n");
        Assert.Contains(
            "1000 messages are on their way at once",
            Walk([flood, Program("Boat", "  state S, initial\n")], 20_000, "+ 5000")[^1].Fault
        );
    }

    [Fact]
    public void A_running_network_allocates_nothing()
    {
        var a = Program(
            "Quay",
            "  state S, initial\n    every 1 ms: tell Boat \"ping\" with 1, 2; stay\n    when told \"pong\" into got: set n to n "
                + "+ got; stay\n",
            "var n = 0\nvar got = 0\n"
        );
        var b = Program(
            "Boat",
            "  state S, initial\n    when told \"ping\" into x, y: tell Quay \"pong\" with x + y; stay\n",
            "var x = 0\nvar y = 0\n"
        );
        var network = new ScriptNetwork([a, b], 3_000);
        void Go(long from, long to)
        {
            for (var t = from; t < to; t += 1000)
            {
                network.Pass(t);
                foreach (var m in network.Machines)
                    m.ClearCommands();
            }
        }
        network.Start();
        Go(0, 2_000_000);
        var before = GC.GetAllocatedBytesForCurrentThread();
        Go(2_000_000, 4_000_000);
        // The list of machines is an array walked through its interface: one enumerator a pass is the test's own.
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 2000 * 40);
        Assert.Null(network.Fault);
        Assert.True(
            double.Parse(network.Machines[0].ValueOf("n")!.Replace(" ", ""), System.Globalization.CultureInfo.InvariantCulture) > 10_000
        );
    }

    [Fact]
    public void Random_networks_give_the_same_however_the_time_is_cut() =>
        Gen.Int[0, 1_000_000]
            .Sample(
                seed =>
                {
                    var random = new Random(seed);
                    string[] names = ["Quay", "Boat", "Tower"];
                    NetworkProgram[] programs =
                    [
                        .. names.Select(name =>
                        {
                            var others = names.Where(n => n != name).ToArray();
                            var body = new System.Text.StringBuilder();
                            var n = 2 + random.Next(2);
                            for (var s = 0; s < n; s++)
                            {
                                body.Append(
                                    $"  state S{s}{(s == 0 ? ", initial" : "")}\n    after {50 + random.Next(400)} ms: tell "
                                        + $"{others[random.Next(2)]} \"{"ab"[random.Next(2)]}\" with n; go S{random.Next(n)}\n"
                                );
                                for (var t = random.Next(3); t > 0; t--)
                                    body.Append(
                                        $"    when told \"{"ab"[random.Next(2)]}\"{(random.Next(2) == 0 ? " into n" : "")}: set n to "
                                            + $"n + {1 + random.Next(3)}; {(random.Next(2) == 0 ? "stay" : $"go S{random.Next(n)}")}\n"
                                    );
                            }
                            return Program(name, body.ToString(), "var n = 0\n");
                        }),
                    ];
                    string Ends(int cut)
                    {
                        var network = new ScriptNetwork(programs, 37_000);
                        network.Start(5);
                        var clock = new Random(cut);
                        for (long t = 0; t < 3_000_000; )
                            network.Pass(t = Math.Min(3_000_000, t + 1 + (cut == 0 ? 3_000_000 : clock.Next(200_000))));
                        return string.Join(" ", network.Machines.Select(m => $"{string.Join('+', m.Configuration)} {m.ValueOf("n")}"));
                    }
                    Assert.Equal(Ends(0), Ends(seed + 1));
                },
                iter: 300
            );
}
