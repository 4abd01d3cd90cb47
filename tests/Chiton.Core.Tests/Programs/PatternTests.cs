using Chiton.Core.Checking;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Programs;

/// <summary>Every pattern, in every school, reads without a fault, prints as it is written and is walked to its end.</summary>
public class PatternTests
{
    private static Sensor Switch(string name) => new(name, SensorKind.Touch, 10, 0, ["up", "down"]);

    private static Mechanism Mech(
        string name,
        MechanismKind kind,
        string[] motors,
        string[] positions,
        params NamedDirection[] directions
    ) => new(name, kind, [.. motors]) { Positions = [.. positions], Directions = [.. directions] };

    /// <summary>A rig that has one of everything a pattern can ask for.</summary>
    internal static readonly RigDesign Rig = new(
        "Pattern bench",
        "Farm",
        [ControllerTemplates.Make("six sockets", "Box")],
        [
            new("Tag eye", SensorKind.ReflectedLight, 10, 1, ["sleepers", "siding tag", "bed tag"]),
            new("Line eye", SensorKind.ReflectedLight, 10, 1, ["line", "edge of line", "sand"]),
            new("Left edge eye", SensorKind.ReflectedLight, 10, 1, ["drop", "deck"]),
            new("Right edge eye", SensorKind.ReflectedLight, 10, 1, ["drop", "deck"]),
            new("Range", SensorKind.Distance, 50, 1, ["close", "coming", "open water"]),
            new("Low probe", SensorKind.Probe, 100, 1, ["dry", "wet"]),
            Switch("Start button"),
            Switch("Left bumper"),
            Switch("Right bumper"),
            Switch("Foot switch"),
        ],
        [
            new("Trolley", ActuatorKind.PlainMotor),
            new("Second trolley", ActuatorKind.PlainMotor),
            new("Left motor", ActuatorKind.RegulatedMotor),
            new("Right motor", ActuatorKind.RegulatedMotor),
            new("Mast motor", ActuatorKind.RegulatedMotor),
            new("Jaw motor", ActuatorKind.RegulatedMotor),
            new("Arm servo", ActuatorKind.Servo),
            new("Green lamp", ActuatorKind.Lamp),
            new("Red lamp", ActuatorKind.Lamp),
        ]
    )
    {
        Mechanisms =
        [
            Mech("Drive", MechanismKind.TwoWheelDrive, ["Left motor", "Right motor"], []),
            Mech("Mast", MechanismKind.Lift, ["Mast motor"], ["bottom", "shelf"], new("up", true), new("down", false)),
            Mech("Jaws", MechanismKind.Gripper, ["Jaw motor"], ["open", "closed"], new("open", false), new("close", true)),
            Mech("Diverter", MechanismKind.ArmJoint, ["Arm servo"], ["left bin", "right bin"]),
        ],
        Programs = [new("program Bench\n", []), new("program Landing\n", []) { Stored = true }],
    };

    private static readonly Dictionary<string, int> Readings = new()
    {
        ["Tag eye"] = 3,
        ["Range"] = 2,
        ["Line eye"] = 1,
        ["Left edge eye"] = 1,
        ["Right edge eye"] = 1,
        ["Low probe"] = 4,
    };

    private static PatternResult Insert(
        string id,
        string script = "program Bench\n",
        string schools = "",
        string? into = null,
        params (string Hole, string Value)[] changed
    )
    {
        var pattern = PatternLibrary.All.Single(p => p.Id == id);
        var fitted = PatternFitting.Fit(pattern, Rig, "Bench", Readings);
        Assert.All(fitted.Holes, h => Assert.Null(h.Missing));
        var values = fitted.Holes.ToDictionary(h => h.Hole.Id, h => h.Value);
        foreach (var (hole, value) in changed)
            values[hole] = value;
        return PatternFitting.Insert(
            pattern,
            Rig,
            script,
            values,
            schools.Split(' ', StringSplitOptions.RemoveEmptyEntries).ToDictionary(s => s.Split('=')[0], s => s.Split('=')[1]),
            into
        );
    }

    [Fact]
    public void There_are_twenty_two_by_number_each_with_two_lines_of_advice()
    {
        Assert.Equal(Enumerable.Range(1, 22), PatternLibrary.All.Select(p => p.Number));
        Assert.All(
            PatternLibrary.All,
            p => Assert.True(p.When.Length > 30 && p.Trap.Length > 30 && p.Choices.All(c => c.Schools.Length > 1 && c.Why != ""))
        );
    }

    public static TheoryData<string, string> EverySchool
    {
        get
        {
            var data = new TheoryData<string, string>();
            foreach (var p in PatternLibrary.All)
            {
                IEnumerable<string> all = [""];
                foreach (var c in p.Choices)
                    all = [.. all.SelectMany(a => c.Schools.Select(s => $"{a} {c.Id}={s.Id}".Trim()))];
                foreach (var schools in all)
                    data.Add(p.Id, schools);
            }
            return data;
        }
    }

    [Theory]
    [MemberData(nameof(EverySchool))]
    public void Each_reads_without_a_fault_twice_over_and_prints_as_it_is_written(string id, string schools)
    {
        var once = Insert(id, schools: schools);
        Assert.Empty(once.Diagnostics.Select(d => $"{d.Line}: {d.Message}\n{once.Script}"));
        var words = Vocabulary.Of(Rig);
        Assert.Equal(once.Script, Printer.Print(ScriptParser.Parse(once.Script, words).Program));
        // A second time beside the first: every name is still its own.
        var twice = Insert(id, once.Script, schools);
        Assert.Empty(twice.Diagnostics.Select(d => $"{d.Line}: {d.Message}\n{twice.Script}"));
        Assert.StartsWith(once.Script.TrimEnd().Split('\n')[0], twice.Script);
        // And as states of a region that is there.
        var region = ScriptParser.Parse(once.Script, words).Program.Regions[0].Name;
        var inside = Insert(id, once.Script, schools, region);
        Assert.Empty(inside.Diagnostics.Select(d => $"{d.Line}: {d.Message}\n{inside.Script}"));
        Assert.Single(ScriptParser.Parse(inside.Script, words).Program.Regions[0].States, s => s.Initial);
        // No check finds more in it than what is good to know.
        Assert.Empty(Troubles(once.Script));
        // Twice over two regions command the same motors and take them from each other: only what is not explored says nothing then.
        Assert.Empty(Troubles(twice.Script, false));
        // It starts and runs for a minute without a fault.
        Assert.All(Walk(once.Script, "+ 60"), m => Assert.Null(m.Fault));
    }

    private static IEnumerable<string> Troubles(string script, bool explored = true)
    {
        // In the place of the program it was put into; the others of the rig stay.
        var rig = Rig with
        {
            Programs = [.. Rig.Programs.Select(p => ScriptParser.NameOf(p.Script) == "Bench" ? p with { Script = script } : p)],
        };
        var programs = RigPrograms.Of(rig);
        var bench = programs.Single(p => p.Name == "Bench");
        Assert.Empty(bench.Parsed.Diagnostics);
        var input = Checking.PlantedTests.Input(rig, bench);
        if (!explored)
            input = input with { Explored = null };
        return Catalogue
            .Find([input])
            // The bench of these tests is not wired.
            .Where(f => f.Severity is Severity.Stops or Severity.Risky && !f.Code.StartsWith("wiring", StringComparison.Ordinal))
            .Select(f => $"{f.Code} {f.Owner}: {f.Headline} ({f.Say})\n{script}");
    }

    private static IReadOnlyList<WalkMoment> Walk(string script, params string[] steps) =>
        ScriptWalk.Run(
            ScriptCompiler.Compile(ScriptParser.Parse(script, Vocabulary.Of(Rig)).Program, Rig),
            [
                .. steps.Select(s =>
                    s.StartsWith("+ ", StringComparison.Ordinal)
                        ? new WalkEvent(null, null, double.Parse(s[2..], System.Globalization.CultureInfo.InvariantCulture) * 1000)
                    : s.Split(" with ") is [var name, var values]
                        ? new WalkEvent(
                            name,
                            values
                                .Split(' ')
                                .Select(v => (object?)double.Parse(v, System.Globalization.CultureInfo.InvariantCulture))
                                .ToList(),
                            0
                        )
                    : new WalkEvent(s, null, 0)
                ),
            ]
        );

    [Theory]
    [InlineData(
        "marker-stop",
        "",
        "Rolling > Standing > Leaving > Rolling > Lost",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "+ 2",
        "Tag eye is sleepers",
        "+ 20"
    )]
    [InlineData(
        "marker-stop",
        "leave=time",
        "Rolling > Standing > Leaving > Rolling",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "+ 2",
        "+ 1"
    )]
    [InlineData(
        "shuttle",
        "",
        "Out > Past the siding > Back > Out > Back > Parking > Parked",
        "Tag eye is sleepers",
        "Tag eye is siding tag",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "+ 1.5"
    )]
    [InlineData(
        "one-line",
        "",
        "Ready+Waiting > Under way+Waiting > Parked+Leaving > Ready+Waiting",
        "Tag eye is sleepers",
        "Start button pressed",
        "Tag eye is bed tag",
        "+ 20"
    )]
    [InlineData(
        "one-line",
        "link=messages",
        "Ready > Under way > Parked > Ready",
        "Tag eye is sleepers",
        "Start button pressed",
        "Tag eye is bed tag",
        "told I have parked from Landing"
    )]
    [InlineData(
        "seek",
        "",
        "Looking round > Facing > Approaching > Gripping > Turning away > Letting go > Looking round",
        "Range is open water",
        "Range is coming",
        "Drive done",
        "Range is close",
        "Jaws stalls",
        "Drive done",
        "Jaws done"
    )]
    [InlineData(
        "lift-carry",
        "",
        "Approaching > Announcing > Lifting > Turning > Lowering > Backing off > Carried",
        "Range is open water",
        "Range is close",
        "+ 0.7",
        "Mast done",
        "Drive done",
        "Mast done",
        "Drive done"
    )]
    [InlineData(
        "home-count",
        "",
        "Going home > At home > Going out > Out > Going home > Over",
        "Foot switch down",
        "+ 1",
        "Foot switch up",
        "Mast done",
        "+ 1",
        "Foot switch down"
    )]
    [InlineData(
        "bands",
        "",
        "Nothing there > Coming > Near > Withdrawing > Coming",
        "Range is coming",
        "Range is close",
        "Range is coming",
        "+ 1"
    )]
    [InlineData(
        "hysteresis",
        "",
        "Off > On > Off > On > Alarm > On > Off",
        "Low probe is dry",
        "Low probe is wet",
        "Low probe is dry",
        "+ 60",
        "Foot switch pressed",
        "Low probe is wet"
    )]
    [InlineData("bump", "", "Driving > Away to the right > Driving", "Left bumper pressed", "Drive done", "Drive done")]
    [InlineData(
        "bump",
        "side=bumper",
        "Driving > Away to the left > Driving > Away to the right",
        "Right bumper pressed",
        "Drive done",
        "Drive done",
        "Left bumper pressed"
    )]
    [InlineData("beeper", "", "Standing > Backing away > Turning > Standing", "Start button pressed", "+ 2", "Drive done")]
    [InlineData(
        "edge-guard",
        "push=yes",
        "Working > At the edge > Turning > Working > At the edge > Turning > Working > At the edge > Out of the trap > Working",
        "Left edge eye is deck",
        "Left edge eye is drop",
        "Drive done",
        "Drive done",
        "Left edge eye is deck",
        "Drive done",
        "Left edge eye is drop",
        "Drive done",
        "Drive done",
        "Left edge eye is deck",
        "Drive done",
        "Left edge eye is drop",
        "Drive done",
        "Drive done",
        "Drive done"
    )]
    [InlineData(
        "line",
        "",
        "Following > Crossing > Following > Crossing > There",
        "Line eye is line",
        "+ 0.3",
        "Line eye is sand",
        "Drive done",
        "Line eye is line",
        "+ 0.3",
        "Line eye is sand",
        "Drive done"
    )]
    [InlineData(
        "line",
        "how=two",
        "Off the line > On the line > Off the line > On the line > Crossing > Off the line",
        "Line eye is sand",
        "Line eye is line",
        "Line eye is sand",
        "Line eye is line",
        "+ 0.3",
        "Line eye is sand",
        "Drive done"
    )]
    [InlineData(
        "line",
        "how=three",
        "Along the edge > Too far off > Along the edge > Too far on > Crossing > Along the edge",
        "Line eye is edge of line",
        "Line eye is sand",
        "Line eye is edge of line",
        "Line eye is line",
        "+ 0.3",
        "Line eye is edge of line",
        "Drive done"
    )]
    [InlineData(
        "turn-list",
        "",
        "Driving > Turning > Driving > Turning > Driving",
        "Left bumper pressed",
        "Drive done",
        "Drive done",
        "Left bumper released",
        "Left bumper pressed",
        "Drive done",
        "Drive done"
    )]
    [InlineData(
        "missions",
        "",
        "Ready > Touched > Mission one > Ready > Touched > Ready > Touched > Mission three > Ready > Touched > All missions done",
        "Start button tapped",
        "+ 0.6",
        "+ 10",
        "Start button tapped",
        "Start button tapped",
        "Start button tapped",
        "+ 0.6",
        "+ 10",
        "Start button tapped",
        "+ 0.6"
    )]
    [InlineData(
        "requests",
        "",
        "Listening+At the office > Listening+Under way > Listening+Delivering > Listening+Coming back > Listening+Under way",
        "Tag eye is sleepers",
        "told ask from Landing with 2",
        "told ask from Landing with 1",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "+ 2",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag"
    )]
    [InlineData(
        "remote",
        "",
        "Silent+Still > Driven+Still > Driven+Closing > Driven+Still > Silent+Still",
        "told stick from Landing with 0 0",
        "told stick from Landing with 40 10",
        "told close from Landing",
        "told let go from Landing",
        "+ 0.5"
    )]
    [InlineData(
        "remote",
        "sticks=two buttons=steps",
        "Silent+Still > Driven+Still > Driven+Opening > Driven+Still",
        "told stick from Landing with 0 0",
        "told open from Landing",
        "Jaws done"
    )]
    [InlineData(
        "folding",
        "",
        "At rest > Performing > At rest > Performing > Folding back > At rest",
        "Range is open water",
        "Range is close",
        "Mast done",
        "Mast done",
        "Jaws done",
        "Jaws done",
        "Mast done",
        "Jaws done",
        "Mast done",
        "Jaws done",
        "Range is open water",
        "Range is close",
        "Mast stalls",
        "Mast done",
        "Jaws done"
    )]
    [InlineData("repeat-until", "", "Out > Back > Reached", "Tag eye is sleepers", "+ 0.5", "Tag eye is bed tag")]
    [InlineData(
        "repeat-until",
        "check=end",
        "Out > Back > Out > Back > Reached",
        "Tag eye is sleepers",
        "+ 0.5",
        "+ 0.5",
        "Tag eye is bed tag",
        "+ 0.5",
        "+ 0.5"
    )]
    [InlineData(
        "wander",
        "",
        "Driving > Turning > Driving > Scoring > Turning",
        "Tag eye is siding tag",
        "Left bumper pressed",
        "Drive done",
        "Drive done",
        "Tag eye is sleepers",
        "Left bumper released",
        "Left bumper pressed",
        "+ 0.5"
    )]
    [InlineData(
        "calibrate",
        "",
        "Wants light > Wants dark > Too alike > Wants light > Wants dark > Ready",
        "Line eye reads 60 %",
        "Start button pressed",
        "Start button released",
        "Start button pressed",
        "+ 1",
        "Start button released",
        "Start button pressed",
        "Line eye reads 20 %",
        "Start button released",
        "Start button pressed"
    )]
    [InlineData(
        "count-sort",
        "",
        "Waiting > Passing > Waiting > Passing > Clearing > Waiting",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "+ 6",
        "Tag eye is sleepers",
        "+ 1"
    )]
    [InlineData(
        "count-sort",
        "what=sort",
        "Waiting > Passing > Waiting > Passing > Waiting",
        "Tag eye is sleepers",
        "Tag eye is bed tag",
        "Tag eye is sleepers",
        "Tag eye is siding tag",
        "Tag eye is sleepers"
    )]
    [InlineData(
        "override",
        "",
        "First step > Second step > By hand > Second step > First step",
        "+ 3",
        "Start button pressed",
        "Start button released",
        "+ 3"
    )]
    [InlineData(
        "override",
        "how=toggle",
        "First step > By hand > First step",
        "Start button pressed",
        "Start button released",
        "Start button pressed"
    )]
    public void Each_is_walked_to_its_end(string id, string schools, string states, params string[] steps)
    {
        (string, string)[] changed = id switch
        {
            "shuttle" => [("trips", "2")],
            "line" => [("count", "2")],
            "home-count" => [("rounds", "1"), ("motor", "Mast"), ("home", "Foot switch"), ("in", "down"), ("out", "up")],
            "wander" => [("load", "Tag eye"), ("there", "sleepers"), ("n", "1")],
            _ => [],
        };
        var walk = Walk(Insert(id, schools: schools, changed: changed).Script, steps);
        Assert.All(walk, m => Assert.Null(m.Fault));
        var seen = new List<string>();
        foreach (var m in walk)
        {
            var now = string.Join('+', m.States.Select(s => s[(s.LastIndexOf('.') + 1)..]));
            if (seen.Count == 0 || seen[^1] != now)
                seen.Add(now);
        }
        Assert.Equal(states, string.Join(" > ", seen));
    }

    [Fact]
    public void Every_pattern_is_walked() =>
        Assert.Equal(
            22,
            typeof(PatternTests)
                .GetMethod(nameof(Each_is_walked_to_its_end))!
                .GetCustomAttributes(typeof(InlineDataAttribute), false)
                .Cast<InlineDataAttribute>()
                .Select(a => (string)a.Data[0]!)
                .Distinct()
                .Count()
        );

    [Fact]
    public void What_matters_in_a_pattern_is_what_it_does()
    {
        // One stick mixes both ways into both wheels, the dead band lets go, silence stops.
        var remote = Walk(
            Insert("remote").Script,
            "told stick from Landing with 0 0",
            "told stick from Landing with 40 10",
            "told stick from Landing with 2 3",
            "+ 0.5"
        );
        Assert.Equal(["ahead 40 %", "aside 10 %"], remote[2].Values.Take(2).Select(v => $"{v.Name} {v.Value}"));
        Assert.Equal(["ahead 0 %", "aside 0 %"], remote[3].Values.Take(2).Select(v => $"{v.Name} {v.Value}"));
        Assert.Contains(remote[^1].Commands, c => c.Contains("stop Drive"));
        // The list of turns goes round.
        var turns = Walk(
            Insert("turn-list").Script,
            [
                .. Enumerable
                    .Repeat(new[] { "Left bumper pressed", "Drive done", "Drive done", "Left bumper released" }, 4)
                    .SelectMany(x => x),
            ]
        );
        Assert.Equal(
            ["90 robot deg", "45 robot deg", "135 robot deg", "90 robot deg"],
            turns.Where(m => m.Event == "Left bumper pressed").Select(m => m.Values.Single(v => v.Name == "next turn").Value)
        );
        // The threshold lies midway.
        Assert.Equal(
            "40 %",
            Walk(
                Insert("calibrate").Script,
                "Left edge eye reads 60 %",
                "Line eye reads 60 %",
                "Start button pressed",
                "Start button released",
                "Line eye reads 20 %",
                "Start button pressed"
            )[^1]
                .Values.Single(v => v.Name == "limit")
                .Value
        );
    }

    [Fact]
    public void Holes_are_filled_from_the_rig_and_refused_when_they_do_not_fit()
    {
        var fitted = PatternFitting.Fit(PatternLibrary.All.Single(p => p.Id == "edge-guard"), Rig, "Bench", Readings);
        Assert.Equal(["Drive", "Left edge eye", "Right edge eye", "drop"], fitted.Holes.Take(4).Select(h => h.Value));
        Assert.Equal(
            "3",
            PatternFitting.Fit(PatternLibrary.All[0], Rig, "Bench", Readings).Holes.Single(h => h.Hole.Kind == HoleKind.Readings).Value
        );
        var bare = PatternFitting.Fit(
            PatternLibrary.All.Single(p => p.Id == "line"),
            Rig with
            {
                Mechanisms = [],
                Sensors = [],
            },
            "Bench",
            Readings
        );
        Assert.Contains("no two-wheel drive", bare.Holes[0].Missing);
        Assert.Contains("no sensor with zones", bare.Holes[1].Missing);
        void Refused(string hole, string value, string says) =>
            Assert.Contains(
                says,
                Assert.Throws<InputProblem>(() => Insert("marker-stop", changed: (hole, value))).Errors[$"values.{hole}"]
            );
        Refused("marker", "starfish", "choose one of sleepers, siding tag, bed tag");
        Refused("speed", "120", "from 1 to 100 %");
        Refused("speed", "fast", "give a number");
        Refused("speed", "", "give a number");
        Refused("n", "0", "1 to 1000");
        Refused("motor", "Drive", "choose one of");
        Assert.Contains(
            "Choose one of",
            Assert.Throws<InputProblem>(() => Insert("marker-stop", schools: "leave=never")).Errors["schools.leave"]
        );
        Assert.Contains("no region", Assert.Throws<InputProblem>(() => Insert("marker-stop", into: "Nowhere")).Errors["into"]);
        Assert.Contains(
            "Mend the program first: line 2",
            Assert.Throws<InputProblem>(() => Insert("marker-stop", "program Bench\nvar x = \n")).Errors["script"]
        );
        // A decimal comma is a decimal point.
        Assert.Contains("after 2.5 s", Insert("marker-stop", changed: ("wait", "2,5")).Script);
    }

    private static string Path(PatternResult made, params string[] steps)
    {
        Assert.Empty(made.Diagnostics.Select(d => $"{d.Line}: {d.Message}\n{made.Script}"));
        var states = Walk(made.Script, steps).Select(m => string.Join('+', m.States.Select(s => s.Split('.')[^1]))).ToList();
        return string.Join(" > ", states.Where((s, i) => i == 0 || states[i - 1] != s));
    }

    [Theory]
    [InlineData("90", 1)]
    [InlineData("-45, 90.5", 2)]
    [InlineData("1, 2, 3, 4, 5, -6, 7, 8", 8)]
    public void A_turn_list_has_any_length_and_turns_both_ways(string list, int length)
    {
        var made = Insert("turn-list", changed: ("list", list));
        var moments = Walk(
            made.Script,
            [
                .. Enumerable
                    .Repeat(new[] { "Left bumper pressed", "Drive done", "Drive done", "Left bumper released" }, length + 1)
                    .SelectMany(x => x),
            ]
        );
        var turned = moments.SelectMany(m => m.Commands).Where(c => c.StartsWith("turn robot", StringComparison.Ordinal)).ToArray();
        Assert.Equal(length + 1, turned.Length);
        Assert.Equal(
            list.Split(", ").Append(list.Split(", ")[0]).Select(t => t.StartsWith('-') ? "left" : "right"),
            turned.Select(c => c.Split(' ')[2])
        );
    }

    [Fact]
    public void A_turn_list_may_go_by_a_wall_and_turn_where_it_stands()
    {
        var made = Insert("turn-list", schools: "meets=wall away=turn");
        Assert.DoesNotContain("bumper", made.Added);
        Assert.DoesNotContain("drive back", made.Added);
        Assert.Equal("Driving > Turning > Driving", Path(made, "Range is open water", "Range is close", "Drive done"));
    }

    [Theory]
    [InlineData("")]
    [InlineData("90, left")]
    [InlineData("90,, 45")]
    [InlineData("400")]
    public void A_list_of_turns_that_is_none_is_refused(string list) =>
        Assert.Contains(
            "1 to 50 numbers from -360 to 360",
            Assert.Throws<InputProblem>(() => Insert("turn-list", changed: ("list", list))).Errors["values.list"]
        );

    [Theory]
    [InlineData("Mast", "Drive", "run Mast at 30 %", "drive back at 30 %", "")]
    [InlineData("Red lamp", "Jaws", "turn Red lamp on", "run Jaws at 30 %", "")]
    [InlineData("Diverter", "Green lamp", "send Diverter to right bin", "turn Green lamp on", "on entry: send Diverter to left bin")]
    public void Bands_answer_with_anything_that_can_do_something(string one, string two, string middle, string near, string rest)
    {
        var made = Insert("bands", changed: [("one", one), ("two", two)]);
        Assert.Contains($"while here: {middle}", made.Added);
        Assert.Contains($"while here: {near}", made.Added);
        Assert.Contains(rest, made.Added);
        Assert.Equal(rest == "", !made.Added.Split("state Coming")[0].Contains("on entry"));
        Assert.Equal(
            "Nothing there > Coming > Near > Withdrawing > Nothing there",
            Path(made, "Range is coming", "Range is close", "Range is open water", "+ 1")
        );
    }

    [Theory]
    [InlineData("Start button", "down", "when Start button is pressed:", "Start button pressed")]
    [InlineData("Start button", "up", "when Start button is released:", "Start button released")]
    [InlineData("Range", "close", "when Range becomes close for 2 readings:", "Range is close")]
    [InlineData("Tag eye", "bed tag", "when Tag eye becomes bed tag for 3 readings:", "Tag eye is bed tag")]
    public void The_beeper_starts_from_any_sensor(string sensor, string zone, string line, string happens)
    {
        var readings = Readings.GetValueOrDefault(sensor, 1);
        var made = Insert("beeper", changed: [("start", sensor), ("begin", zone), ("n", $"{readings}")]);
        Assert.Contains(line, made.Added);
        string[] before =
            sensor == "Start button"
                ? (zone == "up" ? ["Start button pressed"] : [])
                : [$"{sensor} is {(sensor == "Range" ? "open water" : "sleepers")}"];
        Assert.Equal("Standing > Backing away > Turning > Standing", Path(made, [.. before, happens, "+ 2", "Drive done"]));
    }

    [Fact]
    public void A_load_is_lifted_by_degrees_where_no_position_has_a_name()
    {
        var made = Insert(
            "lift-carry",
            schools: "how=degrees",
            changed: [("winch", "Mast"), ("rises", "up"), ("sinks", "down"), ("far", "400")]
        );
        Assert.Contains("run Mast up 400 motor deg at 25 % up to 10 s", made.Added);
        Assert.Contains("run Mast down 400 motor deg at 25 % up to 10 s", made.Added);
        Assert.Equal(
            "Approaching > Announcing > Lifting > Turning > Lowering > Backing off > Carried",
            Path(made, "Range is open water", "Range is close", "+ 0.7", "Mast done", "Drive done", "Mast done", "Drive done")
        );
    }

    [Fact]
    public void Remote_control_goes_without_jaws()
    {
        var made = Insert("remote", schools: "jaws=without");
        Assert.DoesNotContain("Jaws", made.Added);
        Assert.Equal(
            "Silent > Driven > Silent",
            Path(made, "told stick from Landing with 0 0", "told stick from Landing with 40 10", "+ 0.5")
        );
    }

    [Fact]
    public void The_eye_itself_learns_its_zones_at_the_start()
    {
        var made = Insert("calibrate", schools: "learns=zones", changed: [("eye", "Left edge eye"), ("bright", "deck"), ("dim", "drop")]);
        Assert.Contains("teach Left edge eye deck", made.Added);
        Assert.Equal(
            "Wants light > Wants dark > Too alike > Wants light > Wants dark > Ready",
            Path(
                made,
                "Left edge eye reads 60 %",
                "Start button tapped",
                "Start button tapped",
                "+ 1",
                "Start button tapped",
                "Left edge eye reads 20 %",
                "Start button tapped"
            )
        );
    }

    [Theory]
    [InlineData("bump", "side=bumper", "right")]
    [InlineData("bands", "", "two")]
    [InlineData("edge-guard", "", "right")]
    [InlineData("folding", "", "two")]
    public void What_needs_two_says_so_where_there_is_one(string id, string schools, string hole)
    {
        var one = Rig with
        {
            Sensors = Rig.Sensors.Where(s => s.Name is "Range" or "Left bumper" or "Left edge eye").ToSequence(),
            Actuators = Rig
                .Actuators.Where(a => a.Name is "Left motor" or "Right motor" || id != "bands" && a.Kind != ActuatorKind.Lamp)
                .ToSequence(),
            Mechanisms = Rig.Mechanisms.Where(m => m.Name == "Drive" || id == "folding" && m.Name == "Mast").ToSequence(),
        };
        if (id == "edge-guard")
            one = one with { Sensors = one.Sensors.Where(s => s.Name != "Range").ToSequence() };
        var pattern = PatternLibrary.All.Single(p => p.Id == id);
        var fitted = PatternFitting.Fit(pattern, one, "Bench", Readings).Holes.Single(h => h.Hole.Id == hole);
        Assert.Equal("", fitted.Value);
        Assert.Contains("needs two", fitted.Missing);
        // Filling both with the same one is refused too.
        var values = PatternFitting.Fit(pattern, Rig, "Bench", Readings).Holes.ToDictionary(h => h.Hole.Id, h => h.Value);
        values[hole] = values[fitted.Hole.Not!];
        var refused = Assert.Throws<InputProblem>(() =>
            PatternFitting.Insert(
                pattern,
                Rig,
                "program Bench\n",
                values,
                schools.Split(' ', StringSplitOptions.RemoveEmptyEntries).ToDictionary(s => s.Split('=')[0], s => s.Split('=')[1]),
                null
            )
        );
        Assert.Contains("choose one of", refused.Errors[$"values.{hole}"]);
    }

    [Fact]
    public void A_power_is_no_less_than_moves_the_motor_that_is_chosen_and_says_why()
    {
        var pattern = PatternLibrary.All.Single(p => p.Id == "home-count");
        FittedHole Slow(IReadOnlyDictionary<string, HoleFigure>? leasts) =>
            PatternFitting.Fit(pattern, Rig, "Bench", Readings, null, leasts).Holes.Single(h => h.Hole.Id == "slow");
        var motor = PatternFitting.Fit(pattern, Rig, "Bench", Readings).Holes.Single(h => h.Hole.Id == "motor").Value;
        Assert.Equal("20", Slow(null).Value);
        var lifted = Slow(new Dictionary<string, HoleFigure> { [motor] = new("27", "calculated: the least", motor) });
        Assert.Equal(("27", "calculated: the least"), (lifted.Value, lifted.Source));
        // What is more than enough stays, and another motor's least is none of its business.
        Assert.Equal("20", Slow(new Dictionary<string, HoleFigure> { [motor] = new("12", "calculated: the least", motor) }).Value);
        Assert.Equal("20", Slow(new Dictionary<string, HoleFigure> { ["Second trolley"] = new("27", "", "Second trolley") }).Value);
        // Only powers: a time or a number of points is not lifted.
        foreach (var one in PatternLibrary.All)
            Assert.All(one.Holes.Where(h => h.IsPower), h => Assert.Equal(("%", HoleKind.Number), (h.Unit, h.Kind)));
    }
}
