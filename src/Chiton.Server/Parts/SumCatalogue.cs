using System.Text.Json;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>How the text of a blank is read when it holds several rows.</summary>
/// <param name="Cells">Fields of a row's cells, in order.</param>
/// <param name="Words">Cells that hold words.</param>
/// <param name="Nested">Field under which rows of one name are gathered; null when rows stand by themselves.</param>
/// <param name="By">Field of that name, or the way rows are read; null for plain rows.</param>
public sealed record BlankRows(IReadOnlyList<string> Cells, IReadOnlyList<string>? Words = null, string? Nested = null, string? By = null);

/// <summary>A blank of a sum: what is typed into it.</summary>
/// <param name="Field">Field of the sum's input.</param>
/// <param name="Label">What it is called.</param>
/// <param name="Start">What stands there at first: a worked example.</param>
/// <param name="Unit">Its unit; null or empty for none.</param>
/// <param name="Choices">What can be chosen; null when it is typed.</param>
/// <param name="List">True for several numbers, parted by blanks or semicolons.</param>
/// <param name="Rows">How rows are read; null for one value.</param>
/// <param name="Optional">True when it may be left empty.</param>
public sealed record SumBlank(
    string Field,
    string Label,
    string Start,
    string? Unit = null,
    IReadOnlyList<string>? Choices = null,
    bool? List = null,
    BlankRows? Rows = null,
    bool? Optional = null
);

/// <summary>A sum as a sentence with blanks, and what people ask when they need it.</summary>
/// <param name="Name">Its name in addresses.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Part">The part of the work it belongs to.</param>
/// <param name="Asks">What people ask, in their words.</param>
/// <param name="Sentence">The sentence; a field in braces is a blank.</param>
/// <param name="Blanks">Its blanks.</param>
public sealed record SumView(
    string Name,
    string Title,
    string Part,
    IReadOnlyList<string> Asks,
    string Sentence,
    IReadOnlyList<SumBlank> Blanks
);

/// <summary>What a result is called.</summary>
/// <param name="Label">The words.</param>
/// <param name="Unit">Its unit; null for none.</param>
/// <param name="Main">True for those that stand in short tables.</param>
public sealed record ResultLabel(string Label, string? Unit = null, bool Main = false);

/// <summary>Every sum, and what its results are called.</summary>
/// <param name="Sums">The sums.</param>
/// <param name="Results">Names of results by field.</param>
public sealed record SumCatalogue(IReadOnlyList<SumView> Sums, IReadOnlyDictionary<string, ResultLabel> Results)
{
    private static readonly Lazy<SumCatalogue> Read = new(() =>
    {
        using var stream = typeof(SumCatalogue).Assembly.GetManifestResourceStream("sums.json")!;
        return JsonSerializer.Deserialize<SumCatalogue>(stream, Documents.Options)!;
    });

    /// <summary>The catalogue as it ships, with a name for every field that a sum may answer.</summary>
    /// <param name="answers">Types of the results of sums.</param>
    public static SumCatalogue Of(IEnumerable<Type> answers)
    {
        var results = Read.Value.Results.ToDictionary(r => r.Key, r => r.Value with { Main = true });
        var seen = new HashSet<Type>();
        var open = new Stack<Type>(answers);
        while (open.TryPop(out var type))
        {
            if (!seen.Add(type))
                continue;
            foreach (var property in type.GetProperties())
            {
                if (property.GetIndexParameters().Length > 0 || property.Name == "EqualityContract")
                    continue;
                var name = JsonNamingPolicy.CamelCase.ConvertName(property.Name);
                results.TryAdd(name, Spelled(name));
                foreach (var part in Parts(property.PropertyType))
                    open.Push(part);
            }
        }
        return new(Read.Value.Sums, results);
    }

    private static IEnumerable<Type> Parts(Type type)
    {
        if (type.Namespace?.StartsWith("Chiton", StringComparison.Ordinal) == true && !type.IsEnum)
            yield return type;
        foreach (var argument in type.GenericTypeArguments)
        foreach (var part in Parts(argument))
            yield return part;
        if (type.GetElementType() is { } element)
            foreach (var part in Parts(element))
                yield return part;
    }

    // Ends of names, and the unit that each of them says; the longer ones first.
    private static readonly (string End, string Unit)[] Units =
    [
        ("MmPerS2", "mm/s²"),
        ("MmPerS", "mm/s"),
        ("DegPerS", "deg/s"),
        ("MNm", "mN·m"),
        ("Percent", "%"),
        ("MotorDeg", "motor deg"),
        ("WheelDeg", "wheel deg"),
        ("Deg", "°"),
        ("Mm", "mm"),
        ("Ms", "ms"),
        ("MA", "mA"),
        ("S", "s"),
        ("V", "V"),
    ];

    // A name in the words it is made of: "restLowMm" is "rest low" in mm.
    private static ResultLabel Spelled(string name)
    {
        var (end, unit) = Units.FirstOrDefault(u => name.Length > u.End.Length && name.EndsWith(u.End, StringComparison.Ordinal));
        var bare = end is null ? name : name[..^end.Length];
        if (end is "MotorDeg" or "WheelDeg")
            bare = name[..^"Deg".Length];
        return new(string.Concat(bare.Select(c => char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{c}")).Trim(), unit);
    }
}
