using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>What the rig itself does to a program: leads that go wrong, a supply that is too weak, a sensor that cannot tell.</summary>
public static class RigFindings
{
    /// <summary>Finds, for every device that the program names, what is wrong with its lead, its supply or its zones; and what is wrong
    /// with links and supplies as a whole, which stands over the program (line 0).</summary>
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
                found.Add(new(code, severity, at.Owner, at.Line, at.OfOwner, headline, say, null) { Device = device });
        }
        // What is wrong with the rig itself stands over the whole: no sentence names a pack or a rail.
        void Whole(string code, Severity severity, string headline, string say) =>
            found.Add(new(code, severity, "", 0, 0, headline, say, null));
        foreach (var fault in rig.WiringFaults().DistinctBy(f => (f.Device, f.Code)))
        {
            var severity = fault.Code == "wiring-kept" ? Severity.Risky : Severity.Stops;
            var headline = $"{fault.Device} is not wired right";
            if (rig.Controllers.Any(c => c.Name == fault.Device))
                Whole(fault.Code, severity, headline, fault.Say);
            else
                Add(fault.Code, severity, fault.Device, headline, fault.Say);
        }
        try
        {
            foreach (var issue in rig.Power?.Budget().Result.Issues ?? [])
                if (issue.Device is { } device)
                    Add(
                        "power-short",
                        issue.Kind == "over-voltage" ? Severity.Stops : Severity.Risky,
                        device,
                        $"{device} is not fed right",
                        issue.Say
                    );
                else
                    // All at once, and the strongest stalled: a machine that never does both runs on it.
                    Whole("power-short", Severity.Advice, "The supply is too weak for all at once", issue.Say);
        }
        catch (InputProblem)
        {
            // Power that is only half described says nothing yet; Rig names what is missing.
        }
        foreach (var sensor in judged.Sensors.Where(s => s.Grade == Grade.Unusable))
            Add(
                "zone-weak",
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
                || found.Any(f => f.Code == "plain-motor" && f.Line == command.At.Number)
            )
                continue;
            found.Add(
                new(
                    "plain-motor",
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
        foreach (var command in walk.Commands)
            if (PastStop(rig, walk, command) is { } past)
                found.Add(past);
        return found;
    }

    // A way longer than the whole travel, or an angle beyond an end, drives something against its stop wherever it began.
    private static Finding? PastStop(RigDesign rig, ProgramWalk walk, WalkedCommand command)
    {
        var (name, value) = command.Action switch
        {
            RunNode { Amount: { } amount } r => (r.Motor, amount),
            SetServoNode { Angle: { } angle } s => (s.Device, angle),
            _ => (null, (ExprNode?)null),
        };
        if (
            name is null
            || rig.Mechanisms.FirstOrDefault(m => ProgramWalk.Means(m, name)) is not { Travel: { PastEnd: not PastEnd.GoesOn } travel } m
        )
            return null;
        var servo = command.Action is SetServoNode;
        double from = Math.Min(travel.From.Value, travel.To.Value),
            to = Math.Max(travel.From.Value, travel.To.Value);
        // Ends are known within their spread: what may still lie inside is not called past.
        double Room(Quantity end) => 2 * Math.Sqrt(end.BetweenRunsSd * end.BetweenRunsSd + end.MoveSd * end.MoveSd);
        var room = Room(travel.From) + Room(travel.To);
        foreach (var one in walk.Values(value!))
        {
            double? degrees = one.Unit switch
            {
                "motor deg" => one.Value,
                "deg" when servo => one.Value,
                _ => null,
            };
            var past =
                degrees is { } d
                && (servo ? d < from - Room(travel.From) - 0.5 || d > to + Room(travel.To) + 0.5 : Math.Abs(d) > to - from + room + 0.5);
            if (!past)
                continue;
            var ends = travel.PastEnd == PastEnd.ComesApart;
            return new(
                "past-stop",
                ends ? Severity.Stops : Severity.Risky,
                command.At.State.Name,
                command.At.Number,
                command.At.OfOwner,
                $"{m.Name} is driven past its stop",
                $"{Show(one.Value)} {one.Unit} is more than its travel, {Show(from)} to {Show(to)} {travel.From.Unit}: it "
                    + (
                        ends ? "comes apart or jams there."
                        : travel.PastEnd == PastEnd.OverCentre ? "goes over centre and comes back."
                        : "stalls there, and whatever waits for its end waits for ever."
                    )
                    + " Say a position, or less.",
                null
            );
        }
        return null;
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
