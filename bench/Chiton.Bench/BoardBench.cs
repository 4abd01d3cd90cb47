using System.Diagnostics;
using BenchmarkDotNet.Attributes;
using Chiton.Core.Programs.Outside;
using Chiton.Data.Demo;

namespace Chiton.Bench;

/// <summary>Code that was taken out, stepped as fast as it goes: with a reading in every step, and the start of its process counted
/// in.</summary>
public class BoardBench
{
    /// <summary>Steps of one run as C++.</summary>
    public const int CppSteps = 5_000_000;

    /// <summary>Steps of one run as Python.</summary>
    public const int PythonSteps = 200_000;

    private const string Main = """
        #include "rack_hoist.hpp"
        #include <cstdio>
        struct Hands {
          uint32_t now = 0, told = 0;
          int read(int sensor, double *value) {
            if (sensor == 0) *value = (now >> 19) & 1 ? 30.0 : 52.0;
            else *value = sensor == 1 ? (now >> 22) & 1 : ((now >> 18) & 7) == 1;
            return 1;
          }
          void act(const chiton::Order &) { told++; }
          uint32_t micros() { return now; }
          void send(const chiton::Message &) {}
          bool receive(chiton::Message &) { return false; }
        };
        int main() {
          static Hands hands;
          static chiton::Rig<chiton::Rack_hoist, Hands> rig(hands);
          rig.begin();
          for (int i = 0; i < STEPS; i++) {
            rig.step(), hands.now += 10000;
            if (i % 64 == 0) rig.done(1);
          }
          std::printf("%u\n", hands.told);
        }
        """;

    private const string Module = """
        from rack_hoist import Rack_hoist, Rig


        class Hands:
            now = 0
            told = 0

            def read(self, sensor):
                if sensor == 0:
                    return 30.0 if (self.now >> 19) & 1 else 52.0
                return float((self.now >> 22) & 1) if sensor == 1 else float((self.now >> 18) & 7 == 1)

            def act(self, order):
                self.told += 1

            def micros(self):
                return self.now & 0xFFFFFFFF

            def send(self, message):
                pass

            def receive(self):
                return None


        hands = Hands()
        rig = Rig(Rack_hoist, hands)
        rig.begin()
        for i in range(STEPS):
            rig.step()
            hands.now += 10000
            if i % 64 == 0:
                rig.done(1)
        print(hands.told)
        """;

    private string folder = "";

    /// <summary>Takes the demo's rack hoist out and builds it.</summary>
    [GlobalSetup]
    public void Build()
    {
        folder = Directory.CreateTempSubdirectory("chiton-bench-").FullName;
        var known = DemoBench.Copy(Farm.All(DateTime.UnixEpoch).First(r => r.Id == "rack-hoist"), 1);
        var copy = new BoardCopy(known.Rig, "copy 1", known.Moves, known.Calibrations, known.Positions);
        foreach (var language in Enum.GetValues<BoardLanguage>())
        foreach (var file in BoardCode.Take(copy, null, language).Files)
            File.WriteAllText(Path.Combine(folder, file.Name), file.Text);
        File.WriteAllText(
            Path.Combine(folder, "main.cpp"),
            Main.Replace("STEPS", CppSteps.ToString(System.Globalization.CultureInfo.InvariantCulture))
        );
        File.WriteAllText(
            Path.Combine(folder, "main.py"),
            Module.Replace("STEPS", PythonSteps.ToString(System.Globalization.CultureInfo.InvariantCulture))
        );
        Run("g++", "-std=c++17 -O2 -o main main.cpp");
    }

    /// <summary>Nothing is left behind.</summary>
    [GlobalCleanup]
    public void Clean() => Directory.Delete(folder, true);

    private void Run(string what, string arguments)
    {
        using var run = Process.Start(
            new ProcessStartInfo(what, arguments)
            {
                WorkingDirectory = folder,
                RedirectStandardOutput = true,
                UseShellExecute = false,
            }
        )!;
        var said = run.StandardOutput.ReadToEnd();
        run.WaitForExit();
        if (run.ExitCode != 0)
            throw new InvalidOperationException($"{what} ended with {run.ExitCode}.");
        // A machine that rests is no measure.
        if (what != "g++" && long.Parse(said, System.Globalization.CultureInfo.InvariantCulture) < 1000)
            throw new InvalidOperationException($"{what} was told {said} orders only.");
    }

    /// <summary>As C++.</summary>
    [Benchmark(OperationsPerInvoke = CppSteps, Description = "a step of the rack hoist as C++, with its readings")]
    public void Cpp() => Run(Path.Combine(folder, "main"), "");

    /// <summary>As Python.</summary>
    [Benchmark(OperationsPerInvoke = PythonSteps, Description = "a step of the rack hoist as Python, with its readings")]
    public void Python() => Run("python3", "-B main.py");
}
