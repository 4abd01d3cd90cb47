using System.Globalization;
using System.Text;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Tests.Simulation;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>
/// A program made at random of all that the language has: regions and states in states, histories, routines, messages with values, zones
/// that are taught, chains, repeats, branches, limits, edges and levels that hold for readings or a time, numbers that are compared,
/// queues, presses, sticks and chance; and what happens to it. Not every sentence that is made is one: those that are none are left out.
/// </summary>
internal sealed class BoardScript
{
    private static readonly RigDesign Robot = FloorBench.Rig("  state A, initial\n") with
    {
        Sensors =
        [
            new("Eye", SensorKind.ReflectedLight, 10, 1, ["dark", "mid", "light"]),
            new("Start button", SensorKind.Button, 10, 1, ["up", "down"]),
            new("Hue", SensorKind.Colour, 10, 1, ["red", "green", "blue"]),
            new("Range", SensorKind.Distance, 30, 1, ["near", "far"])
            {
                Principle = RangePrinciple.Optical,
                BlindMm = FloorBench.Sure(40, "mm"),
                ReachMm = FloorBench.Sure(2000, "mm"),
                SilentReading = 2550,
                SilenceIs = "far",
            },
        ],
        Actuators =
        [
            new("Left wheel", ActuatorKind.RegulatedMotor),
            new("Right wheel", ActuatorKind.RegulatedMotor),
            new("Mast motor", ActuatorKind.RegulatedMotor),
            new("Belt", ActuatorKind.PlainMotor),
            new("Lamp", ActuatorKind.Lamp),
            new("Horn", ActuatorKind.Sounder),
            new("Sign", ActuatorKind.Display),
            new("Gate", ActuatorKind.Servo),
            new("Feeder", ActuatorKind.Stepper),
            new("Tiller", ActuatorKind.RegulatedMotor),
            new("Yoke", ActuatorKind.RegulatedMotor),
        ],
    };

    private static readonly Dictionary<string, ZoneScale> Scales = new()
    {
        ["Eye"] = new(["dark", "mid", "light"], [new(30, 2), new(60.5, 3.25)], [20, 45, 80]),
        ["Range"] = new(["near", "far"], [new(300, 12)]),
    };

    private static readonly Vocabulary Words = Vocabulary.Of(Robot) with { Programs = ["Other", "Third"] };

    private readonly Random random;
    private readonly List<string> states = [];
    private readonly List<string> wanted = [];

    private BoardScript(int seed) => random = new(seed);

    private int Next(int n) => random.Next(n);

    private string Pick(params string[] of) => of[Next(of.Length)];

    private string Time() => (0.05 + Next(4000) / 1000.0).ToString("0.000", CultureInfo.InvariantCulture) + " s";

    private string Zone() => Pick("dark", "mid", "light");

    private string Value(int depth = 0) =>
        depth > 2 || Next(3) == 0
            ? Pick("n", "k", "1", "2", "0.5", "7", "length of Q")
            : Next(7) switch
            {
                0 => $"{Value(depth + 1)} + {Value(depth + 1)}",
                1 => $"{Value(depth + 1)} - {Value(depth + 1)}",
                2 => $"({Value(depth + 1)}) * ({Value(depth + 1)})",
                3 => $"({Value(depth + 1)}) / ({Value(depth + 1)})",
                4 => $"{Pick("min", "max")}({Value(depth + 1)}, {Value(depth + 1)})",
                5 => $"{Pick("abs", "round")}({Value(depth + 1)})",
                _ => "random (between 0 and 4)",
            };

    private string Condition(int depth = 0) =>
        depth < 2 && Next(3) == 0
            ? Next(3) switch
            {
                0 => $"not ({Condition(depth + 1)})",
                1 => $"({Condition(depth + 1)}) and ({Condition(depth + 1)})",
                _ => $"({Condition(depth + 1)}) or ({Condition(depth + 1)})",
            }
            : Next(14) switch
            {
                0 => $"Eye is {Pick("", "not ")}{Zone()}",
                1 => $"Eye {Pick("<", ">", "<=", ">=")} {Pick("30", "45", "60", "61.5")} %",
                2 => $"Range {Pick("<", ">")} {Pick("250", "300", "800")} mm",
                3 => "Range hears nothing",
                4 => $"Start button is {Pick("up", "down")}",
                5 => $"n {Pick("<", ">", "=", "!=", "<=", ">=")} {Value()}",
                6 => $"{Pick("Mast", "Belt", "Drive")} is done",
                7 => "Mast has given up",
                8 => $"R0 is in {Pick([.. states.Where(s => s.StartsWith("R0", StringComparison.Ordinal)).DefaultIfEmpty("R0S0")])}",
                9 => $"Q holds {Value()}",
                10 => $"Hue is {Pick("red", "green")}",
                11 => "Eye cannot tell",
                12 => $"angle of Mast > {Next(400)} motor deg",
                _ => "seen = " + Pick("dark", "light", "no zone"),
            };

    private string For() =>
        Next(3) switch
        {
            0 => $" for {2 + Next(3)} readings",
            1 => $" for {Time()}",
            _ => "",
        };

    private string Trigger() =>
        Next(20) switch
        {
            0 or 1 => $"when Eye {Pick("becomes", "leaves")} {Zone()}{For()}",
            2 => $"when Eye is {Zone()}{For()}",
            3 => $"when Eye {Pick("<", ">", "<=", ">=")} {Pick("30", "45", "61.5")} %{For()}",
            4 => $"when Start button is {Pick("pressed", "released", "tapped", "tapped twice", $"held for {Time()}")}",
            5 => $"when {Pick("Mast", "Belt", "Drive", "Lamp", "Horn")} is done",
            6 => $"when {Pick("Mast", "Drive")} gives up",
            7 => $"when {Pick("Mast", "Drive")} stalls",
            8 => $"when told \"{Pick("one", "two")}\"{Pick("", " from Other")} into {Pick("n", "n, k", "k, Q")}",
            9 => $"when told \"{Pick("one", "two")}\"",
            10 => $"when not told {Pick("", "\"one\" ")}for {Time()}",
            11 => $"after {Time()}",
            12 => $"every {Time()}",
            13 => "when all done",
            14 => $"when Hue {Pick("becomes", "leaves")} {Pick("red", "green")}{For()}",
            15 => $"when Range {Pick("becomes", "leaves")} {Pick("near", "far")}{For()}",
            16 => $"when {Condition()}{Pick("", $" for {Time()}")}",
            17 => $"{(Next(3) == 0 ? "always" : $"every {Time()}")} if {Condition()}",
            18 => $"when Eye {Pick("becomes", "leaves")} {Zone()}",
            _ => $"when {Condition()} for {Time()}",
        };

    private string Percent() => $"{Pick("30", "55", "80")} %";

    private string Finite() =>
        Next(12) switch
        {
            0 => $"wait {Time()}",
            10 => $"step Feeder {Value()} at {Pick("0", "100", "n")} steps/s",
            11 => $"set Gate to {Next(180)} deg{Pick("", $" at {Percent()}", " at 60 deg/s")}",
            1 => $"run Mast {1 + Next(600)} motor deg at {Percent()}{Pick("", $" up to {Time()}")}",
            2 => $"run {Pick("Belt", "Mast")} for {Time()} at {Percent()}",
            3 => $"drive straight {50 + Next(400)} mm at {50 + Next(200)} mm/s{Pick("", $" up to {Time()}")}",
            4 => $"turn robot {Pick("left", "right")} {10 + Next(200)} robot deg spinning at {Percent()}",
            5 => $"tone {200 + Next(800)} Hz for {Time()}",
            6 => $"blink Lamp {Time()} on {Time()} off {1 + Next(4)} times",
            7 => $"do {Pick("Once", "Twice")} ({Value()})",
            8 => $"steer {Percent()} and {Percent()} for {Time()}",
            _ => $"drive back for {Time()} at {Percent()}",
        };

    private string Short() =>
        Next(15) switch
        {
            0 => $"set n to {Value()}",
            1 => $"set k to {Value()}",
            2 => $"push {Value()} onto Q",
            3 => "take from Q into k",
            4 => $"tell {Pick("Other", "Third")} \"{Pick("one", "two", "three")}\"{Pick("", $" with {Value()}", $" with n, {Value()}")}",
            5 => $"stop {Pick("Mast", "Belt", "Drive")}{Pick("", " and brake", " and coast")}",
            6 => $"turn Lamp {Pick("on", "off", "red", "green")}",
            7 => $"show {Pick("n", "\"tide\"", "\"n \" + n")}",
            8 => "zero Mast",
            9 => $"teach Eye {Zone()}{Pick("", $" for {Time()}")}",
            10 => "set seen to zone of Eye",
            11 => "stop everything",
            12 => "set Q to empty",
            13 => $"run {Pick("Mast", "Belt")} at {Percent()}",
            _ => $"set n to n + 1",
        };

    private string Chain()
    {
        var parts = 1 + Next(3);
        var all = Enumerable
            .Range(0, parts)
            .Select(i =>
                i == parts - 1 && Next(2) == 0 ? Short()
                : Next(5) == 0 ? Short()
                : Finite()
            );
        var chain = string.Join(", then ", all);
        return Next(8) switch
        {
            0 => $"repeat {1 + Next(4)} times: {chain}",
            1 => $"repeat until {Condition()}: {chain}",
            2 => $"{Finite()} if {Condition()}{Pick("", $", otherwise {Finite()}")}",
            _ => chain,
        };
    }

    private string While() =>
        Next(6) switch
        {
            0 => $"run Mast at {Percent()}",
            1 => $"run Belt at {Pick("30 %", "10 % * n")}",
            2 => $"drive straight at {Pick("60 mm/s", "10 mm/s * n")}",
            3 => $"turn Lamp on if {Condition()}{Pick("", ", otherwise turn Lamp off", ", otherwise blink Lamp 0.2 s on 0.3 s off")}",
            4 => $"run Belt at {Percent()} if {Condition()}, otherwise run Belt at 15 %",
            5 when Next(2) == 0 => $"steer by Tiller and Yoke{Pick("", ", dead band 12 deg")}",
            _ => $"blink Lamp {Time()} on {Time()} off",
        };

    private void State(StringBuilder text, string name, bool initial, string margin, bool final = false)
    {
        text.Append(margin).Append("state ").Append(name).Append(initial ? ", initial" : "").Append(final ? ", final" : "").Append('\n');
        void Line(string line) => text.Append(margin).Append("  ").Append(line).Append('\n');
        if (Next(3) > 0)
            Line($"on entry: {string.Join("; ", Enumerable.Range(0, 1 + Next(2)).Select(_ => Next(3) == 0 ? Short() : Chain()))}");
        if (final)
            return;
        if (Next(3) == 0)
            Line($"while here: {While()}");
        if (Next(2) == 0)
            Line($"on exit: {Short()}");
        var lines = 1 + Next(4);
        for (var i = 0; i < lines; i++)
        {
            var guard = Next(4) == 0 ? $" if {Condition()}" : "";
            var does =
                Next(3) == 0 ? Short() + "; "
                : Next(6) == 0 ? Chain() + "; "
                : "";
            Line($"{Trigger()}{guard}: {does}{(Next(4) == 0 ? "stay" : $"go {wanted[Next(wanted.Count)]}")}");
        }
    }

    private string Write()
    {
        var text = new StringBuilder("program T\n\nvar n = 0\nvar k = 1\nvar Q = queue\nvar seen = no zone\nconst most = 5\n\n");
        var regions = 1 + Next(2);
        for (var r = 0; r < regions; r++)
        {
            text.Append(CultureInfo.InvariantCulture, $"region R{r}\n");
            var count = 2 + Next(3);
            var outer = Next(2) == 0 ? Next(count) : -1;
            var ends = Next(3) == 0;
            wanted.Clear();
            for (var s = 0; s < count; s++)
            {
                states.Add($"R{r}S{s}");
                wanted.Add($"R{r}S{s}");
                if (s == outer)
                    wanted.AddRange([$"R{r}S{s}A", $"R{r}S{s}B", $"R{r}Back"]);
            }
            if (ends)
                wanted.Add($"R{r}End");
            for (var s = 0; s < count; s++)
            {
                State(text, $"R{r}S{s}", s == 0, "  ");
                if (s != outer)
                    continue;
                text.Append(CultureInfo.InvariantCulture, $"    {Pick("history", "deep history")} R{r}Back: go R{r}S{s}A\n");
                if (Next(2) == 0)
                {
                    State(text, $"R{r}S{s}A", true, "    ");
                    State(text, $"R{r}S{s}B", false, "    ");
                }
                else
                {
                    // Regions of its own.
                    text.Append(CultureInfo.InvariantCulture, $"    region R{r}X\n");
                    State(text, $"R{r}S{s}A", true, "      ");
                    State(text, $"R{r}S{s}B", false, "      ");
                    text.Append(CultureInfo.InvariantCulture, $"    region R{r}Y\n");
                    wanted.Add($"R{r}S{s}C");
                    State(text, $"R{r}S{s}C", true, "      ");
                }
            }
            if (ends)
                State(text, $"R{r}End", false, "  ", true);
            text.Append('\n');
        }
        foreach (var routine in new[] { "Once", "Twice" })
        {
            wanted.Clear();
            wanted.AddRange([$"{routine}A", $"{routine}B", $"{routine}End"]);
            text.Append(CultureInfo.InvariantCulture, $"routine {routine} (p)\n  region In{routine}\n");
            State(text, $"{routine}A", true, "    ");
            State(text, $"{routine}B", false, "    ");
            State(text, $"{routine}End", false, "    ", true);
            text.Append('\n');
        }
        return text.ToString();
    }

    /// <summary>A program that can be read, and what happens to it; null where too little of what was made is one.</summary>
    public static BoardJob? Make(int seed) => Make(seed, out _);

    // What chance seldom comes to: the order of leaving, chains whose state was left, queues that fill up, rounds without an end.
    private static readonly string[] Written =
    [
        """
            var n = 1

            region Main
              state Out, initial
                on exit: set n to n * 2
                state In, initial
                  on exit: set n to n + 3
                  after 1 s: go Over
              state Over
                when told "back": go Out
                after 1 s: go Out
            """,
        """
            var n = 1

            region Main
              state A, initial
                on entry: run Mast 90 motor deg at 30 %, then set n to n + 1, then run Belt at 30 %
                when Start button is tapped twice: go B
                after 0.7 s: go B
              state B
                after 0.7 s: go A
                when Mast is done: set n to 50; stay
            """,
        """
            var n = 0
            var Q = queue

            region Main
              state A, initial
                every 0.02 s: push n onto Q; set n to n + 1; stay
                when Q holds 150: go B
              state B
                on entry: take from Q into n
            """,
        """
            var n = 0

            region Main
              state A, initial
                after 0.5 s: go B
              state B
                always: set n to n + 1; go C
              state C
                always: go B
            """,
        """
            var n = 0

            region Low
              state LowA, initial
                when Eye > 30 %: go LowB
              state LowB
                when Eye < 30 %: set n to n + 1; go LowA

            region Half
              state HalfA, initial
                when Eye > 45 %: go HalfB
              state HalfB
                when Eye < 45 %: set n to n + 1; go HalfA

            region High
              state HighA, initial
                when Eye > 60 %: go HighB
              state HighB
                when Eye < 60 %: set n to n + 1; go HighA

            region Top
              state TopA, initial
                when Eye > 61.5 %: go TopB
              state TopB
                when Eye < 61.5 %: set n to n + 1; go TopA
            """,
        """
            var n = 0

            region Main
              state A, initial
                on entry: repeat 1000000 times: set n to n + 1
            """,
        """
            var n = 0

            region Main
              state A, initial
                on entry: do Once (2); do Once (3)
                after 2 s: go B
              state B
                after 0.3 s: go A

            routine Once (p)
              region In
                state X, initial
                  on entry: run Belt for 0.4 s at 30 %, then set n to n + p
                  while here: run Mast at 10 % * p
                  after 0.9 s: go Y
                state Y, final
            """,
    ];

    /// <summary>So many programs, those that were written by hand first.</summary>
    public static List<BoardJob> Some(int many)
    {
        var jobs = new List<BoardJob>();
        foreach (var (i, written) in Written.Index())
        {
            var parsed = ScriptParser.Parse($"program T\n\n{written}\n", Words);
            Assert.True(parsed.Diagnostics.Count == 0, string.Join(' ', parsed.Diagnostics.Select(d => $"{d.Line} {d.Message}")) + written);
            var script = ScriptCompiler.Compile(parsed.Program, Words, Scales);
            var made = new BoardScript(i);
            jobs.Add(new($"written{i}", script, [.. Enumerable.Range(0, 90).SelectMany(_ => made.Events(script))]));
        }
        for (var seed = 1; jobs.Count < many; seed++)
            if (Make(seed) is { } job)
                jobs.Add(job);
        return jobs;
    }

    /// <summary>The same, with its text.</summary>
    public static BoardJob? Make(int seed, out string text)
    {
        var made = new BoardScript(seed);
        text = made.Write();
        // Sentences that are none are left out, until all that is left can be read.
        for (var tries = 0; tries < 40; tries++)
        {
            var parsed = ScriptParser.Parse(text, Words);
            if (parsed.Diagnostics.Count == 0)
            {
                CompiledScript script;
                try
                {
                    script = ScriptCompiler.Compile(parsed.Program, Words, Scales);
                }
                catch (InputProblem)
                {
                    return null;
                }
                return new($"made{seed}", script, [.. Enumerable.Range(0, 90).SelectMany(_ => made.Events(script))]);
            }
            var wrong = parsed.Diagnostics.Select(d => d.Line).ToHashSet();
            var lines = text.Split('\n');
            if (wrong.Any(w => lines[w - 1].TrimStart().StartsWith("state", StringComparison.Ordinal)))
                return null;
            text = string.Join('\n', lines.Where((_, i) => !wrong.Contains(i + 1)));
        }
        return null;
    }

    private BoardEvent Pass(int most) => new("pass", (long)Next(most));

    // What comes together: a button goes down and up again, an eye reads the same for a while.
    private IEnumerable<BoardEvent> Events(CompiledScript script)
    {
        var button = script.SensorIndex("Start button");
        var eye = script.SensorIndex("Eye");
        BoardEvent Goes(string zone) => new("zone", button, script.ZoneIndex(zone));
        switch (Next(12))
        {
            case 0 or 1:
                yield return Goes("down");
                yield return Pass(800_000);
                yield return Goes("up");
                if (Next(2) == 0)
                    yield break;
                yield return Pass(500_000);
                yield return Goes("down");
                yield return Pass(300_000);
                yield return Goes("up");
                break;
            case < 6:
                // Often just where a threshold, a number or the end of their bands lies.
                double[] ends = [28, 30, 32, 43, 45, 47, 56.75, 57.25, 58.25, 60, 60.5, 61.5, 63.25, 63.75, 64.75];
                var reading = Next(2) == 0 ? ends[Next(ends.Length)] : Math.Round(random.NextDouble() * 100, 2);
                for (var n = 1 + Next(4); n > 0; n--)
                {
                    yield return new("sense", eye, Next(14) == 0 ? double.NaN : reading);
                    if (Next(3) == 0)
                        yield return Pass(60_000);
                }
                break;
            default:
                yield return Event(script);
                break;
        }
    }

    // A device by its place; one that the program does not know never moves.
    private BoardEvent Event(CompiledScript script)
    {
        int Sensor(string name) => script.SensorIndex(name);
        switch (Next(9))
        {
            case < 3:
                return Pass(Next(2) == 0 ? 300_000 : 1_500_000);
            case 3:
                return new(
                    "sense",
                    Sensor("Range"),
                    Next(8) == 0 ? 2550.0
                        : Next(8) == 0 ? 20.0
                        : Math.Round(random.NextDouble() * 1200, 1)
                );
            case 4:
                return new("sense_zone", Sensor("Hue"), Next(5) == 0 ? -1 : script.ZoneIndex(Pick("red", "green", "blue")));
            case 5 or 6:
                return new(
                    "told",
                    Next(script.Texts.Length + 1) - 1,
                    Next(script.Programs.Length + 1) - 1,
                    Enumerable.Range(0, Next(2) == 0 ? 2 : Next(4)).Select(_ => Math.Round(random.NextDouble() * 9, 1)).ToArray()
                );
            default:
                var device = Next(script.Devices.Length);
                return Next(6) switch
                {
                    0 => new("gives_up", device),
                    1 => new("stalled", device),
                    2 => new("moved", device, Math.Round(random.NextDouble() * 500, 1), Math.Round(random.NextDouble() * 900, 1)),
                    3 => new("silent", Sensor("Range")),
                    _ => new("ended", device),
                };
        }
    }
}
