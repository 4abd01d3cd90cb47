using System.Text.Json.Serialization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>What a socket or pin can do.</summary>
[Flags]
[JsonConverter(typeof(PortUseConverter))]
public enum PortUse
{
    /// <summary>Nothing.</summary>
    None = 0,

    /// <summary>Drives a motor.</summary>
    MotorOut = 1,

    /// <summary>Speaks with a sensor that answers in numbers.</summary>
    SmartIn = 2,

    /// <summary>Commands a device that understands numbers.</summary>
    SmartOut = 4,

    /// <summary>Reads high or low.</summary>
    DigitalIn = 8,

    /// <summary>Gives high or low.</summary>
    DigitalOut = 16,

    /// <summary>Reads a voltage.</summary>
    AnalogueIn = 32,

    /// <summary>Gives pulses of a width.</summary>
    PwmOut = 64,

    /// <summary>Gives supply.</summary>
    Supply = 128,

    /// <summary>Ground.</summary>
    Ground = 256,
}

/// <summary>Writes port uses as a list of words, so that a rig's JSON can be read by people.</summary>
public sealed class PortUseConverter : JsonConverter<PortUse>
{
    /// <inheritdoc/>
    public override PortUse Read(
        ref System.Text.Json.Utf8JsonReader reader,
        Type typeToConvert,
        System.Text.Json.JsonSerializerOptions options
    )
    {
        var use = PortUse.None;
        // Documents of version 1 hold them as one string with commas.
        var words =
            reader.TokenType == System.Text.Json.JsonTokenType.String
                ? reader.GetString()!.Split(',', StringSplitOptions.TrimEntries)
                : System.Text.Json.JsonSerializer.Deserialize<string[]>(ref reader, options) ?? [];
        foreach (var word in words)
            use |=
                word is { Length: > 0 } && char.IsLetter(word[0]) && Enum.TryParse<PortUse>(word, true, out var one)
                    ? one
                    : throw new System.Text.Json.JsonException($"No port use “{word}”.");
        return use;
    }

    /// <inheritdoc/>
    public override void Write(System.Text.Json.Utf8JsonWriter writer, PortUse value, System.Text.Json.JsonSerializerOptions options)
    {
        writer.WriteStartArray();
        foreach (var one in PortUses.Each(value))
            writer.WriteStringValue(System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(one.ToString()));
        writer.WriteEndArray();
    }
}

/// <summary>Port uses in words.</summary>
public static class PortUses
{
    /// <summary>The single uses in a set.</summary>
    public static IEnumerable<PortUse> Each(PortUse set) => Enum.GetValues<PortUse>().Where(u => u != PortUse.None && set.HasFlag(u));

    /// <summary>What a port with one of these uses does: "drive a motor".</summary>
    public static string Say(PortUse set) =>
        string.Join(
            " or ",
            Each(set)
                .Select(u =>
                    u switch
                    {
                        PortUse.MotorOut => "drive a motor",
                        PortUse.SmartIn => "speak with a smart sensor",
                        PortUse.SmartOut => "command a smart device",
                        PortUse.DigitalIn => "read high or low",
                        PortUse.DigitalOut => "give high or low",
                        PortUse.AnalogueIn => "read a voltage",
                        PortUse.PwmOut => "give pulses",
                        PortUse.Supply => "give supply",
                        _ => "be ground",
                    }
                )
        );
}

/// <summary>What a node of the port map is.</summary>
public enum NodeRole
{
    /// <summary>Runs programs.</summary>
    Controller,

    /// <summary>A strip that only joins leads: a supply rail and a ground rail.</summary>
    Strip,

    /// <summary>A pack of cells.</summary>
    Pack,
}

/// <summary>A socket, pin or hole.</summary>
/// <param name="Name">Named by place unless renamed; unique on its controller.</param>
/// <param name="Can">What it can do.</param>
/// <param name="MaxInputV">Highest voltage it stands as an input, V; null where it is no input.</param>
/// <param name="InputHighMinV">Least voltage it takes for high, V; null where that does not matter.</param>
/// <param name="OutputHighV">Voltage it gives when high, or as a supply, V; null where it gives none of its own.</param>
public sealed record Port(string Name, PortUse Can, double? MaxInputV = null, double? InputHighMinV = null, double? OutputHighV = null)
{
    /// <summary>How many leads it holds: 1 for a socket or pin, more for a strip.</summary>
    public int Holds { get; init; } = 1;

    /// <summary>What it takes as the end of a lead.</summary>
    public LeadEnd Takes { get; init; }

    /// <summary>Why nothing is to be wired here, such as a link that shares it; null where anything may.</summary>
    public string? KeptFree { get; init; }

    /// <summary>True for supply and ground, which any controller's device may use.</summary>
    [JsonIgnore]
    public bool Feeds => (Can & (PortUse.Supply | PortUse.Ground)) != 0;

    // Filled in while wiring is judged: which ports are joined, and what feeds them.
    [JsonIgnore]
    internal int Net { get; init; } = -1;

    [JsonIgnore]
    internal NodeRole? FedBy { get; init; }
}

/// <summary>A controller by capability, not by maker; or a strip or pack that leads run to.</summary>
/// <param name="Name">Unique within the rig.</param>
/// <param name="Ports">Its sockets and pins.</param>
public sealed record Controller(string Name, Sequence<Port> Ports)
{
    /// <summary>What it is.</summary>
    public NodeRole Role { get; init; }
}

/// <summary>A lead of a device that needs a port of its own.</summary>
/// <param name="Name">Name of the lead, such as "signal"; unique on its device.</param>
/// <param name="AnyOf">Uses of which the port must have at least one.</param>
/// <param name="GivesV">Voltage the device puts on the lead, V; null when it puts none.</param>
/// <param name="NeedsHighV">Least voltage the device takes for high on it, V; null when that does not matter.</param>
/// <param name="FedMinV">Of a supply lead: least voltage the device works at, V.</param>
/// <param name="FedMaxV">Of a supply lead: highest voltage the device stands, V.</param>
/// <param name="FromPack">Of a supply lead: true when it must come from a pack, false when from a controller, null for either.</param>
public sealed record Lead(
    string Name,
    PortUse AnyOf,
    double? GivesV = null,
    double? NeedsHighV = null,
    double? FedMinV = null,
    double? FedMaxV = null,
    bool? FromPack = null
)
{
    /// <summary>True for supply and ground.</summary>
    public bool Feeds => (AnyOf & (PortUse.Supply | PortUse.Ground)) != 0;
}

/// <summary>What stands between a lead and its port.</summary>
public enum Between
{
    /// <summary>Nothing.</summary>
    Nothing,

    /// <summary>Two resistors that let only a share of the voltage through.</summary>
    Divider,

    /// <summary>A level shifter.</summary>
    LevelShifter,
}

/// <summary>A lead run to a port.</summary>
/// <param name="Device">Device name.</param>
/// <param name="Lead">Lead name.</param>
/// <param name="Controller">Controller name.</param>
/// <param name="Port">Port name.</param>
public sealed record Wire(string Device, string Lead, string Controller, string Port)
{
    /// <summary>Colour of the wire; null for the usual one.</summary>
    public string? Colour { get; init; }

    /// <summary>What stands between.</summary>
    public Between Via { get; init; }
}

/// <summary>A lead between two ports.</summary>
/// <param name="FromController">Controller, strip or pack at one end.</param>
/// <param name="FromPort">Port there.</param>
/// <param name="ToController">Controller, strip or pack at the other end.</param>
/// <param name="ToPort">Port there.</param>
/// <param name="Colour">Colour of the wire; null for the usual one.</param>
public sealed record Link(string FromController, string FromPort, string ToController, string ToPort, string? Colour = null);

/// <summary>Leads at hand of one type.</summary>
/// <param name="One">One end.</param>
/// <param name="Other">The other end.</param>
/// <param name="Count">How many.</param>
public sealed record LeadStock(LeadEnd One, LeadEnd Other, int Count);

/// <summary>Generic controllers to start from, by capability.</summary>
public static class ControllerTemplates
{
    private const PortUse Any =
        PortUse.MotorOut | PortUse.SmartIn | PortUse.SmartOut | PortUse.DigitalIn | PortUse.DigitalOut | PortUse.AnalogueIn;

    /// <summary>All templates by name.</summary>
    public static IReadOnlyList<(string Template, string About, Func<string, Controller> Make)> All =>
        [
            (
                "six sockets",
                "six sockets that serve any device",
                n =>
                    new(
                        n,
                        [.. new[] { "front 1", "front 2", "back 1", "back 2", "side 1", "side 2" }.Select(p => new Port(p, Any, 5, 2, 5))]
                    )
            ),
            ("rail vehicle", "two sockets, for a rail vehicle", n => new(n, [new("nose", Any, 5, 2, 5), new("tail", Any, 5, 2, 5)])),
            (
                "four and four",
                "four sockets for sensors, four for motors",
                n =>
                    new(
                        n,
                        [
                            .. Enumerable
                                .Range(1, 4)
                                .Select(i => new Port($"sensor {i}", PortUse.SmartIn | PortUse.DigitalIn | PortUse.AnalogueIn, 5, 2)),
                            .. Enumerable
                                .Range(1, 4)
                                .Select(i => new Port($"motor {i}", PortUse.MotorOut | PortUse.SmartOut, null, null, 9)),
                        ]
                    )
            ),
            (
                "pin board",
                "14 digital pins of which 6 give pulses, 6 analogue, 5 V logic",
                n =>
                    new(
                        n,
                        [
                            .. Enumerable
                                .Range(0, 14)
                                .Select(i => new Port(
                                    $"pin {i}",
                                    PortUse.DigitalIn | PortUse.DigitalOut | (i is 3 or 5 or 6 or 9 or 10 or 11 ? PortUse.PwmOut : 0),
                                    5.5,
                                    3,
                                    5
                                )
                                {
                                    Takes = LeadEnd.Plug,
                                    KeptFree = i < 2 ? "the programming link shares it" : null,
                                }),
                            .. Enumerable
                                .Range(0, 6)
                                .Select(i => new Port($"level {i}", PortUse.AnalogueIn | PortUse.DigitalIn | PortUse.DigitalOut, 5.5, 3, 5)
                                {
                                    Takes = LeadEnd.Plug,
                                }),
                            new("5 V", PortUse.Supply, null, null, 5) { Takes = LeadEnd.Plug, Holds = 2 },
                            new("ground", PortUse.Ground) { Takes = LeadEnd.Plug, Holds = 3 },
                        ]
                    )
            ),
            (
                "small board",
                "three pins that read voltages too, 3.3 V logic",
                n =>
                    new(
                        n,
                        [
                            .. Enumerable
                                .Range(0, 3)
                                .Select(i => new Port(
                                    $"edge {i}",
                                    PortUse.DigitalIn | PortUse.DigitalOut | PortUse.AnalogueIn | PortUse.PwmOut,
                                    3.6,
                                    2,
                                    3.3
                                )
                                {
                                    Takes = LeadEnd.Clip,
                                }),
                            new("3 V", PortUse.Supply, null, null, 3.3) { Takes = LeadEnd.Clip, Holds = 2 },
                            new("ground", PortUse.Ground) { Takes = LeadEnd.Clip, Holds = 4 },
                        ]
                    )
            ),
            (
                "strip",
                "a supply rail and a ground rail that only join leads",
                n =>
                    new(
                        n,
                        [
                            new("plus rail", PortUse.Supply) { Takes = LeadEnd.Plug, Holds = 24 },
                            new("minus rail", PortUse.Ground) { Takes = LeadEnd.Plug, Holds = 24 },
                        ]
                    )
                    {
                        Role = NodeRole.Strip,
                    }
            ),
            (
                "pack",
                "a pack of cells, 6 V",
                n =>
                    new(
                        n,
                        [
                            new("plus", PortUse.Supply, null, null, 6) { Takes = LeadEnd.Bare, Holds = 2 },
                            new("minus", PortUse.Ground) { Takes = LeadEnd.Bare, Holds = 2 },
                        ]
                    )
                    {
                        Role = NodeRole.Pack,
                    }
            ),
        ];

    /// <summary>A controller from a template.</summary>
    /// <param name="template">Name of the template.</param>
    /// <param name="name">What the controller is called.</param>
    /// <exception cref="InputProblem">When there is no such template.</exception>
    public static Controller Make(string template, string name) =>
        All.FirstOrDefault(t => t.Template == template).Make?.Invoke(name)
        ?? throw new InputProblem(
            "template",
            $"There is no template “{template}”. The templates are {string.Join(", ", All.Select(t => t.Template))}."
        );
}
