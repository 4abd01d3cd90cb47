namespace Chiton.Core.Tests.Programs;

/// <summary>Where the programs of a rig are, and how they change together.</summary>
public class RigProgramsTests
{
    private static readonly RigDesign Rig = new(
        "Quay",
        "Farm",
        [ControllerTemplates.Make("six sockets", "Left box"), ControllerTemplates.Make("six sockets", "Right box")],
        [],
        []
    )
    {
        Programs =
        [
            new(
                "program Keeper\n\nregion Main\n  state A, initial\n    when told \"here\" from Boat side: tell Boat side \"go\"; stay\n",
                []
            ),
            new("program Boat side\n\nregion Main\n  state A, initial\n    on entry: tell Keeper \"here\"\n", []) { RunsOn = "Right box" },
            new("program Spare\n", []) { Stored = true },
            new("program Host\n", []) { OnHost = true, Stored = true },
        ],
    };

    [Fact]
    public void Each_place_runs_one_and_letting_another_run_stores_it()
    {
        RigRules.Check(Rig, "rig");
        Assert.Empty(RigPrograms.Problems(Rig));
        Assert.Equal(["Left box", "Right box", "Left box", null], RigPrograms.Of(Rig).Select(p => p.Place));
        Assert.Equal([false, true, true, false], RigPrograms.Run(Rig, 2).Programs.Select(p => !p.Stored));
        // The host takes over from all controllers, and any of them from the host.
        Assert.Equal([false, false, false, true], RigPrograms.Run(Rig, 3).Programs.Select(p => !p.Stored));
        Assert.Equal([true, false, false, false], RigPrograms.Run(RigPrograms.Run(Rig, 3), 0).Programs.Select(p => !p.Stored));
        Assert.Equal("Host", RigPrograms.Of(RigPrograms.Run(Rig, 3))[RigPrograms.Run(Rig, 3).MainProgram].Name);
    }

    [Fact]
    public void Two_on_one_place_are_refused_and_odd_ones_are_told()
    {
        var two = Rig with { Programs = Rig.Programs.With(2, Rig.Programs[2] with { Stored = false }) };
        Assert.Contains(
            "one program at a time",
            Assert.Throws<InputProblem>(() => RigRules.Check(two, "rig")).Errors["rig.programs[2].stored"]
        );
        var gone = Rig with { Programs = Rig.Programs.With(1, Rig.Programs[1] with { RunsOn = "Far box" }) };
        Assert.Contains(
            "no controller “Far box”",
            Assert.Throws<InputProblem>(() => RigRules.Check(gone, "rig")).Errors["rig.programs[1].runsOn"]
        );
        var both = Rig with { Programs = Rig.Programs.With(3, Rig.Programs[3] with { Stored = false }) };
        Assert.Contains(
            "Host commands the controllers from a host while Keeper and Boat side run on them",
            Assert.Single(RigPrograms.Problems(both))
        );
        var same = Rig with { Programs = Rig.Programs.With(2, Rig.Programs[2] with { Script = "program Keeper\n" }) };
        Assert.Contains("are named Keeper", Assert.Single(RigPrograms.Problems(same)));
    }

    [Fact]
    public void A_renamed_program_is_told_by_its_new_name()
    {
        var next = Renames.OfProgram(Rig with { Walks = [new("One", "Boat side", [], [])] }, 1, "Boat side", "Boat");
        Assert.Contains("from Boat: tell Boat \"go\"", next.Programs[0].Script);
        Assert.Equal("Boat", next.Walks[0].Program);
        // A longer name that begins alike stays.
        Assert.Contains("from Boat side", Renames.OfProgram(Rig, 1, "Boat", "Ship").Programs[0].Script);
    }

    [Fact]
    public void Programs_follow_a_renamed_controller_and_leave_one_that_is_gone()
    {
        var renamed = RigPrograms.Follow(
            Rig,
            Rig with
            {
                Controllers = [Rig.Controllers[0], Rig.Controllers[1] with { Name = "East box" }],
            }
        );
        Assert.Equal("East box", renamed.Programs[1].RunsOn);
        var gone = RigPrograms.Follow(Rig, Rig with { Controllers = [Rig.Controllers[0]] });
        Assert.Null(gone.Programs[1].RunsOn);
        // The first box runs its own already: what came to it is stored.
        Assert.True(gone.Programs[1].Stored);
        RigRules.Check(gone, "rig");
    }

    [Fact]
    public void Differences_name_the_program_and_where_it_is()
    {
        var after = Rig with
        {
            Programs =
            [
                Rig.Programs[0],
                Rig.Programs[1] with
                {
                    Script = Rig.Programs[1].Script.Replace("here", "there"),
                    RunsOn = null,
                    Stored = true,
                },
                Rig.Programs[3],
            ],
        };
        var says = ProgramDifference.Between(Rig, after).Select(c => c.Say).ToArray();
        Assert.Contains("Boat side is on Left box now; it was on Right box.", says);
        Assert.Contains("Boat side is only stored now; it ran before.", says);
        Assert.Contains("The program Spare was taken out.", says);
        Assert.Contains(says, s => s.StartsWith("Boat side: ") && s.Contains("there"));
        Assert.Empty(ProgramDifference.Between(Rig, Rig));
    }
}
