namespace Chiton.Core.Tests.Programs;

/// <summary>The whole language: what it says, what it refuses and why, and that printing and reading are each other's inverse.</summary>
public class LanguageTests
{
    internal static readonly Vocabulary Rig = new(
        [
            new("Shelf eye", ["mast paint", "notch"]) { Reads = Dimension.Percent, Teachable = true },
            new("Range", ["near", "far"]) { Reads = Dimension.Length, MayHearNothing = true },
            new("Order knob", ["up", "down"]) { Switch = true },
            new("Shell eye", ["white shell", "dark mussel"]),
        ],
        [
            new("Mast motor", ActuatorKind.RegulatedMotor),
            new("Left wheel", ActuatorKind.RegulatedMotor),
            new("Right wheel", ActuatorKind.RegulatedMotor),
            new("Pump", ActuatorKind.PlainMotor),
            new("Flap servo", ActuatorKind.Servo),
            new("Dial", ActuatorKind.Stepper),
            new("Lamp", ActuatorKind.Lamp),
            new("Horn", ActuatorKind.Sounder),
        ],
        ["bed 1", "shelf"]
    )
    {
        Mechanisms =
        [
            new("Mast", MechanismKind.Lift, ActuatorKind.RegulatedMotor, ["low shelf", "high shelf"], ["up", "down"]),
            new("Drive", MechanismKind.TwoWheelDrive, ActuatorKind.RegulatedMotor, [], []),
            new("Flap", MechanismKind.Lid, ActuatorKind.Servo, ["shut", "open"], []),
        ],
        Programs = ["Hoist", "Keeper"],
        Loads = ["tray"],
    };

    private static ParseResult Parse(string script) => ScriptParser.Parse(script, Rig);

    private const string Hoist = """
        program Hoist

        const reach = 310 motor deg
        var notches = 0
        var wanted = 3
        var waiting = queue
        var seen = no zone
        var open now = no
        goal: tray on shelf within 20 s
        goal: Main is in Docked within 30 s
        never: Mast past its top stop
        never: robot over the edge
        never: Main is in Rising and Beacon is in Dark

        region Main
          state Resting, initial
            on entry: send Mast home; set notches to 0
            when Order knob is tapped: go Rising

          # The notches are counted one by one.
          state Rising
            while here: run Mast up at 35 %
            when Shelf eye becomes notch for 2 readings: set notches to notches + 1; stay
            when notches = wanted: go Docked
            when Mast stalls: go Stuck
            after 7 s: go Stuck

          state Docked
            on entry: stop Mast and hold, then run Dial 90 motor deg at 30 %
            when Dial is done: go Lowering
            when Range < 65 mm for 200 ms if not open now: go Working
            when told "ask" from Keeper into wanted: push wanted onto waiting; stay

          state Working
            when not told for 500 ms: go Lowering
            when notches = 9: go Fast inside
            history Where: go Slow

            state Slow, initial
              every 100 ms: set notches to notches + 1; stay
              when zone of Shell eye = white shell: go Fast

            state Fast
              while here: follow Shelf eye at 100 mm/s gain 0.8 to the left edge of notch
              when waiting holds 3: go Slow
              when length of waiting > 2: go Where

          state Lowering
            on entry: do Dip (30 mm, 2) and blink Lamp 0.3 s on 0.7 s off 3 times, then tell Keeper "down" with notches, seen
            while here: run Mast down at 20 %
            when Order knob is held for 2 s: go Resting
            when all done: go Resting

          state Stuck
            on entry: stop everything; repeat 3 times: tone 520 Hz for 0.4 s; show notches
            when Order knob is tapped twice: go Resting

        region Beacon
          state Dark, initial
            when Main is in Rising: go Lit

          state Lit
            while here: blink Lamp 0.3 s on 0.7 s off
            on exit: turn Lamp off
            when Main is in Resting: go Dark

            region Left
              state One, initial
                always if notches > 2: go Two

              state Two

            region Right
              state Three, initial

        routine Dip (depth, times)
          state Down, initial
            on entry: repeat times times: drive straight depth at 100 mm/s, then drive back for 1 s at 40 %
            when all done: go Over

          state Over, final

        """;

    [Fact]
    public void A_whole_program_reads_and_prints_as_it_was()
    {
        var parsed = Parse(Hoist);
        Assert.Empty(parsed.Diagnostics);
        Assert.Equal(Hoist, Printer.Print(parsed.Program));
        Assert.Equal(["Slow", "Fast"], parsed.Program.Regions[0].States[3].States.Select(s => s.Name));
        Assert.Equal(["Left", "Right"], parsed.Program.Regions[1].States[1].Regions.Select(r => r.Name));
        Assert.Equal(["depth", "times"], parsed.Program.Routines[0].Parameters);
        Assert.Equal(["The notches are counted one by one."], parsed.Program.Regions[0].States[1].Comments);
    }

    private const string Frame =
        "program P\n\nconst far = 90 deg\nconst tall = 2 cm\nvar n = 0\nvar line = queue\nvar on now = yes\nvar word = \"hi\"\nvar "
        + "seen = no zone\n\nregion Main\n  state A, initial\n    {0}\n\n  state B\n\n    state B inner, initial\n\nregion Other\n  "
        + "state C, initial\n";

    private static ActionNode Doing(string action)
    {
        var parsed = Parse(Frame.Replace("{0}", "on entry: " + action));
        Assert.Empty(parsed.Diagnostics);
        return ((ActivityNode)parsed.Program.Regions[0].States[0].Lines[0]).Actions[0];
    }

    [Theory]
    [InlineData("drive straight at 40 %")]
    [InlineData("drive back 50 cm at 120 mm/s")]
    [InlineData("drive straight for 2 s at 40 %")]
    [InlineData("turn robot left 90 robot deg spinning at 30 %")]
    [InlineData("turn robot right far pivoting at 30 %")]
    [InlineData("steer 40 % and n * 2 %")]
    [InlineData("follow Shelf eye at 40 % gain 1.2 to the right edge of mast paint")]
    [InlineData("run Mast up 310 motor deg at 40 % up to 3 s")]
    [InlineData("run Pump back at 60 %")]
    [InlineData("send Mast to high shelf by the shortest way")]
    [InlineData("send Mast to low shelf counter-clockwise")]
    [InlineData("send Mast home")]
    [InlineData("zero Mast motor")]
    [InlineData("set Flap to open")]
    [InlineData("set Flap servo to 45 deg")]
    [InlineData("step Dial 200 at 50 Hz")]
    [InlineData("blink Lamp 300 ms on 0.7 s off")]
    [InlineData("play \"foghorn\"")]
    [InlineData("tell Keeper \"ask\" with n, seen")]
    [InlineData("take from line into n")]
    [InlineData("push n + 1 onto line")]
    [InlineData("stop Drive and coast")]
    [InlineData("stop Lamp")]
    [InlineData("stop everything")]
    [InlineData("show random (between 2 and 6)")]
    [InlineData("(set on now to no) and (turn Lamp on, then turn Lamp off) and run Pump at 5 %")]
    [InlineData("tone 440 Hz for 1 s, then (turn Lamp on; play \"a\") and play \"b\", then show \"end\"")]
    [InlineData("(repeat 2 times: play \"a\"; play \"b\") and turn Lamp on, then repeat n times: turn Lamp off")]
    [InlineData("stop Mast and run Pump at 5 %")]
    public void Every_action_reads_and_prints_as_it_was(string action) =>
        Assert.Equal(action, Printer.Plain(Printer.Sentence(Doing(action))));

    [Fact]
    public void And_binds_more_strongly_than_then_and_then_than_a_semicolon()
    {
        var then = Assert.IsType<ThenNode>(Doing("play \"a\" and play \"b\", then play \"c\"; play \"d\""));
        Assert.IsType<TogetherNode>(then.Steps[0]);
        Assert.Equal(2, then.Steps.Count);
        // Before a verb “and” joins actions, elsewhere conditions.
        Assert.IsType<TogetherNode>(Doing("play \"a\" and set on now to yes and n = 3"));
        var set = Assert.IsType<SetNode>(Doing("set on now to on now and n = 3"));
        Assert.IsType<BinaryNode>(set.Value);
    }

    [Theory]
    [InlineData("when Shelf eye leaves notch for 200 ms: stay")]
    [InlineData("when Order knob is down: go B")]
    [InlineData("when Order knob is pressed: go B")]
    [InlineData("when Order knob is released if on now: go B")]
    [InlineData("when Order knob is tapped twice: go B")]
    [InlineData("when Order knob is held for 1.5 s: go B")]
    [InlineData("when Range < 65 mm + tall for 3 readings: go B")]
    [InlineData("when travel of Drive > 300 mm or angle of Mast > 200 motor deg: go B")]
    [InlineData("when Other is in C: go B")]
    [InlineData("when Mast is done and not all done: go B")]
    [InlineData("when seen = notch or zone of Shelf eye != notch: go B")]
    [InlineData("when word = \"hi\": go B")]
    [InlineData("when not told for 2 s: stay")]
    [InlineData("when told \"go\": go B")]
    [InlineData("when told \"go\" from Keeper into n, seen if n > 2: go B")]
    [InlineData("when Mast motor stalls: go B")]
    [InlineData("every 100 ms if n < 3: set n to n + 1; stay")]
    [InlineData("always if line holds n: go B")]
    public void Every_trigger_reads_and_prints_as_it_was(string line)
    {
        var script = Frame.Replace("{0}", line);
        var parsed = Parse(script);
        Assert.Empty(parsed.Diagnostics);
        Assert.Equal(line, Printer.Plain(Printer.Pieces(parsed.Program.Regions[0].States[0].Lines[0])));
    }

    [Theory]
    [InlineData(
        "on entry: drive straight 500 robot deg at 40 %",
        "How far it drives is a length, wheel turns, wheel deg or motor deg; this is robot degrees"
    )]
    [InlineData(
        "on entry: turn robot left 90 motor deg at 30 %",
        "must be robot degrees; it is motor degrees. Degrees of the motor, of the wheel and of the robot are three different things"
    )]
    [InlineData("on entry: run Mast up 300 robot deg at 30 %", "must be motor degrees; it is robot degrees")]
    [InlineData(
        "on entry: turn robot left far at 30 %; run Mast far at 20 %",
        "“far” is used as robot degrees elsewhere and as motor degrees here"
    )]
    [InlineData("on entry: run Pump 90 motor deg at 30 %", "cannot measure how far it went")]
    [InlineData("on entry: stop Pump and hold", "cannot hold its place")]
    [InlineData("on entry: zero Pump", "knows no angle")]
    [InlineData("when angle of Pump > 3 motor deg: go B", "cannot measure its angle")]
    [InlineData("on entry: set Flap to 200 deg", "from 0 to 180 deg")]
    [InlineData("on entry: set tall to 3 cm", "“tall” is a constant and cannot be changed")]
    [InlineData("on entry: set n to yes", "“n” holds a plain number, but this is yes or no")]
    [InlineData("on entry: set word to n", "“word” holds a text, but this is a plain number")]
    [InlineData("on entry: push 3 onto n", "“n” is no queue")]
    [InlineData("on entry: set n to length of seen", "“seen” is no queue; it holds a zone")]
    [InlineData("when zone of Shelf eye = white shell: go B", "No zone “white shell” on Shelf eye")]
    [InlineData("when word < \"b\": go B", "Texts have no order")]
    [InlineData("when n > 2 for 3 readings: go B", "no sensor is read here")]
    [InlineData("when Order knob is tapt: go B", "No zone “tapt” on Order knob")]
    [InlineData("when Range < 3: go B", "Cannot compare a length with a plain number")]
    [InlineData("on entry: run Mast up at 30 %, then play \"x\"", "never ends by itself, so what follows never begins")]
    [InlineData("on entry: repeat 2.5 times: play \"x\"", "Repeat a whole number of times")]
    [InlineData("on exit: play \"a\", then play \"b\"", "would never begin")]
    [InlineData("when n = 1: go C", "stands in another region")]
    [InlineData("when n = 1: go B inside", "“inside” is for a state that stands in “A”")]
    [InlineData("when Other is in B: go B", "“B” does not stand in Other")]
    [InlineData("always: stay", "This line does nothing")]
    [InlineData("every 0 s: stay", "Repeat every 1 ms at most")]
    [InlineData("on entry: do Dive", "No routine “Dive”.")]
    [InlineData("on entry: tell Keepr \"x\"", "did you mean “Keeper”?")]
    [InlineData("on entry: send Mast to high shelv", "did you mean “high shelf”?")]
    [InlineData("while here: tell Keeper \"x\"", "“while here” is for something that goes on")]
    public void What_cannot_be_is_said_in_words(string line, string says) =>
        Assert.Contains(says, Assert.Single(Parse(Frame.Replace("{0}", line)).Diagnostics).Message);

    [Theory]
    [InlineData("state A, initial\n  state A1, initial\n  state A2, initial\n", "Only one state can be initial; “A1”")]
    [InlineData("state A, initial\n  state A1\n", "No state is initial, so “A” does not know")]
    [InlineData("state A, initial\n  state A1, initial\n  region R\n    state R1, initial\n", "has states and regions in it")]
    [InlineData("state A, initial\n  history H: go B\n  state A1, initial\nstate B\n", "“B” does not stand in “A”")]
    [InlineData("state A, initial\n  history H: go A\n", "there is nothing to remember")]
    [InlineData("state A, initial, final\n  state A1, initial\n", "is final, so no states stand in it")]
    [InlineData("state A, initial\nregion Main\n  state X, initial\n", "There are two regions called “Main”")]
    [InlineData(
        "state A, initial\n  on entry: do R (1)\nroutine R (a, b)\n  state S, initial, final\n",
        "“R” takes a and b; here is one value"
    )]
    [InlineData(
        "state A, initial\n  on entry: do R\nroutine R\n  state S, initial\n    on entry: do R\n  state T, final\n",
        "“R” does itself, which would never end"
    )]
    [InlineData(
        "state A, initial\nroutine R\n  state S, initial\n    on entry: do Q\n  state T, final\nroutine Q\n  state S, initial\n    on "
            + "entry: do R\n  state T, final\n",
        "Routines go round in a loop: R does Q does R"
    )]
    [InlineData("state A, initial\nroutine R\n  state S, initial\n", "No state of “R” is final")]
    [InlineData("state A, initial\n  when a = 1: go A\nroutine R (a)\n  state S, initial, final\n", "“a” is a parameter of a routine")]
    public void The_whole_must_fit_together(string body, string says) =>
        Assert.Contains(
            says,
            Assert.Single(Parse("program P\n" + (body.Contains("region Main") ? "region Main\n" : "") + Indent(body)).Diagnostics).Message
        );

    // Everything up to the first line at the margin that begins something else belongs to a region.
    private static string Indent(string body) =>
        string.Join('\n', body.Split('\n').Select(l => l.StartsWith("region") || l.StartsWith("routine") ? l : l))
            .Replace("\nstate B", "\nstate B");

    [Fact]
    public void Every_independent_fault_is_told_at_once_with_its_place()
    {
        var parsed = Parse(
            "program P\nvar n = 0\nregion Main\n  state A, initial\n    when Shelf eye is noch: go A\n    on entry: run Mast up 3 mm "
                + "at 30 %\n    after 3 mm: go Q\n  state B\n    whn n = 1: go A\n"
        );
        Assert.Equal([5, 6, 7, 9], parsed.Diagnostics.Select(d => d.Line));
        Assert.Equal("notch", parsed.Diagnostics[0].Suggestion);
        Assert.Equal("when", parsed.Diagnostics[3].Suggestion);
    }

    [Fact]
    public void Names_that_hold_keywords_are_legal_once_declared()
    {
        const string script =
            "program P\n\nvar go on = 1\nvar all done = 2\n\nregion is in\n  state when ready, initial\n    when go on = all done: "
            + "set all done to go on + 1; go after all\n\n  state after all\n";
        var parsed = Parse(script);
        Assert.Empty(parsed.Diagnostics);
        Assert.Equal(script, Printer.Print(parsed.Program));
    }

    [Fact]
    public void Completion_knows_the_rig_and_the_place()
    {
        string[] At(string line)
        {
            var script = Frame.Replace("{0}", line);
            return [.. ScriptParser.Complete(script, 13, 4 + line.Length, Rig).Select(c => c.Candidate.Text)];
        }
        Assert.Equal(["low shelf", "high shelf"], At("on entry: send Mast to "));
        Assert.Contains("up", At("on entry: run Mast "));
        Assert.Contains("is tapped", At("when Order knob "));
        Assert.Contains("stalls", At("when Mast "));
        Assert.Equal(["Hoist", "Keeper"], At("on entry: tell "));
        Assert.Equal(["mast paint", "notch"], At("when Shelf eye becomes "));
        Assert.Contains("every", At("ev"));
        Assert.Contains("motor deg", At("on entry: run Mast up 30 "));
        Assert.Contains("inside", At("when n = 1: go B "));
    }

    // ---- round trip over generated programs that use every production ----

    private static Gen<T> Pick<T>(params T[] choices) => Gen.Int[0, choices.Length - 1].Select(i => choices[i]);

    private static Gen<ExprNode> Literal(string unit) => Gen.Int[0, 99].Select(ExprNode (n) => new LiteralNode(n.ToString(), unit));

    private static Gen<ExprNode> Amount(string unit) =>
        Gen.OneOf(
            Literal(unit),
            Literal(unit),
            Gen.Select(
                Literal(unit),
                Literal(unit),
                Gen.Bool,
                ExprNode (a, b, plus) => new BinaryNode(plus ? Operator.Add : Operator.Subtract, a, b)
            ),
            Gen.Select(Literal(unit), Literal(unit), ExprNode (a, b) => new CallNode("max", [a, b])),
            Gen.Select(Literal(unit), Literal(unit), ExprNode (a, b) => new RandomNode(a, b)),
            Literal(unit).Select(ExprNode (a) => new UnaryNode(false, a))
        );

    private static readonly Gen<ExprNode> Truth = Gen.Recursive<ExprNode>(
        (depth, self) =>
        {
            var leaf = Gen.OneOf<ExprNode>(
                Gen.Select(Amount(""), Pick(2, 3, 4, 5, 6, 7), ExprNode (a, o) => new BinaryNode((Operator)o, new VariableNode("n"), a)),
                Gen.Select(Amount("mm"), ExprNode (a) => new BinaryNode(Operator.Less, new ReadingNode("Range"), a)),
                Gen.Select(Pick("Mast", "Dial", null), ExprNode (d) => new DoneNode(d)),
                Pick("Mast", "Dial").Select(ExprNode (d) => new GivenUpNode(d)),
                Gen.Bool.Select(ExprNode (not) => new ZoneIsNode("Shelf eye", "notch", not)),
                Gen.Bool.Select(ExprNode (not) => new ZoneIsNode("Order knob", "down", not)),
                Gen.Const<ExprNode>(new SilentNode("Range")),
                Gen.Const<ExprNode>(new CannotTellNode("Shelf eye")),
                Gen.Const<ExprNode>(new InStateNode("Other", "C")),
                Gen.Const<ExprNode>(
                    new BinaryNode(Operator.NotEqual, new PropertyNode(PropertyKind.Zone, "Shelf eye"), new ZoneNode("notch"))
                ),
                Gen.Const<ExprNode>(new BinaryNode(Operator.Equal, new VariableNode("word"), new TextNode("hi, ho; # there"))),
                Amount("").Select(ExprNode (a) => new HoldsNode("line", a)),
                Gen.Const<ExprNode>(new VariableNode("on now"))
            );
            return depth > 2
                ? leaf
                : Gen.OneOf(
                    leaf,
                    Gen.Select(self, self, Gen.Bool, ExprNode (a, b, and) => new BinaryNode(and ? Operator.And : Operator.Or, a, b)),
                    self.Select(ExprNode (a) => new UnaryNode(true, a))
                );
        }
    );

    private static readonly Gen<ActionNode> Finite = Gen.OneOf<ActionNode>(
        Amount("").Select(ActionNode (e) => new SetNode("n", e)),
        Truth.Select(ActionNode (e) => new SetNode("on now", e)),
        Gen.Select(
            Pick("Mast", "Mast motor"),
            Pick("up", "forward", null),
            Literal("motor deg"),
            Literal("%"),
            Literal("s"),
            ActionNode (m, d, a, v, t) =>
                new RunNode(m, v)
                {
                    Direction = m == "Mast" || d != "up" ? d : null,
                    Amount = a,
                    UpTo = t,
                }
        ),
        Gen.Select(
            Pick("Mast", "Drive", "Dial"),
            Pick(StopMode.Default, StopMode.Brake, StopMode.Coast, StopMode.Hold),
            ActionNode (m, s) => new StopNode(m, s)
        ),
        Gen.Const<ActionNode>(new StopAllNode()),
        Literal("s").Select(ActionNode (t) => new WaitNode(t)),
        Gen.Bool.Select(Literal("s"), ActionNode (b, t) => new TeachNode("Shelf eye", "notch", b ? t : null)),
        Gen.Select(
            Pick("Mast", "Pump"),
            Literal("%"),
            Literal("s"),
            Gen.Bool,
            ActionNode (m, v, t, limit) => new RunNode(m, v) { Time = t, UpTo = limit ? t : null }
        ),
        Gen.Bool.Select(ActionNode (on) => new EyeLampNode("Shelf eye", on)),
        Pick("red", "white").Select(ActionNode (c) => new LampNode("Lamp", true) { Colour = c }),
        Gen.Select(Literal("Hz"), Literal("s"), Literal("ms"), Literal(""), ActionNode (f, a, b, n) => new BeepNode(f, a, b, n)),
        Literal("s").Select(ActionNode (t) => new PlayNode("horn") { Time = t }),
        Gen.Const<ActionNode>(
            new ShowValueNode(
                new BinaryNode(
                    Operator.Add,
                    new BinaryNode(Operator.Add, new TextNode("charge "), new VariableNode("n")),
                    new TextNode(" left")
                )
            )
        ),
        Gen.Select(Gen.Bool, Literal("s"), Literal("deg/s"), ActionNode (l, t, v) => new TurnRobotNode(l, null, null, v) { Time = t }),
        Gen.Select(
            Literal("%"),
            Literal("%"),
            Literal("s"),
            Gen.Bool,
            ActionNode (a, b, t, time) =>
                time ? new SteerNode(a, b) { Time = t } : new SteerNode(a, b) { Distance = new LiteralNode("50", "mm") }
        ),
        Literal("wheel deg").Select(ActionNode (d) => new DriveNode(false, d, null, new LiteralNode("30", "%"))),
        Gen.Select(Gen.Bool, Amount("mm"), Literal("%"), ActionNode (b, d, v) => new DriveNode(b, d, null, v)),
        Gen.Select(Gen.Bool, Literal("s"), Literal("mm/s"), ActionNode (b, t, v) => new DriveNode(b, null, t, v)),
        Gen.Select(
            Gen.Bool,
            Literal("robot deg"),
            Pick<bool?>(true, false, null),
            Literal("%"),
            ActionNode (l, a, p, v) => new TurnRobotNode(l, a, p, v)
        ),
        Gen.Select(
            Pick<string?>("low shelf", "high shelf", null),
            Pick(TurnWay.Default, TurnWay.Shortest, TurnWay.Clockwise, TurnWay.CounterClockwise),
            ActionNode (p, w) =>
                new SendNode("Mast", p, p is null ? TurnWay.Default : w)
                {
                    Speed = w == TurnWay.Shortest && p is not null ? new LiteralNode("40", "%") : null,
                }
        ),
        Gen.Const<ActionNode>(new SetServoNode("Flap", null, "open") { Speed = new LiteralNode("60", "deg/s") }),
        Pick("Mast motor", "Drive").Select(ActionNode (m) => new ZeroNode(m)),
        Pick<ActionNode>(new SetServoNode("Flap", null, "open"), new SetServoNode("Flap servo", new LiteralNode("45", "deg"), null)),
        Gen.Select(Literal(""), Literal("Hz"), ActionNode (c, r) => new StepNode("Dial", c, r)),
        Gen.Bool.Select(ActionNode (on) => new LampNode("Lamp", on)),
        Gen.Select(Literal("ms"), Literal("s"), Literal(""), ActionNode (a, b, n) => new BlinkNode("Lamp", a, b, n)),
        Gen.Select(Literal("Hz"), Literal("s"), ActionNode (f, t) => new ToneNode(f, t)),
        Pick<ActionNode>(new PlayNode("horn"), new ShowNode("x, then y"), new ShowValueNode(new VariableNode("n"))),
        Amount("").Array[0, 2].Select(ActionNode (w) => new TellNode("Keeper", "ask", w.ToSequence())),
        Amount("").Select(ActionNode (e) => new PushNode(e, "line")),
        Gen.Const<ActionNode>(new TakeNode("line", "n")),
        Gen.Select(Amount(""), Truth, ActionNode (a, b) => new DoNode("Dip", [a, b]))
    );

    private static readonly Gen<ActionNode> Endless = Gen.OneOf<ActionNode>(
        Literal("%").Select(ActionNode (v) => new RunNode("Pump", v)),
        Gen.Select(Literal("%"), Literal("%"), ActionNode (a, b) => new SteerNode(a, b)),
        Gen.Select(
            Literal("%"),
            Literal(""),
            Gen.Bool,
            ActionNode (v, g, edge) =>
                edge ? new FollowNode("Shelf eye", v, g) { LeftEdge = true, Zone = "notch" } : new FollowNode("Shelf eye", v, g)
        ),
        Gen.Select(Literal("s"), Literal("s"), ActionNode (a, b) => new BlinkNode("Lamp", a, b, null)),
        Gen.Select(Literal("s"), Literal("s"), ActionNode (a, b) => new BeepNode(new LiteralNode("440", "Hz"), a, b, null)),
        Gen.Bool.Select(ActionNode (l) => new TurnRobotNode(l, null, l ? true : null, new LiteralNode("30", "%"))),
        Pick<ExprNode?>(new LiteralNode("15", "deg"), null).Select(ActionNode (d) => new SteerByNode("Mast", "Range", d)),
        Gen.Select(
            Truth,
            Gen.Bool,
            ActionNode (c, other) =>
                new IfNode(
                    new RunNode("Pump", new LiteralNode("20", "%")),
                    c,
                    other ? new RunNode("Pump", new LiteralNode("50", "%")) : null
                )
        ),
        Literal("%").Select(ActionNode (v) => new DriveNode(false, null, null, v))
    );

    private static readonly Gen<ActionNode> Action = Gen.Recursive<ActionNode>(
        (depth, self) =>
            depth > 2
                ? Finite
                : Gen.OneOf(
                    Finite,
                    Finite,
                    self.Array[2, 3].Select(ActionNode (a) => new ThenNode(a.ToSequence())),
                    self.Array[2, 3].Select(ActionNode (a) => new TogetherNode(a.ToSequence())),
                    self.Array[2, 3].Select(ActionNode (a) => new GroupNode(a.ToSequence())),
                    Gen.Select(Literal(""), self.Array[1, 2], ActionNode (n, a) => new RepeatNode(n, a.ToSequence())),
                    Gen.Select(Truth, self.Array[1, 2], ActionNode (c, a) => new RepeatUntilNode(c, a.ToSequence())),
                    Gen.Select(self, Truth, self, Gen.Bool, ActionNode (a, c, b, other) => new IfNode(a, c, other ? b : null))
                )
    );

    private static readonly Gen<TriggerNode> Trigger = Gen.OneOf<TriggerNode>(
        Gen.Select(
            Pick(ZoneRelation.Is, ZoneRelation.Becomes, ZoneRelation.Leaves),
            Pick<string?>("1", "2", "12", null),
            TriggerNode (r, n) => new ZoneTriggerNode("Shelf eye", r, "notch", n)
        ),
        Literal("ms").Select(TriggerNode (t) => new ZoneTriggerNode("Order knob", ZoneRelation.Is, "down", null) { For = t }),
        Gen.Select(
            Pick(PressKind.Pressed, PressKind.Released, PressKind.Tapped, PressKind.TappedTwice, PressKind.Held),
            Literal("s"),
            TriggerNode (k, t) => new PressTriggerNode("Order knob", k, k == PressKind.Held ? t : null)
        ),
        // One zone alone is a sentence of its own.
        Truth.Select(
            TriggerNode (e) =>
                e is ZoneIsNode { Not: false } z
                    ? new ZoneTriggerNode(z.Sensor, ZoneRelation.Is, z.Zone, null)
                    : new ConditionTriggerNode(e)
        ),
        Literal("s").Select(TriggerNode (t) => new ConditionTriggerNode(new SilentNode("Range")) { For = t }),
        Pick("Mast", "Pump").Select(TriggerNode (d) => new GiveUpTriggerNode(d)),
        Gen.Select(
            Amount("mm"),
            Pick<string?>("3", null),
            Literal("ms"),
            TriggerNode (a, n, t) =>
                new ConditionTriggerNode(new BinaryNode(Operator.Less, new ReadingNode("Range"), a))
                {
                    Readings = n,
                    For = n is null ? t : null,
                }
        ),
        Pick("Mast", "Pump").Select(TriggerNode (d) => new StallTriggerNode(d)),
        Gen.Select(
            Pick<string?>("Keeper", null),
            Pick<string[]>([], ["n"], ["n", "seen"]),
            TriggerNode (f, into) => new ToldTriggerNode("ask", f, into.ToSequence())
        ),
        Gen.Select(Literal("s"), Pick<string?>("ask", null), TriggerNode (t, said) => new SilenceTriggerNode(t) { Text = said }),
        Literal("s").Select(TriggerNode (t) => new AfterTriggerNode(t)),
        Literal("s").Select(TriggerNode (t) => new EveryTriggerNode(t)),
        Gen.Const<TriggerNode>(new AlwaysTriggerNode())
    );

    private static readonly Gen<Sequence<string>> Comments = Pick("", "tide table", "a # b").Array[0, 1].Select(c => c.ToSequence());

    private static Gen<Sequence<LineNode>> Lines(string[] targets, string[] inside) =>
        Gen.OneOf(
                Gen.Select(
                    Comments,
                    Trigger,
                    Gen.Select(Truth, Gen.Int[0, 9], ExprNode? (e, n) => n < 3 ? e : null),
                    Action.Array[0, 2],
                    Gen.Int[0, 9],
                    LineNode (c, t, g, a, go) =>
                        inside.Length > 0 && go == 0
                            ? new TransitionNode(c, t, g, a.ToSequence(), inside[0]) { Inside = true }
                            : new TransitionNode(c, t, g, a.ToSequence(), go < 7 ? targets[go % targets.Length] : null)
                ),
                Gen.Select(
                    Comments,
                    Gen.Int[0, 2],
                    Action.Array[1, 3],
                    Endless,
                    LineNode (c, m, a, w) => new ActivityNode(c, (ActivityMoment)m, m == 1 ? [w] : a.ToSequence())
                )
            )
            .Array[0, 3]
            .Select(l => l.ToSequence());

    internal static readonly Gen<ProgramNode> Whole = Gen.Select(
            Lines(["A", "B", "B1", "B2"], []),
            Lines(["A", "B", "B1", "Back"], ["B1"]),
            Lines(["B2", "A"], []),
            Lines(["A"], []),
            Lines(["C"], []),
            Lines(["S"], []),
            Comments,
            Gen.Select(Truth, Literal("s"), Comments, Gen.Int[0, 5])
        )
        .Select(
            (a, b, b1, d1, c, s, comments, rule) =>
                new ProgramNode(
                    "Made up",
                    comments,
                    [
                        new ConstNode([], "tall", new LiteralNode("2", "cm")),
                        new VarNode([], "n", new LiteralNode("0", "")),
                        new VarNode(comments, "line", new QueueNode()),
                        new VarNode([], "on now", new TruthNode(true)),
                        new VarNode([], "word", new TextNode("hi")),
                        new VarNode([], "seen", new ZoneNode(null)),
                        rule.Item4 switch
                        {
                            0 => new RuleNode(rule.Item3, true, ConditionKind.Holds, null, rule.Item2) { Holds = rule.Item1 },
                            1 => new RuleNode(rule.Item3, false, ConditionKind.PastStop, "top", null) { Subject = "Mast" },
                            2 => new RuleNode(rule.Item3, false, ConditionKind.OverEdge, null, null),
                            3 => new RuleNode(rule.Item3, true, ConditionKind.LoadOn, "shelf", rule.Item2) { Subject = "tray" },
                            4 => new RuleNode(rule.Item3, false, ConditionKind.Holds, null, null) { Holds = rule.Item1 },
                            _ => new RuleNode(rule.Item3, true, ConditionKind.StoppedOver, "bed 1", rule.Item2),
                        },
                    ],
                    [
                        new RegionNode(
                            "Main",
                            comments,
                            [
                                new StateNode("A", true, false, comments, a),
                                new StateNode("B", false, false, [], b)
                                {
                                    Histories = [new("Back", comments, false, "B2"), new("Deep", [], true, "B1")],
                                    States = [new StateNode("B1", true, false, [], b1), new StateNode("B2", false, false, comments, [])],
                                },
                                new StateNode("D", false, false, [], [])
                                {
                                    Regions =
                                    [
                                        new RegionNode("Port", comments, [new StateNode("D1", true, false, [], d1)]),
                                        new RegionNode("Side", [], [new StateNode("D2", true, false, [], [])]),
                                    ],
                                },
                                new StateNode("End", false, true, [], []),
                            ]
                        ),
                        new RegionNode("Other", [], [new StateNode("C", true, false, [], c)]),
                    ],
                    comments
                )
                {
                    Routines =
                    [
                        new RoutineNode(
                            "Dip",
                            comments,
                            ["depth", "soon"],
                            [new RegionNode("", [], [new StateNode("S", true, false, [], s), new StateNode("T", false, true, [], [])])]
                        ),
                        new RoutineNode(
                            "Wave",
                            [],
                            [],
                            [
                                new RegionNode("One", [], [new StateNode("S", true, true, [], [])]),
                                new RegionNode("Two", [], [new StateNode("S", true, true, [], [])]),
                            ]
                        ),
                    ],
                }
        );

    [Fact]
    public void Parsing_what_was_printed_gives_the_same_program() =>
        Whole.Sample(
            program =>
            {
                var text = Printer.Print(program);
                var back = Parse(text);
                Assert.Equal(text, Printer.Print(back.Program));
                if (program != back.Program)
                    Assert.Equal(Dump(program), Dump(back.Program));
                Assert.Equal(program, back.Program);
                // Whatever else may be odd about a generated program, every line of it could be read.
                Assert.DoesNotContain(back.Program.AllStates.SelectMany(s => s.Lines), l => l is BrokenLineNode);
            },
            iter: 3000
        );

    // An edited text read with what is known of the text before is what it is when all of it is read: the tree, where it stands, and
    // every fault. Lines are changed to others of the program, cut, doubled, moved in, and names are taken from under those who use them.
    [Fact]
    public void An_edited_text_reads_as_if_nothing_had_been_read_before() =>
        Gen.Select(Whole, Gen.Int[0, 10_000], Gen.Int[0, 10_000], Gen.Int[0, 5])
            .Sample(
                (program, at, from, how) =>
                {
                    var before = Printer.Print(program);
                    var lines = before.Split('\n').ToList();
                    var (line, other) = (at % lines.Count, lines[from % lines.Count]);
                    if (how == 0)
                        lines[line] = other;
                    else if (how == 1)
                        lines.RemoveAt(line);
                    else if (how == 2)
                        lines.Insert(line, other);
                    else if (how == 3)
                        lines[line] = "  " + lines[line];
                    else if (how == 4)
                        lines[line] = lines[line][..(lines[line].Length / 2)];
                    else
                        lines = [.. lines.Select(l => l.Replace("state A", "state Zebra").Replace("var n", "var m"))];
                    var text = string.Join('\n', lines);
                    var (known, anew) = (ScriptParser.Parse(text, Rig, Parse(before)), Parse(text));
                    Assert.Equal(anew.Diagnostics, known.Diagnostics);
                    Assert.Equal(anew.Program, known.Program);
                    Assert.Equal(Placed(anew.Program), Placed(known.Program));
                },
                iter: 3000
            );

    private static string Placed(ProgramNode program) =>
        string.Join(
            ' ',
            program.AllStates.SelectMany(s => s.Lines).Select(l => $"{l.Span.Line}:{l.Span.Column}+{l.Span.Length} {Dump(l)}")
        );

    // Follows from the rest, or is where it stands.
    private static readonly string[] Unsaid = ["AllStates", "WithInner", "EqualityContract", "Span", "TargetSpan", "Needed", "BaseValue"];

    // What a program is made of, for telling where two differ.
    internal static string Dump(object? o) =>
        o switch
        {
            null => "-",
            string s => $"“{s}”",
            System.Collections.IEnumerable list => "[" + string.Join(", ", list.Cast<object?>().Select(Dump)) + "]",
            _ when o.GetType().Namespace == typeof(ProgramNode).Namespace && !o.GetType().IsEnum && o is not Span => $"{o.GetType().Name}("
                + string.Join(", ", o.GetType().GetProperties().Where(p => !Unsaid.Contains(p.Name)).Select(p => Dump(p.GetValue(o))))
                + ")",
            _ => o.ToString()!,
        };

    [Fact]
    public void No_text_makes_the_parser_fall_over() =>
        Pick(
            "when",
            "state",
            "region",
            "routine",
            "go",
            ":",
            "Mast",
            "(",
            ")",
            "\"",
            "5 %",
            "\n",
            "\n  ",
            "\n    ",
            "for",
            "var",
            "=",
            ";",
            ", then",
            "and",
            "repeat",
            "told",
            "is",
            "history",
            "do",
            "tell",
            "run",
            "set",
            "not",
            "queue",
            "random"
        )
            .Array[0, 60]
            .Sample(words => Assert.NotNull(Parse("program P\n" + string.Join(' ', words)).Program), iter: 5000);

    [Fact]
    public void Nesting_has_an_end()
    {
        var deep = string.Concat(Enumerable.Range(0, 60).Select(i => new string(' ', 2 * i) + $"state S{i}, initial\n"));
        Assert.Contains(Parse("program P\n" + deep).Diagnostics, d => d.Message.Contains("at most"));
        Assert.NotEmpty(Parse(Frame.Replace("{0}", "on entry: " + new string('(', 50_000) + "play \"a\"")).Diagnostics);
    }

    [Fact]
    public void The_sheet_shows_every_line_with_its_depth()
    {
        var lines = Sheet.Lines(Hoist, Parse(Hoist).Program, []);
        Assert.DoesNotContain(lines, l => l.Part == "broken");
        Assert.Equal(2, lines.Single(l => l.Text == "history Where: go Slow").Depth);
        Assert.Equal(("Fast", 3), lines.Where(l => l.Part == "while").Select(l => (l.Owner, l.Depth)).ElementAt(1));
        Assert.Equal(["const", "var"], lines.Skip(1).Take(2).Select(l => l.Part));
        Assert.Contains(lines, l => l.Part == "routine");
    }
}
