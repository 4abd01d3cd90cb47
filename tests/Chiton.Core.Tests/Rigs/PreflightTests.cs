namespace Chiton.Core.Tests.Rigs;

public class PreflightTests
{
    private static RigDesign Rig
    {
        get
        {
            var rig = RigTemplates.Make("two-wheel drive", "Rover");
            rig = rig with { Sensors = [.. rig.Sensors, new("Back bumper", SensorKind.Touch, 10, 0, ["up", "down"])] };
            return rig with
            {
                Wires = PortAssignment.Assign(rig.Controllers.ToArray(), rig.Plugs).Wires.ToSequence(),
                Power = new(4, 1.5, 1800, null, 100, 500, 5, []),
            };
        }
    }

    /// <summary>Follows the page step by step, as a trainee does, until nothing is left to do.</summary>
    private static Preflight Follow(RigDesign rig, params BenchFault[] faults)
    {
        var bench = new PreflightBench(rig, faults);
        var seen = new List<Seen> { bench.Try("", PreflightAction.Battery, 0) };
        for (var step = 0; step < 200; step++)
        {
            var judged = Preflight.Judge(rig, seen);
            if (judged.Devices.FirstOrDefault(d => d.Next is not null) is not { } todo)
                return judged;
            var device = todo.Next == PreflightAction.Battery ? "" : todo.NextDevice!;
            seen.Add(bench.Try(device, todo.Next!.Value, seen.Count(s => s.Device == device && s.Action == todo.Next)));
        }
        throw new InvalidOperationException("The page never came to an end.");
    }

    private static string Code(BenchFaultKind kind) =>
        kind switch
        {
            BenchFaultKind.SwappedLeads => "swapped-leads",
            BenchFaultKind.DeadSensor => "dead-sensor",
            BenchFaultKind.WrongSocket => "wrong-socket",
            BenchFaultKind.ReversedMotor => "reversed-motor",
            BenchFaultKind.LooseLead => "loose-lead",
            _ => "flat-battery",
        };

    [Fact]
    public void A_sound_rig_is_seen_to_work()
    {
        var judged = Follow(Rig with { Actuators = [.. Rig.Actuators.Select(a => a with { Reversed = false })] });
        Assert.Empty(judged.Faults);
        Assert.All(judged.Devices, d => Assert.Equal("works", d.State));
    }

    [Fact]
    public void Every_fault_that_can_be_planted_is_named_and_no_other()
    {
        var rig = Rig with { Actuators = [.. Rig.Actuators.Select(a => a with { Reversed = false })] };
        var possible = PreflightBench.Possible(rig);
        Assert.Equal(Enum.GetValues<BenchFaultKind>().Length, possible.Select(p => p.Kind).Distinct().Count());
        Assert.All(
            possible,
            fault =>
            {
                var judged = Follow(rig, fault);
                var named = judged.Faults.Select(f => f.Code).Distinct().ToArray();
                Assert.True(named.Length == 1 && named[0] == Code(fault.Kind), $"{fault}: named {string.Join(", ", judged.Faults)}");
                if (fault.Device is { } device)
                    Assert.Contains(judged.Faults, f => f.Say.Contains(device));
                if (fault.Kind == BenchFaultKind.SwappedLeads)
                    Assert.Contains(fault.Other!, Assert.Single(judged.Faults).Say);
            }
        );
    }

    [Fact]
    public void A_reversed_motor_that_is_recorded_turns_forward()
    {
        var rig = Rig with { Actuators = [.. Rig.Actuators.Select(a => a with { Reversed = a.Name == "Right wheel" })] };
        Assert.Empty(Follow(rig, new BenchFault(BenchFaultKind.ReversedMotor, "Right wheel")).Faults);
        // Recorded although it is mounted the usual way: then it is wrong the other way about.
        Assert.Equal("reversed-motor", Assert.Single(Follow(rig).Faults).Code);
    }

    [Fact]
    public void A_lead_that_the_map_has_wrong_shows_too()
    {
        var clash = Rig with
        {
            Wires =
            [
                .. Rig.Wires.Select(w =>
                    w.Device == "Right wheel" ? w with { Port = Rig.Wires.First(x => x.Device == "Left wheel").Port } : w
                ),
            ],
        };
        Assert.Contains(Follow(clash).Faults, f => f.Code == "wrong-socket" && f.Say.Contains("together with"));
    }

    [Fact]
    public void Nothing_is_named_before_it_is_proven()
    {
        var dead = new PreflightBench(Rig, [new(BenchFaultKind.DeadSensor, "Bumper")]);
        var seen = new List<Seen>();
        for (var i = 0; i < Preflight.Tries; i++)
        {
            Assert.Empty(Preflight.Judge(Rig, seen).Faults);
            seen.Add(dead.Try("Bumper", PreflightAction.Read, i));
        }
        // It may still sit in another socket.
        Assert.Empty(Preflight.Judge(Rig, seen).Faults);
        Assert.Equal(PreflightAction.Search, Preflight.Judge(Rig, seen).Devices.Single(d => d.Device == "Bumper").Next);
    }

    [Theory]
    [InlineData("Winch", PreflightAction.Move, "device")]
    [InlineData("Bumper", PreflightAction.Move, "action")]
    [InlineData("Left wheel", PreflightAction.Read, "action")]
    public void What_cannot_be_tried_is_refused(string device, PreflightAction action, string field) =>
        Assert.Equal(field, Assert.Throws<InputProblem>(() => new PreflightBench(Rig, []).Try(device, action, 0)).Errors.Keys.Single());
}
