using System.Globalization;
using Chiton.Core.Programs.Engine;

namespace Chiton.Core.Simulation;

/// <summary>
/// A run of the bench as what its programs were given, line by line: readings, moves that came to their end, and the time. Fed to code
/// that was taken out, it makes that do what the programs did here.
/// </summary>
public static class BenchTrace
{
    /// <summary>Runs once and keeps what the programs of the scene's own rig were given. Messages between them all arrive.</summary>
    /// <param name="plan">The bound scene.</param>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="program">Name of the one program that the trace is for, so that messages of the others are kept too; null where all
    /// run together.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="copySeed">Seed of the numbers that the copy has of its own; null for those of the run.</param>
    /// <returns>Lines of words; see <see cref="Programs.Outside.BoardTrace"/>.</returns>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static IReadOnlyList<string> Of(
        BenchPlan plan,
        long seed,
        string? program = null,
        CancellationToken cancel = default,
        long? copySeed = null
    )
    {
        var recorder = new Recorder(plan, program);
        recorder.Say($"seed {seed.ToString(CultureInfo.InvariantCulture)}");
        new Bench(plan).Go(seed, true, recorder, cancel, copySeed);
        recorder.End();
        return recorder.Lines;
    }

    private sealed class Recorder(BenchPlan plan, string? alone) : IBenchWatcher
    {
        private Bench? bench;
        private long last;

        public List<string> Lines { get; } = [];

        public void Say(string line) => Lines.Add(line);

        private static string N(double v) => v.ToString("R", CultureInfo.InvariantCulture);

        private static string N(long v) => v.ToString(CultureInfo.InvariantCulture);

        private bool Own(int program) => plan.RigOf[program] == 0;

        // Which message is lost is no part of what a program is given: in a trace all arrive.
        public void Starting(Bench of)
        {
            bench = of;
            of.LoseNoMessages();
            of.TellArriving(Arrived);
        }

        public void Read(long micros, int sense, double reading, int zone)
        {
            last = micros;
            var spec = plan.Senses[sense];
            if (spec.Rig != 0)
                return;
            var said =
                double.IsNaN(reading) ? "lost"
                : !spec.IsColour ? N(reading)
                : zone >= 0 ? spec.Zones[zone]
                : "-";
            Say($"r {N(micros)} {spec.Name} {said}");
        }

        // Only where something may be due: the time alone changes nothing.
        public void Passing(long micros)
        {
            last = micros;
            if (bench!.Due <= micros)
                Say($"pass {N(micros)}");
        }

        private string Outside(int program, int device)
        {
            var script = plan.Programs[program].Script;
            var name = script.DeviceNames[device];
            return script.OwnNames.FirstOrDefault(o => o.Name == name)?.Outside ?? name;
        }

        private void Device(long micros, int program, string what, int device, string rest = "")
        {
            last = micros;
            if (Own(program))
                Say($"at {N(micros)}\n{what} {Outside(program, device)}{rest}");
        }

        private void Arrived(int from, int to, int text, double[] values)
        {
            if (alone is null || plan.Programs[to].Name != alone || !Own(to))
                return;
            var with = string.Concat(values.Select(v => " " + N(v)));
            Say($"at {N(bench!.NowMicros)}\ntell {plan.Programs[from].Name} {plan.Programs[from].Script.Texts[text]}{with}");
        }

        public void Ended(long micros, int program, int device) => Device(micros, program, "done", device);

        public void Stalled(long micros, int program, int device) => Device(micros, program, "stalls", device);

        public void Moved(long micros, int program, int device, double travel, double angle) =>
            Device(micros, program, "moved", device, $" {N(travel)} {N(angle)}");

        public void Taken(long micros, int program, int step) { }

        public void Commanded(long micros, int program, ScriptCommand command) { }

        public void Happened(long micros, int happening, bool began) { }

        public void Noted(long micros, string say, double x, double y) { }

        public void Stepped(long micros) { }

        public void End() => Say($"pass {N(last)}");
    }
}
