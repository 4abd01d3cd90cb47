using System.Collections;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Chiton.Core.Quantities;

/// <summary>An immutable list that is equal to another when its items are, so that records holding it compare by value.</summary>
/// <typeparam name="T">Item type; should itself compare by value.</typeparam>
[CollectionBuilder(typeof(Sequence), nameof(Sequence.Create))]
[JsonConverter(typeof(SequenceConverterFactory))]
public readonly struct Sequence<T> : IReadOnlyList<T>, IEquatable<Sequence<T>>
{
    private readonly T[]? items;

    /// <summary>Takes a copy of the items.</summary>
    public Sequence(IEnumerable<T> items) => this.items = items.ToArray();

    private T[] Items => items ?? [];

    /// <inheritdoc/>
    public T this[int index] => Items[index];

    /// <inheritdoc/>
    public int Count => Items.Length;

    /// <summary>The same list with the item at <paramref name="index"/> replaced.</summary>
    public Sequence<T> With(int index, T item)
    {
        var copy = (T[])Items.Clone();
        copy[index] = item;
        return new(copy);
    }

    /// <inheritdoc/>
    public bool Equals(Sequence<T> other) => Items.AsSpan().SequenceEqual(other.Items, EqualityComparer<T>.Default);

    /// <inheritdoc/>
    public override bool Equals(object? obj) => obj is Sequence<T> other && Equals(other);

    /// <inheritdoc/>
    public override int GetHashCode()
    {
        var hash = new HashCode();
        foreach (var item in Items)
            hash.Add(item);
        return hash.ToHashCode();
    }

    /// <inheritdoc/>
    public IEnumerator<T> GetEnumerator() => ((IEnumerable<T>)Items).GetEnumerator();

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    /// <summary>True when both lists hold equal items in the same order.</summary>
    public static bool operator ==(Sequence<T> a, Sequence<T> b) => a.Equals(b);

    /// <summary>True when the lists differ.</summary>
    public static bool operator !=(Sequence<T> a, Sequence<T> b) => !a.Equals(b);
}

/// <summary>Makes sequences.</summary>
public static class Sequence
{
    /// <summary>Builds a sequence from a span, for collection expressions.</summary>
    public static Sequence<T> Create<T>(ReadOnlySpan<T> items) => new(items.ToArray());

    /// <summary>Copies any list into a sequence.</summary>
    public static Sequence<T> ToSequence<T>(this IEnumerable<T> items) => new(items);
}

/// <summary>Reads and writes a sequence as a JSON array.</summary>
public sealed class SequenceConverterFactory : JsonConverterFactory
{
    /// <inheritdoc/>
    public override bool CanConvert(Type typeToConvert) =>
        typeToConvert.IsGenericType && typeToConvert.GetGenericTypeDefinition() == typeof(Sequence<>);

    /// <inheritdoc/>
    public override JsonConverter CreateConverter(Type typeToConvert, JsonSerializerOptions options) =>
        (JsonConverter)Activator.CreateInstance(typeof(Converter<>).MakeGenericType(typeToConvert.GetGenericArguments()))!;

    private sealed class Converter<T> : JsonConverter<Sequence<T>>
    {
        public override Sequence<T> Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
        {
            try
            {
                return new(JsonSerializer.Deserialize<T[]>(ref reader, options) ?? []);
            }
            catch (JsonException inner)
            {
                // Its path begins at this list; the serialiser gives the new one the path to here.
                throw new JsonException(inner.Message, inner);
            }
        }

        public override void Write(Utf8JsonWriter writer, Sequence<T> value, JsonSerializerOptions options) =>
            JsonSerializer.Serialize(writer, value.ToArray(), options);
    }
}
