using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Scxml;

/// <summary>An event of a document that names what happens to a device of the rig.</summary>
/// <param name="Event">The event as the document has it.</param>
/// <param name="Trigger">The sentence that it would become.</param>
public sealed record ScxmlLink(string Event, string Trigger);

/// <summary>
/// Events of foreign documents are texts that somebody tells. Those whose name says a device and what it does, such as
/// <c>order_knob.tapped</c>, can be linked to that device: only a person knows whether they mean it.
/// </summary>
public static class ScxmlLinks
{
    /// <summary>Events of a program that could be linked, each once, in the order of the document.</summary>
    public static IReadOnlyList<ScxmlLink> Find(ProgramNode program, Vocabulary rig) =>
        [
            .. program
                .AllStates.SelectMany(s => s.Lines)
                .OfType<TransitionNode>()
                .Select(t => t.Trigger)
                .OfType<ToldTriggerNode>()
                .Where(t => t is { From: null, Into.Count: 0 })
                .Select(t => t.Text)
                .Distinct()
                .Select(e => (Event: e, Trigger: Of(e, rig)))
                .Where(e => e.Trigger is not null)
                .Select(e => new ScxmlLink(e.Event, Printer.Trigger(new TransitionNode([], e.Trigger!, null, [], null)))),
        ];

    /// <summary>The program with those events heard from the devices themselves.</summary>
    public static ProgramNode Link(ProgramNode program, Vocabulary rig) => new Linked(rig).Map(program);

    private sealed class Linked(Vocabulary rig) : NameMap
    {
        protected override LineNode Line(LineNode line) =>
            line is TransitionNode { Trigger: ToldTriggerNode { From: null, Into.Count: 0 } told } t && Of(told.Text, rig) is { } trigger
                ? t with
                {
                    Trigger = trigger,
                }
                : line;
    }

    // “orderKnob.tapped”, “ORDER_KNOB_TAPPED” and “order knob/tapped” are the same words.
    private static string Words(string name)
    {
        var said = new System.Text.StringBuilder();
        for (var i = 0; i < name.Length; i++)
        {
            var c = name[i];
            var begins = i > 0 && (char.IsUpper(c) && char.IsLower(name[i - 1]) || char.IsDigit(c) != char.IsDigit(name[i - 1]));
            if (!char.IsLetterOrDigit(c) || begins)
                said.Append(' ');
            if (char.IsLetterOrDigit(c))
                said.Append(char.ToLowerInvariant(c));
        }
        return string.Join(' ', said.ToString().Split(' ', StringSplitOptions.RemoveEmptyEntries));
    }

    private static TriggerNode? Of(string name, Vocabulary rig)
    {
        var said = Words(name);
        // The longest device name that it begins with: what follows is what happens.
        foreach (var sensor in rig.Sensors.OrderByDescending(s => s.Name.Length))
            if (Rest(said, sensor.Name) is { } does && Happens(sensor, does) is { } trigger)
                return trigger;
        foreach (var device in rig.Commanded.OrderByDescending(d => d.Length))
        {
            TriggerNode? trigger = Rest(said, device) switch
            {
                "done" or "is done" or "finished" or "arrived" => new ConditionTriggerNode(new DoneNode(device)),
                "stalls" or "stalled" or "stall" => new StallTriggerNode(device),
                "gives up" or "gave up" or "give up" or "timeout" => new GiveUpTriggerNode(device),
                _ => null,
            };
            if (trigger is not null)
                return trigger;
        }
        return null;
    }

    private static string? Rest(string said, string device) =>
        Words(device) is var name && said.StartsWith(name + " ", StringComparison.Ordinal) ? said[(name.Length + 1)..] : null;

    private static TriggerNode? Happens(SensorWord sensor, string does)
    {
        if (sensor.Switch)
        {
            PressKind? press = does switch
            {
                "pressed" or "press" or "is pressed" or "down" => PressKind.Pressed,
                "released" or "release" or "is released" or "up" => PressKind.Released,
                "tapped" or "tap" or "is tapped" or "clicked" or "click" => PressKind.Tapped,
                "tapped twice" or "double tapped" or "double click" or "double clicked" => PressKind.TappedTwice,
                _ => null,
            };
            return press is { } kind ? new PressTriggerNode(sensor.Name, kind, null) : null;
        }
        foreach (var zone in sensor.Zones)
        {
            var words = Words(zone);
            if (does == words || does == "is " + words || does == "becomes " + words || does == "enters " + words)
                return new ZoneTriggerNode(sensor.Name, ZoneRelation.Becomes, zone, null);
            if (does == "leaves " + words || does == "left " + words)
                return new ZoneTriggerNode(sensor.Name, ZoneRelation.Leaves, zone, null);
        }
        return null;
    }
}
