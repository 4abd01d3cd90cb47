using System.Globalization;

namespace Chiton.Core.Tests.Programs.Statecharts;

/// <summary>
/// A program made at random about what ends and what does not: chains, limits, stops and takeovers, moves that run on, conditions that
/// may be unknown; and what happens to it.
/// </summary>
internal sealed class GeneratedScript
{
    public static readonly string[] Motors = ["Arm", "Lift", "Belt"];

    public static readonly Vocabulary Rig = new(
        [
            new("Eye", ["dark", "light"]),
            new("Range", ["near", "far"])
            {
                Reads = Dimension.Length,
                MayHearNothing = true,
                SilentReading = 2550,
                BlindBelow = 40,
            },
        ],
        [.. Motors.Select(m => new ActuatorWord(m, ActuatorKind.RegulatedMotor))],
        []
    );

    private readonly Random random;
    private readonly HashSet<int> times = [];
    private readonly List<string> states = [];

    // For what is gone through to its end: nothing is told from outside, and no reading is compared with a number that grows.
    private readonly bool closed;

    public GeneratedScript(int seed, bool closed = false)
    {
        (random, this.closed) = (new(seed), closed);
        var text = new System.Text.StringBuilder("program T\n\nvar n = 0\n");
        var regions = random.Next(3) == 0 ? 2 : 1;
        for (var r = 0; r < regions; r++)
        {
            states.Clear();
            var count = 3 + random.Next(3);
            // One of them may hold two of its own.
            var outer = random.Next(3) == 0 ? random.Next(count) : -1;
            for (var s = 0; s < count; s++)
            {
                states.Add($"R{r}S{s}");
                if (s == outer)
                    states.AddRange([$"R{r}S{s}A", $"R{r}S{s}B"]);
            }
            text.Append(CultureInfo.InvariantCulture, $"\nregion R{r}\n");
            for (var s = 0; s < count; s++)
            {
                State(text, $"R{r}S{s}", s == 0, "  ");
                if (s != outer)
                    continue;
                State(text, $"R{r}S{s}A", true, "    ");
                State(text, $"R{r}S{s}B", false, "    ");
            }
        }
        Script = text.ToString();
        Steps = [.. Enumerable.Range(0, 25).Select(_ => Step())];
    }

    public string Script { get; }

    /// <summary>What happens: an event, or with a number so many µs pass.</summary>
    public IReadOnlyList<(string Event, long Micros)> Steps { get; }

    private (string, long) Step() =>
        random.Next(10) switch
        {
            < 3 => (Pick("told one", "told two"), 0),
            < 6 => ($"{Pick(Motors)} done", 0),
            6 => (Pick("Eye is dark", "Eye is light"), 0),
            7 => (Pick("Range reads 30 mm", "Range reads 90 mm", "Range reads 400 mm", "Range hears nothing"), 0),
            _ => ("", random.Next(50_000, 4_000_000)),
        };

    private string Pick(params string[] of) => of[random.Next(of.Length)];

    // No two times of a program are the same.
    private string Time()
    {
        int ms;
        do ms = random.Next(100, 6000);
        while (!times.Add(ms));
        return (ms / 1000.0).ToString("0.000", CultureInfo.InvariantCulture) + " s";
    }

    private void State(System.Text.StringBuilder text, string name, bool initial, string indent)
    {
        text.Append(indent).Append("state ").Append(name).Append(initial ? ", initial\n" : "\n");
        void Line(string line) => text.Append(indent).Append("  ").Append(line).Append('\n');
        if (random.Next(10) < 7)
            Line("on entry: " + string.Join("; ", Enumerable.Range(0, 1 + random.Next(2)).Select(_ => Chain())));
        if (random.Next(10) < 3)
            Line($"while here: run {Pick(Motors)} at {Percent()}");
        var lines = 1 + random.Next(4);
        for (var i = 0; i < lines; i++)
            Line(Transition());
    }

    private string Percent() => $"{random.Next(10, 100)} %";

    private string Finite() =>
        random.Next(6) switch
        {
            0 => $"wait {Time()}",
            1 => $"run {Pick(Motors)} for {Time()} at {Percent()}",
            2 or 3 => $"run {Pick(Motors)} {random.Next(1, 900)} motor deg at {Percent()} up to {Time()}",
            _ => $"run {Pick(Motors)} {random.Next(1, 900)} motor deg at {Percent()}",
        };

    private string Last() =>
        random.Next(6) switch
        {
            0 => $"run {Pick(Motors)} at {Percent()}",
            1 => $"stop {Pick(Motors)}",
            2 => "set n to n + 1",
            _ => Finite(),
        };

    private string Chain()
    {
        var parts = random.Next(3) == 0 ? 1 : 2 + random.Next(2);
        return string.Join(
            ", then ",
            Enumerable
                .Range(0, parts)
                .Select(i =>
                    i == parts - 1 ? Last()
                    : random.Next(8) == 0 ? $"stop {Pick(Motors)}"
                    : Finite()
                )
        );
    }

    private string Condition(int depth = 0)
    {
        if (depth < 3 && random.Next(3) == 0)
            return random.Next(3) switch
            {
                0 => $"not ({Condition(depth + 1)})",
                1 => $"({Condition(depth + 1)}) and ({Condition(depth + 1)})",
                _ => $"({Condition(depth + 1)}) or ({Condition(depth + 1)})",
            };
        return random.Next(8) switch
        {
            0 => $"{Pick(Motors)} is done",
            1 => $"{Pick(Motors)} has given up",
            2 => $"Eye is {Pick("", "not ")}{Pick("dark", "light")}",
            3 when closed => $"n {Pick("<", ">", "=")} {random.Next(0, 5)}",
            3 => $"Range {Pick("<", ">", "<=", ">=")} {Pick("35", "90", "200")} mm + {random.Next(0, 2)} mm * n",
            4 => "Range hears nothing",
            5 => $"n {Pick("<", ">", "=")} {random.Next(0, 5)}",
            _ => "all done",
        };
    }

    private string Transition()
    {
        var trigger = random.Next(8) switch
        {
            0 or 1 => closed ? $"when {Condition()}" : $"when told \"{Pick("one", "two")}\"",
            2 => $"when {Pick(Motors)} gives up",
            3 => $"after {Time()}",
            4 => $"when {Pick(Motors)} is done",
            5 => "when all done",
            _ => $"when {Condition()}",
        };
        var guard = random.Next(4) == 0 ? $" if {Condition()}" : "";
        var actions =
            random.Next(3) == 0 ? Last() + "; "
            : random.Next(6) == 0 ? Chain() + "; "
            : "";
        return $"{trigger}{guard}: {actions}{(random.Next(4) == 0 ? "stay" : $"go {states[random.Next(states.Count)]}")}";
    }
}
