using System.IO.Compression;
using System.Text;
using System.Text.RegularExpressions;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>Programs are taken out by the page's own calls, and what is said beside the code is so.</summary>
[Collection("Behind everything else")]
public class BoardCodeTests
{
    private static async Task<Dictionary<string, string>> Zip(string address)
    {
        var response = await Bench.Shared.Http.GetAsync(address);
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        Assert.Equal("application/zip", response.Content.Headers.ContentType!.MediaType);
        using var zip = new ZipArchive(await response.Content.ReadAsStreamAsync());
        var files = new Dictionary<string, string>();
        foreach (var entry in zip.Entries)
            using (var reader = new StreamReader(entry.Open(), Encoding.UTF8))
                files[entry.Name] = await reader.ReadToEndAsync();
        return files;
    }

    [Theory]
    [InlineData("seed-trolley", "cpp", "")]
    [InlineData("seed-trolley", "python", "")]
    [InlineData("lock-keeper", "cpp", "&all=true")]
    [InlineData("lock-keeper", "python", "&program=1")]
    public async Task What_is_downloaded_is_built_and_does_what_stands_beside_it(string id, string language, string more)
    {
        var files = await Zip($"/api/rigs/{id}/program/board.zip?language={language}{more}");
        var folder = Directory.CreateTempSubdirectory("chiton-zip-");
        try
        {
            foreach (var (name, text) in files)
                File.WriteAllText(Path.Combine(folder.FullName, name), text);
            string Run(string command)
            {
                using var shell = System.Diagnostics.Process.Start(
                    new System.Diagnostics.ProcessStartInfo("sh", ["-c", command])
                    {
                        WorkingDirectory = folder.FullName,
                        RedirectStandardOutput = true,
                        RedirectStandardError = true,
                    }
                )!;
                var wrong = shell.StandardError.ReadToEndAsync();
                var said = shell.StandardOutput.ReadToEnd();
                shell.WaitForExit();
                Assert.True(shell.ExitCode == 0 && wrong.Result == "", wrong.Result);
                return said;
            }
            // The very lines of its own README.
            var lines = files["README.txt"]
                .Split('\n')
                .Select(l => l.Trim())
                .Where(l => l.StartsWith("c++ ", StringComparison.Ordinal) || l.EndsWith("< trace.txt", StringComparison.Ordinal))
                .ToArray();
            Assert.Equal(language == "cpp" ? 3 : 1, lines.Length);
            Assert.Equal(files["expected.txt"], Run(string.Join(" && ", lines)));
            Assert.StartsWith("# One run of the bench", files["trace.txt"]);
            Assert.Contains("state ", files["expected.txt"]);
        }
        finally
        {
            folder.Delete(true);
        }
    }

    [Fact]
    public async Task The_same_programs_make_the_same_file()
    {
        const string address = "/api/rigs/rack-hoist/program/board.zip?language=cpp";
        Assert.Equal(await Bench.Shared.Http.GetByteArrayAsync(address), await Bench.Shared.Http.GetByteArrayAsync(address));
    }

    [Fact]
    public async Task What_it_rests_on_and_what_no_board_knows_is_said()
    {
        var view = await Bench.Shared.Get("/api/rigs/rack-hoist/program/board?language=cpp");
        string[] Of(string list, params string[] fields) =>
            [.. view.GetProperty(list).EnumerateArray().Select(n => string.Join(" | ", fields.Select(f => n.GetProperty(f).ToString())))];
        // The threshold is the one of Sense.
        var sense = await Bench.Shared.Get("/api/rigs/rack-hoist/sense");
        var numbers = Of("numbers", "of", "value", "came");
        var threshold = Regex.Match(numbers[0], @"^Shelf eye, threshold between mast paint and notch \| ([\d.]+) % \| calculated$");
        Assert.True(threshold.Success, numbers[0]);
        Assert.Contains(threshold.Groups[1].Value[..4], sense.ToString());
        Assert.Contains("Mast, top speed of its motor | 900 motor deg/s | guessed", numbers);
        Assert.Contains("Tongue, in | 1.7 deg | measured", numbers);
        Assert.Contains("Shelf eye, readings in a row | 3 readings | chosen", numbers);
        Assert.Contains("Shelf_eye | 0 | Shelf eye", Of("names", "code", "number", "name"));
        string[] cannot = [.. view.GetProperty("cannot").EnumerateArray().Select(c => c.GetString()!)];
        Assert.Contains(
            cannot,
            c => c.Contains("run Tongue out 310 motor deg", StringComparison.Ordinal) && c.Contains("done()", StringComparison.Ordinal)
        );
        Assert.Contains(cannot, c => c.StartsWith("Rack hoist waits for Mast to stall", StringComparison.Ordinal));
        // All of it stands at the top of the code too, with every sentence of the script.
        var code = view.GetProperty("files")[0].GetProperty("text").GetString()!;
        var top = code[..code.IndexOf("#pragma once", StringComparison.Ordinal)];
        Assert.All(cannot, c => Assert.Contains(c, top));
        Assert.All(Of("numbers", "of"), n => Assert.Contains(n, top));
        var script = await Bench.Shared.Script("rack-hoist");
        Assert.All(script.Split('\n').Select(l => l.Trim()).Where(l => l != ""), l => Assert.Contains(l, top));
        Assert.Contains(": when Shelf eye becomes notch for 3 readings: set notches to notches + 1; stay\n", code);
    }

    [Theory]
    [InlineData("/program/board", "language", "Must be cpp or python.")]
    [InlineData("/program/board?language=basic", "language", "Must be cpp or python.")]
    [InlineData("/program/board.zip?language=", "language", "Must be cpp or python.")]
    [InlineData("/program/board?language=cpp&program=7", "program", "There is no program 8 on this rig.")]
    [InlineData("/program/board.zip?language=cpp&program=-1", "program", "There is no program 0 on this rig.")]
    public async Task What_cannot_be_taken_out_is_said_at_its_field(string path, string field, string say)
    {
        var response = await Bench.Shared.Http.GetAsync(Bench.Rig + path);
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
        var body = await response.Content.ReadFromJsonAsync<JsonElement>();
        Assert.Equal(say, body.GetProperty("errors").GetProperty(field)[0].GetString());
    }

    [Fact]
    public async Task A_program_with_faults_and_one_without_readings_say_what_is_missing()
    {
        using var bench = new Bench();
        var script = await bench.Script();
        async Task Refused(string path, string say)
        {
            foreach (var call in new[] { "board", "board.zip" })
            {
                var (status, body) = await bench.Send(HttpMethod.Get, path.Replace("BOARD", call, StringComparison.Ordinal), new { });
                Assert.Equal(HttpStatusCode.BadRequest, status);
                Assert.Contains(say, body.ToString());
            }
        }
        // A copy made anew has nothing measured.
        await bench.Post(Bench.Rig + "/copies", new { team = "Mussels" });
        await Refused(
            Bench.Rig + "/program/BOARD?language=cpp&copy=4",
            "Tag eye has no thresholds on this copy yet. Take at least 3 readings of two zones in Sense."
        );
        await bench.Save(script + "\n  when the moon is full: go Nowhere\n");
        await Refused(Bench.Rig + "/program/BOARD?language=cpp", "Mend it in Script first.");
        var made = await bench.Post("/api/rigs", new { name = "Bare eye", template = "rail vehicle" });
        await Refused(
            $"/api/rigs/{made.GetProperty("id").GetString()}/program/BOARD?language=python",
            "A program needs at least one state."
        );
    }

    // Paints the stack before each thing that happens and looks how much of the paint is gone.
    private const string Stack = """
        #include "HEADER"
        #include <cstdio>
        struct Hands {
          int read(int, double *) { return 0; }
          void act(const chiton::Order &) {}
          uint32_t micros() { return 0; }
          void send(const chiton::Message &) {}
          bool receive(chiton::Message &) { return false; }
        };
        using Code = chiton::NAME;
        static Hands hands;
        static chiton::Rig<Code, Hands> rig(hands);
        static unsigned char *low;
        static unsigned long luck = 1;
        static unsigned draw() { return unsigned((luck = luck * 6364136223846793005ull + 1442695040888963407ull) >> 33); }
        __attribute__((noinline)) static void paint() {
          volatile unsigned char area[16384];
          for (auto &b : area) b = 0xA5;
          low = const_cast<unsigned char *>(&area[0]);
        }
        __attribute__((noinline)) static void happens(int what, int of, double v, int64_t t) {
          const double value[3] = {v, v, v};
          if (what == 0) rig.begin(uint64_t(v));
          else if (what == 1) rig.at(t), rig.reads(of, value, Code::width(of));
          else if (what == 2) rig.let_pass(t);
          else if (what == 3) rig.done(of);
          else if (what == 4) rig.stalls(of);
          else rig.gives_up(of);
        }
        int main() {
          int64_t t = 0;
          int most = 0;
          for (int i = 0; i < 60000; i++) {
            const int what = i % 3000 == 0 ? 0 : 1 + int(draw() % 5), among = what == 1 ? Code::sensors : Code::devices;
            const double v = what == 0 ? i : draw() % 2 ? 0 : draw() % 2600 / 26.0;
            t = what == 0 ? 0 : t + draw() % 300000;
            if (among == 0) continue;
            const int of = int(draw() % unsigned(among));
            paint();
            happens(what, of, v, t);
            int kept = 0;
            while (kept < 16000 && low[kept] == 0xA5) kept++;
            if (16384 - kept > most) most = 16384 - kept;
          }
          std::printf("%d", most);
        }
        """;

    [Theory]
    [InlineData("deck-scrubber")]
    [InlineData("header-tank")]
    [InlineData("lock-keeper")]
    [InlineData("seed-trolley")]
    public void The_stack_is_never_deeper_than_is_said(string id)
    {
        using var folder = new BoardFolder(BoardFolder.Demo(Farm.All(DateTime.UnixEpoch).First(r => r.Id == id)));
        var taken = folder.Taken[BoardLanguage.Cpp];
        folder.Put(
            "stack.cpp",
            Stack.Replace("HEADER", taken.Files[0].Name, StringComparison.Ordinal).Replace("NAME", taken.Name, StringComparison.Ordinal)
        );
        folder.Run("g++", null, "-std=c++17", "-Os", "-static", "-o", "stack", "stack.cpp");
        var deepest = int.Parse(folder.RunBuilt("stack"), System.Globalization.CultureInfo.InvariantCulture);
        Assert.InRange(deepest, taken.Sizes!.StackBytes / 6, taken.Sizes.StackBytes);
    }

    // Fifteen states as a class writes them: one eye, one switch, a vehicle, a lamp, counting, times and a way out.
    private static string Fifteen()
    {
        var text = new StringBuilder("program Fifteen\n\nvar n = 0\nvar speed = 60 %\n\nregion Main\n");
        for (var i = 1; i <= 14; i++)
        {
            text.Append($"  state Leg {i}{(i == 1 ? ", initial" : "")}\n");
            text.Append(
                (i % 4) switch
                {
                    0 => "    on entry: stop Trolley; tone 520 Hz for 0.4 s\n",
                    1 => "    on entry: set n to n + 1; run Trolley forward at speed\n",
                    2 => "    while here: run Trolley forward at 40 %\n",
                    _ => "    on entry: turn Lamp on, then run Trolley back for 1.5 s at 30 %\n    on exit: turn Lamp off\n",
                }
            );
            text.Append(
                i % 2 == 1
                    ? $"    when Tag eye becomes bed tag for 3 readings: go Leg {i + 1}\n"
                    : $"    after {i % 5 + 1} s: go Leg {(i < 14 ? i + 1 : 1)}\n"
            );
            text.Append(
                "    when nothing happens for 30 s: go Over\n".Replace(
                    "when nothing happens for 30 s",
                    i % 3 == 0 ? "when n > 40" : "after 30 s"
                )
            );
        }
        return text.Append("  state Over, final\n    on entry: stop everything; show \"over\"\n").ToString();
    }

    [Fact]
    public void Fifteen_states_need_no_more_than_a_small_board_has()
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == "seed-trolley");
        var design = rig.Design.WithProgram(0, rig.Design.Programs[0] with { Script = Fifteen() });
        using var folder = new BoardFolder(BoardFolder.Demo(rig, design));
        folder.Put(
            "size.cpp",
            $$"""
            #include "{{folder.Code}}.hpp"
            struct Hands {
              int read(int, double *);
              void act(const chiton::Order &);
              uint32_t micros();
              void send(const chiton::Message &);
              bool receive(chiton::Message &);
            };
            extern Hands hands;
            chiton::Rig<chiton::{{folder.Taken[BoardLanguage.Cpp].Name}}, Hands> rig(hands);
            void go() { rig.begin(); while (rig.step()) { rig.done(0); rig.stalls(0); } }
            """
        );
        // As on a board of 32 bits where this compiler can, else as it is here: pointers and numbers are larger then.
        string[] flags = [.. "-c -Os -fno-pie -fno-asynchronous-unwind-tables -fno-threadsafe-statics".Split(' ')];
        var small = true;
        try
        {
            folder.Build("size.cpp", "size.o", [.. flags, "-m32"]);
        }
        catch (Xunit.Sdk.XunitException)
        {
            small = false;
            folder.Build("size.cpp", "size.o", flags);
        }
        // text, data, bss
        var sizes = folder
            .Run("size", null, "size.o")
            .Split('\n')[1]
            .Split((char[])[' ', '\t'], StringSplitOptions.RemoveEmptyEntries)
            .Take(3)
            .Select(int.Parse)
            .ToArray();
        // What is said of it beside the code is so: laid out as on a board, where numbers of eight bytes stand at multiples of eight.
        var said = folder.Taken[BoardLanguage.Cpp].Sizes!;
        if (small)
        {
            folder.Put("said.cpp", $"#include \"size.cpp\"\nstatic_assert(sizeof(rig) == {said.StateBytes}, \"said otherwise\");\n");
            folder.Build("said.cpp", "said.o", [.. flags, "-m32", "-malign-double"]);
        }
        Assert.InRange(said.StateBytes, 400, 600);
        Assert.InRange(said.TableBytes, 600, 2_500);
        TestContext.Current.TestOutputHelper?.WriteLine(
            $"{(small ? 32 : 64)} bits: {sizes[0]} bytes of code and tables, {sizes[1] + sizes[2]} of state"
        );
        Assert.InRange(sizes[0], 1_000, small ? 12_000 : 12_600);
        Assert.InRange(sizes[1] + sizes[2], 100, small ? 600 : 640);
    }
}
