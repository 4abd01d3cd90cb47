using System.Diagnostics;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>Code that was taken out, in a folder of its own, built and run as its reader would.</summary>
internal sealed class BoardFolder : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("chiton-out-").FullName;

    /// <summary>Both languages of programs that are taken out.</summary>
    public BoardFolder(BoardCopy copy, int? program = null)
    {
        (Copy, Program) = (copy, program);
        foreach (var language in Enum.GetValues<BoardLanguage>())
        {
            Taken[language] = BoardCode.Take(copy, program, language);
            foreach (var file in Taken[language].Files)
                Put(file.Name, file.Text);
        }
    }

    public BoardCopy Copy { get; }

    public int? Program { get; }

    public Dictionary<BoardLanguage, BoardTaken> Taken { get; } = [];

    /// <summary>Name of the header and the module, without their endings.</summary>
    public string Code => Taken[BoardLanguage.Cpp].Name.ToLowerInvariant();

    public void Put(string name, string text) => File.WriteAllText(Path.Combine(folder, name), text);

    /// <summary>A copy of a demo rig as it ships.</summary>
    public static BoardCopy Demo(DemoRig rig, RigDesign? design = null, int number = 1)
    {
        var known = DemoBench.Copy(rig, number, design);
        return new(known.Rig, $"copy {number}", known.Moves, known.Calibrations, known.Positions);
    }

    /// <summary>Runs a program here.</summary>
    /// <returns>What it printed.</returns>
    public string Run(string what, string? input, params string[] arguments)
    {
        using var run = Process.Start(
            new ProcessStartInfo(what, arguments)
            {
                WorkingDirectory = folder,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                UseShellExecute = false,
            }
        )!;
        var wrong = run.StandardError.ReadToEndAsync();
        var said = run.StandardOutput.ReadToEndAsync();
        try
        {
            run.StandardInput.Write(input);
            run.StandardInput.Close();
        }
        catch (IOException)
        {
            // It read no further: a program that came to its end needs no more, and what went wrong it says itself below.
        }
        run.WaitForExit();
        Assert.True(run.ExitCode == 0 && wrong.Result == "", $"{what}: {wrong.Result[..Math.Min(wrong.Result.Length, 2000)]}");
        return said.Result;
    }

    /// <summary>Builds with all warnings as errors, as it is said beside the code.</summary>
    public void Build(string source, string into, params string[] more) =>
        Run(
            "g++",
            null,
            [
                .. "-std=c++17 -Wall -Wextra -pedantic -Werror -ffp-contract=off -fno-exceptions -fno-rtti -o".Split(' '),
                into,
                source,
                .. more,
            ]
        );

    /// <summary>Runs what was built.</summary>
    public string RunBuilt(string name, string? input = null) => Run(Path.Combine(folder, name), input);

    /// <summary>Asserts that a trace makes both languages do what the engine does.</summary>
    public IReadOnlyList<string> Same(IReadOnlyList<string> trace, string what)
    {
        var expected = string.Join('\n', BoardTrace.Run(Copy, Program, trace)) + "\n";
        var given = string.Join('\n', trace) + "\n";
        Differs(expected, RunBuilt("trace", given), given, $"{what}, C++");
        Differs(expected, Run("python3", given, "-B", "trace_main.py"), given, $"{what}, Python");
        return expected.TrimEnd('\n').Split('\n');
    }

    private static void Differs(string expected, string got, string trace, string what)
    {
        if (expected == got)
            return;
        string[] a = expected.Split('\n'),
            b = got.Split('\n');
        var at = a.Zip(b).TakeWhile(x => x.First == x.Second).Count();
        Assert.Fail(
            $"{what}, line {at + 1}: the engine says “{a.ElementAtOrDefault(at)}”, the board “{b.ElementAtOrDefault(at)}”, after\n"
                + $"{string.Join('\n', a.Take(at).TakeLast(6))}\nof a trace of {trace.Length} characters"
        );
    }

    public void Dispose() => Directory.Delete(folder, true);
}
