using System.Globalization;
using System.Text;

namespace Chiton.Core.Simulation;

/// <summary>What of a watched run is written to a file.</summary>
/// <param name="TimeS">Times of the samples, s.</param>
/// <param name="Bodies">What moves; what came later has samples from then on.</param>
/// <param name="BatteryV">Battery under load, V, sample by sample.</param>
/// <param name="Events">Every transition.</param>
/// <param name="States">States of each region over time.</param>
/// <param name="Sensors">What the sensors read.</param>
/// <param name="Outputs">What was commanded, shown and sounded.</param>
/// <param name="Messages">What programs told each other.</param>
/// <param name="Happenings">Lines of the scene at work.</param>
/// <param name="Notes">What happened to bodies.</param>
public sealed record RunRecord(
    IReadOnlyList<double> TimeS,
    IReadOnlyList<BenchBody> Bodies,
    IReadOnlyList<double> BatteryV,
    IReadOnlyList<BenchEvent> Events,
    IReadOnlyList<BenchStates> States,
    IReadOnlyList<SensorTrace> Sensors,
    IReadOnlyList<RunOutput> Outputs,
    IReadOnlyList<BenchMessage> Messages,
    IReadOnlyList<BenchHappening> Happenings,
    IReadOnlyList<BenchNote> Notes
);

/// <summary>A watched run as open formats: tables of comma-separated values, and value changes for a general waveform viewer.</summary>
public static class RunExport
{
    /// <summary>
    /// What moves, what was read and the states, one row a sample; a reading is the latest by then, and empty while there is none.
    /// Lines end with a line feed; text that a spreadsheet would take for a formula has an apostrophe before it.
    /// </summary>
    public static string Samples(RunRecord run)
    {
        var columns = new List<(string Head, Func<int, string> Cell)> { ("time in s", i => Number(run.TimeS[i])) };
        foreach (var body in run.Bodies)
        {
            Column(body.Name + Ways(body.Kind).X, body.X);
            Column(body.Name + " y in mm", body.Y);
            Column(body.Name + (body.Kind == "drive" ? " heading in deg" : " line"), body.Heading);
            Column(body.Name + Ways(body.Kind).Speed, [.. body.Speed.Select(double? (v) => v)]);
        }
        Column("battery in V", [.. run.BatteryV.Select(double? (v) => v)]);
        foreach (var sensor in run.Sensors)
        {
            var at = -1;
            columns.Add(
                (
                    sensor.Sensor,
                    i =>
                    {
                        // Rows come in order, so that each reading is passed once.
                        while (at + 1 < sensor.TimeS.Count && sensor.TimeS[at + 1] <= run.TimeS[i] + 1e-9)
                            at++;
                        return at < 0 || sensor.Readings[at] is not { } r ? "" : Number(r);
                    }
                )
            );
        }
        foreach (var region in run.States)
            columns.Add((Region(region), i => Text(region.Stretches.LastOrDefault(s => s.FromS <= run.TimeS[i] + 1e-9)?.State ?? "")));
        var text = new StringBuilder();
        text.AppendJoin(',', columns.Select(c => Text(c.Head))).Append('\n');
        for (var i = 0; i < run.TimeS.Count; i++)
            text.AppendJoin(',', columns.Select(c => c.Cell(i))).Append('\n');
        return text.ToString();

        void Column(string head, IReadOnlyList<double?> values)
        {
            if (values.Count == 0)
                return;
            var first = run.TimeS.Count - values.Count;
            columns.Add((head, i => i < first || values[i - first] is not { } v ? "" : Number(v)));
        }
    }

    /// <summary>What happened, one row each, in the order of time: transitions, commands, messages, the scene, bodies.</summary>
    public static string Happened(RunRecord run)
    {
        var rows = run
            .Events.Select(e => (e.TimeS, Kind: "transition", Who: e.Program, What: $"{e.From ?? "start"} to {e.To}", e.Say))
            .Concat(run.Outputs.Select(o => (o.TimeS, "command", o.Device, o.Say, "")))
            .Concat(run.Messages.Select(m => (m.TimeS, "message", m.From, m.Text, $"to {m.To}")))
            .Concat(run.Happenings.Select(h => (h.FromS, "scene", $"line {h.Line}", h.Say, h.ToS is { } to ? $"to {Number(to)} s" : "")))
            .Concat(run.Notes.Select(n => (n.TimeS, "body", "", n.Say, "")))
            .OrderBy(r => r.Item1);
        var text = new StringBuilder("time in s,kind,who,what,more\n");
        foreach (var (time, kind, who, what, more) in rows)
            text.AppendJoin(',', Number(time), kind, Text(who), Text(what), Text(more)).Append('\n');
        return text.ToString();
    }

    /// <summary>
    /// Value changes as IEEE 1364 has them, in microseconds: numbers are real, a state and whether a sensor gave a reading are wires of
    /// one bit, a command is an event. Names keep letters, digits and underscores.
    /// </summary>
    public static string Changes(RunRecord run)
    {
        var head = new StringBuilder("$version Chiton $end\n$timescale 1 us $end\n");
        var changes = new List<(long Micros, int Order, string Line)>();
        var starts = new List<string>();
        var made = 0;
        Scope("bodies");
        var names = new HashSet<string>();
        foreach (var body in run.Bodies)
        {
            Reals(body.Name + "_x", run.TimeS, body.X);
            Reals(body.Name + "_y", run.TimeS, body.Y);
            Reals(body.Name + "_heading", run.TimeS, body.Heading);
            Reals(body.Name + "_speed", run.TimeS, [.. body.Speed.Select(double? (v) => v)]);
        }
        Reals("battery", run.TimeS, [.. run.BatteryV.Select(double? (v) => v)]);
        head.Append("$upscope $end\n");
        Scope("sensors");
        foreach (var sensor in run.Sensors)
        {
            Reals(sensor.Sensor, sensor.TimeS, sensor.Readings);
            if (sensor.Readings.Any(r => r is null))
                Bits(sensor.Sensor + "_heard", sensor.TimeS.Zip(sensor.Readings, (t, r) => (t, r is not null)));
        }
        head.Append("$upscope $end\n");
        Scope("commands");
        foreach (var device in run.Outputs.GroupBy(o => o.Device))
        {
            var id = Var("event", 1, device.Key);
            foreach (var o in device)
                changes.Add((Micros(o.TimeS), changes.Count, "1" + id));
        }
        head.Append("$upscope $end\n");
        foreach (var region in run.States)
        {
            Scope(Region(region));
            foreach (var state in region.Stretches.Select(s => s.State).Distinct())
                Bits(
                    state,
                    region
                        .Stretches.Where(s => s.State == state)
                        // The last one is not left: the run ends in it.
                        .SelectMany(s =>
                            ReferenceEquals(s, region.Stretches[^1]) ? new[] { (s.FromS, true) } : [(s.FromS, true), (s.ToS, false)]
                        )
                        .GroupBy(c => c.Item1)
                        // Left and entered at one moment: it is in it.
                        .Select(g => (g.Key, g.Any(c => c.Item2)))
                );
            head.Append("$upscope $end\n");
        }
        head.Append("$enddefinitions $end\n#0\n$dumpvars\n");
        foreach (var start in starts)
            head.Append(start).Append('\n');
        head.Append("$end\n");
        var last = 0L;
        foreach (var (micros, _, line) in changes.OrderBy(c => c.Micros).ThenBy(c => c.Order))
        {
            if (micros > last)
                head.Append('#').Append(micros.ToString(CultureInfo.InvariantCulture)).Append('\n');
            last = Math.Max(last, micros);
            head.Append(line).Append('\n');
        }
        var end = run.TimeS.Count > 0 ? Micros(run.TimeS[^1]) : 0;
        if (end > last)
            head.Append('#').Append(end.ToString(CultureInfo.InvariantCulture)).Append('\n');
        return head.ToString();

        void Scope(string name)
        {
            head.Append("$scope module ").Append(Word(name)).Append(" $end\n");
            names = [];
        }

        string Var(string kind, int width, string name)
        {
            var word = Word(name);
            for (var n = 2; !names.Add(word); n++)
                word = $"{Word(name)}_{n}";
            // An identifier of printable signs, as short as can be.
            var id = "";
            for (var n = made++; n >= 0; n = n / 94 - 1)
                id += (char)('!' + n % 94);
            head.Append(CultureInfo.InvariantCulture, $"$var {kind} {width} {id} {word} $end\n");
            return id;
        }

        void Reals(string name, IReadOnlyList<double> times, IReadOnlyList<double?> values)
        {
            if (!values.Any(v => v is not null))
                return;
            var id = Var("real", 64, name);
            var offset = times.Count - values.Count;
            double? before = null;
            for (var i = 0; i < values.Count; i++)
            {
                // What gives no reading has no number for it: the value stays, and a wire beside it says so.
                if (values[i] is not { } v || v == before)
                    continue;
                var line = $"r{v.ToString("R", CultureInfo.InvariantCulture)} {id}";
                if (before is null)
                    starts.Add(line);
                if (before is not null || Micros(times[i + offset]) > 0)
                    changes.Add((Micros(times[i + offset]), changes.Count, line));
                before = v;
            }
        }

        void Bits(string name, IEnumerable<(double TimeS, bool On)> values)
        {
            var id = Var("wire", 1, name);
            var on = false;
            var begun = false;
            foreach (var (t, v) in values.OrderBy(v => v.TimeS))
            {
                if (!begun)
                    starts.Add((v && Micros(t) == 0 ? "1" : "0") + id);
                if (begun ? v != on : v && Micros(t) > 0)
                    changes.Add((Micros(t), changes.Count, (v ? "1" : "0") + id));
                (on, begun) = (v, true);
            }
        }
    }

    private static (string X, string Speed) Ways(string kind) =>
        kind switch
        {
            "axis" => (" in deg", " in deg/s"),
            "drive" or "thing" => (" x in mm", " in mm/s"),
            _ => (" in mm", " in mm/s"),
        };

    private static string Region(BenchStates region) => region.Region == "" ? region.Program : $"{region.Program} {region.Region}";

    private static long Micros(double s) => (long)Math.Round(s * 1e6);

    internal static string Number(double value) => value.ToString("0.######", CultureInfo.InvariantCulture);

    internal static string Text(string text)
    {
        var safe = text.Length > 0 && text[0] is '=' or '+' or '-' or '@' or '\t' or '\r' ? "'" + text : text;
        return safe.AsSpan().IndexOfAny(",\"\n\r") < 0 ? safe : $"\"{safe.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
    }

    private static string Word(string name)
    {
        var word = new StringBuilder();
        foreach (var c in name)
            word.Append(char.IsAsciiLetterOrDigit(c) ? c : '_');
        return word.Length == 0 || char.IsAsciiDigit(word[0]) ? "_" + word : word.ToString();
    }
}
