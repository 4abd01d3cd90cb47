using System.Security.Cryptography;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Chiton.Data;

/// <summary>JSON as it is stored and sent: camelCase names, enumerations as words.</summary>
public static class Documents
{
    /// <summary>The options for stored documents and for the API.</summary>
    public static JsonSerializerOptions Options { get; } = Configure(new JsonSerializerOptions());

    /// <summary>Sets options up the same way everywhere.</summary>
    public static JsonSerializerOptions Configure(JsonSerializerOptions options)
    {
        options.PropertyNamingPolicy = JsonNamingPolicy.CamelCase;
        options.PropertyNameCaseInsensitive = false;
        options.Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping;
        options.NumberHandling = JsonNumberHandling.Strict;
        // Before the converter of plain enumerations, which would write a set as one string.
        options.Converters.Add(new Core.Rigs.PortUseConverter());
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase));
        return options;
    }

    /// <summary>Writes a document.</summary>
    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Options);

    /// <summary>Reads a document that this program wrote.</summary>
    /// <exception cref="JsonException">When it is damaged.</exception>
    public static T Read<T>(string json) =>
        JsonSerializer.Deserialize<T>(json, Options) ?? throw new JsonException("The document is empty.");

    /// <summary>Writes a document, packed.</summary>
    public static byte[] PackJson<T>(T value)
    {
        using var packed = new MemoryStream();
        using (var gzip = new System.IO.Compression.GZipStream(packed, System.IO.Compression.CompressionLevel.Fastest))
            JsonSerializer.Serialize(gzip, value, Options);
        return packed.ToArray();
    }

    /// <summary>Reads a packed document that this program wrote.</summary>
    /// <exception cref="JsonException">When it is damaged.</exception>
    public static T UnpackJson<T>(byte[] packed)
    {
        using var gzip = new System.IO.Compression.GZipStream(new MemoryStream(packed), System.IO.Compression.CompressionMode.Decompress);
        return JsonSerializer.Deserialize<T>(gzip, Options) ?? throw new JsonException("The document is empty.");
    }

    /// <summary>SHA-256 of a text, hexadecimal.</summary>
    public static string Hash(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    /// <summary>Readings as one block of bytes.</summary>
    public static byte[] Pack(IReadOnlyList<double> values)
    {
        var bytes = new byte[values.Count * sizeof(double)];
        for (var i = 0; i < values.Count; i++)
            BitConverter.TryWriteBytes(bytes.AsSpan(i * sizeof(double)), values[i]);
        return bytes;
    }

    /// <summary>The readings of such a block.</summary>
    public static double[] Unpack(byte[] bytes)
    {
        var values = new double[bytes.Length / sizeof(double)];
        Buffer.BlockCopy(bytes, 0, values, 0, values.Length * sizeof(double));
        return values;
    }
}
