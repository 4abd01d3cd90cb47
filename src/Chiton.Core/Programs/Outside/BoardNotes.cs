using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Programs.Outside;

/// <summary>What is said beside the code: its numbers with where they come from, its names, and what a board cannot know.</summary>
internal sealed class BoardNotes
{
    private readonly BoardRig rig;
    private readonly List<BoardNumber> numbers = [];
    private readonly List<string> cannot = [];

    /// <summary>Of programs that are taken out.</summary>
    public BoardNotes(BoardRig rig)
    {
        this.rig = rig;
        Names =
        [
            .. rig.Programs.Select(p => new BoardName(p.Code, null, p.Name, "program")),
            .. rig.Sensors.Select((s, i) => new BoardName(s.Code, i, s.Name, Reads(s))),
            .. rig.Devices.Select((d, i) => new BoardName(d.Code, i, d.Name, d.Moves ? "moves" : "shines, sounds or shows")),
        ];
        foreach (var sensor in rig.Sensors)
            Zones(sensor);
        foreach (var p in rig.Programs)
            Sentences(p);
        Motion();
        if (rig.IsNetwork && rig.Copy.Rig.MessageDelay is { } delay)
            numbers.Add(
                new("Messages between the programs", $"{Show(delay.Value, 6)} {delay.Unit} on their way", delay.Kind, delay.Source)
            );
        foreach (var p in rig.Programs)
            Missing(p);
    }

    /// <summary>Names in the code.</summary>
    public IReadOnlyList<BoardName> Names { get; }

    /// <summary>Numbers that are baked in.</summary>
    public IReadOnlyList<BoardNumber> Numbers => [.. numbers.Distinct()];

    /// <summary>What a board cannot know or do by itself.</summary>
    public IReadOnlyList<string> Cannot => [.. cannot.Distinct()];

    private static string Reads(BoardSensor s) =>
        $"{s.Design.Facts.Words}"
        + (
            s.Design.Facts.View == "switch" ? ", 1 while down and 0 while up"
            : s.Design.Facts.Unit == "" ? ""
            : $", {s.Design.Facts.Unit}"
        )
        + $", every {Show(s.PeriodMicros / 1000.0)} ms";

    private void Zones(BoardSensor s)
    {
        var calibration = rig.Copy.Calibrations.GetValueOrDefault(s.Name);
        var unit = s.Design.Facts.Unit;
        string Taken(string zone) =>
            calibration is null ? $"no readings of {zone}" : $"{Count(calibration.Kept(zone).Count, "reading")} of {zone}";
        if (s.Design.Facts.View == "bands" && s.Design.Bands.Count > 0)
        {
            var bands = SenseJudge.Judged(s.Design, calibration ?? SenseWords.Unread(s.Design));
            foreach (var band in bands.Bands)
                numbers.Add(
                    new(
                        $"{s.Name}, {band.Zone}",
                        $"{Show(band.FromMm)} to {Show(band.ToMm)} {unit}",
                        Provenance.Chosen,
                        "the band of the zone in Sense"
                    )
                );
            if (bands.BlindMm > 0)
                numbers.Add(
                    new($"{s.Name}, blind zone", $"nearer than {Show(bands.BlindMm)} {unit}", Provenance.Chosen, "the design of the rig")
                );
            return;
        }
        if (calibration?.Scale() is { } scale && s.Design.Facts.View == "scalar")
        {
            for (var i = 0; i + 1 < scale.Names.Count; i++)
            {
                var (low, high) = (scale.Names[i], scale.Names[i + 1]);
                var from = $"from {Taken(low)} and {Taken(high)} {calibration.Where}";
                numbers.Add(
                    new(
                        $"{s.Name}, threshold between {low} and {high}",
                        $"{Show(scale.Boundaries[i].Threshold, 6)} {unit}".Trim(),
                        Provenance.Calculated,
                        from
                    )
                );
                numbers.Add(
                    new(
                        $"{s.Name}, hysteresis either side of it",
                        $"{Show(scale.Boundaries[i].Hysteresis, 6)} {unit}".Trim(),
                        Provenance.Calculated,
                        from
                    )
                );
            }
            return;
        }
        if (s.Design.Facts.View is "colours" or "names" && calibration is not null)
            foreach (var zone in calibration.Zones.Where(z => z.Readings.Count > 0))
                numbers.Add(
                    new(
                        $"{s.Name}, {zone.Zone}",
                        s.Design.Facts.View == "colours"
                            ? string.Join(" ", Means(zone).Select(m => Show(m, 3))) + " red, green, blue"
                            : "the words that were read there most",
                        Provenance.Measured,
                        $"{Count(zone.Readings.Count / s.Design.Facts.Width, "reading")} {calibration.Where}"
                    )
                );
    }

    private static IEnumerable<double> Means(ZoneReadings zone) =>
        Enumerable.Range(0, 3).Select(c => zone.Readings.Where((_, i) => i % 3 == c).DefaultIfEmpty(double.NaN).Average());

    // Numbers that stand in the sentences themselves.
    private void Sentences(BoardProgram p)
    {
        foreach (var head in p.Node.Head)
            if (head is ConstNode or VarNode)
            {
                var (name, value) = head is ConstNode c ? (c.Name, c.Value) : (((VarNode)head).Name, ((VarNode)head).Value);
                numbers.Add(
                    new(
                        $"{p.Name}, {name}",
                        Printer.Print(value),
                        Provenance.Chosen,
                        head is ConstNode ? "in the head of the program" : "its first value, in the head of the program"
                    )
                );
            }
        foreach (var m in p.Script.Marks)
        {
            var sensor = p.Script.Sensors[m.Sensor];
            var unit = rig.Sensors.FirstOrDefault(s => s.Name == sensor)?.Design.Facts.Unit ?? "";
            var band = p.Script.BandOf(m.Sensor, m.Value, p.Script.ScaleOf(m.Sensor));
            if (band > 0)
                numbers.Add(
                    new(
                        $"{sensor}, band about {Show(m.Value, 6)} {unit}".Trim(),
                        $"{Show(band, 6)} {unit} either side".Trim(),
                        Provenance.Calculated,
                        p.Script.ScaleOf(m.Sensor) is null ? "from how much its readings tremble" : "as its nearest threshold"
                    )
                );
        }
        foreach (var t in p.Script.Units.SelectMany(u => u.Transitions).Where(t => t.Needed > 1 && t.Node is not null))
            numbers.Add(
                new(
                    $"{p.Script.Sensors[t.Sensor]}, readings in a row",
                    Count(t.Needed, "reading"),
                    Provenance.Chosen,
                    $"“{Printer.Trigger(t.Node!)}”"
                )
            );
    }

    // What is known of how devices move on this copy.
    private void Motion()
    {
        var names = rig.Devices.Select(d => d.Name).ToHashSet();
        var mechanisms = rig.Copy.Rig.Mechanisms.Where(m => names.Contains(m.Name) || m.Motors.Any(names.Contains)).Select(m => m.Name);
        foreach (var plan in rig.Copy.Moves.Plans.Where(p => mechanisms.Contains(p.Mechanism) || names.Contains(p.Mechanism)))
            if (rig.Copy.Moves.InUse(plan) is { } q)
                numbers.Add(new($"{plan.Mechanism}, {plan.Number}", $"{Show(q.Value, 6)} {q.Unit}".Trim(), q.Kind, q.Source));
        foreach (var p in rig.Programs)
        foreach (var a in p.Script.Units.SelectMany(u => u.Activities))
        {
            var (device, position) = a.Node switch
            {
                SendNode { Position: { } to } s => (s.Device, to),
                SetServoNode { Position: { } to } s => (s.Device, to),
                _ => ("", ""),
            };
            if (position == "")
                continue;
            if (p.Orders.Angle(device, position) is { } angle)
                numbers.Add(new($"{device}, {position}", $"{Show(angle, 6)} deg", Provenance.Measured, "recorded by hand on this copy"));
            else
                cannot.Add(
                    $"Where {device} is {position} was never recorded on this copy: the order comes with its name and no angle. Move it "
                        + "there by hand in Sense and record its angle, or say it on the board."
                );
        }
    }

    private const string PlainMotor = " A plain motor has nothing that knows: a switch or a time must tell.";

    private void Missing(BoardProgram p)
    {
        var script = p.Script;
        ActuatorKind? Motor(int device)
        {
            var name = script.Devices[device];
            return script.Rig.Actuators.FirstOrDefault(a => a.Name == name)?.Kind
                ?? script.Rig.Mechanisms.FirstOrDefault(m => m.Name == name)?.Motor;
        }
        foreach (var m in script.AllCodes.OfType<Measured>())
            cannot.Add(
                $"{p.Name} asks for {(m.IsTravel ? "the travel" : "the angle")} of {script.Devices[m.Device]}: tell it by moved() as often "
                    + $"as it changes.{(Motor(m.Device) == ActuatorKind.PlainMotor ? " A plain motor has nothing that knows." : "")}"
            );
        foreach (var a in script.Units.SelectMany(u => u.Activities))
        {
            if (a.Kind == DoKind.Move && a.Device >= 0 && a.Finite && (a.Lasts is null || a.Limited))
                cannot.Add(
                    $"“{BoardTables.Sentence(a)}” is over when the board says so: call done() for {script.Devices[a.Device]} once it "
                        + $"has come to its end.{(Motor(a.Device) == ActuatorKind.PlainMotor ? PlainMotor : "")}"
                );
            switch (a.Node)
            {
                case FollowNode f:
                    cannot.Add(
                        $"“{BoardTables.Sentence(a)}”: between two steps the board itself steers by {f.Eye}, faster than any "
                            + "sentence is looked at."
                    );
                    break;
                case TellNode t when p.ProgramOut[a.Slot] >= rig.Programs.Count:
                    cannot.Add($"{p.Name} tells {t.Program}, which is not on this board: send() must bring it there.");
                    break;
            }
        }
        foreach (var t in script.Units.SelectMany(u => u.Transitions))
            switch (t.Node?.Trigger)
            {
                case StallTriggerNode s:
                    cannot.Add($"{p.Name} waits for {s.Device} to stall: call stalls() when the board notices it.");
                    break;
                case ToldTriggerNode m when rig.Hears:
                    cannot.Add($"{p.Name} waits to be told “{m.Text}”: receive() must bring it where it comes from elsewhere.");
                    break;
            }
        if (script.AllCodes.OfType<Chance>().Any())
            cannot.Add("What is random follows from the seed of begin(): with the same seed each run is the same.");
        if (p.Node.Head.OfType<RuleNode>().Any())
            cannot.Add($"Goals and nevers of {p.Name} are for Check and the bench: a board does not judge them.");
        foreach (var s in script.Sensors.Index().Where(s => p.Readers[s.Index] is null && p.SensorOut[s.Index] >= 0))
            if (rig.Sensors[p.SensorOut[s.Index]].Design.Facts.View is "colours" or "names")
                cannot.Add($"{s.Item} has no readings on this copy: it sees none of its colours until they are recorded in Sense.");
    }
}
