using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Tests.Classroom;

public class OfferedTests
{
    private const string Script = """
        program Toy

        var n = 0

        region Main
          state A, initial
            on entry: turn Lamp on, then tone 520 Hz for 0.4 s
            while here: repeat 3 times: blink Lamp 1 s on 1 s off 2 times, then wait 1 s
            when n = 3: set n to 0 if n > 1; go B
            after 2 s: do Rest; go B
          state B
            every 1 s: set n to n + 1; stay
            always if n = 9: go A

        region Beacon
          state Dark, initial
            when Main is in B: stay

        routine Rest
          state Still, initial
            after 1 s: stop everything; go Over
          state Over, final
        """;

    private static readonly Vocabulary Words = new([], [new("Lamp", ActuatorKind.Lamp)], []);

    private static ProgramNode Program(string script = Script) => ScriptParser.Parse(script, Words).Program;

    private static IEnumerable<(int, string)> Told(Offered offered, string script = Script) =>
        offered.In(Program(script)).Select(f => (f.Line, f.Kind));

    [Fact]
    public void Every_kind_of_trigger_and_action_of_the_language_has_its_own()
    {
        static IEnumerable<T> Made<T>() =>
            typeof(T)
                .Assembly.GetTypes()
                .Where(t => t is { IsAbstract: false } && t.IsSubclassOf(typeof(T)))
                .Select(t => (T)System.Runtime.CompilerServices.RuntimeHelpers.GetUninitializedObject(t));
        var triggers = Made<TriggerNode>().Select(SentenceKinds.Of).ToHashSet();
        var actions = Made<ActionNode>().Select(SentenceKinds.Of).Where(k => k is not null).ToHashSet();
        Assert.Equal(SentenceKinds.Triggers.Select(k => k.Key).Order(), triggers.Order());
        Assert.Equal(SentenceKinds.Actions.Select(k => k.Key).Order(), actions.Order());
    }

    [Fact]
    public void The_script_of_these_tests_is_one() => Assert.Empty(ScriptParser.Parse(Script, Words).Diagnostics);

    [Fact]
    public void Where_everything_is_offered_nothing_is_told() => Assert.Empty(Told(Offered.All));

    [Fact]
    public void What_is_not_offered_is_told_at_its_line_however_deep_it_stands()
    {
        Assert.Equal([(9, "condition"), (17, "condition")], Told(new(Triggers: ["zone", "after", "every", "always"])));
        Assert.Equal(
            [(7, "sound"), (8, "repeat"), (8, "wait"), (9, "if")],
            Told(new(Actions: ["lamp", "set", "stop"])).Where(t => t.Item1 < 12)
        );
        Assert.Equal([(8, "lamp"), (8, "wait")], Told(new(Actions: ["repeat"])).Where(t => t.Item1 == 8));
    }

    [Fact]
    public void Regions_and_routines_are_offered_by_themselves()
    {
        Assert.Equal([(15, "regions")], Told(new(Regions: false)));
        Assert.Equal([(10, "routines"), (19, "routines")], Told(new(Routines: false)));
    }

    [Fact]
    public void It_is_told_kindly_and_with_what_is_offered()
    {
        var told = new Offered(Triggers: ["after", "every", "always"]).In(Program());
        Assert.Equal("Comparisons are not part of this lesson. It has, for example: after 2 s.", told[0].Say);
        Assert.All(new Offered([], []).In(Program()), t => Assert.EndsWith("not part of this lesson.", t.Say));
    }

    [Fact]
    public void A_line_that_cannot_be_read_is_somebody_elses_to_tell() =>
        Assert.Empty(Told(new([], []), "program Toy\n\nregion Main\n  state A, initial\n    whenever it rains: hop\n"));
}
