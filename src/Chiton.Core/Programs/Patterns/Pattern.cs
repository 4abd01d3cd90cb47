using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Patterns;

/// <summary>What fills a hole of a pattern.</summary>
public enum HoleKind
{
    /// <summary>A sensor with zones that is no switch.</summary>
    Eye,

    /// <summary>A sensor whose zones are distances.</summary>
    Range,

    /// <summary>A button or switch.</summary>
    Button,

    /// <summary>A zone of the sensor in another hole.</summary>
    Zone,

    /// <summary>Readings in a row that the zones of the sensor in another hole need.</summary>
    Readings,

    /// <summary>A motor that runs on, or the mechanism it moves.</summary>
    Motor,

    /// <summary>A two-wheel drive.</summary>
    Drive,

    /// <summary>A mechanism with named positions.</summary>
    Mover,

    /// <summary>A named position of the mechanism in another hole.</summary>
    Position,

    /// <summary>A named direction of the motor in another hole.</summary>
    Direction,

    /// <summary>A lamp.</summary>
    Lamp,

    /// <summary>Another program of the rig.</summary>
    Program,

    /// <summary>A number with a unit.</summary>
    Number,

    /// <summary>A word or two to show.</summary>
    Text,

    /// <summary>Numbers with one unit, as many as are wanted, separated by commas.</summary>
    Numbers,

    /// <summary>Any sensor with zones, buttons and switches too.</summary>
    Any,

    /// <summary>Anything that can do something: a lamp, a sounder, a motor, a drive, a mechanism with positions.</summary>
    Doer,

    /// <summary>An actuator or mechanism like the one a kept routine used.</summary>
    Like,
}

/// <summary>A hole of a pattern.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Label">What is asked for, in words.</param>
/// <param name="Kind">What fills it.</param>
public sealed record Hole(string Id, string Label, HoleKind Kind)
{
    /// <summary>The hole whose sensor, mechanism or motor it belongs to; null when to none.</summary>
    public string? Of { get; init; }

    /// <summary>Of a number or text what stands there to begin with; of a name words that are looked for first, separated by |.</summary>
    public string Default { get; init; } = "";

    /// <summary>Unit of a number.</summary>
    public string Unit { get; init; } = "";

    /// <summary>What it must be like: <c>actuator KIND</c>, or <c>mechanism KIND</c> of its motor; empty for other kinds.</summary>
    public string Like { get; init; } = "";

    /// <summary>Which of the fitting names is taken when no word decides: 0 the first, 1 the second, −1 the last.</summary>
    public int Pick { get; init; }

    /// <summary>Least and greatest of a number.</summary>
    public double Min { get; init; }

    /// <summary>Greatest value of a number.</summary>
    public double Max { get; init; } = 1e6;

    /// <summary>The schools under which it is asked, as “choice=school”, several joined by &amp;; null when always.</summary>
    public string? Only { get; init; }

    /// <summary>True for a power that a motor of the pattern is run at: less than moves it is no use.</summary>
    public bool IsPower { get; init; }

    /// <summary>Another hole that must be filled with something else; null when any may be.</summary>
    public string? Not { get; init; }
}

/// <summary>A way of doing it that some prefer.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Label">What it is.</param>
/// <param name="Why">When it is better.</param>
public sealed record PatternSchool(string Id, string Label, string Why);

/// <summary>A place where there is more than one good way.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Question">What is to be chosen.</param>
/// <param name="Why">Why the first is the default.</param>
/// <param name="Schools">The ways, the default first.</param>
public sealed record PatternChoice(string Id, string Question, string Why, params PatternSchool[] Schools);

/// <summary>A machine fragment with holes.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Number">Its number in the library.</param>
/// <param name="Name">What it does.</param>
/// <param name="When">When to use it, in a sentence.</param>
/// <param name="Trap">What goes wrong with it, in a sentence.</param>
/// <param name="Region">What its first region is called.</param>
/// <param name="Holes">What is filled in.</param>
/// <param name="Choices">Where schools differ.</param>
/// <param name="Write">Writes its head and region.</param>
public sealed record Pattern(
    string Id,
    int Number,
    string Name,
    string When,
    string Trap,
    string Region,
    Hole[] Holes,
    PatternChoice[] Choices,
    Func<PatternFill, PatternText> Write
);

/// <summary>What a pattern came to: lines of the head and its regions.</summary>
/// <param name="Head">Lines such as <c>var beds = 0</c>; may be empty.</param>
/// <param name="Body">Region lines.</param>
public sealed record PatternText(string Head, string Body);

/// <summary>Values for the holes of a pattern, and names that are still free.</summary>
/// <param name="values">What fills the holes.</param>
/// <param name="schools">The school of each choice.</param>
/// <param name="taken">Names that are used already.</param>
/// <param name="known">Names that mean something that is there already, such as the region it is put into.</param>
public sealed class PatternFill(
    IReadOnlyDictionary<string, string> values,
    IReadOnlyDictionary<string, string> schools,
    ISet<string> taken,
    IReadOnlyDictionary<string, string> known
)
{
    private readonly Dictionary<string, string> given = new(known);

    /// <summary>What fills a hole; empty for one that the chosen school does not ask for.</summary>
    public string this[string hole] => values.GetValueOrDefault(hole, "");

    /// <summary>True when that school was chosen.</summary>
    public bool Is(string choice, string school) => schools[choice] == school;

    /// <summary>One of two texts, by the school.</summary>
    public string If(string choice, string school, string then, string otherwise = "") => Is(choice, school) ? then : otherwise;

    /// <summary>A name for a variable, region or state that nothing else has: the same one each time it is asked for.</summary>
    public string N(string name)
    {
        if (given.TryGetValue(name, out var before))
            return before;
        var free = name;
        for (var i = 2; !taken.Add(free); i++)
            free = $"{name} {i}";
        return given[name] = free;
    }

    /// <summary>“ for 3 readings”, or nothing for one.</summary>
    public string For(string hole) => values[hole].Trim() is "1" or "" ? "" : $" for {values[hole].Trim()} readings";
}
