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
    public override PortUse Read(ref System.Text.Json.Utf8JsonReader reader, Type typeToConvert, System.Text.Json.JsonSerializerOptions options)
    {
        var use = PortUse.None;
        foreach (var word in System.Text.Json.JsonSerializer.Deserialize<string[]>(ref reader, options) ?? [])
            use |= Enum.TryParse<PortUse>(word, true, out var one) && char.IsLetter(word[0]) ? one : throw new System.Text.Json.JsonException($"No port use “{word}”.");
        return use;
    }

    /// <inheritdoc/>
    public override void Write(System.Text.Json.Utf8JsonWriter writer, PortUse value, System.Text.Json.JsonSerializerOptions options)
    {
        writer.WriteStartArray();
        foreach (var one in PortUses.Each(value)) writer.WriteStringValue(System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(one.ToString()));
        writer.WriteEndArray();
    }
}

/// <summary>Port uses in words.</summary>
public static class PortUses
{
    /// <summary>The single uses in a set.</summary>
    public static IEnumerable<PortUse> Each(PortUse set) => Enum.GetValues<PortUse>().Where(u => u != PortUse.None && set.HasFlag(u));

    /// <summary>What a port with one of these uses does: "drive a motor".</summary>
    public static string Say(PortUse set) => string.Join(" or ", Each(set).Select(u => u switch
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
    }));
}

/// <summary>A socket or pin of a controller.</summary>
/// <param name="Name">Named by place unless renamed; unique on its controller.</param>
/// <param name="Can">What it can do.</param>
/// <param name="MaxInputV">Highest voltage it stands as an input, V; null where it is no input.</param>
/// <param name="InputHighMinV">Least voltage it takes for high, V; null where that does not matter.</param>
/// <param name="OutputHighV">Voltage it gives when high, V; null where it is no output.</param>
public sealed record Port(string Name, PortUse Can, double? MaxInputV = null, double? InputHighMinV = null, double? OutputHighV = null);

/// <summary>A controller by capability, not by maker.</summary>
/// <param name="Name">Unique within the rig.</param>
/// <param name="Ports">Its sockets and pins.</param>
public sealed record Controller(string Name, Sequence<Port> Ports);

/// <summary>A lead of a device that needs a port of its own.</summary>
/// <param name="Name">Name of the lead, such as "signal"; unique on its device.</param>
/// <param name="AnyOf">Uses of which the port must have at least one.</param>
/// <param name="GivesV">Voltage the device puts on the lead, V; null when it puts none.</param>
/// <param name="NeedsHighV">Least voltage the device takes for high on it, V; null when that does not matter.</param>
public sealed record Lead(string Name, PortUse AnyOf, double? GivesV = null, double? NeedsHighV = null);

/// <summary>A lead run to a port.</summary>
/// <param name="Device">Device name.</param>
/// <param name="Lead">Lead name.</param>
/// <param name="Controller">Controller name.</param>
/// <param name="Port">Port name.</param>
public sealed record Wire(string Device, string Lead, string Controller, string Port);

/// <summary>Generic controllers to start from, by capability.</summary>
public static class ControllerTemplates
{
    private const PortUse Any = PortUse.MotorOut | PortUse.SmartIn | PortUse.SmartOut | PortUse.DigitalIn | PortUse.DigitalOut | PortUse.AnalogueIn;

    /// <summary>All templates by name.</summary>
    public static IReadOnlyList<(string Template, Func<string, Controller> Make)> All =>
    [
        ("six sockets", n => new(n, [.. new[] { "front 1", "front 2", "back 1", "back 2", "side 1", "side 2" }.Select(p => new Port(p, Any, 5, 2, 5))])),
        ("rail vehicle", n => new(n, [new("nose", Any, 5, 2, 5), new("tail", Any, 5, 2, 5)])),
        ("four and four", n => new(n,
        [
            .. Enumerable.Range(1, 4).Select(i => new Port($"sensor {i}", PortUse.SmartIn | PortUse.DigitalIn | PortUse.AnalogueIn, 5, 2)),
            .. Enumerable.Range(1, 4).Select(i => new Port($"motor {i}", PortUse.MotorOut | PortUse.SmartOut, null, null, 9)),
        ])),
        ("pin board", n => new(n,
        [
            .. Enumerable.Range(0, 14).Select(i => new Port($"pin {i}", PortUse.DigitalIn | PortUse.DigitalOut | (i is 3 or 5 or 6 or 9 or 10 or 11 ? PortUse.PwmOut : 0), 5.5, 3, 5)),
            .. Enumerable.Range(0, 6).Select(i => new Port($"level {i}", PortUse.AnalogueIn | PortUse.DigitalIn | PortUse.DigitalOut, 5.5, 3, 5)),
            new("5 V", PortUse.Supply), new("ground", PortUse.Ground),
        ])),
        ("small board", n => new(n,
        [
            .. Enumerable.Range(0, 3).Select(i => new Port($"edge {i}", PortUse.DigitalIn | PortUse.DigitalOut | PortUse.AnalogueIn | PortUse.PwmOut, 3.6, 2, 3.3)),
            new("3 V", PortUse.Supply), new("ground", PortUse.Ground),
        ])),
    ];
}
