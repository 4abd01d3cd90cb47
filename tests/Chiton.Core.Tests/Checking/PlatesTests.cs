using Chiton.Core.Checking;
using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Checking;

/// <summary>A plate says what is known, and tells nothing wrong, not looked at and cannot be looked at apart.</summary>
public class PlatesTests
{
    private static readonly RigDesign Rig = FarmBench.Rig(FarmBench.StopAtSecond) with
    {
        Wires =
        [
            new("Tag eye", "signal", "Deck box", "front 1"),
            new("Trolley", "drive", "Deck box", "back 1"),
            new("Lamp", "light", "Deck box", "front 2"),
        ],
    };

    private static RigJudgement Judged(params Grade?[] grades) =>
        new([.. grades.Select((g, i) => new SensorJudgement($"Eye {i + 1}", g, "It is so.", [], null))], null, "");

    private static PlateFacts Facts =>
        new(
            Rig,
            Judged(Grade.Solid),
            new(Rig, FarmBench.Motion(), new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>()),
            FarmBench.Motion(),
            ScriptParser.Parse(Rig.Program.Script, Vocabulary.Of(Rig)),
            [],
            [],
            null,
            null,
            null,
            false
        );

    private static (string Line, PlateState State) Plate(PlateFacts facts, string part) =>
        Plates.Of(facts).Single(p => p.Part == part) is var p ? (p.Line, p.State) : default;

    [Theory]
    [InlineData("no readings yet", PlateState.NotLooked)]
    [InlineData("1 without readings", PlateState.NotLooked, Grade.Solid, null)]
    [InlineData("every sensor holds", PlateState.Fine, Grade.Solid, Grade.Solid)]
    [InlineData("1 only workable", PlateState.Fine, Grade.Solid, Grade.Workable)]
    [InlineData("all workable", PlateState.Fine, Grade.Workable)]
    [InlineData("1 sensor fragile", PlateState.Attention, Grade.Fragile, Grade.Workable)]
    [InlineData("2 sensors are weak", PlateState.Attention, Grade.Fragile, Grade.Unusable)]
    public void Sense_says_how_well_its_sensors_hold(string line, PlateState state, params object?[]? grades) =>
        Assert.Equal(
            (line, state),
            Plate(Facts with { Judged = Judged([.. (grades is null or [] ? [null] : grades).Select(g => (Grade?)g)]) }, "sense")
        );

    [Fact]
    public void A_copy_that_deviates_does_not_hold() =>
        Assert.Equal(
            (("this copy deviates", PlateState.Attention), ("the copies differ", PlateState.Attention)),
            (
                Plate(Facts with { Deviations = ["Copy 2 reads 37 standard errors more."], Copies = 3 }, "sense"),
                Plate(Facts with { Deviations = ["Copy 2 reads 37 standard errors more."], Copies = 2 }, "sense")
            )
        );

    [Fact]
    public void What_was_not_looked_at_is_never_nothing_to_settle()
    {
        var (line, state) = Plate(Facts, "check");
        Assert.Equal(("nothing found so far", PlateState.NotLooked), (line, state));
        Looked Saw(string title, LookedState state) =>
            new(title, title, "Says.", "move", state, 0, state == LookedState.NotYet ? "Not run." : null);
        var half = Facts with
        {
            Looked = [Saw("One", LookedState.Nothing), Saw("Two", LookedState.NotYet), Saw("Three", LookedState.Cannot)],
        };
        Assert.Equal(("nothing found so far", PlateState.NotLooked), Plate(half, "check"));
        Assert.Equal("Not looked at to the end: two. Not run.", Plates.Of(half).Single(p => p.Part == "check").Why);
        // Only where everything that can be looked for was, there is nothing to settle.
        var whole = Facts with
        {
            Looked = [Saw("One", LookedState.Nothing), Saw("Three", LookedState.Cannot)],
        };
        Assert.Equal(("nothing to settle", PlateState.Fine), Plate(whole, "check"));
        Assert.Contains("1 cannot be looked for", Plates.Of(whole).Single(p => p.Part == "check").Why, StringComparison.Ordinal);
        Assert.Equal(("waits for program", PlateState.Cannot), Plate(Facts with { Findings = null }, "check"));
        Assert.Equal(
            ("1 to settle", PlateState.Attention),
            Plate(
                Facts with
                {
                    Findings =
                    [
                        new("x", Severity.Risky, "A", 1, 1, "Head", "Say", null),
                        new("y", Severity.Holds, "A", 1, 1, "Head", "Say", null),
                    ],
                },
                "check"
            )
        );
    }

    [Fact]
    public void What_cannot_be_run_says_why_in_place_of_not_yet()
    {
        Assert.Equal(("not run yet", PlateState.NotLooked), Plate(Facts, "simulate"));
        var hindered = Facts with { Hindrance = "Only a vehicle on a rail can be simulated so far." };
        Assert.Equal(("cannot run yet", PlateState.Cannot), Plate(hindered, "simulate"));
        Assert.Equal(("cannot run yet", PlateState.Cannot), Plate(hindered, "prove"));
        Assert.Contains("rail", Plates.Of(hindered).Single(p => p.Part == "prove").Why);
        Assert.Equal(("last failed 7.5 s", PlateState.Attention), Plate(Facts with { Run = (false, 7.5) }, "simulate"));
        Assert.Equal(("out of date", PlateState.NotLooked), Plate(Facts with { OldProof = true }, "prove"));
        Assert.Equal(("89 of 100 pass", PlateState.Attention), Plate(Facts with { Proof = (100, 89) }, "prove"));
        Assert.Equal(("90 of 100 pass", PlateState.Fine), Plate(Facts with { Proof = (100, 90) }, "prove"));
    }

    [Fact]
    public void Move_tells_what_nobody_knows_from_what_was_guessed_and_measured()
    {
        Assert.Equal(("all known", PlateState.Fine), Plate(Facts, "move"));
        var guessed = FarmBench.Motion() with
        {
            CoastTimeConstantMs = FarmBench.Motion().CoastTimeConstantMs with { Kind = Provenance.Guessed },
        };
        Assert.Equal(("1 guess", PlateState.Attention), Plate(Facts with { Motion = guessed }, "move"));
        var lift = RigTemplates.Make("two-wheel drive", "Rover");
        var unknown = lift with
        {
            Mechanisms = lift.Mechanisms.Select(m => m with { WheelDiameterMm = null, TrackWidthMm = null }).ToSequence(),
        };
        var (line, state) = Plate(
            Facts with
            {
                Design = unknown,
                Motion = null,
                Moves = new(unknown, null, new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>()),
            },
            "move"
        );
        Assert.Equal(("2 not known", PlateState.Attention), (line, state));
    }

    [Fact]
    public void Rig_says_when_its_supply_was_not_looked_at()
    {
        Assert.Equal(("supply not described", PlateState.NotLooked), Plate(Facts, "rig"));
        Assert.Equal(
            ("1 wiring fault", PlateState.Attention),
            Plate(Facts with { Design = Rig with { Wires = [.. Rig.Wires.Skip(1)] } }, "rig")
        );
        Assert.Equal(
            ("no devices yet", PlateState.Attention),
            Plate(Facts with { Design = Rig with { Sensors = [], Actuators = [] } }, "rig")
        );
    }

    [Theory]
    [InlineData(7, 10, true, "7 of 10, as promised", PlateState.Fine)]
    [InlineData(10, 12, true, "10 of 12 as promised", PlateState.Fine)]
    [InlineData(100, 120, true, "100 of 120 passed", PlateState.Fine)]
    [InlineData(2, 10, false, "2 of 10, a surprise", PlateState.Attention)]
    [InlineData(112, 120, false, "112 of 120 passed", PlateState.Attention)]
    [InlineData(9, 14, null, "9 of 14 passed", PlateState.NotLooked)]
    [InlineData(100000, 1000000, null, "100000 of 1000000", PlateState.NotLooked)]
    public void Log_says_how_the_runs_on_the_table_came_out(int passes, int runs, bool? promised, string line, PlateState state) =>
        Assert.Equal((line, state), Plate(Facts with { Logged = (passes, runs, promised, false) }, "log"));

    [Theory]
    [InlineData(7, 10, true, "7 of 10, as expected", "as many passed as was to be expected, as was worked out since.")]
    [InlineData(10, 12, true, "10 of 12 as expected", "as many passed as was to be expected")]
    [InlineData(2, 10, false, "2 of 10, a surprise", "fewer or more passed than was to be expected")]
    public void What_was_worked_out_since_was_not_promised(int passes, int runs, bool held, string line, string why)
    {
        var plate = Plates.Of(Facts with { Logged = (passes, runs, held, true) }).Single(p => p.Part == "log");
        Assert.Equal(line, plate.Line);
        Assert.Contains(why, plate.Why);
        Assert.DoesNotContain("promised", plate.Why);
    }

    [Fact]
    public void Every_line_fits_its_plate() => Assert.All(Plates.Of(Facts), p => Assert.InRange(p.Line.Length, 1, 20));

    [Theory]
    [InlineData("  state A, initial\n    after 1 s: go B\n  state B\n", "")]
    [InlineData("  state A, initial\n    after 1 s: go A\n  state B\n    after 1 s: go A\n", "B")]
    [InlineData("  state A, initial\n    after 1 s: go B\n  state B\n    state In, initial\n    state Deep\n", "Deep")]
    [InlineData("  state A, initial\n    after 1 s: go Deep\n  state B\n    state In, initial\n    state Deep\n", "In")]
    [InlineData(
        "  state A, initial\n    after 1 s: go back\n  state B\n    history back: go Deep\n    state In, initial\n    state Deep\n",
        ""
    )]
    [InlineData("  state A, initial\n    after 1 s: go A\n  state B\n    state In, initial\n", "B")]
    [InlineData("  state A\n    after 1 s: go B\n  state B\n", "")]
    public void States_that_nothing_leads_to_are_found(string body, string names)
    {
        var program = ScriptParser.Parse($"program T\n\nregion Main\n{body}", FarmBench.Words).Program;
        Assert.Equal(names, string.Join(' ', ProgramChecks.Find(program).Select(f => f.Owner)));
    }
}
