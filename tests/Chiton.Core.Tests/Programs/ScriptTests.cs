namespace Chiton.Core.Tests.Programs;

public class ScriptTests
{
    private static readonly Vocabulary Rig = new(
        [new("Tag eye", ["sleepers", "bed tag", "bed"]), new("Shelf eye", ["paint", "notch"])],
        [
            new("Trolley", ActuatorKind.PlainMotor),
            new("Lamp", ActuatorKind.Lamp),
            new("Stop lamp", ActuatorKind.Lamp),
            new("Horn", ActuatorKind.Sounder),
        ],
        ["bed 1", "bed 3", "depot"]
    );

    private static ParseResult Parse(string script) => ScriptParser.Parse(script, Rig);

    private static ProgramNode Good(string script)
    {
        var r = Parse(script);
        Assert.Empty(r.Diagnostics);
        return r.Program;
    }

    private const string Frame = "program P\n\nvar beds = 0\nvar pace = 40 %\n\nregion Main\n  state A, initial\n    {0}\n\n  state B\n";

    private static Diagnostic Fault(string line)
    {
        var r = Parse(Frame.Replace("{0}", line));
        return Assert.Single(r.Diagnostics);
    }

    [Theory]
    [InlineData("when Tag eye becomes bed tag for 2 readings: set beds to beds + 1; stay")]
    [InlineData("when Tag eye is bed: go B")]
    [InlineData("when Tag eye leaves sleepers for 1 reading if beds < 3: go B")]
    [InlineData("when beds = 3 and not (beds > 4 or beds = 2): go B")]
    [InlineData("after 1.50 s: turn Stop lamp on; go B")]
    [InlineData("after 200 ms: stay")]
    [InlineData("while here: run Trolley at pace + 5 %")]
    [InlineData("on entry: stop Trolley and coast; tone 520 Hz for 0.4 s; show \"Bed 3, done\"")]
    [InlineData("on entry: set beds to (beds + 1) * 2 - min(beds, 4, 7) / -3")]
    public void A_canonical_line_prints_as_it_was(string line)
    {
        var script = Frame.Replace("{0}", line);
        Assert.Equal(script, Printer.Print(Good(script)));
    }

    [Fact]
    public void Spacing_and_needless_brackets_become_canonical()
    {
        var a = Good(Frame.Replace("{0}", "when   Tag  eye is  bed tag :set beds to ((beds+1)) ;  go B"));
        Assert.Contains("    when Tag eye is bed tag: set beds to beds + 1; go B\n", Printer.Print(a));
    }

    [Fact]
    public void Comments_belong_to_the_next_line_and_stay()
    {
        const string script =
            "# The farm.\nprogram P\n\n# How many.\n#\nvar beds = 0\n\n# The only one.\nregion Main\n  # First.\n  state A, initial\n "
            + "   # Wait.\n    after 1 s: stay\n\n# The end.\n";
        var program = Good(script);
        Assert.Equal(["How many.", ""], program.Head[0].Comments);
        Assert.Equal(["The end."], program.Trailing);
        Assert.Equal(script, Printer.Print(program));
    }

    [Fact]
    public void The_longest_declared_name_wins()
    {
        var program = Good(Frame.Replace("{0}", "when Tag eye is bed tag: go B"));
        var trigger = (ZoneTriggerNode)((TransitionNode)program.Regions[0].States[0].Lines[0]).Trigger;
        Assert.Equal("bed tag", trigger.Zone);
        var lamp = Good(Frame.Replace("{0}", "on entry: turn Stop lamp off"));
        Assert.Equal("Stop lamp", ((LampNode)((ActivityNode)lamp.Regions[0].States[0].Lines[0]).Actions[0]).Lamp);
    }

    [Fact]
    public void A_name_that_holds_a_keyword_is_legal_once_declared()
    {
        const string script =
            "program P\n\nvar at = 1\nvar set to = 2\n\nregion Main\n  state go on, initial\n    when at = set to: set at to set to; "
            + "go after that\n\n  state after that\n";
        Assert.Equal(script, Printer.Print(Good(script)));
        Assert.Equal(Good(script), Good(script.Replace("go after that", "go 'after that'")));
    }

    [Theory]
    [InlineData("when Tag eye becomes noch: go B", "No zone “noch” on Tag eye", 26, null)]
    [InlineData("when Shelf eye becomes noch: go B", "No zone “noch” on Shelf eye; did you mean “notch”?", 28, "notch")]
    [InlineData("when Tag eye become bed: go B", "Did you mean “becomes”?", 18, "becomes")]
    [InlineData("when Tag eye becomes bed: go C", "No state “C”", 34, null)]
    [InlineData("when Tag ey is bed: go B", "No sensor “Tag ey”; did you mean “Tag eye”?", 10, "Tag eye")]
    [InlineData("when bedz = 3: go B", "did you mean “beds”?", 10, "beds")]
    [InlineData("whle here: run Trolley at 30 %", "Did you mean “while here”?", 5, "while here")]
    [InlineData("while here: run Trolly at 30 %", "did you mean “Trolley”?", 21, "Trolley")]
    [InlineData("while here: run Trolley", "“Trolley”", 0, null)]
    [InlineData("when Tag eye is bed for 0 readings: go B", "whole number from 1 to 100", 29, null)]
    [InlineData("on entry: show \"open", "never closed", 20, null)]
    [InlineData("when Tag eye is bed go B", "found “go”", 25, null)]
    [InlineData("when beds = 3 3: go B", "an operator", 19, null)]
    [InlineData("after 2 s: go B; stay", "“;”", 20, null)]
    public void Faults_name_the_place_and_the_near_miss(string line, string says, int column, string? suggestion)
    {
        if (column == 0)
        {
            Assert.Contains("at or a direction should follow", Fault(line).Message);
            return;
        }
        var d = Fault(line);
        Assert.Equal(8, d.Line);
        Assert.Contains(says, d.Message);
        Assert.Equal(column, d.Column);
        Assert.Equal(suggestion, d.Suggestion);
    }

    [Theory]
    [InlineData("while here: run Trolley at 300 mm/s", "plain motor and takes power in % only")]
    [InlineData("while here: run Trolley at 130 %", "-100 % to 100 %")]
    [InlineData("after 40 %: go B", "must be a time")]
    [InlineData("when beds: go B", "A condition must be true or false")]
    [InlineData("when beds = 3 s: go B", "Cannot compare a plain number with a time")]
    [InlineData("on entry: set beds to 65 mm + 2 s", "Cannot add a time to a length")]
    [InlineData("on entry: set beds to 3 s", "“beds” holds a plain number, but this is a time")]
    [InlineData("on entry: set beds to beds / 0", "Dividing by zero")]
    [InlineData("while here: set beds to 1", "“while here” is for something that goes on")]
    [InlineData("on entry: tone 3 s for 2 s", "must be a frequency")]
    public void Units_and_kinds_are_checked(string line, string says) => Assert.Contains(says, Fault(line).Message);

    [Fact]
    public void Adding_lengths_in_different_units_is_fine() =>
        Assert.Empty(Parse("program P\nvar gap = 65 mm + 1 cm\nregion Main\n  state A, initial\n    when gap > 2 in: stay\n").Diagnostics);

    [Fact]
    public void Three_separate_faults_are_three_diagnostics()
    {
        var r = Parse(
            "program P\n\nvar beds = \n\nregion Main\n  state A, initial\n    when Tag eye becomes notch: go A\n    after 1 s: go B\n "
                + "   while here: run Trolley at 30 %\n"
        );
        Assert.Equal([3, 7, 8], r.Diagnostics.Select(d => d.Line));
        Assert.Equal(3, r.Program.Regions[0].States[0].Lines.Count);
    }

    [Theory]
    [InlineData("program P\nregion Main\n  state A\n", "No state is initial")]
    [InlineData("program P\nregion Main\n  state A, initial\n  state B, initial\n", "Only one state can be initial")]
    [InlineData("program P\nregion Main\n  state A, initial\n  state A\n", "two states called")]
    [InlineData("program P\n", "at least one state")]
    [InlineData("region Main\n  state A, initial\n", "begins with “program”")]
    [InlineData("program P\nvar Lamp = 1\nregion Main\n  state A, initial\n", "already the name of")]
    [InlineData("program P\nvar a = b\nvar b = 1\nregion Main\n  state A, initial\n", "no value yet")]
    [InlineData("program P\nregion Main\n  state A, initial, final\n    after 1 s: stay\n", "is final")]
    [InlineData("program P\ngoal: stopped over bed 9\nregion Main\n  state A, initial\n", "No place “bed 9”")]
    public void The_whole_must_make_sense(string script, string says) =>
        Assert.Contains(Parse(script).Diagnostics, d => d.Message.Contains(says));

    [Fact]
    public void No_text_makes_the_parser_fall_over() =>
        Gen.OneOf(
                Gen.String,
                Pick("when", "state", "go", ":", "Tag eye", "(", "'", "\"", "5 %", "\n", "  ", "for", "var", "=", ";", "#")
                    .Array[0, 40]
                    .Select(a => string.Join(' ', a))
            )
            .Sample(text => Assert.NotNull(Parse(text).Program));

    [Fact]
    public void Deep_nesting_is_refused_and_not_fatal() =>
        Assert.NotEmpty(Parse(Frame.Replace("{0}", "when " + new string('(', 100_000) + "beds: go B")).Diagnostics);

    [Fact]
    public void A_script_that_is_too_long_is_refused() =>
        Assert.Throws<InputProblem>(() => Parse(new string('x', ScriptParser.MostCharacters + 1)));

    private static string[] Complete(string line, string? before = null)
    {
        var script = Frame.Replace("{0}", line);
        var text = before ?? line;
        return [.. ScriptParser.Complete(script, 8, 4 + text.Length, Rig).Select(c => c.Candidate.Text)];
    }

    [Fact]
    public void Completion_comes_from_the_grammar_and_the_rig()
    {
        Assert.Contains("while here:", Complete(""));
        Assert.Equal(["sleepers", "bed tag", "bed"], Complete("when Tag eye becomes "));
        Assert.Equal(["bed tag", "bed"], Complete("when Tag eye becomes b"));
        Assert.Contains("bed tag", Complete("when Tag eye becomes bed t"));
        Assert.Equal(["becomes"], Complete("when Tag eye be"));
        Assert.Equal(["Trolley"], Complete("while here: run "));
        Assert.Equal(["Lamp", "Stop lamp", "turn robot", "turn lamp of"], Complete("on entry: turn "));
        Assert.Equal(["A", "B"], Complete("after 2 s: go "));
        Assert.Contains("beds", Complete("on entry: set "));
        Assert.Contains("s", Complete("after 2 "));
        Assert.Contains("brake", Complete("on entry: stop Trolley and "));
    }

    // ---- round trip over generated programs that use every production of the grammar ----

    private static Gen<T> Pick<T>(params T[] choices) => Gen.Int[0, choices.Length - 1].Select(i => choices[i]);

    private static readonly Gen<string> GenName = Gen.Select(
        Pick("Alga", "B", "go", "set", "at", "Sand bar", "if not", "tide 3", "s", "min", "on entry", "readings", "Über"),
        Gen.Int[0, 99],
        (w, n) => $"{w} {n}"
    );
    private static readonly Gen<Sequence<string>> GenComments = Pick("", "tide table", "a # b", "  indented")
        .Array[0, 2]
        .Select(c => c.Select(s => s.Trim()).ToSequence());
    private static readonly Gen<string> GenDigits = Gen.OneOf(
        Gen.Int[0, 999].Select(i => i.ToString()),
        Gen.Select(Gen.Int[0, 99], Gen.Int[0, 99], (a, b) => $"{a}.{b:00}")
    );

    private static Gen<ExprNode> Number(Dimension d, string[] variables, int depth)
    {
        var units = Unit.All.Append(Unit.None).Where(u => u.Dimension == d).Select(u => u.Text).ToArray();
        var literal = Gen.Select(GenDigits, Pick(units), ExprNode (n, u) => new LiteralNode(n, u));
        if (depth == 0)
            return d == Dimension.None && variables.Length > 0
                ? Gen.OneOf(literal, Pick(variables).Select(ExprNode (v) => new VariableNode(v)))
                : literal;
        var inner = Number(d, variables, depth - 1);
        var plain = Number(Dimension.None, variables, depth - 1);
        return Gen.OneOf(
            literal,
            Gen.Select(inner, inner, Gen.Bool, ExprNode (a, b, plus) => new BinaryNode(plus ? Operator.Add : Operator.Subtract, a, b)),
            Gen.Select(plain, inner, ExprNode (a, b) => new BinaryNode(Operator.Multiply, a, b)),
            Gen.Select(inner, Gen.Int[1, 9], ExprNode (a, b) => new BinaryNode(Operator.Divide, a, new LiteralNode(b.ToString(), ""))),
            inner.Select(ExprNode (a) => new UnaryNode(false, a)),
            Gen.Select(Pick("min", "max"), inner, inner, ExprNode (f, a, b) => new CallNode(f, [a, b])),
            Gen.Select(Pick("abs", "round"), inner, ExprNode (f, a) => new CallNode(f, [a]))
        );
    }

    private static Gen<ExprNode> Truth(string[] variables, int depth)
    {
        var compare = Gen.Select(
            Number(Dimension.None, variables, 1),
            Number(Dimension.None, variables, 1),
            Gen.Int[2, 7],
            ExprNode (a, b, o) => new BinaryNode((Operator)o, a, b)
        );
        if (depth == 0)
            return compare;
        var inner = Truth(variables, depth - 1);
        return Gen.OneOf(
            compare,
            Gen.Select(inner, inner, Gen.Bool, ExprNode (a, b, and) => new BinaryNode(and ? Operator.And : Operator.Or, a, b)),
            inner.Select(ExprNode (a) => new UnaryNode(true, a))
        );
    }

    private static Gen<ProgramNode> GenProgram =>
        Gen.Select(GenName.Array[0, 3], GenName.Array[2, 4])
            .SelectMany(
                (vars, names) =>
                {
                    var variables = vars.Select(v => "v" + v).Distinct().ToArray();
                    var states = names.Select(n => "st " + n).Distinct().ToArray();
                    // A goal's time may use variables, but a time is never a plain number, so literals serve here.
                    var time = Number(Dimension.Time, [], 0);
                    var action = Gen.OneOf<ActionNode>(
                        Number(Dimension.None, variables, 2)
                            .Select(ActionNode (e) => variables.Length > 0 ? new SetNode(variables[0], e) : new LampNode("Lamp", true)),
                        Gen.Int[0, 100].Select(ActionNode (p) => new RunNode("Trolley", new LiteralNode(p.ToString(), "%"))),
                        Gen.Int[0, 2].Select(ActionNode (m) => new StopNode("Trolley", (StopMode)m)),
                        Gen.Select(Pick("Lamp", "Stop lamp"), Gen.Bool, ActionNode (l, on) => new LampNode(l, on)),
                        Gen.Select(Number(Dimension.Frequency, [], 0), time, ActionNode (f, t) => new ToneNode(f, t)),
                        Pick("", "Bed 3", "it's; a # \\ test").Select(ActionNode (t) => new ShowNode(t))
                    );
                    var running = Gen.OneOf<ActionNode>(
                        Gen.Int[0, 100].Select(ActionNode (p) => new RunNode("Trolley", new LiteralNode(p.ToString(), "%"))),
                        Gen.Const<ActionNode>(new LampNode("Lamp", true))
                    );
                    var trigger = Gen.OneOf<TriggerNode>(
                        Gen.Select(
                            Pick("Tag eye", "Shelf eye"),
                            Gen.Int[0, 2],
                            Gen.Int[0, 2],
                            Gen.Int[0, 9],
                            TriggerNode (s, r, z, n) =>
                                new ZoneTriggerNode(
                                    s,
                                    (ZoneRelation)r,
                                    Rig.Sensors.First(x => x.Name == s).Zones[z % Rig.Sensors.First(x => x.Name == s).Zones.Count],
                                    n == 0 ? null : n.ToString()
                                )
                        ),
                        Truth(variables, 2).Select(TriggerNode (e) => new ConditionTriggerNode(e)),
                        Number(Dimension.Time, [], 1)
                            .Select(e => e is UnaryNode or BinaryNode { Operator: Operator.Subtract } ? new LiteralNode("1", "s") : e)
                            .Select(TriggerNode (e) => new AfterTriggerNode(e))
                    );
                    var transition = Gen.Select(
                        GenComments,
                        trigger,
                        Gen.Select(Truth(variables, 1), Gen.Int[0, 9], ExprNode? (e, n) => n < 3 ? e : null),
                        action.Array[0, 3],
                        Pick<string?>([.. states, null]),
                        LineNode (c, t, g, a, go) => new TransitionNode(c, t, g, a.ToSequence(), go)
                    );
                    var activity = Gen.Select(
                        GenComments,
                        Gen.Int[0, 2],
                        action.Array[1, 3],
                        running.Array[1, 2],
                        LineNode (c, m, a, w) =>
                            new ActivityNode(c, (ActivityMoment)m, m == (int)ActivityMoment.While ? w.ToSequence() : a.ToSequence())
                    );
                    var head = Gen.OneOf<HeadNode>(
                        Gen.Select(GenComments, time, HeadNode (c, t) => new RuleNode(c, true, ConditionKind.StoppedOver, "bed 3", t)),
                        GenComments.Select(HeadNode (c) => new RuleNode(c, true, ConditionKind.Finished, null, null)),
                        GenComments.Select(HeadNode (c) => new RuleNode(c, false, ConditionKind.StoppedOver, "bed 1", null)),
                        Gen.Select(GenComments, time, HeadNode (c, t) => new RuleNode(c, false, ConditionKind.MovingAfter, null, t))
                    );
                    return Gen.Select(
                            GenComments,
                            head.Array[0, 2],
                            Gen.OneOf(transition, activity).Array[0, 4].Array[states.Length],
                            GenComments,
                            GenComments
                        )
                        .Select(
                            (c, h, lines, sc, trailing) =>
                                new ProgramNode(
                                    "Made up",
                                    c,
                                    [.. variables.Select(HeadNode (v) => new VarNode([], v, new LiteralNode("1", ""))), .. h],
                                    [
                                        new RegionNode(
                                            "Main",
                                            [],
                                            [
                                                .. states.Select(
                                                    (s, i) => new StateNode(s, i == 0, false, i == 0 ? sc : [], lines[i].ToSequence())
                                                ),
                                            ]
                                        ),
                                    ],
                                    trailing
                                )
                        );
                }
            );

    [Fact]
    public void Parsing_what_was_printed_gives_the_same_program() =>
        GenProgram.Sample(
            program =>
            {
                var text = Printer.Print(program);
                var back = Parse(text);
                // Units of generated numbers always fit, except that a power or a time may come out beyond its limits.
                Assert.DoesNotContain(back.Diagnostics, d => !d.Message.Contains("Dividing") && !d.Message.Contains("negative"));
                Assert.Equal(program, back.Program);
                Assert.Equal(text, Printer.Print(back.Program));
            },
            iter: 3000
        );

    // ---- marks ----

    [Fact]
    public void A_number_keeps_its_kind_while_its_line_is_unchanged()
    {
        var before = Good(Frame.Replace("{0}", "while here: run Trolley at 41 %"));
        NumberMark[] marks = [new("A", "while here: run Trolley at 41 %", 0, Provenance.Calculated, "from the marker")];
        Assert.Equal(marks, Sheet.Keep(marks, before));
        Assert.Equal(marks, Sheet.Keep(marks, Good(Frame.Replace("{0}", "after 1 s: stay\n    while here: run Trolley at 41 %"))));
        Assert.Empty(Sheet.Keep(marks, Good(Frame.Replace("{0}", "while here: run Trolley at 42 %"))));
        var renamed = Good(Frame.Replace("{0}", "while here: run Trolley at 41 %").Replace("state A", "state Afloat"));
        Assert.Equal("Afloat", Assert.Single(Sheet.Keep(marks, renamed)).Owner);
    }

    [Fact]
    public void The_sheet_shows_every_line_even_a_broken_one()
    {
        var script = Frame.Replace("{0}", "when Tag eye becomes mud: go B");
        var r = Parse(script);
        var lines = Sheet.Lines(script, r.Program, []);
        Assert.Equal(["program", "var", "var", "region", "state", "broken", "state"], lines.Select(l => l.Part));
        Assert.Equal("when Tag eye becomes mud: go B", lines[5].Text);
        Assert.Equal("A", lines[5].Owner);
        Assert.Equal(Provenance.Chosen, lines[2].Pieces.Single(p => p.Kind == PieceKind.Number).Provenance);
    }
}
