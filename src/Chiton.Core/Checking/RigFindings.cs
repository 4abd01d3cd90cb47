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
    /// <param name="program">Its program.</param>
    public static IReadOnlyList<Finding> Find(RigDesign rig, RigJudgement judged, ProgramNode program)
    {
        var walk = new ProgramWalk(program, rig);
        var found = new List<Finding>();
        // The first line that speaks of a device is where its fault will show.
        void Add(string code, Severity severity, string device, string headline, string say)
        {
            if (walk.FirstLineOf(device) is { } at)
                found.Add(new(code, severity, at.Owner, at.Line, at.OfOwner, headline, say, null));
        }
        foreach (var fault in rig.WiringFaults().DistinctBy(f => (f.Device, f.Code)))
            Add(fault.Code, Severity.Stops, fault.Device, $"{fault.Device} is not wired right", fault.Say);
        try
        {
            foreach (var issue in rig.Power?.Budget().Result.Issues ?? [])
                if (issue.Device is { } device)
                    Add(
                        "power-" + issue.Kind,
                        issue.Kind == "over-voltage" ? Severity.Stops : Severity.Risky,
                        device,
                        $"{device} is not fed right",
                        issue.Say
                    );
        }
        catch (InputProblem)
        {
            // Power that is only half described says nothing yet; Rig names what is missing.
        }
        foreach (var sensor in judged.Sensors.Where(s => s.Grade == Grade.Unusable))
            Add(
                "sensor-unusable",
                Severity.Stops,
                sensor.Sensor,
                $"{sensor.Sensor} cannot tell its zones apart",
                sensor.Cures.Count > 0 ? $"{sensor.Say} {sensor.Cures[^1].Say}" : sensor.Say
            );
        foreach (var sensor in judged.Sensors.Where(s => s.Stale is not null && s.Grade is not (null or Grade.Unusable)))
            Add("calibration-stale", Severity.Risky, sensor.Sensor, $"The readings of {sensor.Sensor} may no longer hold", sensor.Stale!);
        foreach (var command in walk.Commands)
        {
            var plain = walk.Moved(command.Action)
                .FirstOrDefault(m => rig.Actuators.Any(a => a.Name == m && a.Kind == ActuatorKind.PlainMotor));
            if (
                plain is null
                || !CountsDegrees(walk, command.Action)
                || found.Any(f => f.Code == "plain-degrees" && f.Line == command.At.Number)
            )
                continue;
            found.Add(
                new(
                    "plain-degrees",
                    Severity.Stops,
                    command.At.State.Name,
                    command.At.Number,
                    command.At.OfOwner,
                    $"{plain} cannot count degrees",
                    "A plain motor takes power only and does not know its angle: it would run on, in a way that is easily missed. "
                        + "Give it a time or a sensor that ends the move.",
                    null
                )
            );
        }
        return found;
    }

    // A move that ends after an angle or a way asks the motor to count.
    private static bool CountsDegrees(ProgramWalk walk, ActionNode action) =>
        action switch
        {
            RunNode { Amount: { } amount } => walk.Values(amount).Any(v => v.Unit.Contains("deg", StringComparison.Ordinal)),
            TurnRobotNode => true,
            DriveNode { Distance: not null } => true,
            SendNode => true,
            _ => false,
        };
}
