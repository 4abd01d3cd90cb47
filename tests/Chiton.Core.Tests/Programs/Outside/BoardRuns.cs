using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>Something that happens to a program, as it is given to the engine and to what was written for boards alike.</summary>
/// <param name="What">What: pass, told, zone, read, sense, sense_zone, silent, ended, gives_up, stalled, moved.</param>
/// <param name="Values">With what.</param>
internal sealed record BoardEvent(string What, params object?[] Values)
{
    public object?[] Json => [What, .. Values.Select(v => v is double d && double.IsNaN(d) ? null : v)];
}

/// <summary>A program and what happens to it.</summary>
internal sealed record BoardJob(string Name, CompiledScript Script, IReadOnlyList<BoardEvent> Events);

/// <summary>Runs programs in the engine and as what was written for boards, and says what both did, line by line.</summary>
internal static class BoardRuns
{
    private static string Number(double v) =>
        double.IsNaN(v) ? "nan" : BitConverter.DoubleToInt64Bits(v + 0.0).ToString(CultureInfo.InvariantCulture);

    private static int Int(object? v) => Convert.ToInt32(v, CultureInfo.InvariantCulture);

    private static double Double(object? v) => v is null ? double.NaN : Convert.ToDouble(v, CultureInfo.InvariantCulture);

    /// <summary>What the engine does.</summary>
    public static List<string> Engine(BoardJob job)
    {
        var m = new ScriptMachine(job.Script);
        var said = new List<string>();
        var (commands, messages) = (0, 0);
        // Transitions stand among the commands in the order in which both come.
        void Catch()
        {
            for (; messages < m.Sent.Count || commands < m.Commands.Count; )
                if (messages < m.Sent.Count && !(commands < m.Commands.Count && !IsTell(m.Commands[commands])))
                {
                    var sent = m.Sent[messages++];
                    var values = m.SentValues.Slice(sent.Start, sent.Count).ToArray();
                    said.Add($"m{sent.Program}/{sent.Text}/{string.Join(',', values.Select(Number))}");
                    if (commands < m.Commands.Count)
                        Command();
                }
                else
                    Command();
        }
        void Command()
        {
            var c = m.Commands[commands++];
            said.Add($"c{c.TimeMicros}/{c.Unit}/{c.Activity}/{c.Device}/{Number(c.Value)}/{Number(c.Second)}/{c.LastsMicros}");
        }
        bool IsTell(ScriptCommand c) => c.Activity >= 0 && job.Script.Units[c.Unit].Activities[c.Activity].Kind == DoKind.Tell;
        m.Watcher = (micros, unit, transition) =>
        {
            Catch();
            said.Add($"t{micros}/{job.Script.FirstStep[unit] + transition}");
        };
        var lines = new List<string>();
        void Line()
        {
            Catch();
            lines.Add(
                $"{m.NowMicros} {(m.Fault is null ? "-" : "fault")} {(m.Finished ? "end" : "-")} {string.Join('+', m.Configuration)} | "
                    + $"{string.Join(' ', m.Variables.Select(Number))} | {string.Join(' ', said)}"
            );
            said.Clear();
            m.ClearCommands();
            (commands, messages) = (0, 0);
        }
        m.Start();
        Line();
        foreach (var e in job.Events)
        {
            var a = e.Values;
            switch (e.What)
            {
                case "pass":
                    m.Pass(m.NowMicros + Convert.ToInt64(a[0], CultureInfo.InvariantCulture));
                    break;
                case "told":
                    m.Told(Int(a[0]), Int(a[1]), (double[])a[2]!);
                    break;
                case "zone":
                    m.SeeZone(Int(a[0]), Int(a[1]));
                    break;
                case "read":
                    m.Read(Int(a[0]), Double(a[1]));
                    break;
                case "sense":
                    m.Sense(Int(a[0]), Double(a[1]));
                    break;
                case "sense_zone":
                    m.SenseZone(Int(a[0]), Int(a[1]));
                    break;
                case "silent":
                    m.Silent(Int(a[0]));
                    break;
                case "ended":
                    m.Ended(Int(a[0]));
                    break;
                case "gives_up":
                    m.GivesUp(Int(a[0]));
                    break;
                case "stalled":
                    m.Stalled(Int(a[0]));
                    break;
                case "moved":
                    m.Moved(Int(a[0]), Double(a[1]), Double(a[2]));
                    break;
                default:
                    throw new ArgumentOutOfRangeException(nameof(job), e.What);
            }
            Line();
        }
        return lines;
    }

    /// <summary>Where drive.py stands.</summary>
    private static string Driver([System.Runtime.CompilerServices.CallerFilePath] string here = "") =>
        Path.Combine(Path.GetDirectoryName(here)!, "drive.py");

    /// <summary>What the same programs do as Python.</summary>
    /// <param name="jobs">The programs.</param>
    /// <param name="change">Changes what was written, for tests that must notice it; null for as it is.</param>
    public static Dictionary<string, List<string>> Python(IReadOnlyList<BoardJob> jobs, Func<string, string>? change = null)
    {
        var folder = Directory.CreateTempSubdirectory("chiton-board-").FullName;
        try
        {
            foreach (var job in jobs)
            {
                var code = Chiton.Core.Programs.Outside.PythonCode.Write(job.Name, job.Script);
                File.WriteAllText(Path.Combine(folder, job.Name + ".py"), change?.Invoke(code) ?? code);
            }
            File.WriteAllText(
                Path.Combine(folder, "jobs.json"),
                JsonSerializer.Serialize(jobs.Select(j => new { name = j.Name, events = j.Events.Select(e => e.Json) }))
            );
            using var python = Process.Start(
                new ProcessStartInfo("python3", ["-B", Driver(), folder]) { RedirectStandardError = true, UseShellExecute = false }
            )!;
            var wrong = python.StandardError.ReadToEnd();
            python.WaitForExit();
            Assert.True(python.ExitCode == 0, wrong);
            var lines = new Dictionary<string, List<string>>();
            var at = new List<string>();
            foreach (var line in File.ReadLines(Path.Combine(folder, "python.txt"), Encoding.UTF8))
                if (line.StartsWith("= ", StringComparison.Ordinal))
                    lines[line[2..]] = at = [];
                else
                    at.Add(line);
            return lines;
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    // How many programs stand in one file that is compiled: each takes its time, and both of this machine's cores are to have some.
    private const int InOneFile = 10;

    private static string Run(string what, params string[] arguments)
    {
        using var run = Process.Start(new ProcessStartInfo(what, arguments) { RedirectStandardError = true, UseShellExecute = false })!;
        var wrong = run.StandardError.ReadToEnd();
        run.WaitForExit();
        return run.ExitCode == 0 ? "" : $"{what}: {wrong[..Math.Min(wrong.Length, 3000)]}";
    }

    private static string Words(BoardEvent e) =>
        string.Join(
            ' ',
            e.Values.SelectMany(v => v is double[] all ? all.Select(d => (object?)d) : [v])
                .Select(v => v is double d && double.IsNaN(d) ? "lost" : Convert.ToString(v, CultureInfo.InvariantCulture))
                .Prepend(e.What)
        );

    /// <summary>What the same programs do as C++, compiled with all warnings as errors.</summary>
    /// <param name="jobs">The programs.</param>
    /// <param name="change">Changes what was written, for tests that must notice it; null for as it is.</param>
    public static Dictionary<string, List<string>> Cpp(IReadOnlyList<BoardJob> jobs, Func<string, string>? change = null)
    {
        var folder = Directory.CreateTempSubdirectory("chiton-board-").FullName;
        try
        {
            File.Copy(Driver().Replace("drive.py", "drive.hpp", StringComparison.Ordinal), Path.Combine(folder, "drive.hpp"));
            var runtime = Chiton.Core.Programs.Outside.CppCode.Runtime;
            File.WriteAllText(Path.Combine(folder, "machine.hpp"), change?.Invoke(runtime) ?? runtime);
            var lines = new Dictionary<string, List<string>>();
            var wrong = new List<string>();
            Parallel.ForEach(
                jobs.Chunk(InOneFile).Index(),
                new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount },
                part =>
                {
                    var file = Path.Combine(folder, $"part{part.Index}");
                    var text = new StringBuilder("#include \"machine.hpp\"\n#include \"drive.hpp\"\n");
                    foreach (var job in part.Item)
                    {
                        text.Append(Chiton.Core.Programs.Outside.CppCode.Program(job.Name, job.Script));
                        // What is said of its size is so, member by member.
                        var bytes = Chiton.Core.Programs.Outside.CppCode.StateBytes(job.Script, 8);
                        text.Append($"static_assert(sizeof(chiton::Machine<chiton::{job.Name}, Board>) == {bytes}, \"{job.Name}\");\n");
                        var paths = job.Script.Units[0].Nodes.Select(n => $"\"{n.Path}\"");
                        text.Append($"static const char *const paths_{job.Name}[] = {{{string.Join(", ", paths)}}};\n");
                        File.WriteAllLines(Path.Combine(folder, job.Name + ".events"), job.Events.Select(Words));
                    }
                    text.Append("long taken_memory = 0;\n");
                    text.Append("void *operator new(std::size_t n) { taken_memory++; return std::malloc(n); }\n");
                    text.Append("void operator delete(void *p) noexcept { std::free(p); }\n");
                    text.Append("void operator delete(void *p, std::size_t) noexcept { std::free(p); }\n");
                    text.Append("int main(int, char **a) {\n  FILE *out = std::fopen(a[2], \"w\");\n");
                    foreach (var job in part.Item)
                        text.Append($"  drive<chiton::{job.Name}>(\"{job.Name}\", paths_{job.Name}, a[1], out);\n");
                    text.Append("  std::fclose(out);\n}\n");
                    File.WriteAllText(file + ".cpp", text.ToString());
                    var said = Run(
                        "g++",
                        "-std=c++17",
                        // Compilers see more, and warn of more, the more they look.
                        part.Index switch
                        {
                            0 when jobs.Count > 100 => "-Os",
                            1 when jobs.Count > 100 => "-O2",
                            _ => "-O0",
                        },
                        "-Wall",
                        "-Wextra",
                        "-pedantic",
                        "-Werror",
                        "-fno-exceptions",
                        "-o",
                        file,
                        file + ".cpp"
                    );
                    if (said == "")
                        said = Run(file, folder, file + ".txt");
                    lock (lines)
                    {
                        if (said != "")
                        {
                            wrong.Add(said);
                            return;
                        }
                        List<string> at = [];
                        foreach (var line in File.ReadLines(file + ".txt", Encoding.UTF8))
                            if (line.StartsWith("= ", StringComparison.Ordinal))
                                lines[line[2..]] = at = [];
                            else
                                at.Add(line);
                    }
                }
            );
            Assert.True(wrong.Count == 0, string.Join("\n", wrong.Take(2)));
            return lines;
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    /// <summary>The first thing that both did not do alike; null where they did all alike.</summary>
    public static string? Differs(BoardJob job, IReadOnlyList<string> engine, IReadOnlyList<string> board)
    {
        for (var i = 0; i < engine.Count; i++)
            if (i >= board.Count || engine[i] != board[i])
                return $"{job.Name}, after {(i == 0 ? "the start" : JsonSerializer.Serialize(job.Events[i - 1].Json))}:\n"
                    + $"engine {engine[i]}\nboard  {(i < board.Count ? board[i] : "nothing")}";
        return board.Count == engine.Count ? null : $"{job.Name}: {board.Count} lines instead of {engine.Count}";
    }
}
