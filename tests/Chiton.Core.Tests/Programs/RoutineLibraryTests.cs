using System.Text.RegularExpressions;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;

namespace Chiton.Core.Tests.Programs;

public class RoutineLibraryTests
{
    private static readonly Dictionary<string, int> None = [];

    // Filled with what it was called before.
    private static PatternFill AsBefore(KeptRoutine kept) =>
        new(
            kept.Holes.ToDictionary(h => h.Id, h => h.Was),
            new Dictionary<string, string>(),
            new HashSet<string>(),
            new Dictionary<string, string>()
        );

    [Fact]
    public void Filled_with_its_own_names_a_kept_routine_is_what_it_was() =>
        LanguageTests.Whole.Sample(
            program =>
            {
                KeptRoutine kept;
                try
                {
                    kept = RoutineLibrary.Keep(program, "Dip", LanguageTests.Rig, "Hoist", "");
                }
                catch (InputProblem p)
                {
                    // Regions of the program are not to be had elsewhere.
                    Assert.Contains("a region of its program", p.Message);
                    return;
                }
                var text = RoutineLibrary.AsPattern(kept, "kept").Write(AsBefore(kept)).Body;
                var print = Printer.Print(
                    program with
                    {
                        Comments = [],
                        Head = [],
                        Regions = [],
                        Trailing = [],
                        Routines = [program.Routines[0]],
                    }
                );
                Assert.Equal(print[(print.IndexOf('\n') + 2)..].TrimEnd('\n'), text);
                // No name of the rig is left in it, texts and comments aside.
                var bare = string.Join(
                    '\n',
                    Regex.Replace(kept.Body, "\"[^\"]*\"", "").Split('\n').Where(l => !l.TrimStart().StartsWith('#'))
                );
                foreach (var name in new[] { "Shelf eye", "Mast", "Drive", "Lamp", "Keeper", "notch", "low shelf" })
                    Assert.DoesNotContain(name, bare);
            },
            iter: 1500
        );

    private static RigDesign Rig(string name, string eye, string notch, string lift, string low, string high, string up, string lamp) =>
        new(
            name,
            "Farm",
            [ControllerTemplates.Make("six sockets", "Box")],
            [new(eye, SensorKind.ReflectedLight, 10, 1, ["paint", notch])],
            [new(lift + " motor", ActuatorKind.RegulatedMotor), new(lamp, ActuatorKind.Lamp)]
        )
        {
            Mechanisms =
            [
                new(lift, MechanismKind.Lift, [lift + " motor"])
                {
                    Positions = [low, high],
                    Directions = [new(up, true), new("down", false)],
                },
            ],
            Programs = [new($"program {name}\n", [])],
        };

    private static readonly RigDesign Hoist = Rig("Hoist", "Shelf eye", "notch", "Mast", "low shelf", "high shelf", "up", "Green lamp");
    private static readonly RigDesign Crane = Rig("Crane", "Hook eye", "ring", "Boom", "ground", "roof", "raise", "Beacon");

    private const string Script = """
        program Hoist

        const slow = 20 %
        var notches = 0
        var unused = 1

        region Main
          state Start, initial
            on entry: do Find notch (3)
            when all done: go End

          state End, final

        # Counts notches on the way.
        routine Find notch (most)
          state Up, initial
            while here: run Mast up at slow
            when Shelf eye becomes notch: set notches to notches + 1; stay
            when notches = most: go Signal
            when zone of Shelf eye = paint and notches > 9: go Over

          state Signal
            on entry: stop Mast and hold; do Wink
            when all done: go Home

          state Home
            on entry: send Mast to low shelf
            when Mast is done: go Over

          state Over, final

        routine Wink
          state On, initial
            on entry: blink Green lamp 0.1 s on 0.1 s off 2 times
            when Green lamp is done: go Off

          state Off, final
        """;

    private static KeptRoutine Kept()
    {
        var parsed = ScriptParser.Parse(Script, Vocabulary.Of(Hoist));
        Assert.Empty(parsed.Diagnostics);
        return RoutineLibrary.Keep(parsed.Program, "Find notch", Vocabulary.Of(Hoist), "Hoist", "Counts notches up.");
    }

    [Fact]
    public void It_takes_along_the_routines_it_does_and_the_variables_it_needs()
    {
        var kept = Kept();
        Assert.Equal("const slow = 20 %\nvar notches = 0", RoutineLibrary.AsPattern(kept, "k").Write(AsBefore(kept)).Head);
        Assert.Equal(["Mast", "up", "Shelf eye", "notch", "paint", "low shelf", "Green lamp"], kept.Holes.Select(h => h.Was));
        Assert.Equal(
            [HoleKind.Like, HoleKind.Direction, HoleKind.Eye, HoleKind.Zone, HoleKind.Zone, HoleKind.Position, HoleKind.Like],
            kept.Holes.Select(h => h.Kind)
        );
        Assert.Contains("routine", kept.Body.Split("\n\n")[^2]);
    }

    [Fact]
    public void In_another_rig_its_names_are_filled_and_what_is_taken_gets_another_name()
    {
        var pattern = RoutineLibrary.AsPattern(Kept(), "k");
        var fitted = PatternFitting.Fit(pattern, Crane, "Crane", None);
        Assert.All(fitted.Holes, h => Assert.Null(h.Missing));
        // The zone is not called the same: the first is offered, and a person chooses.
        var values = fitted.Holes.ToDictionary(h => h.Hole.Id, h => h.Value);
        values["h4"] = "ring";
        var into =
            "program Crane\n\nvar notches = 5\n\nregion Main\n  state A, initial\n    on entry: do Wink\n    when all done: go B\n\n  "
            + "state B, final\n\nroutine Wink\n  state S, initial, final\n";
        var result = PatternFitting.Insert(pattern, Crane, into, values, new Dictionary<string, string>(), "Main");
        Assert.Empty(result.Diagnostics);
        Assert.Contains("const slow = 20 %\nvar notches 2 = 0", result.Script);
        Assert.Contains(
            "    while here: run Boom raise at slow\n    when Hook eye becomes ring: set notches 2 to notches 2 + 1; stay\n    when "
                + "notches 2 = most: go Signal\n    when zone of Hook eye = paint and notches 2 > 9: go Over\n",
            result.Script
        );
        Assert.Contains("on entry: stop Boom and hold; do Wink 2\n", result.Script);
        Assert.Contains("send Boom to ground", result.Script);
        Assert.Contains("routine Wink 2\n  state On, initial\n    on entry: blink Beacon 0.1 s", result.Script);
        Assert.Contains("# Counts notches on the way.\nroutine Find notch (most)", result.Script);
    }

    [Fact]
    public void What_the_other_rig_lacks_is_said()
    {
        var bare = Crane with { Sensors = [], Mechanisms = [], Actuators = [] };
        var pattern = RoutineLibrary.AsPattern(Kept(), "k");
        var fitted = PatternFitting.Fit(pattern, bare, "Crane", None);
        Assert.Equal("This rig has nothing of that kind. Describe one in Rig.", fitted.Holes[0].Missing);
        var problem = Assert.Throws<InputProblem>(() =>
            PatternFitting.Insert(
                pattern,
                bare,
                "program Crane\n\nregion M\n  state A, initial\n",
                fitted.Holes.ToDictionary(h => h.Hole.Id, h => h.Value),
                new Dictionary<string, string>(),
                null
            )
        );
        Assert.Contains("values.h1", problem.Errors.Keys);
    }

    [Fact]
    public void What_cannot_be_kept_is_said()
    {
        var parsed = ScriptParser.Parse(Script.Replace("when Mast is done: go Over", "when Main is in End: go Over"), Vocabulary.Of(Hoist));
        Assert.Empty(parsed.Diagnostics);
        Assert.Contains(
            "It speaks of “Main”, a region of its program",
            Assert.Throws<InputProblem>(() => RoutineLibrary.Keep(parsed.Program, "Find notch", Vocabulary.Of(Hoist), "Hoist", "")).Message
        );
        Assert.Contains(
            "There is no routine “Dance”",
            Assert.Throws<InputProblem>(() => RoutineLibrary.Keep(parsed.Program, "Dance", Vocabulary.Of(Hoist), "Hoist", "")).Message
        );
        Assert.Contains(
            "note",
            Assert
                .Throws<InputProblem>(() =>
                    RoutineLibrary.Keep(parsed.Program, "Wink", Vocabulary.Of(Hoist), "Hoist", new string('x', 301))
                )
                .Errors.Keys
        );
    }
}
