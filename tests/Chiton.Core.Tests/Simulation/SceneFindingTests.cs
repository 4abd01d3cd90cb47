using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Tests.Simulation;

/// <summary>What is said of a scene before it is run, at the line it speaks of; and what is wired where it cannot work.</summary>
public class SceneFindingTests
{
    private const string Go =
        "  state Go, initial\n    on entry: turn Lamp on; drive straight 300 mm at 30 %\n    when Drive is done: go Over\n"
        + "    when Start button is pressed: go Pressed\n  state Over, final\n  state Pressed, final\n    on entry: stop Drive and brake\n";
    private const string Scene =
        "floor 1200 by 900 mm\nplace far 400 by 100 mm at (300, 600)\nstart Drive at (300, 300) facing 0 robot deg\nends after 8 s\n";

    // Every lead on a port of its own, but for some that are put on another.
    private static RigDesign Wired(string template, params (string Device, Func<Port, Lead, bool> On)[] wrong)
    {
        var rig = FloorBench.Rig(Go);
        var board = ControllerTemplates.Make(template, "Deck box");
        rig = rig with { Controllers = [board] };
        var wires = new List<Wire>();
        foreach (var device in rig.Devices)
        foreach (var lead in device.Leads)
        {
            var port = wrong.FirstOrDefault(w => w.Device == device.Name && !lead.Feeds).On is { } on
                ? board.Ports.First(p => on(p, lead))
                : board.Ports.FirstOrDefault(p => PortAssignment.Serves(p, lead) && !wires.Any(w => w.Port == p.Name && p.Holds == 1));
            if (port is not null)
                wires.Add(new(device.Name, lead.Name, "Deck box", port.Name));
        }
        return rig with { Wires = [.. wires] };
    }

    private static bool Passes(RigDesign rig, string goal) => BenchReport.Watch(FloorBench.Plan(rig, Scene + goal, false), 1).Passed;

    [Fact]
    public void What_is_wired_right_or_not_at_all_works()
    {
        Assert.True(Passes(FloorBench.Rig(Go), "goal: Drive on far\n"));
        var rig = Wired("four and four");
        Assert.Empty(rig.WiredWrong());
        Assert.True(Passes(rig, "goal: Drive on far\ngoal: Lamp is on\n"));
    }

    [Fact]
    public void A_lamp_on_a_port_that_cannot_feed_it_stays_dark_and_the_run_says_so()
    {
        var rig = Wired("four and four", ("Lamp", (p, lead) => p.Name == "sensor 4" && (p.Can & lead.AnyOf) == 0));
        Assert.Equal("Lamp", Assert.Single(rig.WiredWrong()).Device);
        Assert.True(Passes(rig, "goal: Drive on far\n"));
        Assert.False(Passes(rig, "goal: Lamp is on\n"));
        var run = BenchReport.Watch(FloorBench.Plan(rig, Scene, false), 1);
        Assert.Contains(
            run.Notes,
            n => n.TimeS == 0 && n.Say.StartsWith("Lamp does nothing: it is wired where it cannot work.", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void Two_motors_on_one_port_do_not_turn_and_a_button_there_is_never_down()
    {
        static Func<Port, Lead, bool> First() => (p, lead) => PortAssignment.Serves(p, lead);
        var rig = Wired("four and four", ("Left wheel", First()), ("Right wheel", First()));
        Assert.Equal(["Left wheel", "Right wheel"], rig.WiredWrong().Select(w => w.Device).Order());
        var run = BenchReport.Watch(FloorBench.Plan(rig, Scene + "goal: Drive on far\n", false), 1);
        Assert.False(run.Passed);
        Assert.Equal(300, FloorBench.End(run).Y, 0.01);

        var pressed = "person taps Start button at 0.2 s\ngoal: Main is in Pressed\n";
        Assert.True(Passes(Wired("four and four"), pressed));
        Assert.False(Passes(Wired("four and four", ("Bumper", First()), ("Start button", First())), pressed));
    }

    [Fact]
    public void Every_surface_that_an_eye_knows_nothing_of_is_told_at_its_own_line()
    {
        var rig = FloorBench.Rig(Go) with
        {
            Sensors =
            [
                new("Start button", SensorKind.Button, 10, 1, ["up", "down"]),
                new("Line eye", SensorKind.ReflectedLight, 10, 1, ["line", "sand"]) { Mount = new(FloorBench.Sure(60, "mm")) },
            ],
        };
        var problem = Assert.Throws<SceneProblem>(() =>
            FloorBench.Plan(
                rig,
                "floor 1200 by 900 mm of sand\npatch bay of weed 90 by 90 mm at (300, 300)\n"
                    + "strip of line 20 mm wide from (0, 0) to (9, 900)\n",
                false,
                null,
                [FloorBench.Readings(rig, "Line eye", ("line", [10], 1))]
            )
        );
        Assert.Equal([(2, "sand"), (3, "weed")], problem.Findings.Select(f => (f.Line, f.Say.Split('“', '”')[1])).Order());
        Assert.All(problem.Findings, f => Assert.Equal("surface-unknown", f.Code));
        // Said of the scene, both are enough.
        FloorBench.Plan(
            rig,
            "floor 1200 by 900 mm of sand\npatch bay of weed 90 by 90 mm at (300, 300)\nsurface sand reads 60 % on Line eye\n"
                + "surface weed is sand on Line eye\n",
            false,
            null,
            [FloorBench.Readings(rig, "Line eye", ("line", [10], 1))]
        );
    }

    [Fact]
    public void A_goal_that_names_nothing_there_is_told_at_its_line()
    {
        var plan = FloorBench.Plan(FloorBench.Rig(Go), Scene + "goal: Drive on far\ngoal: Drive on shed\n");
        var said = Assert.Single(plan.Findings);
        Assert.Equal((7, "goal-unjudged"), (said.Line, said.Code));
        Assert.Contains("no place “shed”", said.Say);
    }
}
