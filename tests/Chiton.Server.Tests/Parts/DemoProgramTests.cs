using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Rigs;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>Every program of the demo reads without a fault, prints as it is written, and can be walked to its end.</summary>
public class DemoProgramTests
{
    public static TheoryData<string> Rigs => [.. Farm.All(DateTime.UnixEpoch).Select(r => r.Id)];

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Every_program_reads_and_prints_as_it_is_written(string id)
    {
        var design = Farm.All(DateTime.UnixEpoch).Single(r => r.Id == id).Design;
        Assert.NotEmpty(design.Programs);
        foreach (var program in design.Programs)
        {
            var parsed = ScriptParser.Parse(program.Script, Vocabulary.Of(design));
            Assert.Empty(parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
            Assert.Equal(program.Script, Printer.Print(parsed.Program));
            Assert.True(parsed.Program.AllStates.Count() >= 4);
        }
    }

    private static string Walk(string id, int program, params string[] steps)
    {
        var design = Farm.All(DateTime.UnixEpoch).Single(r => r.Id == id).Design;
        var moments = ScriptWalk.Run(
            ScriptCompiler.Compile(ScriptParser.Parse(design.Programs[program].Script, Vocabulary.Of(design)).Program, design),
            [
                .. steps.Select(s =>
                    s.StartsWith("+ ")
                        ? new WalkEvent(null, null, double.Parse(s[2..], System.Globalization.CultureInfo.InvariantCulture) * 1000)
                        : new WalkEvent(s, null, 0)
                ),
            ]
        );
        Assert.All(moments, m => Assert.Null(m.Fault));
        return string.Join(" | ", moments.Select(m => string.Join('+', m.States.Select(s => s[(s.IndexOf('.') + 1)..]))));
    }

    [Theory]
    [InlineData(
        "seed-trolley",
        "Rolling | Over tag | Rolling | Over tag | Rolling | Stopping | Seeding",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "+ 1.5"
    )]
    [InlineData(
        "rack-hoist",
        "Lowering+Dark | Resting+Dark | Rising+Lit | Rising+Lit | Rising+Lit | Docking+Lit | Delivered+Lit | Lowering+Lit | "
            + "Lowering+Lit | Resting+Dark",
        "Foot switch is down",
        "Order knob tapped,Foot switch is up",
        "Shelf eye is notch",
        "Shelf eye is mast paint",
        "Shelf eye is notch",
        "Tongue done",
        "Tongue done",
        "Shelf eye is mast paint",
        "Foot switch is down"
    )]
    [InlineData(
        "shell-sorter",
        "Waiting+Dark | Carrying+Dark | Carrying+Dark | Waiting+Dark | Clearing+Lit | Waiting+Dark",
        "Shell eye is white shell",
        "Belt gate pressed",
        "Shell eye is belt,Belt gate released",
        "Jam bumper pressed",
        "Belt done"
    )]
    [InlineData(
        "buoy-picker",
        "Homing | Resting | Lowering | Lowering | Gripping | Lifting | Swinging | Letting go | Homing",
        "Swing end is down",
        "Reach is at the buoy",
        "Jaws done",
        "Winch done",
        "Grip force is held",
        "Winch done",
        "Boom done",
        "Swing end is up,Jaws done"
    )]
    [InlineData(
        "header-tank",
        "Filling+Quiet | Full+Quiet | Full+Quiet | Filling+Quiet | Full+Quiet | Overfull+Sounding | Filling+Quiet | Dry+Sounding | "
            + "Dry+Silenced | Filling+Quiet",
        "High probe is wet",
        "Low probe is wet",
        "High probe is dry,Low probe is dry",
        "High probe is wet",
        "+ 120",
        "High probe is dry",
        "+ 90",
        "Silence button tapped",
        "Silence button held for 2 s"
    )]
    [InlineData(
        "berthing-lights",
        "Nothing near | Coming | Close | Berthed | Close | Coming | Nothing near",
        "Berth range is coming",
        "Berth range is close",
        "Berth range is touching",
        "Berth range is close",
        "Berth range is coming",
        "Berth range is open water"
    )]
    [InlineData(
        "buoy-line-rover",
        "Ready | Following | Crossing | Following | Ready",
        "Start button tapped",
        "Line eye is line,+ 0.3",
        "Line eye is edge of line,Drive done",
        "Start button tapped"
    )]
    public void Each_is_walked_to_where_it_ends(string id, string states, params string[] steps) =>
        Assert.Equal(states, string.Join(" | ", Split(id, steps)));

    // A step may hold two events, of which only the last is looked at.
    private static IEnumerable<string> Split(string id, string[] steps)
    {
        var flat = steps.SelectMany(s => s.Split(',')).ToArray();
        var all = Walk(id, 0, flat).Split(" | ");
        yield return all[0];
        var at = 0;
        foreach (var step in steps)
            yield return all[at += step.Split(',').Length];
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Every_rig_keeps_a_walk_from_the_start_to_where_its_program_ends(string id)
    {
        var design = Farm.All(DateTime.UnixEpoch).Single(r => r.Id == id).Design;
        RigRules.Check(design, "design");
        Assert.Empty(RigPrograms.Problems(design));
        Assert.NotEmpty(design.Walks);
        foreach (var walk in design.Walks)
        {
            var moments = WalkOf.Stored(design, walk);
            Assert.All(moments, m => Assert.Null(m.Fault));
            Assert.Equal(walk.Ends, moments[^1].States);
            // Each event did something: nothing in an example is for show.
            Assert.True(
                moments.Count(m => m.Event is not null && m.Taken.Count > 0) >= moments.Count / 3,
                $"{walk.Name} takes too few transitions"
            );
        }
    }

    [Fact]
    public void The_keeper_and_its_gates_understand_each_other()
    {
        var design = Farm.All(DateTime.UnixEpoch).Single(r => r.Id == "lock-keeper").Design;
        var moments = WalkOf.Stored(design, design.Walks[0]);
        Assert.Equal(
            "Idle+Shut+Shut | Sea open+Shut+Shut | Sea open+Opening+Shut | Sea open+Open+Shut | Sea passing+Open+Shut | Sea "
                + "shutting+Open+Shut | Sea shutting+Shutting+Shut | Sea shutting+Shut+Shut | Idle+Shut+Shut",
            string.Join(" | ", moments.Select(m => string.Join('+', m.States.Select(s => s[(s.LastIndexOf('.') + 1)..]))))
        );
        Assert.Equal("Keeper tells Sea side “open”, there in 0.06 s", Assert.Single(moments[1].OnTheWay));
        // The sea gate that stalls while it opens shuts again, and the keeper's time runs out.
        Assert.Equal(
            "Shut | Opening | Shutting | Shut",
            Walk("lock-keeper", 2, "told open from Keeper", "Creek gate stalls", "Creek gate shut is down")
        );
    }

    [Fact]
    public void Of_a_whole_farm_nothing_is_missing_and_of_one_without_a_rig_just_that()
    {
        var ids = Farm.All(DateTime.UnixEpoch).Select(r => r.Id).ToHashSet();
        Assert.Equal(9, ids.Count);
        Assert.Empty(Farm.Missing(DateTime.UnixEpoch, ids));
        foreach (var id in ids)
            Assert.Equal(id, Assert.Single(Farm.Missing(DateTime.UnixEpoch, ids.Where(i => i != id).ToHashSet())).Id);
    }
}
