using System.Globalization;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>What is taken out does outside what it does here: on runs of the bench, on anything that may happen, and when it is asked as
/// often as its owner likes.</summary>
[Collection("Behind everything else")]
public class BoardTraceTests
{
    public static TheoryData<string> Rigs => [.. Farm.All(DateTime.UnixEpoch).Select(r => r.Id)];

    private static DemoRig Rig(string id) => Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Runs_of_the_bench_are_the_same_in_every_language(string id)
    {
        using var folder = new BoardFolder(BoardFolder.Demo(Rig(id)));
        folder.Build("trace_main.cpp", "trace");
        var plan = DemoBench.Plan(id);
        Parallel.For(
            1,
            21,
            AllCores,
            seed =>
            {
                var said = folder.Same(BenchTrace.Of(plan, seed), $"{id}, run {seed}");
                // What the bench itself saw of the same run: each state of each program at its moment.
                if (plan.Programs.Count == 1)
                    Seen(BenchReport.Watch(plan, seed), said);
            }
        );
    }

    private static readonly ParallelOptions AllCores = new() { MaxDegreeOfParallelism = Environment.ProcessorCount };

    private static void Seen(BenchReport report, IReadOnlyList<string> said)
    {
        var seen = report
            .States.SelectMany(r => r.Stretches.Select(s => (Micros: (long)Math.Round(s.FromS * 1e6), s.State)))
            .Where(s => s.Micros > 0)
            .ToArray();
        var changes = said.Where(l => l.StartsWith("state ", StringComparison.Ordinal)).Select(l => l.Split(' ', 3)).ToArray();
        Assert.NotEmpty(changes);
        Assert.All(
            seen,
            s =>
                Assert.Contains(
                    changes,
                    c => c[1] == s.Micros.ToString(CultureInfo.InvariantCulture) && c[2].Contains(s.State, StringComparison.Ordinal)
                )
        );
    }

    // Anything that can happen, and much that never should.
    private static List<string> Made(BoardFolder folder, int seed)
    {
        var draw = new Random(seed);
        var names = folder.Taken[BoardLanguage.Cpp].Names;
        var design = folder.Copy.Rig;
        string[] devices = [.. names.Where(n => n.Number is not null && design.Sensors.All(s => s.Name != n.Name)).Select(n => n.Name)];
        Sensor[] sensors = [.. design.Sensors.Where(s => names.Any(n => n.Name == s.Name))];
        string[] programs = [.. names.Where(n => n.Number is null).Select(n => n.Name), "Nobody"];
        string[] texts =
        [
            .. design.Programs.SelectMany(p => p.Script.Split('"').Where((_, i) => i % 2 == 1)).Distinct().DefaultIfEmpty("nothing"),
        ];
        long now = 0;
        var lines = new List<string> { $"seed {seed}" };
        string N(double v) => v.ToString("R", CultureInfo.InvariantCulture);
        double Value(Sensor s) =>
            draw.Next(4) == 0 && s.Bands.Count > 0 ? s.Bands[draw.Next(s.Bands.Count)].FromMm
            : s.Facts.View == "switch" ? draw.Next(2)
            : Math.Round(s.Facts.From + draw.NextDouble() * (s.Facts.To - s.Facts.From), draw.Next(4));
        for (var i = 0; i < 400; i++)
        {
            now += draw.Next(5) switch
            {
                0 => 0,
                1 => draw.Next(1000),
                2 => draw.Next(4_000_000),
                _ => draw.Next(60_000),
            };
            var kind = draw.Next(20);
            if (kind < 12 && sensors.Length > 0)
            {
                var s = sensors[draw.Next(sensors.Length)];
                var reading = draw.Next(12) switch
                {
                    0 => "lost",
                    1 => "-",
                    2 when s.Zones.Count > 0 && s.Facts.View is "colours" or "names" => s.Zones[draw.Next(s.Zones.Count)],
                    _ when s.Facts.Width == 3 => $"{N(Value(s))} {N(Value(s))} {N(Value(s))}",
                    _ => N(Value(s)),
                };
                for (var k = draw.Next(1, 5); k > 0; k--, now += 10_000)
                    lines.Add($"r {now} {s.Name} {reading}");
                continue;
            }
            lines.Add($"{(draw.Next(3) == 0 ? "at" : "pass")} {now}");
            if (devices.Length == 0 || kind < 15)
                continue;
            var device = devices[draw.Next(devices.Length)];
            lines.Add(
                kind switch
                {
                    15 => $"done {device}",
                    16 => $"stalls {device}",
                    17 => $"gives up {device}",
                    18 => $"moved {device} {N(draw.NextDouble() * 400)} {draw.Next(-360, 360)}",
                    _ => $"tell {programs[draw.Next(programs.Length)]} {texts[draw.Next(texts.Length)]} {draw.Next(9)} "
                        + N(draw.NextDouble()),
                }
            );
        }
        lines.Add("r 99999999 Nobody's sensor 4");
        lines.Add("done Nobody");
        lines.Add("tell Nobody nothing that anybody knows 3");
        return lines;
    }

    [Theory]
    [MemberData(nameof(Rigs))]
    public void Whatever_happens_is_the_same_in_every_language(string id)
    {
        using var folder = new BoardFolder(BoardFolder.Demo(Rig(id)));
        folder.Build("trace_main.cpp", "trace");
        var lines = 0;
        Parallel.For(1, 13, AllCores, seed => Interlocked.Add(ref lines, folder.Same(Made(folder, seed), $"{id}, made {seed}").Count));
        Assert.True(lines > 60, $"{lines} lines only");
    }

    [Fact]
    public void A_program_at_its_end_does_not_wait_for_the_rest_of_its_trace()
    {
        var rig = Rig("seed-trolley");
        const string Script = """
            program Short

            region Main
              state Only, initial
                after 1 s: go Over
              state Over, final
            """;
        var design = rig.Design.WithProgram(0, rig.Design.Programs[0] with { Script = Script });
        using var folder = new BoardFolder(BoardFolder.Demo(rig, design));
        folder.Build("trace_main.cpp", "trace");
        // Longer than any pipe holds: whoever gives it finds that nobody reads it any more.
        var said = folder.Same([.. Enumerable.Range(1, 100_000).Select(i => $"pass {i}00000")], "a long trace");
        Assert.Equal("ended", said[^1]);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    public void One_of_several_programs_goes_on_a_board_alone(int program)
    {
        var rig = Rig("lock-keeper");
        using var folder = new BoardFolder(BoardFolder.Demo(rig), program);
        folder.Build("trace_main.cpp", "trace");
        var plan = DemoBench.Plan("lock-keeper");
        var (sent, moved) = (0, 0);
        for (var seed = 1; seed <= 5; seed++)
        {
            var trace = BenchTrace.Of(plan, seed, folder.Taken[BoardLanguage.Cpp].Names[0].Name);
            var said = folder.Same(trace, $"program {program}, run {seed}");
            sent += said.Count(l => l.StartsWith("tell ", StringComparison.Ordinal));
            moved += said.Count(l => l.StartsWith("state ", StringComparison.Ordinal));
        }
        // It is told what the others would tell it, tells them, and gets about its states.
        Assert.True(sent > 5 && moved > 10, $"{sent} sent, {moved} states");
        for (var seed = 1; seed <= 6; seed++)
            folder.Same(Made(folder, seed), $"program {program}, made {seed}");
    }

    private const string Polled = """
        #include "seed_trolley.hpp"
        #include <cinttypes>
        #include <cstdio>

        // A strip of light and dark that goes by, a clock that begins just before it runs over, and a loop that is never in step.
        struct Hands {
          uint64_t since = 0;
          int read(int, double *value) {
            *value = (since / 700000) % 3 == 1 ? 22.0 : 55.5;
            std::printf("r %" PRIu64 " Tag eye %.9g\n", since, *value);
            return 1;
          }
          void act(const chiton::Order &o) {
            const char *name = o.device < 0 ? "display" : chiton::Seed_trolley::device(o.device);
            std::printf("# %s %d %.6g\n", name, int(o.verb), o.value != o.value ? -1 : o.value);
          }
          uint32_t micros() { return uint32_t(0xFFFFF000u + since); }
          void send(const chiton::Message &) {}
          bool receive(chiton::Message &) { return false; }
        };

        int main() {
          static Hands hands;
          static chiton::Rig<chiton::Seed_trolley, Hands> rig(hands);
          rig.begin();
          for (int i = 0; i < 6000 && rig.step(); i++) hands.since += 1700 + 613 * (i % 5);
          std::printf("# now %" PRId64 "\n", rig.now);
        }
        """;

    private const string PolledToo = """
        from seed_trolley import Seed_trolley, Rig


        class Hands:
            since = 0

            def read(self, sensor):
                value = 22.0 if (self.since // 700000) % 3 == 1 else 55.5
                print("r %d Tag eye %.9g" % (self.since, value))
                return value

            def act(self, o):
                verbs = "run drive turn steer follow go home set step stop brake coast hold on off blink tone beep play show zero".split()
                name = "display" if o.device < 0 else Seed_trolley.devices[o.device]
                print("# %s %d %.6g" % (name, verbs.index(o.verb), -1 if o.value != o.value else o.value))

            def micros(self):
                return (0xFFFFF000 + self.since) & 0xFFFFFFFF

            def send(self, message):
                pass

            def receive(self):
                return None


        hands = Hands()
        rig = Rig(Seed_trolley, hands)
        rig.begin()
        i = 0
        while i < 6000 and rig.step():
            hands.since += 1700 + 613 * (i % 5)
            i += 1
        print("# now %d" % rig.now)
        """;

    [Fact]
    public void Asked_as_often_as_its_owner_likes_it_reads_in_time_and_a_clock_may_run_over()
    {
        using var folder = new BoardFolder(BoardFolder.Demo(Rig("seed-trolley")));
        folder.Put("polled.cpp", Polled);
        folder.Put("polled.py", PolledToo);
        folder.Build("polled.cpp", "polled");
        var said = folder.RunBuilt("polled").TrimEnd('\n').Split('\n');
        Assert.Equal(said, folder.Run("python3", null, "-B", "polled.py").TrimEnd('\n').Split('\n'));
        var reads = said.Where(l => l[0] == 'r').Select(l => long.Parse(l.Split(' ')[1], CultureInfo.InvariantCulture)).ToArray();
        // Every 10 ms, as the sensor is calibrated, up to one round of the loop late, and never twice for one moment.
        Assert.Equal(0, reads[0]);
        Assert.All(reads.Zip(reads.Skip(1)), r => Assert.InRange(r.Second - r.First, 5_000, 15_000));
        Assert.InRange(reads.Length, reads[^1] / 10_000 - 2, reads[^1] / 10_000 + 2);
        // The engine, given the same readings, says the same, though nobody asks it in between.
        var engine = BoardTrace
            .Run(folder.Copy, null, [.. said.Where(l => l[0] == 'r'), $"pass {said[^1].Split(' ')[^1]}"])
            .Where(l => l.StartsWith("do ", StringComparison.Ordinal))
            .ToArray();
        var orders = said.Where(l => l[0] == '#' && !l.StartsWith("# now", StringComparison.Ordinal)).ToArray();
        Assert.True(orders.Length > 10, $"{orders.Length} orders");
        Assert.Equal(orders.Select(o => o.Split(' ')[1]), engine.Select(e => e.Split(' ')[1]));
    }

    [Fact]
    public void Anything_may_stand_in_texts_and_comments()
    {
        var rig = Rig("seed-trolley");
        const string Script = """
            # A backslash at the end of a comment \
            # what looks like one ??/ and */ and "quotes" and ''' too
            program Odd

            region Main
              state A, initial
                on entry: show "100 % \ ??/ { } é ’ %d"
                after 1 s: show "\"; go B
              # ends with \
              state B
                after 1 s: go A
            """;
        var design = rig.Design.WithProgram(0, rig.Design.Programs[0] with { Script = Script });
        using var folder = new BoardFolder(BoardFolder.Demo(rig, design));
        folder.Build("trace_main.cpp", "trace");
        var said = folder.Same(["pass 5500000"], "odd texts");
        Assert.Contains("do display show 100 % \\ ??/ { } é ’ %d", said);
        Assert.Equal(6, said.Count(l => l.StartsWith("state ", StringComparison.Ordinal)));
    }

    [Fact]
    public void A_change_in_what_stands_between_programs_and_board_is_noticed()
    {
        using var folder = new BoardFolder(BoardFolder.Demo(Rig("lock-keeper")));
        var header = folder.Taken[BoardLanguage.Cpp].Files[0].Text;
        var was = "f.due = now + R::message_micros";
        Assert.Contains(was, header);
        folder.Put($"{folder.Code}.hpp", header.Replace(was, "f.due = now", StringComparison.Ordinal));
        folder.Build("trace_main.cpp", "trace");
        Assert.ThrowsAny<Exception>(() => folder.Same(BenchTrace.Of(DemoBench.Plan("lock-keeper"), 3), "too fast"));
    }
}
