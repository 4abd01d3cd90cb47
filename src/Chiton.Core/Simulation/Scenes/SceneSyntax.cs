using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>A number of a scene as typed.</summary>
/// <param name="Digits">Digits with their sign.</param>
/// <param name="Unit">Unit as typed; empty where the place's own is meant.</param>
public readonly record struct Figure(string Digits, string Unit)
{
    /// <summary>As typed.</summary>
    public override string ToString() => Unit == "" ? Digits : $"{Digits} {Unit}";

    /// <summary>Its value in base units of its dimension.</summary>
    /// <param name="own">The unit where none was typed.</param>
    public double In(string own)
    {
        var unit = Unit == "" ? own : Unit;
        return double.Parse(Digits, CultureInfo.InvariantCulture) * (Quantities.Unit.Find(unit)?.Factor ?? 1);
    }
}

/// <summary>A number of a scene with what it varies by.</summary>
/// <param name="Of">The number itself, or the lower end of what it lies between.</param>
/// <param name="GiveOrTake">SD from run to run; null for none.</param>
/// <param name="To">Upper end of a number that is drawn evenly; null otherwise.</param>
public sealed record SceneNumber(Figure Of, Figure? GiveOrTake = null, Figure? To = null)
{
    /// <summary>True when it is not the same in every run.</summary>
    public bool Varies => GiveOrTake is not null || To is not null;

    /// <summary>Where nothing varies, in base units: the number itself, or the middle of what it lies between.</summary>
    /// <param name="own">The unit where none was typed.</param>
    public double In(string own) => To is { } to ? (Of.In(own) + to.In(own)) / 2 : Of.In(own);

    /// <summary>As typed.</summary>
    public override string ToString() =>
        To is { } to ? $"between {Of} and {to}"
        : GiveOrTake is { } sd ? $"{Of} give or take {sd}"
        : Of.ToString();
}

/// <summary>A point of the plan: x to the right, y up, mm unless said.</summary>
/// <param name="X">To the right.</param>
/// <param name="Y">Up.</param>
/// <param name="GiveOrTake">SD of both; null for none.</param>
public sealed record ScenePoint(SceneNumber X, SceneNumber Y, Figure? GiveOrTake = null)
{
    /// <inheritdoc/>
    public override string ToString() => $"({X}, {Y})" + (GiveOrTake is { } sd ? $" give or take {sd}" : "");

    /// <summary>Both numbers, each with what it varies by.</summary>
    public (SceneNumber X, SceneNumber Y) Both =>
        (X.Varies ? X : X with { GiveOrTake = GiveOrTake }, Y.Varies ? Y : Y with { GiveOrTake = GiveOrTake });
}

/// <summary>One thing that goes to one place, as in “left bin to left bin”.</summary>
public sealed record ScenePair(string From, string To);

/// <summary>When a timed line happens.</summary>
public sealed record SceneWhen
{
    /// <summary><c>at 5 s</c>.</summary>
    public SceneNumber? At { get; init; }

    /// <summary><c>from 2 s</c>.</summary>
    public SceneNumber? From { get; init; }

    /// <summary><c>every 20 s</c>.</summary>
    public SceneNumber? Every { get; init; }

    /// <summary>The time in <c>2 s after CONDITION</c>.</summary>
    public SceneNumber? Later { get; init; }

    /// <summary>What it comes after.</summary>
    public ExprNode? After { get; init; }

    /// <summary><c>when CONDITION</c>.</summary>
    public ExprNode? When { get; init; }

    /// <summary><c>for 4 s</c>.</summary>
    public SceneNumber? For { get; init; }

    /// <summary>The time in <c>until 5 s after CONDITION</c>.</summary>
    public SceneNumber? UntilLater { get; init; }

    /// <summary><c>until CONDITION</c>.</summary>
    public ExprNode? Until { get; init; }

    /// <summary><c>each time</c>.</summary>
    public bool EachTime { get; init; }

    /// <summary>True for a line whose numbers were measured; else they are chosen.</summary>
    public bool Measured { get; init; }

    /// <summary>The count in <c>in 30 of 100 runs</c>; null where it happens in every run.</summary>
    public Figure? In { get; init; }

    /// <summary>Of how many runs.</summary>
    public Figure? Of { get; init; }

    /// <summary>True when it says when it begins.</summary>
    public bool Starts => At is not null || From is not null || Every is not null || After is not null || When is not null;
}

/// <summary>A line of a scene.</summary>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Key">What it says; empty for a line that could not be read.</param>
/// <param name="Values">Its names and numbers: texts, numbers, points, lists of them, conditions, rules.</param>
/// <param name="Options">Which of its optional parts stand there, by their place in the sentence.</param>
/// <param name="When">When it happens.</param>
public sealed record SceneLine(
    Sequence<string> Comments,
    string Key,
    IReadOnlyDictionary<string, object> Values,
    IReadOnlySet<int> Options,
    SceneWhen When
)
{
    /// <summary>Where its numbers come from: chosen unless it is marked measured.</summary>
    public Provenance Kind => When.Measured ? Provenance.Measured : Provenance.Chosen;

    /// <summary>Line in the text, from 1.</summary>
    public int Line { get; init; }

    /// <summary>The line as typed, where it could not be read.</summary>
    public string? Raw { get; init; }

    /// <summary>True for a line that is left out in the run that was drawn: it stands in some runs only.</summary>
    public bool Away { get; init; }

    /// <summary>A name or word; null where it is not there.</summary>
    public string? Name(string slot) => Values.GetValueOrDefault(slot) as string;

    /// <summary>A number; null where it is not there.</summary>
    public SceneNumber? Number(string slot) => Values.GetValueOrDefault(slot) as SceneNumber;

    /// <summary>A number's value in base units, without what it varies by; null where it is not there.</summary>
    public double? Value(string slot) => Number(slot) is { } n && SceneForms.Of(Key) is { } form ? n.In(form.UnitOf(slot)) : null;

    /// <summary>A point in mm; null where it is not there.</summary>
    public (double X, double Y)? Point(string slot) => Values.GetValueOrDefault(slot) is ScenePoint p ? (p.X.In("mm"), p.Y.In("mm")) : null;

    /// <summary>A row of points in mm.</summary>
    public IReadOnlyList<(double X, double Y)> Points(string slot) =>
        Values.GetValueOrDefault(slot) is IReadOnlyList<ScenePoint> list ? [.. list.Select(p => (p.X.In("mm"), p.Y.In("mm")))] : [];

    /// <summary>True when an optional part stands there, by the words it begins with.</summary>
    public bool Has(string words) => SceneForms.Of(Key)?.Option(words) is >= 0 and var at && Options.Contains(at);
}

/// <summary>A scene: where a rig is tried, what lies there, and what happens meanwhile.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Lines">Its lines after the first.</param>
/// <param name="Comments">Comment lines above it.</param>
/// <param name="Trailing">Comment lines after everything else.</param>
public sealed record SceneNode(string Name, IReadOnlyList<SceneLine> Lines, Sequence<string> Comments, Sequence<string> Trailing)
{
    /// <summary>Lines that say one thing.</summary>
    public IEnumerable<SceneLine> All(string key) => Lines.Where(l => l.Key == key);

    /// <summary>The first line that says one thing, or null.</summary>
    public SceneLine? First(string key) => Lines.FirstOrDefault(l => l.Key == key);

    /// <summary>How long it lasts, s.</summary>
    public double EndsS => First("ends")?.Value("t") ?? 60;

    /// <summary>True when it says that it counts.</summary>
    public bool Counts => First("counts") is not null;
}

/// <summary>A scene as read.</summary>
/// <param name="Scene">What it says; lines that could not be read stay as typed.</param>
/// <param name="Diagnostics">Faults, by line.</param>
public sealed record SceneResult(SceneNode Scene, IReadOnlyList<Diagnostic> Diagnostics);
