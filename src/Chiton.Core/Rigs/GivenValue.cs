using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>A value that the place of a program gives to its text.</summary>
/// <param name="Name">What the text calls it.</param>
/// <param name="Value">A number as in <c>3</c> or <c>65 mm</c>, <c>yes</c>, <c>no</c>, or a text.</param>
/// <param name="IsText">True for a text; false for an amount, yes or no.</param>
public sealed record GivenValue(string Name, string Value, bool IsText)
{
    /// <summary>Longest value in characters.</summary>
    public const int MostCharacters = 200;

    /// <summary>What was typed as a value: an amount where it is a number with or without a known unit, yes or no, else a text.</summary>
    public static GivenValue Of(string name, string typed)
    {
        var text = typed.Trim();
        if (text is "yes" or "no" || Amount(text) is not null)
            return new(name, text, false);
        // Quotes say that it is a text whatever stands between them.
        return new(name, text.Length > 1 && text[0] == '"' && text[^1] == '"' ? text[1..^1] : text, true);
    }

    /// <summary>The number and the unit of an amount; null when the text is none.</summary>
    public static (string Number, string Unit)? Amount(string text)
    {
        var space = text.IndexOf(' ');
        var number = space < 0 ? text : text[..space];
        if (number.EndsWith('%'))
            (number, space) = (number[..^1], number.Length - 1);
        var unit = space < 0 ? "" : text[space..].Trim();
        var plain = number.StartsWith('-') ? number[1..] : number;
        return
            plain.Length is > 0 and <= 15
            && plain.All(c => char.IsAsciiDigit(c) || c == '.')
            && char.IsAsciiDigit(plain[0])
            && char.IsAsciiDigit(plain[^1])
            && double.TryParse(plain, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out _)
            && (unit == "" || Unit.Find(unit) is not null)
            ? (number, unit)
            : null;
    }
}

/// <summary>Values of a place as the JSON object <c>{"number": 3}</c>.</summary>
public sealed class GivenValuesJson : JsonConverter<Sequence<GivenValue>>
{
    /// <inheritdoc/>
    public override Sequence<GivenValue> Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
    {
        if (reader.TokenType == JsonTokenType.Null)
            return [];
        using var read = JsonDocument.ParseValue(ref reader);
        if (read.RootElement.ValueKind != JsonValueKind.Object)
            throw new JsonException("The values of a program are an object of names and values, such as {\"number\": 3}.");
        return read
            .RootElement.EnumerateObject()
            .Select(p =>
                p.Value.ValueKind switch
                {
                    JsonValueKind.Number => new GivenValue(p.Name, p.Value.GetRawText(), false),
                    JsonValueKind.True => new(p.Name, "yes", false),
                    JsonValueKind.False => new(p.Name, "no", false),
                    JsonValueKind.String => GivenValue.Of(p.Name, p.Value.GetString()!),
                    _ => throw new JsonException($"The value “{p.Name}” is a number, true, false or a text."),
                }
            )
            .ToSequence();
    }

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, Sequence<GivenValue> value, JsonSerializerOptions options)
    {
        writer.WriteStartObject();
        foreach (var v in value)
            if (v.IsText)
                writer.WriteString(v.Name, GivenValue.Of(v.Name, v.Value).IsText ? v.Value : $"\"{v.Value}\"");
            else if (v.Value is "yes" or "no")
                writer.WriteBoolean(v.Name, v.Value == "yes");
            else if (GivenValue.Amount(v.Value) is { Unit: "" })
                writer.WriteNumber(v.Name, decimal.Parse(v.Value, CultureInfo.InvariantCulture));
            else
                writer.WriteString(v.Name, v.Value);
        writer.WriteEndObject();
    }
}
