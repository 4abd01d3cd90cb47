using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Chiton.Core.Quantities;
using Chiton.Data;

namespace Chiton.Server.App;

/// <summary>JSON as it comes in: no field that a call does not know, no number that is none, no text that cannot be shown.</summary>
public sealed class JsonInput(RequestDelegate next)
{
    /// <summary>Sets the options of requests and answers up.</summary>
    public static void Configure(JsonSerializerOptions options)
    {
        Documents.Configure(options);
        options.UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow;
    }

    /// <summary>Looks through a body before it is read as what it is to be.</summary>
    public async Task Invoke(HttpContext context)
    {
        var request = context.Request;
        if (request.HasJsonContentType() && request.Path.StartsWithSegments("/api"))
        {
            using var whole = new MemoryStream();
            await request.Body.CopyToAsync(whole, context.RequestAborted);
            var clean = Clean(whole.GetBuffer().AsSpan(0, (int)whole.Length));
            request.Body = new MemoryStream(clean);
            request.ContentLength = clean.Length;
        }
        await next(context);
    }

    /// <summary>A JSON text without what nobody sees: marks of direction and of no width are taken out of its texts.</summary>
    /// <param name="json">The text in UTF-8. What is no JSON at all is given back as it is: whoever reads it says so.</param>
    /// <exception cref="InputProblem">Names the field that holds a control character, half of a character, or a number too large to be
    /// one.</exception>
    public static byte[] Clean(ReadOnlySpan<byte> json)
    {
        var dirty = false;
        var path = new Stack<(string? Name, int Index, bool List)>();
        var reader = new Utf8JsonReader(json, new() { MaxDepth = 64 });
        string Field(string? last)
        {
            var made = new StringBuilder();
            foreach (var (name, index, list) in path.Reverse())
                made.Append(
                    list ? $"[{index}]"
                    : name is null ? ""
                    : made.Length > 0 ? "." + name
                    : name
                );
            return made.Length > 0 ? made.ToString() : last ?? "body";
        }
        try
        {
            while (reader.Read())
            {
                if (path.TryPeek(out var top) && top.List && reader.TokenType is not (JsonTokenType.EndArray or JsonTokenType.EndObject))
                {
                    path.Pop();
                    path.Push((null, top.Index + 1, true));
                }
                switch (reader.TokenType)
                {
                    case JsonTokenType.StartArray:
                        path.Push((null, -1, true));
                        break;
                    case JsonTokenType.StartObject:
                        path.Push((null, 0, false));
                        break;
                    case JsonTokenType.EndArray or JsonTokenType.EndObject:
                        path.Pop();
                        break;
                    case JsonTokenType.PropertyName or JsonTokenType.String:
                        string? text;
                        try
                        {
                            text = reader.GetString();
                        }
                        catch (InvalidOperationException)
                        {
                            text = null;
                        }
                        var name = reader.TokenType == JsonTokenType.PropertyName;
                        var shown = text is null ? null : Shown(text);
                        if (shown is null)
                            throw new InputProblem(
                                name ? "body" : Field(null),
                                name
                                    ? "The name of a field holds a character that cannot be shown."
                                    : "This text holds a character that cannot be shown. Take it out."
                            );
                        dirty |= !ReferenceEquals(shown, text);
                        if (!name)
                            break;
                        path.Pop();
                        path.Push((shown, 0, false));
                        break;
                    // A number of so few characters is always finite.
                    case JsonTokenType.Number when reader.ValueSpan.IndexOfAny((byte)'e', (byte)'E') >= 0 || reader.ValueSpan.Length > 300:
                        if (!reader.TryGetDouble(out var value) || !double.IsFinite(value))
                            throw new InputProblem(Field(null), "Must be a number; this one is too large to be one.");
                        break;
                }
            }
        }
        catch (JsonException)
        {
            return json.ToArray();
        }
        return dirty ? Written(json) : json.ToArray();
    }

    // The same once more, with the texts as they are shown.
    private static byte[] Written(ReadOnlySpan<byte> json)
    {
        using var made = new MemoryStream(json.Length);
        using (
            var writer = new Utf8JsonWriter(made, new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping })
        )
        {
            var reader = new Utf8JsonReader(json, new() { MaxDepth = 64 });
            while (reader.Read())
                switch (reader.TokenType)
                {
                    case JsonTokenType.StartArray:
                        writer.WriteStartArray();
                        break;
                    case JsonTokenType.EndArray:
                        writer.WriteEndArray();
                        break;
                    case JsonTokenType.StartObject:
                        writer.WriteStartObject();
                        break;
                    case JsonTokenType.EndObject:
                        writer.WriteEndObject();
                        break;
                    case JsonTokenType.PropertyName:
                        writer.WritePropertyName(Shown(reader.GetString()!)!);
                        break;
                    case JsonTokenType.String:
                        writer.WriteStringValue(Shown(reader.GetString()!)!);
                        break;
                    case JsonTokenType.Number:
                        writer.WriteRawValue(reader.ValueSpan);
                        break;
                    case JsonTokenType.True:
                        writer.WriteBooleanValue(true);
                        break;
                    case JsonTokenType.False:
                        writer.WriteBooleanValue(false);
                        break;
                    case JsonTokenType.Null:
                        writer.WriteNullValue();
                        break;
                }
        }
        return made.ToArray();
    }

    /// <summary>A text without what nobody sees.</summary>
    /// <returns>The text, the very same where nothing had to go; null when it holds a control character or half of a character.</returns>
    public static string? Shown(string text)
    {
        StringBuilder? kept = null;
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (char.IsControl(c) && c is not ('\n' or '\r' or '\t') || c is '\uFFFE' or '\uFFFF')
                return null;
            if (char.IsSurrogate(c))
            {
                if (!char.IsHighSurrogate(c) || i + 1 >= text.Length || !char.IsLowSurrogate(text[i + 1]))
                    return null;
                kept?.Append(c).Append(text[i + 1]);
                i++;
                continue;
            }
            if (
                c
                is >= '\u200B'
                    and <= '\u200F'
                    or >= '\u202A'
                    and <= '\u202E'
                    or >= '\u2060'
                    and <= '\u2064'
                    or >= '\u2066'
                    and <= '\u2069'
                    or '\uFEFF'
                    or '\u061C'
            )
                kept ??= new(text[..i]);
            else
                kept?.Append(c);
        }
        return kept?.ToString() ?? text;
    }
}
