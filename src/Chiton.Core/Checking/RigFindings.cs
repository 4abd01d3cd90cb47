using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>What the rig itself does to a program: leads that go wrong, a supply that is too weak, a sensor that cannot tell.</summary>
public static class RigFindings
{
    /// <summary>Finds, for every device that the program names, what is wrong with its lead, its supply or its zones.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="judged">Its sensors, judged on the copy.</param>
    public static IReadOnlyList<Finding> Find(RigDesign rig, RigJudgement judged)
    {
        var lines = rig.Program.Script.Split('\n');
        var found = new List<Finding>();
        // The first line that names a device is where its fault will show.
        int Line(string device)
        {
            // A longer name that holds this one is another device's.
            var longer = rig.Devices.Select(d => d.Name).Where(n => n.Length > device.Length && n.Contains(device, StringComparison.Ordinal)).ToArray();
            for (var i = 0; i < lines.Length; i++)
                if (!lines[i].TrimStart().StartsWith('#') && Names(longer.Aggregate(lines[i], (l, n) => l.Replace(n, "…", StringComparison.Ordinal)), device)) return i + 1;
            return 0;
        }
        void Add(string code, Severity severity, string device, string headline, string say)
        {
            if (Line(device) is > 0 and var line) found.Add(new(code, severity, Owner(lines, line), line, LineOfOwner(lines, line), headline, say, null));
        }
        foreach (var fault in rig.WiringFaults().DistinctBy(f => (f.Device, f.Code)))
            Add(fault.Code, Severity.Stops, fault.Device, $"{fault.Device} is not wired right", fault.Say);
        try
        {
            foreach (var issue in rig.Power?.Budget().Result.Issues ?? [])
                if (issue.Device is { } device) Add("power-" + issue.Kind, issue.Kind == "over-voltage" ? Severity.Stops : Severity.Risky, device, $"{device} is not fed right", issue.Say);
        }
        catch (InputProblem)
        {
            // Power that is only half described says nothing yet; Rig names what is missing.
        }
        foreach (var sensor in judged.Sensors.Where(s => s.Grade == Grade.Unusable))
            Add("sensor-unusable", Severity.Stops, sensor.Sensor, $"{sensor.Sensor} cannot tell its zones apart", sensor.Cures.Count > 0 ? $"{sensor.Say} {sensor.Cures[^1].Say}" : sensor.Say);
        foreach (var sensor in judged.Sensors.Where(s => s.Stale is not null && s.Grade is not (null or Grade.Unusable)))
            Add("calibration-stale", Severity.Risky, sensor.Sensor, $"The readings of {sensor.Sensor} may no longer hold", sensor.Stale!);
        foreach (var actuator in rig.Actuators.Where(a => a.Kind == ActuatorKind.PlainMotor))
            if (lines.Any(l => Names(l, actuator.Name) && l.Contains(" deg at ", StringComparison.Ordinal)))
                Add("plain-degrees", Severity.Stops, actuator.Name, $"{actuator.Name} cannot count degrees", "A plain motor takes power only and does not know its angle: it would run on, in a way that is easily missed. Give it a time or a sensor that ends the move.");
        return found;
    }

    private static bool Names(string line, string device)
    {
        var at = line.IndexOf(device, StringComparison.Ordinal);
        return at >= 0 && (at == 0 || !char.IsLetterOrDigit(line[at - 1])) && (at + device.Length == line.Length || !char.IsLetterOrDigit(line[at + device.Length]));
    }

    private static int Head(string[] lines, int line)
    {
        var depth = lines[line - 1].Length - lines[line - 1].TrimStart().Length;
        for (var i = line - 1; i >= 0; i--)
            if (lines[i].TrimStart().StartsWith("state ", StringComparison.Ordinal) && lines[i].Length - lines[i].TrimStart().Length < depth) return i;
        return -1;
    }

    private static string Owner(string[] lines, int line) => Head(lines, line) is >= 0 and var head ? lines[head].Trim()["state ".Length..].Split(',')[0].Trim() : "";

    private static int LineOfOwner(string[] lines, int line) => Head(lines, line) is >= 0 and var head ? lines[(head + 1)..line].Count(l => l.Trim() is { Length: > 0 } t && !t.StartsWith('#')) : 0;
}
