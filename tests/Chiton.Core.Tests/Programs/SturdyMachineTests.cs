using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Tests.Programs;

/// <summary>Nothing that can be written in a program brings the machine down: it ends, or it is stopped with what went round.</summary>
public class SturdyMachineTests
{
    private static readonly Vocabulary Rig = new(
        [new("Eye", ["dark", "light"]) { Reads = Dimension.Percent }, new("Knob", ["up", "down"]) { Switch = true }],
        [new("Mast", ActuatorKind.RegulatedMotor), new("Pump", ActuatorKind.PlainMotor), new("Lamp", ActuatorKind.Lamp)],
        []
    );

    private static CompiledScript Compile(string text)
    {
        var parsed = ScriptParser.Parse(text, Rig);
        Assert.Empty(parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return ScriptCompiler.Compile(parsed.Program, Rig);
    }

    private static WalkMoment Last(string text, params WalkEvent[] events) => ScriptWalk.Run(Compile(text), events)[^1];

    private static WalkEvent Wait(double seconds) => new(null, null, seconds * 1000);

    // On a thread with the stack that a server's threads have, so that a recursion too deep ends the test run as it would end the server.
    private static T Small<T>(Func<T> work)
    {
        var result = default(T)!;
        System.Runtime.ExceptionServices.ExceptionDispatchInfo? thrown = null;
        var thread = new Thread(
            () =>
            {
                try
                {
                    result = work();
                }
                catch (Exception e)
                {
                    thrown = System.Runtime.ExceptionServices.ExceptionDispatchInfo.Capture(e);
                }
            },
            256 * 1024
        );
        thread.Start();
        thread.Join();
        thrown?.Throw();
        return result;
    }

    [Fact]
    public void Too_much_at_one_moment_ends_it_also_where_a_condition_turns_round_by_it()
    {
        // The repeat uses up what may be done at one moment; what “while here” would begin then is one thing too much.
        var last = Last(
            "program T\n\nvar n = 0\n\nregion Main\n  state A, initial\n"
                + "    while here: run Mast at 30 % if n > 5, otherwise run Mast at 10 %\n"
                + "    after 1 s: repeat 1000000 times: set n to n + 1; stay\n",
            Wait(2)
        );
        Assert.Contains("more than 100000 things at one moment", last.Fault);
        Assert.Contains("set n to n + 1", last.Fault);
    }

    [Theory]
    [InlineData("repeat 5000 times: set n to n + 1", "5000")]
    [InlineData("repeat 250 times: repeat 100 times: set n to n + 1", "25000")]
    [InlineData("repeat 900 times: do Bump (2)", "1800")]
    [InlineData("repeat 30 times: repeat 30 times: do Bump (1)", "900")]
    public void Many_things_at_one_moment_are_done_without_any_stack(string action, string n)
    {
        var last = Small(() =>
            Last(
                $"program T\nvar n = 0\n\nregion Main\n  state A, initial\n    on entry: {action}\n    when n > 0: go B\n  state B\n\n"
                    + "routine Bump (by)\n  state Once, initial\n    on entry: set n to n + by\n    always: go Over\n  state Over, final\n"
            )
        );
        Assert.Null(last.Fault);
        Assert.Equal(["Main.B"], last.States);
        Assert.Equal(n, last.Values.Single().Value);
    }

    [Theory]
    [InlineData(
        "repeat 100000 times: set n to n + 1",
        "Line 6: “repeat 100000 times: set n to n + 1” does more than 100000 things at one moment"
    )]
    [InlineData(
        "repeat 1000 times: repeat 1000 times: set n to n + 1",
        "“repeat 1000 times: repeat 1000 times: set n to n + 1” does more than 100000 things"
    )]
    [InlineData(
        "repeat 60000 times: do Bump (1)",
        "Line 6: “repeat 60000 times: do Bump (1)” takes more than 1000 transitions at one moment"
    )]
    public void More_than_a_hundred_thousand_actions_at_one_moment_stop_it_and_name_the_loop(string action, string says)
    {
        var last = Small(() =>
            Last(
                $"program T\nvar n = 0\n\nregion Main\n  state A, initial\n    on entry: {action}\n    when n > 0: go B\n  state B\n\n"
                    + "routine Bump (by)\n  state Once, initial\n    on entry: set n to n + by\n    always: go Over\n  state Over, final\n"
            )
        );
        Assert.Contains(says, last.Fault);
    }

    [Fact]
    public void A_hundred_thousand_actions_exactly_are_still_done()
    {
        // A repeat is one, each of its rounds is its group and what stands in it.
        Assert.Null(
            Last("program T\nvar n = 0\nregion Main\n  state A, initial\n    on entry: repeat 49999 times: set n to n + 1\n").Fault
        );
        Assert.NotNull(
            Last("program T\nvar n = 0\nregion Main\n  state A, initial\n    on entry: repeat 50000 times: set n to n + 1\n").Fault
        );
    }

    [Fact]
    public void A_chain_of_thousands_needs_no_stack()
    {
        var chain = string.Join(", then ", Enumerable.Repeat("set n to n + 1", 4000));
        Assert.Equal(
            "4000",
            Small(() => Last($"program T\nvar n = 0\nregion Main\n  state A, initial\n    on entry: {chain}\n")).Values.Single().Value
        );
    }

    [Theory]
    [InlineData("0", "    after 0 s: go B\n  state B\n    after 0 s: go A\n", "through “A” and “B” (lines 5 and 7)")]
    [InlineData(
        "0 s",
        "    after n: go A\n",
        "“A” goes round in a loop without time passing: it sets itself off again and again " + "(line 5)"
    )]
    [InlineData("0", "    when n = 0: go B\n  state B\n    after 0 s: go A\n", "through “A” and “B” (lines 5 and 7)")]
    [InlineData(
        "0",
        "    after 0 s if n = 0: go B\n  state B\n    when n = 0: go C\n  state C\n    after 0 s: go A\n",
        "through “A”, “B” and “C” (lines 5, 7 and 9)"
    )]
    [InlineData(
        "0",
        "    while here: do Idle\n    when all done: go A\n",
        "goes round in a loop without time passing, through “A” and “One” (lines 6 and 10)"
    )]
    public void A_loop_without_time_is_stopped_whatever_makes_it(string first, string body, string says)
    {
        var last = Last(
            $"program T\nvar n = {first}\nregion Main\n  state A, initial\n{body}\nroutine Idle\n  state One, initial\n    always: go "
                + "End\n  state End, final\n",
            Wait(1)
        );
        Assert.Contains(says, last.Fault);
    }

    [Fact]
    public void Two_parts_that_set_each_other_off_are_stopped()
    {
        var last = Last(
            "program T\nvar n = 0\nregion One\n  state A, initial\n    when n = 0: set n to 1; go A\nregion Two\n  state B, initial\n "
                + "   when n = 1: set n to 0; go B\n"
        );
        Assert.Contains("goes round in a loop without time passing, through “A” and “B” (lines 5 and 8)", last.Fault);
    }

    [Fact]
    public void A_thousand_transitions_over_time_are_no_loop()
    {
        var last = Last(
            "program T\nvar n = 0\nregion Main\n  state A, initial\n    after 1 ms: set n to n + 1; go B\n  state B\n    after "
                + "1 ms: go A\n",
            Wait(10)
        );
        Assert.Null(last.Fault);
        Assert.Equal("5000", last.Values.Single().Value);
    }

    [Fact]
    public void Events_from_outside_are_no_loop_either()
    {
        var last = Last(
            "program T\nregion Main\n  state A, initial\n    when Knob is tapped: go B\n  state B\n    when Knob is tapped: go A\n",
            [.. Enumerable.Repeat(new WalkEvent("Knob tapped", null, 0), 1501)]
        );
        Assert.Null(last.Fault);
        Assert.Equal(["Main.B"], last.States);
    }

    [Fact]
    public void A_walk_has_a_budget_of_steps()
    {
        var script = Compile("program T\nvar n = 0\nregion Main\n  state A, initial\n    every 1 ms: set n to n + 1; stay\n");
        var stopped = Assert.Throws<InputProblem>(() => ScriptWalk.Run(script, [Wait(1e6)], new StepBudget(50_000)));
        Assert.Contains("more than 50000 steps", stopped.Errors["events[0]"]);
    }

    [Fact]
    public void A_walk_can_be_stopped_in_its_midst()
    {
        var script = Compile("program T\nvar n = 0\nregion Main\n  state A, initial\n    every 1 ms: set n to n + 1; stay\n");
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() => ScriptWalk.Run(script, [Wait(1e6)], new StepBudget(long.MaxValue, stop.Token)));
    }

    [Fact]
    public void A_long_walk_keeps_no_more_than_it_tells()
    {
        // A million blinks are commanded; a walk tells the first two hundred and keeps no other.
        var script = Compile("program T\nvar n = 0\nregion Main\n  state A, initial\n    every 1 ms: turn Lamp on; turn Lamp off; stay\n");
        var before = GC.GetAllocatedBytesForCurrentThread();
        var last = ScriptWalk.Run(script, [Wait(300)])[^1];
        Assert.Equal(200, last.Commands.Count);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 4_000_000);
    }

    [Fact]
    public void Sums_of_sums_are_bounded_over_a_whole_line()
    {
        // Each bracket may hold a hundred links; together they may not, or reading them would need a stack of thousands.
        var nested =
            string.Concat(Enumerable.Repeat("(", 40))
            + "n"
            + string.Concat(Enumerable.Repeat(string.Concat(Enumerable.Repeat(" + 1", 90)) + ")", 40));
        var parsed = Small(() =>
            ScriptParser.Parse($"program T\nvar n = 0\nregion Main\n  state A, initial\n    on entry: set n to {nested}\n", Rig)
        );
        Assert.Contains("This expression is too long", Assert.Single(parsed.Diagnostics).Message);
    }
}
